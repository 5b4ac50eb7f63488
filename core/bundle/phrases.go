package bundle

import (
	"maps"
	"slices"

	"mastflag/core/fault"
	"mastflag/core/lookup"
	"mastflag/core/phrase"
)

// worded returns a notice with the site's own words beside its own.
func (s Site) worded(n Notice) Notice {
	if n.Content == nil || len(s.Words) == 0 {
		return n
	}
	content := *n.Content
	content.Wordings = maps.Clone(content.Wordings)
	for tag, w := range content.Wordings {
		w.SiteWords = s.OwnWords(tag)
		content.Wordings[tag] = w
	}
	n.Content = &content
	return n
}

// OwnWords returns what the site says in place of the program in a language, or in the one
// that it is a kind of, once it was read.
func (s Site) OwnWords(tag string) phrase.Own {
	for ; tag != ""; tag = lookup.Parent(tag) {
		if own, ok := s.Words[tag]; ok && !own.Unread {
			return own.Words
		}
	}
	return nil
}

// Phrases returns what the program says to visitors beside a wording in the language tag: in
// the notice's words, the site's or its own.
func (w Wording) Phrases(tag string) phrase.Words { return phrase.Over(tag, w.Words, w.SiteWords) }

// OwnPhrases returns those of them that are the notice's or the site's.
func (w Wording) OwnPhrases() phrase.Own {
	out := maps.Clone(w.SiteWords)
	if out == nil {
		return w.Words
	}
	maps.Copy(out, w.Words)
	return out
}

// SaidPhrases returns the phrases that the program says beside a wording of the notice.
func (n Notice) SaidPhrases(w Wording) (said []phrase.Key) {
	if n.Kind == KindCode || n.GetSlot() == TabTitle {
		return nil
	}
	d, _ := n.Disclaimer()
	for _, r := range phrase.Table {
		says := false
		switch r.Use {
		case phrase.Levels:
			says = n.Kind == KindAlert && r.Key == phrase.Key(n.GetLevel())
		case phrase.Asking:
			says = n.Kind == KindConsent
		case phrase.Buttons, phrase.Answering:
			says = d.Answered()
		case phrase.Filling:
			says = n.HasForm()
		case phrase.Confirming:
			says = n.HasForm() && n.Form().Confirm != ""
		case phrase.Everywhere:
			switch r.Key {
			case phrase.Region:
				says = true
			case phrase.Close:
				says = n.Closable()
			case phrase.Fold, phrase.Unfold:
				says = n.Foldable()
			case phrase.Shut:
				with := n.GetMemory().CloseWith
				says = n.Closable() && (with == Button || with == Both) || w.Details != "" && n.Content.DetailsAs == Dialog
			case phrase.More:
				says = w.Details != "" || w.Link != nil && w.Link.Label == ""
			}
		}
		if says {
			said = append(said, r.Key)
		}
	}
	return said
}

// Lacking returns the phrases that visitors get in English beside a wording of a notice, where
// the notice says own in the language tag: those that neither it nor the site nor the program
// says in that language.
func (s Site) Lacking(n Notice, beside Wording, own phrase.Own, tag string) (lacks []phrase.Key) {
	if phrase.Speaks(tag) {
		return nil
	}
	have := s.OwnWords(tag)
	for _, k := range n.SaidPhrases(beside) {
		if own[k] == "" && have[k] == "" {
			lacks = append(lacks, k)
		}
	}
	return lacks
}

// PhrasesToTranslate are what the program says beside a notice in the site's language, for a
// translator into another: what the notice has own words for in either, and what visitors
// would get in English.
func (s Site) PhrasesToTranslate(n Notice, tag string) phrase.Own {
	from, to := n.Wordings()[s.Language], n.Wordings()[tag]
	said, out := s.worded(n).Wordings()[s.Language].Phrases(s.Language), phrase.Own{}
	for _, k := range n.SaidPhrases(from) {
		if to.Words[k] != "" {
			out[k] = said[k]
		}
	}
	for _, k := range s.Lacking(n, from, to.Words, tag) {
		out[k] = said[k]
	}
	maps.Copy(out, from.Words)
	return out
}

// Drafted returns a wording with the program's draft in the language tag, where there is one,
// for what visitors would get in English beside it; but for what from, the text that it was
// made of, says in its own words.
func (s Site) Drafted(n Notice, w, from Wording, tag string) Wording {
	draft := phrase.Draft(tag)
	words := maps.Clone(w.Words)
	for _, k := range s.Lacking(n, w, w.Words, tag) {
		if _, own := from.Words[k]; own || draft[k] == "" {
			continue
		}
		if words == nil {
			words = phrase.Own{}
		}
		words[k] = draft[k]
	}
	w.Words = words
	return w
}

// checkWords returns what is wrong with a notice's own words in place of the program's.
func (w Wording) checkWords() fault.Faults {
	faults := w.Words.Check()
	for _, k := range slices.Sorted(maps.Keys(w.Words)) {
		f := fault.Fault{Pointer: fault.Pointer(string(k))}
		switch r, _ := phrase.RowOf(k); r.Use {
		case phrase.Purposes:
			f.What, f.Remedy = "purposes are called the same by all notices of the site", "say it with the purpose of the site"
		case phrase.Buttons:
			f.What, f.Remedy = "the buttons of a disclaimer have words of their own", "give them as confirm and decline"
		default:
			continue
		}
		faults = append(faults, f)
	}
	return faults
}
