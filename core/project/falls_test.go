package project

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
)

// timesOf are when the strokes of a voice fall in the first pass, seconds, in order.
func timesOf(d *Document, voice string) (out []float64) {
	g := d.Groove
	line := groove.NewLine(&g, d.Tempo, g.Ticks())
	for _, e := range line.Events(0, g.Ticks(), nil) {
		if g.Lanes[e.Lane].Voice == voice {
			at := math.Mod(e.Time+line.Seconds(float64(g.Ticks())), line.Seconds(float64(g.Ticks())))
			out = append(out, at)
		}
	}
	slices.Sort(out)
	return out
}

// A flam and a roll that are opened fall where they fell, however the groove swings,
// leans and drifts.
func TestOpenedUnderAFeelHitsFallWhereTheyFell(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := New("x")
		hit := func(tick int) groove.Hit {
			h := groove.Hit{Tick: tick, Velocity: 90, Nudge: rapid.Float64Range(-20, 20).Draw(t, "nudge")}
			h.Nudge = round2(h.Nudge)
			if rapid.Bool().Draw(t, "flam") {
				h.Flam = groove.Flam{Strokes: rapid.IntRange(1, 3).Draw(t, "strokes"), Spacing: rapid.Float64Range(5, 30).Draw(t, "spacing"), Level: -8}
			} else {
				h.Length, h.Roll = 480, groove.Even{Strokes: rapid.IntRange(2, 6).Draw(t, "roll"), VelocityTo: 50}
			}
			return h
		}
		d, _, err := d.Apply(Edits{
			PutHits{[]NewHit{{"snare", hit(960)}, {"snare", hit(2160)}, {"snare", hit(3120 + 960)}}},
			SetNumber{"groove/feel/swing_percent", rapid.Float64Range(50, 75).Draw(t, "swing")}, SetNumber{"groove/feel/snare/lean_ms", 9},
			SetTable{"snare", "contour", []float64{0, 4, -3, 7, 1}}, SetDrift{[]float64{0, 12}, []string{"snare"}, rapid.Bool().Draw(t, "stays")},
		}, nil)
		require.NoError(t, err)
		was := timesOf(d, "snare")
		var refs []HitRef
		for _, h := range d.Groove.Lane("snare").Hits {
			refs = append(refs, HitRef{"snare", h.ID})
		}
		next, _, err := d.Apply(Edits{OpenHits{refs}}, nil)
		require.NoError(t, err)
		is := timesOf(next, "snare")
		require.Len(t, is, len(was))
		for i := range was {
			require.InDelta(t, was[i]*1000, is[i]*1000, 0.02, "stroke %d, ms", i)
		}
	})
}

// Opening a hit whose strokes land on another one that is opened too: said, no crash.
func TestOpeningHitsThatFallOnEachOther(t *testing.T) {
	d := apply(t, New("x"), PutHits{[]NewHit{
		{"snare", groove.Hit{Tick: 0, Velocity: 90, Length: 960, Roll: groove.Even{Strokes: 2}}},
		{"snare", groove.Hit{Tick: 480, Velocity: 90, Length: 480, Roll: groove.Even{Strokes: 2}}},
	}})
	next, notes, err := d.Apply(Edits{OpenHits{[]HitRef{{"snare", "h1"}, {"snare", "h2"}}}}, nil)
	require.NoError(t, err)
	assert.Len(t, next.Groove.Lane("snare").Hits, 2)
	require.Len(t, notes, 1)
	assert.Contains(t, notes[0], "made way")
}

// Straightened to the grid, a hit falls straight on every pass, though its voice scatters.
func TestStraightenedHitsDoNotScatter(t *testing.T) {
	d := apply(t, New("x"), AddHit{"hat", 240, 90}, AddHit{"hat", 720, 90},
		SetNumber{"groove/feel/hat/scatter_ms", 15}, SetNumber{"groove/feel/swing_percent", 64})
	ref := []HitRef{{"hat", "h1"}}
	straight := apply(t, d, StraightenHits{ref, 100, "grid"})
	g := straight.Groove
	line := groove.NewLine(&g, straight.Tempo, 0)
	var other float64
	for _, e := range line.Events(0, 16*g.Ticks(), nil) {
		if g.Lanes[e.Lane].Hits[e.Hit].ID == "h1" {
			assert.InDelta(t, 0, e.Offset, 0.01)
		} else {
			other = math.Max(other, math.Abs(e.Offset))
		}
	}
	assert.Greater(t, other, 10.0, "the rest goes on")
	assert.Equal(t, 50.0, apply(t, d, StraightenHits{ref, 50, "grid"}).Groove.Lane("hat").Hits[0].Still)
	_, _, err := d.Apply(Edits{StraightenHits{ref, 50, "moon"}}, nil)
	assert.Error(t, err)
}

// A kick that is late and back on the beat by bar 4: found in a loop of four bars, taken
// into the feel, and every hit falls where it did.
func TestADriftOverFourBarsIsFound(t *testing.T) {
	d := apply(t, New("x"), SetBars{4})
	var hits []NewHit
	for s := range 64 {
		late := []float64{14, 9, 4, 0}[s/16]
		if s%4 == 0 {
			hits = append(hits, NewHit{"kick", groove.Hit{Tick: s * 240, Velocity: 100, Nudge: late}})
		}
		hits = append(hits, NewHit{"hat", groove.Hit{Tick: s * 240, Velocity: 80}})
	}
	d = apply(t, d, PutHits{hits})
	was := timesOf(d, "kick")
	next, _, err := d.Apply(Edits{FeelApart{}}, nil)
	require.NoError(t, err)
	f := next.Groove.Feel
	require.Len(t, f.Drift.Curve, 4)
	assert.Equal(t, []string{"kick"}, f.Drift.Voices)
	for bar, want := range []float64{7.25, 2.25, -2.75, -6.75} { // about their mean, which is lean
		assert.InDelta(t, want, f.Drift.Curve[bar], 0.5, "bar %d", bar+1)
	}
	for i, at := range timesOf(next, "kick") {
		assert.InDelta(t, was[i]*1000, at*1000, 0.02)
	}
}

// A drift that ends and stays keeps its last value to the end of its bar.
func TestADriftThatStays(t *testing.T) {
	at := func(stays bool, bars float64) float64 {
		d := apply(t, New("x"), SetBars{2}, AddHit{"kick", int(bars * 3840), 90}, SetDrift{[]float64{10, 0}, []string{"kick"}, stays})
		g := d.Groove
		return groove.NewLine(&g, music.Steady(100), 0).Falls(0)[0].Offset
	}
	assert.InDelta(t, 5, at(false, 1.5), 1e-9, "it climbs again")
	assert.InDelta(t, 0, at(true, 1.5), 1e-9)
	assert.InDelta(t, 5, at(true, 0.5), 1e-9)
}

// A saved chain with paths is put on a row twice: every step has an id of its own.
func TestAChainTwice(t *testing.T) {
	inner := effect.New("drive1", effect.KindOf("drive"), nil)
	outer := effect.New("parallel1", effect.KindOf("parallel"), nil)
	outer.Paths[0] = []effect.Effect{inner}
	saved := []effect.Effect{outer, effect.New("drive2", effect.KindOf("drive"), nil)}
	d := apply(t, New("x"), SetChain{Row: "snare", Effects: saved}, SetChain{Row: "snare", Effects: saved, Append: true}, SetChain{Row: "snare", Effects: saved, Append: true})
	ids := map[string]bool{}
	effect.Each(*d.Chain("snare"), func(s *effect.Effect) {
		assert.False(t, ids[s.ID], s.ID)
		ids[s.ID] = true
	})
	assert.Len(t, ids, 9)
	keyed := effect.New("", effect.KindOf("compressor"), nil)
	keyed.Key = "nobody"
	duck := effect.New("", effect.KindOf("duck"), nil)
	duck.Shape = "none"
	_, notes, err := d.Apply(Edits{SetChain{Row: "kick", Effects: []effect.Effect{keyed, duck}}}, nil)
	require.NoError(t, err)
	require.Len(t, notes, 2)
	assert.Contains(t, notes[0], "nobody")
	assert.Contains(t, notes[1], "none")
}

// The whole mix of another project: balance, buses, shapes, moves and the output come
// along, whatever is called the same here, and what came is said.
func TestAWholeMixComesAlong(t *testing.T) {
	from := apply(t, New("Laps"),
		SetNumber{"kick/level_db", -3}, SetNumber{"hat/level_db", -17}, SetNumber{"hat/pan", -0.4}, SetNumber{"out/level_db", -2},
		AddBus{Name: "Drums", Rows: []string{"kick", "snare"}}, AddSend{Row: "snare", To: "drums"},
		SetShape{effect.Shape{ID: "s", Name: "Pump", Beats: 1, Points: []float64{0, 1, 1}}}, AddEffect{Chain: InRow("hat"), Kind: "duck"}, SetEffectShape{InRow("hat"), "duck1", "s"},
		SetAutomation{"hat/level_db", []mixer.AutomationPoint{{Bar: 0, Value: -20}, {Bar: 1, Value: -17}}}, SetAutomation{"bus:drums/level_db", []mixer.AutomationPoint{{Bar: 0, Value: 0}, {Bar: 1, Value: -6}}},
		SetAutomation{"out/level_db", []mixer.AutomationPoint{{Bar: 0, Value: 0}, {Bar: 1, Value: -6}}})
	to := apply(t, New("Here"), AddBus{Name: "Drums"}, SetShape{effect.Shape{ID: "s", Name: "Other", Beats: 2, Points: []float64{1, 0}}})
	edit, comes := MixOf(from, to, "all")
	next := apply(t, to, edit)
	assert.Equal(t, -3.0, next.Kit.Voice("kick").Level)
	assert.Equal(t, -17.0, next.Kit.Voice("hat").Level)
	assert.Equal(t, -0.4, next.Kit.Voice("hat").Pan)
	assert.Equal(t, -2.0, next.Mix.Out.Level)
	assert.Equal(t, "drums2", next.Kit.Voice("kick").To)
	assert.Equal(t, "drums2", next.Kit.Voice("snare").Sends[0].To)
	shape := next.Mix.Shape(next.Kit.Voice("hat").Chain[0].Shape)
	require.NotNil(t, shape)
	assert.Equal(t, "Pump", shape.Name, "not the other one that was called s here")
	at := map[string]bool{}
	for _, m := range next.Mix.Automation {
		at[m.At] = true
	}
	assert.Equal(t, map[string]bool{"hat/level_db": true, "bus:drums2/level_db": true, "out/level_db": true}, at)
	text := jsonOf(t, comes)
	for _, v := range from.Kit.Voices {
		assert.Contains(t, text, v.Name+": ", "rows without a chain are named, too")
	}
	for _, want := range []string{"bus Drums", "shape Pump", "the output: −2 dB", "Hat, level: drawn automated"} {
		assert.Contains(t, text, want)
	}
	one, _ := MixOf(from, to, "hat")
	alone := apply(t, to, one)
	assert.Equal(t, 0.0, alone.Mix.Out.Level, "the output stays where one row is taken")
	assert.Len(t, alone.Mix.Automation, 1)
}
