package jobs

import (
	"context"
	"errors"
	"runtime"
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func final(t *testing.T, m *Manager, id string) Job {
	t.Helper()
	var j Job
	require.Eventually(t, func() bool {
		j, _ = m.Get(id)
		return j.Status.Ended()
	}, 5*time.Second, time.Millisecond)
	return j
}

func TestOutcomes(t *testing.T) {
	m := New(nil)
	defer m.Close()
	done := m.Start(Spec{Title: "a"}, func(_ context.Context, w *Watch) (string, error) {
		w.Report("half", 0.5)
		return "r1", nil
	})
	j := final(t, m, done.ID)
	assert.Equal(t, Job{ID: done.ID, Title: "a", Status: Done, Stage: "half", Progress: 1, Result: "r1", Notes: []string{}}, j)
	failed := final(t, m, m.Start(Spec{Title: "b"}, func(context.Context, *Watch) (string, error) { return "", errors.New("no luck.") }).ID)
	assert.Equal(t, Failed, failed.Status)
	assert.Equal(t, "no luck.", failed.Error)
	broken := final(t, m, m.Start(Spec{Title: "c"}, func(context.Context, *Watch) (string, error) { panic("oh") }).ID)
	assert.Equal(t, Failed, broken.Status)
	assert.Contains(t, broken.Error, "Nothing was changed")
}

func TestCancel(t *testing.T) {
	m := New(nil)
	started := make(chan bool)
	j := m.Start(Spec{Title: "long"}, func(ctx context.Context, _ *Watch) (string, error) {
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
	synctest.Test(t, func(t *testing.T) {
		m := New(nil)
		goes := make(chan struct{})
		m.Start(Spec{Title: "x"}, func(ctx context.Context, _ *Watch) (string, error) {
			<-ctx.Done()
			<-goes
			return "", ctx.Err()
		})
		var closed atomic.Bool
		go func() {
			m.Close()
			closed.Store(true)
		}()
		synctest.Wait()
		assert.False(t, closed.Load(), "the work goes on")
		close(goes)
		synctest.Wait()
		assert.True(t, closed.Load())
	})
}

func TestOldJobsAreForgotten(t *testing.T) {
	m := New(nil)
	defer m.Close()
	first := m.Start(Spec{Title: "x"}, func(context.Context, *Watch) (string, error) { return "", nil })
	final(t, m, first.ID)
	for range kept + 5 {
		final(t, m, m.Start(Spec{Title: "x"}, func(context.Context, *Watch) (string, error) { return "", nil }).ID)
	}
	_, ok := m.Get(first.ID)
	assert.False(t, ok)
}

func TestShowsWhatThereIsSoFar(t *testing.T) {
	m := New(nil)
	defer m.Close()
	shown, end := make(chan struct{}), make(chan struct{})
	j := m.Start(Spec{Title: "x"}, func(_ context.Context, w *Watch) (string, error) {
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

// No more run at a time than there are cores; the rest waits in order, and what
// waits can be cancelled.
func TestWorkWaitsInLine(t *testing.T) {
	m := New(nil)
	defer m.Close()
	var mu sync.Mutex
	running, most := 0, 0
	end := make(chan struct{})
	work := func(context.Context, *Watch) (string, error) {
		mu.Lock()
		running++
		most = max(most, running)
		mu.Unlock()
		<-end
		mu.Lock()
		running--
		mu.Unlock()
		return "", nil
	}
	var all []Job
	known := make(chan Job, 30)
	for range runtime.NumCPU() + 18 {
		all = append(all, m.Start(Spec{Title: "x", Ended: func(j Job) { known <- j }}, work))
	}
	last := all[len(all)-1]
	now, _ := m.Get(last.ID)
	assert.Equal(t, Waiting, now.Status)
	assert.Equal(t, 18, now.Ahead)
	assert.True(t, m.Cancel(last.ID))
	assert.Equal(t, Cancelled, (<-known).Status, "at once")
	close(end)
	for _, j := range all[:len(all)-1] {
		assert.Equal(t, Done, final(t, m, j.ID).Status)
	}
	assert.LessOrEqual(t, most, runtime.NumCPU())
	assert.Len(t, m.List(), len(all))
}

func TestInterruptedWork(t *testing.T) {
	m := New(nil)
	defer m.Close()
	m.Interrupted(Spec{ID: "j7", Title: "Listening", Project: "p"})
	j, ok := m.Get("j7")
	require.True(t, ok)
	assert.Equal(t, Interrupted, j.Status)
	again := m.Start(Spec{ID: "j7", Title: "Listening", Project: "p"}, func(context.Context, *Watch) (string, error) { return "r", nil })
	assert.Equal(t, "j7", again.ID)
	assert.Equal(t, "r", final(t, m, "j7").Result)
	assert.Len(t, m.List(), 1)
	other := m.Start(Spec{}, func(context.Context, *Watch) (string, error) { return "", nil })
	assert.NotEqual(t, "j7", other.ID)
}
