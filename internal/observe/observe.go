// Package observe lets whoever runs the program see what it does: figures for
// Prometheus, an id for each request, panics with their stack, who did what.
package observe

import (
	"crypto/subtle"
	"encoding/hex"
	"log/slog"
	"math/rand/v2"
	"net"
	"net/http"
	"net/netip"
	"runtime/debug"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"mastflag/internal/problem"
	"mastflag/internal/version"
)

// An Observer takes in what happens. Its metrics are its own, so that several
// programs can be in one process.
type Observer struct {
	registry *prometheus.Registry
	requests *prometheus.CounterVec
	seconds  *prometheus.HistogramVec
	panics   prometheus.Counter
	signIns  *prometheus.CounterVec
	token    string
	known    sync.Map // kind to figures
}

// New returns an observer. Whoever has the token, where it is not "", may read
// the metrics from anywhere.
func New(token string) *Observer {
	o := &Observer{
		registry: prometheus.NewRegistry(),
		token:    token,
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{
			Name: "mastflag_http_requests_total",
			Help: "Requests answered, by route, method and status.",
		}, []string{"route", "method", "status"}),
		seconds: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name:    "mastflag_http_request_seconds",
			Help:    "How long requests took, by route.",
			Buckets: []float64{.0005, .001, .0025, .005, .01, .025, .05, .1, .25, .5, 1, 2.5, 10},
		}, []string{"route"}),
		panics: prometheus.NewCounter(prometheus.CounterOpts{
			Name: "mastflag_panics_total",
			Help: "Requests that failed in a way the program does not know. Each is in the log with its stack.",
		}),
		signIns: prometheus.NewCounterVec(prometheus.CounterOpts{
			Name: "mastflag_sign_ins_total",
			Help: "Tries to sign in, by whether they were done or refused.",
		}, []string{"outcome"}),
	}
	build := prometheus.NewGaugeFunc(prometheus.GaugeOpts{
		Name:        "mastflag_build_info",
		Help:        "1; the version is in the label.",
		ConstLabels: prometheus.Labels{"version": version.Build()},
	}, func() float64 { return 1 })
	o.registry.MustRegister(
		o.requests, o.seconds, o.panics, o.signIns, build, collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}),
	)
	return o
}

// Gauge has a figure read whenever metrics are.
func (o *Observer) Gauge(name, help string, read func() float64) {
	o.registry.MustRegister(prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, read))
}

// Count has a figure that only grows read whenever metrics are.
func (o *Observer) Count(name, help string, read func() float64) {
	o.registry.MustRegister(prometheus.NewCounterFunc(prometheus.CounterOpts{Name: name, Help: help}, read))
}

// SignIn counts a try to sign in, by how it went: done or refused.
func (o *Observer) SignIn(outcome string) { o.signIns.WithLabelValues(outcome).Inc() }

// requestHeader is the header in its usual form that has a request's id.
const requestHeader = "X-Request-Id"

// Watch returns what every request goes through: it gets an id, which stands in
// the reply and in the log, is counted and timed by its route, and a panic in it
// becomes a problem, with its stack in the log.
func (o *Observer) Watch() gin.HandlerFunc {
	return func(c *gin.Context) {
		began := time.Now()
		// A decision is asked for by every page view, and nobody asks after one that
		// went well: it gets an id only where something is to be said of it.
		if !strings.HasPrefix(c.Request.URL.Path, "/d/") {
			Request(c)
		}
		defer func() {
			what := recover()
			if what == http.ErrAbortHandler {
				panic(what)
			}
			if what != nil {
				id := Request(c)
				o.panics.Inc()
				slog.Error(
					"panic", "request", id, "method", c.Request.Method, "path", c.Request.URL.Path, "what", what, "stack",
					string(debug.Stack()),
				)
				c.Abort()
				if !c.Writer.Written() {
					problem.Write(c, problem.Problem{
						Status: http.StatusInternalServerError,
						Title:  "Something went wrong",
						Detail: "The program met something unexpected. Try again; if it happens again, the log says more " +
							"under request " + id + ".",
					})
				}
			}
			route := c.FullPath()
			if route == "" {
				route = "other"
			}
			f := o.figures(kind{route, method(c.Request.Method), c.Writer.Status()})
			f.requests.Inc()
			f.seconds.Observe(time.Since(began).Seconds())
		}()
		c.Next()
	}
}

// A kind is what requests are counted by. There are as many as routes, methods
// and statuses make: addresses that no route has are one.
type kind struct {
	route, method string
	status        int
}

// method is a request's method, one word for all that HTTP does not know.
func method(m string) string {
	switch m {
	case http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodDelete, http.MethodOptions:
		return m
	}
	return "other"
}

type figures struct {
	requests prometheus.Counter
	seconds  prometheus.Observer
}

// figures are those of a kind, found without its labels being joined each time.
func (o *Observer) figures(k kind) figures {
	if f, ok := o.known.Load(k); ok {
		return f.(figures)
	}
	f := figures{o.requests.WithLabelValues(k.route, k.method, strconv.Itoa(k.status)), o.seconds.WithLabelValues(k.route)}
	o.known.Store(k, f)
	return f
}

func newID() string {
	var raw [8]byte
	n := rand.Uint64()
	for i := range raw {
		raw[i] = byte(n >> (8 * i))
	}
	return hex.EncodeToString(raw[:])
}

// Request returns the id of a request, which stands in the headers of its reply.
func Request(c *gin.Context) string {
	h := c.Writer.Header()
	if id := h.Get(requestHeader); id != "" {
		return id
	}
	id := newID()
	h.Set(requestHeader, id)
	return id
}

// Metrics answers with the figures: to this machine, where no proxy stands
// between, and to whoever has the token.
func (o *Observer) Metrics() gin.HandlerFunc {
	serve := promhttp.HandlerFor(o.registry, promhttp.HandlerOpts{})
	return func(c *gin.Context) {
		given, _ := strings.CutPrefix(c.GetHeader("Authorization"), "Bearer ")
		knows := o.token != "" && subtle.ConstantTimeCompare([]byte(given), []byte(o.token)) == 1
		if !knows && !direct(c.Request) {
			problem.Write(c, problem.Problem{
				Status: http.StatusNotFound,
				Title:  "No such address",
				Detail: "Metrics are read on the machine itself, or with the token of --metrics-token.",
			})
			return
		}
		serve.ServeHTTP(c.Writer, c.Request)
	}
}

// direct reports whether a request comes from this machine and through no
// proxy, as far as that can be seen.
func direct(r *http.Request) bool {
	at, err := netip.ParseAddrPort(r.RemoteAddr)
	if err != nil || !at.Addr().Unmap().IsLoopback() {
		return false
	}
	for _, h := range []string{"Forwarded", "X-Forwarded-For", "X-Forwarded-Host", "X-Real-Ip", "Via"} {
		if r.Header.Get(h) != "" {
			return false
		}
	}
	host := r.Host
	if h, _, err := net.SplitHostPort(host); err == nil {
		host = h
	}
	to, err := netip.ParseAddr(strings.Trim(host, "[]"))
	return host == "localhost" || err == nil && to.Unmap().IsLoopback()
}
