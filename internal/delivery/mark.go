package delivery

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"sync"
	"time"
)

// A mark comes with a decision, and lets the page tell what was answered: the
// minute it was made in, and the HMAC of that and the site. Whoever tells has
// asked before, not long ago.
const (
	markLasts = 2 * time.Hour
	markEarly = 5 * time.Minute // a clock that was set back a little
	macSize   = 12
)

// marks makes and reads them. The zero marks is ready once it has a secret.
type marks struct {
	secret []byte
	mu     sync.Mutex
	last   map[string]cachedMark // of each site
}

type cachedMark struct {
	minute uint32
	text   string
}

// of returns a site's mark at an instant.
func (m *marks) of(site string, now time.Time) string {
	minute := uint32(now.Unix() / 60)
	m.mu.Lock()
	defer m.mu.Unlock()
	if have := m.last[site]; have.minute == minute {
		return have.text
	}
	if m.last == nil {
		m.last = map[string]cachedMark{}
	}
	made := cachedMark{minute, base64.RawURLEncoding.EncodeToString(m.sealed(site, minute))}
	m.last[site] = made
	return made.text
}

func (m *marks) sealed(site string, minute uint32) []byte {
	out := binary.BigEndian.AppendUint32(nil, minute)
	h := hmac.New(sha256.New, m.secret)
	h.Write([]byte("answer to " + site + " "))
	h.Write(out)
	return append(out, h.Sum(nil)[:macSize]...)
}

// holds reports whether a text is a mark of a site that has not run out.
func (m *marks) holds(site, text string, now time.Time) bool {
	raw, err := base64.RawURLEncoding.DecodeString(text)
	if err != nil || len(raw) != 4+macSize {
		return false
	}
	minute := binary.BigEndian.Uint32(raw)
	age := now.Sub(time.Unix(int64(minute)*60, 0))
	return hmac.Equal(raw, m.sealed(site, minute)) && age < markLasts && age > -markEarly
}
