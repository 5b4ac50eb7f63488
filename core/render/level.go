package render

import (
	"cmp"

	"mastflag/core/bundle"
)

// A levelLook is how an alert of a level looks where nothing else is chosen.
// The level is told by a word and by the shape of its sign, never by colour
// alone (WCAG 2.2 §1.4.1).
type levelLook struct {
	background, text, icon string
	words                  map[string]string // by language
}

var levelLooks = map[bundle.Level]levelLook{
	bundle.Emergency: {
		"#8f1410", "#ffffff", "urgent",
		map[string]string{"en": "Emergency", "de": "Notfall", "pl": "Zagrożenie", "ar": "طوارئ", "fr": "Urgence"},
	},
	bundle.Warning: {
		"#f6c84c", "#16202e", "alert-triangle",
		map[string]string{"en": "Warning", "de": "Warnung", "pl": "Ostrzeżenie", "ar": "تحذير", "fr": "Avertissement"},
	},
	bundle.Information: {
		"#d9e8ee", "#16202e", "info-circle",
		map[string]string{"en": "Information", "de": "Hinweis", "pl": "Informacja", "ar": "معلومة", "fr": "Information"},
	},
	bundle.Promotion: {
		"#e3ecd9", "#16202e", "speakerphone",
		map[string]string{"en": "Offer", "de": "Angebot", "pl": "Oferta", "ar": "عرض", "fr": "Offre"},
	},
}

// alertLook returns the look of a notice's level; ok is false if it is no alert.
func alertLook(n bundle.Notice) (l levelLook, ok bool) {
	if n.Kind != bundle.KindAlert {
		return levelLook{}, false
	}
	return levelLooks[n.GetLevel()], true
}

// iconOf returns the name of a notice's icon, "" if it has none.
func iconOf(n bundle.Notice) string {
	l, _ := alertLook(n)
	return cmp.Or(n.GetLook().Icon, l.icon)
}

// levelWord returns the word for an alert's level, "" if the notice is no alert.
func levelWord(n bundle.Notice, tag string) string {
	l, _ := alertLook(n)
	return cmp.Or(l.words[baseOf(tag)], l.words["en"])
}
