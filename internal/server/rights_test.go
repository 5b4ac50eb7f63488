package server_test

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"regexp"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/form"
	"mastflag/core/pages"
	"mastflag/core/rights"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/languages"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/people"
	"mastflag/internal/admin/sites"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// person is the bench as someone of a role who is signed in.
func (b *bench) person(role string, sites ...string) *bench {
	b.t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(b.t, err)
	at, err := url.Parse(b.url)
	require.NoError(b.t, err)
	jar.SetCookies(at, []*http.Cookie{b.as(role, sites...)})
	c := *b
	c.client = &http.Client{Jar: jar}
	return &c
}

// try is a call whose outcome alone counts.
func (b *bench) try(method, path string, in any) int {
	b.t.Helper()
	raw, err := json.Marshal(in)
	require.NoError(b.t, err)
	r, err := http.NewRequest(method, b.url+path, bytes.NewReader(raw))
	require.NoError(b.t, err)
	res, err := b.client.Do(r)
	require.NoError(b.t, err)
	defer res.Body.Close()
	_, err = io.Copy(io.Discard, res.Body)
	require.NoError(b.t, err)
	return res.StatusCode
}

// Whoever was taken off, or may do less, is not brought back by what was under way, or by a
// letter: an invitation says whom it lets in, and never what they may do.
func TestRightsDoNotComeBack(t *testing.T) {
	ines := newBench(t).signIn()
	st, ctx := ines.server.Store, t.Context()
	const jo = "jo@s.example"
	right := hashed(t, "the old words")
	letter := func(email string) string {
		t.Helper()
		var mail people.Mailbox
		box := ines
		if email != "" { // a letter for one person alone
			box = ines.another()
			require.Equal(t, 200, box.try("POST", "/api/sign-in", people.Credentials{Email: email, Password: "the old words"}))
		}
		box.call("GET", "/api/mailbox", nil, &mail)
		return joinAddress.FindStringSubmatch(mail.Messages[0].Body)[1]
	}
	join := func(token string) int {
		t.Helper()
		return ines.another().try("POST", "/api/join", people.Join{Token: token, Name: "Jo", Password: "words chosen anew"})
	}
	begin := func() *bench {
		t.Helper()
		_, err := st.RemovePerson(ctx, jo, ines.clock.Now())
		if err != nil {
			require.ErrorIs(t, err, store.ErrNotFound)
		}
		require.NoError(t, st.AddPerson(ctx, store.Person{Email: jo, Role: rights.Administrator, Password: right}))
		return ines.another()
	}
	for name, change := range map[string]func(){
		"removed": func() { ines.try("POST", "/api/people/remove", base.Address{Email: jo}) },
		"demoted": func() { ines.try("POST", "/api/people/change", people.Person{Email: jo, Role: rights.Viewer}) },
	} {
		is := func(says string) {
			t.Helper()
			p, err := st.Person(ctx, jo)
			if name == "removed" {
				assert.ErrorIs(t, err, store.ErrNotFound, says)
			} else {
				assert.Equal(t, rights.Viewer, p.Role, says)
			}
		}
		for range 3 { // while a password is hashed twice
			b := begin()
			require.Equal(t, 200, b.try("POST", "/api/sign-in", people.Credentials{Email: jo, Password: "the old words"}))
			var wait sync.WaitGroup
			wait.Go(func() {
				b.try("POST", "/api/me/password", people.PasswordChange{Old: "the old words", New: "a few good words"})
			})
			wait.Go(func() {
				b.another().try("POST", "/api/sign-in", people.Credentials{Email: jo, Password: "the old words"})
			})
			change()
			wait.Wait()
			is(name + " while the password was changed")
			assert.NotEqual(t, 200, b.try("POST", "/api/sites", sites.NewSite{
				Name: "Own", Address: "own.example", TimeZone: "UTC",
			}), "%s: made a site", name)
		}
		begin()
		ines.try("POST", "/api/people/invite", people.Person{Email: jo, Role: rights.Viewer})
		token := letter(jo)
		change()
		assert.Equal(t, http.StatusGone, join(token), "%s with a letter open", name)
		is(name + " with a letter open")

		// Nor does whoever may invite no more come in by an invitation of their own.
		b := begin()
		require.Equal(t, 200, b.try("POST", "/api/sign-in", people.Credentials{Email: jo, Password: "the old words"}))
		b.try("POST", "/api/people/invite", people.Person{Email: "sock@s.example", Role: rights.Administrator})
		var mail people.Mailbox
		b.call("GET", "/api/mailbox", nil, &mail)
		token = joinAddress.FindStringSubmatch(mail.Messages[0].Body)[1]
		change()
		assert.Equal(t, http.StatusGone, join(token), "%s after inviting", name)
		var list people.PeopleList
		ines.call("POST", "/api/people/remove", base.Address{Email: "sock@s.example"}, &list)
		assert.Empty(t, list.Invited)
	}

	// A letter for a new password ends with the old one.
	b := begin()
	ines.try("POST", "/api/people/invite", people.Person{Email: jo, Role: rights.Viewer})
	token := letter(jo)
	require.Equal(t, 200, b.try("POST", "/api/sign-in", people.Credentials{Email: jo, Password: "the old words"}))
	change := people.PasswordChange{Old: "the old words", New: "a few good words"}
	require.Equal(t, 200, b.try("POST", "/api/me/password", change))
	assert.Equal(t, http.StatusGone, join(token))

	// Whoever is invited has no password, and an empty one is none.
	ines.try("POST", "/api/people/invite", people.Person{Email: "new@s.example", Role: rights.Viewer})
	for _, guess := range []string{"", "x"} {
		assert.Equal(t, 401, ines.another().try("POST", "/api/sign-in", people.Credentials{
			Email: "new@s.example", Password: guess,
		}))
	}
	// Their rights are those of the day on which they join.
	token = letter("")
	ines.try("POST", "/api/people/invite", people.Person{Email: "new@s.example", Role: rights.Editor})
	assert.Equal(t, http.StatusGone, join(token), "an earlier letter")
	assert.Equal(t, 200, join(letter("")))
	p, err := st.Person(ctx, "new@s.example")
	require.NoError(t, err)
	assert.Equal(t, rights.Editor, p.Role)

	// A write that was begun before the rights changed is refused at its end.
	_, err = st.DB().Exec("UPDATE person SET role = 'viewer' WHERE email = 'ines@s.example'")
	require.NoError(t, err)
	assert.Equal(t, 403, ines.try("POST", "/api/sites/s/notices", notices.NewNotice{Title: "x"}))
}

// Every way of changing a notice, in every state, for an editor: of code nothing more is out than
// before and nothing else is written, whatever the route; of other kinds nothing is refused. The
// ways are those of the table of routes.
func TestEveryWayOfChangingCode(t *testing.T) {
	b := newBench(t).signIn()
	e := b.person(rights.Editor)
	code := &bundle.Content{Code: &bundle.PageCode{End: "<script>\nwindow.timed = 1\n</script>"}}
	words := &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "Hello"}}}
	states := []string{"draft", "published", "with a draft", "paused", "unpublished", "deleted"}
	prepare := func(kind bundle.Kind, state string) notices.NoticeDetail {
		t.Helper()
		var d notices.NoticeDetail
		b.call("POST", "/api/sites/s/notices", notices.NewNotice{Title: string(kind), Kind: kind}, &d)
		write := func(content *bundle.Content, title string) {
			d.Notice.Content, d.Notice.Title = content, title
			d.Notice.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.Page, Path: "/"}}}
			b.call("PUT", "/api/sites/s/notices/"+d.Notice.ID, notices.NoticeChange{
				Revision: d.Card.Revision, Notice: d.Notice,
			}, &d)
		}
		content := words
		if kind == bundle.KindCode {
			content = code
		}
		write(content, "First")
		if state == "draft" {
			return d
		}
		d = b.act(d, "publish")
		switch state {
		case "with a draft":
			write(content, "Second")
		case "paused":
			d = b.act(d, "pause")
		case "unpublished":
			d = b.act(d, "unpublish")
		case "deleted":
			b.act(d, "delete")
			d.Card.Revision++
		}
		return d
	}
	// what of a notice is out, as visitors meet it, and what is written.
	type standing struct {
		out  []string
		text map[string]bool
	}
	stand := func(id string) standing {
		t.Helper()
		row, err := b.server.Store.Notice(t.Context(), "s", id)
		require.NoError(t, err)
		s := standing{text: map[string]bool{}}
		for _, path := range []string{"/", "/book"} {
			for _, shown := range b.shown(path) {
				if shown == id {
					s.out = append(s.out, path)
				}
			}
		}
		for _, n := range []*bundle.Notice{row.Draft, row.Published} {
			if n != nil {
				s.text[n.Title+n.GetCode().End+string(n.Kind)] = true
			}
		}
		return s
	}
	path := regexp.MustCompile(`^/api/sites/:site/notices/:notice(/.*)?$`)
	everywhere := &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}}
	refused, ways := 0, 0
	for _, kind := range []bundle.Kind{bundle.KindBar, bundle.KindCode} {
		for _, state := range states {
			for _, r := range b.server.Admin.Routes() {
				if r.Method == "GET" || !path.MatchString(r.Path) || r.Needs == rights.Administrator {
					continue
				}
				d := prepare(kind, state)
				id, step := d.Notice.ID, map[string]any{"revision": d.Card.Revision}
				var history notices.History
				b.call("GET", "/api/sites/s/notices/"+id+"/history", nil, &history)
				bodies := []map[string]any{step}
				with := func(fields ...any) {
					body := map[string]any{"revision": d.Card.Revision}
					for i := 0; i < len(fields); i += 2 {
						body[fields[i].(string)] = fields[i+1]
					}
					bodies = append(bodies, body)
				}
				wider := d.Notice
				wider.Pages = everywhere
				other := d.Notice
				other.Title = "Other"
				with("notice", wider)
				with("notice", other)
				with("until", "2027-03-01T12:00")
				with("language", "de")
				with("variant", "a")
				with("on", "/book")
				with("off", "/", "put", map[string]any{"out": everywhere, "draft": everywhere})
				with("put", map[string]any{"out": everywhere, "draft": everywhere})
				for _, line := range history.Lines {
					with("history", line.ID)
				}
				for _, body := range bodies {
					before := stand(id)
					status := e.try(r.Method, strings.NewReplacer(":site", "s", ":notice", id).Replace(r.Path), body)
					after := stand(id)
					ways++
					if status == http.StatusForbidden {
						refused++
						assert.Equal(t, bundle.KindCode, kind, "%s %s is an editor’s: %v", kind, r.Path, body)
						assert.Equal(t, before, after)
					}
					if kind == bundle.KindCode {
						assert.Subset(t, before.out, after.out, "%s of %s code: %v", r.Path, state, body)
						for text := range after.text {
							assert.True(t, before.text[text], "%s of %s code wrote %q: %v", r.Path, state, text, body)
						}
					}
				}
				b.server.Store.DB().Exec("UPDATE notice SET deleted_at = 1")
				require.NoError(t, b.server.Hub.ReloadAll(t.Context()))
			}
		}
	}
	t.Logf("%d ways tried, %d refused", ways, refused)
	assert.Greater(t, refused, 50)

	// The ways that are of the whole site.
	d := prepare(bundle.KindCode, "paused")
	id := d.Notice.ID
	var resumed notices.Paused
	e.call("POST", "/api/sites/s/pause", notices.PauseAll{Notices: []string{id}}, &resumed)
	assert.Empty(t, resumed.Notices)
	assert.Equal(t, []string{"First"}, resumed.Left)
	assert.Empty(t, stand(id).out)
	assert.Equal(t, 403, e.try("POST", "/api/sites/s/notices", notices.NewNotice{CopyOf: id}))
	assert.Equal(t, 403, e.try("POST", "/api/sites/s/notices", notices.NewNotice{Kind: bundle.KindCode}))
	assert.Equal(t, 200, b.try("PUT", "/api/sites/s", func() sites.SiteChange {
		var now sites.SiteDetail
		b.call("GET", "/api/sites/s", nil, &now)
		now.Site.Languages = []string{"en", "de"}
		return sites.SiteChange{Revision: now.Revision, Site: now.Site}
	}()))
	bar := prepare(bundle.KindBar, "draft").Notice.ID
	var file languages.XLIFFFile
	b.call("GET", "/api/sites/s/xliff?language=de&notice="+bar, nil, &file)
	file.Text = strings.ReplaceAll(file.Text, "</source>", "</source><target>Hallo</target>")
	var taken languages.Translated
	e.call("POST", "/api/sites/s/xliff", file, &taken)
	require.Equal(t, []string{"First"}, taken.Changed, "a bar’s text")
	file.Text = strings.ReplaceAll(file.Text, `"`+bar, `"`+id)
	e.call("POST", "/api/sites/s/xliff", file, &taken)
	assert.Empty(t, taken.Changed)
	assert.Equal(t, []string{id + ": Administrators write code"}, taken.Left)
	keep := func(c *bench, change func(*bundle.Site)) int {
		t.Helper()
		var now sites.SiteDetail
		b.call("GET", "/api/sites/s", nil, &now)
		change(&now.Site)
		return c.try("PUT", "/api/sites/s", sites.SiteChange{Revision: now.Revision, Site: now.Site})
	}
	set := func(entries ...pages.Entry) func(*bundle.Site) {
		return func(s *bundle.Site) {
			s.PageSets = []pages.SavedSet{{Name: "Where", Conditions: pages.Conditions{Include: entries}}}
		}
	}
	require.Equal(t, 200, keep(e, set(pages.Entry{Match: pages.Page, Path: "/"})), "a set that no code uses")
	d.Notice.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.InSet, Name: "Where"}}}
	b.call("PUT", "/api/sites/s/notices/"+id, notices.NoticeChange{Revision: d.Card.Revision, Notice: d.Notice}, &d)
	assert.Equal(t, 403, keep(e, set(pages.Entry{Match: pages.All})), "a set that says where code runs")
	assert.Equal(t, 200, keep(b, set(pages.Entry{Match: pages.All})))
	point := func(s *bundle.Site) {
		s.StartingPoints = []bundle.StartingPoint{{
			Name: "Code", Notice: bundle.Notice{ID: "point", Kind: bundle.KindCode, Content: code},
		}}
	}
	assert.Equal(t, 403, keep(e, point))
	assert.Equal(t, 200, keep(b, point))
}

// No way of the interface writes a notice but those that ask who may.
func TestNoticesAreWrittenByOneWay(t *testing.T) {
	found, err := filesWith(t, "../admin", `\.Store\.Change\(|st\.Change\(|\.AddNotice\(ctx`)
	require.NoError(t, err)
	assert.Equal(t, []string{"../admin/base/rights.go"}, found)
}

// Where contacts go, and that an address is confirmed first, is up to people who may see contacts.
func TestContactsGoWhereThoseSayWhoSeeThem(t *testing.T) {
	b := newBench(t).signIn()
	e := b.person(rights.Editor)
	here := []form.Receiver{{Address: "https://crm.s.example/in"}}
	evil := []form.Receiver{{Mail: "me@elsewhere.example"}}
	asks := func(confirm string, to []form.Receiver) *bundle.Content {
		return &bundle.Content{
			Wordings: map[string]bundle.Wording{"en": {Message: "Hello", Parts: map[string]bundle.PartWords{
				"mail": {Heading: "E-mail"}, "send": {Heading: "Send"},
			}}},
			Rows: []bundle.Row{{Columns: []bundle.Column{{Parts: []bundle.Part{
				{ID: "mail", Kind: bundle.PartField, Field: &form.Field{Kind: form.Email}},
				{ID: "send", Kind: bundle.PartSend},
			}}}}},
			Form: &form.Form{Confirm: confirm, PassOn: to},
		}
	}
	var d notices.NoticeDetail
	put := func(c *bench, content *bundle.Content) int {
		t.Helper()
		n := d.Notice
		n.Content = content
		status := c.try("PUT", "/api/sites/s/notices/"+n.ID, notices.NoticeChange{Revision: d.Card.Revision, Notice: n})
		b.call("GET", "/api/sites/s/notices/"+n.ID, nil, &d)
		return status
	}
	b.call("POST", "/api/sites/s/notices", notices.NewNotice{Kind: bundle.KindPopUp, Title: "Ask"}, &d)
	require.Equal(t, 200, put(e, asks("", nil)), "a form that goes nowhere is an editor’s")
	assert.Equal(t, 403, put(e, asks("", evil)))
	require.Equal(t, 200, put(b, asks("mail", here)))
	d = b.act(d, "publish")
	for says, content := range map[string]*bundle.Content{
		"another address": asks("mail", evil), "one address more": asks("mail", append(evil, here...)),
		"without confirming": asks("", here), "neither": asks("", nil),
	} {
		assert.Equal(t, 403, put(e, content), says)
	}
	more := asks("mail", here)
	more.Form.Keep = "P1M"
	require.Equal(t, 200, put(e, more), "all else of the form is an editor’s")
	d = e.act(d, "publish")
	assert.Equal(t, 200, put(e, asks("mail", nil)), "and so is to pass on nothing")

	// What an administrator took away does not come back by history, or by a starting point.
	require.Equal(t, 200, put(b, asks("mail", evil)))
	d = b.act(d, "publish")
	require.Equal(t, 200, put(b, asks("mail", here)))
	d = b.act(d, "publish")
	var h notices.History
	b.call("GET", "/api/sites/s/notices/ask/history", nil, &h)
	statuses := map[int]int{}
	for _, line := range h.Lines {
		if line.Restorable {
			statuses[e.try("POST", "/api/sites/s/notices/ask/restore", notices.Step{
				Revision: d.Card.Revision, History: line.ID,
			})]++
			b.call("GET", "/api/sites/s/notices/ask", nil, &d)
			assert.NotEqual(t, evil, d.Notice.Form().PassOn)
		}
	}
	assert.Positive(t, statuses[403])
	assert.Positive(t, statuses[200])
	var s sites.SiteDetail
	b.call("GET", "/api/sites/s", nil, &s)
	s.Site.StartingPoints = []bundle.StartingPoint{{Name: "Mine", Notice: bundle.Notice{
		ID: "point", Kind: bundle.KindPopUp, Content: asks("", evil),
	}}}
	assert.Equal(t, 403, e.try("PUT", "/api/sites/s", sites.SiteChange{Revision: s.Revision, Site: s.Site}))
	var p problem.Problem
	e.call("PUT", "/api/sites/s", sites.SiteChange{Revision: s.Revision, Site: s.Site}, &p)
	assert.Contains(t, p.Detail, "people who may see contacts")
	assert.Equal(t, 200, b.try("PUT", "/api/sites/s", sites.SiteChange{Revision: s.Revision, Site: s.Site}))
}

// filesWith lists the Go files below a folder, without tests, that an expression is found in.
func filesWith(t *testing.T, dir, expression string) (out []string, err error) {
	t.Helper()
	find := regexp.MustCompile(expression)
	var walk func(string) error
	walk = func(dir string) error {
		list, err := os.ReadDir(dir)
		if err != nil {
			return err
		}
		for _, f := range list {
			name := dir + "/" + f.Name()
			if f.IsDir() {
				if err := walk(name); err != nil {
					return err
				}
				continue
			}
			if !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go") {
				continue
			}
			raw, err := os.ReadFile(name)
			if err != nil {
				return err
			}
			if find.Match(raw) {
				out = append(out, name)
			}
		}
		return nil
	}
	return out, walk(dir)
}
