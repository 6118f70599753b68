package fit_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/fit"
	"jubrak/core/measure"
	"jubrak/core/sound"
)

// A kick is brought into a drummer's ranges with few changes; one that is in them already is
// not changed.
func TestIntoRanges(t *testing.T) {
	from := sound.DefaultRecipe(sound.Kick)
	before := measure.Measure(fit.Render(from, 2500))
	ranges := fit.Ranges{Fundamental: &fit.Range{Low: 52, High: 58}, Decay: &fit.Range{Low: 280, High: 360}}
	require.False(t, *before.Fundamental > 52 && *before.Decay < 360)
	b, err := fit.Into(context.Background(), from, ranges, nil)
	require.NoError(t, err)
	require.NoError(t, b.Recipe.Validate())
	after := measure.Measure(fit.Render(b.Recipe, 2500))
	assert.InDelta(t, 55, *after.Fundamental, 3.1)
	assert.InDelta(t, 320, *after.Decay, 41)
	assert.LessOrEqual(t, len(b.Changed), 4, "%v", b.Changed)
	assert.NotEmpty(t, b.Changed)
	assert.Equal(t, from.Snap, b.Recipe.Snap, "what need not be changed is not")
	assert.Empty(t, b.Words)

	same, err := fit.Into(context.Background(), b.Recipe, ranges, nil)
	require.NoError(t, err)
	assert.Empty(t, same.Changed)
	assert.Equal(t, b.Recipe, same.Recipe)

	// The middle is a range of no width.
	m := ranges.Middle()
	assert.Equal(t, fit.Range{Low: 55, High: 55}, *m.Fundamental)
	held, err := fit.Into(context.Background(), from, fit.Ranges{Fundamental: &fit.Range{Low: 300, High: 310}}, []string{"body"})
	require.NoError(t, err)
	require.Len(t, held.Words, 1, "what cannot be reached is said")
	assert.Contains(t, held.Words[0], "fundamental")
}
