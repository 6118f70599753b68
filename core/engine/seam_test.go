package engine

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/sound"
)

// A loop's file is its own next pass (decision 24), whatever its rows do to the sound, also
// where a rate is moved: two passes of the engine are the same.
func TestALoopIsItsNextPass(t *testing.T) {
	const short, long = 70001, 10*Rate + 17 // longer than what is played before a loop begins
	odd := map[string]map[string]float64{
		"tape": {"wow_weighted_percent": 0.25, "flutter_weighted_percent": 1.44}, "worn": {"wow_weighted_percent": 0.15, "flutter_weighted_percent": 0.86}, "shift": {"shift_hz": 33.3},
		"width": {"detune_ct": 14, "delay_ms": 7}, "tremolo": {"time": 1, "rate_hz": 3.3}, "crush": {"rate_hz": 7777, "bits": 12}, "octave": {"low_hz": 40, "high_hz": 500}, "reverb": {"decay_ms": 4000},
	}
	through := func(k *effect.Kind) sound.Voice {
		v := *sound.Alone(sound.Recorded("l", "Test", "test"))
		v.ID, v.Level = "v", 0
		v.Chain = []effect.Effect{effect.New("s", k, odd[k.ID])}
		return v
	}
	for _, k := range effect.Kinds() {
		isItsNextPass(t, k.ID, through(k), short)
	}
	for id, number := range map[string]string{"shift": "shift_hz", "width": "detune_ct", "tremolo": "rate_hz", "crush": "rate_hz"} {
		k := effect.KindOf(id)
		p, _ := k.Param(number)
		low, high := p.Between(p.Min, p.Max, 0.55), p.Between(p.Min, p.Max, 0.7)
		isItsNextPass(t, id+" that is moved", through(k), short, mixer.Automation{At: "v/chain/s/" + number, Points: []mixer.AutomationPoint{{Bar: 0, Value: low}, {Bar: 0.5, Value: high}, {Bar: 1, Value: low}}})
	}
	for _, id := range []string{"reverb", "tape", "shift", "bed", "tremolo"} {
		isItsNextPass(t, id+" in a long loop", through(effect.KindOf(id)), long)
	}
	rumble := roomy(300)
	l := sound.Rumbling("r", "Rumble")
	l.Rumble.Decay = 3000
	rumble.Layers = append(rumble.Layers, l)
	for name, v := range map[string]sound.Voice{"a recipe's room that rests": roomy(1500), "that does not": roomy(4300), "a rumble": rumble} {
		isItsNextPass(t, name, v, long)
	}
}

// isItsNextPass plays a voice at the beginning of a loop, and of a long one also near its
// end, for two passes.
func isItsNextPass(t *testing.T, name string, v sound.Voice, loop int, automation ...mixer.Automation) {
	t.Helper()
	x := make([]float32, min(loop, 71000))
	for i := range x {
		x[i] = float32(0.3 * math.Sin(float64(i)*0.13) * (1 + math.Sin(float64(i)*2e-3)))
	}
	hits := []groove.Hit{{ID: "h", Velocity: 127}}
	if loop > len(x) {
		hits = append(hits, groove.Hit{ID: "i", Tick: 3360, Velocity: 120})
	}
	s := Song{
		Kit: sound.Kit{Voices: []sound.Voice{v}}, Tempo: music.Steady(60 * 4 * Rate / float64(loop)), Samples: sound.Samples{"test": {Rate: Rate, X: [][]float32{x}}},
		Groove: groove.Groove{Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1, Lanes: []groove.Lane{{Voice: v.ID, Hits: hits}}},
	}
	s.Mix.Automation = automation
	e := New(Rate)
	e.Swap(prepare(s, Rate, 4*music.PPQ, nil))
	require.NoError(t, e.playInto(context.Background()))
	require.EqualValues(t, loop, e.loopFrames)
	var passes [2][]float64
	var left, right [MaxBlock]float64
	for p := range passes {
		for len(passes[p]) < loop {
			n := min(MaxBlock, loop-len(passes[p]))
			e.Process(left[:n], right[:n])
			passes[p] = append(passes[p], left[:n]...)
		}
	}
	worst := 0.0
	for i, v := range passes[0] {
		worst = math.Max(worst, math.Abs(v-passes[1][i]))
	}
	assert.Less(t, 20*math.Log10(worst+1e-12), -80.0, name)
}
