package fit_test

import (
	"fmt"

	"jubrak/core/fit"
	"jubrak/core/sound"
)

// A recipe is rendered as the search hears it.
func ExampleRender() {
	b := fit.Render(sound.DefaultRecipe(sound.Kick), 300)
	fmt.Printf("%.1f s, it sounds: %v\n", b.Seconds(), b.Peak() > 0.1)
	// Output:
	// 0.3 s, it sounds: true
}
