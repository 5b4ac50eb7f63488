package render

import (
	"cmp"
	_ "embed"
	"encoding/json"
	"fmt"
	"html"
	"slices"
	"strings"
	"sync"

	"mastflag/core/bundle"
	"mastflag/core/icon"
	"mastflag/core/lookup"
	"mastflag/core/markup"
	"mastflag/core/personal"
)

// rowsCSS is the style of a block's rows, a rule each line; rowsStyle puts what it
// is for before each.
//
//go:embed rows.css
var rowsCSS string

// narrowRows is how wide a block is at least where its columns stand side by side.
const narrowRows = "559px"

// rowsStyle is the style of a block's rows, "" if it has none. scope is a selector
// of the block; each rule is for what is inside it alone. live is whether the site script is
// there, without which nothing is filled in and nothing plays.
func rowsStyle(n bundle.Notice, scope string, live bool) string {
	if len(n.Rows()) == 0 {
		return ""
	}
	var b, narrow strings.Builder
	fmt.Fprintf(&b, "%s{padding-block:16px}", scope)
	rules := rowsCSS
	if live && n.HasForm() {
		rules += formCSS
	}
	if live && hasVideo(n) {
		rules += videoCSS
	}
	for rule := range strings.Lines(rules) {
		b.WriteString(scope + " " + strings.TrimSpace(rule))
	}
	for i, r := range n.Rows() {
		if len(r.Columns) < 2 {
			continue
		}
		fmt.Fprintf(&b, "%s .row-%d{grid-template-columns:", scope, i)
		for _, c := range r.Columns {
			fmt.Fprintf(&b, "minmax(0,%dfr) ", max(1, c.Share))
		}
		if order := r.Stacking(); !slices.IsSorted(order) {
			for place, j := range order {
				fmt.Fprintf(&narrow, "%s .row-%d>:nth-child(%d){order:%d}", scope, i, j+1, place)
			}
		}
		b.WriteString("}")
		fmt.Fprintf(&narrow, "%s .row-%d{grid-template-columns:minmax(0,1fr)}", scope, i)
	}
	for _, p := range n.Parts() {
		if p.Picture != nil && p.Picture.Focus != nil {
			fmt.Fprintf(&b, "%s .part-%s img{object-position:%d%% %d%%}", scope, p.ID, p.Picture.Focus.X, p.Picture.Focus.Y)
		}
	}
	if narrow.Len() > 0 {
		fmt.Fprintf(&b, "@container (max-width:%s){%s}", narrowRows, narrow.String())
	}
	return b.String()
}

// rows writes the rows of a block in the language tag. count is the HTML of its
// countdown; live is whether the site script is there, which takes answers.
func rows(n bundle.Notice, tag, images, count string, live bool) string {
	if len(n.Rows()) == 0 {
		return ""
	}
	w := n.Wordings()[tag]
	var b strings.Builder
	open, end := `<div class="rows">`, "</div>"
	if live && n.HasForm() {
		open, end = formTags(n, w, tag)
	}
	b.WriteString(open)
	for i, r := range n.Rows() {
		fmt.Fprintf(&b, `<div class="row row-%d">`, i)
		for _, c := range r.Columns {
			b.WriteString(`<div class="column">`)
			for _, p := range c.Parts {
				inner, class := part(p, w.Parts[p.ID], tag, images, count, live)
				switch {
				case !live:
				case p.Kind == bundle.PartField || p.Kind == bundle.PartSend:
					inner, class = formPart(p, w, tag)
				case p.Kind == bundle.PartVideo && p.Video != nil:
					inner, class = video(*p.Video, w.Parts[p.ID], w.Phrases(tag), tag, images)
				}
				if inner != "" {
					fmt.Fprintf(&b, `<div class="part part-%s%s" data-part="%s">%s</div>`, p.ID, class, p.ID, inner)
				}
			}
			b.WriteString(`</div>`)
		}
		b.WriteString(`</div>`)
	}
	b.WriteString(end)
	return b.String()
}

// part writes a part of a block, without the element that it stands in; "" where it
// shows nothing.
func part(p bundle.Part, w bundle.PartWords, tag, images, count string, live bool) (inner, class string) {
	switch p.Kind {
	case bundle.PartHeading:
		if level := max(2, p.Level); w.Heading != "" {
			return fmt.Sprintf("<h%d>%s</h%d>", level, html.EscapeString(w.Heading), level), ""
		}
	case bundle.PartText:
		if !live {
			return personal.Words(markup.Sanitise(w.Text)), " text"
		}
		return personal.HTML(markup.Sanitise(w.Text)), " text"
	case bundle.PartPictured:
		if p.Picture != nil {
			return pictured(p.Picture.Picture, "", w.Alt, images, live), " photo " + p.Picture.Crop
		}
	case bundle.PartLinks:
		return links(w.Links), " links"
	case bundle.PartCountdown:
		return count, ""
	case bundle.PartDocuments:
		return w.List, ""
	case bundle.PartContact:
		if len(p.Contact) > 0 {
			return contact(p, w), ""
		}
	case bundle.PartHours:
		if len(p.Hours) > 0 {
			return hours(p.Hours, tag), " hours"
		}
	case bundle.PartQuestion:
		if live {
			return question(p, w), " question"
		}
	}
	return "", ""
}

func links(list []bundle.Link) string {
	var b strings.Builder
	for _, l := range list {
		if l.Label == "" || markup.HrefFault(l.Href) != "" {
			continue
		}
		opens := ""
		if l.Opens == "new" {
			opens = ` target="_blank" rel="noopener"`
		}
		class := "button"
		if l.As == "link" {
			class = "link"
		}
		fmt.Fprintf(&b, `<a class="%s" href="%s"%s data-act="clicked">%s</a>`,
			class, html.EscapeString(markup.Address(l.Href)), opens, html.EscapeString(l.Label))
	}
	return b.String()
}

// contactIcons are the icons of the ways to reach someone.
var contactIcons = map[string]string{
	"telephone": "phone", "mail": "mail", "message": "message", "address": "home", "map": "map-pin", "link": "link",
}

// contact writes ways to reach someone. What is offered by hours alone says so to the part of
// the site script that knows the time; without it all of them stand there.
func contact(p bundle.Part, w bundle.PartWords) string {
	var b strings.Builder
	class, hours := "contact", ""
	if p.Buttons {
		class += " buttons"
	}
	if len(p.Hours) > 0 && slices.ContainsFunc(p.Contact, func(l bundle.ContactLine) bool { return l.When != "" }) {
		raw, err := json.Marshal(p.Hours)
		if err == nil {
			hours = fmt.Sprintf(` data-hours="%s"`, html.EscapeString(string(raw)))
		}
	}
	fmt.Fprintf(&b, `<ul class="%s"%s>`, class, hours)
	for at, l := range p.Contact {
		b.WriteString("<li")
		if l.When != "" && hours != "" {
			fmt.Fprintf(&b, ` data-when="%s"`, html.EscapeString(l.When))
		}
		b.WriteString(">")
		inner := ""
		if i, ok := icon.Get(cmp.Or(l.Icon, contactIcons[l.By])); ok {
			inner = i.SVG
		}
		said := strings.ReplaceAll(html.EscapeString(l.Value), "\n", "<br>")
		href := l.Href()
		if l.By == "map" || l.By == "link" {
			if markup.HrefFault(href) != "" {
				href = ""
			}
			said = html.EscapeString(strings.TrimPrefix(strings.TrimPrefix(l.Value, "https://"), "http://"))
		}
		if p.Buttons && at < len(w.Answers) && w.Answers[at] != "" {
			said = html.EscapeString(w.Answers[at])
		}
		switch {
		case href != "" && p.Buttons:
			fmt.Fprintf(&b, `<a class="button" href="%s" data-act="clicked">%s%s</a>`, html.EscapeString(href), inner, said)
		case href != "":
			fmt.Fprintf(&b, `%s<a href="%s" data-act="clicked">%s</a>`, inner, html.EscapeString(href), said)
		default:
			fmt.Fprintf(&b, "%s<span>%s</span>", inner, said)
		}
		b.WriteString("</li>")
	}
	b.WriteString("</ul>")
	return b.String()
}

// weekdaysJSON is what the days of the week are called in short, Monday first, by
// language (Unicode CLDR); `make units` writes it.
//
//go:embed weekdays.json
var weekdaysJSON []byte

var weekdays = sync.OnceValue(func() map[string][]string {
	out := map[string][]string{}
	if err := json.Unmarshal(weekdaysJSON, &out); err != nil {
		panic(fmt.Sprintf("core/render/weekdays.json: %v", err))
	}
	return out
})

func hours(list []bundle.Opening, tag string) string {
	names := weekdays()[lookup.Base(tag)]
	if names == nil {
		names = weekdays()["en"]
	}
	var b strings.Builder
	b.WriteString(`<dl>`)
	for _, o := range list {
		fmt.Fprintf(&b, `<dt>%s</dt><dd>%s–%s</dd>`, html.EscapeString(days(o.Days, names)), o.From, o.Until)
	}
	b.WriteString("</dl>")
	return b.String()
}

// days says days of the week: "Mon–Fri, Sun".
func days(list []int, names []string) string {
	list = slices.Compact(slices.Sorted(slices.Values(list)))
	var out []string
	for i := 0; i < len(list); {
		j := i
		for j+1 < len(list) && list[j+1] == list[j]+1 {
			j++
		}
		first, last := names[list[i]-1], names[list[j]-1]
		switch j - i {
		case 0:
			out = append(out, first)
		case 1:
			out = append(out, first, last)
		default:
			out = append(out, first+"–"+last)
		}
		i = j + 1
	}
	return strings.Join(out, ", ")
}

// question asks something; the part for blocks takes the answers and puts thanks in
// their place.
func question(p bundle.Part, w bundle.PartWords) string {
	if w.Heading == "" {
		return ""
	}
	var b strings.Builder
	fmt.Fprintf(&b, "<strong>%s</strong>", html.EscapeString(w.Heading))
	for i, label := range w.Answers {
		if i < len(p.Events) && label != "" {
			fmt.Fprintf(&b, `<button type="button" class="button" data-act="answered" data-event="%s">%s</button>`,
				html.EscapeString(p.Events[i]), html.EscapeString(label))
		}
	}
	fmt.Fprintf(&b, `<span class="thanks" role="status" data-thanks="%s"></span>`, html.EscapeString(w.Thanks))
	return b.String()
}

// leadingText is the HTML that a notice begins with in the language tag: its message, or
// what the first part says that says something.
func leadingText(n bundle.Notice, tag string) string {
	w := n.Wordings()[tag]
	if w.Headline != "" {
		return html.EscapeString(w.Headline)
	}
	if w.Message != "" {
		return w.Message
	}
	for _, p := range n.Parts() {
		words := w.Parts[p.ID]
		label := ""
		if len(words.Links) > 0 {
			label = words.Links[0].Label
		}
		if said := cmp.Or(html.EscapeString(words.Heading), words.Text, html.EscapeString(label)); said != "" {
			return said
		}
	}
	return ""
}
