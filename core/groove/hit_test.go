package groove

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat"
	"pgregory.net/rapid"

	"jubrak/core/dsp"
	"jubrak/core/music"
)

func ticksOf(h Hit) (out []int) {
	for _, s := range h.Opened(nil) {
		out = append(out, h.Tick+s.Ticks)
	}
	return out
}

// Worked examples: six to a beat over two beats are sixteenth triplets, 160 ticks apart;
// eight strokes over four sixteenths are thirty-seconds.
func TestRollsDivideTheirLength(t *testing.T) {
	h := Hit{Tick: 960, Velocity: 120, Length: 960, Roll: Even{PerBeat: 6, VelocityTo: 20}}
	assert.Equal(t, []int{960, 1120, 1280, 1440, 1600, 1760}, ticksOf(h))
	s := h.Opened(nil)
	assert.InDelta(t, 120, 120*s[0].Velocity, 1e-9)
	assert.InDelta(t, 60, 120*s[3].Velocity, 1e-9)
	assert.InDelta(t, 20, 120*s[5].Velocity, 1e-9)
	assert.Equal(t, []int{0, 120, 240, 360, 480, 600, 720, 840}, ticksOf(Hit{Velocity: 90, Length: 960, Roll: Even{Strokes: 8}}))
	pitched := Hit{Velocity: 90, Length: 960, Roll: Even{Strokes: 4, PitchTo: 3}}
	for k, s := range pitched.Opened(nil) {
		assert.InDelta(t, float64(k), s.Semitones, 1e-9)
	}
}

// A roll whose last distance is half of its first: four strokes over 1500 ticks lie a
// geometric series apart, 1 : 2^(-1/3) : 2^(-2/3) : 1/2.
func TestRollsSpeedUp(t *testing.T) {
	h := Hit{Velocity: 90, Length: 1500, Roll: Even{Strokes: 4, Spacing: 50}}
	at := ticksOf(h)
	first := 1500 / (1 + math.Exp2(-1./3) + math.Exp2(-2./3) + 0.5)
	assert.InDelta(t, first, at[1], 1)
	assert.InDelta(t, first*(1+math.Exp2(-1./3)), at[2], 1)
	assert.InDelta(t, first*(1+math.Exp2(-1./3)+math.Exp2(-2./3)), at[3], 1)
	rapid.Check(t, func(t *rapid.T) {
		h := Hit{Velocity: 90, Length: rapid.IntRange(1, 4000).Draw(t, "length"), Roll: Even{Strokes: rapid.IntRange(2, MaxStrokes).Draw(t, "strokes"), Spacing: rapid.Float64Range(1, 400).Draw(t, "spacing")}}
		at := ticksOf(h)
		assert.Len(t, at, h.Roll.Strokes)
		for i := 1; i < len(at); i++ {
			assert.GreaterOrEqual(t, at[i], at[i-1])
		}
		assert.LessOrEqual(t, at[len(at)-1], h.Length)
	})
	assert.Len(t, ticksOf(Hit{Velocity: 90, Length: 96000, Roll: Even{PerBeat: 48}}), MaxStrokes, "bounded")
}

// Common practice: a flam's grace notes come just before the beat, softer. Of three at
// 12 ms the first lies 36 ms before; 12 dB softer is half the velocity.
func TestFlams(t *testing.T) {
	g := dense(1, "snare")
	g.Lanes[0].Hits = []Hit{{ID: "a", Tick: 960, Velocity: 100, Flam: Flam{Strokes: 3, Spacing: 12, Level: -12}}}
	require.NoError(t, g.Validate())
	line := NewLine(g, music.Steady(120), 0)
	events := line.Events(0, 3840, nil)
	require.Len(t, events, 4)
	for k, want := range []float64{-36, -24, -12, 0} {
		assert.InDelta(t, want, events[k].Offset, 1e-9)
		assert.InDelta(t, 0.5+want/1000, events[k].Time, 1e-9)
	}
	assert.Equal(t, 50, events[0].Velocity)
	assert.Equal(t, 100, events[3].Velocity)
	early, _ := line.Reach()
	assert.GreaterOrEqual(t, early, 36.0)
}

// However a line is asked for, in one piece or many, it gives the same strokes.
func TestWindowsOfRollsAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := dense(2, "hat", "snare")
		for i := range g.Lanes {
			for j := range g.Lanes[i].Hits {
				h := &g.Lanes[i].Hits[j]
				switch rapid.IntRange(0, 5).Draw(t, "kind") {
				case 0:
					h.Length, h.Roll = rapid.IntRange(1, 3000).Draw(t, "length"), Even{Strokes: rapid.IntRange(2, 12).Draw(t, "n"), Spacing: 70}
				case 1:
					h.Flam = Flam{Strokes: 2, Spacing: 10}
				case 2:
					h.Times, h.Of = 1, 3
				}
			}
		}
		g.Feel.Swing = 61
		g.Lanes[0].Steps = rapid.SampledFrom([]int{0, 7, 32}).Draw(t, "steps")
		g.Lanes[0].Hits = g.Lanes[0].Hits[:min(len(g.Lanes[0].Hits), max(g.Lanes[0].Steps, 7))]
		require.NoError(t, g.Validate())
		var line *Line
		switch rapid.IntRange(0, 2).Draw(t, "line") {
		case 0:
			line = NewLine(g, music.Steady(97), 0)
		case 1:
			line = NewLine(g, music.Steady(97), 7680)
		case 2:
			line = NewRounds(g, music.Steady(97), 3840, 7680)
		}
		whole := line.Events(0, 20000, nil)
		var parts []Event
		for from := 0; from < 20000; {
			to := min(from+rapid.IntRange(1, 2500).Draw(t, "window"), 20000)
			parts = line.Events(from, to, parts)
			from = to
		}
		require.Equal(t, whole, parts)
		for i := 1; i < len(whole); i++ {
			require.GreaterOrEqual(t, whole[i].Tick, whole[i-1].Tick)
		}
	})
}

// "2 of 3 times" is two of each three passes, which of them by the seed.
func TestChanceKeepsItsCount(t *testing.T) {
	g := dense(1, "hat")
	g.Lanes[0].Hits = []Hit{{ID: "a", Tick: 0, Velocity: 90, Times: 2, Of: 3}, {ID: "b", Tick: 960, Velocity: 90, Times: 0, Of: 1}}
	struck := func(seed int64) (out []bool) {
		g.Seed = seed
		line := NewLine(g, music.Steady(120), 0)
		for pass := range 60 {
			out = append(out, len(line.Events(pass*3840, pass*3840+3840, nil)) > 0)
		}
		return out
	}
	a := struck(1)
	for i := 0; i < len(a); i += 3 {
		n := 0
		for _, on := range a[i : i+3] {
			if on {
				n++
			}
		}
		assert.Equal(t, 2, n)
	}
	assert.Equal(t, a, struck(1))
	assert.NotEqual(t, a, struck(2))
}

// Scatter never takes a hit past its neighbour, however wide it is.
func TestScatterCrossesNoNeighbour(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := dense(2, "hat")
		for i := range g.Lanes[0].Hits {
			g.Lanes[0].Hits[i].Tick = i * 60 // sixty-fourths
		}
		g.Feel.Voices["hat"] = VoiceFeel{Scatter: 50}
		g.Feel.ScatterKind = rapid.SampledFrom([]ScatterKind{White, Pink}).Draw(t, "kind")
		g.Seed = rapid.Int64().Draw(t, "seed")
		line := NewLine(g, music.Steady(180), 0)
		events := line.Events(0, 3*g.Ticks(), nil)
		for i := 1; i < len(events); i++ {
			require.Greater(t, events[i].Time, events[i-1].Time)
		}
	})
}

// A part that goes round repeats its place and draws its scatter and chance anew.
func TestRounds(t *testing.T) {
	g := dense(4, "hat")
	g.Feel.Voices["hat"] = VoiceFeel{Scatter: 3}
	line := NewRounds(g, music.Steady(120), 3840, 7680)
	one, two := line.Events(3840, 7680, nil), line.Events(7680, 11520, nil)
	require.Len(t, two, 16)
	for i := range one {
		assert.Equal(t, one[i].Hit, two[i].Hit, "the second bar again")
		assert.NotEqual(t, one[i].Offset, two[i].Offset)
		assert.InDelta(t, 2, line.Seconds(float64(two[i].Tick))-line.Seconds(float64(one[i].Tick)), 1e-9)
	}
	assert.InDelta(t, 3840+100, line.Within(7680+100), 1e-9)
	assert.InDelta(t, 11520, line.Ticks(line.Seconds(11520)), 1e-6)
}

// Worked examples of the paper: E(3,8) is the tresillo, E(5,8) the cinquillo, E(4,12),
// E(2,5), E(7,12) (Toussaint, BRIDGES 2005).
func TestSpreadAgainstThePaper(t *testing.T) {
	for _, c := range []struct {
		strokes, steps int
		want           string
	}{
		{3, 8, "x..x..x."}, {5, 8, "x.xx.xx."}, {4, 12, "x..x..x..x.."}, {2, 5, "x.x.."}, {3, 7, "x.x.x.."}, {7, 12, "x.xx.x.xx.x."},
		{4, 9, "x.x.x.x.."}, {5, 12, "x..x.x..x.x."}, {9, 16, "x.xx.x.x.xx.x.x."}, {5, 16, "x..x..x..x..x..."}, {0, 4, "...."}, {4, 4, "xxxx"}, {1, 4, "x..."},
	} {
		got := ""
		for _, on := range Spread(c.strokes, c.steps) {
			if on {
				got += "x"
			} else {
				got += "."
			}
		}
		assert.Equal(t, c.want, got, fmt.Sprint(c))
	}
}

// Own swings and the parts heard alone.
func TestPartsOfAFeel(t *testing.T) {
	g := dense(1, "hat", "kick")
	g.Feel.Swing = 60
	g.Feel.Voices["hat"] = VoiceFeel{Swing: 54, Lean: 7, Accent: []float64{1, 0.5}}
	g.Feel.Ramp = Ramp{Curve: []float64{0, -50}, Voices: []string{"kick"}}
	at := func(f Feel, lane, step int) Event {
		o := *g
		o.Feel = f
		return NewLine(&o, music.Steady(120), 0).Events(0, 3840, nil)[2*step+lane]
	}
	assert.InDelta(t, 10+7, at(g.Feel, 0, 1).Offset, 1e-9, "54 % of a pair of 250 ms")
	assert.InDelta(t, 25, at(g.Feel, 1, 1).Offset, 1e-9)
	assert.Equal(t, 45, at(g.Feel, 0, 1).Velocity)
	assert.Less(t, at(g.Feel, 1, 8).Velocity, 90, "on the way to bar 2")
	assert.InDelta(t, 7, at(g.Feel.Only("lean"), 0, 1).Offset, 1e-9)
	assert.Zero(t, at(g.Feel.Only("lean"), 1, 1).Offset)
	assert.InDelta(t, 10, at(g.Feel.Only("swing"), 0, 1).Offset, 1e-9)
	assert.Equal(t, 90, at(g.Feel.Only("swing"), 0, 1).Velocity)
	assert.Equal(t, 45, at(g.Feel.Only("accent"), 0, 1).Velocity)
	assert.Equal(t, at(g.Feel, 0, 1), at(g.Feel.Only(FeelParts...), 0, 1))
}

// Published: the timing of human drummers has a spectrum that falls as 1/f^α, α about
// 0.9 to 1 (Hennig et al. 2011, PLoS ONE 6:e26457). Its slope over three octaves and
// more of the long-range scatter lies between 0.7 and 1.2.
func TestLongRangeScatterFallsAsPublished(t *testing.T) {
	const n = 4096
	power := make([]float64, n/2)
	for seed := range uint64(24) {
		x := make([]float64, 2*n)
		mean := 0.0
		for i := range n {
			x[2*i] = dsp.Pink(seed+1, i)
			mean += x[2*i] / n
		}
		re := make([]complex128, n)
		for i := range n {
			re[i] = complex(x[2*i]-mean, 0)
		}
		spec := dft(re)
		for k := 1; k < n/2; k++ {
			power[k] += real(spec[k])*real(spec[k]) + imag(spec[k])*imag(spec[k])
		}
	}
	var lx, ly []float64
	for k := 8; k < 512; k = int(float64(k)*1.3) + 1 {
		sum := 0.0
		for j := k; j < k+k/4+1; j++ {
			sum += power[j] / float64(k/4+1)
		}
		lx, ly = append(lx, math.Log(float64(k))), append(ly, math.Log(sum))
	}
	_, slope := stat.LinearRegression(lx, ly, nil, false)
	t.Logf("1/f^%.2f", -slope)
	assert.InDelta(t, 0.95, -slope, 0.25)
}

// dft is the plain recursive transform of a power of two.
func dft(x []complex128) []complex128 {
	n := len(x)
	if n == 1 {
		return x
	}
	even, odd := make([]complex128, n/2), make([]complex128, n/2)
	for i := range even {
		even[i], odd[i] = x[2*i], x[2*i+1]
	}
	even, odd = dft(even), dft(odd)
	out := make([]complex128, n)
	for k := range even {
		s, c := math.Sincos(-2 * math.Pi * float64(k) / float64(n))
		t := complex(c, s) * odd[k]
		out[k], out[k+n/2] = even[k]+t, even[k]-t
	}
	return out
}

func TestHitsAreRefused(t *testing.T) {
	for name, h := range map[string]Hit{
		"strokes": {Roll: Even{Strokes: 1000}}, "chance": {Times: 3, Of: 2}, "sound": {Sound: "nobody"}, "flam": {Flam: Flam{Strokes: 99}}, "length": {Length: -1}, "fall": {Fall: math.NaN()},
	} {
		g := dense(1, "hat")
		h.ID, h.Velocity = "x", 90
		g.Lanes[0].Hits = []Hit{h}
		assert.Error(t, g.Validate(), name)
	}
	g := dense(8, "hat", "kick")
	for i := range g.Lanes {
		for j := range g.Lanes[i].Hits {
			g.Lanes[i].Hits[j].Reverse = true
		}
	}
	assert.ErrorContains(t, g.Validate(), "backwards")
	g = dense(1, "hat")
	g.Lanes[0].Grid, g.Lanes[0].Steps = 5, 10
	assert.Equal(t, 1920, g.LaneTicks(0), "ten quintuplets are two beats")
}
