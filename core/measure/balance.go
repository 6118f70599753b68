package measure

import (
	"math"

	"jubrak/core/dsp"
)

// MeanSpectrum is the average power spectrum of a sound: the mean periodogram
// of Hann windows of 8,192 samples, half overlapping (Welch 1967); of more than
// a minute, one after the other.
type MeanSpectrum struct {
	power []float64
	step  float64 // Hz between bins
}

// NewMeanSpectrum measures mono sound.
func NewMeanSpectrum[T float32 | float64](mono []T, rate int) *MeanSpectrum {
	const size = 8192
	fft := dsp.NewFFT(size)
	m := &MeanSpectrum{power: make([]float64, size/2+1), step: float64(rate) / size}
	window := make([]float64, size)
	for i := range window {
		window[i] = 0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/size)
	}
	var buf, power [2][]float64 // two frames at a time
	for i := range buf {
		buf[i], power[i] = make([]float64, size), make([]float64, size/2+1)
	}
	hop := size / 2
	if len(mono) > 60*rate {
		hop = size
	}
	inside := func(at int) bool { return at == 0 || at+size-hop < len(mono) }
	for at := 0; inside(at); at += 2 * hop {
		for f := range buf {
			clear(buf[f])
			if from := at + f*hop; inside(from) {
				for i, v := range mono[min(from, len(mono)):min(from+size, len(mono))] {
					buf[f][i] = float64(v) * window[i]
				}
			}
		}
		fft.Powers(buf[0], buf[1], power[0], power[1])
		for k := range m.power {
			m.power[k] += power[0][k] + power[1][k]
		}
	}
	return m
}

func (m *MeanSpectrum) sum(from, to float64) (s float64) {
	for k := int(math.Ceil(from / m.step)); k < len(m.power) && float64(k)*m.step < to; k++ {
		s += m.power[k]
	}
	return s
}

// Balance is the energy in the five named Regions against the whole from 20
// Hz to 20 kHz, dB, by name. Empty for silence.
func (m *MeanSpectrum) Balance() map[string]float64 {
	out := map[string]float64{}
	total := m.sum(20, 20000)
	if total < 1e-12 {
		return out
	}
	for _, r := range Regions {
		out[r.Name] = math.Max(10*math.Log10(m.sum(r.From, r.To)/total), -120)
	}
	return out
}

// ThirdOctaves is the energy in third-octave bands (exact centres
// 1000·10^(n/10), IEC 61260-1, from 25 Hz to 20 kHz) against the whole, dB,
// with the centres in Hz. Bins are shared out between bands where a band is
// hardly wider than a bin. Empty for silence.
func (m *MeanSpectrum) ThirdOctaves() (hz, db []float64) {
	total := m.sum(20, 20000)
	if total < 1e-12 {
		return nil, nil
	}
	edge := math.Pow(10, 0.05)
	for n := -16; n <= 13; n++ {
		centre := 1000 * math.Pow(10, float64(n)/10)
		if centre*edge > m.step*float64(len(m.power)) {
			break
		}
		hz = append(hz, centre)
		db = append(db, math.Max(10*math.Log10(m.shared(centre/edge, centre*edge)/total), -120))
	}
	return hz, db
}

// shared is like sum, but counts bins by the part of them that lies inside.
func (m *MeanSpectrum) shared(from, to float64) (s float64) {
	last := min(int(to/m.step+2), len(m.power))
	for k := max(int(from/m.step)-1, 0); k < last; k++ {
		lo, hi := (float64(k)-0.5)*m.step, (float64(k)+0.5)*m.step
		if inside := math.Min(hi, to) - math.Max(lo, from); inside > 0 {
			s += m.power[k] * inside / m.step
		}
	}
	return s
}

// Balance is MeanSpectrum.Balance of mono sound.
func Balance(mono []float64, rate int) map[string]float64 {
	return NewMeanSpectrum(mono, rate).Balance()
}
