package decide_test

import (
	"encoding/json"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/core/decide"
	"mastflag/core/schedule"
)

func counts(c countdown.Countdown) func(*bundle.Notice) {
	return func(n *bundle.Notice) { n.Content.Countdown = &c }
}

func till(at string, then countdown.Then) countdown.Countdown {
	return countdown.Countdown{Kind: countdown.To, At: at, Then: then}
}

// What a countdown does to when its notice shows, and the one it hands over to
// (rule C4), with the gate that says so.
func TestCountdownsEndNotices(t *testing.T) {
	hours := func(h float64) time.Time { return noon.Add(time.Duration(h * float64(time.Hour))) }
	visitor := countdown.Countdown{Kind: countdown.Visitor, For: "PT2H"}
	handing := func(c countdown.Countdown, to string) countdown.Countdown {
		c.Then, c.HandTo = countdown.HandOver, to
		return c
	}
	six := "2026-12-04T18:00"
	for _, c := range []struct {
		name    string
		notices []bundle.Notice
		at      time.Time
		met     time.Time // by the visitor, of notice a
		shows   []string
		why     string // of the first that is held
		until   time.Time
	}{
		{
			"before the moment it shows, and the answer holds until then", []bundle.Notice{bar("a", counts(till(six, "")))},
			noon, time.Time{}, []string{"a"}, "", hours(6),
		},
		{
			"at the moment it is gone", []bundle.Notice{bar("a", counts(till(six, "")))}, hours(6), time.Time{}, nil,
			"Its countdown ran out Fri 4 Dec 18:00, so it disappeared.", time.Time{},
		},
		{
			"one that stays at zero stands on", []bundle.Notice{bar("a", counts(till(six, countdown.Stay)))}, hours(7),
			time.Time{}, []string{"a"}, "", time.Time{},
		},
		{
			"one that says something else too", []bundle.Notice{bar("a", counts(till(six, countdown.Say)))}, hours(7),
			time.Time{}, []string{"a"}, "", time.Time{},
		},
		{
			"the heir waits for the moment", []bundle.Notice{bar("a", counts(handing(till(six, ""), "b"))), bar("b")}, noon,
			time.Time{}, []string{"a"}, "It takes the place of “a”, whose countdown runs out Fri 4 Dec 18:00.", hours(6),
		},
		{
			"and takes its place then", []bundle.Notice{bar("a", counts(handing(till(six, ""), "b"))), bar("b")}, hours(6),
			time.Time{}, []string{"b"}, "Its countdown ran out Fri 4 Dec 18:00, so it gave way to the next.", time.Time{},
		},
		{
			"the heir of a draft waits for nobody",
			[]bundle.Notice{bar("a", counts(handing(till(six, ""), "b")), state(bundle.Draft)), bar("b")}, noon, time.Time{},
			[]string{"b"}, "It is a draft. Visitors see it once you publish it.", time.Time{},
		},
		{
			"a moment on the visitor's own clock comes an hour early in Warsaw",
			[]bundle.Notice{bar("a", counts(countdown.Countdown{Kind: countdown.To, At: six, Clock: "visitor"}))}, hours(5),
			time.Time{}, nil, "Its countdown ran out for this visitor Fri 4 Dec 18:00, so it disappeared.", time.Time{},
		},
		{
			"a visitor's own begins when they meet it", []bundle.Notice{bar("a", counts(visitor))}, noon, time.Time{},
			[]string{"a"}, "", hours(2),
		},
		{"goes on over pages", []bundle.Notice{bar("a", counts(visitor))}, noon, hours(-1), []string{"a"}, "", hours(1)},
		{
			"and is over for good", []bundle.Notice{bar("a", counts(visitor))}, noon, hours(-2), nil,
			"Its countdown ran out for this visitor Fri 4 Dec 13:00, so it disappeared.", time.Time{},
		},
		{
			"begun again it is never over",
			[]bundle.Notice{bar("a", counts(countdown.Countdown{Kind: countdown.Visitor, For: "PT2H", Then: countdown.Again}))},
			noon, hours(-5), []string{"a"}, "", time.Time{},
		},
		{
			"its heir waits until it is met", []bundle.Notice{bar("a", counts(handing(visitor, "b")), except("/")), bar("b")},
			noon, time.Time{}, nil, "It leaves out the page /, so it is not on /.", time.Time{},
		},
		{
			"until it has run out", []bundle.Notice{bar("a", counts(handing(visitor, "b"))), bar("b")}, noon, hours(-1),
			[]string{"a"}, "It takes the place of “a”, whose countdown runs out for this visitor Fri 4 Dec 14:00.", hours(1),
		},
		{
			"and comes then", []bundle.Notice{bar("a", counts(handing(visitor, "b"))), bar("b")}, noon, hours(-2), []string{"b"},
			"Its countdown ran out for this visitor Fri 4 Dec 13:00, so it gave way to the next.", time.Time{},
		},
		{
			"a circle of heirs shows one at most, and harms nobody",
			[]bundle.Notice{
				bar("a", counts(handing(till(six, ""), "b"))), bar("b", counts(handing(till("2026-12-04T19:00", ""), "a"))),
				bar("c"),
			},
			hours(6.5), time.Time{}, []string{"b", "c"},
			"Its countdown runs out Fri 4 Dec 18:00, before “b” hands over to it, so it never shows.", hours(7),
		},
		{
			"one that had run out before it was published", []bundle.Notice{bar("a", counts(till("2026-11-20T12:00", "")))},
			noon, time.Time{}, nil, "Its countdown ran out Fri 20 Nov 12:00, before it was published, so it never shows.",
			time.Time{},
		},
		{
			"a circle in which nobody may begin",
			[]bundle.Notice{bar("a", counts(handing(visitor, "b"))), bar("b", counts(handing(visitor, "a"))), bar("c")}, noon,
			time.Time{}, []string{"c"}, "It takes the place of “b”, which this visitor has not met yet.", time.Time{},
		},
		{
			"the last of many moments ends it",
			[]bundle.Notice{
				bar("a", counts(countdown.Countdown{
					Kind: countdown.Repeating,
					At:   "2026-12-01T12:00",
					Rule: "FREQ=DAILY;COUNT=5",
				})),
			},
			noon, time.Time{}, []string{"a"}, "", hours(24),
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := compile(t, site(c.notices...))
			v := decide.Visit{URL: "/", At: c.at, Facts: map[string]any{"locale.zone": "Europe/Warsaw"}}
			if !c.met.IsZero() {
				v.Memory.Notices = map[string]decide.Acts{"a": {Met: c.met}}
			}
			r := s.Explain(v)
			assert.ElementsMatch(t, c.shows, ids(r.Show))
			assert.Equal(t, c.until, s.Decide(v).ValidUntil)
			if c.why != "" {
				require.NotEmpty(t, r.Held)
				assert.Equal(t, c.why, r.Held[0].Why)
			}
		})
	}
}

// A decision names the moment that each countdown is about, and a countdown
// that disappears ends the notice's live time.
func TestDecisionsNameTheMoment(t *testing.T) {
	s := compile(t, site(
		bar("a", counts(till("2026-12-04T18:00", ""))),
		bar("b", counts(countdown.Countdown{Kind: countdown.Since, At: "2026-12-01T00:00"})),
		bar("c", slot(bundle.Bottom), counts(countdown.Countdown{
			Kind: countdown.Repeating,
			At:   "2026-11-06T12:00",
			Rule: "FREQ=WEEKLY",
		}))))
	raw, err := json.Marshal(s.Explain(decide.Visit{URL: "/", At: noon}).Show)
	require.NoError(t, err)
	assert.JSONEq(
		t,
		`[{"id":"a","slot":"top","ends":"2026-12-04T18:00:00Z"},{"id":"b","slot":"top","ends":"2026-12-01T00:00:00Z"},`+
			`{"id":"c","slot":"bottom","ends":"2026-12-11T12:00:00Z"}]`,
		string(raw),
	)
	in := s.Schedule("a").Range(noon.AddDate(0, -1, 0), noon.AddDate(0, 1, 0))
	assert.Equal(t, []schedule.Interval{{From: noon.AddDate(0, 0, -10), Until: noon.Add(6 * time.Hour)}}, in)
}

// M4: an emergency is not held back by what the visitor did, but closed on this
// page view; the next page view, and an update, bring it back.
func TestEmergenciesComeBack(t *testing.T) {
	n := bar("a", level(bundle.Emergency), closed("ever"), published(1))
	n.Memory.Limits = []bundle.Limit{{Times: 1, Per: "P7D"}}
	s := compile(t, site(n))
	for _, c := range []struct {
		name   string
		closed time.Time
		view   time.Time
		shows  bool
	}{
		{"closed on an earlier page view", noon.Add(-time.Minute), noon, true},
		{"closed on this one", noon.Add(-time.Minute), noon.Add(-time.Hour), false},
		{"updated since it was closed", noon.AddDate(0, 0, -2), noon.AddDate(0, 0, -3), true},
		{"before the page view has begun", noon.Add(-time.Minute), time.Time{}, true},
	} {
		v := decide.Visit{
			URL: "/",
			At:  noon,
			Memory: decide.Memory{
				View:    c.view,
				Notices: map[string]decide.Acts{"a": {Closed: c.closed, Clicked: c.closed, Shown: []time.Time{c.closed}}},
			},
		}
		r := s.Explain(v)
		assert.Equal(t, c.shows, len(r.Show) == 1, c.name)
		assert.Equal(t, "M4", r.Explain[0].Steps[5].Rule)
	}
}

// Over random chains of hand-overs of every kind: an heir shows to a visitor exactly
// where one who hands over to it has run out for them, as the rule's text has it
// (rule C4), and never where its timeline says that it is not live.
func TestHeirsAsWritten(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	ids := []string{"a", "b", "c", "d"}
	zones := []string{"Europe/London", "Pacific/Kiritimati", "Pacific/Pago_Pago"}
	moment := func() string { return noon.Add(time.Duration(r.IntN(97)-48) * time.Hour).Format("2006-01-02T15:04") }
	shown := map[bool]int{}
	for range 3000 {
		var notices []bundle.Notice
		for i, id := range ids {
			var c *countdown.Countdown
			switch r.IntN(6) {
			case 0:
				c = &countdown.Countdown{Kind: countdown.To, At: moment()}
			case 1:
				c = &countdown.Countdown{Kind: countdown.To, At: moment(), Clock: "visitor"}
			case 2:
				c = &countdown.Countdown{Kind: countdown.Visitor, For: "PT5H"}
			case 3:
				c = &countdown.Countdown{Kind: countdown.Repeating, At: moment(), Rule: "FREQ=DAILY"}
			case 4:
				c = &countdown.Countdown{Kind: countdown.Repeating, At: moment(), Rule: "FREQ=DAILY;COUNT=2"}
			}
			// Each hands over to a later one, so that there is no circle.
			if c != nil && i < 3 {
				c.Then, c.HandTo = countdown.HandOver, ids[i+1+r.IntN(3-i)]
				notices = append(notices, bar(id, counts(*c)))
			} else {
				notices = append(notices, bar(id))
			}
			if r.IntN(3) == 0 { // such as one of a file that does not say it
				notices[i].PublishedAt = nil
			}
		}
		s := compile(t, site(notices...))
		at := noon.Add(time.Duration(r.IntN(145)-72) * time.Hour)
		zone := zones[r.IntN(3)]
		loc, err := time.LoadLocation(zone)
		require.NoError(t, err)
		v := decide.Visit{
			URL:    "/",
			At:     at,
			Facts:  map[string]any{"locale.zone": zone},
			Memory: decide.Memory{Notices: map[string]decide.Acts{}},
		}
		for _, id := range ids {
			if r.IntN(2) == 0 {
				v.Memory.Notices[id] = decide.Acts{Met: at.Add(-time.Duration(r.IntN(20)) * time.Hour)}
			}
		}
		// A second reading: has the countdown of a notice run out for good for this visitor?
		over := func(n bundle.Notice) bool {
			c := n.Countdown()
			local := func(l *time.Location) time.Time {
				m, err := time.ParseInLocation("2006-01-02T15:04", c.At, l)
				require.NoError(t, err)
				return m
			}
			clock, err := time.LoadLocation("Europe/London")
			require.NoError(t, err)
			switch {
			case c.Kind == countdown.To && c.Clock == "visitor":
				return !at.Before(local(loc))
			case c.Kind == countdown.To:
				return !at.Before(local(clock))
			case c.Kind == countdown.Visitor:
				met := v.Memory.Notices[n.ID].Met
				return !met.IsZero() && !at.Before(met.Add(5*time.Hour))
			case c.Rule == "FREQ=DAILY;COUNT=2":
				return !at.Before(local(clock).AddDate(0, 0, 1))
			}
			return false
		}
		d := s.Decide(v)
		for i, n := range notices {
			heir, handed := false, false
			for _, giver := range notices[:i] {
				if giver.Countdown() != nil && giver.Countdown().HandTo == n.ID {
					heir = true
					handed = handed || over(giver)
				}
			}
			want := (!heir || handed) && (n.Countdown() == nil || !over(n)) && !at.Before(n.GetPublishedAt())
			got := slices.ContainsFunc(d.Show, func(x decide.Shown) bool { return x.ID == n.ID }) ||
				slices.Contains(heldIDs(s, v), n.ID)
			// Nobody has met a notice before it can have shown to anyone.
			live, _ := s.Schedule(n.ID).SiteAt(at)
			if want && !live && heir {
				metBefore := false
				for _, giver := range notices[:i] {
					c := giver.Countdown()
					if c == nil || c.HandTo != n.ID || c.Kind != countdown.Visitor || !over(giver) {
						continue
					}
					began, _ := s.Schedule(giver.ID).SiteAt(v.Memory.Notices[giver.ID].Met)
					metBefore = metBefore || !began
				}
				require.True(t, metBefore, "%s at %s: its timeline is not live", n.ID, at)
				continue
			}
			require.Equal(t, want, got, "%s at %s in %s, met %v: %+v", n.ID, at, zone, v.Memory.Notices, notices)
			if heir {
				shown[got]++
			}
			if got {
				require.True(t, live, "%s shows and its timeline says it does not", n.ID)
			}
			res := s.Explain(v)
			for _, a := range res.Explain {
				why, failed := a.Reason()
				if failed && strings.Contains(why.Why, "without end") {
					require.False(t, a.Shows)
				}
				if failed && strings.Contains(why.Why, "has not met yet") {
					require.Equal(t, decide.GateMemory, why.Gate)
				}
			}
		}
	}
	assert.Greater(t, shown[true], 200)
	assert.Greater(t, shown[false], 200)
}

func heldIDs(s *decide.Site, v decide.Visit) []string {
	_, ids := s.DecideWithHeldBack(v)
	return ids
}

// The heir of a countdown without end never shows, and its timeline and reason say so;
// a number whose period a change of the clock empties is at its end at once.
func TestCountdownsWithoutEnd(t *testing.T) {
	handing := countdown.Countdown{
		Kind:   countdown.Repeating,
		At:     "2026-12-01T12:00",
		Rule:   "FREQ=DAILY",
		Then:   countdown.HandOver,
		HandTo: "b",
	}
	s := compile(t, site(bar("a", counts(handing)), bar("b")))
	assert.Empty(t, s.Schedule("b").Range(noon.AddDate(-1, 0, 0), noon.AddDate(5, 0, 0)))
	r := s.Explain(decide.Visit{URL: "/", At: noon})
	require.Len(t, r.Held, 1)
	assert.Equal(t, "It takes the place of “a”, whose countdown goes on without end.", r.Held[0].Why)

	to := 100
	emptied := countdown.Countdown{
		Kind:  countdown.Number,
		From:  0,
		To:    &to,
		At:    "2027-03-28T01:37",
		Until: "2027-03-28T02:07",
		Then:  countdown.Disappear,
	}
	s = compile(t, site(bar("n", counts(emptied))))
	begins := time.Date(2027, 3, 28, 1, 37, 0, 0, time.UTC)
	for at, shows := range map[time.Time]bool{
		begins.Add(-time.Second): true,
		begins:                   false,
		begins.AddDate(1, 0, 0):  false,
	} {
		assert.Equal(t, shows, len(s.Decide(decide.Visit{URL: "/", At: at}).Show) == 1, "%s", at)
	}
	assert.Equal(t, 100, s.Countdown("n").Value(begins.Add(time.Minute), time.UTC, time.Time{}))
	assert.Equal(t, 0, s.Countdown("n").Value(begins.Add(-time.Minute), time.UTC, time.Time{}))
}
