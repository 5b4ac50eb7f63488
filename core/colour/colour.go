// Package colour measures whether words can be read on a field, and finds the
// nearest colour that can.
package colour

import (
	"fmt"
	"math"
	"strings"

	"github.com/lucasb-eyer/go-colorful"
)

// Minimum is the contrast that text of any size must have at level AA
// (WCAG 2.2 §1.4.3).
const Minimum = 4.5

// Contrast returns the contrast ratio of two colours given as #rrggbb, from 1
// to 21 (WCAG 2.2, "contrast ratio" and "relative luminance").
func Contrast(a, b string) (float64, error) {
	la, err := luminance(a)
	if err != nil {
		return 0, err
	}
	lb, err := luminance(b)
	if err != nil {
		return 0, err
	}
	return (math.Max(la, lb) + 0.05) / (math.Min(la, lb) + 0.05), nil
}

func luminance(hex string) (float64, error) {
	c, err := parse(hex)
	if err != nil {
		return 0, err
	}
	return relative(c), nil
}

func parse(hex string) (colorful.Color, error) {
	if len(hex) != 7 {
		return colorful.Color{}, fmt.Errorf("%q is not a colour: give six hex digits, such as #0b5a66", hex)
	}
	c, err := colorful.Hex(hex)
	if err != nil {
		return c, fmt.Errorf("%q is not a colour: give six hex digits, such as #0b5a66", hex)
	}
	return c, nil
}

// relative is the relative luminance of WCAG 2.2, with its own threshold of
// 0.04045 between the two pieces of the curve.
func relative(c colorful.Color) float64 {
	lin := func(v float64) float64 {
		if v <= 0.04045 {
			return v / 12.92
		}
		return math.Pow((v+0.055)/1.055, 2.4)
	}
	return 0.2126*lin(c.R) + 0.7152*lin(c.G) + 0.0722*lin(c.B)
}

// Nearest returns the colour closest to text, of the same hue, that reaches
// the minimum on field; text itself if it does. One of the two ends of
// lightness always reaches it.
func Nearest(text, field string) (string, error) {
	ratio, err := Contrast(text, field)
	if err != nil {
		return "", err
	}
	if ratio >= Minimum {
		return text, nil
	}
	c, _ := parse(text)
	h, s, l := c.Hsl()
	best, distance := "", math.Inf(1)
	for step := 0; step <= 200; step++ {
		at := float64(step) / 200
		hex := colorful.Hsl(h, s, at).Clamped().Hex()
		if ratio, _ := Contrast(hex, field); ratio >= Minimum && math.Abs(at-l) < distance {
			best, distance = hex, math.Abs(at-l)
		}
	}
	return best, nil
}

// On returns an ink that reads well on field: near-black or white, whichever
// reads better, and black where neither reaches the minimum. It always reaches
// the minimum, since black or white does on any field.
func On(field string) (string, error) {
	const ink, paper, black = "#16202e", "#ffffff", "#000000"
	onInk, err := Contrast(ink, field)
	if err != nil {
		return "", err
	}
	onPaper, _ := Contrast(paper, field)
	switch {
	case onPaper >= Minimum && onPaper >= onInk:
		return paper, nil
	case onInk >= Minimum:
		return ink, nil
	}
	return black, nil
}

// Veiled returns the least contrast that text has on a picture, whatever that shows, with a
// field's colour over it that covers it by percent (0 to 100). Colours are mixed as browsers
// do, channel by channel (Compositing and Blending Level 1, §5.1, source-over).
func Veiled(text, field string, percent int) (float64, error) {
	t, err := luminance(text)
	if err != nil {
		return 0, err
	}
	f, err := parse(field)
	if err != nil {
		return 0, err
	}
	a := float64(percent) / 100
	over := func(c float64) float64 {
		return relative(colorful.Color{R: a*f.R + (1-a)*c, G: a*f.G + (1-a)*c, B: a*f.B + (1-a)*c})
	}
	dark, light := over(0), over(1)
	switch {
	case t > light:
		return (t + 0.05) / (light + 0.05), nil
	case t < dark:
		return (dark + 0.05) / (t + 0.05), nil
	}
	return 1, nil
}

// Veil returns by how many per cent a field's colour has to cover a picture for text to reach
// the minimum on whatever the picture shows; 100 where nothing less does.
func Veil(text, field string) int {
	for percent := range 100 {
		if ratio, err := Veiled(text, field, percent); err == nil && ratio >= Minimum {
			return percent
		}
	}
	return 100
}

// GraphicMinimum is the contrast that what is needed to understand a graphic or to find a
// control must have beside what it stands on (WCAG 2.2 §1.4.11).
const GraphicMinimum = 3

// Theme is a field with its words, and buttons that stand out on it with theirs.
type Theme struct{ Field, Text, Button, ButtonText string }

// Themes returns looks made of a palette: each of its colours as a field, with the words
// that read best, and with the first other colour that stands out on it for the buttons;
// where none does, with words and field exchanged. Each colour is a field once, whatever its
// case; what is no colour is left out.
func Themes(palette []string) (out []Theme) {
	seen := map[string]bool{}
	for _, field := range palette {
		field = strings.ToLower(field)
		text, err := On(field)
		if err != nil || seen[field] {
			continue
		}
		seen[field] = true
		t := Theme{Field: field, Text: text, Button: text}
		for _, other := range palette {
			if ratio, err := Contrast(other, field); err == nil && ratio >= GraphicMinimum {
				t.Button = strings.ToLower(other)
				break
			}
		}
		t.ButtonText, _ = On(t.Button)
		out = append(out, t)
	}
	return out
}
