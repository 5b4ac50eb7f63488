// Package access is who may work here: sign-in, sessions, passwords.
package access

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net/netip"
	"strings"
	"sync"
	"time"

	"mastflag/internal/clock"
	"mastflag/internal/store"
)

// NewToken returns a text that nobody can guess, and the hash of it to keep.
func NewToken() (token, hash string) {
	raw := make([]byte, 24)
	rand.Read(raw)
	token = base64.RawURLEncoding.EncodeToString(raw)
	return token, HashToken(token)
}

// HashToken returns the SHA-256 of a token in hex.
func HashToken(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// Errors of sign-in. A TooMany error says when to come again.
var (
	ErrWrong = errors.New("the address or the password is not right")
	ErrBusy  = errors.New("too many people sign in at once")
)

// TooMany refuses a try before its time.
type TooMany struct{ Wait time.Duration }

func (t TooMany) Error() string {
	return fmt.Sprintf("too many tries; the next is taken in %s", t.Wait.Round(time.Second))
}

// From is where a request comes from.
type From struct {
	Address netip.Addr // behind the proxies that are trusted; may be the zero one
	Agent   string     // browser and system, for people
}

// Network returns what an address is counted by: itself, or the /64 of IPv6
// that one subscriber has.
func Network(a netip.Addr) netip.Prefix {
	a = a.Unmap().WithZone("")
	bits := a.BitLen()
	if a.Is6() {
		bits = 64
	}
	p, err := a.Prefix(bits)
	if err != nil {
		return netip.Prefix{}
	}
	return p
}

// An Authenticator signs people in and knows them again.
type Authenticator struct {
	store  *store.Store
	clock  clock.Clock
	secret []byte // that networks are marked with
	secure bool   // the cookie is sent over https only

	tries tries
	mu    sync.Mutex
	seen  map[string]time.Time // sessions used since that was last kept, by mark
}

// New returns the authenticator of the people in the store. secret marks the
// networks that they come from; secure: the program is reached by https.
func New(st *store.Store, c clock.Clock, secret []byte, secure bool) *Authenticator {
	return &Authenticator{store: st, clock: c, secret: secret, secure: secure, seen: map[string]time.Time{}}
}

// network is the mark under which it is kept that a person has signed in from
// a network: what it is cannot be read from it.
func (a *Authenticator) network(person string, n netip.Prefix) []byte {
	h := hmac.New(sha256.New, a.secret)
	fmt.Fprintf(h, "network %s %s", person, n)
	return h.Sum(nil)
}

// Check returns whoever has that address and password. ErrWrong does not say
// which of the two was wrong. After some tries without success the next are
// taken later and later: of one person from one network, of one network, and of
// one person from networks from which they have never signed in. So guesses
// from elsewhere lock nobody out where they usually are.
func (a *Authenticator) Check(ctx context.Context, email, password string, from From) (store.Person, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	net := Network(from.Address)
	familiar, err := a.store.Familiar(ctx, email, a.network(email, net))
	if err != nil {
		return store.Person{}, err
	}
	keys := []counter{{"pair " + net.String() + " " + email, ofPair}, {"network " + net.String(), ofNetwork}}
	if !familiar {
		keys = append(keys, counter{"person " + email, ofPerson})
	}
	p, err := a.check(ctx, keys, email, password)
	if err == nil {
		a.tries.worked(keys)
	}
	return p, err
}

// CheckAgain returns the person if the password is theirs: of someone who is
// signed in, wherever from.
func (a *Authenticator) CheckAgain(ctx context.Context, email, password string) (store.Person, error) {
	keys := []counter{{"again " + email, ofPair}}
	p, err := a.check(ctx, keys, email, password)
	if err == nil {
		a.tries.worked(keys)
	}
	return p, err
}

func (a *Authenticator) check(ctx context.Context, keys []counter, email, password string) (store.Person, error) {
	if wait := a.tries.begin(keys, a.clock.Now()); wait > 0 {
		return store.Person{}, TooMany{wait}
	}
	p, err := a.store.Person(ctx, email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return store.Person{}, err
	}
	hash, none := p.Password, err != nil || p.Password == ""
	if none { // takes as long, so that a wrong address is not told from a wrong password
		hash = dummyHash()
	}
	fits, busy := PasswordFits(ctx, hash, password)
	if busy != nil {
		a.tries.worked(keys) // it was no try
		return store.Person{}, busy
	}
	if none || !fits {
		return store.Person{}, ErrWrong
	}
	if !current(p.Password) { // one of an earlier version: it is worked out anew, or the next time
		if hash, err := HashPassword(ctx, password); err == nil {
			if err := a.store.Rehash(ctx, p.Email, p.Password, hash); err != nil {
				slog.Warn("a password was not hashed anew", "error", err)
			} else {
				p.Password = hash
			}
		}
	}
	return p, nil
}
