package access

import (
	"context"
	"crypto/sha256"
	"errors"
	"maps"
	"net/http"
	"time"

	"mastflag/internal/store"
)

// How long a session lasts, and how long it may lie unused.
const (
	sessionLasts  = 14 * 24 * time.Hour
	sessionUnused = 3 * 24 * time.Hour
)

// cookie is the name of the one that holds a session's token: over https with
// the prefix that binds it to this host alone (RFC 6265bis §4.1.3.2).
func (a *Authenticator) cookie() string {
	if a.secure {
		return "__Host-mastflag"
	}
	return "mastflag"
}

func mark(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// Begin begins a session for a person, in the browser that is answered by w; ErrWrong where they
// are gone since they were read, or have another password.
func (a *Authenticator) Begin(ctx context.Context, w http.ResponseWriter, p store.Person, from From) error {
	token, _ := NewToken()
	now := a.clock.Now()
	s := store.Session{Mark: mark(token), Person: p.Email, Began: now, Seen: now, Agent: from.Agent}
	if from.Address.IsValid() {
		s.Address = from.Address.Unmap().String()
	}
	err := a.store.AddSession(ctx, s, a.network(p.Email, Network(from.Address)), p.Password)
	if errors.Is(err, store.ErrNotFound) {
		return ErrWrong
	}
	if err != nil {
		return err
	}
	a.put(w, token, int(sessionLasts/time.Second))
	return nil
}

func (a *Authenticator) put(w http.ResponseWriter, token string, seconds int) {
	http.SetCookie(w, &http.Cookie{
		Name:     a.cookie(),
		Value:    token,
		Path:     "/",
		MaxAge:   seconds,
		HttpOnly: true,
		Secure:   a.secure,
		SameSite: http.SameSiteStrictMode,
	})
}

// Who returns the session of a request and its person, or store.ErrNotFound. It
// writes nothing.
func (a *Authenticator) Who(r *http.Request) (store.Session, store.Person, error) {
	c, err := r.Cookie(a.cookie())
	if err != nil {
		return store.Session{}, store.Person{}, store.ErrNotFound
	}
	s, p, err := a.store.Session(r.Context(), mark(c.Value))
	if err != nil {
		return s, p, err
	}
	now := a.clock.Now()
	a.mu.Lock()
	if last := a.seen[string(s.Mark)]; last.After(s.Seen) {
		s.Seen = last
	}
	over := now.Sub(s.Began) >= sessionLasts || now.Sub(s.Seen) >= sessionUnused
	if !over {
		a.seen[string(s.Mark)] = now
	}
	a.mu.Unlock()
	if over {
		return store.Session{}, store.Person{}, store.ErrNotFound
	}
	return s, p, nil
}

// KeepSeen keeps when sessions were last used, and removes those that are over.
// What cannot be kept is told again the next time.
func (a *Authenticator) KeepSeen(ctx context.Context) error {
	a.mu.Lock()
	seen := maps.Clone(a.seen)
	a.mu.Unlock()
	if len(seen) == 0 {
		return nil
	}
	now := a.clock.Now()
	err := errors.Join(
		a.store.SeeSessions(ctx, seen), a.store.ForgetSessions(ctx, now.Add(-sessionLasts), now.Add(-sessionUnused)),
	)
	if err != nil {
		return err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	maps.DeleteFunc(a.seen, func(mark string, at time.Time) bool { return at.Equal(seen[mark]) })
	return nil
}

// End ends the session of a request, in its browser too.
func (a *Authenticator) End(w http.ResponseWriter, r *http.Request) error {
	s, _, err := a.Who(r)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err == nil {
		err = a.store.EndSession(r.Context(), s.Person, s.Mark)
	}
	if err == nil {
		a.put(w, "", -1)
	}
	return err
}
