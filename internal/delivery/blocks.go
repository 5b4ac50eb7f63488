package delivery

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"mastflag/core/decide"
	"mastflag/core/fault"
	"mastflag/core/pages"
	"mastflag/core/render"
	"mastflag/core/wording"
	"mastflag/internal/compiled"
	"mastflag/internal/problem"
)

// maxBlockAge is how long a block may be kept by whoever includes it: what people
// change is seen no later.
const maxBlockAge = time.Minute

// block answers with a block's HTML and CSS for a page (rule B6), or one of both,
// as part=html and part=css ask; with nothing where it does not stand there now.
func (d *Delivery) block(c *gin.Context) {
	site := d.hub.Site(c.Param("key"))
	if site == nil {
		refuseBlock(c, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such site",
			Detail: fmt.Sprintf("There is no site %q here.", c.Param("key")),
		})
		return
	}
	page, part := cmp.Or(c.Query("page"), "/"), c.Query("part")
	if _, err := pages.PagePath(page); err != nil || part != "" && part != "html" && part != "css" {
		refuseBlock(c, problem.Problem{
			Status: http.StatusBadRequest,
			Title:  "Not understood",
			Detail: "Give the path of the page, such as page=/ports/aldwick; and part=html or part=css, for one of both.",
		})
		return
	}
	now := d.clock.Now()
	in, err := site.Include(c.Param("id"), page, now)
	var visitors decide.DependsOnVisitor
	switch {
	case errors.As(err, &visitors):
		refuseBlock(c, problem.Problem{
			Status: http.StatusConflict,
			Title:  "It depends on the visitor",
			Detail: fault.Sentence("it cannot come with the page: "+visitors.Error()) + " Let the site script place it.",
		})
		return
	case err != nil:
		refuseBlock(c, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such block",
			Detail: fmt.Sprintf("This site has no published block %q.", c.Param("id")),
		})
		return
	}
	body, kind := "", "text/html; charset=utf-8"
	if in.Shows {
		if body, err = d.blockText(site, c.Param("id"), cmp.Or(c.Query("language"), in.Language)); err != nil {
			refuseBlock(c, problem.Problem{
				Status: http.StatusInternalServerError,
				Title:  "Not shown",
				Detail: "The block could not be written. Try again later.",
			})
			return
		}
	}
	style, rest, _ := strings.Cut(strings.TrimPrefix(body, "<style>"), "</style>")
	switch part {
	case "html":
		body = strings.TrimSpace(rest)
	case "css":
		body, kind = strings.TrimSpace(style), "text/css; charset=utf-8"
	}
	age := maxBlockAge
	if !in.Until.IsZero() {
		age = min(age, in.Until.Sub(now))
	}
	sum := sha256.Sum256([]byte(body))
	etag := `"` + hex.EncodeToString(sum[:8]) + `"`
	h := c.Writer.Header()
	h.Set("Cache-Control", fmt.Sprintf("public, max-age=%d", max(0, int(age.Seconds()))))
	h.Set("ETag", etag)
	h.Set("X-Content-Type-Options", "nosniff")
	if c.GetHeader("If-None-Match") == etag {
		c.Status(http.StatusNotModified)
		return
	}
	c.Data(http.StatusOK, kind, []byte(body))
}

// refuseBlock says why a block does not come, in a header, and with an empty body: servers put what they are answered
// into their pages, whatever its status. Whoever asks for a problem document gets that.
func refuseBlock(c *gin.Context, p problem.Problem) {
	if strings.Contains(c.GetHeader("Accept"), "application/problem+json") {
		problem.Write(c, p)
		return
	}
	c.Header("Mastflag-Refusal", strconv.QuoteToASCII(p.Title+". "+p.Detail))
	c.Header("Cache-Control", "no-store")
	c.Data(p.Status, "text/html; charset=utf-8", nil)
}

// blockText returns a block's HTML and CSS in the language that fits best; "" if it
// says nothing.
func (d *Delivery) blockText(site *compiled.Site, id, language string) (string, error) {
	b := site.Bundle()
	for _, n := range b.Notices {
		if n.ID != id {
			continue
		}
		tag := wording.Choose(n.Wordings(), language, b.Site.Language)
		if tag == "" {
			return "", nil
		}
		return render.Plain(b.Site.Prepared(n, d.base), tag, d.base+compiled.ImagesPath(b.Site.Key))
	}
	return "", nil
}
