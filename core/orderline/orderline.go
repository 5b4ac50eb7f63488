// Package orderline says a notice as one plain sentence whose words know what
// they change.
package orderline

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/closed"
	"mastflag/core/consent"
	"mastflag/core/document"
	"mastflag/core/form"
	"mastflag/core/moment"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/core/wording"
)

// A Word is a stretch of the sentence. Control names what choosing it
// changes; a word without one is only read.
type Word struct {
	Text    string  `json:"text"`
	Control Control `json:"control,omitempty"`
}

// A Control is a part of a notice that a word of its sentence changes.
type Control string

const (
	Slot     Control = "slot"
	Position Control = "position"
	Pages    Control = "pages"
	Audience Control = "audience"
	Schedule Control = "schedule"
	Closing  Control = "memory"
	Level    Control = "level"
	Counting Control = "countdown"
	Asking   Control = "consent"
	Stating  Control = "disclaimer"
	Filling  Control = "form"
	Aiming   Control = "experiment"
)

func (Control) Values() []string {
	return closed.Strings(
		Slot, Position, Pages, Audience, Schedule, Closing, Level, Counting, Asking, Stating, Filling, Aiming,
	)
}

// A Line is the whole sentence.
type Line []Word

// String returns the sentence as plain text.
func (l Line) String() string {
	var b strings.Builder
	for _, w := range l {
		b.WriteString(w.Text)
	}
	return b.String()
}

// Of returns the order line of a notice of the site, read at now.
// For example: "Show this bar at the top of every page except 2, from Fri 27 Nov
// 09:00 to Mon 30 Nov 18:00; closed, it stays away for a day."
func Of(n bundle.Notice, site bundle.Site, now time.Time) Line {
	zone, err := schedule.Zone(site.TimeZone)
	if err != nil {
		zone = time.UTC
	}
	var l Line
	say := func(text string) { l = append(l, Word{Text: text}) }
	change := func(c Control, text string) { l = append(l, Word{Text: text, Control: c}) }

	if n.Kind == bundle.KindCode {
		return codeLine(n, site, now.In(zone), zone)
	}
	say("Show this ")
	kind := cmp.Or(string(n.Kind), "bar")
	switch n.Kind {
	case "tab-title":
		kind = "message" // the slot says where
	case bundle.KindConsent:
		kind = "consent notice"
	}
	if level := n.GetLevel(); level == bundle.Information {
		change(Level, kind)
	} else {
		change(Level, string(level)+" "+kind)
	}
	say(" ")
	slot := n.GetSlot()
	edge := slot.Row().Edge
	where := slot.Where(site.Language)
	if spots := n.AllSpots(); slot == bundle.Inline && len(spots) > 0 {
		where += ", " + spots[len(spots)-1].String()
		if more := len(spots) - 1; more > 0 {
			where += " or at " + moment.Count(more, "other spot")
		}
	}
	change(Slot, where)
	switch {
	case edge && n.GetPosition() == bundle.Sticking:
		say(", ")
		change(Position, "always in sight")
		say(", on ")
	case edge:
		say(" of ")
	default:
		say(", on ")
	}
	change(Pages, PagesOf(n.GetPages()))
	say(", to ")
	change(Audience, whom(n, site))
	say(", ")
	change(Schedule, when(n, now.In(zone), zone))
	demand, isDisclaimer := n.Disclaimer()
	say("; ")
	switch {
	case slot == bundle.TabTitle: // nobody closes that
		say("it is shown ")
		if len(n.GetMemory().Limits) == 0 || n.GetLevel() == bundle.Emergency {
			change(Closing, "on each page view")
		}
	case demand.Answered():
		say("it stays ")
		change(Stating, until(n, demand, site))
	case !n.Closable() && n.Kind == bundle.KindConsent:
		change(Closing, "it stays until it is answered")
	case !n.Closable():
		change(Closing, "it cannot be closed")
	case n.GetLevel() == bundle.Emergency:
		say("closed, ")
		change(Closing, "it is back on the next page")
	default:
		say("closed, it stays away ")
		change(Closing, moment.Period(n.ClosedFor()))
	}
	if n.Foldable() {
		say("; ")
		change(Closing, "it can be folded away")
	}
	if n.ClosesOutside() {
		say("; ")
		change(Closing, "a press outside closes it too")
	}
	if n.ClosesAfter() > 0 {
		say("; ")
		change(Closing, "it closes by itself "+strings.Replace(moment.Period(n.GetMemory().CloseAfter), "for ", "after ", 1))
	}
	for i, l := range n.GetMemory().Limits {
		if n.GetLevel() == bundle.Emergency {
			break // it is not held back by them (rule M4)
		}
		switch {
		case i > 0:
			say(" and ")
		case slot != bundle.TabTitle:
			say(", and is shown ")
		}
		change(Closing, Often(l))
	}
	if edge && n.GetPosition() == bundle.Scrolling {
		say("; it ")
		change(Position, "scrolls away with the page")
	}
	if c := n.Countdown(); c != nil {
		say("; it ")
		change(Counting, Counts(*c, now.In(zone), site.TimeZone))
	}
	if slot == bundle.TabTitle && n.Tab() != nil {
		say("; it speaks while they are in another tab")
	}
	if n.HasForm() {
		say("; it ")
		change(Filling, fillsIn(n, site))
	}
	if n.Experiment != nil {
		say("; it ")
		change(Aiming, goalPhrase(*n.Experiment))
	}
	if isDisclaimer && !demand.Answered() {
		say("; it ")
		change(Stating, "is only read")
	}
	if n.Kind == bundle.KindConsent {
		say("; it ")
		change(Asking, asks(n.Question(), site.Setup()))
	}
	say(".")
	return l
}

// codeLine is the order line of a notice of kind code: "Put this code at the end of
// the head of every page, for everyone, until you unpublish it; it runs once
// measurement is agreed to."
func codeLine(n bundle.Notice, site bundle.Site, now time.Time, zone *time.Location) (l Line) {
	c := n.GetCode()
	var where []string
	for _, p := range []struct{ code, says string }{
		{c.Head, "at the end of the head"}, {c.Start, "at the start of the body"}, {c.End, "at the end of the body"},
	} {
		if p.code != "" {
			where = append(where, p.says)
		}
	}
	if where == nil {
		l = append(l, Word{Text: "Put this code, which is not written yet, into "})
	} else {
		l = append(l, Word{Text: "Put this code " + moment.And(where) + " of "})
	}
	l = append(l, Word{Text: PagesOf(n.GetPages()), Control: Pages}, Word{Text: ", for "})
	l = append(l, Word{Text: whom(n, site), Control: Audience}, Word{Text: ", "})
	l = append(l, Word{Text: when(n, now, zone), Control: Schedule})
	if len(c.Purposes) > 0 {
		l = append(l, Word{Text: "; it runs once " + moment.And(c.Purposes) + " " + isAre(len(c.Purposes)) + " agreed to"})
	}
	for _, limit := range n.GetMemory().Limits {
		l = append(l, Word{Text: ", "}, Word{Text: Often(limit), Control: Closing})
	}
	return append(l, Word{Text: "."})
}

func isAre(n int) string {
	if n == 1 {
		return "is"
	}
	return "are"
}

// until says what a disclaimer waits for: "until they have acknowledged Tour
// safety, version 3, again after each material change".
func until(n bundle.Notice, d bundle.Disclaimer, site bundle.Site) string {
	what, again := "its text", "again once it changes"
	if doc, ok := document.Get(site.Documents, d.Document); ok {
		what = "“" + doc.Title(site.Language, site.Language) + "”"
		if doc.Version > 0 {
			what += fmt.Sprintf(", version %d", doc.Version)
		}
		again = "again after each material change"
	} else if d.Document != "" {
		what = "a document that is not there"
	}
	out := "until they have acknowledged " + what
	if d.GetAsk() == bundle.AskDeclare {
		out = "until they have declared that it is so, by " + what
		if d.Document == "" {
			out = "until they have declared that it is so"
		}
	}
	out += ", " + again
	switch d.GetValidFor() {
	case bundle.PeriodEver:
	case bundle.PeriodPage:
		out += " and on each page"
	case bundle.PeriodSession:
		out += " and on each visit"
	default:
		out += " and " + strings.Replace(moment.Period(d.GetValidFor()), "for ", "after ", 1)
	}
	return out
}

// fillsIn says what a form asks for, and what becomes of it: "asks for “E-mail” and 2 more
// things, keeps them for a year once the address is confirmed, and passes them on to 1 address".
func fillsIn(n bundle.Notice, site bundle.Site) string {
	words := n.Wordings()
	parts := words[wording.Choose(words, site.Language, site.Language)].Parts
	var names []string
	for _, f := range n.FormFields() {
		if f.Kind != form.Hidden && f.Kind != form.Agreement {
			names = append(names, "“"+cmp.Or(parts[f.ID].Heading, f.ID)+"”")
		}
	}
	out := "asks for agreement"
	switch {
	case len(names) > 3:
		out = "asks for " + strings.Join(names[:2], ", ") + " and " + moment.Count(len(names)-2, "more thing")
	case len(names) > 0:
		out = "asks for " + moment.And(names)
	}
	f := n.Form()
	out += ", kept " + moment.Period(bundle.Period(f.KeptFor()))
	if f.Confirm != "" {
		out += " once the address is confirmed"
	}
	if len(f.PassOn) > 0 {
		out += " and passed on to " + moment.Count(len(f.PassOn), "receiver")
	}
	switch f.After.Then {
	case form.ThenPage:
		out += "; then " + f.After.To + " opens"
	case form.ThenFile:
		out += "; then a file is given"
	case form.ThenNotice:
		out += "; then another notice follows"
	}
	return out
}

// asks says how a notice asks: "asks about 4 purposes, and an answer holds for
// 180 days", or "…, agreeing holds for a year and refusing for 30 days".
func asks(q consent.Question, s consent.Setup) string {
	out := "asks about " + moment.Count(len(s.Purposes), "purpose")
	if len(s.Purposes) == 0 {
		out = "has nothing to ask about yet"
	}
	if q.GetRefusePlacement() == "behind" {
		out += ", hides refusing behind a press"
	}
	if q.GetClosing() == "accept" || q.GetContinuing() == "accept" {
		out += ", takes going on for an answer where it may"
	}
	agreeing, refusing := bundle.Period(q.GetValidFor()), bundle.Period(q.GetRefusalValidFor())
	if agreeing != refusing {
		return out + ", agreeing holds " + moment.Period(agreeing) + " and refusing " + moment.Period(refusing)
	}
	return out + ", and an answer holds " + moment.Period(agreeing)
}

// whom says for whom a notice is.
func whom(n bundle.Notice, site bundle.Site) string {
	a, faults := audience.Compile(n.GetAudience(), audience.Named(site.Audiences))
	if faults != nil {
		return "an audience that cannot be read"
	}
	return a.Phrase()
}

// Often says a limit: "at most 3 times in a week".
func Often(l bundle.Limit) string {
	times := moment.Times(l.Times)
	if l.Per == bundle.PeriodSession {
		return "at most " + times + " a visit"
	}
	return "at most " + times + " in " + strings.TrimPrefix(moment.Period(l.Per), "for ")
}

// PagesOf says which pages conditions take.
func PagesOf(c pages.Conditions) string {
	var in string
	switch n := len(c.Include); {
	case n == 0:
		return "no page yet"
	case hasAll(c.Include):
		in = "every page"
	case n == 1:
		in = c.Include[0].String()
	case onlyPages(c.Include):
		in = fmt.Sprintf("%d pages", n)
	default:
		in = c.Include[0].String() + " and " + moment.Count(n-1, "other place")
	}
	switch n := len(c.Exclude); {
	case n == 0:
		return in
	case onlyPages(c.Exclude) && n > 1:
		if in == "every page" {
			return fmt.Sprintf("%s except %d", in, n)
		}
		return fmt.Sprintf("%s except %d pages", in, n)
	case n == 1:
		return in + " except " + excluded(c.Exclude[0])
	default:
		return fmt.Sprintf("%s except %s and %s", in, excluded(c.Exclude[0]), moment.Count(n-1, "other place"))
	}
}

// excluded says what an entry leaves out: a page is clear by its path.
func excluded(e pages.Entry) string {
	if e.Match == pages.Page {
		return e.Path
	}
	return e.String()
}

func hasAll(entries []pages.Entry) bool {
	for _, e := range entries {
		if e.Match == pages.All {
			return true
		}
	}
	return false
}

func onlyPages(entries []pages.Entry) bool {
	for _, e := range entries {
		if e.Match != pages.Page {
			return false
		}
	}
	return true
}

// when says the windows of a notice.
func when(n bundle.Notice, now time.Time, zone *time.Location) string {
	plan := n.GetSchedule()
	if len(plan.Windows) == 0 {
		if n.GetState() != bundle.Draft {
			return "until you unpublish it"
		}
		return "from when you publish it, with no end"
	}
	s := Window(plan.Windows[0], now)
	if more := len(plan.Windows) - 1; more > 0 {
		s += ", and at " + moment.Count(more, "other time")
		if !endless(plan.Windows[0]) && slices.ContainsFunc(plan.Windows[1:], endless) {
			if s += " (with no end)"; more > 1 {
				s = strings.TrimSuffix(s, "(with no end)") + "(once with no end)"
			}
		}
	}
	switch plan.Clock {
	case "", schedule.ClockSite:
	case schedule.ClockVisitor:
		s += " on each visitor’s own clock"
	default:
		if plan.Clock != zone.String() {
			s += " (" + plan.Clock + " time)"
		}
	}
	return s
}

// endless reports whether a window has no end, or goes on repeating without one.
func endless(w schedule.Window) bool {
	rule := strings.ToUpper(w.Rule)
	return w.Until == "" || w.Rule != "" && !strings.Contains(rule, "COUNT=") && !strings.Contains(rule, "UNTIL=")
}

// Window says one window: "from Fri 27 Nov 09:00 to Mon 30 Nov 18:00", or
// "every Friday 12:00 to 18:00, from 27 Nov".
func Window(w schedule.Window, now time.Time) string {
	from, until := sayEnd(w.From, now), sayEnd(w.Until, now)
	switch {
	case w.Repeats():
		return moment.Repeat(w, now)
	case from == "" && until == "":
		return "with no end"
	case from == "":
		return "until " + until
	case until == "":
		return "from " + from + " on"
	}
	return "from " + from + " to " + until
}

func sayEnd(s string, now time.Time) string {
	if s == "" {
		return ""
	}
	l, err := schedule.ParseLocal(s)
	if err != nil {
		return s
	}
	return moment.SayLocal(l, now)
}
