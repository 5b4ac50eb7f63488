package document

import (
	"embed"
	"fmt"
	"html"
	"regexp"
	"strings"
	"time"

	"mastflag/core/lookup"
	"mastflag/core/phrase"
)

//go:embed words.*.txt
var wordFiles embed.FS

// words are the phrases in each language that is ready, by key.
var words = func() map[string]map[string]string {
	out := map[string]map[string]string{}
	for _, tag := range Ready {
		text, err := wordFiles.ReadFile("words." + tag + ".txt")
		if err != nil {
			panic(err) // it is built in
		}
		out[tag] = phrase.ReadTable(string(text))
	}
	return out
}()

// Ready are the languages in which computed sections have words.
var Ready = []string{"en", "de", "pl"}

// ReadyIn returns the language whose words a language gets, "" if none is ready.
func ReadyIn(tag string) string {
	for ; tag != ""; tag = lookup.Parent(tag) {
		if _, ok := words[strings.ToLower(tag)]; ok {
			return strings.ToLower(tag)
		}
	}
	return ""
}

// Source returns the language that sections are computed in for another one:
// itself where its words are ready, else the site's, else English.
func Source(tag, site string) string {
	if ReadyIn(tag) != "" {
		return tag
	}
	if ReadyIn(site) != "" {
		return site
	}
	return "en"
}

func phrases(tag, site string) map[string]string { return words[ReadyIn(Source(tag, site))] }

var (
	voices = regexp.MustCompile(`\[([^|\]]*)\|([^\]]*)\]`)
	blanks = regexp.MustCompile(`\{([a-zA-Z]+)\}`)
)

// say fills in a phrase: the voice of one or of several, and values, which are
// text and not HTML. It panics if a value is missing: phrases and what fills
// them are both ours.
func say(phrase string, one bool, values map[string]string) string {
	phrase = voices.ReplaceAllStringFunc(phrase, func(m string) string {
		parts := voices.FindStringSubmatch(m)
		if one {
			return parts[1]
		}
		return parts[2]
	})
	return blanks.ReplaceAllStringFunc(phrase, func(m string) string {
		v, ok := values[m[1:len(m)-1]]
		if !ok {
			panic(fmt.Sprintf("document: %q has no value for %s", phrase, m))
		}
		return strings.ReplaceAll(html.EscapeString(v), "\n", ", ")
	})
}

// PageWord returns what the page of a document says in a language: the phrase of
// "page." and a key, with values filled in; not HTML.
func PageWord(tag, key string, values map[string]string) string {
	return html.UnescapeString(say(phrases(tag, "en")["page."+key], false, values))
}

// SayDay says a day as a language writes it.
func SayDay(tag string, t time.Time) string {
	return (&writer{tag: Source(tag, "en")}).day(t.Format(time.DateOnly))
}
