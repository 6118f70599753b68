package groove

// Spread reports on which of so many steps strokes fall that are spread as evenly as can
// be, the first on step 0: Bjorklund's algorithm, by which groups that are left over
// are dealt out to the others until at most one is left (Toussaint, The Euclidean
// algorithm generates traditional musical rhythms, BRIDGES 2005).
func Spread(strokes, steps int) []bool {
	out := make([]bool, 0, steps)
	if strokes <= 0 {
		return make([]bool, steps)
	}
	heads, tails := make([][]bool, strokes), make([][]bool, steps-strokes)
	for i := range heads {
		heads[i] = []bool{true}
	}
	for i := range tails {
		tails[i] = []bool{false}
	}
	for len(tails) > 1 {
		n := min(len(heads), len(tails))
		rest := append(append([][]bool{}, heads[n:]...), tails[n:]...)
		for i := range n {
			heads[i] = append(append([]bool{}, heads[i]...), tails[i]...)
		}
		heads, tails = heads[:n], rest
	}
	for _, group := range append(heads, tails...) {
		out = append(out, group...)
	}
	return out
}
