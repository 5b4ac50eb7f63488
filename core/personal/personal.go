// Package personal is about places in messages for what a site tells of the visitor: {person.NAME|words}
// and {event.NAME.PROPERTY|words} (rule N1). The values stay in the visitor's browser.
package personal

import (
	"regexp"
	"slices"
	"strings"

	"golang.org/x/net/html"

	"mastflag/core/audience"
)

// A Place is one in a text.
type Place struct {
	// person.NAME or event.NAME.PROPERTY.
	Name string
	// What everyone else reads, as HTML; "" where nothing stands after the bar, or no bar.
	Words string
}

// place finds what is one. Words are text with its escapes, and hold no element; a place for what the
// site says of itself may stand among them, such as {name}, and a countdown may not (read).
var place = regexp.MustCompile(
	`\{((?:person|event\.[A-Za-z0-9_-]{1,100})\.[A-Za-z0-9_-]{1,100}) *(?:\|((?:[^{}<>]|\{[a-z]{2,30}\})*))?\}`,
)

// begun finds what looks like one.
var begun = regexp.MustCompile(`\{(?:person|event)\.[^{}<>]*[}<]?`)

// read returns the place that a match of the expression is; ok is false where its name is none.
func read(m []string) (p Place, ok bool) {
	p = Place{m[1], strings.TrimSpace(m[2])}
	if strings.Contains(p.Words, "{countdown}") { // whose figures would go once the value is put in
		return p, false
	}
	if rest, is := strings.CutPrefix(p.Name, "event."); is {
		_, property, _ := strings.Cut(rest, ".")
		if property == "count" || property == "daysSince" { // which name no property (rule N3)
			return p, false
		}
	}
	for part := range strings.SplitSeq(p.Name, ".") {
		if audience.Reserved(part) {
			return p, false
		}
	}
	return p, true
}

// Places returns the places in a text, in their order.
func Places(text string) (out []Place) {
	for _, m := range place.FindAllStringSubmatch(text, -1) {
		if p, ok := read(m); ok {
			out = append(out, p)
		}
	}
	return out
}

// Mistaken returns what looks like a place in a text and is none, and stands there as it is.
func Mistaken(text string) []string {
	return begun.FindAllString(replaced(text, func(Place) string { return "" }), -1)
}

// Words returns a text as everyone reads it of whom nothing is known.
func Words(text string) string {
	return replaced(text, func(p Place) string { return p.Words })
}

// HTML returns HTML in which each place among its words is an element with the words for the
// others, whose text the site script replaces where it knows the value. A place within a tag, where
// no element can stand, is the words alone.
func HTML(text string) string {
	if !strings.Contains(text, "{") {
		return text
	}
	var b strings.Builder
	for z := html.NewTokenizer(strings.NewReader(text)); ; {
		kind := z.Next()
		raw := string(z.Raw())
		switch kind {
		case html.ErrorToken:
			return b.String() + raw // what is no token to its end
		case html.TextToken:
			b.WriteString(replaced(raw, func(p Place) string {
				return `<bdi data-personal="` + p.Name + `">` + p.Words + `</bdi>` // a name holds nothing to be escaped
			}))
		default:
			b.WriteString(Words(raw))
		}
	}
}

// In reports whether an address holds a place, or the beginning of one, as it stands or escaped.
func In(address string) bool { return inAddress.MatchString(address) }

var inAddress = regexp.MustCompile(`(?i)(\{|%7b)(person|event)\.`)

func replaced(text string, by func(Place) string) string {
	if !strings.Contains(text, "{") {
		return text
	}
	return place.ReplaceAllStringFunc(text, func(found string) string {
		p, ok := read(place.FindStringSubmatch(found))
		if !ok {
			return found
		}
		return by(p)
	})
}

// Events returns the events of which texts want a property, as NAME.PROPERTY, sorted, each once.
func Events(texts []string) []string {
	var out []string
	for _, t := range texts {
		for _, p := range Places(t) {
			if rest, ok := strings.CutPrefix(p.Name, "event."); ok {
				out = append(out, rest)
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
