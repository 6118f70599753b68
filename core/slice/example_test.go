package slice_test

import (
	"fmt"

	"jubrak/core/audio"
	"jubrak/core/slice"
	"jubrak/core/sound"
)

// A stretch is cut out as a one-shot.
func ExampleCut() {
	b := audio.New(48000, 2, 48000)
	fmt.Printf("%.2f s\n", slice.Cut(b, slice.Slice{Family: sound.Kick, From: 0.25, To: 0.5}).Seconds())
	// Output:
	// 0.25 s
}
