package decide_test

import (
	"fmt"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/decide"
)

// A site with a bar for one morning, and one for whoever has visited before.
const exampleSite = `{"format": "mastflag.bundle/2",
 "site": {"key": "sundrey", "name": "Sundrey Isles Ferries", "timeZone": "Europe/London", "language": "en"},
 "pages": [{"path": "/"}, {"path": "/book"}],
 "notices": [
  {"id": "storm", "kind": "bar", "state": "published", "publishedAt": "2026-12-01T08:00:00Z",
   "schedule": {"windows": [{"from": "2026-12-04T09:00", "until": "2026-12-04T12:00"}]},
   "pages": {"include": [{"match": "all"}], "exclude": [{"match": "page", "path": "/book"}]},
   "content": {"wordings": {"en": {"message": "No sailings before noon."}}}},
  {"id": "thanks", "kind": "bar", "state": "published", "publishedAt": "2026-12-01T08:00:00Z",
   "pages": {"include": [{"match": "all"}]},
   "audience": {"fact": "visits.number", "is": "gte", "value": 2},
   "content": {"wordings": {"en": {"message": "Good to see you again."}}}}]}`

func Example() {
	b, err := bundle.Parse([]byte(exampleSite))
	if err != nil {
		fmt.Println(err)
		return
	}
	site, err := decide.Compile(b)
	if err != nil {
		fmt.Println(err)
		return
	}
	visit := decide.Visit{
		At: time.Date(2026, 12, 4, 10, 0, 0, 0, time.UTC), URL: "https://www.sundrey.example/",
		Facts: map[string]any{"visits.number": 1.0},
	}

	// What shows, and until when that holds.
	d := site.Decide(visit)
	for _, n := range d.Show {
		fmt.Println(n.ID, n.Slot)
	}
	fmt.Println("until", d.ValidUntil.Format(time.RFC3339))

	// Why the other does not.
	for _, held := range site.Explain(visit).Held {
		fmt.Println(held.ID, held.Gate, held.Rule, held.Why)
	}
	// Output:
	// storm top
	// until 2026-12-04T12:00:00Z
	// thanks audience A1 The visit number is 1; it needs to be at least 2.
}
