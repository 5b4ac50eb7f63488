// Package server puts the program together: store, compiled sites, the API,
// delivery and the interface behind one address.
package server

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"mastflag/internal/access"
	"mastflag/internal/admin"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/delivery"
	"mastflag/internal/feeds"
	"mastflag/internal/inspect"
	"mastflag/internal/records"
	"mastflag/internal/sources"
	"mastflag/internal/standin"
	"mastflag/internal/store"
	"mastflag/internal/survey"
	"mastflag/internal/webui"
)

// Options are the settings of a server.
type Options struct {
	Base     string          // the address people reach it by, such as https://notices.example.org
	Clock    clock.Clock     // required
	Settable *clock.Settable // the same clock where it can be set: demo and tests only
	Sources  sources.Options // where places and referrers are read, and which proxies are trusted
	// Hosts, as host:port, that feeds may be read from though they are on a private network.
	FeedHosts []string
	// What sites are inspected with; the Chromium of this machine if nil.
	Inspector *inspect.Inspector
	// The demo site's badly behaved vendor; nil in production.
	Vendor *standin.Vendor
}

// Server is the program, ready to answer.
type Server struct {
	Store   *store.Store
	Hub     *compiled.Hub
	Admin   *admin.Admin
	Feeds   *feeds.Keeper
	Records *records.Keeper
	Inspect *inspect.Keeper
	Clock   clock.Clock
	Handler http.Handler
}

// New puts a server together over an open store.
func New(ctx context.Context, st *store.Store, o Options) (*Server, error) {
	hub, err := compiled.NewHub(ctx, st, o.Base)
	if err != nil {
		return nil, err
	}
	secret, err := st.Secret(ctx, "preview")
	if err != nil {
		return nil, err
	}
	secure := len(o.Base) > 8 && o.Base[:8] == "https://"
	hosts := o.FeedHosts
	if o.Settable != nil {
		hosts = append(hosts, strings.TrimPrefix(o.Base, "http://")) // where the stand-ins are
	}
	keeper := &feeds.Keeper{Store: st, Hub: hub, Clock: o.Clock, Fetch: feeds.NewFetcher(hosts)}
	inspector := o.Inspector
	if inspector == nil {
		inspector = inspect.New()
	}
	inspections := &inspect.Keeper{Store: st, Hub: hub, Clock: o.Clock, Inspector: inspector, Base: o.Base}
	a := &admin.Admin{Feeds: keeper, Inspect: inspections, Vendor: o.Vendor, Store: st, Hub: hub, Access: access.New(st, o.Clock, st.DB, secure), Clock: o.Clock, Settable: o.Settable, Survey: survey.New(), Secret: secret, Base: o.Base}
	source, err := sources.New(o.Sources)
	if err != nil {
		return nil, err
	}
	ledger := records.NewKeeper(st)
	d, err := delivery.New(hub, st, o.Base, o.Clock, secret, a, source, ledger)
	if err != nil {
		return nil, err
	}

	gin.SetMode(gin.ReleaseMode)
	public := gin.New()
	public.Use(gin.CustomRecovery(func(c *gin.Context, what any) {
		slog.Error("panic", "path", c.Request.URL.Path, "what", what)
		c.AbortWithStatus(http.StatusInternalServerError)
	}))
	public.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	public.GET("/readyz", func(c *gin.Context) {
		if err := st.Ready(c.Request.Context()); err != nil {
			c.String(http.StatusServiceUnavailable, "the store cannot be read\n")
			return
		}
		c.String(http.StatusOK, "ready\n")
	})
	d.Routes(public)
	outlets{st, hub, o.Base, o.Clock}.routes(public)
	if o.Settable != nil {
		a.Weather = standin.NewWeatherOffice(o.Clock)
		public.GET(standin.WeatherPath, gin.WrapH(a.Weather))
	}
	public.NoRoute(webui.Serve)

	// Only the API knows sessions, so that sites' requests never touch them.
	api := gin.New()
	api.Use(gin.Recovery())
	a.Mount(api)
	api.NoRoute(webui.Serve)
	known := a.Access.Sessions(api)
	handler := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if strings.HasPrefix(r.URL.Path, "/api/") {
			known.ServeHTTP(w, r)
			return
		}
		public.ServeHTTP(w, r)
	})
	return &Server{Store: st, Hub: hub, Admin: a, Feeds: keeper, Records: ledger, Inspect: inspections, Clock: o.Clock, Handler: handler}, nil
}

// Run answers on the listener until ctx ends, then finishes what it took in.
// It compiles sites anew when another process writes to the store, asks
// feeds, and erases records that have been kept long enough.
func (s *Server) Run(ctx context.Context, l net.Listener) error {
	go s.follow(ctx)
	go s.Feeds.Run(ctx)
	go s.expire(ctx)
	go s.Inspect.Run(ctx)
	return Serve(ctx, l, s.Handler)
}

// Serve answers on the listener until ctx ends, then finishes what it took in.
func Serve(ctx context.Context, l net.Listener, h http.Handler) error {
	hs := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 30 * time.Second, IdleTimeout: 2 * time.Minute}
	failed := make(chan error, 1)
	go func() { failed <- hs.Serve(l) }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	stop, cancel := context.WithTimeout(context.WithoutCancel(ctx), 15*time.Second)
	defer cancel()
	if err := hs.Shutdown(stop); err != nil {
		return fmt.Errorf("stopping: %w", err)
	}
	if err := <-failed; !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

// expire erases records that have been kept long enough, now and every hour.
func (s *Server) expire(ctx context.Context) {
	erase := func() {
		if n, err := s.Records.Expire(ctx, s.Clock.Now()); err != nil && ctx.Err() == nil {
			slog.Error("erasing records that were kept long enough", "error", err)
		} else if n > 0 {
			slog.Info("erased records that were kept long enough", "records", n)
		}
	}
	erase()
	clock.Every(ctx, time.Hour, erase)
}

func (s *Server) follow(ctx context.Context) {
	w, err := s.Store.Watch(ctx)
	if err != nil {
		slog.Error("writes of other processes will not be noticed", "error", err)
		return
	}
	defer w.Close()
	last, _ := s.Store.Stamp(ctx)
	clock.Every(ctx, time.Second, func() {
		changed, err := w.Changed(ctx)
		if err == nil && changed {
			var stamp string
			if stamp, err = s.Store.Stamp(ctx); err == nil && stamp != last {
				last, err = stamp, s.Hub.ReloadAll(ctx)
			}
		}
		if err != nil && ctx.Err() == nil {
			slog.Error("following the store", "error", err)
		}
	})
}
