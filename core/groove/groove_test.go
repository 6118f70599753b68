package groove

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat"
	"pgregory.net/rapid"

	"jubrak/core/music"
)

func dense(bars int, voices ...string) *Groove {
	g := &Groove{Name: "t", Bars: bars, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: Straight(), Seed: 1}
	for _, v := range voices {
		l := g.EnsureLane(v)
		for s := range bars * 16 {
			l.Hits = append(l.Hits, Hit{ID: fmt.Sprint("h", s), Tick: s * 240, Velocity: 90})
		}
	}
	return g
}

// first is the first pass of the whole groove.
func first(g *Groove, tempo music.TempoMap) []Event {
	return NewLine(g, tempo, 0).Events(0, g.CycleTicks(), nil)
}

// Derivation: 54 % on sixteenths at 120 BPM puts the off-step at 135 ms of a
// 250 ms pair, 10 ms late; 66.67 % is 41.7 ms late.
func TestSwingDelay(t *testing.T) {
	for _, c := range []struct {
		pair         int
		swing, delay float64
		tick         int
	}{{16, 54, 10, 240}, {16, 66.6667, 41.667, 240}, {8, 66.6667, 83.333, 480}, {16, 54, 0, 480}, {8, 60, 25, 240}, {16, 40, -25, 240}} {
		g := dense(1, "hat")
		g.Feel.Pair, g.Feel.Swing = c.pair, c.swing
		for _, e := range first(g, music.Steady(120)) {
			if e.Tick == c.tick {
				assert.InDelta(t, c.delay, e.Offset, 0.01, "%+v", c)
			}
		}
	}
}

func TestOffsetIsTheSumOfItsParts(t *testing.T) {
	g := dense(2, "hat")
	g.Lanes[0].Hits = []Hit{{ID: "a", Tick: 3840 + 240, Velocity: 80, Nudge: 3}}
	g.Feel.Swing = 54
	g.Feel.Voices["hat"] = VoiceFeel{Lean: 12, Contour: []float64{0, 5}, Accent: []float64{1, 0.5}}
	g.Feel.Drift = Drift{Curve: []float64{8, 4}, Voices: []string{"hat"}}
	e := first(g, music.Steady(120))[0]
	// swing 10 + lean 12 + contour 5 + drift 4.25 (a sixteenth after bar 2's 4, towards 8) + nudge 3
	assert.InDelta(t, 10+12+5+4.25+3, e.Offset, 1e-9)
	assert.Equal(t, 40, e.Velocity)
	g.Feel.Strength = 50
	e = first(g, music.Steady(120))[0]
	assert.InDelta(t, (10+12+5+4.25)/2+3, e.Offset, 1e-9)
	assert.Equal(t, 60, e.Velocity)
}

func TestScatterIsSeededAndApart(t *testing.T) {
	g := dense(1, "hat", "kick")
	g.Feel.Voices["hat"] = VoiceFeel{Scatter: 5}
	tempo := music.Steady(100)
	a := first(g, tempo)
	assert.Equal(t, a, first(g, tempo), "the same every time")
	assert.NotEqual(t, a[0].Offset, NewLine(g, tempo, 0).Events(g.CycleTicks(), 2*g.CycleTicks(), nil)[0].Offset, "never the same twice")
	g.EnsureLane("hat").Hits = append(g.Lanes[0].Hits, Hit{ID: "new", Tick: 120, Velocity: 5})
	g.EnsureLane("hat").Sort()
	b := first(g, tempo)
	assert.Equal(t, a[4].Offset, b[5].Offset, "a new hit does not change the others")
	g.Seed = 2
	assert.NotEqual(t, a[0].Offset, first(g, tempo)[0].Offset)
}

func TestPolymeterCycle(t *testing.T) {
	g := dense(1, "hat", "kick")
	g.Lanes[0].Steps = 15
	g.Lanes[0].Hits = g.Lanes[0].Hits[:15]
	require.NoError(t, g.Validate())
	assert.Equal(t, 15*3840, g.CycleTicks())
	assert.Len(t, first(g, music.Steady(100)), 16*15+15*16)
}

// The law: apply a feel to a grid, measure it, get the same feel. Swing
// within 0.5 point, leans within 1 ms, scatter within 25 %, for 8 bars or
// more.
func TestRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		bars := rapid.IntRange(8, 24).Draw(t, "bars")
		voices := []string{"kick", "snare", "hat_closed", "hat_open"}
		g := dense(bars, voices...)
		g.Seed = rapid.Int64Range(0, 1<<40).Draw(t, "seed")
		g.Feel.Swing = rapid.Float64Range(50, 72).Draw(t, "swing")
		g.Feel.Pair = rapid.SampledFrom([]int{8, 16}).Draw(t, "pair")
		tempo := music.Steady(rapid.Float64Range(70, 175).Draw(t, "bpm"))
		for _, v := range voices {
			lean := rapid.Float64Range(-15, 15).Draw(t, v+" lean")
			if v == "kick" {
				lean = 0 // the anchor defines zero
			}
			// At 8 bars the anchor has 32 hits on beats: more scatter than this
			// would leave its mean, and so every lean, less sure than 1 ms.
			most := 1.9 * math.Sqrt(float64(bars)/24)
			g.Feel.Voices[v] = VoiceFeel{Lean: lean, Scatter: rapid.Float64Range(0.5, most).Draw(t, v+" scatter")}
		}
		grid := SteadyGrid(0, tempo[0].BPM, bars*4+1, 4)
		var heard []Heard
		played := map[string][]float64{} // the scatter really drawn
		for _, e := range first(g, tempo) {
			v := g.Lanes[e.Lane].Voice
			played[v] = append(played[v], e.Offset-NewLine(g, tempo, 0).steady(e.Lane, &g.Lanes[e.Lane].Hits[e.Hit], e.Tick, e.Tick/240))
			heard = append(heard, Heard{Voice: g.Lanes[e.Lane].Voice, Time: tempo.Seconds(float64(e.Tick)) + e.Offset/1000, Velocity: e.Velocity})
		}
		placed, _, pair := Assign(heard, &grid, 4)
		m := Measure(placed, Frame{Steps: 4, PerBar: 4, Beat: 60 / tempo[0].BPM, Pair: pair, Anchor: "kick"})
		require.NotNil(t, m.Swing)
		if g.Feel.Swing > 51.5 {
			assert.Equal(t, g.Feel.Pair, m.Pair)
		}
		if m.Pair == g.Feel.Pair {
			assert.InDelta(t, g.Feel.Swing, *m.Swing, 0.5)
			assert.InDelta(t, g.Feel.Swing, *m.Swing, 5**m.SwingErr, "within its uncertainty")
		}
		assert.Equal(t, "kick", m.Anchor)
		for _, v := range voices {
			want, got := g.Feel.Voices[v], m.Voices[v]
			require.NotNil(t, got.Lean, v)
			assert.InDelta(t, want.Lean, *got.Lean, 1, "%s lean", v)
			require.NotNil(t, got.Scatter, v)
			assert.InEpsilon(t, stat.StdDev(played[v], nil), *got.Scatter, 0.25, "%s scatter", v)
			assert.Equal(t, 16*bars, got.Count)
		}
	})
}

func TestDriftIsFound(t *testing.T) {
	g := dense(8, "kick", "hat_closed")
	g.Feel.Drift = Drift{Curve: []float64{14, 9, 4, 0}, Voices: []string{"kick"}}
	g.Feel.Voices["kick"] = VoiceFeel{Scatter: 1.5}
	g.Feel.Voices["hat_closed"] = VoiceFeel{Scatter: 1.5}
	var placed []Placed
	for _, e := range first(g, music.Steady(92)) {
		placed = append(placed, Placed{Heard: Heard{Voice: g.Lanes[e.Lane].Voice, Time: float64(e.Tick), Velocity: 90}, Step: e.Tick / 240, Offset: e.Offset})
	}
	m := Measure(placed, Frame{Steps: 4, PerBar: 4, Beat: 60.0 / 92, Pair: 16, Anchor: "hat_closed"})
	require.NotNil(t, m.Drift)
	assert.Equal(t, 4, m.Drift.Bars)
	assert.Equal(t, []string{"kick"}, m.Drift.Voices)
	assert.Greater(t, m.Drift.Curve[0]-m.Drift.Curve[2], 5.0)
	assert.InDelta(t, 1.5, *m.Voices["hat_closed"].Scatter, 0.4)
}

// What cannot be known is nil, never a number dressed up.
func TestNotEnoughToSay(t *testing.T) {
	frame := Frame{Steps: 4, PerBar: 4, Beat: 0.5, Pair: 16, Anchor: "kick"}
	assert.Nil(t, Measure(nil, frame).Swing)
	var placed []Placed
	for bar := range 8 {
		for _, s := range []int{0, 8} {
			placed = append(placed, Placed{Heard: Heard{Voice: "kick", Time: float64(bar*16 + s), Velocity: 100}, Step: bar*16 + s})
		}
		for _, s := range []int{3, 11} { // the shaker only ever plays off-steps
			placed = append(placed, Placed{Heard: Heard{Voice: "shaker", Time: float64(bar*16 + s), Velocity: 60}, Step: bar*16 + s, Offset: 9})
		}
	}
	placed = append(placed, Placed{Heard: Heard{Voice: "clap", Time: 4, Velocity: 100}, Step: 4, Offset: 3})
	m := Measure(placed, frame)
	assert.Nil(t, m.Swing, "no voice plays both on and off")
	assert.Nil(t, m.Voices["shaker"].Lean, "swing and lean cannot be told apart")
	assert.NotNil(t, m.Voices["kick"].Lean)
	assert.Nil(t, m.Voices["clap"].Lean, "one hit says nothing")
	assert.Nil(t, m.Voices["kick"].Contour[1])
	assert.Equal(t, 8, m.Voices["kick"].StepCount[0])
}

// Derivation: every second hat lies under a kick, and its time is a guess of
// 30 ms late; those that can be timed are 6 ms late.
func TestCoveredHitsSpeakForStrengthOnly(t *testing.T) {
	var placed []Placed
	for i := range 32 {
		hat := Placed{Heard: Heard{Voice: "hat_closed", Time: float64(i), Velocity: 60}, Step: i * 2, Offset: 6}
		if i%2 == 0 {
			placed = append(placed, Placed{Heard: Heard{Voice: "kick", Time: float64(i), Velocity: 100}, Step: i * 2})
			hat.Covered, hat.Offset, hat.Velocity = true, 30, 100
		}
		placed = append(placed, hat)
	}
	m := Measure(placed, Frame{Steps: 4, PerBar: 4, Beat: 0.5, Pair: 16, Anchor: "kick"})
	hat := m.Voices["hat_closed"]
	assert.InDelta(t, 6, *hat.Lean, 1e-9)
	assert.Equal(t, 32, hat.Count)
	assert.Equal(t, 16, hat.Timed)
	assert.InDelta(t, 80, hat.VelocityMean, 1e-9)
	assert.Nil(t, hat.Contour[0], "always covered: not enough to say")
	assert.InDelta(t, 1.25, *hat.Accent[0], 1e-9)
	assert.NotNil(t, hat.Contour[2])
	for i := range placed {
		placed[i].Covered = true
	}
	assert.Nil(t, Measure(placed, Frame{Steps: 4, PerBar: 4, Beat: 0.5, Pair: 16, Anchor: "kick"}).Voices["kick"].Lean, "nothing can be timed")
}

// Derivation: backbeats 9 ms late, the snare's ghost notes less so or, as all
// else, on the grid, so nothing swings and nothing rushes, whether or not another voice plays
// sixteenths that could say so.
func TestLateBackbeatsWithStraightGhostsAreNoSwing(t *testing.T) {
	for _, c := range []struct {
		kicks  []int
		ghosts float64
	}{{[]int{0, 7, 10, 13}, 0}, {[]int{0, 6, 10}, 0}, {[]int{0, 6, 10}, 4.5}} {
		var placed []Placed
		strike := func(voice string, step int, offset float64) {
			scatter := 0.5 * float64((step+step/16)%5-2)
			placed = append(placed, Placed{Heard: Heard{Voice: voice, Time: float64(step), Velocity: 90}, Step: step, Offset: offset + scatter})
		}
		for bar := range 8 {
			for _, s := range c.kicks {
				strike("kick", bar*16+s, 0)
			}
			for _, s := range []int{4, 12} {
				strike("snare", bar*16+s, 9)
			}
			strike("snare", bar*16+7, c.ghosts)
			for s := range 8 {
				strike("hat_closed", bar*16+2*s, 0)
			}
		}
		m := Measure(placed, Frame{Steps: 4, PerBar: 4, Beat: 0.55, Pair: 16, Anchor: "kick"})
		require.NotNil(t, m.Swing)
		assert.Equal(t, 16, m.Pair)
		assert.InDelta(t, 50, *m.Swing, 0.2)
		assert.Greater(t, *m.SwingErr, 0.01)
		assert.Less(t, *m.SwingErr, 0.5)
		snare := m.Voices["snare"]
		assert.InDelta(t, 9, *snare.Lean, 0.4)
		assert.InDelta(t, c.ghosts-9, *snare.Between, 0.6)
		assert.InDelta(t, c.ghosts-9, *snare.Contour[7], 0.6)
		assert.InDelta(t, 0, *snare.Contour[4], 0.4)
		assert.Nil(t, m.Voices["hat_closed"].Between, "it plays no second steps")
	}
}

// Derivation: hats on every sixteenth at 58 % of a pair of 300 ms, so 24 ms late
// on the second steps, over a kick that does not swing.
func TestSwungHatsOverAStraightKick(t *testing.T) {
	var placed []Placed
	strike := func(voice string, step int, offset float64) {
		scatter := 0.5 * float64((step+step/16)%5-2)
		placed = append(placed, Placed{Heard: Heard{Voice: voice, Time: float64(step), Velocity: 90}, Step: step, Offset: offset + scatter})
	}
	for step := range 8 * 16 {
		strike("hat_closed", step, 24*float64(step%2))
		if s := step % 16; s == 0 || s == 7 || s == 10 {
			strike("kick", step, 0)
		}
	}
	m := Measure(placed, Frame{Steps: 4, PerBar: 4, Beat: 0.6, Pair: 16, Anchor: "kick"})
	require.NotNil(t, m.Swing)
	assert.InDelta(t, 58, *m.Swing, 0.3)
	assert.Greater(t, *m.SwingErr, 0.2, "not all swing")
	assert.InDelta(t, 0, *m.Voices["hat_closed"].Between, 1)
	assert.InDelta(t, -24, *m.Voices["kick"].Between, 1)
}

func TestOutlierDoesNotMoveTheLean(t *testing.T) {
	var placed []Placed
	for i := range 64 {
		o := 10 + float64(i%5)
		if i == 20 {
			o = 90
		}
		placed = append(placed, Placed{Heard: Heard{Voice: "snare", Time: float64(i), Velocity: 100}, Step: i * 2, Offset: o})
		placed = append(placed, Placed{Heard: Heard{Voice: "kick", Time: float64(i), Velocity: 100}, Step: i * 4})
	}
	m := Measure(placed, Frame{Steps: 4, PerBar: 4, Beat: 0.5, Pair: 16, Anchor: "kick"})
	assert.InDelta(t, 12, *m.Voices["snare"].Lean, 0.3)
}

func TestBeatGridInverts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := BeatGrid{Beats: []float64{0.2}, PerBar: 4, Downbeat: rapid.IntRange(0, 3).Draw(t, "downbeat")}
		for range rapid.IntRange(1, 12).Draw(t, "beats") {
			g.Beats = append(g.Beats, g.Beats[len(g.Beats)-1]+rapid.Float64Range(0.2, 1.5).Draw(t, "gap"))
		}
		at := rapid.Float64Range(-3, 20).Draw(t, "beat")
		assert.InDelta(t, at, g.Position(g.Seconds(at)), 1e-6)
	})
}

func TestRefusals(t *testing.T) {
	for name, spoil := range map[string]func(*Groove){
		"no bars":    func(g *Groove) { g.Bars = 0 },
		"grid":       func(g *Groove) { g.Grid = 7 },
		"outside":    func(g *Groove) { g.Lanes[0].Hits[0].Tick = 3840 },
		"same id":    func(g *Groove) { g.Lanes[0].Hits[1].ID = g.Lanes[0].Hits[0].ID },
		"velocity":   func(g *Groove) { g.Lanes[0].Hits[0].Velocity = 128 },
		"nudge":      func(g *Groove) { g.Lanes[0].Hits[0].Nudge = math.NaN() },
		"swing":      func(g *Groove) { g.Feel.Swing = 80 },
		"pair":       func(g *Groove) { g.Feel.Pair = 12 },
		"kind":       func(g *Groove) { g.Feel.ScatterKind = "blue" },
		"lean":       func(g *Groove) { g.Feel.Voices["hat"] = VoiceFeel{Lean: math.Inf(1)} },
		"accent":     func(g *Groove) { g.Feel.Voices["hat"] = VoiceFeel{Accent: []float64{-1}} },
		"long drift": func(g *Groove) { g.Feel.Drift.Curve = make([]float64, 999) },
	} {
		g := dense(1, "hat")
		require.NoError(t, g.Validate())
		spoil(g)
		assert.Error(t, g.Validate(), name)
	}
}

func TestPinkScatterIsLinked(t *testing.T) {
	g := dense(32, "hat")
	g.Feel.ScatterKind = "pink"
	g.Feel.Voices["hat"] = VoiceFeel{Scatter: 4}
	var x []float64
	for _, e := range first(g, music.Steady(100)) {
		x = append(x, e.Offset)
	}
	assert.Greater(t, stat.Correlation(x[1:], x[:len(x)-1], nil), 0.5)
}
