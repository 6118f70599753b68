package rebuild

import (
	"context"
	"fmt"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/drums"
	"jubrak/core/listen"
	"jubrak/core/match"
	"jubrak/core/project"
	"jubrak/demo/rink"
)

var takes = func() (out [2]func() *match.Against) {
	for i := range out {
		out[i] = sync.OnceValue(func() *match.Against {
			b := rink.Takes[i].Record()
			raw, err := listen.Listen(context.Background(), b, func(string, float64) {})
			if err != nil {
				panic(err)
			}
			a := listen.Finish(raw, nil)
			list, err := drums.Find(context.Background(), b, a.Hits, drums.Choices{}, func(float64) {})
			if err != nil {
				panic(err)
			}
			return &match.Against{Analysis: drums.With(a, list), Drums: list, Reference: "r"}
		})
	}
	return out
}()

func begun(t *testing.T, a *match.Against) *Memory {
	t.Helper()
	m, err := NewMemory("Rebuilt", project.Reference{ID: "r", Kind: "audio", Blob: fmt.Sprintf("%064d", 0)}, a.Analysis)
	require.NoError(t, err)
	return m
}

// share is how many of the rows of a group that can be measured lie inside.
func share(c *match.Comparison, groups ...match.Group) float64 {
	inside, told := 0, 0
	for _, p := range c.Parts {
		for _, g := range groups {
			if p.Group == g {
				inside, told = inside+p.Told-p.Outside, told+p.Told
			}
		}
	}
	return float64(inside) / float64(max(told, 1))
}

func TestRebuildFits(t *testing.T)      { rebuilt(t, Fits) }
func TestRebuildOfSamples(t *testing.T) { rebuilt(t, Samples) }

func rebuilt(t *testing.T, of Sounds) {
	for take := range takes {
		a := takes[take]()
		w := begun(t, a)
		got, err := Rebuild(context.Background(), w.Document, a, Options{Sounds: of}, w.Host(nil))
		require.NoError(t, err)
		for _, s := range got.Steps {
			t.Log(s.Title, s.State, s.Result, s.Weak)
			assert.Equal(t, Done, s.State, s.Title)
		}
		c := got.Comparison
		for _, r := range c.Rows {
			if r.Inside != nil && !*r.Inside {
				t.Logf("%s off %.2f of %.2f within %.2f", r.ID, *r.Difference, r.Tolerance, r.Within)
			}
		}
		assert.Equal(t, 1.0, share(c, match.FeelGroup, match.HitsGroup), "timing and pattern, take %d", take)
		t.Logf("take %d: tone %.2f levels %.2f", take, share(c, match.ToneGroup), share(c, match.LevelGroup))
		require.NoError(t, w.Document.Validate())
	}
}
