package live

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/project"
)

// A browser that says nothing for long, as its socket is slow or its lid closed, is sent no
// more than it has room for; an edit of that time is heard when it goes on, and all that it
// hears is what a browser without a pause would have heard.
func TestABrowserThatStallsGoesOn(t *testing.T) {
	inFull(t)
	for name, pause := range map[string]time.Duration{"a moment": 300 * time.Millisecond, "an hour": time.Hour} {
		now := time.Now()
		s, b := newSession(rich(t).Song(nil), 1, nil), &browser{}
		s.clock = func() time.Time { return now }
		s.take(&Message{Type: "play"})
		b.play(s, 40000)
		now = now.Add(pause)
		b.take(s)
		require.LessOrEqual(t, s.sent-s.played, int64(firstLead+unheardOf+Block), name)
		held := s.sent
		s.Load(rich(t, project.SetNumber{At: "hat/level_db", Value: -20}).Song(nil), 2, false)
		b.take(s)
		at := b.first + Block
		assert.Less(t, at, held, "%s: it is made where it can still be heard", name)
		b.play(s, 80000)
		assert.EqualValues(t, 1, b.version[at-1], name)
		assert.EqualValues(t, 2, b.version[at], name)

		other, steady := newSession(rich(t).Song(nil), 1, nil), &browser{}
		other.take(&Message{Type: "play"})
		steady.play(other, 80000)
		assert.Equal(t, steady.left[:at], b.left[:at], "%s: what was heard before the edit", name)
	}
}
