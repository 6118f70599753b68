package mix

import (
	"math"

	"jubrak/core/dsp"
)

// A room is added to a sound; it does not take its place unless that is asked for.
var reverbKind = beside(20, kind("reverb", "Reverb", func(rate float64) Tuned { return newReverb(rate) },
	ms("decay_ms", "Decay", 50, 10000, 400),
	percent("size_percent", "Size", 10, 100, 40),
	ms("predelay_ms", "Pre-delay", 0, 100, 0),
	hz("damping_hz", "Damping", 500, 20000, 6000),
	hz("low_cut_hz", "Low cut", 20, 2000, 200),
	hz("high_cut_hz", "High cut", 500, 20000, 12000),
	percent("width_percent", "Width", 0, 100, 100),
))

// reverbLines is how many delay lines the network has.
const reverbLines = 8

// reverbMS are their lengths at full size: spread evenly in their logarithm and
// without common factors once they are whole frames.
var reverbMS = [reverbLines]float64{31.7, 36.3, 41.1, 46.9, 53.3, 60.1, 68.3, 77.9}

// Reverb is a room: a network of eight delay lines that feed each other through a
// Householder matrix. What each line loses in a round makes the whole fall by 60
// dB in the decay; highs above the damping fall in a third of it (Jot & Chaigne
// 1991, 90th AES Convention, 3030).
type Reverb struct {
	rate     float64
	last     []float64 // the numbers it has
	lines    [reverbLines]line
	length   [reverbLines]int
	gain     [reverbLines]float64
	damp     [reverbLines]float64
	soft     [reverbLines]float64
	diffuse  [2][2]allDelay
	before   line
	predelay int
	cuts     [2][2]dsp.Biquad
	width    ramp
	tail     int
}

// allDelay is an allpass made of a delay line (Schroeder 1962).
type allDelay struct {
	line   line
	frames float64
}

func (a *allDelay) next(x float64) float64 {
	const gain = 0.6
	past := a.line.read(a.frames)
	v := x - gain*past
	a.line.write(v)
	return past + gain*v
}

func newReverb(rate float64) *Reverb {
	r := &Reverb{rate: rate, before: newLine(int(0.1*rate) + 2)}
	for i := range r.lines {
		r.lines[i] = newLine(int(reverbMS[i]/1000*rate) + 2)
	}
	for c := range r.diffuse {
		for k := range r.diffuse[c] {
			r.diffuse[c][k] = allDelay{newLine(int(0.006 * rate)), math.Round([2][2]float64{{1.31, 3.73}, {1.57, 4.19}}[c][k] / 1000 * rate)}
		}
	}
	return r
}

// Tune takes the numbers of its kind; all but the width jump.
func (r *Reverb) Tune(v []float64, glide int) {
	r.width.to(v[6]/100, glide)
	same := len(r.last) > 0
	for i := range r.last {
		same = same && r.last[i] == v[i]
	}
	if same {
		return
	}
	if r.last == nil {
		r.last = make([]float64, 6)
	}
	copy(r.last, v[:6])
	decay := v[0] / 1000 * r.rate
	for i := range r.lines {
		n := max(int(math.Round(reverbMS[i]/1000*r.rate*v[1]/100)), 8) | 1
		r.length[i] = n
		r.gain[i] = math.Pow(10, -3*float64(n)/decay)
		// A one-pole low-pass that leaves at the damping's frequency what a third of
		// the decay leaves.
		high := math.Pow(10, -3*float64(n)/(decay/3))
		r.damp[i] = onePole(high/r.gain[i], v[3], r.rate)
	}
	r.predelay = int(v[2] / 1000 * r.rate)
	low, high := dsp.HighPass(v[4], math.Sqrt2/2, r.rate), dsp.LowPass(v[5], math.Sqrt2/2, r.rate)
	for c := range 2 {
		r.cuts[c][0].Take(low)
		r.cuts[c][1].Take(high)
	}
	r.tail = 2*int(decay) + r.predelay + int(3.2/v[4]*r.rate)
}

// onePole is the share a that makes y += a·(x − y) have the magnitude m at hz.
func onePole(m, hz, rate float64) float64 {
	if hz >= 20000 {
		return 1
	}
	// m² = a² / (a² + 2(1−a)(1−cos w)) solved for a.
	cos := math.Cos(2 * math.Pi * math.Min(hz, 0.45*rate) / rate)
	m2 := math.Min(m*m, 0.9999)
	p := 1 - m2
	q := 2 * m2 * (1 - cos)
	return (-q + math.Sqrt(q*q+4*p*q)) / (2 * p)
}

// Process reverberates; only what comes back is heard, and the mix of the step
// adds the sound itself.
func (r *Reverb) Process(b Block, _ []float64) {
	for i := range b.Left {
		in := b.Left[i]
		if b.Right != nil {
			in = (in + b.Right[i]) / 2
		}
		if r.predelay > 0 {
			r.before.write(in)
			in = r.before.read(float64(r.predelay) + 1)
		}
		var out [reverbLines]float64
		var sum float64
		for k := range r.lines {
			past := r.lines[k].read(float64(r.length[k]))
			r.soft[k] += (past - r.soft[k]) * r.damp[k]
			out[k] = r.soft[k] * r.gain[k]
			sum += out[k]
		}
		sum *= 2.0 / reverbLines
		for k := range r.lines {
			sign := 1.0
			if k&1 == 1 {
				sign = -1
			}
			r.lines[k].write(out[k] - sum + in*sign)
		}
		left := out[0] + out[2] - out[4] + out[6]
		right := out[1] - out[3] + out[5] + out[7]
		left = r.diffuse[0][1].next(r.diffuse[0][0].next(left * 0.6))
		right = r.diffuse[1][1].next(r.diffuse[1][0].next(right * 0.6))
		mid, side := (left+right)/2, (left-right)/2*r.width.next()
		left, right = mid+side, mid-side
		left = r.cuts[0][1].Next(r.cuts[0][0].Next(left))
		right = r.cuts[1][1].Next(r.cuts[1][0].Next(right))
		if b.Right == nil {
			b.Left[i] = (left + right) / 2
			continue
		}
		b.Left[i], b.Right[i] = left, right
	}
}

// Latency is 0.
func (r *Reverb) Latency() int { return 0 }

// Tail is until it is 120 dB down.
func (r *Reverb) Tail() int { return r.tail }

// Reset forgets the past.
func (r *Reverb) Reset() {
	r.width.end()
	for i := range r.lines {
		r.lines[i].reset()
	}
	r.soft = [reverbLines]float64{}
	r.before.reset()
	for c := range 2 {
		for k := range 2 {
			r.diffuse[c][k].line.reset()
			r.cuts[c][k].Reset()
		}
	}
}
