package people

import (
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"mastflag/internal/access"
	"mastflag/internal/admin/base"
	"mastflag/internal/history"
	"mastflag/internal/mail"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// InvitationLasts is how long an invitation can be taken up.
const InvitationLasts = 7 * 24 * time.Hour

func personOf(p store.Person) Person {
	return Person{p.Email, p.Name, p.Role, append([]string{}, p.Sites...), p.Contacts}
}

func (a *Area) invite(c *base.Call, in Person) (PeopleList, error) {
	p, err := a.checkedPerson(c, in)
	if err != nil {
		return PeopleList{}, err
	}
	ctx, now := c.Request.Context(), a.Clock.Now()
	// The token stands in the letter alone: not in the data, nor in its backups.
	token, hash := access.NewToken()
	letter := letterOf(hash)
	var before store.Invitation
	err = a.Together(c, func(st *store.Store) error {
		before, _ = st.InvitationTo(ctx, p.Email)
		invitation, asks, deed, err := a.invitationFor(c, st, p)
		if err != nil {
			return err
		}
		invitation.Token, invitation.Sender, invitation.Ends = hash, c.Person.Email, now.Add(InvitationLasts)
		subject := "An invitation to Mast Flag"
		if invitation.Purpose == store.Password {
			subject = "A new password for Mast Flag"
		}
		hello := strings.TrimSpace("Hello " + invitation.Name)
		body := func(token string) string {
			return fmt.Sprintf("%s,\n\n%s\nOpen this address within a week and choose a password:\n\n%s/join#%s\n",
				hello, asks, a.Address, token)
		}
		if err := a.Carrier.Office.Send(letter, mail.Letter{
			At: now, From: c.Person.Email, To: p.Email, Subject: subject, Body: body(token),
		}); err != nil {
			return err
		}
		if err := st.PutInvitation(ctx, invitation, store.Message{
			At:      now,
			From:    c.Person.Email,
			To:      p.Email,
			Subject: subject,
			Body:    body("…"),
			Letter:  letter,
			Private: invitation.Purpose == store.Password,
		}); err != nil {
			return err
		}
		if err := a.Carrier.Queue(ctx, st, letter, p.Email, now); err != nil {
			return err
		}
		return st.AddHistory(ctx, "", "", store.Entry{At: now, By: c.By(), Deed: deed})
	})
	if err != nil {
		return PeopleList{}, errors.Join(err, a.Carrier.Office.Destroy(letter))
	}
	a.Carrier.Wake()
	a.destroyLetters(before)
	return a.people(c, base.Nothing{})
}

// invitationFor returns the invitation that someone gets, what its letter says of it, and what that is
// called in history. Whoever works here already keeps what they may do; whoever is invited, again
// or for the first time, gets what p says.
func (a *Area) invitationFor(
	c *base.Call, st *store.Store, p store.Person,
) (i store.Invitation, asks string, deed history.Deed, err error) {
	ctx := c.Request.Context()
	have, err := st.Person(ctx, p.Email)
	isNew := errors.Is(err, store.ErrNotFound)
	switch {
	case err != nil && !isNew:
		return i, "", deed, err
	case !isNew && !c.Person.MayTouch(have):
		return i, "", deed, errOtherSites
	case !isNew && have.Password != "":
		return store.Invitation{Person: have, Purpose: store.Password},
			c.Person.Name + " lets you choose a new password. Until you do, the old one holds.",
			history.LetIn.With(p.Email), nil
	case !isNew:
		if _, err := st.RemovePerson(ctx, p.Email, a.Clock.Now()); err != nil {
			return i, "", deed, err
		}
	}
	return store.Invitation{Person: p, Purpose: store.ToJoin},
		fmt.Sprintf("%s invites you to work on notices as %s.", c.Person.Name, p.Role),
		history.Invited.With(p.Email, p.Role), st.AddPerson(ctx, p)
}

// letterOf is the name of the letter that holds the token of a hash.
func letterOf(hash string) string { return hash[:16] + ".eml" }

// destroyLetters removes the letters of invitations that no longer hold.
func (a *Area) destroyLetters(ended ...store.Invitation) {
	for _, i := range ended {
		if i.Token == "" {
			continue
		}
		if err := a.Carrier.Office.Destroy(letterOf(i.Token)); err != nil {
			slog.Warn("a letter was not removed", "error", err)
		}
	}
}

// taken returns the invitation with a token that has not ended.
func (a *Area) taken(c *base.Call, token string) (store.Invitation, error) {
	i, err := a.Store.Invitation(c.Request.Context(), access.HashToken(token))
	if errors.Is(err, store.ErrNotFound) || err == nil && !a.Clock.Now().Before(i.Ends) {
		return i, errOver
	}
	return i, err
}

var errOver = problem.Problem{
	Status: http.StatusGone,
	Title:  "This invitation is over",
	Detail: "It was used or withdrawn, or is older than a week. Ask for a new one.",
}

func (a *Area) invitation(c *base.Call, in InvitationAsk) (Person, error) {
	i, err := a.taken(c, in.Token)
	return personOf(i.Person), err
}

func (a *Area) join(c *base.Call, in Join) (Person, error) {
	i, err := a.taken(c, in.Token)
	if err != nil {
		return Person{}, err
	}
	name := strings.TrimSpace(in.Name)
	if name == "" || len([]rune(name)) > 200 {
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
	hash, err := access.HashPassword(ctx, in.Password)
	if err != nil {
		return Person{}, refusedTry(c, err, problem.Problem{})
	}
	var p store.Person
	err = a.Store.Together(ctx, func(st *store.Store) error {
		if p, err = st.Join(ctx, i.Token, name, hash, a.Clock.Now()); err != nil {
			return err
		}
		return st.AddHistory(ctx, "", "", store.Entry{
			At: a.Clock.Now(), By: store.By{Person: p.Email, Name: p.Name}, Deed: history.Joined.With(p.Role),
		})
	})
	if errors.Is(err, store.ErrNotFound) { // it ended while the password was hashed
		return Person{}, errOver
	}
	if err != nil {
		return Person{}, err
	}
	a.destroyLetters(i)
	return personOf(p), refusedTry(c, a.Access.Begin(ctx, c.Writer, p, a.from(c)), errOver)
}
