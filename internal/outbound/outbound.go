// Package outbound is how the program reaches what people name by an address:
// feeds, sites, and all that a site's pages lead a browser to. It connects to the
// public internet alone, and to what whoever runs the program has allowed.
package outbound

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"syscall"
	"time"
)

// dialTimeout is how long making a connection may take.
const dialTimeout = 10 * time.Second

// A Guard makes connections. What a name resolves to is judged at the moment of
// connecting, so that neither a redirect nor a name that changes leads inward.
type Guard struct {
	flag    string   // that allows more, for people
	allowed []string // as host:port, in lower case
	names   func(host string) string
}

// Options say what a Guard may reach beside the public internet.
type Options struct {
	// The flag that allows more, such as "--site-hosts".
	Flag string
	// Hosts as host:port, wherever they are.
	Allowed []string
	// What a name resolves to instead, "" for what the system says; tests only.
	Names func(host string) string
}

// New returns a guard.
func New(o Options) *Guard {
	g := &Guard{flag: o.Flag, names: o.Names}
	for _, a := range o.Allowed {
		g.allowed = append(g.allowed, strings.ToLower(strings.TrimSpace(a)))
	}
	return g
}

// HostPort returns the host and port that an origin is connected to by; "" if it
// is none.
func HostPort(origin string) string {
	u, err := url.Parse(origin)
	if err != nil || u.Hostname() == "" {
		return ""
	}
	port := u.Port()
	if port == "" {
		port = "80"
		if u.Scheme == "https" {
			port = "443"
		}
	}
	return net.JoinHostPort(u.Hostname(), port)
}

// A Private error refuses a connection to what is not the public internet. It does not say which
// address a name has there.
type Private struct {
	Host, Flag string
	Address    netip.Addr
}

func (p Private) Error() string {
	return fmt.Sprintf(
		"%s is on a private network: whoever runs the program can allow it with %s %s", p.Host, p.Flag, p.Host,
	)
}

// DialContext connects to host:port.
func (g *Guard) DialContext(ctx context.Context, network, address string) (net.Conn, error) {
	host, port, err := net.SplitHostPort(address)
	if err != nil {
		return nil, err
	}
	d := net.Dialer{Timeout: dialTimeout}
	if !slices.Contains(g.allowed, strings.ToLower(address)) {
		d.Control = func(_, at string, _ syscall.RawConn) error {
			// Here the name has been resolved: what it is called no longer matters.
			to, err := netip.ParseAddrPort(at)
			if err != nil {
				return err
			}
			if !Public(to.Addr()) {
				return Private{address, g.flag, to.Addr().Unmap()}
			}
			return nil
		}
	}
	at := address
	if g.names != nil {
		if to := g.names(host); to != "" {
			at = net.JoinHostPort(to, port)
		}
	}
	c, err := d.DialContext(ctx, network, at)
	var private Private
	if errors.As(err, &private) {
		return nil, private
	}
	if err != nil {
		return nil, FailureOf(err)
	}
	return failingConn{c}, nil
}

// Transport returns an http.RoundTripper that connects through the guard. No
// proxy of the environment is between.
func (g *Guard) Transport() *http.Transport {
	return &http.Transport{
		DialContext:            g.DialContext,
		TLSHandshakeTimeout:    dialTimeout,
		MaxResponseHeaderBytes: 64 << 10,
		IdleConnTimeout:        time.Minute,
		ForceAttemptHTTP2:      true,
	}
}

// specialPrefixes are networks that are not the public internet, beside those that
// net/netip knows (IANA special-purpose address registries, RFC 6890). Those
// that hold an IPv4 address within are there whole.
var specialPrefixes = []netip.Prefix{
	netip.MustParsePrefix("0.0.0.0/8"), netip.MustParsePrefix("100.64.0.0/10"), netip.MustParsePrefix("192.0.0.0/24"),
	netip.MustParsePrefix("192.0.2.0/24"), netip.MustParsePrefix("192.88.99.0/24"), netip.MustParsePrefix("198.18.0.0/15"),
	netip.MustParsePrefix("198.51.100.0/24"), netip.MustParsePrefix("203.0.113.0/24"),
	netip.MustParsePrefix("240.0.0.0/4"),
	netip.MustParsePrefix("::/96"), netip.MustParsePrefix("64:ff9b::/96"), netip.MustParsePrefix("64:ff9b:1::/48"),
	netip.MustParsePrefix("100::/64"), netip.MustParsePrefix("2001::/23"), netip.MustParsePrefix("2001:db8::/32"),
	netip.MustParsePrefix("2002::/16"), netip.MustParsePrefix("3fff::/20"), netip.MustParsePrefix("5f00::/16"),
	netip.MustParsePrefix("fec0::/10"),
}

// Public reports whether an address is on the public internet.
func Public(a netip.Addr) bool {
	a = a.Unmap().WithZone("")
	return a.IsGlobalUnicast() && !a.IsPrivate() && !slices.ContainsFunc(
		specialPrefixes, func(p netip.Prefix) bool { return p.Contains(a) },
	)
}
