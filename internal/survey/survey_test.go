package survey_test

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"runtime"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	japanese_ "golang.org/x/text/encoding/japanese"
	korean_ "golang.org/x/text/encoding/korean"
	"golang.org/x/text/encoding/unicode"

	"mastflag/internal/outbound"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

// to is a guard that lets a test reach a server of this machine.
func to(address string) *outbound.Guard {
	return outbound.New(outbound.Options{Flag: "--site-hosts", Allowed: []string{strings.TrimPrefix(address, "http://")}})
}

const ns = `xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"`

// outside is a site whose answers are given by path; HOST in them is its own
// address.
func outside(t *testing.T, answers map[string]string) *httptest.Server {
	t.Helper()
	var hs *httptest.Server
	hs = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, ok := answers[r.URL.Path]
		switch {
		case !ok:
			http.NotFound(w, r)
		case strings.HasPrefix(body, "-> "):
			http.Redirect(w, r, strings.ReplaceAll(body[3:], "HOST", hs.URL), http.StatusFound)
		default:
			fmt.Fprint(w, strings.ReplaceAll(body, "HOST", hs.URL))
		}
	}))
	t.Cleanup(hs.Close)
	return hs
}

func packed(t *testing.T, s string) string {
	t.Helper()
	var b bytes.Buffer
	zw := gzip.NewWriter(&b)
	_, err := zw.Write([]byte(s))
	require.NoError(t, err)
	require.NoError(t, zw.Close())
	return b.String()
}

// listedAt are the entries of a sitemap that lists paths.
func listedAt(paths ...string) string {
	return "<url><loc>HOST" + strings.Join(paths, "</loc></url><url><loc>HOST") + "</loc></url>"
}

func TestSurvey(t *testing.T) {
	const tag = `<script>{let u="https://notices.example/s/x.js";fetch(u)}</script>`
	hs := outside(t, map[string]string{
		"/sitemap.xml": `<sitemapindex ` + ns + `><sitemap><loc>HOST/a.xml</loc></sitemap><sitemap><loc> HOST/b.xml </loc>` +
			`</sitemap><sitemap><loc>https://elsewhere.example/c.xml</loc></sitemap></sitemapindex>`,
		"/a.xml": `<urlset ` + ns + `><url><loc>HOST/</loc><lastmod>2026-01-01</lastmod></url><url><loc>` +
			`HOST/caf%c3%a9/?x=1</loc></url><url><loc>https://elsewhere.example/other</loc></url></urlset>`,
		"/b.xml": `<urlset ` + ns + `><url><loc>HOST/gone</loc></url><url><loc>HOST/moved</loc></url><url><loc>` +
			`HOST/away</loc></url><url><loc>HOST/</loc></url><url><loc>HOST/account</loc></url><url><loc>HOST/orders</loc>` +
			`</url><url><loc>HOST/home</loc></url></urlset>`,
		"/": `<!doctype html><html lang=de-at><head><title>Fähren &amp; Boote – Die Inseln</title>` + tag,
		"/café/": `<html><title> Kaffee
			– Die Inseln</title><!-- ` + tag + ` --><p>` + "https://notices.example/s/x.js",
		"/moved":   `-> HOST/new`,
		"/new":     "<title>Neues – Die Inseln</title>",
		"/account": `-> HOST/login?for=account`,
		"/orders":  `-> HOST/login?for=orders`,
		"/login":   "<title>Anmelden – Die Inseln</title>",
		"/home":    `-> HOST/`,
		"/away":    `-> http://elsewhere.invalid/`,
	})
	got, err := survey.New(to(hs.URL)).Survey(t.Context(), hs.URL, survey.Sought{
		Marker:    "/s/x.js",
		Selectors: []string{"html > body > p", "!", "title", "tbody"},
	})
	require.NoError(t, err)
	type row struct{ path, title, lang, snippet, lost string }
	rows := []row{}
	for _, p := range got {
		if strings.HasPrefix(p.Snippet, "could not be read") {
			assert.Contains(t, p.Snippet, "another site")
			p.Snippet = "could not be read"
		}
		rows = append(rows, row{p.Path, p.Title, p.Language, p.Snippet, strings.Join(p.Lost, ", ")})
	}
	assert.Equal(t, []row{
		{"/", "Fähren & Boote", "de-AT", store.SnippetFound, "html > body > p, tbody"},
		{"/away", "", "", "could not be read", ""},
		{"/caf%C3%A9", "Kaffee", "", store.SnippetMissing, "tbody"}, // in a comment and as words it does not count
		{"/gone", "", "", "answered with status 404", ""},
		{"/login", "Anmelden", "", store.SnippetMissing, "html > body > p, tbody"},
		{"/new", "Neues", "", store.SnippetMissing, "html > body > p, tbody"},
	}, rows, "what leads to another page is none of its own, and that page is one")

	// Where the snippet is to hold back, the form that does not is told from it.
	with := outside(t, map[string]string{
		"/sitemap.xml": "<urlset " + ns + ">" + listedAt("/", "/old", "/without") + "</urlset>",
		"/":            "<title>x</title><script>`mastflag.${o}.guard`</script>" + tag, "/old": "<title>x</title>" + tag,
		"/without": "<title>x",
	})
	got, err = survey.New(to(with.URL)).Survey(t.Context(), with.URL, survey.Sought{Marker: "/s/x.js", Guard: ".guard`"})
	require.NoError(t, err)
	forms := map[string]string{}
	for _, p := range got {
		forms[p.Path] = p.Snippet
	}
	assert.Equal(t, map[string]string{
		"/": store.SnippetFound, "/old": store.SnippetUnguarded, "/without": store.SnippetMissing,
	}, forms)

	// A page that answers at several addresses is one; pages that differ are several.
	twins := outside(t, map[string]string{
		"/sitemap.xml": "<urlset " + ns + ">" + listedAt(
			"/", "/index.html", "/fares", "/fares.html", "/fares/index.php", "/book", "/book.html", "/ports/index.html",
			"/news", "/news.html", "/a", "/a.html", "/a.htm",
		) + "</urlset>",
		"/": "<title>Home", "/index.html": "<title>Home",
		"/fares": "<title>Fares", "/fares.html": "<title>Fares", "/fares/index.php": "<title>Other fares",
		"/book":             "<title>Book</title>1",
		"/book.html":        "<!doctype html><link rel=Canonical href=/book#top><title>Book</title>2",
		"/ports/index.html": "<title>Ports",
		"/news":             "<!doctype html><link rel=canonical href=HOST/news.html>", "/news.html": "<title>News",
		"/a": "<!doctype html><link rel=canonical href=a.htm>", "/a.html": "<!doctype html><link rel=canonical href=a.htm>",
		"/a.htm": "<title>A",
	})
	listing, err := survey.New(to(twins.URL)).List(t.Context(), twins.URL)
	require.NoError(t, err)
	var read []store.Reading
	require.NoError(t, survey.New(to(twins.URL)).Read(t.Context(), twins.URL, listing.Pages, survey.Sought{},
		func(r store.Reading) { read = append(read, r) }))
	same := map[string]string{}
	stand := []string{}
	for _, p := range survey.Pages(read, func(r store.Reading) {
		assert.True(t, r.Same, r.Page.Path)
		same[r.Page.Path] = r.Moved
	}) {
		stand = append(stand, p.Path)
	}
	assert.Equal(t, []string{
		"/", "/a.htm", "/book", "/fares", "/fares/index.php", "/news.html", "/ports/index.html",
	}, stand)
	assert.Equal(t, map[string]string{
		"/index.html": "/", "/fares.html": "/fares", "/book.html": "/book", "/news": "/news.html", "/a": "/a.htm",
		"/a.html": "/a.htm",
	}, same)

	// Of many sitemaps the first five hundred are read, the index among them.
	index, maps := "", map[string]string{"/p": "<title>p", "/last": "<title>last", "/beyond": "<title>beyond"}
	for i := range 505 {
		index += fmt.Sprintf("<sitemap><loc>HOST/m%d.xml</loc></sitemap>", i)
		maps[fmt.Sprintf("/m%d.xml", i)] = `<urlset ` + ns + fmt.Sprintf("><url><loc>HOST/p?%d</loc></url></urlset>", i)
	}
	maps["/sitemap.xml"] = "<sitemapindex " + ns + ">" + index + "</sitemapindex>"
	maps["/m498.xml"] = `<urlset ` + ns + `><url><loc>HOST/last</loc></url></urlset>`
	maps["/m499.xml"] = `<urlset ` + ns + `><url><loc>HOST/beyond</loc></url></urlset>`
	big := outside(t, maps)
	got, err = survey.New(to(big.URL)).Survey(t.Context(), big.URL, survey.Sought{})
	require.NoError(t, err)
	paths := []string{}
	for _, p := range got {
		paths = append(paths, p.Path)
	}
	assert.Equal(t, []string{"/last", "/p"}, paths)

	// Of many selectors the first hundred are looked for.
	var many []string
	for i := range 120 {
		many = append(many, fmt.Sprintf(".s%d", i))
	}
	got, err = survey.New(to(hs.URL)).Survey(t.Context(), hs.URL, survey.Sought{Selectors: many})
	require.NoError(t, err)
	assert.Equal(t, many[:100], got[0].Lost)
}

func TestSitemapsOfAllSorts(t *testing.T) {
	deep := func(n int) string { return strings.Repeat("<x>", n) + strings.Repeat("</x>", n) }
	for _, c := range []struct {
		name, body, wrong string
		pages             int
	}{
		{"plain", `<urlset ` + ns + `><url><loc>HOST/a</loc></url></urlset>`, "", 1},
		{
			"pages behind a # are read once", `<urlset ` + ns + `><url><loc>HOST/a#/x</loc></url>` +
				`<url><loc>HOST/a#!/y</loc></url></urlset>`, "", 1,
		},
		{"packed", "gzip", "", 1},
		{"none at all: the home page", "", "", 1},
		{"not XML", "hello", "is not a sitemap", 0},
		{"another document", "<html></html>", "its root is <html>", 0},
		{
			"an entity bomb",
			`<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><urlset ` + ns + `><url><loc>&b;</loc></url></urlset>`,
			"is not a sitemap", 0,
		},
		{"as deep as may be", `<urlset ` + ns + `>` + deep(49) + `</urlset>`, "", 0},
		{"too deep", `<urlset ` + ns + `>` + deep(50) + `</urlset>`, "50", 0},
		{"packed beyond measure", "bomb", "larger than 50 MB", 0},
		{"packed, and as large as may be", "large", "", 0},
		{
			"an index that names itself, without end",
			`<sitemapindex ` + ns + `><sitemap><loc>HOST/sitemap.xml</loc></sitemap></sitemapindex>`, "", 0,
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			answers := map[string]string{"/a": "<title>a", "/": "<title>home"}
			switch c.body {
			case "":
			case "gzip":
				answers["/sitemap.xml"] = packed(t, `<urlset `+ns+`></urlset>`)
				c.pages = 0
			case "bomb", "large":
				element := "<x>" + strings.Repeat(" ", 1000) + "</x>"
				elements := strings.Repeat(element, map[string]int{"bomb": 52_100, "large": 52_000}[c.body])
				answers["/sitemap.xml"] = packed(t, `<urlset `+ns+`>`+elements+`</urlset>`)
			default:
				answers["/sitemap.xml"] = c.body
			}
			there := outside(t, answers).URL
			got, err := survey.New(to(there)).Survey(t.Context(), there, survey.Sought{Marker: "/s/x.js"})
			if c.wrong != "" {
				assert.ErrorContains(t, err, c.wrong)
				return
			}
			require.NoError(t, err)
			assert.Len(t, got, c.pages)
		})
	}
	_, err := survey.New(to("http://127.0.0.1:1")).Survey(
		t.Context(), "http://127.0.0.1:1", survey.Sought{Marker: "/s/x.js"},
	)
	assert.ErrorContains(t, err, "Check the site’s address")
	_, err = survey.New(to("")).Survey(t.Context(), "file:///etc/passwd", survey.Sought{Marker: "/s/x.js"})
	assert.ErrorContains(t, err, "not an http or https address")
}

// Colours and fonts are those that the site's own sheets use, in any form of
// CSS Color 4 that names one solid colour; what is see-through or another
// site's is none.
func TestStyles(t *testing.T) {
	hs := outside(t, map[string]string{
		"/de": `<html><head><link rel="stylesheet" href="/a.css"><link rel="preload stylesheet" href="b.css"><link ` +
			`rel="stylesheet" href="https://elsewhere.test/c.css"><link rel=icon href=/i>
			<style>a{color:#abc} b{color:rgb(1, 2, 3)} i{color:rgba(1,2,3,.5)}</style></head></html>`,
		"/a.css": `:root{--brand-blue:#102030;--gap:4px} h1{color:#102030;font-family:"Sea Sans",serif} p{font:italic ` +
			`17px/1.6 Georgia , serif;border:1px solid #AABBCC80} u{color:#102030ff;background:rgb(10%,2%,3%)} ` +
			`q{font-family:inherit} broken{`,
		"/b.css": `s{color:#abc;font-family:Georgia, serif}`,
	})
	colours, fonts, err := survey.New(to(hs.URL)).Styles(t.Context(), hs.URL, "/de")
	require.NoError(t, err)
	assert.Equal(t, []survey.Found{
		{Value: "#102030", Times: 3, Name: "brand-blue"}, {Value: "#aabbcc", Times: 2}, {Value: "#010203", Times: 1},
	}, colours)
	assert.Equal(t, []string{"Georgia, serif", `"Sea Sans", serif`}, fonts)
	_, _, err = survey.New(to(hs.URL)).Styles(t.Context(), hs.URL, "/none")
	assert.ErrorContains(t, err, "status 404")
	_, _, err = survey.New(to("")).Styles(t.Context(), "ftp://x", "/")
	assert.Error(t, err)
}

// Pages are read in whatever encoding they are written in (WHATWG Encoding Standard),
// and are in the language that they, their header or their path say.
func TestEncodingsAndLanguages(t *testing.T) {
	in := func(e encoding.Encoding, s string) string {
		out, err := e.NewEncoder().String(s)
		require.NoError(t, err)
		return out
	}
	const korean, japanese, polish, arabic = "한국어 안내", "日本語の案内", "Zażółć gęślą jaźń", "الصفحة الرئيسية"
	filler := "<script>" + strings.Repeat("let bar = 1;", 200) + "</script>"
	xhtml := in(charmap.ISO8859_2, `<?xml version="1.0" encoding="ISO-8859-2"?><html xml:lang="sv" `+
		`xmlns="http://www.w3.org/1999/xhtml"><head><title>`+polish+`</title></head></html>`)
	type page struct{ kind, language, body, title, lang string }
	pages := map[string]page{
		"/ko/header": {"text/html; charset=EUC-KR", "", in(korean_.EUCKR, "<title>"+korean+"</title>"), korean, "ko"},
		"/ja/meta": {
			"text/html", "", in(japanese_.ShiftJIS, `<meta charset="shift_jis"><title>`+japanese+"</title>"), japanese, "ja",
		},
		"/pl/http-equiv": {
			"text/html", "",
			in(
				charmap.ISO8859_2,
				`<meta http-equiv="Content-Type" content="text/html; charset=iso-8859-2"><title>`+polish+"</title>",
			),
			polish, "pl",
		},
		"/ar/utf-16": {
			"text/html", "", in(unicode.UTF16(unicode.LittleEndian, unicode.UseBOM), "<title>"+arabic+"</title>"), arabic, "ar",
		},
		"/ar":             {"text/html", "", "<title>" + arabic + "</title>", arabic, "ar"},
		"/header":         {"text/html; charset=utf-8", "pt-BR, en", "<title>Início</title>", "Início", "pt-BR"},
		"/de/says-itself": {"text/html", "pl", "<html lang=fr><title>Début</title>", "Début", "fr"},
		"/PL/letters":     {"text/html", "?", "<title>x</title>", "x", "pl"},
		"/xx/unknown":     {"text/html", "", "<title>x</title>", "x", ""},
		// The snippet stands before what says the encoding, as it should not.
		"/pl/far-down": {"text/html", "", in(
			charmap.ISO8859_2, "<head>"+filler+`<meta charset="iso-8859-2"><title>`+polish+"</title>",
		), polish, "pl"},
		"/far-down":   {"text/html", "", "<head>" + filler + "<title>" + polish + "</title>", polish, ""},
		"/not-utf-16": {"text/html", "", filler + `<meta charset="utf-16"><title>` + polish + "</title>", polish, ""},
		"/pl/xhtml":   {"application/xhtml+xml", "", xhtml, polish, "sv"},
		"/large": {
			"text/html", "", "<html lang=da><title>Stor</title>" + strings.Repeat(filler, 1200) +
				`<script src="/s/x.js"></script>`, "Stor", "da",
		},
		"/in-a-comment": {"text/html", "", "<!-- <meta charset=shift_jis> --><title>" + polish + "</title>", polish, ""},
		"/broken":       {"text/html; charset=no-such", "", "<title>\xff\xfe\x00</title>", "", ""},
	}
	var hs *httptest.Server
	hs = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/sitemap.xml" {
			fmt.Fprint(w, "<urlset "+ns+">")
			for path := range pages {
				fmt.Fprintf(w, "<url><loc>%s%s</loc></url>", hs.URL, path)
			}
			fmt.Fprint(w, "</urlset>")
			return
		}
		p := pages[r.URL.Path]
		w.Header().Set("Content-Type", p.kind)
		if p.language != "" {
			w.Header().Set("Content-Language", p.language)
		}
		fmt.Fprint(w, p.body)
	}))
	t.Cleanup(hs.Close)
	got, err := survey.New(to(hs.URL)).Survey(t.Context(), hs.URL, survey.Sought{
		Marker:    "/s/x.js",
		Languages: []string{"en", "ko", "ja", "pl", "ar"},
	})
	require.NoError(t, err)
	require.Len(t, got, len(pages))
	for _, p := range got {
		want := pages[p.Path]
		if p.Path != "/broken" {
			assert.Equal(t, want.title, p.Title, p.Path)
		}
		assert.Equal(t, want.lang, p.Language, p.Path)
		assert.True(t, utf8.ValidString(p.Title), p.Path)
		assert.Equal(t, store.SnippetMissing, p.Snippet, "what is beyond the bound is not read: %s", p.Path)
	}
}

// Without a sitemap the pages are those that links lead to: within the site, once each, not what robots.txt or
// nofollow asks to leave, no files; so many of them.
func TestLinksAreFollowed(t *testing.T) {
	answers := map[string]string{
		"/robots.txt": "User-agent: *\nDisallow: /private",
		"/": `<a href="/ports#quay">Ports</a> <A HREF='fares?from=menu'>Fares</A> <a href="/fares">Fares</a>` +
			`<a href="https://elsewhere.invalid/">Elsewhere</a> <a href="mailto:a@b.example">Letters</a>` +
			`<a href="/timetable.PDF">As a file</a> <a href="/private/rota">Rota</a> <a rel="nofollow" href="/trap">x</a>` +
			`<link rel="alternate" hreflang="de" href="/de/"> <link rel="stylesheet" href="/site.css"> <a name="x">x</a>` +
			`<script>'<a href="/in-a-script">'</script><!-- <a href="/in-a-comment"> --><a href="/old">Old</a>` +
			`<a href="javascript:alert(1)">x</a><a href="data:text/html,x">x</a><a href="http://[::1">x</a><a href="">x</a>` +
			`<a href="/it's &quot;so&quot;<b>">x</a>`,
		"/ports": `<!doctype html><base href="/ports/"><a href="aldwick">Aldwick</a><a href="../">Home</a>`,
		"/fares": "", "/de": `<a href="/%ff">broken</a>`, "/old": "-> HOST/moved-here", "/moved-here": "<a href=/last>x</a>",
		"/ports/aldwick": "", "/last": "",
	}
	hs := outside(t, answers)
	listed := func(address string) (paths []string, left map[store.LeftCode]int) {
		t.Helper()
		l, err := survey.New(to(address)).List(t.Context(), address)
		require.NoError(t, err)
		for _, p := range l.Pages {
			paths = append(paths, p.Path)
		}
		left = map[store.LeftCode]int{}
		for _, o := range l.LeftOut {
			left[o.Code] = o.Count
		}
		return paths, left
	}
	paths, left := listed(hs.URL)
	assert.Equal(t, []string{
		"/", "/de", "/fares", "/it%27s%20%22so%22%3Cb%3E", "/last", "/moved-here", "/old", "/ports",
		"/ports/aldwick", "/private/rota",
	}, paths)
	assert.Equal(t, map[store.LeftCode]int{store.LeftRobots: 1}, left)

	var all strings.Builder
	for i := range 700 {
		fmt.Fprintf(&all, `<a href="/p%d">x</a>`, i)
		answers[fmt.Sprintf("/p%d", i)] = `<a href="/">Home</a>`
	}
	answers["/"] = all.String()
	paths, left = listed(outside(t, answers).URL)
	assert.Len(t, paths, 701)
	assert.Equal(t, map[store.LeftCode]int{store.LeftLinks: 201}, left, "500 are looked into")
}

// What somebody's sitemaps say takes little memory, however much they name: addresses of other
// sites, sitemaps that name sitemaps, elements within elements, attributes without end. What cannot
// be read says why.
func TestHostileSitemaps(t *testing.T) {
	const head = `<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9" ` +
		`xmlns:xhtml="http://www.w3.org/1999/xhtml">`
	var used uint64
	for name, c := range map[string]struct {
		write func(w io.Writer, n int)
		says  string // of what was left out, or of the error
		count int
	}{
		"foreign addresses": {func(w io.Writer, n int) {
			fmt.Fprintf(w, "<url><loc>https://elsewhere%d.example/a/page/of/another/site</loc></url>", n)
		}, string(store.LeftElsewhere), 400_000},
		"foreign alternates": {func(w io.Writer, n int) {
			fmt.Fprintf(w, `<url><loc>/</loc><xhtml:link rel="alternate" hreflang="de" href="https://b%d.example/"/></url>`, n)
		}, string(store.LeftElsewhere), 400_000},
		"alternates of one entry": {func(w io.Writer, n int) {
			fmt.Fprintf(w, `<xhtml:link rel="alternate" hreflang="de" href="https://b%d.example/"/>`, n)
		}, "", 400_000},
		"elements within each other": {func(w io.Writer, _ int) {
			io.WriteString(w, "<a>")
		}, "deep within each other", 400_000},
		"an element of attributes": {func(w io.Writer, n int) {
			if n == 0 {
				io.WriteString(w, "<url ")
			}
			fmt.Fprintf(w, `a%d="" `, n)
		}, "an entry of it is larger than 1 MB", 400_000},
		"an endless address": {func(w io.Writer, n int) {
			if n == 0 {
				io.WriteString(w, "<url><loc>")
			}
			io.WriteString(w, "/aaaaaaaaaaaaaaaaaaaaaaaaaaaa<!-- -->")
		}, "", 400_000},
		"sitemaps": {func(w io.Writer, n int) {
			if n == 0 {
				io.WriteString(w, "<url><loc>http://HOST/</loc></url>")
			}
			fmt.Fprintf(w, "<sitemap><loc>http://HOST/%d.xml</loc></sitemap>", n)
		}, string(store.LeftMaps), 100_000},
	} {
		t.Run(name, func(t *testing.T) {
			before := heap()
			site := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
				if r.URL.Path != "/sitemap.xml" {
					http.NotFound(w, r)
					return
				}
				out := bufio.NewWriter(w)
				io.WriteString(out, head)
				for n := range c.count {
					if name != "sitemaps" {
						c.write(out, n)
						continue
					}
					var b strings.Builder
					c.write(&b, n)
					io.WriteString(out, strings.ReplaceAll(b.String(), "HOST", r.Host))
				}
				if strings.HasPrefix(name, "foreign") || name == "sitemaps" {
					io.WriteString(out, "</urlset>")
				}
				out.Flush()
				used = heap()
			}))
			defer site.Close()
			list, err := survey.New(to(site.URL)).List(t.Context(), site.URL)
			assert.Less(t, used, before+(40<<20), "bytes in use while it is read")
			switch {
			case strings.Contains(c.says, " "):
				assert.ErrorContains(t, err, c.says)
			case c.says != "":
				require.NoError(t, err)
				i := slices.IndexFunc(list.LeftOut, func(l store.LeftOut) bool { return string(l.Code) == c.says })
				require.GreaterOrEqual(t, i, 0, "%v", list.LeftOut)
				assert.Greater(t, list.LeftOut[i].Count, c.count/2)
			}
		})
	}
}

// heap is how many bytes are in use.
func heap() uint64 {
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return m.HeapAlloc
}
