package findings

import (
	"cmp"
	"encoding/binary"
	"fmt"
	"slices"
	"strings"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/core/decide"
	"mastflag/core/fault"
	"mastflag/core/moment"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

const (
	// How far rivals are looked for, from the instant of the check.
	ahead = 2 * 366 * 24 * time.Hour
	// How many page views are tried in one check, and on one page for one slot,
	// before nothing more is claimed.
	maxTries, maxTriesOnPage = 100_000, 20_000
	// How many notices are looked at in one check, at one moment each, before
	// nothing more is claimed.
	maxSteps = 100_000_000
	// How many notices are put to pages in one check, one at a time, before nothing more is claimed.
	maxLooks = 100_000
	// For how many days after something starts the visitor's hours and weekdays
	// are gone through, and after how many starts.
	daysAhead, dailyStarts = 8, 20
)

const day = schedule.Local(86_400)

// clocks are where the clocks of visitors may be, beside the site's and those
// that audiences name: the ends of the Earth and places between.
var clocks = []string{
	"Pacific/Kiritimati", "Asia/Tokyo", "Asia/Kolkata", "Europe/Berlin", "Europe/London", "America/New_York",
	"America/Los_Angeles", "Etc/GMT+12",
}

// rival is a published notice with when and to whom it shows.
type rival struct {
	i     int
	n     bundle.Notice
	when  schedule.Schedule
	to    audience.Audience
	facts []string                       // that the audience asks for
	pages bool                           // and something about the page among that
	turns []bundle.Notice                // those whose countdowns decide about it: itself, and whoever hands over to it
	in    map[string][]schedule.Interval // by the visitor's clock
	can   map[string]bool                // whether its audience can have someone, by what is settled
	// What proofs about the audiences of rivals may cost, all together.
	effort *audience.Effort
}

// asks reports whether the audience asks for a fact that begins so.
func (r *rival) asks(prefix string) bool {
	return slices.ContainsFunc(r.facts, func(f string) bool { return strings.HasPrefix(f, prefix) })
}

// someone reports whether the audience can have someone, with what is settled; as is
// what it appends to, with the rival and what that answers in its audience.
func (r *rival) someone(settled func(audience.Key) (audience.Value, bool), as []byte) (with []byte, can bool) {
	as = binary.AppendUvarint(as, uint64(r.i))
	from := len(as)
	as = r.to.AppendAnswers(settled, as)
	can, known := r.can[string(as[from:])]
	if !known {
		_, can = audience.Witness(r.effort, settled, r.to)
		r.can[string(as[from:])] = can
	}
	return as, can
}

// live returns when the notice is live for a visitor with a clock, from an
// instant on, as far ahead as is looked.
func (r *rival) live(at time.Time, zone string, loc *time.Location) []schedule.Interval {
	if !r.when.Floating() {
		zone = ""
	}
	in, ok := r.in[zone]
	if !ok {
		in = r.when.RangeIn(at, at.Add(ahead), loc)
		r.in[zone] = in
	}
	return in
}

// rivals reports each published notice that others can keep from its slot at
// some time from now on, on some known page, from some visitor, with when,
// where and who wins. What is claimed has been decided as that visitor's visit.
func (c *checker) rivals() {
	bySlot, turns, effort := map[bundle.Slot][]*rival{}, map[string][]bundle.Notice{}, audience.NewEffort(maxEffort)
	for _, n := range c.b.Notices {
		if d := n.Countdown(); d != nil && n.GetState() == bundle.Published {
			turns[n.ID] = append(turns[n.ID], n)
			if d.HandTo != "" {
				turns[d.HandTo] = append(turns[d.HandTo], n)
			}
		}
	}
	for i, n := range c.b.Notices {
		slot := n.GetSlot().Shared()
		if n.GetState() != bundle.Published || slot.Unlimited() {
			continue
		}
		when, to := c.site.Schedule(n.ID), c.site.Audience(n.ID)
		r := &rival{
			i: i, n: n, when: when, to: to, facts: to.Facts(), turns: turns[n.ID],
			in: map[string][]schedule.Interval{}, can: map[string]bool{}, effort: effort,
		}
		in := when.Range(c.at, c.at.Add(ahead))
		if !when.Floating() {
			r.in[""] = in
		}
		if len(in) > 0 {
			bySlot[slot] = append(bySlot[slot], r)
		}
	}
	tries, steps, looks, cut := maxTries, maxSteps, maxLooks, false
	for _, row := range bundle.SlotTable {
		slot := row.Slot
		rs := bySlot[slot]
		capacity := c.b.Site.SlotCapacity(slot)
		if len(rs) <= capacity || capacity < 1 {
			continue
		}
		slices.SortFunc(rs, func(a, b *rival) int { return decide.CompareRivals(a.n, b.n) })
		ids := make([]int32, len(rs))
		sets := make([]pages.Set, len(rs))
		asked := false
		for k, r := range rs {
			ids[k] = int32(k)
			sets[k], _ = pages.Compile(r.n.GetPages(), c.names)
			r.pages = r.asks("page.")
			asked = asked || r.pages
		}
		where := c.site.CandidateExamples()
		if asked {
			where = c.site.DecisionExamples() // each may be another to some
		}
		index := pages.NewIndex(ids, func(k int32) pages.Set { return sets[k] })
		told := map[int]bool{} // whom to say nothing more of
		for _, r := range rs {
			told[r.i] = c.only != "" && r.n.ID != c.only
		}
		seen := map[string]bool{} // pages with the same notices are looked at once
		for _, p := range where {
			here, barred := index.Find(p)
			for _, k := range index.Everywhere() {
				if _, out := slices.BinarySearch(barred, k); !out {
					here = append(here, k)
				}
			}
			if len(here) <= capacity {
				continue
			}
			if looks -= len(here); looks < 0 {
				cut = true
				break // a proof that takes too long claims nothing
			}
			slices.Sort(here)
			list, key := c.on(p.Path, rs, here)
			if len(list) <= capacity || seen[key] {
				continue
			}
			seen[key] = true
			c := contest{
				checker: c, slot: slot, bySlot: bySlot, capacity: capacity, path: p.Path, list: list, reported: told,
				tries: &tries, left: maxTriesOnPage, steps: &steps, cut: &cut,
			}
			c.look()
		}
	}
	if cut {
		c.notChecked("Which notices keep others from their places", "Have fewer notices in one slot at one time.")
	}
}

// on returns those of the rivals here whose audiences can have someone on the page,
// and a text that pages share on which they are the same and answer the same.
func (c *checker) on(path string, rs []*rival, here []int32) (list []*rival, key string) {
	trial, ok := c.site.Try(decide.Visit{At: c.at, URL: c.address(path)})
	if !ok {
		return nil, ""
	}
	defer trial.Done()
	ofPage := func(k audience.Key) (audience.Value, bool) {
		if !strings.HasPrefix(k.Name, "page.") {
			return audience.Value{}, false
		}
		return trial.Known(k)
	}
	var as []byte
	for _, k := range here {
		r := rs[k]
		if !r.pages {
			as = binary.AppendUvarint(as, uint64(r.i))
			list = append(list, r)
		} else if with, can := r.someone(ofPage, as); can {
			as = with
			list = append(list, r)
		}
	}
	return list, string(as)
}

// address returns the address of a page, on the first of the site's origins.
func (c *checker) address(path string) string {
	if len(c.b.Site.Origins) > 0 {
		return c.b.Site.Origins[0] + path
	}
	return path
}

// contest is the notices of one slot that can come to one page, strongest first.
type contest struct {
	*checker
	slot     bundle.Slot
	bySlot   map[bundle.Slot][]*rival // all of the site
	capacity int
	path     string
	list     []*rival
	reported map[int]bool
	tries    *int // left in the whole check, and here
	left     int
	steps    *int  // left in the whole check
	cut      *bool // not all was looked at
	// What was tried in vain: a clock and who is live, and what is settled of whom.
	fruitless, settled map[string]bool
	as                 []byte // room for such a text
	// Of the moment that is looked at: when visitors met the countdowns of their own that those who are live take turns
	// with, and what was decided, by visit and facts.
	met     map[string]decide.Acts
	decided map[string]decision
}

// A decision is who shows, and who is held back.
type decision struct {
	show []decide.Shown
	held map[string]bool
}

// pending reports whether there is someone to look for, and leave to.
func (c *contest) pending() bool {
	untold := func(r *rival) bool { return !c.reported[r.i] }
	if !slices.ContainsFunc(c.list[c.capacity:], untold) {
		return false
	}
	if *c.tries > 0 && c.left > 0 && *c.steps > 0 && !c.list[0].effort.Spent() && c.ctx.Err() == nil {
		return true
	}
	*c.cut = true
	return false
}

// look reports which of the notices are held back. Whatever meets, meets when
// the last of it starts, or where the clock that an audience asks for turns.
func (c *contest) look() {
	c.fruitless, c.settled = map[string]bool{}, map[string]bool{}
	zoned := false
	zones := []string{""} // a visitor whose clock is not known has the site's
	for _, r := range c.list {
		zoned = zoned || r.when.Floating() || r.asks("clock.") || r.asks("locale.zone") || r.turns != nil
		zones = append(zones, r.to.Zones()...)
	}
	if zoned {
		zones = append(append(zones, c.site.Zone().String()), clocks...)
	}
	for k, zone := range zones {
		loc, err := schedule.Zone(zone)
		if zone == "" {
			loc, err = c.site.Zone(), nil
		}
		if err == nil && !slices.Contains(zones[:k], zone) && c.pending() {
			c.clock(zone, loc, zones)
		}
	}
}

// clock looks at the visitors with a clock; zone is "" where it is not known.
func (c *contest) clock(zone string, loc *time.Location, zones []string) {
	in := make([][]schedule.Interval, len(c.list))
	for k, r := range c.list {
		in[k] = r.live(c.at, zone, loc)
	}
	moments, turning := c.moments(in, loc, zones)
	live := make([]*rival, 0, len(c.list))
	names := []byte(zone)            // of the visitor's clock and of who is live
	next := make([]int, len(c.list)) // the first interval of each that is not over
	for _, micro := range moments {
		t := time.UnixMicro(micro).UTC()
		*c.steps -= len(c.list)
		c.met, c.decided = map[string]decide.Acts{}, map[string]decision{}
		live = live[:0]
		names = names[:len(zone)]
		for k, r := range c.list {
			for next[k] < len(in[k]) && !in[k][next[k]].Until.After(t) {
				next[k]++
			}
			if next[k] == len(in[k]) || in[k][next[k]].From.After(t) {
				continue
			}
			for _, n := range r.turns {
				if n.Countdown().Kind == countdown.Visitor && n.GetPublishedAt().Before(t) {
					c.met[n.ID] = decide.Acts{Met: n.GetPublishedAt()}
				}
			}
			names = binary.AppendUvarint(names, uint64(k))
			if len(live) >= c.capacity && !c.reported[r.i] && (turning || !c.fruitless[string(names)]) &&
				!c.held(t, zone, live, r) {
				c.fruitless[string(names)] = true
			}
			// A consent notice can lose its place to an emergency; whoever loses to it has it back once it is answered.
			if r.n.Kind != bundle.KindConsent {
				live = append(live, r)
			}
		}
		if !c.pending() {
			return
		}
	}
}

// moments returns the instants to look at, in microseconds since 1970, none before
// what it stands for: where something starts, and where what an audience or a
// countdown asks of the clock turns. turning is whether any do, so that the instant
// itself matters, and not only who is live then.
func (c *contest) moments(in [][]schedule.Interval, loc *time.Location, zones []string) (out []int64, turning bool) {
	end := c.at.Add(ahead)
	clocks := []*time.Location{loc, c.site.Zone()} // that audiences can ask for
	for _, z := range zones {
		if z, err := schedule.Zone(z); err == nil {
			clocks = append(clocks, z)
		}
	}
	take := func(t time.Time) {
		if !t.Before(c.at) && t.Before(end) {
			out = append(out, t.Add(time.Microsecond-time.Nanosecond).UnixMicro())
		}
	}
	var hours []int
	for k, r := range c.list {
		out = slices.Grow(out, len(in[k]))
		for _, i := range in[k] {
			take(i.From)
		}
		dates, hoursOf := r.to.TurningPoints()
		hours = append(hours, hoursOf...)
		turning = turning || r.turns != nil || dates != nil || hours != nil
		for _, d := range dates {
			for _, z := range clocks {
				take(d.In(z))
			}
		}
		for _, n := range r.turns {
			if over := c.site.Countdown(n.ID).Over(c.at, loc, time.Time{}); !over.IsZero() {
				take(over)
			}
		}
	}
	out = distinct(out)
	if hours = distinct(hours); hours == nil {
		return out, turning
	}
	for _, from := range out[:min(len(out), dailyStarts)] {
		for _, z := range clocks {
			midnight := schedule.LocalAt(time.UnixMicro(from), z) / day * day
			for i := range daysAhead * len(hours) {
				local := midnight + schedule.Local(i/len(hours))*day + schedule.Local(hours[i%len(hours)])*3600
				if t := local.In(z); t.UnixMicro() > from {
					take(t)
				}
			}
		}
	}
	return distinct(out), turning
}

// distinct returns a list sorted, each member once.
func distinct[T cmp.Ordered](list []T) []T {
	slices.Sort(list)
	return slices.Compact(list)
}

// held reports loser if at an instant enough of the stronger ones are shown to
// a visitor who would see it too.
func (c *contest) held(t time.Time, zone string, stronger []*rival, loser *rival) bool {
	for k, v := range c.visits(t, zone) {
		if *c.tries, c.left = *c.tries-1, c.left-1; !c.pending() {
			return false
		}
		trial, ok := c.site.Try(v)
		if !ok {
			continue
		}
		winners := c.winners(trial, fmt.Sprint(k, " ", len(c.met)), stronger, loser)
		trial.Done()
		if winners != nil {
			c.report(t, zone, winners, loser)
			return true
		}
	}
	return false
}

// winners returns those of the stronger that are shown on a page view, where the
// loser is held back by as many as there is room for; nil where it is not. visit
// tells the trial from others of the moment.
func (c *contest) winners(trial decide.Trial, visit string, stronger []*rival, loser *rival) (winners []*rival) {
	if !trial.Passes(loser.n.ID) {
		return nil
	}
	// Page views of which the same is settled end the same, where consent and countdowns are the same.
	as, can := loser.someone(trial.Known, append(append(c.as[:0], visit...), ' '))
	if !can {
		return nil
	}
	defer func() { c.as = as }()
	var meets []*rival
	for k, w := range stronger {
		if !trial.Passes(w.n.ID) {
			continue
		}
		with, can := w.someone(trial.Known, as)
		if !can {
			continue
		}
		meets, as = append(meets, w), with
		// Mostly the strongest are shown together: nobody else need be asked.
		if len(meets) == c.capacity && k < len(stronger)-1 {
			if facts, ok := c.together(trial, meets, loser); ok {
				if winners = c.shown(trial, visit, facts, stronger, loser); winners != nil {
					return winners
				}
			}
			*c.steps -= len(stronger)
		}
	}
	if c.settled[string(as)] {
		return nil
	}
	defer func() { c.settled[string(as)] = winners == nil }()
	if len(meets) < c.capacity {
		return nil
	}
	facts, ok := c.together(trial, meets[:c.capacity], loser)
	if !ok { // otherwise whoever can be beside them
		together := []audience.Audience{loser.to}
		for _, w := range meets {
			if len(together) > c.capacity {
				break
			}
			if with, can := audience.Witness(loser.effort, trial.Known, append(slices.Clone(together), w.to)...); can {
				together, facts = append(together, w.to), with
			}
		}
		if len(together) <= c.capacity {
			return nil
		}
	}
	return c.shown(trial, visit, facts, stronger, loser)
}

// together returns facts with which a visitor gets some notices and the loser.
func (c *contest) together(trial decide.Trial, meets []*rival, loser *rival) (facts map[string]any, ok bool) {
	audiences := []audience.Audience{loser.to}
	for _, w := range meets {
		audiences = append(audiences, w.to)
	}
	return audience.Witness(loser.effort, trial.Known, audiences...)
}

// shown returns those of the stronger that are shown to a visitor with facts, where they are as many as
// there is room for and the loser is held back; nil where not.
func (c *contest) shown(
	trial decide.Trial, visit string, facts map[string]any, stronger []*rival, loser *rival,
) (winners []*rival) {
	key := fmt.Sprint(visit, " ", facts) // maps are written in the order of their keys
	d, known := c.decided[key]
	if !known {
		decided, held := trial.Decide(facts)
		d = decision{decided.Show, make(map[string]bool, len(held))}
		for _, id := range held {
			d.held[id] = true
		}
		c.decided[key] = d
	}
	if !d.held[loser.n.ID] {
		return nil
	}
	for _, shown := range d.show {
		if k := slices.IndexFunc(stronger, func(r *rival) bool { return r.n.ID == shown.ID }); k >= 0 {
			winners = append(winners, stronger[k])
		}
	}
	if len(winners) != c.capacity {
		return nil
	}
	return winners
}

// visits returns the visits to try: of one who has not answered the consent
// question, or agreed to nothing, or to everything, where it is asked; who meets
// the countdowns that are each visitor's own now, or met them long ago.
func (c *contest) visits(t time.Time, zone string) []decide.Visit {
	v := decide.Visit{At: t, URL: c.address(c.path), Facts: map[string]any{}}
	if zone != "" {
		v.Facts["locale.zone"] = zone
	}
	out := []decide.Visit{v}
	if c.site.ConsentNotice() != "" {
		var all []string
		for _, p := range c.b.Site.Setup().Purposes {
			all = append(all, p.ID)
		}
		agreed, refused := v, v
		agreed.Memory.Consent = c.site.Consent().Given(all, t.Add(-time.Minute))
		refused.Memory.Consent = c.site.Consent().Given(nil, t.Add(-time.Minute))
		out = append(out, agreed, refused)
	}
	if len(c.met) == 0 {
		return out
	}
	for _, v := range out {
		v.Memory.Notices = c.met
		out = append(out, v)
	}
	return out
}

// report adds the finding.
func (c *contest) report(t time.Time, zone string, winners []*rival, loser *rival) {
	c.reported[loser.i] = true
	f := Finding{
		Code: Rival, Severity: Warning, Notices: []string{loser.n.ID}, Pointers: []string{fault.Pointer("notices", loser.i)},
		Fix: "Raise its rank, give it another slot, or separate them by time, pages or audience.",
	}
	if loser.n.Kind == bundle.KindConsent {
		f.Fix = "Show the question or the emergency elsewhere: until then nobody there is asked."
	}
	var names []string
	for _, w := range winners {
		f.Notices = append(f.Notices, w.n.ID)
		f.Pointers = append(f.Pointers, fault.Pointer("notices", w.i))
		names = append(names, "“"+w.n.GetTitle()+"”")
	}
	// Above the last that there is room for, nobody can keep it out.
	last := c.bySlot[c.slot][c.capacity-1].n
	if last.GetLevel() == loser.n.GetLevel() && last.GetRank() < 100 {
		f.Fixes = append(f.Fixes, add(fmt.Sprintf("Raise its rank to %d", last.GetRank()+1), "/rank", last.GetRank()+1))
	}
	other := map[bundle.Slot]bundle.Slot{bundle.Top: bundle.Bottom, bundle.Bottom: bundle.Top}[c.slot]
	if other != "" && len(c.bySlot[other]) < c.b.Site.SlotCapacity(other) {
		f.Fixes = append(f.Fixes, add("Show it "+other.Where(c.b.Site.Language), "/slot", other))
	}
	take := "take the place"
	if len(names) == 1 {
		take = "takes the place"
	}
	whose := ""
	if zone != "" && zone != c.site.Zone().String() {
		whose = ", to a visitor whose clock is in " + zone
	}
	f.What = fmt.Sprintf("“%s” can be held back on %s from %s%s: %s %s %s.",
		loser.n.GetTitle(), c.path, moment.Say(t, c.at, c.site.Zone()), whose,
		moment.And(names), take, c.slot.Where(c.b.Site.Language))
	c.found = append(c.found, f)
}
