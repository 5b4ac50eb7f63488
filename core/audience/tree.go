package audience

import (
	"fmt"

	"mastflag/core/fault"
)

// An Audience is a tree compiled: set-aside parts and empty groups are gone
// (rule A2), saved audiences stand in their places. It is never altered. The
// zero Audience lets everyone in.
type Audience struct {
	root   *part // nil: everyone
	leaves []*leaf
}

// part is a Node of a compiled tree.
type part struct {
	group    Group
	parts    []*part
	leaf     *leaf
	deferred bool   // holds a fact that is not known at load
	pointer  string // into the audience as written
	saved    string // the saved audience that it came in with, if any
}

// Names are the audiences that may be used by name.
type Names map[string]Node

// Named returns saved audiences by name: those of a site that was read, and is right.
func Named(saved []SavedAudience) Names {
	names := make(Names, len(saved))
	for _, s := range saved {
		names[s.Name] = s.Audience
	}
	return names
}

// NewNames reads a site's saved audiences. Faults point into the list.
func NewNames(saved []SavedAudience) (Names, fault.Faults) {
	names := Names{}
	var faults fault.Faults
	for i, s := range saved {
		if _, twice := names[s.Name]; twice {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer(i, "name"),
				What:    fmt.Sprintf("two audiences are named %q", s.Name),
				Remedy:  "give each its own name",
			})
		}
		names[s.Name] = s.Audience
		c := compiler{saved: true}
		c.tree(s.Audience, fault.Pointer(i, "audience"), "", 1)
		faults = append(faults, c.faults...)
	}
	return names, faults
}

// Compile reads an audience of a site with these saved ones. Faults point into
// the tree: unknown facts, tests and values that do not go with them, and too
// much of anything.
func Compile(n Node, names Names) (Audience, fault.Faults) {
	c := compiler{names: names}
	root := c.tree(n, "", "", 1)
	if c.leaves > MaxLeaves {
		return Audience{}, fault.Faults{{
			What:   fmt.Sprintf("the audience has %d conditions", c.leaves),
			Remedy: fmt.Sprintf("use at most %d", MaxLeaves),
		}}
	}
	if c.faults != nil {
		return Audience{}, c.faults
	}
	a := Audience{root: root}
	root.walk(func(p *part) {
		if p.leaf != nil {
			a.leaves = append(a.leaves, p.leaf)
		}
	})
	return a, nil
}

type compiler struct {
	names  Names
	saved  bool // it reads a saved audience for itself
	leaves int
	faults fault.Faults
}

// tree compiles a node, and returns nil if nothing counts in it. Parts that
// are set aside are read all the same: what is wrong in them is said.
func (c *compiler) tree(n Node, pointer, saved string, depth int) *part {
	fail := func(at, what, remedy string) *part {
		c.faults = append(c.faults, fault.Fault{Pointer: pointer + at, What: what, Remedy: remedy})
		return nil
	}
	if depth > MaxDepth {
		return fail("", fmt.Sprintf("groups are nested more than %d deep", MaxDepth), "use fewer groups within groups")
	}
	if n.kinds != 0 {
		return fail(
			"",
			fmt.Sprintf(
				`a part of an audience is one of "all", "any", "none", "fact" and "saved"; this has %d of them`, n.kinds-1,
			),
			"keep one",
		)
	}
	var p *part
	switch {
	case n.Group != "":
		p = &part{group: n.Group, pointer: pointer, saved: saved}
		for i, m := range n.Parts {
			at := pointer
			if saved == "" {
				at += fault.Pointer(string(n.Group), i)
			}
			if q := c.tree(m, at, saved, depth+1); q != nil {
				p.parts = append(p.parts, q)
				p.deferred = p.deferred || q.deferred
			}
		}
		if len(p.parts) == 0 {
			p = nil
		}
	case n.Saved != "":
		tree, ok := c.names[n.Saved]
		switch {
		case saved != "" || c.saved:
			return fail("/saved", "a saved audience uses another", "write its conditions out")
		case !ok:
			return fail(
				"/saved", fmt.Sprintf("there is no audience %q", n.Saved), "use the name of a saved audience of the site",
			)
		}
		p = c.tree(tree, pointer, n.Saved, depth)
	default:
		if c.leaves++; c.leaves > MaxLeaves {
			return nil // counted, and refused as a whole
		}
		l, faults := compileLeaf(n)
		if faults != nil {
			c.faults = append(c.faults, faults.Under(pointer)...)
			return nil
		}
		p = &part{leaf: l, deferred: l.fact.Deferred, pointer: pointer, saved: saved}
	}
	if n.Off {
		return nil
	}
	return p
}

func (p *part) walk(visit func(*part)) {
	if p == nil {
		return
	}
	visit(p)
	for _, q := range p.parts {
		q.walk(visit)
	}
}

// Everyone reports whether the audience lets everyone in because nothing in
// it counts.
func (a Audience) Everyone() bool { return a.root == nil }

// Deferred reports whether the audience depends on what is not known at load.
func (a Audience) Deferred() bool { return a.root != nil && a.root.deferred }

// Facts returns the names of the facts that the audience asks about.
func (a Audience) Facts() []string {
	var out []string
	for _, l := range a.leaves {
		out = append(out, l.fact.Name)
		if l.node.Since != "" {
			out = append(out, sinceFact(l.node.Since))
		}
	}
	return out
}

// Decide answers the audience for a visit, whose facts the frame has (rules
// A1, A3). Where the answer is NotYet, rest is what is left of the tree (rule
// A5); it is nil otherwise.
func (a Audience) Decide(f *Frame) (answer Truth, rest *Node) {
	if a.root == nil {
		return True, nil
	}
	return a.root.reduce(f)
}

func (l *leaf) answer(f *Frame) Truth {
	v := f.cell(l.slot).value
	if v.shape == absentShape && l.fact.Deferred {
		return NotYet
	}
	return truth(l.test(v))
}

// reduce works everything known into the part. It stops at the first member
// that settles a group.
func (p *part) reduce(f *Frame) (Truth, *Node) {
	if p.leaf != nil {
		t := p.leaf.answer(f)
		if t != NotYet {
			return t, nil
		}
		n := p.leaf.node
		n.Off = false
		return NotYet, &n
	}
	settles := True // the answer of a member that settles any and none
	if p.group == All {
		settles = False
	}
	var rest []Node
	for _, q := range p.parts {
		t, n := q.reduce(f)
		switch t {
		case settles:
			return truth(p.group == Any), nil
		case NotYet:
			rest = append(rest, *n)
		}
	}
	switch {
	case len(rest) == 0:
		return truth(p.group != Any), nil
	case len(rest) == 1 && p.group != None:
		return NotYet, &rest[0]
	case len(rest) == 1 && rest[0].Group == None && len(rest[0].Parts) == 1:
		return NotYet, &rest[0].Parts[0] // not not
	}
	return NotYet, &Node{Group: p.group, Parts: rest}
}
