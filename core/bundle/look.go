package bundle

import (
	"cmp"
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

	"mastflag/core/audience"
	"mastflag/core/closed"
	"mastflag/core/colour"
	"mastflag/core/fault"
	"mastflag/core/icon"
	"mastflag/core/markup"
	"mastflag/core/pages"
)

// Look is the colours of a notice, its shape, and what it carries beside words.
type Look struct {
	// Name of a theme of the site. What is said here goes before what it says.
	Theme string `json:"theme,omitempty" jsonschema:"maxLength=100"`
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
	// Size of the words: small, large, or in px such as 18px; as usual if absent.
	Size string `json:"size,omitempty" jsonschema:"pattern=^(small|large|(1[0-9]|[2-4][0-9])px)$"`
	// How the words are aligned; in the centre of a bar at an edge if absent, elsewhere where lines begin.
	Align Align `json:"align,omitempty"`
	// The headline.
	Headline *TextLook `json:"headline,omitempty"`
	Buttons  *Buttons  `json:"buttons,omitempty"`
	// Around a card; of a bar at an edge of the window, on the side of the page.
	Border *Border `json:"border,omitempty"`
	// Name of an icon of the set that ships.
	Icon string `json:"icon,omitempty" jsonschema:"maxLength=60"`
	// Of the icon, six hex digits; that of the words if absent.
	IconColour string `json:"iconColour,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
	// The figures of a countdown, and what it says at its end.
	Count *CountLook `json:"count,omitempty"`
	// How it comes in: fade or slide; at once if absent. Visitors who want less motion get none.
	Motion Motion `json:"motion,omitempty"`
	// How it goes: fade or slide; at once if absent.
	MotionOut Motion `json:"motionOut,omitempty"`
	// How dense its field is, %: less lets what lies behind through.
	Opacity *int `json:"opacity,omitempty" jsonschema:"minimum=30,maximum=100"`
	// In the middle or over everything: how dark the page behind is, %; 60 and 87 if absent.
	Behind *int `json:"behind,omitempty" jsonschema:"minimum=0,maximum=95"`
	// Style of its own in CSS, for this notice alone. Its parts are .bar, .words, .headline, .button, .link, .close,
	// .fold, .longer, .icon and .picture.
	CSS string `json:"css,omitempty" jsonschema:"maxLength=10000"`
}

// A Pair is the colours of a field and of the words on it; the best to read if
// the words have none.
type Pair struct {
	Background string `json:"background" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
	Text       string `json:"text,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
}

// A TextLook is how a text looks, where it is to look other than the rest.
type TextLook struct {
	// px.
	Size   int    `json:"size,omitempty" jsonschema:"minimum=8,maximum=120"`
	Weight Weight `json:"weight,omitempty"`
	// Six hex digits.
	Colour string `json:"colour,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
}

// A Weight is how heavy letters are.
type Weight string

const (
	Regular Weight = "regular"
	Bold    Weight = "bold"
)

func (Weight) Values() []string { return closed.Strings(Regular, Bold) }

// Buttons are how a notice's buttons look: outlined in the colour of the words, without a
// field of their own, if it is absent.
type Buttons struct {
	// Their field, and the words on it, six hex digits; the best to read if the words have none.
	Background string `json:"background,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
	Text       string `json:"text,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
	// Their corners; as the shape of the notice has it if absent.
	Shape Shape `json:"shape,omitempty"`
}

// A Border is a line around a notice.
type Border struct {
	// px.
	Width int `json:"width" jsonschema:"minimum=1,maximum=12"`
	// Six hex digits; that of the words if absent.
	Colour string `json:"colour,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
}

// A CountLook is how a countdown looks beside its frame and size.
type CountLook struct {
	Figures *TextLook `json:"figures,omitempty"`
	Labels  *TextLook `json:"labels,omitempty"`
	// What is said at the end.
	AfterEnd *TextLook `json:"afterEnd,omitempty"`
	// Of the frames, six hex digits; that of the words if absent.
	Frame string `json:"frame,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
}

// An Align is where lines of words stand.
type Align string

const (
	AlignStart  Align = "start"
	AlignCentre Align = "centre"
	AlignEnd    Align = "end"
)

func (Align) Values() []string { return closed.Strings(AlignStart, AlignCentre, AlignEnd) }

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

// A Picture is an image beside the words, perhaps with another for phones. What it
// shows is said in each wording's Alt.
type Picture struct {
	Image
	Phone *Image `json:"phone,omitempty"`
	// It says nothing that the words do not: no alternative text is needed.
	Decorative bool `json:"decorative,omitempty"`
	// Where it stands; at the start of a bar at an edge if absent, elsewhere above.
	Place PicturePlace `json:"place,omitempty"`
	// How high it is, px; beside the words of a card, how wide. 64 at an edge if absent.
	Size int `json:"size,omitempty" jsonschema:"minimum=16,maximum=1200"`
	// Behind the words: how much of the field's colour lies over it, %; as much as the words need to be read if absent.
	Veil *int `json:"veil,omitempty" jsonschema:"minimum=0,maximum=100"`
	// What is cut away where it is cropped: the point of the picture that stays in sight, in per cent from its left and
	// its top; the middle if absent.
	Focus *FocalPoint `json:"focus,omitempty"`
	// Other images for visitors of whom the site tells something; the picture's own is for all others.
	Table *PictureTable `json:"table,omitempty"`
}

// A PictureTable chooses among images by what the site tells of the visitor (rule N2).
type PictureTable struct {
	// person.NAME, or event.NAME.PROPERTY.
	By   string       `json:"by" jsonschema:"maxLength=210"`
	Rows []PictureRow `json:"rows" jsonschema:"minItems=1,maxItems=20"`
}

// A PictureRow is the image for one value. Values are compared as texts are in audiences (rule A4).
type PictureRow struct {
	Value string `json:"value" jsonschema:"minLength=1,maxLength=200"`
	Image
	Phone *Image `json:"phone,omitempty"`
}

// Images returns all images of a picture, each with its pointer; its own may say nothing where a
// table has others.
func (p *Picture) Images() map[string]*Image {
	out := map[string]*Image{}
	if !p.OthersHaveNone() {
		out[""] = &p.Image
	}
	if p.Phone != nil {
		out["/phone"] = p.Phone
	}
	if p.Table == nil {
		return out
	}
	for i := range p.Table.Rows {
		r, at := &p.Table.Rows[i], fault.Pointer("table", "rows", i)
		out[at] = &r.Image
		if r.Phone != nil {
			out[at+"/phone"] = r.Phone
		}
	}
	return out
}

// OthersHaveNone reports whether visitors whose value is in no row of the picture's table see none.
func (p *Picture) OthersHaveNone() bool { return p.Table != nil && p.Image == (Image{}) }

// A FocalPoint is a place in a picture, in per cent of its width and its height.
type FocalPoint struct {
	X int `json:"x" jsonschema:"minimum=0,maximum=100"`
	Y int `json:"y" jsonschema:"minimum=0,maximum=100"`
}

// A PicturePlace is where a picture stands.
type PicturePlace string

const (
	PictureStart  PicturePlace = "start" // where lines of words begin
	PictureEnd    PicturePlace = "end"
	PictureAbove  PicturePlace = "above"
	PictureBehind PicturePlace = "behind"
)

func (PicturePlace) Values() []string {
	return closed.Strings(PictureStart, PictureEnd, PictureAbove, PictureBehind)
}

// PicturePlace returns where a notice's picture stands.
func (n Notice) PicturePlace() PicturePlace {
	if p := n.Picture(); p != nil && p.Place != "" {
		return p.Place
	}
	if n.GetSlot().Row().Edge {
		return PictureStart
	}
	return PictureAbove
}

// An Image is a file kept with the site, by a name made of its content, or one at an
// address elsewhere.
type Image struct {
	File string `json:"file,omitempty" jsonschema:"pattern=^[0-9a-f]{16}[.](jpg|png|webp|gif)$"`
	// An https address, or a path of the site, in place of a file.
	Address string `json:"address,omitempty" jsonschema:"maxLength=2048"`
	// Of the image itself, px; of one at an address they may be absent.
	Width  int `json:"width,omitempty" jsonschema:"minimum=1,maximum=20000"`
	Height int `json:"height,omitempty" jsonschema:"minimum=1,maximum=20000"`
}

// Source returns where browsers find an image; files lie below the address images.
func (i Image) Source(images string) string {
	if i.File != "" {
		return images + i.File
	}
	return i.Address
}

func (i Image) check() fault.Faults {
	switch {
	case (i.File == "") == (i.Address == ""):
		return fault.Faults{{
			What: "a picture is either a file of the site or an address, and one of both", Remedy: "give file, or address",
		}}
	case i.Address == "" && (i.Width == 0 || i.Height == 0):
		return fault.Faults{{
			What: "a picture does not say how large it is", Remedy: "give width and height, in px",
		}}
	case i.Address == "":
		return nil
	case strings.HasPrefix(i.Address, "https://") && markup.HrefFault(i.Address) == "":
		return nil
	case strings.HasPrefix(i.Address, "/") && markup.HrefFault(i.Address) == "":
		return nil
	}
	return fault.Faults{{
		Pointer: "/address",
		What:    fmt.Sprintf("%q is no address of a picture", firstRunes(i.Address)),
		Remedy:  "give an address that begins with https://, or a path of the site such as /img/ferry.jpg",
	}}
}

func (p Picture) check() (faults fault.Faults) {
	for at, image := range p.Images() {
		faults = append(faults, image.check().Under(at)...)
	}
	if p.Table == nil {
		return faults
	}
	if told, _ := audience.Lookup(p.Table.By); told.Kind != audience.Trait {
		faults = append(faults, fault.Fault{
			Pointer: "/table/by",
			What:    fmt.Sprintf("%q is nothing that a site tells of a visitor", p.Table.By),
			Remedy:  "use person.NAME or event.NAME.PROPERTY, with letters, digits, _ and - in names",
		})
	}
	seen := map[string]bool{}
	for i, r := range p.Table.Rows {
		if seen[audience.Fold(r.Value)] {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("table", "rows", i, "value"),
				What:    fmt.Sprintf("the picture for %q is chosen twice", r.Value),
				Remedy:  "give each value one row",
			})
		}
		seen[audience.Fold(r.Value)] = true
	}
	return faults
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

// MayLieBelow reports whether a notice may stand in the page below what visitors see of it at first.
func (n Notice) MayLieBelow() bool {
	return n.GetSlot() == Inline || n.GetSlot() == Bottom && n.GetPosition() == Scrolling
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

// Over returns a look with what it says itself before what another says: that of a theme,
// or of the notice of which it is a variant. A field of its own has the words that read
// best on it, and not those of the other.
func (l Look) Over(theme Look) Look {
	out := l
	out.Theme = cmp.Or(l.Theme, theme.Theme)
	if l.Background == "" {
		out.Background, out.Text = theme.Background, cmp.Or(l.Text, theme.Text)
		if l.Dark == nil {
			out.Dark = theme.Dark
		}
	}
	out.Shape, out.Width = cmp.Or(l.Shape, theme.Shape), cmp.Or(l.Width, theme.Width)
	out.Font, out.Size = cmp.Or(l.Font, theme.Font), cmp.Or(l.Size, theme.Size)
	out.Align, out.Motion = cmp.Or(l.Align, theme.Align), cmp.Or(l.Motion, theme.Motion)
	out.Icon, out.IconColour = cmp.Or(l.Icon, theme.Icon), cmp.Or(l.IconColour, theme.IconColour)
	out.Headline, out.Buttons = cmp.Or(l.Headline, theme.Headline), cmp.Or(l.Buttons, theme.Buttons)
	out.Border, out.Count = cmp.Or(l.Border, theme.Border), cmp.Or(l.Count, theme.Count)
	out.MotionOut = cmp.Or(l.MotionOut, theme.MotionOut)
	out.Opacity, out.Behind = cmp.Or(l.Opacity, theme.Opacity), cmp.Or(l.Behind, theme.Behind)
	if l.CSS != theme.CSS {
		out.CSS = theme.CSS + l.CSS
	}
	return out
}

// A Theme is a look that a site keeps under a name, for notices that name it.
type Theme struct {
	Name string `json:"name" jsonschema:"minLength=1,maxLength=100"`
	Look Look   `json:"look"`
}

// Theme returns the site's theme of a name; ok is false if there is none.
func (s Site) Theme(name string) (t Theme, ok bool) {
	i := slices.IndexFunc(s.Themes, func(t Theme) bool { return t.Name == name })
	if i < 0 {
		return Theme{}, false
	}
	return s.Themes[i], true
}

// Themed returns a notice in the look that visitors see: its own over that of its theme.
func (s Site) Themed(n Notice) Notice {
	t, ok := s.Theme(n.GetLook().Theme)
	if !ok {
		return n
	}
	look := n.GetLook().Over(t.Look)
	n.Look = &look
	return n
}

// ProposedThemes returns themes made of the site's palette, called as its colours are,
// without those that the site has by name or by field.
func (s Site) ProposedThemes() (out []Theme) {
	palette := make([]string, len(s.Palette))
	for i, c := range s.Palette {
		palette[i] = c.Value
	}
	for _, made := range colour.Themes(palette) {
		t := Theme{Look: Look{
			Background: made.Field,
			Text:       made.Text,
			Buttons:    &Buttons{Background: made.Button, Text: made.ButtonText},
		}}
		for _, c := range s.Palette {
			if strings.EqualFold(c.Value, made.Field) {
				t.Name = c.Name
				break
			}
		}
		if !slices.ContainsFunc(s.Themes, func(have Theme) bool {
			return have.Name == t.Name || strings.EqualFold(have.Look.Background, t.Look.Background)
		}) {
			out = append(out, t)
		}
	}
	return out
}

func (s Site) checkThemes() fault.Faults {
	var faults fault.Faults
	names := map[string]bool{}
	for i, t := range s.Themes {
		at := fault.Pointer(i)
		if names[t.Name] {
			faults = append(faults, fault.Fault{
				Pointer: at + "/name",
				What:    fmt.Sprintf("a second theme is called %q", t.Name),
				Remedy:  "give each its own name",
			})
		}
		names[t.Name] = true
		if t.Look.Theme != "" {
			faults = append(faults, fault.Fault{
				Pointer: at + "/look/theme",
				What:    "a theme cannot be made of another",
				Remedy:  "remove it",
			})
		}
		faults = append(faults, t.Look.check().Under(at+"/look")...)
	}
	return faults
}

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

// cssFault says what is wrong with a notice's own style, "" if nothing is: what does not parse,
// and what would fetch anything, before consent perhaps. Every token is looked at, wherever it
// stands; what is not known is refused, because what browsers will make of it is not known either.
func cssFault(style string) (what, remedy string) {
	if strings.Contains(style, "</") {
		return `the style holds "</"`, "write CSS alone, without HTML"
	}
	for l := css.NewLexer(parse.NewInputString(style)); ; {
		kind, data := l.Next()
		if kind == css.ErrorToken {
			break
		}
		if what, remedy := tokenFault(kind, strings.ToLower(string(data))); what != "" {
			return what, remedy
		}
	}
	for p := css.NewParser(parse.NewInputString(style), false); ; {
		if gt, _, _ := p.Next(); gt != css.ErrorGrammar {
			continue
		}
		if err := p.Err(); err != io.EOF {
			return "the style is not CSS: " + strings.ReplaceAll(
				strings.SplitN(err.Error(), "\n", 2)[0], " on line", ", line",
			), "correct or remove that rule"
		}
		return "", ""
	}
}

// tokenFault says what is wrong with a token of a style, in lower case; "" if nothing is.
func tokenFault(kind css.TokenType, data string) (what, remedy string) {
	switch kind {
	case css.StringToken, css.CommentToken, css.WhitespaceToken:
		return "", ""
	case css.URLToken, css.BadURLToken:
		return fetchesFault, fetchesRemedy
	}
	if strings.Contains(data, `\`) {
		return `the style holds a "\" outside of a text`, "write the name without it"
	}
	switch kind {
	case css.AtKeywordToken:
		if !slices.Contains(atRules, data) {
			return "the style uses " + data + ", which a notice may not", "remove it; fonts of the page can be used by their " +
				"names, and " + strings.Join(atRules, ", ") + " are rules that it may have"
		}
	case css.FunctionToken:
		if slices.Contains(fetching, data) {
			return fetchesFault, fetchesRemedy
		}
		if !slices.Contains(functions, strings.TrimSuffix(data, "(")) {
			return "the style uses " + data + "), which is not known here", "remove it, or say it by other means"
		}
	}
	return "", ""
}

const (
	fetchesFault  = "the style uses url(), which would fetch something on the visitor’s page"
	fetchesRemedy = "add a picture to the notice instead"
)

// fetching are the functions of CSS that name something to fetch.
var fetching = []string{
	"url(", "src(", "image(", "image-set(", "-webkit-image-set(", "cross-fade(", "-webkit-cross-fade(", "element(",
	"-moz-element(", "paint(",
}

// atRules are those that a notice's own style may have: none of them names anything to fetch.
var atRules = []string{
	"@media", "@supports", "@container", "@keyframes", "@-webkit-keyframes", "@layer", "@scope", "@starting-style",
}

// functions are those of CSS that a notice's own style may use: of selectors, colours, numbers,
// pictures that are computed, shapes, transforms and filters (CSS snapshot 2025, from memory).
var functions = strings.Fields(`not is where has nth-child nth-last-child nth-of-type nth-last-of-type lang dir host
	host-context slotted part state matches
	rgb rgba hsl hsla hwb lab lch oklab oklch color color-mix light-dark device-cmyk
	var env attr calc min max clamp round mod rem sin cos tan asin acos atan atan2 pow sqrt hypot log exp abs sign
	calc-size sibling-index sibling-count if type style media supports
	linear-gradient radial-gradient conic-gradient repeating-linear-gradient repeating-radial-gradient
	repeating-conic-gradient -webkit-linear-gradient -webkit-radial-gradient
	repeat minmax fit-content counter counters symbols
	cubic-bezier steps linear view scroll
	translate translatex translatey translatez translate3d rotate rotatex rotatey rotatez rotate3d scale scalex scaley
	scalez scale3d skew skewx skewy matrix matrix3d perspective
	blur brightness contrast drop-shadow grayscale hue-rotate invert opacity saturate sepia
	circle ellipse inset polygon path rect xywh shape ray anchor anchor-size selector`)

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
func (w Wording) Says() bool {
	return !w.Unread && (w.Message != "" || w.Headline != "" || w.saysPart())
}

// Mark returns a short text that changes with what the wording says. Marks of
// the same text are equal.
func (w Wording) Mark() string {
	h := sha256.New()
	texts := []string{w.Message, w.Details, w.ExpiredMessage, w.Alt, labelOf(w.Link)}
	if w.Confirm+w.Decline != "" { // marks that were made before there were any stay as they are
		texts = append(texts, w.Confirm, w.Decline)
	}
	if w.Headline != "" {
		texts = append(texts, "headline", w.Headline)
	}
	if w.Second != nil {
		texts = append(texts, "second", w.Second.Label)
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

func labelOf(l *Link) string {
	if l == nil {
		return ""
	}
	return l.Label
}
