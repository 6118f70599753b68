package engine

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
)

// toneAt is a voice that holds a sine for seconds, at a pitch of 110 Hz.
func toneAt(id string, mono, legato bool) sound.Voice {
	r := sound.Blank()
	r.Body.Level, r.Body.Start, r.Body.End, r.Body.Attack, r.Body.Hold, r.Body.Decay = 0, 110, 110, 0.5, 4000, 4000
	v := sound.NewVoice(id, id, sound.Bass808)
	v.Level, v.Mono, v.Legato, v.Release = -6, mono, legato, 5
	v.Layers = []sound.Layer{sound.Synthesized("drum", "Drum", r)}
	return v
}

// played renders two bars at 120 BPM of hits on the lane of one voice.
func played(t *testing.T, v sound.Voice, hits ...groove.Hit) []float64 {
	t.Helper()
	return songOf(t, []sound.Voice{v}, map[string][]groove.Hit{v.ID: hits}).Mono()
}

func songOf(t *testing.T, voices []sound.Voice, lanes map[string][]groove.Hit) *audio.Buffer {
	t.Helper()
	g := groove.Groove{Name: "t", Bars: 2, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1}
	for _, v := range voices {
		l := g.EnsureLane(v.ID)
		l.Hits = append([]groove.Hit{}, lanes[v.ID]...)
		for i := range l.Hits {
			l.Hits[i].ID = string(rune('a' + i))
		}
	}
	require.NoError(t, g.Validate())
	return render(t, Song{Kit: sound.Kit{Voices: voices}, Groove: g, Tempo: music.Steady(120)}, Bounce{Rate: Rate, Bars: 2}).Mix
}

// levelIn is the RMS of a stretch in dBFS, from and to in ms.
func levelIn(x []float64, from, to float64) float64 {
	var sum float64
	a, b := int(from*48), min(int(to*48), len(x))
	for _, v := range x[a:b] {
		sum += v * v
	}
	return 10 * math.Log10(sum/float64(b-a)+1e-20)
}

// hz is the pitch of a stretch by its rising zero crossings.
func hz(x []float64, from, to float64) float64 {
	first, last, n := 0.0, 0.0, 0
	for i := int(from * 48); i < int(to*48)-1; i++ {
		if x[i] < 0 && x[i+1] >= 0 {
			at := float64(i) + x[i]/(x[i]-x[i+1])
			if n == 0 {
				first = at
			}
			last = at
			n++
		}
	}
	return float64(n-1) / (last - first) * 48000
}

func TestLengthCutAndDying(t *testing.T) {
	v := toneAt("tone", false, false)
	open := played(t, v, groove.Hit{Tick: 0, Velocity: 120})
	cut := played(t, v, groove.Hit{Tick: 0, Velocity: 120, Length: 960, Cut: true})
	dies := played(t, v, groove.Hit{Tick: 0, Velocity: 120, Length: 960})
	assert.InDelta(t, levelIn(open, 400, 490), levelIn(cut, 400, 490), 0.01, "as it is until its end at 500 ms")
	assert.Less(t, levelIn(cut, 506, 700), -120.0, "then gone within its release of 5 ms")
	assert.InDelta(t, levelIn(open, 240, 260)-30, levelIn(dies, 240, 260), 0.6, "half of the way, 30 of 60 dB")
	assert.Less(t, levelIn(dies, 510, 700), -120.0)
	step := 0.0
	for i := 480 * 48; i < 520*48; i++ {
		step = math.Max(step, math.Abs(cut[i+1]-cut[i]))
	}
	assert.Less(t, step, 0.02, "without a click")
}

func TestPitchFallAndGlide(t *testing.T) {
	v := toneAt("tone", true, true)
	fall := played(t, v, groove.Hit{Tick: 0, Velocity: 120, Fall: 12, FallTime: 300})
	assert.Greater(t, hz(fall, 2, 40), 180.0, "begins an octave above")
	assert.InDelta(t, 110, hz(fall, 350, 600), 0.2, "and is there after 300 ms")
	x := played(t, v, groove.Hit{Tick: 0, Velocity: 120, Glide: 100}, groove.Hit{Tick: 960, Velocity: 120, Semitones: 12}, groove.Hit{Tick: 1920, Velocity: 120, Length: 480, Cut: true})
	assert.InDelta(t, 110, hz(x, 300, 490), 0.2)
	mid := hz(x, 530, 570)
	assert.Greater(t, mid, 120.0, "on its way")
	assert.Less(t, mid, 215.0)
	assert.InDelta(t, 220, hz(x, 650, 950), 0.3, "an octave up")
	assert.InDelta(t, 110, hz(x, 1010, 1200), 0.3, "back at once: that hit does not glide")
	assert.Less(t, levelIn(x, 1260, 1500), -110.0, "and is cut after an eighth")
	for i := 100 * 48; i < 1200*48; i++ {
		require.Less(t, math.Abs(x[i+1]-x[i]), 0.02, "legato has no new attack")
	}
}

// A click in place of the tone: one sample at full scale where it is struck.
func struckAt(t *testing.T, x []float64) (out []int) {
	t.Helper()
	for i, v := range x {
		if math.Abs(v) > 1e-4 && (len(out) == 0 || i > out[len(out)-1]+40) {
			out = append(out, i)
		}
	}
	return out
}

// clicker strikes a sample of one frame: what is heard is where strokes fall.
func clicker(id string) (sound.Voice, sound.Samples) {
	v := sound.NewVoice(id, id, sound.Rim)
	v.Layers = []sound.Layer{sound.Recorded("l", "Click", "click")}
	v.Level = 0
	x := make([]float32, 40)
	x[0] = 1
	return v, sound.Samples{"click": {Rate: Rate, X: [][]float32{x}}}
}

// Rendered timing is that of the model to one sample, for every part of the feel, flams
// and rolls included.
func TestRenderedTimingIsExact(t *testing.T) {
	v, samples := clicker("rim")
	g := groove.Groove{Name: "t", Bars: 4, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 3}
	l := g.EnsureLane("rim")
	for s := range 64 {
		h := groove.Hit{ID: string(rune('A' + s)), Tick: s * 240, Velocity: 127, Nudge: float64(s%5) - 2}
		switch s % 16 {
		case 4:
			h.Flam = groove.Flam{Strokes: 2, Spacing: 14, Level: -2}
		case 11:
			h.Length, h.Roll = 240, groove.Even{Strokes: 3, Spacing: 60, VelocityTo: 110}
		case 14:
			h.Times, h.Of = 1, 2
		}
		l.Hits = append(l.Hits, h)
	}
	parts := map[string]func(f *groove.Feel){
		"straight": func(*groove.Feel) {}, "swing": func(f *groove.Feel) { f.Swing = 62 },
		"lean":    func(f *groove.Feel) { f.Voices["rim"] = groove.VoiceFeel{Lean: 12.3} },
		"contour": func(f *groove.Feel) { f.Voices["rim"] = groove.VoiceFeel{Contour: []float64{0, 3.3, -2.1, 5}} },
		"drift":   func(f *groove.Feel) { f.Drift = groove.Drift{Curve: []float64{14, 9, 4, 0}, Voices: []string{"rim"}} },
		"scatter": func(f *groove.Feel) { f.Voices["rim"] = groove.VoiceFeel{Scatter: 4} },
		"half":    func(f *groove.Feel) { f.Swing, f.Strength = 66, 50 },
	}
	for name, set := range parts {
		o := g
		o.Feel = groove.Straight()
		set(&o.Feel)
		require.NoError(t, o.Validate())
		mix := render(t, Song{Kit: sound.Kit{Voices: []sound.Voice{v}}, Groove: o, Tempo: music.Steady(93.7), Samples: samples}, Bounce{Rate: Rate, Bars: 4}).Mix
		var want []int
		for _, e := range groove.NewLine(&o, music.Steady(93.7), 0).Events(0, o.Ticks(), nil) {
			want = append(want, int(math.Round(math.Max(e.Time, 0)*Rate)))
		}
		x := mix.Mono()
		for _, at := range want {
			peak := math.Abs(x[at])
			assert.Greater(t, peak, 0.1, "%s: a stroke at frame %d exactly", name, at)
		}
		n := 0
		for _, s := range x {
			if math.Abs(s) > 0.1 {
				n++
			}
		}
		assert.LessOrEqual(t, n, len(want)+1, "%s: and nowhere else, but for an early first hit of the next pass", name)
		assert.GreaterOrEqual(t, n, len(want)-2, name)
	}
}

// A hit that plays backwards ends at its place: loudest just before, silent after, also
// where it begins in the pass before.
func TestBackwardsEndsOnTheBeat(t *testing.T) {
	v := sound.NewVoice("open", "Open", sound.HatOpen)
	x := played(t, v, groove.Hit{Tick: 1920, Velocity: 120, Reverse: true})
	assert.Greater(t, levelIn(x, 990, 1000), levelIn(x, 700, 750)+6, "it swells")
	assert.Less(t, levelIn(x, 1002, 1200), -100.0, "and ends on the third beat, at 1 s")
	assert.Less(t, levelIn(x, 0, 490), -100.0, "a beat long")
	half := played(t, v, groove.Hit{Tick: 1920, Velocity: 120, Reverse: true, Length: 480})
	assert.Less(t, levelIn(half, 0, 745), -100.0)

	g := groove.Groove{Name: "t", Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1}
	g.EnsureLane("open").Hits = []groove.Hit{{ID: "a", Tick: 0, Velocity: 120, Reverse: true}}
	loop := render(t, Song{Kit: sound.Kit{Voices: []sound.Voice{v}}, Groove: g, Tempo: music.Steady(120)}, Bounce{Rate: Rate, Bars: 1, Seamless: true}).Mix.Mono()
	assert.Greater(t, levelIn(loop, 1990, 2000), -40.0, "the loop's end leads into its start")
	assert.Less(t, levelIn(loop, 5, 1400), -90.0)
}

// A hit strikes another voice's sound, with that voice's level and place.
func TestAnotherSoundOnTheSameHits(t *testing.T) {
	a, b := toneAt("a", false, false), toneAt("b", false, false)
	b.Layers[0].Recipe.Body.Start, b.Layers[0].Recipe.Body.End = 440, 440
	x := songOf(t, []sound.Voice{a, b}, map[string][]groove.Hit{"a": {{Tick: 0, Velocity: 120, Length: 480, Cut: true}, {Tick: 960, Velocity: 120, Length: 480, Cut: true, Sound: "b"}}}).Mono()
	assert.InDelta(t, 110, hz(x, 50, 240), 0.5)
	assert.InDelta(t, 440, hz(x, 520, 740), 0.5)
}

// A part goes round without a gap, solo lets one voice through, and a count-in is
// silent.
func TestPartsSoloAndCountIn(t *testing.T) {
	v, samples := clicker("rim")
	w, _ := clicker("other")
	g := groove.Groove{Name: "t", Bars: 4, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1}
	for b := range 4 {
		for k := range b + 1 {
			l := g.EnsureLane("rim")
			l.Hits = append(l.Hits, groove.Hit{ID: string(rune('a' + len(l.Hits))), Tick: b*3840 + k*240, Velocity: 127})
		}
	}
	g.EnsureLane("other").Hits = []groove.Hit{{ID: "a", Tick: 3840 + 1920, Velocity: 127}}
	song := Song{Kit: sound.Kit{Voices: []sound.Voice{v, w}}, Groove: g, Tempo: music.Steady(120), Samples: samples}
	run := func(e *Engine, seconds float64) []float64 {
		var out []float64
		var l, r [MaxBlock]float64
		for len(out) < int(seconds*Rate) {
			e.Process(l[:], r[:])
			out = append(out, l[:]...)
		}
		return out[:int(seconds*Rate)]
	}
	e := New(Rate)
	e.Swap(PrepareLoop(song, Rate, 3840, 7680, nil))
	e.Play(3840)
	e.Solo([]string{"rim"})
	got := struckAt(t, run(e, 6.5))
	assert.Equal(t, []int{0, 6000, 96000, 102000, 192000, 198000, 288000, 294000}, got, "bar 2 again and again, one voice alone")
	assert.InDelta(t, 3840+960, e.Position(), 20)

	// Another part while it plays: at once there where the present lies outside.
	e.Swap(PrepareLoop(song, Rate, 0, 3840, nil))
	assert.InDelta(t, 0, e.Position(), 1)
	got = struckAt(t, run(e, 3))
	require.NotEmpty(t, got)
	assert.Len(t, got, 2, "bar 1 has one stroke")

	e = New(Rate)
	e.Swap(Prepare(song, Rate, nil))
	e.PlayInto(-3840, 0)
	assert.InDelta(t, -3840, e.Position(), 1)
	got = struckAt(t, run(e, 3))
	assert.Equal(t, []int{96000}, got, "a bar of silence, then bar 1")
	assert.Greater(t, e.Position(), 0.0)
}
