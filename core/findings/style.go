package findings

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"mastflag/core/bundle"
)

// The least size of what is to be pressed, in CSS pixels (WCAG 2.2 §2.5.8).
const leastTarget = 24

// pixels are the lengths of CSS units (CSS Values and Units 4 §6). What depends
// on the font is taken at the 16 px that browsers start from.
var pixels = map[string]float64{
	"px": 1, "pt": 96.0 / 72, "pc": 16, "in": 96, "cm": 96 / 2.54, "mm": 96 / 25.4, "q": 96 / 101.6, "em": 16, "rem": 16,
}

var (
	length = regexp.MustCompile(`^\+?([0-9]*\.?[0-9]+(?:e[+-]?[0-9]+)?)([a-z]*)$`)
	sizes  = []string{
		"height", "max-height", "min-height", "width", "max-width",
		"block-size", "max-block-size", "min-block-size", "inline-size", "max-inline-size",
	}
	// What of the last step of a selector, with the neighbours it names, tells one
	// element from others like it.
	tellsApart = regexp.MustCompile(`[+~\[]|:(?:nth|first|last|only|not|has|is|where)`)
	combinator = regexp.MustCompile(`\s*([+~>])\s*`)
	// What a selector ends in that is no answer.
	noAnswer = regexp.MustCompile(`\.(?:bar|words|link|close|longer|icon|picture)\b[^\s>+~]*$|(?:^|[\s>` +
		`+~])(?:p|b|strong|em|i|ul|ol|li|a|h[1-6])\b[^\s>+~]*$`)
)

// plainly returns a declaration's value in lower case without what makes it go
// before others.
func plainly(value string) string {
	value, _, _ = strings.Cut(strings.ToLower(value), "!")
	return strings.TrimSpace(value)
}

// tellsAnswersApart reports whether a selector can take one answer and not another.
func tellsAnswersApart(selector string) bool {
	if noAnswer.MatchString(selector) {
		return false
	}
	if strings.Contains(selector, "accept") || strings.Contains(selector, "reject") {
		return true
	}
	steps := strings.FieldsFunc(
		combinator.ReplaceAllString(selector, "$1"), func(r rune) bool { return r == ' ' || r == '>' },
	)
	return len(steps) > 0 && tellsApart.MatchString(steps[len(steps)-1])
}

// hides reports whether a declaration takes what it is about out of sight, or
// almost.
func hides(d bundle.Declaration) bool {
	v := plainly(d.Value)
	switch d.Property {
	case "display", "clip-path", "clip":
		return d.Property == "display" && v == "none" || d.Property != "display" && v != "none" && v != "auto"
	case "visibility":
		return v == "hidden" || v == "collapse"
	case "content-visibility":
		return v == "hidden"
	case "opacity":
		n, err := strconv.ParseFloat(strings.TrimSuffix(v, "%"), 64)
		if strings.HasSuffix(v, "%") {
			n /= 100
		}
		return err == nil && n < 0.5
	case "color":
		return v == "transparent"
	case "pointer-events":
		return v == "none"
	}
	return false
}

// style finds what a consent notice's own style does to its answers.
func (c *checker) style(i int, n bundle.Notice, title string) {
	const at = "/look/css"
	found := func(code Code, sev Severity, what, mend, source string) {
		c.add(code, sev, i, at, what, mend, remove("Remove the own style", at))
		c.found[len(c.found)-1].Source = source
	}
	list := n.GetLook().Declarations()
	first := func(of func(d bundle.Declaration, selector string) bool) (bundle.Declaration, bool) {
		for _, d := range list {
			if slices.ContainsFunc(strings.Split(d.Selector, ","), func(s string) bool {
				return of(d, strings.ToLower(strings.TrimSpace(s)))
			}) {
				return d, true
			}
		}
		return bundle.Declaration{}, false
	}
	if d, ok := first(func(_ bundle.Declaration, s string) bool { return tellsAnswersApart(s) }); ok {
		found(
			RefuseHarder, Error,
			fmt.Sprintf(
				"The own style of %s makes one answer look different from another (%s: %s).", title, d.Selector, d.Property,
			),
			"Let both answers look the same.", "GDPR Art. 4(11); EDPB Guidelines 03/2022 on deceptive design",
		)
	} else if d, ok := first(func(d bundle.Declaration, s string) bool {
		return hides(d) && !noAnswer.MatchString(s)
	}); ok {
		found(
			RefuseHarder, Error,
			fmt.Sprintf("The own style of %s hides its answers, or fades them (%s: %s).", title, d.Selector, d.Property),
			"Let every answer be plain to see.", "GDPR Art. 4(11); EDPB Guidelines 03/2022 on deceptive design",
		)
	}
	size := func(d bundle.Declaration) (px float64, ok bool) {
		m := length.FindStringSubmatch(plainly(d.Value))
		if m == nil {
			return 0, false
		}
		n, err := strconv.ParseFloat(m[1], 64)
		unit, known := pixels[m[2]]
		if m[2] == "" && n == 0 {
			unit, known = 1, true
		}
		return n * unit, err == nil && known
	}
	if d, ok := first(func(d bundle.Declaration, s string) bool {
		px, ok := size(d)
		return slices.Contains(sizes, d.Property) && names(s) && ok && px < leastTarget
	}); ok {
		px, _ := size(d)
		what := strconv.FormatFloat(px, 'f', -1, 64)
		if len(what) > 5 {
			what = strconv.FormatFloat(px, 'f', 1, 64)
		}
		found(
			SmallTarget, Error,
			fmt.Sprintf("The own style of %s makes %s %s px small; %d are needed.", title, d.Selector, what, leastTarget),
			"Make it larger.", "WCAG 2.2 §2.5.8",
		)
		return
	}
	if d, ok := first(func(d bundle.Declaration, s string) bool {
		_, ok := size(d)
		return slices.Contains(sizes, d.Property) && names(s) && !ok &&
			!slices.Contains([]string{"auto", "none"}, plainly(d.Value))
	}); ok {
		found(
			UnsureTarget, Info,
			fmt.Sprintf(
				"How large the own style of %s makes %s (%s: %s) depends on the page, and is not checked; %d px are needed.", title,
				d.Selector, d.Property, d.Value, leastTarget,
			),
			"Look at it on the stage, on a phone too, or give the size "+
				"in px.",
			"WCAG 2.2 §2.5.8",
		)
	}
}
