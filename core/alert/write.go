package alert

import (
	"cmp"
	"encoding/xml"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"
	"unicode"

	ics "github.com/arran4/golang-ical"

	"mastflag/core/bundle"
	"mastflag/core/cap"
	"mastflag/core/decide"
	"mastflag/core/markup"
	"mastflag/core/orderline"
	"mastflag/core/personal"
	"mastflag/core/render"
)

// An Outlet is where a site's alerts are published to others.
type Outlet struct {
	Base string // the program's own address
	Key  string // of the site
	Host string // the site's own, such as www.sundrey.example
}

// FeedPath and MessagePath are where a site's Atom feed lies, and below which its
// messages do.
func FeedPath(key string) string        { return "/f/" + key + "/alerts.atom" }
func MessagePath(key, id string) string { return "/f/" + key + "/alerts/" + id + ".xml" }

// messageParts is what level stands for in a message of our own, where the notice did
// not come with values; ours, not the standard's.
var messageParts = map[bundle.Level][3]string{ // severity, urgency, certainty
	bundle.Emergency:   {"Extreme", "Immediate", "Observed"},
	bundle.Warning:     {"Severe", "Expected", "Likely"},
	bundle.Information: {"Minor", "Unknown", "Observed"},
	bundle.Promotion:   {"Minor", "Unknown", "Observed"},
}

// Live returns the site's alerts that are live at an instant, the strongest first.
func Live(s *decide.Site, at time.Time) []bundle.Notice {
	var out []bundle.Notice
	for _, n := range s.Ordered() {
		if n.Kind != bundle.KindAlert || n.GetState() != bundle.Published || !s.Bundle().Site.Displays() {
			continue
		}
		if live, _ := s.Schedule(n.ID).SiteAt(at); live && slices.ContainsFunc(
			slices.Collect(maps.Values(n.Wordings())), bundle.Wording.Says,
		) {
			out = append(out, s.Bundle().Site.Prepared(n, ""))
		}
	}
	return out
}

// Message is a live alert as a CAP 1.2 message. Its identifier stays for as long
// as the alert is not changed.
func (o Outlet) Message(s *decide.Site, n bundle.Notice, at time.Time) cap.Alert {
	site := s.Bundle().Site
	sent := n.GetPublishedAt()
	a := cap.Alert{
		Identifier: fmt.Sprintf("%s.%s.%s", site.Key, n.ID, sent.UTC().Format("20060102T150405")),
		Sender:     site.Key + "@" + cmp.Or(o.Host, "localhost"),
		Sent:       cap.Format(sent),
		Status:     "Actual",
		MsgType:    "Alert",
		Scope:      "Public",
	}
	src := bundle.Source{}
	if n.Source != nil {
		src = *n.Source
		a.Source = strings.Join(strings.Fields(src.Sender), " ")
	}
	level := messageParts[n.GetLevel()]
	w := n.Wordings()
	for _, tag := range slices.Sorted(maps.Keys(w)) {
		if !w[tag].Says() {
			continue
		}
		text := strings.TrimSpace(
			w[tag].Headline + " " + personal.Words(strings.ReplaceAll(markup.Text(w[tag].Message), render.Mark, "")),
		)
		in := cap.Info{
			Language:    tag,
			Category:    []string{cmp.Or(src.Category, "Other")},
			Event:       cmp.Or(src.Event, n.GetTitle()),
			Urgency:     cmp.Or(src.Urgency, level[1]),
			Severity:    cmp.Or(src.Severity, level[0]),
			Certainty:   cmp.Or(src.Certainty, level[2]),
			Effective:   cap.Format(sent),
			SenderName:  site.Name,
			Headline:    short(text, 160),
			Description: strings.TrimSpace(text + "\n" + markup.Text(w[tag].Details)),
			Area:        []cap.Area{{Desc: site.Name + ": " + orderline.PagesOf(n.GetPages())}},
		}
		in.Description = strings.TrimSpace(in.Description)
		if _, until := s.Schedule(n.ID).SiteAt(at); !until.IsZero() {
			in.Expires = cap.Format(until)
		}
		if l := w[tag].Link; l != nil {
			switch {
			case strings.HasPrefix(l.Href, "/") && o.Host != "" && len(site.Origins) > 0:
				in.Web = strings.TrimSuffix(site.Origins[0], "/") + l.Href
			case strings.HasPrefix(l.Href, "http"):
				in.Web = l.Href
			}
		}
		a.Infos = append(a.Infos, in)
	}
	return a
}

// The elements of an Atom feed (RFC 4287) that are written.
type atomFeed struct {
	XMLName xml.Name    `xml:"http://www.w3.org/2005/Atom feed"`
	Lang    string      `xml:"http://www.w3.org/XML/1998/namespace lang,attr"`
	ID      string      `xml:"id"`
	Title   string      `xml:"title"`
	Updated string      `xml:"updated"`
	Author  atomAuthor  `xml:"author"`
	Links   []atomLink  `xml:"link"`
	Entries []atomEntry `xml:"entry"`
}

type atomAuthor struct {
	Name string `xml:"name"`
}

type atomLink struct {
	Rel  string `xml:"rel,attr"`
	Type string `xml:"type,attr,omitempty"`
	Href string `xml:"href,attr"`
}

type atomEntry struct {
	ID        string     `xml:"id"`
	Title     string     `xml:"title"`
	Updated   string     `xml:"updated"`
	Published string     `xml:"published"`
	Links     []atomLink `xml:"link"`
	Summary   string     `xml:"summary"`
}

// Feed is the site's live alerts at an instant as an Atom feed. Each entry's id
// is its notice's, and leads to its CAP message.
func (o Outlet) Feed(s *decide.Site, at time.Time) ([]byte, error) {
	site := s.Bundle().Site
	self := o.Base + FeedPath(o.Key)
	f := atomFeed{
		Lang:   site.Language,
		ID:     self,
		Title:  site.Name + ": alerts",
		Author: atomAuthor{site.Name},
		Links:  []atomLink{{"self", "application/atom+xml", self}},
	}
	var latest time.Time
	for _, n := range Live(s, at) {
		m := o.Message(s, n, at)
		in := m.Infos[0]
		for _, other := range m.Infos {
			if other.Language == site.Language {
				in = other
			}
		}
		sent := n.GetPublishedAt()
		if sent.After(latest) {
			latest = sent
		}
		f.Entries = append(f.Entries, atomEntry{
			ID:        o.Base + "/f/" + o.Key + "/alerts/" + n.ID,
			Title:     in.Headline,
			Updated:   sent.UTC().Format(time.RFC3339),
			Published: sent.UTC().Format(time.RFC3339),
			Links:     []atomLink{{"alternate", "application/cap+xml", o.Base + MessagePath(o.Key, n.ID)}},
			Summary:   in.Description,
		})
	}
	if latest.IsZero() {
		latest = at.Truncate(24 * time.Hour)
	}
	f.Updated = latest.UTC().Format(time.RFC3339)
	out, err := xml.MarshalIndent(f, "", "  ")
	if err != nil {
		return nil, fmt.Errorf("writing the feed of %s: %w", o.Key, err)
	}
	return append([]byte(xml.Header), append(out, '\n')...), nil
}

// How far the calendar reaches from the month of an instant: months back and ahead.
const monthsBack, monthsAhead = 1, 13

// Horizon is the time that the calendar of an instant covers.
func Horizon(at time.Time) (from, until time.Time) {
	month := time.Date(at.Year(), at.Month(), 1, 0, 0, 0, 0, time.UTC)
	return month.AddDate(0, -monthsBack, 0), month.AddDate(0, monthsAhead, 0)
}

// oneLine returns a text with a space for each control character: some readers of
// calendars take a bare carriage return for the end of a line, and what follows
// for a property of its own (RFC 5545 §3.1 ends lines with both).
func oneLine(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || r == '\u2028' || r == '\u2029' {
			return ' '
		}
		return r
	}, s)
}

// Calendar is when each published notice is live, within the horizon of an
// instant, as iCalendar (RFC 5545): an event for each interval, for a rule
// could not say that occurrences keep to the wall clock's end (§3.3.10 gives
// each the same exact duration), and one for each end of a countdown.
func (o Outlet) Calendar(s *decide.Site, at time.Time) []byte {
	site := s.Bundle().Site
	c := ics.NewCalendarFor("Mast Flag")
	c.SetMethod(ics.MethodPublish)
	c.SetName(oneLine(site.Name) + ": notices")
	c.SetXWRCalName(oneLine(site.Name) + ": notices")
	c.SetRefreshInterval("PT1H")
	from, until := Horizon(at)
	for _, n := range s.Bundle().Notices {
		if n.GetState() != bundle.Published {
			continue
		}
		line := orderline.Of(n, site, at).String()
		when := s.Schedule(n.ID)
		if when.Floating() {
			line += " The times are from the first place on Earth to the last."
		}
		event := func(uid, summary string, begins, ends time.Time) {
			e := c.AddEvent(uid + "@" + site.Key + ".mastflag")
			e.SetDtStampTime(n.GetPublishedAt())
			// To the second, of which it takes one at least (RFC 5545 §3.8.2.2).
			begins, ends = begins.Truncate(time.Second), ends.Truncate(time.Second)
			if !ends.After(begins) {
				ends = begins.Add(time.Second)
			}
			e.SetStartAt(begins)
			e.SetEndAt(ends)
			e.SetSummary(oneLine(summary))
			e.SetDescription(oneLine(line))
			e.SetURL(o.Base + "/" + o.Key + "/notices/" + n.ID)
			e.SetTimeTransparency(ics.TransparencyTransparent)
		}
		for _, i := range when.Range(from, until) {
			uid := n.ID + "-" + i.From.UTC().Format("20060102T150405Z")
			if i.From.Equal(from) {
				uid = n.ID + "-before" // it began earlier: its name does not move with the horizon
			}
			event(uid, n.GetTitle(), i.From, i.Until)
		}
		if k := s.Countdown(n.ID); k != nil {
			for _, i := range k.Stretches(from, until) {
				event(
					"ends-"+n.ID+"-"+i.From.UTC().Format("20060102T150405Z"), n.GetTitle()+": the countdown runs out", i.From, i.Until,
				)
			}
		}
	}
	return []byte(c.Serialize(ics.WithNewLineWindows)) // RFC 5545 §3.1
}
