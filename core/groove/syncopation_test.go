package groove

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jubrak/core/music"
)

func pattern(text string) []bool {
	var out []bool
	for _, c := range text {
		out = append(out, c == 'x')
	}
	return out
}

// Published: the metrical tree of a bar of four quarters down to sixteenths
// (Longuet-Higgins & Lee 1984).
func TestMetricWeights(t *testing.T) {
	four := music.Meter{Beats: 4, Unit: 4}
	assert.Equal(t, []int{0, -4, -3, -4, -2, -4, -3, -4, -1, -4, -3, -4, -2, -4, -3, -4}, MetricWeights(four, 4))
	assert.Equal(t, []int{0, -2, -1, -2}, MetricWeights(four, 1))
	assert.Equal(t, []int{0, -2, -1, -2, -1, -2}, MetricWeights(music.Meter{Beats: 3, Unit: 4}, 2))
	assert.Equal(t, []int{0, -3, -3, -2, -3, -3, -1, -3, -3, -2, -3, -3}, MetricWeights(four, 3))
}

// Derivation by the rule of Longuet-Higgins & Lee 1984: a note followed by a rest that
// weighs more is a syncopation of the difference. The tresillo's strokes on 3 (weight −4)
// and 6 (−3) are followed by rests on 4 (−2) and 8 (−1): 2 + 2. The son clave, x..x..x...x.x...,
// adds none of 10 (−3, before the stroke on 12) and of 12 (−2) none before 0: 4 in all.
func TestSyncopationByTheRule(t *testing.T) {
	w := MetricWeights(music.Meter{Beats: 4, Unit: 4}, 4)
	for _, c := range []struct {
		text string
		want int
	}{
		{"x...x...x...x...", 0},             // on the beats
		{"xxxxxxxxxxxxxxxx", 0},             // no rest
		{"..x...x...x...x.", 1 + 2 + 1 + 3}, // off-beats: before 2, 3, 4 and the bar
		{"x..x..x.........", 2 + 2},         // the tresillo once
		{"x..x..x...x.x...", 2 + 2 + 0},     // son clave
		{"x...............", 0},
		{"...............x", 4}, // before the bar
	} {
		assert.Equal(t, c.want, Syncopation(pattern(c.text), w), c.text)
	}
	g := dense(1, "kick")
	g.Lanes[0].Hits = []Hit{{ID: "a", Tick: 0, Velocity: 90}, {ID: "b", Tick: 720, Velocity: 90}, {ID: "c", Tick: 1440, Velocity: 90}}
	assert.Equal(t, map[string]float64{"kick": 4}, g.Syncopated())
}
