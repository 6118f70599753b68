package engine

import (
	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/synth"
	"math"
	"slices"
)

// Song is what the engine plays: a kit, a groove that repeats, and its tempo.
type Song struct {
	Kit    sound.Kit
	Mix    mixer.Desk
	Groove groove.Groove
	Tempo  music.TempoMap
	// Samples are the sounds of the kit's layers.
	Samples sound.Samples
	// Piece is the arrangement that is played in place of the groove, or nil.
	Piece *Piece
}

// Hear is the song with no more of its feel than some parts, nudges among them.
func (s Song) Hear(parts []groove.FeelPart) Song {
	s.Groove = heard(&s.Groove, parts)
	if s.Piece != nil {
		piece := &Piece{Arrangement: s.Piece.Arrangement, Ready: s.Piece.Ready, Grooves: map[string]*groove.Groove{}}
		for id, g := range s.Piece.Grooves {
			piece.Grooves[id] = new(heard(g, parts))
		}
		s.Piece = piece
	}
	return s
}

// heard is a groove with no more of its feel than some parts.
func heard(of *groove.Groove, parts []groove.FeelPart) groove.Groove {
	g := *of
	g.Feel = g.Feel.Only(parts...)
	if slices.Contains(parts, "nudge") {
		return g
	}
	g.Lanes = slices.Clone(g.Lanes)
	for i := range g.Lanes {
		l := &g.Lanes[i]
		l.Hits = slices.Clone(l.Hits)
		for j := range l.Hits {
			l.Hits[j].Nudge = 0
		}
	}
	return g
}

// Program is a song made ready for an engine. It belongs to the engine that
// takes it.
type Program struct {
	song       Song `state:"shared"`
	voices     []voice
	mixes      *mixes
	voiceOf    [][]int          `state:"shared"`
	grooves    []*groove.Groove `state:"shared"`
	piece      *pieceOf
	line       timeline `state:"shared"`
	loopFrames int64
	early      float64
	backwards  map[hitOf]*backwards `state:"shared"`
	loop       [2]int
}

// timeline is what a program plays: events by window, in ticks and seconds.
type timeline interface {
	Events(from, to int, dst []groove.Event) []groove.Event
	Seconds(tick float64) float64
	Ticks(seconds float64) float64
	Period() int
	Within(tick float64) float64
	Loop() (from, to int)
	Reach() (early, late float64)
}

// Prepare makes a song ready for an engine of a sample rate, apart from it: all
// of a load that grows with the song. Voices that are as in was, which may be
// nil, are not compiled again. The song must be valid and must not change.
func Prepare(s Song, rate int, was *Program) *Program { return prepare(s, rate, 0, was) }

// PrepareLoop is Prepare for a part of the song, from a tick up to another one, that
// goes round and round.
func PrepareLoop(s Song, rate, from, to int, was *Program) *Program {
	p := prepare(s, rate, 0, was)
	if to > from && from >= 0 && p.piece != nil {
		p.piece.line.Round(from, to)
		if from, to = p.piece.line.Loop(); to > from {
			p.loop = [2]int{from, to}
		}
	} else if to > from && from >= 0 {
		p.line = groove.NewRounds(&p.song.Groove, s.Tempo, from, to)
		p.loop = [2]int{from, to}
	}
	return p
}

// prepare is Prepare; with a loop in ticks the line repeats that part exactly.
func prepare(s Song, rate, loop int, was *Program) *Program {
	p := &Program{song: s, voices: make([]voice, len(s.Kit.Voices))}
	for i := range p.voices {
		p.voices[i].load(&s, i, rate, was)
	}
	var old *mixes
	if was != nil {
		old = was.mixes
	}
	p.mixes = prepareMix(&p.song, float64(rate), old)
	for _, id := range sidechains(&s) {
		if i := placeOf(p.voices, id); i >= 0 {
			p.voices[i].steers = true
		}
	}
	if s.Piece != nil {
		p.prepare(rate, was)
	} else {
		p.line = groove.NewLine(&p.song.Groove, s.Tempo, loop)
		p.grooves = []*groove.Groove{&p.song.Groove}
	}
	p.findVoices()
	if loop > 0 {
		p.loopFrames = int64(math.Round(p.line.Seconds(float64(loop)) * float64(rate)))
	}
	early, _ := p.line.Reach()
	p.early = early / 1000
	p.early += p.reverse(rate, was)
	return p
}

// findVoices finds the voice of each lane of each groove.
func (p *Program) findVoices() {
	for _, g := range p.grooves {
		var of []int
		for _, l := range g.Lanes {
			of = append(of, placeOf(p.voices, l.Voice))
		}
		p.voiceOf = append(p.voiceOf, of)
	}
}

func (v *voice) load(song *Song, i, rate int, was *Program) {
	kit := &song.Kit
	s := &kit.Voices[i]
	v.id, v.sound, v.key, v.rumbled = s.ID, s, -1, math.MaxInt32
	if was != nil {
		if j := placeOf(was.voices, v.id); j >= 0 && s.SameSound(was.voices[j].sound) && sameSounds(s, song.Samples, was.song.Samples) {
			v.ready = was.voices[j].ready
		}
	}
	if v.ready == nil {
		v.ready = synth.Compile(s, song.Samples, rate)
	}
	var ringing *synth.Rumbles
	var tails *synth.Tails
	if was != nil {
		if j := placeOf(was.voices, v.id); j >= 0 {
			ringing, tails = was.voices[j].rumbles, was.voices[j].tails
		}
	}
	v.tails = v.ready.Tails(tails)
	v.rumbles = v.ready.NewRumbles(ringing)
	if g := s.Gate; g != nil {
		v.gate = effect.NewGate(float64(rate))
		v.key = slices.IndexFunc(kit.Voices, func(o sound.Voice) bool { return o.ID == g.By })
	}
	for j := range kit.Voices {
		if slices.Contains(kit.Voices[j].CutBy, s.ID) {
			v.cuts = append(v.cuts, j)
		}
	}
}

func sameSounds(v *sound.Voice, a, b sound.Samples) bool {
	for i := range v.Layers {
		for _, blob := range v.Layers[i].Blobs() {
			if a[blob] != b[blob] {
				return false
			}
		}
	}
	return true
}

// Load is Prepare and Swap.
func (e *Engine) Load(s Song) { e.Swap(Prepare(s, e.rate, nil)) }

// Swap takes a new version of the song and goes on from the same musical
// position; no stroke is lost and none is played twice. One that an edit moves
// from ahead to just behind the present is played at once. What sounds goes on
// by the id of its voice.
func (e *Engine) Swap(p *Program) {
	now := e.now()
	was := 0
	if e.line != nil {
		was = e.line.Period()
	}
	old := e.voices
	for i := range p.voices {
		v := &p.voices[i]
		if j := placeOf(old, v.id); j >= 0 {
			v.struck, v.rumbled, v.apart, v.still = old[j].struck, old[j].rumbled, old[j].apart, old[j].still
			if v.gate != nil && old[j].gate != nil {
				v.gate = old[j].gate
			}
		}
		if g := v.sound.Gate; g != nil {
			v.gate.Set(g.Threshold, g.Hysteresis, g.Floor, g.Attack, g.Hold, g.Release)
		}
		if v.tails != nil {
			v.tails.Follow(v.ready)
		}
		if v.rumbles != nil {
			v.rumbles.Follow(v.ready)
		}
	}
	for i := range e.notes {
		n := e.notes[i]
		if n.on() {
			if n.voice = placeOf(p.voices, old[n.voice].id); n.voice < 0 {
				*n = slot{}
			}
		}
	}
	p.mixes.follow(e.mixes, float64(e.rate), p.song.effectContext())
	e.mixes = p.mixes
	e.keepDucked(p)
	looped, other := e.loop, (e.piece == nil) != (p.piece == nil)
	e.grooves, e.piece = p.grooves, p.piece
	e.song, e.voices, e.voiceOf, e.line, e.loopFrames, e.early = p.song, p.voices, p.voiceOf, p.line, p.loopFrames, p.early
	e.backwards, e.loop = p.backwards, p.loop
	if other && was > 0 {
		e.frame, e.start, e.known, e.firedCount = 0, e.loop[0], 0, 0
		if e.loop[1] > 0 {
			e.frame = int64(math.Round(e.line.Seconds(float64(e.loop[0])) * float64(e.rate)))
		}
		e.requeue(e.start, func(stroke) bool { return true })
		return
	}
	if looped != e.loop && e.playing {
		e.enter(now, was, looped)
		return
	}
	e.reload(now, was)
}

func placeOf(voices []voice, id string) int {
	for i := range voices {
		if voices[i].id == id {
			return i
		}
	}
	return -1
}

// reload finds the present again on a new line, whose period was another, and
// queues from there on: what was about to sound still does, what has sounded
// does not sound again.
func (e *Engine) reload(now float64, was int) {
	moved := 0
	if is := e.line.Period(); was > 0 && is != was {
		pass, within := math.Floor(now/float64(was)), math.Mod(now, float64(was))
		then := pass*float64(is) + math.Mod(within, float64(is))
		moved = int(math.Round(then - now))
		now = then
	}
	if frame := e.line.Seconds(now) * float64(e.rate); math.Abs(frame-float64(e.frame)) > 1e-3 {
		e.frame = int64(math.Round(frame))
	}
	waiting, from := map[stroke]bool{}, math.MaxInt
	for _, q := range e.queue[min(e.head, len(e.queue)):] {
		q.stroke.tick += moved
		waiting[q.stroke] = true
		from = min(from, q.stroke.tick)
	}
	for i := range min(e.firedCount, len(e.fired)) {
		e.fired[i].tick += moved
	}
	e.start += moved
	seen := e.generated + moved
	e.known = max(e.known+moved, seen)
	e.requeue(from, func(s stroke) bool { return waiting[s] || s.tick >= seen })
}

// enter goes on in another part of the groove: at the same place where that lies in
// it, else where it begins.
func (e *Engine) enter(now float64, was int, looped [2]int) {
	within := math.Mod(now, float64(max(was, 1)))
	if looped[1] > 0 {
		within = float64(looped[0]) + math.Mod(math.Mod(now-float64(looped[0]), float64(was))+float64(was), float64(was))
	}
	if e.loop[1] > 0 && (within < float64(e.loop[0]) || within >= float64(e.loop[1])) {
		within = float64(e.loop[0])
	}
	e.frame = int64(math.Round(e.line.Seconds(within) * float64(e.rate)))
	e.start = int(math.Ceil(within))
	e.firedCount = 0
	e.known = e.start
	e.requeue(e.start, func(stroke) bool { return false })
}
