package engine

import (
	"context"
	"math"

	"jubrak/core/audio"
)

// Bounce says what to render offline.
type Bounce struct {
	Rate int
	// Bars is the number of bars; 0 means one full cycle of the groove.
	Bars int
	// Seamless renders what rings over the end into the start, so that the
	// file loops without a seam. Otherwise the file starts from silence and
	// ends when the last hit has died away.
	Seamless bool
	// Stems asks for a buffer for each voice as well.
	Stems bool
}

// Rendered is the result of a bounce: the mix and, if asked for, one stereo
// stem for each voice of the kit, in its order. The stems add up to the mix.
type Rendered struct {
	Mix   *audio.Buffer
	Stems []*audio.Buffer
}

// Render plays the song offline. Equal songs give equal bytes. It stops
// early with the context's error.
func Render(ctx context.Context, s Song, b Bounce) (*Rendered, error) {
	e := New(b.Rate)
	e.Load(s)
	ticks := float64(s.Groove.CycleTicks())
	if b.Bars > 0 {
		ticks = float64(b.Bars * s.Groove.Meter.BarTicks())
	}
	length := s.Groove.CycleTicks()
	passes := math.Floor(ticks / float64(length))
	frames := int(math.Round(passes*e.cycle + s.Tempo.Seconds(ticks-passes*float64(length))*float64(b.Rate)))
	if b.Seamless {
		e.playBefore()
		var l, r [MaxBlock]float32
		for e.frame < 0 {
			n := int(min(int64(MaxBlock), -e.frame))
			e.Process(l[:n], r[:n])
		}
	} else {
		e.Play(0)
	}
	out := &Rendered{Mix: audio.New(b.Rate, 2, frames)}
	if b.Stems {
		for range s.Kit.Voices {
			out.Stems = append(out.Stems, audio.New(b.Rate, 2, frames))
		}
	}
	for at := 0; at < frames; at += MaxBlock {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		n := min(MaxBlock, frames-at)
		e.Process(out.Mix.Channels[0][at:at+n], out.Mix.Channels[1][at:at+n])
		e.copyStems(out, at, n)
	}
	if !b.Seamless {
		e.ring(out)
	}
	return out, nil
}

func (e *Engine) copyStems(out *Rendered, at, n int) {
	for i, stem := range out.Stems {
		l, r := e.Voice(i, n)
		copy(stem.Channels[0][at:], l)
		copy(stem.Channels[1][at:], r)
	}
}

// ring lets the last hits die away, at most 12 seconds.
func (e *Engine) ring(out *Rendered) {
	e.playing = false
	var l, r [MaxBlock]float32
	for range 12 * e.rate / MaxBlock {
		if !e.sounding() {
			return
		}
		e.Process(l[:], r[:])
		out.Mix.Channels[0] = append(out.Mix.Channels[0], l[:]...)
		out.Mix.Channels[1] = append(out.Mix.Channels[1], r[:]...)
		for i, stem := range out.Stems {
			sl, sr := e.Voice(i, MaxBlock)
			stem.Channels[0] = append(stem.Channels[0], sl...)
			stem.Channels[1] = append(stem.Channels[1], sr...)
		}
	}
}

func (e *Engine) sounding() bool {
	for i := range e.notes {
		if e.notes[i].note.On() {
			return true
		}
	}
	return false
}
