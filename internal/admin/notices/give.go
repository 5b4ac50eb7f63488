package notices

import (
	"cmp"
	"net/http"

	"mastflag/core/audience"
	"mastflag/core/render"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/compiled"
	"mastflag/internal/delivery"
	"mastflag/internal/problem"
)

func (a *Area) previewLink(c *base.Call, m base.Moment) (PreviewLink, error) {
	v, err := viewpoint.Read(a.Base, c, m)
	if err != nil {
		return PreviewLink{}, err
	}
	if _, err := a.Store.Notice(c.Request.Context(), c.Site, c.Notice); err != nil {
		return PreviewLink{}, err
	}
	address := v.Page().Address
	if address == "" {
		return PreviewLink{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "No address",
			Detail: "Give the site its address first, in the Site room.",
		}
	}
	t := delivery.Token{Site: c.Site, Notice: c.Notice, Language: v.Language, Ends: v.Now.Add(previewLasts)}
	return PreviewLink{delivery.PreviewAddress(address, t.Sign(a.Secret)), t.Ends.UTC()}, nil
}

func (a *Area) plain(c *base.Call, in PlainAsk) (PlainNotice, error) {
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	if err != nil {
		return PlainNotice{}, err
	}
	row, err := a.Store.Notice(c.Request.Context(), c.Site, c.Notice)
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
	n = site.Prepared(n, a.Address)
	text, err := render.Plain(n, tag, a.Address+compiled.ImagesPath(c.Site))
	return PlainNotice{text, render.PlainLacks(n, tag)}, err
}

// facts lists what audiences can ask about.
func (a *Area) facts(*base.Call, base.Nothing) (FactList, error) {
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
