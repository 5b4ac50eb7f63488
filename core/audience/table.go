package audience

import "slices"

// A Key is a fact as a leaf asks for it: by name, on a clock, and within a
// stretch of time.
type Key struct{ Name, Clock, Within, Since string }

// A Table is what all audiences of a site ask about: each fact once, each
// text that facts are compared with once, and the audiences' programs. It is
// built once and then never altered.
type Table struct {
	keys     []Key
	facts    []Fact
	slots    map[Key]int32
	texts    map[string]uint32
	programs []instruction
}

// NewTable returns an empty table.
func NewTable() *Table {
	return &Table{slots: map[Key]int32{}, texts: map[string]uint32{}}
}

// A Program is an audience that depends on nothing later, as a list of tests
// that each say where to go on. It is of use in its table alone.
type Program struct{ start int32 }

// instruction is one test. Where to go on is another's place, or an answer.
type instruction struct {
	slot    int32
	op      op
	negate  bool
	id      uint32   // of a text
	ids     []uint32 // of several
	yes, no int32
	a, b    float64
	leaf    *leaf
}

type op uint8

const (
	byLeaf op = iota // as the leaf itself answers
	isText
	isOneOf
	isNumber
	inRange
)

// Ends of a program.
const (
	accept int32 = -1
	refuse int32 = -2
)

// Add puts an audience into the table, and returns its program; ok is false
// if it depends on what is not known at load and so has none. The leaves of
// the audience then belong to the table.
func (t *Table) Add(a Audience) (p Program, ok bool) {
	for _, l := range a.leaves {
		k := l.key()
		slot, known := t.slots[k]
		if !known {
			slot = int32(len(t.keys))
			t.slots[k] = slot
			t.keys = append(t.keys, k)
			t.facts = append(t.facts, l.fact)
		}
		l.slot = slot
		if l.text {
			for _, s := range l.texts {
				if t.texts[s] == 0 {
					t.texts[s] = uint32(len(t.texts) + 1)
				}
			}
		}
	}
	switch {
	case a.Deferred():
		return Program{}, false
	case a.root == nil:
		return Program{start: accept}, true
	}
	return Program{start: t.emit(a.root, accept, refuse)}, true
}

// emit appends the tests of a part, the last first, so that a run goes
// through them side by side in memory. It returns where the part begins.
func (t *Table) emit(p *part, yes, no int32) int32 {
	if p.leaf != nil {
		t.programs = append(t.programs, t.instruction(p.leaf, yes, no))
		return int32(len(t.programs) - 1)
	}
	if p.group == None {
		yes, no = no, yes
	}
	next := no // any, none: all members false
	if p.group == All {
		next = yes
	}
	for _, q := range slices.Backward(p.parts) {
		if p.group == All {
			next = t.emit(q, next, no)
		} else {
			next = t.emit(q, yes, next)
		}
	}
	return next
}

func (t *Table) instruction(l *leaf, yes, no int32) instruction {
	in := instruction{slot: l.slot, yes: yes, no: no, leaf: l}
	switch {
	case l.fact.Kind == Text && (l.node.Is == Eq || l.node.Is == Ne):
		in.op, in.id, in.negate = isText, t.texts[l.texts[0]], l.node.Is == Ne
	case l.fact.Kind == Text && (l.node.Is == In || l.node.Is == NotIn):
		in.op, in.negate = isOneOf, l.node.Is == NotIn
		for _, s := range l.texts {
			in.ids = append(in.ids, t.texts[s])
		}
	case l.fact.Kind == Number && (l.node.Is == Eq || l.node.Is == Ne):
		in.op, in.a, in.negate = isNumber, l.nums[0], l.node.Is == Ne
	case l.fact.Kind == Number && (l.node.Is == Gte || l.node.Is == Lte || l.node.Is == Between):
		in.op, in.a, in.b = inRange, -maxFloat, maxFloat
		if l.node.Is != Lte {
			in.a = l.nums[0]
		}
		if l.node.Is != Gte {
			in.b = l.nums[len(l.nums)-1]
		}
	}
	return in
}

const maxFloat = 0x1p1023 * (1 + (1 - 0x1p-52))

// A Frame is the facts of one visit, found as they are asked for.
type Frame struct {
	table *Table
	ask   func(Key, Fact) Value
	cells []cell
}

type cell struct {
	ready bool
	shape shape
	id    uint32 // of a text in the table, 0 if no audience compares with it
	num   float64
	value Value
}

// NewFrame returns a frame of the table, now complete, for visits whose facts
// ask gives. Reset it before each visit.
func (t *Table) NewFrame(ask func(Key, Fact) Value) *Frame {
	return &Frame{table: t, ask: ask, cells: make([]cell, len(t.keys))}
}

// Reset forgets the facts of the last visit.
func (f *Frame) Reset() { clear(f.cells) }

func (f *Frame) cell(slot int32) *cell {
	c := &f.cells[slot]
	if !c.ready {
		v := f.ask(f.table.keys[slot], f.table.facts[slot])
		c.ready, c.shape, c.num, c.value = true, v.shape, v.num, v
		if v.shape == textShape {
			c.id = f.table.texts[v.text]
		}
	}
	return c
}

// Run answers a program for the visit of the frame.
func (f *Frame) Run(p Program) bool {
	at := p.start
	for at >= 0 {
		in := &f.table.programs[at]
		c := &f.cells[in.slot]
		if !c.ready {
			c = f.cell(in.slot)
		}
		var yes bool
		switch in.op {
		case isText:
			yes = (c.shape == textShape && c.id == in.id) != in.negate
		case isOneOf:
			if c.shape == textShape && c.id != 0 {
				for _, id := range in.ids {
					if yes = c.id == id; yes {
						break
					}
				}
			}
			yes = yes != in.negate
		case isNumber:
			yes = (c.shape == numberShape && c.num == in.a) != in.negate
		case inRange:
			yes = c.shape == numberShape && c.num >= in.a && c.num <= in.b
		default:
			yes = in.leaf.test(c.value)
		}
		if yes {
			at = in.yes
		} else {
			at = in.no
		}
	}
	return at == accept
}
