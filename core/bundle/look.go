package bundle

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"maps"
	"regexp"
	"slices"
	"strings"

	"github.com/andybalholm/cascadia"
	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"

	"mastflag/core/closed"
	"mastflag/core/fault"
	"mastflag/core/icon"
	"mastflag/core/pages"
)

// Look is the colours of a notice, its shape, and what it carries beside words.
type Look struct {
	// The field the words stand on, six hex digits.
	Background string `json:"background,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
	// The words, six hex digits.
	Text string `json:"text,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
	// Colours for visitors whose system is set to dark; the same ones if absent.
	Dark *Pair `json:"dark,omitempty"`
	// Corners: square, soft (the default) or round.
	Shape Shape `json:"shape,omitempty"`
	// How wide the words run: narrow, normal (the default) or wide.
	Width Width `json:"width,omitempty"`
	// Font families in order of preference, as in CSS; the visitor's system font if absent.
	Font string `json:"font,omitempty" jsonschema:"maxLength=200"`
	// Name of an icon of the set that ships.
	Icon string `json:"icon,omitempty" jsonschema:"maxLength=60"`
	// How it comes in: fade or slide; at once if absent. Visitors who want less motion get none.
	Motion Motion `json:"motion,omitempty"`
	// Style of its own in CSS, for this notice alone. Its parts are .bar, .words, .button, .link, .close, .longer, .icon
	// and .picture.
	CSS string `json:"css,omitempty" jsonschema:"maxLength=10000"`
}

// A Pair is the colours of a field and of the words on it; the best to read if
// the words have none.
type Pair struct {
	Background string `json:"background" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
	Text       string `json:"text,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
}

// A Shape is what the corners of a notice are like.
type Shape string

const (
	Square Shape = "square"
	Soft   Shape = "soft"
	Round  Shape = "round"
)

func (Shape) Values() []string { return closed.Strings(Square, Soft, Round) }

// A Width is how wide the words of a notice run.
type Width string

const (
	Narrow Width = "narrow"
	Normal Width = "normal"
	Wide   Width = "wide"
)

func (Width) Values() []string { return closed.Strings(Narrow, Normal, Wide) }

// A Motion is how a notice comes in.
type Motion string

const (
	Fade  Motion = "fade"
	Slide Motion = "slide"
)

func (Motion) Values() []string { return closed.Strings(Fade, Slide) }

// A Picture is an image of the site beside the words, perhaps with another
// for phones. What it shows is said in each wording's Alt.
type Picture struct {
	Image
	Phone *Image `json:"phone,omitempty"`
	// It says nothing that the words do not: no alternative text is needed.
	Decorative bool `json:"decorative,omitempty"`
}

// An Image is a file kept with the site, by a name made of its content.
type Image struct {
	File string `json:"file" jsonschema:"pattern=^[0-9a-f]{16}[.](jpg|png|webp|gif)$"`
	// Of the image itself, px.
	Width  int `json:"width" jsonschema:"minimum=1,maximum=20000"`
	Height int `json:"height" jsonschema:"minimum=1,maximum=20000"`
}

// A Spot is a place in the page: by an element that a CSS selector finds, the
// first of them.
type Spot struct {
	Selector string `json:"selector" jsonschema:"minLength=1,maxLength=500"`
	// before or after the element, first or last inside it, or instead of it. after if absent.
	Where Where `json:"where,omitempty"`
	// The pages that it is for; every page of the notice if absent.
	Pages *pages.Conditions `json:"pages,omitempty"`
}

// GetPages returns the pages that a spot is for.
func (s Spot) GetPages() pages.Conditions {
	if s.Pages == nil {
		return pages.Conditions{Include: []pages.Entry{{Match: pages.All}}}
	}
	return *s.Pages
}

// AllSpots returns a notice's spots in the order in which they are tried (rule B1).
func (n Notice) AllSpots() []Spot {
	if n.Spot == nil {
		return n.Spots
	}
	return append(slices.Clone(n.Spots), *n.Spot)
}

// Selectors returns those of the spots of notices in the page, sorted, each once.
func Selectors(notices []Notice) (out []string) {
	for _, n := range notices {
		if n.GetSlot() != Inline {
			continue
		}
		for _, s := range n.AllSpots() {
			out = append(out, s.Selector)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// UsesSet reports whether a notice names a saved page set, in its conditions or
// in those of a spot.
func (n Notice) UsesSet(name string) bool {
	return n.GetPages().Uses(name) ||
		slices.ContainsFunc(n.AllSpots(), func(s Spot) bool { return s.GetPages().Uses(name) })
}

// A Where is a side of an element.
type Where string

const (
	Before  Where = "before"
	After   Where = "after"
	First   Where = "first"
	Last    Where = "last"
	Instead Where = "instead"
)

func (Where) Values() []string { return closed.Strings(Before, After, First, Last, Instead) }

func (s Spot) GetWhere() Where { return or(s.Where, After) }

// String says the spot in words: "after main > h1".
func (s Spot) String() string {
	lead := map[Where]string{Before: "before", After: "after", First: "first in", Last: "last in", Instead: "instead of"}
	return lead[s.GetWhere()] + " " + s.Selector
}

func (s Spot) check(names pages.Names) fault.Faults {
	_, faults := pages.Compile(s.GetPages(), names)
	faults = faults.Under("/pages")
	if strings.Contains(strings.ToLower(s.Selector), "mastflag") {
		faults = append(faults, fault.Fault{
			Pointer: "/selector",
			What:    "a notice cannot stand in another one",
			Remedy:  "choose an element of the page itself",
		})
	}
	if _, err := cascadia.ParseGroup(s.Selector); err != nil {
		faults = append(faults, fault.Fault{
			Pointer: "/selector",
			What:    fmt.Sprintf("%q is not a CSS selector: %v", s.Selector, err),
			Remedy:  "choose the spot by pointing at it on the stage",
		})
	}
	return faults
}

// GetLook returns the look, empty if there is none.
func (n Notice) GetLook() Look {
	if n.Look == nil {
		return Look{}
	}
	return *n.Look
}

func (l Look) GetShape() Shape { return or(l.Shape, Soft) }
func (l Look) GetWidth() Width { return or(l.Width, Normal) }

// Picture returns the picture of the notice, nil if it has none.
func (n Notice) Picture() *Picture {
	if n.Content == nil {
		return nil
	}
	return n.Content.Picture
}

var fontFamily = regexp.MustCompile(`^[\p{L}\p{N} ,'"_-]{1,200}$`)

func isFont(s string) bool {
	return fontFamily.MatchString(s) && strings.Count(s, `"`)%2 == 0 && strings.Count(s, "'")%2 == 0
}

const fontRemedy = `give names with commas between, such as "Source Sans", sans-serif`

func (l Look) check() fault.Faults {
	var faults fault.Faults
	if l.Font != "" && !isFont(l.Font) {
		faults = append(faults, fault.Fault{
			Pointer: "/font",
			What:    fmt.Sprintf("%q is not a list of font families", l.Font),
			Remedy:  fontRemedy,
		})
	}
	if _, ok := icon.Get(l.Icon); l.Icon != "" && !ok {
		faults = append(faults, fault.Fault{
			Pointer: "/icon",
			What:    fmt.Sprintf("there is no icon %q", l.Icon),
			Remedy:  "choose another, or none",
		})
	}
	if what, remedy := cssFault(l.CSS); what != "" {
		faults = append(faults, fault.Fault{Pointer: "/css", What: what, Remedy: remedy})
	}
	return faults
}

// cssFault says what is wrong with a notice's own style, "" if nothing is:
// what does not parse, and what would fetch anything.
func cssFault(style string) (what, remedy string) {
	if strings.Contains(style, "</") {
		return `the style holds "</"`, "write CSS alone, without HTML"
	}
	p := css.NewParser(parse.NewInputString(style), false)
	for {
		gt, _, data := p.Next()
		switch gt {
		case css.ErrorGrammar:
			if err := p.Err(); err != io.EOF {
				return "the style is not CSS: " + strings.ReplaceAll(
					strings.SplitN(err.Error(), "\n", 2)[0], " on line", ", line",
				), "correct or remove that rule"
			}
			return "", ""
		case css.AtRuleGrammar, css.BeginAtRuleGrammar:
			if name := strings.ToLower(string(data)); name == "@import" || name == "@font-face" || name == "@namespace" {
				return "the style uses " + name + ", which a notice may not", "remove it; fonts of the page can be used by their " +
					"names"
			}
		}
		for _, v := range append(slices.Clone(p.Values()), css.Token{TokenType: css.IdentToken, Data: data}) {
			if name := strings.ToLower(string(v.Data)); fetches(v.TokenType, name) {
				return "the style uses url(), which would fetch something on the visitor’s page", "add a picture to the notice " +
					"instead"
			} else if v.TokenType != css.StringToken && strings.Contains(name, `\`) {
				return `the style holds a "\" outside of a text`, "write the name without it"
			}
		}
	}
}

// A Declaration is what a notice's own style says of the parts that a selector
// names.
type Declaration struct{ Selector, Property, Value string }

// Declarations returns what a notice's own style says, in order.
func (l Look) Declarations() []Declaration {
	join := func(list []css.Token) string {
		var b strings.Builder
		for _, v := range list {
			b.Write(v.Data)
		}
		return strings.TrimSpace(b.String())
	}
	var out []Declaration
	var selector string
	for p := css.NewParser(parse.NewInputString(l.CSS), false); ; {
		gt, _, data := p.Next()
		switch gt {
		case css.ErrorGrammar:
			return out
		case css.QualifiedRuleGrammar: // one of several selectors
			selector += join(p.Values()) + ","
		case css.BeginRulesetGrammar:
			selector += join(p.Values())
		case css.EndRulesetGrammar:
			selector = ""
		case css.DeclarationGrammar:
			out = append(out, Declaration{selector, strings.ToLower(string(data)), join(p.Values())})
		}
	}
}

// Says reports whether the wording has words that may be delivered.
func (w Wording) Says() bool { return !w.Unread && (w.Message != "" || w.saysPart()) }

// fetching are the functions of CSS that name something to fetch.
var fetching = []string{"url(", "src(", "image(", "image-set(", "-webkit-image-set("}

// fetches reports whether a token, in lower case, fetches something. The value
// of a custom property is one token, whatever stands in it.
func fetches(kind css.TokenType, data string) bool {
	switch kind {
	case css.URLToken, css.BadURLToken:
		return true
	case css.FunctionToken:
		return slices.Contains(fetching, data)
	case css.CustomPropertyValueToken:
		return slices.ContainsFunc(fetching, func(f string) bool { return strings.Contains(data, f) })
	}
	return false
}

// Mark returns a short text that changes with what the wording says. Marks of
// the same text are equal.
func (w Wording) Mark() string {
	h := sha256.New()
	texts := []string{w.Message, w.Details, w.ExpiredMessage, w.Alt, w.label()}
	if w.Confirm+w.Decline != "" { // marks that were made before there were any stay as they are
		texts = append(texts, w.Confirm, w.Decline)
	}
	for _, k := range slices.Sorted(maps.Keys(w.Words)) {
		texts = append(texts, string(k), w.Words[k])
	}
	for _, id := range w.PartIDs() {
		p := w.Parts[id]
		texts = append(texts, id, p.Heading, p.Text, p.Alt, p.Thanks)
		texts = append(texts, p.Answers...)
		for _, l := range p.Links {
			texts = append(texts, l.Label)
		}
	}
	for _, s := range texts {
		fmt.Fprintf(h, "%d %s", len(s), s)
	}
	return hex.EncodeToString(h.Sum(nil)[:6])
}

func (w Wording) label() string {
	if w.Link == nil {
		return ""
	}
	return w.Link.Label
}
