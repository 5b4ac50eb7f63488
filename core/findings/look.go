package findings

import (
	"encoding/json"
	"fmt"
	"maps"
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
	pairs := append([]pair{{"The words of %s are hard to read", "/look/text", ink, field, colour.Minimum}},
		details(seen, field)...)
	if button, ink := render.ButtonColours(seen); button != "" {
		pairs = append(pairs, pair{
			"The words on the buttons of %s are hard to read", "/look/buttons/text", ink, button, colour.Minimum,
		})
	}
	if q := n.Question(); q.GetAskAgainColours() == "own" {
		if field, ink := render.AgainColours(seen); field != "" {
			pairs = append(pairs, pair{
				"The control that asks again of %s is hard to read", "/content/consent/againText", ink, field, colour.Minimum,
			})
		}
	}
	c.contrast(i, n, seen, title, "", pairs)
	if seen.GetLook().Dark != nil {
		field, ink := render.DarkColours(seen)
		c.contrast(i, n, seen, title, " where a visitor’s system is dark", append(
			[]pair{{"The words of %s are hard to read", "/look/dark/text", ink, field, colour.Minimum}},
			details(seen, field)...,
		))
	}
	c.picture(i, n, seen, title)
}

// A pair is something in the colour ink on a field, the contrast that it needs, what is said
// of a notice that has less, and a pointer to the colour that would be changed.
type pair struct {
	claim, pointer, ink, field string
	least                      float64
}

// details returns what has a colour of its own on the field of a notice.
func details(n bundle.Notice, field string) (pairs []pair) {
	look := n.GetLook()
	text := func(claim, pointer string, t *bundle.TextLook) {
		if t != nil && t.Colour != "" {
			pairs = append(pairs, pair{claim, "/look" + pointer + "/colour", t.Colour, field, leastFor(*t)})
		}
	}
	for _, w := range n.Wordings() {
		if w.Headline != "" {
			text("The headline of %s is hard to read", "/headline", look.Headline)
			break
		}
	}
	if count := look.Count; count != nil && n.Countdown() != nil {
		text("The figures of %s are hard to read", "/count/figures", count.Figures)
		text("The words beside the figures of %s are hard to read", "/count/labels", count.Labels)
		text("What is said at the end of %s is hard to read", "/count/afterEnd", count.AfterEnd)
	}
	if look.IconColour != "" && look.Icon != "" {
		pairs = append(pairs, pair{
			"The icon of %s is hard to see", "/look/iconColour", look.IconColour, field, colour.GraphicMinimum,
		})
	}
	return pairs
}

// leastFor is the contrast that a text needs: less where it is large, from 24 px, or 18.66 px
// where it is bold (WCAG 2.2 §1.4.3, "large scale": 18 and 14 points at 96 px to the inch).
func leastFor(t bundle.TextLook) float64 {
	if t.Size >= 24 || t.Size >= 19 && t.Weight == bundle.Bold {
		return 3
	}
	return colour.Minimum
}

// contrast reports those of a notice's pairs that cannot be read. where says for whom they
// stand like that.
func (c *checker) contrast(i int, n, seen bundle.Notice, title, where string, pairs []pair) {
	for _, p := range pairs {
		ratio, err := colour.Contrast(p.ink, p.field)
		if err != nil || ratio >= p.least {
			continue
		}
		near, _ := colour.Nearest(p.ink, p.field)
		at := strings.TrimSuffix(strings.TrimSuffix(p.pointer, "/text"), "/colour")
		c.add(LowContrast, Error, i, at,
			fmt.Sprintf(p.claim+"%s: contrast %.1f, and %.1f is needed.", title, where, ratio, p.least),
			"Use "+near+" for it.", set(n, seen, p.pointer, near))
	}
}

// set is the change of a notice that puts a colour at a pointer. seen is the notice with its
// theme: what the colour lies in and only the theme has is taken over whole, so that nothing
// else of it changes.
func set(n, seen bundle.Notice, pointer, value string) Fix {
	steps := strings.Split(strings.TrimPrefix(pointer, "/"), "/")
	last := len(steps) - 1
	own, shown := fields(n), fields(seen)
	for k, step := range steps[:last] {
		mine, ok := own[step].(map[string]any)
		theirs, _ := shown[step].(map[string]any)
		if !ok {
			whole := map[string]any{}
			maps.Copy(whole, theirs)
			in := whole
			for _, step := range steps[k+1 : last] {
				next, _ := in[step].(map[string]any)
				if next == nil {
					next = map[string]any{}
				}
				in[step], in = next, next
			}
			in[steps[last]] = value
			return add("Use "+value, "/"+strings.Join(steps[:k+1], "/"), whole)
		}
		own, shown = mine, theirs
	}
	return add("Use "+value, pointer, value)
}

// fields are a notice's fields as they are written down.
func fields(n bundle.Notice) (out map[string]any) {
	raw, err := json.Marshal(n)
	if err == nil {
		err = json.Unmarshal(raw, &out)
	}
	if err != nil {
		panic(err) // every notice can be written down
	}
	return out
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
		for _, image := range p.Images() {
			if image.Address == "" {
				continue
			}
			if host := c.farHost(image.Address); host != "" && !slices.Contains(hosts, host) {
				hosts = append(hosts, host)
			}
		}
	}
	slices.Sort(hosts)
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
