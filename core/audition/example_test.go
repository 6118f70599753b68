package audition_test

import (
	"fmt"

	"jubrak/core/audio"
	"jubrak/core/audition"
)

// One sound, then another, with a pause between.
func ExampleOneAfterOther() {
	b := audition.OneAfterOther(audio.New(48000, 1, 4800), audio.New(48000, 1, 4800))
	fmt.Println(b.Seconds() > 0.2)
	// Output:
	// true
}
