package effect

import (
	"slices"

	"jubrak/core/param"
)

// glide is how far the numbers of an effect are on their way: every few frames they take a
// stride, so that also what has no ramp of its own moves smoothly.
type glide struct {
	now  []float64 // all but the mix, which has a ramp
	left int       // frames to go
	part int       // frames since the last stride, below glideEvery
}

// take gives the effect its numbers, which glide there over so many frames; whole numbers
// and choices are there at once. What is off is mixed in by nothing.
func (p *place) take(frames int) {
	p.mix.to(p.share(), frames)
	if p.rest {
		frames = 0
	}
	g := &p.glide
	if _, holds := p.of.(forked); holds || frames == 0 {
		copy(g.now, p.values)
		g.left, g.part = 0, 0
		p.tune(frames)
		return
	}
	if g.left == 0 && slices.Equal(g.now, p.values[:len(g.now)]) {
		return
	}
	g.left, g.part = frames, 0
	for i := range g.now {
		if p.kind.Params[i].Scale == param.Discrete {
			g.now[i] = p.values[i]
		}
	}
	p.tune(glideEvery)
}

// tune hands the numbers as they are now to the processor.
func (p *place) tune(frames int) {
	p.set(Values{p.kind, p.glide.now}, frames)
	p.dry.Set(p.of.Latency())
}

// arrive ends the way of the numbers.
func (p *place) arrive() {
	if p.glide.left > 0 {
		copy(p.glide.now, p.values)
		p.glide.left, p.glide.part = 0, 0
		p.tune(0)
	}
}

// stride goes on by glideEvery frames.
func (p *place) stride() {
	g := &p.glide
	share := min(float64(glideEvery)/float64(g.left), 1)
	for i := range g.now {
		if to := p.values[i]; g.now[i] != to {
			g.now[i] = p.kind.Params[i].Between(g.now[i], to, share)
		}
	}
	if g.left -= glideEvery; g.left <= 0 {
		g.left = 0
		copy(g.now, p.values)
	}
	p.tune(glideEvery)
}

// process takes a block through the effect; while numbers are on their way, in parts.
func (p *place) process(b Block, keys Keys, c Clock) {
	if f, ok := p.of.(forked); ok {
		f.run(b, keys, c)
		return
	}
	key := p.steered(b.Frames(), keys)
	for at := 0; at < b.Frames(); {
		n := b.Frames() - at
		if g := &p.glide; g.left > 0 || g.part > 0 {
			if g.part == 0 {
				p.stride()
			}
			n = min(n, glideEvery-g.part)
			g.part = (g.part + n) % glideEvery
		}
		if t, ok := p.of.(timed); ok {
			t.at(c.later(at))
		}
		part := key
		if key != nil {
			part = key[at : at+n]
		}
		p.sides.run(p.of, b.Part(at, at+n), part)
		at += n
	}
}

// look lets what looks at a sound every so many frames look at the same ones in each pass of
// a loop. A glide that is under way counts on its own.
func (c Clock) look(phase *int, every int64) {
	if c.Loop > 0 {
		*phase = int(c.Frame % every)
	}
}

// later is the clock some frames on.
func (c Clock) later(frames int) Clock {
	c.Beat += float64(frames) * c.PerFrame
	if c.Frame += int64(frames); c.Loop > 0 && c.Frame >= c.Loop {
		c.Frame %= c.Loop
	}
	return c
}
