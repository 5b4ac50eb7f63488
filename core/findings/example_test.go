package findings_test

import (
	"context"
	"fmt"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/findings"
)

func Example() {
	b, err := bundle.Parse([]byte(`{"format": "mastflag.bundle/2",
	 "site": {"key": "sundrey", "name": "Sundrey Isles Ferries", "timeZone": "Europe/London", "language": "en"},
	 "pages": [{"path": "/"}],
	 "notices": [{"id": "gale", "kind": "bar", "state": "published", "publishedAt": "2026-12-01T08:00:00Z",
	  "schedule": {"windows": [{"until": "2026-12-04T12:00"}]},
	  "pages": {"include": [{"match": "all"}]},
	  "content": {"wordings": {"en": {"message": "No sailings."}}}}]}`))
	if err != nil {
		fmt.Println(err)
		return
	}
	site, err := decide.Compile(b)
	if err != nil {
		fmt.Println(err)
		return
	}
	found, err := findings.Check(context.Background(), site, time.Date(2026, 12, 5, 8, 0, 0, 0, time.UTC))
	if err != nil {
		panic(err)
	}
	for _, f := range found {
		fmt.Println(f.Severity, f.Code, f.Pointers[0])
		fmt.Println(f.What)
		fmt.Println(f.Fix)
	}
	// Output:
	// warning over /notices/0/schedule
	// “gale” ended Fri 4 Dec 12:00 and is still published.
	// Unpublish it, or give it a new time.
}
