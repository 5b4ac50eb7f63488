// Command generate writes what is derived from the Go types: the bundle's
// JSON Schema and the API's OpenAPI document; what the interface has of the tables of
// closed sets; the stand-in file of places; and the icons. Run it by `make generate`.
package main

import (
	"encoding/json"
	"log"
	"os"
	"reflect"

	"github.com/invopop/jsonschema"

	"mastflag/core/bundle"
	"mastflag/core/closed"
)

// files are what is derived, by path from the project's root.
func files() (map[string][]byte, error) {
	schema, err := bundleSchema()
	if err != nil {
		return nil, err
	}
	api, err := openAPI()
	if err != nil {
		return nil, err
	}
	places, err := placesFile()
	if err != nil {
		return nil, err
	}
	icons, err := iconsFile()
	if err != nil {
		return nil, err
	}
	return map[string][]byte{
		"core/icon/icons.json.gz":           icons,
		"internal/sources/data/places.mmdb": places,
		"core/bundle/schema.json":           schema,
		"docs/bundle.schema.json":           schema,
		"docs/openapi.json":                 api,
		"web/src/api/sets.ts":               setsFile(),
	}, nil
}

func main() {
	log.SetFlags(0)
	derived, err := files()
	if err != nil {
		log.Fatal(err)
	}
	for path, body := range derived {
		if err := os.WriteFile(path, body, 0o644); err != nil {
			log.Fatal(err)
		}
	}
}

// reflector reads doc comments of the given packages as descriptions.
func reflector(folders ...string) (*jsonschema.Reflector, error) {
	r := &jsonschema.Reflector{Mapper: closedSet}
	for _, f := range folders {
		if err := r.AddGoComments("mastflag", f); err != nil {
			return nil, err
		}
	}
	return r, nil
}

// closedSet is the schema of a type whose values are all named; nil of any other.
func closedSet(t reflect.Type) *jsonschema.Schema {
	set, ok := reflect.Zero(t).Interface().(closed.Set)
	if !ok || t.Kind() != reflect.String {
		return nil
	}
	s := &jsonschema.Schema{Type: "string"}
	for _, v := range set.Values() {
		s.Enum = append(s.Enum, v)
	}
	return s
}

func bundleSchema() ([]byte, error) {
	r, err := reflector("./core/bundle", "./core/schedule", "./core/pages", "./core/audience", "./core/document")
	if err != nil {
		return nil, err
	}
	s := r.Reflect(&bundle.Bundle{})
	s.ID = ""
	s.Title = "Mast Flag bundle"
	return indent(s)
}

func indent(v any) ([]byte, error) {
	out, err := json.MarshalIndent(v, "", "  ")
	return append(out, '\n'), err
}
