package synth

import (
	"math"

	"jubrak/core/sound"
)

// maxPartials is how many partials metal has at most.
const maxPartials = 12

// metalRatios are the ratios of sound.MetalSets. The plate's are the modes of a
// membrane, as many cymbals have them near enough; a cluster is crowded as thin
// cymbals are; a bell has its hum, prime, tierce, quint and nominal (common practice
// of founders); two tones are a fifth that is not quite one.
var metalRatios = func() (sets [4][maxPartials]float64) {
	for i := range maxPartials {
		sets[0][i] = membraneModes[i].ratio
		n := float64(i)
		sets[1][i] = math.Pow(1+0.347*n, 1.13) * (1 + 0.021*math.Sin(5*n))
	}
	sets[2] = [maxPartials]float64{1, 0.5, 1.2, 1.5, 2, 2.52, 2.67, 3.01, 4.08, 5.3, 6.62, 8.1}
	sets[3] = [maxPartials]float64{1, 1.48, 2.03, 2.96, 3.04, 4.46, 4.05, 5.9, 5.07, 7.4, 6.1, 8.9}
	return sets
}()

// metal is up to twelve tones.
type metal struct {
	phase [maxPartials]float64
	sine  [maxPartials]oscillator
}

func (m *metal) start(n *sound.Metal) {
	for i := range n.Partials {
		m.phase[i] = float64(i) / 6
		m.phase[i] -= math.Floor(m.phase[i])
		sin, cos := math.Sincos(2 * math.Pi * m.phase[i])
		m.sine[i] = oscillator{sin: sin, cos: cos}
	}
}

// run renders the next stride of all.
func (m *metal) run(n *sound.Metal, hz, rate float64, x *[stride]float64) {
	clear(x[:])
	set := &metalRatios[n.Set]
	ringing := n.Ringing / 100
	var first, last, tone [stride]float64
	for k := range n.Partials {
		step := min(hz*set[k]/rate, 0.45)
		if n.Wave == 1 {
			m.sine[k].pitch(step)
			m.sine[k].run(&tone, 1)
		} else {
			m.square(k, step, &tone)
		}
		for i, v := range tone {
			x[i] += v * (1 - ringing)
		}
		if ringing == 0 {
			continue
		}
		if k == 0 {
			first = tone
		} else {
			times(x, &tone, &last, ringing)
		}
		last = tone
	}
	if ringing > 0 {
		times(x, &last, &first, ringing)
	}
	// As loud as six.
	gain := math.Sqrt(6/float64(n.Partials)) / 3
	for i := range x {
		x[i] *= gain
	}
}

// times adds the product of two tones.
func times(x, a, b *[stride]float64, gain float64) {
	for i, v := range a {
		x[i] += v * b[i] * gain
	}
}

// square renders the next stride of one partial.
func (m *metal) square(k int, step float64, x *[stride]float64) {
	phase := m.phase[k]
	for i := 0; i < stride; {
		// Between the edges a square wave is flat.
		flat, level := 0.5-step, 1.0
		if phase >= 0.5 {
			flat, level = 1-step, -1
		}
		if phase >= flat-0.5+2*step && phase < flat {
			n := min(int((flat-phase)/step)+1, stride-i)
			for j := i; j < i+n; j++ {
				x[j] = level
			}
			i += n
			phase += float64(n) * step
		} else {
			x[i] = square(phase, step)
			i++
			phase += step
		}
		if phase >= 1 {
			phase--
		}
	}
	m.phase[k] = phase
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
