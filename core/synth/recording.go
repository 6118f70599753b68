package synth

import (
	"math"
	"slices"

	"jubrak/core/dsp"
	"jubrak/core/sound"
)

// recording is a sound.Recording made ready: where it is read from and how fast.
type recording struct {
	x     [][]float32
	from  float64 // samples
	step  float64 // samples a frame at the hit's own pitch
	falls bool
	fall  dsp.Fall
	dies  int // frames, where it falls
}

func compileRecording(l *sound.Layer, s *sound.Sample, rate float64) *recording {
	out := &recording{x: shaped(l.Recording, s), from: l.Recording.Skip / 1000 * float64(s.Rate), step: math.Exp2(l.Pitch/12) * float64(s.Rate) / rate}
	if d := l.Recording.Decay; d > 0 {
		out.falls, out.fall = true, dsp.NewFall(0, d, rate)
		out.dies = dies(0, d, l.Level, rate)
	}
	return out
}

// shaped is the sound of a recording as it is read: turned round and faded where
// that is asked for, else the sample itself.
func shaped(r *sound.Recording, s *sound.Sample) [][]float32 {
	if !r.Reverse && r.FadeIn == 0 && r.FadeOut == 0 {
		return s.X
	}
	perMS := float64(s.Rate) / 1000
	skip := min(int(r.Skip*perMS), len(s.X[0]))
	out := make([][]float32, len(s.X))
	for c, x := range s.X {
		out[c] = slices.Clone(x)
		heard := out[c][skip:]
		if r.Reverse {
			slices.Reverse(heard)
		}
		fade := func(ms float64, at func(i int) int) {
			n := int(ms * perMS)
			for i := range min(n, len(heard)) {
				heard[at(i)] *= float32(i) / float32(n)
			}
		}
		fade(r.FadeIn, func(i int) int { return i })
		fade(r.FadeOut, func(i int) int { return len(heard) - 1 - i })
	}
	return out
}

// life is how many frames it lasts, semitones above its own pitch.
func (r *recording) life(semitones float64) int {
	n := int(math.Max(float64(len(r.x[0]))-r.from, 0) / (r.step * math.Exp2(semitones/12)))
	if r.falls {
		n = min(n, r.dies)
	}
	return n
}

// reading is the running state of a recording that sounds.
type reading struct {
	at, step float64
	fall     dsp.Fall
}

func (c *reading) strike(r *recording, semitones float64) {
	c.at, c.step, c.fall = r.from, r.step*math.Exp2(semitones/12), r.fall
}

// run renders the next stride of each channel.
func (c *reading) run(r *recording, out *[2][stride]float64) {
	for k, x := range r.x {
		read(x, c.at, c.step, &out[k])
		if r.falls {
			fall := c.fall
			fall.Times(out[k][:])
			if k == len(r.x)-1 {
				c.fall = fall
			}
		}
	}
	c.at += stride * c.step
}

// read takes samples from a place on: four-point Hermite interpolation
// (Niemitalo 2001, "Polynomial interpolators for high-quality resampling").
// Beyond the end there is silence.
func read(x []float32, from, step float64, out *[stride]float64) {
	for k := range out {
		at := from + float64(k)*step
		i := int(at)
		if i >= len(x) {
			clear(out[k:])
			return
		}
		t := at - float64(i)
		if t == 0 {
			out[k] = float64(x[i])
			continue
		}
		here, before, next, after := float64(x[i]), sample(x, i-1), sample(x, i+1), sample(x, i+2)
		c1 := (next - before) / 2
		c2 := before - 2.5*here + 2*next - after/2
		c3 := (after-before)/2 + 1.5*(here-next)
		out[k] = ((c3*t+c2)*t+c1)*t + here
	}
}

func sample(x []float32, i int) float64 {
	if i < 0 || i >= len(x) {
		return 0
	}
	return float64(x[i])
}
