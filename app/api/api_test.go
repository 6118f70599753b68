package api

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"github.com/coder/websocket"
	jsonpatch "github.com/evanphx/json-patch/v5"
	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/jobs"
	"jubrak/app/live"
	"jubrak/app/service"
	"jubrak/app/store"
	"jubrak/core/compare"
	"jubrak/core/format"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// client calls a real server and holds every reply against the OpenAPI
// document.
type client struct {
	t      *testing.T
	url    string
	router routers.Router
	dir    string
	work   *service.Service
	stop   func()
}

func start(t *testing.T) *client { return startIn(t, t.TempDir()) }

func startIn(t *testing.T, dir string) *client {
	t.Helper()
	st, err := store.Open(dir)
	require.NoError(t, err)
	work := service.New(st)
	front := fstest.MapFS{"index.html": {Data: []byte("<title>front</title>")}, "assets/a.js": {Data: []byte("x")}}
	server := httptest.NewServer(New(work, front, slog.New(slog.DiscardHandler)))
	require.NoError(t, work.Restore())
	stop := sync.OnceFunc(func() { server.Close(); work.Close(); _ = st.Close() })
	t.Cleanup(stop)
	doc, err := openapi3.NewLoader().LoadFromData(OpenAPI())
	require.NoError(t, err)
	require.NoError(t, doc.Validate(context.Background()))
	doc.Servers = openapi3.Servers{{URL: server.URL}}
	router, err := gorillamux.NewRouter(doc)
	require.NoError(t, err)
	return &client{t, server.URL, router, dir, work, stop}
}

func (c *client) do(req *http.Request) (*http.Response, []byte) {
	c.t.Helper()
	reply, err := http.DefaultClient.Do(req)
	require.NoError(c.t, err)
	body, err := io.ReadAll(reply.Body)
	require.NoError(c.t, err)
	require.NoError(c.t, reply.Body.Close())
	if strings.HasPrefix(reply.Header.Get("Content-Type"), "application/json") && reply.Request.URL.Path != "/api/openapi.json" {
		route, params, err := c.router.FindRoute(req)
		if err == nil {
			input := &openapi3filter.RequestValidationInput{Request: req, PathParams: params, Route: route}
			out := &openapi3filter.ResponseValidationInput{RequestValidationInput: input, Status: reply.StatusCode, Header: reply.Header, Options: &openapi3filter.Options{IncludeResponseStatus: true}}
			out.SetBodyBytes(body)
			require.NoError(c.t, openapi3filter.ValidateResponse(context.Background(), out), "%s %s", req.Method, req.URL.Path)
		}
	}
	return reply, body
}

func (c *client) call(method, path string, in, out any) int {
	c.t.Helper()
	var body io.Reader
	if in != nil {
		data, err := json.Marshal(in)
		require.NoError(c.t, err)
		body = bytes.NewReader(data)
	}
	req, err := http.NewRequest(method, c.url+path, body)
	require.NoError(c.t, err)
	req.Header.Set("Content-Type", "application/json")
	reply, data := c.do(req)
	if out != nil {
		require.NoError(c.t, json.Unmarshal(data, out), string(data))
	}
	return reply.StatusCode
}

// edit edits a project, and holds what the answer says has changed against the
// state from then on.
func (c *client) edit(path string, req EditRequest, st *service.State) int {
	c.t.Helper()
	return c.change(path, "/edits", req, st)
}

// change is edit for every request that answers with what changed.
func (c *client) change(path, how string, req any, st *service.State) int {
	c.t.Helper()
	var before json.RawMessage
	require.Equal(c.t, http.StatusOK, c.call("GET", path, nil, &before))
	var changed service.Changed
	if status := c.call("POST", path+how, req, &changed); status != http.StatusOK {
		return status
	}
	ops, err := json.Marshal(changed.Patch)
	require.NoError(c.t, err)
	patch, err := jsonpatch.DecodePatch(ops)
	require.NoError(c.t, err)
	patched, err := patch.Apply(before)
	require.NoError(c.t, err)
	*st = service.State{}
	require.Equal(c.t, http.StatusOK, c.call("GET", path, nil, st))
	var there service.State
	require.NoError(c.t, json.Unmarshal(patched, &there))
	assert.Equal(c.t, st.Document, there.Document)
	assert.Equal(c.t, st.Falls, there.Falls)
	assert.Equal(c.t, []any{st.Version, st.CanUndo, st.CanRedo, st.CycleTicks}, []any{changed.Version, changed.CanUndo, changed.CanRedo, changed.CycleTicks})
	st.Notes = changed.Notes
	return http.StatusOK
}

func (c *client) create() service.State {
	var st service.State
	require.Equal(c.t, 200, c.call("POST", "/api/projects", NewProject{Name: "Lap"}, &st))
	return st
}

func (c *client) upload(id, name string, data []byte) (int, jobs.Job, Failure) {
	c.t.Helper()
	var buf bytes.Buffer
	form := multipart.NewWriter(&buf)
	part, err := form.CreateFormFile("file", name)
	require.NoError(c.t, err)
	_, _ = part.Write(data)
	require.NoError(c.t, form.Close())
	req, err := http.NewRequest("POST", c.url+"/api/projects/"+id+"/references", &buf)
	require.NoError(c.t, err)
	req.Header.Set("Content-Type", form.FormDataContentType())
	reply, body := c.do(req)
	var job jobs.Job
	var failure Failure
	if reply.StatusCode == 200 {
		require.NoError(c.t, json.Unmarshal(body, &job))
	} else {
		require.NoError(c.t, json.Unmarshal(body, &failure))
	}
	return reply.StatusCode, job, failure
}

func (c *client) wait(id string) jobs.Job {
	var j jobs.Job
	require.Eventually(c.t, func() bool {
		c.call("GET", "/api/jobs/"+id, nil, &j)
		return j.Status.Ended()
	}, 60*time.Second, 10*time.Millisecond)
	return j
}

func fixture(t *testing.T) []byte {
	data, err := os.ReadFile("../../fixtures/gm/driving-140.flac")
	require.NoError(t, err)
	return data
}

func TestTheWholeJob(t *testing.T) {
	if testing.Short() {
		t.Skip("the whole job takes a while")
	}
	dir := t.TempDir()
	c := startIn(t, dir)
	st := c.create()
	code, job, _ := c.upload(st.ID, "Rink take.flac", fixture(t))
	require.Equal(t, 200, code)
	job = c.wait(job.ID)
	require.Equal(t, jobs.Done, job.Status, job.Error)
	base := "/api/projects/" + st.ID
	require.Equal(t, 200, c.call("GET", base, nil, &st))
	assert.Equal(t, job.Result, st.Document.Active)
	assert.Equal(t, "Rink take", st.Document.References[0].Name)
	var a transcribe.Analysis
	require.Equal(t, 200, c.call("GET", base+"/references/"+job.Result, nil, &a))
	assert.InEpsilon(t, 140, *a.Tempo, 0.01)
	var wave service.Peaks
	require.Equal(t, 200, c.call("GET", base+"/references/"+job.Result+"/wave?from=0&to=2&points=50", nil, &wave))
	assert.Len(t, wave.Points, 50)
	edit := func(edits ...project.Edit) int {
		return c.edit(base, EditRequest{Base: st.Version, Edits: edits}, &st)
	}
	require.Equal(t, 200, edit(project.TakeBoth{}))
	assert.NotEmpty(t, st.Document.Groove.Lane("kick").Hits)
	assert.NotEmpty(t, st.Falls)
	var sound service.VoiceSound
	require.Equal(t, 200, c.call("GET", base+"/voices/kick/sound", nil, &sound))
	assert.InDelta(t, 49, *sound.Measures.Fundamental, 1)
	var cmp compare.Comparison
	require.Equal(t, 200, c.call("GET", base+"/compare", nil, &cmp))
	assert.Greater(t, cmp.Measurable, 15)
	for _, r := range cmp.Rows {
		if r.ID == "tempo" || r.ID == "Lean.snare" {
			assert.True(t, *r.Inside, r.ID)
		}
	}
	tempo := st.Document.Tempo[0].BPM
	require.Equal(t, 200, edit(project.SetNumber{At: "tempo/bpm", Value: 100}))
	require.Equal(t, 200, c.change(base, "/undo", HistoryRequest{Base: st.Version}, &st))
	assert.Equal(t, tempo, st.Document.Tempo[0].BPM)
	assert.True(t, st.CanRedo)
	require.Equal(t, 200, c.change(base, "/redo", HistoryRequest{Base: st.Version}, &st))
	assert.Equal(t, 100.0, st.Document.Tempo[0].BPM)
	// The history has names, and can be jumped in.
	var h service.History
	require.Equal(t, 200, c.call("GET", base+"/history", nil, &h))
	last := h.Changes[len(h.Changes)-1]
	assert.Equal(t, last.Position, h.Position)
	assert.Contains(t, last.Name, "Song: tempo ")
	assert.Contains(t, last.Name, " → 100 BPM")
	assert.Empty(t, h.Changes[0].Name, "the beginning")
	require.Equal(t, 200, c.change(base, "/history", PlaceRequest{Base: st.Version, Position: h.Changes[0].Position}, &st))
	assert.False(t, st.CanUndo)
	assert.Empty(t, st.Document.References)
	require.Equal(t, 200, c.change(base, "/history", PlaceRequest{Base: st.Version, Position: last.Position}, &st))
	assert.Equal(t, 100.0, st.Document.Tempo[0].BPM)
	require.Equal(t, 200, c.change(base, "/history", PlaceRequest{Base: st.Version, Position: 999}, &st))
	assert.Equal(t, 100.0, st.Document.Tempo[0].BPM, "nowhere is where it is")
	assert.Equal(t, 409, c.call("POST", base+"/history", PlaceRequest{Base: 1, Position: 1}, nil))
	// Another server on the same folder finds everything.
	again := startIn(t, dir)
	var there service.State
	require.Equal(t, 200, again.call("GET", base, nil, &there))
	assert.Equal(t, st.Document, there.Document)
	assert.True(t, there.CanUndo)
}

func TestExports(t *testing.T) {
	c := start(t)
	st := c.create()
	base := "/api/projects/" + st.ID
	require.Equal(t, 200, c.edit(base, EditRequest{Base: 1, Edits: project.Edits{project.AddHit{Voice: "kick", Tick: 0}, project.AddHit{Voice: "hat", Tick: 240}, project.SetNumber{At: "groove/feel/swing_percent", Value: 60}}}, &st))
	get := func(what string) []byte {
		req, err := http.NewRequest("GET", c.url+base+"/export/"+what, nil)
		require.NoError(t, err)
		reply, body := c.do(req)
		require.Equal(t, 200, reply.StatusCode, what)
		assert.Contains(t, reply.Header.Get("Content-Disposition"), "attachment")
		return body
	}
	for _, f := range []string{"wav16", "wav24", "wav32f"} {
		b, err := format.Decode(get("loop?format=" + f))
		require.NoError(t, err)
		assert.Equal(t, 230400, b.Frames(), "two bars at 100 BPM")
		assert.Greater(t, b.Peak(), 0.1)
	}
	long, err := format.Decode(get("loop?bars=4"))
	require.NoError(t, err)
	assert.Equal(t, 460800, long.Frames())
	for what, n := range map[string]int{"stems": 5, "one-shots": 5, "project": 1} {
		body := get(what)
		z, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
		require.NoError(t, err)
		assert.Len(t, z.File, n, what)
	}
	p, err := format.ReadMIDI(bytes.NewReader(get("midi")))
	require.NoError(t, err)
	require.Len(t, p.Notes, 2)
	// The hat's sixteenth is 60 % of a 300 ms pair: 180 ms.
	assert.InDelta(t, 0.180, p.Seconds(p.Notes[1].Tick), 0.0002)
	var f Failure
	assert.Equal(t, 400, c.call("GET", base+"/export/loop?format=ogg", nil, &f))
	assert.Equal(t, 400, c.call("GET", base+"/export/loop?bars=9999", nil, &f))
	assert.Equal(t, 404, c.call("GET", base+"/export/cassette", nil, &f))
}

func TestBadFilesChangeNothing(t *testing.T) {
	c := start(t)
	st := c.create()
	for name, data := range map[string][]byte{
		"stub.flac": fixture(t)[:12000],
		"cut.wav":   []byte("RIFF\x00\x00\x00\x80WAVEfmt "),
	} {
		code, job, _ := c.upload(st.ID, name, data)
		require.Equal(t, 200, code)
		job = c.wait(job.ID)
		assert.Equal(t, jobs.Failed, job.Status, name)
		assert.True(t, strings.HasSuffix(job.Error, "."), "%s: %s", name, job.Error)
	}
	code, _, failure := c.upload(st.ID, "empty.wav", nil)
	assert.Equal(t, 422, code)
	assert.Equal(t, FileEmpty, failure.Error.Code)
	code, _, failure = c.upload(st.ID, "picture.wav", []byte("\x89PNG\r\n\x1a\n and more"))
	assert.Equal(t, 422, code, "at once")
	assert.Equal(t, FileUnknown, failure.Error.Code)
	left, err := os.ReadDir(filepath.Join(c.dir, "blobs"))
	require.NoError(t, err)
	assert.Empty(t, left, "nothing stays of them")
	var after service.State
	c.call("GET", "/api/projects/"+st.ID, nil, &after)
	assert.Equal(t, st, after)
}

func TestCancelImport(t *testing.T) {
	c := start(t)
	st := c.create()
	_, job, _ := c.upload(st.ID, "x.flac", fixture(t))
	require.Equal(t, 200, c.call("DELETE", "/api/jobs/"+job.ID, nil, nil))
	assert.Equal(t, jobs.Cancelled, c.wait(job.ID).Status)
	var after service.State
	c.call("GET", "/api/projects/"+st.ID, nil, &after)
	assert.Empty(t, after.Document.References)
}

func TestRefusals(t *testing.T) {
	c := start(t)
	st := c.create()
	base := "/api/projects/" + st.ID
	for name, x := range map[string]struct {
		method, path string
		body         any
		status       int
		code         string
	}{
		"unknown project":   {"GET", "/api/projects/none", nil, 404, "not_found"},
		"unknown path":      {"GET", "/api/none", nil, 404, "not_found"},
		"unknown job":       {"GET", "/api/jobs/none", nil, 404, "not_found"},
		"unknown voice":     {"GET", base + "/voices/none/sound", nil, 404, "not_found"},
		"unknown reference": {"GET", base + "/references/none", nil, 404, "not_found"},
		"no JSON":           {"POST", base + "/edits", "text", 400, "bad_request"},
		"old version":       {"POST", base + "/edits", EditRequest{Base: 99, Edits: project.Edits{project.Clear{}}}, 409, "version_conflict"},
		"no edits":          {"POST", base + "/edits", EditRequest{Base: 1}, 400, "bad_request"},
		"refused edit":      {"POST", base + "/edits", EditRequest{Base: 1, Edits: project.Edits{project.SetGrid{Grid: 7}}}, 422, "edit_refused"},
		"no reference":      {"GET", base + "/compare", nil, 422, "no_reference"},
		"empty name":        {"POST", "/api/projects", NewProject{}, 422, "invalid"},
		"wave of nothing":   {"GET", base + "/references/x/wave?from=2&to=1&points=5", nil, 400, "bad_request"},
		"no file":           {"POST", base + "/references", nil, 400, "bad_request"},
		"write to a page":   {"POST", "/anything", nil, 404, "not_found"},
	} {
		var f Failure
		assert.Equal(t, x.status, c.call(x.method, x.path, x.body, &f), name)
		assert.Equal(t, Code(x.code), f.Error.Code, name)
		assert.NotEmpty(t, f.Error.Message, name)
	}
}

// A web page elsewhere must not be able to drive the program.
func TestOnlyOwnPages(t *testing.T) {
	c := start(t)
	ask := func(change func(*http.Request)) int {
		req, err := http.NewRequest("GET", c.url+"/api/projects", nil)
		require.NoError(t, err)
		change(req)
		reply, _ := c.do(req)
		return reply.StatusCode
	}
	assert.Equal(t, 200, ask(func(r *http.Request) { r.Header.Set("Origin", c.url) }))
	assert.Equal(t, 403, ask(func(r *http.Request) { r.Host = "evil.example" }), "DNS rebinding")
	assert.Equal(t, 403, ask(func(r *http.Request) { r.Header.Set("Origin", "http://evil.example") }))
	assert.Equal(t, 403, ask(func(r *http.Request) { r.Header.Set("Origin", "null") }))
	assert.Equal(t, 403, ask(func(r *http.Request) { r.Header.Set("Origin", "http://127.0.0.1:1") }), "another program on this machine")
	st := c.create()
	_, _, err := websocket.Dial(context.Background(), "ws"+c.url[4:]+"/api/projects/"+st.ID+"/live", &websocket.DialOptions{HTTPHeader: http.Header{"Origin": {"http://evil.example"}}})
	assert.Error(t, err)
	conn, _, err := websocket.Dial(context.Background(), "ws"+c.url[4:]+"/api/projects/"+st.ID+"/live", nil)
	require.NoError(t, err)
	_, data, err := conn.Read(context.Background())
	require.NoError(t, err)
	assert.Zero(t, len(data)%live.BlockBytes, "whole blocks")
	_ = conn.CloseNow()
}

func TestUploadLimit(t *testing.T) {
	c := start(t)
	st := c.create()
	body := io.MultiReader(strings.NewReader("--b\r\nContent-Disposition: form-data; name=\"file\"; filename=\"x.wav\"\r\n\r\n"), io.LimitReader(zeros{}, MaxUpload+10), strings.NewReader("\r\n--b--\r\n"))
	req, err := http.NewRequest("POST", c.url+"/api/projects/"+st.ID+"/references", body)
	require.NoError(t, err)
	req.Header.Set("Content-Type", "multipart/form-data; boundary=b")
	reply, err := http.DefaultClient.Do(req)
	if err != nil {
		return // the server hung up while we were still sending, as it may
	}
	defer func() { _ = reply.Body.Close() }()
	assert.Equal(t, 413, reply.StatusCode)
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) { clear(p); return len(p), nil }

func TestFrontEnd(t *testing.T) {
	c := start(t)
	for path, want := range map[string]string{"/": "front", "/p/abc/groove": "front", "/assets/a.js": "x"} {
		req, _ := http.NewRequest("GET", c.url+path, nil)
		reply, body := c.do(req)
		assert.Equal(t, 200, reply.StatusCode, path)
		assert.Contains(t, string(body), want, path)
		assert.Contains(t, reply.Header.Get("Content-Security-Policy"), "default-src 'self'")
	}
	req, _ := http.NewRequest("GET", c.url+"/assets/none.js", nil)
	reply, _ := c.do(req)
	assert.Equal(t, 404, reply.StatusCode)
}

// The committed files that are made from the source are those that it gives.
func TestGeneratedFilesAreCurrent(t *testing.T) {
	root := filepath.Join("..", "..")
	files, err := Generated(root)
	require.NoError(t, err)
	require.Equal(t, 7, len(files))
	for path, want := range files {
		committed, err := os.ReadFile(filepath.Join(root, path))
		require.NoError(t, err)
		assert.Equal(t, string(want), string(committed), "%s: run make generate", path)
	}
}

// A script's author can read every edit: each alternative has a text, and so has
// every field that its name does not explain.
func TestEveryEditIsDescribed(t *testing.T) {
	doc, err := openapi3.NewLoader().LoadFromData(OpenAPI())
	require.NoError(t, err)
	union := doc.Components.Schemas["Edit"].Value
	require.Len(t, union.OneOf, len(project.Kinds()))
	plain := map[string]bool{"op": true, "voice": true, "layer": true, "family": true, "hits": true, "name": true, "by": true, "target": true, "correction": true, "kind": true, "reference": true}
	for op, ref := range union.Discriminator.Mapping {
		s := doc.Components.Schemas[strings.TrimPrefix(ref.Ref, "#/components/schemas/")].Value
		assert.NotEmpty(t, s.Description, op)
		for field, of := range s.Properties {
			if !plain[field] {
				assert.NotEmpty(t, of.Value.Description, "%s of %s", field, op)
			}
		}
	}
	assert.ElementsMatch(t, []any{"white", "pink"}, doc.Components.Schemas["ScatterKind"].Value.Enum)
	assert.Len(t, doc.Components.Schemas["Family"].Value.Enum, len(sound.Families))
}

func TestConcurrentEdits(t *testing.T) {
	c := start(t)
	st := c.create()
	results := make(chan int, 8)
	for i := range 8 {
		go func() {
			data, _ := json.Marshal(EditRequest{Base: 1, Edits: project.Edits{project.SetNumber{At: "tempo/bpm", Value: float64(100 + i)}}})
			reply, err := http.Post(c.url+"/api/projects/"+st.ID+"/edits", "application/json", bytes.NewReader(data))
			if err != nil {
				results <- 0
				return
			}
			_ = reply.Body.Close()
			results <- reply.StatusCode
		}()
	}
	counts := map[int]int{}
	for range 8 {
		counts[<-results]++
	}
	assert.Equal(t, map[int]int{200: 1, 409: 7}, counts, "one wins, the others are refused")
}
