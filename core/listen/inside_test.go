package listen

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/dsp"
	"jubrak/core/groove"
	"jubrak/core/sound"
)

// clicks is short bursts at the given times, each a decaying sine.
func clicks(seconds, hz, decay float64, times ...float64) []float64 {
	x := make([]float64, int(seconds*rate))
	for _, at := range times {
		from := int(at * rate)
		for i := from; i < len(x) && i < from+rate/2; i++ {
			t := float64(i-from) / rate
			x[i] += 0.5 * math.Sin(2*math.Pi*hz*t) * math.Exp(-t/decay)
		}
	}
	return x
}

func spectrumOf(t *testing.T, x []float64) *spectrum {
	t.Helper()
	s, err := newSpectrum(context.Background(), x, func(float64) {})
	require.NoError(t, err)
	return s
}

func TestSpectrumFilesFrequencies(t *testing.T) {
	for _, c := range []struct {
		hz   float64
		band int
	}{{60, 0}, {100, 1}, {1000, 10}, {8000, 19}, {15000, 22}} {
		s := spectrumOf(t, clicks(1, c.hz, 10, 0))
		row := s.power[len(s.power)/2]
		best := 0
		for b := range row {
			if row[b] > row[best] {
				best = b
			}
		}
		assert.Equal(t, c.band, best, "%g Hz", c.hz)
	}
}

func TestFluxRisesAtOnsetsAlone(t *testing.T) {
	s := spectrumOf(t, clicks(2, 200, 0.08, 0.5, 1.2))
	all, low, _, high := s.flux()
	found := pickOnsets(all, low, low, high)
	require.Len(t, found, 2, "ringing makes no onsets")
	for i, at := range []float64{0.5, 1.2} {
		assert.InDelta(t, at, float64(found[i].frame)*hop/rate, 0.012)
	}
	quiet := spectrumOf(t, make([]float64, rate))
	all, low, mid, high := quiet.flux()
	assert.Empty(t, pickOnsets(all, low, mid, high))
}

func TestEnvelopeFindsTheStart(t *testing.T) {
	x := clicks(1, 3000, 0.05, 0.3)
	e := newEnvelope(x)
	for _, guess := range []float64{-0.004, 0, 0.006, 0.012} {
		at, rise := e.start(int((0.3 + guess) * rate))
		assert.InDelta(t, 0.3, float64(at)/rate, 0.0008, "from a guess %g s off", guess)
		assert.Greater(t, rise, 100.0)
	}
	// Over a louder sound that rings on, the new one is still found.
	under := clicks(1, 3000, 0.05, 0.3)
	for i, v := range clicks(1, 300, 0.3, 0.05) {
		under[i] += 0.2 * v
	}
	high := newEnvelope(under, dsp.HighPass(1500, 0.7, rate))
	at, _ := high.start(13318)
	assert.InDelta(t, 0.3, float64(at)/rate, 0.001)
	_, rise := e.start(0)
	assert.Zero(t, rise, "nothing starts in silence")
	assert.NotPanics(t, func() { e.start(len(x) + 500) })
}

func TestDecodeTakesSimultaneousHitsApart(t *testing.T) {
	w := priors()
	var rises [][bands]float64
	mix := func(k, s, h float64) {
		var v [bands]float64
		for b := range v {
			v[b] = k*w[kickPart][b] + s*w[snarePart][b] + h*w[hatPart][b]
		}
		rises = append(rises, v)
	}
	for range 5 {
		mix(10, 0, 0)
		mix(0, 6, 0)
		mix(0, 0, 2)
		mix(10, 0, 2)
		mix(0, 6, 2)
	}
	h, _ := decode(rises)
	for i, want := range [][parts]float64{{10, 0, 0}, {0, 6, 0}, {0, 0, 2}, {10, 0, 2}, {0, 6, 2}} {
		for k := range parts {
			assert.InDelta(t, want[k], h[i][k], 0.6, "onset %d, part %d", i, k)
		}
	}
}

func TestOpenAndClosedFalls(t *testing.T) {
	assert.InDelta(t, 20, splitFalls([]float64{8, 9, 10, 30, 31, 32, 33, 9}), 3, "two groups are parted in the middle")
	assert.Equal(t, float64(fixedFall), splitFalls([]float64{30, 31, 32, 33, 34, 35, 36}), "one group is not")
	assert.Equal(t, float64(fixedFall), splitFalls([]float64{30}))
}

func pulses(bpm float64, beats int, wander func(i int) float64) ([]float64, []float64) {
	var times []float64
	t := 0.5
	for i := range beats {
		times = append(times, t)
		t += 60 / (bpm * wander(i))
	}
	flux := make([]float64, int((t+1)*rate/hop))
	for _, at := range times {
		flux[int(at*rate/hop)] = 1
	}
	return flux, times
}

func TestTempoCandidates(t *testing.T) {
	for _, bpm := range []float64{72, 96, 124, 150, 174} {
		flux, _ := pulses(bpm, 48, func(int) float64 { return 1 })
		best := math.Inf(1)
		for _, c := range tempoCandidates(smooth(flux, 1, 1), 6) {
			best = math.Min(best, math.Abs(c/bpm-1))
		}
		assert.Less(t, best, 0.02, "%g BPM is among them", bpm)
	}
}

func TestDynamicProgrammingFollowsAWanderingTempo(t *testing.T) {
	flux, times := pulses(110, 60, func(i int) float64 { return 1 + 0.05*math.Sin(float64(i)/8) })
	beats := trackBeats(flux, 110)
	hit := 0
	for _, at := range times {
		for _, b := range beats {
			if math.Abs(float64(b)*hop/rate-at) < 0.03 {
				hit++
				break
			}
		}
	}
	assert.Greater(t, hit, 55, "of %d", len(times))
	assert.InDelta(t, 60, len(beats), 4)
}

func TestBarOne(t *testing.T) {
	hits := func(shift int) (out []Hit) {
		for beat := range 32 {
			f := sound.Kick
			if beat%2 == 1 {
				f = sound.Snare
			}
			v := 100
			if beat%4 == 2 {
				v = 70
			}
			out = append(out, Hit{Time: float64(beat+shift) * 0.5, Family: f, Velocity: v})
		}
		return out
	}
	g := groove.SteadyGrid(0, 120, 40, 4)
	for shift := range 4 {
		assert.Equal(t, shift, barOne(&g, hits(shift)))
	}
}

func TestWanderingPerformanceIsFollowed(t *testing.T) {
	// A drummer who speeds up by 6 % over 16 bars, hits known exactly.
	var hits []Hit
	at := 0.3
	for beat := range 64 {
		f := sound.Kick
		if beat%2 == 1 {
			f = sound.Snare
		}
		period := 0.6 * (1 - 0.06*float64(beat)/64)
		hits = append(hits, Hit{Time: at, Family: f, Velocity: 100}, Hit{Time: at + period/2, Family: sound.HatClosed, Velocity: 70})
		at += period
	}
	flux := make([]float64, int((at+1)*rate/hop))
	for _, h := range hits {
		flux[int(h.Time*rate/hop)] += float64(h.Velocity) / 100
	}
	g, ok := findGrid(smooth(flux, 1, 1), hits, at)
	require.True(t, ok)
	near := 0
	for i := 0; i < len(hits); i += 2 {
		p := g.Position(hits[i].Time)
		if math.Abs(p-math.Round(p)) < 0.1 {
			near++
		}
	}
	assert.Greater(t, near, 56, "of 64 beats are on the grid")
}

func TestCycleLengths(t *testing.T) {
	for bars, want := range map[int]*int{1: ptr(1), 2: ptr(2), 4: ptr(4)} {
		a := &Analysis{}
		for bar := range 12 {
			for _, step := range []int{0, 4, 8, 12} {
				a.add(sound.Kick, bar, step)
			}
			a.add(sound.Snare, bar, 1+bar%bars)
		}
		got := a.cycle()
		require.NotNil(t, got)
		assert.Equal(t, *want, *got)
	}
	short := &Analysis{}
	short.add(sound.Kick, 0, 0)
	assert.Nil(t, short.cycle(), "one bar says nothing of a cycle")
}

func ptr(v int) *int { return &v }

func (a *Analysis) add(f sound.Family, bar, step int) {
	a.Hits = append(a.Hits, Hit{Family: f, Bar: &bar, Step: &step})
}
