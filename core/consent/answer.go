package consent

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"mastflag/core/phrase"
	"mastflag/core/schedule"
)

// An Answer is what a visitor answered, as their own browser remembers it.
type Answer struct {
	// Of its record.
	ID string    `json:"id,omitempty"`
	At time.Time `json:"at,omitzero"`
	// Ids of purposes.
	Granted []string `json:"granted,omitempty"`
	Refused []string `json:"refused,omitempty"`
	// What was agreed to, Setup.Marks when it was given.
	Of string `json:"of,omitempty"`
	// Whether the browser sent a privacy signal when it was given.
	Signal bool `json:"signal,omitempty"`
	// What applied where it was given; opt-in if absent.
	Rule Rule `json:"rule,omitempty"`
}

// A Visitor is what an answer is weighed with.
type Visitor struct {
	At time.Time
	// Where the visitor's calendar is.
	Zone *time.Location
	// ISO 3166-1 and ISO 3166-2; "" where that is not known.
	Country, Region string
	// The browser sends a privacy signal (Global Privacy Control).
	Signal bool
	Answer Answer
	// The visitor asked to be asked again.
	Again bool
}

// A State is what holds for a visitor.
type State struct {
	// The row that decides; "" where no row does.
	Place string `json:"place,omitempty"`
	Rule  Rule   `json:"rule"`
	// Purposes that may go ahead, those strictly necessary among them.
	Granted []string `json:"granted"`
	// A privacy signal came and counts here (rule K5).
	Signal bool `json:"signal,omitempty"`
	// Everything is answered; what of the answer holds does so until then.
	Answered bool      `json:"answered"`
	Until    time.Time `json:"until,omitzero"`
	// The notice shows; Open: as a question that is open (rule D4).
	Shows bool `json:"shows,omitempty"`
	Open  bool `json:"open,omitempty"`
	// The number of the rule that settles whether it shows, and one sentence.
	By  string `json:"by"`
	Why string `json:"why"`
	// What applies where the visitor is.
	Row PlaceRule `json:"-"`
}

// MarshalJSON writes instants in RFC 3339, UTC.
func (s State) MarshalJSON() ([]byte, error) {
	type plain State
	if !s.Until.IsZero() {
		s.Until = s.Until.UTC()
	}
	return json.Marshal(plain(s))
}

// Rules of a site, ready to weigh answers. It is never altered.
type Compiled struct {
	asked    []string
	marks    map[string][]string // of what each purpose sets
	signal   []string            // the purposes that a privacy signal refuses
	all      []string            // necessary and asked
	none     []string            // necessary alone
	places   map[string]PlaceRule
	unlisted Rule
	unknown  Rule
	agreed   schedule.Span // how long agreement holds
	refused  schedule.Span // how long a refusal does
}

// Compile makes a setup and the question about it ready; both are right by
// their Check.
func Compile(s Setup, q Question, table []PlaceRule) Compiled {
	c := Compiled{
		asked:    s.AskedPurposes(),
		signal:   s.Signalled(),
		marks:    map[string][]string{},
		places:   s.InForce(table),
		unlisted: s.GetUnlisted(),
	}
	c.none = []string{Necessary}
	c.all = append(slices.Clone(c.none), c.asked...)
	for _, p := range c.asked {
		for _, i := range s.ItemsFor(p) {
			c.marks[p] = append(c.marks[p], i.Mark())
		}
	}
	c.unknown = c.unlisted
	for _, p := range c.places {
		if p.Rule.stricter(c.unknown) {
			c.unknown = p.Rule
		}
	}
	c.agreed, _ = schedule.ParseSpan(q.GetValidFor())
	c.refused, _ = schedule.ParseSpan(q.GetRefusalValidFor())
	return c
}

// Asked returns the purposes that are asked about.
func (c Compiled) Asked() []string { return c.asked }

// Given returns the answer of a visitor who agreed to these of the purposes and
// refused the others, at an instant.
func (c Compiled) Given(granted []string, at time.Time) Answer {
	a := Answer{At: at, Granted: granted, Refused: without(c.asked, granted)}
	var marks []string
	for _, p := range c.asked {
		marks = append(marks, c.marks[p]...)
	}
	a.Of = strings.Join(marks, ".")
	return a
}

// Place returns what applies at a place: its region's row, or its country's
// (rule K1). Where the country is not known the strictest of all rows holds;
// where it has no row, what the site wants of such places.
func (c Compiled) Place(country, region string) PlaceRule {
	for _, place := range [2]string{region, country} {
		if p, ok := c.places[place]; ok && place != "" {
			return p
		}
	}
	if country == "" {
		return PlaceRule{Rule: c.unknown}
	}
	return PlaceRule{Rule: c.unlisted}
}

// At weighs a visitor's answer (rules K1 to K5).
func (c Compiled) At(v Visitor) State {
	place := c.Place(v.Country, v.Region)
	s := State{
		Row:     place,
		Place:   place.Place,
		Rule:    place.Rule,
		Granted: c.none,
		Signal:  v.Signal && place.GetSignal() == "honour",
	}
	where := "Here"
	switch {
	case v.Country == "":
		where = "Where a visitor is cannot be known, so the strictest rule holds: here"
	case s.Place != "":
		where = "In " + s.Place
	default:
		where = "In " + v.Country + ", which has no row of its own,"
	}
	granted, chosen, until, why := c.answerWorth(v, place.Rule)
	s.Answered, s.Until = why == "" && !until.IsZero(), until
	switch {
	case s.Answered && place.Rule != Nothing:
		s.Granted = granted
		s.By, s.Why = "K2", "The visitor has answered, and the answer holds until "+until.In(v.Zone).Format("2 Jan 2006")+"."
	case place.Rule == OptIn:
		s.Granted, s.Shows, s.Open = granted, true, true
		s.By, s.Why = "K4", where+" nothing is set before the visitor agrees"+why+"."
	case place.Rule == Nothing:
		s.Granted = without(c.all, refusedOf(v.Answer, chosen))
		if s.Answered {
			s.Granted = granted
		}
		s.By, s.Why = "K1", where+" nothing is asked and nothing is told."
	default:
		s.Granted, s.Shows, s.By = without(c.all, refusedOf(v.Answer, chosen)), true, "K4"
		s.Why = where + " the visitor is told, and may object" + why + "."
		if place.Rule == Notice {
			s.Why = where + " the visitor is told" + why + "."
		}
	}
	if s.Signal {
		// It gives way to a choice about that very purpose, made knowing of it.
		signalled := c.signal
		if v.Answer.Signal {
			signalled = without(signalled, chosen)
		}
		s.Granted = without(s.Granted, signalled)
	}
	if v.Again {
		s.Shows, s.Open, s.By, s.Why = true, false, "K4", "The visitor asked to see it again."
	}
	return s
}

// refusedOf returns the purposes that an answer refuses, of those that it settles.
func refusedOf(a Answer, chosen []string) (out []string) {
	for _, p := range a.Refused {
		if slices.Contains(chosen, p) {
			out = append(out, p)
		}
	}
	return out
}

// answerWorth returns what of an answer holds (rule K2): the purposes that it grants,
// those strictly necessary among them, those that it settles one way or the other,
// and until when all of that does; zero if nothing of it does. why is what is still to be answered, as the end of a
// sentence. Where the rule is opt-in, what was agreed to under another is no consent.
func (c Compiled) answerWorth(v Visitor, rule Rule) (granted, chosen []string, until time.Time, why string) {
	a := v.Answer
	granted = c.none
	if a.At.IsZero() {
		return granted, nil, until, ""
	}
	if a.At.After(v.At.Add(ClockSkew)) {
		return granted, nil, until, "; the answer that is remembered is dated in the future, and does not count"
	}
	agreed, refused := c.agreed.After(a.At, v.Zone), c.refused.After(a.At, v.Zone)
	day := func(t time.Time) string { return t.In(v.Zone).Format("2 Jan 2006") }
	if until = later(agreed, refused); !v.At.Before(until) {
		return granted, nil, time.Time{}, "; the last answer held until " + day(until)
	}
	told := rule == OptIn && cmp.Or(a.Rule, OptIn) != OptIn
	for _, p := range c.asked {
		switch {
		case slices.Contains(a.Granted, p) && !v.At.Before(agreed):
			why = cmp.Or(why, fmt.Sprintf("; what was agreed to for %q held until %s", p, day(agreed)))
		case slices.Contains(a.Granted, p) && told:
			why = cmp.Or(why, "; the last answer was given where visitors are only told")
		case slices.Contains(a.Granted, p) && slices.ContainsFunc(
			c.marks[p], func(m string) bool { return !strings.Contains(a.Of, m) },
		):
			why = cmp.Or(why, fmt.Sprintf("; what was agreed to for %q has changed since", p))
		case slices.Contains(a.Granted, p):
			granted = append(granted[:len(granted):len(granted)], p)
			chosen = append(chosen, p)
			until = earlier(until, agreed)
		case slices.Contains(a.Refused, p) && !v.At.Before(refused):
			why = cmp.Or(why, fmt.Sprintf("; what was refused for %q held until %s", p, day(refused)))
		case slices.Contains(a.Refused, p):
			chosen = append(chosen, p)
			until = earlier(until, refused)
		default:
			why = cmp.Or(why, fmt.Sprintf("; the last answer says nothing about %q", p))
		}
	}
	return granted, chosen, until, why
}

func earlier(a, b time.Time) time.Time {
	if b.Before(a) {
		return b
	}
	return a
}

func later(a, b time.Time) time.Time {
	if b.After(a) {
		return b
	}
	return a
}

// ClockSkew is how far a visitor's clock may be ahead for an answer to count.
const ClockSkew = 24 * time.Hour

func without(list, these []string) []string {
	return slices.DeleteFunc(slices.Clone(list), func(p string) bool { return slices.Contains(these, p) })
}

// Longest is how long an answer may hold at most before it is remarked upon,
// in months: common practice of supervisory authorities, from memory.
const Longest = 13

// TooLong reports whether answers, and what is refused in them, hold longer than Longest.
func (q Question) TooLong() (answers, refusals bool) {
	last := measureFrom.AddDate(0, Longest, 0)
	return heldUntil(q.GetValidFor()).After(last), heldUntil(q.GetRefusalValidFor()).After(last)
}

// AsksRefusersSooner reports whether those who refused are asked again sooner than those who agreed.
func (q Question) AsksRefusersSooner() bool {
	return heldUntil(q.GetRefusalValidFor()).Before(heldUntil(q.GetValidFor()))
}

// measureFrom is the day from which periods of months and of days are compared.
var measureFrom = time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)

// heldUntil is when a period ends that begins on that day; that day where it is none.
func heldUntil(period string) time.Time {
	s, err := schedule.ParseSpan(period)
	if err != nil {
		return measureFrom
	}
	return s.After(measureFrom, time.UTC)
}

// In returns a purpose's words in a language: its own, those that are said in place of the
// program's, the program's, or those in the site's language.
func (p Purpose) In(tag, site string, said phrase.Own) PurposeWords {
	name, text := phrase.Key(p.ID), phrase.Key(p.ID+".text")
	for _, t := range []string{tag, site} {
		for try := t; try != ""; try = shorter(try) {
			if w, ok := p.Words[try]; ok {
				return w
			}
		}
		if t == tag && said[name] != "" {
			return PurposeWords{said[name], said[text]}
		}
		if own := phrase.In(t); phrase.Speaks(t) && own[name] != "" {
			return PurposeWords{own[name], own[text]}
		}
	}
	for _, w := range p.Words {
		return w
	}
	return PurposeWords{Name: p.ID}
}

// Known reports whether the program has words for a purpose.
func Known(id string) bool {
	r, ok := phrase.RowOf(phrase.Key(id))
	return ok && r.Use == phrase.Purposes
}

func shorter(tag string) string {
	i := strings.LastIndexByte(tag, '-')
	return tag[:max(i, 0)]
}

// In returns what an item is for in a language, or in the site's, or in any.
func (i Item) In(tag, site string) string {
	return cmp.Or(i.For[tag], i.For[strings.SplitN(tag, "-", 2)[0]], i.For[site])
}
