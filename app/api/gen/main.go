// Command gen writes, at the root of the source, what is made from it: see
// api.Generated.
package main

import (
	"log"
	"os"

	"jubrak/app/api"
)

func main() {
	files, err := api.Generated(".")
	if err != nil {
		log.Fatal(err)
	}
	for path, data := range files {
		if err := os.WriteFile(path, data, 0o644); err != nil {
			log.Fatal(err)
		}
	}
}
