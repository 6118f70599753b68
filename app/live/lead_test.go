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
		assert.EqualValues(t, min(firstLead+(i+1)*leadStep, mostLead), l.frames)
	}
	l.heard(3000, 40, 0)
	assert.EqualValues(t, mostLead, l.frames, "the same count is no news")
}

func TestChangesAreMadeFurtherAheadWhereTheyCameTooLate(t *testing.T) {
	l := newLead()
	l.heard(1000, 0, 0)
	assert.EqualValues(t, leastReach, l.reach)
	l.heard(2000, 0, 37)
	assert.EqualValues(t, leastReach+reachStep, l.reach)
	for i := range 40 {
		l.heard(int64(2000+i), 0, 1)
	}
	assert.EqualValues(t, mostReach, l.reach)
	at := int64(3000)
	for ; l.reach > leastReach && at < 1e8; at += 256 {
		l.heard(at, 0, 0)
	}
	steps := (mostReach-leastReach)/reachStep + 1
	assert.InDelta(t, steps*calm, at, calm, "it comes back slowly")
}
