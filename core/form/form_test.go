package form_test

import (
	"encoding/csv"
	"fmt"
	"math"
	"math/big"
	"math/rand"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"
	"unicode"

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
			"1000": "1000", "-0.50": "-0.5", ".5": "0.5", "1e3": "1000", "2E-2": "0.02", " 7 ": "7", "007": "7", "-0.0": "0",
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

// plainly reads what was sent for a field as the text of rule F2 says; a telephone number, of which a library knows
// what countries have, is not read. ok is false where it is not taken, whatever for.
func plainly(f form.Field, sent any) (kept []string, ok bool) {
	switch f.Kind {
	case form.Agreement:
		ticked, is := sent.(bool)
		if ticked {
			kept = []string{"yes"}
		}
		return kept, (sent == nil || is) && (ticked || !f.Required)
	case form.Choices:
		list, is := sent.([]any)
		for _, o := range f.Options {
			if slices.Contains(list, any(o)) {
				kept = append(kept, o)
			}
		}
		for _, x := range list {
			s, text := x.(string)
			is = is && text && slices.Contains(f.Options, s)
		}
		return kept, (sent == nil || is && len(list) <= len(f.Options)) && (kept != nil || !f.Required)
	}
	s, is := sent.(string)
	if sent != nil && !is {
		return nil, false
	}
	for _, r := range s {
		line := r == '\n' || r == '\r'
		switch {
		case line && f.Kind == form.Long, r == '\t':
		case unicode.IsControl(r), r >= 0x202a && r <= 0x202e, r >= 0x2066 && r <= 0x2069:
			return nil, false
		}
	}
	s = strings.ReplaceAll(strings.ReplaceAll(s, "\r\n", "\n"), "\r", "\n")
	s = strings.TrimFunc(s, unicode.IsSpace)
	if s == "" {
		return nil, !f.Required
	}
	most := map[form.Kind]int{form.Email: 254, form.Long: 5000}[f.Kind]
	if most == 0 {
		most = 300
	}
	if f.MaxLength > 0 {
		most = f.MaxLength
	}
	if len([]rune(s)) > most {
		return nil, false
	}
	switch f.Kind {
	case form.Email:
		local, domain, at := strings.Cut(s, "@")
		ok = at && local != "" && strings.Trim(local, ".!#$%&'*+/=?^_`{|}~-"+alphanumeric) == ""
		for _, label := range strings.Split(domain, ".") {
			ok = ok && label != "" && len(label) <= 63 && label[0] != '-' && label[len(label)-1] != '-' &&
				strings.Trim(label, "-"+alphanumeric) == ""
		}
		return []string{s}, ok
	case form.Number:
		figures, exponent, e := strings.Cut(strings.ToLower(strings.TrimPrefix(s, "-")), "e")
		whole, part, point := strings.Cut(figures, ".")
		all := func(s string) bool { return strings.Trim(s, "0123456789") == "" }
		ok = all(whole+part) && (whole != "" || point) && (part != "" || !point)
		if exponent = strings.TrimPrefix(strings.TrimPrefix(exponent, "+"), "-"); e {
			ok = ok && exponent != "" && all(exponent) && !strings.HasSuffix(strings.ToLower(s), "+-"+exponent)
		}
		n, _, err := big.ParseFloat(s, 10, 2000, big.ToNearestEven)
		if !ok || err != nil {
			return nil, false
		}
		near, _ := n.Float64()
		ok = !math.IsInf(near, 0) && (f.Min == nil || near >= *f.Min) && (f.Max == nil || near <= *f.Max)
		if near == 0 { // without a sign
			return []string{"0"}, ok
		}
		return []string{strconv.FormatFloat(near, 'f', -1, 64)}, ok
	case form.Date:
		y, m, d := 0, 0, 0
		_, err := fmt.Sscanf(s, "%4d-%2d-%2d", &y, &m, &d)
		t := time.Date(y, time.Month(m), d, 0, 0, 0, 0, time.UTC)
		ok = err == nil && y > 0 && fmt.Sprintf("%04d-%02d-%02d", t.Year(), t.Month(), t.Day()) == s
		return []string{s}, ok && s >= f.Earliest && (f.Latest == "" || s <= f.Latest)
	case form.Choice:
		return []string{s}, slices.Contains(f.Options, s)
	}
	return []string{s}, true
}

const alphanumeric = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789"

// What is sent is read as a plain reading of rule F2 reads it, whatever it is.
func TestAnswersAsWritten(t *testing.T) {
	seed := time.Now().UnixNano()
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewSource(seed))
	pick := func(of ...any) any { return of[r.Intn(len(of))] }
	pieces := []any{
		"a", "7", "-", "+", ".", "e", "@", "@b.example", " ", "\u00a0", "\t", "\n", "\r\n", "\x00", "\u202e", "\u2069",
		"\u200b", "ä", "😀", "2026-12-0", "2028-02-29", "0000-01-01", "1e30", "0.1", strings.Repeat("x", 62),
		strings.Repeat("y", 250),
	}
	whole := []any{"yes", "no", "-0", "-0.5", "12.5e-1", "2026-12-07", "2026-12-04", "a.b+c@d-e.example", " 3 "}
	taken := map[form.Kind]int{}
	for range 40_000 {
		f := form.Field{
			Kind: pick(form.Email, form.Text, form.Long, form.Number, form.Date, form.Choice, form.Choices,
				form.Agreement).(form.Kind),
			Required: r.Intn(2) == 0,
		}
		switch f.Kind {
		case form.Choice, form.Choices:
			f.Options = []string{"no", "yes"}
		case form.Number:
			if least := float64(r.Intn(3)); r.Intn(2) == 0 {
				f.Min = &least
			}
		case form.Date:
			f.Earliest = pick("", "2026-12-05").(string)
		case form.Text, form.Long:
			f.MaxLength = r.Intn(2) * 7
		}
		var text strings.Builder
		for range r.Intn(5) {
			text.WriteString(pick(pieces...).(string))
		}
		sent := pick(text.String(), text.String(), pick(whole...), pick(whole...), pick(
			nil, true, false, 7.0, map[string]any{}, []any{}, []any{"yes"}, []any{"yes", "no"}, []any{"yes", "yes"},
			[]any{"yes", 7.0}, []any{"yes", "no", "no"}, []any{"x"},
		))
		said, wrong, err := form.Read([]form.NamedField{{ID: "a", Field: f}}, form.Values{"a": sent}, nil)
		require.NoError(t, err)
		want, ok := plainly(f, sent)
		require.Equal(t, ok, len(wrong) == 0, "%q for %+v: %v", sent, f, wrong)
		if !ok {
			continue
		}
		var got []string
		if len(said) > 0 {
			got = said[0].Values
			taken[f.Kind]++
		}
		require.Equal(t, want, got, "%q for %+v", sent, f)
	}
	for kind, n := range taken {
		assert.Greater(t, n, 50, kind)
	}
	assert.Len(t, taken, 8)
}

// How long texts may be, and contacts are kept, where a form says nothing (rules F2, F4).
func TestWhereNothingIsSaid(t *testing.T) {
	for _, c := range []struct {
		kind form.Kind
		most int
		of   func(length int) string
	}{
		{form.Text, 300, func(n int) string { return strings.Repeat("ä", n) }},
		{form.Long, 5000, func(n int) string { return strings.Repeat("ä", n) }},
		{form.Email, 254, func(n int) string { return strings.Repeat("x", n-10) + "@b.example" }},
		{form.Telephone, 40, func(n int) string { return "+44" + strings.Repeat(" ", n-13) + "1632960199" }},
	} {
		field := []form.NamedField{{ID: "a", Field: form.Field{Kind: c.kind}}}
		said, wrong, err := form.Read(field, form.Values{"a": c.of(c.most)}, nil)
		require.NoError(t, err)
		assert.Empty(t, wrong, c.kind)
		assert.Len(t, said, 1)
		_, wrong, err = form.Read(field, form.Values{"a": c.of(c.most + 1)}, nil)
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
