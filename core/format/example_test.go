package format_test

import (
	"bytes"
	"fmt"

	"jubrak/core/audio"
	"jubrak/core/format"
)

// A WAV file is written and read back.
func ExampleWriteWAV() {
	b := audio.New(48000, 2, 480)
	var file bytes.Buffer
	if err := format.WriteWAV(&file, b, format.WAV24); err != nil {
		fmt.Println(err)
		return
	}
	again, err := format.Decode(file.Bytes())
	fmt.Println(file.Len(), again.Rate, len(again.Channels), again.Frames(), err)
	// Output:
	// 2924 48000 2 480 <nil>
}
