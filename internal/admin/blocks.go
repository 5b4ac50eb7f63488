package admin

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
	"mastflag/core/schedule"
	"mastflag/core/wording"
	"mastflag/internal/access"
	"mastflag/internal/compiled"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// mayCode refuses people who are not administrators what would have code run: that
// of a notice before or after a change (rule B7).
func (c *call) mayCode(notices ...bundle.Notice) error {
	if c.person.Role == access.Administrator {
		return nil
	}
	for _, n := range notices {
		if n.Kind == bundle.KindCode || n.Content != nil && n.Content.Code != nil {
			return problem.Problem{
				Status: http.StatusForbidden,
				Title:  "Administrators write code",
				Detail: fmt.Sprintf("“%s” puts code into pages, and only administrators write or publish that. "+
					"You can pause it, unpublish it, or take it off a page. Nothing was changed.", n.GetTitle()),
			}
		}
	}
	return nil
}

// both are the texts of a notice: what is out, and the draft.
func both(n *store.Notice) (out []bundle.Notice) {
	for _, d := range []*bundle.Notice{n.Published, n.Draft} {
		if d != nil {
			out = append(out, *d)
		}
	}
	return out
}

// checkCode reads code as it is written, and says what a page's policy has to allow.
func (a *Admin) checkCode(_ *call, in bundle.PageCode) (CodeCheck, error) {
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
func (a *Admin) place(c *call, in Placing) (Placed, error) {
	ctx := c.Request.Context()
	site, err := a.Store.Site(ctx, c.site)
	if err != nil {
		return Placed{}, err
	}
	names, faults := site.Names()
	if faults != nil {
		return Placed{}, faults
	}
	var was Placement
	deed := history.PagesBack.With()
	change := func(n bundle.Notice, put *pages.Conditions) (bundle.Notice, error) {
		if in.Put != nil {
			n.Pages = put
			return n, nil
		}
		path, err := pages.PagePath(cmp.Or(in.Off, in.On))
		subject, ok := a.Hub.Site(c.site).Subject(path)
		if err != nil || !ok {
			return n, problem.Problem{
				Status: http.StatusUnprocessableEntity,
				Title:  "No page",
				Detail: "Give the path of a page, such as /ports/aldwick.",
			}
		}
		if in.Off != "" {
			where := n.GetPages().Off(subject, names)
			n.Pages, deed = &where, history.TakenOff.With(subject.Path)
			return n, nil
		}
		where, by := n.GetPages().On(subject, names)
		if by != nil {
			return n, refuse(fmt.Sprintf(
				"“%s” leaves out %s, and so this page with them. Change the words about its pages.", n.GetTitle(), by,
			))
		}
		n.Pages, deed = &where, history.PutOn.With(subject.Path)
		return n, nil
	}
	step := func(n *store.Notice, next int) error {
		if in.Off == "" {
			if err := c.mayCode(both(n)...); err != nil {
				return err
			}
		}
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
		if err != nil || same(d, *n.Published) {
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
func (a *Admin) republish(c *call, in Step) (NoticeDetail, error) {
	lines, err := a.Store.History(c.Request.Context(), c.site, c.notice)
	if err != nil {
		return NoticeDetail{}, err
	}
	i := slices.IndexFunc(lines, func(h store.Entry) bool { return h.Deed.Act == history.Unpublished && h.Number != 0 })
	if i < 0 {
		return NoticeDetail{}, refuse("It was not unpublished.")
	}
	doc, err := a.Store.Version(c.Request.Context(), c.site, c.notice, lines[i].Number)
	if err != nil {
		return NoticeDetail{}, err
	}
	return a.act(c, in, history.Republished.With(), func(n *store.Notice, _ int) error {
		if err := c.mayCode(doc); err != nil {
			return err
		}
		if n.State != bundle.Draft || n.Published != nil {
			return refuse("It is published.")
		}
		if n.Draft != nil && same(*n.Draft, doc) {
			n.Draft = nil
		}
		n.Published, n.Number, n.State = &doc, lines[i].Number, bundle.Published
		return nil
	})
}

// blocks lists the site's blocks as the Library shows them, with whether each can be
// put on the viewpoint's page.
func (a *Admin) blocks(c *call, m Moment) (BlockList, error) {
	out := BlockList{Blocks: []BlockCard{}}
	v, err := a.viewpoint(c, m)
	if err != nil {
		return out, err
	}
	rows, err := a.Store.Notices(c.Request.Context(), c.site)
	if err != nil {
		return out, err
	}
	b := v.site.Bundle()
	names, _ := b.Site.Names() // what is wrong with it is said elsewhere
	zone, err := schedule.Zone(b.Site.TimeZone)
	if err != nil {
		return out, err
	}
	here := v.page()
	for _, row := range rows {
		n := row.Working()
		if n.Kind != bundle.KindBlock && n.Kind != bundle.KindCode {
			continue
		}
		card := BlockCard{
			ID: row.ID, Title: n.GetTitle(), Kind: n.Kind, Line: orderline.Of(n, b.Site, v.visit.At).String(),
			Flag:      flag(row.State, v.site.Schedule(row.ID), v.visit.At),
			Revision:  row.Revision,
			OnPages:   onPages(v.site, n),
			ChangedAt: row.ChangedAt, ChangedBy: row.ChangedBy.Name,
		}
		if subject, ok := v.site.Subject(here.Path); ok {
			_, by := n.GetPages().On(subject, names)
			switch {
			case slices.Contains(card.OnPages, subject.Path):
				card.Why = "It is on this page already, and stands once a page."
			case by != nil:
				card.Why = fmt.Sprintf("It leaves out %s, and so this page with them.", by)
			case n.Kind == bundle.KindCode && c.person.Role != access.Administrator:
				card.Why = "Only administrators put code on pages."
			}
		}
		if o, _, ok := n.Original(b.Notices); ok {
			card.CopyOf = o.GetTitle()
		}
		if tag := wording.Choose(n.Wordings(), v.language, b.Site.Language); tag != "" {
			bar, err := render.Notice(b.Site.Linked(n, a.Base), tag, a.Base+compiled.ImagesPath(c.site), zone)
			if err != nil {
				return out, err
			}
			card.HTML, card.CSS = render.Still(bar, n, tag, v.visit.At, zone), bar.CSS
		}
		out.Blocks = append(out.Blocks, card)
	}
	slices.SortFunc(out.Blocks, func(x, y BlockCard) int {
		return cmp.Or(cmp.Compare(strings.ToLower(x.Title), strings.ToLower(y.Title)), cmp.Compare(x.ID, y.ID))
	})
	return out, nil
}
