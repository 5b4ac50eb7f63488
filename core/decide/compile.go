package decide

import (
	"cmp"
	"slices"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// Compile makes a Site of a bundle. The error is fault.Faults.
func Compile(b bundle.Bundle) (*Site, error) { return CompileFirst(b, "") }

// CompileFirst is Compile with one notice put before all its rivals, as a
// preview wants it.
func CompileFirst(b bundle.Bundle, first string) (*Site, error) {
	if faults := b.Check(); len(faults) > 0 {
		return nil, faults
	}
	zone, err := schedule.Zone(b.Site.TimeZone)
	if err != nil {
		return nil, err
	}
	s := &Site{bundle: b, zone: zone, displays: b.Site.Displays(), pages: make(map[string]page, len(b.Pages)), table: audience.NewTable()}
	for _, slot := range bundle.Slots {
		s.capacity[placeOf(slot)] = b.Site.SlotCapacity(slot)
	}
	names, faults := b.Site.Names()
	audiences, more := audience.NewNames(b.Site.Audiences)
	if faults = append(faults, more...); faults != nil {
		return nil, faults
	}
	for _, n := range b.Notices {
		c, err := compileNotice(n, zone, names, audiences)
		if err != nil {
			return nil, err
		}
		s.notices = append(s.notices, c)
	}
	slices.SortFunc(s.notices, func(a, b notice) int {
		if (a.ID == first) != (b.ID == first) {
			return cmp.Compare(boolInt(b.ID == first), boolInt(a.ID == first))
		}
		return Rivals(a.Notice, b.Notice)
	})
	var published []int32
	for i := range s.notices {
		n := &s.notices[i]
		s.quick, s.shown = append(s.quick, s.quicken(n)), append(s.shown, Shown{n.ID, n.slot})
		if n.GetState() == bundle.Published {
			published = append(published, int32(i))
			if n.Kind == bundle.KindConsent {
				s.consents = append(s.consents, int32(i))
			}
		}
	}
	s.index = pages.NewIndex(published, func(i int32) pages.Set { return s.notices[i].pages })
	for _, p := range b.Pages {
		path, err := pages.NormalPath(p.Path)
		if err != nil {
			return nil, err
		}
		known := page{Subject: pages.Subject{Path: path, Type: p.Type, Tags: p.Tags, Language: cmp.Or(p.Language, b.Site.Language)}, title: p.Title}
		known.here, known.barred = s.index.Find(known.Subject)
		s.pages[path] = known
	}
	return s, nil
}

func compileNotice(n bundle.Notice, zone *time.Location, names pages.Names, audiences audience.Names) (notice, error) {
	c := notice{Notice: n, slot: n.GetSlot()}
	var faults fault.Faults
	if c.schedule, faults = schedule.Compile(n.GetSchedule(), zone, n.GetPublishedAt()); faults != nil {
		return c, faults
	}
	if c.pages, faults = pages.Compile(n.GetPages(), names); faults != nil {
		return c, faults
	}
	if c.audience, faults = audience.Compile(n.GetAudience(), audiences); faults != nil {
		return c, faults
	}
	m := n.GetMemory()
	m.Closed = n.ClosedFor()
	for _, a := range m.Acts() {
		switch a.Period {
		case "":
		case bundle.PeriodPage, bundle.PeriodSession, bundle.PeriodEver:
			c.acts = append(c.acts, act{name: a.Name, period: a.Period})
		default:
			span, err := schedule.ParseSpan(string(a.Period))
			if err != nil {
				return c, err
			}
			c.acts = append(c.acts, act{a.Name, a.Period, span})
		}
	}
	for _, l := range m.Limits {
		lim := limit{times: l.Times, session: l.Per == bundle.PeriodSession, said: l.Per}
		if !lim.session {
			var err error
			if lim.span, err = schedule.ParseSpan(string(l.Per)); err != nil {
				return c, err
			}
		}
		c.limits = append(c.limits, lim)
	}
	return c, nil
}

func (s *Site) quicken(n *notice) quick {
	q := quick{place: placeOf(n.slot)}
	q.yields = q.place == placeCentre && n.Kind != bundle.KindConsent && n.GetLevel() != bundle.Emergency
	var ok bool
	q.program, ok = s.table.Add(n.audience)
	q.later, q.everyone = !ok, n.audience.Everyone()
	in, simple := n.schedule.Simple()
	switch {
	case !simple:
		q.more = true
	case len(in) == 0:
		q.from, q.until = always, always // over since ever
	default:
		q.from, q.until = always, never
		if !in[0].From.IsZero() {
			q.from = in[0].From.Add(time.Microsecond - 1).UnixMicro()
		}
		if !in[0].Until.IsZero() {
			q.until = in[0].Until.UnixMicro()
		}
	}
	return q
}
