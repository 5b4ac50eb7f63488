package render

import (
	"cmp"
	"crypto/sha256"
	_ "embed"
	"encoding/hex"
	"fmt"
	"html/template"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/markup"
)

//go:embed disclaimer.html
var disclaimerHTML string

//go:embed disclaimer.css
var disclaimerCSS string

var disclaiming = template.Must(template.New("disclaimer").Parse(disclaimerHTML))

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

// disclaimerOwn are the words on its buttons: what acknowledges; what says yes and
// no; what leads elsewhere without acknowledging; and what opens the document's
// text, of which the two values are title and version.
type disclaimerOwn struct{ acknowledge, yes, no, leave, text string }

var disclaimerWords = map[string]struct {
	own   disclaimerOwn
	after DisclaimerWords
}{
	"en": {disclaimerOwn{"I have read this", "Yes, that is so", "No", "Leave this page", "Read “%s”, version %d"},
		DisclaimerWords{
			"Your answer is kept.",
			"Download the receipt",
			"Erase my answer",
			"Your answer was erased.",
			"Close",
		}},
	"de": {
		disclaimerOwn{"Ich habe das gelesen", "Ja, das trifft zu", "Nein", "Seite verlassen", "„%s“ lesen, Fassung %d"},
		DisclaimerWords{
			"Ihre Antwort ist aufbewahrt.",
			"Beleg herunterladen",
			"Meine Antwort löschen",
			"Ihre Antwort wurde gelöscht.",
			"Schließen",
		},
	},
	"pl": {
		disclaimerOwn{
			"Zapoznałem się lub zapoznałam się z tym",
			"Tak, to prawda",
			"Nie",
			"Opuść tę stronę",
			"Przeczytaj „%s”, wersja %d",
		},
		DisclaimerWords{
			"Odpowiedź została zapisana.",
			"Pobierz potwierdzenie",
			"Usuń moją odpowiedź",
			"Odpowiedź została usunięta.",
			"Zamknij",
		},
	},
	"ar": {disclaimerOwn{"قرأت هذا", "نعم، هذا صحيح", "لا", "مغادرة الصفحة", "قراءة «%s»، الإصدار %d"},
		DisclaimerWords{"حُفظت إجابتك.", "تنزيل الإيصال", "محو إجابتي", "مُحيت إجابتك.", "إغلاق"}},
	"fr": {disclaimerOwn{"J’ai lu ceci", "Oui, c’est le cas", "Non", "Quitter cette page", "Lire « %s », version %d"},
		DisclaimerWords{
			"Votre réponse est conservée.",
			"Télécharger le reçu",
			"Effacer ma réponse",
			"Votre réponse a été effacée.",
			"Fermer",
		}},
}

// DisclaimerWordsIn returns them in a language, English where there are none.
func DisclaimerWordsIn(tag string) DisclaimerWords {
	if w, ok := disclaimerWords[baseOf(tag)]; ok {
		return w.after
	}
	return disclaimerWords["en"].after
}

// Disclaimer renders the wording of a disclaimer that has to be answered in the
// language tag, with the text of the document's version that is out. images is as
// for Notice; base is the program's own address.
func Disclaimer(n bundle.Notice, site bundle.Site, tag, images, base string) (Disclaiming, error) {
	d, _ := n.Disclaimer()
	words, ok := disclaimerWords[baseOf(tag)]
	if !ok {
		words = disclaimerWords["en"]
	}
	own := n.OwnMark(site.Language) // of the text as it was written, with links by name
	n = site.Linked(n, base)
	w := n.Wordings()[tag]
	out := Disclaiming{Disclaims: Disclaims{Ask: string(d.GetAsk()), As: n.AcknowledgementKey(), Else: d.OnDecline}}
	if id := document.Named(d.OnDecline); id != "" {
		out.Disclaims.Else = site.DocumentAddress(id, tag, base)
	}
	values := map[string]any{"Declares": d.GetAsk() == bundle.AskDeclare, "Else": out.Disclaims.Else, "Link": w.Link,
		"Confirm": cmp.Or(
			w.Confirm,
			words.own.acknowledge,
		), "Decline": cmp.Or(w.Decline, words.own.leave), "Own": map[string]string{}}
	if d.GetAsk() == bundle.AskDeclare {
		values["Confirm"], values["Decline"] = cmp.Or(w.Confirm, words.own.yes), cmp.Or(w.Decline, words.own.no)
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
		values["Own"] = map[string]string{"Text": fmt.Sprintf(words.own.text, text.Title, doc.Version)}
	}
	var b strings.Builder
	if err := execute(disclaiming, &b, n, tag, images, values); err != nil {
		return Disclaiming{}, err
	}
	out.Bar = Bar{
		ID:       n.ID,
		Slot:     n.GetSlot(),
		Position: n.GetPosition(),
		Spots:    spots(n),
		HTML:     strings.TrimSpace(b.String()),
		CSS:      squeeze.Replace(disclaimerCSS) + documentStyle + style(n),
	}
	sum := sha256.Sum256([]byte(out.HTML + "\x00" + out.CSS))
	out.Disclaims.Hash = hex.EncodeToString(sum[:])
	return out, nil
}
