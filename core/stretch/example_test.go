package stretch_test

import (
	"fmt"

	"jubrak/core/audio"
	"jubrak/core/stretch"
)

// Half as fast lasts twice as long: with its pitch kept, and as a tape.
func ExampleSound() {
	b := audio.New(48000, 1, 24000)
	fmt.Println(stretch.Sound(b, 0.5, nil).Seconds(), stretch.Varispeed(b, 0.5).Seconds())
	// Output:
	// 1 1
}
