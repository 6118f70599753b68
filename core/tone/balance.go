package tone

import (
	"math"

	"gonum.org/v1/gonum/dsp/fourier"
)

// Balance is the energy of a sound in the five named Regions against the
// whole from 20 Hz to 20 kHz, dB, by name: the mean periodogram of Hann
// windows of 8,192 samples, half overlapping (Welch 1967). Empty for silence.
func Balance(mono []float64, rate int) map[string]float64 {
	const size = 8192
	fft := fourier.NewFFT(size)
	power := make([]float64, size/2+1)
	buf, coeff := make([]float64, size), make([]complex128, size/2+1)
	for at := 0; at == 0 || at+size/2 < len(mono); at += size / 2 {
		for i := range buf {
			buf[i] = 0
			if at+i < len(mono) {
				buf[i] = mono[at+i] * (0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/size))
			}
		}
		for k, c := range fft.Coefficients(coeff, buf) {
			power[k] += real(c)*real(c) + imag(c)*imag(c)
		}
	}
	step := float64(rate) / size
	sum := func(from, to float64) (s float64) {
		for k := int(math.Ceil(from / step)); k < len(power) && float64(k)*step < to; k++ {
			s += power[k]
		}
		return s
	}
	total := sum(20, 20000)
	out := map[string]float64{}
	if total < 1e-12 {
		return out
	}
	for _, r := range Regions {
		out[r.Name] = math.Max(10*math.Log10(sum(r.From, r.To)/total), -120)
	}
	return out
}
