package viewpoint

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
	"time"

	"mastflag/core/bundle"
	"mastflag/core/colour"
	"mastflag/core/decide"
	"mastflag/core/fault"
	"mastflag/core/orderline"
	"mastflag/core/pages"
	"mastflag/core/render"
	"mastflag/core/schedule"
	"mastflag/internal/admin/base"
	"mastflag/internal/compiled"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// OnPages returns the known pages that a notice's conditions take; none where they
// cannot be read, which is said elsewhere.
func OnPages(site *compiled.Site, n bundle.Notice) []string {
	out := []string{}
	set, faults := pages.Compile(n.GetPages(), site.Names())
	if faults != nil {
		return out
	}
	for _, p := range site.Bundle().Pages {
		if subject, ok := site.Subject(p.Path); ok && set.Test(subject).Shows {
			out = append(out, subject.Path)
		}
	}
	return out
}

func AccountOf(r decide.Result, id string) decide.Account {
	for _, a := range r.Explain {
		if a.ID == id {
			return a
		}
	}
	return decide.Account{ID: id, Steps: []decide.Step{}}
}

// LeftOut says that something that is kept cannot be used as it is.
func LeftOut(why fault.Fault) string {
	return "It cannot be used as it is kept, and no visitor gets it: " + why.What
}

// Point is a Moment read: this page, at this moment, as this visitor.
type Point struct {
	Site        *compiled.Site
	Now         time.Time
	From, Until time.Time
	Zone        *time.Location // of the visitor
	Language    string         // of the page, where it is to be another than its own
	Visit       decide.Visit
}

// Read reads a Moment against the compiled site of the call.
func Read(a *base.Base, c *base.Call, m base.Moment) (Point, error) {
	v := Point{Site: a.Hub.Site(c.Site), Now: a.Clock.Now()}
	if v.Site == nil {
		return v, store.ErrNotFound
	}
	v.Visit = decide.Visit{At: v.Now, URL: cmp.Or(m.Page, v.Site.Bundle().Site.Homes()[0])}
	if m.At != "" {
		if l, err := schedule.ParseLocal(m.At); err == nil {
			v.Visit.At = l.In(v.Site.Zone())
		} else if v.Visit.At, err = base.Instant("at", m.At); err != nil {
			return v, err
		}
	}
	v.From, v.Until = v.Visit.At.AddDate(0, 0, -7), v.Visit.At.AddDate(0, 0, 35)
	if m.From != "" && m.Until != "" {
		var errs [2]error
		v.From, errs[0] = base.Instant("from", m.From)
		v.Until, errs[1] = base.Instant("until", m.Until)
		if err := errors.Join(errs[:]...); err != nil {
			return v, err
		}
		if !v.From.Before(v.Until) {
			return v, problem.Problem{
				Status: http.StatusBadRequest,
				Title:  "Not understood",
				Detail: "until must be after from.",
			}
		}
	}
	v.Zone = v.Site.Zone()
	v.Visit.Facts = map[string]any{}
	if m.Visitor != "" {
		if err := json.Unmarshal([]byte(m.Visitor), &v.Visit.Facts); err != nil || v.Visit.Facts == nil {
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
		v.Zone = z
		v.Visit.Facts["locale.zone"] = m.Zone
	}
	v.Language = m.Language
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
			if _, said := v.Visit.Facts[fact]; !said {
				v.Visit.Facts[fact] = value
			}
		}
	}
	if err := v.Visit.Check(); err != nil {
		return v, problem.Problem{Status: http.StatusBadRequest, Title: "Not understood", Detail: err.Error() + "."}
	}
	return v, nil
}

// Find returns the notices whose title, state or sentence holds a text: live
// ones first, then those that will be, are paused, drafts, over; each by id.
func (v Point) Find(flags map[string]Flag, text string) []bundle.Notice {
	text = strings.ToLower(strings.TrimSpace(text))
	b := v.Site.Bundle()
	out := make([]bundle.Notice, 0, len(b.Notices))
	for _, n := range b.Notices {
		if text == "" || strings.Contains(strings.ToLower(n.GetTitle()+" "+string(flags[n.ID])), text) ||
			strings.Contains(strings.ToLower(orderline.Of(n, b.Site, v.Visit.At).String()), text) {
			out = append(out, n)
		}
	}
	order := map[Flag]int{FlagLive: 0, FlagScheduled: 1, FlagPaused: 2, FlagDraft: 3, FlagEnded: 4}
	slices.SortStableFunc(out, func(a, b bundle.Notice) int { return cmp.Compare(order[flags[a.ID]], order[flags[b.ID]]) })
	return out
}

// Cards makes the cards of notices.
func (v Point) Cards(ctx context.Context, list []bundle.Notice, statuses map[string]store.Status) ([]Card, error) {
	out := make([]Card, 0, len(list))
	ids := make([]string, len(list))
	for i, n := range list {
		ids[i] = n.ID
	}
	accounts := map[string]decide.Account{}
	for _, ac := range v.Site.ExplainOf(v.Visit, ids).Explain {
		accounts[ac.ID] = ac
	}
	on, err := v.Site.PageCounts(ctx, v.Visit)
	if err != nil {
		return nil, err
	}
	held, err := v.HeldBack(ctx, v.Site.Site)
	if err != nil {
		return nil, err
	}
	for _, n := range list {
		card := v.CardOf(n, statuses[n.ID], accounts[n.ID])
		card.OnPages = on[n.ID]
		card.Held = append(card.Held, held[n.ID]...)
		out = append(out, card)
	}
	return out, nil
}

// Names are the notices of these ids in short, each once.
func (v Point) Names(ids []string, flags map[string]Flag) []NoticeName {
	out := []NoticeName{}
	wanted := map[string]bool{}
	for _, id := range ids {
		wanted[id] = true
	}
	for _, n := range v.Site.Bundle().Notices {
		if wanted[n.ID] {
			out = append(out, v.Name(n, flags[n.ID]))
		}
	}
	return out
}

func (v Point) Name(n bundle.Notice, f Flag) NoticeName {
	background, _ := render.Colours(v.Site.Bundle().Site.Themed(n))
	return NoticeName{n.ID, n.GetTitle(), f, n.Kind, n.GetSlot(), background}
}

// Page describes the viewpoint's page.
func (v Point) Page() ViewPage {
	path := "/"
	if subject, ok := v.Site.Subject(v.Visit.URL); ok {
		path = subject.Path
	}
	p := ViewPage{Path: path, Language: cmp.Or(v.Language, v.Site.Language(path))}
	p.Title, p.Known = v.Site.Page(path)
	site := v.Site.Bundle().Site
	if len(site.Origins) > 0 {
		if o, err := pages.Origin(site.Origins[0]); err == nil {
			p.Address = o + path
			if site.Routes && pages.RouteOf(path) == "" {
				p.Address += "#/"
			}
		}
	}
	return p
}

// CardOf makes the card of what is out of a notice. account may be empty where the
// notice is not in the compiled site yet.
func (v Point) CardOf(n bundle.Notice, st store.Status, account decide.Account) Card {
	background, text := render.Colours(v.Site.Bundle().Site.Themed(n))
	s := v.Site.Schedule(n.ID)
	return Card{ID: n.ID, Title: n.GetTitle(), Kind: n.Kind, Level: n.GetLevel(), Slot: n.GetSlot(),
		Flag: FlagAt(n.GetState(), s, v.Visit.At), Revision: st.Revision, HasDraft: st.HasDraft,
		Line: orderline.Of(n, v.Site.Bundle().Site, v.Visit.At), Background: background, Text: text,
		Intervals: v.Intervals(s), Held: []Interval{}, Account: account, Languages: LanguageStates(n, v.Site.Bundle().Site),
		Until: v.change(n, s)}
}

// change is when a notice that is out next goes up or comes down, nil if it
// never does.
func (v Point) change(n bundle.Notice, s schedule.Schedule) *time.Time {
	if _, next := s.SiteAt(v.Visit.At); n.GetState() == bundle.Published && !next.IsZero() {
		return &next
	}
	return nil
}

// FlagAt is the state of a notice at a moment.
func FlagAt(state bundle.State, s schedule.Schedule, at time.Time) Flag {
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

// Intervals are a schedule's on the strip; those of a floating one are the
// partly-live ones.
func (v Point) Intervals(s schedule.Schedule) []Interval {
	out := []Interval{}
	for _, i := range s.Range(v.From, v.Until) {
		out = append(out, Interval{i.From, i.Until, s.Floating()})
	}
	return out
}

// maxSteps is how many changes on the strip are looked at for who is held back.
const maxSteps = 400

// HeldBack says when on the strip there is no room for notices of a site on
// the viewpoint's page, for its visitor, by notice.
func (v Point) HeldBack(ctx context.Context, s *decide.Site) (map[string][]Interval, error) {
	out := map[string][]Interval{}
	visit := v.Visit
	visit.At = v.From
	for range maxSteps {
		if err := ctx.Err(); err != nil { // whoever asked is gone
			return nil, err
		}
		d, ids := s.DecideWithHeldBack(visit)
		next := d.ValidUntil
		if next.IsZero() || next.After(v.Until) {
			next = v.Until
		}
		for _, id := range ids {
			if last := len(out[id]) - 1; last >= 0 && out[id][last].Until.Equal(visit.At) {
				out[id][last].Until = next
			} else {
				out[id] = append(out[id], Interval{From: visit.At, Until: next})
			}
		}
		if visit.At = next; !next.Before(v.Until) {
			break
		}
	}
	return out, nil
}

// Changes are the times ahead of the viewpoint at which published notices go up
// or come down, the first of them, so many at most.
func (v Point) Changes(most int) []Change {
	type first struct {
		n    bundle.Notice
		when schedule.Schedule
		next time.Time
	}
	var all []first
	for _, n := range v.Site.Bundle().Notices {
		if n.GetState() != bundle.Published {
			continue
		}
		when := v.Site.Schedule(n.ID)
		if _, next := when.SiteAt(v.Visit.At); !next.IsZero() {
			all = append(all, first{n, when, next})
		}
	}
	// What changes first at a later time than that of so many others is not among them.
	slices.SortStableFunc(all, func(a, b first) int { return a.next.Compare(b.next) })
	out := []Change{}
	for _, f := range all[:min(len(all), most)] {
		line := orderline.Of(f.n, v.Site.Bundle().Site, v.Visit.At)
		for at, k := v.Visit.At, 0; k < most; k++ {
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

// Last is when a published notice last went up or came down before the
// viewpoint's moment, on the strip; nil if none did.
func (v Point) Last() *time.Time {
	var last time.Time
	for _, n := range v.Site.Bundle().Notices {
		if n.GetState() != bundle.Published {
			continue
		}
		for _, i := range v.Site.Schedule(n.ID).Range(v.From, v.Visit.At) {
			for _, t := range []time.Time{i.From, i.Until} {
				if t.After(last) && t.After(v.From) && t.Before(v.Visit.At) {
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

// soonPeriod is how far the Pages room looks.
const soonPeriod = 30 * 24 * time.Hour

// Soon are the published notices that are live at some time in the days ahead.
func (v Point) Soon() map[string]bool {
	out := map[string]bool{}
	for _, n := range v.Site.Bundle().Notices {
		if n.GetState() == bundle.Published && len(v.Site.Schedule(n.ID).Range(v.Visit.At, v.Visit.At.Add(soonPeriod))) > 0 {
			out[n.ID] = true
		}
	}
	return out
}

// ContrastOf is how well words read on a field.
func ContrastOf(background, text string) Contrast {
	ratio, err := colour.Contrast(text, background)
	if err != nil {
		return Contrast{Background: background, Text: text}
	}
	near, _ := colour.Nearest(text, background)
	return Contrast{background, text, ratio, ratio >= colour.Minimum, near}
}
