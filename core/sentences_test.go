package core_test

import (
	"flag"
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/core/decide"
	"mastflag/core/findings"
	"mastflag/core/orderline"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// rewrite has the file of sentences written anew.
var rewrite = flag.Bool("rewrite", false, "write testdata/sentences.txt anew")

// What people read of generated notices: their order lines, why they show or not, and
// what is found about them. A change of any wording is seen in the file, which is read
// from top to bottom before it is kept (go test ./core -run Sentences -rewrite).
func TestSentences(t *testing.T) {
	g := generator{rand.New(rand.NewPCG(1, 2))}
	b := bundle.Bundle{
		Format: bundle.Format,
		Site: bundle.Site{
			Key: "s", Name: "Sundrey Isles Ferries", TimeZone: "Europe/London", Language: "en",
			Languages: []string{"en", "de", "pl"},
			Origins:   []string{"https://www.sundrey.example"},
			Audiences: []audience.SavedAudience{{
				Name:     "regulars",
				Audience: audience.Node{Fact: "visits.number", Is: audience.Gte, Value: 5.0},
			}},
		},
		Pages: []bundle.Page{
			{Path: "/", Title: "Home"}, {Path: "/book", Title: "Booking"}, {Path: "/ports", Title: "Ports"},
			{Path: "/ports/fennay", Title: "Fennay"},
		},
	}
	for i := range 60 {
		b.Notices = append(b.Notices, g.notice(i))
	}
	for {
		faults := b.Check()
		if len(faults) == 0 {
			break
		}
		// What is refused is left out: how refusals read is tested where they are made.
		var at int
		_, err := fmt.Sscanf(faults[0].Pointer, "/notices/%d/", &at)
		require.NoError(t, err, faults[0])
		b.Notices = slices.Delete(b.Notices, at, at+1)
	}
	s, err := decide.Compile(b)
	require.NoError(t, err)
	now := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	lines := map[string]bool{}
	section := func(name string) (add func(string), end func() string) {
		clear(lines)
		return func(s string) { lines[s] = true }, func() string {
			out := []string{}
			for l := range lines {
				out = append(out, l)
			}
			slices.Sort(out)
			return "# " + name + "\n" + strings.Join(out, "\n") + "\n\n"
		}
	}
	var out strings.Builder
	add, end := section("Order lines")
	for _, n := range b.Notices {
		add(orderline.Of(n, b.Site, now).String())
	}
	out.WriteString(end())
	add, end = section("Explanations")
	for range 40 {
		for _, a := range s.Explain(g.visit(now)).Explain {
			for _, step := range a.Steps {
				if step.Gate != decide.GateHoldout && step.Gate != decide.GateDisplay {
					add(string(step.Gate) + ": " + step.Why)
				}
				for _, p := range step.Parts {
					add("part: " + p.Why)
				}
			}
		}
	}
	out.WriteString(end())
	add, end = section("Findings")
	found, err := findings.Check(t.Context(), s, now)
	require.NoError(t, err)
	for _, f := range found {
		add(string(f.Code) + ": " + f.What + " " + f.Fix)
		for _, m := range f.Fixes {
			add("offers: " + m.Label)
		}
	}
	out.WriteString(end())
	const file = "testdata/sentences.txt"
	if *rewrite {
		require.NoError(t, os.WriteFile(file, []byte(out.String()), 0o644))
	}
	kept, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, string(kept), out.String(), "read it, then: go test ./core -run Sentences -rewrite")
	for _, l := range strings.Split(out.String(), "\n") {
		assert.NotContains(t, l, "%!", "a sentence that was not filled in")
		assert.NotContains(t, l, "  ", "two spaces")
	}
}

// A generator makes notices and visits of all sorts, the same each time.
type generator struct{ *rand.Rand }

func (g generator) of(list ...string) string { return list[g.IntN(len(list))] }

func (g generator) notice(i int) bundle.Notice {
	published := time.Date(2026, 11, 20, 10, 0, 0, 0, time.UTC)
	n := bundle.Notice{
		ID: fmt.Sprintf("n%d", i), Title: g.of("Winter timetable", "Storm", "Fare sale", "Seal tours", "Pier works") +
			fmt.Sprintf(" %d", i),
		Kind: bundle.Kind(g.of("bar", "bar", "alert", "pop-up", "tab-title")), State: bundle.Published,
		PublishedAt: &published,
		Level:       bundle.Level(g.of("promotion", "information", "warning", "emergency")),
		Pages:       &pages.Conditions{Include: g.entries(1 + g.IntN(2)), Exclude: g.entries(g.IntN(3))},
	}
	switch n.Kind {
	case "pop-up":
		n.Slot = bundle.Slot(g.of("corner-start", "corner-end", "centre", "cover"))
	case "tab-title":
		n.Slot = bundle.TabTitle
	default:
		n.Slot = bundle.Slot(g.of("top", "bottom"))
	}
	words := map[string]bundle.Wording{"en": {Message: "<p>Hello</p>"}, "de": {Message: "<p>Hallo</p>"}}
	if g.IntN(2) == 0 {
		words["pl"] = bundle.Wording{Message: "<p>Dzień dobry</p>", Unread: g.IntN(2) == 0}
	}
	n.Content = &bundle.Content{Wordings: words}
	if g.IntN(3) == 0 {
		n.Content.Countdown = &countdown.Countdown{
			Kind: countdown.To,
			At:   g.of("2026-12-06T18:00", "2026-12-01T18:00"),
			Then: countdown.Then(g.of("disappear", "say", "stay")),
		}
	}
	if g.IntN(3) > 0 {
		n.Schedule = &schedule.Plan{Windows: g.windows(1 + g.IntN(2)), Clock: g.of("", "", "visitor", "America/New_York")}
	}
	if g.IntN(3) > 0 {
		node := g.node(2)
		n.Audience = &node
	}
	closable := g.IntN(4) > 0
	n.Memory = &bundle.Memory{
		Closable:       &closable,
		HideAfterClose: bundle.Period(g.of("page", "session", "P1D", "PT12H", "P1M", "ever")),
	}
	for range g.IntN(3) {
		n.Memory.Limits = append(n.Memory.Limits, bundle.Limit{
			Times: 1 + g.IntN(3),
			Per:   bundle.Period(g.of("session", "P7D", "PT1H")),
		})
	}
	return n
}

func (g generator) entries(count int) (out []pages.Entry) {
	tag := "island"
	for range count {
		out = append(out, []pages.Entry{
			{Match: pages.All}, {Match: pages.Home}, {Match: pages.Page, Path: "/book"}, {Match: pages.Section, Path: "/ports"},
			{Match: pages.Pattern, Pattern: "/ports/*"}, {Match: pages.Tag, Value: &tag}, {Match: pages.Page, Path: "/gone"},
		}[g.IntN(7)])
	}
	return out
}

func (g generator) windows(count int) (out []schedule.Window) {
	for range count {
		out = append(out, []schedule.Window{
			{From: "2026-12-01T09:00"}, {Until: "2026-12-20T18:00"}, {
				From:  "2026-11-27T09:00",
				Until: "2026-12-02T18:00",
			}, {From: "2026-12-07T09:00", Until: "2026-12-09T18:00"},
			{From: "2026-11-27T12:00", Until: "2026-11-27T18:00", Rule: "FREQ=WEEKLY;BYDAY=FR"},
			{From: "2026-11-30T09:00", Until: "2026-11-30T17:00", Rule: "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR"},
			{From: "2026-12-01T12:00", Until: "2026-12-01T13:00", Rule: "FREQ=MONTHLY;BYMONTHDAY=1;COUNT=4"},
			{From: "2026-12-01T12:00", Until: "2026-12-01T12:30", Rule: "FREQ=HOURLY;INTERVAL=3"},
		}[g.IntN(8)])
	}
	return out
}

func (g generator) node(depth int) audience.Node {
	if depth > 0 && g.IntN(2) == 0 {
		var parts []audience.Node
		for range 1 + g.IntN(3) {
			parts = append(parts, g.node(depth-1))
		}
		switch g.IntN(3) {
		case 0:
			return audience.Node{Group: audience.All, Parts: parts}
		case 1:
			return audience.Node{Group: audience.Any, Parts: parts}
		}
		return audience.Node{Group: audience.None, Parts: parts}
	}
	return []audience.Node{
		{Saved: "regulars"},
		{
			Fact:  "visits.number",
			Is:    audience.Gte,
			Value: float64(g.IntN(4)),
		}, {Fact: "visits.daysSinceLast", Is: audience.Lt, Value: 30.0},
		{
			Fact:  "device.kind",
			Is:    audience.Eq,
			Value: "phone",
		}, {Fact: "device.width", Is: audience.Between, Value: []any{320.0, 600.0}},
		{
			Fact:  "referrer.class",
			Is:    audience.In,
			Value: []any{"search", "mail"},
		}, {Fact: "page.tags", Is: audience.HasNone, Value: []any{"island", "news"}},
		{
			Fact:  "person.signedIn",
			Is:    audience.Ne,
			Value: true,
		}, {Fact: "event.booking.count", Is: audience.Eq, Value: float64(g.IntN(3))},
		{Fact: "view.scroll", Is: audience.Gte, Value: 30.0}, {Fact: "page.path", Is: audience.Like, Value: "/ports/*"},
		{
			Fact:  "locale.languages",
			Is:    audience.In,
			Value: []any{"de", "pl"},
		}, {Fact: "place.country", Is: audience.NotIn, Value: []any{"DE", "AT"}},
		{Fact: "clock.hour", Is: audience.Between, Value: []any{9.0, 17.0}}, {Fact: "utm.campaign", Is: audience.IsSet},
		{Fact: "notice.n1.closed", Is: audience.Gt, Value: 0.0}, {Fact: "visits.seen", Is: audience.Has, Value: "/book"},
	}[g.IntN(17)]
}

func (g generator) visit(now time.Time) decide.Visit {
	v := decide.Visit{
		At:    now.Add(time.Duration(g.IntN(72)) * time.Hour),
		URL:   g.of("/", "/book", "/ports", "/ports/fennay", "/elsewhere"),
		Facts: map[string]any{},
	}
	facts := map[string]any{
		"visits.number": float64(1 + g.IntN(6)), "device.kind": g.of("phone", "desktop"), "device.width": 400.0,
		"referrer.class":  g.of("search", "direct"),
		"person.signedIn": g.IntN(2) == 0, "locale.languages": []any{"de-AT"}, "place.country": g.of("DE", "GB"),
		"utm.campaign": "winter", "visits.daysSinceLast": 3.0,
	}
	for _, name := range slices.Sorted(maps.Keys(facts)) {
		if g.IntN(2) == 0 {
			v.Facts[name] = facts[name]
		}
	}
	acts := func() decide.Acts {
		a := decide.Acts{Shown: []time.Time{v.At.Add(-30 * time.Minute), v.At.Add(-2 * time.Hour), v.At.Add(-50 * time.Hour)}}
		if g.IntN(2) == 0 {
			a.Closed = v.At.Add(-time.Duration(g.IntN(60)) * time.Hour)
		}
		return a
	}
	v.Memory = decide.Memory{
		Session: v.At.Add(-3 * time.Hour),
		View:    v.At.Add(-time.Minute),
		Notices: map[string]decide.Acts{},
	}
	for i := range 60 {
		if g.IntN(3) == 0 {
			v.Memory.Notices[fmt.Sprintf("n%d", i)] = acts()
		}
	}
	return v
}
