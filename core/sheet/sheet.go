// Package sheet is about tables that people open in a spreadsheet.
package sheet

import (
	"encoding/csv"
	"io"
	"strings"
)

// starts are the characters at which spreadsheets begin a formula, or skip to
// where one may begin (OWASP, "CSV Injection"; from memory).
const starts = "=+-@\t\r\n＝＋－＠"

// Text returns a cell that a spreadsheet takes for text: what would begin a
// formula has an apostrophe before it.
func Text(cell string) string {
	if r := strings.IndexAny(cell, starts); r == 0 {
		return "'" + cell
	}
	return cell
}

// Plain returns what Text was given for a cell.
func Plain(cell string) string {
	if rest, ok := strings.CutPrefix(cell, "'"); ok && strings.IndexAny(rest, starts) == 0 {
		return rest
	}
	return cell
}

// A Writer writes a table as CSV (RFC 4180) of which every cell is text.
type Writer struct{ out *csv.Writer }

// NewWriter returns the writer of a table to w.
func NewWriter(w io.Writer) Writer {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	return Writer{out}
}

// Write writes a row. The cells stay as they are.
func (w Writer) Write(cells []string) error {
	row := make([]string, len(cells))
	for i, c := range cells {
		row[i] = Text(c)
	}
	return w.out.Write(row)
}

// Close writes what is left; the error is the first that writing met.
func (w Writer) Close() error {
	w.out.Flush()
	return w.out.Error()
}
