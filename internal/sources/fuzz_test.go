package sources_test

import (
	"net/http"
	"strings"
	"testing"

	"mastflag/internal/sources"
)

// Whatever stands in a request's headers gives facts of their kind, or none.
func FuzzHeaders(f *testing.F) {
	f.Add(
		"Mozilla/5.0 (iPhone; CPU iPhone OS 17_0 like Mac OS X)", "de-AT,de;q=0.8,*;q=0.1",
		"https://www.search.example/?q=ferry", "9.9.9.9, 2620:fe::1, bogus",
	)
	f.Add("", "x-y-z;q=2,,,", "//a:b:c/[", ",,,,")
	s, err := sources.New(sources.Options{Proxies: []string{"127.0.0.1", "::1/128"}})
	if err != nil {
		f.Fatal(err)
	}
	wants := sources.NewWants([]string{
		"device.kind", "device.os", "device.browser", "locale.languages", "place.country", "place.region", "place.group",
		"referrer.class", "referrer.host", "consent.signal",
	})
	f.Fuzz(func(t *testing.T, agent, languages, referrer, hops string) {
		r := &http.Request{
			Header: http.Header{
				"User-Agent":         {agent},
				"Accept-Language":    {languages},
				"X-Forwarded-For":    {hops},
				"Sec-Ch-Ua-Platform": {agent},
			},
			RemoteAddr: "127.0.0.1:1",
		}
		facts := map[string]any{"referrer.url": referrer}
		s.Fill(facts, wants, r, func(string) bool { return false })
		if list, ok := facts["locale.languages"].([]string); ok && len(list) > 20 {
			t.Fatalf("%d languages", len(list))
		}
		if kind, ok := facts["device.kind"].(string); ok && !strings.Contains("phone tablet desktop", kind) {
			t.Fatalf("%q is no kind of device", kind)
		}
	})
}
