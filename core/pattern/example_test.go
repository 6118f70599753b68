package pattern_test

import (
	"fmt"

	"jubrak/core/pattern"
)

// A groove that ships, with its bars.
func ExampleAll() {
	first := pattern.All()[0]
	fmt.Println(len(pattern.All()) > 20, pattern.Find(first.ID).Name == first.Name, len(pattern.Fills()))
	// Output:
	// true true 29
}
