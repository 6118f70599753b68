package fit

import "gonum.org/v1/gonum/mat"

// solve is the solution of a small symmetric system; zeros where it has none.
func solve(a [][]float64, b []float64) []float64 {
	n := len(b)
	m, v, x := mat.NewDense(n, n, nil), mat.NewVecDense(n, b), mat.NewVecDense(n, nil)
	for i := range a {
		m.SetRow(i, a[i])
	}
	if err := x.SolveVec(m, v); err != nil {
		return make([]float64, n)
	}
	return x.RawVector().Data
}
