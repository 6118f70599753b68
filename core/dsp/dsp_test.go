package dsp

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/dsp/fourier"
	"gonum.org/v1/gonum/stat"
	"pgregory.net/rapid"
)

const rate = 48000

// shapedSpectrum shapes a loud 5 kHz sine and returns power by bin of a 48,000-point
// transform (1 Hz bins), with a Blackman-Harris window.
func shapedSpectrum(c Curve, gain, hz float64) []float64 {
	s := NewShaper(c, gain, rate)
	x := make([]float64, rate)
	driven := make([]float64, 4000+rate)
	for i := range driven {
		driven[i] = gain * math.Sin(2*math.Pi*hz*float64(i)/rate)
	}
	s.Run(driven)
	for i := range x {
		y := driven[4000+i]
		p := 2 * math.Pi * float64(i) / rate
		x[i] = y * (0.35875 - 0.48829*math.Cos(p) + 0.14128*math.Cos(2*p) - 0.01168*math.Cos(3*p))
	}
	out := make([]float64, rate/2+1)
	for k, c := range fourier.NewFFT(rate).Coefficients(nil, x) {
		out[k] = real(c)*real(c) + imag(c)*imag(c)
	}
	return out
}

// Published: Parker, Zavalishin & Le Bivic, DAFx-16; the target is images at
// least 60 dB below a driven 5 kHz sine, at every rate that a shaper runs at.
func TestShaperAliasing(t *testing.T) {
	for c := range Curve(5) {
		for _, gain := range []float64{0.3, 0.59, 0.99, 1.04, 1.5, 1.59, 2.9, 3.29, 5.9, 7, 12, 20} {
			if c == Fold && gain > 8 {
				continue // harmonics without end
			}
			p := shapedSpectrum(c, gain, 5000)
			var worst float64
			worstAt := 0
			for k := 40; k < len(p); k++ {
				if near := (k + 2500) % 5000; near > 2490 && near < 2510 {
					continue // 5 kHz and its true harmonics
				}
				if p[k] > worst {
					worst, worstAt = p[k], k
				}
			}
			var peak float64
			for k := 4990; k <= 5010; k++ {
				peak = math.Max(peak, p[k])
			}
			assert.Less(t, 10*math.Log10(worst/peak), -60.0, "curve %d, gain %g: the strongest image is at %d Hz", c, gain, worstAt)
		}
	}
}

// What a curve leaves alone comes out as it went in, only later: at every rate that a shaper
// runs at, from the lowest tones to 18 kHz.
func TestShaperIsADelayWhereNothingBends(t *testing.T) {
	for c := range Curve(5) {
		for _, most := range []float64{0.001, 4, 20} {
			for _, hz := range []float64{20, 50, 997, 8000, 13000, 16000, 18000} {
				s := NewShaper(c, most, rate)
				x := make([]float64, 24000)
				for i := range x {
					x[i] = 1e-7 * math.Sin(2*math.Pi*hz*float64(i)/rate)
				}
				y := slices.Clone(x)
				s.Run(y)
				worst := 0.0
				for i := 12000; i < len(y); i++ {
					worst = math.Max(worst, math.Abs(y[i]-x[i-ShaperLatency])/1e-7)
				}
				assert.Less(t, 20*math.Log10(worst), -92.0, "curve %d, gains up to %g, %g Hz", c, most, hz)
			}
		}
	}
}

// A shaper that gets finer while it runs neither clicks nor goes out of time.
func TestShaperGetsFinerWithoutAClick(t *testing.T) {
	s, fine := NewShaper(Soft, 1, rate), NewShaper(Soft, 20, rate)
	x := make([]float64, 8000)
	for i := range x {
		x[i] = 0.9 * math.Sin(2*math.Pi*440*float64(i)/rate)
	}
	y, z := slices.Clone(x), slices.Clone(x)
	s.Run(y[:3001])
	s.Expect(20)
	s.Run(y[3001:])
	fine.Run(z)
	for i := 1000; i < len(y); i++ {
		assert.InDelta(t, z[i], y[i], 1e-4, "frame %d", i)
	}
	assert.Equal(t, 8, s.pipe.times)
}

// Published: Audio EQ Cookbook (W3C Note 2021): a Butterworth section is 3.01
// dB down at its corner and falls by 12 dB an octave.
func TestFilters(t *testing.T) {
	high, low := HighPass(1000, math.Sqrt2/2, rate), LowPass(1000, math.Sqrt2/2, rate)
	db := func(f *Biquad, hz float64) float64 { return 20 * math.Log10(f.Magnitude(hz, rate)) }
	assert.InDelta(t, -3.0103, db(&high, 1000), 0.001)
	assert.InDelta(t, -3.0103, db(&low, 1000), 0.001)
	assert.InDelta(t, -12.3, db(&high, 500), 0.1)
	assert.InDelta(t, 0, db(&low, 50), 0.001)
	band := BandPass(1000, 1, rate)
	assert.InDelta(t, 0, db(&band, 1000), 0.001)
	assert.InDelta(t, -3.01, db(&band, 1000*math.Sqrt2), 0.1)
	// The running filter is the one whose response was computed.
	var peak float64
	for i := range rate {
		if y := high.Next(math.Sin(2 * math.Pi * 500 * float64(i) / rate)); i > rate/2 {
			peak = math.Max(peak, math.Abs(y))
		}
	}
	assert.InDelta(t, high.Magnitude(500, rate), peak, 0.001)
}

func TestFallReachesMinus60(t *testing.T) {
	f := NewFall(10, 250, rate)
	var at10, at260 float64
	for i := range rate / 2 {
		v := f.Next()
		switch i {
		case rate / 100:
			at10 = v
		case rate * 260 / 1000:
			at260 = v
		}
	}
	assert.InDelta(t, 1, at10, 0.01)
	assert.InDelta(t, -60, 20*math.Log10(at260/at10), 0.1)
}

func TestGauss(t *testing.T) {
	x := make([]float64, 50000)
	for i := range x {
		x[i] = Gauss(Key(3, uint64(i)))
	}
	mean, sd := stat.MeanStdDev(x, nil)
	assert.InDelta(t, 0, mean, 0.02)
	assert.InDelta(t, 1, sd, 0.02)
	assert.InDelta(t, 0, stat.Correlation(x[1:], x[:len(x)-1], nil), 0.02)
}

// Published: Hennig et al. 2011, PLoS ONE 6:e26457: timing of people is
// long-range correlated; the slope of the log periodogram is near -1.
func TestPinkSlope(t *testing.T) {
	const n, runs = 2048, 40
	power := make([]float64, n/2+1)
	fft := fourier.NewFFT(n)
	for r := range runs {
		x := make([]float64, n)
		for i := range x {
			x[i] = Pink(Key(uint64(r)), i)
		}
		for k, c := range fft.Coefficients(nil, x) {
			power[k] += real(c)*real(c) + imag(c)*imag(c)
		}
	}
	var logF, logP []float64
	for k := 4; k < n/6; k++ {
		logF, logP = append(logF, math.Log(float64(k))), append(logP, math.Log(power[k]))
	}
	weights := make([]float64, len(logF))
	for i := range weights {
		weights[i] = math.Exp(-logF[i]) // equal weight to each octave
	}
	_, slope := stat.LinearRegression(logF, logP, weights, false)
	assert.InDelta(t, -1, slope, 0.15)
}

func TestNoiseRepeats(t *testing.T) {
	a, b, c := NewNoise(5), NewNoise(5), NewNoise(6)
	same := true
	for range 100 {
		v := a.Next()
		assert.InDelta(t, 0, v, 1)
		assert.Equal(t, v, b.Next())
		same = same && v == c.Next()
	}
	assert.False(t, same)
}

func BenchmarkShaper(b *testing.B) {
	for c := range Curve(5) {
		for _, gain := range []float64{0.5, 2, 12} {
			b.Run(fmt.Sprint(c, " at ", gain), func(b *testing.B) {
				s := NewShaper(c, gain, rate)
				x := make([]float64, 256)
				for b.Loop() {
					for i := range x {
						x[i] = gain * math.Sin(float64(i)/20)
					}
					s.Run(x)
				}
				b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/256, "ns/sample")
			})
		}
	}
}

func TestCascadeIsOneFilterAfterTheOther(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		x := rapid.SliceOfN(rapid.Float64Range(-1, 1), 1, 200).Draw(r, "sound")
		filters := make([]Biquad, rapid.IntRange(0, 5).Draw(r, "filters"))
		for i := range filters {
			filters[i] = LowPass(rapid.Float64Range(40, 18000).Draw(r, "hz"), rapid.Float64Range(0.4, 2).Draw(r, "q"), 44100)
		}
		one := slices.Clone(x)
		for _, f := range filters { // a copy: they keep state
			f.Run(one)
		}
		for range 2 { // from rest each time
			all := slices.Clone(x)
			Cascade(all, filters)
			assert.InDeltaSlice(r, one, all, 1e-12)
		}
	})
}
