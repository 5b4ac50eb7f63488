package consent

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"iter"
	"slices"
	"strconv"
	"strings"

	"mastflag/core/fault"
	"mastflag/core/sheet"
)

// columns of an inventory as CSV (RFC 4180), before one "for LANGUAGE" for each
// language. The first two have to be there.
var columns = []string{"kind", "name", "host", "by", "purpose", "lasts"}

const forColumn = "for "

// WriteInventory writes an inventory as CSV, with columns for these languages
// and all others that it speaks.
func WriteInventory(w io.Writer, list []Item, languages []string) error {
	tags := slices.Clone(languages)
	for _, i := range list {
		for tag := range i.For {
			if !slices.Contains(tags, tag) {
				tags = append(tags, tag)
			}
		}
	}
	slices.Sort(tags[min(len(languages), len(tags)):])
	out := sheet.NewWriter(w)
	head := slices.Clone(columns)
	for _, t := range tags {
		head = append(head, forColumn+t)
	}
	if err := out.Write(head); err != nil {
		return err
	}
	for _, i := range list {
		row := []string{string(i.Kind), i.Name, i.Host, i.By, i.Purpose, i.Lasts}
		for _, t := range tags {
			row = append(row, i.For[t])
		}
		if err := out.Write(row); err != nil {
			return err
		}
	}
	return nil
}

// MaxRows is how many rows an inventory may have.
const MaxRows = 1000

// ReadInventory reads what WriteInventory writes. The error is fault.Faults
// that name row and column; then nothing is read.
func ReadInventory(text string) ([]Item, error) {
	text = strings.TrimPrefix(text, "\ufeff")
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord = -1
	first, _, _ := strings.Cut(text, "\n")
	if strings.Count(first, ";") > strings.Count(first, ",") {
		r.Comma = ';' // as spreadsheets write it where the comma is for decimals
	}
	rows, err := r.ReadAll()
	var broken *csv.ParseError
	if errors.As(err, &broken) {
		return nil, fault.Faults{{
			Pointer: fmt.Sprintf("/%d", broken.Line),
			What:    fmt.Sprintf("line %d is not CSV: %v", broken.Line, broken.Err),
			Remedy:  "put text with commas or line breaks between quotes",
		}}
	}
	if err != nil {
		return nil, err
	}
	if len(rows) == 0 {
		return nil, fault.Faults{{
			What:   "there is no row",
			Remedy: "begin with the names of the columns: " + strings.Join(columns, ", "),
		}}
	}
	head := rows[0]
	for k := range head {
		head[k] = strings.ToLower(strings.TrimSpace(head[k]))
	}
	var faults fault.Faults
	wrong := func(row int, column, what, remedy string) {
		faults = append(faults, fault.Fault{
			Pointer: fault.Pointer(fmt.Sprint(row), column),
			What:    fmt.Sprintf("row %d: %s", row, what),
			Remedy:  remedy,
		})
	}
	for _, c := range head {
		if !slices.Contains(columns, c) && !strings.HasPrefix(c, forColumn) {
			wrong(
				1, c, fmt.Sprintf("there is no column %q", c),
				"use "+strings.Join(columns, ", ")+" and “for” with a language, such as “for en”",
			)
		}
	}
	for _, c := range columns[:2] {
		if !slices.Contains(head, c) {
			wrong(1, c, fmt.Sprintf("the column %q is missing", c), "add it")
		}
	}
	if len(rows)-1 > MaxRows {
		wrong(1, "", fmt.Sprintf("there are %d rows", len(rows)-1), fmt.Sprintf("give at most %d", MaxRows))
	}
	if faults != nil {
		return nil, faults
	}
	var out []Item
	for n, row := range rows[1:] {
		if strings.Join(row, "") == "" {
			continue
		}
		if len(row) > len(head) {
			wrong(n+2, "", fmt.Sprintf("%d fields under %d columns", len(row), len(head)), "put text with commas between quotes")
			continue
		}
		var i Item
		for k, c := range head {
			cell := "" // of a row that is cut short
			if k < len(row) {
				cell = sheet.Plain(strings.TrimSpace(row[k]))
			}
			switch c {
			case "kind":
				i.Kind = ItemKind(strings.ToLower(cell))
				if !slices.Contains(ItemKinds, i.Kind) {
					wrong(n+2, c, fmt.Sprintf("%q is no kind", cell), "use cookie, storage, frame or request")
				}
			case "name":
				i.Name = cell
				if cell == "" {
					wrong(n+2, c, "there is no name", "give one; * stands for any run of characters")
				}
			case "host":
				i.Host = cell
			case "by":
				i.By = cell
			case "purpose":
				i.Purpose = cell
			case "lasts":
				i.Lasts = cell
			default:
				if cell != "" {
					if i.For == nil {
						i.For = map[string]string{}
					}
					i.For[strings.TrimPrefix(c, forColumn)] = cell
				}
			}
		}
		out = append(out, i)
	}
	if faults != nil {
		return nil, faults
	}
	return out, nil
}

// WriteRecords writes a chain of records as CSV, a row each, with a column for
// each purpose that is asked about now or was when one of them was made. What
// was erased has a row without content. It goes through the links twice.
func WriteRecords(w io.Writer, asked []string, links iter.Seq2[Link, error]) error {
	purposes := slices.Clone(asked)
	for l, err := range links {
		if err != nil {
			return err
		}
		r, _, err := l.Read()
		if err != nil {
			return err
		}
		if r == nil {
			continue
		}
		for _, o := range r.Purposes {
			if !slices.Contains(purposes, o.Purpose) {
				purposes = append(purposes, o.Purpose)
			}
		}
	}
	out := sheet.NewWriter(w)
	head := []string{
		"seq", "record_id", "event_time", "event_type", "notice", "notice_version", "notice_hash", "language", "jurisdiction",
		"place_rule", "method", "signal", "page", "document", "document_version", "document_hash",
	}
	for _, p := range purposes {
		head = append(head, "purpose "+p)
	}
	if err := out.Write(append(head, "hash")); err != nil {
		return err
	}
	const stamp = "2006-01-02T15:04:05.000Z07:00"
	for l, err := range links {
		if err != nil {
			return err
		}
		r, e, err := l.Read()
		if err != nil {
			return err
		}
		row := make([]string, len(head)+1)
		row[0], row[len(head)] = fmt.Sprint(l.Seq), l.Hash.String()
		switch {
		case e != nil:
			row[2], row[3] = e.EventTime.Format(stamp), e.EventType
		case r != nil:
			copy(row[1:], []string{
				r.RecordID, r.EventTime.Format(stamp), string(r.EventType), r.Notice, r.NoticeVersion, r.NoticeHash, r.Language,
				r.Jurisdiction, string(r.PlaceRule), r.Method, fmt.Sprint(r.Signal), r.Page, r.Document,
				versionCell(r.DocumentVersion), r.DocumentHash,
			})
			for _, o := range r.Purposes {
				if k := slices.Index(purposes, o.Purpose); k >= 0 {
					row[len(head)-len(purposes)+k] = string(o.EventState)
				}
			}
		}
		if err := out.Write(row); err != nil {
			return err
		}
	}
	return nil
}

// versionCell writes the number of a version, "" where there is none.
func versionCell(n int) string {
	if n == 0 {
		return ""
	}
	return strconv.Itoa(n)
}

// Line is a link as a line of JSON (JSON Lines).
func (l Link) Line() []byte {
	var b bytes.Buffer
	fmt.Fprintf(&b, `{"seq":%d,"commitment":%q,"hash":%q,"salt":"%x","record":`, l.Seq, l.Commitment, l.Hash, l.Salt)
	if l.Body == nil {
		b.WriteString("null")
	} else {
		b.Write(l.Body)
	}
	b.WriteString("}\n")
	return b.Bytes()
}
