package notices

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/schedule"
	"mastflag/core/wording"
	"mastflag/internal/admin/base"
	"mastflag/internal/history"
	"mastflag/internal/store"
)

func (a *Area) changeNotice(c *base.Call, in NoticeChange) (NoticeDetail, error) {
	ctx := c.Request.Context()
	site, err := a.Store.Site(ctx, c.Site)
	if err != nil {
		return NoticeDetail{}, err
	}
	n := in.Notice
	n.ID, n.State, n.PublishedAt = c.Notice, "", nil
	removed := Sanitise(&n)
	if faults := base.CheckShape("Notice", n); faults != nil {
		return NoticeDetail{}, faults
	}
	if faults := n.Check(site.Site); faults != nil {
		return NoticeDetail{}, faults
	}
	if err := a.haveImages(ctx, c.Site, n); err != nil {
		return NoticeDetail{}, err
	}
	_, err = a.ChangeNotice(c, a.Store, c.Notice, in.Revision, func(row *store.Notice, _ int) (store.Entry, error) {
		// Only the first change since it was last out is a line of history.
		var deed history.Deed
		if row.Draft == nil {
			deed = history.BeganDraft.With()
		}
		if n.Content != nil {
			n.Content.Wordings = wording.Marked(row.Working().Wordings(), n.Content.Wordings, site.Language)
		}
		if row.Published != nil && bundle.SameText(n, *row.Published) {
			row.Draft = nil
		} else {
			row.Draft = &n
		}
		return a.Entry(c, site.Site, n, deed), nil
	})
	var stale store.Stale
	if errors.As(err, &stale) {
		// Told again what was kept, because the reply was lost: it is kept once.
		if row, err := a.Store.Notice(ctx, c.Site, c.Notice); err == nil && !row.Deleted &&
			row.ChangedBy.Person == c.Person.Email &&
			sayTheSame(row, n, site.Language) {
			return base.Done(a.noticeDetail(c, c.Moment()))
		}
		// The refused text is kept: it can be gone back to.
		h := a.Entry(c, site.Site, n, history.Overtaken.With())
		h.Doc = &n
		if err := a.Store.AddHistory(ctx, c.Site, c.Notice, h); err != nil {
			return NoticeDetail{}, err
		}
	}
	if err != nil {
		return NoticeDetail{}, err
	}
	a.Hub.Changed(ctx, c.Site)
	d, err := base.Done(a.noticeDetail(c, c.Moment()))
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
	return bundle.SameText(have, n)
}

// Sanitise cleans a notice's texts and returns what had to be taken out.
func Sanitise(n *bundle.Notice) []string {
	var removed []string
	clean := func(wordings map[string]bundle.Wording) map[string]bundle.Wording {
		out := maps.Clone(wordings)
		for tag, w := range wordings {
			removed = append(removed, w.Excess()...)
			out[tag] = w.Sanitised()
		}
		return out
	}
	if n.Content != nil {
		content := *n.Content
		content.Wordings = clean(content.Wordings)
		n.Content = &content
	}
	if n.Experiment != nil {
		experiment := *n.Experiment
		experiment.Variants = slices.Clone(experiment.Variants)
		for i, v := range experiment.Variants {
			experiment.Variants[i].Wordings = clean(v.Wordings)
		}
		n.Experiment = &experiment
	}
	slices.Sort(removed)
	return slices.Compact(removed)
}

// haveImages refuses a notice with a picture, in it or in a longer message, that is a file and
// not among the site's images.
func (a *Area) haveImages(ctx context.Context, site string, n bundle.Notice) error {
	pictures, inTexts := n.Pictures(), n.ImagesInTexts()
	if len(pictures) == 0 && len(inTexts) == 0 {
		return nil
	}
	have, err := a.Store.Images(ctx, site)
	if err != nil {
		return err
	}
	for at, p := range pictures {
		for pointer, i := range p.Images() {
			if i.Address != "" || slices.ContainsFunc(have, func(h store.Image) bool { return h.Image == *i }) {
				continue
			}
			return fault.Faults{{
				Pointer: at + pointer,
				What:    fmt.Sprintf("the site has no image %s of %d by %d px", i.File, i.Width, i.Height),
				Remedy:  "choose one of the site’s images, or add it",
			}}
		}
	}
	for file, at := range inTexts {
		if !slices.ContainsFunc(have, func(h store.Image) bool { return h.File == file }) {
			return fault.Faults{{
				Pointer: at,
				What:    fmt.Sprintf("the site has no image %s", file),
				Remedy:  "choose one of the site’s images, or add it",
			}}
		}
	}
	return nil
}

// tooMany refuses a notice that is published with which the site's have too many
// occurrences (rule S6) or patterns that are tried on every page (rule P2).
func (a *Area) tooMany(site bundle.Site, n store.Notice) fault.Faults {
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
