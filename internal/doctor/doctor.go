// Package doctor looks at how the program is set up and what state its data is
// in: each line says what is so, and what to do.
package doctor

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"time"

	"mastflag/core/consent"
	"mastflag/core/fault"
	"mastflag/internal/store"
	"mastflag/internal/version"
)

// A State is how something stands.
type State string

const (
	Fine  State = "fine"
	Look  State = "look"  // it may be meant so
	Wrong State = "wrong" // something does not work, or is open that should not be
)

// A Line is one thing that was looked at.
type Line struct {
	State State
	About string // disk, data, clock …
	What  string // what is so
	Do    string // what to do; "" where it is fine
}

func (l Line) String() string {
	s := fmt.Sprintf("%-5s  %-11s  %s", l.State, l.About, l.What)
	if l.Do != "" {
		s += " " + l.Do
	}
	return s
}

// Options say what to look at.
type Options struct {
	Data           string   // the folder
	Address        string   // the origin that people reach the program by; "" to leave that out
	Proxies        []string // those that are trusted
	Chromium       string   // its path, "" if there is none
	WithoutSandbox bool
	Now            time.Time
	TLS            *tls.Config // of the look from outside; nil for the usual
}

// Examine tells each line as it is known.
func Examine(ctx context.Context, o Options, tell func(Line)) {
	say := func(state State, about, what, do string) { tell(Line{state, about, what, do}) }
	say(Fine, "version", "This is Mast Flag "+version.Build()+".", "")
	disk(o, say)
	data(ctx, o, say)
	inspections(o, say)
	if o.Address == "" {
		say(Look, "address", "It was not looked at from outside.", "Give --address, such as https://notices.example.org.")
		return
	}
	outside(ctx, o, say)
}

type report func(state State, about, what, do string)

// littleSpace is how much room on the disk is too little, bytes.
const littleSpace = 200 << 20

func disk(o Options, say report) {
	at, err := os.Stat(o.Data)
	if err != nil {
		say(
			Wrong, "disk", fmt.Sprintf("The data folder %s cannot be read: %v.", o.Data, err),
			"Name the folder that serve uses with --data.",
		)
		return
	}
	if open := at.Mode().Perm() & 0o077; open != 0 {
		say(
			Wrong, "disk", fmt.Sprintf("Others on this machine can look into the data folder (%#o).", at.Mode().Perm()),
			"Start the program once, or: chmod 700 "+o.Data,
		)
	} else {
		say(Fine, "disk", "The data folder is for nobody but its user.", "")
	}
	var size int64
	for _, end := range []string{"", "-wal"} {
		if f, err := os.Stat(filepath.Join(o.Data, store.FileName+end)); err == nil {
			size += f.Size()
		}
	}
	free, err := freeSpace(o.Data)
	switch {
	case err != nil:
		say(Look, "disk", fmt.Sprintf("How much room there is could not be found out: %v.", err), "")
	case free < littleSpace || free < 2*uint64(size):
		say(
			Wrong, "disk",
			fmt.Sprintf(
				"%s is free, and the data takes %s: there is no room for a backup beside it.", megabytes(free),
				megabytes(uint64(size)),
			),
			"Make room, or move the folder.",
		)
	default:
		say(Fine, "disk", fmt.Sprintf("%s is free; the data takes %s.", megabytes(free), megabytes(uint64(size))), "")
	}
}

func megabytes(n uint64) string {
	if n >= 1<<30 {
		return fmt.Sprintf("%.1f GB", float64(n)/(1<<30))
	}
	return fmt.Sprintf("%.1f MB", float64(n)/(1<<20))
}

func data(ctx context.Context, o Options, say report) {
	if _, err := os.Stat(filepath.Join(o.Data, store.FileName)); err != nil {
		say(Wrong, "data", "There is no data in that folder yet.", "Start the program once: mastflag serve --data "+o.Data)
		return
	}
	err := store.Current(ctx, o.Data)
	if errors.Is(err, store.ErrEarlier) {
		say(Look, "data", fault.Sentence(err.Error()), "")
		return
	}
	var st *store.Store
	if err == nil {
		st, err = store.Open(ctx, o.Data)
	}
	if err != nil {
		say(Wrong, "data", fault.Sentence(err.Error()), "")
		return
	}
	defer st.Close()
	say(Fine, "data", "The data can be read and written, and is of this version.", "")
	people, err := st.People(ctx)
	if err != nil {
		say(Wrong, "data", fault.Sentence(err.Error()), "")
		return
	}
	if len(people) == 0 {
		say(Look, "people", "Nobody can sign in yet.", "The first start of serve makes an administrator.")
	}
	sites, err := st.Sites(ctx)
	if err != nil {
		say(Wrong, "data", fault.Sentence(err.Error()), "")
		return
	}
	var latest time.Time
	for _, s := range sites {
		if list, err := st.Notices(ctx, s.Key); err == nil {
			for _, n := range list {
				if n.ChangedAt.After(latest) {
					latest = n.ChangedAt
				}
			}
		}
		records(ctx, st, s.Key, say)
		snippet(ctx, st, s, say)
		for _, f := range s.Feeds {
			if state, err := st.FeedState(ctx, s.Key, f.Name); err == nil && state.Why != "" && !f.Off {
				say(
					Look, "feed", fmt.Sprintf("%s: the feed “%s” does not answer as it should: %s.", s.Name, f.GetTitle(), state.Why),
					"See Site, Alerts.",
				)
			}
		}
	}
	if latest.After(o.Now.Add(time.Minute)) {
		say(
			Wrong, "clock",
			fmt.Sprintf(
				"This machine says it is %s, but something was changed at %s: the clock is behind.", stamp(o.Now), stamp(latest),
			),
			"Set it, and have it kept by NTP.",
		)
	} else {
		say(Fine, "clock", fmt.Sprintf("This machine says it is %s, later than anything that is kept.", stamp(o.Now)), "")
	}
}

func stamp(t time.Time) string { return t.UTC().Format("2 Jan 2006 15:04:05 UTC") }

func records(ctx context.Context, st *store.Store, site string, say report) {
	head, err := st.ConsentHead(ctx, site)
	if err == nil {
		_, err = consent.Verify(st.ConsentLinks(ctx, site), head)
	}
	switch {
	case err != nil:
		say(
			Wrong, "records", fmt.Sprintf("%s: the chain of consent records is broken: %v.", site, err),
			"It is not continued. Restore the last backup in which it is whole: mastflag restore --help",
		)
	case head.Seq > 0:
		say(Fine, "records", fmt.Sprintf("%s: the chain of %d consent records is whole.", site, head.Seq), "")
	}
}

func snippet(ctx context.Context, st *store.Store, s store.Site, say report) {
	pages, err := st.CountPages(ctx, s.Key)
	switch {
	case err != nil:
		say(Wrong, "snippet", fault.Sentence(err.Error()), "")
	case pages.Looked == 0:
		say(
			Look, "snippet", fmt.Sprintf("%s: nobody has looked yet whether its pages carry the snippet.", s.Name),
			"Press “Read the pages again” in the Site room.",
		)
	case pages.Missing > 0:
		say(
			Wrong, "snippet",
			fmt.Sprintf("%s: %d of %d pages lacked the snippet when they were last read.", s.Name, pages.Missing, pages.Known),
			"The Site room lists them.",
		)
	default:
		say(
			Fine, "snippet", fmt.Sprintf("%s: all %d pages carried the snippet when they were last read.", s.Name, pages.Known),
			"",
		)
	}
}

func inspections(o Options, say report) {
	switch {
	case o.Chromium == "":
		say(
			Look, "inspection", "There is no Chromium here: sites are inspected over plain HTTP, which sees no scripts.",
			"Install Debian’s package chromium.",
		)
	case os.Geteuid() == 0 && !o.WithoutSandbox:
		say(
			Look, "inspection", "As root Chromium has no sandbox, and sites are not inspected.",
			"Run the program as a user of its own.",
		)
	case o.WithoutSandbox:
		say(
			Look, "inspection", "Chromium runs without its sandbox.",
			"Leave --inspect-without-sandbox out, unless nothing else is on this machine.",
		)
	default:
		say(Fine, "inspection", "Sites are inspected with "+o.Chromium+", in its sandbox.", "")
	}
}

// expiresSoon is how long before its end a certificate is spoken of.
const expiresSoon = 14 * 24 * time.Hour

func outside(ctx context.Context, o Options, say report) {
	u, err := url.Parse(o.Address)
	if err != nil {
		say(Wrong, "address", fault.Sentence(err.Error()), "")
		return
	}
	local := net.ParseIP(u.Hostname()).IsLoopback() || u.Hostname() == "localhost"
	if u.Scheme != "https" && !local {
		say(
			Wrong, "address", o.Address+" is not https: passwords and sessions travel in clear.",
			"Put a web server with TLS in front; docs/running.md has examples.",
		)
	}
	client := &http.Client{Timeout: 10 * time.Second, Transport: &http.Transport{TLSClientConfig: o.TLS},
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, o.Address+"/readyz", nil)
	if err != nil {
		say(Wrong, "address", fault.Sentence(err.Error()), "")
		return
	}
	asked := time.Now()
	res, err := client.Do(req)
	var wrongCertificate *tls.CertificateVerificationError
	if errors.As(err, &wrongCertificate) {
		say(
			Wrong, "certificate", fmt.Sprintf("Browsers do not accept the certificate of %s: %v.", u.Host, wrongCertificate.Err),
			"Renew it, or set up its whole chain.",
		)
		return
	}
	if err != nil {
		say(
			Wrong, "address", fmt.Sprintf("%s does not answer: %v.", o.Address, err),
			"See that the program runs and that the address leads to it.",
		)
		return
	}
	defer res.Body.Close()
	switch {
	case res.Header.Get("X-Request-Id") == "":
		say(Wrong, "address", fmt.Sprintf("Something else answers at %s.", o.Address), "See where the address leads.")
	case res.StatusCode != http.StatusOK:
		say(
			Wrong, "address", fmt.Sprintf("The program answers at %s, and is not ready.", o.Address),
			"Its log, and Now & next, say why.",
		)
	default:
		say(Fine, "address", "The program answers at "+o.Address+".", "")
	}
	if at, err := http.ParseTime(res.Header.Get("Date")); err == nil {
		if off := at.Sub(asked).Abs(); off > 5*time.Second {
			say(
				Wrong, "clock", fmt.Sprintf("What answers there and this machine differ by %s.", off.Round(time.Second)),
				"Set both by NTP: schedules go by the program’s clock.",
			)
		}
	}
	if res.TLS != nil && len(res.TLS.PeerCertificates) > 0 {
		ends := res.TLS.PeerCertificates[0].NotAfter
		if ends.Before(o.Now.Add(expiresSoon)) {
			say(Wrong, "certificate", fmt.Sprintf("The certificate of %s ends %s.", u.Host, stamp(ends)), "Renew it.")
		} else {
			say(Fine, "certificate", fmt.Sprintf("The certificate of %s holds until %s.", u.Host, stamp(ends)), "")
		}
		if res.Header.Get("Strict-Transport-Security") == "" {
			say(
				Look, "address", "The program does not know that it is reached by https.", "Start it with --address "+o.Address+".",
			)
		}
	}
	switch {
	case res.Header.Get("Mastflag-Proxy") != "":
		say(
			Wrong, "proxies",
			"The program does not trust the proxy in front of it: all visitors count as one, and places are the proxy’s.",
			"Start the program with --trusted-proxies and the proxy’s address, which is in its log.",
		)
	case !local && len(o.Proxies) == 0:
		say(
			Look, "proxies",
			"No proxy is trusted: where one stands in front, all visitors count as one, and places are the proxy’s.",
			"Name it: --trusted-proxies 127.0.0.1",
		)
	}
}
