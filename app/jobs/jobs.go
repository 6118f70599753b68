// Package jobs runs long work in the background with progress and cancel.
package jobs

import (
	"context"
	"errors"
	"fmt"
	"sync"
)

// Status of a job.
type Status string

// The states a job goes through; the last three are final.
const (
	Running   Status = "running"
	Done      Status = "done"
	Failed    Status = "failed"
	Cancelled Status = "cancelled"
)

// Job is a snapshot of some work. Progress runs from 0 to 1.
type Job struct {
	ID       string  `json:"id"`
	Title    string  `json:"title"`
	Status   Status  `json:"status"`
	Stage    string  `json:"stage"`
	Progress float64 `json:"progress"`
	// Error is a sentence for the user where the work failed.
	Error string `json:"error"`
	// Result is what the work leaves, an id for instance.
	Result string `json:"result"`
	// Shown counts how often the work has shown something so far.
	Shown int `json:"shown"`
}

// Work does something long. It reports its stage and progress, stops when
// ctx ends, and returns a result for the user or an error.
type Work func(ctx context.Context, w *Watch) (result string, err error)

// Watch is how work tells of itself while it runs.
type Watch struct {
	// Report tells the stage and how far the whole has come, 0..1.
	Report func(stage string, done float64)
	// Show gives what there is so far; Manager.Shown returns the newest. It
	// must not be changed afterwards.
	Show func(any)
}

// Manager runs jobs. The zero value is not usable; see New.
type Manager struct {
	mu     sync.Mutex
	jobs   map[string]*entry
	order  []string
	next   int
	wait   sync.WaitGroup
	ctx    context.Context
	cancel context.CancelFunc
}

type entry struct {
	job    Job
	shown  any
	cancel context.CancelFunc
}

const kept = 64 // finished jobs remembered

// New is a manager without jobs.
func New() *Manager {
	m := &Manager{jobs: map[string]*entry{}}
	m.ctx, m.cancel = context.WithCancel(context.Background())
	return m
}

// Start runs work in the background and returns at once.
func (m *Manager) Start(title string, work Work) Job {
	ctx, cancel := context.WithCancel(m.ctx)
	m.mu.Lock()
	m.next++
	e := &entry{job: Job{ID: fmt.Sprintf("j%d", m.next), Title: title, Status: Running}, cancel: cancel}
	m.jobs[e.job.ID] = e
	m.order = append(m.order, e.job.ID)
	if len(m.order) > kept {
		if old := m.jobs[m.order[0]]; old.job.Status != Running {
			delete(m.jobs, m.order[0])
			m.order = m.order[1:]
		}
	}
	job := e.job
	m.wait.Add(1)
	m.mu.Unlock()
	go func() {
		defer m.wait.Done()
		defer cancel()
		result, err := m.guard(ctx, e, work)
		m.mu.Lock()
		defer m.mu.Unlock()
		e.shown = nil // it may be large, and the result is there
		switch {
		case errors.Is(err, context.Canceled):
			e.job.Status = Cancelled
		case err != nil:
			e.job.Status, e.job.Error = Failed, err.Error()
		default:
			e.job.Status, e.job.Result, e.job.Progress = Done, result, 1
		}
	}()
	return job
}

// guard runs the work; a panic becomes a failure of this job alone.
func (m *Manager) guard(ctx context.Context, e *entry, work Work) (result string, err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("the work failed in a way nobody foresaw (%v); nothing was changed", p)
		}
	}()
	return work(ctx, &Watch{
		Report: func(stage string, done float64) {
			m.mu.Lock()
			defer m.mu.Unlock()
			e.job.Stage, e.job.Progress = stage, done
		},
		Show: func(what any) {
			m.mu.Lock()
			defer m.mu.Unlock()
			e.shown, e.job.Shown = what, e.job.Shown+1
		},
	})
}

// Shown is the newest that a running job has shown; nil if there is none.
func (m *Manager) Shown(id string) any {
	m.mu.Lock()
	defer m.mu.Unlock()
	if e, ok := m.jobs[id]; ok {
		return e.shown
	}
	return nil
}

// Get is the present state of a job.
func (m *Manager) Get(id string) (Job, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if e, ok := m.jobs[id]; ok {
		return e.job, true
	}
	return Job{}, false
}

// Cancel asks a job to stop; it does so within moments.
func (m *Manager) Cancel(id string) bool {
	m.mu.Lock()
	defer m.mu.Unlock()
	e, ok := m.jobs[id]
	if ok {
		e.cancel()
	}
	return ok
}

// Close cancels all jobs and waits for them.
func (m *Manager) Close() {
	m.cancel()
	m.wait.Wait()
}
