package base

import (
	"net/http"

	"mastflag/internal/access"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// MaySeeContacts reports whether a person may see what visitors filled in: an administrator, or
// an editor who was given the right.
func MaySeeContacts(p store.Person) bool {
	return p.Role == access.Administrator || p.Role == access.Editor && p.Contacts
}

// SeesContacts refuses people who may not see contacts.
func (c *Call) SeesContacts() error {
	if MaySeeContacts(c.Person) {
		return nil
	}
	return problem.Problem{
		Status: http.StatusForbidden,
		Title:  "Contacts are not for you",
		Detail: "Administrators see contacts, and editors who were given the right. Ask an administrator: Site, People.",
	}
}
