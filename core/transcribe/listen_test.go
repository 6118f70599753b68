package transcribe_test

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
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
	"jubrak/demo/rink"
	"jubrak/fixtures/truth"
)

func silent(string, float64) {}

// long leaves a test of much listening out of the short run.
func long(t *testing.T) {
	t.Helper()
	if testing.Short() {
		t.Skip("much listening, and nothing of it at once")
	}
}

func hear(t *testing.T, b *audio.Buffer) *transcribe.Analysis {
	t.Helper()
	raw, err := transcribe.Analyze(context.Background(), b, silent)
	require.NoError(t, err)
	return transcribe.Finish(raw, nil)
}

// Library: General MIDI performances with known times, made with fluidsynth
// and free sound banks (fixtures/gm/gen, fixtures/set/gen). The limits lie a
// little under what fixtures/bench prints; docs/listening.md has the figures
// that were asked for.
func TestFixtures(t *testing.T) {
	scores := map[string][]truth.Score{}
	for _, dir := range []string{"../../fixtures/gm", "../../fixtures/set"} {
		for _, name := range truth.Names(dir) {
			b, tr, err := truth.Load(dir, name)
			require.NoError(t, err)
			scores[tr.Kind] = append(scores[tr.Kind], truth.Judge(hear(t, b), tr))
		}
	}
	for kind, least := range map[string]truth.Least{
		"dry":  {Onset: 0.98, Kick: 0.98, Snare: 0.97, Hat: 0.93, Ghost: 0.94, Tempo: 1, BarOne: 0.97, Median: 0.5, P95: 3.2, Swing: 0.3, Lean: 0.9, Velocity: 0.92},
		"room": {Onset: 0.975, Kick: 0.98, Snare: 0.97, Hat: 0.97, Ghost: 0.92, Tempo: 1, BarOne: 0.97, Median: 0.5, P95: 2.2, Swing: 0.4, Lean: 0.9, Velocity: 0.9},
		"full": {Onset: 0.94, Kick: 0.93, Snare: 0.82, Hat: 0.89, Ghost: 0.75, Tempo: 0.9, BarOne: 0.95, Median: 0.7, P95: 6.5, Swing: 0.4, Lean: 1.1, Velocity: 0.79},
	} {
		for _, problem := range least.Misses(scores[kind]) {
			t.Errorf("%s: %s", kind, problem)
		}
	}
	// Confidence means what it says, family by family: what is reported as a share of
	// hits is a share that was right, a little room for few hits given.
	var sum truth.Summary
	for kind, list := range scores {
		for _, s := range list {
			sum.Add(kind, s)
		}
	}
	for _, g := range truth.Groups {
		for _, p := range sum.Calibration(g) {
			room := 0.15 + 1/math.Sqrt(p.Hits)
			assert.InDelta(t, p.Said, p.Right, room, "%s said with %.2f: %.2f right (%.0f)", g, p.Said, p.Right, p.Hits)
		}
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
		open, named := 0, 0
		for _, s := range take.Strokes() {
			if s.Family != sound.HatOpen {
				continue
			}
			open++
			for _, h := range a.Hits {
				if h.Family == sound.HatOpen && math.Abs(h.Time-s.Time) < 0.03 {
					named++
					break
				}
			}
		}
		assert.GreaterOrEqual(t, float64(named), 0.75*float64(open), "open hats of %s", take.Name)
		if take.Name == "warm-up-laps" {
			require.NotNil(t, a.Feel.Swing)
			assert.InDelta(t, take.Swing, *a.Feel.Swing, 0.7)
			require.NotNil(t, a.Feel.Drift, "the kick drifts")
			assert.Equal(t, 4, a.Feel.Drift.Bars)
			assert.Equal(t, []string{"kick"}, a.Feel.Drift.Voices)
			curve := a.Feel.Drift.Curve
			assert.InDelta(t, 14, curve[0]-curve[3], 3, "from 14 ms to 0")
			for _, f := range a.Facts {
				if f.ID == "drift" {
					assert.Equal(t, a.Feel.Voices["kick"].Timed, f.Count, "the kick's hits speak for it")
				}
			}
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
		"swelling": make1(6, func(i int) float64 { return 0.1 * (1 + 0.5*math.Sin(float64(i)/30000)) * r.NormFloat64() }),
		"0.05 s":   make1(0.05, func(i int) float64 { return math.Sin(float64(i)) }),
		"1 sample": make1(0.00003, func(int) float64 { return 1 }),
	} {
		a := hear(t, b)
		assert.NotNil(t, a.Hits, name)
		if a.Tempo != nil {
			assert.Less(t, *a.Confidence, 0.6, "%s: a beat where there is none", name)
		}
		if name == "hiss" || name == "swelling" {
			assert.LessOrEqual(t, len(a.Hits), 1, "%s: noise is no drum", name)
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
		s := truth.Judge(hear(t, x), tr)
		assert.Greater(t, s.Onset, 0.9, name)
		assert.Less(t, s.TempoError, 0.01, name)
	}
}

// What studios and phones do to recordings: none of it may stop the listener
// or make it sure of nonsense.
func TestRoughRecordings(t *testing.T) {
	long(t)
	b, tr, err := truth.Load("../../fixtures/gm", "driving-140")
	require.NoError(t, err)
	change := func(f func(v float32) float32) *audio.Buffer {
		out := audio.New(b.Rate, 1, b.Frames())
		for i, v := range b.Channels[0] {
			out.Channels[0][i] = f(v)
		}
		return out
	}
	for name, c := range map[string]struct {
		sound *audio.Buffer
		onset float64
	}{
		"8 kHz":     {b.Resample(8000), 0.6},
		"192 kHz":   {b.Resample(192000), 0.95},
		"clipped":   {change(func(v float32) float32 { return max(min(8*v, 1), -1) }), 0.8},
		"DC offset": {change(func(v float32) float32 { return 0.5*v + 0.4 }), 0.95},
		"very soft": {change(func(v float32) float32 { return v / 2000 }), 0.95},
	} {
		a := hear(t, c.sound)
		s := truth.Judge(a, tr)
		assert.Greater(t, s.Onset, c.onset, name)
		assert.Less(t, s.TempoError, 0.01, name)
	}
	short := &audio.Buffer{Rate: b.Rate, Channels: [][]float32{b.Channels[0][11000:19820]}}
	a := hear(t, short)
	assert.Nil(t, a.Tempo, "0.2 s have no tempo")
	// Free time: hits at random moments have no steady beat to be sure of.
	r := rand.New(rand.NewPCG(3, 4))
	free := audio.New(44100, 1, 44100*20)
	for range 60 {
		at := r.IntN(44100 * 19)
		for i := range 8000 {
			free.Channels[0][at+i] += float32(0.4 * math.Sin(2*math.Pi*60*float64(i)/44100) * math.Exp(-float64(i)/3000))
		}
	}
	if a = hear(t, free); a.Tempo != nil {
		assert.Less(t, *a.Confidence, 0.9, "no beat to be sure of")
	}
}

// Practice: loops are cut exactly on their first hit.
func TestALoopCutOnItsFirstHit(t *testing.T) {
	b, tr, err := truth.Load("../../fixtures/gm", "driving-140")
	require.NoError(t, err)
	first := int((tr.Hits[0].Time + 0.004) * float64(b.Rate)) // hard on it
	cut := b.Slice(first, b.Frames())
	a := hear(t, cut)
	require.NotEmpty(t, a.Hits)
	assert.Less(t, a.Hits[0].Time, 0.006)
	kick := false
	for _, h := range a.Hits {
		kick = kick || (h.Family == sound.Kick && h.Time < 0.01)
	}
	assert.True(t, kick, "the first kick is there")
	assert.InDelta(t, 0, a.Downbeats[0], 0.02, "and starts bar one")
}

func TestProgressAndCancel(t *testing.T) {
	b, _, err := truth.Load("../../fixtures/gm", "funk-102")
	require.NoError(t, err)
	last := -1.0
	stages := map[string]bool{}
	_, err = transcribe.Analyze(context.Background(), b, func(stage string, done float64) {
		assert.GreaterOrEqual(t, done, last, stage)
		last = done
		stages[stage] = true
	})
	require.NoError(t, err)
	assert.Equal(t, 1.0, last)
	assert.Greater(t, len(stages), 5)
	ctx, cancel := context.WithCancel(context.Background())
	_, err = transcribe.Analyze(ctx, b, func(stage string, done float64) {
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

func TestFollowShowsMoreAndMore(t *testing.T) {
	b, _, err := truth.Load("../../fixtures/gm", "lazy-88")
	require.NoError(t, err)
	var shown []transcribe.Raw
	seconds := b.Seconds() // the recording is used up
	raw, err := transcribe.Follow(context.Background(), b, silent, func(r transcribe.Raw) { shown = append(shown, r) })
	require.NoError(t, err)
	require.Len(t, shown, 5)
	assert.InDelta(t, seconds, shown[0].Duration, 1e-9)
	assert.Empty(t, shown[0].Bands)
	assert.NotEmpty(t, shown[1].Bands)
	assert.Empty(t, shown[1].Hits)
	assert.InDelta(t, len(raw.Hits), len(shown[2].Hits), 3, "about where they fall")
	require.Len(t, shown[3].Hits, len(raw.Hits))
	for i, h := range shown[3].Hits {
		assert.Equal(t, []any{raw.Hits[i].Time, raw.Hits[i].Family, raw.Hits[i].Velocity}, []any{h.Time, h.Family, h.Velocity}, "at their exact times")
	}
	assert.Nil(t, shown[3].Grid)
	assert.Equal(t, raw.Grid.Beats, shown[4].Grid.Beats)
	assert.NotNil(t, raw.Level.Integrated)
	// Each is good to look at as it is.
	for _, r := range shown {
		assert.NotNil(t, transcribe.Finish(&r, nil).Facts)
	}
	assert.Equal(t, raw.Grid.Beats, shown[4].Grid.Beats, "and looking changes nothing")
}

func TestMIDIReference(t *testing.T) {
	var buf bytes.Buffer
	require.NoError(t, format.WriteMIDI(&buf, performance(), "x"))
	p, err := format.ReadMIDI(&buf)
	require.NoError(t, err)
	a := transcribe.Finish(transcribe.FromPerformance(p), nil)
	assert.InDelta(t, 100, *a.Tempo, 1e-6)
	assert.InDelta(t, 60, *a.Feel.Swing, 1e-6)
	assert.InDelta(t, 10, *a.Feel.Voices["snare"].Lean, 1e-6)
	assert.InDelta(t, 0, *a.Feel.Voices["hat_closed"].Lean, 1e-6)
	assert.Equal(t, 1, *a.CycleBars)
	assert.Len(t, a.Hits, 8*20, "the bass on channel 1 is no drum")
	assert.InDelta(t, 4, a.Groove.Density[sound.HatClosed], 0.2)
}

func TestCorrections(t *testing.T) {
	raw := transcribe.FromPerformance(performance())
	plain := transcribe.Finish(raw, nil)
	check := func(c ...transcribe.Correction) *transcribe.Analysis {
		for i := range c {
			require.NoError(t, c[i].Validate())
		}
		return transcribe.Finish(raw, c)
	}
	assert.InDelta(t, 200, *check(transcribe.Correction{Kind: "double"}).Tempo, 1e-6)
	assert.InDelta(t, 50, *check(transcribe.Correction{Kind: "halve"}).Tempo, 1e-6)
	assert.InDelta(t, 100, *check(transcribe.Correction{Kind: "double"}, transcribe.Correction{Kind: "halve"}).Tempo, 1e-6)
	moved := check(transcribe.Correction{Kind: "bar_one", Beats: 1})
	assert.InDelta(t, plain.Downbeats[0]+0.6, moved.Downbeats[0], 1e-6)
	first := plain.Hits[0]
	dropped := check(transcribe.Correction{Kind: "delete", Hit: first.ID})
	assert.Len(t, dropped.Hits, len(plain.Hits)-1)
	filed := check(transcribe.Correction{Kind: "refile", Hit: first.ID, Family: sound.Clap})
	assert.Equal(t, sound.Clap, filed.Hits[0].Family)
	added := check(transcribe.Correction{Kind: "add", Time: 1.5, Family: sound.Rim, Velocity: 70})
	assert.Len(t, added.Hits, len(plain.Hits)+1)
	assert.Len(t, raw.Hits, len(plain.Hits), "what was heard stays as it was")
	assert.Equal(t, plain, transcribe.Finish(raw, nil), "and can be finished again")
	later := check(transcribe.Correction{Kind: "move", Hit: first.ID, Time: 0.02}, transcribe.Correction{Kind: "weigh", Hit: first.ID, Velocity: 33})
	assert.Equal(t, 33, later.Hits[1].Velocity)
	assert.InDelta(t, 0.02, later.Hits[1].Time, 1e-9)
	waltz := check(transcribe.Correction{Kind: "meter", Text: "3/4"})
	assert.Equal(t, "3/4", waltz.Meter)
	assert.InDelta(t, 1.8, waltz.Downbeats[1]-waltz.Downbeats[0], 1e-6)
	eighths := check(transcribe.Correction{Kind: "meter", Text: "6/8"})
	assert.InDelta(t, 100, *eighths.Tempo, 1e-6, "the quarter note keeps its tempo")
	assert.InDelta(t, 1.8, eighths.Downbeats[1]-eighths.Downbeats[0], 1e-6)
	assert.InDelta(t, 60, *eighths.Feel.Swing, 1e-6, "and the sixteenths their swing")
	assert.Equal(t, plain.Meter, check(transcribe.Correction{Kind: "meter", Text: "6/8"}, transcribe.Correction{Kind: "meter", Text: "4/4"}).Meter)
	unsure := *raw
	unsure.Confidence = 0.4
	assert.Contains(t, transcribe.Finish(&unsure, nil).Facts[0].Text, "a guess, about 40 % likely to be right")
	said := transcribe.Finish(&unsure, []transcribe.Correction{{Kind: "halve"}})
	assert.InDelta(t, 1, *said.Confidence, 0, "who sets a beat is sure of it")
	assert.NotContains(t, said.Facts[0].Text, "guess")
	assert.InDelta(t, 0.4, *transcribe.Finish(&unsure, []transcribe.Correction{{Kind: "grid", Text: "triplet"}}).Confidence, 0)
	typed := check(transcribe.Correction{Kind: "tempo", Value: 66})
	assert.InDelta(t, 66, *typed.Tempo, 0.7)
	assert.InDelta(t, plain.Downbeats[0], typed.Downbeats[0], 0.01, "bar one stays")
	assert.InDelta(t, 100, *check(transcribe.Correction{Kind: "tapped", Value: 99.5}).Tempo, 0.01, "drawn to the hits nearby")
	assert.InDelta(t, 99.5, *check(transcribe.Correction{Kind: "tempo", Value: 99.5}).Tempo, 1e-6, "kept as typed")
	triplets := check(transcribe.Correction{Kind: "grid", Text: "triplet"})
	assert.Equal(t, 3, triplets.Steps)
	assert.Equal(t, 12, triplets.Feel.Grid)
	half := check(transcribe.Correction{Kind: "leave_out", Time: 0, Until: 9.59})
	assert.Len(t, half.Hits, len(plain.Hits), "what is left out is still shown")
	assert.Equal(t, plain.Feel.Voices["kick"].Count/2, half.Feel.Voices["kick"].Count, "but does not count")
	assert.Equal(t, plain.Feel.Voices["kick"].Count, check(transcribe.Correction{Kind: "leave_out", Time: 0, Until: 9.59}, transcribe.Correction{Kind: "take_in", Time: 3}).Feel.Voices["kick"].Count)
	mapped := check(transcribe.Correction{Kind: "map", Key: 42, Family: sound.Shaker})
	assert.Equal(t, plain.Feel.Voices["hat_closed"].Count, mapped.Feel.Voices["shaker"].Count, "every hit of the key is filed anew")
	assert.NotContains(t, mapped.Feel.Voices, "hat_closed")
	pushed := check(transcribe.Correction{Kind: "beat", Beats: 8, Time: plain.Beats[8] + 0.05})
	assert.Greater(t, pushed.Beats[8]-plain.Beats[8], 0.03)
	assert.Equal(t, plain.Downbeats[1], check(transcribe.Correction{Kind: "bar_one_at", Time: 2.5}).Downbeats[1])
	for _, bad := range []transcribe.Correction{{Kind: "wish"}, {Kind: "add", Time: -1, Family: sound.Kick, Velocity: 5}, {Kind: "refile", Family: "spoon"},
		{Kind: "bar_one", Beats: 99}, {Kind: "tempo", Value: math.NaN()}, {Kind: "meter", Text: "17/3"}, {Kind: "grid"}, {Kind: "weigh", Velocity: 200},
		{Kind: "leave_out", Time: 3, Until: 2}, {Kind: "move", Time: -2}, {Kind: "beat", Beats: -1}, {Kind: "map", Key: 200, Family: sound.Kick}} {
		assert.Error(t, bad.Validate(), bad.Kind)
	}
}

// Derivation: at 100 BPM a tick of 1/480 is 1.25 ms. Backbeats are 10 ms late,
// the ghost notes between the eighths are not, nor is the kick there.
func TestWhatLeansOnFirstStepsAloneIsSaid(t *testing.T) {
	p := performance()
	p.Notes = nil
	strike := func(key, bar, step, late, velocity int) {
		p.Notes = append(p.Notes, format.MIDINote{Tick: bar*1920 + step*120 + late, Length: 10, Channel: 9, Key: key, Velocity: velocity})
	}
	for bar := range 8 {
		strike(38, bar, 4, 8, 110)
		strike(38, bar, 12, 8, 110)
		strike(38, bar, 7, 0, 40)
		for _, step := range []int{0, 3, 8, 11} {
			strike(36, bar, step, 0, 110)
		}
	}
	a := transcribe.Finish(transcribe.FromPerformance(p), nil)
	assert.InDelta(t, 50, *a.Feel.Swing, 0.3)
	text, between := "", 0
	for _, f := range a.Facts {
		text += f.Text + " "
		if f.ID == "between" {
			between++
			assert.Equal(t, sound.Snare, f.Family, "of the kick there is nothing to say there")
			assert.InDelta(t, 0, *f.Value, 0.5)
			assert.Equal(t, 8, f.Count)
		}
	}
	assert.Equal(t, 1, between)
	assert.Contains(t, text, "Sixteenths are straight.")
	assert.Contains(t, text, "Snare 10 ms late, but on time and soft between the eighths.")
	assert.NotContains(t, text, "Kick on time")
	assert.NotContains(t, text, "rush")
}

// Derivation: at 100 BPM a sixteenth triplet is 80 of 480 ticks and 100 ms, a
// thirty-second 60. The strokes between steps are no ghosts and say nothing of
// the feel by step.
func TestRollsAreSaid(t *testing.T) {
	p := performance()
	p.Notes = nil
	strike := func(key, tick, velocity int) {
		p.Notes = append(p.Notes, format.MIDINote{Tick: tick, Length: 10, Channel: 9, Key: key, Velocity: velocity})
	}
	for bar := range 8 {
		at := bar * 1920
		strike(36, at, 110)
		strike(38, at+960, 110)
		for step := range 12 {
			strike(42, at+step*120, 90)
		}
		each := 80
		if bar%2 == 1 {
			each = 60
		}
		for k := range 480 / each {
			strike(42, at+1440+k*each, 90-5*k)
		}
	}
	a := transcribe.Finish(transcribe.FromPerformance(p), nil)
	require.Len(t, a.Rolls, 8)
	first := a.Rolls[0]
	assert.Equal(t, 6, first.PerQuarter)
	assert.Len(t, first.Hits, 6+1, "up to the next bar's first")
	assert.InDelta(t, 1.8, first.From, 1e-6)
	assert.InDelta(t, 2.4, first.To, 1e-6)
	assert.InDelta(t, -30, first.Rise, 1e-6, "from 90 to 65, then an accent")
	within := map[int]int{}
	for _, h := range a.Hits {
		within[h.Within]++
		assert.InDelta(t, 0, *h.Offset, 1e-6)
	}
	assert.Equal(t, map[int]int{0: len(a.Hits) - 4*4 - 4*4, 80: 8, 160: 8, 120: 16}, within)
	assert.InDelta(t, 0, *a.Feel.Voices["hat_closed"].Scatter, 1e-6)
	for _, s := range a.ByStep {
		assert.LessOrEqual(t, s.Count, 8, "%s at step %d", s.Family, s.Step)
	}
	text := ""
	for _, f := range a.Facts {
		text += f.Text + " "
	}
	assert.Contains(t, text, "Closed hat has 8 rolls in sixteenth triplets and thirty-seconds, falling.")
	kept := transcribe.Finish(transcribe.FromPerformance(p), []transcribe.Correction{{Kind: "leave_out", Time: 0, Until: 2.5}})
	assert.Len(t, kept.Rolls, 7)
}

func TestFlamsAreSaid(t *testing.T) {
	p := performance()
	for bar := range 8 {
		for _, step := range []int{4, 12} { // 24 ticks, 30 ms before the backbeats
			p.Notes = append(p.Notes, format.MIDINote{Tick: bar*1920 + step*120 + 8 - 24, Length: 10, Channel: 9, Key: 38, Velocity: 45})
		}
	}
	a, plain := transcribe.Finish(transcribe.FromPerformance(p), nil), transcribe.Finish(transcribe.FromPerformance(performance()), nil)
	text := ""
	for _, f := range a.Facts {
		text += f.Text + " "
	}
	assert.Contains(t, text, "Snare has 16 flams.")
	assert.NotContains(t, text, "ghost")
	assert.Equal(t, plain.Feel.Voices["snare"].Lean, a.Feel.Voices["snare"].Lean)
	assert.Equal(t, plain.ByStep, a.ByStep)
}

func TestFactsAreSentences(t *testing.T) {
	p := performance()
	a := transcribe.Finish(transcribe.FromPerformance(p), nil)
	text := ""
	for _, f := range a.Facts {
		text += f.Text + " "
		if f.ID == "lean" && f.Family == sound.Snare {
			assert.Equal(t, 16, f.Count)
			assert.InDelta(t, 10, *f.Value, 1e-6)
		}
	}
	assert.Contains(t, text, "100.00 BPM in 4/4, steady.")
	assert.Contains(t, text, "The pattern is one bar long; 100 % of it repeats.")
	assert.Contains(t, text, "Sixteenths swing at 60.0 %")
	assert.Contains(t, text, "Snare 10 ms late.")
	// A performance that gets faster says so.
	p.Tempo = nil
	for bar := range 8 {
		p.Tempo = append(p.Tempo, format.MIDITempo{Tick: bar * 1920, Micros: 600000 - 8000*bar})
	}
	a = transcribe.Finish(transcribe.FromPerformance(p), nil)
	assert.Contains(t, a.Facts[0].Text, "getting faster")
}

// Covered hits are few, and their times far less sure than those of others.
func TestCoveredHitsAreTheLeastSure(t *testing.T) {
	b, played, err := truth.Load("../../fixtures/set", "dry-house-119")
	require.NoError(t, err)
	raw, err := transcribe.Analyze(t.Context(), b, silent)
	require.NoError(t, err)
	var sum, n [2]float64
	for _, h := range raw.Hits {
		near := 0.03
		for _, p := range played.Hits {
			if p.Family == h.Family {
				near = math.Min(near, math.Abs(p.Time-h.Time))
			}
		}
		k := 0
		if h.Covered {
			k = 1
		}
		if near < 0.03 {
			sum[k], n[k] = sum[k]+near, n[k]+1
		}
	}
	assert.Greater(t, n[1], 5.0)
	assert.Less(t, n[1], 0.15*n[0])
	assert.Greater(t, sum[1]/n[1], 2*sum[0]/n[0])
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
		if _, err := transcribe.Analyze(context.Background(), long, silent); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(long.Seconds()*float64(b.N)/b.Elapsed().Seconds(), "x-real-time")
}
