// Package measure measures sound: loudness, spectra, and what a single drum is
// made of.
package measure

import (
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/dsp"
)

// kWeight returns the two stages of the K-weighting filter at a sample rate
// (ITU-R BS.1770-4, annex 1). The analogue prototypes behind the published
// 48 kHz coefficients are transformed to other rates.
func kWeight(rate float64) (shelf, high dsp.Biquad) {
	const f0, gain, q = 1681.974450955533, 3.999843853973347, 0.7071752369554196
	k := math.Tan(math.Pi * f0 / rate)
	vh := math.Pow(10, gain/20)
	vb := math.Pow(vh, 0.4996667741545416)
	a0 := 1 + k/q + k*k
	shelf = dsp.Biquad{
		B0: (vh + vb*k/q + k*k) / a0, B1: 2 * (k*k - vh) / a0, B2: (vh - vb*k/q + k*k) / a0,
		A1: 2 * (k*k - 1) / a0, A2: (1 - k/q + k*k) / a0,
	}
	const f1, q1 = 38.13547087602444, 0.5003270373238773
	k = math.Tan(math.Pi * f1 / rate)
	a0 = 1 + k/q1 + k*k
	high = dsp.Biquad{B0: 1, B1: -2, B2: 1, A1: 2 * (k*k - 1) / a0, A2: (1 - k/q1 + k*k) / a0}
	return shelf, high
}

// KWeight is the gain of the K-weighting filter at a frequency, dB.
func KWeight(hz float64) float64 {
	const rate = 48000
	shelf, high := kWeight(rate)
	return audio.DB(shelf.Magnitude(hz, rate) * high.Magnitude(hz, rate))
}

// lkfs is the loudness of a mean square after K-weighting.
func lkfs(meanSquare float64) float64 { return -0.691 + 10*math.Log10(meanSquare) }

// Integrated is the gated integrated loudness in LUFS (ITU-R BS.1770-4):
// blocks of 400 ms overlapping by 75 %, an absolute gate at -70 LUFS and a
// relative gate 10 LU below what passes it. ok is false when the buffer is
// shorter than a block or silent. A mono buffer counts as one channel.
func Integrated(b *audio.Buffer) (lufs float64, ok bool) {
	hop := b.Rate / 10
	if b.Frames() < 4*hop {
		return 0, false
	}
	steps := make([]float64, b.Frames()/hop)
	for c := 0; c < len(b.Channels); c += 2 {
		left, right := b.Channels[c], b.Channels[min(c+1, len(b.Channels)-1)]
		k := newKPair(float64(b.Rate))
		for i := range steps {
			sum, other := k.energies(left[i*hop:(i+1)*hop], right[i*hop:(i+1)*hop])
			if c+1 == len(b.Channels) {
				other = 0 // it is the same channel
			}
			steps[i] += (sum + other) / float64(hop)
		}
	}
	blocks := make([]float64, 0, len(steps))
	for i := 0; i+4 <= len(steps); i++ {
		blocks = append(blocks, (steps[i]+steps[i+1]+steps[i+2]+steps[i+3])/4)
	}
	mean, n := gated(blocks, -70)
	if n == 0 {
		return 0, false
	}
	mean, n = gated(blocks, math.Max(-70, lkfs(mean)-10))
	if n == 0 {
		return 0, false
	}
	return lkfs(mean), true
}

// kPair is the K-weighting of two channels at a time, so that no filter waits
// for another.
type kPair struct {
	shelf, high dsp.Biquad
	left, right [4]float64   // states: of the shelf, then of the high-pass
	between     [][2]float64 // what the shelf gives
}

func newKPair(rate float64) *kPair {
	k := &kPair{}
	k.shelf, k.high = kWeight(rate)
	return k
}

// energies weights the next samples and sums their squares.
func (k *kPair) energies(left, right []float32) (l, r float64) {
	k.between = slices.Grow(k.between[:0], len(left))[:len(left)]
	k.shelve(left, right[:len(left)])
	// The high-pass has the zeros 1, -2, 1.
	a1, a2 := k.high.A1, k.high.A2
	lz1, lz2, rz1, rz2 := k.left[2], k.left[3], k.right[2], k.right[3]
	for _, v := range k.between {
		x, u := v[0], v[1]
		y, t := x+lz1, u+rz1
		lz1, rz1 = lz2-2*x-a1*y, rz2-2*u-a1*t
		lz2, rz2 = x-a2*y, u-a2*t
		l, r = l+y*y, r+t*t
	}
	k.left[2], k.left[3], k.right[2], k.right[3] = lz1, lz2, rz1, rz2
	return l, r
}

// unheard keeps the filters' memories of silence normal numbers: those that are not are
// ten times slower to reckon with.
const unheard = 1e-30

// shelve is the first stage; on its own, its numbers stay in registers.
func (k *kPair) shelve(left, right []float32) {
	s := k.shelf
	b0, b1, b2, a1, a2 := s.B0, s.B1, s.B2, s.A1, s.A2
	lz1, lz2, rz1, rz2 := k.left[0], k.left[1], k.right[0], k.right[1]
	for i := range k.between {
		x, u := float64(left[i])+unheard, float64(right[i])+unheard
		y, t := b0*x+lz1, b0*u+rz1
		lz1, rz1 = b1*x+lz2-a1*y, b1*u+rz2-a1*t
		lz2, rz2 = b2*x-a2*y, b2*u-a2*t
		k.between[i] = [2]float64{y, t}
	}
	k.left[0], k.left[1], k.right[0], k.right[1] = lz1, lz2, rz1, rz2
}

func gated(blocks []float64, gate float64) (mean float64, n int) {
	for _, b := range blocks {
		if lkfs(b) > gate {
			mean += b
			n++
		}
	}
	return mean / math.Max(float64(n), 1), n
}

// Meter follows momentary loudness (400 ms, EBU Tech 3341) and sample peak of
// a stereo stream without allocating. It takes one rate for its life.
type Meter struct {
	shelf, high [2]dsp.Biquad
	ring        [40]float64 // mean squares of 10 ms
	at, fill    int
	hop         int
	sum         float64
	peak        [2]float64
}

// NewMeter is a meter for a stream at rate frames per second.
func NewMeter(rate int) *Meter {
	m := &Meter{hop: rate / 100}
	for c := range m.shelf {
		m.shelf[c], m.high[c] = kWeight(float64(rate))
	}
	return m
}

// Add takes the next block.
func (m *Meter) Add(left, right []float64) {
	for i := range left {
		for c, x := range [2]float64{left[i], right[i]} {
			m.peak[c] = math.Max(m.peak[c], math.Abs(x))
			y := m.high[c].Next(m.shelf[c].Next(x + unheard))
			m.sum += y * y
		}
		if m.fill++; m.fill == m.hop {
			m.ring[m.at%len(m.ring)] = m.sum / float64(m.hop)
			m.at++
			m.fill, m.sum = 0, 0
		}
	}
}

// Momentary is the loudness of the last 400 ms in LUFS, -Inf for silence.
func (m *Meter) Momentary() float64 {
	var mean float64
	for _, v := range m.ring {
		mean += v / float64(len(m.ring))
	}
	return lkfs(mean)
}

// TakePeak returns the sample peaks since the last call, linear, and starts
// again.
func (m *Meter) TakePeak() (left, right float64) {
	left, right = m.peak[0], m.peak[1]
	m.peak = [2]float64{}
	return left, right
}

// Loudest is the K-weighted loudness of the loudest stretch of so many seconds,
// LUFS: how loud a one-shot strikes. Silence is -200.
func Loudest(b *audio.Buffer, seconds float64) float64 {
	const steps = 10
	hop := max(int(seconds*float64(b.Rate)/steps), 1)
	n := b.Frames()/hop + steps + 1
	energy := make([]float64, n)
	for c := range b.Channels {
		padded := make([]float32, n*hop)
		copy(padded, b.Channels[c])
		k := newKPair(float64(b.Rate))
		for i := range energy {
			sum, _ := k.energies(padded[i*hop:(i+1)*hop], padded[i*hop:(i+1)*hop])
			energy[i] += sum
		}
	}
	best := 0.0
	for i := 0; i+steps <= n; i++ {
		sum := 0.0
		for _, e := range energy[i : i+steps] {
			sum += e
		}
		best = math.Max(best, sum)
	}
	if best == 0 {
		return -200
	}
	return lkfs(best / float64(steps*hop))
}
