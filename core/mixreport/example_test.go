package mixreport_test

import (
	"fmt"

	"jubrak/core/effect"
	"jubrak/core/mixreport"
	"jubrak/core/project"
)

// An effect in words.
func ExampleWords() {
	d := project.New("Lap")
	fx := effect.New("a", effect.KindOf("filter"), map[string]float64{"corner_hz": 800})
	fmt.Println(mixreport.Words(&fx, d, &mixreport.Picture{})[0], mixreport.Odds(8, 8))
	// Output:
	// low pass 800 Hz 0.003906250000000001
}
