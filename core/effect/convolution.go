package effect

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "convolution", Label: "Convolution", Group: Space, Order: 3, Hint: "A room, a box or a speaker, by an impulse response of your own", Rows: true, Mixed: 25,
	Picture: Levels, Room: true, Recorded: true,
	Params: append(fixed(
		param.Milliseconds("start_ms", "Trim start", 0, 1000, 0),
		param.Milliseconds("length_ms", "Length", 10, convolutionMS, 3000),
		param.Milliseconds("predelay_ms", "Pre-delay", 0, 250, 0),
		hint(param.Percent("decay_percent", "Decay", 10, 100, 100), "How much of the recording's own decay is left"),
		param.Hertz("low_cut_hz", "Low cut", 20, 2000, 20),
		param.Hertz("high_cut_hz", "High cut", 500, 20000, 20000),
	), param.Decibels("level_db", "Level", -24, 24, 0)),
	Words: func(s Said) [2]string {
		if s.Recording == nil {
			return [2]string{"convolution", "no recording"}
		}
		return [2]string{fmt.Sprintf("convolution, %s %%", s.Text(mixedID)), s.Recording.Name}
	},
	make: func(rate float64) Tuned { return &Convolution{rate: rate} },
})

// convolutionMS is the longest impulse response, ms.
const convolutionMS = 6000.0

// Convolution plays a sound in a recorded room, box or speaker: each side is convolved with
// its side of an impulse response. The first 128 taps are summed directly, so that nothing is
// late; what follows is done in partitions of the spectrum, short ones first (Gardner 1995,
// "Efficient convolution without input-output delay", J. Audio Eng. Soc. 43:127). Without a
// recording the sound passes as it is.
type Convolution struct {
	rate   float64
	of     *audio.Buffer `state:"shared"`
	made   *response     `state:"shared"` // of the recording and the parameters that cannot glide
	level  ramp
	past   [2][2 * directTaps]float64 // each sample twice, so that a window is in one piece
	at     int
	stages [2]stage
}

// directTaps are summed one by one; partitions of stageFrames follow from their own length on.
const directTaps = 128

var stageFrames = [2]int{directTaps, 2048}

// response is an impulse response made ready. Nobody changes it.
type response struct {
	of     impulseResponse
	taps   [2][]float64 // what is convolved with, each side
	direct [2][directTaps]float64
	stages [2][2][][]complex128 // by stage, side and partition
}

// impulseResponse is what a response is made of.
type impulseResponse struct {
	of                                        *audio.Buffer
	start, length, predelay, decay, low, high float64
}

func (c *Convolution) load(b *audio.Buffer) {
	if b != nil {
		c.of = b.Resample(int(c.rate))
	}
}

// Tune takes the parameters of its kind. Those that cannot glide have one value as long as it
// lives, so that a response is made only once.
func (c *Convolution) Tune(v Values, glide int) {
	c.level.to(gainOf(v.Get("level_db")), glide)
	is := impulseResponse{c.of, v.Get("start_ms"), v.Get("length_ms"), v.Get("predelay_ms"), v.Get("decay_percent"), v.Get("low_cut_hz"), v.Get("high_cut_hz")}
	if c.of == nil || c.made != nil && c.made.of == is {
		return
	}
	c.made = is.ready(c.rate)
	for k := range c.stages {
		c.stages[k].prepare(stageFrames[k], len(c.made.stages[k][0]))
	}
}

// taps are both sides of the response: trimmed, shortened, cut, and brought to an energy of 1
// on the louder side.
func (is *impulseResponse) taps(rate float64) (out [2][]float64) {
	from := min(int(is.start/1000*rate), is.of.Frames())
	n := min(int(is.length/1000*rate), is.of.Frames()-from)
	pre := int(is.predelay / 1000 * rate)
	most := 0.0
	for c := range out {
		in := is.of.Channels[min(c, len(is.of.Channels)-1)][from : from+n]
		x := make([]float64, pre+n)
		// A decay on top of its own: a response that falls by 60 dB over its length then falls
		// so far in the share of it that is left.
		faster := math.Pow(10, -3*(100/is.decay-1)/max(float64(n), 1))
		gain := 1.0
		for i, v := range in {
			x[pre+i] = float64(v) * gain
			gain *= faster
		}
		fade := min(int(0.005*rate), n/4)
		for i := range fade { // its end does not click
			x[pre+n-1-i] *= float64(i) / float64(fade)
		}
		cut(x, dsp.HighPass(is.low, math.Sqrt2/2, rate), is.low > 20)
		cut(x, dsp.LowPass(is.high, math.Sqrt2/2, rate), is.high < 20000)
		energy := 0.0
		for _, v := range x {
			energy += v * v
		}
		most = max(most, energy)
		out[c] = x
	}
	if most > 0 {
		for c := range out {
			for i := range out[c] {
				out[c][i] /= math.Sqrt(most)
			}
		}
	}
	return out
}

func cut(x []float64, f dsp.Biquad, on bool) {
	if !on {
		return
	}
	for i, v := range x {
		x[i] = f.Next(v)
	}
}

// ready makes the partitions of a response.
func (is *impulseResponse) ready(rate float64) *response {
	r := &response{of: *is, taps: is.taps(rate)}
	for c, taps := range r.taps {
		copy(r.direct[c][:], taps)
		for k, n := range stageFrames {
			end := len(taps)
			if k+1 < len(stageFrames) {
				end = min(end, stageFrames[k+1])
			}
			fft, bins := dsp.NewFFT(2*n), make([]complex128, 2*n)
			for from := n; from < end; from += n {
				clear(bins)
				for i, v := range taps[from:min(from+n, end)] {
					bins[i] = complex(v, 0)
				}
				fft.Forward(bins, bins)
				r.stages[k][c] = append(r.stages[k][c], slices.Clone(bins[:n+1]))
			}
		}
	}
	return r
}

// stage convolves with partitions of one length: overlap and save, the spectra of what came
// in kept in a ring.
type stage struct {
	frames int
	in     [2][]float64      // the last two blocks
	filled int               // frames of the last one
	out    [2][]float64      // what comes out while the next is filled
	ring   [2][][]complex128 // the newest at at
	at     int
	fft    *dsp.FFT        `state:"-"`
	bins   []complex128    `state:"-"`
	sum    [2][]complex128 `state:"-"`
}

func (s *stage) prepare(frames, partitions int) {
	*s = stage{frames: frames, fft: dsp.NewFFT(2 * frames), bins: make([]complex128, 2*frames)}
	for c := range 2 {
		s.in[c], s.out[c], s.sum[c] = make([]float64, 2*frames), make([]float64, frames), make([]complex128, frames+1)
		for range partitions {
			s.ring[c] = append(s.ring[c], make([]complex128, frames+1))
		}
	}
}

// next takes a frame and adds what the stage gives to it.
func (s *stage) next(left, right float64, h *[2][][]complex128, out *[2]float64) {
	if len(s.ring[0]) == 0 {
		return
	}
	out[0] += s.out[0][s.filled]
	out[1] += s.out[1][s.filled]
	s.in[0][s.frames+s.filled], s.in[1][s.frames+s.filled] = left, right
	if s.filled++; s.filled == s.frames {
		s.filled = 0
		s.turn(h)
	}
}

// turn convolves the last two blocks. Both sides go through one transform: left is its real,
// right its imaginary part.
func (s *stage) turn(h *[2][][]complex128) {
	n := s.frames
	for i := range s.bins {
		s.bins[i] = complex(s.in[0][i], s.in[1][i])
	}
	s.fft.Forward(s.bins, s.bins)
	s.at = (s.at + 1) % len(s.ring[0])
	left, right := s.ring[0][s.at], s.ring[1][s.at]
	for k := range n + 1 {
		u, v := s.bins[k], s.bins[(2*n-k)%(2*n)]
		v = complex(real(v), -imag(v))
		left[k] = (u + v) / 2
		right[k] = (u - v) / 2 * complex(0, -1)
	}
	for c := range s.sum {
		sum := s.sum[c]
		clear(sum)
		for p, part := range h[c] {
			x := s.ring[c][(s.at-p+len(s.ring[c]))%len(s.ring[c])][:len(sum)]
			for k, v := range part[:len(sum)] {
				sum[k] += x[k] * v
			}
		}
	}
	for k := range n + 1 {
		l, r := s.sum[0][k], s.sum[1][k]
		s.bins[k] = l + complex(0, 1)*r
		if k > 0 && k < n {
			l, r = complex(real(l), -imag(l)), complex(real(r), -imag(r))
			s.bins[2*n-k] = l + complex(0, 1)*r
		}
	}
	s.fft.Inverse(s.bins, s.bins)
	for i := range n {
		s.out[0][i], s.out[1][i] = real(s.bins[n+i]), imag(s.bins[n+i])
	}
	for c := range s.in {
		copy(s.in[c][:n], s.in[c][n:])
	}
}

func (s *stage) reset() {
	for c := range 2 {
		clear(s.in[c])
		clear(s.out[c])
		for _, x := range s.ring[c] {
			clear(x)
		}
	}
	s.filled, s.at = 0, 0
}

// Process convolves; the mix of the effect adds the sound itself.
func (c *Convolution) Process(b Block, _ []float64) {
	if c.made == nil {
		return
	}
	for i := range b.Left {
		left, right := b.Left[i], b.Right[i]
		if c.at--; c.at < 0 {
			c.at = directTaps - 1
		}
		var out [2]float64
		for side, x := range [2]float64{left, right} {
			past := &c.past[side]
			past[c.at], past[c.at+directTaps] = x, x
			window := past[c.at : c.at+directTaps]
			sum := 0.0
			for k, h := range &c.made.direct[side] {
				sum += h * window[k]
			}
			out[side] = sum
		}
		for k := range c.stages {
			c.stages[k].next(left, right, &c.made.stages[k], &out)
		}
		level := c.level.next()
		b.Left[i], b.Right[i] = out[0]*level, out[1]*level
	}
}

// Latency is 0.
func (c *Convolution) Latency() int { return 0 }

// Tail is how long the response is.
func (c *Convolution) Tail() int {
	if c.made == nil {
		return 0
	}
	return len(c.made.taps[0])
}

// Reset forgets the past.
func (c *Convolution) Reset() {
	c.level.end()
	c.past, c.at = [2][2 * directTaps]float64{}, 0
	for k := range c.stages {
		c.stages[k].reset()
	}
}

func (c *Convolution) gap() int {
	if c.made == nil {
		return 0
	}
	return len(c.made.taps[0])
}
