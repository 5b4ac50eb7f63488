package decide

import (
	"bytes"
	"context"
	"encoding/binary"
	"hash/maphash"

	"mastflag/core/pages"
)

// A class is known pages that are alike in some way: those of classes have the same candidates.
type class struct {
	example page // one of them
	pages   int
}

// classes sorts the known pages into classes, in the order of the first of each.
func (s *Site) classes() []class {
	s.classesOnce.Do(func() {
		var keys keyring
		for _, p := range s.bundle.Pages {
			known, ok := s.pageAt(p.Path)
			if !ok {
				continue
			}
			i, met := keys.number(keys.candidates(known))
			if !met {
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

// A keyring numbers keys, from 0 in the order in which they first come. Of keys that come again
// nothing is kept.
type keyring struct {
	seed  maphash.Seed
	by    map[uint64][]numbered // by hash
	count int
	room  []byte
}

type numbered struct {
	key []byte
	n   int
}

// candidates returns a key that two pages share if they have the same candidates; it is overwritten
// by the next.
func (k *keyring) candidates(p page) []byte {
	b := k.room[:0]
	for _, list := range [][]int32{p.included, p.excluded} {
		b = binary.AppendUvarint(b, uint64(len(list)))
		for _, i := range list {
			b = binary.AppendUvarint(b, uint64(i))
		}
	}
	k.room = b
	return b
}

// number returns the number of a key, and whether it came before.
func (k *keyring) number(key []byte) (n int, met bool) {
	if k.by == nil {
		k.seed, k.by = maphash.MakeSeed(), map[uint64][]numbered{}
	}
	h := maphash.Bytes(k.seed, key)
	for _, have := range k.by[h] {
		if bytes.Equal(have.key, key) {
			return have.n, true
		}
	}
	n = k.count
	k.count++
	k.by[h] = append(k.by[h], numbered{bytes.Clone(key), n})
	return n, false
}

// PageCounts counts the known pages on which each notice would show, by id, for a
// visit that is the same but for its page. It stops where ctx ends.
func (s *Site) PageCounts(ctx context.Context, v Visit) (map[string]int, error) {
	on := map[string]int{}
	if !s.displays {
		return on, nil
	}
	for _, c := range s.pagesAlike().list {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		for _, n := range s.decideOn(c.example, v, nil).Show {
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
