package slice

import (
	"fmt"
	"math"
	"sort"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/audio"
	"jubrak/core/measure"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

func TestCleanestFirst(t *testing.T) {
	hit := func(id string, time float64, f sound.Family, velocity int) transcribe.Hit {
		return transcribe.Hit{ID: id, Time: time, Family: f, Velocity: velocity, Confidence: 1}
	}
	a := &transcribe.Analysis{Duration: 4, Hits: []transcribe.Hit{
		hit("with-hat", 0.5, sound.Kick, 120), hit("hat", 0.51, sound.HatClosed, 80),
		hit("crowded", 1, sound.Kick, 120), hit("next", 1.03, sound.Kick, 100),
		hit("soft", 2, sound.Kick, 40),
		hit("clean", 2.8, sound.Kick, 118),
	}}
	found := Find(a, 3)
	require.Len(t, found[sound.Kick], 3)
	assert.Equal(t, "clean", found[sound.Kick][0].Hit)
	assert.InDelta(t, 2.798, found[sound.Kick][0].From, 1e-9)
	assert.InDelta(t, 4, found[sound.Kick][0].To, 1e-9, "up to the end of the file, at most 1.2 s")
	for _, s := range found[sound.Kick] {
		assert.NotEqual(t, "with-hat", s.Hit, "a hat sounds in it")
	}
	assert.Len(t, found[sound.HatClosed], 1)
}

func TestCutAndMeasure(t *testing.T) {
	b := audio.New(48000, 2, 48000)
	for i := range 24000 {
		v := float32(0.8 * math.Sin(2*math.Pi*60*float64(i)/48000) * math.Exp(-float64(i)/4800))
		b.Channels[0][12000+i], b.Channels[1][12000+i] = v, v
	}
	s := Slice{From: 0.248, To: 0.7}
	out := Cut(b, s)
	assert.InDelta(t, 0.452, out.Seconds(), 1e-4)
	assert.Zero(t, out.Channels[0][out.Frames()-1], "it ends in silence")
	m := measure.Measure(Cut(b, s))
	require.NotNil(t, m.Fundamental)
	assert.InDelta(t, 60, *m.Fundamental, 1)
	assert.NotZero(t, b.Channels[0][int(0.699*48000)], "the recording is left alone")
}

// Derivation: a fourth-order slope is 24 dB an octave; 75 Hz is two octaves
// below 300 Hz.
func TestCymbalsAreCutWithoutTheLowsOfOthers(t *testing.T) {
	b := audio.New(48000, 1, 48000)
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(0.5*math.Sin(2*math.Pi*75*float64(i)/48000) + 0.1*math.Sin(2*math.Pi*8000*float64(i)/48000))
	}
	peak := func(cut float64, from, to int) (m float64) {
		for _, v := range Cut(b, Slice{From: 0.4, To: 0.8, LowCut: cut}).Channels[0][from:to] {
			m = math.Max(m, math.Abs(float64(v)))
		}
		return m
	}
	assert.InDelta(t, 0.6, peak(0, 0, 9000), 0.02)
	assert.InDelta(t, 0.1+0.5*math.Pow(10, -48.0/20), peak(300, 0, 9000), 0.01, "from the first sample on")
	a := &transcribe.Analysis{Duration: 4, Hits: []transcribe.Hit{{ID: "a", Time: 1, Family: sound.HatClosed, Velocity: 90, Confidence: 1}, {ID: "b", Time: 2, Family: sound.Kick, Velocity: 90, Confidence: 1}}}
	found := Find(a, 1)
	assert.Equal(t, 300.0, found[sound.HatClosed][0].LowCut)
	assert.Zero(t, found[sound.Kick][0].LowCut)
}

func TestSlicesLieInTheFileAndApart(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		a := &transcribe.Analysis{Duration: 10}
		families := []sound.Family{sound.Kick, sound.Snare, sound.HatClosed}
		times := rapid.SliceOfN(rapid.Float64Range(0, 10), 1, 40).Draw(r, "times")
		sort.Float64s(times)
		for i, at := range times {
			a.Hits = append(a.Hits, transcribe.Hit{ID: fmt.Sprint(i), Time: at, Family: families[i%3], Velocity: 1 + i%127, Confidence: 0.9})
		}
		for f, list := range Find(a, 4) {
			assert.LessOrEqual(r, len(list), 4)
			for i, s := range list {
				assert.Equal(r, f, s.Family)
				assert.True(r, s.From >= 0 && s.To <= 10 && s.To-s.From >= least)
				assert.True(r, s.Clean >= 0 && s.Clean <= 1)
				if i > 0 {
					assert.LessOrEqual(r, s.Clean, list[i-1].Clean, "the cleanest first")
				}
				for _, h := range a.Hits {
					later := h.Time - s.From - lead
					assert.False(r, later > beside+1e-9 && h.Time < s.To-1e-9, "no later hit sounds in it")
				}
			}
		}
	})
}
