package form_test

import (
	"encoding/csv"
	"fmt"
	"math/rand"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-vcard"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/form"
	"mastflag/core/sheet"
)

// Telephone numbers as ITU-T E.164 has them: with the country's own in front, whatever is typed
// between. The numbers are of those set aside for fiction (Ofcom), or written from memory.
func TestTelephones(t *testing.T) {
	for typed, want := range map[string]string{
		"01632 960199": "+441632960199", "+44 (0)1632 960 199": "+441632960199", "0044 1632 960199": "+441632960199",
		"+1 202-555-0143": "+12025550143", "+49 30 23125 000": "+493023125000", "+48 22 123 45 67": "+48221234567",
		"123": "", "call me": "", "+999 123456": "", "": "", "+44 1632 960199 960199 960199": "",
	} {
		got, ok := form.E164(typed, "GB")
		assert.Equal(t, want, got, typed)
		assert.Equal(t, want != "", ok, typed)
	}
	_, ok := form.E164("01632 960199", "")
	assert.False(t, ok, "of no country")
}

// Numbers and days as the HTML Standard has them, and no others; a number is kept in its shortest form.
func TestNumbersAndDays(t *testing.T) {
	for kind, answers := range map[form.Kind]map[string]string{
		form.Number: {
			"1000": "1000", "-0.50": "-0.5", ".5": "0.5", "1e3": "1000", "2E-2": "0.02", " 7 ": "7", "007": "7",
			"1_000": "", "0x10": "", "Inf": "", "NaN": "", "1e999": "", "+5": "", "5.": "", "1,5": "",
			"1.000,5": "", "１": "", "-": "",
		},
		form.Date: {
			"2026-12-24": "2026-12-24", "0001-01-01": "0001-01-01", "2028-02-29": "2028-02-29",
			"0000-01-01": "", "2026-02-29": "", "2026-12-1": "", "24.12.2026": "", "10000-01-01": "", "2026-12-24T10:00": "",
		},
	} {
		for typed, kept := range answers {
			said, wrong, err := form.Read(
				[]form.NamedField{{ID: "a", Field: form.Field{Kind: kind}}}, form.Values{"a": typed}, nil,
			)
			require.NoError(t, err)
			if kept == "" {
				assert.NotEmpty(t, wrong, "%s %q", kind, typed)
			} else if assert.Empty(t, wrong, typed) {
				assert.Equal(t, []string{kept}, said[0].Values, typed)
			}
		}
	}
}

// How long texts may be, and contacts are kept, where a form says nothing (rules F2, F4).
func TestWhereNothingIsSaid(t *testing.T) {
	for kind, most := range map[form.Kind]int{form.Text: 300, form.Long: 5000} {
		field := []form.NamedField{{ID: "a", Field: form.Field{Kind: kind}}}
		said, wrong, err := form.Read(field, form.Values{"a": strings.Repeat("ä", most)}, nil)
		require.NoError(t, err)
		assert.Empty(t, wrong)
		assert.Len(t, said, 1)
		_, wrong, err = form.Read(field, form.Values{"a": strings.Repeat("ä", most+1)}, nil)
		require.NoError(t, err)
		assert.Equal(t, map[string]form.Flaw{"a": form.TooLong}, wrong)
	}
	assert.Equal(t, "P1Y", form.Form{}.KeptFor())
}

// hostile is a text of what formats give a meaning to.
func hostile(r *rand.Rand) string {
	pieces := []string{
		"a",
		"Ä",
		"😀",
		",",
		";",
		":",
		"\\",
		"\n",
		"\"",
		"'",
		"=1+1",
		"@x",
		"\\n",
		"<b>",
		"END:VCARD",
		" ",
		"\t",
		"ßüß",
	}
	var b strings.Builder
	for range r.Intn(40) {
		b.WriteString(pieces[r.Intn(len(pieces))])
	}
	return strings.TrimSpace(b.String())
}

// Whatever is filled in comes out as it was, as other libraries read it: of a card (RFC 6350),
// and of a table (RFC 4180), in which nothing is a formula.
func TestExportsReadElsewhere(t *testing.T) {
	seed := time.Now().UnixNano()
	r := rand.New(rand.NewSource(seed))
	fields := []form.NamedField{
		{
			ID:    "mail",
			Field: form.Field{Kind: form.Email},
		}, {ID: "given", Field: form.Field{Kind: form.Text, Fill: "given-name"}},
		{ID: "family", Field: form.Field{Kind: form.Text, Fill: "family-name"}},
		{ID: "firm", Field: form.Field{Kind: form.Text, Fill: "organization"}},
		{
			ID:    "town",
			Field: form.Field{Kind: form.Text, Fill: "address-level2"},
		}, {ID: "say", Field: form.Field{Kind: form.Long}},
	}
	for n := range 300 {
		c := form.Contact{
			ID:     fmt.Sprintf("%032x", n),
			At:     time.Unix(1_800_000_000, 0),
			Notice: "n",
			Labels: map[string]string{},
		}
		said := map[string]string{}
		for _, f := range fields {
			v := hostile(r)
			if f.Kind != form.Long {
				v = strings.Join(strings.Fields(v), " ")
			}
			if strings.HasSuffix(string(f.Fill), "-name") { // what that library does not read in a part of a name
				v = strings.ReplaceAll(v, ";", "")
			}
			if v != "" {
				said[f.ID] = v
				c.Answers = append(c.Answers, form.Answer{Field: f.ID, Kind: f.Kind, Values: []string{v}})
			}
		}
		var cards, table strings.Builder
		require.NoError(
			t,
			form.WriteCards(&cards, []form.Contact{c}, func(form.Contact) []form.NamedField { return fields }),
		)
		for line := range strings.SplitSeq(cards.String(), "\r\n") {
			assert.LessOrEqual(t, len(line), 75)
		}
		card, err := vcard.NewDecoder(strings.NewReader(cards.String())).Decode()
		require.NoError(t, err, "seed %d: %s", seed, cards.String())
		assert.Equal(t, said["mail"], card.Value(vcard.FieldEmail), "seed %d", seed)
		if name := card.Name(); said["given"] != "" || said["family"] != "" {
			assert.Equal(t, said["given"], name.GivenName, "seed %d", seed)
			assert.Equal(t, said["family"], name.FamilyName, "seed %d", seed)
		}
		if said["say"] != "" {
			assert.Contains(t, card.Value(vcard.FieldNote), "say: "+said["say"], "seed %d", seed)
		}
		require.NoError(t, form.WriteCSV(&table, []form.Contact{c}, time.UTC))
		rows, err := csv.NewReader(strings.NewReader(table.String())).ReadAll()
		require.NoError(t, err, "seed %d", seed)
		for i, head := range rows[0] {
			cell := rows[1][i]
			assert.NotRegexp(t, `^[=+\-@\t\r\n]`, cell, "seed %d", seed)
			if want := said[head]; want != "" {
				assert.Equal(t, strings.ReplaceAll(want, "\r", ""), sheet.Plain(cell), "seed %d", seed)
			}
		}
	}
}

// What fields and forms may not be.
func TestBadForms(t *testing.T) {
	known := func(fact string) bool { return fact == "page.path" }
	two, one := 2.0, 1.0
	for says, f := range map[string]form.Field{
		`/min: a field of kind "text" has none`:           {Kind: form.Text, Min: &one},
		"/max: the most is less than the least":           {Kind: form.Number, Min: &two, Max: &one},
		`/earliest: "2026-02-30" is no day`:               {Kind: form.Date, Earliest: "2026-02-30"},
		"/latest: the last day is before":                 {Kind: form.Date, Earliest: "2026-02-02", Latest: "2026-02-01"},
		`/options/0: "A b" cannot be kept`:                {Kind: form.Choice, Options: []string{"A b"}},
		`/options/1: two options are kept as "a"`:         {Kind: form.Choice, Options: []string{"a", "a"}},
		"/maxLength: one line has 300 characters at most": {Kind: form.Text, MaxLength: 301},
		`/fact: there is no fact "x.y"`:                   {Kind: form.Hidden, Fact: "x.y"},
		"/required: nobody fills in a hidden field":       {Kind: form.Hidden, Fact: "page.path", Required: true},
		`/fill: a field of kind "agreement" has none`:     {Kind: form.Agreement, Fill: "name"},
	} {
		assert.ErrorContains(t, f.Check(known), says)
	}
	fields := []form.NamedField{
		{ID: "mail", Field: form.Field{Kind: form.Email}},
		{ID: "x", Field: form.Field{Kind: form.Text}},
	}
	for says, f := range map[string]form.Form{
		"/keep":                               {Keep: "a while"},
		`/confirm: there is no e-mail field`:  {Confirm: "x"},
		"/after/to: a message leads nowhere":  {After: form.FollowUp{To: "/x"}},
		"/after/to: \"javascript:a\"":         {After: form.FollowUp{Then: form.ThenPage, To: "javascript:a"}},
		"/passOn/0: a receiver has either":    {PassOn: []form.Receiver{{}}},
		`/passOn/0/mail: "x" is not an`:       {PassOn: []form.Receiver{{Mail: "x"}}},
		`/passOn/0/address: "file:///etc/x"`:  {PassOn: []form.Receiver{{Address: "file:///etc/x"}}},
		"/passOn/0: a receiver has either an": {PassOn: []form.Receiver{{Mail: "a@b", Address: "https://b"}}},
	} {
		assert.ErrorContains(t, f.Check(fields), says)
	}
	assert.Empty(t, form.Form{Keep: "P6M", Confirm: "mail", After: form.FollowUp{Then: form.ThenFile, To: "/a.pdf"},
		PassOn: []form.Receiver{{Mail: "a@b.c"}, {Address: "https://b.example/x"}}}.Check(fields))
}
