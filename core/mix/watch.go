package mix

// Watcher sees what goes into the steps of a rack and what comes out.
type Watcher interface {
	Before(step string, b Block)
	After(step string, b Block)
}

// Watch lets w see every step, those within steps too; nil ends it.
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
