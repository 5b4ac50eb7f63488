// Package findings says what can be known of a bundle before anyone visits:
// notices that never show, rivals, links that lead nowhere, words that cannot
// be read. Each finding is sound: it is reported only where it is so.
package findings

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strings"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/closed"
	"mastflag/core/decide"
	"mastflag/core/fault"
	"mastflag/core/lookup"
	"mastflag/core/markup"
	"mastflag/core/moment"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/core/wording"
)

// A Severity says how much a finding matters.
type Severity string

const (
	Error   Severity = "error"   // it does not do what it is meant to
	Warning Severity = "warning" // it may surprise someone
	Info    Severity = "info"    // it could be simpler
)

func (Severity) Values() []string { return closed.Strings(Error, Warning, Info) }

// A Code names a kind of finding.
type Code string

const (
	Over           Code = "over"         // all its windows are past
	NoPages        Code = "no-pages"     // no include entry
	MatchesNone    Code = "matches-none" // no known page
	AllExcluded    Code = "all-excluded" // an include wholly covered by excludes
	Redundant      Code = "redundant"    // an include entry that another covers
	Rival          Code = "rival"        // held back by others at some time, on some page
	DeadLink       Code = "dead-link"    // leads to a page the site does not have
	NotClosable    Code = "not-closable" // the visitor cannot close it
	LowContrast    Code = "low-contrast" // below WCAG 2.2 AA
	NoWording      Code = "no-wording"   // says nothing
	Untranslated   Code = "untranslated" // a language of the site has no wording
	Nobody         Code = "nobody"       // no visitor can be in its audience
	Everybody      Code = "everybody"    // every visitor is, whatever its conditions
	IdlePart       Code = "idle-part"    // a condition that makes no difference
	UnknownPage    Code = "unknown-page" // names a page the site does not have
	NoSpot         Code = "no-spot"      // stands in the page, nowhere in it
	NoAlt          Code = "no-alt"       // a picture without alternative text (WCAG 2.2 §1.1.1)
	Unread         Code = "unread"       // a draft of the translator that nobody has read
	NoPhrases      Code = "no-phrases"   // a language in which the program's words are missing
	OldWording     Code = "old-wording"  // translated from a text that has changed since
	TooMany        Code = "too-many"     // more occurrences than are looked at
	LeftOut        Code = "left-out"     // kept by an earlier version, and not accepted any more
	EndsOutside    Code = "ends-outside" // the countdown runs out while the notice is not live
	RunOut         Code = "run-out"      // it has run out, and the notice is still published
	OwnDeadline    Code = "own-deadline" // the deadline is each visitor's own, no moment that comes for all
	NoAfter        Code = "no-after"     // is to say something else at the end, and does not know what
	GoesAway       Code = "goes-away"    // the page goes elsewhere by itself (WCAG 2.2 §2.2.1)
	OldCopy        Code = "old-copy"     // the original of a copy has another text since
	EmptyFillIn    Code = "fill-in"      // a place for what the site does not say, or that nothing fills
	NoTheme        Code = "no-theme"     // a look by the name of a theme that the site has not
	NoPicture      Code = "no-picture"   // a picture for some visitors, and none for the others
	FarPicture     Code = "far-picture"  // a picture from a host that the inventory does not list
	NoRoom         Code = "no-room"      // in a slot in which the site allows nothing
	Unasked        Code = "unasked"      // code for a purpose that nobody is asked about
	NoSend         Code = "no-send"      // fields that nothing sends, or the other way round
	NoLabel        Code = "no-label"     // a field without words, or without options
	NoNext         Code = "no-next"      // what is to follow a form is not there
	Returns        Code = "returns"      // comes back to those who have sent its form
	NoPrivacy      Code = "no-privacy"   // asks for an address, and leads to no privacy notice
	NoCaptions     Code = "no-captions"  // a video without captions (WCAG 2.2 §1.2.2)
	UngatedFrame   Code = "frame"        // a frame of another host that waits for no purpose
	NoWords        Code = "no-words"     // a place for what the site tells, without words for the others
	NoGoal         Code = "no-goal"      // a goal that nobody can reach
	Alike          Code = "alike"        // two variants that do not differ
	NoDraw         Code = "no-draw"      // nobody is put into groups where agreement comes first
	BrokenHandover Code = "heir"         // hands over to a notice that is not there, or in a circle
	NobodyNew      Code = "nobody-new"   // for those alone who have seen it already
	UnknownNotice  Code = "no-notice"    // an audience counts what was done with a notice that is not there
	NoHours        Code = "no-hours"     // a contact line for hours that its part does not say
	AtBottom       Code = "at-bottom"    // for the top, and stands at the bottom of some pages
	NotChecked     Code = "not-checked"  // too large for all to be known that could be
)

// A Finding is one thing known.
type Finding struct {
	Code     Code     `json:"code"`
	Severity Severity `json:"severity"`
	// The notices concerned, the one to mend first; none if it is the site.
	Notices []string `json:"notices"`
	// JSON Pointers into the bundle.
	Pointers []string `json:"pointers"`
	// One sentence that says what is so.
	What string `json:"what"`
	// What would mend it.
	Fix string `json:"fix"`
	// The text that it follows from, where there is one.
	Source string `json:"source,omitempty"`
	// Changes of the first notice that would, each by itself, where there are
	// any; of the site where no notice is concerned.
	Fixes []Fix `json:"fixes,omitempty"`
	// Id of the document concerned, where it is one.
	Document string `json:"document,omitempty"`
}

// A Fix is a change of a notice, offered by a name.
type Fix struct {
	Label string `json:"label"`
	// JSON Patch (RFC 6902) of the notice.
	Patch []Operation `json:"patch"`
}

// An Operation is one step of a JSON Patch. Adding to what is not there is
// preceded by adding what it lies in.
type Operation struct {
	Op    string `json:"op" jsonschema:"enum=add,enum=remove,enum=replace"`
	Path  string `json:"path"`
	Value any    `json:"value,omitempty"`
}

func remove(label, path string) Fix { return Fix{label, []Operation{{Op: "remove", Path: path}}} }
func add(label, path string, value any) Fix {
	return Fix{label, []Operation{{Op: "add", Path: path, Value: value}}}
}

// Check returns the findings of a site at an instant, the gravest first.
// Drafts are checked as if they were published, but compete with no one. The error is
// that of a context that ended.
func Check(ctx context.Context, s *decide.Site, at time.Time) ([]Finding, error) {
	k, err := NewKnown(ctx, s)
	if err != nil {
		return nil, err
	}
	return k.Check(ctx, at)
}

// CheckNotice returns those findings of Check that the notice of that id is
// the one to mend for.
func CheckNotice(ctx context.Context, s *decide.Site, at time.Time, id string) ([]Finding, error) {
	k, err := newKnown(ctx, s, id)
	if err != nil {
		return nil, err
	}
	return k.Check(ctx, at)
}

// Known is what can be found of a site whatever the time, so that it is worked
// out once for many instants.
type Known struct {
	checker checker
	only    string
}

// What proofs about audiences may cost in one check, in units of audience.Effort: those of the notices by
// themselves, and those of rivals. Either takes about a second.
const maxEffort = 20_000_000

// How many times an entry is put to a page in one check, where no index helps: about a second.
const maxEntries = 4_000_000

// NewKnown works out what does not depend on time.
func NewKnown(ctx context.Context, s *decide.Site) (Known, error) { return newKnown(ctx, s, "") }

// newKnown is NewKnown for one notice, or for all if only is "".
func newKnown(ctx context.Context, s *decide.Site, only string) (Known, error) {
	b := s.Bundle()
	c := checker{
		ctx: ctx, site: s, b: b, only: only, known: map[string]bool{}, place: map[string]int{}, ends: map[string]bool{},
		effort: audience.NewEffort(maxEffort), looks: maxEntries,
	}
	for i, n := range b.Notices {
		c.place[n.ID] = i
	}
	c.names = s.Names()
	c.saved = audience.Named(b.Site.Audiences)
	for _, p := range b.Pages {
		if subject, ok := s.Subject(p.Path); ok {
			c.known[subject.Path] = true
			c.pages = append(c.pages, subject)
		}
	}
	c.addRoutes()
	c.reach()
	c.meet()
	for i, n := range b.Notices {
		if err := ctx.Err(); err != nil {
			return Known{}, err
		}
		if only == "" || n.ID == only {
			c.notice(i, n)
		}
	}
	if only == "" {
		c.setup()
		c.documents()
		c.phrases()
		c.savedAudiences()
	}
	if c.looks < 0 {
		c.notChecked("Which pages conditions match", "Shorten the longest lists of pages.")
	}
	if c.effort.Spent() {
		c.notChecked("Whether visitors can be in each audience", "Shorten the longest audiences.")
	}
	return Known{c, only}, ctx.Err()
}

// notChecked reports what was not looked at to the end, of the site or of the one notice.
func (c *checker) notChecked(what, mend string) {
	f := Finding{Code: NotChecked, Severity: Info, Notices: []string{}, Pointers: []string{"/notices"}, Fix: mend}
	f.What = what + " was not checked to the end: there is too much to look at."
	if c.only != "" {
		f.Notices, f.Pointers = []string{c.only}, []string{fault.Pointer("notices", c.place[c.only])}
	}
	c.found = append(c.found, f)
}

// Check returns all findings at an instant, as the function Check does.
func (k Known) Check(ctx context.Context, at time.Time) ([]Finding, error) {
	c := k.checker
	c.ctx, c.at, c.found = ctx, at, slices.Clone(c.found)
	for i, n := range c.b.Notices {
		if k.only == "" || n.ID == k.only {
			c.when(i, n)
		}
	}
	c.rivals()
	Sort(c.found)
	return c.found, ctx.Err()
}

// Sort puts the gravest first, and leaves the order of others.
func Sort(list []Finding) {
	order := map[Severity]int{Error: 0, Warning: 1, Info: 2}
	slices.SortStableFunc(list, func(a, b Finding) int { return cmp.Compare(order[a.Severity], order[b.Severity]) })
}

type checker struct {
	ctx    context.Context // of what is under way: whoever asked may leave
	site   *decide.Site
	b      bundle.Bundle
	at     time.Time
	only   string
	effort *audience.Effort // for proofs about audiences
	looks  int              // how many more times entries are put to pages, one at a time
	names  pages.Names
	saved  audience.Names
	known  map[string]bool
	pages  []pages.Subject
	place  map[string]int  // of the notices, by id
	ends   map[string]bool // those of which no heir hands over in a circle
	// The notices, by place, whose pages some known page is among.
	reached []bool
	// Whether some pattern may take pages behind a #, which are not known.
	routePatterns bool
	// By id, those that somebody who has met none yet can come to meet.
	met   map[string]bool
	found []Finding
}

func (c *checker) add(code Code, sev Severity, i int, pointer, what, mend string, mends ...Fix) {
	c.found = append(c.found, Finding{
		code, sev, []string{c.b.Notices[i].ID}, []string{fault.Pointer("notices", i) + pointer}, what, mend, "", mends, "",
	})
}

// when finds what depends on the time alone.
func (c *checker) when(i int, n bundle.Notice) {
	title := "“" + n.GetTitle() + "”"
	c.countdownNow(i, n, title)
	if when := c.site.Schedule(n.ID); n.GetState() != bundle.Draft || n.Schedule != nil {
		var noEnd []Fix
		if live, _ := c.site.FullSchedule(n.ID).SiteAt(c.at); n.Schedule != nil && !live {
			noEnd = []Fix{remove("Give it no end", "/schedule")}
		}
		if end, ends := when.End(); ends && end.IsZero() {
			c.add(
				Over,
				Error,
				i,
				"/schedule",
				title+" never shows: its time lies before it is published.",
				"Move the end of its time, or remove it.",
				noEnd...)
		} else if ends && !end.After(c.at) {
			c.add(Over, Warning, i, "/schedule", fmt.Sprintf(
				"%s ended %s and is still published.", title, moment.Say(end, c.at, c.site.Zone()),
			), "Unpublish it, or give it a new time.", noEnd...)
		}
		if soon := c.at.AddDate(1, 0, 0); when.Cut(soon) {
			c.add(
				TooMany, Warning, i, "/schedule",
				fmt.Sprintf(
					"%s repeats more than %d times before %s; what comes after is not looked at.", title, schedule.MaxOccurrences,
					moment.Say(soon, c.at, c.site.Zone()),
				),
				"Let it begin later, or repeat less often.",
			)
		}
	}
}

func (c *checker) notice(i int, n bundle.Notice) {
	title := "“" + n.GetTitle() + "”"
	c.audience(i, n, title)
	c.where(i, n, title)
	if n.Kind == bundle.KindCode {
		c.code(i, n, title)
		return // nothing of it is seen
	}
	c.words(i, n, title)
	c.countdown(i, n, title)
	c.question(i, n, title)
	c.usesDocuments(i, n, title)
	c.fillIns(i, n, title)
	c.look(i, n, title)
	c.forms(i, n, title)
	c.videos(i, n, title)
	c.contacts(i, n, title)
	c.experiments(i, n, title)
	c.personal(i, n, title)
	c.spots(i, n, title)
	if slot := n.GetSlot(); c.b.Site.SlotCapacity(slot) < 1 {
		c.add(
			NoRoom, Error, i, "/slot",
			fmt.Sprintf("%s never shows: the site allows no notice %s.", title, slot.Where(c.b.Site.Language)),
			"Allow one there in Site, or show it elsewhere.",
		)
	}
	c.copied(i, n, title)
	if d, _ := n.Disclaimer(); !n.Closable() && n.Kind != bundle.KindConsent && n.Kind != bundle.KindBlock &&
		!d.Answered() { // those are gone once they are answered
		c.add(
			NotClosable, Warning, i, "/memory/closable", title+" cannot be closed.",
			"Let visitors close it, unless they must not miss it.", remove("Let visitors close it", "/memory/closable"),
		)
	}
}

// copied reports a copy whose original says something new.
func (c *checker) copied(i int, n bundle.Notice, title string) {
	o, changed, _ := n.Original(c.b.Notices)
	if !changed {
		return
	}
	c.add(OldCopy, Warning, i, "/copyOf/mark",
		fmt.Sprintf("%s is a copy of “%s”, whose text has changed since.", title, o.GetTitle()),
		"Compare the two in its room, and take the original’s text or keep its own.")
}

// spots reports a notice in the page that has no spot, or none on some of its pages.
func (c *checker) spots(i int, n bundle.Notice, title string) {
	switch {
	case n.GetSlot() != bundle.Inline:
		return
	case len(n.AllSpots()) == 0:
		c.add(NoSpot, Error, i, "/slot", title+" stands in the page, and no spot in it is chosen.",
			"Point at its spot on the stage, or show it elsewhere.", add("Show it at the top", "/slot", bundle.Top))
		return
	}
	without := c.site.PagesWithoutSpot(n.ID)
	if len(without) == 0 {
		return
	}
	which := strings.Join(without[:min(3, len(without))], ", ")
	if more := len(without) - 3; more > 0 {
		which += " and " + moment.Count(more, "other page")
	}
	c.add(
		NoSpot, Warning, i, "/spots", fmt.Sprintf("%s has no spot on %s, as far as those pages were read.", title, which),
		"Choose a spot for those pages, or leave them out.",
	)
}

// reach finds which notices have pages that are known, each page looked up once.
func (c *checker) reach() {
	c.reached = make([]bool, len(c.b.Notices))
	var ids []int32
	sets := map[int32]pages.Set{}
	for i, n := range c.b.Notices {
		if c.only != "" && n.ID != c.only {
			continue
		}
		if set, faults := pages.Compile(n.GetPages(), c.names); faults == nil {
			ids, sets[int32(i)] = append(ids, int32(i)), set
		}
	}
	index := pages.NewIndex(ids, func(i int32) pages.Set { return sets[i] })
	everywhere := slices.Clone(index.Everywhere())
	left := len(ids)
	for _, p := range c.pages {
		if left == 0 {
			break
		}
		here, barred := index.Find(p)
		for _, i := range here {
			if !c.reached[i] {
				c.reached[i] = true
				left--
			}
		}
		everywhere = slices.DeleteFunc(everywhere, func(i int32) bool {
			_, out := slices.BinarySearch(barred, i)
			if !out {
				c.reached[i] = true
				left--
			}
			return !out
		})
	}
}

func (c *checker) where(i int, n bundle.Notice, title string) {
	cond := n.GetPages()
	everyPage := add("Show it on every page", "/pages", pages.Conditions{Include: []pages.Entry{{Match: pages.All}}})
	if len(cond.Include) == 0 {
		c.add(NoPages, Error, i, "/pages", title+" appears nowhere: no pages are chosen.", "Choose its pages.", everyPage)
		return
	}
	set, faults := pages.Compile(cond, c.names)
	if faults != nil {
		return // Compile of the site has refused it
	}
	if len(c.pages) > 0 && !c.reached[i] && !c.routePatterns && (!set.AsksQuery() || c.none(set)) {
		c.add(
			MatchesNone, Error, i, "/pages", title+" matches no known page of this site.",
			"Choose other pages, or read the site's pages again.", everyPage,
		)
	}
	included, excluded := pages.NewCoverings(cond.Include, c.names), pages.NewCoverings(cond.Exclude, c.names)
	for j, e := range cond.Include {
		at := fmt.Sprintf("/pages/include/%d", j)
		c.excluded(i, j, e, cond, excluded.Of(e), title)
		for _, k := range included.Of(e) {
			other := cond.Include[k]
			_, both := slices.BinarySearch(included.Of(other), j)
			if k < j || k > j && !both {
				c.add(
					Redundant, Info, i, at, fmt.Sprintf("%s includes %s, already covered by %s.", title, e, other),
					"Remove it; nothing changes.", remove("Remove it", at),
				)
				break
			}
		}
	}
	c.unknownPages(i, "/pages", cond, title)
}

// none reports whether conditions take no known page, whatever the query of its address.
func (c *checker) none(set pages.Set) bool {
	return len(c.pages) > 0 && !c.routePatterns && set.None(c.pages, &c.looks)
}

// addRoutes counts as known what conditions name behind the # of a known page: reading a site finds pages, and not
// where they go on to by themselves.
func (c *checker) addRoutes() {
	if !c.b.Site.Routes {
		return
	}
	var all []pages.Conditions
	for _, s := range c.b.Site.PageSets {
		all = append(all, s.Conditions)
	}
	for _, n := range c.b.Notices {
		all = append(all, n.GetPages())
		if n.Experiment != nil && n.Experiment.Goal.Pages != nil {
			all = append(all, *n.Experiment.Goal.Pages)
		}
	}
	for _, cond := range all {
		for _, e := range slices.Concat(cond.Include, cond.Exclude) {
			c.routePatterns = c.routePatterns || e.Match == pages.Pattern && strings.Contains(e.Pattern, "#")
			path, err := pages.NormalPath(e.Path)
			base, _, behind := strings.Cut(path, "#")
			if err != nil || !behind || !c.known[c.names.Listed.Find(base)] || c.known[c.names.Listed.Find(path)] {
				continue
			}
			if subject, ok := c.site.Subject(path); ok {
				c.known[subject.Path] = true
				c.pages = append(c.pages, subject)
			}
		}
	}
}

// unknownPages reports what conditions at a pointer into the notice name that the site does not have.
func (c *checker) unknownPages(i int, pointer string, cond pages.Conditions, title string) {
	for _, list := range []struct {
		name    string
		entries []pages.Entry
	}{{"include", cond.Include}, {"exclude", cond.Exclude}} {
		for j, e := range list.entries {
			at := fmt.Sprintf("%s/%s/%d", pointer, list.name, j)
			path, err := pages.NormalPath(e.Path)
			if pages.RouteOf(path) != "" && !c.b.Site.Routes {
				c.add(UnknownPage, Warning, i, at, fmt.Sprintf(
					"%s names %s, but this site does not tell pages apart behind a #.", title, e.Path,
				), "Switch that on in Site, About, or leave out what stands behind the #.")
				continue
			}
			if e.Match == pages.Page && err == nil && !c.knows(path) {
				var mends []Fix
				if list.name == "exclude" || len(list.entries) > 1 { // with none it would be nowhere
					mends = append(mends, remove("Remove it", at))
				}
				c.add(UnknownPage, Warning, i, at, fmt.Sprintf(
					"%s names the page %s, which is not known of this site.", title, e.Path,
				), "Check the path, or read the site's pages again.", mends...)
			}
		}
	}
}

// knows reports whether the site has a page at a path in normal form; any may be one where no page is known.
func (c *checker) knows(path string) bool {
	return len(c.pages) == 0 || c.known[c.names.Listed.Find(path)]
}

// maxUndone is how many exclude entries one step of a mend takes away.
const maxUndone = 20

// excluded reports an include entry, the j-th, all of which exclude entries cover: those in these places.
func (c *checker) excluded(i, j int, e pages.Entry, cond pages.Conditions, covering []int, title string) {
	if len(covering) == 0 {
		return
	}
	var by []string
	var patch []Operation // the last first, so that the others stay where they are
	var mends []Fix
	if len(covering) <= maxUndone {
		for _, k := range slices.Backward(covering) {
			patch = append(patch, Operation{Op: "remove", Path: fmt.Sprintf("/pages/exclude/%d", k)})
		}
		for _, k := range covering {
			by = append(by, cond.Exclude[k].String())
		}
		mends = append(mends, Fix{"No longer exclude " + moment.And(slices.Compact(by)), patch})
	}
	at := fmt.Sprintf("/pages/include/%d", j)
	if len(cond.Include) > 1 { // with none it would appear nowhere
		mends = append(mends, remove("No longer include "+e.String(), at))
	}
	c.add(AllExcluded, Error, i, at, fmt.Sprintf(
		"%s includes %s, but excludes %s, which covers all of that.", title, e, cond.Exclude[covering[0]],
	), "Remove one of the two.", mends...)
}

func (c *checker) words(i int, n bundle.Notice, title string) {
	w := n.Wordings()
	says := 0
	for _, tag := range c.b.Site.AllLanguages() {
		if w[tag].HasWords() {
			says++
		}
	}
	for tag, text := range w {
		if !slices.Contains(c.b.Site.AllLanguages(), tag) && text.HasWords() {
			says++
		}
	}
	if says == 0 {
		mend := "Write its message."
		if len(n.Rows()) > 0 {
			mend = "Write a heading, a text or a link in it: without words in a language it is not shown, whatever else is in " +
				"it."
		}
		c.add(NoWording, Error, i, "/content", title+" says nothing yet.", mend)
		return
	}
	f := Finding{
		Code:     Untranslated,
		Severity: Warning,
		Notices:  []string{n.ID},
		Fix:      "Write them; until then those pages get another language.",
	}
	var lacks []string
	for _, tag := range c.b.Site.AllLanguages() {
		if !has(w, tag) {
			f.Pointers = append(f.Pointers, fault.Pointer("notices", i, "content", "wordings", tag))
			lacks = append(lacks, tag)
		}
	}
	for _, tag := range slices.Sorted(maps.Keys(w)) {
		if w[tag].HasWords() {
			c.links(i, n, title, tag)
		}
		at := fault.Pointer("content", "wordings", tag)
		switch wording.StateOf(w, tag, c.b.Site.Language) {
		case wording.Unread:
			c.add(
				Unread, Warning, i, at,
				fmt.Sprintf("%s has a machine’s draft in %s that nobody has read. Visitors do not get it.", title, languages(tag)),
				"Read it, correct it, and mark it as read.",
			)
		case wording.Old:
			c.add(
				OldWording, Warning, i, at,
				fmt.Sprintf(
					"The words of %s in %s are older than those in %s.", title, languages(tag), languages(c.b.Site.Language),
				),
				"Read them again.",
			)
		}
		if p := n.Picture(); p != nil && !p.Decorative && w[tag].HasWords() && w[tag].Alt == "" {
			c.noAlt(i, at, title, tag, "/content/picture")
		}
		c.partAlts(i, n, title, tag)
	}
	if lacks != nil {
		f.What = fmt.Sprintf("%s has no words in %s.", title, languages(lacks...))
		c.found = append(c.found, f)
	}
}

// has reports whether pages in a language get words in it, or in the language that
// it is a kind of.
func has(w map[string]bundle.Wording, tag string) bool {
	var have []string
	for t, text := range w {
		if text.HasWords() {
			have = append(have, t)
		}
	}
	return gives(have, tag)
}

// gives reports whether one of the tags is that of a language, or of the language
// that it is a kind of (RFC 4647 §3.4).
func gives(have []string, tag string) bool {
	for ; tag != ""; tag = lookup.Parent(tag) {
		if slices.ContainsFunc(have, func(t string) bool { return strings.EqualFold(t, tag) }) {
			return true
		}
	}
	return false
}

// noAlt reports a picture, at a pointer into the notice, without alternative text.
func (c *checker) noAlt(i int, at, title, tag, picture string) {
	c.add(NoAlt, Warning, i, at,
		fmt.Sprintf("The picture of %s has no alternative text in %s.", title, languages(tag)),
		"Say what it shows, or mark it as decorative.",
		add("Mark it as decorative", picture+"/decorative", true))
}

// partAlts reports pictures in the parts of a block without alternative text.
func (c *checker) partAlts(i int, n bundle.Notice, title, tag string) {
	words := n.Wordings()[tag]
	for j, r := range n.Rows() {
		for k, column := range r.Columns {
			for x, p := range column.Parts {
				if p.Picture == nil || p.Picture.Decorative || !words.HasWords() || words.Parts[p.ID].Alt != "" {
					continue
				}
				c.noAlt(i, fault.Pointer("content", "wordings", tag, "parts", p.ID, "alt"), title, tag,
					fault.Pointer("content", "rows", j, "columns", k, "parts", x, "picture"))
			}
		}
	}
}

// code reports code that never runs.
func (c *checker) code(i int, n bundle.Notice, title string) {
	if n.GetCode().Empty() {
		c.add(NoWording, Error, i, "/content", title+" has no code yet.", "Write some.")
	}
	asks := slices.ContainsFunc(c.b.Notices, func(o bundle.Notice) bool {
		return o.Kind == bundle.KindConsent && o.GetState() == bundle.Published
	})
	if purposes := n.GetCode().Purposes; len(purposes) > 0 && !asks {
		c.add(Unasked, Error, i, "/content/code/purposes",
			fmt.Sprintf("%s runs only once %s is agreed to, and no published consent notice asks.", title, moment.And(purposes)),
			"Publish a consent notice, or take the purposes out.", remove("Take the purposes out", "/content/code/purposes"))
	}
}

// links reports addresses on the site's own origins that no known page has.
func (c *checker) links(i int, n bundle.Notice, title, tag string) {
	if len(c.pages) == 0 {
		return
	}
	w := n.Wordings()[tag]
	at := fault.Pointer("content", "wordings", tag)
	type link struct{ pointer, href string }
	var links []link
	w.MapLinks(func(pointer string, l bundle.Link) (bundle.Link, bool) {
		links = append(links, link{at + pointer + "/href", l.Href})
		return l, true
	})
	w.MapHTML(func(pointer, html string) string {
		for _, h := range markup.Links(html) {
			links = append(links, link{at + pointer, h})
		}
		return html
	})
	for _, l := range links {
		c.deadLink(i, l.pointer, title, l.href)
	}
}

// deadLink reports an address on one of the site's own origins that no known page has.
func (c *checker) deadLink(i int, pointer, title, href string) {
	if path, own := c.ownPath(href); own && !c.knows(path) {
		c.add(
			DeadLink, Warning, i, pointer, fmt.Sprintf("%s leads to %s, which is no known page of this site.", title, href),
			"Check the address, or read the site's pages again.",
		)
	}
}

// ownPath returns the path on this site that href leads to; own is false if
// it leads elsewhere.
func (c *checker) ownPath(href string) (path string, own bool) {
	u, err := url.Parse(href)
	if err != nil || u.Opaque != "" {
		return "", false
	}
	if u.Host != "" {
		o, err := pages.Origin(href)
		if err != nil || !slices.ContainsFunc(c.b.Site.Origins, func(have string) bool {
			h, err := pages.Origin(have)
			return err == nil && pages.SameSite(h, o)
		}) {
			return "", false
		}
	}
	p := u.EscapedPath()
	if p == "" && u.Host != "" {
		p = "/"
	}
	if !strings.HasPrefix(p, "/") {
		return "", false // relative to the page it stands on
	}
	n, err := pages.NormalPath(p)
	return n, err == nil
}
