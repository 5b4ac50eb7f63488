// Package document is the texts that a site has to have: privacy notice, cookie
// statement, terms, accessibility statement, disclaimers. A document is a list
// of sections; most are computed from a few answers and from what the program
// knows of the site, others are written by hand. Published, it becomes a version
// that is never altered. Rules T1 to T5.
package document

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"golang.org/x/text/language"

	"mastflag/core/closed"
	"mastflag/core/consent"
	"mastflag/core/fault"
	"mastflag/core/lookup"
	"mastflag/core/markup"
)

// A Kind is what sort of text a document is.
type Kind string

const (
	Privacy       Kind = "privacy"
	Cookies       Kind = "cookies"
	Terms         Kind = "terms"
	Accessibility Kind = "accessibility"
	Disclaimer    Kind = "disclaimer"
	Own           Kind = "own" // written by hand alone
)

func (Kind) Values() []string {
	return closed.Strings(Privacy, Cookies, Terms, Accessibility, Disclaimer, Own)
}

// Kinds is every kind, in the order in which people choose.
var Kinds = []Kind{Privacy, Cookies, Terms, Accessibility, Disclaimer, Own}

// A Document is a text of a site, as it is being worked on, and the version of
// it that is out.
type Document struct {
	// Short name in addresses.
	ID   string `json:"id" jsonschema:"pattern=^[a-z0-9]+(-[a-z0-9]+)*$,maxLength=64"`
	Kind Kind   `json:"kind"`
	// Own titles, by BCP 47 tag; the kind's if absent.
	Titles map[string]string `json:"titles,omitempty"`
	// By the id of a question. An answer that the site's documents share is taken from the first that has it.
	Answers map[string]string `json:"answers,omitempty"`
	// Sections written by hand, by section id and BCP 47 tag. HTML of the safe subset, with h2, h3 and tables.
	Own map[string]map[string]string `json:"own,omitempty"`
	// Marks of the text that each of them was written beside (rule T1).
	Of map[string]map[string]string `json:"of,omitempty"`
	// What inspections of the site found, as of when it was last looked at.
	Evidence *Evidence `json:"evidence,omitempty"`
	// The number of the version that is out; 0 if none is.
	Version int `json:"version,omitempty" jsonschema:"minimum=0"`
	// The number of the latest version that was a material change.
	Material int `json:"material,omitempty" jsonschema:"minimum=0"`
	// When the version went out.
	Since *time.Time `json:"since,omitempty"`
	// The version that is out, by BCP 47 tag.
	Published map[string]Text `json:"published,omitempty"`
	// What that version was made from.
	Basis *Basis `json:"basis,omitempty"`
}

// A Text is a version in one language.
type Text struct {
	Title string `json:"title" jsonschema:"minLength=1,maxLength=200"`
	// HTML of the safe subset. Addresses of the form document:ID lead to other documents.
	Text string `json:"text" jsonschema:"maxLength=200000"`
}

// Evidence is what inspections found.
type Evidence struct {
	// The last inspection of what is set on visitors' machines.
	Inspected *Inspected `json:"inspected,omitempty"`
	// The last check of pages for accessibility.
	Checked *Checked `json:"checked,omitempty"`
}

// Inspected is an inspection in short.
type Inspected struct {
	Day   string `json:"day" jsonschema:"pattern=^[0-9]{4}-[0-9]{2}-[0-9]{2}$"`
	How   string `json:"how" jsonschema:"enum=browser,enum=http"`
	Pages int    `json:"pages" jsonschema:"minimum=0"`
}

// Checked is an automatic check for accessibility in short.
type Checked struct {
	Day   string `json:"day" jsonschema:"pattern=^[0-9]{4}-[0-9]{2}-[0-9]{2}$"`
	Tool  string `json:"tool" jsonschema:"maxLength=60"`
	Pages int    `json:"pages" jsonschema:"minimum=0"`
	// Rules of the tool that some pages fail, and on how many.
	Failed []Failure `json:"failed,omitempty" jsonschema:"maxItems=200"`
}

// A Failure is a rule that some pages fail.
type Failure struct {
	Rule string `json:"rule" jsonschema:"maxLength=80"`
	// What it asks for, in English, as the tool says it.
	Help  string `json:"help" jsonschema:"maxLength=300"`
	Pages int    `json:"pages" jsonschema:"minimum=1"`
}

// A Basis is what a version was made from, so that it is known what changed since.
type Basis struct {
	Answers   map[string]string `json:"answers,omitempty"`
	Inventory []consent.Item    `json:"inventory,omitempty" jsonschema:"maxItems=1000"`
	// The state of each item that it has to say.
	Items map[string]State `json:"items,omitempty"`
}

// A Site is what documents are made from beside their answers.
type Site struct {
	Key, Name, Language string
	Address             string // its origin, "" if it has none yet
	Setup               consent.Setup
	// A published notice asks for consent; and whether a control on each page asks again.
	Asks, Again bool
	// All its documents.
	Documents []Document
}

// Get returns the document of an id; ok is false if there is none.
func Get(list []Document, id string) (d Document, ok bool) {
	i := slices.IndexFunc(list, func(d Document) bool { return d.ID == id })
	if i < 0 {
		return Document{}, false
	}
	return list[i], true
}

// Answered returns the document's answers, with those that the site's documents
// share where it has none of its own.
func (d Document) Answered(s Site) map[string]string {
	out := maps.Clone(d.Answers)
	if out == nil {
		out = map[string]string{}
	}
	for _, q := range questions {
		if !q.Shared || !q.of(d.Kind) || out[q.ID] != "" {
			continue
		}
		for _, o := range s.Documents {
			if v := o.Answers[q.ID]; v != "" && o.ID != d.ID {
				out[q.ID] = v
				break
			}
		}
	}
	return out
}

// In returns the text of the version that is out for a language, by lookup
// (RFC 4647 §3.4), and its tag; "" if none is out.
func (d Document) In(tag, site string) (Text, string) {
	tag = lookup.Choose(slices.Collect(maps.Keys(d.Published)), tag, site)
	return d.Published[tag], tag
}

// Title returns what the document is called in a language: by its own title there,
// else its kind's where words are ready, else its own in the site's language.
func (d Document) Title(tag, site string) string {
	if t := d.ownTitle(tag); t != "" {
		return t
	}
	if t := d.kindTitle(tag); t != "" {
		return t
	}
	if t := d.ownTitle(site); t != "" {
		return t
	}
	return cmp.Or(d.kindTitle(Source(tag, site)), d.ID)
}

// ownTitle returns the title that the document has of its own for a language; ""
// if it has none.
func (d Document) ownTitle(tag string) string {
	for ; tag != ""; tag = lookup.Parent(tag) {
		if d.Titles[tag] != "" {
			return d.Titles[tag]
		}
	}
	return ""
}

// kindTitle returns what documents of its kind, or disclaimers on its topic, are
// called in a language; "" where no words are ready.
func (d Document) kindTitle(tag string) string {
	w := words[ReadyIn(tag)]
	if d.Kind == Disclaimer {
		if t := w[topicKey(d.Answers["topic"])]; t != "" {
			return t
		}
	}
	return w[string(d.Kind)+".title"]
}

// Titled reports whether the document has a title in a language.
func (d Document) Titled(tag string) bool { return d.ownTitle(tag) != "" || d.kindTitle(tag) != "" }

func topicKey(topic string) string { return "disclaimer." + topic + ".title" }

// Mark returns a short text that changes with anything of the document.
func (d Document) Mark() string { return mark(d) }

// mark returns a short text that changes with a value.
func mark(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		panic(fmt.Sprintf("document: %T cannot be written as JSON: %v", v, err))
	}
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:6])
}

// Hash returns the SHA-256 of a text, in hex.
func (t Text) Hash() string {
	sum := sha256.Sum256([]byte(t.Title + "\x00" + t.Text))
	return hex.EncodeToString(sum[:])
}

// Scheme begins the address that leads to a document by its id.
const Scheme = markup.DocumentScheme

// Named returns the id of the document that an address leads to; "" if it leads
// elsewhere.
func Named(href string) string {
	id, ok := strings.CutPrefix(href, Scheme)
	if !ok {
		return ""
	}
	return id
}

// Path returns the lasting address of a version, on the program; of the one that
// is out if the number is 0, of the language that fits best if the tag is "".
func Path(site, id, tag string, version int) string {
	out := "/t/" + site + "/" + id
	if tag != "" {
		out += "/" + tag
	}
	if version > 0 {
		out += fmt.Sprintf("/%d", version)
	}
	return out
}

// Linked returns HTML whose links by name lead to the documents that are out;
// links to others lead nowhere.
func Linked(html string, to func(id string) string) string {
	return markup.MapLinks(html, func(href string) string {
		if id := Named(href); id != "" {
			return to(id)
		}
		return href
	})
}

// Check returns what is wrong with the documents of a site.
func Check(list []Document) fault.Faults {
	var faults fault.Faults
	ids := map[string]int{}
	for i, d := range list {
		at := fault.Pointer(i)
		if first, twice := ids[d.ID]; twice {
			faults = append(
				faults,
				fault.Fault{
					Pointer: at + "/id",
					What:    fmt.Sprintf("a second document has the id %q; the first is /documents/%d", d.ID, first),
					Remedy:  "give each its own",
				},
			)
		}
		ids[d.ID] = i
		faults = append(faults, d.Check().Under(at)...)
	}
	return faults
}

// MaxSection is how long a section written by hand may be, in characters.
const MaxSection = 50_000

// Check returns what is wrong with a document.
func (d Document) Check() fault.Faults {
	var faults fault.Faults
	wrong := func(at, what, remedy string) {
		faults = append(faults, fault.Fault{Pointer: at, What: what, Remedy: remedy})
	}
	for _, id := range slices.Sorted(maps.Keys(d.Answers)) {
		at := fault.Pointer("answers", id)
		q, ok := question(id)
		switch {
		case !ok || !q.of(d.Kind):
			wrong(at, fmt.Sprintf("a document of kind %q is not asked %q", d.Kind, id), "remove this answer")
		default:
			if what, remedy := q.wrong(d.Answers[id]); what != "" {
				wrong(at, what, remedy)
			}
		}
	}
	for _, tag := range slices.Sorted(maps.Keys(d.Titles)) {
		if t := d.Titles[tag]; len([]rune(t)) > 200 {
			wrong(fault.Pointer("titles", tag), "the title is longer than 200 characters", "shorten it")
		}
		faults = append(faults, checkTag(fault.Pointer("titles", tag), tag)...)
	}
	sections := sectionIDs(d.Kind)
	for _, id := range slices.Sorted(maps.Keys(d.Own)) {
		at := fault.Pointer("own", id)
		if !slices.Contains(sections, id) {
			wrong(
				at,
				fmt.Sprintf("a document of kind %q has no section %q", d.Kind, id),
				"use one of "+strings.Join(sections, ", "),
			)
		}
		for _, tag := range slices.Sorted(maps.Keys(d.Own[id])) {
			faults = append(faults, checkTag(at+fault.Pointer(tag), tag)...)
			faults = append(faults, checkHTML(at+fault.Pointer(tag), d.Own[id][tag], MaxSection)...)
		}
	}
	for _, tag := range slices.Sorted(maps.Keys(d.Published)) {
		at := fault.Pointer("published", tag)
		faults = append(faults, checkTag(at, tag)...)
		faults = append(faults, checkHTML(at+"/text", d.Published[tag].Text, 4*MaxSection)...)
	}
	switch {
	case d.Version == 0 && (d.Material != 0 || d.Since != nil || len(d.Published) > 0):
		wrong("/version", "there is a published text and no version", "give its version, or remove what is published")
	case d.Version > 0 && (len(d.Published) == 0 || d.Since == nil):
		wrong(
			"/published",
			fmt.Sprintf("version %d has no text, or no moment since when it is out", d.Version),
			"give published and since, or no version",
		)
	case d.Version > 0 && (d.Material < 1 || d.Material > d.Version):
		wrong(
			"/material",
			fmt.Sprintf("%d is not the number of a version up to %d", d.Material, d.Version),
			"give the number of the latest material version",
		)
	}
	return faults
}

func checkTag(at, tag string) fault.Faults {
	if _, err := language.Parse(tag); err != nil {
		return fault.Faults{
			{
				Pointer: at,
				What:    fmt.Sprintf("%q is not a language tag", tag),
				Remedy:  "use a BCP 47 tag such as en, de or pt-BR",
			},
		}
	}
	return nil
}

func checkHTML(at, html string, most int) fault.Faults {
	if n := len([]rune(html)); n > most {
		return fault.Faults{
			{
				Pointer: at,
				What:    fmt.Sprintf("the text is too long, %d characters", n),
				Remedy:  fmt.Sprintf("give at most %d characters", most),
			},
		}
	}
	if bad := markup.CheckDocument(html); bad != nil {
		return fault.Faults{
			{Pointer: at, What: "holds " + strings.Join(bad, ", "), Remedy: "use only " + markup.DocumentTags()},
		}
	}
	return nil
}
