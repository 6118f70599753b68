// Package state keeps what a running system of plain data stands at and puts it back, in
// place: an engine that is put back goes on with the same bits. It knows nothing of what the
// data are, and imports nothing of the core.
//
// A system is structs, arrays, slices and pointers that it owns. A field tagged
// `state:"shared"` is what nobody writes to, such as a table or a recording, and one tagged
// `state:"-"` is scratch: what they point to is not kept.
package state

import (
	"reflect"
	"unsafe"
)

// Kept is what a system stood at. The zero value is empty.
type Kept struct {
	of     *plan
	copies []reflect.Value
	rests  []bool // by region
}

// Rester is a part of a system that stands still at times: nothing has to be kept then of it
// and of what only it leads to. It is a struct that a pointer leads to.
type Rester interface {
	Resting() bool
	// Rest brings it to where it stands still.
	Rest()
}

// Keeper keeps states of one system. It is not safe for concurrent use with what runs the
// system.
type Keeper struct {
	root reflect.Value
	plan *plan
}

// NewKeeper is for the system that a pointer leads to.
func NewKeeper(system any) *Keeper { return &Keeper{root: reflect.ValueOf(system)} }

// Keep writes what the system stands at into k, whose memory is used again. It allocates only
// where the system has other parts than when k was last written.
func (r *Keeper) Keep(k *Kept) {
	if r.plan == nil || !r.plan.holds() {
		r.plan = planOf(r.root)
	}
	if k.of != r.plan {
		k.fit(r.plan)
	}
	for i := range r.plan.regions {
		live := &r.plan.regions[i]
		switch {
		case r.plan.rests(i, k.rests):
		case !k.copies[i].IsValid():
			k.copies[i] = roomFor(live)
			copyInto(k.copies[i], live.Value)
		default:
			copyInto(k.copies[i], live.Value)
		}
	}
}

// PutBack brings the system to what was kept, also where parts were exchanged since.
func (r *Keeper) PutBack(k *Kept) {
	for i := range k.of.regions {
		live := &k.of.regions[i]
		switch {
		case k.rests[i] && live.rester != nil:
			live.rester.Rest()
		case k.rests[i]:
		default:
			copyInto(live.Value, k.copies[i])
		}
	}
	r.plan = k.of
}

// Empty reports whether nothing is kept.
func (k *Kept) Empty() bool { return k.of == nil }

func roomFor(r *region) reflect.Value {
	if r.Kind() == reflect.Slice {
		return reflect.MakeSlice(r.Type(), r.Len(), r.Len())
	}
	return reflect.New(r.Type()).Elem()
}

func copyInto(to, from reflect.Value) {
	if to.Kind() == reflect.Slice {
		reflect.Copy(to, from)
	} else {
		to.Set(from)
	}
}

// Size is how many bytes a state that is kept now takes.
func (r *Keeper) Size() int {
	if r.plan == nil || !r.plan.holds() {
		r.plan = planOf(r.root)
	}
	size := 0
	for i := range r.plan.regions {
		if !r.plan.rests(i, r.plan.notes) {
			size += bytesOf(r.plan.regions[i].Value)
		}
	}
	return size
}

func bytesOf(v reflect.Value) int {
	if v.Kind() == reflect.Slice {
		return v.Len() * int(v.Type().Elem().Size())
	}
	return int(v.Type().Size())
}

// fit makes room for the regions of a plan; what has the right type and length stays.
func (k *Kept) fit(p *plan) {
	k.of = p
	for i, live := range p.regions {
		if i < len(k.copies) && k.copies[i].IsValid() && k.copies[i].Type() == live.Type() && (live.Kind() != reflect.Slice || k.copies[i].Len() == live.Len()) {
			continue
		}
		var room reflect.Value // of what may rest it is made when it is first needed
		if live.rester == nil && live.within < 0 {
			room = roomFor(&live)
		}
		if i < len(k.copies) {
			k.copies[i] = room
		} else {
			k.copies = append(k.copies, room)
		}
	}
	k.copies = k.copies[:len(p.regions)]
	if len(k.rests) != len(p.regions) {
		k.rests = make([]bool, len(p.regions))
	}
}

// plan is where the memory of a system lies.
type plan struct {
	regions []region
	links   []link
	seen    map[place]bool // regions
	rester  int            // the region of the rester that is walked, or -1
	notes   []bool         // scratch of Size
}

// region is a struct that a pointer leads to, or the array behind a slice.
type region struct {
	reflect.Value
	rester Rester // itself; or nil
	within int    // the region of the rester that led to it, or -1
}

// rests notes whether nothing has to be kept of region i; those that led to it come before.
func (p *plan) rests(i int, notes []bool) bool {
	r := &p.regions[i]
	notes[i] = r.within >= 0 && notes[r.within] || r.rester != nil && r.rester.Resting()
	return notes[i]
}

// link is a pointer of the system, and to what and where it led when that was last looked at.
type link struct {
	at *unsafe.Pointer
	of reflect.Type // nil where it may be any
	to unsafe.Pointer
}

type place struct {
	at unsafe.Pointer
	t  reflect.Type
}

// holds reports whether every pointer leads nowhere or to what the plan has.
func (p *plan) holds() bool {
	for i := range p.links {
		l := &p.links[i]
		if to := *l.at; to != l.to {
			if to != nil && (l.of == nil || !p.seen[place{to, l.of}]) {
				return false
			}
			l.to = to
		}
	}
	return true
}

func planOf(root reflect.Value) *plan {
	p := &plan{seen: map[place]bool{}, rester: -1}
	p.region(root.Elem())
	p.notes = make([]bool, len(p.regions))
	return p
}

// region takes up a struct that a pointer leads to, once.
func (p *plan) region(v reflect.Value) {
	at := place{v.Addr().UnsafePointer(), v.Type()}
	if v.Type().Size() == 0 || p.seen[at] {
		return
	}
	p.seen[at] = true
	rester, _ := reflect.NewAt(v.Type(), v.Addr().UnsafePointer()).Interface().(Rester)
	p.regions = append(p.regions, region{v, rester, p.rester})
	if was := p.rester; rester != nil {
		p.rester = len(p.regions) - 1
		defer func() { p.rester = was }()
	}
	p.within(v)
}

// within finds what a value that is part of a region leads to.
func (p *plan) within(v reflect.Value) {
	if plain(v.Type()) {
		return
	}
	switch v.Kind() {
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).Tag.Get("state") == "" {
				p.within(open(v.Field(i)))
			}
		}
	case reflect.Array:
		for i := range v.Len() {
			p.within(v.Index(i))
		}
	case reflect.Slice:
		p.link(v.Addr().UnsafePointer(), nil)
		p.array(v)
	case reflect.Pointer:
		p.link(v.Addr().UnsafePointer(), v.Type().Elem())
		if !v.IsNil() {
			p.region(v.Elem())
		}
	case reflect.Interface:
		// The second word of an interface is the pointer that it holds.
		p.link(unsafe.Add(v.Addr().UnsafePointer(), unsafe.Sizeof(uintptr(0))), nil)
		if e := v.Elem(); !v.IsNil() && e.Kind() == reflect.Pointer && !e.IsNil() {
			p.region(e.Elem())
		}
	case reflect.Map:
		p.link(v.Addr().UnsafePointer(), nil)
		for _, key := range v.MapKeys() {
			switch e := v.MapIndex(key); {
			case e.Kind() == reflect.Slice:
				p.array(e)
			case e.Kind() == reflect.Pointer && !e.IsNil():
				p.region(e.Elem())
			}
		}
	}
}

// array takes up what is behind a slice, also beyond its length, where it may grow.
func (p *plan) array(v reflect.Value) {
	if v.Cap() == 0 {
		return
	}
	whole := v.Slice(0, v.Cap())
	at := place{whole.UnsafePointer(), v.Type()}
	if p.seen[at] {
		return
	}
	p.seen[at] = true
	p.regions = append(p.regions, region{whole, nil, p.rester})
	if plain(v.Type().Elem()) {
		return
	}
	for i := range whole.Len() {
		p.within(whole.Index(i))
	}
}

func (p *plan) link(at unsafe.Pointer, of reflect.Type) {
	word := (*unsafe.Pointer)(at)
	p.links = append(p.links, link{word, of, *word})
}
