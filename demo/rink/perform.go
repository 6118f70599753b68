// Package rink invents the recordings of the demo: the house drummer of the
// fictional Lantern Street Rink. Timing is known exactly. The drums are made
// here by means that the engine does not use (struck modes, comb-filtered
// noise, a room and hiss), so that matching them is real work.
package rink

import (
	"math"
	"math/rand/v2"

	"jubrak/core/audio"
	"jubrak/core/sound"
)

// Rate is the sample rate of the recordings.
const Rate = 44100

// Stroke is one hit of the drummer.
type Stroke struct {
	Time     float64 // seconds
	Family   sound.Family
	Velocity int
}

// Take is a recording to be made: a pattern of sixteenths, and how it is
// played.
type Take struct {
	Name  string
	BPM   float64
	Bars  int
	Swing float64 // percent, sixteenths
	Seed  uint64
	// Lean in ms and velocity by family; a line of 16 steps for each bar in
	// turn, a digit 1..9 for strength and a dot for a rest.
	Lean    map[sound.Family]float64
	Scatter float64
	Lines   map[sound.Family][]string
	// Drift of the kick in ms by bar.
	Drift []float64
	// Room is the level of the room against the drums, linear.
	Room float64
}

// Takes are the recordings that ship with the demo.
var Takes = []Take{
	{
		Name: "warm-up-laps", BPM: 92, Bars: 8, Swing: 57.8, Seed: 11, Scatter: 2.2, Room: 0.25,
		Lean:  map[sound.Family]float64{sound.Snare: 9, sound.HatClosed: 12},
		Drift: []float64{14, 9, 4, 0},
		Lines: map[sound.Family][]string{
			sound.Kick:      {"9..4..8.9.....5.", "9..5....8.8..4..", "9..4..8.9.....5.", "9..5....8.8...6."},
			sound.Snare:     {"....9.......8..3", "....9..3....9...", "....9.......8..3", "....9..3....9..4"},
			sound.HatClosed: {"8.5.7.5.8.5.7.54"},
		},
	},
	{
		Name: "speed-round", BPM: 124, Bars: 8, Swing: 51.5, Seed: 12, Scatter: 1.2, Room: 0.12,
		Lean: map[sound.Family]float64{sound.HatOpen: 3, sound.HatClosed: 1, sound.Snare: -2},
		Lines: map[sound.Family][]string{
			sound.Kick:      {"9...9...9...9..."},
			sound.Snare:     {"....8.......8...", "....8.......8..4"},
			sound.HatOpen:   {"..8...8...8...8."},
			sound.HatClosed: {"7..67..67..67.66"},
		},
	},
}

// Strokes plays the take. The file begins 60 ms before bar one.
func (t *Take) Strokes() []Stroke {
	r := rand.New(rand.NewPCG(t.Seed, 5))
	beat := 60 / t.BPM
	var out []Stroke
	for _, family := range []sound.Family{sound.Kick, sound.Snare, sound.HatClosed, sound.HatOpen} {
		lines := t.Lines[family]
		if len(lines) == 0 {
			continue
		}
		for bar := range t.Bars {
			for step, mark := range lines[bar%len(lines)] {
				if mark == '.' {
					continue
				}
				at := Lead + (float64(bar*4)+float64(step)/4)*beat
				if step%2 == 1 {
					at += (t.Swing/100 - 0.5) * beat / 2
				}
				late := t.Lean[family] + t.Scatter*math.Max(math.Min(r.NormFloat64(), 2.5), -2.5)
				if family == sound.Kick && len(t.Drift) > 0 {
					late += t.Drift[bar%len(t.Drift)]
				}
				velocity := int(mark-'0')*13 + 5 + int(math.Round(2*r.NormFloat64()))
				out = append(out, Stroke{at + late/1000, family, min(max(velocity, 1), 127)})
			}
		}
	}
	return out
}

// Lead is the time before bar one, seconds.
const Lead = 0.06

// Record makes the sound of the take, mono.
func (t *Take) Record() *audio.Buffer {
	r := rand.New(rand.NewPCG(t.Seed, 9))
	n := int((Lead + float64(t.Bars*4)*60/t.BPM) * Rate)
	dry := make([]float64, n)
	var choke []int
	strokes := t.Strokes()
	for _, s := range strokes {
		if s.Family == sound.HatClosed || s.Family == sound.HatOpen {
			choke = append(choke, int(s.Time*Rate))
		}
	}
	for _, s := range strokes {
		at := int(math.Round(s.Time * Rate))
		shot := drum(s, r)
		end := n
		if s.Family == sound.HatOpen {
			for _, c := range choke {
				if c > at+200 {
					end = min(end, c)
				}
			}
		}
		for i, v := range shot {
			if at+i >= n {
				break
			}
			if at+i >= end {
				v *= math.Exp(-float64(at+i-end) / (0.004 * Rate))
			}
			dry[at+i] += v
		}
	}
	wet := room(dry, t.Room, r)
	b := audio.New(Rate, 1, n)
	var peak float64
	for i := range wet {
		wet[i] = math.Tanh(1.1*wet[i]) + 0.0006*r.NormFloat64() // tape-like knee, then hiss
		peak = math.Max(peak, math.Abs(wet[i]))
	}
	for i, v := range wet {
		b.Channels[0][i] = float32(0.84 * v / peak)
	}
	return b
}

// drum is one stroke, with a little chance in every hit.
func drum(s Stroke, r *rand.Rand) []float64 {
	level := math.Pow(float64(s.Velocity)/127, 1.7) * (1 + 0.03*r.NormFloat64())
	switch s.Family {
	case sound.Kick:
		return struck(level, 0.5, []mode{{54, 1, 0.16}, {87, 0.4, 0.07}, {141, 0.2, 0.03}}, 0.3, 2600, 0.004, r)
	case sound.Snare:
		x := struck(0.55*level, 0.45, []mode{{186, 0.8, 0.09}, {297, 0.5, 0.06}, {421, 0.25, 0.04}}, 0.5, 5000, 0.002, r)
		wires := hiss(len(x), 1300, 7500, 0.085, r)
		for i := range x {
			x[i] += 0.75 * level * wires[i]
		}
		return x
	case sound.HatOpen:
		return cymbal(0.3*level, 0.6, 0.19, r)
	}
	return cymbal(0.4*level, 0.25, 0.032, r)
}

type mode struct{ hz, level, decay float64 }

// struck is a sum of damped modes whose pitch sags, with a beater of noise.
func struck(level, seconds float64, modes []mode, beater, colour, click float64, r *rand.Rand) []float64 {
	x := make([]float64, int(seconds*Rate))
	for _, m := range modes {
		phase := 0.0
		for i := range x {
			t := float64(i) / Rate
			phase += m.hz * (1 + 0.55*math.Exp(-t/0.018)) / Rate
			x[i] += level * m.level * math.Sin(2*math.Pi*phase) * math.Exp(-t/m.decay) * (1 - math.Exp(-t/0.0006))
		}
	}
	noise := hiss(int(8*click*Rate), 900, colour, click, r)
	for i, v := range noise {
		x[i] += beater * level * v
	}
	return x
}

// hiss is noise between two corners with an exponential fall.
func hiss(n int, low, high, decay float64, r *rand.Rand) []float64 {
	x := make([]float64, n)
	a, b := 1-math.Exp(-2*math.Pi*high/Rate), 1-math.Exp(-2*math.Pi*low/Rate)
	var slow, fast, fast2 float64
	for i := range x {
		v := r.NormFloat64()
		fast += a * (v - fast)
		fast2 += a * (fast - fast2)
		slow += b * (fast2 - slow)
		x[i] = (fast2 - slow) * math.Exp(-float64(i)/(decay*Rate))
	}
	return x
}

// cymbal is bright noise through four feedback combs.
func cymbal(level, seconds, decay float64, r *rand.Rand) []float64 {
	n := int(seconds * Rate)
	out := make([]float64, n)
	for _, period := range []int{9, 13, 16, 23} {
		line := make([]float64, period)
		for i := range n {
			j := i % period
			v := r.NormFloat64() + 0.72*line[j]
			line[j] = v
			out[i] += v / 4
		}
	}
	var p1, p2 float64
	for i := range out {
		// Two one-pole high-passes at about 6 kHz.
		const a = 0.57
		p1 += a * (out[i] - p1)
		h := out[i] - p1
		p2 += a * (h - p2)
		out[i] = level * 2 * (h - p2) * math.Exp(-float64(i)/(decay*Rate))
	}
	return out
}

// room adds early reflections and a short diffuse tail.
func room(dry []float64, level float64, r *rand.Rand) []float64 {
	out := append([]float64(nil), dry...)
	for range 40 {
		t := 0.006 + 0.19*math.Pow(r.Float64(), 1.5)
		gain := level * 0.5 * math.Exp(-t/0.07) * r.NormFloat64()
		d := int(t * Rate)
		low := 0.0
		for i := d; i < len(out); i++ {
			low += 0.45 * (dry[i-d] - low)
			out[i] += gain * low
		}
	}
	return out
}
