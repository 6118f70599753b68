package dsp

import (
	"math"
	"sync"
)

// A sound that is read at another speed is interpolated by a windowed sinc whose band ends
// below half of the lower of both rates (Smith & Gossett 1984, "A flexible sampling-rate
// conversion method", ICASSP): flat to 0.4 of that rate, 96 dB down from a half.
const (
	sincZeros  = 32  // zero crossings on each side
	sincPhases = 512 // places between two samples; between them the kernel runs straight
	sincEdge   = 0.9 // of half the rate
	// MostSpeed is up to which speed what would fold back is kept away.
	MostSpeed = 16
	// MostWeights is the most that Weights fills.
	MostWeights = 2 * sincZeros * MostSpeed
)

// sincTables are the kernel by phase, then by zero crossing, and along itself.
type sincTables struct {
	rows  [sincPhases + 1][2 * sincZeros]float64
	along [2*sincZeros*sincPhases + 2]float64
}

var sincTable = sync.OnceValue(func() *sincTables {
	t := &sincTables{}
	kernel := func(x float64) float64 {
		return sincEdge * Sinc(x*sincEdge) * Kaiser(x/sincZeros, 10)
	}
	for i := range t.along {
		t.along[i] = kernel(float64(i)/sincPhases - sincZeros)
	}
	for p := range t.rows {
		sum := 0.0
		for k := range t.rows[p] {
			t.rows[p][k] = kernel(float64(k-sincZeros+1) - float64(p)/sincPhases)
			sum += t.rows[p][k]
		}
		for k := range t.rows[p] {
			t.rows[p][k] /= sum
		}
	}
	return t
})

// Weights fills w with the weights of the samples around a place in a sound that is read
// at a speed, in samples a frame: that place is the sum of w[k]·x[first+k]. At speed 1 and
// below it is what lies between the samples; above, what would fold back is left out, and
// more samples are weighed. w holds MostWeights.
func Weights(place, speed float64, w []float64) (first, n int) {
	t := sincTable()
	whole := math.Floor(place)
	part := place - whole
	if speed <= 1 {
		at := part * sincPhases
		p := int(at)
		between := at - float64(p)
		out := (*[2 * sincZeros]float64)(w)
		a, b := &t.rows[p], &t.rows[p+1]
		for k := range out {
			out[k] = a[k] + (b[k]-a[k])*between
		}
		return int(whole) - sincZeros + 1, 2 * sincZeros
	}
	speed = min(speed, MostSpeed)
	reach := int(sincZeros * speed)
	n = 2 * reach
	by := 1 / speed
	step := sincPhases * by
	start := sincPhases * (sincZeros + (float64(1-reach)-part)*by)
	for k := range w[:n] {
		at := start + float64(k)*step
		p := int(at)
		a := t.along[p]
		w[k] = (a + (t.along[p+1]-a)*(at-float64(p))) * by
	}
	return int(whole) - reach + 1, n
}
