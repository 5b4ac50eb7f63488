package colour_test

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

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

// Whatever the palette, words and buttons of the themes made of it can be read, and buttons
// stand out on their field where any colour of the palette does.
func TestThemesOfRandomPalettes(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	r := rand.New(rand.NewPCG(seed, 1))
	for range 2_000 {
		palette := make([]string, 1+r.IntN(8))
		for i := range palette {
			palette[i] = fmt.Sprintf("#%06X", r.IntN(1<<24))
		}
		fields := map[string]bool{}
		for _, made := range colour.Themes(palette) {
			words, err := colour.Contrast(made.Text, made.Field)
			require.NoError(t, err)
			onButton, err := colour.Contrast(made.ButtonText, made.Button)
			require.NoError(t, err)
			button, err := colour.Contrast(made.Button, made.Field)
			require.NoError(t, err)
			assert.GreaterOrEqual(t, min(words, onButton), colour.Minimum, "%v of %v, seed %d", made, palette, seed)
			assert.GreaterOrEqual(t, button, float64(colour.GraphicMinimum), "%v of %v, seed %d", made, palette, seed)
			assert.False(t, fields[made.Field])
			fields[made.Field] = true
		}
	}
	assert.Len(t, colour.Themes([]string{"#14324d", "#14324D", "red", ""}), 1)
}

// The veil is the least that lets words be read on every picture: tried pixel by pixel on
// mixed colours.
func TestVeil(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	r := rand.New(rand.NewPCG(seed, 2))
	hex := func() string { return fmt.Sprintf("#%06x", r.IntN(1<<24)) }
	mixed := func(field, pixel string, percent int) string {
		var f, p [3]int
		_, err := fmt.Sscanf(field+pixel, "#%02x%02x%02x#%02x%02x%02x", &f[0], &f[1], &f[2], &p[0], &p[1], &p[2])
		require.NoError(t, err)
		out := "#"
		for i := range f {
			out += fmt.Sprintf("%02x", (f[i]*percent+p[i]*(100-percent)+50)/100)
		}
		return out
	}
	for range 300 {
		field := hex()
		text, err := colour.On(field)
		require.NoError(t, err)
		veil := colour.Veil(text, field)
		for range 50 {
			ratio, err := colour.Contrast(text, mixed(field, hex(), veil))
			require.NoError(t, err)
			assert.Greater(t, ratio, colour.Minimum-0.1, "%s on %s, seed %d", text, field, seed) // whole steps of a channel
		}
		if veil > 1 {
			worst := min(
				first(
					colour.Contrast(text, mixed(field, "#000000", veil-2)),
				),
				first(colour.Contrast(text, mixed(field, "#ffffff", veil-2))),
			)
			assert.Less(t, worst, colour.Minimum+0.1, "%s on %s, seed %d", text, field, seed)
		}
	}
	one, err := colour.Veiled("#888888", "#888888", 40)
	require.NoError(t, err)
	assert.InDelta(t, 1, one, 1e-9, "some pixel is like the words")
	_, err = colour.Veiled("red", "#888888", 40)
	assert.Error(t, err)
}

func first(v float64, _ error) float64 { return v }
