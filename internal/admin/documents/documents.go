// Package documents is a site's documents: questions, text, versions.
package documents

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/lookup"
	"mastflag/core/wording"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// Area is that part of the API.
type Area struct {
	*base.Base
}

// Routes are its calls.
func (a *Area) Routes() []base.Route {
	return []base.Route{
		base.Get("/api/sites/:site/documents", "The site's documents in short.", a.documents),
		base.Post("/api/sites/:site/documents", "Begin a document.", a.newDocument),
		base.Get(
			"/api/sites/:site/documents/:document",
			"A document: questions, text, what it has to say, versions.",
			a.documentDetail,
		),
		base.Put("/api/sites/:site/documents/:document", "Change a document's answers and sections.", a.changeDocument),
		base.Post(
			"/api/sites/:site/documents/:document/publish",
			"Publish the next version of a document.",
			a.publishDocument,
		),
		base.Post("/api/sites/:site/documents/:document/link", "Have a notice lead to a document.", a.linkDocument),
		base.Post(
			"/api/sites/:site/documents/:document/delete",
			"Remove a document that nothing leads to.",
			a.deleteDocument,
		),
		base.Get("/api/sites/:site/documents/:document/file", "A document to take away.", a.takeAway),
	}
}

// kindNames are what kinds of documents are called here.
var kindNames = map[document.Kind]string{
	document.Privacy:       "Privacy notice",
	document.Cookies:       "Cookie statement",
	document.Terms:         "Terms of use",
	document.Accessibility: "Accessibility statement",
	document.Disclaimer:    "Disclaimer",
	document.Own:           "Text of your own",
}

func (a *Area) documents(c *base.Call, _ base.Nothing) (DocumentList, error) {
	f, err := Open(a.Base, c, a.Store)
	if err != nil {
		return DocumentList{}, err
	}
	out := DocumentList{Documents: []DocumentCard{}, Kinds: []KindChoice{}}
	for _, d := range f.site.Documents {
		_, points := d.Sections(f.Making, f.site.Language)
		card := DocumentCard{
			ID:       d.ID,
			Kind:     d.Kind,
			KindName: kindNames[d.Kind],
			Title:    d.Title(f.site.Language, f.site.Language),
			Version:  d.Version,
			Since:    d.Since,
			Behind:   len(d.Behind(f.Making)) > 0,
			UsedBy:   len(f.uses(d.ID)),
			Items:    len(points),
		}
		for _, p := range points {
			if p.State == document.Open {
				card.Open++
			}
		}
		out.Documents = append(out.Documents, card)
	}
	for _, k := range document.Kinds {
		out.Kinds = append(out.Kinds, KindChoice{k, kindNames[k]})
	}
	return out, nil
}

func (a *Area) newDocument(c *base.Call, in NewDocument) (DocumentDetail, error) {
	if !slices.Contains(document.Kinds, in.Kind) {
		return DocumentDetail{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "No such kind",
			Detail: fmt.Sprintf("%q is no kind of document.", in.Kind),
		}
	}
	title := strings.TrimSpace(in.Title)
	err := a.changeDocuments(
		c,
		func(st *store.Store, f Folder, list []document.Document) ([]document.Document, history.Deed, error) {
			base := base.Slug(cmp.Or(title, string(in.Kind)), string(in.Kind))
			d := document.Document{ID: base, Kind: in.Kind}
			for n := 2; ; n++ {
				_, taken := document.Get(list, d.ID)
				// One that was removed keeps its address.
				kept, err := st.DocumentVersions(c.Request.Context(), c.Site, d.ID)
				if err != nil {
					return nil, history.Deed{}, err
				}
				if !taken && len(kept) == 0 && !audience.Reserved(d.ID) {
					break
				}
				d.ID = fmt.Sprintf("%s-%d", base, n)
			}
			if title != "" {
				d.Titles = map[string]string{f.site.Language: title}
			}
			c.Document = d.ID
			return append(slices.Clone(list), d), f.did(history.BeganDocument, d), nil
		},
	)
	if err != nil {
		return DocumentDetail{}, err
	}
	return base.Done(a.documentDetail(c, DocumentAsk{}))
}

// changeDocuments replaces the list of a site's documents by what a function makes
// of it, in one transaction; act is what was done, "" where history need not say
// it again.
func (a *Area) changeDocuments(
	c *base.Call,
	change func(*store.Store, Folder, []document.Document) (list []document.Document, deed history.Deed, err error),
) error {
	ctx := c.Request.Context()
	err := a.Together(c, func(st *store.Store) error {
		f, err := Open(a.Base, c, st)
		if err != nil {
			return err
		}
		list, deed, err := change(st, f, f.site.Documents)
		if err != nil {
			return err
		}
		site := f.site.Site
		site.Documents = list
		if faults := base.CheckShape("Site", site); faults != nil {
			return faults
		}
		if faults := document.Check(list); faults != nil {
			return faults
		}
		return st.PutSite(
			ctx,
			site,
			f.site.Revision,
			store.Entry{At: a.Clock.Now(), By: c.By(), Deed: deed, Line: site.Name},
		)
	})
	if err != nil {
		return err
	}
	a.Hub.Changed(ctx, c.Site)
	return nil
}

// changeOne is changeDocuments of the one that a call is about, which has to
// be as it was when whoever changes it opened it.
func (a *Area) changeOne(
	c *base.Call,
	mark string,
	change func(*store.Store, Folder, document.Document) (document.Document, history.Deed, error),
) error {
	return a.changeDocuments(
		c,
		func(st *store.Store, f Folder, list []document.Document) ([]document.Document, history.Deed, error) {
			i := slices.IndexFunc(list, func(d document.Document) bool { return d.ID == c.Document })
			if i < 0 {
				return nil, history.Deed{}, store.ErrNotFound
			}
			if list[i].Mark() != mark {
				return nil, history.Deed{}, problem.Problem{Status: http.StatusConflict, Title: "Changed meanwhile",
					Detail: "Someone else changed this document after you opened it. Theirs is in place; what you wrote is still in " +
						"front of you. Load theirs, or write it again."}
			}
			d, deed, err := change(st, f, list[i])
			list = slices.Clone(list)
			list[i] = d
			return list, deed, err
		},
	)
}

func (a *Area) changeDocument(c *base.Call, in DocumentChange) (DocumentDetail, error) {
	err := a.changeOne(
		c,
		in.Mark,
		func(st *store.Store, f Folder, d document.Document) (document.Document, history.Deed, error) {
			evidence, err := st.Evidence(c.Request.Context(), c.Site)
			if err != nil {
				return d, history.Deed{}, err
			}
			// Only the first change since it was last out is a line of history.
			deed := f.did(history.ChangedDocument, d)
			if d.Version > 0 && !d.Propose(f.Making, languagesOf(f.site.Site, d)).Nothing ||
				d.Version == 0 && len(d.Answers)+len(d.Own) > 0 {
				deed = history.Deed{}
			}
			d.Evidence = evidence
			d, faults := d.Written(f.Making, document.Writing{
				Titles:  in.Titles,
				Answers: in.Answers,
				Own:     in.Own,
				Read:    in.Read,
			})
			if faults != nil {
				return d, history.Deed{}, faults
			}
			return d, deed, nil
		},
	)
	if err != nil {
		return DocumentDetail{}, err
	}
	return base.Done(a.documentDetail(c, DocumentAsk{Language: in.Language}))
}

func (a *Area) publishDocument(c *base.Call, in DocumentPublish) (DocumentDetail, error) {
	err := a.changeOne(
		c,
		in.Mark,
		func(st *store.Store, f Folder, d document.Document) (document.Document, history.Deed, error) {
			evidence, err := st.Evidence(c.Request.Context(), c.Site)
			if err != nil {
				return d, history.Deed{}, err
			}
			d.Evidence = evidence
			languages, why := languagesOf(f.site.Site, d), strings.TrimSpace(in.Why)
			d, v, err := d.Publish(f.Making, languages, in.Change, why, c.Person.Name, a.Clock.Now())
			if err != nil {
				return d, history.Deed{}, err
			}
			deed := f.did(history.PublishedDocument, d, strconv.Itoa(v.Number))
			return d, deed, st.AddDocumentVersion(c.Request.Context(), c.Site, d.ID, v)
		},
	)
	if err != nil {
		return DocumentDetail{}, err
	}
	return base.Done(a.documentDetail(c, DocumentAsk{Language: in.Language}))
}

// languagesOf returns the languages that a document is published in: the site's,
// and those that it has words of its own in.
func languagesOf(s bundle.Site, d document.Document) []string {
	out := s.AllLanguages()
	for _, byTag := range d.Own {
		for tag := range byTag {
			if !slices.Contains(out, tag) {
				out = append(out, tag)
			}
		}
	}
	slices.Sort(out[len(s.AllLanguages()):])
	return out
}

func (a *Area) deleteDocument(c *base.Call, _ base.Nothing) (DocumentList, error) {
	err := a.changeDocuments(
		c,
		func(_ *store.Store, f Folder, list []document.Document) ([]document.Document, history.Deed, error) {
			d, ok := document.Get(list, c.Document)
			if !ok {
				return nil, history.Deed{}, store.ErrNotFound
			}
			if uses := f.uses(d.ID); len(uses) > 0 {
				var names []string
				for _, u := range uses {
					names = append(names, "“"+u.Title+"”")
				}
				return nil, history.Deed{}, problem.Problem{
					Status: http.StatusConflict,
					Title:  "Still used",
					Detail: usedBy(names) + ". Take it out there first. Nothing was removed.",
				}
			}
			rest := slices.DeleteFunc(slices.Clone(list), func(o document.Document) bool { return o.ID == d.ID })
			return rest, f.did(history.RemovedDocument, d), nil
		},
	)
	if err != nil {
		return DocumentList{}, err
	}
	return base.Done(a.documents(c, base.Nothing{}))
}

// usedBy says who uses a document.
func usedBy(names []string) string {
	if len(names) == 1 {
		return names[0] + " leads to it"
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1] + " lead to it"
}

// linkDocument puts a link to a document into the draft of a notice, in each
// language in which it leads nowhere yet.
func (a *Area) linkDocument(c *base.Call, in DocumentLink) (DocumentDetail, error) {
	ctx := c.Request.Context()
	f, err := Open(a.Base, c, a.Store)
	if err != nil {
		return DocumentDetail{}, err
	}
	d, ok := document.Get(f.site.Documents, c.Document)
	if !ok {
		return DocumentDetail{}, store.ErrNotFound
	}
	row, err := a.Store.Notice(ctx, c.Site, in.Notice)
	if err == nil && row.Deleted {
		err = store.ErrNotFound
	}
	if err != nil {
		return DocumentDetail{}, err
	}
	n := row.Working()
	for tag, w := range n.Wordings() {
		if w.Link == nil && w.Details == "" {
			w.Link = notices.LinkTo(d, tag, f.site.Language)
			n = viewpoint.WithWording(n, tag, w)
		}
	}
	n.Content.Wordings = wording.Marked(row.Working().Wordings(), n.Content.Wordings, f.site.Language)
	if _, err := a.ChangeNotice(c, a.Store, in.Notice, row.Revision, func(row *store.Notice, _ int) (store.Entry, error) {
		row.Draft = &n
		return a.Entry(c, f.site.Site, n, history.Linked.With(d.Title(f.site.Language, f.site.Language))), nil
	}); err != nil {
		return DocumentDetail{}, err
	}
	a.Hub.Changed(ctx, c.Site)
	return base.Done(a.documentDetail(c, DocumentAsk{}))
}

func (a *Area) takeAway(c *base.Call, in DocumentFileAsk) (DocumentFile, error) {
	f, err := Open(a.Base, c, a.Store)
	if err != nil {
		return DocumentFile{}, err
	}
	d, ok := document.Get(f.site.Documents, c.Document)
	if !ok {
		return DocumentFile{}, store.ErrNotFound
	}
	tag := lookup.Choose(languagesOf(f.site.Site, d), in.Language, f.site.Language)
	t, complete := d.Text(f.Making, tag)
	if !complete {
		return DocumentFile{}, base.Refuse("This language has sections without words. Write them first.")
	}
	t.Text = document.Linked(t.Text, func(id string) string { return f.site.DocumentAddress(id, tag, a.Address) })
	file, err := t.As(in.As, tag)
	if errors.Is(err, document.ErrForm) {
		return DocumentFile{}, problem.Problem{
			Status: http.StatusBadRequest,
			Title:  "Not understood",
			Detail: fault.Sentence(err.Error()),
		}
	}
	return DocumentFile{d.ID + "." + tag + file.Extension, file.Text}, err
}
