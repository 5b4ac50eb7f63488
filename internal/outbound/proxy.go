package outbound

import (
	"context"
	"errors"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/httputil"
	"strings"
	"sync"
	"time"
)

// A Proxy lets a browser out through a guard: an HTTP proxy (RFC 9110 §9.3.6)
// on an address of this machine.
type Proxy struct {
	Address string // host:port
	guard   *Guard
	server  *http.Server
	forward *httputil.ReverseProxy

	mu      sync.Mutex
	refused map[string]error // why, by host:port
}

// Proxy starts a proxy; Close ends it.
func (g *Guard) Proxy() (*Proxy, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	p := &Proxy{Address: l.Addr().String(), guard: g, refused: map[string]error{}}
	p.forward = &httputil.ReverseProxy{
		Rewrite:      func(*httputil.ProxyRequest) {}, // it names its address in full
		Transport:    g.Transport(),
		ErrorLog:     slog.NewLogLogger(slog.Default().Handler(), slog.LevelDebug),
		ErrorHandler: func(_ http.ResponseWriter, _ *http.Request, err error) { p.refuse(err) },
	}
	p.server = &http.Server{Handler: p, ReadHeaderTimeout: dialTimeout}
	go p.server.Serve(l)
	return p, nil
}

// Close ends the proxy and all connections that go through it.
func (p *Proxy) Close() error { return p.server.Close() }

// Refused returns why there was no connection to host:port, nil if none was
// refused.
func (p *Proxy) Refused(host string) error {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.refused[strings.ToLower(host)]
}

// maxRefused is how many refusals are remembered.
const maxRefused = 200

// refuse breaks the connection off: a reply would be taken for the site's.
func (p *Proxy) refuse(err error) {
	var private Private
	if errors.As(err, &private) {
		p.mu.Lock()
		if len(p.refused) < maxRefused {
			p.refused[strings.ToLower(private.Host)] = private
		}
		p.mu.Unlock()
	}
	panic(http.ErrAbortHandler)
}

func (p *Proxy) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.Method != http.MethodConnect {
		if r.URL.Scheme != "http" || r.URL.Host == "" {
			http.Error(w, "this is a proxy", http.StatusBadRequest)
			return
		}
		p.forward.ServeHTTP(w, r)
		return
	}
	ctx, cancel := context.WithTimeout(r.Context(), dialTimeout)
	defer cancel()
	there, err := p.guard.DialContext(ctx, "tcp", r.Host)
	if err != nil {
		p.refuse(err)
	}
	defer there.Close()
	hijacker, ok := w.(http.Hijacker)
	if !ok {
		panic(http.ErrAbortHandler)
	}
	here, buffered, err := hijacker.Hijack()
	if err != nil {
		return
	}
	defer here.Close()
	if _, err := here.Write([]byte("HTTP/1.1 200 Connected\r\n\r\n")); err != nil {
		return
	}
	done := make(chan struct{}, 2)
	pass := func(to net.Conn, from io.Reader) {
		io.Copy(to, from)
		to.SetDeadline(time.Now()) // the other way ends too
		done <- struct{}{}
	}
	go pass(there, buffered)
	go pass(here, there)
	<-done
	here.Close()
	there.Close()
	<-done
}
