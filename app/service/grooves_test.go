package service

import (
	"bytes"
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audition"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/music"
	"jubrak/core/profile"
	"jubrak/core/project"
)

// bassFile is a MIDI file of drums and of a bass on another channel: F1 for a bar, then
// D♭1 and A♭1.
func bassFile(t *testing.T) []byte {
	t.Helper()
	p := &format.Performance{PPQ: 960, Meter: music.Meter{Beats: 4, Unit: 4}, Tempo: []format.MIDITempo{{Tick: 0, Micros: 500000}}, End: 7680}
	for b := range 8 {
		p.Notes = append(p.Notes, format.MIDINote{Tick: b * 960, Length: 100, Channel: 9, Key: 36, Velocity: 100})
	}
	for _, n := range [][3]int{{0, 3840, 29}, {3840, 1920, 25}, {5760, 1920, 32}} {
		p.Notes = append(p.Notes, format.MIDINote{Tick: n[0], Length: n[1], Channel: 0, Key: n[2], Velocity: 90})
	}
	var b bytes.Buffer
	require.NoError(t, format.WriteMIDI(&b, p, "x"))
	return b.Bytes()
}

func TestRootsOfAMIDIFile(t *testing.T) {
	w := open(t)
	st := make1(t, w, project.SetNote{Voice: "808", Note: "F1"})
	ref, err := w.AddReference(context.Background(), st.ID, "bass.mid", bassFile(t), none)
	require.NoError(t, err)
	found, err := w.RootsOf(context.Background(), st.ID, ref)
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(found.Roots), 3)
	assert.Equal(t, []int{29, 25, 32}, []int{found.Roots[0].Note, found.Roots[1].Note, found.Roots[2].Note})
	assert.Equal(t, []int{0, 3840, 5760}, []int{found.Roots[0].At, found.Roots[1].At, found.Roots[2].At})
	st, err = w.Open(st.ID)
	require.NoError(t, err)
	st, err = w.Edit(st.ID, st.Version, project.Edits{project.FollowRoots{Voice: "808", Roots: found.Roots, Lasts: found.Lasts}}, "")
	require.NoError(t, err)
	hits := st.Document.Groove.Lane("808").Hits
	require.Len(t, hits, 3)
	assert.Equal(t, []float64{0, -4, 3}, []float64{hits[0].Semitones, hits[1].Semitones, hits[2].Semitones})
}

// Several references become one profile, which is kept, grows, and can be aimed at; the
// groove's own feel is one more.
func TestHabitsAreKept(t *testing.T) {
	w := open(t)
	st := make1(t, w, project.FillLane{Voice: "kick", Every: 4}, project.FillLane{Voice: "hat", Every: 1}, project.SetNumber{At: "groove/feel/swing_percent", Value: 58})
	mine, err := w.SaveFeel(st.ID, "Mine", "", nil)
	require.NoError(t, err)
	assert.InDelta(t, 58, mine.Swing.Low, 0.2)
	genres := profile.Genres()
	h, err := w.SaveHabit(context.Background(), st.ID, HabitAsk{Name: "Both", Profiles: []string{mine.ID, genres[0].ID}})
	require.NoError(t, err)
	require.Len(t, h.Habit.Recordings, 2)
	h, err = w.SaveHabit(context.Background(), st.ID, HabitAsk{Into: h.ID, Profiles: []string{genres[3].ID}})
	require.NoError(t, err)
	require.Len(t, h.Habit.Recordings, 3)
	assert.Equal(t, "Both", h.Name)
	st, err = w.UseProfile(st.ID, h.ID, st.Version)
	require.NoError(t, err)
	near, err := w.Nearest(st.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, near, "to itself")
	_, err = w.SaveHabit(context.Background(), st.ID, HabitAsk{Name: "x", Profiles: []string{mine.ID}})
	var refusal *Refusal
	assert.ErrorAs(t, err, &refusal)
	tries, err := w.Tries(st.ID)
	require.NoError(t, err)
	require.Len(t, tries, 1)
	assert.NotNil(t, tries[0].Swing, "against the profile")
}

// A stroke of mine and of the reference's, together, at a quarter of the speed.
func TestStrokesAreHeardTogether(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	w := open(t)
	st := make1(t, w, project.FillLane{Voice: "kick", Every: 4})
	hear := func() (float64, error) {
		b, err := w.Study(st.ID)(context.Background(), audition.Settings{Place: &audition.Place{Voice: "kick", Tick: 960}})
		if err != nil {
			return 0, err
		}
		return b.Seconds(), nil
	}
	_, err := hear()
	assert.Error(t, err, "without a recording")
	_, err = w.AddReference(context.Background(), st.ID, "take.flac", recording(t), none)
	require.NoError(t, err)
	seconds, err := hear()
	require.NoError(t, err)
	assert.InDelta(t, 4*(beforeStroke+afterStroke)+1.0/3, seconds, 0.05)
}

// Steps over variations are undone and redone, also after a restart, and what is kept is
// what was shown.
func TestVariationsAreUndoneAfterARestart(t *testing.T) {
	w := open(t)
	st := make1(t, w, project.FillLane{Voice: "kick", Every: 4})
	var shown []project.Document
	shown = append(shown, st.Document)
	for _, e := range []project.Edits{
		{project.AddVariation{Name: "thin"}}, {project.Clear{Voice: "kick"}}, {project.FillLane{Voice: "hat", Every: 1}},
		{project.UseVariation{Variation: "a"}}, {project.AddHit{Voice: "snare", Tick: 960}}, {project.UseVariation{Variation: "b"}}, {project.RemoveVoice{Voice: "hat"}}, {project.UseVariation{Variation: "a"}},
	} {
		next, err := w.Edit(st.ID, st.Version, e, "")
		require.NoError(t, err)
		st = next
		shown = append(shown, st.Document)
	}
	check := func(want *project.Document) {
		t.Helper()
		w.letGo(st.ID) // as a restart does
		now, err := w.Open(st.ID)
		require.NoError(t, err)
		st = now
		assert.Equal(t, *want, now.Document)
	}
	check(&shown[len(shown)-1])
	for i := len(shown) - 2; i >= 0; i-- {
		_, err := w.UndoRedo(st.ID, st.Version, -1)
		require.NoError(t, err)
		check(&shown[i])
	}
	for i := 1; i < len(shown); i++ {
		_, err := w.UndoRedo(st.ID, st.Version, 1)
		require.NoError(t, err)
		check(&shown[i])
	}
}

// The bass of a backing loop, heard among its drums: the roots that were played stand
// where they were played.
func TestRootsOfARecording(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	w := open(t)
	played, _, err := project.New("Backing").Apply(project.Edits{
		project.SetBars{Bars: 4}, project.SetKey{Key: "F minor"}, project.SetNumber{At: "tempo/bpm", Value: 100},
		project.SetNote{Voice: "808", Note: "F1"}, project.SetNumber{At: "808/layers/drum/body.decay_ms", Value: 2500},
		project.FillLane{Voice: "kick", Every: 8}, project.FillLane{Voice: "snare", Every: 8, From: 4}, project.FillLane{Voice: "hat", Every: 2},
		project.FollowRoots{Voice: "808", Chords: "Fm | Db | Ab | Eb"},
	}, nil)
	require.NoError(t, err)
	out, err := engine.Render(context.Background(), played.Song(nil), engine.Bounce{Rate: engine.Rate, Bars: 4, Seamless: true})
	require.NoError(t, err)
	st := make1(t, w)
	ref, err := w.AddReference(context.Background(), st.ID, "backing.wav", wavBytes(t, out.Mix), none)
	require.NoError(t, err)
	found, err := w.RootsOf(context.Background(), st.ID, ref)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, found.Measurable, found.Beats/2, "%+v", found)
	right := 0
	for _, r := range found.Roots {
		want := [4]int{5, 1, 8, 3}[r.At/3840%4] // F, Db, Ab, Eb
		if r.Note%12 == want {
			right += r.Length
		}
	}
	assert.GreaterOrEqual(t, right, found.Measurable*960*3/4, "%+v", found)
}
