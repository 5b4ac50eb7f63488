package document

import (
	"cmp"
	"fmt"
	"html"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"mastflag/core/closed"
	"mastflag/core/consent"
	"mastflag/core/countdown"
	"mastflag/core/markup"
	"mastflag/core/phrase"
	"mastflag/core/schedule"
)

// A Section is a part of a document in one language.
type Section struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	// With its heading; "" where nothing stands there yet.
	HTML string `json:"html"`
	// computed: from answers and what is known. own: by hand. again: by hand, and what it was
	// written beside has changed since, so that someone has to read it again. missing: this
	// language has no words of its own yet.
	From From `json:"from"`
	// What is computed there, or would be: in this language, or in the one to translate from.
	Source string `json:"source"`
	// Ids of the items that it says.
	Items []string `json:"items"`
	// Mark of the source.
	Of string `json:"of"`
}

// A From is where a section's text is from.
type From string

const (
	Computed From = "computed"
	ByHand   From = "own"
	Again    From = "again"
	Missing  From = "missing"
)

func (From) Values() []string { return closed.Strings(Computed, ByHand, Again, Missing) }

// moreTopic is a section at the end of each computed document, for what else there is to say.
const moreTopic = "more"

// text is the one section of a document that is written by hand.
const text = "text"

// sectionIDs returns the ids of all sections that documents of a kind can have.
func sectionIDs(k Kind) []string {
	if k == Disclaimer || k == Own {
		return []string{text}
	}
	return append(slices.Clone(map[Kind][]string{
		Privacy: {
			"who", "officer", "what", "recipients", "abroad", "kept", "rights", "withdraw", "complain", "must", "automated",
		},
		Cookies:       {"what", "choice", "change", "checked"},
		Terms:         {"provider", "register", "supervision", "profession", "vat", "prices", "use", "law"},
		Accessibility: {"commitment", "status", "gaps", "burden", "outside", "prepared", "feedback", "enforcement"},
	}[k]), moreTopic)
}

// A writer computes a document in one language.
type writer struct {
	doc      Document
	site     Site
	tag      string
	phrases  map[string]string
	answers  map[string]string
	own      phrase.Words
	sections []Section
	points   map[string]Point
}

// compute returns the computed sections in a language whose words are ready, and
// the state of each item. A section without text stands there only so that it
// can be written by hand.
func compute(d Document, s Site, tag string) ([]Section, map[string]Point) {
	w := &writer{
		doc:     d,
		site:    s,
		tag:     tag,
		phrases: phrases(tag, s.Language),
		answers: d.Answered(s),
		own:     phrase.In(tag),
		points:  map[string]Point{},
	}
	switch d.Kind {
	case Privacy:
		w.privacy()
	case Cookies:
		w.cookies()
	case Terms:
		w.terms()
	case Accessibility:
		w.accessibility()
	case Disclaimer:
		w.disclaimer()
	default:
		w.section(text)
	}
	if slices.Contains(sectionIDs(d.Kind), moreTopic) {
		w.section(moreTopic)
	}
	return w.sections, w.points
}

// section begins a section; its text is what is put after it.
func (w *writer) section(id string, values ...map[string]string) {
	title := w.phrases[string(w.doc.Kind)+"."+id+".title"]
	if title != "" {
		title = w.say(string(w.doc.Kind)+"."+id+".title", values...)
	}
	w.sections = append(w.sections, Section{ID: id, Title: title, Items: []string{}})
}

func (w *writer) last() *Section { return &w.sections[len(w.sections)-1] }

// say fills in the phrase of a key.
func (w *writer) say(key string, values ...map[string]string) string {
	phrase, ok := w.phrases[key]
	if !ok {
		panic("document: there are no words for " + key)
	}
	all := maps.Clone(w.answers)
	for _, v := range values {
		maps.Copy(all, v)
	}
	return say(phrase, w.answers["voice"] == "I", all)
}

// p puts a paragraph of a key's phrase.
func (w *writer) p(key string, values ...map[string]string) {
	w.last().HTML += "<p>" + w.say(string(w.doc.Kind)+"."+key, values...) + "</p>"
}

// list puts what there is of it as a list.
func (w *writer) list(entries []string) {
	if len(entries) > 0 {
		w.last().HTML += "<ul><li>" + strings.Join(entries, "</li><li>") + "</li></ul>"
	}
}

// said, away and open settle an item, in the section begun last.
func (w *writer) said(id string) { w.settle(Point{State: Said}, id) }

func (w *writer) away(id, why string) { w.settle(Point{State: Away, Why: why}, id) }

func (w *writer) open(id, why, question string) {
	w.settle(Point{State: Open, Why: why, Question: question}, id)
}

func (w *writer) settle(p Point, id string) {
	if _, twice := w.points[id]; twice {
		panic("document: " + id + " is settled twice")
	}
	p.ID, p.Section = id, w.last().ID
	w.points[id] = p
}

// contact is how the operator is reached: address, e-mail and telephone.
func (w *writer) contact(ids ...string) (entries []string) {
	for _, id := range ids {
		v := w.answers[id]
		if v == "" {
			continue
		}
		line := w.say("contact." + id)
		switch id {
		case "email":
			line = strings.Replace(
				line,
				html.EscapeString(v),
				fmt.Sprintf(`<a href="mailto:%s">%s</a>`, html.EscapeString(v), html.EscapeString(v)),
				1,
			)
		case "phone":
			dial := strings.Map(func(r rune) rune {
				if r == '+' || r >= '0' && r <= '9' {
					return r
				}
				return -1
			}, v)
			line = strings.Replace(
				line,
				html.EscapeString(v),
				fmt.Sprintf(`<a href="tel:%s">%s</a>`, dial, html.EscapeString(v)),
				1,
			)
		}
		entries = append(entries, line)
	}
	return entries
}

// onInterests, onContract and mustGive are uses that rest on legitimate
// interests, on a contract, and for which data has to be given.
var (
	onInterests = []string{"visits", "contact", "comments"}
	onContract  = []string{"contact", "orders", "account", "jobs"}
	mustGive    = []string{"orders", "account", "jobs"}
)

func (w *writer) privacy() {
	a, s := w.answers, w.site.Setup
	var uses []string
	q, _ := question("uses")
	for _, o := range q.Options {
		if chosen(a["uses"], o.ID) {
			uses = append(uses, o.ID)
		}
	}
	some := func(of []string) bool {
		return slices.ContainsFunc(uses, func(u string) bool { return slices.Contains(of, u) })
	}
	asked := len(s.Purposes) > 0
	answered := a["uses"] != ""
	nothing := answered && len(uses) == 0 && !asked

	w.section("who")
	if a["operator"] != "" {
		w.p("who.text")
	}
	w.list(w.contact("address", "email", "phone"))
	switch {
	case a["operator"] == "":
		w.open("controller", "Say who runs the site.", "operator")
	case a["email"] == "" && a["address"] == "":
		w.open("controller", "Say how they are reached.", "email")
	default:
		w.said("controller")
	}

	w.section("officer")
	switch {
	case a["officer"] == None:
		w.away("officer", "You need none.")
	case a["officer"] == "":
		w.open("officer", "Say whether there is one.", "officer")
	case a["officerContact"] == "":
		w.open("officer", "Say how they are reached.", "officerContact")
	default:
		w.p("officer.text")
		w.said("officer")
	}

	w.section("what")
	var list []string
	for _, u := range uses {
		list = append(list, w.say("use."+u))
	}
	for _, p := range s.Purposes {
		words := p.In(w.tag, w.site.Language, nil)
		list = append(list, w.say("use.purpose", map[string]string{"purpose": words.Name, "text": words.Text}))
	}
	switch {
	case nothing:
		w.p("what.none")
	case len(list) > 0:
		w.p("what.text")
		w.list(list)
	}
	switch {
	case !answered:
		w.open("purposes", "Say what people’s data is used for.", "uses")
		w.open("interests", "Say what people’s data is used for.", "uses")
	case nothing:
		w.away("purposes", "No personal data is used.")
		w.away("interests", "No personal data is used.")
	default:
		w.said("purposes")
		if some(onInterests) {
			w.said("interests")
		} else {
			w.away("interests", "Nothing rests on legitimate interests.")
		}
	}

	w.section("recipients")
	w.recipients()

	w.section("abroad")
	switch a["abroad"] {
	case "no":
		w.away("abroad", "All of them work within the European Economic Area.")
	case "":
		w.open("abroad", "Say where recipients work.", "abroad")
	default:
		w.p("abroad." + a["abroad"])
		w.said("abroad")
	}

	w.section("kept")
	list = nil
	for _, u := range uses {
		if u == "visits" && a["logs"] == "" {
			continue
		}
		list = append(list, w.say("privacy.kept."+u, map[string]string{"logs": w.span(a["logs"])}))
	}
	if asked {
		list = append(list, w.say("privacy.kept.record", map[string]string{"keep": w.span(s.GetKeep())}))
	}
	w.list(list)
	if i := slices.IndexFunc(
		w.site.Documents, func(d Document) bool { return d.Kind == Cookies && d.Version > 0 },
	); i >= 0 {
		d := w.site.Documents[i]
		out, _ := d.In(w.tag, w.site.Language)
		w.p("kept.devices", map[string]string{"cookies": d.ID, "cookiesTitle": out.Title})
	}
	switch {
	case !answered:
		w.open("kept", "Say what people’s data is used for.", "uses")
	case nothing:
		w.away("kept", "No personal data is used.")
	case chosen(a["uses"], "visits") && a["logs"] == "":
		w.open("kept", "Say how long notes of requests are kept.", "logs")
	default:
		w.said("kept")
	}

	w.section("rights")
	w.p("rights.text")
	if some(onInterests) {
		w.p("rights.object")
	}
	if some(onContract) || asked || chosen(a["uses"], "newsletter") {
		w.p("rights.portability")
	}
	w.said("rights")

	w.section("withdraw")
	switch {
	case asked || chosen(a["uses"], "newsletter"):
		w.p("withdraw.text")
		if asked && w.site.Again {
			w.p("withdraw.device", map[string]string{"again": w.own[phrase.Again]})
		}
		w.said("withdraw")
	case !answered:
		w.open("withdraw", "Say what people’s data is used for.", "uses")
	default:
		w.away("withdraw", "Nothing rests on consent.")
	}

	w.section("complain")
	w.p("complain.text")
	if a["authority"] != "" {
		w.p("complain.authority")
	}
	w.said("complain")

	w.section("must")
	switch {
	case some(mustGive):
		w.p("must.text")
		w.said("must")
	case !answered:
		w.open("must", "Say what people’s data is used for.", "uses")
	default:
		w.away("must", "Nothing has to be given.")
	}

	w.section("automated")
	switch a["automated"] {
	case "no":
		w.away("automated", "No machine decides by itself.")
	case "yes":
		w.p("automated.text")
		w.open("automated", "Say by hand what is decided, by which logic, and what follows from it.", "")
	default:
		w.open("automated", "Say whether machines decide.", "automated")
	}
}

// recipients says who gets data: those chosen, and whom the inventory names.
func (w *writer) recipients() {
	chose := w.answers["recipients"]
	var list []string
	q, _ := question("recipients")
	for _, o := range q.Options {
		if chosen(chose, o.ID) {
			list = append(list, w.say("recipient."+o.ID))
		}
	}
	if len(list) > 0 {
		w.p("recipients.text")
		w.list(list)
	}
	parties := parties(w.site)
	if len(parties) > 0 {
		w.p("recipients.parties", map[string]string{"parties": strings.Join(parties, ", ")})
	}
	switch {
	case chose == "":
		w.open("recipients", "Say who else gets data.", "recipients")
	case len(list)+len(parties) == 0:
		w.away("recipients", "Nobody else gets any.")
	default:
		w.said("recipients")
	}
}

// parties are the others that set or fetch something on the site, sorted.
func parties(s Site) []string {
	var out []string
	for _, i := range s.Setup.Inventory {
		if i.By != "" && i.By != s.Name {
			out = append(out, i.By)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// span says a period in words.
func (w *writer) span(p string) string {
	s, err := schedule.ParseSpan(p)
	if err != nil {
		return p
	}
	return countdown.Lasting(w.tag, s)
}

func (w *writer) cookies() {
	s := w.site.Setup
	w.section("what")
	beyond := slices.ContainsFunc(s.Inventory, func(i consent.Item) bool { return i.Purpose != consent.Necessary })
	if beyond {
		w.p("what.text")
	} else {
		w.p("what.necessary")
	}
	w.table()
	var lacks, lasts, others string
	for _, i := range s.Inventory {
		keeps := i.Kind == consent.Cookie || i.Kind == consent.Storage
		if i.Purpose == "" {
			lacks = cmp.Or(lacks, i.Name)
		}
		if keeps && i.Lasts == "" {
			lasts = cmp.Or(lasts, i.Name)
		}
		if !keeps && i.By == "" {
			others = cmp.Or(others, i.Name)
		}
	}
	for _, need := range []struct{ id, row, why string }{
		{"purposes", lacks, "The inventory does not say what “%s” is for."},
		{"lasts", lasts, "The inventory does not say how long “%s” is kept."},
		{"others", others, "The inventory does not say who gets what “%s” tells."},
	} {
		if need.row != "" {
			w.open(need.id, fmt.Sprintf(need.why, need.row), "")
		} else {
			w.said(need.id)
		}
	}

	w.section("choice")
	if len(s.Purposes) > 0 {
		rules := slices.Collect(maps.Values(s.InForce(consent.Table)))
		has := func(r consent.Rule) bool {
			return s.GetUnlisted() == r ||
				slices.ContainsFunc(rules, func(p consent.PlaceRule) bool { return p.Rule == r })
		}
		if has(consent.OptIn) {
			w.p("choice.opt-in")
		}
		if has(consent.OptOut) || has(consent.Notice) {
			w.p("choice.told")
		}
		if len(s.Signalled()) > 0 {
			w.p("choice.signal")
		}
	}
	w.settleChoice("choice", beyond)

	w.section("change")
	switch {
	case len(s.Purposes) == 0:
	case w.site.Again:
		w.p("change.again", map[string]string{"again": w.own[phrase.Again]})
	case w.site.Asks:
		w.p("change.link")
	}
	w.settleChoice("withdraw", beyond)

	w.section("checked")
	if e := w.doc.Evidence; e != nil && e.Inspected != nil {
		w.p(
			"checked."+e.Inspected.How,
			map[string]string{"date": w.day(e.Inspected.Day), "pages": w.pages(e.Inspected.Pages)},
		)
	}
}

// settleChoice settles an item about agreement.
func (w *writer) settleChoice(id string, beyond bool) {
	switch {
	case len(w.site.Setup.Purposes) > 0 && w.site.Asks:
		w.said(id)
	case len(w.site.Setup.Purposes) > 0:
		w.open(id, "No published notice asks for consent.", "")
	case beyond:
		w.open(id, "The inventory has things that are not strictly necessary, and nobody is asked about them.", "")
	default:
		w.away(id, "Nothing is kept but what is strictly necessary.")
	}
}

// table puts the inventory as a table, what is strictly necessary first, and the
// entry of the site script with it.
func (w *writer) table() {
	s := w.site
	var b strings.Builder
	b.WriteString("<table><thead><tr>")
	for _, c := range []string{"name", "by", "for", "lasts"} {
		b.WriteString("<th>" + w.say("column."+c) + "</th>")
	}
	b.WriteString("</tr></thead><tbody>")
	row := func(cells ...string) {
		b.WriteString("<tr>")
		for _, c := range cells {
			b.WriteString("<td>" + c + "</td>")
		}
		b.WriteString("</tr>")
	}
	// What is necessary comes first, and what nobody has given a purpose last.
	purposes := slices.Concat([]consent.Purpose{{ID: consent.Necessary}}, s.Setup.Purposes, []consent.Purpose{{}})
	for _, p := range purposes {
		purpose := p.In(w.tag, s.Language, nil).Name
		if p.ID == "" {
			purpose = ""
		}
		for _, i := range s.Setup.ItemsFor(p.ID) {
			name := html.EscapeString(i.Name)
			if i.Kind == consent.Frame || i.Kind == consent.Request {
				name = w.say("kind."+string(i.Kind), map[string]string{"name": i.Name})
			}
			use := i.In(w.tag, s.Language)
			if use != "" && purpose != "" {
				use = purpose + ": " + use
			}
			row(
				name,
				html.EscapeString(cmp.Or(i.By, s.Name)),
				html.EscapeString(cmp.Or(use, purpose)),
				html.EscapeString(w.lasting(i)),
			)
		}
		if p.ID != consent.Necessary {
			continue
		}
		// The site script's own entries, unless the inventory has them.
		memory, room, held, guard := consent.OwnStorage(s.Key)
		for _, own := range []struct {
			consent.Item
			use string
		}{{memory, "own.for"}, {room, "own.room"}, {held, "own.held"}, {guard, "own.guard"}} {
			if own.Item.Name == guard.Name && len(s.Setup.Purposes) == 0 {
				continue // nothing is asked about
			}
			if slices.ContainsFunc(
				s.Setup.Inventory,
				func(i consent.Item) bool { return i.Fits(own.Kind, own.Name, "") },
			) {
				continue
			}
			row(
				html.EscapeString(own.Name),
				html.EscapeString(s.Name),
				html.EscapeString(purpose+": ")+w.say(own.use),
				html.EscapeString(w.lasting(own.Item)),
			)
		}
	}
	b.WriteString("</tbody></table>")
	w.last().HTML += b.String()
}

// lasting says how long an item is kept, "" where that is not known.
func (w *writer) lasting(i consent.Item) string {
	switch i.Lasts {
	case "session":
		return w.own[phrase.Session]
	case "ever":
		return w.own[phrase.Ever]
	case "":
		return ""
	}
	return w.span(i.Lasts)
}

// pages says how many pages.
func (w *writer) pages(n int) string {
	if n == 1 {
		return w.say("pages.one")
	}
	return w.say("pages.many", map[string]string{"n": strconv.Itoa(n)})
}

// day says a day as the language writes it.
func (w *writer) day(day string) string {
	t, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return day
	}
	switch ReadyIn(w.tag) {
	case "de":
		return t.Format("2.1.2006")
	case "pl":
		return t.Format("2.01.2006")
	}
	return t.Format("2 January 2006")
}

func (w *writer) terms() {
	a := w.answers
	w.section("provider")
	if a["operator"] != "" {
		w.p("provider.text")
		w.said("name")
	} else {
		w.open("name", "Say who runs the site.", "operator")
	}
	w.list(w.contact("address", "email", "phone"))
	for _, need := range []struct{ item, answer, why string }{
		{"address", "address", "Give the postal address."}, {"contact", "email", "Give an e-mail address."},
	} {
		if a[need.answer] != "" {
			w.said(need.item)
		} else {
			w.open(need.item, need.why, need.answer)
		}
	}
	for _, f := range []struct{ item, ask, entry, why, without string }{
		{"register", "register", "registerEntry", "Say which register, and the number.", "You are in no register."},
		{"supervision", "licensed", "supervisor", "Say which authority.", "Your activity needs no authorisation."},
		{"profession", "regulated", "professionEntry", "Say body, title and rules.", "Yours is no regulated profession."},
		{"vat", "taxed", "vatNumber", "Give the number.", "You have none."},
	} {
		w.section(f.item)
		switch {
		case a[f.ask] == "no":
			w.away(f.item, f.without)
		case a[f.ask] == "":
			q, _ := question(f.ask)
			w.open(f.item, q.Ask, f.ask)
		case a[f.entry] == "":
			w.open(f.item, f.why, f.entry)
		default:
			w.p(f.item + ".text")
			w.said(f.item)
		}
	}
	w.section("prices")
	switch a["prices"] {
	case "no":
		w.away("prices", "The site states no prices.")
	case "":
		w.open("prices", "Say whether the site states prices.", "prices")
	default:
		w.p("prices." + a["prices"])
		w.said("prices")
	}
	w.section("use")
	w.p("use.text")
	w.section("law")
	if law := a["law"]; law != "" {
		// A country is named in the language of the text.
		if region, err := language.ParseRegion(law); err == nil && region.IsCountry() {
			if name := display.Regions(language.Make(w.tag)).Name(region); name != "" {
				law = name
			}
		}
		w.p("law.text", map[string]string{"law": law})
	}
}

func (w *writer) accessibility() {
	a := w.answers
	var checked *Checked
	if w.doc.Evidence != nil {
		checked = w.doc.Evidence.Checked
	}
	w.section("commitment")
	switch {
	case a["operator"] == "":
		w.open("commitment", "Say who runs the site.", "operator")
	case a["act"] == "":
		w.open("commitment", "Say which law applies.", "act")
	case w.site.Address == "":
		w.open("commitment", "Give the site its address, in the Site room.", "")
	default:
		w.p("commitment.text", map[string]string{"address": w.site.Address})
		w.said("commitment")
	}
	w.section("status")
	fails := checked != nil && len(checked.Failed) > 0
	switch {
	case a["status"] == "":
		w.open("status", "Say how far the site complies.", "status")
	case a["status"] == "full" && fails:
		w.open(
			"status",
			fmt.Sprintf("The check of %s found failures: the site does not comply fully.", checked.Day),
			"status",
		)
	default:
		w.p("status." + a["status"])
		w.said("status")
	}
	w.section("gaps")
	switch {
	case fails:
		w.p("gaps.found", map[string]string{"date": w.day(checked.Day)})
		var list []string
		for _, f := range checked.Failed {
			list = append(
				list,
				w.say(
					"accessibility.gaps.failure",
					map[string]string{"rule": ruleIn(f, w.tag), "pages": w.pages(f.Pages)},
				),
			)
		}
		w.list(list)
		w.p("gaps.others")
		w.said("gaps")
	case a["status"] == "full":
		w.away("gaps", "The site complies fully.")
	case a["status"] == "":
		w.open("gaps", "Say how far the site complies.", "status")
	case checked == nil:
		w.open("gaps", "Have the pages checked, or say by hand what is not accessible.", "")
	default:
		w.p("gaps.unfound", map[string]string{"date": w.day(checked.Day)})
		w.open("gaps", "The check found nothing. Say by hand what is not accessible.", "")
	}
	for _, f := range []struct{ id, why, without string }{
		{"burden", "Say by hand which content, and why changing it is too much.", "Nothing is left for that reason."},
		{"outside", "Say by hand which content.", "All content is within its scope."},
	} {
		w.section(f.id)
		switch a[f.id] {
		case "no":
			w.away(f.id, f.without)
		case "yes":
			w.p(f.id + ".text")
			w.open(f.id, f.why, "")
		default:
			q, _ := question(f.id)
			w.open(f.id, q.Ask, f.id)
		}
	}
	w.section("prepared")
	switch {
	case a["method"] == "":
		w.open("prepared", "Say who judged the site.", "method")
	case a["preparedOn"] == "":
		w.open("prepared", "Say on which day.", "preparedOn")
	default:
		w.p("prepared."+a["method"], map[string]string{"preparedOn": w.day(a["preparedOn"])})
		w.said("prepared")
	}
	if checked != nil {
		w.p(
			"prepared.check",
			map[string]string{"date": w.day(checked.Day), "pages": w.pages(checked.Pages), "tool": checked.Tool},
		)
	}
	w.section("feedback")
	if list := w.contact("email", "phone"); len(list) > 0 {
		w.p("feedback.text")
		w.list(list)
		w.said("feedback")
	} else {
		w.open("feedback", "Give an e-mail address or a telephone number.", "email")
	}
	w.section("enforcement")
	if a["enforcer"] != "" {
		w.p("enforcement.text")
		w.said("enforcement")
	} else {
		w.open("enforcement", "Say whom people can turn to.", "enforcer")
	}
}

func (w *writer) disclaimer() {
	w.section(text)
	topic := w.answers["topic"]
	if topic == "" || topic == "age" && w.answers["age"] == "" {
		return
	}
	w.p(topic + ".text")
}

// Sections returns a document's sections in a language, those without text
// among them, and the state of each item that it has to say (rules T1 and T2).
func (d Document) Sections(s Site, tag string) ([]Section, []Point) {
	source := Source(tag, s.Language)
	sections, states := compute(d, s, source)
	ready := ReadyIn(tag) != ""
	for i := range sections {
		sec := &sections[i]
		if sec.HTML != "" && sec.Title != "" {
			sec.HTML = heading(sec.Title) + sec.HTML
		}
		// What a translator begins with: what was written in the site's language goes first.
		sec.Source = sec.HTML
		if own := d.Own[sec.ID][s.Language]; own != "" && tag != s.Language {
			sec.Source = withHeading(own, sec.Title)
		}
		sec.Of = mark(sec.Source)
		own := d.Own[sec.ID][tag]
		switch {
		case own != "":
			sec.HTML, sec.From = withHeading(own, sec.Title), ByHand
			if d.Of[sec.ID][tag] != "" && d.Of[sec.ID][tag] != sec.Of {
				sec.From = Again
			}
		case sec.Source == "":
			sec.HTML, sec.From = "", Computed
		case !ready || sec.HTML == "":
			sec.HTML, sec.From = "", Missing
		case sec.Source != sec.HTML && ReadyIn(s.Language) != "": // written by hand in the site's language alone
			sec.From = Again
		default:
			sec.From = Computed
		}
	}
	// An item that is open is said where its section was written by hand in the
	// site's language: whoever did so answers for it.
	points := make([]Point, 0, len(items[d.Kind]))
	for _, i := range items[d.Kind] {
		p := states[i.ID]
		p.Item = i
		if p.State == Open && d.Own[p.Section][s.Language] != "" {
			p.State, p.Why, p.Question = Said, "Written by hand.", ""
		}
		if p.State == Said {
			k := slices.IndexFunc(sections, func(s Section) bool { return s.ID == p.Section })
			sections[k].Items = append(sections[k].Items, p.ID)
		}
		points = append(points, p)
	}
	return sections, points
}

// sourceMark returns the mark of what a section is written beside in a language.
func (d Document) sourceMark(s Site, id, tag string) string {
	sections, _ := d.Sections(s, tag)
	for _, sec := range sections {
		if sec.ID == id {
			return sec.Of
		}
	}
	return ""
}

func heading(title string) string { return "<h2>" + title + "</h2>" }

// withHeading puts the computed heading before a text that has none.
func withHeading(own, title string) string {
	own = markup.SanitiseDocument(own)
	if title == "" || strings.HasPrefix(strings.TrimSpace(own), "<h2") {
		return own
	}
	return heading(title) + own
}

// Text returns a document as it would be published in a language; ok is false
// where it has no title, or some section no words, in it.
func (d Document) Text(s Site, tag string) (t Text, ok bool) {
	if !d.Titled(tag) {
		return Text{}, false
	}
	sections, _ := d.Sections(s, tag)
	t.Title = d.Title(tag, s.Language)
	for _, sec := range sections {
		if sec.From == Missing {
			return Text{}, false
		}
		t.Text += sec.HTML
	}
	return t, t.Text != ""
}
