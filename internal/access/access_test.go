package access_test

import (
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/rights"
	"mastflag/internal/access"
	"mastflag/internal/clock"
	"mastflag/internal/store"
)

const email, password = "ines@s.example", "five islands"

// cheap is a hash of the password with the parameters of an earlier version, so
// that many tries take little time.
const cheap = "$argon2id$v=19$m=64,t=1,p=4$AAAAAAAAAAAAAAAAAAAAAA$Vx3nxBqEaoYc3KFZx1pYKQ"

var start = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

type door struct {
	*access.Authenticator
	t     *testing.T
	st    *store.Store
	clock *clock.Settable
	dir   string
}

func newDoor(t *testing.T) *door {
	t.Helper()
	d := &door{t: t, clock: &clock.Settable{}, dir: t.TempDir()}
	d.clock.Set(start)
	var err error
	d.st, err = store.Open(t.Context(), d.dir)
	require.NoError(t, err)
	t.Cleanup(func() { d.st.Close() })
	d.person(email)
	d.Authenticator = access.New(d.st, d.clock, []byte("secret"), false)
	return d
}

// person lets someone in by a cheap hash.
func (d *door) person(email string) {
	d.t.Helper()
	require.NoError(d.t, d.st.AddPerson(d.t.Context(), store.Person{
		Email:    email,
		Name:     "Ines",
		Role:     rights.Administrator,
		Password: cheap,
	}))
}

func from(address string) access.From {
	return access.From{Address: netip.MustParseAddr(address), Agent: "Firefox on Linux"}
}

// tries makes wrong tries and returns how many were taken.
func (d *door) tries(n int, email, address string) (taken int) {
	d.t.Helper()
	for range n {
		_, err := d.Check(d.t.Context(), email, "a guess", from(address))
		if err == access.ErrWrong {
			taken++
		} else {
			require.ErrorAs(d.t, err, &access.TooMany{})
		}
	}
	return taken
}

// begin signs in and returns the cookie.
func (d *door) begin(address string) *http.Cookie {
	d.t.Helper()
	p, err := d.Check(d.t.Context(), email, password, from(address))
	require.NoError(d.t, err)
	w := httptest.NewRecorder()
	require.NoError(d.t, d.Begin(d.t.Context(), w, p, from(address)))
	return w.Result().Cookies()[0]
}

func (d *door) who(c *http.Cookie) error {
	r := httptest.NewRequest("GET", "/", nil)
	r.AddCookie(c)
	_, _, err := d.Who(r)
	return err
}

// Guesses from elsewhere do not lock people out where they have signed in
// before; and where they have not, no longer than the longest wait.
func TestGuessesLockNobodyOut(t *testing.T) {
	d := newDoor(t)
	d.begin("9.9.9.9")
	assert.Equal(t, 6, d.tries(12, email, "8.8.4.4"), "one person from one network: five at once, the sixth, then later")
	for i := range 40 { // from many networks
		d.tries(1, email, netip.AddrFrom4([4]byte{11, 0, byte(i), 1}).String())
	}
	_, err := d.Check(t.Context(), email, password, from("12.0.0.1"))
	var many access.TooMany
	require.ErrorAs(t, err, &many, "from a network where they never were")
	assert.LessOrEqual(t, many.Wait, 15*time.Minute)
	d.begin("9.9.9.9")
	d.clock.Set(d.clock.Now().Add(many.Wait))
	d.begin("12.0.0.1")
}

func TestTriesAreTakenLaterAndLater(t *testing.T) {
	d := newDoor(t)
	d.tries(6, email, "8.8.4.4")
	var last time.Duration
	for range 8 {
		_, err := d.Check(t.Context(), email, "a guess", from("8.8.4.4"))
		var many access.TooMany
		require.ErrorAs(t, err, &many)
		assert.Greater(t, many.Wait, last)
		last = many.Wait
		d.clock.Set(d.clock.Now().Add(many.Wait))
		require.Equal(t, 1, d.tries(1, email, "8.8.4.4"))
	}
	_, err := d.CheckAgain(t.Context(), email, password)
	assert.NoError(t, err, "whoever is signed in changes their password all the same")
	// IPv6 counts by /64: another address of the same subscriber is the same.
	assert.Equal(
		t, access.Network(netip.MustParseAddr("2620:fe::1")), access.Network(netip.MustParseAddr("2620:fe::ffff:1:2:3")),
	)
	assert.NotEqual(
		t, access.Network(netip.MustParseAddr("2620:fe::1")), access.Network(netip.MustParseAddr("2620:fe:0:1::1")),
	)
	assert.Equal(t, access.Network(netip.MustParseAddr("9.9.9.9")), access.Network(netip.MustParseAddr("::ffff:9.9.9.9")))
	// One network tries many people.
	taken := 0
	for i := range 60 {
		someone := string(rune('a'+i%26)) + string(rune('a'+i/26)) + "@s.example"
		d.person(someone)
		taken += d.tries(1, someone, "7.7.7.7")
	}
	assert.Equal(t, 31, taken)
	// After an hour all is forgotten.
	d.clock.Set(d.clock.Now().Add(2 * time.Hour))
	d.begin("8.8.4.4")
}

// A machine's clock that is set back, by minutes or by days, has nobody wait longer than they would have.
func TestAClockThatIsSetBack(t *testing.T) {
	for _, by := range []time.Duration{time.Second, 30 * time.Minute, 24 * time.Hour} {
		d := newDoor(t)
		d.tries(6, email, "8.8.4.4")
		d.clock.Set(d.clock.Now().Add(-by))
		_, err := d.Check(t.Context(), email, password, from("8.8.4.4"))
		var many access.TooMany
		if errors.As(err, &many) {
			assert.LessOrEqual(t, many.Wait, 10*time.Second, by)
			d.clock.Set(d.clock.Now().Add(many.Wait))
		}
		d.begin("8.8.4.4")
	}
}

// Many who sign in at once share few hashes at a time: memory stays small, and
// all get in.
func TestAStormOfSignIns(t *testing.T) {
	d := newDoor(t)
	hash, err := access.HashPassword(t.Context(), password)
	require.NoError(t, err)
	for i := range 40 {
		require.NoError(t, d.st.AddPerson(t.Context(), store.Person{
			Email:    fmt.Sprintf("p%d@s.example", i),
			Role:     rights.Viewer,
			Password: hash,
		}))
	}
	var most atomic.Uint64
	done := make(chan struct{})
	go func() {
		for {
			select {
			case <-done:
				return
			case <-time.After(2 * time.Millisecond):
				var m runtime.MemStats
				runtime.ReadMemStats(&m)
				most.Store(max(most.Load(), m.HeapInuse))
			}
		}
	}()
	var wg sync.WaitGroup
	var in, busy atomic.Int32
	for i := range 40 {
		wg.Go(func() {
			_, err := d.Check(t.Context(), fmt.Sprintf("p%d@s.example", i), password, from("9.9.9.9"))
			switch err {
			case nil:
				in.Add(1)
			case access.ErrBusy:
				busy.Add(1)
			}
		})
	}
	wg.Wait()
	close(done)
	assert.EqualValues(t, 31, in.Load()+busy.Load(), "one network may try 31 times at once, whoever they are")
	assert.LessOrEqual(t, most.Load()>>20, uint64(300), "MB of heap")
	t.Logf("%d of 40 got in, %d were asked to come again, %d MB at most", in.Load(), busy.Load(), most.Load()>>20)
}

// What a browser holds lies nowhere in the data, nor in a copy of it; sessions
// end with the password, with the person, unused, and by hand.
func TestSessions(t *testing.T) {
	d := newDoor(t)
	c := d.begin("9.9.9.9")
	other := d.begin("9.9.9.9")
	assert.True(t, c.HttpOnly)
	assert.Equal(t, http.SameSiteStrictMode, c.SameSite)
	require.NoError(t, d.who(c))
	copied := filepath.Join(t.TempDir(), "copy.db")
	require.NoError(t, d.st.Backup(t.Context(), copied))
	for _, file := range []string{
		copied, filepath.Join(d.dir, store.FileName), filepath.Join(d.dir, store.FileName+"-wal"),
	} {
		raw, err := os.ReadFile(file)
		require.NoError(t, err)
		assert.NotContains(t, string(raw), c.Value, file)
		at, err := os.Stat(file)
		require.NoError(t, err)
		assert.Equal(t, os.FileMode(0o600), at.Mode().Perm(), file)
	}
	at, err := os.Stat(d.dir)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o700), at.Mode().Perm())

	list, err := d.st.Sessions(t.Context(), email)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "9.9.9.9", list[0].Address)
	assert.Equal(t, "Firefox on Linux", list[0].Agent)

	// Signed out in one, it goes on in the other.
	w, r := httptest.NewRecorder(), httptest.NewRequest("POST", "/", nil)
	r.AddCookie(other)
	require.NoError(t, d.End(w, r))
	assert.Negative(t, w.Result().Cookies()[0].MaxAge)
	assert.ErrorIs(t, d.who(other), store.ErrNotFound)
	require.NoError(t, d.who(c))

	// Used, it lasts; unused for three days, or two weeks old, it does not.
	for range 4 {
		d.clock.Set(d.clock.Now().Add(2 * 24 * time.Hour))
		require.NoError(t, d.who(c))
		require.NoError(t, d.KeepSeen(t.Context()))
	}
	d.clock.Set(d.clock.Now().Add(3 * 24 * time.Hour))
	assert.ErrorIs(t, d.who(c), store.ErrNotFound)
	c = d.begin("9.9.9.9")
	for range 14 {
		require.NoError(t, d.who(c))
		d.clock.Set(d.clock.Now().Add(24 * time.Hour))
	}
	assert.ErrorIs(t, d.who(c), store.ErrNotFound)
	require.NoError(t, d.KeepSeen(t.Context()))

	// A person who is removed and comes back is signed in nowhere.
	c = d.begin("9.9.9.9")
	p, err := d.st.Person(t.Context(), email)
	require.NoError(t, err)
	_, err = d.st.RemovePerson(t.Context(), email, d.clock.Now())
	require.NoError(t, err)
	require.NoError(t, d.st.AddPerson(t.Context(), p))
	assert.ErrorIs(t, d.who(c), store.ErrNotFound)
	for _, guess := range []string{"", "guess", strings.Repeat("A", 32)} {
		assert.ErrorIs(t, d.who(&http.Cookie{Name: c.Name, Value: guess}), store.ErrNotFound)
	}
}

// Over https the cookie is bound to this host and never sent in clear.
func TestTheCookieOverHTTPS(t *testing.T) {
	d := newDoor(t)
	a := access.New(d.st, d.clock, []byte("secret"), true)
	w := httptest.NewRecorder()
	require.NoError(t, a.Begin(t.Context(), w, store.Person{Email: email, Password: cheap}, from("9.9.9.9")))
	c := w.Result().Cookies()[0]
	assert.Equal(t, "__Host-mastflag", c.Name)
	assert.True(t, c.Secure)
	assert.Equal(t, "/", c.Path)
	assert.Empty(t, c.Domain)
}

func TestPasswordsAreHashed(t *testing.T) {
	hash := func() string {
		h, err := access.HashPassword(t.Context(), password)
		require.NoError(t, err)
		return h
	}
	fits := func(hash, password string) bool {
		ok, err := access.PasswordFits(t.Context(), hash, password)
		require.NoError(t, err)
		return ok
	}
	h := hash()
	assert.True(
		t, strings.HasPrefix(h, "$argon2id$v=19$m=65536,t=3,p=1$"),
		"RFC 9106 §4, memory and passes of the second recommended option",
	)
	assert.True(t, fits(h, password))
	assert.False(t, fits(h, "four islands"))
	assert.NotEqual(t, h, hash(), "salted")
	for _, bad := range []string{
		"", "$argon2id$", password, "$argon2i$v=19$m=1,t=1,p=1$AA$AA",
		"$argon2id$v=19$m=64,t=0,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAA", "$argon2id$v=19$m=99999999,t=1,p=1$AAAA$AAAA",
	} {
		assert.False(t, fits(bad, password), bad)
	}
	// A hash of an earlier version is read, and is one of today's after the next sign-in.
	d := newDoor(t)
	d.begin("9.9.9.9")
	p, err := d.st.Person(t.Context(), email)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(p.Password, "$argon2id$v=19$m=65536,t=3,p=1$"), p.Password)
	d.begin("9.9.9.9")
}
