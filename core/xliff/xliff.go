// Package xliff carries the texts of notices to a translator and back, in
// XLIFF 2.1 (OASIS Standard, 13 February 2018): a file for each notice, a unit
// for each text, HTML tags as inline codes whose originals lie in originalData.
package xliff

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/phrase"
)

// MaxSize is how large a document may be, in bytes.
const MaxSize = 8 << 20

const namespace = "urn:oasis:names:tc:xliff:document:2.0" // of 2.1 too, §1.2

// A Document is texts in a source language with their translations.
type Document struct {
	Source, Target string // BCP 47 tags
	Texts          []Text
}

// A Text is a notice's wording in both languages.
type Text struct {
	Notice string // id
	Title  string // working title, a note for the translator
	From   bundle.Wording
	To     bundle.Wording
}

// field is a part of a wording that is translated.
type field struct {
	id   string
	html bool
	get  func(bundle.Wording) string
	set  func(w *bundle.Wording, said string)
}

// own is a field of the wording itself, at the address that of gives.
func own(id string, html bool, of func(*bundle.Wording) *string) field {
	return field{
		id, html,
		func(w bundle.Wording) string { return *of(&w) },
		func(w *bundle.Wording, said string) { *of(w) = said },
	}
}

// ofPart is a field of a part of a block, at the address that of gives.
func ofPart(part, what string, html bool, of func(*bundle.PartWords) *string) field {
	return field{
		"part." + part + "." + what, html,
		func(w bundle.Wording) string {
			p := w.Parts[part]
			return *of(&p)
		},
		func(w *bundle.Wording, said string) {
			p := w.Parts[part]
			*of(&p) = said
			w.Parts = maps.Clone(w.Parts)
			if w.Parts == nil {
				w.Parts = map[string]bundle.PartWords{}
			}
			w.Parts[part] = p
		},
	}
}

// ofPhrase is what the program says, in words of the notice.
func ofPhrase(k phrase.Key) field {
	return field{
		"words." + string(k), false,
		func(w bundle.Wording) string { return w.Words[k] },
		func(w *bundle.Wording, said string) {
			w.Words = maps.Clone(w.Words)
			if w.Words == nil {
				w.Words = phrase.Own{}
			}
			w.Words[k] = said
		},
	}
}

// ofLink is the words of a link, at the address that of gives.
func ofLink(id string, of func(*bundle.Wording) **bundle.Link) field {
	return field{
		id, false,
		func(w bundle.Wording) string {
			if l := *of(&w); l != nil {
				return l.Label
			}
			return ""
		},
		func(w *bundle.Wording, said string) { *of(w) = &bundle.Link{Label: said} },
	}
}

var fields = []field{
	own("headline", false, func(w *bundle.Wording) *string { return &w.Headline }),
	own("message", true, func(w *bundle.Wording) *string { return &w.Message }),
	ofLink("label", func(w *bundle.Wording) **bundle.Link { return &w.Link }),
	ofLink("second", func(w *bundle.Wording) **bundle.Link { return &w.Second }),
	own("details", true, func(w *bundle.Wording) *string { return &w.Details }),
	own("afterEnd", true, func(w *bundle.Wording) *string { return &w.ExpiredMessage }),
	own("alt", false, func(w *bundle.Wording) *string { return &w.Alt }),
	own("confirm", false, func(w *bundle.Wording) *string { return &w.Confirm }),
	own("decline", false, func(w *bundle.Wording) *string { return &w.Decline }),
}

// earlierIDs are ids of units as files have them that were written before.
var earlierIDs = map[string]string{"longer": "details", "after": "afterEnd"}

// maxList is how many answers or links a part of a block may have.
const maxList = 20

// fieldsOf returns the fields of a wording: those that every one has, and those of
// the parts that it has words for.
func fieldsOf(w bundle.Wording) []field {
	out := slices.Clone(fields)
	for _, k := range slices.Sorted(maps.Keys(w.Words)) {
		out = append(out, ofPhrase(k))
	}
	for _, id := range w.PartIDs() {
		for _, what := range []string{"heading", "text", "alt", "thanks"} {
			f, _ := fieldNamed("part." + id + "." + what)
			out = append(out, f)
		}
		for i := range w.Parts[id].Answers {
			f, _ := fieldNamed(fmt.Sprintf("part.%s.answer.%d", id, i+1))
			out = append(out, f)
		}
		for i := range w.Parts[id].Links {
			f, _ := fieldNamed(fmt.Sprintf("part.%s.link.%d", id, i+1))
			out = append(out, f)
		}
	}
	return out
}

// fieldNamed returns the field of a unit's id: one that every wording has, or
// part.ID.WHAT or words.KEY, with a number from 1 after it where there can be several. ok is
// false if there is none.
func fieldNamed(id string) (f field, ok bool) {
	if now, renamed := earlierIDs[id]; renamed {
		id = now
	}
	if i := slices.IndexFunc(fields, func(f field) bool { return f.id == id }); i >= 0 {
		return fields[i], true
	}
	if k, said := strings.CutPrefix(id, "words."); said {
		_, ok := phrase.RowOf(phrase.Key(k))
		return ofPhrase(phrase.Key(k)), ok
	}
	names := strings.SplitN(id, ".", 3)
	if len(names) < 3 || names[0] != "part" {
		return field{}, false
	}
	part, what := names[1], names[2]
	switch what {
	case "heading":
		return ofPart(part, what, false, func(p *bundle.PartWords) *string { return &p.Heading }), true
	case "text":
		return ofPart(part, what, true, func(p *bundle.PartWords) *string { return &p.Text }), true
	case "alt":
		return ofPart(part, what, false, func(p *bundle.PartWords) *string { return &p.Alt }), true
	case "thanks":
		return ofPart(part, what, false, func(p *bundle.PartWords) *string { return &p.Thanks }), true
	}
	kind, number, _ := strings.Cut(what, ".")
	i, err := strconv.Atoi(number)
	if err != nil || i < 1 || i > maxList {
		return field{}, false
	}
	switch kind {
	case "answer":
		return ofPart(part, what, false, func(p *bundle.PartWords) *string {
			p.Answers = append(slices.Clone(p.Answers), make([]string, max(0, i-len(p.Answers)))...)
			return &p.Answers[i-1]
		}), true
	case "link":
		return ofPart(part, what, false, func(p *bundle.PartWords) *string {
			p.Links = append(slices.Clone(p.Links), make([]bundle.Link, max(0, i-len(p.Links)))...)
			return &p.Links[i-1].Label
		}), true
	}
	return field{}, false
}

// Write writes the document. Texts without words in the source language are
// left out.
func Write(w io.Writer, d Document) error {
	var b bytes.Buffer
	attr := func(s string) string {
		var e bytes.Buffer
		xml.EscapeText(&e, []byte(s))
		return e.String()
	}
	fmt.Fprintf(
		&b, "%s<xliff xmlns=%q version=\"2.1\" srcLang=\"%s\" trgLang=\"%s\">\n", xml.Header, namespace, attr(d.Source),
		attr(d.Target),
	)
	files := 0
	for _, t := range d.Texts {
		var units bytes.Buffer
		for _, f := range fieldsOf(t.From) {
			source, target := f.get(t.From), f.get(t.To)
			if source == "" {
				continue
			}
			codes := coder{ids: map[string]string{}}
			from := codes.encode(source, f.html)
			to := codes.encode(target, f.html)
			fmt.Fprintf(&units, "    <unit id=%q>\n", f.id)
			if len(codes.data) > 0 {
				units.WriteString("      <originalData>")
				for i, tag := range codes.data {
					fmt.Fprintf(&units, `<data id="d%d">%s</data>`, i+1, attr(tag))
				}
				units.WriteString("</originalData>\n")
			}
			state := "initial"
			if target != "" {
				state = "translated"
			}
			fmt.Fprintf(&units, "      <segment state=%q>\n        <source>%s</source>\n", state, from)
			if target != "" {
				fmt.Fprintf(&units, "        <target>%s</target>\n", to)
			}
			units.WriteString("      </segment>\n    </unit>\n")
		}
		if units.Len() == 0 {
			continue
		}
		files++
		fmt.Fprintf(
			&b, "  <file id=\"%s\">\n    <notes><note category=\"title\">%s</note></notes>\n%s  </file>\n", attr(t.Notice),
			attr(t.Title), units.String(),
		)
	}
	if files == 0 {
		return fault.Faults{{
			What:   "there is nothing to translate",
			Remedy: "write the texts in the site’s own language first",
		}}
	}
	b.WriteString("</xliff>\n")
	_, err := w.Write(b.Bytes())
	return err
}

// coder turns HTML into inline codes: an element into pc, br into ph.
type coder struct {
	data []string          // original tags, d1 first
	ids  map[string]string // code ids by the element's place among its like, the same in source and target
}

func (c *coder) ref(tag string) string {
	i := slices.Index(c.data, tag)
	if i < 0 {
		i = len(c.data)
		c.data = append(c.data, tag)
	}
	return fmt.Sprintf("d%d", i+1)
}

// disp writes what a tool may show for a code (the attributes disp, dispStart and dispEnd of XLIFF 2.1): the tag,
// without its brackets, which some tools do not escape again. It stays where a tool drops originalData.
func disp(name, tag string) string {
	var b bytes.Buffer
	xml.EscapeText(&b, []byte(strings.Trim(tag, "<>")))
	return fmt.Sprintf(` %s="%s"`, name, b.String())
}

func (c *coder) encode(s string, markup bool) string {
	var b bytes.Buffer
	if !markup {
		xml.EscapeText(&b, []byte(s))
		return b.String()
	}
	seen := map[string]int{}
	id := func(tag string) string {
		seen[tag]++
		key := fmt.Sprint(tag, " ", seen[tag])
		if c.ids[key] == "" {
			c.ids[key] = fmt.Sprintf("c%d", len(c.ids)+1)
		}
		return c.ids[key]
	}
	depth := 0
	for z := html.NewTokenizer(strings.NewReader(s)); ; {
		switch z.Next() {
		case html.ErrorToken:
			for ; depth > 0; depth-- {
				b.WriteString("</pc>")
			}
			return b.String()
		case html.TextToken:
			xml.EscapeText(&b, []byte(z.Token().Data))
		case html.SelfClosingTagToken:
			t := z.Token()
			fmt.Fprintf(&b, `<ph id="%s" dataRef="%s"%s/>`, id(t.Data), c.ref(t.String()), disp("disp", t.String()))
		case html.StartTagToken:
			t := z.Token()
			if t.Data == "br" || t.Data == "img" { // they have no end
				fmt.Fprintf(
					&b, `<ph id="%s" type="fmt" dataRef="%s"%s/>`, id(t.Data), c.ref(t.String()), disp("disp", t.String()),
				)
				continue
			}
			kind := "fmt"
			if t.Data == "a" {
				kind = "link"
			}
			end := "</" + t.Data + ">"
			fmt.Fprintf(
				&b, `<pc id="%s" type="%s" dataRefStart="%s" dataRefEnd="%s"%s%s>`, id(t.Data), kind, c.ref(t.String()), c.ref(end),
				disp("dispStart", t.String()), disp("dispEnd", end),
			)
			depth++
		case html.EndTagToken:
			if depth > 0 {
				b.WriteString("</pc>")
				depth--
			}
		}
	}
}

// Read reads a document. What a unit says in the target language is in To,
// and From is what it was translated from. The error is fault.Faults where the
// document is not one that can be read.
func Read(r io.Reader) (Document, error) {
	raw, err := io.ReadAll(io.LimitReader(r, MaxSize+1))
	if err != nil {
		return Document{}, err
	}
	if len(raw) > MaxSize {
		return Document{}, wrong("the file is larger than %d MB", MaxSize>>20)
	}
	rd := reader{dec: xml.NewDecoder(bytes.NewReader(raw))}
	root, err := rd.start()
	if err != nil {
		return Document{}, wrong("this is not XML: %v", err)
	}
	if root.Name.Local == "xliff" && strings.HasPrefix(root.Name.Space, "urn:oasis:names:tc:xliff:document:1") {
		return Document{}, wrong("this is XLIFF %s; 2.0 and 2.1 can be read", attribute(root, "version"))
	}
	if root.Name.Local != "xliff" || root.Name.Space != namespace {
		return Document{}, wrong("this is no XLIFF 2 document: it begins with <%s>", root.Name.Local)
	}
	d := Document{Source: attribute(root, "srcLang"), Target: attribute(root, "trgLang")}
	if v := attribute(root, "version"); v != "2.0" && v != "2.1" {
		return d, wrong("this is XLIFF %s; 2.0 and 2.1 can be read", v)
	}
	if d.Source == "" || d.Target == "" {
		return d, wrong("the file does not say from which language to which")
	}
	err = rd.children(func(e xml.StartElement) error {
		if e.Name.Local != "file" {
			return rd.dec.Skip()
		}
		t := Text{Notice: attribute(e, "id")}
		err := rd.file(&t)
		d.Texts = append(d.Texts, t)
		return err
	})
	var faults fault.Faults
	if err != nil && !errors.As(err, &faults) {
		err = wrong("this is not XML: %v", err)
	}
	if err == nil && len(d.Texts) == 0 {
		err = wrong("the file holds no texts")
	}
	return d, err
}

func wrong(format string, args ...any) fault.Faults {
	return fault.Faults{{
		What:   fmt.Sprintf(format, args...),
		Remedy: "give the file that was written here, with its targets filled in",
	}}
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name && a.Name.Space == "" {
			return a.Value
		}
	}
	return ""
}

type reader struct{ dec *xml.Decoder }

// start returns the root element's start.
func (r reader) start() (xml.StartElement, error) {
	for {
		t, err := r.dec.Token()
		if err != nil {
			return xml.StartElement{}, err
		}
		if e, ok := t.(xml.StartElement); ok {
			return e, nil
		}
	}
}

// children calls f for each element inside the one that was just begun; f
// reads it to its end.
func (r reader) children(f func(xml.StartElement) error) error {
	for {
		t, err := r.dec.Token()
		if err != nil {
			return err
		}
		switch t := t.(type) {
		case xml.StartElement:
			if err := f(t); err != nil {
				return err
			}
		case xml.EndElement:
			return nil
		}
	}
}

func (r reader) file(t *Text) error {
	return r.children(func(e xml.StartElement) error {
		switch e.Name.Local {
		case "group":
			return r.file(t)
		case "unit":
			return r.unit(t, attribute(e, "id"))
		}
		return r.dec.Skip()
	})
}

func (r reader) unit(t *Text, id string) error {
	data := map[string]string{}
	var source, target string
	f, known := fieldNamed(id)
	err := r.children(func(e xml.StartElement) error {
		switch e.Name.Local {
		case "originalData":
			return r.children(func(e xml.StartElement) error {
				var s string
				err := r.dec.DecodeElement(&s, &e)
				data[attribute(e, "id")] = s
				return err
			})
		case "segment", "ignorable":
			return r.children(func(e xml.StartElement) error {
				switch e.Name.Local {
				case "source":
					return r.inline(&source, data, f.html, id)
				case "target":
					return r.inline(&target, data, f.html, id)
				}
				return r.dec.Skip()
			})
		}
		return r.dec.Skip()
	})
	if err != nil || !known {
		return err // a unit of someone else's
	}
	if source != "" {
		f.set(&t.From, source)
	}
	if target != "" {
		f.set(&t.To, target)
	}
	return nil
}

// indents are line breaks beside codes that a tool has put in to make the file look tidy.
var indents = regexp.MustCompile(`^\s*\n\s*|\n\s*$`)

// inline reads the content of a source or target. Where a tool has dropped the originals of codes, what was to be
// shown for them stands in, and the indents that it made go.
func (r reader) inline(into *string, data map[string]string, markup bool, unit string) error {
	var b strings.Builder
	var walk func() error
	walk = func() error {
		for {
			t, err := r.dec.Token()
			if err != nil {
				return err
			}
			switch t := t.(type) {
			case xml.CharData:
				if markup {
					said := string(t)
					if len(data) == 0 {
						said = indents.ReplaceAllString(said, "")
					}
					b.WriteString(html.EscapeString(said))
				} else {
					b.Write(t)
				}
			case xml.StartElement:
				start, end := [2]string{"dataRefStart", "dispStart"}, [2]string{"dataRefEnd", "dispEnd"}
				if t.Name.Local == "ph" || t.Name.Local == "sc" || t.Name.Local == "ec" {
					start = [2]string{"dataRef", "disp"}
				}
				var tags [2]string
				for i, names := range [][2]string{start, end} {
					ref := attribute(t, names[0])
					tag, ok := data[ref]
					if shown := attribute(t, names[1]); !ok && shown != "" {
						// Tools differ in how they escape what is in it.
						z := html.NewTokenizer(strings.NewReader("<" + shown + ">"))
						if z.Next() != html.ErrorToken {
							tag = z.Token().String()
						}
					}
					if ref != "" && tag == "" {
						return wrong("unit %s refers to %q, which is not in its originalData", unit, ref)
					}
					tags[i] = tag
				}
				b.WriteString(tags[0])
				if err := walk(); err != nil {
					return err
				}
				b.WriteString(tags[1])
			case xml.EndElement:
				return nil
			}
		}
	}
	err := walk()
	*into += b.String()
	return err
}
