package live

import (
	"slices"
	"sync"

	"jubrak/core/engine"
)

// Hub knows which sessions are open on which project, so that an edit
// reaches them.
type Hub struct {
	mu       sync.Mutex
	sessions map[string]map[*Session]string // the key of each, by project
}

// NewHub is a hub without sessions.
func NewHub() *Hub { return &Hub{sessions: map[string]map[*Session]string{}} }

// Join adds a session under the key by which its browser finds it again, or "" for none;
// the function returned takes it away.
func (h *Hub) Join(project, key string, s *Session) (leave func()) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.sessions[project] == nil {
		h.sessions[project] = map[*Session]string{}
	}
	h.sessions[project][s] = key
	return func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.sessions[project], s)
		if len(h.sessions[project]) == 0 {
			delete(h.sessions, project)
		}
	}
}

// Find is the open session of a project with a key, or nil.
func (h *Hub) Find(project, key string) *Session {
	h.mu.Lock()
	defer h.mu.Unlock()
	for s, its := range h.sessions[project] {
		if its == key && key != "" {
			return s
		}
	}
	return nil
}

// Each calls f for every open session of a project.
func (h *Hub) Each(project string, f func(*Session)) {
	h.mu.Lock()
	open := make([]*Session, 0, len(h.sessions[project]))
	for s := range h.sessions[project] {
		open = append(open, s)
	}
	h.mu.Unlock()
	for _, s := range open {
		f(s)
	}
}

// Playing reports whether anything is heard in any session.
func (h *Hub) Playing() bool {
	h.mu.Lock()
	var open []*Session
	for _, of := range h.sessions {
		for s := range of {
			open = append(open, s)
		}
	}
	h.mu.Unlock()
	return slices.ContainsFunc(open, (*Session).Playing)
}

// Load gives an edited song to every open session of a project; with atBar each goes on
// to the end of its bar first.
func (h *Hub) Load(project string, song engine.Song, version int, atBar bool) {
	h.Each(project, func(s *Session) { s.Load(song, version, atBar) })
}

// End closes every open session of a project, which is gone.
func (h *Hub) End(project string) { h.Each(project, (*Session).End) }
