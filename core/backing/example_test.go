package backing_test

import (
	"context"
	"fmt"
	"math"

	"jubrak/core/audio"
	"jubrak/core/backing"
)

// The tempo of a recording of clicks, and where a bar of it begins.
func ExampleTempo() {
	b := audio.New(48000, 1, 48000*12)
	for beat := range 24 {
		for i := range 2000 {
			b.Channels[0][beat*24000+i] = float32(math.Exp(-float64(i)/300) * math.Sin(float64(i)*0.2))
		}
	}
	bpm, _, err := backing.Tempo(context.Background(), b, func(float64) {})
	fmt.Printf("%.0f BPM %v\n", bpm, err)
	// Output:
	// 120 BPM <nil>
}
