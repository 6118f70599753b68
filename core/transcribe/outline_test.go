package transcribe_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/arrange"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// record is a piece of known sections: hats alone, all, the kick alone, all again.
func record(t *testing.T) []arrange.Section {
	rest := func(bars int, voices ...string) (out []arrange.Rest) {
		for _, v := range voices {
			out = append(out, arrange.Rest{Voice: v, From: 0, To: bars * 3840})
		}
		return out
	}
	return []arrange.Section{
		{ID: "1", Name: "Doors", Variation: "a", Bars: 8, Rests: rest(8, "kick", "snare", "808")},
		{ID: "2", Name: "Lap", Variation: "a", Bars: 12},
		{ID: "3", Name: "Hold", Variation: "a", Bars: 5, Rests: rest(5, "hat", "snare", "808")},
		{ID: "4", Name: "Floor", Variation: "a", Bars: 8},
	}
}

func TestTheOutlineOfARecord(t *testing.T) {
	g := groove.Groove{Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1}
	for voice, row := range map[string]string{"kick": "x.....x.x.......", "snare": "....x.......x...", "hat": "x.x.x.x.x.x.x.x.", "808": "x.........x....."} {
		l := g.EnsureLane(voice)
		for i, c := range row {
			if c == 'x' {
				l.Hits = append(l.Hits, groove.Hit{ID: l.NewHitID(), Tick: i * 240, Velocity: 110})
			}
		}
	}
	a := &arrange.Arrangement{Sections: record(t)}
	song := engine.Song{Kit: sound.DefaultKit(), Groove: g, Tempo: music.Steady(112), Piece: &engine.Piece{Arrangement: a, Grooves: map[string]*groove.Groove{"a": &g}}}
	out, err := engine.Render(context.Background(), song, engine.Bounce{Rate: 48000})
	require.NoError(t, err)
	raw, err := transcribe.Analyze(context.Background(), out.Mix, func(string, float64) {})
	require.NoError(t, err)
	heard := transcribe.Finish(raw, nil)
	require.InDelta(t, 112, *heard.Tempo, 0.5)
	o := transcribe.OutlineOf(out.Mix, heard)
	require.InDelta(t, 33, len(o.Bars), 1)
	var from []int
	for _, s := range o.Sections {
		from = append(from, s.From)
		assert.Greater(t, s.Certainty, 0.25)
	}
	assert.Equal(t, []int{0, 8, 20, 25}, from, "%+v", o.Sections)
	assert.Equal(t, o.Sections[1].Like, o.Sections[3].Like, "both play all")
	assert.NotEqual(t, o.Sections[0].Like, o.Sections[1].Like)
	plays := func(f sound.Family, bar int) bool {
		for k, of := range o.Families {
			if of == f {
				return o.Bars[bar].Hits[k] > 0
			}
		}
		return false
	}
	assert.False(t, plays(sound.Kick, 3))
	assert.True(t, plays(sound.Kick, 12))
	assert.False(t, plays(sound.Snare, 22))
	assert.Less(t, o.Bars[3].Energy, o.Bars[12].Energy-3)
}

func TestNoBeatNoOutline(t *testing.T) {
	o := transcribe.OutlineOf(nil, &transcribe.Analysis{})
	assert.Empty(t, o.Bars)
	assert.Empty(t, o.Sections)
}
