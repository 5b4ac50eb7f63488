// Package languages is texts in other languages: to a translator and back.
package languages

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/phrase"
	"mastflag/core/rights"
	"mastflag/core/wording"
	"mastflag/core/xliff"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/documents"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// Area is that part of the API.
type Area struct {
	*base.Base
	Notices *notices.Area
}

// Routes are its calls.
func (a *Area) Routes() []base.Route {
	return []base.Route{
		base.Get("/api/sites/:site/phrases", "What the program says to visitors, in a language.", a.phrases),
		base.Get("/api/sites/:site/xliff", "Texts for a translator, XLIFF 2.1.", a.writeXLIFF),
		base.Post("/api/sites/:site/xliff", "Texts back from a translator.", a.readXLIFF),
		base.Post(
			"/api/sites/:site/notices/:notice/translate",
			"Have a draft translated; nobody gets it before it is read.",
			a.translate,
		),
	}
}

func (a *Area) phrases(_ *base.Call, in PhraseAsk) (PhraseList, error) {
	out := PhraseList{Language: in.Language, State: phrase.StateOf(in.Language), Rows: []PhraseRow{}}
	text := phrase.In(in.Language)
	if out.State == phrase.IsDraft {
		text = phrase.Words(phrase.Draft(in.Language))
	}
	for _, r := range phrase.Table {
		row := PhraseRow{Key: r.Key, Use: r.Use, Means: r.Means, Limit: r.Limit(), English: phrase.In("en")[r.Key]}
		if out.State != phrase.IsNone {
			row.Text = text[r.Key]
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// another returns the site, having made sure that a language is one of it to
// translate into.
func (a *Area) another(c *base.Call, tag string) (store.Site, error) {
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	if err != nil {
		return site, err
	}
	if tag == site.Language || !slices.Contains(site.AllLanguages(), tag) {
		return site, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "No such language",
			Detail: fmt.Sprintf(
				"%q is not a language of this site that texts are translated into. Add it in the Site room.", tag,
			),
		}
	}
	return site, nil
}

func (a *Area) writeXLIFF(c *base.Call, in XLIFFAsk) (XLIFFFile, error) {
	site, err := a.another(c, in.Language)
	if err != nil {
		return XLIFFFile{}, err
	}
	rows, err := a.Store.Notices(c.Request.Context(), c.Site)
	if err != nil {
		return XLIFFFile{}, err
	}
	d := xliff.Document{Source: site.Language, Target: in.Language}
	for _, row := range rows {
		if in.Document == "" && (in.Notice == "" || row.ID == in.Notice) {
			n := row.Working()
			from := n.Wordings()[site.Language]
			from.Words = site.PhrasesToTranslate(n, in.Language)
			d.Texts = append(d.Texts, xliff.Text{
				Notice: n.ID,
				Title:  n.GetTitle(),
				From:   from,
				To:     n.Wordings()[in.Language],
			})
			d.Texts = append(d.Texts, variantTexts(n, site.Language, in.Language)...)
		}
	}
	if in.Notice == "" {
		f, err := documents.Open(a.Base, c, a.Store)
		if err != nil {
			return XLIFFFile{}, err
		}
		d.Texts = append(d.Texts, documents.DocumentTexts(site, f.Making, in.Language, in.Document)...)
	}
	var b strings.Builder
	if err := xliff.Write(&b, d); err != nil {
		return XLIFFFile{}, err
	}
	name := c.Site
	if only := cmp.Or(in.Notice, in.Document); only != "" {
		name = only
	}
	return XLIFFFile{fmt.Sprintf("%s.%s-%s.xlf", name, site.Language, in.Language), b.String()}, nil
}

func (a *Area) readXLIFF(c *base.Call, in XLIFFFile) (Translated, error) {
	d, err := xliff.Read(strings.NewReader(in.Text))
	if err != nil {
		return Translated{}, err
	}
	site, err := a.another(c, d.Target)
	if err != nil {
		return Translated{}, err
	}
	out := Translated{Language: d.Target, Changed: []string{}, Left: []string{}}
	err = a.Together(c, func(st *store.Store) error {
		for _, t := range d.Texts {
			notice, variant, ofVariant := strings.Cut(t.Notice, ".")
			if !t.To.HasWords() && (!ofVariant || t.To.Mark() == (bundle.Wording{}).Mark()) {
				out.Left = append(out.Left, t.Notice+": it has no translation yet")
				continue
			}
			take := func() (string, bool, error) { return a.takeTranslation(c, st, site.Site, d.Target, t) }
			if ofVariant {
				take = func() (string, bool, error) { return a.takeVariant(c, st, site.Site, d.Target, notice, variant, t) }
			}
			if _, _, ok := documents.SectionOf(t.Notice); ok {
				take = func() (string, bool, error) { return documents.TakeSection(a.Base, c, st, d.Target, t) }
			}
			title, changed, err := take()
			var faults fault.Faults
			var refused rights.Refusal
			switch {
			case errors.Is(err, store.ErrNotFound):
				out.Left = append(out.Left, t.Notice+": there is no such text")
			case errors.As(err, &faults):
				out.Left = append(out.Left, t.Notice+": "+faults[0].What)
			case errors.As(err, &refused):
				out.Left = append(out.Left, t.Notice+": "+refused.What)
			case err != nil:
				return err
			case changed && !slices.Contains(out.Changed, title):
				out.Changed = append(out.Changed, title)
			}
		}
		return nil
	})
	if err != nil {
		return Translated{}, err
	}
	a.Hub.Changed(c.Request.Context(), c.Site)
	return out, nil
}

// takeTranslation puts a translator's text into the draft of a notice.
func (a *Area) takeTranslation(
	c *base.Call,
	st *store.Store,
	site bundle.Site,
	tag string,
	t xliff.Text,
) (title string, changed bool, err error) {
	ctx := c.Request.Context()
	row, err := st.Notice(ctx, site.Key, t.Notice)
	if err == nil && row.Deleted {
		err = store.ErrNotFound
	}
	if err != nil {
		return "", false, err
	}
	n := row.Working()
	from := t.From.Sanitised()
	// What the program says itself is no part of the text that it was made from.
	own := n.Wordings()[site.Language].Words
	maps.DeleteFunc(from.Words, func(k phrase.Key, _ string) bool { return own[k] == "" })
	if len(from.Words) == 0 {
		from.Words = nil
	}
	w := wording.Translated(n.Wordings(), site.Language, tag, t.To, from)
	if have := n.Wordings()[tag]; w.Mark() == have.Mark() && w.SourceMark == have.SourceMark && !have.Unread {
		return n.GetTitle(), false, nil
	}
	return a.keepTranslation(c, st, site, row, viewpoint.WithWording(n, tag, w), tag)
}

// keepTranslation makes a notice with a translator's text in it the draft.
func (a *Area) keepTranslation(
	c *base.Call, st *store.Store, site bundle.Site, row store.Notice, n bundle.Notice, tag string,
) (title string, changed bool, err error) {
	if faults := n.Check(site); faults != nil {
		return n.GetTitle(), false, faults
	}
	_, err = a.ChangeNotice(c, st, row.ID, row.Revision,
		func(row *store.Notice, _ int) (store.Entry, error) {
			row.Draft = &n
			return a.Entry(c, site, n, history.Translated.With(tag)), nil
		})
	return n.GetTitle(), true, err
}

// variantTexts are what a notice's variants say otherwise, each as a text NOTICE.VARIANT.
func variantTexts(n bundle.Notice, source, target string) (out []xliff.Text) {
	if n.Experiment == nil {
		return nil
	}
	names := n.Experiment.VariantNames()
	for _, v := range n.Experiment.Variants {
		out = append(out, xliff.Text{
			Notice: n.ID + "." + v.ID,
			Title:  n.GetTitle() + ", variant " + names[v.ID],
			From:   v.Wordings[source],
			To:     v.Wordings[target],
		})
	}
	return out
}

// takeVariant puts a translator's text into a variant of the draft of a notice.
func (a *Area) takeVariant(
	c *base.Call, st *store.Store, site bundle.Site, tag, notice, variant string, t xliff.Text,
) (title string, changed bool, err error) {
	row, err := st.Notice(c.Request.Context(), site.Key, notice)
	if err != nil || row.Deleted {
		return "", false, cmp.Or(err, store.ErrNotFound)
	}
	n := row.Working()
	if n.Experiment == nil {
		return "", false, store.ErrNotFound
	}
	experiment := *n.Experiment
	experiment.Variants = slices.Clone(experiment.Variants)
	n.Experiment = &experiment
	k := slices.IndexFunc(experiment.Variants, func(v bundle.Variant) bool { return v.ID == variant })
	if k < 0 {
		return "", false, store.ErrNotFound
	}
	v := &experiment.Variants[k]
	w := wording.Translated(v.Wordings, site.Language, tag, t.To, t.From.Sanitised())
	w.SourceMark = "" // that of the notice's own words says whether a translation is old
	if w.Mark() == v.Wordings[tag].Mark() {
		return n.GetTitle(), false, nil
	}
	if v.Wordings = maps.Clone(v.Wordings); v.Wordings == nil {
		v.Wordings = map[string]bundle.Wording{}
	}
	v.Wordings[tag] = w
	return a.keepTranslation(c, st, site, row, n, tag)
}

func (a *Area) translate(c *base.Call, in TranslateAsk) (notices.NoticeDetail, error) {
	site, err := a.another(c, in.Language)
	if err != nil {
		return notices.NoticeDetail{}, err
	}
	return a.Notices.Act(
		c,
		notices.Step{Revision: in.Revision},
		history.Drafted.With(in.Language),
		func(row *store.Notice, _ int) error {
			n := row.Working()
			from := n.Wordings()[site.Language]
			if !from.HasWords() {
				return base.Refuse("There is nothing to translate. Write it in the site’s own language first.")
			}
			w := wording.Translated(
				n.Wordings(), site.Language, in.Language, standin.Translate(from, site.Language, in.Language), from,
			)
			w.Unread = true
			w = site.Drafted(n, w, from, in.Language)
			n = viewpoint.WithWording(n, in.Language, w)
			row.Draft = &n
			return nil
		},
	)
}
