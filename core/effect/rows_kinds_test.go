package effect

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// rackOf is one effect of a kind in a rack.
func rackOf(kind string, values map[string]float64) *Rack {
	return NewRack([]Effect{New("one", KindOf(kind), values)}, rate, Context{})
}

// through runs a block through a rack, in time with a song of 120 BPM.
func through(r *Rack, b Block) Block {
	for at := 0; at < b.Frames(); at += 256 {
		to := min(at+256, b.Frames())
		r.Run(b.Part(at, to), nil, Clock{Beat: float64(at) * 2 / rate, PerFrame: 2.0 / rate}, false)
	}
	return b
}

func peakOf(x []float64) (m float64) {
	for _, v := range x {
		m = math.Max(m, math.Abs(v))
	}
	return m
}

// amount is the amplitude of a tone within a sound.
func amount(x []float64, hz float64) float64 {
	var re, im float64
	for i, v := range x {
		w := 1 - math.Cos(2*math.Pi*float64(i)/float64(len(x)))
		sin, cos := math.Sincos(2 * math.Pi * hz * float64(i) / rate)
		re, im = re+v*w*cos, im+v*w*sin
	}
	return 2 * math.Hypot(re, im) / float64(len(x))
}

// Published: Butterworth 1930 (Wireless Engineer 7): a cut of order n leaves
// 1/√(1+(fc/f)^2n). By the bilinear transform f is tan(πf/rate).
func TestCutsAreButterworths(t *testing.T) {
	for order := 1; order <= 8; order++ {
		for _, low := range []bool{true, false} {
			shape := float64(bandHighCut)
			if low {
				shape = bandLowCut
			}
			v := map[string]float64{"band1.shape": shape, "band1.hz": 1000, "band1.slope": float64(order - 1), "band1.q": 0.71}
			for i := 2; i <= 8; i++ {
				v[fmt.Sprintf("band%d.shape", i)] = bandOff
			}
			r := rackOf("equalizer", v)
			e := r.slots[0].of.(*Equalizer8)
			for _, hz := range []float64{250, 500, 1000, 2000, 4000} {
				ratio := math.Tan(math.Pi*1000/rate) / math.Tan(math.Pi*hz/rate)
				if !low {
					ratio = 1 / ratio
				}
				want := -10 * math.Log10(1+math.Pow(ratio, 2*float64(order)))
				assert.InDelta(t, want, e.Magnitude(hz), 0.06, "order %d, low %t, %g Hz", order, low, hz)
			}
		}
	}
}

func flat8(more map[string]float64) map[string]float64 {
	v := map[string]float64{}
	for i := 1; i <= 8; i++ {
		v[fmt.Sprintf("band%d.shape", i)] = bandOff
	}
	for k, x := range more {
		v[k] = x
	}
	return v
}

func TestABandWaitsForItsLevel(t *testing.T) {
	v := flat8(map[string]float64{"band1.shape": bandBell, "band1.hz": 1000, "band1.gain_db": -12, "band1.q": 1, "band1.above_db": -20})
	soft := through(rackOf("equalizer", v), sine(1000, 0.02, rate))
	loud := through(rackOf("equalizer", v), sine(1000, 0.8, rate))
	assert.InDelta(t, 0.02, peakOf(soft.Left[rate/2:]), 0.0005, "below its level nothing is cut")
	assert.InDelta(t, 0.8*gainOf(-12), peakOf(loud.Left[rate/2:]), 0.02, "above it all of it")
}

func TestABandActsOnTheSidesAlone(t *testing.T) {
	v := flat8(map[string]float64{"band1.shape": bandBell, "band1.hz": 1000, "band1.gain_db": 12, "band1.side": 2})
	both := through(rackOf("equalizer", v), sine(1000, 0.2, rate))
	assert.InDelta(t, 0.2, peakOf(both.Left[rate/2:]), 1e-6, "what is in the middle stays")
	apart := sine(1000, 0.2, rate)
	for i := range apart.Right {
		apart.Right[i] = -apart.Left[i]
	}
	through(rackOf("equalizer", v), apart)
	assert.InDelta(t, 0.2*gainOf(12), peakOf(apart.Left[rate/2:]), 0.002)
}

// Asked: the true-peak limiter is never over its ceiling by 0.1 dB on hostile signals,
// measured 32 times finer than the samples by a windowed sinc of 128.
func TestTruePeaksStayBelowTheCeiling(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	signals := map[string]func(i int) float64{
		"quarter of the rate, between samples": func(i int) float64 { return 0.999 * math.Sin(math.Pi*float64(i)/2+math.Pi/4) },
		"noise":                                func(int) float64 { return r.Float64()*4 - 2 },
		"clicks":                               func(i int) float64 { return map[bool]float64{true: 3, false: 0}[i%1501 < 2] },
		"square":                               func(i int) float64 { return math.Copysign(1.5, math.Sin(2*math.Pi*1733*float64(i)/rate)) },
		"sweep":                                func(i int) float64 { return 1.8 * math.Sin(math.Pi*float64(i)*float64(i)/rate/8) },
		"bursts":                               func(i int) float64 { return 1.9 * math.Sin(2*math.Pi*11025*float64(i)/rate) * float64(i/700%2) },
	}
	for name, f := range signals {
		b := Block{make([]float64, 3000), make([]float64, 3000)}
		for i := range b.Left {
			b.Left[i] = f(i)
			b.Right[i] = -b.Left[i]
		}
		through(rackOf("ceiling", map[string]float64{"ceiling_db": -1, "gain_db": 6}), b)
		worst := 0.0
		for i := 64; i < 2900; i++ {
			if math.Abs(b.Left[i]) < 0.3 && math.Abs(b.Left[i+1]) < 0.3 {
				continue
			}
			for k := range 32 {
				worst = math.Max(worst, math.Abs(between(b.Left, i, float64(k)/32)))
			}
		}
		assert.LessOrEqual(t, 20*math.Log10(worst), -0.9, name)
		assert.Greater(t, 20*math.Log10(worst), -2.5, "%s: and no lower than it must", name)
	}
}

// between is the curve through samples at a place between two.
func between(x []float64, i int, part float64) (y float64) {
	for k := -63; k <= 64; k++ {
		if i+k < 0 || i+k >= len(x) {
			continue
		}
		d := float64(k) - part
		sinc := 1.0
		if d != 0 {
			sinc = math.Sin(math.Pi*d) / (math.Pi * d)
		}
		w := math.Cos(math.Pi * d / 130)
		y += x[i+k] * sinc * w * w
	}
	return y
}

func TestAGateLooksAheadAndDetectsInItsBand(t *testing.T) {
	b := Block{make([]float64, rate), make([]float64, rate)}
	for i := 4800; i < rate; i++ {
		b.Left[i] = 0.5 * math.Sin(2*math.Pi*2000*float64(i)/rate)
		b.Right[i] = b.Left[i]
	}
	through(rackOf("gate", map[string]float64{"attack_ms": 4, "ahead_ms": 5, "threshold_db": -30}), b)
	assert.InDelta(t, 0.5, peakOf(b.Left[4800+240:4800+240+48]), 0.02, "it is open before the sound comes")
	deaf := through(rackOf("gate", map[string]float64{"threshold_db": -30, "key_high_hz": 200}), sine(2000, 0.5, rate))
	assert.Less(t, peakOf(deaf.Left[rate/2:]), 1e-3, "what it does not listen to does not open it")
	low := through(rackOf("gate", map[string]float64{"way": 1, "threshold_db": -20, "ratio": 3, "attack_ms": 1, "release_ms": 5}), sine(500, 0.03, rate))
	// By the ratio: 10.5 dB below the threshold become 31.4.
	assert.InDelta(t, -20-3*10.46, 20*math.Log10(peakOf(low.Left[rate/2:])), 1, "an expander")
}

// Derivation: half of the frequency; 60 dB in the decay.
func TestALowOctave(t *testing.T) {
	b := sine(100, 0.5, 2*rate)
	through(rackOf("octave", map[string]float64{"amount_percent": 100, "dry_percent": 0}), b)
	x := b.Left[rate/2:]
	assert.Greater(t, amount(x, 50), 0.2)
	assert.Less(t, amount(x, 100), 0.02)
	assert.Less(t, amount(x, 150), 0.02)
}

func TestTremoloAndDelayFollowTheSong(t *testing.T) {
	// A level that falls and rises twice a beat: at 120 BPM four times a second.
	b := Block{make([]float64, 2*rate), make([]float64, 2*rate)}
	for i := range b.Left {
		b.Left[i], b.Right[i] = 1, 1
	}
	through(rackOf("tremolo", map[string]float64{"beats": 0.5, "depth_percent": 100}), b)
	assert.InDelta(t, 0.5, amount(b.Left, 4), 0.01)
	for i := range b.Left {
		b.Left[i], b.Right[i] = 1, 1
	}
	through(rackOf("tremolo", map[string]float64{"acts": 1, "beats": 1, "depth_percent": 80}), b)
	for i := 4800; i < rate; i++ {
		require.InDelta(t, 2, b.Left[i]*b.Left[i]+b.Right[i]*b.Right[i], 0.02, "constant power")
	}
	// Three quarters of a beat at 120 BPM are 375 ms; each round is the feedback softer.
	click := Block{make([]float64, 2*rate), make([]float64, 2*rate)}
	click.Left[0], click.Right[0] = 1, 1
	through(rackOf("echo", map[string]float64{"mix_percent": 100, "feedback_percent": 50, "low_cut_hz": 20, "high_cut_hz": 20000}), click)
	first, second := peakOf(click.Left[17900:18100]), peakOf(click.Left[35900:36100])
	assert.Greater(t, first, 0.5)
	assert.InDelta(t, 0.5, second/first, 0.07)
	assert.Less(t, peakOf(click.Left[100:17000]), 1e-3)
}

func TestTapeBumpsAndWavers(t *testing.T) {
	level := func(hz float64) float64 {
		b := sine(hz, 0.01, rate)
		through(rackOf("tape", map[string]float64{"bump_db": 6, "bump_hz": 80, "wow_weighted_percent": 0, "flutter_weighted_percent": 0, "amount_percent": 22}), b)
		return 20 * math.Log10(peakOf(b.Left[rate/2:]))
	}
	assert.InDelta(t, 6, level(80)-level(1000), 0.4)
	b := sine(1000, 0.2, 2*rate)
	through(rackOf("tape", map[string]float64{"bump_db": 0, "wow_weighted_percent": 0.25, "flutter_weighted_percent": 0}), b)
	assert.Less(t, amount(b.Left, 1000), 0.15, "the tone is not steady")
}

// A copy and the sound itself add up as the numbers say; the sound waits for the copy.
func TestParallelAddsACopy(t *testing.T) {
	s := New("p", KindOf("parallel"), map[string]float64{"amount_percent": 50})
	s.Paths[0] = []Effect{New("c", KindOf("compressor"), map[string]float64{"ratio": 1, "ahead_ms": 10})}
	b := noise(6000, 0.3)
	want := noise(6000, 0.3)
	through(NewRack([]Effect{s}, rate, Context{}), b)
	for i := 480; i < 6000; i++ {
		require.InDelta(t, 1.5*want.Left[i-480], b.Left[i], 1e-9)
	}
}

// Asked: denormals, NaN, DC, +40 dB: nothing blows up, and no effect remembers it for good.
func TestHostileSounds(t *testing.T) {
	for _, k := range Kinds() {
		r := rackOf(k.ID, nil)
		for name, v := range map[string]float64{"tiny": 1e-310, "DC": 1, "+40 dB": 100} {
			b := Block{make([]float64, 4096), make([]float64, 4096)}
			for i := range b.Left {
				b.Left[i], b.Right[i] = v, v
			}
			through(r, b)
			for _, x := range b.Left {
				require.False(t, math.IsNaN(x) || math.Abs(x) > 1e6, "%s, %s", k.ID, name)
			}
		}
		after := through(r, Block{make([]float64, 4*rate), make([]float64, 4*rate)})
		assert.Less(t, peakOf(after.Left[7*rate/2:]), 0.5, "%s: it is over", k.ID)
	}
}

// Published: Jot & Chaigne 1991: the lows fall in a decay of their own; a gate ends what comes back after its hold, and a duck holds it down.
func TestSpacesOfAReverb(t *testing.T) {
	tail := func(values map[string]float64, hz float64) Block {
		b := Block{make([]float64, 3*rate), make([]float64, 3*rate)}
		copy(b.Left, sine(hz, 0.5, 4800).Left)
		copy(b.Right, b.Left)
		v := map[string]float64{"mix_percent": 100, "decay_ms": 1000, "damping_hz": 20000, "low_cut_hz": 20, "high_cut_hz": 20000}
		for k, x := range values {
			v[k] = x
		}
		return through(rackOf("reverb", v), b)
	}
	long := tail(map[string]float64{"low_decay_percent": 180}, 70)
	plain := tail(nil, 70)
	assert.Greater(t, decay(long.Left[9600:2*rate])/decay(plain.Left[9600:2*rate]), 1.4, "lows of their own")
	gated := tail(map[string]float64{"gate_ms": 300, "gate_release_ms": 50}, 900)
	assert.Greater(t, peakOf(gated.Left[12000:16000]), 1e-3)
	assert.Less(t, peakOf(gated.Left[4800+14400+4800:]), 1e-4, "over after 0.3 s")
	ducked := tail(map[string]float64{"duck_db": 24}, 900)
	assert.Less(t, peakOf(ducked.Left[2000:4800]), 0.4*peakOf(tail(nil, 900).Left[2000:4800]), "while the sound is there")
	assert.Greater(t, peakOf(ducked.Left[rate/2:]), 0.5*peakOf(tail(nil, 900).Left[rate/2:]), "and back after it")
}

func TestABandAlone(t *testing.T) {
	r := rackOf("equalizer", flat8(map[string]float64{"band2.shape": bandBell, "band2.hz": 2000, "band2.q": 2}))
	r.Alone("one", 1)
	assert.Greater(t, peakOf(through(r, sine(2000, 0.5, rate)).Left[rate/2:]), 0.45)
	assert.Less(t, peakOf(through(r, sine(200, 0.5, rate)).Left[rate/2:]), 0.06)
	r.Alone("one", -1)
	assert.InDelta(t, 0.5, peakOf(through(r, sine(200, 0.5, rate)).Left[rate/2:]), 0.01)
}

// One side done is both: what comes of two like sides is the same to the bit.
func TestLikeSides(t *testing.T) {
	for _, k := range Kinds() {
		one, two := NewRack([]Effect{New("a", k, map[string]float64{"mix_percent": 70})}, rate, Context{}), NewRack([]Effect{New("a", k, map[string]float64{"mix_percent": 70})}, rate, Context{})
		a, b := noise(4000, 0.5), noise(4000, 0.5)
		copy(a.Right, a.Left)
		copy(b.Right, b.Left)
		for at := 0; at < 4000; at += 250 {
			one.RunAlike(a.Part(at, at+250), nil, Clock{}, false, true)
			two.Run(b.Part(at, at+250), nil, Clock{}, false)
		}
		require.Equal(t, b.Left, a.Left, k.ID)
		require.Equal(t, b.Right, a.Right, k.ID)
	}
}
