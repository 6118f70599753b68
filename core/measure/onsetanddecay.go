package measure

import (
	"math"
)

// Offset is the constant that a recording is shifted by (its DC offset), linear;
// 0 where it cannot be known from the sound. It is read from the quietest
// stretches of 100 ms, under a Hann window, whose first null lies at 20 Hz: there
// an offset stands out, and a low drum does not pass for one.
func Offset(x []float64, rate int) float64 {
	w := min(rate/10, len(x))
	if w < 16 {
		return 0
	}
	window := make([]float64, w)
	var norm float64
	for i := range window {
		window[i] = 0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/float64(w))
		norm += window[i]
	}
	var sum, weights float64
	quietest := math.Inf(1)
	for from := 0; from+w <= len(x); from += max(w/2, 1) {
		var mean, power float64
		for i, g := range window {
			mean += g * x[from+i] / norm
		}
		for i, g := range window {
			d := x[from+i] - mean
			power += g * d * d / norm
		}
		quietest = math.Min(quietest, power)
		weight := 1 / (power + 1e-14)
		sum, weights = sum+weight*mean, weights+weight
	}
	dc := sum / weights
	if math.Abs(dc) < 1e-7 || math.Abs(dc) < 0.1*math.Sqrt(quietest) {
		return 0
	}
	return dc
}

// Attack is the time in which the running maximum of the wave goes from 10
// to 90 % of its peak, ms; nil of silence.
func Attack(x []float64, rate int) *float64 {
	var peak float64
	for _, v := range x {
		peak = math.Max(peak, math.Abs(v))
	}
	from, to, run := -1, -1, 0.0
	for i, v := range x {
		run = math.Max(run, math.Abs(v))
		if from < 0 && run >= 0.1*peak {
			from = i
		}
		if run >= 0.9*peak {
			to = i
			break
		}
	}
	if from < 0 || to < 0 {
		return nil
	}
	return ptr(float64(to-from) / float64(rate) * 1000)
}

// decay integrates the squared signal backwards from its end to its peak and
// fits a line to the fall (Schroeder 1965; ISO 3382-1): from -5 to -35 dB
// where the fall goes that far, else to -25. The result is the time in which
// that line falls 60 dB.
func decay(x []float64, rate int) (ms *float64, used *string) {
	top := 0
	for i, v := range x {
		if math.Abs(v) > math.Abs(x[top]) {
			top = i
		}
	}
	tail := x[top:]
	sum := make([]float64, len(tail)+1)
	for i := len(tail) - 1; i >= 0; i-- {
		sum[i] = sum[i+1] + tail[i]*tail[i]
	}
	if sum[0] == 0 {
		return nil, nil
	}
	for _, low := range []float64{-35, -25} {
		var n, sx, sy, sxx, sxy float64
		reached := false
		for i := range tail {
			db := 10 * math.Log10(sum[i]/sum[0])
			if db < low {
				reached = true
				break
			}
			if db <= -5 {
				t := float64(i) / float64(rate)
				n, sx, sy, sxx, sxy = n+1, sx+t, sy+db, sxx+t*t, sxy+t*db
			}
		}
		if slope := (n*sxy - sx*sy) / (n*sxx - sx*sx); reached && n > 8 && slope < 0 {
			text := map[float64]string{-35: "-5..-35 dB", -25: "-5..-25 dB"}[low]
			return ptr(-60 / slope * 1000), &text
		}
	}
	return nil, nil
}
