package synth

import (
	"math"
	"slices"
	"strings"

	"jubrak/core/dsp"
	"jubrak/core/effect"
	"jubrak/core/sound"
)

// The parts of a recipe.
const (
	partBody = iota
	partSub
	partSnap
	partNoise
	partMetal
	partRing
	partCount
)

// recipe is a sound.Recipe made ready at a rate.
type recipe struct {
	of          sound.Recipe `state:"shared"` // not changed
	rate        float64
	tuning      float64   // the layer's own pitch, ratio
	lift        float64   // by how much effects and layer make soft sounds louder, dB
	wave        *wave     `state:"shared"`
	snap        *material `state:"shared"`
	noise       *material `state:"shared"`
	stereo      bool
	modulations []modulation `state:"shared"` // by curves
	perHit      []modulation `state:"shared"` // by what a stroke brings along
	flat        [partCount]bool
	slides      bool // a curve moves the body's pitch
	chains      []*room
	late        int // frames, of the chain
	tail        int
	gap         int // frames of silence after which nothing more comes
}

// modulation is a sound.Move made ready.
type modulation struct {
	sound.Modulation
	number sound.Number
	curve  *sound.Curve
	place  int // of the effect in the chain, and of the number in the effect; -1: a part's
	index  int
	part   int // whose level it moves, or -1
}

// room is a chain that one note at a time goes through.
type room struct {
	chain *effect.Chain
	used  *sounding `state:"shared"`
}

// Resting reports whether no note goes through it.
func (r *room) Resting() bool {
	return r.used == nil || r.used.left <= 0 || r.used.playing.room != r
}

// Rest lets it be taken by any note.
func (r *room) Rest() { r.used = nil }

// MostNotes is how many notes of a voice go on at a time; rooms has place for those
// that are fading, too.
const (
	MostNotes = 6
	rooms     = MostNotes + 2
)

// compileRecipe makes a recipe ready, tuned by semitones, in a layer of a level
// in dB.
func compileRecipe(in *sound.Recipe, semitones, level float64, samples sound.Samples, rate float64) *recipe {
	r := &recipe{of: *in, rate: rate, tuning: math.Exp2(semitones / 12), lift: level}
	b := &r.of.Body
	switch {
	case b.Wave == sound.DrawnWave && len(b.Cycle) > 1:
		r.wave = drawn(b.Cycle)
	case b.Wave == sound.DrawnWave:
		r.wave = waves[0]()
	case !plain(b) || drives(in, "body.second_percent"):
		r.wave = waves[b.Wave]()
	}
	r.snap = materialOf(samples, in.Snap.Sample, rate)
	r.noise = materialOf(samples, in.Noise.Sample, rate)
	var places []int
	var moved []string
	for i := range in.Modulations {
		if effectID := effectOf(in.Modulations[i].At); effectID != "" {
			moved = append(moved, effectID)
		}
	}
	for range rooms {
		var c *effect.Chain
		c, places = effect.NewChain(in.Effects, rate, moved...)
		r.chains = append(r.chains, &room{chain: c})
		if len(in.Effects) == 0 {
			break
		}
	}
	chain := r.chains[0].chain
	r.late, r.tail, r.gap = chain.Latency(), chain.Tail(), chain.Gap()
	r.stereo = chain.Stereo() || (in.Body.Level > sound.Silent || drives(in, "body.level_db")) && in.Body.Copies > 1 && (in.Body.Spread > 0 || drives(in, "body.spread_percent"))
	for i := range in.Effects {
		if places[i] >= 0 {
			r.lift += max(in.Effects[i].Lift(), 0)
		}
	}
	r.lift = min(r.lift, 60)
	for i := range in.Modulations {
		m := modulation{Modulation: in.Modulations[i], place: -1, part: -1}
		n, ok := r.of.Number(m.At)
		if !ok {
			continue
		}
		m.number = n
		for k := range in.Effects {
			if s := &in.Effects[k]; strings.HasPrefix(m.At, "effects/") && m.At == "effects/"+s.ID+"/"+n.ID {
				m.place = places[k]
				_, m.index = effect.KindOf(s.Kind).Param(n.ID)
				if m.place < 0 {
					ok = false // the effect is off
				}
			}
		}
		if !ok {
			continue
		}
		for k, id := range [partCount]string{"body", "sub", "snap", "noise", "metal", "ring"} {
			if m.At == id+".level_db" {
				m.part = k
			}
		}
		if !m.Curve() {
			r.perHit = append(r.perHit, m)
			continue
		}
		m.curve = in.Curve(m.By)
		if m.part >= 0 {
			r.flat[m.part] = true
		}
		r.slides = r.slides || m.At == "body.end_hz"
		r.modulations = append(r.modulations, m)
	}
	return r
}

// effectOf is the id of the effect whose number is at an address of a recipe, or nothing.
func effectOf(at string) string {
	if parts := strings.Split(at, "/"); len(parts) == 3 {
		return parts[1]
	}
	return ""
}

// drives reports whether anything moves a number of a recipe.
func drives(r *sound.Recipe, at string) bool {
	return slices.ContainsFunc(r.Modulations, func(m sound.Modulation) bool { return m.At == at })
}

// source is where a stroke is between the ends of a move, 0 to 1.
func (m *modulation) source(s Stroke, key uint64) float64 {
	switch m.By {
	case sound.ByVelocity:
		return float64(s.Velocity) / 127
	case sound.ByNote:
		return min(max(s.Semitones/48+0.5, 0), 1)
	}
	return dsp.Uniform(dsp.Key(s.Seed, key, dsp.KeyString(m.At)))
}

// playing is the running state of a recipe that sounds.
type playing struct {
	of      *recipe      `state:"shared"`
	numbers sound.Recipe `state:"shared"` // as they are now; its lists are the recipe's
	age     int
	beat    float64 // ms
	tuning  glide
	dies    [partCount]int     // age at which a part has died away
	level   [partCount]float64 // linear
	fall    [partCount]dsp.Fall
	by      [sound.MaxModulations]float64 // of each of the recipe's struck moves
	life    int
	quiet   int   // frames of silence since every part died
	room    *room `state:"shared"`
	body    body
	snap    snap
	noise   noise
	metal   metal
	ring    ring
}

// glide is a ratio of pitch on its way.
type glide struct {
	to   float64
	turn float64 // ln of how far above it the pitch still is
	step float64 // by which turn shrinks in a frame
}

// from begins a glide from another ratio over so many ms.
func (g *glide) from(ratio, ms, rate float64) {
	g.turn = 0
	if ms > 0 && ratio > 0 {
		g.turn = math.Log(ratio / g.to)
		g.step = g.turn * 1000 / (ms * rate)
	}
}

func (g *glide) now() float64 {
	if g.turn == 0 {
		return g.to
	}
	return g.to * math.Exp(g.turn)
}

// pass moves the glide on by so many frames: it runs straight in semitones.
func (g *glide) pass(frames int) {
	step := g.step * float64(frames)
	if math.Abs(step) >= math.Abs(g.turn) {
		g.turn = 0
		return
	}
	g.turn -= step
}

// start sets the state of a hit. Its parts' noises have seeds of their own.
func (c *playing) start(r *recipe, s Stroke, key uint64, owner *sounding) {
	seed := dsp.Key(s.Seed, key)
	c.of, c.numbers, c.age, c.beat, c.quiet = r, r.of, 0, s.BeatMS, 0
	c.tuning, c.dies = glide{to: r.tuning}, [partCount]int{}
	if s.Semitones != 0 {
		c.tuning.to *= math.Exp2(s.Semitones / 12)
	}
	n := &c.numbers
	c.room = takeRoom(r.chains, owner)
	chain := c.room.chain
	for i := range r.perHit {
		m := &r.perHit[i]
		by := m.From + (m.To-m.From)*m.source(s, key)
		c.by[i] = by
		if m.place >= 0 {
			v := chain.Values(m.place)
			v[m.index] = m.number.Moved(m.number.Get(&r.of), by)
		} else {
			_ = m.number.Set(n, m.number.Moved(m.number.Get(n), by))
		}
	}
	c.curves(0, 0, 0)
	for i := range r.perHit {
		if m := &r.perHit[i]; m.place >= 0 {
			chain.Tune(m.place, 0)
		}
	}
	chain.Reset()
	c.levels()

	rate := r.rate
	ends := func(part int, attack, hold, decay, level float64) {
		c.fall[part] = dsp.NewHeldFall(attack, hold, decay, rate)
		c.dies[part] = dies(attack+hold, decay, level+r.lift, rate)
	}
	ends(partBody, n.Body.Attack, n.Body.Hold, n.Body.Decay, n.Body.Level)
	ends(partSub, n.Sub.Attack, n.Sub.Hold, n.Sub.Decay, n.Sub.Level)
	ends(partSnap, 0, 0, n.Snap.Decay, n.Snap.Level)
	ends(partNoise, n.Noise.Attack, n.Noise.Hold, n.Noise.Decay, n.Noise.Level)
	c.dies[partNoise] += int(burstTail(&n.Noise) / 1000 * rate)
	ends(partMetal, 0, n.Metal.Hold, n.Metal.Decay, n.Metal.Level)
	ends(partRing, 0, 0, n.Ring.Decay, max(n.Ring.Level, n.Ring.Wires))
	for i := range r.modulations {
		if m := &r.modulations[i]; m.part >= 0 {
			c.dies[m.part] = int((m.curve.End()*m.curve.Scale(c.beat) + curveRelease) / 1000 * rate)
		}
	}
	c.life = 0
	for part, level := range c.level {
		if level == 0 && !r.flat[part] {
			c.dies[part] = 0
		}
		c.life = max(c.life, c.dies[part])
	}
	c.body.start(&n.Body)
	c.snap.start(&n.Snap, dsp.Key(seed, 2), rate)
	c.noise.start(dsp.Key(seed, 1))
	if n.Noise.Bursts > 1 {
		c.noise.bursts = burstsOf(&n.Noise, dsp.Key(seed, 4), rate)
		c.noise.begin(&n.Noise, rate)
	} else {
		c.noise.fall = c.fall[partNoise]
	}
	c.metal.start(&n.Metal)
	if c.level[partRing] > 0 || r.flat[partRing] {
		c.ring.start(&n.Ring, dsp.Key(seed, 3), rate)
	}
}

// takeRoom finds a chain for a note; where all are in use the first one is taken
// away from its note.
func takeRoom(of []*room, owner *sounding) *room {
	best := of[0]
	if len(of) == 1 && best.chain.Empty() {
		return best // nothing to share
	}
	for _, r := range of {
		if r.Resting() {
			best = r
			break
		}
		if r.used.left < best.used.left {
			best = r
		}
	}
	if u := best.used; u != nil && u != owner && u.playing.room == best {
		u.left = 0
	}
	best.used = owner
	return best
}

// curveRelease is how long a part fades at the end of a curve that does not end
// in silence, ms.
const curveRelease = 20

// curves moves numbers by curves. What is held over a stride is that of its middle, an
// age in frames; levels run and effects glide towards what they are at its end.
func (c *playing) curves(middle, end, glide int) {
	chain := c.room.chain
	for i := range c.of.modulations {
		m := &c.of.modulations[i]
		age := middle
		if m.part >= 0 || m.place >= 0 {
			age = end
		}
		t := float64(age) / c.of.rate * 1000 / m.curve.Scale(c.beat)
		value := m.number.Between(m.To, m.From, m.curve.At(t))
		for k := range c.of.perHit {
			if o := &c.of.perHit[k]; o.At == m.At {
				// A stroke moves what a curve moves too.
				value = m.number.Moved(value, c.by[k])
			}
		}
		if m.place >= 0 {
			chain.Values(m.place)[m.index] = value
		} else {
			_ = m.number.Set(&c.numbers, value)
		}
	}
	for i := range c.of.modulations {
		if m := &c.of.modulations[i]; m.place >= 0 {
			chain.Tune(m.place, glide)
		}
	}
}

// levels are those of the parts now, linear.
func (c *playing) levels() {
	n := &c.numbers
	c.level = [partCount]float64{partGain(n.Body.Level), partGain(n.Sub.Level), partGain(n.Snap.Level), partGain(n.Noise.Level), partGain(n.Metal.Level), partGain(n.Ring.Level)}
	for part, flat := range c.of.flat {
		// A curve that does not end in silence ends in a short fade.
		if over := c.age + stride - c.dies[part] + int(curveRelease/1000*c.of.rate); flat && over > 0 && c.dies[part] > 0 {
			c.level[part] *= max(1-float64(over)/(curveRelease/1000*c.of.rate), 0)
		}
	}
}

// left is how many frames it still sounds: until its parts have died and its
// effects have rung.
func (c *playing) left() int { return c.life + c.of.late + c.of.tail }

// run renders the next stride.
func (c *playing) run(out *[2][stride]float64) {
	r, n := c.of, &c.numbers
	before := c.level
	if len(r.modulations) > 0 {
		c.curves(c.age+stride/2, c.age+stride, stride)
		c.levels()
	}
	left, right := &out[0], &out[1]
	clear(left[:])
	var part [stride]float64
	tuning := c.tuning.now()
	sounds := func(p int) bool {
		return (before[p] > 0 || c.level[p] > 0) && c.age <= c.dies[p]
	}
	spread := r.stereo && sounds(partBody) && n.Body.Copies > 1 && n.Body.Spread > 0
	var wide [2][stride]float64
	if sounds(partBody) || sounds(partSub) {
		hz := tuning * n.Body.End
		if !r.slides {
			hz *= math.Exp(math.Log(n.Body.Start/n.Body.End) * math.Exp(-3*float64(c.age)/(n.Body.Fall/1000*r.rate)))
		}
		step := min(hz/r.rate, 0.45)
		if sounds(partBody) {
			if spread {
				c.body.run(&n.Body, r.wave, step, r.rate, &wide[0], &wide[1])
				if !r.flat[partBody] {
					fall := c.fall[partBody]
					fall.Times(wide[0][:])
					c.fall[partBody].Times(wide[1][:])
				}
				ramped(&wide[0], before[partBody], c.level[partBody])
				ramped(&wide[1], before[partBody], c.level[partBody])
			} else {
				c.body.run(&n.Body, r.wave, step, r.rate, &part, nil)
				c.put(partBody, left, &part, before)
			}
		}
		if sounds(partSub) {
			c.body.sub.pitch(step / float64(int(1)<<n.Sub.Octaves))
			c.body.sub.run(&part, 1)
			c.put(partSub, left, &part, before)
		}
	}
	if sounds(partSnap) {
		c.snap.run(&n.Snap, r.snap, c.age, r.rate, &part)
		add(left, &part, before[partSnap], c.level[partSnap])
	}
	if sounds(partNoise) {
		c.noise.run(&n.Noise, r.noise, r.rate, &part)
		if !r.flat[partNoise] {
			c.noise.shape(&n.Noise, c.age, r.rate, &part)
		}
		add(left, &part, before[partNoise], c.level[partNoise])
	}
	if sounds(partMetal) {
		c.metal.run(&n.Metal, n.Metal.Pitch*tuning, r.rate, &part)
		c.put(partMetal, left, &part, before)
	}
	if sounds(partRing) {
		hz := n.Ring.Pitch * tuning
		if n.Ring.Drop > 0 {
			hz *= math.Exp2(n.Ring.Drop / 12 * math.Exp(-3*float64(c.age)/(n.Ring.DropTime/1000*r.rate)))
		}
		c.ring.run(&n.Ring, hz, r.rate, &part)
		add(left, &part, before[partRing], c.level[partRing])
	}
	b := effect.Block{Left: left[:]}
	if r.stereo {
		*right = *left
		if spread {
			for i := range left {
				left[i] += wide[0][i]
				right[i] += wide[1][i]
			}
		}
		b.Right = right[:]
	}
	c.room.chain.Process(b, nil)
	c.age += stride
	c.tuning.pass(stride)
	if c.age > c.life+r.late {
		c.listen(b)
	}
}

// listen counts silence once every part has died, so that a note ends when its
// effects have.
func (c *playing) listen(b effect.Block) {
	for i := range b.Left {
		if math.Abs(b.Left[i]) > inaudible || b.Right != nil && math.Abs(b.Right[i]) > inaudible {
			c.quiet = 0
			return
		}
	}
	c.quiet += b.Frames()
}

// inaudible is 90 dB below full scale.
const inaudible = 3e-5

// over reports that the parts have died and that what rang has, too.
func (c *playing) over() bool { return c.quiet > c.of.gap }

// put gives a part its fall and adds it.
func (c *playing) put(p int, x, part *[stride]float64, before [partCount]float64) {
	if !c.of.flat[p] {
		c.fall[p].Times(part[:])
	}
	add(x, part, before[p], c.level[p])
}

// add adds a part, its gain going straight from one value to another.
func add(x, part *[stride]float64, from, to float64) {
	if from == to {
		for i, v := range part {
			x[i] += v * to
		}
		return
	}
	step := (to - from) / stride
	for i, v := range part {
		x[i] += v * from
		from += step
	}
}

func ramped(x *[stride]float64, from, to float64) {
	step := (to - from) / stride
	for i := range x {
		x[i] *= from
		from += step
	}
}
