package workshop

import (
	"fmt"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/app/store"
	"jubrak/core/project"
)

// What is held in memory is what the store has, after any edits, gestures,
// undone and redone steps.
func TestMemoryIsWhatTheStoreHas(t *testing.T) {
	w := open(t)
	rapid.Check(t, func(t *rapid.T) {
		st, err := w.Create(project.New("Lap"))
		require.NoError(t, err)
		for range rapid.IntRange(1, 12).Draw(t, "steps") {
			switch rapid.IntRange(0, 4).Draw(t, "kind") {
			case 0:
				st, err = w.Step(st.ID, st.Version, -1)
			case 1:
				st, err = w.Step(st.ID, st.Version, 1)
			default:
				e := project.Edit{Op: "hit.add", Voice: rapid.SampledFrom([]string{"kick", "snare", "hat"}).Draw(t, "voice"), Tick: 240 * rapid.IntRange(0, 5).Draw(t, "step"), Value: float64(rapid.IntRange(1, 127).Draw(t, "velocity"))}
				if rapid.Bool().Draw(t, "tempo") {
					e = project.Edit{Op: "tempo.set", Value: float64(rapid.IntRange(60, 180).Draw(t, "bpm"))}
				}
				st, err = w.Edit(st.ID, st.Version, []project.Edit{e}, rapid.SampledFrom([]string{"", "drag"}).Draw(t, "gesture"))
			}
			require.NoError(t, err)
			fresh := New(w.Store)
			there, err := fresh.Open(st.ID)
			fresh.Close()
			require.NoError(t, err)
			here, err := w.Open(st.ID)
			require.NoError(t, err)
			require.Equal(t, there, here)
			require.Equal(t, there.Document, st.Document)
			require.Equal(t, []any{there.Version, there.CanUndo, there.CanRedo}, []any{st.Version, st.CanUndo, st.CanRedo})
		}
	})
}

func TestOneOfManyWritersWins(t *testing.T) {
	w := open(t)
	st, err := w.Create(project.New("Lap"))
	require.NoError(t, err)
	var wg sync.WaitGroup
	var mu sync.Mutex
	won := 0
	for i := range 16 {
		wg.Go(func() {
			_, err := w.Edit(st.ID, st.Version, []project.Edit{{Op: "project.rename", Text: fmt.Sprint("Lap ", i)}}, "")
			mu.Lock()
			defer mu.Unlock()
			if err == nil {
				won++
			} else {
				assert.ErrorIs(t, err, store.ErrConflict)
			}
		})
	}
	wg.Wait()
	assert.Equal(t, 1, won)
}

// Only so many projects stay in memory; the others are read anew.
func TestManyProjects(t *testing.T) {
	w := open(t)
	var all []*State
	for i := range 2 * mostHeld {
		st, err := w.Create(project.New(fmt.Sprint("Lap ", i)))
		require.NoError(t, err)
		all = append(all, st)
	}
	held := 0
	for _, h := range w.held {
		if h.now.Load() != nil {
			held++
		}
	}
	assert.LessOrEqual(t, held, mostHeld)
	for i, st := range all {
		again, err := w.Edit(st.ID, st.Version, []project.Edit{{Op: "hit.add", Voice: "kick"}}, "")
		require.NoError(t, err)
		assert.Equal(t, fmt.Sprint("Lap ", i), again.Document.Name)
	}
	require.NoError(t, w.Delete(all[0].ID))
	_, err := w.Open(all[0].ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.NotContains(t, w.held, all[0].ID)
}
