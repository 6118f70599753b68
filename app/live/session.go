// Package live is the streaming monitor: engine blocks over a WebSocket. The
// browser pulls: it returns how many frames it has played, and the session
// renders ahead of that by a fixed lead.
package live

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"math"
	"sync"

	"github.com/coder/websocket"

	"jubrak/core/audio"
	"jubrak/core/audition"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/internal/guard"
)

// Block is the number of frames sent in one message.
const Block = 256

// HeaderBytes is the length of a message's header, little endian: frames
// uint32, version of the document uint32, position in ticks float64, peak
// left and right float32 (linear), momentary loudness float32 (LUFS), flags
// uint32 (bit 0: playing; bit 1: a study plays, and the position is the part
// of its way, 0..1; bit 2: the safety limiter turns down what is heard; bit 3: the
// position is one of the arrangement). Left samples as float32 follow, then right.
const HeaderBytes = 32

// Message is what the browser sends.
type Message struct {
	// Type is play, stop, strike, source, study, loop, piece, leap, click, solo, hear, judge, system, band or played.
	Type     string  `json:"type"`
	Tick     float64 `json:"tick"`
	Voice    string  `json:"voice"`
	Velocity int     `json:"velocity"`
	Source   string  `json:"source"`
	// CountIn is how many bars of clicks come before what is played.
	CountIn int `json:"count_in"`
	// From and To bound the part that goes round, ticks; 0 and 0 is all.
	From int `json:"from"`
	To   int `json:"to"`
	// On and Per are the click: whether it sounds, and how many to a beat. Of a piece
	// message On is whether the arrangement plays in place of the groove.
	On  bool `json:"on"`
	Per int  `json:"per"`
	// Voices are those heard alone; none is all.
	Voices []string `json:"voices"`
	// Parts are the parts of the feel that are heard; null is all.
	Parts []groove.Part `json:"parts"`
	// Bypass is what is heard off, at the loudness that it has on; null is nothing.
	Bypass *engine.Bypass `json:"bypass"`
	// Row, Step and Band name a band of an equalizer that is heard alone, counted from 0;
	// -1 lets all be heard.
	Row    string `json:"row"`
	Effect string `json:"effect"`
	Band   int    `json:"band"`
	// System is the speaker simulation, one of the engine's.
	System string `json:"system"`
	// Study says what is studied, in a study message.
	Study *audition.Settings `json:"study"`
	// Frames played since the connection opened, how often the browser ran dry,
	// and the fewest frames that were left since the message before, in a played
	// message.
	Frames int64 `json:"frames"`
	Dry    int   `json:"dry"`
	Least  int64 `json:"least"`
}

// Prepare makes the sound of a study.
type Prepare func(ctx context.Context, s audition.Settings) (*audio.Buffer, error)

// Session is one open monitor of one project. It holds an engine only from the first
// sound that is asked for until it has been silent for a while: a page that is open and
// plays nothing costs little.
type Session struct {
	prepare  Prepare
	asked    int // number of the newest study asked for
	mu       sync.Mutex
	monitor  *engine.Monitor // nil while it sleeps
	heardAs  heardAs
	silent   int     // frames of silence since the last sound
	position float64 // where it was when it fell asleep, ticks
	end      context.CancelFunc
	song     engine.Song
	program  *engine.Program // that plays; nil while it sleeps
	waiting  *engine.Program // that plays from the next bar on, or nil
	loop     [2]int
	leap     float64 // where it goes on when its bar is over, ticks; where leaps
	leaps    bool
	piece    bool          // the arrangement is heard, not the groove
	hear     []groove.Part // nil: all
	bypass   *engine.Bypass
	changes  int // of how it is to be heard
	version  uint32
	lead     lead
	sent     int64
	played   int64
	left     [Block]float32
	right    [Block]float32
	message  [HeaderBytes + 8*Block]byte
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
	return &Session{prepare: prepare, lead: newLead(), song: song, version: uint32(version), heardAs: heardAs{source: engine.Mine, match: 1, per: 1}}
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
	hear   []groove.Part
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
			s.song, s.version = song, uint32(version)
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
		return
	}
	if s.monitor.Engine.Playing() && (atBar || s.waiting != nil) {
		s.waiting = ready
		return
	}
	s.swap(ready)
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
				s.swap(ready)
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
	s.heardAs.track, s.heardAs.match = t, match
	if s.monitor != nil {
		s.monitor.SetTrack(t, match)
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

// Serve runs the session until the connection or ctx ends. Should the engine
// fail, that is reported as a text message and the session ends; the page opens
// another.
func (s *Session) Serve(ctx context.Context, conn *websocket.Conn) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	s.mu.Lock()
	s.end = cancel
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

// refuse reports to the page what went wrong.
func refuse(ctx context.Context, conn *websocket.Conn, err error) {
	report(ctx, conn, map[string]string{"type": "refused", "message": err.Error()})
}

func report(ctx context.Context, conn *websocket.Conn, what map[string]string) {
	text, _ := json.Marshal(what)
	_ = conn.Write(ctx, websocket.MessageText, text) // a lost connection shows at the next read
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
		if m.Type == "study" && m.Study != nil {
			settings := *m.Study
			guard.Go("close listening", func() { s.study(ctx, conn, settings) })
			continue
		}
		switch m.Type {
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
			s.take(&m)
		}
		if err := s.fill(ctx, conn); err != nil {
			return err
		}
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
		s.monitor.SetStudy(b)
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
	h := &s.heardAs
	switch m.Type {
	case "play":
		s.asked++
		s.leaps = false
		if !math.IsNaN(m.Tick) && m.Tick >= 0 && m.Tick < 1e7 {
			s.wake()
			s.monitor.Play(m.Tick, min(max(m.CountIn, 0), 4))
			if s.piece && m.Tick > 0 {
				mine := s.asked
				guard.Go("what rings from before", func() { s.preroll(m.Tick, mine) })
			}
		}
	case "stop":
		s.asked++
		if s.monitor != nil {
			s.monitor.SetStudy(nil)
		}
	case "strike":
		s.wake()
		s.monitor.Engine.Trigger(m.Voice, min(max(m.Velocity, 1), 127), 0)
	case "leap":
		if s.monitor != nil && s.piece && !math.IsNaN(m.Tick) && m.Tick >= 0 && m.Tick < 1e7 {
			s.leap, s.leaps = m.Tick, true
		}
	case "click":
		h.click, h.per = m.On, m.Per
	case "solo":
		h.solo = m.Voices
	case "band":
		h.row, h.effect, h.band, h.bandIsAlone = m.Row, m.Effect, m.Band, true
	case "system":
		h.system = m.System
	case "source":
		h.source = engine.Source(m.Source)
	case "played":
		s.played = min(max(m.Frames, s.played), s.sent)
		s.lead.heard(s.played, m.Dry, m.Least)
	}
	if s.monitor == nil {
		return
	}
	switch m.Type {
	case "click":
		s.monitor.SetClick(h.click, h.per)
	case "solo":
		s.monitor.Engine.Solo(h.solo)
	case "band":
		s.monitor.Engine.Alone(h.row, h.effect, h.band)
	case "system":
		s.monitor.SetSystem(h.system)
	case "source":
		s.monitor.SetSource(h.source)
	}
}

// fill renders and sends until the lead is full.
func (s *Session) fill(ctx context.Context, conn *websocket.Conn) error {
	for {
		message := s.next()
		if message == nil {
			return nil
		}
		if err := conn.Write(ctx, websocket.MessageBinary, message); err != nil {
			return err
		}
	}
}

// next is the next block as a message, or nil while the lead is full. The
// slice is reused.
func (s *Session) next() []byte {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.sent-s.played >= s.lead.frames {
		return nil
	}
	if s.monitor == nil {
		clear(s.left[:])
		clear(s.right[:])
		return s.encode(s.position, 0, 0, -100, 0)
	}
	if s.waiting != nil && (s.monitor.Engine.BarWithin(Block) || !s.monitor.Engine.Playing()) {
		s.swap(s.waiting)
	}
	if s.leaps && s.monitor.Engine.BarWithin(Block) {
		s.monitor.Engine.Leap(s.leap)
		s.leaps = false
		s.asked++ // what still joins belongs to the place that is left
	}
	position := s.monitor.Engine.Position()
	s.monitor.Process(s.left[:], s.right[:])
	l, r := s.monitor.Meter.TakePeak()
	flags := uint32(0)
	if s.monitor.Engine.Playing() {
		flags = 1
	}
	if s.monitor.Held() {
		flags |= 4
	}
	if s.monitor.Engine.PlaysPiece() {
		flags |= 8
	}
	if part, ok := s.monitor.Studied(); ok {
		flags, position = flags&^1|2, part
	}
	b := s.encode(position, l, r, math.Max(s.monitor.Meter.Momentary(), -100), flags)
	s.rest(position)
	return b
}

// encode writes the block that is in left and right as a message.
func (s *Session) encode(position, peakLeft, peakRight, loudness float64, flags uint32) []byte {
	s.sent += Block
	le, b := binary.LittleEndian, s.message[:]
	le.PutUint32(b, Block)
	le.PutUint32(b[4:], s.version)
	le.PutUint64(b[8:], math.Float64bits(position))
	le.PutUint32(b[16:], math.Float32bits(float32(peakLeft)))
	le.PutUint32(b[20:], math.Float32bits(float32(peakRight)))
	le.PutUint32(b[24:], math.Float32bits(float32(loudness)))
	le.PutUint32(b[28:], flags)
	for i := range Block {
		le.PutUint32(b[HeaderBytes+4*i:], math.Float32bits(s.left[i]))
		le.PutUint32(b[HeaderBytes+4*(Block+i):], math.Float32bits(s.right[i]))
	}
	return b
}

// TrackOf prepares a recording for the monitor at the engine's rate.
func TrackOf(b *audio.Buffer) *audio.Buffer {
	out := b.Resample(engine.Rate)
	if len(out.Channels) > 2 {
		out.Channels = out.Channels[:2]
	}
	return out
}
