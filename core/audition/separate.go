package audition

import (
	"context"
	"math"
	"slices"

	"gonum.org/v1/gonum/dsp/fourier"

	"jubrak/core/audio"
)

// Separation works in frames of 2,048 samples, three quarters overlapping.
const (
	sepSize = 2048
	sepHop  = 512
	reach   = 8 // of the medians: 17 frames, 17 bins
)

// Separate splits a recording into its percussive part and the rest by median
// filters along time and frequency with soft masks (FitzGerald, DAFx-10). The
// two add up to the whole.
func Separate(ctx context.Context, b *audio.Buffer) (percussive, rest *audio.Buffer, err error) {
	fft := fourier.NewFFT(sepSize)
	frames := b.Frames()/sepHop + 4
	bins := sepSize/2 + 1
	spectra := make([][][]complex128, len(b.Channels))
	mag := make([][]float32, frames)
	for t := range mag {
		mag[t] = make([]float32, bins)
	}
	window := make([]float64, sepSize)
	for i := range window {
		window[i] = math.Sqrt(0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/sepSize))
	}
	buf := make([]float64, sepSize)
	for c, ch := range b.Channels {
		spectra[c] = make([][]complex128, frames)
		for t := range frames {
			if err := ctx.Err(); err != nil {
				return nil, nil, err
			}
			for i := range buf {
				buf[i] = 0
				if j := (t-3)*sepHop + i; j >= 0 && j < len(ch) {
					buf[i] = float64(ch[j]) * window[i]
				}
			}
			spectra[c][t] = fft.Coefficients(nil, buf)
			for k, v := range spectra[c][t] {
				mag[t][k] += float32(math.Hypot(real(v), imag(v)))
			}
		}
	}
	percussive = audio.New(b.Rate, len(b.Channels), b.Frames())
	rest = audio.New(b.Rate, len(b.Channels), b.Frames())
	harmonic, column, smooth := make([][]float32, frames), make([]float32, frames), make([]float32, frames)
	for t := range harmonic {
		harmonic[t] = make([]float32, bins)
	}
	for k := range bins {
		for t := range frames {
			column[t] = mag[t][k]
		}
		medians(smooth, column)
		for t := range frames {
			harmonic[t][k] = smooth[t]
		}
	}
	mask, across := make([]float64, bins), make([]float32, bins)
	for t := range frames {
		if err := ctx.Err(); err != nil {
			return nil, nil, err
		}
		medians(across, mag[t])
		for k := range mask {
			p, h := float64(across[k]), float64(harmonic[t][k])
			mask[k] = p * p / (p*p + h*h + 1e-12)
		}
		for c := range b.Channels {
			for k := range spectra[c][t] {
				spectra[c][t][k] *= complex(mask[k], 0)
			}
			x := fft.Sequence(buf, spectra[c][t])
			for i, v := range x {
				if j := (t-3)*sepHop + i; j >= 0 && j < b.Frames() {
					// The squared windows of four frames add up to 2.
					percussive.Channels[c][j] += float32(v * window[i] / sepSize / 2)
				}
			}
		}
	}
	for c := range rest.Channels {
		for i, v := range b.Channels[c] {
			rest.Channels[c][i] = v - percussive.Channels[c][i]
		}
	}
	return percussive, rest, nil
}

// medians writes the running median of x over 17 places to dst; beyond the
// ends the first and the last value go on. The window is kept in order, and
// each step takes one value out and puts one in.
func medians(dst, x []float32) {
	const width = 2*reach + 1
	at := func(i int) float32 { return x[min(max(i, 0), len(x)-1)] }
	var window [width]float32
	for d := range window {
		window[d] = at(d - reach)
	}
	slices.Sort(window[:])
	for i := range x {
		dst[i] = window[reach]
		out, in := at(i-reach), at(i+reach+1)
		j := 0
		for window[j] != out {
			j++
		}
		for ; j+1 < width && window[j+1] < in; j++ {
			window[j] = window[j+1]
		}
		for ; j > 0 && window[j-1] > in; j-- {
			window[j] = window[j-1]
		}
		window[j] = in
	}
}
