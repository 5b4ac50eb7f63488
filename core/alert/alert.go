// Package alert makes notices of messages that come by a feed, and messages
// of notices. What a message is, is the same whether it came as CAP or as Atom.
package alert

import (
	"bytes"
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/xml"
	"errors"
	"fmt"
	"html"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/mmcdole/gofeed/atom"
	"golang.org/x/text/language"

	"mastflag/core/bundle"
	"mastflag/core/cap"
	"mastflag/core/fault"
	"mastflag/core/lookup"
	"mastflag/core/markup"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// A Kind is what a message does.
type Kind string

const (
	New    Kind = "alert"
	Update Kind = "update" // replaces what it refers to
	Cancel Kind = "cancel" // ends what it refers to
	Other  Kind = "other"  // an answer between systems: nothing to show
)

// A Message is what came.
type Message struct {
	Kind   Kind
	Sender string
	ID     string
	Sent   time.Time
	// Why it is not for the public, "" if it is: an exercise, a test, restricted.
	NotPublic string
	Refers    []cap.Reference
	From      time.Time // zero if it says nothing of that
	Until     time.Time
	Event     string
	Category  string
	Severity  string
	Urgency   string
	Certainty string
	// Descriptions and codes (name=value) of the areas it is for.
	Areas []string
	// By language tag, "" where the message does not say which.
	Texts map[string]Text
	// Where a whole message lies, of an entry of an Atom feed that only points there.
	Whole string
}

// A Text is what a message says in one language, as plain text.
type Text struct {
	Headline, Description, Instruction, Web string
}

// MaxFeed is how large a feed may be, bytes.
const MaxFeed = 4 << 20

// Read reads a CAP 1.2 message, or an Atom feed (RFC 4287) of which each entry
// is a message. Faults say what is wrong with which.
func Read(raw []byte) ([]Message, error) {
	raw = bytes.TrimPrefix(bytes.TrimSpace(raw), []byte("\xef\xbb\xbf"))
	if err := cap.Plain(raw, MaxFeed); err != nil {
		return nil, err
	}
	root, err := cap.Root(raw)
	if err != nil {
		return nil, err
	}
	switch root {
	case xml.Name{Space: cap.Namespace, Local: "alert"}:
		a, err := cap.Parse(raw)
		if err != nil {
			return nil, err
		}
		return []Message{ofCAP(a)}, nil
	case xml.Name{Space: "http://www.w3.org/2005/Atom", Local: "feed"}:
		return readAtom(raw)
	}
	return nil, fault.Faults{{
		What:   fmt.Sprintf("the document is <%s>, neither a CAP 1.2 message nor an Atom feed", root.Local),
		Remedy: "give <alert xmlns=\"" + cap.Namespace + "\"> or <feed xmlns=\"http://www.w3.org/2005/Atom\">",
	}}
}

func ofCAP(a cap.Alert) Message {
	m := Message{
		Kind:   map[string]Kind{"Alert": New, "Update": Update, "Cancel": Cancel}[a.MsgType],
		Sender: a.Sender,
		ID:     a.Identifier,
		Texts:  map[string]Text{},
	}
	m.Kind = cmp.Or(m.Kind, Other)
	m.Sent, _ = cap.Moment(a.Sent)
	m.Refers, _ = a.Referred()
	if a.Status != "Actual" {
		m.NotPublic = "its status is " + a.Status
	} else if a.Scope != "Public" {
		m.NotPublic = "its scope is " + a.Scope
	}
	for i, in := range a.Infos {
		if i == 0 {
			m.Event, m.Severity, m.Urgency, m.Certainty = in.Event, in.Severity, in.Urgency, in.Certainty
			if len(in.Category) > 0 {
				m.Category = in.Category[0]
			}
		}
		// It holds from its earliest beginning to its latest end in any language.
		from, _ := cap.Moment(cmp.Or(in.Onset, in.Effective))
		if !from.IsZero() && (m.From.IsZero() || from.Before(m.From)) {
			m.From = from
		}
		if until, err := cap.Moment(in.Expires); err == nil && until.After(m.Until) {
			m.Until = until
		}
		if _, have := m.Texts[in.Language]; !have {
			m.Texts[in.Language] = Text{cmp.Or(in.Headline, in.Event), in.Description, in.Instruction, in.Web}
		}
		for _, ar := range in.Area {
			m.Areas = append(m.Areas, ar.Desc)
			for _, g := range ar.Geocode {
				m.Areas = append(m.Areas, g.Name+"="+g.Value)
			}
		}
	}
	slices.Sort(m.Areas)
	m.Areas = slices.Compact(m.Areas)
	return m
}

func readAtom(raw []byte) ([]Message, error) {
	feed, err := (&atom.Parser{}).Parse(bytes.NewReader(raw))
	if err != nil {
		return nil, fault.Faults{{What: "the Atom feed cannot be read: " + err.Error(), Remedy: "see RFC 4287"}}
	}
	var out []Message
	var faults fault.Faults
	for i, e := range feed.Entries {
		at := fmt.Sprintf("/feed/entry/%d", i)
		sent := e.UpdatedParsed
		switch {
		case e.ID == "":
			faults = append(faults, fault.Fault{
				Pointer: at + "/id",
				What:    "it is missing",
				Remedy:  "give each entry an id that stays (RFC 4287 §4.2.6)",
			})
			continue
		case sent == nil:
			faults = append(faults, fault.Fault{
				Pointer: at + "/updated",
				What:    fmt.Sprintf("%q is no moment", e.Updated),
				Remedy:  "write it like 2026-11-25T16:49:00Z (RFC 4287 §3.3)",
			})
			continue
		case !strings.HasSuffix(e.Updated, "Z") && !strings.ContainsAny(e.Updated[min(10, len(e.Updated)):], "+-"):
			faults = append(faults, fault.Fault{
				Pointer: at + "/updated",
				What:    fmt.Sprintf("%q has no zone", e.Updated),
				Remedy:  "write it like 2026-11-25T16:49:00Z (RFC 4287 §3.3)",
			})
			continue
		}
		m := Message{
			Kind:      New,
			Sender:    cmp.Or(feed.ID, "atom"),
			ID:        e.ID,
			Sent:      sent.UTC(),
			Event:     "Notice",
			Severity:  "Unknown",
			Urgency:   "Unknown",
			Certainty: "Unknown",
		}
		text := Text{Headline: plain(e.Title), Description: plain(e.Summary)}
		if text.Description == "" && e.Content != nil && e.Content.Type != "application/cap+xml" {
			text.Description = plain(e.Content.Value)
		}
		for _, l := range e.Links {
			switch {
			case l.Type == "application/cap+xml":
				m.Whole = l.Href
			case (l.Rel == "" || l.Rel == "alternate") && text.Web == "":
				text.Web = l.Href
			}
		}
		m.Texts = map[string]Text{feed.Language: text}
		out = append(out, m)
	}
	return out, faults.Err()
}

// plain is the text of what may be HTML.
func plain(s string) string { return markup.Text(markup.Sanitise(s)) }

// NoticeID is the id of the notice that a message and its updates make.
func NoticeID(feed, sender, id string) string {
	sum := sha256.Sum256([]byte(feed + "\x00" + sender + "\x00" + id))
	return "alert-" + hex.EncodeToString(sum[:6])
}

// Notice makes a notice of a message of the feed. id is that of the notice.
func Notice(m Message, f bundle.Feed, site bundle.Site, id string) (bundle.Notice, error) {
	zone, err := schedule.Zone(site.TimeZone)
	if err != nil {
		return bundle.Notice{}, err
	}
	n := bundle.Notice{
		ID:     id,
		Kind:   bundle.KindAlert,
		Level:  f.Level(m.Severity, m.Urgency, m.Certainty),
		Pages:  where(m, f),
		Memory: &bundle.Memory{HideAfterClose: "P1D"},
		Source: &bundle.Source{
			Feed:      f.Name,
			Sender:    short(m.Sender, 300),
			ID:        short(m.ID, 500),
			Sent:      m.Sent,
			Event:     short(m.Event, 300),
			Category:  m.Category,
			Severity:  m.Severity,
			Urgency:   m.Urgency,
			Certainty: m.Certainty,
		},
		Content: &bundle.Content{Wordings: map[string]bundle.Wording{}},
	}
	if n.Level == bundle.Emergency {
		n.Position = bundle.Sticking
	}
	n.Schedule = within(m.From, Until(m, f), zone)
	for _, tag := range slices.Sorted(maps.Keys(m.Texts)) {
		own := languageOf(tag, site)
		w, says := wording(m.Texts[tag])
		if _, have := n.Content.Wordings[own]; says && !have {
			n.Content.Wordings[own] = w
		}
	}
	n.Title = short(Headline(m, site), 200)
	if len(n.Content.Wordings) == 0 {
		return n, errors.New("it says nothing")
	}
	return n, nil
}

// Headline returns what a message is about, as TextIn has it; its event or its id where it says nothing.
func Headline(m Message, site bundle.Site) string {
	return cmp.Or(TextIn(m, site).Headline, m.Event, m.ID)
}

// TextIn returns what a message says in the site's language, or in another where it has none in that.
func TextIn(m Message, site bundle.Site) (t Text) {
	for _, tag := range slices.Sorted(maps.Keys(m.Texts)) {
		if _, says := wording(m.Texts[tag]); !says {
			continue
		}
		if languageOf(tag, site) == site.Language {
			return m.Texts[tag]
		}
		if t == (Text{}) {
			t = m.Texts[tag]
		}
	}
	return t
}

// Until returns when a message ends: when it says, or as long after it was sent
// as the feed says.
func Until(m Message, f bundle.Feed) time.Time {
	if !m.Until.IsZero() {
		return m.Until
	}
	lasts, err := schedule.ParseSpan(cmp.Or(string(f.Lasts), "P1D"))
	if err != nil {
		return time.Time{}
	}
	begins := m.Sent
	if m.From.After(begins) {
		begins = m.From
	}
	return lasts.After(begins, time.UTC)
}

// within is the window between two instants: on the site's clock where that
// tells them apart, else on UTC.
func within(from, until time.Time, zone *time.Location) *schedule.Plan {
	plan := &schedule.Plan{}
	for _, t := range []time.Time{from, until} {
		if t = t.Truncate(time.Second); !t.IsZero() && !schedule.LocalAt(t, zone).In(zone).Equal(t) {
			zone, plan.Clock = time.UTC, "UTC"
		}
	}
	var w schedule.Window
	if !from.IsZero() {
		w.From = schedule.LocalAt(from, zone).String()
	}
	if !until.IsZero() {
		w.Until = schedule.LocalAt(until, zone).String()
	}
	plan.Windows = []schedule.Window{w}
	return plan
}

// where returns the pages of a message: those with the tags of its areas, or
// the feed's own.
func where(m Message, f bundle.Feed) *pages.Conditions {
	var c pages.Conditions
	for _, a := range f.Areas {
		tag := a.Tag
		e := pages.Entry{Match: pages.Tag, Value: &tag}
		if slices.ContainsFunc(m.Areas, func(have string) bool { return strings.EqualFold(have, a.Area) }) &&
			!slices.ContainsFunc(c.Include, func(x pages.Entry) bool { return *x.Value == tag }) {
			c.Include = append(c.Include, e)
		}
	}
	switch {
	case c.Include != nil:
		return &c
	case f.Pages != nil:
		return f.Pages
	}
	return &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}}
}

func wording(t Text) (w bundle.Wording, says bool) {
	esc := func(s string) string {
		return strings.ReplaceAll(html.EscapeString(strings.TrimSpace(s)), "\n", "<br>")
	}
	head := cmp.Or(strings.TrimSpace(t.Headline), strings.TrimSpace(t.Description))
	if head == "" {
		return w, false
	}
	w.Message = "<p><strong>" + esc(short(head, 400)) + "</strong>"
	if t.Instruction != "" {
		w.Message += " " + esc(short(t.Instruction, 1000))
	}
	w.Message += "</p>"
	more := strings.TrimSpace(t.Description)
	switch {
	case markup.HrefFault(t.Web) == "" && (strings.HasPrefix(t.Web, "https://") || strings.HasPrefix(t.Web, "http://")):
		w.Link = &bundle.Link{Href: t.Web, As: "link"}
	case more != "" && more != head:
		w.Details = "<p>" + esc(short(more, 8000)) + "</p>"
	}
	return w, true
}

// languageOf is the site's tag for a language of a message: by lookup (RFC 4647 §3.4), so that en-GB is en where the
// site has that, else the first of the same language. CAP's own default is en-US (§3.2.2); a text without a language is
// taken to be in the site's.
func languageOf(tag string, site bundle.Site) string {
	if tag == "" {
		return site.Language
	}
	for own := tag; own != ""; own = lookup.Parent(own) {
		for _, have := range site.AllLanguages() {
			if strings.EqualFold(have, own) {
				return have
			}
		}
	}
	t, err := language.Parse(tag)
	if err != nil {
		return site.Language
	}
	for _, have := range site.AllLanguages() {
		if h, err := language.Parse(have); err == nil && base(h) == base(t) {
			return have
		}
	}
	return t.String()
}

func base(t language.Tag) string { b, _ := t.Base(); return b.String() }

// short cuts a text to at most n characters.
func short(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n-1]) + "…"
	}
	return s
}
