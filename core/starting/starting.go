// Package starting is what a notice can be begun with: occasions that most
// sites have, each with words in three languages that are right as they stand,
// and what a site has kept of its own.
package starting

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/lucasb-eyer/go-colorful"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/core/document"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// A Point is something to begin a notice with.
type Point struct {
	// What it is asked for by; that of a site's own is its name.
	Key  string
	Name string
	For  string // when to use it
	Own  bool   // the site's
	// The other sites of the installation have it too.
	Shared bool
	// Name of the site that shares it; "" of this one's own and of those that ship.
	From string
	// What it is for; of a site's own none.
	Purpose Purpose
	// It is the time of the year for it.
	InSeason bool
	// Complete but for id and state.
	Notice bundle.Notice
}

// A PurposeRow is a purpose with its name.
type PurposeRow struct {
	Purpose Purpose `json:"purpose"`
	Name    string  `json:"name"`
}

// A Purpose is what people begin a notice for.
type Purpose string

const (
	Hours       Purpose = "hours"
	Warnings    Purpose = "warnings"
	Offers      Purpose = "offers"
	News        Purpose = "news"
	Visitors    Purpose = "visitors"
	Asking      Purpose = "asking"
	Disclaimers Purpose = "disclaimers"
	Sections    Purpose = "sections"
)

// Purposes is every purpose with its name, in the order in which people read.
var Purposes = []PurposeRow{
	{Hours, "Open, closed, and the way to you"},
	{Warnings, "Warnings"},
	{Offers, "Offers and orders"},
	{News, "News"},
	{Visitors, "To your visitors"},
	{Asking, "Pop-ups that ask and offer"},
	{Disclaimers, "Disclaimers"},
	{Sections, "Sections in pages"},
}

func (Purpose) Values() (out []string) {
	for _, row := range Purposes {
		out = append(out, string(row.Purpose))
	}
	return out
}

// occasion is a Point before it is made for a site.
type occasion struct {
	key, name, when string
	purpose         Purpose
	months          []time.Month // of the year in which it comes up; none for any
	hint            string       // the colour it would like, nearest wins
	icon            string
	level           bundle.Level
	slot            bundle.Slot
	kind            bundle.Kind
	until           end
	from            end
	audience        *audience.Node
	closed          bundle.Period
	counts          bool      // down to its end, where a message has {countdown}
	says            [3]string // English, German, Polish
	longer          [3]string
	disclaims       *bundle.Disclaimer
	butHome         bool         // on every page but the home page
	buttons         [2][3]string // its own words on the buttons of a disclaimer
}

// end is a moment some days ahead on the site's clock; the zero value is none.
type end struct {
	days int          // from today
	on   time.Weekday // then on to this day of the week, where weekly
	week bool
	hour int // 24 is midnight at the day's end
}

const (
	calm    = "#123a56"
	caution = "#f6d9a8"
	grave   = "#a3271f"
	glad    = "#2c5a3c"
)

var occasions = slices.Concat(everyday, occasional, disclaimers)

var everyday = []occasion{
	{
		key:     "closure",
		purpose: Hours,
		name:    "Closed",
		when:    "You are closed for a day or longer.",
		hint:    grave,
		icon:    "door-exit",
		level:   bundle.Warning,
		until:   end{hour: 24},
		closed:  "session",
		says: [3]string{
			"<p><strong>We are closed today.</strong> We are there for you again tomorrow.</p>",
			"<p><strong>Heute geschlossen.</strong> Morgen sind wir wieder für Sie da.</p>",
			"<p><strong>Dziś nieczynne.</strong> Jutro znów jesteśmy do dyspozycji.</p>",
		},
	},
	{
		key:     "hours",
		purpose: Hours,
		name:    "Changed hours",
		when:    "Opening hours differ for some days.",
		hint:    calm,
		icon:    "calendar-time",
		until:   end{days: 1, on: time.Sunday, week: true, hour: 24},
		closed:  "P1D",
		says: [3]string{
			"<p>Until Sunday our <strong>opening hours</strong> are different. Please ask before you come.</p>",
			"<p>Bis Sonntag gelten andere <strong>Öffnungszeiten</strong>. Bitte fragen Sie nach, bevor Sie kommen.</p>",
			"<p>Do niedzieli obowiązują inne <strong>godziny otwarcia</strong>. Prosimy o telefon przed przyjazdem.</p>",
		},
	},
	{
		key:     "storm",
		purpose: Warnings,
		name:    "Storm",
		months:  winter,
		when:    "Weather gets in the way of what you do.",
		hint:    caution,
		icon:    "storm",
		level:   bundle.Warning,
		kind:    bundle.KindAlert,
		until:   end{days: 1, hour: 12},
		closed:  "PT4H",
		says: [3]string{
			"<p><strong>Storm.</strong> Please check with us before you set out.</p>",
			"<p><strong>Sturm.</strong> Bitte fragen Sie nach, bevor Sie sich auf den Weg machen.</p>",
			"<p><strong>Sztorm.</strong> Przed wyruszeniem prosimy o sprawdzenie informacji.</p>",
		},
	},
	{
		key:     "maintenance",
		purpose: Hours,
		name:    "Maintenance",
		when:    "This site is being worked on for some hours.",
		hint:    calm,
		icon:    "tools",
		from:    end{hour: 18},
		until:   end{days: 1, hour: 6},
		closed:  "session",
		says: [3]string{"<p>This site is being <strong>worked on</strong> tonight. Some parts may not answer until six in " +
			"the morning.</p>", "<p>Heute Nacht wird an dieser Website <strong>gearbeitet</strong>. Einzelne Teile antworten " +
			"vielleicht erst ab sechs Uhr wieder.</p>", "<p>Dziś w nocy trwają <strong>prace</strong> na tej stronie. " +
			"Niektóre jej części mogą nie działać do szóstej rano.</p>"},
	},
	{
		key:     "sale",
		purpose: Offers,
		name:    "Sale",
		when:    "Prices are lower for some days.",
		hint:    glad,
		icon:    "discount",
		level:   bundle.Promotion,
		until:   end{on: time.Sunday, week: true, hour: 24},
		closed:  "P1D",
		says: [3]string{"<p><strong>Lower prices</strong> until Sunday evening.</p>", "<p><strong>Günstigere " +
			"Preise</strong> bis Sonntagabend.</p>", "<p><strong>Niższe ceny</strong> do niedzieli wieczorem.</p>"},
	},
	{
		key:     "deadline",
		purpose: Offers,
		name:    "Deadline",
		when:    "Something has to be done by a day and hour.",
		hint:    grave,
		icon:    "hourglass",
		until:   end{days: 1, on: time.Friday, week: true, hour: 18},
		closed:  "P1D",
		counts:  true,
		says: [3]string{
			"<p>The last chance is <strong>Friday at 18:00</strong>. Time left: {countdown}</p>",
			"<p>Letzte Gelegenheit ist <strong>Freitag um 18 Uhr</strong>. Es bleiben: {countdown}</p>",
			"<p>Ostatnia szansa: <strong>piątek, godzina 18:00</strong>. Pozostały czas: {countdown}</p>",
		},
	},
	{
		key:     "survey",
		purpose: Visitors,
		name:    "Survey",
		when:    "You want to know what people think, once they have looked around.",
		hint:    calm,
		icon:    "clipboard-list",
		level:   bundle.Promotion,
		slot:    bundle.CornerEnd,
		kind:    "pop-up",
		until:   end{days: 28, hour: 24},
		closed:  "P30D",
		audience: &audience.Node{
			Group: audience.All,
			Parts: []audience.Node{{Fact: "view.seconds", Is: audience.Gte, Value: 20}},
		},
		says: [3]string{
			"<p><strong>How are we doing?</strong> Tell us: every answer is read by a person.</p>",
			"<p><strong>Wie zufrieden sind Sie?</strong> Schreiben Sie uns: Jede Antwort wird gelesen.</p>",
			"<p><strong>Jak nas oceniasz?</strong> Napisz do nas: każdą odpowiedź czyta człowiek.</p>",
		},
	},
	{
		key:     "new-service",
		purpose: News,
		name:    "New service",
		when:    "You offer something that you did not before.",
		hint:    glad,
		icon:    "speakerphone",
		until:   end{days: 28, hour: 24},
		closed:  "P7D",
		says: [3]string{
			"<p><strong>New:</strong> there is more that we can do for you. Ask us.</p>",
			"<p><strong>Neu:</strong> Wir können jetzt mehr für Sie tun. Fragen Sie uns.</p>",
			"<p><strong>Nowość:</strong> możemy zrobić dla Państwa więcej. Prosimy pytać.</p>",
		},
	},
	{
		key:     "welcome",
		purpose: Visitors,
		name:    "Welcome back",
		when:    "You greet people who have been here before.",
		hint:    glad,
		icon:    "heart-handshake",
		level:   bundle.Promotion,
		closed:  "P30D",
		audience: &audience.Node{
			Group: audience.All,
			Parts: []audience.Node{{Fact: "visits.number", Is: audience.Gte, Value: 2}},
		},
		says: [3]string{
			"<p><strong>Welcome back.</strong> It is good to see you again.</p>",
			"<p><strong>Willkommen zurück.</strong> Schön, dass Sie wieder da sind.</p>",
			"<p><strong>Witamy ponownie.</strong> Miło znów Państwa widzieć.</p>",
		},
	},
	{
		key:     "moving",
		purpose: News,
		name:    "Moving",
		when:    "Your address changes.",
		hint:    calm,
		icon:    "truck",
		until:   end{days: 60, hour: 24},
		closed:  "P7D",
		says: [3]string{
			"<p><strong>We are moving.</strong> Please ask for our new address before you come.</p>",
			"<p><strong>Wir ziehen um.</strong> Bitte fragen Sie nach der neuen Adresse, bevor Sie kommen.</p>",
			"<p><strong>Przeprowadzamy się.</strong> Przed przyjazdem prosimy zapytać o nowy adres.</p>",
		},
	},
	{
		key:     "shortage",
		purpose: Warnings,
		name:    "Shortage",
		when:    "Something that people expect is not to be had.",
		hint:    caution,
		icon:    "package-off",
		level:   bundle.Warning,
		until:   end{days: 7, hour: 24},
		closed:  "P1D",
		says: [3]string{
			"<p>Some things are <strong>short at present</strong>. Please ask before you come.</p>",
			"<p>Einiges ist <strong>zurzeit knapp</strong>. Bitte fragen Sie nach, bevor Sie kommen.</p>",
			"<p>Niektórych rzeczy <strong>chwilowo brakuje</strong>. Prosimy zapytać przed przyjazdem.</p>",
		},
	},
	{
		key:     "thanks",
		purpose: Visitors,
		name:    "Thanks",
		when:    "Something has come off, and people helped.",
		hint:    glad,
		icon:    "confetti",
		until:   end{days: 7, hour: 24},
		closed:  "P7D",
		says: [3]string{"<p><strong>Thank you.</strong> We did it, together.</p>", "<p><strong>Danke.</strong> Wir haben " +
			"es geschafft, gemeinsam.</p>", "<p><strong>Dziękujemy.</strong> Udało się, wspólnie.</p>"},
	},
}

// Of returns what a notice of the site can be begun with at now: the site's own, those that
// the others share, and those that ship, by purpose, in each what the time of the year
// suggests first. Ends lie on the site's clock, ahead of now; the colour is that of the site's
// palette that comes nearest.
func Of(site bundle.Site, others []bundle.Site, now time.Time) []Point {
	out := ownOf(site, now)
	for _, other := range others {
		out = append(out, fromOther(other, site, now)...)
	}
	return append(out, Ready(site, now)...)
}

// clockOf returns the zone of a site, UTC where it is not known.
func clockOf(site bundle.Site) *time.Location {
	zone, err := schedule.Zone(site.TimeZone)
	if err != nil {
		return time.UTC
	}
	return zone
}

// ownOf returns the starting points that a site has kept.
func ownOf(site bundle.Site, now time.Time) (out []Point) {
	today := schedule.LocalAt(now, clockOf(site))
	for _, p := range site.StartingPoints {
		n := p.Notice
		n.ID, n.State, n.PublishedAt, n.CopyOf, n.Source = "", "", nil, nil, nil
		n.Schedule = ahead(n.Schedule, today)
		out = append(out, Point{Key: p.Name, Name: p.Name, For: p.For, Own: true, Shared: p.Shared, Notice: n})
	}
	return out
}

// Ready returns the starting points that ship, made for a site.
func Ready(site bundle.Site, now time.Time) (ready []Point) {
	here := now.In(clockOf(site))
	for _, o := range occasions {
		ready = append(ready, Point{
			Key:      o.key,
			Name:     o.name,
			For:      o.when,
			Purpose:  o.purpose,
			InSeason: slices.Contains(o.months, here.Month()),
			Notice:   o.notice(site, here),
		})
	}
	for _, p := range popUps {
		ready = append(ready, Point{Key: p.key, Name: p.name, For: p.when, Purpose: Asking, Notice: p.notice(site)})
	}
	ready = append(ready, Point{
		Key: "elsewhere", Name: "For visitors in another tab", For: "Messages in the tab’s title while they are elsewhere.",
		Purpose: Asking, Notice: elsewhere(site),
	})
	for _, s := range sections {
		ready = append(ready, Point{Key: s.key, Name: s.name, For: s.when, Purpose: Sections, Notice: s.notice(site)})
	}
	slices.SortStableFunc(ready, func(a, b Point) int {
		if a.Purpose == b.Purpose && a.InSeason != b.InSeason {
			if a.InSeason {
				return -1
			}
			return 1
		}
		return cmp.Compare(a.Purpose.place(), b.Purpose.place())
	})
	return ready
}

// ahead returns a time all of whose windows are over moved on by whole weeks, as few as bring the
// end of the one that ends first ahead: at the same hours of the same days of the week. One that
// is not over, repeats, or has no end, is as it was.
func ahead(plan *schedule.Plan, now schedule.Local) *schedule.Plan {
	const week = 7 * 86_400
	if plan == nil ||
		slices.ContainsFunc(plan.Windows, func(w schedule.Window) bool { return w.Rule != "" || w.Until == "" }) {
		return plan
	}
	var first, last schedule.Local
	for i, w := range plan.Windows {
		until, err := schedule.ParseLocal(w.Until)
		if err != nil {
			return plan
		}
		if i == 0 {
			first, last = until, until
		}
		first, last = min(first, until), max(last, until)
	}
	if len(plan.Windows) == 0 || last > now {
		return plan
	}
	by := ((now-first)/week + 1) * week
	out := *plan
	out.Windows = slices.Clone(plan.Windows)
	for i := range out.Windows {
		w := &out.Windows[i]
		for _, at := range []*string{&w.From, &w.Until} {
			if l, err := schedule.ParseLocal(*at); err == nil {
				*at = (l + by).String()
			}
		}
	}
	return &out
}

// fromOther returns the starting points that another site shares, as a site can use them:
// what they name of the other site stands in them, and its pictures, which are kept there,
// are left out.
func fromOther(other, site bundle.Site, now time.Time) (out []Point) {
	for _, p := range ownOf(other, now) {
		if !p.Shared {
			continue
		}
		n := other.Themed(p.Notice)
		if n.Look != nil {
			look := *n.Look
			look.Theme, n.Look = "", &look
		}
		n.Audience = expanded(n.Audience, other)
		n.Pages = expandedPages(n.Pages, other)
		n.Spot, n.Spots = nil, nil
		if n.Content != nil {
			content := *n.Content
			content.Picture, content.Document, content.Documents = nil, "", nil
			n.Content = &content
		}
		if n.Check(site) != nil {
			continue // it speaks of what this site has not
		}
		p.Key, p.From, p.Own, p.Notice = other.Key+"/"+p.Key, other.Name, false, n
		out = append(out, p)
	}
	return out
}

// expanded returns an audience in which the saved audiences of a site stand in full.
func expanded(n *audience.Node, site bundle.Site) *audience.Node {
	if n == nil {
		return nil
	}
	out := *n
	if out.Saved != "" {
		i := slices.IndexFunc(site.Audiences, func(a audience.SavedAudience) bool { return a.Name == out.Saved })
		if i < 0 {
			return n
		}
		saved := expanded(&site.Audiences[i].Audience, site)
		saved.Off = saved.Off || out.Off
		return saved
	}
	out.Parts = nil
	for _, m := range n.Parts {
		out.Parts = append(out.Parts, *expanded(&m, site))
	}
	return &out
}

// expandedPages returns page conditions in which the saved page sets of a site stand in full;
// what such a set leaves out is left out of the whole.
func expandedPages(c *pages.Conditions, site bundle.Site) *pages.Conditions {
	if c == nil {
		return nil
	}
	var out pages.Conditions
	list := func(entries []pages.Entry, to *[]pages.Entry, excluding bool) {
		for _, e := range entries {
			i := slices.IndexFunc(
				site.PageSets,
				func(s pages.SavedSet) bool { return e.Match == pages.InSet && s.Name == e.Name },
			)
			if i < 0 {
				*to = append(*to, e)
				continue
			}
			*to = append(*to, site.PageSets[i].Include...)
			if !excluding {
				out.Exclude = append(out.Exclude, site.PageSets[i].Exclude...)
			}
		}
	}
	list(c.Include, &out.Include, false)
	list(c.Exclude, &out.Exclude, true)
	return &out
}

// place is where a purpose stands among all.
func (p Purpose) place() int {
	return slices.IndexFunc(Purposes, func(row PurposeRow) bool { return row.Purpose == p })
}

func (o occasion) notice(site bundle.Site, now time.Time) bundle.Notice {
	n := bundle.Notice{Kind: bundle.KindBar, Title: o.name, Level: o.level, Slot: o.slot, Audience: o.audience,
		Pages:  &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
		Memory: &bundle.Memory{HideAfterClose: o.closed}, Content: &bundle.Content{}}
	if o.kind != "" {
		n.Kind = o.kind
	}
	if o.butHome {
		n.Pages.Exclude = []pages.Entry{{Match: pages.Home}}
	}
	if o.disclaims != nil {
		d := *o.disclaims
		n.Content.Disclaimer = &d
		// About the site's document of this topic, where there is one that is out.
		for _, doc := range site.Documents {
			if doc.Kind == document.Disclaimer && doc.Answers["topic"] == o.topic() && doc.Version > 0 {
				n.Content.Disclaimer.Document = doc.ID
			}
		}
	}
	n.Look = &bundle.Look{Background: Nearest(site.Palette, o.hint), Icon: o.icon}
	if w := (schedule.Window{From: o.from.at(now), Until: o.until.at(now)}); w.From != "" || w.Until != "" {
		n.Schedule = &schedule.Plan{Windows: []schedule.Window{w}}
	}
	if o.counts {
		n.Content.Countdown = &countdown.Countdown{
			Kind:  countdown.To,
			At:    o.until.at(now),
			Units: []countdown.Unit{"days", "hours", "minutes"},
		}
	}
	n.Content.Wordings = inLanguages(site, o.wording)
	return n
}

// inLanguages returns wordings in those languages of the site that there are words
// in, of English, German and Polish by number; in English if there are none.
func inLanguages(site bundle.Site, in func(i int) bundle.Wording) map[string]bundle.Wording {
	out := map[string]bundle.Wording{}
	for i, tag := range []string{"en", "de", "pl"} {
		for _, have := range site.AllLanguages() {
			if base, _, _ := strings.Cut(strings.ToLower(have), "-"); base == tag {
				out[have] = in(i)
			}
		}
	}
	if len(out) == 0 { // better English than nothing
		out["en"] = in(0)
	}
	mine := out[site.Language]
	for tag, w := range out {
		if tag != site.Language && mine.HasWords() {
			w.SourceMark = mine.Mark()
			out[tag] = w
		}
	}
	return out
}

// wording is what it says in one of the three languages.
func (o occasion) wording(i int) bundle.Wording {
	return bundle.Wording{Message: o.says[i], Details: o.longer[i], Confirm: o.buttons[0][i], Decline: o.buttons[1][i]}
}

// topic is what a disclaimer is about.
func (o occasion) topic() string { return strings.TrimPrefix(o.key, "disclaimer-") }

// at is the local moment, "" if there is none.
func (e end) at(now time.Time) string {
	if e == (end{}) {
		return ""
	}
	day := e.days
	if e.week {
		day += (int(e.on) - int(now.Weekday()) - e.days%7 + 14) % 7
	}
	t := time.Date(now.Year(), now.Month(), now.Day()+day, e.hour, 0, 0, 0, time.UTC)
	return fmt.Sprintf("%04d-%02d-%02dT%02d:%02d", t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute())
}

// Nearest returns the colour of the palette that looks most like another, by
// distance in CIE L*a*b*; that one itself if there is no palette.
func Nearest(palette []bundle.Colour, hint string) string {
	want, err := colorful.Hex(hint)
	if err != nil {
		return hint
	}
	best, least := hint, math.Inf(1)
	for _, c := range palette {
		if have, err := colorful.Hex(c.Value); err == nil && have.DistanceLab(want) < least {
			best, least = c.Value, have.DistanceLab(want)
		}
	}
	return best
}
