package compiled

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/render"
	"mastflag/core/results"
	"mastflag/core/schedule"
)

// A Goal is the goal of a notice as the site script watches for it. That a page is one is said
// by the server.
type Goal struct {
	// How long after meeting the notice reaching it counts, ms.
	Within int64 `json:"within"`
	// The name of an event, and the least value that it has to have.
	Event string   `json:"event,omitempty"`
	Least *float64 `json:"least,omitempty"`
	// Its form is sent, or its link followed.
	Form bool `json:"form,omitempty"`
	Link bool `json:"link,omitempty"`
	// That it was reached is remembered (rule M1).
	Keep bool `json:"keep,omitempty"`
}

// goals returns the goals of the published notices, by id; facts is what audiences ask about.
func goals(b bundle.Bundle, facts []string) map[string]Goal {
	var out map[string]Goal
	for _, n := range b.Notices {
		if n.Experiment == nil || n.GetState() != bundle.Published {
			continue
		}
		span, err := schedule.ParseSpan(string(n.Experiment.GetWithin()))
		if err != nil {
			continue // Check has refused it
		}
		g := n.Experiment.Goal
		start := time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)
		if out == nil {
			out = map[string]Goal{}
		}
		out[n.ID] = Goal{
			Within: span.After(start, time.UTC).Sub(start).Milliseconds(),
			Event:  g.Event, Least: g.Least, Form: g.Form, Link: g.Link,
			Keep: n.GetMemory().HideAfterConversion != "" || slices.Contains(facts, "notice."+n.ID+".converted"),
		}
	}
	return out
}

// A Place is where in the page a notice lies that may be below what visitors see. Visitors of what is compared are
// counted from when its place is in sight, whether it stands there or they are held out of it (rule E5).
type Place struct {
	// Where it stands; at the end of the page if there is none.
	Spots []bundle.Spot `json:"spots,omitempty"`
	// Which of them are for this page, in the order in which they are tried; all if absent.
	At []int `json:"at,omitempty"`
}

// placed returns the places of the notices that are compared and may lie below, by id, as they are encoded.
func placed(b bundle.Bundle) (map[string][]byte, error) {
	out := map[string][]byte{}
	for _, n := range b.Notices {
		if !n.Experiment.Compares() || n.GetState() != bundle.Published || !n.MayLieBelow() {
			continue
		}
		raw, err := encode(Place{Spots: render.Spots(n)})
		if err != nil {
			return nil, err
		}
		out[n.ID] = raw
	}
	return out, nil
}

// Place returns the Place of a notice, encoded; nil where it is counted by what is seen of it.
func (s *Site) Place(id string) []byte { return s.places[id] }

// CountedAs is a notice as it is counted, in a text: its id, version, wording and variant, with
// blanks between.
func (s *Site) CountedAs(id, wording, variant string) string {
	return id + " " + s.versions[id] + " " + wording + " " + variant
}

// ReadCountedAs reads what CountedAs wrote.
func ReadCountedAs(text string) (k results.Key, err error) {
	parts := strings.Split(text, " ")
	if len(parts) != 4 {
		return k, fmt.Errorf("%.80q names no notice as it was shown", text)
	}
	k = results.Key{Notice: parts[0], Wording: parts[2], Variant: parts[3]}
	k.Version, err = strconv.ParseInt(parts[1], 10, 64)
	return k, err
}
