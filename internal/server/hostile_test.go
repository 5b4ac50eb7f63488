package server_test

import (
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"maps"
	"net/http"
	netmail "net/mail"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
	"golang.org/x/net/html"

	"mastflag/core/bundle"
	"mastflag/internal/admin/alerts"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/documents"
	"mastflag/internal/admin/languages"
	"mastflag/internal/admin/library"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/now"
	"mastflag/internal/admin/people"
	"mastflag/internal/admin/sites"
	"mastflag/internal/history"
	"mastflag/internal/importing"
	"mastflag/internal/mail"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// hostile are texts that do something in one language or another where they are
// not taken for text.
var hostile = map[string]string{
	"a script":              `</script><script>pwn()</script>`,
	"an attribute":          `"><img src=x onerror="pwn()">`,
	"a string of JSON":      `","x":"</script>`,
	"a string of script":    `';pwn();//`,
	"a template":            "`${pwn()}`{{7*7}}",
	"an address of script":  `javascript:pwn()`,
	"another host":          `//evil.example/x`,
	"another host, bent":    `/\evil.example/x`,
	"a line of a header":    "x\r\nSet-Cookie: pwn=1",
	"a line of a calendar":  "x\rATTACH:https://evil.example/pwn",
	"ends of lines of code": "x\u2028pwn()\u2029",
	"a formula":             `=cmd|'/C pwn'!A0`,
	"a formula, later":      "\t@SUM(1+1)*pwn",
	"a full-width formula":  `＝1+1`,
	"the end of CDATA":      `]]><pwn/>`,
	"an entity":             `&pwn;<!DOCTYPE x>`,
	"SQL":                   `'; DROP TABLE notice; --`,
	"a style":               `red;}</style><style>*{background:url(https://evil.example)}`,
	"a comment":             `--><script>pwn()</script><!--`,
	"another direction":     "\u202egnp.exe",
}

// fields are where people type: each puts a text into a bundle, which may then be
// refused.
var fields = map[string]string{
	"site name":            `/site/name`,
	"palette name":         `/site/palette/0/name`,
	"audience name":        `/site/audiences/0/name`,
	"page set name":        `/site/pageSets/0/name`,
	"kept wording name":    `/site/wordings/0/name`,
	"starting point name":  `/site/startingPoints/0/name`,
	"purpose name":         `/site/consent/purposes/0/words/en/name`,
	"purpose text":         `/site/consent/purposes/0/words/en/text`,
	"inventory name":       `/site/consent/inventory/0/name`,
	"inventory by":         `/site/consent/inventory/0/by`,
	"inventory host":       `/site/consent/inventory/0/host`,
	"inventory words":      `/site/consent/inventory/0/for/en`,
	"feed title":           `/site/feeds/0/title`,
	"feed address":         `/site/feeds/0/address`,
	"font of the site":     `/site/fonts/0`,
	"home path":            `/site/homePaths/0`,
	"page path":            `/pages/0/path`,
	"page title":           `/pages/0/title`,
	"page type":            `/pages/0/type`,
	"page tag":             `/pages/0/tags/0`,
	"notice title":         `/notices/0/title`,
	"message":              `/notices/0/content/wordings/en/message`,
	"longer message":       `/notices/1/content/wordings/en/details`,
	"link label":           `/notices/0/content/wordings/en/link/label`,
	"link address":         `/notices/0/content/wordings/en/link/href`,
	"headline":             `/notices/0/content/wordings/en/headline`,
	"second label":         `/notices/0/content/wordings/en/second/label`,
	"second address":       `/notices/0/content/wordings/en/second/href`,
	"own words":            `/notices/2/content/wordings/en/words/accept`,
	"words of the site":    `/site/words/en/words/close`,
	"fill-in: name":        `/site/fillIns/name`,
	"fill-in: address":     `/site/fillIns/address`,
	"fill-in: telephone":   `/site/fillIns/telephone`,
	"fill-in: hours":       `/site/fillIns/hours/en`,
	"fill-in: e-mail":      `/site/fillIns/email`,
	"theme name":           `/site/themes/0/name`,
	"theme: style":         `/site/themes/0/look/css`,
	"name of rules":        `/site/rules/0/name`,
	"look: theme":          `/notices/0/look/theme`,
	"look: button":         `/notices/0/look/buttons/background`,
	"look: size":           `/notices/0/look/size`,
	"picture's address":    `/notices/0/content/picture/address`,
	"picture: by":          `/notices/5/content/picture/table/by`,
	"picture: value":       `/notices/5/content/picture/table/rows/0/value`,
	"picture: another":     `/notices/5/content/picture/table/rows/0/address`,
	"what it shows":        `/notices/5/content/wordings/en/alt`,
	"countdown label":      `/notices/1/content/wordings/en/labels/day/other`,
	"countdown's page":     `/notices/1/content/countdown/go`,
	"look: font":           `/notices/0/look/font`,
	"look: colour":         `/notices/0/look/background`,
	"look: style":          `/notices/0/look/css`,
	"look: icon":           `/notices/0/look/icon`,
	"spot":                 `/notices/1/spot/selector`,
	"spot for some pages":  `/notices/1/spots/0/selector`,
	"a spot's pages":       `/notices/1/spots/0/pages/include/0/path`,
	"copy: of which":       `/notices/1/copyOf/id`,
	"fact":                 `/notices/0/audience/all/0/fact`,
	"fact's own name":      `person`,
	"value of a condition": `/notices/0/audience/all/0/value`,
	"pages: path":          `/notices/0/pages/include/1/path`,
	"pages: pattern":       `/notices/0/pages/include/2/pattern`,
	"pages: value":         `/notices/0/pages/include/3/value`,
	"goal":                 `/notices/0/experiment/goal/event`,
	"variant name":         `/notices/0/experiment/variants/1/name`,
	"variant headline":     `/notices/0/experiment/variants/0/wordings/en/headline`,
	"variant message":      `/notices/0/experiment/variants/0/wordings/en/message`,
	"variant link":         `/notices/0/experiment/variants/0/wordings/en/link/href`,
	"variant look":         `/notices/0/experiment/variants/0/look/background`,
	"consent policy":       `/notices/2/content/wordings/en/link/href`,
	"document title":       `/site/documents/0/titles/en`,
	"document's answer":    `/site/documents/0/answers/operator`,
	"document's address":   `/site/documents/0/answers/address`,
	"document's section":   `/site/documents/0/own/rights/en`,
	"disclaimer: else":     `/notices/3/content/disclaimer/else`,
	"disclaimer: button":   `/notices/3/content/wordings/en/confirm`,
	"disclaimer: document": `/notices/3/content/disclaimer/document`,
	"part: heading":        `/notices/4/content/wordings/en/parts/head/heading`,
	"part: text":           `/notices/4/content/wordings/en/parts/text/text`,
	"part: label":          `/notices/4/content/wordings/en/parts/links/links/0/label`,
	"part: address":        `/notices/4/content/wordings/en/parts/links/links/0/href`,
	"part: question":       `/notices/4/content/wordings/en/parts/ask/heading`,
	"part: answer":         `/notices/4/content/wordings/en/parts/ask/answers/0`,
	"part: thanks":         `/notices/4/content/wordings/en/parts/ask/thanks`,
	"part: event":          `/notices/4/content/rows/0/columns/0/parts/4/events/0`,
	"part: telephone":      `/notices/4/content/rows/0/columns/0/parts/3/contact/0/value`,
	"part: postal address": `/notices/4/content/rows/0/columns/0/parts/3/contact/1/value`,
	"part: map":            `/notices/4/content/rows/0/columns/0/parts/3/contact/2/value`,
	"part: id":             `/notices/4/content/rows/0/columns/0/parts/5/id`,
	"field: label":         `/notices/5/content/wordings/en/parts/mail/heading`,
	"field: help":          `/notices/5/content/wordings/en/parts/mail/text`,
	"field: option":        `/notices/5/content/wordings/en/parts/which/answers/0`,
	"field: what is kept":  `/notices/5/content/rows/0/columns/0/parts/1/field/options/0`,
	"field: fact":          `/notices/5/content/rows/0/columns/0/parts/3/field/fact`,
	"field: last day":      `/notices/5/content/rows/0/columns/0/parts/4/field/latest`,
	"agreement":            `/notices/5/content/wordings/en/parts/agree/text`,
	"send: button":         `/notices/5/content/wordings/en/parts/send/heading`,
	"send: afterwards":     `/notices/5/content/wordings/en/parts/send/text`,
	"form: where it leads": `/notices/5/content/form/after/to`,
	"form: receiver":       `/notices/5/content/form/passOn/0/address`,
	"form: mail":           `/notices/5/content/form/passOn/1/mail`,
	"video: file":          `/notices/5/content/rows/0/columns/0/parts/6/video/file`,
	"video: title":         `/notices/5/content/wordings/en/parts/film/heading`,
	"video: captions":      `/notices/5/content/wordings/en/parts/film/captions`,
	"contact: address":     `/notices/5/content/rows/0/columns/0/parts/7/contact/0/value`,
	"contact: label":       `/notices/5/content/wordings/en/parts/reach/answers/0`,
	"words of a form":      `/notices/5/content/wordings/en/words/no-email`,
	"words of its letter":  `/notices/5/content/wordings/en/words/confirm-subject`,
	"tab icon":             `/notices/6/content/tab/icon/name`,
}

const hostileBase = `{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"Europe/London",` +
	`"language":"en","languages":["en","de"],"origins":["` + origin + `"],"homePaths":["/"],
 "palette":[{"name":"Sea","value":"#0b5a66"}],"themes":[{"name":"Sea","look":{}}],"rules":[{"name":"Ours"}],` +
	`"fonts":["Georgia, serif"],"audiences":[{"name":"regulars",` +
	`"audience":{"fact":"visits.number","is":"gte","value":2}}],"pageSets":[{"name":"ports","include":[{"match":"all"}]}],
 "wordings":[{"name":"Sorry","wordings":{"en":{"message":"Sorry"}}}],"startingPoints":[{"name":"Ours",` +
	`"notice":{"id":"ours","kind":"bar","content":{"wordings":{"en":{"message":"Ours"}}}}}],
 "feeds":[{"name":"weather","title":"Weather"}],
 "documents":[{"id":"legal","kind":"privacy","titles":{"en":"Privacy"},"answers":{"operator":"S","address":"Quay 1",` +
	`"email":"a@s.example","uses":"orders"},"own":{"rights":{"en":"<p>All of them.</p>"}}}],
 "consent":{"purposes":[{"id":"measurement","words":{"en":{"name":"Counting","text":"We count."}}}],` +
	`"inventory":[{"kind":"cookie","name":"tw","by":"Tidewater","purpose":"measurement","lasts":"P1D",` +
	`"for":{"en":"counts"}}]}},
 "pages":[{"path":"/","title":"Home","type":"home","tags":["start"]},{"path":"/book","title":"Book"}],
 "notices":[
 {"id":"one","kind":"alert","level":"warning","title":"One","state":"published",` +
	`"publishedAt":"2026-12-01T10:00:00Z","audience":{"all":[{"fact":"person.tier","is":"ne","value":"gold"}]},` +
	`"look":{"background":"#0b5a66","theme":"Sea"},"experiment":{"goal":{"event":"order"},"variants":[{"id":"a",` +
	`"name":"A","wordings":{"en":{"headline":"H","link":{"href":"/offers"}}}},{"id":"b","name":"B"}]},
  "pages":{"include":[{"match":"all"},{"match":"page","path":"/book"},{"match":"pattern","pattern":"/b*"},` +
	`{"match":"query","name":"q","value":"x"}]},"content":{"wordings":{"en":{"message":"Hello {name} {address} {hours}` +
	`<a href='/find?for={address}'>x</a> <a href='tel:{telephone}'>y</a>","link":{"href":"/book","label":"Book"},` +
	`"second":{"href":"/","label":"Home"}}}}},
 {"id":"two","kind":"countdown","title":"Two","state":"published","publishedAt":"2026-12-01T10:00:00Z",` +
	`"slot":"inline","spot":{"selector":"main"},"copyOf":{"id":"one","mark":"0123456789ab"},
  "spots":[{"selector":"aside","pages":{"include":[{"match":"page","path":"/book"}]}}],` +
	`"pages":{"include":[{"match":"all"}]},
  "content":{"countdown":{"kind":"to","at":"2026-12-24T18:00","go":"/book"},"wordings":{"en":{"message":"Until ` +
	`{countdown}","details":"More"}}}},
 {"id":"ask","kind":"consent","title":"Ask","state":"published","publishedAt":"2026-12-01T10:00:00Z",` +
	`"pages":{"include":[{"match":"all"}]},"content":{"wordings":{"en":{"message":"May we?","link":{"href":"/privacy",` +
	`"label":"Who we are"}}}}},
 {"id":"risk","kind":"disclaimer","title":"Risk","state":"published","publishedAt":"2026-12-01T10:00:00Z",` +
	`"pages":{"include":[{"match":"all"}]},
  "content":{"disclaimer":{"ask":"declare","else":"/book"},"wordings":{"en":{"message":"Is it so?","confirm":"It ` +
	`is"}}}},
 {"id":"block","kind":"block","title":"Block","state":"published","publishedAt":"2026-12-01T10:00:00Z",` +
	`"memory":{"closable":false},"spot":{"selector":"main"},"pages":{"include":[{"match":"all"}]},
  "content":{"rows":[{"columns":[{"parts":[{"id":"head","kind":"heading"},{"id":"text","kind":"text"},{"id":"links",` +
	`"kind":"links"},
   {"id":"reach","kind":"contact","contact":[{"by":"telephone","value":"+44 1632 960 143"},{"by":"address",` +
	`"value":"Quay 1"},{"by":"map","value":"https://maps.example/"}]},
   {"id":"ask","kind":"question","events":["yes"]},{"id":"more","kind":"text"}]}]}],
   "wordings":{"en":{"parts":{"head":{"heading":"Head"},"text":{"text":"<p>Text</p>"},` +
	`"links":{"links":[{"href":"/book","label":"Book"}]},"ask":{"heading":"Useful?","answers":["Yes"],` +
	`"thanks":"Thanks"}}}}}},
 {"id":"form","kind":"pop-up","slot":"corner-end","title":"Form","state":"published",` +
	`"publishedAt":"2026-12-01T10:00:00Z","pages":{"include":[{"match":"all"}]},
  "content":{"picture":{"file":"0123456789abcdef.png","width":1,"height":1,"table":{"by":"person.tier",` +
	`"rows":[{"value":"gold","address":"https://pictures.example/g.png"}]}},` +
	`"form":{"confirm":"mail","after":{"then":"page","to":"/book"},` +
	`"passOn":[{"address":"https://desk.example/"},{"mail":"desk@s.example"}]},
   "rows":[{"columns":[{"parts":[{"id":"mail","kind":"field","field":{"kind":"email","required":true}},` +
	`{"id":"which","kind":"field","field":{"kind":"choice","options":["a"]}},{"id":"agree","kind":"field",` +
	`"field":{"kind":"agreement"}},{"id":"from","kind":"field","field":{"kind":"hidden","fact":"utm.source"}},` +
	`{"id":"day","kind":"field","field":{"kind":"date","latest":"2027-01-01"}},{"id":"send","kind":"send"},` +
	`{"id":"film","kind":"video","video":{"file":"/f.webm"}},{"id":"reach","kind":"contact","buttons":true,` +
	`"contact":[{"by":"link","value":"https://map.example/"}]}]}]}],
   "wordings":{"en":{"message":"Write","parts":{"mail":{"heading":"Mail","text":"<p>Yours</p>"},` +
	`"which":{"heading":"Which","answers":["A"]},"agree":{"text":"<p>Yes</p>"},"send":{"heading":"Send",` +
	`"text":"<p>Thanks</p>"},"film":{"heading":"Film","captions":"WEBVTT"},"reach":{"answers":["Map"]}}}}}},
 {"id":"tab","kind":"tab-title","title":"Tab","state":"published","publishedAt":"2026-12-01T10:00:00Z",` +
	`"pages":{"include":[{"match":"all"}]},"content":{"tab":{"icon":{"name":"ship"}},` +
	`"wordings":{"en":{"message":"<p>Still there?</p>"}}}}]}`

// with returns the bundle with a text in places.
func with(t *testing.T, text string, places ...string) []byte {
	t.Helper()
	var doc any
	require.NoError(t, json.Unmarshal([]byte(hostileBase), &doc))
	for _, place := range places {
		put(t, doc, fields[place], text)
	}
	raw, err := json.Marshal(doc)
	require.NoError(t, err)
	return raw
}

// put puts a text into a document.
func put(t *testing.T, doc any, pointer, text string) {
	t.Helper()
	if pointer == "person" {
		pointer, text = `/notices/0/audience/all/0/fact`, "person."+text
	}
	tokens := strings.Split(pointer, "/")[1:]
	at := doc
	for i, token := range tokens {
		last := i == len(tokens)-1
		switch v := at.(type) {
		case map[string]any:
			if last {
				v[token] = text
			} else if v[token] == nil {
				v[token] = map[string]any{}
			}
			at = v[token]
		case []any:
			var k int
			_, err := fmt.Sscan(token, &k)
			require.NoError(t, err)
			if last {
				v[k] = text
			}
			at = v[k]
		default:
			require.Fail(t, "no such place", pointer)
		}
	}
}

// safeHTML says what in HTML would run or fetch, or lead where no notice leads.
func safeHTML(s string) string {
	z := html.NewTokenizer(strings.NewReader(s))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return ""
		case html.StartTagToken, html.SelfClosingTagToken:
			tok := z.Token()
			if slices.Contains([]string{"script", "iframe", "object", "embed", "base", "meta", "link"}, tok.Data) {
				return "<" + tok.Data + ">"
			}
			// A form of a notice is sent by the script, to nobody else.
			if tok.Data == "form" && len(tok.Attr) != 2 {
				return tok.String()
			}
			for _, a := range tok.Attr {
				value := strings.ToLower(strings.Join(
					strings.FieldsFunc(a.Val, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) }), "",
				))
				leadsAstray := strings.HasPrefix(value, "javascript:") || strings.HasPrefix(value, "data:") ||
					strings.HasPrefix(value, "//") || strings.Contains(value, `\`)
				switch {
				case strings.HasPrefix(a.Key, "on"):
					return a.Key
				case (a.Key == "href" || a.Key == "src") && leadsAstray:
					return a.Key + "=" + a.Val
				case a.Key == "data-table" && safeTable(a.Val) != "":
					return safeTable(a.Val)
				case a.Key == "action" || a.Key == "formaction" || a.Key == "style" || a.Key == "srcdoc":
					return a.Key
				case a.Key == "src" && !strings.HasPrefix(a.Val, "http://notices.example/"):
					return "src=" + a.Val
				}
			}
		}
	}
}

// safeTable says what the script would fetch from elsewhere than a picture may come from.
func safeTable(s string) string {
	var table bundle.PictureTable
	if err := json.Unmarshal([]byte(s), &table); err != nil {
		return "no table: " + s
	}
	for _, r := range table.Rows {
		if !strings.HasPrefix(r.Address, "https://") && !strings.HasPrefix(r.Address, "http://notices.example/i/") {
			return "a picture at " + r.Address
		}
	}
	return ""
}

// safeCSS says what in a style sheet would fetch or end it.
func safeCSS(s string) string {
	if strings.Contains(s, "</") {
		return "</"
	}
	l := css.NewLexer(parse.NewInputString(s))
	for {
		kind, data := l.Next()
		if kind == css.ErrorToken {
			return ""
		}
		if kind == css.URLToken || kind == css.BadURLToken ||
			kind == css.FunctionToken && strings.EqualFold(string(data), "url(") {
			return string(data)
		}
	}
}

// wellFormed says why XML is not, and which elements it has.
func wellFormed(s string) (elements string, err error) {
	d := xml.NewDecoder(strings.NewReader(s))
	var names []string
	for {
		tok, err := d.Token()
		if err == io.EOF {
			slices.Sort(names)
			return strings.Join(slices.Compact(names), " "), nil
		}
		if err != nil {
			return "", err
		}
		switch e := tok.(type) {
		case xml.StartElement:
			names = append(names, e.Name.Local)
		case xml.Directive:
			return "", fmt.Errorf("a directive: %s", e)
		}
	}
}

var (
	contentLine = regexp.MustCompile(`^[A-Z][A-Z0-9-]*[;:]`)
	calendarIs  = []string{
		"BEGIN", "VERSION", "PRODID", "METHOD", "NAME", "X-WR-CALNAME", "REFRESH-INTERVAL", "UID", "DTSTAMP", "DTSTART",
		"DTEND", "SUMMARY", "DESCRIPTION", "URL", "TRANSP", "END", "SEQUENCE",
	}
)

// outlets are where it comes out, as something that is not text by itself: each
// says what is wrong with it, "" if nothing is.
var outlets = map[string]func(b *bench) string{
	"script: the loader": func(b *bench) string {
		_, body := b.read("/s/s.js")
		m := regexp.MustCompile(
			`(?s)^"use strict";\(\(\)=>\{.*?try\{.*?=(\{[^\n]*?\}),[a-z]=[a-z]\?new URL`,
		).FindStringSubmatch(body)
		if m == nil {
			return "it is another script: " + body
		}
		var known map[string]string
		if err := json.Unmarshal([]byte(m[1]), &known); err != nil {
			return "not JSON: " + m[1]
		}
		if strings.ContainsAny(body, "<>\u2028\u2029") && strings.Contains(m[1], "<") {
			return "it could end a script element"
		}
		return ""
	},
	"script: the line in the page": func(b *bench) string {
		var d sites.SiteDetail
		b.call("GET", "/api/sites/s", nil, &d)
		z := html.NewTokenizer(strings.NewReader(d.Snippet))
		n := 0
		for z.Next() != html.ErrorToken {
			if name, _ := z.TagName(); string(name) == "script" {
				n++
			}
		}
		if n != 4 {
			return "not two scripts: " + d.Snippet
		}
		return ""
	},
	"HTML, style and JSON: the decision": func(b *bench) string {
		_, body, _ := b.visit(origin, `{"url":"`+origin+`/","facts":{"person.tier":"silver"}}`)
		var d struct{ Show []struct{ HTML, CSS string } }
		if err := json.Unmarshal([]byte(body), &d); err != nil {
			return "not JSON: " + body
		}
		for _, n := range d.Show {
			if wrong := safeHTML(n.HTML); wrong != "" {
				return wrong
			}
			if wrong := safeCSS(n.CSS); wrong != "" {
				return wrong
			}
		}
		return ""
	},
	"HTML: a document": func(b *bench) string {
		var d documents.DocumentDetail
		b.call("GET", "/api/sites/s/documents/legal", nil, &d)
		for _, s := range d.Sections {
			if wrong := safeHTML(s.HTML); wrong != "" {
				return s.ID + ": " + wrong
			}
		}
		var f documents.DocumentFile
		b.call("GET", "/api/sites/s/documents/legal/file?as=html", nil, &f)
		_, body, _ := strings.Cut(f.Text, `<meta charset="utf-8">`)
		if wrong := safeHTML(body); wrong != "" {
			return "the file: " + wrong
		}
		b.call("GET", "/api/sites/s/documents/legal/file?as=markdown", nil, &f)
		if strings.Contains(f.Text, "<script") || strings.Contains(f.Text, "](javascript:") {
			return f.Text
		}
		return ""
	},
	"HTML: what is pasted": func(b *bench) string {
		for _, id := range []string{"one", "two", "ask", "risk", "form"} {
			var p notices.PlainNotice
			if b.call("GET", "/api/sites/s/notices/"+id+"/html", nil, nil) != 200 {
				continue // it says nothing
			}
			b.call("GET", "/api/sites/s/notices/"+id+"/html", nil, &p)
			style, rest, _ := strings.Cut(strings.TrimPrefix(p.HTML, "<style>"), "</style>")
			if !strings.HasPrefix(p.HTML, "<style>") {
				style, rest = "", p.HTML
			}
			if wrong := safeHTML(rest); wrong != "" {
				return id + ": " + wrong
			}
			if wrong := safeCSS(style); wrong != "" {
				return id + ": " + wrong
			}
		}
		return ""
	},
	"HTML and style: the Library": func(b *bench) string {
		var list library.StartingList
		b.call("GET", "/api/sites/s/starting", nil, &list)
		for _, p := range list.Points {
			if wrong := safeHTML(p.HTML) + safeCSS(p.CSS); wrong != "" {
				return p.Key + ": " + wrong
			}
		}
		return ""
	},
	"XML: the feed of alerts": func(b *bench) string {
		_, body := b.read("/f/s/alerts.atom")
		names, err := wellFormed(body)
		if err != nil || names != "author entry feed id link name published summary title updated" {
			return fmt.Sprint(names, err)
		}
		return ""
	},
	"XML: an alert": func(b *bench) string {
		_, body := b.read("/f/s/alerts/one.xml")
		names, err := wellFormed(body)
		if err != nil || strings.Contains(names, "pwn") {
			return fmt.Sprint(names, err)
		}
		return ""
	},
	"XML: texts for a translator": func(b *bench) string {
		var f languages.XLIFFFile
		b.call("GET", "/api/sites/s/xliff?language=de", nil, &f)
		names, err := wellFormed(f.Text)
		if err != nil || strings.Contains(names, "pwn") {
			return fmt.Sprint(names, err)
		}
		return ""
	},
	"calendar: the schedule": func(b *bench) string {
		var a alerts.Alerts
		b.call("GET", "/api/sites/s/alerts", nil, &a)
		u, err := url.Parse(a.Calendar)
		require.NoError(b.t, err)
		_, body := b.read(u.Path)
		if strings.Contains(strings.ReplaceAll(body, "\r\n", ""), "\r") ||
			strings.Contains(strings.ReplaceAll(body, "\r\n", ""), "\n") {
			return "a bare end of a line"
		}
		for line := range strings.SplitSeq(strings.ReplaceAll(body, "\r\n ", ""), "\r\n") {
			if line == "" {
				continue
			}
			if !contentLine.MatchString(line) {
				return "no property: " + line
			}
			if name := line[:strings.IndexAny(line, ";:")]; !slices.Contains(calendarIs, name) {
				return "a property that we do not write: " + line
			}
		}
		return ""
	},
	"CSV: pages and notices": func(b *bench) string {
		_, body := b.file("/api/sites/s/table.csv")
		return safeCSV(body)
	},
	"CSV: the inventory": func(b *bench) string {
		_, body := b.file("/api/sites/s/consent/inventory.csv")
		return safeCSV(body)
	},
	"CSV: the records": func(b *bench) string {
		_, body := b.file("/api/sites/s/consent/records.csv")
		return safeCSV(body)
	},
	"JSON: the view": func(b *bench) string {
		var v now.View
		b.call("GET", "/api/sites/s/view", nil, &v)
		return ""
	},
	"an address: a preview link": func(b *bench) string {
		var link notices.PreviewLink
		b.call("POST", "/api/sites/s/notices/one/preview", base.Moment{Page: "/book"}, &link)
		u, err := url.Parse(link.Address)
		if err != nil || u.Scheme+"://"+u.Host != origin {
			return link.Address
		}
		return ""
	},
	"headers: files": func(b *bench) string {
		for _, path := range []string{"/api/sites/s/consent/inventory.csv", "/api/sites/s/consent/records.jsonl"} {
			res, err := b.client.Get(b.url + path)
			require.NoError(b.t, err)
			res.Body.Close()
			if res.Header.Get("Set-Cookie") != "" || !strings.HasPrefix(
				res.Header.Get("Content-Disposition"), `attachment; filename="s-`,
			) {
				return fmt.Sprint(res.Header)
			}
		}
		return ""
	},
	"mail: the snippet": func(b *bench) string {
		var before, after int
		require.NoError(b.t, b.server.Store.DB().QueryRow("SELECT count(*) FROM message").Scan(&before))
		if status := b.call("POST", "/api/sites/s/send", base.Address{Email: "dev@s.example"}, nil); status != 200 {
			return fmt.Sprint(status)
		}
		require.NoError(b.t, b.server.Store.DB().QueryRow("SELECT count(*) FROM message").Scan(&after))
		if after != before+1 {
			return "not one message more"
		}
		return ""
	},
	"SQL: all of it": func(b *bench) string {
		var n int
		if err := b.server.Store.DB().QueryRow("SELECT count(*) FROM notice").Scan(&n); err != nil || n != 7 {
			return fmt.Sprint(n, err)
		}
		return ""
	},
}

func safeCSV(text string) string {
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	if err != nil {
		return err.Error()
	}
	for _, row := range rows {
		for _, cell := range row {
			if beginsFormula.MatchString(cell) {
				return "a formula: " + cell
			}
		}
	}
	return ""
}

// beginsFormula finds what a spreadsheet takes for a formula, whatever separates its cells.
var beginsFormula = regexp.MustCompile(`(^|[,;|\t\r\n])[ "]*[=+\-@＝＋－＠]`)

// file reads a file of the API.
func (b *bench) file(path string) (*http.Response, string) {
	b.t.Helper()
	res, err := b.client.Get(b.url + path)
	require.NoError(b.t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(b.t, err)
	return res, string(body)
}

// hiding are places whose text can keep a notice from where the others come out: they are tried by themselves.
var hiding = regexp.MustCompile(`^person$|/(audience|pages|spots?|homePaths|copyOf)/`)

// Every hostile text in every place where people type: it is refused with its
// place, or comes out at every outlet as the text that it is.
func TestHostileTexts(t *testing.T) {
	b := newBench(t).signIn()
	accepted, refused, imported := 0, 0, 0
	// Places in which a text is accepted are tried together, as far as the bundle stays right.
	try := func(name, text string, places []string) {
		imported++
		says := name + " in " + strings.Join(places, ", ")
		in, err := bundle.Parse(with(t, text, places...))
		require.NoError(t, err, says)
		_, err = importing.Bundle(t.Context(), b.server.Store, in, store.By{Name: "test"}, start)
		require.NoError(t, err, says)
		require.NoError(t, b.server.Hub.Reload(t.Context(), "s"))
		assert.Empty(t, b.server.Hub.Site("s").Uncompiled, says)
		for outlet, wrong := range outlets {
			if what := wrong(b); what != "" {
				t.Errorf("%s, at %s: %s", says, outlet, what)
			}
		}
	}
	for name, text := range hostile {
		var together []string
		for _, place := range slices.Sorted(maps.Keys(fields)) {
			if _, err := bundle.Parse(with(t, text, place)); err != nil {
				refused++
				assert.NotContains(t, err.Error(), "is not JSON", "%s, %s", place, name)
				assert.Regexp(t, `^/`, err.Error(), "%s, %s", place, name)
				continue
			}
			accepted++
			more := append(slices.Clone(together), place)
			if _, err := bundle.Parse(with(t, text, more...)); err == nil && !hiding.MatchString(fields[place]) {
				together = more
			} else {
				try(name, text, []string{place})
			}
		}
		if together != nil {
			try(name, text, together)
		}
	}
	t.Logf(
		"%d texts came out as they are at %d outlets, by %d imports, %d were refused with their place",
		accepted, len(outlets), imported, refused,
	)
	assert.Greater(t, accepted, 200)
	assert.Greater(t, refused, 200)
}

// The same for what is typed elsewhere than into a bundle: names of people, which
// stand in letters and in history; names of images.
func TestHostileNames(t *testing.T) {
	b := newBench(t).signIn()
	post := standin.NewPostOffice(t.TempDir(), mail.Sender{})
	for name, text := range hostile {
		var list people.PeopleList
		b.call("POST", "/api/people/invite", people.Person{
			Email: "jo@s.example",
			Name:  text,
			Role:  "editor",
			Sites: []string{"s"},
		}, &list)
		letters, err := filepath.Glob(filepath.Join(b.dir, standin.OutboxName, "*.eml"))
		require.NoError(t, err)
		require.Len(t, letters, 1, "the letter before it is gone")
		f, err := os.Open(letters[0])
		require.NoError(t, err)
		m, err := netmail.ReadMessage(f)
		require.NoError(t, err, name)
		assert.Len(t, m.Header, 9, name)
		assert.Equal(t, "<jo@s.example>", m.Header.Get("To"), name)
		f.Close()
		require.NoError(t, post.Send("0123456789abcdef.eml", mail.Letter{
			From:    "a@s.example",
			To:      "b@s.example",
			Subject: text,
			Body:    text,
		}))
		require.NoError(t, b.server.Store.AddHistory(t.Context(), "s", "", store.Entry{
			At:   start,
			By:   store.By{Name: text},
			Deed: history.Said.With(text),
			Line: text,
		}))
		var seen sites.Activity
		b.call("GET", "/api/sites/s/activity?who="+url.QueryEscape(text), nil, &seen)
		assert.Len(t, seen.Deeds, 1, name)
	}
	for _, bad := range []string{"../../x.eml", "x", "0123456789abcdef.eml/..", "/etc/passwd", ""} {
		assert.Error(t, post.Send(bad, mail.Letter{}), bad)
		_, err := post.Read(bad)
		assert.ErrorIs(t, err, os.ErrNotExist, bad)
	}
}
