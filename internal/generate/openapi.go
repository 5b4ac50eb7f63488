package main

import (
	"bytes"
	"cmp"
	"fmt"
	"reflect"
	"regexp"
	"strings"

	"mastflag/internal/admin"
	"mastflag/internal/problem"
)

// object is a JSON object whose keys are written in alphabetical order.
type object = map[string]any

var pathParam = regexp.MustCompile(`:(\w+)`)

// elsewhere is what types are called in the API whose name another has there.
var elsewhere = map[string]string{
	"decide.Step":     "GateStep",
	"bundle.Site":     "BundleSite",
	"bundle.Page":     "BundlePage",
	"document.Change": "TextChange",
}

// openAPI writes the API's description, OpenAPI 3.1, from the table of routes
// that serves it.
func openAPI() ([]byte, error) {
	routes := (&admin.Admin{}).Routes()
	types := []reflect.Type{reflect.TypeFor[problem.Problem]()}
	for _, rt := range routes {
		types = append(types, rt.In, rt.Out)
	}
	r, err := reflector(types...)
	if err != nil {
		return nil, err
	}
	named := map[string]reflect.Type{}
	var twice error
	name := func(t reflect.Type) string {
		pkg := t.PkgPath()[strings.LastIndexByte(t.PkgPath(), '/')+1:]
		return cmp.Or(elsewhere[pkg+"."+t.Name()], t.Name())
	}
	r.Namer = func(t reflect.Type) string {
		n := name(t)
		if have, known := named[n]; known && defined(t) && have != t {
			twice = fmt.Errorf("%v and %v would both be called %s: name one of them otherwise", have, t, n)
		}
		named[n] = t
		return n
	}
	schemas := object{}
	shape := func(t reflect.Type) (object, error) {
		s := r.ReflectFromType(t)
		for name, def := range s.Definitions {
			schemas[name] = def
		}
		name := t.Name()
		if r.Namer != nil {
			name = r.Namer(t)
		}
		return object{"$ref": "#/components/schemas/" + name}, nil
	}
	problemRef, err := shape(reflect.TypeFor[problem.Problem]())
	if err != nil {
		return nil, err
	}
	paths := object{}
	for _, rt := range routes {
		in, err := shape(rt.In)
		if err != nil {
			return nil, err
		}
		out, err := shape(rt.Out)
		if err != nil {
			return nil, err
		}
		path := pathParam.ReplaceAllString(rt.Path, "{$1}")
		var params []object
		for _, m := range pathParam.FindAllStringSubmatch(rt.Path, -1) {
			params = append(params, object{"name": m[1], "in": "path", "required": true, "schema": object{"type": "string"}})
		}
		op := object{"summary": rt.Summary, "responses": object{
			"200": object{"description": "Done.", "content": object{"application/json": object{"schema": out}}},
			"default": object{
				"description": "A problem (RFC 9457).",
				"content":     object{"application/problem+json": object{"schema": problemRef}},
			},
		}}
		if rt.Gives != "" {
			op["responses"].(object)["200"] = object{
				"description": "A file.",
				"content":     object{strings.Split(rt.Gives, ";")[0]: object{"schema": object{"type": "string"}}},
			}
		}
		query := rt.Query
		if rt.Method == "GET" {
			query = rt.In
		}
		if query != nil {
			for _, f := range reflect.VisibleFields(query) {
				if name := f.Tag.Get("form"); name != "" {
					params = append(params, object{"name": name, "in": "query", "schema": object{"type": "string"}})
				}
			}
		}
		if rt.Method != "GET" && rt.In.Name() != "Nothing" {
			op["requestBody"] = object{"required": true, "content": object{"application/json": object{"schema": in}}}
		}
		if rt.Open {
			op["security"] = []object{}
		}
		if params != nil {
			op["parameters"] = params
		}
		at, _ := paths[path].(object)
		if at == nil {
			at = object{}
			paths[path] = at
		}
		at[strings.ToLower(rt.Method)] = op
	}
	if twice != nil {
		return nil, twice
	}
	doc := object{
		"openapi": "3.1.0",
		"info": object{
			"title":       "Mast Flag",
			"version":     "1",
			"description": "The API that the interface uses. Times are RFC 3339; a write carries the revision it started from.",
		},
		"paths": paths,
		"components": object{
			"schemas":         schemas,
			"securitySchemes": object{"session": object{"type": "apiKey", "in": "cookie", "name": "mastflag"}},
		},
		"security": []object{{"session": []string{}}},
	}
	out, err := indent(doc)
	return bytes.ReplaceAll(out, []byte(`"#/$defs/`), []byte(`"#/components/schemas/`)), err
}

// defined reports whether a type is written once, under its name, where it is used: texts,
// numbers and what has no name stand in each place.
func defined(t reflect.Type) bool {
	return t.Name() != "" && (t.Kind() == reflect.Struct || t.Kind() == reflect.Map || t.Kind() == reflect.Slice)
}
