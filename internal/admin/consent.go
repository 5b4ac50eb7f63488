package admin

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/findings"
	"mastflag/core/orderline"
	"mastflag/internal/inspect"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

func (a *Admin) consent(c *call, _ Nothing) (ConsentRoom, error) {
	ctx := c.Request.Context()
	site := a.Hub.Site(c.site)
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
		MostPages:   inspect.MaxPages,
		TableDate:   consent.TableDate(),
	}
	for _, p := range slices.Concat([]consent.Purpose{{ID: consent.Necessary}}, setup.Purposes, []consent.Purpose{
		{ID: "preferences"}, {ID: "measurement"}, {ID: "marketing"},
	}) {
		if !slices.ContainsFunc(out.Purposes, func(have PurposeCard) bool { return have.ID == p.ID }) {
			w := p.In(s.Language, s.Language)
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
				n.ID, n.GetTitle(), flag(n.GetState(), site.Schedule(n.ID), now), orderline.Of(n, s, now),
			})
		}
	}
	if p, going, failed := a.Inspect.Progress(c.site); going {
		out.Progress = &p
	} else {
		out.Failed = failed
	}
	runs, err := a.Store.Runs(ctx, c.site, 20)
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
	if out.Findings, err = a.consentFindings(ctx, c.site); err != nil {
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
	if out.Head, err = a.Store.ConsentHead(ctx, c.site); err != nil {
		return out, err
	}
	if a.Vendor != nil && a.Vendor.Site == c.site {
		on := a.Vendor.On.Load()
		out.BadVendor = &on
	}
	return out, nil
}

// consentFindings are what is found about consent: in what is set up, and by the
// last inspection; the gravest first.
func (a *Admin) consentFindings(ctx context.Context, key string) ([]findings.Finding, error) {
	site := a.Hub.Site(key)
	if site == nil {
		return nil, store.ErrNotFound
	}
	out, err := a.leaks(ctx, site.Bundle().Site)
	if err != nil {
		return nil, err
	}
	asks := map[string]bool{}
	for _, n := range site.Bundle().Notices {
		asks[n.ID] = n.Kind == bundle.KindConsent
	}
	for _, f := range a.found.findingsOf(site, a.Clock.Now().Truncate(time.Minute)) {
		if len(f.Notices) == 0 && f.Document == "" || len(f.Notices) > 0 && asks[f.Notices[0]] {
			out = append(out, f)
		}
	}
	findings.Sort(out)
	return out, nil
}

// leaks are the findings of a site's last inspection.
func (a *Admin) leaks(ctx context.Context, site bundle.Site) ([]findings.Finding, error) {
	runs, err := a.Store.Runs(ctx, site.Key, 1)
	if err != nil || len(runs) == 0 {
		return []findings.Finding{}, err
	}
	return findings.InspectionFindings(site.Setup(), runs[0]), nil
}

func (a *Admin) startInspection(c *call, in InspectionAsk) (ConsentRoom, error) {
	switch err := a.Inspect.Start(c.Request.Context(), c.site, in.Accessibility); {
	case errors.Is(err, inspect.ErrRunning):
	case errors.Is(err, store.ErrNotFound):
		return ConsentRoom{}, err
	case err != nil:
		return ConsentRoom{}, refuse("The site cannot be inspected: " + err.Error() + ".")
	}
	return a.consent(c, Nothing{})
}

func (a *Admin) stopInspection(c *call, _ Nothing) (ConsentRoom, error) {
	a.Inspect.Stop(c.site)
	return a.consent(c, Nothing{})
}

func (a *Admin) badVendor(c *call, in VendorSwitch) (Nothing, error) {
	if a.Vendor == nil {
		return Nothing{}, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No stand-in",
			Detail: "The badly behaved vendor is there in the demo alone.",
		}
	}
	a.Vendor.On.Store(in.On)
	return Nothing{}, nil
}

func (a *Admin) readInventory(c *call, in InventoryText) (InventoryItems, error) {
	items, err := consent.ReadInventory(in.Text)
	if err != nil {
		return InventoryItems{}, err
	}
	site, err := a.Store.Site(c.Request.Context(), c.site)
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

func (a *Admin) writeInventory(c *call) (string, func(io.Writer) error, error) {
	site, err := a.Store.Site(c.Request.Context(), c.site)
	return c.site + "-inventory.csv", func(w io.Writer) error {
		return consent.WriteInventory(w, site.Setup().Inventory, site.AllLanguages())
	}, err
}

// maxShown is how many records are listed at once.
const maxShown = 50

func (a *Admin) records(c *call, in RecordAsk) (RecordList, error) {
	ctx := c.Request.Context()
	out := RecordList{Records: []RecordCard{}}
	var err error
	if out.Head, err = a.Store.ConsentHead(ctx, c.site); err != nil {
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
		links, err = a.Store.FindRecords(ctx, c.site, strings.ToLower(id), maxShown)
	} else {
		links, err = a.Store.ConsentLinksBefore(ctx, c.site, before, maxShown)
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

func (a *Admin) verifyRecords(c *call, _ Nothing) (ProofCard, error) {
	head, err := a.Store.ConsentHead(c.Request.Context(), c.site)
	if err != nil {
		return ProofCard{}, err
	}
	proof, err := consent.Verify(a.Store.ConsentLinks(c.Request.Context(), c.site), head)
	if err != nil {
		return ProofCard{Proof: proof, Why: err.Error()}, nil
	}
	return ProofCard{Proof: proof, Whole: true}, nil
}

func (a *Admin) shownTo(c *call, in ShownAsk) (ShownCard, error) {
	doc, err := a.Store.Shown(c.Request.Context(), c.site, in.Hash)
	if err != nil {
		return ShownCard{}, err
	}
	var out ShownCard
	return out, json.Unmarshal(doc, &out)
}

func (a *Admin) recordLines(c *call) (string, func(io.Writer) error, error) {
	return c.site + "-records.jsonl", func(w io.Writer) error {
		for l, err := range a.Store.ConsentLinks(c.Request.Context(), c.site) {
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

func (a *Admin) recordTable(c *call) (string, func(io.Writer) error, error) {
	site, err := a.Store.Site(c.Request.Context(), c.site)
	return c.site + "-records.csv", func(w io.Writer) error {
		return consent.WriteRecords(w, site.Setup().AskedPurposes(), a.Store.ConsentLinks(c.Request.Context(), c.site))
	}, err
}

func (a *Admin) trends(c *call, in TrendAsk) (Trends, error) {
	site := a.Hub.Site(c.site)
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
	counts, err := a.Store.ConsentCounts(c.Request.Context(), c.site, from, to)
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

// stream makes a Route that answers with a file as it is written, however long.
func stream(
	a *Admin,
	path, summary, kind string,
	f func(*call) (name string, write func(io.Writer) error, err error),
) Route {
	r := route(a, http.MethodGet, path, summary, func(*call, Nothing) (Nothing, error) { return Nothing{}, nil })
	r.Gives = kind
	r.handler = func(c *gin.Context) {
		name, write, err := f(newCall(c))
		if err != nil {
			fail(c, err)
			return
		}
		h := c.Writer.Header()
		h.Set("Content-Type", kind)
		h.Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
		h.Set("Cache-Control", "no-store")
		first := &bytes.Buffer{} // so that what fails at once is still a problem
		switch err := write(&prefixBuffer{first, c.Writer, 64 << 10}); {
		case err == nil:
			c.Writer.Write(first.Bytes())
		case c.Writer.Size() <= 0:
			h.Del("Content-Disposition")
			fail(c, err)
		default: // the file breaks off
			slog.Error("a file was not written to its end", "path", c.Request.URL.Path, "error", err)
		}
	}
	return r
}

// A spill holds the first bytes back, and lets all go once there are more.
type prefixBuffer struct {
	prefix *bytes.Buffer
	to     io.Writer
	most   int
}

func (s *prefixBuffer) Write(b []byte) (int, error) {
	if s.prefix.Len()+len(b) <= s.most {
		return s.prefix.Write(b)
	}
	if s.prefix.Len() > 0 {
		if _, err := s.prefix.WriteTo(s.to); err != nil {
			return 0, err
		}
	}
	s.most = 0
	return s.to.Write(b)
}
