package survey

import (
	"bytes"
	"strings"
	"testing"

	"github.com/andybalholm/cascadia"

	"mastflag/core/bundle"
)

// Whatever a site answers is read or refused, within the limits.
func FuzzSitemap(f *testing.F) {
	f.Add([]byte(`<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><url><loc>https://x.example/</loc></url>` +
		`</urlset>`))
	f.Add([]byte(`<sitemapindex><sitemap><loc>a</loc></sitemap></sitemapindex>`))
	f.Add([]byte("\xef\xbb\xbf https://x.example/a\nhttps://x.example/b"))
	f.Add([]byte(`<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9" xmlns:x="http://www.w3.org/1999/xhtml">` +
		`<url><loc>a</loc><x:link rel="alternate" hreflang="de" href="b"/></url></urlset>`))
	f.Add([]byte("\x1f\x8b\x08\x00\x00\x00\x00\x00\x00\x03"))
	f.Fuzz(func(t *testing.T, body []byte) {
		text, err := unpacked(bytes.NewReader(body))
		if err != nil {
			return
		}
		named := 0
		count := func(address, _ string) {
			if named++; address == "" {
				t.Fatal("an address that is none")
			}
		}
		_ = readSitemap(text, func() {}, func(loc string) { count(loc, "") }, count)
		if named > len(body) && !bytes.HasPrefix(body, []byte("\x1f\x8b")) {
			t.Fatalf("%d addresses in %d bytes", named, len(body))
		}
	})
}

func FuzzPage(f *testing.F) {
	f.Add([]byte(`<!doctype html><html lang=de><head><title>A &amp; B</title><script src="https://n.example/s/x.js">` +
		`</script><style>a{color:#0b5a66}</style><link rel=stylesheet href=a.css>`))
	f.Add([]byte(`<title><script src=/s/x.js`))
	f.Add([]byte(`<link rel=alternate hreflang=de href=/a><link rel=alternate hreflang=x-default href="//[">`))
	group, _ := cascadia.ParseGroup("main > p")
	all, _ := cascadia.ParseGroup("html")
	f.Fuzz(func(t *testing.T, body []byte) {
		says := readPage(bytes.NewReader(body), "/s/x.js", true, "https://x.example/a")
		if strings.ContainsAny(says.title, "\n\t") {
			t.Fatalf("a title of more than a line: %q", says.title)
		}
		sheetsOf(body)
		found, lost := find(bytes.NewReader(body), []spot{{"main > p", group}, {"html", all}})
		if len(lost) > 1 || len(found)+len(lost) != 2 {
			t.Fatalf("%v were not found, and every page has an html; %v were", lost, found)
		}
		if p, in := found["main > p"], found["html"]; p != (bundle.Extent{}) &&
			(p.From <= in.From || p.To >= in.To || p.From >= p.To) {
			t.Fatalf("%v does not lie in %v", p, in)
		}
	})
}

func FuzzSheet(f *testing.F) {
	f.Add([]byte(`:root{--brand:#0b5a66}a{color:rgb(1, 2, 3);font:700 12px/1.4 "Public Sans",sans-serif}`))
	f.Add([]byte(`@media{a{color:#fffff}}@x;{{{`))
	f.Fuzz(func(t *testing.T, sheet []byte) {
		var colours []Found
		readSheet(sheet, &colours, map[string]int{})
		for _, c := range colours {
			if len(c.Value) != 7 || c.Value[0] != '#' {
				t.Fatalf("%q is no colour", c.Value)
			}
		}
	})
}
