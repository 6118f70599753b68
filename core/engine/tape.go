package engine

import (
	"jubrak/core/audio"
	"jubrak/core/dsp"
)

// tape plays what it pulls faster or slower, tempo and pitch together, as a tape that runs
// at another speed does; what would fold back is left out (dsp.Weights).
type tape struct {
	speed float64
	kept  [2][]float64 // what was pulled and may still be weighed
	first int          // of kept, counted from the beginning
	place float64      // the next to be read
	from  float64      // where it was when the speed was last another, and how many frames since
	since int
	was   float64
	w     [dsp.MostWeights]float64
	block [2][Grid]float64
}

// keeps is from how many frames on what has been weighed is dropped.
const keeps = 1 << 14

// read fills left and right; pull gives the next frames of what is played.
func (t *tape) read(left, right []float64, pull func(left, right []float64)) {
	if t.speed != t.was {
		t.from, t.since, t.was = t.place, 0, t.speed
	}
	for i := range left {
		first, n := dsp.Weights(t.place, t.speed, t.w[:])
		for t.first+len(t.kept[0]) < first+n {
			pull(t.block[0][:], t.block[1][:])
			for c := range t.kept {
				t.kept[c] = append(t.kept[c], t.block[c][:]...)
			}
		}
		l, r := 0.0, 0.0
		for k := max(0, t.first-first); k < n; k++ {
			at := first + k - t.first
			l += t.w[k] * t.kept[0][at]
			r += t.w[k] * t.kept[1][at]
		}
		left[i], right[i] = l, r
		t.since++
		t.place = t.from + float64(t.since)*t.speed
		if drop := first - t.first; drop > keeps {
			for c := range t.kept {
				t.kept[c] = append(t.kept[c][:0], t.kept[c][drop:]...)
			}
			t.first = first
		}
	}
}

// Taped is a buffer as a tape that runs so many times as fast plays it.
func Taped(b *audio.Buffer, speed float64) *audio.Buffer {
	if speed == 1 {
		return b
	}
	out := audio.New(b.Rate, len(b.Channels), int(float64(b.Frames())/speed))
	var w [dsp.MostWeights]float64
	for i := range out.Frames() {
		first, n := dsp.Weights(float64(i)*speed, speed, w[:])
		for c, x := range b.Channels {
			sum := 0.0
			for k := max(0, -first); k < n && first+k < len(x); k++ {
				sum += w[k] * float64(x[first+k])
			}
			out.Channels[c][i] = float32(sum)
		}
	}
	return out
}
