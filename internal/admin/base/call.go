package base

import (
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"mastflag/core/bundle"
	"mastflag/internal/access"
	"mastflag/internal/problem"
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

// MayCode refuses people who are not administrators what would have code run: that
// of a notice before or after a change (rule B7).
func (c *Call) MayCode(notices ...bundle.Notice) error {
	if c.Person.Role == access.Administrator {
		return nil
	}
	for _, n := range notices {
		if n.Kind == bundle.KindCode || n.Content != nil && n.Content.Code != nil {
			return problem.Problem{
				Status: http.StatusForbidden,
				Title:  "Administrators write code",
				Detail: fmt.Sprintf("“%s” puts code into pages, and only administrators write or publish that. "+
					"You can pause it, unpublish it, or take it off a page. Nothing was changed.", n.GetTitle()),
			}
		}
	}
	return nil
}
