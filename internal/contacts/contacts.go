// Package contacts keeps what visitors filled in, and sees to what goes out because of it.
package contacts

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
	"time"

	"mastflag/core/form"
	"mastflag/internal/allowance"
	"mastflag/internal/gather"
	"mastflag/internal/store"
)

// ConfirmLasts is for how long an address can be confirmed; what nobody confirms is then erased.
const ConfirmLasts = 7 * 24 * time.Hour

// A Keeper keeps contacts, many in one write, and none is acknowledged before it is kept. It
// needs no start and no stop.
type Keeper struct {
	*store.Store
	// Called when something is to go out.
	Wake func()
	// Letters that have addresses confirmed.
	letters allowance.Limits
	queue   *gather.Queue[store.NewContact]
}

// NewKeeper returns a keeper that writes to the store.
func NewKeeper(st *store.Store) *Keeper {
	return &Keeper{Store: st, Wake: func() {}, queue: gather.NewQueue(st.AddContacts)}
}

// How many letters have addresses confirmed: so that a form cannot be used to flood somebody's
// mailbox, nor the mail server. An address is the same whatever stands behind a + in it.
var (
	lettersToAddress = allowance.Each(24*time.Hour, 5)
	lettersOfForm    = allowance.Each(time.Hour, 500)
	lettersOfSite    = allowance.Each(time.Hour, 2000)
)

// TooMany refuses a contact whose address would have to be confirmed, for a while.
type TooMany struct{ Wait time.Duration }

func (t TooMany) Error() string { return fmt.Sprintf("too many letters; the next in %s", t.Wait) }

// mailbox is what letters to an address are counted by.
func mailbox(address string) string {
	local, host, _ := strings.Cut(strings.ToLower(address), "@")
	local, _, _ = strings.Cut(local, "+")
	return "to " + local + "@" + host
}

// Add returns once a contact is kept, or why it is not: TooMany, gather.ErrBusy, ErrOther and
// ErrErased of the store, what went wrong in writing, or the error of ctx. What is to go out of it
// is kept with it: the letter that has its address confirmed, or all that it is passed on to. No
// second letter goes to an address while one of the same form is unanswered, and after some in a
// day none: the contact is kept all the same, and counts once any letter of the form to that
// address is answered.
func (k *Keeper) Add(ctx context.Context, site string, c form.Contact, f form.Form) error {
	n := store.NewContact{Site: site, Contact: c}
	if to := confirmed(c, f); to != "" {
		n.Confirms = to
		if wait := k.letters.Wait(
			c.At, allowance.Key{Name: "form " + site + " " + c.Notice, Allowance: lettersOfForm},
			allowance.Key{Name: "site " + site, Allowance: lettersOfSite},
		); wait > 0 {
			return TooMany{wait}
		}
		if k.letters.Wait(c.At, allowance.Key{Name: mailbox(to), Allowance: lettersToAddress}) == 0 {
			n.Outgoing = []store.Outgoing{outgoing(site, c, store.OutConfirm, to, c.At)}
		}
	} else {
		n.Outgoing = passedOn(site, c, f, c.At)
	}
	err := k.queue.Add(ctx, n.Ready())
	if err == nil && len(n.Outgoing) > 0 {
		k.Wake()
	}
	return err
}

// Waiting is how many contacts wait to be written.
func (k *Keeper) Waiting() int { return k.queue.Waiting() }

// Confirm notes that the address of a contact is confirmed, and so of all others of the form that
// wait for the same address, and passes them on.
func (k *Keeper) Confirm(ctx context.Context, site string, c form.Contact, f form.Form, at time.Time) error {
	err := k.Together(ctx, func(st *store.Store) error {
		if err := st.ConfirmContact(ctx, site, c.ID, at, passedOn(site, c, f, at)); err != nil {
			return err
		}
		others, err := st.WaitingContacts(ctx, site, c.Notice, c.Text(f.Confirm))
		if err != nil {
			return err
		}
		for _, o := range others {
			if err := st.ConfirmContact(ctx, site, o.ID, at, passedOn(site, o, f, at)); err != nil {
				return err
			}
		}
		return nil
	})
	if err == nil {
		k.Wake()
	}
	return err
}

// Expire erases what has been kept long enough, and what nobody has confirmed in time; it
// returns what ExpireContacts does.
func (k *Keeper) Expire(ctx context.Context, now time.Time) (int64, []string, error) {
	return k.ExpireContacts(ctx, now, now.Add(-ConfirmLasts))
}

// confirmed returns the address that has to be confirmed, "" if none has.
func confirmed(c form.Contact, f form.Form) string {
	if f.Confirm == "" {
		return ""
	}
	return c.Text(f.Confirm)
}

// passedOn is what goes out once a contact counts.
func passedOn(site string, c form.Contact, f form.Form, at time.Time) (out []store.Outgoing) {
	for _, r := range f.PassOn {
		kind := store.OutWeb
		if r.Mail != "" {
			kind = store.OutMail
		}
		out = append(out, outgoing(site, c, kind, r.String(), at))
	}
	return out
}

// outgoing has the same key whenever it is made of the same contact for the same recipient: so
// nothing goes out twice under two keys.
func outgoing(site string, c form.Contact, kind store.OutgoingKind, to string, at time.Time) store.Outgoing {
	sum := sha256.Sum256(fmt.Appendf(nil, "%s %s %s %s", site, c.ID, kind, to))
	return store.Outgoing{
		Site: site, Kind: kind, Contact: c.ID, Recipient: to, Key: hex.EncodeToString(sum[:16]), At: at,
	}
}
