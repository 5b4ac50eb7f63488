package base

import (
	"cmp"
	"fmt"
	"net/http"
	"net/mail"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"mastflag/internal/problem"
)

// TimeIfAny is an instant, nil if it never was.
func TimeIfAny(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

// Truncated is a text cut after n characters.
func Truncated(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

// MailAddress returns a mail address as it is kept.
func MailAddress(s string) (string, error) {
	m, err := mail.ParseAddress(strings.TrimSpace(s))
	if err != nil || m.Name != "" || !strings.Contains(m.Address, "@") {
		return "", problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Not an address",
			Detail: fmt.Sprintf("%q is not a mail address. Write it like ines@example.org.", s),
		}
	}
	return strings.ToLower(m.Address), nil
}

// Slug makes a short name for addresses of a title.
func Slug(title, fallback string) string {
	var b strings.Builder
	for _, r := range norm.NFD.String(strings.ToLower(title)) {
		switch {
		case r < unicode.MaxASCII && (unicode.IsLetter(r) || unicode.IsDigit(r)):
			b.WriteRune(r)
		case unicode.Is(unicode.Mn, r):
		default:
			if s := b.String(); s != "" && !strings.HasSuffix(s, "-") {
				b.WriteByte('-')
			}
		}
		if b.Len() >= 40 {
			break
		}
	}
	return cmp.Or(strings.Trim(b.String(), "-"), fallback)
}
