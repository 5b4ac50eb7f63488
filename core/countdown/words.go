package countdown

import (
	_ "embed"
	"encoding/json"
	"strconv"
	"strings"
	"sync"

	"mastflag/core/plural"
	"mastflag/core/schedule"
)

// units.json has what units of time are called in some fifty languages, by
// length and plural form, and how a list is joined: data of Unicode CLDR.
//
//go:embed units.json
var unitsJSON []byte

type language struct {
	Full, Short map[Unit]Forms
	And         [3]string // between two; between the first of more; before the last of more
}

var languages = sync.OnceValue(func() map[string]language {
	var all map[string]language
	if err := json.Unmarshal(unitsJSON, &all); err != nil {
		panic("countdown: units.json: " + err.Error())
	}
	return all
})

// Forms are a unit with its number, by plural form: {"one": "{0} day",
// "other": "{0} days"}. A form may do without the number, as Arabic's dual does.
type Forms map[plural.Form]string

// Words are how a countdown reads in one language.
type Words struct {
	// BCP 47, of the words: where the language asked for is not known, English.
	Tag string
	// What stands beside each figure; nil for nothing.
	Labels []Forms
	// The units with their numbers in full, for the sentence.
	Full []Forms
	And  [3]string
}

// WordsIn returns how the countdown reads in a language, with the language's
// own labels where the countdown asks for them.
func (c Countdown) WordsIn(tag string, own OwnLabels) Words {
	known := tag
	all := languages()
	lang, ok := all[known]
	for !ok && strings.Contains(known, "-") {
		known = known[:strings.LastIndexByte(known, '-')]
		lang, ok = all[known]
	}
	if !ok {
		if base := map[string]string{"no": "nb", "nn": "nb"}[known]; base != "" {
			known, lang, ok = base, all[base], true
		}
	}
	if !ok {
		known, lang = "en", all["en"]
	}
	w := Words{Tag: known, And: lang.And}
	for _, u := range c.GetUnits() {
		full, label := lang.Full[u], lang.Full[u]
		switch c.GetLabels() {
		case Short:
			label = lang.Short[u]
		case Own:
			if words, ok := own[u]; ok {
				label = Forms{}
				for form, word := range words {
					label[form] = "{0} " + word
				}
				full = label
			}
		}
		w.Full = append(w.Full, full)
		if c.GetLabels() != None {
			w.Labels = append(w.Labels, label)
		}
	}
	return w
}

func (f Forms) of(tag string, n int64) string {
	if s, ok := f[plural.Of(tag, int(n))]; ok {
		return s
	}
	return f[plural.Other]
}

// Label returns what stands beside the figure n of the i-th unit.
func (w Words) Label(i int, n int64) string {
	if w.Labels == nil {
		return ""
	}
	return strings.TrimSpace(strings.Replace(w.Labels[i].of(w.Tag, n), "{0}", "", 1))
}

// Sentence says the whole: "2 days, 4 hours, and 1 minute". Units of which
// there are none are left out.
func (w Words) Sentence(figures []int64) string {
	var parts []string
	for i, n := range figures {
		if n > 0 || len(parts) == 0 && i == len(figures)-1 {
			parts = append(parts, strings.Replace(w.Full[i].of(w.Tag, n), "{0}", strconv.FormatInt(n, 10), 1))
		}
	}
	out := parts[0]
	for i, p := range parts[1:] {
		switch {
		case len(parts) == 2:
			out += w.And[0]
		case i < len(parts)-2:
			out += w.And[1]
		default:
			out += w.And[2]
		}
		out += p
	}
	return out
}

// Lasting says how long a span is in a language: "90 days", "1 year, 2 months".
func Lasting(tag string, s schedule.Span) string {
	exact := int64(s.Exact.Seconds())
	var c Countdown
	var figures []int64
	for _, part := range []struct {
		unit Unit
		n    int64
	}{
		{"years", int64(s.Years)}, {"months", int64(s.Months)}, {"days", int64(s.Days)}, {"hours", exact / 3600},
		{"minutes", exact / 60 % 60}, {"seconds", exact % 60},
	} {
		if part.n > 0 {
			c.Units, figures = append(c.Units, part.unit), append(figures, part.n)
		}
	}
	return c.WordsIn(tag, nil).Sentence(figures)
}
