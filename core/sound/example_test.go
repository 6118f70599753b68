package sound_test

import (
	"fmt"

	"jubrak/core/sound"
)

// A recipe is plain data: an effect is added, a parameter set by its address.
func ExampleRecipe_Number() {
	r := sound.DefaultRecipe(sound.Kick).Then("drive", map[string]float64{"amount_percent": 40})
	n, ok := r.Number("effects/" + r.Effects[len(r.Effects)-1].ID + "/amount_percent")
	fmt.Println(n.Label, n.Get(&r), ok)
	// Output:
	// Amount 40 true
}
