// Command generate writes what is derived from the Go types: the bundle's
// JSON Schema and the API's OpenAPI document. Run it by `make generate`.
package main

import (
	"encoding/json"
	"log"
	"os"

	"github.com/invopop/jsonschema"

	"mastflag/core/bundle"
)

func main() {
	log.SetFlags(0)
	for _, write := range []func() error{bundleSchema, openAPI} {
		if err := write(); err != nil {
			log.Fatal(err)
		}
	}
}

// reflector reads doc comments of the given packages as descriptions.
func reflector(folders ...string) (*jsonschema.Reflector, error) {
	r := &jsonschema.Reflector{}
	for _, f := range folders {
		if err := r.AddGoComments("mastflag", f); err != nil {
			return nil, err
		}
	}
	return r, nil
}

func bundleSchema() error {
	r, err := reflector("./core/bundle", "./core/schedule", "./core/pages")
	if err != nil {
		return err
	}
	s := r.Reflect(&bundle.Bundle{})
	s.ID = ""
	s.Title = "Mast Flag bundle"
	out, err := json.MarshalIndent(s, "", "  ")
	if err != nil {
		return err
	}
	out = append(out, '\n')
	for _, path := range []string{"core/bundle/schema.json", "docs/bundle.schema.json"} {
		if err := os.WriteFile(path, out, 0o644); err != nil {
			return err
		}
	}
	return nil
}
