package mixer_test

import (
	"fmt"

	"jubrak/core/mixer"
	"jubrak/core/param"
)

// A level drawn over two bars, half way through the first.
func ExampleAutomation_ValueAt() {
	level := param.Decibels("level_db", "Level", -60, 12, 0)
	a := mixer.Automation{At: "kick/level_db", Points: []mixer.AutomationPoint{{Bar: 0, Value: -12}, {Bar: 1, Value: 0}}}
	fmt.Println(a.ValueAt(0.5, &level), a.ValueAt(7, &level))
	// Output:
	// -6 0
}
