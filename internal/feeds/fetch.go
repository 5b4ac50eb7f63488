// Package feeds asks the feeds of sites for alerts, safely, and makes notices
// of what comes.
package feeds

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"time"

	"mastflag/core/alert"
	"mastflag/internal/outbound"
)

// requestTimeout is how long a feed may take to answer in full.
const requestTimeout = 10 * time.Second

// A Fetcher reads addresses that people have given: http and https alone, no
// private or local network but what is allowed, within limits of size and
// time, and without being led elsewhere.
type Fetcher struct {
	client   *http.Client
	limit    int64
	patience time.Duration
}

// NewFetcher returns a fetcher that reaches out through a guard.
func NewFetcher(g *outbound.Guard) *Fetcher {
	f := &Fetcher{limit: alert.MaxFeed, patience: requestTimeout}
	t := g.Transport()
	t.ResponseHeaderTimeout, t.DisableCompression = requestTimeout, true // what is small packed may be large
	f.client = &http.Client{
		Timeout:   requestTimeout,
		Transport: t,
		CheckRedirect: func(r *http.Request, via []*http.Request) error {
			first := via[0].URL
			if r.URL.Host != first.Host || r.URL.Scheme != first.Scheme {
				return fmt.Errorf("it leads elsewhere, to %s", r.URL.Host)
			}
			if len(via) > 3 {
				return errors.New("it leads around in circles")
			}
			return nil
		},
	}
	return f
}

// An answer is what a feed answered.
type answer struct {
	body           []byte
	etag, modified string
	same           bool // as it was when these were given
}

// get reads an address. etag and modified are those of the last answer, "" for
// none (RFC 9110 §13.1). The error says what to do.
func (f *Fetcher) get(ctx context.Context, address, etag, modified string) (answer, error) {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
		return answer{}, fmt.Errorf("%q is no http or https address", address)
	}
	ctx, cancel := context.WithTimeout(ctx, f.patience)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return answer{}, err
	}
	req.Header.Set("Accept", "application/cap+xml, application/atom+xml, application/xml;q=0.9, text/xml;q=0.9")
	req.Header.Set("User-Agent", "MastFlag")
	if etag != "" {
		req.Header.Set("If-None-Match", etag)
	}
	if modified != "" {
		req.Header.Set("If-Modified-Since", modified)
	}
	res, err := f.client.Do(req)
	if err != nil {
		var ue *url.Error
		if errors.As(err, &ue) {
			err = ue.Err
		}
		if errors.Is(err, context.DeadlineExceeded) {
			return answer{}, fmt.Errorf("it did not answer within %s", f.patience)
		}
		return answer{}, fmt.Errorf("it could not be reached: %w", err)
	}
	defer res.Body.Close()
	switch {
	case res.StatusCode == http.StatusNotModified:
		return answer{same: true, etag: etag, modified: modified}, nil
	case res.StatusCode != http.StatusOK:
		return answer{}, fmt.Errorf("it answered %s", res.Status)
	case res.ContentLength > f.limit:
		return answer{}, fmt.Errorf("it is larger than %d MB", f.limit>>20)
	}
	body, err := io.ReadAll(io.LimitReader(res.Body, f.limit+1))
	switch {
	case errors.Is(err, context.DeadlineExceeded):
		return answer{}, fmt.Errorf("it did not answer in full within %s", f.patience)
	case err != nil:
		return answer{}, fmt.Errorf("it broke off: %w", err)
	case int64(len(body)) > f.limit:
		return answer{}, fmt.Errorf("it is larger than %d MB", f.limit>>20)
	}
	return answer{body: body, etag: res.Header.Get("ETag"), modified: res.Header.Get("Last-Modified")}, nil
}
