// Package delivery answers the pages of the sites: the site script, and the
// decision for a page view. Nothing here reads the database but a preview and
// an image, which browsers keep for good.
package delivery

import (
	"bytes"
	"cmp"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"embed"
	"encoding/base64"
	"encoding/hex"
	stdjson "encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/andybalholm/brotli"
	"github.com/gin-gonic/gin"
	"github.com/goccy/go-json"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/decide"
	"mastflag/core/render"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/contacts"
	"mastflag/internal/counting"
	"mastflag/internal/problem"
	"mastflag/internal/records"
	"mastflag/internal/sources"
)

// built is what the site script's build has put here; without Node it is empty.
//
//go:embed all:dist
var built embed.FS

// MaxVisit is how large the body that asks for a decision may be, in bytes.
const MaxVisit = 64 << 10

// Rehearser is what delivery needs of the administrators' side.
type Rehearser interface {
	// Rehearse returns the site with the draft of a notice in place of what is
	// out, put first and free of state, schedule and memory.
	Rehearse(ctx context.Context, site, notice string) (bundle.Bundle, error)
}

// Delivery serves the sites.
type Delivery struct {
	hub       *compiled.Hub
	images    Images
	base      string // the program's own address
	clock     clock.Clock
	secret    []byte
	rehearser Rehearser
	parts     map[string]asset // of the site script, by what they are called where they are built
	source    *sources.Sources
	ledger    *records.Keeper
	contacts  *contacts.Keeper
	marks     marks
	// How often pages may tell answers, send forms, and tell what is counted.
	answers, forms, counts *limits
	counter                *counting.Counter
	countMarks             *countMarks
	crowds                 *crowds
	// A preview compiles the site anew: so many at once.
	previews chan struct{}
	compared comparisons
}

// maxPreviews is how many previews are worked out at once.
const maxPreviews = 2

// parts of the site script: what every page loads; what makes room for bars at the edges; what puts notices
// into the page itself, and over it; and, for the stage alone, what
// works the page there and what takes its picture; what a preview says of
// itself; what asks for consent and holds things back until it is given; what takes
// answers to disclaimers; and what counts visits where an audience asks about them; and what shares what
// is remembered between the hosts of a domain; what opens longer messages and loads what few notices need;
// what takes forms, knows opening hours, sounds, speaks in the tab and plays videos;
// what notes what is seen and done; and what watches for what notices wait for.
var parts = []string{
	"site",
	"edges",
	"inpage",
	"popup",
	"stage",
	"picture",
	"ribbon",
	"consent",
	"disclaimer",
	"visits",
	"shared",
	"ways",
	"form",
	"hours",
	"sound",
	"tab",
	"video",
	"results",
	"remainder",
}

// An asset is a file with its encodings.
type asset struct {
	name              string
	plain, gzip, brot []byte
}

// Images keeps the images of sites.
type Images interface {
	// ImageBody returns the content of an image, or store.ErrNotFound.
	ImageBody(ctx context.Context, site, file string) ([]byte, error)
}

// New returns the delivery of the hub's sites for a program at the address
// base. secret signs preview links.
func New(
	hub *compiled.Hub,
	images Images,
	base string,
	c clock.Clock,
	secret []byte,
	rehearser Rehearser,
	source *sources.Sources,
	ledger *records.Keeper,
	kept *contacts.Keeper,
	counter *counting.Counter,
) (*Delivery, error) {
	d := &Delivery{
		hub:       hub,
		images:    images,
		base:      base,
		clock:     c,
		secret:    secret,
		rehearser: rehearser,
		source:    source,
		ledger:    ledger,
		contacts:  kept,
		answers:   answerLimits(),
		forms:     formLimits(),
		counts:    countLimits(),
		counter:   counter,
		marks:     marks{secret: secret},

		countMarks: newCountMarks(secret),
		crowds:     newCrowds(),
		previews:   make(chan struct{}, maxPreviews),
	}
	var err error
	d.parts, err = packed()
	return d, err
}

// packed returns the parts of the site script, packed as small as they get: worked out once, because
// that takes long.
var packed = sync.OnceValues(func() (map[string]asset, error) {
	out := map[string]asset{}
	for _, name := range parts {
		code, err := built.ReadFile("dist/" + name + ".js")
		if err != nil {
			slog.Warn(
				"the site script is not built: run `make build`; sites get a script that does nothing",
				"part",
				name,
			)
			code = []byte("/* The site script is not built. Run `make build`. */")
		}
		if out[name], err = newAsset(name, code); err != nil {
			return nil, err
		}
	}
	return out, nil
})

func newAsset(name string, code []byte) (asset, error) {
	sum := sha256.Sum256(code)
	a := asset{name: name + "." + hex.EncodeToString(sum[:8]) + ".js", plain: code}
	var gz, br bytes.Buffer
	zw, err := gzip.NewWriterLevel(&gz, gzip.BestCompression)
	if err != nil {
		return a, err
	}
	bw := brotli.NewWriterLevel(&br, brotli.BestCompression)
	for _, w := range []io.WriteCloser{zw, bw} {
		if _, err := w.Write(code); err != nil {
			return a, err
		}
		if err := w.Close(); err != nil {
			return a, err
		}
	}
	a.gzip, a.brot = gz.Bytes(), br.Bytes()
	return a, nil
}

// Routes puts delivery's addresses on a router.
func (d *Delivery) Routes(r gin.IRouter) {
	r.GET("/s/:key", d.loader)
	r.GET("/a/:name", d.asset)
	r.GET(compiled.ImagesPath(":key")+":file", d.image)
	r.GET(compiled.ImagesPath(":key")+"icon/:name", d.tabIcon)
	r.POST("/d/:key", d.decide)
	r.OPTIONS("/d/:key", d.preflight("POST"))
	r.POST("/r/:key", d.answer)
	r.OPTIONS("/r/:key", d.preflight("POST"))
	r.GET("/r/:key/:id", d.receipt)
	r.DELETE("/r/:key/:id", d.erase)
	r.OPTIONS("/r/:key/:id", d.preflight("GET, DELETE"))
	r.GET("/forms/:key", d.formMark)
	r.POST("/forms/:key", d.takeForm)
	r.OPTIONS("/forms/:key", d.preflight("GET, POST"))
	r.GET("/forms/:key/:token", d.confirmPage)
	r.POST("/forms/:key/:token", d.confirm)
	r.POST("/r/:key/counts", d.count)
	r.GET("/b/:key/:id", d.block)
	for _, path := range []string{"/t/:key", "/t/:key/:id", "/t/:key/:id/:language", "/t/:key/:id/:language/:version"} {
		r.GET(path, d.document)
	}
}

// ScriptPath is the small stable address of a site's script.
func ScriptPath(site string) string { return "/s/" + site + ".js" }

// A Snippet is what a site carries on every page.
type Snippet struct {
	Address string // of the script
	// Inline keeps the room of bars in the page free before it is first drawn;
	// "" where the site script is not built.
	Inline string
}

// NewSnippet returns the snippet of a site for a program at the address base.
func NewSnippet(base, site string) Snippet {
	s := Snippet{Address: base + ScriptPath(url.PathEscape(site))}
	if code, err := built.ReadFile("dist/inline.js"); err == nil {
		s.Inline = strings.TrimSpace(strings.ReplaceAll(string(code), `"__KEY__"`, scriptJSON(site)))
	}
	return s
}

// SnippetOf returns the snippet of a site as it wants it.
func SnippetOf(base string, s bundle.Site) Snippet {
	if g := s.Setup().Guard; g != "" {
		return NewGuardedSnippet(base, s.Key, g == "keep")
	}
	return NewSnippet(base, s.Key)
}

// GuardMark stands in every snippet that holds back, and in no other.
const GuardMark = ".guard`"

// NewGuardedSnippet returns the snippet of a site that wants what visitors have not agreed to held back (rules H).
// Where the program does not answer, what may need an answer stays held if strict, and goes ahead after two seconds if
// not.
func NewGuardedSnippet(base, site string, strict bool) Snippet {
	s := NewSnippet(base, site)
	if code, err := built.ReadFile("dist/guarded.js"); err == nil {
		host := ""
		if u, err := url.Parse(base); err == nil {
			host = strings.ToLower(u.Hostname())
		}
		s.Inline = strings.TrimSpace(strings.NewReplacer(
			`"__KEY__"`, scriptJSON(site), `"__HOST__"`, scriptJSON(host),
			`"__STRICT__"`, scriptJSON(strconv.FormatBool(strict)),
		).Replace(string(code)))
	}
	return s
}

// begin is the line that begins the script. A script element with an address, async or not, would
// hold up the page's load event until the program answers (HTML Standard, "delay the load event"),
// and in Firefox an import would, too. A fetch does not: what it has brought is then imported from
// the browser's cache.
func (s Snippet) begin() string {
	return "{let u=" + scriptJSON(s.Address) +
		";fetch(u).then(r=>r.text()).then(()=>import(u)).catch(()=>window.mastflag?.giveUp?.())}"
}

// lines are the scripts of the snippet, in their order; as they stand in HTML and in XHTML.
func (s Snippet) lines() []string {
	lines := []string{s.begin()}
	if s.Inline != "" {
		lines = []string{s.Inline, s.begin()}
	}
	for i, line := range lines {
		lines[i] = "/*<![CDATA[*/" + line + "/*]]>*/"
	}
	return lines
}

// HTML returns the snippet as it is pasted.
func (s Snippet) HTML() string {
	return "<script>" + strings.Join(s.lines(), "</script>\n<script>") + "</script>"
}

// TrustedTypes is the name of the policy that HTML goes into pages by.
const TrustedTypes = "mastflag"

// Source returns what a Content-Security-Policy's script-src needs to let the
// lines run, beside the program's address.
func (s Snippet) Source() string { return strings.Join(s.Hashes(), " ") }

// Hashes are the sources that stand for the lines (CSP Level 3, hash-source).
func (s Snippet) Hashes() []string {
	var out []string
	for _, line := range s.lines() {
		sum := sha256.Sum256([]byte(line))
		out = append(out, "'sha256-"+base64.StdEncoding.EncodeToString(sum[:])+"'")
	}
	return out
}

// loader is the small stable address that sites name: it brings in the script
// proper.
func (d *Delivery) loader(c *gin.Context) {
	key, ok := strings.CutSuffix(c.Param("key"), ".js")
	site := d.hub.Site(key)
	if !ok || site == nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such site",
			Detail: fmt.Sprintf("There is no site %q here. Copy the snippet from the Site room again.", c.Param("key")),
		})
		return
	}
	code, err := built.ReadFile("dist/loader.js")
	if err != nil {
		code = []byte("/* The site script is not built. */")
	}
	known := map[string]string{
		"server":   d.base,
		"script":   d.address("site"),
		"mastflag": key,
		"wants":    site.Script.Version + ":" + site.Script.Facts,
	}
	for _, part := range parts[1:] {
		known[part] = d.address(part)
	}
	if s := site.Bundle().Site; s.SharedMemory {
		known["domains"] = strings.Join(s.Domains(), " ")
	}
	if site.Bundle().Site.Routes {
		known["routes"] = "1"
	}
	loader := strings.Replace(string(code), "__MASTFLAG__", scriptJSON(known), 1)
	sum := sha256.Sum256([]byte(loader))
	etag := `"` + hex.EncodeToString(sum[:8]) + `"`
	h := c.Writer.Header()
	h.Set("Cache-Control", "public, max-age=300, stale-while-revalidate=86400")
	h.Set("ETag", etag)
	h.Set("Cross-Origin-Resource-Policy", "cross-origin")
	h.Set("Access-Control-Allow-Origin", "*") // a module is fetched so
	h.Set("X-Content-Type-Options", "nosniff")
	if c.GetHeader("If-None-Match") == etag {
		c.Status(http.StatusNotModified)
		return
	}
	c.Data(http.StatusOK, "text/javascript; charset=utf-8", []byte(loader))
}

// scriptJSON writes a value as JSON that can stand in a script, within HTML too:
// the standard encoder writes <, >, &, U+2028 and U+2029 as escapes.
func scriptJSON(v any) string {
	b, err := stdjson.Marshal(v)
	if err != nil {
		panic(fmt.Sprintf("delivery: %T cannot be written as JSON: %v", v, err))
	}
	return string(b)
}

// address is where a part of the site script lies.
func (d *Delivery) address(part string) string { return "/a/" + d.parts[part].name }

// asset serves a part of the site script, whose name changes with its content.
func (d *Delivery) asset(c *gin.Context) {
	name, _, _ := strings.Cut(c.Param("name"), ".")
	part := d.parts[name]
	h := c.Writer.Header()
	h.Set("Cache-Control", "public, max-age=31536000, immutable")
	if part.plain != nil && part.name != c.Param("name") {
		// A page that has the loader of another version gets what there is now.
		h.Set("Cache-Control", "no-cache")
	} else if part.name != c.Param("name") {
		problem.Write(c, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such file",
			Detail: "The site script has no part of this name.",
		})
		return
	}
	h.Set("Vary", "Accept-Encoding")
	h.Set("Cross-Origin-Resource-Policy", "cross-origin")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Access-Control-Allow-Origin", "*") // a module is fetched so
	body := part.plain
	switch encoding := encodingOf(c.GetHeader("Accept-Encoding"), "br", "gzip"); encoding {
	case "br":
		h.Set("Content-Encoding", encoding)
		body = part.brot
	case "gzip":
		h.Set("Content-Encoding", encoding)
		body = part.gzip
	}
	c.Data(http.StatusOK, "text/javascript; charset=utf-8", body)
}

// image serves an image, whose name changes with its content.
func (d *Delivery) image(c *gin.Context) {
	body, err := d.images.ImageBody(c.Request.Context(), c.Param("key"), c.Param("file"))
	if err != nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such image",
			Detail: "This image was removed, or never was here.",
		})
		return
	}
	h := c.Writer.Header()
	h.Set("Cache-Control", "public, max-age=31536000, immutable")
	h.Set("Cross-Origin-Resource-Policy", "cross-origin")
	h.Set("Access-Control-Allow-Origin", "*") // the stage draws it
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	kind := map[string]string{
		".jpg":  "image/jpeg",
		".png":  "image/png",
		".webp": "image/webp",
		".gif":  "image/gif",
	}[path.Ext(c.Param("file"))]
	c.Data(http.StatusOK, kind, body)
}

// tabIcon draws an icon for the tab of a browser.
func (d *Delivery) tabIcon(c *gin.Context) {
	name, svg := strings.CutSuffix(c.Param("name"), ".svg")
	number, _ := strconv.Atoi(c.Query("number"))
	drawn := render.TabIcon(name, c.Query("field"), number)
	if !svg || drawn == "" {
		problem.Write(c, problem.Problem{
			Status: http.StatusNotFound, Title: "No such icon", Detail: "The set that ships has no icon of that name.",
		})
		return
	}
	h := c.Writer.Header()
	h.Set("Cache-Control", "public, max-age=31536000, immutable")
	h.Set("Cross-Origin-Resource-Policy", "cross-origin")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	c.Data(http.StatusOK, "image/svg+xml", []byte(drawn))
}

// An ask is what the site script sends: a visit, and a preview token if the
// page was opened by one.
type ask struct {
	decide.Visit
	Preview string `json:"preview,omitempty"`
	// The version of the list of facts that it sent.
	Wants string `json:"wants,omitempty"`
	// Tags of what the page has already: of the last maxHeld that it got.
	Have []string `json:"have,omitempty"`
}

// maxHeld is how many tags count of those that a page says it has.
const maxHeld = 40

// wholeOrTag returns what the page is to get of something: all of it, or its tag where the page has it.
func (a ask) wholeOrTag(e *compiled.Encoded) []byte {
	if slices.Contains(a.Have[:min(len(a.Have), maxHeld)], e.Tag) {
		return e.Short
	}
	return e.Whole
}

// site returns the site asked of, having allowed the asking origin; or
// answers with the problem and returns nil.
func (d *Delivery) site(c *gin.Context) *compiled.Site {
	s := d.hub.Site(c.Param("key"))
	if s == nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such site",
			Detail: fmt.Sprintf("There is no site %q here.", c.Param("key")),
		})
		return nil
	}
	origin := c.GetHeader("Origin")
	h := c.Writer.Header()
	h.Set("Vary", "Origin")
	if !s.Allows(origin) {
		problem.Write(c, problem.Problem{
			Status: http.StatusForbidden,
			Title:  "Origin not allowed",
			Detail: fmt.Sprintf(
				"Pages of %q may not ask for this site's notices. Add the origin in the Site room.",
				origin,
			),
		})
		return nil
	}
	h.Set("Access-Control-Allow-Origin", origin)
	return s
}

// preflight answers that a page of the site may use these methods.
func (d *Delivery) preflight(methods string) gin.HandlerFunc {
	return func(c *gin.Context) {
		if d.site(c) == nil {
			return
		}
		h := c.Writer.Header()
		h.Set("Access-Control-Allow-Methods", methods)
		h.Set("Access-Control-Allow-Headers", "Content-Type")
		h.Set("Access-Control-Max-Age", "86400")
		c.Status(http.StatusNoContent)
	}
}

func (d *Delivery) decide(c *gin.Context) {
	s := d.site(c)
	if s == nil {
		return
	}
	body, err := readAll(c.Request, MaxVisit)
	if err != nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusRequestEntityTooLarge,
			Title:  "Too large",
			Detail: fmt.Sprintf("A visit may take %d KB.", MaxVisit>>10),
		})
		return
	}
	var a ask
	if err := json.Unmarshal(body, &a); err != nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusBadRequest,
			Title:  "Broken visit",
			Detail: "The body is not a visit in JSON: " + err.Error(),
		})
		return
	}
	a.At = d.clock.Now()
	if a.Preview != "" {
		a.Memory = decide.Memory{} // whoever looks at a preview is anyone
	}
	if s.Wants != (sources.Wants{}) {
		if a.Facts == nil {
			a.Facts = map[string]any{}
		}
		d.source.Fill(a.Facts, s.Wants, c.Request, s.Own)
	}
	if err := a.Check(); err != nil {
		problem.Write(c, problem.Problem{Status: http.StatusBadRequest, Title: "Broken visit", Detail: err.Error()})
		return
	}
	ends, language := time.Time{}, s.Language(a.URL)
	if a.Preview != "" {
		t, err := ReadToken(d.secret, a.Preview, a.At)
		if err == nil && t.Site != c.Param("key") {
			err = errors.New("it is for another site")
		}
		if err == nil {
			s, err = d.rehearsal(c, t)
		}
		if err != nil {
			problem.Write(c, problem.Problem{
				Status: http.StatusGone,
				Title:  "This preview link no longer works",
				Detail: "Ask for a new one: " + err.Error() + ".",
			})
			return
		}
		ends, language = t.Ends, cmp.Or(t.Language, language)
	}
	c.Writer.Header().Set("Cache-Control", "no-store")
	sendPacked(c, "application/json", d.reply(s, a, language, ends))
}

func (d *Delivery) rehearsal(c *gin.Context, t Token) (*compiled.Site, error) {
	ctx := c.Request.Context()
	select {
	case d.previews <- struct{}{}:
		defer func() { <-d.previews }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	b, err := d.rehearser.Rehearse(ctx, t.Site, t.Notice)
	if err != nil {
		return nil, err
	}
	for i, n := range b.Notices {
		if n.ID == t.Notice {
			b.Notices[i] = n.InVariant(t.Variant)
		}
	}
	return compiled.New(b, t.Notice, d.base)
}

// reply joins the pieces that were encoded when the site was compiled to an Answer.
func (d *Delivery) reply(s *compiled.Site, a ask, language string, previewEnds time.Time) []byte {
	decision := s.Decide(a.Visit)
	out := make([]byte, 0, 2048)
	out = append(out, `{"at":`...)
	out = strconv.AppendInt(out, decision.At.UnixMilli(), 10)
	out = append(out, `,"until":`...)
	if again := decision.At.Add(s.Refresh); s.Refresh > 0 && previewEnds.IsZero() &&
		(decision.ValidUntil.IsZero() || again.Before(decision.ValidUntil)) {
		decision.ValidUntil = again
	}
	if decision.ValidUntil.IsZero() {
		out = append(out, "null"...)
	} else {
		out = strconv.AppendInt(out, decision.ValidUntil.UnixMilli(), 10)
	}
	out = append(out, `,"show":[`...)
	shown := make([]string, 0, maxCarried)
	first := true
	for _, n := range decision.Show {
		piece, tag := s.Piece(n.ID, n.Variant, language, place(decision))
		if piece == nil {
			continue
		}
		if !first {
			out = append(out, ',')
		}
		first = false
		out = append(spotted(opened(out, a.wholeOrTag(piece)), s, n.ID, a.URL), '}')
		shown = append(shown, s.CountedAs(n.ID, tag, countedVariant(decision, n.Variant)))
	}
	out = append(out, ']')
	if len(decision.Waiting) > 0 && a.Preview == "" {
		out, shown = waiting(out, shown, s, decision, language, a)
	}
	out = ends(out, decision)
	if a.Preview == "" {
		out = d.counted(out, shown, s, decision, language, a)
	}
	out = d.disclaimed(out, s, a, decision, language)
	out = d.consented(out, s, decision, language, a)
	if a.Preview == "" && a.Wants != s.Script.Version {
		out = append(out, `,"wants":`...)
		out = append(out, scriptJSON(s.Script.Version+":"+s.Script.Facts)...)
	}
	if !previewEnds.IsZero() {
		out = append(out, `,"preview":`...)
		out = strconv.AppendInt(out, previewEnds.UnixMilli(), 10)
	}
	return append(out, '}')
}

// opened appends an object of JSON without its last brace, so that more can follow in it.
func opened(out, object []byte) []byte { return append(out, object[:len(object)-1]...) }

// place returns what applies where the visitor is.
func place(d decide.Decision) consent.PlaceRule {
	if d.Consent == nil {
		return consent.PlaceRule{}
	}
	return d.Consent.Row
}

// consented appends what holds of the visitor's consent, and what the site
// script's consent part needs to act on it.
func (d *Delivery) consented(out []byte, s *compiled.Site, decision decide.Decision, language string, a ask) []byte {
	part, state := s.Part(language), decision.Consent
	if state == nil || part == nil {
		return out
	}
	says, err := json.Marshal(ConsentState{
		Rule: state.Rule, Granted: state.Granted, Answered: state.Answered, Signal: state.Signal,
		Hash: s.Hash(s.ConsentNotice(), language, state.Row), Mark: d.marks.of(s.Bundle().Site.Key, decision.At),
	})
	if err != nil {
		return out
	}
	out = append(
		append(out, `,"consent":`...),
		bytes.TrimSuffix(says, []byte("null}"))...) // where the part stands, last
	return append(append(out, a.wholeOrTag(part)...), '}')
}

// disclaimed appends what a page that carries a disclaimer that has to be answered
// needs to tell of an answer, to give its receipt and to erase it.
func (d *Delivery) disclaimed(out []byte, s *compiled.Site, a ask, decision decide.Decision, language string) []byte {
	part := s.Disclaiming(language)
	if part == nil || !s.HasDisclaimer(a.URL) {
		return out // it has none, or one that says nothing
	}
	out = append(append(out, `,"disclaimer":`...), part[:len(part)-1]...)
	out = append(append(out, `,"mark":`...), scriptJSON(d.marks.of(s.Bundle().Site.Key, decision.At))...)
	return append(out, '}')
}

// ends appends the moments that countdowns are about.
func ends(out []byte, d decide.Decision) []byte {
	first := true
	one := func(id string, t time.Time) {
		if t.IsZero() {
			return
		}
		out = append(out, map[bool]string{true: `,"ends":{`, false: ","}[first]...)
		first = false
		name, err := json.Marshal(id)
		if err != nil {
			return
		}
		out = append(append(out, name...), ':')
		out = strconv.AppendInt(out, t.UnixMilli(), 10)
	}
	for _, n := range d.Show {
		one(n.ID, n.Ends)
	}
	for _, n := range d.Waiting {
		one(n.ID, n.Ends)
	}
	if !first {
		out = append(out, '}')
	}
	return out
}

// spotted appends which of a notice's spots are for the page, where that depends on
// it: ,"at":[…].
func spotted(out []byte, s *compiled.Site, id, address string) []byte {
	at, some := s.Spots(id, address)
	if !some {
		return out
	}
	out = append(out, `,"at":[`...)
	for i, n := range at {
		if i > 0 {
			out = append(out, ',')
		}
		out = strconv.AppendInt(out, int64(n), 10)
	}
	return append(out, ']')
}

// waiting appends the notices that may show later on the page view, each with
// what it waits for, and what the site script needs to let them compete; to shown
// how they are counted.
func waiting(
	out []byte, shown []string, s *compiled.Site, d decide.Decision, language string, a ask,
) ([]byte, []string) {
	out = append(out, `,"waiting":[`...)
	first := true
	for _, w := range d.Waiting {
		piece, tag := s.Piece(w.ID, w.Variant, language, consent.PlaceRule{})
		rest, err := w.Remainder.MarshalJSON()
		if piece == nil || err != nil {
			continue
		}
		if !first {
			out = append(out, ',')
		}
		first = false
		out = spotted(opened(out, a.wholeOrTag(piece)), s, w.ID, a.URL)
		out = append(out, `,"remainder":`...)
		out = append(append(out, rest...), '}')
		shown = append(shown, s.CountedAs(w.ID, tag, countedVariant(d, w.Variant)))
	}
	out = append(out, `],"capacity":`...)
	return append(out, s.Capacity...), shown
}

// countedVariant returns the variant that a notice is counted as: "" of who is in no experiment.
func countedVariant(d decide.Decision, variant string) string {
	if d.Drawn {
		return variant
	}
	return ""
}

// readAll reads a body of at most limit bytes.
func readAll(r *http.Request, limit int64) ([]byte, error) {
	if r.ContentLength > limit {
		return nil, errors.New("body too large")
	}
	size := r.ContentLength
	if size < 0 {
		size = 512
	}
	b := bytes.NewBuffer(make([]byte, 0, size+bytes.MinRead))
	_, err := b.ReadFrom(io.LimitReader(r.Body, limit+1))
	if err == nil && int64(b.Len()) > limit {
		err = errors.New("body too large")
	}
	return b.Bytes(), err
}
