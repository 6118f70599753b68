package transcribe_test

import (
	"context"
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// noiseHat is a hat of noise alone; wide is by how many ms its sides are apart, more or less
// by chance.
type noiseHat struct {
	colour, octaves, decay, level, filter, vary, pan, bpm, wide float64
}

// loopOf plays a kick, a snare and a hat in sixteenths over four bars; or the
// hat in eighths, with a shaker between.
func loopOf(t *testing.T, n noiseHat, shaker bool) *audio.Buffer {
	t.Helper()
	var kit sound.Kit
	g := groove.Groove{Bars: 4, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1}
	play := func(id string, f sound.Family, with map[string]float64, level float64, first, every, velocity int) {
		v := sound.NewVoice(id, id, f)
		v.Row = mixer.Row{Chain: []effect.Effect{}, Sends: []mixer.Send{}}
		recipe := sound.DefaultRecipe(f).With(with)
		if f == sound.HatClosed && n.wide > 0 {
			recipe = recipe.Then("width", map[string]float64{"delay_ms": n.wide, "side_percent": 170})
			recipe = recipe.By(sound.ByChance, "effects/"+recipe.Effects[len(recipe.Effects)-1].ID+"/delay_ms", -n.wide/2, n.wide/2)
		}
		v.Layers = []sound.Layer{sound.Synthesized("l", "l", recipe)}
		v.Level = level
		if f == sound.HatClosed {
			v.Pan = n.pan
		}
		kit.Voices = append(kit.Voices, v)
		l := groove.Lane{Voice: id}
		for s := first; s < 64; s += every {
			l.Hits = append(l.Hits, groove.Hit{ID: fmt.Sprint(id, s), Tick: s * 240, Velocity: velocity - 25*(s%2) + s%7})
		}
		g.Lanes = append(g.Lanes, l)
	}
	play("kick", sound.Kick, nil, -6, 0, 8, 110)
	play("snare", sound.Snare, nil, -9, 4, 8, 105)
	every := 1
	if shaker {
		every = 2
		play("shaker", sound.Shaker, nil, -12, 1, 2, 115)
	}
	play("hat", sound.HatClosed, map[string]float64{"metal.level_db": -60, "noise.colour_hz": n.colour, "noise.width_oct": n.octaves,
		"noise.decay_ms": n.decay, "noise.level_db": n.level, "noise.filter": n.filter, "noise.vary_percent": n.vary}, -12, 0, every, 100)
	out, err := engine.Render(context.Background(), engine.Song{Kit: kit, Groove: g, Tempo: music.Steady(n.bpm)}, engine.Bounce{Rate: 48000, Seamless: true})
	require.NoError(t, err)
	return out.Mix
}

func count(a *transcribe.Analysis) map[sound.Family]int {
	n := map[sound.Family]int{}
	for _, h := range a.Hits {
		n[h.Family]++
	}
	return n
}

// One source of noise is one row, whatever its colour, decay, level, place and width:
// before, four of these gave 34 to 56 hits of a shaker that nobody plays.
func TestOneNoiseIsOneRow(t *testing.T) {
	for _, n := range []noiseHat{
		{colour: 8500, octaves: 2, decay: 55, level: -3, vary: 20, bpm: 108, wide: 9},
		{8000, 2, 60, -4, 0, 0, 0, 104, 0},
		{9000, 3, 40, 0, 2, 0, 0.3, 96, 0},
		{7000, 1.5, 80, -2, 0, 20, 0, 120, 0},
		{6000, 2, 45, -4, 2, 50, -0.6, 112, 0},
		{10000, 2, 120, -6, 0, 0, 0, 100, 0},
		{8000, 4, 50, 0, 2, 100, 0, 140, 0},
		{7500, 2.5, 70, -8, 0, 30, 1, 88, 0},
		{11000, 1, 25, 0, 0, 0, 0, 84, 0},
	} {
		a := hear(t, loopOf(t, n, false))
		got := count(a)
		assert.Zero(t, got[sound.Shaker]+got[sound.Tambourine]+got[sound.HatOpen], "%+v: %v", n, got)
		assert.InDelta(t, 64, got[sound.HatClosed], 3, "%+v: %v", n, got)
		last := map[sound.Family]float64{}
		for _, h := range a.Hits {
			if before, ok := last[h.Family]; ok {
				assert.Greater(t, h.Time-before, 0.025, "%+v: two of one source on one place", n)
			}
			last[h.Family] = h.Time
		}
	}
}

// Two sources that are there stay two.
func TestTwoNoisesStayTwo(t *testing.T) {
	for _, n := range []noiseHat{{8000, 4, 50, 0, 2, 0, 0, 140, 0}, {9000, 3, 40, 0, 2, 0, 0.3, 96, 0}, {11000, 1, 25, 0, 0, 0, 0, 84, 0}} {
		got := count(hear(t, loopOf(t, n, true)))
		assert.InDelta(t, 32, got[sound.HatClosed], 3, "%+v: %v", n, got)
		assert.InDelta(t, 32, got[sound.Shaker], 6, "%+v: %v", n, got)
	}
}

// A row filed after another does not double what is on one place with it.
func TestRefilingDoublesNothing(t *testing.T) {
	raw := &transcribe.Raw{Kind: "audio", Unit: 4, Duration: 8}
	for i := range 16 {
		at := float64(i) / 2
		raw.Hits = append(raw.Hits, transcribe.Hit{ID: fmt.Sprint("h", i), Time: at, Family: sound.HatClosed, Velocity: 90})
		if i%2 == 1 {
			raw.Hits = append(raw.Hits, transcribe.Hit{ID: fmt.Sprint("s", i), Time: at + 0.01, Family: sound.Shaker, Velocity: 80})
		}
	}
	raw.Hits = append(raw.Hits, transcribe.Hit{ID: "own", Time: 7.8, Family: sound.Shaker, Velocity: 80})
	row := transcribe.Correction{Kind: "refile_row", Text: string(sound.Shaker), Family: sound.HatClosed}
	got := count(transcribe.Finish(raw, []transcribe.Correction{row}))
	assert.Equal(t, map[sound.Family]int{sound.HatClosed: 17}, got)
	one := transcribe.Correction{Kind: "refile", Hit: "s3", Family: sound.HatClosed}
	got = count(transcribe.Finish(raw, []transcribe.Correction{one}))
	assert.Equal(t, map[sound.Family]int{sound.HatClosed: 16, sound.Shaker: 8}, got)
}

// Of a loop that is the same from a later beat, bar one is not reported with a percentage.
func TestALoopOfAlikeHalvesSaysSo(t *testing.T) {
	loop := func(bars int, kicks, snares []int) *transcribe.Analysis {
		grid := groove.SteadyGrid(0, 120, 4*bars+1, 4)
		raw := &transcribe.Raw{Kind: "audio", Unit: 4, Duration: 2 * float64(bars), Grid: &grid, Confidence: 0.97, BarOne: 0.91}
		for f, list := range map[sound.Family][]int{sound.Kick: kicks, sound.Snare: snares} {
			for _, eighth := range list {
				raw.Hits = append(raw.Hits, transcribe.Hit{ID: fmt.Sprint(f, eighth), Time: float64(eighth) / 4, Family: f, Velocity: 100})
			}
		}
		a := transcribe.Finish(raw, nil)
		require.NotNil(t, a.LoopBars)
		said := transcribe.Finish(raw, []transcribe.Correction{{Kind: "bar_one", Beats: 4}})
		require.NotNil(t, said.BarOne)
		assert.InDelta(t, 1, *said.BarOne, 0, "who sets it is sure")
		return a
	}
	fact := func(a *transcribe.Analysis) transcribe.Fact {
		for _, f := range a.Facts {
			if f.ID == "bar_one" {
				return f
			}
		}
		t.Fatal("nothing of bar one")
		return transcribe.Fact{}
	}
	a := loop(1, []int{0, 4}, []int{2, 6})
	assert.Nil(t, a.BarOne)
	assert.Contains(t, fact(a).Text, "same from 2 beats later")
	assert.Nil(t, fact(a).Value)
	a = loop(2, []int{0, 3, 8, 11}, []int{2, 6, 10, 14})
	assert.Contains(t, fact(a).Text, "halves of one bar are alike")
	assert.Nil(t, fact(a).Value)
	a = loop(2, []int{0, 3, 8, 12}, []int{2, 6, 10, 14})
	require.NotNil(t, fact(a).Value)
	assert.True(t, math.Abs(*fact(a).Value-91) < 1e-9 && a.AlikeBeats == nil, "%+v", fact(a))
}
