package transcribe_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/sound"
)

// strokes are 20 strokes at 214 BPM eighths, loud and soft, each made by one.
func strokes(seed uint64, one func(r *rand.Rand, x []float32, level float64)) *audio.Buffer {
	r := rand.New(rand.NewPCG(seed, 9))
	b := audio.New(44100, 1, 44100*6)
	for i := range 20 {
		at := int((0.1 + float64(i)*0.28) * 44100)
		part := make([]float32, min(44100/2, b.Frames()-at))
		one(r, part, []float64{1, 0.5, 0.7, 0.5}[i%4])
		for k, v := range part {
			b.Channels[0][at+k] += v
		}
	}
	return b
}

func burst(hz, q, decay float64) func(*rand.Rand, []float32, float64) {
	return func(r *rand.Rand, x []float32, level float64) {
		band := dsp.BandPass(hz, q, 44100)
		for i := range x {
			x[i] = float32(level * band.Next(r.NormFloat64()) * math.Exp(-float64(i)/44100/decay))
		}
	}
}

func metal(hz, decay float64, ratios ...float64) func(*rand.Rand, []float32, float64) {
	return func(_ *rand.Rand, x []float32, level float64) {
		for i := range x {
			t := float64(i) / 44100
			for k, ratio := range ratios {
				x[i] += float32(level * 0.2 * math.Sin(2*math.Pi*hz*ratio*t+float64(k)) * math.Exp(-t/decay))
			}
		}
	}
}

// Strokes of sounds that nobody has taught are found, as percussion with little
// confidence where they cannot be named, and that is said.
func TestStrokesThatNobodyKnows(t *testing.T) {
	for name, b := range map[string]*audio.Buffer{
		"metal, 700 Hz": strokes(5, metal(700, 0.1, 1, 1.47, 2.09, 2.56, 3.39)), "metal, 1.8 kHz": strokes(6, metal(1800, 0.06, 1, 1.41, 1.93, 2.77)),
		"wood": strokes(10, metal(1100, 0.015, 1, 2.3)), "noise, 800 Hz": strokes(2, burst(800, 0.7, 0.1)), "noise, 1.5 kHz": strokes(4, burst(1500, 2, 0.02)),
		"noise, 3 kHz": strokes(1, burst(3000, 0.7, 0.05)), "noise, 8 kHz": strokes(3, burst(8000, 1, 0.15)), "click": strokes(9, burst(5000, 0.4, 0.003)),
	} {
		a := hear(t, b)
		found, unnamed := map[int]bool{}, 0
		for _, h := range a.Hits {
			k := int(math.Round((h.Time - 0.1) / 0.28))
			if math.Abs(h.Time-0.1-float64(k)*0.28) < 0.03 {
				found[k] = true
			}
			if h.Unnamed {
				unnamed++
				assert.Equal(t, sound.Perc, h.Family, name)
				assert.Less(t, h.Confidence, 0.5, name)
			}
		}
		assert.GreaterOrEqual(t, len(found), 14, "%s: of 20", name)
		assert.LessOrEqual(t, len(a.Hits), 23, name)
		said := false
		for _, f := range a.Facts {
			said = said || f.ID == "unnamed" && f.Text != ""
		}
		assert.Equal(t, unnamed > 0, said, name)
	}
}

// A recording in which nothing drum-like repeats says so, and none of its hits is
// reported with confidence.
func TestNoDrumsRecognized(t *testing.T) {
	tone := func(seconds float64, f func(t float64) float64) *audio.Buffer {
		b := audio.New(44100, 1, int(44100*seconds))
		for i := range b.Channels[0] {
			b.Channels[0][i] = float32(f(float64(i) / 44100))
		}
		return b
	}
	// Syllables of voiced and unvoiced sound at uneven distances.
	r := rand.New(rand.NewPCG(8, 8))
	babble := audio.New(44100, 1, 44100*8)
	for at := 0.2; at < 7.5; at += 0.12 + 0.25*r.Float64() {
		pitch, hiss, length := 100+60*r.Float64(), r.Float64() < 0.35, 0.06+0.12*r.Float64()
		formant, breath := dsp.BandPass(400+900*r.Float64(), 5, 44100), dsp.BandPass(4000+3000*r.Float64(), 1, 44100)
		for i := range int(length * 44100) {
			s := float64(i) / 44100
			x := formant.Next(2*math.Mod(s*pitch, 1) - 1)
			if hiss {
				x = 0.4 * breath.Next(r.NormFloat64())
			}
			if j := int(at*44100) + i; j < babble.Frames() {
				babble.Channels[0][j] += float32(0.5 * x * math.Sin(math.Pi*s/length))
			}
		}
	}
	for name, b := range map[string]*audio.Buffer{
		"a sine":      tone(8, func(t float64) float64 { return 0.5 * math.Sin(2*math.Pi*440*t) }),
		"a low sine":  tone(8, func(t float64) float64 { return 0.5 * math.Sin(2*math.Pi*55*t) }),
		"a swell":     tone(8, func(t float64) float64 { return 0.3 * (1 + math.Sin(3*t)) * math.Sin(2*math.Pi*220*t) }),
		"speech-like": babble,
		"nothing":     tone(3, func(float64) float64 { return 0 }),
		"a slow chord": tone(9, func(t float64) float64 {
			return 0.2 * (math.Sin(2*math.Pi*220*t) + math.Sin(2*math.Pi*277*t)) * math.Min(1, math.Mod(t, 3))
		}),
	} {
		a := hear(t, b)
		assert.True(t, a.NoDrums, "%s: %d hits", name, len(a.Hits))
		assert.Nil(t, a.Tempo, name)
		for _, h := range a.Hits {
			assert.Less(t, h.Confidence, 0.5, name)
		}
		if assert.NotEmpty(t, a.Facts, name) {
			assert.Contains(t, a.Facts[0].Text, "No drums recognized", name)
		}
	}
	for i := range 2 {
		b := strokes(uint64(i), func(_ *rand.Rand, x []float32, level float64) {
			for k := range x {
				s := float64(k) / 44100
				x[k] = float32(level * math.Sin(2*math.Pi*(50*s+8*(1-math.Exp(-s/0.02)))) * math.Exp(-s/0.1))
			}
		})
		assert.False(t, hear(t, b).NoDrums, fmt.Sprint("kicks alone are drums, ", i))
	}
}
