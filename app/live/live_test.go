package live

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"math"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/coder/websocket"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/audition"
	"jubrak/core/project"
)

func song(t *testing.T) *project.Document {
	d, _, err := project.New("x").Apply(project.Edits{project.AddHit{Voice: "kick", Tick: 0}, project.AddHit{Voice: "808", Tick: 240}}, nil)
	require.NoError(t, err)
	return d
}

type block struct {
	version  uint32
	position float64
	loudness float32
	playing  bool
	peak     float64
}

func read(t *testing.T, m []byte) block {
	le := binary.LittleEndian
	require.Len(t, m, HeaderBytes+8*Block)
	require.Equal(t, uint32(Block), le.Uint32(m))
	b := block{version: le.Uint32(m[4:]), position: math.Float64frombits(le.Uint64(m[8:])), loudness: math.Float32frombits(le.Uint32(m[24:])), playing: le.Uint32(m[28:])&1 == 1}
	for i := range 2 * Block {
		b.peak = math.Max(b.peak, math.Abs(float64(math.Float32frombits(le.Uint32(m[HeaderBytes+4*i:])))))
	}
	return b
}

func TestLeadIsKept(t *testing.T) {
	s := NewSession(song(t).Song(nil), 1, nil)
	fill := func() (n int) {
		for s.next() != nil {
			n++
		}
		return n
	}
	assert.EqualValues(t, s.reserve()/Block, fill(), "a reserve at once")
	for played := int64(0); played < 20000; played += Block {
		s.take(&Message{Type: "played", Frames: played})
		fill() // the rest while it plays
	}
	assert.InDelta(t, shortLead, s.sent-s.played, Block, "of silence")
	s.take(&Message{Type: "played", Frames: 1 << 40})
	assert.Equal(t, s.sent, s.played, "a browser cannot have played more than it was sent")
	lead := s.lead.frames
	s.take(&Message{Type: "played", Frames: 0, Dry: 1})
	assert.Equal(t, lead+leadStep, s.lead.frames, "the lead grows when the browser ran dry")
}

func TestPlayingAndEditing(t *testing.T) {
	s := NewSession(song(t).Song(nil), 7, nil)
	assert.Zero(t, read(t, s.next()).peak)
	s.take(&Message{Type: "play", Tick: 0})
	b := read(t, s.next())
	assert.True(t, b.playing)
	assert.Equal(t, uint32(7), b.version)
	assert.Greater(t, b.peak, 0.01)
	assert.InDelta(t, float64(Block)/48000*100*960/60, read(t, s.next()).position, 0.1)
	d := song(t)
	d.Kit.Voice("kick").Mute = true
	s.Load(d.Song(nil), 8, false)
	assert.Equal(t, uint32(7), read(t, s.next()).version, "the block before it once more")
	assert.Equal(t, uint32(8), read(t, s.next()).version)
	s.Load(song(t).Song(nil), 7, false)
	assert.Equal(t, uint32(8), read(t, s.next()).version, "an older version does not replace a newer one")
	s.take(&Message{Type: "stop"})
	s.next()
	assert.False(t, read(t, s.next()).playing)
	s.take(&Message{Type: "strike", Voice: "snare", Velocity: 900})
	assert.Greater(t, read(t, s.next()).peak, 0.01)
	for _, odd := range []Message{{Type: "play", Tick: math.NaN()}, {Type: "play", Tick: -5}, {Type: "strike", Voice: "none"}, {Type: "source", Source: "radio"}, {Type: "sing"}} {
		assert.NotPanics(t, func() { s.take(&odd) })
	}
}

func TestRenderingDoesNotAllocate(t *testing.T) {
	s := NewSession(song(t).Song(nil), 1, nil)
	s.take(&Message{Type: "play"})
	played := &Message{Type: "played"}
	play := func() {
		played.Frames = s.sent - 2*Block
		s.take(played)
		s.next()
	}
	for range 2000 {
		play()
	}
	assert.Zero(t, testing.AllocsPerRun(1000, play), "with the moments that are kept")
}

func TestOverTheWire(t *testing.T) {
	hub := NewHub()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		conn, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		s := NewSession(song(t).Song(nil), 1, nil)
		leave := hub.Join("p", "", s)
		defer leave()
		_ = s.Serve(r.Context(), conn)
	}))
	defer server.Close()
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	conn, _, err := websocket.Dial(ctx, "ws"+server.URL[4:], nil)
	require.NoError(t, err)
	say := func(m any) {
		text, ok := m.(string)
		if !ok {
			data, err := json.Marshal(m)
			require.NoError(t, err)
			text = string(data)
		}
		require.NoError(t, conn.Write(ctx, websocket.MessageText, []byte(text)))
	}
	say("not JSON")
	say(Message{Type: "play"})
	played, heard, version := int64(0), 0.0, uint32(0)
	for i := range 60 {
		_, data, err := conn.Read(ctx)
		require.NoError(t, err)
		for ; len(data) > 0; data = data[BlockBytes:] {
			b := read(t, data[:BlockBytes])
			heard, version = math.Max(heard, b.peak), b.version
			played += Block
		}
		say(Message{Type: "played", Frames: played})
		if i == 20 {
			hub.Load("p", song(t).Song(nil), 2, false)
		}
	}
	assert.Greater(t, heard, 0.05)
	assert.Equal(t, uint32(2), version, "the edit reached the open monitor")
	require.NoError(t, conn.CloseNow()) // as a browser that is gone
	assert.Eventually(t, func() bool { hub.mu.Lock(); defer hub.mu.Unlock(); return len(hub.sessions) == 0 }, 5*time.Second, 5*time.Millisecond)
}

func TestStudies(t *testing.T) {
	asked := make(chan audition.Settings, 4)
	prepare := func(_ context.Context, s audition.Settings) (*audio.Buffer, error) {
		asked <- s
		if s.Speed == 0 {
			return nil, errors.New("speed lies between 25 and 100 %")
		}
		b := audio.New(48000, 1, 4800)
		for i := range b.Channels[0] {
			b.Channels[0][i] = 0.25
		}
		return b, nil
	}
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		conn, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		_ = NewSession(song(t).Song(nil), 1, prepare).Serve(r.Context(), conn)
	}))
	defer server.Close()
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	conn, _, err := websocket.Dial(ctx, "ws"+server.URL[4:], nil)
	require.NoError(t, err)
	defer func() { _ = conn.CloseNow() }()
	played := int64(0)
	say := func(m Message) {
		data, err := json.Marshal(m)
		require.NoError(t, err)
		require.NoError(t, conn.Write(ctx, websocket.MessageText, data))
	}
	begun := 0
	// next reads a block or, where it is text, what was refused; it counts what has begun.
	next := func() (peak float64, flags uint32, refused string) {
		kind, data, err := conn.Read(ctx)
		require.NoError(t, err)
		if kind == websocket.MessageText {
			var m struct{ Type, Message string }
			require.NoError(t, json.Unmarshal(data, &m))
			if m.Type == "begun" {
				begun++
			}
			return 0, 0, m.Message
		}
		for ; len(data) > 0; data = data[BlockBytes:] {
			played += Block
			peak, flags = math.Max(peak, read(t, data[:BlockBytes]).peak), binary.LittleEndian.Uint32(data[28:])
		}
		say(Message{Type: "played", Frames: played})
		return peak, flags, ""
	}
	say(Message{Type: "study", Study: &audition.Settings{Reference: "r", Speed: 0.5, Band: "lows"}})
	require.Eventually(t, func() bool {
		peak, flags, _ := next()
		return peak > 0.2 && flags == 2
	}, 5*time.Second, time.Microsecond, "the study is heard, and said to be one")
	assert.Equal(t, "lows", (<-asked).Band)
	require.Eventually(t, func() bool { next(); return begun == 1 }, 5*time.Second, time.Microsecond, "the page counts from here")
	say(Message{Type: "study", Study: &audition.Settings{}})
	require.Eventually(t, func() bool {
		_, _, refused := next()
		return refused != ""
	}, 5*time.Second, time.Microsecond, "what cannot be made is refused with a sentence")
	assert.Equal(t, 1, begun)
	say(Message{Type: "stop"})
	require.Eventually(t, func() bool {
		peak, flags, _ := next()
		return flags == 0 && peak < 1e-6
	}, 5*time.Second, time.Microsecond)
}

// A study that panics is reported and ends alone; the session goes on.
func TestAPanicIsTold(t *testing.T) {
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		conn, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		s := NewSession(song(t).Song(nil), 1, func(context.Context, audition.Settings) (*audio.Buffer, error) { panic("oh") })
		_ = s.Serve(r.Context(), conn)
	}))
	defer server.Close()
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	conn, _, err := websocket.Dial(ctx, "ws"+server.URL[4:], nil)
	require.NoError(t, err)
	require.NoError(t, conn.Write(ctx, websocket.MessageText, []byte(`{"type":"study","study":{}}`)))
	for {
		kind, data, err := conn.Read(ctx)
		require.NoError(t, err)
		if kind == websocket.MessageText {
			assert.Contains(t, string(data), "close listening failed")
			break
		}
	}
	require.NoError(t, conn.Write(ctx, websocket.MessageText, []byte(`{"type":"played","frames":9999}`)))
	_, _, err = conn.Read(ctx)
	assert.NoError(t, err)
}
