package render

import (
	"encoding/json"
	"fmt"
	"html"
	"html/template"
	"slices"
	"strings"

	"mastflag/core/bundle"
)

// narrow is where the picture for phones shows.
const narrow = "(max-width:639px)"

// pictured returns the element of a picture. Where live, the site script may put another in by its table; elsewhere,
// and until then, it is the one for everyone. "" where they see none.
func pictured(p bundle.Picture, class, alt, images string, live bool) string {
	if p.OthersHaveNone() && !live {
		return ""
	}
	if p.Decorative {
		alt = ""
	}
	var b strings.Builder
	b.WriteString("<picture")
	if class != "" {
		fmt.Fprintf(&b, ` class="%s"`, class)
	}
	if live && p.Table != nil {
		if table, err := json.Marshal(tableOf(p, images)); err == nil {
			fmt.Fprintf(&b, ` data-table="%s"`, html.EscapeString(string(table)))
		}
	}
	if p.OthersHaveNone() {
		fmt.Fprintf(&b, ` hidden><img alt="%s"></picture>`, html.EscapeString(alt))
		return b.String()
	}
	b.WriteString(">")
	if p.Phone != nil {
		fmt.Fprintf(&b, `<source media="%s" srcset="%s"%s>`,
			narrow, html.EscapeString(p.Phone.Source(images)), sized(*p.Phone))
	}
	fmt.Fprintf(&b, `<img src="%s"%s alt="%s"></picture>`,
		html.EscapeString(p.Source(images)), sized(p.Image), html.EscapeString(alt))
	return b.String()
}

func sized(i bundle.Image) string {
	if i.Width == 0 {
		return ""
	}
	return fmt.Sprintf(` width="%d" height="%d"`, i.Width, i.Height)
}

// tableOf is a picture's table as the site script chooses by it: with all images by their addresses, and a last row
// without a value, for all others.
func tableOf(p bundle.Picture, images string) bundle.PictureTable {
	loaded := func(i bundle.Image) bundle.Image {
		return bundle.Image{Address: i.Source(images), Width: i.Width, Height: i.Height}
	}
	out := bundle.PictureTable{By: p.Table.By}
	for _, r := range append(slices.Clone(p.Table.Rows), bundle.PictureRow{Image: p.Image, Phone: p.Phone}) {
		r.Image = loaded(r.Image)
		if r.Phone != nil {
			phone := loaded(*r.Phone)
			r.Phone = &phone
		}
		out.Rows = append(out.Rows, r)
	}
	return out
}

// ownPicture is the picture of a notice beside its words; "" if it has none.
func ownPicture(n bundle.Notice, class, alt, images string, live bool) template.HTML {
	p := n.Picture()
	if p == nil {
		return ""
	}
	return template.HTML(pictured(*p, class, alt, images, live))
}
