package bundle

import (
	"fmt"
	"html"
	"maps"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"mastflag/core/fault"
	"mastflag/core/lookup"
	"mastflag/core/markup"
	"mastflag/core/phrase"
)

// FillIns are what a site says of itself in one place, for texts that leave a place for it:
// {name}, {telephone}, {email}, {address} and {hours}.
type FillIns struct {
	// What visitors know it by; the site's name if absent.
	Name      string `json:"name,omitempty" jsonschema:"maxLength=200"`
	Telephone string `json:"telephone,omitempty" jsonschema:"maxLength=40"`
	Email     string `json:"email,omitempty" jsonschema:"maxLength=320"`
	Address   string `json:"address,omitempty" jsonschema:"maxLength=500"`
	// When it is open, in words, by BCP 47 tag.
	Hours map[string]string `json:"hours,omitempty"`
}

// FillInKeys are the fill-ins that a text may leave a place for.
var FillInKeys = []string{"name", "telephone", "email", "address", "hours"}

// fillIn finds what may be a place for a fill-in.
var fillIn = regexp.MustCompile(`\{([a-z][a-z-]{1,29})\}`)

// FillIn returns what a site says for a fill-in in a language, "" if it says nothing.
func (s Site) FillIn(key, tag string) string {
	var f FillIns
	if s.FillIns != nil {
		f = *s.FillIns
	}
	switch key {
	case "name":
		return or(f.Name, s.Name)
	case "telephone":
		return f.Telephone
	case "email":
		return f.Email
	case "address":
		return f.Address
	case "hours":
		return f.Hours[lookup.Choose(slices.Collect(maps.Keys(f.Hours)), tag, s.Language)]
	}
	return ""
}

// filled returns a notice with what the site says in the places that its texts leave for it.
// In an address to call or to write to it is put as such an address has it; in any other,
// escaped.
func (s Site) filled(n Notice) Notice {
	if n.Content == nil || !slices.ContainsFunc(slices.Collect(maps.Values(n.Content.Wordings)), Wording.hasBlank) {
		return n
	}
	content := *n.Content
	content.Wordings = maps.Clone(content.Wordings)
	for tag, w := range content.Wordings {
		put := func(text string, as func(string) string) string {
			return fillIn.ReplaceAllStringFunc(text, func(blank string) string {
				key := strings.Trim(blank, "{}")
				if !slices.Contains(FillInKeys, key) {
					return blank
				}
				return as(s.FillIn(key, tag))
			})
		}
		plain := func(text string) string { return put(text, func(v string) string { return v }) }
		href := func(to string) string {
			to = put(to, func(v string) string { return inAddress(to, v) })
			if markup.HrefFault(to) != "" {
				return ""
			}
			return to
		}
		w = w.MapHTML(func(_, text string) string {
			text = markup.MapLinks(text, href)
			return put(text, func(v string) string { return strings.ReplaceAll(html.EscapeString(v), "\n", "<br>") })
		})
		w = w.MapLinks(func(_ string, l Link) (Link, bool) {
			l.Href, l.Label = href(l.Href), plain(l.Label)
			return l, l.Href != ""
		})
		w.Headline, w.Alt = plain(w.Headline), plain(w.Alt)
		for id, p := range w.Parts { // of a map that MapLinks has made anew
			p.Heading, p.Alt, p.Thanks = plain(p.Heading), plain(p.Alt), plain(p.Thanks)
			w.Parts[id] = p
		}
		content.Wordings[tag] = w
	}
	n.Content = &content
	return n
}

// inAddress is a value as an address has it: a number to call has figures alone, what is
// written to is an e-mail address as it stands; of all else everything is escaped that could
// mean something wherever it stands (RFC 3986 §2.3).
func inAddress(address, value string) string {
	scheme, _, _ := strings.Cut(strings.ToLower(strings.TrimSpace(address)), ":")
	switch {
	case scheme == "tel":
		return dialled(value)
	case scheme == "mailto" && mailbox.MatchString(value):
		return value
	}
	return strings.ReplaceAll(url.QueryEscape(value), "+", "%20")
}

// dialled is a telephone number as it is dialled: figures, and the plus before the country's own,
// without the nought that is dialled within it alone, +44 (0)1632.
func dialled(number string) string {
	if strings.HasPrefix(number, "+") {
		number = strings.Replace(number, "(0)", "", 1)
	}
	return strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' || r == '+' {
			return r
		}
		return -1
	}, number)
}

// hasBlank reports whether some text of the wording may leave a place for a fill-in.
func (w Wording) hasBlank() bool { return len(w.Blanks()) > 0 }

// Blanks returns the names in braces that the wording's texts have, sorted, each once, but
// for the place of a countdown. Not all of them are fill-ins.
func (w Wording) Blanks() (names []string) {
	w.eachText(func(text string) {
		for _, m := range fillIn.FindAllStringSubmatch(text, -1) {
			if m[1] != "countdown" {
				names = append(names, m[1])
			}
		}
	})
	slices.Sort(names)
	return slices.Compact(names)
}

// eachText calls f for each text of the wording that may leave a place for something, in no order.
func (w Wording) eachText(f func(text string)) {
	w.MapHTML(func(_, text string) string { f(text); return text })
	w.MapLinks(func(_ string, l Link) (Link, bool) { f(l.Href); f(l.Label); return l, true })
	f(w.Headline)
	f(w.Alt)
	for _, p := range w.Parts {
		f(p.Heading)
		f(p.Alt)
		f(p.Thanks)
	}
}

func (f FillIns) check() fault.Faults {
	var faults fault.Faults
	wrong := func(at, what, remedy string) {
		faults = append(faults, fault.Fault{Pointer: at, What: what, Remedy: remedy})
	}
	plain := func(at, text string) {
		if bad := phrase.PlainFault(text); bad != nil {
			wrong(at, bad.What, bad.Remedy)
		}
	}
	plain("/name", f.Name)
	plain("/address", f.Address)
	if f.Telephone != "" && !telephone.MatchString(f.Telephone) {
		wrong("/telephone", fmt.Sprintf("%q is not a telephone number", f.Telephone), "write it like +44 1632 960100")
	}
	if f.Email != "" && !mailbox.MatchString(f.Email) {
		wrong("/email", fmt.Sprintf("%q is not an e-mail address", f.Email), "write it like office@example.org")
	}
	for _, tag := range slices.Sorted(maps.Keys(f.Hours)) {
		at, text := fault.Pointer("hours", tag), f.Hours[tag]
		faults = append(faults, checkLanguage(at, tag)...)
		if n := len([]rune(text)); n > 500 {
			wrong(at, fmt.Sprintf("the text is too long, %d characters", n), "give at most 500 characters")
		}
		plain(at, text)
	}
	return faults
}
