package consents

import (
	"time"

	"mastflag/core/consent"
	"mastflag/core/findings"
	"mastflag/core/orderline"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/inspect"
)

// ConsentRoom is what the Consent room shows.
type ConsentRoom struct {
	// strictly necessary, those asked about in their order, those that could be
	Purposes []PurposeCard      `json:"purposes"`
	Notices  []ConsentNotice    `json:"notices"` // that ask
	Findings []findings.Finding `json:"findings"`
	// There is a browser to inspect with; otherwise pages are only read.
	Browser   bool              `json:"browser"`
	MostPages int               `json:"mostPages"` // that are visited in one inspection
	Progress  *inspect.Progress `json:"progress,omitempty"`
	Failed    string            `json:"failed,omitempty"` // why the last inspection failed
	// The last one, and what it found beside the inventory.
	Run    *consent.Run           `json:"run,omitempty"`
	Things []consent.DetectedItem `json:"things"`
	// Rows of the installation's other sites for what is found here and not listed.
	Elsewhere []KnownItem `json:"elsewhere"`
	// Places in the inventory of what it did not find.
	Unseen []int `json:"unseen"`
	// How it differs from the one before.
	Differences []consent.Difference `json:"differences"`
	Runs        []RunCard            `json:"runs"` // the latest first
	// What places want: all rows that hold, and what the shipped table says anew.
	Rows      []PlaceRow            `json:"rows"`
	Changes   []consent.TableChange `json:"changes"`
	TableDate string                `json:"tableDate"`
	Head      consent.Head          `json:"head"`
	// Whether the demo site's badly behaved vendor is on; absent for other sites.
	BadVendor *bool `json:"badVendor,omitempty"`
}

// PurposeCard is a purpose in the site's language.
type PurposeCard struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Text  string `json:"text"`
	Known bool   `json:"known"` // it brings its words along
	Asked bool   `json:"asked"` // visitors are asked about it
	// A browser's privacy signal refuses it.
	Signalled bool `json:"signalled"`
}

// ConsentNotice is a notice that asks.
type ConsentNotice struct {
	ID    string           `json:"id"`
	Title string           `json:"title"`
	Flag  viewpoint.Flag   `json:"flag"`
	Line  []orderline.Word `json:"line"`
}

// A KnownItem is a row of another site's inventory that something found here fits: that
// thing, and the row.
type KnownItem struct {
	Kind consent.ItemKind `json:"kind"`
	Name string           `json:"name"`
	Host string           `json:"host"`
	Item consent.Item     `json:"item"`
	// Name of the site that lists it.
	From string `json:"from"`
}

// RunAsk names an inspection by when it began, RFC 3339 in UTC.
type RunAsk struct {
	Began string `form:"began"`
}

// RunDetail is an inspection with all it found, and how it differs from the one before it
// and from the one after.
type RunDetail struct {
	Run    consent.Run            `json:"run"`
	Things []consent.DetectedItem `json:"things"`
	Before []consent.Difference   `json:"before"`
	After  []consent.Difference   `json:"after"`
}

// RunCard is an inspection in short.
type RunCard struct {
	Began   time.Time `json:"began"`
	How     string    `json:"how"`
	Pages   int       `json:"pages"`
	Stopped bool      `json:"stopped"`
	Things  int       `json:"things"`
	Leaks   int       `json:"leaks"`
}

// PlaceRow is a row that holds. Of an own one, what ships in its place.
type PlaceRow struct {
	consent.PlaceRule
	Own     bool               `json:"own"`
	Shipped *consent.PlaceRule `json:"shipped,omitempty"`
}

// VendorSwitch switches the demo site's badly behaved vendor.
type VendorSwitch struct {
	On bool `json:"on"`
}

// InventoryText is an inventory as CSV.
type InventoryText struct {
	Text string `json:"text"`
}

// InventoryItems is an inventory that was read.
type InventoryItems struct {
	Items []consent.Item `json:"items"`
}

// TrendAsk says which days, and by what: day, place, language, device or version.
type TrendAsk struct {
	From string `form:"from"`
	To   string `form:"to"`
	By   string `form:"by"`
}

// Trends are what became of the questions.
type Trends struct {
	From string          `json:"from"`
	To   string          `json:"to"`
	All  consent.Trend   `json:"all"`
	Rows []consent.Trend `json:"rows"`
}

// RecordAsk asks for the records whose id begins so, or those before a place in the chain.
type RecordAsk struct {
	ID     string `form:"id"`
	Before string `form:"before"`
}

// RecordList is a part of the records.
type RecordList struct {
	Head    consent.Head `json:"head"`
	Records []RecordCard `json:"records"`
}

// RecordCard is one place in the chain: a record, an erasure, or what was erased.
type RecordCard struct {
	Seq     int64            `json:"seq"`
	Hash    string           `json:"hash"`
	Erased  bool             `json:"erased"`
	Record  *consent.Record  `json:"record,omitempty"`
	Erasure *consent.Erasure `json:"erasure,omitempty"`
}

// ShownAsk asks what was shown under a fingerprint.
type ShownAsk struct {
	Hash string `form:"hash"`
}

// ShownCard is what was shown.
type ShownCard struct {
	Notice   string `json:"notice"`
	Version  string `json:"version"`
	Language string `json:"language"`
	Rule     string `json:"rule"`
	HTML     string `json:"html"`
	CSS      string `json:"css"`
}

// ProofCard says whether the chain of records is whole.
type ProofCard struct {
	consent.Proof
	Whole bool   `json:"whole"`
	Why   string `json:"why,omitempty"`
}

// InspectionAsk says what an inspection looks at besides.
type InspectionAsk struct {
	// Pages are checked for accessibility too.
	Accessibility bool `json:"accessibility"`
}
