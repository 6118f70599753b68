package effect

// Watcher sees what goes into the effects of a rack and what comes out.
type Watcher interface {
	Before(effectID string, b Block)
	After(effectID string, b Block)
}

// Watch lets w see every effect, those within effects too; nil ends it.
func (r *Rack) Watch(w Watcher) {
	r.watcher = w
	for i := range r.slots {
		if f, ok := r.slots[i].of.(forked); ok {
			for _, path := range f.racks() {
				path.Watch(w)
			}
		}
	}
}
