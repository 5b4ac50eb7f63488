package audience

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"mastflag/core/fault"
	"mastflag/core/schedule"
)

// Truth is the answer of a condition (rule A1). The order is False < NotYet < True.
type Truth int8

const (
	False Truth = iota
	NotYet
	True
)

// String returns the answer in words.
func (t Truth) String() string { return [...]string{"false", "not yet", "true"}[t] }

func truth(b bool) Truth {
	if b {
		return True
	}
	return False
}

// leaf is a condition compiled: one fact, one test, its values in the form in
// which they are compared.
type leaf struct {
	node  Node
	fact  Fact
	slot  int32    // of the fact in its table
	texts []string // folded
	nums  []float64
	ends  []float64 // of date-times: the last second that each value takes in
	text  bool      // a trait is compared as text
	bools []float64 // of a trait compared with true or false: 1 or 0, which it may be told as
}

// maxValues is how many values a leaf may list.
const maxValues = 500

// compileLeaf reads a leaf. Faults point into it.
func compileLeaf(n Node) (*leaf, fault.Faults) {
	one := func(pointer, what, remedy string) (*leaf, fault.Faults) {
		return nil, fault.Faults{{Pointer: pointer, What: what, Remedy: remedy}}
	}
	f, ok := Lookup(n.Fact)
	if !ok {
		return one(
			"/fact", fmt.Sprintf("unknown fact %s", shortened(n.Fact)),
			"use a fact such as visits.number, referrer.class or view.scroll; "+FactLetters,
		)
	}
	l := &leaf{node: n, fact: f}
	if !f.takes(n.Is) {
		tests := make([]string, len(f.Tests()))
		for i, t := range f.Tests() {
			tests[i] = string(t)
		}
		return one(
			"/is", fmt.Sprintf("%s, %s, cannot be tested by %q", n.Fact, f.kindWords(), n.Is),
			"use one of "+strings.Join(tests, ", "),
		)
	}
	if n.Clock != "" && !strings.HasPrefix(n.Fact, "clock.") {
		return one("/clock", fmt.Sprintf("%s has no clock", n.Fact), "leave it out; clock facts have one")
	}
	if n.Clock != "" && n.Clock != schedule.ClockSite && n.Clock != schedule.ClockVisitor {
		if _, err := schedule.Zone(n.Clock); err != nil {
			return one("/clock", err.Error(), `use "visitor", "site" or an IANA zone name such as "Europe/London"`)
		}
	}
	counts := strings.HasPrefix(n.Fact, "event.") && strings.HasSuffix(n.Fact, ".count")
	if n.Since != "" {
		if !counts {
			return one(
				"/since",
				fmt.Sprintf("%s is not counted", n.Fact),
				"leave it out; events are counted since others",
			)
		}
		if _, ok := Lookup(sinceFact(n.Since)); !ok {
			return one("/since", fmt.Sprintf("%.100q is no name of an event", n.Since), "use letters, digits, _ and -")
		}
	}
	if n.Within != "" {
		if !counts {
			return one("/within", fmt.Sprintf("%s does not look back", n.Fact), "leave it out; counts of events look back")
		}
		if _, err := schedule.ParseSpan(n.Within); err != nil {
			return one("/within", err.Error(), "give a duration such as P7D (seven days) or PT12H (twelve hours)")
		}
	}
	if faults := l.readValues(); faults != nil {
		return nil, faults
	}
	return l, nil
}

// sinceFact is the fact of an event since which others are counted.
func sinceFact(event string) string { return "event." + event + ".count" }

// key is what the leaf asks for.
func (l *leaf) key() Key { return Key{l.fact.Name, l.node.Clock, l.node.Within, l.node.Since} }

func (f Fact) kindWords() string {
	return map[Kind]string{
		Text:   "a text",
		Number: "a number",
		List:   "a set",
		Time:   "a date and time",
		Trait:  "a text or number",
	}[f.Kind]
}

// readValues reads the leaf's value by what the test wants: nothing, one, a
// list, or two ends.
func (l *leaf) readValues() fault.Faults {
	n := l.node
	one := func(what, remedy string) fault.Faults {
		return fault.Faults{{Pointer: "/value", What: what, Remedy: remedy}}
	}
	list, isList := n.Value.([]any)
	if strs, ok := n.Value.([]string); ok {
		isList = true
		for _, s := range strs {
			list = append(list, s)
		}
	}
	if len(list) > maxValues {
		return one(fmt.Sprintf("the list has %d values", len(list)), fmt.Sprintf("give at most %d", maxValues))
	}
	switch n.Is {
	case IsSet, IsUnset:
		if n.Value != nil {
			return one(fmt.Sprintf("%q takes no value", n.Is), "leave it out")
		}
		return nil
	case In, NotIn, HasAny, HasNone:
		if !isList || len(list) == 0 {
			return one(fmt.Sprintf("%q takes a list, not %s", n.Is, shortened(n.Value)), `give one such as ["DE","AT"]`)
		}
	case Between:
		if !isList || len(list) != 2 {
			return one(
				fmt.Sprintf("%q takes a list of two, not %s", n.Is, shortened(n.Value)),
				"give the two ends, both included, such as [9,17]",
			)
		}
	default:
		if isList || n.Value == nil {
			return one(fmt.Sprintf("%q takes one value, not %s", n.Is, shortened(n.Value)), "give one value")
		}
		list = []any{n.Value}
	}
	for i, v := range list {
		at := ""
		if isList {
			at = fault.Pointer(i)
		}
		if f := l.readValue(v); f != nil {
			f.Pointer = "/value" + at
			return fault.Faults{*f}
		}
	}
	if n.Is == Between && l.nums[0] > l.nums[1] {
		return one(fmt.Sprintf("%v comes after %v", shortened(list[0]), shortened(list[1])), "give the smaller end first")
	}
	return nil
}

func (l *leaf) readValue(v any) *fault.Fault {
	want := func(what string) *fault.Fault {
		return &fault.Fault{
			What:   fmt.Sprintf("%s is no value for %s, %s", shortened(v), l.node.Fact, l.fact.Label),
			Remedy: "give " + what,
		}
	}
	if i, ok := v.(int); ok {
		v = float64(i)
	}
	if b, ok := v.(bool); ok {
		one := 0.0
		if b {
			one = 1
		}
		v = strconv.FormatBool(b)
		switch l.fact.Kind {
		case Number:
			v = one
		case Trait:
			l.bools = append(l.bools, one)
		}
	}
	s, isText := v.(string)
	n, isNumber := v.(float64)
	isNumber = isNumber && !math.IsNaN(n) && !math.IsInf(n, 0)
	numeric := slices.Contains([]Test{Gte, Lte, Gt, Lt, Between}, l.node.Is)
	switch {
	case l.fact.Kind == Time:
		from, err := schedule.ParseLocal(s)
		until := from
		if err != nil { // a whole day
			from, err = schedule.ParseLocal(s + "T00:00")
			until = from + 86_399
		}
		if !isText || err != nil {
			return want("a local date and time such as 2026-12-01T09:00, or a date")
		}
		l.nums, l.ends = append(l.nums, float64(from)), append(l.ends, float64(until))
	case l.fact.Kind == Number || l.fact.Kind == Trait && numeric:
		if !isNumber {
			return want("a number")
		}
		l.nums = append(l.nums, n)
	case l.fact.Kind == Trait && isNumber && (l.node.Is == Eq || l.node.Is == Ne):
		l.nums = append(l.nums, n)
	default:
		if !isText {
			return want("text")
		}
		if len(s) > 2048 {
			return want("a shorter text")
		}
		l.texts, l.text = append(l.texts, Fold(s)), true
	}
	return nil
}

// test answers the leaf for a value (rule A3). A later fact that is absent is
// not yet known; the caller sees to that.
func (l *leaf) test(v Value) bool {
	if v.shape == absentShape {
		return l.node.Is == IsUnset || l.node.Is == Ne || l.node.Is == NotIn
	}
	switch l.node.Is {
	case IsSet:
		return true
	case IsUnset:
		return false
	case Ne:
		return !l.equals(v)
	case Eq:
		return l.equals(v)
	case NotIn:
		return !l.within(v)
	case In:
		return l.within(v)
	}
	switch v.shape {
	case numberShape, boolShape:
		if l.text && v.shape == boolShape {
			return l.testText(v.text)
		}
		return !l.text && l.testNumber(v.num)
	case textShape:
		return l.testText(v.text)
	default:
		return l.testList(v.list)
	}
}

func (l *leaf) equals(v Value) bool {
	if l.text {
		return (v.shape == textShape || v.shape == boolShape) && v.text == l.texts[0] ||
			v.shape == numberShape && slices.Contains(l.bools, v.num)
	}
	return (v.shape == numberShape || v.shape == boolShape) && v.num == l.nums[0]
}

// within is the test in: of a list of languages by lookup, each of the
// visitor's ranges cut short until it is one of the leaf's (RFC 4647 §3.4).
func (l *leaf) within(v Value) bool {
	if v.shape == listShape {
		return slices.ContainsFunc(v.list, func(s string) bool {
			for ; s != ""; s = parentTag(s) {
				if slices.Contains(l.texts, s) {
					return true
				}
			}
			return false
		})
	}
	return (v.shape == textShape || v.shape == boolShape) && slices.Contains(l.texts, v.text) ||
		v.shape == numberShape && slices.Contains(l.bools, v.num)
}

// parentTag cuts a language range by its last subtag, and by one more if that
// leaves a single letter at the end (RFC 4647 §3.4); "" if nothing is left.
func parentTag(tag string) string {
	i := strings.LastIndexByte(tag, '-')
	if i < 0 {
		return ""
	}
	if i >= 2 && tag[i-2] == '-' {
		i -= 2
	}
	return tag[:i]
}

func (l *leaf) testText(s string) bool {
	if len(l.texts) == 0 {
		return false
	}
	switch want := l.texts[0]; l.node.Is {
	case Contains:
		return strings.Contains(s, want)
	case Starts:
		return strings.HasPrefix(s, want)
	case Ends:
		return strings.HasSuffix(s, want)
	case Like:
		return matchesPattern(want, s)
	}
	return false
}

// matchesPattern reports whether s is of the form of pattern, in which * takes any run.
func matchesPattern(pattern, s string) bool {
	parts := strings.Split(pattern, "*")
	if len(parts) == 1 {
		return s == pattern
	}
	first, last := parts[0], parts[len(parts)-1]
	if len(s) < len(first)+len(last) || !strings.HasPrefix(s, first) || !strings.HasSuffix(s, last) {
		return false
	}
	s = s[len(first) : len(s)-len(last)]
	for _, p := range parts[1 : len(parts)-1] {
		i := strings.Index(s, p)
		if i < 0 {
			return false
		}
		s = s[i+len(p):]
	}
	return true
}

func (l *leaf) testNumber(n float64) bool {
	if l.fact.Kind == Time {
		switch l.node.Is {
		case Before:
			return n < l.nums[0]
		case After:
			return n > l.ends[0]
		}
		return n >= l.nums[0] && n <= l.ends[1]
	}
	switch l.node.Is {
	case Gte:
		return n >= l.nums[0]
	case Lte:
		return n <= l.nums[0]
	case Gt:
		return n > l.nums[0]
	case Lt:
		return n < l.nums[0]
	case Between:
		return n >= l.nums[0] && n <= l.nums[1]
	}
	return false
}

func (l *leaf) testList(have []string) bool {
	any := slices.ContainsFunc(l.texts, func(s string) bool { return slices.Contains(have, s) })
	if l.node.Is == HasNone {
		return !any
	}
	return any // has, has-any
}
