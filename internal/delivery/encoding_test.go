package delivery

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// RFC 9110 §12.5.3, its examples among them.
func TestEncodings(t *testing.T) {
	for accepts, want := range map[string]string{
		"":                                   "",
		"gzip, deflate, br, zstd":            "br",
		"gzip":                               "gzip",
		"br;q=0, gzip":                       "gzip",
		"br;q=0.5, gzip;q=0.8":               "gzip",
		"br;q=0.8, gzip;q=0.8":               "br",
		"compress, gzip":                     "gzip",
		"*":                                  "br",
		"*;q=0":                              "",
		"gzip;q=1.0, identity; q=0.5, *;q=0": "gzip",
		"identity;q=1, gzip;q=0.5":           "",
		"BR ; Q=0.9":                         "br",
		"x-brotli, abracadabra":              "",
		"br;q=much, gzip;q=0.1":              "gzip",
		"br;q=NaN":                           "",
		",,;;q=,":                            "",
	} {
		assert.Equal(t, want, encodingOf(accepts, "br", "gzip"), accepts)
	}
}
