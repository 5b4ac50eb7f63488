// Package access is who may work here: sign-in, sessions, passwords.
package access

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"database/sql"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/sqlite3store"
	"github.com/alexedwards/scs/v2"
	"golang.org/x/crypto/argon2"
	"golang.org/x/time/rate"

	"mastflag/internal/clock"
	"mastflag/internal/store"
)

// Roles, each of which may do what the ones before it may.
const (
	Viewer        = "viewer"        // sees everything, changes nothing
	Editor        = "editor"        // writes and publishes notices
	Administrator = "administrator" // sets up sites, and says who may work here
)

// Roles is every role, in order.
var Roles = []string{Viewer, Editor, Administrator}

// May reports whether a person of a role may do what needs another.
func May(role, needs string) bool {
	return slices.Contains(Roles, role) && slices.Index(Roles, role) >= slices.Index(Roles, needs)
}

// MinPassword is how many characters a password has at least.
const MinPassword = 10

// Argon2id with the parameters that RFC 9106 §4 recommends second, for
// machines with less memory to give.
const (
	argonTime    = 3
	argonMemory  = 64 * 1024 // KiB
	argonThreads = 4
)

// HashPassword returns a password's hash with its salt and parameters.
func HashPassword(password string) string {
	salt := make([]byte, 16)
	rand.Read(salt)
	return encodeHash(salt, argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, 32))
}

func encodeHash(salt, key []byte) string {
	enc := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonMemory, argonTime, argonThreads, enc.EncodeToString(salt), enc.EncodeToString(key))
}

// PasswordFits reports whether a hash is that of the password.
func PasswordFits(hash, password string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false
	}
	var memory, passes uint32
	var threads uint8
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &passes, &threads); err != nil {
		return false
	}
	salt, err := base64.RawStdEncoding.DecodeString(parts[4])
	if err != nil {
		return false
	}
	key, err := base64.RawStdEncoding.DecodeString(parts[5])
	if err != nil {
		return false
	}
	return subtle.ConstantTimeCompare(key, argon2.IDKey([]byte(password), salt, passes, memory, threads, uint32(len(key)))) == 1
}

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

// RandomPassword returns a password of four groups that can be read aloud.
func RandomPassword() string {
	const letters = "abcdefghjkmnpqrstuvwxyz23456789"
	raw := make([]byte, 16)
	rand.Read(raw)
	var b strings.Builder
	for i, r := range raw {
		if i > 0 && i%4 == 0 {
			b.WriteByte('-')
		}
		b.WriteByte(letters[int(r)%len(letters)])
	}
	return b.String()
}

// Errors of SignIn.
var (
	ErrWrong   = errors.New("the address or the password is not right")
	ErrTooMany = errors.New("too many tries")
)

// Desk signs people in and knows them again.
type Desk struct {
	store    *store.Store
	clock    clock.Clock
	sessions *scs.SessionManager

	mu     sync.Mutex
	limits map[string]*rate.Limiter // by remote address, and by person
}

// New returns the desk of the people in the store. secure: the cookie is sent
// over https only.
func New(st *store.Store, c clock.Clock, db *sql.DB, secure bool) *Desk {
	m := scs.New()
	m.Store = sqlite3store.New(db)
	m.Lifetime = 14 * 24 * time.Hour
	m.IdleTimeout = 3 * 24 * time.Hour
	m.Cookie.Name = "mastflag"
	m.Cookie.HttpOnly = true
	m.Cookie.SameSite = http.SameSiteStrictMode
	m.Cookie.Secure = secure
	return &Desk{store: st, clock: c, sessions: m, limits: map[string]*rate.Limiter{}}
}

// Sessions wraps handlers that need to know who asks.
func (d *Desk) Sessions(next http.Handler) http.Handler { return d.sessions.LoadAndSave(next) }

// dummy takes as long to check as a real hash, so that a wrong address is not
// told from a wrong password by time.
var dummy = sync.OnceValue(func() string { return HashPassword("no one has this password") })

// SignIn begins a session for whoever has that address and password.
func (d *Desk) SignIn(ctx context.Context, email, password, remote string) (store.Person, error) {
	p, err := d.Check(ctx, email, password, remote)
	if err != nil {
		return p, err
	}
	return p, d.Begin(ctx, p)
}

// Check returns whoever has that address and password. ErrWrong does not say
// which of the two was wrong. After five tries in a row one more is allowed
// every 20 seconds, for an address on the network and for a person.
func (d *Desk) Check(ctx context.Context, email, password, remote string) (store.Person, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	if !d.allow("remote "+remote) || !d.allow("person "+email) {
		return store.Person{}, ErrTooMany
	}
	p, err := d.store.Person(ctx, email)
	if errors.Is(err, store.ErrNotFound) {
		PasswordFits(dummy(), password)
		return store.Person{}, ErrWrong
	}
	if err != nil {
		return store.Person{}, err
	}
	if !PasswordFits(p.Password, password) {
		return store.Person{}, ErrWrong
	}
	d.forget("remote "+remote, "person "+email)
	return p, nil
}

// Begin begins a session for a person.
func (d *Desk) Begin(ctx context.Context, p store.Person) error {
	if err := d.sessions.RenewToken(ctx); err != nil {
		return err
	}
	d.sessions.Put(ctx, "person", p.Email)
	return nil
}

func (d *Desk) allow(who string) bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	if len(d.limits) > 10_000 { // a flood of names must not fill the memory
		clear(d.limits)
	}
	l := d.limits[who]
	if l == nil {
		l = rate.NewLimiter(rate.Every(20*time.Second), 5)
		d.limits[who] = l
	}
	return l.AllowN(d.clock.Now(), 1)
}

func (d *Desk) forget(who ...string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, w := range who {
		delete(d.limits, w)
	}
}

// SignOut ends the session.
func (d *Desk) SignOut(ctx context.Context) error { return d.sessions.Destroy(ctx) }

// Who returns the person of the session, or store.ErrNotFound.
func (d *Desk) Who(ctx context.Context) (store.Person, error) {
	email := d.sessions.GetString(ctx, "person")
	if email == "" {
		return store.Person{}, store.ErrNotFound
	}
	return d.store.Person(ctx, email)
}
