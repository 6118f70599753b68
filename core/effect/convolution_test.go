package effect

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
)

// ir is an impulse response of decaying noise, its sides unlike, at a rate.
func ir(rate, frames int) *audio.Buffer {
	b := audio.New(rate, 2, frames)
	n := noisy(7, frames)
	for i := range frames {
		fall := math.Exp(-4 * float64(i) / float64(frames))
		b.Channels[0][i], b.Channels[1][i] = float32(n.Left[i]*fall), float32(n.Right[(i+97)%frames]*fall)
	}
	b.Channels[0][0], b.Channels[1][0] = 0.9, 0.7
	return b
}

// room is a convolution alone in a rack, with a recording.
func room(of *audio.Buffer, values map[string]float64) *Rack {
	fx := New("c", KindOf("convolution"), values)
	fx.Values[mixedID] = 100
	fx.Recording = &Recording{"a", "hall.wav"}
	return NewRack([]Effect{fx}, rate, Context{Recording: func(string) *audio.Buffer { return of }})
}

// Against a direct convolution: with responses of less than one partition, of some, and of
// both lengths of partitions; whatever the blocks.
func TestConvolutionIsTheDirectSum(t *testing.T) {
	for _, frames := range []int{600, 3000, 9000} {
		r := room(ir(rate, frames), map[string]float64{"length_ms": 500})
		taps := r.slots[0].of.(*Convolution).made.taps
		in := noisy(3, 14000)
		out := Block{append([]float64{}, in.Left...), append([]float64{}, in.Right...)}
		for at, n := 0, 1; at < out.Frames(); at, n = at+n, n%MaxBlock+37 {
			n = min(n, MaxBlock, out.Frames()-at)
			r.Run(out.Part(at, at+n), nil, Clock{}, false)
		}
		for _, i := range []int{0, 1, 127, 128, 129, 300, 2047, 2048, 2049, 4095, 4096, 7000, 12345, 13999} {
			for c, x := range [2][]float64{in.Left, in.Right} {
				sum := 0.0
				for k, h := range taps[c] {
					if k <= i {
						sum += h * x[i-k]
					}
				}
				require.InDelta(t, sum, out.channel(c)[i], 1e-10, "%d taps, side %d, frame %d", frames, c, i)
			}
		}
	}
}

// Trim, pre-delay, decay, cuts and energy are what they say.
func TestImpulseResponsesAreShaped(t *testing.T) {
	of := ir(rate, 12000)
	energy := func(x []float64) (sum float64) {
		for _, v := range x {
			sum += v * v
		}
		return sum
	}
	taps := func(values map[string]float64) [2][]float64 {
		return room(of, values).slots[0].of.(*Convolution).made.taps
	}
	all := taps(nil)
	assert.InDelta(t, 1, max(energy(all[0]), energy(all[1])), 1e-9)
	assert.Len(t, all[0], 12000)
	late := taps(map[string]float64{"predelay_ms": 100})
	assert.Len(t, late[0], 12000+4800)
	assert.Zero(t, energy(late[0][:4800]))
	assert.InDelta(t, all[0][0], late[0][4800], 1e-12)
	assert.Len(t, taps(map[string]float64{"start_ms": 50, "length_ms": 100})[0], 4800)
	// Half of the decay: 60 dB more at its end, 30 dB at its middle.
	short := taps(map[string]float64{"decay_percent": 50})
	ratio := func(i int) float64 { return 20 * math.Log10(math.Abs((short[0][i]/short[0][0])/(all[0][i]/all[0][0]))) }
	assert.InDelta(t, -30, ratio(6000), 0.1)
	assert.InDelta(t, -15, ratio(3000), 0.1)
	low := taps(map[string]float64{"high_cut_hz": 500})
	assert.Less(t, energy(diff(low[0]))/energy(low[0]), 0.1*energy(diff(all[0]))/energy(all[0]), "highs are gone")
}

func diff(x []float64) []float64 {
	out := make([]float64, len(x)-1)
	for i := range out {
		out[i] = x[i+1] - x[i]
	}
	return out
}

// Without a recording, or where it is lost, the sound passes. A response of another rate is
// brought to the engine's; one of one channel serves both sides.
func TestConvolutionWithoutAndOfOtherRates(t *testing.T) {
	in := noisy(1, 500)
	out := Block{append([]float64{}, in.Left...), append([]float64{}, in.Right...)}
	room(nil, nil).Run(out, nil, Clock{}, false)
	assert.Equal(t, in, out)
	c := room(ir(24000, 3000), nil).slots[0].of.(*Convolution)
	assert.InDelta(t, 6000, len(c.made.taps[0]), 2)
	mono := ir(rate, 2000)
	mono.Channels = mono.Channels[:1]
	c = room(mono, nil).slots[0].of.(*Convolution)
	assert.Equal(t, c.made.taps[0], c.made.taps[1])
}

// Another recording, or another length of the same, is faded to; a level glides.
func TestAnotherResponseIsAnotherEffect(t *testing.T) {
	fx := New("c", KindOf("convolution"), nil)
	fx.Recording = &Recording{"a", "a.wav"}
	r := NewRack([]Effect{fx}, rate, Context{})
	same := fx.Clone()
	same.Values["level_db"] = 6
	assert.True(t, r.Like([]Effect{same}))
	other := fx.Clone()
	other.Values["length_ms"] = 100
	assert.False(t, r.Like([]Effect{other}))
	other = fx.Clone()
	other.Recording.Blob = "b"
	assert.False(t, r.Like([]Effect{other}))
}
