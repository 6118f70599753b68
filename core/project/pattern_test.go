package project

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
)

func with(t *testing.T, edits ...Edit) *Document {
	t.Helper()
	d, _, err := New("x").Apply(edits, fakeEnv{heardOnce})
	require.NoError(t, err)
	return d
}

func on(t *testing.T, d *Document, edits ...Edit) *Document {
	t.Helper()
	next, _, err := d.Apply(edits, fakeEnv{heardOnce})
	require.NoError(t, err)
	return next
}

func ticks(d *Document, voice string) (out []int) {
	for _, h := range d.Groove.Lane(voice).Hits {
		out = append(out, h.Tick)
	}
	return out
}

func refs(d *Document, voice string) (out []HitRef) {
	for _, h := range d.Groove.Lane(voice).Hits {
		out = append(out, HitRef{voice, h.ID})
	}
	return out
}

func TestLanesAreShiftedFilledAndSpread(t *testing.T) {
	d := with(t, FillLane{Voice: "hat", Every: 4}, SetBars{1})
	assert.Equal(t, []int{0, 960, 1920, 2880}, ticks(d, "hat"))
	assert.Equal(t, []int{240, 1200, 2160, 3120}, ticks(on(t, d, ShiftLane{"hat", 1}), "hat"))
	assert.Equal(t, []int{720, 1680, 2640, 3600}, ticks(on(t, d, ShiftLane{"hat", -1}), "hat"), "what leaves comes in at the end")
	assert.Equal(t, ticks(d, "hat"), ticks(on(t, d, ShiftLane{"hat", 5}, ShiftLane{"hat", -5}), "hat"))
	d = on(t, d, SpreadLane{Voice: "kick", Strokes: 3, Steps: 8})
	assert.Equal(t, []int{0, 720, 1440, 1920, 2640, 3360}, ticks(d, "kick"), "the tresillo, twice a bar")
	d = on(t, d, SetLane{"kick", 5, 10})
	assert.Equal(t, []int{0, 720, 1440}, ticks(d, "kick"), "ten quintuplets are two beats")
	assert.Equal(t, 3840, d.Groove.CycleTicks())
}

func TestPatternsAreDoubledHalvedAndRepeated(t *testing.T) {
	d := with(t, SetBars{2}, FillLane{Voice: "kick", Every: 8}, AddHit{Voice: "snare", Tick: 3840 + 960})
	half := on(t, d, TimesGroove{2})
	assert.Equal(t, 4, half.Groove.Bars)
	assert.Equal(t, []int{9600}, ticks(half, "snare"))
	assert.Equal(t, d.Groove.Lanes, on(t, half, TimesGroove{0.5}).Groove.Lanes)
	twice := on(t, d, RepeatBars{From: 2, Bars: 1, Times: 2})
	assert.Equal(t, 3, twice.Groove.Bars)
	assert.Equal(t, []int{4800, 8640}, ticks(twice, "snare"))
	_, _, err := with(t, SetBars{1}).Apply(Edits{TimesGroove{0.5}}, nil)
	assert.Error(t, err, "half of a bar is no groove")
	_, _, err = with(t, SetBars{64}).Apply(Edits{RepeatBars{1, 1, 2}}, nil)
	assert.Error(t, err)
}

func TestAnotherSoundOnEverySecondHit(t *testing.T) {
	d := with(t, FillLane{Voice: "snare", Every: 4, From: 4})
	d = on(t, d, SoundHits{Hits: refs(d, "snare"), Sound: "open", Every: 2})
	var got []string
	for _, h := range d.Groove.Lane("snare").Hits {
		got = append(got, h.Sound)
	}
	assert.Equal(t, []string{"", "open", "", "open", "", "open", ""}, got)
	d = on(t, d, RemoveVoice{"open"})
	for _, h := range d.Groove.Lane("snare").Hits {
		assert.Empty(t, h.Sound, "a voice that goes takes its sound along")
	}
	// Two sounds may share a place, the same one may not.
	d = with(t, PutHits{[]NewHit{newHit("snare", 0, 90), {"snare", groove.Hit{Tick: 0, Velocity: 80, Sound: "kick"}}}})
	assert.Len(t, d.Groove.Lane("snare").Hits, 2)
	_, _, err := d.Apply(Edits{SoundHits{Hits: refs(d, "snare"), Sound: "kick"}}, nil)
	assert.Error(t, err)
}

// Opened, a roll and a flam sound as they did.
func TestOpenedHitsFallWhereTheyFell(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		h := groove.Hit{Tick: rapid.IntRange(1, 15).Draw(rt, "step") * 240, Velocity: 100, Nudge: float64(rapid.IntRange(-9, 9).Draw(rt, "nudge"))}
		if rapid.Bool().Draw(rt, "roll") {
			h.Length, h.Roll = 240*rapid.IntRange(1, 6).Draw(rt, "steps"), groove.Even{Strokes: rapid.IntRange(2, 9).Draw(rt, "strokes"), VelocityTo: rapid.IntRange(1, 127).Draw(rt, "to"), Spacing: float64(rapid.IntRange(30, 200).Draw(rt, "spacing"))}
		} else {
			h.Flam = groove.Flam{Strokes: rapid.IntRange(1, 3).Draw(rt, "graces"), Spacing: float64(rapid.IntRange(5, 30).Draw(rt, "spacing")), Level: -9}
		}
		d := with(t, PutHits{[]NewHit{{"hat", h}}})
		strokes := func(d *Document) []groove.Event {
			return groove.NewLine(&d.Groove, d.Tempo, 0).Events(0, d.Groove.Ticks(), nil)
		}
		was, is := strokes(d), strokes(on(t, d, OpenHits{refs(d, "hat")}))
		require.Len(rt, is, len(was))
		tick := 60.0 / d.Tempo[0].BPM / music.PPQ
		for _, e := range was {
			near := false
			for _, o := range is {
				near = near || math.Abs(o.Time-e.Time) <= tick && o.Velocity == e.Velocity
			}
			require.True(rt, near, "%+v is lost", e)
		}
	})
}

// The feel is taken out of hits and frozen into them: every hit falls where it fell, to
// a tenth of a millisecond.
func TestFeelIsTakenApartAndFrozen(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		d := with(t, SetBars{8}, FillLane{Voice: "hat", Every: 1}, FillLane{Voice: "kick", Every: 4}, FillLane{Voice: "snare", Every: 8, From: 4},
			SetNumber{At: "groove/feel/swing_percent", Value: rapid.Float64Range(50, 68).Draw(rt, "swing")},
			SetNumber{At: "groove/feel/snare/lean_ms", Value: rapid.Float64Range(-15, 15).Draw(rt, "lean")},
			SetNumber{At: "groove/feel/hat/scatter_ms", Value: rapid.Float64Range(0, 4).Draw(rt, "scatter")},
			SetSeed{rapid.Int64Range(1, 1e6).Draw(rt, "seed")})
		falls := func(d *Document) (out []float64) {
			line := groove.NewLine(&d.Groove, d.Tempo, 0)
			for i := range d.Groove.Lanes {
				for _, f := range line.Falls(i) {
					out = append(out, f.Offset)
				}
			}
			return out
		}
		was := falls(d)
		frozen := on(t, d, FreezeFeel{})
		assert.Equal(rt, groove.Straight(), frozen.Groove.Feel)
		require.InDeltaSlice(rt, was, falls(frozen), 0.1)
		apart := on(t, frozen, FeelApart{})
		require.InDeltaSlice(rt, was, falls(apart), 0.1)
		if d.Groove.Feel.Swing > 52 {
			assert.InDelta(rt, d.Groove.Feel.Swing, apart.Groove.Feel.Swing, 1, "swing is a part again")
		}
		assert.InDelta(rt, d.Groove.Feel.Voices["snare"].Lean, apart.Groove.Feel.Voices["snare"].Lean, 1.5)
	})
}

// What is played in at 100 % falls where it belongs, at 0 % where it was played, towards
// the feel and towards the grid.
func TestPlayedInAndStraightened(t *testing.T) {
	d := with(t, SetNumber{At: "tempo/bpm", Value: 120}, SetNumber{At: "groove/feel/swing_percent", Value: 60}, SetNumber{At: "groove/feel/hat/lean_ms", Value: 5})
	perMS := 1.92 // ticks
	play := func(at, percent float64, towards string) (tick int, offset float64) {
		n := on(t, d, PlayIn{Voice: "hat", At: at, Velocity: 99, Straighten: percent, Towards: towards})
		require.Len(t, n.Groove.Lane("hat").Hits, 1)
		i := 0
		for k := range n.Groove.Lanes {
			if n.Groove.Lanes[k].Voice == "hat" {
				i = k
			}
		}
		return n.Groove.Lane("hat").Hits[0].Tick, groove.NewLine(&n.Groove, n.Tempo, 0).Falls(i)[0].Offset
	}
	// The second sixteenth belongs at 25 + 5 ms late in this feel.
	tick, off := play(240+12*perMS, 0, "feel")
	assert.Equal(t, 240, tick)
	assert.InDelta(t, 12, off, 0.01, "as played")
	_, off = play(240+12*perMS, 100, "feel")
	assert.InDelta(t, 30, off, 0.01, "where the feel says")
	_, off = play(240+12*perMS, 50, "feel")
	assert.InDelta(t, 21, off, 0.01)
	_, off = play(240+12*perMS, 100, "grid")
	assert.InDelta(t, 0, off, 0.01)
	_, off = play(240+12*perMS, 0, "grid")
	assert.InDelta(t, 12, off, 0.01)
	tick, _ = play(7680-10, 0, "feel")
	assert.Equal(t, 0, tick, "just before the end is the first place, early")
	// Where bar 2 alone goes round, its end leads into its own first step.
	for _, at := range []float64{7680 - 10, 7680 + 4} {
		n := on(t, d, PlayIn{Voice: "hat", At: at, Velocity: 99, Towards: "feel", From: 3840, To: 7680})
		assert.Equal(t, 3840, n.Groove.Lane("hat").Hits[0].Tick)
	}
}

func TestNotesFollow(t *testing.T) {
	d := with(t, SetKey{"F minor"}, SetBars{2}, PutHits{[]NewHit{newHit("kick", 0, 110), newHit("kick", 720, 90), newHit("kick", 3840, 110)}}, SetNote{Voice: "808", Note: "F1"})
	assert.Equal(t, 29, d.RootOf("808"))
	f := on(t, d, FollowLane{Voice: "808", Follows: "kick"})
	assert.Equal(t, []int{0, 720, 3840}, ticks(f, "808"))
	assert.Equal(t, 720, f.Groove.Lane("808").Hits[0].Length, "until the next")
	f = on(t, f, FollowRoots{Voice: "808", Chords: "Fm | Db"})
	assert.Equal(t, []float64{0, 0, -4}, []float64{f.Groove.Lane("808").Hits[0].Semitones, f.Groove.Lane("808").Hits[1].Semitones, f.Groove.Lane("808").Hits[2].Semitones})
	empty := on(t, d, FollowRoots{Voice: "808", Chords: "Fm | Db Ab"})
	assert.Equal(t, []int{0, 3840, 5760}, ticks(empty, "808"), "spaced as the chords are")
	assert.Equal(t, 1920, empty.Groove.Lane("808").Hits[1].Length)
	up := on(t, empty, TransposeHits{Hits: refs(empty, "808"), Degrees: 2})
	assert.Equal(t, []float64{3, 0, 7}, []float64{up.Groove.Lane("808").Hits[0].Semitones, up.Groove.Lane("808").Hits[1].Semitones, up.Groove.Lane("808").Hits[2].Semitones}, "F to A flat, D flat to F, A flat to C")
	_, _, err := d.Apply(Edits{FollowRoots{Voice: "808", Chords: "nothing"}}, nil)
	assert.Error(t, err)
}

func TestVariationsKeepTheirGrooves(t *testing.T) {
	d := with(t, FillLane{Voice: "kick", Every: 4})
	b := on(t, d, AddVariation{"no kick"}, Clear{"kick"}, SetNumber{At: "groove/feel/swing_percent", Value: 60})
	a := on(t, b, UseVariation{"a"})
	assert.Len(t, a.Groove.Lane("kick").Hits, 8)
	assert.Equal(t, 50.0, a.Groove.Feel.Swing)
	again := on(t, a, UseVariation{"b"})
	assert.Equal(t, b.Groove, again.Groove)
	text, err := json.Marshal(again)
	require.NoError(t, err)
	back, err := Read(text)
	require.NoError(t, err)
	assert.Equal(t, again, back)
	for i := range MaxVariations + 1 {
		next, _, err := a.Apply(Edits{AddVariation{}}, nil)
		if i >= MaxVariations-2 {
			require.Error(t, err)
			break
		}
		require.NoError(t, err)
		a = next
	}
	// A variation whose voice has gone meanwhile.
	gone := on(t, b, RemoveVoice{"kick"})
	next, notes, err := gone.Apply(Edits{UseVariation{"a"}}, nil)
	require.NoError(t, err)
	assert.Nil(t, next.Groove.Lane("kick"))
	require.Len(t, notes, 1)
	assert.Contains(t, notes[0], "8 hits")
}

func TestAGrooveIsTakenByRole(t *testing.T) {
	g := groove.Groove{Name: "Lap", Bars: 2, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 4, Lanes: []groove.Lane{
		{Voice: "bd", Hits: []groove.Hit{{ID: "h1", Tick: 0, Velocity: 100}}}, {Voice: "cl", Hits: []groove.Hit{{ID: "h1", Tick: 960, Velocity: 100}}},
		{Voice: "co", Hits: []groove.Hit{{ID: "h1", Tick: 480, Velocity: 80}, {ID: "h2", Tick: 720, Velocity: 80, Sound: "bd"}}}}}
	g.Feel.Swing = 61
	g.Feel.Voices["bd"] = groove.VoiceFeel{Lean: 3}
	rows := []GrooveRow{{"bd", "Big", sound.Kick}, {"cl", "Clap", sound.Clap}, {"co", "Conga", sound.Cowbell}}
	d := New("x")
	next, notes, err := d.Apply(Edits{TakeGroove{Groove: g, Rows: rows, Part: "both", Tempo: 121}}, nil)
	require.NoError(t, err)
	assert.Equal(t, []int{0}, ticks(next, "kick"), "the kick lands on the kick")
	assert.Equal(t, []int{960}, ticks(next, "snare"), "a clap's nearest relation")
	assert.Len(t, notes, 1, "what found no place is said")
	assert.Equal(t, 61.0, next.Groove.Feel.Swing)
	assert.Equal(t, 3.0, next.Groove.Feel.Voices["kick"].Lean)
	assert.Equal(t, 121.0, next.Tempo[0].BPM)
	placed := on(t, d, TakeGroove{Groove: g, Rows: rows, Places: map[string]string{"co": "hat", "cl": ""}, Part: "pattern"})
	assert.Equal(t, []int{480, 720}, ticks(placed, "hat"), "placed by hand")
	assert.Equal(t, "kick", placed.Groove.Lane("hat").Hits[1].Sound)
	assert.Empty(t, placed.Groove.Lane("snare").Hits)
	assert.Equal(t, 50.0, placed.Groove.Feel.Swing)
}

// Proposals are drawn by a seed, each can be taken alone, and none is refused.
func TestProposalsStandAlone(t *testing.T) {
	d := with(t, SetBars{4}, FillLane{Voice: "hat", Every: 2, Velocity: 70}, FillLane{Voice: "kick", Every: 4}, FillLane{Voice: "snare", Every: 8, From: 4})
	for _, kind := range Proposals {
		a, err := d.Propose(Ask{Kind: kind, Amount: 60, Bar: 4, Seed: 3})
		require.NoError(t, err)
		require.NotEmpty(t, a, kind)
		again, err := d.Propose(Ask{Kind: kind, Amount: 60, Bar: 4, Seed: 3})
		require.NoError(t, err)
		assert.Equal(t, a, again)
		var all Edits
		for _, p := range a {
			next, _, err := d.Apply(p.Edits, nil)
			require.NoError(t, err, p.What)
			assert.NotEqual(t, d.Groove, next.Groove, p.What)
			assert.NotEmpty(t, p.What)
			all = append(all, p.Edits...)
		}
		_, _, err = d.Apply(all, nil)
		assert.NoError(t, err, kind)
		if kind == "drop" || kind == "fill" {
			for _, p := range a {
				assert.GreaterOrEqual(t, p.Tick, 3*3840, "in bar 4 alone")
			}
		}
	}
	for _, bad := range []Ask{{Kind: "none"}, {Kind: "thin", Amount: 900}, {Kind: "fill", Bar: 9}, {Kind: "thin", Voice: "nobody"}} {
		_, err := d.Propose(bad)
		assert.Error(t, err)
	}
}

// Swing from here, the snare's lean from there.
func TestPartsOfAFeelAreTaken(t *testing.T) {
	d := with(t, SetNumber{At: "groove/feel/swing_percent", Value: 62}, SetNumber{At: "groove/feel/snare/lean_ms", Value: 9}, SetNumber{At: "groove/feel/hat/lean_ms", Value: -4}, AddVariation{}, Straighten{})
	swing := on(t, d, TakeParts{From: "variation", ID: "a", Parts: []groove.FeelPart{"swing"}})
	assert.Equal(t, 62.0, swing.Groove.Feel.Swing)
	assert.Zero(t, swing.Groove.Feel.Voices["snare"].Lean)
	lean := on(t, d, TakeParts{From: "variation", ID: "a", Parts: []groove.FeelPart{"lean"}, Voices: []string{"snare"}})
	assert.Equal(t, 50.0, lean.Groove.Feel.Swing)
	assert.Equal(t, 9.0, lean.Groove.Feel.Voices["snare"].Lean)
	assert.Zero(t, lean.Groove.Feel.Voices["hat"].Lean)
	own := on(t, d, TakeParts{From: "variation", ID: "a", Parts: []groove.FeelPart{"swing"}, Voices: []string{"hat"}})
	assert.Equal(t, 62.0, own.Groove.Feel.Voices["hat"].Swing, "an exception of one voice")
	assert.Equal(t, 50.0, own.Groove.Feel.Swing)
	assert.Zero(t, on(t, own, SwingAlike{}).Groove.Feel.Voices["hat"].Swing)
	back := on(t, d, PullBack{7})
	for _, v := range back.Kit.Voices {
		assert.Equal(t, 7.0, back.Groove.Feel.Voices[v.ID].Lean)
	}
}

// A groove with 20,000 hits, lanes of coprime lengths, a roll of 1,000 strokes.
func TestTooMuchIsBounded(t *testing.T) {
	d := New("x")
	d.Groove.Bars = 64
	for _, v := range []string{"kick", "snare", "hat", "open", "808"} {
		l := d.Groove.EnsureLane(v)
		for i := range 4000 {
			l.Hits = append(l.Hits, groove.Hit{ID: "h" + string(rune('a'+i%26)) + string(rune('0'+i/26)), Tick: i * 60, Velocity: 90})
		}
	}
	require.NoError(t, d.Validate())
	_, _, err := d.Apply(Edits{AddHit{Voice: "kick", Tick: 240001}}, nil)
	assert.ErrorContains(t, err, "20000")
	next := on(t, d, PullBack{3}, ShiftLane{"kick", 1})
	assert.Len(t, next.Groove.Lane("kick").Hits, 4000)

	odd := with(t, SetLane{"kick", 4, 1021}, SetLane{"snare", 5, 1019}, SetLane{"hat", 6, 1013}, SetLane{"open", 24, 1009}, AddHit{Voice: "kick", Tick: 0}, AddHit{Voice: "open", Tick: 40})
	assert.Equal(t, groove.LongestCycle, odd.Groove.CycleTicks())
	line := groove.NewLine(&odd.Groove, odd.Tempo, 0)
	assert.Less(t, len(line.Events(1<<40, 1<<40+40000, nil)), 100)

	_, _, err = with(t, AddHit{Voice: "hat", Tick: 0}).Apply(Edits{PutHits{[]NewHit{{"hat", groove.Hit{Tick: 0, Velocity: 90, Length: 240, Roll: groove.Even{Strokes: 1000}}}}}}, nil)
	assert.ErrorContains(t, err, "128")
}
