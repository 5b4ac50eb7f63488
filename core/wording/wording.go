// Package wording chooses which language's text of a notice a page gets.
package wording

import (
	"maps"
	"slices"
	"strings"

	"mastflag/core/bundle"
)

// Choose returns the tag of the wording for a page in the given language, by
// RFC 4647 §3.4 lookup: the tag itself, then ever shorter, then the site's
// language. Where that is missing too, the first tag in alphabetical order;
// "" if there is no wording that says something.
func Choose(w map[string]bundle.Wording, page, site string) string {
	for _, wanted := range []string{page, site} {
		for tag := wanted; tag != ""; tag = shorter(tag) {
			for have, text := range w {
				if strings.EqualFold(have, tag) && text.Message != "" {
					return have
				}
			}
		}
	}
	for _, tag := range slices.Sorted(maps.Keys(w)) {
		if w[tag].Message != "" {
			return tag
		}
	}
	return ""
}

// shorter drops the last subtag, and a single-letter one that it then ends in.
func shorter(tag string) string {
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
