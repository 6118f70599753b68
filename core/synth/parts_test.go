package synth

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/dsp/fourier"
	"pgregory.net/rapid"

	"jubrak/core/effect"
	"jubrak/core/sound"
)

// Asked: a kick struck a thousand times is the same to the bit.
func TestAThousandStrokesAreTheSame(t *testing.T) {
	v := voiceOf(sound.DefaultRecipe(sound.Kick).With(map[string]float64{"snap.kind": 1}).Then("compressor", nil))
	var first []float64
	for i := range 1000 {
		var n Note
		n.Trigger(v, Hard(110, uint64(i)))
		b := block(256)
		n.Add(b, 0)
		if i == 0 {
			first = b.Left
			continue
		}
		for k, x := range b.Left {
			if x != first[k] {
				t.Fatalf("stroke %d differs at frame %d", i, k)
			}
		}
		n.end()
	}
}

// Published: ratios of an ideal membrane's modes (zeros of Bessel functions;
// Fletcher & Rossing, The Physics of Musical Instruments) and of a bar with free ends.
func TestModes(t *testing.T) {
	membraneOrders := []int{0, 1, 2, 0, 3, 1, 4, 2, 0, 5}
	for i, want := range []float64{1, 1.594, 2.136, 2.296, 2.653, 2.918, 3.156, 3.501, 3.600, 3.652} {
		// The table's last two are rounded coarsely: the zeros give 3.598 and 3.647.
		assert.InDelta(t, want, membraneModes[i].ratio, 0.005, "mode %d of a membrane", i)
		assert.InDelta(t, 0, math.Jn(membraneOrders[i], membraneModes[i].ratio*2.404825557695773), 1e-9, "it is a zero")
	}
	for i, want := range []float64{1, 2.757, 5.404, 8.933, 13.344} {
		assert.InDelta(t, want, barModes[i].ratio, 0.001, "mode %d of a bar", i)
	}
	// In its middle a membrane moves only in its round modes.
	assert.NotZero(t, membraneModes[0].at(0))
	assert.Zero(t, membraneModes[1].at(0))
	assert.Zero(t, membraneModes[2].at(0))
	assert.NotZero(t, membraneModes[3].at(0))
	// Free ends move most; in the middle every second mode rests.
	assert.InDelta(t, 1, barModes[0].at(0), 1e-9)
	assert.InDelta(t, 0, barModes[1].at(1), 1e-9)
}

// The ring sounds at its modes and falls as asked.
func TestRing(t *testing.T) {
	r := sound.Blank().With(map[string]float64{"ring.level_db": 0, "ring.pitch_hz": 100, "ring.drop_st": 0, "ring.decay_ms": 3000, "ring.damping_percent": 0, "ring.strike_percent": 40, "ring.modes": 4})
	p := spectrumOf(OneShot(r, rate, Hard(127, 1), 1500).Channels[0][:rate])
	top := func(hz float64) float64 {
		best := math.Inf(-1)
		for k := int(hz) - 3; k <= int(hz)+3; k++ {
			best = math.Max(best, p[k])
		}
		return best
	}
	for _, ratio := range []float64{1, 1.594, 2.136, 2.296} {
		assert.Greater(t, top(100*ratio), top(100*ratio+9)+20, "a mode at %g", ratio)
	}
}

// spectrumOf is the power of a second of sound by bins of 1 Hz, dB.
func spectrumOf(x []float32) []float64 {
	w := make([]float64, rate)
	for i := range w {
		p := 2 * math.Pi * float64(i) / rate
		w[i] = float64(x[i]) * (0.35875 - 0.48829*math.Cos(p) + 0.14128*math.Cos(2*p) - 0.01168*math.Cos(3*p))
	}
	out := make([]float64, rate/2)
	for k, c := range fourier.NewFFT(rate).Coefficients(nil, w)[:rate/2] {
		out[k] = 10 * math.Log10(real(c)*real(c)+imag(c)*imag(c)+1e-30)
	}
	return out
}

// Asked: no image above -60 dB. A tone's partials are all it has.
func TestWavesDoNotAlias(t *testing.T) {
	for wave := 1; wave <= 3; wave++ {
		for _, hz := range []float64{110, 1000, 1900} {
			r := sound.Blank().With(map[string]float64{"body.level_db": 0, "body.wave": float64(wave), "body.start_hz": hz, "body.end_hz": hz, "body.attack_ms": 0.1, "body.hold_ms": 1000, "body.decay_ms": 8000})
			p := spectrumOf(OneShot(r, rate, Hard(127, 1), 1200).Channels[0][1000 : 1000+rate])
			worst, peak := math.Inf(-1), math.Inf(-1)
			for k := 30; k < len(p); k++ {
				if near := math.Mod(float64(k)+hz/2, hz) - hz/2; math.Abs(near) < 6 {
					peak = math.Max(peak, p[k])
				} else {
					worst = math.Max(worst, p[k])
				}
			}
			assert.Less(t, worst-peak, -60.0, "wave %d at %g Hz", wave, hz)
		}
	}
}

// A drawn period is heard as it is drawn: a square of four values has odd partials.
func TestDrawnWave(t *testing.T) {
	r := sound.Blank().With(map[string]float64{"body.level_db": 0, "body.start_hz": 200, "body.end_hz": 200, "body.hold_ms": 1000, "body.decay_ms": 8000})
	r.Body.Wave, r.Body.Cycle = sound.DrawnWave, []float64{1, 1, 1, 1, 1, 1, 1, 1, -1, -1, -1, -1, -1, -1, -1, -1}
	p := spectrumOf(OneShot(r, rate, Hard(127, 1), 1200).Channels[0][1000 : 1000+rate])
	assert.Greater(t, p[600], p[400]+30)
	assert.InDelta(t, 20*math.Log10(3), p[200]-p[600], 1.5, "the third partial is a third")
}

// Published (Karjalainen & Järvinen 2007) and derivations: kinds of noise by their
// slopes: pink falls by 3 dB an octave, brown by 6, white and velvet not.
func TestKindsOfNoise(t *testing.T) {
	for kind, slope := range map[int]float64{0: 0, 1: -3, 2: -6, 3: 0} {
		var p noise
		n := sound.Blank().Noise
		n.Kind = kind
		p.start(5)
		x := make([]float32, 4*rate)
		var power float64
		for i := range x {
			v := p.raw(kind, rate)
			x[i] = float32(v)
			power += v * v
		}
		assert.InDelta(t, -4.77, 10*math.Log10(power/float64(len(x))), 4, "kind %d is about as loud as white noise", kind)
		band := func(lo, hi int) (sum float64) {
			for part := range 4 {
				for _, db := range spectrumOf(x[part*rate:])[lo:hi] {
					sum += math.Pow(10, db/10)
				}
			}
			return 10 * math.Log10(sum/float64(hi-lo))
		}
		got := (band(4000, 5600) - band(125, 175)) / 5
		assert.InDelta(t, slope, got, 0.5, "kind %d", kind)
	}
}

// Bursts begin as far apart as they are asked to.
func TestBursts(t *testing.T) {
	r := sound.Blank().With(map[string]float64{"noise.level_db": 0, "noise.bursts": 4, "noise.spacing_ms": 20, "noise.burst_decay_ms": 3, "noise.decay_ms": 10})
	x := OneShot(r, rate, Hard(127, 1), 300).Channels[0]
	loud := func(ms int) (sum float64) {
		for _, v := range x[ms*48 : ms*48+48] {
			sum += float64(v) * float64(v)
		}
		return sum
	}
	for _, at := range []int{20, 40, 60} {
		assert.Greater(t, loud(at), 30*loud(at-2), "at %d ms", at)
	}
	n := &r.Noise
	n.Uneven = 100
	at := burstsOf(n, 0, rate)
	for i := 1; i < 4; i++ {
		assert.InDelta(t, float64(i)*20*48, at.at[i], 10.01*48)
		assert.NotEqual(t, i*20*48, at.at[i])
	}
}

// Layers take turns, and none comes twice in a row by shuffling.
func TestTurns(t *testing.T) {
	layer := func(id string, turn int) sound.Layer {
		l := sound.Synthesized(id, id, sound.DefaultRecipe(sound.Rim))
		l.Turn = turn
		return l
	}
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(2, 6).Draw(t, "layers")
		var layers []sound.Layer
		for i := range n {
			layers = append(layers, layer(string(rune('a'+i)), sound.Shuffled))
		}
		v := Compile(sound.Alone(layers...), nil, rate)
		last, seen := -1, map[int]int{}
		for k := range 8 * n {
			which := -1
			for i := range n {
				if v.turns.sounds(i, v.layers[i].of, Stroke{Ordinal: k}) {
					require.Equal(t, -1, which, "one at a time")
					which = i
				}
			}
			require.NotEqual(t, last, which)
			last = which
			seen[which]++
		}
		for i := range n {
			require.Equal(t, 8, seen[i], "each as often")
		}
	})
	v := Compile(sound.Alone(layer("a", sound.InTurn), layer("b", sound.InTurn), layer("c", sound.EveryNth), layer("d", sound.ByLot)), nil, rate)
	lots := 0
	for k := range 400 {
		s := Stroke{Ordinal: k}
		assert.Equal(t, k%2 == 0, v.turns.sounds(0, v.layers[0].of, s))
		assert.Equal(t, k%2 == 1, v.turns.sounds(1, v.layers[1].of, s))
		assert.Equal(t, k%2 == 1, v.turns.sounds(2, v.layers[2].of, s), "every second")
		if v.turns.sounds(3, v.layers[3].of, s) {
			lots++
		}
	}
	assert.InDelta(t, 200, lots, 40)
}

// A borrowed attack is the other sound's to the sample, then the layer's own.
func TestBorrowedAttack(t *testing.T) {
	stick := &sound.Sample{Rate: rate, X: [][]float32{make([]float32, 4800)}}
	for i := range stick.X[0] {
		stick.X[0][i] = float32(math.Sin(float64(i) / 3))
	}
	own := sound.Synthesized("a", "A", sound.DefaultRecipe(sound.Tom).Then("limit", nil))
	with := own
	with.Attack = &sound.Attack{Blob: "s", Length: 5, Fade: 2}
	samples := sound.Samples{"s": stick}
	a, b := Shot(sound.Alone(with), samples, rate, Hard(127, 1), 500), Shot(sound.Alone(own), samples, rate, Hard(127, 1), 500)
	for i := range 240 {
		require.InDelta(t, stick.X[0][i], a.Channels[0][i], 1e-6)
	}
	for i := 340; i < 4000; i++ {
		require.Equal(t, b.Channels[0][i], a.Channels[0][i])
	}
}

// A glide gets where it goes in its time, and legato goes on without an attack.
func TestGlide(t *testing.T) {
	r := sound.Blank().With(map[string]float64{"body.level_db": 0, "body.start_hz": 100, "body.end_hz": 100, "body.hold_ms": 1000, "body.decay_ms": 8000, "body.attack_ms": 0.1})
	v := voiceOf(r)
	var n Note
	n.Trigger(v, Stroke{Velocity: 127, Semitones: 12, BeatMS: 500})
	n.From(0, 100)
	pitch := func(frames int) float64 {
		b := effect.Block{Left: make([]float64, frames), Right: make([]float64, frames)}
		for at := 0; at < frames; at += 480 {
			n.Add(b.Part(at, min(at+480, frames)), 0)
		}
		crossings, first, last := 0, -1, 0
		for i := 1; i < frames; i++ {
			if b.Left[i-1] < 0 && b.Left[i] >= 0 {
				if first < 0 {
					first = i
				} else {
					crossings++
				}
				last = i
			}
		}
		return float64(crossings) / float64(last-first) * rate
	}
	assert.InDelta(t, 141, pitch(9600-4800), 22, "half-way")
	assert.InDelta(t, 200, pitch(9600), 1, "there")
	n.Follow(0, 50)
	pitch(4800)
	assert.InDelta(t, 100, pitch(9600), 0.6)
}
