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
	ctx := c.Request.Context()
	if err := a.invitationIsOurs(c, p.Email); err != nil {
		return PeopleList{}, err
	}
	subject, deed, private := "An invitation to Mast Flag", history.Invited.With(p.Email, p.Role), false
	asks := fmt.Sprintf("%s invites you to work on notices as %s.", c.Person.Name, p.Role)
	switch have, err := a.Store.Person(ctx, p.Email); {
	case err == nil && !c.Person.MayTouch(have):
		return PeopleList{}, errOtherSites
	case err == nil: // who is here already keeps name, role and sites
		p, subject, deed, private = have, "A new password for Mast Flag", history.LetIn.With(p.Email), true
		asks = c.Person.Name + " lets you choose a new password. Until you do, the old one holds."
	case !errors.Is(err, store.ErrNotFound):
		return PeopleList{}, err
	}
	token, hash := access.NewToken()
	now := a.Clock.Now()
	body := func(token string) string {
		text := fmt.Sprintf(
			"Hello %s,\n\n%s\nOpen this address within a week and choose a password:\n\n%s/join#%s\n", p.Name, asks, a.Address,
			token,
		)
		return strings.Replace(text, "Hello ,", "Hello,", 1)
	}
	// The token stands in the letter alone: not in the data, nor in its backups.
	letter := letterOf(hash)
	m := store.Message{
		At:      now,
		From:    c.Person.Email,
		To:      p.Email,
		Subject: subject,
		Body:    body("…"),
		Letter:  letter,
		Private: private,
	}
	if err := a.Carrier.Office.Send(letter, mail.Letter{
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
		if err := a.Carrier.Queue(ctx, st, letter, p.Email, now); err != nil {
			return err
		}
		return st.AddHistory(ctx, "", "", store.Entry{At: now, By: c.By(), Deed: deed})
	})
	if err != nil {
		return PeopleList{}, errors.Join(err, a.Carrier.Office.Destroy(letter))
	}
	a.Carrier.Wake()
	a.destroyLetter(before)
	return a.people(c, base.Nothing{})
}

// letterOf is the name of the letter that holds the token of a hash.
func letterOf(hash string) string { return hash[:16] + ".eml" }

// destroyLetter removes the letter of an invitation that no longer holds.
func (a *Area) destroyLetter(i store.Invitation) {
	if i.Token == "" {
		return
	}
	if err := a.Carrier.Office.Destroy(letterOf(i.Token)); err != nil {
		slog.Warn("a letter was not removed", "error", err)
	}
}

// invitationIsOurs refuses to touch an invitation for sites that the asking
// person has not.
func (a *Area) invitationIsOurs(c *base.Call, email string) error {
	i, err := a.Store.InvitationTo(c.Request.Context(), email)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err == nil && !c.Person.MayTouch(i.Person) {
		return errOtherSites
	}
	return err
}

// taken returns the invitation with a token that has not ended.
func (a *Area) taken(c *base.Call, token string) (store.Invitation, error) {
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

func (a *Area) invitation(c *base.Call, in InvitationAsk) (Person, error) {
	i, err := a.taken(c, in.Token)
	return personOf(i.Person), err
}

func (a *Area) join(c *base.Call, in Join) (Person, error) {
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
