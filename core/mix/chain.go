package mix

import "slices"

// Chain is steps one after another, each with its mix.
type Chain struct {
	slots []slot
}

// slot is a step of a chain that is on.
type slot struct {
	of        Tuned
	values    []float64
	mix       ramp
	dry       Delay // what went in, as late as what comes out
	leftRight [2][MaxBlock]float64
}

// NewChain makes steps ready at a rate. Steps that are off are left out; places
// tells for each step where it stands in the chain, -1 for one that is off. Those whose
// numbers are moved, by their ids, are as late as they may come to be.
func NewChain(steps []Step, rate float64, moved ...string) (c *Chain, places []int) {
	c, places = &Chain{}, make([]int, len(steps))
	for i := range steps {
		places[i] = -1
		k := KindOf(steps[i].Kind)
		if k == nil || steps[i].Off {
			continue
		}
		places[i] = len(c.slots)
		c.slots = append(c.slots, slot{of: k.make(rate), values: steps[i].list(k)})
		if f, ok := c.slots[len(c.slots)-1].of.(keepsLatency); ok && slices.Contains(moved, steps[i].ID) {
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

// Empty tells whether the chain has no steps that are on.
func (c *Chain) Empty() bool { return len(c.slots) == 0 }

// Values are the numbers of the step at a place, to be changed and given to Tune.
func (c *Chain) Values(place int) []float64 { return c.slots[place].values }

// Tune takes the numbers of the step at a place, which glide over so many frames.
func (c *Chain) Tune(place int, glide int) { c.slots[place].tune(c.slots[place].values, glide) }

func (s *slot) tune(v []float64, glide int) {
	s.mix.to(v[len(v)-1]/100, glide)
	s.of.Tune(v[:len(v)-1], glide)
}

// At takes where the song is, for steps that move by themselves.
func (c *Chain) At(clock Clock) {
	for i := range c.slots {
		if t, ok := c.slots[i].of.(timed); ok {
			t.at(clock)
		}
	}
}

// Process runs the steps in order.
func (c *Chain) Process(b Block, key []float64) {
	for i := range c.slots {
		c.slots[i].process(b, key)
	}
}

func (s *slot) process(b Block, key []float64) {
	if s.mix.left == 0 && s.mix.now == 1 {
		s.of.Process(b, key)
		return
	}
	dry := Block{Left: s.leftRight[0][:b.Frames()]}
	copy(dry.Left, b.Left)
	if b.Right != nil {
		dry.Right = s.leftRight[1][:b.Frames()]
		copy(dry.Right, b.Right)
	}
	s.dry.Run(dry)
	s.of.Process(b, key)
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

// Latency is that of all steps together.
func (c *Chain) Latency() int {
	n := 0
	for i := range c.slots {
		n += c.slots[i].of.Latency()
	}
	return n
}

// Tail is that of all steps together.
func (c *Chain) Tail() int {
	n := 0
	for i := range c.slots {
		n += c.slots[i].of.Tail()
	}
	return n
}

// Stereo tells whether a sound of one channel comes out as two unlike ones.
func (c *Chain) Stereo() bool {
	for i := range c.slots {
		switch c.slots[i].of.(type) {
		case *Reverb, *Width:
			return true
		}
	}
	return false
}

// Gap is how many frames of silence may lie within what rings: after that it is
// over.
func (c *Chain) Gap() int {
	n := shortest
	for i := range c.slots {
		switch p := c.slots[i].of.(type) {
		case *Reverb:
			n += p.asked.pre + p.asked.line[reverbLines-1]
		case *Comb, *Width, *Shift:
			n += 2048
		}
	}
	return n
}

// shortest is a gap that no filter leaves.
const shortest = 256

// Reset forgets the past of every step and ends what glides.
func (c *Chain) Reset() {
	for i := range c.slots {
		s := &c.slots[i]
		s.of.Reset()
		s.mix.end()
		s.dry.Reset()
	}
}
