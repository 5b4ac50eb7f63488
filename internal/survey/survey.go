// Package survey reads a site from outside: which pages it has, by its sitemaps
// (sitemaps.org protocol, robots.txt by RFC 9309), what they say of themselves, and
// whether each carries the snippet.
package survey

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"time"

	"mastflag/core/pages"
	"mastflag/internal/outbound"
	"mastflag/internal/store"
)

const (
	maxPage     = 2 << 20 // bytes, of a page
	concurrency = 4       // pages
	pageTimeout = 10 * time.Second
	mapTimeout  = 2 * time.Minute
)

// A Surveyor visits sites.
type Surveyor struct {
	client *http.Client
	slow   *http.Client // for what is large
	// wait returns after d, or with the error of ctx before.
	wait func(ctx context.Context, d time.Duration) error
}

// New returns a surveyor that stays on the origin it is sent to, and reaches out
// through a guard.
func New(g *outbound.Guard) *Surveyor {
	t := g.Transport()
	t.MaxIdleConnsPerHost = concurrency
	client := func(timeout time.Duration) *http.Client {
		return &http.Client{Timeout: timeout, Transport: t, CheckRedirect: stays}
	}
	return &Surveyor{client: client(pageTimeout), slow: client(mapTimeout), wait: wait}
}

// An astray error is about an address that leads to no page of the site.
type otherSiteError string

func (a otherSiteError) Error() string { return string(a) }

// stays refuses a redirect that leads to another site, or on and on.
func stays(r *http.Request, via []*http.Request) error {
	first, err := pages.Origin(via[0].URL.String())
	if err != nil {
		return err
	}
	if to, err := pages.Origin(r.URL.String()); err != nil || !pages.SameSite(first, to) {
		return otherSiteError(fmt.Sprintf("it leads to %s, which is another site", r.URL.Host))
	}
	if len(via) > 5 {
		return otherSiteError("it leads around in circles")
	}
	return nil
}

func wait(ctx context.Context, d time.Duration) error {
	t := time.NewTimer(d)
	defer t.Stop()
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-t.C:
		return nil
	}
}

// Survey finds the pages of a site at origin and reads them all. Pages come by path.
// The error says what to do.
func (s *Surveyor) Survey(ctx context.Context, origin string, look Sought) ([]store.Page, error) {
	origin, err := pages.Origin(origin)
	if err != nil {
		return nil, err
	}
	listing, err := s.List(ctx, origin)
	if err != nil {
		return nil, err
	}
	var list []store.Reading
	err = s.Read(ctx, origin, listing.Pages, look, func(r store.Reading) { list = append(list, r) })
	return Pages(list, nil), err
}

// An answer is what an address had.
type answer struct {
	body   []byte
	status int
	header http.Header
	// Of where it was found in the end, with the query.
	path string
}

// get reads an address, at most limit bytes of it.
func (s *Surveyor) get(ctx context.Context, address string, limit int64) (answer, error) {
	return s.getInto(ctx, new(bytes.Buffer), address, limit)
}

// getInto is get with the body in b, which it lies in until b is used again.
func (s *Surveyor) getInto(ctx context.Context, b *bytes.Buffer, address string, limit int64) (answer, error) {
	res, err := s.open(ctx, s.client, address)
	if err != nil {
		return answer{}, err
	}
	defer res.Body.Close()
	b.Reset()
	b.Grow(int(min(max(res.ContentLength, 0), limit)) + bytes.MinRead)
	_, err = b.ReadFrom(io.LimitReader(res.Body, limit+1))
	body := b.Bytes()
	if err == nil && int64(len(body)) > limit {
		body, err = body[:limit], tooLarge(limit)
	}
	return answer{body, res.StatusCode, res.Header, res.Request.URL.RequestURI()}, outbound.FailureOf(err)
}

// A tooLarge error is about something of more than so many bytes.
type tooLarge int64

func (t tooLarge) Error() string {
	if t < 1<<20 {
		return fmt.Sprintf("it is larger than %d KB", t>>10)
	}
	return fmt.Sprintf("it is larger than %d MB", t>>20)
}

// open asks for an address.
func (s *Surveyor) open(ctx context.Context, client *http.Client, address string) (*http.Response, error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return nil, err
	}
	r.Header.Set("User-Agent", agent+"/1")
	res, err := client.Do(r)
	var during *url.Error
	if errors.As(err, &during) {
		err = during.Err // the address is said already
	}
	return res, outbound.FailureOf(err)
}
