package consent_test

import (
	"encoding/csv"
	"fmt"
	"iter"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/consent"
	"mastflag/core/phrase"
)

var (
	at     = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	yes    = true
	no     = false
	cookie = func(name, purpose string) consent.Item {
		return consent.Item{Kind: consent.Cookie, Name: name, By: "Tidewater", Purpose: purpose, Lasts: "P30D"}
	}
	setup = consent.Setup{
		Purposes: []consent.Purpose{{ID: "measurement"}, {ID: "marketing"}},
		Inventory: []consent.Item{
			cookie("tw", "measurement"), cookie("gnt", "marketing"), cookie("basket", consent.Necessary),
		},
	}
)

// answered is an answer a month ago to all of a setup, with these granted.
func answered(s consent.Setup, granted ...string) consent.Answer {
	a := consent.Answer{ID: "a", At: at.AddDate(0, -1, 0), Granted: granted, Of: s.Marks()}
	for _, p := range s.AskedPurposes() {
		if !slices.Contains(granted, p) {
			a.Refused = append(a.Refused, p)
		}
	}
	return a
}

func weigh(s consent.Setup, q consent.Question, alter func(*consent.Visitor)) consent.State {
	v := consent.Visitor{At: at, Zone: time.UTC, Country: "DE"}
	alter(&v)
	return consent.Compile(s, q, consent.Table).At(v)
}

// What a place wants (rule K1), and what goes ahead there without an answer
// (rule K4).
func TestPlaces(t *testing.T) {
	all := []string{"necessary", "measurement", "marketing"}
	for _, c := range []struct {
		says            string
		country, region string
		own             []consent.PlaceRule
		unlisted        consent.Rule
		rule            consent.Rule
		row             string
		granted         []string
		shows, open     bool
	}{
		{"opt-in: nothing before the answer", "DE", "DE-HH", nil, "", consent.OptIn, "DE", []string{"necessary"}, true, true},
		{"a region has a row of its own", "US", "US-CA", nil, "", consent.OptOut, "US-CA", all, true, false},
		{"another of the same country has not", "US", "US-WY", nil, "", consent.Notice, "US", all, true, false},
		{
			"a region stricter than its country", "CA", "CA-QC", nil, "", consent.OptIn, "CA-QC", []string{"necessary"}, true,
			true,
		},
		{"no row: as the site wants it, opt-in", "AQ", "", nil, "", consent.OptIn, "", []string{"necessary"}, true, true},
		{"no row: as the site wants it, nothing", "AQ", "", nil, consent.Nothing, consent.Nothing, "", all, false, false},
		{
			"the site's own row goes before the table's", "DE", "", []consent.PlaceRule{{Place: "DE", Rule: consent.Notice}}, "",
			consent.Notice, "DE", all, true, false,
		},
		{
			"nobody knows where: the strictest of all", "", "", []consent.PlaceRule{{Place: "DE", Rule: consent.Notice}},
			consent.Nothing, consent.OptIn, "", []string{"necessary"}, true, true,
		},
	} {
		s := setup
		s.Places, s.Unlisted = c.own, c.unlisted
		got := weigh(s, consent.Question{}, func(v *consent.Visitor) { v.Country, v.Region = c.country, c.region })
		assert.Equal(t, c.rule, got.Rule, c.says)
		assert.Equal(t, c.row, got.Place, c.says)
		assert.Equal(t, c.granted, got.Granted, c.says)
		assert.Equal(t, [2]bool{c.shows, c.open}, [2]bool{got.Shows, got.Open}, c.says)
		assert.Contains(t, got.Why, map[consent.Rule]string{
			consent.OptIn: "nothing is set before the visitor agrees.", consent.OptOut: "the visitor is told, and may object.",
			consent.Notice: "the visitor is told.", consent.Nothing: "nothing is asked and nothing is told.",
		}[c.rule], c.says)
		if c.row != "" {
			assert.Contains(t, got.Why, "In "+c.row+" ", c.says)
		}
	}
	assert.Equal(
		t, "Do Not Sell or Share My Personal Information",
		weigh(setup, consent.Question{}, func(v *consent.Visitor) { v.Country, v.Region = "US", "US-CA" }).Row.Words,
	)
}

// How long an answer holds (rule K2).
func TestWhatAnAnswerIsWorth(t *testing.T) {
	london, err := time.LoadLocation("Europe/London")
	require.NoError(t, err)
	with := func(change func(*consent.Setup)) consent.Setup {
		s := setup
		s.Inventory, s.Purposes = slices.Clone(s.Inventory), slices.Clone(s.Purposes)
		change(&s)
		return s
	}
	for _, c := range []struct {
		says  string
		now   consent.Setup
		given consent.Answer
		holds bool
	}{
		{"it holds", setup, answered(setup, "measurement"), true},
		{
			"other words for a thing", with(func(s *consent.Setup) { s.Inventory[0].For = map[string]string{"en": "Counts"} }),
			answered(setup, "measurement"), true,
		},
		{"other words for a purpose", with(func(s *consent.Setup) {
			s.Purposes[0].Words = map[string]consent.PurposeWords{"en": {Name: "Counting"}}
		}), answered(setup, "measurement"), true},
		{
			"one thing less", with(func(s *consent.Setup) { s.Inventory = s.Inventory[1:] }), answered(setup, "measurement"),
			true,
		},
		{
			"one thing more in what was agreed to",
			with(func(s *consent.Setup) { s.Inventory = append(s.Inventory, cookie("tw2", "measurement")) }),
			answered(setup, "measurement"), false,
		},
		{
			"one thing more in what was refused",
			with(func(s *consent.Setup) { s.Inventory = append(s.Inventory, cookie("gnt2", "marketing")) }),
			answered(setup, "measurement"), true,
		},
		{
			"one thing more that is strictly necessary",
			with(func(s *consent.Setup) { s.Inventory = append(s.Inventory, cookie("lang", consent.Necessary)) }),
			answered(setup, "measurement"), true,
		},
		{
			"another recipient", with(func(s *consent.Setup) { s.Inventory[0].By = "Brine" }), answered(setup, "measurement"),
			false,
		},
		{"kept longer", with(func(s *consent.Setup) { s.Inventory[0].Lasts = "P2Y" }), answered(setup, "measurement"), false},
		{
			"moved to a purpose that was agreed to", with(func(s *consent.Setup) { s.Inventory[1].Purpose = "measurement" }),
			answered(setup, "measurement"), false,
		},
		{
			"a purpose more",
			with(func(s *consent.Setup) { s.Purposes = append(s.Purposes, consent.Purpose{ID: "preferences"}) }),
			answered(setup, "measurement"), false,
		},
		{
			"a purpose less", with(func(s *consent.Setup) { s.Purposes, s.Inventory = s.Purposes[:1], s.Inventory[:1] }),
			answered(setup, "measurement"), true,
		},
	} {
		got := weigh(c.now, consent.Question{}, func(v *consent.Visitor) { v.Answer = c.given })
		assert.Equal(t, c.holds, got.Answered, c.says)
		assert.Equal(t, !c.holds, got.Open, c.says)
		if !c.holds && c.says != "a purpose more" {
			assert.Equal(t, []string{"necessary"}, got.Granted, "%s: what was agreed to before goes", c.says)
		}
	}
	// Purpose by purpose: what has changed in one leaves the others as they were.
	both := answered(setup, "measurement", "marketing")
	got := weigh(
		with(func(s *consent.Setup) { s.Inventory = append(s.Inventory, cookie("gnt2", "marketing")) }), consent.Question{},
		func(v *consent.Visitor) { v.Answer = both },
	)
	assert.Equal(t, []string{"necessary", "measurement"}, got.Granted)
	assert.True(t, got.Open && !got.Answered)
	part := consent.Answer{At: at, Granted: []string{"marketing"}, Of: setup.Marks()} // a frame was allowed
	got = weigh(setup, consent.Question{}, func(v *consent.Visitor) { v.Answer = part })
	assert.Equal(t, []string{"necessary", "marketing"}, got.Granted)
	assert.True(t, got.Open, "the rest is still to be answered")
	// Who was only told, and goes where the rule is opt-in, has not agreed to anything there.
	told := answered(setup, "measurement")
	told.Rule = consent.Notice
	got = weigh(setup, consent.Question{}, func(v *consent.Visitor) { v.Answer = told })
	assert.Equal(t, []string{"necessary"}, got.Granted)
	assert.True(t, got.Open)
	got = weigh(setup, consent.Question{}, func(v *consent.Visitor) { v.Answer, v.Country = told, "JP" })
	assert.Equal(t, []string{"necessary", "measurement"}, got.Granted)
	assert.True(t, got.Answered)
	objected := consent.Answer{At: at, Refused: []string{"marketing"}}
	got = weigh(
		setup, consent.Question{}, func(v *consent.Visitor) { v.Answer, v.Country, v.Region = objected, "US", "US-CA" },
	)
	assert.Equal(t, []string{"necessary", "measurement"}, got.Granted, "what was objected to stays so")

	// Calendar days where the visitor is: 30 days over the change of the clock.
	given := time.Date(2026, 10, 10, 12, 0, 0, 0, london)
	for offset, holds := range map[time.Duration]bool{-time.Second: true, 0: false} {
		got := weigh(setup, consent.Question{ValidFor: "P30D"}, func(v *consent.Visitor) {
			v.Answer = answered(setup, "marketing")
			v.Answer.At, v.Zone = given, london
			v.At = time.Date(2026, 11, 9, 12, 0, 0, 0, london).Add(offset)
		})
		assert.Equal(t, holds, got.Answered, offset)
	}
	// Without a word about it 180 days.
	for later, holds := range map[int]bool{179: true, 180: false} {
		got := weigh(setup, consent.Question{}, func(v *consent.Visitor) {
			v.Answer = answered(setup, "marketing")
			v.Answer.At, v.At = at, at.AddDate(0, 0, later)
		})
		assert.Equal(t, holds, got.Answered, later)
	}
	// Agreement for a year, refusals for a day: each is asked about again by itself.
	apart := consent.Question{ValidFor: "P1Y", RefusalValidFor: "P1D"}
	for _, c := range []struct {
		granted []string
		later   time.Duration
		holds   bool
		why     string
	}{
		{nil, 23 * time.Hour, true, "until 5 Nov 2026"},
		{nil, 25 * time.Hour, false, `what was refused for "measurement" held until 5 Nov 2026`},
		{[]string{"measurement"}, 23 * time.Hour, true, "until 5 Nov 2026"},
		{[]string{"measurement"}, 25 * time.Hour, false, `what was refused for "marketing" held until 5 Nov 2026`},
		{[]string{"measurement", "marketing"}, 25 * time.Hour, true, "until 4 Nov 2027"},
		{[]string{"measurement", "marketing"}, 366 * 24 * time.Hour, false, "the last answer held until 4 Nov 2027"},
	} {
		got := weigh(setup, apart, func(v *consent.Visitor) {
			v.Answer = answered(setup, c.granted...)
			v.At = v.Answer.At.Add(c.later)
		})
		assert.Equal(t, c.holds, got.Answered, "%v after %v", c.granted, c.later)
		assert.Contains(t, got.Why, c.why)
		if len(c.granted) == 1 {
			assert.Equal(t, []string{"necessary", "measurement"}, got.Granted, "what was agreed to stays")
		}
	}
	// A visitor's clock that runs ahead makes no answer that holds for ever.
	for ahead, holds := range map[time.Duration]bool{time.Hour: true, 48 * time.Hour: false} {
		got := weigh(setup, consent.Question{}, func(v *consent.Visitor) {
			v.Answer = answered(setup, "marketing")
			v.Answer.At = at.Add(ahead)
		})
		assert.Equal(t, holds, got.Answered, ahead)
	}
	// Whatever an answer says, it lets nothing ahead that it does not speak of.
	r := rand.New(rand.NewPCG(1, 2))
	pick := func() (out []string) {
		for _, p := range []string{"measurement", "marketing", "films", "necessary", ""} {
			if r.IntN(2) == 0 {
				out = append(out, p)
			}
		}
		return out
	}
	for range 3000 {
		a := consent.Answer{
			At:      at.AddDate(0, 0, -r.IntN(400)),
			Granted: pick(),
			Refused: pick(),
			Of:      setup.Marks(),
			Signal:  r.IntN(2) == 0,
		}
		got := weigh(setup, consent.Question{}, func(v *consent.Visitor) { v.Answer, v.Signal = a, r.IntN(2) == 0 })
		for _, p := range got.Granted {
			assert.True(
				t,
				p == consent.Necessary || !got.Until.IsZero() && slices.Contains(a.Granted, p) &&
					slices.Contains(setup.AskedPurposes(), p),
				"%v grants %s", a, p,
			)
		}
	}
}

// The Global Privacy Control specification, as far as it speaks to sites (its
// sections 3 and 4, from memory): a signal is a preference not to be sold or
// shared; it counts where the law of a place, or the site, lets it; what a
// person expressly chose on the site itself goes before it (rule K5).
func TestPrivacySignal(t *testing.T) {
	sold := setup
	sold.Purposes = []consent.Purpose{{ID: "measurement", Signal: &yes}, {ID: "marketing", Signal: &no}}
	ignoring := setup
	ignoring.Places = []consent.PlaceRule{{Place: "US-CA", Rule: consent.OptOut, Signal: "ignore"}}
	knew := answered(setup, "measurement", "marketing")
	knew.Signal = true
	for _, c := range []struct {
		says    string
		setup   consent.Setup
		alter   func(*consent.Visitor)
		granted []string
		counts  bool
	}{
		{
			"no signal, opt-out: all", setup, func(v *consent.Visitor) { v.Country, v.Region = "US", "US-CA" },
			[]string{"necessary", "measurement", "marketing"}, false,
		},
		{
			"a signal, opt-out: not what sells", setup,
			func(v *consent.Visitor) { v.Country, v.Region, v.Signal = "US", "US-CA", true },
			[]string{"necessary", "measurement"}, true,
		},
		{
			"a site says itself what sells", sold,
			func(v *consent.Visitor) { v.Country, v.Region, v.Signal = "US", "US-CA", true }, []string{"necessary", "marketing"},
			true,
		},
		{
			"a place where it does not count", ignoring,
			func(v *consent.Visitor) { v.Country, v.Region, v.Signal = "US", "US-CA", true },
			[]string{"necessary", "measurement", "marketing"}, false,
		},
		{"opt-in: nothing anyway", setup, func(v *consent.Visitor) { v.Signal = true }, []string{"necessary"}, true},
		{"an answer from before the signal", setup, func(v *consent.Visitor) {
			v.Signal, v.Answer = true, answered(setup, "measurement", "marketing")
		}, []string{"necessary", "measurement"}, true},
		{
			"an answer that knew of it", setup, func(v *consent.Visitor) { v.Signal, v.Answer = true, knew },
			[]string{"necessary", "measurement", "marketing"}, true,
		},
	} {
		got := weigh(c.setup, consent.Question{}, c.alter)
		assert.Equal(t, c.granted, got.Granted, c.says)
		assert.Equal(t, c.counts, got.Signal, c.says)
	}
}

func TestAskedAgainByWish(t *testing.T) {
	got := weigh(
		setup, consent.Question{}, func(v *consent.Visitor) { v.Answer, v.Again = answered(setup, "marketing"), true },
	)
	assert.True(t, got.Shows)
	assert.False(t, got.Open, "what waits for the question does not wait for who has answered")
	assert.Equal(t, []string{"necessary", "marketing"}, got.Granted, "until there is another answer the last one holds")
}

// The table that ships, and what changes in it.
func TestTable(t *testing.T) {
	seen := map[string]bool{}
	for _, p := range consent.Table {
		assert.False(t, seen[p.Place+p.Date], p.Place)
		seen[p.Place+p.Date] = true
		assert.NotEmpty(t, p.Source, p.Place)
	}
	table, err := consent.ReadTable("# about\nAA,opt-out,honour,,old text,2026-01-01,\nAA,notice,honour,,new " +
		"text,2026-06-01,2026-07-01\nBB,notice,ignore,,a text,2026-06-01,\n")
	require.NoError(t, err)
	assert.Equal(t, []string{"", "2026-07-01", ""}, []string{table[0].Checked, table[1].Checked, table[2].Checked})
	rule := func(read, place string) consent.Rule {
		return consent.Setup{TableRead: read}.InForce(table)[place].Rule
	}
	assert.Equal(t, consent.Notice, rule("", "AA"), "all is read where nobody said up to when")
	assert.Equal(t, consent.Notice, rule("2026-06-01", "AA"))
	assert.Equal(t, consent.OptOut, rule("2026-01-01", "AA"), "until it is read the stricter holds")
	_, has := consent.Setup{TableRead: "2026-01-01"}.InForce(table)["BB"]
	assert.False(t, has, "and a new row that is laxer than what places without one get")
	assert.Equal(t, []consent.TableChange{
		{Now: table[1], Before: table[0]}, {Now: table[2]},
	}, consent.Changes(table, "2026-01-01"))
	assert.Empty(t, consent.Changes(table, ""))
	for _, bad := range []string{
		"AA,opt-in,honour,,x\n", "AA,maybe,honour,,x,2026-01-01,\n", "AA,opt-in,honour,,x,yesterday,\n",
		"AA,opt-in,perhaps,,x,2026-01-01,\n", "AA,opt-in,honour,,x,2026-01-01,soon\n",
	} {
		_, err := consent.ReadTable(bad)
		assert.Error(t, err, bad)
	}
}

func TestRefusedSetups(t *testing.T) {
	for pointer, s := range map[string]consent.Setup{
		"/purposes/0/id":       {Purposes: []consent.Purpose{{ID: "necessary"}}},
		"/purposes/1/id":       {Purposes: []consent.Purpose{{ID: "marketing"}, {ID: "marketing"}}},
		"/purposes/0/words":    {Purposes: []consent.Purpose{{ID: "films"}}},
		"/inventory/0/purpose": {Inventory: []consent.Item{cookie("a", "films")}},
		"/inventory/0/lasts":   {Inventory: []consent.Item{{Kind: consent.Cookie, Name: "a", Lasts: "long"}}},
		"/inventory/1":         {Inventory: []consent.Item{cookie("a", ""), cookie("a", "necessary")}},
		"/places/0/date":       {Places: []consent.PlaceRule{{Place: "DE", Rule: consent.OptIn, Date: "soon"}}},
		"/tableRead":           {TableRead: "yesterday"},
		"/keep":                {Keep: "always"},
	} {
		faults := s.Check()
		require.Len(t, faults, 1, pointer)
		assert.Equal(t, pointer, faults[0].Pointer)
		assert.NotEmpty(t, faults[0].Remedy, pointer)
	}
	assert.Empty(t, setup.Check())
	assert.Equal(t, "/holds", consent.Question{ValidFor: "6 months"}.Check(setup)[0].Pointer)
	assert.Equal(t, "/ticked/0", consent.Question{Preticked: []string{"films"}}.Check(setup)[0].Pointer)
	assert.Empty(t, consent.Question{ValidFor: "P180D", Preticked: []string{"marketing"}}.Check(setup))
	both := consent.Question{ValidFor: "6 months", RefusalValidFor: "a day"}.Check(setup)
	require.Len(t, both, 2)
	assert.Equal(t, []string{"/holds", "/refusalHolds"}, []string{both[0].Pointer, both[1].Pointer}, "in this order")
	assert.Len(t, consent.Question{ValidFor: "6 months"}.Check(setup), 1)
}

func TestHowLongAnswersMayHold(t *testing.T) {
	for _, c := range []struct {
		agreeing, refusing        string
		long, longRefusal, sooner bool
	}{
		{"", "", false, false, false},
		{"P13M", "", false, false, false},
		{"P400D", "", true, true, false},
		{"P400D", "P1M", true, false, true},
		{"PT1H", "P400D", false, true, false},
		{"P1Y", "P12M", false, false, false},
		{"P1Y", "PT23H", false, false, true},
		{"nonsense", "", false, false, false}, // which Check refuses
	} {
		q := consent.Question{ValidFor: c.agreeing, RefusalValidFor: c.refusing}
		long, longRefusal := q.TooLong()
		assert.Equal(
			t, [3]bool{c.long, c.longRefusal, c.sooner}, [3]bool{long, longRefusal, q.AsksRefusersSooner()}, "%+v", q,
		)
	}
}

func TestFits(t *testing.T) {
	for _, c := range []struct {
		pattern, name string
		fits          bool
	}{
		{"tw", "tw", true}, {"tw", "tw2", false}, {"tw*", "tw2", true}, {"*", "", true}, {"a*c*e", "abcde", true},
		{"a*c*e", "ace", true}, {"a*bb*bb*c", "abbbc", false}, {"a*bb*bb*c", "abbbbc", true},
		{"a*c*e", "abde", false}, {"ab*ba", "aba", false}, {"*_id", "x_id", true}, {"", "x", false},
	} {
		assert.Equal(t, c.fits, consent.Item{Kind: consent.Cookie, Name: c.pattern}.Fits(consent.Cookie, c.name, ""), c)
	}
	assert.False(t, cookie("tw", "").Fits(consent.Storage, "tw", ""))
	assert.False(t, consent.Item{
		Kind: consent.Cookie,
		Name: "tw",
		Host: "a.example",
	}.Fits(consent.Cookie, "tw", "b.example"))
	assert.True(t, consent.Item{
		Kind: consent.Cookie,
		Name: "tw",
		Host: ".A.example",
	}.Fits(consent.Cookie, "tw", "a.example"))
}

const id = "00112233445566778899aabbccddeeff"

// What a page tells becomes a record only if it answers what was asked.
func TestRecord(t *testing.T) {
	asked := setup.AskedPurposes()
	told := func(alter func(*consent.Submission)) consent.Submission {
		x := consent.Submission{
			ID:      id,
			Hash:    "h",
			Granted: []string{"measurement"},
			Refused: []string{"marketing"},
			How:     "button",
			Page:    "/fares?from=mail#x",
		}
		alter(&x)
		return x
	}
	r, err := told(func(*consent.Submission) {}).Record(asked, consent.OptIn, at)
	require.NoError(t, err)
	assert.Equal(t, consent.Chosen, r.EventType)
	assert.Equal(t, "/fares", r.Page)
	assert.JSONEq(
		t,
		`{"schema_version":"mastflag.record/1","record_id":"`+id+
			`","event_time":"2026-12-04T12:00:00Z","event_type":"chosen","notice":"","notice_version":"","notice_hash":"h",`+
			`"language":"","place_rule":"opt-in",
		"purposes":[{"purpose":"measurement","event_state":"consent_given"},{"purpose":"marketing",`+
			`"event_state":"consent_refused"}],"method":"button","page":"/fares"}`,
		string(r.Body()),
	)
	all, err := told(func(x *consent.Submission) {
		x.Granted, x.Refused, x.Page = asked, nil, "/"+strings.Repeat("x", 2047)
	}).Record(asked, consent.OptIn, at)
	require.NoError(t, err)
	assert.Equal(t, consent.Accepted, all.EventType)
	none, err := told(func(x *consent.Submission) { x.Granted, x.Refused = nil, asked }).Record(asked, consent.OptIn, at)
	require.NoError(t, err)
	assert.Equal(t, consent.Refused, none.EventType)
	far := told(func(x *consent.Submission) { x.Page = "/" + strings.Repeat("x", 2048) })
	_, err = far.Record(asked, consent.OptIn, at)
	assert.ErrorContains(t, err, "is not the path of a page")
	later, err := told(func(*consent.Submission) {}).Record(asked, consent.OptIn, at.Add(time.Hour))
	require.NoError(t, err)
	assert.True(t, r.Same(later), "told again it is the same answer")
	for want, alter := range map[string]func(*consent.Submission){
		"hexadecimal":              func(x *consent.Submission) { x.ID = "me" },
		"none of button":           func(x *consent.Submission) { x.How = "mind reading" },
		"no signal came":           func(x *consent.Submission) { x.How = "signal" },
		"not the path":             func(x *consent.Submission) { x.Page = "https://elsewhere.example/" },
		`"films" was not asked`:    func(x *consent.Submission) { x.Granted = []string{"films", "measurement"} },
		"either granted or":        func(x *consent.Submission) { x.Refused = nil },
		"granted or refused":       func(x *consent.Submission) { x.Refused = []string{"measurement", "marketing"} },
		"no answer where the rule": func(x *consent.Submission) { x.How = "going-on" },
		`"necessary" was not`:      func(x *consent.Submission) { x.Granted = []string{"necessary", "measurement"} },
	} {
		_, err := told(alter).Record(asked, consent.OptIn, at)
		assert.ErrorContains(t, err, want)
	}
	_, err = told(func(x *consent.Submission) { x.How = "closing" }).Record(asked, consent.OptOut, at)
	assert.NoError(t, err)
	r, err = told(func(x *consent.Submission) { x.How, x.Refused = "frame", nil }).Record(asked, consent.OptIn, at)
	require.NoError(t, err, "a frame that is allowed answers for itself")
	assert.Equal(t, []consent.Outcome{{Purpose: "measurement", EventState: consent.Given}}, r.Purposes)
}

// chain makes a chain of records, some of which were erased.
func chain(n int, r *rand.Rand) ([]consent.Link, consent.Head) {
	var links []consent.Link
	var head consent.Head
	put := func(body []byte) {
		salt := make([]byte, 16)
		for i := range salt {
			salt[i] = byte(r.IntN(256))
		}
		links = append(links, head.Next(salt, body))
		head = links[len(links)-1].Head()
	}
	for i := range n {
		rec := consent.Record{
			SchemaVersion: consent.RecordSchema,
			RecordID:      fmt.Sprintf("%032x", i),
			EventTime:     at,
			EventType:     consent.Accepted,
		}
		put(rec.Body())
	}
	for range r.IntN(3) {
		k := r.IntN(n)
		if links[k].Body != nil {
			links[k].Body, links[k].Salt = nil, nil
			put(consent.NewErasure(at, "visitor", []int64{int64(k + 1)}).Body())
		}
	}
	return links, head
}

func each(links []consent.Link) iter.Seq2[consent.Link, error] {
	return func(yield func(consent.Link, error) bool) {
		for _, l := range links {
			if !yield(l, nil) {
				return
			}
		}
	}
}

// The table has a column for every purpose that is or was asked about, a row
// for every place in the chain, and nothing of what was erased.
func TestRecordsAsTable(t *testing.T) {
	record := func(id byte, o ...consent.Outcome) []byte {
		return consent.Record{
			SchemaVersion: consent.RecordSchema,
			RecordID:      strings.Repeat(string(id), 32),
			EventTime:     at,
			EventType:     consent.Chosen,
			Page:          "/fares",
			Purposes:      o,
		}.Body()
	}
	var links []consent.Link
	var head consent.Head
	for _, body := range [][]byte{
		record('a', consent.Outcome{
			Purpose:    "films",
			EventState: consent.Given,
		}, consent.Outcome{Purpose: "measurement", EventState: consent.Denied}),
		record('b', consent.Outcome{Purpose: "measurement", EventState: consent.Given}),
		consent.NewErasure(at, "visitor", []int64{2}).Body(),
	} {
		links = append(links, head.Next([]byte("salt"), body))
		head = links[len(links)-1].Head()
	}
	links[1].Salt, links[1].Body = nil, nil
	var b strings.Builder
	require.NoError(t, consent.WriteRecords(&b, []string{"measurement"}, each(links)))
	rows, err := csv.NewReader(strings.NewReader(b.String())).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 4)
	cell := func(row int, name string) string { return rows[row][slices.Index(rows[0], name)] }
	assert.Equal(t, []string{
		"consent_refused", "consent_given", "/fares",
	}, []string{cell(1, "purpose measurement"), cell(1, "purpose films"), cell(1, "page")})
	assert.Equal(t, []string{
		"2", "", "", links[1].Hash.String(),
	}, []string{cell(2, "seq"), cell(2, "record_id"), cell(2, "purpose measurement"), cell(2, "hash")})
	assert.Equal(t, []string{"erased", "2026-12-04T12:00:00.000Z"}, []string{cell(3, "event_type"), cell(3, "event_time")})

	// What is no record is said, and nothing is made of it.
	links = append(links, head.Next([]byte("salt"), []byte("no record")))
	assert.ErrorContains(t, consent.WriteRecords(&b, nil, each(links)), "record 4 cannot be read")
	_, err = consent.Verify(each(links), links[3].Head())
	assert.ErrorContains(t, err, "record 4 cannot be read")
}

// Whatever single record is altered, dropped, put in twice or moved, and
// whatever part of one: it is found.
func TestChainFindsAnyTampering(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 300 {
		links, head := chain(2+r.IntN(8), r)
		p, err := consent.Verify(each(links), head)
		require.NoError(t, err)
		require.Equal(t, head, p.Head)
		flip := func(b []byte) []byte {
			b = slices.Clone(b)
			b[r.IntN(len(b))] ^= 1 << r.IntN(8)
			return b
		}
		i := r.IntN(len(links))
		bad := slices.Clone(links)
		kind := r.IntN(9)
		switch l := &bad[i]; kind {
		case 0:
			bad = slices.Delete(bad, i, i+1)
		case 1:
			bad = slices.Insert(bad, i, bad[i])
		case 2:
			j := r.IntN(len(links))
			if i == j {
				continue
			}
			bad[i], bad[j] = bad[j], bad[i]
		case 3:
			if l.Body == nil {
				continue
			}
			l.Body = flip(l.Body)
		case 4:
			if l.Body == nil {
				continue
			}
			l.Body, l.Salt = nil, nil // erased without saying so
		case 5:
			l.Commitment = consent.Digest(flip(l.Commitment[:]))
		case 6:
			l.Hash = consent.Digest(flip(l.Hash[:]))
		case 7: // made anew from there, as someone would who can write to the file
			h := consent.Head{}
			if i > 0 {
				h = bad[i-1].Head()
			}
			for k := i; k < len(bad); k++ {
				body := bad[k].Body
				if k == i {
					body = []byte(`{"event_type":"accepted"}`)
				}
				if body == nil {
					body = []byte(`{}`)
				}
				bad[k] = h.Next([]byte("salt"), body)
				h = bad[k].Head()
			}
		case 8:
			l.Seq++
		}
		_, err = consent.Verify(each(bad), head)
		assert.Error(t, err, "kind %d at %d", kind, i)
	}
	_, err := consent.Verify(each(nil), consent.Head{})
	assert.NoError(t, err, "nothing is a chain")
}

// A purpose is called by its own words, by those said in place of the program's, or by the
// program's, in its language first.
func TestPurposeWords(t *testing.T) {
	own := consent.Purpose{
		ID:    "films",
		Words: map[string]consent.PurposeWords{"en": {Name: "Films"}, "de": {Name: "Filme"}},
	}
	said := phrase.Own{"marketing": "Werbung", "marketing.text": "Zeigt Werbung."}
	for want, got := range map[string]consent.PurposeWords{
		"Filme":         own.In("de-AT", "en", nil),
		"Films":         own.In("pl", "en", nil),
		"Einstellungen": consent.Purpose{ID: "preferences"}.In("de-CH", "en", said),
		"Werbung":       consent.Purpose{ID: "marketing"}.In("de", "en", said),
		"Marketing":     consent.Purpose{ID: "marketing"}.In("en", "de", nil),
		"Anuncios":      consent.Purpose{ID: "marketing"}.In("es", "en", phrase.Own{"marketing": "Anuncios"}),
		"films":         consent.Purpose{ID: "films"}.In("es", "en", nil),
	} {
		assert.Equal(t, want, got.Name)
	}
	for _, id := range []string{"preferences", "measurement", "marketing"} {
		assert.True(t, consent.Known(id))
	}
	assert.False(t, consent.Known(consent.Necessary), "nobody is asked about it")
	assert.False(t, consent.Known("accept"))
}

// What another site lists is offered for what this one does not list, and for a purpose that
// both have.
func TestOffered(t *testing.T) {
	here := consent.Setup{Purposes: []consent.Purpose{{ID: "measurement"}}}
	row := consent.Item{Kind: consent.Cookie, Name: "tide_*", Host: "counts.example", Purpose: "measurement"}
	for _, c := range []struct {
		name  string
		thing consent.DetectedItem
		row   consent.Item
		ok    bool
	}{
		{"fits", consent.DetectedItem{Kind: consent.Cookie, Name: "tide_1", Host: "counts.example", Item: -1}, row, true},
		{"is listed here", consent.DetectedItem{Kind: consent.Cookie, Name: "tide_1", Host: "counts.example"}, row, false},
		{"another name", consent.DetectedItem{Kind: consent.Cookie, Name: "ebb_1", Item: -1}, row, false},
		{"another kind", consent.DetectedItem{Kind: consent.Storage, Name: "tide_1", Item: -1}, row, false},
		{"another host", consent.DetectedItem{Kind: consent.Cookie, Name: "tide_1", Host: "x.example", Item: -1}, row, false},
		{
			"a purpose that is not asked about here", consent.DetectedItem{Kind: consent.Cookie, Name: "tide_1", Item: -1},
			consent.Item{Kind: consent.Cookie, Name: "tide_*", Purpose: "marketing"}, false,
		},
		{
			"strictly necessary", consent.DetectedItem{Kind: consent.Cookie, Name: "tide_1", Item: -1},
			consent.Item{Kind: consent.Cookie, Name: "tide_*", Purpose: consent.Necessary}, true,
		},
	} {
		got, ok := here.Offered(c.thing, consent.Setup{Inventory: []consent.Item{c.row}})
		assert.Equal(t, c.ok, ok, c.name)
		if ok {
			assert.Equal(t, c.row, got, c.name)
		}
	}
}
