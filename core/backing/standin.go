package backing

import (
	"context"
	"math"
	"sort"

	"jubrak/core/arrange"
	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/engine"
	"jubrak/core/music"
)

// note is something that a stand-in sounds.
type note struct {
	from, to float64 // s
	hz       float64
	level    float64 // linear
	kind     kind
	vowel    int
	hiss     float64 // of a consonant before it, 0..1
}

type kind int

const (
	spoken kind = iota
	plucked
	low
	held
)

// vowels are the first three formants of spoken vowels, Hz: ee, eh, ah, oh, oo (Peterson &
// Barney 1952, "Control methods used in a study of the vowels", J. Acoust. Soc. Am. 24,
// table II, men).
var vowels = [][3]float64{{270, 2290, 3010}, {530, 1840, 2480}, {730, 1090, 2440}, {570, 840, 2410}, {300, 870, 2240}}

// widths are the formants' bandwidths, Hz (common practice).
var widths = [3]float64{70, 110, 170}

// StandIn gives what a stand-in plays over a piece, in a key, block by block. Blocks are
// valid until give returns.
func StandIn(ctx context.Context, s *arrange.StandIn, line *arrange.Line, key string, give func(*audio.Buffer) error, watch func(done float64)) error {
	notes := notesOf(s, line, key)
	frames := int(line.Straight(float64(line.End())) * engine.Rate)
	const size = 4096
	b := audio.New(engine.Rate, 2, size)
	var sounding []*player
	next := 0
	for at := 0; at < frames; at += size {
		if err := ctx.Err(); err != nil {
			return err
		}
		n := min(size, frames-at)
		for c := range b.Channels {
			b.Channels[c] = b.Channels[c][:n]
			clear(b.Channels[c])
		}
		for next < len(notes) && int(notes[next].from*engine.Rate) < at+n {
			sounding = append(sounding, newPlayer(&notes[next]))
			next++
		}
		going := sounding[:0]
		for _, p := range sounding {
			if p.add(b, at) {
				going = append(going, p)
			}
		}
		sounding = going
		copy(b.Channels[1], b.Channels[0])
		if err := give(b); err != nil {
			return err
		}
		watch(float64(at) / float64(frames))
	}
	return nil
}

// notesOf writes down what a stand-in plays.
func notesOf(s *arrange.StandIn, line *arrange.Line, key string) []note {
	var out []note
	scale, err := music.ParseKey(key)
	if err != nil {
		scale, _ = music.ParseKey("C")
	}
	put := func(kind kind, from, to float64, midi, db float64) *note {
		out = append(out, note{from: line.Straight(from), to: line.Straight(to), hz: 440 * math.Pow(2, (midi-69)/12), level: audio.Gain(db), kind: kind})
		return &out[len(out)-1]
	}
	chance := func(what, tick int) float64 {
		return float64(dsp.Key(uint64(s.Seed), uint64(what), uint64(tick))>>11) / (1 << 53)
	}
	chords := s.Progression
	if chords == "" {
		chords = usualChords(scale)
	}
	list, err := music.ParseChords(chords, 4)
	if err != nil {
		list = nil
	}
	total := 0.0
	for _, c := range list {
		total = max(total, c.At+c.Beats)
	}
	end := float64(line.End())
	if total > 0 {
		for base := 0.0; base < end; base += total * music.PPQ {
			for _, c := range list {
				from := base + c.At*music.PPQ
				to := min(from+c.Beats*music.PPQ, end)
				if from >= end {
					break
				}
				if s.Chords > -60 {
					for _, step := range chordNotes(c.Name) {
						put(held, from, to, float64(48+(c.Class+step)%12), s.Chords-8)
					}
				}
				if s.Bass > -60 {
					for t := from; t < to; t += music.PPQ {
						put(low, t, min(t+music.PPQ*0.9, to), float64(36+c.Class%12), s.Bass)
					}
				}
			}
		}
	}
	step := music.PPQ / 4
	degree, vowel := 0, 0
	for t := 0; t+step <= line.End(); t += step {
		bar := line.Place(float64(t)).Bar
		pause := bar%4 == 3 && t-line.Place(float64(t)).BarFrom >= 2*music.PPQ // breath
		if s.Voice > -60 && !pause && chance(1, t) < min(s.Density/4, 1) {
			vowel = (vowel + 1 + int(chance(2, t)*4)) % len(vowels)
			bend := math.Round((chance(3, t) - 0.5) * 6)
			long := float64(step) * (0.7 + 0.9*chance(4, t))
			n := put(spoken, float64(t), min(float64(t)+long, end), float64(scale.Transpose(int(s.Note), int(bend))), s.Voice)
			n.vowel, n.hiss = vowel, chance(5, t)
		}
		if s.Melody > -60 && t%(2*step) == 0 && !pause && chance(6, t) < 0.55 {
			degree = max(min(degree+int(math.Round((chance(7, t)-0.5)*5)), 7), -4)
			put(plucked, float64(t), min(float64(t+3*step), end), float64(scale.Transpose(72, degree)), s.Melody)
		}
	}
	sort.SliceStable(out, func(a, b int) bool { return out[a].from < out[b].from })
	return out
}

// usualChords are a progression of a key: its first, sixth, third and seventh steps
// (common practice).
func usualChords(scale *music.Scale) string {
	names := []string{"C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B"}
	out := ""
	for i, degree := range []int{0, 5, 2, 6} {
		root := scale.Transpose(60+scale.Root, degree)
		third := scale.Transpose(root, 2) - root
		name := names[root%12]
		if third == 3 {
			name += "m"
		}
		if i > 0 {
			out += " | "
		}
		out += name
	}
	return out
}

// chordNotes are the steps of a chord over its root, by its name.
func chordNotes(name string) []int {
	third := 4
	for i, r := range name {
		if r == 'm' && (i+1 >= len(name) || name[i+1] != 'a') {
			third = 3
		}
	}
	return []int{0, third, 7}
}

// player sounds a note.
type player struct {
	of    *note
	phase float64
	seed  uint64
	poles [3]resonator
	low   float64
}

// resonator is a two-pole resonance (Klatt 1980, "Software for a cascade/parallel formant
// synthesizer", J. Acoust. Soc. Am. 67): y = a·x + b·y1 + c·y2.
type resonator struct{ a, b, c, y1, y2 float64 }

func newResonator(hz, width float64) resonator {
	c := -math.Exp(-2 * math.Pi * width / engine.Rate)
	b := 2 * math.Exp(-math.Pi*width/engine.Rate) * math.Cos(2*math.Pi*hz/engine.Rate)
	return resonator{a: 1 - b - c, b: b, c: c}
}

func (r *resonator) next(x float64) float64 {
	y := r.a*x + r.b*r.y1 + r.c*r.y2
	r.y1, r.y2 = y, r.y1
	return y
}

func newPlayer(n *note) *player {
	p := &player{of: n, seed: uint64(n.from*engine.Rate) | 1}
	if n.kind == spoken {
		for i := range p.poles {
			p.poles[i] = newResonator(vowels[n.vowel][i], widths[i])
		}
	}
	return p
}

func (p *player) noise() float64 {
	p.seed ^= p.seed << 13
	p.seed ^= p.seed >> 7
	p.seed ^= p.seed << 17
	return float64(p.seed>>11)/(1<<52) - 1
}

// tail is how long a note dies away, s.
const tail = 0.08

// add sounds the note over a block that begins at a frame, and reports whether it goes on.
func (p *player) add(b *audio.Buffer, at int) bool {
	n := p.of
	x := b.Channels[0]
	first := max(int(n.from*engine.Rate)-at, 0)
	for k := first; k < len(x); k++ {
		age := float64(at+k)/engine.Rate - n.from
		rest := n.to + tail - float64(at+k)/engine.Rate
		if rest <= 0 {
			return false
		}
		env := min(age/0.012, 1) * min(rest/tail, 1)
		hz := n.hz
		var y float64
		switch n.kind {
		case spoken:
			hz *= 1 + 0.012*math.Sin(2*math.Pi*5.2*age) - 0.06*min(age/(n.to-n.from+0.01), 1)
			// A glottal pulse: a raised cosine over the open two fifths of a period.
			pulse := 0.0
			if p.phase < 0.4 {
				pulse = 0.5 - 0.5*math.Cos(2*math.Pi*p.phase/0.4)
			}
			consonant := max(1-age/0.05, 0) * n.hiss
			source := (pulse-0.2)*(1-consonant*0.8) + p.noise()*(0.02+0.5*consonant)
			y = source
			for i := range p.poles {
				y = p.poles[i].next(y)
			}
			y = 1.6*y + 0.25*consonant*p.noise()
		case plucked:
			y = triangle(p.phase) * math.Exp(-age*5) * 0.5
		case low:
			y = (math.Sin(2*math.Pi*p.phase) + 0.25*math.Sin(4*math.Pi*p.phase)) * 0.5
		default:
			saw := 2*p.phase - 1
			p.low += (saw - p.low) * 0.12
			y = p.low * 0.35 * min(age/0.08, 1)
		}
		x[k] += float32(y * env * n.level)
		p.phase += hz / engine.Rate
		p.phase -= math.Floor(p.phase)
	}
	return true
}

func triangle(phase float64) float64 { return 4*math.Abs(phase-0.5) - 1 }
