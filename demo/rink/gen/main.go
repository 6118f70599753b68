// Command gen makes the demo's recordings: go run ./demo/rink/gen (needs the
// flac program).
package main

import (
	"bytes"
	"log"
	"os"
	"os/exec"
	"path/filepath"

	"jubrak/core/format"
	"jubrak/demo/rink"
)

func main() {
	for i := range rink.Takes {
		t := &rink.Takes[i]
		var wav bytes.Buffer
		if err := format.WriteWAV(&wav, t.Record(), format.WAV16); err != nil {
			log.Fatal(err)
		}
		cmd := exec.Command("flac", "--best", "--silent", "-f", "-o", filepath.Join("demo/rink", t.Name+".flac"), "-")
		cmd.Stdin, cmd.Stderr = &wav, os.Stderr
		if err := cmd.Run(); err != nil {
			log.Fatal(err)
		}
	}
}
