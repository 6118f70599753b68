package live

import "time"

// Leads in frames at engine.Rate: how far is made ahead of what has been played. It lies
// between no edit and its sound, as what was made ahead is made anew, so it is long: a
// browser or a server that stalls for that long does not let it run dry.
const (
	shortLead = 24064 // 501 ms, of what sleeps, is too slow to be made anew or has few moments
	firstLead = 72192 // 1.5 s
	leadStep  = 4096  // more each time the browser ran dry
)

// MostLead is the most that is made ahead of what is played, frames at engine.Rate.
const MostLead = 96256 // 2 s

// patience is how long a change waits at most until it is made.
const patience = 300 * time.Millisecond

// After a change so much is made ahead at once; the rest follows, so that changes that come
// one after another are not each made for the whole lead. Behind it lies what was made
// before, which is played where nothing else comes.
const soon = 2304 // 48 ms

// leastReach is how far ahead of what is played a change is made, frames, beside the time
// that it takes to make what is between. What is on its way longer is heard from where it
// comes on.
const leastReach = 480 // 10 ms

// How far ahead of what is played something is struck, frames: what comes too late loses its
// attack, so it is as much as was needed of late.
const (
	leastStroke = 1920 // 40 ms
	mostStroke  = 4800
	strokeStep  = 480
	calm        = 2 * 48000 // frames without any stroke that came too late before it shrinks
)

// lead follows what the connection needs.
type lead struct {
	frames int64
	dry    int   // how often the browser ran dry
	stroke int64 // see leastStroke
	since  int64 // frames played when it last changed
}

func newLead() lead { return lead{frames: firstLead, stroke: leastStroke} }

// heard takes a report: how much has been played, how often the browser ran dry, and how
// many frames of a stroke came too late since the report before.
func (l *lead) heard(played int64, dry int, late int64) {
	if dry > l.dry {
		l.dry = dry
		l.frames = min(l.frames+leadStep, MostLead)
	}
	switch {
	case late > 0:
		l.stroke, l.since = min(l.stroke+strokeStep, mostStroke), played
	case played-l.since >= calm:
		l.stroke, l.since = max(l.stroke-strokeStep, leastStroke), played
	}
}
