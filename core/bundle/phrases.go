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
