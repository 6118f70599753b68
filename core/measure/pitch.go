package measure

import (
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/dsp/fourier"
)

// settles is when a pitch curve has come to its end; nil where it does not move by a
// semitone.
func settles(curve [][2]float64, hz float64) *float64 {
	far := 0.0
	for _, p := range curve[:min(len(curve), 4)] {
		far = math.Max(far, math.Abs(math.Log2(p[1]/hz)))
	}
	if far < 1.0/12 {
		return nil
	}
	for i := len(curve) - 1; i >= 0; i-- {
		if math.Abs(math.Log2(curve[i][1]/hz)) > 0.05*far {
			if i == len(curve)-1 {
				return nil
			}
			return &curve[i+1][0]
		}
	}
	return nil
}

// Arrives is where a pitch curve comes to, Hz: the median of its end, if most of its last
// quarter lies within half a semitone of that. A glide that goes on and the beating of
// partials have no such place.
func Arrives(curve [][2]float64) (hz float64, ok bool) {
	if len(curve) < 16 {
		return 0, false
	}
	var end []float64
	for _, p := range curve[len(curve)-len(curve)/4:] {
		end = append(end, p[1])
	}
	late := slices.Clone(end[len(end)/2:])
	slices.Sort(late)
	hz = late[len(late)/2]
	near := 0
	for _, v := range end {
		if math.Abs(12*math.Log2(v/hz)) < 0.5 {
			near++
		}
	}
	return hz, near*4 >= len(end)*3
}

// Fundamental is the settled pitch in Hz of the lowest partial between from and
// to Hz that is clearly a tone: the slope of its phase over the last third of
// the time in which it stays within 43 dB of its peak, so that of a glide it is
// the last note. Drum heads have partials close above the lowest (1.59 and 2.14
// times it), so the strongest need not be the fundamental. ok is false for
// sounds without a clear pitch. x starts at the onset and has no offset.
func Fundamental(x []float64, rate int, from, to float64) (hz float64, ok bool) {
	if len(x) < rate/25 {
		return 0, false
	}
	// A fall begins far above where it settles: the later part reports.
	part := x[:min(len(x), 2*rate)]
	spec := newPartials(part[len(part)/3:], rate, from, to)
	if len(spec.list) == 0 {
		spec = newPartials(part, rate, from, to)
	}
	found := spec.list
	if len(found) > mostPartials {
		return 0, false
	}
	for i, p := range found {
		if p.hz > spec.strongest() {
			break
		}
		low, high := math.Max(p.hz*0.6, from*0.8), p.hz*1.6
		if i > 0 { // the neighbours lie beyond the band's edges
			low = math.Min(math.Max(low, found[i-1].hz/edgeLow), 0.95*p.hz)
		}
		if i+1 < len(found) {
			high = math.Max(math.Min(high, found[i+1].hz/edgeHigh), 1.05*p.hz)
		}
		if hz, falls, ok := settled(part, rate, p.hz, low, high); ok && spec.concentrated(i, falls) {
			return hz, true
		}
	}
	return 0, false
}

// settled measures the partial near hz within a band, and the time in which it
// falls to 1/e, seconds; ok is false where that is no tone.
func settled(x []float64, rate int, hz, low, high float64) (pitch, falls float64, ok bool) {
	a := analytic(x, rate, low, high)
	var peak, power, centre float64
	for i, c := range a {
		p := real(c)*real(c) + imag(c)*imag(c)
		peak = math.Max(peak, p)
		power, centre = power+p, centre+p*float64(i)/float64(rate)
	}
	end := 0
	for i, c := range a {
		if real(c)*real(c)+imag(c)*imag(c) > peak/2e4 {
			end = i
		}
	}
	period := float64(rate) / hz
	start := end - max(end*35/100, int(2*period))
	if start < 0 || end-start < rate/200 {
		return 0, 0, false
	}
	if alike(a[max(end-max(end/2, int(5*period)), 0):end], int(period)) < steadyTone {
		return 0, 0, false
	}
	// Of an exponential fall the power's centre lies at half its time constant.
	return phaseSlope(a[start:end]) * float64(rate) / (2 * math.Pi), 2 * centre / power, true
}

// alike is how much of a band's power keeps its phase from period to period, in
// stretches of three periods, so that a glide does no harm.
func alike(a []complex128, period int) float64 {
	var same, all float64
	for from := 0; from+2*period <= len(a); from += 3 * period {
		var sum complex128
		var mag float64
		for i := from + period; i < min(from+4*period, len(a)); i++ {
			c := a[i] * complex(real(a[i-period]), -imag(a[i-period]))
			sum += c
			mag += cabs(c)
		}
		same, all = same+cabs(sum), all+mag
	}
	return same / math.Max(all, 1e-30)
}

type partial struct{ hz, magnitude float64 }

// partials are the spectral peaks of a sound up to an octave above the
// strongest, in order of frequency, and the spectrum they are in.
type partials struct {
	list    []partial
	mag     []float64
	step    float64 // Hz
	seconds float64 // of the sound
}

func (s *partials) strongest() float64 {
	best := s.list[0]
	for _, p := range s.list {
		if p.magnitude > best.magnitude {
			best = p
		}
	}
	return best.hz
}

// concentrated reports whether what sounds around a partial, without the other
// ones, is as narrow as a tone that falls in so many seconds, and not a band of
// noise.
func (s *partials) concentrated(i int, falls float64) bool {
	p := s.list[i].hz
	wide := 0.03*p + 1.2/(math.Pi*math.Max(falls, 1e-3)) + 1.5/s.seconds
	var own, all float64
	for k := int(p / 1.35 / s.step); k <= int(p*1.35/s.step) && k < len(s.mag); k++ {
		f, e := float64(k)*s.step, s.mag[k]*s.mag[k]
		if math.Abs(f-p) <= wide {
			own, all = own+e, all+e
			continue
		}
		others := false
		for j, o := range s.list {
			others = others || j != i && math.Abs(f-o.hz) <= math.Min(wide, math.Abs(o.hz-p)/2)
		}
		if !others {
			all += e
		}
	}
	return own > narrowTone*all
}

// newPartials finds the spectral peaks; none where the strongest is but a small
// part of the sound.
func newPartials(x []float64, rate int, from, to float64) *partials {
	n := nextPow2(max(len(x), rate)) * 2
	padded := make([]float64, n)
	for i, v := range x {
		padded[i] = v * (0.5 + 0.5*math.Cos(math.Pi*float64(i)/float64(len(x))))
	}
	out := &partials{mag: magnitudes(padded), step: float64(rate) / float64(n), seconds: float64(len(x)) / float64(rate)}
	mag, step := out.mag, out.step
	best, total := 0, 0.0
	for k := 1; k < len(mag); k++ {
		f := float64(k) * step
		total += mag[k] * mag[k]
		if f >= from && f <= to && mag[k] > mag[best] || best == 0 && f >= from {
			best = k
		}
	}
	if best == 0 || total == 0 {
		return out
	}
	hz := float64(best) * step
	var near float64
	for k := int(hz / 1.3 / step); k <= int(hz*1.3/step) && k < len(mag); k++ {
		near += mag[k] * mag[k]
	}
	if near/total < leastShare {
		return out
	}
	for k := max(int(from/step), 1); k < len(mag) && k <= 2*best; k++ {
		reach := max(int(0.12*float64(k)), 2) // the highest of its surroundings
		if mag[k] >= softestPartial*mag[best] && highest(mag, k, reach) {
			out.list = append(out.list, partial{float64(k) * step, mag[k]})
		}
	}
	if len(out.list) == 0 || out.strongest() > to {
		out.list = []partial{{hz, mag[best]}}
	}
	return out
}

// highest reports whether a bin is the highest within a reach.
func highest(mag []float64, k, reach int) bool {
	for j := max(k-reach, 0); j <= min(k+reach, len(mag)-1); j++ {
		if mag[j] > mag[k] {
			return false
		}
	}
	return true
}

// analytic is the complex signal of a band: positive frequencies from..to
// with raised-cosine edges, by FFT.
func analytic(x []float64, rate int, from, to float64) []complex128 {
	n := nextPow2(2 * len(x))
	buf := make([]complex128, n)
	for i, v := range x {
		buf[i] = complex(v, 0)
	}
	fft := fourier.NewCmplxFFT(n)
	coeff := fft.Coefficients(nil, buf)
	step := float64(rate) / float64(n)
	for k := range coeff {
		f := float64(k) * step
		if k > n/2 {
			f = 0
		}
		coeff[k] *= complex(2/float64(n)*edge(f, from*edgeLow, from)*(1-edge(f, to, to*edgeHigh)), 0)
	}
	return fft.Sequence(nil, coeff)[:len(x)]
}

// edge rises from 0 at a to 1 at b.
func edge(f, a, b float64) float64 {
	t := math.Min(math.Max((f-a)/(b-a), 0), 1)
	return 0.5 - 0.5*math.Cos(math.Pi*t)
}

func cabs(c complex128) float64 { return math.Hypot(real(c), imag(c)) }

// phaseSlope is the mean step of phase, weighted by power, radians a sample.
func phaseSlope(a []complex128) float64 {
	var sum complex128
	for i := 1; i < len(a); i++ {
		sum += a[i] * complex(real(a[i-1]), -imag(a[i-1]))
	}
	return math.Atan2(imag(sum), real(sum))
}

// pitchCurve is the instantaneous frequency of the lowest partial, one point
// every 5 ms as [ms, Hz], while it stays within 43 dB of its peak.
func pitchCurve(x []float64, rate int, settled float64) [][2]float64 {
	a := analytic(x[:min(len(x), 2*rate)], rate, settled*0.6, math.Min(settled*12, 4000))
	var peak float64
	for _, c := range a {
		peak = math.Max(peak, cabs(c))
	}
	out := [][2]float64{}
	w := rate / 200
	for i := 0; i+w < len(a); i += w {
		if cabs(a[i+w/2]) < peak/100 && i > rate/50 {
			break
		}
		hz := phaseSlope(a[i:i+w]) * float64(rate) / (2 * math.Pi)
		if hz > 10 {
			out = append(out, [2]float64{float64(i) / float64(rate) * 1000, hz})
		}
	}
	return medianOf3(out)
}

func medianOf3(c [][2]float64) [][2]float64 {
	out := append([][2]float64(nil), c...)
	for i := 1; i+1 < len(c); i++ {
		v := []float64{c[i-1][1], c[i][1], c[i+1][1]}
		sort.Float64s(v)
		out[i][1] = v[1]
	}
	return out
}
