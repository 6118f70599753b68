package dsp

import (
	"math"
	"math/cmplx"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// analogue is the response of the cookbook's analogue prototypes (Audio EQ Cookbook, W3C
// Note 2021) at x times the corner, dB.
func analogue(shape string, q, gain, x float64) float64 {
	a := math.Pow(10, gain/40)
	s, one, by := complex(0, x), complex(1, 0), complex(a, 0)
	root := complex(math.Sqrt(a)/q, 0)
	var h complex128
	switch shape {
	case "bell":
		h = (s*s + s*complex(a/q, 0) + one) / (s*s + s*complex(1/(a*q), 0) + one)
	case "low shelf":
		h = by * (s*s + s*root + by) / (by*s*s + s*root + one)
	default:
		h = by * (by*s*s + s*root + one) / (s*s + s*root + by)
	}
	return 20 * math.Log10(cmplx.Abs(h))
}

var designs = map[string]func(hz, q, gain, rate float64) Biquad{"bell": Bell, "low shelf": LowShelf, "high shelf": HighShelf}

// farthest is how far a shape is from its prototype, from 20 Hz to 20 kHz, for some
// corners and qualities.
func farthest(shape string, gain float64, corners, qualities []float64) float64 {
	worst := 0.0
	for _, q := range qualities {
		for _, corner := range corners {
			f := designs[shape](corner, q, gain, rate)
			for hz := 20.0; hz <= 20000; hz *= 1.02 {
				worst = math.Max(worst, math.Abs(20*math.Log10(f.Magnitude(hz, rate))-analogue(shape, q, gain, hz/corner)))
			}
		}
	}
	return worst
}

// Published: Vicanek 2016; asked for are bells to 16 kHz, up to 12 dB, of a quality of 0.3 to
// 4, within 0.7 dB of the analogue curve.
func TestBandsFollowTheAnalogueCurve(t *testing.T) {
	corners := []float64{20, 100, 1000, 4000, 8000, 10000, 12000, 14000, 16000}
	for _, gain := range []float64{-12, -6, -1, 1, 6, 12} {
		assert.Less(t, farthest("bell", gain, corners, []float64{0.3, 0.5, 0.71, 1, 1.5, 2, 4}), 0.7, "bells of %g dB", gain)
		for _, shelf := range []string{"low shelf", "high shelf"} {
			assert.Less(t, farthest(shelf, gain, corners, []float64{0.3, 0.5, 0.71, 1}), 0.7, "%s of %g dB", shelf, gain)
		}
	}
	// What was read of the bilinear transform: 1.8 dB where the analogue bell has 4.
	f := Bell(16000, 1, 12, rate)
	assert.InDelta(t, 4.0, 20*math.Log10(f.Magnitude(8000, rate)), 0.5)
	t.Logf("outside that: bells of 24 dB %.1f dB, at 20 kHz %.1f dB; shelves of a quality up to 4 %.1f dB",
		farthest("bell", 24, corners, []float64{0.3, 1, 4, 20}), farthest("bell", 12, []float64{20000}, []float64{0.3, 1, 4}), farthest("high shelf", 12, corners, []float64{2, 4}))
}

// Whatever is asked for, a band is stable, and a cut undoes its boost.
func TestBandsAreStableAndUndone(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		hz := 20 * math.Pow(1000, rapid.Float64Range(0, 1).Draw(r, "hz"))
		q := 0.2 * math.Pow(100, rapid.Float64Range(0, 1).Draw(r, "q"))
		gain := rapid.Float64Range(-24, 24).Draw(r, "gain")
		for shape, design := range designs {
			f, back := design(hz, q, gain, rate), design(hz, q, -gain, rate)
			for _, c := range []Biquad{f, back} {
				require.True(r, math.Abs(c.A2) < 1 && math.Abs(c.A1) < 1+c.A2, "%s at %g Hz, Q %g, %g dB is stable", shape, hz, q, gain)
			}
			x := make([]float64, 400)
			x[0] = 1
			f.Run(x)
			back.Run(x)
			require.InDelta(r, 1, x[0], 1e-6)
			for _, v := range x[1:] {
				require.InDelta(r, 0, v, 1e-6, "%s at %g Hz, Q %g, %g dB is undone", shape, hz, q, gain)
			}
		}
	})
}
