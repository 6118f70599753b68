package pattern

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/profile"
	"jubrak/core/sound"
)

// Common practice: each pattern's tempo, swing, density, velocity, lean and scatter,
// measured on its own hits, lie within its genre's ranges.
func TestPatternsAreOfTheirGenre(t *testing.T) {
	genres := map[string]profile.Profile{}
	for _, g := range profile.Genres() {
		genres[g.ID] = g
	}
	in := func(r *profile.Range, v, slack float64) bool {
		return r == nil || v >= r.Low-slack && v <= r.High+slack
	}
	count := map[string]int{}
	for _, p := range All() {
		g, ok := genres[p.Genre]
		require.True(t, ok, p.ID)
		require.NoError(t, p.Of.Validate(), p.ID)
		count[p.Genre]++
		assert.True(t, in(g.Tempo, p.BPM, 0.5), "%s: %g BPM", p.ID, p.BPM)
		assert.True(t, in(g.Swing, p.Of.Feel.Swing, 0.5), "%s: swing %g", p.ID, p.Of.Feel.Swing)
		line := groove.NewLine(&p.Of, music.Steady(p.BPM), 0)
		const bars = 16
		hits, loud := map[sound.Family]float64{}, map[sound.Family]float64{}
		var placed []groove.Placed
		for _, e := range line.Events(0, bars*3840, nil) {
			f := sound.Family(p.Of.Lanes[e.Lane].Voice)
			hits[f]++
			loud[f] += float64(e.Velocity)
			placed = append(placed, groove.Placed{Heard: groove.Heard{Voice: string(f), Velocity: e.Velocity, Time: e.Time}, Step: e.Tick / 240, Within: e.Tick % 240, Offset: e.Offset, Grace: e.Stroke < p.Of.Lanes[e.Lane].Hits[e.Hit].Flam.Strokes})
		}
		m := groove.Measure(placed, groove.Frame{Steps: 4, PerBar: 4, Beat: 60 / p.BPM, Pair: p.Of.Feel.Pair, Anchor: "kick"})
		assert.NotZero(t, hits[sound.Kick], p.ID)
		known := 0
		for f, v := range g.Voices {
			if hits[f] == 0 {
				continue
			}
			known++
			assert.True(t, in(v.Density, hits[f]/(bars*4), 0.05), "%s: %s %g a beat, %v", p.ID, f, hits[f]/(bars*4), v.Density)
			assert.True(t, in(v.Velocity, loud[f]/hits[f], 3), "%s: %s velocity %g, %v", p.ID, f, loud[f]/hits[f], v.Velocity)
			if mine := m.Voices[string(f)]; mine.Lean != nil {
				assert.True(t, in(v.Lean, *mine.Lean, 2), "%s: %s lean %g, %v", p.ID, f, *mine.Lean, v.Lean)
				if mine.Scatter != nil {
					assert.True(t, in(v.Scatter, *mine.Scatter, 1), "%s: %s scatter %g, %v", p.ID, f, *mine.Scatter, v.Scatter)
				}
			}
		}
		assert.GreaterOrEqual(t, known, 2, "%s has the genre's voices", p.ID)
	}
	assert.GreaterOrEqual(t, len(All()), 60)
	assert.Len(t, count, len(genres), "every genre has some")
}

// No two patterns are alike, and each has a name of its own.
func TestPatternsDiffer(t *testing.T) {
	names, shapes := map[string]bool{}, map[string]string{}
	for _, p := range All() {
		assert.False(t, names[p.Name], p.Name)
		names[p.Name] = true
		shape := ""
		for i := range p.Of.Lanes {
			shape += p.Of.Lanes[i].Voice
			for _, h := range p.Of.Lanes[i].Hits {
				shape += "," + string(rune('0'+h.Tick/240)) + h.ID
			}
		}
		assert.Empty(t, shapes[shape], "%s is %s again", p.ID, shapes[shape])
		shapes[shape] = p.ID
		assert.NotNil(t, Find(p.ID))
	}
}

// A closed hat on the step of an open one would stop what is meant to ring.
func TestNoOpenHatIsStoppedOnItsOwnStep(t *testing.T) {
	opens := 0
	for _, p := range All() {
		closed := map[int]bool{}
		lane := func(f sound.Family, each func(tick int)) {
			for _, r := range p.Rows {
				if l := p.Of.Lane(r.Lane); r.Family == f && l != nil {
					for at := 0; at < p.Of.Ticks(); at += p.Of.Ticks() / max(p.Of.Ticks()/p.Of.LaneTicks(0), 1) {
						for _, h := range l.Hits {
							each(at + h.Tick)
						}
					}
				}
			}
		}
		lane(sound.HatClosed, func(tick int) { closed[tick] = true })
		lane(sound.HatOpen, func(tick int) {
			opens++
			assert.False(t, closed[tick], "%s, tick %d", p.Name, tick)
		})
	}
	assert.Greater(t, opens, 60)
}
