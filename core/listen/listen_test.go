package listen_test

import (
	"bytes"
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/format"
	"jubrak/core/listen"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/demo/rink"
	"jubrak/fixtures/truth"
)

func silent(string, float64) {}

func hear(t *testing.T, b *audio.Buffer) *listen.Analysis {
	t.Helper()
	raw, err := listen.Listen(context.Background(), b, silent)
	require.NoError(t, err)
	return listen.Finish(raw, nil)
}

// Library: General MIDI performances with known times, rendered by
// fluidsynth with a free sound bank (fixtures/gm/gen). The figures are those
// asked for; fixtures/bench prints what is reached.
func TestFixtures(t *testing.T) {
	for _, name := range truth.Names {
		b, tr, err := truth.Load("../../fixtures/gm", name)
		require.NoError(t, err)
		s := truth.Judge(hear(t, b), tr, 0.05)
		assert.Less(t, s.TempoError, 0.01, name)
		assert.GreaterOrEqual(t, s.Onset, 0.9, name)
		assert.GreaterOrEqual(t, s.Kick, 0.75, "%s kick", name)
		assert.GreaterOrEqual(t, s.Snare, 0.75, "%s snare", name)
		assert.GreaterOrEqual(t, s.Hat, 0.75, "%s hat", name)
		assert.LessOrEqual(t, s.TimingMedian, 4.0, name)
		assert.GreaterOrEqual(t, s.BarOne, 0.95, name)
	}
}

// The demo's recordings, whose drums the engine could not have made.
func TestRinkTakes(t *testing.T) {
	for _, take := range rink.Takes {
		a := hear(t, take.Record())
		require.NotNil(t, a.Tempo, take.Name)
		assert.InEpsilon(t, take.BPM, *a.Tempo, 0.002, take.Name)
		require.NotEmpty(t, a.Downbeats)
		assert.InDelta(t, rink.Lead, a.Downbeats[0], 0.025, take.Name)
		require.NotNil(t, a.KickHz)
		assert.InDelta(t, 54, *a.KickHz, 1)
		if take.Name == "warm-up-laps" {
			require.NotNil(t, a.Feel.Swing)
			assert.InDelta(t, take.Swing, *a.Feel.Swing, 0.7)
			require.NotNil(t, a.Feel.Drift, "the kick drifts")
			assert.Equal(t, 4, a.Feel.Drift.Bars)
			assert.Equal(t, []string{"kick"}, a.Feel.Drift.Voices)
			curve := a.Feel.Drift.Curve
			assert.InDelta(t, 14, curve[0]-curve[3], 3, "from 14 ms to 0")
		}
	}
}

func TestHonestAboutNoDrums(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	make1 := func(seconds float64, f func(i int) float64) *audio.Buffer {
		b := audio.New(44100, 1, int(seconds*44100))
		for i := range b.Channels[0] {
			b.Channels[0][i] = float32(f(i))
		}
		return b
	}
	for name, b := range map[string]*audio.Buffer{
		"silence":  make1(3, func(int) float64 { return 0 }),
		"DC":       make1(3, func(int) float64 { return 0.5 }),
		"drone":    make1(6, func(i int) float64 { return 0.3 * math.Sin(float64(i)*0.02) }),
		"hiss":     make1(6, func(int) float64 { return 0.1 * r.NormFloat64() }),
		"0.05 s":   make1(0.05, func(i int) float64 { return math.Sin(float64(i)) }),
		"1 sample": make1(0.00003, func(int) float64 { return 1 }),
	} {
		a := hear(t, b)
		assert.NotNil(t, a.Hits, name)
		if a.Tempo != nil {
			assert.Less(t, *a.Confidence, 0.6, "%s: a beat where there is none", name)
		}
		assert.NotNil(t, a.Beats, name)
	}
	a := hear(t, make1(3, func(int) float64 { return 0 }))
	assert.Empty(t, a.Hits)
	assert.Nil(t, a.Tempo)
	assert.Nil(t, a.Level.Integrated)
}

func TestOneSideSilentAndOppositeSides(t *testing.T) {
	b, tr, err := truth.Load("../../fixtures/gm", "driving-140")
	require.NoError(t, err)
	one := audio.New(b.Rate, 2, b.Frames())
	copy(one.Channels[0], b.Channels[0])
	against := audio.New(b.Rate, 2, b.Frames())
	copy(against.Channels[0], b.Channels[0])
	for i, v := range b.Channels[0] {
		against.Channels[1][i] = -v
	}
	for name, x := range map[string]*audio.Buffer{"one side silent": one, "opposite polarity": against} {
		s := truth.Judge(hear(t, x), tr, 0.05)
		assert.Greater(t, s.Onset, 0.9, name)
		assert.Less(t, s.TempoError, 0.01, name)
	}
}

func TestProgressAndCancel(t *testing.T) {
	b, _, err := truth.Load("../../fixtures/gm", "funk-102")
	require.NoError(t, err)
	last := -1.0
	stages := map[string]bool{}
	_, err = listen.Listen(context.Background(), b, func(stage string, done float64) {
		assert.GreaterOrEqual(t, done, last, stage)
		last = done
		stages[stage] = true
	})
	require.NoError(t, err)
	assert.Equal(t, 1.0, last)
	assert.Greater(t, len(stages), 5)
	ctx, cancel := context.WithCancel(context.Background())
	_, err = listen.Listen(ctx, b, func(stage string, done float64) {
		if stage == "spectrum" {
			cancel()
		}
	})
	assert.ErrorIs(t, err, context.Canceled)
}

func performance() *format.Performance {
	p := &format.Performance{PPQ: 480, Meter: music.Meter{Beats: 4, Unit: 4}, Tempo: []format.MIDITempo{{Micros: 600000}}}
	for bar := range 8 {
		for s := range 16 {
			late := 0
			if s%2 == 1 {
				late = 24 // of 240 ticks: 60 %
			}
			p.Notes = append(p.Notes, format.MIDINote{Tick: bar*1920 + s*120 + late, Length: 60, Channel: 9, Key: 42, Velocity: 80})
			if s%8 == 0 {
				p.Notes = append(p.Notes, format.MIDINote{Tick: bar*1920 + s*120, Length: 60, Channel: 9, Key: 36, Velocity: 110})
			}
			if s%8 == 4 {
				p.Notes = append(p.Notes, format.MIDINote{Tick: bar*1920 + s*120 + 8, Length: 60, Channel: 9, Key: 38, Velocity: 100})
			}
		}
		p.Notes = append(p.Notes, format.MIDINote{Tick: bar * 1920, Length: 900, Channel: 0, Key: 40, Velocity: 90})
	}
	return p
}

func TestMIDIReference(t *testing.T) {
	var buf bytes.Buffer
	require.NoError(t, format.WriteMIDI(&buf, performance(), "x"))
	p, err := format.ReadMIDI(&buf)
	require.NoError(t, err)
	a := listen.Finish(listen.FromPerformance(p), nil)
	assert.InDelta(t, 100, *a.Tempo, 1e-6)
	assert.InDelta(t, 60, *a.Feel.Swing, 1e-6)
	assert.InDelta(t, 10, *a.Feel.Voices["snare"].Lean, 1e-6)
	assert.InDelta(t, 0, *a.Feel.Voices["hat_closed"].Lean, 1e-6)
	assert.Equal(t, 1, *a.CycleBars)
	assert.Len(t, a.Hits, 8*20, "the bass on channel 1 is no drum")
	assert.InDelta(t, 4, a.Groove.Density[sound.HatClosed], 0.2)
}

func TestCorrections(t *testing.T) {
	raw := listen.FromPerformance(performance())
	plain := listen.Finish(raw, nil)
	check := func(c ...listen.Correction) *listen.Analysis {
		for i := range c {
			require.NoError(t, c[i].Validate())
		}
		return listen.Finish(raw, c)
	}
	assert.InDelta(t, 200, *check(listen.Correction{Kind: "double"}).Tempo, 1e-6)
	assert.InDelta(t, 50, *check(listen.Correction{Kind: "halve"}).Tempo, 1e-6)
	assert.InDelta(t, 100, *check(listen.Correction{Kind: "double"}, listen.Correction{Kind: "halve"}).Tempo, 1e-6)
	moved := check(listen.Correction{Kind: "bar_one", Beats: 1})
	assert.InDelta(t, plain.Downbeats[0]+0.6, moved.Downbeats[0], 1e-6)
	first := plain.Hits[0]
	dropped := check(listen.Correction{Kind: "delete", Hit: first.ID})
	assert.Len(t, dropped.Hits, len(plain.Hits)-1)
	filed := check(listen.Correction{Kind: "refile", Hit: first.ID, Family: sound.Clap})
	assert.Equal(t, sound.Clap, filed.Hits[0].Family)
	added := check(listen.Correction{Kind: "add", Time: 1.5, Family: sound.Rim, Velocity: 70})
	assert.Len(t, added.Hits, len(plain.Hits)+1)
	assert.Len(t, raw.Hits, len(plain.Hits), "what was heard stays as it was")
	assert.Equal(t, plain, listen.Finish(raw, nil), "and can be finished again")
	for _, bad := range []listen.Correction{{Kind: "wish"}, {Kind: "add", Time: -1, Family: sound.Kick, Velocity: 5}, {Kind: "refile", Family: "spoon"}, {Kind: "bar_one", Beats: 99}} {
		assert.Error(t, bad.Validate(), bad.Kind)
	}
}

// BenchmarkFiveMinutes listens to five minutes of drums made of the funk
// fixture; the metric is how many times faster than real time.
func BenchmarkFiveMinutes(b *testing.B) {
	one, _, err := truth.Load("../../fixtures/gm", "funk-102")
	if err != nil {
		b.Fatal(err)
	}
	long := &audio.Buffer{Rate: one.Rate, Channels: [][]float32{{}, {}}}
	for long.Seconds() < 300 {
		long.Channels[0] = append(long.Channels[0], one.Channels[0]...)
		long.Channels[1] = append(long.Channels[1], one.Channels[0]...)
	}
	b.ReportAllocs()
	for b.Loop() {
		if _, err := listen.Listen(context.Background(), long, silent); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(long.Seconds()*float64(b.N)/b.Elapsed().Seconds(), "x-real-time")
}
