package dsp

import (
	"fmt"
	"math"
	"math/bits"
	"sync"
)

// FFT takes power spectra of real frames two at a time: one is the real, the
// other the imaginary part of a complex transform, which the symmetry of real
// spectra takes apart again (Press et al., Numerical Recipes, 3rd ed., 12.3).
// The transform is Stockham's in radix 4 (Van Loan, Computational Frameworks
// for the Fast Fourier Transform, 1992, 1.7). Real and Inverse serve
// correlation. It allocates nothing once made, and is not safe for concurrent
// use. docs/decisions/0009 reports why it is not a library's.
type FFT struct {
	n    int
	turn []complex128 // exp(-2πi k/n)
	// halfTurn is exp(-πi k/n).
	halfTurn []complex128
	a, b     []complex128
}

// NewFFT is for frames of n samples, a power of two of at least 4.
func NewFFT(n int) *FFT {
	if n < 4 || bits.OnesCount(uint(n)) != 1 {
		panic(fmt.Sprintf("a frame of %d samples is no power of two", n))
	}
	t := turnsOf(n)
	return &FFT{n: n, turn: t[0], halfTurn: t[1], a: make([]complex128, n), b: make([]complex128, n)}
}

// turnTables are the tables of NewFFT by size, made once: nobody changes them.
var turnTables sync.Map

func turnsOf(n int) [2][]complex128 {
	if t, ok := turnTables.Load(n); ok {
		return t.([2][]complex128)
	}
	t := [2][]complex128{make([]complex128, n), make([]complex128, n)}
	for k := range n {
		sin, cos := math.Sincos(-2 * math.Pi * float64(k) / float64(n))
		t[0][k] = complex(cos, sin)
		sin, cos = math.Sincos(-math.Pi * float64(k) / float64(n))
		t[1][k] = complex(cos, sin)
	}
	turnTables.Store(n, t)
	return t
}

// Powers writes the squared magnitudes of bins 0 to n/2 of two frames of n
// samples to px and py, each of length n/2+1.
func (f *FFT) Powers(x, y, px, py []float64) {
	for i := range f.a {
		f.a[i] = complex(x[i], y[i])
	}
	z := f.transform()
	for k := range f.n/2 + 1 {
		u, v := z[k], z[(f.n-k)&(f.n-1)]
		// u + conj(v) is twice the spectrum of x, u - conj(v) that of iy.
		re, im := real(u)+real(v), imag(u)-imag(v)
		px[k] = (re*re + im*im) / 4
		re, im = real(u)-real(v), imag(u)+imag(v)
		py[k] = (re*re + im*im) / 4
	}
}

// transform is the complex transform of a; the result lies in a or b.
func (f *FFT) transform() []complex128 {
	x, y := f.a, f.b
	n, stride := f.n, 1
	for n >= 4 {
		if stride == 1 {
			f.first(x, y)
		} else {
			f.quarters(x, y, n, stride)
		}
		x, y = y, x
		n, stride = n/4, stride*4
	}
	if n == 2 {
		for q := range stride {
			y[q], y[q+stride] = x[q]+x[q+stride], x[q]-x[q+stride]
		}
		x = y
	}
	return x
}

// first is quarters for the whole as one sequence.
func (f *FFT) first(x, y []complex128) {
	quarter := f.n / 4
	x0, x1, x2, x3 := x[:quarter], x[quarter:][:quarter], x[2*quarter:][:quarter], x[3*quarter:][:quarter]
	turn := f.turn[:3*quarter]
	for p := range x0 {
		out := y[4*p:][:4]
		sum, difference := x0[p]+x2[p], x0[p]-x2[p]
		other, t := x1[p]+x3[p], x1[p]-x3[p]
		turned := complex(-imag(t), real(t)) // i·t
		out[0] = sum + other
		out[1] = turn[p] * (difference - turned)
		out[2] = turn[2*p] * (sum - other)
		out[3] = turn[3*p] * (difference + turned)
	}
}

// quarters is one pass: sequences of length n, stride of them side by side,
// become sequences of a quarter of it.
func (f *FFT) quarters(x, y []complex128, n, stride int) {
	quarter := n / 4
	step := f.n / n
	for p := range quarter {
		w1, w2, w3 := f.turn[p*step], f.turn[2*p*step], f.turn[3*p*step]
		a := x[stride*p : stride*(p+1)]
		b := x[stride*(p+quarter) : stride*(p+quarter+1)][:len(a)]
		c := x[stride*(p+2*quarter) : stride*(p+2*quarter+1)][:len(a)]
		d := x[stride*(p+3*quarter) : stride*(p+3*quarter+1)][:len(a)]
		y0 := y[stride*4*p : stride*(4*p+1)][:len(a)]
		y1 := y[stride*(4*p+1) : stride*(4*p+2)][:len(a)]
		y2 := y[stride*(4*p+2) : stride*(4*p+3)][:len(a)]
		y3 := y[stride*(4*p+3) : stride*(4*p+4)][:len(a)]
		if p == 0 { // nothing is turned
			for q := range a {
				sum, difference := a[q]+c[q], a[q]-c[q]
				other, t := b[q]+d[q], b[q]-d[q]
				turned := complex(-imag(t), real(t)) // i·t
				y0[q], y1[q] = sum+other, difference-turned
				y2[q], y3[q] = sum-other, difference+turned
			}
			continue
		}
		for q := range a {
			sum, difference := a[q]+c[q], a[q]-c[q]
			other, t := b[q]+d[q], b[q]-d[q]
			turned := complex(-imag(t), real(t)) // i·t
			y0[q] = sum + other
			y1[q] = w1 * (difference - turned)
			y2[q] = w2 * (sum - other)
			y3[q] = w3 * (difference + turned)
		}
	}
}

// Real writes the first n bins of the transform of 2n real samples to out:
// even samples are the real, odd ones the imaginary part of a transform of n
// (Press et al., 12.3.2). What x lacks to 2n samples is silence.
func (f *FFT) Real(x []float64, out []complex128) {
	pairs := len(x) / 2
	for i := range pairs {
		f.a[i] = complex(x[2*i], x[2*i+1])
	}
	clear(f.a[pairs:])
	if len(x)%2 == 1 {
		f.a[pairs] = complex(x[len(x)-1], 0)
	}
	z := f.transform()
	for k := range out {
		u, v := z[k], z[(f.n-k)&(f.n-1)]
		even := complex(real(u)+real(v), imag(u)-imag(v))
		odd := complex(imag(u)+imag(v), real(v)-real(u))
		out[k] = 0.5 * (even + f.halfTurn[k]*odd)
	}
}

// Forward writes the n bins of the transform of n samples, which may be complex: out may be x
// itself.
func (f *FFT) Forward(x, out []complex128) {
	copy(f.a, x)
	copy(out, f.transform())
}

// Inverse takes n bins back to n samples, which may be complex: out may be
// bins itself.
func (f *FFT) Inverse(bins, out []complex128) {
	for i, v := range bins {
		f.a[i] = complex(real(v), -imag(v))
	}
	scale := 1 / float64(f.n)
	for i, v := range f.transform() {
		out[i] = complex(scale*real(v), -scale*imag(v))
	}
}
