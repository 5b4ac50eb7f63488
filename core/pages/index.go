package pages

import (
	"net/url"
	"slices"
	"strings"
)

// An Index finds which of many conditions take a page, without trying each.
// It is built once and never altered.
type Index struct {
	everywhere []int32 // take every page by an "all", in order
	include    lookup  // the entries of the others
	exclude    lookup  // of all
	asksQuery  bool
}

// lookup has entries by what they ask of a page.
type lookup struct {
	all                      []int32
	page, section, kind, tag map[string][]int32
	patterns                 map[string]*ruleIDs
	ends                     map[place][]*ruleIDs  // simple patterns, by what all they take begins and ends with
	prefixes                 map[string][]*ruleIDs // others, by what all they take begins with
	lengths                  []int                 // of these beginnings, ascending
	loose                    []*ruleIDs            // all other patterns
	languages                map[string]*ruleIDs   // by range
	queries                  map[string]*queryIDs  // by name
	sets                     []ruleIDs
	setPlaces                map[string]int // in sets, by name
	inSets                   *Index         // of sets, by their places
}

// A place is what a path begins with, and its last segment.
type place struct{ prefix, last string }

// queryIDs are those that ask for a query parameter: of any value, or of one.
type queryIDs struct {
	any     []int32
	byValue map[string][]int32
}

// ruleIDs is a rule that is tried on a page, once for all who have it.
type ruleIDs struct {
	rule rule
	ids  []int32
}

// NewIndex returns the index of conditions numbered by ids, which ascend.
func NewIndex(ids []int32, sets func(int32) Set) *Index {
	x := &Index{include: newLookup(), exclude: newLookup()}
	for _, id := range ids {
		s := sets(id)
		x.asksQuery = x.asksQuery || s.AsksQuery()
		if slices.ContainsFunc(s.include, func(r rule) bool { return r.entry.Match == All }) {
			x.everywhere = append(x.everywhere, id)
		} else {
			x.include.add(id, s.include)
		}
		x.exclude.add(id, s.exclude)
	}
	x.include.finish()
	x.exclude.finish()
	return x
}

// finish makes an index of the sets that are used.
func (l *lookup) finish() {
	if len(l.sets) == 0 {
		return
	}
	places := make([]int32, len(l.sets))
	for i := range places {
		places[i] = int32(i)
	}
	l.inSets = NewIndex(places, func(i int32) Set { return *l.sets[i].rule.set })
}

func newLookup() lookup {
	return lookup{
		page: map[string][]int32{}, section: map[string][]int32{}, kind: map[string][]int32{}, tag: map[string][]int32{},
		patterns: map[string]*ruleIDs{}, ends: map[place][]*ruleIDs{}, prefixes: map[string][]*ruleIDs{},
		languages: map[string]*ruleIDs{}, queries: map[string]*queryIDs{}, setPlaces: map[string]int{},
	}
}

func (l *lookup) add(id int32, rules []rule) {
	put := func(m map[string][]int32, key string) { m[key] = append(m[key], id) }
	for _, r := range rules {
		switch r.entry.Match {
		case All:
			l.all = append(l.all, id)
		case Home:
			for _, h := range r.homes {
				put(l.page, h)
			}
		case Page:
			put(l.page, r.path)
		case Section:
			put(l.section, r.path)
		case Type:
			put(l.kind, *r.entry.Value)
		case Tag:
			put(l.tag, *r.entry.Value)
		case Pattern:
			one := l.patterns[r.entry.Pattern]
			if one == nil {
				one = &ruleIDs{rule: r}
				l.patterns[r.entry.Pattern] = one
				last := r.simple.last()
				if at, found := slices.BinarySearch(l.lengths, len(r.prefix)); !found && r.prefix+last != "" {
					l.lengths = slices.Insert(l.lengths, at, len(r.prefix))
				}
				switch {
				case last != "":
					l.ends[place{r.prefix, last}] = append(l.ends[place{r.prefix, last}], one)
				case r.prefix != "":
					l.prefixes[r.prefix] = append(l.prefixes[r.prefix], one)
				default:
					l.loose = append(l.loose, one)
				}
			}
			one.ids = append(one.ids, id)
		case Language:
			one := l.languages[*r.entry.Value]
			if one == nil {
				one = &ruleIDs{rule: r}
				l.languages[*r.entry.Value] = one
			}
			one.ids = append(one.ids, id)
		case Query:
			one := l.queries[r.entry.Name]
			if one == nil {
				one = &queryIDs{byValue: map[string][]int32{}}
				l.queries[r.entry.Name] = one
			}
			if r.entry.Value == nil {
				one.any = append(one.any, id)
			} else {
				one.byValue[*r.entry.Value] = append(one.byValue[*r.entry.Value], id)
			}
		default: // a set
			i, known := l.setPlaces[r.entry.Name]
			if !known {
				i = len(l.sets)
				l.setPlaces[r.entry.Name] = i
				l.sets = append(l.sets, ruleIDs{rule: r})
			}
			l.sets[i].ids = append(l.sets[i].ids, id)
		}
	}
}

// find returns the numbers whose entries take the page, ascending.
func (l *lookup) find(p Subject, out []int32) []int32 {
	out = append(out, l.all...)
	out = append(out, l.page[p.Path]...)
	try := func(list []*ruleIDs) {
		for _, r := range list {
			if r.rule.matches(p) {
				out = append(out, r.ids...)
			}
		}
	}
	out = append(out, l.section["/"]...)
	for i := 1; i <= len(p.Path); i++ {
		if ends(p.Path, i) {
			out = append(out, l.section[p.Path[:i]]...)
		}
	}
	last := p.Path[strings.LastIndexByte(p.Path, '/')+1:]
	for _, n := range l.lengths {
		if n > len(p.Path) {
			break
		}
		try(l.prefixes[p.Path[:n]])
		try(l.ends[place{p.Path[:n], last}])
	}
	try(l.loose)
	if p.Type != "" {
		out = append(out, l.kind[p.Type]...)
	}
	for _, t := range p.Tags {
		out = append(out, l.tag[t]...)
	}
	for _, r := range l.languages {
		if r.rule.matches(p) {
			out = append(out, r.ids...)
		}
	}
	if p.Query != "" && len(l.queries) > 0 {
		asked, _ := url.ParseQuery(p.Query) // what can be read of it
		for name, values := range asked {
			if one := l.queries[name]; one != nil {
				out = append(out, one.any...)
				for _, v := range values {
					out = append(out, one.byValue[v]...)
				}
			}
		}
	}
	if l.inSets != nil {
		here, barred := l.inSets.Find(p)
		for _, i := range here {
			out = append(out, l.sets[i].ids...)
		}
		for _, i := range l.inSets.everywhere {
			if _, is := slices.BinarySearch(barred, i); !is {
				out = append(out, l.sets[i].ids...)
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Everywhere returns the numbers of the conditions that take every page but
// those they exclude, ascending. It must not be altered.
func (x *Index) Everywhere() []int32 { return x.everywhere }

// Find returns the other conditions that take a page, and those of Everywhere
// that do not, both ascending.
func (x *Index) Find(p Subject) (here, barred []int32) {
	here = x.include.find(p, nil)
	barred = x.exclude.find(p, nil)
	if len(barred) == 0 {
		return here, nil
	}
	has := func(list []int32, id int32) bool { _, ok := slices.BinarySearch(list, id); return ok }
	here = slices.DeleteFunc(here, func(id int32) bool { return has(barred, id) })
	barred = slices.DeleteFunc(barred, func(id int32) bool { return !has(x.everywhere, id) })
	return here, barred
}

// AsksQuery reports whether the query of an address matters to any of the
// conditions.
func (x *Index) AsksQuery() bool { return x.asksQuery }
