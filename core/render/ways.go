package render

import (
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/phrase"
)

// folded returns what stands on the tab of a notice that was folded away, and what is read
// out of it; nil where it cannot be.
func folded(n bundle.Notice, tag string) []string {
	if !n.Foldable() {
		return nil
	}
	words := firstWords(plainText(leadingText(n, tag)), 32)
	return []string{words, n.Wordings()[tag].Phrases(tag)[phrase.Unfold] + ": " + words}
}

// waysStyle is the style of a longer message, and of what closes and folds, of those notices
// that have them.
func waysStyle(n bundle.Notice, edge bool) string {
	var b strings.Builder
	longer := false
	for _, w := range n.Wordings() {
		longer = longer || w.Details != ""
	}
	if longer {
		b.WriteString(
			".longer img{display:block;max-width:100%;height:auto;margin:8px 0}.longer h2,.longer h3{margin:12px 0 " +
				"4px;font-size:1.15em;line-height:1.25}",
		)
		if n.Content.DetailsAs == bundle.Dialog {
			b.WriteString("dialog.longer{box-sizing:border-box;width:min(640px,calc(100vw - 32px));max-height:calc(100vh - " +
				"32px);overflow:auto;padding:24px;border:0;border-radius:var(--corner,3px);background:var(--field);" +
				"color:var(--text);font:inherit;text-align:start}dialog.longer>.button{margin-top:16px}" +
				"dialog.longer::backdrop{background:#0009}dialog.longer p{margin-bottom:8px}" +
				"dialog.longer>div>:first-child{margin-top:0}")
		} else {
			b.WriteString(".longer{flex:1 0 100%;order:3;max-width:72ch;margin:0 " +
				"auto;padding-bottom:8px}.longer[hidden]{display:none}")
		}
		if n.Content.DetailsBy == bundle.ByPress {
			b.WriteString(".bar{cursor:pointer}.longer{cursor:auto}")
		}
	}
	if n.Foldable() { // two small buttons stand beside the words
		beside := ".bar.bar>.words,.bar.bar>.with{flex-basis:calc(100% - 112px)}"
		if edge {
			beside = "@media(max-width:639px){" + beside + "}"
		}
		b.WriteString(beside)
	}
	if n.Foldable() && edge {
		b.WriteString("@media(min-width:640px){.bar:has(.fold){padding-inline:56px}.close~.fold{inset-inline-end:48px}" +
			".bar:has(.close~.fold){padding-inline:92px}}")
	}
	return b.String()
}
