package render

import (
	"cmp"
	"crypto/sha256"
	_ "embed"
	"encoding/hex"
	"regexp"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/countdown"
	"mastflag/core/phrase"
	"mastflag/core/schedule"
)

//go:embed consent.html
var consentHTML string

//go:embed consent.css
var consentCSS string

var squeeze = strings.NewReplacer("\n", "")

var asking = parsed("consent", consentHTML)

// breakable finds the parts of a name after which a line may end.
var breakable = regexp.MustCompile(`[^-_.*]*[-_.*]+|[^-_.*]+`)

// An Asking is a consent notice ready to be placed, as one place's rule wants it.
type Asking struct {
	Bar
	// A fingerprint of exactly what is shown: SHA-256 of its words, its
	// inventory and its style, in hex.
	Hash string `json:"hash"`
}

// Consent renders the wording of a consent notice in the language tag, for
// places of one rule. images is as for Notice.
func Consent(n bundle.Notice, site bundle.Site, tag string, place consent.PlaceRule, images string) (Asking, error) {
	type cell struct{ Of, Says string }
	type item struct {
		Name  []string // in parts between which it may be broken
		Cells []cell
	}
	type purpose struct {
		consent.PurposeWords
		ID             string
		Always, Ticked bool
		Items          []item
	}
	setup, q := site.Setup(), n.Question()
	own, said := n.Wordings()[tag].Phrases(tag), n.Wordings()[tag].OwnPhrases()
	var purposes []purpose
	for _, p := range append([]consent.Purpose{{ID: consent.Necessary}}, setup.Purposes...) {
		always := p.ID == consent.Necessary
		out := purpose{PurposeWords: p.In(tag, site.Language, said), ID: p.ID, Always: always,
			Ticked: always || place.Rule != consent.OptIn} // as it goes ahead there
		for _, i := range setup.ItemsFor(p.ID) {
			out.Items = append(out.Items, item{breakable.FindAllString(i.Name, -1), []cell{
				{own[phrase.By], cmp.Or(i.By, site.Name)},
				{own[phrase.For], i.In(tag, site.Language)},
				{own[phrase.Lasts], lasting(i, tag, own)},
			}})
		}
		purposes = append(purposes, out)
	}
	var b strings.Builder
	err := execute(asking, &b, n, tag, images, map[string]any{
		"Rule":     string(place.Rule),
		"Beside":   q.GetRefusePlacement() == "beside",
		"Shown":    q.GetPurposeList() == "shown",
		"Object":   cmp.Or(place.Words, own[phrase.Object]),
		"Heads":    []string{own[phrase.Name], own[phrase.By], own[phrase.For], own[phrase.Lasts]},
		"Purposes": purposes,
	})
	if err != nil {
		return Asking{}, err
	}
	out := Asking{Bar: Bar{
		ID:       n.ID,
		Slot:     n.GetSlot(),
		Position: n.GetPosition(),
		HTML:     strings.TrimSpace(b.String()),
		CSS:      squeeze.Replace(consentCSS) + style(n),
	}}
	sum := sha256.Sum256([]byte(out.HTML + "\x00" + out.CSS))
	out.Hash = hex.EncodeToString(sum[:])
	return out, nil
}

// lasting says how long an item is kept, "" where that is not known.
func lasting(i consent.Item, tag string, own phrase.Words) string {
	switch i.Lasts {
	case "", "session", "ever":
		return map[string]string{"session": own[phrase.Session], "ever": own[phrase.Ever]}[i.Lasts]
	}
	s, err := schedule.ParseSpan(i.Lasts)
	if err != nil {
		return i.Lasts
	}
	return countdown.Lasting(tag, s)
}
