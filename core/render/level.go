package render

import (
	"cmp"

	"mastflag/core/bundle"
	"mastflag/core/phrase"
)

// A levelLook is how an alert of a level looks where nothing else is chosen.
// The level is told by a word and by the shape of its sign, never by colour
// alone (WCAG 2.2 §1.4.1).
type levelLook struct {
	background, text, icon string
}

var levelLooks = map[bundle.Level]levelLook{
	bundle.Emergency: {
		"#8f1410", "#ffffff", "urgent",
	},
	bundle.Warning: {
		"#f6c84c", "#16202e", "alert-triangle",
	},
	bundle.Information: {
		"#d9e8ee", "#16202e", "info-circle",
	},
	bundle.Promotion: {
		"#e3ecd9", "#16202e", "speakerphone",
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
	if n.Kind != bundle.KindAlert {
		return ""
	}
	return n.Wordings()[tag].Phrases(tag)[phrase.Key(n.GetLevel())]
}
