package render

import (
	"fmt"
	"net/url"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/colour"
	"mastflag/core/icon"
)

// An Exit is how a notice goes, other than by its buttons.
type Exit struct {
	// A press outside closes it.
	Outside bool `json:"outside,omitempty"`
	// It closes by itself after so long without anything done with it, ms; not if 0.
	After int64 `json:"after,omitempty"`
	// How it moves as it goes.
	Motion bundle.Motion `json:"motion,omitempty"`
}

// A Tab is how titles are shown in turn while the visitor is in another tab: each paragraph of
// the notice's message is one. Times are ms.
type Tab struct {
	First int64 `json:"first"`
	Gap   int64 `json:"gap"`
	// Address of an icon in place of the page's own.
	Icon string `json:"icon,omitempty"`
}

// addScriptParts notes what few notices have, and the parts of the script that are loaded for it.
func addScriptParts(n bundle.Notice, out *Bar, zone *time.Location) {
	look := n.GetLook()
	if o := (Exit{n.ClosesOutside(), n.ClosesAfter().Milliseconds(), look.MotionOut}); o != (Exit{}) {
		out.Out = &o
	}
	if n.GetSlot().Row().Over {
		out.Behind = look.Behind
	}
	out.Sound = n.Sound()
	if out.Sound != "" {
		out.Uses = append(out.Uses, "sound")
	}
	if hasVideo(n) {
		out.Uses = append(out.Uses, "video")
	}
	if strings.Contains(out.HTML, " data-hours=") && zone != nil {
		out.Uses, out.Zone = append(out.Uses, "hours"), zone.String()
	}
	if n.HasForm() {
		out.Uses = append(out.Uses, "form")
	}
	if n.Tab() != nil {
		out.Uses = append(out.Uses, "tab")
	}
}

// tabOf returns how a notice shows titles in the tab, nil if it shows none there.
func tabOf(n bundle.Notice, images string) *Tab {
	t := n.Tab()
	if t == nil {
		return nil
	}
	first, gap := t.Delays()
	out := &Tab{First: first.Milliseconds(), Gap: gap.Milliseconds()}
	if i := t.Icon; i != nil {
		out.Icon = images + i.File
		if i.Name != "" {
			q := url.Values{"field": {strings.TrimPrefix(i.Field, "#")}}
			if i.Number > 0 {
				q.Set("number", fmt.Sprint(i.Number))
			}
			out.Icon = strings.TrimSuffix(images, "/") + "/icon/" + url.PathEscape(i.Name) + ".svg?" + q.Encode()
		}
	}
	return out
}

// TabIcon draws an icon of the set on a field, six hex digits without their sign, with a number
// on it if that is not 0, for the tab of a browser; "" if there is none of that name.
func TabIcon(name, field string, number int) string {
	body, ok := icon.Get(name)
	if !ok {
		return ""
	}
	field = "#" + field
	text, err := colour.On(field)
	if err != nil {
		field, text = DefaultBackground, DefaultText
	}
	inner := body.SVG[strings.IndexByte(body.SVG, '>')+1:]
	var b strings.Builder
	fmt.Fprintf(
		&b,
		`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24"><rect width="24" height="24" rx="5" fill="%s"/>`+
			`<g color="%s" fill="none" transform="translate(3 3) scale(.75)">%s</g>`,
		field,
		text,
		strings.TrimSuffix(inner, "</svg>"),
	)
	if number > 0 {
		fmt.Fprintf(
			&b,
			`<circle cx="17" cy="17" r="7" fill="#b3261e"/><text x="17" y="20.5" font-size="10" font-weight="700" `+
				`font-family="system-ui,sans-serif" text-anchor="middle" fill="#fff">%d</text>`,
			min(number, 99),
		)
	}
	b.WriteString("</svg>")
	return b.String()
}
