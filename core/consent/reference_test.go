package consent_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/consent"
)

// A second, plain reading of the rules K1 to K5 from their text, for setups whose
// items do not change between answer and visit but in one way.
type reference struct {
	setup               consent.Setup
	table               []consent.PlaceRule
	holds, refusalHolds time.Duration
	// Purposes with an item that was not there when the answer was given.
	changed []string
}

// strictness is how strict a rule is.
var strictness = map[consent.Rule]int{consent.Nothing: 0, consent.Notice: 1, consent.OptOut: 2, consent.OptIn: 3}

// row returns what the table and the site say of one place, and of what a region
// that they say nothing of falls back on; ok is false if they say nothing.
func (f reference) row(place string) (rule consent.PlaceRule, ok bool) {
	for _, p := range f.setup.Places {
		if p.Place == place {
			return p, true
		}
	}
	var rows []consent.PlaceRule
	for _, p := range f.table {
		if p.Place == place {
			rows = append(rows, p)
		}
	}
	slices.SortStableFunc(rows, func(a, b consent.PlaceRule) int {
		if a.Date < b.Date {
			return -1
		}
		return boolToInt(a.Date > b.Date)
	})
	for _, p := range rows {
		old := f.setup.Unlisted
		if old == "" {
			old = consent.OptIn
		}
		if len(place) > 2 {
			if c, has := f.row(place[:2]); has {
				old = c.Rule
			}
		}
		if ok {
			old = rule.Rule
		}
		read := f.setup.TableRead == "" || p.Date <= f.setup.TableRead
		if read || strictness[p.Rule] >= strictness[old] {
			rule, ok = p, true
		}
	}
	return rule, ok
}

func boolToInt(b bool) int {
	if b {
		return 1
	}
	return 0
}

func (f reference) place(country, region string) consent.PlaceRule {
	unlisted := f.setup.Unlisted
	if unlisted == "" {
		unlisted = consent.OptIn
	}
	if r, ok := f.row(region); ok && region != "" {
		return r
	}
	if r, ok := f.row(country); ok && country != "" {
		return r
	}
	if country != "" {
		return consent.PlaceRule{Rule: unlisted}
	}
	strictest := unlisted
	seen := map[string]bool{}
	for _, p := range append(slices.Clone(f.table), f.setup.Places...) {
		if r, ok := f.row(p.Place); ok && !seen[p.Place] {
			seen[p.Place] = true
			if strictness[r.Rule] > strictness[strictest] {
				strictest = r.Rule
			}
		}
	}
	return consent.PlaceRule{Rule: strictest}
}

// at returns what may go ahead, and whether the notice shows and as an open question.
func (f reference) at(v consent.Visitor) (granted []string, shows, open bool) {
	p := f.place(v.Country, v.Region)
	a := v.Answer
	counts := !a.At.IsZero() && !a.At.After(v.At.Add(24*time.Hour))
	holds, refusalHolds := counts && v.At.Before(a.At.Add(f.holds)), counts && v.At.Before(a.At.Add(f.refusalHolds))
	signal := v.Signal && (p.Signal == "" || p.Signal == "honour")
	allAnswered := holds || refusalHolds
	granted = []string{"necessary"}
	for _, purpose := range f.setup.Purposes {
		id := purpose.ID
		agreed := holds && slices.Contains(a.Granted, id) && !slices.Contains(f.changed, id)
		if p.Rule == consent.OptIn && a.Rule != "" && a.Rule != consent.OptIn {
			agreed = false
		}
		// An answer that lists a purpose as granted does not refuse it.
		refused := refusalHolds && slices.Contains(a.Refused, id) && !slices.Contains(a.Granted, id)
		if !agreed && !refused {
			allAnswered = false
		}
		ahead := agreed
		if p.Rule != consent.OptIn {
			ahead = !refused
		}
		refusedBySignal := signal && (purpose.Signal == nil && id == "marketing" || purpose.Signal != nil && *purpose.Signal)
		if refusedBySignal && !(a.Signal && (agreed || refused)) {
			ahead = false
		}
		if ahead {
			granted = append(granted, id)
		}
	}
	// Where everything is answered only what was granted goes ahead; that is the same.
	shows = v.Again || !allAnswered && p.Rule != consent.Nothing
	open = !v.Again && !allAnswered && p.Rule == consent.OptIn
	return granted, shows, open
}

// The program against the second reading, over random tables, sites, answers and
// visitors (rules K1 to K5).
func TestConsentAsWritten(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	rule := func() consent.Rule { return consent.Rules[r.IntN(len(consent.Rules))] }
	purposes := []string{"preferences", "measurement", "marketing"}
	places := []string{"DE", "US", "US-CA", "US-NY", "CA", "CA-QC"}
	dates := []string{"2026-01-01", "2026-06-01", "2026-11-01"}
	some := func(of []string) (out []string) {
		for _, p := range of {
			if r.IntN(2) == 0 {
				out = append(out, p)
			}
		}
		return out
	}
	differ := map[string]int{}
	for range 20_000 {
		days := func() int { return []int{1, 30, 80}[r.IntN(3)] }
		agree, refuse := days(), days()
		f := reference{holds: time.Duration(agree) * 24 * time.Hour, refusalHolds: time.Duration(refuse) * 24 * time.Hour}
		question := consent.Question{ValidFor: fmt.Sprintf("P%dD", agree), RefusalValidFor: fmt.Sprintf("P%dD", refuse)}
		row := func(place string) consent.PlaceRule {
			return consent.PlaceRule{
				Place:  place,
				Rule:   rule(),
				Signal: []string{"", "honour", "ignore"}[r.IntN(3)],
				Date:   dates[r.IntN(3)],
			}
		}
		taken := map[string]bool{}
		for range r.IntN(8) {
			p := row(places[r.IntN(len(places))])
			if !taken[p.Place+p.Date] { // a table has one row of a place and a date
				taken[p.Place+p.Date] = true
				f.table = append(f.table, p)
			}
		}
		if r.IntN(3) == 0 {
			f.setup.Places = append(f.setup.Places, row(places[r.IntN(len(places))]))
		}
		if r.IntN(2) == 0 {
			f.setup.TableRead = dates[r.IntN(2)]
		}
		if r.IntN(2) == 0 {
			f.setup.Unlisted = rule()
		}
		for _, id := range purposes {
			p := consent.Purpose{ID: id}
			if r.IntN(4) == 0 {
				on := r.IntN(2) == 0
				p.Signal = &on
			}
			f.setup.Purposes = append(f.setup.Purposes, p)
			f.setup.Inventory = append(f.setup.Inventory, cookie(id, id))
		}
		before := f.setup.Marks()
		if r.IntN(3) == 0 {
			f.changed = some(purposes)
			for _, id := range f.changed {
				f.setup.Inventory = append(f.setup.Inventory, cookie("new-"+id, id))
			}
		}
		v := consent.Visitor{At: at, Zone: time.UTC, Signal: r.IntN(2) == 0, Again: r.IntN(8) == 0}
		switch place := places[r.IntN(len(places))]; r.IntN(4) {
		case 0:
		case 1:
			v.Country = "AQ"
		default:
			v.Country = place[:2]
			if len(place) > 2 {
				v.Region = place
			}
		}
		if r.IntN(5) > 0 {
			age := []time.Duration{
				-16 * 24 * time.Hour, -time.Hour, time.Hour, 29 * 24 * time.Hour, 30 * 24 * time.Hour, 90 * 24 * time.Hour,
			}[r.IntN(6)]
			v.Answer = consent.Answer{ID: "a", At: at.Add(-age), Of: before, Signal: r.IntN(2) == 0}
			for _, id := range purposes {
				switch r.IntN(4) {
				case 0:
				case 1:
					v.Answer.Refused = append(v.Answer.Refused, id)
				default:
					v.Answer.Granted = append(v.Answer.Granted, id)
				}
			}
			if r.IntN(2) == 0 {
				v.Answer.Rule = rule()
			}
		}
		got := consent.Compile(f.setup, question, f.table).At(v)
		granted, shows, open := f.at(v)
		name := fmt.Sprintf("%+v\n%+v\nvisitor %+v", f.setup.Places, f.table, v)
		require.Equal(t, f.place(v.Country, v.Region).Rule, got.Rule, name)
		require.Equal(t, granted, got.Granted, "%s of %s", name, got.Rule)
		require.Equal(t, [2]bool{shows, open}, [2]bool{got.Shows, got.Open}, "%s of %s: %s", name, got.Rule, got.Why)
		if got.Answered {
			next := v
			next.At = got.Until
			_, again, _ := f.at(next)
			require.True(t, again || got.Rule == consent.Nothing, "%s: asked again once the answer has run out", name)
		}
		differ[fmt.Sprint(got.Rule, len(granted), shows)]++
	}
	assert.Greater(t, len(differ), 20, "%v", differ)
}
