package live

import (
	"runtime"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/engine"
	"jubrak/core/groove"
)

// Four hundred monitors that play nothing take a few megabytes.
func TestIdleMonitorsCostLittle(t *testing.T) {
	s := song(t).Song(nil)
	heap := func() uint64 {
		var m runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&m)
		return m.HeapAlloc
	}
	before := heap()
	all := make([]*Session, 400)
	for i := range all {
		all[i] = NewSession(s, 1, nil)
		for all[i].next() != nil {
			continue
		}
		all[i].Load(s, 2, false)
	}
	assert.Less(t, heap()-before, uint64(16<<20))
	runtime.KeepAlive(all)
}

// A monitor that has been silent for long lets its engine go; what is played then sounds
// as it was set.
func TestAMonitorSleepsAndWakes(t *testing.T) {
	s := NewSession(song(t).Song(nil), 1, nil)
	s.take(&Message{Type: "source", Source: "mine"})
	s.take(&Message{Type: "solo", Voices: []string{"808"}})
	s.again(func() { s.hear = []groove.FeelPart{} })()
	frames := int64(0)
	run := func(seconds float64) (peak float64, playing bool) {
		for n := 0.0; n < seconds*engine.Rate; n += Block {
			m := s.next()
			for m == nil {
				frames += Block
				s.take(&Message{Type: "played", Frames: frames})
				m = s.next()
			}
			b := read(t, m)
			peak, playing = max(peak, b.peak), b.playing
		}
		return peak, playing
	}
	_, playing := run(0.5)
	assert.False(t, playing)
	require.Nil(t, s.monitor, "nothing was asked for")
	s.take(&Message{Type: "play"})
	require.NotNil(t, s.monitor)
	peak, playing := run(1)
	assert.True(t, playing)
	assert.Greater(t, peak, 0.01)
	s.take(&Message{Type: "stop"})
	run(30)
	require.Nil(t, s.monitor, "it sleeps")
	s.Load(song(t).Song(nil), 7, false)
	s.take(&Message{Type: "strike", Voice: "kick", Velocity: 100})
	peak, _ = run(0.2)
	assert.Zero(t, peak, "the 808 is still heard alone")
	s.take(&Message{Type: "strike", Voice: "808", Velocity: 100})
	peak, _ = run(0.2)
	assert.Greater(t, peak, 0.01)
	assert.Equal(t, uint32(7), read(t, s.message[:]).version)
}

// What is played first, or after a long silence, is heard as soon as what is played later:
// silence that was made ahead does not lie before it.
func TestAMonitorWakesAtOnce(t *testing.T) {
	inFull(t)
	for name, act := range map[string]Message{"play": {Type: "play"}, "strike": {Type: "strike", Voice: "kick", Velocity: 100}} {
		s, b := newSession(song(t).Song(nil), 1, nil), &browser{}
		for range 2 {
			b.play(s, s.played+21*engine.Rate)
			require.Nil(t, s.monitor, "it sleeps")
			require.Greater(t, s.sent-s.played, int64(shortLead-2*Block))
			s.take(&act)
			b.take(s)
			at := s.played
			for b.left[at] == 0 {
				at++
			}
			assert.LessOrEqual(t, at, s.played+leastStroke+2*Block, name)
			assert.Equal(t, at/Block*Block, b.first+Block, "%s: the block before goes out once more", name)
			s.take(&Message{Type: "stop"})
		}
	}
}
