package api

import (
	"bytes"
	"encoding/json"
	"mime/multipart"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/jobs"
	"jubrak/app/service"
	"jubrak/core/audio"
	"jubrak/core/format"
	"jubrak/core/project"
	"jubrak/core/slice"
	"jubrak/core/sound"
)

// send posts a file to any address that takes one.
func (c *client) send(path, name string, data []byte, out any) int {
	c.t.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile("file", name)
	require.NoError(c.t, err)
	_, err = part.Write(data)
	require.NoError(c.t, err)
	require.NoError(c.t, form.Close())
	req, err := http.NewRequest(http.MethodPost, c.url+path, &body)
	require.NoError(c.t, err)
	req.Header.Set("Content-Type", form.FormDataContentType())
	reply, text := c.do(req)
	require.NoError(c.t, json.Unmarshal(text, out))
	return reply.StatusCode
}

func noise(t *testing.T, seconds float64) []byte {
	t.Helper()
	b := audio.New(48000, 1, int(seconds*48000))
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(i*7919%1000)/1000 - 0.5
	}
	var buf bytes.Buffer
	require.NoError(t, format.WriteWAV(&buf, b, format.WAV24))
	return buf.Bytes()
}

func TestLayersOverTheAPI(t *testing.T) {
	c := start(t)
	st := c.create()
	var after service.State
	path := "/api/projects/" + st.ID + "/voices/kick/layers?base=" + "1"
	require.Equal(t, http.StatusOK, c.send(path, "thump.wav", noise(t, 0.2), &after))
	require.Len(t, after.Document.Kit.Voice("kick").Layers, 2)
	l := after.Document.Kit.Voice("kick").Layers[1]
	assert.Equal(t, "thump", l.Name)
	var failure Failure
	assert.Equal(t, http.StatusConflict, c.send(path, "thump.wav", noise(t, 0.2), &failure), "the version is not the newest")
	assert.Equal(t, http.StatusBadRequest, c.send("/api/projects/"+st.ID+"/voices/kick/layers", "thump.wav", noise(t, 0.2), &failure))
	assert.Contains(t, failure.Error.Message, "base must be")
	again := "/api/projects/" + st.ID + "/voices/kick/layers?base=2"
	assert.Equal(t, http.StatusUnprocessableEntity, c.send(again, "thump.wav", []byte("no sound"), &failure))
	assert.Equal(t, http.StatusUnprocessableEntity, c.send(again, "thump.wav", noise(t, 13), &failure))
	assert.Contains(t, failure.Error.Message, "cut a slice")
	assert.Equal(t, http.StatusUnprocessableEntity, c.send("/api/projects/"+st.ID+"/voices/spoon/layers?base=2", "thump.wav", noise(t, 0.2), &failure))

	// Set by edits, drawn with the voice, undone.
	var next service.State
	req := EditRequest{Base: 2, Edits: project.Edits{project.SetNumber{At: project.LayerAddress("kick", l.ID, "pitch_st"), Value: 7}}}
	require.Equal(t, http.StatusOK, c.edit("/api/projects/"+st.ID, req, &next))
	assert.Equal(t, 7.0, next.Document.Kit.Voice("kick").Layers[1].Pitch)
	var sounding service.VoiceSound
	require.Equal(t, http.StatusOK, c.call(http.MethodGet, "/api/projects/"+st.ID+"/voices/kick/sound", nil, &sounding))
	require.Len(t, sounding.Layers, 2)
	assert.NotNil(t, sounding.Layers[0].Curves, "of the recipe")
	assert.InDelta(t, 200, sounding.Layers[1].Span, 0.1)
	require.Equal(t, http.StatusOK, c.change("/api/projects/"+st.ID, "/undo", HistoryRequest{Base: next.Version}, &next))
	assert.Zero(t, next.Document.Kit.Voice("kick").Layers[1].Pitch)
	var info Info
	c.call(http.MethodGet, "/api/info", nil, &info)
	assert.Len(t, info.Tables.Layer, len(sound.LayerParams))
	assert.Len(t, info.Recipes, len(info.Families))
}

func TestASliceBecomesALayerOverTheAPI(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	c := start(t)
	st := c.create()
	ref := c.bring(st.ID, "../../fixtures/gm/funk-102.flac")
	var list SliceList
	require.Equal(t, http.StatusOK, c.call(http.MethodGet, "/api/projects/"+st.ID+"/references/"+ref+"/slices", nil, &list))
	require.NotEmpty(t, list.Slices)
	c.call(http.MethodGet, "/api/projects/"+st.ID, nil, &st)
	path := "/api/projects/" + st.ID + "/references/" + ref + "/layers"
	var after service.State
	require.Equal(t, http.StatusOK, c.call(http.MethodPost, path, service.NewLayer{Base: st.Version, Voice: "snare", Slice: list.Slices[0].Slice}, &after))
	assert.Len(t, after.Document.Kit.Voice("snare").Layers, 2)
	assert.NotEqual(t, http.StatusOK, c.call(http.MethodPost, path, service.NewLayer{Base: after.Version, Voice: "snare", Slice: slice.Slice{From: 1e9, To: 2e9}}, nil))
	assert.Equal(t, http.StatusNotFound, c.call(http.MethodPost, "/api/projects/"+st.ID+"/references/nobody/layers", service.NewLayer{}, nil))
}

func TestLongFilesOverTheAPI(t *testing.T) {
	c := start(t)
	st := c.create()
	var failure Failure
	for _, call := range []struct{ method, path string }{{http.MethodGet, "/api/long/nobody"}, {http.MethodDelete, "/api/long/nobody"}} {
		assert.Equal(t, http.StatusNotFound, c.call(call.method, call.path, nil, &failure), call)
	}
	assert.Equal(t, http.StatusNotFound, c.call(http.MethodPost, "/api/projects/"+st.ID+"/long/nobody", service.Stretch{From: 1, To: 9}, &failure))
}

func TestWhatIsHeardSoFar(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	c := start(t)
	st := c.create()
	assert.Equal(t, http.StatusNotFound, c.call(http.MethodGet, "/api/jobs/nobody/so-far", nil, nil))
	_, job, _ := c.upload(st.ID, "loop.flac", fixture(t))
	var seen service.SoFar
	shown := false
	for !job.Status.Ended() {
		if job.Shown > 0 && c.call(http.MethodGet, "/api/jobs/"+job.ID+"/so-far", nil, &seen) == http.StatusOK {
			shown = true
			assert.Equal(t, "loop", seen.Name)
			assert.Len(t, seen.Wave.Points, 1200)
			assert.Positive(t, seen.Analysis.Duration)
		}
		require.Equal(t, http.StatusOK, c.call(http.MethodGet, "/api/jobs/"+job.ID, nil, &job))
	}
	assert.True(t, shown)
	assert.Equal(t, jobs.Done, job.Status)
	assert.Equal(t, 5, job.Shown)
	assert.Equal(t, http.StatusNotFound, c.call(http.MethodGet, "/api/jobs/"+job.ID+"/so-far", nil, nil), "nothing is kept")
}
