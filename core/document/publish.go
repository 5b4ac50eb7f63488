package document

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"mastflag/core/closed"
	"mastflag/core/consent"
	"mastflag/core/fault"
)

// A Change is how far a version differs from the one before it (rule T3).
type Change string

const (
	Editorial Change = "editorial"
	Material  Change = "material"
)

func (Change) Values() []string { return closed.Strings(Editorial, Material) }

// A Version is a document as it was published once; it is never altered.
type Version struct {
	Number int    `json:"number"`
	Change Change `json:"change"`
	// What was proposed, and why.
	Proposed Change `json:"proposed"`
	Why      string `json:"why"`
	// Number of the latest material version, this one among them.
	Material int             `json:"material"`
	At       time.Time       `json:"at"`
	By       string          `json:"by"`
	Texts    map[string]Text `json:"texts"`
}

// A Proposal is what publishing would do.
type Proposal struct {
	// Number of the version.
	Number int    `json:"number"`
	Change Change `json:"change"`
	Why    string `json:"why"`
	// Languages that would be in it.
	Languages []string `json:"languages"`
	// Nothing differs from the version that is out.
	Nothing bool `json:"nothing,omitempty"`
}

// basis is what a version of the document would be made from.
func (d Document) basis(s Site) Basis {
	b := Basis{Answers: maps.Clone(d.Answered(s)), Items: map[string]State{}}
	if d.Kind == Cookies || d.Kind == Privacy {
		b.Inventory = slices.Clone(s.Setup.Inventory)
	}
	_, points := d.Sections(s, s.Language)
	for _, p := range points {
		b.Items[p.ID] = p.State
	}
	return b
}

// texts are what would be published: in each language that has all its words.
func (d Document) texts(s Site, languages []string) map[string]Text {
	out := map[string]Text{}
	for _, tag := range languages {
		if t, ok := d.Text(s, tag); ok {
			out[tag] = t
		}
	}
	return out
}

// Propose says what publishing now would do (rule T3): a change is material if an
// answer, a row of the inventory or the state of an item changed.
func (d Document) Propose(s Site, languages []string) Proposal {
	texts := d.texts(s, languages)
	p := Proposal{
		Number:    d.Version + 1,
		Change:    Editorial,
		Why:       "Only words changed.",
		Languages: slices.Sorted(maps.Keys(texts)),
	}
	if d.Version == 0 || d.Basis == nil {
		p.Change, p.Why = Material, "It is the first version."
		return p
	}
	now := d.basis(s)
	var whys []string
	for _, q := range questions {
		if q.of(d.Kind) && d.Basis.Answers[q.ID] != now.Answers[q.ID] {
			whys = append(whys, fmt.Sprintf("the answer to “%s” changed", strings.TrimSuffix(q.Ask, "?")))
		}
	}
	for _, r := range Rows(d.Basis.Inventory, now.Inventory) {
		whys = append(whys, r.String())
	}
	for _, i := range items[d.Kind] {
		if was, is := d.Basis.Items[i.ID], now.Items[i.ID]; was != is {
			whys = append(whys, fmt.Sprintf("“%s” was %s and is %s", i.What, was.words(), is.words()))
		}
	}
	if len(whys) > 0 {
		p.Change, p.Why = Material, fault.Sentence(strings.Join(whys, "; "))
	} else {
		p.Nothing = maps.Equal(texts, d.Published)
	}
	return p
}

func (s State) words() string {
	switch s {
	case Said:
		return "said"
	case Away:
		return "not applicable"
	}
	return "open"
}

// A Row is how a row of an inventory differs from before.
type Row struct {
	What string           `json:"what" jsonschema:"enum=new,enum=gone,enum=changed"`
	Kind consent.ItemKind `json:"kind"`
	Name string           `json:"name"`
}

// String says it as a clause: "the row “_vs” is new".
func (r Row) String() string {
	return fmt.Sprintf(
		"the row “%s” %s",
		r.Name,
		map[string]string{"new": "is new", "gone": "is gone", "changed": "changed"}[r.What],
	)
}

// Rows returns how an inventory differs from an earlier one. What the words of
// an item say does not count.
func Rows(before, now []consent.Item) []Row {
	find := func(list []consent.Item, like consent.Item) (consent.Item, bool) {
		i := slices.IndexFunc(list, func(o consent.Item) bool {
			return o.Kind == like.Kind && o.Name == like.Name && strings.EqualFold(o.Host, like.Host)
		})
		if i < 0 {
			return consent.Item{}, false
		}
		return list[i], true
	}
	out := []Row{}
	for _, i := range now {
		if was, ok := find(before, i); !ok {
			out = append(out, Row{"new", i.Kind, i.Name})
		} else if was.Mark() != i.Mark() {
			out = append(out, Row{"changed", i.Kind, i.Name})
		}
	}
	for _, i := range before {
		if _, ok := find(now, i); !ok {
			out = append(out, Row{"gone", i.Kind, i.Name})
		}
	}
	return out
}

// Behind returns the languages in which the version that is out no longer says
// what the document would say now, sorted; none if there is no version.
func (d Document) Behind(s Site) []string {
	var out []string
	for tag, was := range d.Published {
		if is, ok := d.Text(s, tag); !ok || is != was {
			out = append(out, tag)
		}
	}
	slices.Sort(out)
	return out
}

// Publish makes the next version of a document (rule T3): change is what whoever
// publishes decided. The document is returned as it is afterwards. The error is
// fault.Faults.
func (d Document) Publish(
	s Site,
	languages []string,
	change Change,
	why, by string,
	at time.Time,
) (Document, Version, error) {
	p := d.Propose(s, languages)
	switch {
	case !slices.Contains(p.Languages, s.Language):
		return d, Version{}, fault.Faults{
			{
				Pointer: "/published",
				What:    "the text in the site’s language has parts without words",
				Remedy:  "answer the open questions, or write those sections by hand",
			},
		}
	case p.Nothing:
		return d, Version{}, fault.Faults{
			{
				Pointer: "/version",
				What:    fmt.Sprintf("nothing has changed since version %d", d.Version),
				Remedy:  "change an answer or a section first",
			},
		}
	case change != Editorial && change != Material:
		return d, Version{}, fault.Faults{
			{
				Pointer: "/change",
				What:    fmt.Sprintf("%q is no kind of change", change),
				Remedy:  "say editorial or material",
			},
		}
	case d.Version == 0 && change == Editorial:
		return d, Version{}, fault.Faults{
			{
				Pointer: "/change",
				What:    "the first version changes nothing that was there before",
				Remedy:  "say material",
			},
		}
	}
	at = at.UTC().Truncate(time.Second)
	b := d.basis(s)
	d.Version, d.Since, d.Basis, d.Published = p.Number, &at, &b, d.texts(s, languages)
	if change == Material {
		d.Material = d.Version
	}
	reason := p.Why
	if why != "" {
		reason = why
	}
	return d, Version{
		Number:   d.Version,
		Change:   change,
		Proposed: p.Change,
		Why:      reason,
		Material: d.Material,
		At:       at,
		By:       by,
		Texts:    d.Published,
	}, nil
}

// Out returns the version that is out, as far as the document itself knows it;
// that of number 0 if none is.
func (d Document) Out() Version {
	v := Version{Number: d.Version, Change: Editorial, Proposed: Editorial, Material: d.Material, Texts: d.Published}
	if d.Since != nil {
		v.At = *d.Since
	}
	if d.Material == d.Version {
		v.Change, v.Proposed = Material, Material
	}
	return v
}
