package draw

import (
	"encoding/binary"
	"encoding/hex"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

// The numbers are the first 16 hex digits that coreutils' sha256sum gives of the name, / and the draw.
func TestNumbers(t *testing.T) {
	for _, c := range []struct {
		name string
		draw Draw
		want uint64
	}{
		{"sundrey/fare-sale", "000102030405060708090a0b0c0d0e0f", 0x25330d6d255a5889},
		{"sundrey/holdout/fare-sale", "000102030405060708090a0b0c0d0e0f", 0x605615debd13e753},
		{"sundrey/fare-sale", "ffffffffffffffffffffffffffffffff", 0xa17502055503403d},
	} {
		assert.Equal(t, c.want, c.draw.number(c.name), "%s/%s", c.name, c.draw)
	}
}

func TestCheck(t *testing.T) {
	assert.NoError(t, Draw("000102030405060708090a0b0c0d0e0f").Check())
	for _, d := range []Draw{
		"", "00", "000102030405060708090A0B0C0D0E0F", "000102030405060708090a0b0c0d0e0f00",
		"g00102030405060708090a0b0c0d0e0f",
	} {
		assert.ErrorContains(t, d.Check(), "32 lower-case hex digits", "%q", d)
	}
}

// Rule E4 as it is written, in floating point: both agree, and over a million visitors shares are as weighed.
func TestShares(t *testing.T) {
	seed := rand.Uint64()
	t.Logf("seed %d", seed)
	random := rand.New(rand.NewPCG(seed, 0))
	const visitors, percent = 1_000_000, 10
	weights := []int{1, 2, 5}
	var out int
	var got [3]int
	var tenths [10]int
	for range visitors {
		var raw [16]byte
		binary.BigEndian.PutUint64(raw[:], random.Uint64())
		binary.BigEndian.PutUint64(raw[8:], random.Uint64())
		d := Draw(hex.EncodeToString(raw[:]))
		tenths[int(float64(d.number("any"))/(1<<64)*10)]++
		held := d.HeldOut("site", "notice", percent)
		if want := float64(d.number("site/holdout/notice"))/(1<<64) < percent/100.0; want != held {
			t.Fatalf("%s is held out: %v", d, held)
		}
		if held {
			out++
		}
		variant, below := d.Variant("site", "notice", weights), 0.0
		for i, w := range weights {
			if below += float64(w) / 8; below > float64(d.number("site/notice"))/(1<<64) {
				if i != variant {
					t.Fatalf("%s gets variant %d, not %d", d, i, variant)
				}
				break
			}
		}
		got[variant]++
	}
	// Five standard errors: a fair draw is beyond them once in a million runs.
	near := func(want float64, n int) {
		t.Helper()
		assert.InDelta(t, want*visitors, n, 5*math.Sqrt(visitors*want*(1-want)))
	}
	near(0.1, out)
	for i, w := range weights {
		near(float64(w)/8, got[i])
	}
	for _, n := range tenths {
		near(0.1, n)
	}
	assert.Equal(t, 0, Draw("00").Variant("site", "notice", nil))
	assert.False(t, Draw("00").HeldOut("site", "notice", 0))
	assert.True(t, Draw("00").HeldOut("site", "notice", 100))
}
