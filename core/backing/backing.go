// Package backing brings a recording of any length to the tempo and pitch of a piece, and
// takes its own drums out, stretch by stretch, so that memory follows a stretch and not the
// recording.
package backing

import (
	"context"
	"errors"
	"math"

	"jubrak/core/audio"
	"jubrak/core/audition"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/isolate"
	"jubrak/core/stretch"
	"jubrak/core/transcribe"
)

// How says what is made of a recording.
type How struct {
	// From and To bound what is taken, s; To 0 is its end.
	From, To float64
	// Speed is how many times as fast it is played with its pitch kept, 0.25 to 4; 1 leaves
	// it.
	Speed float64
	// Pitch is in semitones; its length stays.
	Pitch float64
	// Drumless takes its own drums out.
	Drumless bool
}

// A recording is worked on in parts of partSeconds; each is joined to the next in the
// middle of a second that both have, over joinSeconds.
const (
	partSeconds = 20
	joinSeconds = 0.04
)

// Make reads a file and gives what is made of it, two channels at the engine's rate, block
// by block; blocks are valid until give returns. watch is reported how far reading has come,
// 0..1, and stops it by an error. Of a file that is cut short what is whole is given before
// the error is returned.
func Make(ctx context.Context, data []byte, how How, give func(*audio.Buffer) error, watch func(done float64) error) error {
	m := &maker{ctx: ctx, how: how, give: give}
	err := format.DecodeBlocks(data, m.take, func(done float64) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		return watch(done)
	})
	var broken *format.Error
	if errors.As(err, &broken) && broken.Partial() && m.source != nil { // as far as it is whole
		return errors.Join(m.end(), err)
	}
	if err != nil {
		return err
	}
	return m.end()
}

// maker collects a part of a recording, works on it and joins it to the one before.
type maker struct {
	ctx  context.Context
	how  How
	give func(*audio.Buffer) error

	source *audio.Buffer // what is collected, at the recording's rate
	skip   int64         // frames to be passed over
	left   int64         // frames that may still come; below 0 is no end
	part   int           // which one is collected
	before *audio.Buffer // what was made of the part before
	given  int           // frames of before that were given
}

func (m *maker) take(rate int, block [][]float32) error {
	if m.source == nil {
		m.source = &audio.Buffer{Rate: rate, Channels: make([][]float32, min(len(block), 2))}
		m.skip = int64(m.how.From * float64(rate))
		m.left = -1
		if m.how.To > 0 {
			m.left = int64((m.how.To - m.how.From) * float64(rate))
		}
	}
	n := int64(len(block[0]))
	from := min(m.skip, n)
	m.skip -= from
	to := n
	if m.left >= 0 {
		to = min(to, from+m.left)
		m.left -= to - from
	}
	for c := range m.source.Channels {
		m.source.Channels[c] = append(m.source.Channels[c], block[c][from:to]...)
	}
	for m.source.Frames() >= (partSeconds+1)*rate {
		if err := m.next(m.source.Slice(0, (partSeconds+1)*rate), false); err != nil {
			return err
		}
		for c, ch := range m.source.Channels {
			m.source.Channels[c] = append(ch[:0], ch[partSeconds*rate:]...)
		}
		m.part++
	}
	return nil
}

func (m *maker) end() error {
	if m.source == nil || m.source.Frames() == 0 && m.part == 0 {
		return &format.Error{Code: format.CodeEmpty, Message: "Nothing of the recording lies in the part that is chosen."}
	}
	return m.next(m.source, true)
}

// next works on a part and gives what is certain of it.
func (m *maker) next(b *audio.Buffer, last bool) error {
	made, err := m.made(b)
	if err != nil {
		return err
	}
	if m.before == nil {
		m.before, m.given = made, 0
	} else {
		// Where both have it, the middle of the second that they share.
		joint := m.place(float64(m.part)*partSeconds+0.5) - m.place(float64(m.part-1)*partSeconds)
		here := m.place(float64(m.part)*partSeconds+0.5) - m.place(float64(m.part)*partSeconds)
		joint, here = min(joint, m.before.Frames()), min(here, made.Frames())
		if err := m.put(m.before, m.given, joint); err != nil {
			return err
		}
		fade := min(int(joinSeconds*engine.Rate), m.before.Frames()-joint, made.Frames()-here)
		for c := range made.Channels {
			for k := range fade {
				w := float32(k) / float32(fade)
				made.Channels[c][here+k] = m.before.Channels[c][joint+k]*(1-w) + made.Channels[c][here+k]*w
			}
		}
		m.before, m.given = made, here
	}
	if last {
		return m.put(m.before, m.given, m.before.Frames())
	}
	return nil
}

// place is the frame of what is made at so many seconds of the recording's part.
func (m *maker) place(seconds float64) int {
	return int(math.Round(seconds / m.how.Speed * engine.Rate))
}

func (m *maker) put(b *audio.Buffer, from, to int) error {
	if to <= from {
		return nil
	}
	return m.give(b.Slice(from, to))
}

// made is a part as it is to be.
func (m *maker) made(b *audio.Buffer) (*audio.Buffer, error) {
	if err := m.ctx.Err(); err != nil {
		return nil, err
	}
	b = &audio.Buffer{Rate: b.Rate, Channels: [][]float32{b.Channels[0], b.Channels[len(b.Channels)-1]}}
	b = b.Resample(engine.Rate)
	if m.how.Drumless && b.Frames() > engine.Rate/2 {
		rest, err := drumless(m.ctx, b)
		if err != nil {
			return nil, err
		}
		b = rest
	}
	higher := math.Pow(2, m.how.Pitch/12)
	if speed := m.how.Speed / higher; math.Abs(speed-1) > 1e-9 {
		b = stretch.Sound(b, min(max(speed, 0.1), 8), nil)
	}
	if higher != 1 {
		b = engine.Taped(b, higher)
	}
	out := &audio.Buffer{Rate: engine.Rate} // its own: it is faded into
	for _, ch := range b.Channels {
		out.Channels = append(out.Channels, append([]float32(nil), ch...))
	}
	return out, nil
}

// drumless is a part without the drums that are heard in it; where none are, as it is.
func drumless(ctx context.Context, b *audio.Buffer) (*audio.Buffer, error) {
	raw, err := transcribe.Analyze(ctx, b, func(string, float64) {})
	if err != nil {
		if ctx.Err() != nil {
			return nil, err
		}
		return b, nil // silence, or nothing that can be listened to
	}
	heard := transcribe.Finish(raw, nil)
	if len(heard.Hits) == 0 {
		return b, nil
	}
	found, err := isolate.Find(ctx, b, heard.Hits, isolate.Choices{}, func(float64) {})
	if err != nil {
		return nil, err
	}
	_, rest, err := isolate.Split(ctx, b, 0, found)
	if err != nil {
		return nil, err
	}
	rest = rest.Resample(engine.Rate)
	// What no stroke explains but is struck all the same, around the strokes.
	struck, _, err := audition.Separate(ctx, rest)
	if err != nil {
		return nil, err
	}
	near := aroundHits(heard.Hits, rest.Frames())
	for c := range rest.Channels {
		for i := range rest.Channels[c] {
			if c < len(struck.Channels) && i < struck.Frames() {
				rest.Channels[c][i] -= struck.Channels[c][i] * near[i]
			}
		}
	}
	return rest, nil
}

// aroundHits is how much of what is struck goes, 0..1, frame by frame: all of it from just
// before a hit, less and less after it.
func aroundHits(hits []transcribe.Hit, frames int) []float32 {
	out := make([]float32, frames)
	const before, after = engine.Rate / 50, engine.Rate / 3
	for _, h := range hits {
		at := int(h.Time * engine.Rate)
		for i := max(at-before, 0); i < min(at+after, frames); i++ {
			g := float32(takenStruck)
			if i < at {
				g *= float32(i-at+before) / before
			} else if i > at+after/2 {
				g *= float32(at+after-i) / (after / 2)
			}
			out[i] = max(out[i], g)
		}
	}
	return out
}

// takenStruck is how much of what is struck beside the known strokes is taken out.
const takenStruck = 0.95

// Tempo is the tempo of a recording, BPM, and where a bar of it begins, s; 0 and 0 where
// no beat is found.
func Tempo(ctx context.Context, b *audio.Buffer, watch func(done float64)) (bpm, first float64, err error) {
	raw, err := transcribe.Analyze(ctx, b, func(_ string, done float64) { watch(done) })
	if err != nil {
		if ctx.Err() != nil {
			return 0, 0, err
		}
		return 0, 0, nil
	}
	heard := transcribe.Finish(raw, nil)
	if heard.Tempo == nil || heard.Grid == nil {
		return 0, 0, nil
	}
	return math.Round(*heard.Tempo*100) / 100, max(heard.Grid.Seconds(0), 0), nil
}
