package languages

import "mastflag/core/phrase"

// An XLIFFAsk names the language to translate into, and perhaps one notice.
type XLIFFAsk struct {
	Language string `json:"language" form:"language"`
	Notice   string `json:"notice,omitempty" form:"notice"`
	// Id of a document, for its texts alone.
	Document string `json:"document,omitempty" form:"document"`
}

// An XLIFFFile is a document for a translator.
type XLIFFFile struct {
	Name string `json:"name"`
	Text string `json:"text"`
}

func (XLIFFFile) CarriesFile() {}

// Translated is what came of a translator's document.
type Translated struct {
	Language string `json:"language"`
	// Titles of the notices whose drafts have the new texts now.
	Changed []string `json:"changed"`
	// What could not be taken in, and why.
	Left []string `json:"left"`
}

// A TranslateAsk asks for a machine's draft in a language.
type TranslateAsk struct {
	Revision int    `json:"revision"`
	Language string `json:"language"`
}

// A PhraseAsk names a language.
type PhraseAsk struct {
	Language string `json:"language" form:"language"`
}

// A PhraseList is what the program says to visitors in a language.
type PhraseList struct {
	Language string       `json:"language"`
	State    phrase.State `json:"state"`
	Rows     []PhraseRow  `json:"rows"`
}

// A PhraseRow is one phrase.
type PhraseRow struct {
	Key phrase.Key `json:"key"`
	Use phrase.Use `json:"use"`
	// What it is, for those who change it.
	Means string `json:"means"`
	// How many characters own words may have.
	Limit   int    `json:"limit"`
	English string `json:"english"`
	// The program's words in the language, ready or as a draft; "" where it has none.
	Text string `json:"text"`
}
