// Package listen hears a reference: its hits, their families and strengths,
// its beats and bars, and from these its feel. docs/listening.md explains the
// method with its sources.
package listen

import (
	"context"
	"math"

	"gonum.org/v1/gonum/dsp/fourier"
	"gonum.org/v1/gonum/dsp/window"
)

// The analysis works at one rate and one frame size.
const (
	rate    = 44100
	size    = 1024
	hop     = 256
	frameMS = hop * 1000.0 / rate
)

// bandEdges splits the spectrum, Hz: single bins at the bottom where a kick
// lives, about a third of an octave above.
var bandEdges = []float64{30, 75, 120, 165, 210, 260, 330, 420, 530, 670, 850, 1070, 1350, 1700, 2150, 2700, 3400, 4300, 5400, 6800, 8500, 10500, 13000, 16500}

const bands = 23

// lowBands and midBands end the low and the middle of bandEdges.
const (
	lowBands = 3  // to 165 Hz
	midBands = 16 // to 3.4 kHz
)

// spectrum is band power by frame: power[n][b], frame n centred on sample
// n·hop.
type spectrum struct{ power [][bands]float64 }

// newSpectrum transforms mono sound at rate. It reports progress from 0 to 1
// and stops with the context's error.
func newSpectrum(ctx context.Context, x []float64, report func(float64)) (*spectrum, error) {
	fft := fourier.NewFFT(size)
	win := window.Hann(ones(size))
	frames := len(x)/hop + 1
	s := &spectrum{power: make([][bands]float64, frames)}
	bandOf := bandOfBin()
	buf := make([]float64, size)
	coeff := make([]complex128, size/2+1)
	for n := range frames {
		if n%2048 == 0 {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			report(float64(n) / float64(frames))
		}
		first := n*hop - size/2
		for i := range buf {
			if j := first + i; j >= 0 && j < len(x) {
				buf[i] = x[j] * win[i]
			} else {
				buf[i] = 0
			}
		}
		fft.Coefficients(coeff, buf)
		row := &s.power[n]
		for k, c := range coeff {
			if b := bandOf[k]; b >= 0 {
				row[b] += real(c)*real(c) + imag(c)*imag(c)
			}
		}
	}
	return s, nil
}

func bandOfBin() []int {
	out := make([]int, size/2+1)
	for k := range out {
		hz := float64(k) * rate / size
		out[k] = -1
		for b := range bands {
			if hz >= bandEdges[b] && hz < bandEdges[b+1] {
				out[k] = b
			}
		}
	}
	return out
}

func ones(n int) []float64 {
	x := make([]float64, n)
	for i := range x {
		x[i] = 1
	}
	return x
}

// flux is the onset function: the rise of log power, band by band, against
// the loudest of the neighbouring bands two frames before (maximum-filtered
// spectral flux: Böck & Widmer, DAFx-13), so that vibrato and ringing do not
// count. It returns the mean over all bands, and over low, middle and high.
func (s *spectrum) flux() (all, low, mid, high []float64) {
	const lag = 2
	n := len(s.power)
	all, low, mid, high = make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n)
	floor := s.floor()
	logs := make([][bands]float64, n)
	for i := range logs {
		for b := range bands {
			logs[i][b] = math.Log10(1 + s.power[i][b]/floor)
		}
	}
	for i := lag; i < n; i++ {
		for b := range bands {
			before := logs[i-lag][b]
			if b > 0 {
				before = math.Max(before, logs[i-lag][b-1])
			}
			if b+1 < bands {
				before = math.Max(before, logs[i-lag][b+1])
			}
			rise := math.Max(logs[i][b]-before, 0)
			switch {
			case b < lowBands:
				low[i] += rise / lowBands
			case b < midBands:
				mid[i] += rise / (midBands - lowBands)
			default:
				high[i] += rise / (bands - midBands)
			}
		}
		all[i] = (low[i] + mid[i] + high[i]) / 3
	}
	return all, low, mid, high
}

// floor is the power under which nothing counts: 65 dB below the loudest
// band of the file.
func (s *spectrum) floor() float64 {
	var peak float64
	for i := range s.power {
		for _, p := range s.power[i] {
			peak = math.Max(peak, p)
		}
	}
	return math.Max(peak*math.Pow(10, -6.5), 1e-12)
}
