package sheet_test

import (
	"encoding/csv"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/sheet"
)

// Whatever a cell holds and whatever separates cells where the file is opened, none of them begins
// a formula; read by another library (RFC 4180) and taken back, it is what it was.
func TestCellsAreText(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 15))
	letters := []rune("=+-@'\";,|\t\r\n a1＝")
	for range 20_000 {
		row := make([]string, 1+r.IntN(3))
		for i := range row {
			var b strings.Builder
			for range r.IntN(8) {
				b.WriteRune(letters[r.IntN(len(letters))])
			}
			row[i] = b.String()
			require.Equal(t, row[i], sheet.Plain(sheet.Text(row[i])), "%q as %q", row[i], sheet.Text(row[i]))
		}
		var out strings.Builder
		w := sheet.NewWriter(&out)
		require.NoError(t, w.Write(row))
		text := out.String()
		for _, separator := range ",;|\t" {
			for _, lazy := range []bool{true, false} { // with quotation marks that count, and without
				in := csv.NewReader(strings.NewReader(text))
				in.Comma, in.LazyQuotes, in.FieldsPerRecord = separator, lazy, -1
				if !lazy && separator != ',' {
					continue
				}
				rows, err := in.ReadAll()
				require.NoError(t, err, "%q", text)
				for _, cells := range rows {
					for _, cell := range cells {
						cell = strings.TrimLeft(cell, ` "`)
						assert.False(t, cell != "" && strings.ContainsAny(cell[:1], "=+-@"), "%q in %q by %q", cell, text, separator)
					}
				}
			}
		}
		for _, line := range strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune(";,|\t\r\n", r) }) {
			line = strings.TrimLeft(line, ` "`)
			require.False(t, line != "" && strings.ContainsAny(line[:1], "=+-@"), "%q in %q", line, text)
		}
	}
	assert.Equal(t, "a;'=1+1", sheet.Text("a;=1+1"))
	assert.Equal(t, "'-5", sheet.Text("-5"))
	assert.Equal(t, "5 - 3 = 2", sheet.Text("5 - 3 = 2"))
}
