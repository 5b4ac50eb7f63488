package bundle

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"mastflag/core/cap"
	"mastflag/core/fault"
	"mastflag/core/pages"
	"mastflag/core/schedule"
)

// A Feed brings alerts from elsewhere: a CAP 1.2 message or an Atom feed at an
// address, or what people paste.
type Feed struct {
	// Short name: lower-case letters, digits and hyphens.
	Name string `json:"name" jsonschema:"pattern=^[a-z0-9]+(-[a-z0-9]+)*$,maxLength=64"`
	// What people call it.
	Title string `json:"title,omitempty" jsonschema:"maxLength=200"`
	// Where it is read, http or https; "" if its messages are only pasted.
	Address string `json:"address,omitempty" jsonschema:"maxLength=2048"`
	// How often it is asked, PT5M if absent; PT30S at least.
	Every Period `json:"every,omitempty" jsonschema:"maxLength=40"`
	// It is not asked for now.
	Off bool `json:"off,omitempty"`
	// Whom a person has to let through: each message, only new ones (the default; updates and cancels of what was approved
	// follow by themselves), or none.
	Approve string `json:"approve,omitempty" jsonschema:"enum=each,enum=new,enum=none"`
	// Which level a message gets, the first that fits; Levels of this package if absent, and information where none fits.
	Levels []LevelRule `json:"levels,omitempty" jsonschema:"maxItems=50"`
	// Which pages stand for an area, by its description or a code as name=value.
	Areas []AreaTag `json:"areas,omitempty" jsonschema:"maxItems=500"`
	// The pages for a message of which no area is listed; every page if absent.
	Pages *pages.Conditions `json:"pages,omitempty"`
	// How long a message without an end holds, P1D if absent.
	Lasts Period `json:"lasts,omitempty" jsonschema:"maxLength=40"`
}

// A LevelRule gives a level to messages of some severity, urgency and
// certainty (CAP 1.2 §3.2.2). An empty list takes any value.
type LevelRule struct {
	Severity  []string `json:"severity,omitempty" jsonschema:"maxItems=5"`
	Urgency   []string `json:"urgency,omitempty" jsonschema:"maxItems=5"`
	Certainty []string `json:"certainty,omitempty" jsonschema:"maxItems=5"`
	Level     Level    `json:"level"`
}

// An AreaTag says that an area's messages show on the pages with a tag.
type AreaTag struct {
	Area string `json:"area" jsonschema:"minLength=1,maxLength=200"`
	Tag  string `json:"tag" jsonschema:"minLength=1,maxLength=60"`
}

// DefaultLevels is how levels are given where a feed has no rules of its own;
// ours, not the standard's.
var DefaultLevels = []LevelRule{
	{
		Severity:  []string{"Extreme", "Severe"},
		Urgency:   []string{"Immediate", "Expected"},
		Certainty: []string{"Observed", "Likely"},
		Level:     Emergency,
	},
	{
		Severity:  []string{"Extreme", "Severe", "Moderate"},
		Urgency:   []string{"Immediate", "Expected", "Future"},
		Certainty: []string{"Observed", "Likely", "Possible"},
		Level:     Warning,
	},
}

// A Source is the message that a notice was made from.
type Source struct {
	Feed   string    `json:"feed" jsonschema:"maxLength=64"`
	Sender string    `json:"sender" jsonschema:"maxLength=300"`
	ID     string    `json:"id" jsonschema:"maxLength=500"`
	Sent   time.Time `json:"sent"`
	// As the message had them (CAP 1.2), for what is written of it.
	Event     string `json:"event,omitempty" jsonschema:"maxLength=300"`
	Category  string `json:"category,omitempty" jsonschema:"maxLength=20"`
	Severity  string `json:"severity,omitempty" jsonschema:"maxLength=20"`
	Urgency   string `json:"urgency,omitempty" jsonschema:"maxLength=20"`
	Certainty string `json:"certainty,omitempty" jsonschema:"maxLength=20"`
}

// The accessors below give an absent field its meaning.

func (f Feed) GetTitle() string   { return or(f.Title, f.Name) }
func (f Feed) GetApprove() string { return or(f.Approve, "new") }
func (f Feed) GetEvery() time.Duration {
	return f.Every.length(5 * time.Minute)
}

// length returns how long a period of a fixed length is, absent for any other.
func (p Period) length(absent time.Duration) time.Duration {
	if s, err := schedule.ParseSpan(string(p)); err == nil {
		if d, ok := s.Length(); ok {
			return d
		}
	}
	return absent
}

// RefreshEvery returns how often an open page of the site asks again, whatever
// changes by its time; 0 for never.
func (b Bundle) RefreshEvery() time.Duration {
	alert := func(n Notice) bool { return n.Kind == KindAlert && n.GetState() == Published }
	var absent time.Duration
	if len(b.Site.Feeds) > 0 || slices.ContainsFunc(b.Notices, alert) {
		absent = time.Minute
	}
	return b.Site.Refresh.length(absent)
}

// checkEvery refuses what is no fixed time between two askings of at least least.
func checkEvery(at string, p Period, least time.Duration, remedy string) fault.Faults {
	if p != "" && p.length(0) < least {
		return fault.Faults{{
			Pointer: at,
			What:    fmt.Sprintf("%q is no time between two askings of %s or more", p, least),
			Remedy:  remedy,
		}}
	}
	return nil
}

// Level returns the level of a message of the feed.
func (f Feed) Level(severity, urgency, certainty string) Level {
	rules := f.Levels
	if rules == nil {
		rules = DefaultLevels
	}
	fits := func(list []string, v string) bool { return len(list) == 0 || slices.Contains(list, v) }
	for _, r := range rules {
		if fits(r.Severity, severity) && fits(r.Urgency, urgency) && fits(r.Certainty, certainty) {
			return r.Level
		}
	}
	return Information
}

// LeastEvery is how often a feed is asked at most.
const LeastEvery = 30 * time.Second

func (f Feed) check(t terms) fault.Faults {
	var faults fault.Faults
	wrong := func(at, what, remedy string) {
		faults = append(faults, fault.Fault{Pointer: at, What: what, Remedy: remedy})
	}
	if u, err := url.Parse(f.Address); f.Address != "" &&
		(err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" || u.User != nil) {
		wrong(
			"/address", fmt.Sprintf("%q is no address to read", f.Address),
			"give an http or https address without a name or password in it",
		)
	}
	faults = append(faults, checkEvery("/every", f.Every, LeastEvery, "write it like PT5M")...)
	if _, err := schedule.ParseSpan(string(f.Lasts)); f.Lasts != "" && err != nil {
		wrong("/lasts", err.Error(), "write it like PT6H or P1D")
	}
	for i, r := range f.Levels {
		for name, list := range map[string][]string{"severity": r.Severity, "urgency": r.Urgency, "certainty": r.Certainty} {
			for j, v := range list {
				if !slices.Contains(cap.Codes[name], v) {
					wrong(
						fault.Pointer("levels", i, name, j), fmt.Sprintf("%q is no value of %s", v, name),
						"use one of "+strings.Join(cap.Codes[name], ", "),
					)
				}
			}
		}
	}
	if f.Pages != nil {
		_, pf := pages.Compile(*f.Pages, t.pages)
		faults = append(faults, pf.Under("/pages")...)
	}
	return faults
}
