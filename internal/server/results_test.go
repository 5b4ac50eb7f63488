package server_test

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/core/results"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/outcomes"
	"mastflag/internal/delivery"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// withExperiment publishes a bar in two variants that half of all visitors never see.
func (b *bench) withExperiment() notices.NoticeDetail {
	b.t.Helper()
	d := b.begin("Sale")
	return b.act(b.change(d, func(n *bundle.Notice) {
		n.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}}
		n.Experiment = &bundle.Experiment{
			Goal:    bundle.Goal{Pages: &pages.Conditions{Include: []pages.Entry{{Match: pages.Page, Path: "/book"}}}},
			Holdout: 50, Variants: []bundle.Variant{
				{ID: "a"},
				{
					ID:       "b",
					Name:     "Warm",
					Wordings: map[string]bundle.Wording{"en": {Message: "Welcome<script>x</script>"}},
				},
			},
		}
	}), "publish")
}

// decided asks for a decision as a visitor from where nothing has to be agreed to first.
func (b *bench) decided(path, draw string) decided {
	b.t.Helper()
	return b.decidedFrom("198.51.100.130", path, draw) // California, in the file of places
}

// decided is what a test reads of an answer to a page view.
type decided struct {
	Show    []struct{ ID, HTML string }
	Results *delivery.CountState
}

// decidedFrom asks for a decision as a visitor from an address.
func (b *bench) decidedFrom(address, path, draw string) (a decided) {
	b.t.Helper()
	body := fmt.Sprintf(`{"url":"https://www.s.example%s","memory":{"draw":%q}}`, path, draw)
	r, err := http.NewRequest("POST", b.url+"/d/s", strings.NewReader(body))
	require.NoError(b.t, err)
	r.Header.Set("Origin", origin)
	r.Header.Set("X-Forwarded-For", address)
	res, err := http.DefaultClient.Do(r)
	require.NoError(b.t, err)
	defer res.Body.Close()
	require.Equal(b.t, http.StatusOK, res.StatusCode)
	require.NoError(b.t, json.NewDecoder(res.Body).Decode(&a))
	return a
}

// settle has all visitors get one variant of a notice, in a draft.
func (b *bench) settle(d notices.NoticeDetail, variant string) (out notices.NoticeDetail) {
	b.t.Helper()
	b.call("POST", "/api/sites/s/notices/"+d.Notice.ID+"/settle",
		notices.Step{Revision: d.Card.Revision, Variant: variant}, &out)
	return out
}

// report is acts on the first notice of a page, as the page tells of them.
func report(s *delivery.CountState, acts ...results.Act) string {
	r := delivery.CountReport{Mark: s.Mark, Page: s.Page, Shown: s.Shown}
	for _, act := range acts {
		r.Acts = append(r.Acts, delivery.ReportedAct{Act: act})
	}
	raw, _ := json.Marshal(r)
	return string(raw)
}

// Where a page says that a bar for the top stood at the bottom, that is kept for the pages that are known, for seven
// days.
func TestBlockedTops(t *testing.T) {
	b := newBench(t).signIn()
	b.withExperiment()
	blocked := func() []string {
		list, err := b.server.Store.BlockedTops(t.Context(), "s")
		require.NoError(t, err)
		return list
	}
	require.Empty(t, blocked())
	for _, a := range []decided{b.decided("/", ""), b.decided("/of-nobody", ""), b.decided("/book", "")} {
		r := delivery.CountReport{Mark: a.Results.Mark, Page: a.Results.Page, Shown: a.Results.Shown, Blocked: true}
		raw, _ := json.Marshal(r)
		status, _ := b.tell("POST", "/r/s/counts", origin, string(raw))
		require.Equal(t, http.StatusNoContent, status)
	}
	after := func(days int) []string {
		_, err := b.server.Store.ExpireCounted(t.Context(), b.clock.Now().AddDate(0, 0, days))
		require.NoError(t, err)
		return blocked()
	}
	assert.Equal(t, []string{"/", "/book"}, after(7))
	assert.Empty(t, after(8))
}

// What a decision showed is counted once for each act, by variant, page and device; who is held out
// is counted beside; what no decision showed is refused, and counts nothing.
func TestCounts(t *testing.T) {
	b := newBench(t).signIn()
	d := b.withExperiment()
	count := func(body string) int {
		status, _ := b.tell("POST", "/r/s/counts", origin, body)
		return status
	}
	draws := map[string]string{} // one for each group
	for i := range 100 {
		draw := fmt.Sprintf("%032x", i)
		a := b.decided("/", draw)
		require.Len(t, a.Results.Shown, 1)
		group := a.Results.Shown[0][strings.LastIndexByte(a.Results.Shown[0], ' ')+1:]
		draws[group] = draw
		assert.Equal(t, group != results.HeldOut, len(a.Show) == 1)
		if group == "b" {
			assert.Contains(t, a.Show[0].HTML, "Welcome")
			assert.NotContains(t, a.Show[0].HTML, "script")
		}
	}
	require.Len(t, draws, 3)
	first := b.decided("/", "")
	assert.True(t, first.Results.Draw && first.Results.Keep, "a draw is to be made")
	assert.True(t, strings.HasSuffix(first.Results.Shown[0], " "), "in no experiment")
	asked := b.decidedFrom("192.0.2.70", "/", draws["b"]) // where agreement comes first
	assert.False(t, asked.Results.Keep || asked.Results.Draw, "nobody has agreed to it")
	assert.NotContains(t, asked.Show[0].HTML, "Welcome", "they get the first")

	warm, held := b.decided("/", draws["b"]), b.decided("/", draws[results.HeldOut])
	for range 3 { // told again, it counts once
		require.Equal(
			t,
			http.StatusNoContent,
			count(report(warm.Results, results.Seen, results.Seen, results.Visitors)),
		)
		require.Equal(t, http.StatusNoContent, count(report(warm.Results, results.Clicked)))
		require.Equal(t, http.StatusNoContent, count(report(held.Results, results.Visitors)))
	}
	other := b.decided("/of-nobody", draws["b"])
	assert.Equal(t, "", other.Results.Page, "pages that are not known share a row")
	require.Equal(t, http.StatusNoContent, count(report(other.Results, results.Seen)))
	assert.Equal(t, []string{d.Notice.ID}, b.decided("/book", draws["b"]).Results.Reached)
	assert.Empty(t, warm.Results.Reached)

	forged := func(change func(*delivery.CountReport)) string {
		var r delivery.CountReport
		require.NoError(t, json.Unmarshal([]byte(report(warm.Results, results.Closed)), &r))
		change(&r)
		raw, _ := json.Marshal(r)
		return string(raw)
	}
	for what, c := range map[string]struct {
		body string
		want int
	}{
		"another version": {forged(func(r *delivery.CountReport) {
			r.Shown = []string{strings.Replace(r.Shown[0], " 1", " 2", 1)}
		}), http.StatusUnprocessableEntity},
		"a notice more": {forged(func(r *delivery.CountReport) { r.Shown = append(r.Shown, "x 1 en ") }), 422},
		"another page":  {forged(func(r *delivery.CountReport) { r.Page = "/book" }), 422},
		"another variant": {forged(func(r *delivery.CountReport) {
			r.Shown[0] = r.Shown[0][:len(r.Shown[0])-1] + "a"
		}), 422},
		"no mark":          {forged(func(r *delivery.CountReport) { r.Mark = "" }), 422},
		"a mark of others": {forged(func(r *delivery.CountReport) { r.Mark = first.Results.Mark }), 422},
		"no act":           {forged(func(r *delivery.CountReport) { r.Acts[0].Act = "loved" }), 400},
		"no such notice":   {forged(func(r *delivery.CountReport) { r.Acts[0].Of = 1 }), 400},
		"before the first": {forged(func(r *delivery.CountReport) { r.Acts[0].Of = -1 }), 400},
		"a thousand acts": {forged(func(r *delivery.CountReport) {
			for range 1000 {
				r.Acts = append(r.Acts, r.Acts[0])
			}
		}), 413},
		"1 MB":                {strings.Repeat(" ", 1<<20) + "{}", 413},
		"no JSON":             {"seen", 400},
		"what was never seen": {report(held.Results, results.Clicked), 422},
	} {
		assert.Equal(t, c.want, count(c.body), what)
	}
	status, _ := b.tell("POST", "/r/s/counts", "https://evil.example", report(warm.Results, results.Closed))
	assert.Equal(t, http.StatusForbidden, status)

	// Acts on a page are told within six hours; the goal within five days, whatever the page's clock says.
	b.clock.Set(b.clock.Now().Add(6*time.Hour - 2*time.Minute))
	assert.Equal(t, http.StatusNoContent, count(report(warm.Results, results.Clicked)), "once more")
	b.clock.Set(b.clock.Now().Add(4 * time.Minute))
	assert.Equal(t, http.StatusGone, count(report(warm.Results, results.Closed)))
	assert.Equal(t, http.StatusGone, count(report(warm.Results, results.Visitors)), "alone")
	b.clock.Set(b.clock.Now().Add(4 * 24 * time.Hour))
	require.Equal(t, http.StatusNoContent, count(report(warm.Results, results.Reached)))
	require.Equal(t, http.StatusNoContent, count(report(warm.Results, results.Reached)))
	_, err := b.server.Counter.Expire(t.Context(), b.clock.Now())
	require.NoError(t, err)
	require.Equal(t, http.StatusNoContent, count(report(warm.Results, results.Reached, results.Visitors)))
	b.clock.Set(b.clock.Now().Add(24 * time.Hour))
	assert.Equal(t, http.StatusGone, count(report(held.Results, results.Reached)))
	rows, err := b.server.Store.Results(t.Context(), "s", store.ResultFilter{})
	require.NoError(t, err)
	for _, r := range rows {
		assert.Equal(t, start.In(b.server.Hub.Site("s").Zone()).Format(time.DateOnly), r.Day, "of the page view")
	}

	var p problem.Problem
	var site outcomes.SiteResults
	b.call("GET", "/api/sites/s/results", nil, &site)
	require.Len(t, site.Notices, 1)
	assert.Equal(t, results.Sums{Seen: 2, Visitors: 1, Clicked: 1, Reached: 1}, site.Notices[0].All.Sums)
	assert.Equal(t, "Seen twice on 2 pages, by one visitor; 1 followed a link; 1 reached its goal.", site.Notices[0].Says)
	var one outcomes.NoticeResults
	b.call("GET", "/api/sites/s/results/"+d.Notice.ID+"?by=variant", nil, &one)
	assert.Equal(t, "reach the page /book", one.Experiment.Goal)
	got := map[string][2]int{}
	for _, g := range one.Experiment.Groups {
		got[g.Name] = [2]int{g.Visitors, g.Reached}
	}
	assert.Equal(t, map[string][2]int{"a": {}, "Warm": {1, 1}, "held out": {1, 0}}, got)
	require.Len(t, one.Deeds, 1)
	assert.Equal(t, "published it", one.Deeds[0].Says)
	// The strip is the 30 days with today whole, and what is out is live on it from when it was published.
	assert.Equal(t, site.Strip.From, one.Strip.From)
	assert.Equal(t, 30*24*time.Hour, one.Strip.Until.Sub(one.Strip.From))
	assert.True(t, one.Strip.Until.After(b.clock.Now()) && one.Strip.Until.Before(b.clock.Now().Add(24*time.Hour)))
	require.Len(t, one.Strip.Intervals, 1)
	assert.WithinDuration(t, one.Deeds[0].At, one.Strip.Intervals[0].From, time.Second)
	assert.Equal(t, one.Strip.Until, one.Strip.Intervals[0].Until)
	assert.Empty(t, site.Strip.Intervals)

	// A change of what is compared ends the comparison: it begins anew with what is out.
	d = b.act(b.change(d, func(n *bundle.Notice) { n.Experiment.Holdout = 10 }), "publish")
	b.call("GET", "/api/sites/s/results/"+d.Notice.ID, nil, &one)
	assert.WithinDuration(t, b.clock.Now(), one.Experiment.Since, time.Second)
	assert.Zero(t, one.Experiment.Groups[1].Visitors)
	assert.Equal(t, 2, one.All.Seen, "what was counted stays")

	// Taking a variant ends it too: the draft says that to all.
	settled := b.settle(d, "b")
	assert.Equal(t, "Welcome", settled.Notice.Wordings()["en"].Message)
	assert.Empty(t, settled.Notice.Experiment.Variants)
	assert.Equal(t, 422, b.call("POST", "/api/sites/s/notices/"+d.Notice.ID+"/settle",
		notices.Step{Revision: settled.Card.Revision, Variant: "z"}, &p))
	assert.Contains(t, p.Detail, `no variant "z"`)

	res, body := b.file("/api/sites/s/results.csv")
	require.Equal(t, http.StatusOK, res.StatusCode)
	lines, err := csv.NewReader(strings.NewReader(body)).ReadAll()
	require.NoError(t, err)
	assert.Len(t, lines, 4)
	assert.Equal(t, []string{"notice", "published", "wording", "variant", "day", "page", "device"}, lines[0][:7])
	for query, status := range map[string]int{
		"?from=2026-12-09&until=2026-12-08": 422, "?from=x": 422, "?from=1900-01-01": 422, "?from=2026-12-01": 200,
	} {
		assert.Equal(t, status, b.call("GET", "/api/sites/s/results"+query, nil, nil), query)
	}
	b.call("GET", "/api/sites/s/results/"+d.Notice.ID+"?by=visitor", nil, &p)
	assert.Contains(t, p.Detail, "none of page, device")
}

// Somebody who forges views from one network changes little where many others visit, and it is
// said; a site whose visitors all come from one network is counted whole.
func TestForgedViewsAreSetAside(t *testing.T) {
	b := newBench(t).signIn()
	d := b.withExperiment()
	view := func(address string, n int) {
		t.Helper()
		a := b.decidedFrom(address, "/", fmt.Sprintf("%032x", n))
		r, err := http.NewRequest("POST", b.url+"/r/s/counts", strings.NewReader(report(a.Results, results.Visitors)))
		require.NoError(t, err)
		r.Header.Set("Origin", origin)
		r.Header.Set("X-Forwarded-For", address)
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		res.Body.Close()
		require.Equal(t, http.StatusNoContent, res.StatusCode)
	}
	counted := func() (visitors, aside int) {
		t.Helper()
		var r outcomes.NoticeResults
		b.call("GET", "/api/sites/s/results/"+d.Notice.ID, nil, &r)
		rows, err := b.server.Store.Results(t.Context(), "s", store.ResultFilter{})
		require.NoError(t, err)
		for _, row := range rows { // those held out too
			visitors += row.Visitors
		}
		return visitors, r.Aside
	}
	for i := range 250 { // an office
		view("198.51.100.130", i)
	}
	visitors, aside := counted()
	assert.Equal(t, []int{250, 0}, []int{visitors, aside})
	b.clock.Set(b.clock.Now().AddDate(0, 0, 1))
	for i := range 40 {
		view(fmt.Sprintf("198.51.100.%d", 128+i), 1000+i)
	}
	for i := range 300 { // from one network, as it is counted by the /64
		view(fmt.Sprintf("2001:db8:1:2::%x", i), 2000+i)
	}
	visitors, aside = counted()
	assert.Equal(t, []int{250 + 40 + 200, 100}, []int{visitors, aside})
	view("198.51.100.129", 9000)
	visitors, _ = counted()
	assert.Equal(t, 250+40+200+1, visitors, "others go on")
}

// Two lists of what a page carries are never sealed alike, whatever stands in them.
func TestMarksAreUnambiguous(t *testing.T) {
	b := newBench(t).signIn()
	b.withExperiment()
	a := b.decided("/", "")
	forged := *a.Results
	forged.Page, forged.Shown = a.Results.Page+"\n"+a.Results.Shown[0], nil
	status, _ := b.tell("POST", "/r/s/counts", origin, report(&forged))
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	status, _ = b.tell("POST", "/r/s/counts", origin, report(a.Results, results.Seen))
	assert.Equal(t, http.StatusNoContent, status)
}
