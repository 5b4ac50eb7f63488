// Package render makes a notice's HTML and CSS: the same for visitors, for
// the stage and for preview.
//
// The HTML holds no script, no event handler and no style attribute, so that
// it stands under a strict Content-Security-Policy; the CSS is given to a
// constructed style sheet in a shadow root.
package render

import (
	"cmp"
	_ "embed"
	"fmt"
	"html/template"
	"maps"
	"slices"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/colour"
	"mastflag/core/icon"
	"mastflag/core/lookup"
	"mastflag/core/markup"
	"mastflag/core/personal"
	"mastflag/core/phrase"
)

// A Bar is a notice ready to be placed, in one language.
type Bar struct {
	ID       string          `json:"id"`
	Slot     bundle.Slot     `json:"slot"`
	Position bundle.Position `json:"position"`
	// Where in the page it stands, in the slot inline, in the order in which they are
	// tried; without the pages that each is for.
	Spots []bundle.Spot `json:"spots,omitempty"`
	HTML  string        `json:"html"`
	// What is the notice's own; the style that all share, bar.css, is built
	// into the site script.
	CSS string `json:"css"`
	// What runs its countdown.
	Count *Count `json:"count,omitempty"`
	// It has a longer message to open, or can be folded away: the part of the script for that is loaded.
	Ways bool `json:"ways,omitempty"`
	// What stands on the tab that opens it again once it was folded away, and what is read out of that.
	Fold []string `json:"fold,omitempty"`
	// Of a notice of kind code: what is put into the page, and nothing else of it.
	Code *Code `json:"code,omitempty"`
	// What takes its form.
	Form *Form `json:"form,omitempty"`
	// What else loads a part of the script: video, hours.
	Uses []string `json:"uses,omitempty"`
	// Of the zone that its opening hours are in.
	Zone string `json:"zone,omitempty"`
	// How it goes, other than by its buttons.
	Out *Exit `json:"out,omitempty"`
	// How dark the page behind it is, %, where it is not as usual.
	Behind *int `json:"behind,omitempty"`
	// A sound that it comes with.
	Sound bundle.Sound `json:"sound,omitempty"`
	// Its paragraphs are titles that are shown in the tab of a visitor who is elsewhere.
	Tab *Tab `json:"tab,omitempty"`
}

// Code is what is put into a page, in its three places.
type Code struct {
	Head  string `json:"head,omitempty"`
	Start string `json:"start,omitempty"`
	End   string `json:"end,omitempty"`
}

// CodeOf returns a notice of kind code ready to be put into pages, in whatever
// language.
func CodeOf(n bundle.Notice) Bar {
	c := n.GetCode()
	return Bar{ID: n.ID, Slot: n.GetSlot(), Position: n.GetPosition(), Code: &Code{c.Head, c.Start, c.End}}
}

//go:embed bar.html
var barHTML string

var bar = parsed("bar", barHTML)

// parsed returns a template in which href puts an address that a notice may lead to as it is: the
// template itself would know http, https and mailto alone.
func parsed(name, text string) *template.Template {
	return template.Must(template.New(name).Funcs(template.FuncMap{"href": func(to string) template.URL {
		if markup.HrefFault(to) != "" {
			return ""
		}
		return template.URL(markup.Address(to))
	}}).Parse(text))
}

// The colours of a bar that has none of its own.
const (
	DefaultBackground = "#16202e"
	DefaultText       = "#ffffff"
)

// Colours returns the field and the ink of a notice, with what is missing filled in.
func Colours(n bundle.Notice) (background, text string) {
	own, chosen := n.GetLook().Background, n.GetLook().Text
	if l, ok := alertLook(n); ok && own == "" {
		own, chosen = l.background, cmp.Or(chosen, l.text)
	}
	background = cmp.Or(own, DefaultBackground)
	return background, ink(background, chosen)
}

// DarkColours returns the field and the ink for visitors whose system is set
// to dark.
func DarkColours(n bundle.Notice) (background, text string) {
	if dark := n.GetLook().Dark; dark != nil {
		return dark.Background, ink(dark.Background, dark.Text)
	}
	return Colours(n)
}

// ink is the colour chosen for words, or the best to read on the field.
func ink(background, chosen string) string {
	if chosen != "" {
		return chosen
	}
	text, err := colour.On(background)
	if err != nil {
		return DefaultText
	}
	return text
}

// Notice renders the wording of a notice in the language tag. A notice
// without that wording is an error. images is the address below which the
// site's images lie; zone is where the site's clock is.
func Notice(n bundle.Notice, tag, images string, zone *time.Location) (Bar, error) {
	var b strings.Builder
	w := n.Wordings()[tag]
	message := personal.HTML(markup.Sanitise(w.Message))
	if !countsInPart(n) {
		message = counted(message, n.Countdown())
	}
	values := map[string]any{
		"Message": template.HTML(message),
		"After":   after(w, n.Countdown()),
		"Rows":    template.HTML(rows(n, tag, images, counted("", n.Countdown()), true)),
		"Picture": ownPicture(n, "picture", w.Alt, images, true),
	}
	if err := execute(bar, &b, n, tag, images, values); err != nil {
		return Bar{}, err
	}
	c, err := count(n, tag, zone)
	if err != nil {
		return Bar{}, err
	}
	out := Bar{
		ID:       n.ID,
		Slot:     n.GetSlot(),
		Position: n.GetPosition(),
		Spots:    Spots(n),
		HTML:     strings.TrimSpace(b.String()),
		CSS:      style(n),
		Count:    c,
		Fold:     folded(n, tag),
	}
	out.Form = formOf(n, tag, out)
	addScriptParts(n, &out, zone)
	out.Tab = tabOf(n, images)
	out.Ways = w.Details != "" || out.Fold != nil || out.Form != nil || out.Uses != nil || out.Out != nil ||
		out.Behind != nil || out.Sound != "" || out.Tab != nil || out.Count != nil && out.Count.Go != ""
	return out, nil
}

// Spots returns where in the page a notice stands; nil if it stands elsewhere.
func Spots(n bundle.Notice) (out []bundle.Spot) {
	if n.GetSlot() != bundle.Inline {
		return nil
	}
	for _, s := range n.AllSpots() {
		s.Pages = nil
		out = append(out, s)
	}
	return out
}

// style is what is a notice's own: its colours and shape as properties that
// bar.css reads, and rules for what few notices have.
func style(n bundle.Notice) string {
	look := n.GetLook()
	background, text := Colours(n)
	edge := n.GetSlot().Row().Edge
	var b strings.Builder
	fmt.Fprintf(&b, ":host{--field:%s;--text:%s", background, text)
	if look.Font != "" {
		fmt.Fprintf(&b, ";--font:%s", look.Font)
	}
	corner, button := corners(look)
	if look.GetShape() != bundle.Soft {
		fmt.Fprintf(&b, ";--button:%s", button)
	}
	if !edge {
		fmt.Fprintf(&b, ";--corner:%s", corner)
	}
	if w := words(look, edge); w != "" {
		fmt.Fprintf(&b, ";--words:%s", w)
	}
	b.WriteString("}")
	if look.Dark != nil {
		background, text := DarkColours(n)
		fmt.Fprintf(&b, "@media(prefers-color-scheme:dark){:host{--field:%s;--text:%s}}", background, text)
	}
	if iconOf(n) != "" {
		b.WriteString(".with{display:flex;gap:12px;align-items:center;min-width:0}.icon{flex:none}")
		if edge {
			b.WriteString("@media(max-width:639px){.with{flex:1 1 calc(100% - 64px)}}")
		} else {
			b.WriteString(".with{flex:1 1 calc(100% - 64px)}")
		}
	}
	any := func(has func(bundle.Wording) bool) bool {
		return slices.ContainsFunc(slices.Collect(maps.Values(n.Wordings())), has)
	}
	if any(func(w bundle.Wording) bool { return strings.Contains(w.Message+w.Details+w.ExpiredMessage, "<li>") }) {
		b.WriteString(".bar ul,.bar ol{padding-inline-start:1.4em;text-align:start}")
	}
	if any(func(w bundle.Wording) bool { return linkShape(w.Link) == "bar" }) {
		b.WriteString(".bar .whole{flex:1 1 " +
			"auto;display:flex;flex-wrap:inherit;align-items:center;justify-content:inherit;gap:inherit;text-decoration:none}." +
			"bar .whole:hover .words{text-decoration:underline}.bar .whole " +
			".words{display:inline-block}@media(max-width:639px){.bar .whole{flex:1 1 0;text-align:start}}")
	}
	if any(func(w bundle.Wording) bool { return w.DocumentLinks != "" }) {
		b.WriteString(documentStyle + ".below{flex:1 0 100%;order:3}.bar .documents{display:flex;flex-wrap:wrap;gap:4px " +
			"20px;padding:0;list-style:none}")
	}
	if n.Kind == bundle.KindBlock { // it reads as a part of the page
		b.WriteString(":host{margin-block:16px!important}.bar{justify-content:flex-start}")
		b.WriteString(".words{max-width:none;text-align:start}")
	}
	b.WriteString(rowsStyle(n, ".bar", true))
	if n.GetSlot() == bundle.Inline { // no line parts it from what it follows, as bars at an edge are parted
		b.WriteString(":host(:not(:first-child)) .bar{box-shadow:none}")
	}
	b.WriteString(lookStyle(n, shadowParts))
	b.WriteString(waysStyle(n, edge))
	if n.Kind == bundle.KindAlert {
		b.WriteString(".level{display:inline-block;margin-inline-end:8px;padding:0 6px;border:1.5px " +
			"solid;border-radius:2px}.level+p,.level+.till,.level+.till p{display:inline}")
	}
	b.WriteString(countStyle(n.Countdown(), look.Count))
	if look.Opacity != nil && *look.Opacity < 100 {
		fmt.Fprintf(&b, ".bar{background:color-mix(in srgb,var(--field) %d%%,transparent)}", *look.Opacity)
	}
	switch look.Motion {
	case bundle.Fade:
		b.WriteString("@media(prefers-reduced-motion:no-preference){.bar{animation:in .3s ease-out}@keyframes " +
			"in{from{opacity:0}}}")
	case bundle.Slide:
		from := "-100%"
		if !edge || n.GetSlot() == bundle.Bottom {
			from = "100%"
		}
		fmt.Fprintf(
			&b,
			"@media(prefers-reduced-motion:no-preference){.bar{animation:in .3s ease-out}@keyframes "+
				"in{from{transform:translateY(%s)}}}",
			from,
		)
	}
	b.WriteString(look.CSS)
	return b.String()
}

// documentStyle is what a document's text needs besides in a notice.
const documentStyle = ".bar h2{margin:16px 0 4px;font-size:1.15em}.bar h3{margin:12px 0 4px;font-size:1em}.bar " +
	"ul,.bar ol{padding-inline-start:1.4em;text-align:start}" +
	".bar table{border-collapse:collapse;font-size:.9em}.bar th,.bar td{padding:4px 10px 4px " +
	"0;text-align:start;vertical-align:top;border-bottom:1px solid color-mix(in srgb,var(--text) 30%,transparent)}"

// corners returns the radius of a notice's corners and of its buttons'.
func corners(l bundle.Look) (corner, button string) {
	switch l.GetShape() {
	case bundle.Square:
		return "0", "0"
	case bundle.Round:
		return "16px", "99px"
	}
	return "3px", "3px"
}

// words returns how wide the words run, "" for the usual measure.
func words(l bundle.Look, edge bool) string {
	switch {
	case l.GetWidth() == bundle.Narrow && edge:
		return "44ch"
	case l.GetWidth() == bundle.Wide && edge:
		return "none"
	case l.GetWidth() == bundle.Narrow:
		return "280px"
	case l.GetWidth() == bundle.Wide:
		return "720px"
	}
	return ""
}

//go:embed plain.html
var plainHTML string

var plain = parsed("plain", plainHTML)

// Plain renders the wording of a notice as HTML and CSS to paste into a page, or to
// be included by its server: marked with the notice's id, by which the site script
// knows that it stands there already; no script, nothing to close, and nothing fetched but its picture. A longer
// message unfolds. Style of its own is left out: it speaks of parts that are
// not there.
func Plain(n bundle.Notice, tag, images string) (string, error) {
	background, text := Colours(n)
	place := ""
	if n.GetPosition() == bundle.Sticking {
		place = "position:sticky;z-index:1000;top:0;"
		if n.GetSlot() == bundle.Bottom {
			place = "position:sticky;z-index:1000;bottom:0;"
		}
	}
	var b strings.Builder
	look := n.GetLook()
	corner, button := corners(look)
	values := map[string]any{
		"Class":      "notice-" + n.ID,
		"Picture":    ownPicture(n, "notice-"+n.ID+"-picture", n.Wordings()[tag].Alt, images, false),
		"RowsStyle":  template.CSS(rowsStyle(n, ".notice-"+n.ID, false)),
		"LookStyle":  template.CSS(lookStyle(n, plainParts("notice-"+n.ID))),
		"Place":      template.CSS(place),
		"Background": template.CSS(background),
		"Text":       template.CSS(text),
		"Font":       template.CSS(cmp.Or(look.Font, "system-ui,sans-serif")),
		"Corner":     template.CSS(corner),
		"Button":     template.CSS(button),
		"Measure":    template.CSS(cmp.Or(words(look, true), "72ch")),
	}
	if look.Dark != nil {
		background, text := DarkColours(n)
		values["Dark"] = map[string]any{"Background": template.CSS(background), "Text": template.CSS(text)}
	}
	err := execute(plain, &b, n, tag, images, values)
	return strings.TrimSpace(b.String()) + "\n", err
}

// PlainLacks says what a notice has in the language tag that Plain leaves out, each in a
// sentence.
func PlainLacks(n bundle.Notice, tag string) []string {
	w, d := n.Wordings()[tag], n.Countdown()
	lacks := []string{}
	say := func(has bool, what string) {
		if has {
			lacks = append(lacks, what)
		}
	}
	say(n.Kind == bundle.KindConsent, "It asks nothing and holds nothing back: that takes the site script.")
	if demand, ok := n.Disclaimer(); ok {
		say(demand.Answered(), "It has no buttons, and takes no answer.")
	}
	say(n.Schedule != nil || n.Audience != nil, "It is there at all times and for everyone.")
	say(n.Closable() && n.Kind != bundle.KindBlock, "It cannot be closed.")
	say(n.Foldable(), "It cannot be folded away.")
	say(hasVideo(n), "Its video is left out: that takes the site script.")
	say(n.Tab() != nil || n.Sound() != "", "It changes no tab and makes no sound.")
	say(n.HasForm(), "It asks for nothing to be filled in: that takes the site script.")
	say(d != nil, "It does not count: a moment that is the same for all is written out, any other is left out.")
	say(w.Details != "" && n.Content.DetailsAs == bundle.Dialog, "The longer message unfolds, and opens no dialog.")
	say(w.Details != "" && n.Content.DetailsBy == bundle.ByPress, "The longer message opens by its own line alone.")
	say(!n.GetSlot().Row().Edge && n.GetSlot() != bundle.Inline, "It stands where it is pasted, and over nothing.")
	say(slices.ContainsFunc(slices.Collect(maps.Values(n.Pictures())), func(p *bundle.Picture) bool {
		return p.Table != nil
	}), "Its pictures for some visitors are left out: everyone gets the one for all others.")
	say(n.GetLook().Motion != "", "It does not move as it comes in.")
	say(n.GetLook().CSS != "", "Its own style is left out.")
	return lacks
}

// execute runs a template on the wording of a notice in the language tag.
func execute(t *template.Template, b *strings.Builder, n bundle.Notice, tag, images string, more map[string]any) error {
	w, ok := n.Wordings()[tag]
	if !ok {
		return fmt.Errorf("notice %q has no wording in %q", n.ID, tag)
	}
	own := spoken(w.Phrases(tag))
	dir := lookup.Direction(tag)
	// Regions on one page need names of their own (WAI-ARIA APG, landmark
	// regions): the first words of the message tell them apart.
	own["region"] += ": " + Opening(n, tag)
	message := personal.Words(markup.Sanitise(w.Message))
	if !countsInPart(n) {
		message = dated(message, n.Countdown())
	}
	values := map[string]any{
		"ID": n.ID, "Lang": tag, "Dir": dir, "Words": own, "Level": n.GetLevel(), "LevelWord": levelWord(n, tag),
		"Urgent":   n.GetLevel() == bundle.Emergency,
		"Message":  template.HTML(message),
		"Rows":     template.HTML(rows(n, tag, images, dated("", n.Countdown()), false)),
		"Headline": w.Headline,
		"Longer":   template.HTML(markup.WithImages(markup.SanitiseDetails(w.Details), images)),
		"Dialog":   n.Content.DetailsAs == bundle.Dialog,
		"Pressed":  n.Content.DetailsBy == bundle.ByPress && w.Details != "",
		"Below":    template.HTML(w.DocumentLinks),
		"Block":    n.Kind == bundle.KindBlock,
		"Link":     w.Link,
		"Second":   w.Second,
		"As":       linkShape(w.Link),
		"SecondAs": linkShape(w.Second),
		"Closable": n.Closable(),
		"Cross":    n.Closable() && n.GetMemory().CloseWith != bundle.Button,
		"Shut":     n.Closable() && (n.GetMemory().CloseWith == bundle.Button || n.GetMemory().CloseWith == bundle.Both),
		"Foldable": n.Foldable(),
	}
	if i, ok := icon.Get(iconOf(n)); ok {
		values["Icon"] = template.HTML(i.SVG)
	}
	maps.Copy(values, more)
	if err := t.Execute(b, values); err != nil {
		return fmt.Errorf("rendering notice %q: %w", n.ID, err)
	}
	return nil
}

// spoken are phrases as templates read them.
func spoken(words phrase.Words) map[string]string {
	out := make(map[string]string, len(words))
	for k, said := range words {
		out[string(k)] = said
	}
	return out
}

// Opening returns the first words of a notice in the language tag, by which visitors
// can tell notices apart: their working titles are not for them.
func Opening(n bundle.Notice, tag string) string {
	return firstWords(plainText(leadingText(n, tag)), 60)
}

// plainText returns HTML as text, as everyone reads it, without the place of a countdown.
func plainText(html string) string {
	return strings.TrimSpace(personal.Words(strings.Replace(markup.Text(html), Mark, "", 1)))
}

// firstWords returns the beginning of a text, whole words of at most limit
// characters together.
func firstWords(s string, limit int) string {
	r := []rune(s)
	if len(r) <= limit {
		return s
	}
	cut := string(r[:limit])
	if i := strings.LastIndexByte(cut, ' '); i > 0 {
		cut = cut[:i]
	}
	return cut + "…"
}

func linkShape(l *bundle.Link) string {
	if l == nil {
		return ""
	}
	if l.As == "" {
		return "button"
	}
	return l.As
}
