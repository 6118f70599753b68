package engine

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/arrange"
	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/sound"
	"jubrak/core/state"

	"jubrak/internal/brief"
)

// songs that together have what an engine can have.
func songsToGoBackIn() map[string]Song {
	rumble := fiveVoices()
	rumble.Kit.Voices = append([]sound.Voice{}, rumble.Kit.Voices...)
	rumble.Kit.Voices[0].Layers = append(slices.Clone(rumble.Kit.Voices[0].Layers), sound.Rumbling("wet", "Wet"))
	rumble.Kit.Voices[1] = roomy(1500)
	rumble.Kit.Voices[2].Gate = &sound.Gate{By: "kick", Threshold: -30, Hysteresis: 3, Floor: -40, Attack: 1, Hold: 20, Release: 50}
	rumble.Groove.Lanes[1].Hits[0].Reverse = true
	rumble.Groove.Lanes[2].Hits[3].Roll = groove.Even{Strokes: 5}
	chains := mix16(true)
	chains.Mix.Automation = []mixer.Automation{{At: "v1/level_db", Points: []mixer.AutomationPoint{{Bar: 0, Value: -20}, {Bar: 1, Value: 0}}}}
	drawn := section(4)
	drawn.Automation = []mixer.Automation{{At: "hat/layers/drum/noise.decay_ms", Points: []mixer.AutomationPoint{{Bar: 0, Value: 20}, {Bar: 4, Value: 400}}}}
	all := map[string]Song{"five": fiveVoices(), "rumble": rumble, "mix": chains, "synthesized": mix16(false), "piece": withRoom(piece(drawn, arrange.Section{ID: "s2", Name: "Two", Variation: "a", Bars: 2}))}
	for _, k := range effect.Kinds() {
		if k.Recipes {
			continue
		}
		s := mixed()
		fx := effect.New("x", k, nil)
		fx.Key = map[bool]string{true: "kick"}[k.Keyed]
		all["effect "+k.ID] = withChain(s, "hat", fx)
	}
	return all
}

// takes are what is done to a monitor that plays.
var takes = []func(m *Monitor, s Song, was *Program) *Program{
	func(m *Monitor, s Song, was *Program) *Program {
		s.Kit.Voices = slices.Clone(s.Kit.Voices)
		s.Kit.Voices[0].Level -= 6
		s.Kit.Voices[len(s.Kit.Voices)-1].Pan = 0.5
		return swapped(m, s, was)
	},
	func(m *Monitor, s Song, was *Program) *Program {
		s.Kit.Voices = slices.Clone(s.Kit.Voices)
		s.Kit.Voices[1].Chain = []effect.Effect{effect.New("new", effect.KindOf("echo"), nil), effect.New("newer", effect.KindOf("reverb"), nil)}
		return swapped(m, s, was)
	},
	func(m *Monitor, s Song, was *Program) *Program {
		s.Kit.Voices = slices.Clone(s.Kit.Voices)
		s.Kit.Voices = s.Kit.Voices[1:]
		return swapped(m, s, was)
	},
	func(m *Monitor, s Song, was *Program) *Program {
		m.Engine.Trigger(s.Kit.Voices[0].ID, 127, 3)
		m.SetSystem("phone")
		m.Engine.Solo([]string{s.Kit.Voices[1].ID})
		return was
	},
	func(m *Monitor, s Song, was *Program) *Program {
		m.SetClick(true, 2)
		m.Play(960, 1)
		return was
	},
	func(m *Monitor, s Song, was *Program) *Program {
		p := PrepareLoop(s, Rate, 0, 1920, was)
		m.Engine.Swap(p)
		return p
	},
	func(m *Monitor, s Song, was *Program) *Program {
		m.SetStudy(audio.New(Rate, 1, 3000))
		m.Engine.Trigger(s.Kit.Voices[1].ID, 90, 0)
		return was
	},
}

func swapped(m *Monitor, s Song, was *Program) *Program {
	p := Prepare(s, Rate, was)
	m.Engine.Swap(p)
	return p
}

// An engine that is put back gives the same bits once more, whatever was done to it since:
// the whole monitor, with what rings, what is random, its meter and its limiter.
func TestPutBackPlaysTheSame(t *testing.T) {
	songs := songsToGoBackIn()
	names := []string{}
	for name := range songs {
		names = append(names, name)
	}
	slices.Sort(names)
	const block = 256
	var l, r [block]float32
	run := func(m *Monitor, blocks int) (out []float32) {
		for range blocks {
			m.Process(l[:], r[:])
			out = append(append(out, l[:]...), r[:]...)
		}
		return append(out, float32(m.Meter.Momentary()), float32(m.Engine.Position()))
	}
	for _, name := range names {
		for _, seed := range brief.First(1, uint64(0), 1, 2) {
			r := rand.New(rand.NewPCG(seed, 7))
			m := NewMonitor(Rate)
			song := songs[name]
			program := swapped(m, song, nil)
			m.Play(0, 0)
			run(m, r.IntN(150))
			keeper := state.NewKeeper(m)
			var kept [3]state.Kept
			var then [3][]float32
			for i := range kept {
				keeper.Keep(&kept[i])
				then[i] = run(m, 30)
				if r.IntN(2) == 0 {
					keeper.PutBack(&kept[i])
				}
				program = takes[r.IntN(len(takes))](m, song, program)
				run(m, r.IntN(30))
			}
			for _, i := range []int{2, 1, 0, 2} {
				keeper.PutBack(&kept[i])
				if again := run(m, 30); !slices.Equal(then[i], again) {
					at := 0
					for then[i][at] == again[at] {
						at++
					}
					t.Fatalf("%s, seed %d: state %d differs from sample %d of block %d on", name, seed, i, at%(2*block), at/(2*block))
				}
			}
		}
	}
}

// Going back and taking an edit there is as if the edit had been made there.
func TestAnEditAfterGoingBackIsAsIfMadeThere(t *testing.T) {
	for name, song := range map[string]Song{"mix": mix16(true), "rumble": songsToGoBackIn()["rumble"]} {
		for i, take := range takes[:3] {
			play := func(goBack bool) (out []float32) {
				m := NewMonitor(Rate)
				program := swapped(m, song, nil)
				m.Play(0, 0)
				var l, r [256]float32
				for range 100 {
					m.Process(l[:], r[:])
				}
				if goBack {
					keeper, kept := state.NewKeeper(m), state.Kept{}
					keeper.Keep(&kept)
					for range 50 {
						m.Process(l[:], r[:])
					}
					program = takes[3](m, song, program)
					for range 10 {
						m.Process(l[:], r[:])
					}
					keeper.PutBack(&kept)
				}
				take(m, song, program)
				for range 100 {
					m.Process(l[:], r[:])
					out = append(append(out, l[:]...), r[:]...)
				}
				return out
			}
			assert.True(t, slices.Equal(play(false), play(true)), "%s, take %d", name, i)
		}
	}
}

// What one kept state takes, and that keeping allocates nothing while nothing is exchanged.
func TestKeepingAMixIsSmallAndAllocatesNothing(t *testing.T) {
	m := NewMonitor(Rate)
	swapped(m, mix16(false), nil)
	m.Play(0, 0)
	var l, r [256]float32
	keeper, kept := state.NewKeeper(m), state.Kept{}
	for range 400 {
		m.Process(l[:], r[:])
		keeper.Keep(&kept)
	}
	allocated := testing.AllocsPerRun(50, func() {
		m.Process(l[:], r[:])
		keeper.Keep(&kept)
	})
	assert.Zero(t, allocated)
	t.Logf("%.1f MB", float64(keeper.Size())/1e6)
	require.Less(t, keeper.Size(), 16<<20)
}

func BenchmarkKeep(b *testing.B) {
	for name, s := range map[string]Song{"five": fiveVoices(), "mix16": mix16(false)} {
		m := NewMonitor(Rate)
		swapped(m, s, nil)
		m.Play(0, 0)
		var l, r [256]float32
		for range 200 {
			m.Process(l[:], r[:])
		}
		keeper, kept := state.NewKeeper(m), state.Kept{}
		keeper.Keep(&kept)
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				keeper.Keep(&kept)
			}
			b.ReportMetric(float64(keeper.Size())/1e6, "MB")
		})
		b.Run(fmt.Sprint(name, "/anew"), func(b *testing.B) { // after an edit
			for b.Loop() {
				state.NewKeeper(m).Keep(&kept)
			}
		})
		b.Run(fmt.Sprint(name, "/block"), func(b *testing.B) {
			for b.Loop() {
				m.Process(l[:], r[:])
			}
		})
	}
}
