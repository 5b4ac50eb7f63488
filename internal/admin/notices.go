package admin

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"html"
	"log/slog"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/countdown"
	"mastflag/core/decide"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/findings"
	"mastflag/core/markup"
	"mastflag/core/orderline"
	"mastflag/core/pages"
	"mastflag/core/render"
	"mastflag/core/schedule"
	"mastflag/core/starting"
	"mastflag/core/wording"
	"mastflag/internal/compiled"
	"mastflag/internal/delivery"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// What a preview address lasts: on the stage, and sent to a colleague.
const (
	stageLasts   = 8 * time.Hour
	previewLasts = 24 * time.Hour
)

// checkShape returns what in a value breaks the bundle's schema.
func checkShape(shape string, v any) fault.Faults {
	raw, err := json.Marshal(v)
	if err != nil {
		return fault.Faults{{What: err.Error()}}
	}
	var faults fault.Faults
	errors.As(bundle.Decode(raw, shape, &map[string]any{}), &faults)
	return faults
}

func (a *Admin) newNotice(c *call, in NewNotice) (NoticeDetail, error) {
	ctx := c.Request.Context()
	site, err := a.Store.Site(ctx, c.site)
	if err != nil {
		return NoticeDetail{}, err
	}
	// The first version looks right already: on every page, closable, in the
	// site's first colour.
	doc := bundle.Notice{Kind: bundle.KindBar, Title: "New bar",
		Pages:  &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
		Memory: &bundle.Memory{HideAfterClose: "P1D"}}
	if len(site.Palette) > 0 {
		doc.Look = &bundle.Look{Background: site.Palette[0].Value}
	}
	switch in.Kind {
	case bundle.KindAlert:
		doc.Kind, doc.Title, doc.Level, doc.Look = bundle.KindAlert, "New alert", bundle.Warning, nil
	case bundle.KindCountdown:
		zone, err := schedule.Zone(site.TimeZone)
		if err != nil {
			return NoticeDetail{}, err
		}
		const day, noonOf = 86_400, 43_200
		noon := schedule.LocalAt(a.Clock.Now(), zone)/day*day + day + noonOf
		doc.Kind, doc.Title = bundle.KindCountdown, "New countdown"
		doc.Content = &bundle.Content{Countdown: &countdown.Countdown{Kind: countdown.To, At: noon.String()}}
	case bundle.KindConsent:
		// Words in the site's languages that stand as they are. They lead to the
		// privacy notice where one is out; elsewhere it is for people to say.
		i := slices.IndexFunc(
			site.Documents, func(d document.Document) bool { return d.Kind == document.Privacy && d.Version > 0 },
		)
		doc.Kind, doc.Title, doc.Slot, doc.Look = bundle.KindConsent, "New consent notice", bundle.Bottom, nil
		doc.Memory = &bundle.Memory{Closable: new(bool)}
		doc.Content = &bundle.Content{Consent: &consent.Question{}, Wordings: map[string]bundle.Wording{}}
		for _, tag := range site.AllLanguages() {
			if w := consent.InLanguage(tag); w.Speaks(tag) {
				wording := bundle.Wording{Message: "<p>" + w.May + "</p>"}
				if i >= 0 {
					wording.Link = linkTo(site.Documents[i], tag, site.Language)
				}
				doc.Content.Wordings[tag] = wording
			}
		}
	case bundle.KindDisclaimer:
		// It leads who does not acknowledge it to the home page, which it leaves out.
		doc.Kind, doc.Title, doc.Slot, doc.Look, doc.Memory = bundle.KindDisclaimer, "New disclaimer", bundle.Centre, nil, nil
		doc.Pages.Exclude = []pages.Entry{{Match: pages.Home}}
		doc.Content = &bundle.Content{Disclaimer: &bundle.Disclaimer{Ask: bundle.AskAcknowledge, OnDecline: site.Homes()[0]}}
	case bundle.KindBlock:
		doc.Kind, doc.Title, doc.Slot = bundle.KindBlock, "New block", bundle.Inline
		doc.Memory = &bundle.Memory{Closable: new(bool)}
	case bundle.KindCode:
		doc.Kind, doc.Title, doc.Look, doc.Memory = bundle.KindCode, "New code", nil, nil
		doc.Content = &bundle.Content{Code: &bundle.PageCode{}}
	case bundle.KindPopUp:
		doc.Kind, doc.Title = bundle.KindPopUp, "New pop-up"
	case bundle.KindTabTitle:
		doc.Kind, doc.Title, doc.Look = bundle.KindTabTitle, "New tab title", nil
	}
	if err := about(&doc, site.Site, in.Document); err != nil {
		return NoticeDetail{}, err
	}
	deed := history.Began.With()
	switch {
	case in.CopyOf != "":
		row, err := a.Store.Notice(ctx, c.site, in.CopyOf)
		if err != nil {
			return NoticeDetail{}, err
		}
		doc = row.Working()
		doc.Title = "Copy of " + doc.GetTitle()
		if doc.CopyOf = nil; doc.Kind == bundle.KindBlock {
			doc.CopyOf = &bundle.Copy{ID: row.ID, Mark: row.Out().TextMark()}
		}
		deed = history.BeganCopy.With(row.Working().GetTitle())
	case in.Starting != "":
		all := starting.Of(site.Site, a.Clock.Now())
		i := slices.IndexFunc(all, func(p starting.Point) bool { return p.Key == in.Starting })
		if i < 0 {
			return NoticeDetail{}, problem.Problem{
				Status: http.StatusNotFound,
				Title:  "Not found",
				Detail: fmt.Sprintf("There is no starting point %q; it may have been deleted.", in.Starting),
			}
		}
		doc = all[i].Notice
		doc.Title = cmp.Or(doc.Title, all[i].Name)
		deed = history.BeganFrom.With(all[i].Name)
	}
	if err := c.mayCode(doc); err != nil {
		return NoticeDetail{}, err
	}
	doc.Title = cmp.Or(strings.TrimSpace(in.Title), doc.Title)
	if len([]rune(doc.Title)) > 200 {
		return NoticeDetail{}, fault.Faults{{
			Pointer: "/title",
			What:    "the title is too long",
			Remedy:  "give at most 200 characters",
		}}
	}
	base := slug(doc.Title, "notice")
	for n := 1; ; n++ {
		doc.ID = base
		if n > 1 || audience.Reserved(base) {
			doc.ID = fmt.Sprintf("%s-%d", base, n)
		}
		err = a.Store.AddNotice(ctx, c.site, doc, a.entry(c, site.Site, doc, deed))
		if !errors.Is(err, store.ErrExists) || n > 500 {
			break
		}
	}
	if err != nil {
		return NoticeDetail{}, err
	}
	a.Hub.Changed(ctx, c.site)
	c.notice = doc.ID
	return done(a.noticeDetail(c, c.moment()))
}

// about has a new block show a document or list them all, and a new disclaimer be
// about one, with words in each language of the site.
func about(n *bundle.Notice, site bundle.Site, id string) error {
	if id == "" {
		return nil
	}
	if n.Content == nil {
		n.Content = &bundle.Content{}
	}
	n.Content.Wordings = map[string]bundle.Wording{}
	if id == bundle.AllDocuments {
		n.Title, n.Content.Documents = "Documents in the footer", []string{bundle.AllDocuments}
		n.Spot = &bundle.Spot{Selector: "footer", Where: bundle.First}
		for _, tag := range site.AllLanguages() {
			n.Content.Wordings[tag] = bundle.Wording{
				Message: "<p><strong>" + document.PageWord(tag, "all", nil) + "</strong></p>",
			}
		}
		return nil
	}
	d, ok := document.Get(site.Documents, id)
	if !ok {
		return problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such document",
			Detail: fmt.Sprintf("There is no document %q; it may have been deleted.", id),
		}
	}
	n.Title = d.Title(site.Language, site.Language)
	if n.Kind == bundle.KindBlock {
		n.Content.Document = id
	} else if n.Content.Disclaimer != nil {
		n.Content.Disclaimer.Document = id
	}
	for _, tag := range site.AllLanguages() {
		n.Content.Wordings[tag] = bundle.Wording{
			Message: "<p><strong>" + html.EscapeString(d.Title(tag, site.Language)) + "</strong></p>",
		}
	}
	return nil
}

// linkTo is a link to a document, by its name.
func linkTo(d document.Document, tag, site string) *bundle.Link {
	return &bundle.Link{Href: document.Scheme + d.ID, Label: d.Title(tag, site), Opens: "new", As: "link"}
}

// entry is a line of history about a notice as it now is.
func (a *Admin) entry(c *call, site bundle.Site, n bundle.Notice, deed history.Deed) store.Entry {
	now := a.Clock.Now()
	return store.Entry{At: now, By: c.by(), Deed: deed, Line: orderline.Of(n, site, now).String()}
}

func (a *Admin) noticeDetail(c *call, m Moment) (NoticeDetail, error) {
	v, err := a.viewpoint(c, m)
	if err != nil {
		return NoticeDetail{}, err
	}
	ctx := c.Request.Context()
	row, err := a.Store.Notice(ctx, c.site, c.notice)
	if err != nil {
		return NoticeDetail{}, err
	}
	if row.Deleted {
		return NoticeDetail{}, store.ErrNotFound
	}
	staged, err := a.stagedBundle(ctx, c.site, c.notice, func(n *bundle.Notice) { n.PublishedAt = nil })
	if err != nil {
		return NoticeDetail{}, err
	}
	site, left, err := compiled.Compile(staged, "")
	if err != nil {
		return NoticeDetail{}, err
	}
	n := row.Working()
	status := store.Status{Revision: row.Revision, HasDraft: row.Draft != nil && row.Published != nil}
	d := NoticeDetail{
		Card:      v.card(row.Out(), status, account(v.site.ExplainOf(v.visit, []string{row.ID}), row.ID)),
		Notice:    n,
		Line:      orderline.Of(n, staged.Site, v.visit.At),
		Rehearsal: account(site.ExplainOf(v.visit, []string{row.ID}), row.ID),
		Intervals: v.intervals(site.Schedule(row.ID)),
		Preview: delivery.Token{
			Site:     c.site,
			Notice:   row.ID,
			Language: v.language,
			Ends:     v.now.Add(stageLasts),
		}.Sign(a.Secret),
		Contrast:  contrastOf(render.Colours(n)),
		Languages: languageStates(n, staged.Site),
		Findings:  []findings.Finding{},
		ChangedAt: row.ChangedAt,
		ChangedBy: row.ChangedBy.Name,
		OnPages:   []string{},
		OutOn:     []string{},
		NewPages:  []string{},
		Unplaced:  []string{},
	}
	d.Hours = schedule.Total(site.Schedule(row.ID).Range(v.from, v.until)).Hours()
	held, err := v.heldBack(ctx, site)
	if err != nil {
		return NoticeDetail{}, err
	}
	d.Held = append([]Interval{}, held[row.ID]...)
	if i := slices.IndexFunc(v.site.Uncompiled, func(l compiled.Uncompiled) bool { return l.Notice == row.ID }); i >= 0 {
		d.Card.Flag, d.Card.LeftOut = FlagPaused, leftOut(v.site.Uncompiled[i].Why)
	}
	if i := slices.IndexFunc(left, func(l compiled.Uncompiled) bool { return l.Notice == row.ID }); i >= 0 {
		why := left[i].Why
		d.Findings = append(d.Findings, findings.Finding{
			Code:     findings.LeftOut,
			Severity: findings.Error,
			Notices:  []string{row.ID},
			Pointers: []string{why.Pointer},
			What:     leftOut(why) + ".",
			Fix:      fault.Sentence(why.Remedy),
		})
		d.Times = []Times{}
		return d, nil // what follows from what it says cannot be said
	}
	d.Findings = append(d.Findings, findings.CheckNotice(site, v.visit.At, row.ID)...)
	d.OnPages = onPages(&compiled.Site{Site: site}, n)
	if row.Published != nil {
		d.OutOn = onPages(v.site, row.Out())
	}
	for _, p := range staged.Pages {
		if row.Published != nil && p.Since.After(row.PublishedAt) && slices.Contains(d.OutOn, p.Path) {
			d.NewPages = append(d.NewPages, p.Path)
		}
	}
	d.Original = original(n, staged)
	d.Unplaced = append([]string{}, site.PagesWithoutSpot(row.ID)...)
	d.Times = times(n.GetSchedule(), site.Schedule(row.ID), v)
	d.Count = reading(site.Countdown(row.ID), n, v)
	return d, nil
}

// onPages returns the known pages that a notice's conditions take; none where they
// cannot be read, which is said elsewhere.
func onPages(site *compiled.Site, n bundle.Notice) []string {
	out := []string{}
	names, faults := site.Bundle().Site.Names()
	if faults != nil {
		return out
	}
	set, faults := pages.Compile(n.GetPages(), names)
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

// original returns what a notice is a copy of, nil if it is none, or that is gone.
func original(n bundle.Notice, in bundle.Bundle) *Original {
	o, changed, ok := n.Original(in.Notices)
	if !ok {
		return nil
	}
	out := &Original{
		ID:       o.ID,
		Title:    o.GetTitle(),
		Mark:     o.TextMark(),
		Changed:  changed,
		Wordings: o.Wordings(),
		Rows:     o.Rows(),
		Differs:  []Differing{},
	}
	tags := slices.Collect(maps.Keys(n.Wordings()))
	for tag := range o.Wordings() {
		if _, both := n.Wordings()[tag]; !both {
			tags = append(tags, tag)
		}
	}
	slices.Sort(tags)
	for _, tag := range tags {
		here, there := n.Wordings()[tag], o.Wordings()[tag]
		if here.Mark() != there.Mark() {
			out.Differs = append(out.Differs, Differing{tag, textOf(here), textOf(there)})
		}
	}
	return out
}

// textOf is all that a wording says, as plain text.
func textOf(w bundle.Wording) string {
	parts := []string{markup.Text(w.Message), markup.Text(w.Details), markup.Text(w.ExpiredMessage), w.Alt}
	if w.Link != nil {
		parts = append(parts, w.Link.Label)
	}
	for _, id := range w.PartIDs() {
		p := w.Parts[id]
		parts = append(parts, p.Heading, markup.Text(p.Text), p.Alt, p.Thanks)
		parts = append(parts, p.Answers...)
		for _, l := range p.Links {
			parts = append(parts, l.Label)
		}
	}
	parts = slices.DeleteFunc(parts, func(s string) bool { return strings.TrimSpace(s) == "" })
	return strings.Join(parts, " · ")
}

// reading reads a countdown at the viewpoint, nil if there is none.
func reading(k *countdown.Count, n bundle.Notice, v viewpoint) *CountReading {
	if k == nil {
		return nil
	}
	read := k.Read(v.visit.At, v.zone, time.Time{})
	tag := cmp.Or(v.language, v.site.Bundle().Site.Language)
	out := CountReading{Ends: moment(read.Ends)}
	if k.Kind == countdown.Number {
		out.Says = strconv.FormatInt(read.Figures[0], 10)
	} else {
		out.Says = k.WordsIn(tag, n.Wordings()[tag].Labels).Sentence(read.Figures)
	}
	return &out
}

// times reads a schedule's windows back, from the viewpoint's moment on.
func times(plan schedule.Plan, s schedule.Schedule, v viewpoint) []Times {
	out := []Times{}
	loc := v.site.Zone()
	if s.Floating() {
		loc = v.zone
	} else if z, err := schedule.Zone(plan.Clock); err == nil {
		loc = z
	}
	for i, w := range plan.Windows {
		t := Times{Words: orderline.Window(w, v.visit.At.In(loc)), Next: []Occurrence{}}
		for _, in := range s.Occurrences(i, v.visit.At, 5, loc) {
			o := Occurrence{Clock: clockWords(in, loc)}
			if !in.From.IsZero() {
				o.From = schedule.LocalAt(in.From, loc).String()
			}
			if !in.Until.IsZero() {
				o.Until = schedule.LocalAt(in.Until, loc).String()
			}
			t.Next = append(t.Next, o)
		}
		out = append(out, t)
	}
	return out
}

// clockWords says what a change of the clock does to an occurrence.
func clockWords(in schedule.Interval, loc *time.Location) string {
	if in.From.IsZero() || in.Until.IsZero() || in.Until.Sub(in.From) > 40*24*time.Hour {
		return ""
	}
	forward := 0
	for _, c := range clockChanges(loc, in.From.Add(-time.Second), in.Until) {
		forward += c.Minutes
	}
	switch {
	case forward > 0:
		return fmt.Sprintf("The clock goes forward within it: it lasts %d minutes less.", forward)
	case forward < 0:
		return fmt.Sprintf("The clock goes back within it: it lasts %d minutes more.", -forward)
	}
	return ""
}

// facts lists what audiences can ask about.
func (a *Admin) facts(*call, Nothing) (FactList, error) {
	out := FactList{Examples: []VisitorExample{
		{"a new visitor", map[string]any{"visits.number": 1, "visits.pages": 1}},
		{"someone who comes back", map[string]any{"visits.number": 4, "visits.daysSinceLast": 6, "visits.pagesTotal": 17}},
		{
			"someone from a search, on a phone",
			map[string]any{"referrer.class": "search", "device.kind": "phone", "device.width": 390},
		},
		{
			"someone in Germany",
			map[string]any{
				"place.country":    "DE",
				"place.group":      []string{"eu", "eea"},
				"locale.languages": []string{"de-DE", "de", "en"},
			},
		},
		{"someone who has read half the page", map[string]any{"view.scroll": 50, "view.seconds": 40}},
		{"someone about to leave", map[string]any{"view.leaving": 1, "view.seconds": 40, "view.scroll": 20}},
		{"someone signed in", map[string]any{"person.signedIn": true}},
	}}
	for _, f := range audience.Facts {
		out.Facts = append(out.Facts, FactChoice{f, f.Tests()})
	}
	return out, nil
}

func account(r decide.Result, id string) decide.Account {
	for _, a := range r.Explain {
		if a.ID == id {
			return a
		}
	}
	return decide.Account{ID: id, Steps: []decide.Step{}}
}

func (a *Admin) changeNotice(c *call, in NoticeChange) (NoticeDetail, error) {
	ctx := c.Request.Context()
	site, err := a.Store.Site(ctx, c.site)
	if err != nil {
		return NoticeDetail{}, err
	}
	n := in.Notice
	n.ID, n.State, n.PublishedAt = c.notice, "", nil
	removed := sanitise(&n)
	if faults := checkShape("Notice", n); faults != nil {
		return NoticeDetail{}, faults
	}
	if faults := n.Check(site.Site); faults != nil {
		return NoticeDetail{}, faults
	}
	if err := a.haveImages(ctx, c.site, n); err != nil {
		return NoticeDetail{}, err
	}
	_, err = a.Store.Change(ctx, c.site, c.notice, in.Revision, func(row *store.Notice, _ int) (store.Entry, error) {
		if err := c.mayCode(append(both(row), n)...); err != nil {
			return store.Entry{}, err
		}
		// Only the first change since it was last out is a line of history.
		var deed history.Deed
		if row.Draft == nil {
			deed = history.BeganDraft.With()
		}
		if n.Content != nil {
			n.Content.Wordings = wording.Marked(row.Working().Wordings(), n.Content.Wordings, site.Language)
		}
		if row.Published != nil && same(n, *row.Published) {
			row.Draft = nil
		} else {
			row.Draft = &n
		}
		return a.entry(c, site.Site, n, deed), nil
	})
	var stale store.Stale
	if errors.As(err, &stale) {
		// Told again what was kept, because the reply was lost: it is kept once.
		if row, err := a.Store.Notice(ctx, c.site, c.notice); err == nil && !row.Deleted &&
			row.ChangedBy.Person == c.person.Email &&
			sayTheSame(row, n, site.Language) {
			return done(a.noticeDetail(c, c.moment()))
		}
		// The refused text is kept: it can be gone back to.
		h := a.entry(c, site.Site, n, history.Overtaken.With())
		h.Doc = &n
		if err := a.Store.AddHistory(ctx, c.site, c.notice, h); err != nil {
			return NoticeDetail{}, err
		}
	}
	if err != nil {
		return NoticeDetail{}, err
	}
	a.Hub.Changed(ctx, c.site)
	d, err := done(a.noticeDetail(c, c.moment()))
	d.Removed = removed
	return d, err
}

// sayTheSame reports whether a notice is what is being worked on already, but for
// the marks of translations, which the server sets.
func sayTheSame(row store.Notice, n bundle.Notice, language string) bool {
	have := row.Working()
	if n.Content != nil {
		content := *n.Content
		content.Wordings = wording.Marked(have.Wordings(), content.Wordings, language)
		n.Content = &content
	}
	have.ID, n.ID = "", ""
	return same(have, n)
}

// sanitise cleans a notice's texts and returns what had to be taken out.
func sanitise(n *bundle.Notice) []string {
	if n.Content == nil {
		return nil
	}
	var removed []string
	clean := make(map[string]bundle.Wording, len(n.Content.Wordings))
	for tag, w := range n.Content.Wordings {
		clean[tag] = w.MapHTML(func(_, html string) string {
			removed = append(removed, markup.Check(html)...)
			return markup.Sanitise(html)
		})
	}
	content := *n.Content
	content.Wordings = clean
	n.Content = &content
	slices.Sort(removed)
	return slices.Compact(removed)
}

// haveImages refuses a notice whose picture is not among the site's images.
func (a *Admin) haveImages(ctx context.Context, site string, n bundle.Notice) error {
	pictures := n.Pictures()
	if len(pictures) == 0 {
		return nil
	}
	have, err := a.Store.Images(ctx, site)
	if err != nil {
		return err
	}
	for at, p := range pictures {
		for pointer, i := range map[string]*bundle.Image{at: &p.Image, at + "/phone": p.Phone} {
			if i == nil || slices.ContainsFunc(have, func(h store.Image) bool { return h.Image == *i }) {
				continue
			}
			return fault.Faults{{
				Pointer: pointer,
				What:    fmt.Sprintf("the site has no image %s of %d by %d px", i.File, i.Width, i.Height),
				Remedy:  "choose one of the site’s images, or add it",
			}}
		}
	}
	return nil
}

// same reports whether two notices say the same.
func same(a, b bundle.Notice) bool {
	a.State, a.PublishedAt, b.State, b.PublishedAt = "", nil, "", nil
	x, errX := json.Marshal(a)
	y, errY := json.Marshal(b)
	return errX == nil && errY == nil && bytes.Equal(x, y)
}

// act changes a notice at a revision, puts a line into its history, swaps the
// compiled site, and returns the notice as it then is.
func (a *Admin) act(
	c *call, in Step, deed history.Deed, change func(n *store.Notice, next int) error,
) (NoticeDetail, error) {
	return a.actNamed(c, in, func() history.Deed { return deed }, change)
}

// actNamed is act where what was done is known only once it is.
func (a *Admin) actNamed(
	c *call,
	in Step,
	deed func() history.Deed,
	change func(n *store.Notice, next int) error,
) (NoticeDetail, error) {
	ctx := c.Request.Context()
	site, err := a.Store.Site(ctx, c.site)
	if err != nil {
		return NoticeDetail{}, err
	}
	row, err := a.Store.Change(ctx, c.site, c.notice, in.Revision, func(n *store.Notice, next int) (store.Entry, error) {
		was, number := n.Working(), n.Number
		if err := change(n, next); err != nil {
			return store.Entry{}, err
		}
		if faults := a.tooMany(site.Site, *n); faults != nil {
			return store.Entry{}, faults
		}
		h := a.entry(c, site.Site, n.Working(), deed())
		h.Number = n.Number
		switch h.Deed.Act {
		case history.Discarded:
			h.Doc = &was
		case history.Unpublished:
			h.Number = number // what it can be published as again
		}
		return h, nil
	})
	if err != nil {
		return NoticeDetail{}, err
	}
	a.Hub.Changed(ctx, c.site)
	if row.Deleted {
		return NoticeDetail{}, nil
	}
	return done(a.noticeDetail(c, c.moment()))
}

// leftOut says that something that is kept cannot be used as it is.
func leftOut(why fault.Fault) string {
	return "It cannot be used as it is kept, and no visitor gets it: " + why.What
}

// done is the outcome of a change that is kept: where showing it fails, the
// problem says that it was done.
func done[Out any](out Out, err error) (Out, error) {
	if err == nil {
		return out, nil
	}
	slog.Error("a change is kept, but its outcome could not be shown", "error", err)
	return out, problem.Problem{
		Status: http.StatusInternalServerError,
		Title:  "Done, but not shown",
		Detail: "The change was made and is kept. Only showing the outcome failed: load the page again.",
	}
}

// tooMany refuses a notice that is published with which the site's have too many
// occurrences (rule S6) or patterns that are tried on every page (rule P2).
func (a *Admin) tooMany(site bundle.Site, n store.Notice) fault.Faults {
	if n.State != bundle.Published || n.Deleted || n.Published == nil {
		return nil
	}
	s := a.Hub.Site(site.Key)
	if s == nil {
		return nil
	}
	if sum := n.Published.Occurrences(site); sum > 0 && sum+s.Occurrences(n.ID) > schedule.MaxSite {
		return fault.Faults{bundle.TooManyOccurrences}
	}
	if loose := n.Published.Unanchored(site); len(loose) > 0 && !s.Unanchored(n.ID).Add(loose) {
		return fault.Faults{bundle.TooManyUnanchored}
	}
	return nil
}

// refuse says that a notice cannot do something now.
func refuse(detail string) error {
	return problem.Problem{Status: http.StatusConflict, Title: "Not possible now", Detail: detail}
}

func (a *Admin) publish(c *call, in Step) (NoticeDetail, error) {
	return a.act(c, in, history.Published.With(), func(n *store.Notice, next int) error {
		if n.Draft == nil {
			return refuse("There is nothing new to publish.")
		}
		if err := c.mayCode(*n.Draft); err != nil {
			return err
		}
		says := !n.Draft.GetCode().Empty()
		for _, w := range n.Draft.Wordings() {
			says = says || w.HasWords()
		}
		if !says {
			return refuseEmpty(*n.Draft)
		}
		if len(n.Draft.GetPages().Include) == 0 {
			return fault.Faults{{
				Pointer: "/pages",
				What:    "no pages are chosen, so it would appear nowhere",
				Remedy:  "choose its pages first",
			}}
		}
		n.Published, n.Number, n.Draft = n.Draft, next, nil
		n.State, n.PublishedAt = bundle.Published, a.Clock.Now().Truncate(time.Second)
		return nil
	})
}

// refuseEmpty refuses to publish a notice without words, or without code.
func refuseEmpty(n bundle.Notice) error {
	if n.Kind == bundle.KindCode {
		return fault.Faults{{Pointer: "/content", What: "there is no code yet", Remedy: "write some first"}}
	}
	return fault.Faults{{
		Pointer: "/content",
		What:    "this " + string(n.Kind) + " says nothing yet",
		Remedy:  "write its words first",
	}}
}

func (a *Admin) pause(c *call, in Step) (NoticeDetail, error) {
	return a.act(c, in, history.Paused.With(), func(n *store.Notice, _ int) error {
		if n.State != bundle.Published {
			return refuse("Only what is published can be paused.")
		}
		n.State = bundle.Paused
		return nil
	})
}

func (a *Admin) resume(c *call, in Step) (NoticeDetail, error) {
	return a.act(c, in, history.Resumed.With(), func(n *store.Notice, _ int) error {
		if n.State != bundle.Paused {
			return refuse("It is not paused.")
		}
		if err := c.mayCode(both(n)...); err != nil {
			return err
		}
		n.State = bundle.Published
		return nil
	})
}

func (a *Admin) unpublish(c *call, in Step) (NoticeDetail, error) {
	return a.act(c, in, history.Unpublished.With(), func(n *store.Notice, _ int) error {
		if n.State == bundle.Draft {
			return refuse("It is not published.")
		}
		if n.Draft == nil {
			n.Draft = n.Published
		}
		// Since when it was out is kept, for publishing it again as it was.
		n.Published, n.Number, n.State = nil, 0, bundle.Draft
		return nil
	})
}

func (a *Admin) endAt(c *call, in EndAt) (NoticeDetail, error) {
	until, err := schedule.ParseLocal(in.Until)
	site, err2 := a.Store.Site(c.Request.Context(), c.site)
	if err2 != nil {
		return NoticeDetail{}, err2
	}
	zone, err2 := schedule.Zone(site.TimeZone)
	if err2 != nil {
		return NoticeDetail{}, err2
	}
	if err != nil {
		return NoticeDetail{}, fault.Faults{{Pointer: "/until", What: err.Error(), Remedy: "write it like 2026-11-30T12:00"}}
	}
	if !until.In(zone).After(a.Clock.Now()) {
		return NoticeDetail{}, fault.Faults{{
			Pointer: "/until",
			What:    "that moment is past",
			Remedy:  "choose one that lies ahead, or unpublish it now",
		}}
	}
	return a.act(c, Step{Revision: in.Revision}, history.Ended.With(), func(n *store.Notice, next int) error {
		if n.Published == nil {
			return refuse("It is not published.")
		}
		plan := n.Published.GetSchedule()
		ended, ok := plan.EndingAt(until)
		if !ok {
			return refuse("Its time repeats or runs on another clock. Change its words about time instead.")
		}
		out := *n.Published
		out.Schedule = &ended
		if faults := out.Check(site.Site); faults != nil {
			return faults
		}
		// A draft that had the same time goes along.
		if n.Draft != nil && same(bundle.Notice{Schedule: n.Draft.Schedule}, bundle.Notice{Schedule: n.Published.Schedule}) {
			draft := *n.Draft
			draft.Schedule = &ended
			n.Draft = &draft
		}
		n.Published, n.Number = &out, next
		return nil
	})
}

// pauseAll pauses all that is out, or resumes what it paused.
func (a *Admin) pauseAll(c *call, in PauseAll) (Paused, error) {
	ctx := c.Request.Context()
	out := Paused{Notices: []string{}}
	site, err := a.Store.Site(ctx, c.site)
	if err != nil {
		return out, err
	}
	from, to, deed := bundle.Published, bundle.Paused, history.PausedAll
	if !in.Pause {
		from, to, deed = to, from, history.ResumedAll
	}
	err = a.Store.Together(ctx, func(st *store.Store) error {
		rows, err := st.Notices(ctx, c.site)
		if err != nil {
			return err
		}
		for _, row := range rows {
			if row.State != from || !in.Pause && !slices.Contains(in.Notices, row.ID) {
				continue
			}
			_, err := st.Change(ctx, c.site, row.ID, row.Revision, func(n *store.Notice, _ int) (store.Entry, error) {
				n.State = to
				h := a.entry(c, site.Site, n.Working(), deed.With())
				h.Number = n.Number
				return h, nil
			})
			if err != nil {
				return err
			}
			out.Notices = append(out.Notices, row.ID)
		}
		return nil
	})
	if err != nil {
		return Paused{Notices: []string{}}, err
	}
	a.Hub.Changed(ctx, c.site)
	return out, nil
}

func (a *Admin) discard(c *call, in Step) (NoticeDetail, error) {
	return a.act(c, in, history.Discarded.With(), func(n *store.Notice, _ int) error {
		if n.Draft == nil || n.Published == nil {
			return refuse("There is no draft beside what is out.")
		}
		n.Draft = nil
		return nil
	})
}

func (a *Admin) restore(c *call, in Step) (NoticeDetail, error) {
	doc, err := a.text(c, in.History)
	if err != nil {
		return NoticeDetail{}, err
	}
	return a.act(c, in, history.Restored.With(), func(n *store.Notice, _ int) error {
		if err := c.mayCode(append(both(n), doc)...); err != nil {
			return err
		}
		n.Draft = &doc
		if n.Published != nil && same(doc, *n.Published) {
			n.Draft = nil
		}
		return nil
	})
}

// text returns the text that a line of history keeps or names.
func (a *Admin) text(c *call, id int64) (bundle.Notice, error) {
	lines, err := a.Store.History(c.Request.Context(), c.site, c.notice)
	if err != nil {
		return bundle.Notice{}, err
	}
	i := slices.IndexFunc(lines, func(h store.Entry) bool { return h.ID == id })
	if i < 0 {
		return bundle.Notice{}, store.ErrNotFound
	}
	if lines[i].Doc != nil {
		return *lines[i].Doc, nil
	}
	return a.Store.Version(c.Request.Context(), c.site, c.notice, lines[i].Number)
}

func (a *Admin) delete(c *call, in Step) (NoticeDetail, error) {
	return a.act(c, in, history.Deleted.With(), func(n *store.Notice, _ int) error {
		n.Deleted = true
		return nil
	})
}

func (a *Admin) undelete(c *call, in Step) (NoticeDetail, error) {
	row, err := a.Store.Notice(c.Request.Context(), c.site, c.notice)
	if err != nil {
		return NoticeDetail{}, err
	}
	in.Revision = cmp.Or(in.Revision, row.Revision)
	return a.act(c, in, history.Undeleted.With(), func(n *store.Notice, _ int) error {
		if err := c.mayCode(both(n)...); err != nil {
			return err
		}
		n.Deleted = false
		return nil
	})
}

func (a *Admin) history(c *call, _ Nothing) (History, error) {
	lines, err := a.Store.History(c.Request.Context(), c.site, c.notice)
	if err != nil {
		return History{}, err
	}
	names, err := a.peopleNames(c.Request.Context())
	if err != nil {
		return History{}, err
	}
	out := History{Lines: []HistoryLine{}}
	for _, h := range lines {
		out.Lines = append(out.Lines, HistoryLine{
			h.ID, h.At, names.of(h.By), h.Deed.String(), h.Line, h.Number,
			h.Doc != nil || h.Number != 0 && h.Deed.Act == history.Published,
		})
	}
	return out, nil
}

func (a *Admin) previewLink(c *call, m Moment) (PreviewLink, error) {
	v, err := a.viewpoint(c, m)
	if err != nil {
		return PreviewLink{}, err
	}
	if _, err := a.Store.Notice(c.Request.Context(), c.site, c.notice); err != nil {
		return PreviewLink{}, err
	}
	address := v.page().Address
	if address == "" {
		return PreviewLink{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "No address",
			Detail: "Give the site its address first, in the Site room.",
		}
	}
	t := delivery.Token{Site: c.site, Notice: c.notice, Language: v.language, Ends: v.now.Add(previewLasts)}
	return PreviewLink{address + "#" + delivery.Fragment + "=" + url.QueryEscape(t.Sign(a.Secret)), t.Ends.UTC()}, nil
}

func (a *Admin) plain(c *call, in PlainAsk) (PlainNotice, error) {
	site, err := a.Store.Site(c.Request.Context(), c.site)
	if err != nil {
		return PlainNotice{}, err
	}
	row, err := a.Store.Notice(c.Request.Context(), c.site, c.notice)
	if err != nil {
		return PlainNotice{}, err
	}
	n := row.Working()
	tag := cmp.Or(in.Language, site.Language)
	if !n.Wordings()[tag].HasWords() {
		return PlainNotice{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Nothing to copy",
			Detail: "It says nothing in this language yet. Write its message first.",
		}
	}
	text, err := render.Plain(site.Linked(n, a.Base), tag, a.Base+compiled.ImagesPath(c.site))
	return PlainNotice{text}, err
}
