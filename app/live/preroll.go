package live

import (
	"time"

	"jubrak/core/engine"
)

// Of what comes before the place that a piece is played from so much is played unheard, so
// that what rings from there joins.
const (
	leastPreroll = 2.0  // seconds
	mostPreroll  = 15.0 // seconds
	prerollChunk = 64   // blocks between two looks at where the sound is
)

// preroll plays what comes before a tick beside the sound, faster than it goes, until it
// has come to the same place, and takes its place. asked is the number of the play that
// it belongs to; another one, or a stop, ends it.
func (s *Session) preroll(tick float64, asked int) {
	for {
		s.mu.Lock()
		song, version, of := s.song, s.version, s.heardOf()
		s.mu.Unlock()
		program := readyAs(song, nil, of)
		e := engine.New(engine.Rate)
		e.Swap(program)
		e.PlayBefore(tick, min(max(e.Memory(), leastPreroll), mostPreroll))
		var l, r [Block]float64
		for {
			s.mu.Lock()
			if asked != s.asked || s.monitor == nil || !s.monitor.Engine.Playing() || !s.piece {
				s.mu.Unlock()
				return
			}
			if version != s.version || of.loop != s.loop {
				s.mu.Unlock()
				break // an edit came in between
			}
			main := s.monitor.Engine
			if !main.CountingIn() && len(s.waits) == 0 && e.Frame() >= main.Frame()-prerollChunk*Block {
				for e.Frame() < main.Frame() {
					n := e.Ahead(Block)
					e.Process(l[:n], r[:n])
				}
				if e.Frame() == main.Frame() {
					s.monitor.Join(e)
					s.program = program
					s.heardAs.set(s.monitor)
					s.moments.begin(s.sent) // what joins here is not made anew before
				}
				s.mu.Unlock()
				return
			}
			behind := main.Frame() - e.Frame()
			waits := main.CountingIn() || len(s.waits) > 0 // for its start, or for a change
			s.mu.Unlock()
			if waits && behind <= Block {
				time.Sleep(10 * time.Millisecond)
				continue
			}
			for range prerollChunk {
				n := e.Ahead(Block)
				e.Process(l[:n], r[:n])
			}
		}
	}
}
