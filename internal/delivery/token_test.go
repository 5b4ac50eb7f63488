package delivery_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/internal/delivery"
)

func TestTokens(t *testing.T) {
	secret := []byte("a secret of thirty-two bytes....")
	ends := time.Date(2026, 12, 5, 12, 0, 0, 0, time.UTC)
	in := delivery.Token{Site: "s", Notice: "n", Ends: ends}
	signed := in.Sign(secret)
	out, err := delivery.ReadToken(secret, signed, ends.Add(-time.Second))
	require.NoError(t, err)
	assert.Equal(t, in, out)
	_, err = delivery.ReadToken(secret, signed, ends)
	assert.EqualError(t, err, "it ended 5 Dec 2026 12:00 UTC")
	_, err = delivery.ReadToken([]byte("another secret"), signed, ends.Add(-time.Second))
	assert.ErrorContains(t, err, "not made here")

	// Any other character in any place is noticed.
	for i := range signed {
		for _, c := range "Az0_." {
			if rune(signed[i]) == c {
				continue
			}
			altered := signed[:i] + string(c) + signed[i+1:]
			if got, err := delivery.ReadToken(secret, altered, ends.Add(-time.Second)); err == nil {
				// The last character of base64 may hold bits that count for nothing.
				assert.Equal(t, in, got, altered)
				assert.Equal(t, len(signed)-1, i)
			}
		}
	}
	for _, bad := range []string{"", ".", "x", "x.", strings.Repeat("A", 10000) + "." + strings.Repeat("A", 43)} {
		_, err := delivery.ReadToken(secret, bad, ends)
		assert.Error(t, err)
	}
}

func TestSnippet(t *testing.T) {
	s := delivery.NewSnippet("https://notices.example.org", "parish")
	assert.Contains(t, s.HTML(), `<script>/*<![CDATA[*/{let u="https://notices.example.org/s/parish.js";fetch(u)`)
	if assert.NotEmpty(t, s.Inline, "run make build") {
		assert.Contains(t, s.Inline, "parish")
		assert.NotContains(t, s.Inline, "</")
		assert.Regexp(t, `^'sha256-[A-Za-z0-9+/]{43}=' 'sha256-[A-Za-z0-9+/]{43}='$`, s.Source())
		assert.Less(t, len(s.Inline), 900)
	}
}
