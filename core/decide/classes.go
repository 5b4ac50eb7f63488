package decide

import (
	"encoding/binary"
	"fmt"
	"slices"
	"strings"
	"sync"

	"mastflag/core/pages"
)

// A class is known pages that have the same key, whatever that is made of.
type class struct {
	example page // the first of them
	pages   int
}

// pageClasses are the known pages sorted into classes, in the order of the first page of each. They
// are worked out when they are first asked for.
type pageClasses struct {
	once sync.Once
	of   map[string]int // by path, the place in list
	list []class
}

// sort sorts the known pages of a site, unless that is done, by keys that key appends to what it is
// given.
func (c *pageClasses) sort(s *Site, key func([]byte, page) []byte) *pageClasses {
	c.once.Do(func() {
		c.of = make(map[string]int, len(s.pages))
		numbers := map[string]int{}
		var buffer []byte
		for _, known := range s.bundle.Pages {
			p, ok := s.pageAt(known.Path)
			if !ok {
				continue
			}
			buffer = key(buffer[:0], p)
			i, met := numbers[string(buffer)]
			if !met {
				i = len(c.list)
				numbers[string(buffer)] = i
				c.list = append(c.list, class{example: p})
			}
			c.list[i].pages++
			c.of[p.Path] = i
		}
	})
	return c
}

// examples returns one page of each class.
func (c *pageClasses) examples() (out []pages.Subject) {
	for _, class := range c.list {
		out = append(out, class.example.Subject)
	}
	return out
}

// candidateKey appends a key that two pages share if they have the same candidates.
func candidateKey(key []byte, p page) []byte {
	for _, list := range [][]int32{p.included, p.excluded} {
		key = binary.AppendUvarint(key, uint64(len(list)))
		for _, i := range list {
			key = binary.AppendUvarint(key, uint64(i))
		}
	}
	return key
}

// byCandidates sorts the known pages by the published notices that take them.
func (s *Site) byCandidates() *pageClasses { return s.candidateClasses.sort(s, candidateKey) }

// byDecision sorts the known pages so that the same notices show, wait and are held back on all pages
// of a class, on every visit that differs in nothing but the page: the same notices take them, and
// they are the same in all that audiences ask about pages.
func (s *Site) byDecision() *pageClasses {
	asked := map[string]bool{}
	for _, fact := range s.Wants() {
		if room, name, _ := strings.Cut(fact, "."); room == "page" {
			name, _, _ = strings.Cut(name, ".") // query.NAME
			asked[name] = true
		}
	}
	return s.decisionClasses.sort(s, func(key []byte, p page) []byte {
		if asked["path"] || asked["url"] || asked["title"] { // each page is its own
			return append(key, p.Path...)
		}
		key = candidateKey(key, p)
		for _, fact := range []struct {
			name  string
			value any
		}{{"type", p.Type}, {"language", p.Language}, {"tags", p.Tags}, {"query", p.Query}} {
			if asked[fact.name] {
				key = fmt.Appendf(key, " %q", fact.value)
			}
		}
		return key
	})
}

// CandidateExamples returns one known page of each set of published notices that take pages.
func (s *Site) CandidateExamples() []pages.Subject { return s.byCandidates().examples() }

// DecisionExamples returns one known page of each class of PageClasses.
func (s *Site) DecisionExamples() []pages.Subject { return s.byDecision().examples() }

// PageClasses numbers the known pages, by path, so that the same notices show, wait and are held back
// on all pages of one number, on every visit that differs in nothing but the page. Numbers are from 0
// to count, in the order of the first page of each.
func (s *Site) PageClasses() (of map[string]int, count int) {
	c := s.byDecision()
	return c.of, len(c.list)
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
