package backing

import (
	"bytes"
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/dsp/fourier"

	"jubrak/core/arrange"
	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
)

// tone is a recording of a tone that swells, as a file.
func tone(t *testing.T, rate int, seconds, hz float64) ([]byte, *audio.Buffer) {
	b := audio.New(rate, 2, int(seconds*float64(rate)))
	for i := range b.Channels[0] {
		at := float64(i) / float64(rate)
		x := float32(0.4 * math.Sin(2*math.Pi*hz*at) * (0.6 + 0.4*math.Sin(2*math.Pi*0.3*at)))
		b.Channels[0][i], b.Channels[1][i] = x, x/2
	}
	var w bytes.Buffer
	require.NoError(t, format.WriteWAV(&w, b, format.WAV32F))
	return w.Bytes(), b
}

func made(t *testing.T, data []byte, how How) *audio.Buffer {
	out := audio.New(engine.Rate, 2, 0)
	require.NoError(t, Make(context.Background(), data, how, func(b *audio.Buffer) error {
		for c := range out.Channels {
			out.Channels[c] = append(out.Channels[c], b.Channels[c]...)
		}
		return nil
	}, func(float64) error { return nil }))
	return out
}

// pitchOf counts the upward crossings of zero of the left side, Hz.
func pitchOf(b *audio.Buffer, from, to float64) float64 {
	x := b.Channels[0][int(from*engine.Rate):int(to*engine.Rate)]
	n := 0
	for i := 1; i < len(x); i++ {
		if x[i-1] < 0 && x[i] >= 0 {
			n++
		}
	}
	return float64(n) / (to - from)
}

// A recording of another rate, longer than two parts, comes out as if it were resampled
// whole: the joints cannot be heard.
func TestAsItIs(t *testing.T) {
	data, source := tone(t, 44100, 47.3, 440)
	out, want := made(t, data, How{Speed: 1}), source.Resample(engine.Rate)
	require.InDelta(t, want.Frames(), out.Frames(), 2)
	most := 0.0
	for i := 2000; i < out.Frames()-2000; i++ {
		most = max(most, math.Abs(float64(out.Channels[0][i]-want.Channels[0][i])))
	}
	assert.Less(t, audio.DB(most), -60.0)
	part := made(t, data, How{From: 10, To: 31.5, Speed: 1})
	assert.InDelta(t, 21.5*engine.Rate, part.Frames(), 2)
	assert.InDelta(t, float64(want.Channels[0][15*engine.Rate]), float64(part.Channels[0][5*engine.Rate]), 2e-3)
}

func TestTempoAndPitchApart(t *testing.T) {
	data, _ := tone(t, 48000, 50, 440)
	fast := made(t, data, How{Speed: 1.25})
	assert.InDelta(t, 40, fast.Seconds(), 0.05)
	assert.InDelta(t, 440, pitchOf(fast, 5, 35), 2)
	slow := made(t, data, How{Speed: 0.8})
	assert.InDelta(t, 62.5, slow.Seconds(), 0.05)
	assert.InDelta(t, 440, pitchOf(slow, 5, 55), 2)
	high := made(t, data, How{Speed: 1, Pitch: 3})
	assert.InDelta(t, 50, high.Seconds(), 0.05)
	assert.InDelta(t, 523.25, pitchOf(high, 5, 45), 3)
}

// What is left without the drums is the tone, and little of them.
func TestWithoutItsDrums(t *testing.T) {
	g := groove.Groove{Bars: 2, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1}
	for voice, row := range map[string]string{"kick": "x...x...x...x...x...x...x...x...", "snare": "....x.......x.......x.......x...", "hat": "x.x.x.x.x.x.x.x.x.x.x.x.x.x.x.x."} {
		l := g.EnsureLane(voice)
		for i, c := range row {
			if c == 'x' {
				l.Hits = append(l.Hits, groove.Hit{ID: l.NewHitID(), Tick: i * 240, Velocity: 110})
			}
		}
	}
	out, err := engine.Render(context.Background(), engine.Song{Kit: sound.DefaultKit(), Groove: g, Tempo: music.Steady(110)}, engine.Bounce{Rate: engine.Rate, Bars: 8, Seamless: true})
	require.NoError(t, err)
	song := audio.New(engine.Rate, 2, out.Mix.Frames())
	chord := audio.New(engine.Rate, 2, out.Mix.Frames())
	for c := range song.Channels {
		for i := range song.Channels[c] {
			at := float64(i) / engine.Rate
			y := 0.05 * (math.Sin(2*math.Pi*220*at) + math.Sin(2*math.Pi*277.2*at) + math.Sin(2*math.Pi*329.6*at))
			chord.Channels[c][i] = float32(y)
			song.Channels[c][i] = out.Mix.Channels[c][i] + float32(y)
		}
	}
	var w bytes.Buffer
	require.NoError(t, format.WriteWAV(&w, song, format.WAV32F))
	rest := made(t, w.Bytes(), How{Speed: 1, Drumless: true})
	power := func(x []float32) (sum float64) {
		for _, v := range x {
			sum += float64(v) * float64(v)
		}
		return sum
	}
	left := make([]float32, rest.Frames())
	for i := range left {
		left[i] = rest.Channels[0][i] - chord.Channels[0][min(i, chord.Frames()-1)]
	}
	// The chord's own tones lie between 120 and 500 Hz, where it is changed a little, too.
	apart := func(x []float32) float64 { return within(x, 20, 120) + within(x, 500, 20000) }
	drop := 10 * math.Log10(apart(left)/apart(out.Mix.Channels[0]))
	t.Logf("of the drums %.1f dB are left outside the chord's octaves", drop)
	assert.Less(t, drop, -20.0)
	assert.Greater(t, power(rest.Channels[0]), 0.5*power(chord.Channels[0]), "and the chord stays")
}

// within is the power of a sound between two frequencies, by a library's transform.
func within(x []float32, from, to float64) (sum float64) {
	y := make([]float64, 1<<int(math.Log2(float64(len(x)))))
	for i := range y {
		y[i] = float64(x[i])
	}
	for i, c := range fourier.NewFFT(len(y)).Coefficients(nil, y) {
		if hz := float64(i) * engine.Rate / float64(len(y)); hz >= from && hz < to {
			sum += 2 * (real(c)*real(c) + imag(c)*imag(c)) / float64(len(y))
		}
	}
	return sum
}

func TestBrokenRecordings(t *testing.T) {
	data, _ := tone(t, 48000, 3, 440)
	run := func(data []byte, how How) error {
		return Make(context.Background(), data, how, func(*audio.Buffer) error { return nil }, func(float64) error { return nil })
	}
	assert.ErrorContains(t, run(nil, How{Speed: 1}), "empty")
	assert.ErrorContains(t, run([]byte("words, no sound at all, but enough of them"), How{Speed: 1}), "not a sound file")
	assert.ErrorContains(t, run(data[:len(data)/2], How{Speed: 1}), "cut short")
	assert.ErrorContains(t, run(data, How{From: 9, Speed: 1}), "Nothing of the recording")
}

// twelve is a piece of twelve bars at 120 BPM.
func twelve() *arrange.Line {
	g := &groove.Groove{Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight()}
	a := &arrange.Arrangement{Sections: []arrange.Section{{ID: "1", Name: "A", Variation: "a", Bars: 12}}}
	return arrange.NewLine(a, func(string) *groove.Groove { return g }, music.Steady(120))
}

func standIn(t *testing.T, change func(*arrange.StandIn)) *audio.Buffer {
	s := arrange.NewStandIn("x", "Fm | Db Ab").StandIn
	change(s)
	out := audio.New(engine.Rate, 2, 0)
	require.NoError(t, StandIn(context.Background(), s, twelve(), "Fm", func(b *audio.Buffer) error {
		for c := range out.Channels {
			out.Channels[c] = append(out.Channels[c], b.Channels[c]...)
		}
		return nil
	}, func(float64) {}))
	return out
}

func rms(b *audio.Buffer) float64 {
	sum := 0.0
	for _, x := range b.Channels[0] {
		sum += float64(x) * float64(x)
	}
	return math.Sqrt(sum / float64(b.Frames()))
}

func TestTheStandIn(t *testing.T) {
	silent := func(s *arrange.StandIn) { s.Voice, s.Chords, s.Bass, s.Melody = -60, -60, -60, -60 }
	assert.InDelta(t, 24.0, standIn(t, silent).Seconds(), 0.001)
	assert.Zero(t, rms(standIn(t, silent)))
	voice := standIn(t, func(s *arrange.StandIn) { silent(s); s.Voice = -6 })
	busy := standIn(t, func(s *arrange.StandIn) { silent(s); s.Voice, s.Density = -6, 3.5 })
	assert.Greater(t, rms(busy), 1.15*rms(voice), "denser speech")
	// Speech lies between 200 Hz and 4 kHz, its greatest part below 1 kHz (common practice).
	spectrum := func(b *audio.Buffer, from, to float64) float64 {
		return within(b.Channels[0][2*engine.Rate:6*engine.Rate], from, to)
	}
	all := spectrum(busy, 20, 20000)
	assert.Greater(t, spectrum(busy, 150, 4000)/all, 0.8)
	low := standIn(t, func(s *arrange.StandIn) { silent(s); s.Bass = -6 })
	assert.Greater(t, spectrum(low, 30, 200)/spectrum(low, 20, 20000), 0.95, "the bass lies low")
	again := standIn(t, func(s *arrange.StandIn) { silent(s); s.Voice = -6 })
	assert.Equal(t, voice.Channels, again.Channels, "the same draw sounds the same")
}

func TestUsualChords(t *testing.T) {
	scale, err := music.ParseKey("Fm")
	require.NoError(t, err)
	assert.Equal(t, "Fm | Db | Ab | Eb", usualChords(scale))
}
