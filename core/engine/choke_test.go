package engine

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/sound"
)

// hats is a song of a bar in which a closed and an open hat stand on one step, scattered.
func hats(seed int64, ticks ...[2]int) Song {
	kit := sound.Kit{Voices: []sound.Voice{sound.NewVoice("hat", "Hat", sound.HatClosed), sound.NewVoice("open", "Open", sound.HatOpen)}}
	kit.Voices[0].CutBy, kit.Voices[1].CutBy = []string{"open"}, []string{"hat"}
	for i := range kit.Voices {
		kit.Voices[i].Row = mixer.Row{Chain: []effect.Effect{}, Sends: []mixer.Send{}}
	}
	g := groove.Groove{Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: seed}
	g.Feel.Voices["hat"], g.Feel.Voices["open"] = groove.VoiceFeel{Scatter: 8}, groove.VoiceFeel{Scatter: 8}
	for i, name := range []string{"hat", "open"} {
		l := groove.Lane{Voice: name}
		for k, t := range ticks {
			if t[i] >= 0 {
				l.Hits = append(l.Hits, groove.Hit{ID: string(rune('a' + k)), Tick: t[i], Velocity: 110})
			}
		}
		g.Lanes = append(g.Lanes, l)
	}
	return Song{Kit: kit, Groove: g, Tempo: music.Steady(120)}
}

// sounding is how long a voice is above a hundredth of its peak in the first bar, ms.
func soundingMS(s Song, voice int) float64 {
	e := New(Rate)
	e.Load(s)
	e.Play(0)
	var x []float64
	l, r := make([]float64, 256), make([]float64, 256)
	for len(x) < 2*Rate {
		e.Process(l, r)
		left, _ := e.Voice(voice, 256)
		x = append(x, left...)
	}
	peak, n := 0.0, 0
	for _, v := range x {
		peak = math.Max(peak, math.Abs(v))
	}
	for i := 0; i+48 <= len(x); i += 48 {
		most := 0.0
		for _, v := range x[i : i+48] {
			most = math.Max(most, math.Abs(v))
		}
		if most > peak/100 {
			n++
		}
	}
	return float64(n)
}

// Scatter does not decide which of two hats on one step stops the other: the open one
// sounds, whichever falls first. A closed hat on a later step stops it.
func TestAnOpenHatOnAStepSounds(t *testing.T) {
	free := soundingMS(hats(1, [2]int{-1, 960}), 1)
	require.Greater(t, free, 200.0)
	for seed := range int64(12) {
		together := soundingMS(hats(seed, [2]int{960, 960}), 1)
		assert.Greater(t, together, 0.9*free, "seed %d", seed)
		stopped := soundingMS(hats(seed, [2]int{1200, 960}), 1)
		assert.Less(t, stopped, 0.8*free, "seed %d", seed)
	}
}

// Other voices of a group that fall within 40 ms of each other sound together.
func TestVoicesOfAGroupSpareEachOther(t *testing.T) {
	for apart, spares := range map[int]bool{48: true, 300: false} { // ticks: 25 and 156 ms
		s := hats(1, [2]int{960 + apart, 960})
		s.Kit.Voices[0].Family = sound.Shaker
		s.Groove.Feel.Voices = map[string]groove.VoiceFeel{}
		free := hats(1, [2]int{-1, 960})
		free.Groove.Feel.Voices = map[string]groove.VoiceFeel{}
		all, some := soundingMS(free, 1), soundingMS(s, 1)
		assert.Equal(t, spares, some > 0.95*all, "%d ticks: %g of %g ms", apart, some, all)
	}
}

// A bass of one voice that plays legato strikes its first note on every pass: the tail of
// the last pass has fallen by more than 40 dB. Notes that overlap glide.
func TestLegatoBeginsAnew(t *testing.T) {
	v := sound.NewVoice("808", "808", sound.Bass808)
	v.Mono, v.Legato, v.Glide = true, true, 60
	v.Row = mixer.Row{Chain: []effect.Effect{}, Sends: []mixer.Send{}}
	r := sound.DefaultRecipe(sound.Bass808).With(map[string]float64{"body.decay_ms": 2000})
	v.Layers = []sound.Layer{sound.Synthesized("l", "L", r)}
	song := func(lengths int) Song {
		g := groove.Groove{Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1, Lanes: []groove.Lane{{Voice: "808", Hits: []groove.Hit{
			{ID: "a", Tick: 0, Velocity: 110, Length: lengths, Cut: true}, {ID: "b", Tick: 960, Velocity: 110, Semitones: 7, Length: lengths, Cut: true},
		}}}}
		return Song{Kit: sound.Kit{Voices: []sound.Voice{v}}, Groove: g, Tempo: music.Steady(90)}
	}
	passes := func(s Song) (level [2]float64) {
		e := New(Rate)
		e.Load(s)
		e.Play(0)
		l, r := make([]float64, 64), make([]float64, 64)
		bar := int(4 * 60.0 / 90 * Rate)
		for at := 0; at < 2*bar; at += 64 {
			e.Process(l, r)
			if within := at % bar; within < Rate/10 {
				for _, x := range l {
					level[at/bar] += x * x
				}
			}
		}
		return level
	}
	level := passes(song(0))
	assert.InDelta(t, 0, 10*math.Log10(level[1]/level[0]), 1, "the first note of the second pass is as loud as the first")
}
