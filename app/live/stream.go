package live

import (
	"context"
	"errors"
	"net/http"
	"sync"
	"time"

	"github.com/coder/websocket"
)

// stream is an answer to a request that does not end, in which blocks go to the browser
// beside its socket: in some browsers a worker's socket waits for the page's thread, what a
// worker fetches does not.
type stream struct {
	mu    sync.Mutex
	w     http.ResponseWriter
	to    *http.ResponseController
	ended bool
}

var errStreamEnded = errors.New("the stream has ended")

func (st *stream) write(blocks []byte) error {
	st.mu.Lock()
	defer st.mu.Unlock()
	if st.ended {
		return errStreamEnded
	}
	if _, err := st.w.Write(blocks); err != nil {
		return err
	}
	return st.to.Flush()
}

// end lets no more be written; what is being written is given up.
func (st *stream) end() {
	_ = st.to.SetWriteDeadline(time.Now()) // where there is none, what is written ends with its request
	st.mu.Lock()
	st.ended = true
	st.mu.Unlock()
}

// Stream offers the session an answer for its blocks, until ctx or the session ends. They go
// there once the browser asks for it by a stream message, which it does when it sees that the
// answer has come; then the session ends with it.
func (s *Session) Stream(ctx context.Context, w http.ResponseWriter) error {
	st := &stream{w: w, to: http.NewResponseController(w)}
	s.mu.Lock()
	s.offered = st // before it shows: it is asked for at once
	s.mu.Unlock()
	// A block of no frames: some browsers pass an answer on only with its first bytes.
	err := st.write(make([]byte, HeaderBytes))
	if err == nil {
		select {
		case <-ctx.Done():
		case <-s.ended:
		}
	}
	st.end()
	s.mu.Lock()
	defer s.mu.Unlock()
	switch st {
	case s.streams:
		s.end()
	case s.offered:
		s.offered = nil
	}
	return err
}

// takeStream lets blocks go to the stream that is offered, and says so behind the last one
// that goes over the socket.
func (s *Session) takeStream(ctx context.Context, conn *websocket.Conn) {
	s.writing.Lock()
	defer s.writing.Unlock()
	s.mu.Lock()
	takes := s.offered != nil
	if takes {
		s.streams, s.offered = s.offered, nil
	}
	s.mu.Unlock()
	if takes {
		report(ctx, conn, map[string]string{"type": "streams"})
	}
}

// Count takes a played message that did not come over the socket.
func (s *Session) Count(m *Message) {
	s.take(m)
	s.mu.Lock()
	flush := s.flush
	s.mu.Unlock()
	if flush != nil {
		flush()
	}
}
