package api

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"io"
	"net/http"
	"testing"
	"time"

	"github.com/coder/websocket"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/live"
	"jubrak/core/project"
)

// Blocks come in an answer that does not end once the browser asks for it, in the order of
// the socket's; counts come in requests of their own; an edit is heard; it ends with either.
func TestAMonitorStreams(t *testing.T) {
	c := start(t)
	st := c.create()
	ctx, cancel := context.WithTimeout(context.Background(), 60*time.Second)
	defer cancel()
	at := c.url + "/api/projects/" + st.ID + "/live/k1"
	post := func(to, body string) int {
		r, err := http.Post(to, "application/json", bytes.NewBufferString(body))
		require.NoError(t, err)
		require.NoError(t, r.Body.Close())
		return r.StatusCode
	}
	assert.Equal(t, http.StatusNotFound, post(at, `{"frames":1}`), "it is not open yet")
	m := monitorAs(ctx, t, c, st.ID, "k1")
	m.say(`{"type":"stream"}`) // none is open: it stays with the socket
	m.hears(func([]byte) bool { return true })

	stream := open(ctx, t, at)
	assert.Equal(t, http.StatusBadRequest, post(at, `{"frames":`))
	m.say(`{"type":"stream"}`)
	for { // what was on its way
		kind, data, err := m.conn.Read(ctx)
		require.NoError(t, err)
		if kind == websocket.MessageText {
			assert.JSONEq(t, `{"type":"streams"}`, string(data))
			break
		}
		m.took(data)
	}
	m.say(`{"type":"strike","voice":"kick","velocity":120}`)
	block := make([]byte, live.BlockBytes)
	hears := func(is func([]byte) bool) {
		t.Helper()
		for {
			require.Equal(t, http.StatusNoContent, post(at, fmt.Sprintf(`{"type":"stop","frames":%d}`, m.played)), "it only counts")
			_, err := io.ReadFull(stream, block)
			require.NoError(t, err)
			if m.took(block); is(block) {
				return
			}
		}
	}
	hears(func(block []byte) bool { return peakOf(block) > 0.01 })
	require.Equal(t, 200, c.edit("/api/projects/"+st.ID, EditRequest{Base: st.Version, Edits: project.Edits{project.SetNumber{At: "kick/level_db", Value: -3}}}, &st))
	hears(func(block []byte) bool { return versionOf(block) == st.Version })

	require.NoError(t, stream.Close())
	_, _, err := m.conn.Read(ctx)
	assert.Error(t, err, "the socket ends with its stream")
	assert.Eventually(t, func() bool { return post(at, `{"frames":1}`) == http.StatusNotFound }, 10*time.Second, time.Millisecond)
}

// A stream ends with its socket, and one that was never taken leaves the socket as it was.
func TestAStreamEndsWithItsSocket(t *testing.T) {
	c := start(t)
	st := c.create()
	ctx, cancel := context.WithTimeout(context.Background(), 60*time.Second)
	defer cancel()
	m := monitorAs(ctx, t, c, st.ID, "k2")
	at := c.url + "/api/projects/" + st.ID + "/live/k2"
	require.NoError(t, open(ctx, t, at).Close())
	m.say(`{"type":"strike","voice":"kick","velocity":120}`)
	m.hears(func(block []byte) bool { return peakOf(block) > 0.01 })
	stream := open(ctx, t, at)
	m.say(`{"type":"stream"}`)
	m.say(`{"type":"strike","voice":"kick","velocity":120}`) // what was made ahead is made anew
	_, err := io.ReadFull(stream, make([]byte, live.BlockBytes))
	require.NoError(t, err)
	require.NoError(t, m.conn.CloseNow())
	_, err = io.Copy(io.Discard, stream)
	assert.Error(t, err, "it is cut off")
}

func open(ctx context.Context, t *testing.T, at string) io.ReadCloser {
	t.Helper()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, at, nil)
	require.NoError(t, err)
	reply, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, reply.StatusCode)
	first := make([]byte, live.HeaderBytes)
	_, err = io.ReadFull(reply.Body, first)
	require.NoError(t, err)
	assert.Zero(t, binary.LittleEndian.Uint32(first), "it begins with a block of no frames")
	return reply.Body
}
