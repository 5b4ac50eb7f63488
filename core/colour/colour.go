// Package colour measures whether words can be read on a field, and finds the
// nearest colour that can.
package colour

import (
	"fmt"
	"math"

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
