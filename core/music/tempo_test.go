package music

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A straight ramp in beats takes n·60/(b1−b0)·ln(b1/b0) seconds for n beats (elementary
// calculus). 60 to 120 BPM over 8 beats: 8·ln 2 = 5.545177 s, and its half, at 90 BPM, is
// reached after 8·ln 1.5 = 3.243721 s.
func TestARampTakesALogarithm(t *testing.T) {
	m := TempoMap{{Tick: 0, BPM: 60, To: 120}, {Tick: 8 * PPQ, BPM: 120}}
	require.NoError(t, m.Validate())
	assert.InDelta(t, 8*math.Ln2, m.Seconds(8*PPQ), 1e-12)
	assert.InDelta(t, 8*math.Log(1.5), m.Seconds(4*PPQ), 1e-12)
	assert.InDelta(t, 8*math.Ln2+0.5, m.Seconds(9*PPQ), 1e-12)
	assert.InDelta(t, 90, m.BPM(4*PPQ), 1e-12)
	assert.InDelta(t, 120, m.BPM(10*PPQ), 1e-12)
}

// Over ten minutes the closed form and a sum of very many short steady stretches agree to
// a sample of 48 kHz.
func TestARampOverTenMinutesAgreesWithASum(t *testing.T) {
	const beats = 1200
	m := TempoMap{{Tick: 0, BPM: 90, To: 155}, {Tick: beats * PPQ, BPM: 155}}
	sum := 0.0
	const parts = 1 << 20
	for i := range parts {
		bpm := 90 + 65*(float64(i)+0.5)/parts
		sum += beats / float64(parts) * 60 / bpm
	}
	require.Greater(t, sum, 590.0)
	assert.InDelta(t, sum, m.Seconds(beats*PPQ), 1.0/48000)
}

func TestTimesAreThoseOfTheMap(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := TempoMap{}
		tick := 0
		for range rapid.IntRange(1, 8).Draw(t, "changes") {
			c := TempoChange{Tick: tick, BPM: rapid.Float64Range(MinBPM, MaxBPM).Draw(t, "bpm")}
			if rapid.Bool().Draw(t, "ramp") {
				c.To = rapid.Float64Range(MinBPM, MaxBPM).Draw(t, "to")
			}
			m = append(m, c)
			tick += rapid.IntRange(ShortestRamp, 64*PPQ).Draw(t, "length")
		}
		m[len(m)-1].To = 0
		if err := m.Validate(); err != nil {
			t.Fatal(err)
		}
		times := NewTimes(m)
		at := rapid.Float64Range(-1000, float64(tick)+1000).Draw(t, "at")
		s := m.Seconds(at)
		for name, got := range map[string]float64{"seconds": times.Seconds(at) - s, "ticks": m.Ticks(s) - at, "times' ticks": times.Ticks(s) - at} {
			if math.Abs(got) > 1e-6 {
				t.Fatalf("%s is off by %g at %g in %v", name, got, at, m)
			}
		}
		if later := m.Seconds(at + 1); later <= s {
			t.Fatalf("time stands at %g", at)
		}
	})
}

func TestTemposThatAreRefused(t *testing.T) {
	for text, m := range map[string]TempoMap{
		"outside 20 to 400": {{Tick: 0, BPM: 19}},
		"401":               {{Tick: 0, BPM: 401}},
		"too short":         {{Tick: 0, BPM: 90, To: 100}, {Tick: 1, BPM: 100}},
		"where it ends":     {{Tick: 0, BPM: 90, To: 100}},
		"in order":          {{Tick: 0, BPM: 90}, {Tick: 0, BPM: 90}},
	} {
		assert.ErrorContains(t, m.Validate(), text)
	}
}
