package people

import (
	"time"
)

// A Person is someone who may work here.
type Person struct {
	Email string `json:"email"`
	Name  string `json:"name"`
	Role  string `json:"role" jsonschema:"enum=viewer,enum=editor,enum=administrator"`
	// Keys of the sites they work on; all if empty.
	Sites []string `json:"sites"`
	// They may see what visitors filled in, as administrators may in any case.
	Contacts bool `json:"contacts,omitempty"`
}

// PeopleList is who may work here, and who is invited.
type PeopleList struct {
	People  []Person  `json:"people"`
	Invited []Invited `json:"invited"`
}

// An Invited person has not come yet.
type Invited struct {
	Person
	Ends time.Time `json:"ends"`
	// The invitation holds no longer.
	Over bool `json:"over"`
}

// An InvitationAsk names an invitation by what its message holds.
type InvitationAsk struct {
	Token string `json:"token"`
}

// A Join takes up an invitation.
type Join struct {
	Token    string `json:"token"`
	Name     string `json:"name"`
	Password string `json:"password"`
}

// A PasswordChange puts a new password in place of the old one.
type PasswordChange struct {
	Old string `json:"old"`
	New string `json:"new"`
}

// SessionList is where a person is signed in, the last used first.
type SessionList struct {
	Sessions []SessionCard `json:"sessions"`
}

// A SessionCard is a browser in which a person is signed in.
type SessionCard struct {
	ID      string    `json:"id"`
	Began   time.Time `json:"began"`
	Seen    time.Time `json:"seen"`
	Address string    `json:"address"`
	Agent   string    `json:"agent"`
	This    bool      `json:"this"` // the one that asks
}

// A SessionName names one session; all others than the one that asks if empty.
type SessionName struct {
	ID string `json:"id"`
}

// Mailbox is what the program sent, the newest first.
type Mailbox struct {
	// There is a mail server; without one nothing has left the machine.
	Real     bool   `json:"real"`
	Messages []Mail `json:"messages"`
}

// A Mail is a message in the mailbox.
type Mail struct {
	ID      int64     `json:"id"`
	At      time.Time `json:"at"`
	To      string    `json:"to"`
	Subject string    `json:"subject"`
	Body    string    `json:"body"`
	// Its way in stands in the letter alone, which only the recipient is to read.
	Private bool `json:"private"`
	// How it goes out by the mail server: waiting, done or given-up; absent where there was none.
	State string     `json:"state,omitempty"`
	Tries int        `json:"tries,omitempty"`
	Next  *time.Time `json:"next,omitempty"`
	Why   string     `json:"why,omitempty"`
}
