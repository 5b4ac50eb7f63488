package render

import (
	"cmp"
	"crypto/sha256"
	_ "embed"
	"encoding/hex"
	"fmt"
	"html"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/form"
	"mastflag/core/markup"
	"mastflag/core/phrase"
)

// formCSS is the style of a form, a rule each line as in rowsCSS.
//
//go:embed form.css
var formCSS string

// A Form is what the site script needs to take what is filled in.
type Form struct {
	// A fingerprint of exactly what is shown: SHA-256 of words and style, in hex.
	Hash string `json:"hash"`
	// What is said of a field that is wrong, by form.Flaw; while it is sent; and where it could not be.
	Words map[string]string `json:"words"`
	// What follows besides its words: page, file or notice; and where those lie.
	Then form.FollowUpKind `json:"then,omitempty"`
	To   string            `json:"to,omitempty"`
}

// formOf returns what takes what is filled in, in a wording that is rendered as bar; nil
// where nothing is asked.
func formOf(n bundle.Notice, tag string, bar Bar) *Form {
	if !n.HasForm() {
		return nil
	}
	sum := sha256.Sum256([]byte(bar.HTML + "\x00" + bar.CSS))
	out := &Form{Hash: hex.EncodeToString(sum[:]), Words: map[string]string{}}
	words := n.Wordings()[tag].Phrases(tag)
	for _, r := range phrase.Table {
		if r.Use == phrase.Filling && r.Key != phrase.Send && r.Key != phrase.Sent && r.Key != phrase.Optional {
			out.Words[string(r.Key)] = words[r.Key]
		}
	}
	if after := n.Form().After; after.Then == form.ThenNotice || after.To != "" && after.Then != "" {
		out.Then, out.To = after.Then, after.To
	}
	return out
}

// FormWords returns what the fields of a notice and their options are called in the language
// tag, by id, and by id and option; and the words of what is agreed to, by field.
func FormWords(n bundle.Notice, tag string) (labels, agreed map[string]string) {
	labels, agreed = map[string]string{}, map[string]string{}
	parts := n.Wordings()[tag].Parts
	for _, f := range n.FormFields() {
		w := parts[f.ID]
		if w.Heading != "" {
			labels[f.ID] = w.Heading
		}
		for i, o := range f.Options {
			if i < len(w.Answers) && w.Answers[i] != "" {
				labels[f.ID+"/"+o] = w.Answers[i]
			}
		}
		if f.Kind == form.Agreement {
			agreed[f.ID] = cmp.Or(markup.Text(w.Text), w.Heading)
		}
	}
	return labels, agreed
}

// formTags are what the rows of a notice with a form stand in: the form, with a field that
// nobody sees and robots fill in; and what is said once it was sent.
func formTags(n bundle.Notice, w bundle.Wording, tag string) (open, end string) {
	said := ""
	if p, ok := n.SendButton(); ok {
		said = markup.Sanitise(w.Parts[p.ID].Text)
	}
	words := w.Phrases(tag)
	if said == "" {
		said = "<p>" + html.EscapeString(words[phrase.Sent]) + "</p>"
	}
	if id := n.Form().Confirm; id != "" {
		before, after, _ := strings.Cut(html.EscapeString(words[phrase.ConfirmFirst]), "{email}")
		said += fmt.Sprintf(`<p>%s<bdi data-of="%s"></bdi>%s</p>`, before, html.EscapeString(id), after)
	}
	return `<form class="rows" novalidate><div class="trap" aria-hidden="true"><input name="_" tabindex="-1" ` +
		`autocomplete="off"></div>`, `<div class="sent" role="status" tabindex="-1" hidden>` + said + `</div></form>`
}

// maxRadios is how many options stand in sight; more are in a list that opens.
const maxRadios = 5

// formPart writes a field of a form, or what sends it.
func formPart(p bundle.Part, w bundle.Wording, tag string) (inner, class string) {
	words, own := w.Phrases(tag), w.Parts[p.ID]
	if p.Kind == bundle.PartSend {
		return fmt.Sprintf(
			`<button type="submit" class="button">%s</button><p class="told" role="status"></p>`,
			html.EscapeString(cmp.Or(own.Heading, words[phrase.Send])),
		), " sends"
	}
	if p.Field == nil || p.Field.Kind == form.Hidden {
		return "", ""
	}
	f := *p.Field
	label := html.EscapeString(cmp.Or(own.Heading, p.ID))
	if !f.Required {
		label += fmt.Sprintf(` <span class="optional">(%s)</span>`, html.EscapeString(words[phrase.Optional]))
	}
	hint := ""
	attributes := fmt.Sprintf(` id="f-%s" name="%[1]s" aria-describedby="h-%[1]s w-%[1]s"`, p.ID)
	if f.Required {
		attributes += " required"
	}
	if text := markup.Sanitise(own.Text); text != "" && f.Kind != form.Agreement {
		hint = fmt.Sprintf(`<div class="hint" id="h-%s">%s</div>`, p.ID, text)
	}
	wrong := fmt.Sprintf(`<p class="wrong" id="w-%s"></p>`, p.ID)
	named := fmt.Sprintf(`<label for="f-%s">%s</label>`, p.ID, label)
	switch f.Kind {
	case form.Agreement:
		text := cmp.Or(markup.Sanitise(own.Text), label)
		return fmt.Sprintf(`<input type="checkbox"%s><label for="f-%s">%s</label>%s`, attributes, p.ID, text, wrong),
			" field agreement"
	case form.Choice, form.Choices:
		if len(f.Options) > maxRadios && f.Kind == form.Choice {
			var b strings.Builder
			for i, o := range f.Options {
				fmt.Fprintf(&b, `<option value="%s">%s</option>`, o, html.EscapeString(optionLabel(own, i, o)))
			}
			return named + hint + "<select" + attributes + `><option value=""></option>` + b.String() + "</select>" + wrong,
				" field"
		}
		kind := `checkbox"`
		if f.Kind == form.Choice {
			kind = `radio"`
			if f.Required { // one tick of several is asked for by the program: browsers would ask for all
				kind += " required"
			}
		}
		var b strings.Builder
		for i, o := range f.Options {
			fmt.Fprintf(&b, `<label class="option"><input name="%s" value="%s" type="%s> %s</label>`,
				p.ID, o, kind, html.EscapeString(optionLabel(own, i, o)))
		}
		return fmt.Sprintf(`<fieldset aria-describedby="h-%s w-%[1]s"><legend>%s</legend>%s%s</fieldset>%s`,
			p.ID, label, hint, b.String(), wrong), " field"
	case form.Long:
		return fmt.Sprintf(
			`%s%s<textarea rows="3" maxlength="%d" autocomplete="%s"%s></textarea>%s`, named, hint, f.Length(), f.AutoFill(),
			attributes, wrong,
		), " field"
	}
	return named + hint + "<input" + attributes + input(f) + ">" + wrong, " field"
}

// optionLabel is what an option is called.
func optionLabel(own bundle.PartWords, i int, option string) string {
	if i < len(own.Answers) && own.Answers[i] != "" {
		return own.Answers[i]
	}
	return option
}

// input is what a field of one line has for its kind, so that browsers offer the right
// keyboard and fill it in (HTML Standard, autofill).
func input(f form.Field) string {
	out := fmt.Sprintf(` autocomplete="%s"`, f.AutoFill())
	switch f.Kind {
	case form.Email:
		return out + fmt.Sprintf(` type="email" maxlength="%d"`, f.Length())
	case form.Telephone:
		return out + fmt.Sprintf(` type="tel" maxlength="%d"`, f.Length())
	case form.Number:
		out += ` type="number" step="any"`
		if f.Min != nil {
			out += fmt.Sprintf(` min="%v"`, *f.Min)
		}
		if f.Max != nil {
			out += fmt.Sprintf(` max="%v"`, *f.Max)
		}
		return out
	case form.Date:
		out += ` type="date"`
		if f.Earliest != "" {
			out += fmt.Sprintf(` min="%s"`, html.EscapeString(f.Earliest))
		}
		if f.Latest != "" {
			out += fmt.Sprintf(` max="%s"`, html.EscapeString(f.Latest))
		}
		return out
	}
	return out + fmt.Sprintf(` type="text" maxlength="%d"`, f.Length())
}
