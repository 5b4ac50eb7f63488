package library

import (
	"time"

	"mastflag/core/bundle"
	"mastflag/core/icon"
	"mastflag/core/starting"
	"mastflag/internal/survey"
)

// An IconAsk looks for icons.
type IconAsk struct {
	Find string `json:"find,omitempty" form:"find"`
}

// IconList is icons found.
type IconList struct {
	Icons []icon.Icon `json:"icons"`
}

// Styles are colours and fonts found in a site's styles, the commonest first.
type Styles struct {
	Colours []survey.Found `json:"colours"`
	Fonts   []string       `json:"fonts"`
}

// StartingList is what a notice can be begun with.
type StartingList struct {
	Points []StartingChoice `json:"points"`
	// The purposes that they are for, in the order in which people read.
	Purposes []starting.PurposeRow `json:"purposes"`
}

// A StartingChoice is a starting point as people choose it.
type StartingChoice struct {
	Kind bundle.Kind `json:"kind"`
	Key  string      `json:"key"`
	Name string      `json:"name"`
	For  string      `json:"for"`
	Own  bool        `json:"own"`
	// Of a site's own: the other sites of the installation have it too.
	Shared bool `json:"shared,omitempty"`
	// Name of the site that shares it; absent of this one's own and of those that ship.
	From string `json:"from,omitempty"`
	// What it is for, absent of a site's own; and whether the time of the year suggests it.
	Purpose  starting.Purpose `json:"purpose,omitempty"`
	InSeason bool             `json:"inSeason,omitempty"`
	// What a visitor sees of it, in the site's language: HTML and CSS of a bar.
	HTML string `json:"html"`
	CSS  string `json:"css"`
	// As a sentence.
	Line string `json:"line"`
}

// ImageList is a site's images, the newest first.
type ImageList struct {
	Images []ImageDetail `json:"images"`
}

// An ImageDetail is an image of a site.
type ImageDetail struct {
	bundle.Image
	Name    string    `json:"name"`
	Size    int       `json:"size"` // bytes
	Address string    `json:"address"`
	AddedAt time.Time `json:"addedAt"`
	AddedBy string    `json:"addedBy"`
	// Titles of the notices that show it.
	UsedBy []string `json:"usedBy"`
}

// A NewImage is a file to keep: jpeg, png, webp or gif up to 1 MB.
type NewImage struct {
	Name string `json:"name"`
	Data []byte `json:"data"` // in base64
}

func (NewImage) CarriesFile() {}

// An ImageName names an image.
type ImageName struct {
	File string `json:"file"`
}

// A ThemeList is the themes of a site.
type ThemeList struct {
	Themes []ThemeCard `json:"themes"`
	// Made of the site's own colours, those that the site has already left out.
	Proposed []ThemeCard `json:"proposed"`
}

// A ThemeCard is a theme with the colours that it comes to.
type ThemeCard struct {
	bundle.Theme
	Background string `json:"background"`
	Text       string `json:"text"`
	// Of its buttons; "" where they are outlined.
	Button     string `json:"button"`
	ButtonText string `json:"buttonText"`
	// Titles of the notices that have it.
	UsedBy []string `json:"usedBy"`
}
