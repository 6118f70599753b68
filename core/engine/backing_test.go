package engine

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/arrange"
	"jubrak/core/audio"
)

// ramp is a recording whose sample reports its frame.
type ramp struct{ frames int64 }

func (r ramp) Frames() int64 { return r.frames }

func (r ramp) Read(at int64, left, right []float32) {
	for i := range left {
		left[i] = float32(at+int64(i)) / (1 << 22)
		right[i] = -left[i]
	}
}

// behind renders a piece of silent rows with one backing.
func behind(t *testing.T, b arrange.Backing, ready Ready, sections ...arrange.Section) *audio.Buffer {
	song := piece(sections...)
	for i := range song.Kit.Voices {
		song.Kit.Voices[i].Mute = true
	}
	b.ID, b.Name, b.Rounds = "b1", "Organ", max(b.Rounds, 1)
	song.Piece.Arrangement.Backings = []arrange.Backing{b}
	song.Piece.Ready = map[string]Ready{"b1": ready}
	out, err := Render(context.Background(), song, Bounce{Rate: Rate, Backings: true})
	require.NoError(t, err)
	return out.Mix
}

func frameIn(b *audio.Buffer, at int) float64 { return float64(b.Channels[0][at]) * (1 << 22) }

var barFrames = 4.0 * 60.0 / 92 * Rate

func TestABackingIsPlayedFromItsPlace(t *testing.T) {
	out := behind(t, arrange.Backing{At: 3840}, Ready{Recording: ramp{1 << 20}}, section(4))
	assert.Zero(t, peakOf(out, 0, 0.999))
	at := int(math.Round(barFrames)) + 5000
	assert.InDelta(t, 5000, frameIn(out, at), 1)
	// With a lead it begins before its place: its first beat stands there.
	led := behind(t, arrange.Backing{At: 3840}, Ready{Recording: ramp{1 << 20}, Lead: 0.5}, section(4))
	assert.InDelta(t, 5000+Rate/2, frameIn(led, at), 1)
	rounds := behind(t, arrange.Backing{At: 0, Rounds: 3}, Ready{Recording: ramp{10000}}, section(2))
	assert.InDelta(t, 2000, frameIn(rounds, 22000), 1)
	assert.Zero(t, rounds.Channels[0][30100])
}

// A backing with a tempo follows the piece's: through a ramp each beat of it falls on one
// of the piece.
func TestABackingFollowsTheTempo(t *testing.T) {
	s := section(8)
	s.TempoTo = 138
	out := behind(t, arrange.Backing{}, Ready{Recording: ramp{1 << 22}, Tempo: 92}, s)
	line := arrange.NewLine(piece(s).Piece.Arrangement, piece(s).Piece.Groove, piece(s).Tempo)
	for beat := 1; beat < 32; beat += 3 {
		at := int(line.Seconds(float64(beat)*960) * Rate)
		assert.InDelta(t, float64(beat)*60/92*Rate, frameIn(out, at), 12, "beat %d", beat)
	}
	steady := behind(t, arrange.Backing{}, Ready{Recording: ramp{1 << 22}, Tempo: 92}, section(4))
	for at := 1000; at < 200000; at += 12345 {
		assert.InDelta(t, float64(at), frameIn(steady, at), 1.01)
	}
}

func TestABackingFadesAndIsDucked(t *testing.T) {
	out := behind(t, arrange.Backing{FadeIn: 1, Level: -6}, Ready{Recording: ramp{1 << 20}}, section(4))
	half := frameIn(out, Rate/2)
	assert.InDelta(t, Rate/2*0.5*audio.Gain(-6), half, 100)
	song := piece(section(4))
	song.Piece.Arrangement.Backings = []arrange.Backing{{ID: "b1", Name: "x", Rounds: 1, Duck: 24, DuckBy: "kick"}}
	song.Piece.Ready = map[string]Ready{"b1": {Recording: still{1 << 21}}}
	with, err := Render(context.Background(), song, Bounce{Rate: Rate, Backings: true})
	require.NoError(t, err)
	drums, err := Render(context.Background(), song, Bounce{Rate: Rate})
	require.NoError(t, err)
	heard := func(at int) float64 {
		return float64(with.Mix.Channels[0][at]) - float64(drums.Mix.Channels[0][at])
	}
	before := int(barFrames) - 600 // long after a kick
	assert.Less(t, heard(int(barFrames)+2400), heard(before)*0.5, "the kick turns it down")
	assert.InDelta(t, 0.1, heard(before), 0.03)
}

// still is a recording of one level.
type still struct{ frames int64 }

func (l still) Frames() int64 { return l.frames }

func (l still) Read(_ int64, left, right []float32) {
	for i := range left {
		left[i], right[i] = 0.1, 0.1
	}
}
