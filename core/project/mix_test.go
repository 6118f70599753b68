package project

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/effect"
	"jubrak/core/mixer"
)

// The kick's chain on the snare, with a higher cut: what is changed in the one is changed
// in the other, but for that.
func TestALinkedChainFollowsButForItsOwn(t *testing.T) {
	d := apply(t, New("x"), AddEffect{Chain: InRow("kick"), Kind: "equalizer"}, AddEffect{Chain: InRow("kick"), Kind: "drive", To: 1}, LinkChain{"snare", "kick"})
	at := func(d *Document, voice, effectID, number string) float64 {
		return effect.Find(d.Kit.Voice(voice).Chain, effectID).Values[number]
	}
	d = apply(t, d, SetNumber{"snare/chain/equalizer1/band1.hz", 140}, SetNumber{"kick/chain/equalizer1/band1.hz", 35}, SetNumber{"kick/chain/drive1/amount_percent", 55}, AddEffect{Chain: InRow("kick"), Kind: "clip", To: 9})
	assert.Equal(t, []float64{140, 35}, []float64{at(d, "snare", "equalizer1", "band1.hz"), at(d, "kick", "equalizer1", "band1.hz")})
	assert.Equal(t, 55.0, at(d, "snare", "drive1", "amount_percent"))
	assert.Len(t, d.Kit.Voice("snare").Chain, 3, "steps, too")
	assert.Equal(t, map[string]float64{"equalizer1/band1.hz": 140}, d.Kit.Voice("snare").Own)
	again, err := Read([]byte(jsonOf(t, d)))
	require.NoError(t, err)
	assert.Equal(t, d, again)
	// A step of its own makes it a copy.
	d = apply(t, d, AddEffect{Chain: InRow("snare"), Kind: "gate", To: 9})
	assert.Empty(t, d.Kit.Voice("snare").Like)
	d = apply(t, d, SetNumber{"kick/chain/drive1/amount_percent", 5})
	assert.Equal(t, 55.0, at(d, "snare", "drive1", "amount_percent"))
	_, _, err = apply(t, d, LinkChain{"snare", "kick"}).Apply(Edits{LinkChain{"kick", "hat"}}, nil)
	require.Error(t, err, "no row follows one that follows")
}

// A bus only goes to those below it, so that nothing goes round.
func TestNothingGoesRound(t *testing.T) {
	d := apply(t, New("x"), AddBus{Name: "A"}, AddBus{Name: "B"}, SetRowTo{"bus:a", "b"}, SetRowTo{"kick", "a"})
	for _, e := range []Edit{SetRowTo{"bus:b", "a"}, SetRowTo{"bus:a", "a"}, AddSend{"bus:b", "a"}, MoveBus{"b", 0}} {
		_, _, err := d.Apply(Edits{e}, nil)
		assert.ErrorContains(t, err, "to prevent feedback", "%T", e)
	}
	d = apply(t, d, RemoveBus{"a"})
	assert.Equal(t, "b", d.Kit.Voice("kick").To, "what went to it goes where it went")
}

// What listens to a voice that is removed listens to itself; a number that moved in a step
// that is removed moves no more.
func TestWhatIsGoneIsNotASidechain(t *testing.T) {
	d := apply(t, New("x"), AddEffect{Chain: InRow("808"), Kind: "compressor", Key: "kick"}, SetAutomation{"808/chain/compressor1/threshold_db", []mixer.AutomationPoint{{Bar: 0, Value: -20}}})
	d = apply(t, d, RemoveVoice{"kick"})
	assert.Empty(t, d.Kit.Voice("808").Chain[0].Key)
	assert.Len(t, d.Mix.Automation, 1)
	assert.Empty(t, apply(t, d, RemoveEffect{InRow("808"), "compressor1"}).Mix.Automation)
}

// A voice of a document from elsewhere may not be called as what has an address.
func TestVoicesAreNotCalledAsRows(t *testing.T) {
	for _, id := range []string{"out", "bus", "bus:drums", "groove"} {
		d := New("x")
		d.Kit.Voices[0].ID = id
		_, err := Read([]byte(jsonOf(t, d)))
		assert.ErrorContains(t, err, "cannot have the id", id)
	}
}

// Mixes that no program of ours writes are refused with a sentence.
func TestBrokenMixesAreRefused(t *testing.T) {
	good := effect.New("a", effect.KindOf("split"), nil)
	unknown, bare, torn := good.Clone(), good.Clone(), good.Clone()
	unknown.Kind, bare.Values, torn.Paths = "unknown", nil, torn.Paths[:1]
	for name, s := range map[string]effect.Effect{"kind": unknown, "numbers": bare, "paths": torn} {
		d := New("x")
		d.Kit.Voices[0].Chain = []effect.Effect{s}
		d.Kit.Voices[1].Like = d.Kit.Voices[0].ID
		d.Mix.Automation = []mixer.Automation{{At: d.Kit.Voices[0].ID + "/chain/a/low_db", Points: []mixer.AutomationPoint{{}}}, {At: "/", Points: nil}}
		d.Mix.Shapes = []effect.Shape{{}}
		_, err := Read([]byte(jsonOf(t, d)))
		assert.Error(t, err, name)
	}
}

// The edits of an effect do the same in a recipe as in the chain of a row.
func TestEffectsInRecipesAndRows(t *testing.T) {
	for name, at := range map[string]Chain{"recipe": InRecipe("kick", "drum"), "row": InRow("kick")} {
		d := New("One")
		effects := func() []effect.Effect {
			if at.Row != "" {
				return *d.Chain("kick")
			}
			return d.Kit.Voice("kick").Layers[0].Recipe.Effects
		}
		kinds := func() (out []string) {
			for _, fx := range effects() {
				out = append(out, fx.Kind)
			}
			return out
		}
		before := len(effects())
		for i, kind := range []string{"clip", "filter", "clip"} {
			d = apply(t, d, AddEffect{Chain: at, Kind: kind, To: before + i, Values: map[string]float64{"mix_percent": 50}})
		}
		assert.Equal(t, []string{"clip", "filter", "clip"}, kinds()[before:], name)
		added := effects()[before:]
		assert.NotEqual(t, added[0].ID, added[2].ID, name)
		assert.Equal(t, 50.0, added[1].Values["mix_percent"], name)
		d = apply(t, d, MoveEffect{Chain: at, Effect: added[1].ID, To: before})
		assert.Equal(t, []string{"filter", "clip", "clip"}, kinds()[before:], name)
		d = apply(t, d, SwitchEffect{at, added[2].ID, true})
		assert.True(t, effects()[before+2].Off, name)
		d = apply(t, d, RemoveEffect{at, added[0].ID})
		assert.Equal(t, []string{"filter", "clip"}, kinds()[before:], name)
		_, _, err := d.Apply(Edits{RemoveEffect{at, "nothing"}}, nil)
		assert.Error(t, err, name)
	}
}
