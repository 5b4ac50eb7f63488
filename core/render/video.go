package render

import (
	"cmp"
	_ "embed"
	"encoding/json"
	"fmt"
	"html"
	"slices"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/captions"
	"mastflag/core/markup"
	"mastflag/core/phrase"
)

// videoCSS is the style of videos, a rule each line as in rowsCSS.
//
//go:embed video.css
var videoCSS string

// hasVideo reports whether a notice has a video.
func hasVideo(n bundle.Notice) bool {
	return slices.ContainsFunc(n.Parts(), func(p bundle.Part) bool { return p.Kind == bundle.PartVideo })
}

// A film is what the part of the site script that plays videos reads of one.
type film struct {
	File  string `json:"file,omitempty"`
	Frame string `json:"frame,omitempty"`
	// The purpose that has to be agreed to before a frame is loaded.
	Purpose string `json:"purpose,omitempty"`
	BySelf  bool   `json:"bySelf,omitempty"`
	Title   string `json:"title,omitempty"`
	// Language of the captions, and each with its moments in seconds.
	Language string `json:"language,omitempty"`
	Cues     []cue  `json:"cues,omitempty"`
}

type cue struct {
	From  float64 `json:"from"`
	Until float64 `json:"until"`
	Text  string  `json:"text"`
}

// video writes a video before it plays: its still behind a button. What stands in place of a
// frame until its purpose is agreed to is beside it, hidden.
func video(v bundle.Video, w bundle.PartWords, words phrase.Words, tag, images string) (inner, class string) {
	if v.File == "" && v.Frame == "" {
		return "", ""
	}
	f := film{File: v.File, Frame: v.Frame, BySelf: v.BySelf, Title: w.Heading}
	if v.Frame != "" {
		f.Purpose = v.Purpose
	}
	if cues, err := captions.Parse(w.Captions); err == nil {
		f.Language = tag
		for _, c := range cues {
			f.Cues = append(f.Cues, cue{c.From.Seconds(), c.Until.Seconds(), c.Text})
		}
	}
	raw, err := json.Marshal(f)
	if err != nil {
		return "", ""
	}
	var b strings.Builder
	still := ""
	if v.Still != nil {
		still = fmt.Sprintf(`<img src="%s" width="%d" height="%d" alt="">`,
			html.EscapeString(v.Still.Source(images)), v.Still.Width, v.Still.Height)
	}
	fmt.Fprintf(
		&b,
		`<button type="button" class="play" data-film="%s" aria-label="%s">%s`+
			`<svg viewBox="0 0 24 24" width="64" height="64" `+
			`aria-hidden="true"><circle cx="12" cy="12" r="11" fill="#16202e" stroke="#fff"/><path d="M10 8l6 4-6 4z" `+
			`fill="#fff"/></svg></button>`,
		html.EscapeString(string(raw)),
		html.EscapeString("▶ "+w.Heading),
		still,
	)
	if f.Purpose != "" {
		fmt.Fprintf(
			&b,
			`<div class="held" hidden>%s<button type="button" class="button" data-mastflag-consent>%s</button></div>`,
			markup.Sanitise(w.Text),
			html.EscapeString(words[phrase.Choose]),
		)
	}
	return b.String(), " video " + cmp.Or(v.Form, "wide")
}
