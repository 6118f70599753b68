// Package engine schedules a project's hits through the synth and its mix,
// block by block. The same engine runs live and offline: a bounce is the live
// path without the clock.
package engine

import (
	"math"
	"slices"

	"jubrak/core/dsp"
	"jubrak/core/groove"
	"jubrak/core/mix"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// Rate is the sample rate of the live path, frames per second.
const Rate = 48000

// MaxBlock is the largest block that Process takes, in frames.
const MaxBlock = mix.MaxBlock

const (
	polyphony   = 96
	firedAtMost = 4096 // strokes remembered as played, so that an edit doubles none
)

// Song is what the engine plays: a kit, a groove that repeats, and its tempo.
type Song struct {
	Kit    sound.Kit
	Mix    mix.Desk
	Groove groove.Groove
	Tempo  music.TempoMap
	// Samples are the sounds of the kit's layers.
	Samples sound.Samples
	// Piece is the arrangement that is played in place of the groove, or nil.
	Piece *Piece
}

// Hear is the song with no more of its feel than some parts, nudges among them: what
// is heard while one of them is judged alone, or none.
func (s Song) Hear(parts []groove.Part) Song {
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
func heard(of *groove.Groove, parts []groove.Part) groove.Groove {
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

// Engine plays a Song. It is not safe for concurrent use; the live path
// guards it. Process allocates nothing once a Song is loaded.
type Engine struct {
	rate    int
	song    Song
	voices  []voice
	mixes   *mixes
	sent    [2][MaxBlock]float64 // a copy on its way to a bus
	onward  [2][MaxBlock]float64 // what is held back on its way
	quiet   bool                 // nothing comes out any more
	begins  bool                 // it has just been let play
	beats   float64              // quarter notes since it began, for what moves while nothing plays
	voiceOf [][]int              // by groove and lane
	grooves []*groove.Groove     // that events are of
	piece   *pieceOf             // nil: a groove plays
	// withoutBackings leaves the backings out.
	withoutBackings bool
	notes           [polyphony]slot
	born            uint64 // counts notes, to find the oldest

	line       timeline
	loopFrames int64 // where the line loops: frames of a pass; 0: it does not
	playing    bool
	frame      int64                // frames since the start of the line
	start      int                  // tick that playing began from: nothing earlier is struck
	early      float64              // how early a hit may fall, seconds
	backwards  map[hitOf]*backwards // hits that play backwards
	loop       [2]int               // the part that repeats, ticks; nothing where both are 0
	solo       []string             // voices that are heard alone; all where empty
	queue      []scheduled
	head       int
	generated  int // tick up to which events are in the queue
	known      int // tick up to which strokes may have been played already
	events     []groove.Event
	fired      []stroke // a ring of the strokes last played
	firedCount int
	filled     int // frames of the last block
}

// stroke names one pass of one hit across edits of the song.
type stroke struct {
	hit  uint64 // voice and hit
	tick int
}

// voice is a row of the song: what strikes it, what it stops, and its part of
// the mix.
type voice struct {
	id     string
	sound  *sound.Voice // of the song loaded; not changed
	ready  *synth.Voice
	cuts   []int   // voices that a hit of this one stops
	sounds bool    // in the present block
	struck int     // strokes by hand
	apart  float64 // how far it is turned down because others are heard alone, 0..1
	still  float64 // how far a hush turns it down, 0..1
	block  [2][MaxBlock]float64
	// What the voice's sound goes through before the mix.
	tails    *synth.Tails   // nil: none
	rumbles  *synth.Rumbles // nil: none
	rumbled  int            // frames since it was struck for the last time
	gate     *mix.Gate      // nil: none
	key      int            // the voice that opens the gate, or -1
	opens    [MaxBlock]float64
	steers   bool // some step of the mix listens to it
	dryThere bool // in the present block
	dry      [2][MaxBlock]float64
}

// slot is a note that sounds, or a hit that plays backwards.
type slot struct {
	note  synth.Note
	voice int
	born  uint64
	glide float64 // of its hit to the next, ms
	place stroke  // the stroke of the groove that it is; nothing where it was struck by hand
	age   int     // frames since it was struck
	back  playback
}

func (s *slot) on() bool { return s.note.On() || s.back.of != nil }

func (s *slot) cut() {
	s.note.Cut()
	s.back.cut()
}

type scheduled struct {
	at        int64
	stroke    stroke
	key       uint64
	voice     int
	velocity  int
	semitones float64
	ordinal   int     // how many strokes of the voice came before
	beatMS    float64 // how long a beat lasts there
	// What the hit asks for beside a stroke: how long it sounds in frames, 0 for no
	// end, and whether it is stopped there; the glide to the next; a fall.
	lasts          int
	stops          bool
	glide          float64
	fall, fallTime float64
	back           *backwards
	skip           int          // how far into back it begins
	ready          *synth.Voice // where a drawn number makes it another sound; nil: the voice's
}

// New is an engine at a sample rate, stopped and empty.
func New(rate int) *Engine { return &Engine{rate: rate, fired: make([]stroke, firedAtMost)} }

// Program is a song made ready for an engine. It belongs to the engine that
// takes it.
type Program struct {
	song       Song
	voices     []voice
	mixes      *mixes
	voiceOf    [][]int
	grooves    []*groove.Groove
	piece      *pieceOf
	line       timeline
	loopFrames int64
	early      float64
	backwards  map[hitOf]*backwards
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
	for _, id := range steers(&s) {
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
		v.gate = mix.NewGate(float64(rate))
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
		n := &e.notes[i]
		if n.on() {
			if n.voice = placeOf(p.voices, old[n.voice].id); n.voice < 0 {
				*n = slot{}
			}
		}
	}
	p.mixes.follow(e.mixes, float64(e.rate), p.song.Mix.Shapes)
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

// BarWithin tells whether a bar begins within the next frames.
func (e *Engine) BarWithin(frames int) bool {
	if e.line == nil || !e.playing {
		return false
	}
	then := e.line.Ticks(float64(e.frame+int64(frames)) / float64(e.rate))
	return e.barOf(e.now()) != e.barOf(then)
}

// barOf is the bar that a tick of the line lies in, counted on through loops.
func (e *Engine) barOf(tick float64) int {
	if e.piece != nil {
		rounds := 0.0
		if from, to := e.line.Loop(); to > 0 {
			rounds = math.Floor((tick - float64(from)) / float64(to-from))
		}
		return int(rounds)*MaxBars + e.piece.line.Place(tick).Bar
	}
	return int(math.Floor(tick / float64(e.song.Groove.Meter.BarTicks())))
}

// meterAt is the meter at a tick of the line, and where its bar begins.
func (e *Engine) meterAt(tick float64) (music.Meter, float64) {
	if e.piece != nil {
		p := e.piece.line.Place(tick)
		return p.Meter, tick - (max(e.piece.line.Within(tick), 0) - float64(p.BarFrom))
	}
	bar := float64(e.song.Groove.Meter.BarTicks())
	return e.song.Groove.Meter, math.Floor(tick/bar) * bar
}

// CountingIn tells whether what plays has not come yet to where it leads.
func (e *Engine) CountingIn() bool { return e.playing && e.now() < float64(e.start) }

// Solo lets only some voices be heard; none named lets all.
func (e *Engine) Solo(voices []string) {
	e.solo = voices
	for i := range e.voices {
		if v := &e.voices[i]; !v.sounds {
			v.apart = e.aside(v)
		}
	}
}

// aside is 1 for a voice that is not heard while others are heard alone, else 0.
func (e *Engine) aside(v *voice) float64 {
	if len(e.solo) > 0 && !slices.Contains(e.solo, v.id) {
		return 1
	}
	return 0
}

// Play starts at a tick of the line, fractions allowed. Strokes of places from
// there on that fall earlier are played at once.
func (e *Engine) Play(tick float64) { e.PlayInto(tick, tick) }

// PlayInto starts at a tick of the line and strikes only what has its place at start or
// later: a count-in before it is silent.
func (e *Engine) PlayInto(tick, start float64) {
	e.silence()
	e.frame = int64(math.Round(e.line.Seconds(tick) * float64(e.rate)))
	if e.piece != nil { // so that what is drawn is taken in the same places as from the start
		e.frame = int64(math.Floor(float64(e.frame)/Grid)) * Grid
	}
	e.start = int(math.Ceil(start))
	e.playing, e.begins = true, true
	e.firedCount = 0
	e.known = e.start
	e.requeue(e.start, func(stroke) bool { return true })
}

// Leap goes on at another tick; what sounds rings on.
func (e *Engine) Leap(tick float64) {
	e.frame = int64(math.Round(e.line.Seconds(tick)*float64(e.rate))) / Grid * Grid
	e.start = int(math.Ceil(tick))
	e.firedCount = 0
	e.known = e.start
	e.requeue(e.start, func(stroke) bool { return true })
}

// PlayBefore starts so many seconds before a tick, at a place of the grid that playing
// from the tick has, too. Nothing before the line's beginning is played.
func (e *Engine) PlayBefore(tick, seconds float64) {
	e.Play(tick)
	frames := min(int64(seconds*float64(e.rate))/Grid*Grid, e.frame/Grid*Grid)
	if frames <= 0 {
		return
	}
	e.frame -= frames
	e.start = int(math.Ceil(e.line.Ticks(float64(e.frame) / float64(e.rate))))
	e.known = e.start
	e.requeue(e.start, func(stroke) bool { return true })
}

// Stop halts the clock and fades what sounds.
func (e *Engine) Stop() {
	e.playing = false
	e.silence()
}

func (e *Engine) silence() {
	for i := range e.notes {
		e.notes[i].cut()
	}
}

// Playing tells whether the clock runs.
func (e *Engine) Playing() bool { return e.playing }

// Position is the tick within the groove's cycle, or within the part that repeats,
// fractions included; during a count-in less than where it leads, so perhaps negative.
func (e *Engine) Position() float64 {
	if e.line == nil {
		return 0
	}
	now := e.now()
	if now < float64(e.start) && e.playing {
		return now
	}
	return e.line.Within(now)
}

// now is the tick of the line that plays, fractions included.
func (e *Engine) now() float64 {
	if e.line == nil {
		return 0
	}
	return e.line.Ticks(float64(e.frame) / float64(e.rate))
}

// Strike plays a voice at once, apart from the groove. Unknown ids are
// ignored.
func (e *Engine) Strike(id string, velocity int, semitones float64) {
	for i := range e.voices {
		if e.voices[i].id == id {
			e.trigger(scheduled{voice: i, velocity: velocity, semitones: semitones, key: dsp.Key(e.born, 99), ordinal: e.voices[i].struck, beatMS: e.beatMS(e.now())})
			e.voices[i].struck++
		}
	}
}

// requeue forgets what was scheduled and queues anew what may still fall, from
// a tick or from as far back as the latest hit may have its place. due tells of
// a stroke that should already have fallen whether it is to be played.
func (e *Engine) requeue(from int, due func(stroke) bool) {
	e.queue, e.head = e.queue[:0], 0
	_, late := e.line.Reach()
	e.generated = max(e.start, min(from, int(math.Floor(e.line.Ticks(float64(e.frame)/float64(e.rate)-late/1000-0.001)))))
	e.generate(due)
}

// generate queues the events whose straight place comes up to where the next
// block's earliest hits may have theirs.
func (e *Engine) generate(due func(stroke) bool) {
	until := int(math.Ceil(e.line.Ticks(float64(e.frame+MaxBlock)/float64(e.rate) + e.early)))
	if until <= e.generated {
		return
	}
	e.events = e.line.Events(e.generated, until, e.events[:0])
	e.generated = until
	if len(e.events) == 0 {
		return
	}
	e.queue = append(e.queue[:0], e.queue[e.head:]...)
	e.head = 0
	for i := range e.events {
		ev := &e.events[i]
		h := &e.grooves[ev.Part].Lanes[ev.Lane].Hits[ev.Hit]
		v := e.voiceOf[ev.Part][ev.Lane]
		if h.Sound != "" {
			v = placeOf(e.voices, h.Sound)
		}
		s := e.strokeOf(ev)
		at := e.frameOf(ev)
		back := e.backwards[hitOf{ev.Part, ev.Lane, ev.Hit}]
		if back != nil {
			at -= int64(back.frames())
		}
		if v < 0 || ev.Tick < e.known && e.wasFired(s) || due != nil && at < e.frame && !due(s) {
			continue
		}
		if back != nil && at+int64(back.frames()) <= e.frame {
			continue // over
		}
		next := scheduled{at: max(at, e.frame), stroke: s, key: ev.Key, voice: v, velocity: ev.Velocity, semitones: ev.Semitones, ordinal: ev.Ordinal, beatMS: e.beatMS(float64(ev.Tick))}
		next.glide, next.fall, next.fallTime, next.back = h.Glide, h.Fall, h.FallTime, back
		next.skip = int(next.at - at)
		if e.piece != nil {
			next.ready = e.piece.soundAt(v, ev.Tick)
		}
		if h.Length > 0 && (h.Cut || !h.Rolls()) {
			end := ev.Tick + h.Length - strokeTicks(h, ev)
			next.lasts = max(int((e.line.Seconds(float64(end))-e.line.Seconds(float64(ev.Tick)))*float64(e.rate)), 1)
			next.stops = h.Cut
		}
		e.queue = append(e.queue, next)
	}
	slices.SortStableFunc(e.queue, func(a, b scheduled) int {
		if a.at != b.at {
			return int(a.at - b.at)
		}
		return a.voice - b.voice
	})
}

// strokeTicks is how many ticks after its hit's place a stroke has its own.
func strokeTicks(h *groove.Hit, ev *groove.Event) int {
	if !h.Rolls() {
		return 0
	}
	var list [groove.MaxStrokes + 8]groove.Stroke
	return h.Opened(list[:0])[ev.Stroke].Ticks
}

// beatMS is how long a beat lasts from a tick on, ms.
func (e *Engine) beatMS(tick float64) float64 {
	if e.line == nil {
		return 500
	}
	return (e.line.Seconds(tick+music.PPQ) - e.line.Seconds(tick)) * 1000
}

func (e *Engine) wasFired(s stroke) bool {
	for i := range min(e.firedCount, len(e.fired)) {
		if e.fired[i] == s {
			return true
		}
	}
	return false
}

func (e *Engine) strokeOf(ev *groove.Event) stroke {
	l := &e.grooves[ev.Part].Lanes[ev.Lane]
	s := stroke{dsp.Key(dsp.KeyString(l.Voice), dsp.KeyString(l.Hits[ev.Hit].ID)), ev.Tick}
	if l.Hits[ev.Hit].Flam.Strokes > 0 {
		s.hit = dsp.Key(s.hit, uint64(ev.Stroke)) // several in one place
	}
	return s
}

// frameOf is the frame of an event. Passes of a loop are whole frames apart.
func (e *Engine) frameOf(ev *groove.Event) int64 {
	if e.loopFrames == 0 {
		return int64(math.Round(ev.Time * float64(e.rate)))
	}
	loop := e.line.Period()
	pass := math.Floor(float64(ev.Tick) / float64(loop))
	within := e.line.Seconds(float64(ev.Tick)-pass*float64(loop)) + ev.Offset/1000
	return int64(pass)*e.loopFrames + int64(math.Round(within*float64(e.rate)))
}

// Process renders the next len(left) frames, at most MaxBlock, into left and
// right, overwriting them. The part of voice i is then in Voice(i).
func (e *Engine) Process(left, right []float64) {
	n := len(left)
	for i := range e.voices {
		if v := &e.voices[i]; v.sounds {
			v.part(0, e.filled).Clear()
			v.sounds = false
		}
	}
	e.filled = n
	e.open()
	if e.playing {
		e.generate(nil)
	}
	for done := 0; done < n; {
		until := n
		for e.playing && e.head < len(e.queue) {
			next := &e.queue[e.head]
			if ahead := next.at - e.frame; ahead > int64(0) {
				until = min(until, done+int(min(ahead, int64(n))))
				break
			}
			e.trigger(*next)
			e.fired[e.firedCount%len(e.fired)] = next.stroke
			e.firedCount++
			e.head++
		}
		e.sound(done, until)
		if e.playing {
			e.frame += int64(until - done)
		}
		done = until
	}
	e.mix(left, right)
	e.back(left, right)
	if e.piece != nil && e.playing && e.loop[1] == 0 && e.frame >= e.piece.end {
		e.playing = false // what rings rings on
	}
}

// trigger starts a note, stopping those it cuts.
func (e *Engine) trigger(s scheduled) {
	v := &e.voices[s.voice]
	if s.back != nil {
		e.rewind(s)
		return
	}
	stroke := synth.Stroke{Velocity: s.velocity, Semitones: s.semitones, Seed: s.key, Ordinal: s.ordinal, BeatMS: s.beatMS}
	oldest, before := 0, -1 // before: the newest note of the voice that goes on
	going, first := 0, -1
	for i := range e.notes {
		n := &e.notes[i]
		if n.note.Going() && n.voice == s.voice {
			if n.note.Spent() {
				if v.sound.Mono {
					n.cut() // it is over, and what follows is a first note
				}
				continue
			}
			going++
			if before < 0 || n.born > e.notes[before].born {
				before = i
			}
			if first < 0 || n.born < e.notes[first].born {
				first = i
			}
		}
		if n.on() && slices.Contains(v.cuts, n.voice) && !e.spares(&s, n) {
			n.cut()
		}
		if !n.on() {
			if e.notes[oldest].on() {
				oldest = i
			}
		} else if e.notes[oldest].on() && n.born < e.notes[oldest].born {
			oldest = i
		}
	}
	v.rumbled = 0
	from, glide := s.semitones, v.sound.Glide
	if before >= 0 {
		from = e.notes[before].note.Semitones()
		if own := e.notes[before].glide; own > 0 {
			glide = own
		}
	}
	single := before >= 0 && (v.sound.Mono || e.notes[before].glide > 0)
	if single && v.sound.Legato {
		slot := &e.notes[before]
		slot.note.Follow(s.semitones, glide)
		slot.asks(&s)
		return
	}
	if single {
		for i := range e.notes {
			if n := &e.notes[i]; n.voice == s.voice {
				n.cut()
			}
		}
	} else if going >= synth.MostNotes {
		e.notes[first].note.Cut()
	}
	e.born++
	slot := &e.notes[oldest]
	slot.voice, slot.born, slot.back, slot.place, slot.age = s.voice, e.born, playback{}, s.stroke, 0
	ready := v.ready
	if s.ready != nil {
		ready = s.ready
	}
	slot.note.Strike(ready, stroke)
	if single && glide > 0 {
		slot.note.From(from, glide)
	}
	slot.asks(&s)
}

// spared is how long voices that stop each other do not, ms: strokes that are meant
// together fall apart by what players and scatter do.
const spared = 40

// spares tells whether a stroke lets a note sound that its voice stops: one that began
// just before, and an open hat on the step of a closed one, whichever falls first.
func (e *Engine) spares(s *scheduled, n *slot) bool {
	if n.voice == s.voice {
		return false
	}
	together := n.place != stroke{} && s.stroke != stroke{} && n.place.tick == s.stroke.tick
	if together && e.voices[n.voice].sound.Family == sound.HatOpen && e.voices[s.voice].sound.Family == sound.HatClosed {
		return true
	}
	return n.age < spared*e.rate/1000
}

// asks gives a note what its hit asks for beside the stroke.
func (n *slot) asks(s *scheduled) {
	n.glide = s.glide
	if s.fall != 0 && s.fallTime > 0 {
		n.note.From(s.semitones+s.fall, s.fallTime)
	}
	if s.lasts > 0 {
		n.note.End(s.lasts, s.stops)
	}
}

func (e *Engine) sound(from, to int) {
	for i := range e.notes {
		if n := &e.notes[i]; n.on() {
			v := &e.voices[n.voice]
			n.note.Add(v.part(from, to), from)
			n.age += to - from
			n.back.add(v.part(from, to))
			v.sounds = true
		}
	}
}

func (v *voice) part(from, to int) mix.Block {
	return mix.Block{Left: v.block[0][from:to], Right: v.block[1][from:to]}
}

// mix takes each voice through its row, and buses through theirs, to the output.
func (e *Engine) mix(left, right []float64) {
	n := len(left)
	out := mix.Block{Left: left, Right: right}
	out.Clear()
	if e.mixes == nil {
		return
	}
	clock := e.clock(n)
	e.shape(n, clock)
	e.applyMoves(n, clock)
	for i := range e.mixes.buses {
		b := &e.mixes.buses[i]
		b.sounds = false
		e.busBlock(i, n).Clear()
	}
	for i := range e.voices {
		v := &e.voices[i]
		if v.dryThere = v.steers && v.sounds; v.dryThere {
			copy(v.dry[0][:n], v.block[0][:n])
			copy(v.dry[1][:n], v.block[1][:n])
		}
	}
	for i := range e.voices {
		v, r := &e.voices[i], &e.mixes.rows[i]
		b := v.part(0, n)
		if v.sounds && !finite(b) {
			b.Clear() // what is no number would stay in the steps for good
		}
		silent := r.process(b, e, clock, !v.sounds, v.ready.Mono() && slices.Equal(b.Left, b.Right))
		v.sounds = v.sounds || !silent // also what only rings on
		if !silent && (len(e.solo) > 0 || v.apart > 0) {
			v.stepAside(e.aside(v), b, e.rate)
		}
		e.hush(&v.still, v.id, b)
		e.carry(r, b, silent, out)
	}
	for i := range e.mixes.buses {
		b := &e.mixes.buses[i]
		block := e.busBlock(i, n)
		silent := b.process(block, e, clock, !b.sounds, false)
		e.hush(&b.still, "", block)
		b.sounds = !silent
		e.carry(&b.row, block, silent, out)
	}
	e.quiet = e.mixes.out.process(out, e, clock, !e.loud(n), false)
	e.hush(&e.mixes.still, "", out)
}

// finite tells whether a block holds numbers only, and none beyond all sense.
func finite(b mix.Block) bool {
	sum := 0.0
	for i, x := range b.Left {
		sum += math.Abs(x) + math.Abs(b.Right[i])
	}
	return sum < 1e12
}

// loud tells whether anything comes to the output.
func (e *Engine) loud(frames int) bool {
	for i := range e.voices {
		if e.mixes.rows[i].to < 0 && e.voices[i].sounds {
			return true
		}
	}
	for i := range e.mixes.buses {
		if e.mixes.buses[i].to < 0 && e.mixes.buses[i].sounds {
			return true
		}
	}
	return false
}

// carry is goOn on a copy, so that what the row gave can still be read.
func (e *Engine) carry(r *row, b mix.Block, silent bool, out mix.Block) {
	if r.direct.Frames() == 0 {
		e.goOn(r, b, silent, out)
		return
	}
	onward := mix.Block{Left: e.onward[0][:b.Frames()], Right: e.onward[1][:b.Frames()]}
	copy(onward.Left, b.Left)
	copy(onward.Right, b.Right)
	e.goOn(r, onward, silent, out)
}

// clock is where the song is in this block; while nothing plays time goes on at its
// tempo.
func (e *Engine) clock(frames int) mix.Clock {
	per := 2 / float64(e.rate)
	if e.line == nil {
		return mix.Clock{PerFrame: per}
	}
	now := e.now()
	from := e.frame
	if e.playing {
		from -= int64(frames) // the block has gone by
	}
	at := e.line.Ticks(float64(from) / float64(e.rate))
	per = (e.line.Ticks(float64(from+int64(frames))/float64(e.rate)) - at) / music.PPQ / float64(frames)
	if !e.playing {
		e.beats += per * float64(frames)
		return mix.Clock{Beat: now/music.PPQ + e.beats, PerFrame: per}
	}
	e.beats = 0
	c := mix.Clock{Beat: at / music.PPQ, PerFrame: per}
	c.Frame, c.Loop, c.LoopBeat = e.pass(at, from)
	return c
}

// pass is where in what comes round a frame lies whose tick is at, how many frames that
// lasts, and the beat that it begins at.
func (e *Engine) pass(at float64, frame int64) (within, loop int64, beat float64) {
	begin, _ := e.line.Loop()
	beat = float64(begin) / music.PPQ
	if n := e.loopFrames; n > 0 {
		return (frame%n + n) % n, n, beat
	}
	start := func(pass float64) int64 {
		return int64(math.Round(e.line.Seconds(float64(begin)+pass*float64(e.line.Period())) * float64(e.rate)))
	}
	pass := math.Floor((at - float64(begin)) / float64(e.line.Period()))
	from, to := start(pass), start(pass+1)
	if frame >= to { // a tick's time is rounded
		from, to = to, start(pass+2)
	} else if frame < from {
		from, to = start(pass-1), from
	}
	return frame - from, to - from, beat
}

// stepAside turns a voice down in a few ms while others are heard alone, or back up.
func (v *voice) stepAside(goal float64, b mix.Block, rate int) {
	step := 1 / (0.005 * float64(rate))
	for k := range b.Left {
		v.apart += max(min(goal-v.apart, step), -step)
		b.Left[k] *= 1 - v.apart
		b.Right[k] *= 1 - v.apart
	}
}

// shape lets the voices' tails, gates and rumbles act on their sounds. Gates listen to
// other voices as they are before that.
func (e *Engine) shape(frames int, clock mix.Clock) {
	for i := range e.voices {
		if v := &e.voices[i]; v.tails != nil && v.tails.Process(v.part(0, frames), clock) {
			v.sounds = true
		}
	}
	for i := range e.voices {
		v := &e.voices[i]
		if v.gate == nil || v.key < 0 {
			continue
		}
		by := e.voices[v.key].part(0, frames)
		for k, x := range by.Left {
			v.opens[k] = max(math.Abs(x), math.Abs(by.Right[k]))
		}
	}
	for i := range e.voices {
		v := &e.voices[i]
		if v.gate != nil && v.key >= 0 {
			v.gate.Process(v.part(0, frames), v.opens[:frames])
		}
		if v.rumbles == nil {
			continue
		}
		if v.sounds {
			v.rumbled = 0
		}
		if v.rumbled < v.rumbles.Tail() {
			v.rumbled += frames
			v.rumbles.Process(v.part(0, frames), clock)
			v.sounds = true
		} else {
			v.rumbles.Rest()
		}
	}
}

// Voices is the number of voices loaded.
func (e *Engine) Voices() int { return len(e.voices) }

// Voice is the part that voice i had in the block last processed: left and
// right, valid until the next Process.
func (e *Engine) Voice(i, frames int) (left, right []float64) {
	b := e.voices[i].part(0, frames)
	return b.Left, b.Right
}
