package main

import (
	"bytes"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"mastflag/core/closed"
	"mastflag/core/consent"
	"mastflag/internal/delivery"
)

// scriptFile is the site script's types of an answer, derived from those of delivery.
func scriptFile() ([]byte, error) {
	answer := reflect.TypeFor[delivery.Answer]()
	r, err := reflector(answer)
	if err != nil {
		return nil, err
	}
	w := script{comments: r.CommentMap, met: map[reflect.Type]bool{}}
	w.define(answer)
	var b bytes.Buffer
	b.WriteString("// What the server answers to a page view. Written by `make generate`.\n")
	b.WriteString("import type { components } from '../../web/src/api/schema'\n")
	slices.Reverse(w.shapes)
	for _, shape := range w.shapes {
		b.WriteString("\n" + shape)
	}
	return b.Bytes(), nil
}

// script writes interfaces of TypeScript.
type script struct {
	comments map[string]string
	met      map[reflect.Type]bool
	shapes   []string
}

// define writes a struct, after those that it needs.
func (w *script) define(t reflect.Type) {
	if w.met[t] {
		return
	}
	w.met[t] = true
	var b strings.Builder
	b.WriteString(w.comment("", t.PkgPath()+"."+t.Name()))
	extends := ""
	if base := t.Field(0); base.Anonymous && base.Type.PkgPath() == t.PkgPath() {
		extends = " extends " + w.typeOf(base.Type)
	}
	fmt.Fprintf(&b, "export interface %s%s {\n", t.Name(), extends)
	w.fields(&b, t)
	b.WriteString("}\n")
	w.shapes = append(w.shapes, b.String())
}

// fields writes the fields of a struct and of what it embeds.
func (w *script) fields(b *strings.Builder, t reflect.Type) {
	for i := range t.NumField() {
		f := t.Field(i)
		if f.Anonymous {
			if f.Type.PkgPath() != t.PkgPath() { // else it is extended
				w.fields(b, f.Type)
			}
			continue
		}
		name, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		optional := ""
		if strings.Contains(options, "omit") {
			optional = "?"
		}
		typ := w.typeOf(f.Type)
		if f.Type.Kind() == reflect.Pointer && optional == "" && f.Type.Elem().Kind() != reflect.Struct {
			typ += " | null"
		}
		b.WriteString(w.comment("  ", t.PkgPath()+"."+t.Name()+"."+f.Name))
		fmt.Fprintf(b, "  %s%s: %s\n", name, optional, typ)
	}
}

func (w *script) typeOf(t reflect.Type) string {
	if set, ok := reflect.Zero(t).Interface().(closed.Set); ok && t.Kind() == reflect.String {
		return "'" + strings.Join(set.Values(), "' | '") + "'"
	}
	switch t.Kind() {
	case reflect.String:
		return "string"
	case reflect.Bool:
		return "boolean"
	case reflect.Pointer:
		return w.typeOf(t.Elem())
	case reflect.Slice:
		return w.typeOf(t.Elem()) + "[]"
	case reflect.Array:
		return "[" + strings.TrimSuffix(strings.Repeat(w.typeOf(t.Elem())+", ", t.Len()), ", ") + "]"
	case reflect.Map:
		return "Record<string, " + w.typeOf(t.Elem()) + ">"
	case reflect.Struct:
		inAPI := strings.HasPrefix(t.PkgPath(), "mastflag/core/") && !strings.HasSuffix(t.PkgPath(), "/render")
		if inAPI && t != reflect.TypeFor[consent.Holds]() {
			return "components['schemas']['" + t.Name() + "']" // the API has it
		}
		w.define(t)
		return t.Name()
	}
	return "number"
}

// comment is what a Go type or field says of itself.
func (w *script) comment(indent, name string) string {
	said := strings.Join(strings.Fields(w.comments[name]), " ")
	if said == "" {
		return ""
	}
	line := indent + "/** " + said + " */\n"
	if len([]rune(line)) <= 121 {
		return line
	}
	out, cur := indent+"/**\n", indent+" *"
	for word := range strings.FieldsSeq(said) {
		if len([]rune(cur))+1+len([]rune(word)) > 120 {
			out, cur = out+cur+"\n", indent+" *"
		}
		cur += " " + word
	}
	return out + cur + "\n" + indent + " */\n"
}
