package groove_test

import (
	"fmt"

	"jubrak/core/groove"
	"jubrak/core/music"
)

// A line without end is asked by window: every stroke whose straight place lies
// in it comes once, with where it falls.
func ExampleLine_Events() {
	g := groove.Groove{Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1}
	g.Feel.Swing = 60 // the second sixteenth of each pair at 60 % of it
	hat := g.EnsureLane("hat")
	hat.Hits = []groove.Hit{{ID: "a", Tick: 0, Velocity: 100}, {ID: "b", Tick: 240, Velocity: 70}}
	line := groove.NewLine(&g, music.Steady(120), 0)
	for _, e := range line.Events(3840, 3*3840, nil) { // the second and third pass
		fmt.Printf("tick %d at %.3f s, %+.0f ms\n", e.Tick, e.Time, e.Offset)
	}
	// Output:
	// tick 3840 at 2.000 s, +0 ms
	// tick 4080 at 2.150 s, +25 ms
	// tick 7680 at 4.000 s, +0 ms
	// tick 7920 at 4.150 s, +25 ms
}
