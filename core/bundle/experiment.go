package bundle

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"mastflag/core/fault"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// An Experiment says what a notice is to bring about, from whom it is kept for comparison, and
// in which variants it is shown (rule E3).
type Experiment struct {
	Goal Goal `json:"goal"`
	// How long after first meeting the notice reaching the goal counts, such as P5D, which it is if absent.
	Within Period `json:"within,omitempty" jsonschema:"maxLength=40"`
	// Per cent of visitors who never see it.
	Holdout int `json:"holdout,omitempty" jsonschema:"minimum=0,maximum=90"`
	// The first is what visitors get who are in no experiment. None: all get the notice as it is.
	Variants []Variant `json:"variants,omitempty" jsonschema:"maxItems=5"`
}

// A Goal is one of four things that a visitor does.
type Goal struct {
	// One of these pages is reached.
	Pages *pages.Conditions `json:"pages,omitempty"`
	// The site tells of an event of this name; with Least, of a value that is not less.
	Event string   `json:"event,omitempty" jsonschema:"maxLength=100,pattern=^[A-Za-z0-9_-]+$"`
	Least *float64 `json:"least,omitempty"`
	// The notice's form is sent.
	Form bool `json:"form,omitempty"`
	// A link of the notice is followed.
	Link bool `json:"link,omitempty"`
}

// A Variant is a notice in other words, or with another look; it says only what differs.
type Variant struct {
	ID string `json:"id" jsonschema:"pattern=^[a-z0-9]+(-[a-z0-9]+)*$,maxLength=40"`
	// What people call it.
	Name string `json:"name,omitempty" jsonschema:"maxLength=100"`
	// How many get it, beside the weights of the others; 1 if absent.
	Weight *int `json:"weight,omitempty" jsonschema:"minimum=1,maximum=1000"`
	// By BCP 47 tag; what a wording has goes before what the notice’s wording in that language has.
	Wordings map[string]Wording `json:"wordings,omitempty"`
	Look     *Look              `json:"look,omitempty"`
}

// GetWeight returns the variant's weight, at least 1.
func (v Variant) GetWeight() int {
	if v.Weight == nil {
		return 1
	}
	return *v.Weight
}

// maxVariants is how many variants are compared at most.
const maxVariants = 5

// DefaultWithin is for how long reaching a goal counts if nothing is said (common practice).
const DefaultWithin Period = "P5D"

// GetWithin returns for how long reaching the goal counts.
func (e Experiment) GetWithin() Period { return or(e.Within, DefaultWithin) }

// Compares reports whether visitors are told apart by it.
func (e *Experiment) Compares() bool { return e != nil && (e.Holdout > 0 || len(e.Variants) > 1) }

// VariantNames returns what people call its variants, by id.
func (e *Experiment) VariantNames() map[string]string {
	names := map[string]string{}
	if e != nil {
		for _, v := range e.Variants {
			names[v.ID] = or(v.Name, v.ID)
		}
	}
	return names
}

// InVariant returns the notice as those see it who get a variant of it; as it is if it has none
// of that id. For words of the variant that nobody has read the notice's own stand in.
func (n Notice) InVariant(id string) Notice {
	if n.Experiment == nil {
		return n
	}
	i := slices.IndexFunc(n.Experiment.Variants, func(v Variant) bool { return v.ID == id })
	if i < 0 {
		return n
	}
	v := n.Experiment.Variants[i]
	if v.Look != nil {
		look := v.Look.Over(n.GetLook())
		n.Look = &look
	}
	if len(v.Wordings) > 0 {
		var content Content
		if n.Content != nil {
			content = *n.Content
		}
		content.Wordings = maps.Clone(content.Wordings)
		if content.Wordings == nil {
			content.Wordings = map[string]Wording{}
		}
		for tag, w := range v.Wordings {
			if !w.Unread {
				content.Wordings[tag] = w.over(content.Wordings[tag])
			}
		}
		n.Content = &content
	}
	return n
}

// over returns a wording that says what w says, and what another says where w says nothing.
func (w Wording) over(other Wording) Wording {
	var out Wording
	for _, from := range []Wording{other, w} { // each part that is there replaces the one before
		raw, err := json.Marshal(from)
		if err != nil {
			panic(fmt.Sprintf("bundle: a wording cannot be written: %v", err))
		}
		if err := json.Unmarshal(raw, &out); err != nil {
			panic(fmt.Sprintf("bundle: a wording cannot be read: %v", err))
		}
	}
	return out
}

// MayCompare reports whether a notice may have an experiment: not what the law or the visitor's
// safety wants everyone to see alike, nor code, which nobody sees.
func (n Notice) MayCompare() bool {
	return n.Kind != KindConsent && n.Kind != KindDisclaimer && n.Kind != KindCode && n.GetLevel() != Emergency
}

// checkExperiment returns what is wrong with the notice's experiment.
func (n Notice) checkExperiment(t terms) fault.Faults {
	e := n.Experiment
	if e == nil {
		return nil
	}
	if !n.MayCompare() {
		return fault.Faults{{
			Pointer: "/experiment",
			What:    "everyone gets an emergency, a consent notice, a disclaimer or code alike",
			Remedy:  "remove the experiment",
		}}
	}
	faults := n.checkGoal(t).Under("/experiment/goal")
	if _, err := schedule.ParseSpan(string(e.GetWithin())); err != nil {
		faults = append(faults, fault.Fault{
			Pointer: "/experiment/within",
			What:    fmt.Sprintf("%q is no time in which a goal can be reached", string(e.Within)),
			Remedy:  "use a duration such as P5D (five days) or PT12H (twelve hours)",
		})
	}
	if k := len(e.Variants); k == 1 || k > maxVariants {
		faults = append(faults, fault.Fault{
			Pointer: "/experiment/variants",
			What:    fmt.Sprintf("there are %d variants", k),
			Remedy:  fmt.Sprintf("compare two to %d, or none", maxVariants),
		})
	}
	first := map[string]int{}
	for i, v := range e.Variants {
		at := fault.Pointer("experiment", "variants", i)
		if j, twice := first[v.ID]; twice {
			faults = append(faults, fault.Fault{
				Pointer: at + "/id",
				What:    fmt.Sprintf("id %q stands here twice, first at /experiment/variants/%d", v.ID, j),
				Remedy:  "give each variant its own",
			})
		}
		first[v.ID] = i
		if v.ID == "held-out" {
			faults = append(faults, fault.Fault{
				Pointer: at + "/id",
				What:    "results call those so who never see the notice",
				Remedy:  "choose another id, such as " + v.ID + "-2",
			})
		}
		if w := v.GetWeight(); w < 1 || w > 1000 {
			faults = append(faults, fault.Fault{
				Pointer: at + "/weight",
				What:    fmt.Sprintf("the weight is %d", w),
				Remedy:  "give a whole number from 1 to 1000, or remove the variant",
			})
		}
		if v.Look != nil {
			faults = append(faults, v.Look.check().Under(at+"/look")...)
		}
		for _, tag := range slices.Sorted(maps.Keys(v.Wordings)) {
			shown := v.Wordings[tag].over(n.Wordings()[tag])
			faults = append(faults, checkWordings(map[string]Wording{tag: shown}).Under(at+"/wordings")...)
		}
	}
	return faults
}

// checkGoal returns what is wrong with the goal of the notice's experiment.
func (n Notice) checkGoal(t terms) fault.Faults {
	g := n.Experiment.Goal
	var faults fault.Faults
	kinds := 0
	for _, is := range []bool{g.Pages != nil, g.Event != "", g.Form, g.Link} {
		if is {
			kinds++
		}
	}
	if kinds != 1 {
		faults = append(faults, fault.Fault{
			What:   fmt.Sprintf("the goal is %d things", kinds),
			Remedy: "say one: pages that are reached, an event that the site tells of, form, or link",
		})
	}
	if g.Pages != nil {
		_, wrong := pages.Compile(*g.Pages, t.pages)
		faults = append(faults, wrong.Under("/pages")...)
		if len(g.Pages.Include) == 0 {
			faults = append(faults, fault.Fault{
				Pointer: "/pages/include", What: "no page is named that is to be reached", Remedy: "name one",
			})
		}
	}
	if g.Least != nil && g.Event == "" {
		faults = append(faults, fault.Fault{
			Pointer: "/least", What: "only an event has a value", Remedy: "name the event, or remove it",
		})
	}
	if g.Form && !n.HasForm() {
		faults = append(faults, fault.Fault{
			Pointer: "/form",
			What:    "the notice has no form that could be sent",
			Remedy:  "give it fields, or choose another goal",
		})
	}
	return faults
}

// ExperimentMark returns a short text that changes with all that an experiment compares: its
// goal, its groups, and what the notice says and looks like.
func (n Notice) ExperimentMark() string {
	raw, err := json.Marshal([]any{n.Experiment, n.Look, n.Content})
	if err != nil {
		panic(fmt.Sprintf("bundle: a notice cannot be written: %v", err))
	}
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:6])
}
