// Package compiled holds each site as the immutable value that decisions run
// on, rendered and encoded for delivery, and replaces it whole on a change.
package compiled

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/decide"
	"mastflag/core/fault"
	"mastflag/core/pages"
	"mastflag/core/render"
	"mastflag/core/wording"
	"mastflag/internal/sources"
	"mastflag/internal/store"
)

// A Site is a compiled site with its notices rendered. It is never altered.
type Site struct {
	*decide.Site
	origins  map[string]bool
	hosts    map[string]bool // of the origins, without www.
	pieces   map[pieceKey]pieces
	places   map[string][]byte // see Place
	versions map[string]string // when each notice was published, Unix time in seconds, by id
	// The goals of the published notices, by id; and the same in JSON.
	Goals map[string]Goal
	// The properties of events that texts and audiences want, in JSON; nil if there are none.
	PropertiesJSON []byte
	GoalsJSON      []byte
	consentForms   map[string]map[formKey]consentForm // consent notices, by id
	parts          map[string]*Encoded                // of the consent part, by language
	disclaimers    map[string][]byte                  // of the part for disclaimers, by language
	// Every form of the consent notices, and of the disclaimers that have to be answered, by fingerprint.
	Shown map[string]Shown
	// What the site's audiences ask of the server, and of the site script.
	Wants  sources.Wants
	Script ScriptWants
	// How many notices each slot holds, in JSON.
	Capacity []byte
	// How often an open page asks again, whatever changes; 0 for never.
	Refresh time.Duration
	// What was kept by an earlier version and is not accepted any more: it is left
	// out until someone changes it.
	Uncompiled []Uncompiled

	stamp int64 // of what it was compiled from
}

// A Uncompiled is a notice, or something that a site keeps for use in many, that is
// left out, and why.
type Uncompiled struct {
	Notice string // "" for what the site keeps
	Title  string
	Why    fault.Fault
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
		names = append(names, audience.Sent(f)...)
	}
	slices.Sort(names)
	list := strings.Join(slices.Compact(names), ",")
	sum := sha256.Sum256([]byte(list))
	return ScriptWants{hex.EncodeToString(sum[:4]), list}
}

// A piece is a notice as the site script gets it.
type Piece struct {
	render.Bar
	// Its place in the order of rule D1, among all notices of the site.
	Order int `json:"order"`
	// The acts to be remembered beside closing, shown and clicked: its memory or an audience asks.
	Keep []string `json:"keep,omitempty"`
	// Of a notice that asks for consent: a fingerprint of exactly what it shows.
	Hash string `json:"hash,omitempty"`
	// Of a disclaimer that has to be answered.
	Disclaims *render.Disclaims `json:"disclaims,omitempty"`
	// Of all of this.
	Tag string `json:"tag"`
}

// Encoded is what pages get in JSON, and the little that stands for it where a page has it already. Equal
// content has equal tags.
type Encoded struct {
	Tag          string
	Whole, Short []byte
}

// encodeTagged encodes what is tagged by its content, and what stands for it; setTag puts the tag into both.
func encodeTagged(whole, short any, setTag func(tag string)) (*Encoded, error) {
	raw, err := encode(whole)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(raw)
	e := &Encoded{Tag: hex.EncodeToString(sum[:5])}
	setTag(e.Tag)
	if e.Whole, err = encode(whole); err != nil {
		return nil, err
	}
	e.Short, err = encode(short)
	return e, err
}

// encode writes the piece in JSON.
func (p Piece) encode() (*Encoded, error) {
	short := struct {
		ID  string `json:"id"`
		Tag string `json:"tag"`
	}{ID: p.ID}
	return encodeTagged(&p, &short, func(tag string) { p.Tag, short.Tag = tag, tag })
}

// A pieceKey is a notice in one of its variants; "" is the notice as it is.
type pieceKey struct{ notice, variant string }

// pieces are one notice as render.Bar in JSON, by language tag.
type pieces struct {
	wordings map[string]bundle.Wording
	byTag    map[string]*Encoded
	code     *Encoded // of a notice of kind code, which is the same in every language
}

// ImagesPath is the address, on the program, below which a site's images lie.
func ImagesPath(site string) string { return "/i/" + site + "/" }

// New compiles a bundle for a program at the address base. first is a notice
// to be put before its rivals, or "".
func New(b bundle.Bundle, first, base string) (*Site, error) {
	d, left, err := Compile(b, first)
	if err != nil {
		return nil, err
	}
	s := &Site{
		Site:       d,
		Uncompiled: left,
		origins:    map[string]bool{},
		hosts:      map[string]bool{},
		pieces:     map[pieceKey]pieces{},
		versions:   map[string]string{},
		Shown:      map[string]Shown{},
	}
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
	for _, row := range bundle.SlotTable {
		if !row.Slot.Unlimited() {
			capacity[row.Slot] = b.Site.SlotCapacity(row.Slot)
		}
	}
	if s.Capacity, err = json.Marshal(capacity); err != nil {
		return nil, err
	}
	s.Refresh = b.RefreshEvery()
	for order, n := range d.Ordered() {
		s.versions[n.ID] = strconv.FormatInt(max(n.GetPublishedAt().Unix(), 0), 10)
		keep := rememberedActs(n, facts)
		if s.pieces[pieceKey{n.ID, ""}], err = s.render(n, base, order, keep); err != nil {
			return nil, err
		}
		for variant := range n.Experiment.VariantNames() {
			if s.pieces[pieceKey{n.ID, variant}], err = s.render(n.InVariant(variant), base, order, keep); err != nil {
				return nil, err
			}
		}
	}
	if properties := b.EventProperties(facts); properties != nil {
		if s.PropertiesJSON, err = json.Marshal(properties); err != nil {
			return nil, err
		}
	}
	if s.places, err = placed(b); err != nil {
		return nil, err
	}
	s.Goals = goals(b, facts)
	if s.GoalsJSON, err = json.Marshal(s.Goals); err != nil {
		return nil, err
	}
	if err := s.disclaimerParts(); err != nil {
		return nil, err
	}
	return s, s.consents(base)
}

// render makes the pieces of a notice, in all its languages.
func (s *Site) render(n bundle.Notice, base string, order int, keep []string) (pieces, error) {
	if n.Kind == bundle.KindCode {
		code, err := Piece{Bar: render.CodeOf(n), Order: order, Keep: keep}.encode()
		return pieces{code: code}, err
	}
	site := s.Bundle().Site
	linked := site.Prepared(n, base)
	demand, _ := n.Disclaimer()
	byTag := map[string]*Encoded{}
	for tag := range n.Wordings() {
		var err error
		if demand.Answered() {
			if byTag[tag], err = s.disclaim(n, tag, base, order); err != nil {
				return pieces{}, err
			}
			continue
		}
		bar, err := render.Notice(linked, tag, base+ImagesPath(site.Key), s.Zone())
		if err != nil {
			return pieces{}, err
		}
		s.noteForm(linked, tag, bar)
		if byTag[tag], err = (Piece{Bar: bar, Order: order, Keep: keep}).encode(); err != nil {
			return pieces{}, err
		}
	}
	return pieces{wordings: n.Wordings(), byTag: byTag}, nil
}

// rememberedActs returns the acts of a notice that browsers are to remember beside closing.
func rememberedActs(n bundle.Notice, facts []string) (keep []string) {
	if len(n.GetMemory().Limits) > 0 || slices.Contains(facts, "notice."+n.ID+".shown") {
		keep = append(keep, "shown")
	}
	if n.GetMemory().HideAfterAnswer != "" || slices.Contains(facts, "notice."+n.ID+".answered") {
		keep = append(keep, "answered")
	}
	if n.GetMemory().HideAfterClick != "" || slices.Contains(facts, "notice."+n.ID+".clicked") {
		keep = append(keep, "clicked")
	}
	return keep
}

// Compile compiles what of a bundle can be, with one notice before all its
// rivals unless it is "": a notice that cannot be compiled is left out, and does
// not keep the others from visitors.
func Compile(b bundle.Bundle, first string) (*decide.Site, []Uncompiled, error) {
	var left []Uncompiled
	for {
		d, err := decide.CompileFirst(b, first)
		var faults fault.Faults
		if err == nil || !errors.As(err, &faults) {
			return d, left, err
		}
		before := len(left)
		b, left = dropFaulty(b, faults, left)
		if len(left) == before {
			return nil, nil, err
		}
	}
}

// dropFaulty returns the bundle without the notices and the saved things that
// faults point into.
func dropFaulty(b bundle.Bundle, faults fault.Faults, left []Uncompiled) (bundle.Bundle, []Uncompiled) {
	bad := map[string]fault.Fault{} // the first fault of each, by pointer
	for _, f := range faults {
		tokens := strings.SplitN(f.Pointer, "/", 5)
		at := ""
		switch {
		case len(tokens) > 2 && tokens[1] == "notices":
			at = fault.Pointer("notices", tokens[2])
		case len(tokens) > 3 && tokens[1] == "site":
			at = fault.Pointer("site", tokens[2], tokens[3])
		}
		if _, known := bad[at]; !known && at != "" {
			bad[at] = f
		}
	}
	b.Notices = without(b.Notices, func(i int, n bundle.Notice) bool {
		f, is := bad[fault.Pointer("notices", i)]
		if is {
			left = append(left, Uncompiled{n.ID, n.GetTitle(), f})
		}
		return is
	})
	b.Site.Audiences = without(b.Site.Audiences, func(i int, s audience.SavedAudience) bool {
		f, is := bad[fault.Pointer("site", "audiences", i)]
		if is {
			left = append(left, Uncompiled{Title: s.Name, Why: f})
		}
		return is
	})
	b.Site.PageSets = without(b.Site.PageSets, func(i int, s pages.SavedSet) bool {
		f, is := bad[fault.Pointer("site", "pageSets", i)]
		if is {
			left = append(left, Uncompiled{Title: s.Name, Why: f})
		}
		return is
	})
	return b, left
}

// without returns a new list of what is not dropped, in its order.
func without[T any](list []T, dropped func(i int, v T) bool) []T {
	kept := make([]T, 0, len(list))
	for i, v := range list {
		if !dropped(i, v) {
			kept = append(kept, v)
		}
	}
	return kept
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

// Piece returns a notice, in one of its variants or "", rendered for a page in the
// given language, as JSON; nil if it says nothing. wording is the tag of its text,
// "" where it has none. place is what applies where the visitor is, to consent
// notices.
func (s *Site) Piece(id, variant, language string, place consent.PlaceRule) (piece *Encoded, wording string) {
	p := s.pieces[pieceKey{id, variant}]
	if p.code != nil {
		return p.code, ""
	}
	tag := p.tag(language, s.Bundle().Site.Language)
	if forms := s.consentForms[id]; forms != nil {
		return forms[formKey{tag, place.Rule, place.Words}].piece, tag
	}
	return p.byTag[tag], tag
}

// tag returns the tag of the wording that a page in a language gets.
func (p pieces) tag(language, site string) string {
	if w, ok := p.wordings[language]; ok && w.Says() {
		return language
	}
	return wording.Choose(p.wordings, language, site)
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
	b := bundle.Bundle{
		Format:  bundle.Format,
		Site:    site.Site,
		Pages:   make([]bundle.Page, 0, len(list)),
		Notices: make([]bundle.Notice, 0, len(notices)),
	}
	for _, p := range list {
		b.Pages = append(b.Pages, p.Page)
	}
	for _, n := range notices {
		b.Notices = append(b.Notices, n.Out())
	}
	return b, nil
}
