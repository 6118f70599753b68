package synth

import "jubrak/core/dsp"

// read takes samples of each channel of a sound from a place on, at a speed in samples a
// frame. On a sample and at the sound's own speed they are the samples themselves, else they
// are interpolated below the end of the band. Beyond the ends there is silence.
func read(x [][]float32, from, speed float64, out ...*[stride]float64) {
	if whole := int(from); speed == 1 && float64(whole) == from {
		for c := range out {
			for k := range out[c] {
				out[c][k] = sample(x[c], whole+k)
			}
		}
		return
	}
	var weights [dsp.MostWeights]float64
	for k := range stride {
		place := from + float64(k)*speed
		if int(place) >= len(x[0]) {
			for c := range out {
				clear(out[c][k:])
			}
			return
		}
		first, n := dsp.Weights(place, speed, weights[:])
		lo, hi := max(first, 0), min(first+n, len(x[0]))
		for c := range out {
			out[c][k] = weighed(x[c][lo:hi], weights[lo-first:hi-first])
		}
	}
}

// weighed is the sum of samples by their weights, in four parts that do not wait for each
// other.
func weighed(x []float32, w []float64) float64 {
	var a, b, c, d float64
	for len(x) >= 4 && len(w) >= 4 {
		a += w[0] * float64(x[0])
		b += w[1] * float64(x[1])
		c += w[2] * float64(x[2])
		d += w[3] * float64(x[3])
		x, w = x[4:], w[4:]
	}
	for i, v := range x {
		a += w[i] * float64(v)
	}
	return a + b + c + d
}

func sample(x []float32, i int) float64 {
	if i < 0 || i >= len(x) {
		return 0
	}
	return float64(x[i])
}
