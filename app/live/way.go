package live

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"net/http"

	"github.com/coder/websocket"

	"jubrak/internal/guard"
)

// way is how a session reaches its browser.
type way interface {
	// blocks sends whole blocks, one behind the other.
	blocks(ctx context.Context, data []byte) error
	// text sends a JSON object.
	text(ctx context.Context, data []byte) error
}

// socket is the way over a WebSocket, which also brings messages.
type socket struct{ *websocket.Conn }

func (c socket) blocks(ctx context.Context, data []byte) error {
	return c.Write(ctx, websocket.MessageBinary, data)
}

func (c socket) text(ctx context.Context, data []byte) error {
	return c.Write(ctx, websocket.MessageText, data)
}

// stream is the way over the answer to a request that does not end. Messages come in
// requests of their own.
type stream struct {
	parts chan []byte
}

func (c stream) blocks(ctx context.Context, data []byte) error { return c.send(ctx, data) }

// text writes 0 in place of a block's number of frames, the length as a uint32, and the text.
func (c stream) text(ctx context.Context, data []byte) error {
	head := binary.LittleEndian.AppendUint32(make([]byte, 4, 8+len(data)), uint32(len(data)))
	return c.send(ctx, append(head, data...))
}

func (c stream) send(ctx context.Context, data []byte) error {
	select {
	case c.parts <- data:
	case <-ctx.Done():
		return ctx.Err()
	}
	select {
	case c.parts <- nil: // it is written
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// write writes what is sent until ctx ends.
func (c stream) write(ctx context.Context, w http.ResponseWriter) error {
	flush := http.NewResponseController(w)
	for {
		select {
		case part := <-c.parts:
			if part == nil {
				continue
			}
			if _, err := w.Write(part); err != nil {
				return err
			}
			if err := flush.Flush(); err != nil {
				return err
			}
		case <-ctx.Done():
			return ctx.Err()
		}
	}
}

// Serve runs the session over a WebSocket until the connection or ctx ends. Should the engine
// fail, that is reported as a text message and the session ends; the page opens another.
func (s *Session) Serve(ctx context.Context, conn *websocket.Conn) error {
	conn.SetReadLimit(1 << 16)
	to := socket{conn}
	return s.run(ctx, to, func(ctx context.Context) error {
		for {
			kind, data, err := conn.Read(ctx)
			if err != nil {
				return err
			}
			var m Message
			if kind != websocket.MessageText || json.Unmarshal(data, &m) != nil {
				continue // a stray message changes nothing
			}
			if err := s.do(ctx, to, &m); err != nil {
				return err
			}
		}
	})
}

// Stream runs the session over the answer to a request until the request ends: first its ID
// as a text, {"type":"session","id":…}, then blocks and texts. Messages come by Do.
func (s *Session) Stream(ctx context.Context, w http.ResponseWriter) error {
	to := stream{parts: make(chan []byte)}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	guard.Go("the monitor", func() {
		defer cancel()
		_ = s.run(ctx, to, func(ctx context.Context) error {
			<-ctx.Done()
			return ctx.Err()
		})
	})
	return to.write(ctx, w)
}

// Do takes messages of the browser that a stream goes to.
func (s *Session) Do(messages []Message) {
	s.mu.Lock()
	take := s.listen
	s.mu.Unlock()
	if take == nil {
		return // it has ended
	}
	for i := range messages {
		take(&messages[i])
	}
}

// run serves a browser until listen returns.
func (s *Session) run(ctx context.Context, to way, listen func(context.Context) error) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	s.mu.Lock()
	s.end = cancel
	s.flush = func() { _ = s.fill(ctx, to) } // a lost connection shows at the next read
	s.listen = func(m *Message) {
		if err := guard.Run("the monitor", func() error { return s.do(ctx, to, m) }); err != nil {
			refuse(ctx, to, err)
			cancel()
		}
	}
	s.mu.Unlock()
	if _, streams := to.(stream); streams { // messages may come from now on
		report(ctx, to, map[string]string{"type": "session", "id": s.ID})
	}
	var ended error
	failed := guard.Run("the monitor", func() error {
		if ended = s.fill(ctx, to); ended == nil {
			ended = listen(ctx)
		}
		return nil
	})
	if failed != nil {
		refuse(ctx, to, failed)
		return failed
	}
	return ended
}

// refuse reports to the page what went wrong.
func refuse(ctx context.Context, to way, err error) {
	report(ctx, to, map[string]string{"type": "refused", "message": err.Error()})
}

func report(ctx context.Context, to way, what map[string]string) {
	text, _ := json.Marshal(what)
	_ = to.text(ctx, text) // a lost connection shows at the next read
}

// do does what a message asks, and sends what is new.
func (s *Session) do(ctx context.Context, to way, m *Message) error {
	switch m.Type {
	case "study":
		if m.Study != nil {
			settings := *m.Study
			guard.Go("close listening", func() { s.study(ctx, to, settings) })
			return nil
		}
	case "loop": // apart, so that the sound goes on meanwhile
		guard.Go("another part", s.again(func() { s.loop = [2]int{max(m.From, 0), m.To} }))
	case "piece":
		if s.plays(m.On) { // at once: what is played next is a place of it
			s.again(func() { s.piece, s.loop = m.On, [2]int{} })()
		}
	case "hear":
		guard.Go("another hearing", s.again(func() { s.hear = m.Parts }))
	case "bypass":
		guard.Go("off and on", s.again(func() { s.bypass = m.Bypass }))
	default:
		s.take(m)
	}
	return s.fill(ctx, to)
}
