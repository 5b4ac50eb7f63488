package decide

import "context"

// PageCounts counts the known pages on which each notice would show, by id, for a
// visit that is the same but for its page. It stops where ctx ends.
func (s *Site) PageCounts(ctx context.Context, v Visit) (map[string]int, error) {
	on := map[string]int{}
	if !s.displays {
		return on, nil
	}
	for _, c := range s.byDecision().list {
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
