package audition

import (
	"context"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/audio"
	"jubrak/core/groove"
	"jubrak/core/measure"
	"jubrak/core/sound"
	"jubrak/core/stretch"
	"jubrak/core/transcribe"
)

const rate = 48000

// ticks is decaying sines at times, over a steady tone.
func ticks(seconds float64, steady float64, times ...float64) *audio.Buffer {
	b := audio.New(rate, 1, int(seconds*rate))
	x := b.Channels[0]
	for i := range x {
		x[i] = float32(steady * math.Sin(2*math.Pi*440*float64(i)/rate))
	}
	for _, at := range times {
		for i := int(at * rate); i < min(len(x), int((at+0.2)*rate)); i++ {
			t := float64(i)/rate - at
			x[i] += float32(0.7 * math.Sin(2*math.Pi*1800*t) * math.Exp(-t/0.02))
		}
	}
	return b
}

// onsetsOf finds the rises of a sound: 1 ms energies that are 8 times the
// greatest of the 20 ms before.
func onsetsOf(x []float64) (out []float64) {
	const w = rate / 1000
	var e []float64
	for i := 0; i+w <= len(x); i += w {
		var sum float64
		for _, v := range x[i : i+w] {
			sum += v * v
		}
		e = append(e, sum)
	}
	last := -100
	for i := 20; i < len(e); i++ {
		before := 0.0
		for _, v := range e[i-20 : i] {
			before = math.Max(before, v)
		}
		if e[i] > 8*before+0.3 && i-last > 30 {
			out, last = append(out, float64(i)/1000), i
		}
	}
	return out
}

func TestStretchKeepsPitchAndAttacks(t *testing.T) {
	times := []float64{0.25, 0.5, 0.62, 1.0, 1.4}
	for _, speed := range []float64{0.25, 0.5, 0.75, 0.9} {
		b := ticks(2, 0, times...)
		out := stretch.Sound(b, speed, times)
		assert.InDelta(t, 2/speed, out.Seconds(), 0.001)
		found := onsetsOf(out.Mono())
		require.Len(t, found, len(times), "at %g each attack is there once", speed)
		for i, at := range times {
			assert.InDelta(t, at/speed, found[i], 0.003, "at %g", speed)
		}
		assert.InDelta(t, b.Peak(), out.Peak(), 0.12, "attacks keep their level")
		steady := stretch.Sound(ticks(2, 0.5), speed, nil)
		hz, ok := measure.Fundamental(steady.Mono()[rate/2:rate*3/2], rate, 300, 600)
		require.True(t, ok)
		assert.InDelta(t, 440, hz, 1.5, "at %g", speed)
	}
}

func TestVarispeedLowersPitch(t *testing.T) {
	out := stretch.Varispeed(ticks(2, 0.5), 0.5)
	assert.InDelta(t, 4, out.Seconds(), 0.001)
	hz, ok := measure.Fundamental(out.Mono()[rate:2*rate], rate, 100, 400)
	require.True(t, ok)
	assert.InDelta(t, 220, hz, 0.5)
	assert.Equal(t, rate, out.Rate)
}

func energy(x []float32) (sum float64) {
	for _, v := range x {
		sum += float64(v) * float64(v)
	}
	return sum
}

// Derivation: a click is percussive, a steady tone is not (FitzGerald 2010).
func TestSeparate(t *testing.T) {
	tone, clicks, both := ticks(2, 0.4), ticks(2, 0, 0.5, 1, 1.5), ticks(2, 0.4, 0.5, 1, 1.5)
	p, r, err := Separate(context.Background(), both)
	require.NoError(t, err)
	inside := func(b *audio.Buffer) []float32 { return b.Channels[0][rate/5 : rate*9/5] }
	assert.Less(t, energy(inside(p)), 1.3*energy(inside(clicks)))
	assert.Greater(t, energy(inside(p)), 0.5*energy(inside(clicks)))
	assert.InDelta(t, energy(inside(tone)), energy(inside(r)), 0.25*energy(inside(tone)))
	for i := range both.Channels[0] {
		require.InDelta(t, both.Channels[0][i], p.Channels[0][i]+r.Channels[0][i], 1e-5, "the two add up to the whole")
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, _, err = Separate(ctx, both)
	assert.ErrorIs(t, err, context.Canceled)
}

func TestRunningMedians(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	x, got := make([]float32, 60), make([]float32, 60)
	for i := range x {
		x[i] = float32(r.IntN(9)) // many alike
	}
	medians(got, x)
	for i := range x {
		var w []float32
		for d := -reach; d <= reach; d++ {
			w = append(w, x[min(max(i+d, 0), len(x)-1)])
		}
		slices.Sort(w)
		require.Equal(t, w[reach], got[i], "at %d", i)
	}
}

func heard() *transcribe.Analysis {
	g := groove.SteadyGrid(0, 120, 5, 4)
	return &transcribe.Analysis{Grid: &g, Beats: g.Beats, Hits: []transcribe.Hit{
		{Time: 0.5, Family: sound.Kick, Velocity: 100}, {Time: 1, Family: sound.Snare, Velocity: 100}, {Time: 1.5, Family: sound.Kick, Velocity: 100},
	}}
}

func plain() Settings {
	return Settings{From: 0, To: 2, Speed: 1, KeepPitch: true, Band: "all", Part: "all", Click: "none"}
}

func TestRender(t *testing.T) {
	render := func(b *audio.Buffer, change func(*Settings)) *audio.Buffer {
		s := plain()
		change(&s)
		out, err := Render(context.Background(), b, heard(), s)
		require.NoError(t, err)
		return out
	}
	music := ticks(2, 0.4, 0.5, 1, 1.5)
	before := energy(music.Channels[0])
	slow := render(music, func(s *Settings) { s.Speed, s.Click = 0.5, "hits" })
	assert.InDelta(t, 4, slow.Seconds(), 0.01)
	assert.Equal(t, before, energy(music.Channels[0]), "the recording itself is left alone")
	lows := render(music, func(s *Settings) { s.Band = "lows" })
	assert.Less(t, energy(lows.Channels[0]), 0.02*before, "440 Hz and 1.8 kHz are no lows")
	kick := render(ticks(2, 0, 0.5, 1, 1.5), func(s *Settings) { s.Family = sound.Kick })
	assert.Greater(t, energy(kick.Channels[0][rate/2:rate*6/10]), 1.0)
	assert.Less(t, energy(kick.Channels[0][rate:rate*13/10]), 1e-6, "the snare is silent")
	clicks := render(ticks(2, 0), func(s *Settings) { s.Click = "beats" })
	assert.Len(t, onsetsOf(clicks.Mono()), 3, "beats at 0.5, 1 and 1.5 s; the first has no room before it")
	for name, bad := range map[string]func(*Settings){
		"nothing": func(s *Settings) { s.To = s.From }, "long": func(s *Settings) { s.To = 100 }, "fast": func(s *Settings) { s.Speed = 2 },
		"band": func(s *Settings) { s.Band = "purple" }, "part": func(s *Settings) { s.Part = "" }, "click": func(s *Settings) { s.Click = "x" },
		"family": func(s *Settings) { s.Family = "spoon" }, "outside": func(s *Settings) { s.From, s.To = 50, 60 },
	} {
		s := plain()
		bad(&s)
		_, err := Render(context.Background(), music, heard(), s)
		assert.Error(t, err, name)
	}
}

func BenchmarkSeparate20s(b *testing.B) {
	x := ticks(20, 0.3, 1, 2, 3)
	for b.Loop() {
		_, _, _ = Separate(context.Background(), x)
	}
}

func BenchmarkStretch20s(b *testing.B) {
	x := ticks(20, 0.3, 1, 2, 3)
	for b.Loop() {
		stretch.Sound(x, 0.5, []float64{1, 2, 3})
	}
}

func TestPicture(t *testing.T) {
	p := Picture(ticks(2, 0.5), 0, 2, 40)
	require.Len(t, p.Levels, 40*len(p.Hz))
	best := 0
	for r := range p.Hz {
		if p.Levels[20*len(p.Hz)+r] > p.Levels[20*len(p.Hz)+best] {
			best = r
		}
	}
	assert.InEpsilon(t, 440, p.Hz[best], 0.05, "the row of the tone is the brightest")
	assert.Zero(t, p.Levels[20*len(p.Hz)+len(p.Hz)-1], "there is nothing at the top")
	assert.NotPanics(t, func() { Picture(ticks(0.1, 0.5), 5, 9, 3) }, "beyond the end")
}

func TestMetronome(t *testing.T) {
	b, err := Metronome(rate, Settings{Tempo: 120, Beats: 3, Bars: 2})
	require.NoError(t, err)
	assert.InDelta(t, 3, b.Seconds(), 1e-4)
	found := onsetsOf(append(make([]float64, rate/10), b.Mono()...))
	require.Len(t, found, 6)
	assert.InDelta(t, 0.5, found[1]-found[0], 0.0015)
	for _, bad := range []Settings{{}, {Tempo: 120, Beats: 99, Bars: 1}, {Tempo: math.NaN(), Beats: 4, Bars: 1}} {
		_, err := Metronome(rate, bad)
		assert.Error(t, err)
	}
}

func TestStretchedLengthsAndNoSilence(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		speed := rapid.Float64Range(0.25, 1).Draw(r, "speed")
		times := rapid.SliceOfN(rapid.Float64Range(0.02, 0.38), 0, 5).Draw(r, "onsets")
		b := ticks(0.4, 0.3, times...)
		out := stretch.Sound(b, speed, times)
		assert.InDelta(r, 0.4/speed, out.Seconds(), 0.001)
		// A steady tone under it never stops.
		x := out.Channels[0]
		for at := rate / 20; at+rate/50 < len(x)-rate/20; at += rate / 50 {
			require.Greater(r, energy(x[at:at+rate/50]), 4.0, "at %.3f s", float64(at)/rate)
		}
	})
}

func TestStretchGoesOnAfterAHitNearTheEnd(t *testing.T) {
	times := []float64{0.379}
	out := stretch.Sound(ticks(0.4, 0.05, times...), 0.25, times)
	x := out.Channels[0]
	for at := int(1.3 * rate); at < int(1.55*rate); at += rate / 50 {
		require.Greater(t, energy(x[at:at+rate/50]), 0.5, "at %.3f s", float64(at)/rate)
	}
	assert.Len(t, onsetsOf(out.Mono()[rate:]), 1, "and the attacks are not heard twice")
}

func TestBandsAddUpToAboutTheWhole(t *testing.T) {
	b := ticks(1, 0, 0.3, 0.6)
	for i := range b.Channels[0] {
		b.Channels[0][i] += float32(0.3*math.Sin(2*math.Pi*60*float64(i)/rate) + 0.2*math.Sin(2*math.Pi*9000*float64(i)/rate))
	}
	share := map[string]float64{}
	for _, band := range []string{"lows", "mids", "highs"} {
		s := plain()
		s.To, s.Band = 1, band
		out, err := Render(context.Background(), b, heard(), s)
		require.NoError(t, err)
		share[band] = energy(out.Channels[0]) / energy(b.Channels[0])
	}
	assert.InDelta(t, 1, share["lows"]+share["mids"]+share["highs"], 0.06)
	assert.Greater(t, share["lows"], 0.4, "60 Hz is low")
	assert.Greater(t, share["highs"], 0.15, "9 kHz is high")
}
