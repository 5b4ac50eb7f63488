package findings_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/decide"
	"mastflag/core/findings"
	"mastflag/core/pages"
)

var at = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

// check returns the findings of a site with four pages and these notices, each
// a JSON object that is put into a sound published bar.
func check(t *testing.T, notices ...string) []findings.Finding {
	t.Helper()
	return checkSite(t, `"display":true`, notices...)
}

// checkSite is check of a site with more fields.
func checkSite(t *testing.T, fields string, notices ...string) []findings.Finding {
	t.Helper()
	if !strings.Contains(fields, `"languages"`) {
		fields += `,"languages":["en"]`
	}
	in := `{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"Europe/London","language":"en",` +
		`"origins":["https://www.s.example"],` + fields + `},
	"pages":[{"path":"/"},{"path":"/book"},{"path":"/ports"},{"path":"/ports/a"}],"notices":[` +
		strings.Join(notices, ",") + `]}`
	b, err := bundle.Parse([]byte(in))
	require.NoError(t, err)
	s, err := decide.Compile(b)
	require.NoError(t, err)
	return checked(s, at)
}

// checked returns the findings of a site at a moment.
func checked(s *decide.Site, at time.Time) []findings.Finding {
	out, err := findings.Check(context.Background(), s, at)
	if err != nil {
		panic(err)
	}
	return out
}

// sound is a bar without findings; parts replaces or adds fields.
func sound(id, parts string) string {
	fields := map[string]string{
		"pages":       `{"include":[{"match":"all"}]}`,
		"content":     `{"wordings":{"en":{"message":"Hello"}}}`,
		"state":       `"published"`,
		"publishedAt": `"2026-12-01T00:00:00Z"`,
	}
	out := `{"id":"` + id + `"`
	if !strings.HasPrefix(parts, `"kind"`) && !strings.Contains(parts, `,"kind":"`) {
		out += `,"kind":"bar"`
	}
	for name, value := range fields {
		if !strings.Contains(parts, `"`+name+`"`) {
			out += `,"` + name + `":` + value
		}
	}
	if parts != "" {
		out += "," + parts
	}
	return out + "}"
}

// counting is a notice's content with a countdown.
func counting(c string) string {
	return `"content":{"countdown":{` + c + `},"wordings":{"en":{"message":"Until then"}}}`
}

// A copy whose original says something new is found, until they are compared or say
// the same.
func TestOldCopy(t *testing.T) {
	original := sound("a", `"content":{"wordings":{"en":{"message":"Good day"}}}`)
	one := func(mark, content string) string {
		return sound("b", `"copyOf":{"id":"a","mark":"`+mark+`"},"memory":{"closed":"P1D"},`+content)
	}
	const own = `"content":{"wordings":{"en":{"message":"Hello"}}}`
	find := func(copied string) (out []findings.Finding) {
		for _, f := range check(t, original, copied) {
			if f.Code == findings.OldCopy {
				out = append(out, f)
			}
		}
		return out
	}
	got := find(one("0123456789ab", own))
	require.Len(t, got, 1)
	assert.Equal(t, []string{"b"}, got[0].Notices)
	assert.Equal(t, "“b” is a copy of “a”, whose text has changed since.", got[0].What)
	says := func(text string) string {
		n := bundle.Notice{Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: text}}}}
		return n.TextMark()
	}
	assert.Empty(t, find(one(says("Good day"), own)), "compared since, and kept as it is")
	assert.Len(t, find(one(says("Hello"), own)), 1, "compared with what the original said before")
	assert.Empty(t, find(one("0123456789ab", `"content":{"wordings":{"en":{"message":"Good day"}}}`)), "it says the same")
}

// Code that never runs, and what is not asked of code and blocks: colours, closing.
func TestCodeAndBlocksFound(t *testing.T) {
	codes := func(notices ...string) (out []findings.Code) {
		for _, f := range check(t, notices...) {
			out = append(out, f.Code)
		}
		return out
	}
	const every = `"state":"published","publishedAt":"2026-11-01T10:00:00Z","pages":{"include":[{"match":"all"}]},`
	code := func(content string) string {
		return `{"id":"c","kind":"code",` + every + `"content":{"code":` + content + `}}`
	}
	assert.Empty(t, codes(code(`{"head":"<meta>"}`)))
	assert.Equal(t, []findings.Code{findings.NoWording}, codes(code(`{}`)))
	block := func(words string) string {
		return `{"id":"b","kind":"block",` + every + `"memory":{"closable":false},"spot":{"selector":"main"},` +
			`"content":{"rows":[{"columns":[{"parts":[
			{"id":"text","kind":"text"},{"id":"photo","kind":"picture","picture":{"file":"0123456789abcdef.jpg","width":8,` +
			`"height":6}},{"id":"more","kind":"links"}]}]}],
			"wordings":{"en":{"parts":{` + words + `}}}}}`
	}
	assert.Empty(t, codes(block(`"text":{"text":"<p>x</p>"},"photo":{"alt":"A pier"}`)))
	assert.Equal(t, []findings.Code{findings.NoWording}, codes(block(`"photo":{"alt":"A pier"}`)))
	got := check(
		t, block(`"text":{"text":"<p><a href=\"/gone\">x</a></p>"},"more":{"links":[{"href":"/gone-too","label":"x"}]}`),
	)
	var said []string
	for _, f := range got {
		said = append(said, string(f.Code)+" "+f.Pointers[0])
	}
	assert.ElementsMatch(t, []string{
		"dead-link /notices/0/content/wordings/en/parts/more/links/0/href", "dead-link /notices/0/content/wordings/en/parts" +
			"/text/text",
		"no-alt /notices/0/content/wordings/en/parts/photo/alt",
	}, said)
	for _, f := range got {
		if f.Code == findings.NoAlt {
			assert.Equal(t, "/content/rows/0/columns/0/parts/1/picture/decorative", f.Fixes[0].Patch[0].Path)
		}
	}
}

// A circle of hand-overs is found at each of its notices; a chain is none.
func TestHandingOverInACircle(t *testing.T) {
	hands := func(id, to string) string {
		return sound(id, counting(`"kind":"to","at":"2026-12-08T12:00","then":"hand-over","handTo":"`+to+`"`))
	}
	heirs := func(notices ...string) (whats []string) {
		for _, f := range check(t, notices...) {
			if f.Code == findings.BrokenHandover {
				whats = append(whats, f.What)
			}
		}
		return whats
	}
	assert.Empty(t, heirs(hands("a", "b"), hands("b", "c"), sound("c", "")))
	assert.Equal(t, []string{
		"“a” hands over in a circle: a → b → c → a. Each waits for the other.",
		"“b” hands over in a circle: b → c → a → b. Each waits for the other.",
		"“c” hands over in a circle: c → a → b → c. Each waits for the other.",
	},
		heirs(hands("a", "b"), hands("b", "c"), hands("c", "a"), hands("outside", "a")))
	assert.Equal(t, []string{
		"“a” hands over to “b”, which is not published: nothing follows it.",
	}, heirs(hands("a", "b"), sound("b", `"state":"draft"`)))
}

// Each row has the finding in the first notice and has not got it in the second.
func TestFindings(t *testing.T) {
	for _, c := range []struct {
		code      findings.Code
		pointer   string
		has, hast string
	}{
		{
			findings.Over, "/notices/0/schedule", `"schedule":{"windows":[{"until":"2026-12-04T12:00"}]}`,
			`"schedule":{"windows":[{"until":"2026-12-04T12:01"}]}`,
		},
		{
			findings.Over, "/notices/0/schedule", `"schedule":{"windows":[{"until":"2026-11-30T12:00"}]}`,
			`"schedule":{"windows":[{"until":"2026-11-30T12:00"},{"from":"2027-01-01T00:00"}]}`,
		},
		{
			findings.EndsOutside, "/notices/0/content/countdown/at",
			counting(`"kind":"to","at":"2026-12-09T18:00","then":"stay"`) +
				`,"schedule":{"windows":[{"until":"2026-12-08T12:00"}]}`,
			counting(`"kind":"to","at":"2026-12-08T12:00"`) + `,"schedule":{"windows":[{"until":"2026-12-08T12:00"}]}`,
		},
		{
			findings.EndsOutside, "/notices/0/content/countdown",
			counting(`"kind":"to","at":"2026-12-09T18:00","clock":"visitor","then":"stay"`) +
				`,"schedule":{"clock":"visitor","windows":[{"until":"2026-12-09T17:00"}]}`,
			counting(`"kind":"to","at":"2026-12-09T18:00","clock":"visitor","then":"stay"`) +
				`,"schedule":{"windows":[{"until":"2026-12-09T17:00"}]}`,
		}, // east of London it comes before
		{
			findings.EndsOutside, "/notices/0/content/countdown",
			counting(`"kind":"repeating","at":"2026-12-04T18:00","rule":"FREQ=WEEKLY"`) +
				`,"schedule":{"windows":[{"from":"2026-12-07T00:00","until":"2026-12-11T17:59","rule":"FREQ=WEEKLY"}]}`,
			counting(`"kind":"repeating","at":"2026-12-04T18:00","rule":"FREQ=WEEKLY"`) +
				`,"schedule":{"windows":[{"from":"2026-12-07T00:00","until":"2026-12-11T18:00","rule":"FREQ=WEEKLY"}]}`,
		},
		{
			findings.RunOut, "/notices/0/content/countdown", counting(`"kind":"to","at":"2026-12-04T12:00","then":"stay"`),
			counting(`"kind":"to","at":"2026-12-04T12:01","then":"stay"`),
		},
		{
			findings.Over, "/notices/0/schedule", counting(`"kind":"to","at":"2026-12-04T12:00"`),
			counting(`"kind":"to","at":"2026-12-04T12:01"`),
		},
		{
			findings.OwnDeadline, "/notices/0/content/countdown", counting(`"kind":"visitor","for":"PT2H"`),
			counting(`"kind":"to","at":"2026-12-08T12:00"`),
		},
		{
			findings.NoAfter, "/notices/0/content/wordings/en", counting(`"kind":"to","at":"2026-12-08T12:00","then":"say"`),
			`"content":{"countdown":{"kind":"to","at":"2026-12-08T12:00","then":"say"},"wordings":{"en":{"message":"x",` +
				`"afterEnd":"Over."}}}`,
		},
		{
			findings.DeadLink, "/notices/0/content/countdown/go", counting(`"kind":"to","at":"2026-12-08T12:00","go":"/boat"`),
			counting(`"kind":"to","at":"2026-12-08T12:00","go":"/book"`),
		},
		{
			findings.GoesAway, "/notices/0/content/countdown/go", counting(`"kind":"to","at":"2026-12-08T12:00","go":"/book"`),
			counting(`"kind":"to","at":"2026-12-08T12:00"`),
		},
		{
			findings.BrokenHandover, "/notices/0/content/countdown/handTo",
			counting(`"kind":"to","at":"2026-12-08T12:00","then":"hand-over","handTo":"nobody"`), ``,
		},
		{
			findings.BrokenHandover, "/notices/0/content/countdown/handTo",
			counting(`"kind":"to","at":"2026-12-08T12:00","then":"hand-over","handTo":"a"`), ``,
		},
		{findings.NoPages, "/notices/0/pages", `"pages":{}`, ``},
		{
			findings.MatchesNone, "/notices/0/pages", `"pages":{"include":[{"match":"section","path":"/port"}]}`,
			`"pages":{"include":[{"match":"section","path":"/ports"}]}`,
		},
		{
			findings.AllExcluded, "/notices/0/pages/include/0",
			`"pages":{"include":[{"match":"page","path":"/ports/a"},{"match":"page","path":"/book"}],` +
				`"exclude":[{"match":"section","path":"/ports"}]}`,
			`"pages":{"include":[{"match":"section","path":"/ports"}],"exclude":[{"match":"page","path":"/ports/a"}]}`,
		},
		{
			findings.Nobody, "/notices/0/audience",
			`"audience":{"all":[{"fact":"visits.number","is":"gte","value":5},{"fact":"visits.number","is":"lt","value":3}]}`,
			`"audience":{"any":[{"fact":"visits.number","is":"gte","value":5},{"fact":"visits.number","is":"lt","value":3}]}`,
		},
		{
			findings.Everybody, "/notices/0/audience",
			`"audience":{"any":[{"fact":"visits.number","is":"gte","value":5},{"fact":"visits.number","is":"lt","value":5},` +
				`{"fact":"visits.number","is":"unset"}]}`,
			`"audience":{"fact":"visits.number","is":"gte","value":5}`,
		},
		{
			findings.IdlePart, "/notices/0/audience/all/1",
			`"audience":{"all":[{"fact":"visits.number","is":"gte","value":5},{"fact":"visits.number","is":"gte","value":2}]}`,
			`"audience":{"all":[{"fact":"visits.number","is":"gte","value":5},{"fact":"visits.pages","is":"gte","value":2}]}`,
		},
		{
			findings.IdlePart, "/notices/0/audience/any/0",
			`"audience":{"any":[{"fact":"device.kind","is":"eq","value":"watch"},{"fact":"visits.pages","is":"gte","value":2}]}`,
			``,
		},
		{
			findings.UnknownPage, "/notices/0/pages/exclude/0",
			`"pages":{"include":[{"match":"all"}],"exclude":[{"match":"page","path":"/bok"}]}`,
			`"pages":{"include":[{"match":"all"}],"exclude":[{"match":"page","path":"/book"}]}`,
		},
		{
			findings.TooMany, "/notices/0/schedule",
			`"schedule":{"windows":[{"from":"2010-01-01T00:00","until":"2010-01-01T00:30","rule":"FREQ=HOURLY"}]}`,
			`"schedule":{"windows":[{"from":"2026-01-01T00:00","until":"2026-01-01T00:30","rule":"FREQ=HOURLY"}]}`,
		},
		{
			findings.Over, "/notices/0/schedule",
			`"schedule":{"windows":[{"from":"2026-12-01T09:00","until":"2026-12-01T10:00","rule":"FREQ=DAILY;COUNT=3"}]}`,
			`"schedule":{"windows":[{"from":"2026-12-01T09:00","until":"2026-12-01T10:00","rule":"FREQ=DAILY"}]}`,
		},
		{
			findings.Redundant, "/notices/0/pages/include/1",
			`"pages":{"include":[{"match":"all"},{"match":"page","path":"/book"}]}`,
			`"pages":{"include":[{"match":"page","path":"/"},{"match":"page","path":"/book"}]}`,
		},
		{
			findings.DeadLink, "/notices/0/content/wordings/en/link/href",
			`"content":{"wordings":{"en":{"message":"x","link":{"href":"/boat"}}}}`,
			`"content":{"wordings":{"en":{"message":"x","link":{"href":"/book/?from=bar#top"}}}}`,
		},
		{
			findings.DeadLink, "/notices/0/content/wordings/en/message",
			`"content":{"wordings":{"en":{"message":"<a href='https://s.example/boat'>x</a>"}}}`,
			`"content":{"wordings":{"en":{"message":"<a href='https://elsewhere.example/boat'>x</a> <a ` +
				`href='mailto:a@s.example'>y</a>"}}}`,
		},
		{
			findings.NoWords, "/notices/0/content/wordings/en/message",
			`"content":{"wordings":{"en":{"message":"Hello {person.name}"}}}`,
			`"content":{"wordings":{"en":{"message":"Hello {person.name|there}"}}}`,
		},
		{
			findings.EmptyFillIn, "/notices/0/content/wordings/en",
			`"content":{"wordings":{"en":{"message":"You ordered {event.order.count|x}"}}}`,
			`"content":{"wordings":{"en":{"message":"You ordered {event.order.product|x}"}}}`,
		},
		{
			findings.EmptyFillIn, "/notices/0/content/wordings/en",
			`"content":{"wordings":{"en":{"headline":"For {person.constructor|you}","message":"x"}}}`,
			`"content":{"wordings":{"en":{"headline":"For {person.name|you}","message":"x"}}}`,
		},
		{
			findings.Unread, "/notices/0/experiment/variants/1/wordings/en",
			`"experiment":{"goal":{"event":"order"},"variants":[{"id":"a"},{"id":"b","wordings":{"en":{"message":"Go",` +
				`"unread":true}}}]}`,
			`"experiment":{"goal":{"event":"order"},"variants":[{"id":"a"},{"id":"b","wordings":{"en":{"message":"Go"}}}]}`,
		},
		{
			findings.NoPicture, "/notices/0/content/picture/file",
			`"content":{"picture":{"decorative":true,"table":{"by":"person.tier","rows":[{"value":"gold","address":"/g.png"` +
				`}]}},"wordings":{"en":{"message":"x"}}}`,
			`"content":{"picture":{"address":"/a.png","decorative":true,"table":{"by":"person.tier","rows":[{"value":"gold",` +
				`"address":"/g.png"}]}},"wordings":{"en":{"message":"x"}}}`,
		},
		{
			findings.NoGoal, "/notices/0/experiment/goal/link",
			`"experiment":{"goal":{"link":true}},"content":{"wordings":{"en":{"message":"x"}}}`,
			`"experiment":{"goal":{"link":true}},"content":{"wordings":{"en":{"message":"<a href='/book'>x</a>"}}}`,
		},
		{
			findings.NoGoal, "/notices/0/experiment/goal/link",
			`"experiment":{"goal":{"link":true},"variants":[{"id":"a"},{"id":"b","look":{"shape":"round"}}]}`,
			`"experiment":{"goal":{"link":true},"variants":[{"id":"a"},{"id":"b","wordings":{"en":{"link":{"href":"/book",` +
				`"label":"x"}}}}]}`,
		},
		{
			findings.NoGoal, "/notices/0/experiment/goal/pages",
			`"experiment":{"goal":{"pages":{"include":[{"match":"section","path":"/tours"}]}}}`,
			`"experiment":{"goal":{"pages":{"include":[{"match":"section","path":"/ports"}]}}}`,
		},
		{
			findings.NoGoal, "/notices/0/experiment/goal/pages",
			`"experiment":{"goal":{"pages":{"include":[{"match":"page","path":"/book"}],"exclude":[{"match":"all"}]}}}`,
			`"experiment":{"goal":{"pages":{"include":[{"match":"page","path":"/book"}],"exclude":[{"match":"query",` +
				`"name":"q"}]}}}`,
		},
		{
			findings.UnknownPage, "/notices/0/experiment/goal/pages/include/1",
			`"experiment":{"goal":{"pages":{"include":[{"match":"page","path":"/book"},{"match":"page","path":"/gone"}]}}}`,
			`"experiment":{"goal":{"pages":{"include":[{"match":"page","path":"/book"}]}}}`,
		},
		{
			findings.MatchesNone, "/notices/0/pages",
			`"pages":{"include":[{"match":"query","name":"q"}],"exclude":[{"match":"section","path":"/"}]}`,
			`"pages":{"include":[{"match":"query","name":"q"}],"exclude":[{"match":"section","path":"/ports"}]}`,
		},
		{ // of itself, as often as it was shown
			findings.NobodyNew, "/notices/0/audience",
			`"audience":{"fact":"notice.n.shown","is":"gte","value":1}`,
			`"audience":{"fact":"notice.n.shown","is":"lt","value":3}`,
		},
		{
			findings.UnknownNotice, "/notices/0/audience/any/1",
			`"audience":{"any":[{"fact":"visits.number","is":"gte","value":2},{"fact":"notice.gone.closed",` +
				`"is":"gte","value":1}]}`,
			`"audience":{"any":[{"fact":"visits.number","is":"gte","value":2},{"fact":"notice.n.closed","is":"gte","value":1}]}`,
		},
		{
			findings.Everybody, "/notices/0/audience",
			`"audience":{"any":[{"fact":"clock.hour","is":"lt","value":12},{"fact":"clock.hour","is":"gte","value":12}]}`,
			`"audience":{"any":[{"fact":"clock.hour","is":"lt","value":12},{"fact":"clock.hour","is":"gt","value":12}]}`,
		},
		{
			findings.Everybody, "/notices/0/audience", `"audience":{"fact":"event.order.count","is":"gte","value":0}`,
			`"audience":{"fact":"event.order.daysSince","is":"gte","value":0}`,
		},
		{
			findings.Nobody, "/notices/0/audience", `"audience":{"fact":"notice.b.shown","is":"unset"}`,
			`"audience":{"fact":"visits.number","is":"unset"}`,
		},
		{
			findings.NoHours, "/notices/0/content/rows/0/columns/0/parts/0/contact",
			`"content":{"rows":[{"columns":[{"parts":[{"kind":"contact","id":"c","contact":[{"by":"telephone",` +
				`"value":"+49301","when":"open"}]}]}]}],"wordings":{"en":{"message":"x"}}}`,
			`"content":{"rows":[{"columns":[{"parts":[{"kind":"contact","id":"c","contact":[{"by":"telephone",` +
				`"value":"+49301"}]}]}]}],"wordings":{"en":{"message":"x"}}}`,
		},
		{
			findings.DeadLink, "/notices/0/content/rows/0/columns/0/parts/0/contact/1/value",
			`"content":{"rows":[{"columns":[{"parts":[{"kind":"contact","id":"c","contact":[{"by":"mail",` +
				`"value":"a@b.example"},` +
				`{"by":"link","value":"/gone"}]}]}]}],"wordings":{"en":{"message":"x"}}}`,
			`"content":{"rows":[{"columns":[{"parts":[{"kind":"contact","id":"c","contact":[{"by":"mail",` +
				`"value":"a@b.example"},` +
				`{"by":"link","value":"https://www.s.example/book"}]}]}]}],"wordings":{"en":{"message":"x"}}}`,
		},
		{
			findings.Alike, "/notices/0/experiment/variants/1",
			`"look":{"background":"#003049","text":"#ffffff","css":".words{opacity:1}"},"experiment":{"goal":{"link":true},` +
				`"variants":[{"id":"a"},{"id":"b","look":{"background":"#003049","text":"#ffffff","shape":"soft",` +
				`"css":".words{opacity:1}"}}]}`,
			`"look":{"background":"#003049","text":"#ffffff"},"experiment":{"goal":{"link":true},` +
				`"variants":[{"id":"a"},{"id":"b","look":{"background":"#003048","text":"#ffffff"}}]}`,
		},
		{
			findings.Alike, "/notices/0/experiment/variants/1",
			`"experiment":{"goal":{"event":"order"},"variants":[{"id":"a"},{"id":"b","look":{}}]}`,
			`"experiment":{"goal":{"event":"order"},"variants":[{"id":"a"},{"id":"b","look":{"shape":"round"}}]}`,
		},
		{
			findings.LowContrast, "/notices/0/experiment/variants/1/look",
			`"experiment":{"goal":{"event":"order"},"variants":[{"id":"a"},{"id":"b","look":{"background":"#ffffff","text":` +
				`"#777777"}}]}`,
			`"experiment":{"goal":{"event":"order"},"variants":[{"id":"a"},{"id":"b","look":{"background":"#ffffff","text":` +
				`"#333333"}}]}`,
		},
		{
			findings.DeadLink, "/notices/0/experiment/variants/1/wordings/en/link/href",
			`"experiment":{"goal":{"event":"order"},"variants":[{"id":"a"},{"id":"b","wordings":{"en":{"link":{"href":"/boat",` +
				`"label":"x"}}}}]}`,
			`"experiment":{"goal":{"event":"order"},"variants":[{"id":"a"},{"id":"b","wordings":{"en":{"link":{"href":"/book",` +
				`"label":"x"}}}}]}`,
		},
		{
			findings.NoDraw, "/notices/0/experiment",
			`"experiment":{"goal":{"event":"order"},"holdout":10}`,
			`"experiment":{"goal":{"event":"order"}}`,
		},
		{
			findings.NoSend, "/notices/0/content/rows/0/columns/0/parts/0",
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"m","kind":"field` +
				`","field":{"kind":"long"}}]}]}],"wordings":{"en":{"message":"x","parts":{"m":{"heading":"Mail"}}}}}`,
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"m","kind":"field` +
				`","field":{"kind":"long"}},{"id":"s","kind":"send"}]}]}],"wordings":{"en":{"message":"x","parts":{"m` +
				`":{"heading":"Mail"}}}}}`,
		},
		{
			findings.NoSend, "/notices/0/content/rows/0/columns/0/parts/0",
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"s","kind":"send"` +
				`}]}]}],"wordings":{"en":{"message":"x","parts":{}}}}`,
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"m","kind":"field` +
				`","field":{"kind":"long"}},{"id":"s","kind":"send"}]}]}],"wordings":{"en":{"message":"x","parts":{"m` +
				`":{"heading":"Mail"}}}}}`,
		},
		{
			findings.NoLabel, "/notices/0/content/wordings/en/parts/m",
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"m","kind":"field` +
				`","field":{"kind":"long"}},{"id":"s","kind":"send"}]}]}],"wordings":{"en":{"message":"x","parts":{}}` +
				`}}`,
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"m","kind":"field` +
				`","field":{"kind":"long"}},{"id":"s","kind":"send"}]}]}],"wordings":{"en":{"message":"x","parts":{"m` +
				`":{"heading":"Mail"}}}}}`,
		},
		{
			findings.NoPrivacy, "/notices/0/content/wordings",
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"m","kind":"field` +
				`","field":{"kind":"email"}},{"id":"s","kind":"send"}]}]}],"wordings":{"en":{"message":"x","parts":{"` +
				`m":{"heading":"Mail"}}}}}`,
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"m","kind":"field` +
				`","field":{"kind":"email"}},{"id":"s","kind":"send"}]}]}],"wordings":{"en":{"message":"x<a href='/bo` +
				`ok'>p</a>","parts":{"m":{"heading":"Mail"}}}}}`,
		},
		{
			findings.NoNext, "/notices/0/content/form/after",
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"m","kind":"field` +
				`","field":{"kind":"long"}},{"id":"s","kind":"send"}]}]}],"wordings":{"en":{"message":"x","parts":{"m` +
				`":{"heading":"Mail"}}}},"form":{"after":{"then":"page"}}}`,
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"m","kind":"field` +
				`","field":{"kind":"long"}},{"id":"s","kind":"send"}]}]}],"wordings":{"en":{"message":"x","parts":{"m` +
				`":{"heading":"Mail"}}}},"form":{"after":{"then":"page","to":"/book"}}}`,
		},
		{
			findings.Returns, "/notices/0/memory",
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"m","kind":"field` +
				`","field":{"kind":"long"}},{"id":"s","kind":"send"}]}]}],"wordings":{"en":{"message":"x","parts":{"m` +
				`":{"heading":"Mail"}}}}}`,
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"m","kind":"field` +
				`","field":{"kind":"long"}},{"id":"s","kind":"send"}]}]}],"wordings":{"en":{"message":"x","parts":{"m` +
				`":{"heading":"Mail"}}}}},"memory":{"answered":"ever"}`,
		},
		{
			findings.NoCaptions, "/notices/0/content/wordings/en/parts/v",
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"v","kind":"video` +
				`","video":{"file":"/f.webm"}}]}]}],"wordings":{"en":{"message":"x","parts":{}}}}`,
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"v","kind":"video` +
				`","video":{"file":"/f.webm"}}]}]}],"wordings":{"en":{"message":"x","parts":{"v":{"captions":"WEBVTT\` +
				`n"}}}}}`,
		},
		{
			findings.UngatedFrame, "/notices/0/content/rows/0/columns/0/parts/0/video",
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"v","kind":"video` +
				`","video":{"frame":"https://f.example/1"}}]}]}],"wordings":{"en":{"message":"x","parts":{}}}}`,
			`"kind":"pop-up","slot":"corner-end","content":{"rows":[{"columns":[{"parts":[{"id":"v","kind":"video` +
				`","video":{"frame":"/f.html"}}]}]}],"wordings":{"en":{"message":"x","parts":{}}}}`,
		},
		{findings.NotClosable, "/notices/0/memory/closable", `"memory":{"closable":false}`, `"memory":{"closed":"P1D"}`},
		{
			findings.LowContrast, "/notices/0/look", `"look":{"background":"#ffffff","text":"#777777"}`,
			`"look":{"background":"#ffffff","text":"#767676"}`,
		},
		{
			findings.LowContrast, "/notices/0/look/dark", `"look":{"dark":{"background":"#202020","text":"#404040"}}`,
			`"look":{"dark":{"background":"#202020"}}`,
		},
		{
			findings.LowContrast, "/notices/0/look/buttons", `"look":{"buttons":{"background":"#767676","text":"#16202e"}}`,
			`"look":{"buttons":{"background":"#767676"}}`,
		},
		{
			findings.LowContrast, "/notices/0/look/headline",
			`"look":{"background":"#ffffff","headline":{"colour":"#8f8f8f","size":23}},` +
				`"content":{"wordings":{"en":{"headline":"H","message":"x"}}}`,
			`"look":{"background":"#ffffff","headline":{"colour":"#8f8f8f","size":24}},` +
				`"content":{"wordings":{"en":{"headline":"H","message":"x"}}}`,
		},
		{
			findings.LowContrast, "/notices/0/look/headline",
			`"look":{"background":"#ffffff","headline":{"colour":"#949494","size":18,"weight":"bold"}},` +
				`"content":{"wordings":{"en":{"headline":"H","message":"x"}}}`,
			`"look":{"background":"#ffffff","headline":{"colour":"#949494","size":19,"weight":"bold"}},` +
				`"content":{"wordings":{"en":{"headline":"H","message":"x"}}}`,
		},
		{
			findings.LowContrast, "/notices/0/look/iconColour", `"look":{"icon":"anchor","iconColour":"#303030"}`,
			`"look":{"iconColour":"#303030"}`,
		},
		{
			findings.LowContrast, "/notices/0/look/iconColour",
			`"look":{"icon":"anchor","background":"#ffffff","iconColour":"#959595"}`,
			`"look":{"icon":"anchor","background":"#ffffff","iconColour":"#949494"}`,
		},
		{
			findings.LowContrast, "/notices/0/content/picture/veil",
			`"content":{"picture":{"file":"0123456789abcdef.png","width":1,"height":1,"decorative":true,"place":"behind",` +
				`"veil":60},"wordings":{"en":{"message":"x"}}}`,
			`"content":{"picture":{"file":"0123456789abcdef.png","width":1,"height":1,"decorative":true,"place":"behind",` +
				`"veil":61},"wordings":{"en":{"message":"x"}}}`,
		},
		{
			findings.LowContrast, "/notices/0/content/consent/againText",
			`"kind":"consent","content":{"consent":{"againColours":"own","againField":"#777777","againText":"#888888"},` +
				`"wordings":{"en":{"message":"x","link":{"href":"/book"}}}}`,
			`"kind":"consent","content":{"consent":{"againColours":"own","againField":"#777777"},` +
				`"wordings":{"en":{"message":"x","link":{"href":"/book"}}}}`,
		},
		{findings.NoTheme, "/notices/0/look/theme", `"look":{"theme":"Winter"}`, `"look":{}`},
		{
			findings.FarPicture, "/notices/0/content",
			`"content":{"picture":{"address":"https://pictures.example/a.jpg","decorative":true},` +
				`"wordings":{"en":{"message":"x"}}}`,
			`"content":{"picture":{"address":"https://s.example/a.jpg","decorative":true},` +
				`"wordings":{"en":{"message":"x"}}}`,
		},
		{findings.NoSpot, "/notices/0/slot", `"slot":"inline"`, `"slot":"inline","spot":{"selector":"h1"}`},
		{
			findings.NoSpot, "/notices/0/spots",
			`"pages":{"include":[{"match":"all"}]},"slot":"inline","spots":[{"selector":"h1",` +
				`"pages":{"include":[{"match":"section","path":"/ports"}]}}]`,
			`"pages":{"include":[{"match":"all"}]},"slot":"inline","spots":[{"selector":"h1",` +
				`"pages":{"include":[{"match":"section","path":"/ports"}]}},{"selector":"h2"}]`,
		},
		{
			findings.NoAlt, "/notices/0/content/wordings/en",
			`"content":{"picture":{"file":"0123456789abcdef.png","width":1,"height":1},"wordings":{"en":{"message":"x"}}}`,
			`"content":{"picture":{"file":"0123456789abcdef.png","width":1,"height":1},"wordings":{"en":{"message":"x",` +
				`"alt":"y"}}}`,
		},
		{
			findings.NoAlt, "/notices/0/content/wordings/en",
			`"content":{"picture":{"file":"0123456789abcdef.png","width":1,"height":1},"wordings":{"en":{"message":"x"}}}`,
			`"content":{"picture":{"file":"0123456789abcdef.png","width":1,"height":1,"decorative":true},` +
				`"wordings":{"en":{"message":"x"}}}`,
		},
		{
			findings.Unread, "/notices/0/content/wordings/de",
			`"content":{"wordings":{"en":{"message":"x"},"de":{"message":"y","unread":true}}}`,
			`"content":{"wordings":{"en":{"message":"x"},"de":{"message":"y"}}}`,
		},
		{
			findings.OldWording, "/notices/0/content/wordings/de",
			`"content":{"wordings":{"en":{"message":"x"},"de":{"message":"y","source":"another text"}}}`,
			`"content":{"wordings":{"en":{"message":"x"},"de":{"message":"y"}}}`,
		},
		{findings.NoWording, "/notices/0/content", `"content":{"wordings":{"en":{"message":"<p><br></p>"}}}`, ``},
	} {
		find := func(parts string) *findings.Finding {
			for _, f := range check(t, sound("n", parts)) {
				if f.Code == c.code {
					return &f
				}
			}
			return nil
		}
		f := find(c.has)
		if assert.NotNil(t, f, "%s in %s", c.code, c.has) {
			assert.Equal(t, []string{"n"}, f.Notices)
			assert.Equal(t, c.pointer, f.Pointers[0])
			assert.NotEmpty(t, f.What)
			assert.NotEmpty(t, f.Fix)
		}
		assert.Nil(t, find(c.hast), "%s in %s", c.code, c.hast)
	}
	assert.Empty(t, check(t, sound("n", "")), "a sound bar has none")

	// Where the notice's link is dead and a variant has another dead one, both are found, and the first once.
	var dead []string
	for _, f := range check(t, sound("n", `"content":{"wordings":{"en":{"message":"x","link":{"href":"/pier",`+
		`"label":"x"}}}},"experiment":{"goal":{"event":"order"},"variants":[{"id":"a"},{"id":"b","wordings":{"en":`+
		`{"link":{"href":"/boat","label":"x"}}}}]}`)) {
		if f.Code == findings.DeadLink {
			dead = append(dead, f.Pointers[0]+" "+f.What)
		}
	}
	assert.ElementsMatch(t, []string{
		"/notices/0/content/wordings/en/link/href “n” leads to /pier, which is no known page of this site.",
		"/notices/0/experiment/variants/1/wordings/en/link/href “n”, variant “b”, leads to /boat, which is no known page " +
			"of this site.",
	}, dead)
}

// Whoever is to see a notice has to be able to come to it: those of which each waits for another reach nobody new,
// until one of them can be met without.
func TestNobodyNew(t *testing.T) {
	counts := func(fact string) string { return `"audience":{"fact":"notice.` + fact + `","is":"gte","value":1}` }
	form := func(id, then string) string {
		return sound(id, `"memory":{"answered":"ever"},"content":{"form":{"after":{"then":"notice","to":"`+
			then+`"}},`+
			`"rows":[{"columns":[{"parts":[{"kind":"field","id":"f","field":{"kind":"text"}},{"kind":"send","id":"s"}]}]}],`+
			`"wordings":{"en":{"message":"x","parts":{"f":{"heading":"F"},"s":{"text":"Send"}}}}}`)
	}
	for _, c := range []struct {
		name    string
		notices []string
		want    []string
	}{
		{"each other", []string{sound("a", counts("b.shown")), sound("b", counts("a.closed"))}, []string{"a", "b"}},
		{"one by itself", []string{sound("a", counts("b.shown")), sound("b", "")}, nil},
		{"what follows those", []string{
			sound("c", counts("b.clicked")), sound("a", counts("b.shown")), sound("b", counts("a.shown")),
		}, []string{"a", "b", "c"}},
		{"or otherwise", []string{
			sound("a", counts("b.shown")),
			sound("b", `"audience":{"any":[{"fact":"notice.a.shown","is":"gte","value":1},`+
				`{"fact":"visits.number","is":"gte","value":3}]}`),
		}, nil},
		{"forms that follow each other", []string{form("a", "b"), form("b", "a")}, []string{"a", "b"}},
		{"forms one after the other", []string{form("a", "b"), form("b", "c"), sound("c", "")}, nil},
		{"one that is not there", []string{sound("a", counts("gone.shown"))}, nil},
	} {
		var got []string
		for _, f := range check(t, c.notices...) {
			if f.Code == findings.NobodyNew {
				got = append(got, f.Notices[0])
			}
		}
		assert.ElementsMatch(t, c.want, got, c.name)
	}
	var saved []string
	for _, f := range checkSite(t, `"audiences":[{"name":"Again","audience":{"all":[{"fact":"notice.gone.shown",`+
		`"is":"gte","value":1}]}}]`) {
		saved = append(saved, string(f.Code)+" "+f.Pointers[0])
	}
	assert.Equal(t, []string{"no-notice /site/audiences/0/audience/all/0"}, saved)
}

// A check of more than can be looked at ends, and says what it leaves out; one that nobody waits for any more ends too.
func TestChecksEnd(t *testing.T) {
	var notices []string
	for i := range 40 {
		var parts []string
		for k := range 200 {
			parts = append(parts, fmt.Sprintf(`{"fact":"page.title","is":"like","value":"*%da*%d*b*%d*"}`, k, i, k%7))
		}
		notices = append(notices, sound(fmt.Sprint("n", i), `"audience":{"none":[`+strings.Join(parts, ",")+`]}`))
	}
	var said []string
	for _, f := range check(t, notices...) {
		if f.Code == findings.NotChecked {
			said = append(said, f.What)
		}
	}
	assert.Contains(
		t, said, "Whether visitors can be in each audience was not checked to the end: there is too much to look at.",
	)

	b, err := bundle.Parse([]byte(`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC",` +
		`"language":"en"},"notices":[` + strings.Join(notices, ",") + `]}`))
	require.NoError(t, err)
	s, err := decide.Compile(b)
	require.NoError(t, err)
	gone, leave := context.WithCancel(t.Context())
	leave()
	_, err = findings.Check(gone, s, at)
	require.ErrorIs(t, err, context.Canceled)
	known, err := findings.NewKnown(t.Context(), s)
	require.NoError(t, err)
	_, err = known.Check(gone, at)
	require.ErrorIs(t, err, context.Canceled)
}

// What an inspection finds amiss: before an answer, after a refusal, unlisted,
// kept longer. What is strictly necessary, and what was agreed to, is not.
func TestFindingsOfAnInspection(t *testing.T) {
	setup := consent.Setup{Purposes: []consent.Purpose{{ID: "marketing"}}, Inventory: []consent.Item{
		{
			Kind:    consent.Cookie,
			Name:    "gnt",
			Purpose: "marketing",
			Lasts:   "P30D",
		}, {
			Kind:    consent.Cookie,
			Name:    "basket",
			Purpose: consent.Necessary,
			Lasts:   "session",
		}, {Kind: consent.Frame, Name: "films.example", Purpose: "marketing"}}}
	see := func(phase consent.Phase, kind consent.ItemKind, name, lasts string) consent.Sighting {
		return consent.Sighting{
			Phase: phase,
			Kind:  kind,
			Name:  name,
			Lasts: lasts,
			Page:  "/fares",
			By:    "https://gannet.example/g.js",
			After: 1234,
		}
	}
	for _, c := range []struct {
		found   []consent.Sighting
		code    findings.Code
		what    string
		pointer string
	}{
		{
			[]consent.Sighting{see(consent.Unanswered, consent.Cookie, "gnt", "P30D")}, findings.Leak,
			"Cookie “gnt” is set before any answer: on /fares, by https://gannet.example/g.js, 1.2 s after the page was asked " +
				"for.",
			"/site/consent/inventory/0",
		},
		{
			[]consent.Sighting{see(consent.AllRefused, consent.Cookie, "gnt", "P30D")}, findings.Leak,
			"Cookie “gnt” is set after a refusal: on /fares, by https://gannet.example/g.js, 1.2 s after the page was asked " +
				"for.",
			"/site/consent/inventory/0",
		},
		{
			[]consent.Sighting{see(consent.AllRefused, consent.Frame, "films.example", "")}, findings.Leak,
			"Frame “films.example” is fetched after a refusal: on /fares, by https://gannet.example/g.js, 1.2 s after the " +
				"page was asked for.",
			"/site/consent/inventory/2",
		},
		{
			[]consent.Sighting{see(consent.Unanswered, consent.Storage, "who", "ever")}, findings.Leak,
			"Storage key “who” is set before any answer: on /fares, by https://gannet.example/g.js, 1.2 s after the page was " +
				"asked for.",
			"/site/consent/inventory",
		},
		{
			[]consent.Sighting{see(consent.AllAccepted, consent.Cookie, "other", "P1D")}, findings.Unlisted,
			"Cookie “other” is not in the inventory: on /fares, by https://gannet.example/g.js, 1.2 s after the page was " +
				"asked for.",
			"/site/consent/inventory",
		},
		{
			[]consent.Sighting{see(consent.AllAccepted, consent.Cookie, "gnt", "P31D")}, findings.Longer,
			"Cookie “gnt” is kept longer than the inventory says: P31D.", "/site/consent/inventory/0",
		},
		{
			[]consent.Sighting{
				see(consent.AllAccepted, consent.Cookie, "gnt", "P30D"),
				see(consent.Unanswered, consent.Cookie, "basket", "session"),
				see(consent.Unanswered, consent.Storage, "mastflag.s", "ever"),
			},
			"", "", "",
		},
	} {
		got := findings.InspectionFindings(setup, consent.Run{Found: c.found})
		if c.code == "" {
			assert.Empty(t, got)
			continue
		}
		require.Len(t, got, 1, c.what)
		assert.Equal(t, c.code, got[0].Code)
		assert.Equal(t, c.what, got[0].What)
		assert.Equal(t, []string{c.pointer}, got[0].Pointers)
		assert.NotEmpty(t, got[0].Fix)
		assert.NotEmpty(t, got[0].Source)
	}
}

// The findings about consent, each with the text that it follows from, a site
// and notice that has it, and one that has not.
func TestConsentFindings(t *testing.T) {
	const listed = `"inventory":[{"kind":"cookie","name":"tw","purpose":"marketing","lasts":"P30D"}]`
	const asked = `"purposes":[{"id":"marketing"}]`
	asking := func(question, parts string) string {
		return sound(
			"ask",
			`"kind":"consent","content":{"consent":{`+question+
				`},"wordings":{"en":{"message":"May we? <a href=\"/book\">Privacy</a>"}}}`+parts,
		)
	}
	style := func(css string) string { return asking("", `,"look":{"css":"`+css+`"}`) }
	for _, c := range []struct {
		code            findings.Code
		source          string
		has, hast       string // notices
		setup, hasSetup string // of the site, where the setup is what differs
	}{
		{
			findings.RefuseHarder, "GDPR Art. 4(11) and 7(3)", asking(`"refuse":"behind"`, ""), asking(`"refuse":"beside"`, ""),
			"", "",
		},
		{
			findings.RefuseHarder, "GDPR Art. 4(11)", asking("", `,"look":{"css":"[data-act=reject]{opacity:.4}"}`),
			asking("", `,"look":{"css":".words{opacity:.9}"}`), "", "",
		},
		{
			findings.RefuseHarder, "03/2022", style(".choices .button:nth-child(2){opacity:.4}"),
			style(".button:focus{outline-offset:4px}"), "", "",
		},
		{
			findings.RefuseHarder, "03/2022", style(".button + .button{font-size:10px}"), style(".words p + p{margin:0}"), "",
			"",
		},
		{findings.RefuseHarder, "03/2022", style(".choices [title]{margin:0}"), style("[dir=rtl] .button{margin:0}"), "", ""},
		{
			findings.RefuseHarder, "03/2022", style(".words ~ .choices > :last-child{margin:0}"),
			style(".words ~ .choices > .button{margin:0}"), "", "",
		},
		{
			findings.RefuseHarder, "03/2022", style(".choices>*{visibility:hidden!important}"),
			style(".choices>*{visibility:visible}"), "", "",
		},
		{findings.RefuseHarder, "03/2022", style(".button{opacity:10%}"), style(".words{opacity:10%}"), "", ""},
		{findings.SmallTarget, "WCAG 2.2 §2.5.8", style(".button{height:1.45em}"), style(".button{height:1.5em}"), "", ""},
		{
			findings.SmallTarget, "WCAG 2.2 §2.5.8", style(".button{min-height:1.2REM ! important}"),
			style(".button{min-height:1.5rem!important}"), "", "",
		},
		{findings.SmallTarget, "WCAG 2.2 §2.5.8", style(".close{width:17.9pt}"), style(".close{width:18pt}"), "", ""},
		{
			findings.SmallTarget, "WCAG 2.2 §2.5.8", style("@media (min-width:1px){.button{block-size:0}}"),
			style(".button{block-size:auto}"), "", "",
		},
		{
			findings.UnsureTarget, "WCAG 2.2 §2.5.8", style(".button{height:calc(1em - 4px)}"),
			style(".words{height:calc(1em - 4px)}"), "", "",
		},
		{findings.UnsureTarget, "WCAG 2.2 §2.5.8", style(".button{max-width:3%}"), style(".button{max-width:none}"), "", ""},
		{
			findings.SmallTarget, "WCAG 2.2 §2.5.8", asking("", `,"look":{"css":".words b,.choices .button{min-height:20px}"}`),
			asking("", `,"look":{"css":".choices .button{min-height:24px}.words{max-width:20px}"}`), "", "",
		},
		{findings.Ticked, "C-673/17", asking(`"ticked":["marketing"]`, ""), asking(`"ticked":[]`, ""), "", ""},
		{findings.ClosingIs, "GDPR Art. 4(11)", asking(`"closing":"accept"`, ""), asking(`"closing":"nothing"`, ""), "", ""},
		{
			findings.GoingOnIs, "EDPB Guidelines 05/2020", asking(`"goingOn":"accept"`, ""), asking(`"goingOn":"nothing"`, ""),
			"", "",
		},
		{findings.NoWayBack, "GDPR Art. 7(3)", asking(`"again":"none"`, ""), asking(`"again":"end"`, ""), "", ""},
		{findings.HoldsLong, "common practice", asking(`"holds":"P14M"`, ""), asking(`"holds":"P13M"`, ""), "", ""},
		{
			findings.HoldsLong, "common practice", asking(`"refusalHolds":"P14M"`, ""), asking(`"refusalHolds":"P13M"`, ""),
			"", "",
		},
		{
			findings.AsksAgain, "EDPB Guidelines 03/2022", asking(`"holds":"P1Y","refusalHolds":"P364D"`, ""),
			asking(`"holds":"P1Y","refusalHolds":"P365D"`, ""), "", "",
		},
		{
			findings.LockedOut, "GDPR Art. 7(4)", asking("", `,"slot":"centre","memory":{"closable":false}`),
			asking("", `,"slot":"centre"`), "", "",
		},
		{
			findings.NoPolicy, "GDPR Art. 12(1)",
			sound("ask", `"kind":"consent","content":{"wordings":{"en":{"message":"May we?"}}}`), asking("", ""), "", "",
		},
		{findings.LowContrast, "", asking("", `,"look":{"background":"#777777","text":"#888888"}`), asking("", ""), "", ""},
		{findings.NothingAsks, "ePrivacy Directive Art. 5(3)", sound("a", ""), asking("", ""), "", ""},
		{findings.AsksNothing, "", asking("", ""), asking("", ""), `"unlisted":"opt-in"`, asked + "," + listed},
		{
			findings.EmptyPurpose, "GDPR Art. 5(1)", asking("", ""), asking("", ""),
			`"purposes":[{"id":"marketing"},{"id":"preferences"}],` + listed, asked + "," + listed,
		},
		{
			findings.Unplaced, "GDPR Art. 5(1)(b)", asking("", ""), asking("", ""),
			asked + `,"inventory":[{"kind":"cookie","name":"tw","purpose":"marketing","lasts":"P1D"},{"kind":"cookie",` +
				`"name":"x"}]`,
			asked + "," + listed,
		},
		{
			findings.PendingDetail, "C-673/17", asking("", ""), asking("", ""),
			asked + `,"inventory":[{"kind":"cookie","name":"tw","purpose":"marketing"}]`, asked + "," + listed,
		},
		{
			findings.PendingDetail, "C-673/17", asking("", ""), asking("", ""),
			asked + `,"inventory":[{"kind":"frame","name":"films.example","purpose":"marketing"}]`,
			asked + `,"inventory":[{"kind":"frame","name":"films.example","purpose":"marketing","by":"Films"}]`,
		},
		{
			findings.PlacesNews, "", asking("", ""), asking("", ""), asked + "," + listed + `,"tableRead":"2020-01-01"`,
			asked + "," + listed + `,"tableRead":"2999-01-01"`,
		},
	} {
		found := func(notice, setup string) *findings.Finding {
			if setup == "" {
				setup = asked + "," + listed
			}
			for _, f := range checkSite(t, `"consent":{`+setup+`}`, notice) {
				if f.Code == c.code {
					return &f
				}
			}
			return nil
		}
		f := found(c.has, c.setup)
		if assert.NotNil(t, f, "%s: %s %s", c.code, c.has, c.setup) {
			assert.Contains(t, f.Source, c.source, c.code)
			assert.NotEmpty(t, f.Fix, c.code)
			if len(f.Notices) > 0 {
				for _, m := range f.Fixes {
					assert.Nil(t, found(patched(t, c.has, m), c.setup), "%s: %s", c.code, m.Label)
				}
			}
			for _, m := range f.Fixes {
				if len(f.Notices) > 0 {
					continue
				}
				mended := patched(t, `{"consent":{`+c.setup+`}}`, m)
				assert.Nil(
					t, found(c.has, strings.TrimSuffix(strings.TrimPrefix(mended, `{"consent":{`), `}}`)), "%s: %s", c.code, m.Label,
				)
			}
		}
		assert.Nil(t, found(c.hast, c.hasSetup), "%s: %s %s", c.code, c.hast, c.hasSetup)
	}
}

// Findings about documents, each with a case that has it and one that has not.
func TestDocumentFindings(t *testing.T) {
	const (
		out = `"version":1,"material":1,"since":"2026-11-01T00:00:00Z","published":{"en":{"title":"House rules",` +
			`"text":"<h2>Rules</h2>"}}`
		rules = `"documents":[{"id":"rules","kind":"own","titles":{"en":"House rules"},"own":{"text":{"en":"<h2>` +
			`Rules</h2>"}},` + out + `}]`
		draft = `"documents":[{"id":"rules","kind":"own","titles":{"en":"House rules"},"own":{"text":{"en":"<h2>` +
			`Rules</h2>"}}}]`
		changed = `"documents":[{"id":"rules","kind":"own","titles":{"en":"House rules"},"own":{"text":{"en":"<h2>Other ` +
			`rules</h2>"}},` + out + `}]`
		beside = `"documents":[{"id":"rules","kind":"own","titles":{"en":"House rules"},"own":{"text":{"en":"<h2>` +
			`Rules</h2>"}},"of":{"text":{"en":"0123456789ab"}}}]`
		table = `"consent":{"purposes":[{"id":"marketing"}],"inventory":[{"kind":"cookie","name":"gnt",` +
			`"purpose":"marketing","lasts":"P1D"}]}`
		cookies = `"documents":[{"id":"cookies","kind":"cookies","version":1,"material":1,"since":"2026-11-01T00:00:00Z",` +
			`"published":{"en":{"title":"Cookie statement","text":"<p>None.</p>"}},"basis":{"inventory":[{"kind":"cookie",` +
			`"name":"%s","purpose":"marketing","lasts":"%s"}]}}]`
	)
	says := func(disclaimer, more string) string {
		return sound(
			"n",
			`"kind":"disclaimer","slot":"centre","content":{"disclaimer":{`+disclaimer+
				`},"wordings":{"en":{"message":"Is it so?"}}}`+more,
		)
	}
	links := sound(
		"n",
		`"content":{"wordings":{"en":{"message":"Read <a href=\"document:rules\">the rules</a>",`+
			`"link":{"href":"document:rules","label":"Rules"}}}}`,
	)
	for _, c := range []struct {
		code          findings.Code
		what          string
		site, has     string
		siteNot, hast string
	}{
		{findings.NoDocument, "leads to the document “rules”, which is not there", `"display":true`, links, rules, links},
		{findings.NoDocument, "leads to “House rules”, which is not published", draft, links, rules, links},
		{
			findings.NoDocument, "which is not published", draft,
			says(`"document":"rules","ask":"acknowledge","else":"https://x.example"`, ""), rules,
			says(`"document":"rules","ask":"acknowledge","else":"https://x.example"`, ""),
		},
		{
			findings.NoWayOut, "those of whom it is not so can go nowhere", rules, says(`"ask":"declare"`, ""), rules,
			says(`"ask":"declare","else":"https://x.example"`, ""),
		},
		{
			findings.NoWayOut, "who does not acknowledge it can only leave the site", rules, says(`"ask":"acknowledge"`, ""),
			rules, says(`"ask":"read"`, ""),
		},
		{
			findings.NoWayOut, "leads who does not agree to /book, and lies over that page too", rules,
			says(`"ask":"acknowledge","else":"/book"`, ""), rules,
			says(
				`"ask":"acknowledge","else":"/book"`,
				`,"pages":{"include":[{"match":"all"}],"exclude":[{"match":"page","path":"/book"}]}`,
			),
		},
		{
			findings.NoWayOut, "", rules, says(`"ask":"declare","else":"/"`, ""), rules,
			sound(
				"n",
				`"kind":"disclaimer","content":{"disclaimer":{"ask":"declare","else":"/"},"wordings":{"en":{"message":"Is it `+
					`so?"}}}`,
			),
		},
		{
			findings.NoWayOut, "where nothing can be pressed", rules,
			sound(
				"n",
				`"kind":"disclaimer","slot":"title","content":{"disclaimer":{"ask":"acknowledge","else":"https://x.example"},`+
					`"wordings":{"en":{"message":"Is it so?"}}}`,
			),
			rules, says(`"ask":"acknowledge","else":"https://x.example"`, ""),
		},
		{
			findings.Behind,
			"Version 1 of “House rules” is out, and its answers or the site’s set-up have changed since, in English", changed,
			"", rules, "",
		},
		{findings.ReadAgain, "“text” of “House rules” was written beside a text that has changed", beside, "", draft, ""},
		{
			findings.OpenItem, "“Terms of use” does not say: name of the provider", `"documents":[{"id":"t","kind":"terms"}]`,
			"",
			`"documents":[{"id":"t","kind":"terms","answers":{"operator":"S","address":"Quay 1","email":"a@s.example",` +
				`"register":"no","licensed":"no","regulated":"no","taxed":"no","prices":"no"}}]`,
			"",
		},
		{
			findings.OldTable, "since version 1 of “Cookie statement” went out: the row “gnt” is new, the row “old” is gone",
			table + "," + fmt.Sprintf(cookies, "old", "P1D"), "", table + "," + fmt.Sprintf(cookies, "gnt", "P1D"), "",
		},
		{
			findings.OldTable, "the row “gnt” changed", table + "," + fmt.Sprintf(cookies, "gnt", "P9D"), "",
			table + "," + fmt.Sprintf(cookies, "gnt", "P1D"), "",
		},
		{
			findings.Untranslated, "“House rules” has no words in French for “text”", `"languages":["en","fr"],` + draft, "",
			draft, "",
		}, // the later list of languages is what counts,
		{
			findings.NotClosable, "", rules, sound("n", `"memory":{"closable":false}`), rules,
			says(`"ask":"acknowledge","else":"https://x.example"`, ""),
		},
	} {
		found := func(site, notice string) *findings.Finding {
			var list []string
			if notice != "" {
				list = append(list, notice)
			}
			for _, f := range checkSite(t, site, list...) {
				if f.Code == c.code {
					return &f
				}
			}
			return nil
		}
		f := found(c.site, c.has)
		if assert.NotNil(t, f, "%s: %s %s", c.code, c.site, c.has) {
			assert.Contains(t, f.What, c.what, c.code)
			assert.NotEmpty(t, f.Fix, c.code)
			for _, m := range f.Fixes {
				assert.Nil(t, found(c.site, patched(t, c.has, m)), "%s: %s", c.code, m.Label)
			}
		}
		assert.Nil(t, found(c.siteNot, c.hast), "%s: %s %s", c.code, c.siteNot, c.hast)
	}
}

func TestUntranslated(t *testing.T) {
	b, err := bundle.Parse([]byte(`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC",` +
		`"language":"en","languages":["en","de","pl"]},"notices":[` + sound("n", "") + `]}`))
	require.NoError(t, err)
	s, err := decide.Compile(b)
	require.NoError(t, err)
	found := checked(s, at)
	require.Len(t, found, 1)
	assert.Equal(t, findings.Untranslated, found[0].Code)
	assert.Equal(t, "“n” has no words in German and Polish.", found[0].What)
	assert.Equal(t, []string{"/notices/0/content/wordings/de", "/notices/0/content/wordings/pl"}, found[0].Pointers)

	// A page gets the words of the language that its own is a kind of, however the tags are written (RFC 4647 §3.4).
	in := sound("n", `"content":{"wordings":{"EN":{"message":"x"},"De":{"message":"y"},"sl-Latn":{"message":"z"}}}`)
	for languages, want := range map[string]string{
		`"en","de-AT","DE","sl-Latn-x-rozaj"`: "",
		`"en","sl"`:                           "“n” has no words in Slovenian.",
		`"en","den"`:                          "“n” has no words in Slave.",
	} {
		what := ""
		for _, f := range checkSite(t, `"languages":[`+languages+`]`, in) {
			if f.Code == findings.Untranslated {
				what += f.What
			}
		}
		assert.Equal(t, want, what, languages)
	}
}

// A notice matches no known page exactly where its conditions, tried on one page
// after the other, take none.
func TestMatchesNone(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 1))
	paths := []string{"/", "/book", "/ports", "/ports/a", "/gone", "/gone/x"}
	entry := func() pages.Entry {
		switch path := paths[r.IntN(len(paths))]; r.IntN(8) {
		case 0:
			return pages.Entry{Match: pages.All}
		case 1:
			return pages.Entry{Match: pages.Home}
		case 2, 3:
			return pages.Entry{Match: pages.Section, Path: path}
		case 4:
			return pages.Entry{Match: pages.Pattern, Pattern: path + "*"}
		case 5:
			return pages.Entry{Match: pages.InSet, Name: "ports"}
		default:
			return pages.Entry{Match: pages.Page, Path: path}
		}
	}
	some := func(least, most int) (list []pages.Entry) {
		for range least + r.IntN(most-least+1) {
			list = append(list, entry())
		}
		return list
	}
	none := 0
	for range 40 {
		in := bundle.Bundle{
			Format: bundle.Format,
			Site: bundle.Site{
				Key:      "s",
				Name:     "S",
				TimeZone: "UTC",
				Language: "en",
				PageSets: []pages.SavedSet{{
					Name:       "ports",
					Conditions: pages.Conditions{Include: []pages.Entry{{Match: pages.Section, Path: paths[1+r.IntN(5)]}}},
				}},
			},
		}
		for _, path := range paths[:4] {
			in.Pages = append(in.Pages, bundle.Page{Path: path})
		}
		for i := range 12 {
			state := []bundle.State{bundle.Published, bundle.Draft, bundle.Paused}[r.IntN(3)]
			in.Notices = append(in.Notices, bundle.Notice{
				ID:    fmt.Sprint("n", i),
				Kind:  bundle.KindBar,
				State: state,
				Pages: &pages.Conditions{Include: some(1, 3), Exclude: some(0, 3)},
			})
		}
		s, err := decide.Compile(in)
		require.NoError(t, err)
		has := map[string]bool{}
		for _, f := range checked(s, at) {
			has[f.Notices[0]] = has[f.Notices[0]] || f.Code == findings.MatchesNone
		}
		names, faults := in.Site.Names()
		require.Empty(t, faults)
		for _, n := range in.Notices {
			set, faults := pages.Compile(n.GetPages(), names)
			require.Empty(t, faults)
			want := !slices.ContainsFunc(
				in.Pages, func(p bundle.Page) bool { return set.Test(pages.Subject{Path: p.Path}).Shows },
			)
			assert.Equal(t, want, has[n.ID], "%+v", n.Pages)
			if want {
				none++
			}
		}
	}
	assert.Greater(t, none, 20)
}

func TestRivals(t *testing.T) {
	only := func(path string) string { return `"pages":{"include":[{"match":"page","path":"` + path + `"}]}` }
	from := func(f, u string) string { return `"schedule":{"windows":[{"from":"` + f + `","until":"` + u + `"}]}` }
	rivals := func(notices ...string) []findings.Finding {
		var out []findings.Finding
		for _, f := range check(t, notices...) {
			if f.Code == findings.Rival {
				out = append(out, f)
			}
		}
		return out
	}
	a, b := sound("a", `"rank":90`), sound("b", `"rank":80`)
	assert.Empty(t, rivals(a, b), "the top holds two")

	got := rivals(a, b, sound("c", only("/ports/a")+","+from("2026-12-10T09:00", "2026-12-11T09:00")))
	require.Len(t, got, 1)
	assert.Equal(t, []string{"c", "a", "b"}, got[0].Notices, "who loses, who wins")
	assert.Equal(
		t, "“c” can be held back on /ports/a from Thu 10 Dec 09:00: “a” and “b” take the place at the top.", got[0].What,
	)

	assert.Empty(t, rivals(a, b, sound("c", `"slot":"bottom"`)), "another slot")
	assert.Empty(t, rivals(a, b, sound("c", `"state":"draft"`)), "a draft competes with no one")
	assert.Empty(t, rivals(sound("a", only("/")), sound("b", only("/")), sound("c", only("/book"))), "other pages")
	assert.Empty(
		t,
		rivals(
			sound("a", from("2026-12-05T00:00", "2026-12-06T00:00")), sound("b", from("2026-12-06T00:00", "2026-12-07T00:00")),
			sound("c", ""),
		),
		"they never meet all three",
	)
	assert.Empty(t, rivals(sound("a", from("2026-12-02T00:00", "2026-12-04T12:00")), b, sound("c", "")), "it is over")

	to := func(is, value string) string {
		return `"audience":{"fact":"place.country","is":"` + is + `","value":"` + value + `"}`
	}
	assert.Len(t, rivals(a, b, sound("c", to("eq", "DE"))), 1, "some visitor is met by all three")
	assert.Empty(
		t, rivals(sound("a", to("eq", "DE")), sound("b", to("eq", "FR")), sound("c", "")), "no visitor is in both places",
	)
	assert.Empty(
		t, rivals(a, sound("b", to("ne", "DE")), sound("c", to("eq", "DE"))), "the audiences never meet all three",
	)
	fridays := `"schedule":{"windows":[{"from":"2026-12-04T13:00","until":"2026-12-04T14:00","rule":"FREQ=WEEKLY"}]}`
	saturdays := `"schedule":{"windows":[{"from":"2026-12-05T13:00","until":"2026-12-05T14:00","rule":"FREQ=WEEKLY"}]}`
	assert.Empty(t, rivals(sound("a", fridays), sound("b", saturdays), sound("c", "")), "repeats that never meet")
	assert.Len(t, rivals(sound("a", fridays), sound("b", fridays), sound("c", "")), 1)
	later := func(day string) string { return from(day+"T00:00", day+"T12:00") }
	assert.Len(t, rivals(a, b, sound("c", later("2028-12-04"))), 1, "they meet within two years")
	assert.Empty(t, rivals(a, b, sound("c", later("2028-12-07"))), "nobody looks further")
	corner := `"slot":"corner-end"`
	got = rivals(sound("a", corner), sound("b", `"rank":20,`+corner))
	require.Len(t, got, 1)
	assert.Equal(
		t, "“b” can be held back on / from Fri 4 Dec 12:00: “a” takes the place in the bottom right corner.", got[0].What,
	)
	assert.Empty(
		t, rivals(sound("a", `"slot":"inline","kind":"block"`), sound("b", `"slot":"inline","kind":"block"`)),
		"blocks have no rivals",
	)
	assert.Len(t, rivals(sound("a", `"slot":"centre"`), sound("b", `"slot":"cover"`)), 1, "centre and cover share a place")

}

// A consent notice has its place before others until it is answered, and they lose it to each other after that: that is
// found in every slot. Only an emergency keeps it out.
func TestRivalsBesideAQuestion(t *testing.T) {
	const asked = `"display":true,"consent":{"purposes":[{"id":"marketing"}],"inventory":[{"kind":"cookie","name":"gnt",` +
		`"purpose":"marketing","lasts":"P30D"}]},"languages":["en"]`
	bar := func(id, slot, parts string) string { return sound(id, `"slot":"`+slot+`"`+parts) }
	for _, slot := range []string{"top", "bottom", "corner-end", "centre"} {
		held := func(notices ...string) map[string][]string {
			out := map[string][]string{}
			for _, f := range checkSite(t, asked, append(notices, bar("ask", slot, `,"kind":"consent"`))...) {
				if f.Code == findings.Rival {
					out[f.Notices[0]] = f.Notices[1:]
				}
			}
			return out
		}
		a, b, c := bar("a", slot, `,"rank":90`), bar("b", slot, `,"rank":80`), bar("c", slot, "")
		switch slot {
		case "top":
			require.Equal(t, map[string][]string{"c": {"a", "b"}}, held(a, b, c), slot)
			require.Empty(t, held(a, b), slot)
			a = bar("a", slot, `,"level":"emergency"`)
			b = bar("b", slot, `,"level":"emergency"`)
			require.Equal(t, []string{"a", "b"}, held(a, b, c)["ask"], slot)
		default:
			require.Equal(t, map[string][]string{"b": {"a"}}, held(a, b), slot)
			require.Empty(t, held(a), slot)
			require.Equal(t, map[string][]string{"ask": {"a"}}, held(bar("a", slot, `,"level":"emergency"`)), slot)
			require.Empty(t, held(bar("a", slot, `,"level":"warning"`)), slot)
		}
	}
}

// What a finding offers mends it: the patched notice has the finding no more.
func TestMendsMend(t *testing.T) {
	dull := `"look":{"background":"#777777","text":"#888888"}`
	for _, in := range [][]string{
		{sound("n", `"schedule":{"windows":[{"until":"2026-12-01T00:00"}]}`)},
		{sound("n", `"pages":{}`)},
		{sound("n", `"pages":{"include":[{"match":"section","path":"/nowhere"}]}`)},
		{
			sound(
				"n",
				`"pages":{"include":[{"match":"page","path":"/book"},{"match":"all"}],"exclude":[{"match":"page","path":"/book"}]}`,
			),
		},
		{sound("n", `"pages":{"include":[{"match":"all"},{"match":"page","path":"/book"}]}`)},
		{sound("n", `"pages":{"include":[{"match":"all"},{"match":"page","path":"/bok"}]}`)},
		{sound("n", dull)},
		{sound("n", `"memory":{"closable":false}`)},
		{
			sound(
				"n",
				`"audience":{"all":[{"fact":"visits.number","is":"gte","value":5},{"fact":"visits.number","is":"lt","value":3}]}`,
			),
		},
		{
			sound(
				"n", `"audience":{"any":[{"fact":"visits.number","is":"gte","value":0},{"fact":"visits.number","is":"unset"}]}`,
			),
		},
		{
			sound(
				"n",
				`"audience":{"all":[{"fact":"visits.number","is":"gte","value":5},{"any":[{"fact":"visits.number","is":"gte",`+
					`"value":2}]}]}`,
			),
		},
		{sound("n", `"rank":10`), sound("a", ""), sound("b", "")},
	} {
		var f findings.Finding
		for _, x := range check(t, in...) {
			if x.Notices[0] == "n" && len(x.Fixes) > 0 {
				f = x
				break
			}
		}
		require.NotEmpty(t, f.Fixes, in[0])
		for _, m := range f.Fixes {
			for _, again := range check(t, append([]string{patched(t, in[0], m)}, in[1:]...)...) {
				assert.False(
					t, again.Code == f.Code && again.Notices[0] == "n" && again.Pointers[0] == f.Pointers[0], "%s: %s", m.Label,
					again.What,
				)
			}
		}
	}
}

// patched applies a mend to a notice (RFC 6902, as far as mends go).
func patched(t *testing.T, notice string, m findings.Fix) string {
	var doc any
	require.NoError(t, json.Unmarshal([]byte(notice), &doc))
	for _, op := range m.Patch {
		tokens := strings.Split(op.Path, "/")[1:]
		doc = patch(t, doc, tokens, op)
	}
	out, err := json.Marshal(doc)
	require.NoError(t, err)
	return string(out)
}

func patch(t *testing.T, doc any, tokens []string, op findings.Operation) any {
	switch d := doc.(type) {
	case map[string]any:
		switch {
		case len(tokens) > 1:
			require.Contains(t, d, tokens[0])
			d[tokens[0]] = patch(t, d[tokens[0]], tokens[1:], op)
		case op.Op == "remove":
			require.Contains(t, d, tokens[0])
			delete(d, tokens[0])
		default:
			d[tokens[0]] = op.Value
		}
		return d
	case []any:
		if tokens[0] == "-" {
			require.Equal(t, "add", op.Op)
			return append(d, op.Value)
		}
		i, err := strconv.Atoi(tokens[0])
		require.NoError(t, err)
		if len(tokens) > 1 {
			d[i] = patch(t, d[i], tokens[1:], op)
			return d
		}
		require.Equal(t, "remove", op.Op)
		return append(d[:i:i], d[i+1:]...)
	}
	t.Fatalf("nothing at %v", tokens)
	return nil
}

// What is found of one notice is what is found of it among all.
func TestCheckNotice(t *testing.T) {
	b, err := bundle.Parse([]byte(many(60)))
	require.NoError(t, err)
	s, err := decide.Compile(b)
	require.NoError(t, err)
	byNotice := map[string][]findings.Code{}
	for _, f := range checked(s, at) {
		byNotice[f.Notices[0]] = append(byNotice[f.Notices[0]], f.Code)
	}
	require.NotEmpty(t, byNotice)
	for _, n := range b.Notices {
		var codes []findings.Code
		own, err := findings.CheckNotice(t.Context(), s, at, n.ID)
		require.NoError(t, err)
		for _, f := range own {
			assert.Equal(t, n.ID, f.Notices[0])
			codes = append(codes, f.Code)
		}
		assert.Equal(t, byNotice[n.ID], codes, n.ID)
	}
}

// A memory that is shared by a cookie is in the inventory (rule M6), however much of one
// there is; what is offered puts it there.
func TestSharedMemoryIsListed(t *testing.T) {
	found := func(fields string) []findings.Fix {
		t.Helper()
		for _, f := range checkSite(t, fields, sound("a", "")) {
			if f.Code == findings.OwnUnlisted {
				require.Len(t, f.Fixes, 1)
				return f.Fixes
			}
		}
		return nil
	}
	for _, setup := range []string{
		"", `,"consent":{"unlisted":"nothing"}`,
		`,"consent":{"inventory":[{"kind":"storage","name":"mastflag.*","purpose":"necessary","lasts":"ever"}]}`,
	} {
		site := `"sharedMemory":true` + setup
		mends := found(site)
		require.NotNil(t, mends, setup)
		mended := patched(t, "{"+site+"}", mends[0])
		assert.Nil(t, found(strings.TrimSuffix(strings.TrimPrefix(mended, "{"), "}")), mended)
		assert.Nil(t, found(`"display":true`+setup), "it is off")
	}
	assert.Nil(
		t,
		found(`"sharedMemory":true,"consent":{"inventory":[{"kind":"cookie","name":"mastflag.s","purpose":"necessary",`+
			`"lasts":"P400D"}]}`),
	)
}

// Where the program is not ready in a language, visitors get English, unless the notice or the
// site says it; a draft is offered, and counts once it was read.
func TestWordsThatALanguageLacks(t *testing.T) {
	spanish := func(words string) string {
		return sound("a", `"content":{"wordings":{"en":{"message":"x"},"es":{"message":"y"`+words+`}}}`)
	}
	find := func(site string, notices ...string) *findings.Finding {
		for _, f := range checkSite(t, `"languages":["en","es","ja"]`+site, notices...) {
			if f.Code == findings.NoPhrases || f.Code == findings.Unread && len(f.Notices) == 0 {
				return &f
			}
		}
		return nil
	}
	f := find("", spanish(""))
	require.NotNil(t, f)
	assert.Equal(t, "Visitors who read Spanish get “Close this announcement” on “a”, in English.", f.What)
	assert.Equal(t, []string{"/site/words/es"}, f.Pointers)
	require.Len(t, f.Fixes, 1)
	assert.Equal(t, "/words", f.Fixes[0].Patch[0].Path)
	draft, err := json.Marshal(f.Fixes[0].Patch[0].Value)
	require.NoError(t, err)

	f = find(`,"words":`+string(draft), spanish(""))
	require.NotNil(t, f)
	assert.Equal(t, findings.Unread, f.Code)
	assert.Nil(t, find(`,"words":`+strings.Replace(string(draft), `,"unread":true`, "", 1), spanish("")))
	assert.Nil(t, find("", spanish(`,"words":{"close":"Cerrar","region":"Aviso"}`)))
	assert.NotNil(t, find("", spanish(`,"words":{"close":"Cerrar"}`)))
	assert.Nil(t, find("", spanish(`,"unread":true`)), "nobody gets it")
	f = find("", sound("a", `"content":{"wordings":{"en":{"message":"x"},"ja":{"message":"y"}}}`))
	require.NotNil(t, f)
	assert.Empty(t, f.Fixes, "there is no draft")
	f = find("", sound("a", `"kind":"consent","content":{"consent":{},"wordings":{"en":{"message":"x"},`+
		`"es":{"message":"y"}}}`))
	require.NotNil(t, f)
	assert.Contains(t, f.What, "“Accept all”", "what is seen goes before what is read out")
}

// A notice for the top names the pages at whose bottom it stood, a few of them.
func TestBlockedTop(t *testing.T) {
	on := []string{"/", "/book", "/de", "/fares", "/ports"}
	bar := bundle.Notice{ID: "a", Kind: bundle.KindBar, Title: "Storm"}
	for _, c := range []struct {
		blocked []string
		names   string
	}{
		{nil, ""}, {[]string{"/of-others"}, ""}, {[]string{"/book", "/of-others"}, "/book"},
		{[]string{"/", "/book", "/de"}, "/, /book, /de"}, {on, "/, /book, /de and 2 more"},
	} {
		found := findings.BlockedTop(bar, on, c.blocked)
		if c.names == "" {
			assert.Empty(t, found)
			continue
		}
		require.Len(t, found, 1)
		assert.Equal(t, findings.AtBottom, found[0].Code)
		assert.Contains(t, found[0].What, "“Storm” is for the top and stands at the bottom on "+c.names+":")
	}
	bar.Slot = bundle.Bottom
	assert.Empty(t, findings.BlockedTop(bar, on, on), "it is where it was meant to be")
}

// Conditions that name pages behind a # are right where the site tells these apart, below a page that is known; a page
// may be named by any of its addresses.
func TestAddressesInConditions(t *testing.T) {
	for _, c := range []struct {
		name, routes, conditions string
		code                     findings.Code
	}{
		{"a page", "true", `"include":[{"match":"page","path":"/book#/cabins"}]`, ""},
		{"a section", "true", `"include":[{"match":"section","path":"/#!/cabins"}]`, ""},
		{"a pattern", "true", `"include":[{"match":"pattern","pattern":"/book#/:cabin"}]`, ""},
		{"below an unknown page", "true", `"include":[{"match":"all"}],"exclude":[{"match":"page","path":"/bok#/cabins"}]`,
			findings.UnknownPage},
		{"below no known page", "true", `"include":[{"match":"section","path":"/bok#/cabins"}]`, findings.MatchesNone},
		{"not told apart", "false", `"include":[{"match":"all"}],"exclude":[{"match":"page","path":"/book#/cabins"}]`,
			findings.UnknownPage},
		{"a section, not told apart", "false",
			`"include":[{"match":"all"}],"exclude":[{"match":"section","path":"/book#/cabins"}]`, findings.UnknownPage},
		{"the page itself", "false", `"include":[{"match":"page","path":"/book#/"}]`, ""},
		{"another address", "false", `"include":[{"match":"page","path":"/book.html"}]`, ""},
		{"another address of the home page", "false", `"include":[{"match":"page","path":"/index.php"}]`, ""},
		{"another address, with a route", "true", `"include":[{"match":"page","path":"/book/index.html#/cabins"}]`, ""},
		{"another address twice", "false",
			`"include":[{"match":"page","path":"/book.html"},{"match":"page","path":"/book"}]`, findings.Redundant},
		{"another file", "false", `"include":[{"match":"all"}],"exclude":[{"match":"page","path":"/book.pdf"}]`,
			findings.UnknownPage},
		{"a place on the page", "false", `"include":[{"match":"page","path":"/book#cabins"}]`, ""},
	} {
		found := checkSite(t, `"routes":`+c.routes, sound("a", `"pages":{`+c.conditions+`}`))
		var codes []findings.Code
		for _, f := range found {
			codes = append(codes, f.Code)
		}
		if c.code == "" {
			assert.Empty(t, codes, c.name)
		} else {
			assert.Contains(t, codes, c.code, c.name)
		}
	}
}
