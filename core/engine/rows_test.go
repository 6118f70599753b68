package engine

import (
	"context"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/sound"
)

// mixed is a song of a kick on the beats and a hat on the eighths.
func mixed() Song {
	kit := sound.DefaultKit()
	song := Song{Kit: kit, Tempo: music.Steady(120), Groove: groove.Groove{Name: "x", Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1}}
	for i := range 8 {
		if i%2 == 0 {
			l := song.Groove.EnsureLane("kick")
			l.Hits = append(l.Hits, groove.Hit{ID: string(rune('a' + i)), Tick: i * 480, Velocity: 110})
		}
		l := song.Groove.EnsureLane("hat")
		l.Hits = append(l.Hits, groove.Hit{ID: string(rune('a' + i)), Tick: i * 480, Velocity: 90})
	}
	return song
}

func testEffect(kind string, values map[string]float64) effect.Effect {
	return effect.New(kind+"1", effect.KindOf(kind), values)
}

func withChain(s Song, voice string, effects ...effect.Effect) Song {
	s.Kit.Voices = append([]sound.Voice{}, s.Kit.Voices...)
	s.Kit.Voice(voice).Chain = effects
	return s
}

func renderMix(t *testing.T, s Song) *Rendered {
	t.Helper()
	out, err := Render(context.Background(), s, Bounce{Rate: Rate, Bars: 1, Stems: true})
	require.NoError(t, err)
	return out
}

// apart is how far two sounds differ at most, dB below full scale, over the first second
// and a half.
func apart(a, b *audio.Buffer) float64 {
	worst := 0.0
	for c := range a.Channels {
		for i := range min(a.Frames(), b.Frames(), 72000) {
			worst = math.Max(worst, math.Abs(float64(a.Channels[c][i]-b.Channels[c][i])))
		}
	}
	return 20 * math.Log10(worst+1e-12)
}

// Asked: everything aligned for latency to the sample. An effect that only holds a voice
// back, in any place, changes nothing but when all of it comes.
func TestLatenciesAreMadeUpFor(t *testing.T) {
	plain := renderMix(t, mixed())
	// A compressor that looks ahead and does nothing: 480 frames late.
	late := testEffect("compressor", map[string]float64{"ahead_ms": 10, "ratio": 1})
	nested := testEffect("parallel", map[string]float64{"amount_percent": 0})
	nested.Paths[0] = []effect.Effect{late}
	for name, s := range map[string]Song{
		"on a voice":    withChain(mixed(), "kick", late),
		"on the output": func() Song { s := mixed(); s.Mix.Out.Chain = []effect.Effect{late}; return s }(),
		"on a bus": func() Song {
			s := withChain(mixed(), "kick")
			s.Kit.Voice("kick").To = "drums"
			s.Mix.Buses = []mixer.Bus{{ID: "drums", Name: "Drums", Row: mixer.Row{Chain: []effect.Effect{late}}}}
			return s
		}(),
		"on a bus of a bus": func() Song {
			s := withChain(mixed(), "kick", late)
			s.Kit.Voice("kick").To = "a"
			s.Mix.Buses = []mixer.Bus{{ID: "a", Name: "A", Row: mixer.Row{To: "b", Chain: []effect.Effect{late}}}, {ID: "b", Name: "B", Row: mixer.Row{Chain: []effect.Effect{late}}}}
			return s
		}(),
		"in parallel":              withChain(mixed(), "hat", nested),
		"on an effect that is off": withChain(mixed(), "hat", func() effect.Effect { s := late.Clone(); s.Off = true; return s }()),
	} {
		assert.Less(t, apart(plain.Mix, renderMix(t, s).Mix), -120.0, name)
	}
}

// A split whose paths hold nothing adds up to a turned copy; both halves of one that
// takes one path away add up to it.
func TestASplitAddsUp(t *testing.T) {
	whole := renderMix(t, withChain(mixed(), "kick", testEffect("split", nil)))
	lows := renderMix(t, withChain(mixed(), "kick", testEffect("split", map[string]float64{"high_db": -60})))
	highs := renderMix(t, withChain(mixed(), "kick", testEffect("split", map[string]float64{"low_db": -60})))
	kick := 0
	sum := audio.New(Rate, 2, min(lows.Stems[kick].Frames(), highs.Stems[kick].Frames()))
	for c := range sum.Channels {
		for i := range sum.Channels[c] {
			// Each holds the other path at -60 dB.
			sum.Channels[c][i] = (lows.Stems[kick].Channels[c][i] + highs.Stems[kick].Channels[c][i]) / 1.001
		}
	}
	assert.Less(t, apart(sum, whole.Stems[kick]), -100.0)
}

func TestBusesAndSends(t *testing.T) {
	plain := renderMix(t, mixed())
	s := withChain(mixed(), "kick")
	s.Mix.Buses = []mixer.Bus{{ID: "drums", Name: "Drums", Level: -6}, {ID: "all", Name: "All", Level: -6}}
	s.Mix.Buses[0].To = "all"
	s.Kit.Voice("kick").To, s.Kit.Voice("hat").To = "drums", "drums"
	bused := renderMix(t, s)
	for i := range 40000 {
		require.InDelta(t, plain.Mix.Channels[0][i]*float32(audio.Gain(-12)), bused.Mix.Channels[0][i], 1e-6)
	}
	// A send adds a copy at its level, as late as it says.
	s = withChain(mixed(), "kick")
	s.Mix.Buses = []mixer.Bus{{ID: "room", Name: "Room"}}
	s.Kit.Voice("kick").Sends = []mixer.Send{{To: "room", Level: -6, Later: 5, Low: 20, High: 20000}}
	sent := renderMix(t, s)
	for i := 240; i < 40000; i++ {
		require.InDelta(t, plain.Mix.Channels[0][i]+plain.Stems[0].Channels[0][i-240]*float32(audio.Gain(-6)), sent.Mix.Channels[0][i], 1e-6)
	}
	s.Mix.Buses[0].Mute = true
	assert.Less(t, apart(plain.Mix, renderMix(t, s).Mix), -120.0)
	// Stems are the voices before buses.
	assert.Less(t, apart(plain.Stems[0], bused.Stems[0]), -120.0)
}

// A voice that is muted still steers what listens to it: a silent key.
func TestASilentKeyDucks(t *testing.T) {
	duck := testEffect("compressor", map[string]float64{"threshold_db": -14, "ratio": 20, "attack_ms": 0.1, "release_ms": 30})
	duck.Key = "kick"
	s := withChain(mixed(), "hat", duck)
	s.Kit.Voice("kick").Mute = true
	plain, ducked := renderMix(t, mixed()), renderMix(t, s)
	hat := 2
	level := func(b *audio.Buffer, from, to float64) float64 {
		sum := 0.0
		for _, v := range b.Channels[0][int(from*Rate):int(to*Rate)] {
			sum += float64(v * v)
		}
		return 10 * math.Log10(sum/((to-from)*Rate)+1e-12)
	}
	assert.Greater(t, level(plain.Stems[hat], 0.505, 0.52)-level(ducked.Stems[hat], 0.505, 0.52), 6.0, "with the kick")
	assert.InDelta(t, level(plain.Stems[hat], 0.25, 0.3), level(ducked.Stems[hat], 0.25, 0.3), 3, "between")
	assert.Less(t, level(ducked.Stems[0], 0, 0.2), -100.0, "and is not heard")
}

// A shape ducks in time with the song, wherever playing began.
func TestAShapeDucksOnTheBeat(t *testing.T) {
	duck := testEffect("duck", map[string]float64{"amount_percent": 100, "smooth_ms": 0.5})
	s := withChain(mixed(), "hat", duck)
	plain, ducked := renderMix(t, mixed()), renderMix(t, s)
	hat := 2
	at := func(b *audio.Buffer, seconds float64) float64 {
		most := 0.0
		for _, v := range b.Channels[0][int(seconds*Rate):int((seconds+0.006)*Rate)] {
			most = math.Max(most, math.Abs(float64(v)))
		}
		return most
	}
	assert.Less(t, at(ducked.Stems[hat], 1), 0.25*at(plain.Stems[hat], 1), "on a beat")
	assert.InEpsilon(t, at(plain.Stems[hat], 0.75), at(ducked.Stems[hat], 0.75), 0.05, "between them")
}

// Editing a chain while it plays leaves no click: what a steady tone has in the highs
// stays far below it.
func TestEditsOfAChainDoNotClick(t *testing.T) {
	s := mixed()
	bass := s.Kit.Voice("808")
	bass.Layers[0].Recipe.Effects = nil
	bass.Layers[0].Recipe.Body.Decay, bass.Layers[0].Recipe.Body.Start, bass.Layers[0].Recipe.Body.End = 8000, 55, 55
	bass.Layers[0].Recipe.Curves, bass.Layers[0].Recipe.Modulations = nil, nil
	s.Groove.Lanes = nil
	eq := testEffect("equalizer", map[string]float64{"band3.gain_db": 6, "band3.hz": 60})
	off := eq.Clone()
	off.Off = true
	other := testEffect("equalizer", map[string]float64{"band3.gain_db": -9, "band3.hz": 300})
	late := testEffect("compressor", map[string]float64{"ahead_ms": 5, "ratio": 1})
	for name, chains := range map[string][2][]effect.Effect{
		"off and on": {{eq}, {off}}, "a number": {{eq}, {other}}, "added": {{}, {eq}}, "moved": {{eq, late}, {late, eq}}, "held back": {{eq}, {eq, late}},
	} {
		e := New(Rate)
		e.Load(withChain(s, "808", chains[0]...))
		e.Trigger("808", 110, 0)
		var out []float64
		var l, r [256]float64
		program := Prepare(withChain(s, "808", chains[0]...), Rate, nil)
		for i := range 400 {
			if i > 40 && i%40 == 0 {
				program = Prepare(withChain(s, "808", chains[(i/40)%2]...), Rate, program)
				e.Swap(program)
			}
			e.Process(l[:], r[:])
			out = append(out, l[:]...)
		}
		worst, loud := 0.0, 0.0
		for i := 12000; i < len(out)-3; i++ { // what changes in a frame is what clicks
			loud = math.Max(loud, math.Abs(out[i]))
			worst = math.Max(worst, math.Abs(out[i]-3*out[i+1]+3*out[i+2]-out[i+3]))
		}
		require.Greater(t, loud, 0.01, name)
		assert.Less(t, 20*math.Log10(worst/loud), -58.0, name)
	}
}

// An effect that is added in silence is wholly there at the next stroke.
func TestAnEffectAddedInSilenceIsThere(t *testing.T) {
	s := mixed()
	s.Groove.Lanes = nil
	peak := func(e *Engine) (m float64) {
		e.Trigger("kick", 110, 0)
		var l, r [512]float64
		for range 40 {
			e.Process(l[:], r[:])
			for _, v := range l {
				m = math.Max(m, math.Abs(v))
			}
		}
		return m
	}
	e := New(Rate)
	e.Load(s)
	first := peak(e)
	var l, r [512]float64
	for range 300 {
		e.Process(l[:], r[:])
	}
	e.Load(withChain(s, "kick", testEffect("clip", map[string]float64{"ceiling_db": -18, "gain_db": 0})))
	for range 4 {
		e.Process(l[:], r[:])
	}
	assert.Less(t, peak(e), first/2)
}

// What is no number is silent, and what comes after it sounds.
func TestWhatIsNoNumberDoesNotStay(t *testing.T) {
	s := withChain(mixed(), "kick", testEffect("equalizer", map[string]float64{"band3.gain_db": 6}), testEffect("reverb", nil))
	s.Groove.Lanes = nil
	s.Kit.Voice("kick").Layers = []sound.Layer{sound.Recorded("l", "L", "bad")}
	bad, good := make([]float32, 4800), make([]float32, 4800)
	for i := range bad {
		bad[i], good[i] = float32(math.NaN()), float32(math.Sin(float64(i)/20))
	}
	s.Samples = sound.Samples{"bad": {Rate: Rate, X: [][]float32{bad}}}
	e := New(Rate)
	e.Load(s)
	loudest := func() (m float64) {
		e.Trigger("kick", 120, 0)
		var l, r [512]float64
		for range 40 {
			e.Process(l[:], r[:])
			for _, v := range l {
				require.False(t, math.IsNaN(v))
				m = math.Max(m, math.Abs(v))
			}
		}
		return m
	}
	assert.Zero(t, loudest())
	s.Samples = sound.Samples{"bad": {Rate: Rate, X: [][]float32{good}}}
	e.Load(s)
	assert.Greater(t, loudest(), 0.01)
}

func TestAMixAllocatesNothing(t *testing.T) {
	s := withChain(mixed(), "kick", testEffect("equalizer", nil), testEffect("compressor", nil), testEffect("gate", nil), testEffect("tape", nil))
	s.Kit.Voice("kick").To = "drums"
	s.Kit.Voice("hat").Sends = []mixer.Send{{To: "room", Low: 20, High: 20000}}
	s.Mix.Buses = []mixer.Bus{{ID: "drums", Name: "Drums"}, {ID: "room", Name: "Room", Row: mixer.Row{Chain: []effect.Effect{testEffect("reverb", nil)}}}}
	e := New(Rate)
	e.Load(s)
	e.Play(0)
	var l, r [512]float64
	for range 100 {
		e.Process(l[:], r[:])
	}
	assert.Zero(t, testing.AllocsPerRun(300, func() { e.Process(l[:], r[:]) }))
}

// Effects that hear silence sleep, and the sum of stems is the mix before buses.
func TestAMixRestsInSilence(t *testing.T) {
	s := withChain(mixed(), "kick", testEffect("reverb", map[string]float64{"decay_ms": 100}))
	s.Groove.Lanes = nil
	e := New(Rate)
	e.Load(s)
	e.Play(0)
	e.Trigger("kick", 100, 0)
	var l, r [512]float64
	for range 300 {
		e.Process(l[:], r[:])
	}
	assert.True(t, e.quiet)
	assert.False(t, e.voices[0].sounds)
}

// A number that is drawn over the bars is where it is drawn: at the end of the bar the
// level has fallen by what is drawn.
func TestMovesOverTheBars(t *testing.T) {
	s := withChain(mixed(), "hat", testEffect("trim", nil))
	s.Mix.Automation = []mixer.Automation{
		{At: "kick/level_db", Points: []mixer.AutomationPoint{{Bar: 0, Value: -12}, {Bar: 1, Value: -36}}},
		{At: "hat/chain/trim1/gain_db", Points: []mixer.AutomationPoint{{Bar: 0, Value: 0}, {Bar: 0.5, Value: 0}, {Bar: 0.51, Value: -20}}},
	}
	plain, moved := renderMix(t, mixed()), renderMix(t, s)
	level := func(b *audio.Buffer, from float64) float64 {
		m := 0.0
		for _, v := range b.Channels[0][int(from*Rate):int((from+0.02)*Rate)] {
			m = math.Max(m, math.Abs(float64(v)))
		}
		return 20 * math.Log10(m)
	}
	song := mixed()
	kick := song.Kit.Voice("kick").Level
	for beat := range 4 {
		want := -12 - 24*float64(beat)/4 - kick
		assert.InDelta(t, want, level(moved.Stems[0], float64(beat)*0.5)-level(plain.Stems[0], float64(beat)*0.5), 0.5, "beat %d", beat+1)
	}
	assert.InDelta(t, 0, level(moved.Stems[2], 0.5)-level(plain.Stems[2], 0.5), 0.1)
	assert.InDelta(t, -20, level(moved.Stems[2], 1.5)-level(plain.Stems[2], 1.5), 0.3)
}

// Asked: everything aligned to the sample. The stems of the rows that go to the output are
// the mix together, buses that are later among them.
func TestStemsOfBuses(t *testing.T) {
	s := withChain(mixed(), "kick", testEffect("compressor", map[string]float64{"ahead_ms": 5}))
	s.Mix.Buses = []mixer.Bus{{ID: "drums", Name: "Drums", Row: mixer.Row{Chain: []effect.Effect{testEffect("ceiling", nil)}}}, {ID: "room", Name: "Room", Row: mixer.Row{Chain: []effect.Effect{testEffect("reverb", nil)}}}}
	s.Kit.Voice("hat").To = "drums"
	s.Kit.Voice("kick").Sends = []mixer.Send{{To: "room", Level: -6, Low: 20, High: 20000}}
	for _, seamless := range []bool{false, true} {
		out, err := Render(context.Background(), s, Bounce{Rate: Rate, Bars: 1, Stems: true, Seamless: seamless})
		require.NoError(t, err)
		require.Len(t, out.Buses, 2)
		sum := audio.New(Rate, 2, out.Mix.Frames())
		for _, part := range append(out.Stems, out.Buses...) {
			if part == out.Stems[slices.IndexFunc(s.Kit.Voices, func(v sound.Voice) bool { return v.ID == "hat" })] {
				continue // it is in its bus
			}
			for c := range sum.Channels {
				for i := range min(sum.Frames(), part.Frames()) {
					sum.Channels[c][i] += part.Channels[c][i]
				}
			}
		}
		assert.Less(t, apart(sum, out.Mix), -120.0)
	}
}

// A send before the fader does not follow it; a muted row sends nothing either way.
func TestSendsBeforeTheFader(t *testing.T) {
	bus := func(pre, mute bool, level float64) float64 {
		s := withChain(mixed(), "kick")
		v := s.Kit.Voice("kick")
		v.Level, v.Mute = level, mute
		v.Sends = []mixer.Send{{To: "room", Pre: pre, Low: 20, High: 20000}}
		s.Mix.Buses = []mixer.Bus{{ID: "room", Name: "Room"}}
		out := renderMix(t, s)
		peak := 0.0
		for _, x := range out.Buses[0].Channels[0] {
			peak = math.Max(peak, math.Abs(float64(x)))
		}
		return 20 * math.Log10(peak+1e-12)
	}
	full := bus(false, false, 0)
	assert.InDelta(t, full-30, bus(false, false, -30), 0.01)
	assert.InDelta(t, full, bus(true, false, -30), 0.01)
	assert.Less(t, bus(true, true, 0), -200.0)
	assert.Less(t, bus(false, true, 0), -200.0)
}

// A bus as sidechain is the voices that go to it, at their levels, by way of other buses, too.
func TestABusAsSidechain(t *testing.T) {
	level := func(key string, kick float64) float64 {
		duck := testEffect("compressor", map[string]float64{"threshold_db": -40, "ratio": 20, "attack_ms": 1, "release_ms": 500})
		duck.Key = key
		s := withChain(mixed(), "hat", duck)
		s.Kit.Voice("kick").To, s.Kit.Voice("kick").Level = "a", kick
		s.Mix.Buses = []mixer.Bus{{ID: "a", Name: "A", Row: mixer.Row{To: "b"}}, {ID: "b", Name: "B"}, {ID: "c", Name: "C"}}
		out := renderMix(t, s)
		sum := 0.0
		for _, x := range out.Stems[2].Channels[0] {
			sum += float64(x) * float64(x)
		}
		return 10 * math.Log10(sum+1e-12)
	}
	free := level("bus:c", 0)
	byKick := level("kick", 0)
	assert.Less(t, byKick, free-3, "it ducks")
	assert.InDelta(t, byKick, level("bus:a", 0), 0.5)
	assert.InDelta(t, byKick, level("bus:b", 0), 0.5)
	assert.Greater(t, level("bus:a", -60), byKick+2, "at the level of its voice")
}
