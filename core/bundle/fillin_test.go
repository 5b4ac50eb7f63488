package bundle_test

import (
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/phrase"
)

// What a site says of itself stands where texts leave a place for it, as text in text and as
// an address in an address; whatever it holds.
func TestFillIns(t *testing.T) {
	site := bundle.Site{Key: "s", Name: "S & <i>co</i>", TimeZone: "UTC", Language: "en", FillIns: &bundle.FillIns{
		Telephone: "+44 (0)1632 960-100",
		Email:     "office@s.example",
		Address:   "1 Quay\nSundrey",
		Hours:     map[string]string{"en": "Mon to Fri", "de": "Mo bis Fr"},
	}}
	require.Empty(t, site.Check())
	fill := func(tag string, w bundle.Wording) bundle.Wording {
		n := bundle.Notice{Kind: bundle.KindBar, Content: &bundle.Content{Wordings: map[string]bundle.Wording{tag: w}}}
		n = site.Prepared(n, "")
		return n.Wordings()[tag]
	}
	w := fill("de", bundle.Wording{
		Headline: "{name}",
		Message: `<p>{name}, {address}, {hours}: <a href="tel:{telephone}">{telephone}</a> <a href="mailto:{email}">x</a> ` +
			`<a href="/find?for={address}">y</a> {countdown} {other}</p>`,
		Link: &bundle.Link{Href: "mailto:{email}", Label: "{email}"},
		Alt:  "{hours}",
		Parts: map[string]bundle.PartWords{
			"a": {
				Heading: "{hours}",
				Text:    "<p>{hours}</p>",
				Links:   []bundle.Link{{Href: "tel:{telephone}", Label: "{telephone}"}},
			},
		},
	})
	assert.Equal(t, "S & <i>co</i>", w.Headline, "text, which is escaped where it is shown")
	assert.Equal(t, `<p>S &amp; &lt;i&gt;co&lt;/i&gt;, 1 Quay<br>Sundrey, Mo bis Fr: <a href="tel:+441632960100">`+
		`+44 (0)1632 960-100</a> <a href="mailto:office@s.example">x</a> <a href="/find?for=1%20Quay%0ASundrey">y</a> `+
		`{countdown} {other}</p>`, w.Message)
	assert.Equal(t, &bundle.Link{Href: "mailto:office@s.example", Label: "office@s.example"}, w.Link)
	assert.Equal(t, "Mo bis Fr", w.Alt)
	assert.Equal(t, bundle.PartWords{
		Heading: "Mo bis Fr", Text: "<p>Mo bis Fr</p>",
		Links: []bundle.Link{{Href: "tel:+441632960100", Label: "+44 (0)1632 960-100"}},
	}, w.Parts["a"])
	assert.Equal(
		t,
		[]string{"address", "email"},
		bundle.Wording{Message: "{email} {Email} {e} {countdown} {address}"}.Blanks(),
	)

	// Without it nothing stands there, and a link that would lead nowhere is none.
	site.FillIns = nil
	w = fill("en", bundle.Wording{Message: `<p>Call <a href="tel:{telephone}">{telephone}</a>.</p>`,
		Link: &bundle.Link{Href: "tel:{telephone}", Label: "Call"}})
	assert.Equal(t, "<p>Call <a></a>.</p>", w.Message)
	assert.Nil(t, w.Link)
	assert.Empty(t, bundle.Wording{Link: &bundle.Link{Href: "tel:{telephone}"}}.Check(), "an address may leave a place")

	// Whatever stands in it, a value is one part of an address, and says the same there.
	const worst = "M & S+T/#?%=ü\"<:@"
	site.FillIns = &bundle.FillIns{Name: worst}
	for to, part := range map[string]func(u *url.URL) string{
		"/a?b={name}&c=d":                func(u *url.URL) string { return u.Query().Get("b") },
		"https://s.example/{name}?c=d#x": func(u *url.URL) string { return u.Path[1:] },
		"/a?c=d#{name}":                  func(u *url.URL) string { return u.Fragment },
		"mailto:a@s.example?body={name}": func(u *url.URL) string { return u.Query().Get("body") },
	} {
		link := fill("en", bundle.Wording{Message: "x", Link: &bundle.Link{Href: to}}).Link
		require.NotNil(t, link)
		u, err := url.Parse(link.Href)
		require.NoError(t, err)
		assert.Equal(t, worst, part(u), to)
	}

	// It may stand among the words for those of whom nothing is told.
	site.FillIns = &bundle.FillIns{Name: "Ferries"}
	w = fill("en", bundle.Wording{Headline: "{person.name|{name}}", Message: "<p>Hello {person.name|from {name}}</p>"})
	assert.Equal(t, "Ferries", w.Headline)
	assert.Equal(t, "<p>Hello {person.name|from Ferries}</p>", w.Message)

	// Whatever it holds, it ends no place but its own, and is text.
	site.FillIns = &bundle.FillIns{Name: `"}<script>x()</script>{person.tier|`}
	n := bundle.Notice{ID: "n", Kind: bundle.KindBar, Content: &bundle.Content{Wordings: map[string]bundle.Wording{
		"en": {Message: `<p>Hello {person.name|from {name}}</p>`},
	}}}
	assert.NotContains(t, site.Prepared(n, "").Wordings()["en"].Message, "<script>")

	// Hostile values are text.
	site.FillIns = &bundle.FillIns{Name: `"><script>x()</script>{email}`, Email: "a@b"}
	w = fill("en", bundle.Wording{Message: `<p><a href="/x?{name}">{name}</a></p>`})
	assert.NotContains(t, w.Message, "<script>")
	assert.Contains(t, w.Message, "{email}", "a value is not read again")

	for field, f := range map[string]bundle.FillIns{
		"/fillIns/telephone": {Telephone: "javascript:alert(1)"},
		"/fillIns/email":     {Email: "office at s.example"},
		"/fillIns/name":      {Name: "a\u202eb"},
		"/fillIns/hours/xx-": {Hours: map[string]string{"xx-": "x"}},
	} {
		site.FillIns = &f
		faults := site.Check()
		require.NotEmpty(t, faults, field)
		assert.Equal(t, field, faults[0].Pointer)
	}
}

// Where a frame waits for its purpose stand the wording's own words; else the site's or the
// program's, with the host and the purpose by its name in that language, as text.
func TestFramesWait(t *testing.T) {
	site := bundle.Site{
		Key: "s", Name: "S", TimeZone: "UTC", Language: "en", Languages: []string{"en", "de", "pl"},
		Words: map[string]phrase.PhraseSet{"pl": {Words: phrase.Own{phrase.Missing: "<b>{host}</b>: {purposes}"}}},
		Consent: &consent.Setup{Purposes: []consent.Purpose{{ID: "films", Words: map[string]consent.PurposeWords{
			"en": {Name: "Films & co"}, "de": {Name: "Filme"},
		}}}},
	}
	n := bundle.Notice{Kind: bundle.KindPopUp, Content: &bundle.Content{
		Wordings: map[string]bundle.Wording{"en": {Message: "x"}, "de": {}, "pl": {}, "fr": {
			Parts: map[string]bundle.PartWords{"film": {Text: "<p>Attendez.</p>"}},
		}},
		Rows: []bundle.Row{{Columns: []bundle.Column{{Parts: []bundle.Part{
			{ID: "film", Kind: bundle.PartVideo, Video: &bundle.Video{Frame: "https://far.example/1", Purpose: "films"}},
		}}}}},
	}}
	said := site.Prepared(n, "").Wordings()
	assert.Equal(t, "<p>This part comes from far.example and needs your consent to: Films &amp; co.</p>",
		said["en"].Parts["film"].Text)
	assert.Equal(t, "<p>Dieser Teil kommt von far.example und braucht Ihre Einwilligung zu: Filme.</p>",
		said["de"].Parts["film"].Text)
	assert.Equal(t, "<p>&lt;b&gt;far.example&lt;/b&gt;: Films &amp; co</p>", said["pl"].Parts["film"].Text)
	assert.Equal(t, "<p>Attendez.</p>", said["fr"].Parts["film"].Text)
	assert.Nil(t, n.Wordings()["en"].Parts, "the notice itself is as it was")
}
