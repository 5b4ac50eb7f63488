package results

import (
	"io"
	"strconv"
	"time"

	"mastflag/core/sheet"
)

// WriteCSV writes rows as CSV (RFC 4180) with a line of names first.
func WriteCSV(w io.Writer, rows []Row) error {
	out := sheet.NewWriter(w)
	head := []string{"notice", "published", "wording", "variant", "day", "page", "device"}
	for _, a := range Acts {
		head = append(head, string(a))
	}
	if err := out.Write(head); err != nil {
		return err
	}
	for _, r := range rows {
		published := time.Unix(r.Version, 0).UTC().Format(time.RFC3339)
		line := []string{r.Notice, published, r.Wording, r.Variant, r.Day, r.Page, r.Device}
		for _, n := range r.Sums.Each() {
			line = append(line, strconv.Itoa(*n))
		}
		if err := out.Write(line); err != nil {
			return err
		}
	}
	return nil
}
