package workshop

import "sync"

// mostLately is how many results of jobs are remembered.
const mostLately = 24

// lately are results of jobs of late, by the job's id.
type lately[T any] struct {
	mu    sync.Mutex
	of    map[string]*T
	order []string // the oldest first
}

func (l *lately[T]) put(id string, v *T) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.of == nil {
		l.of = map[string]*T{}
	}
	if _, ok := l.of[id]; !ok {
		l.order = append(l.order, id)
	}
	l.of[id] = v
	if len(l.order) > mostLately {
		delete(l.of, l.order[0])
		l.order = l.order[1:]
	}
}

// get is a result; nil where it is not there.
func (l *lately[T]) get(id string) *T {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.of[id]
}
