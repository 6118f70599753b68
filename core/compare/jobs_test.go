package compare

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/sound"
	"jubrak/core/synth"
)

// Each layer's job follows from what it is made of.
func TestJobs(t *testing.T) {
	type v = map[string]float64
	low := sound.Synthesized("low", "Low", sound.Blank().With(v{"body.level_db": 0, "body.end_hz": 50, "body.start_hz": 50, "body.attack_ms": 8, "body.decay_ms": 500}))
	tick := sound.Synthesized("tick", "Tick", sound.Blank().With(v{"noise.level_db": -6, "noise.colour_hz": 8000, "noise.decay_ms": 15}))
	ghost := sound.Synthesized("ghost", "Ghost", sound.Blank().With(v{"body.level_db": -50, "body.end_hz": 50, "body.start_hz": 50, "body.attack_ms": 8, "body.decay_ms": 100}))
	jobs := Jobs(sound.Alone(low, tick, ghost), nil, synth.Hard(110, 1))
	require.Len(t, jobs, 3)
	assert.Contains(t, jobs[0].Gives, "lows")
	assert.Contains(t, jobs[0].Gives, "length")
	assert.NotContains(t, jobs[0].Gives, "highs")
	assert.Contains(t, jobs[1].Gives, "attack")
	assert.Contains(t, jobs[1].Gives, "highs")
	assert.NotContains(t, jobs[1].Gives, "length")
	assert.Equal(t, "hardly heard under the others", jobs[2].Text)
	assert.Empty(t, Jobs(sound.Alone(low), nil, synth.Hard(110, 1)))
}
