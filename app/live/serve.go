package live

import (
	"context"
	"encoding/json"

	"github.com/coder/websocket"

	"jubrak/internal/guard"
)

// Serve runs the session, once, until the connection or ctx ends. Should the engine
// fail, that is reported as a text message and the session ends; the page opens
// another.
func (s *Session) Serve(ctx context.Context, conn *websocket.Conn) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	defer close(s.ended)
	s.mu.Lock()
	s.end = cancel
	s.flush = func() { _ = s.fill(ctx, conn) } // a lost connection shows at the next read
	s.mu.Unlock()
	var ended error
	failed := guard.Run("the monitor", func() error {
		ended = s.serve(ctx, conn)
		return nil
	})
	if failed != nil {
		refuse(ctx, conn, failed)
		return failed
	}
	return ended
}

func (s *Session) serve(ctx context.Context, conn *websocket.Conn) error {
	conn.SetReadLimit(1 << 16)
	if err := s.fill(ctx, conn); err != nil {
		return err
	}
	for {
		kind, data, err := conn.Read(ctx)
		if err != nil {
			return err
		}
		var m Message
		if kind != websocket.MessageText || json.Unmarshal(data, &m) != nil {
			continue // a stray message changes nothing
		}
		s.do(ctx, conn, &m)
		if err := s.fill(ctx, conn); err != nil {
			return err
		}
	}
}

// do does what a message asks; what takes a while is done apart, so that the sound goes on.
func (s *Session) do(ctx context.Context, conn *websocket.Conn, m *Message) {
	switch m.Type {
	case Study:
		if m.Study != nil {
			settings := *m.Study
			guard.Go("close listening", func() { s.study(ctx, conn, settings) })
		}
	case Loop:
		guard.Go("another part", s.again(func() { s.loop = [2]int{max(m.From, 0), m.To} }))
	case Piece:
		if s.plays(m.On) { // at once: what is played next is a place of it
			s.again(func() { s.piece, s.loop = m.On, [2]int{} })()
		}
	case Hear:
		guard.Go("another hearing", s.again(func() { s.hear = m.Parts }))
	case Bypass:
		guard.Go("off and on", s.again(func() { s.bypass = m.Bypass }))
	case Stream:
		s.takeStream(ctx, conn)
	default:
		s.take(m)
	}
}

// refuse reports to the page what went wrong.
func refuse(ctx context.Context, conn *websocket.Conn, err error) {
	report(ctx, conn, map[string]string{"type": "refused", "message": err.Error()})
}

func report(ctx context.Context, conn *websocket.Conn, what map[string]string) {
	text, _ := json.Marshal(what)
	_ = conn.Write(ctx, websocket.MessageText, text) // a lost connection shows at the next read
}
