package music_test

import (
	"fmt"

	"jubrak/core/music"
)

// A note by its name, its frequency, and back.
func ExampleParsePitch() {
	note, err := music.ParsePitch("G1 +12")
	fmt.Printf("%.1f Hz, %s, %v\n", music.Hz(note), music.NoteText(note), err)
	// Output:
	// 49.3 Hz, G1 +12, <nil>
}
