package bundle

import (
	"cmp"
	"html"
	"maps"
	"net/url"

	"mastflag/core/phrase"
)

// withPlaceholders returns a notice whose frames of other hosts have words that stand in their place
// until their purpose is agreed to: those of each wording, or else what the program or the site
// says, with the purpose by its name in that language.
func (s Site) withPlaceholders(n Notice) Notice {
	var frames []Part
	for _, p := range n.Parts() {
		if p.Video != nil && p.Video.Frame != "" && p.Video.Purpose != "" {
			frames = append(frames, p)
		}
	}
	if len(frames) == 0 {
		return n
	}
	content := *n.Content
	content.Wordings = maps.Clone(content.Wordings)
	for tag, w := range content.Wordings {
		parts := map[string]PartWords{}
		maps.Copy(parts, w.Parts)
		for _, p := range frames {
			words := parts[p.ID]
			if words.Text == "" {
				words.Text = s.placeholder(*p.Video, w, tag)
			}
			parts[p.ID] = words
		}
		w.Parts = parts
		content.Wordings[tag] = w
	}
	n.Content = &content
	return n
}

func (s Site) placeholder(v Video, w Wording, tag string) string {
	host, name := "…", v.Purpose
	if u, err := url.Parse(v.Frame); err == nil {
		host = cmp.Or(u.Hostname(), host)
	}
	for _, p := range s.Setup().Purposes {
		if p.ID == v.Purpose {
			name = p.In(tag, s.Language, w.OwnPhrases()).Name
		}
	}
	said := phrase.Fill(w.Phrases(tag)[phrase.Missing], map[string]string{"host": host, "purposes": name})
	return "<p>" + html.EscapeString(said) + "</p>"
}
