// Package consents is what a site sets, asks and was answered.
package consents

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/findings"
	"mastflag/core/orderline"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/inspect"
	"mastflag/internal/problem"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// Area is that part of the API.
type Area struct {
	*base.Base
	Inspect *inspect.Keeper
	Vendor  *standin.Vendor // nil in production
}

// Routes are its calls.
func (a *Area) Routes() []base.Route {
	return []base.Route{
		base.Get("/api/sites/:site/consent", "What the site sets, asks and was answered, and what places want.", a.consent),
		base.Post("/api/sites/:site/consent/inspect", "Begin to inspect the site.", a.startInspection),
		base.Get("/api/sites/:site/consent/run", "An earlier inspection, with all it found.", a.earlierRun),
		base.Post("/api/sites/:site/consent/stop", "Stop the inspection; what it found is kept.", a.stopInspection),
		base.Post("/api/sites/:site/consent/inventory", "Read an inventory as CSV; nothing is kept yet.", a.readInventory),
		base.File(
			"/api/sites/:site/consent/inventory.csv",
			"The inventory as CSV.",
			"text/csv; charset=utf-8",
			a.writeInventory,
		),
		base.Get("/api/sites/:site/consent/trends", "What became of the questions.", a.trends),
		base.Get(
			"/api/sites/:site/consent/records",
			"The records of answers, the latest first, or those of an id.",
			a.records,
		),
		base.Get("/api/sites/:site/consent/shown", "What was shown to whoever answered.", a.shownTo),
		base.Post("/api/sites/:site/consent/verify", "Prove that the chain of records is whole.", a.verifyRecords),
		base.File("/api/sites/:site/consent/records.csv", "All records as CSV.", "text/csv; charset=utf-8", a.recordTable),
		base.File(
			"/api/sites/:site/consent/records.jsonl",
			"The chain of records as JSON Lines.",
			"application/jsonl",
			a.recordLines,
		),
		base.Get("/api/sites/:site/acknowledgements", "What became of the site's disclaimers.", a.acknowledgements),
		base.Post("/api/standin/vendor", "Switch the demo site's badly behaved vendor.", a.badVendor),
	}
}

// earlierRun is an inspection by when it began.
func (a *Area) earlierRun(c *base.Call, in RunAsk) (RunDetail, error) {
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	if err != nil {
		return RunDetail{}, err
	}
	runs, err := a.Store.Runs(c.Request.Context(), c.Site, keptRuns)
	if err != nil {
		return RunDetail{}, err
	}
	setup := site.Setup()
	began, err := time.Parse(time.RFC3339, in.Began)
	if err != nil {
		return RunDetail{}, store.ErrNotFound
	}
	for k, r := range runs {
		if !r.Began.Equal(began) {
			continue
		}
		out := RunDetail{Run: r, Things: setup.Detected(r), Before: []consent.Difference{}, After: []consent.Difference{}}
		out.Run.Found = []consent.Sighting{} // it is in the things
		if k+1 < len(runs) {
			out.Before = setup.Compare(runs[k+1], r)
		}
		if k > 0 {
			out.After = setup.Compare(r, runs[k-1])
		}
		return out, nil
	}
	return RunDetail{}, store.ErrNotFound
}

// keptRuns is how many inspections are listed.
const keptRuns = 20

// knownElsewhere are the rows that other sites offer for things that this one does not list;
// of sites that the person may look at.
func (a *Area) knownElsewhere(c *base.Call, setup consent.Setup, things []consent.DetectedItem) (
	[]KnownItem, error,
) {
	out := []KnownItem{}
	all, err := a.Store.Sites(c.Request.Context())
	if err != nil {
		return out, err
	}
	for _, t := range things {
		for _, other := range all {
			if other.Key == c.Site || !c.Person.On(other.Key) {
				continue
			}
			if row, ok := setup.Offered(t, other.Setup()); ok {
				out = append(out, KnownItem{t.Kind, t.Name, t.Host, row, other.Name})
				break
			}
		}
	}
	return out, nil
}

func (a *Area) consent(c *base.Call, _ base.Nothing) (ConsentRoom, error) {
	ctx := c.Request.Context()
	site := a.Hub.Site(c.Site)
	if site == nil {
		return ConsentRoom{}, store.ErrNotFound
	}
	s := site.Bundle().Site
	setup, now := s.Setup(), a.Clock.Now()
	out := ConsentRoom{
		Browser:     a.Inspect.Inspector.Chromium != "",
		Runs:        []RunCard{},
		Things:      []consent.DetectedItem{},
		Unseen:      []int{},
		Differences: []consent.Difference{},
		Notices:     []ConsentNotice{},
		Findings:    []findings.Finding{},
		Rows:        []PlaceRow{},
		Changes:     consent.Changes(consent.Table, setup.TableRead),
		MostPages:   setup.GetInspectPages(),
		TableDate:   consent.TableDate(),
	}
	for _, p := range slices.Concat([]consent.Purpose{{ID: consent.Necessary}}, setup.Purposes, []consent.Purpose{
		{ID: "preferences"}, {ID: "measurement"}, {ID: "marketing"},
	}) {
		if !slices.ContainsFunc(out.Purposes, func(have PurposeCard) bool { return have.ID == p.ID }) {
			w := p.In(s.Language, s.Language, nil)
			out.Purposes = append(out.Purposes, PurposeCard{
				ID:        p.ID,
				Name:      w.Name,
				Text:      w.Text,
				Known:     consent.Known(p.ID),
				Asked:     slices.Contains(setup.AskedPurposes(), p.ID),
				Signalled: p.Signalled(),
			})
		}
	}
	for _, n := range site.Bundle().Notices {
		if n.Kind == bundle.KindConsent {
			out.Notices = append(out.Notices, ConsentNotice{
				n.ID, n.GetTitle(), viewpoint.FlagAt(n.GetState(), site.Schedule(n.ID), now), orderline.Of(n, s, now),
			})
		}
	}
	if p, going, failed := a.Inspect.Progress(c.Site); going {
		out.Progress = &p
	} else {
		out.Failed = failed
	}
	runs, err := a.Store.Runs(ctx, c.Site, keptRuns)
	if err != nil {
		return out, err
	}
	for k, r := range runs {
		things := setup.Detected(r)
		card := RunCard{Began: r.Began, How: r.How, Pages: len(r.Pages), Stopped: r.Stopped, Things: len(things)}
		for _, t := range things {
			if t.Leaks {
				card.Leaks++
			}
		}
		out.Runs = append(out.Runs, card)
		if k == 0 {
			r.Found = []consent.Sighting{} // it is in the things
			out.Run, out.Things, out.Unseen = &r, things, setup.Unseen(runs[0])
			if len(runs) > 1 {
				out.Differences = setup.Compare(runs[1], runs[0])
			}
		}
	}
	if out.Elsewhere, err = a.knownElsewhere(c, setup, out.Things); err != nil {
		return out, err
	}
	if out.Findings, err = a.consentFindings(ctx, c.Site); err != nil {
		return out, err
	}
	force := setup.InForce(consent.Table)
	shipped := setup
	shipped.Places = nil
	ships := shipped.InForce(consent.Table)
	for _, place := range slices.Sorted(maps.Keys(force)) {
		row := PlaceRow{
			PlaceRule: force[place],
			Own:       slices.ContainsFunc(setup.Places, func(p consent.PlaceRule) bool { return p.Place == place }),
		}
		if p, ok := ships[place]; ok && row.Own {
			row.Shipped = &p
		}
		out.Rows = append(out.Rows, row)
	}
	if out.Head, err = a.Store.ConsentHead(ctx, c.Site); err != nil {
		return out, err
	}
	if a.Vendor != nil && a.Vendor.Site == c.Site {
		on := a.Vendor.On.Load()
		out.BadVendor = &on
	}
	return out, nil
}

// consentFindings are what is found about consent: in what is set up, and by the
// last inspection; the gravest first.
func (a *Area) consentFindings(ctx context.Context, key string) ([]findings.Finding, error) {
	site := a.Hub.Site(key)
	if site == nil {
		return nil, store.ErrNotFound
	}
	out, err := Leaks(ctx, a.Store, site.Bundle().Site)
	if err != nil {
		return nil, err
	}
	asks := map[string]bool{}
	for _, n := range site.Bundle().Notices {
		asks[n.ID] = n.Kind == bundle.KindConsent
	}
	found, err := a.Found.Of(ctx, site, a.Clock.Now().Truncate(time.Minute))
	if err != nil {
		return nil, err
	}
	for _, f := range found {
		if len(f.Notices) == 0 && strings.HasPrefix(f.Pointers[0], "/site/consent") ||
			len(f.Notices) > 0 && asks[f.Notices[0]] {
			out = append(out, f)
		}
	}
	findings.Sort(out)
	return out, nil
}

// Leaks are the findings of a site's last inspection.
func Leaks(ctx context.Context, st *store.Store, site bundle.Site) ([]findings.Finding, error) {
	runs, err := st.Runs(ctx, site.Key, 1)
	if err != nil || len(runs) == 0 {
		return []findings.Finding{}, err
	}
	return findings.InspectionFindings(site.Setup(), runs[0]), nil
}

func (a *Area) startInspection(c *base.Call, in InspectionAsk) (ConsentRoom, error) {
	switch err := a.Inspect.Start(c.Request.Context(), c.Site, in.Accessibility); {
	case errors.Is(err, inspect.ErrRunning):
	case errors.Is(err, store.ErrNotFound):
		return ConsentRoom{}, err
	case err != nil:
		return ConsentRoom{}, base.Refuse("The site cannot be inspected: " + err.Error() + ".")
	}
	return a.consent(c, base.Nothing{})
}

func (a *Area) stopInspection(c *base.Call, _ base.Nothing) (ConsentRoom, error) {
	a.Inspect.Stop(c.Site)
	return a.consent(c, base.Nothing{})
}

func (a *Area) badVendor(c *base.Call, in VendorSwitch) (base.Nothing, error) {
	if a.Vendor == nil {
		return base.Nothing{}, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No stand-in",
			Detail: "The badly behaved vendor is there in the demo alone.",
		}
	}
	a.Vendor.On.Store(in.On)
	return base.Nothing{}, nil
}

func (a *Area) readInventory(c *base.Call, in InventoryText) (InventoryItems, error) {
	items, err := consent.ReadInventory(in.Text)
	if err != nil {
		return InventoryItems{}, err
	}
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	if err != nil {
		return InventoryItems{}, err
	}
	setup := site.Setup()
	setup.Inventory = items
	if faults := setup.Check(); faults != nil {
		return InventoryItems{}, faults
	}
	return InventoryItems{Items: append([]consent.Item{}, items...)}, nil
}

func (a *Area) writeInventory(c *base.Call) (string, func(io.Writer) error, error) {
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	return c.Site + "-inventory.csv", func(w io.Writer) error {
		return consent.WriteInventory(w, site.Setup().Inventory, site.AllLanguages())
	}, err
}

// maxShown is how many records are listed at once.
const maxShown = 50

func (a *Area) records(c *base.Call, in RecordAsk) (RecordList, error) {
	ctx := c.Request.Context()
	out := RecordList{Records: []RecordCard{}}
	var err error
	if out.Head, err = a.Store.ConsentHead(ctx, c.Site); err != nil {
		return out, err
	}
	before := out.Head.Seq + 1
	if in.Before != "" {
		if _, err := fmt.Sscan(in.Before, &before); err != nil {
			return out, problem.Problem{
				Status: http.StatusBadRequest,
				Title:  "Not understood",
				Detail: "“before” is not a number of a record.",
			}
		}
	}
	var links []consent.Link
	if id := strings.TrimSpace(in.ID); id != "" {
		links, err = a.Store.FindRecords(ctx, c.Site, strings.ToLower(id), maxShown)
	} else {
		links, err = a.Store.ConsentLinksBefore(ctx, c.Site, before, maxShown)
	}
	if err != nil {
		return out, err
	}
	for _, l := range links {
		r, e, err := l.Read()
		if err != nil {
			return out, err
		}
		out.Records = append(out.Records, RecordCard{
			Seq:     l.Seq,
			Hash:    l.Hash.String(),
			Erased:  l.Body == nil,
			Record:  r,
			Erasure: e,
		})
	}
	return out, nil
}

func (a *Area) verifyRecords(c *base.Call, _ base.Nothing) (ProofCard, error) {
	head, err := a.Store.ConsentHead(c.Request.Context(), c.Site)
	if err != nil {
		return ProofCard{}, err
	}
	proof, err := consent.Verify(a.Store.ConsentLinks(c.Request.Context(), c.Site), head)
	if err != nil {
		return ProofCard{Proof: proof, Why: err.Error()}, nil
	}
	return ProofCard{Proof: proof, Whole: true}, nil
}

func (a *Area) shownTo(c *base.Call, in ShownAsk) (ShownCard, error) {
	doc, err := a.Store.Shown(c.Request.Context(), c.Site, in.Hash)
	if err != nil {
		return ShownCard{}, err
	}
	var out ShownCard
	return out, json.Unmarshal(doc, &out)
}

func (a *Area) recordLines(c *base.Call) (string, func(io.Writer) error, error) {
	return c.Site + "-records.jsonl", func(w io.Writer) error {
		for l, err := range a.Store.ConsentLinks(c.Request.Context(), c.Site) {
			if err != nil {
				return err
			}
			if _, err := w.Write(l.Line()); err != nil {
				return err
			}
		}
		return nil
	}, nil
}

func (a *Area) recordTable(c *base.Call) (string, func(io.Writer) error, error) {
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	return c.Site + "-records.csv", func(w io.Writer) error {
		return consent.WriteRecords(w, site.Setup().AskedPurposes(), a.Store.ConsentLinks(c.Request.Context(), c.Site))
	}, err
}

func (a *Area) trends(c *base.Call, in TrendAsk) (Trends, error) {
	site := a.Hub.Site(c.Site)
	if site == nil {
		return Trends{}, store.ErrNotFound
	}
	today := a.Clock.Now().In(site.Zone())
	from, to := cmp.Or(in.From, today.AddDate(0, 0, -29).Format(time.DateOnly)), cmp.Or(in.To, today.Format(time.DateOnly))
	for _, day := range []string{from, to} {
		if _, err := time.Parse(time.DateOnly, day); err != nil {
			return Trends{}, problem.Problem{
				Status: http.StatusBadRequest,
				Title:  "Not a day",
				Detail: fmt.Sprintf("%q is not a day: write it like 2026-12-04.", day),
			}
		}
	}
	counts, err := a.Store.ConsentCounts(c.Request.Context(), c.Site, from, to)
	if err != nil {
		return Trends{}, err
	}
	all, rows, ok := consent.TrendsBy(cmp.Or(in.By, "day"), counts)
	if !ok {
		return Trends{}, problem.Problem{
			Status: http.StatusBadRequest,
			Title:  "Not understood",
			Detail: "Trends go by day, place, language, device or version.",
		}
	}
	return Trends{From: from, To: to, All: all, Rows: rows}, nil
}
