// Command generate writes what is derived from the Go types: the bundle's
// JSON Schema and the API's OpenAPI document; what the interface has of the tables of
// closed sets; the stand-in file of places; and the icons. Run it by `make generate`.
package main

import (
	"encoding/json"
	"log"
	"maps"
	"os"
	"reflect"
	"slices"
	"strings"

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
	script, err := scriptFile()
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
		"sitescript/src/shapes.ts":          script,
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

// reflector takes as descriptions the doc comments of all packages of this module that
// types lead to.
func reflector(types ...reflect.Type) (*jsonschema.Reflector, error) {
	r := &jsonschema.Reflector{Mapper: closedSet}
	for _, folder := range packagesOf(types) {
		if err := r.AddGoComments("mastflag", "./"+folder); err != nil {
			return nil, err
		}
	}
	return r, nil
}

// packagesOf returns the folders of this module's packages whose types can be reached from
// these, sorted.
func packagesOf(types []reflect.Type) []string {
	met, folders := map[reflect.Type]bool{}, map[string]bool{}
	var walk func(t reflect.Type)
	walk = func(t reflect.Type) {
		if met[t] {
			return
		}
		met[t] = true
		if folder, ours := strings.CutPrefix(t.PkgPath(), "mastflag/"); ours {
			folders[folder] = true
		}
		switch t.Kind() {
		case reflect.Map:
			walk(t.Key())
			walk(t.Elem())
		case reflect.Pointer, reflect.Slice, reflect.Array:
			walk(t.Elem())
		case reflect.Struct:
			for i := range t.NumField() {
				walk(t.Field(i).Type)
			}
		}
	}
	for _, t := range types {
		walk(t)
	}
	return slices.Sorted(maps.Keys(folders))
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
	r, err := reflector(reflect.TypeFor[bundle.Bundle]())
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
