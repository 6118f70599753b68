package project

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/listen"
	"jubrak/core/slice"
	"jubrak/core/sound"
)

// every is an edit of each kind that changes the document of full.
func every() map[string]Edit {
	second := new(sound.NewLayer("l2", "Second", "b"))
	hit := []HitRef{{"kick", "h1"}, {"hat", "h1"}}
	return map[string]Edit{
		"project.rename": {Text: "Another"}, "project.key": {Text: "Am"}, "tempo.set": {Value: 88},
		"groove.bars": {Value: 1}, "groove.grid": {Value: 3}, "groove.clear": {Voice: "kick"},
		"hit.add": {Voice: "kick", Tick: 0, Value: 12}, "hit.put": {Put: []NewHit{{"kick", 0, 9, 1, 1}, {"snare", 0, 9, 1, 1}}},
		"hit.delete": {Hits: hit}, "hit.move": {Hits: hit, Tick: 240}, "hit.velocity": {Hits: hit, Value: 3}, "hit.louder": {Hits: hit, Value: 3},
		"hit.nudge": {Hits: hit, Value: 3}, "hit.nudge_by": {Hits: hit, Value: 3}, "hit.pitch": {Hits: hit, Value: 3},
		"feel.swing": {Value: 61}, "feel.pair": {Value: 8}, "feel.strength": {Value: 31}, "feel.scatter_kind": {Text: "white"}, "feel.seed": {Value: 77},
		"feel.lean": {Voice: "kick", Value: 3}, "feel.scatter": {Voice: "kick", Value: 3}, "feel.velocity_scatter": {Voice: "kick", Value: 3}, "feel.straight": {},
		"voice.param": {Voice: "kick", Param: "body.decay_ms", Value: 99}, "voice.note": {Voice: "kick", Text: "A1"}, "voice.gain": {Voice: "kick", Value: -9},
		"voice.gain_by": {Voice: "kick", Value: -9}, "voice.pan": {Voice: "kick", Value: -0.5}, "voice.mute": {Voice: "kick", Value: 1}, "voice.reset": {Voice: "snare"}, "voice.synth": {Voice: "kick"},
		"layer.add": {Voice: "kick", Layer: second}, "layer.set": {Voice: "kick", Text: "l1", Param: "level_db", Value: -3},
		"layer.flip": {Voice: "kick", Text: "l1", Value: 1}, "layer.mute": {Voice: "kick", Text: "l1", Value: 1}, "layer.remove": {Voice: "kick", Text: "l1"},
		"reference.add": {New: &Reference{ID: "r2", Name: "Lap", Kind: "midi"}}, "reference.remove": {Reference: "r"}, "reference.activate": {Reference: ""},
		"reference.correct": {Reference: "r", Correction: &listen.Correction{Kind: "tempo", Value: 91}},
		"target.set":        {Target: &Target{"r", slice.Slice{Family: sound.Snare, From: 1, To: 2}}}, "target.clear": {Text: "kick"},
		"take.pattern": {}, "take.feel": {}, "take.both": {},
	}
}

// full is a document that has something of everything.
func full(t *testing.T) *Document {
	first := new(sound.NewLayer("l1", "First", "a"))
	d, _, err := withReference(t).Apply([]Edit{
		{Op: "hit.put", Put: []NewHit{{"kick", 0, 90, 2, 0}, {"hat", 240, 80, 0, 0}, {"kick", 5000, 60, 0, 0}}},
		{Op: "feel.lean", Voice: "kick", Value: 9}, {Op: "feel.scatter_kind", Text: "pink"}, {Op: "voice.param", Voice: "snare", Param: "body.decay_ms", Value: 77},
		{Op: "layer.add", Voice: "kick", Layer: first},
		{Op: "reference.correct", Reference: "r", Correction: &listen.Correction{Kind: "tempo", Value: 90}},
		{Op: "target.set", Target: &Target{"r", slice.Slice{Family: sound.Kick, From: 1, To: 2}}},
	}, nil)
	require.NoError(t, err)
	return d
}

// A document that was handed out stays as it is, whatever is made from it.
func TestNoEditChangesWhatItWasMadeFrom(t *testing.T) {
	edits := every()
	for _, op := range Ops() {
		e, ok := edits[op]
		require.True(t, ok, "no example of %s", op)
		e.Op = op
		d := full(t)
		before, err := json.Marshal(d)
		require.NoError(t, err)
		next, _, err := d.Apply([]Edit{e}, fakeEnv{heard()})
		require.NoError(t, err, op)
		after, err := json.Marshal(d)
		require.NoError(t, err)
		assert.Equal(t, string(before), string(after), op)
		changed, err := json.Marshal(next)
		require.NoError(t, err)
		assert.NotEqual(t, string(before), string(changed), "%s does something", op)
	}
}

func TestUntouchedLanesAreShared(t *testing.T) {
	d := full(t)
	next, _, err := d.Apply([]Edit{{Op: "hit.velocity", Hits: []HitRef{{"kick", "h1"}}, Value: 5}}, nil)
	require.NoError(t, err)
	assert.Same(t, &d.Groove.Lane("hat").Hits[0], &next.Groove.Lane("hat").Hits[0])
	assert.NotSame(t, &d.Groove.Lane("kick").Hits[0], &next.Groove.Lane("kick").Hits[0])
}
