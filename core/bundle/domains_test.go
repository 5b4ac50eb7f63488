package bundle_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/core/bundle"
)

// Registrable domains, after the test cases that the public suffix list itself
// publishes (test_psl.txt, from memory), and what is none.
func TestDomains(t *testing.T) {
	for origin, want := range map[string]string{
		"https://example.com": "example.com", "https://b.example.com": "example.com",
		"https://a.b.example.com:8443": "example.com",
		"https://www.b.c.kobe.jp":      "b.c.kobe.jp", "https://city.kobe.jp": "city.kobe.jp",
		"https://www.city.kobe.jp": "city.kobe.jp",
		"https://a.b.test.ck":      "b.test.ck", "https://www.www.ck": "www.ck", "https://test.k12.ak.us": "test.k12.ak.us",
		"https://www.test.ak.us":     "test.ak.us",
		"https://shop.example.co.uk": "example.co.uk", "https://school.github.io": "school.github.io",
		"https://www.xn--85x722f.com.cn": "xn--85x722f.com.cn",
		"http://ferries.test:8090":       "ferries.test", "https://co.uk": "", "https://github.io": "",
		"http://localhost:8080": "", "http://127.0.0.1:8090": "", "http://[::1]": "",
	} {
		got := bundle.Site{Origins: []string{origin}}.Domains()
		if want == "" {
			assert.Empty(t, got, origin)
			faults := bundle.Site{
				Key:          "s",
				Name:         "S",
				TimeZone:     "UTC",
				Language:     "en",
				Origins:      []string{origin},
				SharedMemory: true,
			}.Check()
			assert.ErrorContains(t, faults, "/sharedMemory: none of the site's addresses lies in a domain", origin)
		} else {
			assert.Equal(t, []string{want}, got, origin)
		}
	}
	assert.Equal(t, []string{"a.example", "b.example"}, bundle.Site{Origins: []string{
		"https://a.example", "https://www.a.example", "https://x.b.example",
	}}.Domains())
}

// A page that does not say its language has that of the innermost section with one, else the one that its path begins
// with.
func TestSectionLanguages(t *testing.T) {
	s := bundle.Site{
		Key:              "s",
		Name:             "S",
		TimeZone:         "UTC",
		Language:         "en",
		SectionLanguages: []bundle.SectionLanguage{{Path: "/a", Language: "de"}, {Path: "/a/b/", Language: "ar"}},
	}
	assert.Empty(t, s.Check())
	for path, want := range map[string]string{
		"/":      "en",
		"/a":     "de",
		"/ab":    "en",
		"/a/x":   "de",
		"/a/b":   "ar",
		"/a/b/c": "ar",
		"/a/bc":  "de",
	} {
		assert.Equal(t, want, s.Sections().Language(path), path)
	}
	// Languages that are taken hold at once for the sections that are called as they are.
	assert.Equal(t, "en", s.Sections().Language("/pt-br/x"))
	s.Languages = []string{"pt-BR", "fr", "b"}
	s.SectionLanguages = append(s.SectionLanguages, bundle.SectionLanguage{Path: "/fr", Language: "pt-BR"})
	for path, want := range map[string]string{
		"/pt-br/x": "pt-BR", "/pt-BR": "pt-BR", "/pt-br#/x": "pt-BR", "/pt": "en", "/fr/x": "pt-BR", "/a/b/c": "ar",
		"/fr-x": "en", "/x/fr": "en",
	} {
		assert.Equal(t, want, s.Sections().Language(path), path)
	}
	s.SectionLanguages = append(s.SectionLanguages[:2], bundle.SectionLanguage{Path: "/", Language: "pl"})
	assert.Equal(t, "fr", s.Sections().Language("/fr/x"), "it lies further in")
	assert.Equal(t, "pl", s.Sections().Language("/x"))
	s.SectionLanguages = append(
		s.SectionLanguages, bundle.SectionLanguage{Path: "/a/b", Language: "x"},
		bundle.SectionLanguage{Path: "//x", Language: "de"},
	)
	faults := s.Check()
	assert.ErrorContains(t, faults, "/sectionLanguages/3/path: /a/b has a language already")
	assert.ErrorContains(t, faults, "/sectionLanguages/3/language")
	assert.ErrorContains(t, faults, "/sectionLanguages/4/path")
}
