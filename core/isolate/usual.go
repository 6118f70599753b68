package isolate

import (
	_ "embed"
	"encoding/json"
	"math"
	"sync"

	"jubrak/core/audio"
	"jubrak/core/sound"
)

// What is usual of a family is a guess where nothing is known of a drum: the mean level of
// its kind by band and time, of the library's sounds and of free sound banks
// (fixtures/alone/usual writes it).
//
//go:embed usual.json
var usualText []byte

// UsualEnds are the ends of the parts of time of a usual drum, in frames of 256 samples
// from the stroke.
var UsualEnds = []int{2, 4, 8, 16, 32, 64, math.MaxInt32}

var usuals = sync.OnceValue(func() map[sound.Family][][]int {
	out := map[sound.Family][][]int{}
	if err := json.Unmarshal(usualText, &out); err != nil {
		panic(err) // it is compiled in
	}
	return out
})

// usual is the level of a family's usual drum in a band, dB, so many frames after its
// stroke; false before it, and where the family has none.
func usual(f sound.Family, band, frame int) (db float64, ok bool) {
	table := usuals()[f]
	if table == nil || frame < -1 || band >= len(table[0]) {
		return 0, false
	}
	for i, end := range UsualEnds {
		if frame < end {
			return float64(table[i][band]), true
		}
	}
	return 0, false
}

// UsualOf is the level of one drum, which begins with its stroke, by UsualEnds and band, dB:
// what the usual levels of its family are a mean of.
func UsualOf(b *audio.Buffer) [][]float64 {
	b = b.Resample(rate)
	x := make([]float32, lead+b.Frames())
	for i, v := range b.Mono() {
		x[lead+i] = float32(v)
	}
	t := newTransform(analysisSize)
	X := grid(t.frames(len(x)+t.size), t.bins)
	t.run(x, 0, X)
	bands := bandsOf(t)
	out := plane(len(UsualEnds), len(bands))
	zone := 0
	count := 0
	for k := strokeFrame(t) - 1; k < len(X); k++ {
		for k-strokeFrame(t) >= UsualEnds[zone] {
			zone++
			count = 0
		}
		count++
		for n, band := range bands {
			sum := 0.0
			for b := band[0]; b < band[1]; b++ {
				sum += power(X[k][b])
			}
			out[zone][n] += (sum - out[zone][n]) / float64(count)
		}
	}
	for z := range out {
		for n, v := range out[z] {
			out[z][n] = 10 * math.Log10(v+1e-20)
		}
	}
	return out
}
