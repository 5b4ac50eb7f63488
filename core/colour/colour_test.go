package colour_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/colour"
)

// Known pairs. Source: WCAG 2.2, definitions of contrast ratio and relative
// luminance. 21 and 1 follow from the definition. #767676 on white is common
// practice as the lightest grey that passes 4.5 : 1, #777777 as one that just
// fails; the other ratios are worked out by hand from the definition.
func TestContrast(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want float64
	}{
		{"#000000", "#ffffff", 21}, {"#ffffff", "#000000", 21}, {"#336699", "#336699", 1},
		{"#767676", "#ffffff", 4.54}, {"#777777", "#ffffff", 4.48}, {"#ff0000", "#ffffff", 4.00},
		{"#0000ff", "#ffffff", 8.59},
	} {
		got, err := colour.Contrast(c.a, c.b)
		require.NoError(t, err)
		assert.InDelta(t, c.want, got, 0.006, "%s on %s", c.a, c.b)
	}
	for _, bad := range []string{"", "#fff", "white", "#12345g", "123456", "#1234567"} {
		_, err := colour.Contrast(bad, "#ffffff")
		assert.ErrorContains(t, err, "not a colour", bad)
	}
}

func TestNearestPasses(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for range 300 {
		text, field := fmt.Sprintf("#%06x", r.IntN(1<<24)), fmt.Sprintf("#%06x", r.IntN(1<<24))
		near, err := colour.Nearest(text, field)
		require.NoError(t, err)
		ratio, err := colour.Contrast(near, field)
		require.NoError(t, err)
		require.GreaterOrEqual(t, ratio, colour.Minimum, "%s on %s: %s", text, field, near)
		if was, _ := colour.Contrast(text, field); was >= colour.Minimum {
			require.Equal(t, text, near, "what passes is left alone")
		}
		ink, err := colour.On(field)
		require.NoError(t, err)
		ratio, _ = colour.Contrast(ink, field)
		require.GreaterOrEqual(t, ratio, colour.Minimum, "%s on %s", ink, field)
	}
}
