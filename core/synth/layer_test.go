package synth

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/sound"
)

const layerRate = 48000

// bare is a voice with nothing but one layer of a sound.
func bare(change func(*sound.Layer)) *sound.Voice {
	l := sound.NewLayer("a", "A", "x")
	change(&l)
	return &sound.Voice{SynthOff: true, Layers: []sound.Layer{l}}
}

func tone1k(rate, n int) *sound.Sample {
	s := &sound.Sample{Rate: rate}
	for i := range n {
		s.X = append(s.X, float32(math.Sin(2*math.Pi*1000*float64(i)/float64(rate))))
	}
	return s
}

func shot(v *sound.Voice, s *sound.Sample) []float64 {
	return Shot(v, sound.Samples{"x": s}, layerRate, 127, 0, 1, 5000).Mono()
}

func TestALayerIsTheSoundItself(t *testing.T) {
	s := tone1k(layerRate, 4800)
	x := shot(bare(func(*sound.Layer) {}), s)
	require.Len(t, x, 4800)
	for i, v := range x {
		require.InDelta(t, s.X[i], v, 1e-6)
	}
	assert.Empty(t, shot(bare(func(l *sound.Layer) { l.Mute = true }), s))
	assert.Empty(t, shot(bare(func(*sound.Layer) {}), nil), "a sound that is missing is silent")
}

// Derivation: levels, times and pitches by arithmetic.
func TestLayerNumbers(t *testing.T) {
	s := tone1k(layerRate, 9600)
	peakOf := func(x []float64) (m float64) {
		for _, v := range x {
			m = math.Max(m, math.Abs(v))
		}
		return m
	}
	crossings := func(x []float64) (n int) {
		for i := 1; i < len(x); i++ {
			if x[i-1] < 0 && x[i] >= 0 {
				n++
			}
		}
		return n
	}
	assert.InDelta(t, 0.5012, peakOf(shot(bare(func(l *sound.Layer) { l.Level = -6 }), s)), 1e-3)
	late := shot(bare(func(l *sound.Layer) { l.Delay = 10 }), s)
	assert.Zero(t, peakOf(late[:480]))
	assert.Len(t, late, 9600+480)
	assert.InDelta(t, s.X[100], late[580], 1e-6)
	early := shot(bare(func(l *sound.Layer) { l.Delay = -10 }), s)
	assert.InDelta(t, s.X[480+100], early[100], 1e-6)
	octave := shot(bare(func(l *sound.Layer) { l.Pitch = 12 }), s)
	assert.InDelta(t, 4800, len(octave), 2)
	assert.InDelta(t, 200, crossings(octave), 2, "2 kHz for 0.1 s")
	falls := shot(bare(func(l *sound.Layer) { l.Decay = 100 }), s)
	assert.InDelta(t, math.Pow(10, -30.0/20), peakOf(falls[2400-24:2400+24]), 0.002, "30 dB down after half of it")
	cut := shot(bare(func(l *sound.Layer) { l.LowCut = 4000 }), s)
	assert.InDelta(t, -24.1, 20*math.Log10(peakOf(cut[2000:])), 0.5, "two octaves below a second-order corner")
	dull := shot(bare(func(l *sound.Layer) { l.HighCut = 250 }), s)
	assert.InDelta(t, -24.1, 20*math.Log10(peakOf(dull[4000:])), 0.5)
	other := shot(bare(func(*sound.Layer) {}), tone1k(44100, 44100))
	assert.InDelta(t, layerRate, len(other), 2, "another rate lasts as long")
	assert.InDelta(t, 1000, crossings(other), 2, "and has its pitch")
}

func TestFlippedLayersCancel(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		l := sound.NewLayer("a", "A", "x")
		for _, p := range sound.LayerParams {
			require.NoError(r, l.Set(p.ID, rapid.Float64Range(p.Min-10, p.Max+10).Draw(r, p.ID)))
		}
		require.NoError(r, l.Validate())
		m := l
		m.ID, m.Flip = "b", !l.Flip
		v := &sound.Voice{SynthOff: true, Layers: []sound.Layer{l, m}}
		for _, x := range Shot(v, sound.Samples{"x": tone1k(44100, 3000)}, layerRate, 90, 0, 1, 5000).Mono() {
			require.InDelta(r, 0, x, 1e-9)
		}
	})
}

func TestLayersJoinTheDrumAndAllocateNothing(t *testing.T) {
	v := bare(func(*sound.Layer) {})
	v.SynthOff, v.Recipe = false, sound.DefaultRecipe(sound.Kick)
	samples := sound.Samples{"x": tone1k(layerRate, 960)}
	both := Shot(v, samples, layerRate, 100, 0, 7, 3000).Mono()
	alone := OneShot(v.Recipe, layerRate, 100, 0, 7, 3000).Mono()
	for i := range alone {
		want := alone[i]
		if i < 960 {
			want += float64(samples["x"].X[i]) * VelocityGain(100)
		}
		require.InDelta(t, want, both[i], 1e-5)
	}
	var n Note
	block := make([]float32, 256)
	assert.Zero(t, testing.AllocsPerRun(50, func() {
		n.Strike(v, samples, layerRate, 100, 0, 7)
		n.Add(block)
	}))
}
