package notices

import (
	"cmp"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/code"
	"mastflag/core/orderline"
	"mastflag/core/pages"
	"mastflag/core/render"
	"mastflag/core/rights"
	"mastflag/core/schedule"
	"mastflag/core/wording"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/compiled"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// checkCode reads code as it is written, and says what a page's policy has to allow.
func (a *Area) checkCode(_ *base.Call, in bundle.PageCode) (CodeCheck, error) {
	out := CodeCheck{Faults: []CodeFault{}, Policy: []code.PolicySource{}}
	for _, place := range code.Places {
		if f := code.Check(in.At(place), place); f != nil {
			out.Faults = append(out.Faults, CodeFault{place, f.Line, f.Column, f.What, f.Remedy})
		}
	}
	out.Policy = append(out.Policy, code.Sources(in.Head, in.Start, in.End)...)
	return out, nil
}

// place takes a notice off a page, or puts it on one, in what is out and in the
// draft alike (rule B4); or puts both back as they were.
func (a *Area) place(c *base.Call, in Placing) (Placed, error) {
	if ways := []bool{in.Off != "", in.On != "", in.Put != nil}; len(slices.DeleteFunc(ways, func(set bool) bool {
		return !set
	})) != 1 {
		return Placed{}, problem.Problem{
			Status: http.StatusBadRequest,
			Title:  "Not understood",
			Detail: "Give one of off, on and put: the page to take it off, the page to put it on, or what was there before.",
		}
	}
	ctx := c.Request.Context()
	site, err := a.Store.Site(ctx, c.Site)
	if err != nil {
		return Placed{}, err
	}
	live := a.Hub.Site(c.Site)
	var was Placement
	deed := history.PagesBack.With()
	change := func(n bundle.Notice, put *pages.Conditions) (bundle.Notice, error) {
		if in.Put != nil {
			n.Pages = put
			return n, nil
		}
		path, err := pages.PagePath(cmp.Or(in.Off, in.On))
		subject, ok := live.Subject(path)
		if err != nil || !ok {
			return n, problem.Problem{
				Status: http.StatusUnprocessableEntity,
				Title:  "No page",
				Detail: "Give the path of a page, such as /ports/aldwick.",
			}
		}
		if in.Off != "" {
			where := n.GetPages().Off(subject, live.Names())
			n.Pages, deed = &where, history.TakenOff.With(subject.Path)
			return n, nil
		}
		where, by := n.GetPages().On(subject, live.Names())
		if by != nil {
			return n, base.Refuse(fmt.Sprintf(
				"“%s” leaves out %s, and so this page with them. Change the words about its pages.", n.GetTitle(), by,
			))
		}
		n.Pages, deed = &where, history.PutOn.With(subject.Path)
		return n, nil
	}
	step := func(n *store.Notice, next int) error {
		if n.Draft != nil {
			was.Draft = n.Draft.Pages
			d, err := change(*n.Draft, put(in.Put, func(p Placement) *pages.Conditions { return p.Draft }))
			if err != nil {
				return err
			}
			n.Draft = &d
		}
		if n.Published == nil {
			return nil
		}
		was.Out = n.Published.Pages
		d, err := change(*n.Published, put(in.Put, func(p Placement) *pages.Conditions { return p.Out }))
		if err != nil || bundle.SameText(d, *n.Published) {
			return err
		}
		if faults := d.Check(site.Site); faults != nil {
			return faults
		}
		n.Published, n.Number = &d, next
		return nil
	}
	detail, err := a.actNamed(c, Step{Revision: in.Revision}, func() history.Deed { return deed }, step)
	return Placed{detail, was}, err
}

// put returns one of the conditions to put back, nil if there are none.
func put(p *Placement, which func(Placement) *pages.Conditions) *pages.Conditions {
	if p == nil {
		return nil
	}
	return which(*p)
}

// republish undoes unpublishing: what was out then is out again, from when it was.
func (a *Area) republish(c *base.Call, in Step) (NoticeDetail, error) {
	lines, err := a.Store.History(c.Request.Context(), c.Site, c.Notice)
	if err != nil {
		return NoticeDetail{}, err
	}
	i := slices.IndexFunc(lines, func(h store.Entry) bool { return h.Deed.Act == history.Unpublished && h.Number != 0 })
	if i < 0 {
		return NoticeDetail{}, base.Refuse("It was not unpublished.")
	}
	doc, err := a.Store.Version(c.Request.Context(), c.Site, c.Notice, lines[i].Number)
	if err != nil {
		return NoticeDetail{}, err
	}
	return a.Act(c, in, history.Republished.With(), func(n *store.Notice, _ int) error {
		if n.State != bundle.Draft || n.Published != nil {
			return base.Refuse("It is published.")
		}
		if n.Draft != nil && bundle.SameText(*n.Draft, doc) {
			n.Draft = nil
		}
		n.Published, n.Number, n.State = &doc, lines[i].Number, bundle.Published
		return nil
	})
}

// blocks lists the site's blocks as the Library shows them, with whether each can be
// put on the viewpoint's page.
func (a *Area) blocks(c *base.Call, m base.Moment) (BlockList, error) {
	out := BlockList{Blocks: []BlockCard{}}
	v, err := viewpoint.Read(a.Base, c, m)
	if err != nil {
		return out, err
	}
	rows, err := a.Store.Notices(c.Request.Context(), c.Site)
	if err != nil {
		return out, err
	}
	b := v.Site.Bundle()
	zone, err := schedule.Zone(b.Site.TimeZone)
	if err != nil {
		return out, err
	}
	here := v.Page()
	for _, row := range rows {
		n := row.Working()
		if n.Kind != bundle.KindBlock && n.Kind != bundle.KindCode {
			continue
		}
		card := BlockCard{
			ID: row.ID, Title: n.GetTitle(), Kind: n.Kind, Line: orderline.Of(n, b.Site, v.Visit.At).String(),
			Flag:      viewpoint.FlagAt(row.State, v.Site.Schedule(row.ID), v.Visit.At),
			Revision:  row.Revision,
			OnPages:   viewpoint.OnPages(v.Site, n),
			ChangedAt: row.ChangedAt, ChangedBy: row.ChangedBy.Name,
		}
		if subject, ok := v.Site.Subject(here.Path); ok {
			_, by := n.GetPages().On(subject, v.Site.Names())
			switch {
			case slices.Contains(card.OnPages, subject.Path):
				card.Why = "It is on this page already, and stands once a page."
			case by != nil:
				card.Why = fmt.Sprintf("It leaves out %s, and so this page with them.", by)
			case n.Kind == bundle.KindCode && c.Person.Role != rights.Administrator:
				card.Why = "Only administrators put code on pages."
			}
		}
		if o, _, ok := n.Original(b.Notices); ok {
			card.CopyOf = o.GetTitle()
		}
		if tag := wording.Choose(n.Wordings(), v.Language, b.Site.Language); tag != "" {
			bar, err := render.Notice(b.Site.Prepared(n, a.Address), tag, a.Address+compiled.ImagesPath(c.Site), zone)
			if err != nil {
				return out, err
			}
			card.HTML, card.CSS = render.Still(bar, n, tag, v.Visit.At, zone), bar.CSS
		}
		out.Blocks = append(out.Blocks, card)
	}
	slices.SortFunc(out.Blocks, func(x, y BlockCard) int {
		return cmp.Or(cmp.Compare(strings.ToLower(x.Title), strings.ToLower(y.Title)), cmp.Compare(x.ID, y.ID))
	})
	return out, nil
}
