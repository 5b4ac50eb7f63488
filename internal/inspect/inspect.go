// Package inspect visits a site as new visitors do and writes down what is set
// on their machines and what is fetched from others: without an answer to the
// consent question, after accepting all, and after refusing all.
package inspect

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"os/exec"
	"slices"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/document"
	"mastflag/core/pages"
	"mastflag/internal/outbound"
)

// Limits of one inspection.
const (
	pageTimeout  = 20 * time.Second // until it has loaded
	quietPeriod  = 700 * time.Millisecond
	quietTimeout = 6 * time.Second // until nothing happens any more
)

// A Job is what to inspect.
type Job struct {
	Origin string   // of the site
	Pages  []string // paths, in the order in which they are visited
	// Reports whether a host, in lower case, is the site's.
	Own func(host string) bool
	// The program's own address: what comes from there is no find.
	Base string
	// Where pages tell of answers: an inspection's are told to nobody.
	Answers string
	// Pages are checked for accessibility too.
	Accessibility bool
}

// A Progress is how far an inspection has come.
type Progress struct {
	// Of an inspection; a measure of speed has none.
	Phase consent.Phase `json:"phase,omitempty"`
	Page  string        `json:"page"`
	Done  int           `json:"done"`
	Of    int           `json:"of"`
}

// An Inspector inspects.
type Inspector struct {
	// Path of a Chromium; "" to read pages over plain HTTP.
	Chromium string
	// What its connections go through.
	Guard *outbound.Guard
	// It runs without its sandbox, in which the code of strangers' pages is kept.
	// Root has none.
	WithoutSandbox bool
}

// Chromium returns the path of this machine's Chromium, "" if there is none.
func Chromium() string {
	for _, name := range []string{"chromium-headless-shell", "chromium", "chromium-browser"} {
		if path, err := exec.LookPath(name); err == nil {
			return path
		}
	}
	return ""
}

// Run inspects until it is done or ctx ends; then what was found until then is
// returned, marked as stopped. told is called before each page. checked is what
// the check for accessibility found; nil where there was none.
func (i *Inspector) Run(
	ctx context.Context,
	j Job,
	now time.Time,
	told func(Progress),
) (r consent.Run, checked *document.Checked, err error) {
	r = consent.Run{Began: now, How: "browser", Pages: j.Pages, Found: []consent.Sighting{}}
	began := time.Now()
	if i.Chromium == "" {
		r.How = "http"
		err = j.read(ctx, i.Guard, &r, told)
	} else {
		checked, err = i.browse(ctx, j, &r, told)
	}
	r.Ended = now.Add(time.Since(began).Round(time.Millisecond))
	if ctx.Err() != nil {
		r.Stopped, err = true, nil
	}
	if err == nil && len(r.Faults) > 0 && len(r.Found) == 0 && !r.Stopped && len(r.Faults) >= len(j.Pages) {
		return r, nil, fmt.Errorf("no page of %s could be visited: %s", j.Origin, r.Faults[0].Why)
	}
	return r, checked, err
}

// Choose returns the paths to visit of a site's known pages: the home pages,
// one page of each type in each language, one of each section, then others, at
// most so many.
func Choose(known []bundle.Page, homes []string, most int) []string {
	var out []string
	add := func(path string) {
		if n, err := pages.PagePath(path); err == nil && len(out) < most && !slices.Contains(out, n) {
			out = append(out, n)
		}
	}
	for _, h := range homes {
		add(h)
	}
	seen := map[string]bool{}
	for _, kind := range []func(bundle.Page) string{
		func(p bundle.Page) string { return p.Language + "\x00" + p.Type },
		func(p bundle.Page) string {
			return p.Language + "\x00" + strings.Join(strings.SplitN(p.Path, "/", 4)[:min(3, strings.Count(p.Path, "/")+1)], "/")
		},
		func(p bundle.Page) string { return p.Path },
	} {
		for _, p := range known {
			if k := kind(p); !seen[k] {
				seen[k] = true
				add(p.Path)
			}
		}
	}
	return out
}

// host returns the host of an address that is not the site's and not the
// program's; "" otherwise.
func (j Job) host(address string) string {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" || strings.HasPrefix(address, j.Base+"/") {
		return ""
	}
	if name := strings.ToLower(u.Hostname()); !j.Own(name) {
		return name
	}
	return ""
}

// cookieHost returns whom a cookie that a response from an address sets is
// for; "" for the site.
func (j Job) cookieHost(c consent.SetCookie, address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return c.Domain
	}
	host := strings.ToLower(u.Hostname())
	if c.Domain != "" {
		host = c.Domain
	}
	site, err := url.Parse(j.Origin)
	if err == nil && (j.Own(host) || strings.HasSuffix("."+site.Hostname(), "."+host)) {
		return ""
	}
	return host
}

// A book collects what is found, each thing once on a page and in a phase.
type runBook struct {
	run  *consent.Run
	seen map[string]bool
}

func (b *runBook) add(s consent.Sighting) {
	key := strings.Join([]string{string(s.Phase), string(s.Kind), s.Name, s.Host}, "\x00")
	if b.seen[key] {
		return
	}
	b.seen[key] = true
	b.run.Found = append(b.run.Found, s)
}

// errElsewhere says that a page leads to another site.
var errElsewhere = errors.New("it leads to another site")
