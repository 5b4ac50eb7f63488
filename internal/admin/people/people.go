// Package people is who may work here: signing in, invitations, roles, sessions.
package people

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"mastflag/core/rights"
	"mastflag/internal/access"
	"mastflag/internal/admin/base"
	"mastflag/internal/clock"
	"mastflag/internal/history"
	"mastflag/internal/post"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// Area is that part of the API.
type Area struct {
	*base.Base
	Access   *access.Authenticator
	Carrier  *post.Carrier
	Settable *clock.Settable // nil in production
}

// Routes are its calls.
func (a *Area) Routes() []base.Route {
	return []base.Route{
		base.Post("/api/sign-in", "Sign in.", a.signIn).ForAnyone(),
		base.Post("/api/invitation", "What an invitation is to.", a.invitation).ForAnyone(),
		base.Post("/api/join", "Take up an invitation.", a.join).ForAnyone(),
		base.Post("/api/sign-out", "Sign out.", a.signOut).For(rights.Viewer),
		base.Post("/api/me/password", "Change one's own password.", a.changePassword).For(rights.Viewer),
		base.Get("/api/me/sessions", "Where one is signed in.", a.sessions),
		base.Post("/api/me/sessions/end", "Sign out in another browser, or in all others.", a.endSession).
			For(rights.Viewer),
		base.Get("/api/me", "Who is signed in, and the sites there are.", a.me),
		base.Get("/api/people", "Who may work here, and who is invited.", a.people).For(rights.Administrator),
		base.Post("/api/people/invite", "Invite someone.", a.invite).For(rights.Administrator),
		base.Post("/api/people/change", "Change what someone may do.", a.changePerson).For(rights.Administrator),
		base.Post("/api/people/remove", "Take someone off, or an invitation back.", a.removePerson).
			For(rights.Administrator),
		base.Get("/api/mailbox", "What the program sent, and how it went.", a.mailbox).For(rights.Administrator),
		base.Post("/api/clock", "Set the stand-in clock, where there is one.", a.setClock).For(rights.Administrator),
	}
}

func (a *Area) people(c *base.Call, _ base.Nothing) (PeopleList, error) {
	out := PeopleList{People: []Person{}, Invited: []Invited{}}
	people, err := a.Store.People(c.Request.Context())
	if err != nil {
		return out, err
	}
	invitations, err := a.Store.Invitations(c.Request.Context())
	ends := map[string]time.Time{}
	for _, i := range invitations {
		ends[i.Email] = i.Ends
	}
	for _, p := range people {
		switch {
		case !c.Person.MayTouch(p):
		case p.Password == "":
			out.Invited = append(out.Invited, Invited{personOf(p), ends[p.Email], !a.Clock.Now().Before(ends[p.Email])})
		default:
			out.People = append(out.People, personOf(p))
		}
	}
	return out, err
}

// checkedPerson returns someone's details in their usual form, or why they
// cannot be so.
func (a *Area) checkedPerson(c *base.Call, p Person) (store.Person, error) {
	wrong := func(detail string) (store.Person, error) {
		return store.Person{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Not saved",
			Detail: detail,
		}
	}
	email, err := base.MailAddress(p.Email)
	if err != nil {
		return store.Person{}, err
	}
	if !slices.Contains(rights.Roles, p.Role) {
		return wrong(fmt.Sprintf("%q is no role. Choose viewer, editor or administrator.", p.Role))
	}
	if len([]rune(p.Name)) > 200 {
		return wrong("The name is too long: give at most 200 characters.")
	}
	for _, key := range p.Sites {
		if _, err := a.Store.Site(c.Request.Context(), key); err != nil || !c.Person.On(key) {
			return wrong(fmt.Sprintf("There is no site %q that you could give to someone.", key))
		}
	}
	if len(p.Sites) == 0 && len(c.Person.Sites) > 0 {
		return wrong("Choose the sites. You cannot give all of them, since not all are yours.")
	}
	return store.Person{
		Email:    email,
		Name:     strings.TrimSpace(p.Name),
		Role:     p.Role,
		Sites:    p.Sites,
		Contacts: p.Contacts,
	}, nil
}

// errOtherSites refuses to touch people of sites that the asking one has not.
var errOtherSites = problem.Problem{
	Status: http.StatusForbidden,
	Title:  "You do not have permission",
	Detail: "This person works on sites that you do not work on. Ask an administrator. Nothing was changed.",
}

// errLastAdministrator refuses to leave nobody who may set things up.
var errLastAdministrator = problem.Problem{
	Status: http.StatusConflict,
	Title:  "The last administrator",
	Detail: "At least one administrator of all sites has to remain. Make someone else one first.",
}

func (a *Area) changePerson(c *base.Call, in Person) (PeopleList, error) {
	p, err := a.checkedPerson(c, in)
	if err != nil {
		return PeopleList{}, err
	}
	return a.alter(c, p.Email, history.Made.With(p.Email, p.Role), func(st *store.Store) ([]store.Invitation, error) {
		return st.SetRights(c.Request.Context(), p, a.Clock.Now())
	})
}

func (a *Area) removePerson(c *base.Call, in base.Address) (PeopleList, error) {
	email, err := base.MailAddress(in.Email)
	if err != nil {
		return PeopleList{}, err
	}
	return a.alter(c, email, history.TookOff.With(email), func(st *store.Store) ([]store.Invitation, error) {
		return st.RemovePerson(c.Request.Context(), email, a.Clock.Now())
	})
}

// alter changes or removes a person whom the asking one may touch, leaving someone who may set
// things up; change returns the letters that hold no longer.
func (a *Area) alter(
	c *base.Call, email string, deed history.Deed, change func(*store.Store) ([]store.Invitation, error),
) (PeopleList, error) {
	ctx := c.Request.Context()
	var ended []store.Invitation
	err := a.Together(c, func(st *store.Store) error {
		have, err := st.Person(ctx, email)
		if err != nil {
			return err
		}
		if !c.Person.MayTouch(have) {
			return errOtherSites
		}
		if ended, err = change(st); err != nil {
			return err
		}
		all, err := st.People(ctx)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(all, func(p store.Person) bool {
			return p.Role == rights.Administrator && len(p.Sites) == 0 && p.Password != ""
		}) {
			return errLastAdministrator
		}
		return st.AddHistory(ctx, "", "", store.Entry{At: a.Clock.Now(), By: c.By(), Deed: deed})
	})
	if err != nil {
		return PeopleList{}, err
	}
	a.destroyLetters(ended...)
	if email == c.Person.Email { // who may not see the list any more is not told of it
		now, err := a.Store.Person(ctx, email)
		if err != nil || now.Role != rights.Administrator {
			return PeopleList{People: []Person{}, Invited: []Invited{}}, nil
		}
		c.Person = now
	}
	return a.people(c, base.Nothing{})
}

func (a *Area) mailbox(c *base.Call, _ base.Nothing) (Mailbox, error) {
	out := Mailbox{Messages: []Mail{}, Real: a.Carrier.Server != nil}
	from := "" // a message lets its reader in: who has some sites sees their own
	if len(c.Person.Sites) > 0 {
		from = c.Person.Email
	}
	list, err := a.Store.Messages(c.Request.Context(), from)
	for _, m := range list {
		// The way in that an invitation is stands before whoever sent it, that to a
		// new password before whoever it is for, and before nobody else.
		// What contacts are about stands before those who may see contacts.
		mine := m.From == c.Person.Email || m.From == "" && c.Person.Rights().MaySeeContacts()
		if m.Private {
			mine = m.To == c.Person.Email
		}
		if m.Letter != "" && mine {
			if whole, err := a.Carrier.Office.Read(m.Letter); err == nil {
				m.Body = whole
			}
		}
		mail := Mail{ID: m.ID, At: m.At, To: m.To, Subject: m.Subject, Body: m.Body, Private: m.Private}
		if o, err := a.Store.OutgoingOfLetter(c.Request.Context(), m.Letter); m.Letter != "" && err == nil {
			mail.State, mail.Why, mail.Tries = o.State, o.Why, o.Tries
			if o.State == store.OutWaiting {
				mail.Next = &o.Next
			}
		}
		out.Messages = append(out.Messages, mail)
	}
	return out, err
}
