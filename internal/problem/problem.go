// Package problem writes errors as RFC 9457 problem documents.
package problem

import (
	"encoding/json"

	"github.com/gin-gonic/gin"

	"mastflag/core/fault"
)

// A Problem is what went wrong with a request.
type Problem struct {
	// "about:blank": the status says what kind of problem it is.
	Type   string `json:"type"`
	Title  string `json:"title"`
	Status int    `json:"status"`
	// What happened, what was kept, and the way on.
	Detail string `json:"detail,omitempty"`
	// The wrong values of a document, each with its place.
	Faults []fault.Fault `json:"faults,omitempty"`
	// For a stale write: the revision that is there now.
	Revision int `json:"revision,omitempty"`
	// The id under which the log has the request.
	Request string `json:"request,omitempty"`
}

func (p Problem) Error() string { return p.Title + ": " + p.Detail }

// Write answers a request with a problem.
func Write(c *gin.Context, p Problem) {
	p.Type = "about:blank"
	p.Request = c.Writer.Header().Get("X-Request-Id")
	body, err := json.Marshal(p)
	if err != nil {
		body = []byte(`{"type":"about:blank","title":"Problem"}`)
	}
	c.Abort()
	if c.Writer.Written() { // a reply has one document
		return
	}
	h := c.Writer.Header()
	h.Set("Cache-Control", "no-store")
	h.Set("X-Content-Type-Options", "nosniff")
	c.Data(p.Status, "application/problem+json", body)
}
