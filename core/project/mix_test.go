package project

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/mix"
)

// The kick's chain on the snare, with a higher cut: what is changed in the one is changed
// in the other, but for that.
func TestALinkedChainFollowsButForItsOwn(t *testing.T) {
	d := apply(t, New("x"), AddToChain{Row: "kick", Kind: "equalizer"}, AddToChain{Row: "kick", Kind: "drive", To: 1}, LinkChain{"snare", "kick"})
	at := func(d *Document, voice, step, number string) float64 {
		return mix.FindStep(d.Kit.Voice(voice).Chain, step).Values[number]
	}
	d = apply(t, d, SetNumber{"snare/chain/equalizer1/band1.hz", 140}, SetNumber{"kick/chain/equalizer1/band1.hz", 35}, SetNumber{"kick/chain/drive1/amount_percent", 55}, AddToChain{Row: "kick", Kind: "clip", To: 9})
	assert.Equal(t, []float64{140, 35}, []float64{at(d, "snare", "equalizer1", "band1.hz"), at(d, "kick", "equalizer1", "band1.hz")})
	assert.Equal(t, 55.0, at(d, "snare", "drive1", "amount_percent"))
	assert.Len(t, d.Kit.Voice("snare").Chain, 3, "steps, too")
	assert.Equal(t, map[string]float64{"equalizer1/band1.hz": 140}, d.Kit.Voice("snare").Own)
	again, err := Read([]byte(jsonOf(t, d)))
	require.NoError(t, err)
	assert.Equal(t, d, again)
	// A step of its own makes it a copy.
	d = apply(t, d, AddToChain{Row: "snare", Kind: "gate", To: 9})
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
		assert.ErrorContains(t, err, "go round", "%T", e)
	}
	d = apply(t, d, RemoveBus{"a"})
	assert.Equal(t, "b", d.Kit.Voice("kick").To, "what went to it goes where it went")
}

// What listens to a voice that is removed listens to itself; a number that moved in a step
// that is removed moves no more.
func TestWhatIsGoneIsNotListenedTo(t *testing.T) {
	d := apply(t, New("x"), AddToChain{Row: "808", Kind: "compressor", Key: "kick"}, SetMixMove{"808/chain/compressor1/threshold_db", []mix.MovePoint{{Bar: 0, Value: -20}}})
	d = apply(t, d, RemoveVoice{"kick"})
	assert.Empty(t, d.Kit.Voice("808").Chain[0].Key)
	assert.Len(t, d.Mix.Moves, 1)
	assert.Empty(t, apply(t, d, RemoveFromChain{"808", "compressor1"}).Mix.Moves)
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
	good := mix.NewStep("a", mix.KindOf("split"), nil)
	unknown, bare, torn := good.Clone(), good.Clone(), good.Clone()
	unknown.Kind, bare.Values, torn.Paths = "unknown", nil, torn.Paths[:1]
	for name, s := range map[string]mix.Step{"kind": unknown, "numbers": bare, "paths": torn} {
		d := New("x")
		d.Kit.Voices[0].Chain = []mix.Step{s}
		d.Kit.Voices[1].Like = d.Kit.Voices[0].ID
		d.Mix.Moves = []mix.Move{{At: d.Kit.Voices[0].ID + "/chain/a/low_db", Points: []mix.MovePoint{{}}}, {At: "/", Points: nil}}
		d.Mix.Shapes = []mix.Shape{{}}
		_, err := Read([]byte(jsonOf(t, d)))
		assert.Error(t, err, name)
	}
}
