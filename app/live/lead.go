package live

// Leads in frames at engine.Rate: how far is rendered ahead of what has been
// played, which is what lies between an edit and its sound.
const (
	firstLead = 6144 // 128 ms: a page that has just opened stalls most
	leastLead = 2048
	mostLead  = 12288
	leadStep  = 1024       // more each time the browser ran dry
	spare     = 1536       // what should be left at the worst moment
	tight     = 640        // and below which it is too little
	window    = 10 * 48000 // seconds of a good connection before it shrinks: stalls are rare, not regular
	patience  = 6          // windows without shrinking after the browser ran dry
)

// lead follows what the connection needs: it shrinks while more is left at the
// worst moment than has to be, and grows where little is left or none.
type lead struct {
	frames  int64
	dry     int   // how often the browser ran dry
	from    int64 // where the window began, frames played
	least   int64 // what was left at its worst moment
	waiting int   // windows until it may shrink
	floor   int64 // what was too little once is not gone back to
}

func newLead() lead { return lead{frames: firstLead, least: mostLead, floor: leastLead} }

// heard takes a report: how much has been played, how often the browser ran dry,
// and what was left at the worst moment since the report before, 0 where that is
// not known.
func (l *lead) heard(played int64, dry int, least int64) {
	if dry > l.dry {
		l.dry = dry
		l.floor = min(max(l.floor, l.frames+2*Block), mostLead)
		l.frames = min(l.frames+leadStep, mostLead)
		l.waiting = patience
		l.begin(played)
		return
	}
	if least > 0 {
		l.least = min(l.least, least)
	}
	if l.least < tight && l.frames < mostLead {
		l.frames += Block
		l.begin(played)
	}
	if played-l.from < window {
		return
	}
	if l.waiting > 0 {
		l.waiting--
	} else if over := l.least - spare; over > 0 {
		l.frames = max(l.frames-max(over/2/Block, 1)*Block, l.floor)
	}
	l.begin(played)
}

func (l *lead) begin(played int64) { l.from, l.least = played, mostLead }
