package api

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/live"
)

// streamed reads what a stream sends next: a block, or a text.
func streamed(t *testing.T, from io.Reader) (block []byte, text map[string]string) {
	head := make([]byte, 8)
	_, err := io.ReadFull(from, head)
	require.NoError(t, err)
	le := binary.LittleEndian
	if le.Uint32(head) == 0 {
		data := make([]byte, le.Uint32(head[4:]))
		_, err = io.ReadFull(from, data)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(data, &text))
		return nil, text
	}
	block = append(head, make([]byte, live.BlockBytes-8)...)
	_, err = io.ReadFull(from, block[8:])
	require.NoError(t, err)
	return block, nil
}

// The monitor without a WebSocket: blocks in an answer that does not end, messages in
// requests of their own.
func TestAMonitorStreams(t *testing.T) {
	c := start(t)
	st := c.create()
	reply, err := http.Get(c.url + "/api/projects/" + st.ID + "/live/stream")
	require.NoError(t, err)
	t.Cleanup(func() { _ = reply.Body.Close() }) // before the server, which waits for it
	_, first := streamed(t, reply.Body)
	require.Equal(t, "session", first["type"])
	post := func(id, body string) int {
		r, err := http.Post(c.url+"/api/projects/"+st.ID+"/live/"+id, "application/json", bytes.NewBufferString(body))
		require.NoError(t, err)
		_ = r.Body.Close()
		return r.StatusCode
	}
	assert.Equal(t, http.StatusNotFound, post("nobody", `{"messages":[]}`))
	assert.Equal(t, http.StatusBadRequest, post(first["id"], `{"messages":`))
	require.Equal(t, http.StatusNoContent, post(first["id"], `{"messages":[{"type":"solo","voices":[]},{"type":"strike","voice":"kick","velocity":120}]}`))
	peak := float32(0)
	for played := 0; peak < 0.01; {
		block, _ := streamed(t, reply.Body)
		played += live.Block
		peak = max(peak, math.Float32frombits(binary.LittleEndian.Uint32(block[16:])))
		if played%(4*live.Block) == 0 {
			require.Equal(t, http.StatusNoContent, post(first["id"], fmt.Sprintf(`{"messages":[{"type":"played","frames":%d}]}`, played)))
		}
		require.Less(t, played, 10*48000, "the stroke is heard")
	}
	_ = reply.Body.Close()
	assert.Eventually(t, func() bool { return post(first["id"], `{"messages":[]}`) == http.StatusNotFound }, 10*time.Second, time.Millisecond, "it ends with its page")
}
