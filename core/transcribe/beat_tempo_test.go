package transcribe

import (
	"fmt"
	"math"
	"math/rand/v2"
	"sort"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/sound"
)

// played is bars of a plain beat whose beats lie where at says, with a spread
// in ms; density is the share of hats that are struck.
func played(bars int, at func(beat float64) float64, spread, density float64, seed uint64) []Hit {
	r := rand.New(rand.NewPCG(seed, 6))
	var hits []Hit
	add := func(beat float64, f sound.Family, velocity int) {
		t := at(beat) + r.NormFloat64()*spread/1000
		if t < 0 {
			t = -t
		}
		hits = append(hits, Hit{Time: t, Family: f, Velocity: velocity, Confidence: 0.99})
	}
	for bar := range bars {
		one := float64(4 * bar)
		add(one, sound.Kick, 112)
		add(one+2.5, sound.Kick, 90)
		add(one+1, sound.Snare, 108)
		add(one+3, sound.Snare, 110)
		if bar%2 == 1 {
			add(one+3.75, sound.Kick, 70)
		}
		for k := range 8 {
			if r.Float64() < density {
				add(one+float64(k)/2, sound.HatClosed, 80-20*(k%2))
			}
		}
	}
	sort.SliceStable(hits, func(i, j int) bool { return hits[i].Time < hits[j].Time })
	for i := range hits {
		hits[i].ID = fmt.Sprint("r", i+1)
	}
	return hits
}

func analysed(t *testing.T, hits []Hit, duration float64) *Analysis {
	t.Helper()
	g, ok := findGrid(hits, duration)
	require.True(t, ok)
	return Finish(&Raw{Kind: "audio", Duration: duration, Unit: 4, Hits: hits, Grid: &g.BeatGrid, Confidence: g.confidence, BarOne: g.barOne}, nil)
}

// A file that is exactly N bars long says its tempo: also with few hits and much
// scatter it is exact, and its bars are as many as they are.
func TestALoopsLengthSaysItsTempo(t *testing.T) {
	for _, bpm := range []float64{83, 97.5, 102, 124, 168} {
		for _, bars := range []int{1, 2, 4, 8} {
			for seed := range uint64(3) {
				beat := 60 / bpm
				duration := float64(4*bars) * beat
				hits := played(bars, func(b float64) float64 { return b * beat }, 6, 0.6, seed)
				// An early stroke of the next pass stands at the end.
				hits = append(hits, Hit{ID: "e", Time: duration - 0.009, Family: sound.Kick, Velocity: 100, Confidence: 0.99})
				a := analysed(t, hits, duration)
				name := fmt.Sprintf("%g BPM, %d bars, seed %d: %.3f BPM, %d bars", bpm, bars, seed, *a.Tempo, a.Bars)
				ratio := *a.Tempo / bpm
				if r := math.Round(math.Log2(ratio)); r != 0 {
					continue // an octave off is another matter
				}
				assert.InDelta(t, 1, ratio, 0.0003, name)
				require.NotNil(t, a.LoopBars, name)
				assert.Equal(t, bars, a.Bars, name)
			}
		}
	}
	// A file that merely ends somewhere is no loop.
	a := analysed(t, played(8, func(b float64) float64 { return 0.4 + b*0.6 }, 2, 1, 1), 20.6)
	assert.Nil(t, a.LoopBars)
}

func TestATempoThatJumps(t *testing.T) {
	for _, c := range []struct {
		from, to float64
		at       int // bar
	}{{102, 132, 8}, {132, 102, 10}, {90, 100, 12}, {140, 118, 9}} {
		at := func(beat float64) float64 {
			first := float64(4 * c.at)
			return 0.2 + math.Min(beat, first)*60/c.from + math.Max(beat-first, 0)*60/c.to
		}
		hits := played(20, at, 2, 1, 3)
		a := analysed(t, hits, at(80)+0.5)
		fact := a.Facts[0].Text
		assert.Contains(t, fact, "changing from", "%+v: %s", c, fact)
		assert.NotContains(t, fact, "steady")
		before, after := a.TempoCurve[2].Tempo, a.TempoCurve[len(a.TempoCurve)-3].Tempo
		assert.InEpsilon(t, c.from, before, 0.01, "%+v", c)
		assert.InEpsilon(t, c.to, after, 0.01, "%+v", c)
		near := 0
		for _, h := range a.Hits {
			if math.Abs(*h.Offset) < 20 {
				near++
			}
		}
		assert.Greater(t, float64(near)/float64(len(a.Hits)), 0.95, "%+v: its hits lie on its steps", c)
	}
	steady := analysed(t, played(20, func(b float64) float64 { return 0.2 + b*0.55 }, 3, 1, 4), 45)
	assert.Contains(t, steady.Facts[0].Text, "steady")
}

// A tempo that wanders is followed, and reported as surely as it is known.
func TestAWanderingTempoIsSure(t *testing.T) {
	for seed := range uint64(6) {
		for _, bpm := range []float64{88, 104, 126} {
			r := rand.New(rand.NewPCG(seed, 8))
			phase, slow := r.Float64()*6, 26+20*r.Float64()
			var beats []float64
			now := 0.1
			for b := range 100 {
				beats = append(beats, now)
				now += 60 / (bpm * (1 + 0.02*math.Sin(2*math.Pi*float64(b)/slow+phase)))
			}
			at := func(beat float64) float64 {
				i := int(beat)
				return beats[i] + (beat-float64(i))*(beats[i+1]-beats[i])
			}
			a := analysed(t, played(24, at, 3, 1, seed), beats[97])
			near := 0
			for _, h := range a.Hits {
				if math.Abs(*h.Offset) < 25 {
					near++
				}
			}
			followed := math.Abs(*a.Tempo/bpm-1) < 0.01 && float64(near) > 0.9*float64(len(a.Hits))
			assert.True(t, followed, "%g BPM, seed %d: %.2f, %d of %d near", bpm, seed, *a.Tempo, near, len(a.Hits))
			assert.Greater(t, *a.Confidence, 0.8, "%g BPM, seed %d", bpm, seed)
			assert.Greater(t, *a.BarOne, 0.5, "%g BPM, seed %d", bpm, seed)
		}
	}
}

// Derivation: 8 bars at 111.6 BPM with 40 ms more at the end would be read as
// 111.34 BPM, and by the last bar the hits, played loosely, would lie 40 ms off
// their places.
func TestALoopWithATailKeepsItsTempo(t *testing.T) {
	period := 60 / 111.6
	var hits []Hit
	for i := range 64 {
		hits = append(hits, Hit{Time: float64(i)*period/2 + 0.026*math.Sin(2.4*float64(i*i))})
	}
	exact := Hypothesis{Period: period * 1.0003}
	exact.closeLoop(hits, 32*period)
	assert.InDelta(t, 111.6, 60/exact.Period, 0.001, "an exact length says the tempo")
	tail := Hypothesis{Period: period}
	tail.closeLoop(hits, 32*period+0.04)
	assert.InDelta(t, 111.6, 60/tail.Period, 0.001, "a tail does not")
}
