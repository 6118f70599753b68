package engine

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
)

// roomy is a snare whose recipe ends in a reverb.
func roomy(decay float64) sound.Voice {
	v := sound.NewVoice("snare", "Snare", sound.Snare)
	r := v.Layers[0].Recipe
	r.Noise.Decay, r.Body.Decay = 60, 60
	r.Modulations, r.Curves = nil, nil
	r.Effects = []effect.Effect{effect.New("room", effect.KindOf("reverb"), map[string]float64{"decay_ms": decay, "mix_percent": 50, "low_cut_hz": 20})}
	return v
}

// struck is a song without hits, for a voice that is struck by hand.
func struck(v sound.Voice) Song {
	return Song{Kit: sound.Kit{Voices: []sound.Voice{v}}, Tempo: music.Steady(120), Groove: groove.Groove{Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight()}}
}

func loudness(x []float64) float64 {
	sum := 0.0
	for _, v := range x {
		sum += v * v
	}
	return 10 * math.Log10(sum/float64(len(x))+1e-20)
}

// A choke fades what a note sends, not what rings: the room goes on, of one voice and into
// the next stroke.
func TestAChokeLeavesTheRoom(t *testing.T) {
	e := New(Rate)
	e.Load(struck(roomy(2000)))
	e.Trigger("snare", 120, 0)
	var out []float64
	var l, r [256]float64
	for i := range 200 {
		if i == 20 { // 0.1 s
			for k := range e.notes {
				e.notes[k].cut()
			}
		}
		e.Process(l[:], r[:])
		out = append(out, l[:]...)
	}
	early, late := loudness(out[6000:9000]), loudness(out[30000:33000])
	assert.Greater(t, early, -70.0)
	assert.InDelta(t, -60*0.5/2, late-early, 3, "it rings by its own decay")
}

// A number of the room that is changed while it rings is followed; a step more rings out.
func TestTailsFollowEdits(t *testing.T) {
	for name, edit := range map[string]func(v *sound.Voice){
		"decay": func(v *sound.Voice) { v.Layers[0].Recipe.Effects[0].Values["decay_ms"] = 2500 },
		"another step": func(v *sound.Voice) {
			v.Layers[0].Recipe.Effects = append(v.Layers[0].Recipe.Effects, effect.New("eq", effect.KindOf("eq"), nil))
		},
		"none": func(v *sound.Voice) { v.Layers[0].Recipe.Effects = nil },
	} {
		program := Prepare(struck(roomy(2000)), Rate, nil)
		e := New(Rate)
		e.Swap(program)
		e.Trigger("snare", 120, 0)
		var out []float64
		var l, r [256]float64
		for i := range 160 {
			if i == 60 {
				v := roomy(2000)
				edit(&v)
				e.Swap(Prepare(struck(v), Rate, program))
			}
			e.Process(l[:], r[:])
			out = append(out, l[:]...)
		}
		before, after := loudness(out[60*256-2400:60*256]), loudness(out[60*256:60*256+2400])
		assert.InDelta(t, before, after, 4, "%s: what rings goes on", name)
	}
}

// The reverb at the end of a recipe is the same whether one note or several go through it:
// two strokes together are the sum of each alone.
func TestASharedTailIsTheSumOfItsNotes(t *testing.T) {
	render := func(ticks ...int) []float64 {
		g := groove.Groove{Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Lanes: []groove.Lane{{Voice: "snare"}}}
		for i, tick := range ticks {
			g.Lanes[0].Hits = append(g.Lanes[0].Hits, groove.Hit{ID: string(rune('a' + tick/240)), Tick: tick, Velocity: 100})
			_ = i
		}
		v := roomy(800)
		v.Layers[0].Recipe.Effects[0].Values["modulation_percent"] = 0
		out, err := Render(context.Background(), Song{Kit: sound.Kit{Voices: []sound.Voice{v}}, Tempo: music.Steady(120), Groove: g}, Bounce{Rate: Rate, Bars: 1})
		require.NoError(t, err)
		return out.Mix.Mono()
	}
	both, first, second := render(0, 240), render(0), render(240)
	for i := range min(len(both), len(first), len(second)) {
		require.InDelta(t, both[i], first[i]+second[i], 1e-5, "frame %d", i)
	}
}

// BenchmarkTails is eight layers that end in a reverb, of which 96 hits ring at once.
func BenchmarkTails(b *testing.B) {
	v := roomy(3000)
	for i := 1; i < sound.MaxLayers; i++ {
		l := v.Layers[0]
		r := *l.Recipe
		r.Effects = effect.CloneChain(r.Effects)
		l.ID, l.Recipe = string(rune('a'+i)), &r
		v.Layers = append(v.Layers, l)
	}
	g := groove.Groove{Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Lanes: []groove.Lane{{Voice: "snare"}}}
	for i := range 48 { // 96 in four seconds
		g.Lanes[0].Hits = append(g.Lanes[0].Hits, groove.Hit{ID: string(rune('a' + i)), Tick: i * 80, Velocity: 100})
	}
	e := New(Rate)
	e.Load(Song{Kit: sound.Kit{Voices: []sound.Voice{v}}, Tempo: music.Steady(120), Groove: g})
	e.Play(0)
	var l, r [MaxBlock]float64
	for range 400 {
		e.Process(l[:], r[:])
	}
	for b.Loop() {
		e.Process(l[:], r[:])
	}
	b.ReportMetric(float64(b.N)*MaxBlock/Rate/b.Elapsed().Seconds(), "x-real-time")
}

// A new version of a voice is made ready while the one before sounds: nothing of what sounds
// is read then (run with -race).
func TestTailsAreMadeReadyWhileTheySoundAndAreCheap(t *testing.T) {
	song := func(decay float64, steps int) Song {
		v := roomy(decay)
		for range steps {
			v.Layers[0].Recipe.Effects = append(v.Layers[0].Recipe.Effects, effect.New("eq", effect.KindOf("eq"), nil))
		}
		return struck(v)
	}
	program := Prepare(song(2000, 0), Rate, nil)
	e := New(Rate)
	e.Swap(program)
	var l, r [256]float64
	e.Trigger("snare", 120, 0)
	for i := range 30 {
		ready := make(chan *Program)
		go func(was *Program) { ready <- Prepare(song(float64(1000+100*i), i%2), Rate, was) }(program)
		for range 4 {
			e.Process(l[:], r[:])
		}
		program = <-ready
		e.Swap(program)
	}
	assert.Zero(t, testing.AllocsPerRun(50, func() { e.Process(l[:], r[:]) }), "nothing is allocated")
}
