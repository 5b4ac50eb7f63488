package pages_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/pages"
)

func TestNormalPath(t *testing.T) {
	for _, c := range []struct{ source, in, want string }{
		{"RFC 3986 §5.2.4", "/a/b/c/./../../g", "/a/g"},
		{"RFC 3986 §5.4.2, from /b/c/d;p", "/b/c/../../../g", "/g"},
		{"RFC 3986 §5.4.2", "/./g", "/g"},
		{"RFC 3986 §5.4.2", "/../g", "/g"},
		{"RFC 3986 §5.4.2", "/b/c/g.", "/b/c/g."},
		{"RFC 3986 §5.4.2", "/b/c/..g", "/b/c/..g"},
		{"RFC 3986 §5.4.2", "/b/c/./../g", "/b/g"},
		{"RFC 3986 §5.4.2", "/b/c/./g/.", "/b/c/g"},
		{"RFC 3986 §5.4.2", "/b/c/g;x=1/../y", "/b/c/y"},
		{"RFC 3986 §6.2.2: a://b/c/%7Bfoo%7D", "/b/c/%7bfoo%7d", "/b/c/%7Bfoo%7D"},
		{"RFC 3986 §6.2.2.2: %7E is ~", "/%7Euser", "/~user"},
		{"RFC 3986 §6.2.2.2: dots that were escaped are dots", "/a/%2e%2E/b", "/b"},
		{"RFC 3986 §6.2.2.2: a slash that was escaped is none", "/a%2fb", "/a%2Fb"},
		{"query and fragment are dropped", "/book?from=x#top", "/book"},
		{"a trailing slash is ignored", "/book/", "/book"},
		{"but for the root", "/", "/"},
		{"any number of trailing slashes", "/book//", "/book"},
		{"case matters", "/Book", "/Book"},
		{"what a path may not hold is escaped", "/häfen und mehr", "/h%C3%A4fen%20und%20mehr"},
	} {
		got, err := pages.NormalPath(c.in)
		require.NoError(t, err, c.in)
		assert.Equal(t, c.want, got, "%s: %s", c.source, c.in)
	}
	for _, bad := range []string{"", "book", "?x", "https://www.sundrey.example/", "/a%", "/a%4", "/a%zz"} {
		_, err := pages.NormalPath(bad)
		assert.ErrorContains(t, err, `"`, "the error quotes the path")
	}
}

func FuzzNormalPath(f *testing.F) {
	for _, s := range []string{"/", "/a/../b", "/%7e", "/..", "/a//", "/.%2e/", "//x", "/ü?#"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		n, err := pages.NormalPath(s)
		if err != nil {
			return
		}
		again, err := pages.NormalPath(n)
		if err != nil || again != n {
			t.Fatalf("%q -> %q -> %q, %v", s, n, again, err)
		}
		if !strings.HasPrefix(n, "/") || strings.Contains(n+"/", "/../") || len(n) > 1 && strings.HasSuffix(n, "/") {
			t.Fatalf("%q -> %q is not normal", s, n)
		}
	})
}

func TestOrigin(t *testing.T) {
	for in, want := range map[string]string{
		"HTTPS://WWW.Sundrey.Example:443/x?y": "https://www.sundrey.example",
		"http://sundrey.example:80":           "http://sundrey.example",
		"http://127.0.0.1:8090":               "http://127.0.0.1:8090",
		"https://fähre.example":               "https://xn--fhre-loa.example",
		"http://[::1]:8090":                   "http://[::1]:8090",
	} {
		got, err := pages.Origin(in)
		require.NoError(t, err, in)
		assert.Equal(t, want, got)
	}
	for _, bad := range []string{"", "sundrey.example", "ftp://sundrey.example", "https://", "null", "javascript:alert(1)", "https://a b"} {
		_, err := pages.Origin(bad)
		assert.Error(t, err, bad)
	}
	assert.True(t, pages.SameSite("https://www.sundrey.example", "https://sundrey.example"))
	assert.False(t, pages.SameSite("https://sundrey.example", "http://sundrey.example"), "the scheme counts")
	assert.False(t, pages.SameSite("https://sundrey.example", "https://wwwsundrey.example"))
}

var homes = []string{"/", "/de"}

func TestConditions(t *testing.T) {
	all := pages.Entry{Match: pages.All}
	page := func(p string) pages.Entry { return pages.Entry{Match: pages.Page, Path: p} }
	section := func(p string) pages.Entry { return pages.Entry{Match: pages.Section, Path: p} }
	pattern := func(p string) pages.Entry { return pages.Entry{Match: pages.Pattern, Pattern: p} }
	for _, c := range []struct {
		name string
		in   pages.Conditions
		yes  string
		no   string
	}{
		{"no include entry appears nowhere (P1)", pages.Conditions{}, "", "/ /book"},
		{"an exclude alone appears nowhere (P1)", pages.Conditions{Exclude: []pages.Entry{page("/book")}}, "", "/ /book"},
		{"every page", pages.Conditions{Include: []pages.Entry{all}}, "/ /book /no/such", ""},
		{"exclude wins whatever the order (P1)", pages.Conditions{Include: []pages.Entry{page("/book"), all}, Exclude: []pages.Entry{page("/book")}}, "/ /book/x", "/book"},
		{"home is any home path", pages.Conditions{Include: []pages.Entry{{Match: pages.Home}}}, "/ /de", "/pl /book"},
		{"a page is not what lies below it", pages.Conditions{Include: []pages.Entry{page("/ports/")}}, "/ports", "/ports/a /"},
		{"a section goes by whole segments (P2)", pages.Conditions{Include: []pages.Entry{section("/ports")}}, "/ports /ports/a /ports/a/b", "/portside /port"},
		{"the section / is every page", pages.Conditions{Include: []pages.Entry{section("/")}}, "/ /x", ""},
		{"paths are compared in normal form (P3)", pages.Conditions{Include: []pages.Entry{page("/%7Eines/../book/")}}, "/book", "/Book"},
		{"a pattern", pages.Conditions{Include: []pages.Entry{pattern("/news/:year(\\d+)")}}, "/news/2026", "/news /news/x /news/2026/11"},
		{"a pattern with something optional", pages.Conditions{Include: []pages.Entry{pattern("{/:lang(de|pl)}?/ports/*")}}, "/ports/fennay /de/ports/fennay", "/fr/ports/fennay /ports"},
	} {
		t.Run(c.name, func(t *testing.T) {
			set, faults := pages.Compile(c.in, homes)
			require.Empty(t, faults)
			for _, p := range strings.Fields(c.yes) {
				assert.True(t, set.Test(p).Shows, p)
			}
			for _, p := range strings.Fields(c.no) {
				assert.False(t, set.Test(p).Shows, p)
			}
		})
	}
}

func TestRefusedEntries(t *testing.T) {
	for _, c := range []struct {
		entry         pages.Entry
		pointer, what string
	}{
		{pages.Entry{Match: pages.Page, Path: "book"}, "/include/0/path", "does not begin with /"},
		{pages.Entry{Match: pages.Page}, "/include/0/path", "not a path"},
		{pages.Entry{Match: pages.All, Path: "/book"}, "/include/0", "takes no path"},
		{pages.Entry{Match: pages.Section, Path: "/a", Pattern: "/b"}, "/include/0/pattern", "not a pattern"},
		{pages.Entry{Match: pages.Pattern, Path: "/a"}, "/include/0/path", "not a path"},
		{pages.Entry{Match: pages.Pattern, Pattern: "news"}, "/include/0/pattern", "does not begin with /"},
		{pages.Entry{Match: pages.Pattern, Pattern: "/news/("}, "/include/0/pattern", "not a URL pattern"},
		{pages.Entry{Match: pages.Pattern, Pattern: "/:a/:a"}, "/include/0/pattern", "not a URL pattern"},
		{pages.Entry{Match: pages.Pattern, Pattern: "/{a"}, "/include/0/pattern", "not a URL pattern"},
		{pages.Entry{Match: "part"}, "/include/0/match", "unknown match"},
	} {
		_, faults := pages.Compile(pages.Conditions{Include: []pages.Entry{c.entry}}, homes)
		require.Len(t, faults, 1, "%+v", c.entry)
		assert.Equal(t, c.pointer, faults[0].Pointer)
		assert.Contains(t, faults[0].What, c.what)
		assert.NotEmpty(t, faults[0].Remedy)
	}
}

// Covers is sound: where it says that a takes all of b, no path is found that
// b takes and a does not.
func TestCoversIsSound(t *testing.T) {
	entries := []pages.Entry{{Match: pages.All}, {Match: pages.Home}, {Match: pages.Page, Path: "/"}, {Match: pages.Page, Path: "/de"}, {Match: pages.Page, Path: "/ports/a"},
		{Match: pages.Section, Path: "/"}, {Match: pages.Section, Path: "/ports"}, {Match: pages.Section, Path: "/ports/a"}, {Match: pages.Pattern, Pattern: "/ports/*"}, {Match: pages.Pattern, Pattern: "/*"}}
	paths := []string{"/", "/de", "/ports", "/ports/a", "/ports/a/b", "/ports/ab", "/portside", "/x/y"}
	covered := 0
	for _, a := range entries {
		for _, b := range entries {
			if !pages.Covers(a, b, homes) {
				continue
			}
			covered++
			sa, _ := pages.Compile(pages.Conditions{Include: []pages.Entry{a}}, homes)
			sb, _ := pages.Compile(pages.Conditions{Include: []pages.Entry{b}}, homes)
			for _, p := range paths {
				assert.False(t, sb.Test(p).Shows && !sa.Test(p).Shows, "%+v covers %+v but not on %s", a, b, p)
			}
		}
	}
	assert.Greater(t, covered, 25)
}
