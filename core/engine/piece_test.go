package engine

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/arrange"
	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixer"
)

// piece is fiveVoices as an arrangement of sections that play it.
func piece(sections ...arrange.Section) Song {
	s := fiveVoices()
	a := &arrange.Arrangement{Sections: sections}
	a.Tidy()
	s.Piece = &Piece{Arrangement: a, Grooves: map[string]*groove.Groove{"a": &s.Groove}}
	return s
}

func section(bars int) arrange.Section {
	return arrange.Section{ID: "s1", Name: "Lap", Variation: "a", Bars: bars}
}

func bounced(t testing.TB, s Song) *Rendered {
	t.Helper()
	if s.Piece != nil {
		require.NoError(t, s.Piece.Arrangement.Validate(s.Piece.Groove, s.Tempo))
	}
	out, err := Render(context.Background(), s, Bounce{Rate: Rate, Bars: 4, Stems: true})
	require.NoError(t, err)
	return out
}

// peak is the greatest level of a stretch of bars at 92 BPM, 4/4.
func peakOf(b *audio.Buffer, from, to float64) (most float64) {
	bar := 4 * 60.0 / 92 * float64(b.Rate)
	for _, ch := range b.Channels {
		for _, x := range ch[min(int(from*bar), len(ch)):min(int(to*bar), len(ch))] {
			most = max(most, math.Abs(float64(x)))
		}
	}
	return most
}

// apart is the level of the difference of two sounds over frames, dB below full scale.
func apartDB(a, b *audio.Buffer, from, to int) float64 {
	most := 0.0
	for c := range a.Channels {
		for i := from; i < to; i++ {
			most = max(most, math.Abs(float64(a.Channels[c][i])-float64(b.Channels[c][i])))
		}
	}
	return audio.DB(most)
}

// One section sounds as its groove does.
func TestOneSectionIsTheLoop(t *testing.T) {
	loop, whole := bounced(t, fiveVoices()), bounced(t, piece(section(4)))
	n := loop.Mix.Frames()
	assert.InDelta(t, n, whole.Mix.Frames(), 2*MaxBlock)
	assert.Less(t, apartDB(loop.Mix, whole.Mix, 0, n-2*MaxBlock), -300.0)
	two := bounced(t, piece(section(2), arrange.Section{ID: "s2", Name: "Two", Variation: "a", Bars: 2, From: 2}))
	assert.Less(t, apartDB(loop.Mix, two.Mix, 0, n-2*MaxBlock), -300.0, "a section that is split plays as before")
}

func withRoom(s Song) Song {
	s.Kit.Voices[0].Chain = []effect.Effect{effect.New("reverb1", effect.KindOf("reverb"), map[string]float64{"decay_ms": 4000, "mix_percent": 60})}
	return s
}

func TestADropoutIsSilentOrRings(t *testing.T) {
	s := section(4)
	bar := 3840
	s.Dropouts = []arrange.Dropout{{ID: "d", At: 2 * bar, Length: bar, Keeps: []string{}}}
	rings := bounced(t, withRoom(piece(s)))
	assert.Greater(t, peakOf(rings.Mix, 2.05, 2.9), 1e-3, "the kick's reverb is left")
	s.Dropouts[0].Cuts = true
	cut := bounced(t, withRoom(piece(s)))
	assert.Zero(t, peakOf(cut.Mix, 2.01, 2.98))
	assert.Greater(t, peakOf(cut.Mix, 3, 3.1), 0.05)
	assert.Greater(t, peakOf(cut.Mix, 1.9, 2), 1e-3)
	steps := 0.0
	for i := 1; i < cut.Mix.Frames(); i++ {
		if at := float64(i) / (4 * 60.0 / 92 * Rate); at > 1.99 && at < 2.02 || at > 2.95 && at < 2.99 {
			steps = max(steps, math.Abs(float64(cut.Mix.Channels[0][i]-cut.Mix.Channels[0][i-1])))
		}
	}
	assert.Less(t, steps, 0.05, "and closes without a click")
	s.Dropouts[0].Keeps = []string{"hat"}
	hat := bounced(t, withRoom(piece(s)))
	assert.Greater(t, peakOf(hat.Stems[2], 2, 3), 1e-3)
	assert.Zero(t, peakOf(hat.Stems[0], 2.01, 2.98))
}

func TestTailsAreCutWhereASectionEnds(t *testing.T) {
	a, b := section(2), arrange.Section{ID: "s2", Name: "B", Variation: "a", Bars: 2, Rests: []arrange.Rest{{Voice: "kick", From: 0, To: 2 * 3840}}}
	rings := bounced(t, withRoom(piece(a, b)))
	assert.Greater(t, peakOf(rings.Stems[0], 2.05, 2.3), 1e-3)
	a.Cuts = true
	cut := bounced(t, withRoom(piece(a, b)))
	assert.Zero(t, peakOf(cut.Stems[0], 2.01, 4))
	assert.Greater(t, peakOf(cut.Mix, 2, 2.1), 0.01, "what begins there is heard")
}

func TestNumbersOfTheMixAreDrawn(t *testing.T) {
	level := func(points ...mixer.AutomationPoint) arrange.Section {
		s := section(4)
		s.Automation = []mixer.Automation{{At: "kick/level_db", Points: points}}
		return s
	}
	plain := bounced(t, piece(section(4)))
	soft := bounced(t, piece(level(mixer.AutomationPoint{Bar: 0, Value: -30})))
	base := plain.Stems[0]
	at := piece().Kit.Voices[0].Level
	assert.InDelta(t, audio.DB(peakOf(base, 0, 4))-30-at, audio.DB(peakOf(soft.Stems[0], 0, 4)), 0.05)
	rise := bounced(t, piece(level(mixer.AutomationPoint{Bar: 0, Value: -40}, mixer.AutomationPoint{Bar: 4, Value: 0})))
	assert.Less(t, peakOf(rise.Stems[0], 0, 0.2)*8, peakOf(rise.Stems[0], 3, 4))
	// Behind the section that draws it, a number is again what it was.
	after := bounced(t, piece(arrange.Section{ID: "s1", Name: "A", Variation: "a", Bars: 2, Automation: []mixer.Automation{{At: "kick/level_db", Points: []mixer.AutomationPoint{{Bar: 0, Value: -60}}}}}, arrange.Section{ID: "s2", Name: "B", Variation: "a", Bars: 2, From: 2}))
	assert.InDelta(t, peakOf(base, 2.1, 4), peakOf(after.Stems[0], 2.1, 4), 1e-6)
}

func TestNumbersOfASoundAreDrawn(t *testing.T) {
	s := section(4)
	s.Automation = []mixer.Automation{{At: "hat/layers/drum/noise.decay_ms", Points: []mixer.AutomationPoint{{Bar: 0, Value: 20}, {Bar: 4, Value: 400}}}}
	song := piece(s)
	require.NotNil(t, song.Kit.Voice("hat").Number("layers/drum/noise.decay_ms"), "the hat has such a number")
	out := bounced(t, song).Stems[2]
	energy := func(from, to float64) (sum float64) {
		bar := 4 * 60.0 / 92 * Rate
		for _, x := range out.Channels[0][int(from*bar):int(to*bar)] {
			sum += float64(x) * float64(x)
		}
		return sum
	}
	assert.Greater(t, energy(2, 4), 2*energy(0, 2), "the hat opens")
}

// What is played from a bar is, a second on, what a render from the start gives there.
func TestPlayingFromABarJoinsTheWhole(t *testing.T) {
	s := section(8)
	s.Automation = []mixer.Automation{{At: "kick/level_db", Points: []mixer.AutomationPoint{{Bar: 0, Value: -40}, {Bar: 8, Value: 0}}}}
	song := piece(s)
	whole := bounced(t, song)
	e := New(Rate)
	e.Load(song)
	e.Play(4 * 3840)
	from := int(e.frame)
	part := audio.New(Rate, 2, 4*Rate)
	var l, r [MaxBlock]float64
	for at := 0; at < 4*Rate; {
		n := e.Ahead(min(MaxBlock, 4*Rate-at))
		e.Process(l[:n], r[:n])
		narrow(part, at, l[:n], r[:n])
		at += n
	}
	moved := audio.New(Rate, 2, 0)
	for c := range moved.Channels {
		moved.Channels[c] = whole.Mix.Channels[c][from:]
	}
	assert.Less(t, apartDB(part, moved, Rate, 4*Rate), -60.0)
}

// Three semitones up, a tape plays 2^(3/12) times as fast, and what would fold back is gone.
func TestVarispeed(t *testing.T) {
	song := piece(section(2))
	plain := bounced(t, song).Mix
	song.Piece.Arrangement.Speed.Semitones = 3
	fast := bounced(t, song).Mix
	assert.InDelta(t, float64(plain.Frames())/math.Pow(2, 0.25), fast.Frames(), 2)

	// A tone of 1 kHz becomes 1189.2 Hz; one of 23 kHz would fold to 20.6 kHz.
	tone := func(hz float64) *audio.Buffer {
		b := audio.New(Rate, 1, Rate)
		for i := range b.Channels[0] {
			b.Channels[0][i] = float32(math.Sin(2 * math.Pi * hz * float64(i) / Rate))
		}
		return b
	}
	out := Taped(tone(1000), semi(3)).Channels[0]
	crossings := 0
	for i := 1001; i < 39001; i++ {
		if out[i-1] < 0 && out[i] >= 0 {
			crossings++
		}
	}
	assert.InDelta(t, 1000*math.Pow(2, 0.25)*38000/Rate, crossings, 1.5)
	most := 0.0
	for _, x := range Taped(tone(23000), semi(3)).Channels[0][1000:39000] {
		most = max(most, math.Abs(float64(x)))
	}
	assert.Less(t, audio.DB(most), -80.0)

	// Live it is the same as offline.
	m := NewMonitor(Rate)
	m.Engine.Load(song)
	m.Play(0, 0)
	live := audio.New(Rate, 2, Rate)
	var l, r [256]float32
	for at := 0; at+256 <= Rate; at += 256 {
		m.Process(l[:], r[:])
		copy(live.Channels[0][at:], l[:])
		copy(live.Channels[1][at:], r[:])
	}
	late := 0
	for d := range 600 { // the safety limiter looks ahead
		if apartDB(audioFrom(live, d), fast, 2000, 20000) < -50 {
			late = d
			break
		}
	}
	assert.Less(t, apartDB(audioFrom(live, late), fast, 2000, 40000), -50.0)
}

func semi(st float64) float64 { return math.Pow(2, st/12) }

func audioFrom(b *audio.Buffer, from int) *audio.Buffer {
	out := &audio.Buffer{Rate: b.Rate}
	for _, ch := range b.Channels {
		out.Channels = append(out.Channels, ch[from:])
	}
	return out
}

// Live, a piece ends with its last bar, and rings on.
func TestAPieceEnds(t *testing.T) {
	e := New(Rate)
	e.Load(piece(section(1)))
	e.Play(0)
	var l, r [256]float64
	for range 2*Rate/256 + 400 {
		e.Process(l[:], r[:])
	}
	assert.False(t, e.Playing())
}

func BenchmarkPiece(b *testing.B) {
	s := section(64)
	s.Automation = []mixer.Automation{{At: "hat/layers/drum/noise.decay_ms", Points: []mixer.AutomationPoint{{Bar: 0, Value: 20}, {Bar: 64, Value: 400}}}, {At: "kick/level_db", Points: []mixer.AutomationPoint{{Bar: 0, Value: -20}, {Bar: 64, Value: 0}}}}
	song := piece(s)
	for i := range song.Kit.Voices {
		song.Kit.Voices[i].Chain = []effect.Effect{effect.New("equalizer1", effect.KindOf("equalizer"), nil), effect.New("compressor1", effect.KindOf("compressor"), nil)}
	}
	var seconds float64
	for b.Loop() {
		out, err := Render(context.Background(), song, Bounce{Rate: Rate})
		if err != nil {
			b.Fatal(err)
		}
		seconds += out.Mix.Seconds()
	}
	b.ReportMetric(seconds/b.Elapsed().Seconds(), "x-real-time")
}

func BenchmarkPreparePiece(b *testing.B) {
	var sections []arrange.Section
	for i := range 40 {
		s := section(8)
		s.ID = string(rune('a' + i))
		s.Automation = []mixer.Automation{{At: "hat/layers/drum/noise.decay_ms", Points: []mixer.AutomationPoint{{Bar: 0, Value: 20}, {Bar: 8, Value: 400}}}}
		sections = append(sections, s)
	}
	song := piece(sections...)
	var was *Program
	for b.Loop() {
		was = Prepare(song, Rate, was)
	}
}
