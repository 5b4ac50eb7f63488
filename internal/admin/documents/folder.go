package documents

import (
	"slices"

	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/markup"
	"mastflag/internal/admin/base"
	"mastflag/internal/history"
	"mastflag/internal/store"
)

// A folder is a site with its documents and what they are made from, as it is
// kept now.
type Folder struct {
	site    store.Site
	notices []bundle.Notice // as they are worked on, and where it differs as they are out
	Making  document.Site
}

func Open(a *base.Base, c *base.Call, st *store.Store) (Folder, error) {
	ctx := c.Request.Context()
	site, err := st.Site(ctx, c.Site)
	if err != nil {
		return Folder{}, err
	}
	rows, err := st.Notices(ctx, c.Site)
	if err != nil {
		return Folder{}, err
	}
	f := Folder{site: site}
	var out []bundle.Notice
	for _, r := range rows {
		out = append(out, r.Out())
		f.notices = append(f.notices, r.Working())
		if r.Draft != nil && r.Published != nil {
			f.notices = append(f.notices, r.Out())
		}
	}
	f.Making = site.Making(out)
	return f, nil
}

// did says what was done with a document.
func (f Folder) did(act history.Act, d document.Document, args ...string) history.Deed {
	return act.With(append(args, d.Title(f.site.Language, f.site.Language))...)
}

// uses returns the notices that lead to a document, show it or are about it.
func (f Folder) uses(id string) []DocumentUse {
	out := []DocumentUse{}
	for _, n := range f.notices {
		if slices.Contains(n.Uses(), id) &&
			!slices.ContainsFunc(out, func(u DocumentUse) bool { return u.Notice == n.ID }) {
			out = append(out, DocumentUse{Notice: n.ID, Title: n.GetTitle(), Kind: string(n.Kind)})
		}
	}
	for _, d := range f.site.Documents {
		if d.ID == id {
			continue
		}
		for _, byTag := range d.Own {
			for _, html := range byTag {
				if slices.Contains(markup.Links(html), document.Scheme+id) &&
					!slices.ContainsFunc(out, func(u DocumentUse) bool { return u.Document == d.ID }) {
					out = append(out, DocumentUse{Document: d.ID, Title: d.Title(f.site.Language, f.site.Language)})
				}
			}
		}
	}
	return out
}
