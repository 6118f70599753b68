package measure

import (
	"math"

	"jubrak/core/audio"
)

// TruePeak is the peak in dBTP at four times the sample rate (ITU-R BS.1770-4,
// annex 2), by a windowed sinc of 32 taps; -Inf for silence. The whole signal
// is looked at. Where it is skipped, it is proven that nothing higher than what
// is known can lie there: no interpolated value exceeds the largest sample of
// its 32 by more than the sum of the taps' magnitudes, nor that of the inner
// taps by more than the outer ones can add.
func TruePeak(b *audio.Buffer) float64 {
	peak := b.Peak()
	if peak == 0 {
		return math.Inf(-1)
	}
	for _, ch := range b.Channels {
		peak = truePeak(ch, peak)
	}
	return audio.DB(peak)
}

const (
	peakHalf  = 16 // taps on either side
	peakInner = 4  // of these, how many are tried first
	peakBlock = 32 // samples between two looks at the largest
	peakPiece = 1 << 15
)

// truePeak is the highest of what is known and what lies in x and between its
// samples, looked at piece by piece.
func truePeak(x []float32, known float64) float64 {
	// A piece, with a block of what lies before it and after it.
	const blocks = peakPiece/peakBlock + 2
	padded := make([]float32, blocks*peakBlock)
	var largest [blocks]float32
	for from := -peakBlock; from < len(x)+peakBlock; from += peakPiece {
		clear(padded)
		if first := max(from-peakBlock, 0); first < len(x) {
			copy(padded[first-from+peakBlock:], x[first:])
		}
		clear(largest[:])
		for i, v := range padded {
			if v = max(v, -v); v > largest[i/peakBlock] {
				largest[i/peakBlock] = v
			}
		}
		// Between padded[i] and its next lie the values of place i; the 32 samples
		// about it lie in its block and the neighbours'.
		for block := 1; block < blocks-1; block++ {
			near := float64(max(largest[block-1], largest[block], largest[block+1]))
			if near*peakTaps.whole <= known {
				continue
			}
			for i := block * peakBlock; i < (block+1)*peakBlock; i++ {
				known = peakTaps.between(padded[i-peakHalf+1:i+peakHalf+1], near, known)
			}
		}
	}
	return known
}

// interpolator has the taps of the places a quarter, a half and three quarters
// of a sample on. Those of the half are the same on both sides; those of the
// quarters are mirror images, an even part plus and minus an odd one.
type interpolator struct {
	half, even, odd [peakHalf]float64
	// whole is the largest sum of magnitudes of one place's taps; restHalf and
	// restQuarter those beyond the inner ones.
	whole, restHalf, restQuarter float64
}

// between is the highest of what is known and the three values in the middle of
// 32 samples, of which the largest is near.
func (t *interpolator) between(x []float32, near, known float64) float64 {
	var h, e, o float64
	left, right := x[:peakHalf], x[peakHalf:2*peakHalf]
	for k := range peakInner {
		a, b := float64(left[peakHalf-1-k]), float64(right[k])
		h += t.half[k] * (a + b)
		e += t.even[k] * (a + b)
		o += t.odd[k] * (b - a)
	}
	if math.Abs(h)+t.restHalf*near <= known && math.Abs(e)+math.Abs(o)+t.restQuarter*near <= known {
		return known
	}
	for k := peakInner; k < peakHalf; k++ {
		a, b := float64(left[peakHalf-1-k]), float64(right[k])
		h += t.half[k] * (a + b)
		e += t.even[k] * (a + b)
		o += t.odd[k] * (b - a)
	}
	return max(known, math.Abs(h), math.Abs(e)+math.Abs(o))
}

var peakTaps = newInterpolator()

func newInterpolator() *interpolator {
	t := &interpolator{}
	at := func(offset float64) (taps [2 * peakHalf]float64) {
		var sum float64
		for k := range taps {
			x := float64(k-peakHalf+1) - offset
			taps[k] = math.Sin(math.Pi*x) / (math.Pi * x) * (0.5 + 0.5*math.Cos(math.Pi*x/peakHalf))
			sum += taps[k]
		}
		for k := range taps {
			taps[k] /= sum
		}
		return taps
	}
	half, quarter := at(0.5), at(0.25)
	var wholeHalf, wholeQuarter float64
	for k := range peakHalf {
		before, after := quarter[peakHalf-1-k], quarter[peakHalf+k]
		t.half[k] = (half[peakHalf-1-k] + half[peakHalf+k]) / 2
		t.even[k], t.odd[k] = (before+after)/2, (after-before)/2
		wholeHalf += 2 * math.Abs(t.half[k])
		wholeQuarter += math.Abs(before) + math.Abs(after)
		if k >= peakInner {
			t.restHalf += 2 * math.Abs(t.half[k])
			// What the even and the odd part can add together.
			t.restQuarter += 2 * (math.Abs(t.even[k]) + math.Abs(t.odd[k]))
		}
	}
	t.whole = max(wholeHalf, wholeQuarter)
	return t
}
