// Package consent is what a site sets on its visitors' machines, what it asks
// them about it, what an answer is worth, and the proof of it. Rules K1 to K6.
package consent

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
	"time"

	"mastflag/core/closed"
	"mastflag/core/fault"
	"mastflag/core/schedule"
)

// A Setup is what a site sets and asks about, as written.
type Setup struct {
	// What is asked about, beside what is strictly necessary, in the order in which people read it.
	Purposes []Purpose `json:"purposes,omitempty" jsonschema:"maxItems=30"`
	// What the site sets or fetches from others.
	Inventory []Item `json:"inventory,omitempty" jsonschema:"maxItems=1000"`
	// Whether the snippet itself holds back what is not agreed to (rules H), and what becomes of it where the program does
	// not answer: let-go, or keep. What is marked in the HTML alone, if absent.
	Guard string `json:"guard,omitempty" jsonschema:"enum=let-go,enum=keep"`
	// What becomes of what comes from another host and has no purpose yet, where something has to be agreed to first:
	// let-through (the default), or held. It takes a guard.
	Unsorted string `json:"unsorted,omitempty" jsonschema:"enum=let-through,enum=held"`
	// What places want, before the table that ships.
	Places []PlaceRule `json:"places,omitempty" jsonschema:"maxItems=500"`
	// Date of the newest row of the shipped table that someone has read; of a later row the stricter of old and new holds.
	// All have been read if absent.
	TableRead string `json:"tableRead,omitempty" jsonschema:"maxLength=10"`
	// What a place without a row wants; opt-in if absent.
	Unlisted Rule `json:"unlisted,omitempty"`
	// How many pages an inspection visits; 40 if absent.
	InspectPages int `json:"inspectPages,omitempty" jsonschema:"minimum=1,maximum=2000"`
	// When the site is inspected by itself, once in each stretch; by hand alone if absent.
	Inspect *schedule.Window `json:"inspect,omitempty"`
	// How long records of answers are kept, such as P3Y (the default).
	Keep string `json:"keep,omitempty" jsonschema:"maxLength=40"`
}

// A Purpose is something that data is kept or passed on for. Those of the ids
// preferences, measurement and marketing bring their words along.
type Purpose struct {
	ID string `json:"id" jsonschema:"pattern=^[a-z0-9]+(-[a-z0-9]+)*$,maxLength=40"`
	// Whether a browser's privacy signal refuses it (rule K5): it sells or shares what it learns. True for marketing if
	// absent.
	Signal *bool `json:"signal,omitempty"`
	// Own words, by BCP 47 tag.
	Words map[string]PurposeWords `json:"words,omitempty"`
}

// PurposeWords are what a purpose is called, and what it is for.
type PurposeWords struct {
	Name string `json:"name" jsonschema:"minLength=1,maxLength=100"`
	Text string `json:"text,omitempty" jsonschema:"maxLength=1000"`
}

// Necessary is the purpose that nobody is asked about, Measurement that of counting an audience.
const (
	Necessary   = "necessary"
	Measurement = "measurement"
)

// An Item is one thing that the site keeps on visitors' machines, or fetches
// from others.
type Item struct {
	// A cookie, a key of local or session storage, an embedded frame, or a request to another host.
	Kind ItemKind `json:"kind"`
	// Its name, or the host of a frame or request; * stands for any run of characters.
	Name string `json:"name" jsonschema:"minLength=1,maxLength=200"`
	// The host that sets it, where that is not the site itself.
	Host string `json:"host,omitempty" jsonschema:"maxLength=253"`
	// Who sets it and gets what it tells.
	By string `json:"by,omitempty" jsonschema:"maxLength=200"`
	// The id of a purpose; none yet if absent.
	Purpose string `json:"purpose,omitempty" jsonschema:"maxLength=40"`
	// session, ever, or how long it is kept, such as P90D.
	Lasts string `json:"lasts,omitempty" jsonschema:"maxLength=40"`
	// What for, by BCP 47 tag.
	For map[string]string `json:"for,omitempty"`
}

// OwnCookie is what the program itself keeps in a cookie of a site's whole domain, where
// the site shares what visitors' browsers remember between its hosts (rule M6).
func OwnCookie() Item {
	return Item{Kind: Cookie, Name: "mastflag.*", Purpose: Necessary, Lasts: "P400D", For: map[string]string{
		"en": "Remembers on all our addresses which notices you closed, and your answers to them.",
		"de": "Merkt sich auf allen unseren Adressen, welche Mitteilungen Sie geschlossen und wie Sie geantwortet haben.",
		"fr": "Retient, sur toutes nos adresses, les messages que vous avez fermés et vos réponses.",
		"pl": "Pamięta na wszystkich naszych adresach, które komunikaty zamknięto i jak na nie odpowiedziano.",
		"ar": "يتذكّر على جميع عناويننا الإشعارات التي أغلقتها وإجاباتك عليها.",
	}}
}

// OwnStorage is what the program itself keeps in the storages of visitors' browsers, by the key of the site: what was
// closed and answered, what room notices took, the notices of this visit, and what is held back.
func OwnStorage(key string) (memory, room, held, guard Item) {
	item := func(name, lasts string) Item {
		return Item{Kind: Storage, Name: "mastflag." + key + name, Purpose: Necessary, Lasts: lasts}
	}
	return item("", "ever"), item(".room", "ever"), item(".held", "session"), item(".guard", "ever")
}

// An ItemKind is what sort of thing is kept or fetched.
type ItemKind string

const (
	Cookie  ItemKind = "cookie"
	Storage ItemKind = "storage"
	Frame   ItemKind = "frame"
	Request ItemKind = "request"
)

func (ItemKind) Values() []string { return closed.Strings(Cookie, Storage, Frame, Request) }

// ItemKinds is every kind, in the order in which people read.
var ItemKinds = []ItemKind{Cookie, Storage, Frame, Request}

// A Question is how a notice asks.
type Question struct {
	// How long an answer holds, P180D if absent.
	ValidFor string `json:"holds,omitempty" jsonschema:"maxLength=40"`
	// How long what was refused in it holds; as long as the rest if absent.
	RefusalValidFor string `json:"refusalHolds,omitempty" jsonschema:"maxLength=40"`
	// Where refusing stands: beside accepting (the default), or only behind choosing.
	RefusePlacement string `json:"refuse,omitempty" jsonschema:"enum=beside,enum=behind"`
	// Where the purposes are listed: behind a press on Choose (the default), or shown at once.
	PurposeList string `json:"purposes,omitempty" jsonschema:"enum=behind,enum=shown"`
	// Purposes that someone wants ticked beforehand. It changes nothing, and check says why: where the rule is opt-in
	// nothing is (rule K6), elsewhere a box shows what goes ahead.
	Preticked []string `json:"ticked,omitempty" jsonschema:"maxItems=30"`
	// What closing it, and what going on to another page, means where the place's rule is not opt-in: nothing (the
	// default), or that all is agreed to (rule K6).
	Closing    string `json:"closing,omitempty" jsonschema:"enum=nothing,enum=accept"`
	Continuing string `json:"goingOn,omitempty" jsonschema:"enum=nothing,enum=accept"`
	// Where the small control stands that asks again: in a corner, or nowhere, where the site has a link of its own.
	AskAgainCorner string `json:"again,omitempty" jsonschema:"enum=start,enum=end,enum=none"`
	// Its form: small in that corner (the default), or a tab at the edge of that side.
	AskAgainForm string `json:"againForm,omitempty" jsonschema:"enum=small,enum=tab"`
	// Its colours: black on white (the default), those of the notice, or its own: a field, and the words on it, six hex
	// digits; the best to read if the words have none.
	AskAgainColours string `json:"againColours,omitempty" jsonschema:"enum=plain,enum=notice,enum=own"`
	AskAgainField   string `json:"againField,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
	AskAgainText    string `json:"againText,omitempty" jsonschema:"pattern=^#[0-9a-fA-F]{6}$"`
}

// The accessors below give an absent field its meaning.

func (q Question) GetValidFor() string        { return cmp.Or(q.ValidFor, "P180D") }
func (q Question) GetRefusalValidFor() string { return cmp.Or(q.RefusalValidFor, q.GetValidFor()) }
func (q Question) GetRefusePlacement() string { return cmp.Or(q.RefusePlacement, "beside") }
func (q Question) GetClosing() string         { return cmp.Or(q.Closing, "nothing") }
func (q Question) GetContinuing() string      { return cmp.Or(q.Continuing, "nothing") }
func (q Question) GetAskAgainCorner() string  { return cmp.Or(q.AskAgainCorner, "start") }
func (q Question) GetAskAgainForm() string    { return cmp.Or(q.AskAgainForm, "small") }
func (q Question) GetAskAgainColours() string { return cmp.Or(q.AskAgainColours, "plain") }
func (q Question) GetPurposeList() string     { return cmp.Or(q.PurposeList, "behind") }
func (s Setup) GetInspectPages() int          { return cmp.Or(s.InspectPages, 40) }
func (s Setup) GetUnlisted() Rule             { return cmp.Or(s.Unlisted, OptIn) }
func (s Setup) GetKeep() string               { return cmp.Or(s.Keep, "P3Y") }

// Signalled reports whether a browser's privacy signal refuses the purpose.
func (p Purpose) Signalled() bool {
	if p.Signal != nil {
		return *p.Signal
	}
	return p.ID == "marketing"
}

// Signalled returns the ids of the purposes that a privacy signal refuses.
func (s Setup) Signalled() []string {
	var out []string
	for _, p := range s.Purposes {
		if p.Signalled() {
			out = append(out, p.ID)
		}
	}
	return out
}

// AskedPurposes returns the ids of all that is asked about.
func (s Setup) AskedPurposes() []string {
	out := make([]string, len(s.Purposes))
	for i, p := range s.Purposes {
		out[i] = p.ID
	}
	return out
}

// ItemsFor returns what of the inventory has a purpose.
func (s Setup) ItemsFor(purpose string) []Item {
	var out []Item
	for _, i := range s.Inventory {
		if i.Purpose == purpose {
			out = append(out, i)
		}
	}
	return out
}

// Mark is a short fingerprint of an item, the same as long as it is the same
// thing, set by the same, for the same purpose and for as long. What its
// words say does not count.
func (i Item) Mark() string {
	sum := sha256.Sum256([]byte(strings.Join([]string{
		string(i.Kind), i.Name, strings.ToLower(i.Host), i.By, i.Purpose, i.Lasts,
	}, "\x00")))
	return hex.EncodeToString(sum[:4])
}

// Marks returns the marks of all that is asked about, sorted, in one text with
// dots between: what a visitor agrees to who agrees to everything.
func (s Setup) Marks() string {
	var out []string
	for _, p := range s.Purposes {
		for _, i := range s.ItemsFor(p.ID) {
			out = append(out, i.Mark())
		}
	}
	slices.Sort(out)
	return strings.Join(slices.Compact(out), ".")
}

// Fits reports whether an item takes in something of that kind and name that
// was found; host is what set it, "" for the site itself.
func (i Item) Fits(kind ItemKind, name, host string) bool {
	return i.Kind == kind && like(i.Name, name) && (i.Host == "" || host == "" ||
		strings.EqualFold(strings.TrimPrefix(i.Host, "."), strings.TrimPrefix(host, ".")))
}

// like reports whether a text has the form of a pattern, in which * stands for
// any run of characters.
func like(pattern, text string) bool {
	parts := strings.Split(pattern, "*")
	if len(parts) == 1 {
		return pattern == text
	}
	text, ok := strings.CutPrefix(text, parts[0])
	if !ok {
		return false
	}
	last := parts[len(parts)-1]
	for _, p := range parts[1 : len(parts)-1] {
		i := strings.Index(text, p)
		if i < 0 {
			return false
		}
		text = text[i+len(p):]
	}
	return strings.HasSuffix(text, last)
}

// Check returns what is wrong with a setup.
func (s Setup) Check() fault.Faults {
	var faults fault.Faults
	wrong := func(at, what, remedy string) {
		faults = append(faults, fault.Fault{Pointer: at, What: what, Remedy: remedy})
	}
	ids := map[string]bool{Necessary: true}
	for i, p := range s.Purposes {
		at := fault.Pointer("purposes", i)
		switch {
		case p.ID == Necessary:
			wrong(at+"/id", "what is strictly necessary is always there, and nobody is asked about it", "remove it")
		case ids[p.ID]:
			wrong(at+"/id", fmt.Sprintf("purpose %q stands here twice", p.ID), "keep one of them")
		case !Known(p.ID) && len(p.Words) == 0:
			wrong(
				at+"/words", fmt.Sprintf("purpose %q has no words", p.ID), "say what it is called, in the site's language at least",
			)
		}
		ids[p.ID] = true
	}
	seen := map[string]int{}
	for i, item := range s.Inventory {
		at := fault.Pointer("inventory", i)
		if item.Purpose != "" && !ids[item.Purpose] {
			wrong(
				at+"/purpose", fmt.Sprintf("there is no purpose %q", item.Purpose),
				"use "+Necessary+" or one of the site's: "+strings.Join(s.AskedPurposes(), ", "),
			)
		}
		if item.Lasts != "" && item.Lasts != "session" && item.Lasts != "ever" {
			if _, err := schedule.ParseSpan(item.Lasts); err != nil {
				wrong(at+"/lasts", err.Error(), "use session, ever, or a duration such as P90D")
			}
		}
		key := string(item.Kind) + "\x00" + item.Name + "\x00" + strings.ToLower(item.Host)
		if first, twice := seen[key]; twice {
			wrong(
				at, fmt.Sprintf("%s %q stands here twice, first at /inventory/%d", item.Kind, item.Name, first), "keep one of them",
			)
		}
		seen[key] = i
	}
	for i, p := range s.Places {
		faults = append(faults, p.check().Under(fault.Pointer("places", i))...)
	}
	if s.TableRead != "" && !isDate(s.TableRead) {
		wrong("/tableRead", fmt.Sprintf("%q is not a date", s.TableRead), "write it like 2026-11-01")
	}
	if s.Inspect != nil {
		_, f := schedule.Compile(schedule.Plan{Windows: []schedule.Window{*s.Inspect}}, time.UTC, time.Time{})
		for _, x := range f {
			x.Pointer = "/inspect" + strings.TrimPrefix(x.Pointer, "/windows/0")
			faults = append(faults, x)
		}
	}
	if _, err := schedule.ParseSpan(s.GetKeep()); err != nil {
		wrong("/keep", err.Error(), "write it like P3Y")
	}
	return faults
}

// Check returns what is wrong with a question about a setup.
func (q Question) Check(s Setup) fault.Faults {
	var faults fault.Faults
	for _, span := range [][2]string{{"/holds", q.GetValidFor()}, {"/refusalHolds", q.RefusalValidFor}} {
		if _, err := schedule.ParseSpan(span[1]); err != nil && span[1] != "" {
			faults = append(faults, fault.Fault{Pointer: span[0], What: err.Error(), Remedy: "write it like P180D"})
		}
	}
	for i, t := range q.Preticked {
		if !slices.Contains(s.AskedPurposes(), t) {
			faults = append(faults, fault.Fault{
				Pointer: fault.Pointer("ticked", i),
				What:    fmt.Sprintf("there is no purpose %q to be asked about", t),
				Remedy:  "use one of the site's: " + strings.Join(s.AskedPurposes(), ", "),
			})
		}
	}
	return faults
}
