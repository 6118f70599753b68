package engine

import (
	"context"
	"fmt"
	"math"
	"slices"
	"testing"
	"time"

	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/sound"
)

// fiveVoices is a busy two-bar groove of five voices with a feel.
func fiveVoices() Song {
	g := groove.Groove{Name: "t", Bars: 2, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 4}
	g.Feel.Swing = 57
	lines := map[string]string{
		"kick": "9..4..8.9.....5.9..5....8.8..4..", "snare": "....9.......8..3....9..3....9...",
		"hat": "8.5.7.5.8.5.7.548.5.7.5.8.5.7.54", "open": "..........................6.....", "808": "9.......9.......9.........8.....",
	}
	for _, v := range []string{"kick", "snare", "hat", "open", "808"} {
		l := g.EnsureLane(v)
		for i, m := range lines[v] {
			if m != '.' {
				l.Hits = append(l.Hits, groove.Hit{ID: l.NewHitID(), Tick: i * 240, Velocity: int(m-'0') * 13})
			}
		}
		g.Feel.Voices[v] = groove.VoiceFeel{Lean: 3, Scatter: 2, VelocityScatter: 3}
	}
	return Song{Kit: sound.DefaultKit(), Groove: g, Tempo: music.Steady(92)}
}

// BenchmarkRender64Bars renders 64 bars of five voices; the metric is how
// many times faster than real time.
func BenchmarkRender64Bars(b *testing.B) {
	song := fiveVoices()
	var seconds float64
	for b.Loop() {
		out, err := Render(context.Background(), song, Bounce{Rate: Rate, Bars: 64, Seamless: true})
		if err != nil {
			b.Fatal(err)
		}
		seconds += out.Mix.Seconds()
	}
	b.ReportMetric(seconds/b.Elapsed().Seconds(), "x-real-time")
}

// BenchmarkBlock is the engine's steady state.
func BenchmarkBlock(b *testing.B) {
	e := New(Rate)
	e.Load(fiveVoices())
	e.Play(0)
	var l, r [256]float64
	b.ReportAllocs()
	for b.Loop() {
		e.Process(l[:], r[:])
	}
}

// largeSong is 64 bars of 16 voices with 8,000 hits and a feel.
func largeSong() Song {
	g := groove.Groove{Name: "t", Bars: 64, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 4}
	g.Feel.Swing = 57
	var kit sound.Kit
	families := []sound.Family{sound.Kick, sound.Snare, sound.HatClosed, sound.Perc}
	for i := range 16 {
		f := families[i%len(families)]
		id := fmt.Sprint("v", i)
		kit.Voices = append(kit.Voices, sound.NewVoice(id, id, f))
		l := g.EnsureLane(id)
		for j := range 500 {
			l.Hits = append(l.Hits, groove.Hit{ID: fmt.Sprint("h", j+1), Tick: j * 480, Velocity: 40 + (i+j)%80})
		}
		g.Feel.Voices[id] = groove.VoiceFeel{Lean: 3, Scatter: 2, VelocityScatter: 3}
	}
	return Song{Kit: kit, Groove: g, Tempo: music.Steady(92)}
}

// BenchmarkSwap8000 is what taking an edited song of 8,000 hits costs on the
// path of the sound, after a while of play.
func BenchmarkSwap8000(b *testing.B) {
	e := New(Rate)
	songs := []Song{largeSong(), largeSong()}
	songs[1].Groove.Lanes[7].Hits[250].Velocity = 3
	e.Load(songs[0])
	e.Play(0)
	var l, r [256]float64
	n := 0
	for range 20 * Rate / 256 {
		e.Process(l[:], r[:])
	}
	b.ReportAllocs()
	for b.Loop() {
		n++
		b.StopTimer()
		e.Process(l[:], r[:])
		ready := Prepare(songs[n%2], Rate, nil)
		b.StartTimer()
		e.Swap(ready)
	}
}

// fullKit is 32 voices of three synthesized layers each.
func fullKit() Song {
	s := Song{Groove: groove.Groove{Name: "t", Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 4}, Tempo: music.Steady(120)}
	families := []sound.Family{sound.Kick, sound.Snare, sound.HatClosed, sound.HatOpen, sound.Bass808, sound.Perc, sound.Clap, sound.Ride}
	for i := range sound.MaxVoices {
		id := fmt.Sprint("v", i)
		v := sound.NewVoice(id, id, families[i%len(families)])
		for j := range 2 {
			v.Layers = append(v.Layers, sound.Synthesized(fmt.Sprint("l", j), "l", sound.DefaultRecipe(families[(i+j+1)%len(families)])))
		}
		s.Kit.Voices = append(s.Kit.Voices, v)
		s.Groove.EnsureLane(id)
	}
	return s
}

// BenchmarkVoices32x3 renders 32 voices of three synthesized layers, struck anew
// every 100 ms so that all sound at once; the metric is how many times faster
// than real time.
func BenchmarkVoices32x3(b *testing.B) {
	e := New(Rate)
	s := fullKit()
	e.Load(s)
	var l, r [256]float64
	blocks := 0
	for b.Loop() {
		if blocks%19 == 0 { // 101 ms
			e.silence()
			for i := range s.Kit.Voices {
				e.Trigger(s.Kit.Voices[i].ID, 110, 0)
			}
		}
		e.Process(l[:], r[:])
		blocks++
	}
	b.ReportMetric(float64(blocks)*256/Rate/b.Elapsed().Seconds(), "x-real-time")
}

// BenchmarkWildEdits plays a song of 8,000 hits while edits arrive every few
// blocks, made ready beside it as the live path does; the metrics are the worst
// block and the worst take-up of a song, ms. A block of 256 frames lasts 5.33.
func BenchmarkWildEdits(b *testing.B) {
	e := New(Rate)
	song := largeSong()
	program := Prepare(song, Rate, nil)
	e.Swap(program)
	e.Play(0)
	var l, r [256]float64
	var block, swap time.Duration
	for n := 0; b.Loop(); n++ {
		if n%4 == 0 {
			lane := &song.Groove.Lanes[n/4%len(song.Groove.Lanes)]
			lane.Hits = slices.Clone(lane.Hits)
			lane.Hits[n%len(lane.Hits)].Velocity = 1 + n%127
			song.Tempo = music.Steady(80 + float64(n%60))
			program = Prepare(song, Rate, program)
			began := time.Now()
			e.Swap(program)
			swap = max(swap, time.Since(began))
		}
		began := time.Now()
		e.Process(l[:], r[:])
		block = max(block, time.Since(began))
	}
	b.ReportMetric(block.Seconds()*1000, "worst-block-ms")
	b.ReportMetric(swap.Seconds()*1000, "worst-swap-ms")
}

// BenchmarkMix16 plays 16 rows of 4 effects over 3 buses and 2 reverbs; the metric is how
// many times faster than real time on one core. Recorded rows strike recordings, so that
// nearly all of it is the mix.
func BenchmarkMix16(b *testing.B) {
	for _, recorded := range []bool{false, true} {
		b.Run(map[bool]string{false: "synthesized", true: "recorded"}[recorded], func(b *testing.B) { benchmarkMix16(b, recorded) })
	}
}

// mix16 is 16 rows of 4 effects over 3 buses and 2 reverbs.
func mix16(recorded bool) Song {
	s := mixed()
	kit := sound.Kit{}
	s.Groove.Lanes = nil
	for i := range 16 {
		v := sound.NewVoice(fmt.Sprintf("v%d", i), fmt.Sprintf("V %d", i), sound.Families[i%len(sound.Families)])
		v.Chain = []effect.Effect{testEffect("equalizer", map[string]float64{"band1.shape": 4, "band1.hz": 60, "band2.gain_db": 2, "band3.gain_db": -2}), testEffect("compressor", nil), testEffect("drive", nil), testEffect("gate", map[string]float64{"threshold_db": -60})}
		v.To = []string{"drums", "tops", "lows"}[i%3]
		v.Sends = []mixer.Send{{To: []string{"room", "hall"}[i%2], Level: -12, Low: 20, High: 20000}}
		if recorded {
			sounds, samples := clicker(v.ID)
			x := make([]float32, Rate/2)
			for i := range x {
				x[i] = float32(0.5 * math.Sin(float64(i)/20) * math.Exp(-float64(i)/6000))
			}
			samples["click"].X[0] = x
			v.Layers, s.Samples = sounds.Layers, samples
		}
		kit.Voices = append(kit.Voices, v)
		l := s.Groove.EnsureLane(v.ID)
		for k := range 16 {
			if (k+i)%3 == 0 {
				l.Hits = append(l.Hits, groove.Hit{ID: fmt.Sprint(k), Tick: k * 240, Velocity: 100})
			}
		}
	}
	s.Kit = kit
	bus := func(id string, chain ...effect.Effect) mixer.Bus {
		return mixer.Bus{ID: id, Name: id, Row: mixer.Row{Chain: chain}}
	}
	s.Mix.Buses = []mixer.Bus{bus("drums", testEffect("compressor", nil)), bus("tops", testEffect("equalizer", map[string]float64{"band7.gain_db": 2})), bus("lows"), bus("room", testEffect("reverb", map[string]float64{"mix_percent": 100})), bus("hall", testEffect("reverb", map[string]float64{"decay_ms": 2000, "mix_percent": 100}))}
	s.Mix.Out.Chain = []effect.Effect{testEffect("ceiling", nil)}
	return s
}

func benchmarkMix16(b *testing.B, recorded bool) {
	e := New(Rate)
	e.Load(mix16(recorded))
	e.Play(0)
	var l, r [MaxBlock]float64
	for range 300 {
		e.Process(l[:], r[:])
	}
	b.ReportAllocs()
	b.ResetTimer()
	for range b.N {
		e.Process(l[:], r[:])
	}
	b.ReportMetric(float64(b.N)*MaxBlock/Rate/b.Elapsed().Seconds(), "x_real_time")
}
