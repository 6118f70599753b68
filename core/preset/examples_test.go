package preset

import (
	"context"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/dsp/fourier"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/measure"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

func example(t *testing.T, id string) *Example {
	t.Helper()
	for _, e := range Examples() {
		if e.ID == id {
			require.NoError(t, (&sound.Kit{Voices: e.Voices}).Validate())
			g := e.Groove()
			require.NoError(t, g.Validate())
			return &e
		}
	}
	t.Fatalf("no example %q", id)
	return nil
}

func hit(e *Example, voice int, change ...func(*sound.Voice)) *audio.Buffer {
	v := e.Voices[voice]
	v.Layers = slices.Clone(v.Layers)
	for i := range v.Layers {
		if r := v.Layers[i].Recipe; r != nil {
			v.Layers[i].Recipe = new(*r)
			v.Layers[i].Recipe.Own()
		}
	}
	for _, c := range change {
		c(&v)
	}
	return synth.Shot(&v, Material(), engine.Rate, synth.Stroke{Velocity: 120, Seed: 3, BeatMS: 60000 / e.BPM}, 4000)
}

// share is the energy of a part of a sound between two frequencies against all of
// it, dB.
func share(x []float64, from, to float64) float64 {
	n := 1
	for n < len(x) {
		n *= 2
	}
	padded := make([]float64, n)
	for i, v := range x {
		padded[i] = v * (0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/float64(len(x))))
	}
	var in, all float64
	for k, c := range fourier.NewFFT(n).Coefficients(nil, padded) {
		hz := float64(k) * engine.Rate / float64(n)
		e := real(c)*real(c) + imag(c)*imag(c)
		all += e
		if hz >= from && hz < to {
			in += e
		}
	}
	return 10 * math.Log10(in/all+1e-20)
}

func side(b *audio.Buffer, c int) []float64 {
	x := make([]float64, b.Frames())
	for i, v := range b.Channels[c] {
		x[i] = float64(v)
	}
	return x
}

func peakOf(x []float64) (m float64) {
	for _, v := range x {
		m = math.Max(m, math.Abs(v))
	}
	return m
}

// pitchOf is the frequency of a steady tone by its crossings of zero, low-passed.
func pitchOf(x []float64, from, to float64) float64 {
	y := slices.Clone(x)
	f := dsp.LowPass(120, 0.7, engine.Rate)
	f.Run(y)
	f.Reset()
	f.Run(y)
	var first, last float64
	n := -1
	for i := max(int(from*engine.Rate), 1); i < int(to*engine.Rate); i++ {
		if y[i-1] < 0 && y[i] >= 0 {
			at := float64(i) - y[i]/(y[i]-y[i-1])
			if n < 0 {
				first = at
			}
			last = at
			n++
		}
	}
	return float64(n) / (last - first) * engine.Rate
}

// rms by blocks of ms, dB.
func levels(x []float64, ms float64) []float64 {
	n := int(ms / 1000 * engine.Rate)
	var out []float64
	for i := 0; i+n <= len(x); i += n {
		var sum float64
		for _, v := range x[i : i+n] {
			sum += v * v
		}
		out = append(out, 10*math.Log10(sum/float64(n)+1e-20))
	}
	return out
}

func TestHouseKick(t *testing.T) {
	e := example(t, "house-kick")
	b := hit(e, 0)
	m := measure.Measure(b)
	require.NotNil(t, m.Fundamental)
	assert.InDelta(t, 0, 1200*math.Log2(*m.Fundamental/48.999), 5, "G1, equal temperament")
	require.NotNil(t, m.Settles)
	assert.InDelta(t, 105, *m.Settles, 15)
	x := b.Mono()
	// Dirty attack, clean body: what lies above 400 Hz, early and late.
	assert.Greater(t, share(x[:960], 400, 20000), share(x[int(0.15*engine.Rate):], 400, 20000)+20)
	// The double spike: the pitch falls, rises and falls again within 20 ms.
	c := synth.CurvesOf(e.Voices[0].Layers[0].Recipe, synth.Hard(110, 1), 30, 121).Pitch[0].Points
	at := func(ms float64) float64 { return c[int(ms*4)][1] }
	assert.Greater(t, at(0), 1.5*at(6))
	assert.Greater(t, at(12), 1.3*at(6))
	assert.Greater(t, at(12), 1.5*at(30))
	// The sub comes slowly: alone, 30 ms after the stroke it is at its full height.
	sub := hit(e, 0, func(v *sound.Voice) {
		r := v.Layers[0].Recipe
		r.Body.Level, r.Snap.Level, r.Effects, r.Modulations = sound.Silent, sound.Silent, nil, r.Modulations[:0:0]
	}).Mono()
	assert.Less(t, peakOf(sub[:240]), 0.3*peakOf(sub[1440:4800]))
}

func TestTwoCopies(t *testing.T) {
	b := hit(example(t, "two-copies"), 0, func(v *sound.Voice) { v.Layers[0].Recipe.Sub.Level, v.Layers[0].Recipe.Body.Decay = sound.Silent, 2000 })
	left, right := pitchOf(side(b, 0), 0.25, 1.2), pitchOf(side(b, 1), 0.25, 1.2)
	assert.InDelta(t, 4, 1200*math.Abs(math.Log2(left/right)), 1.2, "2 cents above and below: %g and %g Hz", left, right)
}

func TestClapOfOneNoise(t *testing.T) {
	e := example(t, "clap")
	b := hit(e, 0, func(v *sound.Voice) { v.Layers[0].Recipe.Effects = v.Layers[0].Recipe.Effects[:1] })
	x := b.Mono()
	// Spikes lie where the uneven curve has them.
	l := levels(x, 2)
	for _, at := range []int{0, 5, 11, 16} {
		best := max(at-1, 0)
		for k := max(at-2, 0); k <= at+3; k++ {
			if l[k] > l[best] {
				best = k
			}
		}
		assert.InDelta(t, at, best, 2, "a spike at %d ms", 2*at)
		if at > 0 {
			assert.Greater(t, l[best], l[at-2]+2, "with a dip before it")
		}
	}
	assert.Greater(t, share(x, 500, 4000), -1.5, "band-passed around 1.4 kHz")
	folded := hit(e, 0)
	bent := hit(e, 0, func(v *sound.Voice) { v.Layers[0].Recipe.Effects = v.Layers[0].Recipe.Effects[:2] })
	spiky := func(x []float64) float64 { return 20*math.Log10(peakOf(x)) - levels(x[:1920], 39)[0] }
	assert.Less(t, spiky(bent.Mono()), spiky(x)-2, "what is folded lies closer together")
	m := measure.Measure(folded)
	require.NotNil(t, m.Correlation)
	assert.Less(t, *m.Correlation, 0.8, "it is wide")
}

func TestTwoNoiseHat(t *testing.T) {
	e := example(t, "two-noise-hat")
	front := hit(e, 0, func(v *sound.Voice) { v.Layers = v.Layers[:1] }).Mono()
	l := levels(front, 3)
	assert.InDelta(t, l[1], l[3], 4, "held")
	assert.Less(t, l[12], l[2]-12, "then it falls")
	bare := hit(e, 0, func(v *sound.Voice) { v.Layers, v.Layers[0].Recipe.Effects = v.Layers[:1], nil }).Mono()
	// A comb lifts multiples of its tone against what lies between.
	lift := func(x []float64) float64 { return share(x, 7900, 8300) - share(x, 9250, 9650) }
	assert.Greater(t, lift(front), lift(bare)+4)
	both := hit(e, 0).Mono()
	assert.Greater(t, levels(both, 10)[8], levels(front, 10)[8]+3, "the second layer adds length")
}

func TestShakerLoopIsLockedToTheBeat(t *testing.T) {
	e := example(t, "shaker-loop")
	for _, bpm := range []float64{100, 120, 140} {
		e.BPM = bpm
		step := 60.0 / bpm / 4
		x := hit(e, 0).Mono()
		assert.InDelta(t, 16*step, float64(len(x))/engine.Rate, 0.15, "a bar long")
		l := levels(x, 5)
		at := func(seconds float64) float64 { return l[int(seconds/0.005)] }
		for i := range 15 {
			top := at((float64(i)+0.2)*step + 0.0025)
			floor := at((float64(i)+0.98)*step - 0.0025)
			assert.Greater(t, top, floor+5, "stroke %d at %g BPM", i, bpm)
			assert.Greater(t, floor, top-32, "a floor above silence")
		}
	}
}

func TestSnareOfManyEffects(t *testing.T) {
	e := example(t, "snare")
	b := hit(e, 0)
	m := measure.Measure(b)
	require.NotNil(t, m.Fundamental)
	assert.InDelta(t, 0, 1200*math.Log2(*m.Fundamental/196), 20)
	assert.LessOrEqual(t, audio.DB(b.Peak()), -0.3, "the limiter's ceiling holds, at velocity 120")
	// Pressed, down and up: from 40 to 250 ms it falls less.
	falls := func(b *audio.Buffer) float64 { l := levels(b.Mono(), 10); return l[4] - l[25] }
	own := hit(e, 0, func(v *sound.Voice) { v.Layers[0].Attack = nil })
	loose := hit(e, 0, func(v *sound.Voice) {
		r := v.Layers[0].Recipe
		v.Layers[0].Attack = nil
		r.Effects = slices.DeleteFunc(r.Effects, func(s effect.Effect) bool { return s.Kind != "eq" && s.Kind != "filter" })
	})
	assert.Less(t, falls(own), falls(loose)-5)
	// The peaks sweep: at first both stand at 1 kHz.
	r := e.Voices[0].Layers[0].Recipe
	for _, at := range []string{"effects/eq1/band2.hz", "effects/eq1/band3.hz"} {
		mv := r.DrivenBy(at)
		require.NotNil(t, mv)
		assert.Equal(t, 1000.0, mv.From)
	}
	// Its first millisecond is the stick's.
	stick := Material()["stick"].X[0]
	x := side(b, 0)
	var dot, a, c float64
	for i := range 40 {
		dot += x[i] * float64(stick[i])
		a += x[i] * x[i]
		c += float64(stick[i]) * float64(stick[i])
	}
	assert.Greater(t, dot/math.Sqrt(a*c), 0.999)
	twelve := Vary(*r, 12, 20, Groups, 1)
	assert.Len(t, twelve, 12)
}

func TestMuffledKickFromATom(t *testing.T) {
	e := example(t, "from-a-tom")
	kick, snare := hit(e, 0).Mono(), hit(e, 1).Mono()
	tom := Material()["tom"].X[0]
	raw := make([]float64, len(tom))
	for i, v := range tom {
		raw[i] = float64(v)
	}
	assert.Less(t, share(kick, 300, 20000), -30.0, "above about 100 Hz nothing")
	assert.Greater(t, share(snare, 300, 20000), -15.0, "the snare's cut lies higher")
	// 15:1: the first 150 ms are nearly level.
	spread := func(x []float64) float64 {
		l := levels(x, 25)
		return slices.Max(l[1:6]) - slices.Min(l[1:6])
	}
	assert.Less(t, spread(kick), spread(raw)*0.6)
}

func TestDirtyLoop(t *testing.T) {
	e := example(t, "dirty-loop")
	b := hit(e, 0)
	assert.InDelta(t, 2.4/1.18921, float64(b.Frames())/engine.Rate, 0.2, "three semitones faster: ×1.18921 (derivation)")
	// 12 bits: silence between hits has steps of 1/2048, or none.
	clean := hit(e, 0, func(v *sound.Voice) { v.Layers[0].Recipe.Effects = v.Layers[0].Recipe.Effects[:1] })
	for _, v := range clean.Channels[0][:20000] {
		steps := float64(v) / math.Pow(120.0/127, 2) * 2048
		require.InDelta(t, math.Round(steps), steps, 1e-2)
	}
}

func TestRumbleKick(t *testing.T) {
	e := example(t, "rumble")
	song := e.Song()
	out, err := engine.Render(context.Background(), song, engine.Bounce{Rate: engine.Rate, Bars: 2, Seamless: true})
	require.NoError(t, err)
	dry := *e
	dry.Voices = slices.Clone(e.Voices)
	dry.Voices[0].Layers = e.Voices[0].Layers[:1]
	without, err := engine.Render(context.Background(), dry.Song(), engine.Bounce{Rate: engine.Rate, Bars: 2, Seamless: true})
	require.NoError(t, err)
	beat := 60.0 / 132
	window := func(b *audio.Buffer, from, to float64) []float64 {
		return b.Mono()[int(from*engine.Rate):int(to*engine.Rate)]
	}
	loud := func(x []float64) float64 { return levels(x, float64(len(x))/engine.Rate*1000-0.1)[0] }
	between := window(out.Mix, beat*0.7, beat*0.97)
	assert.Greater(t, loud(between), loud(window(without.Mix, beat*0.7, beat*0.97))+9, "between kicks it rumbles")
	assert.Less(t, share(between, 400, 20000), -15.0, "dark")
	assert.Less(t, share(between, 0, 30), -8.0, "big systems stop near 37 Hz")
	// Ducked: what the rumble adds at the kick is less than what it adds later.
	added, plain := out.Mix.Mono(), without.Mix.Mono()
	for i := range added {
		added[i] -= plain[i]
	}
	early := levels(added[int((beat+0.005)*engine.Rate):int((beat+0.055)*engine.Rate)], 49)[0]
	late := levels(added[int(beat*1.75*engine.Rate):int((beat*1.75+0.05)*engine.Rate)], 49)[0]
	assert.Greater(t, late, early+6)
}

func TestTwo808s(t *testing.T) {
	e := example(t, "808")
	shot := func(velocity int) []float64 {
		v := e.Voices[1]
		return synth.Shot(&v, nil, engine.Rate, synth.Hard(velocity, 1), 4000).Mono()
	}
	steady, falling := shot(100), shot(124)
	assert.InDelta(t, 43.654, pitchOf(steady, 0.1, 0.25), 0.4)
	assert.InDelta(t, 87.3, pitchOf(falling, 0.1, 0.25), 1.5, "an octave up at first")
	assert.InDelta(t, 43.654, pitchOf(falling, 0.9, 1.4), 0.4, "and down in the end")
	// The gated tone, by itself: opened by the kick, held, and closed.
	only := *e
	only.Voices = slices.Clone(e.Voices)
	only.Voices[0].Level, only.Voices[1].Mute = -60, true
	only.Voices[0].Mute = true // a muted voice opens it, too
	out, err := engine.Render(context.Background(), only.Song(), engine.Bounce{Rate: engine.Rate, Bars: 2})
	require.NoError(t, err)
	x := out.Mix.Mono()
	assert.InDelta(t, 73.416, pitchOf(x, 0.1, 0.4), 0.4)
	l := levels(x, 10)
	assert.Less(t, l[0], l[10]-6, "its attack is 27 ms")
	assert.Greater(t, l[30], l[10]-2, "held for 330 ms")
	assert.Less(t, l[80], l[10]-15, "released before the next kick")
}

func TestForegroundKitWithAir(t *testing.T) {
	e := example(t, "air")
	air := hit(e, 2).Mono()
	assert.Less(t, share(air, 0, 150), -18.0, "it leaves the kick alone")
	open := hit(e, 2, func(v *sound.Voice) {
		v.Layers[0].Recording = new(*v.Layers[0].Recording)
		v.Layers[0].Recording.Gate = false
	}).Mono()
	l, o := levels(air, 10), levels(open, 10)
	gone := 0
	for i := range l {
		if o[i] > -60 && l[i] < o[i]-20 {
			gone++
		}
	}
	assert.Greater(t, gone, 5, "the room's tail is gone")
	assert.InDelta(t, o[61], l[61], 1.5, "and the snare is there")
}
