package engine

import (
	"slices"
	"strings"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/mixer"
)

// row is what a voice, a bus and the output do with a sound: a chain, a level, and where
// it goes from there. Where paths of different lengths meet, the shorter ones are held
// back, so that everything stays aligned to the sample.
type row struct {
	name   string
	chain  []effect.Effect `state:"shared"` // of the song; not changed
	rack   *effect.Rack
	fader  effect.Fader
	runner effect.Runner // runs the fader
	to     int           // the bus it goes to, -1 is the output
	late   effect.Delay  // brings it to the others of its kind
	direct effect.Delay  // and from there to where it goes
	sends  []send
	fresh  bool // it has not sounded yet
	last   bool // the output: its level comes before its ceiling
	// By how much its chain was late when paths were aligned.
	aligned int
	// What its fader stands at, for moves.
	level, pan float64
	mute       bool
	pre        *preFader // nil where no send is taken before the fader
}

// preFader is a row's sound before its fader, held back as what comes after it.
type preFader struct {
	block  [2][MaxBlock]float64
	late   effect.Delay
	silent bool
}

func (p *preFader) part(frames int) effect.Block {
	return effect.Block{Left: p.block[0][:frames], Right: p.block[1][:frames]}
}

// send is a copy of a row on its way to a bus.
type send struct {
	to    int
	fader effect.Fader
	later effect.Delay
	cuts  [2]effect.Filter
	isCut bool
	of    mixer.Send `state:"shared"`
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
	rows       []row // of the voices, in their order
	buses      []bus
	out        row
	latency    int  // of all that lies between a stroke and the output
	stems      int  // of the voices' rows alone
	plain      bool // nothing in it rings or is held back
	still      float64
	automation []automation `state:"shared"`
}

// newRow makes a row ready; a chain that is like the one in was needs no new rack: it is
// given that one's when the program is taken.
func newRow(name string, chain []effect.Effect, level, pan float64, mute bool, rate float64, in effect.Context, was *row) row {
	r := row{name: name, chain: chain, to: -1, fader: effect.NewFader(level, pan, rate), level: level, pan: pan, mute: mute}
	if mute {
		r.fader = r.fader.Muted()
	}
	if was == nil || was.rack == nil || !was.rack.Like(chain) {
		r.rack = effect.NewRack(chain, rate, in)
	}
	return r
}

func newSends(desk *mixer.Desk, of *mixer.Row, rate float64) (to int, sends []send) {
	for i := range of.Sends {
		s := &of.Sends[i]
		if place := desk.Place(s.To); place >= 0 {
			sends = append(sends, newSend(place, *s, rate))
		}
	}
	return desk.Place(of.To), sends
}

func newSend(to int, of mixer.Send, rate float64) send {
	return send{
		to: to, of: of, fader: effect.NewFader(of.Level, 0, rate), later: effect.NewDelay(int(of.Later / 1000 * rate)),
		cuts: [2]effect.Filter{effect.NewLowCut(of.Low, rate), effect.NewHighCut(of.High, rate)}, isCut: of.Low > 20 || of.High < 20000,
	}
}

// effectContext is what the effects of a song need of it.
func (s *Song) effectContext() effect.Context {
	return effect.Context{Shapes: s.Mix.Shapes, Recording: func(blob string) *audio.Buffer {
		if of := s.Samples[blob]; of != nil {
			return &audio.Buffer{Rate: of.Rate, Channels: of.X}
		}
		return nil
	}}
}

// prepareMix makes the mix of a song ready.
func prepareMix(s *Song, rate float64, was *mixes) *mixes {
	old := func(name string) *row {
		if was == nil {
			return nil
		}
		return was.find(name)
	}
	in := s.effectContext()
	m := &mixes{rows: make([]row, len(s.Kit.Voices)), buses: make([]bus, len(s.Mix.Buses))}
	for i := range m.rows {
		v := &s.Kit.Voices[i]
		m.rows[i] = newRow(v.ID, v.Chain, v.Level, v.Pan, v.Mute, rate, in, old(v.ID))
		m.rows[i].to, m.rows[i].sends = newSends(&s.Mix, &v.Row, rate)
	}
	for i := range m.buses {
		b := &s.Mix.Buses[i]
		name := "bus:" + b.ID
		m.buses[i].id = b.ID
		m.buses[i].row = newRow(name, b.Chain, b.Level, b.Pan, b.Mute, rate, in, old(name))
		m.buses[i].to, m.buses[i].sends = newSends(&s.Mix, &b.Row, rate)
	}
	m.all(func(r *row) {
		if slices.ContainsFunc(r.sends, func(s send) bool { return s.of.Pre }) {
			r.pre = &preFader{silent: true}
		}
	})
	m.automation = automationOfLoop(s)
	m.out = newRow("out", s.Mix.Out.Chain, s.Mix.Out.Level, 0, false, rate, in, old("out"))
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

// takeMoves reports whether any row has effects.
func (m *mixes) takeMoves() (any bool) {
	m.all(func(r *row) { any = any || len(r.chain) > 0 })
	return any
}

// follow goes on from another mix: each row keeps what it remembers.
func (m *mixes) follow(was *mixes, rate float64, in effect.Context) {
	m.all(func(r *row) {
		var o *row
		if was != nil {
			o = was.find(r.name)
		}
		if o == nil {
			if r.rack == nil {
				r.rack = effect.NewRack(r.chain, rate, in)
			}
			r.runner.Processor = &r.fader
			r.fresh = true
			return
		}
		switch {
		case o.rack.Like(r.chain):
			r.rack = o.rack
			r.rack.Tune(r.chain, in.Shapes)
		default:
			if r.rack == nil { // it was like the rack of a program that was never taken
				r.rack = effect.NewRack(r.chain, rate, in)
			}
			r.rack.Continue(o.rack)
		}
		goal := r.fader
		r.fader = o.fader
		r.fader.Follow(goal)
		r.runner.Processor = &r.fader
		r.runner.Continue(&o.runner)
		r.late, r.direct, r.fresh = o.late, o.direct, false
		if r.pre != nil && o.pre != nil {
			r.pre.late, r.pre.silent = o.pre.late, o.pre.silent
		}
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
		r := &m.rows[i]
		r.hold(&r.late, m.stems-r.rack.Latency())
		if r.pre != nil {
			r.hold(&r.pre.late, m.stems-r.rack.Latency())
		}
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
func (r *row) hold(d *effect.Delay, frames int) {
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
// reports whether it is silent then.
func (r *row) process(b effect.Block, keys effect.Keys, c effect.Clock, silent, alike bool) bool {
	if r.last {
		silent = r.rack.RunBelowCeiling(b, keys, c, silent, func(b effect.Block, silent bool) bool { return r.runner.Run(b, nil, silent) })
	} else {
		silent = r.rack.RunAlike(b, keys, c, silent, alike)
		if p := r.pre; p != nil {
			before := p.part(b.Frames())
			copy(before.Left, b.Left)
			copy(before.Right, b.Right)
			if r.mute {
				before.Clear()
			}
			p.silent = p.late.Hold(before, silent || r.mute)
		}
		silent = r.runner.Run(b, nil, silent)
	}
	return r.late.Hold(b, silent)
}

// route adds a row's block to where it goes.
func (e *Engine) route(r *row, after effect.Block, afterSilent bool, out effect.Block) {
	for i := range r.sends {
		s, b, silent := &r.sends[i], after, afterSilent
		if s.of.Pre {
			b, silent = r.pre.part(after.Frames()), r.pre.silent
		}
		if silent && s.rests && s.cutsQuiet > s.cuts[0].Tail()+s.cuts[1].Tail() {
			continue
		}
		copied := effect.Block{Left: e.sent[0][:b.Frames()], Right: e.sent[1][:b.Frames()]}
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
	if r.direct.Hold(after, afterSilent) {
		return
	}
	if r.to >= 0 {
		add(e.busBlock(r.to, after.Frames()), after)
		e.mixes.buses[r.to].sounds = true
		return
	}
	add(out, after)
}

func add(to, b effect.Block) {
	for i, x := range b.Left {
		to.Left[i] += x
		to.Right[i] += b.Right[i]
	}
}

func (e *Engine) busBlock(i, frames int) effect.Block {
	b := &e.mixes.buses[i]
	return effect.Block{Left: b.block[0][:frames], Right: b.block[1][:frames]}
}

// Key is a sidechain, and whether there is any sound in this block: a voice's before its
// chain, or of "bus:" with a bus the sum of the voices that go to it, at their levels and
// before all chains.
func (e *Engine) Key(id string) (effect.Block, bool) {
	if bus, ok := strings.CutPrefix(id, "bus:"); ok {
		return e.busKey(bus)
	}
	i := placeOf(e.voices, id)
	if i < 0 || !e.voices[i].dryThere {
		return effect.Block{}, false
	}
	v := &e.voices[i]
	return effect.Block{Left: v.dry[0][:e.filled], Right: v.dry[1][:e.filled]}, true
}

func (e *Engine) busKey(id string) (effect.Block, bool) {
	sum := effect.Block{Left: e.keyed[0][:e.filled], Right: e.keyed[1][:e.filled]}
	sum.Clear()
	sounds := false
	for i := range e.voices {
		v, r := &e.voices[i], &e.mixes.rows[i]
		if !v.dryThere || r.mute || !e.mixes.leadsTo(r.to, id) {
			continue
		}
		sounds = true
		gains := effect.Panned(r.level, r.pan)
		for k := range sum.Left {
			sum.Left[k] += v.dry[0][k] * gains[0]
			sum.Right[k] += v.dry[1][k] * gains[1]
		}
	}
	return sum, sounds
}

// leadsTo reports whether what goes to bus i, -1 for the output, comes to a bus by its id.
func (m *mixes) leadsTo(i int, id string) bool {
	for i >= 0 {
		if m.buses[i].id == id {
			return true
		}
		i = m.buses[i].to
	}
	return false
}

// sidechains are the voices that some effect of a song detects, by themselves or through a
// bus.
func sidechains(s *Song) []string {
	var out []string
	add := func(id string) {
		if !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	look := func(effects []effect.Effect) {
		effect.Each(effects, func(fx *effect.Effect) {
			if bus, ok := strings.CutPrefix(fx.Key, "bus:"); ok {
				for i := range s.Kit.Voices {
					for to := s.Kit.Voices[i].To; to != ""; to = s.Mix.Bus(to).To {
						if to == bus {
							add(s.Kit.Voices[i].ID)
						}
					}
				}
			} else if fx.Key != "" {
				add(fx.Key)
			}
		})
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

// Watch lets w see the effects of a row, by its name as in addresses; nil ends it.
func (e *Engine) Watch(row string, w effect.Watcher) {
	if e.mixes == nil {
		return
	}
	if r := e.mixes.find(row); r != nil {
		r.rack.Watch(w)
	}
}

// Alone lets only what a band of an equalizer is about be heard of a row, or with -1 all.
func (e *Engine) Alone(row, effectID string, band int) {
	if e.mixes == nil {
		return
	}
	if r := e.mixes.find(row); r != nil {
		r.rack.Alone(effectID, band)
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
