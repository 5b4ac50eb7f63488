package admin

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/colour"
	"mastflag/core/decide"
	"mastflag/core/findings"
	"mastflag/core/orderline"
	"mastflag/core/pages"
	"mastflag/core/render"
	"mastflag/core/schedule"
	"mastflag/core/sheet"
	"mastflag/internal/compiled"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// viewpoint is a Moment read: this page, at this moment, as this visitor.
type viewpoint struct {
	site        *compiled.Site
	now         time.Time
	from, until time.Time
	zone        *time.Location // of the visitor
	language    string         // of the page, where it is to be another than its own
	visit       decide.Visit
}

// viewpoint reads a Moment against the compiled site of the call.
func (a *Admin) viewpoint(c *call, m Moment) (viewpoint, error) {
	v := viewpoint{site: a.Hub.Site(c.site), now: a.Clock.Now()}
	if v.site == nil {
		return v, store.ErrNotFound
	}
	v.visit = decide.Visit{At: v.now, URL: cmp.Or(m.Page, v.site.Bundle().Site.Homes()[0])}
	if m.At != "" {
		if l, err := schedule.ParseLocal(m.At); err == nil {
			v.visit.At = l.In(v.site.Zone())
		} else if v.visit.At, err = instant("at", m.At); err != nil {
			return v, err
		}
	}
	v.from, v.until = v.visit.At.AddDate(0, 0, -7), v.visit.At.AddDate(0, 0, 35)
	if m.From != "" && m.Until != "" {
		var errs [2]error
		v.from, errs[0] = instant("from", m.From)
		v.until, errs[1] = instant("until", m.Until)
		if err := errors.Join(errs[:]...); err != nil {
			return v, err
		}
		if !v.from.Before(v.until) {
			return v, problem.Problem{
				Status: http.StatusBadRequest,
				Title:  "Not understood",
				Detail: "until must be after from.",
			}
		}
	}
	v.zone = v.site.Zone()
	v.visit.Facts = map[string]any{}
	if m.Visitor != "" {
		if err := json.Unmarshal([]byte(m.Visitor), &v.visit.Facts); err != nil || v.visit.Facts == nil {
			return v, problem.Problem{
				Status: http.StatusBadRequest,
				Title:  "Not understood",
				Detail: `The visitor is to be a JSON object of facts, such as {"device.kind":"phone"}.`,
			}
		}
	}
	if m.Zone != "" {
		z, err := schedule.Zone(m.Zone)
		if err != nil {
			return v, problem.Problem{Status: http.StatusBadRequest, Title: "Not understood", Detail: err.Error() + "."}
		}
		v.zone = z
		v.visit.Facts["locale.zone"] = m.Zone
	}
	v.language = m.Language
	if m.Width != "" {
		width, err := strconv.Atoi(m.Width)
		if err != nil || width < 1 || width > 20_000 {
			return v, problem.Problem{
				Status: http.StatusBadRequest,
				Title:  "Not understood",
				Detail: fmt.Sprintf("%q is no width of a window. Give px, 1 to 20000.", m.Width),
			}
		}
		// What is said of the visitor outright goes before what a width suggests.
		for fact, value := range map[string]any{"device.width": width, "device.kind": decide.DeviceOf(width)} {
			if _, said := v.visit.Facts[fact]; !said {
				v.visit.Facts[fact] = value
			}
		}
	}
	if err := v.visit.Check(); err != nil {
		return v, problem.Problem{Status: http.StatusBadRequest, Title: "Not understood", Detail: err.Error() + "."}
	}
	return v, nil
}

// How many notices a view lists, where nothing is said and at most; and how many
// findings.
const (
	listedByDefault = 100
	maxListed       = 1000
	maxFindings     = 100
	maxChanges      = 10
	maxNames        = 200
)

func (a *Admin) view(c *call, in ViewAsk) (View, error) {
	v, err := a.viewpoint(c, in.Moment)
	if err != nil {
		return View{}, err
	}
	most := listedByDefault
	if in.Most != "" {
		if most, err = strconv.Atoi(in.Most); err != nil || most < 1 || most > maxListed {
			return View{}, problem.Problem{
				Status: http.StatusBadRequest,
				Title:  "Not understood",
				Detail: fmt.Sprintf("%q is not how many to list. Give 1 to %d.", in.Most, maxListed),
			}
		}
	}
	ctx := c.Request.Context()
	statuses, err := a.Store.Statuses(ctx, c.site)
	if err != nil {
		return View{}, err
	}
	known, err := a.Store.CountPages(ctx, c.site)
	if err != nil {
		return View{}, err
	}
	b := v.site.Bundle()
	decision := v.site.Decide(v.visit)
	out := View{
		At:             v.visit.At,
		Now:            v.now,
		From:           v.from,
		Until:          v.until,
		Zone:           v.site.Zone().String(),
		VisitorZone:    v.zone.String(),
		ClockChanges:   clockChanges(v.site.Zone(), v.from, v.until),
		Display:        b.Site.Displays(),
		Page:           v.page(),
		Shows:          []string{},
		Waits:          []string{},
		Notices:        []Card{},
		Names:          []NoticeName{},
		SnippetMissing: -1,
		Pages:          known.Known,
		Troubles:       a.Troubles(c.site),
	}
	if known.Looked > 0 {
		out.SnippetMissing = known.Missing
	}
	for _, s := range decision.Show {
		out.Shows = append(out.Shows, s.ID)
	}
	out.Standing = append([]string{}, v.site.PlacementOrder(out.Shows, v.visit.URL)...)
	for _, s := range decision.Waiting {
		out.Waits = append(out.Waits, s.ID)
	}
	flags := make(map[string]Flag, len(b.Notices))
	for _, n := range b.Notices {
		flags[n.ID] = flag(n.GetState(), v.site.Schedule(n.ID), v.visit.At)
		if flags[n.ID] == FlagLive || flags[n.ID] == FlagScheduled {
			out.Running++
		}
	}
	out.All = len(b.Notices) + len(v.site.Uncompiled)
	found := v.find(flags, in.Find)
	out.Found = len(found)
	if err := v.cards(ctx, &out, found[:min(len(found), most)], statuses); err != nil {
		return View{}, err
	}
	for _, l := range v.site.Uncompiled { // few: they are what an earlier version accepted
		if st, kept := statuses[l.Notice]; kept && in.Find == "" {
			out.Found++
			out.Notices = append(out.Notices, Card{
				ID:        l.Notice,
				Title:     l.Title,
				Flag:      FlagPaused,
				Revision:  st.Revision,
				Line:      orderline.Line{},
				Intervals: []Interval{},
				Held:      []Interval{},
				Account:   decide.Account{ID: l.Notice, Steps: []decide.Step{}},
				Languages: []LanguageState{},
				LeftOut:   leftOut(l.Why),
			})
		}
	}
	out.Next, out.Last = v.changes(maxChanges), v.last()
	leaks, err := a.leaks(ctx, b.Site)
	if err != nil {
		return View{}, err
	}
	needs := slices.DeleteFunc(
		append(leaks, a.found.findingsOf(v.site, v.visit.At.Truncate(time.Minute))...),
		func(f findings.Finding) bool {
			// What is unfinished in a draft is no alarm yet.
			return f.Severity == findings.Info || len(f.Notices) > 0 && flags[f.Notices[0]] == FlagDraft
		},
	)
	out.Findings = append([]findings.Finding{}, needs[:min(len(needs), maxFindings)]...)
	out.FindingsMore = len(needs) - len(out.Findings)
	if out.Received, out.Ailing, err = a.needing(ctx, b.Site); err != nil {
		return View{}, err
	}
	mentioned := slices.Concat(out.Shows, out.Waits)
	for _, ch := range out.Next {
		mentioned = append(mentioned, ch.Notice)
	}
	for _, f := range out.Findings {
		mentioned = append(mentioned, f.Notices...)
	}
	out.Names = v.names(mentioned, flags)
	return out, nil
}

// find returns the notices whose title, state or sentence holds a text: live
// ones first, then those that will be, are paused, drafts, over; each by id.
func (v viewpoint) find(flags map[string]Flag, text string) []bundle.Notice {
	text = strings.ToLower(strings.TrimSpace(text))
	b := v.site.Bundle()
	out := make([]bundle.Notice, 0, len(b.Notices))
	for _, n := range b.Notices {
		if text == "" || strings.Contains(strings.ToLower(n.GetTitle()+" "+string(flags[n.ID])), text) ||
			strings.Contains(strings.ToLower(orderline.Of(n, b.Site, v.visit.At).String()), text) {
			out = append(out, n)
		}
	}
	order := map[Flag]int{FlagLive: 0, FlagScheduled: 1, FlagPaused: 2, FlagDraft: 3, FlagEnded: 4}
	slices.SortStableFunc(out, func(a, b bundle.Notice) int { return cmp.Compare(order[flags[a.ID]], order[flags[b.ID]]) })
	return out
}

// cards makes the cards of notices.
func (v viewpoint) cards(ctx context.Context, out *View, list []bundle.Notice, statuses map[string]store.Status) error {
	ids := make([]string, len(list))
	for i, n := range list {
		ids[i] = n.ID
	}
	accounts := map[string]decide.Account{}
	for _, ac := range v.site.ExplainOf(v.visit, ids).Explain {
		accounts[ac.ID] = ac
	}
	on, err := v.site.PageCounts(ctx, v.visit)
	if err != nil {
		return err
	}
	held, err := v.heldBack(ctx, v.site.Site)
	if err != nil {
		return err
	}
	for _, n := range list {
		card := v.card(n, statuses[n.ID], accounts[n.ID])
		card.OnPages = on[n.ID]
		card.Held = append(card.Held, held[n.ID]...)
		out.Notices = append(out.Notices, card)
	}
	return nil
}

// names are the notices of these ids in short, each once.
func (v viewpoint) names(ids []string, flags map[string]Flag) []NoticeName {
	out := []NoticeName{}
	wanted := map[string]bool{}
	for _, id := range ids {
		wanted[id] = true
	}
	for _, n := range v.site.Bundle().Notices {
		if wanted[n.ID] {
			out = append(out, v.name(n, flags[n.ID]))
		}
	}
	return out
}

func (v viewpoint) name(n bundle.Notice, f Flag) NoticeName {
	background, _ := render.Colours(n)
	return NoticeName{n.ID, n.GetTitle(), f, n.Kind, n.GetSlot(), background}
}

// names lists a site's notices in short, those whose title holds a text.
func (a *Admin) names(c *call, in NameAsk) (NameList, error) {
	v, err := a.viewpoint(c, Moment{})
	if err != nil {
		return NameList{}, err
	}
	out := NameList{Names: []NoticeName{}}
	text := strings.ToLower(strings.TrimSpace(in.Find))
	for _, n := range v.site.Bundle().Notices {
		if strings.Contains(strings.ToLower(n.GetTitle()), text) {
			out.Names = append(out.Names, v.name(n, flag(n.GetState(), v.site.Schedule(n.ID), v.visit.At)))
		}
	}
	out.Found = len(out.Names)
	slices.SortStableFunc(out.Names, func(a, b NoticeName) int { return cmp.Compare(a.Title, b.Title) })
	out.Names = out.Names[:min(len(out.Names), maxNames)]
	return out, nil
}

// findingsCache keeps what is known of each site, and its findings for the moment
// last looked at: they depend on neither page nor visitor.
type findingsCache struct {
	mu   sync.Mutex
	last map[string]check
}

type check struct {
	site  *compiled.Site
	known findings.Known
	at    time.Time
	found []findings.Finding
}

func (cache *findingsCache) findingsOf(s *compiled.Site, at time.Time) []findings.Finding {
	key := s.Bundle().Site.Key
	cache.mu.Lock()
	last := cache.last[key]
	cache.mu.Unlock()
	if last.site != s {
		last = check{site: s, known: findings.NewKnown(s.Site)}
	} else if last.at.Equal(at) {
		return last.found
	}
	last.at, last.found = at, append([]findings.Finding{}, last.known.Check(at)...)
	cache.mu.Lock()
	defer cache.mu.Unlock()
	if cache.last == nil {
		cache.last = map[string]check{}
	}
	cache.last[key] = last
	return last.found
}

// page describes the viewpoint's page.
func (v viewpoint) page() ViewPage {
	path := "/"
	if subject, ok := v.site.Subject(v.visit.URL); ok {
		path = subject.Path
	}
	p := ViewPage{Path: path, Language: cmp.Or(v.language, v.site.Language(path))}
	p.Title, p.Known = v.site.Page(path)
	if origins := v.site.Bundle().Site.Origins; len(origins) > 0 {
		if o, err := pages.Origin(origins[0]); err == nil {
			p.Address = o + path
		}
	}
	return p
}

// card makes the card of what is out of a notice. account may be empty where the
// notice is not in the compiled site yet.
func (v viewpoint) card(n bundle.Notice, st store.Status, account decide.Account) Card {
	background, text := render.Colours(n)
	s := v.site.Schedule(n.ID)
	return Card{ID: n.ID, Title: n.GetTitle(), Kind: n.Kind, Level: n.GetLevel(), Slot: n.GetSlot(),
		Flag: flag(n.GetState(), s, v.visit.At), Revision: st.Revision, HasDraft: st.HasDraft,
		Line: orderline.Of(n, v.site.Bundle().Site, v.visit.At), Background: background, Text: text,
		Intervals: v.intervals(s), Held: []Interval{}, Account: account, Languages: languageStates(n, v.site.Bundle().Site),
		Until: v.change(n, s)}
}

// change is when a notice that is out next goes up or comes down, nil if it
// never does.
func (v viewpoint) change(n bundle.Notice, s schedule.Schedule) *time.Time {
	if _, next := s.SiteAt(v.visit.At); n.GetState() == bundle.Published && !next.IsZero() {
		return &next
	}
	return nil
}

// flag is the state of a notice at a moment.
func flag(state bundle.State, s schedule.Schedule, at time.Time) Flag {
	switch state {
	case bundle.Draft:
		return FlagDraft
	case bundle.Paused:
		return FlagPaused
	}
	live, next := s.SiteAt(at)
	switch {
	case live:
		return FlagLive
	case next.IsZero():
		return FlagEnded
	}
	return FlagScheduled
}

// intervals are a schedule's on the strip; those of a floating one are the
// partly-live ones.
func (v viewpoint) intervals(s schedule.Schedule) []Interval {
	out := []Interval{}
	for _, i := range s.Range(v.from, v.until) {
		out = append(out, Interval{i.From, i.Until, s.Floating()})
	}
	return out
}

// maxSteps is how many changes on the strip are looked at for who is held back.
const maxSteps = 400

// heldBack says when on the strip there is no room for notices of a site on
// the viewpoint's page, for its visitor, by notice.
func (v viewpoint) heldBack(ctx context.Context, s *decide.Site) (map[string][]Interval, error) {
	out := map[string][]Interval{}
	visit := v.visit
	visit.At = v.from
	for range maxSteps {
		if err := ctx.Err(); err != nil { // whoever asked is gone
			return nil, err
		}
		ids, next := s.HeldBack(visit)
		if next.IsZero() || next.After(v.until) {
			next = v.until
		}
		for _, id := range ids {
			if last := len(out[id]) - 1; last >= 0 && out[id][last].Until.Equal(visit.At) {
				out[id][last].Until = next
			} else {
				out[id] = append(out[id], Interval{From: visit.At, Until: next})
			}
		}
		if visit.At = next; !next.Before(v.until) {
			break
		}
	}
	return out, nil
}

// changes are the times ahead of the viewpoint at which published notices go up
// or come down, the first of them, so many at most.
func (v viewpoint) changes(most int) []Change {
	type first struct {
		n    bundle.Notice
		when schedule.Schedule
		next time.Time
	}
	var all []first
	for _, n := range v.site.Bundle().Notices {
		if n.GetState() != bundle.Published {
			continue
		}
		when := v.site.Schedule(n.ID)
		if _, next := when.SiteAt(v.visit.At); !next.IsZero() {
			all = append(all, first{n, when, next})
		}
	}
	// What changes first at a later time than that of so many others is not among them.
	slices.SortStableFunc(all, func(a, b first) int { return a.next.Compare(b.next) })
	out := []Change{}
	for _, f := range all[:min(len(all), most)] {
		line := orderline.Of(f.n, v.site.Bundle().Site, v.visit.At)
		for at, k := v.visit.At, 0; k < most; k++ {
			live, next := f.when.SiteAt(at)
			if next.IsZero() {
				break
			}
			out = append(out, Change{next, f.n.ID, !live, line})
			at = next
		}
	}
	slices.SortStableFunc(out, func(a, b Change) int { return a.At.Compare(b.At) })
	return out[:min(len(out), most)]
}

// last is when a published notice last went up or came down before the
// viewpoint's moment, on the strip; nil if none did.
func (v viewpoint) last() *time.Time {
	var last time.Time
	for _, n := range v.site.Bundle().Notices {
		if n.GetState() != bundle.Published {
			continue
		}
		for _, i := range v.site.Schedule(n.ID).Range(v.from, v.visit.At) {
			for _, t := range []time.Time{i.From, i.Until} {
				if t.After(last) && t.After(v.from) && t.Before(v.visit.At) {
					last = t
				}
			}
		}
	}
	if last.IsZero() {
		return nil
	}
	return &last
}

// clockChanges are the zone's between two instants.
func clockChanges(zone *time.Location, from, until time.Time) []ClockChange {
	out := []ClockChange{}
	for t := from.In(zone); len(out) < 100; {
		end := schedule.PeriodEnd(t)
		if end.IsZero() || !end.Before(until) {
			return out
		}
		_, before := t.Zone()
		_, after := end.In(zone).Zone()
		if before != after {
			out = append(out, ClockChange{end.UTC(), (after - before) / 60})
		}
		t = end.In(zone)
	}
	return out
}

// soonPeriod is how far the Pages room looks.
const soonPeriod = 30 * 24 * time.Hour

// soon are the published notices that are live at some time in the days ahead.
func (v viewpoint) soon() map[string]bool {
	out := map[string]bool{}
	for _, n := range v.site.Bundle().Notices {
		if n.GetState() == bundle.Published && len(v.site.Schedule(n.ID).Range(v.visit.At, v.visit.At.Add(soonPeriod))) > 0 {
			out[n.ID] = true
		}
	}
	return out
}

func (a *Admin) carried(c *call, m Moment) (Carried, error) {
	v, err := a.viewpoint(c, m)
	if err != nil {
		return Carried{}, err
	}
	out := Carried{Pages: []CarryingPage{}}
	soon := v.soon()
	var mentioned []string
	for _, p := range v.site.Bundle().Pages {
		if err := c.Request.Context().Err(); err != nil {
			return out, err
		}
		visit := v.visit
		visit.URL = p.Path
		page := CarryingPage{
			Path:     p.Path,
			Title:    p.Title,
			Language: v.site.Language(p.Path),
			Type:     p.Type,
			Tags:     append([]string{}, p.Tags...),
			Shows:    []string{},
			Soon:     []string{},
		}
		crowd := 0 // what stands in the page, or in its code, is in nobody's way
		for _, s := range v.site.Decide(visit).Show {
			page.Shows = append(page.Shows, s.ID)
			if !s.Slot.Unlimited() {
				crowd++
			}
		}
		for _, id := range v.site.PlacedOn(p.Path) {
			if soon[id] {
				page.Soon = append(page.Soon, id)
			}
		}
		held, _ := v.site.HeldBack(visit)
		page.TooMuch = decide.TooMany(crowd, len(held))
		out.Pages = append(out.Pages, page)
		mentioned = append(append(mentioned, page.Shows...), page.Soon...)
	}
	flags := map[string]Flag{}
	for _, id := range mentioned {
		if _, known := flags[id]; !known {
			flags[id] = flag(bundle.Published, v.site.Schedule(id), v.visit.At)
		}
	}
	out.Notices = v.names(mentioned, flags)
	return out, nil
}

// table compares pages by what they have of each notice.
func (a *Admin) table(c *call, m Moment) (Table, error) {
	v, err := a.viewpoint(c, m)
	if err != nil {
		return Table{}, err
	}
	out := Table{Notices: []string{}, Titles: []string{}, Rows: []TableRow{}}
	soon := v.soon()
	for _, n := range v.site.Ordered() {
		if soon[n.ID] {
			out.Notices, out.Titles = append(out.Notices, n.ID), append(out.Titles, n.GetTitle())
		}
	}
	var text strings.Builder
	table := sheet.NewWriter(&text)
	if err := table.Write(append([]string{"Path", "Title", "Language"}, out.Titles...)); err != nil {
		return out, err
	}
	for _, p := range v.site.Bundle().Pages {
		visit := v.visit
		visit.URL = p.Path
		has := map[string]string{}
		for _, id := range v.site.PlacedOn(p.Path) {
			has[id] = "soon"
		}
		d := v.site.Decide(visit)
		for _, s := range d.Waiting {
			has[s.ID] = "waits"
		}
		held, _ := v.site.HeldBack(visit)
		for _, id := range held {
			has[id] = "held"
		}
		for _, s := range d.Show {
			has[s.ID] = "shows"
		}
		row := TableRow{Path: p.Path, Title: p.Title, Cells: []string{}}
		for _, id := range out.Notices {
			row.Cells = append(row.Cells, has[id])
		}
		out.Rows = append(out.Rows, row)
		err := table.Write(append([]string{p.Path, p.Title, v.site.Language(p.Path)}, row.Cells...))
		if err != nil {
			return out, err
		}
	}
	err = table.Close()
	out.CSV = text.String()
	return out, err
}

// Rehearse returns the site's bundle with a notice's draft in place of what
// is out, published and free of schedule, audience and memory, so that it
// shows on its pages now.
func (a *Admin) Rehearse(ctx context.Context, site, notice string) (bundle.Bundle, error) {
	return a.stagedBundle(ctx, site, notice, func(n *bundle.Notice) {
		n.Schedule, n.PublishedAt, n.Audience = nil, nil, nil
		n.Memory = &bundle.Memory{Closable: n.GetMemory().Closable}
		for tag, w := range n.Wordings() { // what nobody has read is read on the stage
			if w.Unread {
				w.Unread = false
				*n = withWording(*n, tag, w)
			}
		}
	})
}

// stagedBundle returns the site's bundle with a notice's draft as if it were
// published, altered by a function.
func (a *Admin) stagedBundle(
	ctx context.Context,
	site, notice string,
	alter func(*bundle.Notice),
) (bundle.Bundle, error) {
	b, err := compiled.Load(ctx, a.Store, site)
	if err != nil {
		return b, err
	}
	row, err := a.Store.Notice(ctx, site, notice)
	if err != nil {
		return b, err
	}
	for i := range b.Notices {
		if b.Notices[i].ID == notice {
			n := row.Working()
			n.State = bundle.Published
			alter(&n)
			b.Notices[i] = n
			return b, nil
		}
	}
	return b, store.ErrNotFound
}

// contrastOf is how well words read on a field.
func contrastOf(background, text string) Contrast {
	ratio, err := colour.Contrast(text, background)
	if err != nil {
		return Contrast{Background: background, Text: text}
	}
	near, _ := colour.Nearest(text, background)
	return Contrast{background, text, ratio, ratio >= colour.Minimum, near}
}
