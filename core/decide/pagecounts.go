package decide

import (
	"context"
	"encoding/binary"
	"slices"
	"strings"

	"mastflag/core/pages"
)

// A class is known pages with the same candidates. Where no notice asks anything
// else of a page, a visit to one is decided as a visit to any other.
type class struct {
	example page // one of them
	pages   int
}

// classes sorts the known pages into classes, in the order of the first of each.
func (s *Site) classes() []class {
	s.classesOnce.Do(func() {
		at := map[string]int{}
		for _, p := range s.bundle.Pages {
			known, ok := s.pageAt(p.Path)
			if !ok {
				continue
			}
			key := candidateKey(known)
			i, met := at[key]
			if !met {
				i = len(s.classList)
				at[key] = i
				s.classList = append(s.classList, class{example: known})
			}
			s.classList[i].pages++
		}
	})
	return s.classList
}

// DistinctPages returns one known page of each set of candidates.
func (s *Site) DistinctPages() []pages.Subject {
	var out []pages.Subject
	for _, c := range s.classes() {
		out = append(out, c.example.Subject)
	}
	return out
}

// candidateKey is a text that two pages share if they have the same candidates.
func candidateKey(p page) string {
	var b []byte
	for _, list := range [][]int32{p.included, p.excluded} {
		b = binary.AppendUvarint(b, uint64(len(list)))
		for _, i := range list {
			b = binary.AppendUvarint(b, uint64(i))
		}
	}
	return string(b)
}

// PageCounts counts the known pages on which each notice would show, by id, for a
// visit that is the same but for its page. It stops where ctx ends.
func (s *Site) PageCounts(ctx context.Context, v Visit) (map[string]int, error) {
	on := map[string]int{}
	if !s.displays {
		return on, nil
	}
	if !slices.ContainsFunc(s.Wants(), func(fact string) bool { return strings.HasPrefix(fact, "page.") }) {
		for _, c := range s.classes() {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			for _, n := range s.decideOn(c.example, v, nil).Show {
				on[n.ID] += c.pages
			}
		}
		return on, nil
	}
	for _, p := range s.bundle.Pages { // an audience asks about the page: each is its own
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		v.URL = p.Path
		for _, n := range s.Decide(v).Show {
			on[n.ID]++
		}
	}
	return on, nil
}

// Page returns the title of the page at a path, and whether it is a known one.
func (s *Site) Page(path string) (title string, known bool) {
	p, known := s.pages[path]
	return p.title, known
}
