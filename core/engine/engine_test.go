package engine

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"math"
	"os"
	"runtime"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
)

func render(t *testing.T, s Song, b Bounce) *Rendered {
	t.Helper()
	out, err := Render(context.Background(), s, b)
	require.NoError(t, err)
	return out
}

func hash(b *audio.Buffer) string {
	h := sha256.New()
	for _, ch := range b.Channels {
		_ = binary.Write(h, binary.LittleEndian, ch)
	}
	return hex.EncodeToString(h.Sum(nil))
}

func TestSameSeedSameBytes(t *testing.T) {
	b := Bounce{Rate: Rate, Bars: 4, Seamless: true}
	first := hash(render(t, fiveVoices(), b).Mix)
	assert.Equal(t, first, hash(render(t, fiveVoices(), b).Mix))
	other := fiveVoices()
	other.Groove.Seed++
	assert.NotEqual(t, first, hash(render(t, other, b).Mix))
}

// The golden render: by hash on the machine kind that made it, by its
// figures elsewhere. JUBRAK_GOLDEN=write renews it after a wanted change.
func TestGoldenRender(t *testing.T) {
	mix := render(t, fiveVoices(), Bounce{Rate: Rate, Bars: 2, Seamless: true}).Mix
	var sum float64
	for _, v := range mix.Mono() {
		sum += v * v
	}
	got := hash(mix)
	if os.Getenv("JUBRAK_GOLDEN") == "write" {
		require.NoError(t, os.WriteFile("testdata/golden.sha256", []byte(got+"\n"), 0o644))
	}
	want, err := os.ReadFile("testdata/golden.sha256")
	require.NoError(t, err)
	if runtime.GOARCH == "amd64" {
		assert.Equal(t, strings.TrimSpace(string(want)), got, "the sound changed; if that is wanted, renew the golden render")
	}
	assert.InDelta(t, -21.7, 10*math.Log10(sum/float64(mix.Frames())), 0.5, "RMS in dBFS")
}

func TestStemsAddUpToTheMix(t *testing.T) {
	out := render(t, fiveVoices(), Bounce{Rate: Rate, Seamless: true, Stems: true})
	require.Len(t, out.Stems, 5)
	for c := range 2 {
		for i, v := range out.Mix.Channels[c] {
			var sum float32
			for _, s := range out.Stems {
				sum += s.Channels[c][i]
			}
			if math.Abs(float64(sum-v)) > 1e-6 {
				t.Fatalf("channel %d frame %d: stems %g, mix %g", c, i, sum, v)
			}
		}
	}
}

func TestBlockSizeDoesNotMatter(t *testing.T) {
	run := func(sizes ...int) []float64 {
		e := New(Rate)
		e.Load(fiveVoices())
		e.Play(0)
		var out []float64
		for i := 0; len(out) < Rate; i++ {
			n := sizes[i%len(sizes)]
			l, r := make([]float64, n), make([]float64, n)
			e.Process(l, r)
			out = append(out, l...)
		}
		return out[:Rate]
	}
	assert.Equal(t, run(512), run(64, 17, 300))
}

func one(voice string, ticks ...int) Song {
	s := fiveVoices()
	s.Groove.Feel = groove.Straight()
	for i := range s.Groove.Lanes {
		s.Groove.Lanes[i].Hits = nil
	}
	s.add(voice, ticks...)
	return s
}

func (s *Song) add(voice string, ticks ...int) {
	l := s.Groove.EnsureLane(voice)
	for _, t := range ticks {
		l.Hits = append(l.Hits, groove.Hit{ID: l.NewHitID(), Tick: t, Velocity: 110})
	}
}

func level(b *audio.Buffer, from, to float64) float64 {
	part := b.Slice(int(from*Rate), int(to*Rate))
	var sum float64
	for _, v := range part.Mono() {
		sum += v * v
	}
	return 10 * math.Log10(sum/float64(part.Frames())+1e-20)
}

func TestClosedHatCutsOpenHat(t *testing.T) {
	s := one("open", 0)
	alone := render(t, s, Bounce{Rate: Rate, Bars: 1, Stems: true}).Stems[3]
	s.add("hat", 240) // 163 ms later at 92 BPM
	cut := render(t, s, Bounce{Rate: Rate, Bars: 1, Stems: true}).Stems[3]
	assert.InDelta(t, level(alone, 0, 0.16), level(cut, 0, 0.16), 0.01)
	assert.Less(t, level(cut, 0.17, 0.3), level(alone, 0.17, 0.3)-60)
}

func Test808PlaysOneNoteAtATime(t *testing.T) {
	s := one("808", 0)
	s.Groove.EnsureLane("808").Hits = append(s.Groove.EnsureLane("808").Hits, groove.Hit{ID: "x", Tick: 480, Velocity: 110, Semitones: 12})
	first, second := one("808", 0), one("808")
	second.Groove.EnsureLane("808").Hits = []groove.Hit{{ID: "x", Tick: 480, Velocity: 110, Semitones: 12}}
	both := render(t, s, Bounce{Rate: Rate, Bars: 1}).Mix
	later := render(t, second, Bounce{Rate: Rate, Bars: 1}).Mix
	assert.Greater(t, level(render(t, first, Bounce{Rate: Rate, Bars: 1}).Mix, 0.4, 0.6), -40.0, "the first note is long")
	for i := int(0.35 * Rate); i < int(0.6*Rate); i++ {
		require.InDelta(t, later.Channels[0][i], both.Channels[0][i], 1e-3, "only the new note sounds at frame %d", i)
	}
}

func TestHitsFallWhereTheGrooveSays(t *testing.T) {
	s := one("kick", 0, 960, 1920, 2880)
	s.Groove.Feel.Voices["kick"] = groove.VoiceFeel{Lean: 12}
	mix := render(t, s, Bounce{Rate: Rate, Bars: 1}).Mix
	for beat := range 4 {
		at := int(math.Round((float64(beat)*60/92 + 0.012) * Rate))
		before, after := mix.Slice(at-40, at-1).Peak(), mix.Slice(at, at+40).Peak()
		assert.Greater(t, after, before+0.01, "beat %d", beat)
	}
}

func TestSeamlessLoopCarriesTheTail(t *testing.T) {
	s := one("808", 2*3840-240) // the last sixteenth of two bars
	loop := render(t, s, Bounce{Rate: Rate, Seamless: true}).Mix
	assert.Greater(t, level(loop, 0, 0.2), -40.0, "the tail of the last hit is at the start")
	dry := render(t, s, Bounce{Rate: Rate}).Mix
	assert.Less(t, level(dry, 0, 0.2), -100.0)
	assert.Greater(t, dry.Frames(), loop.Frames(), "the last hit dies away")
	early := one("kick", 0)
	early.Groove.Feel.Voices["kick"] = groove.VoiceFeel{Lean: -20}
	m := render(t, early, Bounce{Rate: Rate, Seamless: true}).Mix
	assert.Greater(t, level(m, m.Seconds()-0.019, m.Seconds()), -40.0, "an early first hit comes before the loop's end")
}

// A looping line plays the same every time round, frame by frame, from the
// first one on: what is before it, tails and early hits, is its own end.
func TestALoopIsItsOwnNextPass(t *testing.T) {
	s := fiveVoices()
	for v, f := range s.Groove.Feel.Voices {
		f.Scatter, f.Lean = 9, -14
		s.Groove.Feel.Voices[v] = f
	}
	for _, tempo := range []music.TempoMap{music.Steady(93.7), {{Tick: 0, BPM: 93.7}, {Tick: 2000, BPM: 141.3}}} {
		s.Tempo = tempo
		e := New(Rate)
		e.Swap(prepare(s, e.rate, s.Groove.CycleTicks(), nil))
		require.NoError(t, e.playInto(context.Background()))
		pass := func() (out []float64) {
			l, r := make([]float64, MaxBlock), make([]float64, MaxBlock)
			for n := int(e.loopFrames); n > 0; n -= MaxBlock {
				e.Process(l[:min(n, MaxBlock)], r[:min(n, MaxBlock)])
				out = append(out, l[:min(n, MaxBlock)]...)
			}
			return out
		}
		first := pass()
		assert.Equal(t, first, pass())
	}
}

// Strokes fall on the frame that the model says, whatever the feel and however
// early, and none is lost or doubled by edits at random moments.
func TestEveryStrokeFallsOnItsFrame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := one("kick")
		g := &s.Groove
		lean := rapid.Float64Range(-100, 100).Draw(t, "lean")
		for _, v := range []string{"kick", "hat"} {
			l := g.EnsureLane(v)
			l.Hits = nil
			for _, step := range rapid.SliceOfNDistinct(rapid.IntRange(0, 31), 1, 12, rapid.ID[int]).Draw(t, v) {
				l.Hits = append(l.Hits, groove.Hit{ID: l.NewHitID(), Tick: step * 240, Velocity: 100, Nudge: rapid.Float64Range(-200, 200).Draw(t, "nudge")})
			}
			l.Sort()
			g.Feel.Voices[v] = groove.VoiceFeel{Lean: lean, Scatter: rapid.Float64Range(0, 50).Draw(t, "scatter"), Contour: []float64{0, -60, 60}}
		}
		g.Feel.Swing = rapid.Float64Range(50, 75).Draw(t, "swing")
		g.Feel.Drift = groove.Drift{Curve: []float64{-80, 90}, Voices: []string{"kick"}}
		s.Tempo = music.Steady(rapid.Float64Range(30, 300).Draw(t, "bpm"))
		if rapid.Bool().Draw(t, "two tempos") {
			s.Tempo = append(s.Tempo, music.TempoChange{Tick: 3000, BPM: rapid.Float64Range(30, 300).Draw(t, "second")})
		}
		start := rapid.IntRange(0, 31).Draw(t, "start") * 240
		until := start + 2*g.CycleTicks() + 600
		line := groove.NewLine(g, s.Tempo, 0)
		want := map[stroke]int64{}
		begin := int64(math.Round(line.Seconds(float64(start)) * Rate))
		e := New(Rate)
		e.Load(s)
		for _, ev := range line.Events(start, until, nil) {
			want[e.strokeOf(&ev)] = max(int64(math.Round(ev.Time*Rate)), begin)
		}
		edits := rapid.Bool().Draw(t, "edits")
		program := Prepare(s, Rate, nil)
		others := map[uint64]bool{}
		for step := range 32 {
			others[dsp.Key(dsp.KeyString("open"), dsp.KeyString(fmt.Sprint("o", step)))] = true
		}
		got := map[stroke]int64{}
		e.Play(float64(start))
		var l, r [MaxBlock]float64
		for line.Ticks(float64(e.frame)/Rate) < float64(until)+line.Ticks(1.5) {
			before, from := e.firedCount, e.frame
			n := rapid.IntRange(1, MaxBlock).Draw(t, "block")
			if n < 64 {
				n = MaxBlock
			}
			if edits { // of all that does not move these strokes
				i := rapid.IntRange(0, len(s.Kit.Voices)-1).Draw(t, "voice")
				s.Kit.Voices = slices.Clone(s.Kit.Voices)
				s.Kit.Voices[i].Level = rapid.Float64Range(-40, 12).Draw(t, "level")
				g.Lanes = slices.Clone(g.Lanes)
				open := g.EnsureLane("open")
				open.Hits = nil
				for _, step := range rapid.SliceOfNDistinct(rapid.IntRange(0, 31), 0, 6, rapid.ID[int]).Draw(t, "others") {
					open.Hits = append(open.Hits, groove.Hit{ID: fmt.Sprint("o", step), Tick: step * 240, Velocity: 80})
				}
				open.Sort()
				program = Prepare(s, Rate, program)
				e.Swap(program)
			}
			e.Process(l[:n], r[:n])
			for i := before; i < e.firedCount; i++ {
				f := e.fired[i%len(e.fired)]
				if others[f.hit] {
					continue
				}
				_, twice := got[f]
				require.False(t, twice, "stroke %v is doubled", f)
				got[f] = from
				if at, ok := want[f]; ok {
					require.True(t, at >= from && at < e.frame, "stroke at %d in block %d to %d", at, from, e.frame)
				}
			}
		}
		for f := range want {
			_, ok := got[f]
			require.True(t, ok, "stroke %v is lost", f)
		}
	})
}

// Edits that move strokes about while they are due, also over the line where
// the loop begins anew.
func TestEditsAtTheLoopsEnd(t *testing.T) {
	for from := range 40 {
		s := one("kick", 0, 960, 1920, 2880, 3840, 4800, 5760, 6720)
		e := New(Rate)
		e.Load(s)
		e.Play(0)
		var l, r [256]float64
		lean := 0.0
		for block := 0; e.now() < 2*7680-300; block++ {
			if near := math.Mod(e.now()+400, 7680); near < 800 && (block+from)%3 == 0 {
				lean = []float64{-30, 40, 0, -90, 90}[(block+from)%5]
				s.Groove.Feel.Voices = map[string]groove.VoiceFeel{"kick": {Lean: lean}}
				e.Load(s)
			}
			e.Process(l[:], r[:])
		}
		s.Groove.Feel.Voices = nil
		e.Load(s)
		for range 30 {
			e.Process(l[:], r[:])
		}
		assert.Equal(t, uint64(16), e.born, "round %d", from)
	}
}

// A first stroke that is early is heard at the start, from wherever playing
// begins, and so are hits that are earlier than any look-ahead of old.
func TestEarlyFirstStrokes(t *testing.T) {
	s := one("kick", 0, 960)
	s.Groove.Feel.Voices["kick"] = groove.VoiceFeel{Lean: -100, Contour: []float64{-100}}
	for i := range s.Groove.Lanes[0].Hits {
		s.Groove.Lanes[0].Hits[i].Nudge = -200
	}
	s.Tempo = music.Steady(240)
	for _, from := range []float64{0, 960} {
		e := New(Rate)
		e.Load(s)
		e.Play(from)
		var l, r [256]float64
		e.Load(s)
		e.Process(l[:], r[:])
		assert.Equal(t, uint64(2)-uint64(from/960), e.born, "from %v", from)
	}
}

func TestEditWhilePlayingNeitherDoublesNorLoses(t *testing.T) {
	s := one("kick", 0, 960, 1920, 2880, 3840, 4800, 5760, 6720)
	e := New(Rate)
	e.Load(s)
	e.Play(0)
	var l, r [256]float64
	before := e.born
	for i := range 60 * Rate / 92 * 8 / 256 { // eight beats
		if i%7 == 0 { // edits all the time
			s.Groove.Feel.Swing = 50 + float64(i%20)
			s.Groove.Feel.Voices = map[string]groove.VoiceFeel{"kick": {Lean: float64(i%5) / 10}}
			e.Load(s)
		}
		e.Process(l[:], r[:])
	}
	assert.Equal(t, uint64(8), e.born-before)
}

func TestTempoChangeKeepsThePlace(t *testing.T) {
	s := fiveVoices()
	e := New(Rate)
	e.Load(s)
	e.Play(1000)
	assert.InDelta(t, 1000, e.Position(), 0.1)
	s.Tempo = music.Steady(140)
	e.Load(s)
	assert.InDelta(t, 1000, e.Position(), 0.1)
	var l, r [MaxBlock]float64
	for range 10 {
		e.Process(l[:], r[:])
	}
	assert.InDelta(t, 1000+10*512.0/Rate*140*960/60, e.Position(), 0.2)
}

func TestRemovedVoiceFallsSilent(t *testing.T) {
	s := one("808", 0)
	e := New(Rate)
	e.Load(s)
	e.Play(0)
	var l, r [MaxBlock]float64
	e.Process(l[:], r[:])
	s.Kit = sound.Kit{Voices: s.Kit.Voices[:4]}
	e.Load(s)
	e.Process(l[:], r[:])
	assert.Equal(t, [MaxBlock]float64{}, l)
}

func TestSteadyStateDoesNotAllocate(t *testing.T) {
	m := NewMonitor(Rate)
	m.Engine.Load(fiveVoices())
	m.SetTrack(&Track{Audio: audio.New(Rate, 1, 10*Rate), Grid: groove.SteadyGrid(0, 92, 17, 4), To: 16}, 1)
	m.SetSource(Both)
	m.Play(0, 0)
	var l, r [256]float32
	for range 4000 { // several cycles: queues have reached their size
		m.Process(l[:], r[:])
	}
	assert.Zero(t, testing.AllocsPerRun(4000, func() { m.Process(l[:], r[:]) }))
}

func TestMonitorSwitchesAndFollows(t *testing.T) {
	m := NewMonitor(Rate)
	s := one("kick")
	m.Engine.Load(s)
	track := &Track{Audio: audio.New(Rate, 1, 12*Rate), Grid: groove.SteadyGrid(0.5, 92, 17, 4), To: 16}
	for i := range track.Audio.Channels[0] {
		track.Audio.Channels[0][i] = 0.25
	}
	m.SetTrack(track, 2)
	peak := func() float64 {
		var l, r [256]float32
		for range 20 {
			m.Process(l[:], r[:])
		}
		return float64(l[255])
	}
	m.Play(0, 0)
	assert.InDelta(t, 0.5*Rate, m.read, 1, "bar one of the track")
	assert.InDelta(t, 0, peak(), 1e-3)
	m.SetSource(FromReference)
	assert.InDelta(t, 0.5, peak(), 1e-3, "at matched loudness")
	m.SetSource(Both)
	assert.InDelta(t, 0.5, peak(), 1e-3)
	s.Tempo = music.Steady(93)
	m.Engine.Load(s)
	for range 3000 {
		peak()
		if m.fade > 0 {
			break
		}
	}
	want, _ := m.target()
	assert.InDelta(t, want, m.read, 0.02*Rate, "the track is brought back at a bar line")
	m.Engine.Stop()
	peak()
	assert.InDelta(t, 0, peak(), 1e-3)
}

func TestCancelledRenderStops(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, err := Render(ctx, fiveVoices(), Bounce{Rate: Rate, Bars: 64})
	assert.ErrorIs(t, err, context.Canceled)
}

func TestStudyLoopsInPlaceOfTheGroove(t *testing.T) {
	m := NewMonitor(Rate)
	m.Engine.Load(one("kick", 0))
	m.Play(0, 0)
	study := audio.New(Rate, 1, 1000)
	for i := range study.Channels[0] {
		study.Channels[0][i] = float32(i) / 1000
	}
	_, ok := m.Studied()
	assert.False(t, ok)
	m.SetStudy(study)
	assert.False(t, m.Engine.Playing(), "the groove stops")
	left, right := make([]float32, 256), make([]float32, 256)
	var heard []float32
	for range 12 {
		clear(left)
		clear(right)
		m.Process(left, right)
		heard = append(heard, left...)
		assert.Equal(t, left, right, "one channel is heard on both sides")
	}
	tail := heard[len(heard)-1000:] // what rang on is over
	for i := 1; i < len(tail); i++ {
		step := tail[i] - tail[i-1]
		assert.True(t, math.Abs(float64(step)-0.001) < 1e-4 || step < -0.9, "it runs on, and round, without a gap: %g", step)
	}
	part, ok := m.Studied()
	assert.True(t, ok)
	assert.InDelta(t, float64(12*256%1000)/1000, part, 1e-9)
	m.SetStudy(audio.New(Rate, 2, 4000))
	longer, _ := m.Studied()
	assert.InDelta(t, part, longer, 0.001, "slower, it goes on where it was")
	m.SetStudy(audio.New(Rate, 1, 0))
	_, ok = m.Studied()
	assert.False(t, ok, "nothing cannot be studied")
	m.SetStudy(study)
	m.Play(0, 0)
	_, ok = m.Studied()
	assert.False(t, ok, "playing ends it")
	assert.True(t, m.Engine.Playing())
}

// Voices that an edit left alone are not compiled again, and what sounds goes on
// to the bit.
func TestUnchangedVoicesAreKept(t *testing.T) {
	s := fiveVoices()
	first := Prepare(s, Rate, nil)
	e := New(Rate)
	e.Swap(first)
	e.Play(0)
	plain := New(Rate)
	plain.Load(fiveVoices())
	plain.Play(0)
	var l, r, wl, wr [MaxBlock]float64
	for block := range 200 {
		s.Groove.Lanes = slices.Clone(s.Groove.Lanes)
		next := Prepare(s, Rate, first)
		for i := range next.voices {
			require.Same(t, first.voices[i].ready, next.voices[i].ready)
		}
		e.Swap(next)
		first = next
		e.Process(l[:], r[:])
		plain.Process(wl[:], wr[:])
		require.Equal(t, wl, l, "block %d", block)
		require.Equal(t, wr, r)
	}
	s.Kit.Voices = slices.Clone(s.Kit.Voices)
	s.Kit.Voices[0].Layers = slices.Clone(s.Kit.Voices[0].Layers)
	s.Kit.Voices[0].Layers[0].Pitch = 3
	next := Prepare(s, Rate, first)
	assert.NotSame(t, first.voices[0].ready, next.voices[0].ready)
	assert.Same(t, first.voices[1].ready, next.voices[1].ready)
}

// Whatever the document holds, nothing louder than full scale is heard; the
// meter returns how loud it was made.
func TestNothingIsHeardAboveFullScale(t *testing.T) {
	m := NewMonitor(Rate)
	s := fiveVoices()
	for i := range s.Kit.Voices {
		s.Kit.Voices[i].Level = 12
		s.Kit.Voices[i].Layers[0].Level = 12
	}
	m.Engine.Load(s)
	m.Play(0, 0)
	var l, r [256]float32
	var most, made float64
	held := false
	for range 2000 {
		m.Process(l[:], r[:])
		for i := range l {
			require.False(t, math.IsNaN(float64(l[i]+r[i])))
			most = math.Max(most, math.Max(math.Abs(float64(l[i])), math.Abs(float64(r[i]))))
		}
		left, _ := m.Meter.TakePeak()
		made = math.Max(made, left)
		held = held || m.Held()
	}
	assert.LessOrEqual(t, most, 1.0)
	assert.Greater(t, most, 0.95)
	assert.Greater(t, made, 2.0)
	assert.True(t, held)
}
