// Package engine schedules a project's hits through the synth and its mix,
// block by block. The same engine runs live and offline: a bounce is the live
// path without the clock.
package engine

import (
	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// Rate is the sample rate of the live path, frames per second.
const Rate = 48000

// MaxBlock is the largest block that Process takes, in frames.
const MaxBlock = effect.MaxBlock

// Engine plays a Song. It is not safe for concurrent use; the live path
// guards it. Process allocates nothing once a Song is loaded.
type Engine struct {
	rate    int
	song    Song `state:"shared"`
	voices  []voice
	mixes   *mixes
	sent    [2][MaxBlock]float64 // a copy on its way to a bus
	keyed   [2][MaxBlock]float64 // a bus as sidechain
	onward  [2][MaxBlock]float64 // what is held back on its way
	quiet   bool                 // nothing comes out any more
	begins  bool                 // it has just been let play
	beats   float64              // quarter notes since it began, for what moves while nothing plays
	voiceOf [][]int              `state:"shared"` // by groove and lane
	grooves []*groove.Groove     `state:"shared"` // that events are of
	piece   *pieceOf             // nil: a groove plays
	// withoutBackings leaves the backings out.
	withoutBackings bool
	notes           [polyphony]*slot
	born            uint64 // counts notes, to find the oldest

	line       timeline `state:"shared"`
	loopFrames int64    // where the line loops: frames of a pass; 0: it does not
	playing    bool
	frame      int64                // frames since the start of the line
	start      int                  // tick that playing began from: nothing earlier is struck
	early      float64              // how early a hit may fall, seconds
	backwards  map[hitOf]*backwards `state:"shared"` // hits that play backwards
	loop       [2]int               // the part that repeats, ticks; nothing where both are 0
	solo       []string             `state:"shared"` // voices that are heard alone; all where empty
	queue      []scheduled
	head       int
	generated  int            // tick up to which events are in the queue
	known      int            // tick up to which strokes may have been played already
	events     []groove.Event `state:"-"`
	fired      []stroke       // a ring of the strokes last played
	firedCount int
	filled     int // frames of the last block
}

// voice is a row of the song: what strikes it, what it stops, and its part of
// the mix.
type voice struct {
	id     string
	sound  *sound.Voice `state:"shared"` // of the song loaded; not changed
	ready  *synth.Voice
	cuts   []int   `state:"shared"` // voices that a hit of this one stops
	sounds bool    // in the present block
	struck int     // strokes by hand
	apart  float64 // how far it is turned down because others are heard alone, 0..1
	still  float64 // how far a hush turns it down, 0..1
	block  [2][MaxBlock]float64
	// What the voice's sound goes through before the mix.
	tails    *synth.Tails   // nil: none
	rumbles  *synth.Rumbles // nil: none
	rumbled  int            // frames since it was struck for the last time
	gate     *effect.Gate   // nil: none
	key      int            // the voice that opens the gate, or -1
	opens    [MaxBlock]float64
	steers   bool // some effect of the mix detects it
	dryThere bool // in the present block
	dry      [2][MaxBlock]float64
}

// New is an engine at a sample rate, stopped and empty.
func New(rate int) *Engine {
	e := &Engine{rate: rate, fired: make([]stroke, firedAtMost)}
	slots := make([]slot, polyphony)
	for i := range slots {
		e.notes[i] = &slots[i]
		slots[i].note.Ready()
	}
	return e
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

// Voices is the number of voices loaded.
func (e *Engine) Voices() int { return len(e.voices) }

// Voice is the part that voice i had in the block last processed: left and
// right, valid until the next Process.
func (e *Engine) Voice(i, frames int) (left, right []float64) {
	b := e.voices[i].part(0, frames)
	return b.Left, b.Right
}
