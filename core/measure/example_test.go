package measure_test

import (
	"fmt"
	"math"

	"jubrak/core/audio"
	"jubrak/core/measure"
)

// The loudness of a tone of 997 Hz at full scale on one side (ITU-R BS.1770).
func ExampleIntegrated() {
	b := audio.New(48000, 1, 48000)
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(math.Sin(2 * math.Pi * 997 * float64(i) / 48000))
	}
	lufs, ok := measure.Integrated(b)
	fmt.Printf("%.2f LUFS %v\n", lufs, ok)
	// Output:
	// -3.01 LUFS true
}
