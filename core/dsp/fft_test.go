package dsp

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/dsp/fourier"
	"pgregory.net/rapid"
)

// Library: gonum's transform.
func TestPowersAreThoseOfGonum(t *testing.T) {
	for _, n := range []int{4, 8, 16, 32, 1024, 2048, 8192} {
		f, peer := NewFFT(n), fourier.NewFFT(n)
		rapid.Check(t, func(r *rapid.T) {
			frames := [2][]float64{make([]float64, n), make([]float64, n)}
			seed := rapid.Uint64().Draw(r, "seed")
			noise := NewNoise(seed)
			for _, x := range frames {
				for i := range x {
					x[i] = noise.Next()
				}
			}
			px, py := make([]float64, n/2+1), make([]float64, n/2+1)
			f.Powers(frames[0], frames[1], px, py)
			for i, p := range [2][]float64{px, py} {
				for k, c := range peer.Coefficients(nil, frames[i]) {
					require.InDelta(r, real(c)*real(c)+imag(c)*imag(c), p[k], 1e-9*float64(n), "bin %d of %d", k, n)
				}
			}
		})
	}
}

// Derivation: a sine on a bin has all its power there, n²/4.
func TestASineOnABin(t *testing.T) {
	const n = 1024
	x, silence := make([]float64, n), make([]float64, n)
	for i := range x {
		x[i] = math.Sin(2 * math.Pi * 100 * float64(i) / n)
	}
	px, py := make([]float64, n/2+1), make([]float64, n/2+1)
	f := NewFFT(n)
	f.Powers(x, silence, px, py)
	assert.InDelta(t, n*n/4, px[100], 1e-6)
	px[100] = 0
	for k := range px {
		require.InDelta(t, 0, px[k], 1e-6)
		require.InDelta(t, 0, py[k], 1e-6, "the other frame is silent")
	}
	assert.Zero(t, testing.AllocsPerRun(10, func() { f.Powers(x, silence, px, py) }))
	assert.Panics(t, func() { NewFFT(1000) })
}

// Library: gonum's transforms; and there and back is where it was.
func TestRealAndInverse(t *testing.T) {
	for _, n := range []int{4, 8, 256, 1024} {
		f, peer, complexPeer := NewFFT(n), fourier.NewFFT(2*n), fourier.NewCmplxFFT(n)
		rapid.Check(t, func(r *rapid.T) {
			noise := NewNoise(rapid.Uint64().Draw(r, "seed"))
			x := make([]float64, rapid.IntRange(1, 2*n).Draw(r, "length"))
			for i := range x {
				x[i] = noise.Next()
			}
			bins := make([]complex128, n)
			f.Real(x, bins)
			for k, c := range peer.Coefficients(nil, append(x, make([]float64, 2*n-len(x))...))[:n] {
				require.InDelta(r, real(c), real(bins[k]), 1e-9*float64(n))
				require.InDelta(r, imag(c), imag(bins[k]), 1e-9*float64(n))
			}
			back := make([]complex128, n)
			f.Inverse(bins, back)
			for k, c := range complexPeer.Coefficients(nil, back) {
				require.InDelta(r, real(bins[k]), real(c), 1e-9*float64(n))
				require.InDelta(r, imag(bins[k]), imag(c), 1e-9*float64(n))
			}
		})
	}
}

func BenchmarkPowers(b *testing.B) {
	const n = 1024
	x, px, py := make([]float64, n), make([]float64, n/2+1), make([]float64, n/2+1)
	noise := NewNoise(1)
	for i := range x {
		x[i] = noise.Next()
	}
	b.Run("ours, two frames", func(b *testing.B) {
		f := NewFFT(n)
		for b.Loop() {
			f.Powers(x, x, px, py)
		}
	})
	b.Run("gonum, two frames", func(b *testing.B) {
		f, c := fourier.NewFFT(n), make([]complex128, n/2+1)
		for b.Loop() {
			for range 2 {
				for k, v := range f.Coefficients(c, x) {
					px[k] = real(v)*real(v) + imag(v)*imag(v)
				}
			}
		}
	})
}
