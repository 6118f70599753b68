package live

// Leads in frames at engine.Rate: how far is made ahead of what has been played. It lies
// between no edit and its sound, as what was made ahead is made anew, so it is long: a
// browser that stalls for that long does not run dry.
const (
	firstLead = 14592 // 304 ms
	mostLead  = 24576
	leadStep  = 2048 // more each time the browser ran dry
)

// After a change so much is made ahead at once; the rest follows while it plays, so that
// changes that come one after another are not each made for the whole lead. Behind it lies
// what was made before, which is played where nothing else comes.
const soon = 4608

// How far ahead of what is played a change is made, frames: what is on its way meanwhile
// should be there in time. What comes too late is heard from where it comes on, so it need
// not be far, but what was struck before that is lost.
const (
	leastReach = 960 // 20 ms
	mostReach  = 1920
	reachStep  = 240
	calm       = 2 * 48000 // frames without any that came too late before it shrinks
)

// lead follows what the connection needs.
type lead struct {
	frames int64
	dry    int   // how often the browser ran dry
	reach  int64 // see leastReach
	since  int64 // frames played when it last changed
}

func newLead() lead { return lead{frames: firstLead, reach: leastReach} }

// heard takes a report: how much has been played, how often the browser ran dry, and how
// many frames came too late since the report before.
func (l *lead) heard(played int64, dry int, late int64) {
	if dry > l.dry {
		l.dry = dry
		l.frames = min(l.frames+leadStep, mostLead)
	}
	switch {
	case late > 0:
		l.reach, l.since = min(l.reach+reachStep, mostReach), played
	case played-l.since >= calm:
		l.reach, l.since = max(l.reach-reachStep, leastReach), played
	}
}
