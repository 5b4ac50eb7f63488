// Package lookup chooses among texts in several languages: lookup of RFC 4647 §3.4.
package lookup

import (
	"slices"
	"strings"
)

// Choose returns the tag of those there are that fits a wanted one: the first
// wanted itself, then ever shorter, then the next wanted. Where none fits, the
// first there is in alphabetical order; "" if there is none.
func Choose(have []string, wanted ...string) string {
	for _, w := range wanted {
		for tag := w; tag != ""; tag = Parent(tag) {
			for _, h := range have {
				if strings.EqualFold(h, tag) {
					return h
				}
			}
		}
	}
	if len(have) == 0 {
		return ""
	}
	return slices.Min(have)
}

// Parent drops the last subtag, and a single-letter one that it then ends in.
func Parent(tag string) string {
	i := strings.LastIndexByte(tag, '-')
	if i < 0 {
		return ""
	}
	tag = tag[:i]
	if len(tag) >= 2 && tag[len(tag)-2] == '-' {
		tag = tag[:len(tag)-2]
	}
	return tag
}

// Base returns the first subtag of a tag, in lower case: the language alone.
func Base(tag string) string {
	base, _, _ := strings.Cut(strings.ToLower(tag), "-")
	return base
}
