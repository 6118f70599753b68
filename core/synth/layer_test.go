package synth

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/sound"
)

const layerRate = 48000

// bare is a voice with nothing but one layer of a sound.
func bare(change func(*sound.Layer)) *sound.Voice {
	l := sound.Recorded("a", "A", "x")
	change(&l)
	return sound.Alone(l)
}

func tone1k(rate, n int) *sound.Sample {
	s := &sound.Sample{Rate: rate, X: [][]float32{nil}}
	for i := range n {
		s.X[0] = append(s.X[0], float32(math.Sin(2*math.Pi*1000*float64(i)/float64(rate))))
	}
	return s
}

func shot(v *sound.Voice, s *sound.Sample) []float64 {
	return Shot(v, sound.Samples{"x": s}, layerRate, Hard(127, 1), 5000).Mono()
}

func TestALayerIsTheSoundItself(t *testing.T) {
	s := tone1k(layerRate, 4800)
	x := shot(bare(func(*sound.Layer) {}), s)
	require.Len(t, x, 4800)
	for i, v := range x {
		require.InDelta(t, s.X[0][i], v, 1e-6)
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
	late := shot(bare(func(l *sound.Layer) { l.Start = 10 }), s)
	assert.Zero(t, peakOf(late[:480]))
	assert.Len(t, late, 9600+480)
	assert.InDelta(t, s.X[0][100], late[580], 1e-6)
	early := shot(bare(func(l *sound.Layer) { l.Recording.Skip = 10 }), s)
	assert.InDelta(t, s.X[0][480+100], early[100], 1e-6)
	octave := shot(bare(func(l *sound.Layer) { l.Pitch = 12 }), s)
	assert.InDelta(t, 4800, len(octave), 2)
	assert.InDelta(t, 200, crossings(octave), 2, "2 kHz for 0.1 s")
	falls := shot(bare(func(l *sound.Layer) { l.Recording.Decay = 100 }), s)
	assert.InDelta(t, math.Pow(10, -30.0/20), peakOf(falls[2400-24:2400+24]), 0.002, "30 dB down after half of it")
	cut := shot(bare(func(l *sound.Layer) { l.LowCut = 4000 }), s)
	assert.InDelta(t, -24.1, 20*math.Log10(peakOf(cut[2000:9500])), 0.5, "two octaves below a second-order corner")
	dull := shot(bare(func(l *sound.Layer) { l.HighCut = 250 }), s)
	assert.InDelta(t, -24.1, 20*math.Log10(peakOf(dull[4000:9500])), 0.5)
	other := shot(bare(func(*sound.Layer) {}), tone1k(44100, 44100))
	assert.InDelta(t, layerRate, len(other), 2, "another rate lasts as long")
	assert.InDelta(t, 1000, crossings(other), 2, "and has its pitch")
}

func TestFlippedLayersCancel(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		l := sound.Recorded("a", "A", "x")
		for i := range sound.LayerParams {
			p := &sound.LayerParams[i]
			require.NoError(r, p.Set(&l, rapid.Float64Range(p.Min-10, p.Max+10).Draw(r, p.ID)))
		}
		for i := range sound.RecordingParams {
			p := &sound.RecordingParams[i]
			require.NoError(r, p.Set(l.Recording, rapid.Float64Range(p.Min-10, p.Max+10).Draw(r, p.ID)))
		}
		require.NoError(r, l.Validate())
		l.Turn = sound.Always
		m := l
		m.ID, m.Flip = "b", !l.Flip
		v := sound.Alone(l, m)
		for _, x := range Shot(v, sound.Samples{"x": tone1k(44100, 3000)}, layerRate, Hard(90, 1), 5000).Mono() {
			require.InDelta(r, 0, x, 1e-6)
		}
	})
}

func TestLayersJoinTheDrumAndAllocateNothing(t *testing.T) {
	v := bare(func(*sound.Layer) {})
	recipe := sound.DefaultRecipe(sound.Kick)
	v.Layers = append(v.Layers, sound.Synthesized("drum", "Drum", recipe))
	samples := sound.Samples{"x": tone1k(layerRate, 960)}
	both := Shot(v, samples, layerRate, Hard(100, 7), 3000).Mono()
	alone := OneShot(recipe, layerRate, Hard(100, 7), 3000).Mono()
	for i := range alone {
		want := alone[i]
		if i < 960 {
			want += float64(samples["x"].X[0][i]) * Compile(v, samples, layerRate).gain(100)
		}
		require.InDelta(t, want, both[i], 1e-5)
	}
	var n Note
	block := effect.Block{Left: make([]float64, 256), Right: make([]float64, 256)}
	ready := Compile(v, samples, layerRate)
	assert.Zero(t, testing.AllocsPerRun(50, func() {
		n.Trigger(ready, Hard(100, 7))
		n.Add(block, 0)
		n.Cut()
		n.Add(block, 0)
	}))
}

// Several recipes sound together, each at its own level, side and time; the sum
// is that of each alone.
func TestRecipesAreLayered(t *testing.T) {
	first := sound.Synthesized("a", "Round", sound.DefaultRecipe(sound.Kick))
	second := sound.Synthesized("b", "Slap", sound.DefaultRecipe(sound.Snare))
	second.Level, second.Pan, second.Start, second.Pitch, second.LowCut = -7, 0.6, 11, 5, 300
	render := func(layers ...sound.Layer) *audio.Buffer {
		return Shot(sound.Alone(layers...), nil, layerRate, Stroke{Velocity: 100, Semitones: 2, Seed: 7, BeatMS: 500}, 3000)
	}
	both, one, other := render(first, second), render(first), render(second)
	at := func(b *audio.Buffer, c, i int) float64 {
		if i >= b.Frames() {
			return 0
		}
		return float64(b.Channels[c][i])
	}
	for c := range 2 {
		for i := range both.Frames() {
			require.InDelta(t, at(one, c, i)+at(other, c, i), at(both, c, i), 1e-6)
		}
	}
	assert.Zero(t, at(other, 0, 527), "11 ms are 528 frames")
	assert.NotZero(t, at(other, 0, 540))
	left, right := effect.Panned(-7, 0.6)[0], effect.Panned(-7, 0.6)[1]
	for i := range other.Frames() {
		require.InDelta(t, at(other, 0, i)*right/left, at(other, 1, i), 1e-5)
	}
}

// A stereo recording keeps its sides; pan weighs them.
func TestRecordingsAreStereo(t *testing.T) {
	s := tone1k(layerRate, 480)
	s.X = append(s.X, make([]float32, 480))
	b := Shot(bare(func(*sound.Layer) {}), sound.Samples{"x": s}, layerRate, Hard(127, 1), 100)
	for i := range 480 {
		require.InDelta(t, s.X[0][i], b.Channels[0][i], 1e-6)
		require.Zero(t, b.Channels[1][i])
	}
}

// Published: Linkwitz & Riley 1976: of fourth order, the parts below and above a
// frequency are 6 dB down there, in phase, and add up flat.
func TestOwnedPartsAddUpFlat(t *testing.T) {
	impulse := &sound.Sample{Rate: layerRate, X: [][]float32{make([]float32, 1<<15)}}
	impulse.X[0][0] = 1
	owns := func(change ...func(*sound.Layer)) []float64 {
		v := &sound.Voice{}
		for i, f := range change {
			l := sound.Recorded(string(rune('a'+i)), "A", "x")
			f(&l)
			v.Layers = append(v.Layers, l)
		}
		return shot(v, impulse)
	}
	below := func(l *sound.Layer) { l.Below = 200 }
	above := func(l *sound.Layer) { l.Above = 200 }
	level := func(x []float64, hz float64) float64 {
		var re, im float64
		for i, v := range x {
			sin, cos := math.Sincos(2 * math.Pi * hz * float64(i) / layerRate)
			re, im = re+v*cos, im+v*sin
		}
		return 20 * math.Log10(math.Hypot(re, im))
	}
	both, low, high := owns(below, above), owns(below), owns(above)
	for _, hz := range []float64{30, 80, 150, 200, 260, 500, 2000, 9000} {
		assert.InDelta(t, 0, level(both, hz), 0.01, "%g Hz", hz)
	}
	assert.InDelta(t, -6.02, level(low, 200), 0.05)
	assert.InDelta(t, -6.02, level(high, 200), 0.05)
	assert.InDelta(t, -48.2, level(low, 800), 0.5, "24 dB an octave, two octaves on")
	assert.InDelta(t, -48.2, level(high, 50), 0.5)
}

// Derivation: an equal-power crossfade. Layers that meet at a velocity keep their
// power, and without a crossfade one of them sounds at every velocity.
func TestVelocityRanges(t *testing.T) {
	for _, fade := range []int{0, 1, 16, 40} {
		soft, hard := sound.Recorded("a", "A", "x"), sound.Recorded("b", "B", "x")
		soft.VelocityTo, hard.VelocityFrom = 64, 65
		soft.VelocityFade, hard.VelocityFade = fade, fade
		for v := 1; v <= 127; v++ {
			a, b := soft.VelocityGain(v), hard.VelocityGain(v)
			assert.InDelta(t, 1, a*a+b*b, 1e-9, "velocity %d, crossfade %d", v, fade)
		}
		assert.Equal(t, 1.0, soft.VelocityGain(20))
		assert.Zero(t, hard.VelocityGain(20))
	}
	whole := sound.Recorded("a", "A", "x")
	whole.VelocityFade = 64
	for v := 1; v <= 127; v++ {
		assert.Equal(t, 1.0, whole.VelocityGain(v), "a layer for all velocities has no bounds to fade at")
	}
	only := bare(func(l *sound.Layer) { l.VelocityFrom, l.VelocityTo = 100, 110 })
	s := sound.Samples{"x": tone1k(layerRate, 480)}
	assert.NotZero(t, Shot(only, s, layerRate, Hard(100, 1), 100).Peak())
	assert.Zero(t, Shot(only, s, layerRate, Hard(99, 1), 100).Peak())
	assert.Zero(t, Shot(only, s, layerRate, Hard(111, 1), 100).Peak())
}

func TestRecordingsAreTurnedRoundAndFaded(t *testing.T) {
	s := &sound.Sample{Rate: layerRate, X: [][]float32{make([]float32, 960)}}
	for i := range s.X[0] {
		s.X[0][i] = float32(i+1) / 960
	}
	back := shot(bare(func(l *sound.Layer) { l.Recording.Reverse, l.Recording.Skip = true, 5 }), s)
	require.Len(t, back, 720)
	for i, v := range back {
		require.InDelta(t, s.X[0][959-i], v, 1e-6, "from its end to where it was skipped to")
	}
	faded := shot(bare(func(l *sound.Layer) { l.Recording.FadeIn, l.Recording.FadeOut = 10, 5 }), s)
	require.Len(t, faded, 959, "its last sample is silent")
	assert.Zero(t, faded[0])
	assert.InDelta(t, s.X[0][240]/2, faded[240], 1e-6, "half-way through 10 ms")
	assert.InDelta(t, s.X[0][600], faded[600], 1e-6)
	assert.InDelta(t, s.X[0][959-120]/2, faded[959-120], 1e-6)
	assert.InDelta(t, 1, s.X[0][959], 1e-6, "the sample itself is left")
}

// A pitch that keeps the length does; one that does not reads faster.
func TestKeepLength(t *testing.T) {
	s := tone1k(layerRate, 48000)
	for _, keep := range []bool{false, true} {
		for _, pitch := range []float64{-7, 5, 12} {
			x := shot(bare(func(l *sound.Layer) { l.Pitch, l.Recording.KeepLength = pitch, keep }), s)
			want := 48000 / math.Exp2(pitch/12)
			if keep {
				want = 48000
			}
			assert.InDelta(t, want, len(x), 60, "%g st, keep %v", pitch, keep)
			crossings := 0
			from, to := len(x)/4, len(x)/2
			for i := from; i < to; i++ {
				if x[i-1] < 0 && x[i] >= 0 {
					crossings++
				}
			}
			assert.InEpsilon(t, 1000*math.Exp2(pitch/12), float64(crossings)/float64(to-from)*layerRate, 0.02, "%g st, keep %v", pitch, keep)
		}
	}
}

// The bend of velocity bows what lies between: soft hits up to 6 dB louder, or falling
// twice as fast; the hardest stays, and harder is never softer.
func TestVelocityBends(t *testing.T) {
	v := bare(func(*sound.Layer) {})
	at := func(bend float64, velocity int) float64 {
		v.TouchBend = bend
		return Compile(v, sound.Samples{}, layerRate).gain(velocity)
	}
	v.Touch = 100
	for _, bend := range []float64{-1, -0.5, 0, 0.5, 1} {
		assert.InDelta(t, 1, at(bend, 127), 1e-12)
		for n := 2; n <= 127; n++ {
			assert.Greater(t, at(bend, n), at(bend, n-1))
		}
	}
	assert.InDelta(t, math.Pow(20./127, 2), at(0, 20), 1e-12)
	assert.InDelta(t, 2, at(1, 12)/at(0, 12), 0.02)
	assert.InDelta(t, math.Pow(20./127, 4), at(-1, 20), 1e-12)
}
