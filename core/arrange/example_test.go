package arrange_test

import (
	"fmt"

	"jubrak/core/arrange"
	"jubrak/core/groove"
	"jubrak/core/music"
)

// Two sections of a groove of one bar: how long they last.
func ExampleNewLine() {
	g := groove.Groove{Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight()}
	a := &arrange.Arrangement{Sections: []arrange.Section{{ID: "a", Variation: "a", Bars: 2}, {ID: "b", Variation: "a", Bars: 1}}}
	line := arrange.NewLine(a, func(string) *groove.Groove { return &g }, music.Steady(120))
	fmt.Println(line.Seconds(float64(line.End())))
	// Output:
	// 6
}
