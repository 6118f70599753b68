package rebuild_test

import (
	"fmt"

	"jubrak/core/project"
	"jubrak/core/rebuild"
	"jubrak/core/transcribe"
)

// A rebuild works in memory as it does in an open project.
func ExampleNewMemory() {
	m, err := rebuild.NewMemory("Lap", project.Reference{ID: "r", Name: "Lap", Kind: "midi"}, &transcribe.Analysis{})
	fmt.Println(m != nil, err)
	// Output:
	// true <nil>
}
