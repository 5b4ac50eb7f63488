// Package draw puts visitors into groups by chance, the same on any machine (rule E4).
package draw

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"math/bits"
)

// A Draw is 128 random bits in a visitor's browser, as 32 lower-case hex digits.
type Draw string

// Check returns an error that says what is wrong with a draw; nil if nothing is.
func (d Draw) Check() error {
	if raw, err := hex.DecodeString(string(d)); err != nil || len(raw) != 16 || hex.EncodeToString(raw) != string(d) {
		return fmt.Errorf("the draw %.40q is not 32 lower-case hex digits", string(d))
	}
	return nil
}

// number is a name's number in 2^64: the first 8 bytes, big-endian, of SHA-256(name + "/" + draw).
func (d Draw) number(name string) uint64 {
	sum := sha256.Sum256([]byte(name + "/" + string(d)))
	return binary.BigEndian.Uint64(sum[:8])
}

// HeldOut reports whether a visitor never sees a notice of a site: percent of 100 do not.
func (d Draw) HeldOut(site, notice string, percent int) bool {
	// number / 2^64 < percent / 100
	high, _ := bits.Mul64(d.number(site+"/holdout/"+notice), 100)
	return high < uint64(max(percent, 0))
}

// Variant returns which of a notice's variants a visitor gets, by the weight of each: the
// first whose share of all weights, added to those before it, is over the notice's number.
// Weights are at least 1; of none it is 0.
func (d Draw) Variant(site, notice string, weights []int) int {
	total, sum := 0, 0
	for _, w := range weights {
		total += w
	}
	// number / 2^64 < sum / total
	high, _ := bits.Mul64(d.number(site+"/"+notice), uint64(total))
	for i, w := range weights {
		if sum += w; high < uint64(sum) {
			return i
		}
	}
	return 0
}
