package service

import (
	"bytes"
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/audition"
	"jubrak/core/format"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// The recording is not held while its hits are heard.
func TestFollowShowsTheRecordingOnce(t *testing.T) {
	b := audio.New(44100, 1, 44100)
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(i%441) / 441
	}
	var wav bytes.Buffer
	require.NoError(t, format.WriteWAV(&wav, b, format.WAV16))
	var shown []bool
	_, err := follow(t.Context(), wav.Bytes(), func(string, float64) {}, func(b *audio.Buffer, _ transcribe.Raw) {
		shown = append(shown, b != nil)
	})
	require.NoError(t, err)
	require.Greater(t, len(shown), 2)
	assert.True(t, shown[0])
	assert.NotContains(t, shown[1:], true)
}

func shop(t *testing.T) (*Service, string) {
	t.Helper()
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	w := New(s)
	t.Cleanup(func() { w.Close(); _ = s.Close() })
	st, err := w.Create(project.New("Lap"))
	require.NoError(t, err)
	return w, st.ID
}

func twoBars() *Take {
	t := &Take{Name: " Pads ", Tempo: 100, Beats: 4}
	for i := range 8 {
		t.Hits = append(t.Hits, TakeHit{float64(i) * 0.6, sound.Kick, 100})
	}
	return t
}

// Derivation: at 100 BPM and 3,840 ticks a quarter note, 0.6 s are 3,840.
func TestTakesBecomePerformances(t *testing.T) {
	take := twoBars()
	take.Hits[1].Time += 0.012
	p, err := take.performance()
	require.NoError(t, err)
	assert.Equal(t, 600000, p.Tempo[0].Micros)
	assert.Equal(t, 3840+77, p.Notes[1].Tick, "12 ms late")
	assert.Equal(t, 36, p.Notes[0].Key)
	assert.Equal(t, 9, p.Notes[0].Channel)
	take.Hits[0].Time = -0.01
	p, err = take.performance()
	require.NoError(t, err)
	assert.Equal(t, 4*3840-64, p.Notes[0].Tick, "an empty bar stands in front")
	assert.InDelta(t, 2.4-0.01, p.Seconds(p.Notes[0].Tick), 1e-3)
	for name, bad := range map[string]func(*Take){
		"no meter": func(t *Take) { t.Beats = 0 }, "fast": func(t *Take) { t.Tempo = 1e9 }, "far": func(t *Take) { t.Hits[0].Time = 1e9 },
		"loud": func(t *Take) { t.Hits[0].Velocity = 900 }, "empty": func(t *Take) { t.Hits = nil },
		"many": func(t *Take) { t.Hits = make([]TakeHit, mostHits+1) },
	} {
		take := twoBars()
		bad(take)
		_, err := take.performance()
		assert.Error(t, err, name)
	}
}

func TestATakeIsTheActiveReference(t *testing.T) {
	w, id := shop(t)
	st, err := w.AddTake(context.Background(), id, twoBars())
	require.NoError(t, err)
	ref := st.Document.Reference(st.Document.Active)
	require.NotNil(t, ref)
	assert.Equal(t, "Pads", ref.Name)
	assert.True(t, st.CanUndo)
	a, err := w.Analysis(context.Background(), id, ref.ID)
	require.NoError(t, err)
	assert.InDelta(t, 100, *a.Tempo, 1e-6)
	assert.Len(t, a.Hits, 8)
	_, err = w.AddTake(context.Background(), id, &Take{})
	var refusal *Refusal
	require.ErrorAs(t, err, &refusal)
	_, err = w.AddTake(context.Background(), "nobody", twoBars())
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestStudiesOfWhatIsThere(t *testing.T) {
	w, id := shop(t)
	st, err := w.AddTake(context.Background(), id, twoBars())
	require.NoError(t, err)
	prepare := w.Study(id)
	settings := audition.Settings{Reference: st.Document.Active, From: 0, To: 2, Speed: 0.5, KeepPitch: true, Band: "all", Part: "all", Click: "hits"}
	b, err := prepare(context.Background(), settings)
	require.NoError(t, err)
	assert.InDelta(t, 4, b.Seconds(), 0.01)
	assert.Greater(t, b.Peak(), 0.1, "a performance without sound has clicks")
	settings.Reference = "gone"
	_, err = prepare(context.Background(), settings)
	assert.ErrorIs(t, err, store.ErrNotFound)
	click, err := prepare(context.Background(), audition.Settings{Tempo: 120, Beats: 4, Bars: 2})
	require.NoError(t, err)
	assert.InDelta(t, 4, click.Seconds(), 1e-3)
	_, err = w.Slices(context.Background(), id, st.Document.Active)
	var refusal *Refusal
	require.ErrorAs(t, err, &refusal, "there is nothing to cut")
	picture, err := w.Spectrogram(id, st.Document.Active, 0, 1, 10)
	require.NoError(t, err)
	assert.Empty(t, picture.Hz)
}

func TestMappingIsCheckedAndKept(t *testing.T) {
	w, _ := shop(t)
	m, err := w.Mapping()
	require.NoError(t, err)
	assert.Empty(t, m.Keys)
	assert.Error(t, w.SaveMapping(&Mapping{Keys: map[int]sound.Family{36: "spoon"}}))
	require.NoError(t, w.SaveMapping(&Mapping{Keys: map[int]sound.Family{60: sound.Tom, 36: sound.Bass808}}))
	m, err = w.Mapping()
	require.NoError(t, err)
	assert.Equal(t, []transcribe.Correction{{Kind: "map", Key: 36, Family: sound.Bass808}, {Kind: "map", Key: 60, Family: sound.Tom}}, m.corrections())
}

func TestSlicesAsFiles(t *testing.T) {
	w, id := shop(t)
	_, err := w.SliceFiles(context.Background(), id, "nobody", format.WAV24)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = w.CompareReferences(context.Background(), id, "nobody")
	assert.Error(t, err)
	_, err = w.UseProfile(id, "nobody", 1)
	assert.ErrorIs(t, err, store.ErrNotFound)
	st, err := w.UseProfile(id, "genre-funk", 1)
	require.NoError(t, err)
	assert.Equal(t, "Funk", st.Document.Reference(st.Document.Active).Name)
	track, gain, err := w.Track(context.Background(), st)
	require.NoError(t, err)
	assert.Nil(t, track, "a profile cannot be played")
	assert.Equal(t, 1.0, gain)
}
