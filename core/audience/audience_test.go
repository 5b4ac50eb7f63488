package audience_test

import (
	"encoding/json"
	"os"
	"slices"
	"strings"
	"testing"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/fault"
)

func parse(t testing.TB, s string) audience.Node {
	t.Helper()
	var n audience.Node
	require.NoError(t, json.Unmarshal([]byte(s), &n))
	return n
}

func compile(t testing.TB, n audience.Node) audience.Audience {
	t.Helper()
	a, faults := audience.Compile(n, names)
	require.Empty(t, faults)
	return a
}

var names = func() audience.Names {
	n, faults := audience.NewNames([]audience.SavedAudience{
		{Name: "regulars", Audience: audience.Node{Group: audience.All, Parts: []audience.Node{
			{Fact: "visits.number", Is: audience.Gte, Value: 5.0},
			{Fact: "device.kind", Is: audience.Eq, Value: "phone", Off: true}}}},
		{Name: "nobody yet", Audience: audience.Node{Group: audience.Any}},
	})
	if faults != nil {
		panic(faults)
	}
	return n
}()

type facts map[string]any

// read gives a frame the facts of a map; of what every visit has and the map has not, the least.
func read(t testing.TB, f facts) func(audience.Key, audience.Fact) audience.Value {
	return func(k audience.Key, fact audience.Fact) audience.Value {
		given, ok := f[k.Name]
		if _, err := fact.Read(nil); !ok && err != nil {
			given = map[audience.Kind]any{
				audience.Number: fact.Min, audience.Text: "/", audience.Time: "2026-12-04T12:00",
			}[fact.Kind]
		}
		v, err := fact.Read(given)
		require.NoError(t, err)
		return v
	}
}

// decide answers an audience for facts, by its tree and, where it has one, by
// its program, which must agree.
func decide(t testing.TB, a audience.Audience, f facts) (audience.Truth, *audience.Node) {
	table := audience.NewTable()
	p, ok := table.Add(a)
	frame := table.NewFrame(read(t, f))
	answer, rest := a.Decide(frame)
	if ok {
		require.Equal(t, answer == audience.True, frame.Run(p))
	}
	require.Equal(t, answer == audience.NotYet, rest != nil)
	return answer, rest
}

// Each row: a leaf, the facts for which it is true, and those for which it is
// false. Rules A3 and A4.
func TestLeaves(t *testing.T) {
	for _, c := range []struct {
		leaf    string
		yes, no []facts
	}{
		{
			`{"fact":"utm.source","is":"eq","value":"Poster"}`, []facts{{"utm.source": "poster"}, {"utm.source": "POSTER"}},
			[]facts{{}, {"utm.source": "posters"}},
		},
		{
			`{"fact":"utm.source","is":"ne","value":"poster"}`, []facts{{}, {"utm.source": "flyer"}},
			[]facts{{"utm.source": "Poster"}},
		},
		{
			`{"fact":"place.country","is":"in","value":["DE","at"]}`, []facts{{"place.country": "de"}, {"place.country": "AT"}},
			[]facts{{}, {"place.country": "CH"}},
		},
		{
			`{"fact":"place.country","is":"not-in","value":["DE"]}`, []facts{{}, {"place.country": "CH"}},
			[]facts{{"place.country": "DE"}},
		},
		{
			`{"fact":"page.title","is":"contains","value":"fähre"}`,
			[]facts{{"page.title": "Die FÄHRE legt ab"}, {"page.title": "fa\u0308hre"}}, []facts{{}, {"page.title": "fahre"}},
		},
		{
			`{"fact":"page.title","is":"eq","value":"STRASSE"}`, []facts{{"page.title": "Straße"}},
			[]facts{{"page.title": "Strase"}},
		},
		{
			`{"fact":"page.path","is":"starts","value":"/ports"}`, []facts{{"page.path": "/portside"}},
			[]facts{{}, {"page.path": "/de/ports"}},
		},
		{
			`{"fact":"page.path","is":"ends","value":"/book"}`, []facts{{"page.path": "/de/book"}},
			[]facts{{}, {"page.path": "/book/x"}},
		},
		{
			`{"fact":"page.path","is":"like","value":"/*/ports/*a"}`,
			[]facts{{"page.path": "/de/ports/a"}, {"page.path": "/x/y/ports/fennay/a"}},
			[]facts{{}, {"page.path": "/ports/a"}, {"page.path": "/de/ports/b"}},
		},
		{`{"fact":"page.path","is":"like","value":"a*a"}`, []facts{{"page.path": "aa"}}, []facts{{"page.path": "a"}}},
		{`{"fact":"utm.term","is":"set"}`, []facts{{"utm.term": ""}, {"utm.term": "x"}}, []facts{{}}},
		{`{"fact":"utm.term","is":"unset"}`, []facts{{}}, []facts{{"utm.term": ""}}},
		{
			`{"fact":"visits.number","is":"gte","value":2}`, []facts{{"visits.number": 2.0}, {"visits.number": 9.0}},
			[]facts{{}, {"visits.number": 1.0}},
		},
		{
			`{"fact":"visits.number","is":"lte","value":2}`, []facts{{"visits.number": 2.0}},
			[]facts{{}, {"visits.number": 3.0}},
		},
		{
			`{"fact":"visits.number","is":"gt","value":2}`, []facts{{"visits.number": 3.0}}, []facts{{}, {"visits.number": 2.0}},
		},
		{
			`{"fact":"visits.number","is":"lt","value":2}`, []facts{{"visits.number": 1.0}}, []facts{{}, {"visits.number": 2.0}},
		},
		{
			`{"fact":"visits.number","is":"eq","value":2}`, []facts{{"visits.number": 2.0}}, []facts{{}, {"visits.number": 1.0}},
		},
		{
			`{"fact":"visits.number","is":"ne","value":2}`, []facts{{}, {"visits.number": 1.0}}, []facts{{"visits.number": 2.0}},
		},
		{
			`{"fact":"clock.hour","is":"between","value":[9,17]}`, []facts{{"clock.hour": 9.0}, {"clock.hour": 17.0}},
			[]facts{{}, {"clock.hour": 8.0}, {"clock.hour": 18.0}},
		},
		{
			`{"fact":"page.tags","is":"has","value":"Winter"}`, []facts{{"page.tags": []any{"x", "winter"}}},
			[]facts{{}, {"page.tags": []any{}}, {"page.tags": []any{"wintertime"}}},
		},
		{
			`{"fact":"page.tags","is":"has-any","value":["a","b"]}`, []facts{{"page.tags": []any{"b"}}},
			[]facts{{}, {"page.tags": []any{"c"}}},
		},
		{
			`{"fact":"page.tags","is":"has-none","value":["a","b"]}`, []facts{{"page.tags": []any{"c"}}, {"page.tags": []any{}}},
			[]facts{{}, {"page.tags": []any{"a", "c"}}},
		},
		{
			`{"fact":"clock.date","is":"before","value":"2026-12-01T09:00"}`, []facts{{"clock.date": "2026-12-01T08:59:59"}},
			[]facts{{"clock.date": "2026-12-01T09:00"}},
		},
		{
			`{"fact":"clock.date","is":"after","value":"2026-12-01"}`, []facts{{"clock.date": "2026-12-02T00:00"}},
			[]facts{{"clock.date": "2026-12-01T23:59:59"}},
		},
		{
			`{"fact":"clock.date","is":"between","value":["2026-12-01","2026-12-02"]}`,
			[]facts{{"clock.date": "2026-12-01T00:00"}, {"clock.date": "2026-12-02T23:59"}},
			[]facts{{"clock.date": "2026-12-03T00:00"}},
		},
		{
			`{"fact":"person.signedIn","is":"eq","value":true}`,
			[]facts{{"person.signedIn": true}, {"person.signedIn": "true"}, {"person.signedIn": 1.0}},
			[]facts{{}, {"person.signedIn": false}, {"person.signedIn": 0.0}, {"person.signedIn": 2.0}},
		},
		// True and 1, false and 0 are alike, whichever the site tells and whichever is asked.
		{
			`{"fact":"person.signedIn","is":"eq","value":1}`, []facts{{"person.signedIn": true}, {"person.signedIn": 1.0}},
			[]facts{{}, {"person.signedIn": false}, {"person.signedIn": "true"}},
		},
		{
			`{"fact":"person.signedIn","is":"ne","value":false}`,
			[]facts{{}, {"person.signedIn": true}, {"person.signedIn": 1.0}},
			[]facts{{"person.signedIn": false}, {"person.signedIn": 0.0}, {"person.signedIn": "false"}},
		},
		{
			`{"fact":"person.signedIn","is":"in","value":[true,"gold"]}`,
			[]facts{{"person.signedIn": true}, {"person.signedIn": 1.0}, {"person.signedIn": "gold"}},
			[]facts{{}, {"person.signedIn": 0.0}},
		},
		{
			`{"fact":"person.miles","is":"gte","value":100}`, []facts{{"person.miles": 100.0}},
			[]facts{{}, {"person.miles": "100"}},
		},
		{
			`{"fact":"person.tier","is":"ne","value":"gold"}`, []facts{{}, {"person.tier": 3.0}, {"person.tier": "silver"}},
			[]facts{{"person.tier": "Gold"}},
		},
		{
			`{"fact":"event.booking.count","is":"gte","value":1,"within":"P7D"}`, []facts{{"event.booking.count": 1.0}},
			[]facts{{}},
		},
		{`{"fact":"page.query.from","is":"eq","value":"a"}`, []facts{{"page.query.from": "a"}}, []facts{{}}},
		{`{"fact":"view.leaving","is":"eq","value":true}`, []facts{{"view.leaving": true}}, []facts{{"view.leaving": false}}},
		// RFC 4647 §3.4, lookup: zh-Hant-CN-x-private1-private2 is cut short to
		// zh-Hant-CN-x-private1, zh-Hant-CN, zh-Hant, zh.
		{
			`{"fact":"locale.languages","is":"in","value":["zh-Hant"]}`,
			[]facts{
				{"locale.languages": []any{"zh-Hant-CN-x-private1-private2"}}, {"locale.languages": []any{"fr", "zh-Hant-CN"}},
			},
			[]facts{{}, {"locale.languages": []any{"zh"}}, {"locale.languages": []any{"zh-Hans"}}},
		},
		{
			`{"fact":"locale.languages","is":"in","value":["zh-Hant-CN-x-private1","zh-Hant-CN-x"]}`,
			[]facts{{"locale.languages": []any{"zh-Hant-CN-x-private1-private2"}}},
			[]facts{{"locale.languages": []any{"zh-Hant-CN"}}},
		},
	} {
		a := compile(t, parse(t, c.leaf))
		for _, f := range c.yes {
			answer, _ := decide(t, a, f)
			assert.Equal(t, audience.True, answer, "%s for %v", c.leaf, f)
		}
		for _, f := range c.no {
			answer, _ := decide(t, a, f)
			assert.Equal(t, audience.False, answer, "%s for %v", c.leaf, f)
		}
	}
}

// The whole truth tables of all, any and none over two parts. Source: Kleene's
// strong three-valued logic, false < not yet < true (rule A1).
func TestTruthTables(t *testing.T) {
	value := map[audience.Truth]string{
		audience.False:  `{"fact":"visits.number","is":"gte","value":5}`,
		audience.True:   `{"fact":"visits.number","is":"gte","value":1}`,
		audience.NotYet: `{"fact":"view.scroll","is":"gte","value":30}`,
	}
	for x, sx := range value {
		for y, sy := range value {
			for group, want := range map[string]audience.Truth{
				"all":  min(x, y),
				"any":  max(x, y),
				"none": audience.True - max(x, y),
			} {
				answer, _ := decide(
					t,
					compile(t, parse(t, `{"`+group+`":[`+sx+`,`+sy+`]}`)),
					facts{"visits.number": 3.0},
				)
				assert.Equal(t, want, answer, "%s of %s and %s", group, x, y)
			}
		}
	}
}

// Rule A5: the remainder, in its smallest form. Rule A2 beside it.
func TestRemainders(t *testing.T) {
	const scroll, wait, again, once = `{"fact":"view.scroll","is":"gte","value":30}`, `{"fact":"view.seconds",` +
		`"is":"gte","value":5}`, `{"fact":"visits.number","is":"gte","value":2}`, `{"fact":"visits.number","is":"lt",` +
		`"value":2}`
	for _, c := range []struct{ in, answer, rest string }{
		{scroll, "not yet", scroll},
		{`{"all":[` + again + `,` + scroll + `]}`, "not yet", scroll},
		{`{"all":[` + once + `,` + scroll + `]}`, "false", ""},
		{`{"any":[` + again + `,` + scroll + `]}`, "true", ""},
		{`{"any":[` + once + `,` + scroll + `]}`, "not yet", scroll},
		{`{"none":[` + again + `,` + scroll + `]}`, "false", ""},
		{`{"none":[` + once + `,` + scroll + `]}`, "not yet", `{"none":[` + scroll + `]}`},
		{`{"none":[{"none":[` + scroll + `]}]}`, "not yet", scroll},
		{
			`{"all":[` + scroll + `,` + again + `,{"any":[` + wait + `,` + once + `]}]}`, "not yet",
			`{"all":[` + scroll + `,` + wait + `]}`,
		},
		{`{"all":[` + strings.Replace(scroll, `30}`, `30,"off":true}`, 1) + `,` + again + `]}`, "true", ""},
		{`{"all":[` + strings.Replace(once, `2}`, `2,"off":true}`, 1) + `]}`, "true", ""},
		{`{"any":[{"all":[]},` + scroll + `]}`, "not yet", scroll},
		{`{"all":[],"off":true}`, "true", ""},
		{`{"none":[{"any":[],"off":true}]}`, "true", ""},
		{`{"saved":"regulars"}`, "false", ""},
		{`{"all":[{"saved":"nobody yet"},` + scroll + `]}`, "not yet", scroll},
	} {
		answer, rest := decide(t, compile(t, parse(t, c.in)), facts{"visits.number": 3.0})
		assert.Equal(t, c.answer, answer.String(), c.in)
		if c.rest == "" {
			assert.Nil(t, rest, c.in)
			continue
		}
		got, err := json.Marshal(rest)
		require.NoError(t, err)
		assert.JSONEq(t, c.rest, string(got), c.in)
	}
}

// The cases of testdata/remainders.json, which the site script is put to as
// well, in the browser (e2e).
func TestRemainderCases(t *testing.T) {
	raw, err := os.ReadFile("testdata/remainders.json")
	require.NoError(t, err)
	var rows []struct {
		Remainder audience.Node
		Cases     []struct {
			Known facts
			Holds bool
		}
	}
	require.NoError(t, json.Unmarshal(raw, &rows))
	require.Greater(t, len(rows), 10)
	for _, row := range rows {
		a := compile(t, row.Remainder)
		for _, c := range row.Cases {
			answer, _ := decide(t, a, c.Known)
			assert.Equal(t, c.Holds, answer == audience.True, "%v for %v", row.Remainder, c.Known)
		}
	}
}

func TestNodesRoundTrip(t *testing.T) {
	for _, s := range []string{
		`{"all":[]}`, `{"none":[{"saved":"regulars","off":true}],"off":true}`,
		`{"any":[{"fact":"clock.hour","is":"between","value":[9,17],"clock":"site"},{"fact":"utm.term","is":"unset"}]}`,
	} {
		out, err := json.Marshal(parse(t, s))
		require.NoError(t, err)
		assert.JSONEq(t, s, string(out))
	}
	for _, bad := range []string{`{"some":[]}`, `[]`, `{"all":{}}`, `{"fact":3}`} {
		var n audience.Node
		assert.Error(t, json.Unmarshal([]byte(bad), &n), bad)
	}
}

// The bounds of an audience, and what lies on either side of each.
func TestBoundsOfAudiences(t *testing.T) {
	leaf := audience.Node{Fact: "utm.term", Is: audience.IsSet}
	node := audience.Node{Group: audience.Any, Parts: slices.Repeat([]audience.Node{leaf}, 1000)}
	_, faults := audience.Compile(node, audience.Names{})
	assert.Empty(t, faults)
	node.Parts = append(node.Parts, leaf)
	_, faults = audience.Compile(node, audience.Names{})
	assert.Contains(t, faults.Error(), "1001 conditions")
	node = leaf
	for range 19 { // and the condition itself
		node = audience.Node{Group: audience.All, Parts: []audience.Node{node}}
	}
	_, faults = audience.Compile(node, audience.Names{})
	assert.Empty(t, faults)
	_, faults = audience.Compile(audience.Node{Group: audience.All, Parts: []audience.Node{node}}, audience.Names{})
	assert.NotEmpty(t, faults)
	_, ok := audience.Lookup("person." + strings.Repeat("a", 100))
	assert.True(t, ok)
	_, ok = audience.Lookup("person." + strings.Repeat("a", 101))
	assert.False(t, ok)
}

func TestRefusedAudiences(t *testing.T) {
	deep := strings.Repeat(`{"all":[`, 30) + `{"fact":"utm.term","is":"set"}` + strings.Repeat(`]}`, 30)
	var many audience.Node
	many.Group = audience.Any
	for range 50_000 {
		many.Parts = append(many.Parts, audience.Node{Fact: "utm.term", Is: audience.IsSet})
	}
	for _, c := range []struct {
		name, in      string
		node          *audience.Node
		pointer, what string
	}{
		{
			name:    "an unknown fact",
			in:      `{"all":[{"fact":"visits.numbre","is":"gte","value":2}]}`,
			pointer: "/all/0/fact",
			what:    `unknown fact "visits.numbre"`,
		},
		{
			name:    "a fact's form instead of a name",
			in:      `{"fact":"event..count","is":"gte","value":2}`,
			pointer: "/fact",
			what:    "unknown fact",
		},
		{
			name:    "a test that does not go with the fact",
			in:      `{"any":[{"fact":"visits.number","is":"contains","value":2}]}`,
			pointer: "/any/0/is",
			what:    "a number, cannot be tested",
		},
		{
			name:    "text for a number",
			in:      `{"fact":"visits.number","is":"gte","value":"two"}`,
			pointer: "/value",
			what:    `"two" is no value`,
		},
		{
			name:    "a number for text",
			in:      `{"fact":"utm.source","is":"eq","value":3}`,
			pointer: "/value",
			what:    "3 is no value",
		},
		{name: "no value", in: `{"fact":"utm.source","is":"eq"}`, pointer: "/value", what: "takes one value"},
		{
			name:    "a value too many",
			in:      `{"fact":"utm.source","is":"set","value":"x"}`,
			pointer: "/value",
			what:    "takes no value",
		},
		{
			name:    "one for a list",
			in:      `{"fact":"place.country","is":"in","value":"DE"}`,
			pointer: "/value",
			what:    "takes a list",
		},
		{name: "an empty list", in: `{"fact":"place.country","is":"in","value":[]}`, pointer: "/value", what: "takes a list"},
		{
			name:    "a list of the wrong kind",
			in:      `{"fact":"place.country","is":"in","value":["DE",3]}`,
			pointer: "/value/1",
			what:    "3 is no value",
		},
		{
			name:    "three ends",
			in:      `{"fact":"clock.hour","is":"between","value":[1,2,3]}`,
			pointer: "/value",
			what:    "a list of two",
		},
		{
			name:    "ends the wrong way round",
			in:      `{"fact":"clock.hour","is":"between","value":[17,9]}`,
			pointer: "/value",
			what:    "17 comes after 9",
		},
		{
			name:    "no date",
			in:      `{"fact":"clock.date","is":"after","value":"tomorrow"}`,
			pointer: "/value",
			what:    `"tomorrow" is no value`,
		},
		{
			name:    "a clock where there is none",
			in:      `{"fact":"visits.number","is":"gte","value":2,"clock":"site"}`,
			pointer: "/clock",
			what:    "has no clock",
		},
		{
			name:    "an unknown zone",
			in:      `{"fact":"clock.hour","is":"gte","value":2,"clock":"Europe/Atlantis"}`,
			pointer: "/clock",
			what:    "unknown time zone",
		},
		{
			name:    "a look back where there is none",
			in:      `{"fact":"visits.number","is":"gte","value":2,"within":"P1D"}`,
			pointer: "/within",
			what:    "does not look back",
		},
		{
			name:    "since an event, of what is not counted",
			in:      `{"fact":"visits.number","is":"gte","value":2,"since":"order"}`,
			pointer: "/since",
			what:    "is not counted",
		},
		{
			name:    "since what can be no event",
			in:      `{"fact":"event.booking.count","is":"gte","value":2,"since":"constructor"}`,
			pointer: "/since",
			what:    "no name of an event",
		},
		{
			name:    "a look back that is no duration",
			in:      `{"fact":"event.booking.count","is":"gte","value":2,"within":"a week"}`,
			pointer: "/within",
			what:    "not an ISO 8601 duration",
		},
		{name: "nothing", in: `{"any":[{"off":true}]}`, pointer: "/any/0", what: "this has 0 of them"},
		{name: "two groups", in: `{"all":[],"any":[]}`, pointer: "", what: "this has 2 of them"},
		{
			name:    "a group and a leaf",
			in:      `{"all":[{"all":[],"fact":"utm.term","is":"set"}]}`,
			pointer: "/all/0",
			what:    "this has 2 of them",
		},
		{
			name:    "an unknown audience",
			in:      `{"none":[{"saved":"irregulars"}]}`,
			pointer: "/none/0/saved",
			what:    `no audience "irregulars"`,
		},
		{
			name:    "what is wrong in a set-aside part",
			in:      `{"all":[{"off":true,"any":[{"fact":"x","is":"set"}]}]}`,
			pointer: "/all/0/any/0/fact",
			what:    "unknown fact",
		},
		{name: "nested too deep", in: deep, pointer: strings.Repeat("/all/0", 20), what: "more than 20 deep"},
		{name: "50,000 conditions", node: &many, pointer: "", what: "50000 conditions"},
	} {
		t.Run(c.name, func(t *testing.T) {
			n := c.node
			if n == nil {
				parsed := parse(t, c.in)
				n = &parsed
			}
			_, faults := audience.Compile(*n, names)
			require.Len(t, faults, 1)
			assert.Equal(t, c.pointer, faults[0].Pointer)
			assert.Contains(t, faults[0].What, c.what)
			assert.NotEmpty(t, faults[0].Remedy)
			assert.Less(t, len(faults[0].Error()), 400)
		})
	}
	_, faults := audience.NewNames([]audience.SavedAudience{
		{Name: "a", Audience: audience.Node{Saved: "a"}},
		{
			Name:     "a",
			Audience: audience.Node{Group: audience.All, Parts: []audience.Node{{Fact: "x", Is: audience.IsSet}}},
		},
	})
	require.Len(t, faults, 3)
	assert.Equal(t, []string{
		"/0/audience/saved", "/1/name", "/1/audience/all/0/fact",
	}, []string{faults[0].Pointer, faults[1].Pointer, faults[2].Pointer})
	assert.Contains(t, faults[0].What, "uses another")
	var none fault.Faults
	assert.NoError(t, none.Err())
}

// Facts of a visit that are not what they should be are refused with the
// reason; each beside one that is right.
func TestRefusedFacts(t *testing.T) {
	for _, c := range []struct {
		name      string
		good, bad any
		what      string
	}{
		{"visits.number", 3.0, 2.5, "a whole number from 0 on"},
		{"visits.number", nil, -1.0, "a whole number from 0 on"},
		{"event.order.count", 0.0, nil, "is known of every visit"},
		{"page.path", "/", nil, "leave it out, or give its value"},
		{"view.scroll", 99.5, 101.0, "a number from 0 to 100"},
		{"clock.weekday", 1.0, 0.0, "from 1 to 7"},
		{"device.kind", "Phone", "watch", "one of phone, tablet, desktop"},
		{"utm.source", "poster", 3.0, "text"},
		{"page.tags", []any{"a"}, "a", "a list of text"},
		{"page.tags", []any{}, []any{"a", 1.0}, "a list of text"},
		{"clock.date", "2026-12-01", "soon", "a local date and time"},
		{"person.tier", "gold", []any{"gold"}, "text or a number"},
		{"person.signedIn", true, map[string]any{}, "text or a number"},
	} {
		f, ok := audience.Lookup(c.name)
		require.True(t, ok, c.name)
		_, err := f.Read(c.good)
		assert.NoError(t, err, c.name)
		_, err = f.Read(c.bad)
		assert.ErrorContains(t, err, c.what, c.name)
	}
	for _, name := range []string{
		"", "page", "page.query.", "page.query.NAME.x", "event.count", "notice..shown", "view.blink", "person.",
	} {
		if _, ok := audience.Lookup(name); ok {
			assert.Equal(t, "page.query.NAME.x", name, "any name may be a query parameter's")
		}
	}
}

func TestWords(t *testing.T) {
	for _, c := range []struct{ in, phrase string }{
		{`{"all":[]}`, "everyone"},
		{`{"saved":"regulars"}`, "visitors in “regulars”"},
		{
			`{"all":[{"saved":"regulars"},{"fact":"device.kind","is":"eq","value":"phone"}]}`,
			"visitors who are in “regulars” and who use a phone",
		},
		{
			`{"all":[{"fact":"referrer.class","is":"eq","value":"search"},{"fact":"device.kind","is":"in","value":["phone",` +
				`"tablet"]}]}`,
			"visitors who come from a search and who use a phone or a tablet",
		},
		{
			`{"any":[{"fact":"visits.number","is":"gte","value":2},{"all":[{"fact":"view.scroll","is":"gte","value":30},` +
				`{"fact":"view.seconds","is":"gte","value":5}]}]}`,
			"visitors who have been here before or (who have read 30 % of the page and who have been on the page for 5 seconds)",
		},
		{
			`{"all":[{"fact":"place.country","is":"in","value":["DE","AT","CH","LI","LU"]},{"none":[{"fact":"view.leaving",` +
				`"is":"eq","value":1}]}]}`,
			"visitors who are in Germany, Austria, Switzerland or 2 more, except those who are about to leave",
		},
		{`{"none":[{"fact":"person.signedIn","is":"eq","value":true}]}`, "everyone except those who are signed in"},
		{
			`{"fact":"event.booking.route","is":"eq","value":"Fennay"}`,
			"visitors for whom the “route” of the last “booking” is Fennay",
		},
		{
			`{"fact":"clock.hour","is":"between","value":[9,17],"clock":"site"}`,
			"visitors for whom the hour of the day by the site’s clock is from 9 to 17",
		},
		{
			`{"fact":"event.booking.count","is":"gte","value":1,"within":"P7D"}`,
			"visitors for whom “booking” has happened at least once in the last 7 days",
		},
		{
			`{"fact":"event.basket.count","is":"gte","value":1,"within":"P7D","since":"order"}`,
			"visitors for whom “basket” has happened at least once in the last 7 days since the last “order”",
		},
		{`{"fact":"event.booking.count","is":"eq","value":0}`, "visitors for whom “booking” has not happened"},
		{`{"fact":"visits.daysSinceFirst","is":"lt","value":30}`, "visitors whose first visit was less than 30 days ago"},
		{`{"fact":"visits.pages","is":"between","value":[2,4]}`, "visitors who have seen 2 to 4 pages on this visit"},
		{`{"fact":"visits.pages","is":"lt","value":1}`, "visitors who have seen fewer than 1 page on this visit"},
		{`{"fact":"notice.storm.closed","is":"gt","value":0}`, "visitors who have closed the notice “storm” at least once"},
		{`{"fact":"notice.storm.shown","is":"lt","value":1}`, "visitors who have not seen the notice “storm”"},
		{`{"fact":"device.width","is":"lte","value":600}`, "visitors whose window is at most 600 pixels wide"},
		{`{"fact":"locale.languages","is":"in","value":["de","pt-BR"]}`, "visitors who read German or Brazilian Portuguese"},
		{`{"fact":"place.country","is":"ne","value":"GB"}`, "visitors who are not in the United Kingdom"},
		{`{"none":[{"none":[{"saved":"regulars"}]}]}`, "visitors who meet one condition"},
		{`{"fact":"page.tags","is":"has-none","value":["a","b"]}`, "visitors who are on pages not tagged “a” or “b”"},
		{`{"fact":"page.path","is":"like","value":"/a*"}`, "visitors for whom the page’s path matches “/a*”"},
		{`{"fact":"person.signedIn","is":"ne","value":true}`, "visitors who are not signed in"},
		{`{"none":[{"saved":"regulars"}]}`, "everyone except those who are in “regulars”"},
		{
			`{"all":[{"none":[{"saved":"regulars"}]},{"none":[{"fact":"device.kind","is":"eq","value":"phone"}]}]}`,
			"everyone except those who are in “regulars” and those who use a phone",
		},
		{
			`{"any":[{"fact":"device.kind","is":"eq","value":"phone"},{"none":[{"saved":"regulars"}]}]}`,
			"visitors who use a phone or anyone except those who are in “regulars”",
		},
		{
			`{"any":[{"fact":"utm.term","is":"set"},{"fact":"utm.term","is":"eq","value":"a"},{"fact":"utm.term","is":"eq",` +
				`"value":"b"},{"fact":"utm.term","is":"eq","value":"c"},{"fact":"utm.term","is":"eq","value":"d"}]}`,
			"visitors who meet 5 conditions",
		},
	} {
		assert.Equal(t, c.phrase, compile(t, parse(t, c.in)).Phrase())
	}
	for _, c := range []struct {
		in    string
		facts facts
		want  []audience.Verdict
	}{
		{
			`{"all":[{"fact":"view.scroll","is":"gte","value":30},{"fact":"visits.number","is":"gte","value":2}]}`,
			facts{"view.scroll": 12.0, "visits.number": 1.0}, []audience.Verdict{
				{"", 0, "all", "false", "All of these need to hold."},
				{"/all/0", 1, "", "false", "This visitor has read 12 % of the page; it waits for 30 %."},
				{"/all/1", 1, "", "false", "The visit number is 1; it needs to be at least 2."}},
		},
		{
			`{"none":[{"fact":"view.leaving","is":"gte","value":1},{"fact":"place.country","is":"eq","value":"DE"}]}`, facts{},
			[]audience.Verdict{
				{"", 0, "none", "not yet", "None of these may hold."},
				{"/none/0", 1, "", "not yet", "It waits until this visitor is about to leave."},
				{"/none/1", 1, "", "false", "The country is not known; it needs to be Germany."}},
		},
		{
			`{"any":[{"saved":"regulars"},{"fact":"referrer.class","is":"ne","value":"search"}]}`,
			facts{"visits.number": 5.0, "referrer.class": "mail"}, []audience.Verdict{
				{"", 0, "any", "true", "At least one of these needs to hold."},
				{"/any/0", 1, "all", "true", "The saved audience “regulars”: All of these need to hold."},
				{"/any/0", 2, "", "true", "The visit number is 5; it needs to be at least 5."},
				{"/any/1", 1, "", "true", "Where the visitor comes from is an e-mail; it needs to be anything but a search."}},
		},
	} {
		table := audience.NewTable()
		a := compile(t, parse(t, c.in))
		table.Add(a)
		frame := table.NewFrame(read(t, c.facts))
		assert.Equal(t, c.want, a.Explain(frame))
	}
	// Every fact and every test of it can be said.
	for _, f := range audience.Facts {
		for _, said := range []string{f.Means, f.Example, f.Limits} {
			assert.Regexp(t, `^[A-Z].+\.$`, said, "%s: what it means, a use, what it cannot know", f.Name)
		}
		name := strings.NewReplacer("NAME", "fare", "ID", "storm", "PROPERTY", "route").Replace(f.Name)
		for _, is := range f.Tests() {
			n := audience.Node{Fact: name, Is: is, Value: "2026-12-01"}
			switch is {
			case audience.IsSet, audience.IsUnset:
				n.Value = nil
			case audience.In, audience.NotIn, audience.HasAny, audience.HasNone:
				n.Value = []any{"a", "b"}
			case audience.Between:
				n.Value = []any{2.0, 3.0}
				if f.Kind == audience.Time {
					n.Value = []any{"2026-12-01", "2026-12-02"}
				}
			case audience.Gte, audience.Lte, audience.Gt, audience.Lt:
				n.Value = 2.0
			case audience.Eq, audience.Ne:
				if f.Kind == audience.Number {
					n.Value = 2.0
				}
			}
			a := compile(t, n)
			assert.True(
				t,
				strings.HasPrefix(a.Phrase(), "visitors who ") || strings.HasPrefix(a.Phrase(), "visitors whose ") ||
					strings.HasPrefix(a.Phrase(), "visitors for whom "),
				a.Phrase(),
			)
			table := audience.NewTable()
			table.Add(a)
			for _, line := range a.Explain(table.NewFrame(read(t, facts{}))) {
				assert.NotContains(t, line.Why, "%!", "%s %s", name, is)
				assert.True(t, strings.HasSuffix(line.Why, "."), line.Why)
			}
		}
	}
}

// FuzzNode: whatever is read as an audience is refused with a reason, or is
// answered, said, explained and proved about without a panic.
func FuzzNode(f *testing.F) {
	for _, s := range []string{
		`{"all":[{"fact":"visits.number","is":"gte","value":2},{"none":[{"fact":"view.clicked","is":"has-any",` +
			`"value":["#a"],"off":true}]}]}`,
		`{"any":[{"saved":"regulars"},{"fact":"page.path","is":"like","value":"/*a*"},{"fact":"clock.date","is":"between",` +
			`"value":["2026-12-01","2026-12-02T10:00"],"clock":"site"}]}`,
		`{"fact":"person.x","is":"ne","value":true}`, `{"fact":"event.e.count","is":"between","value":[1,2],"within":"P7D"}`,
		`{"fact":"locale.languages","is":"in","value":["de-AT"]}`,
	} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		var n audience.Node
		if json.Unmarshal([]byte(s), &n) != nil {
			return
		}
		a, faults := audience.Compile(n, names)
		if faults != nil {
			require.NotEmpty(t, faults[0].What)
			require.NotEmpty(t, faults[0].Remedy)
			return
		}
		out, err := json.Marshal(n)
		require.NoError(t, err)
		var again audience.Node
		require.NoError(t, json.Unmarshal(out, &again))
		require.NotEmpty(t, a.Phrase())
		answer, _ := decide(t, a, facts{"visits.number": 2.0, "page.path": "/a", "person.x": "y"})
		if answer == audience.True {
			require.True(t, a.Possible(nil, nil))
		}
		a.Always(nil)
		a.RedundantParts(nil)
		a.ConflictingParts(nil)
		table := audience.NewTable()
		table.Add(a)
		a.Explain(table.NewFrame(read(t, facts{})))
	})
}

// What the site script is asked to send so that a fact is known: read from what rules.md
// says of who knows what.
func TestWhatTheScriptSends(t *testing.T) {
	for name, sends := range map[string]string{
		"visits.number": "visits.number", "visits.seen": "visits.seen", "site.seconds": "site.seconds",
		"device.width": "device.width", "page.title": "page.title", "person.tier": "person.tier",
		"person.signedIn": "person.signedIn", "referrer.class": "referrer.url", "referrer.host": "referrer.url",
		"referrer.url": "referrer.url", "event.booking.count": "event.booking", "event.booking.daysSince": "event.booking",
		"event.booking.route": "event.booking.route event.booking", "event.booking.toString": "", "event.booking": "",
		"device.kind": "", "place.country": "", "page.query.ref": "", "view.scroll": "", "clock.hour": "", "utm.source": "",
		"notice.storm.closed": "", "consent.granted": "", "no.such": "",
	} {
		assert.Equal(t, sends, strings.Join(audience.Sent(name), " "), name)
	}
}
