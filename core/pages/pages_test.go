package pages_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/dunglas/go-urlpattern"
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
		{"a route is part of the path", "/app/?a=1#/ports/?day=2#top", "/app#/ports"},
		{"as crawlers were told of them", "/#!/ports/aldwick", "/#!/ports/aldwick"},
		{"the route is in normal form", "/#/%7eines/./h%c3%a4fen/", "/#/~ines/h%C3%A4fen"},
		{"the root route is the page itself", "/app#/", "/app"},
		{"the root route is the page itself", "/#!/?day=2", "/"},
		{"what has no slash is a place on the page", "/app#ports/aldwick", "/app"},
		{"what a path may not hold is escaped", "/häfen und mehr", "/h%C3%A4fen%20und%20mehr"},
	} {
		got, err := pages.NormalPath(c.in)
		require.NoError(t, err, c.in)
		assert.Equal(t, c.want, got, "%s: %s", c.source, c.in)
	}
	for _, bad := range []string{"", "book", "?x", "https://www.sundrey.example/", "/a%", "/a%4", "/a%zz", "/a#/b%"} {
		_, err := pages.NormalPath(bad)
		assert.ErrorContains(t, err, `"`, "the error quotes the path")
	}
}

// The query of an address is followed by that of its route.
func TestQueryOf(t *testing.T) {
	for in, want := range map[string]string{
		"/a": "", "/a?b=1": "b=1", "/a?b=1#c?d": "b=1", "/a?b=1#/c?d=2#e?f": "b=1&d=2", "/a#!/c?d=2": "d=2", "/a?b#/c": "b",
	} {
		assert.Equal(t, want, pages.QueryOf(in), in)
	}
}

// A listed page is known by its other addresses, too, and conditions that name one of them take it.
func TestListed(t *testing.T) {
	n, faults := pages.NewNames([]string{"/", "/de/index.html"}, []string{
		"/fares", "/ports.html", "/ports/index.php", "/book", "/book.html", "/news/index.html", "/de", "/app.htm", "/.html",
	}, []pages.SavedSet{{Name: "s", Conditions: pages.Conditions{Include: []pages.Entry{{
		Match: pages.Page, Path: "/fares.html",
	}}}}})
	require.Empty(t, faults)
	assert.Equal(t, []string{"/", "/de"}, n.Homes)
	for in, want := range map[string]string{
		"/fares": "/fares", "/fares.html": "/fares", "/fares/index.xhtml": "/fares", "/fares.pdf": "/fares.pdf",
		"/Fares.html": "/Fares.html", "/fares.HTML": "/fares.HTML", "/fares.html.html": "/fares.html.html",
		"/index.html": "/", "/index.php": "/", "/index.asp": "/index.asp",
		"/ports": "/ports/index.php", "/ports.html": "/ports.html", "/ports/index.html": "/ports/index.html",
		"/book": "/book", "/book.html": "/book.html", "/book/index.htm": "/book",
		"/news": "/news/index.html", "/news.html": "/news.html", "/app#/a": "/app.htm#/a", "/app.htm#!/b": "/app.htm#!/b",
		"/fares.html#/c": "/fares#/c", "/html": "/html", "/.html": "/.html", "/x/.html": "/x/.html", "": "",
	} {
		assert.Equal(t, want, n.Listed.Find(in), in)
		assert.Equal(t, want, n.Listed.Find(n.Listed.Find(in)), in)
		assert.Equal(t, in, pages.Listed{}.Find(in), "without a list each is its own")
	}
	for entry, takes := range map[pages.Entry]string{
		{Match: pages.Page, Path: "/fares/index.html"}:    "/fares",
		{Match: pages.Section, Path: "/de/index.html"}:    "/de/inseln",
		{Match: pages.Page, Path: "/index.html"}:          "/",
		{Match: pages.Home}:                               "/de",
		{Match: pages.InSet, Name: "s"}:                   "/fares",
		{Match: pages.Pattern, Pattern: "/ports/*.:kind"}: "/ports/index.php",
	} {
		set, faults := pages.Compile(pages.Conditions{Include: []pages.Entry{entry}}, n)
		require.Empty(t, faults)
		assert.True(t, set.Test(pages.Subject{Path: takes}).Shows, entry)
	}
	off := pages.Conditions{Include: []pages.Entry{{Match: pages.Page, Path: "/fares.html"}}}.
		Off(pages.Subject{Path: "/fares"}, n)
	assert.Empty(t, off, "what names it by another address is taken out")
}

func FuzzNormalPath(f *testing.F) {
	for _, s := range []string{"/", "/a/../b", "/%7e", "/..", "/a//", "/.%2e/", "//x", "/ü?#", "/a#!/b/../c?#"} {
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
	for _, bad := range []string{
		"", "sundrey.example", "ftp://sundrey.example", "https://", "null", "javascript:alert(1)", "https://a b",
	} {
		_, err := pages.Origin(bad)
		assert.Error(t, err, bad)
	}
	assert.True(t, pages.SameSite("https://www.sundrey.example", "https://sundrey.example"))
	assert.False(t, pages.SameSite("https://sundrey.example", "http://sundrey.example"), "the scheme counts")
	assert.False(t, pages.SameSite("https://sundrey.example", "https://wwwsundrey.example"))
}

func names(t testing.TB) pages.Names {
	n, faults := pages.NewNames([]string{"/", "/de"}, nil, []pages.SavedSet{{
		Name: "ports in winter",
		Conditions: pages.Conditions{
			Include: []pages.Entry{{Match: pages.Section, Path: "/ports"}},
			Exclude: []pages.Entry{{Match: pages.Tag, Value: ptr("summer")}}},
	}})
	require.Empty(t, faults)
	return n
}

func ptr(s string) *string { return &s }

// known are pages with facts of their own; all others are bare.
var known = map[string]pages.Subject{
	"/ports/aldwick": {Path: "/ports/aldwick", Type: "port", Tags: []string{"winter", "harbour"}, Language: "en-GB"},
	"/ports/fennay":  {Path: "/ports/fennay", Type: "port", Tags: []string{"summer"}, Language: "en"},
	"/de/faehren":    {Path: "/de/faehren", Type: "route", Language: "de-AT"},
}

// subject reads "/book?from=poster".
func subject(address string) pages.Subject {
	path, query, _ := strings.Cut(address, "?")
	p, ok := known[path]
	if !ok {
		p = pages.Subject{Path: path, Language: "en"}
	}
	p.Query = query
	return p
}

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
		{
			"exclude wins whatever the order (P1)",
			pages.Conditions{Include: []pages.Entry{page("/book"), all}, Exclude: []pages.Entry{page("/book")}}, "/ /book/x",
			"/book",
		},
		{"home is any home path", pages.Conditions{Include: []pages.Entry{{Match: pages.Home}}}, "/ /de", "/pl /book"},
		{
			"a page is not what lies below it", pages.Conditions{Include: []pages.Entry{page("/ports/")}}, "/ports",
			"/ports/a /",
		},
		{
			"a section goes by whole segments (P2)", pages.Conditions{Include: []pages.Entry{section("/ports")}},
			"/ports /ports/a /ports/a/b", "/portside /port",
		},
		{
			"routes lie below the page that has them (P4)", pages.Conditions{Include: []pages.Entry{section("/ports")}},
			"/ports#/a /ports#!/a/b /ports/a#/b", "/#/ports /portside#/a",
		},
		{
			"a section of routes", pages.Conditions{Include: []pages.Entry{section("/#/ports/")}}, "/#/ports /#/ports/a",
			"/ /#/portside /ports /#!/ports",
		},
		{
			"a pattern of routes", pages.Conditions{Include: []pages.Entry{pattern("/#/ports/:name")}}, "/#/ports/a",
			"/#/ports /#/ports/a/b /ports/a",
		},
		{"the section / is every page", pages.Conditions{Include: []pages.Entry{section("/")}}, "/ /x", ""},
		{
			"paths are compared in normal form (P3)", pages.Conditions{Include: []pages.Entry{page("/%7Eines/../book/")}},
			"/book", "/Book",
		},
		{
			"a type of page", pages.Conditions{Include: []pages.Entry{{Match: pages.Type, Value: ptr("port")}}},
			"/ports/aldwick /ports/fennay", "/de/faehren /ports/other",
		},
		{
			"a tag", pages.Conditions{Include: []pages.Entry{{Match: pages.Tag, Value: ptr("winter")}}}, "/ports/aldwick",
			"/ports/fennay /x",
		},
		{
			"a language by basic filtering (RFC 4647 §3.3.1)",
			pages.Conditions{Include: []pages.Entry{{Match: pages.Language, Value: ptr("EN")}}},
			"/ports/aldwick /ports/fennay /x", "/de/faehren",
		},
		{
			"a narrower language does not take a wider one",
			pages.Conditions{Include: []pages.Entry{{Match: pages.Language, Value: ptr("de-AT")}}}, "/de/faehren", "/x",
		},
		{
			"any language", pages.Conditions{Include: []pages.Entry{{Match: pages.Language, Value: ptr("*")}}}, "/de/faehren /x",
			"",
		},
		{
			"a query parameter", pages.Conditions{Include: []pages.Entry{{Match: pages.Query, Name: "from"}}},
			"/x?from=poster /x?a=1&from /x?from=", "/x /x?From=poster /x?fromage=1",
		},
		{
			"a query parameter's value",
			pages.Conditions{Include: []pages.Entry{{Match: pages.Query, Name: "from", Value: ptr("the poster")}}},
			"/x?from=the+poster /x?from=a&from=the%20poster", "/x?from=poster /x?from",
		},
		{
			"all but a query parameter",
			pages.Conditions{Include: []pages.Entry{all}, Exclude: []pages.Entry{{Match: pages.Query, Name: "print"}}},
			"/x /x?y=1", "/x?print=1",
		},
		{
			"a page set, with its own exceptions",
			pages.Conditions{Include: []pages.Entry{{Match: pages.InSet, Name: "ports in winter"}}}, "/ports /ports/aldwick",
			"/ports/fennay /x",
		},
		{
			"all but a page set",
			pages.Conditions{Include: []pages.Entry{all}, Exclude: []pages.Entry{{Match: pages.InSet, Name: "ports in winter"}}},
			"/ports/fennay /x", "/ports/aldwick",
		},
		{
			"a pattern", pages.Conditions{Include: []pages.Entry{pattern("/news/:year(\\d+)")}}, "/news/2026",
			"/news /news/x /news/2026/11",
		},
		{
			"a pattern with something optional", pages.Conditions{Include: []pages.Entry{pattern("{/:lang(de|pl)}?/ports/*")}},
			"/ports/fennay /de/ports/fennay", "/fr/ports/fennay /ports",
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			set, faults := pages.Compile(c.in, names(t))
			require.Empty(t, faults)
			for _, p := range strings.Fields(c.yes) {
				assert.True(t, set.Test(subject(p)).Shows, p)
			}
			for _, p := range strings.Fields(c.no) {
				assert.False(t, set.Test(subject(p)).Shows, p)
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
		{pages.Entry{Match: pages.All, Path: "/book"}, "/include/0/path", "takes no path"},
		{pages.Entry{Match: pages.Section, Path: "/a", Pattern: "/b"}, "/include/0/pattern", "takes no pattern"},
		{pages.Entry{Match: pages.Pattern, Path: "/a"}, "/include/0/path", "takes no path"},
		{pages.Entry{Match: pages.Pattern, Pattern: "news"}, "/include/0/pattern", "does not begin with /"},
		{pages.Entry{Match: pages.Pattern, Pattern: "/news/("}, "/include/0/pattern", "not a URL pattern"},
		{pages.Entry{Match: pages.Pattern, Pattern: "/:a/:a"}, "/include/0/pattern", "not a URL pattern"},
		{pages.Entry{Match: pages.Pattern, Pattern: "/{a"}, "/include/0/pattern", "not a URL pattern"},
		{pages.Entry{Match: pages.Type}, "/include/0/value", "needs a value"},
		{pages.Entry{Match: pages.Tag, Value: ptr("")}, "/include/0/value", "needs a value"},
		{pages.Entry{Match: pages.Language, Value: ptr("de"), Name: "x"}, "/include/0/name", "takes no name"},
		{pages.Entry{Match: pages.Query}, "/include/0/name", "needs a name"},
		{pages.Entry{Match: pages.Page, Path: "/a", Value: ptr("x")}, "/include/0/value", "takes no value"},
		{pages.Entry{Match: pages.InSet, Name: "nowhere"}, "/include/0/name", "no page set"},
		{pages.Entry{Match: "part"}, "/include/0/match", "unknown match"},
	} {
		_, faults := pages.Compile(pages.Conditions{Include: []pages.Entry{c.entry}}, names(t))
		require.Len(t, faults, 1, "%+v", c.entry)
		assert.Equal(t, c.pointer, faults[0].Pointer)
		assert.Contains(t, faults[0].What, c.what)
		assert.NotEmpty(t, faults[0].Remedy)
	}
}

// Covers is sound: where it says that a takes all of b, no path is found that
// b takes and a does not.
func TestCoversIsSound(t *testing.T) {
	entries := []pages.Entry{
		{Match: pages.All}, {Match: pages.Home}, {Match: pages.Page, Path: "/"}, {Match: pages.Page, Path: "/de"},
		{Match: pages.Page, Path: "/ports/a"}, {Match: pages.Section, Path: "/"}, {Match: pages.Section, Path: "/ports"},
		{Match: pages.Section, Path: "/ports/a"}, {Match: pages.Pattern, Pattern: "/ports/*"},
		{Match: pages.Pattern, Pattern: "/*"}, {Match: pages.Type, Value: ptr("port")},
		{Match: pages.Tag, Value: ptr("winter")}, {Match: pages.Language, Value: ptr("en")},
		{Match: pages.Language, Value: ptr("en-GB")}, {Match: pages.Language, Value: ptr("*")},
		{Match: pages.Query, Name: "from"}, {Match: pages.Query, Name: "from", Value: ptr("poster")},
		{Match: pages.InSet, Name: "ports in winter"},
	}
	paths := []string{
		"/", "/de", "/ports", "/ports/a", "/ports/a/b", "/ports/ab", "/portside", "/x/y", "/ports/aldwick", "/ports/fennay",
		"/de/faehren", "/x?from=poster", "/x?from=flyer", "/ports/aldwick?from=",
	}
	covered := 0
	for _, a := range entries {
		for _, b := range entries {
			if len(pages.NewCoverings([]pages.Entry{a}, names(t)).Of(b)) == 0 {
				continue
			}
			covered++
			sa, _ := pages.Compile(pages.Conditions{Include: []pages.Entry{a}}, names(t))
			sb, _ := pages.Compile(pages.Conditions{Include: []pages.Entry{b}}, names(t))
			for _, p := range paths {
				assert.False(t, sb.Test(subject(p)).Shows && !sa.Test(subject(p)).Shows, "%+v covers %+v but not on %s", a, b, p)
			}
		}
	}
	assert.Greater(t, covered, 25)
}

// Source: RFC 4647 §3.3.1, the examples of basic filtering.
func TestLanguageRanges(t *testing.T) {
	for _, tag := range []string{"de-DE", "de-DE-1996", "de-de-x-goethe"} {
		assert.True(t, pages.Filter("de-de", tag), tag)
	}
	for _, tag := range []string{"de", "de-Deva", "de-Latn-DE", "de-DEU", ""} {
		assert.False(t, pages.Filter("de-de", tag), tag)
	}
	assert.True(t, pages.Filter("*", "fr"))
}

// Patterns made to cost much are refused or read, and tried, at once.
func TestHostilePatterns(t *testing.T) {
	began := time.Now()
	for _, pattern := range []string{
		"/" + strings.Repeat("(a*)*", 300) + "b", "/((((a{30}){30}){30}){30})", "/(a{1000}){1000}",
		"/" + strings.Repeat(":x", 1000), "/" + strings.Repeat("{", 1000), "/" + strings.Repeat("*", 2000),
		"/(" + strings.Repeat("a|", 1000) + "a)", "/\xff\xfe(", "/(?!a)",
	} {
		set, faults := pages.Compile(pages.Conditions{Include: []pages.Entry{{
			Match:   pages.Pattern,
			Pattern: pattern,
		}}}, pages.Names{})
		if faults == nil {
			set.Test(pages.Subject{Path: "/" + strings.Repeat("a", 2000)})
		} else {
			assert.Equal(t, "/include/0/pattern", faults[0].Pointer)
		}
	}
	assert.Less(t, time.Since(began), 2*time.Minute, "a guard against patterns that run away, not a measure")
}

// The index finds exactly what trying every notice finds.
func TestIndexFindsWhatTryingFinds(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	n := names(t)
	entry := func() pages.Entry {
		paths := []string{"/", "/de", "/ports", "/ports/aldwick", "/x", "/de/faehren", "/ports#/aldwick", "/#/ports"}
		switch r.IntN(11) {
		case 0, 1:
			return pages.Entry{Match: pages.All}
		case 2:
			return pages.Entry{Match: pages.Home}
		case 3:
			return pages.Entry{Match: pages.Page, Path: paths[r.IntN(len(paths))]}
		case 4:
			return pages.Entry{Match: pages.Section, Path: paths[r.IntN(len(paths))]}
		case 5:
			return pages.Entry{Match: pages.Type, Value: ptr([]string{"port", "route"}[r.IntN(2)])}
		case 6:
			return pages.Entry{Match: pages.Tag, Value: ptr([]string{"winter", "summer"}[r.IntN(2)])}
		case 7:
			return pages.Entry{Match: pages.Language, Value: ptr([]string{"en", "de", "en-GB"}[r.IntN(3)])}
		case 8:
			return []pages.Entry{
				{Match: pages.Query, Name: "from"}, {Match: pages.Query, Name: "from", Value: ptr("poster")},
				{Match: pages.Query, Name: "x", Value: ptr("")},
			}[r.IntN(3)]
		case 9:
			return pages.Entry{Match: pages.Pattern, Pattern: []string{
				"/ports/*", "/*/aldwick", "*", "/:a/:b", "/ports/:a/x", "/po*/ald*", "*/x", "/p*/", "/ports/(a.*|x)",
				"/ports{/aldwick}?",
				"/de/:x?", "{/ports}?/aldwick", "/:a(\\d+)/x", "/ports/*/x", "/ports#/*", "/*#!/:a",
			}[r.IntN(16)]}
		}
		return pages.Entry{Match: pages.InSet, Name: "ports in winter"}
	}
	for range 300 {
		var ids []int32
		sets := map[int32]pages.Set{}
		for id := range int32(20) {
			var c pages.Conditions
			for range r.IntN(3) {
				c.Include = append(c.Include, entry())
			}
			for range r.IntN(2) {
				c.Exclude = append(c.Exclude, entry())
			}
			set, faults := pages.Compile(c, n)
			require.Empty(t, faults)
			ids, sets[id] = append(ids, id), set
		}
		x := pages.NewIndex(ids, func(id int32) pages.Set { return sets[id] })
		for _, address := range []string{
			"/", "/de", "/ports", "/ports/aldwick", "/ports/fennay", "/ports/aldwick/x", "/x", "/de/faehren", "/y?from=poster",
			"/ports/aldwick?from", "/12/x", "/ports#/aldwick", "/#/ports/x", "/ports#!/de",
			"/ports/aldwick?x=&from=mail&from=poster", "/y?from=%zz&from=poster",
		} {
			p := subject(address)
			var want []int32
			for _, id := range ids {
				if sets[id].Test(p).Shows {
					want = append(want, id)
				}
			}
			got, barred := x.Find(p)
			for _, id := range x.Everywhere() {
				if !slices.Contains(barred, id) {
					got = append(got, id)
				}
			}
			slices.Sort(got)
			require.True(t, slices.Equal(want, got), "%s: want %v, got %v", address, want, got)
		}
	}
}

// Conditions that take a page with no query are known to be so, and no others.
func TestNone(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	queries := []string{""}
	for _, q := range []string{"a=1", "a=2", "a=3", "b=1"} {
		for _, with := range queries {
			queries = append(queries, strings.Trim(with+"&"+q, "&"))
		}
	}
	none := 0
	for range 20_000 {
		entry := func() pages.Entry {
			switch r.IntN(6) {
			case 0:
				return pages.Entry{Match: pages.All}
			case 1:
				return pages.Entry{Match: pages.Page, Path: []string{"/x", "/y"}[r.IntN(2)]}
			case 2:
				return pages.Entry{Match: pages.Query, Name: "b"}
			}
			e := pages.Entry{Match: pages.Query, Name: "a"}
			if v := r.IntN(3); v > 0 {
				e.Value = ptr(strconv.Itoa(v))
			}
			return e
		}
		conditions := func() (c pages.Conditions) {
			for range 1 + r.IntN(2) {
				c.Include = append(c.Include, entry())
			}
			for range r.IntN(3) {
				c.Exclude = append(c.Exclude, entry())
			}
			return c
		}
		names, faults := pages.NewNames(nil, nil, []pages.SavedSet{{Name: "s", Conditions: conditions()}})
		require.Empty(t, faults)
		of := conditions()
		if r.IntN(2) == 0 {
			of.Include[0] = pages.Entry{Match: pages.InSet, Name: "s"}
		} else if len(of.Exclude) > 0 {
			of.Exclude[0] = pages.Entry{Match: pages.InSet, Name: "s"}
		}
		set, faults := pages.Compile(of, names)
		require.Empty(t, faults)
		for _, path := range []string{"/x", "/y"} {
			met := slices.ContainsFunc(queries, func(q string) bool {
				return set.Test(pages.Subject{Path: path, Query: q}).Shows
			})
			left := 1000
			require.Equal(t, !met, set.None([]pages.Subject{{Path: path}}, &left), "%+v", of)
			if !met {
				none++
			}
		}
	}
	assert.Greater(t, none, 1000)

	// What asks for more than 6 parameters, or for more than there is time for, is not known.
	for _, c := range []struct {
		parameters, left int
		known            bool
	}{{6, 10_000, true}, {6, 11, false}, {7, 10_000, false}} {
		var of pages.Conditions
		for i := range c.parameters {
			e := pages.Entry{Match: pages.Query, Name: fmt.Sprint("q", i)}
			of.Include, of.Exclude = append(of.Include, e), append(of.Exclude, e)
		}
		set, faults := pages.Compile(of, pages.Names{})
		require.Empty(t, faults)
		left := c.left
		require.Equal(t, c.known, set.None([]pages.Subject{{Path: "/"}}, &left), "%+v", c)

		// Where a page is left out whatever the query, the parameters do not matter.
		of.Exclude, left = []pages.Entry{{Match: pages.Page, Path: "/"}}, 10_000
		set, faults = pages.Compile(of, pages.Names{})
		require.Empty(t, faults)
		require.True(t, set.None([]pages.Subject{{Path: "/"}}, &left))
	}
}

func TestRefusedSets(t *testing.T) {
	_, faults := pages.NewNames(nil, nil, []pages.SavedSet{
		{Name: "a", Conditions: pages.Conditions{Include: []pages.Entry{{Match: pages.Page, Path: "x"}}}},
		{Name: "a", Conditions: pages.Conditions{Exclude: []pages.Entry{{Match: pages.InSet, Name: "a"}}}},
	})
	require.Len(t, faults, 3)
	assert.Equal(t, []string{
		"/0/include/0/path", "/1/name", "/1/exclude/0",
	}, []string{faults[0].Pointer, faults[1].Pointer, faults[2].Pointer})
}

// A pattern takes the paths that the URL Pattern Standard's own algorithm takes,
// whatever is looked at first.
func TestPatternsAsTheStandardHasThem(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 3))
	some := func(of []string, n int) string {
		var b strings.Builder
		for range 1 + r.IntN(n) {
			b.WriteString(of[r.IntN(len(of))])
		}
		return b.String()
	}
	parts := []string{
		"/", "/a", "/ab", "b", "-1", "/:x", "/:x?", "/*", "/*?", "*", "{/a}?", "{/b}+", "(a|b)", "/(a|b)?", "/.", "/..", ".",
		"~", "%41", "ä", "\\a", "/A", "//",
	}
	taken := 0
	for range 15_000 {
		pattern := "/" + some(parts, 4)
		path, err := pages.NormalPath("/" + some([]string{
			"/", "a", "b", "ab", "/a", "/b", "-1", "A", "%41", "ä", ".", "~", "/x",
		}, 5))
		if err != nil {
			continue
		}
		set, faults := pages.Compile(pages.Conditions{Include: []pages.Entry{{
			Match:   pages.Pattern,
			Pattern: pattern,
		}}}, pages.Names{})
		if faults != nil {
			continue
		}
		own, err := (&urlpattern.URLPatternInit{Pathname: &pattern}).New(nil)
		require.NoError(t, err)
		want := own.TestInit(&urlpattern.URLPatternInit{Pathname: &path})
		require.Equal(t, want, set.Test(pages.Subject{Path: path}).Shows, "%s on %s", pattern, path)
		if want {
			taken++
		}
	}
	assert.Greater(t, taken, 500)
}

// Patterns against the library, which goes by the standard, on random ones and paths:
// simple patterns are tried without it, others only where their letters occur.
func TestPatternsAgreeWithTheLibrary(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	word := func(of ...string) string {
		var b strings.Builder
		for range r.IntN(4) {
			b.WriteString(of[r.IntN(len(of))])
		}
		return b.String()
	}
	simple, taken := 0, 0
	for range 4000 {
		pattern, path := "", ""
		for range 1 + r.IntN(4) {
			switch r.IntN(10) {
			case 9:
				pattern += "#/" + word("a", "b")
			case 0, 1, 2:
				pattern += "/:" + string("ab_"[r.IntN(3)]) + word("a", "1")
			case 3:
				pattern += []string{
					"{/ab}?", "/{a}+", "/(a|b)", "/x(a)?b", "{/:n}?/ab", "/ab/:m?", "/:m+", "/\\ab", "/:k(a+)b", "/b/*?",
				}[r.IntN(10)]
			default:
				pattern += "/" + word("a", "b", "-", "*")
			}
		}
		e, err := pages.Compile(pages.Conditions{Include: []pages.Entry{{
			Match:   pages.Pattern,
			Pattern: pattern,
		}}}, pages.Names{})
		if err != nil {
			continue // a name twice
		}
		if r.IntN(5) == 0 {
			pattern = "*" + pattern
			e, err = pages.Compile(pages.Conditions{Include: []pages.Entry{{
				Match:   pages.Pattern,
				Pattern: pattern,
			}}}, pages.Names{})
			if err != nil {
				continue
			}
		}
		library, fault := (&urlpattern.URLPatternInit{Pathname: &pattern}).New(nil)
		require.NoError(t, fault)
		if !strings.Contains(pattern, "**") {
			simple++
		}
		for range 30 {
			path = ""
			for range 1 + r.IntN(5) {
				path += "/" + word("a", "b", "-", "é", "ab")
			}
			if r.IntN(3) == 0 {
				path += "#/" + word("a", "b") + "/b"
			}
			path, err := pages.NormalPath(path)
			if err != nil {
				continue
			}
			want := library.TestInit(&urlpattern.URLPatternInit{Pathname: &path})
			if want {
				taken++
			}
			require.Equal(t, want, e.Test(pages.Subject{Path: path}).Shows, "%s on %s", pattern, path)
		}
	}
	assert.Greater(t, simple, 1000)
	assert.Greater(t, taken, 1000)
}

// What is tried on every page is bounded: patterns in which nothing stands for itself.
func TestLoosePatterns(t *testing.T) {
	for pattern, loose := range map[string]bool{
		"/news/*": false, "*": false, "/:a": false, "/:a/:b": false, "*/x": false, "/:a(\\d+)": true, "{/a}?": true,
		"/a{/b}?": false, "/ab{/c}?": false, "/(a|b)/cd": false, "/ab/../:x(a)": true,
		"/\\:ab/:x?": false, "/:x?": true, "/%61%62/:x?": true,
	} {
		s, faults := pages.Compile(pages.Conditions{Include: []pages.Entry{{
			Match:   pages.Pattern,
			Pattern: pattern,
		}}}, pages.Names{})
		require.Empty(t, faults, pattern)
		assert.Equal(t, loose, len(s.Unanchored()) == 1, pattern)
	}
}
