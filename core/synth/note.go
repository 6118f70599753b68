package synth

import (
	"jubrak/core/dsp"
	"jubrak/core/mix"
	"jubrak/core/sound"
)

// cutMS is the fade of a note that another one stops.
const cutMS = 4

// Note is one sounding hit. Strike prepares it and overwrites what it was; Add
// renders it, until On tells that nothing is left. Neither allocates, so notes
// can live in a pool. The zero Note is silent.
type Note struct {
	voice        *Voice // nil: silent
	level        float64
	layers       [sound.MaxLayers]sounding
	cut, cutStep float64 // fade level and its step per frame once cut
}

// sounding is the running state of a layer: its next frames, and what makes
// those after them.
type sounding struct {
	wait    int // frames until it begins
	left    int // frames until nothing is left of it
	at      int // place in run of the next frame
	run     [2][stride]float64
	level   float64 // by the hit's velocity
	filter  [maxFilters]mix.Filter
	cooking cooking
	reading reading
}

// Strike begins a hit of a voice: velocity in 1..127, semitones above its own
// pitch, and the seed of its noise.
func (n *Note) Strike(v *Voice, velocity int, semitones float64, seed uint64) {
	n.voice, n.level, n.cut, n.cutStep = v, VelocityGain(velocity), 1, 0
	for i := range v.layers {
		l, s := &v.layers[i], &n.layers[i]
		s.wait, s.at = l.start, stride
		if s.level = l.of.VelocityGain(velocity) * n.level; s.level == 0 {
			s.left = 0 // it does not answer to this velocity
			continue
		}
		copy(s.filter[:l.filters], l.filter[:l.filters])
		if l.recipe != nil {
			s.left = l.recipe.life
			s.cooking.strike(l.recipe, velocity, semitones, dsp.Key(seed, l.key))
		} else {
			s.left = l.recording.life(semitones)
			s.reading.strike(l.recording, semitones)
		}
	}
}

// On tells whether the note still sounds.
func (n *Note) On() bool { return n.voice != nil }

// Cut fades the note out over a few ms; cut again, it goes on fading.
func (n *Note) Cut() {
	if n.cutStep == 0 && n.voice != nil {
		n.cutStep = 1 / (cutMS / 1000.0 * n.voice.rate)
	}
}

// Add renders the next frames and adds them to a block of two channels.
func (n *Note) Add(b mix.Block) {
	if n.voice == nil {
		return
	}
	if n.cutStep > 0 {
		n.fade(b)
		return
	}
	if !n.add(b) {
		n.voice = nil
	}
}

// fade is Add for a note that was cut.
func (n *Note) fade(b mix.Block) {
	for done := 0; done < b.Frames(); {
		to := min(done+stride, b.Frames())
		var l, r [stride]float64
		part := mix.Block{Left: l[:to-done], Right: r[:to-done]}
		more := n.add(part)
		for i := range part.Left {
			b.Left[done+i] += part.Left[i] * n.cut
			b.Right[done+i] += part.Right[i] * n.cut
			if n.cut -= n.cutStep; n.cut <= 0 {
				n.voice = nil
				return
			}
		}
		if !more {
			n.voice = nil
			return
		}
		done = to
	}
}

// add renders every layer and tells whether anything is left.
func (n *Note) add(b mix.Block) bool {
	more := false
	for i := range n.voice.layers {
		l, s := &n.voice.layers[i], &n.layers[i]
		s.add(l, b)
		more = more || s.left > 0
	}
	return more
}

func (s *sounding) add(l *layer, b mix.Block) {
	done := min(s.wait, b.Frames())
	s.wait -= done
	left, right := l.gain[0]*s.level, l.gain[1]*s.level
	for done < b.Frames() && s.left > 0 {
		if s.at == stride {
			s.next(l)
		}
		n := min(stride-s.at, b.Frames()-done, s.left)
		x, y := s.run[0][s.at:s.at+n], s.run[0][s.at:s.at+n]
		if l.channels() == 2 {
			y = s.run[1][s.at : s.at+n]
		}
		outL, outR := b.Left[done:done+n], b.Right[done:done+n]
		for i, v := range x {
			outL[i] += v * left
			outR[i] += y[i] * right
		}
		done, s.at, s.left = done+n, s.at+n, s.left-n
	}
}

// next renders the next run of a layer.
func (s *sounding) next(l *layer) {
	s.at = 0
	if l.recipe != nil {
		s.cooking.run(l.recipe, &s.run[0])
	} else {
		s.reading.run(l.recording, &s.run)
	}
	b := mix.Block{Left: s.run[0][:]}
	if l.channels() == 2 {
		b.Right = s.run[1][:]
	}
	for i := range s.filter[:l.filters] {
		s.filter[i].Process(b, nil)
	}
}

// channels is 1 where both sides have the same sound.
func (l *layer) channels() int {
	if l.recording != nil && len(l.recording.x) > 1 {
		return 2
	}
	return 1
}
