package document_test

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/consent"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/markup"
)

var seed = uint64(time.Now().UnixNano())

func random(t *testing.T) *rand.Rand {
	t.Logf("seed %d", seed)
	return rand.New(rand.NewPCG(seed, 0))
}

// randomSite is a set-up with any mixture of purposes and things.
func randomSite(r *rand.Rand) document.Site {
	s := document.Site{
		Key:      "sundrey",
		Name:     "Sundrey",
		Language: "en",
		Address:  "https://www.sundrey.example",
		Asks:     r.IntN(2) == 0,
	}
	s.Again = s.Asks && r.IntN(2) == 0
	for _, p := range []string{"preferences", "measurement", "marketing"} {
		if r.IntN(2) == 0 {
			s.Setup.Purposes = append(s.Setup.Purposes, consent.Purpose{ID: p})
		}
	}
	for i := range r.IntN(4) {
		item := consent.Item{
			Kind:    consent.ItemKinds[r.IntN(4)],
			Name:    fmt.Sprintf("thing%d", i),
			By:      []string{"", "Tidewater Counting"}[r.IntN(2)],
			Lasts:   []string{"", "session", "P30D"}[r.IntN(3)],
			Purpose: []string{"", consent.Necessary}[r.IntN(2)],
		}
		if len(s.Setup.Purposes) > 0 && r.IntN(2) == 0 {
			item.Purpose = s.Setup.Purposes[0].ID
		}
		s.Setup.Inventory = append(s.Setup.Inventory, item)
	}
	return s
}

// samples are an answer that is right for each form of a question.
var samples = map[document.Form]string{
	document.Line:   "Quay <b>1</b> & Sons",
	document.Lines:  "Quay 1\nAldwick",
	document.Email:  "harbour@sundrey.example",
	document.Phone:  "+44 1632 960 123",
	document.Day:    "2026-11-20",
	document.Number: "18",
}

// randomAnswers answers some of what is asked, and what is asked because of that.
func randomAnswers(r *rand.Rand, k document.Kind) map[string]string {
	a := map[string]string{}
	for range 3 {
		for _, q := range document.Questions(k, a) {
			if r.IntN(4) == 0 {
				continue
			}
			switch q.Form {
			case document.Choice:
				a[q.ID] = q.Options[r.IntN(len(q.Options))].ID
			case document.Choices:
				var list []string
				for _, o := range q.Options {
					if r.IntN(3) == 0 {
						list = append(list, o.ID)
					}
				}
				if a[q.ID] = strings.Join(list, ","); list == nil {
					a[q.ID] = document.None
				}
			default:
				a[q.ID] = samples[q.Form]
			}
		}
	}
	return a
}

// rightsOf is which rights a privacy notice names, by the articles of the GDPR that give them: those
// of everyone (15 to 18), to object to what rests on interests (21), and to data portability for
// what rests on a contract or on consent (20).
func rightsOf(d document.Document, s document.Site) map[string]bool {
	uses := func(of ...string) bool {
		return slices.ContainsFunc(
			strings.Split(d.Answers["uses"], ","), func(u string) bool { return slices.Contains(of, u) },
		)
	}
	return map[string]bool{
		"art. 15": true,
		"art. 21": uses("visits", "contact", "comments"),
		"art. 20": uses("contact", "orders", "account", "jobs", "newsletter") || len(s.Setup.Purposes) > 0,
	}
}

// wanted is rule T2 a second time, from its text: what state each item has to
// have by answers and set-up.
func wanted(d document.Document, s document.Site) map[string]document.State {
	a := d.Answers
	const said, away, open = document.Said, document.Away, document.Open
	if3 := func(isOpen, isAway bool) document.State {
		switch {
		case isOpen:
			return open
		case isAway:
			return away
		}
		return said
	}
	any := func(list string, of ...string) bool {
		for _, x := range strings.Split(list, ",") {
			if slices.Contains(of, x) {
				return true
			}
		}
		return false
	}
	asked, uses := len(s.Setup.Purposes) > 0, a["uses"]
	nothing := uses == "none" && !asked
	given := func(ask, entry string) document.State {
		return if3(a[ask] == "" || a[ask] == "yes" && a[entry] == "", a[ask] == "no")
	}
	switch d.Kind {
	case document.Privacy:
		others := slices.ContainsFunc(s.Setup.Inventory, func(i consent.Item) bool { return i.By != "" })
		return map[string]document.State{
			"controller": if3(a["operator"] == "" || a["address"] == "" && a["email"] == "", false),
			"officer": if3(
				a["officer"] == "" || a["officer"] == "named" && a["officerContact"] == "",
				a["officer"] == "none",
			),
			"purposes": if3(
				uses == "",
				nothing,
			), "interests": if3(uses == "", !any(uses, "visits", "contact", "comments")),
			"recipients": if3(
				a["recipients"] == "",
				a["recipients"] == "none" && !others,
			), "abroad": if3(a["abroad"] == "", a["abroad"] == "no"),
			"kept": if3(
				uses == "" || any(uses, "visits") && a["logs"] == "",
				nothing,
			), "rights": said, "complain": said,
			"withdraw": if3(
				uses == "" && !asked,
				!asked && !any(uses, "newsletter"),
			), "must": if3(uses == "", !any(uses, "orders", "account", "jobs")),
			"automated": if3(a["automated"] != "no", a["automated"] == "no"),
		}
	case document.Cookies:
		has := func(f func(consent.Item) bool) bool { return slices.ContainsFunc(s.Setup.Inventory, f) }
		keeps := func(i consent.Item) bool { return i.Kind == consent.Cookie || i.Kind == consent.Storage }
		beyond := has(func(i consent.Item) bool { return i.Purpose != "necessary" })
		choice := if3(asked && !s.Asks || !asked && beyond, !asked && !beyond)
		return map[string]document.State{
			"purposes": if3(has(func(i consent.Item) bool { return i.Purpose == "" }), false),
			"lasts":    if3(has(func(i consent.Item) bool { return keeps(i) && i.Lasts == "" }), false),
			"others": if3(
				has(func(i consent.Item) bool { return !keeps(i) && i.By == "" }),
				false,
			), "choice": choice, "withdraw": choice,
		}
	case document.Terms:
		return map[string]document.State{
			"name":    if3(a["operator"] == "", false),
			"address": if3(a["address"] == "", false),
			"contact": if3(a["email"] == "", false),
			"register": given(
				"register",
				"registerEntry",
			),
			"supervision": given("licensed", "supervisor"),
			"profession":  given("regulated", "professionEntry"),
			"vat":         given("taxed", "vatNumber"),
			"prices":      if3(a["prices"] == "", a["prices"] == "no"),
		}
	case document.Accessibility:
		fails := d.Evidence != nil && d.Evidence.Checked != nil && len(d.Evidence.Checked.Failed) > 0
		return map[string]document.State{
			"commitment": if3(a["operator"] == "" || a["act"] == "", false),
			"status":     if3(a["status"] == "" || a["status"] == "full" && fails, false),
			"gaps": if3(
				!fails && a["status"] != "full",
				!fails,
			),
			"burden":  if3(a["burden"] != "no", a["burden"] == "no"),
			"outside": if3(a["outside"] != "no", a["outside"] == "no"),
			"prepared": if3(
				a["method"] == "" || a["preparedOn"] == "",
				false,
			),
			"feedback":    if3(a["email"] == "" && a["phone"] == "", false),
			"enforcement": if3(a["enforcer"] == "", false),
		}
	}
	return map[string]document.State{}
}

// speaks are words of the English texts, and whether the set-up has what they
// speak of.
var speaks = []struct {
	kind  document.Kind
	words string
	has   func(a map[string]string, s document.Site) bool
}{
	{
		document.Privacy,
		"Newsletter:",
		func(a map[string]string, _ document.Site) bool { return strings.Contains(a["uses"], "newsletter") },
	},
	{
		document.Privacy,
		"Job applications:",
		func(a map[string]string, _ document.Site) bool { return strings.Contains(a["uses"], "jobs") },
	},
	{
		document.Privacy,
		"server notes",
		func(a map[string]string, _ document.Site) bool { return strings.Contains(a["uses"], "visits") },
	},
	{
		document.Privacy,
		"payment services",
		func(a map[string]string, _ document.Site) bool { return strings.Contains(a["recipients"], "payment") },
	},
	{
		document.Privacy,
		"protection officer",
		func(a map[string]string, _ document.Site) bool { return a["officerContact"] != "" },
	},
	{
		document.Privacy,
		"Marketing:",
		func(_ map[string]string, s document.Site) bool {
			return slices.Contains(s.Setup.AskedPurposes(), "marketing")
		},
	},
	{document.Privacy, "European Economic Area", func(a map[string]string, _ document.Site) bool {
		return a["abroad"] == "clauses" || a["abroad"] == "adequacy"
	}},
	{document.Privacy, "Tidewater", func(_ map[string]string, s document.Site) bool {
		return slices.ContainsFunc(s.Setup.Inventory, func(i consent.Item) bool { return i.By != "" })
	}},
	{document.Privacy, "withdraw a consent", func(a map[string]string, s document.Site) bool {
		return len(s.Setup.Purposes) > 0 || strings.Contains(a["uses"], "newsletter")
	}},
	{
		document.Cookies,
		"before you agree",
		func(_ map[string]string, s document.Site) bool { return len(s.Setup.Purposes) > 0 },
	},
	{
		document.Cookies,
		"Global Privacy Control",
		func(_ map[string]string, s document.Site) bool { return len(s.Setup.Signalled()) > 0 },
	},
	{document.Cookies, "thing0", func(_ map[string]string, s document.Site) bool { return len(s.Setup.Inventory) > 0 }},
	{
		document.Cookies,
		"Privacy choices",
		func(_ map[string]string, s document.Site) bool { return len(s.Setup.Purposes) > 0 && s.Again },
	},
	{
		document.Terms,
		"value added tax",
		func(a map[string]string, _ document.Site) bool { return a["vatNumber"] != "" },
	},
	{
		document.Terms,
		"Register and number",
		func(a map[string]string, _ document.Site) bool { return a["registerEntry"] != "" },
	},
	{document.Accessibility, "axe-core", func(map[string]string, document.Site) bool { return false }},
	{
		document.Accessibility,
		"disproportionate",
		func(a map[string]string, _ document.Site) bool { return a["burden"] == "yes" },
	},
}

// Every item is said, answered away or open, and never two of these; a text
// speaks of nothing that the set-up does not have (rule T2).
func TestCompleteness(t *testing.T) {
	r := random(t)
	seen := map[string]map[document.State]bool{}
	for range 3000 {
		k, s := document.Kinds[r.IntN(len(document.Kinds))], randomSite(r)
		d := document.Document{ID: "one", Kind: k, Answers: randomAnswers(r, k)}
		for id := range d.Answers { // an answer that is not asked any more does not count
			if !slices.ContainsFunc(
				document.Questions(k, d.Answers),
				func(q document.Question) bool { return q.ID == id },
			) {
				delete(d.Answers, id)
			}
		}
		require.Empty(t, d.Check(), "%v", d.Answers)
		if r.IntN(2) == 0 && k == document.Accessibility {
			d.Evidence = &document.Evidence{Checked: &document.Checked{Day: "2026-11-20", Tool: "tool", Pages: 4}}
			if r.IntN(2) == 0 {
				d.Evidence.Checked.Failed = []document.Failure{{Rule: "image-alt", Help: "help", Pages: 2}}
			}
		}
		want := wanted(d, s)
		require.Len(t, document.Items(k), len(want))
		for _, tag := range document.Ready {
			sections, points := d.Sections(s, tag)
			got := map[string]document.State{}
			for _, p := range points {
				got[p.ID] = p.State
				says := 0
				for _, sec := range sections {
					if slices.Contains(sec.Items, p.ID) {
						says++
						assert.NotEmpty(t, sec.HTML, "%s: %s says %s and has no text", tag, sec.ID, p.ID)
					}
				}
				assert.Equal(t, p.State == document.Said, says == 1, "%s %s in %d sections", p.ID, p.State, says)
				assert.Equal(t, p.State == document.Said, p.Why == "", "%s: %s", p.ID, p.Why)
				id := string(k) + "/" + p.ID
				if seen[id] == nil {
					seen[id] = map[document.State]bool{}
				}
				seen[id][p.State] = true
			}
			require.Equal(t, want, got, "%s %v %+v", k, d.Answers, s)
			if k == document.Privacy {
				i := slices.IndexFunc(sections, func(s document.Section) bool { return s.ID == "rights" })
				require.GreaterOrEqual(t, i, 0)
				for article, has := range rightsOf(d, s) {
					assert.Equal(t, has, strings.Contains(strings.ToLower(sections[i].HTML), article), "%s: %s of %v in %s",
						article, tag, d.Answers, sections[i].HTML)
				}
			}
			all, ok := d.Text(s, tag)
			assert.Empty(t, markup.CheckDocument(all.Text))
			assert.NotContains(t, all.Text, "<b>1</b>")
			assert.NotRegexp(t, `[{}\[\]]`, all.Text)
			if tag != "en" || !ok {
				continue
			}
			words := strings.Join(markup.Blocks(all.Text), "\n")
			for _, sp := range speaks {
				if sp.kind == k {
					assert.Equal(
						t,
						sp.has(d.Answers, s),
						strings.Contains(words, sp.words),
						"%s: %q\n%v\n%s",
						k,
						sp.words,
						d.Answers,
						words,
					)
				}
			}
		}
	}
	states := 0
	for _, s := range seen {
		states += len(s)
	}
	assert.Greater(t, states, 70, "too few states were met: %v", seen)
}

// Each language says the same things: the same keys, the same blanks.
func TestWordsInEachLanguage(t *testing.T) {
	read := func(tag string) map[string]string {
		raw, err := os.ReadFile("words." + tag + ".txt")
		require.NoError(t, err)
		out, key := map[string]string{}, ""
		for _, line := range strings.Split(string(raw), "\n") {
			if line != "" && line[0] != '#' && line[0] != ' ' {
				assert.NotContains(t, out, line, "%s has it twice", tag)
				key = line
			}
			if line != "" && line[0] == ' ' {
				out[key] += " " + strings.TrimSpace(line)
			}
		}
		return out
	}
	blanks := regexp.MustCompile(`\{[a-zA-Z]+\}`)
	list := func(s string) []string {
		out := blanks.FindAllString(s, -1)
		slices.Sort(out)
		return out
	}
	en := read("en")
	for _, tag := range document.Ready[1:] {
		other := read(tag)
		assert.ElementsMatch(t, slices.Collect(maps.Keys(en)), slices.Collect(maps.Keys(other)), tag)
		for key, text := range en {
			assert.Equal(t, list(text), list(other[key]), "%s in %s", key, tag)
			assert.Empty(t, markup.CheckDocument(strings.ReplaceAll(other[key], "{cookies}", "cookies")), key)
		}
	}
}

func full() (document.Document, document.Site) {
	d := document.Document{
		ID:   "privacy",
		Kind: document.Privacy,
		Answers: map[string]string{"operator": "Sundrey Isles Ferries", "address": "Quay 1\nAldwick",
			"email": "privacy@sundrey.example", "officer": "none", "uses": "orders,newsletter", "recipients": "payment",
			"abroad": "no", "automated": "no"},
	}
	return d, document.Site{Key: "sundrey", Name: "Sundrey", Language: "en", Documents: []document.Document{d}}
}

var noon = time.Date(2026, 11, 20, 12, 0, 0, 0, time.UTC)

// What publishing proposes, and why (rule T3).
func TestProposals(t *testing.T) {
	languages := []string{"en", "de"}
	for name, c := range map[string]struct {
		change func(*document.Document, *document.Site)
		want   document.Change
		why    string
	}{
		"nothing": {func(*document.Document, *document.Site) {}, document.Editorial, "Only words changed."},
		"a word": {
			func(d *document.Document, _ *document.Site) { d.Own = own("rights", "en", "<p>All of them.</p>") },
			document.Editorial, "Only words changed.",
		},
		"an answer": {
			func(d *document.Document, _ *document.Site) { d.Answers["recipients"] = "payment,mail" }, document.Material,
			"The answer to “Who else gets such data” changed.",
		},
		"a row": {func(_ *document.Document, s *document.Site) {
			s.Setup.Inventory = []consent.Item{{Kind: "cookie", Name: "_vs"}}
		}, document.Material, "The row “_vs” is new."},
		"a new state": {
			func(d *document.Document, s *document.Site) { delete(d.Answers, "officer") }, document.Material,
			"The answer to “Do you have a data protection officer” changed; “How the data protection officer is reached” was " +
				"not applicable and is open.",
		},
	} {
		d, s := full()
		first, v, err := d.Publish(s, languages, document.Material, "", "Ines", noon)
		require.NoError(t, err)
		require.Equal(
			t,
			document.Version{
				Number:   1,
				Change:   document.Material,
				Proposed: document.Material,
				Why:      "It is the first version.",
				Material: 1,
				At:       noon,
				By:       "Ines",
				Texts:    first.Published,
			},
			v,
		)
		require.Empty(t, first.Check())
		c.change(&first, &s)
		p := first.Propose(s, languages)
		assert.Equal(t, c.want, p.Change, name)
		assert.Equal(t, c.why, p.Why, name)
		assert.Equal(t, name == "nothing", p.Nothing, name)
		// Whoever publishes decides; the version that is out is a value of its own.
		before := maps.Clone(first.Published)
		second, v2, err := first.Publish(
			s,
			languages,
			document.Editorial,
			"We say it more plainly.",
			"Ines",
			noon.Add(time.Hour),
		)
		if name == "nothing" {
			assert.ErrorContains(t, err, "nothing has changed since version 1")
			continue
		}
		require.NoError(t, err, name)
		assert.Equal(
			t,
			[]any{2, document.Editorial, c.want, 1, "We say it more plainly."},
			[]any{v2.Number, v2.Change, v2.Proposed, v2.Material, v2.Why},
			name,
		)
		assert.Equal(t, before, v.Texts, name)
		assert.Equal(t, 1, second.Material)
	}
}

func own(section, tag, html string) map[string]map[string]string {
	return map[string]map[string]string{section: {tag: html}}
}

// A section written by hand is never overwritten; once what it was written
// beside has changed it is to be read again (rule T1).
func TestWrittenByHand(t *testing.T) {
	d, s := full()
	at := func(id, tag string) document.Section {
		list, _ := d.Sections(s, tag)
		i := slices.IndexFunc(list, func(sec document.Section) bool { return sec.ID == id })
		require.GreaterOrEqual(t, i, 0)
		return list[i]
	}
	assert.Equal(t, document.Missing, at("who", "fr").From, "French has no words of its own")
	assert.Equal(t, at("who", "en").HTML, at("who", "fr").Source)
	_, ok := d.Text(s, "fr")
	assert.False(t, ok)
	d.Own = own("who", "en", "<p>We are.</p>")
	d.Of = own("who", "en", at("who", "en").Of)
	assert.Equal(t, document.ByHand, at("who", "en").From)
	assert.Equal(t, "<h2>Who is responsible</h2><p>We are.</p>", at("who", "en").HTML)
	assert.Equal(t, document.Again, at("who", "de").From, "the German one says what the English no longer does")
	d.Answers["operator"] = "Harbour Trust"
	assert.Equal(t, document.Again, at("who", "en").From)
	assert.Equal(t, "<h2>Who is responsible</h2><p>We are.</p>", at("who", "en").HTML)
	delete(d.Answers, "officer")
	d.Own["officer"] = map[string]string{"en": "<p>Ask the purser.</p>"}
	_, points := d.Sections(s, "en")
	assert.Equal(t, document.Said, points[1].State, "whoever writes it by hand answers for it")
	d.Own["automated"] = map[string]string{"en": `<p onclick="x()">No<script>x()</script></p>`}
	assert.NotContains(t, at("automated", "en").HTML, "onclick")
	assert.ErrorContains(t, d.Check().Err(), "/own/automated/en: holds onclick on <p>, <script>")
}

// A site in a language without ready words writes each section and the title; what
// is ready in its other languages is none the worse for that.
func TestLanguagesWithoutWords(t *testing.T) {
	d, s := full()
	s.Language = "fr"
	sections, _ := d.Sections(s, "fr")
	d.Own = map[string]map[string]string{}
	for _, sec := range sections {
		if sec.Source != "" {
			assert.Equal(t, document.Missing, sec.From, sec.ID)
			d.Own[sec.ID] = map[string]string{"fr": "<h2>Titre</h2><p>Texte.</p>"}
		}
	}
	_, ok := d.Text(s, "fr")
	assert.False(t, ok, "the title is missing")
	_, _, err := d.Publish(s, []string{"fr", "en"}, document.Material, "", "Ines", noon)
	assert.ErrorContains(t, err, "the text in the site’s language has parts without words")
	d.Titles = map[string]string{"fr": "Protection des données"}
	out, _, err := d.Publish(s, []string{"fr-CA", "fr", "en"}, document.Material, "", "Ines", noon)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"fr", "en"}, slices.Collect(maps.Keys(out.Published)))
	assert.Equal(t, "Privacy notice", out.Published["en"].Title)
	for _, sec := range must(d.Sections(s, "en")) {
		assert.Equal(t, document.Computed, sec.From, sec.ID)
	}
	untitled := document.Document{ID: "x", Kind: document.Own, Own: own("text", "en", "<p>x</p>")}
	s.Language = "en"
	_, ok = untitled.Text(s, "en")
	assert.False(t, ok)
}

func must(list []document.Section, _ []document.Point) []document.Section { return list }

// What the program itself keeps is in the table, each with how long, unless the site says it in words of its own.
func TestWhatTheProgramKeeps(t *testing.T) {
	_, s := full()
	d := document.Document{ID: "cookies", Kind: document.Cookies}
	s.Documents = append(s.Documents, d)
	rows := func() (out []string) {
		for _, sec := range must(d.Sections(s, "en")) {
			for _, row := range regexp.MustCompile(`<tr><td>(mastflag[^<]*)</td>.*?<td>([^<]*)</td></tr>`).
				FindAllStringSubmatch(sec.HTML, -1) {
				out = append(out, row[1]+" "+row[2])
			}
		}
		return out
	}
	all := []string{
		"mastflag.sundrey until you remove it", "mastflag.sundrey.room until you remove it",
		"mastflag.sundrey.held this visit",
	}
	assert.Equal(t, all, rows())
	s.Setup.Inventory = []consent.Item{{Kind: consent.Storage, Name: "mastflag.sundrey.room", Purpose: consent.Necessary}}
	assert.Equal(t, []string{"mastflag.sundrey.room ", all[0], all[2]}, rows())
	s.Setup.Inventory[0].Name = "mastflag.*"
	assert.Equal(t, []string{"mastflag.* "}, rows())
}

// What documents share is asked once.
func TestSharedAnswers(t *testing.T) {
	d, s := full()
	terms := document.Document{ID: "terms", Kind: document.Terms}
	s.Documents = append(s.Documents, terms)
	got := terms.Answered(s)
	assert.Equal(
		t,
		map[string]string{
			"operator": "Sundrey Isles Ferries",
			"address":  "Quay 1\nAldwick",
			"email":    "privacy@sundrey.example",
		},
		got,
	)
	terms.Answers = map[string]string{"email": "post@sundrey.example"}
	assert.Equal(t, "post@sundrey.example", terms.Answered(s)["email"])
	assert.Equal(t, "privacy@sundrey.example", d.Answered(s)["email"])
}

func TestWrongDocuments(t *testing.T) {
	since := noon
	for _, c := range []struct {
		want   string
		change func(*document.Document)
	}{
		{
			`/answers/email: "a b@c" is not an e-mail address; write it like harbour@example.org`,
			func(d *document.Document) {
				d.Answers["email"] = "a b@c"
			},
		},
		{
			`/answers/email: "<x@y.example>" is not an e-mail address; write it like harbour@example.org`,
			func(d *document.Document) {
				d.Answers["email"] = "<x@y.example>"
			},
		},
		{
			`/answers/phone: "javascript:1" is not a telephone number; write it like +44 1632 960 123`,
			func(d *document.Document) {
				d.Answers["phone"] = "javascript:1"
			},
		},
		{
			`/answers/abroad: "perhaps" is none of the answers; use one of no, adequacy, clauses`,
			func(d *document.Document) {
				d.Answers["abroad"] = "perhaps"
			},
		},
		{
			`/answers/uses: it says that there is none, and some; use none alone`,
			func(d *document.Document) {
				d.Answers["uses"] = "none,orders"
			},
		},
		{
			`/answers/operator: the answer holds a character that cannot be shown; write it anew, in one line`,
			func(d *document.Document) {
				d.Answers["operator"] = "a\nb"
			},
		},
		{
			`/answers/operator: the answer is longer than 500 characters; shorten it, or write the section by hand`,
			func(d *document.Document) {
				d.Answers["operator"] = strings.Repeat("é", 501)
			},
		},
		{
			`/answers/vatNumber: a document of kind "privacy" is not asked "vatNumber"; remove this answer`,
			func(d *document.Document) {
				d.Answers["vatNumber"] = "1"
			},
		},
		{
			`/own/gaps: a document of kind "privacy" has no section "gaps"`,
			func(d *document.Document) {
				d.Own = own("gaps", "en", "<p>x</p>")
			},
		},
		{
			`/own/who/e n: "e n" is not a language tag; use a BCP 47 tag such as en, de or pt-BR`,
			func(d *document.Document) {
				d.Own = own("who", "e n", "<p>x</p>")
			},
		},
		{
			`/version: there is a published text and no version; give its version, or remove what is published`,
			func(d *document.Document) {
				d.Material = 1
			},
		},
		{
			`/published: version 2 has no text, or no moment since when it is out; give published and since, or no version`,
			func(d *document.Document) {
				d.Version, d.Material = 2, 1
			},
		},
		{
			`/material: 3 is not the number of a version up to 2; give the number of the latest material version`,
			func(d *document.Document) {
				d.Version, d.Material, d.Since, d.Published = 2, 3, &since, map[string]document.Text{"en": {Title: "a", Text: "b"}}
			},
		},
		{
			`/published/en/text: holds <iframe>; use only p, br, strong, b, em, i, a, ul, ol, li, span, h2, h3, table, thead, ` +
				`tbody`,
			func(d *document.Document) {
				d.Version, d.Material, d.Since = 1, 1, &since
				d.Published = map[string]document.Text{"en": {Title: "a", Text: "<iframe>"}}
			},
		},
	} {
		d, _ := full()
		c.change(&d)
		require.NotEmpty(t, d.Check(), c.want)
		assert.Contains(t, d.Check().Error(), c.want)
	}
	d, _ := full()
	assert.ErrorContains(
		t,
		document.Check([]document.Document{d, d}),
		`/1/id: a second document has the id "privacy"; the first is /documents/0`,
	)
}

// Texts as they are taken away; links by name lead where they are told.
func TestTakenAway(t *testing.T) {
	text := document.Text{
		Title: "A & B",
		Text: `<h2>Who</h2><p>We, at <a href="document:terms">the quay</a>.</p><ul><li>one</li><li>two</li></ul><table>` +
			`<thead><tr><th>Name</th><th>For</th></tr></thead><tbody><tr><td>_vs</td><td>counting</td></tr></tbody></table>`,
	}
	as := func(form string) string {
		file, err := text.As(form, "en")
		require.NoError(t, err)
		return file.Text
	}
	assert.Equal(
		t,
		"A & B\n\nWho\n\nWe, at the quay.\n\n- one\n\n- two\n\nName | For\n\n_vs | counting\n",
		as("text"),
	)
	md := as("markdown")
	for _, want := range []string{"# A & B", "## Who", "- one", "| Name | For      |"} {
		assert.Contains(t, md, want)
	}
	assert.Contains(t, as("html"), "<h1>A &amp; B</h1>")
	_, err := text.As("pdf", "en")
	assert.ErrorIs(t, err, document.ErrForm)
	linked := document.Linked(
		text.Text,
		func(id string) string { return map[string]string{"terms": "/t/s/terms/en"}[id] },
	)
	assert.Contains(t, linked, `<a href="/t/s/terms/en">the quay</a>`)
	assert.Contains(t, document.Linked(text.Text, func(string) string { return "" }), "<a>the quay</a>")
	other := text
	other.Text = strings.Replace(other.Text, "at <a", "down at <a", 1)
	assert.Equal(
		t,
		[]document.Piece{{Op: "same", Text: "A & B\n\nWho\n\nWe, "}, {Op: "in", Text: "down "}},
		document.Compare(text, other)[:2],
	)
	assert.Equal(t, document.Piece{Op: "out", Text: "down "}, document.Compare(other, text)[1])
	// However long and alike two texts are, it is said, and nothing is lost: what is in and what is the
	// same is the new text, what is out and the same the old.
	r := rand.New(rand.NewPCG(7, 7))
	paragraph := func(words, of int) string {
		var b strings.Builder
		for range words {
			fmt.Fprintf(&b, "w%d ", r.IntN(of))
		}
		return "<p>" + b.String() + "</p>"
	}
	for _, pair := range [][2]string{
		{"<p>" + strings.Repeat("a ", 25_000) + "</p>", "<p>" + strings.Repeat("a ", 24_000) + "</p>" +
			strings.Repeat("<p>a</p>", 5_000)},
		{paragraph(40_000, 50), paragraph(40_000, 50)},
		{strings.Repeat(paragraph(2, 3), 8_000), strings.Repeat(paragraph(3, 3), 8_000)},
	} {
		before, now := document.Text{Title: "A", Text: pair[0]}, document.Text{Title: "A", Text: pair[1]}
		said := map[string]string{}
		for _, p := range document.Compare(before, now) {
			said["now"] += map[string]string{"same": p.Text, "in": p.Text}[p.Op] + " "
			said["before"] += map[string]string{"same": p.Text, "out": p.Text}[p.Op] + " "
		}
		words := func(t document.Text) []string { return append([]string{"A"}, strings.Fields(markup.Text(t.Text))...) }
		assert.True(t, slices.Equal(words(before), strings.Fields(said["before"])))
		assert.True(t, slices.Equal(words(now), strings.Fields(said["now"])))
	}
}

// What a person leaves: empty answers and texts go, questions that are not asked any
// more have no answer, and a section is marked with what it stands beside once it is
// changed or read again (rule T1).
func TestWritten(t *testing.T) {
	d := document.Document{ID: "terms", Kind: document.Terms}
	site := document.Site{Key: "s", Name: "S", Language: "en", Documents: []document.Document{d}}
	write := func(answers map[string]string, own string, read ...document.SectionRef) {
		t.Helper()
		var faults fault.Faults
		d, faults = d.Written(site, document.Writing{
			Answers: answers, Read: read, Titles: map[string]string{"en": " "},
			Own: map[string]map[string]string{"provider": {"en": own, "de": "<p><script>x</script></p>"}},
		})
		require.Empty(t, faults)
		site.Documents = []document.Document{d}
	}
	write(map[string]string{
		"operator":      " S ",
		"law":           "",
		"register":      "no",
		"registerEntry": "4711",
	}, "<p onclick=x>We.</p>")
	assert.Equal(t, map[string]string{"operator": "S", "register": "no"}, d.Answers)
	assert.Nil(t, d.Titles)
	assert.Equal(t, map[string]map[string]string{"provider": {"en": "<p>We.</p>"}}, d.Own)
	first := d.Of["provider"]["en"]
	assert.NotEmpty(t, first)

	// The text beside it changes: it has to be read again, until it is.
	from := func() document.From { s, _ := d.Sections(site, "en"); return s[0].From }
	assert.Equal(t, document.ByHand, from())
	write(map[string]string{"operator": "Another"}, "<p>We.</p>")
	assert.Equal(t, first, d.Of["provider"]["en"])
	assert.Equal(t, document.Again, from())
	write(map[string]string{"operator": "Another"}, "<p>We.</p>", document.SectionRef{Section: "provider", Language: "en"})
	assert.Equal(t, document.ByHand, from())
	write(map[string]string{"operator": "A third"}, "<p>We all.</p>")
	assert.Equal(t, document.ByHand, from())
	write(nil, "")
	assert.Equal(t, []any{0, 0, 0}, []any{len(d.Answers), len(d.Own), len(d.Of)})

	// Nothing is half taken.
	_, faults := d.Written(site, document.Writing{Answers: map[string]string{"topic": "age"}})
	assert.ErrorContains(t, faults, `is not asked "topic"`)

	// A translation stands beside what the translator had.
	d, faults = d.Translated("provider", "fr", "<p>Nous.<script>x</script></p>", "<p>We.</p>")
	require.Empty(t, faults)
	assert.Equal(t, "<p>Nous.</p>", d.Own["provider"]["fr"])
	again, _ := d.Translated("provider", "fr", "<p>Nous.</p>", "<p>We.</p>")
	assert.Equal(t, d, again)
	_, faults = d.Translated("nowhere", "fr", "<p>Nous.</p>", "<p>We.</p>")
	assert.ErrorContains(t, faults, `no section "nowhere"`)
}
