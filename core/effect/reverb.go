package effect

import (
	"fmt"
	"math"
	"strings"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "reverb", Label: "Reverb", Group: Space, Order: 1, Hint: "A room, a plate or a hall", Short: "{space} {decay_ms}", Mixed: 20,
	Picture: Levels, Room: true,
	Params: []param.Param{
		param.Milliseconds("decay_ms", "Decay", 50, 10000, 400),
		param.Percent("size_percent", "Size", 10, 100, 40),
		param.Milliseconds("predelay_ms", "Pre-delay", 0, 100, 0),
		param.Hertz("damping_hz", "Damping", 500, 20000, 6000),
		param.Hertz("low_cut_hz", "Low cut", 20, 2000, 200),
		param.Hertz("high_cut_hz", "High cut", 500, 20000, 12000),
		param.Percent("width_percent", "Width", 0, 100, 100),
		param.Choice("space", "", "Space", "room", "plate", "hall"),
		param.Percent("low_decay_percent", "Low decay", 25, 200, 100),
		param.Percent("diffusion_percent", "Diffusion", 0, 100, 100),
		hint(param.Milliseconds("gate_ms", "Gate hold", 0, 2000, 0), "It rings so long after each hit and is then cut off; 0 is no gate"),
		unless(param.Milliseconds("gate_release_ms", "Gate release", 5, 1000, 60), "gate_ms", 0),
		hint(param.Decibels("duck_db", "Ducking", 0, 36, 0), "It is turned down by so much while the sound itself is loud"),
		param.Decibels("early_db", "Early reflections", -60, 6, -12),
		param.Param{ID: "distance_m", Label: "Distance", Unit: "m", Min: 0.3, Max: 20, Default: 2, Scale: param.Log},
		param.Percent("modulation_percent", "Modulation", 0, 100, 100),
	},
	Words: func(s Said) [2]string {
		return [2]string{fmt.Sprintf("%s, %s %%", spaceName(s), s.Text(mixedID)),
			fmt.Sprintf("%s s, %s–%s kHz", param.Text(s.Value("decay_ms")/1000), param.Text(s.Value("low_cut_hz")/1000), param.Text(s.Value("high_cut_hz")/1000))}
	},
	Shared: func(func(string) float64) bool { return true },
	make:   func(rate float64) Tuned { return newReverb(rate) },
})

// spaceName is what people call a space by its decay.
func spaceName(s Said) string {
	name := "room"
	switch space, ms := s.Value("space"), s.Value("decay_ms"); {
	case space == 1:
		name = "plate"
	case space == 2 || ms >= 1500 && ms < 3500:
		name = "hall"
	case ms < 500:
		name = "short room"
	case ms >= 3500:
		name = "long space"
	}
	if s.Value("gate_ms") > 0 {
		name = "gated " + strings.TrimPrefix(name, "short ")
	}
	return name
}

// spaces are how much longer the lines of each space are, by which factor they spread, how
// long its diffusers are, and how loud it is heard.
var spaces = [3]struct{ longer, spread, diffuse, level float64 }{{1, 1, 1, 0.6}, {1.05, 0.95, 0.7, 1.13}, {1.25, 1.05, 1.4, 0.48}}

// Below lowSplit the lows have a decay of their own.
const lowSplit = 250.0

const (
	reverbLines     = 16
	reverbDiffusers = 4
	earlyTaps       = 7
)

// reverbShortest and reverbLongest are the lengths of the lines at full size, ms: the others
// lie between them, spread evenly in their logarithm.
const reverbShortest, reverbLongest = 31.0, 149.0

// diffuserMS are the lengths of the allpasses before the lines.
var diffuserMS = [reverbDiffusers]float64{1.9, 3.1, 5.3, 8.3}

// SoundSpeed is that of sound in air, metres a second.
const SoundSpeed = 343.0

// earlyWays are the ways of the early reflections against the nearest one, of each side.
var earlyWays = [2][earlyTaps]float64{
	{1, 1.31, 1.74, 2.11, 2.63, 3.27, 3.94},
	{1.07, 1.42, 1.63, 2.27, 2.81, 3.08, 4.21},
}

// earlyGains are how loud they come against the nearest: by the way; every third is turned.
var earlyGains = func() (out [2][earlyTaps]float64) {
	for c := range out {
		for k, way := range earlyWays[c] {
			if out[c][k] = 1 / way; k%3 == 1 {
				out[c][k] = -out[c][k]
			}
		}
	}
	return out
}()

// Reverb is a room: the early reflections, and a network of sixteen delay lines that feed
// each other through a Hadamard matrix. What each line loses in a round makes the whole fall
// by 60 dB in the decay; highs above the damping fall in a third of it (Jot & Chaigne
// 1991, 90th AES Convention, 3030). Between the rounds pairs of lines turn into each other,
// slowly and each pair at a rate of its own, so that no resonance stands still: nothing is
// lost and nothing read between samples by that (Schlecht & Habets 2015, "Time-varying
// feedback matrices in feedback delay networks", J. Acoust. Soc. Am. 138:1389).
type Reverb struct {
	rate   float64
	last   lengths
	lines  network
	length ways
	asked  ways // what they shall be
	was    ways // what they were, while they fade
	fade   int  // frames of the fade to go
	gain   [reverbLines]float64
	damp   [reverbLines]float64
	soft   [reverbLines]float64
	turns  [reverbLines / 2]turn
	mixed  [reverbLines / 2]mixing
	until  int     // frames until the turns are looked at again
	moves  float64 // how fast they turn, 1 as they are
	level  float64
	begin  [reverbDiffusers]allDelay
	end    [2][2]allDelay
	lows   bool // they have a decay of their own
	before line
	early  ramp
	cuts   [2][2]dsp.Moving
	width  ramp
	tail   int
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

// lengths are what the lines and cuts of a reverb are made by.
type lengths struct{ decay, size, predelay, damping, lowCut, highCut, longer, lows, distance float64 }

// ways are how long the ways through a reverb are, frames.
type ways struct {
	line  [reverbLines]int
	pre   int
	early [2][earlyTaps]int
}

// mixing is how far a pair of lines is turned into each other, and by how much that changes
// in a frame.
type mixing struct{ cos, sin, byCos, bySin float64 }

// turnEvery is over how many frames a turn goes straight.
const turnEvery = 32

// turnHz is at which rate each pair of lines turns.
var turnHz = [reverbLines / 2]float64{0.37, -0.53, 0.67, -0.29, 0.79, -0.93, 0.43, -0.73}

// allDelay is an allpass made of a delay line of whole frames (Schroeder 1962).
type allDelay struct {
	line   line
	frames int
	gain   float64
}

func (a *allDelay) next(x float64) float64 {
	l := &a.line
	past := l.x[(l.at-a.frames)&(len(l.x)-1)]
	v := x - a.gain*past
	l.write(v)
	return past + a.gain*v
}

// network is the memory of the lines: rings of a number of frames that is a power of two,
// written at one place.
type network struct {
	x    [reverbLines][]float32 // half as much to fetch; 150 dB down in a round
	at   int
	used int // frames written since it was empty
}

func newNetwork(frames int) (n network) {
	size := 1
	for size < frames {
		size *= 2
	}
	// A little apart, so that the places that are written do not compete for the same part
	// of the cache.
	const apart = 72
	all := make([]float32, reverbLines*(size+apart))
	for k := range n.x {
		n.x[k] = all[k*(size+apart):][:size:size]
	}
	return n
}

func (n *network) write(x *[reverbLines]float64) {
	for k, v := range x {
		n.x[k][n.at] = float32(v)
	}
	n.at = (n.at + 1) & (len(n.x[0]) - 1)
	n.used++
}

func (n *network) reset() {
	size := len(n.x[0])
	for k := range n.x {
		if n.used >= size {
			clear(n.x[k])
			continue
		}
		for i := 1; i <= n.used; i++ {
			n.x[k][(n.at-i)&(size-1)] = 0
		}
	}
	n.at, n.used = 0, 0
}

func newReverb(rate float64) *Reverb {
	r := &Reverb{rate: rate, before: newLine(int(0.4*rate) + 2)}
	r.lines = newNetwork(int(1.5*reverbLongest/1000*rate) + 2)
	for i := range r.begin {
		r.begin[i] = allDelay{line: newLine(int(2*diffuserMS[i]/1000*rate) + 2)}
	}
	for c := range r.end {
		for k := range r.end[c] {
			r.end[c][k] = allDelay{newLine(int(0.006 * rate)), int(math.Round([2][2]float64{{1.31, 3.73}, {1.57, 4.19}}[c][k] / 1000 * rate)), 0.6}
		}
	}
	r.lowShare = 1 - math.Exp(-2*math.Pi*lowSplit/rate)
	r.loud = follower{rise: pole(3, rate), fall: pole(180, rate)}
	r.open = 1
	return r
}

// Tune takes the parameters of its kind. Other lengths are faded to.
func (r *Reverb) Tune(v Values, glide int) {
	r.width.to(v.Get("width_percent")/100, glide)
	r.hold = int(v.Get("gate_ms") / 1000 * r.rate)
	r.fall = pole(v.Get("gate_release_ms")/6.9, r.rate) // by 60 dB in its time
	r.duck = v.Get("duck_db")
	space, lows, diffusion := spaces[int(v.Get("space"))], v.Get("low_decay_percent")/100, v.Get("diffusion_percent")/100
	for i := range r.begin {
		r.begin[i].gain = 0.65 * diffusion
		r.begin[i].frames = int(math.Round(diffuserMS[i] * space.diffuse / 1000 * r.rate))
	}
	for c := range r.end {
		for k := range r.end[c] {
			r.end[c][k].gain = 0.6 * diffusion
		}
	}
	early := 0.0
	if db := v.Get("early_db"); db > -60 {
		early = gainOf(db)
	}
	r.early.to(early, glide)
	r.moves, r.level = v.Get("modulation_percent")/100, space.level
	is := lengths{v.Get("decay_ms"), v.Get("size_percent"), v.Get("predelay_ms"), v.Get("damping_hz"), v.Get("low_cut_hz"), v.Get("high_cut_hz"), space.longer, lows, v.Get("distance_m")}
	if r.last == is {
		return
	}
	r.last = is
	decay := is.decay / 1000 * r.rate
	r.lows = lows != 1
	for i := range r.gain {
		place := reverbShortest * math.Pow(reverbLongest/reverbShortest, space.spread*float64(i)/(reverbLines-1))
		n := max(int(math.Round(place*space.longer/1000*r.rate*(0.4+0.6*is.size/100))), 8) | 1
		r.lowGain[i] = math.Pow(10, -3*float64(n)/(decay*lows))/math.Pow(10, -3*float64(n)/decay) - 1
		r.asked.line[i] = n
		r.gain[i] = math.Pow(10, -3*float64(n)/decay)
		// A one-pole low-pass that leaves at the damping's frequency what a third of
		// the decay leaves.
		high := math.Pow(10, -3*float64(n)/(decay/3))
		r.damp[i] = onePole(high/r.gain[i], is.damping, r.rate)
	}
	r.asked.pre = int(is.predelay / 1000 * r.rate)
	for c := range r.asked.early {
		for k, way := range earlyWays[c] {
			r.asked.early[c][k] = r.asked.pre + int(math.Round(way*is.distance/SoundSpeed*r.rate))
		}
	}
	if glide == 0 {
		r.length, r.fade = r.asked, 0
	}
	low, high := dsp.HighPass(is.lowCut, math.Sqrt2/2, r.rate), dsp.LowPass(is.highCut, math.Sqrt2/2, r.rate)
	for c := range 2 {
		r.cuts[c][0].To(low, glide)
		r.cuts[c][1].To(high, glide)
	}
	r.tail = int(2*decay*max(lows, 1)) + r.asked.early[1][earlyTaps-1] + int(3.2/is.lowCut*r.rate)
}

func (r *Reverb) at(c Clock) {
	c = c.later(r.until)
	for i := range r.turns {
		r.turns[i].at(c, 0)
	}
}

// turn turns the pairs of lines on.
func (r *Reverb) turn() {
	if r.until > 0 {
		r.until--
		return
	}
	r.until = turnEvery - 1
	for i := range r.mixed {
		m, t := &r.mixed[i], &r.turns[i]
		sin, cos := math.Sincos(2 * math.Pi * t.phase)
		m.cos, m.sin = cos, sin
		t.next(turnHz[i]*r.moves/r.rate, turnEvery)
		sin, cos = math.Sincos(2 * math.Pi * t.phase)
		m.byCos, m.bySin = (cos-m.cos)/turnEvery, (sin-m.sin)/turnEvery
	}
}

// onePole is the share a that makes y += a·(x − y) have the magnitude m at hz.
func onePole(m, hz, rate float64) float64 {
	if hz >= 20000 {
		return 1
	}
	// m² = a² / (a² + 2(1−a)(1−cos w)) solved for a.
	cos := math.Cos(2 * math.Pi * min(hz, 0.45*rate) / rate)
	m2 := min(m*m, 0.9999)
	p := 1 - m2
	q := 2 * m2 * (1 - cos)
	return (-q + math.Sqrt(q*q+4*p*q)) / (2 * p)
}

// Process reverberates; only what comes back is heard, and the mix of the effect
// adds the sound itself.
func (r *Reverb) Process(b Block, _ []float64) {
	if r.fade == 0 && r.length != r.asked {
		r.was, r.length, r.fade = r.length, r.asked, delayFade
	}
	for i := range b.Left {
		in := (b.Left[i] + b.Right[i]) / 2
		left, right := r.next(in)
		mid, side := (left+right)/2, (left-right)/2*r.width.next()
		left, right = mid+side, mid-side
		left = r.cuts[0][1].Next(r.cuts[0][0].Next(left))
		right = r.cuts[1][1].Next(r.cuts[1][0].Next(right))
		if r.hold > 0 || r.duck > 0 {
			gain := r.steer(math.Abs(in))
			left, right = left*gain, right*gain
		}
		b.Left[i], b.Right[i] = left, right
	}
}

// next takes one frame round.
func (r *Reverb) next(in float64) (left, right float64) {
	old := 0.0 // how much of the lengths that were
	if r.fade > 0 {
		old = eased(float64(r.fade) / delayFade)
		r.fade--
	}
	r.turn()
	r.before.write(in)
	var earlyLeft, earlyRight float64
	if level := r.early.next(); level > 0 {
		earlyLeft = level * r.reflections(0, &r.length, old)
		earlyRight = level * r.reflections(1, &r.length, old)
	}
	in = past(&r.before, r.length.pre+1, r.was.pre+1, old)
	for i := range r.begin {
		in = r.begin[i].next(in)
	}
	var x [reverbLines]float64
	r.rounds(&x, old)
	for k := 0; k < reverbLines; k += 4 {
		left += x[k] - x[k+2]
		right += x[k+1] - x[k+3]
	}
	for i := range r.mixed {
		m := &r.mixed[i]
		a, b := x[2*i], x[2*i+1]
		x[2*i], x[2*i+1] = m.cos*a-m.sin*b, m.sin*a+m.cos*b
		m.cos += m.byCos
		m.sin += m.bySin
	}
	hadamard(&x)
	for k := 0; k < reverbLines; k += 2 {
		x[k] += in
		x[k+1] -= in
	}
	r.lines.write(&x)
	left = r.end[0][1].next(r.end[0][0].next(left * r.level))
	right = r.end[1][1].next(r.end[1][0].next(right * r.level))
	return left + earlyLeft, right + earlyRight
}

// rounds is what comes out of the lines, with what it loses in a round.
func (r *Reverb) rounds(x *[reverbLines]float64, old float64) {
	n := &r.lines
	for k := range x {
		line := n.x[k]
		x[k] = float64(line[(n.at-r.length.line[k])&(len(line)-1)])
	}
	if old > 0 {
		for k := range x {
			line := n.x[k]
			x[k] += (float64(line[(n.at-r.was.line[k])&(len(line)-1)]) - x[k]) * old
		}
	}
	for k := range x {
		soft := r.soft[k] + (x[k]-r.soft[k])*r.damp[k]
		r.soft[k] = soft
		x[k] = soft * r.gain[k]
	}
	if r.lows {
		for k := range x {
			r.low[k] += (x[k] - r.low[k]) * r.lowShare
			x[k] += r.low[k] * r.lowGain[k]
		}
	}
}

// reflections is what the early reflections bring to a side.
func (r *Reverb) reflections(side int, at *ways, old float64) (sum float64) {
	x, now := r.before.x, r.before.at
	mask := len(x) - 1
	gains, frames := &earlyGains[side], &at.early[side]
	for k := range gains {
		sum += gains[k] * x[(now-frames[k])&mask]
	}
	if old > 0 {
		sum += (r.reflections(side, &r.was, 0) - sum) * old
	}
	return sum
}

// hadamard mixes the lines: each goes on in every one as loud, and nothing is lost (fast
// Walsh-Hadamard transform).
func hadamard(x *[reverbLines]float64) {
	for i := 0; i < reverbLines; i += 4 {
		a, b, c, d := x[i], x[i+1], x[i+2], x[i+3]
		a, b, c, d = a+b, a-b, c+d, c-d
		x[i], x[i+1], x[i+2], x[i+3] = a+c, b+d, a-c, b-d
	}
	for i := range reverbLines / 4 {
		a, b, c, d := x[i], x[i+4], x[i+8], x[i+12]
		a, b, c, d = 0.25*(a+b), 0.25*(a-b), 0.25*(c+d), 0.25*(c-d) // 1 / √16 in all
		x[i], x[i+4], x[i+8], x[i+12] = a+c, b+d, a-c, b-d
	}
}

// past is what a line holds so many frames back; a part of it may be what lies at the
// length that was.
func past(l *line, frames, was int, old float64) float64 {
	mask := len(l.x) - 1
	x := l.x[(l.at-frames)&mask]
	if old > 0 {
		x += (l.x[(l.at-was)&mask] - x) * old
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
		gain = gainOf(-r.duck * min(loud*4, 1))
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
	r.lines.reset()
	for i := range r.begin {
		r.begin[i].line.reset()
	}
	for i := range r.turns {
		r.turns[i].reset()
	}
	r.soft, r.low, r.mixed, r.until = [reverbLines]float64{}, [reverbLines]float64{}, [reverbLines / 2]mixing{}, 0
	r.early.end()
	r.held, r.open, r.loud.level = 0, 1, 0
	r.before.reset()
	for c := range 2 {
		for k := range 2 {
			r.end[c][k].line.reset()
			r.cuts[c][k].Reset()
		}
	}
}

func (r *Reverb) gap() int { return r.asked.pre + r.asked.line[reverbLines-1] }
