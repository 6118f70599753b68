package service

import (
	"bytes"
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/jobs"
	"jubrak/core/audition"
	"jubrak/core/format"
	"jubrak/core/measure"
	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/rebuild"
	"jubrak/demo/rink"
)

// rinkProject is a project whose reference is a take of the demo.
func rinkProject(t *testing.T, s *Service) *State {
	t.Helper()
	st, err := s.Create(project.New("Rink"))
	require.NoError(t, err)
	var file bytes.Buffer
	require.NoError(t, format.WriteWAV(&file, rink.Takes[0].Record(), format.WAV16))
	_, err = s.AddReference(context.Background(), st.ID, "Take.wav", file.Bytes(), func(string, float64) {})
	require.NoError(t, err)
	st, err = s.Open(st.ID)
	require.NoError(t, err)
	return st
}

// Rows are closed in one change of the history, which is undone as one; distances are kept.
func TestApplyingIsOneChange(t *testing.T) {
	s := open(t)
	st := rinkProject(t, s)
	st, err := s.Edit(st.ID, st.Version, project.Edits{project.TakeBoth{}, project.SetNumber{At: "tempo/bpm", Value: 81}, project.SetNumber{At: "groove/feel/snare/lean_ms", Value: 25}}, "")
	require.NoError(t, err)
	before, err := s.Compare(context.Background(), st.ID, nil)
	require.NoError(t, err)
	require.False(t, *before.Row("tempo").Inside)
	job, err := s.Apply(st.ID, ApplyAsk{Rows: []string{"tempo", "lean.snare"}})
	require.NoError(t, err)
	require.Equal(t, jobs.Done, ended(t, s, job).Status)
	got, err := s.Applied(job.ID)
	require.NoError(t, err)
	require.Len(t, got.Rows, 2)
	assert.InDelta(t, got.Rows[0].Wanted, *got.Rows[0].Got, 0.1, "tempo")
	after, err := s.Compare(context.Background(), st.ID, nil)
	require.NoError(t, err)
	assert.True(t, *after.Row("tempo").Inside)
	assert.True(t, *after.Row("lean.snare").Inside)
	assert.Equal(t, after.Outside, got.After, "what was reported is what is measured")
	now, err := s.Open(st.ID)
	require.NoError(t, err)
	_, err = s.UndoRedo(st.ID, now.Version, -1)
	require.NoError(t, err)
	undone, err := s.Open(st.ID)
	require.NoError(t, err)
	assert.Equal(t, 81.0, undone.Document.Tempo[0].BPM)
	list, err := s.Distances(st.ID)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Greater(t, list[0].Outside, list[1].Outside)
	assert.Len(t, list[0].Parts, 4)
	// The same project as an attempt at itself; another reference beside.
	attempt, err := s.CompareProject(context.Background(), st.ID, st.ID)
	require.NoError(t, err)
	assert.Equal(t, before.Outside, attempt.Outside)
	for _, r := range attempt.Rows {
		assert.Empty(t, r.Act, "%s: it is not changed from here", r.ID)
	}
	genre := profile.Genres()[0]
	wide, err := s.Edit(st.ID, undone.Version, project.Edits{project.AddReference{Reference: project.Reference{ID: "g", Name: "Genre", Kind: "profile", Profile: &genre}}, project.ActivateReference{Reference: st.Document.Active}}, "")
	require.NoError(t, err)
	both, err := s.Compare(context.Background(), wide.ID, []string{"g", "nowhere"})
	require.NoError(t, err)
	assert.Equal(t, []string{"Take", "Genre"}, both.Names)
	assert.Less(t, both.Outside, before.Outside, "what lies between them is inside")
	require.Len(t, both.Row("tempo").Others, 1)
	assert.InDelta(t, genre.Tempo.Middle(), *both.Row("tempo").Others[0], 1e-9)
	// An edit that comes in between is kept; nothing is closed over it.
	job, err = s.Apply(st.ID, ApplyAsk{Rows: []string{"loudness"}})
	require.NoError(t, err)
	_, err = s.Edit(st.ID, wide.Version, project.Edits{project.SetNumber{At: "tempo/bpm", Value: 99}}, "")
	require.NoError(t, err)
	late := ended(t, s, job)
	assert.Equal(t, jobs.Failed, late.Status)
	assert.Contains(t, late.Error, "Apply again")
	kept, err := s.Open(st.ID)
	require.NoError(t, err)
	assert.Equal(t, 99.0, kept.Document.Tempo[0].BPM)
	none, err := s.Create(project.New("None"))
	require.NoError(t, err)
	_, err = s.Apply(none.ID, ApplyAsk{})
	assert.ErrorIs(t, err, noReference)
}

// Sides are hidden, answers are counted against the truth, and results are kept.
func TestBlind(t *testing.T) {
	s := open(t)
	st := rinkProject(t, s)
	st, err := s.Edit(st.ID, st.Version, project.Edits{project.TakeBoth{}}, "")
	require.NoError(t, err)
	g, err := s.Blind(context.Background(), st.ID, BlindAsk{Rounds: 4})
	require.NoError(t, err)
	play := s.blinds.get(g.ID)
	for n := range 4 {
		x, err := s.blindSound(&audition.Blind{Game: g.ID, Side: "x"})
		require.NoError(t, err)
		a, err := s.blindSound(&audition.Blind{Game: g.ID, Side: "a"})
		require.NoError(t, err)
		b, err := s.blindSound(&audition.Blind{Game: g.ID, Side: "b"})
		require.NoError(t, err)
		require.NotSame(t, a, b)
		truth := SideB
		if x == a {
			truth = SideA
		} else {
			require.Same(t, x, b)
		}
		if n == 3 { // one answer is wrong
			truth = map[BlindSide]BlindSide{SideA: SideB, SideB: SideA}[truth]
		}
		g, err = s.AnswerBlind(g.ID, BlindAnswer{truth})
		require.NoError(t, err)
		assert.Equal(t, n < 3, *g.Was)
	}
	assert.Equal(t, 3, g.Right)
	assert.InDelta(t, 5.0/16, g.Odds, 1e-9, "three or four of four: binomial table")
	list, err := s.BlindResults(st.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 3, list[0].Right)
	first, _ := measure.Integrated(play.sounds[0])
	second, _ := measure.Integrated(play.sounds[1])
	assert.InDelta(t, first, second, 0.05, "as loud as each other")
	assert.Len(t, play.sounds[0].Channels, 2, "on both sides")
	assert.Len(t, play.sounds[1].Channels, 2, "on both sides")
	_, err = s.Blind(context.Background(), st.ID, BlindAsk{Rounds: 3})
	assert.Error(t, err)
	_, err = s.Blind(context.Background(), st.ID, BlindAsk{Rounds: 8, Variation: "a"})
	assert.ErrorContains(t, err, "another groove")
}

// An empty project is rebuilt itself; one with work in it stays, and another is made.
func TestRebuild(t *testing.T) {
	s := open(t)
	st := rinkProject(t, s)
	job, err := s.Rebuild(st.ID, RebuildAsk{Sounds: rebuild.Samples})
	require.NoError(t, err)
	require.Equal(t, jobs.Done, ended(t, s, job).Status)
	r, err := s.Rebuilt(job.ID)
	require.NoError(t, err)
	assert.False(t, r.New)
	assert.Equal(t, st.ID, r.Project)
	assert.GreaterOrEqual(t, *r.Inside, *r.Measurable*9/10)
	made, err := s.Open(st.ID)
	require.NoError(t, err)
	assert.Len(t, made.Document.Kit.Voices, 4)
	origins, err := s.Origins(context.Background(), st.ID)
	require.NoError(t, err)
	require.Len(t, origins, 4)
	for _, w := range origins {
		assert.Equal(t, rebuild.OfSamples, w.Sound, w.Name)
		assert.Equal(t, w.Hits, w.Same, w.Name)
	}
	// Taken back step by step, it is empty again.
	for range r.Changes {
		now, err := s.Open(st.ID)
		require.NoError(t, err)
		_, err = s.UndoRedo(st.ID, now.Version, -1)
		require.NoError(t, err)
	}
	now, err := s.Open(st.ID)
	require.NoError(t, err)
	assert.Equal(t, st.Document.Groove, now.Document.Groove)
	now, err = s.Edit(st.ID, now.Version, project.Edits{project.FillLane{Voice: "kick", Every: 4}}, "")
	require.NoError(t, err)
	job, err = s.Rebuild(st.ID, RebuildAsk{Sounds: rebuild.Samples, Kit: "house"})
	require.NoError(t, err)
	require.Equal(t, jobs.Done, ended(t, s, job).Status)
	r, err = s.Rebuilt(job.ID)
	require.NoError(t, err)
	assert.True(t, r.New)
	other, err := s.Open(r.Project)
	require.NoError(t, err)
	assert.Equal(t, "Rink, rebuilt", other.Document.Name)
	assert.Len(t, other.Document.Kit.Voices, 4)
	same, err := s.Open(st.ID)
	require.NoError(t, err)
	assert.Equal(t, now.Version, same.Version, "nothing is changed beside it")
	_, err = s.Rebuild(st.ID, RebuildAsk{Sounds: "gold"})
	assert.ErrorContains(t, err, "fits, samples, both, or kept")
	_, err = s.Rebuild(st.ID, RebuildAsk{Sounds: rebuild.Kept, Kit: "nowhere"})
	assert.ErrorContains(t, err, "not one that ships")
}
