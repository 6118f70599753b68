// Package drumnet is the trained part of listening: it turns sound into a
// spectrum of bands, finds the moments at which something starts, and returns
// for each which drums were struck there and how loud, with a small neural
// network whose weights are made by fixtures/train. docs/listening.md
// explains the method with its sources.
package drumnet

import (
	"context"
	"math"

	"gonum.org/v1/gonum/dsp/window"
	"gonum.org/v1/gonum/floats"

	"jubrak/core/dsp"
)

// The analysis works at one rate and one frame size.
const (
	Rate    = 44100
	size    = 1024
	Hop     = 256
	FrameMS = Hop * 1000.0 / Rate
)

// Bands is the number of frequency bands: single bins at the bottom, where a
// kick lives, quarters of an octave from 280 Hz up.
const Bands = 30

const (
	singles = 6     // bands of one bin
	firstHz = 301.0 // where the others begin
)

// edge is the first bin of a band.
func edge(b int) int {
	if b < singles {
		return b + 1
	}
	hz := firstHz * math.Exp2(float64(b-singles)/4)
	return int(math.Round(hz * size / Rate))
}

// BandHz is the middle of a band, Hz.
func BandHz(b int) float64 {
	return float64(edge(b)+edge(b+1)-1) / 2 * Rate / size
}

// lowBands and midBands end the low (to 150 Hz) and the middle (to 3.4 kHz).
const (
	lowBands = 3
	midBands = 20
)

// Spectrum is band power by frame: Power[n][b], frame n centred on sample
// n·Hop; and that of the lows in finer bands, of longer frames.
type Spectrum struct {
	Power [][Bands]float32
	Fine  [][FineBands]float32
	// Lows is the sound up to 250 Hz, one sample in LowEvery.
	Lows  []float32
	sound []float32 // what it is of, mono at Rate
}

// NewSpectrum transforms mono sound at Rate. It reports progress from 0 to 1
// and stops with the context's error.
func NewSpectrum(ctx context.Context, x []float32, report func(float64)) (*Spectrum, error) {
	frames := len(x)/Hop + 1
	s := &Spectrum{Power: make([][Bands]float32, frames), Lows: LowsOf(x), sound: x}
	s.Fine = fineOf(s.Lows, frames)
	var edges [Bands + 1]int
	for b := range edges {
		edges[b] = edge(b)
	}
	return s, powers(x, size, Hop, frames, func(n int, power []float64) error {
		for b := range Bands {
			s.Power[n][b] = float32(floats.Sum(power[edges[b]:edges[b+1]]))
		}
		if n%2048 == 0 {
			report(float64(n) / float64(frames))
		}
		if n%64 == 0 {
			return ctx.Err()
		}
		return nil
	})
}

// powers hands the power of each bin of each frame to each, and stops with its
// error. Frames have size samples under a Hann window; frame n is centred on
// sample n·hop, and what lies beyond the sound is silence.
func powers(x []float32, size, hop, frames int, each func(n int, power []float64) error) error {
	fft, win := dsp.NewFFT(size), make([]float64, size)
	for i := range win {
		win[i] = 1
	}
	window.Hann(win)
	var buf, power [2][]float64 // two frames at a time
	for i := range buf {
		buf[i], power[i] = make([]float64, size), make([]float64, size/2+1)
	}
	for n := 0; n < frames; n += 2 {
		for f := range buf {
			first := (n+f)*hop - size/2
			for i := range buf[f] {
				buf[f][i] = 0
				if j := first + i; j >= 0 && j < len(x) {
					buf[f][i] = float64(x[j]) * win[i]
				}
			}
		}
		fft.Powers(buf[0], buf[1], power[0], power[1])
		for f := range min(2, frames-n) {
			if err := each(n+f, power[f]); err != nil {
				return err
			}
		}
	}
	return nil
}

// loudest is the power of the loudest band of the file, ignoring the loudest
// thousandth so that one click does not set it.
func (s *Spectrum) loudest() float64 {
	peaks := make([]float64, len(s.Power))
	for i := range s.Power {
		for _, p := range s.Power[i] {
			peaks[i] = math.Max(peaks[i], float64(p))
		}
	}
	return quantile(peaks, 0.999)
}

// floor is the least power that counts: 70 dB below the loudest band.
func (s *Spectrum) floor() float64 { return math.Max(s.loudest()*1e-7, 1e-12) }

// logs is log10 of power over a floor, never negative: of all bands, and of the
// finer ones.
func (s *Spectrum) logs(floor float64) ([][Bands]float32, [][FineBands]float32) {
	least := float32(floor)
	over := func(power float32) float32 { return float32(math.Log10(float64(1 + power/least))) }
	out, fine := make([][Bands]float32, len(s.Power)), make([][FineBands]float32, len(s.Fine))
	for i := range out {
		for b, p := range s.Power[i] {
			out[i][b] = over(p)
		}
		for b, p := range s.Fine[i] {
			fine[i][b] = over(p)
		}
	}
	return out, fine
}
