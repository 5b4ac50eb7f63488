package server

import (
	"crypto/sha256"
	"crypto/subtle"
	"encoding/hex"
	"net/http"
	"net/url"
	"strings"

	"github.com/gin-gonic/gin"

	"mastflag/core/alert"
	"mastflag/internal/admin/alerts"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// outlets publish a site's live alerts, and to those who know its address the
// whole schedule.
type outlets struct {
	store *store.Store
	hub   *compiled.Hub
	base  string
	clock clock.Clock
}

func (o outlets) routes(r gin.IRouter) {
	r.GET(alert.FeedPath(":key"), o.feed)
	r.GET("/f/:key/alerts/:file", o.message)
	r.GET(alerts.CalendarPath(":key", ":token"), o.calendar)
}

// site returns the site asked of, or answers that there is none.
func (o outlets) site(c *gin.Context) (*compiled.Site, alert.Outlet) {
	key := c.Param("key")
	s := o.hub.Site(key)
	if s == nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such site",
			Detail: "There is no site of that name here.",
		})
		return nil, alert.Outlet{}
	}
	out := alert.Outlet{Base: o.base, Key: key}
	if origins := s.Bundle().Site.Origins; len(origins) > 0 {
		if u, err := url.Parse(origins[0]); err == nil {
			out.Host = u.Hostname()
		}
	}
	return s, out
}

func (o outlets) feed(c *gin.Context) {
	s, out := o.site(c)
	if s == nil {
		return
	}
	body, err := out.Feed(s.Site, o.clock.Now())
	send(c, "application/atom+xml; charset=utf-8", body, err)
}

func (o outlets) message(c *gin.Context) {
	s, out := o.site(c)
	if s == nil {
		return
	}
	now := o.clock.Now()
	id, _ := strings.CutSuffix(c.Param("file"), ".xml")
	for _, n := range alert.Live(s.Site, now) {
		if n.ID == id {
			body, err := out.Message(s.Site, n, now).Write()
			send(c, "application/cap+xml; charset=utf-8", body, err)
			return
		}
	}
	problem.Write(c, problem.Problem{
		Status: http.StatusNotFound,
		Title:  "Not live",
		Detail: "This alert is over, or never was here.",
	})
}

func (o outlets) calendar(c *gin.Context) {
	s, out := o.site(c)
	if s == nil {
		return
	}
	want, err := alerts.CalendarToken(c.Request.Context(), o.store, out.Key)
	token, _ := strings.CutSuffix(c.Param("token"), ".ics")
	if err != nil || subtle.ConstantTimeCompare([]byte(want), []byte(token)) != 1 {
		problem.Write(c, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such calendar",
			Detail: "This address is not, or no longer, the site's. Copy it anew from the Site room.",
		})
		return
	}
	c.Writer.Header().Set("Referrer-Policy", "no-referrer")
	send(c, "text/calendar; charset=utf-8", out.Calendar(s.Site, o.clock.Now()), nil)
}

// send answers a document, or that it is as it was (RFC 9110 §13.1.2).
func send(c *gin.Context, kind string, body []byte, err error) {
	if err != nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusInternalServerError,
			Title:  "It could not be written",
			Detail: err.Error(),
		})
		return
	}
	sum := sha256.Sum256(body)
	etag := `"` + hex.EncodeToString(sum[:8]) + `"`
	h := c.Writer.Header()
	h.Set("ETag", etag)
	h.Set("Cache-Control", "no-cache")
	h.Set("X-Content-Type-Options", "nosniff")
	if c.GetHeader("If-None-Match") == etag {
		c.Status(http.StatusNotModified)
		return
	}
	c.Data(http.StatusOK, kind, body)
}
