package engine

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"jubrak/core/arrange"
	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/param"
	"jubrak/core/synth"
)

// MaxBars is the most bars of a piece.
const MaxBars = arrange.MaxBars

// Grid is the frames by which a piece is rendered: numbers that are drawn take their
// values at its places, wherever playing began.
const Grid = 256

// Piece is an arrangement with the grooves that it plays, by variation.
type Piece struct {
	Arrangement *arrange.Arrangement
	Grooves     map[string]*groove.Groove
	// Ready are the backings that are there, by their id.
	Ready map[string]Ready
}

// Groove is the groove of a variation, or nil.
func (p *Piece) Groove(variation string) *groove.Groove { return p.Grooves[variation] }

// pieceOf is what a program knows of the piece that it plays.
type pieceOf struct {
	line   *arrange.Line `state:"shared"`
	end    int64         // frame behind the last bar
	hushes []hush        `state:"shared"`
	// Backings with how far each is turned down, which goes on by its id.
	backings []backing
	sounds   map[int][]drawnSound // by voice, in order of tick
}

// drawnSound is a voice's sound from a tick on, up to another one.
type drawnSound struct {
	from, to int
	values   string // of the drawn numbers, by address
	ready    *synth.Voice
}

// prepare makes a song's piece ready.
func (p *Program) prepare(rate int, was *Program) {
	s := &p.song
	line := arrange.NewLine(s.Piece.Arrangement, s.Piece.Groove, s.Tempo)
	p.piece = &pieceOf{line: line, end: int64(math.Ceil(line.Seconds(float64(line.End())) * float64(rate)))}
	p.line, p.grooves = line, line.Grooves()
	early, _ := line.Reach()
	for _, h := range line.Hushes() {
		p.piece.hushes = append(p.piece.hushes, newHush(h, line, early/1000, rate))
	}
	p.mixes.automation = automationOfPiece(s, line)
	p.piece.backings = backingsOf(s, p.voices)
	p.piece.sounds = map[int][]drawnSound{}
	for i := range p.voices {
		if drawn := p.drawSounds(&p.voices[i], rate, was); len(drawn) > 0 {
			p.piece.sounds[i] = drawn
		}
	}
}

// speed is how many times as fast as it is played the engine's tape runs.
func (e *Engine) speed() float64 {
	if e.piece == nil {
		return 1
	}
	return e.song.Piece.Arrangement.Speed.Tape()
}

// PlaysPiece reports whether an arrangement is played in place of a groove.
func (e *Engine) PlaysPiece() bool { return e.piece != nil }

// Frame is how many frames have gone by since the start of the line.
func (e *Engine) Frame() int64 { return e.frame }

// Memory is for how long what was played may still be heard, seconds, as far as is
// known: the longest note and what the mix makes of it.
func (e *Engine) Memory() float64 {
	if e.mixes == nil {
		return 0
	}
	frames := e.mixes.tail()
	for i := range e.voices {
		v := &e.voices[i]
		ring := v.ready.Life(synth.Stroke{Velocity: 127, BeatMS: e.beatMS(0)})
		if v.tails != nil {
			ring += v.tails.Ring()
		}
		if v.rumbles != nil {
			ring += v.rumbles.Tail()
		}
		frames = max(frames, e.mixes.tail()+ring)
	}
	return float64(frames) / float64(e.rate)
}

// soundAt is the sound of a voice at a tick where a drawn number makes it another one,
// else nil.
func (p *pieceOf) soundAt(voice, tick int) *synth.Voice {
	list := p.sounds[voice]
	if len(list) == 0 {
		return nil
	}
	tick = int(p.line.Within(float64(tick)))
	i := sort.Search(len(list), func(i int) bool { return list[i].to > tick })
	if i == len(list) || list[i].from > tick {
		return nil
	}
	return list[i].ready
}

// A drawn number of a sound is held for a sixteenth, or for a 256th of its section where
// that is longer: what is struck in between has the sound of its beginning.
const (
	holdTicks = 240
	mostHolds = 256
)

// drawSounds makes the sounds of a voice ready whose numbers are drawn, where they have
// other values than the kit. Those that are as in was are taken over.
func (p *Program) drawSounds(v *voice, rate int, was *Program) (out []drawnSound) {
	known := map[string]*synth.Voice{}
	if was != nil && was.piece != nil {
		if j := placeOf(was.voices, v.id); j >= 0 && v.ready == was.voices[j].ready {
			for _, d := range was.piece.sounds[j] {
				known[d.values] = d.ready
			}
		}
	}
	ready := func(values map[string]float64, key string) *synth.Voice {
		if known[key] == nil {
			known[key] = synth.Compile(v.sound.With(values), p.song.Samples, rate)
			known[key].ShareTails(v.ready)
		}
		return known[key]
	}
	spans := p.piece.line.Spans()
	for i := range spans {
		section, span := &p.song.Piece.Arrangement.Sections[i], spans[i]
		var automation []mixer.Automation
		var params []*param.Param
		for _, m := range section.Automation {
			if path, ok := strings.CutPrefix(m.At, v.id+"/"); ok {
				if n := v.sound.Number(path); n != nil {
					automation, params = append(automation, m), append(params, &n.Param)
				}
			}
		}
		if len(automation) == 0 {
			continue
		}
		hold := max(holdTicks, (span.To-span.From)/mostHolds)
		for at := span.From; at < span.To; at += hold {
			values := map[string]float64{}
			var key strings.Builder
			for k := range automation {
				path := automation[k].At[len(v.id)+1:]
				values[path] = automation[k].ValueAt(float64(at-span.From)/float64(span.Meter.BarTicks()), params[k])
				fmt.Fprintf(&key, "%s=%g ", path, values[path])
			}
			if n := len(out); n > 0 && out[n-1].to == at && out[n-1].values == key.String() {
				out[n-1].to = min(at+hold, span.To)
				continue
			}
			out = append(out, drawnSound{at, min(at+hold, span.To), key.String(), ready(values, key.String())})
		}
	}
	return out
}

// over is a number drawn over a section.
type over struct {
	from, to int     // ticks
	bar      float64 // ticks
	of       mixer.Automation
}

// automationOfPiece are the moves of the mix with what the sections draw in their place.
func automationOfPiece(s *Song, line *arrange.Line) []automation {
	spans := line.Spans()
	desk := s.Mix.Automation
	addresses := []string{}
	for _, m := range desk {
		addresses = append(addresses, m.At)
	}
	for i := range s.Piece.Arrangement.Sections {
		for _, m := range s.Piece.Arrangement.Sections[i].Automation {
			if !slices.Contains(addresses, m.At) {
				addresses = append(addresses, m.At)
			}
		}
	}
	var out []automation
	for _, at := range addresses {
		m := mixer.Automation{At: at}
		if of := s.Mix.AutomationOf(at); of != nil {
			m = *of
		}
		found, ok := automationOf(s, m)
		if !ok {
			continue
		}
		for i := range spans {
			if of := s.Piece.Arrangement.Sections[i].AutomationOf(at); of != nil {
				found.over = append(found.over, over{spans[i].From, spans[i].To, float64(spans[i].Meter.BarTicks()), *of})
			}
		}
		out = append(out, found)
	}
	return out
}

// at is the value of a move at a tick of the piece: what its section draws, else what is
// drawn over the section's groove, else what it is without.
func (m *automation) at(tick float64, line *arrange.Line) float64 {
	tick = max(line.Within(tick), 0)
	i := sort.Search(len(m.over), func(i int) bool { return float64(m.over[i].to) > tick })
	if i < len(m.over) && float64(m.over[i].from) <= tick {
		o := &m.over[i]
		return o.of.ValueAt((tick-float64(o.from))/o.bar, m.param)
	}
	if len(m.of.Points) == 0 {
		return m.base
	}
	place := line.Place(tick)
	bars := float64(line.Pattern(place.Section).Bars)
	return m.of.ValueAt(math.Mod(place.InSection, bars), m.param)
}

// hush is a stretch of frames in which what rings is not heard.
type hush struct {
	from, to int64
	keeps    []string
}

// hushFade is how long a hush takes to close and to open, seconds.
const hushFade = 0.005

// newHush finds the frames of a hush. It opens before hits that fall early; one of no
// length closes before.
func newHush(h arrange.Hush, line *arrange.Line, early float64, rate int) hush {
	fade := int64(hushFade * float64(rate))
	from := int64(line.Seconds(float64(h.From)) * float64(rate))
	to := int64((line.Seconds(float64(h.To)) - early) * float64(rate))
	if to < from+fade {
		from = to - fade
	}
	return hush{from, to, h.Keeps}
}

// inPiece is a frame of the line as one of the piece: within the loop where there is one.
func (e *Engine) inPiece(frame int64) int64 {
	from, to := e.line.Loop()
	if to == 0 {
		return frame
	}
	rounds := math.Floor((e.line.Ticks((float64(frame)+0.5)/float64(e.rate)) - float64(from)) / float64(to-from))
	length := e.line.Seconds(float64(to)) - e.line.Seconds(float64(from))
	return frame - int64(math.Round(rounds*length*float64(e.rate)))
}

// Ahead is how many of so many frames Process should be asked for next: of a piece, up to
// the next place of its grid, or to where a hush begins or ends.
func (e *Engine) Ahead(frames int) int {
	if e.piece == nil || !e.playing {
		return frames
	}
	n := min(frames, Grid-int(((e.frame%Grid)+Grid)%Grid))
	now := e.inPiece(e.frame)
	for _, h := range e.piece.hushes {
		for _, at := range [2]int64{h.from, h.to} {
			if ahead := at - now; ahead > 0 && ahead < int64(n) {
				n = int(ahead)
			}
		}
	}
	return n
}

// open lets what a hush has silenced forget what it remembers, where the hush ends at the
// present frame.
func (e *Engine) open() {
	if e.piece == nil || !e.playing || len(e.piece.hushes) == 0 {
		return
	}
	now := e.inPiece(e.frame)
	for i := range e.piece.hushes {
		h := &e.piece.hushes[i]
		if h.to != now {
			continue
		}
		for k := range e.voices {
			if v := &e.voices[k]; h.silences(v.id) {
				e.forget(k)
				v.still = 0
			}
		}
		if h.silences("") {
			for k := range e.mixes.buses {
				e.mixes.buses[k].still = 0
				e.mixes.buses[k].forget()
			}
			e.mixes.still = 0
			e.mixes.out.forget()
		}
	}
}

// silences reports whether a hush silences a voice, or with "" a bus or the output, which
// only one of everything does.
func (h *hush) silences(id string) bool {
	return len(h.keeps) == 0 || id != "" && !slices.Contains(h.keeps, id)
}

// forget ends the notes and tails of a voice at once.
func (e *Engine) forget(voice int) {
	for i := range e.notes {
		if n := e.notes[i]; n.on() && n.voice == voice {
			*n = slot{}
		}
	}
	v := &e.voices[voice]
	if v.tails != nil {
		v.tails.Reset()
	}
	if v.rumbles != nil {
		v.rumbled = math.MaxInt32
		v.rumbles.Rest()
	}
	e.mixes.rows[voice].forget()
}

// forget lets a row's chain and what is held back in it begin from rest.
func (r *row) forget() {
	r.rack.Reset()
	r.late.Reset()
	r.direct.Reset()
	for i := range r.sends {
		s := &r.sends[i]
		s.later.Reset()
		s.cuts[0].Reset()
		s.cuts[1].Reset()
	}
}

// hush turns a row down over the frames of a block, which has gone by. id is empty for
// buses and the output.
func (e *Engine) hush(still *float64, id string, b effect.Block) {
	if e.piece == nil || len(e.piece.hushes) == 0 {
		return
	}
	goal := 0.0
	if e.playing {
		first := e.inPiece(e.frame - int64(b.Frames()))
		for i := range e.piece.hushes {
			if h := &e.piece.hushes[i]; first >= h.from && first < h.to && h.silences(id) {
				goal = 1
			}
		}
	}
	if goal == 0 && *still == 0 {
		return
	}
	step := 1 / (hushFade * float64(e.rate))
	for k := range b.Left {
		*still += max(min(goal-*still, step), -step)
		b.Left[k] *= 1 - *still
		b.Right[k] *= 1 - *still
	}
}

var _ timeline = (*arrange.Line)(nil)
