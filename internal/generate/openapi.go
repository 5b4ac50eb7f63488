package main

import (
	"bytes"
	"cmp"
	"fmt"
	"reflect"
	"regexp"
	"strings"
	"unicode"

	"mastflag/internal/admin"
	"mastflag/internal/problem"
)

// object is a JSON object whose keys are written in alphabetical order.
type object = map[string]any

var (
	pathParam = regexp.MustCompile(`:(\w+)`)
	inBraces  = regexp.MustCompile(`\{(\w+)\}`)
)

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
		op := object{"operationId": operationID(rt.Method, path), "summary": rt.Summary, "responses": object{
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
	for _, v := range public {
		at, _ := paths[v.path].(object)
		if at == nil {
			at = object{}
			paths[v.path] = at
		}
		at[strings.ToLower(v.method)] = v.operation(problemRef)
	}
	doc := object{
		"openapi": "3.1.0",
		"info": object{
			"title":   "Mast Flag",
			"version": "1",
			"description": "What the interface uses, below /api, and what sites use. Times are RFC 3339; a write carries " +
				"the revision it started from.",
		},
		"paths": paths,
		"components": object{
			"schemas": schemas,
			"securitySchemes": object{
				"session": object{
					"type": "apiKey", "in": "cookie", "name": "__Host-mastflag", "description": "Over HTTPS.",
				},
				"sessionInside": object{
					"type": "apiKey", "in": "cookie", "name": "mastflag", "description": "Over plain HTTP.",
				},
			},
		},
		"security": []object{{"session": []string{}}, {"sessionInside": []string{}}},
	}
	out, err := indent(doc)
	return bytes.ReplaceAll(out, []byte(`"#/$defs/`), []byte(`"#/components/schemas/`)), err
}

// defined reports whether a type is written once, under its name, where it is used: texts,
// numbers and what has no name stand in each place.
func defined(t reflect.Type) bool {
	return t.Name() != "" && (t.Kind() == reflect.Struct || t.Kind() == reflect.Map || t.Kind() == reflect.Slice)
}

// operationID is what generated clients call an operation: its method and its path, in one word.
func operationID(method, path string) string {
	id := strings.ToLower(method)
	for segment := range strings.SplitSeq(strings.TrimPrefix(path, "/api"), "/") {
		for word := range strings.FieldsFuncSeq(segment, func(r rune) bool {
			return !unicode.IsLetter(r) && !unicode.IsDigit(r)
		}) {
			if strings.HasPrefix(segment, "{") {
				id += "By"
			}
			id += strings.ToUpper(word[:1]) + word[1:]
		}
	}
	return id
}

// A publicRoute is one that sites use: nobody signs in for it.
type publicRoute struct {
	method, path, summary string
	takes, gives          string // media types; it gives "" where it answers with 204 alone
}

// public are the routes of package delivery; a test compares them with its router.
var public = []publicRoute{
	{"GET", "/s/{key}", "The script of a site, KEY.js, as its pages load it.", "", "text/javascript"},
	{"GET", "/a/{name}", "A part of the site script.", "", "text/javascript"},
	{"GET", "/i/{key}/{file}", "An image of a site.", "", "image/*"},
	{"GET", "/i/{key}/icon/{name}", "An icon for the tab.", "", "image/svg+xml"},
	{"POST", "/d/{key}", "Decide what shows on a page view.", "text/plain", "application/json"},
	{"POST", "/r/{key}", "Keep an answer to a question of consent, or to a disclaimer.", "text/plain", ""},
	{"GET", "/r/{key}/{id}", "The receipt of an answer.", "", "application/json"},
	{"DELETE", "/r/{key}/{id}", "Erase an answer.", "", ""},
	{"POST", "/r/{key}/counts", "Count what was seen and done.", "text/plain", ""},
	{"GET", "/forms/{key}", "A mark to send a form with.", "", "text/plain"},
	{"POST", "/forms/{key}", "Take in what was filled in.", "text/plain", ""},
	{"GET", "/forms/{key}/{token}", "The page on which an address is confirmed.", "", "text/html"},
	{"POST", "/forms/{key}/{token}", "Confirm an address.", "application/x-www-form-urlencoded", "text/html"},
	{"GET", "/b/{key}/{id}", "A block as HTML and CSS, for a site's server.", "", "text/html"},
	{"GET", "/t/{key}", "The documents of a site.", "", "text/html"},
	{"GET", "/t/{key}/{id}", "A document.", "", "text/html"},
	{"GET", "/t/{key}/{id}/{language}", "A document in a language.", "", "text/html"},
	{"GET", "/t/{key}/{id}/{language}/{version}", "A version of a document.", "", "text/html"},
}

// operation describes the route; problem is the schema of what is answered where it fails.
func (p publicRoute) operation(problem object) object {
	text := func(kind string) object {
		return object{kind: object{"schema": object{"type": "string"}}}
	}
	status, done := "204", object{"description": "Done."}
	if p.gives != "" {
		status, done["content"] = "200", text(p.gives)
	}
	op := object{
		"operationId": operationID(p.method, p.path), "summary": p.summary, "security": []object{},
		"responses": object{
			status: done,
			"default": object{
				"description": "A problem (RFC 9457).",
				"content":     object{"application/problem+json": object{"schema": problem}},
			},
		},
	}
	var params []object
	for _, m := range inBraces.FindAllStringSubmatch(p.path, -1) {
		params = append(params, object{"name": m[1], "in": "path", "required": true, "schema": object{"type": "string"}})
	}
	op["parameters"] = params
	if p.takes != "" {
		op["requestBody"] = object{"required": true, "content": text(p.takes)}
	}
	return op
}
