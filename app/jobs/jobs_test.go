package jobs

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func final(t *testing.T, m *Manager, id string) Job {
	t.Helper()
	var j Job
	require.Eventually(t, func() bool {
		j, _ = m.Get(id)
		return j.Status != Running
	}, 5*time.Second, time.Millisecond)
	return j
}

func TestOutcomes(t *testing.T) {
	m := New()
	defer m.Close()
	done := m.Start("a", func(_ context.Context, w *Watch) (string, error) {
		w.Report("half", 0.5)
		return "r1", nil
	})
	j := final(t, m, done.ID)
	assert.Equal(t, Job{ID: done.ID, Title: "a", Status: Done, Stage: "half", Progress: 1, Result: "r1"}, j)
	failed := final(t, m, m.Start("b", func(context.Context, *Watch) (string, error) { return "", errors.New("no luck.") }).ID)
	assert.Equal(t, Failed, failed.Status)
	assert.Equal(t, "no luck.", failed.Error)
	broken := final(t, m, m.Start("c", func(context.Context, *Watch) (string, error) { panic("oh") }).ID)
	assert.Equal(t, Failed, broken.Status)
	assert.Contains(t, broken.Error, "nothing was changed")
}

func TestCancel(t *testing.T) {
	m := New()
	started := make(chan bool)
	j := m.Start("long", func(ctx context.Context, _ *Watch) (string, error) {
		close(started)
		<-ctx.Done()
		return "", ctx.Err()
	})
	<-started
	assert.True(t, m.Cancel(j.ID))
	assert.Equal(t, Cancelled, final(t, m, j.ID).Status)
	assert.False(t, m.Cancel("j99"))
	m.Close()
}

func TestCloseWaitsForWork(t *testing.T) {
	m := New()
	ended := false
	m.Start("x", func(ctx context.Context, _ *Watch) (string, error) {
		<-ctx.Done()
		time.Sleep(20 * time.Millisecond)
		ended = true
		return "", ctx.Err()
	})
	m.Close()
	assert.True(t, ended)
}

func TestOldJobsAreForgotten(t *testing.T) {
	m := New()
	defer m.Close()
	first := m.Start("x", func(context.Context, *Watch) (string, error) { return "", nil })
	final(t, m, first.ID)
	for range kept + 5 {
		final(t, m, m.Start("x", func(context.Context, *Watch) (string, error) { return "", nil }).ID)
	}
	_, ok := m.Get(first.ID)
	assert.False(t, ok)
}

func TestShowsWhatThereIsSoFar(t *testing.T) {
	m := New()
	defer m.Close()
	shown, end := make(chan struct{}), make(chan struct{})
	j := m.Start("x", func(_ context.Context, w *Watch) (string, error) {
		w.Show("one")
		w.Show("two")
		close(shown)
		<-end
		return "", nil
	})
	<-shown
	now, _ := m.Get(j.ID)
	assert.Equal(t, 2, now.Shown)
	assert.Equal(t, "two", m.Shown(j.ID))
	close(end)
	final(t, m, j.ID)
	assert.Nil(t, m.Shown(j.ID), "it is not kept")
	assert.Nil(t, m.Shown("nobody"))
}
