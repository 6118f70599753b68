package dsp

import "math"

// Kaiser is the Kaiser window at a place from -1 to 1, 0 beyond them: I0(beta·√(1−x²)) /
// I0(beta) (Kaiser 1974, "Nonrecursive digital filter design using the I0-sinh window
// function").
func Kaiser(x, beta float64) float64 {
	if math.Abs(x) >= 1 {
		return 0
	}
	return bessel0(beta*math.Sqrt(1-x*x)) / bessel0(beta)
}

// Sinc is sin(πx) / πx.
func Sinc(x float64) float64 {
	if x == 0 {
		return 1
	}
	return math.Sin(math.Pi*x) / (math.Pi * x)
}

// bessel0 is the modified Bessel function of order 0, by its power series
// (Abramowitz & Stegun 9.6.12).
func bessel0(x float64) float64 {
	sum, term := 1.0, 1.0
	for k := 1.0; term > 1e-14*sum; k++ {
		term *= (x / (2 * k)) * (x / (2 * k))
		sum += term
	}
	return sum
}
