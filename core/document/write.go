package document

import (
	"maps"
	"slices"
	"strings"

	"mastflag/core/fault"
	"mastflag/core/markup"
)

// A SectionRef names a section in a language.
type SectionRef struct {
	Section  string `json:"section"`
	Language string `json:"language"`
}

// A Writing is what a person has made of a document.
type Writing struct {
	Titles  map[string]string
	Answers map[string]string
	Own     map[string]map[string]string
	// Sections written by hand that were read again, and stay as they are.
	Read []SectionRef
}

// Written returns the document as a person left it. Of what they wrote by hand what
// no document may hold is taken out, and what is empty goes; a question that is not
// asked any more has no answer. A section that was changed, or read again, is marked
// with the text that it stands beside now (rule T1).
func (d Document) Written(s Site, in Writing) (Document, fault.Faults) {
	before := d.Own
	d.Titles, d.Answers, d.Own = filled(in.Titles), filled(in.Answers), nil
	for id, byTag := range in.Own {
		for tag, html := range byTag {
			if html = markup.SanitiseDocument(html); markup.Text(html) != "" {
				d.Own = put(d.Own, id, tag, html)
			}
		}
	}
	// An answer to no question at all is said; it is not merely out of use.
	if faults := d.Check(); faults != nil {
		return d, faults
	}
	// What is asked depends on answers: one less can make another idle.
	for had := -1; had != len(d.Answers); {
		had = len(d.Answers)
		asked := Questions(d.Kind, d.Answered(s))
		maps.DeleteFunc(d.Answers, func(id, _ string) bool {
			return !slices.ContainsFunc(asked, func(q Question) bool { return q.ID == id })
		})
	}
	s.Documents = slices.Clone(s.Documents)
	for i := range s.Documents {
		if s.Documents[i].ID == d.ID {
			s.Documents[i] = d
		}
	}
	marks := d.Of
	d.Of = nil
	for id, byTag := range d.Own {
		for tag, html := range byTag {
			of := marks[id][tag]
			if html != before[id][tag] || slices.Contains(in.Read, SectionRef{id, tag}) {
				of = d.sourceMark(s, id, tag)
			}
			d.Of = put(d.Of, id, tag, of)
		}
	}
	return d, nil
}

// Translated returns the document with a translator's text in a section, who had the
// source beside it.
func (d Document) Translated(id, tag, html, source string) (Document, fault.Faults) {
	d.Own = put(d.Own, id, tag, markup.SanitiseDocument(html))
	d.Of = put(d.Of, id, tag, mark(markup.SanitiseDocument(source)))
	return d, d.Check()
}

// filled returns the entries that are not empty; nil if none are.
func filled(m map[string]string) map[string]string {
	out := map[string]string{}
	for k, v := range m {
		if v = strings.TrimSpace(v); v != "" {
			out[k] = v
		}
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// put returns a table with a value in place; the given one stays as it is.
func put(m map[string]map[string]string, id, tag, v string) map[string]map[string]string {
	out := maps.Clone(m)
	if out == nil {
		out = map[string]map[string]string{}
	}
	row := maps.Clone(out[id])
	if row == nil {
		row = map[string]string{}
	}
	row[tag], out[id] = v, row
	return out
}
