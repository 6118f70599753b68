package api

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/coder/websocket"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/service"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// What the API does not know it refuses by name, and a request that does not say which
// version it was made from is reported as that, not as one of another window.
func TestWhatIsNotKnownIsNamed(t *testing.T) {
	c := start(t)
	st := c.create()
	path := "/api/projects/" + st.ID
	var f Failure
	for at, says := range map[string]string{
		path + "/levels?barz=2":                     "barz",
		path + "/export/loop?format=wav16&gaindb=3": "gaindb",
		"/api/projects?limit=3":                     "limit",
		path + "/levels?velocity=900":               "velocity",
	} {
		assert.Equal(t, http.StatusBadRequest, c.call("GET", at, nil, &f), at)
		assert.Contains(t, f.Error.Message, says)
	}
	for text, says := range map[string]string{
		`{"edits":[{"op":"project.key","key":"Am"}]}`:                                                "base is missing",
		`{"base":1,"edits":[{"op":"project.key","key":"Am"}],"colaesce":"g"}`:                        `"colaesce"`,
		`{"base":1,"edits":[{"op":"number.set","at":"kick/level_db"}]}`:                              "value is missing",
		`{"base":1,"edits":[{"op":"project.key","key":"banana"}]}`:                                   "banana",
		`{"base":1,"edits":[{"op":"groove.grid","grid":0},{"op":"groove.grid","grid":4}]}`:           "Grid 0",
		`{"base":1,"edits":[{"op":"lane.fill","voice":"hat","every":4611686018427387904,"from":0}]}`: "fill every",
	} {
		req, err := http.NewRequest("POST", c.url+path+"/edits", strings.NewReader(text))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		reply, data := c.do(req)
		assert.GreaterOrEqual(t, reply.StatusCode, 400, text)
		assert.Contains(t, string(data), strings.ReplaceAll(says, `"`, `\"`), text)
	}
	var now service.State
	require.Equal(t, 200, c.call("GET", path, nil, &now))
	assert.Equal(t, st.Version, now.Version)
}

// An upload that stalls holds nothing up: projects are made, edited and deleted meanwhile.
func TestAStalledUploadHoldsNobodyUp(t *testing.T) {
	c := start(t)
	st, other := c.create(), c.create()
	conn, err := net.Dial("tcp", strings.TrimPrefix(c.url, "http://"))
	require.NoError(t, err)
	defer func() { _ = conn.Close() }()
	_, err = fmt.Fprintf(conn, "POST /api/projects/%s/references HTTP/1.1\r\nHost: %s\r\nContent-Type: multipart/form-data; boundary=x\r\nContent-Length: 100000\r\nExpect: 100-continue\r\n\r\n", st.ID, strings.TrimPrefix(c.url, "http://"))
	require.NoError(t, err)
	// The server says so when it begins to read the body.
	line, err := bufio.NewReader(conn).ReadString('\n')
	require.NoError(t, err)
	require.Contains(t, line, "100 Continue")
	_, err = fmt.Fprint(conn, "--x\r\nContent-Disposition: form-data; name=\"file\"; filename=\"a.wav\"\r\n\r\nRIFF")
	require.NoError(t, err)
	done := make(chan int)
	go func() { done <- c.call("DELETE", "/api/projects/"+other.ID, nil, nil) }()
	select {
	case status := <-done:
		assert.Equal(t, 200, status)
	case <-time.After(10 * time.Second):
		t.Fatal("a delete waits for an upload that stalls")
	}
}

// The monitors of a project that is deleted are closed.
func TestMonitorsOfADeletedProjectClose(t *testing.T) {
	c := start(t)
	st := c.create()
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	conn, _, err := websocket.Dial(ctx, "ws"+c.url[4:]+"/api/projects/"+st.ID+"/live", nil)
	require.NoError(t, err)
	_, _, err = conn.Read(ctx)
	require.NoError(t, err)
	require.Equal(t, 200, c.call("DELETE", "/api/projects/"+st.ID, nil, nil))
	for err == nil {
		_, _, err = conn.Read(ctx)
	}
	assert.NoError(t, ctx.Err(), "it ended by itself: %v", err)
}

// Moves that drove a plain wave's second tone stopped the stream once.
func TestALegalMoveIsPlayed(t *testing.T) {
	c := start(t)
	st := c.create()
	_, err := c.work.Edit(st.ID, st.Version, project.Edits{
		project.AddHit{Voice: "kick", Tick: 0},
		project.SetNumber{At: "kick/layers/drum/body.wave", Value: 0},
		project.SetModulation{Voice: "kick", Layer: "drum", Modulation: sound.Modulation{By: sound.ByVelocity, At: "body.second_percent", From: 0, To: 80}},
	}, "")
	require.NoError(t, err)
	req, err := http.NewRequest("GET", c.url+"/api/projects/"+st.ID+"/export/loop?bars=1", nil)
	require.NoError(t, err)
	reply, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	defer func() { _ = reply.Body.Close() }()
	assert.Equal(t, 200, reply.StatusCode)
	_, err = io.Copy(io.Discard, reply.Body)
	require.NoError(t, err)
}
