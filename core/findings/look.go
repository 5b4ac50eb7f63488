package findings

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/colour"
	"mastflag/core/consent"
	"mastflag/core/pages"
	"mastflag/core/render"
)

// look reports colours that cannot be read on each other, a theme that is not there, and
// pictures that another host learns of.
func (c *checker) look(i int, n bundle.Notice, title string) {
	own := n.GetLook()
	if _, ok := c.b.Site.Theme(own.Theme); own.Theme != "" && !ok {
		c.add(NoTheme, Warning, i, "/look/theme",
			fmt.Sprintf("%s has the theme “%s”, and the site has none of that name.", title, own.Theme),
			"Choose another theme, or none.", remove("No theme", "/look/theme"))
	}
	seen := c.b.Site.Themed(n)
	field, ink := render.Colours(seen)
	c.pair(i, n, "The words of "+title, "", "/look/text", ink, field, colour.Minimum)
	c.details(i, n, seen, title, field, "")
	if seen.GetLook().Dark != nil {
		field, ink := render.DarkColours(seen)
		dark := " where a visitor’s system is dark"
		c.pair(i, n, "The words of "+title, dark, "/look/dark/text", ink, field, colour.Minimum)
		c.details(i, n, seen, title, field, dark)
	}
	c.picture(i, n, seen, title)
}

// details reports what has a colour of its own and cannot be read on a field. where says for
// whom that is the field.
func (c *checker) details(i int, n, seen bundle.Notice, title, field, where string) {
	look := seen.GetLook()
	text := func(what, pointer string, t *bundle.TextLook) {
		if t != nil && t.Colour != "" {
			c.pair(i, n, what+title, where, "/look"+pointer+"/colour", t.Colour, field, leastFor(*t))
		}
	}
	if slices.ContainsFunc(wordingsOf(n), func(w bundle.Wording) bool { return w.Headline != "" }) {
		text("The headline of ", "/headline", look.Headline)
	}
	if count := look.Count; count != nil && n.Countdown() != nil {
		text("The figures of ", "/count/figures", count.Figures)
		text("The words beside the figures of ", "/count/labels", count.Labels)
		text("What is said at the end of ", "/count/afterEnd", count.AfterEnd)
	}
	if look.IconColour != "" && look.Icon != "" {
		c.pair(i, n, "The icon of "+title, where, "/look/iconColour", look.IconColour, field, colour.GraphicMinimum)
	}
	if q := n.Question(); q.GetAskAgainColours() == "own" && where == "" {
		if field, ink := render.AgainColours(seen); field != "" {
			c.pair(i, n, "The control that asks again of "+title, "", "/content/consent/againText", ink, field, colour.Minimum)
		}
	}
	if button, ink := render.ButtonColours(seen); button != "" && where == "" {
		c.pair(i, n, "The words on the buttons of "+title, "", "/look/buttons/text", ink, button, colour.Minimum)
	}
}

func wordingsOf(n bundle.Notice) (out []bundle.Wording) {
	for _, w := range n.Wordings() {
		out = append(out, w)
	}
	return out
}

// leastFor is the contrast that a text needs: less where it is large, from 24 px, or 18.66 px
// where it is bold (WCAG 2.2 §1.4.3, "large scale": 18 and 14 points at 96 px to the inch).
func leastFor(t bundle.TextLook) float64 {
	if t.Size >= 24 || t.Size >= 19 && t.Weight == bundle.Bold {
		return 3
	}
	return colour.Minimum
}

// pair reports something in the colour ink that cannot be read on a field. pointer leads to
// the colour that would be changed.
func (c *checker) pair(i int, n bundle.Notice, what, where, pointer, ink, field string, least float64) {
	ratio, err := colour.Contrast(ink, field)
	if err != nil || ratio >= least {
		return
	}
	near, _ := colour.Nearest(ink, field)
	at := strings.TrimSuffix(strings.TrimSuffix(pointer, "/text"), "/colour")
	hard := "are hard to read"
	if strings.HasPrefix(what, "The headline") || strings.HasPrefix(what, "What ") ||
		strings.HasPrefix(what, "The control") {
		hard = "is hard to read"
	} else if strings.HasPrefix(what, "The icon") {
		hard = "is hard to see"
	}
	c.add(LowContrast, Error, i, at,
		fmt.Sprintf("%s %s%s: contrast %.1f, and %.1f is needed.", what, hard, where, ratio, least),
		"Use "+near+" for it.", c.set(n, pointer, near))
}

// set is the change of a notice that puts a colour at a pointer into its look; what it lies
// in is added where the notice has it from its theme, or not at all.
func (c *checker) set(n bundle.Notice, pointer, value string) Fix {
	steps := strings.Split(strings.TrimPrefix(pointer, "/"), "/")
	fix := Fix{Label: "Use " + value}
	look := n.GetLook()
	have := map[string]bool{
		"/content":             true,
		"/content/consent":     true,
		"/look":                n.Look != nil,
		"/look/dark":           look.Dark != nil,
		"/look/headline":       look.Headline != nil,
		"/look/buttons":        look.Buttons != nil,
		"/look/count":          look.Count != nil,
		"/look/count/figures":  look.Count != nil && look.Count.Figures != nil,
		"/look/count/labels":   look.Count != nil && look.Count.Labels != nil,
		"/look/count/afterEnd": look.Count != nil && look.Count.AfterEnd != nil,
	}
	for k := 1; k < len(steps); k++ {
		at := "/" + strings.Join(steps[:k], "/")
		if have[at] {
			continue
		}
		var whole any = value
		for _, step := range slices.Backward(steps[k:]) {
			whole = map[string]any{step: whole}
		}
		fix.Patch = []Operation{{Op: "add", Path: at, Value: whole}}
		return fix
	}
	fix.Patch = []Operation{{Op: "add", Path: pointer, Value: value}}
	return fix
}

// picture reports words on a picture that does not let them be read, and pictures from hosts
// that visitors were not told of.
func (c *checker) picture(i int, n, seen bundle.Notice, title string) {
	p := n.Picture()
	if p != nil && n.PicturePlace() == bundle.PictureBehind && p.Veil != nil {
		field, ink := render.Colours(seen)
		ratio, err := colour.Veiled(ink, field, *p.Veil)
		if needed := colour.Veil(ink, field); err == nil && ratio < colour.Minimum && needed > *p.Veil {
			c.add(LowContrast, Warning, i, "/content/picture/veil", fmt.Sprintf(
				"The words of %s may be hard to read on parts of the picture: contrast %.1f at worst, and %.1f is needed.",
				title, ratio, colour.Minimum,
			), fmt.Sprintf("Let the field cover %d %% of it.", needed),
				remove("Cover as much as is needed", "/content/picture/veil"))
		}
	}
	var hosts []string
	for _, p := range n.Pictures() {
		for _, image := range []*bundle.Image{&p.Image, p.Phone} {
			if image == nil || image.Address == "" {
				continue
			}
			if host := c.farHost(image.Address); host != "" && !slices.Contains(hosts, host) {
				hosts = append(hosts, host)
			}
		}
	}
	for _, host := range hosts {
		c.found = append(c.found, Finding{
			Code:     FarPicture,
			Severity: Warning,
			Notices:  []string{n.ID},
			Pointers: []string{"/notices/" + fmt.Sprint(i) + "/content"},
			What: fmt.Sprintf(
				"The picture of %s comes from %s, which learns who visits the site, and the inventory does not say so.",
				title,
				host,
			),
			Fix:    "Keep the picture with the site, or list the request to that host.",
			Source: "GDPR Art. 13(1)(e)",
		})
	}
}

// farHost returns the host of an address that is neither the site's own nor listed as asked
// for pictures; "" if it is either.
func (c *checker) farHost(address string) string {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" {
		return ""
	}
	origin, err := pages.Origin(address)
	own := err == nil && slices.ContainsFunc(c.b.Site.Origins, func(have string) bool {
		h, err := pages.Origin(have)
		return err == nil && pages.SameSite(h, origin)
	})
	listed := slices.ContainsFunc(c.b.Site.Setup().Inventory, func(item consent.Item) bool {
		return item.Fits(consent.Request, u.Hostname(), "")
	})
	if own || listed {
		return ""
	}
	return u.Hostname()
}
