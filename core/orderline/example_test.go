package orderline_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/orderline"
)

func Example() {
	var n bundle.Notice
	err := json.Unmarshal([]byte(`{"id": "gale", "kind": "bar", "level": "warning",
	 "pages": {"include": [{"match": "all"}], "exclude": [{"match": "page", "path": "/book"}]},
	 "schedule": {"windows": [{"from": "2026-12-04T12:00", "until": "2026-12-04T18:00"}]}}`), &n)
	if err != nil {
		fmt.Println(err)
		return
	}
	site := bundle.Site{Key: "sundrey", Name: "Sundrey Isles Ferries", TimeZone: "Europe/London", Language: "en"}
	line := orderline.Of(n, site, time.Date(2026, 12, 1, 8, 0, 0, 0, time.UTC))
	fmt.Println(strings.HasPrefix(line.String(), "Show this warning bar at the top of every page except"))
	// Each word that can be changed names the control that changes it.
	for _, w := range line {
		if w.Control != "" {
			fmt.Println(w.Control, w.Text)
		}
	}
	// Output:
	// true
	// level warning bar
	// slot at the top
	// pages every page except /book
	// audience everyone
	// schedule from Fri 4 Dec 12:00 to Fri 4 Dec 18:00
	// memory until the next page
	// position scrolls away with the page
}
