package transcribe

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"jubrak/core/transcribe/drumnet"
)

// at is a moment at which the families are surely struck, and no others.
func at(families ...int) (h drumnet.Heard) {
	for k := range h.Odds {
		h.Odds[k] = -20
	}
	for _, k := range families {
		h.Odds[k] = 20
	}
	return h
}

// Derivation: of four kicks two come with a snare and one with a hat; of two
// snares none comes alone.
func TestCompany(t *testing.T) {
	const kick, snare, hat = 0, 1, 2
	heard := []drumnet.Heard{at(kick), at(kick, snare), at(kick, snare), at(kick, hat), at(hat), at()}
	c := newCompany(heard)
	assert.InDelta(t, 1, c.together(snare, kick), 1e-6, "every snare has a kick")
	assert.InDelta(t, 0.5, c.together(kick, snare), 1e-6)
	assert.InDelta(t, 0, c.together(hat, snare), 1e-6)
	assert.InDelta(t, 0.25, c.alone(kick), 1e-6)
	assert.InDelta(t, 0, c.alone(snare), 1e-6)
	assert.InDelta(t, 0.5, c.alone(hat), 1e-6)
	assert.InDelta(t, 4, c.struck[kick], 0)
	row := Context(heard, nil, nil)[1][kick][CompanyInput:] // where the snare is its rival
	assert.InDeltaSlice(t, []float64{1, math.Log2(3) / 5, 0.25, 0}, row, 1e-6)
	assert.Zero(t, newCompany(nil).alone(kick))
}
