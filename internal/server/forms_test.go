package server_test

import (
	"database/sql"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/emersion/go-vcard"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/form"
	"mastflag/core/pages"
	"mastflag/core/rights"
	"mastflag/internal/admin/contacts"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/people"
	"mastflag/internal/admin/sites"
	"mastflag/internal/importing"
	"mastflag/internal/post"
	"mastflag/internal/problem"
	"mastflag/internal/signature"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// field is a part that asks something.
func field(id string, f form.Field) bundle.Part {
	return bundle.Part{ID: id, Kind: bundle.PartField, Field: &f}
}

// withForm publishes a pop-up that asks for all there is, and returns the fingerprint of its
// form.
func (b *bench) withForm(settings form.Form, parts ...bundle.Part) string {
	b.t.Helper()
	least, most := 1.0, 9.0
	if parts == nil {
		parts = []bundle.Part{
			field("mail", form.Field{Kind: form.Email, Required: true}),
			field("name", form.Field{Kind: form.Text, Fill: "name", MaxLength: 20}),
			field("call", form.Field{Kind: form.Telephone, Country: "GB"}),
			field("say", form.Field{Kind: form.Long}),
			field("route", form.Field{Kind: form.Choice, Options: []string{"fennay", "aldwick"}}),
			field("news", form.Field{Kind: form.Choices, Options: []string{"storms", "fares"}}),
			field("people", form.Field{Kind: form.Number, Min: &least, Max: &most}),
			field("day", form.Field{Kind: form.Date, Earliest: "2026-12-01", Latest: "2026-12-31"}),
			field("agree", form.Field{Kind: form.Agreement, Required: true}),
			field("from", form.Field{Kind: form.Hidden, Fact: "utm.campaign"}),
		}
	}
	parts = append(parts, bundle.Part{ID: "send", Kind: bundle.PartSend})
	words := map[string]bundle.PartWords{}
	for _, p := range parts {
		words[p.ID] = bundle.PartWords{Heading: "The " + p.ID}
	}
	if _, ok := words["agree"]; ok {
		words["agree"] = bundle.PartWords{Text: "<p>Write to me about <strong>changes</strong>.</p>"}
		words["route"] = bundle.PartWords{Heading: "Route", Answers: []string{"To Fennay", "To Aldwick"}}
		words["news"] = bundle.PartWords{Heading: "News", Answers: []string{"Storms", "Fares, and more"}}
	}
	site, err := b.server.Store.Site(b.t.Context(), "s")
	require.NoError(b.t, err)
	at := start.AddDate(0, 0, -1)
	_, err = importing.Bundle(b.t.Context(), b.server.Store, bundle.Bundle{Format: bundle.Format, Site: site.Site,
		Notices: []bundle.Notice{{ID: "subscribe", Kind: bundle.KindPopUp, State: bundle.Published, PublishedAt: &at,
			Pages: &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
			Content: &bundle.Content{
				Form: &settings, Rows: []bundle.Row{{Columns: []bundle.Column{{Parts: parts}}}},
				Wordings: map[string]bundle.Wording{"en": {Message: "<p>Hear of changes first.</p>", Parts: words}},
			}}},
	}, store.By{Name: "test"}, b.clock.Now())
	require.NoError(b.t, err)
	require.NoError(b.t, b.server.Hub.Reload(b.t.Context(), "s"))
	_, answer, _ := b.visit(origin, `{"url":"https://www.s.example/book"}`)
	found := regexp.MustCompile(`"form":\{"hash":"([0-9a-f]{64})"`).FindStringSubmatch(answer)
	require.NotNil(b.t, found, answer)
	return found[1]
}

// mark is one with which a form is taken at once.
func (b *bench) mark() string {
	status, mark := b.tell("GET", "/forms/s", origin, "")
	require.Equal(b.t, http.StatusOK, status)
	b.clock.Set(b.clock.Now().Add(3 * time.Second))
	return mark
}

// filled is a form that is right, with some of its values otherwise; nil leaves one out.
func filled(n int, hash string, other map[string]any) string {
	values := map[string]any{
		"mail": "ada@visitor.example", "name": "Ada", "call": "01632 960199", "say": "One\nTwo", "route": "aldwick",
		"news": []string{"fares", "storms"}, "people": "2", "day": "2026-12-24", "agree": true,
	}
	maps.Copy(values, other)
	maps.DeleteFunc(values, func(_ string, v any) bool { return v == nil })
	raw, _ := json.Marshal(map[string]any{
		"id": fmt.Sprintf("%032x", n), "hash": hash, "values": values,
		"url": "https://www.s.example/book?utm_campaign=winter%0A%E2%80%AEsale&email=secret",
	})
	return string(raw)
}

// What is filled in is kept once and whole; what is wrong is said by field, and what is forged,
// too large, too quick or too much is refused. Nothing of that is kept.
func TestForms(t *testing.T) {
	b := newBench(t).signIn()
	hash := b.withForm(form.Form{})
	mark := b.mark()
	send := func(body string) (int, string) { return b.tell("POST", "/forms/s?mark="+mark, origin, body) }
	wait := func() { b.clock.Set(b.clock.Now().Add(10 * time.Second)) } // there is room for the next

	status, said := send(filled(1, hash, nil))
	require.Equal(t, http.StatusNoContent, status, said)
	status, _ = send(filled(1, hash, nil))
	assert.Equal(t, http.StatusNoContent, status, "told again")
	status, _ = send(filled(1, hash, map[string]any{"name": "Eve"}))
	assert.Equal(t, http.StatusConflict, status)

	var list contacts.ContactList
	b.call("GET", "/api/sites/s/contacts", nil, &list)
	require.Len(t, list.Contacts, 1)
	c := list.Contacts[0]
	assert.Equal(t, []form.Answer{
		{Field: "mail", Kind: form.Email, Values: []string{"ada@visitor.example"}},
		{Field: "name", Kind: form.Text, Values: []string{"Ada"}},
		{Field: "call", Kind: form.Telephone, Values: []string{"+441632960199"}},
		{Field: "say", Kind: form.Long, Values: []string{"One\nTwo"}},
		{Field: "route", Kind: form.Choice, Values: []string{"aldwick"}},
		{Field: "news", Kind: form.Choices, Values: []string{"storms", "fares"}},
		{Field: "people", Kind: form.Number, Values: []string{"2"}},
		{Field: "day", Kind: form.Date, Values: []string{"2026-12-24"}},
		{Field: "agree", Kind: form.Agreement, Values: []string{"yes"}},
		{Field: "from", Kind: form.Hidden, Values: []string{"winter sale"}},
	}, c.Answers)
	assert.Equal(t, map[string]string{"agree": "Write to me about changes."}, c.Agreed)
	assert.Equal(t, "/book", c.Page, "without its query")
	assert.Equal(t, "To Aldwick", c.Text("route"))
	assert.Equal(t, "2027-12-04", c.Expires.Format(time.DateOnly), "a year, as nothing else is said")

	for name, wrong := range map[string]struct {
		other map[string]any
		says  string
	}{
		"no address":                {map[string]any{"mail": nil}, "/mail missing-answer"},
		"no address's form":         {map[string]any{"mail": "ada at home"}, "/mail no-email"},
		"two lines in one":          {map[string]any{"name": "a\nb"}, "/name not-understood"},
		"too long":                  {map[string]any{"name": strings.Repeat("ä", 21)}, "/name too-long"},
		"no telephone number":       {map[string]any{"call": "call me"}, "/call no-telephone"},
		"no option":                 {map[string]any{"route": "mars"}, "/route no-option"},
		"one of several":            {map[string]any{"news": "storms"}, "/news not-understood"},
		"one is none":               {map[string]any{"news": []string{"storms", "x"}}, "/news no-option"},
		"more than there are":       {map[string]any{"news": []string{"storms", "fares", "fares"}}, "/news not-understood"},
		"no number":                 {map[string]any{"people": "NaN"}, "/people no-number"},
		"out of range":              {map[string]any{"people": "10"}, "/people out-of-range"},
		"no day":                    {map[string]any{"day": "2026-02-30"}, "/day no-date"},
		"after the last":            {map[string]any{"day": "2027-01-01"}, "/day out-of-range"},
		"not agreed":                {map[string]any{"agree": false}, "/agree not-ticked"},
		"agreed by words":           {map[string]any{"agree": "yes"}, "/agree not-understood"},
		"turned letters":            {map[string]any{"name": "Ada\u202egnp"}, "/name not-understood"},
		"an object":                 {map[string]any{"name": map[string]any{"$gt": ""}}, "/name not-understood"},
		"several things at once":    {map[string]any{"mail": "", "agree": nil}, "/mail missing-answer /agree not-ticked"},
		"agreement asked and typed": {map[string]any{"agree": 1}, "/agree not-understood"},
	} {
		wait()
		status, said := send(filled(2, hash, wrong.other))
		assert.Equal(t, http.StatusUnprocessableEntity, status, name)
		var p problem.Problem
		require.NoError(t, json.Unmarshal([]byte(said), &p))
		var faults []string
		for _, f := range p.Faults {
			faults = append(faults, f.Pointer+" "+f.What)
		}
		assert.Equal(t, wrong.says, strings.Join(faults, " "), name)
	}

	many := map[string]any{}
	for i := range 1000 {
		many[fmt.Sprint("f", i)] = "x"
	}
	for name, c := range map[string]struct {
		status           int
		path, from, body string
	}{
		"a field that is not there":      {422, mark, origin, filled(3, hash, map[string]any{"role": "admin"})},
		"what nobody sends":              {422, mark, origin, filled(3, hash, map[string]any{"from": "forged"})},
		"an agreement that is not asked": {422, mark, origin, filled(3, hash, map[string]any{"marketing": true})},
		"a thousand fields":              {422, mark, origin, filled(3, hash, many)},
		"1 MB in a field": {
			413, mark, origin, filled(3, hash, map[string]any{"say": strings.Repeat("x", 1<<20)}),
		},
		"an attached script as a value": {422, mark, origin, filled(3, hash, map[string]any{"say": []string{"<script>"}})},
		"a form that never was":         {422, mark, origin, filled(3, strings.Repeat("0", 64), nil)},
		"a robot": {422, mark, origin, strings.Replace(
			filled(3, hash, nil), `"hash"`, `"trap":"buy","hash"`, 1)},
		"another site":  {403, mark, "https://evil.example", filled(3, hash, nil)},
		"no origin":     {403, mark, "null", filled(3, hash, nil)},
		"no mark":       {428, "", origin, filled(3, hash, nil)},
		"a forged mark": {428, strings.Repeat("A", 27), origin, filled(3, hash, nil)},
		"no number":     {400, mark, origin, strings.Replace(filled(3, hash, nil), fmt.Sprintf("%032x", 3), "../x", 1)},
		"no JSON":       {400, mark, origin, "mail=ada"},
		"U+0000":        {400, mark, origin, filled(3, hash, map[string]any{"name": "a\x00b"})},
		"no address of a page": {400, mark, origin, strings.Replace(
			filled(3, hash, nil), "https://www.s.example/book", "x", 1)},
	} {
		wait()
		status, said := b.tell("POST", "/forms/s?mark="+c.path, c.from, c.body)
		assert.Equal(t, c.status, status, "%s: %s", name, said)
	}
	status, _ = b.tell(
		"POST",
		"/forms/s?mark="+mark,
		origin,
		filled(4, hash, map[string]any{"say": "=1+1<img src=x onerror=a()>"}),
	)
	require.Equal(t, http.StatusNoContent, status)
	quick := func() string { _, m := b.tell("GET", "/forms/s", origin, ""); return m }()
	status, _ = b.tell("POST", "/forms/s?mark="+quick, origin, filled(5, hash, nil))
	assert.Equal(t, http.StatusTooEarly, status)
	b.clock.Set(b.clock.Now().Add(3 * time.Hour))
	status, _ = send(filled(5, hash, nil))
	assert.Equal(t, http.StatusPreconditionRequired, status, "a mark that has run out")
	mark = b.mark()

	// What it asked then is what counts, whatever it asks now.
	now := b.withForm(form.Form{}, field("other", form.Field{Kind: form.Text}))
	assert.NotEqual(t, hash, now)
	status, _ = send(filled(6, hash, nil))
	assert.Equal(t, http.StatusNoContent, status)

	refused := 0
	for i := range 60 {
		if status, _ := send(filled(100+i, hash, nil)); status == http.StatusTooManyRequests {
			refused++
		}
	}
	assert.Greater(t, refused, 20, "a flood from one address")
	b.clock.Set(b.clock.Now().Add(time.Hour))
	b.call("GET", "/api/sites/s/contacts", nil, &list)
	assert.Equal(t, 3+60-refused, list.Total)

	// Found, by whatever is filled in.
	found := func(query string) int {
		var l contacts.ContactList
		b.call("GET", "/api/sites/s/contacts?"+query, nil, &l)
		return l.Total
	}
	assert.Equal(t, 1, found("find=ONERROR"))
	assert.Equal(t, 0, found("find=onerror&field=name"))
	assert.Equal(t, list.Total, found("find=ada&field=name"))
	assert.Equal(t, list.Total, found("find=to+aldwick&field=route"), "in the words that it was asked in")
	assert.Equal(t, 0, found("find=%25"), "no pattern")
	assert.Equal(t, 0, found("notice=other"))
	assert.Equal(t, list.Total, found("from=2026-12-04&until=2026-12-04"))
	assert.Equal(t, 0, found("from=2026-12-05"))
	var p problem.Problem
	assert.Equal(t, http.StatusUnprocessableEntity, b.call("GET", "/api/sites/s/contacts?from=soon", nil, &p))

	// Out again, read by other readers.
	get := func(path string) string {
		res, err := b.client.Get(b.url + path)
		require.NoError(t, err)
		defer res.Body.Close()
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, res.StatusCode, string(raw))
		return string(raw)
	}
	table, err := csv.NewReader(strings.NewReader(get("/api/sites/s/contacts.csv?find=onerror"))).ReadAll()
	require.NoError(t, err)
	require.Len(t, table, 2)
	cell := table[1][slices.Index(table[0], "The say")]
	assert.Equal(t, "'=1+1<img src=x onerror=a()>", cell, "no formula")
	card, err := vcard.NewDecoder(strings.NewReader(get("/api/sites/s/contacts.vcf?find=onerror"))).Decode()
	require.NoError(t, err)
	assert.Equal(t, "4.0", card.Value(vcard.FieldVersion))
	assert.Equal(t, "Ada", card.PreferredValue(vcard.FieldFormattedName))
	assert.Equal(t, "ada@visitor.example", card.Value(vcard.FieldEmail))
	assert.Equal(t, "tel:+441632960199", card.Value(vcard.FieldTelephone))
	assert.Contains(t, card.Value(vcard.FieldNote), "News: Storms, Fares, and more")
	assert.Contains(t, card.Value(vcard.FieldNote), "Agreed: Write to me about changes.")
	var line form.Contact
	require.NoError(t, json.Unmarshal([]byte(get("/api/sites/s/contacts.jsonl?find=onerror")), &line))
	assert.Equal(t, "=1+1<img src=x onerror=a()>", line.Text("say"))

	// Erased for good: it does not come back.
	assert.Equal(t, http.StatusOK, b.call("POST", "/api/sites/s/contacts/erase",
		contacts.ContactErasure{IDs: []string{fmt.Sprintf("%032x", 1)}}, nil))
	assert.Equal(t, http.StatusNotFound, b.call("POST", "/api/sites/s/contacts/erase",
		contacts.ContactErasure{IDs: []string{fmt.Sprintf("%032x", 1)}}, &p))
	mark = b.mark()
	status, _ = send(filled(1, hash, nil))
	assert.Equal(t, http.StatusGone, status)
	b.clock.Set(start.AddDate(1, 0, 2))
	n, err := b.server.Carrier.Expire(t.Context(), b.server.Contacts)
	require.NoError(t, err)
	assert.EqualValues(t, list.Total-1, n, "kept long enough")
	assert.Zero(t, found(""))

	// Who looked and exported is in the activity; who has not the right sees nothing.
	all, err := b.server.Store.Activity(t.Context(), "s", "", false)
	require.NoError(t, err)
	acts := map[string]int{}
	for _, a := range all {
		acts[a.Deed.String()]++
	}
	assert.Positive(t, acts["looked at contacts"])
	assert.Equal(t, 1, acts["exported one contact as vCard"])
	assert.Equal(t, 1, acts["erased one contact"])
	for role, right := range map[string]bool{rights.Editor: false, rights.Viewer: true} {
		_, err := b.server.Store.SetRights(
			t.Context(), store.Person{Email: "ines@s.example", Role: role, Contacts: right}, b.clock.Now(),
		)
		require.NoError(t, err)
		for _, path := range []string{"contacts", "contacts.csv", "contacts.jsonl", "contacts.vcf", "contacts/passing"} {
			assert.Equal(t, http.StatusForbidden, b.call("GET", "/api/sites/s/"+path, nil, &p), path)
		}
		assert.Equal(
			t,
			http.StatusForbidden,
			b.call("POST", "/api/sites/s/contacts/erase", contacts.ContactErasure{}, &p),
		)
		assert.Equal(t, http.StatusForbidden, b.call("POST", "/api/sites/s/contacts/retry", contacts.DeliveryRetry{}, &p))
	}
	_, err = b.server.Store.SetRights(
		t.Context(), store.Person{Email: "ines@s.example", Role: rights.Editor, Contacts: true}, b.clock.Now(),
	)
	require.NoError(t, err)
	assert.Zero(t, found(""), "an editor with the right")
}

// An address counts once it was confirmed by whoever got the letter, and not by a program that
// looks into letters; then it is passed on, once.
func TestConfirmedByMail(t *testing.T) {
	b := newBench(t).signIn()
	hash := b.withForm(form.Form{Confirm: "mail", PassOn: []form.Receiver{{Mail: "desk@s.example"}}})
	status, said := b.tell("POST", "/forms/s?mark="+b.mark(), origin, filled(1, hash, nil))
	require.Equal(t, http.StatusNoContent, status, said)
	require.NoError(t, b.server.Carrier.Carry(t.Context()))
	letters := func() (all []people.Mail) {
		var m people.Mailbox
		b.call("GET", "/api/mailbox", nil, &m)
		return m.Messages
	}
	require.Len(t, letters(), 1)
	letter := letters()[0]
	assert.Equal(t, "ada@visitor.example", letter.To)
	assert.Equal(t, "S: please confirm your address", letter.Subject)
	link := regexp.MustCompile(`http://notices\.example(/forms/s/[A-Za-z0-9_-]+)`).FindStringSubmatch(letter.Body)
	require.NotNil(t, link, letter.Body)

	open := func(method, path string) (int, string) {
		r, err := http.NewRequest(method, b.url+path, nil)
		require.NoError(t, err)
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer res.Body.Close()
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'none'")
		return res.StatusCode, string(raw)
	}
	status, page := open("GET", link[1])
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, page, "Is this address yours, and did you give it on S?")
	var list contacts.ContactList
	b.call("GET", "/api/sites/s/contacts", nil, &list)
	assert.True(t, list.Contacts[0].Waiting, "opening it confirms nothing")
	token := []byte(strings.TrimPrefix(link[1], "/forms/s/"))
	if token[40] == 'A' { // another letter in the code that nobody else can make
		token[40] = 'B'
	} else {
		token[40] = 'A'
	}
	for _, forged := range []string{"x", strings.Repeat("A", 43), string(token)} {
		status, _ := open("POST", "/forms/s/"+forged)
		assert.Equal(t, http.StatusGone, status)
	}
	for range 2 { // pressed twice
		status, page = open("POST", link[1])
		assert.Equal(t, http.StatusOK, status)
		assert.Contains(t, page, "Your address is confirmed.")
	}
	list = contacts.ContactList{}
	b.call("GET", "/api/sites/s/contacts", nil, &list)
	assert.False(t, list.Contacts[0].Waiting)
	require.NoError(t, b.server.Carrier.Carry(t.Context()))
	require.Len(t, letters(), 2, "passed on once")
	assert.Equal(t, "desk@s.example", letters()[0].To)
	assert.Contains(t, letters()[0].Body, "Route: To Aldwick")

	// Nobody confirms it: it goes after a week, and its letter says that.
	status, _ = b.tell("POST", "/forms/s?mark="+b.mark(), origin, filled(2, hash, nil))
	require.Equal(t, http.StatusNoContent, status)
	require.NoError(t, b.server.Carrier.Carry(t.Context()))
	link = regexp.MustCompile(`/forms/s/[A-Za-z0-9_-]+`).FindStringSubmatch(letters()[0].Body)
	b.clock.Set(b.clock.Now().AddDate(0, 0, 8))
	n, err := b.server.Carrier.Expire(t.Context(), b.server.Contacts)
	require.NoError(t, err)
	assert.EqualValues(t, 1, n)
	outbox := func() int {
		list, err := os.ReadDir(filepath.Join(b.dir, standin.OutboxName))
		require.NoError(t, err)
		return len(list)
	}
	require.Len(t, letters(), 2, "its letter goes with it")
	assert.Equal(t, 2, outbox())
	status, page = open("POST", link[0])
	assert.Equal(t, http.StatusGone, status)
	assert.Contains(t, page, "This link no longer works")

	// Erased with all that the mailbox has of it.
	assert.Equal(t, http.StatusOK, b.call("POST", "/api/sites/s/contacts/erase",
		contacts.ContactErasure{IDs: []string{fmt.Sprintf("%032x", 1)}}, nil))
	assert.Empty(t, letters())
	assert.Zero(t, outbox())

	// What went out long ago is forgotten, though the contact is still kept.
	status, _ = b.tell("POST", "/forms/s?mark="+b.mark(), origin, filled(3, hash, nil))
	require.Equal(t, http.StatusNoContent, status)
	require.NoError(t, b.server.Carrier.Carry(t.Context()))
	open("POST", regexp.MustCompile(`/forms/s/[A-Za-z0-9_-]+`).FindStringSubmatch(letters()[0].Body)[0])
	require.NoError(t, b.server.Carrier.Carry(t.Context()))
	require.Len(t, letters(), 2)
	b.clock.Set(b.clock.Now().AddDate(0, 0, 31))
	n, err = b.server.Carrier.Expire(t.Context(), b.server.Contacts)
	require.NoError(t, err)
	assert.Zero(t, n)
	assert.Empty(t, letters())
	assert.Zero(t, outbox())
}

// What is passed on arrives at least once, and never twice under one key, though the receiver is
// away, answers 500, or answers after it was given up; its signature holds.
func TestPassedOn(t *testing.T) {
	b := newBench(t).signIn()
	var mu sync.Mutex
	came, bodies := map[string]int{}, map[string]string{}
	answer := func(w http.ResponseWriter) { w.WriteHeader(http.StatusNoContent) }
	secret, err := b.server.Store.Secret(t.Context(), post.SecretName("s"))
	require.NoError(t, err)
	var address string
	desk := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, err := io.ReadAll(r.Body)
		assert.NoError(t, err)
		assert.NoError(t, signature.Verify(r, address, body, secret, b.clock.Now()))
		mu.Lock()
		defer mu.Unlock()
		key := r.Header.Get(signature.KeyHeader)
		came[key]++
		bodies[key] = string(body)
		answer(w)
	}))
	defer desk.Close()
	address = desk.URL + "/contacts"
	hash := b.withForm(form.Form{PassOn: []form.Receiver{{Address: address}}})
	b.server.Carrier.Web = http.DefaultTransport
	send := func(n int) {
		status, said := b.tell("POST", "/forms/s?mark="+b.mark(), origin, filled(n, hash, nil))
		require.Equal(t, http.StatusNoContent, status, said)
		require.NoError(t, b.server.Carrier.Carry(t.Context()))
	}
	state := func(n int) contacts.Delivery {
		var list contacts.ContactList
		b.call("GET", "/api/sites/s/contacts", nil, &list)
		for _, c := range list.Contacts {
			if c.ID == fmt.Sprintf("%032x", n) {
				require.Len(t, c.Deliveries, 1)
				return c.Deliveries[0]
			}
		}
		return contacts.Delivery{}
	}
	later := func(d time.Duration) {
		b.clock.Set(b.clock.Now().Add(d))
		require.NoError(t, b.server.Carrier.Carry(t.Context()))
	}
	send(1)
	assert.Equal(t, store.OutDone, state(1).State)
	var passed post.Passed
	require.NoError(t, json.Unmarshal([]byte(bodies[`"`+state(1).Key+`"`]), &passed))
	assert.Equal(t, "s", passed.Site)
	assert.Equal(t, "Ada", passed.Contact.Text("name"))

	answer = func(w http.ResponseWriter) { w.WriteHeader(http.StatusInternalServerError) }
	send(2)
	d := state(2)
	assert.Equal(
		t,
		[]any{store.OutWaiting, 1, "the address answered 500 Internal Server Error"},
		[]any{d.State, d.Tries, d.Why},
	)
	later(10 * time.Second)
	assert.Equal(t, 1, state(2).Tries, "not before its time")
	later(30 * time.Second)
	assert.Equal(t, 2, state(2).Tries)
	// It takes the next, and its answer does not arrive.
	answer = func(w http.ResponseWriter) { panic(http.ErrAbortHandler) }
	later(2 * time.Minute)
	assert.Equal(t, store.OutWaiting, state(2).State)
	answer = func(w http.ResponseWriter) { w.WriteHeader(http.StatusOK) }
	later(5 * time.Minute)
	assert.Equal(t, store.OutDone, state(2).State)
	times := came[`"`+state(2).Key+`"`]
	assert.GreaterOrEqual(t, times, 4, "each time under the same key, by which the receiver knows it")
	assert.Len(t, came, 2)
	later(24 * time.Hour)
	assert.Equal(t, times, came[`"`+state(2).Key+`"`], "and no more")

	// Gone for good, and asked for once more; away for days, and given up.
	answer = func(w http.ResponseWriter) { w.WriteHeader(http.StatusGone) }
	send(3)
	assert.Equal(t, store.OutGivenUp, state(3).State)
	answer = func(w http.ResponseWriter) { w.WriteHeader(http.StatusAccepted) }
	assert.Equal(
		t,
		http.StatusOK,
		b.call("POST", "/api/sites/s/contacts/retry", contacts.DeliveryRetry{ID: state(3).ID}, nil),
	)
	later(0)
	assert.Equal(t, store.OutDone, state(3).State)
	assert.Equal(t, http.StatusNotFound, b.call("POST", "/api/sites/s/contacts/retry",
		contacts.DeliveryRetry{ID: state(3).ID}, new(problem.Problem)), "what went out does not go out again")
	desk.Close()
	send(4)
	assert.Contains(t, state(4).Why, "connection was refused")
	for range 40 {
		later(6 * time.Hour)
	}
	assert.Equal(t, store.OutGivenUp, state(4).State)

	// A private address is not reached, unless it is allowed.
	b.server.Carrier.Web = nil
	b2 := newBench(t).signIn()
	hash = b2.withForm(form.Form{PassOn: []form.Receiver{{Address: "http://127.0.0.1:9/contacts"}}})
	status, _ := b2.tell("POST", "/forms/s?mark="+b2.mark(), origin, filled(1, hash, nil))
	require.Equal(t, http.StatusNoContent, status)
	require.NoError(t, b2.server.Carrier.Carry(t.Context()))
	var list contacts.ContactList
	b2.call("GET", "/api/sites/s/contacts", nil, &list)
	assert.Contains(t, list.Contacts[0].Deliveries[0].Why, "--contact-hosts")
}

// Every hostile text that visitors can send is refused, or comes out of every export, and of the
// letter and the request that pass it on, as the text that it is.
func TestHostileAnswers(t *testing.T) {
	b := newBench(t).signIn()
	var bodies []string
	desk := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		bodies = append(bodies, string(body))
	}))
	defer desk.Close()
	b.server.Carrier.Web = http.DefaultTransport
	hash := b.withForm(form.Form{PassOn: []form.Receiver{{Address: desk.URL}, {Mail: "desk@s.example"}}},
		field("say", form.Field{Kind: form.Long}), field("name", form.Field{Kind: form.Text, Fill: "name"}))
	sent := map[string]bool{}
	for name, text := range hostile {
		raw, err := json.Marshal(map[string]any{"id": fmt.Sprintf("%032x", len(sent)+1), "hash": hash,
			"url": "https://www.s.example/", "values": map[string]string{
				"say": text, "name": strings.Join(strings.Fields(text), " "),
			}})
		require.NoError(t, err)
		status, said := b.tell("POST", "/forms/s?mark="+b.mark(), origin, string(raw))
		b.clock.Set(b.clock.Now().Add(time.Minute))
		if status == http.StatusUnprocessableEntity {
			assert.Contains(t, said, "not-understood", name)
			continue
		}
		require.Equal(t, http.StatusNoContent, status, "%s: %s", name, said)
		sent[strings.TrimSpace(strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text))] = true
	}
	assert.Greater(t, len(sent), 15)
	require.NoError(t, b.server.Carrier.Carry(t.Context()))
	_, table := b.file("/api/sites/s/contacts.csv")
	assert.Empty(t, safeCSV(table))
	_, lines := b.file("/api/sites/s/contacts.jsonl")
	_, cards := b.file("/api/sites/s/contacts.vcf")
	got := map[string]bool{}
	for line := range strings.Lines(lines) {
		var c form.Contact
		require.NoError(t, json.Unmarshal([]byte(line), &c))
		got[c.Text("say")] = true
	}
	assert.Equal(t, sent, got)
	d, n := vcard.NewDecoder(strings.NewReader(cards)), 0
	for {
		card, err := d.Decode()
		if err == io.EOF {
			break
		}
		require.NoError(t, err)
		n++
		said, _ := strings.CutPrefix(card.Value(vcard.FieldNote), "The say: ")
		assert.True(t, sent[said], said)
	}
	assert.Equal(t, len(sent), n)
	passed := map[string]bool{}
	for _, body := range bodies {
		var p post.Passed
		require.NoError(t, json.Unmarshal([]byte(body), &p))
		passed[p.Contact.Text("say")] = true
	}
	assert.Equal(t, sent, passed)
	var box people.Mailbox
	b.call("GET", "/api/mailbox", nil, &box)
	assert.Len(t, box.Messages, len(sent))
	for _, m := range box.Messages {
		assert.Equal(t, "desk@s.example", m.To)
	}
}

// A form is taken for two hours after it was last shown, however it ended, and not a moment longer.
func TestFormsEnd(t *testing.T) {
	minutes := func(n int) time.Duration { return time.Duration(n) * time.Minute }
	for says, end := range map[string]func(b *bench){
		"unpublished": func(b *bench) { b.step("unpublish") },
		"paused":      func(b *bench) { b.step("pause") },
		"deleted":     func(b *bench) { b.step("delete") },
		"switched off": func(b *bench) {
			var s sites.SiteDetail
			b.call("GET", "/api/sites/s", nil, &s)
			b.call("POST", "/api/sites/s/display", sites.DisplaySwitch{Revision: s.Revision, On: false}, nil)
		},
		"over": func(b *bench) {
			var d notices.NoticeDetail
			b.call("GET", "/api/sites/s/notices/subscribe", nil, &d)
			until := b.clock.Now().Add(time.Minute).In(b.server.Hub.Site("s").Zone())
			b.call("POST", "/api/sites/s/notices/subscribe/end", notices.EndAt{
				Revision: d.Card.Revision, Until: until.Format("2006-01-02T15:04"),
			}, &d)
			b.clock.Set(until.Truncate(time.Minute))
		},
	} {
		t.Run(says, func(t *testing.T) {
			b := newBench(t).signIn()
			hash := b.withForm(form.Form{})
			send := func(n int) int {
				t.Helper()
				status, _ := b.tell("POST", "/forms/s?mark="+b.mark(), origin, filled(n, hash, nil))
				return status
			}
			b.clock.Set(b.clock.Now().AddDate(0, 0, 3))
			require.Equal(t, http.StatusNoContent, send(1), "as long as it is shown")
			b.clock.Set(b.clock.Now().Truncate(time.Minute))
			end(b)
			ended := b.clock.Now()
			b.clock.Set(ended.Add(minutes(119)))
			assert.Equal(t, http.StatusNoContent, send(2))
			b.clock.Set(ended.Add(minutes(121)))
			assert.Equal(t, http.StatusGone, send(3))
			if says == "paused" {
				b.step("resume")
				assert.Equal(t, http.StatusNoContent, send(4), "shown again")
			}
		})
	}
}

// The bounds of rules F3, F4 and F6: how soon a form may be sent, how many letters an address gets in a day,
// for how long the number of a contact that was erased is kept, and how often it is noted who looks.
func TestBoundsOfForms(t *testing.T) {
	b := newBench(t).signIn()
	hash := b.withForm(form.Form{Confirm: "mail"})
	at := b.clock.Now()
	later := func(d time.Duration) { at = at.Add(d); b.clock.Set(at) }
	send := func(n int, mark, address string) int {
		t.Helper()
		status, _ := b.tell("POST", "/forms/s?mark="+mark, origin, filled(n, hash, map[string]any{"mail": address}))
		return status
	}
	later(time.Minute)
	at = at.Truncate(time.Minute)
	b.clock.Set(at)
	_, mark := b.tell("GET", "/forms/s", origin, "")
	later(2*time.Second - time.Millisecond)
	assert.Equal(t, http.StatusTooEarly, send(1, mark, "ada@visitor.example"))
	later(time.Millisecond)
	assert.Equal(t, http.StatusNoContent, send(1, mark, "ada@visitor.example"))

	letters := func() int {
		t.Helper()
		require.NoError(t, b.server.Carrier.Carry(t.Context()))
		list, err := b.server.Store.Messages(t.Context(), "")
		require.NoError(t, err)
		return len(list)
	}
	for i := range 7 {
		later(10 * time.Second)
		require.Equal(t, http.StatusNoContent, send(2+i, mark, fmt.Sprintf("bo+%d@visitor.example", i)))
	}
	assert.Equal(t, 1+5, letters(), "to each of two addresses")

	erased := contacts.ContactErasure{IDs: []string{fmt.Sprintf("%032x", 1)}}
	require.Equal(t, http.StatusOK, b.call("POST", "/api/sites/s/contacts/erase", erased, nil))
	again := func() int {
		t.Helper()
		_, err := b.server.Carrier.Expire(t.Context(), b.server.Contacts)
		require.NoError(t, err)
		mark := b.mark()
		at = b.clock.Now()
		return send(1, mark, "ada@visitor.example")
	}
	later(29*24*time.Hour + 23*time.Hour)
	b.signIn()
	assert.Equal(t, http.StatusGone, again())
	later(2 * time.Hour)
	assert.Equal(t, http.StatusNoContent, again())

	looked := func() (n int) {
		t.Helper()
		b.call("GET", "/api/sites/s/contacts", nil, nil)
		all, err := b.server.Store.Activity(t.Context(), "s", "", false)
		require.NoError(t, err)
		for _, a := range all {
			if a.Deed.String() == "looked at contacts" {
				n++
			}
		}
		return n
	}
	first := looked()
	later(time.Hour - time.Second)
	assert.Equal(t, first, looked())
	later(time.Second)
	assert.Equal(t, first+1, looked())
}

// step acts on the form that withForm publishes.
func (b *bench) step(what string) {
	b.t.Helper()
	row, err := b.server.Store.Notice(b.t.Context(), "s", "subscribe")
	require.NoError(b.t, err)
	require.Equal(b.t, 200, b.try("POST", "/api/sites/s/notices/subscribe/"+what, notices.Step{Revision: row.Revision}))
}

// Nobody’s mailbox is flooded by a form: one letter at a time to an address, five a day whatever
// stands behind its plus, and so many of a form; what waits counts once any letter is answered.
func TestLettersAreFew(t *testing.T) {
	b := newBench(t).signIn()
	hash := b.withForm(form.Form{Confirm: "mail", PassOn: []form.Receiver{{Mail: "desk@s.example"}}})
	n := 0
	send := func(address string) int {
		t.Helper()
		n++
		b.clock.Set(b.clock.Now().Add(5 * time.Second))
		status, _ := b.tell("POST", "/forms/s?mark="+b.mark(), origin, filled(n, hash, map[string]any{"mail": address}))
		return status
	}
	letters := func() (to []string) {
		t.Helper()
		require.NoError(t, b.server.Carrier.Carry(t.Context()))
		list, err := b.server.Store.Messages(t.Context(), "")
		require.NoError(t, err)
		for _, m := range list {
			to = append(to, m.To)
		}
		return to
	}
	for _, address := range []string{"ada@visitor.example", "Ada@Visitor.example", "ada@visitor.example"} {
		require.Equal(t, http.StatusNoContent, send(address), "who sends is told nothing of others")
	}
	assert.Equal(t, []string{"ada@visitor.example"}, letters())
	for i := range 6 {
		require.Equal(t, http.StatusNoContent, send(fmt.Sprintf("ada+%d@visitor.example", i)))
	}
	assert.Len(t, letters(), 3, "five were asked for, two of them while one was open")

	// The one letter confirms all that wait for the address; those of other addresses wait.
	list, err := b.server.Store.Messages(t.Context(), "")
	require.NoError(t, err)
	body, err := b.server.Carrier.Office.Read(list[len(list)-1].Letter)
	require.NoError(t, err)
	link := regexp.MustCompile(`/forms/s/[A-Za-z0-9_-]+`).FindString(body)
	res, err := http.Post(b.url+link, "", nil)
	require.NoError(t, err)
	res.Body.Close()
	require.Equal(t, 200, res.StatusCode)
	var kept contacts.ContactList
	b.call("GET", "/api/sites/s/contacts", nil, &kept)
	waiting := map[bool]int{}
	for _, c := range kept.Contacts {
		waiting[c.Waiting]++
	}
	assert.Equal(t, map[bool]int{false: 3, true: 6}, waiting)
	passed := 0
	for _, to := range letters() {
		if to == "desk@s.example" {
			passed++
		}
	}
	assert.Equal(t, 3, passed)
}

// What was erased is in no file of the data folder any more while the program runs: neither in
// the database, nor in its write-ahead log, nor in the outbox.
func TestErasedEverywhere(t *testing.T) {
	b := newBench(t).signIn()
	hash := b.withForm(form.Form{Confirm: "mail", PassOn: []form.Receiver{{Mail: "desk@s.example"}}})
	const secret = "Wendeltreppe"
	holds := func(what string) (in []string) {
		t.Helper()
		require.NoError(t, filepath.WalkDir(b.dir, func(path string, f os.DirEntry, err error) error {
			if err != nil || f.IsDir() {
				return err
			}
			raw, err := os.ReadFile(path)
			if strings.Contains(strings.ToLower(string(raw)), strings.ToLower(what)) {
				in = append(in, filepath.Base(path))
			}
			return err
		}))
		return in
	}
	send := func(n int) {
		t.Helper()
		status, _ := b.tell("POST", "/forms/s?mark="+b.mark(), origin, filled(n, hash, map[string]any{
			"mail": fmt.Sprintf("%s%d@visitor.example", secret, n), "say": strings.Repeat(secret+" ", 200),
		}))
		require.Equal(t, http.StatusNoContent, status)
		require.NoError(t, b.server.Carrier.Carry(t.Context()))
		b.clock.Set(b.clock.Now().Add(10 * time.Second))
	}
	send(1)
	send(2)
	assert.Subset(t, holds(secret), []string{"mastflag.db-wal"}, "it is looked for where it is")
	require.Equal(t, 200, b.call("POST", "/api/sites/s/contacts/erase",
		contacts.ContactErasure{IDs: []string{fmt.Sprintf("%032x", 1)}}, nil))
	assert.Empty(t, holds(secret+"1@"))
	b.clock.Set(b.clock.Now().AddDate(0, 0, 8)) // nobody confirmed the other
	_, err := b.server.Carrier.Expire(t.Context(), b.server.Contacts)
	require.NoError(t, err)
	assert.Empty(t, holds(secret))

	// So is what a visitor has taken out of the records, though somebody reads meanwhile: a little later.
	b.asking()
	_, body, _ := b.visit(origin, `{"url":"/"}`)
	var d struct{ Consent struct{ Hash, Mark string } }
	require.NoError(t, json.Unmarshal([]byte(body), &d))
	status, said := b.tell("POST", "/r/s?mark="+d.Consent.Mark, origin, fmt.Sprintf(
		`{"id":"%032x","hash":"%s","granted":[],"refused":["measurement","marketing"],"how":"button","page":"/%s"}`, 9,
		d.Consent.Hash, secret,
	))
	require.Equal(t, http.StatusNoContent, status, said)
	require.NotEmpty(t, holds(secret))
	reader, err := b.server.Store.DB().BeginTx(t.Context(), &sql.TxOptions{ReadOnly: true})
	require.NoError(t, err)
	var n int
	require.NoError(t, reader.QueryRow("SELECT count(*) FROM consent_record").Scan(&n))
	status, _ = b.tell("DELETE", fmt.Sprintf("/r/s/%032x", 9), origin, "")
	require.Equal(t, http.StatusNoContent, status)
	require.NoError(t, reader.Rollback())
	b.server.Store.ScrubLater(t.Context())
	assert.Empty(t, holds(secret))
}
