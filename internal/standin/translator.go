// Package standin holds small stand-ins for services outside, so that the
// program works and is tested without a network.
package standin

import (
	"fmt"
	"strings"
	"time"

	"golang.org/x/net/html"

	"mastflag/core/bundle"
	"mastflag/core/markup"
	"mastflag/core/phrase"
	"mastflag/core/starting"
)

// Translate drafts a wording in another language, as a machine would: what it
// knows it says, the rest it leaves in square brackets with the language's tag.
// It knows the texts of the starting points and a few words beside.
func Translate(w bundle.Wording, from, to string) bundle.Wording {
	out := bundle.Wording{
		Message:        message(w.Message, from, to),
		Details:        message(w.Details, from, to),
		ExpiredMessage: message(w.ExpiredMessage, from, to),
		Alt:            words(w.Alt, to),
		Headline:       words(w.Headline, to),
	}
	if w.Second != nil {
		out.Second = &bundle.Link{Label: words(w.Second.Label, to)}
	}
	if w.Link != nil {
		out.Link = &bundle.Link{Label: words(w.Link.Label, to)}
	}
	for k, said := range w.Words {
		if out.Words == nil {
			out.Words = phrase.Own{}
		}
		out.Words[k] = words(said, to)
	}
	for id, p := range w.Parts {
		said := bundle.PartWords{
			Heading: words(p.Heading, to),
			Text:    message(p.Text, from, to),
			Alt:     words(p.Alt, to),
			Thanks:  words(p.Thanks, to),
		}
		for _, a := range p.Answers {
			said.Answers = append(said.Answers, words(a, to))
		}
		for _, l := range p.Links {
			said.Links = append(said.Links, bundle.Link{Label: words(l.Label, to)})
		}
		if out.Parts == nil {
			out.Parts = map[string]bundle.PartWords{}
		}
		out.Parts[id] = said
	}
	return out
}

// message translates the words of HTML and keeps its tags.
func message(s, from, to string) string {
	if s == "" {
		return ""
	}
	site := bundle.Site{Language: from, Languages: []string{to}, TimeZone: "UTC"}
	for _, p := range starting.Ready(site, time.Unix(0, 0)) {
		if known := p.Notice.Wordings(); known[from].Message == s && known[to].Message != "" {
			return known[to].Message
		}
	}
	var b strings.Builder
	for z := html.NewTokenizer(strings.NewReader(s)); ; {
		switch z.Next() {
		case html.ErrorToken:
			return markup.Sanitise(b.String())
		case html.TextToken:
			b.WriteString(html.EscapeString(words(z.Token().Data, to)))
		default:
			b.Write(z.Raw())
		}
	}
}

// phrases are what it knows of single words, from English.
var phrases = map[string]map[string]string{
	"de": {
		"more":           "Mehr",
		"see the times":  "Zu den Zeiten",
		"book now":       "Jetzt buchen",
		"service status": "Zur Betriebslage",
		"see the tours":  "Zu den Fahrten",
		"programme":      "Programm",
	},
	"pl": {
		"more":           "Więcej",
		"see the times":  "Zobacz godziny",
		"book now":       "Zarezerwuj",
		"service status": "Stan połączeń",
		"see the tours":  "Zobacz rejsy",
		"programme":      "Program",
	},
}

func words(s, to string) string {
	said := strings.TrimSpace(s)
	if said == "" {
		return s
	}
	base, _, _ := strings.Cut(to, "-")
	if known, ok := phrases[base][strings.ToLower(said)]; ok {
		return strings.Replace(s, said, known, 1)
	}
	return strings.Replace(s, said, fmt.Sprintf("[%s: %s]", to, said), 1)
}
