// Package admin is the API of the interface. One table of routes serves both
// the router and the OpenAPI document; handlers are plain functions from one
// shape to another.
package admin

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math"
	"net/http"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"mastflag/core/bundle"
	"mastflag/core/fault"
	"mastflag/internal/access"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/feeds"
	"mastflag/internal/inspect"
	"mastflag/internal/observe"
	"mastflag/internal/problem"
	"mastflag/internal/sources"
	"mastflag/internal/standin"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

// How large a request may be, in bytes.
const (
	MaxBody  = 1 << 20
	MaxFiles = 12 << 20 // one that carries a file
)

// Admin serves the interface's API.
type Admin struct {
	Store    *store.Store
	Hub      *compiled.Hub
	Access   *access.Authenticator
	Sources  *sources.Sources
	Post     standin.PostOffice
	Clock    clock.Clock
	Settable *clock.Settable // nil in production
	Survey   *survey.Keeper
	Secret   []byte // signs preview links
	Base     string // the program's own address, without a slash at its end
	Feeds    *feeds.Keeper
	Weather  *standin.WeatherOffice // nil in production
	Inspect  *inspect.Keeper
	Vendor   *standin.Vendor // nil in production
	Observer *observe.Observer
	found    findingsCache
}

// A Route is one call of the API.
type Route struct {
	Method, Path, Summary string
	In, Out               reflect.Type
	Query                 reflect.Type // what a writing call carries beside its body; nil for nothing
	Open                  bool         // for people who are not signed in
	Needs                 string       // the role that may
	Gives                 string       // the media type of a file that is answered; "" for Out
	max                   int64        // bytes of the body
	handler               gin.HandlerFunc
}

// call is a request with what handlers need of it.
type call struct {
	*gin.Context
	person   store.Person
	session  store.Session
	site     string
	notice   string
	document string
}

func newCall(c *gin.Context) *call {
	cl := &call{Context: c, site: c.Param("site"), notice: c.Param("notice"), document: c.Param("document")}
	if p, ok := c.Get("person"); ok {
		cl.person = p.(store.Person)
	}
	if s, ok := c.Get("session"); ok {
		cl.session = s.(store.Session)
	}
	return cl
}

// moment is the viewpoint that a writing call carries in its query. Its fields
// are texts, which always bind.
func (c *call) moment() (m Moment) {
	_ = c.ShouldBindQuery(&m)
	return m
}

// route makes a Route of a function. In of a GET is read from the query.
func route[In, Out any](a *Admin, method, path, summary string, f func(*call, In) (Out, error)) Route {
	r := Route{
		Method:  method,
		Path:    path,
		Summary: summary,
		In:      reflect.TypeFor[In](),
		Out:     reflect.TypeFor[Out](),
		Needs:   access.Editor,
		max:     MaxBody,
	}
	if method == http.MethodGet {
		r.Needs = access.Viewer
	} else if carriesDetail(r.Out) {
		r.Query = reflect.TypeFor[Moment]()
	}
	if _, file := any(new(In)).(interface{ carriesFile() }); file {
		r.max = MaxFiles
	}
	r.handler = func(c *gin.Context) {
		var in In
		if err := read(c, &in, r.max); err != nil {
			fail(c, err)
			return
		}
		out, err := f(newCall(c), in)
		if err != nil {
			fail(c, err)
			return
		}
		c.Writer.Header().Set("Cache-Control", "no-store")
		c.JSON(http.StatusOK, out)
	}
	return r
}

// carriesDetail reports whether an answer says what holds of a notice at a viewpoint, which
// a writing call then carries in its query.
func carriesDetail(out reflect.Type) bool {
	detail := reflect.TypeFor[NoticeDetail]()
	return out == detail || out.Kind() == reflect.Struct &&
		slices.ContainsFunc(reflect.VisibleFields(out), func(f reflect.StructField) bool { return f.Type == detail })
}

// Routes is the whole API.
func (a *Admin) Routes() []Route {
	open := func(r Route) Route { r.Open = true; return r }
	needs := func(role string, r Route) Route { r.Needs = role; return r }
	owner := func(r Route) Route { return needs(access.Administrator, r) }
	return []Route{
		open(route(a, "POST", "/api/sign-in", "Sign in.", a.signIn)),
		open(route(a, "POST", "/api/invitation", "What an invitation is to.", a.invitation)),
		open(route(a, "POST", "/api/join", "Take up an invitation.", a.join)),
		needs(access.Viewer, route(a, "POST", "/api/sign-out", "Sign out.", a.signOut)),
		needs(access.Viewer, route(a, "POST", "/api/me/password", "Change one's own password.", a.changePassword)),
		route(a, "GET", "/api/me/sessions", "Where one is signed in.", a.sessions),
		needs(
			access.Viewer,
			route(a, "POST", "/api/me/sessions/end", "Sign out in another browser, or in all others.", a.endSession),
		),
		route(a, "GET", "/api/me", "Who is signed in, and the sites there are.", a.me),
		route(a, "GET", "/api/icons", "Icons for notices, by what they show.", a.icons),
		owner(route(a, "GET", "/api/people", "Who may work here, and who is invited.", a.people)),
		owner(route(a, "POST", "/api/people/invite", "Invite someone.", a.invite)),
		owner(route(a, "POST", "/api/people/change", "Change what someone may do.", a.changePerson)),
		owner(route(a, "POST", "/api/people/remove", "Take someone off, or an invitation back.", a.removePerson)),
		owner(route(a, "GET", "/api/mailbox", "The stand-in mailbox: what the program sent.", a.mailbox)),
		owner(route(a, "POST", "/api/clock", "Set the stand-in clock, where there is one.", a.setClock)),
		route(a, "GET", "/api/facts", "What audiences can ask about, and visitors to try them on.", a.facts),
		route(a, "GET", "/api/contrast", "How well words read on a field.", a.contrast),
		owner(route(a, "POST", "/api/sites", "Begin with a site.", a.newSite)),
		route(a, "GET", "/api/sites/:site", "A site, its snippet and its known pages.", a.siteDetail),
		route(a, "PUT", "/api/sites/:site", "Change a site.", a.changeSite),
		owner(route(a, "POST", "/api/sites/:site/send", "Send the snippet to a colleague.", a.sendSnippet)),
		route(a, "GET", "/api/sites/:site/activity", "Who did what on a site.", a.activity),
		owner(route(a, "GET", "/api/sites/:site/styles", "Colours and fonts found in the site's own styles.", a.styles)),
		route(a, "GET", "/api/sites/:site/starting", "What a notice can be begun with.", a.starting),
		route(a, "GET", "/api/sites/:site/images", "The site's images.", a.images),
		route(a, "POST", "/api/sites/:site/images", "Keep an image.", a.addImage),
		route(a, "POST", "/api/sites/:site/images/remove", "Remove an image.", a.removeImage),
		route(a, "GET", "/api/sites/:site/xliff", "Texts for a translator, XLIFF 2.1.", a.writeXLIFF),
		route(a, "POST", "/api/sites/:site/xliff", "Texts back from a translator.", a.readXLIFF),
		route(a, "POST", "/api/sites/:site/pause", "Pause everything that is out, or resume what that paused.", a.pauseAll),
		route(a, "GET", "/api/sites/:site/table", "Which page carries which notice, over a time.", a.table),
		owner(route(a, "POST", "/api/sites/:site/display", "Set the master switch.", a.display)),
		route(
			a, "POST", "/api/sites/:site/survey",
			"Read the site's pages, as its sitemaps list them, and look for the snippet; or resume that.", a.survey,
		),
		route(
			a, "GET", "/api/sites/:site/survey", "How far the reading of the site's pages is, or what became of the last.",
			a.surveyState,
		),
		route(
			a, "POST", "/api/sites/:site/survey/stop",
			"Stop reading the site's pages; what was read is kept, and it can be resumed.", a.stopSurvey,
		),
		route(a, "GET", "/api/sites/:site/alerts", "What comes by feeds, and where the site's own alerts go out.", a.alerts),
		route(a, "POST", "/api/sites/:site/alerts/give", "Take in a CAP message or an Atom feed by hand.", a.giveAlert),
		route(a, "POST", "/api/sites/:site/alerts/approve", "Let a message through.", a.approveAlert),
		route(a, "POST", "/api/sites/:site/alerts/refuse", "Keep a message from the site.", a.refuseAlert),
		route(a, "POST", "/api/sites/:site/alerts/ask", "Ask a feed now.", a.askFeed),
		owner(route(a, "POST", "/api/sites/:site/alerts/calendar", "Give the calendar a new address.", a.newCalendar)),
		route(
			a, "GET", "/api/sites/:site/consent", "What the site sets, asks and was answered, and what places want.", a.consent,
		),
		route(a, "POST", "/api/sites/:site/consent/inspect", "Begin to inspect the site.", a.startInspection),
		route(a, "POST", "/api/sites/:site/consent/stop", "Stop the inspection; what it found is kept.", a.stopInspection),
		route(
			a, "POST", "/api/sites/:site/consent/inventory", "Read an inventory as CSV; nothing is kept yet.", a.readInventory,
		),
		stream(
			a, "/api/sites/:site/consent/inventory.csv", "The inventory as CSV.", "text/csv; charset=utf-8", a.writeInventory,
		),
		route(a, "GET", "/api/sites/:site/consent/trends", "What became of the questions.", a.trends),
		route(
			a, "GET", "/api/sites/:site/consent/records", "The records of answers, the latest first, or those of an id.",
			a.records,
		),
		route(a, "GET", "/api/sites/:site/consent/shown", "What was shown to whoever answered.", a.shownTo),
		route(a, "POST", "/api/sites/:site/consent/verify", "Prove that the chain of records is whole.", a.verifyRecords),
		stream(a, "/api/sites/:site/consent/records.csv", "All records as CSV.", "text/csv; charset=utf-8", a.recordTable),
		stream(
			a, "/api/sites/:site/consent/records.jsonl", "The chain of records as JSON Lines.", "application/jsonl",
			a.recordLines,
		),
		route(a, "GET", "/api/sites/:site/documents", "The site's documents in short.", a.documents),
		route(a, "POST", "/api/sites/:site/documents", "Begin a document.", a.newDocument),
		route(
			a, "GET", "/api/sites/:site/documents/:document", "A document: questions, text, what it has to say, versions.",
			a.documentDetail,
		),
		route(
			a, "PUT", "/api/sites/:site/documents/:document", "Change a document's answers and sections.", a.changeDocument,
		),
		route(
			a, "POST", "/api/sites/:site/documents/:document/publish", "Publish the next version of a document.",
			a.publishDocument,
		),
		route(a, "POST", "/api/sites/:site/documents/:document/link", "Have a notice lead to a document.", a.linkDocument),
		route(
			a, "POST", "/api/sites/:site/documents/:document/delete", "Remove a document that nothing leads to.",
			a.deleteDocument,
		),
		route(a, "GET", "/api/sites/:site/documents/:document/file", "A document to take away.", a.takeAway),
		route(a, "GET", "/api/sites/:site/acknowledgements", "What became of the site's disclaimers.", a.acknowledgements),
		route(a, "POST", "/api/standin/vendor", "Switch the demo site's badly behaved vendor.", a.badVendor),
		route(a, "POST", "/api/standin/weather", "Have the stand-in weather office publish something.", a.sendWeather),
		route(a, "GET", "/api/sites/:site/view", "Everything that is so at a viewpoint.", a.view),
		owner(route(a, "POST", "/api/code", "Read code for pages as it is written.", a.checkCode)),
		route(a, "GET", "/api/sites/:site/blocks", "The site's blocks and code, with where they are.", a.blocks),
		route(a, "GET", "/api/sites/:site/names", "The site's notices in short, by title.", a.names),
		route(a, "GET", "/api/sites/:site/carried", "Which notices each known page carries at a moment.", a.carried),
		route(a, "POST", "/api/sites/:site/notices", "Begin a notice.", a.newNotice),
		route(a, "GET", "/api/sites/:site/notices/:notice", "A notice.", a.noticeDetail),
		route(a, "PUT", "/api/sites/:site/notices/:notice", "Change a notice's draft.", a.changeNotice),
		route(a, "GET", "/api/sites/:site/notices/:notice/history", "A notice's life.", a.history),
		route(
			a, "GET", "/api/sites/:site/notices/:notice/html", "A notice as HTML and CSS to paste, without script.", a.plain,
		),
		route(
			a, "POST", "/api/sites/:site/notices/:notice/translate",
			"Have a draft translated; nobody gets it before it is read.", a.translate,
		),
		route(a, "POST", "/api/sites/:site/notices/:notice/end", "Give what is out an end.", a.endAt),
		route(a, "POST", "/api/sites/:site/notices/:notice/publish", "Publish the draft.", a.publish),
		route(a, "POST", "/api/sites/:site/notices/:notice/pause", "Take it off for a while.", a.pause),
		route(a, "POST", "/api/sites/:site/notices/:notice/resume", "Show it again.", a.resume),
		route(a, "POST", "/api/sites/:site/notices/:notice/unpublish", "Take it off and make it a draft.", a.unpublish),
		route(a, "POST", "/api/sites/:site/notices/:notice/republish", "Undo unpublishing.", a.republish),
		route(a, "POST", "/api/sites/:site/notices/:notice/place", "Take it off a page, or put it on one.", a.place),
		route(a, "POST", "/api/sites/:site/notices/:notice/discard", "Drop the draft; what is out stays.", a.discard),
		route(a, "POST", "/api/sites/:site/notices/:notice/restore", "Make a draft of an earlier text.", a.restore),
		route(a, "POST", "/api/sites/:site/notices/:notice/delete", "Delete it.", a.delete),
		route(a, "POST", "/api/sites/:site/notices/:notice/undelete", "Bring it back.", a.undelete),
		route(
			a, "POST", "/api/sites/:site/notices/:notice/preview", "A link that shows the draft on the real site for a while.",
			a.previewLink,
		),
	}
}

// Mount puts the API on a router. Requests that other sites make in a
// visitor's browser are refused (Sec-Fetch-Site and Origin).
func (a *Admin) Mount(r gin.IRouter) {
	foreign := http.NewCrossOriginProtection()
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
				fail(c, err)
				return
			}
			if key := c.Param("site"); key != "" && !p.On(key) {
				fail(c, store.ErrNotFound)
				return
			}
			if !access.May(p.Role, rt.Needs) {
				problem.Write(c, problem.Problem{
					Status: http.StatusForbidden,
					Title:  "You do not have permission",
					Detail: fmt.Sprintf(
						"You are signed in as %s; this needs %s. Ask an administrator. Nothing was changed.", p.Role, rt.Needs,
					),
				})
				return
			}
			c.Set("person", p)
			c.Set("session", session)
			if rt.Method != http.MethodGet {
				defer a.did(c, p)
				c.Next()
			}
		}, rt.handler)
	}
}

// did puts into the log who did what.
func (a *Admin) did(c *gin.Context, p store.Person) {
	slog.Info(
		"did", "request", observe.Request(c), "who", p.Email, "what", c.Request.Method+" "+c.Request.URL.Path, "from",
		a.Sources.Address(c.Request).String(), "status", c.Writer.Status(),
	)
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

// statusGone is what the log has for a request that nobody waited for (common
// practice; HTTP knows no such status, and nobody gets it).
const statusGone = 499

// fail answers with the problem that an error is.
func fail(c *gin.Context, err error) {
	var p problem.Problem
	var faults fault.Faults
	var stale store.Stale
	var unwritable store.Unwritable
	switch {
	case errors.As(err, &p):
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

// from is where a call comes from.
func (a *Admin) from(c *call) access.From {
	_, system, browser := sources.Agent(c.Request.Header)
	agent := browser
	if system != "" {
		agent = strings.TrimSpace(browser + " on " + system)
	}
	return access.From{Address: a.Sources.Address(c.Request), Agent: truncated(agent, 100)}
}

// refusedTry is the problem that an error of a try with a password is.
func refusedTry(c *call, err error, wrong problem.Problem) error {
	var many access.TooMany
	switch {
	case errors.Is(err, access.ErrWrong):
		return wrong
	case errors.As(err, &many):
		seconds := int(math.Ceil(many.Wait.Seconds()))
		c.Header("Retry-After", strconv.Itoa(seconds))
		return problem.Problem{
			Status: http.StatusTooManyRequests,
			Title:  "Too many tries",
			Detail: fmt.Sprintf("The password was wrong too often. Wait %s, then try again.", waitWords(seconds)),
		}
	case errors.Is(err, access.ErrBusy):
		c.Header("Retry-After", "10")
		return problem.Problem{
			Status: http.StatusServiceUnavailable,
			Title:  "Busy",
			Detail: "Too many people are signing in at once. Wait 10 seconds, then try again.",
		}
	}
	return err
}

// waitWords says how long to wait.
func waitWords(seconds int) string {
	switch minutes := (seconds + 59) / 60; {
	case seconds == 1:
		return "a second"
	case seconds <= 90:
		return fmt.Sprintf("%d seconds", seconds)
	default:
		return fmt.Sprintf("%d minutes", minutes)
	}
}

func (a *Admin) signIn(c *call, in Credentials) (Person, error) {
	ctx, from := c.Request.Context(), a.from(c)
	p, err := a.Access.Check(ctx, in.Email, in.Password, from)
	outcome := "done"
	if err != nil {
		outcome = "refused"
	}
	a.Observer.SignIn(outcome)
	slog.Info(
		"sign-in", "request", observe.Request(c.Context), "who", truncated(in.Email, 200), "from", from.Address.String(),
		"outcome", outcome,
	)
	if err != nil {
		return Person{}, refusedTry(c, err, problem.Problem{
			Status: http.StatusUnauthorized,
			Title:  "Not signed in",
			Detail: "The address or the password is not right.",
		})
	}
	return personOf(p), a.Access.Begin(ctx, c.Writer, p, from)
}

func (a *Admin) signOut(c *call, _ Nothing) (Nothing, error) {
	return Nothing{}, a.Access.End(c.Writer, c.Request)
}

func (a *Admin) me(c *call, _ Nothing) (Me, error) {
	sites, err := a.Store.Sites(c.Request.Context())
	if err != nil {
		return Me{}, err
	}
	me := Me{Person: personOf(c.person), Sites: []SiteName{}, ClockCanBeSet: a.Settable != nil}
	for _, s := range sites {
		if !c.person.On(s.Key) {
			continue
		}
		me.Sites = append(me.Sites, SiteName{s.Key, s.Name, s.AllLanguages()})
	}
	return me, nil
}

func (a *Admin) setClock(_ *call, in ClockSetting) (Nothing, error) {
	if a.Settable == nil {
		return Nothing{}, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such clock",
			Detail: "Only the demo's clock can be set.",
		}
	}
	if in.At == "" {
		a.Settable.Reset()
		return Nothing{}, nil
	}
	t, err := instant("at", in.At)
	if err == nil {
		a.Settable.Set(t)
	}
	return Nothing{}, err
}

// instant reads an RFC 3339 instant of a request.
func instant(name, s string) (time.Time, error) {
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
