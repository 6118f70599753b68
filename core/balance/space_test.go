package balance

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/project"
)

// A bar of silence leaves all room, one of kicks alone nearly all, one full of loud hats
// and snares is crowded.
func TestRoomByBar(t *testing.T) {
	edits := project.Edits{project.SetSection{Section: "s1", Bars: new(3)}, project.AddHit{Voice: "kick", Tick: 0}, project.AddHit{Voice: "kick", Tick: 1920}}
	for i := range 32 {
		edits = append(edits, project.PutHits{Hits: []project.NewHit{{Voice: "hat"}}})
		h := &edits[len(edits)-1].(project.PutHits).Hits[0]
		h.Hit.Tick, h.Hit.Velocity = i*240, 127
		edits = append(edits, project.PutHits{Hits: []project.NewHit{{Voice: "snare"}}})
		h = &edits[len(edits)-1].(project.PutHits).Hits[0]
		h.Hit.Tick, h.Hit.Velocity = i*240, 120
	}
	edits = append(edits, project.AddDropout{At: 3840, Length: 3840, Keeps: []string{}, Cuts: true},
		project.PaintRows{Voices: []string{"hat", "snare"}, From: 7680, To: 3 * 3840},
		project.SetNumber{At: "snare/level_db", Value: 0})
	d, _, err := project.New("x").Apply(edits, nil)
	require.NoError(t, err)
	bars, err := Space(context.Background(), d, nil, nil)
	require.NoError(t, err)
	require.Len(t, bars, 3)
	assert.Zero(t, bars[0].FreeOfHits)
	assert.True(t, bars[0].Crowded, "%+v", bars[0])
	assert.Equal(t, 1.0, bars[1].FreeOfHits)
	assert.Greater(t, bars[1].Room, 0.95)
	assert.Equal(t, 1.0, bars[2].FreeOfHits, "a kick stands lower")
	assert.False(t, bars[2].Crowded)
	assert.Greater(t, bars[2].Level, -60.0)
}
