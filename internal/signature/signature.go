// Package signature signs requests as RFC 9421, HTTP Message Signatures, has it, with the
// algorithm hmac-sha256 (§3.3.3), over time and body among others; the body by its digest (RFC
// 9530).
package signature

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// KeyHeader has the key under which a request may come more than once.
const KeyHeader = "Idempotency-Key"

// components are what is signed, in this order.
var components = []string{"@method", "@target-uri", "content-digest", "content-type", "idempotency-key"}

// label is the name of the signature in its headers.
const label = "mastflag"

// Digest returns the value of Content-Digest for a body (RFC 9530 §2).
func Digest(body []byte) string {
	sum := sha256.Sum256(body)
	return "sha-256=:" + base64.StdEncoding.EncodeToString(sum[:]) + ":"
}

// Sign signs a request that carries a body, with all its headers set, at an instant.
func Sign(r *http.Request, body []byte, keyID string, secret []byte, at time.Time) {
	r.Header.Set("Content-Digest", Digest(body))
	params := fmt.Sprintf(`("%s");created=%d;keyid="%s";alg="hmac-sha256"`,
		strings.Join(components, `" "`), at.Unix(), keyID)
	r.Header.Set("Signature-Input", label+"="+params)
	r.Header.Set("Signature", label+"=:"+base64.StdEncoding.EncodeToString(
		MAC(secret, Base(r, r.URL.String(), components, params)))+":")
}

// Base returns what is signed (RFC 9421 §2.5): a line for each component, then the parameters.
// target is the request's whole address.
func Base(r *http.Request, target string, components []string, params string) string {
	var b strings.Builder
	for _, c := range components {
		value := ""
		switch c {
		case "@method":
			value = r.Method
		case "@target-uri":
			value = target
		case "@authority":
			value = strings.ToLower(r.Host)
		default:
			value = strings.Join(r.Header.Values(c), ", ")
		}
		fmt.Fprintf(&b, "\"%s\": %s\n", c, strings.TrimSpace(value))
	}
	return b.String() + `"@signature-params": ` + params
}

// MAC returns the HMAC-SHA-256 (RFC 2104, FIPS 180-4) of a text.
func MAC(secret []byte, text string) []byte {
	h := hmac.New(sha256.New, secret)
	h.Write([]byte(text))
	return h.Sum(nil)
}

var input = regexp.MustCompile(`^` + label + `=(\("@method" "@target-uri" "content-digest" "content-type" ` +
	`"idempotency-key"\);created=([0-9]{1,12});keyid="[^"]*";alg="hmac-sha256")$`)

// Verify returns nil if a request to the address target, with this body, carries a signature
// with the secret that was made within an hour of now.
func Verify(r *http.Request, target string, body []byte, secret []byte, now time.Time) error {
	m := input.FindStringSubmatch(r.Header.Get("Signature-Input"))
	if m == nil {
		return errors.New("it is not signed as agreed")
	}
	if r.Header.Get("Content-Digest") != Digest(body) {
		return errors.New("the digest is of another body")
	}
	created, _ := strconv.ParseInt(m[2], 10, 64)
	if age := now.Sub(time.Unix(created, 0)); age.Abs() > time.Hour {
		return errors.New("it was signed too long ago")
	}
	said, err := base64.StdEncoding.DecodeString(strings.TrimSuffix(
		strings.TrimPrefix(r.Header.Get("Signature"), label+"=:"), ":"))
	if err != nil || !hmac.Equal(said, MAC(secret, Base(r, target, components, m[1]))) {
		return errors.New("the signature does not hold")
	}
	return nil
}
