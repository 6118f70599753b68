package synth

import "math"

// metalRatios are the first six modes of an ideal circular membrane: zeros
// of Bessel functions over the lowest (Fletcher & Rossing, The Physics of
// Musical Instruments, ch. 3).
var metalRatios = [6]float64{1, 1.594, 2.136, 2.296, 2.653, 2.918}

// metal is six square waves.
type metal struct{ phase, step [6]float64 }

func (m *metal) strike(hz, rate float64) {
	for i, ratio := range metalRatios {
		m.phase[i] = float64(i) / 6
		m.step[i] = math.Min(hz*ratio/rate, 0.45)
	}
}

// run adds the next stride of all to x.
func (m *metal) run(x *[stride]float64) {
	for k := range m.phase {
		phase, step := m.phase[k], m.step[k]
		for i := 0; i < stride; {
			// Between the edges a square wave is flat.
			flat, level := 0.5-step, 1.0
			if phase >= 0.5 {
				flat, level = 1-step, -1
			}
			if phase >= flat-0.5+2*step && phase < flat {
				n := min(int((flat-phase)/step)+1, stride-i)
				for j := i; j < i+n; j++ {
					x[j] += level
				}
				i += n
				phase += float64(n) * step
			} else {
				x[i] += square(phase, step)
				i++
				phase += step
			}
			if phase >= 1 {
				phase--
			}
		}
		m.phase[k] = phase
	}
}

// square is a band-limited square wave: steps smoothed by a two-sample
// polynomial (Välimäki & Huovilainen 2007, IEEE Signal Process. Mag. 24(2)).
func square(phase, step float64) float64 {
	v := -1.0
	if phase < 0.5 {
		v = 1
	}
	v += polyStep(phase, step)
	half := phase + 0.5
	if half >= 1 {
		half--
	}
	return v - polyStep(half, step)
}

func polyStep(phase, step float64) float64 {
	if phase < step {
		t := phase / step
		return t + t - t*t - 1
	}
	if phase > 1-step {
		t := (phase - 1) / step
		return t*t + t + t + 1
	}
	return 0
}
