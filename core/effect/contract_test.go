package effect

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/param"
	"jubrak/core/state"
)

// What holds of every kind of effect, those to come included.

// Nothing of a kind is left blank: what the menu, the panel, the docs and the report show.
func TestKindsAreComplete(t *testing.T) {
	for _, k := range Kinds() {
		assert.NotEmpty(t, k.Label, k.ID)
		assert.Contains(t, Groups, k.Group, "the group of %s", k.ID)
		assert.NotEmpty(t, k.Hint, "the hint of %s", k.ID)
		assert.Contains(t, []Picture{Spectrum, Levels, Transfer}, k.Picture, "the picture of %s", k.ID)
		assert.NotNil(t, k.Words, "the words of %s", k.ID)
		assert.NotNil(t, k.make, k.ID)
		require.NotEmpty(t, k.Params, k.ID)
		assert.Equal(t, mixedID, k.Params[len(k.Params)-1].ID, k.ID)
		for i := range k.Params {
			p := &k.Params[i]
			name := k.ID + ", " + p.ID
			assert.NotEmpty(t, p.Label, name)
			assert.Equal(t, k.ID, p.Part, name)
			assert.Less(t, p.Min, p.Max, name)
			require.NoError(t, p.Check(p.Default), name)
			assert.True(t, p.Scale != param.Log || p.Min > 0, "%s is logarithmic down to %g", name, p.Min)
			assert.Contains(t, []param.Scale{param.Linear, param.Log, param.DB, param.Discrete, param.Switch}, p.Scale, name)
			if w := p.When; w != nil {
				of, _ := k.Param(w.ID)
				require.NotNil(t, of, "%s is shown by %q", name, w.ID)
				for _, v := range append(append([]float64{}, w.Is...), w.Not...) {
					assert.NoError(t, of.Check(v), name)
				}
				assert.NotEqual(t, len(w.Is) == 0, len(w.Not) == 0, name)
			}
		}
		for n := 1; n <= k.Bands; n++ {
			p, _ := k.Param(fmt.Sprintf("band%d.hz", n))
			assert.NotNil(t, p, "band %d of %s", n, k.ID)
		}
		for _, id := range k.Steady {
			p, _ := k.Param(id)
			assert.NotNil(t, p, "%s of %s", id, k.ID)
		}
		assert.Len(t, New("a", k, nil).Paths, len(k.Paths), k.ID)
		// The words of every choice.
		for _, p := range k.Params {
			for v := range len(p.Names) {
				one := New("a", k, map[string]float64{p.ID: float64(v)})
				assert.NotEmpty(t, Said{Effect: &one}.Lines()[0], "%s at %s", k.ID, p.Names[v])
			}
		}
	}
}

// busied is an effect with its parameters away from where it does nothing.
func busied(k *Kind) Effect {
	fx := New("one", k, busy[k.ID])
	fx.Values[mixedID] = 80
	return fx
}

// noisy is a block of hits and noise.
func noisy(seed, frames int) Block {
	b := Block{make([]float64, frames), make([]float64, frames)}
	x := uint64(seed)*0x9e3779b97f4a7c15 + 1
	for i := range b.Left {
		x ^= x << 13
		x ^= x >> 7
		x ^= x << 17
		level := math.Exp(-float64((i+seed*37)%4000)/500) * 0.7
		b.Left[i] = level * float64(int64(x)) / (1 << 63)
		b.Right[i] = 0.6*b.Left[i] + 0.1*level*math.Sin(float64(i)*0.05)
	}
	return b
}

// A state that is put back goes on with the same bits: in a loop, while parameters glide, and
// when the rack has had other effects since.
func TestAStateThatIsPutBackGoesOnTheSame(t *testing.T) {
	for _, k := range Kinds() {
		fx := busied(k)
		for i := range fx.Paths {
			fx.Paths[i] = []Effect{New(fmt.Sprintf("in%d", i), KindOf("drive"), nil)}
		}
		system := struct{ rack *Rack }{NewRack([]Effect{fx}, rate, Context{})}
		clock := func(frame int) Clock {
			return Clock{Beat: float64(frame) / rate * 2, PerFrame: 2.0 / rate, Frame: int64(frame % 30000), Loop: 30000}
		}
		run := func(frame, seed int) Block {
			b := noisy(seed, 256)
			system.rack.Run(b, nil, clock(frame), false)
			return b
		}
		for i := range 150 {
			run(i*256, i)
		}
		other := fx.Clone()
		for i := range k.Params {
			if p := &k.Params[i]; len(p.Names) == 0 && p.Scale != param.Discrete {
				other.Values[p.ID] = p.Between(p.Default, p.Max, 0.3)
			}
		}
		system.rack.Tune([]Effect{other}, nil)
		run(150*256, 150)
		keeper, kept := state.NewKeeper(&system), state.Kept{}
		keeper.Keep(&kept)
		rest := func() (out []Block) {
			for i := 151; i < 300; i++ {
				out = append(out, run(i*256, i))
			}
			return out
		}
		want := rest()
		keeper.PutBack(&kept)
		same := func(when string) {
			for i, b := range rest() {
				require.True(t, equal(want[i], b), "%s, block %d, %s", k.ID, i, when)
			}
		}
		same("once more")
		keeper.PutBack(&kept)
		next := NewRack([]Effect{New("x", KindOf("comb"), nil), New("y", KindOf("echo"), nil)}, rate, Context{})
		next.Continue(system.rack)
		system.rack = next
		for i := range 40 {
			run(i*256, 500+i)
		}
		keeper.PutBack(&kept)
		same("after another chain")
	}
}

func equal(a, b Block) bool { return slices.Equal(a.Left, b.Left) && slices.Equal(a.Right, b.Right) }

// A kind that is alike does the same to one channel as to two like ones, and gives two like
// ones back; only others may make like sides differ.
func TestAlikeKindsTreatBothSidesAlike(t *testing.T) {
	for _, k := range Kinds() {
		if !k.Alike {
			continue
		}
		fx := busied(k)
		one, _ := NewChain([]Effect{fx}, rate)
		both, _ := NewChain([]Effect{fx}, rate)
		for i := range 60 {
			mono := Block{Left: noisy(i, 200).Left}
			stereo := Block{append([]float64{}, mono.Left...), append([]float64{}, mono.Left...)}
			one.Process(mono, nil)
			both.Process(stereo, nil)
			require.InDeltaSlice(t, stereo.Left, stereo.Right, 1e-12, "%s: like sides stay alike", k.ID)
			require.InDeltaSlice(t, mono.Left, stereo.Left, 1e-9, "%s: one side is done as two", k.ID)
		}
	}
}

// Every other kind gets both sides, also of a sound of one channel, in a chain and in a rack.
func TestOthersAlwaysGetBothSides(t *testing.T) {
	for _, k := range Kinds() {
		fx := busied(k)
		c, _ := NewChain([]Effect{New("d", KindOf("drive"), nil), fx}, rate)
		assert.Equal(t, !k.Alike, c.Stereo(), k.ID)
		c.Process(Block{Left: noisy(1, 300).Left}, nil)
		b := noisy(2, 300)
		NewRack([]Effect{fx}, rate, Context{}).RunAlike(b, nil, Clock{}, false, true)
	}
}

// On the mid or the side alone the other passes as late as the effect is; one channel has no
// side.
func TestDynamicsOnMidOrSide(t *testing.T) {
	for _, k := range Kinds() {
		if !k.MidSide {
			continue
		}
		require.True(t, k.Alike, k.ID)
		for part, touched := range map[float64]string{onMid: "mid", onSide: "side"} {
			fx := busied(k)
			fx.Values[mixedID], fx.Values[channelsID] = 100, part
			r := NewRack([]Effect{fx}, rate, Context{})
			in := noisy(4, 9600)
			out := Block{slices.Clone(in.Left), slices.Clone(in.Right)}
			for at := 0; at < out.Frames(); at += 480 {
				r.Run(out.Part(at, at+480), nil, Clock{}, false)
			}
			late, changed, kept := r.Latency(), 0.0, 0.0
			for i := late; i < out.Frames(); i++ {
				mid := math.Abs((out.Left[i] + out.Right[i]) - (in.Left[i-late] + in.Right[i-late]))
				side := math.Abs((out.Left[i] - out.Right[i]) - (in.Left[i-late] - in.Right[i-late]))
				if part == onSide {
					mid, side = side, mid
				}
				changed, kept = max(changed, mid), max(kept, side)
			}
			assert.Less(t, kept, 1e-12, "%s on the %s leaves the rest", k.ID, touched)
			assert.Greater(t, changed, 1e-6, "%s on the %s does something", k.ID, touched)
		}
	}
}

// Stereo pan keeps the power of both sides wherever it stands, and at its ends all is on one
// side; balance loses one of them. In the middle both leave the sound as it is.
func TestStereoPanLosesNothing(t *testing.T) {
	at := func(mode, pan float64) (m [2][2]float64) {
		fx := New("t", KindOf("trim"), map[string]float64{"pan": pan, "pan_mode": mode})
		r := NewRack([]Effect{fx}, rate, Context{})
		for in := range 2 {
			b := Block{make([]float64, 1), make([]float64, 1)}
			b.channel(in)[0] = 1
			r.Run(b, nil, Clock{}, false)
			m[0][in], m[1][in] = b.Left[0], b.Right[0]
		}
		return m
	}
	for _, pan := range []float64{-1, -0.6, -0.2, 0, 0.3, 0.8, 1} {
		m := at(1, pan)
		for in := range 2 {
			assert.InDelta(t, 1, math.Hypot(m[0][in], m[1][in]), 1e-9, "side %d at %g", in, pan)
		}
	}
	right := at(1, 1)
	assert.InDelta(t, 0, math.Hypot(right[0][0], right[0][1]), 1e-9)
	assert.InDelta(t, 1, right[1][0], 1e-9)
	assert.InDeltaSlice(t, []float64{1, 0, 0, 1}, []float64{at(1, 0)[0][0], at(1, 0)[0][1], at(1, 0)[1][0], at(1, 0)[1][1]}, 1e-9)
	assert.InDelta(t, 0, at(0, 1)[0][0]+at(0, 1)[1][0], 1e-9, "balance turns the left side down")
}
