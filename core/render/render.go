// Package render makes a notice's HTML and CSS: the same for visitors, for
// the stage and for preview.
//
// The HTML holds no script, no event handler and no style attribute, so that
// it stands under a strict Content-Security-Policy; the CSS is given to a
// constructed style sheet in a shadow root.
package render

import (
	_ "embed"
	"fmt"
	"html/template"
	"maps"
	"strings"

	"golang.org/x/text/language"

	"mastflag/core/bundle"
	"mastflag/core/colour"
	"mastflag/core/markup"
)

// A Bar is a notice ready to be placed, in one language.
type Bar struct {
	ID   string      `json:"id"`
	Slot bundle.Slot `json:"slot"`
	Stay bundle.Stay `json:"stay"`
	HTML string      `json:"html"`
	// What is the notice's own; the style that all share, bar.css, is built
	// into the site script.
	CSS string `json:"css"`
}

//go:embed bar.html
var barHTML string

var bar = template.Must(template.New("bar").Parse(barHTML))

// words are the few that the program itself says to visitors.
type words struct{ Region, Close, More string }

var ownWords = map[string]words{
	"en": {"Announcement", "Close this announcement", "More"},
	"de": {"Mitteilung", "Diese Mitteilung schließen", "Mehr"},
	"pl": {"Komunikat", "Zamknij ten komunikat", "Więcej"},
	"ar": {"إعلان", "إغلاق هذا الإعلان", "المزيد"},
	"fr": {"Annonce", "Fermer cette annonce", "Plus"},
}

// The colours of a bar that has none of its own.
const (
	DefaultBackground = "#16202e"
	DefaultText       = "#ffffff"
)

// Colours returns the field and the ink of a notice, with what is missing filled in.
func Colours(n bundle.Notice) (background, text string) {
	background = DefaultBackground
	if n.Look != nil && n.Look.Background != "" {
		background = n.Look.Background
	}
	if n.Look != nil && n.Look.Text != "" {
		return background, n.Look.Text
	}
	text, err := colour.On(background)
	if err != nil {
		text = DefaultText
	}
	return background, text
}

// Notice renders the wording of a notice in the language tag. A notice
// without that wording is an error.
func Notice(n bundle.Notice, tag string) (Bar, error) {
	var b strings.Builder
	if err := execute(bar, &b, n, tag, nil); err != nil {
		return Bar{}, err
	}
	background, text := Colours(n)
	css := fmt.Sprintf(":host{--field:%s;--text:%s}", background, text)
	return Bar{ID: n.ID, Slot: n.GetSlot(), Stay: n.GetStay(), HTML: strings.TrimSpace(b.String()), CSS: css}, nil
}

//go:embed plain.html
var plainHTML string

var plain = template.Must(template.New("plain").Parse(plainHTML))

// Plain renders the wording of a notice as HTML and CSS to paste into a page:
// no script, nothing fetched, nothing to close. A longer message unfolds.
func Plain(n bundle.Notice, tag string) (string, error) {
	background, text := Colours(n)
	place := ""
	if n.GetStay() == bundle.Sticking {
		place = "position:sticky;z-index:1000;top:0;"
		if n.GetSlot() == bundle.Bottom {
			place = "position:sticky;z-index:1000;bottom:0;"
		}
	}
	var b strings.Builder
	err := execute(plain, &b, n, tag, map[string]any{"Class": "notice-" + n.ID, "Place": template.CSS(place), "Background": template.CSS(background), "Text": template.CSS(text)})
	return strings.TrimSpace(b.String()) + "\n", err
}

// execute runs a template on the wording of a notice in the language tag.
func execute(t *template.Template, b *strings.Builder, n bundle.Notice, tag string, more map[string]any) error {
	w, ok := n.Wordings()[tag]
	if !ok {
		return fmt.Errorf("notice %q has no wording in %q", n.ID, tag)
	}
	own, ok := ownWords[base(tag)]
	if !ok {
		own = ownWords["en"]
	}
	dir := "ltr"
	if rightToLeft(tag) {
		dir = "rtl"
	}
	// Regions on one page need names of their own (WAI-ARIA APG, landmark
	// regions): the first words of the message tell them apart.
	own.Region += ": " + firstWords(markup.Text(w.Message), 60)
	values := map[string]any{
		"ID": n.ID, "Lang": tag, "Dir": dir, "Words": own, "Level": n.GetLevel(),
		"Message":  template.HTML(markup.Sanitise(w.Message)),
		"Longer":   template.HTML(markup.Sanitise(w.Longer)),
		"Link":     w.Link,
		"As":       as(w.Link),
		"Closable": n.Closable(),
	}
	maps.Copy(values, more)
	if err := t.Execute(b, values); err != nil {
		return fmt.Errorf("rendering notice %q: %w", n.ID, err)
	}
	return nil
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

func as(l *bundle.Link) string {
	if l == nil {
		return ""
	}
	if l.As == "" {
		return "button"
	}
	return l.As
}

func base(tag string) string {
	b, _, _ := strings.Cut(strings.ToLower(tag), "-")
	return b
}

// rightToLeft reports whether the tag's script, given or likely, is written
// from right to left.
func rightToLeft(tag string) bool {
	t, err := language.Parse(tag)
	if err != nil {
		return false
	}
	script, _ := t.Script()
	switch script.String() {
	case "Arab", "Hebr", "Thaa", "Syrc", "Nkoo", "Adlm", "Rohg":
		return true
	}
	return false
}
