// Package code reads HTML that is put into the pages of a site (rule B7): says
// where it would not be read as it was meant, and what a page's
// Content-Security-Policy has to allow for it.
package code

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
	"github.com/tdewolff/parse/v2/js"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"mastflag/core/closed"
)

// A Place is where in a page code is put.
type Place string

const (
	Head  Place = "head"  // the end of the head
	Start Place = "start" // the start of the body
	End   Place = "end"   // the end of the body
)

// Places is every place, in the order of the page.
var Places = []Place{Head, Start, End}

func (Place) Values() []string { return closed.Strings(Places...) }

// A Fault is the first thing in code that would not be read as it was meant.
type Fault struct {
	// From 1; the column in characters.
	Line, Column int
	// A clause, without the place.
	What   string
	Remedy string
}

func (f *Fault) Error() string {
	return fmt.Sprintf("line %d, column %d: %s", f.Line, f.Column, f.What)
}

// Check returns what in code for a place would not be read as it was meant, the
// first of it; nil if there is nothing. It is stricter than browsers, which guess:
// every element is closed in its order, no tag or comment breaks off, and scripts
// and styles are read too.
func Check(source string, place Place) *Fault {
	r := reader{source: source, place: place}
	return r.read()
}

// reader reads code once. open holds the elements that are not closed yet, the
// outermost first.
type reader struct {
	source string
	place  Place
	at     int // of the token being read, in bytes
	open   []element
}

type element struct {
	name string
	at   int
	attr map[string]string
}

func (r *reader) fault(at int, what, remedy string) *Fault {
	before := r.source[:at]
	line := 1 + strings.Count(before, "\n")
	column := 1 + utf8.RuneCountInString(before[strings.LastIndexByte(before, '\n')+1:])
	return &Fault{line, column, what, remedy}
}

// elements that have no end tag (HTML Standard §13.1.2).
var void = []string{
	"area", "base", "br", "col", "embed", "hr", "img", "input", "link", "meta", "source", "track", "wbr",
}

// elements whose end tag may be left out (HTML Standard §13.1.2.4).
var optional = []string{
	"li", "dt", "dd", "p", "rt", "rp", "optgroup", "option", "colgroup", "thead", "tbody", "tfoot", "tr", "td", "th",
}

// elements whose end tag closes what is open in them and needs none (HTML Standard
// §13.2.6.4.7).
var closesInside = append([]string{
	"button", "center", "dd", "dir", "dt", "li", "listing", "object", "optgroup", "select", "summary", "tbody", "td",
	"template", "tfoot", "th", "thead", "tr",
}, endsParagraph...)

// elements that end an open paragraph (HTML Standard §13.1.2.4).
var endsParagraph = []string{
	"address", "article", "aside", "blockquote", "dd", "details", "dialog", "div", "dl", "dt", "fieldset", "figcaption",
	"figure", "footer", "form", "h1", "h2", "h3", "h4", "h5", "h6", "header", "hgroup", "hr", "li", "main", "menu", "nav",
	"ol", "p",
	"pre", "search", "section", "table", "ul",
}

// elements that may stand in the head; title and base change the page as a whole.
var metadata = []string{"link", "meta", "noscript", "script", "style", "template"}

func (r *reader) read() *Fault {
	z := html.NewTokenizer(strings.NewReader(r.source))
	for {
		kind := z.Next()
		raw := string(z.Raw())
		if f := r.token(kind, raw, z); f != nil {
			return f
		}
		if kind == html.ErrorToken {
			return nil
		}
		r.at += len(raw)
	}
}

func (r *reader) token(kind html.TokenType, raw string, z *html.Tokenizer) *Fault {
	switch kind {
	case html.ErrorToken:
		if !errors.Is(z.Err(), io.EOF) {
			return r.fault(r.at, z.Err().Error(), "shorten it")
		}
		if r.at < len(r.source) {
			return r.fault(r.at, "a tag is not closed", "add the > that ends it")
		}
		r.implied(func(element) bool { return false })
		if len(r.open) > 0 {
			e := r.open[len(r.open)-1]
			return r.fault(e.at, fmt.Sprintf("<%s> is never closed", e.name), fmt.Sprintf("add </%s>", e.name))
		}
	case html.TextToken:
		return r.text(raw)
	case html.CommentToken:
		switch {
		case !strings.HasPrefix(raw, "<!--"):
			return r.fault(r.at, "this is neither a tag nor a comment", "write a comment as <!-- … -->, or remove it")
		case len(raw) < 7 || !strings.HasSuffix(raw, "-->"):
			return r.fault(r.at, "a comment is never closed", "add -->")
		}
	case html.DoctypeToken:
		return r.fault(r.at, "a document type cannot stand within a page", "remove it")
	case html.StartTagToken, html.SelfClosingTagToken:
		if name := twice(raw); name != "" {
			return r.fault(r.at, fmt.Sprintf("a tag has %s twice", name), "keep one of them")
		}
		return r.start(z.Token(), kind == html.SelfClosingTagToken)
	case html.EndTagToken:
		return r.end(z.Token().Data)
	}
	return nil
}

// inside reports whether an element of a name is open.
func (r *reader) inside(name string) bool {
	return slices.ContainsFunc(r.open, func(e element) bool { return e.name == name })
}

func (r *reader) text(raw string) *Fault {
	if len(r.open) > 0 {
		switch e := r.open[len(r.open)-1]; e.name {
		case "script":
			return r.script(raw, e)
		case "style":
			return r.style(raw)
		case "textarea", "title", "iframe", "noembed", "noframes", "noscript", "xmp":
			return nil // read as plain text
		}
	}
	if i := strings.IndexByte(raw, '<'); i >= 0 {
		return r.fault(r.at+i, "a < begins no tag", "write &lt; where the sign itself is meant")
	}
	if said := strings.TrimSpace(raw); r.place == Head && len(r.open) == 0 && said != "" {
		return r.fault(
			r.at+strings.Index(raw, said), "text cannot stand in the head", "put it at the start or the end of the body",
		)
	}
	return nil
}

// implied closes the elements at the end of which no tag is needed, up to one that
// stop takes.
func (r *reader) implied(stop func(element) bool) {
	for len(r.open) > 0 {
		e := r.open[len(r.open)-1]
		if stop(e) || !slices.Contains(optional, e.name) {
			return
		}
		r.open = r.open[:len(r.open)-1]
	}
}

// attribute finds an attribute in a tag: its name, and its value.
var attribute = regexp.MustCompile(`[\s"'/]([^\s"'<>/=]+)(?:\s*=\s*(?:"[^"]*"|'[^']*'|[^\s>]*))?`)

// twice returns the name of an attribute that a tag has twice, "" if there is none;
// its reader leaves out the second.
func twice(tag string) string {
	seen := map[string]bool{}
	for _, a := range attribute.FindAllStringSubmatch(tag, -1) {
		name := strings.ToLower(a[1])
		if seen[name] {
			return name
		}
		seen[name] = true
	}
	return ""
}

func (r *reader) start(t html.Token, selfClosing bool) *Fault {
	name := t.Data
	e := element{name: name, at: r.at, attr: map[string]string{}}
	for _, a := range t.Attr {
		if strings.ContainsAny(a.Key, `"'<`) {
			return r.fault(
				r.at, fmt.Sprintf("the tag <%s> has a quote or a < out of place", name),
				"close each quote that is opened, and the tag with >",
			)
		}
		e.attr[a.Key] = a.Val
	}
	switch {
	case name == "html" || name == "head" || name == "body":
		return r.fault(r.at, fmt.Sprintf("<%s> stands in each page already", name), "give only what goes inside")
	case r.place == Head && len(r.open) == 0 && !slices.Contains(metadata, name):
		return r.fault(r.at, fmt.Sprintf("<%s> cannot stand in the head", name), "put it at the start or the end of the body")
	}
	foreign := r.inside("svg") || r.inside("math")
	switch {
	case slices.Contains(void, name):
		return nil
	case selfClosing && (foreign || name == "svg" || name == "math"):
		return nil
	case selfClosing:
		return r.fault(
			r.at, fmt.Sprintf("<%s/> is not closed by its slash", name), fmt.Sprintf("write <%s></%s>", name, name),
		)
	}
	if slices.Contains(endsParagraph, name) && r.inside("p") && !foreign {
		r.implied(func(e element) bool { return e.name == "p" })
		if last := r.open[len(r.open)-1]; last.name != "p" {
			return r.fault(
				r.at, fmt.Sprintf("<%s> ends the paragraph before <%s> is closed", name, last.name),
				fmt.Sprintf("close <%s> first", last.name),
			)
		}
		r.open = r.open[:len(r.open)-1]
	}
	// Another of its kind ends the one before, within one list.
	if kin, lists := siblings[name], lists[name]; kin != nil {
		for i := len(r.open) - 1; i >= 0 && !slices.Contains(lists, r.open[i].name); i-- {
			if !slices.Contains(kin, r.open[i].name) {
				continue
			}
			r.implied(func(e element) bool { return slices.Contains(kin, e.name) })
			if last := r.open[len(r.open)-1]; !slices.Contains(kin, last.name) {
				return r.fault(
					r.at, fmt.Sprintf("<%s> begins before <%s> is closed", name, last.name),
					fmt.Sprintf("close <%s> first", last.name),
				)
			}
			r.open = r.open[:len(r.open)-1]
			break
		}
	}
	r.open = append(r.open, e)
	return nil
}

// siblings are the elements that another of a name ends, and lists those within
// which it does (HTML Standard §13.1.2.4).
var (
	siblings = map[string][]string{
		"li":     {"li"},
		"dd":     {"dd", "dt"},
		"dt":     {"dd", "dt"},
		"option": {"option"},
		"tr":     {"tr"},
		"td":     {"td", "th"},
		"th":     {"td", "th"},
	}
	lists = map[string][]string{
		"li":     {"ul", "ol", "menu"},
		"dd":     {"dl"},
		"dt":     {"dl"},
		"option": {"select", "datalist"},
		"tr":     {"table"},
		"td":     {"tr", "table"},
		"th":     {"tr", "table"},
	}
)

func (r *reader) end(name string) *Fault {
	if slices.Contains(void, name) {
		return r.fault(r.at, fmt.Sprintf("<%s> has no end tag", name), "remove it")
	}
	if !r.inside(name) {
		return r.fault(r.at, fmt.Sprintf("</%s> closes nothing", name), "remove it, or open the element before")
	}
	if slices.Contains(closesInside, name) {
		r.implied(func(e element) bool { return e.name == name })
	}
	if last := r.open[len(r.open)-1]; last.name != name {
		return r.fault(
			r.at, fmt.Sprintf("</%s> stands before <%s> is closed", name, last.name), fmt.Sprintf("add </%s> first", last.name),
		)
	}
	r.open = r.open[:len(r.open)-1]
	return nil
}

// writes finds what would empty a page that has been read already.
var writes = regexp.MustCompile(`\bdocument\s*\.\s*write(ln)?\s*\(`)

// scripts are the types of a script that browsers run (HTML Standard §4.12.1).
var scripts = []string{
	"", "module", "text/javascript", "application/javascript", "text/ecmascript", "application/ecmascript",
}

// scriptKind returns the type of a script as browsers compare it.
func scriptKind(attr map[string]string) string {
	return strings.ToLower(strings.TrimSpace(attr["type"]))
}

func (r *reader) script(raw string, e element) *Fault {
	kind := scriptKind(e.attr)
	switch {
	case slices.Contains(scripts, kind):
		if at := writes.FindStringIndex(raw); at != nil {
			return r.fault(
				r.at+at[0], "document.write would empty the page, which has been read when this runs",
				"add elements to the page instead",
			)
		}
		_, err := js.Parse(parse.NewInputString(raw), js.Options{})
		return r.within(raw, err, "this is not JavaScript")
	case strings.HasSuffix(kind, "json") || kind == "importmap" || kind == "speculationrules":
		var v any
		err := json.Unmarshal([]byte(raw), &v)
		var where *json.SyntaxError
		if errors.As(err, &where) {
			return r.fault(
				r.at+max(0, min(int(where.Offset), len(raw))-1), "this is not JSON: "+where.Error(), "correct it there, or before",
			)
		}
	}
	return nil
}

func (r *reader) style(raw string) *Fault {
	p := css.NewParser(parse.NewInputString(raw), false)
	for {
		kind, _, _ := p.Next()
		if kind != css.ErrorGrammar {
			continue
		}
		if err := p.Err(); !errors.Is(err, io.EOF) {
			return r.within(raw, err, "this is not CSS")
		}
		return nil
	}
}

// within is a fault in a script or a style, where its own reader found it.
func (r *reader) within(raw string, err error, what string) *Fault {
	var in *parse.Error
	if err == nil || errors.Is(err, io.EOF) {
		return nil
	}
	if !errors.As(err, &in) {
		return r.fault(r.at, what, "correct or remove it")
	}
	at, line := r.at, 1
	for i := 0; i < len(raw) && line < in.Line; i++ {
		if raw[i] == '\n' {
			at, line = r.at+i+1, line+1
		}
	}
	f := r.fault(at, what+": "+in.Message, "correct it there, or before")
	f.Column += max(0, in.Column-1)
	return f
}

// Tags returns the elements of code, in their order, with their attributes and,
// of scripts and styles, what stands in them.
func Tags(source string) (out []Tag) {
	z := html.NewTokenizer(strings.NewReader(source))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return out
		case html.StartTagToken, html.SelfClosingTagToken:
			t := z.Token()
			tag := Tag{Name: t.Data, Attr: map[string]string{}}
			for _, a := range t.Attr {
				tag.Attr[a.Key] = a.Val
			}
			out = append(out, tag)
			if t.DataAtom == atom.Script || t.DataAtom == atom.Style {
				if z.Next() == html.TextToken {
					out[len(out)-1].Text = string(z.Raw())
				}
			}
		}
	}
}

// A Tag is an element of code.
type Tag struct {
	Name string
	Attr map[string]string
	Text string
}
