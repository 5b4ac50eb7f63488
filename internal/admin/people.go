package admin

import (
	"bytes"
	"cmp"
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/mail"
	"slices"
	"strings"
	"time"

	"mastflag/internal/access"
	"mastflag/internal/delivery"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// InvitationLasts is how long an invitation can be taken up.
const InvitationLasts = 7 * 24 * time.Hour

func personOf(p store.Person) Person {
	return Person{p.Email, p.Name, p.Role, append([]string{}, p.Sites...)}
}

func (a *Admin) people(c *call, _ Nothing) (PeopleList, error) {
	out := PeopleList{People: []Person{}, Invited: []Invited{}}
	people, err := a.Store.People(c.Request.Context())
	if err != nil {
		return out, err
	}
	for _, p := range people {
		if c.person.MayTouch(p) {
			out.People = append(out.People, personOf(p))
		}
	}
	invited, err := a.Store.Invitations(c.Request.Context())
	for _, i := range invited {
		if c.person.MayTouch(i.Person) {
			out.Invited = append(out.Invited, Invited{personOf(i.Person), i.Ends})
		}
	}
	return out, err
}

// checkedPerson returns someone's details in their usual form, or why they
// cannot be so.
func (a *Admin) checkedPerson(c *call, p Person) (store.Person, error) {
	wrong := func(detail string) (store.Person, error) {
		return store.Person{}, problem.Problem{Status: http.StatusUnprocessableEntity, Title: "Not saved", Detail: detail}
	}
	email, err := address(p.Email)
	if err != nil {
		return store.Person{}, err
	}
	if !slices.Contains(access.Roles, p.Role) {
		return wrong(fmt.Sprintf("%q is no role. Choose viewer, editor or administrator.", p.Role))
	}
	if len([]rune(p.Name)) > 200 {
		return wrong("The name is too long: give at most 200 characters.")
	}
	for _, key := range p.Sites {
		if _, err := a.Store.Site(c.Request.Context(), key); err != nil || !c.person.On(key) {
			return wrong(fmt.Sprintf("There is no site %q that you could give to someone.", key))
		}
	}
	if len(p.Sites) == 0 && len(c.person.Sites) > 0 {
		return wrong("Choose the sites. You cannot give all of them, since not all are yours.")
	}
	return store.Person{Email: email, Name: strings.TrimSpace(p.Name), Role: p.Role, Sites: p.Sites}, nil
}

// address returns a mail address as it is kept.
func address(s string) (string, error) {
	m, err := mail.ParseAddress(strings.TrimSpace(s))
	if err != nil || m.Name != "" || !strings.Contains(m.Address, "@") {
		return "", problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Not an address",
			Detail: fmt.Sprintf("%q is not a mail address. Write it like ines@example.org.", s),
		}
	}
	return strings.ToLower(m.Address), nil
}

func (a *Admin) invite(c *call, in Person) (PeopleList, error) {
	p, err := a.checkedPerson(c, in)
	if err != nil {
		return PeopleList{}, err
	}
	ctx := c.Request.Context()
	if err := a.invitationIsOurs(c, p.Email); err != nil {
		return PeopleList{}, err
	}
	subject, deed, private := "An invitation to Mast Flag", history.Invited.With(p.Email, p.Role), false
	asks := fmt.Sprintf("%s invites you to work on notices as %s.", c.person.Name, p.Role)
	switch have, err := a.Store.Person(ctx, p.Email); {
	case err == nil && !c.person.MayTouch(have):
		return PeopleList{}, errOtherSites
	case err == nil: // who is here already keeps name, role and sites
		p, subject, deed, private = have, "A new password for Mast Flag", history.LetIn.With(p.Email), true
		asks = c.person.Name + " lets you choose a new password. Until you do, the old one holds."
	case !errors.Is(err, store.ErrNotFound):
		return PeopleList{}, err
	}
	token, hash := access.NewToken()
	now := a.Clock.Now()
	body := func(token string) string {
		text := fmt.Sprintf(
			"Hello %s,\n\n%s\nOpen this address within a week and choose a password:\n\n%s/join#%s\n", p.Name, asks, a.Base,
			token,
		)
		return strings.Replace(text, "Hello ,", "Hello,", 1)
	}
	// The token stands in the letter alone: not in the data, nor in its backups.
	letter := letterOf(hash)
	m := store.Message{
		At:      now,
		From:    c.person.Email,
		To:      p.Email,
		Subject: subject,
		Body:    body("…"),
		Letter:  letter,
		Private: private,
	}
	if err := a.Post.Send(letter, standin.Letter{
		At:      now,
		From:    m.From,
		To:      m.To,
		Subject: m.Subject,
		Body:    body(token),
	}); err != nil {
		return PeopleList{}, err
	}
	before, _ := a.Store.InvitationTo(ctx, p.Email)
	err = a.Store.Together(ctx, func(st *store.Store) error {
		if err := st.PutInvitation(ctx, store.Invitation{
			Person: p,
			Token:  hash,
			Ends:   now.Add(InvitationLasts),
		}, m); err != nil {
			return err
		}
		return st.AddHistory(ctx, "", "", store.Entry{At: now, By: c.by(), Deed: deed})
	})
	if err != nil {
		return PeopleList{}, errors.Join(err, a.Post.Destroy(letter))
	}
	a.destroyLetter(before)
	return a.people(c, Nothing{})
}

// letterOf is the name of the letter that holds the token of a hash.
func letterOf(hash string) string { return hash[:16] + ".eml" }

// destroyLetter removes the letter of an invitation that no longer holds.
func (a *Admin) destroyLetter(i store.Invitation) {
	if i.Token == "" {
		return
	}
	if err := a.Post.Destroy(letterOf(i.Token)); err != nil {
		slog.Warn("a letter was not removed", "error", err)
	}
}

// invitationIsOurs refuses to touch an invitation for sites that the asking
// person has not.
func (a *Admin) invitationIsOurs(c *call, email string) error {
	i, err := a.Store.InvitationTo(c.Request.Context(), email)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err == nil && !c.person.MayTouch(i.Person) {
		return errOtherSites
	}
	return err
}

// taken returns the invitation with a token that has not ended.
func (a *Admin) taken(c *call, token string) (store.Invitation, error) {
	i, err := a.Store.Invitation(c.Request.Context(), access.HashToken(token))
	if errors.Is(err, store.ErrNotFound) || err == nil && !a.Clock.Now().Before(i.Ends) {
		return i, problem.Problem{
			Status: http.StatusGone,
			Title:  "This invitation is over",
			Detail: "It was used or withdrawn, or is older than a week. Ask for a new one.",
		}
	}
	return i, err
}

func (a *Admin) invitation(c *call, in InvitationAsk) (Person, error) {
	i, err := a.taken(c, in.Token)
	return personOf(i.Person), err
}

func (a *Admin) join(c *call, in Join) (Person, error) {
	i, err := a.taken(c, in.Token)
	if err != nil {
		return Person{}, err
	}
	p := i.Person
	p.Name = strings.TrimSpace(in.Name)
	if p.Name == "" || len([]rune(p.Name)) > 200 {
		return Person{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "No name",
			Detail: "Say what the others are to call you, in 1 to 200 characters.",
		}
	}
	if err := checkPassword(in.Password); err != nil {
		return Person{}, err
	}
	ctx := c.Request.Context()
	if p.Password, err = access.HashPassword(ctx, in.Password); err != nil {
		return Person{}, refusedTry(c, err, problem.Problem{})
	}
	err = a.Store.Together(ctx, func(st *store.Store) error {
		if err := st.TakeInvitation(ctx, i.Token, p); err != nil {
			return err
		}
		return st.AddHistory(ctx, "", "", store.Entry{
			At: a.Clock.Now(), By: store.By{Person: p.Email, Name: p.Name}, Deed: history.Joined.With(p.Role),
		})
	})
	if err != nil {
		return Person{}, err
	}
	a.destroyLetter(i)
	return personOf(p), a.Access.Begin(ctx, c.Writer, p, a.from(c))
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

func (a *Admin) changePassword(c *call, in PasswordChange) (Nothing, error) {
	if err := checkPassword(in.New); err != nil {
		return Nothing{}, err
	}
	ctx := c.Request.Context()
	p, err := a.Access.CheckAgain(ctx, c.person.Email, in.Old)
	if err != nil {
		return Nothing{}, refusedTry(c, err, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Not changed",
			Detail: "The old password is not right.",
		})
	}
	if p.Password, err = access.HashPassword(ctx, in.New); err != nil {
		return Nothing{}, refusedTry(c, err, problem.Problem{})
	}
	return Nothing{}, a.Store.Together(ctx, func(st *store.Store) error {
		if err := st.PutPerson(ctx, p); err != nil {
			return err
		}
		// Whoever else is signed in with the old one is no longer.
		return st.EndSessions(ctx, p.Email, c.session.Mark)
	})
}

func (a *Admin) sessions(c *call, _ Nothing) (SessionList, error) {
	out := SessionList{Sessions: []SessionCard{}}
	list, err := a.Store.Sessions(c.Request.Context(), c.person.Email)
	for _, s := range list {
		out.Sessions = append(out.Sessions, SessionCard{
			sessionID(s), s.Began, s.Seen, s.Address, s.Agent, bytes.Equal(s.Mark, c.session.Mark),
		})
	}
	return out, err
}

// sessionID is what a session is called to its person: of its mark, by which
// nobody gets in.
func sessionID(s store.Session) string { return hex.EncodeToString(s.Mark[:8]) }

func (a *Admin) endSession(c *call, in SessionName) (SessionList, error) {
	ctx := c.Request.Context()
	if in.ID == "" {
		if err := a.Store.EndSessions(ctx, c.person.Email, c.session.Mark); err != nil {
			return SessionList{}, err
		}
		return a.sessions(c, Nothing{})
	}
	list, err := a.Store.Sessions(ctx, c.person.Email)
	if err != nil {
		return SessionList{}, err
	}
	for _, s := range list {
		if sessionID(s) == in.ID {
			err = a.Store.EndSession(ctx, c.person.Email, s.Mark)
		}
	}
	if err != nil {
		return SessionList{}, err
	}
	return a.sessions(c, Nothing{})
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

func (a *Admin) changePerson(c *call, in Person) (PeopleList, error) {
	p, err := a.checkedPerson(c, in)
	if err != nil {
		return PeopleList{}, err
	}
	err = a.replacePeople(c, a.Store, p.Email, func(have store.Person) []store.Person {
		have.Role, have.Sites = p.Role, p.Sites
		return []store.Person{have}
	}, history.Made.With(p.Email, p.Role))
	if err != nil {
		return PeopleList{}, err
	}
	return a.people(c, Nothing{})
}

func (a *Admin) removePerson(c *call, in Address) (PeopleList, error) {
	email, err := address(in.Email)
	if err != nil {
		return PeopleList{}, err
	}
	if err := a.invitationIsOurs(c, email); err != nil {
		return PeopleList{}, err
	}
	ctx := c.Request.Context()
	invited, _ := a.Store.InvitationTo(ctx, email)
	err = a.Store.Together(ctx, func(st *store.Store) error {
		if err := st.DropInvitation(ctx, email); err != nil {
			return err
		}
		err := a.replacePeople(c, st, email, func(store.Person) []store.Person { return nil }, history.TookOff.With(email))
		if errors.Is(err, store.ErrNotFound) { // there was an invitation at most
			return nil
		}
		return err
	})
	if err != nil {
		return PeopleList{}, err
	}
	a.destroyLetter(invited)
	return a.people(c, Nothing{})
}

// replacePeople puts others, or nobody, in place of a person.
func (a *Admin) replacePeople(
	c *call,
	st *store.Store,
	email string,
	by func(store.Person) []store.Person,
	deed history.Deed,
) error {
	ctx := c.Request.Context()
	return st.Together(ctx, func(st *store.Store) error {
		err := st.ChangePeople(ctx, func(all []store.Person) ([]store.Person, error) {
			i := slices.IndexFunc(all, func(p store.Person) bool { return p.Email == email })
			if i < 0 {
				return nil, store.ErrNotFound
			}
			if !c.person.MayTouch(all[i]) {
				return nil, errOtherSites
			}
			all = slices.Replace(all, i, i+1, by(all[i])...)
			if !slices.ContainsFunc(
				all, func(p store.Person) bool { return p.Role == access.Administrator && len(p.Sites) == 0 },
			) {
				return nil, errLastAdministrator
			}
			return all, nil
		})
		if err != nil {
			return err
		}
		return st.AddHistory(ctx, "", "", store.Entry{At: a.Clock.Now(), By: c.by(), Deed: deed})
	})
}

func (a *Admin) mailbox(c *call, _ Nothing) (Mailbox, error) {
	out := Mailbox{Messages: []Mail{}}
	from := "" // a message lets its reader in: who has some sites sees their own
	if len(c.person.Sites) > 0 {
		from = c.person.Email
	}
	list, err := a.Store.Messages(c.Request.Context(), from)
	for _, m := range list {
		// The way in that an invitation is stands before whoever sent it, that to a
		// new password before whoever it is for, and before nobody else.
		if mine := m.From; m.Letter != "" {
			if m.Private {
				mine = m.To
			}
			if whole, err := a.Post.Read(m.Letter); err == nil && mine == c.person.Email {
				m.Body = whole
			}
		}
		out.Messages = append(out.Messages, Mail{m.ID, m.At, m.To, m.Subject, m.Body, m.Private})
	}
	return out, err
}

func (a *Admin) sendSnippet(c *call, in Address) (Nothing, error) {
	email, err := address(in.Email)
	if err != nil {
		return Nothing{}, err
	}
	site, err := a.Store.Site(c.Request.Context(), c.site)
	if err != nil {
		return Nothing{}, err
	}
	s := delivery.NewSnippet(a.Base, c.site)
	body := fmt.Sprintf(
		"Hello,\n\n%s asks you to paste these two lines into the head of every page of %s,\nor into the template that all "+
			"pages share:\n\n%s\n\nA Content-Security-Policy lists %s in script-src, connect-src and img-src, and %s in "+
			"script-src.\n",
		c.person.Name, site.Name, s.HTML(), a.Base, s.Source(),
	)
	return Nothing{}, a.Store.AddMessage(c.Request.Context(), store.Message{
		At:      a.Clock.Now(),
		From:    c.person.Email,
		To:      email,
		Subject: "Two lines for " + site.Name,
		Body:    body,
	})
}

// peopleNames are what people are called now, by e-mail address.
type peopleNames map[string]string

func (a *Admin) peopleNames(ctx context.Context) (peopleNames, error) {
	people, err := a.Store.People(ctx)
	out := peopleNames{}
	for _, p := range people {
		out[p.Email] = p.Name
	}
	return out, err
}

// of returns the name of who did something; as it was then, of who is no longer here.
func (n peopleNames) of(b store.By) string { return cmp.Or(n[b.Person], b.Name) }

// by is the person of the call, as history keeps it.
func (c *call) by() store.By { return store.By{Person: c.person.Email, Name: c.person.Name} }

func (a *Admin) activity(c *call, in ActivityAsk) (Activity, error) {
	ctx := c.Request.Context()
	out := Activity{Deeds: []Deed{}, People: []Doer{}}
	rows, err := a.Store.Notices(ctx, c.site)
	if err != nil {
		return out, err
	}
	titles := map[string]string{}
	for _, r := range rows {
		titles[r.ID] = r.Working().GetTitle()
	}
	people := access.May(c.person.Role, access.Administrator) && len(c.person.Sites) == 0
	names, err := a.peopleNames(ctx)
	if err != nil {
		return out, err
	}
	deeds, err := a.Store.Activity(ctx, c.site, in.Who, people)
	if err != nil {
		return out, err
	}
	for _, d := range deeds {
		out.Deeds = append(out.Deeds, Deed{
			d.ID, d.At, names.of(d.By), d.Deed.String(), d.Notice, titles[d.Notice], d.Line,
		})
	}
	all := deeds
	if in.Who != "" {
		if all, err = a.Store.Activity(ctx, c.site, "", people); err != nil {
			return out, err
		}
	}
	for _, d := range all {
		doer := Doer{d.By.ID(), names.of(d.By)}
		if !slices.Contains(out.People, doer) {
			out.People = append(out.People, doer)
		}
	}
	slices.SortFunc(
		out.People, func(a, b Doer) int { return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.ID, b.ID)) },
	)
	return out, nil
}
