// Package audio holds sample buffers and their conversion between channel
// layouts and sample rates.
package audio

import (
	"math"
	"slices"
)

// Buffer is audio in memory: one slice of samples per channel, all of the
// same length, nominally in -1..1, at Rate frames per second.
type Buffer struct {
	Rate     int
	Channels [][]float32
}

// New returns silence of the given shape.
func New(rate, channels, frames int) *Buffer {
	b := &Buffer{Rate: rate, Channels: make([][]float32, channels)}
	for c := range b.Channels {
		b.Channels[c] = make([]float32, frames)
	}
	return b
}

// Frames is the number of samples per channel.
func (b *Buffer) Frames() int {
	if len(b.Channels) == 0 {
		return 0
	}
	return len(b.Channels[0])
}

// Seconds is the duration.
func (b *Buffer) Seconds() float64 { return float64(b.Frames()) / float64(b.Rate) }

// Mono returns the mean of the channels as float64 samples.
func (b *Buffer) Mono() []float64 {
	out := make([]float64, b.Frames())
	scale := 1 / float64(len(b.Channels))
	for _, ch := range b.Channels {
		for i, v := range ch {
			out[i] += float64(v) * scale
		}
	}
	return out
}

// Slice returns frames from..to as a view that shares the samples. Bounds
// outside the buffer are pulled in.
func (b *Buffer) Slice(from, to int) *Buffer {
	n := b.Frames()
	from = min(max(from, 0), n)
	to = min(max(to, from), n)
	s := &Buffer{Rate: b.Rate, Channels: make([][]float32, len(b.Channels))}
	for c, ch := range b.Channels {
		s.Channels[c] = ch[from:to]
	}
	return s
}

// Peak is the largest magnitude of any sample.
func (b *Buffer) Peak() float64 {
	var low, high float32
	for _, ch := range b.Channels {
		for _, v := range ch {
			if v > high {
				high = v
			} else if v < low {
				low = v
			}
		}
	}
	return float64(max(high, -low))
}

// DB converts a linear amplitude to dB; 0 gives -Inf.
func DB(x float64) float64 { return 20 * math.Log10(x) }

// Gain converts dB to a linear amplitude.
func Gain(db float64) float64 { return math.Exp(db * (math.Ln10 / 20)) }

// Equal reports whether another buffer holds the same samples at the same rate; nil holds none.
func (b *Buffer) Equal(other *Buffer) bool {
	return other != nil && b.Rate == other.Rate && slices.EqualFunc(b.Channels, other.Channels, slices.Equal[[]float32])
}

// Clone returns a copy that shares nothing with b.
func (b *Buffer) Clone() *Buffer {
	out := &Buffer{Rate: b.Rate, Channels: make([][]float32, len(b.Channels))}
	for c, ch := range b.Channels {
		out.Channels[c] = slices.Clone(ch)
	}
	return out
}
