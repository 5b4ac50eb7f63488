package base

import (
	"mastflag/internal/access"
	"mastflag/internal/store"
)

// MaySeeContacts reports whether a person may see what visitors filled in: an administrator, or
// an editor who was given the right.
func MaySeeContacts(p store.Person) bool {
	return p.Role == access.Administrator || p.Role == access.Editor && p.Contacts
}
