package survey

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strings"
	"time"

	"golang.org/x/net/html"

	"mastflag/internal/store"
)

// Limits of following links, where a site has no sitemap.
const (
	maxFollowed = 500             // pages
	followFor   = 2 * time.Minute // all of it
)

// files are endings of addresses that lead to no page, most likely.
var files = strings.Fields(`.7z .avif .bmp .css .csv .doc .docx .eps .epub .exe .gif .gz .ico .ics .jpeg .jpg .js
	.json .m4a .mov .mp3 .mp4 .mpg .ods .odt .ogg .pdf .png .ppt .pptx .rar .rss .rtf .svg .tar .tgz .tif .tiff .txt
	.wav .webm .webp .woff .woff2 .xls .xlsx .xml .zip`)

// follow adds the pages that links lead to from the home page on, those that take the fewest steps first.
func (s *Surveyor) follow(ctx context.Context, l *lister) {
	limited, cancel := context.WithTimeout(ctx, followFor)
	defer cancel()
	queue := []string{"/"}
	queued := map[string]bool{"/": true}
	var b bytes.Buffer
	for read := 0; len(queue) > 0; read++ {
		if read == maxFollowed || limited.Err() != nil {
			for _, p := range queue {
				l.leave(store.LeftLinks, p, "")
			}
			return
		}
		address := queue[0]
		queue = queue[1:]
		for link := range s.linksOf(limited, &b, l.origin+address) {
			before := len(l.paths)
			l.add(link, "")
			if len(l.paths) == before {
				continue // known, or left out
			}
			asked, _, _ := strings.Cut(link, "#")
			asked = strings.TrimPrefix(asked, l.origin)
			if !queued[asked] && l.rules.may(asked) {
				queued[asked] = true
				queue = append(queue, asked)
			}
		}
		if l.rules.pause() > 0 && s.wait(limited, l.rules.pause()) != nil {
			continue // the time is over
		}
	}
}

// linksOf gives the addresses that a page links to, within its site; none of what is no page of HTML.
func (s *Surveyor) linksOf(ctx context.Context, b *bytes.Buffer, address string) func(yield func(string) bool) {
	return func(yield func(string) bool) {
		a, err := s.getInto(ctx, b, address, maxPage)
		if err != nil && !errors.As(err, new(tooLarge)) || a.status != http.StatusOK {
			return
		}
		if kind := a.header.Get("Content-Type"); kind != "" && !strings.Contains(kind, "html") {
			return
		}
		base, err := url.Parse(address)
		if err != nil {
			return
		}
		if base, err = base.Parse(a.path); err != nil {
			return
		}
		body, _ := decoded(a.body, a.header.Get("Content-Type"))
		if base.RequestURI() != strings.TrimPrefix(address, base.Scheme+"://"+base.Host) && !yield(base.String()) {
			return // it redirects: where to is a page, and its links are read in their turn
		}
		readLinks(body(), base, yield)
	}
}

// readLinks gives the addresses that HTML links to, without their fragments, on the host of base.
func readLinks(r io.Reader, base *url.URL, yield func(string) bool) {
	z := html.NewTokenizer(r)
	for {
		switch z.Next() {
		case html.ErrorToken:
			return
		case html.StartTagToken, html.SelfClosingTagToken:
			name, more := z.TagName()
			tag := string(name)
			if !more || !slices.Contains([]string{"a", "area", "base", "link"}, tag) {
				continue
			}
			attr := attributesOf(z)
			href, has := attr["href"]
			to, err := base.Parse(strings.TrimSpace(href))
			if !has || err != nil {
				continue
			}
			if tag == "base" {
				base = to
				continue
			}
			rel := strings.Fields(strings.ToLower(attr["rel"]))
			if tag == "link" && !(slices.Contains(rel, "alternate") && attr["hreflang"] != "") ||
				slices.Contains(rel, "nofollow") || to.Host != base.Host || to.Scheme != base.Scheme ||
				slices.Contains(files, strings.ToLower(path.Ext(to.Path))) {
				continue
			}
			to.Fragment, to.RawFragment = "", ""
			if !yield(to.String()) {
				return
			}
		}
	}
}
