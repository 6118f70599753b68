package service

import (
	"bytes"
	"context"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/mixreport"
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
		project.AddEffect{Chain: project.InRow("bus:break"), Kind: "crush", Values: map[string]float64{"bits": 8}}, project.AddEffect{Chain: project.InRow("bus:break"), Kind: "gate", To: 1},
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
	st, err = w.Edit(st.ID, st.Version, project.Edits{project.AddEffect{Chain: project.InRow("bus:break"), Kind: "shift", To: 2}}, "")
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

// A mix of another project: what comes along is reported before, and goes to the voices of the
// same family; what listens to a kick listens to this kick.
func TestAMixOfAnotherProject(t *testing.T) {
	w := open(t)
	from := make1(t, w)
	from, err := w.Edit(from.ID, from.Version, project.Edits{
		project.AddBus{Name: "Drums", Rows: []string{"kick", "snare"}}, project.AddEffect{Chain: project.InRow("bus:drums"), Kind: "compressor"}, project.AddEffect{Chain: project.InRow("808"), Kind: "compressor", Key: "kick"},
		project.AddEffect{Chain: project.InRow("out"), Kind: "ceiling"},
	}, "")
	require.NoError(t, err)
	to := make1(t, w)
	known, err := w.TakeMix(to.ID, MixAsk{Base: to.Version, From: from.ID, What: "all", Dry: true})
	require.NoError(t, err)
	assert.Nil(t, known.State)
	assert.Contains(t, known.Comes, "bus Drums: 0 dB, 1 effect")
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
	require.ErrorContains(t, err, "no effects")
	st, err = w.Edit(st.ID, st.Version, project.Edits{project.AddEffect{Chain: project.InRow("kick"), Kind: "tape"}}, "")
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

// An impulse response of the user's own, at another rate, from the file to the bounce and on
// to another folder: what is heard is the response, late by where its peak lies; it is kept
// in the project file. Bad files are refused with a sentence and change nothing.
func TestImpulseResponseOfTheUser(t *testing.T) {
	w := open(t)
	st, err := w.Create(project.New("Hall"))
	require.NoError(t, err)
	st, err = w.Edit(st.ID, st.Version, project.Edits{
		project.AddHit{Voice: "kick", Tick: 0, Velocity: 110},
		project.AddEffect{Chain: project.InRow("kick"), Kind: "convolution", Values: map[string]float64{"mix_percent": 100}},
	}, "")
	require.NoError(t, err)
	for text, data := range map[string][]byte{"recorded sound": []byte("MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x60"), "": []byte("not a sound")} {
		_, err = w.EffectRecording(st.ID, st.Version, "kick", "convolution1", "x.wav", data)
		require.ErrorContains(t, err, text)
	}
	wav := func(b *audio.Buffer) []byte {
		var out bytes.Buffer
		require.NoError(t, format.WriteWAV(&out, b, format.WAV16))
		return out.Bytes()
	}
	_, err = w.EffectRecording(st.ID, st.Version, "kick", "convolution1", "long.wav", wav(func() *audio.Buffer { b := audio.New(8000, 1, 8000*13); b.Channels[0][5] = 1; return b }()))
	require.ErrorContains(t, err, "Nothing was changed")
	one := audio.New(44100, 1, 22050)
	one.Channels[0][4410] = 0.5 // a single reflection after 100 ms
	st, err = w.EffectRecording(st.ID, st.Version, "kick", "convolution1", "hall.wav", wav(one))
	require.NoError(t, err)
	fx := st.Document.Kit.Voice("kick").Chain[0]
	require.NotNil(t, fx.Recording)
	assert.Equal(t, "hall", fx.Recording.Name)
	assert.Contains(t, st.Document.Blobs(), fx.Recording.Blob)

	render := func(d *project.Document) *audio.Buffer {
		b, err := mixreport.Sound(context.Background(), d, w.samples(d), "kick", 1, false)
		require.NoError(t, err)
		return b
	}
	wet := render(&st.Document)
	without := st.Document
	without.Kit.Voices = slices.Clone(without.Kit.Voices)
	without.Kit.Voice("kick").Chain = nil
	plain := render(&without)
	// An energy of 1 below 20 of 24 kHz: √(24/20) louder in its band.
	for _, i := range []int{200, 1000, 5000, 12000} {
		assert.InDelta(t, float64(plain.Channels[0][i])*math.Sqrt(1.2), wet.Channels[0][i+4800], 2e-3, "frame %d", i)
	}

	f, err := w.Export(context.Background(), st.ID, &st.Document, "project", export.Options{})
	require.NoError(t, err)
	var archive bytes.Buffer
	require.NoError(t, f.Write(&archive))
	other := open(t)
	id, _, err := other.OpenArchive(context.Background(), archive.Bytes(), func(string, float64) {})
	require.NoError(t, err)
	there, err := other.Open(id)
	require.NoError(t, err)
	assert.NotNil(t, other.samples(&there.Document)[fx.Recording.Blob])
}
