package bundle_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
)

// block is a bundle with one block of the content given.
func block(content string) []byte {
	return fmt.Appendf(nil, `{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"UTC","language":"en",
		"consent":{"purposes":[{"id":"measurement"}]}},"notices":[%s]}`, content)
}

// What a block and a piece of code may hold, and what is said of what they may not
// (rules B1, B7).
func TestBlocksAndCodeRead(t *testing.T) {
	rows := func(parts, words string) string {
		return `{"id":"n","kind":"block","content":{"rows":[{"columns":[{"parts":[` + parts +
			`]}]}],"wordings":{"en":{"message":"x","parts":{` + words + `}}}}}`
	}
	code := func(content string) string { return `{"id":"n","kind":"code","content":{"code":` + content + `}}` }
	for name, c := range map[string]struct{ notice, says string }{
		"all parts": {
			rows(
				`{"id":"a","kind":"heading","level":3},{"id":"b","kind":"text"},{"id":"c","kind":"links"},{"id":"d",`+
					`"kind":"documents","documents":["*"]},
			{"id":"e","kind":"contact","contact":[{"by":"telephone","value":"+44 1632 960 143"},{"by":"map",`+
					`"value":"https://maps.example/x"}]},
			{"id":"f","kind":"hours","hours":[{"days":[1,7],"from":"00:00","until":"24:00"}]},{"id":"g","kind":"question",`+
					`"events":["a-yes"]}`,
				`"a":{"heading":"A"},"b":{"text":"<p>B</p>"},"c":{"links":[{"href":"/","label":"C"}]},"g":{"heading":"G?",`+
					`"answers":["Yes"],"thanks":"Thanks"}`,
			),
			"",
		},
		"a part with nothing yet": {rows(`{"id":"a","kind":"picture"},{"id":"b","kind":"contact"}`, ``), ""},
		"pictures by what no site tells": {
			rows(`{"id":"a","kind":"picture","picture":{"table":{"by":"device.kind","rows":[{"value":"x","address":"/x.png"}`+
				`]}}}`, ``),
			`/notices/0/content/rows/0/columns/0/parts/0/picture/table/by: "device.kind" is nothing that a site tells`,
		},
		"two pictures for one value": {
			rows(`{"id":"a","kind":"picture","picture":{"address":"/x.png","table":{"by":"person.tier","rows":[{"value":"Gold",`+
				`"address":"/x.png"},{"value":"gold","address":"/y.png"}]}}}`, ``),
			`/notices/0/content/rows/0/columns/0/parts/0/picture/table/rows/1/value: the picture for "gold" is chosen twice`,
		},
		"a value without a picture": {
			rows(`{"id":"a","kind":"picture","picture":{"table":{"by":"person.tier","rows":[{"value":"gold"}]}}}`, ``),
			`/notices/0/content/rows/0/columns/0/parts/0/picture/table/rows/0: a picture is either a file`,
		},
		"a block in a block": {
			rows(`{"id":"a","kind":"block"}`, ``), `/notices/0/content/rows/0/columns/0/parts/0/kind: "block" is not accepted`,
		},
		"five columns": {
			`{"id":"n","kind":"block","content":{"rows":[{"columns":[{},{},{},{},{}]}]}}`,
			`/notices/0/content/rows/0/columns: the list is too long, 5 entries`,
		},
		"a row of nothing": {
			`{"id":"n","kind":"block","content":{"rows":[{"columns":[]}]}}`,
			`/notices/0/content/rows/0/columns: the list is too short, 0 entries`,
		},
		"rows of a bar": {strings.Replace(rows(`{"id":"a","kind":"text"}`, ``), "block", "bar", 1), ""},
		"rows of a consent notice": {
			strings.Replace(rows(`{"id":"a","kind":"text"}`, ``), "block", "consent", 1),
			`/notices/0/content/rows: a notice of kind "consent" has no rows`,
		},
		"twice one id": {
			rows(`{"id":"a","kind":"text"},{"id":"a","kind":"links"}`, ``),
			`/notices/0/content/rows/0/columns/0/parts/1/id: two parts have the id "a"`,
		},
		"words of no part": {
			rows(`{"id":"a","kind":"text"}`, `"b":{"text":"x"}`), `/notices/0/content/wordings/en/parts/b: there is no part "b"`,
		},
		"words without rows": {
			`{"id":"n","kind":"bar","content":{"wordings":{"en":{"parts":{"b":{"text":"x"}}}}}}`, `there is no part "b"`,
		},
		"script in a text": {
			rows(`{"id":"a","kind":"text"}`, `"a":{"text":"<p>x</p><script>x()</script>"}`),
			`/notices/0/content/wordings/en/parts/a/text: holds <script>`,
		},
		"a link of script": {
			rows(`{"id":"a","kind":"links"}`, `"a":{"links":[{"href":"javascript:x()","label":"x"}]}`),
			`/notices/0/content/wordings/en/parts/a/links/0/href: `,
		},
		"a megabyte of text": {
			rows(`{"id":"a","kind":"text"}`, `"a":{"text":"`+strings.Repeat("x", 1<<20)+`"}`),
			`/notices/0/content/wordings/en/parts/a/text: the text is too long, 1048576 characters`,
		},
		"contact lines of a text": {
			rows(`{"id":"a","kind":"text","contact":[{"by":"mail","value":"a@b.example"}]}`, ``),
			`a part of kind "text" has no contact`,
		},
		"no telephone number": {
			rows(`{"id":"a","kind":"contact","contact":[{"by":"telephone","value":"ring us"}]}`, ``),
			`/contact/0/value: "ring us" is not a telephone number`,
		},
		"no mail address": {
			rows(`{"id":"a","kind":"contact","contact":[{"by":"mail","value":"office"}]}`, ``),
			`/contact/0/value: "office" is not an e-mail address`,
		},
		"a map of script": {
			rows(`{"id":"a","kind":"contact","contact":[{"by":"map","value":"javascript:x()"}]}`, ``), `/contact/0/value: `,
		},
		"closes before it opens": {
			rows(`{"id":"a","kind":"hours","hours":[{"days":[1],"from":"18:00","until":"02:00"}]}`, ``),
			`/hours/0/until: it closes at 02:00, before it opens at 18:00`,
		},
		"an eighth day": {
			rows(`{"id":"a","kind":"hours","hours":[{"days":[8],"from":"08:00","until":"12:00"}]}`, ``),
			`/hours/0/days/0: there is no day 8`,
		},
		"no time": {
			rows(`{"id":"a","kind":"hours","hours":[{"days":[1],"from":"9","until":"12:00"}]}`, ``),
			`/hours/0/from: "9" has the wrong form`,
		},
		"an event with a space": {
			rows(`{"id":"a","kind":"question","events":["a b"]}`, ``), `/events/0: "a b" cannot be the name of an event`,
		},
		"counts nothing down": {rows(`{"id":"a","kind":"countdown"}`, ``), `the block counts nothing down`},
		"third of two columns": {
			`{"id":"n","kind":"block","content":{"rows":[{"columns":[{"stacked":3},{}]}]}}`,
			`/columns/0/stacked: place 3 of 2 columns`,
		},
		"a spot in another notice": {
			`{"id":"n","kind":"block","spot":{"selector":"mastflag-notice p"}}`,
			`/notices/0/spot/selector: a notice cannot stand in another one`,
		},

		"code": {
			code(`{"head":"<meta name=x content=y>","end":"<script>a()</script>","purposes":["measurement"]}`), "",
		},
		"code of a bar": {
			strings.Replace(code(`{"head":"<meta>"}`), "code", "bar", 1),
			`/notices/0/content/code: a notice of kind "bar" has no code`,
		},
		"code at the top": {
			`{"id":"n","kind":"code","slot":"top"}`, `/notices/0/slot: a notice of kind "code" cannot stand in the slot "top"`,
		},
		"a bar in the code": {
			`{"id":"n","kind":"bar","slot":"code"}`, `/notices/0/slot: a notice of kind "bar" cannot stand in the slot "code"`,
		},
		"a purpose of nobody": {
			code(`{"head":"<meta>","purposes":["ads"]}`),
			`/notices/0/content/code/purposes/0: the site asks about no purpose "ads"`,
		},
		"what is always there": {
			code(`{"head":"<meta>","purposes":["necessary"]}`), `the site asks about no purpose "necessary"`,
		},
		"code that does not parse": {
			code(`{"start":"<p>\n<b>x</p>"}`),
			`/notices/0/content/code/start: line 2, column 5: </p> stands before <b> is closed`,
		},
		"more code than it may be": {
			code(`{"head":"` + strings.Repeat("x", 50_001) + `"}`), `/notices/0/content/code/head: the text is too long`,
		},
		"code without any, so far": {code(`{}`), ""},
		"code with words beside it": {
			`{"id":"n","kind":"code","content":{"code":{"head":"<meta>"},"wordings":{"en":{"message":"x"}}}}`, "",
		},
	} {
		_, err := bundle.Parse(block(c.notice))
		if c.says == "" {
			require.NoError(t, err, name)
		} else if assert.Error(t, err, name) {
			assert.Contains(t, err.Error(), c.says, name)
		}
	}
}

// Columns stand one below the other in the places that they say, the others between.
func TestStacking(t *testing.T) {
	for _, c := range []struct{ stacked, want []int }{
		{[]int{0, 0, 0}, []int{0, 1, 2}},
		{[]int{0, 0, 1}, []int{2, 0, 1}},
		{[]int{3, 0, 0}, []int{1, 2, 0}},
		{[]int{2, 2, 0, 0}, []int{2, 1, 0, 3}},
		{[]int{4, 3, 2, 1}, []int{3, 2, 1, 0}},
	} {
		var r bundle.Row
		for _, s := range c.stacked {
			r.Columns = append(r.Columns, bundle.Column{Stacked: s})
		}
		assert.Equal(t, c.want, r.Stacking(), c.stacked)
	}
}

// A mark changes with what any part says, and marks made before there were parts stay.
func TestMarksOfParts(t *testing.T) {
	whole := func() bundle.PartWords {
		return bundle.PartWords{
			Heading: "h",
			Text:    "t",
			Alt:     "a",
			Thanks:  "k",
			Answers: []string{"y"},
			Links:   []bundle.Link{{Href: "/", Label: "l"}},
		}
	}
	of := func(p bundle.PartWords) string {
		return bundle.Wording{Message: "m", Parts: map[string]bundle.PartWords{"a": p}}.Mark()
	}
	seen := map[string]bool{of(whole()): true, bundle.Wording{Message: "m"}.Mark(): true}
	for _, change := range []func(*bundle.PartWords){
		func(p *bundle.PartWords) { p.Heading = "x" }, func(p *bundle.PartWords) { p.Text = "x" },
		func(p *bundle.PartWords) { p.Alt = "x" }, func(p *bundle.PartWords) { p.Thanks = "x" },
		func(p *bundle.PartWords) { p.Answers[0] = "x" }, func(p *bundle.PartWords) { p.Links[0].Label = "x" },
	} {
		p := whole()
		change(&p)
		assert.False(t, seen[of(p)])
		seen[of(p)] = true
	}
	p := whole()
	p.Links[0].Href = "/elsewhere"
	assert.Equal(t, of(whole()), of(p), "where it leads is no text")
	assert.Equal(t, "d06fc4252495", bundle.Wording{Message: "Hello"}.Mark(), "as it was before there were parts")
}

// What is absent is as the rules say; and what may be said at least and at most.
func TestBounds(t *testing.T) {
	first, gap := bundle.Tab{}.Delays()
	assert.Equal(t, [2]time.Duration{2 * time.Second, 2 * time.Second}, [2]time.Duration{first, gap})
	first, gap = bundle.Tab{First: "PT5S", Gap: "PT3S"}.Delays()
	assert.Equal(t, [2]time.Duration{5 * time.Second, 3 * time.Second}, [2]time.Duration{first, gap})
	assert.Equal(t, bundle.Period("P5D"), bundle.Experiment{}.GetWithin())
	assert.Zero(t, bundle.Bundle{}.RefreshEvery())
	assert.Equal(t, time.Minute, bundle.Bundle{Site: bundle.Site{Feeds: []bundle.Feed{{}}}}.RefreshEvery())
	assert.Equal(t, 5*time.Minute, bundle.Feed{}.GetEvery())
	assert.Equal(t, 40, consent.Setup{}.GetInspectPages())
	for said, accepted := range map[string]bool{
		`"site":{"key":"s","capacity":{"top":20,"bottom":0}}`:                                       true,
		`"site":{"key":"s","capacity":{"top":21}}`:                                                  false,
		`"site":{"key":"s","capacity":{"top":-1}}`:                                                  false,
		`"site":{"key":"s","feeds":[{"name":"f","address":"https://f.example/","every":"PT30S"}]}`:  true,
		`"site":{"key":"s","feeds":[{"name":"f","address":"https://f.example/","every":"PT29S"}]}`:  false,
		`"site":{"key":"s"},"notices":[{"id":"n","kind":"pop-up","memory":{"closeAfter":"PT20S"}}]`: true,
		`"site":{"key":"s"},"notices":[{"id":"n","kind":"pop-up","memory":{"closeAfter":"PT19S"}}]`: false,
	} {
		_, err := bundle.Parse([]byte(`{"format":"mastflag.bundle/2",` + strings.Replace(
			said, `"key":"s"`, `"key":"s","name":"S","timeZone":"UTC","language":"en"`, 1) + `}`))
		if accepted {
			assert.NoError(t, err, said)
		} else {
			assert.Error(t, err, said)
		}
	}
}
