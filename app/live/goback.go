package live

import (
	"time"

	"jubrak/core/engine"
	"jubrak/core/state"
)

// stand is where what is made ahead stands; going back brings it back.
type stand struct {
	monitor  *engine.Monitor // nil while it sleeps
	silent   int             // frames of silence since the last sound
	position float64         // where it was when it fell asleep, ticks
	program  *engine.Program // that plays; nil while it sleeps
	waiting  *engine.Program // that plays from the next bar on, or nil
	leap     float64         // where it goes on when its bar is over, ticks; where leaps
	leaps    bool
	sent     int64 // frames made since the connection opened, what was made anew counted once
}

const (
	mostMoments = 24
	// farApart is how far apart moments are at most, frames, where so many may be kept that
	// the lead need not be shorter for it.
	farApart = 3584 // 75 ms
	// mostKept bounds what the moments of a session take, bytes.
	mostKept = 64 << 20
)

// moments are states of a session within what is made ahead, the earliest first: from the
// latest one before it, any place of it is made anew.
type moments struct {
	keeper *state.Keeper
	list   [mostMoments]moment // a ring
	room   int                 // how many of them may be kept
	first  int
	count  int
}

type moment struct {
	at   int64 // sent then
	kept state.Kept
}

func (m *moments) of(i int) *moment { return &m.list[(m.first+i)%m.room] }

// begin drops all moments and keeps the present one.
func (m *moments) begin(sent int64) {
	m.room = max(2, min(mostMoments, mostKept/max(m.keeper.Size(), 1)))
	m.first, m.count = 0, 0
	clear(m.list[m.room:]) // no more than fit
	m.keep(sent)
}

func (m *moments) keep(sent int64) {
	m.count++
	k := m.of(m.count - 1)
	k.at = sent
	m.keeper.Keep(&k.kept)
}

// passed keeps a moment where the last one is long enough ago. Of those before reach, where
// nothing is made anew any more, the last one stays.
func (m *moments) passed(sent, reach, gap int64) {
	for m.count > 1 && m.of(1).at <= reach {
		m.first = (m.first + 1) % m.room
		m.count--
	}
	if m.count < m.room && sent-m.of(m.count-1).at >= gap {
		m.keep(sent)
	}
}

// back goes to the latest moment at or before a place; false where there is none.
func (m *moments) back(to int64) bool {
	for i := m.count - 1; i >= 0; i-- {
		if k := m.of(i); k.at <= to || i == 0 {
			m.keeper.PutBack(&k.kept)
			m.count = i + 1
			return true
		}
	}
	return false
}

// unheardOf is for how long a browser is taken to play on without a word, frames.
const unheardOf = engine.Rate / 5

// now is about the frame that is played: what was last said, and how long ago that was.
func (s *Session) now() int64 {
	if s.playedAt.IsZero() {
		return s.played
	}
	since := int64(s.clock().Sub(s.playedAt).Seconds() * engine.Rate)
	return s.played + min(max(since, 0), unheardOf)
}

// pace is how long it takes to make sound, as a part of how long it lasts, on average of late.
type pace float64

// took takes how long a block took. One that the machine held up counts for no more than four
// times its length.
func (p *pace) took(t time.Duration) {
	const share, most = 1.0 / 64, 4
	*p += share * (min(pace(t.Seconds()*engine.Rate/Block), most) - *p)
}

// of is how long it takes to make so many frames, frames.
func (p pace) of(frames int64) int64 { return int64(float64(p) * float64(frames)) }

// tooSlow is the pace at which changes are made at the end of a short lead: making it anew
// would let the browser run dry.
const tooSlow = 0.6

// fullLead is how far is made ahead at most, frames.
func (s *Session) fullLead() int64 {
	if s.monitor == nil || s.pace > tooSlow {
		return shortLead
	}
	return min(s.lead.frames, max(shortLead, farApart*int64(s.moments.room-1)))
}

// gap is how far apart moments are, frames.
func (s *Session) gap() int64 { return s.fullLead() / int64(s.moments.room-1) }

// reach is how far ahead of what is played a change is made, frames.
func (s *Session) reach() int64 {
	if s.pace > tooSlow {
		return s.fullLead()
	}
	return leastReach + s.pace.of(s.gap()+2*Block)
}

// reachOf is the first frame that may still be changed, wherever moments lie.
func (s *Session) reachOf() int64 { return s.now() + s.reach() }

// soonest is the first frame that may still be changed from one of the moments that there
// are: what lies between is made until it is played.
func (s *Session) soonest() int64 {
	now, p := s.now(), float64(s.pace)
	soonest := s.reachOf()
	if s.pace > tooSlow {
		return soonest
	}
	for i := range s.moments.count {
		at := s.moments.of(i).at
		made := now + int64((leastReach+p*float64(2*Block+now-at))/(1-p))
		soonest = min(soonest, max(at+Block, made))
	}
	return soonest
}

// strokeOf is from where on something is struck: further ahead than what changes what goes
// on, as a stroke that comes too late loses its attack.
func (s *Session) strokeOf() int64 { return s.now() + max(s.lead.stroke, s.reach()) }

// often is how long it is not gone back again, frames, so that making anew takes a third of
// the time at most, and two thirds while the reserve is made. Changes wait until then.
func (s *Session) often() int64 {
	if s.low() {
		return max(480, 3*s.pace.of(s.gap()+s.reserve())/2)
	}
	return max(480, 3*s.pace.of(s.gap()+soon))
}

// reserve is how much of what was made, now or before, is there for the browser at least,
// frames: where there is less of it, so much is made at once.
func (s *Session) reserve() int64 { return s.fullLead() * 2 / 5 / Block * Block }

// low reports whether there is less than the reserve.
func (s *Session) low() bool { return s.furthest-s.now() < s.reserve() }

// change does what changes the sound where the browser can still take it: it goes back as
// far as that, and what was made ahead is made anew from there. It may wait for that. The
// caller holds the lock.
func (s *Session) change(do func()) {
	if len(s.waits) == 0 {
		s.waitsFrom = s.clock()
	}
	s.waits = append(s.waits, do)
	s.doWaiting()
}

// doWaiting does what waits, if it may be gone back now, need not, or it has waited for long.
func (s *Session) doWaiting() {
	if len(s.waits) == 0 {
		return
	}
	if s.monitor != nil {
		to := s.soonest()
		early := s.now()-s.changed < s.often() && s.clock().Sub(s.waitsFrom) < patience
		if early && wholeBlock(to) < s.sent && !s.playedAt.IsZero() {
			return
		}
		if s.goBack(to) {
			s.changed = s.now()
		}
	}
	s.doAll()
	s.moments.count = 0 // what was done since is not in them
	s.keepFrom = s.sent + soonKept
}

// doAll does what waits where it is.
func (s *Session) doAll() {
	for _, do := range s.waits {
		do()
	}
	clear(s.waits)
	s.waits = s.waits[:0]
}

// light is the pace up to which each stroke is made anew, however soon after another.
const light = 0.1

// strike is change for a stroke or a start, from strokeOf on. Strokes come together, as two
// pads do: the moment behind one is kept, so that the next is not made later for it.
func (s *Session) strike(do func()) {
	s.struck = s.strokeOf()
	often := s.pace <= light || s.now()-s.changed >= s.often()
	if s.monitor != nil && s.pace <= tooSlow && often && s.goBack(s.struck) {
		s.changed = s.now()
	}
	s.doAll()
	do()
	s.moments.begin(s.sent)
}

// wholeBlock is the first place of a block from a frame on.
func wholeBlock(frame int64) int64 { return (frame + Block - 1) / Block * Block }

// goBack brings the session to a place that was made already, a whole block; false where it
// stays where it is.
func (s *Session) goBack(to int64) bool {
	to = wholeBlock(to)
	if to >= s.sent || !s.moments.back(to-Block) {
		return false
	}
	s.monitor.SetTrack(s.heardAs.track, s.heardAs.match) // it may be another one since
	at := s.sent
	for s.render(); s.sent < to; s.render() {
		at = s.sent
	}
	// The block before goes out once more: what comes in is faded in over what is the same.
	s.encode(s.leadIn[:], at, s.shown)
	s.leads = true
	return true
}

// soonKept is how much of what is made anew goes out before the first moment is kept, as
// that takes a while.
const soonKept = 4 * Block

// keep keeps a moment of what is made, where it is time for one.
func (s *Session) keep() {
	switch {
	case s.monitor == nil:
	case s.moments.count > 0:
		s.moments.passed(s.sent, s.reachOf(), s.gap())
	case s.sent >= s.keepFrom:
		s.moments.begin(s.sent)
	}
}

// ahead is how many frames are to be made beyond what is played: the reserve at once. Once it
// may be gone back again, it grows to the whole lead, as fast as making that takes a part of
// the time.
func (s *Session) ahead() int64 {
	if s.low() {
		return s.reserve()
	}
	const part = 0.4
	grown := float64(max(s.now()-s.changed-s.often(), 0)) * max(1, part/float64(s.pace+1e-6))
	return min(s.fullLead(), s.reach()+soon+int64(min(grown, MostLead)))
}
