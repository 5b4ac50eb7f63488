package bundle

import (
	"fmt"
	"maps"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"mastflag/core/audience"
	"mastflag/core/closed"
	"mastflag/core/fault"
	"mastflag/core/form"
	"mastflag/core/icon"
	"mastflag/core/markup"
)

// A Row is columns of a notice, side by side (rule B1).
type Row struct {
	Columns []Column `json:"columns" jsonschema:"minItems=1,maxItems=4"`
}

// A Column is parts of a block, one below the other.
type Column struct {
	// How wide it is beside the others of its row; 1 if absent.
	Share int `json:"share,omitempty" jsonschema:"minimum=1,maximum=4"`
	// Its place, from 1, where the block is too narrow for columns and they stand one below the other; as they are written
	// if absent.
	Stacked int    `json:"stacked,omitempty" jsonschema:"minimum=1,maximum=4"`
	Parts   []Part `json:"parts,omitempty" jsonschema:"maxItems=20"`
}

// A Part is one thing in a block. What it says stands in each wording's parts, by
// its id. One that has nothing to show yet shows nothing.
type Part struct {
	ID   string   `json:"id" jsonschema:"pattern=^[a-z0-9]+(-[a-z0-9]+)*$,maxLength=40"`
	Kind PartKind `json:"kind"`
	// Of a heading: 2 (if absent) to 4, as in HTML.
	Level   int          `json:"level,omitempty" jsonschema:"minimum=2,maximum=4"`
	Picture *PartPicture `json:"picture,omitempty"`
	// Ids of documents that are listed; * for all that are out.
	Documents []string      `json:"documents,omitempty" jsonschema:"maxItems=100"`
	Contact   []ContactLine `json:"contact,omitempty" jsonschema:"maxItems=20"`
	// Of contact lines: they stand as buttons, side by side.
	Buttons bool `json:"buttons,omitempty"`
	// Of opening hours; and of contact lines, those by which some of them are offered or not.
	Hours []Opening `json:"hours,omitempty" jsonschema:"maxItems=30"`
	Video *Video    `json:"video,omitempty"`
	// Of a question: the events that its answers tell the site, in the order of the answers' words.
	Events []string `json:"events,omitempty" jsonschema:"maxItems=6"`
	// Of a field of a form: what it asks. Its label is the heading of its words, its options' words are their answers.
	Field *form.Field `json:"field,omitempty"`
}

// A PartKind is what sort of thing a part is.
type PartKind string

const (
	PartHeading   PartKind = "heading"
	PartText      PartKind = "text"
	PartPictured  PartKind = "picture"
	PartLinks     PartKind = "links"
	PartCountdown PartKind = "countdown" // that of the notice
	PartDocuments PartKind = "documents"
	PartContact   PartKind = "contact"
	PartHours     PartKind = "hours"
	PartQuestion  PartKind = "question"
	PartField     PartKind = "field" // of the notice's form
	PartSend      PartKind = "send"  // the button that sends the form
	PartVideo     PartKind = "video"
)

func (PartKind) Values() []string {
	return closed.Strings(
		PartHeading, PartText, PartPictured, PartLinks, PartCountdown, PartDocuments, PartContact, PartHours, PartQuestion,
		PartField, PartSend, PartVideo,
	)
}

// A PartPicture is a picture in a block.
type PartPicture struct {
	Picture
	// The form it is cropped to; none if absent.
	Crop string `json:"crop,omitempty" jsonschema:"enum=wide,enum=square,enum=tall"`
}

// A ContactLine is one way to reach someone.
type ContactLine struct {
	By    string `json:"by" jsonschema:"enum=telephone,enum=mail,enum=message,enum=address,enum=map,enum=link"`
	Value string `json:"value" jsonschema:"minLength=1,maxLength=500"`
	// Name of an icon of the set that ships; by the way if absent.
	Icon string `json:"icon,omitempty" jsonschema:"maxLength=60"`
	// Offered only while it is open by the part's hours, or only while it is closed; always if absent.
	When string `json:"when,omitempty" jsonschema:"enum=open,enum=closed"`
}

// A Video is a film: a file, or a frame of a host (rule F8).
type Video struct {
	// An https address or a path of the site, of the file or of the page that the frame shows.
	File  string `json:"file,omitempty" jsonschema:"maxLength=2048"`
	Frame string `json:"frame,omitempty" jsonschema:"maxLength=2048"`
	// Shown before it plays.
	Still *Image `json:"still,omitempty"`
	// The purpose that has to be agreed to before a frame is loaded.
	Purpose string `json:"purpose,omitempty" jsonschema:"maxLength=64"`
	// A file plays by itself, muted, after the first act on the page; never on phones, nor where less motion or less data
	// is wanted.
	BySelf bool `json:"bySelf,omitempty"`
	// Its form; 16 to 9 if absent.
	Form string `json:"form,omitempty" jsonschema:"enum=wide,enum=square,enum=tall"`
}

// Href returns where a press on the line leads; "" for a postal address. What a map's
// line says is an address that was typed, and may lead anywhere.
func (l ContactLine) Href() string {
	switch l.By {
	case "telephone":
		return "tel:" + dialled(l.Value)
	case "message":
		return "sms:" + dialled(l.Value)
	case "mail":
		return "mailto:" + url.PathEscape(l.Value) // RFC 6068 §2
	case "map", "link":
		return l.Value
	}
	return ""
}

// An Opening is when it is open on some days of the week.
type Opening struct {
	// 1 is Monday, 7 is Sunday (ISO 8601).
	Days []int `json:"days" jsonschema:"minItems=1,maxItems=7"`
	// Local times, such as 09:00; open until 24:00 at most.
	From  string `json:"from" jsonschema:"pattern=^([01][0-9]|2[0-3]):[0-5][0-9]$"`
	Until string `json:"until" jsonschema:"pattern=^(([01][0-9]|2[0-3]):[0-5][0-9]|24:00)$"`
}

// PartWords is what a part of a block says in one language.
type PartWords struct {
	// Of a heading, a question, a field and a video; on the button that sends.
	Heading string `json:"heading,omitempty" jsonschema:"maxLength=300"`
	// HTML of the safe subset: of a text; what helps to fill in a field; what is agreed to; what is said once a form was
	// sent; what stands in place of a frame until its purpose is agreed to.
	Text  string `json:"text,omitempty" jsonschema:"maxLength=20000"`
	Links []Link `json:"links,omitempty" jsonschema:"maxItems=20"`
	// What a picture shows, for those who do not see it.
	Alt string `json:"alt,omitempty" jsonschema:"maxLength=500"`
	// Of a video, in this language: WebVTT.
	Captions string `json:"captions,omitempty" jsonschema:"maxLength=200000"`
	// Words on the answers of a question, of the options of a field, and on contact lines that are buttons.
	Answers []string `json:"answers,omitempty" jsonschema:"maxItems=30"`
	// Stands in place of the answers once one was given.
	Thanks string `json:"thanks,omitempty" jsonschema:"maxLength=300"`
	// HTML of the documents that it lists, put there by Linked and safe.
	List string `json:"-"`
}

// Stacking returns the columns of a row in the order in which they stand one below
// the other: each that says its place has it, the others fill the places left.
func (r Row) Stacking() []int {
	var order, placed []int
	for i, c := range r.Columns {
		if c.Stacked == 0 {
			order = append(order, i)
		} else {
			placed = append(placed, i)
		}
	}
	slices.SortStableFunc(placed, func(a, b int) int { return r.Columns[a].Stacked - r.Columns[b].Stacked })
	for _, i := range placed {
		order = slices.Insert(order, min(r.Columns[i].Stacked-1, len(order)), i)
	}
	return order
}

// Rows returns what a block is made of below its message.
func (n Notice) Rows() []Row {
	if n.Content == nil {
		return nil
	}
	return n.Content.Rows
}

// Parts returns the parts of a block in the order in which they are written.
func (n Notice) Parts() (out []Part) {
	for _, r := range n.Rows() {
		for _, c := range r.Columns {
			out = append(out, c.Parts...)
		}
	}
	return out
}

// Pictures returns the pictures of a notice, each with its JSON Pointer.
func (n Notice) Pictures() map[string]*Picture {
	out := map[string]*Picture{}
	if p := n.Picture(); p != nil {
		out["/content/picture"] = p
	}
	for i, r := range n.Rows() {
		for j, c := range r.Columns {
			for k, p := range c.Parts {
				if p.Picture != nil {
					out[fault.Pointer("content", "rows", i, "columns", j, "parts", k, "picture")] = &p.Picture.Picture
				}
			}
		}
	}
	return out
}

// ImagesInTexts returns the files of the pictures in the notice's longer messages, in all its
// variants, each with a pointer to a text that it stands in.
func (n Notice) ImagesInTexts() map[string]string {
	out := map[string]string{}
	note := func(wordings map[string]Wording, at string) {
		for tag, w := range wordings {
			for _, file := range markup.Images(w.Details) {
				out[file] = at + fault.Pointer("wordings", tag, "details")
			}
		}
	}
	note(n.Wordings(), "/content")
	if n.Experiment != nil {
		for i, v := range n.Experiment.Variants {
			note(v.Wordings, fault.Pointer("experiment", "variants", i))
		}
	}
	return out
}

// Shows reports whether the image of a file is in one of the notice's pictures or texts.
func (n Notice) Shows(file string) bool {
	if _, ok := n.ImagesInTexts()[file]; ok {
		return true
	}
	if t := n.Tab(); t != nil && t.Icon != nil && t.Icon.File == file {
		return true
	}
	for _, p := range n.Parts() {
		if p.Video != nil && p.Video.Still != nil && p.Video.Still.File == file {
			return true
		}
	}
	for _, p := range n.Pictures() {
		for _, image := range p.Images() {
			if image.File == file {
				return true
			}
		}
	}
	return false
}

// PartIDs returns the ids of the parts that a wording has words for, sorted.
func (w Wording) PartIDs() []string { return slices.Sorted(maps.Keys(w.Parts)) }

// saysPart reports whether some part of a block has words.
func (w Wording) saysPart() bool {
	for _, p := range w.Parts {
		if p.Heading != "" || p.Text != "" || len(p.Links) > 0 {
			return true
		}
	}
	return false
}

// HasWords reports whether the wording says something that can be read.
func (w Wording) HasWords() bool {
	if markup.Text(w.Message) != "" || strings.TrimSpace(w.Headline) != "" {
		return true
	}
	for _, p := range w.Parts {
		linked := slices.ContainsFunc(p.Links, func(l Link) bool { return l.Label != "" })
		if strings.TrimSpace(p.Heading) != "" || markup.Text(p.Text) != "" || linked {
			return true
		}
	}
	return false
}

// detailsPointer is where the longer message lies in a wording.
const detailsPointer = "/details"

// Sanitised returns the wording with everything taken out of its texts that they may not
// hold.
func (w Wording) Sanitised() Wording {
	return w.MapHTML(func(pointer, html string) string {
		if pointer == detailsPointer {
			return markup.SanitiseDetails(html)
		}
		return markup.Sanitise(html)
	})
}

// Excess returns what Sanitised takes out, such as <script>.
func (w Wording) Excess() (all []string) {
	w.MapHTML(func(pointer, html string) string {
		if pointer == detailsPointer {
			all = append(all, markup.CheckDetails(html)...)
		} else {
			all = append(all, markup.Check(html)...)
		}
		return html
	})
	return all
}

// MapHTML returns the wording with each of its texts that are HTML put through f,
// which is given the text's JSON Pointer too. The wording itself stays as it is.
func (w Wording) MapHTML(f func(pointer, html string) string) Wording {
	w.Message = f("/message", w.Message)
	w.Details = f(detailsPointer, w.Details)
	w.ExpiredMessage = f("/afterEnd", w.ExpiredMessage)
	w.Parts = maps.Clone(w.Parts)
	for _, id := range w.PartIDs() {
		p := w.Parts[id]
		p.Text = f(fault.Pointer("parts", id, "text"), p.Text)
		w.Parts[id] = p
	}
	return w
}

// MapLinks returns the wording with each of its links that stand outside of texts
// put through f, which is given the link's JSON Pointer too and may drop it. The
// wording itself stays as it is.
func (w Wording) MapLinks(f func(pointer string, l Link) (Link, bool)) Wording {
	mapped := func(pointer string, l *Link) *Link {
		if l == nil {
			return nil
		}
		if link, ok := f(pointer, *l); ok {
			return &link
		}
		return nil
	}
	w.Link, w.Second = mapped("/link", w.Link), mapped("/second", w.Second)
	w.Parts = maps.Clone(w.Parts)
	for _, id := range w.PartIDs() {
		p := w.Parts[id]
		var links []Link
		for i, l := range p.Links {
			if l, ok := f(fault.Pointer("parts", id, "links", i), l); ok {
				links = append(links, l)
			}
		}
		p.Links = links
		w.Parts[id] = p
	}
	return w
}

var (
	telephone = regexp.MustCompile(`^\+?[0-9][0-9 ()./-]{2,30}$`)
	mailbox   = regexp.MustCompile(`^[^@\s<>"]{1,64}@[^@\s<>"]{1,255}$`)
	eventName = regexp.MustCompile(`^[A-Za-z0-9_-]{1,100}$`)
)

// fieldOf names the field that each kind of part may have; without it a part shows
// nothing yet.
var fieldOf = map[PartKind]string{
	PartHeading: "level", PartPictured: "picture", PartDocuments: "documents", PartContact: "contact", PartHours: "hours",
	PartQuestion: "events", PartField: "field", PartVideo: "video",
}

// checkRows returns what is wrong with the rows of a block.
func (n Notice) checkRows() fault.Faults {
	if len(n.Rows()) == 0 {
		return n.checkPartWords(nil)
	}
	if !n.MayHaveRows() {
		return fault.Faults{{
			Pointer: "/content/rows",
			What:    fmt.Sprintf("a notice of kind %q has no rows", n.Kind),
			Remedy:  "remove them, or make the kind block or pop-up",
		}}
	}
	var faults fault.Faults
	known := map[string]bool{}
	for i, r := range n.Rows() {
		for j, c := range r.Columns {
			if c.Stacked > len(r.Columns) {
				faults = append(faults, fault.Fault{
					Pointer: fault.Pointer("content", "rows", i, "columns", j, "stacked"),
					What:    fmt.Sprintf("place %d of %d columns", c.Stacked, len(r.Columns)),
					Remedy:  fmt.Sprintf("give 1 to %d", len(r.Columns)),
				})
			}
			for k, p := range c.Parts {
				at := fault.Pointer("content", "rows", i, "columns", j, "parts", k)
				if known[p.ID] {
					faults = append(faults, fault.Fault{
						Pointer: at + "/id",
						What:    fmt.Sprintf("two parts have the id %q", p.ID),
						Remedy:  "give each its own",
					})
				}
				if audience.Reserved(p.ID) {
					faults = append(faults, fault.Fault{
						Pointer: at + "/id",
						What:    fmt.Sprintf("%q cannot be the id of a part", p.ID),
						Remedy:  "choose another, such as " + p.ID + "-2",
					})
				}
				known[p.ID] = true
				if p.Kind == PartCountdown && n.Countdown() == nil {
					faults = append(faults, fault.Fault{
						Pointer: at,
						What:    "the block counts nothing down",
						Remedy:  "give it a countdown, or remove this part",
					})
				}
				faults = append(faults, p.check().Under(at)...)
			}
		}
	}
	return append(faults, n.checkPartWords(known)...)
}

// checkPartWords refuses words for parts that are not there.
func (n Notice) checkPartWords(known map[string]bool) (faults fault.Faults) {
	for _, tag := range slices.Sorted(maps.Keys(n.Wordings())) {
		for _, id := range n.Wordings()[tag].PartIDs() {
			if !known[id] {
				faults = append(faults, fault.Fault{
					Pointer: fault.Pointer("content", "wordings", tag, "parts", id),
					What:    fmt.Sprintf("there is no part %q", id),
					Remedy:  "remove these words, or add the part to a row",
				})
			}
		}
	}
	return faults
}

func (p Part) check() fault.Faults {
	var faults fault.Faults
	has := []struct {
		field string
		is    bool
	}{
		{"level", p.Level != 0},
		{"picture", p.Picture != nil},
		{"documents", len(p.Documents) > 0},
		{"contact", len(p.Contact) > 0},
		{"hours", len(p.Hours) > 0 && p.Kind != PartContact},
		{"events", len(p.Events) > 0},
		{"field", p.Field != nil},
		{"video", p.Video != nil},
	}
	for _, h := range has {
		if h.is && h.field != fieldOf[p.Kind] {
			faults = append(faults, fault.Fault{
				Pointer: "/" + h.field,
				What:    fmt.Sprintf("a part of kind %q has no %s", p.Kind, h.field),
				Remedy:  "remove it, or choose another kind",
			})
		}
	}
	if p.Kind == PartField {
		if p.Field == nil {
			return append(faults, fault.Fault{What: "a field does not say what it asks", Remedy: "give field, with its kind"})
		}
		known := func(fact string) bool { _, ok := audience.Lookup(fact); return ok }
		faults = append(faults, p.Field.Check(known).Under("/field")...)
	}
	if p.Buttons && p.Kind != PartContact {
		faults = append(faults, fault.Fault{
			Pointer: "/buttons", What: fmt.Sprintf("a part of kind %q has no buttons", p.Kind), Remedy: "remove it",
		})
	}
	if p.Video != nil {
		faults = append(faults, p.Video.check().Under("/video")...)
	}
	for i, l := range p.Contact {
		if what, remedy := l.fault(); what != "" {
			faults = append(faults, fault.Fault{Pointer: fault.Pointer("contact", i, "value"), What: what, Remedy: remedy})
		}
	}
	for i, o := range p.Hours {
		at := fault.Pointer("hours", i)
		if o.Until <= o.From {
			faults = append(faults, fault.Fault{
				Pointer: at + "/until",
				What:    fmt.Sprintf("it closes at %s, before it opens at %s", o.Until, o.From),
				Remedy:  "give a later time; for hours past midnight, two lines",
			})
		}
		for j, day := range o.Days {
			if day < 1 || day > 7 {
				faults = append(faults, fault.Fault{
					Pointer: at + fault.Pointer("days", j),
					What:    fmt.Sprintf("there is no day %d", day),
					Remedy:  "give 1 (Monday) to 7 (Sunday)",
				})
			}
		}
	}
	for i, e := range p.Events {
		if !eventName.MatchString(e) {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("events", i),
				What:    fmt.Sprintf("%q cannot be the name of an event", e),
				Remedy:  "use letters, digits, _ and -, such as useful-yes",
			})
		}
	}
	return faults
}

// fault says what is wrong with a contact line, "" if nothing is.
func (l ContactLine) fault() (what, remedy string) {
	switch l.By {
	case "telephone", "message":
		if !telephone.MatchString(l.Value) {
			return fmt.Sprintf("%q is not a telephone number", l.Value), "give digits, with + and the country’s number in " +
				"front, such as +44 1632 960 199"
		}
	case "mail":
		if !mailbox.MatchString(l.Value) {
			return fmt.Sprintf("%q is not an e-mail address", l.Value), "give one such as office@sundrey.example"
		}
	case "map", "link":
		if what := markup.HrefFault(l.Value); what != "" {
			return what, "give a web address"
		}
	}
	if _, ok := icon.Get(l.Icon); l.Icon != "" && !ok {
		return fmt.Sprintf("there is no icon %q", l.Icon), "choose one of the set, or none"
	}
	return "", ""
}

func (v Video) check() fault.Faults {
	var faults fault.Faults
	address := func(at, to string) {
		web := strings.HasPrefix(to, "https://") || strings.HasPrefix(to, "/")
		if to != "" && (!web || markup.HrefFault(to) != "") {
			faults = append(faults, fault.Fault{
				Pointer: at, What: fmt.Sprintf("%q is no address of a video", firstRunes(to)),
				Remedy: "give one that begins with https://, or a path of the site such as /films/seals.mp4",
			})
		}
	}
	address("/file", v.File)
	address("/frame", v.Frame)
	if v.File != "" && v.Frame != "" {
		faults = append(faults, fault.Fault{
			What: "a video is either a file or a frame, and not both", Remedy: "give file, or frame",
		})
	}
	if v.Still != nil {
		faults = append(faults, v.Still.check().Under("/still")...)
	}
	if v.BySelf && v.File == "" {
		faults = append(faults, fault.Fault{
			Pointer: "/bySelf", What: "only a file plays by itself", Remedy: "leave it away, or give a file",
		})
	}
	return faults
}
