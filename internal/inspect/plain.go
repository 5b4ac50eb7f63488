package inspect

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"strings"
	"time"

	"golang.org/x/net/html"

	"mastflag/core/consent"
	"mastflag/internal/outbound"
)

// read visits over plain HTTP: it sees the cookies that pages set in their
// responses, and the scripts, frames and pictures of others that are written in
// them without a mark. What scripts do it cannot see, nor what an answer changes.
func (j Job) read(ctx context.Context, g *outbound.Guard, r *consent.Run, told func(Progress)) error {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return err
	}
	client := &http.Client{
		Jar:       jar,
		Timeout:   pageTimeout,
		Transport: g.Transport(),
		CheckRedirect: func(req *http.Request, via []*http.Request) error {
			if !j.Own(strings.ToLower(req.URL.Hostname())) {
				return fmt.Errorf("%w, %s", errElsewhere, req.URL)
			}
			if len(via) > 5 {
				return fmt.Errorf("it leads around in circles")
			}
			return nil
		},
	}
	b := &runBook{run: r, seen: map[string]bool{}}
	r.NoQuestion = true
	for k, path := range j.Pages {
		if ctx.Err() != nil {
			return nil
		}
		told(Progress{consent.Unanswered, path, k, len(j.Pages)})
		if err := j.readPage(ctx, client, path, b); err != nil && ctx.Err() == nil {
			r.Faults = append(r.Faults, consent.RunFault{Page: path, Why: err.Error()})
		}
	}
	return nil
}

func (j Job) readPage(ctx context.Context, client *http.Client, path string, b *runBook) error {
	began := time.Now()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, j.Origin+path, nil)
	if err != nil {
		return err
	}
	res, err := client.Do(req)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	if res.StatusCode >= 400 {
		return fmt.Errorf("the site answers %s", res.Status)
	}
	see := func(s consent.Sighting) {
		s.Phase, s.Page, s.After = consent.Unanswered, path, int(time.Since(began).Milliseconds())
		b.add(s)
	}
	for _, line := range res.Header.Values("Set-Cookie") {
		if c, ok := consent.ParseSetCookie(line, began); ok && !c.Gone {
			see(consent.Sighting{
				Kind:  consent.Cookie,
				Name:  c.Name,
				Host:  j.cookieHost(c, res.Request.URL.String()),
				By:    res.Request.URL.String(),
				Lasts: c.Lasting(began),
			})
		}
	}
	tokens := html.NewTokenizer(io.LimitReader(res.Body, 4<<20))
	for {
		switch tokens.Next() {
		case html.ErrorToken:
			return nil
		case html.StartTagToken, html.SelfClosingTagToken:
			t := tokens.Token()
			kind := map[string]consent.ItemKind{
				"script": consent.Request,
				"img":    consent.Request,
				"link":   consent.Request,
				"iframe": consent.Frame,
				"frame":  consent.Frame,
			}[t.Data]
			if kind == "" {
				continue
			}
			var address string
			held := false
			for _, a := range t.Attr {
				switch {
				case a.Key == "src" || a.Key == "href" && t.Data == "link":
					address = a.Val
				case a.Key == "type" && t.Data == "script":
					held = held || a.Val == "text/plain"
				case a.Key == "rel" && t.Data == "link":
					held = held || !strings.Contains(a.Val, "stylesheet")
				}
			}
			to, err := url.Parse(address)
			if address == "" || held || err != nil {
				continue
			}
			if host := j.host(res.Request.URL.ResolveReference(to).String()); host != "" {
				see(consent.Sighting{Kind: kind, Name: host, By: res.Request.URL.String()})
			}
		}
	}
}
