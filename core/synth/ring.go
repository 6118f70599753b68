package synth

import (
	"math"
	"slices"

	"jubrak/core/dsp"
	"jubrak/core/sound"
)

// maxModes is how many modes a ring has at most.
const maxModes = 12

// mode is one way of a thing to ring: its frequency over the lowest, and how loud
// it is where it is struck.
type mode struct {
	ratio float64
	at    func(strike float64) float64
}

// membraneModes are the lowest modes of an ideal circular membrane: zeros of Bessel
// functions over the lowest (Fletcher & Rossing, The Physics of Musical
// Instruments, ch. 3). A stroke at a radius excites a mode as much as the mode
// moves there, by its own norm.
var membraneModes = func() []mode {
	type zero struct {
		m int
		j float64
	}
	var zeros []zero
	for m := range 8 {
		before := math.Jn(m, 0.5)
		for x := 0.5; x < 16; x += 0.01 {
			if here := math.Jn(m, x); here*before < 0 {
				lo, hi := x-0.01, x
				for range 60 {
					mid := (lo + hi) / 2
					if math.Jn(m, lo)*math.Jn(m, mid) <= 0 {
						hi = mid
					} else {
						lo = mid
					}
				}
				zeros = append(zeros, zero{m, lo})
				before = here
			} else if here != 0 {
				before = here
			}
		}
	}
	slices.SortFunc(zeros, func(a, b zero) int { return int(math.Copysign(1, a.j-b.j)) })
	modes := make([]mode, maxModes)
	for i := range modes {
		z := zeros[i]
		norm := math.Abs(math.Jn(z.m+1, z.j))
		modes[i] = mode{z.j / zeros[0].j, func(strike float64) float64 {
			return math.Jn(z.m, z.j*strike*0.95) / norm
		}}
	}
	return modes
}()

// barModes are those of a bar with free ends: cosh(x)·cos(x) = 1 (Fletcher &
// Rossing, ch. 2). A strike of 0 is at its end, of 1 in its middle.
var barModes = func() []mode {
	modes := make([]mode, maxModes)
	var first float64
	for i := range modes {
		x := (float64(i) + 1.5) * math.Pi
		for range 20 { // cos x = 1/cosh x, by Newton
			f := math.Cos(x) - 1/math.Cosh(x)
			x -= f / (-math.Sin(x) + math.Tanh(x)/math.Cosh(x))
		}
		if i == 0 {
			first = x
		}
		modes[i] = mode{x * x / (first * first), func(strike float64) float64 {
			at := x * strike / 2
			sigma := (math.Cosh(x) - math.Cos(x)) / (math.Sinh(x) - math.Sin(x))
			// cosh − σ·sinh without the difference of large numbers.
			fall := math.Exp(-at) + (1-sigma)*math.Sinh(at)
			return (fall + math.Cos(at) - sigma*math.Sin(at)) / 2
		}}
	}
	return modes
}()

// ring is the running state of what rings.
type ring struct {
	re, im [maxModes]float64
	gain   [maxModes]float64
	loss   [maxModes]float64 // a sample
	ratio  [maxModes]float64
	count  int
	wires  dsp.Noise
	rattle dsp.Biquad
	fall   dsp.Fall
}

func (g *ring) start(n *sound.Ring, seed uint64, rate float64) {
	of := membraneModes
	if n.Kind == 1 {
		of = barModes
	}
	g.count = n.Modes
	var sum float64
	for k := range g.count {
		g.re[k], g.im[k] = 1, 0
		g.ratio[k] = of[k].ratio
		g.gain[k] = of[k].at(n.Strike / 100)
		sum += math.Abs(g.gain[k])
		decay := n.Decay / (1 + n.Damping/100*2*(of[k].ratio-1))
		g.loss[k] = math.Pow(10, -3/(decay/1000*rate))
	}
	for k := range g.count {
		g.gain[k] /= max(sum, 1e-6)
	}
	if n.Wires > sound.Silent {
		g.wires = dsp.NewNoise(seed)
		g.rattle = dsp.BandPass(4200, 2.6, rate)
		g.fall = dsp.NewFall(1, max(0.55*n.Decay, 60), rate)
	}
}

// turn is how a mode goes on in a frame, and how loud it is: not at all beyond the
// modes that there are, or beyond what can be heard.
func (g *ring) turn(k int, step float64) (sin, cos, gain float64) {
	if k >= g.count || step*g.ratio[k] >= 0.45 {
		return 0, 0, 0
	}
	sin, cos = math.Sincos(2 * math.Pi * step * g.ratio[k])
	return sin * g.loss[k], cos * g.loss[k], g.gain[k]
}

// run renders the next stride of all modes, and the wires. hz is the lowest
// mode's pitch.
func (g *ring) run(n *sound.Ring, hz, rate float64, x *[stride]float64) {
	clear(x[:])
	// Two modes at a time, so that neither waits for itself.
	for k := 0; k < g.count; k += 2 {
		sin, cos, gain := g.turn(k, hz/rate)
		sin2, cos2, gain2 := g.turn(k+1, hz/rate)
		re, im, re2, im2 := g.re[k], g.im[k], g.re[k+1], g.im[k+1]
		for i := range x {
			x[i] += im*gain + im2*gain2
			re, im = re*cos-im*sin, re*sin+im*cos
			re2, im2 = re2*cos2-im2*sin2, re2*sin2+im2*cos2
		}
		g.re[k], g.im[k], g.re[k+1], g.im[k+1] = re, im, re2, im2
	}
	if n.Wires > sound.Silent {
		var part [stride]float64
		g.wires.Run(part[:])
		g.rattle.Run(part[:])
		g.fall.Times(part[:])
		add(x, &part, 1.4*math.Pow(10, n.Wires/20), 1.4*math.Pow(10, n.Wires/20))
	}
}
