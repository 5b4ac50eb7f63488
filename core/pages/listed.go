package pages

import "strings"

// endings are what an address may go on with and be the same page (rule P5): what common web servers answer with where
// a folder is asked for, or leave out.
var endings = []string{
	"/index.html", "/index.htm", "/index.xhtml", "/index.php", ".html", ".htm", ".xhtml", ".php",
}

// withoutEnding returns a path without its ending, and which that is; "" if it has none.
func withoutEnding(path string) (stem string, ending int) {
	for i, e := range endings {
		stem, ok := strings.CutSuffix(path, e)
		switch {
		case !ok || strings.HasSuffix(stem, "/"):
		case stem != "":
			return stem, i
		case i < len(endings)/2: // the folder's own page
			return "/", i
		}
	}
	return "", 0
}

// WithoutEnding returns the other address of a page at a path that has such an ending; "" if it has none.
func WithoutEnding(path string) string {
	stem, _ := withoutEnding(path)
	return stem
}

// Listed are a site's listed pages, by any of their addresses (rule P5). In the zero Listed each address is its own.
type Listed struct {
	paths map[string]bool
	// Those that have an ending, by the path without, where that is not listed.
	ending map[string]string
}

// NewListed returns the pages at paths in normal form.
func NewListed(paths []string) Listed {
	l := Listed{make(map[string]bool, len(paths)), map[string]string{}}
	for _, path := range paths {
		l.paths[path] = true
	}
	for _, path := range paths {
		stem, ending := withoutEnding(path)
		if stem == "" || l.paths[stem] {
			continue
		}
		was, twice := l.ending[stem]
		if _, first := withoutEnding(was); !twice || ending < first {
			l.ending[stem] = path
		}
	}
	return l
}

// Find returns the path under which a page is listed, given one in normal form; that itself where none is.
func (l Listed) Find(path string) string {
	if l.paths[path] {
		return path
	}
	base, route := path, ""
	if i := strings.IndexByte(path, '#'); i >= 0 {
		base, route = path[:i], path[i:]
	}
	if l.paths[base] {
		return path
	}
	if with, ok := l.ending[base]; ok {
		return with + route
	}
	if stem, _ := withoutEnding(base); stem != "" && l.paths[stem] {
		return stem + route
	}
	return path
}
