package synth

import (
	"math"

	"jubrak/core/effect"
	"jubrak/core/sound"
)

// Stroke is what strikes a voice.
type Stroke struct {
	Velocity  int     // 1..127
	Semitones float64 // above the voice's own pitch
	Seed      uint64  // of its noise
	Ordinal   int     // how many strokes of the voice came before
	BeatMS    float64 // how long a beat lasts there, ms
}

// Hard is a stroke of a velocity at the voice's own pitch, at 120 BPM.
func Hard(velocity int, seed uint64) Stroke {
	return Stroke{Velocity: velocity, Seed: seed, BeatMS: 500}
}

// Note is one sounding hit. Strike prepares it and overwrites what it was; Add
// renders it, until On reports that nothing is left. Neither allocates, so notes
// can live in a pool. The zero Note is silent.
type Note struct {
	voice     *Voice // nil: silent
	level     float64
	semitones float64
	layers    [sound.MaxLayers]*sounding
	// Of each layer, also once nothing is left of it, when it is not kept any more: its level
	// by the hit's velocity, and the peak of its runs so far.
	levels, loudest [sound.MaxLayers]float64
	cut, cutBy      float64 // fade level and its step per frame once cut
	// What a hit's length asks for: frames until it ends, 0 for no end, and how its
	// level falls per frame until then, 1 where it is stopped instead.
	lasts   int
	sent    int // where in the block of tails it goes on
	dying   float64
	dyingBy float64
}

// sounding is the running state of a layer: its next frames, and what makes
// those after them.
type sounding struct {
	wait         int // frames until it begins
	left         int // frames until nothing is left of it
	at           int // place in run of the next frame
	age          int // frames since it was struck
	run          [2][stride]float64
	level        float64 // by the hit's velocity
	loudest      float64 // peak of its runs so far
	recent       [2]float64
	recentFrames int // frames that the second of recent is of
	filter       [maxFilters]effect.Filter
	playing      playing
	reading      reading
}

// Resting reports whether nothing is left: then there is nothing to be kept of it.
func (s *sounding) Resting() bool { return s.left <= 0 }

// Rest ends it.
func (s *sounding) Rest() { s.left = 0 }

// Ready makes room for all layers, so that no hit allocates.
func (n *Note) Ready() {
	for i := range n.layers {
		n.layer(i)
	}
}

func (n *Note) layer(i int) *sounding {
	if n.layers[i] == nil {
		n.layers[i] = &sounding{}
	}
	return n.layers[i]
}

// Trigger begins a hit of a voice.
func (n *Note) Trigger(v *Voice, s Stroke) {
	n.voice, n.level, n.semitones, n.cut, n.cutBy = v, v.gain(s.Velocity), s.Semitones, 1, 0
	n.lasts, n.dying, n.dyingBy = 0, 1, 1
	for i := range v.layers {
		l, o := &v.layers[i], n.layer(i)
		n.levels[i], n.loudest[i] = 0, 0
		o.wait, o.at, o.age = l.start, stride, 0
		o.loudest, o.recent, o.recentFrames = 0, [2]float64{}, 0
		if o.level = l.of.VelocityGain(s.Velocity) * n.level; o.level == 0 || !v.turns.sounds(i, l.of, s) {
			o.left = 0 // it does not answer to this velocity, or it is not its turn
			continue
		}
		n.levels[i] = o.level
		copy(o.filter[:l.filters], l.filter[:l.filters])
		late := 0
		if l.recipe != nil {
			o.playing.start(l.recipe, s, l.key, o)
			o.left, late = o.playing.left(), l.recipe.late
		} else {
			o.left = l.recording.life(s.Semitones)
			o.reading.start(l.recording, s.Semitones)
		}
		if l.attack != nil {
			o.left = max(o.left, l.attack.frames)
		}
		o.left += l.ring
		// Steps that sound late begin so much earlier.
		for late > 0 {
			o.next(l)
			k := min(late, stride)
			o.at, late = k, late-k
		}
		n.loudest[i] = o.loudest
	}
}

// From lets a hit that was just struck glide from the pitch of another one, so many
// ms long.
func (n *Note) From(semitones, ms float64) { n.glide(semitones, n.semitones, ms) }

// End lets the note sound for so many frames: with cut it is then stopped by its
// voice's release, else it dies away, by 60 dB, until then.
func (n *Note) End(frames int, cut bool) {
	n.lasts, n.dying, n.dyingBy = max(frames, 1), 1, 1
	if !cut {
		n.dyingBy = math.Pow(10, -3/float64(n.lasts))
	}
}

// Follow goes on at another pitch without a new attack, where it gets in so many
// ms.
func (n *Note) Follow(semitones, ms float64) {
	was := n.semitones
	n.semitones = semitones
	n.glide(was, semitones, ms)
}

func (n *Note) glide(from, to, ms float64) {
	if n.voice == nil {
		return
	}
	for i := range n.voice.layers {
		l, o := &n.voice.layers[i], n.layers[i]
		if o.left <= 0 {
			continue
		}
		if l.recipe != nil {
			o.playing.tuning.to = l.recipe.tuning * ratio(to)
			o.playing.tuning.from(l.recipe.tuning*ratio(from), ms, n.voice.rate)
		} else {
			o.reading.step.to = l.recording.step * ratio(to)
			o.reading.step.from(l.recording.step*ratio(from), ms, n.voice.rate)
		}
	}
}

// Semitones is the pitch of the hit.
func (n *Note) Semitones() float64 { return n.semitones }

// On reports whether the note still sounds.
func (n *Note) On() bool { return n.voice != nil }

// Stop ends it at once.
func (n *Note) Stop() { n.voice = nil }

// Going reports whether it sounds and is not being stopped.
func (n *Note) Going() bool { return n.voice != nil && n.cutBy == 0 }

// Cut fades the note out over its voice's release; cut again, it goes on fading.
func (n *Note) Cut() {
	if n.cutBy == 0 && n.voice != nil {
		n.cutBy = 1 / (n.voice.cut / 1000 * n.voice.rate)
	}
}

// Add renders the next frames and adds them to a block of two channels; what is shared with
// other notes goes to the voice's tails, in their block from a frame on.
func (n *Note) Add(b effect.Block, at int) {
	if n.voice == nil {
		return
	}
	n.sent = at
	if n.lasts > 0 && n.cutBy == 0 && n.dyingBy == 1 { // stopped later
		k := min(n.lasts, b.Frames())
		if more := n.render(b, 0, k, nil); !more {
			n.voice = nil
			return
		}
		if n.lasts -= k; n.lasts > 0 {
			return
		}
		n.Cut()
		b = b.Part(k, b.Frames())
		n.sent += k
	}
	if n.cutBy > 0 || n.lasts > 0 {
		n.fade(b)
		return
	}
	if !n.add(b) {
		n.voice = nil
	}
}

// fade is Add for a note that was cut or is dying away.
func (n *Note) fade(b effect.Block) {
	for done := 0; done < b.Frames(); {
		to := min(done+stride, b.Frames())
		var levels [stride]float64
		over := false
		for i := range to - done {
			levels[i] = n.cut * n.dying
			if n.lasts > 0 {
				n.dying *= n.dyingBy
				if n.lasts--; n.lasts == 0 {
					n.Cut() // what is left is 60 dB down
				}
			}
			if n.cut -= n.cutBy; n.cut <= 0 {
				over = true // the rest of the levels is 0
				break
			}
		}
		more := n.render(b, done, to, levels[:])
		if over {
			n.end()
			return
		}
		if !more {
			n.voice = nil
			return
		}
		done = to
	}
}

// end lets go of what the note's layers hold.
func (n *Note) end() {
	for i := range n.voice.layers {
		n.layers[i].left = 0
	}
	n.voice = nil
}

// add renders every layer and reports whether anything is left.
func (n *Note) add(b effect.Block) bool { return n.render(b, 0, b.Frames(), nil) }

// render adds the frames from to to of every layer to a block, or to the tail that it shares
// with other notes, at levels where there are any. It reports whether anything is left.
func (n *Note) render(b effect.Block, from, to int, levels []float64) bool {
	more := false
	for i := range n.voice.layers {
		l, s := &n.voice.layers[i], n.layers[i]
		if s.left <= 0 {
			continue
		}
		out := b.Part(from, to)
		if l.tail != nil {
			out = l.tail.part(n.sent+from, n.sent+to)
		}
		if levels == nil {
			s.add(l, out)
		} else {
			var left, right [stride]float64
			part := effect.Block{Left: left[:to-from], Right: right[:to-from]}
			s.add(l, part)
			for k, level := range levels[:to-from] {
				out.Left[k] += part.Left[k] * level
				out.Right[k] += part.Right[k] * level
			}
		}
		n.loudest[i] = s.loudest
		more = more || s.left > 0
	}
	return more
}

func (s *sounding) add(l *layer, b effect.Block) {
	done := min(s.wait, b.Frames())
	s.wait -= done
	left, right := l.gain[0]*s.level, l.gain[1]*s.level
	if l.tail != nil { // which has the layer's gain
		left, right = s.level, s.level
	}
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
		s.playing.run(&s.run)
		if s.playing.over() {
			s.left = min(s.left, l.ring)
		}
	} else {
		s.reading.run(l.recording, &s.run)
	}
	if l.attack != nil {
		s.begin(l)
	}
	s.age += stride
	b := effect.Block{Left: s.run[0][:]}
	if l.channels() == 2 {
		b.Right = s.run[1][:]
	}
	for i := range s.filter[:l.filters] {
		s.filter[i].Process(b, nil)
	}
	s.watch(b)
}

// watched is over how many frames the level of a layer is looked at: a period of the
// lowest tones.
const watched = 1200

// watch follows how loud the layer was and is.
func (s *sounding) watch(b effect.Block) {
	peak := 0.0
	for _, x := range b.Left {
		peak = max(peak, math.Abs(x))
	}
	for _, x := range b.Right {
		peak = max(peak, math.Abs(x))
	}
	s.loudest = max(s.loudest, peak)
	if s.recentFrames += stride; s.recentFrames > watched {
		s.recent, s.recentFrames = [2]float64{s.recent[1], 0}, stride
	}
	s.recent[1] = max(s.recent[1], peak)
}

// spentBy is by how much a note has fallen, linear, when it is over for the one that
// follows it: 40 dB.
const spentBy = 0.01

// Spent reports whether the note has fallen by 40 dB from its loudest: nothing goes on
// from it any more.
func (n *Note) Spent() bool {
	if n.voice == nil {
		return true
	}
	loudest, recent := 0.0, 0.0
	for i := range n.voice.layers {
		s := n.layers[i]
		gain := n.levels[i] * max(math.Abs(n.voice.layers[i].gain[0]), math.Abs(n.voice.layers[i].gain[1]))
		loudest = max(loudest, n.loudest[i]*gain)
		if s.left > 0 {
			if s.wait > 0 || s.age < watched {
				return false // it begins
			}
			recent = max(recent, max(s.recent[0], s.recent[1])*gain)
		}
	}
	return recent*n.dying <= loudest*spentBy
}

// channels is 1 where both sides have the same sound.
func (l *layer) channels() int {
	if l.recording != nil && len(l.recording.x) > 1 || l.recipe != nil && l.recipe.stereo {
		return 2
	}
	return 1
}
