package alerts

import (
	"time"

	"mastflag/core/alert"
	"mastflag/core/bundle"
)

// Alerts is what comes to a site by its feeds, and where its own go out.
type Alerts struct {
	Feeds []FeedDetail `json:"feeds"`
	// The newest first.
	Received []ReceivedCard `json:"received"`
	// How levels are given where a feed has no rules of its own.
	DefaultLevels []bundle.LevelRule `json:"defaultLevels"`
	// Where the site's live alerts are read as Atom, and from there as CAP 1.2.
	Atom string `json:"atom"`
	// Where the whole schedule is read as iCalendar; private.
	Calendar string `json:"calendar"`
	// What the stand-in weather office can be told to publish, and where it does; absent where there is none.
	Weather        []string `json:"weather,omitempty"`
	WeatherAddress string   `json:"weatherAddress,omitempty"`
}

// FeedDetail is a feed and how asking it last went.
type FeedDetail struct {
	Feed     bundle.Feed `json:"feed"`
	Asked    *time.Time  `json:"asked,omitempty"`
	Answered *time.Time  `json:"answered,omitempty"`
	// What is wrong with it, "" if nothing.
	Why string `json:"why"`
}

// ReceivedCard is a message that came by a feed.
type ReceivedCard struct {
	ID        int64        `json:"id"`
	Feed      string       `json:"feed"`
	FeedTitle string       `json:"feedTitle"`
	At        time.Time    `json:"at"`
	Kind      string       `json:"kind" jsonschema:"enum=alert,enum=update,enum=cancel,enum=other,enum=broken"`
	Status    alert.Status `json:"standing"`
	Headline  string       `json:"headline"`
	Text      string       `json:"text"`
	Sender    string       `json:"sender"`
	Level     bundle.Level `json:"level,omitempty"`
	// Severity, urgency and certainty as the message has them.
	Judged string     `json:"judged,omitempty"`
	Areas  []string   `json:"areas"`
	Until  *time.Time `json:"until,omitempty"`
	// The notice that it made or changes, "" for none.
	Notice string `json:"notice"`
	Why    string `json:"why"`
	// Its first part as it came, of what waits or cannot be read.
	Raw string `json:"raw,omitempty"`
}

// GivenAlert is a CAP 1.2 message or an Atom feed that someone pastes.
type GivenAlert struct {
	Feed string `json:"feed"`
	Text string `json:"text"`
}

func (GivenAlert) CarriesFile() {}

// WhichAlert names a message that came.
type WhichAlert struct {
	ID int64 `json:"id"`
}

// WhichFeed names a feed.
type WhichFeed struct {
	Feed string `json:"feed"`
}

// WeatherSend tells the stand-in weather office what to publish.
type WeatherSend struct {
	What string `json:"what"`
}
