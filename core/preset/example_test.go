package preset_test

import (
	"fmt"

	"jubrak/core/preset"
	"jubrak/core/sound"
)

// Variants of a preset's recipe: the same seed gives the same ones.
func ExampleVary() {
	r := preset.Sounds()[0].Layers[0].Recipe
	one, two := preset.Vary(*r, 3, 20, []string{"pitch", "time"}, 7), preset.Vary(*r, 3, 20, []string{"pitch", "time"}, 7)
	fmt.Println(len(one), one[0].Body.End == two[0].Body.End, one[0].Body.End != one[1].Body.End, preset.Sounds()[0].Family == sound.Kick)
	// Output:
	// 3 true true true
}
