package export_test

import (
	"context"
	"fmt"

	"jubrak/core/export"
	"jubrak/core/project"
)

// The files of a project's loop, each of which writes itself.
func ExampleLoop() {
	d := project.New("Lap")
	d, _, err := d.Apply(project.Edits{project.AddHit{Voice: "kick", Tick: 0, Velocity: 110}}, nil)
	if err != nil {
		fmt.Println(err)
		return
	}
	parts, err := export.Loop(context.Background(), d, nil, export.Options{Bars: 1})
	fmt.Println(len(parts), parts[0].B.Seconds(), err)
	// Output:
	// 1 2.4 <nil>
}
