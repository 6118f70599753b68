package compare

import (
	"context"
	"math"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/groove"
	"jubrak/core/isolate"
	"jubrak/core/project"
	"jubrak/core/transcribe"
	"jubrak/demo/rink"
)

var drumsOnce = [2]func() []isolate.Drum{}

func init() {
	for i := range drumsOnce {
		drumsOnce[i] = sync.OnceValue(func() []isolate.Drum {
			a := transcribe.Finish(heardOnce[i](), nil)
			list, err := isolate.Find(context.Background(), rink.Takes[i].Record(), a.Hits, isolate.Choices{}, func(float64) {})
			if err != nil {
				panic(err)
			}
			return list
		})
	}
}

// against is a take of the demo with its drums.
func against(t *testing.T, take int) *Against {
	t.Helper()
	list := drumsOnce[take]()
	return &Against{Analysis: isolate.With(heard(t, take), list), Drums: list, Reference: "r"}
}

func begun(t *testing.T, a *Against) *project.Document {
	t.Helper()
	d, _, err := project.New("x").Apply(project.Edits{
		project.AddReference{Reference: project.Reference{ID: "r", Name: "r", Kind: "audio"}}, project.TakeBoth{Bars: project.OnlyCycle},
	}, env{a.Analysis})
	require.NoError(t, err)
	return d
}

// All timing of the demo's takes is inside after one round, whatever it was before.
func TestAllTimingIsClosed(t *testing.T) {
	if testing.Short() {
		t.Skip("closes all timing of both takes, twenty seconds")
	}
	for take := range drumsOnce {
		a := against(t, take)
		d := begun(t, a)
		d, _, err := d.Apply(project.Edits{
			project.SetNumber{At: "tempo/bpm", Value: 81}, project.SetNumber{At: "groove/feel/swing_percent", Value: 51},
			project.SetNumber{At: "groove/feel/snare/lean_ms", Value: 24}, project.SetNumber{At: "groove/feel/hat/scatter_ms", Value: 16},
			project.SetNumber{At: "groove/feel/kick/lean_ms", Value: -14}, project.SetDrift{Curve: []float64{0, 20}, Voices: []string{"kick", "hat"}},
		}, nil)
		require.NoError(t, err)
		k := &Closer{Env: env{a.Analysis}}
		before := compareWith(t, d, a)
		var ids []string
		for _, r := range before.Rows {
			if column(r.Column).Group == FeelGroup {
				ids = append(ids, r.ID)
			}
		}
		got, err := k.Apply(context.Background(), d, a, ids, func(float64, string) {})
		require.NoError(t, err)
		next, _, err := d.Apply(got.Edits, k.Env)
		require.NoError(t, err)
		after := compareWith(t, next, a)
		assert.Greater(t, before.Parts[0].Outside, 4)
		for _, r := range after.Rows {
			if column(r.Column).Group == FeelGroup && r.Inside != nil {
				assert.True(t, *r.Inside, "take %d: %s is off by %.2f of %.2f within %.2f", take, r.ID, *r.Difference, r.Tolerance, r.Within)
			}
		}
		for _, r := range got.Rows {
			require.NotNil(t, r.Got, r.ID)
			assert.InDelta(t, *after.Row(r.ID).Difference-*before.Row(r.ID).Difference, *r.Got, 1e-9, "what is reported is what is measured: %s", r.ID)
		}
	}
}

// All that lies outside is closed as far as numbers and effects do it.
func TestAllIsBroughtNearer(t *testing.T) {
	if testing.Short() {
		t.Skip("renders for half a minute")
	}
	a := against(t, 0)
	d := begun(t, a)
	k := &Closer{Env: env{a.Analysis}}
	before := compareWith(t, d, a)
	got, err := k.Apply(context.Background(), d, a, nil, func(float64, string) {})
	require.NoError(t, err)
	next, _, err := d.Apply(got.Edits, k.Env)
	require.NoError(t, err)
	after := compareWith(t, next, a)
	for _, c := range []*Comparison{before, after} {
		t.Log(c.Outside, c.Measurable, c.Parts, c.Largest)
	}
	for _, r := range after.Rows {
		if r.Inside != nil && !*r.Inside {
			t.Logf("%s %.3f against %.3f, off %.2f, %.2f within %.2f", r.ID, *r.Mine, *r.Reference, *r.Difference, r.Tolerance, r.Within)
		}
		if r.Inside == nil {
			t.Logf("%s: %s", r.ID, r.Why)
		}
	}
	assert.Less(t, after.Outside, before.Outside*6/10)
}

// Every value out of tolerance has something to do.
func TestEveryGapHasAnAct(t *testing.T) {
	a := against(t, 0)
	d := begun(t, a)
	d, _, err := d.Apply(project.Edits{project.DeleteHits{Hits: []project.HitRef{{Voice: "kick", Hit: d.Groove.Lane("kick").Hits[0].ID}}}}, nil)
	require.NoError(t, err)
	c := compareWith(t, d, a)
	acts := map[Act]int{}
	for _, r := range c.Order() {
		assert.NotEmpty(t, r.Change, r.ID)
		assert.NotEqual(t, NoAct, r.Act, r.ID)
		assert.Equal(t, r.Act == ByEdits, len(r.Edits) > 0, r.ID)
		acts[r.Act]++
	}
	assert.Positive(t, acts[ByEdits])
	assert.Positive(t, acts[ByMeasure])
	assert.Len(t, c.Largest, 3)
	hits := c.Row("hits.kick")
	require.NotNil(t, hits.Difference)
	assert.Equal(t, 1.0, *hits.Difference)
	assert.Contains(t, hits.Change, "Add 1 (1.1")
	next, _, err := d.Apply(hits.Edits, nil)
	require.NoError(t, err)
	assert.Zero(t, *compareWith(t, next, a).Row("hits.kick").Difference)
}

func compareWith(t *testing.T, d *project.Document, a *Against) *Comparison {
	t.Helper()
	mine, err := MeasureMine(context.Background(), d, nil)
	require.NoError(t, err)
	return Compare(d, mine, a)
}

func TestLouder(t *testing.T) {
	// Derivation: half of all is 0 dB against the others, a tenth -9.54 dB.
	assert.InDelta(t, 9.54, louder(-10, -3.0103), 0.01)
	assert.InDelta(t, 0, louder(-7, -7), 1e-9)
}

// Worked examples: a hit a step away has moved, others are missing or extra.
func TestHitsApart(t *testing.T) {
	at := func(ticks ...int) (out []groove.Hit) {
		for _, k := range ticks {
			out = append(out, groove.Hit{Tick: k})
		}
		return out
	}
	off := apartHits(at(0, 960, 2160), at(0, 1920, 2880), 3840, 3840, 240)
	assert.Len(t, off.missing, 1, "2880")
	assert.Len(t, off.extra, 1, "960")
	require.Len(t, off.moved, 1)
	assert.Equal(t, [2]int{2160, 1920}, [2]int{off.moved[0][0].Tick, off.moved[0][1].Tick})
	assert.Zero(t, apartHits(at(0, 960, 3840, 4800), at(0, 960), 3840, 7680, 240).count(), "a bar that goes round")
}

// A bus is compared with the reference's drums of the families that go through it, and
// closed by an equalizer of its own and its level.
func TestBuses(t *testing.T) {
	a := against(t, 0)
	d := begun(t, a)
	d, _, err := d.Apply(project.Edits{project.AddBus{Name: "Shells", Rows: []string{"kick", "snare"}}, project.AddBus{Name: "Room"}}, nil)
	require.NoError(t, err)
	c := compareWith(t, d, a)
	bus := project.BusRow(d.Mix.Buses[0].ID)
	level := c.Row("bus_level." + bus)
	require.NotNil(t, level)
	require.NotNil(t, level.Difference, level.Why)
	assert.Nil(t, c.Row("bus_level."+project.BusRow(d.Mix.Buses[1].ID)), "nothing goes through it")
	var ids []string
	for _, r := range c.Rows {
		if column(r.Column).Bus && r.Column != "bus_crest" {
			ids = append(ids, r.ID)
		}
	}
	off := func(c *Comparison) (sum float64) {
		for _, id := range ids {
			if r := c.Row(id); r.Difference != nil {
				sum += math.Max(math.Abs(*r.Difference)-r.Tolerance, 0)
			}
		}
		return sum
	}
	k := &Closer{Env: env{a.Analysis}}
	got, err := k.Apply(context.Background(), d, a, ids, func(float64, string) {})
	require.NoError(t, err)
	next, _, err := d.Apply(got.Edits, k.Env)
	require.NoError(t, err)
	assert.NotEmpty(t, next.Mix.Buses[0].Chain)
	assert.Less(t, off(compareWith(t, next, a)), off(c)/2)
}
