package documents

import (
	"time"

	"mastflag/core/document"
)

// DocumentList is a site's documents, and the kinds that one can be begun as.
type DocumentList struct {
	Documents []DocumentCard `json:"documents"`
	Kinds     []KindChoice   `json:"kinds"`
}

// A DocumentCard is a document in short.
type DocumentCard struct {
	ID       string        `json:"id"`
	Kind     document.Kind `json:"kind"`
	KindName string        `json:"kindName"`
	Title    string        `json:"title"`
	// 0 where none is out.
	Version int        `json:"version"`
	Since   *time.Time `json:"since,omitempty"`
	// What is out no longer says what the document would.
	Behind bool `json:"behind"`
	// How many items it has to say, and how many of them are open.
	Items  int `json:"items"`
	Open   int `json:"open"`
	UsedBy int `json:"usedBy"`
}

// A KindChoice is a kind of document with its name.
type KindChoice struct {
	Kind document.Kind `json:"kind"`
	Name string        `json:"name"`
}

// NewDocument is what a document is begun with.
type NewDocument struct {
	Kind document.Kind `json:"kind"`
	// In the site's language; the kind's name if empty.
	Title string `json:"title"`
}

// A DocumentAsk names the language to see a document in; the site's if empty.
type DocumentAsk struct {
	Language string `json:"language,omitempty" form:"language"`
}

// A DocumentUse is something that leads to a document, shows it or is about it: a
// notice, or another document.
type DocumentUse struct {
	Notice string `json:"notice"`
	Title  string `json:"title"`
	Kind   string `json:"kind"`
	// Id of a document, where it is one.
	Document string `json:"document,omitempty"`
}

// A QuestionCard is a question with its answer, "" if there is none yet.
type QuestionCard struct {
	document.Question
	Answer string `json:"answer"`
	// Title of the document that it was answered in, where it is shared.
	From string `json:"from,omitempty"`
}

// A DocumentLanguage is how far a document is in a language.
type DocumentLanguage struct {
	Tag string `json:"tag"`
	// Computed sections have words in it.
	Ready bool `json:"ready"`
	// It has all its words, and would be published.
	Complete bool `json:"complete"`
	// It is in the version that is out.
	Out bool `json:"out"`
	// Sections without words, and the title where it has none; and sections to be read again.
	Missing int `json:"missing"`
	Again   int `json:"again"`
}

// A VersionCard is a version in short.
type VersionCard struct {
	Number   int             `json:"number"`
	Change   document.Change `json:"change"`
	Proposed document.Change `json:"proposed"`
	Why      string          `json:"why"`
	At       time.Time       `json:"at"`
	By       string          `json:"by"`
	// Where it can be read.
	Address string `json:"address"`
}

// DocumentDetail is a document in its room, in one language.
type DocumentDetail struct {
	ID       string        `json:"id"`
	Kind     document.Kind `json:"kind"`
	KindName string        `json:"kindName"`
	// Of the document as it was opened: a change says it again.
	Mark string `json:"mark"`
	// What it is called in this language.
	Title   string                       `json:"title"`
	Titles  map[string]string            `json:"titles,omitempty"`
	Answers map[string]string            `json:"answers,omitempty"`
	Own     map[string]map[string]string `json:"own,omitempty"`

	Language  string             `json:"language"`
	Ready     bool               `json:"ready"`
	Languages []DocumentLanguage `json:"languages"`

	Questions []QuestionCard     `json:"questions"`
	Sections  []document.Section `json:"sections"`
	Points    []document.Point   `json:"points"`

	Version  int        `json:"version"`
	Material int        `json:"material"`
	Since    *time.Time `json:"since,omitempty"`
	// Languages in which what is out no longer says what it would.
	Behind   []string          `json:"behind"`
	Proposal document.Proposal `json:"proposal"`
	// What changed since the version that is out, as words in and out.
	Changed  []document.Piece `json:"changed"`
	Versions []VersionCard    `json:"versions"`

	Uses []DocumentUse `json:"uses"`
	// Notices that could lead to it and lead nowhere yet.
	Offers []DocumentUse `json:"offers"`
	// Where the version that is out is read.
	Address  string             `json:"address"`
	Evidence *document.Evidence `json:"evidence,omitempty"`
}

// DocumentChange is a document as its person left it.
type DocumentChange struct {
	Mark    string                       `json:"mark"`
	Titles  map[string]string            `json:"titles"`
	Answers map[string]string            `json:"answers"`
	Own     map[string]map[string]string `json:"own"`
	// Sections written by hand that were read again, and stay as they are.
	Read []document.SectionRef `json:"read"`
	// To see it in afterwards.
	Language string `json:"language"`
}

// DocumentPublish publishes the next version.
type DocumentPublish struct {
	Mark     string          `json:"mark"`
	Change   document.Change `json:"change"`
	Why      string          `json:"why"`
	Language string          `json:"language"`
}

// A DocumentLink names a notice that is to lead to a document.
type DocumentLink struct {
	Notice string `json:"notice"`
}

// A DocumentFileAsk names a form and a language to take a document away in.
type DocumentFileAsk struct {
	As       string `json:"as" form:"as" jsonschema:"enum=html,enum=markdown,enum=text"`
	Language string `json:"language,omitempty" form:"language"`
}

// A DocumentFile is a document to take away.
type DocumentFile struct {
	Name string `json:"name"`
	Text string `json:"text"`
}
