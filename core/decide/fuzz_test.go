package decide_test

import (
	"encoding/json"
	"testing"

	gojson "github.com/goccy/go-json"

	"mastflag/core/bundle"
	"mastflag/core/decide"
)

// Whatever a page sends as a visit is refused, or decided and explained; the fast
// decoder takes nothing that the standard one refuses to read as JSON.
func FuzzVisit(f *testing.F) {
	b, err := bundle.Parse([]byte(`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S",` +
		`"timeZone":"Europe/London","language":"en"},"pages":[{"path":"/a"}],
		"notices":[{"id":"n","kind":"countdown","state":"published","publishedAt":"2026-12-01T10:00:00Z",` +
		`"pages":{"include":[{"match":"all"}]},"memory":{"closed":"P1D","limits":[{"times":2,"per":"P7D"}]},
		 "audience":{"any":[{"fact":"view.scroll","is":"gte","value":30},{"fact":"event.booking.count","is":"gte",` +
		`"value":1},{"fact":"person.tier","is":"eq","value":"gold"}]},
		 "schedule":{"clock":"visitor","windows":[{"from":"2026-12-01T09:00","until":"2026-12-01T18:00",` +
		`"rule":"FREQ=DAILY"}]},"content":{"countdown":{"kind":"visitor","for":"PT2H"},` +
		`"wordings":{"en":{"message":"x"}}}}]}`))
	if err != nil {
		f.Fatal(err)
	}
	s, err := decide.Compile(b)
	if err != nil {
		f.Fatal(err)
	}
	f.Add([]byte(`{"url":"/a?x=1","facts":{"locale.zone":"Europe/Berlin","visits.number":2,"person.tier":"gold"},` +
		`"memory":{"session":"2026-12-04T09:40:00Z","notices":{"n":{"closed":"2026-12-04T09:50:00Z",` +
		`"met":"2026-12-04T08:00:00Z","shown":["2026-12-03T10:00:00Z"],"counts":{"shown":4}}},` +
		`"events":{"booking":["2026-12-01T08:00:00Z"]},"consent":{"at":"2026-11-20T10:00:00Z","granted":["measurement"],` +
		`"of":"1289ce1f"}}}`))
	f.Add([]byte(`{"facts":{"view.scroll":1e400}}`))
	f.Add([]byte(`{"url":"//x\\y","memory":{"notices":null}}{`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		var v decide.Visit
		if gojson.Unmarshal(raw, &v) != nil {
			return
		}
		v.At = noon
		if v.Check() != nil {
			return
		}
		d := s.Decide(v)
		if _, err := json.Marshal(s.Explain(v)); err != nil {
			t.Fatal(err)
		}
		for _, w := range d.Waiting {
			if _, err := w.Remainder.MarshalJSON(); err != nil {
				t.Fatal(err)
			}
		}
	})
}
