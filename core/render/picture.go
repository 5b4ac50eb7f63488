package render

import (
	"encoding/json"
	"fmt"
	"html"
	"html/template"
	"strings"

	"mastflag/core/bundle"
)

// A PictureTable is what of a picture's table the site script needs to choose by it (rule N2).
type PictureTable struct {
	// person.NAME, or event.NAME.PROPERTY.
	By   string       `json:"by"`
	Rows []PictureRow `json:"rows"`
}

// A PictureRow is the picture for one value. The last has none: it is for all others, who see none where it has
// no image.
type PictureRow struct {
	Value string `json:"value,omitempty"`
	Image *Image `json:"image,omitempty"`
	Phone *Image `json:"phone,omitempty"`
}

// An Image is one as browsers load it, with its size, px, if that is known.
type Image struct {
	Source string `json:"source"`
	Width  int    `json:"width,omitempty"`
	Height int    `json:"height,omitempty"`
}

func imageOf(i *bundle.Image, images string) *Image {
	if i == nil {
		return nil
	}
	return &Image{i.Source(images), i.Width, i.Height}
}

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

func tableOf(p bundle.Picture, images string) PictureTable {
	out := PictureTable{By: p.Table.By}
	for _, r := range p.Table.Rows {
		out.Rows = append(out.Rows, PictureRow{r.Value, imageOf(&r.Image, images), imageOf(r.Phone, images)})
	}
	others := PictureRow{Phone: imageOf(p.Phone, images)}
	if !p.OthersHaveNone() {
		others.Image = imageOf(&p.Image, images)
	}
	out.Rows = append(out.Rows, others)
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
