package delivery

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"net/url"
	"strings"
	"time"
)

// A Token lets whoever has it see a notice's draft on the real site, until it
// ends. It travels in the fragment of a page's address, which browsers do not
// send to the site's server; to the stage in the name of its frame, of which
// apps that go by fragments know nothing.
type Token struct {
	Site   string    `json:"s"`
	Notice string    `json:"n"`
	Ends   time.Time `json:"e"`
	// The language to see it in; the page's own if empty.
	Language string `json:"l,omitempty"`
	// The variant to see it in; as it is if empty.
	Variant string `json:"v,omitempty"`
}

// Fragment is the name of the token in a page's address.
const Fragment = "mastflag-preview"

// PreviewAddress returns the address of a page with a token in it: as a query of its route where it has one.
func PreviewAddress(page, token string) string {
	sign := "#"
	if strings.Contains(page, "#") {
		sign = "?"
	}
	return page + sign + Fragment + "=" + url.QueryEscape(token)
}

// Sign returns the token as text that ReadToken takes.
func (t Token) Sign(secret []byte) string {
	t.Ends = t.Ends.UTC().Truncate(time.Second)
	body, err := json.Marshal(t)
	if err != nil {
		panic("delivery: a token cannot be written as JSON: " + err.Error())
	}
	enc := base64.RawURLEncoding
	return enc.EncodeToString(body) + "." + enc.EncodeToString(seal(secret, body))
}

func seal(secret, body []byte) []byte {
	m := hmac.New(sha256.New, secret)
	m.Write(body)
	return m.Sum(nil)
}

// ReadToken returns a token that was signed with secret and has not ended at now.
func ReadToken(secret []byte, s string, now time.Time) (Token, error) {
	var t Token
	enc := base64.RawURLEncoding
	head, tail, ok := strings.Cut(s, ".")
	body, err := enc.DecodeString(head)
	mac, err2 := enc.DecodeString(tail)
	if !ok || err != nil || err2 != nil || !hmac.Equal(mac, seal(secret, body)) {
		return t, errors.New("it is damaged or was not made here")
	}
	if err := json.Unmarshal(body, &t); err != nil {
		return t, errors.New("it is damaged")
	}
	if !now.Before(t.Ends) {
		return t, errors.New("it ended " + t.Ends.Format("2 Jan 2006 15:04 UTC"))
	}
	return t, nil
}
