package rebuild

import (
	"context"
	"errors"
	"fmt"
	"math"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/compare"
	"jubrak/core/isolate"
	"jubrak/core/project"
	"jubrak/core/transcribe"
	"jubrak/demo/rink"

	"jubrak/internal/brief"
)

var takes = func() (out [2]func() *compare.Against) {
	for i := range out {
		out[i] = sync.OnceValue(func() *compare.Against {
			b := rink.Takes[i].Record()
			raw, err := transcribe.Analyze(context.Background(), b, func(string, float64) {})
			if err != nil {
				panic(err)
			}
			a := transcribe.Finish(raw, nil)
			list, err := isolate.Find(context.Background(), b, a.Hits, isolate.Choices{}, func(float64) {})
			if err != nil {
				panic(err)
			}
			return &compare.Against{Analysis: isolate.With(a, list), Drums: list, Reference: "r"}
		})
	}
	return out
}()

func begun(t *testing.T, a *compare.Against) *Memory {
	t.Helper()
	m, err := NewMemory("Rebuilt", project.Reference{ID: "r", Kind: "audio", Blob: fmt.Sprintf("%064d", 0)}, a.Analysis)
	require.NoError(t, err)
	return m
}

// share is how many of the rows of a group that can be measured lie inside.
func share(c *compare.Comparison, groups ...compare.Group) float64 {
	inside, measurable := 0, 0
	for _, p := range c.Parts {
		for _, g := range groups {
			if p.Group == g {
				inside, measurable = inside+p.Measurable-p.Outside, measurable+p.Measurable
			}
		}
	}
	return float64(inside) / float64(max(measurable, 1))
}

// The demo's takes, rebuilt of their own samples and of fits: all timing inside, of tone and
// levels what is asked.
func TestRebuildOfSamples(t *testing.T) { rebuilt(t, Samples, 0.9) }

func TestRebuildOfFits(t *testing.T) {
	if testing.Short() {
		t.Skip("fits eight drums")
	}
	rebuilt(t, Fits, 0.75)
}

func rebuilt(t *testing.T, of Sounds, least float64) {
	for _, take := range brief.First(1, 0, 1) {
		a := takes[take]()
		w := begun(t, a)
		got, err := Rebuild(context.Background(), w.Document, a, Options{Sounds: of}, w.Host(nil))
		require.NoError(t, err)
		for _, s := range got.Stages {
			t.Log(s.Title, s.State, s.Result, s.Weak)
			assert.Equal(t, Done, s.State, s.Title)
		}
		c := got.Comparison
		for _, r := range c.Rows {
			if r.Inside != nil && !*r.Inside {
				t.Logf("%s off %.2f of %.2f within %.2f", r.ID, *r.Difference, r.Tolerance, r.Within)
			}
		}
		assert.Equal(t, 1.0, share(c, compare.FeelGroup, compare.HitsGroup), "timing and pattern, take %d", take)
		t.Logf("take %d: tone %.2f levels %.2f", take, share(c, compare.ToneGroup), share(c, compare.LevelGroup))
		assert.GreaterOrEqual(t, share(c, compare.ToneGroup, compare.LevelGroup), least, "tone with regions and levels, take %d", take)
		assert.LessOrEqual(t, math.Abs(*c.Row("loudness").Difference), 1.0)
		require.NoError(t, w.Document.Validate())
	}
}

// A performance without sound plays in a kit; what has no drums, and a disk that is full
// half way, are errors, and what was made stays.
func TestUnusualReferences(t *testing.T) {
	a := *takes[0]()
	a.Drums = nil // as of a MIDI file
	m := begun(t, &a)
	got, err := Rebuild(context.Background(), m.Document, &a, Options{Sounds: Kept}, m.Host(nil))
	require.NoError(t, err)
	assert.Equal(t, 1.0, share(got.Comparison, compare.FeelGroup, compare.HitsGroup))
	assert.NotNil(t, m.Document.Kit.Voice("808"), "the kit is kept")

	none := &compare.Against{Analysis: transcribe.Finish(&transcribe.Raw{Hits: []transcribe.Hit{}}, nil)}
	m = begun(t, none)
	_, err = Rebuild(context.Background(), m.Document, none, Options{Sounds: Fits}, m.Host(nil))
	assert.ErrorIs(t, err, ErrNothing)
	assert.Equal(t, 2, m.Document.Groove.Bars, "nothing was changed")

	full := errors.New("the disk is full")
	m = begun(t, takes[0]())
	h := m.Host(nil)
	put, n := h.Put, 0
	h.Put = func(edits project.Edits) (*project.Document, error) {
		if n++; n > 2 {
			return nil, full
		}
		return put(edits)
	}
	_, err = Rebuild(context.Background(), m.Document, takes[0](), Options{Sounds: Samples}, h)
	assert.ErrorIs(t, err, full)
	assert.Equal(t, 8, m.Document.Groove.Bars, "what was made stays")

	m = begun(t, takes[0]())
	ctx, stop := context.WithCancel(context.Background())
	h = m.Host(func(stages []Stage, _ float64) {
		if stages[2].State == Running {
			stop()
		}
	})
	got, err = Rebuild(ctx, m.Document, takes[0](), Options{Sounds: Fits}, h)
	require.NoError(t, err)
	assert.True(t, got.Stopped)
	assert.Equal(t, []State{Done, Done, Left}, []State{got.Stages[0].State, got.Stages[1].State, got.Stages[2].State})
}

// Two drums of one row are two voices, each with its own strokes.
func TestRowsOfTwoDrums(t *testing.T) {
	a := *takes[0]()
	var snare isolate.Drum
	rest := []isolate.Drum{}
	for _, d := range a.Drums {
		if d.Family == "snare" {
			snare = d
		} else {
			rest = append(rest, d)
		}
	}
	one, two := snare, snare
	one.Group, two.Group = 1, 2
	one.Strokes, two.Strokes = snare.Strokes[:10], snare.Strokes[10:]
	a.Drums = append(rest, one, two)
	m := begun(t, &a)
	ctx, stop := context.WithCancel(context.Background())
	_, err := Rebuild(ctx, m.Document, &a, Options{Sounds: Samples}, m.Host(func(stages []Stage, _ float64) {
		if stages[0].State == Done {
			stop()
		}
	}))
	require.NoError(t, err)
	names := []string{}
	hits := map[string]int{}
	for _, v := range m.Document.Kit.Voices {
		names = append(names, v.Name)
		hits[v.Name] = len(m.Document.Groove.Lane(v.ID).Hits)
	}
	assert.Contains(t, names, "Snare 2")
	assert.Equal(t, 26, hits["Snare"]+hits["Snare 2"])
	assert.InDelta(t, len(two.Strokes), hits["Snare 2"], 2)
}

// Worked examples of a place at equal power.
func TestPan(t *testing.T) {
	b := audio.New(48000, 2, 10)
	for i := range b.Channels[0] {
		b.Channels[0][i], b.Channels[1][i] = 0.5, 0.5
	}
	assert.Zero(t, panOf(b))
	clear(b.Channels[0])
	assert.Equal(t, 1.0, panOf(b))
	assert.Zero(t, panOf(audio.New(48000, 1, 10)))
}
