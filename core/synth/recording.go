package synth

import (
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/effect"
	"jubrak/core/sound"
	"jubrak/core/stretch"
)

// recording is a sound.Recording made ready: where it is read from and how fast.
type recording struct {
	x     [][]float32
	step  float64 // samples a frame at the hit's own pitch
	rate  float64
	falls bool
	fall  dsp.Fall
	dies  int // frames, where it falls
}

func compileRecording(l *sound.Layer, s *sound.Sample, rate float64) *recording {
	r := l.Recording
	s = s.At(int(rate))
	out := &recording{x: Shaped(r, s), rate: rate, step: math.Exp2(l.Pitch / 12)}
	if r.KeepLength && l.Pitch != 0 {
		out.x = longer(out.x, s.Rate, out.step)
	}
	if d := r.Decay; d > 0 {
		out.falls, out.fall = true, dsp.NewFall(0, d, rate)
		out.dies = dies(0, d, l.Level+r.Gain, rate)
	}
	return out
}

// longer makes a sound longer by a ratio with its pitch kept, so that read so much
// faster it is as long as it was.
func longer(x [][]float32, rate int, ratio float64) [][]float32 {
	return stretch.Sound(&audio.Buffer{Rate: rate, Channels: x}, 1/ratio, []float64{0}).Channels
}

// Shaped is the sound of a recording as it is read: what is left out is cut away,
// then it is gated, brought to its level, turned round and faded where that is asked
// for; else it is the sample itself.
func Shaped(r *sound.Recording, s *sound.Sample) [][]float32 {
	perMS := float64(s.Rate) / 1000
	from := min(int(r.Skip*perMS), len(s.X[0]))
	to := len(s.X[0])
	if r.Length > 0 {
		to = min(from+int(r.Length*perMS), to)
	}
	out := make([][]float32, len(s.X))
	for c, x := range s.X {
		out[c] = x[from:to]
	}
	if !r.Reverse && r.FadeIn == 0 && r.FadeOut == 0 && !r.Gate && r.Gain == 0 {
		return out
	}
	for c := range out {
		out[c] = slices.Clone(out[c])
	}
	if r.Gate {
		gated(r, out, s.Rate)
	}
	gain := float32(audio.Gain(r.Gain))
	for _, x := range out {
		for i := range x {
			x[i] *= gain
		}
		if r.Reverse {
			slices.Reverse(x)
		}
		fade := func(ms float64, at func(i int) int) {
			n := int(ms * perMS)
			for i := range min(n, len(x)) {
				x[at(i)] *= float32(i) / float32(n)
			}
		}
		fade(r.FadeIn, func(i int) int { return i })
		fade(r.FadeOut, func(i int) int { return len(x) - 1 - i })
	}
	return out
}

// gated runs a gate over a whole sound, which it hears ahead of time.
func gated(r *sound.Recording, x [][]float32, rate int) {
	for i, g := range GateGains(r, x, rate) {
		for c := range x {
			x[c][i] *= float32(g)
		}
	}
}

// GateGains is what a recording's gate does to each of its samples, linear.
func GateGains(r *sound.Recording, x [][]float32, rate int) []float64 {
	g := effect.NewGate(float64(rate))
	g.Set(r.GateThreshold, r.GateHysteresis, r.GateFloor, r.GateAttack, r.GateHold, r.GateRelease)
	ahead := int(r.GateAhead / 1000 * float64(rate))
	n := len(x[0])
	out := make([]float64, n)
	for i := -ahead; i < n; i++ {
		loud := 0.0
		if at := i + ahead; at < n {
			for c := range x {
				loud = max(loud, math.Abs(float64(x[c][at])))
			}
		}
		if gain := g.Next(loud); i >= 0 {
			out[i] = gain
		}
	}
	return out
}

// life is how many frames it lasts, semitones above its own pitch.
func (r *recording) life(semitones float64) int {
	n := int(float64(len(r.x[0])) / (r.step * ratio(semitones)))
	if r.falls {
		n = min(n, r.dies)
	}
	return n
}

func ratio(semitones float64) float64 { return math.Exp2(semitones / 12) }

// reading is the running state of a recording that sounds.
type reading struct {
	at   float64
	step glide
	fall dsp.Fall
}

func (c *reading) start(r *recording, semitones float64) {
	c.at, c.step, c.fall = 0, glide{to: r.step * ratio(semitones)}, r.fall
}

// run renders the next stride of each channel.
func (c *reading) run(r *recording, out *[2][stride]float64) {
	step := c.step.now()
	if len(r.x) == 1 {
		read(r.x, c.at, step, &out[0])
	} else {
		read(r.x, c.at, step, &out[0], &out[1])
	}
	if r.falls {
		fall := c.fall
		c.fall.Times(out[0][:])
		fall.Times(out[1][:])
	}
	c.at += stride * step
	c.step.pass(stride)
}
