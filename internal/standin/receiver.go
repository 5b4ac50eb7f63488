package standin

import (
	"encoding/json"
	"io"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"mastflag/internal/clock"
	"mastflag/internal/signature"
)

// ReceiverPath is where the stand-in receiver lies; the site's key stands behind it.
const ReceiverPath = "/standin/contacts"

// A Receiver stands in for another program that contacts are passed on to. It keeps the latest
// in memory, each once by its key, and whether its signature holds.
type Receiver struct {
	base   string
	clock  clock.Clock
	secret func(site string) ([]byte, error)

	mu       sync.Mutex
	received []ReceivedContact
}

// A ReceivedContact is what came to the stand-in receiver.
type ReceivedContact struct {
	Site string    `json:"site"`
	Key  string    `json:"key"`
	At   time.Time `json:"at"`
	// How often it came under that key.
	Times int `json:"times"`
	// Why its signature does not hold, "" if it does.
	Wrong string          `json:"wrong,omitempty"`
	Body  json.RawMessage `json:"body"`
}

// maxReceived is how many are kept.
const maxReceived = 100

// NewReceiver returns a receiver of a program at the address base that knows the secrets of
// sites.
func NewReceiver(base string, c clock.Clock, secret func(site string) ([]byte, error)) *Receiver {
	return &Receiver{base: base, clock: c, secret: secret}
}

// Address is where the receiver takes what is passed on of a site.
func (r *Receiver) Address(site string) string { return r.base + ReceiverPath + "/" + site }

// Take takes a contact.
func (r *Receiver) Take(w http.ResponseWriter, req *http.Request, site string) {
	body, err := io.ReadAll(http.MaxBytesReader(w, req.Body, 1<<20))
	if err != nil || !json.Valid(body) {
		w.WriteHeader(http.StatusBadRequest)
		return
	}
	wrong := ""
	secret, err := r.secret(site)
	if err == nil {
		err = signature.Verify(req, r.base+req.URL.RequestURI(), body, secret, r.clock.Now())
	}
	if err != nil {
		wrong = err.Error()
	}
	key := strings.Trim(req.Header.Get(signature.KeyHeader), `"`)
	r.mu.Lock()
	defer r.mu.Unlock()
	i := slices.IndexFunc(r.received, func(c ReceivedContact) bool { return c.Site == site && c.Key == key })
	if i >= 0 {
		r.received[i].Times++
	} else {
		r.received = append(r.received, ReceivedContact{
			Site: site, Key: key, At: r.clock.Now(), Times: 1, Wrong: wrong, Body: body,
		})
		r.received = r.received[max(0, len(r.received)-maxReceived):]
	}
	w.WriteHeader(http.StatusNoContent)
}

// Received returns what came of a site, the latest first.
func (r *Receiver) Received(site string) []ReceivedContact {
	r.mu.Lock()
	defer r.mu.Unlock()
	out := []ReceivedContact{}
	for _, c := range slices.Backward(r.received) {
		if c.Site == site {
			out = append(out, c)
		}
	}
	return out
}
