package export

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/dsp/fourier"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/sound"

	"jubrak/internal/brief"
)

// The whole path: a test signal is written as a file and brought in as a recording, played
// on a voice through a mix, exported as a file of 32-bit floats and read again. What comes
// out is measured by code that has nothing to do with the processors.

// path is what a signal goes through; the zero path plays it as it is.
type path struct {
	rate  int // of the file; 0: the engine's
	layer func(*sound.Layer)
	voice func(*sound.Voice)
	song  func(*engine.Song)
	hit   groove.Hit
	loop  bool // exported as a loop of one bar, 2 s
	bars  int
}

const bar = 2 * engine.Rate

// play takes a signal of one or two channels along the path.
func (p path) play(t *testing.T, x ...[]float64) [2][]float64 {
	t.Helper()
	rate := p.rate
	if rate == 0 {
		rate = engine.Rate
	}
	in := audio.New(rate, len(x), len(x[0]))
	for c := range x {
		for i, v := range x[c] {
			in.Channels[c][i] = float32(v)
		}
	}
	l := sound.Recorded("l", "Test", "test")
	if p.layer != nil {
		p.layer(&l)
	}
	v := sound.Alone(l)
	v.ID, v.Level = "v", 0
	if p.voice != nil {
		p.voice(v)
	}
	h := p.hit
	h.ID, h.Velocity = "h", 127
	s := engine.Song{
		Kit: sound.Kit{Voices: []sound.Voice{*v}}, Tempo: music.Steady(120),
		Groove: groove.Groove{Name: "Test", Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1,
			Lanes: []groove.Lane{{Voice: "v", Hits: []groove.Hit{h}}}},
		Samples: sound.Samples{"test": sampleOf(t, written(t, in))},
	}
	if p.song != nil {
		p.song(&s)
	}
	out, err := engine.Render(context.Background(), s, engine.Bounce{Rate: engine.Rate, Bars: max(p.bars, 1), Seamless: p.loop})
	require.NoError(t, err)
	back, err := format.Decode(written(t, out.Mix))
	require.NoError(t, err)
	var both [2][]float64
	for c := range both {
		both[c] = make([]float64, back.Frames())
		for i, v := range back.Channels[c] {
			both[c][i] = float64(v)
		}
	}
	return both
}

func written(t *testing.T, b *audio.Buffer) []byte {
	t.Helper()
	var file bytes.Buffer
	require.NoError(t, format.WriteWAV(&file, b, format.WAV32F))
	return file.Bytes()
}

func sampleOf(t *testing.T, file []byte) *sound.Sample {
	t.Helper()
	b, err := format.Decode(file)
	require.NoError(t, err)
	return &sound.Sample{Rate: b.Rate, X: b.Channels}
}

// in a chain of the voice.
func chained(effects ...effect.Effect) path {
	return path{voice: func(v *sound.Voice) { v.Chain = effects }}
}

func newEffect(kind string, values map[string]float64) effect.Effect {
	return effect.New("s-"+kind, effect.KindOf(kind), values)
}

func sineOf(rate int, hz, gain, seconds float64) []float64 {
	x := make([]float64, int(seconds*float64(rate)))
	for i := range x {
		x[i] = gain * math.Sin(2*math.Pi*hz*float64(i)/float64(rate))
	}
	return x
}

// spectrum is the magnitude by bin of the middle of a sound under a Kaiser window whose side
// lobes lie below -150 dB; a sine of amplitude 1 reads 1.
func spectrum(x []float64, n int) []float64 {
	from := (len(x) - n) / 2
	windowed, sum := make([]float64, n), 0.0
	for i, w := range window(n, 18) {
		sum += w
		windowed[i] = x[from+i] * w
	}
	out := make([]float64, n/2+1)
	for k, c := range fourier.NewFFT(n).Coefficients(nil, windowed) {
		out[k] = 2 * cmplx.Abs(c) / sum
	}
	return out
}

var windows = map[[2]int][]float64{}

// window is a Kaiser window.
func window(n, beta int) []float64 {
	key := [2]int{n, beta}
	if windows[key] == nil {
		w := make([]float64, n)
		for i := range w {
			at := 2*float64(i)/float64(n) - 1
			w[i] = bessel(float64(beta) * math.Sqrt(1-at*at))
		}
		windows[key] = w
	}
	return windows[key]
}

func bessel(x float64) float64 {
	sum, term := 1.0, 1.0
	for k := 1.0; term > 1e-16*sum; k++ {
		term *= x * x / (4 * k * k)
		sum += term
	}
	return sum
}

func dB(x float64) float64 { return 20 * math.Log10(math.Max(x, 1e-12)) }

// toneAndRest are the level of a tone and of the loudest partial away from it, dB, above
// 10 Hz.
func toneAndRest(x []float64, hz float64) (tone, rest float64) {
	const n = 32768
	for k, m := range spectrum(x, n) {
		if at := float64(k) * engine.Rate / n; at > 10 && math.Abs(at-hz) > 20 {
			rest = math.Max(rest, m)
		}
	}
	return dB(amplitude(x, hz)), dB(rest)
}

// amplitude is that of a tone in the middle of a sound.
func amplitude(x []float64, hz float64) float64 {
	const n = 32768
	from, sum := (len(x)-n)/2, 0.0
	var at complex128
	for i, w := range window(n, 12) {
		sum += w
		at += complex(w*x[from+i], 0) * cmplx.Rect(1, -2*math.Pi*hz*float64(i)/engine.Rate)
	}
	return 2 * cmplx.Abs(at) / sum
}

// nulls is how far two sounds are apart up to 18 kHz, the second fitted to the first by one
// gain, dB against the first.
func nulls(a, b []float64) float64 {
	n := min(len(a), len(b))
	fft := fourier.NewFFT(n)
	below := n * 18000 / engine.Rate
	x, y := fft.Coefficients(nil, a[:n])[:below], fft.Coefficients(nil, b[:n])[:below]
	var ab, bb, aa, diff float64
	for k := range x {
		ab += real(x[k] * cmplx.Conj(y[k]))
		bb += real(y[k] * cmplx.Conj(y[k]))
		aa += real(x[k] * cmplx.Conj(x[k]))
	}
	for k := range x {
		d := cmplx.Abs(x[k] - y[k]*complex(ab/bb, 0))
		diff += d * d
	}
	return 10 * math.Log10(diff/aa+1e-20)
}

// A file of any rate sounds as it is: no image of what lies above the rates' lower half, and
// level to the lower of 18 kHz and 0.4 times the rate.
func TestRecordingsOfAnyRate(t *testing.T) {
	for _, rate := range []int{22050, 32000, 44100, 48000, 88200, 96000, 176400, 192000} {
		top := math.Min(18000, 0.4*math.Min(float64(rate), engine.Rate))
		for _, hz := range []float64{20, 1000, top / 2, top} {
			level, rest := toneAndRest(path{rate: rate}.play(t, sineOf(rate, hz, 0.5, 2))[0], hz)
			assert.InDelta(t, -6.02, level, 0.1, "%d Hz file, tone of %g Hz", rate, hz)
			assert.Less(t, rest-level, -90.0, "%d Hz file, images of %g Hz", rate, hz)
		}
		if rate > 48000 {
			_, rest := toneAndRest(path{rate: rate}.play(t, sineOf(rate, 30000, 0.5, 2))[0], -100)
			assert.Less(t, rest, -96.0, "%d Hz file: 30 kHz cannot be heard", rate)
		}
	}
}

// Read at another speed, a recording is interpolated below the end of the band.
func TestPitchedRecordings(t *testing.T) {
	for _, rate := range []int{44100, 48000, 96000} {
		for _, semitones := range []float64{-24, -12, -7.3, 0.5, 12, 24} {
			ratio := math.Exp2(semitones / 12)
			worst := -90.0
			if math.Abs(semitones) > 12 {
				worst = -80
			}
			// As heard: up to 18 kHz, and to 0.4 times the rates after pitching.
			top := math.Min(18000, 0.4*math.Min(float64(rate), engine.Rate)*math.Min(ratio, 1))
			for _, at := range []float64{30, 0.4 * top, top} {
				p := path{rate: rate, layer: func(l *sound.Layer) { l.Pitch = semitones }}
				out := p.play(t, sineOf(rate, at/ratio, 0.5, 2*ratio+0.1))[0]
				level, rest := toneAndRest(out, at)
				assert.InDelta(t, -6.02, level, 0.1, "%d Hz file by %g semitones, heard at %.0f Hz", rate, semitones, at)
				assert.Less(t, rest-level, worst, "%d Hz file by %g semitones, images of what is heard at %.0f Hz", rate, semitones, at)
			}
			if ratio > 1 { // what would fold back
				p := path{rate: rate, layer: func(l *sound.Layer) { l.Pitch = semitones }}
				hz := math.Min(25000/ratio, 0.45*float64(rate))
				if hz*ratio > 24000 {
					_, rest := toneAndRest(p.play(t, sineOf(rate, hz, 0.5, 2*ratio+0.1))[0], -100)
					assert.Less(t, rest+6, worst, "%d Hz file by %g semitones: %.0f Hz folds back", rate, semitones, hz*ratio)
				}
			}
		}
	}
}

// A hit's own pitch, and a fall that glides, go the same way.
func TestHitsAndGlidesAreInterpolated(t *testing.T) {
	hit := path{hit: groove.Hit{Semitones: 5}}
	at := 4000 * math.Exp2(5.0/12)
	level, rest := toneAndRest(hit.play(t, sineOf(engine.Rate, 4000, 0.5, 3))[0], at)
	assert.InDelta(t, -6.02, level, 0.1)
	assert.Less(t, rest-level, -90.0)
	glide := path{hit: groove.Hit{Fall: -12, FallTime: 1500}}
	out := glide.play(t, sineOf(engine.Rate, 15000, 0.5, 3))[0]
	// A glide from 7.5 to 15 kHz: nothing of its images, which begin at 16.5 kHz.
	high := 0.0
	for k, m := range spectrum(out, 65536) {
		if hz := float64(k) * engine.Rate / 65536; hz > 15300 {
			high = math.Max(high, m)
		}
	}
	assert.Less(t, dB(high), -96.0)
}

// At its own rate and pitch a recording is what it was, to the bit.
func TestARecordingAtItsPitchIsItself(t *testing.T) {
	x := make([]float64, 40000)
	for i := range x {
		x[i] = float64(float32(math.Sin(float64(i*i) / 9999)))
	}
	out := path{}.play(t, x)
	for c := range out {
		for i := range x {
			require.Equal(t, x[i], out[c][i], fmt.Sprint("frame ", i))
		}
	}
}

// hush is noise so soft that nothing bends, of 1.5 s.
func hush(gain float64) []float64 {
	x, noise := make([]float64, 72000), dsp.NewNoise(5)
	noise.Run(x)
	for i := range x {
		x[i] *= gain * 0.5 * (1 - math.Cos(2*math.Pi*math.Min(float64(min(i, len(x)-1-i))/4000, 0.5)))
	}
	return x
}

// bending are the effects whose sound goes through a curve, as they are when nothing
// bends, with what the same is without its curve.
var bending = []struct {
	name      string
	wet, bare effect.Effect
}{
	{"soft drive", newEffect("drive", map[string]float64{"amount_percent": 30}), effect.Effect{}},
	{"hard drive", newEffect("drive", map[string]float64{"amount_percent": 80, "curve": 1}), effect.Effect{}},
	{"even drive", newEffect("drive", map[string]float64{"amount_percent": 12, "curve": 2}), effect.Effect{}},
	{"fold", newEffect("drive", map[string]float64{"amount_percent": 50, "curve": 3}), effect.Effect{}},
	{"diode drive", newEffect("drive", map[string]float64{"amount_percent": 12, "curve": 4}), effect.Effect{}},
	{"hard clip", newEffect("clip", map[string]float64{"gain_db": 0}), effect.Effect{}},
	{"soft clip", newEffect("clip", map[string]float64{"gain_db": 12, "curve": 1}), effect.Effect{}},
	{"tape", newEffect("tape", map[string]float64{"bump_db": 0, "top_hz": 20000, "wow_weighted_percent": 0, "flutter_weighted_percent": 0, "amount_percent": 40}), effect.Effect{}},
	{"driven filter", newEffect("filter", map[string]float64{"corner_hz": 5000, "drive_percent": 60}), newEffect("filter", map[string]float64{"corner_hz": 5000})},
	{"driven notch", newEffect("filter", map[string]float64{"shape": 3, "slope": 1, "corner_hz": 900, "resonance_percent": 20, "drive_percent": 60}), newEffect("filter", map[string]float64{"shape": 3, "slope": 1, "corner_hz": 900, "resonance_percent": 20})},
}

// What a curve leaves alone is in time with the sound itself, at every frequency: mixed in,
// in parallel, on a voice, on a bus and beside another row.
func TestIdleCurvesNullAgainstTheDrySound(t *testing.T) {
	x := hush(1e-4)
	bus := func(chain ...effect.Effect) func(*engine.Song) {
		return func(s *engine.Song) {
			s.Mix.Buses = []mixer.Bus{{ID: "b", Name: "Bus"}}
			s.Mix.Buses[0].Chain = chain
			s.Kit.Voices[0].To = "b"
		}
	}
	beside := func(chain ...effect.Effect) func(*engine.Song) {
		return func(s *engine.Song) {
			other := s.Kit.Voices[0]
			other.ID, other.Chain = "w", chain
			s.Kit.Voices = append(s.Kit.Voices, other)
			s.Groove.Lanes = append(s.Groove.Lanes, groove.Lane{Voice: "w", Hits: []groove.Hit{{ID: "i", Velocity: 127}}})
		}
	}
	parallel := func(s effect.Effect) effect.Effect {
		p := newEffect("parallel", map[string]float64{"amount_percent": 100})
		p.Paths[0] = []effect.Effect{s}
		return p
	}
	for _, c := range brief.First(5, bending...) {
		filtered := c.bare.Kind != ""
		dry := path{}.play(t, x)[0]
		if filtered {
			dry = chained(c.bare).play(t, x)[0]
		}
		check := func(how string, out [2][]float64) {
			t.Helper()
			n := min(len(dry), len(out[0]))
			assert.Less(t, nulls(dry[:n], out[0][:n]), -90.0, "%s, %s", c.name, how)
		}
		check("on a voice", chained(c.wet).play(t, x))
		check("on a bus", path{song: bus(c.wet)}.play(t, x))
		if filtered {
			continue // half of a filter's sound is not the filter's
		}
		third := c.wet.Clone()
		third.Values["mix_percent"] = 30
		check("mixed in by 30 %", chained(third).play(t, x))
		check("mixed in on a bus", path{song: bus(third)}.play(t, x))
		check("in parallel", chained(parallel(c.wet)).play(t, x))
		check("in parallel on a bus", path{song: bus(parallel(c.wet))}.play(t, x))
		check("beside another row", path{song: beside(c.wet)}.play(t, x))
		off := c.wet.Clone()
		off.Off = true
		check("off", chained(off).play(t, x))
	}
}

// A clipper's ceiling is the sample peak, whatever comes in.
func TestAClippersCeilingHolds(t *testing.T) {
	kick := make([]float64, 24000)
	for i := range kick {
		at := float64(i) / engine.Rate
		kick[i] = math.Exp(-9*at) * math.Sin(2*math.Pi*(50*at+3*(1-math.Exp(-60*at))))
	}
	noise := hush(1)
	for name, x := range map[string][]float64{"kick": kick, "noise": noise, "5 kHz": sineOf(engine.Rate, 5000, 1, 1)} {
		for _, curve := range []float64{0, 1} {
			for _, ceiling := range []float64{-12, -1, 0} {
				out := chained(newEffect("clip", map[string]float64{"gain_db": 12, "ceiling_db": ceiling, "curve": curve})).play(t, x)[0]
				peak := 0.0
				for _, v := range out {
					peak = math.Max(peak, math.Abs(v))
				}
				assert.LessOrEqual(t, dB(peak), ceiling+1e-4, "%s, curve %g", name, curve)
				assert.Greater(t, dB(peak), ceiling-2.5, "%s, curve %g: nor far below", name, curve)
			}
		}
	}
	// Images of a tone, away from its harmonics.
	out := chained(newEffect("clip", map[string]float64{"gain_db": 12})).play(t, sineOf(engine.Rate, 5000, 1, 2))[0]
	level, worst := dB(amplitude(out, 5000)), 0.0
	for k, m := range spectrum(out, 32768) {
		hz := float64(k) * engine.Rate / 32768
		if near := math.Mod(hz+2500, 5000); hz > 50 && math.Abs(near-2500) > 30 {
			worst = math.Max(worst, m)
		}
	}
	assert.Less(t, dB(worst)-level, -60.0, "images")
}

// Layers that share their bounds add up flat: two to eight of them, close or far.
func TestOwnedBandsAddUpFlat(t *testing.T) {
	for _, bounds := range [][]float64{{150}, {60, 150, 400}, {60, 75}, {100, 200, 400, 800, 1600}, {50, 60, 400, 450, 5000, 5500, 7000}} {
		click := make([]float64, 1000)
		click[500] = 1
		p := path{voice: func(v *sound.Voice) {
			one := v.Layers[0]
			v.Layers = nil
			for i := range len(bounds) + 1 {
				l := one
				l.ID = fmt.Sprint("l", i)
				if i > 0 {
					l.Above = bounds[i-1]
				}
				if i < len(bounds) {
					l.Below = bounds[i]
				}
				v.Layers = append(v.Layers, l)
			}
		}}
		x := make([]float64, 65536)
		copy(x, p.play(t, click)[0])
		for k, c := range fourier.NewFFT(len(x)).Coefficients(nil, x) {
			if hz := float64(k) * engine.Rate / 65536; hz > 15 && hz < 20000 {
				require.InDelta(t, 0, dB(cmplx.Abs(c)), 0.1, "bounds %v at %.0f Hz", bounds, hz)
			}
		}
	}
}

// responseOf is what a mix does to a click, by frequency: dB at a hz.
func responseOf(t *testing.T, p path) func(hz float64) float64 {
	click := make([]float64, 2000)
	click[1000] = 0.25
	x := make([]float64, 1<<16)
	copy(x, p.play(t, click)[0])
	c := fourier.NewFFT(len(x)).Coefficients(nil, x)
	return func(hz float64) float64 {
		return dB(cmplx.Abs(c[int(math.Round(hz*float64(len(x))/engine.Rate))]) / 0.25)
	}
}

// A bell near the top is as wide as an analogue one, and an equalizer that is new is flat.
func TestEqualizersThroughThePath(t *testing.T) {
	bell := responseOf(t, chained(newEffect("equalizer", map[string]float64{"band3.hz": 16000, "band3.gain_db": 12, "band3.q": 1})))
	assert.InDelta(t, 4.0, bell(8000), 0.7, "read of the bilinear transform: 1.8 dB")
	assert.InDelta(t, 12.0, bell(16000), 0.1)
	for _, kind := range []string{"equalizer", "eq"} {
		flat := responseOf(t, chained(newEffect(kind, nil)))
		for hz := 20.0; hz < 20000; hz *= 1.1 {
			assert.InDelta(t, 0, flat(hz), 1e-3, "a new %s at %.0f Hz", kind, hz)
		}
	}
}

// seamed is a tone of 1 kHz that is exactly as long as the loop, through a chain; numbers of
// its effects may be moved over the loop.
func seamed(t *testing.T, loop int, automation []mixer.Automation, effects ...effect.Effect) []float64 {
	t.Helper()
	p := chained(effects...)
	p.loop = true
	p.song = func(s *engine.Song) {
		s.Tempo = music.Steady(60 * 4 * engine.Rate / float64(loop))
		s.Mix.Automation = automation
	}
	out := p.play(t, sineOf(engine.Rate, 1000, 0.25, float64(loop)/engine.Rate))[0]
	require.Len(t, out, loop)
	return out
}

// highs is the energy above 3 kHz in windows of 10 ms of a loop that goes round, dB: in that
// around its seam, and the median.
func highs(x []float64) (seam, median float64) {
	round := append(slices.Clone(x), x...)
	const n = 480
	fft := fourier.NewFFT(n)
	part := make([]float64, n)
	at := func(from int) float64 {
		for i := range part {
			part[i] = round[from+i] * (0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/n))
		}
		sum := 0.0
		for k, c := range fft.Coefficients(nil, part) {
			if float64(k)*engine.Rate/n > 3000 {
				sum += real(c)*real(c) + imag(c)*imag(c)
			}
		}
		return 10 * math.Log10(sum+1e-12)
	}
	var all []float64
	for from := 0; from+n < len(x); from += n / 2 {
		all = append(all, at(from))
	}
	slices.Sort(all)
	return at(len(x) - n/2), all[len(all)/2]
}

// Asked: for every kind of effect, a loop's seam has no more above 3 kHz than its windows
// have by 3 dB; also where a rate is moved.
func TestLoopsCloseWithEveryEffect(t *testing.T) {
	odd := map[string]map[string]float64{
		"tape": {"wow_weighted_percent": 0.25, "flutter_weighted_percent": 1.44}, "worn": {"wow_weighted_percent": 0.15, "flutter_weighted_percent": 0.86}, "shift": {"shift_hz": 33.3},
		"width": {"detune_ct": 14, "delay_ms": 7}, "tremolo": {"time": 1, "rate_hz": 3.3}, "octave": {"low_hz": 200, "high_hz": 500, "amount_percent": 200},
		"echo": {"mix_percent": 40}, "reverb": {"mix_percent": 40, "decay_ms": 1500}, "crush": {"rate_hz": 7777, "bits": 12}, "bed": {"rms_db": -30},
	}
	check := func(name string, loop int, automation []mixer.Automation, effects ...effect.Effect) {
		t.Helper()
		seam, median := highs(seamed(t, loop, automation, effects...))
		assert.Less(t, seam, math.Max(median+3, -60), "%s: seam %.1f, median %.1f dB", name, seam, median)
	}
	for _, k := range effect.Kinds() {
		for _, loop := range []int{bar, 70080} {
			check(fmt.Sprint(k.ID, " in a loop of ", loop), loop, nil, effect.New("s", k, odd[k.ID]))
		}
	}
	for id, number := range map[string]string{"shift": "shift_hz", "width": "detune_ct", "tremolo": "rate_hz", "crush": "rate_hz"} {
		p, _ := effect.KindOf(id).Param(number)
		low, high := p.Between(p.Min, p.Max, 0.55), p.Between(p.Min, p.Max, 0.7)
		automation := mixer.Automation{At: "v/chain/s/" + number, Points: []mixer.AutomationPoint{{Bar: 0, Value: low}, {Bar: 0.5, Value: high}, {Bar: 1, Value: low}}}
		check(id+" that is moved", bar, []mixer.Automation{automation}, effect.New("s", effect.KindOf(id), odd[id]))
	}
}

// The output's level comes before its ceiling: it cannot lift a peak above that.
func TestTheOutputsLevelComesBeforeItsCeiling(t *testing.T) {
	for _, kind := range []string{"ceiling", "limit", "clip"} {
		p := path{song: func(s *engine.Song) {
			s.Mix.Out.Chain = []effect.Effect{newEffect("compressor", nil), newEffect(kind, map[string]float64{"gain_db": 0, "ceiling_db": -1})}
			s.Mix.Out.Level = 9
		}}
		peak := 0.0
		for _, v := range p.play(t, sineOf(engine.Rate, 100, 0.7, 1))[0] {
			peak = math.Max(peak, math.Abs(v))
		}
		assert.LessOrEqual(t, dB(peak), -0.999, kind)
		assert.Greater(t, dB(peak), -2.0, "%s: and the level is heard", kind)
	}
}

// RMS detection reads a sine as high as peak detection does.
func TestRMSReadsASineAsItsPeak(t *testing.T) {
	level := func(detector float64) float64 {
		v := map[string]float64{"detector": detector, "threshold_db": -30, "ratio": 10, "knee_db": 0, "attack_ms": 5, "release_ms": 100}
		return dB(amplitude(chained(newEffect("compressor", v)).play(t, sineOf(engine.Rate, 1000, 0.5, 2))[0], 1000))
	}
	assert.InDelta(t, level(0), level(1), 0.3)
	// 6 dB below full scale is 24 above the threshold, of which a tenth is left.
	assert.InDelta(t, -30+24/10.0, level(1), 0.3)
}

// Hiss of -30 dB is -30 dB RMS (a sample of 1 is 0 dB), in a bed and on a worn medium.
func TestHissIsRMS(t *testing.T) {
	for name, s := range map[string]effect.Effect{
		"bed": newEffect("bed", map[string]float64{"rms_db": -30}), "worn": newEffect("worn", map[string]float64{"hiss_rms_db": -30, "crackle_db": -80}),
	} {
		sum, n := 0.0, 0
		for _, v := range chained(s).play(t, make([]float64, bar))[1][4800:bar] {
			sum += v * v
			n++
		}
		assert.InDelta(t, -30, 10*math.Log10(sum/float64(n)), 0.2, name)
	}
}

// Wow and flutter are what a meter reads: the peak of the speed's deviation, weighted by
// IEC 60386 (its table, from memory), of a tone of 3150 Hz.
func TestWowAndFlutterAreAsRated(t *testing.T) {
	weights := [][2]float64{{0.1, -48}, {0.2, -30.6}, {0.315, -19.7}, {0.4, -15}, {0.63, -8.4}, {0.8, -6}, {1, -4.2}, {1.6, -1.8}, {2, -0.9}, {4, 0}, {6.3, -0.9}, {10, -2.1}, {20, -5.9}, {40, -10.4}, {63, -14.2}, {100, -17.3}, {200, -23}}
	weight := func(hz float64) float64 {
		for i := 1; i < len(weights); i++ {
			if a, b := weights[i-1], weights[i]; hz >= a[0] && hz < b[0] {
				return math.Pow(10, (a[1]+(b[1]-a[1])*math.Log(hz/a[0])/math.Log(b[0]/a[0]))/20)
			}
		}
		return 0
	}
	read := func(values map[string]float64) float64 {
		v := map[string]float64{"amount_percent": 0, "bump_db": 0, "top_hz": 20000, "wow_weighted_percent": 0, "flutter_weighted_percent": 0}
		for k, x := range values {
			v[k] = x
		}
		p := chained(newEffect("tape", v))
		p.song = func(s *engine.Song) { s.Groove.Bars = 16; s.Groove.Lanes[0].Steps = 0 }
		p.bars = 16
		x := p.play(t, sineOf(engine.Rate, 3150, 0.5, 30))[0]
		// The phase against a steady tone every 2 ms, and what it goes by.
		const every = 96
		var last complex128
		var speed []float64
		for at := engine.Rate; at+2*every < 25*engine.Rate; at += every {
			var now complex128
			for i := range 2 * every {
				w := 0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/(2*every))
				now += complex(w*x[at+i], 0) * cmplx.Rect(1, -2*math.Pi*3150*float64(at+i)/engine.Rate)
			}
			if last != 0 {
				speed = append(speed, cmplx.Phase(now*cmplx.Conj(last))/(2*math.Pi)*(engine.Rate/every)/3150*100)
			}
			last = now
		}
		fft := fourier.NewFFT(len(speed))
		c := fft.Coefficients(nil, speed)
		for k := range c {
			c[k] *= complex(weight(float64(k)*(engine.Rate/every)/float64(len(speed)))/float64(len(speed)), 0)
		}
		peak := 0.0
		for _, v := range fft.Sequence(nil, c)[200 : len(speed)-200] {
			peak = math.Max(peak, math.Abs(v))
		}
		return peak
	}
	assert.InEpsilon(t, 0.1, read(map[string]float64{"wow_weighted_percent": 0.1}), 0.15)
	assert.InEpsilon(t, 0.5, read(map[string]float64{"flutter_weighted_percent": 0.5}), 0.15)
}

// Layers whose effects are late are in time with those that have none: an idle drive nulls
// against the same layer without it.
func TestLayersAreInTime(t *testing.T) {
	render := func(effects ...effect.Effect) []float64 {
		soft := map[string]float64{"body.level_db": -12, "snap.level_db": -24}
		r := sound.DefaultRecipe(sound.Kick).With(soft)
		r.Effects, r.Modulations, r.Curves = effects, nil, nil
		l := sound.Synthesized("a", "A", r)
		p := path{voice: func(v *sound.Voice) {
			v.Layers = []sound.Layer{l}
			if len(effects) > 0 { // beside the same without its effect
				bare := sound.DefaultRecipe(sound.Kick).With(soft)
				bare.Effects, bare.Modulations, bare.Curves = nil, nil, nil
				v.Layers = append(v.Layers, sound.Synthesized("a", "A", bare))
			}
		}}
		return p.play(t, []float64{1})[0]
	}
	dry := render()
	for name, s := range map[string]effect.Effect{"drive": newEffect("drive", map[string]float64{"curve": 1, "amount_percent": 22}), "clip": newEffect("clip", map[string]float64{"gain_db": 0, "ceiling_db": 0})} {
		both := render(s)
		n := min(len(dry), len(both))
		assert.Less(t, nulls(dry[:n], both[:n]), -90.0, name)
	}
}

// A recording whose length is kept while its pitch moves keeps both.
func TestKeptLengthsAreInTune(t *testing.T) {
	p := path{layer: func(l *sound.Layer) { l.Pitch, l.Recording.KeepLength = 7, true }}
	at := 1000 * math.Exp2(7.0/12)
	out := p.play(t, sineOf(engine.Rate, 1000, 0.5, 2))[0]
	level, rest := toneAndRest(out, at)
	assert.InDelta(t, -6.02, level, 0.5)
	assert.Less(t, rest-level, -25.0, "the joints of the stretching")
	assert.InDelta(t, 2*engine.Rate, len(out), 0.05*2*engine.Rate)
}
