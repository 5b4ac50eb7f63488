package contacts_test

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"os/exec"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/form"
	"mastflag/internal/contacts"
	"mastflag/internal/gather"
	"mastflag/internal/store"
)

var at = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

// open opens a store with one site in a folder.
func open(t testing.TB, dir string) *store.Store {
	t.Helper()
	st, err := store.Open(context.Background(), dir)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	err = st.AddSite(context.Background(), bundle.Site{Key: "s", Name: "S", TimeZone: "Europe/London", Language: "en"})
	if err != store.ErrExists {
		require.NoError(t, err)
	}
	return st
}

// contact is the n-th contact.
func contact(n int) form.Contact {
	return form.Contact{ID: fmt.Sprintf("%032x", n), At: at, Notice: "subscribe", Language: "en", Page: "/status",
		Expires: at.AddDate(1, 0, 0), Answers: []form.Answer{
			{Field: "mail", Kind: form.Email, Values: []string{fmt.Sprintf("visitor%d@visitor.example", n)}},
			{Field: "why", Kind: form.Long, Values: []string{"Because the boat is late, and it rains."}},
		}}
}

// passing is a form whose contacts are passed on.
var passing = form.Form{PassOn: []form.Receiver{{Mail: "desk@s.example"}}}

// Killed thirty times in the middle of the load, without a chance to finish: whatever was
// acknowledged is there, once, with what is to go out of it.
func TestKilled(t *testing.T) {
	const child, from = "MASTFLAG_TEST_CONTACTS", "MASTFLAG_TEST_FROM"
	if dir := os.Getenv(child); dir != "" {
		var first int
		fmt.Sscan(os.Getenv(from), &first)
		k := contacts.NewKeeper(open(t, dir))
		var mu sync.Mutex
		for w := range 32 {
			go func() {
				for n := first + w; ; n += 32 {
					if k.Add(context.Background(), "s", contact(n), passing) == nil {
						mu.Lock()
						fmt.Println("kept", n)
						mu.Unlock()
					}
				}
			}()
		}
		time.Sleep(time.Minute)
		return
	}
	dir := t.TempDir()
	var acknowledged []int
	for round := range 30 {
		cmd := exec.Command(os.Args[0], "-test.run=TestKilled$")
		cmd.Env = append(os.Environ(), child+"="+dir, fmt.Sprintf("%s=%d", from, round*100_000))
		out, err := cmd.StdoutPipe()
		require.NoError(t, err)
		require.NoError(t, cmd.Start())
		lines, these := bufio.NewScanner(out), 0
		for lines.Scan() {
			var n int
			if _, err := fmt.Sscanf(lines.Text(), "kept %d", &n); err == nil {
				acknowledged = append(acknowledged, n)
				these++
			}
			if these == 100+20*round { // each time at another moment
				require.NoError(t, cmd.Process.Kill())
			}
		}
		assert.Error(t, cmd.Wait(), "it was killed")
	}
	st := open(t, dir)
	for _, n := range acknowledged {
		_, err := st.Contact(t.Context(), "s", contact(n).ID)
		require.NoError(t, err, n)
	}
	all, err := st.CountContacts(t.Context(), "s", store.ContactFilter{})
	require.NoError(t, err)
	assert.GreaterOrEqual(t, all, len(acknowledged))
	waiting, _, err := st.CountOutgoing(t.Context())
	require.NoError(t, err)
	assert.Equal(t, all, waiting, "each goes out, under one key")
	// Told again, nothing is kept twice.
	k := contacts.NewKeeper(st)
	for _, n := range acknowledged[:200] {
		require.NoError(t, k.Add(t.Context(), "s", contact(n), passing))
	}
	again, _, err := st.CountOutgoing(t.Context())
	require.NoError(t, err)
	assert.Equal(t, all, again)
}

// Contacts a second, sent by many at once, beside as many rows put into the same file in batches
// of the same size with nothing worked out.
func BenchmarkContacts(b *testing.B) {
	const each = 20_000
	for b.Loop() {
		k := contacts.NewKeeper(open(b, b.TempDir()))
		began := time.Now()
		var wait sync.WaitGroup
		for w := range 1024 {
			wait.Go(func() {
				for n := w; n < each; n += 1024 {
					if err := k.Add(b.Context(), "s", contact(n), form.Form{}); err != nil {
						b.Error(err)
					}
				}
			})
		}
		wait.Wait()
		ours := time.Since(began)

		raw := open(b, b.TempDir())
		_, err := raw.DB().
			Exec("CREATE TABLE plain(site TEXT NOT NULL, id TEXT NOT NULL, at INTEGER NOT NULL, notice TEXT NOT " +
				"NULL, waiting INTEGER NOT NULL, expires INTEGER NOT NULL, words TEXT NOT NULL, doc TEXT NOT NULL, " +
				"PRIMARY KEY(site, " +
				"id)) STRICT, WITHOUT ROWID; CREATE INDEX plain_at ON plain(site, at); CREATE INDEX plain_until ON plain(expires)")
		require.NoError(b, err)
		doc, words := make([]byte, 520), make([]byte, 110)
		for i := range doc {
			doc[i] = 'x'
		}
		for i := range words {
			words[i] = 'y'
		}
		began = time.Now()
		for n := 0; n < each; n += gather.BatchSize {
			tx, err := raw.DB().Begin()
			require.NoError(b, err)
			insert, err := tx.Prepare("INSERT INTO plain VALUES('s', ?, ?, 'subscribe', 0, ?, ?, ?)")
			require.NoError(b, err)
			for i := n; i < min(n+gather.BatchSize, each); i++ {
				_, err := insert.Exec(fmt.Sprintf("%032x", i), i, i, string(words), string(doc))
				require.NoError(b, err)
			}
			require.NoError(b, tx.Commit())
		}
		plain := time.Since(began)
		b.ReportMetric(each/ours.Seconds(), "contacts/s")
		b.ReportMetric(each/plain.Seconds(), "rows/s")
		b.ReportMetric(plain.Seconds()/ours.Seconds(), "of-raw")
	}
}

// A form has addresses confirmed 500 times in an hour, a site 2,000 times; then it says how long
// that takes. Contacts without an address to confirm are not counted.
func TestLettersAreLimited(t *testing.T) {
	k := contacts.NewKeeper(open(t, t.TempDir()))
	n := 0
	add := func(notice string, f form.Form) error {
		n++
		c := contact(n)
		c.Notice = notice
		return k.Add(t.Context(), "s", c, f)
	}
	var many contacts.TooMany
	for i := range 4 {
		notice := fmt.Sprintf("form-%d", i)
		for range 500 {
			require.NoError(t, add(notice, form.Form{Confirm: "mail"}))
		}
		require.ErrorAs(t, add(notice, form.Form{Confirm: "mail"}), &many)
		assert.InDelta(t, time.Hour.Seconds()/500, many.Wait.Seconds(), 0.01)
	}
	require.ErrorAs(t, add("another", form.Form{Confirm: "mail"}), &many, "the site has no more")
	assert.InDelta(t, time.Hour.Seconds()/2000, many.Wait.Seconds(), 0.01)
	require.NoError(t, add("form-0", passing))
}
