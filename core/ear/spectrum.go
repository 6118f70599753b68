// Package ear is the trained part of listening: it turns sound into a
// spectrum of bands, finds the moments at which something starts, and tells
// for each which drums were struck there and how loud, with a small neural
// network whose weights are made by fixtures/train. docs/listening.md
// explains the method with its sources.
package ear

import (
	"context"
	"math"

	"gonum.org/v1/gonum/dsp/window"

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

const singles = 6 // bands of one bin

// edge is the first bin of a band.
func edge(b int) int {
	if b < singles {
		return b + 1
	}
	hz := 301 * math.Exp2(float64(b-singles)/4)
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
// n·Hop.
type Spectrum struct{ Power [][Bands]float32 }

// NewSpectrum transforms mono sound at Rate. It reports progress from 0 to 1
// and stops with the context's error.
func NewSpectrum(ctx context.Context, x []float32, report func(float64)) (*Spectrum, error) {
	fft := dsp.NewFFT(size)
	win := make([]float64, size)
	for i := range win {
		win[i] = 1
	}
	win = window.Hann(win)
	var edges [Bands + 1]int
	for b := range edges {
		edges[b] = edge(b)
	}
	frames := len(x)/Hop + 1
	s := &Spectrum{Power: make([][Bands]float32, frames)}
	var buf, power [2][]float64 // two frames at a time
	for i := range buf {
		buf[i], power[i] = make([]float64, size), make([]float64, size/2+1)
	}
	for n := 0; n < frames; n += 2 {
		if n%2048 == 0 {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			report(float64(n) / float64(frames))
		}
		for f := range buf {
			first := (n+f)*Hop - size/2
			for i := range buf[f] {
				if j := first + i; j >= 0 && j < len(x) {
					buf[f][i] = float64(x[j]) * win[i]
				} else {
					buf[f][i] = 0
				}
			}
		}
		fft.Powers(buf[0], buf[1], power[0], power[1])
		for f := range min(2, frames-n) {
			for b := range Bands {
				var sum float64
				for _, p := range power[f][edges[b]:edges[b+1]] {
					sum += p
				}
				s.Power[n+f][b] = float32(sum)
			}
		}
	}
	return s, nil
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

// logs is log10 of power over a floor 70 dB below the loudest band, never
// negative.
func (s *Spectrum) logs() [][Bands]float32 {
	floor := float32(math.Max(s.loudest()*1e-7, 1e-12))
	out := make([][Bands]float32, len(s.Power))
	for i := range out {
		for b := range Bands {
			out[i][b] = float32(math.Log10(float64(1 + s.Power[i][b]/floor)))
		}
	}
	return out
}
