package listen

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"jubrak/core/ear"
	"jubrak/core/sound"
)

func TestKinAreMutual(t *testing.T) {
	for k, list := range kin {
		assert.NotEmpty(t, list, ear.Families[k])
		for _, j := range list {
			assert.Contains(t, kin[j], k)
		}
	}
}

// Derivation: four moments at -3 ±0.5, eight at 0 ±0.5; the variance within is
// 0.25, so the means are 3/0.5 = 6 deviations apart.
func TestSides(t *testing.T) {
	ride := slices.Index(ear.Families, sound.Ride)
	closed := slices.Index(ear.Families, sound.HatClosed)
	moment := func(of, against float64) ear.Heard {
		h := at()
		h.Odds[ride], h.Odds[closed] = of, against
		return h
	}
	var heard []ear.Heard
	for i := range 12 {
		off := 0.5 * float64(1-i%2*2)
		if i < 4 {
			heard = append(heard, moment(-1.5+off, 1.5))
		} else { // as likely the one as it is not the other
			heard = append(heard, moment(0.25+off/2, 0.25-off/2))
		}
	}
	heard = append(heard, at(0)) // a kick, and neither
	s := newSides(heard, ride, closed)
	assert.InDelta(t, -1.5, s.between, 1e-9, "between -2.5 and -0.5")
	assert.InDelta(t, 6, s.apart, 1e-9)
	var to [8]float64
	s.tell(&heard[5], to[:])
	assert.InDeltaSlice(t, []float64{0.5 / 4, 1.0 / 4, 0, 0.25 / 4, 2.0 / 3, -1, 6.0 / 4, -1.5 / 4}, to[:], 1e-9)
	s.tell(&heard[0], to[:])
	assert.InDeltaSlice(t, []float64{1.5 / 4, -1.0 / 4, -3.0 / 4, -1.5 / 4, 1.0 / 3, 0, 6.0 / 4, 0.25 / 4}, to[:], 1e-9)

	few := newSides(heard[:fewest-1], ride, closed)
	to = [8]float64{}
	few.tell(&heard[5], to[:])
	assert.Equal(t, [8]float64{0.5 / 4}, to)
	assert.Equal(t, closed, rival(&heard[0], ride))
	row := Context(heard, nil, nil)[5][ride][KinInput:]
	assert.InDelta(t, 6.0/4, row[6], 1e-9)

	same := newSides(slices.Repeat(heard[5:6], 8), ride, closed)
	assert.InDelta(t, 0, same.apart, 1e-9, "one drum")
	assert.False(t, math.IsNaN(same.between))
}
