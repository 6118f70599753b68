package synth

import (
	"slices"

	"jubrak/core/effect"
	"jubrak/core/sound"
)

// Tails are what the notes of a voice share: the reverbs at the end of their layers' chains,
// which ring on whichever note sent into them. They outlive notes and new versions of the
// voice. The lists do not change once they are made: the next version of a voice is made
// ready from them while they sound.
type Tails struct {
	each []*tail
	old  []*tail // no new note sends into them; the latest last
}

// tail is the shared end of a layer's chain, with what the layer does after its chain.
type tail struct {
	layer   string
	effects []effect.Effect `state:"shared"` // as they were first: their ids and kinds stay
	chain   *effect.Chain
	filter  []effect.Filter
	gain    [2]float64
	in      [2][effect.MaxBlock]float64
	sent    bool
	quiet   int // frames since something was sent
	ring    int
}

// mostOld is how many tails ring on that are no longer sent into.
const mostOld = 8

// sharedFrom is where in a recipe's effects those begin that all notes share: a reverb and
// what follows it, where that is linear, not late, and moved by nothing; behind the effects
// where there is none.
func sharedFrom(in *sound.Recipe) int {
	from := len(in.Effects)
	for i := len(in.Effects) - 1; i >= 0; i-- {
		s := &in.Effects[i]
		if s.Off {
			continue
		}
		if slices.ContainsFunc(in.Modulations, func(m sound.Modulation) bool { return effectOf(m.At) == s.ID }) {
			break
		}
		k := effect.KindOf(s.Kind)
		if k == nil || k.Shared == nil || !k.Shared(s.Value) {
			return from
		}
		if k.Room {
			from = i
		}
	}
	return from
}

// Tails are the tails of a voice, some of which go on from those of the version before,
// which may be nil; nil where there are none. What sounds is not touched: see Follow.
func (v *Voice) Tails(was *Tails) *Tails {
	out := &Tails{}
	for i := range v.layers {
		l := &v.layers[i]
		if l.shared == nil {
			continue
		}
		if l.tail == nil && was != nil {
			k := slices.IndexFunc(was.each, func(t *tail) bool {
				return t.layer == l.of.ID && slices.EqualFunc(t.effects, l.shared, func(a, b effect.Effect) bool { return a.ID == b.ID && a.Kind == b.Kind && a.Off == b.Off })
			})
			if k >= 0 {
				l.tail = was.each[k]
			}
		}
		if l.tail == nil {
			chain, _ := effect.NewChain(l.shared, v.rate)
			l.tail = &tail{layer: l.of.ID, effects: l.shared, chain: chain, filter: slices.Clone(l.tailFilter), gain: l.gain, quiet: chain.Tail() + l.ring, ring: chain.Tail() + l.ring}
		}
		out.each = append(out.each, l.tail)
	}
	if was != nil {
		out.old = slices.Clone(was.old)
		for _, t := range was.each {
			if !slices.Contains(out.each, t) {
				out.old = append(out.old, t)
			}
		}
		out.old = out.old[max(len(out.old)-mostOld, 0):]
	}
	if len(out.each)+len(out.old) == 0 {
		return nil
	}
	return out
}

// tailGlide is over how many ms the numbers of a tail glide.
const tailGlide = 20

// Follow takes the numbers of a voice, when that is taken.
func (t *Tails) Follow(v *Voice) {
	for i := range v.layers {
		if l := &v.layers[i]; l.tail != nil {
			l.tail.follow(l, int(tailGlide/1000.0*v.rate))
		}
	}
}

func (t *tail) follow(l *layer, glide int) {
	t.gain = l.gain
	place := 0
	for i := range l.shared {
		s := &l.shared[i]
		if s.Off {
			continue
		}
		values := t.chain.Values(place)
		for k, p := range effect.KindOf(s.Kind).Params {
			values[k] = s.Values[p.ID]
		}
		t.chain.Tune(place, glide)
		place++
	}
	if len(t.filter) == len(l.tailFilter) {
		for i := range t.filter {
			t.filter[i].Follow(l.tailFilter[i], glide)
		}
	} else {
		t.filter = slices.Clone(l.tailFilter)
	}
	t.ring = t.chain.Tail() + l.ring
}

// part is where frames of a note go.
func (t *tail) part(from, to int) effect.Block {
	t.sent = true
	return effect.Block{Left: t.in[0][from:to], Right: t.in[1][from:to]}
}

// Process adds to a block what was sent into the tails in it and what rings; it reports
// whether there is anything.
func (t *Tails) Process(b effect.Block, c effect.Clock) (sounds bool) {
	for _, list := range [2][]*tail{t.each, t.old} {
		for _, one := range list {
			sounds = one.process(b, c) || sounds
		}
	}
	return sounds
}

func (t *tail) process(b effect.Block, c effect.Clock) (sounds bool) {
	if t.sent {
		if t.quiet >= t.ring {
			t.chain.Reset() // it wakes from rest
		}
		t.quiet, t.sent = 0, false
	} else if t.quiet >= t.ring {
		return false
	}
	t.quiet += b.Frames()
	wet := effect.Block{Left: t.in[0][:b.Frames()], Right: t.in[1][:b.Frames()]}
	t.chain.At(c)
	t.chain.Process(wet, nil)
	for i := range t.filter {
		t.filter[i].Process(wet, nil)
	}
	for i, x := range wet.Left {
		b.Left[i] += x * t.gain[0]
		b.Right[i] += wet.Right[i] * t.gain[1]
	}
	wet.Clear()
	return true
}

// Ringing reports whether anything rings on.
func (t *Tails) Ringing() bool {
	rings := func(one *tail) bool { return one.sent || one.quiet < one.ring }
	return slices.ContainsFunc(t.each, rings) || slices.ContainsFunc(t.old, rings)
}

// Ring is how many frames they ring after the last sound.
func (t *Tails) Ring() int {
	most := 0
	for _, one := range t.each {
		most = max(most, one.ring)
	}
	return most
}

// Reset forgets what rings.
func (t *Tails) Reset() {
	for _, list := range [2][]*tail{t.each, t.old} {
		for _, one := range list {
			one.chain.Reset()
			for i := range one.filter {
				one.filter[i].Reset()
			}
			clear(one.in[0][:])
			clear(one.in[1][:])
			one.sent, one.quiet = false, one.ring
		}
	}
}

// ShareTails lets the notes of a voice send into the tails of another version of it.
func (v *Voice) ShareTails(of *Voice) {
	for i := range v.layers {
		l := &v.layers[i]
		if l.shared == nil {
			continue
		}
		for j := range of.layers {
			if o := &of.layers[j]; o.of.ID == l.of.ID && o.shared != nil {
				l.tail = o.tail
			}
		}
	}
}
