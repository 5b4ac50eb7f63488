// Package feeds asks the feeds of sites for alerts, safely, and makes notices
// of what comes.
package feeds

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"syscall"
	"time"

	"mastflag/core/alert"
)

// patience is how long a feed may take to answer in full.
const patience = 10 * time.Second

// A Fetcher reads addresses that people have given: http and https alone, no
// private or local network but what is allowed, within limits of size and
// time, and without being led elsewhere.
type Fetcher struct {
	client   *http.Client
	limit    int64
	patience time.Duration
}

// NewFetcher returns a fetcher that may also read from these hosts, each as
// host:port, wherever they are.
func NewFetcher(allowed []string) *Fetcher {
	f := &Fetcher{limit: alert.MaxFeed, patience: patience}
	plain := &net.Dialer{Timeout: patience}
	guarded := &net.Dialer{Timeout: patience, Control: func(_, address string, _ syscall.RawConn) error {
		// Here the name has been resolved: what it is called no longer matters.
		at, err := netip.ParseAddrPort(address)
		if err != nil {
			return err
		}
		if !public(at.Addr()) {
			return fmt.Errorf("%s is on a private network", at.Addr())
		}
		return nil
	}}
	f.client = &http.Client{
		Timeout: patience,
		Transport: &http.Transport{
			DialContext: func(ctx context.Context, network, address string) (net.Conn, error) {
				if slices.Contains(allowed, address) {
					return plain.DialContext(ctx, network, address)
				}
				return guarded.DialContext(ctx, network, address)
			},
			MaxResponseHeaderBytes: 64 << 10, ResponseHeaderTimeout: patience, DisableCompression: true, // what is small packed may be large
		},
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

// special are networks that are not the public internet, beside those that
// net/netip knows (IANA special-purpose address registries, RFC 6890).
var special = []netip.Prefix{netip.MustParsePrefix("0.0.0.0/8"), netip.MustParsePrefix("100.64.0.0/10"), netip.MustParsePrefix("192.0.0.0/24"), netip.MustParsePrefix("192.0.2.0/24"), netip.MustParsePrefix("198.18.0.0/15"),
	netip.MustParsePrefix("198.51.100.0/24"), netip.MustParsePrefix("203.0.113.0/24"), netip.MustParsePrefix("240.0.0.0/4"), netip.MustParsePrefix("64:ff9b::/96"), netip.MustParsePrefix("64:ff9b:1::/48"), netip.MustParsePrefix("100::/64"), netip.MustParsePrefix("2001:db8::/32"), netip.MustParsePrefix("2002::/16")}

func public(a netip.Addr) bool {
	a = a.Unmap()
	return a.IsGlobalUnicast() && !a.IsPrivate() && !slices.ContainsFunc(special, func(p netip.Prefix) bool { return p.Contains(a) })
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
