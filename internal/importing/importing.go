package importing

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/markup"
	"mastflag/core/orderline"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/internal/admin/notices"
	"mastflag/internal/history"
	"mastflag/internal/store"
)

// Bundle keeps a bundle: its site and pages as they are there, its notices as
// new versions or drafts, all of it or nothing. Notices that it does not name
// stay. Lines are what was done, for people.
func Bundle(
	ctx context.Context,
	st *store.Store,
	b bundle.Bundle,
	who store.By,
	now time.Time,
) (lines []string, err error) {
	err = st.Together(ctx, func(st *store.Store) error {
		lines, err = importAll(ctx, st, b, who, now)
		return err
	})
	if err != nil {
		return nil, err
	}
	return lines, nil
}

func importAll(
	ctx context.Context,
	st *store.Store,
	b bundle.Bundle,
	who store.By,
	now time.Time,
) (lines []string, err error) {
	site, err := st.Site(ctx, b.Site.Key)
	switch {
	case errors.Is(err, store.ErrNotFound):
		err = st.AddSite(ctx, b.Site)
		lines = append(lines, "added site "+b.Site.Key)
	case err == nil:
		if b.Site.Documents, err = documentsOf(site.Documents, b.Site.Documents); err != nil {
			return nil, err
		}
		err = st.PutSite(ctx, b.Site, site.Revision, store.Entry{
			At:   now,
			By:   who,
			Deed: history.ImportedBundle.With(),
			Line: b.Site.Name,
		})
		lines = append(lines, "changed site "+b.Site.Key)
	}
	if err != nil {
		return lines, err
	}
	for _, d := range b.Site.Documents {
		if d.Version == 0 {
			continue
		}
		switch err := st.AddDocumentVersion(ctx, b.Site.Key, d.ID, d.Out()); {
		case errors.Is(err, store.ErrExists):
			return nil, otherVersion(d.ID, d.Version)
		case err != nil:
			return nil, err
		}
	}
	list, err := pagesOf(ctx, st, b)
	if err != nil {
		return lines, err
	}
	if len(list) > 0 {
		if err := st.PutPages(ctx, b.Site.Key, list, time.Time{}); err != nil {
			return lines, err
		}
		lines = append(lines, fmt.Sprintf("kept %d pages", len(list)))
	}
	for _, n := range b.Notices {
		if err := importNotice(ctx, st, b.Site, n, who, now); err != nil {
			return lines, fmt.Errorf("notice %s: %w", n.ID, err)
		}
		lines = append(lines, fmt.Sprintf("kept notice %s, %s", n.ID, n.GetState()))
	}
	return lines, fitsLimits(ctx, st, b.Site)
}

// pagesOf returns the pages of a bundle, each with what was found when it was last read.
func pagesOf(ctx context.Context, st *store.Store, b bundle.Bundle) ([]store.Page, error) {
	have, err := st.Pages(ctx, b.Site.Key)
	read := make(map[string]store.Page, len(have))
	for _, p := range have {
		read[p.Path] = p
	}
	list := make([]store.Page, len(b.Pages))
	for i, p := range b.Pages {
		// A broken path is refused when it is kept.
		path, _ := pages.PagePath(p.Path)
		was := read[path]
		p.Lost, p.Spots, p.Since = was.Lost, was.Spots, was.Since
		p.Title, p.Language = cmp.Or(p.Title, was.Title), cmp.Or(p.Language, was.Language)
		list[i] = store.Page{Page: p, Snippet: was.Snippet}
	}
	return list, err
}

// documentsOf returns a site's documents after an import: those of the bundle, as
// far as they do not go back behind a version that is out here; and those that it
// does not name.
func documentsOf(have, in []document.Document) ([]document.Document, error) {
	out := make([]document.Document, len(in))
	for i, d := range in {
		for _, byTag := range d.Own {
			for tag, html := range byTag {
				byTag[tag] = markup.SanitiseDocument(html)
			}
		}
		out[i] = d
		if was, ok := document.Get(have, d.ID); ok && was.Version > d.Version {
			return nil, fault.Faults{{
				Pointer: fault.Pointer("site", "documents", i, "version"),
				What:    fmt.Sprintf("version %d of “%s” is out here, and the bundle has version %d", was.Version, d.ID, d.Version),
				Remedy: "take this document from an export of this program, or leave it out: documents that a bundle does not " +
					"name stay",
			}}
		}
	}
	for _, d := range have {
		if _, named := document.Get(in, d.ID); !named {
			out = append(out, d)
		}
	}
	return out, nil
}

// otherVersion refuses a text under the number of a version that says something else.
func otherVersion(id string, number int) error {
	return fault.Faults{{
		Pointer: "/site/documents",
		What: fmt.Sprintf(
			"version %d of “%s” is kept here and says something else: a version is never altered", number, id,
		),
		Remedy: "publish the text here as the next version",
	}}
}

// fitsLimits refuses an import after which the published notices of the site,
// those it does not name too, have too many occurrences (rule S6) or loose patterns (rule P2).
func fitsLimits(ctx context.Context, st *store.Store, site bundle.Site) error {
	rows, err := st.Notices(ctx, site.Key)
	sum, loose := 0, bundle.Unanchored{}
	for _, row := range rows {
		if row.State != bundle.Published {
			continue
		}
		if sum += row.Out().Occurrences(site); sum > schedule.MaxSite {
			return fault.Faults{bundle.TooManyOccurrences}.Under("/notices/" + row.ID)
		}
		if !loose.Add(row.Out().Unanchored(site)) {
			return fault.Faults{bundle.TooManyUnanchored}.Under("/notices/" + row.ID)
		}
	}
	return err
}

func importNotice(
	ctx context.Context,
	st *store.Store,
	site bundle.Site,
	n bundle.Notice,
	who store.By,
	now time.Time,
) error {
	notices.Sanitise(&n)
	h := store.Entry{At: now, By: who, Deed: history.Imported.With(), Line: orderline.Of(n, site, now).String()}
	row, err := st.Notice(ctx, site.Key, n.ID)
	if errors.Is(err, store.ErrNotFound) {
		if err = st.AddNotice(ctx, site.Key, n, h); err != nil {
			return err
		}
		row, err = st.Notice(ctx, site.Key, n.ID)
	}
	if err != nil {
		return err
	}
	_, err = st.Change(ctx, site.Key, n.ID, row.Revision, func(row *store.Notice, next int) (store.Entry, error) {
		row.Deleted = false
		if n.GetState() == bundle.Draft {
			row.Draft, row.Published, row.Number, row.State = &n, nil, 0, bundle.Draft
			return h, nil
		}
		if row.Published == nil || !bundle.SameText(n, *row.Published) {
			row.Published, row.Number = &n, next
			h.Deed, h.Number = history.Published.With(), next
		}
		row.Draft, row.State, row.PublishedAt = nil, n.GetState(), n.GetPublishedAt()
		if row.PublishedAt.IsZero() {
			row.PublishedAt = now
		}
		return h, nil
	})
	return err
}
