package alert_test

import (
	"bytes"
	"os"
	"slices"
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/beevik/etree"
	"github.com/emersion/go-ical"
	"github.com/mmcdole/gofeed"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/alert"
	"mastflag/core/bundle"
	"mastflag/core/cap"
	"mastflag/core/countdown"
	"mastflag/core/decide"
	"mastflag/core/fault"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

var site = bundle.Site{
	Key:       "sundrey",
	Name:      "Sundrey Isles Ferries",
	Origins:   []string{"https://www.sundrey.example"},
	TimeZone:  "Europe/Warsaw",
	Language:  "en",
	Languages: []string{"en", "de", "pl"},
}

func file(t *testing.T, name string) []byte {
	t.Helper()
	raw, err := os.ReadFile("testdata/" + name)
	require.NoError(t, err)
	return raw
}

func read(t *testing.T, name string) []alert.Message {
	t.Helper()
	all, err := alert.Read(file(t, name))
	require.NoError(t, err)
	return all
}

func utc(t *testing.T, s string) time.Time {
	t.Helper()
	at, err := time.Parse(time.RFC3339, s)
	require.NoError(t, err)
	return at.UTC()
}

// Messages built after the standard's own samples become notices.
func TestMessagesBecomeNotices(t *testing.T) {
	feed := bundle.Feed{
		Name: "weather",
		Areas: []bundle.AreaTag{
			{Area: "SWO-ZONE=W2", Tag: "west"}, {Area: "little skarn", Tag: "skarn"}, {Area: "Aldwick", Tag: "aldwick"},
		},
	}

	// CAP 1.2 Appendix A.2: one language, several places, an onset and an end.
	m := read(t, "storm.xml")[0]
	assert.Equal(t, alert.New, m.Kind)
	assert.Equal(t, utc(t, "2026-12-04T09:57:00Z"), m.Sent.UTC())
	n, err := alert.Notice(m, feed, site, "a")
	require.NoError(t, err)
	assert.Equal(t, bundle.Emergency, n.Level)
	assert.Equal(t, "SEVERE GALE WARNING", n.Title)
	assert.Equal(
		t, "<p><strong>SEVERE GALE WARNING</strong> Stay away from piers and open decks.</p>", n.Wordings()["en"].Message,
	)
	assert.Equal(
		t,
		"<p>At 9:54 a storm front lay over the western sound, moving east at 45 knots.<br>Waves of 5 m &amp; more are "+
			"likely.</p>",
		n.Wordings()["en"].Details,
	)
	assert.Equal(t, []schedule.Window{{From: "2026-12-04T13:00", Until: "2026-12-04T23:00"}}, n.Schedule.Windows)
	tags := []string{}
	for _, e := range n.Pages.Include {
		require.Equal(t, pages.Tag, e.Match)
		tags = append(tags, *e.Value)
	}
	assert.Equal(t, []string{"west", "skarn"}, tags, "one alert speaks for several places")
	assert.Empty(t, n.Check(site))

	// Appendix A.3: an update names what it updates; past and minor is information.
	m = read(t, "quake-update.xml")[0]
	assert.Equal(t, alert.Update, m.Kind)
	assert.Equal(t, "trinet@quakes.sundrey.example,TRI13970876.1,2026-12-04T18:53:00-00:00", m.Refers[0].String())
	n, err = alert.Notice(m, feed, site, "b")
	require.NoError(t, err)
	assert.Equal(t, bundle.Information, n.Level)
	assert.Equal(t, "https://quakes.sundrey.example/13970876", n.Wordings()["en"].Link.Href)
	assert.Equal(t, pages.All, n.Pages.Include[0].Match, "no area of it is listed")
	assert.Equal(t, "2026-12-05T20:05", n.Schedule.Windows[0].Until, "without an end, a day after it was sent")

	// Appendix A.4: two languages, regional tags; the same every time.
	for range 20 {
		n, err = alert.Notice(read(t, "two-languages.xml")[0], feed, site, "c")
		require.NoError(t, err)
		require.Equal(t, "A red kayak is missing off Fennay", n.Title)
	}
	assert.Contains(t, n.Wordings()["de"].Message, "rotes Kajak")
	assert.Contains(t, n.Wordings()["en"].Message, "red kayak")

	// Atom, RFC 4287: text of HTML is text, and a CAP message may lie elsewhere.
	all := read(t, "feed.atom")
	n, err = alert.Notice(all[0], feed, site, "d")
	require.NoError(t, err)
	assert.Equal(t, "<p><strong>North quay &amp; slipway closed</strong></p>", n.Wordings()["en"].Message)
	assert.Equal(t, "https://harbour.sundrey.example/news/17.html", n.Wordings()["en"].Link.Href)
	assert.Equal(t, "/cap/3.xml", all[1].Whole)

	// An end that the site's clock reads twice is told on UTC.
	m.Until = utc(t, "2026-10-25T01:30:00Z")
	n, err = alert.Notice(m, feed, site, "e")
	require.NoError(t, err)
	assert.Equal(t, "UTC", n.Schedule.Clock)
	assert.Equal(t, "2026-10-25T01:30", n.Schedule.Windows[0].Until)
}

// What a message says is taken in the site's language by lookup (RFC 4647 §3.4): headline and text are of one language,
// and each wording is of the nearest that the site has.
func TestLanguagesOfMessages(t *testing.T) {
	for _, c := range []struct {
		language string
		others   []string
		has      []string
		main     string
		wordings map[string]string // by the site's tag, of which of the message's
	}{
		{"en", []string{"de"}, []string{"de-DE", "en-GB"}, "en-GB", map[string]string{"en": "en-GB", "de": "de-DE"}},
		{"en-GB", []string{"en"}, []string{"en-GB", "en"}, "en-GB", map[string]string{"en-GB": "en-GB", "en": "en"}},
		{"en-GB", nil, []string{"de", "en-US"}, "en-US", map[string]string{"en-GB": "en-US", "de": "de"}},
		{"zh-Hant", []string{"zh"}, []string{"zh-Hant-TW", "zh"}, "zh-Hant-TW",
			map[string]string{"zh-Hant": "zh-Hant-TW", "zh": "zh"}},
		{"en", nil, []string{"pl", "fr"}, "fr", map[string]string{"fr": "fr", "pl": "pl"}},
		{"en", []string{"de"}, []string{"", "de"}, "", map[string]string{"en": "", "de": "de"}},
	} {
		s := site
		s.Language, s.Languages = c.language, append([]string{c.language}, c.others...)
		m := alert.Message{ID: "1", Sent: utc(t, "2026-12-04T12:00:00Z"), Texts: map[string]alert.Text{}}
		for _, tag := range c.has {
			m.Texts[tag] = alert.Text{Headline: "Headline (" + tag + ")", Instruction: "Text (" + tag + ")"}
		}
		m.Texts["aa"] = alert.Text{} // says nothing
		assert.Equal(t, m.Texts[c.main], alert.TextIn(m, s), "%v", c)
		assert.Equal(t, "Headline ("+c.main+")", alert.Headline(m, s))
		n, err := alert.Notice(m, bundle.Feed{Name: "f"}, s, "a")
		require.NoError(t, err)
		assert.Equal(t, "Headline ("+c.main+")", n.Title, "%v", c)
		got := map[string]string{}
		for tag, w := range n.Wordings() {
			for _, of := range c.has {
				if strings.Contains(w.Message, "Headline ("+of+")") && strings.Contains(w.Message, "Text ("+of+")") {
					got[tag] = of
				}
			}
		}
		assert.Equal(t, c.wordings, got, "%v", c)
	}
}

func TestLevels(t *testing.T) {
	for _, c := range []struct {
		severity, urgency, certainty string
		want                         bundle.Level
	}{
		{
			"Extreme", "Immediate", "Observed", bundle.Emergency,
		}, {"Severe", "Expected", "Likely", bundle.Emergency}, {"Severe", "Future", "Likely", bundle.Warning},
		{
			"Moderate", "Immediate", "Observed", bundle.Warning,
		}, {"Extreme", "Immediate", "Unlikely", bundle.Information}, {"Severe", "Past", "Observed", bundle.Information},
		{"Minor", "Immediate", "Observed", bundle.Information}, {"Unknown", "Unknown", "Unknown", bundle.Information},
	} {
		assert.Equal(t, c.want, bundle.Feed{}.Level(c.severity, c.urgency, c.certainty), "%+v", c)
	}
	own := bundle.Feed{Levels: []bundle.LevelRule{
		{Severity: []string{"Minor"}, Level: bundle.Warning}, {Level: bundle.Emergency},
	}}
	assert.Equal(t, bundle.Warning, own.Level("Minor", "Past", "Unlikely"))
	assert.Equal(t, bundle.Emergency, own.Level("Unknown", "Past", "Unlikely"))
	assert.Equal(
		t, bundle.Information, bundle.Feed{Levels: []bundle.LevelRule{}}.Level("Extreme", "Immediate", "Observed"),
		"no rules at all",
	)
}

// What is no sound message is refused, and what is wrong with it is said.
func TestRefusedMessages(t *testing.T) {
	storm := string(file(t, "storm.xml"))
	with := func(from, to string) string {
		require.Contains(t, storm, from)
		return strings.Replace(storm, from, to, 1)
	}
	atom := string(file(t, "feed.atom"))
	for _, c := range []struct{ name, raw, pointer, says string }{
		{"nothing", "", "", "empty"},
		{"no XML", "gale from the west", "", "not well-formed"},
		{"cut off", storm[:600], "", "not well-formed"},
		{"a stray end", with("</info>", "</inof>"), "", "not well-formed"},
		{
			"an entity bomb",
			`<!DOCTYPE alert [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;"><!ENTITY c "&b;&b;&b;&b;&b;&b;&b;` +
				`&b;">]><alert xmlns="urn:oasis:names:tc:emergency:cap:1.2"><identifier>&c;</identifier></alert>`,
			"", "document type",
		},
		{
			"a file from outside",
			`<!DOCTYPE alert SYSTEM "file:///etc/passwd"><alert xmlns="urn:oasis:names:tc:emergency:cap:1.2"/>`, "",
			"document type",
		},
		{"an entity that is not declared", with("SEVERE GALE WARNING", "&gale;"), "", "not well-formed"},
		{"too deep", strings.Repeat("<a>", 30), "", "deep"},
		{"too large", "<alert>" + strings.Repeat("a", alert.MaxFeed), "", "larger than"},
		{"an older CAP", with("cap:1.2", "cap:1.1"), "", "neither a CAP 1.2 message nor an Atom feed"},
		{"another language", `<html xmlns="http://www.w3.org/1999/xhtml"/>`, "", "neither"},
		{"no identifier (§3.2.1)", with("SWO-3204-17", ""), "/alert/identifier", "missing"},
		{"a sender with a space (§3.2.1)", with("duty@weather", "duty @weather"), "/alert/sender", "space"},
		{"a moment without zone (§3.2.1)", with("09:57:00-00:00", "09:57:00"), "/alert/sent", "no zone"},
		{"a day without zone (§3.2.2)", with("23:00:00+01:00", "23:00:00"), "/alert/info/0/expires", "no zone"},
		{"no moment at all", with("2026-12-04T09:57:00-00:00", "yesterday"), "/alert/sent", "no moment"},
		{"an unknown status (§3.2.1)", with("Actual", "Serious"), "/alert/status", "Serious"},
		{"an unknown severity (§3.2.2)", with("<severity>Severe", "<severity>Awful"), "/alert/info/0/severity", "Awful"},
		{"no category (§3.2.2)", with("<category>Met</category>", ""), "/alert/info/0/category", "missing"},
		{"an update of nothing (§3.2.1)", with("<msgType>Alert", "<msgType>Update"), "/alert/references", "names none"},
		{
			"an area without description (§3.2.4)", with("<areaDesc>Little Skarn</areaDesc>", "<altitude>3</altitude>"),
			"/alert/info/0/area/1/areaDesc", "missing",
		},
		{
			"an entry without id (RFC 4287 §4.2.6)",
			strings.Replace(atom, "<id>https://harbour.sundrey.example/news/17</id>", "", 1), "/feed/entry/0/id", "missing",
		},
		{
			"an entry without zone (RFC 4287 §3.3)", strings.Replace(atom, "09:30:00+01:00", "09:30:00", 1),
			"/feed/entry/0/updated", "2026-12-04T09:30:00",
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, err := alert.Read([]byte(c.raw))
			require.Error(t, err)
			faults, ok := err.(fault.Faults)
			require.True(t, ok, "%T", err)
			assert.Equal(t, c.pointer, faults[0].Pointer)
			assert.Contains(t, faults[0].What, c.says)
			assert.NotEmpty(t, faults[0].Remedy)
		})
	}
	// What is not for the public is read, and marked.
	m, err := alert.Read([]byte(with("Actual", "Exercise")))
	require.NoError(t, err)
	assert.Equal(t, "its status is Exercise", m[0].NotPublic)
	m, err = alert.Read([]byte(with(
		"<msgType>Alert", "<references>a,b,2026-12-04T09:57:00-00:00</references><msgType>Ack",
	)))
	require.NoError(t, err)
	assert.Equal(t, alert.Other, m[0].Kind)
}

// ferries is a site with an alert in two languages, one that is over, and bars.
func ferries(t *testing.T) *decide.Site {
	at := utc(t, "2026-12-04T09:00:00Z")
	all := &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}}
	word := func(s string) *bundle.Content {
		return &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: s}}}
	}
	b := bundle.Bundle{Format: bundle.Format, Site: site, Notices: []bundle.Notice{
		{
			ID:          "gale",
			Kind:        bundle.KindAlert,
			Title:       "Gale",
			State:       bundle.Published,
			PublishedAt: &at,
			Level:       bundle.Warning,
			Pages:       all,
			Schedule:    &schedule.Plan{Windows: []schedule.Window{{Until: "2026-12-05T12:00"}}},
			Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "<p>No boats to <b>Fennay</b> &amp; " +
				"Skarn</p>", Link: &bundle.Link{Href: "/status"}}, "de": {Message: "<p>Keine Schiffe</p>"}}},
		},
		{
			ID:          "fog",
			Kind:        bundle.KindAlert,
			State:       bundle.Published,
			PublishedAt: &at,
			Pages:       all,
			Schedule:    &schedule.Plan{Windows: []schedule.Window{{Until: "2026-12-04T09:30"}}},
			Content:     word("Fog"),
		},
		{
			ID:          "weekly",
			Kind:        bundle.KindBar,
			State:       bundle.Published,
			PublishedAt: &at,
			Pages:       all,
			Schedule: &schedule.Plan{Windows: []schedule.Window{{
				From:  "2026-12-05T22:00",
				Until: "2026-12-06T02:30",
				Rule:  "FREQ=DAILY",
			}}},
			Content: word("At night"),
		},
		{
			ID:          "float",
			Kind:        bundle.KindBar,
			State:       bundle.Published,
			PublishedAt: &at,
			Pages:       all,
			Schedule: &schedule.Plan{
				Clock:   "visitor",
				Windows: []schedule.Window{{From: "2026-12-24T00:00", Until: "2026-12-25T00:00"}},
			},
			Content: word("Eve"),
		},
		{
			ID:          "sale",
			Kind:        bundle.KindBar,
			State:       bundle.Published,
			PublishedAt: &at,
			Pages:       all,
			Content: &bundle.Content{
				Wordings:  word("Sale").Wordings,
				Countdown: &countdown.Countdown{Kind: countdown.To, At: "2026-12-18T18:00"},
			},
		},
		{ID: "draft", Kind: bundle.KindBar, Pages: all, Content: word("Not yet")},
	}}
	s, err := decide.Compile(b)
	require.NoError(t, err)
	return s
}

var outlet = alert.Outlet{Base: "https://notices.sundrey.example", Key: "sundrey", Host: "www.sundrey.example"}

// What is written is sound by the data dictionary: every element known, in the
// schema's order (§3.4), required ones there, code values of the standard (§3.2).
// A general XML library looks; the names and their order are from memory.
func TestWrittenMessages(t *testing.T) {
	s := ferries(t)
	at := utc(t, "2026-12-04T10:00:00Z")
	live := alert.Live(s, at)
	require.Len(t, live, 1)
	personal := live[0]
	told := bundle.Wording{Message: "<p>Stay, {person.name|all}</p>"}
	personal.Content = &bundle.Content{Wordings: map[string]bundle.Wording{"en": told}}
	assert.Equal(t, "Stay, all", outlet.Message(s, personal, at).Infos[0].Headline, "what is told of nobody in particular")
	m := outlet.Message(s, live[0], at)
	raw, err := m.Write()
	require.NoError(t, err)
	doc := etree.NewDocument()
	require.NoError(t, doc.ReadFromBytes(raw))
	root := doc.Root()
	assert.Equal(t, cap.Namespace, root.NamespaceURI())
	dictionary := map[string][]string{ // ! required, * may repeat
		"alert": strings.Fields("identifier! sender! sent! status! msgType! source scope! restriction addresses code* note " +
			"references incidents info*"),
		"info": strings.Fields("language category!* event! responseType* urgency! severity! certainty! audience " +
			"eventCode* effective onset expires senderName headline description instruction web contact parameter* resource* " +
			"area*"),
		"area": strings.Fields("areaDesc! polygon* circle* geocode* altitude ceiling"),
	}
	var check func(e *etree.Element)
	check = func(e *etree.Element) {
		last := -1
		have := map[string]int{}
		order := dictionary[e.Tag]
		for _, child := range e.ChildElements() {
			at := slices.IndexFunc(order, func(o string) bool { return strings.TrimRight(o, "!*") == child.Tag })
			require.GreaterOrEqual(t, at, max(last, 0), "%s in %s", child.Tag, e.Tag)
			last = at
			have[child.Tag]++
			if codes, coded := cap.Codes[child.Tag]; coded {
				assert.Contains(t, codes, child.Text())
			}
			if slices.Contains([]string{"sent", "effective", "onset", "expires"}, child.Tag) {
				assert.Regexp(t, `^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d[-+]\d\d:\d\d$`, child.Text())
			}
			if dictionary[child.Tag] != nil {
				check(child)
			}
		}
		for _, o := range order {
			name := strings.TrimRight(o, "!*")
			if strings.Contains(o, "!") {
				assert.NotZero(t, have[name], "%s in %s", name, e.Tag)
			}
			if !strings.Contains(o, "*") {
				assert.LessOrEqual(t, have[name], 1, "%s in %s", name, e.Tag)
			}
		}
	}
	check(root)
	assert.Equal(t, "2026-12-05T11:00:00-00:00", doc.FindElement("//expires").Text())
	assert.Equal(t, "https://www.sundrey.example/status", doc.FindElement("//web").Text())

	// It reads back as what it was.
	back, err := alert.Read(raw)
	require.NoError(t, err)
	n, err := alert.Notice(back[0], bundle.Feed{
		Name:   "own",
		Levels: []bundle.LevelRule{{Severity: []string{"Severe"}, Level: bundle.Warning}},
	}, site, "back")
	require.NoError(t, err)
	assert.Equal(t, bundle.Warning, n.Level)
	assert.Contains(t, n.Wordings()["en"].Message, "No boats to Fennay &amp; Skarn")
	assert.Contains(t, n.Wordings()["de"].Message, "Keine Schiffe")
	assert.Equal(t, "2026-12-05T12:00", n.Schedule.Windows[0].Until)

	// As it stays, so does its id; changed, it is another message.
	assert.Equal(t, m.Identifier, outlet.Message(s, live[0], at.Add(time.Hour)).Identifier)
}

// The Atom feed is read by a general library, and has RFC 4287's required parts.
func TestWrittenFeed(t *testing.T) {
	s := ferries(t)
	raw, err := outlet.Feed(s, utc(t, "2026-12-04T10:00:00Z"))
	require.NoError(t, err)
	f, err := gofeed.NewParser().Parse(bytes.NewReader(raw))
	require.NoError(t, err)
	assert.Equal(t, "Sundrey Isles Ferries: alerts", f.Title)
	require.Len(t, f.Items, 1)
	assert.Equal(t, "https://notices.sundrey.example/f/sundrey/alerts/gale", f.Items[0].GUID)
	assert.Equal(t, "https://notices.sundrey.example/f/sundrey/alerts/gale.xml", f.Items[0].Link)
	assert.Equal(t, utc(t, "2026-12-04T09:00:00Z"), *f.Items[0].UpdatedParsed)
	empty, err := outlet.Feed(s, utc(t, "2027-12-04T10:00:00Z"))
	require.NoError(t, err)
	again, err := outlet.Feed(s, utc(t, "2027-12-04T11:00:00Z"))
	require.NoError(t, err)
	assert.Equal(
		t, string(empty), string(again), "what does not change is the same, so that a conditional request saves it",
	)
	all, err := alert.Read(raw)
	require.NoError(t, err)
	assert.Equal(t, "https://notices.sundrey.example/f/sundrey/alerts/gale.xml", all[0].Whole, "our own reader follows it")
}

// Another library reads the calendar, and its events are the timeline's
// intervals, over a change of the clock too.
func TestCalendar(t *testing.T) {
	s := ferries(t)
	at := utc(t, "2027-03-04T10:00:00Z")
	cal, err := ical.NewDecoder(bytes.NewReader(outlet.Calendar(s, at))).Decode()
	require.NoError(t, err)
	got := map[string][]schedule.Interval{}
	uids := map[string]bool{}
	for _, e := range cal.Events() {
		from, err := e.DateTimeStart(time.UTC)
		require.NoError(t, err)
		until, err := e.DateTimeEnd(time.UTC)
		require.NoError(t, err)
		uid := e.Props.Get(ical.PropUID).Value
		assert.False(t, uids[uid], "%s stands there twice", uid)
		uids[uid] = true
		id := strings.Split(strings.TrimPrefix(uid, "ends-"), "-")[0]
		if strings.HasPrefix(uid, "ends-") {
			id = "ends " + id
		}
		got[id] = append(got[id], schedule.Interval{From: from.UTC(), Until: until.UTC()})
	}
	from, until := alert.Horizon(at)
	for _, n := range s.Bundle().Notices {
		var want []schedule.Interval
		if n.State == bundle.Published {
			for _, i := range s.Schedule(n.ID).Range(from, until) {
				want = append(want, schedule.Interval{From: i.From.UTC(), Until: i.Until.UTC()})
			}
		}
		assert.Equal(t, want, got[n.ID], n.ID)
	}
	assert.Greater(t, len(got["weekly"]), 380)
	ended := s.Countdown("sale").Moments(utc(t, "2026-01-01T00:00:00Z"), until, time.UTC)
	assert.Equal(t, utc(t, "2026-12-18T17:00:00Z"), ended[0].UTC())
	// An event's name does not move with the month it is read in.
	next, err := ical.NewDecoder(bytes.NewReader(outlet.Calendar(s, at.AddDate(0, 1, 0)))).Decode()
	require.NoError(t, err)
	same := 0
	for _, e := range next.Events() {
		if uids[e.Props.Get(ical.PropUID).Value] {
			same++
		}
	}
	assert.Greater(t, same, 340)
}

func FuzzRead(f *testing.F) {
	for _, name := range []string{"storm.xml", "quake-update.xml", "two-languages.xml", "feed.atom"} {
		raw, err := os.ReadFile("testdata/" + name)
		require.NoError(f, err)
		f.Add(raw)
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		all, err := alert.Read(raw)
		for _, m := range all {
			if n, wrong := alert.Notice(m, bundle.Feed{Name: "f"}, site, "n"); err == nil && wrong == nil {
				require.Empty(t, n.Check(site), "what is read can be kept")
			}
		}
	})
}
