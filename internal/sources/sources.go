// Package sources finds what a server can know of a visit: from the headers
// of its request, the address it comes from, and two files that can be
// replaced. Only what a site's audiences ask about is looked at.
package sources

import (
	"bufio"
	"bytes"
	_ "embed"
	"fmt"
	"net/http"
	"net/netip"
	"os"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"github.com/mileusna/useragent"
	"golang.org/x/net/publicsuffix"
	"golang.org/x/text/language"
)

var (
	// places is a stand-in: it knows only address ranges kept for
	// documentation (RFC 5737, RFC 3849). Made by `make generate`.
	//
	//go:embed data/places.mmdb
	places []byte
	//go:embed data/referrers.txt
	referrers []byte
	//go:embed data/groups.txt
	groups []byte
)

// Options say what takes the place of what ships.
type Options struct {
	// An MMDB file of countries and regions; the stand-in if empty.
	Places string
	// A file of referrers in the form of data/referrers.txt; that one if empty.
	Referrers string
	// Address ranges of proxies whose X-Forwarded-For is believed.
	Proxies []string
}

// Sources answers about requests. Only the table of places is altered after New, as a whole.
type Sources struct {
	table   placesTable
	groups  map[string][]string // of a country
	classes []class
	proxies []netip.Prefix
	agents  cache[agent]
	hosts   cache[string]
}

// agent is what headers say of a device.
type agent struct{ kind, system, browser string }

// A memo keeps what was worked out for texts that come again and again. When
// it has grown large it begins anew, so that strangers cannot fill the memory.
type cache[V any] struct {
	kept atomic.Pointer[sync.Map]
	size atomic.Int32
}

const (
	memoSize = 4096
	memoText = 600 // longer texts are not kept
)

func (m *cache[V]) get(key string, work func() V) V {
	kept := m.kept.Load()
	if kept == nil {
		kept = &sync.Map{}
		m.kept.CompareAndSwap(nil, kept)
	}
	if v, ok := kept.Load(key); ok {
		return v.(V)
	}
	v := work()
	if len(key) <= memoText {
		if m.size.Add(1) > memoSize {
			m.size.Store(0)
			m.kept.Store(&sync.Map{})
		}
		kept.Store(strings.Clone(key), v)
	}
	return v
}

// class is one line of the referrers' file.
type class struct {
	name, host string
	anyEnding  bool
}

// New reads the files that the options name.
func New(o Options) (*Sources, error) {
	s := &Sources{groups: map[string][]string{}}
	s.table.file = o.Places
	err := s.table.open()
	if err != nil {
		return nil, fmt.Errorf("the file of places %s: %w", o.Places, err)
	}
	list := referrers
	if o.Referrers != "" {
		if list, err = os.ReadFile(o.Referrers); err != nil {
			return nil, fmt.Errorf("the file of referrers: %w", err)
		}
	}
	if s.classes, err = readClasses(list); err != nil {
		return nil, fmt.Errorf("the file of referrers %s: %w", o.Referrers, err)
	}
	for line := range strings.Lines(string(groups)) {
		f := strings.Fields(line)
		if len(f) < 2 || f[0] == "#" {
			continue
		}
		for _, country := range f[1:] {
			s.groups[country] = append(s.groups[country], f[0])
		}
	}
	for _, p := range o.Proxies {
		prefix, err := netip.ParsePrefix(p)
		if err != nil {
			addr, errAddr := netip.ParseAddr(p)
			if errAddr != nil {
				return nil, fmt.Errorf("%q is no address range: give one such as 10.0.0.0/8 or ::1", p)
			}
			prefix = netip.PrefixFrom(addr, addr.BitLen())
		}
		s.proxies = append(s.proxies, prefix.Masked())
	}
	return s, nil
}

func readClasses(raw []byte) ([]class, error) {
	var out []class
	lines := bufio.NewScanner(bytes.NewReader(raw))
	for n := 1; lines.Scan(); n++ {
		f := strings.Fields(lines.Text())
		if len(f) == 0 || strings.HasPrefix(f[0], "#") {
			continue
		}
		if len(f) != 2 || !slices.Contains([]string{"search", "social", "mail", "other"}, f[0]) {
			return nil, fmt.Errorf("line %d is not a class (search, social, mail, other) and a host: %q", n, lines.Text())
		}
		host, anyEnding := strings.CutSuffix(strings.ToLower(f[1]), ".*")
		out = append(out, class{f[0], host, anyEnding})
	}
	// The longest host that fits decides: mail.google.com before google.*.
	slices.SortStableFunc(out, func(a, b class) int { return len(b.host) - len(a.host) })
	return out, lines.Err()
}

// Wants is which of the facts that the server finds a site's audiences ask
// about.
type Wants struct {
	kind, system, browser   bool
	languages               bool
	country, region, groups bool
	class, host             bool
	signal                  bool
}

// NewWants reads the names of facts.
func NewWants(facts []string) Wants {
	has := func(name string) bool { return slices.Contains(facts, name) }
	return Wants{
		kind:      has("device.kind"),
		system:    has("device.os"),
		browser:   has("device.browser"),
		languages: has("locale.languages"),
		country:   has("place.country"),
		region:    has("place.region"),
		groups:    has("place.group"),
		class:     has("referrer.class"),
		host:      has("referrer.host"),
		signal:    has("consent.signal"),
	}
}

// Fill adds what is wanted and known of a request to the facts that its visit
// brought along. own reports whether a host, in lower case, is the site's.
func (s *Sources) Fill(facts map[string]any, w Wants, r *http.Request, own func(host string) bool) {
	put := func(wanted bool, name, value string) {
		switch {
		case !wanted:
		case value == "":
			delete(facts, name)
		default:
			facts[name] = value
		}
	}
	if w.kind || w.system || w.browser {
		h := r.Header
		a := s.agents.get(h.Get("User-Agent")+"\x00"+h.Get("Sec-CH-UA-Mobile")+h.Get("Sec-CH-UA-Platform"), func() agent {
			kind, system, browser := Agent(h)
			return agent{kind, system, browser}
		})
		put(w.kind, "device.kind", a.kind)
		put(w.system, "device.os", a.system)
		put(w.browser, "device.browser", a.browser)
	}
	if w.languages {
		delete(facts, "locale.languages")
		if list := Languages(r.Header.Get("Accept-Language")); len(list) > 0 {
			facts["locale.languages"] = list
		}
	}
	if w.country || w.region || w.groups {
		country, region := s.Place(s.Address(r))
		put(w.country, "place.country", country)
		put(w.region, "place.region", region)
		if w.groups {
			delete(facts, "place.group")
			if g := s.groups[country]; country != "" {
				facts["place.group"] = append([]string{}, g...)
			}
		}
	}
	if w.class || w.host {
		from, _ := facts["referrer.url"].(string)
		host, class := s.Referrer(from, own)
		put(w.host, "referrer.host", host)
		put(w.class, "referrer.class", class)
	}
	// The header or, where something on the way took that out, what the page
	// itself read (Global Privacy Control, the property of navigator).
	if w.signal && (r.Header.Get("Sec-GPC") == "1" || facts["consent.signal"] == "gpc") {
		facts["consent.signal"] = "gpc"
	} else if w.signal {
		delete(facts, "consent.signal")
	}
}

// Agent reads kind of device, operating system and browser from the
// User-Agent header, and from client hints where the browser sends them.
func Agent(h http.Header) (kind, system, browser string) {
	ua := useragent.Parse(h.Get("User-Agent"))
	switch {
	case ua.Tablet:
		kind = "tablet"
	case ua.Mobile:
		kind = "phone"
	case ua.Desktop:
		kind = "desktop"
	}
	if h.Get("Sec-CH-UA-Mobile") == "?1" && kind != "tablet" {
		kind = "phone"
	}
	system, browser = ua.OS, ua.Name
	if p := strings.Trim(h.Get("Sec-CH-UA-Platform"), `"`); p != "" {
		system = p
	}
	return kind, system, browser
}

// Languages reads an Accept-Language header in its order of preference, at
// most twenty (RFC 9110 §12.5.4).
func Languages(header string) []string {
	if len(header) > 500 {
		return nil
	}
	tags, weights, err := language.ParseAcceptLanguage(header)
	if err != nil {
		return nil
	}
	var out []string
	for i, t := range tags {
		if weights[i] > 0 && len(out) < 20 {
			out = append(out, t.String())
		}
	}
	return out
}

// Address returns the address a request comes from. X-Forwarded-For is read
// from its end as far as the proxies are trusted.
func (s *Sources) Address(r *http.Request) netip.Addr {
	peer, err := netip.ParseAddrPort(r.RemoteAddr)
	if err != nil {
		return netip.Addr{}
	}
	addr := peer.Addr().Unmap()
	hops := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
	for i := len(hops) - 1; i >= 0 && s.trusts(addr); i-- {
		next, err := netip.ParseAddr(strings.TrimSpace(hops[i]))
		if err != nil {
			break
		}
		addr = next.Unmap()
	}
	return addr
}

// Trusts reports whether a request comes from a proxy that is trusted.
func (s *Sources) Trusts(r *http.Request) bool {
	peer, err := netip.ParseAddrPort(r.RemoteAddr)
	return err == nil && s.trusts(peer.Addr().Unmap())
}

func (s *Sources) trusts(a netip.Addr) bool {
	return slices.ContainsFunc(s.proxies, func(p netip.Prefix) bool { return p.Contains(a) })
}

// place is what the table says of a network.
type place struct {
	Country struct {
		Code string `maxminddb:"iso_code"`
	} `maxminddb:"country"`
	Regions []struct {
		Code string `maxminddb:"iso_code"`
	} `maxminddb:"subdivisions"`
}

// Place returns the country (ISO 3166-1) and region (ISO 3166-2) of an
// address, "" where they are not known.
func (s *Sources) Place(a netip.Addr) (country, region string) {
	if !a.IsValid() {
		return "", ""
	}
	var found place
	if err := s.table.now.Load().Lookup(a).Decode(&found); err != nil || found.Country.Code == "" {
		return "", ""
	}
	if len(found.Regions) > 0 && found.Regions[0].Code != "" {
		region = found.Country.Code + "-" + found.Regions[0].Code
	}
	return found.Country.Code, region
}

// Referrer returns the host of the page a visitor comes from and its class.
func (s *Sources) Referrer(from string, own func(host string) bool) (host, kind string) {
	if from == "" {
		return "", "direct"
	}
	scheme, rest, ok := strings.Cut(from, "://")
	if end := strings.IndexAny(rest, "/?#"); end >= 0 {
		rest = rest[:end]
	}
	if port := strings.LastIndexByte(rest, ':'); port > strings.LastIndexByte(rest, ']') {
		rest = rest[:port]
	}
	if host = strings.ToLower(rest); !ok || scheme == "" || host == "" {
		return "", "other"
	}
	if own(host) {
		return host, "internal"
	}
	return host, s.hosts.get(host, func() string {
		for _, c := range s.classes {
			if c.fits(host) {
				return c.name
			}
		}
		return "other"
	})
}

func (c class) fits(host string) bool {
	if c.anyEnding { // google.* takes google.de and www.google.co.uk
		suffix, _ := publicsuffix.PublicSuffix(host)
		whole := c.host + "." + suffix
		return host == whole || strings.HasSuffix(host, "."+whole)
	}
	return host == c.host || strings.HasSuffix(host, "."+c.host)
}
