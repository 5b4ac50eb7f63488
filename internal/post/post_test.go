package post_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/form"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/contacts"
	"mastflag/internal/mail"
	"mastflag/internal/post"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// A web that keeps when what was sent to which host, and how long it was given; hosts that begin
// with "hang" never answer, those that begin with "down" cannot be reached.
type web struct {
	mu    sync.Mutex
	sent  map[string][]time.Duration // since the start
	given map[string][]time.Duration
	start time.Time
}

func (w *web) RoundTrip(r *http.Request) (*http.Response, error) {
	w.mu.Lock()
	host := r.URL.Host
	w.sent[host] = append(w.sent[host], time.Since(w.start))
	if ends, ok := r.Context().Deadline(); ok {
		w.given[host] = append(w.given[host], time.Until(ends).Round(time.Second))
	}
	w.mu.Unlock()
	switch {
	case strings.HasPrefix(host, "hang"):
		<-r.Context().Done()
		return nil, r.Context().Err()
	case strings.HasPrefix(host, "down"):
		return nil, errors.New("connection refused")
	}
	return &http.Response{StatusCode: 204, Body: io.NopCloser(strings.NewReader(""))}, nil
}

// to are the tries that a host got.
func (w *web) to(host string) []time.Duration {
	w.mu.Lock()
	defer w.mu.Unlock()
	return append([]time.Duration{}, w.sent[host]...)
}

// newCarrier returns a carrier with two sites, and a function that has a contact of a site go out
// to an address.
func newCarrier(t *testing.T) (*post.Carrier, *web, func(site, address string)) {
	t.Helper()
	st, err := store.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	for _, key := range []string{"a", "b"} {
		require.NoError(t, st.AddSite(t.Context(), bundle.Site{Key: key, Name: key, TimeZone: "UTC", Language: "en"}))
		shown, err := json.Marshal(compiled.Shown{Form: &compiled.ShownForm{}})
		require.NoError(t, err)
		require.NoError(t, st.KeepShown(t.Context(), key, map[string][]byte{"hash": shown}, true, time.Now()))
	}
	w := &web{sent: map[string][]time.Duration{}, given: map[string][]time.Duration{}, start: time.Now()}
	c := &post.Carrier{
		Store: st, Clock: clock.System{}, Web: w, Office: standin.NewPostOffice(st.Dir(), mail.Sender{}),
	}
	n := 0
	return c, w, func(site, address string) {
		t.Helper()
		n++
		wrong, err := st.AddContacts(t.Context(), []store.NewContact{{
			Site: site,
			Contact: form.Contact{
				ID: fmt.Sprintf("%032x", n), At: time.Now(), Shown: "hash",
				Expires: time.Now().AddDate(1, 0, 0),
			},
		}})
		require.NoError(t, errors.Join(append(wrong, err)...))
		require.NoError(t, st.AddOutgoing(t.Context(), store.Outgoing{
			Site: site, Kind: store.OutWeb, Contact: fmt.Sprintf("%032x", n), Recipient: address,
			Key: fmt.Sprintf("%032x", n), At: time.Now(),
		}))
	}
}

// carries has a carrier run, and returns what ends it with all that is under way.
func carries(t *testing.T, c *post.Carrier) func() {
	ctx, stop := context.WithCancel(t.Context())
	go c.Run(ctx)
	return func() {
		stop()
		time.Sleep(time.Minute)
		c.Store.Close()
	}
}

// A receiver that hangs, with a long backlog, holds up nobody else: neither another receiver of
// its site, nor another site, nor letters. It is left alone for longer and longer, and given less
// time.
func TestOneReceiverThatHangs(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		c, w, add := newCarrier(t)
		for range 200 {
			add("a", "https://hang.example/in")
		}
		add("a", "https://fine.example/in")
		add("b", "https://other.example/in")
		require.NoError(t, c.Store.AddOutgoing(t.Context(), store.Outgoing{
			Site: "a", Kind: store.OutMail, Contact: fmt.Sprintf("%032x", 1), Recipient: "b@b.example",
			Key: "0123456789abcdef0123456789abcdef", At: time.Now(),
		}))
		ctx, stop := context.WithCancel(t.Context())
		done := make(chan struct{})
		go func() {
			c.Run(ctx)
			close(done)
		}()
		time.Sleep(time.Second)
		assert.Len(t, w.to("fine.example"), 1, "of the same site")
		assert.Len(t, w.to("other.example"), 1, "of another site")
		assert.Len(t, w.to("hang.example"), 2, "so many at once")
		letters, err := c.Store.Messages(t.Context(), "")
		require.NoError(t, err)
		assert.Len(t, letters, 1, "a letter")

		time.Sleep(2 * time.Hour)
		tries := len(w.to("hang.example"))
		assert.Less(t, tries, 20, "a receiver that fails is left alone")
		assert.Equal(t, 20*time.Second, w.given["hang.example"][0])
		assert.Equal(t, 5*time.Second, w.given["hang.example"][tries-1])
		add("a", "https://fine.example/in")
		time.Sleep(31 * time.Second)
		assert.Len(t, w.to("fine.example"), 2)

		// The program stops within seconds, and what did not go out waits.
		for { // until something is under way
			if n := len(w.to("hang.example")); n > tries {
				break
			}
			time.Sleep(time.Second)
		}
		add("b", "https://hang-anew.example/in") // which is given its whole time
		for len(w.to("hang-anew.example")) == 0 {
			time.Sleep(time.Second)
		}
		began := time.Now()
		stop()
		<-done
		assert.LessOrEqual(t, time.Since(began), 7*time.Second)
		waiting, givenUp, err := c.Store.CountOutgoing(t.Context())
		require.NoError(t, err)
		assert.Equal(t, []int{201, 0}, []int{waiting, givenUp})
		synctest.Wait()
		c.Store.Close()
	})
}

// Sites take turns, and one with many receivers that hang leaves places for others.
func TestSitesTakeTurns(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		c, w, add := newCarrier(t)
		for i := range 60 {
			add("a", fmt.Sprintf("https://hang%d.example/in", i))
		}
		for range 10 {
			add("b", "https://other.example/in")
		}
		defer carries(t, c)()
		time.Sleep(time.Second)
		assert.Len(t, w.to("other.example"), 10)
	})
}

// What nobody took for four days is given up, whether or not it had its turn; before, a receiver
// that comes back gets all of it.
func TestAReceiverComesBack(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		c, w, add := newCarrier(t)
		for range 20 {
			add("a", "https://down.example/in")
		}
		defer carries(t, c)()
		time.Sleep(24 * time.Hour)
		assert.Less(t, len(w.to("down.example")), 60)
		_, err := c.Store.DB().Exec("UPDATE outgoing SET recipient = replace(recipient, 'down', 'back')")
		require.NoError(t, err)
		time.Sleep(7 * time.Hour)
		assert.Len(t, w.to("back.example"), 20)
		add("a", "https://down.example/in")
		time.Sleep(4*24*time.Hour + 7*time.Hour)
		_, givenUp, err := c.Store.CountOutgoing(t.Context())
		require.NoError(t, err)
		assert.Equal(t, 1, givenUp)
	})
}

// The machine's clock was a month ahead: what waits by it goes out within hours all the same.
func TestAClockThatWasAhead(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		c, w, add := newCarrier(t)
		add("a", "https://fine.example/in")
		require.NoError(t, c.Store.HoldOutgoing(t.Context(), "fine.example", time.Now().Add(30*24*time.Hour)))
		defer carries(t, c)()
		time.Sleep(time.Minute)
		assert.Empty(t, w.to("fine.example"))
		_, err := c.Expire(t.Context(), contacts.NewKeeper(c.Store))
		require.NoError(t, err)
		time.Sleep(6*time.Hour + time.Minute)
		assert.Len(t, w.to("fine.example"), 1)
	})
}

// A mail server that takes the connection and then says nothing holds a letter no longer than it
// is given, and stopping ends it.
func TestAMailServerThatHangs(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			defer c.Close()
		}
	}()
	server, err := mail.NewServer("smtp://"+l.Addr().String()+"?tls=none", "")
	require.NoError(t, err)
	ctx, stop := context.WithCancel(t.Context())
	sent := make(chan error)
	go func() {
		sent <- server.Send(ctx, []byte("From: a@a.example\r\nTo: b@b.example\r\nSubject: x\r\n\r\nx\r\n"))
	}()
	stop()
	select {
	case err := <-sent:
		assert.Error(t, err)
	case <-time.After(10 * time.Second):
		t.Error("the letter is still under way")
	}
}
