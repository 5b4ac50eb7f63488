package admin

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
	"mastflag/core/markup"
	"mastflag/core/wording"
	"mastflag/core/xliff"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// languageStates says how a notice's words stand in each language of a site.
func languageStates(n bundle.Notice, site bundle.Site) []LanguageState {
	out := []LanguageState{}
	for _, tag := range site.AllLanguages() {
		out = append(out, LanguageState{tag, wording.StateOf(n.Wordings(), tag, site.Language)})
	}
	return out
}

// another returns the site, having made sure that a language is one of it to
// translate into.
func (a *Admin) another(c *call, tag string) (store.Site, error) {
	site, err := a.Store.Site(c.Request.Context(), c.site)
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

func (a *Admin) writeXLIFF(c *call, in XLIFFAsk) (XLIFFFile, error) {
	site, err := a.another(c, in.Language)
	if err != nil {
		return XLIFFFile{}, err
	}
	rows, err := a.Store.Notices(c.Request.Context(), c.site)
	if err != nil {
		return XLIFFFile{}, err
	}
	d := xliff.Document{Source: site.Language, Target: in.Language}
	for _, row := range rows {
		if in.Document == "" && (in.Notice == "" || row.ID == in.Notice) {
			n := row.Working()
			d.Texts = append(d.Texts, xliff.Text{
				Notice: n.ID,
				Title:  n.GetTitle(),
				From:   n.Wordings()[site.Language],
				To:     n.Wordings()[in.Language],
			})
		}
	}
	if in.Notice == "" {
		f, err := a.folder(c, a.Store)
		if err != nil {
			return XLIFFFile{}, err
		}
		d.Texts = append(d.Texts, documentTexts(site, f.making, in.Language, in.Document)...)
	}
	var b strings.Builder
	if err := xliff.Write(&b, d); err != nil {
		return XLIFFFile{}, err
	}
	name := c.site
	if only := cmp.Or(in.Notice, in.Document); only != "" {
		name = only
	}
	return XLIFFFile{fmt.Sprintf("%s.%s-%s.xlf", name, site.Language, in.Language), b.String()}, nil
}

func (a *Admin) readXLIFF(c *call, in XLIFFFile) (Translated, error) {
	d, err := xliff.Read(strings.NewReader(in.Text))
	if err != nil {
		return Translated{}, err
	}
	site, err := a.another(c, d.Target)
	if err != nil {
		return Translated{}, err
	}
	out := Translated{Language: d.Target, Changed: []string{}, Left: []string{}}
	err = a.Store.Together(c.Request.Context(), func(st *store.Store) error {
		for _, t := range d.Texts {
			if !t.To.HasWords() {
				out.Left = append(out.Left, t.Notice+": it has no translation yet")
				continue
			}
			take := func() (string, bool, error) { return a.takeTranslation(c, st, site.Site, d.Target, t) }
			if _, _, ok := sectionOf(t.Notice); ok {
				take = func() (string, bool, error) { return a.takeSection(c, st, d.Target, t) }
			}
			title, changed, err := take()
			var faults fault.Faults
			switch {
			case errors.Is(err, store.ErrNotFound):
				out.Left = append(out.Left, t.Notice+": there is no such text")
			case errors.As(err, &faults):
				out.Left = append(out.Left, t.Notice+": "+faults[0].What)
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
	a.Hub.Changed(c.Request.Context(), c.site)
	return out, nil
}

// takeTranslation puts a translator's text into the draft of a notice.
func (a *Admin) takeTranslation(
	c *call,
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
	from := t.From
	from = from.MapHTML(func(_, html string) string { return markup.Sanitise(html) })
	w := wording.Translated(n.Wordings(), site.Language, tag, t.To, from)
	if have := n.Wordings()[tag]; w.Mark() == have.Mark() && w.SourceMark == have.SourceMark && !have.Unread {
		return n.GetTitle(), false, nil
	}
	n = withWording(n, tag, w)
	if faults := n.Check(site); faults != nil {
		return n.GetTitle(), false, faults
	}
	_, err = st.Change(ctx, site.Key, row.ID, row.Revision, func(row *store.Notice, _ int) (store.Entry, error) {
		row.Draft = &n
		return a.entry(c, site, n, history.Translated.With(tag)), nil
	})
	return n.GetTitle(), true, err
}

// withWording returns the notice with a wording in place of another; the
// given one stays as it is.
func withWording(n bundle.Notice, tag string, w bundle.Wording) bundle.Notice {
	content := bundle.Content{}
	if n.Content != nil {
		content = *n.Content
	}
	content.Wordings = maps.Clone(content.Wordings)
	if content.Wordings == nil {
		content.Wordings = map[string]bundle.Wording{}
	}
	content.Wordings[tag] = w
	n.Content = &content
	return n
}

func (a *Admin) translate(c *call, in TranslateAsk) (NoticeDetail, error) {
	site, err := a.another(c, in.Language)
	if err != nil {
		return NoticeDetail{}, err
	}
	return a.act(c, Step{Revision: in.Revision}, history.Drafted.With(in.Language), func(row *store.Notice, _ int) error {
		n := row.Working()
		from := n.Wordings()[site.Language]
		if !from.HasWords() {
			return refuse("There is nothing to translate. Write it in the site’s own language first.")
		}
		w := wording.Translated(
			n.Wordings(), site.Language, in.Language, standin.Translate(from, site.Language, in.Language), from,
		)
		w.Unread = true
		n = withWording(n, in.Language, w)
		row.Draft = &n
		return nil
	})
}
