package notices

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/core/fault"
	"mastflag/core/findings"
	"mastflag/core/markup"
	"mastflag/core/orderline"
	"mastflag/core/render"
	"mastflag/core/schedule"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/compiled"
	"mastflag/internal/delivery"
	"mastflag/internal/store"
)

func (a *Area) noticeDetail(c *base.Call, m base.Moment) (NoticeDetail, error) {
	v, err := viewpoint.Read(a.Base, c, m)
	if err != nil {
		return NoticeDetail{}, err
	}
	ctx := c.Request.Context()
	row, err := a.Store.Notice(ctx, c.Site, c.Notice)
	if err != nil {
		return NoticeDetail{}, err
	}
	if row.Deleted {
		return NoticeDetail{}, store.ErrNotFound
	}
	staged, err := viewpoint.Staged(ctx, a.Store, c.Site, c.Notice, func(n *bundle.Notice) { n.PublishedAt = nil })
	if err != nil {
		return NoticeDetail{}, err
	}
	site, left, err := compiled.Compile(staged, "")
	if err != nil {
		return NoticeDetail{}, err
	}
	n := row.Working()
	status := store.Status{Revision: row.Revision, HasDraft: row.Draft != nil && row.Published != nil}
	preview := delivery.Token{Site: c.Site, Notice: row.ID, Language: v.Language, Ends: v.Now.Add(stageLasts)}
	d := NoticeDetail{
		Card:      v.CardOf(row.Out(), status, viewpoint.AccountOf(v.Site.ExplainOf(v.Visit, []string{row.ID}), row.ID)),
		Notice:    n,
		Line:      orderline.Of(n, staged.Site, v.Visit.At),
		Rehearsal: viewpoint.AccountOf(site.ExplainOf(v.Visit, []string{row.ID}), row.ID),
		Intervals: v.Intervals(site.Schedule(row.ID)),
		Preview:   preview.Sign(a.Secret),
		Variants:  []VariantPreview{},
		Contrast:  viewpoint.ContrastOf(render.Colours(staged.Site.Themed(n))),
		Languages: viewpoint.LanguageStates(n, staged.Site),
		Findings:  []findings.Finding{},
		ChangedAt: row.ChangedAt,
		ChangedBy: row.ChangedBy.Name,
		OnPages:   []string{},
		OutOn:     []string{},
		NewPages:  []string{},
		Unplaced:  []string{},
	}
	if n.Experiment != nil {
		for _, variant := range n.Experiment.Variants {
			preview.Variant = variant.ID
			d.Variants = append(d.Variants, VariantPreview{variant.ID, cmp.Or(variant.Name, variant.ID), preview.Sign(a.Secret)})
		}
	}
	d.Hours = schedule.Total(site.Schedule(row.ID).Range(v.From, v.Until)).Hours()
	held, err := v.HeldBack(ctx, site)
	if err != nil {
		return NoticeDetail{}, err
	}
	d.Held = append([]viewpoint.Interval{}, held[row.ID]...)
	if i := slices.IndexFunc(v.Site.Uncompiled, func(l compiled.Uncompiled) bool { return l.Notice == row.ID }); i >= 0 {
		d.Card.Flag, d.Card.LeftOut = viewpoint.FlagPaused, viewpoint.LeftOut(v.Site.Uncompiled[i].Why)
	}
	if i := slices.IndexFunc(left, func(l compiled.Uncompiled) bool { return l.Notice == row.ID }); i >= 0 {
		why := left[i].Why
		d.Findings = append(d.Findings, findings.Finding{
			Code:     findings.LeftOut,
			Severity: findings.Error,
			Notices:  []string{row.ID},
			Pointers: []string{why.Pointer},
			What:     viewpoint.LeftOut(why) + ".",
			Fix:      fault.Sentence(why.Remedy),
		})
		d.Times = []Times{}
		return d, nil // what follows from what it says cannot be said
	}
	found, err := findings.CheckNotice(ctx, site, v.Visit.At, row.ID)
	if err != nil {
		return NoticeDetail{}, err
	}
	d.Findings = append(d.Findings, found...)
	d.OnPages = viewpoint.OnPages(&compiled.Site{Site: site}, n)
	blocked, err := a.Store.BlockedTops(ctx, c.Site)
	if err != nil {
		return NoticeDetail{}, err
	}
	d.Findings = append(d.Findings, findings.BlockedTop(n, d.OnPages, blocked)...)
	if row.Published != nil {
		d.OutOn = viewpoint.OnPages(v.Site, row.Out())
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
func reading(k *countdown.Count, n bundle.Notice, v viewpoint.Point) *CountReading {
	if k == nil {
		return nil
	}
	read := k.Read(v.Visit.At, v.Zone, time.Time{})
	tag := cmp.Or(v.Language, v.Site.Bundle().Site.Language)
	out := CountReading{Ends: base.TimeIfAny(read.Ends)}
	if k.IsNumber() {
		out.Says = strconv.FormatInt(read.Figures[0], 10)
	} else {
		out.Says = k.WordsIn(tag, n.Wordings()[tag].Labels).Sentence(read.Figures)
	}
	return &out
}

// times reads a schedule's windows back, from the viewpoint's moment on.
func times(plan schedule.Plan, s schedule.Schedule, v viewpoint.Point) []Times {
	out := []Times{}
	loc := v.Site.Zone()
	if s.Floating() {
		loc = v.Zone
	} else if z, err := schedule.Zone(plan.Clock); err == nil {
		loc = z
	}
	for i, w := range plan.Windows {
		t := Times{Words: orderline.Window(w, v.Visit.At.In(loc)), Next: []Occurrence{}}
		for _, in := range s.Occurrences(i, v.Visit.At, 5, loc) {
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
	for _, c := range schedule.ClockChanges(loc, in.From.Add(-time.Second), in.Until) {
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
