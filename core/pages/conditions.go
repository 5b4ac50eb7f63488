// Package pages decides on which pages of a site a notice shows: the normal
// form of paths and origins, and include and exclude conditions. Rules P1 to P3.
package pages

import (
	"fmt"
	"slices"
	"strings"

	"github.com/dunglas/go-urlpattern"

	"mastflag/core/fault"
)

// Conditions say on which pages a notice shows. Exclude always wins; the
// order of entries never matters (rule P1).
type Conditions struct {
	// The notice shows on a page that one of these matches. Without any it appears nowhere.
	Include []Entry `json:"include,omitempty" jsonschema:"maxItems=2000"`
	// The notice never shows on a page that one of these matches.
	Exclude []Entry `json:"exclude,omitempty" jsonschema:"maxItems=2000"`
}

// An Entry matches some pages of a site (rule P2).
type Entry struct {
	// all: every page. home: the site's home paths. page: the page at path. section: the page at path and all below it. pattern: paths that a URL pattern matches.
	Match Match `json:"match" jsonschema:"enum=all,enum=home,enum=page,enum=section,enum=pattern"`
	// For page and section.
	Path string `json:"path,omitempty" jsonschema:"maxLength=2048"`
	// For pattern: the pathname syntax of the WHATWG URL Pattern Standard, such as /news/:year.
	Pattern string `json:"pattern,omitempty" jsonschema:"maxLength=2048"`
}

// String returns what the entry takes, in words: "the pages under /ports".
func (e Entry) String() string {
	switch e.Match {
	case All:
		return "every page"
	case Home:
		return "the home page"
	case Page:
		return "the page " + e.Path
	case Section:
		return "the pages under " + e.Path
	}
	return "pages like " + e.Pattern
}

// A Match is the kind of an Entry.
type Match string

const (
	All     Match = "all"
	Home    Match = "home"
	Page    Match = "page"
	Section Match = "section"
	Pattern Match = "pattern"
)

// Set is a compiled Conditions. The zero Set matches nothing.
type Set struct {
	include, exclude []rule
}

// rule is an Entry compiled.
type rule struct {
	entry   Entry
	path    string // normal form, for page and section
	homes   []string
	pattern *urlpattern.URLPattern
}

// Outcome says whether a page is taken and by what. An index that does not
// apply is -1.
type Outcome struct {
	Shows            bool
	Include, Exclude int // the first entry of each list that matches
	IncludeCount     int // how many include entries there are
}

// Compile reads conditions for a site with these home paths, given in normal
// form. Faults point into the conditions.
func Compile(c Conditions, homes []string) (Set, fault.Faults) {
	var faults fault.Faults
	list := func(name string, in []Entry) (out []rule) {
		for i, e := range in {
			r, f := e.compile(homes)
			if f != nil {
				faults = append(faults, fault.Faults{*f}.Under(fault.Pointer(name, i))...)
				continue
			}
			out = append(out, r)
		}
		return out
	}
	return Set{include: list("include", c.Include), exclude: list("exclude", c.Exclude)}, faults
}

func (e Entry) compile(homes []string) (rule, *fault.Fault) {
	r := rule{entry: e, homes: homes}
	switch e.Match {
	case All, Home:
		if e.Path != "" || e.Pattern != "" {
			return r, &fault.Fault{What: fmt.Sprintf("%q takes no path or pattern", e.Match), Remedy: "leave it out, or match a page or section"}
		}
	case Page, Section:
		if e.Pattern != "" {
			return r, &fault.Fault{Pointer: "/pattern", What: fmt.Sprintf("%q takes a path, not a pattern", e.Match), Remedy: `use "match": "pattern" for a pattern`}
		}
		p, err := NormalPath(e.Path)
		if err != nil {
			return r, &fault.Fault{Pointer: "/path", What: err.Error(), Remedy: "give a path of the site such as /ports/aldwick"}
		}
		r.path = p
	case Pattern:
		if e.Path != "" {
			return r, &fault.Fault{Pointer: "/path", What: `"pattern" takes a pattern, not a path`, Remedy: `use "match": "page" for a path`}
		}
		if !strings.HasPrefix(e.Pattern, "/") && !strings.HasPrefix(e.Pattern, "*") && !strings.HasPrefix(e.Pattern, "{") {
			return r, &fault.Fault{Pointer: "/pattern", What: fmt.Sprintf("pattern %q does not begin with /", e.Pattern), Remedy: "give a pattern of paths such as /news/* or /ports/:name"}
		}
		p, err := compilePattern(e.Pattern)
		if err != nil {
			return r, &fault.Fault{Pointer: "/pattern", What: fmt.Sprintf("%q is not a URL pattern", e.Pattern), Remedy: "use * for anything, :name for one segment, {…}? for what may be missing"}
		}
		r.pattern = p
	default:
		return r, &fault.Fault{Pointer: "/match", What: fmt.Sprintf("unknown match %q", e.Match), Remedy: "use all, home, page, section or pattern"}
	}
	return r, nil
}

// compilePattern guards the library against inputs on which it gives up by panic.
func compilePattern(s string) (p *urlpattern.URLPattern, err error) {
	defer func() {
		if r := recover(); r != nil {
			p, err = nil, fmt.Errorf("it cannot be read")
		}
	}()
	return (&urlpattern.URLPatternInit{Pathname: &s}).New(nil)
}

// matches reports whether the rule takes the page at path, given in normal form.
func (r rule) matches(path string) bool {
	switch r.entry.Match {
	case All:
		return true
	case Home:
		return slices.Contains(r.homes, path)
	case Page:
		return path == r.path
	case Section:
		return below(path, r.path)
	default:
		return r.pattern.TestInit(&urlpattern.URLPatternInit{Pathname: &path})
	}
}

// below reports whether path is section or lies below it by whole segments.
func below(path, section string) bool {
	if section == "/" || path == section {
		return true
	}
	return len(path) > len(section) && path[:len(section)] == section && path[len(section)] == '/'
}

// Test says whether the notice shows on the page at path, given in normal
// form, and which entries decided (rule P1).
func (s Set) Test(path string) Outcome {
	o := Outcome{Include: -1, Exclude: -1, IncludeCount: len(s.include)}
	o.Include = slices.IndexFunc(s.include, func(r rule) bool { return r.matches(path) })
	o.Exclude = slices.IndexFunc(s.exclude, func(r rule) bool { return r.matches(path) })
	o.Shows = o.Include >= 0 && o.Exclude < 0
	return o
}

// Covers reports whether every page that b takes is taken by a, whatever
// pages the site has. It may say false where that is so, never true where it
// is not.
func Covers(a, b Entry, homes []string) bool {
	ra, fa := a.compile(homes)
	rb, fb := b.compile(homes)
	if fa != nil || fb != nil {
		return false
	}
	switch {
	case a.Match == All || a == b:
		return true
	case b.Match == Page:
		return ra.matches(rb.path)
	case b.Match == Section:
		return a.Match == Section && below(rb.path, ra.path)
	case b.Match == Home:
		return len(homes) > 0 && !slices.ContainsFunc(homes, func(h string) bool { return !ra.matches(h) })
	}
	return a.Match == Section && ra.path == "/"
}
