package synth

import (
	"math"
	"sync"

	"jubrak/core/sound"
)

// tableSize is how many samples a period has, tableLevels how many versions of
// a wave there are: each has half of the partials of the one before.
const (
	tableSize   = 4096
	tableLevels = 10
	mostPartial = 1024
)

// wave is one period, band-limited for every pitch.
type wave [tableLevels][tableSize + 1]float64

// waves are those of sound.Waves but the drawn one; a sine needs one version.
var waves = [sound.DrawnWave]func() *wave{
	sync.OnceValue(func() *wave { return partials(func(k int) float64 { return float64(1 / k) }) }),
	sync.OnceValue(func() *wave {
		return partials(func(k int) float64 {
			if k%2 == 0 {
				return 0
			}
			return 8 / (math.Pi * math.Pi) / float64(k*k) * float64(2-k%4)
		})
	}),
	sync.OnceValue(func() *wave { return partials(func(k int) float64 { return 2 / math.Pi / float64(k) }) }),
	sync.OnceValue(func() *wave {
		return partials(func(k int) float64 {
			if k%2 == 0 {
				return 0
			}
			return 4 / math.Pi / float64(k)
		})
	}),
}

// partials is the wave with so much of each partial, all sines.
func partials(of func(k int) float64) *wave {
	var a [mostPartial + 1]float64
	for k := 1; k <= mostPartial; k++ {
		a[k] = of(k)
	}
	return spectrum(&a, &[mostPartial + 1]float64{})
}

// spectrum is the wave with so much of each partial as a sine and as a cosine.
func spectrum(sines, cosines *[mostPartial + 1]float64) *wave {
	w := &wave{}
	for k := mostPartial; k >= 1; k-- {
		if sines[k] == 0 && cosines[k] == 0 {
			continue
		}
		// A rotating vector; begun anew for each partial, it stays true.
		sin, cos := math.Sincos(2 * math.Pi * float64(k) / tableSize)
		s, c := 0.0, 1.0
		top := 0
		for top+1 < tableLevels && k <= mostPartial>>(top+1) {
			top++
		}
		for i := range tableSize {
			v := s*sines[k] + c*cosines[k]
			w[0][i] += v
			s, c = s*cos+c*sin, c*cos-s*sin
		}
		// The versions are sums from the top down: this partial is in those up to top.
		for l := 1; l <= top; l++ {
			s, c = 0.0, 1.0
			for i := range tableSize {
				w[l][i] += s*sines[k] + c*cosines[k]
				s, c = s*cos+c*sin, c*cos-s*sin
			}
		}
	}
	for l := range w {
		w[l][tableSize] = w[l][0]
	}
	return w
}

// drawn is the wave of a drawn period, made straight between its values and freed
// of its mean, at full scale.
func drawn(cycle []float64) *wave {
	var x [tableSize]float64
	var mean, peak float64
	for i := range x {
		at := float64(i) / tableSize * float64(len(cycle))
		k := int(at)
		a, b := cycle[k%len(cycle)], cycle[(k+1)%len(cycle)]
		x[i] = a + (b-a)*(at-float64(k))
		mean += x[i] / tableSize
	}
	for i := range x {
		x[i] -= mean
		peak = max(peak, math.Abs(x[i]))
	}
	var sines, cosines [mostPartial + 1]float64
	if peak == 0 {
		return &wave{}
	}
	// What is straight between so few values has little beyond them.
	for k := 1; k <= min(4*len(cycle), mostPartial); k++ {
		sin, cos := math.Sincos(2 * math.Pi * float64(k) / tableSize)
		s, c := 0.0, 1.0
		for _, v := range x {
			sines[k] += v * s * 2 / tableSize / peak
			cosines[k] += v * c * 2 / tableSize / peak
			s, c = s*cos+c*sin, c*cos-s*sin
		}
	}
	return spectrum(&sines, &cosines)
}

// view is a wave as it is read at a pitch: two versions and how much of the second.
type view struct {
	a, b *[tableSize + 1]float64
	part float64
}

// at is the view of a wave for so many periods a sample: no partial lies beyond
// half the rate, and versions fade into each other.
func (w *wave) at(step float64) view {
	// The version l has mostPartial / 2^l partials; the next begins to be mixed in an
	// octave before this one would be too rich.
	need := math.Log2(max(step*mostPartial/0.45, 1e-9))
	if need <= -1 {
		return view{&w[0], &w[0], 0}
	}
	l := min(int(math.Floor(need))+1, tableLevels-1)
	next := min(l+1, tableLevels-1)
	part := need - math.Floor(need)
	return view{&w[l], &w[next], part}
}

// above keeps phases above zero, where rounding is rounding down.
const above = 64 * tableSize

// read is the wave at a phase in periods, from -64 on.
func (v *view) read(phase float64) float64 {
	at := phase*tableSize + above
	i := int(at)
	t := at - float64(i)
	i &= tableSize - 1
	x := v.a[i] + (v.a[i+1]-v.a[i])*t
	if v.part > 0 {
		y := v.b[i] + (v.b[i+1]-v.b[i])*t
		x += (y - x) * v.part
	}
	return x
}
