package service

import (
	"bytes"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/jobs"
	"jubrak/core/audio"
	"jubrak/core/fit"
	"jubrak/core/format"
	"jubrak/core/preset"
	"jubrak/core/project"
	"jubrak/core/sound"
)

func thump(t *testing.T) []byte {
	t.Helper()
	b := audio.New(44100, 1, 16000)
	for i := range b.Channels[0] {
		at := float64(i) / 44100
		b.Channels[0][i] = float32(0.7 * math.Sin(2*math.Pi*(50*at+2*(1-math.Exp(-at*50)))) * math.Exp(-at/0.05))
	}
	var out bytes.Buffer
	require.NoError(t, format.WriteWAV(&out, b, format.WAV16))
	return out.Bytes()
}

// A voice is fitted to a file and to another voice; taking it is one change and an attempt.
func TestFitAVoice(t *testing.T) {
	s := open(t)
	st, err := s.Create(project.New("Fits"))
	require.NoError(t, err)
	file, err := s.FitTo("Old kick.wav", thump(t))
	require.NoError(t, err)
	ask := FitAsk{Kind: FitRecipe, File: file.ID, Effects: true, Evaluations: 80, Seed: 1}
	job, err := s.Fit(st.ID, "kick", ask)
	require.NoError(t, err)
	assert.Equal(t, jobs.Done, ended(t, s, job).Status)
	f, err := s.Fitted(job.ID)
	require.NoError(t, err)
	require.NotNil(t, f.Result)
	require.Len(t, f.Layers, 1)
	assert.Equal(t, "Old kick", f.Target)
	assert.Equal(t, "Old kick", f.Layers[0].Name)
	assert.Less(t, f.Loss, 5.0)
	assert.NotEmpty(t, f.Octaves)
	assert.Len(t, f.Wave.Points, len(f.Aim.Points))
	before, err := s.Open(st.ID)
	require.NoError(t, err)
	assert.Equal(t, st.Version, before.Version, "nothing is changed yet")

	taken, err := s.TakeFit(st.ID, "kick", TakeFit{Base: st.Version, Job: job.ID, Attack: true})
	require.NoError(t, err)
	v := taken.Document.Kit.Voice("kick")
	require.Len(t, v.Layers, 1)
	assert.Equal(t, f.Result.Recipe, *v.Layers[0].Recipe)
	require.NotNil(t, v.Layers[0].Attack, "the target's own start")
	attempts, err := s.Attempts(st.ID, "kick")
	require.NoError(t, err)
	require.Len(t, attempts.Attempts, 1)
	assert.Equal(t, "Fit to Old kick", attempts.Attempts[0].Name)
	back, err := s.UndoRedo(st.ID, taken.Version, -1)
	require.NoError(t, err)
	now, err := s.Open(st.ID)
	require.NoError(t, err)
	assert.Nil(t, now.Document.Kit.Voice("kick").Layers[0].Attack, "one step back")

	// On from what was there, with a part held.
	_, err = s.UndoRedo(st.ID, back.Version, 1)
	require.NoError(t, err)
	again, err := s.Open(st.ID)
	require.NoError(t, err)
	job, err = s.Fit(st.ID, "kick", FitAsk{Kind: FitRecipe, Voice: "snare", Layer: "fit", Held: []string{"snap"}, Evaluations: 60, Seed: 1})
	require.NoError(t, err)
	assert.Equal(t, jobs.Done, ended(t, s, job).Status)
	f, err = s.Fitted(job.ID)
	require.NoError(t, err)
	assert.Equal(t, again.Document.Kit.Voice("kick").Layers[0].Recipe.Snap, f.Layers[0].Recipe.Snap)
}

// Sounds of the library that add up to another of them: it is found itself.
func TestFitLayersOfTheLibrary(t *testing.T) {
	s := open(t)
	d := project.New("Layers")
	st, err := s.Create(d)
	require.NoError(t, err)
	library, err := s.Library()
	require.NoError(t, err)
	var of *LibrarySound
	for i := range library.Sounds {
		if library.Sounds[i].Family == sound.Kick {
			of = &library.Sounds[i]
			break
		}
	}
	changed, err := s.Edit(st.ID, st.Version, project.Edits{project.SetSound{Voice: "snare", Layers: of.Layers, Title: of.Name}}, "")
	require.NoError(t, err)
	job, err := s.Fit(st.ID, "kick", FitAsk{Kind: FitLayers, Voice: "snare", Effects: true})
	require.NoError(t, err)
	require.Equal(t, jobs.Done, ended(t, s, job).Status)
	f, err := s.Fitted(job.ID)
	require.NoError(t, err)
	require.NotNil(t, f.Picks)
	assert.Equal(t, of.Name, f.Picks.Picks[0].Name)
	assert.Greater(t, f.Picks.Explained, 0.9)
	taken, err := s.TakeFit(st.ID, "kick", TakeFit{Base: changed.Version, Job: job.ID})
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(taken.Document.Kit.Voice("kick").Layers), len(of.Layers))
}

// Find orders the library by how unlike it is to the voice's target.
func TestNearATarget(t *testing.T) {
	s := open(t)
	st, err := s.Create(project.New("Near"))
	require.NoError(t, err)
	_, err = s.Near(t.Context(), st.ID, "kick", preset.Than{}, true)
	var refused *Refusal
	require.ErrorAs(t, err, &refused, "it has none")
	list, err := s.Near(t.Context(), st.ID, "kick", preset.Than{}, false)
	require.NoError(t, err)
	assert.NotEmpty(t, list)
}

func TestFitsThatCannotBe(t *testing.T) {
	s := open(t)
	st, err := s.Create(project.New("None"))
	require.NoError(t, err)
	for name, ask := range map[string]FitAsk{
		"no target": {Kind: FitRecipe}, "a file that is gone": {Kind: FitRecipe, File: "nobody", Evaluations: 60},
		"too few": {Kind: FitRecipe, Voice: "snare", Evaluations: 3}, "too many": {Kind: FitRecipe, Voice: "snare", Evaluations: 1e6},
		"no such kind": {Kind: "wheel", Voice: "snare"}, "no such part": {Kind: FitRecipe, Voice: "snare", Parts: []string{"wheel"}},
		"no such layer": {Kind: FitRecipe, Voice: "snare", Layer: "nobody"},
	} {
		job, err := s.Fit(st.ID, "kick", ask)
		if err == nil {
			assert.Equal(t, jobs.Failed, ended(t, s, job).Status, name)
			continue
		}
		var refused *Refusal
		assert.ErrorAs(t, err, &refused, name)
	}
	_, err = s.Fit(st.ID, "nobody", FitAsk{Kind: FitRecipe, Voice: "snare"})
	assert.Error(t, err)
	_, err = s.FitTo("x.wav", []byte("no sound"))
	assert.Error(t, err)
	// Given up half way: what is nearest can still be taken.
	job, err := s.Fit(st.ID, "kick", FitAsk{Kind: FitRecipe, Voice: "snare", Evaluations: MostEvaluations})
	require.NoError(t, err)
	require.Eventually(t, func() bool { f, err := s.Fitted(job.ID); return err == nil && len(f.Layers) > 0 }, time.Minute, 10*time.Millisecond)
	assert.True(t, s.Cancel(job.ID))
	assert.Equal(t, jobs.Cancelled, ended(t, s, job).Status)
	_, err = s.TakeFit(st.ID, "kick", TakeFit{Base: st.Version, Job: job.ID})
	assert.NoError(t, err)
}

// A recipe for soft strokes is a second layer, which takes over below the first.
func TestFittedSoftStrokes(t *testing.T) {
	s := open(t)
	s.fits.soFar["job"] = &FitSoFar{}
	target, err := format.Decode(thump(t))
	require.NoError(t, err)
	shown := &fitShown{s: s, job: "job", aim: "Kick", name: "Kick", target: target}
	hard := sound.DefaultRecipe(sound.Kick)
	shown.end(&fit.Result{Recipe: hard, Level: -4, Soft: &fit.SoftLayer{Recipe: hard, To: 80}})
	f, err := s.Fitted("job")
	require.NoError(t, err)
	require.Len(t, f.Layers, 2)
	v := sound.NewVoice("kick", "Kick", sound.Kick)
	v.Layers = f.Layers
	require.NoError(t, v.Validate())
	assert.Equal(t, "Kick soft", f.Layers[1].Name)
	for velocity, of := range map[int][2]float64{80: {0, 1}, 81: {1, 0}} {
		assert.Equal(t, of[0], f.Layers[0].VelocityGain(velocity))
		assert.Equal(t, of[1], f.Layers[1].VelocityGain(velocity))
	}
}
