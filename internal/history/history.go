// Package history names what was done to notices, sites and people. What is kept is a
// code with arguments; it is made into words where it is shown.
package history

import (
	"fmt"
	"strings"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"
)

// An Act is the code of something that can be done. One that this program does not know
// says itself.
type Act string

// A Deed is an act with what it was done with or to, in the order of the act's words.
type Deed struct {
	Act  Act
	Args []string
}

// With returns the act as a deed.
func (a Act) With(args ...string) Deed { return Deed{a, args} }

// words are what each act says after a name, by code; %s stands for an argument, %L for
// one that is the BCP 47 tag of a language.
var words = map[Act]string{}

func act(code Act, says string) Act {
	if words[code] != "" {
		panic("two acts are called " + string(code))
	}
	words[code] = says
	return code
}

// Of notices.
var (
	Began        = act("began", "began it")
	BeganCopy    = act("began-copy", "copied it from “%s”")
	BeganFrom    = act("began-from", "began it from “%s”")
	BeganDraft   = act("began-draft", "began a draft of the next version")
	Overtaken    = act("overtaken", "wrote this while someone else changed it")
	Published    = act("published", "published it")
	Unpublished  = act("unpublished", "unpublished it")
	Republished  = act("republished", "published it again as it was")
	Paused       = act("paused", "paused it")
	Resumed      = act("resumed", "resumed it")
	PausedAll    = act("paused-all", "paused it with all others")
	ResumedAll   = act("resumed-all", "resumed it with the others")
	Ended        = act("gave-end", "gave it an end")
	Discarded    = act("discarded", "discarded the draft")
	Restored     = act("restored", "went back to an earlier text")
	Settled      = act("settled", "had all get variant “%s”")
	Deleted      = act("deleted", "deleted it")
	Undeleted    = act("undeleted", "brought it back")
	Imported     = act("imported", "imported it")
	Drafted      = act("drafted", "had it drafted in %L")
	Translated   = act("translated", "took in a translation into %L")
	Linked       = act("linked", "linked it to “%s”")
	TakenOff     = act("taken-off", "took it off %s")
	PutOn        = act("put-on", "put it on %s")
	PagesBack    = act("pages-back", "put its pages back as they were")
	TakenIn      = act("taken-in", "took it in")
	FromMessage  = act("from-message", "published it from a message of %s")
	ByMessage    = act("by-message", "updated it by a message of %s")
	EndedMessage = act("ended-by-message", "ended it by a message of %s")
)

// Of sites, their documents and people.
var (
	ChangedSite        = act("site-changed", "changed the site")
	SwitchedOff        = act("switched-off", "switched everything off")
	SwitchedOn         = act("switched-on", "switched everything on")
	ImportedBundle     = act("bundle-imported", "imported a bundle")
	BeganDocument      = act("document-began", "began the document “%s”")
	ChangedDocument    = act("document-changed", "changed the document “%s”")
	PublishedDocument  = act("document-published", "published version %s of the document “%s”")
	RemovedDocument    = act("document-removed", "removed the document “%s”")
	TranslatedDocument = act("document-translated", "took in a translation of “%s” into %L")
	Invited            = act("invited", "invited %s as %s")
	LetIn              = act("let-in", "let %s choose a new password")
	Joined             = act("joined", "joined as %s")
	Made               = act("made", "made %s %s")
	TookOff            = act("took-off", "took off %s")
	SawContacts        = act("contacts-seen", "looked at contacts")
	ExportedContacts   = act("contacts-exported", "exported %s as %s")
	ErasedContacts     = act("contacts-erased", "erased %s")
	RetriedContact     = act("contact-retried", "had a contact passed on once more")
	// Words that were kept before there were codes.
	Said = act("said", "%s")
)

// String says the deed as it goes on after a name: "published it". What an argument holds
// is not looked into; one that is missing leaves its place as it is.
func (d Deed) String() string {
	rest, known := words[d.Act]
	if !known {
		return strings.TrimSpace(string(d.Act) + " " + strings.Join(d.Args, " "))
	}
	var said strings.Builder
	for _, arg := range d.Args {
		i := strings.IndexByte(rest, '%')
		if i < 0 {
			break
		}
		if rest[i+1] == 'L' {
			arg = languageName(arg)
		}
		said.WriteString(rest[:i] + arg)
		rest = rest[i+2:]
	}
	return said.String() + rest
}

func languageName(tag string) string {
	t, err := language.Parse(tag)
	if err != nil {
		return fmt.Sprintf("“%s”", tag)
	}
	return display.English.Tags().Name(t)
}
