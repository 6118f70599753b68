package compare_test

import (
	"context"
	"fmt"

	"jubrak/core/compare"
	"jubrak/core/project"
)

// Mine, measured: what of a project is compared.
func ExampleMeasureMine() {
	d := project.New("Lap")
	d, _, err := d.Apply(project.Edits{project.AddHit{Voice: "kick", Tick: 0, Velocity: 110}, project.AddHit{Voice: "kick", Tick: 1920, Velocity: 110}}, nil)
	if err != nil {
		fmt.Println(err)
		return
	}
	mine, err := compare.MeasureMine(context.Background(), d, nil)
	fmt.Println(mine != nil, len(compare.Columns) > 20, err)
	// Output:
	// true true <nil>
}
