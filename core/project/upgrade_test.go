package project

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/mixer"
	"jubrak/core/sound"
)

// A document of schema 1, kept as it was written: a kick with a flipped slice
// that begins 12 ms in, a snare whose drum is off.
func TestSchema1IsBroughtUpToDate(t *testing.T) {
	data, err := os.ReadFile("testdata/schema1.json")
	require.NoError(t, err)
	d, err := Read(data)
	require.NoError(t, err)
	assert.Equal(t, Schema, d.Schema)
	kick, snare := d.Kit.Voice("kick"), d.Kit.Voice("snare")
	assert.Equal(t, -6.0, kick.Level)
	assert.Equal(t, []float64{-4, -0.25}, []float64{snare.Level, snare.Pan})
	require.Len(t, kick.Layers, 2)
	drum := sound.Synthesized("drum", "Drum", sound.DefaultRecipe(sound.Kick))
	assert.Equal(t, drum, kick.Layers[0])
	slap := sound.Recorded("l1", "First", "a")
	slap.Flip, slap.Recording.Skip, slap.Recording.Decay = true, 12, 300
	assert.Equal(t, slap, kick.Layers[1])
	require.Len(t, snare.Layers, 1)
	assert.True(t, snare.Layers[0].Mute, "the drum was off")
	assert.Equal(t, 77.0, snare.Synth().Recipe.Body.Decay)
	assert.Equal(t, 9.0, d.Groove.Feel.Voices["kick"].Lean)
	assert.Len(t, d.Groove.Lane("kick").Hits, 2)
	assert.Equal(t, []string{"a", d.References[0].Blob}, d.Blobs())
	again, err := Read([]byte(jsonOf(t, d)))
	require.NoError(t, err)
	assert.Equal(t, d, again)
}

// A document of schema 2, as the version before wrote it.
func TestSchema2IsBroughtUpToDate(t *testing.T) {
	data, err := os.ReadFile("testdata/schema2.json")
	require.NoError(t, err)
	d, err := Read(data)
	require.NoError(t, err)
	kick := d.Kit.Voice("kick")
	assert.Equal(t, 100.0, kick.Touch)
	r := kick.Layers[0].Recipe
	require.Len(t, r.Effects, 2)
	assert.Equal(t, []string{"drive", "filter"}, []string{r.Effects[0].Kind, r.Effects[1].Kind})
	assert.Equal(t, 6.0, r.Effects[0].Values["amount_percent"])
	assert.Equal(t, 20.0, r.Effects[1].Values["corner_hz"])
	dirt := r.DrivenBy("effects/drive1/amount_percent")
	require.NotNil(t, dirt)
	assert.Equal(t, []float64{35, 6}, []float64{dirt.From, dirt.To})
	assert.Equal(t, 77.0, d.Kit.Voice("snare").Synth().Recipe.Body.Decay)
	first := kick.Layers[1]
	require.NotNil(t, first.Recording)
	assert.Equal(t, -36.0, first.Recording.GateThreshold)
	again, err := Read([]byte(jsonOf(t, d)))
	require.NoError(t, err)
	assert.Equal(t, d, again)
}

// A document of schema 3, as the version before wrote it: its groove becomes the first
// variation, and its hits are plain ones.
func TestSchema3IsBroughtUpToDate(t *testing.T) {
	data, err := os.ReadFile("testdata/schema3.json")
	require.NoError(t, err)
	d, err := Read(data)
	require.NoError(t, err)
	assert.Equal(t, "a", d.Variation)
	require.Len(t, d.Variations, 1)
	assert.Nil(t, d.Variations[0].Groove)
	kick := d.Groove.Lane("kick").Hits
	require.Len(t, kick, 2)
	assert.Equal(t, []int{90, 60}, []int{kick[0].Velocity, kick[1].Velocity})
	assert.Equal(t, 1, kick[0].Strokes())
	assert.Equal(t, 9.0, d.Groove.Feel.Voices["kick"].Lean)
	again, err := Read([]byte(jsonOf(t, d)))
	require.NoError(t, err)
	assert.Equal(t, d, again)
}

// A document of schema 5, as the version before wrote it: wow and flutter were parts of the
// most, hiss was louder on paper; moves and a linked chain's own numbers named them, too.
func TestSchema5IsBroughtUpToDate(t *testing.T) {
	data, err := os.ReadFile("testdata/schema5.json")
	require.NoError(t, err)
	d, err := Read(data)
	require.NoError(t, err)
	at := func(address string) float64 {
		n, err := d.Number(address)
		require.NoError(t, err, address)
		return n.Value
	}
	assert.InDelta(t, 0.1, at("snare/chain/tape1/wow_weighted_percent"), 1e-9)
	assert.InDelta(t, 0.144, at("snare/chain/tape1/flutter_weighted_percent"), 1e-9)
	assert.InDelta(t, 0.15, at("hat/chain/tape1/wow_weighted_percent"), 1e-9, "its own")
	assert.InDelta(t, -60.8, at("kick/chain/worn1/hiss_rms_db"), 1e-9)
	assert.InDelta(t, -40.8, at("kick/chain/bed1/rms_db"), 1e-9)
	require.Len(t, d.Mix.Automation, 1)
	assert.Equal(t, "snare/chain/tape1/flutter_weighted_percent", d.Mix.Automation[0].At)
	assert.InDelta(t, 1.44, d.Mix.Automation[0].Points[1].Value, 1e-9)
	again, err := Read([]byte(jsonOf(t, d)))
	require.NoError(t, err)
	assert.Equal(t, d, again)
}

// A document of schema 4, as the version before wrote it: its voices go to the output
// through nothing.
func TestSchema4IsBroughtUpToDate(t *testing.T) {
	data, err := os.ReadFile("testdata/schema4.json")
	require.NoError(t, err)
	d, err := Read(data)
	require.NoError(t, err)
	require.Len(t, d.Kit.Voices, 5)
	for _, v := range d.Kit.Voices {
		assert.Empty(t, v.Chain)
		assert.NotNil(t, v.Sends)
		assert.Empty(t, v.To)
	}
	assert.Empty(t, d.Mix.Buses)
	assert.Zero(t, d.Mix.Out.Level)
	again, err := Read([]byte(jsonOf(t, d)))
	require.NoError(t, err)
	assert.Equal(t, d, again)
}

// A document of schema 6: targets belonged to families.
func TestSchema6IsBroughtUpToDate(t *testing.T) {
	data, err := os.ReadFile("testdata/schema6.json")
	require.NoError(t, err)
	d, err := Read(data)
	require.NoError(t, err)
	require.Len(t, d.Targets, 1, "there is no voice of a cowbell")
	assert.Equal(t, "r1", d.Target("kick").Slice.Hit)
	assert.NotNil(t, d.References[0].Drums.LeftOut)
	again, err := Read([]byte(jsonOf(t, d)))
	require.NoError(t, err)
	assert.Equal(t, d, again)
}

// Documents of schemas 7 and 8: effects were steps, modulations and automation were moves.
func TestSchemas7And8AreBroughtUpToDate(t *testing.T) {
	for schema := 7; schema <= 8; schema++ {
		data, err := os.ReadFile(fmt.Sprintf("testdata/schema%d.json", schema))
		require.NoError(t, err)
		d, err := Read(data)
		require.NoError(t, err)
		require.Len(t, d.Mix.Automation, 1)
		assert.Equal(t, []mixer.AutomationPoint{{Bar: 0, Value: -6}, {Bar: 1, Value: 0}}, d.Mix.Automation[0].Points)
		effects, modulations := 0, 0
		for i := range d.Kit.Voices {
			for _, l := range d.Kit.Voices[i].Layers {
				if r := l.Recipe; r != nil {
					effects += len(r.Effects)
					modulations += len(r.Modulations)
					for _, m := range r.Modulations {
						_, ok := r.Number(m.At)
						assert.True(t, ok, m.At)
					}
				}
			}
		}
		assert.Equal(t, strings.Count(string(data), `"by":`), modulations)
		assert.Positive(t, effects)
		assert.Len(t, d.Arrangement.Sections, 1)
		again, err := Read([]byte(jsonOf(t, d)))
		require.NoError(t, err)
		assert.Equal(t, d, again)
	}
}

func TestBrokenOldDocumentsAreRefused(t *testing.T) {
	for name, text := range map[string]string{
		"no voices":   `{"schema":1,"name":"x","kit":7}`,
		"voice":       `{"schema":1,"name":"x","kit":{"voices":[3]}}`,
		"layer":       `{"schema":1,"name":"x","kit":{"voices":[{"layers":["a"]}]}}`,
		"delay":       `{"schema":1,"name":"x","kit":{"voices":[{"layers":[{"delay_ms":1e999}]}]}}`,
		"not objects": `{"schema":1,"name":["x"]}`,
	} {
		_, err := Read([]byte(text))
		assert.Error(t, err, name)
	}
}
