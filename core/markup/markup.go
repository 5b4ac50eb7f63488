// Package markup is the small safe subset of HTML in which people write
// messages: p, br, strong, b, em, i, a, ul, ol, li, and span with our classes.
// Documents may have headings and tables besides.
package markup

import (
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"golang.org/x/net/html"

	"mastflag/core/personal"
)

var (
	tags         = []string{"p", "br", "strong", "b", "em", "i", "a", "ul", "ol", "li", "span"}
	documentTags = append(slices.Clone(tags), "h2", "h3", "table", "thead", "tbody", "tr", "th", "td")
	detailTags   = append(slices.Clone(tags), "h2", "h3", "img")
)

// DocumentScheme begins the address that leads to a document of the site by its
// id, such as document:privacy.
const DocumentScheme = "document:"

// ImageScheme begins the address of a picture of the site by its file.
const ImageScheme = "image:"

// DocumentTags names the elements that a document may have.
func DocumentTags() string { return strings.Join(documentTags, ", ") }

var (
	ourClass = regexp.MustCompile(`^mf-[a-z]+(?: mf-[a-z]+)*$`)
	// A picture of the site, by its file, and a length of it in px.
	imageAddress = regexp.MustCompile(`^image:[0-9a-f]{16}\.(?:jpg|png|webp|gif)$`)
	pixels       = regexp.MustCompile(`^[0-9]{1,5}$`)
	// The id of a document, as in its address.
	documentID = regexp.MustCompile(`^[a-z0-9]+(?:-[a-z0-9]+)*$`)
	langTag    = regexp.MustCompile(`^[A-Za-z]{2,8}(?:-[A-Za-z0-9]{1,8})*$`)
	dirValue   = regexp.MustCompile(`^(?:ltr|rtl|auto)$`)
	// What browsers read as it is written: no backslash, which they take for a
	// slash, no control character, which they drop, and no host without a scheme.
	plainAddress = regexp.MustCompile(`^ *(?:[^/\\\x00-\x20\x7f]|/(?:[^/\\\x00-\x20\x7f]|$))[^\\\x00-\x1f\x7f]*$`)
)

var policy, documentPolicy, detailsPolicy = newPolicy(tags), newPolicy(documentTags), func() *bluemonday.Policy {
	p := newPolicy(detailTags)
	p.AllowAttrs("src").Matching(imageAddress).OnElements("img")
	p.AllowAttrs("width", "height").Matching(pixels).OnElements("img")
	p.AllowAttrs("alt").OnElements("img")
	p.AllowURLSchemes(strings.TrimSuffix(ImageScheme, ":"))
	return p
}()

func newPolicy(tags []string) *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements(tags...)
	p.AllowAttrs("class").Matching(ourClass).OnElements("span")
	p.AllowAttrs("lang").Matching(langTag).Globally()
	p.AllowAttrs("dir").Matching(dirValue).Globally()
	p.AllowAttrs("href").Matching(plainAddress).OnElements("a")
	p.AllowURLSchemes("http", "https", "mailto", "tel", strings.TrimSuffix(DocumentScheme, ":"))
	p.AllowRelativeURLs(true)
	p.AllowNoAttrs().OnElements("span", "a")
	p.RequireParseableURLs(true)
	return p
}

// Sanitise returns message HTML with everything outside the subset removed.
// Sanitise of its own result changes nothing.
func Sanitise(s string) string { return sanitise(policy, s) }

// SanitiseDocument is Sanitise for documents.
func SanitiseDocument(s string) string { return sanitise(documentPolicy, s) }

// SanitiseDetails is Sanitise for longer messages, which have headings and pictures.
func SanitiseDetails(s string) string { return sanitise(detailsPolicy, s) }

// Images returns the files of the pictures in a longer message, in order.
func Images(s string) (out []string) {
	eachImage(s, func(file string) string { out = append(out, file); return file })
	return out
}

// WithImages returns a longer message whose pictures lie below an address.
func WithImages(s, images string) string {
	return eachImage(s, func(file string) string { return images + file })
}

// eachImage returns HTML with the address that to gives in place of each picture's file.
func eachImage(s string, to func(file string) string) string {
	var b strings.Builder
	for z := html.NewTokenizer(strings.NewReader(s)); ; {
		kind := z.Next()
		if kind == html.ErrorToken {
			return b.String()
		}
		raw := string(z.Raw())
		t := z.Token()
		i := slices.IndexFunc(
			t.Attr,
			func(a html.Attribute) bool { return a.Key == "src" && imageAddress.MatchString(a.Val) },
		)
		switch {
		case t.Data != "img":
			b.WriteString(raw)
			continue
		case i < 0: // what it showed was taken out
			continue
		}
		t.Attr[i].Val = to(strings.TrimPrefix(t.Attr[i].Val, ImageScheme))
		b.WriteString(t.String())
	}
}

func sanitise(policy *bluemonday.Policy, s string) string {
	// bluemonday's result is re-read once more because dropping an element
	// can bring together what then reads as another.
	for range 4 {
		next := MapLinks(policy.Sanitize(MapLinks(s, Address)), func(href string) string {
			if HrefFault(href) != "" {
				return "" // what Check refuses is not kept
			}
			return href
		})
		if next == s {
			break
		}
		s = next
	}
	return s
}

// Check returns what in s lies outside the subset, in order, each once, such
// as "<script>" or "onclick on <p>"; nil if nothing does.
func Check(s string) []string { return check(tags, s) }

// CheckDetails is Check for longer messages.
func CheckDetails(s string) []string { return check(detailTags, s) }

// CheckDocument is Check for documents.
func CheckDocument(s string) []string { return check(documentTags, s) }

func check(tags []string, s string) []string {
	var found []string
	note := func(what string) {
		if !slices.Contains(found, what) {
			found = append(found, what)
		}
	}
	z := html.NewTokenizer(strings.NewReader(s))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return found
		case html.StartTagToken, html.SelfClosingTagToken:
			t := z.Token()
			if !slices.Contains(tags, t.Data) {
				note("<" + t.Data + ">")
				continue
			}
			for _, a := range t.Attr {
				if !attributeAllowed(t.Data, a) {
					note(fmt.Sprintf("%s on <%s>", a.Key, t.Data))
				}
			}
		case html.CommentToken, html.DoctypeToken:
			note("a comment")
		}
	}
}

func attributeAllowed(tag string, a html.Attribute) bool {
	switch a.Key {
	case "href":
		return tag == "a" && HrefFault(a.Val) == ""
	case "src":
		return tag == "img" && imageAddress.MatchString(a.Val)
	case "width", "height":
		return tag == "img" && pixels.MatchString(a.Val)
	case "alt":
		return tag == "img"
	case "class":
		return tag == "span" && ourClass.MatchString(a.Val)
	case "lang":
		return langTag.MatchString(a.Val)
	case "dir":
		return dirValue.MatchString(a.Val)
	case "rel", "target": // editors add them; Sanitise takes them away
		return tag == "a"
	}
	return false
}

// HrefFault says what is wrong with an address to link to, "" if nothing is.
// Paths of the site and http, https, mailto and tel addresses are right.
func HrefFault(href string) string {
	if href == "" {
		return "the address is empty"
	}
	if href = strings.TrimSpace(href); strings.HasPrefix(href, "//") {
		return fmt.Sprintf("%q names another host without https: before it", href)
	}
	if personal.In(href) {
		return fmt.Sprintf("%q holds a place for what the site tells of visitors, and no address does", href)
	}
	u, err := url.Parse(href)
	if err != nil || !plainAddress.MatchString(href) {
		return fmt.Sprintf("%q is not an address", href)
	}
	switch strings.ToLower(u.Scheme) {
	case "http", "https":
		if u.Host == "" {
			return fmt.Sprintf("%q names no host", href)
		}
	case "mailto", "tel":
		if u.Opaque == "" {
			return fmt.Sprintf("%q leads nowhere", href)
		}
	case strings.TrimSuffix(DocumentScheme, ":"):
		if !documentID.MatchString(u.Opaque) {
			return fmt.Sprintf("%q names no document: its name has lower-case letters, digits and hyphens", href)
		}
	case "":
		if !strings.ContainsRune("/#?.", rune(href[0])) && strings.Contains(href, " ") {
			return fmt.Sprintf("%q is not an address: begin it with https://, or with / for a page of the site", href)
		}
	default:
		return fmt.Sprintf("%q uses %s:, which a notice may not", href, u.Scheme)
	}
	return ""
}

// Address returns an address as a page has it: a number to call without the spaces that people type,
// which telephones would not dial (RFC 3966 §3).
func Address(href string) string {
	if scheme, _, _ := strings.Cut(strings.TrimSpace(href), ":"); !strings.EqualFold(scheme, "tel") {
		return href
	}
	return strings.NewReplacer(" ", "", "%20", "").Replace(href)
}

// Text returns the words of message HTML, runs of white space as one space.
func Text(s string) string {
	var b strings.Builder
	z := html.NewTokenizer(strings.NewReader(s))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return strings.Join(strings.Fields(b.String()), " ")
		case html.TextToken:
			b.Write(z.Text())
		case html.StartTagToken, html.EndTagToken, html.SelfClosingTagToken:
			name, _ := z.TagName()
			if tag := string(name); tag == "p" || tag == "br" || tag == "li" || tag == "ul" || tag == "ol" {
				b.WriteByte(' ')
			}
		}
	}
}

// Links returns the addresses that message HTML leads to, in order.
func Links(s string) []string {
	var out []string
	z := html.NewTokenizer(strings.NewReader(s))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return out
		case html.StartTagToken:
			for _, a := range z.Token().Attr {
				if a.Key == "href" {
					out = append(out, a.Val)
				}
			}
		}
	}
}

// MapLinks returns HTML in which each address that an anchor leads to is what
// the function makes of it; an anchor whose address becomes "" leads nowhere.
// HTML without anchors is returned as it is.
func MapLinks(s string, to func(href string) string) string {
	if !strings.Contains(s, "href") {
		return s
	}
	var b strings.Builder
	z := html.NewTokenizer(strings.NewReader(s))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return b.String()
		case html.StartTagToken:
			raw := string(z.Raw())
			t := z.Token()
			at := slices.IndexFunc(t.Attr, func(a html.Attribute) bool { return a.Key == "href" })
			if t.Data != "a" || at < 0 {
				b.WriteString(raw)
				continue
			}
			if t.Attr[at].Val = to(t.Attr[at].Val); t.Attr[at].Val == "" {
				t.Attr = slices.Delete(t.Attr, at, at+1)
			}
			b.WriteString(t.String())
		default:
			b.Write(z.Raw())
		}
	}
}

// blocks are the elements whose text stands by itself.
var blocks = []string{"p", "li", "h2", "h3", "td", "th", "br"}

// Blocks returns the words of HTML, block by block: paragraphs, headings, entries
// of lists with a dash before, rows of tables with bars between.
func Blocks(s string) []string {
	var out []string
	var b strings.Builder
	var row []string
	inRow := false
	end := func(lead string) {
		words := strings.Join(strings.Fields(b.String()), " ")
		b.Reset()
		switch {
		case inRow:
			row = append(row, words)
		case words != "":
			out = append(out, lead+words)
		}
	}
	z := html.NewTokenizer(strings.NewReader(s))
	for {
		kind := z.Next()
		switch kind {
		case html.ErrorToken:
			end("")
			return out
		case html.TextToken:
			b.Write(z.Text())
		case html.StartTagToken, html.EndTagToken, html.SelfClosingTagToken:
			name, _ := z.TagName()
			tag, closes := string(name), kind == html.EndTagToken
			switch {
			case tag == "tr" && !closes:
				end("")
				inRow, row = true, nil
			case tag == "tr":
				inRow = false
				out = append(out, strings.Join(row, " | "))
			case tag == "li" && closes:
				end("- ")
			case inRow && (tag == "td" || tag == "th") && closes:
				end("")
			case inRow:
				b.WriteByte(' ')
			case slices.Contains(blocks, tag):
				end("")
			}
		}
	}
}
