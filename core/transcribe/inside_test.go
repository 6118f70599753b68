package transcribe

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/dsp"
	"jubrak/core/groove"
	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// clicks is short bursts at the given times, each a decaying sine.
func clicks(seconds, hz, decay float64, times ...float64) []float32 {
	x := make([]float32, int(seconds*rate))
	for _, at := range times {
		from := int(at * rate)
		for i := from; i < len(x) && i < from+rate/2; i++ {
			t := float64(i-from) / rate
			x[i] += float32(0.5 * math.Sin(2*math.Pi*hz*t) * math.Exp(-t/decay))
		}
	}
	return x
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
		hits = append(hits, Hit{Time: at, Family: f, Velocity: 100, Confidence: 1}, Hit{Time: at + period/2, Family: sound.HatClosed, Velocity: 70, Confidence: 1})
		at += period
	}
	g, ok := findGrid(hits, at)
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

// patterned is an analysis that holds hits at steps of sixteenths.
func patterned(bars int, at map[sound.Family]func(step int) bool) *Analysis {
	a := &Analysis{Steps: 4, Unit: 4, Grid: &groove.BeatGrid{PerBar: 4}}
	for f, struck := range at {
		for s := range bars * 16 {
			if struck(s) {
				bar, step, offset := s/16, s%16, 0.0
				a.Hits = append(a.Hits, Hit{Family: f, Bar: &bar, Step: &step, Offset: &offset, Velocity: 100})
			}
		}
	}
	a.Bars = bars
	return a
}

func TestCycleLengths(t *testing.T) {
	for _, bars := range []int{1, 2, 3, 4, 5, 7, 8} {
		a := patterned(2*bars+2, map[sound.Family]func(int) bool{
			sound.Kick:  func(s int) bool { return s%4 == 0 },
			sound.Snare: func(s int) bool { return s%16 == 1+s/16%bars },
		})
		a.findCycles()
		require.NotNil(t, a.CycleBars, "%d bars", bars)
		assert.Equal(t, bars, *a.CycleBars)
	}
	short := patterned(1, map[sound.Family]func(int) bool{sound.Kick: func(s int) bool { return s == 0 }})
	short.findCycles()
	assert.Nil(t, short.CycleBars, "one bar says nothing of a cycle")
}

// Derivation: the hat plays eighths for six bars, then the ride takes over, but
// for one hat misheard in bar 10. Nothing runs against the bar.
func TestAFamilyThatStopsPlaying(t *testing.T) {
	a := patterned(10, map[sound.Family]func(int) bool{
		sound.Kick:      func(s int) bool { return s%32 == 0 || s%32 == 10 || s%32 == 23 },
		sound.HatClosed: func(s int) bool { return s%2 == 0 && s < 96 || s == 156 },
		sound.Ride:      func(s int) bool { return s%2 == 0 && s >= 96 },
	})
	a.findCycles()
	require.NotNil(t, a.CycleBars)
	assert.Equal(t, 2, *a.CycleBars)
	for _, c := range a.Cycles {
		require.NotNil(t, c.Bars, c.Family)
		assert.InDelta(t, 1, c.Repeats, 0.02, c.Family)
	}
	// Left out in every fourth bar, it has not stopped.
	a = patterned(12, map[sound.Family]func(int) bool{
		sound.Kick: func(s int) bool { return s%4 == 0 && s/16%4 != 3 },
		sound.Clap: func(s int) bool { return s%8 == 4 },
	})
	a.findCycles()
	require.NotNil(t, a.CycleBars)
	assert.Equal(t, 4, *a.CycleBars)
}

// Derivation: eighths repeat every 6 sixteenths too, and in five bars of them
// that happens oftener than a bar has its like in the next.
func TestEighthsDoNotRunAgainstTheBar(t *testing.T) {
	a := patterned(19, map[sound.Family]func(int) bool{
		sound.HatClosed: func(s int) bool {
			return s%2 == 0 && strings.Contains("01234 6789A EFGHI", string("0123456789ABCDEFGHI"[s/16]))
		},
	})
	a.findCycles()
	assert.Empty(t, a.Cycles)
}

func TestLinesThatRunAgainstTheBar(t *testing.T) {
	a := patterned(15, map[sound.Family]func(int) bool{
		sound.Kick: func(s int) bool { return s%4 == 0 },
		sound.Rim:  func(s int) bool { return s%15 == 0 || s%15 == 4 || s%15 == 7 },
		sound.Clap: func(s int) bool { return s%3 == 0 },
	})
	a.findCycles()
	found := map[sound.Family]Cycle{}
	for _, c := range a.Cycles {
		found[c.Family] = c
	}
	assert.Equal(t, 15, found[sound.Rim].Steps, "15 sixteenths against a bar of 16")
	assert.Nil(t, found[sound.Rim].Bars)
	assert.Equal(t, 3, found[sound.Clap].Steps)
	require.NotNil(t, found[sound.Kick].Bars)
	assert.Equal(t, 1, *found[sound.Kick].Bars)
}

func TestSteadiestStretch(t *testing.T) {
	a := patterned(20, map[sound.Family]func(int) bool{
		sound.Kick:  func(s int) bool { return s%4 == 0 },
		sound.Snare: func(s int) bool { return s/16 < 6 && s%7 == 3 || s/16 >= 6 && s%8 == 4 },
	})
	for i := range a.Hits {
		a.Hits[i].Confidence = 1
	}
	g := groove.SteadyGrid(0, 120, 81, 4)
	a.Grid, a.Duration = &g, 40
	r := a.Steadiest()
	require.NotNil(t, r)
	assert.GreaterOrEqual(t, r.From, 11.9, "the first six bars never repeat")
	assert.InDelta(t, 16, r.To-r.From, 1e-6)
	a.Bars = 8
	assert.Nil(t, a.Steadiest(), "a short file is studied whole")
}

func TestHypothesesHoldTheTruth(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		bpm := rapid.Float64Range(72, 172).Draw(r, "bpm")
		start := rapid.Float64Range(0, 0.7).Draw(r, "start")
		beat := 60 / bpm
		var hits []Hit
		for b := range 48 {
			f := sound.Kick
			if b%2 == 1 {
				f = sound.Snare
			}
			at := start + float64(b)*beat
			hits = append(hits, Hit{Time: at, Family: f, Velocity: 105, Confidence: 1}, Hit{Time: at + beat/2, Family: sound.HatClosed, Velocity: 70, Confidence: 1})
		}
		found := false
		x := make([]float64, HypothesisInputs)
		for _, h := range Hypotheses(hits) {
			d := (h.Start - start) / (4 * beat)
			found = found || (math.Abs(h.Period/beat-1) < 0.001 && math.Abs(d-math.Round(d))*4*beat < 0.01)
			h.Features(hits, x)
			for i, v := range x {
				require.False(r, math.IsNaN(v) || math.Abs(v) > 50, "input %d is %g", i, v)
			}
		}
		assert.True(r, found, "%g BPM from %g s is among them", bpm, start)
	})
}

// Derivation: of forty moments half lie 3 for one family, half 3 for the other;
// the ends of their difference are those two.
func TestContextSeesWhereTwoSoundsLie(t *testing.T) {
	var heard []drumnet.Heard
	for i := range 40 {
		h := drumnet.Heard{Frame: 100 * i}
		for k := range h.Odds {
			h.Odds[k] = -6
		}
		h.Odds[closedHat], h.Odds[openHat] = 2, -1
		if i%2 == 1 {
			h.Odds[closedHat], h.Odds[openHat] = -1, 2
		}
		heard = append(heard, h)
	}
	rows := Context(heard, nil, nil)
	for i, row := range rows {
		at := row[closedHat][21:24]
		if i%2 == 0 {
			assert.InDeltaSlice(t, []float64{1.5, 0, 1.5}, at, 1e-9, "at the upper end")
		} else {
			assert.InDeltaSlice(t, []float64{0, -1.5, 1.5}, at, 1e-9, "at the lower end")
		}
	}
}

func TestContextSeesOtherBars(t *testing.T) {
	g := groove.SteadyGrid(0, 120, 33, 4)
	var heard []drumnet.Heard
	at := func(seconds, odds float64) {
		h := drumnet.Heard{Frame: int(seconds * rate / hop)}
		for k := range h.Odds {
			h.Odds[k] = -6
		}
		h.Odds[1] = odds
		heard = append(heard, h)
	}
	for bar := range 8 {
		odds := 5.0
		if bar == 3 {
			odds = -0.5 // covered once
		}
		at(float64(bar)*2+0.5, odds)
		at(float64(bar)*2+1.1, -6) // nothing, off the grid
	}
	rows := Context(heard, &g, nil)
	require.Len(t, rows, 16)
	covered, elsewhere := rows[6][1], rows[6][2]
	assert.InDelta(t, 1, covered[8], 1e-9, "it is struck there in every other bar")
	assert.Zero(t, elsewhere[8])
	assert.Greater(t, covered[3], 1.0, "and heard surely")
	alone := Context(heard, nil, nil)
	assert.Zero(t, alone[6][1][6], "without a grid there are no other bars")
	before := heard[6].Odds[1]
	reconsider(heard, rows)
	assert.Greater(t, heard[6].Odds[1], before, "so it is believed more")
	assert.Empty(t, Context(nil, &g, nil))
}

func TestAHatIsOpenOrClosed(t *testing.T) {
	h := drumnet.Heard{Frame: 100}
	for k := range h.Odds {
		h.Odds[k] = -4
	}
	h.Odds[closedHat], h.Odds[openHat] = 1, 3
	named := decide([]drumnet.Heard{h})
	require.Len(t, named, 1)
	assert.Equal(t, sound.HatOpen, named[0].family)
}

func TestLevelsFollowTheStroke(t *testing.T) {
	// Low bursts whose level falls by 3 dB from hit to hit, under equal highs.
	n := 8
	x := make([]float32, 5*rate)
	var named []found
	for i := range n {
		at := 0.3 + 0.5*float64(i)
		for j, v := range clicks(0.4, 80, 0.05, 0) {
			x[int(at*rate)+j] += v * float32(math.Pow(10, -3*float64(i)/20))
		}
		for j, v := range clicks(0.4, 9000, 0.01, 0) {
			x[int(at*rate)+j] += 0.5 * v
		}
		frame := int(at * rate / hop)
		// The first network hears it within a decibel or two.
		heard := -3*float64(i) + 1.5*float64(i%2)
		named = append(named, found{frame: frame, family: sound.Kick, time: at, level: heard, confidence: 1}, found{confidence: 1, frame: frame, family: sound.HatClosed, time: at})
	}
	s, err := drumnet.NewSpectrum(context.Background(), x, func(float64) {})
	require.NoError(t, err)
	env := newEnvelopes(x, drumnet.LowsOf(x))
	measureLevels(drumnet.NewScene(s), env, named, remember(x, drumnet.LowsOf(x), named, env.about(named), searched).find(named, env.about(named)))
	for i := 2; i < 2*n; i += 2 {
		assert.Less(t, named[i].level, named[i-2].level-1.2, "each kick is softer than the one before")
	}
	kicks, hats := named[0].level-named[2*n-2].level, math.Abs(named[1].level-named[2*n-1].level)
	assert.InDelta(t, 3*float64(n-1), kicks, 7)
	assert.Less(t, hats, 0.45*kicks, "the hats hardly follow the kicks")
}

func TestVelocityOfLevels(t *testing.T) {
	assert.Equal(t, 112, velocity(0))
	assert.Equal(t, 127, velocity(40))
	assert.Equal(t, 1, velocity(-200))
	assert.InDelta(t, 56, velocity(-12.04), 1, "General MIDI 2: 40 log10 of half the velocity")
}

func TestNearEnvelopeIsTheWhole(t *testing.T) {
	x := clicks(2, 3000, 0.05, 0.3, 0.9, 1.6)
	all := newEnvelope(x, filters[highs]...)
	near := newEnvelopes(x, drumnet.LowsOf(x))
	for _, at := range []float64{0.3, 0.9, 1.6, 1.99, 0} {
		i := int(at * rate)
		a, rise := all.start(i)
		o := near.onset(i, highs)
		assert.InDelta(t, a, o.sample, 3, "at %g s", at)
		assert.Equal(t, o, near.onset(i, highs), "remembered")
		if at > 0 && at < 1.9 {
			assert.InEpsilon(t, rise, o.rise, 0.01)
			assert.InEpsilon(t, slices.Max(all.energy[i-rate*6/1000:i+rate*20/1000]), o.top, 1e-3)
		}
	}
}

// Derivation: a random pattern that is repeated has the length at which it
// was made, or a shorter one that fits as well.
func TestRepeatedPatternsHaveTheirCycle(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		bars := rapid.IntRange(1, 8).Draw(r, "bars")
		struck := rapid.SliceOfN(rapid.Bool(), 16*bars, 16*bars).Draw(r, "struck")
		struck[0], struck[8], struck[4] = true, true, true
		a := patterned(3*bars+2, map[sound.Family]func(int) bool{sound.Kick: func(s int) bool { return struck[s%len(struck)] }})
		a.findCycles()
		require.NotNil(r, a.CycleBars)
		assert.LessOrEqual(r, *a.CycleBars, bars)
		for _, c := range a.Cycles {
			assert.GreaterOrEqual(r, c.Repeats, enoughRepeats-1e-9)
		}
	})
}

func TestTempoCurveFollowsTheHits(t *testing.T) {
	// A grid of 120 BPM under a drummer who plays 121 in the second half.
	g := groove.SteadyGrid(0, 120, 65, 4)
	raw := &Raw{Unit: 4, Grid: &g, Duration: 32}
	at := 0.0
	for i := range 128 {
		raw.Hits = append(raw.Hits, Hit{ID: fmt.Sprint(i), Time: at, Family: sound.Kick, Velocity: 100, Confidence: 1})
		if i < 64 {
			at += 0.25
		} else {
			at += 0.25 * 120 / 121
		}
	}
	a := Finish(raw, nil)
	require.Greater(t, len(a.TempoCurve), 12)
	assert.InDelta(t, 120, a.TempoCurve[3].Tempo, 0.05)
	assert.InDelta(t, 121, a.TempoCurve[12].Tempo, 0.05)
	for i, p := range a.TempoCurve {
		assert.Equal(t, i, p.Bar)
		assert.InDelta(t, a.Grid.Seconds(float64(4*i+2)), p.Time, 1e-9)
	}
}

func TestByStepCountsEveryHit(t *testing.T) {
	a := patterned(8, map[sound.Family]func(int) bool{
		sound.Kick:  func(s int) bool { return s%8 == 0 },
		sound.Snare: func(s int) bool { return s%16 == 4 || s%32 == 28 },
	})
	for i := range a.Hits {
		*a.Hits[i].Offset = float64(i%3) - 1
		a.Hits[i].Velocity = 90 + i%5
	}
	a.findCycles()
	require.Equal(t, 2, *a.CycleBars)
	a.Hits[0].Covered, *a.Hits[0].Offset = true, 50 // not its own
	a.onSteps = nil
	stats := a.byStep()
	total, timed := 0, 0
	for _, s := range stats {
		total, timed = total+s.Count, timed+s.Timed
		assert.Less(t, s.Step, 32)
		assert.LessOrEqual(t, math.Abs(s.Offset), 1.0)
		assert.InDelta(t, 92, s.Velocity, 2)
	}
	assert.Equal(t, len(a.Hits), total)
	assert.Equal(t, len(a.Hits)-1, timed)
	assert.Len(t, stats, 4+3, "four places of the kick, three of the snare")
}

// What is tapped is about right; what is typed is meant.
func TestATappedTempoIsDrawnToTheHitsATypedOneKept(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		bpm := rapid.Float64Range(70, 170).Draw(r, "bpm")
		off := rapid.Float64Range(-0.4, 0.4).Draw(r, "off by")
		g := groove.SteadyGrid(0.2, 97, 40, 4)
		raw := &Raw{Unit: 4, Kind: "audio", Duration: 0.2 + 64*60/bpm, Grid: &g}
		for i := range 64 {
			raw.Hits = append(raw.Hits, Hit{ID: fmt.Sprint(i), Time: 0.2 + float64(i)*60/bpm, Family: sound.Kick, Velocity: 100})
		}
		tapped := Finish(raw, []Correction{{Kind: "tapped", Value: bpm + off}})
		assert.InDelta(r, bpm, *tapped.Tempo, 0.05)
		assert.InDelta(r, 0.2, tapped.Grid.Seconds(0), 2e-3, "bar one stays where it was")
		typed := Finish(raw, []Correction{{Kind: "tempo", Value: bpm + off}})
		assert.InDelta(r, bpm+off, *typed.Tempo, 1e-6)
	})
}

func TestBeatsDrawnByHandStayInOrder(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		beats := groove.SteadyGrid(0, 120, 24, 4).Beats
		at := rapid.IntRange(0, 23).Draw(r, "beat")
		to := beats[at] + rapid.Float64Range(-1, 1).Draw(r, "by")
		moveBeat(beats, at, to)
		for i := 1; i < len(beats); i++ {
			require.Greater(r, beats[i], beats[i-1])
		}
	})
}
