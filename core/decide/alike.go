package decide

import (
	"fmt"
	"slices"
	"strings"

	"mastflag/core/pages"
)

// alikes are known pages sorted into classes whose pages get the same decision on every visit that
// differs in nothing but the page: the same published notices take them, and they are the same in
// all that audiences ask about pages.
type alikes struct {
	of   map[string]int // by path, the place in list
	list []class
}

// pagesAlike sorts the known pages, in their order.
func (s *Site) pagesAlike() *alikes {
	s.alikeOnce.Do(func() {
		asked := map[string]bool{}
		for _, fact := range s.Wants() {
			if room, name, _ := strings.Cut(fact, "."); room == "page" {
				asked[name] = true
			}
		}
		own := asked["path"] || asked["url"] || asked["title"]
		s.alike = &alikes{of: make(map[string]int, len(s.pages))}
		var keys keyring
		for _, known := range s.bundle.Pages {
			p, ok := s.pageAt(known.Path)
			if !ok {
				continue
			}
			key := keys.candidates(p)
			for _, fact := range []struct {
				name  string
				value any
			}{{"type", p.Type}, {"language", p.Language}, {"tags", p.Tags}} {
				if asked[fact.name] {
					key = fmt.Appendf(key, " %q", fact.value)
				}
			}
			if own {
				key = append(key[:0], p.Path...)
			}
			i, met := keys.number(key)
			if !met {
				s.alike.list = append(s.alike.list, class{example: p})
			}
			s.alike.list[i].pages++
			s.alike.of[p.Path] = i
		}
	})
	return s.alike
}

// PagesUnlike returns one known page of each number of Alike.
func (s *Site) PagesUnlike() (out []pages.Subject) {
	for _, c := range s.pagesAlike().list {
		out = append(out, c.example.Subject)
	}
	return out
}

// Alike numbers the known pages, by path, so that those of one number get the same decision on
// every visit that differs in nothing but the page. Numbers are from 0 to count, without gaps.
func (s *Site) Alike() (of map[string]int, count int) {
	a := s.pagesAlike()
	return a.of, len(a.list)
}

// PlacedOn returns the ids of the published notices whose page conditions take
// the page at an address, whatever else keeps them from it, the strongest first.
func (s *Site) PlacedOn(address string) []string {
	p, ok := s.pageAt(address)
	if !ok {
		return nil
	}
	var out []string
	for _, i := range p.candidates(s.index.Everywhere()) {
		out = append(out, s.notices[i].ID)
	}
	return out
}

// candidates returns the published notices that take the page, strongest first: those of this
// page, and those of every page but the ones that leave it out.
func (p page) candidates(everywhere []int32) []int32 {
	out := slices.Clone(p.included)
	for _, i := range everywhere {
		if _, leaves := slices.BinarySearch(p.excluded, i); !leaves {
			out = append(out, i)
		}
	}
	slices.Sort(out)
	return out
}
