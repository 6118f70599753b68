package dsp_test

import (
	"fmt"

	"jubrak/core/dsp"
)

// A bell that follows its analogue prototype: its gain at its centre and far away.
func ExampleBell() {
	f := dsp.Bell(1000, 1, 6, 48000)
	fmt.Printf("%.2f %.2f\n", f.Magnitude(1000, 48000), f.Magnitude(20, 48000))
	// Output:
	// 2.00 1.00
}
