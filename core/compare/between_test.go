package compare

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/pattern"
	"jubrak/core/preset"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

func edited(t *testing.T, edits ...project.Edit) *project.Document {
	t.Helper()
	d, _, err := project.New("x").Apply(edits, nil)
	require.NoError(t, err)
	return d
}

// heardAs is what listening to a groove without a fault would find.
func heardAs(d *project.Document) *transcribe.Analysis {
	line := groove.NewLine(&d.Groove, d.Tempo, 0)
	raw := &transcribe.Raw{Kind: "audio", Unit: 4, BarOne: 1, Hits: []transcribe.Hit{}, Bands: []transcribe.Band{}}
	grid := groove.SteadyGrid(0, d.Tempo[0].BPM, 33, 4)
	raw.Grid = &grid
	for i, e := range line.Events(0, 8*3840, nil) {
		v := d.Kit.Voice(d.Groove.Lanes[e.Lane].Voice)
		raw.Hits = append(raw.Hits, transcribe.Hit{ID: string(rune('A' + i)), Time: math.Max(e.Time, 0), Family: v.Family, Velocity: e.Velocity, Confidence: 1})
	}
	raw.Duration = line.Seconds(8 * 3840)
	return transcribe.Finish(raw, nil)
}

// Derivation: a hat 12 ms late over a kick on the beat is 12 ms after it; a reference
// whose hat is 2 ms late differs by 10 ms, which is heard (Friberg & Sundberg 1995).
func TestBetweenVoices(t *testing.T) {
	base := []project.Edit{project.SetBars{Bars: 2}, project.FillLane{Voice: "kick", Every: 4}, project.FillLane{Voice: "hat", Every: 2}, project.FillLane{Voice: "snare", Every: 8, From: 4}, project.SetNumber{At: "tempo/bpm", Value: 110}}
	mine := edited(t, append(base, project.SetNumber{At: "groove/feel/hat/lean_ms", Value: 12}, project.SetNumber{At: "groove/feel/snare/lean_ms", Value: 3})...)
	theirs := edited(t, append(base, project.SetNumber{At: "groove/feel/hat/lean_ms", Value: 2}, project.SetNumber{At: "groove/feel/snare/lean_ms", Value: 3})...)
	pairs := Between(mine, heardAs(theirs))
	require.Len(t, pairs, 3)
	find := func(a, b sound.Family) *Pair {
		for i := range pairs {
			if pairs[i].First == a && pairs[i].Second == b {
				return &pairs[i]
			}
		}
		t.Fatalf("no pair %s, %s", a, b)
		return nil
	}
	hat := find(sound.Kick, sound.HatClosed)
	assert.InDelta(t, 12, *hat.MineMean, 0.01)
	assert.InDelta(t, 2, *hat.ReferenceMean, 0.3)
	assert.Greater(t, math.Abs(*hat.MineMean-*hat.ReferenceMean), hat.Unheard)
	require.Len(t, hat.Mine, 4, "they meet on the four beats")
	snare := find(sound.Kick, sound.Snare)
	assert.InDelta(t, 3, *snare.MineMean, 0.01)
	assert.NotEqual(t, *snare, pairs[0], "those that differ most come first")
	assert.InDelta(t, -9, *find(sound.Snare, sound.HatClosed).MineMean*-1, 0.01, "the hat is 9 ms after the snare")
	alone := Between(mine, nil)
	assert.Nil(t, alone[0].ReferenceMean)
}

func TestTriesSayWhichIsNearest(t *testing.T) {
	base := []project.Edit{project.SetBars{Bars: 2}, project.FillLane{Voice: "kick", Every: 4}, project.FillLane{Voice: "hat", Every: 1}, project.SetNumber{At: "groove/feel/swing_percent", Value: 58}}
	target := heardAs(edited(t, base...))
	d := edited(t, append(base, project.AddVariation{}, project.SetNumber{At: "groove/feel/swing_percent", Value: 52}, project.Clear{Voice: "kick"})...)
	tries := Tries(d, target)
	require.Len(t, tries, 2)
	assert.InDelta(t, 0, *tries[0].Swing, 0.5)
	assert.InDelta(t, -6, *tries[1].Swing, 0.5)
	assert.InDelta(t, 1, *tries[0].Pattern, 1e-9)
	assert.Less(t, *tries[1].Pattern, 1.0)
	assert.Equal(t, 8, tries[0].Differs, "the kicks")
	assert.Zero(t, tries[1].Differs)
	assert.Nil(t, Tries(d, nil)[0].Swing)
}

// Groove to sound and back by ear: on dry kits each hit within 1.5 ms of where it was
// put, swing within a point.
func TestGrooveRenderedAndHeard(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to recordings")
	}
	for _, id := range []string{"hiphop-straight-1", "funk-1", "slow-rock-1", "drum-and-bass-1"} {
		p := pattern.Find(id)
		require.NotNil(t, p)
		d := edited(t)
		kit := preset.Kits()[1] // short and dry: a sound that swells has no sharp beginning
		var rows []project.GrooveRow
		for _, r := range p.Rows {
			rows = append(rows, project.GrooveRow{Lane: r.Lane, Name: r.Name, Family: r.Family})
		}
		d, _, err := d.Apply(project.Edits{project.SetKit{Voices: kit.Voices}, project.TakeGroove{Groove: p.Of, Rows: rows, Part: "both", Tempo: p.BPM}}, nil)
		require.NoError(t, err)
		out, err := engine.Render(context.Background(), d.Song(nil), engine.Bounce{Rate: 44100, Bars: 8})
		require.NoError(t, err)
		raw, err := transcribe.Analyze(context.Background(), out.Mix, func(string, float64) {})
		require.NoError(t, err)
		a := transcribe.Finish(raw, nil)
		require.NotNil(t, a.Tempo, id)
		assert.InDelta(t, p.BPM, *a.Tempo, 0.1, id)
		line := groove.NewLine(&d.Groove, d.Tempo, 0)
		var off []float64
		for _, e := range line.Events(0, 8*d.Groove.Meter.BarTicks(), nil) {
			f := d.Kit.Voice(d.Groove.Lanes[e.Lane].Voice).Family
			near := math.Inf(1)
			for _, h := range a.Hits {
				if h.Family == f && math.Abs(h.Time-e.Time) < math.Abs(near) {
					near = h.Time - e.Time
				}
			}
			if math.Abs(near) < 0.03 {
				off = append(off, math.Abs(near)*1000)
			}
		}
		require.NotEmpty(t, off)
		within := 0
		for _, o := range off {
			if o <= 1.5 {
				within++
			}
		}
		t.Logf("%s: %d hits found, %.1f %% within 1.5 ms", id, len(off), 100*float64(within)/float64(len(off)))
		if a.Feel != nil && a.Feel.Swing != nil {
			assert.InDelta(t, d.Groove.Feel.Swing, *a.Feel.Swing, 1, "%s: swing", id)
		}
		assert.Greater(t, float64(within)/float64(len(off)), 0.95, id)
	}
}
