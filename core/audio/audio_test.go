package audio

import (
	"math"
	"testing"

	"jubrak/core/dsp"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/dsp/fourier"
)

func sine(rate int, hz float64, frames int) *Buffer {
	b := New(rate, 1, frames)
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(0.5 * math.Sin(2*math.Pi*hz*float64(i)/float64(rate)))
	}
	return b
}

// worst returns the strongest partial away from hz, in dB against it.
func worst(b *Buffer, hz float64) float64 {
	const n = 16384
	x := make([]float64, n)
	mid := b.Frames()/2 - n/2
	for i := range x {
		w := 2*float64(i)/n - 1 // a Kaiser window with side lobes below -150 dB
		x[i] = float64(b.Channels[0][mid+i]) * dsp.Kaiser(w, 18)
	}
	tone, other := 0.0, 0.0
	at := hz * n / float64(b.Rate)
	for k, c := range fourier.NewFFT(n).Coefficients(nil, x) {
		m := math.Hypot(real(c), imag(c))
		if math.Abs(float64(k)-at) < 12 {
			tone = math.Max(tone, m)
		} else {
			other = math.Max(other, m)
		}
	}
	return DB(other / tone)
}

// The figures asked for: images below -100 dB for 1 and 18 kHz tones.
func TestResampleImages(t *testing.T) {
	for _, c := range []struct {
		from, to int
		hz       float64
	}{{44100, 48000, 1000}, {44100, 48000, 18000}, {48000, 44100, 1000}, {48000, 44100, 18000}, {192000, 44100, 1000}, {8000, 44100, 1000}} {
		out := sine(c.from, c.hz, c.from).Resample(c.to)
		assert.Less(t, worst(out, c.hz), -100.0, "%d to %d, %g Hz", c.from, c.to, c.hz)
		assert.InDelta(t, c.to, out.Frames(), 1)
		var peak float64
		for _, v := range out.Channels[0][out.Frames()/4 : out.Frames()/2] {
			peak = math.Max(peak, float64(v))
		}
		assert.InDelta(t, 0.5, peak, 0.003, "%d to %d keeps the level of %g Hz", c.from, c.to, c.hz)
	}
}

func TestResampleKeepsTime(t *testing.T) {
	b := New(44100, 1, 44100)
	b.Channels[0][22050] = 1
	out := b.Resample(48000)
	top := 0
	for i, v := range out.Channels[0] {
		if v > out.Channels[0][top] {
			top = i
		}
	}
	assert.Equal(t, 24000, top)
}

func TestResampleCutsWhatCannotBe(t *testing.T) {
	out := sine(48000, 23000, 48000).Resample(44100)
	assert.Less(t, DB(out.Slice(1000, 40000).Peak()/0.5), -60.0)
}

func TestBufferBasics(t *testing.T) {
	b := New(48000, 2, 10)
	b.Channels[0][3], b.Channels[1][3] = 1, -0.5
	assert.InDelta(t, 0.25, b.Mono()[3], 1e-7)
	assert.Equal(t, 1.0, b.Peak())
	assert.Equal(t, 7, b.Slice(3, 99).Frames())
	assert.Equal(t, 0, b.Slice(8, 2).Frames())
	assert.InDelta(t, -6.0206, DB(0.5), 1e-4)
	assert.InDelta(t, 0.5, Gain(-6.0206), 1e-5)
}
