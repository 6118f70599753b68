package mix

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
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
	param.Choice("space", "", "Space", "room", "plate", "hall"),
	percent("low_decay_percent", "Lows decay for", 25, 200, 100),
	percent("diffusion_percent", "Diffusion", 0, 100, 100),
	ms("gate_ms", "Gate, holds for", 0, 2000, 0),
	ms("gate_release_ms", "Gate, lets go in", 5, 1000, 60),
	db("duck_db", "Ducked by the sound", 0, 36, 0),
))

// spaces are how much longer the lines of each space are, by which factor they spread.
var spaces = [3]struct{ longer, spread float64 }{{1, 1}, {0.45, 0.75}, {1.6, 1.1}}

// Below lowSplit the lows have a decay of their own.
const lowSplit = 250.0

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
	rate    float64
	last    []float64 // the numbers it has
	given   [16]float64
	lines   [reverbLines]line
	length  [reverbLines + 1]int // of the lines, and of the pre-delay
	asked   [reverbLines + 1]int // what they shall be
	was     [reverbLines + 1]int // what they were, while they fade
	fade    int                  // frames of the fade to go
	gain    [reverbLines]float64
	damp    [reverbLines]float64
	soft    [reverbLines]float64
	diffuse [2][2]allDelay
	before  line
	cuts    [2][2]dsp.Moving
	width   ramp
	tail    int
	// What comes back is gated after so many frames without a stroke (0: never), and
	// turned down while the sound itself is loud.
	hold, held int
	fall, open float64
	duck       float64
	loud       follower
	lowGain    [reverbLines]float64 // of the lows against the rest, minus 1
	low        [reverbLines]float64
	lowShare   float64
}

// allDelay is an allpass made of a delay line (Schroeder 1962).
type allDelay struct {
	line   line
	frames float64
	gain   float64
}

func (a *allDelay) next(x float64) float64 {
	past := a.line.read(a.frames)
	v := x - a.gain*past
	a.line.write(v)
	return past + a.gain*v
}

func newReverb(rate float64) *Reverb {
	r := &Reverb{rate: rate, before: newLine(int(0.1*rate) + 2)}
	for i := range r.lines {
		r.lines[i] = newLine(int(1.8*reverbMS[i]/1000*rate) + 2)
	}
	for c := range r.diffuse {
		for k := range r.diffuse[c] {
			r.diffuse[c][k] = allDelay{newLine(int(0.006 * rate)), math.Round([2][2]float64{{1.31, 3.73}, {1.57, 4.19}}[c][k] / 1000 * rate), 0.6}
		}
	}
	r.lowShare = 1 - math.Exp(-2*math.Pi*lowSplit/rate)
	r.loud = follower{rise: pole(3, rate), fall: pole(180, rate)}
	r.open = 1
	return r
}

// Tune takes the numbers of its kind. Other lengths are faded to.
func (r *Reverb) Tune(v []float64, glide int) {
	r.width.to(v[6]/100, glide)
	if len(v) > 7 {
		r.hold = int(v[10] / 1000 * r.rate)
		r.fall = pole(v[11]/6.9, r.rate) // by 60 dB in its time
		r.duck = v[12]
		for c := range r.diffuse {
			for k := range r.diffuse[c] {
				r.diffuse[c][k].gain = 0.6 * v[9] / 100
			}
		}
	}
	space, lows := spaces[0], 1.0
	if len(v) > 7 {
		space, lows = spaces[int(v[7])], v[8]/100
	}
	v = append(r.given[:0], v[0], v[1], v[2], v[3], v[4], v[5], v[6], space.longer, lows)
	same := len(r.last) > 0
	for i := range r.last {
		same = same && r.last[i] == v[i]
	}
	if same {
		return
	}
	if r.last == nil {
		r.last = make([]float64, len(v))
	}
	copy(r.last, v)
	decay := v[0] / 1000 * r.rate
	for i := range r.lines {
		place := reverbMS[0] * math.Pow(reverbMS[i]/reverbMS[0], space.spread)
		n := max(int(math.Round(place*space.longer/1000*r.rate*v[1]/100)), 8) | 1
		r.lowGain[i] = math.Pow(10, -3*float64(n)/(decay*lows))/math.Pow(10, -3*float64(n)/decay) - 1
		r.asked[i] = n
		r.gain[i] = math.Pow(10, -3*float64(n)/decay)
		// A one-pole low-pass that leaves at the damping's frequency what a third of
		// the decay leaves.
		high := math.Pow(10, -3*float64(n)/(decay/3))
		r.damp[i] = onePole(high/r.gain[i], v[3], r.rate)
	}
	r.asked[reverbLines] = int(v[2] / 1000 * r.rate)
	if glide == 0 {
		r.length, r.fade = r.asked, 0
	}
	low, high := dsp.HighPass(v[4], math.Sqrt2/2, r.rate), dsp.LowPass(v[5], math.Sqrt2/2, r.rate)
	for c := range 2 {
		r.cuts[c][0].To(low, glide)
		r.cuts[c][1].To(high, glide)
	}
	r.tail = int(2*decay*math.Max(lows, 1)) + r.asked[reverbLines] + int(3.2/v[4]*r.rate)
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
	if r.fade == 0 && r.length != r.asked {
		r.was, r.length, r.fade = r.length, r.asked, delayFade
	}
	for i := range b.Left {
		in := b.Left[i]
		if b.Right != nil {
			in = (in + b.Right[i]) / 2
		}
		dry := in
		old := 0.0 // how much of the lengths that were
		if r.fade > 0 {
			old = eased(float64(r.fade) / delayFade)
			r.fade--
		}
		r.before.write(in)
		in = r.past(&r.before, reverbLines, 1, old)
		var out [reverbLines]float64
		var sum float64
		for k := range r.lines {
			past := r.past(&r.lines[k], k, 0, old)
			r.soft[k] += (past - r.soft[k]) * r.damp[k]
			out[k] = r.soft[k] * r.gain[k]
			if r.lowGain[k] != 0 {
				r.low[k] += (out[k] - r.low[k]) * r.lowShare
				out[k] += r.low[k] * r.lowGain[k]
			}
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
		if r.hold > 0 || r.duck > 0 {
			gain := r.steer(math.Abs(dry))
			left, right = left*gain, right*gain
		}
		if b.Right == nil {
			b.Left[i] = (left + right) / 2
			continue
		}
		b.Left[i], b.Right[i] = left, right
	}
}

// past is what a line holds at its length, and so many frames more; a part of it may be
// what lies at the length that was.
func (r *Reverb) past(l *line, k, more int, old float64) float64 {
	mask := len(l.x) - 1
	x := l.x[(l.at-r.length[k]-more)&mask]
	if old > 0 {
		x += (l.x[(l.at-r.was[k]-more)&mask] - x) * old
	}
	return x
}

// Strokes that lie strikes above where the sound was open the gate anew.
const strikes = 0.02

// steer is the gain of what comes back while the sound itself is at a level.
func (r *Reverb) steer(x float64) float64 {
	loud := r.loud.next(x)
	gain := 1.0
	if r.duck > 0 && loud > 1e-4 {
		// All of it from -12 dBFS on.
		gain = gainOf(-r.duck * math.Min(loud*4, 1))
	}
	if r.hold > 0 {
		switch {
		case x > strikes && x > 0.5*loud:
			r.held, r.open = r.hold, 1
		case r.held > 0:
			r.held--
		default:
			r.open *= r.fall
		}
		gain *= r.open
	}
	return gain
}

// Latency is 0.
func (r *Reverb) Latency() int { return 0 }

// Tail is until it is 120 dB down.
func (r *Reverb) Tail() int { return r.tail }

// Reset forgets the past.
func (r *Reverb) Reset() {
	r.width.end()
	r.length, r.fade = r.asked, 0
	for i := range r.lines {
		r.lines[i].reset()
	}
	r.soft, r.low = [reverbLines]float64{}, [reverbLines]float64{}
	r.held, r.open, r.loud.level = 0, 1, 0
	r.before.reset()
	for c := range 2 {
		for k := range 2 {
			r.diffuse[c][k].line.reset()
			r.cuts[c][k].Reset()
		}
	}
}
