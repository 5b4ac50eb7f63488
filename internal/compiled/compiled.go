// Package compiled holds each site as the immutable value that decisions run
// on, rendered and encoded for delivery, and replaces it whole on a change.
package compiled

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/url"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/decide"
	"mastflag/core/pages"
	"mastflag/core/render"
	"mastflag/core/wording"
	"mastflag/internal/sources"
	"mastflag/internal/store"
)

// A Site is a compiled site with its notices rendered. It is never altered.
type Site struct {
	*decide.Site
	origins map[string]bool
	hosts   map[string]bool             // of the origins, without www.
	pieces  map[string]pieces           // by notice id
	askeds  map[string]map[worded]asked // consent notices, by id
	parts   map[string][]byte           // of the consent part, by language
	// Every form of the consent notices, by fingerprint.
	Shown map[string]Shown
	// What the site's audiences ask of the server, and of the site script.
	Wants  sources.Wants
	Script ScriptWants
	// How many notices each slot holds, in JSON.
	Capacity []byte
	// How often an open page asks again, whatever changes; 0 for never.
	Refresh time.Duration
}

// ScriptWants are the facts that the site script is to send, so that it sends
// and keeps no more than is asked about.
type ScriptWants struct {
	Version string // changes with the list
	Facts   string // their names, with commas between
}

// newScriptWants picks what only the site script can know.
func newScriptWants(facts []string) ScriptWants {
	var names []string
	for _, f := range facts {
		room, rest, _ := strings.Cut(f, ".")
		switch {
		case room == "referrer":
			names = append(names, "referrer.url")
		case room == "event":
			names = append(names, "event."+rest[:strings.LastIndexByte(rest, '.')])
		case f == "device.width" || f == "site.seconds" || f == "page.title" || room == "visits" || room == "person":
			names = append(names, f)
		}
	}
	slices.Sort(names)
	list := strings.Join(slices.Compact(names), ",")
	sum := sha256.Sum256([]byte(list))
	return ScriptWants{hex.EncodeToString(sum[:4]), list}
}

// A piece is a notice as the site script gets it.
type piece struct {
	render.Bar
	// Its place in the order of rule D1.
	Order int `json:"order"`
	// The acts to be remembered beside closing: its memory or an audience asks.
	Keep []string `json:"keep,omitempty"`
}

// pieces are one notice as render.Bar in JSON, by language tag.
type pieces struct {
	wordings map[string]bundle.Wording
	byTag    map[string][]byte
}

// ImagesPath is the address, on the program, below which a site's images lie.
func ImagesPath(site string) string { return "/i/" + site + "/" }

// New compiles a bundle for a program at the address base. first is a notice
// to be put before its rivals, or "".
func New(b bundle.Bundle, first, base string) (*Site, error) {
	d, err := decide.CompileFirst(b, first)
	if err != nil {
		return nil, err
	}
	s := &Site{Site: d, origins: map[string]bool{}, hosts: map[string]bool{}, pieces: map[string]pieces{}}
	for _, o := range b.Site.Origins {
		n, err := pages.Origin(o)
		if err != nil {
			return nil, err
		}
		s.origins[n] = true
		if u, err := url.Parse(n); err == nil {
			s.hosts[strings.TrimPrefix(u.Hostname(), "www.")] = true
		}
	}
	facts := d.Wants()
	s.Wants, s.Script = sources.NewWants(facts), newScriptWants(facts)
	capacity := map[bundle.Slot]int{}
	for _, slot := range bundle.Slots {
		if slot != bundle.Inline {
			capacity[slot] = b.Site.SlotCapacity(slot)
		}
	}
	if s.Capacity, err = json.Marshal(capacity); err != nil {
		return nil, err
	}
	s.Refresh = b.RefreshEvery()
	for order, n := range d.Ordered() {
		byTag := map[string][]byte{}
		for tag := range n.Wordings() {
			bar, err := render.Notice(n, tag, base+ImagesPath(b.Site.Key), d.Zone())
			if err != nil {
				return nil, err
			}
			var keep []string
			if len(n.GetMemory().Limits) > 0 || slices.Contains(facts, "notice."+n.ID+".shown") {
				keep = append(keep, "shown")
			}
			if n.GetMemory().Clicked != "" || slices.Contains(facts, "notice."+n.ID+".clicked") {
				keep = append(keep, "clicked")
			}
			if byTag[tag], err = encode(piece{bar, order, keep}); err != nil {
				return nil, err
			}
		}
		s.pieces[n.ID] = pieces{n.Wordings(), byTag}
	}
	return s, s.consents(base)
}

// Allows reports whether a page of that origin may load the site's notices; a
// host and the same host under www. count as one.
func (s *Site) Allows(origin string) bool {
	if s.origins[origin] {
		return true
	}
	n, err := pages.Origin(origin)
	if err != nil {
		return false
	}
	for o := range s.origins {
		if pages.SameSite(o, n) {
			return true
		}
	}
	return false
}

// Own reports whether a host, in lower case, is one of the site's.
func (s *Site) Own(host string) bool { return s.hosts[strings.TrimPrefix(host, "www.")] }

// Piece returns a notice rendered for a page in the given language, as JSON;
// nil if it says nothing. place is what applies where the visitor is, to
// consent notices.
func (s *Site) Piece(id, language string, place consent.PlaceRule) []byte {
	if s.askeds[id] != nil {
		return s.ask(id, language, place).piece
	}
	p := s.pieces[id]
	if piece, ok := p.byTag[language]; ok && p.wordings[language].Says() {
		return piece
	}
	return p.byTag[wording.Choose(p.wordings, language, s.Bundle().Site.Language)]
}

// Hub has the compiled value of every site.
type Hub struct {
	store *store.Store
	base  string     // the program's own address
	mu    sync.Mutex // one reload at a time
	sites atomic.Pointer[map[string]*Site]
}

// NewHub compiles all sites that are kept, for a program at the address base.
func NewHub(ctx context.Context, st *store.Store, base string) (*Hub, error) {
	h := &Hub{store: st, base: base}
	h.sites.Store(&map[string]*Site{})
	return h, h.ReloadAll(ctx)
}

// Site returns a site by key, nil if there is none.
func (h *Hub) Site(key string) *Site { return (*h.sites.Load())[key] }

// ReloadAll compiles every site anew. One that does not compile keeps its
// last value, and the log says why.
func (h *Hub) ReloadAll(ctx context.Context) error {
	sites, err := h.store.Sites(ctx)
	if err != nil {
		return err
	}
	for _, s := range sites {
		if err := h.Reload(ctx, s.Key); err != nil {
			slog.Error("site does not compile", "site", s.Key, "error", err)
		}
	}
	return nil
}

// Reload compiles a site anew and puts it in place of its last value.
func (h *Hub) Reload(ctx context.Context, key string) error {
	h.mu.Lock()
	defer h.mu.Unlock()
	b, err := Load(ctx, h.store, key)
	if err != nil {
		return err
	}
	s, err := New(b, "", h.base)
	if err != nil {
		return fmt.Errorf("compiling site %s: %w", key, err)
	}
	shown := map[string][]byte{}
	for hash, doc := range s.Shown {
		if shown[hash], err = encode(doc); err != nil {
			return err
		}
	}
	if err := h.store.KeepShown(ctx, key, shown); err != nil {
		return err
	}
	old := *h.sites.Load()
	next := make(map[string]*Site, len(old)+1)
	for k, v := range old {
		next[k] = v
	}
	next[key] = s
	h.sites.Store(&next)
	return nil
}

// Load returns the bundle of a site as it is kept: what is out of each
// notice, or its draft where nothing is.
func Load(ctx context.Context, st *store.Store, key string) (bundle.Bundle, error) {
	site, err := st.Site(ctx, key)
	if err != nil {
		return bundle.Bundle{}, err
	}
	list, err := st.Pages(ctx, key)
	if err != nil {
		return bundle.Bundle{}, err
	}
	notices, err := st.Notices(ctx, key)
	if err != nil {
		return bundle.Bundle{}, err
	}
	b := bundle.Bundle{Format: bundle.Format, Site: site.Site}
	for _, p := range list {
		b.Pages = append(b.Pages, p.Page)
	}
	for _, n := range notices {
		b.Notices = append(b.Notices, n.Out())
	}
	return b, nil
}
