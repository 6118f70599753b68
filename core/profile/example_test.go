package profile_test

import (
	"fmt"

	"jubrak/core/profile"
)

// A genre says what is common practice as ranges.
func ExampleGenres() {
	g := profile.Genres()[0]
	fmt.Println(g.Name != "", len(profile.Genres()) > 5)
	// Output:
	// true true
}
