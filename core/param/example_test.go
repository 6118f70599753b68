package param_test

import (
	"fmt"

	"jubrak/core/param"
)

// A parameter checks and holds its values, and knows what lies half way on its own scale.
func ExampleParam_Check() {
	cutoff := param.Hertz("cutoff_hz", "Cutoff", 20, 20000, 1000)
	fmt.Println(cutoff.Check(30000))
	fmt.Println(cutoff.Held(30000))
	fmt.Printf("%.0f\n", cutoff.Between(100, 10000, 0.5))
	// Output:
	// Cutoff is 30000 Hz, outside 20 to 20000 Hz
	// 20000 <nil>
	// 1000
}
