package results_test

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/results"
)

// The interval's ends are those of Newcombe 1998, 48/80 and 56/70 (from memory).
func TestCompare(t *testing.T) {
	groups, err := results.Read(strings.NewReader(`
{"notice": "sale", "variant": "a", "visitors": 80, "reached": 48}
{"notice": "news", "variant": "", "visitors": 29, "reached": 29}

{"notice": "sale", "variant": "b", "visitors": 70, "reached": 56}
{"notice": "sale", "variant": "held-out", "visitors": 29, "reached": 1}
`))
	require.NoError(t, err)
	var keys []string
	for _, r := range results.Compare(groups) {
		line, err := json.Marshal(r)
		require.NoError(t, err)
		keys = append(keys, regexp.MustCompile(`[-0-9.]+`).ReplaceAllString(string(line), "0"))
	}
	const group, share = `{"notice":"%s","variant":"%s","visitors":0,"reached":0`, `,"share":0,"low":0,"high":0`
	difference := share + `,"difference":{"share":0,"low":0,"high":0,"always":{"low":0,"high":0}}`
	assert.Equal(t, []string{
		fmt.Sprintf(group, "sale", "a") + share + "}",
		fmt.Sprintf(group, "news", "") + "}",
		fmt.Sprintf(group, "sale", "b") + difference + "}",
		fmt.Sprintf(group, "sale", "held0out") + "}",
	}, keys)
	b := results.Compare(groups)[2]
	assert.InDelta(t, 0.8, *b.Share, 1e-9)
	assert.InDelta(t, 0.2, b.Difference.Share, 1e-9)
	assert.InDelta(t, 0.0524, b.Difference.Low, 5e-5)
	assert.InDelta(t, 0.3339, b.Difference.High, 5e-5)
	assert.Less(t, b.Difference.Always.Low, b.Difference.Low)
	assert.Greater(t, b.Difference.Always.High, b.Difference.High)
	assert.False(t, b.Difference.Decided(), "one look would have been misled")
	plans := results.Plans(results.Compare(groups[:1:1]), 10)
	assert.Empty(t, plans, "there is nothing to compare with")
	plans = results.Plans(results.Compare([]results.Group{groups[0], groups[2]}), 10)
	require.Len(t, plans, 3)
	assert.Equal(t, []float64{1, 2, 5}, []float64{plans[0].Points, plans[1].Points, plans[2].Points})
	assert.Equal(t, (plans[2].Daily+9)/10, plans[2].Days)
}

func TestRead(t *testing.T) {
	for line, want := range map[string]string{
		`{"notice": "x", "variant": "a", "visitors": 10, "reached": 11}`:    `"reached" is 11 of 10`,
		`{"notice": "x", "variant": "a", "visitors": -1, "reached": 0}`:     `"visitors" is -1`,
		`{"notice": "x", "variant": "a", "visitors": 1, "reached": -1}`:     `"reached" is -1`,
		`{"variant": "a", "visitors": 10, "reached": 1}`:                    `"notice" is missing`,
		`{"notice": "x", "variant": "a", "visitors": 10.5, "reached": 1}`:   `visitors`,
		`{"notice": "x", "variant": "a", "visitors": "10", "reached": 1}`:   `visitors`,
		`{"notice": "x", "variant": "a", "visitors": 10, "seen": 1}`:        `seen`,
		`{"notice": "first", "variant": "a", "visitors": 10, "reached": 1}`: `on line 1 already`,
		`{"notice": "x"`: `line 2`,
		`[]`:             `line 2`,
	} {
		first := `{"notice": "first", "variant": "a", "visitors": 10, "reached": 1}` + "\n"
		_, err := results.Read(strings.NewReader(first + line))
		require.Error(t, err, line)
		assert.Contains(t, err.Error(), want)
		assert.Contains(t, err.Error(), "line 2")
	}
}

// What is said of sums: no share of fewer than 30, and held-out visitors are not among those who saw it.
func TestTallies(t *testing.T) {
	key := func(day, page, variant string) results.Key {
		return results.Key{
			Notice:  "sale",
			Version: 7,
			Wording: "en",
			Day:     day,
			Page:    page,
			Variant: variant,
			Device:  "phone",
		}
	}
	rows := []results.Row{
		{key("2026-12-04", "/", "a"), results.Sums{Seen: 4000, Visitors: 3900, Clicked: 200, Closed: 29}},
		{key("2026-12-05", "/book", "b"), results.Sums{Seen: 312, Visitors: 1, Clicked: 12, Reached: 1}},
		{key("2026-12-03", "/book", "b"), results.Sums{Seen: 1}},
		{key("2026-12-05", "/book", results.HeldOut), results.Sums{Visitors: 400, Reached: 3}},
	}
	all, days, ok := results.TallyBy("day", rows)
	require.True(t, ok)
	assert.Equal(t, results.Sums{Seen: 4313, Visitors: 3901, Clicked: 212, Closed: 29, Reached: 1}, all.Sums)
	assert.Equal(t, []string{"2026-12-03", "2026-12-04", "2026-12-05"}, keys(days))
	assert.Empty(t, days[0].Shares, "one is too few")
	assert.InDelta(t, 0.05, days[1].Shares[results.Clicked].Of, 1e-9)
	_, pages, _ := results.TallyBy("page", rows)
	assert.Equal(t, []string{"/", "/book"}, keys(pages), "the most seen first")
	for _, by := range []string{"device", "wording", "variant", "version", "notice"} {
		_, parts, ok := results.TallyBy(by, rows)
		assert.True(t, ok && len(parts) > 0, by)
	}
	_, _, ok = results.TallyBy("visitor", rows)
	assert.False(t, ok)
	assert.Equal(
		t,
		"Seen 4,313 times on 61 pages, by 3,901 visitors; 212 followed a link (4.9 %, 4.3 to 5.6); 29 closed "+
			"it (0.7 %, 0.5 to 1.0); 1 reached its goal (0.03 %, 0.005 to 0.1).",
		results.Sentence(all, 61),
	)
	// More acts than views are no share of them; views of one visitor depend on each other, and where nobody knows
	// by how many visitors they are nobody knows how sure a share is.
	for _, c := range []struct {
		s    results.Sums
		says string
	}{
		{results.Sums{Seen: 40, Clicked: 90}, "Seen 40 times on one page; 90 followed a link."},
		{results.Sums{Seen: 40, Clicked: 40}, "Seen 40 times on one page; 40 followed a link (100.0 %)."},
		{
			results.Sums{Seen: 1000, Visitors: 1000, Clicked: 100},
			"Seen 1,000 times on one page, by 1,000 visitors; 100 followed a link (10.0 %, 8.3 to 12.0).",
		},
		{
			results.Sums{Seen: 1000, Visitors: 100, Clicked: 100},
			"Seen 1,000 times on one page, by 100 visitors; 100 followed a link (10.0 %, 5.5 to 17.4).",
		},
		{
			results.Sums{Seen: 1000, Visitors: 29, Clicked: 100},
			"Seen 1,000 times on one page, by 29 visitors; 100 followed a link (10.0 %).",
		},
	} {
		all, _, _ := results.TallyBy("day", []results.Row{{Sums: c.s}})
		assert.Equal(t, c.says, results.Sentence(all, 1))
	}
	assert.Equal(t, "Seen once on one page.", results.Sentence(days[0], 1))
	assert.Equal(t, "Nobody has seen it in these days.", results.Sentence(results.Tally{}, 0))

	groups := results.Groups("sale", []string{"a", "b"}, 7, rows)
	assert.Equal(t, []results.Group{
		{Notice: "sale", Variant: "a", Visitors: 3900},
		{Notice: "sale", Variant: "b", Visitors: 1, Reached: 1},
		{Notice: "sale", Variant: results.HeldOut, Visitors: 400, Reached: 3},
	}, groups)
	assert.Len(t, results.Groups("sale", []string{"a", "b"}, 8, rows), 2, "nobody has met that version")
}

func keys(parts []results.Tally) (out []string) {
	for _, p := range parts {
		out = append(out, p.Key)
	}
	return out
}

func TestVerdict(t *testing.T) {
	names := map[string]string{"a": "Plain", "b": "Warm"}
	for _, c := range []struct {
		groups []results.Group
		want   string
	}{
		{[]results.Group{{Variant: "a", Visitors: 29}, {Variant: "b", Visitors: 29}},
			"Too early to tell: at least 30 visitors have to have met each side."},
		{[]results.Group{{Variant: "a", Visitors: 1000, Reached: 50}, {Variant: "b", Visitors: 1000, Reached: 60}},
			"Too early to tell about “Warm”: between 2.2 points worse and 4.2 points better than “Plain”."},
		{[]results.Group{{Variant: "a", Visitors: 9000, Reached: 450}, {Variant: "b", Visitors: 9000, Reached: 630}},
			"“Warm” is better than “Plain”, by 0.8 to 3.2 points."},
		{[]results.Group{{Variant: "a", Visitors: 9000, Reached: 630}, {Variant: "b", Visitors: 9000, Reached: 450}},
			"“Warm” is worse than “Plain”, by 0.8 to 3.2 points."},
		{[]results.Group{{Visitors: 9000, Reached: 630}, {Variant: "held-out", Visitors: 9000, Reached: 450}},
			"Those who see it reach the goal more often than those held out, by 0.8 to 3.2 points."},
		{[]results.Group{{Visitors: 9000, Reached: 450}, {Variant: "held-out", Visitors: 9000, Reached: 630}},
			"Those who see it reach the goal less often than those held out, by 0.8 to 3.2 points."},
		{[]results.Group{{Variant: "a", Visitors: 1000, Reached: 50}, {Variant: "held-out", Visitors: 1000, Reached: 50}},
			"Too early to tell whether it does anything: those who see “Plain” reach the goal between 3.0 points less and 3.0 " +
				"points more often than those held out."},
	} {
		assert.Equal(t, c.want, results.Verdict(results.Compare(c.groups), names))
	}
}

// Under 30 no share is said, and of 30 it is (rule E2): of a notice and of its goal, of a group and
// of a difference.
func TestThirtyIsEnough(t *testing.T) {
	for n, said := range map[int]bool{29: false, 30: true} {
		key := results.Key{Notice: "a", Day: "2026-12-04"}
		all, _, ok := results.TallyBy("day", []results.Row{
			{Key: key, Sums: results.Sums{Seen: n, Visitors: n, Clicked: 6, Reached: 3}},
		})
		require.True(t, ok)
		for _, act := range []results.Act{results.Clicked, results.Reached} {
			_, has := all.Shares[act]
			assert.Equal(t, said, has, "%s of %d", act, n)
		}
		list := results.Compare([]results.Group{
			{Notice: "a", Variant: "a", Visitors: 30, Reached: 3}, {Notice: "a", Variant: "b", Visitors: n, Reached: 6},
		})
		assert.NotNil(t, list[0].Share)
		assert.Equal(t, said, list[1].Share != nil, "%d", n)
		assert.Equal(t, said, list[1].Difference != nil, "%d", n)
		early := strings.Contains(results.Verdict(list, map[string]string{"a": "A", "b": "B"}), "have to have met each side")
		assert.Equal(t, !said, early, "%d", n)
	}
}

// The limits of rule E1, each side of each.
func TestIsCrowd(t *testing.T) {
	for _, c := range []struct {
		ofNetwork, ofAll, networks int
		is                         bool
	}{
		{201, 2009, 21, true}, {200, 200, 21, false}, {201, 2010, 21, false}, {201, 201, 20, false},
		{5000, 5000, 1, false}, {5000, 5020, 21, true}, {0, 0, 0, false},
	} {
		assert.Equal(t, c.is, results.IsCrowd(c.ofNetwork, c.ofAll, c.networks), c)
	}
}
