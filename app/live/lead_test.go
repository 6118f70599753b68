package live

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// run lets the browser play for some seconds, with so many frames lost at the
// worst moments; it reports the lead that it ends with.
func (l *lead) run(from, seconds int64, lost func(lead int64) int64, dry int) int64 {
	for at := from * 48000; at < (from+seconds)*48000; at += 256 {
		l.heard(at, dry, max(l.frames-lost(l.frames), 1))
	}
	return l.frames
}

func steadyLoss(frames int64) func(int64) int64 { return func(int64) int64 { return frames } }

func TestTheLeadFollowsTheConnection(t *testing.T) {
	l := newLead()
	quick := l.run(0, 90, steadyLoss(300), 0)
	assert.EqualValues(t, leastLead, quick, "a quick machine needs little")
	slow := newLead()
	needs := slow.run(0, 90, steadyLoss(1500), 0)
	assert.InDelta(t, 1500+spare, needs, 2*Block, "it keeps what it needs and some to spare")
	worse := slow.run(90, 60, steadyLoss(2400), 0)
	assert.Greater(t, worse, int64(2400+tight-Block), "and grows where that is no longer enough")
	dry := newLead()
	dry.run(0, 90, steadyLoss(300), 0)
	grown := dry.run(90, 1, steadyLoss(300), 1)
	assert.EqualValues(t, leastLead+leadStep, grown)
	assert.Equal(t, grown, dry.run(91, 50, steadyLoss(300), 1), "after running dry it waits for a minute")
	assert.Less(t, dry.run(141, 30, steadyLoss(300), 1), grown)
	assert.GreaterOrEqual(t, dry.run(171, 200, steadyLoss(300), 1), int64(leastLead+2*Block), "what was too little once is not gone back to")
	for i := range 40 {
		dry.heard(int64(400*48000+i), 2+i, 1)
	}
	assert.EqualValues(t, mostLead, dry.frames)
	unknown := newLead()
	for at := int64(0); at < 20*48000; at += 256 {
		unknown.heard(at, 0, 0)
	}
	assert.LessOrEqual(t, unknown.frames, int64(firstLead), "who does not tell what is left is not given more")
}
