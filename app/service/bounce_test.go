package service

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// loopOf is a project's mix over its bars, as a loop that fits itself.
func loopOf(t *testing.T, w *Service, st *State) *audio.Buffer {
	t.Helper()
	r, err := engine.Render(context.Background(), st.Document.Song(w.samples(&st.Document)), engine.Bounce{Rate: engine.Rate, Seamless: true})
	require.NoError(t, err)
	return r.Mix
}

func decibels(b *audio.Buffer) float64 {
	sum := 0.0
	for _, x := range b.Mono() {
		sum += x * x
	}
	return 10 * math.Log10(sum)
}

// A tom that rings over the loop's end, bounced: with the tail kept or wrapped the loop
// sounds as it did, to within what is inaudible, and not twice as loud.
func TestABounceTakesThePlaceOfItsRow(t *testing.T) {
	for _, tail := range []Tail{TailKept, TailWrapped, ""} {
		w := open(t)
		st := make1(t, w, project.SetBars{Bars: 1}, project.PutHits{Hits: []project.NewHit{
			{Voice: "808", Hit: groove.Hit{Tick: 3600, Velocity: 120}}, {Voice: "kick", Hit: groove.Hit{Tick: 0, Velocity: 100}},
		}})
		before := loopOf(t, w, st)
		bounced, err := w.Bounce(context.Background(), st.ID, BounceRow{Base: st.Version, Row: "808", Tail: tail})
		require.NoError(t, err)
		assert.True(t, bounced.Document.Kit.Voice("808").Mute)
		after := loopOf(t, w, bounced)
		require.Equal(t, before.Frames(), after.Frames())
		rest := audio.New(engine.Rate, 2, before.Frames())
		for c := range rest.Channels {
			for i := range rest.Channels[c] {
				rest.Channels[c][i] = before.Channels[c][i] - after.Channels[c][i]
			}
		}
		assert.Less(t, decibels(rest)-decibels(before), -50.0, "tail %q", tail)
		both, err := w.Bounce(context.Background(), st.ID, BounceRow{Base: bounced.Version, Row: "kick", Sounding: true})
		require.NoError(t, err)
		assert.False(t, both.Document.Kit.Voice("kick").Mute)
		again, err := w.Bounce(context.Background(), st.ID, BounceRow{Base: both.Version, Row: "808"})
		require.NoError(t, err, "a row that is muted is still brought back")
		_, err = w.Bounce(context.Background(), st.ID, BounceRow{Base: again.Version, Row: "kick", Tail: "cut"})
		require.Error(t, err)
	}
}

// A recorded loop is cut, filed and placed in one action: its hits play where they fell.
func TestSlicesArePlaced(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	for _, place := range []Placing{PlacePattern, PlaceTiming} {
		w := open(t)
		st := make1(t, w)
		b, err := format.Decode(recording(t))
		require.NoError(t, err)
		st, err = w.addLayer(st.ID, st.Version, "kick", "Loop", b)
		require.NoError(t, err)
		kick := st.Document.Kit.Voice("kick")
		had := len(st.Document.Kit.Voices)
		st, err = w.SliceLayer(context.Background(), st.ID, "kick", SliceLayer{Base: st.Version, Layer: kick.Layers[1].ID, Place: place})
		require.NoError(t, err)
		placed, nudged := 0, 0
		for _, v := range st.Document.Kit.Voices[had:] {
			l := st.Document.Groove.Lane(v.ID)
			assert.NotEmpty(t, l.Hits, v.Name)
			assert.LessOrEqual(t, len(v.Layers), sound.MaxLayers)
			placed += len(l.Hits)
			for _, h := range l.Hits {
				if h.Nudge != 0 {
					nudged++
				}
			}
		}
		assert.Greater(t, placed, 40, "all of its hits")
		assert.Equal(t, place == PlaceTiming, nudged > placed/2, "%d of %d", nudged, placed)
	}
}

// One-shots: at a chosen velocity, through the row's effects, as long as they ring.
func TestOneShotsAsAskedFor(t *testing.T) {
	w := open(t)
	st := make1(t, w,
		project.SetNumber{At: "808/layers/drum/body.decay_ms", Value: 8000}, project.SetNumber{At: "kick/level_db", Value: 0},
		project.AddEffect{Chain: project.InRow("kick"), Kind: "trim", Values: map[string]float64{"gain_db": -6}})
	shots := func(o export.Options) map[string]*audio.Buffer {
		parts, err := export.OneShots(context.Background(), &st.Document, nil, o)
		require.NoError(t, err)
		out := map[string]*audio.Buffer{}
		for i, p := range parts {
			out[st.Document.Kit.Voices[i].ID] = p.B
		}
		return out
	}
	plain, soft, through := shots(export.Options{}), shots(export.Options{Velocity: 55}), shots(export.Options{Chain: true})
	assert.Greater(t, plain["808"].Seconds(), 7.0, "six seconds cut it once")
	peak := func(b *audio.Buffer) float64 { return 20 * math.Log10(b.Peak()) }
	assert.InDelta(t, 40*math.Log10(55.0/110), peak(soft["kick"])-peak(plain["kick"]), 1, "40 dB for a tenth of the velocity")
	assert.InDelta(t, -6, peak(through["kick"])-peak(plain["kick"]), 0.1)
	assert.Equal(t, plain["snare"].Frames(), through["snare"].Frames(), "a row without effects is as it was")
}

// A rumble that is solo is heard alone, made of the layers that are not.
func TestARumbleAlone(t *testing.T) {
	w := open(t)
	st := make1(t, w, project.AddLayer{Voice: "kick", Layer: sound.Rumbling("wet", "Rumble")})
	shot := func(edits ...project.Edit) *audio.Buffer {
		d, _, err := st.Document.Apply(edits, nil)
		require.NoError(t, err)
		return export.Shot(d.Kit.Voice("kick"), nil, d.Stroke())
	}
	at := func(b *audio.Buffer, from, to float64) float64 {
		return decibels(b.Slice(int(from*48000), int(to*48000)))
	}
	both, alone := shot(), shot(project.SetNumber{At: "kick/layers/wet/solo", Value: 1})
	require.Greater(t, alone.Seconds(), 0.5)
	assert.InDelta(t, at(both, 0.7, 0.9), at(alone, 0.7, 0.9), 0.5, "the same rumble")
	assert.Less(t, at(alone, 0, 0.005), at(both, 0, 0.005)-20, "without the stroke that makes it")
}

// A bounce read at another speed asks whether the tempo follows: then it fills as many bars
// as before, else it is shorter.
func TestABounceAtAnotherSpeed(t *testing.T) {
	w := open(t)
	st := make1(t, w, project.SetBars{Bars: 1}, project.SetNumber{At: "tempo/bpm", Value: 100}, project.PutHits{Hits: []project.NewHit{{Voice: "kick", Hit: groove.Hit{Velocity: 100}}, {Voice: "kick", Hit: groove.Hit{Tick: 1920, Velocity: 100}}}})
	faster, err := w.Bounce(context.Background(), st.ID, BounceRow{Base: st.Version, Row: "kick", Semitones: 3, TempoFollows: true, Tail: TailWrapped})
	require.NoError(t, err)
	d := &faster.Document
	assert.InDelta(t, 100*math.Exp2(3.0/12), d.Tempo[0].BPM, 1e-9)
	of := d.Kit.Voices[len(d.Kit.Voices)-1]
	assert.Equal(t, 3.0, of.Layers[0].Pitch)
	x := loopOf(t, w, faster).Mono()
	at := func(from float64) float64 {
		sum := 0.0
		for _, v := range x[int(from*float64(len(x))):int((from+0.05)*float64(len(x)))] {
			sum += v * v
		}
		return 10 * math.Log10(sum+1e-12)
	}
	assert.InDelta(t, at(0), at(0.5), 1.5, "the second stroke is in the middle of the bar")
	assert.Less(t, at(0.44), at(0.5)-20)
	stays, err := w.Bounce(context.Background(), st.ID, BounceRow{Base: faster.Version, Row: "kick", Semitones: -5})
	require.NoError(t, err)
	assert.Equal(t, d.Tempo, stays.Document.Tempo)
	for _, bad := range []BounceRow{{Semitones: 25}, {Semitones: math.NaN()}, {Semitones: 3, Slices: true}, {Semitones: 24, TempoFollows: true}} {
		bad.Base, bad.Row = stays.Version, "kick"
		if bad.TempoFollows {
			made, err := w.Edit(st.ID, stays.Version, project.Edits{project.SetNumber{At: "tempo/bpm", Value: 250}}, "")
			require.NoError(t, err)
			bad.Base = made.Version
		}
		_, err := w.Bounce(context.Background(), st.ID, bad)
		var refused *Refusal
		require.ErrorAs(t, err, &refused)
	}
}
