package effect

import (
	"jubrak/core/audio"
	"slices"
)

// Clock is where the song is while a block is processed.
type Clock struct {
	// Beat is where the block begins, quarter notes; PerFrame how many pass in a frame.
	Beat, PerFrame float64
	// Frame is where it begins in a pass of the loop, which lasts so many frames and begins
	// at a beat of the song; Loop is 0 where nothing comes round.
	Frame, Loop int64
	LoopBeat    float64
}

// Keys give a row what other voices sound like before their own chains.
type Keys interface {
	// Key is the present block of a voice, and whether it sounds.
	Key(voice string) (Block, bool)
}

// Context is what the effects of a rack need of the project that they stand in.
type Context struct {
	// Shapes are those that effects may follow.
	Shapes []Shape
	// Recording is the sound of a blob, or nil; nil has none.
	Recording func(blob string) *audio.Buffer
}

// recorded is a processor that uses a recording; nil is none.
type recorded interface{ load(b *audio.Buffer) }

// timed is a processor that follows the song's time.
type timed interface{ at(c Clock) }

// shaped is a processor that follows a shape.
type shaped interface{ follow(s *Shape) }

// restless is a processor that makes sound of silence.
type restless interface{ restless() bool }

// keepsLatency is a processor that is late only for some of its numbers, and may be reported to
// be so for all.
type keepsLatency interface{ keepLatency() }

// forked is a processor that holds chains of its own.
type forked interface {
	racks() []*Rack
	run(b Block, keys Keys, c Clock)
}

// Rack is the chain of a row while it runs: effects that go on by their ids when the chain
// is edited. An effect that is off stays in place, as late as it is when on, so that
// switching it neither clicks nor shifts anything.
type Rack struct {
	rate    float64
	slots   []place
	watcher Watcher `state:"-"`
}

// place is an effect of a rack.
type place struct {
	*slot
	fx    Effect `state:"shared"`
	quiet int    // frames of silence that went in
	rest  bool
	gone  bool // taken out of the chain: it fades away
	key   [MaxBlock]float64
	glide glide
}

// tuneGlide is over how many ms a number that is set glides.
const tuneGlide = 20

// NewRack makes a chain ready.
func NewRack(effects []Effect, rate float64, in Context) *Rack {
	r := emptyRack(rate)
	for i := range effects {
		s := &effects[i]
		k := KindOf(s.Kind)
		if k == nil {
			continue
		}
		made := newSlot(k, rate, s.list(k))
		p := place{slot: &made, fx: *s, rest: true}
		p.glide.now = slices.Clone(p.values[:len(p.values)-1])
		if f, ok := p.of.(forked); ok {
			for j, path := range f.racks() {
				*path = *NewRack(s.Paths[j], rate, in)
			}
		}
		if f, ok := p.of.(keepsLatency); ok {
			f.keepLatency()
		}
		if f, ok := p.of.(recorded); ok && s.Recording != nil && in.Recording != nil {
			f.load(in.Recording(s.Recording.Blob))
		}
		p.take(0)
		p.dry = NewDelay(p.of.Latency())
		p.of.Reset()
		p.shape(in.Shapes)
		r.slots = append(r.slots, p)
	}
	return r
}

func emptyRack(rate float64) *Rack {
	return &Rack{rate: rate}
}

func (p *place) shape(shapes []Shape) {
	f, ok := p.of.(shaped)
	if !ok {
		return
	}
	for i := range shapes {
		if shapes[i].ID == p.fx.Shape {
			f.follow(&shapes[i])
			return
		}
	}
	f.follow(nil)
}

// Like reports whether a chain has the same effects in the same order, each of the same choices,
// whatever their other numbers.
func (r *Rack) Like(effects []Effect) bool {
	n := 0
	for i := range effects {
		if KindOf(effects[i].Kind) == nil {
			continue
		}
		for n < len(r.slots) && r.slots[n].gone {
			n++
		}
		if n >= len(r.slots) || !goesOn(&r.slots[n].fx, &effects[i]) {
			return false
		}
		if f, ok := r.slots[n].of.(forked); ok {
			for j, path := range f.racks() {
				if !path.Like(effects[i].Paths[j]) {
					return false
				}
			}
		}
		n++
	}
	for n < len(r.slots) && r.slots[n].gone {
		n++
	}
	return n == len(r.slots)
}

// Tune takes the numbers of a chain that is like the rack's; they glide there.
func (r *Rack) Tune(effects []Effect, shapes []Shape) {
	glide := int(tuneGlide / 1000.0 * r.rate)
	n := 0
	for i := range effects {
		if KindOf(effects[i].Kind) == nil {
			continue
		}
		for r.slots[n].gone {
			n++
		}
		p := &r.slots[n]
		n++
		p.fx = effects[i]
		for j := range p.kind.Params {
			p.values[j] = p.fx.Values[p.kind.Params[j].ID]
		}
		if f, ok := p.of.(forked); ok {
			for j, path := range f.racks() {
				path.Tune(effects[i].Paths[j], shapes)
			}
		}
		p.take(glide)
		p.shape(shapes)
	}
}

// goesOn reports whether an effect is the one that it was: another wave, space or shape of a
// filter is faded to, as another effect would be.
func goesOn(was, is *Effect) bool {
	if was.ID != is.ID || was.Kind != is.Kind || was.blob() != is.blob() {
		return false
	}
	k := KindOf(is.Kind)
	for i := range k.Params {
		if p := &k.Params[i]; (len(p.Names) > 0 && !p.Smooth || p.Fixed) && was.Values[p.ID] != is.Values[p.ID] {
			return false
		}
	}
	return true
}

// Continue goes on from the rack that this one takes the place of: effects of the same id
// keep what they remember, new ones fade in, and those that are no more, or stood before
// others, fade away where they were.
func (r *Rack) Continue(was *Rack) {
	glide := int(tuneGlide / 1000.0 * r.rate)
	var out []place
	next := 0
	for i := range r.slots {
		p := r.slots[i]
		at := -1
		for j := next; j < len(was.slots) && at < 0; j++ {
			if o := &was.slots[j]; !o.gone && goesOn(&o.fx, &p.fx) {
				at = j
			}
		}
		if at < 0 {
			p.mix.now, p.mix.wait = 0, p.of.Latency()
			p.mix.to(p.share(), glide)
			p.dry.Set(0)
			p.dry.Reset()
			p.dry.Set(p.of.Latency())
			out = append(out, p)
			continue
		}
		for ; next < at; next++ {
			out = append(out, was.slots[next].leave(glide))
		}
		next = at + 1
		o := &was.slots[at]
		if f, ok := p.of.(forked); ok {
			theirs := o.of.(forked).racks()
			for k, path := range f.racks() {
				path.Continue(theirs[k])
			}
			// What it holds has gone on; the effect itself only mixes.
			p.mix, p.dry, p.quiet, p.rest, p.glide = o.mix, o.dry, o.quiet, o.rest, o.glide
			p.take(glide)
			out = append(out, p)
			continue
		}
		values := p.values
		p.slot, p.quiet, p.rest, p.glide = o.slot, o.quiet, o.rest, o.glide
		p.values = values
		p.take(glide)
		out = append(out, p)
	}
	for ; next < len(was.slots); next++ {
		out = append(out, was.slots[next].leave(glide))
	}
	r.slots = out
}

// leave is an effect that fades away.
func (p place) leave(glide int) place {
	if !p.gone {
		p.gone = true
		p.mix.to(0, glide)
		p.dry.Set(0)
	}
	return p
}

// left reports whether an effect has faded away.
func (p *place) left() bool {
	return p.gone && p.mix.now == 0 && p.mix.left == 0 && !p.dry.fades()
}

// sweep takes away what has faded away.
func (r *Rack) sweep() {
	n := 0
	for i := range r.slots {
		if r.slots[i].left() {
			continue
		}
		if n != i {
			r.slots[n] = r.slots[i]
		}
		n++
	}
	r.slots = r.slots[:n]
}

// Set gives an effect of the chain, or of one within it, a number, which glides there over so
// many frames. It reports whether there is such an effect.
func (r *Rack) Set(effectID string, number int, value float64, glide int) bool {
	for i := range r.slots {
		p := &r.slots[i]
		if p.gone {
			continue
		}
		if p.fx.ID == effectID {
			if number < len(p.values) && p.values[number] != value {
				p.values[number] = value
				p.take(glide)
			}
			return true
		}
		if f, ok := p.of.(forked); ok {
			for _, path := range f.racks() {
				if path.Set(effectID, number, value, glide) {
					return true
				}
			}
		}
	}
	return false
}

// Alone lets only what a band of an equalizer of the chain is about be heard, counted from
// 0, or with -1 all.
func (r *Rack) Alone(effectID string, band int) {
	for i := range r.slots {
		if e, ok := r.slots[i].of.(*Equalizer8); ok && r.slots[i].fx.ID == effectID {
			e.Alone(band)
		}
		if f, ok := r.slots[i].of.(forked); ok {
			for _, path := range f.racks() {
				path.Alone(effectID, band)
			}
		}
	}
}

// Latency is that of all effects together, whether they are on or off.
func (r *Rack) Latency() int {
	n := 0
	for i := range r.slots {
		if p := &r.slots[i]; !p.gone {
			n += p.of.Latency()
		}
	}
	return n
}

// Tail is that of the effects that are on together.
func (r *Rack) Tail() int {
	n := 0
	for i := range r.slots {
		if p := &r.slots[i]; !p.fx.Off {
			n += p.of.Tail()
		}
	}
	return n
}

// Reset forgets the past.
func (r *Rack) Reset() {
	for i := range r.slots {
		p := &r.slots[i]
		p.of.Reset()
		p.sides.other.Reset()
		if f, ok := p.of.(forked); ok {
			for _, path := range f.racks() {
				path.Reset()
			}
		}
		p.mix.end()
		p.arrive()
		p.dry.Reset()
		p.quiet, p.rest = 0, true
	}
}

// Run takes a block through the effects and reports whether it is silent then. Both channels
// must be there. Effects that have heard silence for as long as they ring sleep.
func (r *Rack) Run(b Block, keys Keys, c Clock, silent bool) bool {
	return r.RunAlike(b, keys, c, silent, false)
}

// RunAlike is Run for a block whose sides may be alike: then effects that treat both alike
// have one of them to do, up to the first that does not.
func (r *Rack) RunAlike(b Block, keys Keys, c Clock, silent, alike bool) bool {
	return r.run(b, keys, c, silent, alike, -1, nil)
}

// RunBelowCeiling is Run with a level that stands before the ceilings that the chain ends
// with, so that no level lifts a sound above them; it reports whether a block is silent.
func (r *Rack) RunBelowCeiling(b Block, keys Keys, c Clock, silent bool, level func(b Block, silent bool) bool) bool {
	at := len(r.slots)
	for at > 0 && (r.slots[at-1].kind.Ceiling || r.slots[at-1].gone) {
		at--
	}
	return r.run(b, keys, c, silent, false, at, level)
}

func (r *Rack) run(b Block, keys Keys, c Clock, silent, alike bool, at int, level func(b Block, silent bool) bool) bool {
	going := false
	right := b.Right
	if alike && r.watcher == nil {
		b.Right = nil
	}
	for i := range r.slots {
		if i == at {
			silent = level(b, silent)
		}
		if b.Right == nil && !r.slots[i].kind.Alike {
			b.Right = right
			copy(right, b.Left)
		}
		if r.watcher != nil {
			r.watcher.Before(r.slots[i].fx.ID, b)
		}
		silent = r.slots[i].run(b, keys, c, silent)
		if r.watcher != nil {
			r.watcher.After(r.slots[i].fx.ID, b)
		}
		going = going || r.slots[i].gone
	}
	if at == len(r.slots) {
		silent = level(b, silent)
	}
	if b.Right == nil {
		copy(right, b.Left)
	}
	if going {
		r.sweep()
	}
	return silent
}

// run processes one effect.
func (p *place) run(b Block, keys Keys, c Clock, silent bool) bool {
	if p.mix.now == 0 && p.mix.left == 0 {
		p.dry.Run(b)
		p.rest = true
		return p.after(b, silent)
	}
	always := false
	if n, ok := p.of.(restless); ok {
		always = n.restless()
	}
	if silent && !always {
		if p.rest || p.quiet >= p.of.Latency()+p.of.Tail() {
			p.rest = true
			p.mix.end() // in silence nothing need glide
			return true
		}
		p.quiet += b.Frames()
	} else {
		if p.rest {
			p.arrive()
			p.of.Reset()
			p.sides.other.Reset()
		}
		p.quiet, p.rest = 0, false
	}
	full := p.mix.left == 0 && p.mix.now == 1
	var dry Block
	if !full || p.dry.Frames() > 0 {
		dry = within(p.leftRight, b)
		copy(dry.Left, b.Left)
		copy(dry.Right, b.Right)
		p.dry.Run(dry)
	}
	p.process(b, keys, c)
	if full {
		return false
	}
	for i := range b.Left {
		m := p.mix.next()
		b.Left[i] = dry.Left[i] + (b.Left[i]-dry.Left[i])*m
		if b.Right != nil {
			b.Right[i] = dry.Right[i] + (b.Right[i]-dry.Right[i])*m
		}
	}
	return false
}

// steered is the sound of the voice that steers the effect, or nil.
func (p *place) steered(frames int, keys Keys) []float64 {
	if p.fx.Key == "" || keys == nil {
		return nil
	}
	key := p.key[:frames]
	k, sounds := keys.Key(p.fx.Key)
	if !sounds {
		clear(key)
		return key
	}
	for i := range key {
		key[i] = (k.Left[i] + k.Right[i]) / 2
	}
	return key
}

// after reports whether what is only held back has ended.
func (p *place) after(b Block, silent bool) bool {
	if !silent {
		p.quiet = 0
		return false
	}
	p.quiet += b.Frames()
	return p.quiet > p.dry.Frames()+b.Frames()
}

// share is how much of what comes out has gone through the effect.
func (p *place) share() float64 {
	if p.fx.Off {
		return 0
	}
	return p.values[len(p.values)-1] / 100
}
