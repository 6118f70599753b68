package drums

import (
	_ "embed"
	"encoding/json"
	"math"
	"sync"

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
