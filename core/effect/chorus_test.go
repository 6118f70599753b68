package effect

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// A delay at rest, mixed with the sound at a half, is a comb: notches at odd multiples of half
// of its inverse (every handbook: H = (1 + z^-N)/2). Feedback sharpens it.
func TestFlangerAtRestIsAComb(t *testing.T) {
	at := func(hz, feedback float64) float64 {
		r := NewRack([]Effect{New("f", KindOf("flanger"), map[string]float64{"delay_ms": 1, "depth_percent": 0, "feedback_percent": feedback, mixedID: 50})}, rate, Context{})
		b := sine(hz, 0.5, rate)
		for i := 0; i < rate; i += 480 {
			r.Run(b.Part(i, i+480), nil, Clock{}, false)
		}
		peak := 0.0
		for _, v := range b.Left[rate/2:] {
			peak = math.Max(peak, math.Abs(v))
		}
		return 20 * math.Log10(peak/0.5)
	}
	assert.Less(t, at(500, 0), -40.0)
	assert.Less(t, at(1500, 0), -40.0)
	assert.InDelta(t, 0, at(1000, 0), 0.05)
	assert.InDelta(t, -3.01, at(250, 0), 0.05)
	assert.Greater(t, at(1000, 60), 4.0)
}

// A moving delay shifts the pitch by its speed: at the middle of a sine of depth d and rate f
// the copy runs 2π·f·d faster or slower (Doppler).
func TestChorusDetunesByTheSpeedOfItsDelay(t *testing.T) {
	const hz, delay, depth = 0.5, 0.012, 0.5
	r := NewRack([]Effect{New("c", KindOf("chorus"), map[string]float64{"time": 1, "rate_hz": hz, "delay_ms": delay * 1000, "depth_percent": depth * 100, "spread_deg": 0, mixedID: 100})}, rate, Context{})
	b := sine(1000, 0.5, 2*rate)
	for i := 0; i < 2*rate; i += 480 {
		r.Run(b.Part(i, i+480), nil, Clock{}, false)
	}
	// The delay grows fastest at the start of a turn, and falls fastest at its middle.
	rises := func(from int) (n float64, span float64) {
		first, last := -1.0, 0.0
		for i := from; i < from+4800; i++ {
			if b.Left[i] < 0 && b.Left[i+1] >= 0 {
				at := float64(i) - b.Left[i]/(b.Left[i+1]-b.Left[i])
				if first < 0 {
					first = at
				} else {
					n++
				}
				last = at
			}
		}
		return n, last - first
	}
	n, span := rises(rate - 2400)
	assert.InDelta(t, 1000*(1+2*math.Pi*hz*delay*depth), n/span*rate, 0.6)
}

// In a loop each pass is the one before, at a rate that is rounded to whole turns.
func TestChorusClosesWithTheLoop(t *testing.T) {
	const loop = 40000
	r := NewRack([]Effect{New("c", KindOf("chorus"), map[string]float64{"time": 1, "rate_hz": 0.7})}, rate, Context{})
	var passes [3][]float64
	for p := range passes {
		for at := 0; at < loop; at += 400 {
			b := noisy(at, 400)
			r.Run(b, nil, Clock{PerFrame: 2.0 / rate, Frame: int64(at), Loop: loop}, false)
			passes[p] = append(passes[p], b.Left...)
		}
	}
	assert.InDeltaSlice(t, passes[1], passes[2], 1e-9)
}
