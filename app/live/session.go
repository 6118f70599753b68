// Package live is the streaming monitor: engine blocks over a WebSocket. The
// browser pulls: it returns how many frames it has played, and the session
// renders ahead of that by a lead.
package live

import (
	"context"
	"math"
	"sync"
	"sync/atomic"
	"time"

	"github.com/coder/websocket"

	"jubrak/core/audio"
	"jubrak/core/audition"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/state"
	"jubrak/internal/guard"
)

// Prepare makes the sound of a study.
type Prepare func(ctx context.Context, s audition.Settings) (*audio.Buffer, error)

// Session is one open monitor of one project. It holds an engine only from the first
// sound that is asked for until it has been silent for a while: a page that is open and
// plays nothing costs little.
type Session struct {
	clock   func() time.Time
	prepare Prepare
	asked   int // number of the newest study asked for
	mu      sync.Mutex
	stand
	moments moments
	pace    pace
	// The frame that was played when it was last gone back.
	changed   int64
	struck    int64  // where the last stroke was made
	keepFrom  int64  // the frame from which on moments are kept
	shown     uint32 // the version of the last block that went out
	heardAs   heardAs
	end       context.CancelFunc
	ended     chan struct{} // closed when it has been served
	offered   *stream       // that the browser has opened, or nil
	streams   *stream       // that blocks go to, or nil: to the socket
	flush     func()        // sends what is made; nil before it serves
	writing   sync.Mutex
	more      atomic.Bool // whether there is something to send
	song      engine.Song
	loop      [2]int
	piece     bool              // the arrangement is heard, not the groove
	hear      []groove.FeelPart // nil: all
	bypass    *engine.Bypass
	changes   int // of how it is to be heard
	version   uint32
	made      uint32   // the version that is made
	waits     []func() // changes that wait until it may be gone back
	waitsFrom time.Time
	lead      lead
	furthest  int64 // frames made at most, so that they may have been played
	played    int64
	playedAt  time.Time // when that was said
	left      [Block]float32
	right     [Block]float32
	header    Header           // of left and right, but for its place and version
	message   [BlockBytes]byte // that goes out; of who writes
	leadIn    [BlockBytes]byte // the block before a place that was gone back to
	leads     bool             // whether that is to go out
	batch     []byte
}

// plays reports whether it would be another one of groove and piece that is heard.
func (s *Session) plays(piece bool) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.piece != piece
}

// heardAs is how a monitor was set, to set the next one alike.
type heardAs struct {
	source      engine.Source
	track       *engine.Track
	match       float64
	system      string
	click       bool
	per         int
	solo        []string
	row, effect string // of the band that is heard alone
	band        int
	bandIsAlone bool
}

func (h *heardAs) set(m *engine.Monitor) {
	m.SetSource(h.source)
	m.SetTrack(h.track, h.match)
	m.SetClick(h.click, h.per)
	m.SetSystem(h.system)
	m.Engine.Solo(h.solo)
	if h.bandIsAlone {
		m.Engine.Alone(h.row, h.effect, h.band)
	}
}

// NewSession is a stopped monitor of a song at a document version. prepare
// makes what is to be studied.
func NewSession(song engine.Song, version int, prepare Prepare) *Session {
	s := &Session{clock: time.Now, prepare: prepare, ended: make(chan struct{}), lead: newLead(), song: song, version: uint32(version), made: uint32(version), heardAs: heardAs{source: engine.Mine, match: 1, per: 1}}
	s.moments.keeper, s.moments.room = state.NewKeeper(&s.stand), mostMoments
	return s
}

// wake lets the session have an engine; the caller holds the lock.
func (s *Session) wake() {
	if s.monitor != nil {
		return
	}
	s.monitor = engine.NewMonitor(engine.Rate)
	s.program = readyAs(s.song, nil, s.heardOf())
	s.monitor.Engine.Swap(s.program)
	s.heardAs.set(s.monitor)
	s.silent = 0
	// What was made ahead is silence, of which there may be less.
	if from := wholeBlock(s.strokeOf()); from < s.sent {
		clear(s.left[:])
		clear(s.right[:])
		s.header = Header{Position: s.position, Loudness: silentLUFS}
		s.encode(s.leadIn[:], from-Block, s.shown)
		s.sent, s.leads = from, true
	}
}

// sleepAfter is how long a session is silent before it lets its engine go, frames.
const sleepAfter = 20 * engine.Rate

// rest lets the engine go after a long silence; the caller holds the lock.
func (s *Session) rest(position float64) {
	_, studied := s.monitor.Studied()
	if s.monitor.Engine.Playing() || studied || !silence(s.left[:]) || !silence(s.right[:]) {
		s.silent = 0
		return
	}
	if s.silent += Block; s.silent >= sleepAfter {
		s.monitor, s.program, s.waiting, s.position = nil, nil, nil, position
		s.waits, s.made = nil, s.version // how it wakes
		s.moments.list, s.moments.count = [mostMoments]moment{}, 0
	}
}

func silence(x []float32) bool {
	for _, v := range x {
		if v > 1e-6 || v < -1e-6 {
			return false
		}
	}
	return true
}

// ready makes a song ready as it is to be heard: with the part that goes round, and the
// parts of the feel.
func (s *Session) ready(song engine.Song) *engine.Program {
	s.mu.Lock()
	was, of := s.program, s.heardOf()
	s.mu.Unlock()
	return readyAs(song, was, of)
}

// hearing is what of a song is to be heard.
type hearing struct {
	loop   [2]int
	piece  bool
	hear   []groove.FeelPart
	bypass *engine.Bypass
}

func (s *Session) heardOf() hearing { return hearing{s.loop, s.piece, s.hear, s.bypass} }

func readyAs(song engine.Song, was *engine.Program, of hearing) *engine.Program {
	if of.hear != nil {
		song = song.Hear(of.hear)
	}
	if of.bypass != nil {
		song = song.Without(*of.bypass)
	}
	loop := of.loop
	if of.piece && song.Piece != nil {
		return engine.PrepareLoop(song, engine.Rate, loop[0], loop[1], was)
	}
	song.Piece = nil
	if end := song.Groove.Longest(); loop[1] > end {
		loop[1] = end
	}
	return engine.PrepareLoop(song, engine.Rate, loop[0], loop[1], was)
}

// Load takes an edited song; what is rendered from now on has it. An older
// version than that which plays is left. With atBar, what plays goes on to the end of
// its bar first.
func (s *Session) Load(song engine.Song, version int, atBar bool) {
	s.mu.Lock()
	if s.monitor == nil {
		defer s.mu.Unlock()
		if uint32(version) >= s.version {
			s.song, s.version, s.made = song, uint32(version), uint32(version)
		}
		return
	}
	s.mu.Unlock()
	ready := s.ready(song)
	s.mu.Lock()
	defer s.mu.Unlock()
	if uint32(version) < s.version {
		return
	}
	s.song, s.version = song, uint32(version)
	if s.monitor == nil { // it fell asleep in the meantime
		s.made = s.version
		return
	}
	s.change(func() {
		s.made = uint32(version)
		if s.monitor.Engine.Playing() && (atBar || s.waiting != nil) {
			s.waiting = ready
			return
		}
		s.swap(ready)
	})
	s.send()
}

// send lets what was made anew go out; the caller holds the lock.
func (s *Session) send() {
	if s.flush != nil {
		guard.Go("the sound of a change", s.flush)
	}
}

func (s *Session) swap(ready *engine.Program) {
	s.monitor.Engine.Swap(ready)
	s.program, s.waiting = ready, nil
}

// again changes how the song is to be heard; take then makes it ready, which may be done
// apart so that the sound goes on meanwhile. Of changes that come faster than that the
// last one counts.
func (s *Session) again(change func()) (take func()) {
	s.mu.Lock()
	defer s.mu.Unlock()
	change()
	s.changes++
	mine := s.changes
	if s.monitor == nil {
		return func() {}
	}
	return func() {
		for {
			s.mu.Lock()
			song, version := s.song, s.version
			s.mu.Unlock()
			ready := s.ready(song)
			s.mu.Lock()
			if mine != s.changes || s.monitor == nil {
				s.mu.Unlock()
				return
			}
			if version == s.version {
				s.change(func() { s.swap(ready) })
				s.send()
				s.mu.Unlock()
				return
			}
			s.mu.Unlock() // an edit came in between
		}
	}
}

// Playing reports whether the groove or a study plays.
func (s *Session) Playing() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.monitor == nil {
		return false
	}
	_, studying := s.monitor.Studied()
	return studying || s.monitor.Engine.Playing()
}

// SetTrack takes the reference to play beside the song, or nil.
func (s *Session) SetTrack(t *engine.Track, match float64) {
	s.mu.Lock()
	defer s.mu.Unlock()
	h := &s.heardAs
	if h.track == t && h.match == match {
		return
	}
	h.track, h.match = t, match
	switch {
	case s.monitor == nil:
	case h.source == engine.Mine:
		s.monitor.SetTrack(t, match) // not heard: nothing need be made anew
	default:
		s.change(func() { s.monitor.SetTrack(t, match) })
		s.send()
	}
}

// End closes the session: its project is gone.
func (s *Session) End() {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.end != nil {
		s.end()
	}
}

// study prepares what was asked for and plays it, unless something else was
// asked for in the meantime. That it plays now, or what went wrong, is reported as a text
// message.
func (s *Session) study(ctx context.Context, conn *websocket.Conn, settings audition.Settings) {
	s.mu.Lock()
	s.asked++
	mine := s.asked
	s.mu.Unlock()
	var b *audio.Buffer
	err := guard.Run("close listening", func() (err error) {
		b, err = s.prepare(ctx, settings)
		return err
	})
	s.mu.Lock()
	newest := s.asked == mine
	if newest && err == nil {
		s.wake()
		s.change(func() { s.monitor.SetStudy(b) })
		s.send()
	}
	s.mu.Unlock()
	switch {
	case !newest:
	case err != nil:
		refuse(ctx, conn, err)
	default:
		report(ctx, conn, map[string]string{"type": "begun"})
	}
}

func (s *Session) take(m *Message) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if m.Type == Played {
		s.played, s.playedAt = min(max(m.Frames, s.played), s.furthest), s.clock()
		late := m.Late
		if s.played < s.struck || s.played > s.struck+mostStroke {
			late = 0 // of another change, which is heard from where it comes on
		}
		s.lead.heard(s.played, m.Dry, late)
		return
	}
	place := !math.IsNaN(m.Tick) && m.Tick >= 0 && m.Tick < 1e7
	h := &s.heardAs
	switch m.Type {
	case Play:
		if place {
			s.wake()
		}
	case Strike:
		s.wake()
	case Click:
		h.click, h.per = m.On, m.Per
	case Solo:
		h.solo = m.Voices
	case Band:
		h.row, h.effect, h.band, h.bandIsAlone = m.Row, m.Effect, m.Band, true
	case System:
		h.system = m.System
	case Source:
		h.source = m.Source
	}
	if m.Type == Play || m.Type == Stop {
		s.asked++
	}
	if s.monitor == nil {
		return
	}
	change := s.change
	if m.Type == Strike || m.Type == Play {
		change = s.strike
	}
	change(func() {
		switch m.Type {
		case Play:
			s.leaps = false
			if place {
				s.monitor.Play(m.Tick, min(max(m.CountIn, 0), 4))
			}
		case Stop:
			s.monitor.SetStudy(nil)
		case Strike:
			s.monitor.Engine.Trigger(m.Voice, min(max(m.Velocity, 1), 127), 0)
		case Leap:
			if s.piece && place {
				s.leap, s.leaps = m.Tick, true
			}
		case Click:
			s.monitor.SetClick(h.click, h.per)
		case Solo:
			s.monitor.Engine.Solo(h.solo)
		case Band:
			s.monitor.Engine.Alone(h.row, h.effect, h.band)
		case System:
			s.monitor.SetSystem(h.system)
		case Source:
			s.monitor.SetSource(h.source)
		}
	})
	if m.Type == Play && place && s.piece && m.Tick > 0 {
		mine := s.asked
		guard.Go("what rings from before", func() { s.preroll(m.Tick, mine) })
	}
}

// fill renders and sends until the lead is full. Where another one does so already, that
// one sends what is new, too: a browser that is slow to take it holds up nobody else.
func (s *Session) fill(ctx context.Context, conn *websocket.Conn) error {
	s.more.Store(true)
	for s.more.Load() && s.writing.TryLock() {
		s.more.Store(false)
		err := s.pour(ctx, conn)
		s.writing.Unlock()
		if err != nil {
			return err
		}
	}
	return nil
}

func (s *Session) pour(ctx context.Context, conn *websocket.Conn) error {
	for most := firstBlocks; ; most = mostBlocks {
		s.batch = s.batch[:0]
		for len(s.batch) < most*BlockBytes {
			block := s.next()
			if block == nil {
				break
			}
			s.batch = append(s.batch, block...)
		}
		if len(s.batch) == 0 {
			return nil
		}
		if err := s.write(ctx, conn); err != nil {
			return err
		}
	}
}

// write sends the batch.
func (s *Session) write(ctx context.Context, conn *websocket.Conn) error {
	if s.streams != nil {
		return s.streams.write(s.batch)
	}
	return conn.Write(ctx, websocket.MessageBinary, s.batch)
}

const (
	// mostBlocks are sent in one message: a write may wait for its turn on a busy machine.
	mostBlocks = 8
	// firstBlocks go ahead of them, so that a change is on its way soon.
	firstBlocks = 3
)

// next is the next block as it is sent, or nil while the lead is full. The
// slice is reused.
func (s *Session) next() []byte {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.doWaiting()
	if s.leads {
		s.message, s.leads = s.leadIn, false
		return s.message[:]
	}
	if s.sent-s.now() >= s.ahead() {
		return nil
	}
	at := s.sent
	s.render()
	s.encode(s.message[:], at, s.made)
	s.shown = s.made
	s.keep()
	return s.message[:]
}

// render makes the next block.
func (s *Session) render() {
	s.sent += Block
	s.furthest = max(s.furthest, s.sent)
	if s.monitor == nil {
		clear(s.left[:])
		clear(s.right[:])
		s.header = Header{Position: s.position, Loudness: silentLUFS}
		return
	}
	if s.waiting != nil && (s.monitor.Engine.BarWithin(Block) || !s.monitor.Engine.Playing()) {
		s.swap(s.waiting)
	}
	if s.leaps && s.monitor.Engine.BarWithin(Block) {
		s.monitor.Engine.Leap(s.leap)
		s.leaps = false
		s.asked++ // what still joins belongs to the place that is left
	}
	h := &s.header
	h.Position = s.monitor.Engine.Position()
	began := s.clock()
	s.monitor.Process(s.left[:], s.right[:])
	s.pace.took(s.clock().Sub(began))
	h.PeakLeft, h.PeakRight = s.monitor.Meter.TakePeak()
	h.Loudness = math.Max(s.monitor.Meter.Momentary(), silentLUFS)
	part, studying := s.monitor.Studied()
	h.Studying, h.Held, h.Piece = studying, s.monitor.Held(), s.monitor.Engine.PlaysPiece()
	h.Playing = s.monitor.Engine.Playing() && !studying
	if studying {
		h.Position = part
	}
	s.rest(h.Position)
}

// silentLUFS is the loudness that is reported of silence.
const silentLUFS = -100

// encode writes the block that is in left and right, its place and version, to b.
func (s *Session) encode(b []byte, at int64, version uint32) {
	h := &s.header
	h.Frames, h.Version, h.At = Block, int(version), at
	h.Reach = float64(s.reach()) * 1000 / engine.Rate
	h.put(b)
	putSamples(b[HeaderBytes:], s.left[:])
	putSamples(b[HeaderBytes+4*Block:], s.right[:])
}

// TrackOf prepares a recording for the monitor at the engine's rate.
func TrackOf(b *audio.Buffer) *audio.Buffer {
	out := b.Resample(engine.Rate)
	if len(out.Channels) > 2 {
		out.Channels = out.Channels[:2]
	}
	return out
}
