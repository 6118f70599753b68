package profile

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/sound"
)

func lazyGenre(t *testing.T) *Profile {
	t.Helper()
	for _, g := range Genres() {
		if g.ID == "genre-hiphop-lazy" {
			return &g
		}
	}
	t.Fatal("the genre is gone")
	return nil
}

// Worked by hand: 4 snares lean 20 ms with a scatter of 5, so the standard error is 2.5 ms.
// The genre's 5 to 16 ms are 10.5 ± 5.5, taken for one and a half deviations: 3.667 ms. The
// weight of what was measured is 3.667² / (3.667² + 2.5²) = 0.6827, the lean
// 0.6827·20 + 0.3173·10.5 = 16.99 ms, 32 % borrowed.
func TestShrinkByHand(t *testing.T) {
	p := take("Few", 60, 20, 5, 4)
	v := p.Voices[sound.Snare]
	v.Lean, v.Scatter, v.Hits = exactly(20), nil, 4
	v.Contour = []float64{0, 8, 0, 8}
	p.Voices[sound.Snare] = v
	out, err := Shrink(&p, lazyGenre(t), "Few, lazy")
	require.NoError(t, err)
	assert.InDelta(t, 16.99, out.Voices[sound.Snare].Lean.Middle(), 0.02)
	by := map[string]float64{}
	for _, b := range out.Borrowed {
		by[b.ID] = b.Percent
	}
	assert.EqualValues(t, 32, by["Lean.snare"])
	assert.InDelta(t, 8.0/5, out.Voices[sound.Snare].Contour[1], 0.01, "one hit a step of four that straightness counts for")
	assert.EqualValues(t, 20, p.Voices[sound.Snare].Lean.Middle(), "the measured one is not changed")

	// The more hits, the less is borrowed.
	last := math.Inf(1)
	for _, n := range []int{1, 2, 4, 16, 64, 400} {
		v.Hits = n
		p.Voices[sound.Snare] = v
		out, err := Shrink(&p, lazyGenre(t), "More")
		require.NoError(t, err)
		for _, b := range out.Borrowed {
			if b.ID == "Lean.snare" {
				assert.Less(t, b.Percent, last)
				last = b.Percent
			}
		}
	}
	assert.Less(t, last, 3.0)
	_, err = Shrink(lazyGenre(t), lazyGenre(t), "Genre")
	assert.Error(t, err)
	_, err = Shrink(&p, &p, "Self")
	assert.Error(t, err)
}
