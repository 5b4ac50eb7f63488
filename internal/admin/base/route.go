package base

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"reflect"
	"slices"

	"github.com/gin-gonic/gin"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/rights"
	"mastflag/internal/problem"
)

// How large a request may be, in bytes.
const (
	MaxBody  = 1 << 20
	MaxFiles = 12 << 20 // one that carries a file
)

// A Route is one call of the API. It is made by Get, Post, Put or File.
type Route struct {
	Method, Path, Summary string
	In, Out               reflect.Type
	Query                 reflect.Type // what a writing call carries beside its body; nil for nothing
	Open                  bool         // for people who are not signed in
	Needs                 string       // the role that may
	Contacts              bool         // for those who may see contacts
	Gives                 string       // the media type of a file that is answered; "" for Out
	max                   int64        // bytes of the body
	handler               gin.HandlerFunc
}

// OfMoment is what is answered for a viewpoint. A writing call that answers
// with it, or with what holds it, carries the viewpoint in its query.
type OfMoment interface{ OfMoment() }

// CarriesFile is a body that may be as long as MaxFiles.
type CarriesFile interface{ CarriesFile() }

// newRoute makes a Route of a function. In of a GET is read from the query.
func newRoute[In, Out any](method, path, summary string, f func(*Call, In) (Out, error)) Route {
	r := Route{
		Method:  method,
		Path:    path,
		Summary: summary,
		In:      reflect.TypeFor[In](),
		Out:     reflect.TypeFor[Out](),
		Needs:   rights.Editor,
		max:     MaxBody,
	}
	if method == http.MethodGet {
		r.Needs = rights.Viewer
	} else if ofMoment(r.Out) {
		r.Query = reflect.TypeFor[Moment]()
	}
	if _, file := any(new(In)).(CarriesFile); file {
		r.max = MaxFiles
	}
	r.handler = func(c *gin.Context) {
		var in In
		if err := read(c, &in, r.max); err != nil {
			Fail(c, err)
			return
		}
		out, err := f(newCall(c), in)
		if err != nil {
			Fail(c, err)
			return
		}
		c.Writer.Header().Set("Cache-Control", "no-store")
		c.JSON(http.StatusOK, out)
	}
	return r
}

// ofMoment reports whether an answer is for a viewpoint, or holds what is.
func ofMoment(out reflect.Type) bool {
	is := reflect.TypeFor[OfMoment]()
	return out.Implements(is) || out.Kind() == reflect.Struct &&
		slices.ContainsFunc(reflect.VisibleFields(out), func(f reflect.StructField) bool { return f.Type.Implements(is) })
}

// Get is a call that reads: In is its query. It needs a viewer.
func Get[In, Out any](path, summary string, f func(*Call, In) (Out, error)) Route {
	return newRoute(http.MethodGet, path, summary, f)
}

// Post is a call that does something. It needs an editor.
func Post[In, Out any](path, summary string, f func(*Call, In) (Out, error)) Route {
	return newRoute(http.MethodPost, path, summary, f)
}

// Put is a call that replaces. It needs an editor.
func Put[In, Out any](path, summary string, f func(*Call, In) (Out, error)) Route {
	return newRoute(http.MethodPut, path, summary, f)
}

// ForAnyone opens a call to people who are not signed in.
func (r Route) ForAnyone() Route {
	r.Open = true
	return r
}

// For says which role a call needs.
func (r Route) For(role string) Route {
	r.Needs = role
	return r
}

// ForContacts says that a call is for those who may see contacts.
func (r Route) ForContacts() Route {
	r.Needs, r.Contacts = rights.Editor, true
	return r
}

// WithMoment says that a file is of a viewpoint, which its query carries.
func (r Route) WithMoment() Route {
	r.Query = reflect.TypeFor[Moment]()
	return r
}

// Handle answers one request.
func (r Route) Handle(c *gin.Context) { r.handler(c) }

// File makes a Route that answers with a file as it is written, however long.
func File(
	path, summary, kind string,
	f func(*Call) (name string, write func(io.Writer) error, err error),
) Route {
	r := newRoute(http.MethodGet, path, summary, func(*Call, Nothing) (Nothing, error) { return Nothing{}, nil })
	r.Gives = kind
	r.handler = func(c *gin.Context) {
		name, write, err := f(newCall(c))
		if err != nil {
			Fail(c, err)
			return
		}
		h := c.Writer.Header()
		h.Set("Content-Type", kind)
		h.Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
		h.Set("Cache-Control", "no-store")
		first := &bytes.Buffer{} // so that what fails at once is still a problem
		switch err := write(&prefixBuffer{first, c.Writer, 64 << 10}); {
		case err == nil:
			c.Writer.Write(first.Bytes())
		case c.Writer.Size() <= 0:
			h.Del("Content-Disposition")
			Fail(c, err)
		default: // the file breaks off
			slog.Error("a file was not written to its end", "path", c.Request.URL.Path, "error", err)
		}
	}
	return r
}

// A spill holds the first bytes back, and lets all go once there are more.
type prefixBuffer struct {
	prefix *bytes.Buffer
	to     io.Writer
	most   int
}

func (s *prefixBuffer) Write(b []byte) (int, error) {
	if s.prefix.Len()+len(b) <= s.most {
		return s.prefix.Write(b)
	}
	if s.prefix.Len() > 0 {
		if _, err := s.prefix.WriteTo(s.to); err != nil {
			return 0, err
		}
	}
	s.most = 0
	return s.to.Write(b)
}

// read reads a request into a shape: the query of a GET, the JSON body of
// anything else. Unknown fields are errors.
func read(c *gin.Context, in any, limit int64) error {
	if c.Request.Method == http.MethodGet {
		if err := c.ShouldBindQuery(in); err != nil {
			return problem.Problem{Status: http.StatusBadRequest, Title: "Not understood", Detail: err.Error()}
		}
		return nil
	}
	if _, empty := in.(*Nothing); empty {
		return nil
	}
	body, err := io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, limit))
	var tooLarge *http.MaxBytesError
	if errors.As(err, &tooLarge) {
		return problem.Problem{
			Status: http.StatusRequestEntityTooLarge,
			Title:  "Too large",
			Detail: fmt.Sprintf("A request may take %d MB. Shorten it; what was saved before is kept.", limit>>20),
		}
	}
	if err != nil {
		return err
	}
	if f := bundle.Unfit(body); f != nil {
		return fault.Faults{*f}
	}
	if err := bundle.Unmarshal(body, in); err != nil {
		return problem.Problem{
			Status: http.StatusBadRequest,
			Title:  "Not understood",
			Detail: "The request is not what was expected: " + err.Error() + ".",
		}
	}
	return nil
}
