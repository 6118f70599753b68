package mixreport

import (
	"context"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/arrange"
	"jubrak/core/engine"
	"jubrak/core/measure"
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
	bars, err := Space(context.Background(), d, nil)
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

// stillTone is a recording of a tone of one level.
type stillTone struct{}

func (stillTone) Frames() int64 { return 20 * engine.Rate }

func (stillTone) Read(at int64, left, right []float32) {
	for i := range left {
		left[i] = float32(0.1 * math.Sin(2*math.Pi*997*float64(at+int64(i))/engine.Rate))
		right[i] = left[i]
	}
}

// A stereo tone of 997 Hz and amplitude 0.1 is -20 LUFS (ITU-R BS.1770-4: one channel at
// full scale reads -3.01); the drums' distance moves with their level and with the backing's.
func TestDrumsBesideABacking(t *testing.T) {
	d, _, err := project.New("x").Apply(project.Edits{project.SetSection{Section: "s1", Bars: new(4)}, project.AddHit{Voice: "kick", Tick: 0}, project.AddHit{Voice: "snare", Tick: 1920},
		project.AddBacking{Backing: arrange.NewBacking("b1", "Tone", strings.Repeat("a", 64))}}, nil)
	require.NoError(t, err)
	ready := map[string]engine.Ready{"b1": {Recording: stillTone{}}}
	at, err := Beside(context.Background(), d, nil, ready)
	require.NoError(t, err)
	require.Len(t, at, 1)
	drums, err := engine.Render(context.Background(), d.PieceSong(nil), engine.Bounce{Rate: engine.Rate})
	require.NoError(t, err)
	lufs, _ := measure.Integrated(drums.Mix)
	assert.InDelta(t, lufs+20, at[0].LU, 0.3)
	soft, _, err := d.Apply(project.Edits{project.SetNumber{At: "backing/b1/level_db", Value: -6}}, nil)
	require.NoError(t, err)
	softer, err := Beside(context.Background(), soft, nil, ready)
	require.NoError(t, err)
	assert.InDelta(t, at[0].LU+6, softer[0].LU, 0.11)
	none, err := Beside(context.Background(), d, nil, nil)
	require.NoError(t, err)
	assert.Empty(t, none)
}
