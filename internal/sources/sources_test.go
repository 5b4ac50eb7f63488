package sources_test

import (
	"context"
	"net"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"os"
	"path/filepath"
	"testing"
	"testing/synctest"
	"time"

	"github.com/maxmind/mmdbwriter"
	"github.com/maxmind/mmdbwriter/mmdbtype"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/internal/sources"
)

func TestAddressBehindProxies(t *testing.T) {
	s, err := sources.New(sources.Options{Proxies: []string{"10.0.0.0/8", "::1"}})
	require.NoError(t, err)
	for _, c := range []struct{ name, peer, forwarded, want string }{
		{"no proxy", "192.0.2.7:1234", "", "192.0.2.7"},
		{"a stranger's header is not believed", "192.0.2.7:1234", "203.0.113.9", "192.0.2.7"},
		{"one trusted hop", "10.0.0.1:1234", "203.0.113.9", "203.0.113.9"},
		{"two trusted hops", "10.0.0.1:1234", "203.0.113.9, 10.2.3.4", "203.0.113.9"},
		{"what the visitor put in front is not believed", "10.0.0.1:1234", "192.0.2.99, 203.0.113.9", "203.0.113.9"},
		{"rubbish ends the walk", "10.0.0.1:1234", "203.0.113.9, what", "10.0.0.1"},
		{"IPv6", "[::1]:1234", "2001:db8:49::5", "2001:db8:49::5"},
		{"IPv4 in IPv6", "[::ffff:10.0.0.1]:1234", "203.0.113.9", "203.0.113.9"},
		{"a trusted hop alone", "10.0.0.1:1234", "", "10.0.0.1"},
	} {
		r := httptest.NewRequest("POST", "/d/x", nil)
		r.RemoteAddr = c.peer
		if c.forwarded != "" {
			r.Header.Set("X-Forwarded-For", c.forwarded)
		}
		assert.Equal(t, c.want, s.Address(r).String(), c.name)
	}
}

// Addresses kept for documentation: RFC 5737 and RFC 3849.
func TestPlaces(t *testing.T) {
	s, err := sources.New(sources.Options{})
	require.NoError(t, err)
	for addr, want := range map[string]string{
		"192.0.2.70":     "DE DE-HH",
		"192.0.2.1":      "GB GB-SCT",
		"203.0.113.200":  "CA CA-QC",
		"2001:db8:48::1": "PL PL-PM",
		"127.0.0.1":      " ",
		"8.8.8.8":        " ",
	} {
		country, region := s.Place(netip.MustParseAddr(addr))
		assert.Equal(t, want, country+" "+region, addr)
	}
}

// A real file in the place of the stand-in.
func TestPlacesCanBeReplaced(t *testing.T) {
	tree, err := mmdbwriter.New(mmdbwriter.Options{DatabaseType: "Test", IncludeReservedNetworks: true})
	require.NoError(t, err)
	_, network, err := net.ParseCIDR("127.0.0.0/8")
	require.NoError(t, err)
	require.NoError(t, tree.Insert(network, mmdbtype.Map{"country": mmdbtype.Map{"iso_code": mmdbtype.String("IS")}}))
	path := filepath.Join(t.TempDir(), "places.mmdb")
	f, err := os.Create(path)
	require.NoError(t, err)
	_, err = tree.WriteTo(f)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	s, err := sources.New(sources.Options{Places: path})
	require.NoError(t, err)
	country, region := s.Place(netip.MustParseAddr("127.0.0.1"))
	assert.Equal(t, []string{"IS", ""}, []string{country, region}, "a file without regions does too")
	country, _ = s.Place(netip.MustParseAddr("192.0.2.70"))
	assert.Empty(t, country)
}

func TestReferrers(t *testing.T) {
	s, err := sources.New(sources.Options{})
	require.NoError(t, err)
	own := func(host string) bool { return host == "www.sundrey.example" }
	for from, want := range map[string]string{
		"":                                 "direct",
		"https://www.sundrey.example/book": "internal",
		"https://www.google.co.uk/":        "search",
		"https://google.de/search?q=ferry": "search",
		"https://mail.google.com/":         "mail",
		"https://google.evil.example/":     "other",
		"https://notgoogle.de/":            "other",
		"https://m.facebook.com/":          "social",
		"https://harbour.example/links":    "other",
		"nonsense":                         "other",
		"https://search.example/":          "search",
		"https://Search.Example:8443?q":    "search",
		"android-app://search.example/":    "search",
		"https:///x":                       "other",
	} {
		_, class := s.Referrer(from, own)
		assert.Equal(t, want, class, from)
	}
	file := filepath.Join(t.TempDir(), "referrers.txt")
	require.NoError(t, os.WriteFile(file, []byte("# ours\nmail harbour.example\n"), 0o600))
	s, err = sources.New(sources.Options{Referrers: file})
	require.NoError(t, err)
	_, class := s.Referrer("https://post.harbour.example/", own)
	assert.Equal(t, "mail", class, "the file can be replaced")
}

// User-Agent strings of common browsers, from memory.
func TestAgents(t *testing.T) {
	for _, c := range []struct {
		agent, platform, mobile string
		want                    [3]string
	}{
		{
			"Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/126.0.0.0 Safari/537.36",
			"", "", [3]string{"desktop", "Windows", "Chrome"},
		},
		{
			"Mozilla/5.0 (iPhone; CPU iPhone OS 17_5 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/17.5 " +
				"Mobile/15E148 Safari/604.1",
			"", "", [3]string{"phone", "iOS", "Safari"},
		},
		{
			"Mozilla/5.0 (iPad; CPU OS 16_6 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/16.6 " +
				"Mobile/15E148 Safari/604.1",
			"", "", [3]string{"tablet", "iOS", "Safari"},
		},
		{
			"Mozilla/5.0 (X11; Linux x86_64; rv:127.0) Gecko/20100101 Firefox/127.0", "", "",
			[3]string{"desktop", "Linux", "Firefox"},
		},
		{
			"Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/126.0.0.0 Mobile Safari/537.36",
			`"Android"`, "?1", [3]string{"phone", "Android", "Chrome"},
		},
		{"", "", "", [3]string{"", "", ""}},
	} {
		h := http.Header{"User-Agent": {c.agent}, "Sec-Ch-Ua-Platform": {c.platform}, "Sec-Ch-Ua-Mobile": {c.mobile}}
		kind, system, browser := sources.Agent(h)
		assert.Equal(t, c.want, [3]string{kind, system, browser}, c.agent)
	}
}

// RFC 9110 §12.5.4's form of Accept-Language.
func TestLanguages(t *testing.T) {
	assert.Equal(t, []string{"da", "en-GB", "en"}, sources.Languages("da, en-GB;q=0.8, en;q=0.7"))
	assert.Equal(t, []string{"de"}, sources.Languages("de, en;q=0"))
	assert.Empty(t, sources.Languages(""))
	assert.Empty(t, sources.Languages(";;;"))
}

func TestFillTakesOnlyWhatIsWanted(t *testing.T) {
	s, err := sources.New(sources.Options{Proxies: []string{"192.0.2.0/24"}})
	require.NoError(t, err)
	r := httptest.NewRequest("POST", "/d/x", nil)
	r.RemoteAddr = "192.0.2.70:99"
	r.Header.Set("User-Agent", "Mozilla/5.0 (X11; Linux x86_64; rv:127.0) Gecko/20100101 Firefox/127.0")
	r.Header.Set("Accept-Language", "de-AT, en;q=0.5")
	r.Header.Set("Sec-GPC", "1")
	own := func(string) bool { return false }
	facts := map[string]any{"visits.number": 2.0}
	s.Fill(facts, sources.NewWants([]string{"visits.number"}), r, own)
	assert.Equal(t, map[string]any{"visits.number": 2.0}, facts)
	facts = map[string]any{"place.country": "made up", "referrer.url": "https://search.example/?q=x"}
	s.Fill(facts, sources.NewWants([]string{
		"place.country", "place.group", "device.os", "locale.languages", "referrer.class", "consent.signal",
	}), r, own)
	assert.Equal(t, map[string]any{"place.country": "DE", "place.group": []string{"eu", "eea"}, "device.os": "Linux",
		"locale.languages": []string{"de-AT", "en"}, "referrer.url": "https://search.example/?q=x",
		"referrer.class": "search", "consent.signal": "gpc"}, facts)
}

func TestRefusedOptions(t *testing.T) {
	dir := t.TempDir()
	rubbish := filepath.Join(dir, "rubbish")
	require.NoError(t, os.WriteFile(rubbish, []byte("searches bing.com\n"), 0o600))
	for _, c := range []struct {
		o    sources.Options
		what string
	}{
		{sources.Options{Places: rubbish}, "the file of places"},
		{sources.Options{Places: filepath.Join(dir, "none")}, "the file of places"},
		{sources.Options{Referrers: rubbish}, "line 1 is not a class"},
		{sources.Options{Referrers: filepath.Join(dir, "none")}, "the file of referrers"},
		{sources.Options{Proxies: []string{"10.0.0.0/40"}}, "no address range"},
	} {
		_, err := sources.New(c.o)
		assert.ErrorContains(t, err, c.what)
	}
}

// The Global Privacy Control specification, from memory: the header's value is
// exactly "1" (§3.2); anything else is as if it were not there. A page says
// "gpc" where its navigator does and the header was taken out on the way.
func TestPrivacySignal(t *testing.T) {
	s, err := sources.New(sources.Options{})
	require.NoError(t, err)
	for _, c := range []struct {
		header, page string
		want         any
	}{
		{"1", "", "gpc"}, {"", "", nil}, {"0", "", nil}, {"true", "", nil}, {"1,1", "", nil}, {"", "gpc", "gpc"},
		{"", "yes", nil},
	} {
		r := httptest.NewRequest("POST", "/d/s", nil)
		if c.header != "" {
			r.Header.Set("Sec-GPC", c.header)
		}
		facts := map[string]any{}
		if c.page != "" {
			facts["consent.signal"] = c.page
		}
		s.Fill(facts, sources.NewWants([]string{"consent.signal"}), r, func(string) bool { return false })
		assert.Equal(t, c.want, facts["consent.signal"], c)
	}
}

// The table of places is swapped whole when its file changes, also where that is written over in
// place; one that breaks off or is none is refused, said, and leaves the table as it was.
func TestPlacesAreReplaced(t *testing.T) {
	write := func(file, country string) {
		t.Helper()
		tree, err := mmdbwriter.New(mmdbwriter.Options{DatabaseType: "places", RecordSize: 24})
		require.NoError(t, err)
		_, network, err := net.ParseCIDR("9.9.9.0/24")
		require.NoError(t, err)
		require.NoError(t, tree.Insert(network, mmdbtype.Map{
			"country": mmdbtype.Map{"iso_code": mmdbtype.String(country)},
		}))
		f, err := os.OpenFile(file, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
		require.NoError(t, err)
		_, err = tree.WriteTo(f)
		require.NoError(t, err)
		require.NoError(t, f.Close())
	}
	synctest.Test(t, func(t *testing.T) {
		file := filepath.Join(t.TempDir(), "places.mmdb")
		write(file, "DE")
		s, err := sources.New(sources.Options{Places: file})
		require.NoError(t, err)
		country := func() any {
			facts := map[string]any{}
			r := httptest.NewRequest("GET", "/", nil)
			r.RemoteAddr = "9.9.9.9:1"
			s.Fill(facts, sources.NewWants([]string{"place.country"}), r, func(string) bool { return false })
			return facts["place.country"]
		}
		ctx, stop := context.WithCancel(t.Context())
		defer stop()
		go s.Run(ctx)
		times := 0
		changed := func() { // the file's clock is the machine's: each change gets a moment of its own
			t.Helper()
			times++
			at := time.Now().Add(time.Duration(times) * time.Hour)
			require.NoError(t, os.Chtimes(file, at, at))
		}
		assert.Equal(t, "DE", country())
		write(file, "PL")
		changed()
		time.Sleep(9 * time.Second)
		assert.Equal(t, "DE", country())
		time.Sleep(20 * time.Second)
		assert.Equal(t, "PL", country())
		require.NoError(t, os.Truncate(file, 100)) // as while somebody copies another over it
		changed()
		time.Sleep(30 * time.Second)
		assert.Equal(t, "PL", country())
		assert.Contains(t, s.Trouble(), "The file of places cannot be read")
		require.NoError(t, os.Remove(file))
		time.Sleep(30 * time.Second)
		assert.Equal(t, "PL", country())
		assert.Contains(t, s.Trouble(), "no such file")
		write(file, "FR")
		changed()
		time.Sleep(30 * time.Second)
		assert.Equal(t, "FR", country())
		assert.Empty(t, s.Trouble())
		require.NoError(t, os.WriteFile(file, []byte("not a table"), 0o600))
		_, err = sources.New(sources.Options{Places: file})
		assert.ErrorContains(t, err, "the file of places")
	})
}
