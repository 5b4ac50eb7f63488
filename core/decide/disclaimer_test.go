package decide_test

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/document"
	"mastflag/core/pages"
)

// disclaimed is a site with a document and a disclaimer about it, in the middle.
func disclaimed(doc document.Document, alter func(*bundle.Notice, *bundle.Disclaimer)) bundle.Bundle {
	long := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	d := bundle.Disclaimer{Document: "tours", Ask: bundle.AskAcknowledge, OnDecline: "/"}
	n := bundle.Notice{
		ID:          "safety",
		Kind:        bundle.KindDisclaimer,
		State:       bundle.Published,
		Slot:        bundle.Centre,
		PublishedAt: &long,
		Pages:       &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
		Content:     &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "<p>Read this.</p>"}}},
	}
	n.Content.Disclaimer = &d
	alter(&n, &d)
	site := bundle.Site{Key: "s", Name: "S", TimeZone: "UTC", Language: "en", Documents: []document.Document{doc}}
	return bundle.Bundle{Format: bundle.Format, Site: site, Notices: []bundle.Notice{n}}
}

func atVersion(version, material int) document.Document {
	since := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	return document.Document{ID: "tours", Kind: document.Own, Version: version, Material: material, Since: &since,
		Published: map[string]document.Text{"en": {Title: "Tour safety", Text: fmt.Sprintf("<p>%d</p>", version)}}}
}

// Rule T7 over random histories of versions and acknowledgements, against the
// rule read as a story: what was acknowledged last, what came out after it, how
// long it is ago.
func TestAcknowledgementsOverHistories(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	asked := map[bool]int{}
	for range 2000 {
		holds := []bundle.Period{"", "ever", "P30D", "P6M", "PT36H", "session", "page"}[r.IntN(7)]
		now := time.Date(2026, 1, 1, 12, 0, 0, 0, time.UTC)
		material := []bool{true} // of each version that is out
		var last struct {
			given   bool
			version int
			at      time.Time
		}
		session, view := now, now
		for range 12 {
			now = now.Add(time.Duration(r.IntN(40*24)) * time.Hour)
			switch r.IntN(4) {
			case 0:
				material = append(material, r.IntN(2) == 0)
			case 1:
				last.given, last.version, last.at = true, len(material), now
			case 2:
				session, view = now, now
			default:
				view = now
			}
			latest := 0
			for i, m := range material {
				if m {
					latest = i + 1
				}
			}
			// The story.
			want := true
			if last.given {
				newer := false
				for v := last.version + 1; v <= len(material); v++ {
					newer = newer || material[v-1]
				}
				gone := map[bundle.Period]bool{
					"":        false,
					"ever":    false,
					"P30D":    !now.Before(last.at.AddDate(0, 0, 30)),
					"P6M":     !now.Before(last.at.AddDate(0, 6, 0)),
					"PT36H":   !now.Before(last.at.Add(36 * time.Hour)),
					"session": last.at.Before(session),
					"page":    last.at.Before(view),
				}[holds]
				want = newer || gone
			}
			s, err := decide.Compile(
				disclaimed(
					atVersion(len(material), latest),
					func(_ *bundle.Notice, d *bundle.Disclaimer) { d.ValidFor = holds },
				),
			)
			require.NoError(t, err)
			v := decide.Visit{At: now, URL: "/", Memory: decide.Memory{Session: session, View: view}}
			if last.given {
				v.Memory.Acknowledged = map[string]decide.Acknowledgement{"tours": {Version: last.version, At: last.at}}
			}
			d, x := s.Decide(v), s.Explain(v)
			require.Equal(t, want, len(d.Show) == 1, "%s %v %+v at %s", holds, material, last, now)
			asked[want]++
			step := x.Explain[0].Steps[5]
			assert.Equal(t, []any{decide.GateMemory, "T7", want}, []any{step.Gate, step.Rule, step.Passed}, step.Why)
			if !want {
				assert.Equal(t, "T7", x.Held[0].Rule)
				if d.ValidUntil.After(now) { // it is asked again then, and not before
					v.At = d.ValidUntil
					assert.Len(t, s.Decide(v).Show, 1)
					v.At = d.ValidUntil.Add(-time.Second)
					assert.Empty(t, s.Decide(v).Show)
				}
			}
		}
	}
	assert.Greater(t, min(asked[true], asked[false]), 1000)
}

func TestAcknowledgementsByCase(t *testing.T) {
	noon := time.Date(2026, 11, 20, 12, 0, 0, 0, time.UTC)
	none := func(*bundle.Notice, *bundle.Disclaimer) {}
	own := func(_ *bundle.Notice, d *bundle.Disclaimer) { d.Document = "" }
	site := disclaimed(atVersion(3, 3), own)
	ownMark := site.Notices[0].OwnMark("en")
	for name, c := range map[string]struct {
		alter func(*bundle.Notice, *bundle.Disclaimer)
		ack   map[string]decide.Acknowledgement
		shows bool
		why   string
	}{
		"never": {none, nil, true, "This visitor has not acknowledged it yet."},
		"the version that is out": {
			none, acks("tours", 3, "", noon), false,
			"This visitor acknowledged version 3 of “Tour safety” Fri 20 Nov 12:00, and that holds.",
		},
		"an earlier one": {
			none, acks("tours", 2, "", noon), true,
			"This visitor acknowledged version 2 of “Tour safety” Fri 20 Nov 12:00; version 3 changed what it says.",
		},
		"one that never was": {
			none, acks("tours", 4, "", noon), true,
			"This visitor acknowledged version 4 of “Tour safety” Fri 20 Nov 12:00, which is not out.",
		},
		"another document": {none, acks("terms", 3, "", noon), true, "This visitor has not acknowledged it yet."},
		"two days ahead": {
			none, acks("tours", 3, "", noon.AddDate(0, 0, 2)), true,
			"What this visitor acknowledged is dated in the future, and does not count.",
		},
		"its own text": {
			own, acks("notice:safety", 0, ownMark, noon), false,
			"This visitor acknowledged it Fri 20 Nov 12:00, and that holds.",
		},
		"its own text as it was": {
			own, acks("notice:safety", 0, "other", noon), true,
			"This visitor acknowledged it Fri 20 Nov 12:00; its text has changed since.",
		},
		"a document that is not there": {
			func(_ *bundle.Notice, d *bundle.Disclaimer) { d.Document = "gone" }, acks("gone", 1, "", noon), true,
			"This visitor acknowledged version 1 of “gone” Fri 20 Nov 12:00, which is not out.",
		},
		"run out": {
			func(_ *bundle.Notice, d *bundle.Disclaimer) { d.ValidFor = "PT1H" }, acks("tours", 3, "", noon.Add(-time.Hour)),
			true, "This visitor acknowledged version 3 of “Tour safety” Fri 20 Nov 11:00; that held for an hour.",
		},
	} {
		doc := atVersion(3, 3)
		doc.Titles = map[string]string{"en": "Tour safety"}
		s, err := decide.Compile(disclaimed(doc, c.alter))
		require.NoError(t, err)
		v := decide.Visit{At: noon, URL: "/", Memory: decide.Memory{Acknowledged: c.ack}}
		x := s.Explain(v)
		assert.Equal(t, c.shows, len(x.Show) == 1, name)
		assert.Equal(t, c.why, x.Explain[0].Steps[5].Why, name)
	}
}

func acks(id string, version int, of string, at time.Time) map[string]decide.Acknowledgement {
	return map[string]decide.Acknowledgement{id: {Version: version, Of: of, At: at}}
}

// What has to be acknowledged goes behind an emergency, and behind an open
// consent question unless it says otherwise (rule T9).
func TestWhatGoesBeforeADisclaimer(t *testing.T) {
	noon := time.Date(2026, 11, 20, 12, 0, 0, 0, time.UTC)
	for _, before := range []bool{false, true} {
		b := disclaimed(atVersion(1, 1), func(_ *bundle.Notice, d *bundle.Disclaimer) { d.BeforeConsent = before })
		asks, storm := b.Notices[0], b.Notices[0]
		asks.ID, asks.Kind, asks.Slot, asks.Content = "asks", bundle.KindConsent, bundle.Bottom, &bundle.Content{
			Wordings: asks.Content.Wordings,
		}
		storm.ID, storm.Kind, storm.Level, storm.Content = "storm", "pop-up", bundle.Emergency, asks.Content
		ids := func(list ...bundle.Notice) (out []string) {
			b.Notices = list
			s, err := decide.Compile(b)
			require.NoError(t, err)
			for _, n := range s.Decide(decide.Visit{At: noon, URL: "/"}).Show {
				out = append(out, n.ID)
			}
			return out
		}
		safety := b.Notices[0]
		want := []string{"asks"}
		if before {
			want = []string{"asks", "safety"}
		}
		assert.Equal(t, want, ids(safety, asks))
		assert.Equal(t, []string{"storm"}, ids(safety, storm))
	}
}
