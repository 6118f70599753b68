package preset

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestThan(t *testing.T) {
	v := func(x float64) *float64 { return &x }
	f := Facts{Fundamental: v(50), Decay: v(200), Brightness: v(1000)}
	holds := func(words string, fundamental, decay, brightness *float64) bool {
		than, err := ParseThan(words)
		require.NoError(t, err)
		return than.Holds(f, fundamental, decay, brightness)
	}
	assert.True(t, holds("", nil, nil, nil))
	assert.True(t, holds("darker, shorter", v(50), v(300), v(2000)))
	assert.False(t, holds("darker,shorter", v(50), v(150), v(2000)))
	assert.False(t, holds("darker", v(50), v(300), v(1010)), "hardly darker is not darker")
	assert.False(t, holds("darker", v(50), v(300), nil), "what is not known does not hold")
	assert.True(t, holds("higher,longer,brighter", v(40), v(100), v(500)))
	_, err := ParseThan("redder")
	assert.ErrorContains(t, err, "redder")
}
