package documents

import (
	"slices"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/xliff"
	"mastflag/internal/admin/base"
	"mastflag/internal/history"
	"mastflag/internal/store"
)

// DocumentTexts are the sections of documents for a translator into a language:
// those that have no words of their own in it, and those written by hand.
func DocumentTexts(s store.Site, making document.Site, tag, only string) (out []xliff.Text) {
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

func SectionOf(file string) (id, section string, ok bool) {
	rest, ok := strings.CutPrefix(file, document.Scheme)
	if !ok {
		return "", "", false
	}
	return strings.Cut(rest, ":")
}

// TakeSection puts a translator's text into a section of a document.
func TakeSection(a *base.Base,
	c *base.Call,
	st *store.Store,
	tag string,
	t xliff.Text,
) (title string, changed bool, err error) {
	f, err := Open(a, c, st)
	if err != nil {
		return "", false, err
	}
	id, section, _ := SectionOf(t.Notice)
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
			By:   c.By(),
			Deed: history.TranslatedDocument.With(title, tag),
			Line: site.Name,
		},
	)
}
