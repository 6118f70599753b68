package service

import "sync"

// mostRecent is how many results of jobs are remembered.
const mostRecent = 24

// recent are results of jobs of late, by the job's id.
type recent[T any] struct {
	mu    sync.Mutex
	of    map[string]*T
	order []string // the oldest first
}

func (l *recent[T]) put(id string, v *T) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.of == nil {
		l.of = map[string]*T{}
	}
	if _, ok := l.of[id]; !ok {
		l.order = append(l.order, id)
	}
	l.of[id] = v
	if len(l.order) > mostRecent {
		delete(l.of, l.order[0])
		l.order = l.order[1:]
	}
}

// get is a result; nil where it is not there.
func (l *recent[T]) get(id string) *T {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.of[id]
}
