package findings

import (
	"fmt"
	"slices"
	"strings"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/fault"
	"mastflag/core/markup"
	"mastflag/core/moment"
)

// The codes of what is found about consent. The articles stand with each
// finding; they are cited from memory.
const (
	RefuseHarder Code = "refuse-harder"  // refusing takes more than accepting
	Ticked       Code = "ticked"         // something is ticked beforehand
	ClosingIs    Code = "closing-agrees" // closing is taken as agreement
	GoingOnIs    Code = "going-agrees"   // going on to another page is
	NoPolicy     Code = "no-policy"      // no link to who does what
	NoWayBack    Code = "no-way-back"    // nothing to withdraw by
	HoldsLong    Code = "holds-long"     // an answer holds too long
	AsksAgain    Code = "asks-again"     // those who refused are asked again sooner than those who agreed
	SmallTarget  Code = "small-target"   // a button that is hard to hit
	UnsureTarget Code = "unsure-target"  // a button whose size only the page knows
	LockedOut    Code = "locked-out"     // who does not answer sees nothing
	NothingAsks  Code = "nothing-asks"   // things are set, and nobody is asked
	AsksNothing  Code = "asks-nothing"   // a question about nothing
	// the site shares what browsers remember by a cookie that its inventory does not have
	OwnUnlisted   Code = "own-unlisted"
	EmptyPurpose  Code = "empty-purpose"  // asked about, and nothing is set for it
	Unplaced      Code = "unplaced"       // set, and for no purpose
	PendingDetail Code = "missing-detail" // how long, or by whom, is not said
	PlacesNews    Code = "places-news"    // the table of places says something new
	Leak          Code = "leak"           // set before an answer, or after a refusal
	Unlisted      Code = "unlisted"       // found, and not in the inventory
	Longer        Code = "longer"         // kept longer than the inventory says
)

// question finds what is wrong with how a consent notice asks.
func (c *checker) question(i int, n bundle.Notice, title string) {
	if n.Kind != bundle.KindConsent {
		return
	}
	const at = "/content/consent"
	q := n.Question()
	cited := func(source string) { c.found[len(c.found)-1].Source = source }
	if len(c.b.Site.Setup().Purposes) == 0 {
		c.add(
			AsksNothing, Error, i, at, title+" has nothing to ask about: the site has no purposes yet.",
			"Choose what is asked about, in the Consent room.",
		)
	}
	if q.GetRefusePlacement() == "behind" {
		c.add(
			RefuseHarder, Error, i, at+"/refuse",
			title+" lets all be accepted with one press, and refused only behind “Choose”: refusing takes more steps.",
			"Put refusing beside accepting.", remove("Put it beside accepting", at+"/refuse"),
		)
		cited("GDPR Art. 4(11) and 7(3); EDPB Guidelines 05/2020, 112 ff.")
	}
	c.style(i, n, title)
	if len(q.Preticked) > 0 {
		c.add(
			Ticked, Error, i, at+"/ticked",
			fmt.Sprintf(
				"%s wants %s ticked beforehand. Where the rule is opt-in that is no consent, and it is not done.", title,
				moment.And(q.Preticked),
			),
			"Tick nothing beforehand.", remove("Tick nothing beforehand", at+"/ticked"),
		)
		cited("GDPR Art. 4(11), Recital 32; CJEU C-673/17 (Planet49)")
	}
	if q.GetClosing() == "accept" {
		c.add(
			ClosingIs, Error, i, at+"/closing",
			title+" takes closing it as agreement. Where the rule is opt-in that is no consent, and it is not done there.",
			"Let closing mean nothing.", remove("Let closing mean nothing", at+"/closing"),
		)
		cited("GDPR Art. 4(11), Recital 32")
	}
	if q.GetContinuing() == "accept" {
		c.add(
			GoingOnIs, Error, i, at+"/goingOn",
			title+" takes going on to another page as agreement. Where the rule is opt-in that is no consent, and it is not "+
				"done there.",
			"Let going on mean nothing.", remove("Let going on mean nothing", at+"/goingOn"),
		)
		cited("GDPR Art. 4(11); EDPB Guidelines 05/2020, 86")
	}
	if q.GetAskAgainCorner() == "none" {
		c.add(
			NoWayBack, Error, i, at+"/again", title+" leaves no way to withdraw: no control asks again.",
			"Show the control, unless every page has a link of its own that calls mastflag.consent.open().",
			remove("Show the control", at+"/again"),
		)
		cited("GDPR Art. 7(3)")
	}
	long, longRefusal := q.TooLong()
	for _, is := range []struct {
		long        bool
		what, field string
	}{
		{long, "An answer", "/holds"},
		{longRefusal && q.RefusalValidFor != "", "A refusal", "/refusalHolds"},
	} {
		if is.long {
			c.add(
				HoldsLong, Warning, i, at+is.field,
				fmt.Sprintf("%s to %s holds longer than %d months.", is.what, title, consent.Longest),
				"Ask again after six months.", add("Ask again after 180 days", at+is.field, "P180D"),
			)
			cited("common practice of supervisory authorities")
		}
	}
	if q.AsksRefusersSooner() { // the Guidelines named from memory
		c.add(
			AsksAgain, Warning, i, at+"/refusalHolds",
			title+" asks those who refused again sooner than those who agreed. Asked often enough, people give in: that is "+
				"not freely given.",
			"Let a refusal hold as long as agreement.",
			remove("Let a refusal hold as long as agreement", at+"/refusalHolds"),
		)
		cited("GDPR Art. 4(11); EDPB Guidelines 03/2022 on deceptive design patterns, continuous prompting")
	}
	if n.GetSlot().Row().Over && !n.Closable() {
		c.add(
			LockedOut, Error, i, "/slot",
			title+" lies over the page and cannot be closed: who does not answer cannot use the site.",
			"Show it at the bottom, or let visitors close it.", add("Show it at the bottom", "/slot", bundle.Bottom),
			add("Let visitors close it", "/memory/closable", true),
		)
		cited("GDPR Art. 7(4); EDPB Guidelines 05/2020, 38 ff.")
	}
	var lacks []string
	var pointers []string
	for _, tag := range c.b.Site.AllLanguages() {
		w := n.Wordings()[tag]
		if w.Message != "" && w.Link == nil && len(markup.Links(w.Message)) == 0 {
			lacks = append(lacks, tag)
			pointers = append(pointers, fault.Pointer("notices", i, "content", "wordings", tag))
		}
	}
	if lacks != nil {
		c.found = append(c.found, Finding{
			Code:     NoPolicy,
			Severity: Error,
			Notices:  []string{n.ID},
			Pointers: pointers,
			What:     fmt.Sprintf("%s does not lead to a text that says who does what, in %s.", title, languages(lacks...)),
			Fix:      "Link to the page about privacy.",
			Source:   "GDPR Art. 12(1) and 13",
		})
	}
}

// names reports whether a selector names something to press.
func names(selector string) bool {
	return slices.ContainsFunc([]string{
		"button", "close", "input", "data-act", "label", "again",
	}, func(s string) bool { return strings.Contains(selector, s) })
}

// setup finds what is wrong with what the site sets and asks about. Mends are
// changes of the site.
func (c *checker) setup() {
	s := c.b.Site.Setup()
	const at = "/site/consent"
	add := func(code Code, sev Severity, pointer, what, mend, source string, mends ...Fix) {
		c.found = append(c.found, Finding{
			Code:     code,
			Severity: sev,
			Notices:  []string{},
			Pointers: []string{at + pointer},
			What:     what,
			Fix:      mend,
			Source:   source,
			Fixes:    mends,
		})
	}
	asks := slices.ContainsFunc(
		c.b.Notices, func(n bundle.Notice) bool { return n.Kind == bundle.KindConsent && n.GetState() == bundle.Published },
	)
	needs := slices.ContainsFunc(s.Inventory, func(i consent.Item) bool { return i.Purpose != consent.Necessary })
	if needs && !asks {
		add(
			NothingAsks, Error, "/inventory",
			"The site sets things that are not strictly necessary, and no published notice asks about them.",
			"Publish a consent notice.", "ePrivacy Directive Art. 5(3)",
		)
	}
	if c.b.Site.HidesOwnCookie() {
		op := Operation{Op: "add", Path: "/consent/inventory/-", Value: consent.OwnCookie()}
		if s.Inventory == nil {
			op.Path, op.Value = "/consent/inventory", []consent.Item{consent.OwnCookie()}
		}
		if c.b.Site.Consent == nil {
			op.Path, op.Value = "/consent", consent.Setup{Inventory: []consent.Item{consent.OwnCookie()}}
		}
		add(
			OwnUnlisted, Warning, "/inventory",
			"What visitors closed and answered is kept in a cookie of the whole domain, and the inventory does not say so.",
			"List it as strictly necessary.", "GDPR Art. 13(1)(c); CJEU C-673/17 (Planet49), 75 ff.",
			Fix{"List it", []Operation{op}},
		)
	}
	for i, p := range s.Purposes {
		if len(s.ItemsFor(p.ID)) == 0 {
			pointer := fault.Pointer("purposes", i)
			add(
				EmptyPurpose, Warning, pointer,
				fmt.Sprintf(
					"Visitors are asked about “%s”, and nothing in the inventory is for it.",
					p.In(c.b.Site.Language, c.b.Site.Language, nil).Name,
				),
				"List what is set for it, or no longer ask.", "GDPR Art. 5(1)(b) and (c)",
				remove("No longer ask about it", "/consent"+pointer),
			)
		}
	}
	for i, item := range s.Inventory {
		pointer := fault.Pointer("inventory", i)
		if item.Purpose == "" {
			add(Unplaced, Error, pointer, fmt.Sprintf(
				"%s “%s” is set for no purpose that anyone was told.", title(item.Kind), item.Name,
			), "Say what it is for.", "GDPR Art. 5(1)(b) and 13(1)(c)", Fix{
				"It is strictly necessary",
				[]Operation{{Op: "add", Path: "/consent" + pointer + "/purpose", Value: consent.Necessary}},
			})
			continue
		}
		keeps := item.Kind == consent.Cookie || item.Kind == consent.Storage
		switch {
		case keeps && item.Lasts == "":
			add(
				PendingDetail, Warning, pointer,
				fmt.Sprintf("%s “%s” does not say how long it is kept.", title(item.Kind), item.Name), "Say how long.",
				"CJEU C-673/17 (Planet49), 75 ff.; GDPR Art. 13(2)(a)",
			)
		case !keeps && item.By == "":
			add(
				PendingDetail, Warning, pointer,
				fmt.Sprintf("%s “%s” does not say who gets what it tells.", title(item.Kind), item.Name), "Say who.",
				"CJEU C-673/17 (Planet49), 75 ff.; GDPR Art. 13(1)(e)",
			)
		}
	}
	if news := consent.Changes(consent.Table, s.TableRead); len(news) > 0 {
		add(
			PlacesNews, Warning, "/tableRead",
			fmt.Sprintf(
				"The table of places has %d rows that nobody has read. Until then the stricter of old and new holds.", len(news),
			),
			"Read them in the Consent room.", "",
		)
	}
}

func title(k consent.ItemKind) string {
	return map[consent.ItemKind]string{
		consent.Cookie:  "Cookie",
		consent.Storage: "Storage key",
		consent.Frame:   "Frame",
		consent.Request: "Request to",
	}[k]
}

// InspectionFindings returns what an inspection found amiss in a site, the gravest first.
// Pointers lead into the inventory, where there is an item.
func InspectionFindings(s consent.Setup, r consent.Run) []Finding {
	out := []Finding{}
	for _, t := range s.Detected(r) {
		f := Finding{Notices: []string{}, Pointers: []string{"/site/consent/inventory"}}
		if t.Item >= 0 {
			f.Pointers[0] += fmt.Sprintf("/%d", t.Item)
		}
		what := fmt.Sprintf("%s “%s”", title(t.Kind), t.Name)
		if t.Host != "" {
			what += " of " + t.Host
		}
		where := func(s consent.Sighting) string {
			out := "on " + s.Page
			if s.By != "" {
				out += ", by " + s.By
			}
			return out + fmt.Sprintf(", %.1f s after the page was asked for", float64(s.After)/1000)
		}
		phase := func(p consent.Phase) *consent.Sighting {
			if k := slices.IndexFunc(t.Seen, func(s consent.Sighting) bool { return s.Phase == p }); k >= 0 {
				return &t.Seen[k]
			}
			return nil
		}
		before, refused := phase(consent.Unanswered), phase(consent.AllRefused)
		done := map[consent.ItemKind]string{
			consent.Cookie:  "is set",
			consent.Storage: "is set",
			consent.Frame:   "is fetched",
			consent.Request: "is made",
		}[t.Kind]
		switch {
		case t.Leaks && before != nil:
			f.Code, f.Severity = Leak, Error
			f.What = fmt.Sprintf("%s %s before any answer: %s.", what, done, where(*before))
			if refused != nil {
				f.What = strings.TrimSuffix(f.What, ".") + "; and after a refusal too."
			}
		case t.Leaks:
			f.Code, f.Severity = Leak, Error
			f.What = fmt.Sprintf("%s %s after a refusal: %s.", what, done, where(*refused))
		case t.Item < 0 && t.Purpose == "":
			f.Code, f.Severity = Unlisted, Warning
			f.What = fmt.Sprintf("%s is not in the inventory: %s.", what, where(t.Seen[0]))
			f.Fix, f.Source = "Put it there, with what it is for.", "GDPR Art. 13(1)(c)"
		case t.Longer:
			f.Code, f.Severity = Longer, Warning
			f.What = fmt.Sprintf("%s is kept longer than the inventory says: %s.", what, t.Seen[0].Lasts)
			f.Fix, f.Source = "Correct the inventory, or have it kept as long as it says.", "CJEU C-673/17 (Planet49), 75 ff."
		default:
			continue
		}
		if f.Code == Leak {
			f.Fix = "Mark what sets it with its purpose, so that it runs only once that is agreed to."
			f.Source = "ePrivacy Directive Art. 5(3); GDPR Art. 7(1)"
			if t.Item < 0 {
				f.Fix = "Say in the inventory what it is for. Unless it is strictly necessary, mark what sets it with its purpose."
			}
		}
		out = append(out, f)
	}
	return out
}
