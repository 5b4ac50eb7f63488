package admin

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/lookup"
	"mastflag/core/markup"
	"mastflag/core/wording"
	"mastflag/core/xliff"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// kindNames are what kinds of documents are called here.
var kindNames = map[document.Kind]string{
	document.Privacy:       "Privacy notice",
	document.Cookies:       "Cookie statement",
	document.Terms:         "Terms of use",
	document.Accessibility: "Accessibility statement",
	document.Disclaimer:    "Disclaimer",
	document.Own:           "Text of your own",
}

// A folder is a site with its documents and what they are made from, as it is
// kept now.
type folder struct {
	site    store.Site
	notices []bundle.Notice // as they are worked on, and where it differs as they are out
	making  document.Site
}

func (a *Admin) folder(c *call, st *store.Store) (folder, error) {
	ctx := c.Request.Context()
	site, err := st.Site(ctx, c.site)
	if err != nil {
		return folder{}, err
	}
	rows, err := st.Notices(ctx, c.site)
	if err != nil {
		return folder{}, err
	}
	f := folder{site: site}
	var out []bundle.Notice
	for _, r := range rows {
		out = append(out, r.Out())
		f.notices = append(f.notices, r.Working())
		if r.Draft != nil && r.Published != nil {
			f.notices = append(f.notices, r.Out())
		}
	}
	f.making = site.Making(out)
	return f, nil
}

// did says what was done with a document.
func (f folder) did(act history.Act, d document.Document, args ...string) history.Deed {
	return act.With(append(args, d.Title(f.site.Language, f.site.Language))...)
}

// uses returns the notices that lead to a document, show it or are about it.
func (f folder) uses(id string) []DocumentUse {
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

func (a *Admin) documents(c *call, _ Nothing) (DocumentList, error) {
	f, err := a.folder(c, a.Store)
	if err != nil {
		return DocumentList{}, err
	}
	out := DocumentList{Documents: []DocumentCard{}, Kinds: []KindChoice{}}
	for _, d := range f.site.Documents {
		_, points := d.Sections(f.making, f.site.Language)
		card := DocumentCard{
			ID:       d.ID,
			Kind:     d.Kind,
			KindName: kindNames[d.Kind],
			Title:    d.Title(f.site.Language, f.site.Language),
			Version:  d.Version,
			Since:    d.Since,
			Behind:   len(d.Behind(f.making)) > 0,
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

func (a *Admin) newDocument(c *call, in NewDocument) (DocumentDetail, error) {
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
		func(st *store.Store, f folder, list []document.Document) ([]document.Document, history.Deed, error) {
			base := slug(cmp.Or(title, string(in.Kind)), string(in.Kind))
			d := document.Document{ID: base, Kind: in.Kind}
			for n := 2; ; n++ {
				_, taken := document.Get(list, d.ID)
				// One that was removed keeps its address.
				kept, err := st.DocumentVersions(c.Request.Context(), c.site, d.ID)
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
			c.document = d.ID
			return append(slices.Clone(list), d), f.did(history.BeganDocument, d), nil
		},
	)
	if err != nil {
		return DocumentDetail{}, err
	}
	return done(a.documentDetail(c, DocumentAsk{}))
}

// changeDocuments replaces the list of a site's documents by what a function makes
// of it, in one transaction; act is what was done, "" where history need not say
// it again.
func (a *Admin) changeDocuments(
	c *call,
	change func(*store.Store, folder, []document.Document) (list []document.Document, deed history.Deed, err error),
) error {
	ctx := c.Request.Context()
	err := a.Store.Together(ctx, func(st *store.Store) error {
		f, err := a.folder(c, st)
		if err != nil {
			return err
		}
		list, deed, err := change(st, f, f.site.Documents)
		if err != nil {
			return err
		}
		site := f.site.Site
		site.Documents = list
		if faults := checkShape("Site", site); faults != nil {
			return faults
		}
		if faults := document.Check(list); faults != nil {
			return faults
		}
		return st.PutSite(
			ctx,
			site,
			f.site.Revision,
			store.Entry{At: a.Clock.Now(), By: c.by(), Deed: deed, Line: site.Name},
		)
	})
	if err != nil {
		return err
	}
	a.Hub.Changed(ctx, c.site)
	return nil
}

// changeOne is changeDocuments of the one that a call is about, which has to
// be as it was when whoever changes it opened it.
func (a *Admin) changeOne(
	c *call,
	mark string,
	change func(*store.Store, folder, document.Document) (document.Document, history.Deed, error),
) error {
	return a.changeDocuments(
		c,
		func(st *store.Store, f folder, list []document.Document) ([]document.Document, history.Deed, error) {
			i := slices.IndexFunc(list, func(d document.Document) bool { return d.ID == c.document })
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

func (a *Admin) changeDocument(c *call, in DocumentChange) (DocumentDetail, error) {
	err := a.changeOne(
		c,
		in.Mark,
		func(st *store.Store, f folder, d document.Document) (document.Document, history.Deed, error) {
			evidence, err := st.Evidence(c.Request.Context(), c.site)
			if err != nil {
				return d, history.Deed{}, err
			}
			// Only the first change since it was last out is a line of history.
			deed := f.did(history.ChangedDocument, d)
			if d.Version > 0 && !d.Propose(f.making, languagesOf(f.site.Site, d)).Nothing ||
				d.Version == 0 && len(d.Answers)+len(d.Own) > 0 {
				deed = history.Deed{}
			}
			d.Evidence = evidence
			d, faults := d.Written(f.making, document.Writing{
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
	return done(a.documentDetail(c, DocumentAsk{Language: in.Language}))
}

func (a *Admin) publishDocument(c *call, in DocumentPublish) (DocumentDetail, error) {
	err := a.changeOne(
		c,
		in.Mark,
		func(st *store.Store, f folder, d document.Document) (document.Document, history.Deed, error) {
			evidence, err := st.Evidence(c.Request.Context(), c.site)
			if err != nil {
				return d, history.Deed{}, err
			}
			d.Evidence = evidence
			languages, why := languagesOf(f.site.Site, d), strings.TrimSpace(in.Why)
			d, v, err := d.Publish(f.making, languages, in.Change, why, c.person.Name, a.Clock.Now())
			if err != nil {
				return d, history.Deed{}, err
			}
			deed := f.did(history.PublishedDocument, d, strconv.Itoa(v.Number))
			return d, deed, st.AddDocumentVersion(c.Request.Context(), c.site, d.ID, v)
		},
	)
	if err != nil {
		return DocumentDetail{}, err
	}
	return done(a.documentDetail(c, DocumentAsk{Language: in.Language}))
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

func (a *Admin) deleteDocument(c *call, _ Nothing) (DocumentList, error) {
	err := a.changeDocuments(
		c,
		func(_ *store.Store, f folder, list []document.Document) ([]document.Document, history.Deed, error) {
			d, ok := document.Get(list, c.document)
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
	return done(a.documents(c, Nothing{}))
}

// usedBy says who uses a document.
func usedBy(names []string) string {
	if len(names) == 1 {
		return names[0] + " leads to it"
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1] + " lead to it"
}

func (a *Admin) documentDetail(c *call, in DocumentAsk) (DocumentDetail, error) {
	ctx := c.Request.Context()
	f, err := a.folder(c, a.Store)
	if err != nil {
		return DocumentDetail{}, err
	}
	s := f.site.Site
	d, ok := document.Get(s.Documents, c.document)
	if !ok {
		return DocumentDetail{}, store.ErrNotFound
	}
	mark := d.Mark()
	if d.Evidence, err = a.Store.Evidence(ctx, c.site); err != nil {
		return DocumentDetail{}, err
	}
	tag := cmp.Or(in.Language, s.Language)
	languages := languagesOf(s, d)
	out := DocumentDetail{
		ID:        d.ID,
		Kind:      d.Kind,
		KindName:  kindNames[d.Kind],
		Mark:      mark,
		Title:     d.Title(tag, s.Language),
		Titles:    d.Titles,
		Answers:   d.Answers,
		Own:       d.Own,
		Language:  tag,
		Ready:     document.ReadyIn(tag) != "",
		Languages: []DocumentLanguage{},
		Version:   d.Version,
		Material:  d.Material,
		Since:     d.Since,
		Versions:  []VersionCard{},
		Uses:      f.uses(d.ID),
		Offers:    []DocumentUse{},
		Address:   a.Base + document.Path(s.Key, d.ID, "", 0),
		Behind:    d.Behind(f.making),
		Proposal:  d.Propose(f.making, languages),
		Evidence:  d.Evidence,
	}
	out.Sections, out.Points = d.Sections(f.making, tag)
	out.Changed = []document.Piece{}
	if now, ok := d.Text(f.making, tag); ok && d.Version > 0 && !out.Proposal.Nothing {
		before, _ := d.In(tag, s.Language)
		out.Changed = document.Compare(before, now)
	}
	answered := d.Answered(f.making)
	out.Questions = []QuestionCard{}
	for _, q := range document.Questions(d.Kind, answered) {
		card := QuestionCard{Question: q, Answer: answered[q.ID]}
		if d.Answers[q.ID] == "" && card.Answer != "" {
			for _, o := range s.Documents {
				if o.ID != d.ID && o.Answers[q.ID] == card.Answer {
					card.From = o.Title(s.Language, s.Language)
					break
				}
			}
		}
		out.Questions = append(out.Questions, card)
	}
	for _, l := range languages {
		_, complete := d.Text(f.making, l)
		state := DocumentLanguage{
			Tag:      l,
			Complete: complete,
			Ready:    document.ReadyIn(l) != "",
			Out:      d.Published[l].Text != "",
		}
		if !d.Titled(l) {
			state.Missing++
		}
		sections, _ := d.Sections(f.making, l)
		for _, sec := range sections {
			switch sec.From {
			case document.Missing:
				state.Missing++
			case document.Again:
				state.Again++
			}
		}
		out.Languages = append(out.Languages, state)
	}
	versions, err := a.Store.DocumentVersions(ctx, c.site, d.ID)
	if err != nil {
		return DocumentDetail{}, err
	}
	for _, v := range slices.Backward(versions) {
		out.Versions = append(
			out.Versions,
			VersionCard{Number: v.Number, Change: v.Change, Proposed: v.Proposed, Why: v.Why, At: v.At, By: v.By,
				Address: a.Base + document.Path(s.Key, d.ID, s.Language, v.Number)},
		)
	}
	// Where it could be linked: consent notices that lead nowhere yet.
	for _, n := range f.notices {
		leads := func(w bundle.Wording) bool {
			return w.Link != nil || len(markup.Links(w.Message)) > 0 || w.Details != ""
		}
		some := slices.Collect(maps.Values(n.Wordings()))
		if d.Kind == document.Privacy && n.Kind == bundle.KindConsent && len(some) > 0 &&
			!slices.ContainsFunc(some, leads) {
			out.Offers = append(out.Offers, DocumentUse{Notice: n.ID, Title: n.GetTitle(), Kind: string(n.Kind)})
		}
	}
	return out, nil
}

// linkDocument puts a link to a document into the draft of a notice, in each
// language in which it leads nowhere yet.
func (a *Admin) linkDocument(c *call, in DocumentLink) (DocumentDetail, error) {
	ctx := c.Request.Context()
	f, err := a.folder(c, a.Store)
	if err != nil {
		return DocumentDetail{}, err
	}
	d, ok := document.Get(f.site.Documents, c.document)
	if !ok {
		return DocumentDetail{}, store.ErrNotFound
	}
	row, err := a.Store.Notice(ctx, c.site, in.Notice)
	if err == nil && row.Deleted {
		err = store.ErrNotFound
	}
	if err != nil {
		return DocumentDetail{}, err
	}
	n := row.Working()
	for tag, w := range n.Wordings() {
		if w.Link == nil && w.Details == "" {
			w.Link = linkTo(d, tag, f.site.Language)
			n = withWording(n, tag, w)
		}
	}
	n.Content.Wordings = wording.Marked(row.Working().Wordings(), n.Content.Wordings, f.site.Language)
	if _, err := a.Store.Change(ctx, c.site, in.Notice, row.Revision, func(row *store.Notice, _ int) (store.Entry, error) {
		row.Draft = &n
		return a.entry(c, f.site.Site, n, history.Linked.With(d.Title(f.site.Language, f.site.Language))), nil
	}); err != nil {
		return DocumentDetail{}, err
	}
	a.Hub.Changed(ctx, c.site)
	return done(a.documentDetail(c, DocumentAsk{}))
}

func (a *Admin) takeAway(c *call, in DocumentFileAsk) (DocumentFile, error) {
	f, err := a.folder(c, a.Store)
	if err != nil {
		return DocumentFile{}, err
	}
	d, ok := document.Get(f.site.Documents, c.document)
	if !ok {
		return DocumentFile{}, store.ErrNotFound
	}
	tag := lookup.Choose(languagesOf(f.site.Site, d), in.Language, f.site.Language)
	t, complete := d.Text(f.making, tag)
	if !complete {
		return DocumentFile{}, refuse("This language has sections without words. Write them first.")
	}
	t.Text = document.Linked(t.Text, func(id string) string { return f.site.DocumentAddress(id, tag, a.Base) })
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

// acknowledgements sums up what became of the site's disclaimers over 30 days.
func (a *Admin) acknowledgements(c *call, in TrendAsk) (DisclaimerCounts, error) {
	site := a.Hub.Site(c.site)
	if site == nil {
		return DisclaimerCounts{}, store.ErrNotFound
	}
	today := a.Clock.Now().In(site.Zone())
	from := cmp.Or(in.From, today.AddDate(0, 0, -29).Format(time.DateOnly))
	to := cmp.Or(in.To, today.Format(time.DateOnly))
	for _, day := range []string{from, to} {
		if _, err := time.Parse(time.DateOnly, day); err != nil {
			return DisclaimerCounts{}, problem.Problem{
				Status: http.StatusBadRequest,
				Title:  "Not a day",
				Detail: fmt.Sprintf("%q is not a day: write it like 2026-12-04.", day),
			}
		}
	}
	counts, err := a.Store.DisclaimerCounts(c.Request.Context(), c.site, from, to)
	if err != nil {
		return DisclaimerCounts{}, err
	}
	out := DisclaimerCounts{From: from, To: to, Rows: []DisclaimerCount{}}
	for _, t := range consent.DisclaimerTrends(counts) {
		title := t.Notice
		for _, n := range site.Bundle().Notices {
			if n.ID == t.Notice {
				title = n.GetTitle()
			}
		}
		out.Rows = append(out.Rows, DisclaimerCount{t, title})
	}
	return out, nil
}

// documentTexts are the sections of documents for a translator into a language:
// those that have no words of their own in it, and those written by hand.
func documentTexts(s store.Site, making document.Site, tag, only string) (out []xliff.Text) {
	for _, d := range s.Documents {
		if only != "" && d.ID != only {
			continue
		}
		sections, _ := d.Sections(making, tag)
		for _, sec := range sections {
			if sec.Source == "" || sec.From == document.Computed {
				continue
			}
			t := xliff.Text{
				Notice: documentFile(d.ID, sec.ID),
				Title:  d.Title(s.Language, s.Language) + ": " + sec.Title,
				From:   bundle.Wording{Message: sec.Source},
			}
			if own := d.Own[sec.ID][tag]; own != "" {
				t.To.Message = own
			}
			out = append(out, t)
		}
	}
	return out
}

// documentFile names a section in a translator's file, and sectionOf reads it.
func documentFile(id, section string) string { return document.Scheme + id + ":" + section }

func sectionOf(file string) (id, section string, ok bool) {
	rest, ok := strings.CutPrefix(file, document.Scheme)
	if !ok {
		return "", "", false
	}
	return strings.Cut(rest, ":")
}

// takeSection puts a translator's text into a section of a document.
func (a *Admin) takeSection(
	c *call,
	st *store.Store,
	tag string,
	t xliff.Text,
) (title string, changed bool, err error) {
	f, err := a.folder(c, st)
	if err != nil {
		return "", false, err
	}
	id, section, _ := sectionOf(t.Notice)
	site := f.site.Site
	i := slices.IndexFunc(site.Documents, func(d document.Document) bool { return d.ID == id })
	if i < 0 {
		return "", false, store.ErrNotFound
	}
	was := site.Documents[i]
	title = was.Title(site.Language, site.Language)
	d, faults := was.Translated(section, tag, t.To.Message, t.From.Message)
	if faults != nil {
		return "", false, faults
	}
	if d.Mark() == was.Mark() {
		return title, false, nil
	}
	site.Documents = slices.Clone(site.Documents)
	site.Documents[i] = d
	return title, true, st.PutSite(
		c.Request.Context(),
		site,
		f.site.Revision,
		store.Entry{
			At:   a.Clock.Now(),
			By:   c.by(),
			Deed: history.TranslatedDocument.With(title, tag),
			Line: site.Name,
		},
	)
}
