package groove

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// hats in eighths over bars of 4/4 at 120 BPM, with room for a roll on beat 3 of
// each bar.
func hatsWithRolls(bars int, at []float64) (hits []Heard) {
	for bar := range bars {
		for _, beat := range []float64{0, 0.5, 1, 1.5, 3, 3.5} {
			hits = append(hits, Heard{Voice: "hat_closed", Time: (float64(bar*4) + beat) / 2, Velocity: 90})
			hits = append(hits, Heard{Voice: "kick", Time: float64(bar*4) / 2, Velocity: 100})
		}
		for _, beat := range at {
			hits = append(hits, Heard{Voice: "hat_closed", Time: (float64(bar*4) + beat) / 2, Velocity: 60})
		}
	}
	return hits
}

// Derivation: a beat of 960 ticks holds six sixteenth triplets of 160 or eight
// thirty-seconds of 120; a step is 240.
func TestRollsStandOnFinerPlaces(t *testing.T) {
	third, eighth := 1.0/6, 1.0/8
	for _, c := range []struct {
		name    string
		at      []float64
		perBeat int
		ticks   []int
	}{
		{"sixteenth triplets", []float64{2, 2 + third, 2 + 2*third, 2.5}, 6, []int{0, 160, 320, 480}},
		{"thirty-seconds", []float64{2, 2 + eighth, 2.25, 2.25 + eighth, 2.5}, 8, []int{0, 120, 240, 360, 480}},
		{"from an off-beat sixteenth", []float64{2.25, 2.25 + third, 2.25 + 2*third}, 6, []int{240, 400, 560}},
		{"a little uneven", []float64{2.01, 2 + eighth - 0.012, 2.26, 2.25 + eighth}, 8, []int{0, 120, 240, 360}},
	} {
		t.Run(c.name, func(t *testing.T) {
			const bars = 4
			grid := SteadyGrid(0, 120, bars*4+1, 4)
			hits := hatsWithRolls(bars, c.at)
			placed, rolls, _ := Assign(hits, &grid, 4)
			require.Len(t, rolls, bars)
			for bar, r := range rolls {
				assert.Equal(t, "hat_closed", r.Voice)
				assert.Equal(t, c.perBeat, r.PerBeat)
				require.Len(t, r.Hits, len(c.at))
				for k, i := range r.Hits {
					p := placed[i]
					assert.Equal(t, bar*16*240+2*960+c.ticks[k], p.Step*240+p.Within)
					assert.InDelta(t, (c.at[k]-2)*500-float64(c.ticks[k])*500/960, p.Offset, 1e-6)
				}
			}
		})
	}
}

// What a roll strikes between steps says nothing of lean, scatter or accents.
func TestRollsDoNotSpeakForTheFeel(t *testing.T) {
	grid := SteadyGrid(0, 120, 33, 4)
	measured := func(at ...float64) MeasuredVoice {
		placed, _, pair := Assign(hatsWithRolls(8, at), &grid, 4)
		return Measure(placed, Frame{Steps: 4, PerBar: 4, Beat: 0.5, Pair: pair, Anchor: "kick"}).Voices["hat_closed"]
	}
	with, without := measured(2, 2+1.0/6, 2+2.0/6, 2.5), measured(2, 2.5)
	assert.Equal(t, without.Count+16, with.Count, "though they are hits")
	assert.Equal(t, []any{without.Lean, without.Scatter, without.Between, without.Contour, without.StepCount, without.Timed},
		[]any{with.Lean, with.Scatter, with.Between, with.Contour, with.StepCount, with.Timed})
}

// However late the second sixteenths are, and however uneven the playing, they
// are no roll; nor are two strokes close together.
func TestSwingIsNoRoll(t *testing.T) {
	grid := SteadyGrid(0, 100, 33, 4)
	rapid.Check(t, func(t *rapid.T) {
		swing := rapid.Float64Range(50, 75).Draw(t, "swing")
		var hits []Heard
		for s := range 128 {
			late := rapid.Float64Range(-0.012, 0.012).Draw(t, "late")
			hits = append(hits, Heard{Voice: "hat_closed", Time: SwungBeat(s, 4, swing, 16)*0.6 + late + 1, Velocity: 90})
		}
		hits = append(hits, Heard{Voice: "hat_closed", Time: hits[0].Time - 0.075, Velocity: 60})
		_, rolls, _ := Assign(hits, &grid, 4)
		assert.Empty(t, rolls)
	})
}

// Rolls of every rate, from any sixteenth, are found where they are under the
// unevenness of a human hand.
func TestRollsAreFound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		steps := rapid.SampledFrom([]int{3, 4}).Draw(t, "steps")
		rate := rapid.SampledFrom(rollRates(steps)[:2]).Draw(t, "rate")
		from := rapid.IntRange(0, 15).Draw(t, "from")
		n := rapid.IntRange(4, 12).Draw(t, "strokes")
		bpm := rapid.Float64Range(70, 150).Draw(t, "bpm")
		grid := SteadyGrid(0, bpm, 33, 4)
		var hits []Heard
		for k := range n {
			late := rapid.Float64Range(-0.015, 0.015).Draw(t, "late") // of a beat
			at := float64(from)/float64(steps) + float64(k)/float64(rate)
			hits = append(hits, Heard{Voice: "snare", Time: grid.Seconds(at + late*float64(steps)/float64(rate)), Velocity: 80})
		}
		for step := range 32 * steps / 2 { // without others swung eighths would do as well
			hits = append(hits, Heard{Voice: "hat_closed", Time: grid.Seconds(float64(step) / float64(steps)), Velocity: 90})
		}
		placed, rolls, _ := Assign(hits, &grid, steps)
		require.Len(t, rolls, 1, fmt.Sprint(hits))
		assert.Equal(t, rate, rolls[0].PerBeat)
		for k, p := range placed[:n] {
			want := from*960/steps + k*960/rate
			assert.Equal(t, want, p.Step*960/steps+p.Within)
			assert.Less(t, math.Abs(p.Offset), 30.0)
		}
	})
}

// Backbeats with a flam or a drag have the feel of their main strokes.
func TestGraceNotesDoNotSpeakForTheFeel(t *testing.T) {
	grid := SteadyGrid(0, 120, 33, 4)
	measured := func(before ...float64) (MeasuredVoice, int) {
		var hits []Heard
		for bar := range 8 {
			at := float64(bar) * 2
			hits = append(hits, Heard{Voice: "kick", Time: at, Velocity: 100})
			for _, beat := range []float64{1, 3} {
				hits = append(hits, Heard{Voice: "snare", Time: at + beat/2 + 0.008, Velocity: 110})
				for k, ms := range before {
					hits = append(hits, Heard{Voice: "snare", Time: at + beat/2 + 0.008 - ms/1000, Velocity: 40 + k})
				}
			}
			hits = append(hits, Heard{Voice: "snare", Time: at + 0.875, Velocity: 35}) // a ghost, on a step of its own
			for step := range 16 {
				hits = append(hits, Heard{Voice: "hat_closed", Time: at + float64(step)/8, Velocity: 80})
			}
		}
		placed, _, pair := Assign(hits, &grid, 4)
		graces := 0
		for _, p := range placed {
			if p.Grace {
				graces++
				assert.Zero(t, p.Step%8-4, "on the way to a backbeat")
			}
		}
		return Measure(placed, Frame{Steps: 4, PerBar: 4, Beat: 0.5, Pair: pair, Anchor: "kick"}).Voices["snare"], graces
	}
	plain, none := measured()
	assert.Zero(t, none)
	for name, before := range map[string][]float64{"flams": {28}, "drags": {60, 30}} {
		v, graces := measured(before...)
		assert.Equal(t, 16*len(before), graces, name)
		assert.Equal(t, plain.Lean, v.Lean, name)
		assert.Equal(t, plain.Scatter, v.Scatter, name)
		assert.Equal(t, plain.StepCount, v.StepCount, name)
		assert.Equal(t, plain.Count+graces, v.Count, name)
	}
}

// Hats in thirty-seconds for an hour are rolls one after the other.
func TestThirtySecondsForAnHour(t *testing.T) {
	const beats = 4200
	grid := SteadyGrid(0, 70, beats+1, 4)
	var hits []Heard
	for k := range beats * 8 {
		hits = append(hits, Heard{Voice: "hat_closed", Time: grid.Seconds(float64(k) / 8), Velocity: 80})
	}
	placed, rolls, _ := Assign(hits, &grid, 4)
	assert.Len(t, rolls, beats*8/64)
	for k, p := range placed {
		require.Equal(t, k*120, p.Step*240+p.Within)
	}
}
