package base

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/core/rights"
	"mastflag/internal/observe"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// statusGone is what the log has for a request that nobody waited for (common
// practice; HTTP knows no such status, and nobody gets it).
const statusGone = 499

// Fail answers with the problem that an error is.
func Fail(c *gin.Context, err error) {
	var p problem.Problem
	var faults fault.Faults
	var stale store.Stale
	var unwritable store.Unwritable
	var refused rights.Refusal
	err = store.FileError(err)
	switch {
	case errors.As(err, &p):
	case errors.As(err, &refused):
		p = problem.Problem{
			Status: http.StatusForbidden,
			Title:  refused.What,
			Detail: refused.Remedy + " Nothing was changed.",
		}
	case errors.As(err, &faults):
		p = problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Not saved yet",
			Detail: faults[0].What + ". " + fault.Sentence(faults[0].Remedy),
			Faults: faults,
		}
	case errors.As(err, &stale):
		p = problem.Problem{
			Status: http.StatusConflict,
			Title:  "Changed meanwhile",
			Detail: "Someone else changed this after you opened it. Both texts are kept: theirs is in place, yours is in " +
				"the history.",
			Revision: stale.Is,
		}
	case errors.Is(err, store.ErrNotFound):
		p = problem.Problem{Status: http.StatusNotFound, Title: "Not found", Detail: "It does not exist, or no longer does."}
	case errors.Is(err, store.ErrExists):
		p = problem.Problem{
			Status: http.StatusConflict,
			Title:  "Taken",
			Detail: "This name is taken already. Choose another.",
		}
	case errors.As(err, &unwritable):
		c.Header("Retry-After", "5")
		detail := fmt.Sprintf(
			"Nothing was changed: %s. What was kept before can still be read. Tell whoever runs the program, then try again.",
			unwritable.Why,
		)
		if unwritable.Busy {
			detail = fmt.Sprintf("Nothing was changed: %s. Try again in a few seconds.", unwritable.Why)
		}
		p = problem.Problem{Status: http.StatusServiceUnavailable, Title: "Nothing can be kept now", Detail: detail}
		slog.Error("nothing can be kept", "request", observe.Request(c), "path", c.Request.URL.Path, "error", err)
	case errors.Is(err, context.Canceled):
		p = problem.Problem{Status: statusGone, Title: "Nobody waits", Detail: "Whoever asked has gone."}
	default:
		slog.Error("request failed", "request", observe.Request(c), "path", c.Request.URL.Path, "error", err)
		p = problem.Problem{
			Status: http.StatusInternalServerError,
			Title:  "Something went wrong",
			Detail: "Nothing was changed. Try again; if it happens again, the program's log says more.",
		}
	}
	problem.Write(c, p)
}

// CheckShape returns what in a value breaks the bundle's schema.
func CheckShape(shape string, v any) fault.Faults {
	raw, err := json.Marshal(v)
	if err != nil {
		return fault.Faults{{What: err.Error()}}
	}
	var faults fault.Faults
	errors.As(bundle.Decode(raw, shape, &map[string]any{}), &faults)
	return faults
}

// Done is the outcome of a change that is kept: where showing it fails, the
// problem says that it was done.
func Done[Out any](out Out, err error) (Out, error) {
	if err == nil {
		return out, nil
	}
	if errors.Is(err, context.Canceled) { // whoever made it has left
		return out, err
	}
	slog.Error("a change is kept, but its outcome could not be shown", "error", err)
	return out, problem.Problem{
		Status: http.StatusInternalServerError,
		Title:  "Done, but not shown",
		Detail: "The change was made and is kept. Only showing the outcome failed: load the page again.",
	}
}

// Refuse says that a notice cannot do something now.
func Refuse(detail string) error {
	return problem.Problem{Status: http.StatusConflict, Title: "Not possible now", Detail: detail}
}

// Instant reads an RFC 3339 instant of a request.
func Instant(name, s string) (time.Time, error) {
	t, err := time.Parse(time.RFC3339, s)
	if err != nil {
		return t, problem.Problem{
			Status: http.StatusBadRequest,
			Title:  "Not understood",
			Detail: fmt.Sprintf("%s: %q is not an instant. Write it like 2026-12-04T10:00:00Z.", name, s),
		}
	}
	return t.UTC(), nil
}
