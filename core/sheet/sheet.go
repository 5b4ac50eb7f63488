// Package sheet is about tables that people open in a spreadsheet.
package sheet

import (
	"io"
	"regexp"
	"strings"
)

// formula finds where a spreadsheet may begin one (OWASP, "CSV Injection"; from memory): at the
// beginning of a cell, and, since whoever opens the file chooses what separates cells, behind
// whatever may; spaces and quotation marks between are skipped. The apostrophes that stand there
// already are the first group, so that one more can be taken away again.
var formula = regexp.MustCompile(`(^|[,;|\t\r\n])([ "]*)('*)([=+\-@＝＋－＠])`)

// Text returns a cell that a spreadsheet takes for text, whatever separates its cells: what would
// begin a formula has an apostrophe before it.
func Text(cell string) string { return formula.ReplaceAllString(cell, "$1$2'$3$4") }

var guarded = regexp.MustCompile(`(^|[,;|\t\r\n])([ "]*)'('*)([=+\-@＝＋－＠])`)

// Plain returns what Text was given for a cell.
func Plain(cell string) string { return guarded.ReplaceAllString(cell, "$1$2$3$4") }

// A Writer writes a table as CSV (RFC 4180) of which every cell is text, in quotation marks.
type Writer struct{ out io.Writer }

// NewWriter returns the writer of a table to w.
func NewWriter(w io.Writer) Writer { return Writer{w} }

// Write writes a row, all at once. The cells stay as they are.
func (w Writer) Write(cells []string) error {
	var row strings.Builder
	for i, c := range cells {
		if i > 0 {
			row.WriteByte(',')
		}
		row.WriteByte('"')
		row.WriteString(strings.ReplaceAll(Text(c), `"`, `""`))
		row.WriteByte('"')
	}
	row.WriteString("\r\n")
	_, err := io.WriteString(w.out, row.String())
	return err
}
