package bundle

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/big"
	"reflect"
	"strings"
	"sync"
	"time"

	"mastflag/core/fault"
)

// Unmarshal reads one JSON value, and nothing after it, into v, a pointer. A key
// stands once in an object, letter for letter as the field of v has it; whole numbers
// may be written 50.0 or 5e1. The error is fault.Faults, with the place of what is
// wrong in words that name nothing of the program.
func Unmarshal(raw []byte, v any) error {
	if !json.Valid(raw) {
		return fault.Faults{syntaxFault(raw, json.Unmarshal(raw, new(json.RawMessage)))}
	}
	r := jsonReader{dec: json.NewDecoder(bytes.NewReader(raw)), raw: raw}
	r.dec.UseNumber()
	if err := r.value(reflect.TypeOf(v).Elem(), ""); err != nil {
		return err
	}
	dec := json.NewDecoder(&r.out)
	dec.DisallowUnknownFields()
	if err := dec.Decode(v); err != nil {
		return fault.Faults{{What: "it is not of the form that is expected", Remedy: "see the description of the format"}}
	}
	return nil
}

// once refuses objects that have a key twice, whatever they are.
func once(raw []byte) error {
	r := jsonReader{dec: json.NewDecoder(bytes.NewReader(raw)), raw: raw}
	r.dec.UseNumber()
	return r.value(nil, "")
}

// jsonReader reads JSON beside the type that it is to become, and writes it again as
// Go's own reader takes it.
type jsonReader struct {
	dec *json.Decoder
	raw []byte
	out bytes.Buffer
}

func (r *jsonReader) token() (json.Token, error) {
	t, err := r.dec.Token()
	if err != nil {
		return nil, fault.Faults{syntaxFault(r.raw, err)}
	}
	return t, nil
}

var (
	instant     = reflect.TypeFor[time.Time]()
	unmarshaler = reflect.TypeFor[json.Unmarshaler]()
)

// value reads a value that is to become of type t, nil for any, at a pointer.
func (r *jsonReader) value(t reflect.Type, at string) error {
	for t != nil && t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	own := t != nil && t != instant && reflect.PointerTo(t).Implements(unmarshaler)
	if own || t != nil && t.Kind() == reflect.Interface {
		t = nil // it reads itself
	}
	token, err := r.token()
	if err != nil {
		return err
	}
	switch v := token.(type) {
	case json.Delim:
		if v == '{' {
			return r.object(t, at)
		}
		return r.list(t, at)
	case json.Number:
		return r.number(v, t, at)
	case string:
		return r.text(v, t, at)
	case bool:
		if t != nil && t.Kind() != reflect.Bool {
			return misfit(at, fmt.Sprint(v), t)
		}
	}
	return r.write(token)
}

func (r *jsonReader) write(v any) error {
	b, err := json.Marshal(v)
	if err != nil {
		return err
	}
	_, err = r.out.Write(b)
	return err
}

func (r *jsonReader) object(t reflect.Type, at string) error {
	var fields map[string]reflect.Type
	switch {
	case t == nil || t.Kind() == reflect.Map:
	case t.Kind() == reflect.Struct && t != instant:
		fields = fieldsOfType(t)
	default:
		return misfit(at, "this object", t)
	}
	r.out.WriteByte('{')
	seen := map[string]bool{}
	for r.dec.More() {
		token, err := r.token()
		if err != nil {
			return err
		}
		key := token.(string)
		inner := at + fault.Pointer(key)
		if seen[key] {
			return fault.Faults{{Pointer: inner, What: fmt.Sprintf("the key %q stands twice", key), Remedy: "keep one of them"}}
		}
		if len(seen) > 0 {
			r.out.WriteByte(',')
		}
		seen[key] = true
		var of reflect.Type
		if fields != nil {
			known := false
			if of, known = fields[key]; !known {
				return fault.Faults{{
					Pointer: inner,
					What:    fmt.Sprintf("unknown field %q", key),
					Remedy:  "remove it, or check its spelling",
				}}
			}
		} else if t != nil {
			of = t.Elem()
		}
		if err := r.write(key); err != nil {
			return err
		}
		r.out.WriteByte(':')
		if err := r.value(of, inner); err != nil {
			return err
		}
	}
	r.out.WriteByte('}')
	_, err := r.token()
	return err
}

func (r *jsonReader) list(t reflect.Type, at string) error {
	var of reflect.Type
	switch {
	case t == nil:
	case t.Kind() == reflect.Slice && t.Elem().Kind() != reflect.Uint8 || t.Kind() == reflect.Array:
		of = t.Elem()
	default:
		return misfit(at, "this list", t)
	}
	r.out.WriteByte('[')
	for i := 0; r.dec.More(); i++ {
		if i > 0 {
			r.out.WriteByte(',')
		}
		if err := r.value(of, at+fault.Pointer(i)); err != nil {
			return err
		}
	}
	r.out.WriteByte(']')
	_, err := r.token()
	return err
}

func (r *jsonReader) number(n json.Number, t reflect.Type, at string) error {
	switch {
	case t == nil || t.Kind() == reflect.Float64 || t.Kind() == reflect.Float32:
		if _, err := n.Float64(); err != nil {
			return fault.Faults{{
				Pointer: at,
				What:    fmt.Sprintf("the number %.40s is too large", n),
				Remedy:  "give a smaller one",
			}}
		}
		r.out.WriteString(n.String())
		return nil
	case t.Kind() >= reflect.Int && t.Kind() <= reflect.Uint64:
		// A short text, so that no exponent makes a number of gigabytes.
		if f, err := n.Float64(); err == nil && f < 1e18 && f > -1e18 {
			if exact, ok := new(big.Rat).SetString(n.String()); ok && exact.IsInt() &&
				(exact.Sign() >= 0 || t.Kind() <= reflect.Int64) {
				r.out.WriteString(exact.Num().String())
				return nil
			}
		}
		return fault.Faults{{
			Pointer: at,
			What:    fmt.Sprintf("%.40s is not a whole number that can be used", n),
			Remedy:  "give a whole number",
		}}
	}
	return misfit(at, n.String(), t)
}

func (r *jsonReader) text(s string, t reflect.Type, at string) error {
	if t == instant {
		if _, err := time.Parse(time.RFC3339, s); err != nil {
			return fault.Faults{{
				Pointer: at,
				What:    fmt.Sprintf("%q is not an instant", firstRunes(s)),
				Remedy:  "write it like 2026-11-20T10:00:00Z (RFC 3339)",
			}}
		}
	} else if t != nil && t.Kind() != reflect.String && !(t.Kind() == reflect.Slice &&
		t.Elem().Kind() == reflect.Uint8) && !textual(t) {
		return misfit(at, fmt.Sprintf("%q", firstRunes(s)), t)
	}
	return r.write(s)
}

// textual reports whether a type reads itself from a text.
func textual(t reflect.Type) bool {
	_, ok := reflect.New(t).Interface().(interface{ UnmarshalText([]byte) error })
	return ok
}

func firstRunes(s string) string {
	if r := []rune(s); len(r) > 60 {
		return string(r[:57]) + "…"
	}
	return s
}

// misfit says that a value is not what its place takes.
func misfit(at, value string, t reflect.Type) error {
	wants := "another value"
	switch kind := t.Kind(); {
	case t == instant:
		wants = "an instant, like 2026-11-20T10:00:00Z"
	case kind == reflect.Bool:
		wants = "true or false"
	case kind >= reflect.Int && kind <= reflect.Uint64:
		wants = "a whole number"
	case kind == reflect.Float32 || kind == reflect.Float64:
		wants = "a number"
	case kind == reflect.String || textual(t):
		wants = "a text, in quotes"
	case kind == reflect.Slice || kind == reflect.Array:
		wants = "a list"
	case kind == reflect.Map || kind == reflect.Struct:
		wants = "an object"
	}
	return fault.Faults{{Pointer: at, What: value + " does not belong here", Remedy: "give " + wants}}
}

// fieldsByType are what fieldsOfType has returned, by type.
var fieldsByType sync.Map

// fieldsOfType returns the keys of a struct's fields in JSON, those of embedded structs
// among them, with their types. Whoever gets it does not change it.
func fieldsOfType(t reflect.Type) map[string]reflect.Type {
	if known, ok := fieldsByType.Load(t); ok {
		return known.(map[string]reflect.Type)
	}
	out := map[string]reflect.Type{}
	defer fieldsByType.Store(t, out)
	for _, f := range reflect.VisibleFields(t) {
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		if !f.IsExported() || name == "-" || f.Anonymous && name == "" {
			continue
		}
		if name == "" {
			name = f.Name
		}
		if len(f.Index) > 1 && out[name] != nil {
			continue // the outer one counts
		}
		out[name] = f.Type
	}
	return out
}
