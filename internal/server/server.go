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
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"mastflag/internal/access"
	"mastflag/internal/admin"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/people"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/contacts"
	"mastflag/internal/counting"
	"mastflag/internal/delivery"
	"mastflag/internal/feeds"
	"mastflag/internal/inspect"
	"mastflag/internal/mail"
	"mastflag/internal/observe"
	"mastflag/internal/outbound"
	"mastflag/internal/post"
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
	// What sign-in and sessions go by; the machine's own if nil, whatever the clock
	// of the demo is set to.
	SessionClock clock.Clock
	Sources      sources.Options // where places and referrers are read, and which proxies are trusted
	// Hosts, as host:port, that feeds may be read from, and sites may lie on, though
	// they are on a private network.
	FeedHosts, SiteHosts []string
	// Hosts on private networks that contacts may be passed on to, as host:port.
	ContactHosts []string
	// The mail server, and whom letters come from; nil for the stand-in mailbox.
	Mail   *mail.Server
	Sender mail.Sender
	// The Chromium that sites are inspected with; "" to read pages over HTTP.
	Chromium       string
	WithoutSandbox bool
	// Who has it may read the metrics from anywhere; "" for nobody.
	MetricsToken string
	// The demo site's badly behaved vendor; nil in production.
	Vendor *standin.Vendor
	// What names resolve to on the way out; tests only.
	Names func(host string) string
}

// Server is the program, ready to answer.
type Server struct {
	Store    *store.Store
	Hub      *compiled.Hub
	Admin    *admin.Admin
	Access   *access.Authenticator
	Post     standin.PostOffice
	Feeds    *feeds.Keeper
	Records  *records.Keeper
	Contacts *contacts.Keeper
	Counter  *counting.Counter
	Carrier  *post.Carrier
	Inspect  *inspect.Keeper
	Survey   *survey.Keeper
	Clock    clock.Clock
	Observer *observe.Observer
	Handler  http.Handler
}

// New puts a server together over an open store.
func New(ctx context.Context, st *store.Store, o Options) (*Server, error) {
	hub, err := compiled.NewHub(ctx, st, o.Base, o.Clock)
	if err != nil {
		return nil, err
	}
	if err := st.CheckChains(ctx); err != nil {
		return nil, err
	}
	for site, why := range st.BrokenChains() {
		slog.Error(
			"a chain of records is broken and is not continued: mastflag verify-records says more",
			"site",
			site,
			"why",
			why,
		)
	}
	secret, err := st.Secret(ctx, "preview")
	if err != nil {
		return nil, err
	}
	own := outbound.HostPort(o.Base)
	secure := strings.HasPrefix(o.Base, "https://")
	feedHosts := slices.Clone(o.FeedHosts)
	if o.Settable != nil {
		feedHosts = append(feedHosts, own) // where the stand-ins are
	}
	toFeeds := outbound.New(outbound.Options{Flag: "--feed-hosts", Allowed: feedHosts, Names: o.Names})
	// Pages of a site fetch from the program, wherever that is.
	toSites := outbound.New(outbound.Options{
		Flag:    "--site-hosts",
		Allowed: append(slices.Clone(o.SiteHosts), own),
		Names:   o.Names,
	})
	source, err := sources.New(o.Sources)
	if err != nil {
		return nil, err
	}
	observer := observe.New(o.MetricsToken)
	s := &Server{
		Store:    st,
		Hub:      hub,
		Clock:    o.Clock,
		Observer: observer,
		Records:  records.NewKeeper(st),
		Contacts: contacts.NewKeeper(st),
		Counter:  counting.New(st),
		Post:     standin.NewPostOffice(st.Dir(), o.Sender),
	}
	contactHosts := slices.Clone(o.ContactHosts)
	if o.Settable != nil {
		contactHosts = append(contactHosts, own) // where the stand-in receiver is
	}
	s.Carrier = &post.Carrier{
		Store: st, Clock: o.Clock, Office: s.Post, Server: o.Mail, Secret: secret, Base: o.Base,
		Web: outbound.New(outbound.Options{Flag: "--contact-hosts", Allowed: contactHosts, Names: o.Names}).
			Transport(),
	}
	s.Contacts.Wake = s.Carrier.Wake
	s.Feeds = &feeds.Keeper{Store: st, Hub: hub, Clock: o.Clock, Fetch: feeds.NewFetcher(toFeeds)}
	s.Inspect = &inspect.Keeper{Store: st, Hub: hub, Clock: o.Clock, Base: o.Base,
		Inspector: &inspect.Inspector{Chromium: o.Chromium, Guard: toSites, WithoutSandbox: o.WithoutSandbox}}
	s.Survey = &survey.Keeper{Surveyor: survey.New(toSites), Store: st, Hub: hub, Clock: o.Clock}
	if o.SessionClock == nil {
		o.SessionClock = clock.System{}
	}
	s.Access = access.New(st, o.SessionClock, secret, secure)
	a := &admin.Admin{
		Feeds:    s.Feeds,
		Inspect:  s.Inspect,
		Vendor:   o.Vendor,
		Access:   s.Access,
		Post:     s.Post,
		Carrier:  s.Carrier,
		Settable: o.Settable,
		Survey:   s.Survey,
		Secret:   secret,
		Base: base.Base{
			Store:    st,
			Hub:      hub,
			Sources:  source,
			Clock:    o.Clock,
			Observer: observer,
			Address:  o.Base,
		},
	}
	s.Admin = a
	d, err := delivery.New(hub, st, o.Base, o.Clock, secret, a, source, s.Records, s.Contacts, s.Counter)
	if err != nil {
		return nil, err
	}
	s.gauges()

	gin.SetMode(gin.ReleaseMode)
	public := gin.New()
	// No address is right with a slash more: nothing is redirected, by a header of strangers least of all.
	public.RedirectTrailingSlash = false
	public.Use(observer.Watch())
	public.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	proxies := sourceOfProxies(source)
	public.GET("/readyz", proxies, s.ready)
	public.GET("/metrics", observer.Metrics())
	d.Routes(public)
	outlets{st, hub, o.Base, o.Clock}.routes(public)
	if o.Settable != nil {
		a.Weather = standin.NewWeatherOffice(o.Clock)
		public.GET(standin.WeatherPath, gin.WrapH(a.Weather))
		a.Receiver = standin.NewReceiver(o.Base, o.Clock, func(site string) ([]byte, error) {
			return st.Secret(context.Background(), post.SecretName(site))
		})
		public.POST(
			standin.ReceiverPath+"/:site",
			func(c *gin.Context) { a.Receiver.Take(c.Writer, c.Request, c.Param("site")) },
		)
	}
	public.NoRoute(webui.Serve)

	api := gin.New()
	api.RedirectTrailingSlash = false
	api.Use(observer.Watch(), proxies)
	a.Mount(api)
	api.NoRoute(webui.Serve)
	s.Handler = http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h["X-Content-Type-Options"] = nosniff
		if secure {
			h.Set("Strict-Transport-Security", "max-age=31536000")
			h.Set("Cross-Origin-Opener-Policy", "same-origin")
		}
		if strings.HasPrefix(r.URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
			// Looking at a site's styles takes long. Where there is no deadline to set, none holds.
			_ = http.NewResponseController(w).SetWriteDeadline(time.Now().Add(maxReply))
			api.ServeHTTP(w, r)
			return
		}
		public.ServeHTTP(w, r)
	})
	return s, nil
}

// nosniff is a header's value that every reply has.
var nosniff = []string{"nosniff"}

// How long a reply may take: of the API, and of all else.
const (
	maxReply  = 10 * time.Minute
	maxPublic = 30 * time.Second
)

// proxyHeader tells `mastflag doctor` that it reaches the program through a proxy that is not trusted.
const proxyHeader = "Mastflag-Proxy"

// sourceOfProxies says once in the log, and to whoever asks whether the program is ready, that requests come
// through a proxy that nobody has named: then all who come by it count as one.
func sourceOfProxies(source *sources.Sources) gin.HandlerFunc {
	var once sync.Once
	return func(c *gin.Context) {
		if c.GetHeader("X-Forwarded-For") != "" && !source.Trusts(c.Request) {
			if c.FullPath() == "/readyz" {
				c.Header(proxyHeader, "not trusted")
			}
			once.Do(func() {
				slog.Warn(
					"requests come through a proxy that is not among --trusted-proxies: all who come by it count as one, and places "+
						"are the proxy's",
					"proxy",
					c.Request.RemoteAddr,
				)
			})
		}
	}
}

// Troubles are sentences about what keeps the program from doing all it should,
// for one site, or for all where site is "".
func (s *Server) Troubles(site string) []string { return s.Admin.Troubles(site) }

// ready answers whether the program does all it should, and if not, what not.
func (s *Server) ready(c *gin.Context) {
	c.Header("Cache-Control", "no-store")
	if _, err := s.Store.Stamps(c.Request.Context()); err != nil {
		slog.Error("the data cannot be read", "error", err)
		c.String(http.StatusServiceUnavailable, "The data cannot be read.\n")
		return
	}
	if troubles := s.Troubles(""); len(troubles) > 0 {
		c.String(http.StatusServiceUnavailable, strings.Join(troubles, "\n")+"\n")
		return
	}
	c.String(http.StatusOK, "ready\n")
}

// gauges are the figures that are read when they are asked for.
func (s *Server) gauges() {
	s.Observer.Gauge(
		"mastflag_sites_behind", "Sites of which visitors get an earlier state than is kept.",
		func() float64 { return float64(len(s.Hub.Behind())) },
	)
	s.Observer.Gauge(
		"mastflag_chains_broken", "Sites whose chain of consent records is broken and is not continued.",
		func() float64 { return float64(len(s.Store.BrokenChains())) },
	)
	out := func(pick func(waiting, givenUp int) int) func() float64 {
		return func() float64 {
			waiting, givenUp, err := s.Store.CountOutgoing(context.Background())
			if err != nil {
				return -1
			}
			return float64(pick(waiting, givenUp))
		}
	}
	s.Observer.Gauge("mastflag_outgoing_waiting", "Letters and contacts that wait to go out.",
		out(func(waiting, _ int) int { return waiting }))
	s.Observer.Gauge("mastflag_outgoing_given_up", "Letters and contacts of the last 30 days that did not go out.",
		out(func(_, givenUp int) int { return givenUp }))
	s.Observer.Count("mastflag_count_batches_total", "Batches of acts on notices that were acknowledged.",
		func() float64 { batches, _ := s.Counter.Taken(); return float64(batches) })
	s.Observer.Count("mastflag_counted_acts_total", "Acts on notices in those batches.",
		func() float64 { _, acts := s.Counter.Taken(); return float64(acts) })
	for name, waiting := range map[string]func() int{
		"answers": s.Records.Waiting, "contacts": s.Contacts.Waiting, "counts": s.Counter.Waiting,
	} {
		s.Observer.Gauge("mastflag_"+name+"_queued", "How much of this kind waits to be written.",
			func() float64 { return float64(waiting()) })
	}
	s.Observer.Gauge(
		"mastflag_store_writable",
		"1 where the last write worked, 0 where nothing can be kept.",
		func() float64 {
			if s.Store.Trouble() != "" {
				return 0
			}
			return 1
		},
	)
}

// How long stopping takes at most: until requests are cut off, and until what goes on beside them
// is left as it is. Nothing that was acknowledged depends on either.
const (
	maxFinish = 10 * time.Second
	maxStop   = 13 * time.Second
)

// Run answers on the listener until ctx ends, then finishes what it took in, as far as that does
// not take longer than maxStop. It brings sites up to date when another process writes to the
// store, asks feeds, and erases records that have been kept long enough.
func (s *Server) Run(ctx context.Context, l net.Listener) error {
	var wg sync.WaitGroup
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	for _, work := range []func(context.Context){
		s.Hub.Run, s.Feeds.Run, s.expire, s.Inspect.Run, s.Survey.Run, s.keepSeen,
		s.Carrier.Run, s.Admin.Sources.Run,
	} {
		wg.Go(func() { work(ctx) })
	}
	late := make(chan struct{})
	context.AfterFunc(ctx, func() { time.AfterFunc(maxStop, func() { close(late) }) })
	err := Serve(ctx, l, s.Handler)
	stop()
	done := make(chan struct{})
	go func() {
		wg.Wait()
		close(done)
	}()
	select {
	case <-done: // nothing writes any more
	case <-late:
		slog.Warn("stopped with work under way: it is taken up again at the next start")
	}
	return err
}

// Serve answers on the listener until ctx ends, then finishes what it took in.
func Serve(ctx context.Context, l net.Listener, h http.Handler) error {
	hs := &http.Server{
		Handler:           h,
		ReadHeaderTimeout: 10 * time.Second,
		ReadTimeout:       30 * time.Second,
		WriteTimeout:      maxPublic,
		IdleTimeout:       2 * time.Minute,
	}
	failed := make(chan error, 1)
	go func() { failed <- hs.Serve(l) }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	stop, cancel := context.WithTimeout(context.WithoutCancel(ctx), maxFinish)
	defer cancel()
	if err := hs.Shutdown(stop); err != nil {
		slog.Warn("requests that were still under way are cut off", "error", err)
		if err := hs.Close(); err != nil {
			return fmt.Errorf("stopping: %w", err)
		}
	}
	if err := <-failed; !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

// expire erases records that have been kept long enough, letters that nobody took
// up, and which page views were counted, now and every hour.
func (s *Server) expire(ctx context.Context) {
	erase := func() {
		if n, err := s.Records.Expire(ctx, s.Clock.Now()); err != nil && ctx.Err() == nil {
			slog.Error("erasing records that were kept long enough", "error", err)
		} else if n > 0 {
			slog.Info("erased records that were kept long enough", "records", n)
		}
		if n, err := s.Carrier.Expire(ctx, s.Contacts); err != nil && ctx.Err() == nil {
			slog.Error("erasing contacts that were kept long enough, and what went out long ago", "error", err)
		} else if n > 0 {
			slog.Info("erased contacts that were kept long enough, or that nobody confirmed", "contacts", n)
		}
		if _, err := s.Counter.Expire(ctx, s.Clock.Now()); err != nil && ctx.Err() == nil {
			slog.Error("forgetting which page views were counted long ago", "error", err)
		}
		if err := s.Post.Clear(time.Now().Add(-people.InvitationLasts)); err != nil {
			slog.Error("removing letters that nobody took up", "error", err)
		}
	}
	erase()
	clock.Every(ctx, time.Hour, erase)
}

// keepSeen keeps when sessions were last used, every minute and at the end, and takes out what
// could not be erased wholly before.
func (s *Server) keepSeen(ctx context.Context) {
	keep := func() {
		if err := s.Access.KeepSeen(context.WithoutCancel(ctx)); err != nil {
			slog.Warn("when sessions were last used was not kept; it is tried again", "error", err)
		}
		s.Store.ScrubLater(ctx)
	}
	clock.Every(ctx, time.Minute, keep)
	keep()
}
