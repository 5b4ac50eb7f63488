// Package admin is the API of the interface, put together from its areas. One
// table of routes serves both the router and the OpenAPI document; handlers
// are plain functions from one shape to another.
package admin

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"

	"mastflag/core/bundle"
	"mastflag/core/rights"
	"mastflag/internal/access"
	"mastflag/internal/admin/alerts"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/consents"
	"mastflag/internal/admin/contacts"
	"mastflag/internal/admin/documents"
	"mastflag/internal/admin/languages"
	"mastflag/internal/admin/library"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/now"
	"mastflag/internal/admin/outcomes"
	"mastflag/internal/admin/people"
	"mastflag/internal/admin/sites"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/clock"
	"mastflag/internal/feeds"
	"mastflag/internal/inspect"
	"mastflag/internal/observe"
	"mastflag/internal/post"
	"mastflag/internal/problem"
	"mastflag/internal/standin"
	"mastflag/internal/store"
	"mastflag/internal/survey"

	"github.com/gin-gonic/gin"
)

// Admin serves the interface's API.
type Admin struct {
	base.Base
	Access   *access.Authenticator
	Post     standin.PostOffice
	Settable *clock.Settable // nil in production
	Survey   *survey.Keeper
	Secret   []byte // signs preview links
	Feeds    *feeds.Keeper
	Weather  *standin.WeatherOffice // nil in production
	Inspect  *inspect.Keeper
	Vendor   *standin.Vendor // nil in production
	Carrier  *post.Carrier
	Receiver *standin.Receiver // nil in production
}

// areas is all there are: whoever adds one adds its folder and its line.
func (a *Admin) areas() []base.Area {
	n := &notices.Area{Base: &a.Base, Secret: a.Secret}
	return []base.Area{
		&people.Area{Base: &a.Base, Access: a.Access, Carrier: a.Carrier, Settable: a.Settable},
		&sites.Area{Base: &a.Base, Survey: a.Survey, Inspect: a.Inspect, Carrier: a.Carrier},
		&library.Area{Base: &a.Base, Survey: a.Survey},
		&now.Area{Base: &a.Base},
		n,
		&languages.Area{Base: &a.Base, Notices: n},
		&alerts.Area{Base: &a.Base, Feeds: a.Feeds, Weather: a.Weather},
		&consents.Area{Base: &a.Base, Inspect: a.Inspect, Vendor: a.Vendor},
		&documents.Area{Base: &a.Base},
		&contacts.Area{Base: &a.Base, Carrier: a.Carrier, Receiver: a.Receiver},
		&outcomes.Area{Base: &a.Base},
	}
}

// Routes is the whole API.
func (a *Admin) Routes() (out []base.Route) {
	for _, area := range a.areas() {
		out = append(out, area.Routes()...)
	}
	return out
}

// Rehearse is what the stage shows of a draft.
func (a *Admin) Rehearse(ctx context.Context, site, notice string) (bundle.Bundle, error) {
	return viewpoint.Rehearse(ctx, a.Store, site, notice)
}

// Mount puts the API on a router. Requests that other sites make in a
// visitor's browser are refused (Sec-Fetch-Site and Origin). The program's own address is
// no other site, even where a proxy in front does not pass on the host that was asked for.
func (a *Admin) Mount(r gin.IRouter) {
	foreign := http.NewCrossOriginProtection()
	if err := foreign.AddTrustedOrigin(a.Address); err != nil {
		slog.Warn("the program's address is no origin", "address", a.Address, "error", err)
	}
	for _, rt := range a.Routes() {
		r.Handle(rt.Method, rt.Path, func(c *gin.Context) {
			if err := foreign.Check(c.Request); err != nil {
				problem.Write(c, problem.Problem{
					Status: http.StatusForbidden,
					Title:  "Refused",
					Detail: "This request came from another site.",
				})
				return
			}
			if rt.Open {
				return
			}
			session, p, err := a.Access.Who(c.Request)
			if errors.Is(err, store.ErrNotFound) {
				problem.Write(c, problem.Problem{
					Status: http.StatusUnauthorized,
					Title:  "Not signed in",
					Detail: "Sign in to go on. Nothing you wrote is lost.",
				})
				return
			}
			if err != nil {
				base.Fail(c, err)
				return
			}
			if key := c.Param("site"); key != "" && !p.On(key) {
				base.Fail(c, store.ErrNotFound)
				return
			}
			if !rights.May(p.Role, rt.Needs) {
				problem.Write(c, problem.Problem{
					Status: http.StatusForbidden,
					Title:  "You do not have permission",
					Detail: fmt.Sprintf(
						"You are signed in as %s; this needs %s. Ask an administrator. Nothing was changed.", p.Role, rt.Needs,
					),
				})
				return
			}
			if rt.Contacts && !p.Rights().MaySeeContacts() {
				problem.Write(c, problem.Problem{
					Status: http.StatusForbidden,
					Title:  "Contacts are not for you",
					Detail: "Administrators see contacts, and editors who were given the right. " +
						"Ask an administrator: Site, People.",
				})
				return
			}
			c.Set("person", p)
			c.Set("session", session)
			if rt.Method != http.MethodGet {
				defer a.did(c, p)
				c.Next()
			}
		}, rt.Handle)
	}
}

// did puts into the log who did what.
func (a *Admin) did(c *gin.Context, p store.Person) {
	slog.Info(
		"did", "request", observe.Request(c), "who", p.Email, "what", c.Request.Method+" "+c.Request.URL.Path, "from",
		a.Sources.Address(c.Request).String(), "status", c.Writer.Status(),
	)
}
