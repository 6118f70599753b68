package effect

import (
	"math"
	"math/cmplx"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/dsp/fourier"

	"jubrak/core/dsp"
)

// impulse is what a reverb answers to a click, left.
func impulse(values map[string]float64, seconds float64) []float64 {
	return impulses(values, seconds).Left
}

func impulses(values map[string]float64, seconds float64) Block {
	v := map[string]float64{"mix_percent": 100, "damping_hz": 20000, "low_cut_hz": 20, "high_cut_hz": 20000}
	for k, x := range values {
		v[k] = x
	}
	b := Block{make([]float64, int(seconds*rate)), make([]float64, int(seconds*rate))}
	b.Left[0], b.Right[0] = 1, 1
	return through(rackOf("reverb", v), b)
}

// flatness is the spectral flatness of a tail from 0.3 to 1.3 s, 200 Hz to 8 kHz, with its
// decay taken off: the geometric over the arithmetic mean of the power.
func flatness(x []float64, decay float64) float64 {
	part := slices.Clone(x[int(0.3*rate):int(1.3*rate)])
	for i := range part {
		w := 0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/float64(len(part)))
		part[i] *= w * math.Pow(10, 3*float64(i)/rate/decay)
	}
	var logs, sum, n float64
	for k, c := range fourier.NewFFT(len(part)).Coefficients(nil, part) {
		if hz := float64(k) * rate / float64(len(part)); hz >= 200 && hz <= 8000 {
			p := real(c)*real(c) + imag(c)*imag(c)
			logs += math.Log(p)
			sum += p
			n++
		}
	}
	return math.Exp(logs/n) / (sum / n)
}

// dense is how long after the first sound the echo density is at least 0.9 in windows of 20
// ms: the share of samples beyond a standard deviation against that of noise (Abel & Huang
// 2006, "A simple, robust measure of reverberation echo density", 121st AES Convention), ms.
func dense(x []float64) float64 {
	peak := 0.0
	for _, v := range x {
		peak = math.Max(peak, math.Abs(v))
	}
	first := slices.IndexFunc(x, func(v float64) bool { return math.Abs(v) > peak*1e-3 })
	n := int(0.02 * rate)
	for at := first; at+n < len(x); at += 48 {
		sum := 0.0
		for _, v := range x[at : at+n] {
			sum += v * v
		}
		sigma, beyond := math.Sqrt(sum/float64(n)), 0.0
		for _, v := range x[at : at+n] {
			if math.Abs(v) > sigma {
				beyond++
			}
		}
		if beyond/float64(n)/0.3173 >= 0.9 {
			return float64(at-first) / rate * 1000
		}
	}
	return math.Inf(1)
}

// Asked: a tail as flat as noise (which reads 0.58), dense soon after the first sound, at any
// decay from 1.5 to 4 s and any size from 30 to 100 %.
func TestReverbsAreFlatAndDense(t *testing.T) {
	for space, within := range []float64{100, 60, 150} {
		for _, size := range []float64{30, 50, 75, 100} {
			for _, decay := range []float64{1500, 4000} {
				x := impulse(map[string]float64{"space": float64(space), "size_percent": size, "decay_ms": decay}, 2)
				flat, after := flatness(x, decay/1000), dense(x)
				t.Logf("space %d, size %g %%, %g ms: flatness %.2f, dense after %.0f ms", space, size, decay, flat, after)
				assert.Greater(t, flat, 0.45, "space %d, size %g %%, %g ms", space, size, decay)
				assert.Less(t, after, within, "space %d, size %g %%, %g ms", space, size, decay)
			}
		}
		// Outside of what is asked: reported in docs/mix.md.
		for _, v := range []map[string]float64{{"size_percent": 10, "decay_ms": 1500}, {"size_percent": 60, "decay_ms": 8000}, {"size_percent": 60, "decay_ms": 1500, "diffusion_percent": 0}, {"size_percent": 60, "decay_ms": 1500, "modulation_percent": 0}} {
			v["space"] = float64(space)
			x := impulse(v, 2)
			t.Logf("outside, %v: flatness %.2f, dense after %.0f ms", v, flatness(x, v["decay_ms"]/1000), dense(x))
		}
	}
}

// Asked: what turns the lines does not turn the pitch. The tail's frequency is that of its
// phase, which goes on by so much from one millisecond to the next.
func TestAReverbKeepsThePitch(t *testing.T) {
	for space := range 3 {
		for _, size := range []float64{30, 100} {
			v := map[string]float64{"mix_percent": 100, "space": float64(space), "size_percent": size, "decay_ms": 2500, "damping_hz": 20000, "low_cut_hz": 20, "high_cut_hz": 20000}
			b := Block{make([]float64, 3*rate), make([]float64, 3*rate)}
			copy(b.Left, sine(1000, 0.5, rate).Left)
			copy(b.Right, b.Left)
			x := through(rackOf("reverb", v), b).Left[int(1.1*rate):int(2.6*rate)]
			var last, sum complex128
			for at := 0; at+480 < len(x); at += 48 {
				var now complex128
				for i, v := range x[at : at+480] {
					w := 0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/480)
					now += complex(v*w, 0) * cmplx.Rect(1, -2*math.Pi*1000*float64(at+i)/rate)
				}
				if at > 0 {
					sum += now * cmplx.Conj(last)
				}
				last = now
			}
			hz := 1000 + cmplx.Phase(sum)/(2*math.Pi)*1000
			cents := 1200 * math.Log2(hz/1000)
			t.Logf("space %d, size %g %%: %.2f ct", space, size, cents)
			assert.InDelta(t, 0, cents, 3, "space %d, size %g %%", space, size)
		}
	}
}

// Asked: the decay of each octave within 10 % (Jot & Chaigne 1991), by ISO 3382-1.
func TestReverbDecaysInEachBand(t *testing.T) {
	for space := range 3 {
		for _, asked := range []float64{1500, 4000} {
			x := impulses(map[string]float64{"space": float64(space), "size_percent": 60, "decay_ms": asked}, 1.2*asked/1000)
			for _, hz := range []float64{125, 250, 500, 1000, 2000, 4000, 8000} {
				got := 0.0
				for _, side := range [][]float64{x.Left, x.Right} {
					band := slices.Clone(side)
					for range 2 {
						f := dsp.BandPass(hz, 1, rate)
						f.Run(band)
					}
					got += decay(band[int(0.1*rate):]) / 2
				}
				assert.InEpsilon(t, asked, got, 0.1, "space %d, %g Hz", space, hz)
			}
		}
	}
}

// The nearest early reflection comes after its way at the speed of sound, as loud as it is
// asked to be, and none where it is turned off; pre-delay holds all of it back.
func TestEarlyReflectionsHaveADistance(t *testing.T) {
	first := func(values map[string]float64) (frame int, level float64) {
		v := map[string]float64{"size_percent": 100, "early_db": 0}
		for k, x := range values {
			v[k] = x
		}
		x := impulse(v, 0.5)
		frame = slices.IndexFunc(x, func(v float64) bool { return math.Abs(v) > 0.05 })
		return frame, math.Abs(x[frame])
	}
	for _, metres := range []float64{1, 3, 8} {
		frame, _ := first(map[string]float64{"distance_m": metres})
		assert.InDelta(t, metres/SoundSpeed*rate, frame, 1, "%g m", metres)
	}
	_, full := first(nil)
	frame, level := first(map[string]float64{"distance_m": 3, "early_db": -12})
	assert.InDelta(t, 3/SoundSpeed*rate, frame, 1)
	assert.InDelta(t, -12, 20*math.Log10(level/full), 0.1)
	frame, _ = first(map[string]float64{"distance_m": 3, "predelay_ms": 20})
	assert.InDelta(t, 3/SoundSpeed*rate+0.02*rate, frame, 1)
	for _, v := range impulse(map[string]float64{"size_percent": 100, "distance_m": 3, "early_db": -60}, 0.03) {
		assert.Less(t, math.Abs(v), 1e-9, "only the lines are left")
	}
}
