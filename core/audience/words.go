package audience

import (
	"fmt"
	"slices"
	"strings"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"mastflag/core/schedule"
)

// A Verdict is what one part of an audience answered on a visit.
type Verdict struct {
	// JSON Pointer into the audience.
	Pointer string `json:"pointer"`
	// How deep the part lies in groups.
	Depth int `json:"depth"`
	// Of a group: all, any or none.
	Group Group `json:"group,omitempty"`
	// false, not yet, or true.
	Answer string `json:"answer" jsonschema:"enum=false,enum=not yet,enum=true"`
	// One plain sentence.
	Why string `json:"why"`
}

// Explain answers every part of the audience for a visit, groups before their
// members. It skips none, whatever settles the whole.
func (a Audience) Explain(f *Frame) []Verdict {
	var out []Verdict
	var walk func(p *part, depth int, saved string) Truth
	walk = func(p *part, depth int, saved string) Truth {
		at := len(out)
		out = append(out, Verdict{Pointer: p.pointer, Depth: depth, Group: p.group})
		t := True
		if p.leaf != nil {
			t = p.leaf.answer(f)
			out[at].Why = p.leaf.sentence(f.cell(p.leaf.slot).value, t)
		} else {
			if p.group == Any {
				t = False
			}
			for _, q := range p.parts {
				switch m := walk(q, depth+1, p.saved); p.group {
				case Any:
					t = max(t, m)
				case None:
					t = min(t, True-m)
				default:
					t = min(t, m)
				}
			}
			out[at].Why = groupSentence(p.group)
		}
		if p.saved != saved {
			out[at].Why = "The saved audience “" + p.saved + "”: " + out[at].Why
		}
		out[at].Answer = t.String()
		return t
	}
	if a.root != nil {
		walk(a.root, 0, "")
	}
	return out
}

func groupSentence(g Group) string {
	switch g {
	case Any:
		return "At least one of these needs to hold."
	case None:
		return "None of these may hold."
	}
	return "All of these need to hold."
}

// sentence says what the leaf saw and what it needs.
func (l *leaf) sentence(v Value, t Truth) string {
	label, _, _ := strings.Cut(l.fact.Label, " (ISO")
	subject := capitalised(label)
	if n, ok := l.threshold(); ok && l.fact.Deferred {
		does, unit := "", ""
		switch l.fact.Name {
		case "view.scroll":
			does, unit = "has read", " % of the page"
		case "view.seconds":
			does, unit = "has been on the page for", " seconds"
		case "site.seconds":
			does, unit = "has been on the site for", " seconds"
		case "view.idle":
			does, unit = "has paused for", " seconds"
		case "view.leaving":
			if t == True {
				return "This visitor is about to leave."
			}
			return "It waits until this visitor is about to leave."
		}
		wants := number(n) + strings.TrimSuffix(unit, " of the page")
		switch t {
		case NotYet:
			return "It waits until this visitor " + does + " " + number(n) + unit + "."
		case True:
			return "This visitor " + does + " " + v.raw + unit + "; it waited for " + wants + "."
		}
		return "This visitor " + does + " " + v.raw + unit + "; it waits for " + wants + "."
	}
	is, needs, they := " is ", " needs ", "it needs "
	if l.fact.plural {
		is, needs, they = " are ", " need ", "they need "
	}
	if l.fact.Name == "person.signedIn" && l.node.Is != IsSet && l.node.Is != IsUnset {
		state := map[string]string{"true": "The visitor is signed in", "false": "The visitor is not signed in"}[v.raw]
		if state == "" {
			state = "It is not known whether the visitor is signed in"
		}
		return state + "; it is for those " + l.clause() + "."
	}
	switch {
	case l.node.Is == IsSet && v.Absent():
		return subject + is + "not known, and" + needs + "to be."
	case l.node.Is == IsSet:
		return subject + is + "known: " + l.display(v.raw) + "."
	case l.node.Is == IsUnset && v.Absent():
		return subject + is + "not known, as " + they + "to be."
	case l.node.Is == IsUnset:
		return subject + is + l.display(v.raw) + ", and" + needs + "to be unknown."
	case t == NotYet:
		return "It waits: " + label + needs + l.requirement() + "."
	case v.Absent():
		return subject + is + "not known; " + they + l.requirement() + "."
	}
	return subject + is + l.display(v.raw) + "; " + they + l.requirement() + "."
}

// threshold returns the number that the fact is to reach; ok is false if the
// leaf wants something else.
func (l *leaf) threshold() (n float64, ok bool) {
	if l.fact.Kind != Number || len(l.nums) != 1 {
		return 0, false
	}
	return l.nums[0], l.node.Is == Gte || l.fact.Name == "view.leaving" && l.node.Is == Eq && l.nums[0] == 1
}

// display shows a value of the fact, by its label if it has one.
func (l *leaf) display(s string) string {
	for _, c := range l.fact.Choices {
		if c.Value == Fold(s) {
			return c.Label
		}
	}
	if name := l.fact.names(s); name != "" {
		return name
	}
	if l.fact.Kind == Text || l.fact.Kind == List {
		if s == "" {
			return "nothing"
		}
		return "“" + s + "”"
	}
	return s
}

// withArticle are countries that are said with an article.
var withArticle = []string{
	"AE", "BS", "CD", "CF", "CG", "DO", "GB", "GM", "IM", "KM", "MV", "NL", "PH", "SC", "US", "VA",
}

// names returns the English name of a language or a country (Unicode CLDR); "" for what
// is none, or has none.
func (f Fact) names(code string) string {
	switch f.Name {
	case "locale.languages", "page.language":
		if t, err := language.Parse(code); err == nil {
			return display.English.Tags().Name(t)
		}
	case "place.country":
		if r, err := language.ParseRegion(code); err == nil && r.IsCountry() {
			name := display.English.Regions().Name(r)
			if slices.Contains(withArticle, r.String()) || strings.HasSuffix(name, " Islands") {
				name = "the " + name
			}
			return name
		}
	}
	return ""
}

// values returns what the leaf compares with, in words.
func (l *leaf) values() []string {
	list, ok := l.node.Value.([]any)
	if strs, isStrs := l.node.Value.([]string); isStrs {
		ok = true
		for _, s := range strs {
			list = append(list, s)
		}
	}
	if !ok {
		list = []any{l.node.Value}
	}
	var out []string
	for _, v := range list {
		switch x := v.(type) {
		case float64:
			out = append(out, number(x))
		case string:
			if l.fact.Kind == Time {
				out = append(out, strings.Replace(x, "T", " ", 1))
			} else {
				out = append(out, l.display(x))
			}
		default:
			out = append(out, fmt.Sprint(x))
		}
	}
	return out
}

// requirement says what the fact needs to be, after "it needs".
func (l *leaf) requirement() string {
	v := l.values()
	switch l.node.Is {
	case Eq:
		return "to be " + v[0]
	case Ne:
		return "to be anything but " + v[0]
	case In:
		return "to be " + join(v, "or")
	case NotIn:
		return "to be anything but " + join(v, "or")
	case Contains:
		return "to contain " + v[0]
	case Starts:
		return "to start with " + v[0]
	case Ends:
		return "to end with " + v[0]
	case Like:
		return "to match " + v[0]
	case Gte:
		return "to be at least " + v[0]
	case Lte:
		return "to be at most " + v[0]
	case Gt:
		return "to be more than " + v[0]
	case Lt:
		return "to be less than " + v[0]
	case Between:
		return "to be from " + v[0] + " to " + v[1]
	case Has:
		return "to include " + v[0]
	case HasAny:
		return "to include " + join(v, "or")
	case HasNone:
		return "to include none of " + join(v, "and")
	case Before:
		return "to be before " + v[0]
	case After:
		return "to be after " + v[0]
	case IsSet:
		return "to be known"
	}
	return "to be unknown"
}

// join lists words: "a, b or c". Long lists are cut short.
func join(words []string, and string) string {
	if len(words) > 4 {
		words = append(words[:3:3], fmt.Sprintf("%d more", len(words)-3))
	}
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	last := len(words) - 1
	return strings.Join(words[:last], ", ") + " " + and + " " + words[last]
}

func capitalised(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// maxListed is how many conditions a phrase says one by one.
const maxListed = 4

// Phrase says for whom an audience is: "everyone", "visitors who come from a
// search and who use a phone".
func (a Audience) Phrase() string {
	switch {
	case a.root == nil:
		return "everyone"
	case a.root.saved != "":
		return "visitors in “" + a.root.saved + "”"
	case len(a.leaves) > maxListed || a.root.twiceNone():
		return conditions(len(a.leaves))
	case a.root.group == None:
		return "everyone" + a.root.phrase()
	}
	phrase := a.root.phrase()
	if rest, ok := strings.CutPrefix(phrase, "anyone"); ok {
		return "everyone" + rest
	}
	return "visitors " + phrase
}

func conditions(n int) string {
	if n == 1 {
		return "visitors who meet one condition"
	}
	return fmt.Sprintf("visitors who meet %d conditions", n)
}

// twiceNone reports whether none of the parts lies within none of others, which no
// sentence says well.
func (p *part) twiceNone() bool {
	return slices.ContainsFunc(p.parts, func(q *part) bool { return p.group == None && q.group == None || q.twiceNone() })
}

// phrase says a part as clauses after "visitors".
func (p *part) phrase() string {
	if p.leaf != nil {
		return p.leaf.clause()
	}
	var clauses []string
	var except []string
	for _, q := range p.parts {
		s := q.phrase()
		switch {
		case q.saved != p.saved:
			s = "who are in “" + q.saved + "”"
		case q.group == None && p.group == All:
			except = append(except, strings.TrimPrefix(s, " except "))
			continue
		case q.group == None:
			s = "anyone" + s
		case q.group != "" && len(q.parts) > 1 && len(p.parts) > 1:
			s = "(" + s + ")"
		}
		clauses = append(clauses, s)
	}
	switch p.group {
	case Any:
		return strings.Join(clauses, " or ")
	case None:
		return " except those " + strings.Join(clauses, " or ")
	}
	all := strings.Join(clauses, " and ")
	if len(except) == 0 {
		return all
	}
	if len(clauses) == 0 {
		return "anyone except " + strings.Join(except, " and ")
	}
	return all + ", except " + strings.Join(except, " and ")
}

// verbs say facts of text and sets that have a value, and those that have not.
var verbs = map[string][2]string{
	"referrer.class":   {"who come from ", "who do not come from "},
	"device.kind":      {"who use ", "who do not use "},
	"place.country":    {"who are in ", "who are not in "},
	"place.region":     {"who are in ", "who are not in "},
	"place.group":      {"who are in ", "who are not in "},
	"locale.languages": {"who read ", "who do not read "},
	"utm.campaign":     {"who come by the campaign ", "who do not come by the campaign "},
	"utm.source":       {"who come by ", "who do not come by "},
	"visits.seen":      {"who have seen ", "who have not seen "},
	"view.clicked":     {"who have clicked ", "who have not clicked "},
	"page.tags":        {"who are on pages tagged ", "who are on pages not tagged "},
	"page.language":    {"who are on pages in ", "who are not on pages in "},
	"page.type":        {"who are on pages of the type ", "who are on pages not of the type "},
	"consent.granted":  {"who have agreed to ", "who have not agreed to "},
}

// growth says facts that have reached a number, which stands at the mark.
var growth = map[string]string{
	"visits.pages": "who have seen # pages",
	"view.scroll":  "who have read # % of the page",
	"view.seconds": "who have been on the page for # seconds",
	"site.seconds": "who have been on the site for # seconds",
	"view.idle":    "who have paused for # seconds",
	"view.leaving": "who are about to leave",
}

// clause says the leaf as "who …" or "for whom …".
func (l *leaf) clause() string {
	v := l.values()
	is := l.node.Is
	if verb, ok := verbs[l.fact.Name]; ok {
		list := join(v, "or")
		if strings.HasPrefix(l.fact.Name, "place.") {
			list = strings.NewReplacer("“", "", "”", "").Replace(list) // codes without a name
		}
		switch is {
		case Eq, In, Has, HasAny:
			return verb[0] + list
		case Ne, NotIn, HasNone:
			return verb[1] + list
		}
	}
	if n, reached := l.threshold(); reached && growth[l.fact.Name] != "" {
		return strings.Replace(growth[l.fact.Name], "#", number(n), 1)
	}
	switch {
	case l.fact.Name == "person.signedIn" && is == Eq && l.text && l.texts[0] == "true":
		return "who are signed in"
	case l.fact.Name == "person.signedIn" && l.text && (is == Ne && l.texts[0] == "true" ||
		is == Eq && l.texts[0] == "false"):
		return "who are not signed in"
	case l.fact.Name == "visits.number" && (is == Eq || is == Lte) && l.nums[0] == 1:
		return "who are here for the first time"
	case l.fact.Name == "visits.number" && is == Gte && l.nums[0] == 2:
		return "who have been here before"
	case l.fact.Name == "visits.number" && is == Gte && l.nums[0] > 2:
		return "who have been here at least " + number(l.nums[0]-1) + " times before"
	}
	if n, ok := l.amount(); ok && l.fact.clause != "" {
		clause := strings.Replace(l.fact.clause, "#", n, 1)
		if n == none {
			clause = strings.NewReplacer(" #", "", "have ", "have not ", "has ", "has not ").Replace(l.fact.clause)
		}
		return clause + l.counted()
	}
	label := l.fact.Label + l.counted()
	if l.node.Clock != "" && l.node.Clock != schedule.ClockVisitor {
		label += " by the site’s clock"
		if l.node.Clock != schedule.ClockSite {
			label = strings.Replace(label, "by the site’s clock", "in "+l.node.Clock, 1)
		}
	}
	need := strings.TrimPrefix(l.requirement(), "to ")
	be, ok := strings.CutPrefix(need, "be ")
	switch {
	case ok && l.fact.plural:
		return "for whom " + label + " are " + be
	case ok:
		return "for whom " + label + " is " + be
	case l.fact.plural:
		return "for whom " + label + " " + need
	}
	verb, rest, _ := strings.Cut(need, " ")
	if strings.HasSuffix(verb, "ch") { // matches
		verb += "e"
	}
	return "for whom " + label + " " + verb + "s " + rest
}

// none is the amount of what has not happened.
const none = "not once"

// amount says how much of a number the leaf wants: "at least 2 pages", "fewer than 3
// times", none; ok is false where it wants something else.
func (l *leaf) amount() (s string, ok bool) {
	if l.fact.Kind != Number {
		return "", false
	}
	fewer := "less than "
	if slices.Contains([]string{"time", "visit", "page"}, l.fact.Unit) {
		fewer = "fewer than "
	}
	n := l.nums
	switch l.node.Is {
	case Eq:
		if l.fact.Unit == "time" && n[0] == 0 {
			return none, true
		}
		return "exactly " + l.units(n[0]), true
	case Gte:
		return "at least " + l.units(n[0]), true
	case Lte:
		return "at most " + l.units(n[0]), true
	case Gt:
		if n[0] == 0 && l.fact.Whole {
			return "at least " + l.units(1), true
		}
		return "more than " + l.units(n[0]), true
	case Lt:
		switch {
		case l.fact.Unit == "time" && n[0] == 1:
			return none, true
		case l.fact.Unit == "time":
			return fewer + number(n[0]) + " times", true
		}
		return fewer + l.units(n[0]), true
	case Between:
		if l.fact.Unit == "time" {
			return number(n[0]) + " to " + number(n[1]) + " times", true
		}
		return number(n[0]) + " to " + l.units(n[1]), true
	}
	return "", false
}

// units says a number of what the fact counts: "2 pages", "once", "30 %".
func (l *leaf) units(n float64) string {
	switch {
	case l.fact.Unit == "time" && n == 1:
		return "once"
	case l.fact.Unit == "time" && n == 2:
		return "twice"
	case l.fact.Unit == "%" || n == 1:
		return number(n) + " " + l.fact.Unit
	}
	return number(n) + " " + l.fact.Unit + "s"
}

// counted says how far a count of events looks back, "" if as far as is known.
func (l *leaf) counted() (says string) {
	if l.node.Within != "" {
		says += " " + within(l.node.Within)
	}
	if l.node.Since != "" {
		says += " since the last “" + l.node.Since + "”"
	}
	return says
}

// within says how far a count looks back: "in the last 7 days".
func within(period string) string {
	s, err := schedule.ParseSpan(period)
	if err != nil {
		return "within " + period
	}
	if s.Exact == 0 && s.Years == 0 && s.Months == 0 {
		return fmt.Sprintf("in the last %d days", s.Days)
	}
	return "within " + period
}
