package people

import (
	"bytes"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"math"
	"net/http"
	"strconv"
	"strings"

	"mastflag/internal/access"
	"mastflag/internal/admin/base"
	"mastflag/internal/observe"
	"mastflag/internal/problem"
	"mastflag/internal/sources"
	"mastflag/internal/store"
)

// from is where a call comes from.
func (a *Area) from(c *base.Call) access.From {
	_, system, browser := sources.Agent(c.Request.Header)
	agent := browser
	if system != "" {
		agent = strings.TrimSpace(browser + " on " + system)
	}
	return access.From{Address: a.Sources.Address(c.Request), Agent: base.Truncated(agent, 100)}
}

// refusedTry is the problem that an error of a try with a password is.
func refusedTry(c *base.Call, err error, wrong problem.Problem) error {
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

func (a *Area) signIn(c *base.Call, in Credentials) (Person, error) {
	ctx, from := c.Request.Context(), a.from(c)
	p, err := a.Access.Check(ctx, in.Email, in.Password, from)
	outcome := "done"
	if err != nil {
		outcome = "refused"
	}
	a.Observer.SignIn(outcome)
	slog.Info(
		"sign-in", "request", observe.Request(c.Context), "who", base.Truncated(in.Email, 200), "from", from.Address.String(),
		"outcome", outcome,
	)
	wrong := problem.Problem{
		Status: http.StatusUnauthorized,
		Title:  "Not signed in",
		Detail: "The address or the password is not right.",
	}
	if err != nil {
		return Person{}, refusedTry(c, err, wrong)
	}
	return personOf(p), refusedTry(c, a.Access.Begin(ctx, c.Writer, p, from), wrong)
}

func (a *Area) signOut(c *base.Call, _ base.Nothing) (base.Nothing, error) {
	return base.Nothing{}, a.Access.End(c.Writer, c.Request)
}

func (a *Area) me(c *base.Call, _ base.Nothing) (Me, error) {
	sites, err := a.Store.Sites(c.Request.Context())
	if err != nil {
		return Me{}, err
	}
	me := Me{Person: personOf(c.Person), Sites: []SiteName{}, ClockCanBeSet: a.Settable != nil}
	for _, s := range sites {
		if !c.Person.On(s.Key) {
			continue
		}
		me.Sites = append(me.Sites, SiteName{s.Key, s.Name, s.AllLanguages()})
	}
	return me, nil
}

func (a *Area) setClock(_ *base.Call, in ClockSetting) (base.Nothing, error) {
	if a.Settable == nil {
		return base.Nothing{}, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such clock",
			Detail: "Only the demo's clock can be set.",
		}
	}
	if in.At == "" {
		a.Settable.Reset()
		return base.Nothing{}, nil
	}
	t, err := base.Instant("at", in.At)
	if err == nil {
		a.Settable.Set(t)
	}
	return base.Nothing{}, err
}

func checkPassword(s string) error {
	if n := len([]rune(s)); n < access.MinPassword || n > access.MaxPassword {
		return problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Too short",
			Detail: fmt.Sprintf(
				"A password has %d characters at least, and %d at most. A few words are easy to keep in mind.", access.MinPassword,
				access.MaxPassword,
			),
		}
	}
	return nil
}

func (a *Area) changePassword(c *base.Call, in PasswordChange) (base.Nothing, error) {
	if err := checkPassword(in.New); err != nil {
		return base.Nothing{}, err
	}
	ctx := c.Request.Context()
	p, err := a.Access.CheckAgain(ctx, c.Person.Email, in.Old)
	if err != nil {
		return base.Nothing{}, refusedTry(c, err, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Not changed",
			Detail: "The old password is not right.",
		})
	}
	hash, err := access.HashPassword(ctx, in.New)
	if err != nil {
		return base.Nothing{}, refusedTry(c, err, problem.Problem{})
	}
	var ended []store.Invitation
	err = a.Together(c, func(st *store.Store) error {
		if ended, err = st.SetPassword(ctx, p.Email, p.Password, hash, a.Clock.Now()); err != nil {
			return err
		}
		// Whoever else is signed in with the old one is no longer.
		return st.EndSessions(ctx, p.Email, c.Session.Mark)
	})
	if errors.Is(err, store.ErrNotFound) {
		err = base.Refuse("Your password was changed meanwhile, in another browser or by a letter. Sign in with that one.")
	}
	if err == nil {
		a.destroyLetters(ended...)
	}
	return base.Nothing{}, err
}

func (a *Area) sessions(c *base.Call, _ base.Nothing) (SessionList, error) {
	out := SessionList{Sessions: []SessionCard{}}
	list, err := a.Store.Sessions(c.Request.Context(), c.Person.Email)
	for _, s := range list {
		out.Sessions = append(out.Sessions, SessionCard{
			sessionID(s), s.Began, s.Seen, s.Address, s.Agent, bytes.Equal(s.Mark, c.Session.Mark),
		})
	}
	return out, err
}

// sessionID is what a session is called to its person: of its mark, by which
// nobody gets in.
func sessionID(s store.Session) string { return hex.EncodeToString(s.Mark[:8]) }

func (a *Area) endSession(c *base.Call, in SessionName) (SessionList, error) {
	ctx := c.Request.Context()
	if in.ID == "" {
		if err := a.Store.EndSessions(ctx, c.Person.Email, c.Session.Mark); err != nil {
			return SessionList{}, err
		}
		return a.sessions(c, base.Nothing{})
	}
	list, err := a.Store.Sessions(ctx, c.Person.Email)
	if err != nil {
		return SessionList{}, err
	}
	for _, s := range list {
		if sessionID(s) == in.ID {
			err = a.Store.EndSession(ctx, c.Person.Email, s.Mark)
		}
	}
	if err != nil {
		return SessionList{}, err
	}
	return a.sessions(c, base.Nothing{})
}
