package bundle

import (
	"fmt"
	"slices"

	"mastflag/core/code"
	"mastflag/core/consent"
	"mastflag/core/fault"
)

// PageCode is HTML that a notice of kind code puts into pages, under one set of rules
// (rule B7).
type PageCode struct {
	// At the end of the head.
	Head string `json:"head,omitempty" jsonschema:"maxLength=50000"`
	// At the start of the body.
	Start string `json:"start,omitempty" jsonschema:"maxLength=50000"`
	// At the end of the body.
	End string `json:"end,omitempty" jsonschema:"maxLength=50000"`
	// Ids of purposes: it runs only once all of them are agreed to.
	Purposes []string `json:"purposes,omitempty" jsonschema:"maxItems=50"`
}

// At returns the code for a place.
func (c PageCode) At(p code.Place) string {
	switch p {
	case code.Head:
		return c.Head
	case code.Start:
		return c.Start
	}
	return c.End
}

// Empty reports whether there is none.
func (c PageCode) Empty() bool { return c.Head == "" && c.Start == "" && c.End == "" }

// GetCode returns what a notice of kind code puts into pages, empty if it is none.
func (n Notice) GetCode() PageCode {
	if n.Kind != KindCode || n.Content == nil || n.Content.Code == nil {
		return PageCode{}
	}
	return *n.Content.Code
}

// checkCode returns what is wrong with the code of a notice, on a site that asks
// about the purposes of setup.
func (n Notice) checkCode(setup consent.Setup) fault.Faults {
	var faults fault.Faults
	if (n.Kind == KindCode) != (n.GetSlot() == InCode) {
		faults = append(faults, fault.Fault{
			Pointer: "/slot",
			What:    fmt.Sprintf("a notice of kind %q cannot stand in the slot %q", n.Kind, n.GetSlot()),
			Remedy:  "leave the slot out",
		})
	}
	if n.Content == nil || n.Content.Code == nil {
		return faults
	}
	if n.Kind != KindCode {
		return append(faults, fault.Fault{
			Pointer: "/content/code",
			What:    fmt.Sprintf("a notice of kind %q has no code", n.Kind),
			Remedy:  "remove it, or make the kind code",
		})
	}
	c := *n.Content.Code
	for _, place := range code.Places {
		if f := code.Check(c.At(place), place); f != nil {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("content", "code", string(place)),
				What:    f.Error(),
				Remedy:  f.Remedy,
			})
		}
	}
	for i, p := range c.Purposes {
		if !slices.ContainsFunc(setup.Purposes, func(have consent.Purpose) bool { return have.ID == p }) {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("content", "code", "purposes", i),
				What:    fmt.Sprintf("the site asks about no purpose %q", p),
				Remedy:  "choose one of the purposes in the Consent room",
			})
		}
	}
	return faults
}
