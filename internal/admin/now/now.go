// Package now is what is so at a viewpoint: the notices, the pages that carry them, what changes next.
package now

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/findings"
	"mastflag/core/orderline"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/core/sheet"
	"mastflag/internal/admin/alerts"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/consents"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/problem"
)

// Area is that part of the API.
type Area struct {
	*base.Base
}

// Routes are its calls.
func (a *Area) Routes() []base.Route {
	return []base.Route{
		base.Get("/api/sites/:site/table", "Which page carries which notice, over a time.", a.table),
		base.File(
			"/api/sites/:site/table.csv", "The same as CSV.", "text/csv; charset=utf-8", a.tableFile,
		).WithMoment(),
		base.Get("/api/sites/:site/view", "Everything that is so at a viewpoint.", a.view),
		base.Get("/api/sites/:site/names", "The site's notices in short, by title.", a.names),
		base.Get("/api/sites/:site/carried", "Which notices each known page carries at a moment.", a.carried),
	}
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

func (a *Area) view(c *base.Call, in ViewAsk) (View, error) {
	v, err := viewpoint.Read(a.Base, c, in.Moment)
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
	statuses, err := a.Store.Statuses(ctx, c.Site)
	if err != nil {
		return View{}, err
	}
	known, err := a.Store.CountPages(ctx, c.Site)
	if err != nil {
		return View{}, err
	}
	b := v.Site.Bundle()
	decision := v.Site.Decide(v.Visit)
	out := View{
		At:             v.Visit.At,
		Now:            v.Now,
		From:           v.From,
		Until:          v.Until,
		Zone:           v.Site.Zone().String(),
		VisitorZone:    v.Zone.String(),
		ClockChanges:   schedule.ClockChanges(v.Site.Zone(), v.From, v.Until),
		Display:        b.Site.Displays(),
		Page:           v.Page(),
		Shows:          []string{},
		Waits:          []string{},
		Names:          []viewpoint.NoticeName{},
		SnippetMissing: -1,
		Pages:          known.Known,
		Troubles:       a.Troubles(c.Site),
	}
	if known.Looked > 0 {
		out.SnippetMissing = known.Missing
	}
	for _, s := range decision.Show {
		out.Shows = append(out.Shows, s.ID)
	}
	out.Standing = append([]string{}, v.Site.PlacementOrder(out.Shows, v.Visit.URL)...)
	for _, s := range decision.Waiting {
		out.Waits = append(out.Waits, s.ID)
	}
	flags := make(map[string]viewpoint.Flag, len(b.Notices))
	for _, n := range b.Notices {
		flags[n.ID] = viewpoint.FlagAt(n.GetState(), v.Site.Schedule(n.ID), v.Visit.At)
		if flags[n.ID] == viewpoint.FlagLive || flags[n.ID] == viewpoint.FlagScheduled {
			out.Running++
		}
	}
	out.All = len(b.Notices) + len(v.Site.Uncompiled)
	found := v.Find(flags, in.Find)
	out.Found = len(found)
	if out.Notices, err = v.Cards(ctx, found[:min(len(found), most)], statuses); err != nil {
		return View{}, err
	}
	for _, l := range v.Site.Uncompiled { // few: they are what an earlier version accepted
		if st, kept := statuses[l.Notice]; kept && in.Find == "" {
			out.Found++
			out.Notices = append(out.Notices, viewpoint.Card{
				ID:        l.Notice,
				Title:     l.Title,
				Flag:      viewpoint.FlagPaused,
				Revision:  st.Revision,
				Line:      orderline.Line{},
				Intervals: []viewpoint.Interval{},
				Held:      []viewpoint.Interval{},
				Account:   decide.Account{ID: l.Notice, Steps: []decide.Step{}},
				Languages: []viewpoint.LanguageState{},
				LeftOut:   viewpoint.LeftOut(l.Why),
			})
		}
	}
	out.Next, out.Last = v.Changes(maxChanges), v.Last()
	leaks, err := consents.Leaks(ctx, a.Store, b.Site)
	if err != nil {
		return View{}, err
	}
	looked, err := a.Found.Of(ctx, v.Site, v.Visit.At.Truncate(time.Minute))
	if err != nil {
		return View{}, err
	}
	needs := slices.DeleteFunc(
		append(leaks, looked...),
		func(f findings.Finding) bool {
			// What is unfinished in a draft is no alarm yet.
			return f.Severity == findings.Info || len(f.Notices) > 0 && flags[f.Notices[0]] == viewpoint.FlagDraft
		},
	)
	out.Findings = append([]findings.Finding{}, needs[:min(len(needs), maxFindings)]...)
	out.FindingsMore = len(needs) - len(out.Findings)
	if out.Received, out.Ailing, err = alerts.Needing(ctx, a.Base, b.Site); err != nil {
		return View{}, err
	}
	mentioned := slices.Concat(out.Shows, out.Waits)
	for _, ch := range out.Next {
		mentioned = append(mentioned, ch.Notice)
	}
	for _, f := range out.Findings {
		mentioned = append(mentioned, f.Notices...)
	}
	out.Names = v.Names(mentioned, flags)
	return out, nil
}

// names lists a site's notices in short, those whose title holds a text.
func (a *Area) names(c *base.Call, in NameAsk) (NameList, error) {
	v, err := viewpoint.Read(a.Base, c, base.Moment{})
	if err != nil {
		return NameList{}, err
	}
	out := NameList{Names: []viewpoint.NoticeName{}}
	text := strings.ToLower(strings.TrimSpace(in.Find))
	for _, n := range v.Site.Bundle().Notices {
		if strings.Contains(strings.ToLower(n.GetTitle()), text) {
			out.Names = append(out.Names, v.Name(n, viewpoint.FlagAt(n.GetState(), v.Site.Schedule(n.ID), v.Visit.At)))
		}
	}
	out.Found = len(out.Names)
	slices.SortStableFunc(out.Names, func(a, b viewpoint.NoticeName) int { return cmp.Compare(a.Title, b.Title) })
	out.Names = out.Names[:min(len(out.Names), maxNames)]
	return out, nil
}

// eachPage calls f for each known page of a viewpoint's site, with its class (decide.PageClasses) and
// whether it is the first of that: what pages of one class carry is worked out once. It stops where
// ctx ends.
func eachPage(
	ctx context.Context, v viewpoint.Point, f func(p bundle.Page, s pages.Subject, class int, first bool),
) error {
	classes, count := v.Site.PageClasses()
	met := make([]bool, count)
	for _, p := range v.Site.Bundle().Pages {
		if err := ctx.Err(); err != nil {
			return err
		}
		subject, ok := v.Site.Subject(p.Path)
		if !ok {
			continue
		}
		class := classes[subject.Path]
		f(p, subject, class, !met[class])
		met[class] = true
	}
	return nil
}

// maxSoon is how many notices are named that a page carries at some time ahead.
const maxSoon = 50

func (a *Area) carried(c *base.Call, m base.Moment) (Carried, error) {
	v, err := viewpoint.Read(a.Base, c, m)
	if err != nil {
		return Carried{}, err
	}
	out := Carried{Pages: []CarryingPage{}, Sets: []CarriedSet{}}
	soon := v.Soon()
	mentioned := map[string]bool{}
	err = eachPage(c.Request.Context(), v, func(p bundle.Page, s pages.Subject, class int, first bool) {
		out.Pages = append(out.Pages, CarryingPage{
			Path: p.Path, Title: p.Title, Language: s.Language, Type: p.Type, Tags: append([]string{}, p.Tags...), Set: class,
		})
		if first { // classes come in their order
			set := carriedOn(v, p.Path, soon)
			out.Sets = append(out.Sets, set)
			for _, id := range slices.Concat(set.Shows, set.Soon) {
				mentioned[id] = true
			}
		}
	})
	if err != nil {
		return out, err
	}
	flags := map[string]viewpoint.Flag{}
	for id := range mentioned {
		flags[id] = viewpoint.FlagAt(bundle.Published, v.Site.Schedule(id), v.Visit.At)
	}
	out.Notices = v.Names(slices.Collect(maps.Keys(mentioned)), flags)
	return out, nil
}

// carriedOn is what a page carries; soon are the notices that are live at some time ahead.
func carriedOn(v viewpoint.Point, path string, soon map[string]bool) CarriedSet {
	visit := v.Visit
	visit.URL = path
	out := CarriedSet{Shows: []string{}, Soon: []string{}}
	d, heldBack := v.Site.DecideWithHeldBack(visit)
	crowd := 0 // what stands in the page, or in its code, is in nobody's way
	for _, s := range d.Show {
		out.Shows = append(out.Shows, s.ID)
		if !s.Slot.Unlimited() {
			crowd++
		}
	}
	for _, id := range v.Site.PlacedOn(path) {
		switch {
		case !soon[id]:
		case len(out.Soon) < maxSoon:
			out.Soon = append(out.Soon, id)
		default:
			out.SoonMore++
		}
	}
	out.TooMuch = decide.TooMany(crowd, len(heldBack))
	return out
}

// maxColumns is how many notices a table has: those that come first in the order of rule D1.
const maxColumns = 200

// columns are the notices that a table has, and how many there were room for no more.
func columns(v viewpoint.Point) (out []bundle.Notice, more int) {
	soon := v.Soon()
	for _, n := range v.Site.Ordered() {
		switch {
		case !soon[n.ID]:
		case len(out) < maxColumns:
			out = append(out, n)
		default:
			more++
		}
	}
	return out, more
}

// cells says what a page has of each of these notices.
func cells(v viewpoint.Point, path string, of []bundle.Notice) []string {
	visit := v.Visit
	visit.URL = path
	has := map[string]string{}
	for _, id := range v.Site.PlacedOn(path) {
		has[id] = "soon"
	}
	d, heldBack := v.Site.DecideWithHeldBack(visit)
	for _, s := range d.Waiting {
		has[s.ID] = "waits"
	}
	for _, id := range heldBack {
		has[id] = "held"
	}
	for _, s := range d.Show {
		has[s.ID] = "shows"
	}
	out := make([]string, len(of))
	for i, n := range of {
		out[i] = has[n.ID]
	}
	return out
}

// table compares pages by what they have of each notice.
func (a *Area) table(c *base.Call, m base.Moment) (Table, error) {
	v, err := viewpoint.Read(a.Base, c, m)
	if err != nil {
		return Table{}, err
	}
	return tableOf(c.Request.Context(), v)
}

func tableOf(ctx context.Context, v viewpoint.Point) (Table, error) {
	list, more := columns(v)
	out := Table{Notices: []string{}, Titles: []string{}, More: more, Rows: []TableRow{}, Sets: [][]string{}}
	for _, n := range list {
		out.Notices, out.Titles = append(out.Notices, n.ID), append(out.Titles, n.GetTitle())
	}
	err := eachPage(ctx, v, func(p bundle.Page, s pages.Subject, class int, first bool) {
		if first { // classes come in their order
			out.Sets = append(out.Sets, cells(v, p.Path, list))
		}
		out.Rows = append(out.Rows, TableRow{Path: p.Path, Title: p.Title, Language: s.Language, Set: class})
	})
	return out, err
}

// tableFile is the table as CSV (RFC 4180).
func (a *Area) tableFile(c *base.Call) (string, func(io.Writer) error, error) {
	v, err := viewpoint.Read(a.Base, c, c.Moment())
	if err != nil {
		return "", nil, err
	}
	t, err := tableOf(c.Request.Context(), v)
	return c.Site + "-pages.csv", func(w io.Writer) error {
		file := sheet.NewWriter(w)
		if err := file.Write(append([]string{"Path", "Title", "Language"}, t.Titles...)); err != nil {
			return err
		}
		for _, r := range t.Rows {
			if err := file.Write(append([]string{r.Path, r.Title, r.Language}, t.Sets[r.Set]...)); err != nil {
				return err
			}
		}
		return nil
	}, err
}
