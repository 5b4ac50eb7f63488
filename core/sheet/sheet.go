// Package sheet is about tables that people open in a spreadsheet.
package sheet

import "strings"

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

// Row returns cells of which each is text.
func Row(cells []string) []string {
	out := make([]string, len(cells))
	for i, c := range cells {
		out[i] = Text(c)
	}
	return out
}
