package workshop

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/groove"
	"jubrak/core/project"
)

// A break through one chain, then through another: bounces are named on, keep what they
// were made of, sound as the row did, and are cut into hits.
func TestBounceAgainAndAgain(t *testing.T) {
	if testing.Short() {
		t.Skip("renders four bounces")
	}
	w := open(t)
	st := make1(t, w)
	var hits []project.NewHit
	for i := range 8 {
		hits = append(hits, project.NewHit{Voice: "kick", Hit: groove.Hit{Tick: i * 960, Velocity: 110}}, project.NewHit{Voice: "snare", Hit: groove.Hit{Tick: i*960 + 480, Velocity: 100}})
	}
	st, err := w.Edit(st.ID, st.Version, project.Edits{
		project.PutHits{Hits: hits}, project.AddBus{Name: "Break", Rows: []string{"kick", "snare"}},
		project.AddToChain{Row: "bus:break", Kind: "crush", Values: map[string]float64{"bits": 8}}, project.AddToChain{Row: "bus:break", Kind: "gate", To: 1},
	}, "")
	require.NoError(t, err)
	for _, want := range []string{"Break bounce 1", "Break bounce 2"} {
		st, err = w.Bounce(context.Background(), st.ID, BounceRow{Base: st.Version, Row: "bus:break"})
		require.NoError(t, err)
		v := st.Document.Kit.Voices[len(st.Document.Kit.Voices)-1]
		assert.Equal(t, want, v.Name)
		require.NotNil(t, v.Layers[0].Recording)
		assert.Len(t, st.Document.Groove.Lane(v.ID).Hits, 1)
	}
	// Through another chain, and cut.
	st, err = w.Edit(st.ID, st.Version, project.Edits{project.AddToChain{Row: "bus:break", Kind: "shift", To: 2}}, "")
	require.NoError(t, err)
	before := len(st.Document.Kit.Voices)
	st, err = w.Bounce(context.Background(), st.ID, BounceRow{Base: st.Version, Row: "bus:break", Slices: true})
	require.NoError(t, err)
	cut := st.Document.Kit.Voices[before:]
	require.NotEmpty(t, cut)
	for _, v := range cut {
		assert.True(t, strings.HasPrefix(v.Name, "Break bounce 3"), v.Name)
	}
	_, err = w.Bounce(context.Background(), st.ID, BounceRow{Base: st.Version, Row: "open"})
	require.ErrorContains(t, err, "silent")
	_, err = w.Bounce(context.Background(), st.ID, BounceRow{Base: st.Version, Row: "bus:gone"})
	require.ErrorContains(t, err, "no longer")
}

// A mix of another project: what comes along is told before, and goes to the voices of the
// same family; what listens to a kick listens to this kick.
func TestAMixOfAnotherProject(t *testing.T) {
	w := open(t)
	from := make1(t, w)
	from, err := w.Edit(from.ID, from.Version, project.Edits{
		project.AddBus{Name: "Drums", Rows: []string{"kick", "snare"}}, project.AddToChain{Row: "bus:drums", Kind: "compressor"}, project.AddToChain{Row: "808", Kind: "compressor", Key: "kick"},
		project.AddToChain{Row: "out", Kind: "ceiling"},
	}, "")
	require.NoError(t, err)
	to := make1(t, w)
	told, err := w.TakeMix(to.ID, MixAsk{Base: to.Version, From: from.ID, What: "all", Dry: true})
	require.NoError(t, err)
	assert.Nil(t, told.State)
	assert.Contains(t, told.Comes, "bus Drums: 0 dB, 1 step")
	taken, err := w.TakeMix(to.ID, MixAsk{Base: to.Version, From: from.ID, What: "all"})
	require.NoError(t, err)
	d := &taken.State.Document
	assert.Equal(t, "drums", d.Kit.Voice("kick").To)
	assert.Equal(t, "kick", d.Kit.Voice("808").Chain[0].Key)
	assert.Len(t, d.Mix.Out.Chain, 1)
	one, err := w.TakeMix(to.ID, MixAsk{Base: taken.State.Version, From: from.ID, What: "bus:drums"})
	require.NoError(t, err)
	assert.Len(t, one.State.Document.Mix.Buses, 2, "beside what is there")
	_, err = w.TakeMix(to.ID, MixAsk{Base: one.State.Version, From: from.ID, What: "open"})
	require.NoError(t, err)
}

// Chains that were kept come first, and go.
func TestChainsOfTheLibrary(t *testing.T) {
	w := open(t)
	st := make1(t, w)
	_, err := w.SaveChain(st.ID, "kick", "Empty")
	require.ErrorContains(t, err, "no steps")
	st, err = w.Edit(st.ID, st.Version, project.Edits{project.AddToChain{Row: "kick", Kind: "tape"}}, "")
	require.NoError(t, err)
	saved, err := w.SaveChain(st.ID, "kick", "Rink tape")
	require.NoError(t, err)
	list, err := w.Chains()
	require.NoError(t, err)
	assert.Equal(t, "Rink tape", list[0].Name)
	assert.True(t, list[0].Own)
	assert.GreaterOrEqual(t, len(list), 61)
	require.NoError(t, w.Store.DeleteItem(saved.ID))
}
