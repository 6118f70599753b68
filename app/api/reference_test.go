package api

import (
	"archive/zip"
	"bytes"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/jobs"
	"jubrak/app/service"
	"jubrak/core/audition"
	"jubrak/core/compare"
	"jubrak/core/format"
	"jubrak/core/music"
	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// lateHats is a take whose hats are 12 ms late.
func lateHats() service.Take {
	t := service.Take{Name: "Pads", Tempo: 120, Beats: 4}
	for i := range 64 {
		at := float64(i) * 0.25
		t.Hits = append(t.Hits, service.TakeHit{Time: at + 0.012, Family: sound.HatClosed, Velocity: 60 + 30*(i%2)})
		if i%2 == 0 {
			t.Hits = append(t.Hits, service.TakeHit{Time: at, Family: sound.Kick, Velocity: 110})
		}
	}
	return t
}

func TestTakesAreMeasuredLikeAnyPerformance(t *testing.T) {
	c := start(t)
	st := c.create()
	var after service.State
	require.Equal(t, 200, c.call("POST", "/api/projects/"+st.ID+"/takes", lateHats(), &after))
	require.Len(t, after.Document.References, 1)
	ref := after.Document.References[0]
	assert.Equal(t, "midi", ref.Kind)
	assert.Equal(t, "Pads", ref.Name)
	var a transcribe.Analysis
	require.Equal(t, 200, c.call("GET", "/api/projects/"+st.ID+"/references/"+ref.ID, nil, &a))
	assert.InDelta(t, 120, *a.Tempo, 1e-6)
	assert.InDelta(t, 12, *a.Feel.Voices["hat_closed"].Lean, 0.2)
	early := lateHats()
	early.Hits[1].Time = -0.004
	require.Equal(t, 200, c.call("POST", "/api/projects/"+st.ID+"/takes", early, &after))
	require.Equal(t, 200, c.call("GET", "/api/projects/"+st.ID+"/references/"+after.Document.Active, nil, &a))
	assert.Len(t, a.Hits, len(early.Hits), "a first hit that comes early is kept")
	for name, bad := range map[string]func(*service.Take){
		"nothing played": func(t *service.Take) { t.Hits = nil }, "no tempo": func(t *service.Take) { t.Tempo = 0 },
		"no family": func(t *service.Take) { t.Hits[0].Family = "spoon" }, "no strength": func(t *service.Take) { t.Hits[0].Velocity = 0 },
	} {
		take := lateHats()
		bad(&take)
		var failure Failure
		assert.Equal(t, 422, c.call("POST", "/api/projects/"+st.ID+"/takes", take, &failure), name)
		assert.NotEmpty(t, failure.Error.Message)
	}
}

func TestLibrary(t *testing.T) {
	c := start(t)
	st := c.create()
	var list ProfileList
	require.Equal(t, 200, c.call("GET", "/api/profiles", nil, &list))
	genres := len(list.Profiles)
	require.Greater(t, genres, 11)
	require.Equal(t, 200, c.call("POST", "/api/projects/"+st.ID+"/takes", lateHats(), &st))
	var saved profile.Profile
	path := "/api/projects/" + st.ID + "/references/" + st.Document.Active + "/profile"
	require.Equal(t, 200, c.call("POST", path, NewProfile{Name: "Late hats", Notes: "from pads", Tags: []string{"late"}}, &saved))
	assert.InDelta(t, 12, saved.Voices[sound.HatClosed].Lean.Middle(), 0.2)
	require.Equal(t, 200, c.call("GET", "/api/profiles", nil, &list))
	require.Len(t, list.Profiles, genres+1)
	assert.Equal(t, "Late hats", list.Profiles[0].Name, "what was saved comes first")
	var failure Failure
	assert.Equal(t, 422, c.call("POST", path, NewProfile{Name: " "}, &failure))
	require.Equal(t, 200, c.call("POST", "/api/projects/"+st.ID+"/profile", UseProfile{Profile: saved.ID, Base: st.Version}, &st))
	ref := st.Document.Reference(st.Document.Active)
	require.NotNil(t, ref.Profile)
	var cmp compare.Comparison
	require.Equal(t, 200, c.call("GET", "/api/projects/"+st.ID+"/compare", nil, &cmp))
	assert.Greater(t, cmp.Measurable, 1)
	require.Equal(t, 200, c.call("GET", "/api/projects/"+st.ID+"/compare?reference="+st.Document.References[0].ID, nil, &cmp))
	require.Equal(t, 200, c.edit("/api/projects/"+st.ID, EditRequest{Base: st.Version, Edits: project.Edits{project.TakeFeel{}}}, &st))
	assert.InDelta(t, 12, st.Document.Groove.Feel.Voices["hat"].Lean, 0.2)
	require.Equal(t, 200, c.call("DELETE", "/api/profiles/"+saved.ID, nil, nil))
	assert.Equal(t, 404, c.call("DELETE", "/api/profiles/"+saved.ID, nil, &failure))
	assert.Equal(t, 404, c.call("POST", "/api/projects/"+st.ID+"/profile", UseProfile{Profile: "none", Base: st.Version}, &failure))
	var again service.State
	require.Equal(t, 200, c.call("GET", "/api/projects/"+st.ID, nil, &again))
	assert.NotNil(t, again.Document.Reference(ref.ID).Profile, "the project keeps a profile that has left the library")
}

// bring uploads a file and waits; the reference's id.
func (c *client) bring(project, path string) string {
	c.t.Helper()
	data, err := os.ReadFile(path)
	require.NoError(c.t, err)
	code, job, _ := c.upload(project, path, data)
	require.Equal(c.t, 200, code)
	job = c.wait(job.ID)
	require.Equal(c.t, jobs.Done, job.Status, job.Error)
	return job.Result
}

// The drums by themselves: worked out while one asks, kept, named, taken, aimed at.
func TestDrumsByThemselves(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	c := start(t)
	st := c.create()
	ref := c.bring(st.ID, "../../demo/rink/warm-up-laps.flac")
	project1 := "/api/projects/" + st.ID
	base := project1 + "/references/" + ref
	drumsNow := func() (set service.DrumSet) {
		require.Eventually(t, func() bool {
			require.Equal(t, 200, c.call("GET", base+"/drums", nil, &set))
			return set.Done == 1
		}, time.Minute, 100*time.Millisecond)
		return set
	}
	set := drumsNow()
	require.GreaterOrEqual(t, len(set.Drums), 4)
	kick := set.Drums[0]
	assert.Equal(t, "Kick", kick.Name)
	assert.Len(t, kick.Strokes, 40)
	assert.NotEmpty(t, kick.Wave.Points)
	assert.NotEmpty(t, kick.Words)
	edit := func(e ...project.Edit) {
		require.Equal(t, 200, c.call("GET", project1, nil, &st))
		require.Equal(t, 200, c.edit(project1, EditRequest{Base: st.Version, Edits: e}, &st))
	}
	edit(project.LeaveStroke{Reference: ref, Hit: kick.Strokes[3].Hit, Out: true}, project.NameDrum{Reference: ref, Family: sound.Kick, Name: "Boom"})
	again := drumsNow().Drums[0]
	assert.Equal(t, "Boom", again.Name)
	assert.True(t, again.Strokes[3].Out)
	_, data := c.do(must(http.NewRequest("GET", c.url+base+"/drums/kick/0", nil)))
	b, err := format.Decode(data)
	require.NoError(t, err)
	assert.Equal(t, 48000, b.Rate)
	assert.Greater(t, b.Peak(), 0.05)
	var failure Failure
	assert.Equal(t, 422, c.call("GET", base+"/drums/cowbell/0", nil, &failure))
	assert.Equal(t, 400, c.call("GET", base+"/drums/kick/one", nil, &failure))
	edit(project.SetTarget{Target: project.Target{Voice: "kick", Reference: ref, Drum: &project.DrumOf{Family: sound.Kick}}})
	var v service.VoiceSound
	require.Equal(t, 200, c.call("GET", project1+"/voices/kick/sound", nil, &v))
	require.NotNil(t, v.Target, "the kick is built towards the drum")
	assert.Contains(t, v.Target.Name, "Boom")
	require.Equal(t, 200, c.call("POST", base+"/drums", service.TakeDrum{Base: st.Version, Voice: "snare", Drum: project.DrumOf{Family: sound.Snare}}, &st))
	layers := st.Document.Kit.Voice("snare").Layers
	require.Len(t, layers, 2, "soft strokes are a layer of their own")
	assert.Equal(t, layers[1].VelocityTo+1, layers[0].VelocityFrom)
	assert.Equal(t, 404, c.call("POST", base+"/drums", service.TakeDrum{Base: st.Version, Voice: "nobody"}, &failure))
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

func TestSlicesAndPictures(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	c := start(t)
	st := c.create()
	ref := c.bring(st.ID, "../../demo/rink/warm-up-laps.flac")
	base := "/api/projects/" + st.ID + "/references/" + ref
	var list SliceList
	require.Equal(t, 200, c.call("GET", base+"/slices", nil, &list))
	require.Greater(t, len(list.Slices), 6)
	kick := list.Slices[0]
	assert.Equal(t, sound.Kick, kick.Slice.Family)
	assert.InDelta(t, 54, *kick.Measures.Fundamental, 3)
	require.Equal(t, 200, c.call("GET", "/api/projects/"+st.ID, nil, &st))
	edit := project.SetTarget{Target: project.Target{Voice: "kick", Reference: ref, Slice: &kick.Slice}}
	require.Equal(t, 200, c.edit("/api/projects/"+st.ID, EditRequest{Base: st.Version, Edits: project.Edits{edit}}, &st))
	var v service.VoiceSound
	require.Equal(t, 200, c.call("GET", "/api/projects/"+st.ID+"/voices/kick/sound", nil, &v))
	require.NotNil(t, v.Target, "the kick is built towards the slice")
	assert.Equal(t, kick.Measures.Fundamental, v.Target.Measures.Fundamental)
	req, err := http.NewRequest("GET", c.url+base+"/slices.zip?format=wav16", nil)
	require.NoError(t, err)
	reply, data := c.do(req)
	require.Equal(t, 200, reply.StatusCode)
	files, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	assert.Len(t, files.File, len(list.Slices))
	var picture audition.Spectrogram
	require.Equal(t, 200, c.call("GET", base+"/spectrogram?from=0&to=2&points=50", nil, &picture))
	assert.Len(t, picture.Levels, 50*len(picture.Hz))
	var failure Failure
	assert.Equal(t, 400, c.call("GET", base+"/spectrogram?from=2&to=1&points=50", nil, &failure))
	assert.Equal(t, 400, c.call("GET", base+"/slices.zip?format=ogg", nil, &failure))
}

func TestMappingOfMIDIKeys(t *testing.T) {
	c := start(t)
	st := c.create()
	var failure Failure
	assert.Equal(t, 422, c.call("PUT", "/api/mapping", service.Mapping{Keys: map[int]sound.Family{300: sound.Kick}}, &failure))
	require.Equal(t, 200, c.call("PUT", "/api/mapping", service.Mapping{Keys: map[int]sound.Family{42: sound.Shaker}}, nil))
	var m service.Mapping
	require.Equal(t, 200, c.call("GET", "/api/mapping", nil, &m))
	assert.Equal(t, sound.Shaker, m.Keys[42])
	p := format.Performance{PPQ: 480, Meter: music.Meter{Beats: 4, Unit: 4}, Tempo: []format.MIDITempo{{Micros: 500000}}}
	for i := range 32 {
		p.Notes = append(p.Notes, format.MIDINote{Tick: i * 240, Length: 60, Channel: 9, Key: 42, Velocity: 90})
	}
	path := filepath.Join(t.TempDir(), "x.mid")
	var midi bytes.Buffer
	require.NoError(t, format.WriteMIDI(&midi, &p, "x"))
	require.NoError(t, os.WriteFile(path, midi.Bytes(), 0o644))
	var a transcribe.Analysis
	require.Equal(t, 200, c.call("GET", "/api/projects/"+st.ID+"/references/"+c.bring(st.ID, path), nil, &a))
	assert.Equal(t, 32, a.Feel.Voices["shaker"].Count, "files to come are filed by it")
	require.Equal(t, 200, c.call("POST", "/api/projects/"+st.ID+"/takes", lateHats(), &st))
	require.Equal(t, 200, c.call("GET", "/api/projects/"+st.ID+"/references/"+st.Document.Active, nil, &a))
	assert.Equal(t, 64, a.Feel.Voices["hat_closed"].Count, "what was tapped is what the pads say")
}
