package engine

import (
	"slices"

	"jubrak/core/mix"
)

// row is what a voice, a bus and the output do with a sound: a chain, a level, and where
// it goes from there. Where paths of different lengths meet, the shorter ones are held
// back, so that everything stays aligned to the sample.
type row struct {
	name   string
	chain  []mix.Step // of the song; not changed
	rack   *mix.Rack
	fader  mix.Fader
	step   mix.Runner // runs the fader
	to     int        // the bus it goes to, -1 is the output
	late   mix.Delay  // brings it to the others of its kind
	direct mix.Delay  // and from there to where it goes
	sends  []send
	fresh  bool // it has not sounded yet
	last   bool // the output: its level comes before its ceiling
	// By how much its chain was late when paths were aligned.
	aligned int
	// What its fader stands at, for moves.
	level, pan float64
	mute       bool
}

// send is a copy of a row on its way to a bus.
type send struct {
	to    int
	fader mix.Fader
	later mix.Delay
	cuts  [2]mix.Filter
	isCut bool
	of    mix.Send
	// Whether nothing is on its way, and for how many frames nothing came to the cuts.
	rests     bool
	cutsQuiet int
}

// bus is a row that others go to.
type bus struct {
	row
	id     string
	ready  int     // by how many frames what it gives is late
	still  float64 // how far a hush turns it down, 0..1
	sounds bool
	block  [2][MaxBlock]float64
}

// mixes is the part of a program that lies behind the voices.
type mixes struct {
	rows    []row // of the voices, in their order
	buses   []bus
	out     row
	latency int  // of all that lies between a stroke and the output
	stems   int  // of the voices' rows alone
	plain   bool // nothing in it rings or is held back
	still   float64
	moves   []move
}

// newRow makes a row ready; a chain that is like the one in was needs no new rack: it is
// given that one's when the program is taken.
func newRow(name string, chain []mix.Step, level, pan float64, mute bool, rate float64, shapes []mix.Shape, was *row) row {
	r := row{name: name, chain: chain, to: -1, fader: mix.NewFader(level, pan, rate), level: level, pan: pan, mute: mute}
	if mute {
		r.fader = r.fader.Muted()
	}
	if was == nil || was.rack == nil || !was.rack.Like(chain) {
		r.rack = mix.NewRack(chain, rate, shapes)
	}
	return r
}

func newSends(desk *mix.Desk, of *mix.Row, rate float64) (to int, sends []send) {
	for i := range of.Sends {
		s := &of.Sends[i]
		if place := desk.Place(s.To); place >= 0 {
			sends = append(sends, newSend(place, *s, rate))
		}
	}
	return desk.Place(of.To), sends
}

func newSend(to int, of mix.Send, rate float64) send {
	return send{
		to: to, of: of, fader: mix.NewFader(of.Level, 0, rate), later: mix.NewDelay(int(of.Later / 1000 * rate)),
		cuts: [2]mix.Filter{mix.NewLowCut(of.Low, rate), mix.NewHighCut(of.High, rate)}, isCut: of.Low > 20 || of.High < 20000,
	}
}

// prepareMix makes the mix of a song ready.
func prepareMix(s *Song, rate float64, was *mixes) *mixes {
	old := func(name string) *row {
		if was == nil {
			return nil
		}
		return was.find(name)
	}
	m := &mixes{rows: make([]row, len(s.Kit.Voices)), buses: make([]bus, len(s.Mix.Buses))}
	for i := range m.rows {
		v := &s.Kit.Voices[i]
		m.rows[i] = newRow(v.ID, v.Chain, v.Level, v.Pan, v.Mute, rate, s.Mix.Shapes, old(v.ID))
		m.rows[i].to, m.rows[i].sends = newSends(&s.Mix, &v.Row, rate)
	}
	for i := range m.buses {
		b := &s.Mix.Buses[i]
		name := "bus:" + b.ID
		m.buses[i].id = b.ID
		m.buses[i].row = newRow(name, b.Chain, b.Level, b.Pan, b.Mute, rate, s.Mix.Shapes, old(name))
		m.buses[i].to, m.buses[i].sends = newSends(&s.Mix, &b.Row, rate)
	}
	m.moves = movesOf(s)
	m.out = newRow("out", s.Mix.Out.Chain, s.Mix.Out.Level, 0, false, rate, s.Mix.Shapes, old("out"))
	m.out.last = true
	return m
}

func (m *mixes) find(name string) *row {
	for i := range m.rows {
		if m.rows[i].name == name {
			return &m.rows[i]
		}
	}
	for i := range m.buses {
		if m.buses[i].name == name {
			return &m.buses[i].row
		}
	}
	if name == m.out.name {
		return &m.out
	}
	return nil
}

// all calls f with every row.
func (m *mixes) all(f func(*row)) {
	for i := range m.rows {
		f(&m.rows[i])
	}
	for i := range m.buses {
		f(&m.buses[i].row)
	}
	f(&m.out)
}

// steps tells whether any row has steps.
func (m *mixes) steps() (any bool) {
	m.all(func(r *row) { any = any || len(r.chain) > 0 })
	return any
}

// follow goes on from another mix: each row keeps what it remembers.
func (m *mixes) follow(was *mixes, rate float64, shapes []mix.Shape) {
	m.all(func(r *row) {
		var o *row
		if was != nil {
			o = was.find(r.name)
		}
		if o == nil {
			if r.rack == nil {
				r.rack = mix.NewRack(r.chain, rate, shapes)
			}
			r.step.Processor = &r.fader
			r.fresh = true
			return
		}
		switch {
		case o.rack.Like(r.chain):
			r.rack = o.rack
			r.rack.Tune(r.chain, shapes)
		default:
			if r.rack == nil { // it was like the rack of a program that was never taken
				r.rack = mix.NewRack(r.chain, rate, shapes)
			}
			r.rack.Continue(o.rack)
		}
		goal := r.fader
		r.fader = o.fader
		r.fader.Follow(goal)
		r.step.Processor = &r.fader
		r.step.Continue(&o.step)
		r.late, r.direct, r.fresh = o.late, o.direct, false
		for i := range r.sends {
			s := &r.sends[i]
			for j := range o.sends {
				if p := &o.sends[j]; p.of.To == s.of.To {
					goal, later, cuts, of := s.fader, s.later.Frames(), s.cuts, s.of
					s.fader = p.fader
					s.fader.Follow(goal)
					s.later = p.later
					s.later.Set(later)
					s.rests, s.cutsQuiet = p.rests, p.cutsQuiet
					if of.Low == p.of.Low && of.High == p.of.High {
						s.cuts = p.cuts
					} else {
						s.cuts = cuts
					}
				}
			}
		}
	})
	m.align(rate)
}

// align holds back what would come too early where paths meet.
func (m *mixes) align(rate float64) {
	m.stems = 0
	m.all(func(r *row) { r.aligned = r.rack.Latency() })
	for i := range m.rows {
		m.stems = max(m.stems, m.rows[i].rack.Latency())
	}
	for i := range m.rows {
		m.rows[i].hold(&m.rows[i].late, m.stems-m.rows[i].rack.Latency())
	}
	// When what goes to a bus is there, and when it has gone through.
	arrives, ready := make([]int, len(m.buses)+1), make([]int, len(m.buses))
	for i := range arrives {
		arrives[i] = m.stems
	}
	for i := range m.buses {
		b := &m.buses[i]
		ready[i] = arrives[i] + b.rack.Latency()
		b.ready = ready[i]
		for _, to := range b.destinations(len(m.buses)) {
			arrives[to] = max(arrives[to], ready[i])
		}
	}
	out := len(m.buses)
	edges := func(r *row, from int) {
		to := r.to
		if to < 0 {
			to = out
		}
		r.hold(&r.direct, arrives[to]-from)
		for k := range r.sends {
			s := &r.sends[k]
			r.hold(&s.later, arrives[s.to]-from+int(s.of.Later/1000*rate))
		}
	}
	for i := range m.rows {
		edges(&m.rows[i], m.stems)
	}
	for i := range m.buses {
		edges(&m.buses[i].row, ready[i])
	}
	m.latency = arrives[out] + m.out.rack.Latency()
	m.plain = m.tail() == 0
}

// hold changes by how much a row is held back.
func (r *row) hold(d *mix.Delay, frames int) {
	if r.fresh {
		d.Jump(frames)
		return
	}
	d.Set(frames)
}

// destinations are the buses that a row goes to, n for the output.
func (r *row) destinations(n int) []int {
	to := []int{r.to}
	if r.to < 0 {
		to[0] = n
	}
	for i := range r.sends {
		to = append(to, r.sends[i].to)
	}
	return to
}

// tail is how long the longest way through the mix rings, frames.
func (m *mixes) tail() int {
	most := 0
	for i := range m.rows {
		most = max(most, m.rows[i].tail())
	}
	after := 0
	for i := range m.buses {
		after += m.buses[i].tail() // they may stand in a row
	}
	return most + after + m.out.tail() + m.latency
}

func (r *row) tail() int {
	tail := r.rack.Tail()
	for i := range r.sends {
		if s := &r.sends[i]; s.isCut {
			tail = max(tail, r.rack.Tail()+s.cuts[0].Tail()+s.cuts[1].Tail())
		}
	}
	return tail
}

// process takes a row's sound, whose sides may be alike, through its chain and level; it
// tells whether it is silent then.
func (r *row) process(b mix.Block, keys mix.Keys, c mix.Clock, silent, alike bool) bool {
	if r.last {
		silent = r.rack.RunBelowCeiling(b, keys, c, silent, func(b mix.Block, silent bool) bool { return r.step.Run(b, nil, silent) })
	} else {
		silent = r.rack.RunAlike(b, keys, c, silent, alike)
		silent = r.step.Run(b, nil, silent)
	}
	return r.late.Hold(b, silent)
}

// goOn adds a row's block to where it goes.
func (e *Engine) goOn(r *row, b mix.Block, silent bool, out mix.Block) {
	for i := range r.sends {
		s := &r.sends[i]
		if silent && s.rests && s.cutsQuiet > s.cuts[0].Tail()+s.cuts[1].Tail() {
			continue
		}
		copied := mix.Block{Left: e.sent[0][:b.Frames()], Right: e.sent[1][:b.Frames()]}
		copy(copied.Left, b.Left)
		copy(copied.Right, b.Right)
		s.fader.Process(copied, nil)
		if s.isCut {
			s.cuts[0].Process(copied, nil)
			s.cuts[1].Process(copied, nil)
		}
		if s.cutsQuiet += b.Frames(); !silent {
			s.cutsQuiet = 0
		}
		s.rests = s.later.Hold(copied, silent)
		add(e.busBlock(s.to, b.Frames()), copied)
		e.mixes.buses[s.to].sounds = true
	}
	if r.direct.Hold(b, silent) {
		return
	}
	if r.to >= 0 {
		add(e.busBlock(r.to, b.Frames()), b)
		e.mixes.buses[r.to].sounds = true
		return
	}
	add(out, b)
}

func add(to, b mix.Block) {
	for i, x := range b.Left {
		to.Left[i] += x
		to.Right[i] += b.Right[i]
	}
}

func (e *Engine) busBlock(i, frames int) mix.Block {
	b := &e.mixes.buses[i]
	return mix.Block{Left: b.block[0][:frames], Right: b.block[1][:frames]}
}

// Key is a voice's sound before its chain, and whether there is any in this block.
func (e *Engine) Key(id string) (mix.Block, bool) {
	i := placeOf(e.voices, id)
	if i < 0 || !e.voices[i].dryThere {
		return mix.Block{}, false
	}
	v := &e.voices[i]
	return mix.Block{Left: v.dry[0][:e.filled], Right: v.dry[1][:e.filled]}, true
}

// steers are the voices that some step of a song listens to.
func steers(s *Song) []string {
	var out []string
	var look func(steps []mix.Step)
	look = func(steps []mix.Step) {
		for i := range steps {
			if k := steps[i].Key; k != "" && !slices.Contains(out, k) {
				out = append(out, k)
			}
			for _, p := range steps[i].Paths {
				look(p)
			}
		}
	}
	for i := range s.Kit.Voices {
		look(s.Kit.Voices[i].Chain)
	}
	for i := range s.Mix.Buses {
		look(s.Mix.Buses[i].Chain)
	}
	look(s.Mix.Out.Chain)
	return out
}

// Bus is what bus i gave in the block last processed: left and right, valid until the
// next Process.
func (e *Engine) Bus(i, frames int) (left, right []float64) {
	b := e.busBlock(i, frames)
	return b.Left, b.Right
}

// Latency is by how many frames the output is later than the strokes, and the voices'
// parts by themselves.
func (e *Engine) Latency() (output, voices int) {
	if e.mixes == nil {
		return 0, 0
	}
	return e.mixes.latency, e.mixes.stems
}

// Watch lets w see the steps of a row, by its name as in addresses; nil ends it.
func (e *Engine) Watch(row string, w mix.Watcher) {
	if e.mixes == nil {
		return
	}
	if r := e.mixes.find(row); r != nil {
		r.rack.Watch(w)
	}
}

// Alone lets only what a band of an equalizer is about be heard of a row, or with -1 all.
func (e *Engine) Alone(row, step string, band int) {
	if e.mixes == nil {
		return
	}
	if r := e.mixes.find(row); r != nil {
		r.rack.Alone(step, band)
	}
}

// RowLatency is by how many frames what a row gives is later than the strokes.
func (e *Engine) RowLatency(row string) int {
	if e.mixes == nil {
		return 0
	}
	if row == e.mixes.out.name {
		return e.mixes.latency
	}
	if i := slices.IndexFunc(e.mixes.buses, func(b bus) bool { return b.name == row }); i >= 0 {
		return e.mixes.buses[i].ready
	}
	return e.mixes.stems
}
