package service

import (
	"context"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/compare"
	"jubrak/core/project"
)

// Who asks for the same sound gets one measuring; what an edit made worthless is
// given up; what nobody waits for ends.
func TestMeasuringIsSharedAndGivenUp(t *testing.T) {
	w := open(t)
	st := make1(t, w, project.AddHit{Voice: "kick"}, project.SetBars{Bars: 8})
	var wg sync.WaitGroup
	got := make([]*compare.Mine, 8)
	for i := range got {
		wg.Go(func() {
			m, err := w.mine(context.Background(), st)
			assert.NoError(t, err)
			got[i] = m
		})
	}
	wg.Wait()
	for _, m := range got {
		assert.Same(t, got[0], m)
	}
	renamed, err := w.Edit(st.ID, st.Version, project.Edits{project.RenameProject{Name: "Other"}}, "")
	require.NoError(t, err)
	m, err := w.mine(context.Background(), renamed)
	require.NoError(t, err)
	assert.Same(t, got[0], m, "it sounds the same")

	louder, err := w.Edit(st.ID, renamed.Version, project.Edits{project.SetNumber{At: "kick/level_db", Value: 3}}, "")
	require.NoError(t, err)
	old := w.join(louder)
	more, err := w.Edit(st.ID, louder.Version, project.Edits{project.SetHits{Hits: []project.HitRef{{Voice: "kick", Hit: "h1"}}, Number: "velocity", Value: 20}}, "")
	require.NoError(t, err)
	newer, err := w.mine(context.Background(), more)
	require.NoError(t, err)
	<-old.done
	if old.err != nil { // else it was done before the edit
		assert.ErrorIs(t, old.err, errSuperseded)
	}
	assert.NotSame(t, got[0], newer)

	gone, cancel := context.WithCancel(context.Background())
	cancel()
	last, err := w.Edit(st.ID, more.Version, project.Edits{project.SetNumber{At: "kick/level_db", Value: -9}}, "")
	require.NoError(t, err)
	_, err = w.mine(gone, last)
	require.ErrorIs(t, err, context.Canceled)
	w.mu.Lock()
	defer w.mu.Unlock()
	assert.Same(t, newer, w.measures[st.ID].mine, "nobody waits for the last one")
}
