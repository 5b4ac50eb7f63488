package pages

import (
	"slices"
	"strings"
)

// Coverings are entries, ready to be asked which of them cover another.
type Coverings struct {
	names     Names
	rules     []rule
	all       []int // every page, and the section of the home page
	same      map[entryKey][]int
	sections  map[string][]int // by path
	pages     map[string][]int
	byPath    []int            // patterns and home pages, which are tried
	languages map[string][]int // by range, in lower case
	queries   map[string][]int // of any value, by name
	known     map[entryKey][]int
}

// entryKey is what two entries that say the same have in common.
type entryKey struct {
	match               Match
	path, pattern, name string
	value               string
	hasValue            bool
}

func (e Entry) key() entryKey {
	return entryKey{e.Match, e.Path, e.Pattern, e.Name, e.GetValue(), e.Value != nil}
}

// NewCoverings reads entries of a site; those that are wrong cover nothing.
func NewCoverings(list []Entry, names Names) *Coverings {
	c := &Coverings{
		names: names, rules: make([]rule, len(list)), same: map[entryKey][]int{}, sections: map[string][]int{},
		pages: map[string][]int{}, languages: map[string][]int{}, queries: map[string][]int{}, known: map[entryKey][]int{},
	}
	for i, e := range list {
		r, wrong := e.compile(names)
		if wrong != nil {
			continue
		}
		c.rules[i] = r
		c.same[e.key()] = append(c.same[e.key()], i)
		switch e.Match {
		case All:
			c.all = append(c.all, i)
		case Section:
			c.sections[r.path] = append(c.sections[r.path], i)
			if r.path == "/" {
				c.all = append(c.all, i)
			}
		case Page:
			c.pages[r.path] = append(c.pages[r.path], i)
		case Pattern, Home:
			c.byPath = append(c.byPath, i)
		case Language:
			lower := strings.ToLower(e.GetValue())
			c.languages[lower] = append(c.languages[lower], i)
		case Query:
			if e.Value == nil {
				c.queries[e.Name] = append(c.queries[e.Name], i)
			}
		}
	}
	return c
}

// Of returns the places of the entries that take every page which e takes, whatever pages the site
// has, ascending. It may leave one out, and names none that does not. The list must not be altered.
func (c *Coverings) Of(e Entry) []int {
	key := e.key()
	if known, ok := c.known[key]; ok {
		return known
	}
	var out []int
	if r, wrong := e.compile(c.names); wrong == nil {
		out = slices.Concat(c.all, c.same[key])
		switch e.Match {
		case Page:
			out = append(out, c.over([]string{r.path})...)
		case Section:
			for above := range ancestors(r.path) {
				out = append(out, c.sections[above]...)
			}
		case Home:
			if len(c.names.Homes) > 0 {
				out = append(out, c.over(c.names.Homes)...)
			}
		case Language:
			if tag := strings.ToLower(e.GetValue()); tag != "*" {
				out = append(out, c.languages["*"]...)
				for i := range len(tag) {
					if tag[i] == '-' {
						out = append(out, c.languages[tag[:i]]...)
					}
				}
				out = append(out, c.languages[tag]...)
			}
		case Query:
			out = append(out, c.queries[e.Name]...)
		}
		slices.Sort(out)
		out = slices.Compact(out)
	}
	c.known[key] = out
	return out
}

// over returns the places of the entries that take all of these paths.
func (c *Coverings) over(paths []string) (out []int) {
	takes := func(path string) (out []int) {
		out = slices.Clone(c.pages[path])
		for above := range ancestors(path) {
			out = append(out, c.sections[above]...)
		}
		for _, i := range c.byPath {
			if c.rules[i].matches(Subject{Path: path}) {
				out = append(out, i)
			}
		}
		return out
	}
	out = takes(paths[0])
	for _, path := range paths[1:] {
		also := takes(path)
		out = slices.DeleteFunc(out, func(i int) bool { return !slices.Contains(also, i) })
	}
	return out
}

// ancestors yields the sections that a path lies in, itself among them.
func ancestors(path string) func(yield func(string) bool) {
	return func(yield func(string) bool) {
		if !yield("/") || path == "/" {
			return
		}
		for i := 1; i <= len(path); i++ {
			if ends(path, i) && !yield(path[:i]) {
				return
			}
		}
	}
}
