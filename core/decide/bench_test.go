package decide_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"cel.dev/cel-go/cel"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/decide"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// synthetic is a site of 5,000 pages and n bars of slot inline, so that no
// place runs out: 60 % bound to one of a hundred sections, the rest on the
// whole site; 30 % live at noon; five conditions each in two nested groups.
type synthetic struct {
	bundle  bundle.Bundle
	visits  []decide.Visit
	section []string // "" for the whole site
	from    []time.Time
	until   []time.Time
	leaves  [][5]cond
}

// cond is a condition as a programmer would write it by hand.
type cond struct {
	fact, text string
	min        float64
	texts      [2]string
}

func big(n int) *synthetic {
	r := rand.New(rand.NewPCG(11, 12))
	s := &synthetic{bundle: site()}
	s.bundle.Pages = nil
	for i := range 5000 {
		s.bundle.Pages = append(s.bundle.Pages, bundle.Page{
			Path: fmt.Sprintf("/s%d/p%d", i%100, i),
			Type: fmt.Sprintf("t%d", i%7),
		})
	}
	word := func(kind string, n int) string { return fmt.Sprintf("%s%d", kind, r.IntN(n)) }
	for i := range n {
		x := bar(fmt.Sprintf("n%d", i), rank(r.IntN(100)), slot(bundle.Inline))
		section := ""
		if r.IntN(10) < 6 {
			section = fmt.Sprintf("/s%d", r.IntN(100))
			x.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.Section, Path: section}}}
		}
		from := noon.Add(time.Hour)
		if r.IntN(10) < 3 {
			from = noon.Add(-time.Hour)
		}
		until := from.AddDate(0, 0, 7)
		windows(schedule.Window{
			From:  schedule.LocalAt(from, time.UTC).String(),
			Until: schedule.LocalAt(until, time.UTC).String(),
		})(&x)
		c := [5]cond{
			{fact: "device.kind", text: []string{"phone", "tablet", "desktop"}[r.IntN(3)]},
			{fact: "visits.number", min: float64(1 + r.IntN(4))}, {fact: "utm.source", text: word("source", 20)},
			{fact: "place.country", texts: [2]string{word("c", 30), word("c", 30)}},
			{fact: "referrer.class", text: []string{"search", "direct", "social"}[r.IntN(3)]},
		}
		leaf := func(i int, is audience.Test, v any) audience.Node {
			return audience.Node{Fact: c[i].fact, Is: is, Value: v}
		}
		x.Audience = &audience.Node{Group: audience.All, Parts: []audience.Node{
			leaf(1, audience.Gte, c[1].min),
			{Group: audience.Any, Parts: []audience.Node{leaf(0, audience.Eq, c[0].text), leaf(2, audience.Eq, c[2].text)}},
			{
				Group: audience.Any,
				Parts: []audience.Node{leaf(3, audience.In, []any{c[3].texts[0], c[3].texts[1]}), leaf(4, audience.Ne, c[4].text)},
			}}}
		s.bundle.Notices = append(s.bundle.Notices, x)
		s.section, s.from, s.until, s.leaves = append(
			s.section,
			section,
		), append(
			s.from,
			from,
		), append(
			s.until,
			until,
		), append(
			s.leaves,
			c,
		)
	}
	for i := range 500 {
		s.visits = append(s.visits, decide.Visit{
			At:  noon,
			URL: fmt.Sprintf("https://www.s.example/s%d/p%d", i*7%100, i*7%5000),
			Facts: map[string]any{
				"device.kind":    []string{"phone", "tablet", "desktop"}[r.IntN(3)],
				"visits.number":  float64(1 + r.IntN(4)),
				"utm.source":     word("source", 20),
				"place.country":  word("c", 30),
				"referrer.class": []string{"search", "direct", "social"}[r.IntN(3)],
			},
		})
	}
	return s
}

// byHand decides a visit by plain ifs over all notices, on facts taken out of
// the visit once: the practical limit without an index.
func (s *synthetic) byHand(v *decide.Visit, path string) int {
	device, source := v.Facts["device.kind"].(string), v.Facts["utm.source"].(string)
	country, class := v.Facts["place.country"].(string), v.Facts["referrer.class"].(string)
	number := v.Facts["visits.number"].(float64)
	shown := 0
	for i := range s.leaves {
		if v.At.Before(s.from[i]) || !v.At.Before(s.until[i]) {
			continue
		}
		if x := s.section[i]; x != "" && (!strings.HasPrefix(path, x) || len(path) > len(x) && path[len(x)] != '/') {
			continue
		}
		c := &s.leaves[i]
		if number >= c[1].min && (device == c[0].text || source == c[2].text) &&
			(country == c[3].texts[0] || country == c[3].texts[1] || class != c[4].text) {
			shown++
		}
	}
	return shown
}

// inCEL compiles the conditions of each notice for cel-go.
func (s *synthetic) inCEL(b *testing.B) []cel.Program {
	env, err := cel.NewEnv(
		cel.Variable("device", cel.StringType), cel.Variable("source", cel.StringType),
		cel.Variable("country", cel.StringType), cel.Variable("class", cel.StringType),
		cel.Variable("number", cel.DoubleType), cel.Variable("path", cel.StringType), cel.Variable("now", cel.IntType),
	)
	require.NoError(b, err)
	var out []cel.Program
	for i, c := range s.leaves {
		where := "true"
		if s.section[i] != "" {
			where = fmt.Sprintf("(path == %q || path.startsWith(%q))", s.section[i], s.section[i]+"/")
		}
		where = fmt.Sprintf("now >= %d && now < %d && %s", s.from[i].Unix(), s.until[i].Unix(), where)
		ast, issues := env.Compile(fmt.Sprintf(
			"%s && number >= %.1f && (device == %q || source == %q) && (country in [%q, %q] || class != %q)", where, c[1].min,
			c[0].text, c[2].text, c[3].texts[0], c[3].texts[1], c[4].text,
		))
		require.NoError(b, issues.Err())
		p, err := env.Program(ast)
		require.NoError(b, err)
		out = append(out, p)
	}
	return out
}

// BenchmarkDecide prints, beside the time of one whole decision with memory,
// rivals and result, how many times longer the same takes by hand-written ifs
// over all notices, by cel-go over all notices and over only the live ones
// that our index finds, by us without the index, and where the site asks for
// consent too. All but the last answer alike, which is checked.
func BenchmarkDecide(b *testing.B) {
	for _, n := range []int{100, 500, 2000} {
		b.Run(fmt.Sprintf("notices=%d", n), func(b *testing.B) {
			in := big(n)
			s := compile(b, in.bundle)
			programs := in.inCEL(b)
			paths := make([]string, len(in.visits))
			vars := make([]map[string]any, len(in.visits))
			for i, v := range in.visits {
				paths[i] = strings.TrimPrefix(v.URL, "https://www.s.example")
				vars[i] = map[string]any{
					"device":  v.Facts["device.kind"],
					"source":  v.Facts["utm.source"],
					"country": v.Facts["place.country"],
					"class":   v.Facts["referrer.class"],
					"number":  v.Facts["visits.number"],
					"path":    paths[i],
					"now":     noon.Unix(),
				}
			}
			live := func(i int) bool { return !noon.Before(in.from[i]) && noon.Before(in.until[i]) }
			here := func(i int, path string) bool {
				return in.section[i] == "" || strings.HasPrefix(path, in.section[i]+"/")
			}
			byCEL := func(visit int, indexed bool) int {
				shown := 0
				for i, p := range programs {
					if indexed && !(live(i) && here(i, paths[visit])) {
						continue
					}
					out, _, err := p.Eval(vars[visit])
					if err == nil && out.Value() == true {
						shown++
					}
				}
				return shown
			}
			for i := range 20 {
				want := in.byHand(&in.visits[i], paths[i])
				require.Len(b, s.Decide(in.visits[i]).Show, want)
				require.Len(b, s.DecideTrying(in.visits[i]).Show, want)
				require.Equal(b, want, byCEL(i, false))
				require.Equal(b, want, byCEL(i, true))
			}
			b.ReportAllocs()
			for i := 0; b.Loop(); i++ {
				s.Decide(in.visits[i%len(in.visits)])
			}
			one := float64(b.Elapsed().Nanoseconds()) / float64(b.N)
			times := func(name string, rounds int, f func(int)) {
				began := time.Now()
				for i := range rounds {
					f(i % len(in.visits))
				}
				b.ReportMetric(float64(time.Since(began).Nanoseconds())/float64(rounds)/one, "×"+name)
			}
			times("by-hand", 4000, func(i int) { in.byHand(&in.visits[i], paths[i]) })
			times("cel-go-all", 40, func(i int) { byCEL(i, false) })
			times("cel-go-indexed", 100, func(i int) { byCEL(i, true) })
			times("without-index", 2000, func(i int) { s.DecideTrying(in.visits[i]) })
			// The same site asks for consent, and the visitor has answered.
			asked := sets(in.bundle)
			asked.Notices = append(slices.Clone(asked.Notices), bar("ask", asking))
			consenting := compile(b, asked)
			given := consent.Answer{
				At:      noon,
				Granted: []string{"measurement"},
				Refused: []string{"marketing"},
				Of:      asked.Site.Consent.Marks(),
			}
			times("with-consent", 2000, func(i int) {
				v := in.visits[i]
				v.Memory.Consent = given
				consenting.Decide(v)
			})
			// A page that is not listed has no entry in the index.
			unlisted := in.visits
			times("unlisted-page", 2000, func(i int) {
				v := unlisted[i]
				v.URL = "https://www.s.example/s1/other"
				s.Decide(v)
			})
		})
	}
}

// BenchmarkCompile compiles 2,000 notices on 5,000 pages, a third of them repeating.
func BenchmarkCompile(b *testing.B) {
	in := big(2000).bundle
	for i := range in.Notices {
		if i%3 == 0 {
			in.Notices[i].Schedule.Windows[0] = schedule.Window{
				From:  "2026-12-04T09:00",
				Until: "2026-12-04T17:00",
				Rule:  "FREQ=WEEKLY;BYDAY=MO,WE,FR",
			}
		}
	}
	for b.Loop() {
		_, err := decide.Compile(in)
		require.NoError(b, err)
	}
}

// BenchmarkTimeline expands 1,000 notices over a year, a third of them by a
// weekly rule on three days in a zone with clock changes, compiling included;
// and 2,000, to show how it grows.
// BenchmarkPatterns compiles 2,000 notices by patterns on 2,000 pages, beside the same
// by sections: each its own pattern, and a hundred that many have.
func BenchmarkPatterns(b *testing.B) {
	const n = 2000
	build := func(entry func(i int) pages.Entry) bundle.Bundle {
		in := site()
		in.Pages = nil
		for i := range n {
			in.Pages = append(in.Pages, bundle.Page{Path: fmt.Sprintf("/s%d/p%d", i%100, i)})
			in.Notices = append(in.Notices, bar(fmt.Sprintf("n%d", i), func(n *bundle.Notice) {
				n.Pages = &pages.Conditions{Include: []pages.Entry{entry(i)}}
			}))
		}
		return in
	}
	took := func(in bundle.Bundle) time.Duration {
		start := time.Now()
		_, err := decide.Compile(in)
		require.NoError(b, err)
		return time.Since(start)
	}
	section := func(i int) pages.Entry { return pages.Entry{Match: pages.Section, Path: fmt.Sprintf("/s%d", i%100)} }
	shared := func(i int) pages.Entry {
		return pages.Entry{Match: pages.Pattern, Pattern: fmt.Sprintf("/s%d/*", i%100)}
	}
	own := func(i int) pages.Entry {
		return pages.Entry{Match: pages.Pattern, Pattern: fmt.Sprintf("/s%d/*%d", i%100, i)}
	}
	for b.Loop() {
		by := took(build(section))
		b.ReportMetric(by.Seconds()*1000, "sections-ms")
		b.ReportMetric(float64(took(build(shared)))/float64(by), "x-shared")
		b.ReportMetric(float64(took(build(own)))/float64(by), "x-own")
	}
}

func BenchmarkTimeline(b *testing.B) {
	london, err := time.LoadLocation("Europe/London")
	require.NoError(b, err)
	year := func(n int) {
		for i := range n {
			plan := schedule.Plan{Windows: []schedule.Window{{From: "2026-12-04T09:00", Until: "2027-12-04T17:00"}}}
			if i%3 == 0 {
				plan.Windows[0] = schedule.Window{
					From:  "2026-12-04T09:00",
					Until: "2026-12-04T17:00",
					Rule:  "FREQ=WEEKLY;BYDAY=MO,WE,FR",
				}
			}
			s, faults := schedule.Compile(plan, london, time.Time{})
			require.Empty(b, faults)
			s.Range(noon, noon.AddDate(1, 0, 0))
		}
	}
	for b.Loop() {
		year(1000)
	}
	one := float64(b.Elapsed().Nanoseconds()) / float64(b.N)
	began := time.Now()
	year(2000)
	b.ReportMetric(float64(time.Since(began).Nanoseconds())/one, "×for-2000")
}
