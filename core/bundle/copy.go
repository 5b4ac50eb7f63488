package bundle

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
)

// A Copy says of which notice another is a copy, and what that said when the copy
// was last compared with it (rule B3).
type Copy struct {
	ID string `json:"id" jsonschema:"pattern=^[a-z0-9]+(-[a-z0-9]+)*$,maxLength=64"`
	// TextMark of the original.
	Mark string `json:"mark" jsonschema:"pattern=^[0-9a-f]{12}$"`
}

// TextMark returns a short text that changes with what the notice says in any
// language.
func (n Notice) TextMark() string {
	h := sha256.New()
	words := n.Wordings()
	for _, tag := range slices.Sorted(maps.Keys(words)) {
		fmt.Fprintf(h, "%s %s ", tag, words[tag].Mark())
	}
	return hex.EncodeToString(h.Sum(nil)[:6])
}

// Original returns, of notices, the one that this is a copy of; ok is false if it
// is no copy, or the original is not among them. changed is whether the original
// says something that it did not say when they were last compared, and that this
// one does not say either.
func (n Notice) Original(of []Notice) (original Notice, changed, ok bool) {
	if n.CopyOf == nil {
		return Notice{}, false, false
	}
	i := slices.IndexFunc(of, func(o Notice) bool { return o.ID == n.CopyOf.ID && o.ID != n.ID })
	if i < 0 {
		return Notice{}, false, false
	}
	mark := of[i].TextMark()
	return of[i], mark != n.CopyOf.Mark && mark != n.TextMark(), true
}

// SameText reports whether two notices say the same, whatever state each is in.
func SameText(a, b Notice) bool {
	a.State, a.PublishedAt, b.State, b.PublishedAt = "", nil, "", nil
	x, errX := json.Marshal(a)
	y, errY := json.Marshal(b)
	return errX == nil && errY == nil && bytes.Equal(x, y)
}
