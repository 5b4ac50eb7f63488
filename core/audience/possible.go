package audience

import (
	"cmp"
	"encoding/binary"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"mastflag/core/schedule"
)

// What proofs may cost before they give up, and then claim nothing: one proof, and all
// proofs about the parts of one audience. A unit is about one test of a leaf, 40 ns or so.
const (
	budget           = 400_000
	redundancyBudget = 4_000_000
	lettersPerUnit   = 64 // letters of a text that a test looks at for one unit
)

// An Effort is what many proofs may cost together. Once it is spent they claim nothing. A
// nil Effort is never spent.
type Effort struct{ left int }

// NewEffort returns an effort of so many units.
func NewEffort(units int) *Effort { return &Effort{units} }

// Spent reports whether nothing is left, so that not all is known that could be.
func (e *Effort) Spent() bool { return e != nil && e.left <= 0 }

// part returns what a proof may cost that may cost at most so much by itself, and what
// takes off the whole what it has cost.
func (e *Effort) part(most int) (part *Effort, done func()) {
	if e != nil {
		most = max(0, min(most, e.left))
	}
	part = &Effort{most}
	return part, func() {
		if e != nil {
			e.left -= most - max(part.left, 0)
		}
	}
}

// spend reports whether there was so much left to spend.
func (e *Effort) spend(n int) bool {
	e.left -= n
	return e.left > 0
}

// Settled gives what a fact is known to be; ok is false of what is open. A nil one knows nothing.
type Settled func(Key) (v Value, ok bool)

// Possible reports whether some visitor can be in the audience, with what is settled. It is
// false only where that is proven: no values that the facts can have make it true, sooner or
// later on a page view. Facts are taken to be independent of each other.
func (a Audience) Possible(e *Effort, settled Settled) bool {
	return a.root == nil || possible([]claim{{a.root, true}}, e, settled)
}

// Witness returns facts of a visitor who is in all the audiences at once: those
// that settled does not have. ok is false where none is found, though there may
// be one. Facts are taken to be independent of each other.
func Witness(e *Effort, settled Settled, as ...Audience) (facts map[string]any, ok bool) {
	left, done := e.part(budget)
	defer done()
	s := &search{left, map[Key][]literal{}, settled, map[string]any{}}
	var todo []claim
	for _, a := range as {
		if a.root != nil {
			todo = append(todo, claim{a.root, true})
		}
	}
	ok = s.all(todo) && !s.effort.Spent()
	return s.found, ok
}

// Always reports whether every visitor is in the audience, though it has conditions: at
// once, whatever the later facts become. It is true only where that is proven.
func (a Audience) Always(e *Effort) bool {
	return a.root != nil && !possible([]claim{{a.root, false}}, e, nil)
}

// TurningPoints returns when answers about the clock change: the wall-clock times at which
// those about the date do, and the hours of the day at which those about the hour
// and the weekday do.
func (a Audience) TurningPoints() (dates []schedule.Local, hours []int) {
	for _, l := range a.leaves {
		switch {
		case l.fact.Kind == Time:
			for i, n := range l.nums {
				dates = append(dates, schedule.Local(n), schedule.Local(l.ends[i])+1)
			}
		case l.fact.Name == "clock.weekday":
			hours = append(hours, 0)
		case l.fact.Name == "clock.hour":
			hours = append(hours, 0)
			for _, n := range l.nums {
				hours = append(hours, int(n), int(n)+1)
			}
		}
	}
	slices.Sort(hours)
	return dates, slices.Compact(hours)
}

// Zones returns the time zones by which the answer can change, as they are written:
// those that the visitor's is compared with, and those of other clocks.
func (a Audience) Zones() []string {
	var out []string
	for _, l := range a.leaves {
		if l.node.Clock != "" {
			out = append(out, l.node.Clock)
		}
		if l.fact.Name != "locale.zone" {
			continue
		}
		switch v := l.node.Value.(type) {
		case string:
			out = append(out, v)
		case []string:
			out = append(out, v...)
		case []any:
			for _, x := range v {
				if s, ok := x.(string); ok {
					out = append(out, s)
				}
			}
		}
	}
	return slices.DeleteFunc(out, func(s string) bool { _, err := schedule.Zone(s); return err != nil })
}

// AppendAnswers appends what each condition on a settled fact answers to b: audiences
// of which it is the same have the same Witness.
func (a Audience) AppendAnswers(settled func(Key) (v Value, ok bool), b []byte) []byte {
	for _, l := range a.leaves {
		if v, ok := settled(l.key()); !ok {
			b = append(b, '?')
		} else if l.test(v) {
			b = append(b, '+')
		} else {
			b = append(b, '-')
		}
	}
	return append(b, ' ')
}

// An RedundantPart is a part of an audience that makes no difference.
type RedundantPart struct {
	Pointer string
	// It can never hold; otherwise the parts beside it say as much already.
	Never bool
	// What the part says, as a clause.
	Phrase string
}

// redundant says of a part that it need not be there.
func (p *part) redundant(never bool) RedundantPart {
	return RedundantPart{p.pointer, never, strings.TrimSpace(p.phrase())}
}

// RedundantParts returns the parts that make no difference to the answer, wherever that
// is proven; of two that say the same, the later one.
func (a Audience) RedundantParts(e *Effort) []RedundantPart {
	var out []RedundantPart
	left, done := e.part(redundancyBudget)
	defer done()
	possible := func(todo []claim) bool { return possible(todo, left, nil) }
	var walk func(p *part)
	walk = func(p *part) {
		if p == nil || p.leaf != nil || p.saved != "" {
			return
		}
		kept := slices.Clone(p.parts)
		for i := len(p.parts) - 1; i >= 0; i-- {
			q := p.parts[i]
			if p.group != All && len(kept) > 1 && !possible([]claim{{q, true}}) {
				out = append(out, q.redundant(true))
				kept = slices.DeleteFunc(kept, func(k *part) bool { return k == q })
				continue
			}
			// In all, the others imply it; in any and none, it implies one of them.
			todo := []claim{{q, p.group != All}}
			for _, k := range kept {
				if k != q {
					todo = append(todo, claim{k, p.group == All})
				}
			}
			if len(todo) > 1 && possible([]claim{{q, true}}) && !possible(todo) && possible(todo[1:]) {
				out = append(out, q.redundant(false))
				kept = slices.DeleteFunc(kept, func(k *part) bool { return k == q })
			}
		}
		for _, q := range p.parts {
			walk(q)
		}
	}
	walk(a.root)
	return out
}

// ConflictingParts returns the members of an impossible audience's outermost group
// without any one of which it would be possible.
func (a Audience) ConflictingParts(e *Effort) []RedundantPart {
	var out []RedundantPart
	if a.root == nil || a.root.group != All {
		return nil
	}
	left, done := e.part(redundancyBudget)
	defer done()
	for i, q := range a.root.parts {
		var todo []claim
		for j, k := range a.root.parts {
			if j != i {
				todo = append(todo, claim{k, true})
			}
		}
		if q.saved == "" && possible(todo, left, nil) && !left.Spent() {
			out = append(out, q.redundant(false))
		}
	}
	return out
}

// claim is that a part is true, or that it is false.
type claim struct {
	part *part
	hold bool
}

// literal is the same of a leaf.
type literal struct {
	leaf *leaf
	hold bool
}

// search looks for values of the facts that fulfil all claims.
type search struct {
	effort   *Effort
	literals map[Key][]literal
	settled  Settled
	found    map[string]any // the values at which the search ended, by fact; nil if nobody asks
}

// possible reports whether the claims can hold together.
func possible(todo []claim, e *Effort, settled Settled) bool {
	left, done := e.part(budget)
	defer done()
	s := &search{left, map[Key][]literal{}, settled, nil}
	return s.all(todo)
}

// all reports whether the claims can hold together with the literals taken so
// far. What leaves no choice is done before what does.
func (s *search) all(todo []claim) bool {
	if !s.effort.spend(1 + len(todo)) {
		return true
	}
	type mark struct {
		key Key
		n   int
	}
	var taken []mark
	undo := func() {
		for _, m := range slices.Backward(taken) {
			s.literals[m.key] = s.literals[m.key][:m.n]
		}
	}
	var choices []claim
	todo = slices.Clone(todo)
	for len(todo) > 0 {
		c := todo[len(todo)-1]
		todo = todo[:len(todo)-1]
		p := c.part
		switch {
		case p.leaf != nil:
			k := p.leaf.key()
			have := s.literals[k]
			taken = append(taken, mark{k, len(have)})
			s.literals[k] = append(have, literal{p.leaf, c.hold})
		case p.group == All && c.hold, p.group == Any && !c.hold, p.group == None && c.hold:
			for _, q := range p.parts {
				todo = append(todo, claim{q, p.group == All})
				if p.group == Any {
					todo[len(todo)-1].hold = false
				}
			}
		case len(p.parts) == 1:
			todo = append(todo, claim{p.parts[0], c.hold == (p.group != None)})
		default:
			choices = append(choices, c)
		}
	}
	// What is taken, undone and sorted costs more than what is only looked at.
	if !s.effort.spend(4 * (len(taken) + len(choices))) {
		undo()
		return true
	}
	// Each fact once, whatever was taken about it.
	asked := map[Key]bool{}
	for _, m := range slices.Backward(taken) {
		if ls := s.literals[m.key]; !asked[m.key] {
			asked[m.key] = true
			if _, ok := s.consistent(m.key, ls[0].leaf.fact, ls); !ok {
				undo()
				return false
			}
		}
	}
	if len(choices) == 0 {
		if s.found != nil {
			s.take()
		}
		undo()
		return true
	}
	slices.SortStableFunc(choices, func(a, b claim) int { return len(a.part.parts) - len(b.part.parts) })
	c := choices[0]
	for _, q := range c.part.parts {
		// any holds: one member does. all fails: one member does. none fails: one member holds.
		if s.all(append([]claim{{q, c.part.group != All}}, choices[1:]...)) {
			undo()
			return true
		}
	}
	undo()
	return false
}

// take finds the values of what is not settled.
func (s *search) take() {
	byName := func(a, b Key) int {
		return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.Within, b.Within), cmp.Compare(a.Since, b.Since))
	}
	for _, k := range slices.SortedFunc(maps.Keys(s.literals), byName) {
		ls := s.literals[k]
		if len(ls) == 0 {
			continue
		}
		if s.settled != nil {
			if _, ok := s.settled(k); ok {
				continue
			}
		}
		fact := ls[0].leaf.fact
		switch v, _ := s.consistent(k, fact, ls); v.shape {
		case numberShape:
			s.found[k.Name] = v.num
			if fact.Kind == Time {
				s.found[k.Name] = schedule.Local(v.num).String()
			}
		case boolShape:
			s.found[k.Name] = v.num == 1
		case textShape:
			s.found[k.Name] = v.text
		case listShape:
			s.found[k.Name] = v.list
		}
	}
}

// consistent reports whether some value of the fact, or its absence, fulfils
// all literals, and which. It may say so where it is not; never the other way.
func (s *search) consistent(k Key, f Fact, ls []literal) (got Value, ok bool) {
	fulfils := func(v Value) bool {
		got = v
		if !s.effort.spend(len(ls) * (1 + len(v.text)/lettersPerUnit)) {
			return true
		}
		return !slices.ContainsFunc(ls, func(l literal) bool { return l.leaf.test(v) != l.hold })
	}
	if s.settled != nil {
		if v, ok := s.settled(k); ok {
			return v, fulfils(v)
		}
	}
	// Numbers are looked for first: a witness who has one is told more by it.
	lackable := !f.Deferred && !f.always
	if lackable && f.Kind != Number && fulfils(Value{}) {
		return got, true
	}
	if s.present(f, ls, fulfils) {
		return got, true
	}
	return got, lackable && f.Kind == Number && fulfils(Value{})
}

// present reports whether some value of the fact fulfils all literals.
func (s *search) present(f Fact, ls []literal, fulfils func(Value) bool) bool {
	switch f.Kind {
	case Number, Time:
		return slices.ContainsFunc(numbers(f, ls), func(n float64) bool { return fulfils(Value{shape: numberShape, num: n}) })
	case List:
		named := 1
		for _, l := range ls {
			named += 2 * len(l.leaf.texts)
		}
		return !s.effort.spend(named*len(ls)) || fulfils(widestSet(ls))
	case Trait:
		for _, n := range numbers(f, ls) {
			if fulfils(Value{shape: numberShape, num: n}) {
				return true
			}
		}
		for i, s := range []string{"false", "true"} {
			if fulfils(Value{shape: boolShape, text: s, num: float64(i)}) {
				return true
			}
		}
	}
	return s.texts(f, ls, fulfils)
}

// numbers returns a number from every stretch in which no literal changes.
func numbers(f Fact, ls []literal) []float64 {
	var at []float64
	for _, l := range ls {
		at = append(append(at, l.leaf.nums...), l.leaf.ends...)
	}
	slices.Sort(at)
	at = slices.Compact(at)
	out := make([]float64, 0, 2+7*len(at))
	out = append(out, 0, 1)
	whole := f.Whole || f.Kind == Time
	for i, n := range at {
		if whole {
			out = append(out, math.Floor(n), math.Ceil(n), math.Floor(n)-1, math.Ceil(n)+1, math.Floor(n)+1, math.Ceil(n)-1)
			continue
		}
		out = append(out, n)
		if i > 0 {
			out = append(out, at[i-1]+(n-at[i-1])/2)
		}
	}
	if len(at) > 0 && !whole {
		out = append(
			out, at[0]-1, at[len(at)-1]+1, math.Nextafter(at[0], math.Inf(-1)), math.Nextafter(at[len(at)-1], math.Inf(1)),
		)
	}
	if f.Kind == Number {
		out = append(out, f.Min)
		if f.Max != nil {
			out = append(out, *f.Max)
		}
		out = slices.DeleteFunc(out, func(n float64) bool {
			return n < f.Min || f.Max != nil && n > *f.Max
		})
	}
	return slices.DeleteFunc(out, func(n float64) bool { return math.IsInf(n, 0) })
}

// widestSet returns the set that has everything the literals name but what they
// rule out. What more a literal can want to be in a set is in this one.
func widestSet(ls []literal) Value {
	var universe []string
	for _, l := range ls {
		universe = append(universe, l.leaf.texts...)
		for _, s := range l.leaf.texts {
			universe = append(universe, s+"-zzzzz") // a narrower language that no one names
		}
	}
	universe = append(universe, "zzzzzz")
	v := Value{shape: listShape}
	for _, s := range universe {
		alone := Value{shape: listShape, list: []string{s}}
		out := slices.ContainsFunc(ls, func(l literal) bool {
			switch l.leaf.node.Is {
			case Has, HasAny, In:
				return !l.hold && l.leaf.test(alone)
			case HasNone, NotIn:
				return l.hold && !l.leaf.test(alone)
			}
			return false
		})
		if !out {
			v.list = append(v.list, s)
		}
	}
	return v
}

// texts reports whether some text fulfils the literals.
func (s *search) texts(f Fact, ls []literal, fulfils func(Value) bool) bool {
	try := func(in []string) bool {
		return slices.ContainsFunc(in, func(s string) bool { return fulfils(Value{shape: textShape, text: s}) })
	}
	if len(f.Choices) > 0 {
		return slices.ContainsFunc(f.Choices, func(c Choice) bool { return fulfils(Value{shape: textShape, text: c.Value}) })
	}
	var globs []glob
	met := map[string]bool{}
	for _, l := range ls {
		is := l.leaf.node.Is
		switch {
		case !l.leaf.text: // set, unset, and numbers: the same for all texts
			if l.leaf.test(Value{shape: textShape, text: "\x00"}) != l.hold {
				return false
			}
			continue
		case (is == Eq || is == In) && l.hold, (is == Ne || is == NotIn) && !l.hold:
			return try(l.leaf.texts) // it is one of these or nothing
		}
		for _, text := range l.leaf.texts {
			g := glob{hold: l.hold}
			switch is {
			case Contains:
				g.parts = []string{"", text, ""}
			case Starts:
				g.parts = []string{text, ""}
			case Ends:
				g.parts = []string{"", text}
			case Like:
				g.parts = strings.Split(text, "*")
			default: // it is none of these
				g.parts, g.hold = []string{text}, false
			}
			if as := fmt.Sprint(g.hold, len(g.parts)) + strings.Join(g.parts, "\x00"); !met[as] {
				met[as] = true
				g.compile()
				globs = append(globs, g)
			}
		}
	}
	return try(likelyTexts(globs)) || s.fit(globs)
}

// likelyTexts returns texts that have what the globs ask for side by side. Most
// claims that can be fulfilled are fulfilled by one of them.
func likelyTexts(globs []glob) []string {
	const other = "\uE000"
	var first, last, middle string
	for _, g := range globs {
		if !g.hold {
			continue
		}
		n := len(g.parts) - 1
		if len(g.parts[0]) > len(first) {
			first = g.parts[0]
		}
		if len(g.parts[n]) > len(last) && n > 0 {
			last = g.parts[n]
		}
		if n > 1 {
			middle += other + strings.Join(g.parts[1:n], other) + other
		}
	}
	return []string{"", other, first + middle + last, first + other + middle + last, first + last}
}

// glob is a pattern that a text is to fit, or not to: parts with any run
// between each two.
type glob struct {
	parts  []string
	hold   bool
	tokens []rune // run for any run
}

const run = rune(-1)

func (g *glob) compile() {
	for i, p := range g.parts {
		if i > 0 {
			g.tokens = append(g.tokens, run)
		}
		g.tokens = append(g.tokens, []rune(p)...)
	}
}

// fit reports whether some text fits all globs: a walk through the product of
// their automata (each a set of places in the tokens), over the letters that
// occur in them and one that does not.
func (s *search) fit(globs []glob) bool {
	letters := []rune{'\uE000'}
	for _, g := range globs {
		for _, r := range g.tokens {
			if r != run && !slices.Contains(letters, r) {
				letters = append(letters, r)
			}
		}
	}
	type state [][]int // places, one set for each glob
	closure := func(g glob, set []int) []int {
		for i := 0; i < len(set); i++ {
			if at := set[i]; at < len(g.tokens) && g.tokens[at] == run && !slices.Contains(set, at+1) {
				set = append(set, at+1)
			}
		}
		slices.Sort(set)
		return set
	}
	key := func(s state) string {
		var b []byte
		for _, set := range s {
			for _, at := range set {
				b = binary.AppendUvarint(b, uint64(at)+1)
			}
			b = append(b, 0)
		}
		return string(b)
	}
	accepts := func(s state) bool {
		for i, g := range globs {
			if slices.Contains(s[i], len(g.tokens)) != g.hold {
				return false
			}
		}
		return true
	}
	var first state
	for _, g := range globs {
		first = append(first, closure(g, []int{0}))
	}
	seen := map[string]bool{key(first): true}
	for queue := []state{first}; len(queue) > 0; {
		here := queue[0]
		queue = queue[1:]
		places := len(globs)
		for _, set := range here {
			places += len(set)
		}
		if accepts(here) || !s.effort.spend(places*len(letters)*8) {
			return true
		}
		for _, r := range letters {
			next := make(state, len(globs))
			dead := false
			for i, g := range globs {
				var set []int
				for _, at := range here[i] {
					switch {
					case at == len(g.tokens):
					case g.tokens[at] == run:
						set = append(set, at)
					case g.tokens[at] == r:
						set = append(set, at+1)
					}
				}
				slices.Sort(set)
				next[i] = closure(g, slices.Compact(set))
				dead = dead || g.hold && len(set) == 0
			}
			if dead {
				continue
			}
			if k := key(next); !seen[k] {
				seen[k] = true
				queue = append(queue, next)
			}
		}
	}
	return false
}
