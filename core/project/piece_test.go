package project

import (
	"context"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/arrange"
	"jubrak/core/engine"
	"jubrak/core/mixer"
)

func applied(t *testing.T, d *Document, edits ...Edit) *Document {
	t.Helper()
	out, _, err := d.Apply(edits, fakeEnv{heard()})
	require.NoError(t, err)
	return out
}

// twoVariations is a groove of two bars, and a second one with more hats.
func twoVariations(t *testing.T) *Document {
	return applied(t, New("x"), AddHit{"kick", 0, 110}, AddHit{"snare", 960, 100}, AddHit{"kick", 3840 + 480, 90}, AddVariation{Name: "busy"}, AddHit{"hat", 240, 80}, AddHit{"hat", 720, 80}, UseVariation{"a"})
}

func sections(d *Document) (out []string) {
	for _, s := range d.Arrangement.Sections {
		out = append(out, s.Name)
	}
	return out
}

// A project of before opens as one section that sounds as its loop.
func TestAProjectOfBeforeIsOneSection(t *testing.T) {
	d := New("x")
	text, err := json.Marshal(d)
	require.NoError(t, err)
	var old map[string]any
	require.NoError(t, json.Unmarshal(text, &old))
	delete(old, "arrangement")
	old["schema"] = 7
	text, err = json.Marshal(old)
	require.NoError(t, err)
	back, err := Read(text)
	require.NoError(t, err)
	require.Len(t, back.Arrangement.Sections, 1)
	assert.Equal(t, back.Groove.Bars, back.Arrangement.Sections[0].Bars)
	assert.Equal(t, Schema, back.Schema)
}

func TestSectionsAreMovedRepeatedAndSplit(t *testing.T) {
	d := applied(t, twoVariations(t), SetSection{Section: "s1", Name: new("Doors"), Bars: new(17)}, AddSection{Name: "Lap", Variation: "b", Bars: 7}, AddSection{Name: "Hold", Bars: 3, After: "s1"})
	assert.Equal(t, []string{"Doors", "Hold", "Lap"}, sections(d))
	assert.Equal(t, 27, d.Arrangement.Bars())
	d = applied(t, d, MoveSection{"s2", 0})
	assert.Equal(t, []string{"Lap", "Doors", "Hold"}, sections(d))
	d = applied(t, d, KeepOrder{"First"}, RepeatSection{Section: "s2", Own: true})
	assert.Equal(t, []string{"Lap", "Lap", "Doors", "Hold"}, sections(d))
	own := d.Arrangement.Sections[1].Variation
	assert.NotEqual(t, "b", own)
	assert.Equal(t, d.GrooveOf("b").Lanes, d.GrooveOf(own).Lanes)
	d = applied(t, d, UseOrder{Order: "order1", Keep: "Second"})
	assert.Equal(t, []string{"Lap", "Doors", "Hold"}, sections(d))
	assert.Len(t, d.Arrangement.Orders, 2)
	d = applied(t, d, RemoveSection{"s3"})
	assert.Equal(t, []string{"Lap", "Doors"}, sections(d))
	d = applied(t, d, RemoveSection{"s1"})
	_, _, err := d.Apply(Edits{RemoveSection{"s2"}}, nil)
	assert.ErrorContains(t, err, "at least one section")
}

// A section that is split sounds as before: its hits, what is left out and what is drawn.
func TestASplitSectionSoundsAsBefore(t *testing.T) {
	d := applied(t, twoVariations(t), SetSection{Section: "s1", Bars: new(7)}, PaintRows{[]string{"kick"}, 2 * 3840, 5*3840 + 960, false},
		AddDropout{At: 3*3840 + 1920, Length: 3840, Keeps: []string{"hat"}}, Automate{"s1", "snare/level_db", []mixer.AutomationPoint{{Bar: 0, Value: -30}, {Bar: 7, Value: 0}}})
	split := applied(t, d, SplitSection{"s1", 4})
	require.Len(t, split.Arrangement.Sections, 2)
	a, err := engine.Render(context.Background(), d.PieceSong(nil), engine.Bounce{Rate: 8000})
	require.NoError(t, err)
	b, err := engine.Render(context.Background(), split.PieceSong(nil), engine.Bounce{Rate: 8000})
	require.NoError(t, err)
	require.Equal(t, a.Mix.Frames(), b.Mix.Frames())
	for i, x := range a.Mix.Channels[0] {
		require.InDelta(t, x, b.Mix.Channels[0][i], 2e-3, "frame %d", i)
	}
}

// A bar that is opened for here only is a groove of its own, which goes with its place;
// for all like it is the variation; as a new variation it can be played elsewhere, too.
func TestABarIsOpened(t *testing.T) {
	d := applied(t, twoVariations(t), SetSection{Section: "s1", Bars: new(8)})
	here := applied(t, d, OpenBar{Section: "s1", Bar: 3})
	v := here.variation(here.Variation)
	require.True(t, v.Here)
	assert.Equal(t, 1, here.Groove.Bars)
	require.Len(t, here.Groove.Lane("kick").Hits, 1, "its second bar")
	assert.Equal(t, 480, here.Groove.Lane("kick").Hits[0].Tick)
	changed := applied(t, here, AddHit{"snare", 240, 127})
	struck := func(d *Document, bar int) (n int) {
		line := d.PieceLine()
		for _, e := range line.Events(bar*3840, (bar+1)*3840, nil) {
			if line.Grooves()[e.Part].Lanes[e.Lane].Voice == "snare" {
				n++
			}
		}
		return n
	}
	assert.Equal(t, struck(d, 3)+1, struck(changed, 3))
	assert.Equal(t, struck(d, 1), struck(changed, 1), "the bar like it stays")
	again := applied(t, changed, UseVariation{"a"}, OpenBar{Section: "s1", Bar: 3})
	assert.Equal(t, here.Variation, again.Variation, "opened again it is the same")
	gone := applied(t, again, UseVariation{"a"}, RemoveOver{"s1", "o1"})
	assert.Nil(t, gone.variation(here.Variation))
	fresh := applied(t, d, OpenBar{Section: "s1", Bar: 0, Variation: true})
	assert.False(t, fresh.variation(fresh.Variation).Here)
	assert.Equal(t, "c", fresh.Variation)
}

func TestFillsAndObjects(t *testing.T) {
	d := applied(t, twoVariations(t), SetSection{Section: "s1", Bars: new(8)})
	placed := func(d *Document) arrange.Placed { return d.Arrangement.Sections[0].Placed[0] }
	shipped := applied(t, d, PlaceFill{At: 3*3840 + 1920, Fill: "fill-house-classic-1"})
	assert.Equal(t, 1920, placed(shipped).Length)
	assert.Contains(t, placed(shipped).Keeps, "kick")
	made := applied(t, d, PlaceFill{At: 3 * 3840, Made: true, Seed: 3, Length: 3840})
	other := applied(t, d, PlaceFill{At: 3 * 3840, Made: true, Seed: 4, Length: 3840})
	assert.NotEqual(t, made.GrooveOf(placed(made).Variation).Lanes, other.GrooveOf(placed(other).Variation).Lanes)
	borrowed := applied(t, withReference(t), SetSection{Section: "s1", Bars: new(8)}, PlaceFill{At: 0, Bar: 1})
	assert.Equal(t, arrange.Fill, placed(borrowed).Kind)
	riser := applied(t, d, PlaceObject{Kind: arrange.Riser, Voice: "snare", At: 4 * 3840})
	assert.Equal(t, 3*3840, placed(riser).At)
	roll := riser.GrooveOf(placed(riser).Variation).Lanes[0].Hits[0].Opened(nil)
	assert.Greater(t, len(roll), 8)
	assert.Greater(t, roll[len(roll)-1].Semitones, 11.0)
	back := applied(t, d, PlaceObject{Kind: arrange.Reverse, Voice: "open", At: 4 * 3840, Length: 960})
	assert.True(t, back.GrooveOf(placed(back).Variation).Lanes[0].Hits[0].Reverse)
	moved := applied(t, riser, MoveOver{Section: "s1", Over: placed(riser).ID, At: 0, Length: 1920})
	assert.Equal(t, 1920, placed(moved).Length)
	assert.Zero(t, placed(moved).At)
}

func TestBarsAreCopied(t *testing.T) {
	d := applied(t, twoVariations(t), CopyBars{From: "b", FromBar: 0, Bars: 1, To: "a", ToBar: 2})
	assert.Equal(t, 3, d.Groove.Bars)
	assert.Len(t, d.Groove.Lane("hat").Hits, 2)
	assert.Equal(t, 2*3840+240, d.Groove.Lane("hat").Hits[0].Tick)
	assert.Len(t, d.Groove.Lane("kick").Hits, 3)
}

// What no longer has a place goes, and it is said.
func TestWhatHasNoPlaceAnyMoreGoes(t *testing.T) {
	d := applied(t, twoVariations(t), SetSection{Section: "s1", Bars: new(8)}, AddDropout{At: 6 * 3840, Length: 3840, Keeps: []string{}},
		AddEffect{Chain: InRow("kick"), Kind: "trim"}, Automate{"s1", "kick/chain/trim1/gain_db", []mixer.AutomationPoint{{Bar: 0, Value: 3}}})
	out, notes, err := d.Apply(Edits{SetSection{Section: "s1", Bars: new(5)}, RemoveEffect{InRow("kick"), "trim1"}}, nil)
	require.NoError(t, err)
	assert.Empty(t, out.Arrangement.Sections[0].Dropouts)
	assert.Empty(t, out.Arrangement.Sections[0].Automation)
	assert.Contains(t, strings.Join(notes, " "), "2 things of the arrangement had no place")
	removed, notes, err := applied(t, d, AddSection{Name: "B", Variation: "b", Bars: 2}).Apply(Edits{RemoveVariation{"b"}}, nil)
	require.NoError(t, err)
	assert.Equal(t, "a", removed.Arrangement.Sections[1].Variation)
	assert.Contains(t, strings.Join(notes, " "), "1 place")
}

func TestBadInputToAnArrangement(t *testing.T) {
	d := applied(t, twoVariations(t), SetLane{"hat", 0, 7}, AddHit{"hat", 0, 90})
	for says, e := range map[string]Edit{
		"1 to 1000 bars": SetSection{Section: "s1", Bars: new(0)}, "at most 1000 sections": RepeatSection{Section: "s1", Times: 1000}, "tempo 19 BPM": SetSection{Section: "s1", Tempo: new(19.0)},
		"tempo 401 BPM": SetSection{Section: "s1", TempoTo: new(401.0)}, "write it like 4/4": SetSection{Section: "s1", Meter: new("lots")}, "there is no variation": AddSection{Name: "A", Variation: "zz", Bars: 2},
		"too short": Automate{"s1", arrange.TempoAddress, []mixer.AutomationPoint{{Bar: 0, Value: 90}, {Bar: 1.0 / 3840, Value: 100}}}, "cannot be drawn": Automate{"s1", "kick/mute", []mixer.AutomationPoint{{Bar: 0, Value: 1}}},
		"tempo 19": Automate{"s1", arrange.TempoAddress, []mixer.AutomationPoint{{Bar: 0, Value: 19}}}, "ends before that place": AddDropout{At: 1 << 20, Length: 10, Keeps: []string{}},
		"bars 2 to 2": SplitSection{"s1", 5}, "1 to 40 letters": SetSection{Section: "s1", Name: new("")}, "semitones faster": SetSpeed{Semitones: 99},
	} {
		_, _, err := d.Apply(Edits{e}, nil)
		assert.ErrorContains(t, err, says)
	}
	// A change of meter inside a lane's cycle is done, and said.
	_, notes, err := d.Apply(Edits{SetSection{Section: "s1", Meter: new("5/8")}}, nil)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(notes, " "), "runs on through the bars of 5/8")
}

// The most that a piece may be is validated and laid out.
func TestAThousandBars(t *testing.T) {
	edits := Edits{SetSection{Section: "s1", Bars: new(1), Tempo: new(200.0)}}
	for range 999 {
		edits = append(edits, AddSection{Name: "S", Bars: 1})
	}
	d := applied(t, twoVariations(t), edits...)
	assert.Equal(t, 1000, d.Arrangement.Bars())
	line := d.PieceLine()
	assert.Len(t, line.Spans(), 1000)
	assert.NotEmpty(t, line.Events(999*3840, 1000*3840, nil))
	_, _, err := d.Apply(Edits{AddSection{Name: "S", Bars: 1}}, nil)
	assert.Error(t, err)
}

func BenchmarkEditOfAPiece(b *testing.B) {
	d, _, err := New("x").Apply(Edits{AddHit{"kick", 0, 110}}, nil)
	if err != nil {
		b.Fatal(err)
	}
	for range 40 {
		if d, _, err = d.Apply(Edits{AddSection{Name: "S", Bars: 8}, Automate{"s1", "kick/level_db", []mixer.AutomationPoint{{Bar: 0, Value: -6}, {Bar: 2, Value: 0}}}}, nil); err != nil {
			b.Fatal(err)
		}
	}
	for i := 0; b.Loop(); i++ {
		if _, _, err := d.Apply(Edits{PaintRows{[]string{"kick"}, i % 300 * 3840, (i%300 + 1) * 3840, i%2 == 0}}, nil); err != nil {
			b.Fatal(err)
		}
	}
}
