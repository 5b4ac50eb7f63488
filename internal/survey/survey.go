// Package survey reads a site from outside: which pages it has, by its
// sitemap (sitemaps.org protocol), and whether each carries the snippet.
package survey

import (
	"bytes"
	"cmp"
	"compress/gzip"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/andybalholm/cascadia"
	"golang.org/x/net/html"
	"golang.org/x/net/html/charset"
	"golang.org/x/text/language"

	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/internal/outbound"
	"mastflag/internal/store"
)

// Limits of one survey.
const (
	maxPages   = 2000
	maxMaps    = 50
	maxDepth   = 2        // of sitemaps named by sitemaps: the protocol has one level
	maxBody    = 10 << 20 // bytes, of a sitemap once unpacked
	maxAll     = 50 << 20 // bytes, of all of them
	maxPage    = 2 << 20  // bytes, of a page
	atOnce     = 4
	forOnePage = 10 * time.Second
)

// A Surveyor visits sites.
type Surveyor struct {
	client *http.Client
}

// New returns a surveyor that stays on the origin it is sent to, and reaches out
// through a guard.
func New(g *outbound.Guard) *Surveyor {
	return &Surveyor{client: &http.Client{
		Timeout:   forOnePage,
		Transport: g.Transport(),
		CheckRedirect: func(r *http.Request, via []*http.Request) error {
			first, err := pages.Origin(via[0].URL.String())
			if err != nil {
				return err
			}
			if to, err := pages.Origin(r.URL.String()); err != nil || !pages.SameSite(first, to) {
				return fmt.Errorf("it leads to %s, which is another site", r.URL.Host)
			}
			if len(via) > 5 {
				return fmt.Errorf("it leads around in circles")
			}
			return nil
		},
	}}
}

// Sought is what a survey looks for.
type Sought struct {
	// What the snippet is known by in a page's HTML.
	Marker string
	// Of spots, MaxSelectors at most.
	Selectors []string
	// Of the site: a page that does not say its own is in the one that its path
	// begins with.
	Languages []string
}

// Survey reads the pages of a site at origin: those of its sitemap, or the
// home page alone if it has none. Pages come by path. The error says what to do.
func (s *Surveyor) Survey(ctx context.Context, origin string, look Sought) ([]store.Page, error) {
	origin, err := pages.Origin(origin)
	if err != nil {
		return nil, err
	}
	paths, err := s.sitemap(ctx, origin)
	if err != nil {
		return nil, err
	}
	var spots []spot
	for _, text := range look.Selectors[:min(len(look.Selectors), MaxSelectors)] {
		if group, err := cascadia.ParseGroup(text); err == nil {
			spots = append(spots, spot{text, group})
		}
	}
	found := make([]store.Page, len(paths))
	var wg sync.WaitGroup
	next := make(chan int)
	for range atOnce {
		wg.Go(func() {
			for i := range next {
				found[i] = s.page(ctx, origin, paths[i], look, spots)
			}
		})
	}
	for i := range paths {
		next <- i
	}
	close(next)
	wg.Wait()
	dropSiteName(found)
	return found, ctx.Err()
}

// dropSiteName takes off the end that most titles share behind a separator:
// it is the site's name and says nothing about the page.
func dropSiteName(found []store.Page) {
	ends := map[string]int{}
	end := func(title string) string {
		for _, sep := range []string{" – ", " — ", " - ", " | ", " · "} {
			if i := strings.LastIndex(title, sep); i > 0 {
				return title[i:]
			}
		}
		return ""
	}
	for _, p := range found {
		ends[end(p.Title)]++
	}
	for i := range found {
		if e := end(found[i].Title); e != "" && ends[e] > len(found)/2 && ends[e] > 1 {
			found[i].Title = strings.TrimSuffix(found[i].Title, e)
		}
	}
}

// sitemap returns the paths that a site's sitemap names, in order.
func (s *Surveyor) sitemap(ctx context.Context, origin string) ([]string, error) {
	var paths []string
	seen := map[string]bool{}
	type listed struct {
		at    string
		depth int
	}
	queue := []listed{{origin + "/sitemap.xml", 0}}
	left := maxAll
	for n := 0; len(queue) > 0 && n < maxMaps; n++ {
		at, depth := queue[0].at, queue[0].depth
		queue = queue[1:]
		got, err := s.get(ctx, at, maxBody)
		body, status := got.body, got.status
		if err != nil {
			return nil, fmt.Errorf("%s could not be read: %w. Check the site’s address, and that the site is running", at, err)
		}
		if status == http.StatusNotFound && n == 0 {
			return []string{"/"}, nil
		}
		if status != http.StatusOK {
			return nil, fmt.Errorf("%s answered with status %d. A sitemap is needed there", at, status)
		}
		if body, err = unpacked(body); err == nil {
			if left -= len(body); left < 0 {
				err = fmt.Errorf("all of them together are larger than %d MB", maxAll>>20)
			}
		}
		var pageLocs, mapLocs []string
		if err == nil {
			pageLocs, mapLocs, err = readSitemap(body)
		}
		if err != nil {
			return nil, fmt.Errorf("%s is not a sitemap: %w", at, err)
		}
		for _, loc := range mapLocs {
			if o, err := pages.Origin(loc); err == nil && pages.SameSite(o, origin) && depth < maxDepth {
				queue = append(queue, listed{loc, depth + 1})
			}
		}
		for _, loc := range pageLocs {
			o, err := pages.Origin(loc)
			if err != nil || !pages.SameSite(o, origin) {
				continue // another site's page
			}
			_, rest, _ := strings.Cut(loc, "://")
			i := strings.IndexByte(rest, '/')
			path := "/"
			if i >= 0 {
				path = rest[i:]
			}
			if path, err = pages.PagePath(path); err == nil && !seen[path] && len(paths) < maxPages {
				seen[path] = true
				paths = append(paths, path)
			}
		}
	}
	slices.Sort(paths)
	return paths, nil
}

// unpacked returns a sitemap that may be packed with gzip.
func unpacked(body []byte) ([]byte, error) {
	if !bytes.HasPrefix(body, []byte{0x1f, 0x8b}) {
		return body, nil
	}
	zr, err := gzip.NewReader(bytes.NewReader(body))
	if err != nil {
		return nil, err
	}
	out, err := io.ReadAll(io.LimitReader(zr, maxBody+1))
	if err == nil && len(out) > maxBody {
		err = fmt.Errorf("it is larger than %d MB", maxBody>>20)
	}
	return out, err
}

// readSitemap returns the addresses in a sitemap or a sitemap index.
func readSitemap(body []byte) (pageLocs, mapLocs []string, err error) {
	type entry struct {
		Loc string `xml:"loc"`
	}
	var doc struct {
		XMLName xml.Name
		URLs    []entry `xml:"url"`
		Maps    []entry `xml:"sitemap"`
	}
	if err := xml.Unmarshal(body, &doc); err != nil {
		return nil, nil, err
	}
	if doc.XMLName.Local != "urlset" && doc.XMLName.Local != "sitemapindex" {
		return nil, nil, fmt.Errorf("its root is <%s>", doc.XMLName.Local)
	}
	for _, e := range doc.URLs {
		pageLocs = append(pageLocs, strings.TrimSpace(e.Loc))
	}
	for _, e := range doc.Maps {
		mapLocs = append(mapLocs, strings.TrimSpace(e.Loc))
	}
	return pageLocs, mapLocs, nil
}

// MaxSelectors is how many selectors are looked for on each page.
const MaxSelectors = 100

// A spot is a selector that is looked for.
type spot struct {
	text  string
	group cascadia.SelectorGroup
}

// find returns where in a page's HTML selectors find something, and those that find
// nothing.
func find(body []byte, spots []spot) (found map[string]bundle.Extent, lost []string) {
	if len(spots) == 0 {
		return nil, nil
	}
	doc, err := html.Parse(bytes.NewReader(body))
	if err != nil {
		return nil, nil
	}
	extents, events := map[*html.Node]bundle.Extent{}, 0
	var walk func(n *html.Node)
	walk = func(n *html.Node) {
		from := events
		events++
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c)
		}
		extents[n] = bundle.Extent{From: from, To: events}
		events++
	}
	walk(doc)
	found = map[string]bundle.Extent{}
	for _, s := range spots {
		if n := cascadia.Query(doc, s.group); n != nil {
			found[s.text] = extents[n]
		} else {
			lost = append(lost, s.text)
		}
	}
	return found, lost
}

// page reads one page: its title, language, whether it has the snippet, and which
// spots it has not.
func (s *Surveyor) page(ctx context.Context, origin, path string, look Sought, spots []spot) store.Page {
	p := store.Page{Page: bundle.Page{Path: path}}
	got, err := s.get(ctx, origin+path, maxPage)
	status := got.status
	switch {
	case err != nil:
		p.Snippet = "could not be read: " + err.Error()
		return p
	case status != http.StatusOK:
		p.Snippet = fmt.Sprintf("answered with status %d", status)
		return p
	}
	body := decoded(got.body, got.header.Get("Content-Type"))
	var hasSnippet bool
	p.Title, p.Language, hasSnippet = readPage(body, look.Marker)
	p.Language = cmp.Or(p.Language, languageOf(got.header, path, look.Languages))
	p.Spots, p.Lost = find(body, spots)
	p.Snippet = store.SnippetMissing
	if hasSnippet {
		p.Snippet = store.SnippetFound
	}
	return p
}

// decoded returns a page in UTF-8, whatever it was written in: as a byte order mark,
// the header, the page itself or its bytes say (WHATWG Encoding Standard). What cannot
// be read is left as it is.
func decoded(body []byte, contentType string) []byte {
	r, err := charset.NewReader(bytes.NewReader(body), contentType)
	if err != nil {
		return body
	}
	out, err := io.ReadAll(r)
	if err != nil {
		return body
	}
	return out
}

// languageOf returns the language of a page that does not say it in its HTML: the
// first of its Content-Language header, or the language of the site that its path
// begins with; "" if neither is known.
func languageOf(h http.Header, path string, languages []string) string {
	first, _, _ := strings.Cut(h.Get("Content-Language"), ",")
	if tag, err := language.Parse(strings.TrimSpace(first)); err == nil && tag != language.Und {
		return tag.String()
	}
	segment, _, _ := strings.Cut(strings.TrimPrefix(path, "/"), "/")
	for _, l := range languages {
		if strings.EqualFold(l, segment) {
			return l
		}
	}
	return ""
}

// readPage reads the head of a page and looks through it for a script element
// whose address ends in marker.
func readPage(body []byte, marker string) (title, lang string, hasSnippet bool) {
	z := html.NewTokenizer(bytes.NewReader(body))
	inTitle := false
	for {
		switch z.Next() {
		case html.ErrorToken:
			return strings.Join(strings.Fields(title), " "), lang, hasSnippet
		case html.TextToken:
			if inTitle {
				title += string(z.Text())
			}
		case html.EndTagToken:
			inTitle = false
		case html.StartTagToken:
			t := z.Token()
			inTitle = t.Data == "title" && title == ""
			for _, a := range t.Attr {
				if t.Data == "html" && a.Key == "lang" {
					if tag, err := language.Parse(a.Val); err == nil {
						lang = tag.String()
					}
				}
				if t.Data == "script" && a.Key == "src" && strings.HasSuffix(a.Val, marker) {
					hasSnippet = true
				}
			}
		}
	}
}

// An answer is what an address had.
type answer struct {
	body   []byte
	status int
	header http.Header
}

// get reads an address, at most limit bytes of it.
func (s *Surveyor) get(ctx context.Context, address string, limit int64) (answer, error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return answer{}, err
	}
	r.Header.Set("User-Agent", "MastFlag-Survey/1")
	res, err := s.client.Do(r)
	var during *url.Error
	if errors.As(err, &during) {
		err = during.Err // the address is said already
	}
	if err != nil {
		return answer{}, err
	}
	defer res.Body.Close()
	body, err := io.ReadAll(io.LimitReader(res.Body, limit+1))
	if err == nil && int64(len(body)) > limit {
		err = fmt.Errorf("it is larger than %d MB", limit>>20)
	}
	return answer{body, res.StatusCode, res.Header}, err
}
