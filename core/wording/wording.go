// Package wording chooses which language's text of a notice a page gets.
package wording

import (
	"cmp"
	"maps"
	"slices"

	"mastflag/core/bundle"
	"mastflag/core/closed"
	"mastflag/core/lookup"
	"mastflag/core/markup"
	"mastflag/core/phrase"
)

// Choose returns the tag of the wording for a page in the given language, by
// RFC 4647 §3.4 lookup: the tag itself, then ever shorter, then the site's
// language. Where that is missing too, the first tag in alphabetical order;
// "" if there is no wording that says something.
func Choose(w map[string]bundle.Wording, page, site string) string {
	var have []string
	for tag, text := range w {
		if text.Says() {
			have = append(have, tag)
		}
	}
	return lookup.Choose(have, page, site)
}

// A Status is how a wording stands beside the one in the site's language.
type Status string

const (
	Current Status = "current"
	Missing Status = "missing" // says nothing
	Unread  Status = "unread"  // a machine drafted it and nobody has read it
	Old     Status = "old"     // the text it was translated from has changed since
)

func (Status) Values() []string { return closed.Strings(Current, Missing, Unread, Old) }

// StateOf returns how the wording in the language tag stands.
func StateOf(w map[string]bundle.Wording, tag, site string) Status {
	switch mine := w[tag]; {
	case !mine.HasWords():
		return Missing
	case mine.Unread:
		return Unread
	case tag != site && mine.SourceMark != "" && w[site].HasWords() && mine.SourceMark != w[site].Mark():
		return Old
	}
	return Current
}

// Marked returns the wordings with a note in each changed translation of what
// it was translated from: what is said in the site's language now. A wording
// that did not change keeps its note; one without a note gets one.
func Marked(before, after map[string]bundle.Wording, site string) map[string]bundle.Wording {
	out := maps.Clone(after)
	for tag, w := range out {
		switch {
		case tag == site:
			w.SourceMark = ""
		case w.SourceMark == "" || w.Mark() != before[tag].Mark():
			w.SourceMark = after[site].Mark()
		}
		out[tag] = w
	}
	return out
}

// Translated returns the wording in the language tag with a translator's texts
// in it, made from the wording from: it leads where it did, or where the one in
// the site's language does.
func Translated(w map[string]bundle.Wording, site, tag string, to, from bundle.Wording) bundle.Wording {
	out := w[tag]
	out.Message, out.Alt, out.Unread, out.SourceMark = markup.Sanitise(to.Message), to.Alt, false, from.Mark()
	if to.ExpiredMessage != "" {
		out.ExpiredMessage = markup.Sanitise(to.ExpiredMessage)
	}
	if to.Details != "" {
		out.Details = markup.SanitiseDetails(to.Details)
	}
	out.Headline = cmp.Or(to.Headline, out.Headline)
	out.Confirm, out.Decline = cmp.Or(to.Confirm, out.Confirm), cmp.Or(to.Decline, out.Decline)
	if len(to.Words) > 0 {
		if out.Words = maps.Clone(out.Words); out.Words == nil {
			out.Words = phrase.Own{}
		}
		maps.Copy(out.Words, to.Words)
	}
	out.Parts = translatedParts(out.Parts, w[site].Parts, to.Parts)
	if out.Details == "" {
		out.Link = translatedLink(out.Link, w[site].Link, to.Link)
	} else {
		out.Link = translatedLink(out.Link, nil, to.Link)
	}
	if out.Link != nil {
		out.Second = translatedLink(out.Second, w[site].Second, to.Second)
	}
	return out
}

// translatedLink returns a link with a translator's words: it leads where it did, or where
// that of the site's language does.
func translatedLink(mine, site, to *bundle.Link) *bundle.Link {
	link := cmp.Or(mine, site)
	if link == nil {
		return nil
	}
	own := *link
	if to != nil {
		own.Label = to.Label
	}
	return &own
}

// translatedParts returns the words of a block's parts with a translator's in them:
// each link leads where it did, or where that of the site's language does.
func translatedParts(mine, site, to map[string]bundle.PartWords) map[string]bundle.PartWords {
	out := maps.Clone(mine)
	for id, said := range to {
		have := out[id]
		have.Heading, have.Alt, have.Thanks = cmp.Or(
			said.Heading,
			have.Heading,
		), cmp.Or(
			said.Alt,
			have.Alt,
		), cmp.Or(
			said.Thanks,
			have.Thanks,
		)
		if said.Text != "" {
			have.Text = markup.Sanitise(said.Text)
		}
		if said.Answers != nil {
			have.Answers = said.Answers
		}
		have.Links = slices.Clone(have.Links)
		for i, l := range said.Links {
			if i >= len(have.Links) {
				if i >= len(site[id].Links) {
					break // a link of a part that has changed since
				}
				have.Links = append(have.Links, site[id].Links[i])
			}
			have.Links[i].Label = cmp.Or(l.Label, have.Links[i].Label)
		}
		if out == nil {
			out = map[string]bundle.PartWords{}
		}
		out[id] = have
	}
	return out
}
