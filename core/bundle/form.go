package bundle

import (
	"fmt"
	"slices"

	"mastflag/core/fault"
	"mastflag/core/form"
)

// MayHaveRows reports whether a notice of that kind can be made of rows below its message:
// what asks something by itself, stands nowhere on the page or is code cannot.
func (n Notice) MayHaveRows() bool {
	switch n.Kind {
	case KindConsent, KindDisclaimer, KindCode, KindTabTitle:
		return false
	}
	return true
}

// FormFields returns the fields of the notice's form, by the ids of the parts that they are,
// in the order in which they are written.
func (n Notice) FormFields() (out []form.NamedField) {
	for _, p := range n.Parts() {
		if p.Kind == PartField && p.Field != nil {
			out = append(out, form.NamedField{ID: p.ID, Field: *p.Field})
		}
	}
	return out
}

// HasForm reports whether the notice asks for something to be filled in.
func (n Notice) HasForm() bool {
	return slices.ContainsFunc(n.Parts(), func(p Part) bool { return p.Kind == PartField })
}

// SendButton returns the part that sends the notice's form; ok is false if there is none.
func (n Notice) SendButton() (p Part, ok bool) {
	parts := n.Parts()
	i := slices.IndexFunc(parts, func(p Part) bool { return p.Kind == PartSend })
	if i < 0 {
		return Part{}, false
	}
	return parts[i], true
}

// Form returns what holds for the notice's form.
func (n Notice) Form() form.Form {
	if n.Content == nil || n.Content.Form == nil {
		return form.Form{}
	}
	return *n.Content.Form
}

// FormsBefore returns, for each notice that follows a form, the ids of the published notices
// whose form that is (rule F5).
func (b Bundle) FormsBefore() map[string][]string {
	out := map[string][]string{}
	for _, n := range b.Notices {
		if next := n.Form().Next(); next != "" && n.HasForm() && n.GetState() == Published {
			out[next] = append(out[next], n.ID)
		}
	}
	return out
}

// checkForm returns what is wrong with the notice's form.
func (n Notice) checkForm() fault.Faults {
	var faults fault.Faults
	fields := n.FormFields()
	if len(fields) > form.MaxFields {
		faults = append(faults, fault.Fault{
			Pointer: "/content/rows",
			What:    fmt.Sprintf("the form has %d fields", len(fields)),
			Remedy:  fmt.Sprintf("ask for at most %d things", form.MaxFields),
		})
	}
	sends := 0
	for _, p := range n.Parts() {
		if p.Kind == PartSend {
			sends++
		}
	}
	if sends > 1 {
		faults = append(faults, fault.Fault{
			Pointer: "/content/rows", What: "two buttons send the form", Remedy: "keep one of them",
		})
	}
	if n.Content != nil && n.Content.Form != nil {
		faults = append(faults, n.Content.Form.Check(fields).Under("/content/form")...)
		if n.Form().Next() == n.ID {
			faults = append(faults, fault.Fault{
				Pointer: "/content/form/after/to", What: "the notice is to follow itself", Remedy: "name another notice",
			})
		}
	}
	return faults
}
