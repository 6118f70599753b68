// Command gen measures the shipped sounds and writes what is known of them:
//
//	go run ./core/stock/gen
package main

import (
	"encoding/json"
	"log"
	"os"

	"jubrak/core/stock"
)

func main() {
	out := map[string]stock.Facts{}
	for _, s := range stock.Sounds() {
		v := s.Voice()
		v.Layers[0].Level = 0
		out[s.ID] = stock.Measure(&v, nil)
	}
	data, err := json.Marshal(out)
	if err == nil {
		err = os.WriteFile("core/stock/facts.json", append(data, '\n'), 0o644)
	}
	if err != nil {
		log.Fatal(err)
	}
}
