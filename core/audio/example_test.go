package audio_test

import (
	"fmt"

	"jubrak/core/audio"
)

// A buffer at another rate lasts as long.
func ExampleBuffer_Resample() {
	b := audio.New(44100, 1, 44100)
	b.Channels[0][0] = 1
	at := b.Resample(48000)
	fmt.Println(at.Frames(), at.Seconds())
	// Output:
	// 48000 1
}
