// Package outcomes is what came of notices: how often they were seen, what was done, and whether
// that was because of them.
package outcomes

import (
	"cmp"
	"fmt"
	"io"
	"math"
	"net/http"
	"slices"
	"strconv"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/orderline"
	"mastflag/core/results"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/compiled"
	"mastflag/internal/counting"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// Area is that part of the API.
type Area struct{ *base.Base }

// Routes are its calls.
func (a *Area) Routes() []base.Route {
	return []base.Route{
		base.Get("/api/sites/:site/results", "What came of a site's notices.", a.site),
		base.Get("/api/sites/:site/results/:notice", "What came of a notice.", a.notice),
		base.File("/api/sites/:site/results.csv", "All sums as CSV.", "text/csv; charset=utf-8", a.table),
	}
}

// defaultDays is how many days are looked at if nothing is said, maxDays how many at most.
const (
	defaultDays = 30
	maxDays     = 3660
)

// filter reads which days are meant.
func (a *Area) filter(c *base.Call, in ResultQuery) (store.ResultFilter, *compiled.Site, error) {
	site := a.Hub.Site(c.Site)
	if site == nil {
		return store.ResultFilter{}, nil, store.ErrNotFound
	}
	today := a.Clock.Now().In(site.Zone())
	f := store.ResultFilter{From: in.From, Until: cmp.Or(in.Until, today.Format(time.DateOnly))}
	until, err := time.Parse(time.DateOnly, f.Until)
	if f.From == "" {
		f.From = until.AddDate(0, 0, 1-defaultDays).Format(time.DateOnly)
	}
	from, wrong := time.Parse(time.DateOnly, f.From)
	if err = cmp.Or(err, wrong); err != nil {
		return f, nil, problem.Problem{
			Status: http.StatusUnprocessableEntity, Title: "No day",
			Detail: fmt.Sprintf("%.20q to %.20q are no days. Write them like 2026-11-30.", f.From, f.Until),
		}
	}
	if days := until.Sub(from).Hours() / 24; days < 0 || days > maxDays {
		return f, nil, problem.Problem{
			Status: http.StatusUnprocessableEntity, Title: "No such days",
			Detail: fmt.Sprintf("From %s to %s are not between one day and ten years. Choose others.", f.From, f.Until),
		}
	}
	return f, site, nil
}

func (a *Area) site(c *base.Call, in ResultQuery) (SiteResults, error) {
	f, site, err := a.filter(c, in)
	if err != nil {
		return SiteResults{}, err
	}
	rows, err := a.Store.Results(c.Request.Context(), c.Site, f)
	if err != nil {
		return SiteResults{}, err
	}
	out := SiteResults{
		From: f.From, Until: f.Until, Strip: strip(f, site, store.Notice{}), Notices: []NoticeSummary{},
	}
	out.All, out.Days, _ = results.TallyBy("day", rows)
	_, parts, _ := results.TallyBy("notice", rows)
	for _, p := range parts {
		out.Notices = append(out.Notices, summary(site, p.Key, rowsOf(p.Key, rows)))
	}
	return out, nil
}

// rowsOf returns the rows of one notice.
func rowsOf(notice string, rows []results.Row) (out []results.Row) {
	for _, r := range rows {
		if r.Notice == notice {
			out = append(out, r)
		}
	}
	return out
}

// summary sums up the rows of a notice.
func summary(site *compiled.Site, id string, rows []results.Row) NoticeSummary {
	out := NoticeSummary{ID: id, Title: id}
	for _, n := range site.Bundle().Notices {
		if n.ID == id {
			out.Title, out.Kind, out.Slot = n.GetTitle(), string(n.Kind), n.GetSlot()
		}
	}
	var pages []results.Tally
	out.All, pages, _ = results.TallyBy("page", rows)
	out.Says = results.Sentence(out.All, len(pages))
	return out
}

func (a *Area) notice(c *base.Call, in ResultQuery) (NoticeResults, error) {
	f, site, err := a.filter(c, in)
	if err != nil {
		return NoticeResults{}, err
	}
	ctx := c.Request.Context()
	f.Notice = c.Notice
	rows, err := a.Store.Results(ctx, c.Site, f)
	if err != nil {
		return NoticeResults{}, err
	}
	n, err := a.Store.Notice(ctx, c.Site, c.Notice)
	if err != nil {
		return NoticeResults{}, err
	}
	out := NoticeResults{
		NoticeSummary: summary(site, c.Notice, rows), From: f.From, Until: f.Until, By: cmp.Or(in.By, "page"),
		Strip: strip(f, site, n), Parts: []NamedTally{}, Deeds: []NoticeDeed{},
	}
	_, out.Days, _ = results.TallyBy("day", rows)
	_, parts, ok := results.TallyBy(out.By, rows)
	if !ok {
		return out, problem.Problem{
			Status: http.StatusUnprocessableEntity, Title: "Nothing is told apart by that",
			Detail: fmt.Sprintf("%.20q is none of page, device, wording, variant and version.", out.By),
		}
	}
	entries, err := a.Store.History(ctx, c.Site, c.Notice)
	if err != nil {
		return out, err
	}
	for _, e := range entries {
		if day := e.At.In(site.Zone()).Format(time.DateOnly); day >= f.From && day <= f.Until && visible(e.Deed) {
			out.Deeds = append(out.Deeds, NoticeDeed{day, e.At, e.Deed.String()})
		}
	}
	slices.Reverse(out.Deeds)
	for _, p := range parts {
		out.Parts = append(out.Parts, NamedTally{p, tallyName(out.By, p.Key, n.Working(), site.Zone())})
	}
	if out.Aside, err = a.Store.SetAside(ctx, c.Site, f); err != nil {
		return out, err
	}
	out.Experiment, err = a.experiment(c, n)
	return out, err
}

// strip is the days that are looked at, with when a notice is live in them by the times that are out. The filter's
// texts are days: filter refuses others.
func strip(f store.ResultFilter, site *compiled.Site, n store.Notice) Strip {
	from, _ := time.ParseInLocation(time.DateOnly, f.From, site.Zone())
	last, _ := time.ParseInLocation(time.DateOnly, f.Until, site.Zone())
	v := viewpoint.Point{From: from, Until: last.AddDate(0, 0, 1)}
	out := Strip{v.From, v.Until, []viewpoint.Interval{}}
	if n.Published != nil && !n.Deleted {
		out.Intervals = v.Intervals(site.Schedule(n.ID))
	}
	return out
}

// visible reports whether visitors could notice what was done.
func visible(d history.Deed) bool {
	return slices.Contains([]history.Act{
		history.Published, history.Unpublished, history.Paused, history.Resumed,
	}, d.Act)
}

// tallyName is what people call a part.
func tallyName(by, key string, n bundle.Notice, zone *time.Location) string {
	switch {
	case by == "page" && key == "":
		return "pages that are not known"
	case by == "device" && key == "", by == "wording" && key == "":
		return "not known"
	case by == "variant" && key == "":
		return "in no experiment"
	case by == "variant":
		return cmp.Or(n.Experiment.VariantNames()[key], key)
	case by == "version":
		seconds, _ := strconv.ParseInt(key, 10, 64)
		return "published " + time.Unix(seconds, 0).In(zone).Format("2 Jan 2006 15:04")
	}
	return key
}

// experiment compares the groups of a notice that is out and has a goal; nil if it has none.
// What is compared counts from when it was published as it is.
func (a *Area) experiment(c *base.Call, n store.Notice) (*ExperimentResults, error) {
	if n.Published == nil || n.Published.Experiment == nil {
		return nil, nil
	}
	since, groups, err := counting.Groups(c.Request.Context(), a.Store, c.Site, n, store.ResultFilter{})
	if err != nil {
		return nil, err
	}
	x := n.Out().Experiment
	names := x.VariantNames()
	list := results.Compare(groups)
	r := &ExperimentResults{
		Goal:   orderline.GoalOf(x.Goal),
		Since:  since,
		Groups: []NamedResult{},
		Plans:  []results.SamplePlan{},
	}
	if x.Compares() {
		r.Verdict = results.Verdict(list, names)
	}
	met := 0
	for _, l := range list {
		name := names[l.Variant]
		switch l.Variant {
		case "":
			name = "saw it"
		case results.HeldOut:
			name = "held out"
		}
		r.Groups = append(r.Groups, NamedResult{l, name})
		met += l.Visitors
	}
	if days := a.Clock.Now().Sub(since).Hours() / 24; days > 0 {
		r.Daily = float64(met) / math.Max(days, 1)
	}
	if x.Compares() {
		r.Plans = results.Plans(list, r.Daily)
	}
	return r, nil
}

// table writes all sums as CSV.
func (a *Area) table(c *base.Call) (string, func(io.Writer) error, error) {
	var in ResultQuery
	if err := c.ShouldBindQuery(&in); err != nil {
		return "", nil, err
	}
	f, _, err := a.filter(c, in)
	if err != nil {
		return "", nil, err
	}
	rows, err := a.Store.Results(c.Request.Context(), c.Site, f)
	return c.Site + "-results.csv", func(w io.Writer) error { return results.WriteCSV(w, rows) }, err
}
