package project

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/groove"

	"jubrak/internal/brief"
)

// Any edit has a name, also where a later one of its batch took away what it made.
func TestWhatWasTakenAwayAgainHasAName(t *testing.T) {
	d := full(t)
	for _, first := range every() {
		for _, second := range brief.First[Edit](3, RemoveVoice{"kick"}, RemoveBus{"drums"}, RemoveReference{"r"}, RemoveVoice{"snare"}, RemoveLayer{"kick", "drum"}, RemoveVariation{"a"}) {
			op := Op(second)
			batch := Edits{first, second}
			next, _, err := d.Apply(batch, fakeEnv{heard()})
			if err != nil {
				continue
			}
			for _, one := range batch {
				name := one.name(d, next)
				require.NotEmpty(t, name, "%s, %s", Op(first), op)
				require.NotContains(t, name, "%!", "%s, %s", Op(first), op)
			}
		}
	}
}

// A batch that adds and takes away again: the name of each part is still said.
func TestNamesOfWhatIsGoneAgain(t *testing.T) {
	for _, batch := range []Edits{
		{AddLayer{Voice: "kick"}, RemoveVoice{"kick"}},
		{AddBus{Name: "Once"}, RemoveBus{"once"}, RemoveBus{"drums"}, RemoveBus{"room"}},
		{AddVoice{Family: "clap", Name: "Slap"}, RemoveVoice{"clap"}},
		{SetHits{[]HitRef{{"kick", "h1"}}, "velocity", 3}, RemoveVoice{"kick"}},
		{OpenHits{[]HitRef{{"kick", "h1"}}}, RemoveVoice{"kick"}},
	} {
		d := full(t)
		next, _, err := d.Apply(batch, fakeEnv{heard()})
		require.NoError(t, err, "%+v", batch)
		for _, e := range batch {
			assert.NotEmpty(t, e.name(d, next), "%+v", e)
		}
	}
}

// Numbers without which places cannot be counted are refused at once, also where a later
// edit of the batch would put them right or count with them.
func TestAbsurdNumbersInABatch(t *testing.T) {
	const most = 1 << 62
	for name, batch := range map[string]Edits{
		"a grid of 2000, filled":  {SetGrid{2000}, FillLane{Voice: "hat", Every: 1}},
		"a grid of 0, spread":     {SetGrid{0}, SpreadLane{Voice: "hat", Strokes: 3, Steps: 8}},
		"a grid put right":        {SetGrid{0}, SetGrid{4}},
		"a huge stride":           {FillLane{Voice: "hat", Every: most}},
		"a huge start":            {FillLane{Voice: "hat", Every: 1, From: most}},
		"no bars, repeated":       {SetBars{0}, RepeatBars{1, 1, 2}},
		"more repeats than a bar": {RepeatBars{1, 1, most}},
	} {
		d := full(t)
		before := jsonOf(t, d)
		_, _, err := d.Apply(batch, fakeEnv{heard()})
		assert.Error(t, err, name)
		assert.Equal(t, before, jsonOf(t, d), name)
	}
}

// A number that goes further than its range is held there, and that is said.
func TestWhatIsHeldIsSaid(t *testing.T) {
	d := full(t)
	for _, e := range []Edit{
		SetNumber{"kick/level_db", 99}, ChangeNumber{"kick/level_db", -500}, SetHits{[]HitRef{{"kick", "h1"}}, "velocity", 300},
		ChangeHits{[]HitRef{{"kick", "h1"}}, "velocity", 300},
	} {
		_, notes, err := d.Apply(Edits{e}, nil)
		require.NoError(t, err)
		require.Len(t, notes, 1, "%+v", e)
	}
	_, notes, err := d.Apply(Edits{SetNumber{"kick/level_db", -3}, SetHits{[]HitRef{{"kick", "h1"}}, "velocity", 99}}, nil)
	require.NoError(t, err)
	assert.Empty(t, notes, "what is inside is set")
	// 32 a beat over 8 beats is 256 strokes; a roll has 128.
	long := []HitRef{{"kick", "h1"}}
	_, notes, err = d.Apply(Edits{SetHits{long, "length_ticks", 8 * 960}, SetHits{long, "roll.per_beat", 32}}, nil)
	require.NoError(t, err)
	require.Len(t, notes, 1)
	assert.Contains(t, notes[0], "256")
	assert.Equal(t, groove.MaxStrokes, 128)
}

func TestAKeyIsAKey(t *testing.T) {
	d := full(t)
	_, _, err := d.Apply(Edits{SetKey{"banana"}}, nil)
	require.ErrorContains(t, err, "banana")
	next, _, err := d.Apply(Edits{SetKey{" F minor "}}, nil)
	require.NoError(t, err)
	assert.Equal(t, "F minor", next.Key)
}

// What an edit needs is asked for by name rather than taken as nothing.
func TestAnEditWithoutItsValue(t *testing.T) {
	var edits Edits
	require.ErrorContains(t, edits.UnmarshalJSON([]byte(`[{"op":"number.set","at":"kick/level_db"}]`)), "value is missing")
	require.NoError(t, edits.UnmarshalJSON([]byte(`[{"op":"number.set","at":"kick/level_db","value":0}]`)))
}
