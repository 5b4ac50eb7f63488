package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/closed"
)

// States of a survey.
const (
	SurveyReading = "reading" // it goes on, or the program ended meanwhile
	SurveyStopped = "stopped" // by someone, or because the site no longer answers; it can be resumed
	SurveyFewer   = "fewer"   // it found far fewer pages than were known, and waits for someone to say that it is so
	SurveyDone    = "done"
	SurveyFailed  = "failed" // nothing could be read
)

// A Survey is a reading of a site's pages.
type Survey struct {
	State string    `json:"state" jsonschema:"enum=reading,enum=stopped,enum=fewer,enum=done,enum=failed"`
	Began time.Time `json:"began"`
	// When it was done, stopped or failed.
	Ended time.Time `json:"ended,omitzero"`
	// Why it stopped or failed; "" where someone stopped it.
	Why string `json:"why,omitempty"`
	// How many pages there are, how many of them were read, and how many of those
	// answered otherwise than with a page.
	Listed  int       `json:"listed"`
	Read    int       `json:"read"`
	Failing int       `json:"failing"`
	LeftOut []LeftOut `json:"leftOut,omitempty"`
	// What differs from the reading before; of the first there is none.
	New     Sample `json:"new,omitzero"`
	Gone    Sample `json:"gone,omitzero"`
	Changed Sample `json:"changed,omitzero"`
	// The Content-Security-Policies that pages have, those of most pages first; ten are told apart.
	Policies []SeenPolicy `json:"policies,omitempty"`
	// Three of the paths behind a # that pages link to, if any do (rule P4).
	Routes []string `json:"routes,omitempty"`
}

// A SeenPolicy is a Content-Security-Policy, how many pages have it, and the path of one.
type SeenPolicy struct {
	Policy string `json:"policy"`
	Pages  int    `json:"pages"`
	Page   string `json:"page"`
}

// A LeftCode is why something was left out of a survey.
type LeftCode string

const (
	LeftElsewhere LeftCode = "elsewhere" // it is another site's
	LeftRobots    LeftCode = "robots"    // robots.txt asks programs not to read it
	LeftMany      LeftCode = "many"      // there are more pages than are read
	LeftMaps      LeftCode = "maps"      // there are more sitemaps than are read
	LeftMap       LeftCode = "map"       // a sitemap, or what follows in it, cannot be read
	LeftBroken    LeftCode = "broken"    // it is no address
	LeftKind      LeftCode = "kind"      // it is no page of HTML
	LeftLeads     LeftCode = "leads"     // it leads to another page of the site
	LeftSame      LeftCode = "same"      // it is another address of a page of the site
	LeftLinks     LeftCode = "links"     // there are more pages than links are followed to
)

// Values lists them.
func (LeftCode) Values() []string {
	return closed.Strings(
		LeftElsewhere, LeftRobots, LeftMany, LeftMaps, LeftMap, LeftBroken, LeftKind, LeftLeads, LeftSame, LeftLinks,
	)
}

// LeftOut is what was left out for one reason.
type LeftOut struct {
	Code LeftCode `json:"code"`
	Sample
}

// A Sample is how many things there are, and the first of them by name.
type Sample struct {
	Count int       `json:"count"`
	First []Example `json:"first,omitempty"`
}

// An Example names one of many: a path or an address, and what is to be said of it.
type Example struct {
	What string `json:"what"`
	Why  string `json:"why,omitempty"`
}

// How many are named, and with how many bytes at most: what names them comes from outside.
const (
	maxExamples     = 100
	maxNamedLeftOut = 300
)

// Add counts another.
func (s *Sample) Add(what, why string) {
	if s.Count++; len(s.First) < maxExamples {
		s.First = append(s.First, Example{shortened(what), shortened(why)})
	}
}

func shortened(s string) string {
	if len(s) <= maxNamedLeftOut {
		return s
	}
	return strings.ToValidUTF8(s[:maxNamedLeftOut], "") + "…"
}

// A Listed page is named by a sitemap.
type Listed struct {
	Path string `json:"path"`
	// Path and query as the site itself writes them.
	Address string `json:"address"`
	// As alternates in the sitemap say, or "".
	Language string `json:"language,omitempty"`
	// robots.txt asks not to read it.
	Unread bool `json:"unread,omitempty"`
}

// A Reading is what came of reading a page.
type Reading struct {
	Page Page
	// The media type of what is no page of HTML, such as application/pdf; "" for a page.
	Kind string
	// The path of the page that it leads to; "" where it stands there itself.
	Moved string
	// Whether that page is the same one, by another address; not kept.
	Same bool
	// Tells what it answered with from other answers.
	Sum string
	// The path of the page that it names as its canonical one (RFC 6596); "" if that is itself, or none of the site.
	Canonical string
	// The Content-Security-Policies that it has, in the form in which they are compared; counted, and not kept.
	Policies []string
	// Paths behind a # that it links to, in normal form; not kept.
	Routes []string
}

// kept is a Reading as it lies in the table.
type kept struct {
	bundle.Page
	Snippet string                   `json:"snippet"`
	Lost    []string                 `json:"lost,omitempty"`
	Spots   map[string]bundle.Extent `json:"spots,omitempty"`
	Kind    string                   `json:"kind,omitempty"`
	Moved   string                   `json:"moved,omitempty"`
	Sum     string                   `json:"sum,omitempty"`

	Canonical string `json:"canonical,omitempty"`
}

// Survey returns the last survey of a site; ErrNotFound if there was none.
func (s *Store) Survey(ctx context.Context, site string) (Survey, error) {
	return one(query(ctx, s.on(), func(row *sql.Rows) (v Survey, err error) {
		var doc string
		if err := row.Scan(&doc); err != nil {
			return v, err
		}
		return v, json.Unmarshal([]byte(doc), &v)
	}, "SELECT doc FROM survey WHERE site = ?", site))
}

// PutSurvey keeps how far a survey is.
func (s *Store) PutSurvey(ctx context.Context, site string, v Survey) error {
	_, err := s.exec(
		ctx, "INSERT INTO survey(site, doc) VALUES(?, ?) ON CONFLICT DO UPDATE SET doc = excluded.doc", site, encode(v),
	)
	return err
}

// BeginSurvey keeps what a survey is about, in place of what the one before was.
func (s *Store) BeginSurvey(ctx context.Context, site string, v Survey, list []Listed) error {
	return s.Together(ctx, func(s *Store) error {
		if err := s.PutSurvey(ctx, site, v); err != nil {
			return err
		}
		if err := s.EndSurvey(ctx, site); err != nil {
			return err
		}
		_, err := s.exec(ctx, "UPDATE survey SET listed = ? WHERE site = ?", encode(list), site)
		return err
	})
}

// EndSurvey drops what a survey was about; that there was one stays.
func (s *Store) EndSurvey(ctx context.Context, site string) error {
	return s.Together(ctx, func(s *Store) error {
		if _, err := s.exec(ctx, "UPDATE survey SET listed = '[]' WHERE site = ?", site); err != nil {
			return err
		}
		_, err := s.exec(ctx, "DELETE FROM survey_part WHERE site = ?", site)
		return err
	})
}

// KeepReadings keeps what came of reading pages, and how far the survey is.
func (s *Store) KeepReadings(ctx context.Context, site string, v Survey, list []Reading) error {
	part := make([]kept, len(list))
	for i, r := range list {
		part[i] = kept{r.Page.Page, r.Page.Snippet, r.Page.Lost, r.Page.Spots, r.Kind, r.Moved, r.Sum, r.Canonical}
	}
	return s.Together(ctx, func(s *Store) error {
		if _, err := s.exec(ctx, "INSERT INTO survey_part(site, doc) VALUES(?, ?)", site, encode(part)); err != nil {
			return err
		}
		return s.PutSurvey(ctx, site, v)
	})
}

// Listed returns the pages that a survey is about, by path.
func (s *Store) Listed(ctx context.Context, site string) ([]Listed, error) {
	return one(query(ctx, s.on(), func(row *sql.Rows) (list []Listed, err error) {
		var listed string
		if err := row.Scan(&listed); err != nil {
			return nil, err
		}
		return list, json.Unmarshal([]byte(listed), &list)
	}, "SELECT listed FROM survey WHERE site = ?", site))
}

// Readings returns what a survey has read.
func (s *Store) Readings(ctx context.Context, site string) ([]Reading, error) {
	parts, err := query(ctx, s.on(), func(row *sql.Rows) (part []kept, err error) {
		var doc string
		if err := row.Scan(&doc); err != nil {
			return nil, err
		}
		return part, json.Unmarshal([]byte(doc), &part)
	}, "SELECT doc FROM survey_part WHERE site = ? ORDER BY id", site)
	var list []Reading
	for _, part := range parts {
		for _, k := range part {
			k.Page.Lost, k.Page.Spots = k.Lost, k.Spots
			list = append(list, Reading{
				Page: Page{k.Page, k.Snippet}, Kind: k.Kind, Moved: k.Moved, Sum: k.Sum, Canonical: k.Canonical,
			})
		}
	}
	return list, err
}
