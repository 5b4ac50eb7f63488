package consent

import (
	"cmp"
	_ "embed"
	"encoding/csv"
	"fmt"
	"slices"
	"strings"
	"time"

	"mastflag/core/closed"
	"mastflag/core/fault"
)

// A Rule is what a place wants of a site that sets more than it needs.
type Rule string

const (
	OptIn   Rule = "opt-in"  // nothing before the visitor agrees
	OptOut  Rule = "opt-out" // it may be set until the visitor objects
	Notice  Rule = "notice"  // the visitor is told
	Nothing Rule = "nothing" // not even that
)

func (Rule) Values() []string { return closed.Strings(OptIn, OptOut, Notice, Nothing) }

// Rules is every rule, the strictest first.
var Rules = []Rule{OptIn, OptOut, Notice, Nothing}

func (r Rule) stricter(than Rule) bool { return slices.Index(Rules, r) < slices.Index(Rules, than) }

// A PlaceRule is what applies in a country or a region.
type PlaceRule struct {
	// ISO 3166-1 of a country, or ISO 3166-2 of a region.
	Place string `json:"place" jsonschema:"pattern=^[A-Z]{2}(-[A-Z0-9][A-Z0-9]?[A-Z0-9]?)?$"`
	Rule  Rule   `json:"rule"`
	// Whether a browser's privacy signal counts there: honour (the default) or ignore.
	Signal string `json:"signal,omitempty" jsonschema:"enum=honour,enum=ignore"`
	// What the link that objects has to say there, where a text prescribes it.
	Words string `json:"words,omitempty" jsonschema:"maxLength=200"`
	// The text it follows from, and as of when, such as 2026-11-01.
	Source string `json:"source,omitempty" jsonschema:"maxLength=300"`
	Date   string `json:"date,omitempty" jsonschema:"maxLength=10"`
	// The day on which someone read it beside that text; absent where it was written from memory.
	Checked string `json:"checked,omitempty" jsonschema:"maxLength=10"`
}

func (p PlaceRule) GetSignal() string { return cmp.Or(p.Signal, "honour") }

func (p PlaceRule) check() fault.Faults {
	if p.Date != "" && !isDate(p.Date) {
		return fault.Faults{{
			Pointer: "/date",
			What:    fmt.Sprintf("%q is not a date", p.Date),
			Remedy:  "write it like 2026-11-01",
		}}
	}
	return nil
}

func isDate(s string) bool {
	_, err := time.Parse(time.DateOnly, s)
	return err == nil
}

//go:embed places.csv
var shipped string

// Table is what places want that ships with the program: not legal advice.
var Table = func() []PlaceRule {
	rows, err := ReadTable(shipped)
	if err != nil {
		panic(err) // it is tested
	}
	return rows
}()

// TableDate is the date of the newest row of the table that ships: up to it
// whoever begins to use the table has read it.
func TableDate() (newest string) {
	for _, p := range Table {
		newest = max(newest, p.Date)
	}
	return newest
}

// ReadTable reads rows of place, rule, signal, words, source, date and the day on which
// the row was checked, with commas between; lines that begin with # say something about them.
func ReadTable(text string) ([]PlaceRule, error) {
	r := csv.NewReader(strings.NewReader(text))
	r.Comment, r.FieldsPerRecord, r.LazyQuotes = '#', 7, true
	rows, err := r.ReadAll()
	if err != nil {
		return nil, err
	}
	var out []PlaceRule
	for i, f := range rows {
		p := PlaceRule{f[0], Rule(f[1]), f[2], f[3], f[4], f[5], f[6]}
		if !slices.Contains(Rules, p.Rule) || !isDate(p.Date) || p.Checked != "" && !isDate(p.Checked) ||
			p.Signal != "honour" && p.Signal != "ignore" {
			return nil, fmt.Errorf(
				"row %d of the table of places, %v, is not a place, one of %v, honour or ignore, words, a source, a date "+
					"and the day it was checked, if it was", i+1,
				f, Rules,
			)
		}
		out = append(out, p)
	}
	return out, nil
}

// A TableChange is a row of the table that nobody has read yet, beside what was
// there before; an empty Before if nothing was.
type TableChange struct {
	Now    PlaceRule `json:"now"`
	Before PlaceRule `json:"before"`
}

// Changes returns what a table says since the date up to which it was read.
func Changes(table []PlaceRule, read string) []TableChange {
	out := []TableChange{}
	for _, p := range table {
		if read == "" || p.Date <= read {
			continue
		}
		c := TableChange{Now: p}
		for _, q := range table {
			if q.Place == p.Place && q.Date < p.Date && q.Date >= c.Before.Date {
				c.Before = q
			}
		}
		out = append(out, c)
	}
	return out
}

// Wordings returns one row for each way in which a notice may have to be worded:
// by rule, and by the words that its link has to have.
func (c Compiled) Wordings() []PlaceRule {
	out := []PlaceRule{{Rule: c.unlisted}}
	add := func(p PlaceRule) {
		p = PlaceRule{Rule: p.Rule, Words: p.Words}
		if !slices.Contains(out, p) {
			out = append(out, p)
		}
	}
	add(PlaceRule{Rule: c.unknown})
	for _, p := range c.places {
		add(p)
	}
	return out
}

// InForce returns the rows that hold for a site, by place: its own before
// those of the table. Of a row that nobody has read yet the stricter of old
// and new holds; old is what held there before: an earlier row, a region's
// country, or what the site wants of places without a row.
func (s Setup) InForce(table []PlaceRule) map[string]PlaceRule {
	out := map[string]PlaceRule{}
	newest := slices.Clone(table)
	slices.SortStableFunc(newest, func(a, b PlaceRule) int { return strings.Compare(a.Date, b.Date) })
	for _, regions := range []bool{false, true} { // countries first
		level := func(p PlaceRule) bool { return strings.Contains(p.Place, "-") == regions }
		for _, p := range newest {
			if !level(p) {
				continue
			}
			country, _, _ := strings.Cut(p.Place, "-")
			old := cmp.Or(out[p.Place].Rule, out[country].Rule, s.GetUnlisted())
			if s.TableRead == "" || p.Date <= s.TableRead || !old.stricter(p.Rule) {
				out[p.Place] = p
			}
		}
		for _, p := range s.Places {
			if level(p) {
				out[p.Place] = p
			}
		}
	}
	return out
}
