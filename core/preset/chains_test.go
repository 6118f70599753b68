package preset

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/effect"
)

// Asked: at least 60 chains, named by purpose. Each is valid, is of its own, changes a
// drum and leaves it in bounds.
func TestChains(t *testing.T) {
	assert.GreaterOrEqual(t, len(Chains()), 60)
	seen := map[string]bool{}
	for _, c := range Chains() {
		require.False(t, seen[c.ID], c.ID)
		seen[c.ID] = true
		require.NoError(t, effect.ValidChain(c.Effects), c.Name)
		require.NotEmpty(t, c.Effects)
		r := effect.NewRack(c.Effects, 48000, effect.Context{})
		var l, right [480]float64
		changed, peak := 0.0, 0.0
		for i := range 100 {
			for k := range l {
				at := float64(i*480 + k)
				x := 0.7 * math.Exp(-at/6000) * (math.Sin(at*2*math.Pi*60/48000) + 0.4*math.Sin(at*2*math.Pi*2500/48000))
				l[k], right[k] = x, x
			}
			before := l
			r.Run(effect.Block{Left: l[:], Right: right[:]}, nil, effect.Clock{Beat: float64(i) * 0.02, PerFrame: 0.02 / 480}, false)
			for k := range l {
				changed = math.Max(changed, math.Abs(l[k]-before[k]))
				peak = math.Max(peak, math.Abs(l[k]))
			}
		}
		assert.Greater(t, changed, 1e-4, c.Name)
		assert.Less(t, peak, 3.0, c.Name)
		assert.False(t, math.IsNaN(peak), c.Name)
	}
}
