package decide

// DecideTrying is Decide without the index: the page conditions of every
// published notice are tried.
func (s *Site) DecideTrying(v Visit) Decision {
	p, _ := s.pageAt(v.URL)
	p.included, p.excluded = nil, s.index.Everywhere()
	for i := range s.notices {
		if n := &s.notices[i]; n.GetState() == "published" && n.pages.Test(p.Subject).Shows {
			p.included = append(p.included, int32(i))
		}
	}
	return s.decideOn(p, v, nil)
}
