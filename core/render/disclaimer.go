package render

import (
	"cmp"
	"crypto/sha256"
	_ "embed"
	"encoding/hex"
	"html/template"
	"strconv"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/markup"
	"mastflag/core/phrase"
)

//go:embed disclaimer.html
var disclaimerHTML string

//go:embed disclaimer.css
var disclaimerCSS string

var disclaiming = parsed("disclaimer", disclaimerHTML)

// A Disclaiming is a disclaimer that has to be answered, ready to be placed.
type Disclaiming struct {
	Bar
	Disclaims Disclaims `json:"disclaims"`
}

// Disclaims is what the site script needs to take an answer to a disclaimer, and
// to tell of it.
type Disclaims struct {
	// A fingerprint of exactly what is shown: SHA-256 of words, document and style, in hex.
	Hash string `json:"hash"`
	Ask  string `json:"ask"`
	// Under which name it is remembered, and which version, or which text of its own, it is of.
	As      string `json:"as"`
	Version int    `json:"version,omitempty"`
	Of      string `json:"of,omitempty"`
	// Where those are led who say no; "" if nowhere.
	Else string `json:"else,omitempty"`
}

// DisclaimerWords are what the program itself says to visitors once they have
// answered.
type DisclaimerWords struct {
	Done    string `json:"done"`
	Receipt string `json:"receipt"`
	Erase   string `json:"erase"`
	Erased  string `json:"erased"`
	Close   string `json:"close"`
}

// DisclaimerWordsIn returns what is said beside a wording in the language tag once it is
// answered.
func DisclaimerWordsIn(w bundle.Wording, tag string) DisclaimerWords {
	own := w.Phrases(tag)
	return DisclaimerWords{own[phrase.Done], own[phrase.Receipt], own[phrase.Erase], own[phrase.Erased], own[phrase.Shut]}
}

// Disclaimer renders the wording of a disclaimer that has to be answered in the
// language tag, with the text of the document's version that is out. images is as
// for Notice; base is the program's own address.
func Disclaimer(n bundle.Notice, site bundle.Site, tag, images, base string) (Disclaiming, error) {
	d, _ := n.Disclaimer()
	own := n.OwnMark(site.Language) // of the text as it was written, with links by name
	n = site.Prepared(n, base)
	w := n.Wordings()[tag]
	words := w.Phrases(tag)
	out := Disclaiming{Disclaims: Disclaims{Ask: string(d.GetAsk()), As: n.AcknowledgementKey(), Else: d.OnDecline}}
	if id := document.Named(d.OnDecline); id != "" {
		out.Disclaims.Else = site.DocumentAddress(id, tag, base)
	}
	values := map[string]any{
		"Declares": d.GetAsk() == bundle.AskDeclare,
		"Else":     out.Disclaims.Else,
		"Link":     w.Link,
		"Confirm":  cmp.Or(w.Confirm, words[phrase.Acknowledge]),
		"Decline":  cmp.Or(w.Decline, words[phrase.Leave]),
	}
	if d.GetAsk() == bundle.AskDeclare {
		values["Confirm"], values["Decline"] = cmp.Or(w.Confirm, words[phrase.Yes]), cmp.Or(w.Decline, words[phrase.No])
	}
	if d.Document == "" {
		out.Disclaims.Of = own
	} else if doc, ok := document.Get(site.Documents, d.Document); ok && doc.Version > 0 {
		text, in := doc.In(tag, site.Language)
		out.Disclaims.Version = doc.Version
		linked := document.Linked(
			markup.SanitiseDocument(text.Text), func(id string) string { return site.DocumentAddress(id, in, base) },
		)
		values["Text"], values["DocumentTitle"], values["DocumentLang"] = template.HTML(linked), text.Title, in
		values["Read"] = phrase.Fill(words[phrase.DocumentText], map[string]string{
			"title": text.Title, "version": strconv.Itoa(doc.Version),
		})
	}
	var b strings.Builder
	if err := execute(disclaiming, &b, n, tag, images, values); err != nil {
		return Disclaiming{}, err
	}
	out.Bar = Bar{
		ID:       n.ID,
		Slot:     n.GetSlot(),
		Position: n.GetPosition(),
		Spots:    Spots(n),
		HTML:     strings.TrimSpace(b.String()),
		CSS:      squeeze.Replace(disclaimerCSS) + documentStyle + style(n),
	}
	out.Ways = values["Text"] != nil
	sum := sha256.Sum256([]byte(out.HTML + "\x00" + out.CSS))
	out.Disclaims.Hash = hex.EncodeToString(sum[:])
	return out, nil
}
