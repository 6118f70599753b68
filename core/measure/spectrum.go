package measure

import (
	"jubrak/core/audio"
	"jubrak/core/dsp"
	"math"
	"slices"

	"gonum.org/v1/gonum/dsp/fourier"
)

// Surface takes brightness and flatness of a one-shot as Measure does, of what lies within
// 40 and 60 dB of the strongest bin alone: what a recording leaves far below a drum is not
// its colour. Nil of silence.
func Surface(b *audio.Buffer) (centroid, flatness *float64) {
	x := oneSide(b)
	if b.Peak() == 0 || len(x) == 0 {
		return nil, nil
	}
	x = x[Onset(x, b.Rate):]
	n := b.Rate / 4
	win := make([]float64, n)
	for i := range min(n, len(x)) {
		win[i] = x[i] * (0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/float64(n-1)))
	}
	mag := magnitudes(win)
	top := slices.Max(mag[1:])
	floor, flat := top*audio.Gain(-surfaceDB), top*audio.Gain(-flatDB)
	var sum, weighted, logs, power float64
	for k := 1; k < len(mag); k++ {
		if mag[k] > floor {
			sum += mag[k]
			weighted += mag[k] * float64(k) * float64(b.Rate) / float64(n)
		}
		m := math.Max(mag[k], flat)
		logs += math.Log(m * m)
		power += m * m
	}
	if sum == 0 {
		return nil, nil
	}
	bins := float64(len(mag) - 1)
	return ptr(weighted / sum), ptr(math.Min(math.Exp(logs/bins)/(power/bins), 1))
}

// spectrum fills centroid, flatness, third octaves and balance.
func (m *Measures) spectrum(x []float64, rate int) {
	n := rate / 4
	win := make([]float64, n)
	for i := range win {
		if i < len(x) {
			win[i] = x[i] * (0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/float64(n-1)))
		}
	}
	mag := magnitudes(win)
	var sum, weighted, logs, power float64
	for k := 1; k < len(mag); k++ {
		hz := float64(k) * float64(rate) / float64(n)
		sum += mag[k]
		weighted += mag[k] * hz
		logs += math.Log(mag[k]*mag[k] + 1e-20)
		power += mag[k] * mag[k]
	}
	if sum == 0 {
		return
	}
	m.Centroid = ptr(weighted / sum)
	bins := float64(len(mag) - 1)
	m.Flatness = ptr(math.Min(math.Exp(logs/bins)/(power/bins), 1))
	m.bandsOf(x, rate)
}

// bandsOf adds up the energy of the whole sound in third octaves (exact
// centres 1000·10^(n/10), IEC 61260-1) and regions, in dB against the whole.
func (m *Measures) bandsOf(x []float64, rate int) {
	padded := make([]float64, nextPow2(max(len(x), rate/4)))
	copy(padded, x)
	mag := magnitudes(padded)
	step := float64(rate) / float64(len(padded))
	energy := func(from, to float64) float64 {
		var sum float64
		for k := max(int(math.Ceil(from/step)), 1); k < len(mag) && float64(k)*step < to; k++ {
			sum += mag[k] * mag[k]
		}
		return sum
	}
	total := energy(20, 20000)
	if total == 0 {
		return
	}
	db := func(e float64) float64 { return math.Max(10*math.Log10(e/total), -120) }
	edge := math.Pow(10, 0.05)
	for n := -16; n <= 13; n++ {
		centre := 1000 * math.Pow(10, float64(n)/10)
		if centre*edge < float64(rate)/2 {
			m.ThirdOctave[nominal[n+16]] = db(energy(centre/edge, centre*edge))
		}
	}
	for _, r := range Regions {
		m.Balance[r.Name] = db(energy(r.From, r.To))
	}
}

func magnitudes(x []float64) []float64 {
	coeff := fourier.NewFFT(len(x)).Coefficients(nil, x)
	out := make([]float64, len(coeff))
	for k, c := range coeff {
		out[k] = math.Hypot(real(c), imag(c))
	}
	return out
}

func nextPow2(n int) int {
	p := 1
	for p < n {
		p *= 2
	}
	return p
}

// snap is the energy of the first 10 ms above 1 kHz against the whole, dB.
func snap(x []float64, rate int) *float64 {
	high := dsp.HighPass(1000, math.Sqrt2/2, float64(rate))
	var top, all float64
	for i, v := range x {
		y := high.Next(v)
		if i < rate/100 {
			top += y * y
		}
		all += v * v
	}
	if all == 0 || top == 0 {
		return nil
	}
	return ptr(10 * math.Log10(top/all))
}
