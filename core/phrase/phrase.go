// Package phrase holds what the program itself says to visitors, in each language
// that it is ready in, and the words that a site or a notice says in place of it.
package phrase

import (
	"embed"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"mastflag/core/closed"
	"mastflag/core/fault"
	"mastflag/core/lookup"
)

// A Key names one thing that the program says.
type Key string

// The phrases that the program's own code asks for by name. The files of words have all.
const (
	Region       Key = "region"
	Close        Key = "close"
	More         Key = "more"
	Shut         Key = "shut"
	Fold         Key = "fold"
	Unfold       Key = "unfold"
	May          Key = "may"
	Accept       Key = "accept"
	Reject       Key = "reject"
	Choose       Key = "choose"
	Save         Key = "save"
	Fine         Key = "fine"
	Object       Key = "object"
	Always       Key = "always"
	Signal       Key = "signal"
	Again        Key = "again"
	Missing      Key = "missing"
	Allow        Key = "allow"
	Yours        Key = "yours"
	Receipt      Key = "receipt"
	Erase        Key = "erase"
	Name         Key = "name"
	By           Key = "by"
	For          Key = "for"
	Lasts        Key = "lasts"
	Session      Key = "session"
	Ever         Key = "ever"
	Acknowledge  Key = "acknowledge"
	Yes          Key = "yes"
	No           Key = "no"
	Leave        Key = "leave"
	DocumentText Key = "text"
	Done         Key = "done"
	Erased       Key = "erased"

	Send           Key = "send"
	Sending        Key = "sending"
	Sent           Key = "sent"
	Unsent         Key = "unsent"
	Optional       Key = "optional"
	ConfirmFirst   Key = "confirm-first"
	ConfirmSubject Key = "confirm-subject"
	ConfirmText    Key = "confirm-text"
	ConfirmAsk     Key = "confirm-ask"
	ConfirmButton  Key = "confirm-button"
	Confirmed      Key = "confirmed"
	ConfirmOver    Key = "confirm-over"
)

// A Use is what a phrase is said in.
type Use string

const (
	Everywhere Use = "everywhere" // notices of every kind
	Levels     Use = "levels"     // alerts, one for each level
	Asking     Use = "consent"    // consent notices, and what asks again or stands in for what is held back
	Purposes   Use = "purposes"   // consent notices: purposes and what they are for
	Buttons    Use = "buttons"    // disclaimers that have to be answered, on their buttons
	Answering  Use = "answers"    // those disclaimers, elsewhere
	Filling    Use = "forms"      // notices with fields to fill in
	Confirming Use = "confirming" // those that have an address confirmed, in the letter and behind its link
)

// A Row says what a phrase is. What it has in braces stands in own words too.
type Row struct {
	Key   Key
	Use   Use
	Means string
	// It is a sentence: up to 500 characters, not 100.
	Long bool
}

func (Use) Values() []string {
	return closed.Strings(Everywhere, Levels, Asking, Purposes, Buttons, Answering, Filling, Confirming)
}

// A State is how ready the program is in a language.
type State string

const (
	IsReady State = "ready" // visitors get its words
	IsDraft State = "draft" // there are words that nobody has read
	IsNone  State = "none"
)

func (State) Values() []string { return closed.Strings(IsReady, IsDraft, IsNone) }

// StateOf returns how ready the program is in a language.
func StateOf(tag string) State {
	switch {
	case Speaks(tag):
		return IsReady
	case Draft(tag) != nil:
		return IsDraft
	}
	return IsNone
}

// Table is every phrase that a site or a notice can say in its own words, in the order in
// which people read.
var Table = []Row{
	{Close, Everywhere, "the cross that closes, as it is read out", false},
	{Shut, Everywhere, "a button that closes", false},
	{More, Everywhere, "what opens the longer message, or follows a link without words", false},
	{Fold, Everywhere, "what folds the notice away, as it is read out", false},
	{Unfold, Everywhere, "the tab that brings it back, as it is read out", false},
	{Region, Everywhere, "what a notice is, as it is read out before its first words", false},
	{"emergency", Levels, "an alert that is an emergency", false},
	{"warning", Levels, "an alert that is a warning", false},
	{"information", Levels, "an alert that informs", false},
	{"promotion", Levels, "an alert that offers something", false},
	{Accept, Asking, "agrees to all", false},
	{Reject, Asking, "refuses all", false},
	{Choose, Asking, "lists the purposes", false},
	{Save, Asking, "answers as the boxes are ticked", false},
	{Fine, Asking, "agrees where the rule is not opt-in", false},
	{Object, Asking, "objects, unless the place prescribes the words", false},
	{Always, Asking, "beside what nobody is asked about", false},
	{Again, Asking, "the control that asks again", false},
	{Missing, Asking, "in place of a frame that is held back", true},
	{Allow, Asking, "lets that frame be shown", false},
	{Signal, Asking, "where the browser’s privacy signal counts", true},
	{Yours, Asking, "before the number of the visitor’s answer", false},
	{Receipt, Asking, "downloads the receipt", false},
	{Erase, Asking, "erases the answer", false},
	{Name, Asking, "the list of what is set: its name", false},
	{By, Asking, "the list of what is set: who sets it", false},
	{For, Asking, "the list of what is set: what for", false},
	{Lasts, Asking, "the list of what is set: how long", false},
	{Session, Asking, "the list of what is set: for this visit", false},
	{Ever, Asking, "the list of what is set: until it is removed", false},
	{"necessary", Asking, "the purpose that nobody is asked about", false},
	{"necessary.text", Asking, "what it is for", true},
	{"preferences", Purposes, "the purpose of preferences", false},
	{"preferences.text", Purposes, "what it is for", true},
	{"measurement", Purposes, "the purpose of audience measurement", false},
	{"measurement.text", Purposes, "what it is for", true},
	{"marketing", Purposes, "the purpose of marketing", false},
	{"marketing.text", Purposes, "what it is for", true},
	{Acknowledge, Buttons, "acknowledges", false},
	{Yes, Buttons, "declares that it is so", false},
	{No, Buttons, "declares that it is not so", false},
	{Leave, Buttons, "leads elsewhere without acknowledging", false},
	{DocumentText, Answering, "opens the text of the document", false},
	{Done, Answering, "once it is answered", false},
	{Erased, Answering, "once the answer is erased", false},
	{Send, Filling, "sends what was filled in", false},
	{Sending, Filling, "while it is sent", false},
	{Sent, Filling, "once it has arrived, if the notice says nothing itself", true},
	{Unsent, Filling, "where it could not be sent", true},
	{Optional, Filling, "beside what may stay empty", false},
	{"missing-answer", Filling, "beside a field that has to be filled in", true},
	{"not-ticked", Filling, "beside an agreement that has to be ticked", true},
	{"no-email", Filling, "beside what is no e-mail address", true},
	{"no-telephone", Filling, "beside what is no telephone number", true},
	{"no-number", Filling, "beside what is no number", true},
	{"out-of-range", Filling, "beside a number or a day that is too small or too large", true},
	{"no-date", Filling, "beside what is no date", true},
	{"no-option", Filling, "beside what is none of the options", true},
	{"too-long", Filling, "beside what is too long", true},
	{"not-understood", Filling, "beside what cannot be read", true},
	{ConfirmFirst, Confirming, "once it has arrived, while the address is not confirmed yet", true},
	{ConfirmSubject, Confirming, "what the letter is about", false},
	{ConfirmText, Confirming, "the letter, before its link", true},
	{ConfirmAsk, Confirming, "behind the link", true},
	{ConfirmButton, Confirming, "confirms the address", false},
	{Confirmed, Confirming, "once it is confirmed", true},
	{ConfirmOver, Confirming, "behind a link that no longer works", true},
}

//go:embed words.*.txt
var files embed.FS

// Ready are the languages whose words visitors get, drafts those whose words a site
// offers to be read first.
var (
	Ready  = []string{"en", "de", "pl", "fr", "ar"}
	drafts = []string{"es", "it", "nl", "pt", "sv", "cs", "uk", "tr"}
)

// Words are phrases by key.
type Words map[Key]string

var ready, drafted = read(Ready), read(drafts)

// read reads the files of words of languages. It panics if one lacks a phrase: they are
// built in.
func read(tags []string) map[string]Words {
	out := map[string]Words{}
	for _, tag := range tags {
		text, err := files.ReadFile("words." + tag + ".txt")
		if err != nil {
			panic(err)
		}
		w := Words{}
		for k, said := range ReadTable(string(text)) {
			w[Key(k)] = said
		}
		for _, r := range Table {
			if w[r.Key] == "" {
				panic("no words for " + string(r.Key) + " in " + tag)
			}
		}
		out[tag] = w
	}
	return out
}

// ReadTable reads keys, each followed by its text in indented lines. Lines that begin with
// # say something about them.
func ReadTable(text string) map[string]string {
	out, key := map[string]string{}, ""
	for line := range strings.SplitSeq(text, "\n") {
		switch {
		case line == "" || line[0] == '#':
		case line[0] == ' ':
			out[key] = strings.TrimSpace(out[key] + " " + strings.TrimSpace(line))
		default:
			key = line
		}
	}
	return out
}

// found returns the words of a language, or of the one that it is a kind of.
func found(of map[string]Words, tag string) (Words, bool) {
	for ; tag != ""; tag = lookup.Parent(tag) {
		if w, ok := of[strings.ToLower(tag)]; ok {
			return w, true
		}
	}
	return nil, false
}

// In returns the program's words in a language, English where it is not ready in it.
func In(tag string) Words {
	if w, ok := found(ready, tag); ok {
		return w
	}
	return ready["en"]
}

// Speaks reports whether the program is ready in a language.
func Speaks(tag string) bool { _, ok := found(ready, tag); return ok }

// Draft returns the words in a language that nobody has read yet; nil if there are none.
func Draft(tag string) Own {
	w, ok := found(drafted, tag)
	if !ok {
		return nil
	}
	out := Own{}
	for _, r := range Table {
		out[r.Key] = w[r.Key]
	}
	return out
}

// DraftFor returns those of a draft's words that are said in these uses.
func DraftFor(tag string, uses ...Use) Own {
	out := Draft(tag)
	maps.DeleteFunc(out, func(k Key, _ string) bool {
		r, _ := RowOf(k)
		return !slices.Contains(uses, r.Use)
	})
	return out
}

// DraftedMay is what a new consent notice asks in a language that is drafted, "" in any other.
func DraftedMay(tag string) string {
	w, _ := found(drafted, tag)
	return w[May]
}

// Own are the words of a site or of a notice in place of the program's, by key.
type Own map[Key]string

// A PhraseSet is what a site says in place of the program in one language.
type PhraseSet struct {
	Words Own `json:"words"`
	// Nobody has read them yet: no visitor gets them.
	Unread bool `json:"unread,omitempty"`
}

// Over returns the words in a language with own ones put over them, the first that has one.
func Over(tag string, own ...Own) Words {
	out := maps.Clone(In(tag))
	for _, o := range slices.Backward(own) {
		for k, said := range o {
			if said != "" {
				out[k] = said
			}
		}
	}
	return out
}

// blank is what stands for a value in a phrase.
var blank = regexp.MustCompile(`\{[a-z]+\}`)

// Fill puts values into a phrase: "Read “{title}”" with title.
func Fill(said string, values map[string]string) string {
	return blank.ReplaceAllStringFunc(said, func(b string) string {
		if v, ok := values[strings.Trim(b, "{}")]; ok {
			return v
		}
		return b
	})
}

// RowOf returns the row of a phrase that can be said in own words; ok is false if there is
// none.
func RowOf(k Key) (Row, bool) {
	i := slices.IndexFunc(Table, func(r Row) bool { return r.Key == k })
	if i < 0 {
		return Row{}, false
	}
	return Table[i], true
}

// Limit is how many characters own words may have.
func (r Row) Limit() int {
	if r.Long {
		return 500
	}
	return 100
}

// tagged finds what would be read as HTML by whoever wrote it.
var tagged = regexp.MustCompile(`</?[a-zA-Z]`)

// Check returns what is wrong with own words.
func (o Own) Check() fault.Faults {
	var faults fault.Faults
	for _, k := range slices.Sorted(maps.Keys(o)) {
		r, ok := RowOf(k)
		at := fault.Pointer(string(k))
		if !ok {
			faults = append(faults, fault.Fault{
				Pointer: at,
				What:    fmt.Sprintf("the program says nothing that is called %q", k),
				Remedy:  "remove it, or check its spelling",
			})
			continue
		}
		said := o[k]
		if n := len([]rune(said)); n > r.Limit() {
			faults = append(faults, fault.Fault{
				Pointer: at,
				What:    fmt.Sprintf("the text is too long, %d characters", n),
				Remedy:  fmt.Sprintf("give at most %d characters", r.Limit()),
			})
		}
		if tagged.MatchString(said) {
			faults = append(faults, fault.Fault{
				Pointer: at,
				What:    "it holds HTML, which would be shown as it is written",
				Remedy:  "use words alone",
			})
		}
		if f := PlainFault(said); f != nil {
			f.Pointer = at
			faults = append(faults, *f)
		}
		for _, b := range blank.FindAllString(In("en")[k], -1) {
			if said != "" && !strings.Contains(said, b) {
				faults = append(faults, fault.Fault{
					Pointer: at,
					What:    fmt.Sprintf("it leaves out %s, which stands for what only the page knows", b),
					Remedy:  "write " + b + " where it belongs",
				})
			}
		}
	}
	return faults
}

// PlainFault says what is wrong with a text that is shown as it is, nil if nothing is:
// characters that cannot be seen and change how what follows is read.
func PlainFault(s string) *fault.Fault {
	open := 0
	for _, r := range s {
		switch {
		case r == '\u202d' || r == '\u202e':
			return &fault.Fault{
				What:   fmt.Sprintf("it holds the character U+%04X, which turns round what follows", r),
				Remedy: "remove it; right-to-left languages need none",
			}
		case r >= '\u202a' && r <= '\u202b' || r >= '\u2066' && r <= '\u2068':
			open++
		case r == '\u202c' || r == '\u2069':
			open--
		case unicode.IsControl(r) && r != '\n' && r != '\t':
			return &fault.Fault{
				What:   fmt.Sprintf("it holds the character U+%04X, which nothing can show", r),
				Remedy: "remove it",
			}
		}
	}
	if open != 0 {
		return &fault.Fault{
			What:   "it changes the direction of writing and does not change it back",
			Remedy: "remove the characters that do; right-to-left languages need none",
		}
	}
	return nil
}
