package notices

import (
	"cmp"
	"fmt"
	"net/http"
	"slices"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/rights"
	"mastflag/core/schedule"
	"mastflag/internal/admin/base"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// Act changes a notice at a revision, puts a line into its history, swaps the
// compiled site, and returns the notice as it then is.
func (a *Area) Act(
	c *base.Call, in Step, deed history.Deed, change func(n *store.Notice, next int) error,
) (NoticeDetail, error) {
	return a.actNamed(c, in, func() history.Deed { return deed }, change)
}

// actNamed is Act where what was done is known only once it is.
func (a *Area) actNamed(
	c *base.Call,
	in Step,
	deed func() history.Deed,
	change func(n *store.Notice, next int) error,
) (NoticeDetail, error) {
	ctx := c.Request.Context()
	site, err := a.Store.Site(ctx, c.Site)
	if err != nil {
		return NoticeDetail{}, err
	}
	row, err := a.ChangeNotice(c, a.Store, c.Notice, in.Revision, func(n *store.Notice, next int) (store.Entry, error) {
		was, number := n.Working(), n.Number
		if err := change(n, next); err != nil {
			return store.Entry{}, err
		}
		if faults := a.tooMany(site.Site, *n); faults != nil {
			return store.Entry{}, faults
		}
		h := a.Entry(c, site.Site, n.Working(), deed())
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
	a.Hub.Changed(ctx, c.Site)
	if row.Deleted {
		return NoticeDetail{}, nil
	}
	return base.Done(a.noticeDetail(c, c.Moment()))
}

func (a *Area) publish(c *base.Call, in Step) (NoticeDetail, error) {
	return a.Act(c, in, history.Published.With(), func(n *store.Notice, next int) error {
		if n.Draft == nil {
			return base.Refuse("There is nothing new to publish.")
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

func (a *Area) pause(c *base.Call, in Step) (NoticeDetail, error) {
	return a.Act(c, in, history.Paused.With(), func(n *store.Notice, _ int) error {
		if n.State != bundle.Published {
			return base.Refuse("Only what is published can be paused.")
		}
		n.State = bundle.Paused
		return nil
	})
}

func (a *Area) resume(c *base.Call, in Step) (NoticeDetail, error) {
	return a.Act(c, in, history.Resumed.With(), func(n *store.Notice, _ int) error {
		if n.State != bundle.Paused {
			return base.Refuse("It is not paused.")
		}
		n.State = bundle.Published
		return nil
	})
}

func (a *Area) unpublish(c *base.Call, in Step) (NoticeDetail, error) {
	return a.Act(c, in, history.Unpublished.With(), func(n *store.Notice, _ int) error {
		if n.State == bundle.Draft {
			return base.Refuse("It is not published.")
		}
		if n.Draft == nil {
			n.Draft = n.Published
		}
		// Since when it was out is kept, for publishing it again as it was.
		n.Published, n.Number, n.State = nil, 0, bundle.Draft
		return nil
	})
}

func (a *Area) endAt(c *base.Call, in EndAt) (NoticeDetail, error) {
	until, err := schedule.ParseLocal(in.Until)
	site, err2 := a.Store.Site(c.Request.Context(), c.Site)
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
	return a.Act(c, Step{Revision: in.Revision}, history.Ended.With(), func(n *store.Notice, next int) error {
		if n.Published == nil {
			return base.Refuse("It is not published.")
		}
		plan := n.Published.GetSchedule()
		ended, ok := plan.EndingAt(until)
		if !ok {
			return base.Refuse("Its time repeats or runs on another clock. Change its words about time instead.")
		}
		out := *n.Published
		out.Schedule = &ended
		if faults := out.Check(site.Site); faults != nil {
			return faults
		}
		// A draft that had the same time goes along.
		times := func(n *bundle.Notice) bundle.Notice { return bundle.Notice{Schedule: n.Schedule} }
		if n.Draft != nil && bundle.SameText(times(n.Draft), times(n.Published)) {
			draft := *n.Draft
			draft.Schedule = &ended
			n.Draft = &draft
		}
		n.Published, n.Number = &out, next
		return nil
	})
}

// pauseAll pauses all that is out, or resumes what it paused, but what the person may not resume.
func (a *Area) pauseAll(c *base.Call, in PauseAll) (Paused, error) {
	ctx := c.Request.Context()
	out := Paused{Notices: []string{}, Left: []string{}}
	site, err := a.Store.Site(ctx, c.Site)
	if err != nil {
		return out, err
	}
	from, to, deed := bundle.Published, bundle.Paused, history.PausedAll
	if !in.Pause {
		from, to, deed = to, from, history.ResumedAll
	}
	err = a.Together(c, func(st *store.Store) error {
		rows, err := st.Notices(ctx, c.Site)
		if err != nil {
			return err
		}
		for _, row := range rows {
			if row.State != from || !in.Pause && !slices.Contains(in.Notices, row.ID) {
				continue
			}
			after := row
			after.State = to
			if rights.MayChange(c.Person.Rights(), row.Rights(), after.Rights()) != nil {
				out.Left = append(out.Left, row.Working().GetTitle())
				continue
			}
			_, err := a.ChangeNotice(c, st, row.ID, row.Revision, func(n *store.Notice, _ int) (store.Entry, error) {
				n.State = to
				h := a.Entry(c, site.Site, n.Working(), deed.With())
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
		return Paused{}, err
	}
	a.Hub.Changed(ctx, c.Site)
	return out, nil
}

func (a *Area) discard(c *base.Call, in Step) (NoticeDetail, error) {
	return a.Act(c, in, history.Discarded.With(), func(n *store.Notice, _ int) error {
		if n.Draft == nil || n.Published == nil {
			return base.Refuse("There is no draft beside what is out.")
		}
		n.Draft = nil
		return nil
	})
}

func (a *Area) restore(c *base.Call, in Step) (NoticeDetail, error) {
	doc, err := a.text(c, in.History)
	if err != nil {
		return NoticeDetail{}, err
	}
	return a.Act(c, in, history.Restored.With(), func(n *store.Notice, _ int) error {
		n.Draft = &doc
		if n.Published != nil && bundle.SameText(doc, *n.Published) {
			n.Draft = nil
		}
		return nil
	})
}

// settle makes a draft that says and looks like one of the notice's variants, and compares no more.
func (a *Area) settle(c *base.Call, in Step) (NoticeDetail, error) {
	name := in.Variant
	deed := func() history.Deed { return history.Settled.With(name) }
	return a.actNamed(c, in, deed, func(n *store.Notice, _ int) error {
		now := n.Working()
		called, has := now.Experiment.VariantNames()[in.Variant]
		if !has {
			return problem.Problem{
				Status: http.StatusUnprocessableEntity, Title: "No such variant",
				Detail: fmt.Sprintf("The notice has no variant %.60q now. Reload it and choose one of those it has.", in.Variant),
			}
		}
		draft := now.InVariant(in.Variant)
		experiment := *draft.Experiment
		experiment.Variants = nil
		draft.Experiment = &experiment
		name = called
		n.Draft = &draft
		return nil
	})
}

// text returns the text that a line of history keeps or names.
func (a *Area) text(c *base.Call, id int64) (bundle.Notice, error) {
	lines, err := a.Store.History(c.Request.Context(), c.Site, c.Notice)
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
	return a.Store.Version(c.Request.Context(), c.Site, c.Notice, lines[i].Number)
}

func (a *Area) delete(c *base.Call, in Step) (NoticeDetail, error) {
	return a.Act(c, in, history.Deleted.With(), func(n *store.Notice, _ int) error {
		n.Deleted = true
		return nil
	})
}

func (a *Area) undelete(c *base.Call, in Step) (NoticeDetail, error) {
	row, err := a.Store.Notice(c.Request.Context(), c.Site, c.Notice)
	if err != nil {
		return NoticeDetail{}, err
	}
	in.Revision = cmp.Or(in.Revision, row.Revision)
	return a.Act(c, in, history.Undeleted.With(), func(n *store.Notice, _ int) error {
		n.Deleted = false
		return nil
	})
}

func (a *Area) history(c *base.Call, _ base.Nothing) (History, error) {
	lines, err := a.Store.History(c.Request.Context(), c.Site, c.Notice)
	if err != nil {
		return History{}, err
	}
	names, err := a.PeopleNames(c.Request.Context())
	if err != nil {
		return History{}, err
	}
	out := History{Lines: []HistoryLine{}}
	for _, h := range lines {
		out.Lines = append(out.Lines, HistoryLine{
			h.ID, h.At, names.Of(h.By), h.Deed.String(), h.Line, h.Number,
			h.Doc != nil || h.Number != 0 && h.Deed.Act == history.Published,
		})
	}
	return out, nil
}
