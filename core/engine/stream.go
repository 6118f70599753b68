package engine

import (
	"context"
	"math"
)

// Stream plays a piece offline, block by block: memory does not grow with its length.
type Stream struct {
	e     *Engine
	at    int // frames that were rendered
	last  int // of the piece's last bar
	late  int // the mix's
	tape  *tape
	ended bool
	total int // frames that were given to the tape, once ended
	block [2][MaxBlock]float64
}

// NewStream is at the beginning of a song's piece; with b.Backings they are heard.
func NewStream(s Song, b Bounce) *Stream {
	e := New(b.Rate)
	e.withoutBackings = !b.Backings
	e.Load(s)
	e.Play(0)
	st := &Stream{e: e}
	st.late, _ = e.Latency()
	st.last = int(math.Round(e.line.Seconds(float64(e.piece.line.End())) * float64(b.Rate)))
	return st
}

// AtTape lets it run at the speed of the piece's tape, and returns it.
func (s *Stream) AtTape() *Stream {
	if speed := s.e.speed(); speed != 1 {
		s.tape = &tape{speed: speed}
	}
	return s
}

// Next fills left and right, of at most MaxBlock frames, and returns how many there are:
// fewer at the end of what rings on behind the last bar, then 0.
func (s *Stream) Next(left, right []float64) int {
	if s.tape == nil {
		return s.straight(left, right)
	}
	if s.ended && s.tape.place >= float64(s.total) {
		return 0
	}
	s.tape.read(left, right, func(l, r []float64) {
		n := s.straight(l, r)
		clear(l[n:])
		clear(r[n:])
	})
	return len(left)
}

// straight is Next at the piece's own speed.
func (s *Stream) straight(left, right []float64) (n int) {
	for n == 0 && !s.ended {
		if s.at >= s.last {
			s.e.playing = false
			if s.at >= s.last+12*s.e.rate || s.at >= s.last+s.late && !s.e.sounding() {
				s.ended = true
				return 0
			}
		}
		want := len(left)
		if s.at < s.last {
			want = s.e.Ahead(min(want, s.last-s.at))
		}
		s.e.Process(s.block[0][:want], s.block[1][:want])
		skip := min(max(s.late-s.at, 0), want)
		n = copy(left, s.block[0][skip:want])
		copy(right, s.block[1][skip:want])
		s.at += want
		s.total += n
	}
	return n
}

// Each gives a stream to its end block by block. It stops with the context's error or
// give's.
func (s *Stream) Each(ctx context.Context, give func(left, right []float64) error) error {
	var l, r [MaxBlock]float64
	for {
		if err := ctx.Err(); err != nil {
			return err
		}
		n := s.Next(l[:], r[:])
		if n == 0 {
			return nil
		}
		if err := give(l[:n], r[:n]); err != nil {
			return err
		}
	}
}
