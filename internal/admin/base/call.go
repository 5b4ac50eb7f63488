package base

import (
	"github.com/gin-gonic/gin"

	"mastflag/internal/store"
)

// Call is a request with what handlers need of it.
type Call struct {
	*gin.Context
	Person   store.Person
	Session  store.Session
	Site     string
	Notice   string
	Document string
}

func newCall(c *gin.Context) *Call {
	cl := &Call{Context: c, Site: c.Param("site"), Notice: c.Param("notice"), Document: c.Param("document")}
	if p, ok := c.Get("person"); ok {
		cl.Person = p.(store.Person)
	}
	if s, ok := c.Get("session"); ok {
		cl.Session = s.(store.Session)
	}
	return cl
}

// Moment is the viewpoint that a writing call carries in its query. Its fields
// are texts, which always bind.
func (c *Call) Moment() (m Moment) {
	_ = c.ShouldBindQuery(&m)
	return m
}
