package service

import (
	"bytes"
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/project"
	"jubrak/core/slice"
	"jubrak/core/sound"
)

func wavBytes(t *testing.T, b *audio.Buffer) []byte {
	t.Helper()
	var buf bytes.Buffer
	require.NoError(t, format.WriteWAV(&buf, b, format.WAV32F))
	return buf.Bytes()
}

// click is a stereo sound of one sample at full level; right is how its other
// side is.
func click(seconds float64, right float32) *audio.Buffer {
	b := audio.New(48000, 2, int(seconds*48000))
	b.Channels[0][0], b.Channels[1][0] = 1, right
	return b
}

func TestASliceBecomesALayer(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	w := open(t)
	st := make1(t, w, project.AddHit{Voice: "kick", Tick: 0})
	ref, err := w.AddReference(context.Background(), st.ID, "take.flac", recording(t), none)
	require.NoError(t, err)
	st, err = w.Open(st.ID)
	require.NoError(t, err)
	before, err := w.VoiceSound(st.ID, "kick", 1)
	require.NoError(t, err)
	st, err = w.LayerFromSlice(context.Background(), st.ID, ref, NewLayer{Base: st.Version, Voice: "kick", Slice: slice.Slice{From: 0.5, To: 0.9}})
	require.NoError(t, err)
	kick := st.Document.Kit.Voice("kick")
	require.Len(t, kick.Layers, 2)
	assert.Equal(t, "take, 0.50 s", kick.Layers[1].Name)
	after, err := w.VoiceSound(st.ID, "kick", 1)
	require.NoError(t, err)
	require.Len(t, after.Layers, 2)
	assert.InDelta(t, 400, after.Layers[1].Span, 1)
	assert.NotEqual(t, before.Wave.Points, after.Wave.Points, "it is heard")

	// The archive holds the sound, and plays the same without the service.
	f, err := w.Export(context.Background(), st.ID, &st.Document, "project", export.Options{})
	require.NoError(t, err)
	var archive, there, here bytes.Buffer
	require.NoError(t, f.Write(&archive))
	loop, err := w.Export(context.Background(), st.ID, &st.Document, "loop", export.Options{Bars: 1, Format: format.WAV24})
	require.NoError(t, err)
	require.NoError(t, loop.Write(&there))
	opened, err := format.OpenArchive(archive.Bytes())
	require.NoError(t, err)
	samples := Samples(&st.Document, opened.Blob)
	parts, err := export.Loop(context.Background(), &st.Document, samples, export.Options{Bars: 1})
	require.NoError(t, err)
	require.NoError(t, export.Files(parts, format.WAV24)[0].Write(&here))
	assert.True(t, bytes.Equal(there.Bytes(), here.Bytes()))
	_, err = opened.Blob("nobody")
	assert.ErrorContains(t, err, "holds no blobs/nobody")

	var refusal *Refusal
	_, err = w.LayerFromSlice(context.Background(), st.ID, ref, NewLayer{Base: st.Version, Voice: "kick", Slice: slice.Slice{From: 5, To: 999}})
	assert.ErrorAs(t, err, &refusal)
}

func TestAOneShotBecomesALayer(t *testing.T) {
	w, id := shop(t)
	st, err := w.Open(id)
	require.NoError(t, err)
	st, err = w.LayerFromFile(id, st.Version, "snare", "my_rim.wav", wavBytes(t, click(0.2, -1)))
	require.NoError(t, err)
	l := st.Document.Kit.Voice("snare").Layers[1]
	assert.Equal(t, "my rim", l.Name)
	one := w.Song(&st.Document).Samples[l.Blob()]
	require.NotNil(t, one)
	require.Len(t, one.X, 2, "both sides are kept")
	assert.InDelta(t, 1, one.X[0][0], 1e-6)
	assert.InDelta(t, -1, one.X[1][0], 1e-6)
	st, err = w.Edit(id, st.Version, project.Edits{
		project.SetNumber{At: project.LayerAddress("snare", l.ID, "level_db"), Value: -99}, project.SetNumber{At: project.LayerAddress("snare", l.ID, "flip"), Value: 1},
		project.SetNumber{At: project.LayerAddress("snare", l.ID, "mute"), Value: 1}, project.SetNumber{At: "snare/layers/drum/mute", Value: 1},
	}, "")
	require.NoError(t, err)
	v := st.Document.Kit.Voice("snare")
	assert.Equal(t, -48.0, v.Layers[1].Level, "held in its range")
	assert.True(t, v.Layers[1].Flip && v.Layers[1].Mute && v.Layers[0].Mute)
	drawn, err := w.VoiceSound(id, "snare", 1)
	require.NoError(t, err)
	assert.Zero(t, drawn.Measures.Peak, "nothing is left to hear")

	for name, data := range map[string][]byte{
		"long.wav": wavBytes(t, click(13, 1)), "still.wav": wavBytes(t, audio.New(48000, 1, 4800)), "a.mid": []byte("MThd\x00\x00\x00\x06"), "a.wav": []byte("RIFF"),
	} {
		_, err := w.LayerFromFile(id, st.Version, "snare", name, data)
		assert.Error(t, err, name)
	}
	for range 6 {
		st, err = w.LayerFromFile(id, st.Version, "snare", "x.wav", wavBytes(t, click(0.1, 1)))
		require.NoError(t, err)
	}
	_, err = w.LayerFromFile(id, st.Version, "snare", "x.wav", wavBytes(t, click(0.1, 1)))
	assert.ErrorContains(t, err, "at most 8 layers")
	st, err = w.Edit(id, st.Version, project.Edits{project.RemoveLayer{Voice: "snare", Layer: l.ID}}, "")
	require.NoError(t, err)
	assert.Len(t, st.Document.Kit.Voice("snare").Layers, 7)
	_, err = w.Edit(id, st.Version, project.Edits{project.SetNumber{At: project.LayerAddress("snare", l.ID, "level_db"), Value: 0}}, "")
	assert.ErrorContains(t, err, "no number at")
}

func TestALostSoundIsSilent(t *testing.T) {
	d := project.New("x")
	d.Kit.Voices[0].Layers = append(d.Kit.Voices[0].Layers, newLayer("gone"))
	samples := Samples(d, func(string) ([]byte, error) { return nil, assert.AnError })
	assert.Nil(t, samples["gone"])
	_, err := export.Loop(context.Background(), d, samples, export.Options{Bars: 1})
	assert.NoError(t, err)
	assert.Equal(t, []string{"gone"}, d.Blobs())
}

func newLayer(blob string) sound.Layer { return sound.Recorded("a", "A", blob) }

func TestARecordingIsUsedInAnotherProject(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	w := open(t)
	mine, other := make1(t, w), make1(t, w)
	ref, err := w.AddReference(context.Background(), other.ID, "take.flac", recording(t), none)
	require.NoError(t, err)
	list, err := w.Recordings(mine.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, Recording{other.ID, other.Document.Name, ref, "take", "audio"}, list[0])
	st, err := w.UseRecording(mine.ID, mine.Version, other.ID, ref)
	require.NoError(t, err)
	got := st.Document.Reference(st.Document.Active)
	require.NotNil(t, got)
	assert.NotEqual(t, ref, got.ID)
	assert.Equal(t, "take", got.Name)
	list, err = w.Recordings(mine.ID)
	require.NoError(t, err)
	assert.Empty(t, list, "it is there already")
	_, err = w.UseRecording(mine.ID, st.Version, other.ID, "nobody")
	assert.Error(t, err)
}

// A loop in a layer is cut into its hits: a voice for each family, its hits in turn; one
// step back takes all of it away.
func TestALoopInALayerIsCutIntoHits(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	w := open(t)
	st := make1(t, w, project.AddHit{Voice: "kick", Tick: 0})
	before := len(st.Document.Kit.Voices)
	b, err := format.Decode(recording(t))
	require.NoError(t, err)
	st, err = w.LayerFromFile(st.ID, st.Version, "kick", "loop.wav", wavBytes(t, b.Slice(0, min(b.Frames(), 6*b.Rate))))
	require.NoError(t, err)
	kick := st.Document.Kit.Voice("kick")
	layer := kick.Layers[len(kick.Layers)-1].ID
	st, err = w.SliceLayer(context.Background(), st.ID, "kick", SliceLayer{Base: st.Version, Layer: layer})
	require.NoError(t, err)
	added := st.Document.Kit.Voices[before:]
	require.GreaterOrEqual(t, len(added), 2, "a kick and a snare at least")
	families := map[sound.Family]bool{}
	for _, v := range added {
		families[v.Family] = true
		for _, l := range v.Layers {
			require.NotNil(t, l.Recording)
			assert.Equal(t, sound.InTurn, l.Turn)
		}
	}
	assert.True(t, families[sound.Kick] && families[sound.Snare], "%v", families)
	_, err = w.UndoRedo(st.ID, st.Version, -1)
	require.NoError(t, err)
	st, err = w.Open(st.ID)
	require.NoError(t, err)
	assert.Len(t, st.Document.Kit.Voices, before)

	var refusal *Refusal
	st, err = w.LayerFromFile(st.ID, st.Version, "kick", "click.wav", wavBytes(t, click(0.5, 1)))
	require.NoError(t, err)
	kick = st.Document.Kit.Voice("kick")
	_, err = w.SliceLayer(context.Background(), st.ID, "kick", SliceLayer{Base: st.Version, Layer: kick.Layers[len(kick.Layers)-1].ID})
	assert.ErrorAs(t, err, &refusal, "one hit is nothing to cut")
}
