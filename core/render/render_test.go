package render_test

import (
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/andybalholm/cascadia"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"mastflag/core/bundle"
	"mastflag/core/colour"
	"mastflag/core/consent"
	"mastflag/core/countdown"
	"mastflag/core/markup"
	"mastflag/core/pages"
	"mastflag/core/render"
)

func notice(tag string, w bundle.Wording) bundle.Notice {
	return bundle.Notice{
		ID:      "n",
		Kind:    bundle.KindBar,
		Content: &bundle.Content{Wordings: map[string]bundle.Wording{tag: w}},
	}
}

// What comes out stands under a strict Content-Security-Policy and holds no
// code, whatever went in.
func TestRenderedHTMLIsInert(t *testing.T) {
	for _, w := range []bundle.Wording{
		{Message: `<script>alert(1)</script><b onclick=x()>a</b><img src=x onerror=y>`},
		{Message: "a", Link: &bundle.Link{Href: `javascript:alert(1)`, Label: `"><script>x</script>`}},
		{Message: "a", Link: &bundle.Link{Href: `/a" onclick="x`, Label: "b", As: "bar"}},
		{Message: "a", Details: `<style>*{}</style><p style="x">b</p>`},
	} {
		n := notice("en", w)
		n.Look = &bundle.Look{Background: "#123456"}
		bar, err := render.Notice(n, "en", "/i/", time.UTC)
		require.NoError(t, err)
		plain, err := render.Plain(n, "en", "/i/")
		require.NoError(t, err)
		_, plainBody, found := strings.Cut(plain, "</style>")
		require.True(t, found)
		z := html.NewTokenizer(strings.NewReader(bar.HTML + plainBody))
		for z.Next() != html.ErrorToken {
			tok := z.Token()
			assert.NotContains(t, []string{"script", "style", "img", "iframe"}, tok.Data, bar.HTML)
			for _, a := range tok.Attr {
				assert.False(t, strings.HasPrefix(a.Key, "on") || a.Key == "style", "%s in %s", a.Key, bar.HTML)
				if a.Key == "href" {
					assert.NotContains(t, a.Val, "javascript:")
				}
			}
		}
	}
}

func TestRenderedParts(t *testing.T) {
	off := false
	for _, c := range []struct {
		name      string
		n         bundle.Notice
		tag       string
		has, lack []string
	}{
		{
			"closable by default, with a name", notice("en", bundle.Wording{Message: "a"}), "en",
			[]string{`<section`, `aria-label="Announcement: a"`, `aria-label="Close this announcement"`, `dir="ltr"`},
			[]string{`class="button"`, `longer`},
		},
		{
			"in German", notice("de-AT", bundle.Wording{Message: "a"}), "de-AT",
			[]string{`lang="de-AT"`, `aria-label="Mitteilung: a"`}, nil,
		},
		{"from right to left", notice("ar", bundle.Wording{Message: "a"}), "ar", []string{`dir="rtl"`}, nil},
		{
			"not closable",
			bundle.Notice{
				ID:      "n",
				Memory:  &bundle.Memory{Closable: &off},
				Content: notice("en", bundle.Wording{Message: "a"}).Content,
			},
			"en", nil, []string{`data-act="close"`},
		},
		{
			"a button", notice("en", bundle.Wording{Message: "a", Link: &bundle.Link{Href: "/x", Label: "Go"}}), "en",
			[]string{`<a class="button" href="/x"`, ">Go</a>"}, []string{"target="},
		},
		{
			"plain words in a new tab",
			notice("en", bundle.Wording{Message: "a", Link: &bundle.Link{Href: "/x", Label: "Go", As: "link", Opens: "new"}}),
			"en", []string{`<a class="link"`, `target="_blank" rel="noopener"`}, nil,
		},
		{
			"the whole bar", notice("en", bundle.Wording{Message: "a", Link: &bundle.Link{Href: "/x", Label: "Go", As: "bar"}}),
			"en", []string{`<a class="whole" href="/x"`}, []string{"Go"},
		},
		{
			"a longer message behind a button", notice("en", bundle.Wording{Message: "a", Details: "<p>b</p>"}), "en",
			[]string{`aria-expanded="false"`, `aria-controls="longer"`, `id="longer" data-act="stay" hidden`}, nil,
		},
	} {
		bar, err := render.Notice(c.n, c.tag, "/i/", time.UTC)
		require.NoError(t, err, c.name)
		for _, s := range c.has {
			assert.Contains(t, bar.HTML, s, c.name)
		}
		for _, s := range c.lack {
			assert.NotContains(t, bar.HTML, s, c.name)
		}
	}
	_, err := render.Notice(notice("en", bundle.Wording{Message: "a"}), "de", "", time.UTC)
	assert.ErrorContains(t, err, `no wording in "de"`)
}

// Whatever address a notice may lead to, by whichever outlet, is that address in the page, escapes
// and the case of the scheme aside.
func TestAddresses(t *testing.T) {
	normal := func(address string) string {
		u, err := url.Parse(address)
		require.NoError(t, err)
		return strings.ReplaceAll(strings.ToLower(u.String()), "tel:+49 301 22", "tel:+4930122") // as it is dialled
	}
	for _, to := range []string{
		"tel:+49301", "TEL:+49301", "tel:+49 301 22", "mailto:office@isles.example?subject=A%20b",
		"https://isles.example/a?b=c&d=e#f", "http://isles.example", "/book", "/a%20b?c=d&e=f", "#tides", "?day=2", "book",
		"https://xn--fhren-gra.example/", "/fähren", "https://[2001:db8::1]/x",
		"tel:+44-1632-960100;ext=2", "mailto:a@b.example,c@d.example",
	} {
		require.Empty(t, markup.HrefFault(to))
		link := func(as string) *bundle.Link { return &bundle.Link{Href: to, Label: "Go", As: as} }
		text := `<p><a href="` + html.EscapeString(to) + `">Go</a></p>`
		for outlet, w := range map[string]bundle.Wording{
			"button": {Message: "a", Link: link("")}, "words": {Message: "a", Link: link("link")},
			"the whole":    {Message: "a", Link: link("bar")},
			"second":       {Message: "a", Link: &bundle.Link{Href: "/x"}, Second: link("")},
			"second words": {Message: "a", Link: &bundle.Link{Href: "/x"}, Second: link("link")},
			"message":      {Message: text}, "longer message": {Message: "a", Details: text},
			"part of links": {Parts: map[string]bundle.PartWords{"l": {Links: []bundle.Link{*link("")}}}},
			"part of text":  {Parts: map[string]bundle.PartWords{"t": {Text: text}}},
		} {
			n := notice("en", w)
			n.Content.Rows = []bundle.Row{{Columns: []bundle.Column{{Parts: []bundle.Part{
				{ID: "l", Kind: bundle.PartLinks}, {ID: "t", Kind: bundle.PartText},
			}}}}}
			bar, err := render.Notice(n, "en", "/i/", time.UTC)
			require.NoError(t, err)
			plain, err := render.Plain(n, "en", "/i/")
			require.NoError(t, err)
			n.Kind, n.Content.Rows = bundle.KindConsent, nil
			optIn := consent.PlaceRule{Rule: consent.OptIn}
			asks, err := render.Consent(n, bundle.Site{Consent: &consent.Setup{}}, "en", optIn, "/i/")
			require.NoError(t, err)
			n.Kind, n.Content.Disclaimer = bundle.KindDisclaimer, &bundle.Disclaimer{Ask: bundle.AskAcknowledge}
			disclaims, err := render.Disclaimer(n, bundle.Site{}, "en", "/i/", "https://flags.example")
			require.NoError(t, err)
			for by, out := range map[string]string{
				"script": bar.HTML, "page": plain, "question": asks.HTML, "disclaimer": disclaims.HTML,
			} {
				if by == "question" || by == "disclaimer" {
					if outlet != "button" && outlet != "words" && outlet != "message" {
						continue // they have no others
					}
				}
				doc, err := html.Parse(strings.NewReader(out))
				require.NoError(t, err)
				led := []string{}
				for _, a := range cascadia.QueryAll(doc, cascadia.MustCompile("a[href]")) {
					at := slices.IndexFunc(a.Attr, func(a html.Attribute) bool { return a.Key == "href" })
					led = append(led, normal(a.Attr[at].Val))
				}
				assert.Contains(t, led, normal(to), "%s, with the %s", outlet, by)
			}
		}
	}
}

// To paste: no script, small, and with everything that the bar says.
func TestPlain(t *testing.T) {
	n := notice("de", bundle.Wording{
		Message: "<p>Vor Mittag keine Fahrten nach <strong>Fennay</strong>.</p>",
		Link:    &bundle.Link{Href: "/de/status", Label: "Zur Betriebslage"},
	})
	n.ID, n.Position, n.Look = "storm", bundle.Sticking, &bundle.Look{Background: "#f6d9a8"}
	out, err := render.Plain(n, "de", "/i/")
	require.NoError(t, err)
	assert.Less(t, len(out), 3000)
	for _, has := range []string{
		`class="notice-storm"`, `lang="de"`, "<strong>Fennay</strong>", `href="/de/status"`, "Zur Betriebslage",
		"background:#f6d9a8", "position:sticky;z-index:1000;top:0",
	} {
		assert.Contains(t, out, has)
	}
	assert.NotContains(t, out, "ZgotmplZ")
	n.Content.Wordings["de"] = bundle.Wording{Message: "Kurz", Details: "<p>Lang</p>"}
	out, err = render.Plain(n, "de", "/i/")
	require.NoError(t, err)
	assert.Contains(t, out, "<details><summary>Mehr</summary><p>Lang</p></details>")
	n.Content.Wordings["de"] = bundle.Wording{Message: "Alles", Link: &bundle.Link{Href: "/x", As: "bar", Opens: "new"}}
	out, err = render.Plain(n, "de", "/i/")
	require.NoError(t, err)
	assert.Contains(t, out, `<a href="/x" target="_blank" rel="noopener"><div`)
	_, err = render.Plain(n, "fr", "/i/")
	assert.ErrorContains(t, err, `no wording in "fr"`)
}

// What a look adds is there where it is asked for, and nowhere else.
func TestLook(t *testing.T) {
	plainest, err := render.Notice(notice("en", bundle.Wording{Message: "a"}), "en", "/i/", time.UTC)
	require.NoError(t, err)
	assert.Equal(t, ":host{--field:#16202e;--text:#ffffff}", plainest.CSS)
	picture := &bundle.Picture{
		Image: bundle.Image{File: "0123456789abcdef.png", Width: 40, Height: 20},
		Phone: &bundle.Image{File: "fedcba9876543210.jpg", Width: 20, Height: 20},
	}
	for _, c := range []struct {
		name     string
		n        bundle.Notice
		css, out []string
	}{
		{
			"dark colours, whose words are the best to read",
			bundle.Notice{Look: &bundle.Look{Dark: &bundle.Pair{Background: "#f0f0f0"}}},
			[]string{"@media(prefers-color-scheme:dark){:host{--field:#f0f0f0;--text:#16202e}}"}, nil,
		},
		{
			"a round bar has round buttons and stays straight itself", bundle.Notice{Look: &bundle.Look{Shape: bundle.Round}},
			[]string{"--button:99px"}, nil,
		},
		{
			"a round card", bundle.Notice{Slot: bundle.CornerEnd, Look: &bundle.Look{Shape: bundle.Round}},
			[]string{"--corner:16px"}, nil,
		},
		{"wide words", bundle.Notice{Look: &bundle.Look{Width: bundle.Wide}}, []string{"--words:none"}, nil},
		{"a font", bundle.Notice{Look: &bundle.Look{Font: `"Sea Sans", serif`}}, []string{`--font:"Sea Sans", serif`}, nil},
		{
			"an icon", bundle.Notice{Look: &bundle.Look{Icon: "anchor"}}, []string{".icon{"},
			[]string{`<svg class="icon"`, `aria-hidden="true"`},
		},
		{
			"a picture for some alone", bundle.Notice{Content: &bundle.Content{Picture: &bundle.Picture{
				Table: &bundle.PictureTable{By: "person.tier", Rows: []bundle.PictureRow{
					{Value: `<"gold">`, Image: bundle.Image{Address: "/g.png"}},
				}},
			}}}, nil,
			[]string{`<picture class="picture" data-table="{&#34;by&#34;:&#34;person.tier&#34;,&#34;rows&#34;:[{&#34;` +
				`value&#34;:&#34;\u003c\&#34;gold\&#34;\u003e&#34;,&#34;address&#34;:&#34;/g.png&#34;},{&#34;` +
				`value&#34;:&#34;&#34;}]}" hidden><img alt="A &amp; b"></picture>`},
		},
		{
			"a picture with another for phones", bundle.Notice{Content: &bundle.Content{Picture: picture}}, []string{".picture"},
			[]string{
				`<source media="(max-width:639px)" srcset="/i/fedcba9876543210.jpg"`,
				`<img src="/i/0123456789abcdef.png" width="40" height="20" alt="A &amp; b">`,
			},
		},
		{
			"motion, for those who do not mind it", bundle.Notice{Slot: bundle.Bottom, Look: &bundle.Look{Motion: bundle.Slide}},
			[]string{"prefers-reduced-motion:no-preference", "translateY(100%)"}, nil,
		},
		{
			"sizes, lines and borders",
			bundle.Notice{Look: &bundle.Look{
				Size: "large", Align: bundle.AlignEnd, IconColour: "#a3241f", Icon: "anchor",
				Border:   &bundle.Border{Width: 3},
				Headline: &bundle.TextLook{Size: 30, Weight: bundle.Regular, Colour: "#ffeecc"},
			}},
			[]string{
				".words{font-size:20px}", ".words{text-align:end}.bar{justify-content:flex-end}", ".icon{color:#a3241f}",
				".bar{border-bottom:3px solid currentColor}", ".headline{font-size:30px;font-weight:400;color:#ffeecc}",
			}, nil,
		},
		{
			"buttons with a field have the words that read best on it",
			bundle.Notice{Slot: bundle.Bottom, Look: &bundle.Look{
				Size: "18px", Border: &bundle.Border{Width: 1, Colour: "#123456"},
				Buttons: &bundle.Buttons{Background: "#f2d49b", Shape: bundle.Square},
			}},
			[]string{
				".bar .button{background:#f2d49b;border-color:#f2d49b;color:#16202e}.bar .button{border-radius:0}",
				".words{font-size:18px}", ".bar{border-top:1px solid #123456}",
			}, nil,
		},
		{
			"a picture behind the words is covered as much as they need",
			bundle.Notice{Look: &bundle.Look{Dark: &bundle.Pair{Background: "#ffffff"}}, Content: &bundle.Content{
				Picture: &bundle.Picture{
					Image: picture.Image, Place: bundle.PictureBehind, Size: 200, Focus: &bundle.FocalPoint{X: 10, Y: 90},
				},
			}},
			[]string{
				"isolation:isolate;overflow:hidden;min-height:200px}", "color-mix(in srgb,#16202e 61%,transparent)",
				"@media(prefers-color-scheme:dark){.bar::before{background:color-mix(in srgb,#ffffff 53%",
				"object-position:10% 90%",
			}, nil,
		},
		{
			"a picture beside the words of a card", bundle.Notice{Slot: bundle.Centre, Content: &bundle.Content{
				Picture: &bundle.Picture{Image: picture.Image, Place: bundle.PictureEnd, Size: 240},
			}},
			[]string{"padding-inline-end:calc(min(240px,60%) + 16px)", "inset-inline-end:0;width:min(240px,60%)"}, nil,
		},
		{
			"a picture by its address keeps its room", bundle.Notice{Content: &bundle.Content{Picture: &bundle.Picture{
				Image: bundle.Image{Address: "https://pictures.example/quay.jpg?a=1&b=2"}, Size: 80,
			}}},
			[]string{".picture img{height:80px}"},
			[]string{`<img src="https://pictures.example/quay.jpg?a=1&amp;b=2" alt="A &amp; b">`},
		},
		{
			"style of its own, last", bundle.Notice{Look: &bundle.Look{CSS: ".bar{letter-spacing:.1em}"}},
			[]string{"}.bar{letter-spacing:.1em}"}, nil,
		},
	} {
		n := c.n
		n.ID, n.Kind = "n", bundle.KindBar
		if n.Content == nil {
			n.Content = &bundle.Content{}
		}
		n.Content.Wordings = map[string]bundle.Wording{"en": {Message: "a", Alt: "A & b"}}
		if n.GetLook().Headline != nil {
			n.Content.Wordings["en"] = bundle.Wording{Headline: "<i>H</i>", Message: "a"}
			c.out = append(c.out, `<p class="headline">&lt;i&gt;H&lt;/i&gt;</p>`)
		}
		require.Empty(t, n.Check(bundle.Site{TimeZone: "UTC", Language: "en"}), c.name)
		bar, err := render.Notice(n, "en", "/i/", time.UTC)
		require.NoError(t, err, c.name)
		for _, has := range c.css {
			assert.Contains(t, bar.CSS, has, c.name)
		}
		for _, has := range c.out {
			assert.Contains(t, bar.HTML, has, c.name)
		}
		plain, err := render.Plain(n, "en", "https://n.test/i/")
		require.NoError(t, err, c.name)
		assert.NotContains(t, plain, "ZgotmplZ", c.name)
		assert.Less(t, len(plain), 3000, c.name)
		// As HTML to paste it looks the same: the rules are those of its parts there.
		for _, has := range c.css {
			if strings.HasPrefix(has, ".words{") || strings.HasPrefix(has, ".bar{border") {
				has = strings.NewReplacer(".words", ".notice-n .notice-n-words", ".bar", ".notice-n").Replace(has)
				assert.Contains(t, plain, has, c.name)
			}
		}
	}
	// A spot is told only where it counts.
	n := notice("en", bundle.Wording{Message: "a"})
	n.Spot = &bundle.Spot{Selector: "h1"}
	n.Spots = []bundle.Spot{{Selector: "#port", Pages: &pages.Conditions{}}}
	bar, err := render.Notice(n, "en", "", time.UTC)
	require.NoError(t, err)
	assert.Nil(t, bar.Spots)
	n.Slot = bundle.Inline
	bar, err = render.Notice(n, "en", "", time.UTC)
	require.NoError(t, err)
	assert.Equal(t, []bundle.Spot{{Selector: "#port"}, {Selector: "h1"}}, bar.Spots)
}

// What opens and closes a notice: two links, a button with words, a tab to fold away to, and
// a longer message with headings and pictures, in a dialog.
func TestWays(t *testing.T) {
	n := notice("en", bundle.Wording{
		Message: "Works",
		Link:    &bundle.Link{Href: "/a", Label: "A"},
		Second:  &bundle.Link{Href: "/b", Label: "B", As: "link"},
	})
	n.Memory = &bundle.Memory{CloseWith: bundle.Both, Foldable: true}
	bar, err := render.Notice(n, "en", "/i/", time.UTC)
	require.NoError(t, err)
	for _, has := range []string{
		`<a class="button" href="/a" data-act="clicked">A</a><a class="link" href="/b" data-act="clicked">B</a>`,
		`<button type="button" class="button" data-act="close">Close</button><button type="button" class="close"`,
		`aria-label="Fold away" data-act="fold"`,
	} {
		assert.Contains(t, bar.HTML, has)
	}
	assert.Equal(t, []string{"Works", "Show again: Works"}, bar.Fold)
	assert.True(t, bar.Ways)
	n.Memory.CloseWith = bundle.Button
	bar, err = render.Notice(n, "en", "/i/", time.UTC)
	require.NoError(t, err)
	assert.NotContains(t, bar.HTML, `aria-label="Close this announcement"`)

	image := `<img src="image:0123456789abcdef.png" alt="The quay"/>`
	n = notice(
		"de",
		bundle.Wording{Message: "Kurz", Details: "<h2>Lang</h2><p>b" + image + "</p><img src=\"https://x/y.png\">"},
	)
	n.Content.DetailsAs, n.Content.DetailsBy = bundle.Dialog, bundle.ByPress
	bar, err = render.Notice(n, "de", "https://n.test/i/", time.UTC)
	require.NoError(t, err)
	for _, has := range []string{
		`dir="ltr" data-act="more">`, `aria-haspopup="dialog" data-act="more">Mehr</button>`,
		`<dialog class="longer" id="longer" aria-label="Mitteilung: Kurz" data-act="stay"><div><h2>Lang</h2>`,
		`<img src="https://n.test/i/0123456789abcdef.png" alt="The quay"/>`, `data-act="shut">Schließen</button></dialog>`,
	} {
		assert.Contains(t, bar.HTML, has)
	}
	assert.NotContains(t, bar.HTML, "https://x/")
	n.Memory = &bundle.Memory{Foldable: true}
	n.Look = &bundle.Look{CSS: ".bar{color:red}", Motion: bundle.Fade}
	n.Slot = bundle.CornerEnd
	plain, err := render.Plain(n, "de", "https://n.test/i/")
	require.NoError(t, err)
	assert.Contains(t, plain, "<details><summary>Mehr</summary><h2>Lang</h2>")
	assert.Equal(t, []string{
		"It cannot be closed.", "It cannot be folded away.", "The longer message unfolds, and opens no dialog.",
		"The longer message opens by its own line alone.", "It stands where it is pasted, and over nothing.",
		"It does not move as it comes in.", "Its own style is left out.",
	}, render.PlainLacks(n, "de"))
	off := false
	assert.Empty(t, render.PlainLacks(bundle.Notice{
		Memory: &bundle.Memory{Closable: &off}, Content: notice("en", bundle.Wording{Message: "a"}).Content,
	}, "en"))
}

// A countdown has its place in the message, and what the script needs beside it.
func TestCountdownsRendered(t *testing.T) {
	with := func(message string, c countdown.Countdown) bundle.Notice {
		n := notice("de", bundle.Wording{Message: message, ExpiredMessage: "<p>Vorbei.</p>"})
		n.Content.Countdown = &c
		return n
	}
	to := countdown.Countdown{
		Kind:  countdown.To,
		At:    "2026-12-04T18:00",
		Units: []countdown.Unit{"days", "hours"},
		Frame: countdown.Round,
		Size:  countdown.Large,
		Then:  countdown.Say,
	}
	bar, err := render.Notice(with("<p>Noch {countdown} bis zur Abfahrt</p>", to), "de", "", time.UTC)
	require.NoError(t, err)
	assert.Regexp(t, `Noch <span class="count round large" role="timer">.*</span> bis zur Abfahrt`, bar.HTML)
	assert.Equal(t, 2, strings.Count(bar.HTML, `class="unit"`))
	assert.Contains(t, bar.HTML, `<div class="after" hidden><p>Vorbei.</p></div>`)
	assert.Contains(t, bar.HTML, `aria-label="Mitteilung: Noch  bis zur Abfahrt"`)
	assert.Equal(t, []int64{86400, 3600}, bar.Count.Units)
	assert.Equal(t, "{0} Tage", bar.Count.Full[0]["other"])
	assert.Contains(t, bar.CSS, "border-radius:50%")

	still := render.Still(
		bar, with("<p>Noch {countdown} bis zur Abfahrt</p>", to), "de", time.Date(2026, 12, 3, 16, 0, 0, 0, time.UTC),
		time.UTC,
	)
	assert.Contains(t, still, `<b>1</b> <i>Tag</i>`)
	assert.Contains(t, still, `<b>2</b> <i>Stunden</i>`)

	bar, err = render.Notice(with("<p>Noch</p>", to), "de", "", time.UTC)
	require.NoError(t, err)
	assert.Regexp(t, `<p>Noch <span class="count.*</span></p>`, bar.HTML, "without a mark it stands at the end")

	plain, err := render.Plain(with("<p>Bis {countdown}</p>", to), "de", "")
	require.NoError(t, err)
	assert.Contains(
		t, plain, `Bis <time datetime="2026-12-04T18:00">2026-12-04 18:00</time>`, "where no script runs, the moment stands",
	)
	plain, err = render.Plain(with("<p>Bald {countdown}</p>", countdown.Countdown{
		Kind: countdown.Visitor,
		For:  "PT2H",
	}), "de", "")
	require.NoError(t, err)
	assert.NotContains(t, plain, "countdown}")

	ten := 10
	bar, err = render.Notice(with("{countdown}", countdown.Countdown{
		Kind:  countdown.Number,
		At:    "2026-12-04T18:00",
		Until: "2026-12-04T19:00",
		To:    &ten,
	}), "de", "", time.UTC)
	require.NoError(t, err)
	assert.Equal(t, render.CountedNumber{
		Begins: 1796407200000,
		To:     &ten,
		Size:   1,
		Times:  10,
		Per:    3_600_000,
	}, *bar.Count.Number)
	assert.EqualValues(t, 3_600_000, bar.Count.Period)
	_, err = render.Notice(with("x", countdown.Countdown{Kind: countdown.To}), "de", "", time.UTC)
	assert.Error(t, err)
}

// An alert says its level in a word and by a sign of its own, in each language,
// and its colours can be read (WCAG 2.2 §1.4.1, §1.4.3).
func TestLevelsAreSaid(t *testing.T) {
	signs := map[string]bool{}
	for level, word := range map[bundle.Level]string{
		bundle.Emergency:   "Notfall",
		bundle.Warning:     "Warnung",
		bundle.Information: "Hinweis",
		bundle.Promotion:   "Angebot",
	} {
		n := notice("de", bundle.Wording{Message: "<p>Sturm</p>"})
		n.Kind, n.Level = bundle.KindAlert, level
		bar, err := render.Notice(n, "de", "", time.UTC)
		require.NoError(t, err)
		assert.Contains(t, bar.HTML, `<strong class="level">`+word+`</strong>`)
		assert.Equal(t, level == bundle.Emergency, strings.Contains(bar.HTML, `role="alert"`))
		sign := regexp.MustCompile(`(?s)<svg class="icon".*?</svg>`).FindString(bar.HTML)
		assert.NotEmpty(t, sign)
		assert.False(t, signs[sign], "each has a sign of its own")
		signs[sign] = true
		background, ink := render.Colours(n)
		ratio, err := colour.Contrast(ink, background)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, ratio, colour.Minimum, level)
		n.Look = &bundle.Look{Background: "#000000"}
		background, _ = render.Colours(n)
		assert.Equal(t, "#000000", background, "a colour of its own goes first")
	}
}
