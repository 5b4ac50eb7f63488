// Package markup is the small safe subset of HTML in which people write
// messages: p, br, strong, b, em, i, a, ul, ol, li, and span with our classes.
package markup

import (
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"golang.org/x/net/html"
)

var tags = []string{"p", "br", "strong", "b", "em", "i", "a", "ul", "ol", "li", "span"}

var (
	ourClass = regexp.MustCompile(`^mf-[a-z]+(?: mf-[a-z]+)*$`)
	langTag  = regexp.MustCompile(`^[A-Za-z]{2,8}(?:-[A-Za-z0-9]{1,8})*$`)
	dirValue = regexp.MustCompile(`^(?:ltr|rtl|auto)$`)
	// What browsers read as it is written: no backslash, which they take for a
	// slash, no control character, which they drop, and no host without a scheme.
	plainAddress = regexp.MustCompile(`^ *(?:[^/\\\x00-\x20\x7f]|/(?:[^/\\\x00-\x20\x7f]|$))[^\\\x00-\x1f\x7f]*$`)
)

var policy = func() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements(tags...)
	p.AllowAttrs("class").Matching(ourClass).OnElements("span")
	p.AllowAttrs("lang").Matching(langTag).Globally()
	p.AllowAttrs("dir").Matching(dirValue).Globally()
	p.AllowAttrs("href").Matching(plainAddress).OnElements("a")
	p.AllowURLSchemes("http", "https", "mailto", "tel")
	p.AllowRelativeURLs(true)
	p.AllowNoAttrs().OnElements("span", "a")
	p.RequireParseableURLs(true)
	return p
}()

// Sanitise returns message HTML with everything outside the subset removed.
// Sanitise of its own result changes nothing.
func Sanitise(s string) string {
	// bluemonday's result is re-read once more because dropping an element
	// can bring together what then reads as another.
	for range 4 {
		next := policy.Sanitize(s)
		if next == s {
			break
		}
		s = next
	}
	return s
}

// Check returns what in s lies outside the subset, in order, each once, such
// as "<script>" or "onclick on <p>"; nil if nothing does.
func Check(s string) []string {
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
	case "":
	default:
		return fmt.Sprintf("%q uses %s:, which a notice may not", href, u.Scheme)
	}
	return ""
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
