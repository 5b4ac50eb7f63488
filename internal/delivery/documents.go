package delivery

import (
	"cmp"
	"context"
	"crypto/sha256"
	_ "embed"
	"encoding/base64"
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"
	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/lookup"
	"mastflag/core/markup"
)

//go:embed document.html
var documentHTML string

//go:embed document.css
var documentCSS string

var documentPage = template.Must(template.New("document").Parse(documentHTML))

// documentPolicy lets a document's page have its own style, and nothing else: no
// script, no picture, no frame.
var documentPolicy = func() string {
	sum := sha256.Sum256([]byte(documentCSS))
	hash := base64.StdEncoding.EncodeToString(sum[:])
	return "default-src 'none'; style-src 'sha256-" + hash + "'; base-uri 'none'; form-action 'none'"
}()

// A documentLink leads to a document, or to one in another language.
type documentLink struct{ Href, Tag, Name string }

// A documentVersion is a line of the list of versions.
type documentVersion struct {
	Number                      int
	Href, Says, Change, Changes string
	Here                        bool
}

// document serves a version of a document in a language (rule T4), the list of
// the site's documents, or what changed between two versions: without script and
// without cookies.
func (d *Delivery) document(c *gin.Context) {
	compiled := d.hub.Site(c.Param("key"))
	if compiled == nil {
		noDocument(c, "", d.wanted(c, bundle.Site{}))
		return
	}
	site := compiled.Bundle().Site
	id := c.Param("id")
	if id == "" {
		d.documentList(c, site)
		return
	}
	ctx := c.Request.Context()
	versions, err := d.ledger.DocumentVersions(ctx, site.Key, id)
	if err != nil {
		documentFailed(c, site, d.wanted(c, site))
		return
	}
	if len(versions) == 0 {
		noDocument(c, site.Name, d.wanted(c, site))
		return
	}
	at := len(versions) - 1
	if number := c.Param("version"); number != "" {
		at = slices.IndexFunc(versions, func(v document.Version) bool { return strconv.Itoa(v.Number) == number })
	}
	if at < 0 {
		noDocument(c, site.Name, d.wanted(c, site))
		return
	}
	v := versions[at]
	tag := lookup.Choose(slices.Collect(maps.Keys(v.Texts)), d.wanted(c, site)...)
	text := v.Texts[tag]
	text.Text = document.Linked(
		markup.SanitiseDocument(text.Text),
		func(id string) string { return site.DocumentAddress(id, tag, d.base) },
	)
	if as := c.Query("as"); as != "" {
		saveDocument(c, text, id, tag, as)
		return
	}
	word := func(key string, values ...map[string]string) string {
		all := map[string]string{}
		for _, v := range values {
			maps.Copy(all, v)
		}
		return document.PageWord(tag, key, all)
	}
	number := func(v document.Version) map[string]string {
		return map[string]string{"n": strconv.Itoa(v.Number), "date": document.SayDay(tag, v.At.In(compiled.Zone()))}
	}
	page := map[string]any{"Site": site.Name, "Title": text.Title, "Lang": tag, "Text": template.HTML(text.Text),
		"Words": map[string]string{
			"Now":       word("now"),
			"Versions":  word("versions"),
			"Changed":   word("changed"),
			"Save":      word("save"),
			"Languages": word("languages"),
			"Plain":     "TXT",
		},
		"Now": document.Path(
			site.Key,
			id,
			tag,
			0,
		), "Here": document.Path(site.Key, id, tag, v.Number), "Standing": word("version", number(v))}
	if at < len(versions)-1 {
		page["Former"], page["Standing"] = word("former", number(v)), word("former", number(v))
	}
	if from := c.Query("from"); from != "" {
		k := slices.IndexFunc(versions, func(v document.Version) bool { return strconv.Itoa(v.Number) == from })
		if k < 0 {
			noDocument(c, site.Name, d.wanted(c, site))
			return
		}
		before := versions[k].Texts[lookup.Choose(slices.Collect(maps.Keys(versions[k].Texts)), tag, site.Language)]
		page["Compare"], page["Text"] = word("compare", number(v), map[string]string{"from": from}), ""
		pair := fmt.Sprintf("%s %s %s %s %d", site.Key, id, tag, from, v.Number)
		pieces, err := d.compared.of(c.Request.Context(), pair, func() []document.Piece {
			return document.Compare(before, v.Texts[tag])
		})
		if err != nil {
			return // nobody waits for it any more
		}
		page["Pieces"] = pieces
	}
	var languages []documentLink
	for _, other := range slices.Sorted(maps.Keys(v.Texts)) {
		languages = append(
			languages,
			documentLink{
				document.Path(site.Key, id, other, numberIn(c, v)),
				other,
				display.Self.Name(language.Make(other)),
			},
		)
	}
	page["Languages"] = languages
	var list []documentVersion
	for k := len(versions) - 1; k >= 0; k-- {
		o := versions[k]
		line := documentVersion{
			Number: o.Number,
			Href:   document.Path(site.Key, id, tag, o.Number),
			Says:   document.SayDay(tag, o.At.In(compiled.Zone())),
			Here:   k == at,
		}
		if k > 0 {
			line.Change = word(string(o.Change))
			line.Changes = fmt.Sprintf("%s?from=%d", line.Href, versions[k-1].Number)
		}
		list = append(list, line)
	}
	page["Versions"] = list
	writeDocument(c, http.StatusOK, page)
}

// numberIn returns the number of a version where the address names one, else 0.
func numberIn(c *gin.Context, v document.Version) int {
	if c.Param("version") == "" {
		return 0
	}
	return v.Number
}

// wanted returns the languages in which a document is wanted: that of the
// address, those of the browser, the site's.
func (d *Delivery) wanted(c *gin.Context, site bundle.Site) []string {
	var out []string
	if tag := c.Param("language"); tag != "" {
		out = append(out, tag)
	} else if tags, _, err := language.ParseAcceptLanguage(c.GetHeader("Accept-Language")); err == nil {
		for _, t := range tags {
			out = append(out, t.String())
		}
	}
	return append(out, cmp.Or(site.Language, "en"))
}

func (d *Delivery) documentList(c *gin.Context, site bundle.Site) {
	wanted := d.wanted(c, site)
	tag := wanted[0]
	var list []documentLink
	for _, doc := range site.Documents {
		in := lookup.Choose(slices.Collect(maps.Keys(doc.Published)), wanted...)
		if in != "" {
			list = append(list, documentLink{document.Path(site.Key, doc.ID, in, 0), in, doc.Published[in].Title})
		}
	}
	writeDocument(
		c,
		http.StatusOK,
		map[string]any{
			"Site":  site.Name,
			"Title": document.PageWord(tag, "all", nil),
			"Lang":  tag,
			"List":  list,
			"Words": map[string]string{},
		},
	)
}

// saveDocument answers with a text to take away.
func saveDocument(c *gin.Context, t document.Text, id, tag, as string) {
	file, err := t.As(as, tag)
	if err != nil {
		c.String(http.StatusNotFound, fault.Sentence(err.Error()))
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", id+"."+tag+file.Extension))
	c.Header("Content-Security-Policy", "default-src 'none'; sandbox")
	c.Data(http.StatusOK, file.Type+"; charset=utf-8", []byte(file.Text))
}

func noDocument(c *gin.Context, site string, wanted []string) {
	page := map[string]any{
		"Site":  site,
		"Title": document.PageWord(wanted[0], "missing", nil),
		"Lang":  wanted[0],
		"Words": map[string]string{},
	}
	writeDocument(c, http.StatusNotFound, page)
}

func documentFailed(c *gin.Context, site bundle.Site, wanted []string) {
	c.Header("Retry-After", "30")
	writeDocument(
		c,
		http.StatusServiceUnavailable,
		map[string]any{"Site": site.Name, "Title": "503", "Lang": wanted[0], "Words": map[string]string{}},
	)
}

func writeDocument(c *gin.Context, status int, page map[string]any) {
	tag := page["Lang"].(string)
	if _, err := language.Parse(tag); err != nil {
		tag = "en"
	}
	page["Lang"], page["Dir"], page["Style"] = tag, lookup.Direction(tag), template.CSS(documentCSS)
	var b strings.Builder
	if err := documentPage.Execute(&b, page); err != nil {
		c.String(http.StatusInternalServerError, "This document could not be shown.")
		return
	}
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", documentPolicy)
	h.Set("Vary", "Accept-Language")
	h.Set("Cache-Control", "public, max-age=60")
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("X-Content-Type-Options", "nosniff")
	c.Data(status, "text/html; charset=utf-8", []byte(b.String()))
}

// comparisons are what changed between two versions of documents, which never changes: worked out
// once for each pair, one at a time.
type comparisons struct {
	once sync.Once
	turn chan struct{}
	kept map[string][]document.Piece
}

// maxComparisons pairs are kept; then it begins anew.
const maxComparisons = 64

// of returns what is kept of a pair, or works it out in its turn; an error if ctx ends before.
func (k *comparisons) of(ctx context.Context, pair string, work func() []document.Piece) ([]document.Piece, error) {
	k.once.Do(func() { k.turn, k.kept = make(chan struct{}, 1), map[string][]document.Piece{} })
	select {
	case k.turn <- struct{}{}:
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	defer func() { <-k.turn }()
	have, known := k.kept[pair]
	if !known {
		if len(k.kept) >= maxComparisons {
			clear(k.kept)
		}
		have = work()
		k.kept[pair] = have
	}
	return have, nil
}
