package effect

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/dsp/fourier"
)

// sine is n frames of a tone in both channels.
func sine(hz, gain float64, n int) Block {
	b := Block{make([]float64, n), make([]float64, n)}
	for i := range b.Left {
		b.Left[i] = gain * math.Sin(2*math.Pi*hz*float64(i)/rate)
		b.Right[i] = b.Left[i]
	}
	return b
}

// power is the spectrum of a second of x in dB by bins of 1 Hz, with a
// Blackman-Harris window, 0 at a full-scale tone.
func power(x []float64) []float64 {
	w := make([]float64, rate)
	for i := range w {
		p := 2 * math.Pi * float64(i) / rate
		w[i] = x[i] * (0.35875 - 0.48829*math.Cos(p) + 0.14128*math.Cos(2*p) - 0.01168*math.Cos(3*p)) / 0.35875
	}
	out := make([]float64, rate/2)
	for k, c := range fourier.NewFFT(rate).Coefficients(nil, w)[:rate/2] {
		out[k] = 10 * math.Log10((real(c)*real(c)+imag(c)*imag(c))*4/(rate*rate)+1e-30)
	}
	return out
}

// top is the strongest of bins around a frequency.
func top(p []float64, hz int) float64 {
	best := math.Inf(-1)
	for k := max(hz-5, 0); k <= hz+5; k++ {
		best = math.Max(best, p[k])
	}
	return best
}

// Published: Parker, Zavalishin & Le Bivic, DAFx-16; asked for are images at least
// 60 dB below a driven 5 kHz sine.
func TestNonlinearEffectsDoNotAlias(t *testing.T) {
	for name, chain := range map[string]*Chain{
		"soft":    made("drive", map[string]float64{"amount_percent": 100}),
		"hard":    made("drive", map[string]float64{"curve": 1, "amount_percent": 100}),
		"even":    made("drive", map[string]float64{"curve": 2, "amount_percent": 100}),
		"fold":    made("drive", map[string]float64{"curve": 3, "amount_percent": 60}),
		"diode":   made("drive", map[string]float64{"curve": 4, "amount_percent": 100}),
		"clip":    made("clip", map[string]float64{"gain_db": 24}),
		"filter":  made("filter", map[string]float64{"corner_hz": 20000, "drive_percent": 100}),
		"quieter": made("drive", map[string]float64{"curve": 1, "amount_percent": 35}),
	} {
		b := sine(5000, 1, rate+rate/2)
		run(chain, b, 256)
		p := power(b.Left[rate/2:])
		worst, at := math.Inf(-1), 0
		for k := 20; k < len(p); k++ {
			if near := (k + 2500) % 5000; near > 2490 && near < 2510 {
				continue // the tone and its true harmonics
			}
			if p[k] > worst {
				worst, at = p[k], k
			}
		}
		assert.Less(t, worst-top(p, 5000), -60.0, "%s: the strongest image is at %d Hz", name, at)
	}
}

// Derivations: odd curves have odd harmonics alone, uneven ones the octave too.
func TestDriveCurves(t *testing.T) {
	for c, even := range []bool{false, false, true, false, true} {
		b := sine(200, 1, 2*rate)
		run(made("drive", map[string]float64{"curve": float64(c), "amount_percent": 60}), b, 256)
		p := power(b.Left[rate:])
		if even {
			assert.Greater(t, top(p, 400), -30.0, "curve %d", c)
		} else {
			assert.Less(t, top(p, 400), -90.0, "curve %d", c)
		}
		assert.Greater(t, top(p, 600), -40.0, "curve %d", c)
		var peak float64
		for _, v := range b.Left[rate:] {
			peak = math.Max(peak, math.Abs(v))
		}
		assert.InDelta(t, 1, peak, 0.45, "curve %d stays near full scale", c)
	}
	for c := range 5 {
		b := sine(200, 0.01, 2*rate)
		run(made("drive", map[string]float64{"curve": float64(c), "amount_percent": 0}), b, 256)
		assert.InDelta(t, -40, top(power(b.Left[rate:]), 200), 0.1, "curve %d at 0 %% is clean", c)
	}
}

// Derivation (Bennett 1948, quoted in every handbook): rounding to n bits leaves
// 6.02·n + 1.76 dB between a full-scale sine and its noise.
func TestBitsHaveTheirSignalToNoise(t *testing.T) {
	for _, bits := range []float64{8, 12} {
		b := sine(997, 1-1/math.Exp2(bits-1), rate)
		clean := append([]float64(nil), b.Left...)
		run(made("crush", map[string]float64{"bits": bits, "rate_hz": 48000}), b, 256)
		var signal, noise float64
		for i, v := range b.Left {
			signal += clean[i] * clean[i]
			noise += (v - clean[i]) * (v - clean[i])
		}
		assert.InDelta(t, 6.02*bits+1.76, 10*math.Log10(signal/noise), 0.3, "%g bits", bits)
	}
	b := sine(1000, 0.5, rate)
	run(made("crush", map[string]float64{"bits": 16, "rate_hz": 12000}), b, 256)
	assert.Greater(t, top(power(b.Left), 11000), -40.0, "holding at 12 kHz makes images around it")
}

// Derivation: Butterworth responses of second and fourth order.
func TestSweptFilter(t *testing.T) {
	gain := func(values map[string]float64, hz float64) float64 {
		b := sine(hz, 1, 2*rate)
		run(made("filter", values), b, 256)
		return top(power(b.Left[rate:]), int(hz))
	}
	for slope, order := range []float64{2, 4} {
		for _, hz := range []float64{250, 1000, 4000} {
			// The bilinear transform bends frequencies.
			w := math.Tan(math.Pi*hz/rate) / math.Tan(math.Pi*1000/rate)
			low := -10 * math.Log10(1+math.Pow(w, 2*order))
			high := -10 * math.Log10(1+math.Pow(w, -2*order))
			assert.InDelta(t, low, gain(map[string]float64{"slope": float64(slope)}, hz), 0.05)
			assert.InDelta(t, high, gain(map[string]float64{"shape": 1, "slope": float64(slope)}, hz), 0.05)
		}
	}
	assert.InDelta(t, 0, gain(map[string]float64{"shape": 2}, 1000), 0.01, "a band pass lets its middle through")
	assert.Less(t, gain(map[string]float64{"shape": 3}, 1000), -80.0, "a notch takes it away")
	assert.InDelta(t, 30-3, gain(map[string]float64{"resonance_percent": 100}, 1000), 1.0)
}

// Published: Audio EQ Cookbook (W3C Note 2021): a bell has its gain at its centre, a
// shelf half of it (in dB) at its corner and all of it beyond, for Q 1/√2.
func TestEqualizer(t *testing.T) {
	gain := func(values map[string]float64, hz float64) float64 {
		b := sine(hz, 0.1, 2*rate)
		run(made("eq", values), b, 256)
		return top(power(b.Left[rate:]), int(hz)) + 20
	}
	assert.InDelta(t, 9, gain(map[string]float64{"band2.gain_db": 9}, 500), 0.01)
	assert.InDelta(t, 0, gain(map[string]float64{"band2.gain_db": 9, "band2.q": 4}, 5000), 0.05)
	shelf := map[string]float64{"band4.shape": 2, "band4.hz": 4000, "band4.gain_db": 12, "band4.q": math.Sqrt2 / 2}
	assert.InDelta(t, 6, gain(shelf, 4000), 0.01)
	assert.InDelta(t, 12, gain(shelf, 18000), 0.1)
	assert.InDelta(t, 0, gain(shelf, 200), 0.05)
	low := map[string]float64{"band1.shape": 1, "band1.hz": 200, "band1.gain_db": -8, "band1.q": math.Sqrt2 / 2}
	assert.InDelta(t, -4, gain(low, 200), 0.01)
	assert.InDelta(t, -8, gain(low, 25), 0.1)
	assert.Less(t, gain(map[string]float64{"band3.shape": 5}, 2000), -60.0)
	assert.InDelta(t, 0, gain(nil, 300), 1e-6)
}

// Published: Giannoulis, Massberg & Reiss 2012, eq. 4: levels that hold still come
// out on the static curve.
func TestCompressorHasItsStaticCurve(t *testing.T) {
	values := map[string]float64{"threshold_db": -20, "ratio": 4, "knee_db": 10, "attack_ms": 0.1, "release_ms": 300}
	for _, in := range []float64{-50, -30, -24, -20, -17, -15, -10, -3, 0} {
		b := sine(1000, gainOf(in), 2*rate)
		run(made("compressor", values), b, 256)
		want := in
		switch over := in + 20; {
		case 2*over > 10:
			want = -20 + over/4
		case 2*over >= -10:
			want = in + (1.0/4-1)*(over+5)*(over+5)/(2*10)
		}
		assert.InDelta(t, want, top(power(b.Left[rate:]), 1000), 0.3, "at %g dB", in)
	}
	lifted := sine(1000, gainOf(-50), 2*rate)
	run(made("compressor", map[string]float64{"up_threshold_db": -40, "up_ratio": 2}), lifted, 256)
	assert.InDelta(t, -45, top(power(lifted.Left[rate:]), 1000), 0.3, "half of what it lies below")
}

// Derivation: one time constant leaves 1/e (in dB, as the gain is smoothed).
func TestCompressorTimes(t *testing.T) {
	b := sine(2000, 1, rate)
	run(made("compressor", map[string]float64{"threshold_db": -20, "ratio": 30, "knee_db": 0, "attack_ms": 30, "release_ms": 1000}), b, 256)
	at := func(ms float64) float64 {
		var peak float64
		for i := int((ms - 0.5) * 48); i < int((ms+0.5)*48); i++ {
			peak = math.Max(peak, math.Abs(b.Left[i]))
		}
		return 20 * math.Log10(peak)
	}
	full := -20 * (1 - 1.0/30)
	assert.InDelta(t, full*(1-math.Exp(-1)), at(30), 0.4)
	assert.InDelta(t, full*(1-math.Exp(-3)), at(90), 0.4)
}

// Published: Linkwitz & Riley 1976: bands left alone add up flat.
func TestBandsAddUpFlat(t *testing.T) {
	still := map[string]float64{"ratio": 1, "up_ratio": 1}
	for _, hz := range []float64{40, 160, 700, 3200, 9000} {
		b := sine(hz, 0.5, 2*rate)
		run(made("bands", still), b, 256)
		assert.InDelta(t, -6.02, top(power(b.Left[rate:]), int(hz)), 0.02, "%g Hz", hz)
	}
	// Highs alone are turned down where only they are loud.
	b := sine(8100, 1, 2*rate)
	for i, v := range sine(60, gainOf(-40), 2*rate).Left {
		b.Left[i] += v
		b.Right[i] += v
	}
	run(made("bands", map[string]float64{"up_ratio": 1, "high_hz": 1000}), b, 256)
	p := power(b.Left[rate:])
	assert.InDelta(t, -18, top(p, 8100), 0.3)
	assert.InDelta(t, -40, top(p, 60), 0.3)
}

// Asked: the shift is exact to 0.1 Hz and its image 50 dB down.
func TestShift(t *testing.T) {
	for _, hz := range []float64{60, 440, 5000, 15000} {
		b := sine(hz, 0.5, 3*rate)
		run(made("shift", map[string]float64{"shift_hz": 20}), b, 256)
		p := power(b.Left[2*rate:])
		assert.InDelta(t, -6.02, p[int(hz)+20], 0.1, "%g Hz goes up by 20", hz)
		assert.Less(t, top(p, int(hz)-20), -56.0, "%g Hz: the image", hz)
		// The exact shift, by the turn of the phase over two seconds.
		turn := func(x []float64, hz float64) float64 {
			var re, im float64
			for i, v := range x {
				sin, cos := math.Sincos(2 * math.Pi * hz * float64(i) / rate)
				re += v * cos
				im -= v * sin
			}
			return math.Atan2(im, re)
		}
		drift := turn(b.Left[2*rate:2*rate+rate/2], hz+20) - turn(b.Left[2*rate+rate/2:3*rate], hz+20)
		drift = math.Remainder(drift+2*math.Pi*(hz+20)*0.5, 2*math.Pi)
		assert.Less(t, math.Abs(drift)/(2*math.Pi)/0.5, 0.1, "%g Hz", hz)
	}
}

// Published: ISO 3382-1 (decay by backward integration, −5 to −25 dB); Jot &
// Chaigne 1991: the network's T60 is as asked, within 10 %.
func TestReverbDecaysAsAsked(t *testing.T) {
	for _, asked := range []float64{300, 1000, 3000} {
		for _, size := range []float64{25, 100} {
			// Noise below the damping, cut off.
			b := noise(4*rate, 0)
			src := noise(rate/2, 0.5)
			copy(b.Left, src.Left)
			copy(b.Right, src.Right)
			c, _ := NewChain([]Effect{
				New("band", KindOf("filter"), map[string]float64{"shape": 2, "corner_hz": 700}),
				New("room", KindOf("reverb"), map[string]float64{"decay_ms": asked, "size_percent": size, "damping_hz": 20000, "mix_percent": 100}),
			}, rate)
			run(c, b, 256)
			assert.InEpsilon(t, asked, decay(b.Left[rate/2:]), 0.1, "size %g", size)
		}
	}
}

// decay is the time to fall 60 dB, by backward integration and a line from -5 to
// -25 dB, ms.
func decay(x []float64) float64 {
	sums := make([]float64, len(x)+1)
	for i := len(x) - 1; i >= 0; i-- {
		sums[i] = sums[i+1] + x[i]*x[i]
	}
	var n, st, sd, stt, std float64
	for i := range x {
		d := 10 * math.Log10(sums[i]/sums[0]+1e-20)
		if d > -5 || d < -25 {
			continue
		}
		at := float64(i) / rate
		n, st, sd, stt, std = n+1, st+at, sd+d, stt+at*at, std+at*d
	}
	return -60 / ((n*std - st*sd) / (n*stt - st*st)) * 1000
}

func TestComb(t *testing.T) {
	c := made("comb", map[string]float64{"tone_hz": 480, "feedback_percent": 50})
	b := Block{make([]float64, 1000), make([]float64, 1000)}
	b.Left[0] = 1
	run(c, b, 100)
	for k, want := range []float64{1, 0.5, 0.25, 0.125} {
		assert.InDelta(t, want, b.Left[100*k], 1e-9, "round %d", k)
	}
	assert.InDelta(t, 0, b.Left[50], 1e-12)
}

func TestTransient(t *testing.T) {
	hit := func(attack, sustain float64) (first, later float64) {
		b := Block{make([]float64, rate), make([]float64, rate)}
		for i := range b.Left[4800:] {
			b.Left[4800+i] = math.Exp(-float64(i)/4000) * math.Sin(2*math.Pi*400*float64(i)/rate)
		}
		run(made("transient", map[string]float64{"attack_db": attack, "sustain_db": sustain}), b, 256)
		for i := 4800; i < 4800+480; i++ {
			first = math.Max(first, math.Abs(b.Left[i]))
		}
		for i := 4800 + 9600; i < 4800+10000; i++ {
			later = math.Max(later, math.Abs(b.Left[i]))
		}
		return 20 * math.Log10(first), 20 * math.Log10(later)
	}
	first, later := hit(0, 0)
	harder, same := hit(9, 0)
	assert.InDelta(t, first+9, harder, 1.5)
	assert.InDelta(t, later, same, 0.5)
	kept, longer := hit(0, 9)
	assert.InDelta(t, first, kept, 0.7)
	assert.InDelta(t, later+9, longer, 1.5)
}

// Derivation: two copies c cents apart beat at the difference of their frequencies;
// what is summed to one channel below the mono frequency stays as it is.
func TestWidth(t *testing.T) {
	b := sine(1000, 0.5, 2*rate)
	run(made("width", map[string]float64{"detune_ct": 20}), b, 256)
	left, right := power(b.Left[rate:]), power(b.Right[rate:])
	assert.Greater(t, left[1012], -7.0, "20 cents above")
	assert.Greater(t, right[988], -7.0, "20 cents below")
	lows := sine(80, 0.5, 2*rate)
	run(made("width", map[string]float64{"delay_ms": 5, "mono_below_hz": 300}), lows, 256)
	for i := rate; i < rate+1000; i++ {
		require.InDelta(t, lows.Left[i], lows.Right[i], 0.01)
	}
	apart := sine(2000, 0.5, rate)
	run(made("width", map[string]float64{"delay_ms": 5}), apart, 256)
	assert.InDelta(t, apart.Left[10000], apart.Right[10240], 1e-9)
}

func TestMixHalfAndHalf(t *testing.T) {
	for _, k := range Kinds() {
		dry, wet := noise(2000, 0.5), noise(2000, 0.5)
		whole, half := made(k.ID, map[string]float64{"mix_percent": 100}), made(k.ID, map[string]float64{"mix_percent": 50})
		run(whole, wet, 128)
		both := noise(2000, 0.5)
		run(half, both, 128)
		late := whole.Latency()
		for i := late; i < 2000; i++ {
			require.InDelta(t, (wet.Left[i]+dry.Left[i-late])/2, both.Left[i], 1e-9, k.ID)
		}
	}
}

// Asked: no click where a number is dragged: while every number of every effect
// jumps in its range, a steady tone has no step beyond -70 dB that the numbers at
// rest do not have, in the highs where a click would be.
func TestNumbersGlide(t *testing.T) {
	for _, at := range []struct{ kind, id string }{
		{"drive", "level_db"}, {"drive", "amount_percent"}, {"filter", "corner_hz"}, {"eq", "band3.gain_db"}, {"eq", "band2.hz"},
		{"compressor", "gain_db"}, {"transient", "attack_db"}, {"clip", "gain_db"}, {"limit", "ceiling_db"}, {"width", "side_percent"}, {"shift", "mix_percent"},
	} {
		k := KindOf(at.kind)
		p, place := k.Param(at.id)
		c, _ := NewChain([]Effect{New("one", k, nil)}, rate)
		low := p.Between(p.Min, p.Max, 0.4)
		high := p.Between(p.Min, p.Max, 0.6)
		r := rand.New(rand.NewPCG(1, 2))
		b := sine(100, 0.25, 3*rate)
		value := low
		for i := 0; i < b.Frames(); i += 32 {
			// A hand moves: up and down by a fiftieth of the range.
			value = math.Min(math.Max(value+(r.Float64()-0.5)*(high-low)/25, low), high)
			c.Values(0)[place] = value
			c.Tune(0, 32)
			c.Process(b.Part(i, i+32), nil)
		}
		spectrum := power(b.Left[rate:])
		worst := math.Inf(-1)
		for _, v := range spectrum[14000:23000] {
			worst = math.Max(worst, v)
		}
		assert.Less(t, worst, -70.0, "%s %s", at.kind, at.id)
	}
}

func TestEffectsValidate(t *testing.T) {
	for _, k := range Kinds() {
		s := New("a", k, nil)
		require.NoError(t, s.Validate(), k.ID)
		s.Values["mix_percent"] = 101
		require.Error(t, s.Validate())
		delete(s.Values, "mix_percent")
		require.Error(t, s.Validate())
	}
	assert.ErrorContains(t, (&Effect{ID: "a", Kind: "unknown"}).Validate(), "unknown")
}
