package sites

import (
	"time"

	"mastflag/core/bundle"
	"mastflag/core/csp"
	"mastflag/internal/store"
)

// A NewSite is what is needed to begin with a site.
type NewSite struct {
	Name     string `json:"name"`
	Address  string `json:"address"`
	TimeZone string `json:"timeZone"`
	Language string `json:"language"`
}

// SiteDetail is a site as the Site room shows it.
type SiteDetail struct {
	Site     bundle.Site `json:"site"`
	Revision int         `json:"revision"`
	// What to paste into every page of the site.
	Snippet string `json:"snippet"`
	// What a Content-Security-Policy's script-src must list for its first line.
	ScriptSource string `json:"scriptSource"`
	// When all pages were read last, and how far a reading is.
	SurveyedAt *time.Time `json:"surveyedAt,omitempty"`
	SurveyState
	Pages []SitePage `json:"pages"`
	Saved []Saved    `json:"saved"`
	// The registrable domains of its addresses.
	Domains []string `json:"domains"`
	// Languages that known pages are in and the site is not, the commonest first.
	OtherLanguages []PageLanguage `json:"otherLanguages"`
	// Sections with pages that do not say their language, those with most of them first.
	Silent []SilentSection `json:"silent"`
	// Of the policies that pages had when they were last read, those under which the lines do not work as they are.
	Policies []PolicyAdvice `json:"policies"`
}

// A PageLanguage is a language that known pages are in.
type PageLanguage struct {
	Language string `json:"language"`
	Pages    int    `json:"pages"`
}

// A SilentSection has pages that do not say their language.
type SilentSection struct {
	// "/" for the pages of no section.
	Path  string `json:"path"`
	Pages int    `json:"pages"`
}

// Saved is something that a site keeps for use in many notices.
type Saved struct {
	Kind string `json:"kind" jsonschema:"enum=audience,enum=page set,enum=wording,enum=rules"`
	Name string `json:"name"`
	// What it says, in words.
	Words string `json:"words"`
	// Titles of the notices that use it.
	UsedBy []string `json:"usedBy"`
}

// A SitePage is a known page of the site.
type SitePage struct {
	Path     string   `json:"path"`
	Title    string   `json:"title"`
	Language string   `json:"language"`
	Type     string   `json:"type"`
	Tags     []string `json:"tags"`
	// found, missing, why it could not be read, or "" where it was not looked at.
	Snippet string `json:"snippet"`
}

// SiteChange is a site as its person left it.
type SiteChange struct {
	Revision int         `json:"revision"`
	Site     bundle.Site `json:"site"`
}

// A ContrastAsk asks for a Contrast.
type ContrastAsk struct {
	Background string `json:"background" form:"background"`
	Text       string `json:"text" form:"text"`
}

// A DisplaySwitch sets the master switch.
type DisplaySwitch struct {
	Revision int  `json:"revision"`
	On       bool `json:"on"`
}

// A SurveyAsk has a site's pages read.
type SurveyAsk struct {
	// It is known that there are far fewer than before.
	Fewer bool `json:"fewer,omitempty"`
	// The reading that was stopped is resumed, if there is one.
	Resume bool `json:"resume,omitempty"`
}

// SurveyState is how far the reading of a site's pages is, or what became of the last.
type SurveyState struct {
	Survey *store.Survey `json:"survey,omitempty"`
}

// PolicyAdvice is what to do so that the lines work under a Content-Security-Policy that pages have.
type PolicyAdvice struct {
	// How many pages have it, and the path of one.
	Pages int    `json:"pages"`
	Page  string `json:"page"`
	csp.Advice
}
