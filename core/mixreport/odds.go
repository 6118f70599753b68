package mixreport

import "math"

// Odds are the chances that one who only guesses names at least so many of n pairs right.
func Odds(right, n int) float64 {
	p := 0.0
	for k := max(right, 0); k <= n; k++ {
		a, _ := math.Lgamma(float64(n + 1))
		b, _ := math.Lgamma(float64(k + 1))
		c, _ := math.Lgamma(float64(n - k + 1))
		p += math.Exp(a - b - c - float64(n)*math.Ln2)
	}
	return math.Min(p, 1)
}
