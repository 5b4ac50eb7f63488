package viewpoint

import (
	"maps"

	"mastflag/core/bundle"
	"mastflag/core/wording"
)

// LanguageStates says how a notice's words stand in each language of a site.
func LanguageStates(n bundle.Notice, site bundle.Site) []LanguageState {
	out := []LanguageState{}
	for _, tag := range site.AllLanguages() {
		out = append(out, LanguageState{tag, wording.StateOf(n.Wordings(), tag, site.Language)})
	}
	return out
}

// WithWording returns the notice with a wording in place of another; the
// given one stays as it is.
func WithWording(n bundle.Notice, tag string, w bundle.Wording) bundle.Notice {
	content := bundle.Content{}
	if n.Content != nil {
		content = *n.Content
	}
	content.Wordings = maps.Clone(content.Wordings)
	if content.Wordings == nil {
		content.Wordings = map[string]bundle.Wording{}
	}
	content.Wordings[tag] = w
	n.Content = &content
	return n
}
