package survey

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"hash/fnv"
	"io"
	"maps"
	"math"
	"mime"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/andybalholm/cascadia"
	"golang.org/x/net/html"
	"golang.org/x/net/html/charset"

	"mastflag/core/bundle"
	"mastflag/core/csp"
	"mastflag/core/pages"
	"mastflag/internal/store"
)

const (
	// A page that is refused because there is too much to do is asked for so often.
	maxTries = 4
	// Where a site wants a longer pause than this, reading stops and can be resumed.
	longestPause = 2 * time.Minute
	// After so many pages in a row that cannot be reached the site is gone.
	maxSilent = 20
	// Letters of a title, as a bundle has them.
	maxTitle = 500
	// So many pages that were read may wait to be kept.
	queueSize = 256
)

// Sought is what a survey looks for.
type Sought struct {
	// What the snippet is known by in a page's HTML.
	Marker string
	// What the snippet that holds back has in it besides, where the site wants that one.
	Guard string
	// Of spots, MaxSelectors at most.
	Selectors []string
	// Of the site: a page that does not say its own is in the one that its path
	// begins with.
	Languages []string
}

// A Busy error says that a site wants to be left alone for a while.
type Busy struct{ For time.Duration }

func (b Busy) Error() string {
	return fmt.Sprintf("the site asks to be left alone for %d minutes", int(math.Ceil(b.For.Minutes())))
}

// Read reads pages of a site at origin, a few at once, in their order; what robots.txt
// asks to leave is not read. Each is given to keep as it comes, one at a time. It ends
// early with a Busy error, with one that says that the site is gone, or with that of ctx.
func (s *Surveyor) Read(
	ctx context.Context,
	origin string,
	list []store.Listed,
	look Sought,
	keep func(store.Reading),
) error {
	rules, err := s.rules(ctx, origin)
	if err != nil {
		return fmt.Errorf("the site no longer answers: %w", err)
	}
	var spots []spot
	for _, text := range look.Selectors[:min(len(look.Selectors), MaxSelectors)] {
		if group, err := cascadia.ParseGroup(text); err == nil {
			spots = append(spots, spot{text, group})
		}
	}
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	r := reader{Surveyor: s, origin: origin, look: look, spots: spots, stop: stop}
	next, read := make(chan store.Listed), make(chan outcome, queueSize)
	readers := concurrency
	if rules.pause() > 0 {
		readers = 1
	}
	var wg sync.WaitGroup
	for range readers {
		wg.Go(func() {
			var b bytes.Buffer
			for l := range next {
				if got, ok := r.read(ctx, &b, l); ok {
					read <- got
				}
				if rules.pause() > 0 && ctx.Err() == nil {
					_ = s.wait(ctx, rules.pause()) // whoever stops it is heard below
				}
			}
		})
	}
	go func() {
		defer close(read)
		defer wg.Wait()
		defer close(next)
		for _, l := range list {
			select {
			case next <- l:
			case <-ctx.Done():
				return
			}
		}
	}()
	var doubtful []outcome // could not be reached, and nothing that was asked for since was
	for got := range read {
		if !got.reached {
			doubtful = append(doubtful, got)
			continue
		}
		doubtful = slices.DeleteFunc(doubtful, func(d outcome) bool {
			if d.ended < got.began {
				keep(d.Reading)
				return true
			}
			return false
		})
		keep(got.Reading)
	}
	if err := context.Cause(ctx); err != nil {
		return err // what was doubtful is asked for again when reading goes on
	}
	for _, d := range doubtful {
		keep(d.Reading)
	}
	return nil
}

// A reader reads the pages of one site.
type reader struct {
	*Surveyor
	origin string
	look   Sought
	spots  []spot
	stop   context.CancelCauseFunc

	busy   sync.RWMutex // held while the site wants to be left alone
	lock   sync.Mutex
	asked  int // pages
	pauses int // how often it was
	silent int // pages in a row that could not be reached
}

// An outcome is a reading, whether the site answered at all, and how many pages had
// been asked for when it began and when it ended.
type outcome struct {
	store.Reading
	reached      bool
	began, ended int
}

// read reads a page by way of b; ok is false where reading stopped meanwhile.
func (r *reader) read(ctx context.Context, b *bytes.Buffer, l store.Listed) (got outcome, ok bool) {
	if l.Unread {
		got.Page.Page = bundle.Page{Path: l.Path, Language: l.Language}
		return outcome{Reading: got.Reading, reached: true}, ctx.Err() == nil
	}
	r.lock.Lock()
	r.asked++
	got.began = r.asked
	r.lock.Unlock()
	for try := range maxTries {
		r.busy.RLock()
		before := r.paused()
		r.busy.RUnlock()
		if ctx.Err() != nil {
			return got, false
		}
		a, err := r.getInto(ctx, b, r.origin+l.Address, maxPage)
		if ctx.Err() != nil {
			return got, false
		}
		if err == nil && (a.status == http.StatusTooManyRequests || a.status == http.StatusServiceUnavailable) &&
			try < maxTries-1 {
			if !r.rest(ctx, before, cmp.Or(retryAfter(a.header), time.Second<<try)) {
				return got, false
			}
			continue
		}
		got.reached = err == nil || errors.As(err, new(tooLarge)) || errors.As(err, new(otherSiteError))
		silent := false
		if silent, got.ended = r.silence(got.reached); silent {
			r.stop(fmt.Errorf("the site no longer answers: %w", err))
			return got, false
		}
		got.Reading = r.page(l, a, err)
		return got, true
	}
	panic("unreachable: the last try returns")
}

func (r *reader) paused() int {
	r.lock.Lock()
	defer r.lock.Unlock()
	return r.pauses
}

// rest leaves the site alone for a while, all readers of it; not where that was done
// since the one who asks last heard from it. False if reading stops.
func (r *reader) rest(ctx context.Context, before int, d time.Duration) bool {
	if d > longestPause {
		r.stop(Busy{d})
		return false
	}
	r.busy.Lock()
	defer r.busy.Unlock()
	if r.paused() != before {
		return true
	}
	err := r.wait(ctx, d)
	r.lock.Lock()
	r.pauses++
	r.lock.Unlock()
	return err == nil
}

// silence notes whether a page could be reached, and reports whether none could for
// too long, and how many have been asked for by now.
func (r *reader) silence(reached bool) (tooLong bool, asked int) {
	r.lock.Lock()
	defer r.lock.Unlock()
	if r.silent++; reached {
		r.silent = 0
	}
	return r.silent >= maxSilent, r.asked
}

// retryAfter is how long a site wants to be left alone (RFC 9110 §10.2.3), by its own
// clock; 0 if it does not say.
func retryAfter(h http.Header) time.Duration {
	said := h.Get("Retry-After")
	if n, err := strconv.Atoi(said); err == nil && n > 0 {
		return time.Duration(min(n, 1<<30)) * time.Second
	}
	until, err := http.ParseTime(said)
	now, err2 := http.ParseTime(h.Get("Date"))
	if err != nil || err2 != nil {
		return 0
	}
	return max(until.Sub(now), 0)
}

// page is what came of asking for a page: its title, language, whether it has the
// snippet, and which spots it has not.
func (r *reader) page(l store.Listed, a answer, err error) store.Reading {
	p := store.Page{Page: bundle.Page{Path: l.Path, Language: l.Language}}
	moved := ""
	if to, bad := pages.PagePath(a.path); bad == nil && to != l.Path {
		moved = to
	}
	switch {
	case err != nil && !errors.As(err, new(tooLarge)): // what that says of itself stands at its beginning
		p.Snippet = "could not be read: " + err.Error()
		return store.Reading{Page: p}
	case a.status != http.StatusOK:
		p.Snippet = fmt.Sprintf("answered with status %d", a.status)
		return store.Reading{Page: p, Moved: moved}
	}
	kind, _, _ := mime.ParseMediaType(a.header.Get("Content-Type"))
	if kind != "" && kind != "text/html" && kind != "application/xhtml+xml" {
		return store.Reading{Page: p, Kind: kind}
	}
	body, ascii := decoded(a.body, a.header.Get("Content-Type"))
	maybe := !ascii || bytes.Contains(a.body, []byte(r.look.Marker))
	says := readPage(body(), r.look.Marker, maybe, r.origin+l.Address)
	p.Title = says.title
	p.Language = cmp.Or(
		says.lang, contentLanguage(a.header), says.alternate, l.Language, pages.NamedLanguage(l.Path, r.look.Languages),
	)
	if len(r.spots) > 0 {
		p.Spots, p.Lost = find(body(), r.spots)
	}
	p.Snippet = store.SnippetMissing
	if says.snippet {
		p.Snippet = store.SnippetFound
		if ascii && !bytes.Contains(a.body, []byte(r.look.Guard)) {
			p.Snippet = store.SnippetUnguarded
		}
	}
	sum := fnv.New64a()
	_, _ = sum.Write(a.body) // never fails
	return store.Reading{
		Page: p, Moved: moved, Sum: strconv.FormatUint(sum.Sum64(), 36), Canonical: says.canonical,
		Policies: policiesOf(a.header, says.policies), Routes: routesOf(a.body, r.origin+l.Address),
	}
}

// maxRouteLinks are looked at on a page, and maxRoutes of a site's routes are kept, as examples.
const (
	maxRouteLinks = 50
	maxRoutes     = 3
)

// withRoute returns a list of routes with one more, each once, as far as there is room. The list is left as it is.
func withRoute(list []string, path string) []string {
	if len(list) >= maxRoutes || slices.Contains(list, path) {
		return list
	}
	return append(slices.Clip(list), path)
}

// routeLink is a link to a page behind a #.
var routeLink = regexp.MustCompile(`(?i)\shref\s*=\s*["']?([^"'#>\s]{0,500}#!?/[^"'#?>\s]{1,500})`)

// routesOf returns the paths of pages behind a # that the page at an address links to, within its site; no more than
// are kept of a site.
func routesOf(body []byte, address string) (out []string) {
	base, err := url.Parse(address)
	if err != nil || !bytes.Contains(body, []byte("#/")) && !bytes.Contains(body, []byte("#!/")) {
		return nil
	}
	for _, link := range routeLink.FindAllSubmatch(body, maxRouteLinks) {
		to, err := base.Parse(html.UnescapeString(string(link[1])))
		if err != nil || to.Host != base.Host {
			continue
		}
		path, err := pages.PagePath(cmp.Or(to.EscapedPath(), "/") + "#" + to.EscapedFragment())
		if err == nil && pages.RouteOf(path) != "" && len(path) <= maxPath {
			out = withRoute(out, path)
		}
	}
	return out
}

// Of policies so many of a page are kept, and so many bytes of each.
const (
	maxPolicies = 4
	maxPolicy   = 4000
)

// policiesOf are the Content-Security-Policies of a page, as headers and the page itself give them, in the
// form in which they are compared.
func policiesOf(h http.Header, own []string) (out []string) {
	for _, list := range h.Values("Content-Security-Policy") {
		own = append(own, strings.Split(list, ",")...)
	}
	for _, policy := range own {
		normal := csp.Normal(strings.ToValidUTF8(policy, ""))
		if normal != "" && len(normal) <= maxPolicy && len(out) < maxPolicies && !slices.Contains(out, normal) {
			out = append(out, normal)
		}
	}
	return out
}

// Pages are the pages among readings: an address that leads to another page is none of its own, and that page
// is one; nor is an address that differs from that of another page by its ending alone (rule P5), where both answer
// with the same, or one says that the other is its canonical one. leave is told of what is none, if it is given.
func Pages(list []store.Reading, leave func(r store.Reading)) []store.Page {
	list = withoutTwins(list)
	found := []store.Page{}
	at := map[string]bool{}
	for _, r := range list {
		if r.Kind == "" && r.Moved == "" {
			found = append(found, r.Page)
			at[r.Page.Path] = true
		}
	}
	for _, r := range list {
		if r.Kind == "" && r.Moved == "" {
			continue
		}
		if leave != nil {
			leave(r)
		}
		if r.Moved != "" && !at[r.Moved] {
			at[r.Moved] = true
			r.Page.Path = r.Moved
			found = append(found, r.Page)
		}
	}
	Settle(found)
	return found
}

// withoutTwins returns readings in which those of a page by another address of it lead to that page.
func withoutTwins(list []store.Reading) []store.Reading {
	list = slices.Clone(list)
	stands := map[string]*store.Reading{}
	for i, r := range list {
		if r.Kind == "" && r.Moved == "" && r.Sum != "" {
			stands[r.Page.Path] = &list[i]
		}
	}
	paths := slices.Sorted(maps.Keys(stands)) // a path before those that go on from it
	for _, path := range paths {
		if twin := stands[pages.WithoutEnding(path)]; twin != nil && twin.Canonical == path {
			twin.Moved, twin.Same = path, true
		}
	}
	for _, path := range paths {
		r, twin := stands[path], stands[pages.WithoutEnding(path)]
		if twin != nil && twin.Moved != path && (r.Canonical == twin.Page.Path || r.Sum == twin.Sum) {
			r.Moved, r.Same = cmp.Or(twin.Moved, twin.Page.Path), true
		}
	}
	return list
}

// Settle makes of pages that were all read what they are known by: in the order of
// their paths, and their titles without the end that most share behind a separator, which
// is the site's name and says nothing about the page.
func Settle(found []store.Page) {
	slices.SortFunc(found, func(a, b store.Page) int { return cmp.Compare(a.Path, b.Path) })
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

// MaxSelectors is how many selectors are looked for on each page.
const MaxSelectors = 100

// A spot is a selector that is looked for.
type spot struct {
	text  string
	group cascadia.SelectorGroup
}

// find returns where in a page's HTML selectors find something, and those that find
// nothing.
func find(r io.Reader, spots []spot) (found map[string]bundle.Extent, lost []string) {
	doc, err := html.Parse(r)
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

// decoded returns a reader of a page in UTF-8, whatever it was written in: as a byte
// order mark, the header, the page itself or its bytes say (WHATWG Encoding Standard);
// what says it is and is not may still be none. ascii: what is ASCII in it is so in the
// page's own bytes too.
func decoded(body []byte, contentType string) (r func() io.Reader, ascii bool) {
	e, name, certain := charset.DetermineEncoding(body, contentType)
	if !certain { // it looks at the first 1024 bytes alone, and scripts may stand before what says it
		if said, label := charset.Lookup(declared(body)); said != nil {
			e, name = said, label
		} else if utf8.Valid(body) {
			name = "utf-8"
		}
	}
	if name == "utf-8" {
		return func() io.Reader { return bytes.NewReader(body) }, true
	}
	return func() io.Reader { return e.NewDecoder().Reader(bytes.NewReader(body)) },
		!strings.HasPrefix(name, "utf-16") && name != "iso-2022-jp"
}

// declared is the encoding that a page names itself, wherever it does: in an XML declaration, or in
// a meta element (HTML Standard, "change the encoding"); "" if it names none.
func declared(body []byte) string {
	if label := xmlEncoding.FindSubmatch(body[:min(len(body), 200)]); label != nil {
		return asRead(string(label[1]))
	}
	if !namesCharset.Match(body) {
		return ""
	}
	z := html.NewTokenizer(bytes.NewReader(body))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return ""
		case html.StartTagToken, html.SelfClosingTagToken:
			if name, _ := z.TagName(); string(name) != "meta" {
				continue
			}
			attr := attributesOf(z)
			label := attr["charset"]
			if strings.EqualFold(attr["http-equiv"], "content-type") {
				_, parameters, _ := mime.ParseMediaType(attr["content"])
				label = cmp.Or(label, parameters["charset"])
			}
			if label != "" {
				return asRead(label)
			}
		}
	}
}

var (
	xmlEncoding  = regexp.MustCompile(`^\s*<\?xml[^>]*\sencoding\s*=\s*["']([A-Za-z0-9._:-]+)["']`)
	namesCharset = regexp.MustCompile(`(?i)<meta[^>]*charset`)
)

// attributesOf reads the attributes of the tag whose name was read.
func attributesOf(z *html.Tokenizer) map[string]string {
	all := map[string]string{}
	for {
		name, value, more := z.TagAttr()
		if len(name) > 0 {
			all[string(name)] = string(value)
		}
		if !more {
			return all
		}
	}
}

// asRead is the encoding of bytes in which a label could be read: then it is not UTF-16, whatever it says.
func asRead(label string) string {
	if strings.HasPrefix(strings.ToLower(strings.TrimSpace(label)), "utf-16") {
		return "utf-8"
	}
	return label
}

// contentLanguage returns the first language of a page's Content-Language header; "" if
// there is none.
func contentLanguage(h http.Header) string {
	first, _, _ := strings.Cut(h.Get("Content-Language"), ",")
	return tagOf(first)
}

// pageHead is what a page says of itself.
type pageHead struct {
	title, lang string
	// The language in which it is listed among its own alternates (hreflang).
	alternate string
	// The path of another page of the site that it names as its canonical one.
	canonical string
	snippet   bool
	// Content-Security-Policies that it gives itself.
	policies []string
}

// inHead are the elements that the head of a page may have (HTML Standard, metadata
// content), and what it stands in.
var inHead = []string{"html", "head", "title", "meta", "link", "script", "style", "base", "noscript", "template"}

// readPage reads the head of a page at an address and looks through it for a script element whose
// address ends in marker, or that begins one: in the head alone, or everywhere.
func readPage(r io.Reader, marker string, everywhere bool, address string) (s pageHead) {
	z := html.NewTokenizer(r)
	inTitle, inScript := false, false
	over := false
	for {
		next := z.Next()
		if over && (s.snippet || !everywhere) {
			next = html.ErrorToken
		}
		switch next {
		case html.ErrorToken:
			s.title = strings.ToValidUTF8(strings.Join(strings.Fields(s.title), " "), "\ufffd")
			if letters := []rune(s.title); len(letters) > maxTitle {
				s.title = string(letters[:maxTitle])
			}
			return s
		case html.TextToken:
			switch text := z.Text(); {
			case inTitle:
				s.title += string(text)
			case inScript: // it is begun by an import
				s.snippet = s.snippet || bytes.Contains(text, []byte(marker+`"`))
			}
		case html.EndTagToken:
			inTitle, inScript = false, false
			if name, _ := z.TagName(); string(name) == "head" {
				over = true
			}
		case html.StartTagToken, html.SelfClosingTagToken:
			name, more := z.TagName()
			inTitle = string(name) == "title" && s.title == ""
			inScript = string(name) == "script"
			over = over || !slices.Contains(inHead, string(name)) // a body begins with the first that no head may have
			if !more || !slices.Contains([]string{"html", "script", "link", "meta"}, string(name)) {
				continue
			}
			attr := attributesOf(z)
			switch string(name) {
			case "html":
				s.lang = cmp.Or(s.lang, tagOf(attr["lang"]), tagOf(attr["xml:lang"]))
			case "script":
				s.snippet = s.snippet || strings.HasSuffix(attr["src"], marker)
			case "meta":
				if !over && strings.EqualFold(attr["http-equiv"], "Content-Security-Policy") {
					s.policies = append(s.policies, attr["content"])
				}
			case "link":
				if s.canonical == "" && strings.EqualFold(attr["rel"], "canonical") {
					if path, ok := pageAt(address, attr["href"]); ok && !samePage(address, attr["href"]) {
						s.canonical = path
					}
				}
				if s.alternate == "" && attr["hreflang"] != "" && strings.EqualFold(attr["rel"], "alternate") &&
					samePage(address, attr["href"]) {
					s.alternate = tagOf(attr["hreflang"])
				}
			}
		}
	}
}

// pageAt returns the path of the page that a link on a page at an address leads to; ok is false where that is none of
// the same site.
func pageAt(address, href string) (path string, ok bool) {
	base, err := url.Parse(address)
	if err != nil {
		return "", false
	}
	to, err := base.Parse(strings.TrimSpace(href))
	if err != nil {
		return "", false
	}
	path, err = pages.PagePath(cmp.Or(to.EscapedPath(), "/"))
	return path, err == nil && strings.EqualFold(
		strings.TrimPrefix(to.Host, "www."), strings.TrimPrefix(base.Host, "www."),
	)
}

// samePage reports whether a link on a page leads to that page.
func samePage(address, href string) bool {
	here, known := pageAt(address, "")
	there, ok := pageAt(address, href)
	return known && ok && here == there
}
