package effect

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/dsp"
)

const rate = 48000

// all are the processors of this package, each as it is used.
func all() map[string]func() Processor {
	out := map[string]func() Processor{
		"fader":    func() Processor { f := NewFader(-3, 0.4, rate); return &f },
		"low cut":  func() Processor { f := NewLowCut(120, rate); return &f },
		"high cut": func() Processor { f := NewHighCut(900, rate); return &f },
		"limiter":  func() Processor { l := NewLimiter(rate); return &l },
	}
	for _, k := range Kinds() {
		out[k.ID] = func() Processor { return made(k.ID, busy[k.ID]) }
	}
	return out
}

// busy are numbers with which an effect does more than by default.
var busy = map[string]map[string]float64{
	"drive":      {"amount_percent": 60, "curve": 2, "mix_percent": 80},
	"filter":     {"slope": 1, "resonance_percent": 40, "drive_percent": 20},
	"eq":         {"band1.gain_db": 6, "band3.gain_db": -9, "band3.q": 4},
	"compressor": {"detector": 1, "up_ratio": 2},
	"crush":      {"rate_hz": 48000, "bits": 8},
	"reverb":     {"decay_ms": 200, "predelay_ms": 5, "mix_percent": 50},
	"width":      {"delay_ms": 4, "side_percent": 150, "mono_below_hz": 200},
	"transient":  {"sustain_db": -6},
}

// made is a chain of one effect.
func made(kind string, values map[string]float64) *Chain {
	c, _ := NewChain([]Effect{New("one", KindOf(kind), values)}, rate)
	return c
}

func noise(n int, gain float64) Block {
	b := Block{make([]float64, n), make([]float64, n)}
	l, r := dsp.NewNoise(1), dsp.NewNoise(2)
	l.Run(b.Left)
	r.Run(b.Right)
	for i := range b.Left {
		b.Left[i] *= gain
		b.Right[i] *= gain
	}
	return b
}

func same(a, b Block) bool { return slices.Equal(a.Left, b.Left) && slices.Equal(a.Right, b.Right) }

func run(p Processor, b Block, sizes ...int) {
	for at, k := 0, 0; at < b.Frames(); k++ {
		to := min(at+sizes[k%len(sizes)], b.Frames())
		p.Process(b.Part(at, to), nil)
		at = to
	}
}

// What every processor promises.
func TestTheContract(t *testing.T) {
	for name, build := range all() {
		whole, parts, again := noise(6000, 2), noise(6000, 2), noise(6000, 2)
		p := build()
		run(p, whole, MaxBlock)
		run(build(), parts, 64, 1, 300, 17)
		require.True(t, same(whole, parts), "%s: how a sound is cut into blocks does not change it", name)
		p.Reset()
		run(p, again, MaxBlock)
		require.True(t, same(whole, again), "%s: reset is a fresh start", name)

		// The sound comes out as late as it is reported, and is over when it is reported.
		pulse := Block{make([]float64, 90000), make([]float64, 90000)}
		pulse.Left[100], pulse.Right[100] = 0.5, 0.5
		p = build()
		run(p, pulse, MaxBlock)
		first, last := -1, -1
		for i := range pulse.Left {
			if loud := math.Max(math.Abs(pulse.Left[i]), math.Abs(pulse.Right[i])); loud > 0.5e-6 {
				last = i
				if loud > 0.5e-3 && first < 0 {
					first = i
				}
			}
		}
		noisy := name == "bed" || name == "worn" // they make sound of silence
		if !noisy {
			// Filters of linear phase begin some samples before.
			assert.InDelta(t, 100+p.Latency(), first, 20, "%s: latency", name)
		}
		assert.True(t, noisy || last <= 100+p.Latency()+p.Tail(), "%s: tail", name)
		if _, step := p.(*Chain); !step || name == "limit" {
			assert.LessOrEqual(t, p.Tail(), 2*(last-100-p.Latency())+700, "%s: the tail is not much longer than what is heard", name)
		}

		b := noise(MaxBlock, 1)
		assert.Zero(t, testing.AllocsPerRun(100, func() { p.Process(b, nil) }), "%s allocates", name)
		p.Reset()
		still := Block{make([]float64, MaxBlock), make([]float64, MaxBlock)}
		p.Process(still, nil)
		assert.True(t, noisy || same(Block{make([]float64, MaxBlock), make([]float64, MaxBlock)}, still), "%s: silence in, silence out", name)
	}
}

func TestAnEffectSleepsAfterItsTail(t *testing.T) {
	f := NewLowCut(100, rate)
	s := Runner{Processor: &f}
	require.False(t, s.Run(noise(MaxBlock, 1), nil, false))
	blocks := 0
	for !s.Run(Block{make([]float64, MaxBlock), make([]float64, MaxBlock)}, nil, true) {
		blocks++
	}
	assert.InDelta(t, float64(f.Tail())/MaxBlock, float64(blocks), 1)
	woken, fresh := noise(MaxBlock, 1), noise(MaxBlock, 1)
	require.False(t, s.Run(woken, nil, false))
	g := NewLowCut(100, rate)
	g.Process(fresh, nil)
	assert.Equal(t, fresh, woken, "it wakes from rest")
}

// Derivation: equal power. The sum of squares of both gains is 2 everywhere.
func TestPan(t *testing.T) {
	for pan := -1.0; pan <= 1; pan += 0.25 {
		g := Panned(0, pan)
		assert.InDelta(t, 2, g[0]*g[0]+g[1]*g[1], 1e-12)
	}
	assert.Equal(t, [2]float64{1, 1}, Panned(0, 0))
	assert.InDelta(t, 0, Panned(0, -1)[1], 1e-12)
	assert.InDelta(t, 0.5012, Panned(-6, 0)[0], 1e-4)
}

func TestFaderGlides(t *testing.T) {
	f := NewFader(0, 0, rate)
	f.Follow(NewFader(-20, 0, rate))
	b := Block{make([]float64, 480), make([]float64, 480)}
	for i := range b.Left {
		b.Left[i], b.Right[i] = 1, 1
	}
	run(&f, b, 100)
	for i := 1; i < 480; i++ {
		step := b.Left[i-1] - b.Left[i]
		require.GreaterOrEqual(t, step, -1e-12)
		require.Less(t, step, 0.9/240*1.01, "no step can be heard")
	}
	assert.InDelta(t, 0.1, b.Left[240], 1e-15, "5 ms later it is there")
	muted := NewFader(0, 0, rate).Muted()
	muted.Process(b, nil)
	assert.Equal(t, make([]float64, 480), b.Left)
}

// Published: a Butterworth pair is 3.01 dB down at its corner and 12 dB an octave
// beyond (Audio EQ Cookbook, W3C Note 2021).
func TestCuts(t *testing.T) {
	level := func(p Processor, hz float64) float64 {
		b := Block{make([]float64, rate), make([]float64, rate)}
		for i := range b.Left {
			b.Left[i] = math.Sin(2 * math.Pi * hz * float64(i) / rate)
		}
		run(p, b, MaxBlock)
		var sum float64
		for _, v := range b.Left[rate/2:] {
			sum += v * v
		}
		return 10 * math.Log10(2*sum/(rate/2))
	}
	low, high := NewLowCut(200, rate), NewHighCut(200, rate)
	assert.InDelta(t, -3.01, level(&low, 200), 0.02)
	assert.InDelta(t, -24.1, level(&low, 50), 0.1)
	assert.InDelta(t, 0, level(&low, 3200), 0.02)
	assert.InDelta(t, -3.01, level(&high, 200), 0.02)
	assert.InDelta(t, -24.1, level(&high, 800), 0.1)
}

// Nothing leaves the limiter beyond full scale, and nothing that stays below is
// changed.
func TestLimiter(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := NewLimiter(rate)
		b := Block{make([]float64, 2000), make([]float64, 2000)}
		for range rapid.IntRange(0, 60).Draw(t, "peaks") {
			at := rapid.IntRange(0, 1999).Draw(t, "at")
			x := rapid.OneOf(rapid.Float64(), rapid.Float64Range(-30, 30), rapid.SampledFrom([]float64{math.NaN(), math.Inf(1), math.Inf(-1)})).Draw(t, "x")
			for i := at; i < min(at+rapid.IntRange(1, 50).Draw(t, "long"), 2000); i++ {
				b.Left[i] = x
			}
		}
		run(&l, b, rapid.IntRange(1, MaxBlock).Draw(t, "block"))
		for i := range b.Left {
			require.LessOrEqual(t, math.Abs(b.Left[i]), 1.0, "frame %d", i)
			require.LessOrEqual(t, math.Abs(b.Right[i]), 1.0)
		}
	})
	l := NewLimiter(rate)
	quiet := noise(5000, 0.99)
	was := noise(5000, 0.99)
	run(&l, quiet, 256)
	assert.Equal(t, was.Left[:5000-l.Latency()], quiet.Left[l.Latency():], "to the bit")
	assert.False(t, l.Holding())
	loud := noise(rate, 3)
	run(&l, loud, 256)
	assert.True(t, l.Holding())
	var kept, most float64
	for _, v := range loud.Left[rate/2:] {
		kept += v * v
		most = math.Max(most, math.Abs(v))
	}
	assert.Greater(t, most, 0.9, "it takes no more than it must")
	assert.Greater(t, math.Sqrt(kept/(rate/2)), 0.3)
	after := noise(2*rate, 0.5)
	run(&l, after, 256)
	assert.False(t, l.Holding(), "it lets go")
	assert.InDelta(t, noise(2*rate, 0.5).Left[rate], after.Left[rate+l.Latency()], 1e-3)
}

func BenchmarkProcessors(b *testing.B) {
	for name, build := range all() {
		b.Run(name, func(b *testing.B) {
			p, in, x := build(), noise(256, 1), noise(256, 1)
			for b.Loop() {
				copy(x.Left, in.Left) // else it fades away into the smallest numbers, which are slow
				copy(x.Right, in.Right)
				p.Process(x, nil)
			}
			b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/256, "ns/frame")
		})
	}
}
