package main

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"runtime/debug"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"mastflag/core/form"
	"mastflag/core/pages"
	"mastflag/core/rights"
	"mastflag/internal/access"
	"mastflag/internal/clock"
	"mastflag/internal/demo"
	"mastflag/internal/inspect"
	"mastflag/internal/mail"
	"mastflag/internal/server"
	"mastflag/internal/sources"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// settings are what serve and demo have in common.
type settings struct {
	data, listen, address, logLevel string
	sources                         sources.Options
	feedHosts, siteHosts            []string
	withoutSandbox                  bool
	metricsToken                    string
	contactHosts                    []string
	smtp, smtpFrom, smtpReplyTo     string
}

func (s *settings) flags(cmd *cobra.Command) {
	dataFlag(cmd, &s.data)
	cmd.Flags().StringVar(&s.listen, "listen", "127.0.0.1:8080", "address to listen on")
	cmd.Flags().StringVar(
		&s.address, "address", "",
		"address that people and sites reach the program by, such as https://notices.example.org; by default made from "+
			"--listen",
	)
	cmd.Flags().StringVar(
		&s.sources.Places, "places", "",
		"MMDB file of countries and regions by address; by default a stand-in that knows only documentation addresses",
	)
	cmd.Flags().StringVar(
		&s.sources.Referrers, "referrers", "",
		"file that says which sites are searches, social networks and mail; by default the one that ships",
	)
	cmd.Flags().StringSliceVar(
		&s.sources.Proxies, "trusted-proxies", nil,
		"address ranges of proxies whose X-Forwarded-For is believed, such as 10.0.0.0/8",
	)
	cmd.Flags().StringSliceVar(
		&s.feedHosts, "feed-hosts", nil, "hosts on private networks that alert feeds may be read from, as host:port",
	)
	cmd.Flags().StringSliceVar(
		&s.siteHosts, "site-hosts", nil, "hosts on private networks that sites may lie on, as host:port",
	)
	cmd.Flags().BoolVar(
		&s.withoutSandbox, "inspect-without-sandbox", false,
		"inspect sites with a Chromium without its sandbox; as root there is no other",
	)
	cmd.Flags().StringVar(
		&s.metricsToken, "metrics-token", "",
		"who sends it as a bearer token may read /metrics from anywhere; by default only this machine may",
	)
	cmd.Flags().StringSliceVar(
		&s.contactHosts, "contact-hosts", nil,
		"hosts on private networks that contacts may be passed on to, as host:port",
	)
	cmd.Flags().StringVar(
		&s.smtp, "smtp", "",
		"mail server that letters go out by, such as smtp://user@mail.example.org:587 (STARTTLS) or smtps://…; its password "+
			"is read from "+smtpPassword+"; by default a stand-in mailbox keeps all letters",
	)
	cmd.Flags().StringVar(&s.smtpFrom, "smtp-from", "", "address that letters come from; needed with --smtp")
	cmd.Flags().StringVar(
		&s.smtpReplyTo, "smtp-reply-to", "", "address that answers go to; by default that of whoever had a letter sent",
	)
	cmd.Flags().StringVar(&s.logLevel, "log-level", "info", "debug, info, warn or error")
}

// smtpPassword is the variable of the environment that the mail server's password stands in.
const smtpPassword = "MASTFLAG_SMTP_PASSWORD"

// options are the settings of the server, but for its address. They are read before anything
// is opened.
func (s *settings) options() (server.Options, error) {
	o := server.Options{
		Clock:          clock.System{},
		Sources:        s.sources,
		FeedHosts:      s.feedHosts,
		SiteHosts:      s.siteHosts,
		Chromium:       inspect.Chromium(),
		WithoutSandbox: s.withoutSandbox,
		MetricsToken:   s.metricsToken,
		ContactHosts:   s.contactHosts,
	}
	if s.smtp == "" {
		return o, nil
	}
	server, err := mail.NewServer(s.smtp, os.Getenv(smtpPassword))
	if err != nil {
		return o, fmt.Errorf("--smtp: %w", err)
	}
	for flag, address := range map[string]string{"--smtp-from": s.smtpFrom, "--smtp-reply-to": s.smtpReplyTo} {
		if !form.IsEmail(address) && (address != "" || flag == "--smtp-from") {
			return o, fmt.Errorf("%s %q: give an e-mail address such as notices@example.org", flag, address)
		}
	}
	o.Mail, o.Sender = server, mail.Sender{Address: s.smtpFrom, ReplyTo: s.smtpReplyTo}
	return o, nil
}

// start opens the data and the listener. base is the program's own address.
func (s *settings) start(cmd *cobra.Command) (st *store.Store, l net.Listener, base string, err error) {
	var level slog.Level
	if err := level.UnmarshalText([]byte(s.logLevel)); err != nil {
		return nil, nil, "", fmt.Errorf("--log-level %q: use debug, info, warn or error", s.logLevel)
	}
	slog.SetDefault(slog.New(slog.NewTextHandler(cmd.ErrOrStderr(), &slog.HandlerOptions{Level: level})))
	if l, err = net.Listen("tcp", s.listen); err != nil {
		return nil, nil, "", fmt.Errorf("--listen %s: %w", s.listen, err)
	}
	base = "http://" + l.Addr().String()
	if s.address != "" {
		if base, err = pages.Origin(s.address); err != nil {
			l.Close()
			return nil, nil, "", fmt.Errorf("--address: %w", err)
		}
	}
	if st, err = store.Open(cmd.Context(), s.data); err != nil {
		l.Close()
	}
	return st, l, base, err
}

func serveCommand() *cobra.Command {
	var s settings
	var admin string
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Run the program",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx, stop := signal.NotifyContext(cmd.Context(), syscall.SIGINT, syscall.SIGTERM)
			defer stop()
			o, err := s.options()
			if err != nil {
				return err
			}
			st, l, base, err := s.start(cmd)
			if err != nil {
				return err
			}
			o.Base = base
			defer st.Close()
			if err := firstPerson(ctx, cmd, st, admin); err != nil {
				return err
			}
			srv, err := server.New(ctx, st, o)
			if err != nil {
				return err
			}
			lean()
			slog.Info("ready", "address", base)
			return srv.Run(ctx, l)
		},
	}
	s.flags(cmd)
	cmd.Flags().StringVar(
		&admin, "admin", "admin@example.org", "sign-in of the first administrator, made at the first start",
	)
	return cmd
}

// lean keeps small what the program holds: what starting has left is given back, and
// the garbage collector comes earlier than by itself, unless whoever runs the program
// says when (GOGC). Nearly all that lives here lives long.
func lean() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(30)
	}
	debug.FreeOSMemory()
}

// firstPerson makes the first administrator where there is nobody yet, and
// prints the password this once.
func firstPerson(ctx context.Context, cmd *cobra.Command, st *store.Store, email string) error {
	people, err := st.People(ctx)
	if err != nil || len(people) > 0 {
		return err
	}
	password := access.RandomPassword()
	email = strings.ToLower(strings.TrimSpace(email))
	hash, err := access.HashPassword(ctx, password)
	if err != nil {
		return err
	}
	if err := st.AddPerson(ctx, store.Person{
		Email:    email,
		Name:     email,
		Role:     rights.Administrator,
		Password: hash,
	}); err != nil {
		return err
	}
	fmt.Fprintf(
		cmd.OutOrStdout(), "First start. Sign in as %s with the password %s\nIt is not shown again.\n", email, password,
	)
	return nil
}

func demoCommand() *cobra.Command {
	var s settings
	var siteListen string
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Run the program with demo data and an invented site",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx, stop := signal.NotifyContext(cmd.Context(), syscall.SIGINT, syscall.SIGTERM)
			defer stop()
			o, err := s.options()
			if err != nil {
				return err
			}
			st, l, base, err := s.start(cmd)
			if err != nil {
				return err
			}
			o.Base = base
			defer st.Close()
			siteL, err := net.Listen("tcp", siteListen)
			if err != nil {
				return fmt.Errorf("--site-listen %s: %w", siteListen, err)
			}
			site := "http://" + siteL.Addr().String()
			failed := make(chan error, 2)
			ferries := demo.Site(base)
			go func() { failed <- server.Serve(ctx, siteL, ferries) }()
			c := &clock.Settable{}
			if err := demo.Fill(ctx, st, site, base, c.Now()); err != nil {
				return err
			}
			o.Clock, o.Settable, o.Vendor = c, c, &standin.Vendor{Site: demo.Key, On: &ferries.Bad}
			// The demo's own site is on this machine, under two names.
			own := siteL.Addr().String()
			_, port, _ := net.SplitHostPort(own)
			o.SiteHosts = append(o.SiteHosts, own, net.JoinHostPort("localhost", port))
			if os.Geteuid() == 0 && !o.WithoutSandbox {
				o.WithoutSandbox = true
				fmt.Fprintln(
					cmd.OutOrStdout(), "\n  The demo runs as root: it inspects its own site with a Chromium without sandbox.",
				)
			}
			srv, err := server.New(ctx, st, o)
			if err != nil {
				return err
			}
			// The first time, the stand-in weather office has something to say.
			if came, err := st.Received(ctx, demo.Key); err == nil && len(came) == 0 {
				if err := srv.Admin.Weather.Send("alert"); err != nil {
					return err
				}
			}
			fmt.Fprintf(
				cmd.OutOrStdout(),
				"\n  Mast Flag      %s\n  sign in as     %s\n  password       %s\n  the demo site  %s\n\n  Stop with Ctrl-C.\n\n",
				base, demo.Email, demo.Password, site,
			)
			go func() { failed <- srv.Run(ctx, l) }()
			if err := <-failed; err != nil {
				return err
			}
			return <-failed
		},
	}
	s.flags(cmd)
	cmd.Flags().Lookup("data").DefValue = "demo-data"
	s.data = "demo-data"
	cmd.Flags().StringVar(&siteListen, "site-listen", "127.0.0.1:8090", "address of the invented site")
	return cmd
}
