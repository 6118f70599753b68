package isolate_test

import (
	"context"
	"fmt"

	"jubrak/core/audio"
	"jubrak/core/isolate"
)

// A recording without hits has no drums.
func ExampleFind() {
	list, err := isolate.Find(context.Background(), audio.New(48000, 1, 48000), nil, isolate.Choices{}, func(float64) {})
	fmt.Println(len(list), err)
	// Output:
	// 0 <nil>
}
