package compare

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
	"jubrak/demo/rink"
)

func compare(t *testing.T, d *project.Document, a *transcribe.Analysis) *Comparison {
	t.Helper()
	mine, err := MeasureMine(context.Background(), d, nil)
	require.NoError(t, err)
	return Compare(d, mine, &Against{Analysis: a})
}

type env struct{ a *transcribe.Analysis }

func (e env) Analysis(*project.Reference) (*transcribe.Analysis, error) { return e.a, nil }

var heardOnce [2]func() *transcribe.Raw

func init() {
	for i := range heardOnce {
		heardOnce[i] = sync.OnceValue(func() *transcribe.Raw {
			raw, err := transcribe.Analyze(context.Background(), rink.Takes[i].Record(), func(string, float64) {})
			if err != nil {
				panic(err)
			}
			return raw
		})
	}
}

// heard is the analysis of a take of the demo, listened to once for all tests.
func heard(t *testing.T, take int) *transcribe.Analysis {
	t.Helper()
	a := transcribe.Finish(heardOnce[take](), nil)
	return a
}

func start(t *testing.T) (*project.Document, *transcribe.Analysis) {
	t.Helper()
	a := heard(t, 0)
	d, _, err := project.New("x").Apply(project.Edits{
		project.AddReference{Reference: project.Reference{ID: "r", Name: "r"}}, project.TakePattern{},
		project.SetNumber{At: "tempo/bpm", Value: 90}, project.SetNumber{At: "groove/feel/snare/lean_ms", Value: 25}, project.SetNumber{At: "groove/feel/hat/scatter_ms", Value: 12},
	}, env{a})
	require.NoError(t, err)
	return d, a
}

// Every change that a row offers closes the row, measured again on the real
// render.
func TestChangesCloseTheirRows(t *testing.T) {
	d, a := start(t)
	c := compare(t, d, a)
	closed := 0
	for _, id := range []string{"tempo", "swing", "lean.snare", "scatter.hat_closed", "loudness"} {
		r := c.Row(id)
		require.NotNil(t, r, id)
		require.NotNil(t, r.Inside, id)
		if *r.Inside {
			continue
		}
		require.NotEmpty(t, r.Edits, id)
		assert.NotEmpty(t, r.Change, id)
		next, _, err := d.Apply(r.Edits, env{a})
		require.NoError(t, err, id)
		after := compare(t, next, a).Row(id)
		assert.True(t, *after.Inside, "%s: %s left %.2f", id, r.Change, *after.Difference)
		closed++
	}
	assert.GreaterOrEqual(t, closed, 4, "the start was far enough away")
}

func TestTakingBothBringsTimingInside(t *testing.T) {
	d, a := start(t)
	next, _, err := d.Apply(project.Edits{project.Straighten{}, project.TakeBoth{}}, env{a})
	require.NoError(t, err)
	before, after := compare(t, d, a), compare(t, next, a)
	for _, id := range []string{"tempo", "swing", "lean.kick", "lean.snare", "lean.hat_closed", "scatter.hat_closed", "density.kick", "density.snare"} {
		r := after.Row(id)
		require.NotNil(t, r, id)
		require.NotNil(t, r.Inside, "%s: %s", id, r.Why)
		assert.True(t, *r.Inside, "%s is off by %.2f", id, *r.Difference)
	}
	assert.Less(t, after.Outside, before.Outside)
}

// Strokes of a roll between steps count for strength on both sides, and for the
// feel on neither.
func TestATakenRollComparesAsItIs(t *testing.T) {
	raw := &transcribe.Raw{Unit: 4, Duration: 17, Hits: []transcribe.Hit{}, Grid: new(groove.SteadyGrid(0, 120, 33, 4))}
	strike := func(f sound.Family, beat float64, velocity int) {
		raw.Hits = append(raw.Hits, transcribe.Hit{ID: fmt.Sprint("r", len(raw.Hits)), Time: beat / 2, Family: f, Velocity: velocity, Confidence: 1})
	}
	for bar := range 8 {
		at := float64(4 * bar)
		strike(sound.Kick, at, 100)
		for eighth := range 6 {
			strike(sound.HatClosed, at+float64(eighth)/2, 100)
		}
		for k := range 6 { // sixteenth triplets, falling
			strike(sound.HatClosed, at+3+float64(k)/6, 90-10*k)
		}
	}
	a := transcribe.Finish(raw, nil)
	require.Len(t, a.Rolls, 8)
	d, _, err := project.New("x").Apply(project.Edits{project.AddReference{Reference: project.Reference{ID: "r", Name: "r"}}, project.TakeBoth{}}, env{a})
	require.NoError(t, err)
	mine, theirs := Feel(d).Voices["hat_closed"], a.Feel.Voices["hat_closed"]
	assert.Equal(t, theirs.Count, mine.Count)
	assert.Equal(t, theirs.Timed, mine.Timed)
	assert.InDelta(t, theirs.VelocityMean, mine.VelocityMean, 0.5)
}

func TestRowsSayWhyTheyCannotTell(t *testing.T) {
	_, a := start(t)
	empty := project.New("x")
	c := compare(t, empty, a)
	assert.Nil(t, c.Row("swing").Inside)
	assert.NotEmpty(t, c.Row("swing").Why)
	assert.Nil(t, c.Row("lean.snare").Inside)
	assert.Equal(t, "no hits of mine", c.Row("lean.snare").Why)
	assert.Nil(t, c.Row("loudness").Mine, "silence has no loudness")
	none := transcribe.Finish(&transcribe.Raw{Hits: []transcribe.Hit{}}, nil)
	c = compare(t, empty, none)
	assert.Zero(t, c.Measurable)
	for _, r := range c.Rows {
		assert.NotNil(t, r.Edits, r.ID)
	}
}

func TestEveryKindOfRowIsThere(t *testing.T) {
	d, a := start(t)
	c := compare(t, d, a)
	for _, id := range []string{"tempo", "swing", "loudness", "balance_sub", "balance_low", "balance_low_mid", "balance_presence", "balance_air"} {
		assert.NotNil(t, c.Row(id), id)
	}
	for _, f := range []sound.Family{sound.Kick, sound.Snare, sound.HatClosed} {
		for _, m := range []string{"lean", "scatter", "velocity", "density"} {
			r := c.Row(m + "." + string(f))
			require.NotNil(t, r)
			assert.Equal(t, f, r.Family)
			assert.Positive(t, r.Tolerance)
		}
	}
}

// Tolerances against their sources: Friberg & Sundberg 1995, and 40 dB for a tenth of the
// velocity, of which 6 of about 100 are a decibel.
func TestTolerances(t *testing.T) {
	for spacing, ms := range map[float64]float64{100: 6, 240: 6, 400: 10, 1000: 25} {
		assert.InDelta(t, ms, unheard(spacing), 1e-9, "%.0f ms", spacing)
	}
	assert.InDelta(t, 1, 40*math.Log10((100+column("velocity").tolerance)/100), 0.05)
	assert.InDelta(t, 2, 40*math.Log10((100+column("accents").tolerance)/100), 0.05)
	for _, c := range Columns {
		assert.NotEmpty(t, c.Source, c.ID)
		assert.NotEmpty(t, c.Hint, c.ID)
		if c.tolerance == 0 {
			assert.Contains(t, []string{"tempo", "swing", "pair", "hits"}, c.ID, "follows from the value")
		}
	}
}

func TestMatchGain(t *testing.T) {
	quiet, loud := -30.0, -10.0
	assert.InDelta(t, 10, MatchGain(&loud, &quiet), 1e-9)
	assert.Equal(t, 1.0, MatchGain(nil, &loud))
	far := -90.0
	assert.InDelta(t, 15.85, MatchGain(&loud, &far), 0.01, "no more than 24 dB")
}

func TestReferencesAgainstEachOther(t *testing.T) {
	_, a := start(t)
	same := References(&Against{Analysis: a}, &Against{Analysis: a})
	assert.Zero(t, same.Outside, "a reference is like itself")
	assert.Greater(t, same.Measurable, 12)
	b := heard(t, 1)
	c := References(&Against{Analysis: a}, &Against{Analysis: b})
	require.NotNil(t, c.Row("tempo").Difference)
	assert.InDelta(t, *a.Tempo-*b.Tempo, *c.Row("tempo").Difference, 1e-9)
	assert.Greater(t, c.Outside, 3)
	for _, r := range c.Rows {
		assert.Empty(t, r.Edits, "a recording cannot be changed")
	}
	nothing := References(&Against{Analysis: &transcribe.Analysis{}}, &Against{Analysis: b})
	assert.Nil(t, nothing.Row("tempo").Mine)
	assert.NotEmpty(t, nothing.Row("tempo").Why)
}

// A profile stands on either side, and so does nothing at all.
func TestReferencesOfEveryKind(t *testing.T) {
	p := house(t)
	p.Voices[sound.Kick] = profile.Voice{Lean: &profile.Range{}, Contour: make([]float64, 16), Accent: make([]float64, 16)}
	of := []*Against{
		{Analysis: heard(t, 1)}, {Analysis: p.Analysis(), Profile: p}, {Analysis: transcribe.Finish(&transcribe.Raw{Hits: []transcribe.Hit{}}, nil)}, against(t, 0),
	}
	for i, a := range of {
		for j, b := range of {
			c := References(a, b)
			text, err := json.Marshal(c)
			require.NoError(t, err, "%d, %d", i, j)
			assert.NotContains(t, string(text), "null]", "lists hold something")
			if i == j {
				assert.Zero(t, c.Outside, "%d is like itself", i)
			}
		}
	}
}

// house is the genre that these tests compare with.
func house(t *testing.T) *profile.Profile {
	t.Helper()
	for _, p := range profile.Genres() {
		if p.ID == "genre-house-classic" {
			return &p
		}
	}
	t.Fatal("there is no such genre")
	return nil
}

// A genre's ranges are its tolerances.
func TestProfilesWidenTolerances(t *testing.T) {
	d := project.New("x")
	p := house(t)
	mine, err := MeasureMine(context.Background(), d, nil)
	require.NoError(t, err)
	d.Tempo = music.Steady(118.5)
	c := Compare(d, mine, &Against{Analysis: p.Analysis(), Profile: p})
	assert.True(t, *c.Row("tempo").Inside, "118 to 125 is all house")
	d.Tempo = music.Steady(130)
	c = Compare(d, mine, &Against{Analysis: p.Analysis(), Profile: p})
	assert.False(t, *c.Row("tempo").Inside)
	next, _, err := d.Apply(project.Edits{
		project.AddReference{Reference: project.Reference{ID: "p", Name: "House", Kind: "profile", Profile: p}}, project.TakeBoth{},
	}, env{p.Analysis()})
	require.NoError(t, err)
	assert.InDelta(t, p.Tempo.Middle(), next.Tempo[0].BPM, 0.01)
	assert.InDelta(t, p.Swing.Middle(), next.Groove.Feel.Swing, 0.01)
	assert.NotZero(t, next.Groove.Feel.Voices["open"].Lean)
	_, _, err = next.Apply(project.Edits{project.TakePattern{}}, env{p.Analysis()})
	assert.ErrorContains(t, err, "no pattern")
}

// Lanes that meet again only after years are measured over what is heard of
// them in a few minutes.
func TestMineWithCoprimeLanes(t *testing.T) {
	d := project.New("Lantern Street")
	for i, steps := range []int{61, 59, 53} {
		l := &d.Groove.Lanes[i]
		l.Steps, l.Hits = steps, nil
		for s := range steps {
			l.Hits = append(l.Hits, groove.Hit{ID: fmt.Sprint("h", i, s), Tick: s * 240, Velocity: 90})
		}
	}
	require.NoError(t, d.Validate())
	mine, err := MeasureMine(context.Background(), d, nil)
	require.NoError(t, err)
	family := d.Kit.Voice(d.Groove.Lanes[0].Voice).Family
	assert.GreaterOrEqual(t, mine.Density[family], 3.9, "a hit on each sixteenth")
	require.NotEmpty(t, mine.Balance)
}
