package engine

import (
	"jubrak/core/dsp"
	"jubrak/core/sound"
	"jubrak/core/synth"
	"slices"
)

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

// Resting reports whether nothing sounds: then there is nothing to be kept of it.
func (s *slot) Resting() bool { return !s.on() }

// Rest ends what sounds, at once.
func (s *slot) Rest() {
	s.note.Stop()
	s.back.of = nil
}

func (s *slot) cut() {
	s.note.Cut()
	s.back.cut()
}

// Trigger plays a voice at once, apart from the groove. Unknown ids are
// ignored.
func (e *Engine) Trigger(id string, velocity int, semitones float64) {
	for i := range e.voices {
		if e.voices[i].id == id {
			e.trigger(scheduled{voice: i, velocity: velocity, semitones: semitones, key: dsp.Key(e.born, 99), ordinal: e.voices[i].struck, beatMS: e.beatMS(e.now())})
			e.voices[i].struck++
		}
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
		n := e.notes[i]
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
		slot := e.notes[before]
		slot.note.Follow(s.semitones, glide)
		slot.asks(&s)
		return
	}
	if single {
		for i := range e.notes {
			if n := e.notes[i]; n.voice == s.voice {
				n.cut()
			}
		}
	} else if going >= synth.MostNotes {
		e.notes[first].note.Cut()
	}
	e.born++
	slot := e.notes[oldest]
	slot.voice, slot.born, slot.back, slot.place, slot.age = s.voice, e.born, playback{}, s.stroke, 0
	ready := v.ready
	if s.ready != nil {
		ready = s.ready
	}
	slot.note.Trigger(ready, stroke)
	if single && glide > 0 {
		slot.note.From(from, glide)
	}
	slot.asks(&s)
}

// spared is how long voices that stop each other do not, ms: strokes that are meant
// together fall apart by what players and scatter do.
const spared = 40

// spares reports whether a stroke lets a note sound that its voice stops: one that began
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
		if n := e.notes[i]; n.on() {
			v := &e.voices[n.voice]
			n.note.Add(v.part(from, to), from)
			n.age += to - from
			n.back.add(v.part(from, to))
			v.sounds = true
		}
	}
}
