package synth

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/sound"
)

// noise is the running state of the noise part.
type noise struct {
	white  dsp.Noise
	pink   [7]float64
	brown  float64
	wait   int // velvet: frames until the next impulse
	buzz   [3]float64
	phase  float64 // between two values of the noise, where it is read slower
	last   float64
	next   float64
	at     float64 // of a sample
	filter dsp.Biquad
	of     [2]float64 // colour and width that filter is for
	gain   float64
	fall   dsp.Fall
	bursts bursts
	burst  int // the one that sounds
	level  float64
}

// velvetDensity is how many impulses a second velvet noise has (Karjalainen &
// Järvinen 2007, 30th AES Conference: 2000 and more sound smooth).
const velvetDensity = 2200

func (p *noise) start(seed uint64) {
	*p = noise{white: dsp.NewNoise(seed), phase: 1}
	for i := range p.buzz {
		p.buzz[i] = dsp.Uniform(dsp.Key(seed, uint64(i)+7))
	}
}

// colour makes the filter ready for the present numbers.
func (p *noise) colour(n *sound.Noise, rate float64) {
	if p.of == [2]float64{n.Colour, n.Width} {
		return
	}
	p.of = [2]float64{n.Colour, n.Width}
	switch n.Filter {
	case 1:
		p.filter.Take(dsp.LowPass(n.Colour, max(2/n.Width, 0.5), rate))
	case 2:
		p.filter.Take(dsp.HighPass(n.Colour, max(2/n.Width, 0.5), rate))
	default:
		p.filter.Take(dsp.BandPass(n.Colour, n.Width, rate))
	}
	// The narrower the band the less of the noise passes; the gain makes up for it
	// so that Width is a colour, not a fader.
	p.gain = 1
	if n.Filter == 0 {
		p.gain = min(math.Sqrt(0.5*rate/n.Colour/max(n.Width, 0.1)), 9)
	}
}

// run renders the next stride, filtered.
func (p *noise) run(n *sound.Noise, sample *material, rate float64, x *[stride]float64) {
	p.colour(n, rate)
	step := 1.0
	if n.Pitch != 0 {
		step = math.Exp2(n.Pitch / 12)
	}
	switch {
	case n.Kind == sound.NoiseFromSample:
		p.sample(n, sample, step, x)
	case step == 1:
		for i := range x {
			x[i] = p.raw(n.Kind, rate)
		}
	default:
		for i := range x {
			for p.phase += step; p.phase >= 1; p.phase-- {
				p.last, p.next = p.next, p.raw(n.Kind, rate)
			}
			x[i] = p.last + (p.next-p.last)*p.phase
		}
	}
	p.filter.Run(x[:])
	for i := range x {
		x[i] *= p.gain
	}
}

func (p *noise) sample(n *sound.Noise, of *material, step float64, x *[stride]float64) {
	clear(x[:])
	if of == nil {
		return
	}
	read(of.x, p.at, step, x)
	p.at += stride * step
	if n.Loop && p.at >= float64(len(of.x[0]))-stride*step {
		p.at = 0
	}
}

// raw is the next value of a kind of noise, all of the power of white noise.
func (p *noise) raw(kind int, rate float64) float64 {
	switch kind {
	case 1:
		return p.pinkNext(p.white.Next())
	case 2:
		// A random walk that leaks: 6 dB an octave from 20 Hz up.
		p.brown += 0.0026*p.white.Next()*10 - p.brown*0.0026
		return p.brown * 2.9
	case 3:
		if p.wait--; p.wait <= 0 {
			p.wait = 1 + int(2*rate/velvetDensity*(p.white.Next()/2+0.5))
			return math.Copysign(2.6, p.white.Next())
		}
		return 0
	case 4:
		// Noise that three inharmonic squares turn on and off: a metallic hiss.
		v := p.white.Next()
		for i, hz := range [3]float64{3170, 5270, 7390} {
			if p.buzz[i] += hz / rate; p.buzz[i] >= 1 {
				p.buzz[i]--
			}
			if p.buzz[i] < 0.5 {
				v = -v * 0.8
			}
		}
		return v * 1.3
	}
	return p.white.Next()
}

// pinkNext filters white noise to 3 dB an octave, within 0.3 dB from 20 Hz to 20
// kHz: first-order sections in parallel, evenly spread in the logarithm (the
// method of Corsini & Saletti 1988, IEEE Trans. Instrum. Meas. 37:627).
func (p *noise) pinkNext(w float64) float64 {
	sum := 0.0
	for i := range p.pink {
		a := pinkPoles[i]
		p.pink[i] = a*p.pink[i] + (1-a)*w*pinkGains[i]
		sum += p.pink[i]
	}
	return sum + 0.11*w
}

var pinkPoles, pinkGains = func() (poles, gains [7]float64) {
	for i := range poles {
		hz := 12 * math.Pow(3.6, float64(i))
		poles[i] = math.Exp(-2 * math.Pi * hz / 48000)
		gains[i] = 5.4 * math.Sqrt(12/hz)
	}
	return poles, gains
}()

// bursts are when the noise is struck, frames after the stroke, in order, and how loud.
type bursts struct {
	at    [sound.MaxBursts]int
	level [sound.MaxBursts]float64 // dB beside the noise's own
}

// burstsOf are the bursts of a stroke: the same on every hit but for what the noise lets
// vary, which the seed draws.
func burstsOf(n *sound.Noise, seed uint64, rate float64) (out bursts) {
	draw := func(i int, what uint64) float64 { return dsp.Uniform(dsp.Key(seed, uint64(i), what)) - 0.5 }
	for i := range n.Bursts {
		out.level[i] = n.BurstStep*float64(i-n.Bursts+1) + n.Each[i].Level + 12*draw(i, 1)*n.Vary/100
		if i == 0 {
			continue
		}
		off := (dsp.Uniform(dsp.Key(uint64(i), 31))-0.5)*n.Uneven/100 + draw(i, 2)*n.Vary/100
		ms := (float64(i)+off)*n.Spacing + n.Each[i].Shift
		out.at[i] = max(int(ms/1000*rate), out.at[i-1]+1)
	}
	return out
}

// shape gives the stride its level: one fall, or a row of bursts.
func (p *noise) shape(n *sound.Noise, age int, rate float64, x *[stride]float64) {
	if n.Bursts <= 1 {
		p.fall.Times(x[:])
		return
	}
	for i := 0; i < stride; {
		until := stride
		if next := p.burst + 1; next < n.Bursts {
			if ahead := p.bursts.at[next] - age; ahead <= i {
				p.burst = next
				p.begin(n, rate)
				continue
			} else if ahead < stride {
				until = ahead
			}
		}
		part := x[i:until]
		p.fall.Times(part)
		for k := range part {
			part[k] *= p.level
		}
		i = until
	}
}

// begin strikes the present burst.
func (p *noise) begin(n *sound.Noise, rate float64) {
	p.level = math.Pow(10, p.bursts.level[p.burst]/20)
	decay := n.BurstDecay * 3 // its 60 dB; at 20 dB a burst is over
	if p.burst == n.Bursts-1 {
		decay = n.Decay
	}
	p.fall = dsp.NewHeldFall(n.Attack, n.Hold, decay, rate)
}

// burstTail is by how much bursts make the noise last longer, ms.
func burstTail(n *sound.Noise) float64 {
	if n.Bursts <= 1 {
		return 0
	}
	most := 0.0
	for _, b := range n.Each {
		most = max(most, b.Shift)
	}
	return float64(n.Bursts)*n.Spacing + most
}
