package decide_test

import (
	"cmp"
	"crypto/sha256"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/countdown"
	"mastflag/core/decide"
	"mastflag/core/draw"
	"mastflag/core/form"
	"mastflag/core/schedule"
)

// oracle answers a visit straight from docs/rules.md: no index, no compiled form, one
// gate after the other for one notice after the other.
type oracle struct {
	bundle bundle.Bundle
	visit  decide.Visit
	zone   *time.Location // of the site, and of every visitor
}

// One visit answered: what shows and what waits, in order, and of all else the gate.
type outcome struct {
	show, waiting, heldOut []string
	held                   map[string]decide.Gate
	variants               map[string]string
}

// Decide and Explain against the rules read one by one, on random sites and visits;
// and the answer holds until it says it does.
func TestDecisionsFollowTheRules(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 8))
	london, err := time.LoadLocation("Europe/London")
	require.NoError(t, err)
	met := map[string]int{} // how often each outcome came about
	var last oracle
	defer func() {
		if t.Failed() {
			written, _ := json.Marshal(last.bundle.Notices)
			visit, _ := json.Marshal(last.visit)
			t.Logf("%s\nfor %s\nby the rules %+v", written, visit, last.decide(t))
		}
	}()
	for range 1500 {
		var notices []bundle.Notice
		for i := range 1 + r.IntN(12) {
			notices = append(notices, randomNotice(r, i))
		}
		b := sets(site(notices...))
		b.Site.Consent.Places = []consent.PlaceRule{{Place: "XX", Rule: consent.Nothing}}
		b.Site.NoStorage = []bundle.NoStorage{"", bundle.StorageAll, bundle.StorageWarnings, bundle.StorageNone}[r.IntN(4)]
		b.Site.Routes = r.IntN(2) == 0
		for _, path := range addresses[:len(addresses)-1] {
			if r.IntN(3) == 0 && !slices.ContainsFunc(b.Pages, func(p bundle.Page) bool { return p.Path == path }) {
				b.Pages = append(b.Pages, bundle.Page{Path: path})
			}
		}
		s := compile(t, b)
		for range 10 {
			o := oracle{b, randomVisit(r, b, london), london}
			last = o
			want := o.decide(t)
			d, explained := s.Decide(o.visit), s.Explain(o.visit)
			require.Equal(t, want.show, ids(d.Show))
			require.Equal(t, want.waiting, waitingIDs(d.Waiting))
			var heldOut []string
			for _, h := range d.HeldOut {
				heldOut = append(heldOut, h.ID)
			}
			require.Equal(t, want.heldOut, heldOut)
			for _, n := range d.Show {
				require.Equal(t, want.variants[n.ID], n.Variant)
				if n.Variant != "" {
					met["variant "+n.Variant]++
				}
			}
			for _, n := range d.Waiting {
				require.Equal(t, want.variants[n.ID], n.Variant)
			}
			require.Equal(t, s.Draws() && o.draws(), d.Drawn)
			require.Equal(t, s.Published() > 0 && o.mayKeep(), d.MayMeasure)
			met["held out"] += len(heldOut)
			for _, a := range explained.Explain {
				require.Equal(t, slices.Contains(want.show, a.ID), a.Shows)
				require.Equal(t, slices.Contains(want.waiting, a.ID), a.Waits)
				why, failed := a.Reason()
				require.Equal(t, !a.Shows && !a.Waits, failed, a.ID)
				require.Equal(t, want.held[a.ID], why.Gate, "%s: %s", a.ID, why.Why)
				met[string(why.Gate)+why.Rule]++
			}
			placed := s.PlacedOn(o.visit.URL)
			for _, n := range s.Ordered() {
				require.Equal(t, o.pages(n) && n.State == bundle.Published, slices.Contains(placed, n.ID))
			}
			if !d.ValidUntil.IsZero() && len(o.visit.Memory.Notices) == 0 {
				later := o.visit
				later.At = d.ValidUntil.Add(-time.Second)
				if later.At.After(o.visit.At) {
					require.Equal(t, ids(d.Show), ids(s.Decide(later).Show))
				}
			}
			met["shows"] += len(want.show)
			met["waits"] += len(want.waiting)
		}
	}
	for _, outcome := range []string{"shows", "waits", "stateG2", "scheduleS1", "scheduleC4", "pagesP1", "audienceA1",
		"audienceK1", "memoryM1", "memoryM2", "memoryM4", "memoryM5", "memoryC4", "memoryK2", "slotD2", "slotD4",
		"holdoutG3", "held out", "variant a", "variant b", "variant c"} {
		assert.Greater(t, met[outcome], 20, "%s: %v", outcome, met)
	}
}

func pick[T any](r *rand.Rand, of ...T) T { return of[r.IntN(len(of))] }

func randomNotice(r *rand.Rand, i int) bundle.Notice {
	local := func(hours int) string {
		return (schedule.LocalAt(noon, time.UTC) + schedule.Local(hours*3600)).String()
	}
	alter := []func(*bundle.Notice){
		rank(r.IntN(3)), published(r.IntN(8) - 2),
		closed(pick[bundle.Period](r, "page", "P1D", "PT12H", "ever")),
		level(pick(r, bundle.Promotion, bundle.Information, bundle.Warning, bundle.Emergency)),
		slot(pick(r, bundle.Top, bundle.Top, bundle.Bottom, bundle.Centre, bundle.Cover)),
	}
	add := func(oneIn int, f func(*bundle.Notice)) {
		if r.IntN(oneIn) == 0 {
			alter = append(alter, f)
		}
	}
	from := r.IntN(200) - 150
	add(2, windows(schedule.Window{From: local(from), Until: local(from + 1 + r.IntN(150))}))
	add(3, except(pick(r, addresses[:len(addresses)-1]...)))
	add(5, state(bundle.Paused))
	add(
		3,
		to(pick(r, returning, scrolled, `{"all":[`+scrolled+`,`+returning+`]}`, `{"any":[`+scrolled+`,`+returning+`]}`,
			`{"none":[`+returning+`]}`)),
	)
	add(4, func(n *bundle.Notice) {
		n.Memory.Limits = []bundle.Limit{{Times: 1 + r.IntN(2), Per: pick[bundle.Period](r, "P1D", "session")}}
	})
	add(6, asking)
	heir := r.IntN(12) // itself, or nobody, or in a circle, perhaps
	then := pick(r, countdown.Disappear, countdown.Stay, countdown.HandOver)
	c := countdown.Countdown{Kind: countdown.To, At: local(r.IntN(200) - 100), Then: then}
	if r.IntN(2) == 0 {
		c = countdown.Countdown{Kind: countdown.Visitor, For: "PT6H", Then: then}
		heir = i + 1 + r.IntN(3) // a circle of visitors' own has no first moment
	}
	if c.Then == countdown.HandOver {
		c.HandTo = fmt.Sprintf("n%d", heir)
	}
	add(4, counts(c))
	add(5, func(n *bundle.Notice) { // a form, which another follows, or itself, or nobody
		n.Content = cmp.Or(n.Content, &bundle.Content{})
		n.Content.Form = &form.Form{After: form.FollowUp{Then: form.ThenNotice, To: fmt.Sprintf("n%d", i+1+r.IntN(3))}}
		n.Content.Rows = []bundle.Row{{Columns: []bundle.Column{{Parts: []bundle.Part{
			{ID: "say", Kind: bundle.PartField, Field: &form.Field{Kind: form.Text}},
		}}}}}
	})
	n := bar(fmt.Sprintf("n%d", i), alter...)
	if n.MayCompare() && r.IntN(3) == 0 {
		n.Experiment = &bundle.Experiment{Goal: bundle.Goal{Link: true}, Holdout: pick(r, 0, 10, 50)}
		for v := range pick(r, 0, 2, 3) {
			weight := 1 + r.IntN(3)
			n.Experiment.Variants = append(
				n.Experiment.Variants,
				bundle.Variant{ID: string(rune('a' + v)), Weight: &weight},
			)
		}
	}
	return n
}

// randomVisit is a visit that can be: whoever has met a countdown of their own did so
// when its notice showed to them, as far as its time, page and predecessors go.
func randomVisit(r *rand.Rand, b bundle.Bundle, zone *time.Location) decide.Visit {
	v := decide.Visit{
		At: noon.Add(time.Duration(r.IntN(200)-100) * time.Hour), URL: pick(r, addresses...),
		Facts: map[string]any{}, Again: r.IntN(4) == 0,
	}
	hoursAgo := func(most int) time.Time { return v.At.Add(-time.Duration(1+r.IntN(most)) * time.Hour) }
	if r.IntN(2) == 0 {
		v.Facts["visits.number"] = float64(1 + r.IntN(2))
	}
	if r.IntN(2) == 0 {
		v.Facts["view.scroll"] = float64(r.IntN(60))
	}
	if country := pick(r, "", "DE", "US", "XX"); country != "" {
		v.Facts["place.country"] = country
	}
	if v.Facts["place.country"] == "US" {
		v.Facts["place.region"] = "US-CA"
	}
	v.Memory = decide.Memory{Session: hoursAgo(10), View: v.At.Add(-time.Minute), NoStorage: r.IntN(4) == 0}
	if r.IntN(3) == 0 {
		v.Memory.Consent = consent.Answer{At: v.At.AddDate(0, 0, -pick(r, 10, 300)), Granted: []string{"measurement"},
			Refused: []string{"marketing"}, Of: b.Site.Consent.Marks(), Rule: consent.OptIn}
	}
	if r.IntN(3) > 0 {
		v.Memory.Draw = draw.Draw(fmt.Sprintf("%016x%016x", r.Uint64(), r.Uint64()))
	}
	if r.IntN(5) == 0 {
		return v // who remembers nothing
	}
	v.Memory.Notices = map[string]decide.Acts{}
	for _, n := range b.Notices {
		var a decide.Acts
		if r.IntN(4) == 0 {
			a.Closed = pick(r, hoursAgo(48), v.At.Add(-time.Second)) // on an earlier page view, or this one
		}
		if r.IntN(2) == 0 {
			a.Answered = hoursAgo(48)
		}
		for range r.IntN(4) {
			a.Shown = append(a.Shown, hoursAgo(48))
		}
		if c := n.Countdown(); c != nil && c.Kind == countdown.Visitor && r.IntN(2) == 0 {
			earlier := oracle{b, v, zone}
			earlier.visit.At = hoursAgo(24)
			if n.State == bundle.Published && earlier.live(n) && earlier.countdowns(n) == "" {
				a.Met = earlier.visit.At
			}
		}
		v.Memory.Notices[n.ID] = a
	}
	return v
}

func waitingIDs(w []decide.Waiting) []string {
	out := []string{}
	for _, x := range w {
		out = append(out, x.ID)
	}
	return out
}

// decide asks every gate of every notice (the table of rules.md), then gives out the
// places (rules D1 to D4).
func (o oracle) decide(t *testing.T) outcome {
	out := outcome{
		show: []string{}, waiting: []string{}, held: map[string]decide.Gate{}, variants: map[string]string{},
	}
	sorted := slices.Clone(o.bundle.Notices)
	slices.SortFunc(sorted, decide.CompareRivals)
	asked := slices.ContainsFunc(sorted, func(n bundle.Notice) bool {
		return n.Kind == bundle.KindConsent && n.State == bundle.Published && o.live(n) && o.ended(n) != "schedule" &&
			o.released(n) != "schedule"
	})
	taken, open := map[bundle.Slot]int{}, false
	for _, n := range sorted {
		belongs := o.audience(n.Audience)
		if !o.follows(n) {
			belongs = "no"
		}
		out.variants[n.ID] = o.variant(n)
		gate := decide.Gate("")
		full := taken[n.GetSlot().Shared()] == map[bundle.Slot]int{
			bundle.Top:    2,
			bundle.Bottom: 1,
			bundle.Centre: 1,
		}[n.GetSlot().Shared()]
		switch counted := o.countdowns(n); {
		case n.State != bundle.Published:
			gate = decide.GateState
		case !o.live(n) || counted == "schedule":
			gate = decide.GateSchedule
		case !o.pages(n):
			gate = decide.GatePages
		case belongs == "no", n.Kind == bundle.KindConsent && o.place() == consent.Nothing && !o.visit.Again:
			gate = decide.GateAudience
		case counted == "memory", o.remembered(n), o.unkept(n), n.Kind == bundle.KindConsent && !o.asks():
			gate = decide.GateMemory
		case o.heldOut(n):
			gate = decide.GateHoldout
			if (belongs == "not yet" || !full) && !(open && o.waitsForConsent(n)) {
				out.heldOut = append(out.heldOut, n.ID)
			}
		case open && o.waitsForConsent(n):
			gate = decide.GateSlot
		case belongs == "not yet":
			out.waiting = append(out.waiting, n.ID)
			continue
		case full:
			gate = decide.GateSlot
		}
		if gate != "" {
			out.held[n.ID] = gate
			continue
		}
		taken[n.GetSlot().Shared()]++
		out.show = append(out.show, n.ID)
		open = open || n.Kind == bundle.KindConsent && o.place() == consent.OptIn && !o.answered() && !o.visit.Again
	}
	require.True(t, asked || !open)
	return out
}

// draws is rule E8: the draw counts where measurement may go ahead.
func (o oracle) draws() bool {
	return o.visit.Memory.Draw != "" && o.mayKeep()
}

// mayKeep is rule E8: what helps to count may be kept where measurement may go ahead.
func (o oracle) mayKeep() bool {
	return !o.visit.Memory.NoStorage && (o.place() != consent.OptIn || o.answered())
}

// number is rule E4, in floating point.
func (o oracle) number(name string) float64 {
	sum := sha256.Sum256([]byte(name + "/" + string(o.visit.Memory.Draw)))
	return float64(binary.BigEndian.Uint64(sum[:8])) / (1 << 64)
}

// heldOut is rule E4 of those who never see a notice.
func (o oracle) heldOut(n bundle.Notice) bool {
	return n.Experiment != nil && o.draws() &&
		o.number(o.bundle.Site.Key+"/holdout/"+n.ID) < float64(n.Experiment.Holdout)/100
}

// variant is rule E4 of the others.
func (o oracle) variant(n bundle.Notice) string {
	if n.Experiment == nil || len(n.Experiment.Variants) == 0 {
		return ""
	}
	variants := n.Experiment.Variants
	if !o.draws() {
		return variants[0].ID
	}
	total, sum := 0, 0
	for _, v := range variants {
		total += *v.Weight
	}
	for _, v := range variants {
		if sum += *v.Weight; float64(sum)/float64(total) > o.number(o.bundle.Site.Key+"/"+n.ID) {
			return v.ID
		}
	}
	return ""
}

// live is rules S1 to S3 of one window, without countdowns.
func (o oracle) live(n bundle.Notice) bool {
	if o.visit.At.Before(*n.PublishedAt) {
		return false
	}
	if n.Schedule == nil {
		return true
	}
	from, _ := schedule.ParseLocal(n.Schedule.Windows[0].From)
	until, _ := schedule.ParseLocal(n.Schedule.Windows[0].Until)
	return !o.visit.At.Before(from.In(o.zone)) && o.visit.At.Before(until.In(o.zone))
}

// pages is rule P1 of a notice on every page but perhaps one.
func (o oracle) pages(n bundle.Notice) bool {
	page := o.visit.URL // P4
	if !o.bundle.Site.Routes {
		page, _, _ = strings.Cut(page, "#")
	}
	return len(n.Pages.Exclude) == 0 || o.listed(n.Pages.Exclude[0].Path) != o.listed(page)
}

// listed is rule P5: the listed page that an address is; the address itself where it is none.
func (o oracle) listed(address string) string {
	path, route, behind := strings.Cut(address, "#")
	lists := func(path string) bool {
		return path == "/" || slices.ContainsFunc(o.bundle.Pages, func(p bundle.Page) bool {
			return path == p.Path || path+"/" == p.Path
		})
	}
	ends := []string{"/index.html", "/index.htm", "/index.xhtml", "/index.php", ".html", ".htm", ".xhtml", ".php"}
	found := []string{path}
	for _, e := range ends {
		found = append(found, strings.TrimSuffix(path, "/")+e)
	}
	for _, e := range ends {
		if strings.HasSuffix(path, e) && path != e {
			found = append(found, strings.TrimSuffix(path, e))
			break
		}
	}
	if slices.Contains(ends[:4], path) {
		found = append(found, "/")
	}
	for _, one := range found {
		if lists(one) {
			path = one
			break
		}
	}
	if behind {
		path += "#" + route
	}
	return path
}

// addresses are those of visits and of what conditions leave out, the last a route.
var addresses = []string{
	"/", "/book", "/de", "/other", "/index.html", "/book.html", "/book/index.php", "/de/index.html", "/other.htm",
	"/book#/a",
}

// audience is rules A1 to A5: yes, no, or not yet.
func (o oracle) audience(n *audience.Node) string {
	if n == nil {
		return "yes"
	}
	switch n.Fact {
	case "visits.number":
		number, known := o.visit.Facts[n.Fact].(float64)
		return map[bool]string{true: "yes", false: "no"}[known && number >= 2]
	case "view.scroll":
		percent, known := o.visit.Facts[n.Fact].(float64)
		if !known {
			return "not yet"
		}
		return map[bool]string{true: "yes", false: "no"}[percent >= 30]
	}
	order := []string{"no", "not yet", "yes"}
	var parts []int
	for _, p := range n.Parts {
		parts = append(parts, slices.Index(order, o.audience(&p)))
	}
	switch n.Group {
	case audience.All:
		return order[slices.Min(parts)]
	case audience.Any:
		return order[slices.Max(parts)]
	}
	return order[2-slices.Max(parts)]
}

// follows is rule F5: what follows forms is for those alone who have sent one of them.
func (o oracle) follows(n bundle.Notice) bool {
	forms, sent := 0, false
	for _, before := range o.bundle.Notices {
		if before.State == bundle.Published && before.Content != nil && len(before.Content.Rows) > 0 &&
			before.Content.Form != nil && before.Content.Form.After.To == n.ID {
			forms++
			sent = sent || !o.visit.Memory.Notices[before.ID].Answered.IsZero()
		}
	}
	return forms == 0 || sent
}

// place is rule K1: what the visitor's place wants; where it is not known, the
// strictest of all.
func (o oracle) place() consent.Rule {
	switch o.visit.Facts["place.country"] {
	case "US":
		return consent.OptOut
	case "XX":
		return consent.Nothing
	}
	return consent.OptIn
}

// answered is rule K2: the answer holds for 180 days.
func (o oracle) answered() bool {
	at := o.visit.Memory.Consent.At
	return !at.IsZero() && o.visit.At.Before(at.In(o.zone).AddDate(0, 0, 180))
}

// asks is rule K4, of a place that wants anything.
func (o oracle) asks() bool { return o.visit.Again || !o.answered() }

// waitsForConsent is rule D4.
func (o oracle) waitsForConsent(n bundle.Notice) bool {
	return n.GetSlot().Shared() == bundle.Centre && n.Level != bundle.Emergency && n.Kind != bundle.KindConsent
}

// unkept is rule M5.
func (o oracle) unkept(n bundle.Notice) bool {
	if !o.visit.Memory.NoStorage || n.Level == bundle.Emergency || n.Kind == bundle.KindConsent && o.visit.Again {
		return false
	}
	return o.bundle.Site.NoStorage == bundle.StorageNone ||
		o.bundle.Site.NoStorage == bundle.StorageWarnings && n.Level != bundle.Warning
}

// remembered is rules M1, M2 and M4: what the visitor did keeps the notice away.
func (o oracle) remembered(n bundle.Notice) bool {
	now, memory := o.visit.At, o.visit.Memory
	acts := memory.Notices[n.ID]
	closed := acts.Closed
	if n.Kind == bundle.KindConsent && o.visit.Again {
		return false
	}
	if n.Level == bundle.Emergency {
		return !closed.IsZero() && !closed.Before(memory.View) && !closed.Before(*n.PublishedAt)
	}
	if !closed.IsZero() {
		switch n.Memory.HideAfterClose {
		case "ever":
			return true
		case "page":
			if !closed.Before(memory.View) {
				return true
			}
		case "P1D":
			if now.Before(closed.In(o.zone).AddDate(0, 0, 1)) {
				return true
			}
		case "PT12H":
			if now.Before(closed.Add(12 * time.Hour)) {
				return true
			}
		}
	}
	for _, l := range n.Memory.Limits {
		times := 0
		for _, shown := range acts.Shown {
			if l.Per == "P1D" && now.Before(shown.In(o.zone).AddDate(0, 0, 1)) ||
				l.Per == "session" && !shown.Before(memory.Session) {
				times++
			}
		}
		if times >= l.Times {
			return true
		}
	}
	return false
}

// runsOut is when the countdown of a notice runs out for the visitor; zero if it has
// not begun for them.
func (o oracle) runsOut(n bundle.Notice) time.Time {
	c := n.Countdown()
	if c.Kind == countdown.Visitor {
		if met := o.visit.Memory.Notices[n.ID].Met; !met.IsZero() {
			return met.Add(6 * time.Hour)
		}
		return time.Time{}
	}
	at, _ := schedule.ParseLocal(c.At)
	return at.In(o.zone)
}

// gateOf is the gate at which a countdown keeps a notice away: a visitor's own is
// remembered, any other is part of its time.
func gateOf(n bundle.Notice) string {
	if n.Countdown().Kind == countdown.Visitor {
		return "memory"
	}
	return "schedule"
}

// countdowns is rule C4: the gate at which a countdown keeps a notice away, "" if none does.
func (o oracle) countdowns(n bundle.Notice) string {
	gates := []string{o.ended(n), o.released(n)}
	for _, gate := range []string{"schedule", "memory"} {
		if slices.Contains(gates, gate) {
			return gate
		}
	}
	return ""
}

// ended is the gate at which a notice's own countdown keeps it away.
func (o oracle) ended(n bundle.Notice) string {
	c := n.Countdown()
	if c == nil || c.Then == countdown.Stay {
		return ""
	}
	if end := o.runsOut(n); !end.IsZero() && !o.visit.At.Before(end) {
		return gateOf(n)
	}
	return ""
}

// predecessors are those that hand over to a notice, by D1: the last of them is the reason where none has run out.
func (o oracle) predecessors(n bundle.Notice) (out []bundle.Notice) {
	for _, before := range o.bundle.Notices {
		c := before.Countdown()
		if c != nil && c.HandTo == n.ID && before.ID != n.ID && before.State == bundle.Published {
			out = append(out, before)
		}
	}
	slices.SortFunc(out, decide.CompareRivals)
	return out
}

// released is the gate at which those that hand over to a notice keep it away: it shows
// once one of them has run out, and is not in its time before that can be for anyone.
func (o oracle) released(n bundle.Notice) (gate string) {
	before := o.predecessors(n)
	if len(before) == 0 {
		return ""
	}
	if first := o.firstRelease(before); first.IsZero() || o.visit.At.Before(first) {
		return "schedule"
	}
	for _, p := range before {
		if end := o.runsOut(p); !end.IsZero() && !o.visit.At.Before(end) {
			return ""
		}
		gate = gateOf(p)
	}
	return gate
}

// firstRelease is the earliest instant at which one of these can run out for anyone;
// zero if none can.
func (o oracle) firstRelease(before []bundle.Notice) (first time.Time) {
	for _, p := range before {
		end := o.runsOut(p)
		if p.Countdown().Kind == countdown.Visitor {
			if end = o.begins(p); !end.IsZero() {
				end = end.Add(6 * time.Hour)
			}
		}
		if !end.IsZero() && (first.IsZero() || end.Before(first)) {
			first = end
		}
	}
	return first
}

// begins is the earliest instant at which a notice can show to anyone; zero for never.
func (o oracle) begins(n bundle.Notice) time.Time {
	start, until := *n.PublishedAt, noon.AddDate(100, 0, 0)
	if n.Schedule != nil {
		from, _ := schedule.ParseLocal(n.Schedule.Windows[0].From)
		if start.Before(from.In(o.zone)) {
			start = from.In(o.zone)
		}
		end, _ := schedule.ParseLocal(n.Schedule.Windows[0].Until)
		until = end.In(o.zone)
	}
	if before := o.predecessors(n); len(before) > 0 {
		first := o.firstRelease(before)
		if first.IsZero() {
			return first
		}
		if start.Before(first) {
			start = first
		}
	}
	if !start.Before(until) {
		return time.Time{}
	}
	return start
}
