package live

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestTheLeadGrowsWhereTheBrowserRanDry(t *testing.T) {
	l := newLead()
	l.heard(1000, 0, 0)
	assert.EqualValues(t, firstLead, l.frames)
	for i := range 40 {
		l.heard(int64(2000+i), 1+i, 0)
		assert.EqualValues(t, min(firstLead+(i+1)*leadStep, MostLead), l.frames)
	}
	l.heard(3000, 40, 0)
	assert.EqualValues(t, MostLead, l.frames, "the same count is no news")
}

func TestStrokesAreMadeFurtherAheadWhereTheyCameTooLate(t *testing.T) {
	l := newLead()
	l.heard(1000, 0, 0)
	assert.EqualValues(t, leastStroke, l.stroke)
	l.heard(2000, 0, 37)
	assert.EqualValues(t, leastStroke+strokeStep, l.stroke)
	for i := range 40 {
		l.heard(int64(2000+i), 0, 1)
	}
	assert.EqualValues(t, mostStroke, l.stroke)
	at := int64(3000)
	for ; l.stroke > leastStroke && at < 1e8; at += 256 {
		l.heard(at, 0, 0)
	}
	steps := (mostStroke-leastStroke)/strokeStep + 1
	assert.InDelta(t, steps*calm, at, calm, "it comes back slowly")
}
