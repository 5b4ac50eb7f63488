package wording_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/core/bundle"
	"mastflag/core/wording"
)

// The order of the truncations is the worked example of RFC 4647 §3.4: lookup
// of zh-Hant-CN-x-private1-private2.
func TestChooseLooksUp(t *testing.T) {
	have := func(tags ...string) map[string]bundle.Wording {
		out := map[string]bundle.Wording{}
		for _, tag := range tags {
			out[tag] = bundle.Wording{Message: tag}
		}
		return out
	}
	const page = "zh-Hant-CN-x-private1-private2"
	chain := []string{"zh-Hant-CN-x-private1-private2", "zh-Hant-CN-x-private1", "zh-Hant-CN", "zh-Hant", "zh"}
	for i := range chain {
		assert.Equal(t, chain[i], wording.Choose(have(append(chain[i:], "en", "zh-Hant-CN-x")...), page, "en"))
	}
	assert.Equal(t, "en", wording.Choose(have("en", "de"), page, "en"), "the site's language")
	assert.Equal(t, "en", wording.Choose(have("en", "de"), page, "en-GB"), "the site's language, shortened")
	assert.Equal(t, "DE", wording.Choose(have("DE"), "de-CH", "en"), "case does not count")
	assert.Equal(t, "de", wording.Choose(have("pl", "de"), "fr", "en"), "the first of what there is")
	empty := have("pl")
	empty["en"] = bundle.Wording{}
	assert.Equal(t, "pl", wording.Choose(empty, "en", "en"), "a wording that says nothing is none")
	assert.Equal(t, "", wording.Choose(nil, "en", "en"))
}

// A machine's draft that nobody has read is as good as none.
func TestUnreadIsNotChosen(t *testing.T) {
	w := map[string]bundle.Wording{"en": {Message: "a"}, "de": {Message: "b", Unread: true}}
	assert.Equal(t, "en", wording.Choose(w, "de", "en"))
	delete(w, "en")
	assert.Equal(t, "", wording.Choose(w, "de", "en"))
}

// A translation is old once the text it was made from has changed, until it is
// written or looked at again.
func TestStandingOfTranslations(t *testing.T) {
	type texts = map[string]bundle.Wording
	standing := func(w texts) [2]wording.Status {
		return [2]wording.Status{wording.StateOf(w, "en", "en"), wording.StateOf(w, "de", "en")}
	}
	first := wording.Marked(nil, texts{"en": {Message: "one"}, "de": {Message: "eins"}}, "en")
	assert.Equal(t, [2]wording.Status{wording.Current, wording.Current}, standing(first))

	changed := wording.Marked(first, texts{"en": {Message: "two"}, "de": first["de"]}, "en")
	assert.Equal(t, [2]wording.Status{wording.Current, wording.Old}, standing(changed))

	rewritten := changed["de"]
	rewritten.Message = "zwei"
	assert.Equal(t, wording.Current, standing(wording.Marked(changed, texts{
		"en": changed["en"],
		"de": rewritten,
	}, "en"))[1])

	read := changed["de"]
	read.SourceMark = "" // looked at, and right as it stands
	assert.Equal(t, wording.Current, standing(wording.Marked(changed, texts{"en": changed["en"], "de": read}, "en"))[1])

	assert.Equal(
		t, wording.Old, standing(wording.Marked(changed, changed, "en"))[1], "saving something else changes nothing",
	)
	assert.Equal(t, wording.Missing, standing(texts{"en": {Message: "one"}})[1])
	assert.Equal(t, wording.Unread, standing(texts{"en": {Message: "one"}, "de": {Message: "eins", Unread: true}})[1])
	link := texts{"en": {Message: "one", Link: &bundle.Link{Href: "/a", Label: "Go"}}, "de": {Message: "eins"}}
	link = wording.Marked(nil, link, "en")
	link["en"] = bundle.Wording{Message: "one", Link: &bundle.Link{Href: "/b", Label: "Go"}}
	assert.Equal(t, wording.Current, standing(link)[1], "where it leads is not a text")
}
