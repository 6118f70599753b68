// Package jobs runs long work in the background with progress and cancel, as
// many at a time as there are cores; the rest waits in line.
package jobs

import (
	"context"
	"errors"
	"fmt"
	"runtime"
	"runtime/debug"
	"slices"
	"sync"

	"jubrak/internal/guard"
)

// Status of a job.
type Status string

// The states a job goes through. Interrupted work was under way when the
// program stopped; it can be started again. Done, failed and cancelled are
// final.
const (
	Waiting     Status = "waiting"
	Interrupted Status = "interrupted"
	Running     Status = "running"
	Done        Status = "done"
	Failed      Status = "failed"
	Cancelled   Status = "cancelled"
)

// Ended reports whether nothing more will come of a job by itself.
func (s Status) Ended() bool { return s == Done || s == Failed || s == Cancelled }

// Kind is what a job does.
type Kind string

// The kinds.
const (
	Bring   Kind = "" // brings a file
	Fit     Kind = "fit"
	Apply   Kind = "apply"
	Rebuild Kind = "rebuild"
	Backing Kind = "backing"
)

// Job is a snapshot of some work. Progress runs from 0 to 1.
type Job struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	Kind  Kind   `json:"kind"`
	// Project is the id of the project that it works for, or empty.
	Project  string  `json:"project"`
	Status   Status  `json:"status"`
	Stage    string  `json:"stage"`
	Progress float64 `json:"progress"`
	// Error is a sentence for the user where the work failed.
	Error string `json:"error"`
	// Result is what the work leaves, an id for instance.
	Result string `json:"result"`
	// Notes say more of the result, sentences for the user.
	Notes []string `json:"notes"`
	// Ahead is how many jobs are before this one while it waits.
	Ahead int `json:"ahead"`
	// Shown counts how often the work has shown something so far.
	Shown int `json:"shown"`
}

// Work does something long. It reports its stage and progress, stops when
// ctx ends, and returns a result for the user or an error.
type Work func(ctx context.Context, w *Watch) (result string, err error)

// Watch is how work returns of itself while it runs.
type Watch struct {
	// Report reports the stage and how far the whole has come, 0..1.
	Report func(stage string, done float64)
	// Show gives what there is so far; Manager.Shown returns the newest. It
	// must not be changed afterwards.
	Show func(any)
	// Note adds a sentence about the result.
	Note func(string)
}

// Manager runs jobs. The zero value is not usable; see New.
type Manager struct {
	mu     sync.Mutex
	jobs   map[string]*entry
	order  []string
	next   int
	line   []string // ids of those that wait, the next first
	free   int      // how many more may run
	wait   sync.WaitGroup
	ctx    context.Context
	cancel context.CancelFunc
	under  func(context.Context) context.Context
}

type entry struct {
	job    Job
	work   Work
	shown  any
	ctx    context.Context
	cancel context.CancelFunc
	ended  func(Job)
}

const kept = 64 // ended jobs remembered

// New is a manager without jobs. Work is done under the context that under makes of its own;
// nil leaves it as it is.
func New(under func(context.Context) context.Context) *Manager {
	m := &Manager{jobs: map[string]*entry{}, free: runtime.NumCPU(), under: under}
	m.ctx, m.cancel = context.WithCancel(context.Background())
	return m
}

// Spec says what a job is. An empty ID is given one.
type Spec struct {
	ID, Title, Project string
	// Kind is what the job does; empty brings a file.
	Kind Kind
	// Ended is reported of the job once it has ended, unless the manager was
	// closed under it. It may be nil.
	Ended func(Job)
}

// Start puts work in the line and returns at once. A job that was interrupted
// and has the spec's ID is replaced.
func (m *Manager) Start(s Spec, work Work) Job {
	m.mu.Lock()
	defer m.mu.Unlock()
	e := m.add(s, Waiting)
	e.work = work
	e.ctx, e.cancel = context.WithCancel(m.ctx)
	m.line = append(m.line, e.job.ID)
	m.begin()
	return m.snapshot(e)
}

// Interrupted lists a job that the program's end broke off.
func (m *Manager) Interrupted(s Spec) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.add(s, Interrupted).cancel = func() {}
}

func (m *Manager) add(s Spec, status Status) *entry {
	for s.ID == "" || m.jobs[s.ID] != nil && m.jobs[s.ID].job.Status != Interrupted {
		m.next++
		s.ID = fmt.Sprintf("j%d", m.next)
	}
	if m.jobs[s.ID] == nil {
		m.order = append(m.order, s.ID)
	}
	e := &entry{job: Job{ID: s.ID, Title: s.Title, Project: s.Project, Kind: s.Kind, Status: status, Notes: []string{}}, ended: s.Ended}
	m.jobs[s.ID] = e
	m.forget()
	return e
}

// forget drops the oldest ended jobs beyond those that are remembered.
func (m *Manager) forget() {
	for i := 0; len(m.order) > kept && i < len(m.order); {
		if id := m.order[i]; m.jobs[id].job.Status.Ended() {
			delete(m.jobs, id)
			m.order = append(m.order[:i], m.order[i+1:]...)
		} else {
			i++
		}
	}
}

// begin begins the next job in line if one may run.
func (m *Manager) begin() {
	for m.free > 0 && len(m.line) > 0 {
		e := m.jobs[m.line[0]]
		m.line = m.line[1:]
		e.job.Status = Running
		m.free--
		m.wait.Add(1)
		go m.run(e)
	}
}

func (m *Manager) run(e *entry) {
	defer m.wait.Done()
	defer e.cancel()
	ctx := e.ctx
	if m.under != nil {
		ctx = m.under(ctx)
	}
	result, err := m.guard(ctx, e, e.work)
	debug.FreeOSMemory() // what it took for a recording goes back
	m.mu.Lock()
	closed := m.ctx.Err() != nil
	m.free++
	m.end(e, result, err)
	job := m.snapshot(e)
	m.begin()
	m.mu.Unlock()
	if e.ended != nil && !closed {
		e.ended(job)
	}
}

func (m *Manager) end(e *entry, result string, err error) {
	e.shown, e.work = nil, nil // they may be large, and the result is there
	switch {
	case errors.Is(err, context.Canceled):
		e.job.Status = Cancelled
	case err != nil:
		e.job.Status, e.job.Error = Failed, err.Error()
	default:
		e.job.Status, e.job.Result, e.job.Progress = Done, result, 1
	}
}

// snapshot is the job as it stands.
func (m *Manager) snapshot(e *entry) Job {
	j := e.job
	j.Notes = append([]string{}, e.job.Notes...)
	for i, id := range m.line {
		if id == j.ID {
			j.Ahead = i + 1
		}
	}
	return j
}

// guard runs the work; a panic becomes a failure of this job alone.
func (m *Manager) guard(ctx context.Context, e *entry, work Work) (result string, err error) {
	err = guard.Run("the work", func() error {
		result, err = work(ctx, m.watch(e))
		return err
	})
	return result, err
}

func (m *Manager) watch(e *entry) *Watch {
	return &Watch{
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
		Note: func(text string) {
			m.mu.Lock()
			defer m.mu.Unlock()
			e.job.Notes = append(e.job.Notes, text)
		},
	}
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
		return m.snapshot(e), true
	}
	return Job{}, false
}

// List is all jobs that are remembered, in order of their start.
func (m *Manager) List() []Job {
	m.mu.Lock()
	defer m.mu.Unlock()
	out := []Job{}
	for _, id := range m.order {
		out = append(out, m.snapshot(m.jobs[id]))
	}
	return out
}

// Cancel asks a job to stop; it does so within moments, at once while it
// waits or was interrupted.
func (m *Manager) Cancel(id string) bool {
	m.mu.Lock()
	e, ok := m.jobs[id]
	if !ok {
		m.mu.Unlock()
		return false
	}
	e.cancel()
	still := e.job.Status == Waiting || e.job.Status == Interrupted
	if still {
		m.line = slices.DeleteFunc(m.line, func(w string) bool { return w == id })
		m.end(e, "", context.Canceled)
	}
	job := m.snapshot(e)
	m.mu.Unlock()
	if still && e.ended != nil {
		e.ended(job)
	}
	return true
}

// Close cancels all jobs and waits for them.
func (m *Manager) Close() {
	m.mu.Lock()
	m.cancel()
	m.line = nil
	m.mu.Unlock()
	m.wait.Wait()
}
