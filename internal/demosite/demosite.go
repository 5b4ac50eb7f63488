// Package demosite is the stand-in for a customer's site: the invented ferry
// operator Sundrey Isles Ferries, in English, German and Polish. It is a
// server of its own on its own origin, and knows nothing of the program but
// the snippet it carries.
package demosite

import (
	"bytes"
	"compress/gzip"
	_ "embed"
	"encoding/xml"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"
)

//go:embed page.html
var pageHTML string

//go:embed site.css
var css []byte

// film is some seconds of a seal among waves, drawn for this site.
//
//go:embed seals.webm
var film []byte

var page = template.Must(template.New("page").Parse(pageHTML))

// A Site is the demo site's server.
type Site struct {
	origin, source string       // of the notices' script, and what its inline line is allowed by
	lock           sync.RWMutex // of what follows
	pages          map[string]view
	paths          []string
	// Bad lets a vendor's script run that is not marked and asks nobody.
	Bad atomic.Bool
}

// view is one page as its template sees it.
type view struct {
	Path, Lang, Title, Lead string
	Home                    string
	Menu                    []link
	Others                  []link // the same page in the other languages
	Sections                []section
	Table                   [][]string
	Words                   text
	Snippet                 template.HTML
	// Where the vendors are, and whether the bad one is on.
	Vendors string
	Bad     bool
	// What this page has of them.
	Film, Late, Tour, Book bool
}

type link struct {
	Href, Label string
	Current     bool
}

type section struct{ Head, Body string }

// New returns the site with a snippet in the head of every page. origin is
// where the snippet's script comes from, source what its inline line is
// allowed by.
func New(snippet, origin, source string) *Site {
	s := &Site{origin: origin, source: source, pages: map[string]view{}}
	for _, lang := range languages {
		for _, v := range build(lang) {
			v.Snippet = template.HTML(snippet)
			s.pages[v.Path] = v
			s.paths = append(s.paths, v.Path)
		}
	}
	slices.Sort(s.paths)
	return s
}

// policy is the Content-Security-Policy of all pages, as strict as a careful
// operator's: no inline script or style, no other host but the notices' and
// the vendors'.
func (s *Site) policy(vendors string) string {
	return fmt.Sprintf(
		"default-src 'none'; script-src %s %s 'self' %s; connect-src %s; style-src 'self'; img-src 'self' data: %s %s; "+
			"media-src 'self'; frame-src %s; base-uri 'none'; form-action 'self'",
		s.origin, s.source, vendors, s.origin, s.origin, vendors, vendors,
	)
}

// Paths returns the paths of all pages, sorted.
func (s *Site) Paths() []string {
	s.lock.RLock()
	defer s.lock.RUnlock()
	return s.paths
}

// Add makes another page, like the one at a path; as its editors do at any time.
func (s *Site) Add(path, like string) {
	s.lock.Lock()
	defer s.lock.Unlock()
	v := s.pages[like]
	v.Path = path
	s.pages[path] = v
	s.paths = slices.Clone(s.paths)
	at, _ := slices.BinarySearch(s.paths, path)
	s.paths = slices.Insert(s.paths, at, path)
}

// at returns the page at a path; ok is false if there is none.
func (s *Site) at(path string) (v view, ok bool) {
	s.lock.RLock()
	defer s.lock.RUnlock()
	v, ok = s.pages[path]
	return v, ok
}

func (s *Site) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	h := w.Header()
	if s.vendor(w, r) {
		return
	}
	switch path := r.URL.Path; {
	case path == "/site.css":
		h.Set("Content-Type", "text/css; charset=utf-8")
		w.Write(css)
		return
	case path == "/films/seals.webm":
		http.ServeContent(w, r, "seals.webm", time.Time{}, bytes.NewReader(film))
		return
	case path == "/.well-known/gpc.json": // that privacy signals are honoured here
		h.Set("Content-Type", "application/json")
		w.Write([]byte(`{"gpc": true, "lastUpdate": "2026-11-01"}`))
		return
	case path == "/sitemap.xml":
		s.sitemapIndex(w, r)
		return
	case strings.HasPrefix(path, "/sitemap-"):
		s.sitemap(w, r, strings.TrimSuffix(strings.TrimPrefix(path, "/sitemap-"), ".xml.gz"))
		return
	}
	path := strings.TrimRight(r.URL.Path, "/")
	if path == "" {
		path = "/"
	}
	v, ok := s.at(path)
	if !ok {
		http.NotFound(w, r)
		return
	}
	v.Vendors, v.Bad = "http://"+elsewhere(r.Host), s.Bad.Load()
	if strings.HasSuffix(path, "/book") {
		// Without it the place that is held would be lost: strictly necessary.
		http.SetCookie(w, &http.Cookie{
			Name:     "sundrey_basket",
			Value:    "empty",
			Path:     "/",
			HttpOnly: true,
			SameSite: http.SameSiteLaxMode,
		})
	}
	var out bytes.Buffer
	if err := page.Execute(&out, v); err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	h.Set("Content-Security-Policy", s.policy(v.Vendors))
	h.Set("Content-Type", "text/html; charset=utf-8")
	w.Write(out.Bytes())
}

// sitemapIndex names one packed sitemap for each language.
func (s *Site) sitemapIndex(w http.ResponseWriter, r *http.Request) {
	type entry struct {
		Loc string `xml:"loc"`
	}
	doc := struct {
		XMLName xml.Name `xml:"http://www.sitemaps.org/schemas/sitemap/0.9 sitemapindex"`
		Maps    []entry  `xml:"sitemap"`
	}{}
	for _, lang := range languages {
		doc.Maps = append(doc.Maps, entry{"http://" + r.Host + "/sitemap-" + lang.Tag + ".xml.gz"})
	}
	w.Header().Set("Content-Type", "application/xml")
	w.Write([]byte(xml.Header))
	xml.NewEncoder(w).Encode(doc)
}

func (s *Site) sitemap(w http.ResponseWriter, r *http.Request, lang string) {
	type entry struct {
		Loc string `xml:"loc"`
	}
	doc := struct {
		XMLName xml.Name `xml:"http://www.sitemaps.org/schemas/sitemap/0.9 urlset"`
		URLs    []entry  `xml:"url"`
	}{}
	for _, p := range s.Paths() {
		if v, _ := s.at(p); v.Lang == lang {
			doc.URLs = append(doc.URLs, entry{"http://" + r.Host + p})
		}
	}
	if len(doc.URLs) == 0 {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", "application/gzip")
	zw := gzip.NewWriter(w)
	defer zw.Close()
	zw.Write([]byte(xml.Header))
	xml.NewEncoder(zw).Encode(doc)
}

// build makes all pages of one language.
func build(t text) []view {
	prefix := ""
	if t.Tag != "en" {
		prefix = "/" + t.Tag
	}
	home := prefix
	if home == "" {
		home = "/"
	}
	var out []view
	add := func(path, title, lead string, table [][]string, sections ...section) {
		v := view{
			Path:     prefix + path,
			Lang:     t.Tag,
			Title:    title,
			Lead:     lead,
			Home:     home,
			Words:    t,
			Table:    table,
			Sections: sections,
			Film:     path == "/tours",
			Late:     path == "/offers",
			Tour:     path == "/tours/book",
			Book:     path == "/book",
		}
		if path == "/" {
			v.Path = home
		}
		for _, m := range menu {
			v.Menu = append(v.Menu, link{prefix + m, t.Title[m], path == m || strings.HasPrefix(path, m+"/")})
		}
		for _, other := range languages {
			href := path
			if other.Tag != "en" {
				href = strings.TrimSuffix("/"+other.Tag+path, "/")
			}
			v.Others = append(v.Others, link{href, other.Name, other.Tag == t.Tag})
		}
		out = append(out, v)
	}
	add("/", t.Home, t.HomeLead, nil, t.HomeSections...)
	for _, m := range slices.Concat(menu, footer, others) {
		var table [][]string
		switch m {
		case "/fares":
			table = t.fares()
		case "/timetables":
			for _, r := range routes {
				table = append(table, []string{r.From + " – " + r.To, r.First + " – " + r.Last, fmt.Sprintf("%d min", r.Minutes)})
			}
			table = append([][]string{{t.Route, t.Sailings, t.Crossing}}, table...)
		}
		add(m, t.Title[m], t.Lead[m], table, t.Sections[m]...)
	}
	for _, r := range routes {
		add(
			"/timetables/"+r.Slug, fmt.Sprintf(t.RouteTitle, r.From, r.To), fmt.Sprintf(t.RouteLead, r.From, r.To, r.Minutes),
			r.table(t), section{t.BeforeHead, t.BeforeBody},
		)
	}
	for _, p := range ports {
		add("/ports/"+p.Slug, fmt.Sprintf(t.PortTitle, p.Name), fmt.Sprintf(t.PortLead, p.Name, p.Berths), nil,
			section{t.ParkingHead, fmt.Sprintf(t.ParkingBody, p.Spaces)}, section{t.AccessHead, t.AccessBody})
	}
	return out
}

var (
	menu   = []string{"/timetables", "/ports", "/fares", "/book", "/offers", "/tours", "/status"}
	footer = []string{"/news", "/about", "/legal"}
	others = []string{"/tours/book"}
)

type route struct {
	Slug, From, To, First, Last string
	Minutes, Every              int // Every: minutes between sailings
}

var routes = []route{
	{"sundrey-aldwick", "Sundrey", "Aldwick", "06:40", "21:10", 35, 90},
	{"sundrey-corran-holm", "Sundrey", "Corran Holm", "07:15", "19:45", 55, 150},
	{"aldwick-fennay", "Aldwick", "Fennay", "08:05", "18:35", 40, 210},
	{"corran-holm-little-skarn", "Corran Holm", "Little Skarn", "09:00", "17:00", 25, 240},
	{"fennay-little-skarn", "Fennay", "Little Skarn", "10:20", "16:20", 50, 360},
}

// table lists the sailings out and back.
func (r route) table(t text) [][]string {
	out := [][]string{{r.From, r.To, t.Back}}
	var h, m int
	fmt.Sscanf(r.First, "%d:%d", &h, &m)
	var lastH, lastM int
	fmt.Sscanf(r.Last, "%d:%d", &lastH, &lastM)
	clock := func(min int) string { return fmt.Sprintf("%02d:%02d", min/60, min%60) }
	for at := h*60 + m; at <= lastH*60+lastM; at += r.Every {
		out = append(out, []string{clock(at), clock(at + r.Minutes), clock(at + r.Minutes + 20)})
	}
	return out
}

type port struct {
	Slug, Name     string
	Berths, Spaces int
}

var ports = []port{
	{"sundrey", "Sundrey", 3, 240}, {"aldwick", "Aldwick", 2, 120}, {"corran-holm", "Corran Holm", 1, 60},
	{"fennay", "Fennay", 1, 45}, {"little-skarn", "Little Skarn", 1, 20},
}
