package orderline_test

import (
	"encoding/json"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/orderline"
)

func TestOrderLine(t *testing.T) {
	site := bundle.Site{
		TimeZone: "Europe/London",
		Language: "en",
		Documents: []document.Document{{
			ID:       "tours",
			Kind:     document.Disclaimer,
			Titles:   map[string]string{"en": "Tour safety"},
			Version:  3,
			Material: 3,
		}},
	}
	now := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	const every = `"pages":{"include":[{"match":"all"}]}`
	for _, c := range []struct{ in, want string }{
		{
			`{}`,
			"Show this bar at the top of no page yet, to everyone, from when you publish it, with no end; closed, it stays " +
				"away until the next page; it scrolls away with the page.",
		},
		{
			`{` + every + `,"state":"published","memory":{"closed":"P1D"}}`,
			"Show this bar at the top of every page, to everyone, until you unpublish it; closed, it stays away for a day; it " +
				"scrolls away with the page.",
		},
		{
			`{"slot":"bottom","position":"sticking","level":"warning","memory":{"closable":false},` +
				`"pages":{"include":[{"match":"all"}],"exclude":[{"match":"page","path":"/a"},{"match":"page","path":"/b"}]},` +
				`"schedule":{"windows":[{"from":"2026-11-27T09:00","until":"2026-11-30T18:00"}]}}`,
			"Show this warning bar at the bottom, always in sight, on every page except 2, to everyone, from Fri 27 Nov 09:00" +
				" to Mon 30 Nov 18:00; it cannot be closed.",
		},
		{
			`{` + every + `,"slot":"bottom","position":"sticking","experiment":{"goal":{"event":"order","least":20},` +
				`"holdout":10,"within":"P1D","variants":[{"id":"a"},{"id":"b"}]}}`,
			"Show this bar at the bottom, always in sight, on every page, to everyone, from when you publish it, with no end;" +
				" closed, it stays away until the next page; it is to make visitors bring about “order” of 20 or more within a" +
				" day; 10 % of them never see it, and the others get one of 2 variants.",
		},
		{
			`{` + every + `,"slot":"bottom","position":"sticking","experiment":{"goal":{"pages":{"include":[` +
				`{"match":"page","path":"/thanks"}]}},"variants":[{"id":"a"},{"id":"b"}]}}`,
			"Show this bar at the bottom, always in sight, on every page, to everyone, from when you publish it, with no end;" +
				" closed, it stays away until the next page; it is to make visitors reach the page /thanks within 5 days; each" +
				" of them gets one of 2 variants.",
		},
		{
			`{` + every + `,"memory":{"closed":"P1D","foldable":true,"limits":[{"times":2,"per":"P1D"}]}}`,
			"Show this bar at the top of every page, to everyone, from when you publish it, with no end; closed, it stays " +
				"away for a day; it can be folded away, and is shown at most twice in a day; it scrolls away with the page.",
		},
		{
			`{"pages":{"include":[{"match":"home"}]},"schedule":{"windows":[{"until":"2027-01-08T18:00"}]},` +
				`"memory":{"closed":"PT12H"}}`,
			"Show this bar at the top of the home page, to everyone, until Fri 8 Jan 2027 18:00; closed, it stays away for 12 " +
				"hours; it scrolls away with the page.",
		},
		{
			`{"pages":{"include":[{"match":"section","path":"/ports"},{"match":"page","path":"/status"}],` +
				`"exclude":[{"match":"pattern","pattern":"/ports/*/old"}]},"schedule":{"clock":"visitor",` +
				`"windows":[{"from":"2026-11-27T09:00"},{"from":"2026-12-27T09:00"}]},"memory":{"closed":"ever"}}`,
			"Show this bar at the top of the pages under /ports and one other place except pages that match /ports/*/old, to " +
				"everyone, from Fri 27 Nov 09:00 on, and at one other time on each visitor’s own clock; closed, it stays away " +
				"for good; it scrolls away with the page.",
		},
		{
			`{` + every + `,"schedule":{"clock":"America/New_York","windows":[{"from":"2026-11-27T09:00",` +
				`"until":"2026-11-27T10:00"}]},"memory":{"closed":"session"}}`,
			"Show this bar at the top of every page, to everyone, from Fri 27 Nov 09:00 to Fri 27 Nov 10:00 (America/New_York " +
				"time); closed, it stays away for the rest of the visit; it scrolls away with the page.",
		},
		{
			`{"kind":"pop-up","slot":"corner-end",` + every +
				`,"audience":{"all":[{"fact":"referrer.class","is":"eq","value":"search"}]},` +
				`"schedule":{"windows":[{"from":"2026-11-27T12:00","until":"2026-11-27T18:00","rule":"FREQ=WEEKLY;BYDAY=FR"}]},` +
				`"memory":{"limits":[{"times":3,"per":"P7D"},{"times":1,"per":"session"}]}}`,
			"Show this pop-up in the bottom right corner, on every page, to visitors who come from a search, every Friday " +
				"12:00 to 18:00, from 27 Nov; closed, it stays away until the next page, and is shown at most 3 times in a week " +
				"and at most once a visit.",
		},
		{
			`{` + every + `,"state":"published","content":{"countdown":{"kind":"to","at":"2026-11-27T18:00","go":"/offers"}}}`,
			"Show this bar at the top of every page, to everyone, until you unpublish it; closed, it stays away until the " +
				"next page; it scrolls away with the page; it counts down to Fri 27 Nov 18:00 and then disappears; a page on " +
				"which it runs out goes to /offers.",
		},
		{
			`{"level":"emergency","kind":"alert",` + every + `,"memory":{"closed":"P1D","limits":[{"times":3,"per":"P7D"}]}}`,
			"Show this emergency alert at the top of every page, to everyone, from when you publish it, with no end; closed, " +
				"it is back on the next page; it scrolls away with the page.",
		},
		{
			`{"kind":"disclaimer","slot":"centre",` + every +
				`,"content":{"disclaimer":{"document":"tours","ask":"acknowledge","holds":"P1Y"}}}`,
			"Show this disclaimer in the middle, on every page, to everyone, from when you publish it, with no end; it stays " +
				"until they have acknowledged “Tour safety”, version 3, again after each material change and after a year.",
		},
		{
			`{"kind":"disclaimer","slot":"cover",` + every + `,"content":{"disclaimer":{"ask":"declare","holds":"session"}}}`,
			"Show this disclaimer over everything, on every page, to everyone, from when you publish it, with no end; it " +
				"stays until they have declared that it is so, again once it changes and on each visit.",
		},
		{
			`{"kind":"disclaimer",` + every + `,"content":{"disclaimer":{"document":"gone","ask":"acknowledge"}}}`,
			"Show this disclaimer at the top of every page, to everyone, from when you publish it, with no end; it stays " +
				"until they have acknowledged a document that is not there, again once it changes; it scrolls away with the page.",
		},
		{
			`{"kind":"block","slot":"inline","spot":{"selector":"h1"},"spots":[{"selector":"#port"}],` +
				`"memory":{"closable":false},"pages":{"include":[{"match":"section","path":"/ports"}],"exclude":[{"match":"page",` +
				`"path":"/ports"},{"match":"page","path":"/ports/a"}]}}`,
			"Show this block in the page, after h1 or at one other spot, on the pages under /ports except 2 pages, to " +
				"everyone, from when you publish it, with no end; it cannot be closed.",
		},
		{
			`{"kind":"block","slot":"inline","spot":{"selector":"h1"},"memory":{"closable":false},` + every +
				`,"schedule":{"windows":[{"from":"2026-11-27T12:00","until":"2026-11-27T12:30","rule":"FREQ=HOURLY;INTERVAL=3"},` +
				`{"from":"2026-12-01T09:00"}]}}`,
			"Show this block in the page, after h1, on every page, to everyone, every 3 hours, for 30 minutes each time, from " +
				"27 Nov 12:00, and at one other time; it cannot be closed.",
		},
		{
			`{"kind":"block","slot":"inline","spot":{"selector":"h1"},"memory":{"closable":false},` + every +
				`,"schedule":{"windows":[{"from":"2026-11-27T12:00","until":"2026-11-27T12:30"},{"from":"2026-11-28T09:00",` +
				`"until":"2026-11-28T10:00"},{"from":"2026-12-01T09:00"}]}}`,
			"Show this block in the page, after h1, on every page, to everyone, from Fri 27 Nov 12:00 to Fri 27 Nov 12:30, " +
				"and at 2 other times (once with no end); it cannot be closed.",
		},
		{
			`{"kind":"code",` + every + `,"content":{"code":{"head":"<meta>","end":"<p></p>","purposes":["measurement",` +
				`"marketing"]}},"memory":{"limits":[{"times":1,"per":"session"}]}}`,
			"Put this code at the end of the head and at the end of the body of every page, for everyone, from when you " +
				"publish it, with no end; it runs once measurement and marketing are agreed to, at most once a visit.",
		},
		{
			`{"kind":"code","state":"published","pages":{"include":[{"match":"home"}]}}`,
			"Put this code, which is not written yet, into the home page, for everyone, until you unpublish it.",
		},
		{
			`{"kind":"disclaimer",` + every + `}`,
			"Show this disclaimer at the top of every page, to everyone, from when you publish it, with no end; closed, it " +
				"stays away until the next page; it scrolls away with the page; it is only read.",
		},
	} {
		var n bundle.Notice
		require.NoError(t, json.Unmarshal([]byte(c.in), &n))
		line := orderline.Of(n, site, now)
		assert.Equal(t, c.want, line.String())
		controls := map[orderline.Control]int{}
		for _, w := range line {
			if w.Control != "" {
				controls[w.Control]++
			}
		}
		if n.Kind == bundle.KindCode {
			continue // nothing of it is seen or closed
		}
		closing := orderline.Closing
		if d, _ := n.Disclaimer(); d.Answered() {
			closing = orderline.Stating
		}
		for _, want := range []orderline.Control{
			orderline.Level, orderline.Slot, orderline.Pages, orderline.Audience, orderline.Schedule, closing,
		} {
			assert.LessOrEqual(t, 1, controls[want], "%s can be changed at one word of: %s", want, line)
		}
	}
}
