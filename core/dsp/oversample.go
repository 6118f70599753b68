package dsp

import (
	"math"
	"sync"

	"gonum.org/v1/gonum/mat"
)

// Linear-phase filters that double and halve a rate in blocks. Every one delays all
// frequencies by the same time, so that what has been oversampled and what has not can be
// mixed. Each works on a buffer that begins with the last samples of the block before, and
// makes four samples at a time; the numbers of taps are constants so that the compiler need
// not check each index.

// double is an interpolator: between two samples stands what 30 around it say, the samples
// themselves stay. h is the first half of the taps, which are symmetric. w begins with 29
// samples of the past; what comes out is 29 samples of the doubled rate late.
func double(h *[15]float64, w, out []float64) {
	for i := 0; i < len(out)/2; i += 4 {
		v := (*[33]float64)(w[i:])
		var a, b, c, d float64
		for k := range h {
			by := h[k]
			j := 29 - k
			a += by * (v[k] + v[j])
			b += by * (v[k+1] + v[j+1])
			c += by * (v[k+2] + v[j+2])
			d += by * (v[k+3] + v[j+3])
		}
		o := (*[8]float64)(out[2*i:])
		*o = [8]float64{a, v[15], b, v[16], c, v[17], d, v[18]}
	}
}

// doubleHigh is double for rates far above what is heard: 14 samples, 13 of the past, 13 late.
func doubleHigh(h *[7]float64, w, out []float64) {
	for i := 0; i < len(out)/2; i += 4 {
		v := (*[17]float64)(w[i:])
		var a, b, c, d float64
		for k := range h {
			by := h[k]
			j := 13 - k
			a += by * (v[k] + v[j])
			b += by * (v[k+1] + v[j+1])
			c += by * (v[k+2] + v[j+2])
			d += by * (v[k+3] + v[j+3])
		}
		o := (*[8]float64)(out[2*i:])
		*o = [8]float64{a, v[7], b, v[8], c, v[9], d, v[10]}
	}
}

// halve halves the rate of w, which begins with 89 samples of the past.
func halve(h *[45]float64, w, out []float64) {
	for i := 0; i < len(out); i += 4 {
		v := (*[96]float64)(w[2*i:])
		var a, b, c, d float64
		for k := range h {
			by := h[k]
			j := 89 - k
			a += by * (v[k] + v[j])
			b += by * (v[k+2] + v[j+2])
			c += by * (v[k+4] + v[j+4])
			d += by * (v[k+6] + v[j+6])
		}
		*(*[4]float64)(out[i:]) = [4]float64{a, b, c, d}
	}
}

// halveHigh is halve for rates far above what is heard: 16 taps, 15 samples of the past.
func halveHigh(h *[8]float64, w, out []float64) {
	for i := 0; i < len(out); i += 4 {
		v := (*[22]float64)(w[2*i:])
		var a, b, c, d float64
		for k := range h {
			by := h[k]
			j := 15 - k
			a += by * (v[k] + v[j])
			b += by * (v[k+2] + v[j+2])
			c += by * (v[k+4] + v[j+4])
			d += by * (v[k+6] + v[j+6])
		}
		*(*[4]float64)(out[i:]) = [4]float64{a, b, c, d}
	}
}

// halfband fills the first half of the taps between two samples of a half-band filter: a
// windowed sinc (Kaiser 1974).
func halfband(taps []float64, beta float64) {
	sum, pairs := 0.0, float64(len(taps))
	for k := range taps {
		x := float64(k) + 0.5 - pairs
		taps[k] = Sinc(x) * Kaiser(x/pairs, beta)
		sum += 2 * taps[k]
	}
	for k := range taps {
		taps[k] /= sum
	}
}

// band is a range of frequencies, in parts of the sample rate, with what a filter shall be
// there and how much that matters.
type band struct {
	from, to, weight float64
	want             func(f float64) float64
}

// leastSquares fills the first half of a symmetric filter of an even number of taps, whose
// error, squared and weighted, is least over some bands (Parks & Burrus 1987, Digital Filter
// Design, ch. 3).
func leastSquares(taps []float64, bands ...band) {
	n := len(taps)
	left, right, at := mat.NewSymDense(n, nil), mat.NewVecDense(n, nil), mat.NewVecDense(n, nil)
	for _, b := range bands {
		steps := 16 * n
		for i := range steps {
			f := b.from + (b.to-b.from)*(float64(i)+0.5)/float64(steps)
			for k := range n {
				at.SetVec(k, math.Cos(2*math.Pi*f*(float64(k)+0.5)))
			}
			weight := b.weight * (b.to - b.from)
			left.SymRankOne(left, weight, at)
			right.AddScaledVec(right, weight*b.want(f), at)
		}
	}
	var solve mat.Cholesky
	solve.Factorize(left)
	var x mat.VecDense
	if err := solve.SolveVecTo(&x, right); err != nil {
		panic(err) // the bands are constants of this package
	}
	for k := range n {
		taps[n-1-k] = x.AtVec(k) / 2
	}
}

// oversampling are the filters of a Shaper. What it shapes is the mean over a sample of the
// raised rate, half a sample late and softer towards the top by a cosine: the filter after
// it has an even number of taps, which adds the other half, and lifts the top again. All are
// flat to 18.2 parts of 48 of the rate at which they end.
type oversampling struct {
	up           [15]float64 // to 2 times the rate
	upHigh       [7]float64  // to 4 and 8 times
	from2        [45]float64 // from 2 times to the rate, after shaping at 2 times
	from4, from8 [8]float64  // from 4 to 2 times after shaping at 4 times, from 8 to 4 at 8
	down2        [8]float64  // from 4 to 2 times
	down         [45]float64 // from 2 times to the rate
	late2, late4 int         // by how much 2 and 4 times are held back to be as late as 8
	latency      int         // of all, frames
}

// pad8 is by how many samples of four times the rate eight times are held back, so that all
// together is late by whole frames.
const pad8 = 2

var oversampled = sync.OnceValue(func() *oversampling {
	flat := func(float64) float64 { return 1 }
	none := func(float64) float64 { return 0 }
	lifted := func(f float64) float64 { return 1 / math.Cos(math.Pi*f) }
	const pass, stop = 18.4, 24.4 // where the rate that it ends at is 48
	o := &oversampling{}
	halfband(o.up[:], 10.6)
	halfband(o.upHigh[:], 12)
	leastSquares(o.from2[:], band{0, pass / 96, 1500, lifted}, band{stop / 96, 0.5, 1, none})
	leastSquares(o.down[:], band{0, pass / 96, 1500, flat}, band{stop / 96, 0.5, 1, none})
	leastSquares(o.from4[:], band{0, pass / 192, 3000, lifted}, band{(96 - stop) / 192, 0.5, 1, none})
	leastSquares(o.down2[:], band{0, pass / 192, 3000, flat}, band{(96 - stop) / 192, 0.5, 1, none})
	leastSquares(o.from8[:], band{0, pass / 384, 3000, lifted}, band{(192 - stop) / 384, 0.5, 1, none})
	// By how many samples each is late, at 2, 4 and 8 times the rate; twice that where a
	// half is left. What follows the shaping makes up for the half that that is late.
	const up, upHigh, from2, fromHigh, down2Twice, downTwice = 29, 13, 45, 8, 15, 89
	const at2, at4 = up + from2, 2*up + upHigh + fromHigh + downTwice
	const at8 = 4*up + 2*upHigh + upHigh + fromHigh + 2*pad8 + down2Twice + 2*downTwice
	o.latency = at8 / 8
	o.late2, o.late4 = o.latency-at2/2, o.latency-at4/4
	return o
})
