package engine

import (
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// backwards is the sound of a hit that ends at its place, ready to be played.
type backwards struct {
	voice     string
	compiled  *synth.Voice
	velocity  int
	semitones float64
	length    int // frames that were asked for
	left      []float32
	right     []float32
}

func (b *backwards) frames() int { return len(b.left) }

// same reports whether the sound of a hit is still the one of another program.
func (b *backwards) same(o *backwards) bool {
	return b.voice == o.voice && b.compiled == o.compiled && b.velocity == o.velocity && b.semitones == o.semitones && b.length == o.length
}

// fadeIn is how softly a sound begins whose end was cut off, seconds.
const fadeIn = 0.005

// hitOf names a hit of a lane of a groove of a program.
type hitOf struct{ groove, lane, hit int }

// reverse renders the hits that play backwards, each once, as far as they are not there
// from the program before, and returns how early the longest begins, seconds.
func (p *Program) reverse(rate int, was *Program) (early float64) {
	var known []*backwards
	if was != nil {
		for _, b := range was.backwards {
			known = append(known, b)
		}
	}
	for k, g := range p.grooves {
		for i := range g.Lanes {
			for j := range g.Lanes[i].Hits {
				if h := &g.Lanes[i].Hits[j]; h.Reverse {
					known = p.turn(hitOf{k, i, j}, h, rate, known)
				}
			}
		}
	}
	for _, b := range p.backwards {
		early = max(early, float64(b.frames())/float64(rate))
	}
	return early
}

// turn makes a hit that plays backwards ready, or takes it from those that are known,
// which it returns with it.
func (p *Program) turn(at hitOf, h *groove.Hit, rate int, known []*backwards) []*backwards {
	v := p.voiceOf[at.groove][at.lane]
	if h.Sound != "" {
		v = placeOf(p.voices, h.Sound)
	}
	if v < 0 {
		return known
	}
	ticks := h.Length
	if ticks == 0 || h.Rolls() {
		ticks = music.PPQ
	}
	beat := 60000 / p.song.Tempo[0].BPM
	of := &p.voices[v]
	b := &backwards{voice: of.id, compiled: of.ready, velocity: h.Velocity, semitones: h.Semitones,
		length: int(float64(ticks) / music.PPQ * beat / 1000 * float64(rate))}
	if k := slices.IndexFunc(known, b.same); k >= 0 {
		b = known[k]
	} else {
		b.render(of.sound, p.song.Samples, rate, beat)
		known = append(known, b)
	}
	if p.backwards == nil {
		p.backwards = map[hitOf]*backwards{}
	}
	p.backwards[at] = b
	return known
}

func (b *backwards) render(v *sound.Voice, samples sound.Samples, rate int, beatMS float64) {
	shot := synth.Shot(v, samples, rate, synth.Stroke{Velocity: b.velocity, Semitones: b.semitones, Seed: 1, BeatMS: beatMS}, float64(b.length)/float64(rate)*1000)
	turn := func(x []float32) []float32 {
		y := slices.Clone(x[:min(len(x), b.length)])
		slices.Reverse(y)
		for i := range min(int(fadeIn*float64(rate)), len(y)) {
			y[i] *= float32(i) / float32(fadeIn*float64(rate))
		}
		return y
	}
	b.left = turn(shot.Channels[0])
	b.right = turn(shot.Channels[len(shot.Channels)-1])
}

// playback is a hit that is being played backwards; of is nil where none is.
type playback struct {
	of   *backwards `state:"shared"`
	at   int
	gain float64
	fade float64 // per frame once it is stopped, else 0
}

func (p *playback) cut() {
	if p.of != nil && p.fade == 0 {
		p.fade = p.gain / 200
	}
}

func (p *playback) add(b effect.Block) {
	if p.of == nil {
		return
	}
	for i := range b.Left {
		if p.at >= p.of.frames() || p.gain <= 0 {
			p.of = nil
			return
		}
		b.Left[i] += float64(p.of.left[p.at]) * p.gain
		b.Right[i] += float64(p.of.right[p.at]) * p.gain
		p.at++
		p.gain -= p.fade
	}
}

// rewind starts a hit that plays backwards, in its midst where it should have begun
// before now.
func (e *Engine) rewind(s scheduled) {
	slot := 0
	for i := range e.notes {
		if !e.notes[i].on() {
			slot = i
			break
		}
	}
	e.born++
	n := e.notes[slot]
	n.note.Stop()
	n.voice, n.born, n.glide = s.voice, e.born, 0
	e.voices[s.voice].rumbled = 0
	n.back = playback{of: s.back, at: s.skip, gain: audio.Gain(40 * math.Log10(float64(s.velocity)/float64(s.back.velocity)))}
}
