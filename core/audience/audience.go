// Package audience decides for whom a notice is: trees of conditions on facts
// of a visit, in three-valued logic, with what is left of them while facts are
// not known yet. Rules A1 to A5.
package audience

import (
	"bytes"
	"encoding/json"
	"slices"

	"github.com/invopop/jsonschema"

	"mastflag/core/closed"
)

// Limits on one audience.
const (
	MaxLeaves = 1000
	MaxDepth  = 20
)

// A Node is a part of an audience: a group of parts, a leaf that tests a fact,
// or the use of a saved audience. Exactly one of Group, Fact and Saved is set.
type Node struct {
	Group Group
	Parts []Node // of a group

	Fact   string
	Is     Test
	Value  any    // text, number, true or false, or a list of text or numbers; nil for set and unset
	Clock  string // for clock facts: visitor (the default), site, or an IANA zone name
	Within string // for event counts: an ISO 8601 duration to look back
	Since  string // for event counts: the name of another event, of which none before its last counts

	Saved string // the name of a saved audience of the site

	Off bool // set aside: kept, but it counts for nothing (rule A2)

	kinds int // how many of Group, Fact and Saved it was read with, where that is not one
}

// Uses reports whether the saved audience of that name stands in the node.
func (n Node) Uses(saved string) bool {
	return n.Saved == saved && saved != "" || slices.ContainsFunc(n.Parts, func(p Node) bool { return p.Uses(saved) })
}

// A SavedAudience is an audience under a name, used by many notices.
type SavedAudience struct {
	// What people call it; unique on the site.
	Name string `json:"name" jsonschema:"minLength=1,maxLength=100"`
	// The tree.
	Audience Node `json:"audience"`
}

// A Group is how a group's parts count together.
type Group string

const (
	All  Group = "all"  // every one holds
	Any  Group = "any"  // at least one holds
	None Group = "none" // not one holds
)

func (Group) Values() []string { return closed.Strings(All, Any, None) }

// A Test is how a leaf compares a fact with its value.
type Test string

const (
	Eq       Test = "eq"
	Ne       Test = "ne"
	In       Test = "in"
	NotIn    Test = "not-in"
	Contains Test = "contains"
	Starts   Test = "starts"
	Ends     Test = "ends"
	Like     Test = "like"
	Gte      Test = "gte"
	Lte      Test = "lte"
	Gt       Test = "gt"
	Lt       Test = "lt"
	Between  Test = "between"
	Has      Test = "has"
	HasAny   Test = "has-any"
	HasNone  Test = "has-none"
	Before   Test = "before"
	After    Test = "after"
	IsSet    Test = "set"
	IsUnset  Test = "unset"
)

// document is a Node as JSON has it.
type document struct {
	All    *[]Node `json:"all,omitempty"`
	Any    *[]Node `json:"any,omitempty"`
	None   *[]Node `json:"none,omitempty"`
	Fact   string  `json:"fact,omitempty"`
	Is     Test    `json:"is,omitempty"`
	Value  any     `json:"value,omitempty"`
	Clock  string  `json:"clock,omitempty"`
	Within string  `json:"within,omitempty"`
	Since  string  `json:"since,omitempty"`
	Saved  string  `json:"saved,omitempty"`
	Off    bool    `json:"off,omitempty"`
}

// MarshalJSON writes the node as {"all":[…]}, {"fact":…,"is":…,"value":…} or
// {"saved":…}.
func (n Node) MarshalJSON() ([]byte, error) {
	d := document{
		Fact: n.Fact, Is: n.Is, Value: n.Value, Clock: n.Clock, Within: n.Within, Since: n.Since, Saved: n.Saved, Off: n.Off,
	}
	parts := n.Parts
	if parts == nil {
		parts = []Node{}
	}
	switch n.Group {
	case All:
		d.All = &parts
	case Any:
		d.Any = &parts
	case None:
		d.None = &parts
	}
	var out bytes.Buffer
	enc := json.NewEncoder(&out)
	enc.SetEscapeHTML(false)
	err := enc.Encode(d)
	return bytes.TrimSpace(out.Bytes()), err
}

// UnmarshalJSON reads a node. One that is not exactly one thing is left for
// Compile to refuse, which knows where it stands.
func (n *Node) UnmarshalJSON(raw []byte) error {
	var d document
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&d); err != nil {
		return err
	}
	*n = Node{
		Fact: d.Fact, Is: d.Is, Value: d.Value, Clock: d.Clock, Within: d.Within, Since: d.Since, Saved: d.Saved, Off: d.Off,
	}
	kinds := 0
	for _, g := range []struct {
		group Group
		parts *[]Node
	}{{All, d.All}, {Any, d.Any}, {None, d.None}} {
		if g.parts != nil {
			n.Group, n.Parts = g.group, *g.parts
			kinds++
		}
	}
	if n.Fact != "" || n.Is != "" {
		kinds++
	}
	if n.Saved != "" {
		kinds++
	}
	if kinds != 1 {
		n.kinds = kinds + 1
	}
	return nil
}

// JSONSchema describes the node. Which fields go together is for Check.
func (Node) JSONSchema() *jsonschema.Schema {
	self := &jsonschema.Schema{Ref: "#/$defs/Node"}
	props := jsonschema.NewProperties()
	limit := uint64(MaxLeaves)
	for _, g := range []Group{All, Any, None} {
		props.Set(string(g), &jsonschema.Schema{Type: "array", Items: self, MaxItems: &limit})
	}
	text := func(max uint64, what string) *jsonschema.Schema {
		return &jsonschema.Schema{Type: "string", MaxLength: &max, Description: what}
	}
	fact := text(200, "The name of a fact of the visit, such as visits.number.")
	fact.Pattern = FactPattern
	props.Set("fact", fact)
	is := &jsonschema.Schema{Type: "string"}
	for _, t := range []Test{
		Eq, Ne, In, NotIn, Contains, Starts, Ends, Like, Gte, Lte, Gt, Lt, Between, Has, HasAny, HasNone, Before, After,
		IsSet, IsUnset,
	} {
		is.Enum = append(is.Enum, string(t))
	}
	props.Set("is", is)
	props.Set("value", &jsonschema.Schema{
		Description: "Text, a number, true or false, or a list; nothing for set and unset.",
	})
	props.Set("clock", text(64, "For clock facts: visitor (the default), site, or an IANA zone name."))
	props.Set("within", text(40, "For counts of events: how far to look back, an ISO 8601 duration such as P7D."))
	props.Set(
		"since",
		text(100, "For counts of events: another event, such as order; what was before its last does not count."),
	)
	props.Set("saved", text(100, "The name of a saved audience of the site."))
	props.Set("off", &jsonschema.Schema{Type: "boolean", Description: "Set aside: kept, but it counts for nothing."})
	return &jsonschema.Schema{Type: "object", Properties: props, AdditionalProperties: jsonschema.FalseSchema}
}
