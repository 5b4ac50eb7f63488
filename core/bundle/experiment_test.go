package bundle_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
)

func TestExperimentChecks(t *testing.T) {
	site := bundle.Site{Key: "s", Name: "S", TimeZone: "UTC", Language: "en"}
	const ab = `"variants":[{"id":"a"},{"id":"b","weight":3,"wordings":{"en":{"message":"<b>Go</b>"}}}]`
	for _, c := range []struct{ experiment, kind, wrong string }{
		{`{"goal":{"link":true},"holdout":10,` + ab + `}`, "bar", ""},
		{`{"goal":{"event":"order","least":20},"within":"PT12H"}`, "pop-up", ""},
		{`{"goal":{"pages":{"include":[{"match":"page","path":"/thanks"}]}},` + ab + `}`, "bar", ""},
		{`{"goal":{"link":true}}`, "consent", "/experiment"},
		{`{"goal":{"link":true}}`, "disclaimer", "/experiment"},
		{`{"goal":{}}`, "bar", "/experiment/goal"},
		{`{"goal":{"link":true,"event":"order"}}`, "bar", "/experiment/goal"},
		{`{"goal":{"link":true,"least":20}}`, "bar", "/experiment/goal/least"},
		{`{"goal":{"form":true}}`, "bar", "/experiment/goal/form"},
		{`{"goal":{"pages":{}}}`, "bar", "/experiment/goal/pages/include"},
		{`{"goal":{"pages":{"include":[{"match":"page"}]}}}`, "bar", "/experiment/goal/pages/include/0/path"},
		{`{"goal":{"link":true},"within":"ever"}`, "bar", "/experiment/within"},
		{`{"goal":{"link":true},"within":"soon"}`, "bar", "/experiment/within"},
		{`{"goal":{"link":true},"variants":[{"id":"a"}]}`, "bar", "/experiment/variants"},
		{`{"goal":{"link":true},"variants":[{"id":"a"},{"id":"a"}]}`, "bar", "/experiment/variants/1/id"},
		{`{"goal":{"link":true},"variants":[{"id":"a"},{"id":"held-out"}]}`, "bar", "/experiment/variants/1/id"},
		{`{"goal":{"link":true},"variants":[{"id":"a","weight":0},{"id":"b"}]}`, "bar", "/experiment/variants/0/weight"},
		{`{"goal":{"link":true},"variants":[{"id":"a"},{"id":"b","look":{"font":"a;b"}}]}`, "bar",
			"/experiment/variants/1/look/font"},
		{`{"goal":{"link":true},"variants":[{"id":"a"},{"id":"b","wordings":{"en":{"message":"<script>"}}}]}`, "bar",
			"/experiment/variants/1/wordings/en/message"},
		{`{"goal":{"link":true},"variants":[{"id":"a"},{"id":"b","wordings":{"en":{"details":"More"}}}]}`, "bar",
			"/experiment/variants/1/wordings/en/details"}, // the notice has a link
	} {
		var n bundle.Notice
		require.NoError(t, bundle.Unmarshal([]byte(`{"id":"n","kind":"`+c.kind+`","experiment":`+c.experiment+
			`,"content":{"wordings":{"en":{"message":"Come","link":{"href":"/book"}}}}}`), &n))
		var got []string
		for _, f := range n.Check(site) {
			got = append(got, f.Pointer)
			assert.NotEmpty(t, f.What)
		}
		if c.wrong == "" {
			assert.Empty(t, got, c.experiment)
		} else {
			assert.Equal(t, []string{c.wrong}, got, c.experiment)
		}
	}
	n := bundle.Notice{ID: "n", Kind: bundle.KindBar, Level: bundle.Emergency, Experiment: &bundle.Experiment{Holdout: 10}}
	require.Len(t, n.Check(site), 1, "nobody is kept from an emergency")
}

func TestInVariant(t *testing.T) {
	var n bundle.Notice
	const doc = `{"id":"n","kind":"bar","look":{"theme":"Harbour","background":"#123456","text":"#ffffff","icon":"storm"},
		"content":{"wordings":{"en":{"headline":"Fares","message":"Come","link":{"href":"/book","label":"Book"}},
			"de":{"message":"Komm"}}},
		"experiment":{"goal":{"link":true},"variants":[{"id":"a"},{"id":"b","look":{"background":"#ffffff"},
			"wordings":{"en":{"message":"Go","link":{"href":"/fares"}},"pl":{"message":"Idź"},
			"de":{"message":"Geh","unread":true},"fr":{"message":"Va","unread":true}}}]}}`
	require.NoError(t, bundle.Unmarshal([]byte(doc), &n))
	assert.Equal(t, n, n.InVariant("a"))
	assert.Equal(t, n, n.InVariant("nothing like it"))
	b := n.InVariant("b")
	assert.Equal(t, map[string]bundle.Wording{
		"en": {Headline: "Fares", Message: "Go", Link: &bundle.Link{Href: "/fares", Label: "Book"}},
		"de": {Message: "Komm"}, // nobody has read what the variant says
		"pl": {Message: "Idź"},
	}, b.Wordings())
	look := bundle.Look{Theme: "Harbour", Background: "#ffffff", Icon: "storm"}
	assert.Equal(t, look, *b.Look, "words of its own field are read anew")
	raw, err := json.Marshal(n)
	require.NoError(t, err)
	assert.JSONEq(t, doc, string(raw), "the notice is as it was")
}
