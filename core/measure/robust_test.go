package measure

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/audio"
	"jubrak/core/dsp"

	"jubrak/internal/brief"
)

// drum is a falling sine: amplitude 0.8, 60 dB down after decay ms, from start
// to end Hz.
func drum(rate int, seconds, decay, start, end float64) *audio.Buffer {
	b := audio.New(rate, 1, int(seconds*float64(rate)))
	phase := 0.0
	for i := range b.Channels[0] {
		t := float64(i) / float64(rate)
		b.Channels[0][i] = float32(0.8 * math.Sin(phase) * math.Pow(10, -3*t/(decay/1000)))
		phase += 2 * math.Pi * (end + (start-end)*math.Exp(-t/0.02)) / float64(rate)
	}
	return b
}

// An offset changes neither decay nor pitch; peak and RMS are the file's.
func TestOffsetDoesNotSpoilTheTone(t *testing.T) {
	for _, c := range []struct{ decay, seconds, start, end float64 }{{350, 1, 300, 49}, {350, 0.45, 300, 49}, {900, 2, 100, 41.2}, {120, 0.5, 400, 210}} {
		clean := Measure(drum(48000, c.seconds, c.decay, c.start, c.end))
		for _, level := range brief.First(3, -60.0, -40, -20, -50, -30) {
			b := drum(48000, c.seconds, c.decay, c.start, c.end)
			for i := range b.Channels[0] {
				b.Channels[0][i] += float32(audio.Gain(level))
			}
			name := fmt.Sprintf("%+v, offset %g dBFS", c, level)
			m := Measure(b)
			require.NotNil(t, m.Decay, name)
			assert.InEpsilon(t, *clean.Decay, *m.Decay, 0.04, name)
			require.NotNil(t, m.Fundamental, name)
			assert.InDelta(t, 0, 1200*math.Log2(*m.Fundamental / *clean.Fundamental), 3, name)
			assert.Greater(t, *m.Peak, *clean.Peak, "the file's own")
		}
		assert.InEpsilon(t, c.decay, *clean.Decay, 0.06)
	}
	// A low drum is not taken for an offset.
	x := make([]float64, 48000)
	for i := range x {
		x[i] = math.Sin(2*math.Pi*35*float64(i)/48000) * math.Exp(-float64(i)/20000)
	}
	assert.Zero(t, Offset(x, 48000))
	assert.Zero(t, Offset(x[:4000], 48000))
}

// The shortcut finds what looking at every sample finds.
func TestTruePeakIsExact(t *testing.T) {
	plain := func(b *audio.Buffer) float64 {
		peak := b.Peak()
		for _, ch := range b.Channels {
			for i := -40; i < len(ch)+40; i++ {
				for _, at := range []float64{0.25, 0.5, 0.75} {
					var sum, norm float64
					for k := -15; k <= 16; k++ {
						x := float64(k) - at
						w := math.Sin(math.Pi*x) / (math.Pi * x) * (0.5 + 0.5*math.Cos(math.Pi*x/16))
						norm += w
						if j := i + k; j >= 0 && j < len(ch) {
							sum += w * float64(ch[j])
						}
					}
					peak = math.Max(peak, math.Abs(sum/norm))
				}
			}
		}
		return audio.DB(peak)
	}
	rapid.Check(t, func(t *rapid.T) {
		r := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 1))
		b := audio.New(48000, 1, rapid.IntRange(1, 600).Draw(t, "length"))
		high := dsp.HighPass(rapid.Float64Range(100, 20000).Draw(t, "low cut"), 0.7, 48000)
		fall := rapid.Float64Range(5, 2000).Draw(t, "fall")
		for i := range b.Channels[0] {
			b.Channels[0][i] = float32(high.Next(r.Float64()*2-1) * math.Exp(-float64(i)/fall))
		}
		if b.Peak() > 0 {
			require.InDelta(t, plain(b), TruePeak(b), 1e-6)
		}
	})
	// Hats: what lies between samples is up to 3 dB above them (a sine at half
	// the rate less a little, sampled beside its peaks).
	b := audio.New(48000, 1, 480)
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(0.5 * math.Sin(math.Pi*float64(i)/2+math.Pi/4))
	}
	assert.InDelta(t, audio.DB(0.5), TruePeak(b), 0.2)
}

// snare is two modes of a drum head (ratio 1.594; zeros of Bessel functions,
// Fletcher & Rossing, The Physics of Musical Instruments) under noise; second is
// the level of the second mode, noise that of the noise, dB against the first.
func snare(f, second, noise float64, seed uint64) *audio.Buffer {
	r := rand.New(rand.NewPCG(seed, 2))
	b := audio.New(48000, 1, 24000)
	band := dsp.BandPass(2500, 2, 48000)
	for i := range b.Channels[0] {
		at := float64(i) / 48000
		tone := math.Sin(2*math.Pi*f*at) + audio.Gain(second)*math.Sin(2*math.Pi*1.594*f*at+1)
		x := 0.3*tone*math.Exp(-at/0.05) + 0.3*audio.Gain(noise)*3*band.Next(r.NormFloat64())*math.Exp(-at/0.06)
		b.Channels[0][i] = float32(x)
	}
	return b
}

// Under noise and beside a strong second partial a snare's pitch is right, or
// not reported; never another partial's.
func TestPitchOfASnareUnderNoise(t *testing.T) {
	right, all := 0, 0
	for _, f := range []float64{165, 200, 244, 328} {
		for _, second := range []float64{-6, 0, 6} {
			for _, noise := range brief.First(3, -30.0, -5, 5, -15, 0) {
				for seed := range uint64(2) {
					all++
					m := Measure(snare(f, second, noise, seed))
					if m.Fundamental == nil {
						continue
					}
					if math.Abs(1200*math.Log2(*m.Fundamental/f)) < 40 {
						right++
					} else {
						t.Errorf("%g Hz, second mode %+g dB, noise %+g dB: %g", f, second, noise, *m.Fundamental)
					}
				}
			}
		}
	}
	t.Logf("%d of %d detected", right, all)
	assert.Greater(t, right, all/2)
}

// A clap is noise in bursts and has no pitch; a wave and its own opposite have
// the pitch of either.
func TestClapsAndOpposites(t *testing.T) {
	for seed := range uint64(8) {
		r := rand.New(rand.NewPCG(seed, 3))
		b := audio.New(48000, 1, 20000)
		for _, centre := range []float64{700, 1100, 1500} {
			band := dsp.BandPass(centre, 1.2, 48000)
			for i := range b.Channels[0] {
				at := float64(i) / 48000
				level := math.Exp(-math.Mod(math.Min(at, 0.03), 0.0101)/0.003) * math.Exp(-math.Max(at-0.03, 0)/0.05)
				b.Channels[0][i] = float32(0.8 * level * band.Next(r.NormFloat64()))
			}
			m := Measure(b)
			assert.Nil(t, m.Fundamental, "centre %g, seed %d", centre, seed)
		}
	}
	one := drum(48000, 0.8, 400, 200, 55)
	b := audio.New(48000, 2, one.Frames())
	for i, v := range one.Channels[0] {
		b.Channels[0][i], b.Channels[1][i] = v, -v
	}
	m, want := Measure(b), Measure(one)
	require.NotNil(t, m.Fundamental)
	assert.InDelta(t, *want.Fundamental, *m.Fundamental, 0.1)
	assert.InDelta(t, *want.Decay, *m.Decay, 1)
	assert.InDelta(t, -1, *m.Correlation, 1e-6)
}

// Tones of known values are measured within: peak 0.05 dB, pitch 5 cents, decay 5 %,
// leading silence 0.5 ms (loudness: TestLoudnessAgainstPeer), whatever was done to the
// file. Each case says what it makes unknowable.
func TestKnownTonesWhateverWasDoneToThem(t *testing.T) {
	const lead = 0.0731 // seconds
	type done struct {
		name  string
		rate  int
		glide float64 // how much higher it starts, Hz, falling with 20 ms
		to    func(x []float64, rate int) [][]float64
		peak  bool // the peak is still the tone's own
	}
	same := func(x []float64, _ int) [][]float64 { return [][]float64{x} }
	each := func(f func(i int, v float64, rate int) float64) func([]float64, int) [][]float64 {
		return func(x []float64, rate int) [][]float64 {
			y := make([]float64, len(x))
			for i, v := range x {
				y[i] = f(i, v, rate)
			}
			return [][]float64{y}
		}
	}
	for _, c := range []done{
		{"plain", 48000, 0, same, true},
		{"at 96 kHz", 96000, 0, same, true},
		{"at 44.1 kHz", 44100, 0, same, true},
		{"glide", 48000, 180, same, true},
		{"glide at 96 kHz", 96000, 180, same, true},
		{"offset", 48000, 0, each(func(_ int, v float64, _ int) float64 { return v + 0.01 }), false},
		{"clipped", 48000, 0, each(func(_ int, v float64, _ int) float64 { return math.Max(math.Min(v, 0.45), -0.45) }), false},
		{"noise before the onset", 48000, 0, func(x []float64, rate int) [][]float64 {
			r := rand.New(rand.NewPCG(5, 5))
			y := make([]float64, len(x))
			for i, v := range x {
				y[i] = v + 0.0008*r.NormFloat64() // -60 dB against the peak
			}
			return [][]float64{y}
		}, true},
		{"channels of opposite polarity", 48000, 0, func(x []float64, _ int) [][]float64 {
			y := make([]float64, len(x))
			for i, v := range x {
				y[i] = -v
			}
			return [][]float64{x, y}
		}, true},
	} {
		for _, of := range []struct{ hz, decay float64 }{{43.654, 700}, {61.735, 350}, {110, 500}, {196, 250}, {440, 200}} {
			name := fmt.Sprintf("%s, %g Hz, %g ms", c.name, of.hz, of.decay)
			x := make([]float64, int(float64(c.rate)*(lead+of.decay/1000*1.4)))
			phase, top := math.Pi/2, 0.0
			for i := range x {
				at := float64(i)/float64(c.rate) - lead
				if at < 0 {
					continue
				}
				x[i] = 0.8 * math.Sin(phase) * math.Pow(10, -3*at/(of.decay/1000))
				phase += 2 * math.Pi * (of.hz + c.glide*math.Exp(-at/0.02)) / float64(c.rate)
				top = math.Max(top, math.Abs(x[i]))
			}
			b := &audio.Buffer{Rate: c.rate}
			for _, ch := range c.to(x, c.rate) {
				b.Channels = append(b.Channels, float32s(ch))
			}
			m := Measure(b)
			if c.peak {
				assert.InDelta(t, audio.DB(top), *m.Peak, 0.05, name)
			}
			assert.InDelta(t, lead*1000, m.LeadingSilence, 0.5, name)
			if assert.NotNil(t, m.Fundamental, name) {
				assert.InDelta(t, 0, 1200*math.Log2(*m.Fundamental/of.hz), 5, name)
			}
			if c.name == "clipped" {
				continue // its start is held flat, so that it falls later
			}
			if assert.NotNil(t, m.Decay, name) {
				assert.InEpsilon(t, of.decay, *m.Decay, 0.05, name)
			}
		}
	}
}

// Surface, worked examples: a tone has its own frequency as brightness, also over noise 60 dB
// below it, which shifts the plain centroid by kilohertz; white noise lies in the middle.
func TestSurface(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	made := func(f func(i int) float64) *audio.Buffer {
		b := audio.New(48000, 1, 24000)
		for i := range b.Channels[0] {
			b.Channels[0][i] = float32(f(i))
		}
		return b
	}
	hz := func(i int) float64 { return 0.5 * math.Sin(2*math.Pi*440*float64(i)/48000) }
	clean, _ := Surface(made(hz))
	require.NotNil(t, clean)
	assert.InDelta(t, 440, *clean, 5)
	noisy := made(func(i int) float64 { return hz(i) + 5e-4*r.NormFloat64() })
	got, flat := Surface(noisy)
	assert.InDelta(t, 440, *got, 5)
	assert.Greater(t, *Measure(noisy).Centroid, 900.0)
	assert.Less(t, *flat, 0.05)
	white, flatness := Surface(made(func(int) float64 { return 0.2 * r.NormFloat64() }))
	assert.InDelta(t, 12000, *white, 600)
	assert.InDelta(t, 0.56, *flatness, 0.08, "exp(-gamma): the mean logarithm of an exponential")
	none, _ := Surface(audio.New(48000, 1, 100))
	assert.Nil(t, none)
}
