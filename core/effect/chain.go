package effect

import "slices"

// Chain is effects one after another, each with its mix.
type Chain struct {
	slots  []slot
	stereo bool // an effect needs both sides
	right  [MaxBlock]float64
}

// slot is an effect of a chain that is on.
type slot struct {
	of        Tuned
	kind      *Kind `state:"shared"`
	values    []float64
	mix       ramp
	dry       Delay // what went in, as late as what comes out
	sides     midSide
	leftRight *[2][MaxBlock]float64 `state:"-"` // scratch of a block
}

func newSlot(k *Kind, rate float64, values []float64) slot {
	return slot{of: k.make(rate), kind: k, values: values, sides: newMidSide(), leftRight: new([2][MaxBlock]float64)}
}

// NewChain makes effects ready at a rate. Effects that are off are left out; places
// returns for each effect where it stands in the chain, -1 for one that is off. Those whose
// numbers are moved, by their ids, are as late as they may come to be.
func NewChain(effects []Effect, rate float64, moved ...string) (c *Chain, places []int) {
	c, places = &Chain{}, make([]int, len(effects))
	for i := range effects {
		places[i] = -1
		k := KindOf(effects[i].Kind)
		if k == nil || effects[i].Off {
			continue
		}
		places[i] = len(c.slots)
		c.stereo = c.stereo || !k.Alike
		c.slots = append(c.slots, newSlot(k, rate, effects[i].list(k)))
		if f, ok := c.slots[len(c.slots)-1].of.(keepsLatency); ok && slices.Contains(moved, effects[i].ID) {
			f.keepLatency()
		}
	}
	for i := range c.slots {
		s := &c.slots[i]
		s.tune(s.values, 0)
		s.of.Reset()
		s.dry = NewDelay(s.of.Latency())
	}
	return c, places
}

// Empty reports whether the chain has no effects that are on.
func (c *Chain) Empty() bool { return len(c.slots) == 0 }

// Values are the numbers of the effect at a place, to be changed and given to Tune.
func (c *Chain) Values(place int) []float64 { return c.slots[place].values }

// Tune takes the numbers of the effect at a place, which glide over so many frames.
func (c *Chain) Tune(place int, glide int) { c.slots[place].tune(c.slots[place].values, glide) }

func (s *slot) tune(v []float64, glide int) {
	s.mix.to(v[len(v)-1]/100, glide)
	s.set(Values{s.kind, v}, glide)
}

// set gives the processor its parameters.
func (s *slot) set(v Values, glide int) {
	s.of.Tune(v, glide)
	if s.kind.MidSide {
		s.sides.tune(int(v.Get(channelsID)), s.of.Latency())
	}
}

// At takes where the song is, for effects that move by themselves.
func (c *Chain) At(clock Clock) {
	for i := range c.slots {
		if t, ok := c.slots[i].of.(timed); ok {
			t.at(clock)
		}
	}
}

// Process runs the effects in order. A sound of one channel goes through effects that do not
// do the same to each side as two like ones, and comes out as their mean.
func (c *Chain) Process(b Block, key []float64) {
	both := b
	if b.Right == nil && c.stereo {
		both.Right = c.right[:b.Frames()]
		copy(both.Right, b.Left)
	}
	for i := range c.slots {
		c.slots[i].process(both, key)
	}
	if b.Right == nil && c.stereo {
		for i, right := range both.Right {
			b.Left[i] = (b.Left[i] + right) / 2
		}
	}
}

func (s *slot) process(b Block, key []float64) {
	if s.mix.left == 0 && s.mix.now == 1 {
		s.sides.run(s.of, b, key)
		return
	}
	dry := Block{Left: s.leftRight[0][:b.Frames()]}
	copy(dry.Left, b.Left)
	if b.Right != nil {
		dry.Right = s.leftRight[1][:b.Frames()]
		copy(dry.Right, b.Right)
	}
	s.dry.Run(dry)
	s.sides.run(s.of, b, key)
	if m := s.mix.now; s.mix.left == 0 {
		for i, d := range dry.Left {
			b.Left[i] = d + (b.Left[i]-d)*m
		}
		for i, d := range dry.Right {
			b.Right[i] = d + (b.Right[i]-d)*m
		}
		return
	}
	for i := range b.Left {
		m := s.mix.next()
		b.Left[i] = b.Left[i]*m + dry.Left[i]*(1-m)
		if b.Right != nil {
			b.Right[i] = b.Right[i]*m + dry.Right[i]*(1-m)
		}
	}
}

// Latency is that of all effects together.
func (c *Chain) Latency() int {
	n := 0
	for i := range c.slots {
		n += c.slots[i].of.Latency()
	}
	return n
}

// Tail is that of all effects together.
func (c *Chain) Tail() int {
	n := 0
	for i := range c.slots {
		n += c.slots[i].of.Tail()
	}
	return n
}

// Stereo reports whether the chain needs both sides of a sound: an effect does not do the
// same to each by itself.
func (c *Chain) Stereo() bool { return c.stereo }

// Gap is how many frames of silence may lie within what rings: after that it is
// over.
func (c *Chain) Gap() int {
	n := shortest
	for i := range c.slots {
		if g, ok := c.slots[i].of.(gapped); ok {
			n += g.gap()
		}
	}
	return n
}

// gapped is a processor that may be silent for some frames within what rings.
type gapped interface{ gap() int }

// lineGap is a gap that no short delay line leaves.
const lineGap = 2048

// shortest is a gap that no filter leaves.
const shortest = 256

// Reset forgets the past of every effect and ends what glides.
func (c *Chain) Reset() {
	for i := range c.slots {
		s := &c.slots[i]
		s.of.Reset()
		s.sides.other.Reset()
		s.mix.end()
		s.dry.Reset()
	}
}
