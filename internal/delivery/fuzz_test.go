package delivery_test

import (
	"testing"
	"time"

	"mastflag/internal/delivery"
)

// Whatever is given as a token is none that was made here.
func FuzzToken(f *testing.F) {
	secret := []byte("a secret of thirty-two bytes....")
	now := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	f.Add("")
	f.Add("eyJzIjoicyJ9.AAAA")
	f.Fuzz(func(t *testing.T, text string) {
		if _, err := delivery.ReadToken(secret, text, now); err == nil {
			t.Fatalf("%q was taken", text)
		}
	})
}
