package project_test

import (
	"encoding/json"
	"fmt"

	"jubrak/core/project"
)

// An edit makes a new document of an old one, which stays as it was.
func ExampleDocument_Apply() {
	before := project.New("Lap one")
	edits := project.Edits{
		project.AddHit{Voice: "kick", Tick: 960, Velocity: 110},
		project.SetNumber{At: "kick/layers/drum/body.decay_ms", Value: 300},
	}
	after, _, err := before.Apply(edits, nil)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(len(before.Groove.Lane("kick").Hits), len(after.Groove.Lane("kick").Hits))
	fmt.Println(edits.Name(before, after))
	for _, p := range project.Diff("", before, after) {
		fmt.Println(p.Op, p.Path)
	}
	// Output:
	// 0 1
	// Kick: hit at bar 1, beat 2, and 1 more
	// replace /kit/voices/0/layers/0
	// add /groove/lanes/0/hits/0
}

// Every number is found by its address, with its name, unit and range.
func ExampleDocument_Number() {
	n, err := project.New("Lap one").Number("808/layers/drum/body.end_hz")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("%s: %s %.2f %s (%g to %g)\n", n.Of, n.Label, n.Value, n.Unit, n.Min, n.Max)
	// Output: 808, body: End pitch 43.65 Hz (20 to 2000)
}

// Edits are read by their ops; what is misspelt is refused.
func ExampleEdits_UnmarshalJSON() {
	var e project.Edits
	fmt.Println(json.Unmarshal([]byte(`[{"op":"hit.add","voice":"kick","tick":0}]`), &e), e)
	fmt.Println(json.Unmarshal([]byte(`[{"op":"hit.add","voise":"kick"}]`), &e))
	// Output:
	// <nil> [{kick 0 0}]
	// hit.add: unknown field "voise"
}
