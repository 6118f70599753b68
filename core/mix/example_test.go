package mix_test

import (
	"fmt"

	"jubrak/core/mix"
)

// A step runs a processor and lets it sleep when nothing is left to be heard.
func ExampleStep() {
	cut := mix.NewLowCut(100, 48000)
	step := mix.Runner{Processor: &cut}
	block := mix.Block{Left: make([]float64, 256), Right: make([]float64, 256)}
	block.Left[0], block.Right[0] = 1, 1
	fmt.Println("silent:", step.Run(block, nil, false))
	blocks := 0
	for silent := false; !silent; blocks++ {
		block.Clear()
		silent = step.Run(block, nil, true)
	}
	fmt.Println("asleep after", blocks*256 > cut.Tail())
	// Output:
	// silent: false
	// asleep after true
}
