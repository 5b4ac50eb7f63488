package bundle

import (
	"maps"
	"slices"

	"mastflag/core/audience"
	"mastflag/core/personal"
)

// personalTexts returns the texts of the wording that may have places for what the site tells of
// the visitor (rule N1), by their pointers: its message, and what parts say.
func (w Wording) personalTexts() map[string]string {
	out := map[string]string{}
	w.MapHTML(func(pointer, html string) string {
		if pointer != detailsPointer && pointer != "/afterEnd" {
			out[pointer] = html
		}
		return html
	})
	return out
}

// PersonalPlaces returns the places of the wording, by the pointers of their texts.
func (w Wording) PersonalPlaces() map[string][]personal.Place {
	out := map[string][]personal.Place{}
	for pointer, text := range w.personalTexts() {
		if places := personal.Places(text); places != nil {
			out[pointer] = places
		}
	}
	return out
}

// MistakenPlaces returns what looks like such a place anywhere in the wording and is none, sorted,
// each once.
func (w Wording) MistakenPlaces() (out []string) {
	w.eachText(func(text string) { out = append(out, personal.Mistaken(text)...) })
	slices.Sort(out)
	return slices.Compact(out)
}

// EventProperties returns the properties of events that texts and pictures of published notices want,
// in all their variants, and those that are among the facts, as NAME.PROPERTY, sorted.
func (b Bundle) EventProperties(facts []string) []string {
	var texts []string
	note := func(wordings map[string]Wording) {
		for _, w := range wordings {
			texts = slices.AppendSeq(texts, maps.Values(w.personalTexts()))
		}
	}
	for _, n := range b.Notices {
		if n.GetState() != Published {
			continue
		}
		note(n.Wordings())
		for _, p := range n.Pictures() {
			if p.Table != nil {
				facts = append(facts[:len(facts):len(facts)], p.Table.By)
			}
		}
		if n.Experiment != nil {
			for _, v := range n.Experiment.Variants {
				note(v.Wordings)
			}
		}
	}
	out := personal.Events(texts)
	for _, f := range facts {
		if event, property, ok := audience.PropertyOf(f); ok {
			out = append(out, event+"."+property)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// impersonal returns a notice that has places only where they can be filled, in its message and in
// parts that are texts: everywhere else stand the words for everyone.
func (n Notice) impersonal() Notice {
	if n.Content == nil {
		return n
	}
	content := *n.Content
	content.Wordings = maps.Clone(content.Wordings)
	for tag, w := range content.Wordings {
		w = w.MapLinks(func(_ string, l Link) (Link, bool) {
			l.Label = personal.Words(l.Label)
			return l, true
		})
		w.Headline, w.Alt = personal.Words(w.Headline), personal.Words(w.Alt)
		w.Details, w.ExpiredMessage = personal.Words(w.Details), personal.Words(w.ExpiredMessage)
		for _, p := range n.Parts() {
			words, said := w.Parts[p.ID]
			if !said {
				continue
			}
			words.Heading, words.Alt, words.Thanks = personal.Words(words.Heading), personal.Words(words.Alt),
				personal.Words(words.Thanks)
			if p.Kind != PartText { // of a field, an agreement, a button, a video
				words.Text = personal.Words(words.Text)
			}
			w.Parts[p.ID] = words // of a map that MapLinks has made anew
		}
		content.Wordings[tag] = w
	}
	n.Content = &content
	return n
}
