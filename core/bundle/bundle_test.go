package bundle_test

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/schedule"
)

// minimal is a bundle with a notice that has every optional field missing.
const minimal = `{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"Europe/London",` +
	`"language":"en"},"notices":[{"id":"a","kind":"bar"}]}`

// full has every field there is.
const full = `{"format":"mastflag.bundle/2",
 "site":{"key":"sundrey","name":"Sundrey Isles Ferries","origins":["https://www.sundrey.example"],` +
	`"timeZone":"Europe/London","language":"en","languages":["en","de"],
  "homePaths":["/","/de"],"display":true,"capacity":{"top":2},
  "pageSets":[{"name":"ports","include":[{"match":"section","path":"/ports"}],"exclude":[{"match":"tag",` +
	`"value":"winter"}]}],
  "audiences":[{"name":"regulars","audience":{"all":[{"fact":"visits.number","is":"gte","value":5}]}}],` +
	`"palette":[{"name":"Deep water","value":"#123a56"}],"themes":[{"name":"Winter",` +
	`"look":{"background":"#123a56"}}],"words":{"es":{"words":{"accept":"Sí, a todo"},"unread":true}},` +
	`"fonts":["Georgia, serif"],
  "startingPoints":[{"name":"Closed","for":"days off","notice":{"id":"closed","kind":"bar"}}],` +
	`"wordings":[{"name":"Sorry","wordings":{"en":{"message":"We are sorry."}}}]},
 "pages":[{"path":"/ports/aldwick","title":"Aldwick","type":"port","language":"en","tags":["winter"]}],
 "notices":[{"id":"storm-closure","kind":"bar","title":"Storm closure","state":"published",` +
	`"publishedAt":"2026-11-20T10:00:00Z","level":"warning","rank":50,"slot":"top","position":"sticking",
  "schedule":{"clock":"site","windows":[{"from":"2026-12-01T09:00","until":"2026-12-05T18:00"},` +
	`{"from":"2026-12-11T12:00","until":"2026-12-11T18:00","rule":"FREQ=WEEKLY;BYDAY=FR","except":["2026-12-25T12:00"],` +
	`"also":["2026-12-24T12:00"]}]},
  "pages":{"include":[{"match":"all"}],"exclude":[{"match":"page","path":"/book"},{"match":"set","name":"ports"},` +
	`{"match":"query","name":"print","value":""}]},
  "audience":{"all":[{"fact":"visits.number","is":"gte","value":2},{"any":[{"fact":"view.scroll","is":"gte",` +
	`"value":30},{"saved":"regulars"}]},{"none":[{"fact":"clock.hour","is":"between","value":[0,5],"clock":"site",` +
	`"off":true}]}]},
  "memory":{"closable":true,"closed":"P1D","clicked":"P30D","converted":"ever","answered":"session",` +
	`"limits":[{"times":3,"per":"P7D"}],"closeWith":"both","foldable":true},
  "spot":{"selector":"main > h1","where":"before"},
  "look":{"background":"#123a56","text":"#ffffff","dark":{"background":"#0e161e","text":"#eeeeee"},"shape":"round",` +
	`"width":"wide","font":"\"Sea Sans\", serif","icon":"storm","motion":"fade","css":".bar { letter-spacing: .02em }",` +
	`"theme":"Winter","size":"18px","align":"end","headline":{"size":30,"weight":"bold","colour":"#ffffff"},` +
	`"buttons":{"background":"#f2d49b","text":"#16202e","shape":"square"},"border":{"width":2,"colour":"#ffffff"},` +
	`"iconColour":"#ffffff","count":{"figures":{"size":30},"labels":{"weight":"regular"},"afterEnd":{"size":20},` +
	`"frame":"#ffffff"}},
  "content":{"picture":{"file":"0123456789abcdef.png","width":320,"height":160,` +
	`"phone":{"file":"fedcba9876543210.webp","width":160,"height":160},"decorative":true,` +
	`"place":"behind","size":200,"veil":50,"focus":{"x":1,"y":2},"table":{"by":"event.order.product","rows":[` +
	`{"value":"Car","address":"/c.png"}]}},"detailsAs":"dialog",` +
	`"detailsBy":"bar","wordings":{"en":{"headline":"A gale","words":{"close":"Away"},"alt":"A ` +
	`gale","source":"abcdef","unread":true,"message":"No sailings to <b>Fennay</b> before noon.",` +
	`"link":{"href":"/status","label":"Service status","opens":"same","as":"button"},` +
	`"second":{"href":"/ports","label":"Ports"}},
   "de":{"message":"Keine Fahrten.","details":"<p>Bis Mittag.</p>"}}}}]}`

func TestReadAndWrite(t *testing.T) {
	for _, in := range []string{minimal, full} {
		b, err := bundle.Read(strings.NewReader(in))
		require.NoError(t, err)
		var out bytes.Buffer
		require.NoError(t, bundle.Write(&out, b))
		assert.JSONEq(t, in, out.String(), "what is read is written again, nothing more or less")
	}
	b, err := bundle.Parse([]byte(minimal))
	require.NoError(t, err)
	n := b.Notices[0]
	assert.Equal(t, []any{
		bundle.Draft, bundle.Information, 50, bundle.Top, bundle.Scrolling, "a", true, bundle.PeriodPage,
	},
		[]any{
			n.GetState(), n.GetLevel(), n.GetRank(), n.GetSlot(), n.GetPosition(), n.GetTitle(), n.Closable(), n.ClosedFor(),
		}, "what an absent field means")
	assert.Equal(t, []string{"/"}, b.Site.Homes())
	assert.True(t, b.Site.Displays())
}

// Each row changes one thing in the full bundle and names what is then said,
// A document of the format before is read as what it says: it has other names for
// four values, of notices, saved wordings and own starting points.
func TestFormatBefore(t *testing.T) {
	const wording = `{"message":"Open.","longer":"<p>All week.</p>","after":"Over.","of":"0123456789ab"}`
	const notice = `{"id":"a","kind":"bar","stay":"sticking","content":{"wordings":{"en":` + wording + `}}}`
	document := `{"format":"mastflag.bundle/1","site":{"key":"s","name":"S","timeZone":"UTC","language":"en",` +
		`"startingPoints":[{"name":"Ours","notice":` + notice + `}],` +
		`"wordings":[{"name":"hours","wordings":{"en":` + wording + `}}]},"pages":[],"notices":[` + notice + `]}`
	b, err := bundle.Parse([]byte(document))
	require.NoError(t, err)
	assert.Equal(t, bundle.Format, b.Format)
	want := bundle.Wording{
		Message:        "Open.",
		Details:        "<p>All week.</p>",
		ExpiredMessage: "Over.",
		SourceMark:     "0123456789ab",
	}
	for _, n := range []bundle.Notice{b.Notices[0], b.Site.StartingPoints[0].Notice} {
		assert.Equal(t, bundle.Sticking, n.Position)
		assert.Equal(t, want, n.Wordings()["en"])
	}
	assert.Equal(t, want, b.Site.Wordings[0].Wordings["en"])

	_, err = bundle.Parse([]byte(strings.Replace(document, "bundle/1", "bundle/2", 1)))
	assert.ErrorContains(t, err, `unknown field "longer"`)
	_, err = bundle.Parse([]byte(strings.Replace(document, `"after"`, `"afterEnd":"x","after"`, 1)))
	assert.ErrorContains(t, err, `unknown field "after"`, "nothing is lost where both are said")
	_, err = bundle.Parse([]byte(strings.Replace(document, `"key":"s"`, `"key":"s","key":"t"`, 1)))
	assert.ErrorContains(t, err, "twice")
}

// and where.
func TestRefusedBundles(t *testing.T) {
	swap := func(old, new string) string {
		require.Contains(t, full, old)
		return strings.Replace(full, old, new, 1)
	}
	for _, c := range []struct{ name, in, pointer, what string }{
		{"broken JSON", full[:200], "", "not JSON"},
		{"broken JSON, by line", "{\n\"format\":,}", "", "line 2, column 10"},
		{"nothing", "", "", "not JSON"},
		{"two documents", minimal + minimal, "", "not JSON"},
		{"not an object", "[]", "", "type array"},
		{"another format", swap("bundle/2", "bundle/3"), "/format", `"mastflag.bundle/3" is not accepted`},
		{"no site", `{"format":"mastflag.bundle/2"}`, "", `"site" is missing`},
		{"an unknown field", swap(`"rank":50`, `"rank":50,"colour":"red"`), "/notices/0/colour", `unknown field "colour"`},
		{"an unknown field whose name needs escaping", swap(`"rank":50`, `"a/b~c":1`), "/notices/0/a~1b~0c", "unknown field"},
		{"a wrong kind of value", swap(`"rank":50`, `"rank":"high"`), "/notices/0/rank", `"high" is of type string`},
		{"a rank beyond its range", swap(`"rank":50`, `"rank":101`), "/notices/0/rank", "too large"},
		{"an unknown level", swap(`"warning"`, `"grave"`), "/notices/0/level", `"grave" is not accepted`},
		{"an id that is none", swap("storm-closure", "Storm closure"), "/notices/0/id", "wrong form"},
		{"a wrong instant", swap("2026-11-20T10:00:00Z", "2026-11-20"), "/notices/0/publishedAt", "wrong form"},
		{
			"a wrong date", swap("2026-12-01T09:00", "2026-12-32T09:00"), "/notices/0/schedule/windows/0/from",
			"not a local date",
		},
		{
			"until before from", swap("2026-12-05T18:00", "2026-11-05T18:00"), "/notices/0/schedule/windows/0/until",
			"not after",
		},
		{"an unknown zone of the site", swap("Europe/London", "Europe/Atlantis"), "/site/timeZone", "unknown time zone"},
		{
			"a pattern that does not parse", swap(`{"match":"all"}`, `{"match":"pattern","pattern":"/a/("}`),
			"/notices/0/pages/include/0/pattern", "not a URL pattern",
		},
		{
			"a path that is none", swap(`"path":"/book"`, `"path":"book"`), "/notices/0/pages/exclude/0/path",
			"does not begin with /",
		},
		{
			"an origin with a path", swap("https://www.sundrey.example", "https://www.sundrey.example/x"), "/site/origins/0",
			"more than an origin",
		},
		{
			"a language that is none", swap(`"languages":["en","de"]`, `"languages":["en","de_"]`), "/site/languages/1",
			"not a language tag",
		},
		{"a duration that is none", swap("P1D", "one day"), "/notices/0/memory/closed", "not an ISO 8601 duration"},
		{"a duration of nothing", swap("P1D", "PT0S"), "/notices/0/memory/closed", "lasts no time"},
		{
			"a limit without a period", swap(`"per":"P7D"`, `"per":"page"`), "/notices/0/memory/limits/0/per",
			"not an ISO 8601 duration",
		},
		{"a limit of nothing", swap(`"times":3`, `"times":0`), "/notices/0/memory/limits/0/times", "too small"},
		{
			"a rule that is none", swap("FREQ=WEEKLY;BYDAY=FR", "weekly"), "/notices/0/schedule/windows/1/rule",
			"not a name and a value",
		},
		{
			"an unknown page set", swap(`{"match":"set","name":"ports"}`, `{"match":"set","name":"quays"}`),
			"/notices/0/pages/exclude/1/name", "no page set",
		},
		{
			"an unknown fact", swap(`"fact":"visits.number","is":"gte","value":2`, `"fact":"visits.count","is":"gte","value":2`),
			"/notices/0/audience/all/0/fact", "unknown fact",
		},
		{
			"an unknown test", swap(`"is":"gte","value":2`, `"is":"atleast","value":2`), "/notices/0/audience/all/0/is",
			"is not accepted",
		},
		{
			"an audience nested without end",
			swap(`{"saved":"regulars"}`, strings.Repeat(`{"all":[`, 9000)+strings.Repeat(`]}`, 9000)), "",
			"nested more than 100 deep",
		},
		{
			"an audience nested too deep", swap(`{"saved":"regulars"}`, strings.Repeat(`{"all":[`, 25)+strings.Repeat(`]}`, 25)),
			"/notices/0/audience/all/1/any/1" + strings.Repeat("/all/0", 18), "more than 20 deep",
		},
		{
			"an audience of 50,000 conditions",
			swap(
				`{"saved":"regulars"}`,
				`{"any":[`+strings.TrimSuffix(strings.Repeat(`{"fact":"utm.term","is":"set"},`, 50_000), ",")+`]}`,
			),
			"/notices/0/audience/all/1/any/1/any", "too long, 50000 entries",
		},
		{
			"a part that is two things", swap(`{"saved":"regulars"}`, `{"saved":"regulars","any":[]}`),
			"/notices/0/audience/all/1/any/1", "one of",
		},
		{
			"an unknown saved audience", swap(`{"saved":"regulars"}`, `{"saved":"strangers"}`),
			"/notices/0/audience/all/1/any/1/saved", "no audience",
		},
		{
			"what is wrong in a saved audience", swap(`"value":5`, `"value":"five"`), "/site/audiences/0/audience/all/0/value",
			"no value for",
		},
		{
			"what is wrong in a page set", swap(`{"match":"section","path":"/ports"}`, `{"match":"section","path":"ports"}`),
			"/site/pageSets/0/include/0/path", "does not begin with /",
		},
		{"capacity of inline", swap(`{"top":2}`, `{"inline":2}`), "/site/capacity/inline", "unknown slot"},
		{"a colour that is none", swap("#ffffff", "white"), "/notices/0/look/text", "wrong form"},
		{
			"HTML with script in it", swap("No sailings", "<script>alert(1)</script>No sailings"),
			"/notices/0/content/wordings/en/message", "holds <script>",
		},
		{
			"HTML with a handler in it", swap("<b>", "<b onclick='x()'>"), "/notices/0/content/wordings/en/message",
			"onclick on <b>",
		},
		{
			"a link that runs code", swap(`"href":"/status"`, `"href":"javascript:alert(1)"`),
			"/notices/0/content/wordings/en/link/href", "uses javascript:",
		},
		{
			"a link and a longer message",
			swap(`"message":"Keine Fahrten."`, `"message":"Keine Fahrten.","link":{"href":"/de"}`),
			"/notices/0/content/wordings/de/details", "either a link or a longer message",
		},
		{
			"a message of 10 MB", swap("No sailings", strings.Repeat("x", 10<<20)), "/notices/0/content/wordings/en/message",
			"too long",
		},
		{
			"a link to what is no document's name", swap(`"href":"/status"`, `"href":"document:Privacy notice"`),
			"/notices/0/content/wordings/en/link/href", "names no document",
		},
		{
			"a disclaimer of another kind",
			`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC","language":"en"},` +
				`"notices":[{"id":"a","kind":"bar","content":{"disclaimer":{}}}]}`,
			"/notices/0/content/disclaimer", `kind "bar" is no disclaimer`,
		},
		{
			"an address of a disclaimer that is none",
			`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC","language":"en"},` +
				`"notices":[{"id":"a","kind":"disclaimer","content":{"disclaimer":{"else":"javascript:x()"}}}]}`,
			"/notices/0/content/disclaimer/else", "uses javascript:",
		},
		{
			"a disclaimer that holds for no time",
			`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC","language":"en"},` +
				`"notices":[{"id":"a","kind":"disclaimer","content":{"disclaimer":{"holds":"a year"}}}]}`,
			"/notices/0/content/disclaimer/holds", "not an ISO 8601 duration",
		},
		{
			"an ask that is none",
			`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC","language":"en"},` +
				`"notices":[{"id":"a","kind":"disclaimer","content":{"disclaimer":{"ask":"sign"}}}]}`,
			"/notices/0/content/disclaimer/ask", `"sign" is not accepted`,
		},
		{
			"what is wrong in a document",
			`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC","language":"en",` +
				`"documents":[{"id":"p","kind":"privacy","answers":{"email":"x"}}]}}`,
			"/site/documents/0/answers/email", "not an e-mail address",
		},
		{
			"a document's id that is none",
			`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC","language":"en",` +
				`"documents":[{"id":"P P","kind":"privacy"}]}}`,
			"/site/documents/0/id", "wrong form",
		},
		{"a page twice", swap(`"pages":[`, `"pages":[{"path":"/ports/aldwick/"},`), "/pages/1/path", "twice"},
		{"a selector that is none", swap("main > h1", "main >"), "/notices/0/spot/selector", "not a CSS selector"},
		{"a side that is none", swap(`"where":"before"`, `"where":"beside"`), "/notices/0/spot/where", "is not accepted"},
		{
			"a font that breaks out", swap(`"font":"\"Sea Sans\", serif"`, `"font":"x;} body{color:red"`),
			"/notices/0/look/font", "not a list of font families",
		},
		{
			"a font with half a quotation mark", swap(`"font":"\"Sea Sans\", serif"`, `"font":"\"Sea Sans"`),
			"/notices/0/look/font", "not a list of font families",
		},
		{"an icon that is none", swap(`"icon":"storm"`, `"icon":"stormy"`), "/notices/0/look/icon", `no icon "stormy"`},
		{
			"style that fetches", swap(".bar { letter-spacing: .02em }", ".bar { background: url(https://x.example/a.png) }"),
			"/notices/0/look/css", "url()",
		},
		{
			"style that fetches, in a string", swap(".bar { letter-spacing: .02em }", ".bar { background: URL('x.png') }"),
			"/notices/0/look/css", "url()",
		},
		{
			"style that fetches, in an image set",
			swap(".bar { letter-spacing: .02em }", ".bar { background: image-set('x.png' 1x) }"), "/notices/0/look/css", "url()",
		},
		{
			"style that fetches, by a property",
			swap(".bar { letter-spacing: .02em }", ".bar { --x: url(https://x.example/a.png); background: var(--x) }"),
			"/notices/0/look/css", "url()",
		},
		{
			"style that fetches, in other letters", swap(".bar { letter-spacing: .02em }", `.bar { background: u\\72l(x.png) }`),
			"/notices/0/look/css", "outside of a text",
		},
		{
			"style that imports, in other letters", swap(".bar { letter-spacing: .02em }", `@\\69mport 'x.css';`),
			"/notices/0/look/css", "outside of a text",
		},
		{
			"style that fetches, in a scope",
			swap(".bar { letter-spacing: .02em }", "@scope (.bar) { :scope { background: url(x.png) } }"),
			"/notices/0/look/css", "url()",
		},
		{
			"style that fetches, at its start",
			swap(".bar { letter-spacing: .02em }", "@starting-style { .bar { background: url(x.png) } }"),
			"/notices/0/look/css", "url()",
		},
		{
			"style that fetches, in a property of its own",
			swap(".bar { letter-spacing: .02em }", "@property --a { syntax: '<image>'; initial-value: url(x.png) }"),
			"/notices/0/look/css", "@property",
		},
		{
			"style that fetches, as signs of a list",
			swap(".bar { letter-spacing: .02em }", "@counter-style a { symbols: url(x.png) }"),
			"/notices/0/look/css", "@counter-style",
		},
		{
			"style that fetches, by a function that is new",
			swap(".bar { letter-spacing: .02em }", ".bar { background: bring('x.png') }"),
			"/notices/0/look/css", "bring(), which is not known here",
		},
		{
			"style that fetches, deep within",
			swap(".bar { letter-spacing: .02em }", "@media (min-width: 1px) { @layer a { .bar { & p { --x: [ url(x) ] } } } }"),
			"/notices/0/look/css", "url()",
		},
		{"style that imports", swap(".bar { letter-spacing: .02em }", "@import 'x.css';"), "/notices/0/look/css", "@import"},
		{
			"style that is none", swap(".bar { letter-spacing: .02em }", ".bar { color: red } }"), "/notices/0/look/css",
			"not CSS",
		},
		{
			"style that ends the style", swap(".bar { letter-spacing: .02em }", "</style><script>x()</script>"),
			"/notices/0/look/css", `holds "</"`,
		},
		{"a dark colour that is none", swap("#0e161e", "night"), "/notices/0/look/dark/background", "wrong form"},
		{
			"a picture by another name", swap("0123456789abcdef.png", "../secret.png"), "/notices/0/content/picture/file",
			"wrong form",
		},
		{
			"what is wrong in a starting point",
			swap(`"notice":{"id":"closed","kind":"bar"}`, `"notice":{"id":"closed","kind":"bar","look":{"icon":"stormy"}}`),
			"/site/startingPoints/0/notice/look/icon", "no icon",
		},
		{
			"what is wrong in a kept wording", swap("We are sorry.", "<script>x()</script>"),
			"/site/wordings/0/wordings/en/message", "holds <script>",
		},
		{
			"a picture by file and by address", swap(`"file":"0123456789abcdef.png"`,
				`"file":"0123456789abcdef.png","address":"https://a.example/b.png"`), "/notices/0/content/picture", "one of both",
		},
		{
			"a picture from nowhere", swap(`"file":"fedcba9876543210.webp"`, `"address":"javascript:alert(1)"`),
			"/notices/0/content/picture/phone/address", `"javascript:alert(1)" is no address of a picture`,
		},
		{
			"a picture over a plain connection", swap(`"file":"fedcba9876543210.webp"`, `"address":"//a.example/b.png"`),
			"/notices/0/content/picture/phone/address", "is no address of a picture",
		},
		{"a picture without a size", swap(`"width":320,`, ``), "/notices/0/content/picture", "how large it is"},
		{
			"a picture of another host in the longer message", swap("<p>Bis Mittag.</p>", `<img src='https://a.example/b.png'>`),
			"/notices/0/content/wordings/de/details", "holds src on <img>",
		},
		{
			"a second button without a first", swap(`"link":{"href":"/status","label":"Service status","opens":"same",`+
				`"as":"button"},`, ``), "/notices/0/content/wordings/en/second", "beside a first one",
		},
		{
			"a second button beside a whole bar", swap(`"as":"button"}`, `"as":"bar"}`),
			"/notices/0/content/wordings/en/second", "beside a first one",
		},
		{
			"a headline that turns what follows round", swap("A gale\"", "A \u202egale\""),
			"/notices/0/content/wordings/en/headline", "U+202E",
		},
		{
			"words of nothing", swap(`{"close":"Away"}`, `{"shout":"Away"}`), "/notices/0/content/wordings/en/words/shout",
			"says nothing that is called",
		},
		{
			"a purpose by another name in one notice", swap(`{"close":"Away"}`, `{"marketing":"Ads"}`),
			"/notices/0/content/wordings/en/words/marketing", "the same by all notices",
		},
		{
			"own words of the site with markup", swap("Sí, a todo", "<b>Sí</b>"), "/site/words/es/words/accept", "HTML",
		},
		{
			"two themes of a name", swap(`"themes":[`, `"themes":[{"name":"Winter","look":{}},`), "/site/themes/1/name",
			"a second theme",
		},
		{
			"a theme of a theme", swap(`"look":{"background":"#123a56"}`, `"look":{"theme":"Winter"}`),
			"/site/themes/0/look/theme", "cannot be made of another",
		},
		{"letters too large", swap(`"18px"`, `"180px"`), "/notices/0/look/size", "wrong form"},
		{"an id twice", swap(`"notices":[`, `"notices":[{"id":"storm-closure","kind":"bar"},`), "/notices/1/id", "twice"},
		{"capacity of an unknown slot", swap(`{"top":2}`, `{"left":2}`), "/site/capacity/left", "unknown slot"},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, err := bundle.Parse([]byte(c.in))
			var faults fault.Faults
			require.ErrorAs(t, err, &faults)
			require.NotEmpty(t, faults)
			assert.Equal(t, c.pointer, faults[0].Pointer)
			assert.Contains(t, faults[0].What, c.what)
			assert.NotEmpty(t, faults[0].Remedy)
			assert.Less(t, len(faults[0].Error()), 400, "one line, however long the value")
		})
	}
	_, err := bundle.Parse([]byte(strings.NewReplacer(
		"P1D", "P", "#ffffff", "white", `"rank":50`, `"rank":-1`,
	).Replace(full)))
	var faults fault.Faults
	require.ErrorAs(t, err, &faults)
	assert.Len(t, faults, 6, "all that the schema refuses is said at once")
}

// FuzzParse: never a panic, and what is accepted round-trips.
func FuzzParse(f *testing.F) {
	f.Add([]byte(minimal))
	f.Add([]byte(full))
	f.Add([]byte(`{"format":"mastflag.bundle/2","site":null}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		b, err := bundle.Parse(raw)
		if err != nil {
			var faults fault.Faults
			require.ErrorAs(t, err, &faults)
			return
		}
		var out bytes.Buffer
		require.NoError(t, bundle.Write(&out, b))
		again, err := bundle.Parse(out.Bytes())
		require.NoError(t, err)
		require.Equal(t, b, again)
	})
}

func TestPeriods(t *testing.T) {
	london, err := time.LoadLocation("Europe/London")
	require.NoError(t, err)
	from := time.Date(2026, 10, 24, 12, 0, 0, 0, london) // the day before clocks go back
	for _, c := range []struct{ name, in, want string }{
		{"days go by the calendar", "P1D", "2026-10-25T12:00:00Z"},
		{"hours are exact", "PT24H", "2026-10-25T11:00:00Z"},
		{"weeks", "P1W", "2026-10-31T12:00:00Z"},
		{"all parts", "P1Y2M3DT4H5M6S", "2027-12-27T16:05:06Z"},
	} {
		s, err := schedule.ParseSpan(c.in)
		require.NoError(t, err, c.in)
		assert.Equal(t, c.want, s.After(from, london).UTC().Format(time.RFC3339), c.name)
	}
	for _, bad := range []string{"", "P", "PT", "P1DT", "1D", "P-1D", "P1H", "PT0S", "P1.5D", "p1d"} {
		_, err := schedule.ParseSpan(bad)
		assert.Error(t, err, bad)
	}
}

func TestSchemaIsCurrentAndWhole(t *testing.T) {
	docs, err := os.ReadFile("../../docs/bundle.schema.json")
	require.NoError(t, err)
	assert.Equal(t, string(bundle.Schema), string(docs), "run make generate")
	var s map[string]any
	require.NoError(t, json.Unmarshal(bundle.Schema, &s))
	assert.Equal(t, "https://json-schema.org/draft/2020-12/schema", s["$schema"])
}

// Whatever is written as a style is refused, or says the same when its
// declarations are listed, and fetches nothing.
func FuzzStyle(f *testing.F) {
	f.Add(".words{color:red}")
	f.Add("a{b:url(x)}")
	f.Add("@media (width>1px){a,b{--x:1}")
	f.Add(`a{background:\75rl(x)}`)
	f.Fuzz(func(t *testing.T, style string) {
		raw, err := json.Marshal(map[string]any{"id": "n", "kind": "bar", "look": map[string]string{"css": style}})
		if err != nil {
			return
		}
		var n bundle.Notice
		if bundle.Decode(raw, "Notice", &n) != nil || n.Check(bundle.Site{TimeZone: "UTC"}) != nil {
			return
		}
		for _, d := range n.GetLook().Declarations() {
			if strings.Contains(strings.ToLower(d.Value), "url(") && !strings.ContainsAny(d.Value, `"'`) {
				t.Fatalf("%q fetches", d.Value)
			}
		}
	})
}

// A text's mark is as rule T7 says, byte for byte: what visitors acknowledged stays acknowledged.
func TestMarkOfAText(t *testing.T) {
	var w bundle.Wording
	require.NoError(t, bundle.Unmarshal([]byte(`{"message":"Fähre","details":"More","afterEnd":"Over","alt":"A boat",
		"link":{"href":"/a","label":"Go"},"second":{"href":"/b","label":"Stay"},"headline":"Tides","confirm":"Yes",
		"words":{"more":"Read on","close":"Shut"},"parts":{"b":{"heading":"H","text":"T","alt":"P","thanks":"Ta",
		"answers":["1","2"],"links":[{"href":"/c","label":"L"}]},"a":{"text":"First"}}}`), &w))
	mark := func(texts ...string) string {
		var all strings.Builder
		for _, s := range texts {
			fmt.Fprintf(&all, "%d %s", len(s), s)
		}
		sum := sha256.Sum256([]byte(all.String()))
		return hex.EncodeToString(sum[:6])
	}
	assert.Equal(t, mark(
		"Fähre", "More", "Over", "A boat", "Go", "Yes", "", "headline", "Tides", "second", "Stay", "close", "Shut", "more",
		"Read on", "a", "", "First", "", "", "b", "H", "T", "P", "Ta", "1", "2", "L",
	), w.Mark())
	assert.Equal(t, mark("x", "", "", "", ""), bundle.Wording{Message: "x"}.Mark())
}
