package measure

// Onset is the first instant at which the energy of a drum, as a mean over
// 1 ms, comes within 20 dB of its own peak: the frame at the middle of that
// millisecond. Before the sound is silence. It returns 0 for silence.
func Onset(x []float64, rate int) int {
	w := max(rate/1000, 1)
	var sum, peak float64
	energy := make([]float64, len(x))
	for i, v := range x {
		sum += v * v
		if i >= w {
			sum -= x[i-w] * x[i-w]
		}
		energy[i] = sum
		peak = max(peak, sum)
	}
	for i, e := range energy {
		if peak > 0 && e >= peak/100 {
			return max(i-w/2, 0)
		}
	}
	return 0
}
