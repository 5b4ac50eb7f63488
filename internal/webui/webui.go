// Package webui serves the interface that was built into the program.
package webui

import (
	"embed"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"

	"mastflag/internal/problem"
)

// built is what the interface's build has put here; without Node it is empty.
//
//go:embed all:dist
var built embed.FS

// policy lets the interface load only what ships with it. It frames sites of
// its people, whose addresses it cannot know, for the stage.
const policy = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; " +
	"font-src 'self'; connect-src 'self'; frame-src http: https:; frame-ancestors 'none'; base-uri 'none'; form-action " +
	"'self'; object-src 'none'"

const notBuilt = `<!doctype html><html lang="en"><meta charset="utf-8"><title>Mast Flag</title>
<h1>The interface is not built into this program</h1>
<p>It needs Node once: run <code>make build</code> in the source folder and start the program that this makes. The ` +
	`command line, the API and delivery work without it.</p></html>`

// Serve answers whatever no other route takes: files of the interface, and
// its one page for any other address.
func Serve(c *gin.Context) {
	p := c.Request.URL.Path
	if strings.HasPrefix(p, "/api/") || strings.HasPrefix(p, "/d/") ||
		c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		problem.Write(c, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such address",
			Detail: "There is nothing at " + p + ".",
		})
		return
	}
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", policy)
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("X-Content-Type-Options", "nosniff")
	name := path.Join("dist", path.Clean("/"+p))
	if body, err := fs.ReadFile(built, name); err == nil && p != "/" {
		c.Status(http.StatusOK) // the router has preset 404
		h.Set("Cache-Control", "no-cache")
		if strings.HasPrefix(name, "dist/assets/") { // what the build names by its content
			h.Set("Cache-Control", "public, max-age=31536000, immutable")
		}
		c.Data(http.StatusOK, mime.TypeByExtension(path.Ext(name)), body)
		return
	}
	if strings.HasPrefix(p, "/assets/") {
		problem.Write(c, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such file",
			Detail: "The interface has been replaced by a newer one. Reload the page.",
		})
		return
	}
	h.Set("Cache-Control", "no-cache")
	body, err := fs.ReadFile(built, "dist/index.html")
	if err != nil {
		body = []byte(notBuilt)
	}
	c.Data(http.StatusOK, "text/html; charset=utf-8", body)
}
