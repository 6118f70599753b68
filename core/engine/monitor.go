package engine

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/measure"
	"jubrak/core/music"
)

// Source is what the monitor lets through.
type Source string

// The three sources.
const (
	Mine          Source = "mine"
	FromReference Source = "reference"
	Both          Source = "both"
)

// Track is a recording that plays beside the groove, bar by bar.
type Track struct {
	// Audio at the engine's rate, one or two channels.
	Audio *audio.Buffer
	Grid  groove.BeatGrid
	// From and To bound the part that repeats, in beats from bar one.
	From, To int
}

// Monitor is the live path: the engine, the reference beside it at matched
// loudness, and the meter.
type Monitor struct {
	Engine *Engine
	Meter  *measure.Meter
	source Source
	mine   float64 // present gains, gliding to their goals
	theirs float64
	match  float64 // gain that brings the track to the loudness of mine
	track  *Track  `state:"shared"`
	read   float64 // next frame of the track
	old    float64 // frame left behind by a jump
	fade   int     // frames of crossfade to go
	bar    int
	study  *audio.Buffer `state:"shared"` // plays in a loop in place of everything else
	at     int           // next frame of study
	click  click
	system string
	racks  map[string]*effect.Rack // of the systems
	before string                  // the system that is faded from
	change int                     // frames of that to go
	safety effect.Limiter          // always the last
	tape   *tape                   // nil: at the engine's own speed
	left   *Engine                 // fades out beside the one that took its place; nil: none
	leaves int                     // frames of that to go
	block  [2][MaxBlock]float64
	other  [2][MaxBlock]float64
}

// NewMonitor is a stopped monitor at a rate, letting mine through.
func NewMonitor(rate int) *Monitor {
	return &Monitor{Engine: New(rate), Meter: measure.NewMeter(rate), source: Mine, mine: 1, match: 1, safety: effect.NewLimiter(float64(rate))}
}

// SetSource chooses what is heard; the change fades over a few ms.
func (m *Monitor) SetSource(s Source) { m.source = s }

// SetTrack takes the reference to play, or nil, and the gain that matches its
// loudness to the engine's.
func (m *Monitor) SetTrack(t *Track, match float64) {
	same := t != nil && m.track != nil && t.Audio == m.track.Audio
	m.track, m.match = t, match
	if !same {
		m.fade = 0
		m.follow()
	}
}

// Play starts mine and the track together at a tick, after so many bars of clicks.
func (m *Monitor) Play(tick float64, countIn int) {
	m.study = nil
	lead := 0
	if m.Engine.line != nil {
		meter, _ := m.Engine.meterAt(tick)
		lead = countIn * meter.BarTicks()
	}
	m.Engine.PlayInto(tick-float64(lead), tick)
	m.follow()
	m.fade = 0
}

// SetStudy plays a buffer at the engine's rate, one or two channels, in a loop
// in place of the groove; nil goes back. A buffer of another length
// starts at the same part of its way.
func (m *Monitor) SetStudy(b *audio.Buffer) {
	m.Engine.Stop()
	if b == nil || b.Frames() == 0 {
		m.study = nil
		return
	}
	if m.study == nil {
		m.at = 0
	} else {
		m.at = int(float64(m.at) / float64(m.study.Frames()) * float64(b.Frames()))
	}
	m.study = b
}

// Studied is how far the study has come, 0..1; ok is false while none plays.
func (m *Monitor) Studied() (part float64, ok bool) {
	if m.study == nil {
		return 0, false
	}
	return float64(m.at) / float64(m.study.Frames()), true
}

// loop adds the study to a block, so that strikes are heard over it.
func (m *Monitor) loop(left, right []float64) {
	n := m.study.Frames()
	l, r := m.study.Channels[0], m.study.Channels[len(m.study.Channels)-1]
	for i := range left {
		left[i] += float64(l[m.at])
		right[i] += float64(r[m.at])
		if m.at++; m.at == n {
			m.at = 0
		}
	}
}

// follow puts the track where the engine is.
func (m *Monitor) follow() { m.read, m.bar = m.target() }

// target is the frame of the track that belongs to the engine's position,
// and the engine's bar, counted over cycles.
func (m *Monitor) target() (frame float64, bar int) {
	e := m.Engine
	total := e.now()
	if e.line != nil {
		bar = e.barOf(total)
	}
	t := m.track
	if t == nil || t.To <= t.From {
		return 0, bar
	}
	beat := math.Mod(total/music.PPQ, float64(t.To-t.From))
	return t.Grid.Seconds(float64(t.From)+beat) * float64(t.Audio.Rate), bar
}

// Process renders the next block, at most MaxBlock frames, as the ear gets it:
// the meter sees what was made, and the safety limiter keeps what leaves here at
// or below full scale.
func (m *Monitor) Process(left, right []float32) {
	b := effect.Block{Left: m.block[0][:len(left)], Right: m.block[1][:len(left)]}
	before := m.Engine.now()
	m.play(b)
	if m.study != nil {
		m.loop(b.Left, b.Right)
	} else {
		m.blend(b.Left, b.Right)
		m.click.process(m.Engine, before, b)
	}
	m.Meter.Add(b.Left, b.Right)
	m.listen(b)
	m.safety.Process(b, nil)
	for i := range left {
		left[i], right[i] = float32(b.Left[i]), float32(b.Right[i])
	}
}

// play lets the engine fill a block, at the speed of the piece's tape.
func (m *Monitor) play(b effect.Block) {
	speed := m.Engine.speed()
	if speed == 1 {
		if m.tape != nil {
			m.tape = nil
		}
		m.fill(b.Left, b.Right)
		return
	}
	if m.tape == nil {
		m.tape = &tape{}
	}
	m.tape.speed = speed
	m.tape.read(b.Left, b.Right, m.fill)
}

// fill renders the next frames of the engine, in as many blocks as it wants.
func (m *Monitor) fill(left, right []float64) {
	for at := 0; at < len(left); {
		n := m.Engine.Ahead(len(left) - at)
		m.Engine.Process(left[at:at+n], right[at:at+n])
		at += n
	}
	if m.left == nil {
		return
	}
	var l, r [MaxBlock]float64
	for at := 0; at < len(left); {
		n := m.left.Ahead(len(left) - at)
		m.left.Process(l[at:at+n], r[at:at+n])
		at += n
	}
	for i := range left {
		w := float64(m.leaves) / joinFade
		left[i] += (l[i] - left[i]) * w
		right[i] += (r[i] - right[i]) * w
		m.leaves = max(m.leaves-1, 0)
	}
	if m.leaves == 0 {
		m.left = nil
	}
}

// joinFade is over how many frames another engine takes the place of one.
const joinFade = 960

// Join lets another engine, which plays the same at the same place, take the place of the
// monitor's over some ms: one that has played for a while and has what rings.
func (m *Monitor) Join(e *Engine) { m.left, m.Engine, m.leaves = m.Engine, e, joinFade }

// SetSystem chooses the speaker simulation; an unknown one is the full range. The change
// fades over some ms.
func (m *Monitor) SetSystem(id string) {
	if SystemOf(id) == nil {
		id = ""
	}
	if id == "full" {
		id = ""
	}
	if id == m.system {
		return
	}
	if m.racks == nil {
		m.racks = map[string]*effect.Rack{}
	}
	if id != "" && m.racks[id] == nil {
		m.racks[id] = effect.NewRack(SystemOf(id).Chain, float64(m.Engine.rate), effect.Context{})
	}
	m.before, m.system, m.change = m.system, id, systemFade
}

// systemFade is over how many frames another system comes in.
const systemFade = 960

// listen lets a block be heard as the chosen system gives it.
func (m *Monitor) listen(b effect.Block) {
	if m.change == 0 {
		if m.system != "" {
			m.racks[m.system].Run(b, nil, effect.Clock{}, false)
		}
		return
	}
	n := b.Frames()
	old := effect.Block{Left: m.other[0][:n], Right: m.other[1][:n]}
	copy(old.Left, b.Left)
	copy(old.Right, b.Right)
	if m.before != "" {
		m.racks[m.before].Run(old, nil, effect.Clock{}, false)
	}
	if m.system != "" {
		m.racks[m.system].Run(b, nil, effect.Clock{}, false)
	}
	for i := range b.Left {
		w := float64(m.change) / systemFade
		b.Left[i] += (old.Left[i] - b.Left[i]) * w
		b.Right[i] += (old.Right[i] - b.Right[i]) * w
		m.change = max(m.change-1, 0)
	}
}

// Held reports whether the safety limiter turns down what is heard.
func (m *Monitor) Held() bool { return m.safety.Holding() }

// blend lets mine and the track through as the source says.
func (m *Monitor) blend(left, right []float64) {
	e := m.Engine
	mine, theirs := 1.0, 0.0
	switch m.source {
	case FromReference:
		mine, theirs = 0, m.match
	case Both:
		mine, theirs = 1, m.match
	}
	if m.track == nil || !e.playing || e.CountingIn() {
		theirs = 0
	}
	if m.track != nil && e.playing {
		m.resync()
	}
	glide := 1 - math.Exp(-1/(0.004*float64(e.rate)))
	for i := range left {
		m.mine += (mine - m.mine) * glide
		m.theirs += (theirs - m.theirs) * glide
		l, r := left[i]*m.mine, right[i]*m.mine
		if m.track != nil && e.playing {
			tl, tr := m.next()
			l += tl * m.theirs
			r += tr * m.theirs
		}
		left[i], right[i] = l, r
	}
}

const jumpFrames = 240

// resync jumps, with a crossfade, when a new bar of the groove finds the
// track more than a millisecond away from where it belongs.
func (m *Monitor) resync() {
	want, bar := m.target()
	if bar == m.bar {
		return
	}
	m.bar = bar
	if math.Abs(want-m.read) > 0.001*float64(m.Engine.rate) {
		m.old, m.read, m.fade = m.read, want, jumpFrames
	}
}

func (m *Monitor) next() (left, right float64) {
	left, right = m.sample(m.read)
	m.read++
	if m.fade > 0 {
		ol, or := m.sample(m.old)
		m.old++
		w := float64(m.fade) / jumpFrames
		left, right = left*(1-w)+ol*w, right*(1-w)+or*w
		m.fade--
	}
	return left, right
}

func (m *Monitor) sample(frame float64) (left, right float64) {
	i := int(frame)
	b := m.track.Audio
	if i < 0 || i >= b.Frames() {
		return 0, 0
	}
	return float64(b.Channels[0][i]), float64(b.Channels[len(b.Channels)-1][i])
}
