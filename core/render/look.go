package render

import (
	"cmp"
	"fmt"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/colour"
)

// parts are the selectors of a notice's parts: in the shadow root that the site script makes,
// or in HTML to paste, where they bear the notice's name so that the page's own style does not
// reach them.
type parts struct {
	bar, words, headline, button, icon, picture string
}

var shadowParts = parts{".bar", ".words", ".headline", ".bar .button", ".icon", ".picture"}

// plainParts are those of HTML to paste, of a class.
func plainParts(class string) parts {
	of := func(part string) string { return "." + class + " ." + class + "-" + part }
	return parts{"." + class, of("words"), of("headline"), of("link"), "." + class + " svg", of("picture")}
}

// textStyle is the style of a text, "" if it looks like the rest.
func textStyle(selector string, t *bundle.TextLook) string {
	if t == nil {
		return ""
	}
	var b strings.Builder
	if t.Size > 0 {
		fmt.Fprintf(&b, ";font-size:%dpx", t.Size)
	}
	switch t.Weight {
	case bundle.Bold:
		b.WriteString(";font-weight:700")
	case bundle.Regular:
		b.WriteString(";font-weight:400")
	}
	if t.Colour != "" {
		fmt.Fprintf(&b, ";color:%s", t.Colour)
	}
	if b.Len() == 0 {
		return ""
	}
	return selector + "{" + b.String()[1:] + "}"
}

// wordSizes are the steps of the size of words, px; between them they are as usual.
var wordSizes = map[string]string{"small": "14px", "large": "20px"}

// aligned are values of text-align and of justify-content.
var aligned = map[bundle.Align][2]string{
	bundle.AlignStart:  {"start", "flex-start"},
	bundle.AlignCentre: {"center", "center"},
	bundle.AlignEnd:    {"end", "flex-end"},
}

// ButtonColours returns the field of a notice's buttons and the words on it; both "" where
// they are outlined.
func ButtonColours(n bundle.Notice) (background, text string) {
	b := n.GetLook().Buttons
	if b == nil || b.Background == "" {
		return "", ""
	}
	return b.Background, ink(b.Background, b.Text)
}

// AgainColours returns the field and the words of the control that asks for consent again;
// both "" where it is black on white.
func AgainColours(n bundle.Notice) (field, text string) {
	switch q := n.Question(); {
	case q.GetAskAgainColours() == "notice":
		return Colours(n)
	case q.GetAskAgainColours() == "own" && q.AskAgainField != "":
		return q.AskAgainField, ink(q.AskAgainField, q.AskAgainText)
	}
	return "", ""
}

// outlinedInDark reports whether a notice's buttons have a field that does not stand out on
// the notice's own where a visitor's system is dark; they are outlined there.
func outlinedInDark(n bundle.Notice) bool {
	button, _ := ButtonColours(n)
	if button == "" || n.GetLook().Dark == nil {
		return false
	}
	field, _ := DarkColours(n)
	ratio, err := colour.Contrast(button, field)
	return err == nil && ratio < colour.GraphicMinimum
}

// lookStyle is the style of what few notices have chosen: sizes, lines, buttons, borders and
// where the picture stands. p are the parts that it is for.
func lookStyle(n bundle.Notice, p parts) string {
	look, edge := n.GetLook(), n.GetSlot().Row().Edge
	var b strings.Builder
	if look.Size != "" {
		fmt.Fprintf(&b, "%s{font-size:%s}", p.words, cmp.Or(wordSizes[look.Size], look.Size))
	}
	if a, ok := aligned[look.Align]; ok {
		fmt.Fprintf(&b, "%s{text-align:%s}%s{justify-content:%s}", p.words, a[0], p.bar, a[1])
	}
	for _, w := range n.Wordings() {
		if w.Headline != "" {
			fmt.Fprintf(&b, "%s{margin:0 0 2px;font-size:1.25em;font-weight:700;line-height:1.25}", p.headline)
			break
		}
	}
	b.WriteString(textStyle(p.headline, look.Headline))
	if field, text := ButtonColours(n); field != "" {
		fmt.Fprintf(&b, "%s{background:%s;border-color:%s;color:%s}", p.button, field, field, text)
	}
	if outlinedInDark(n) {
		_, text := DarkColours(n)
		fmt.Fprintf(
			&b,
			"@media(prefers-color-scheme:dark){%s{background:none;border-color:%s;color:%s}}",
			p.button,
			text,
			text,
		)
	}
	if look.Buttons != nil && look.Buttons.Shape != "" {
		_, radius := corners(bundle.Look{Shape: look.Buttons.Shape})
		fmt.Fprintf(&b, "%s{border-radius:%s}", p.button, radius)
	}
	if line := look.Border; line != nil {
		side := ""
		if edge {
			side = "-bottom"
			if n.GetSlot() == bundle.Bottom {
				side = "-top"
			}
		}
		fmt.Fprintf(&b, "%s{border%s:%dpx solid %s}", p.bar, side, line.Width, cmp.Or(line.Colour, "currentColor"))
	}
	if look.IconColour != "" {
		fmt.Fprintf(&b, "%s{color:%s}", p.icon, look.IconColour)
	}
	b.WriteString(pictureStyle(n, p))
	return b.String()
}

// VeilOf returns by how many per cent the field's colour lies over a picture behind words of
// the colour text.
func VeilOf(p bundle.Picture, text, field string) int {
	if p.Veil != nil {
		return *p.Veil
	}
	return colour.Veil(text, field)
}

// pictureStyle is the style of where a notice's picture stands and of how large it is.
func pictureStyle(n bundle.Notice, p parts) string {
	picture := n.Picture()
	if picture == nil {
		return ""
	}
	edge, place := n.GetSlot().Row().Edge, n.PicturePlace()
	var b strings.Builder
	img := p.picture + " img"
	fmt.Fprintf(&b, "%s{display:block;max-width:100%%;height:auto;border-radius:var(--corner,0)}", img)
	switch {
	case place == bundle.PictureBehind:
		field, text := Colours(n)
		fmt.Fprintf(&b, "%s{position:relative;isolation:isolate;overflow:hidden", p.bar)
		if picture.Size > 0 {
			fmt.Fprintf(&b, ";min-height:%dpx", picture.Size)
		}
		fmt.Fprintf(&b, "}%s{position:absolute;inset:0;z-index:-2}%s{width:100%%;height:100%%;max-height:none;"+
			"object-fit:cover}%s::before{content:'';position:absolute;inset:0;z-index:-1;background:%s}",
			p.picture, img, p.bar, mixed(field, VeilOf(*picture, text, field)))
		if look := n.GetLook(); look.Dark != nil {
			field, text := DarkColours(n)
			fmt.Fprintf(&b, "@media(prefers-color-scheme:dark){%s::before{background:%s}}",
				p.bar, mixed(field, VeilOf(*picture, text, field)))
		}
	case edge:
		size := cmp.Or(picture.Size, 64)
		fmt.Fprintf(&b, "%s{width:auto;max-height:%dpx}", img, size)
		if picture.Width == 0 { // its room is kept before it comes
			fmt.Fprintf(&b, "%s{height:%dpx}", img, size)
		}
		switch place {
		case bundle.PictureEnd:
			fmt.Fprintf(&b, "%s{order:1}@media(max-width:639px){%s{order:3}}", p.picture, p.picture)
		case bundle.PictureAbove:
			fmt.Fprintf(&b, "%s{flex:1 0 100%%}%s{margin-inline:auto}", p.picture, img)
		}
	case place == bundle.PictureAbove:
		fmt.Fprintf(&b, "%s{flex:1 0 100%%}", p.picture)
		size := picture.Size
		if size == 0 && picture.Width == 0 {
			size = 160
		}
		if size > 0 {
			fmt.Fprintf(&b, "%s{width:100%%;height:%dpx;object-fit:cover}", img, size)
		}
	default: // beside the words of a card, where it is wide enough
		width, side, bar := "40%", "start", p.bar
		if picture.Size > 0 {
			width = fmt.Sprintf("min(%dpx,60%%)", picture.Size)
		}
		if place == bundle.PictureEnd {
			side = "end"
		}
		fmt.Fprintf(&b, "%s{flex:1 0 100%%}@media(min-width:480px){%s:has(%s){position:relative;padding-inline-%s:calc(%s + "+
			"16px);min-height:120px}%s{position:absolute;inset-block:0;inset-inline-%s:0;width:%s}%s{width:100%%;height:100%%;"+
			"object-fit:cover}}", p.picture, bar, p.picture, side, width, p.picture, side, width, img)
	}
	if f := picture.Focus; f != nil {
		fmt.Fprintf(&b, "%s{object-position:%d%% %d%%}", img, f.X, f.Y)
	}
	return b.String()
}

// mixed is a colour that covers by per cent.
func mixed(hex string, percent int) string {
	return fmt.Sprintf("color-mix(in srgb,%s %d%%,transparent)", hex, percent)
}
