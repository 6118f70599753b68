package effect_test

import (
	"fmt"

	"jubrak/core/effect"
)

// An effect runs a processor and lets it sleep when nothing is left to be heard.
func Example() {
	cut := effect.NewLowCut(100, 48000)
	runner := effect.Runner{Processor: &cut}
	block := effect.Block{Left: make([]float64, 256), Right: make([]float64, 256)}
	block.Left[0], block.Right[0] = 1, 1
	fmt.Println("silent:", runner.Run(block, nil, false))
	blocks := 0
	for silent := false; !silent; blocks++ {
		block.Clear()
		silent = runner.Run(block, nil, true)
	}
	fmt.Println("asleep after", blocks*256 > cut.Tail())
	// Output:
	// silent: false
	// asleep after true
}
