package decide

import (
	"cmp"
	"context"
	"slices"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/fault"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// Compile makes a Site of a bundle that is right by its Check. What cannot be
// compiled all the same is an error, fault.Faults.
func Compile(b bundle.Bundle) (*Site, error) { return CompileFirst(b, "") }

// CompileFirst is Compile with one notice put before all its rivals, as a
// preview wants it.
func CompileFirst(b bundle.Bundle, first string) (*Site, error) {
	zone, err := schedule.Zone(b.Site.TimeZone)
	if err != nil {
		return nil, fault.Faults{{Pointer: "/site/timeZone", What: err.Error()}}
	}
	s := &Site{
		bundle:   b,
		zone:     zone,
		displays: b.Site.Displays(),
		pages:    make(map[string]page, len(b.Pages)),
		table:    audience.NewTable(),
		sections: b.Site.Sections(),
	}
	for _, row := range bundle.SlotTable {
		slot := row.Slot.Shared()
		s.capacity[slot.Index()] = b.Site.SlotCapacity(slot)
	}
	names, faults := b.Names()
	s.names = names
	audiences, more := audience.NewNames(b.Site.Audiences)
	faults = append(faults.Under("/site/pageSets"), more.Under("/site/audiences")...)
	occurrences, unanchored := 0, bundle.Unanchored{}
	s.notices = make([]notice, 0, len(b.Notices))
	forms := b.FormsBefore()
	for i, n := range b.Notices {
		if before := forms[n.ID]; before != nil && n.ID != first { // a rehearsal shows it whatever was sent
			n.Audience = followers(n.GetAudience(), before)
		}
		c, wrong := compileNotice(n, b.Site, zone, names, audiences)
		if n.GetState() == bundle.Published {
			if occurrences += c.occurrences(); occurrences > schedule.MaxSite {
				wrong = append(wrong, bundle.TooManyOccurrences)
				occurrences -= c.occurrences()
			}
			if !unanchored.Add(c.pages.Unanchored()) {
				wrong = append(wrong, bundle.TooManyUnanchored)
			}
		}
		faults = append(faults, wrong.Under(fault.Pointer("notices", i))...)
		s.notices = append(s.notices, c)
		if len(faults) >= bundle.MaxFaults {
			break
		}
	}
	if len(faults) > 0 {
		return nil, faults
	}
	slices.SortFunc(s.notices, func(a, b notice) int {
		if (a.ID == first) != (b.ID == first) {
			return cmp.Compare(boolInt(b.ID == first), boolInt(a.ID == first))
		}
		return CompareRivals(a.Notice, b.Notice)
	})
	s.ids = make(map[string]int32, len(s.notices))
	for i := range s.notices {
		s.ids[s.notices[i].ID] = int32(i)
	}
	s.linkHandOvers(first)
	var published []int32
	for i := range s.notices {
		n := &s.notices[i]
		s.candidates, s.shown = append(s.candidates, s.newCandidate(n)), append(s.shown, Shown{ID: n.ID, Slot: n.slot})
		s.candidates[i].hasExperiment = n.experiment != nil && n.ID != first // a rehearsal shows it to everyone
		s.candidates[i].needsStorage = n.ID != first && b.Site.NeedsStorage(n.Notice)
		if n.ID == first { // a rehearsal shows it whatever is still to be answered
			s.candidates[i].waitsForConsent = false
		}
		if n.GetState() == bundle.Published {
			published = append(published, int32(i))
			s.hasGoals = s.hasGoals || n.Experiment != nil
			s.draws = s.draws || n.experiment != nil
			if n.Experiment != nil && n.Experiment.Goal.Pages != nil {
				s.goals = append(s.goals, goalPages{n.ID, n.goal})
			}
			if n.Kind == bundle.KindConsent {
				s.consents = append(s.consents, int32(i))
			}
			if n.demand != nil {
				s.demands = append(s.demands, int32(i))
			}
			if n.spots != nil {
				s.spotted = append(s.spotted, int32(i))
			}
		}
	}
	s.published = len(published)
	if s.published > 0 {
		var question consent.Question
		if len(s.consents) > 0 {
			question = s.notices[s.consents[0]].Question()
		}
		s.consent = consent.Compile(b.Site.Setup(), question, consent.Table)
		for _, i := range s.consents {
			s.candidates[i].asksConsent = s.notices[i].ID != first // a rehearsal shows it whatever was answered
		}
	}
	for i := range s.candidates {
		c := &s.candidates[i]
		c.hasVisitGates = c.asksConsent || c.needsCountdown || c.needsPurposes || c.needsStorage || s.notices[i].demand != nil
	}
	s.index = pages.NewIndex(published, func(i int32) pages.Set { return s.notices[i].pages })
	for _, p := range b.Pages {
		path, err := pages.NormalPath(p.Path)
		if err != nil {
			return nil, err
		}
		known := page{
			Subject: pages.Subject{
				Path:     path,
				Type:     p.Type,
				Tags:     p.Tags,
				Language: cmp.Or(p.Language, s.sections.Language(path)),
			},
			title: p.Title,
			spots: p.Spots,
		}
		known.included, known.excluded = s.noticesOf(known.Subject)
		s.pages[path] = known
	}
	return s, nil
}

// followers is an audience, less those who have sent none of these notices' forms (rule F5).
func followers(of audience.Node, forms []string) *audience.Node {
	sent := audience.Node{Group: audience.Any}
	for _, id := range forms {
		sent.Parts = append(
			sent.Parts, audience.Node{Fact: "notice." + id + ".answered", Is: audience.Gte, Value: float64(1)},
		)
	}
	return &audience.Node{Group: audience.All, Parts: []audience.Node{of, sent}}
}

// occurrences counts those of a notice's windows and of its countdown's moments
// as rule S6 does.
func (n notice) occurrences() int {
	if n.count == nil {
		return n.schedule.Count()
	}
	return n.schedule.Count() + n.count.Occurrences()
}

// Unanchored returns the patterns that are tried on every page, of all published notices but
// the one of an id.
func (s *Site) Unanchored(but string) bundle.Unanchored {
	loose := bundle.Unanchored{}
	for i := range s.notices {
		if n := &s.notices[i]; n.GetState() == bundle.Published && n.ID != but {
			loose.Add(n.pages.Unanchored())
		}
	}
	return loose
}

// Occurrences counts those of all published notices but the one of an id.
func (s *Site) Occurrences(but string) int {
	sum := 0
	for i := range s.notices {
		if n := &s.notices[i]; n.GetState() == bundle.Published && n.ID != but {
			sum += n.occurrences()
		}
	}
	return sum
}

// Prepare finds beforehand what decisions near an instant, and for a year from
// it, need of the published notices' times: so that no visit waits for it. It
// stops where ctx ends.
func (s *Site) Prepare(ctx context.Context, at time.Time) error {
	for i := range s.notices {
		if err := ctx.Err(); err != nil {
			return err
		}
		n := &s.notices[i]
		if n.GetState() != bundle.Published {
			continue
		}
		n.schedule.Prepare(at)
		if n.count != nil {
			n.count.Prepare(at)
		}
	}
	return nil
}

func compileNotice(
	n bundle.Notice,
	site bundle.Site,
	zone *time.Location,
	names pages.Names,
	audiences audience.Names,
) (notice, fault.Faults) {
	c := notice{Notice: n, slot: n.GetSlot()}
	var when, where, whom fault.Faults
	c.schedule, when = schedule.Compile(n.GetSchedule(), zone, n.GetPublishedAt())
	c.pages, where = pages.Compile(n.GetPages(), names)
	c.audience, whom = audience.Compile(n.GetAudience(), audiences)
	var counts fault.Faults
	c.count, counts = compileCountdown(n, zone)
	var demands fault.Faults
	c.demand, demands = compileDemand(n, site)
	c.experiment = compileExperiment(n)
	var goal fault.Faults
	if n.Experiment != nil && n.Experiment.Goal.Pages != nil {
		c.goal, goal = pages.Compile(*n.Experiment.Goal.Pages, names)
	}
	var spots fault.Faults
	c.spots, spots = compileSpots(n, names)
	faults := slices.Concat(
		when.Under("/schedule"), where.Under("/pages"), whom.Under("/audience"), counts, demands, spots,
		goal.Under("/experiment/goal/pages"))
	span := func(p bundle.Period, pointer string) schedule.Span {
		s, err := schedule.ParseSpan(string(p))
		if err != nil {
			faults = append(faults, fault.Fault{Pointer: "/memory" + pointer, What: err.Error()})
		}
		return s
	}
	m := n.GetMemory()
	m.HideAfterClose = n.ClosedFor()
	for _, a := range m.Acts() {
		switch a.Period {
		case "":
		case bundle.PeriodPage, bundle.PeriodSession, bundle.PeriodEver:
			c.acts = append(c.acts, act{name: a.Name, period: a.Period})
		default:
			c.acts = append(c.acts, act{a.Name, a.Period, span(a.Period, "/"+a.Name)})
		}
	}
	for i, l := range m.Limits {
		lim := limit{times: l.Times, session: l.Per == bundle.PeriodSession, per: l.Per}
		if !lim.session {
			lim.span = span(l.Per, fault.Pointer("limits", i, "per"))
		}
		c.limits = append(c.limits, lim)
	}
	return c, faults
}

func (s *Site) newCandidate(n *notice) candidate {
	c := candidate{slot: uint8(n.slot.Shared().Index()), needsCountdown: n.dependsOnVisit, hasCountdown: n.count != nil}
	c.waitsForConsent = n.slot.Row().Over && n.Kind != bundle.KindConsent && n.GetLevel() != bundle.Emergency
	if d, ok := n.Disclaimer(); ok && d.BeforeConsent {
		c.waitsForConsent = false
	}
	c.needsPurposes = len(n.GetCode().Purposes) > 0
	var ok bool
	c.program, ok = s.table.Add(n.audience)
	c.deferred, c.everyone = !ok, n.audience.Everyone()
	in, simple := n.schedule.Simple()
	switch {
	case !simple:
		c.needsSchedule = true
	case len(in) == 0:
		c.from, c.until = always, always // over since ever
	default:
		c.from, c.until = always, never
		if !in[0].From.IsZero() {
			c.from = in[0].From.Add(time.Microsecond - 1).UnixMicro()
		}
		if !in[0].Until.IsZero() {
			c.until = in[0].Until.UnixMicro()
		}
	}
	return c
}
