package form

import (
	"encoding/json"
	"io"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"mastflag/core/sheet"
)

// WriteCSV writes contacts as a table (RFC 4180) with a column for each field that one of them
// has, named as the last of them calls it. Every cell is text for a spreadsheet.
func WriteCSV(w io.Writer, contacts []Contact, zone *time.Location) error {
	var fields []string
	labels := map[string]string{}
	for _, c := range contacts {
		for _, a := range c.Answers {
			if !slices.Contains(fields, a.Field) {
				fields = append(fields, a.Field)
			}
			labels[a.Field] = c.Label(a.Field)
		}
	}
	out := sheet.NewWriter(w)
	head := []string{"id", "at", "notice", "version", "language", "page", "confirmed", "kept until", "agreed to"}
	for _, f := range fields {
		head = append(head, labels[f])
	}
	if err := out.Write(head); err != nil {
		return err
	}
	for _, c := range contacts {
		confirmed := ""
		if c.Confirmed != nil {
			confirmed = c.Confirmed.In(zone).Format(time.RFC3339)
		}
		var agreed []string
		for _, a := range c.Answers {
			if said := c.Agreed[a.Field]; said != "" {
				agreed = append(agreed, said)
			}
		}
		row := []string{
			c.ID, c.At.In(zone).Format(time.RFC3339), c.Notice, c.Version, c.Language, c.Page, confirmed,
			c.Expires.In(zone).Format(time.DateOnly), strings.Join(agreed, "; "),
		}
		for _, f := range fields {
			row = append(row, c.Text(f))
		}
		if err := out.Write(row); err != nil {
			return err
		}
	}
	return nil
}

// WriteLines writes contacts as JSON Lines: one JSON object a line.
func WriteLines(w io.Writer, contacts []Contact) error {
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	for _, c := range contacts {
		if err := enc.Encode(c); err != nil {
			return err
		}
	}
	return nil
}

// cardProperties are the properties of a card that a field fills by what browsers call it
// (RFC 6350 §6); what has none stands in its note.
var cardProperties = map[Fill]string{"email": "EMAIL", "tel": "TEL", "organization": "ORG",
	"organization-title": "TITLE", "url": "URL", "bday": "BDAY"}

// WriteCards writes contacts as vCard 4.0 (RFC 6350), a card each. fields returns those of the
// form that a contact came by, by which its answers are told apart.
func WriteCards(w io.Writer, contacts []Contact, fields func(Contact) []NamedField) error {
	for _, c := range contacts {
		if _, err := io.WriteString(w, card(c, fields(c))); err != nil {
			return err
		}
	}
	return nil
}

func card(c Contact, fields []NamedField) string {
	var b strings.Builder
	line := func(name, value string) { b.WriteString(fold(name + ":" + value)) }
	line("BEGIN", "VCARD")
	line("VERSION", "4.0")
	line("UID", "urn:mastflag:contact:"+c.ID)
	line("REV", c.At.UTC().Format("20060102T150405Z"))
	parts, notes := map[Fill]string{}, []string{}
	for _, a := range c.Answers {
		fill := Fill("")
		if i := slices.IndexFunc(fields, func(f NamedField) bool { return f.ID == a.Field }); i >= 0 {
			fill = fields[i].AutoFill()
		}
		said := c.Text(a.Field)
		switch {
		case a.Kind == Agreement:
			notes = append(notes, "Agreed: "+c.Agreed[a.Field])
		case fill == "bday" && a.Kind == Date:
			line("BDAY", strings.ReplaceAll(said, "-", ""))
		case a.Kind == Telephone:
			line("TEL;VALUE=uri", "tel:"+said)
		case cardProperties[fill] != "" && fill != "bday":
			written := escape
			if fill == "organization" { // it has parts
				written = component
			}
			line(cardProperties[fill], written(said))
		case slices.Contains(cardParts, fill):
			parts[fill] = said
		default:
			notes = append(notes, c.Label(a.Field)+": "+said)
		}
	}
	given, family := parts["given-name"], parts["family-name"]
	name := strings.TrimSpace(given + " " + family)
	if parts["name"] != "" {
		name = parts["name"]
	}
	if given != "" || family != "" {
		line("N", component(family)+";"+component(given)+";;;")
	}
	if name == "" { // a card has a name (§6.2.1)
		name = c.First(Email, Telephone)
	}
	if name == "" {
		name = c.ID
	}
	line("FN", escape(name))
	if parts["street-address"]+parts["address-level2"]+parts["postal-code"]+parts["country-name"] != "" {
		line("ADR", ";;"+component(parts["street-address"])+";"+component(parts["address-level2"])+";;"+
			component(parts["postal-code"])+";"+component(parts["country-name"]))
	}
	if len(notes) > 0 {
		line("NOTE", escape(strings.Join(notes, "\n")))
	}
	line("SOURCE", escape("urn:mastflag:notice:"+c.Notice))
	line("END", "VCARD")
	return b.String()
}

// cardParts are what stands together in one property of a card.
var cardParts = []Fill{"name", "given-name", "family-name", "street-address", "address-level2", "postal-code",
	"country-name"}

// escape writes a text as a value of a card has it; component one as a part of a value that has
// several, with semicolons between (RFC 6350 §3.4).
var (
	escape    = strings.NewReplacer(`\`, `\\`, ",", `\,`, "\n", `\n`, "\r", "").Replace
	component = strings.NewReplacer(`\`, `\\`, ",", `\,`, ";", `\;`, "\n", `\n`, "\r", "").Replace
)

// fold breaks a line of a card where it is longer than 75 octets (RFC 6350 §3.2), never within
// a character.
func fold(line string) string {
	var b strings.Builder
	for n := 0; line != ""; {
		_, size := utf8.DecodeRuneInString(line)
		if n+size > 75 {
			b.WriteString("\r\n ")
			n = 1
		}
		b.WriteString(line[:size])
		line, n = line[size:], n+size
	}
	return b.String() + "\r\n"
}
