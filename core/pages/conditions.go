// Package pages decides on which pages of a site a notice shows: the normal
// form of paths and origins, and include and exclude conditions. Rules P1 to P5.
package pages

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"sync"

	"github.com/dunglas/go-urlpattern"

	"mastflag/core/closed"
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

// Uses reports whether an entry names the saved page set.
func (c Conditions) Uses(set string) bool {
	return slices.ContainsFunc(
		slices.Concat(c.Include, c.Exclude), func(e Entry) bool { return e.Match == InSet && e.Name == set },
	)
}

// A SavedSet is conditions under a name, used by entries of many notices.
type SavedSet struct {
	// What people call it; unique on the site.
	Name string `json:"name" jsonschema:"minLength=1,maxLength=100"`
	Conditions
}

// An Entry matches some pages of a site (rule P2).
type Entry struct {
	// all: every page. home: the site's home paths. page: the page at path. section: the page at path and all below it.
	// pattern: paths that a URL pattern matches. type, tag, language: pages with that value. query: addresses with that
	// query parameter. set: pages of a saved page set.
	Match Match `json:"match"`
	// For page and section.
	Path string `json:"path,omitempty" jsonschema:"maxLength=2048"`
	// For pattern: the pathname syntax of the WHATWG URL Pattern Standard, such as /news/:year. A site has room for 20 in
	// which nothing stands for itself.
	Pattern string `json:"pattern,omitempty" jsonschema:"maxLength=2048"`
	// For query and set: the name of the parameter, or of the page set.
	Name string `json:"name,omitempty" jsonschema:"maxLength=200"`
	// For type, tag and language (RFC 4647 basic filtering), and for query if it is to have one value.
	Value *string `json:"value,omitempty" jsonschema:"maxLength=500"`
}

// GetValue returns the entry's value, "" if it has none.
func (e Entry) GetValue() string {
	if e.Value == nil {
		return ""
	}
	return *e.Value
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
	case Pattern:
		return "pages that match " + e.Pattern
	case Type:
		return "pages of type " + e.GetValue()
	case Tag:
		return "pages tagged " + e.GetValue()
	case Language:
		return "pages in " + e.GetValue()
	case Query:
		if e.Value == nil {
			return "addresses with ?" + e.Name
		}
		return "addresses with ?" + e.Name + "=" + *e.Value
	}
	return "the page set “" + e.Name + "”"
}

// A Match is the kind of an Entry.
type Match string

const (
	All      Match = "all"
	Home     Match = "home"
	Page     Match = "page"
	Section  Match = "section"
	Pattern  Match = "pattern"
	Type     Match = "type"
	Tag      Match = "tag"
	Language Match = "language"
	Query    Match = "query"
	InSet    Match = "set"
)

func (Match) Values() []string {
	return closed.Strings(All, Home, Page, Section, Pattern, Type, Tag, Language, Query, InSet)
}

// A Subject is a page as conditions see it: what is known of it, and how it
// was asked for.
type Subject struct {
	// In normal form.
	Path     string
	Type     string
	Tags     []string
	Language string
	// The address's query, without the question mark.
	Query string
}

// Names are what conditions of a site may refer to.
type Names struct {
	Homes  []string // in normal form
	Listed Listed
	sets   map[string]Set // nil for the conditions of a page set, which holds no other
}

// NewNames compiles a site's page sets; a home page counts as listed. homes and listed are paths in normal form. Faults
// point into the list of sets.
func NewNames(homes, listed []string, sets []SavedSet) (Names, fault.Faults) {
	n := Names{Listed: NewListed(listed), sets: map[string]Set{}}
	for _, h := range homes {
		n.Homes = append(n.Homes, n.Listed.Find(h))
	}
	n.Listed = NewListed(slices.Concat(listed, n.Homes))
	var faults fault.Faults
	for i, s := range sets {
		at := fault.Pointer(i)
		if _, twice := n.sets[s.Name]; twice {
			faults = append(faults, fault.Fault{
				Pointer: at + "/name",
				What:    fmt.Sprintf("two page sets are named %q", s.Name),
				Remedy:  "give each its own name",
			})
		}
		c, f := Compile(s.Conditions, Names{Homes: n.Homes, Listed: n.Listed})
		faults = append(faults, f.Under(at)...)
		n.sets[s.Name] = c
	}
	return n, faults
}

// Set is a compiled Conditions. The zero Set matches nothing.
type Set struct {
	include, exclude []rule
}

// rule is an Entry compiled.
type rule struct {
	entry   Entry
	path    string // normal form, for page and section
	homes   []string
	simple  simple                        // a pattern, where it is one
	pattern func() *urlpattern.URLPattern // any other; made when it is tried first
	within  string                        // what stands in every path that it matches
	prefix  string                        // what these begin with
	set     *Set
}

// Outcome says whether a page is taken and by what. An index that does not
// apply is -1.
type Outcome struct {
	Shows            bool
	Include, Exclude int // the first entry of each list that matches
	IncludeCount     int // how many include entries there are
}

// Compile reads conditions for a site with these names. Faults point into the
// conditions.
func Compile(c Conditions, names Names) (Set, fault.Faults) {
	var faults fault.Faults
	list := func(name string, in []Entry) (out []rule) {
		for i, e := range in {
			r, f := e.compile(names)
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

// takes lists which of an entry's fields each match reads.
var takes = map[Match]struct{ path, pattern, name, value bool }{
	All: {}, Home: {},
	Page: {path: true}, Section: {path: true}, Pattern: {pattern: true},
	Type: {value: true}, Tag: {value: true}, Language: {value: true},
	Query: {name: true, value: true}, InSet: {name: true},
}

func (e Entry) compile(names Names) (rule, *fault.Fault) {
	r := rule{entry: e, homes: names.Homes}
	reads, known := takes[e.Match]
	if !known {
		return r, &fault.Fault{
			Pointer: "/match",
			What:    fmt.Sprintf("unknown match %q", e.Match),
			Remedy:  "use all, home, page, section, pattern, type, tag, language, query or set",
		}
	}
	for _, f := range []struct {
		name       string
		set, taken bool
	}{
		{"path", e.Path != "", reads.path}, {"pattern", e.Pattern != "", reads.pattern}, {"name", e.Name != "", reads.name},
		{"value", e.Value != nil, reads.value},
	} {
		if f.set && !f.taken {
			return r, &fault.Fault{
				Pointer: "/" + f.name,
				What:    fmt.Sprintf("%q takes no %s", e.Match, f.name),
				Remedy:  "leave it out, or use another match",
			}
		}
	}
	switch e.Match {
	case Page, Section:
		p, err := PagePath(e.Path)
		if err != nil {
			return r, &fault.Fault{Pointer: "/path", What: err.Error(), Remedy: "give a path of the site such as /ports/aldwick"}
		}
		r.path = names.Listed.Find(p)
	case Pattern:
		if !strings.HasPrefix(e.Pattern, "/") && !strings.HasPrefix(e.Pattern, "*") && !strings.HasPrefix(e.Pattern, "{") {
			return r, &fault.Fault{
				Pointer: "/pattern",
				What:    fmt.Sprintf("pattern %q does not begin with /", e.Pattern),
				Remedy:  "give a pattern of paths such as /news/* or /ports/:name",
			}
		}
		if !isPattern(e.Pattern) {
			return r, &fault.Fault{
				Pointer: "/pattern",
				What:    fmt.Sprintf("%q is not a URL pattern", e.Pattern),
				Remedy:  "use * for anything, :name for one segment, {…}? for what may be missing",
			}
		}
		var ok bool
		if r.simple, ok = simplified(e.Pattern); ok {
			r.prefix = r.simple.prefix()
		} else {
			r.within, r.prefix = literal(e.Pattern)
			r.pattern = sync.OnceValue(func() *urlpattern.URLPattern {
				p, _ := compilePattern(e.Pattern) // it is one
				return p
			})
		}
	case Type, Tag, Language:
		if e.GetValue() == "" {
			return r, &fault.Fault{
				Pointer: "/value",
				What:    fmt.Sprintf("%q needs a value", e.Match),
				Remedy:  fmt.Sprintf("give the %s of the pages meant", e.Match),
			}
		}
	case Query:
		if e.Name == "" {
			return r, &fault.Fault{
				Pointer: "/name",
				What:    `"query" needs a name`,
				Remedy:  "give the name of the query parameter, such as from",
			}
		}
	case InSet:
		if names.sets == nil {
			return r, &fault.Fault{What: "a page set holds another", Remedy: "list its pages instead"}
		}
		set, ok := names.sets[e.Name]
		if !ok {
			return r, &fault.Fault{
				Pointer: "/name",
				What:    fmt.Sprintf("there is no page set %q", e.Name),
				Remedy:  "use the name of a page set of the site",
			}
		}
		r.set = &set
	}
	return r, nil
}

// patterns are those that are known to be patterns, or to be none: a site is read several times, and
// each is made for its first page alone.
var patterns = struct {
	sync.Mutex
	known map[string]bool
}{known: map[string]bool{}}

// maxPatterns is how many are known at once.
const maxPatterns = 50_000

// isPattern reports whether a text is a URL pattern of paths.
func isPattern(s string) bool {
	patterns.Lock()
	is, known := patterns.known[s]
	patterns.Unlock()
	if known {
		return is
	}
	_, err := compilePattern(s)
	patterns.Lock()
	defer patterns.Unlock()
	if len(patterns.known) >= maxPatterns {
		clear(patterns.known)
	}
	patterns.known[strings.Clone(s)] = err == nil
	return err == nil
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

// matches reports whether the rule takes the page.
func (r rule) matches(p Subject) bool {
	switch r.entry.Match {
	case All:
		return true
	case Home:
		return slices.Contains(r.homes, p.Path)
	case Page:
		return p.Path == r.path
	case Section:
		return Below(p.Path, r.path)
	case Pattern:
		if r.simple != nil {
			return r.simple.matches(p.Path)
		}
		return strings.Contains(p.Path, r.within) && r.pattern().TestInit(&urlpattern.URLPatternInit{Pathname: &p.Path})
	case Type:
		return p.Type == *r.entry.Value
	case Tag:
		return slices.Contains(p.Tags, *r.entry.Value)
	case Language:
		return Filter(*r.entry.Value, p.Language)
	case Query:
		if p.Query == "" {
			return false
		}
		q, _ := url.ParseQuery(p.Query) // what can be read of it
		values, ok := q[r.entry.Name]
		return ok && (r.entry.Value == nil || slices.Contains(values, *r.entry.Value))
	default:
		return r.set.Test(p).Shows
	}
}

// Filter reports whether a language range takes a tag, by basic filtering
// (RFC 4647 §3.3.1).
func Filter(rang, tag string) bool {
	if rang == "*" {
		return tag != ""
	}
	return len(tag) >= len(rang) && strings.EqualFold(tag[:len(rang)], rang) &&
		(len(tag) == len(rang) || tag[len(rang)] == '-')
}

// NamedLanguage returns the one of these languages that the first segment of a path names, "" if it names none.
func NamedLanguage(path string, languages []string) string {
	segment := strings.TrimPrefix(path, "/")
	if i := strings.IndexAny(segment, "/#"); i >= 0 {
		segment = segment[:i]
	}
	for _, l := range languages {
		if strings.EqualFold(l, segment) {
			return l
		}
	}
	return ""
}

// Below reports whether path is section or lies below it by whole segments. Routes lie below the page that has them.
func Below(path, section string) bool {
	if section == "/" || path == section {
		return true
	}
	return len(path) > len(section) && path[:len(section)] == section && ends(path, len(section))
}

// ends reports whether a segment of path ends before the byte at i.
func ends(path string, i int) bool { return i == len(path) || path[i] == '/' || path[i] == '#' }

// Test says whether the notice shows on a page, and which entries decided
// (rule P1).
func (s Set) Test(p Subject) Outcome {
	o := Outcome{Include: -1, Exclude: -1, IncludeCount: len(s.include)}
	o.Include = slices.IndexFunc(s.include, func(r rule) bool { return r.matches(p) })
	o.Exclude = slices.IndexFunc(s.exclude, func(r rule) bool { return r.matches(p) })
	o.Shows = o.Include >= 0 && o.Exclude < 0
	return o
}

// maxParameters is how many parameters and values conditions may ask for so that all
// queries which they can tell apart are tried.
const maxParameters = 6

// None reports whether conditions take none of these pages, whatever the query of its
// address. It is true only where that is so; false, too, where it is not looked at to the
// end, because they ask for too many parameters, or entries would have to be put to pages
// more often than left says. What was put is taken off left.
func (s Set) None(list []Subject, left *int) bool {
	queries, all := s.queries()
	size := s.size()
	for _, p := range list {
		if *left -= size; *left < 0 {
			return false
		}
		possible, certain := s.bounds(p)
		if !possible {
			continue
		}
		if certain || !all || slices.ContainsFunc(queries, func(q string) bool {
			*left -= size
			p.Query = q
			return s.Test(p).Shows
		}) {
			return false
		}
	}
	return true
}

// queries returns queries of which one is answered like each that a visitor may come with;
// all is false where there are too many.
func (s Set) queries() (out []string, all bool) {
	var asked []string
	var walk func(s Set)
	walk = func(s Set) {
		for _, r := range slices.Concat(s.include, s.exclude) {
			switch {
			case r.set != nil:
				walk(*r.set)
			case r.entry.Match == Query && r.entry.Value != nil:
				asked = append(asked, url.Values{r.entry.Name: {*r.entry.Value}}.Encode())
			case r.entry.Match == Query:
				asked = append(asked, url.Values{r.entry.Name: {"\x00"}}.Encode()) // a value that nobody asks for
			}
		}
	}
	walk(s)
	slices.Sort(asked)
	asked = slices.Compact(asked)
	if len(asked) > maxParameters {
		return nil, false
	}
	for which := range 1 << len(asked) {
		var q []string
		for i, a := range asked {
			if which>>i&1 == 1 {
				q = append(q, a)
			}
		}
		out = append(out, strings.Join(q, "&"))
	}
	return out, true
}

// bounds reports whether a page may be taken with some query, and whether it is with each.
func (s Set) bounds(p Subject) (possible, certain bool) {
	some := func(list []rule) (possible, certain bool) {
		for _, r := range list {
			may, must := r.bounds(p)
			possible, certain = possible || may, certain || must
			if certain {
				break
			}
		}
		return possible, certain
	}
	mayOut, mustOut := some(s.exclude)
	if mustOut {
		return false, false
	}
	possible, certain = some(s.include)
	return possible, certain && !mayOut
}

func (r rule) bounds(p Subject) (possible, certain bool) {
	switch r.entry.Match {
	case Query:
		return true, false
	case InSet:
		return r.set.bounds(p)
	}
	takes := r.matches(p)
	return takes, takes
}

// size is how many entries there are, those of page sets counted where they are named.
func (s Set) size() int {
	n := len(s.include) + len(s.exclude)
	for _, r := range slices.Concat(s.include, s.exclude) {
		if r.set != nil {
			n += r.set.size()
		}
	}
	return n
}

// AsksQuery reports whether the address's query matters.
func (s Set) AsksQuery() bool {
	return slices.ContainsFunc(slices.Concat(s.include, s.exclude), func(r rule) bool {
		return r.entry.Match == Query || r.set != nil && r.set.AsksQuery()
	})
}
