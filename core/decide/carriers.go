package decide

import (
	"context"
	"encoding/binary"
	"slices"
	"strings"
)

// A class is known pages on which the same notices are candidates, where no
// notice asks anything else of a page: a visit to one is decided as a visit to
// any other.
type class struct {
	of    page
	pages int
}

// classes sorts the known pages into classes. Where a published notice's
// audience asks about the page, each page is its own.
func (s *Site) classes() []class {
	s.classed.Do(func() {
		each := slices.ContainsFunc(s.Wants(), func(fact string) bool { return strings.HasPrefix(fact, "page.") })
		at := map[string]int{}
		for _, p := range s.bundle.Pages {
			known, ok := s.at(p.Path)
			if !ok {
				continue
			}
			key := known.Path
			if !each {
				key = candidates(known)
			}
			i, met := at[key]
			if !met {
				i = len(s.classesOf)
				at[key] = i
				s.classesOf = append(s.classesOf, class{of: known})
			}
			s.classesOf[i].pages++
		}
	})
	return s.classesOf
}

// candidates is a text that two pages share if they have the same candidates.
func candidates(p page) string {
	var b []byte
	for _, list := range [][]int32{p.here, p.barred} {
		b = binary.AppendUvarint(b, uint64(len(list)))
		for _, i := range list {
			b = binary.AppendUvarint(b, uint64(i))
		}
	}
	return string(b)
}

// Carriers counts the known pages on which each notice would show, by id, for a
// visit that is the same but for its page. It stops where ctx ends.
func (s *Site) Carriers(ctx context.Context, v Visit) (map[string]int, error) {
	on := map[string]int{}
	for _, c := range s.classes() {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if !s.displays {
			break
		}
		for _, n := range s.decideOn(c.of, v, nil).Show {
			on[n.ID] += c.pages
		}
	}
	return on, nil
}

// Page returns the title of the page at a path, and whether it is a known one.
func (s *Site) Page(path string) (title string, known bool) {
	p, known := s.pages[path]
	return p.title, known
}
