package service

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
			switch rapid.IntRange(0, 5).Draw(t, "kind") {
			case 0:
				_, err = w.UndoRedo(st.ID, st.Version, -1)
			case 1:
				_, err = w.UndoRedo(st.ID, st.Version, 1)
			case 2:
				_, err = w.Go(st.ID, st.Version, rapid.IntRange(0, 12).Draw(t, "place"))
			default:
				var e project.Edit = project.AddHit{Voice: rapid.SampledFrom([]string{"kick", "snare", "hat"}).Draw(t, "voice"), Tick: 240 * rapid.IntRange(0, 5).Draw(t, "step"), Velocity: rapid.IntRange(1, 127).Draw(t, "velocity")}
				if rapid.Bool().Draw(t, "tempo") {
					e = project.SetNumber{At: "tempo/bpm", Value: float64(rapid.IntRange(60, 180).Draw(t, "bpm"))}
				}
				st, err = w.Edit(st.ID, st.Version, project.Edits{e}, rapid.SampledFrom([]string{"", "drag"}).Draw(t, "gesture"))
			}
			require.NoError(t, err)
			fresh := New(w.Store)
			there, err := fresh.Open(st.ID)
			fresh.Close()
			require.NoError(t, err)
			here, err := w.Open(st.ID)
			require.NoError(t, err)
			require.Equal(t, there, here)
			st = here
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
			_, err := w.Edit(st.ID, st.Version, project.Edits{project.RenameProject{Name: fmt.Sprint("Lap ", i)}}, "")
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
		again, err := w.Edit(st.ID, st.Version, project.Edits{project.AddHit{Voice: "kick"}}, "")
		require.NoError(t, err)
		assert.Equal(t, fmt.Sprint("Lap ", i), again.Document.Name)
	}
	require.NoError(t, w.Delete(all[0].ID))
	_, err := w.Open(all[0].ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.NotContains(t, w.held, all[0].ID)
}

// A gesture is one step, named for all of it; what was undone is forgotten by the
// next edit.
func TestHistoryHasNames(t *testing.T) {
	w := open(t)
	st, err := w.Create(project.New("Lap"))
	require.NoError(t, err)
	edit := func(gesture string, e project.Edit) {
		t.Helper()
		st, err = w.Edit(st.ID, st.Version, project.Edits{e}, gesture)
		require.NoError(t, err)
	}
	names := func() (out []string) {
		h, err := w.History(st.ID)
		require.NoError(t, err)
		for _, s := range h.Changes {
			out = append(out, s.Name)
		}
		return out
	}
	at := "kick/layers/drum/body.decay_ms"
	for _, ms := range []float64{380, 320, 410} {
		edit("drag 1", project.SetNumber{At: at, Value: ms})
	}
	edit("", project.SetNumber{At: at, Value: 300})
	edit("drag 2", project.SetNumber{At: at, Value: 299})
	assert.Equal(t, []string{"", "Kick, body: decay 420 → 410 ms", "Kick, body: decay 410 → 300 ms", "Kick, body: decay 300 → 299 ms"}, names())
	_, err = w.Go(st.ID, st.Version, 2)
	require.NoError(t, err)
	st, err = w.Open(st.ID)
	require.NoError(t, err)
	assert.Equal(t, 410.0, st.Document.Kit.Voice("kick").Synth().Recipe.Body.Decay)
	edit("", project.SetNumber{At: "kick/mute", Value: 1})
	assert.Equal(t, []string{"", "Kick, body: decay 420 → 410 ms", "Kick: mute on"}, names())
	_, err = w.History("nobody")
	assert.Error(t, err)
}
