package engine

import (
	"context"
	"fmt"
	"math"
	"slices"

	"jubrak/core/arrange"
	"jubrak/core/audio"
	"jubrak/core/groove"
	"jubrak/core/synth"
)

// Limits of a bounce: its length in seconds, and that length times the number
// of stereo buffers it fills.
const (
	MostSeconds       = 20 * 60
	MostBufferSeconds = 50 * 60
)

// Bounce says what to render offline.
type Bounce struct {
	Rate int
	// Bars is the number of bars; 0 means one full cycle of the groove.
	Bars int
	// Seamless renders a loop that fits itself: the bars repeat exactly, with
	// the same scatter, and what rings over the end is in the start.
	// Otherwise the file starts from silence and ends when the last hit has
	// died away.
	Seamless bool
	// Backings lets those of a piece be heard in the mix.
	Backings bool
	// Stems asks for a buffer for each voice and each bus as well.
	Stems bool
}

// Rendered is the result of a bounce: the mix and, if asked for, one stereo
// stem for each voice of the kit and for each bus, in their order. A stem is a row
// after its own level, side and steps. Those of the rows that go to the output add up
// to what the output's own steps and level make the mix of.
type Rendered struct {
	Mix   *audio.Buffer
	Stems []*audio.Buffer
	Buses []*audio.Buffer
}

// TooLong is a bounce beyond the limits.
type TooLong struct {
	Bars    int
	Seconds float64
	Stems   bool
}

// Error is the sentence for people.
func (t *TooLong) Error() string {
	what := "a file"
	if t.Stems {
		what = "a set of stems of so many rows"
	}
	if t.Seconds > 1e5 {
		return fmt.Sprintf("the lanes meet again only after %d bars, longer than %s can be; choose a number of bars", t.Bars, what)
	}
	return fmt.Sprintf("%d bars last %.0f:%02.0f minutes, longer than %s can be; choose fewer bars", t.Bars, math.Floor(t.Seconds/60), math.Mod(math.Floor(t.Seconds), 60), what)
}

// Ticks is the length of a bounce of a song, or *TooLong.
func (b *Bounce) Ticks(s *Song) (int, error) {
	if s.Piece != nil {
		return b.pieceTicks(s)
	}
	ticks := s.Groove.CycleTicks()
	if b.Bars > 0 {
		ticks = b.Bars * s.Groove.Meter.BarTicks()
	}
	seconds, buffers := groove.NewLine(&s.Groove, s.Tempo, 0).Seconds(float64(ticks)), 1.0
	if b.Stems {
		buffers += float64(len(s.Kit.Voices) + len(s.Mix.Buses))
	}
	if seconds > MostSeconds || seconds*buffers > MostBufferSeconds {
		return 0, &TooLong{s.Groove.BarsOf(ticks), seconds, b.Stems && seconds <= MostSeconds}
	}
	return ticks, nil
}

// pieceTicks is Ticks of a piece, which is bounced whole.
func (b *Bounce) pieceTicks(s *Song) (int, error) {
	line := arrange.NewLine(s.Piece.Arrangement, s.Piece.Groove, s.Tempo)
	seconds, buffers := line.Seconds(float64(line.End())), 1.0
	if b.Stems {
		buffers += float64(len(s.Kit.Voices) + len(s.Mix.Buses))
	}
	if seconds > MostSeconds || seconds*buffers > MostBufferSeconds {
		return 0, &TooLong{s.Piece.Arrangement.Bars(), seconds, b.Stems && seconds <= MostSeconds}
	}
	return line.End(), nil
}

// Render plays the song offline. A piece is played from its first bar until the last hit
// has died away, at the speed of its tape, never seamless. Equal songs give equal bytes. It stops
// early with the context's error; one that would be too long is *TooLong.
func Render(ctx context.Context, s Song, b Bounce) (*Rendered, error) {
	ticks, err := b.Ticks(&s)
	if err != nil {
		return nil, err
	}
	e := New(b.Rate)
	e.withoutBackings = !b.Backings
	b.Seamless = b.Seamless && s.Piece == nil
	if b.Seamless {
		e.Swap(prepare(s, e.rate, ticks, nil))
		if err := e.playInto(ctx); err != nil {
			return nil, err
		}
	} else {
		e.Load(s)
		e.Play(0)
	}
	frames := int(math.Round(e.line.Seconds(float64(ticks)) * float64(b.Rate)))
	out := &Rendered{Mix: audio.New(b.Rate, 2, frames)}
	if b.Stems {
		for range s.Kit.Voices {
			out.Stems = append(out.Stems, audio.New(b.Rate, 2, frames))
		}
		for range s.Mix.Buses {
			out.Buses = append(out.Buses, audio.New(b.Rate, 2, frames))
		}
	}
	late, stemsLate := e.Latency()
	take := func(at, n int, l, r []float64) {
		trimmed(out.Mix, at-late, l[:n], r[:n])
		for i, stem := range out.Stems {
			sl, sr := e.Voice(i, n)
			trimmed(stem, at-stemsLate, sl, sr)
		}
		for i, stem := range out.Buses {
			sl, sr := e.Bus(i, n)
			trimmed(stem, at-e.mixes.buses[i].ready, sl, sr)
		}
	}
	var l, r [MaxBlock]float64
	at := 0
	for n := 0; at < frames; at += n {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		n = e.Ahead(min(MaxBlock, frames-at))
		e.Process(l[:n], r[:n])
		take(at, n, l[:], r[:])
	}
	at = frames
	if !b.Seamless {
		e.playing = false
		for last := at + late + 12*e.rate; at < last && (e.sounding() || at < frames+late); at += MaxBlock {
			e.Process(l[:], r[:])
			take(at, MaxBlock, l[:], r[:])
		}
		if s.Piece != nil {
			out.taped(s.Piece.Arrangement.Speed.Tape())
		}
		return out, nil
	}
	for ; at < frames+late; at += MaxBlock { // the loop goes on: its end is still on its way
		n := min(MaxBlock, frames+late-at)
		e.Process(l[:n], r[:n])
		take(at, n, l[:], r[:])
	}
	for _, b := range slices.Concat([]*audio.Buffer{out.Mix}, out.Stems, out.Buses) {
		for c := range b.Channels {
			b.Channels[c] = b.Channels[c][:frames]
		}
	}
	return out, nil
}

// taped plays all at the speed of a tape.
func (r *Rendered) taped(speed float64) {
	r.Mix = Taped(r.Mix, speed)
	for _, list := range [][]*audio.Buffer{r.Stems, r.Buses} {
		for i := range list {
			list[i] = Taped(list[i], speed)
		}
	}
}

// trimmed is narrow without what lies before the beginning.
func trimmed(b *audio.Buffer, at int, left, right []float64) {
	if at < 0 {
		skip := min(-at, len(left))
		left, right, at = left[skip:], right[skip:], 0
	}
	narrow(b, at, left, right)
}

// playInto starts a looping song so early before frame 0 that everything which
// rings over the loop's end is there.
func (e *Engine) playInto(ctx context.Context) error {
	_, late := e.line.Reach()
	ahead := int64(e.longest()) + int64((e.early+late/1000)*float64(e.rate)) + MaxBlock
	ahead = max(ahead, e.settles())
	e.Play(math.Floor(e.line.Ticks(-float64(ahead) / float64(e.rate))))
	var l, r [MaxBlock]float64
	for e.frame < 0 {
		if err := ctx.Err(); err != nil {
			return err
		}
		// Blocks lie in each pass where they lie in the one that is written.
		within := (e.frame%e.loopFrames + e.loopFrames) % e.loopFrames
		n := int(min(MaxBlock-within%MaxBlock, e.loopFrames-within))
		e.Process(l[:n], r[:n])
	}
	return nil
}

// settles is how much before a loop the mix must have heard it so that it is the same in
// each pass: what follows levels a few seconds, and what turns at rates that are moved, or
// by a tempo that changes, the whole of a pass.
func (e *Engine) settles() int64 {
	if !e.mixes.takeMoves() {
		return 0
	}
	ahead := 4 * int64(e.rate)
	if len(e.mixes.automation) > 0 || len(e.song.Tempo) > 1 {
		ahead += e.loopFrames
	}
	return ahead
}

// longest is how long the song's longest note lasts, with what its voice's steps
// make of it, frames.
func (e *Engine) longest() int {
	most := 0
	for i := range e.song.Groove.Lanes {
		if e.voiceOf[0][i] < 0 {
			continue
		}
		v := &e.voices[e.voiceOf[0][i]]
		after := e.mixes.tail()
		if v.tails != nil {
			after += v.tails.Ring()
		}
		if v.rumbles != nil {
			after += v.rumbles.Tail()
		}
		slowest := 0.0
		for _, t := range e.song.Tempo {
			slowest = max(slowest, 60000/t.BPM)
		}
		known := map[float64]bool{}
		for _, h := range e.song.Groove.Lanes[i].Hits {
			if !known[h.Semitones] {
				known[h.Semitones] = true
				stroke := synth.Stroke{Velocity: 127, Semitones: h.Semitones, BeatMS: slowest}
				most = max(most, v.ready.Life(stroke)+after)
			}
		}
	}
	return most
}

// narrow writes a block into a buffer from a frame on, which grows where it
// must.
func narrow(b *audio.Buffer, at int, left, right []float64) {
	for c, x := range [2][]float64{left, right} {
		for len(b.Channels[c]) < at+len(x) {
			b.Channels[c] = append(b.Channels[c], 0)
		}
		for i, v := range x {
			b.Channels[c][at+i] = float32(v)
		}
	}
}

// sounding reports whether anything sounds or rings on.
func (e *Engine) sounding() bool {
	for i := range e.notes {
		if e.notes[i].on() {
			return true
		}
	}
	for i := range e.voices {
		if v := &e.voices[i]; !e.mixes.plain && v.sounds || v.tails != nil && v.tails.Ringing() || v.rumbles != nil && v.rumbled < v.rumbles.Tail() {
			return true
		}
	}
	return !e.mixes.plain && !e.quiet
}
