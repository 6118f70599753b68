// Command gen writes the API's OpenAPI document to web/openapi.json, from
// which the front end's types are made.
package main

import (
	"log"
	"os"

	"jubrak/app/api"
)

func main() {
	if err := os.WriteFile("web/openapi.json", api.OpenAPI(), 0o644); err != nil {
		log.Fatal(err)
	}
}
