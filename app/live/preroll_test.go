package live

import (
	"context"
	"encoding/binary"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/engine"
	"jubrak/core/mixer"
	"jubrak/core/project"
)

// roomy is a piece of eight bars whose kick stops after four and rings long.
func roomy(t *testing.T) *project.Document {
	d, _, err := project.New("x").Apply(project.Edits{
		project.AddHit{Voice: "kick", Tick: 0}, project.AddHit{Voice: "kick", Tick: 1920}, project.AddHit{Voice: "hat", Tick: 960},
		project.AddEffect{Chain: project.InRow("kick"), Kind: "reverb", Values: map[string]float64{"decay_ms": 2500, "mix_percent": 60}},
		project.SetSection{Section: "s1", Bars: new(8)}, project.SetNumber{At: "tempo/bpm", Value: 220},
		project.PaintRows{Voices: []string{"kick"}, From: 4 * 3840, To: 8 * 3840},
		project.Automate{Section: "s1", At: "hat/level_db", Points: []mixer.AutomationPoint{{Bar: 0, Value: -40}, {Bar: 8, Value: 0}}},
	}, nil)
	require.NoError(t, err)
	return d
}

// What is played from bar 5 has, once what rings from before has joined, the sound of a
// render from the start.
func TestWhatRingsFromBeforeJoins(t *testing.T) {
	d := roomy(t)
	whole, err := engine.Render(context.Background(), d.PieceSong(nil), engine.Bounce{Rate: engine.Rate})
	require.NoError(t, err)
	s := NewSession(d.PieceSong(nil), 1, nil)
	s.again(func() { s.piece = true })()
	s.wake()
	first := s.monitor.Engine
	s.take(&Message{Type: "play", Tick: 4 * 3840})
	require.NotNil(t, s.next()) // the place of the grid before the bar goes by
	require.Eventually(t, func() bool {
		s.mu.Lock()
		defer s.mu.Unlock()
		return s.monitor.Engine != first
	}, 20*time.Second, time.Millisecond)
	from := int(s.monitor.Engine.Frame())
	var heard []float64
	for len(heard) < engine.Rate {
		m := s.next()
		require.NotNil(t, m)
		s.take(&Message{Type: "played", Frames: s.sent})
		for i := range Block {
			heard = append(heard, float64(math.Float32frombits(binary.LittleEndian.Uint32(m[HeaderBytes+4*i:]))))
		}
	}
	late := int(0)
	difference := func(late int) (most float64) {
		for i := 4800; i < engine.Rate*3/4; i++ {
			most = max(most, math.Abs(heard[i+late]-float64(whole.Mix.Channels[0][from+i])))
		}
		return most
	}
	for k := range 300 { // the safety limiter looks ahead
		if difference(k) < difference(late) {
			late = k
		}
	}
	assert.Less(t, difference(late), 1e-3, "-60 dB")
	loud := 0.0
	for _, x := range heard[4800:] {
		loud = max(loud, math.Abs(x))
	}
	assert.Greater(t, loud, 0.01, "and there is something to hear")
}

func TestAStopEndsWhatJoins(t *testing.T) {
	s := NewSession(roomy(t).PieceSong(nil), 1, nil)
	s.again(func() { s.piece = true })()
	s.take(&Message{Type: "play", Tick: 4 * 3840})
	asked := s.asked
	s.take(&Message{Type: "stop"})
	first := s.monitor.Engine
	s.preroll(4*3840, asked)
	assert.Same(t, first, s.monitor.Engine)
}
