package effect

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Common practice: a kick makes a tone an 808 through a gate that opens at -52 dB,
// closes 2.5 dB lower, with a floor of -61 dB, an attack of 27 ms, a hold of 330 ms and
// a release of 509 ms.
func TestGateWithThePracticeValues(t *testing.T) {
	g := NewGate(rate)
	g.Set(-52, 2.5, -61, 27, 330, 509)
	g.Reset()
	at := func(ms float64, level float64) (gain float64) {
		for range int(ms / 1000 * rate) {
			gain = g.Next(gainOf(level))
		}
		return gain
	}
	assert.InDelta(t, gainOf(-61), at(100, -60), 1e-6, "closed it is at its floor")
	assert.InDelta(t, 0.5, at(13.5, -20), 0.01, "half of the attack")
	assert.InDelta(t, 1, at(14, -20), 0.01)
	assert.InDelta(t, 1, at(50, -53), 1e-9, "lower than it opens, higher than it closes")
	assert.InDelta(t, 1, at(329, -90), 1e-3, "held, from when the level has gone")
	// Half of the release is half of the way in dB.
	at(30, -90)
	var half float64
	for range 20 {
		half = at(509.0/40, -90)
	}
	assert.InDelta(t, -30, 20*math.Log10(half), 6)
	assert.InDelta(t, -61, 20*math.Log10(at(400, -90)), 0.1)
	assert.InDelta(t, gainOf(-61), at(50, -53), 1e-6, "it does not open again there")
}
