package survey

import (
	"bufio"
	"cmp"
	"compress/gzip"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/temoto/robotstxt"
	"golang.org/x/net/html/charset"
	"golang.org/x/text/language"

	"mastflag/core/pages"
	"mastflag/internal/store"
)

// Limits of finding what pages a site has.
const (
	maxPages  = 50_000
	maxMaps   = 500
	maxDepth  = 2         // of sitemaps named by sitemaps: the protocol has one level
	maxMap    = 50 << 20  // bytes, of a sitemap once unpacked: the protocol's own limit
	maxAll    = 500 << 20 // bytes, of all of them
	maxRobots = 500 << 10 // bytes, of robots.txt (RFC 9309 §2.5)
	maxPath   = 2048      // bytes, as a bundle has them
	maxToken  = 1 << 20   // bytes, of a tag or a text of a sitemap
	maxNested = 50        // elements of a sitemap within each other
	maxGone   = 20_000    // of what is left out so many are told apart; more count as often as they are named
	// So long a pause between two pages is kept where robots.txt asks for one.
	maxPause = 10 * time.Second
)

// agent is what robots.txt knows a survey by, and the name it gives itself.
const agent = "MastFlag-Survey"

// A Listing is what pages a site says it has.
type Listing struct {
	// By path, with what sitemap and robots.txt say of each.
	Pages []store.Listed
	// What was left out, and why.
	LeftOut []store.LeftOut
}

// rules are what robots.txt asks of a survey.
type rules struct {
	group *robotstxt.Group // nil where anything may be read
	maps  []string
}

func (r rules) may(path string) bool { return r.group == nil || r.group.Test(path) }

// pause is how long to wait between two pages.
func (r rules) pause() time.Duration {
	if r.group == nil {
		return 0
	}
	return min(r.group.CrawlDelay, maxPause)
}

// rules reads robots.txt (RFC 9309). Where it cannot be had because the site is not
// there the error says so; one that is missing or broken asks for nothing.
func (s *Surveyor) rules(ctx context.Context, origin string) (rules, error) {
	got, err := s.get(ctx, origin+"/robots.txt", maxRobots)
	if errors.As(err, new(tooLarge)) {
		err = nil // what is beyond is not read (§2.5)
	}
	if errors.As(err, new(otherSiteError)) {
		return rules{}, nil // another site's rules are not this one's
	}
	if err != nil {
		return rules{}, err
	}
	switch {
	case got.status >= http.StatusInternalServerError: // then nothing may be read (§2.3.1.4)
		return rules{}, fmt.Errorf("it answered with status %d", got.status)
	case got.status != http.StatusOK:
		return rules{}, nil
	}
	data, err := robotstxt.FromBytes(got.body)
	if err != nil {
		return rules{}, nil
	}
	return rules{data.FindGroup(agent), data.Sitemaps}, nil
}

// List finds what pages a site has: those of the sitemaps that its robots.txt names,
// of /sitemap.xml, and their alternates in other languages; where there is no sitemap, those
// that links lead to from the home page on. The error says what to do.
func (s *Surveyor) List(ctx context.Context, origin string) (Listing, error) {
	r, err := s.rules(ctx, origin)
	if err != nil {
		return Listing{}, fmt.Errorf(
			"%s/robots.txt could not be read: %w. Check the site’s address, and that the site is running", origin, err,
		)
	}
	l := lister{
		origin: origin,
		rules:  r,
		paths:  map[string]store.Listed{},
		left:   maxAll,
		out:    map[store.LeftCode]*store.LeftOut{},
		gone:   map[leftOut]bool{},
	}
	var first error
	usual := origin + "/sitemap.xml"
	for _, at := range r.maps {
		l.enqueue(at, 0)
	}
	l.enqueue(usual, 0)
	for len(l.queue) > 0 {
		at := l.queue[0]
		l.queue = l.queue[1:]
		err := s.readMap(ctx, &l, at)
		if ctx.Err() != nil {
			return Listing{}, ctx.Err()
		}
		if err == nil || errors.Is(err, errNoMap) && at.address == usual {
			continue
		}
		first = cmp.Or(first, err)
		if at.address == usual && len(r.maps) > 0 {
			continue // nobody said that there is one
		}
		l.leave(store.LeftMap, at.address, err.Error())
	}
	if len(l.paths) == 0 && first != nil {
		return Listing{}, first
	}
	if !l.any && len(l.paths) == 0 {
		l.add("/", "")
		s.follow(ctx, &l)
		if ctx.Err() != nil {
			return Listing{}, ctx.Err()
		}
	}
	out := Listing{LeftOut: l.leftOut()}
	for _, path := range slices.Sorted(maps.Keys(l.paths)) {
		out.Pages = append(out.Pages, l.paths[path])
	}
	return out, nil
}

// A lister gathers what sitemaps name.
type lister struct {
	origin string
	rules  rules
	queue  []queuedMap
	queued map[string]bool
	paths  map[string]store.Listed
	left   int64 // bytes that may still be read
	any    bool  // there was a sitemap
	out    map[store.LeftCode]*store.LeftOut
	gone   map[leftOut]bool // which are told apart
}

// A leftOut is an address that is left out, and why.
type leftOut struct {
	code store.LeftCode
	what string
}

type queuedMap struct {
	address string
	depth   int
}

func (l *lister) enqueue(address string, depth int) {
	o, err := pages.Origin(address)
	if err != nil || !pages.SameSite(o, l.origin) {
		l.leave(store.LeftElsewhere, address, "")
		return
	}
	if depth > maxDepth || l.queued[address] {
		return
	}
	if len(l.queued) >= maxMaps {
		l.leave(store.LeftMaps, address, "")
		return
	}
	if l.queued == nil {
		l.queued = map[string]bool{}
	}
	l.queued[address] = true
	l.queue = append(l.queue, queuedMap{address, depth})
}

// add takes an address that a sitemap names, in a language if that is known.
func (l *lister) add(address, tag string) {
	path := address
	if !strings.HasPrefix(address, "/") {
		o, err := pages.Origin(address)
		if err != nil || !pages.SameSite(o, l.origin) {
			l.leave(store.LeftElsewhere, address, "")
			return
		}
		_, rest, _ := strings.Cut(address, "://")
		path = "/"
		if i := strings.IndexByte(rest, '/'); i >= 0 {
			path = rest[i:]
		}
	}
	asked, _, _ := strings.Cut(path, "#")
	path, err := pages.PagePath(asked) // what lies behind a # is read with its page
	if err == nil && max(len(path), len(asked)) > maxPath {
		err = fmt.Errorf("it is longer than %d bytes", maxPath)
	}
	if err != nil {
		l.leave(store.LeftBroken, address, err.Error())
		return
	}
	known, is := l.paths[path]
	switch {
	case is:
		known.Language = cmp.Or(known.Language, tag)
		l.paths[path] = known
	case len(l.paths) >= maxPages:
		l.leave(store.LeftMany, path, "")
	case !l.rules.may(asked):
		l.leave(store.LeftRobots, path, "")
		l.paths[path] = store.Listed{Path: path, Address: asked, Language: tag, Unread: true}
	default:
		l.paths[path] = store.Listed{Path: path, Address: asked, Language: tag}
	}
}

// leave notes something that is left out.
func (l *lister) leave(code store.LeftCode, what, why string) {
	if l.gone[leftOut{code, what}] {
		return // alternates name a page again and again
	}
	if len(l.gone) < maxGone {
		l.gone[leftOut{code, what}] = true
	}
	o := l.out[code]
	if o == nil {
		o = &store.LeftOut{Code: code}
		l.out[code] = o
	}
	o.Add(what, why)
}

func (l *lister) leftOut() []store.LeftOut {
	out := []store.LeftOut{}
	for _, code := range slices.Sorted(maps.Keys(l.out)) {
		out = append(out, *l.out[code])
	}
	return out
}

var errNoMap = errors.New("there is none")

// readMap reads one sitemap, a piece at a time. Of one that breaks off, what stands
// before is taken.
func (s *Surveyor) readMap(ctx context.Context, l *lister, at queuedMap) error {
	// A large one may take longer than a page.
	ctx, cancel := context.WithTimeout(ctx, mapTimeout)
	defer cancel()
	res, err := s.open(ctx, s.slow, at.address)
	if err != nil {
		return fmt.Errorf("%s could not be read: %w. Check the site’s address, and that the site is running", at.address, err)
	}
	defer res.Body.Close()
	if res.StatusCode == http.StatusNotFound {
		return fmt.Errorf("%s could not be read: %w", at.address, errNoMap)
	}
	if res.StatusCode != http.StatusOK {
		return fmt.Errorf("%s answered with status %d. A sitemap is needed there", at.address, res.StatusCode)
	}
	body, err := unpacked(res.Body)
	if err != nil {
		return fmt.Errorf("%s is not a sitemap: %w", at.address, err)
	}
	limited := &limit{r: body, one: maxMap, all: &l.left, token: maxToken}
	err = readSitemap(limited, func() { limited.token = maxToken }, func(loc string) {
		l.any = true
		l.enqueue(loc, at.depth+1)
	}, func(loc, tag string) {
		l.any = true
		l.add(loc, tag)
	})
	if err == nil {
		l.any = true
		return nil
	}
	if limited.err != nil {
		err = limited.err
	}
	return fmt.Errorf("%s is not a sitemap: %w", at.address, err)
}

// A limit reads so many bytes of one tag, one sitemap and all of them, and fails at the next.
type limit struct {
	r   io.Reader
	one int64
	all *int64
	// Of one tag or text; set anew at each.
	token int64
	err   error
}

func (l *limit) Read(p []byte) (int, error) {
	n, err := l.r.Read(p)
	l.one -= int64(n)
	*l.all -= int64(n)
	l.token -= int64(n)
	if l.token < 0 {
		l.err = fmt.Errorf("an entry of it is larger than %d MB", maxToken>>20)
	} else if l.one < 0 {
		l.err = fmt.Errorf("it is larger than %d MB", maxMap>>20)
	} else if *l.all < 0 {
		l.err = fmt.Errorf("all of them together are larger than %d MB", maxAll>>20)
	}
	if l.err != nil {
		return 0, l.err
	}
	return n, err
}

// unpacked reads a sitemap that may be packed with gzip.
func unpacked(r io.Reader) (io.Reader, error) {
	b := bufio.NewReaderSize(r, 64<<10)
	if head, _ := b.Peek(2); string(head) == "\x1f\x8b" {
		return gzip.NewReader(b)
	}
	return b, nil
}

// readSitemap reads a sitemap, a sitemap index, or a text of addresses, one a line
// (sitemaps.org protocol), and gives each address: of another sitemap, or of a page
// with its language where its alternates say it (xhtml:link with hreflang). Nothing of it is kept:
// next is called before each tag, text or line is read.
func readSitemap(r io.Reader, next func(), another func(string), page func(address, tag string)) error {
	b := bufio.NewReaderSize(r, 64<<10)
	if c, err := firstLetter(b); err == nil && c != '<' {
		return readLines(b, next, page)
	}
	const entry = 2 // how deep a <url> or a <sitemap> lies
	d := xml.NewDecoder(b)
	d.CharsetReader = charset.NewReaderLabel
	root, loc, depth, inLoc := "", "", 0, false
	for {
		next()
		t, err := d.Token()
		if err == io.EOF && root != "" {
			return nil
		}
		if err == io.EOF {
			err = io.ErrUnexpectedEOF
		}
		if err != nil {
			return err
		}
		switch t := t.(type) {
		case xml.StartElement:
			if depth++; depth > maxNested {
				return fmt.Errorf("its elements lie more than %d deep within each other", maxNested)
			}
			name := t.Name.Local
			if root == "" {
				if root = name; root != "urlset" && root != "sitemapindex" {
					return fmt.Errorf("its root is <%s>", root)
				}
				continue
			}
			if depth == entry {
				loc = ""
			}
			inLoc = depth == entry+1 && name == "loc"
			if depth == entry+1 && name == "link" && t.Name.Space == "http://www.w3.org/1999/xhtml" {
				if href, tag := alternate(t.Attr); href != "" {
					page(href, tag)
				}
			}
		case xml.CharData:
			if inLoc && len(loc) <= 2*maxPath { // what is longer is no address that can be kept
				loc += string(t)
			}
		case xml.EndElement:
			if depth--; depth == entry-1 && strings.TrimSpace(loc) != "" {
				switch t.Name.Local {
				case "sitemap":
					another(strings.TrimSpace(loc))
				case "url":
					page(strings.TrimSpace(loc), "")
				}
				loc = ""
			}
			inLoc = false
		}
	}
}

// alternate returns what the attributes of a link say of the same page in another language.
func alternate(attributes []xml.Attr) (href, tag string) {
	said := map[string]string{}
	for _, a := range attributes {
		said[a.Name.Local] = a.Value
	}
	if !strings.EqualFold(said["rel"], "alternate") || said["hreflang"] == "" {
		return "", ""
	}
	return strings.TrimSpace(said["href"]), tagOf(said["hreflang"])
}

// firstLetter is the first of a text that is no space, which stays to be read.
func firstLetter(b *bufio.Reader) (byte, error) {
	if mark, _ := b.Peek(3); string(mark) == "\xef\xbb\xbf" {
		if _, err := b.Discard(3); err != nil {
			return 0, err
		}
	}
	for {
		c, err := b.ReadByte()
		if err != nil {
			return 0, err
		}
		if !strings.ContainsRune(" \t\r\n", rune(c)) {
			return c, b.UnreadByte()
		}
	}
}

func readLines(b *bufio.Reader, next func(), page func(address, tag string)) error {
	lines := bufio.NewScanner(b)
	for lines.Scan() {
		next()
		line := strings.TrimSpace(lines.Text())
		if line == "" {
			continue
		}
		if _, err := pages.Origin(line); err != nil {
			return fmt.Errorf("%.60q in it is no address", line)
		}
		page(line, "")
	}
	return lines.Err()
}

// tagOf returns a language tag in its usual form; "" for what is none, such as
// x-default.
func tagOf(s string) string {
	tag, err := language.Parse(strings.TrimSpace(s))
	if err != nil || tag == language.Und {
		return ""
	}
	if base, _ := tag.Base(); base.String() == "und" {
		return ""
	}
	return tag.String()
}
