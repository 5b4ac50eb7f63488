package decide

import (
	"cmp"
	"math"
	"slices"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/pages"
)

// compileSpots returns the pages that each of a notice's spots is for, in the
// order in which they are tried; nil where none of them depends on the page.
func compileSpots(n bundle.Notice, names pages.Names) ([]pages.Set, fault.Faults) {
	spots := n.AllSpots()
	if n.GetSlot() != bundle.Inline ||
		!slices.ContainsFunc(spots, func(s bundle.Spot) bool { return s.Pages != nil }) {
		return nil, nil
	}
	var out []pages.Set
	var faults fault.Faults
	for i, s := range spots {
		at := fault.Pointer("spots", i)
		if i == len(n.Spots) {
			at = "/spot"
		}
		set, wrong := pages.Compile(s.GetPages(), names)
		out, faults = append(out, set), append(faults, wrong.Under(at+"/pages")...)
	}
	return out, faults
}

// spotsOn returns the indexes of a notice's spots that are for a page, in the
// order in which they are tried (rule B1).
func (n *notice) spotsOn(p pages.Subject) (at []int) {
	for i, set := range n.spots {
		if set.Test(p).Shows {
			at = append(at, i)
		}
	}
	return at
}

// noticesOf finds the published notices of a page: those whose conditions take it, but
// for those none of whose spots is for it.
func (s *Site) noticesOf(p pages.Subject) (included, excluded []int32) {
	included, excluded = s.index.Find(p)
	for _, i := range s.spotted {
		if len(s.notices[i].spotsOn(p)) > 0 {
			continue
		}
		if at, is := slices.BinarySearch(included, i); is {
			included = slices.Delete(slices.Clone(included), at, at+1)
		}
		if _, everywhere := slices.BinarySearch(s.index.Everywhere(), i); !everywhere {
			continue
		}
		if at, is := slices.BinarySearch(excluded, i); !is {
			excluded = slices.Insert(slices.Clone(excluded), at, i)
		}
	}
	return included, excluded
}

// PagesWithoutSpot returns the known pages that a notice in the page carries, and on which it
// has no spot: none is for the page, or none of those that are was found on it.
func (s *Site) PagesWithoutSpot(id string) (paths []string) {
	n := s.byID(id)
	spots := n.AllSpots()
	if n.slot != bundle.Inline || len(spots) == 0 {
		return nil
	}
	for _, p := range s.bundle.Pages {
		if n.spots == nil && len(p.Lost) == 0 {
			continue // what is quick to tell comes first
		}
		subject, ok := s.Subject(p.Path)
		placed := func(i int, spot bundle.Spot) bool {
			return !slices.Contains(p.Lost, spot.Selector) && (n.spots == nil || n.spots[i].Test(subject).Shows)
		}
		some := false
		for i, spot := range spots {
			some = some || placed(i, spot)
		}
		if ok && !some && n.pages.Test(subject).Shows {
			paths = append(paths, subject.Path)
		}
	}
	return paths
}

// Spots returns the indexes of a notice's spots that are for the page at an
// address, in the order in which they are tried; some is whether that depends on
// the page at all.
func (s *Site) Spots(id, address string) (at []int, some bool) {
	n := s.byID(id)
	if n.spots == nil {
		return nil, false
	}
	p, _ := s.Subject(address)
	return n.spotsOn(p), true
}

// PlacementOrder returns, of notices that show on the page at an address, those that stand
// in it, in the order in which they stand there, as far as the page was read: by
// where the first of their spots that was found is; at one spot, and where nothing is
// known, in the order given. ids are in the order of D1.
func (s *Site) PlacementOrder(ids []string, address string) []string {
	p, _ := s.Subject(address)
	spots := s.pages[p.Path].spots
	var out []string
	where := map[string]int{}
	for _, id := range ids {
		n := s.byID(id)
		if n.slot != bundle.Inline {
			continue
		}
		out, where[id] = append(out, id), math.MaxInt
		at, some := s.Spots(id, address)
		for i, spot := range n.AllSpots() {
			extent, found := spots[spot.Selector]
			if found && (!some || slices.Contains(at, i)) {
				where[id] = extent.Of(spot.GetWhere())
				break
			}
		}
	}
	slices.SortStableFunc(out, func(a, b string) int { return cmp.Compare(where[a], where[b]) })
	return out
}
