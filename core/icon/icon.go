// Package icon is the set of small pictures that a notice can carry: outlines
// of Tabler Icons (MIT licence), without brands, that ship with the program.
package icon

import (
	"bytes"
	"cmp"
	"compress/gzip"
	_ "embed"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
)

// packed is a JSON object, the inside of an SVG of 24 by 24 by name; derived
// from the npm package of the set.
//
//go:embed icons.json.gz
var packed []byte

// An Icon is a picture by its name.
type Icon struct {
	Name string `json:"name"`
	// A whole SVG element that takes the colour of its text.
	SVG string `json:"svg"`
}

var bodies = sync.OnceValue(func() map[string]string {
	r, err := gzip.NewReader(bytes.NewReader(packed))
	all := map[string]string{}
	if err == nil {
		err = json.NewDecoder(r).Decode(&all)
	}
	if err != nil {
		panic("icon: the set that ships is broken: " + err.Error())
	}
	return all
})

var names = sync.OnceValue(func() []string { return slices.Sorted(maps.Keys(bodies())) })

// Pack makes the embedded file of the insides of SVGs by name. The same set
// gives the same bytes.
func Pack(bodies map[string]string) ([]byte, error) {
	raw, err := json.Marshal(bodies)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	w, err := gzip.NewWriterLevel(&out, gzip.BestCompression)
	if err != nil {
		return nil, err
	}
	if _, err := w.Write(raw); err != nil {
		return nil, err
	}
	err = w.Close()
	return out.Bytes(), err
}

// Get returns the icon of that name.
func Get(name string) (Icon, bool) {
	if name == "" {
		return Icon{}, false
	}
	body, ok := bodies()[name]
	return Icon{
		name, fmt.Sprintf(`<svg class="icon" viewBox="0 0 24 24" width="24" height="24" aria-hidden="true">%s</svg>`, body),
	}, ok
}

// occasions are the icons for what people announce, by the words they look
// for; the set's own names are for designers.
var occasions = map[string][]string{
	"warning danger storm alert careful": {"alert-triangle", "storm", "wind", "urgent"},
	"news announcement tell":             {"speakerphone", "news", "bell"},
	"closed closure shut":                {"lock", "door-exit", "barrier-block"},
	"hours time opening deadline":        {"clock", "calendar-time", "hourglass"},
	"sale offer discount fare":           {"discount", "tag", "shopping-bag"},
	"maintenance works repair":           {"tools", "settings", "barrier-block"},
	"question survey opinion":            {"message-question", "clipboard-list"},
	"welcome thanks thank":               {"heart-handshake", "heart", "confetti"},
	"move moving address":                {"map-pin", "truck", "home-move"},
	"ship ferry boat sea":                {"ferry", "anchor", "ship", "sailboat"},
	"phone call contact mail":            {"phone", "mail", "message"},
	"shortage stock missing":             {"package-off", "shopping-cart-off"},
}

// matchesQuery reports whether each wanted word begins a word of an icon's name, and
// how many of them are not the whole of it.
func matchesQuery(name string, wanted []string) (short int, ok bool) {
	parts := strings.Split(name, "-")
	for _, w := range wanted {
		if !slices.ContainsFunc(parts, func(p string) bool { return strings.HasPrefix(p, w) }) {
			return 0, false
		}
		if !slices.Contains(parts, w) {
			short++
		}
	}
	return short, true
}

// Find returns icons whose name has all the words, whole ones first, at most
// limit; before them those for an occasion that is called so. Without words,
// the ones that people want most.
func Find(words string, limit int) []Icon {
	wanted := strings.Fields(strings.ToLower(words))
	var hits []string
	for _, said := range slices.Sorted(maps.Keys(occasions)) {
		if len(wanted) == 0 || slices.ContainsFunc(
			strings.Fields(said), func(w string) bool { return strings.HasPrefix(w, wanted[0]) },
		) {
			hits = append(hits, occasions[said]...)
		}
	}
	if len(wanted) > 0 {
		var named []string
		fit := map[string]int{}
		for _, name := range names() {
			if f, ok := matchesQuery(name, wanted); ok {
				named, fit[name] = append(named, name), f
			}
		}
		slices.SortStableFunc(
			named, func(a, b string) int { return cmp.Or(cmp.Compare(fit[a], fit[b]), cmp.Compare(len(a), len(b))) },
		)
		hits = append(hits, named...)
	}
	out := []Icon{}
	seen := map[string]bool{}
	for _, name := range hits {
		if i, ok := Get(name); ok && !seen[name] && len(out) < limit {
			seen[name] = true
			out = append(out, i)
		}
	}
	return out
}
