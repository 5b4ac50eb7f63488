package contacts

import (
	"time"

	"mastflag/core/form"
	"mastflag/internal/standin"
)

// A ContactQuery is which contacts are meant; all if it is empty.
type ContactQuery struct {
	Notice string `json:"notice,omitempty" form:"notice"`
	// Days on the site's calendar, both included.
	From  string `json:"from,omitempty" form:"from"`
	Until string `json:"until,omitempty" form:"until"`
	// What an answer holds: that to a field, or any.
	Find  string `json:"find,omitempty" form:"find"`
	Field string `json:"field,omitempty" form:"field"`
	// Number of the contact after which the list goes on.
	After string `json:"after,omitempty" form:"after"`
}

// ContactList is what visitors filled in, the latest first.
type ContactList struct {
	Contacts []ContactRow `json:"contacts"`
	// How many there are in all.
	Total int `json:"total"`
	// Notices that have a form, or a contact here; and what the fields of these contacts are called.
	Notices []ContactName `json:"notices"`
	Fields  []ContactName `json:"fields"`
}

// A ContactName is a notice or a field, by its id and its name.
type ContactName struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// A ContactRow is a contact, and how it goes on.
type ContactRow struct {
	form.Contact
	// Its address is not confirmed yet: it is not passed on, and goes after a week.
	Waiting bool `json:"waiting,omitempty"`
	// The letter that has its address confirmed, and where it is passed on to.
	Deliveries []Delivery `json:"deliveries"`
}

// A Delivery is something that goes out.
type Delivery struct {
	ID   int64  `json:"id"`
	Kind string `json:"kind" jsonschema:"enum=confirm,enum=mail,enum=web"`
	To   string `json:"to"`
	// The same however often it is tried.
	Key   string `json:"key"`
	State string `json:"state" jsonschema:"enum=waiting,enum=done,enum=given-up"`
	Tries int    `json:"tries"`
	// When it is tried next, or went out.
	Next  *time.Time `json:"next,omitempty"`
	Ended *time.Time `json:"ended,omitempty"`
	Why   string     `json:"why,omitempty"`
}

// A ReceiverSetup is what those need who take contacts, and what the stand-in for one received.
type ReceiverSetup struct {
	// That signatures are made with, base64.
	Secret string `json:"secret"`
	// Its name in them.
	KeyID string `json:"keyId"`
	// Where the stand-in lies, and what came to it; absent where there is none.
	StandIn  string                    `json:"standIn,omitempty"`
	Received []standin.ReceivedContact `json:"received,omitempty"`
}

// A ContactErasure names contacts by their numbers.
type ContactErasure struct {
	IDs []string `json:"ids" jsonschema:"maxItems=1000"`
}

// A DeliveryRetry names a delivery.
type DeliveryRetry struct {
	ID int64 `json:"id"`
}
