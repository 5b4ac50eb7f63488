package server_test

import (
	"bytes"
	"encoding/csv"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/findings"
	"mastflag/core/pages"
	"mastflag/core/rights"
	"mastflag/core/wording"
	"mastflag/internal/admin"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/languages"
	"mastflag/internal/admin/library"
	"mastflag/internal/admin/notices"
	"mastflag/internal/admin/now"
	"mastflag/internal/admin/people"
	"mastflag/internal/admin/sites"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// another is a second browser at the same program.
func (b *bench) another() *bench {
	jar, err := cookiejar.New(nil)
	require.NoError(b.t, err)
	c := *b
	c.client = &http.Client{Jar: jar}
	return &c
}

var joinAddress = regexp.MustCompile(`/join#(\S+)`)

// Someone is invited, comes in, may do what the role says and nothing more,
// and is taken off again.
func TestPeople(t *testing.T) {
	ines := newBench(t).signIn()
	var p problem.Problem
	for _, in := range []struct {
		people.Person
		says string
	}{
		{people.Person{Email: "not an address", Role: "editor"}, "not a mail address"},
		{people.Person{Email: "Jo <jo@s.example>", Role: "editor"}, "not a mail address"},
		{people.Person{Email: "jo@s.example", Role: "captain"}, "no role"},
		{people.Person{Email: "jo@s.example", Role: "editor", Sites: []string{"elsewhere"}}, "no site"},
	} {
		assert.GreaterOrEqual(t, ines.call("POST", "/api/people/invite", in.Person, &p), 400)
		assert.Contains(t, p.Detail, in.says)
	}
	var list people.PeopleList
	ines.call("POST", "/api/people/invite", people.Person{
		Email: "Jo@S.example",
		Name:  "Jo",
		Role:  "viewer",
		Sites: []string{"s"},
	}, &list)
	require.Len(t, list.Invited, 1)
	assert.Equal(t, "jo@s.example", list.Invited[0].Email)
	var mail people.Mailbox
	ines.call("GET", "/api/mailbox", nil, &mail)
	require.Len(t, mail.Messages, 1)
	assert.Equal(t, "jo@s.example", mail.Messages[0].To)
	found := joinAddress.FindStringSubmatch(mail.Messages[0].Body)
	require.NotNil(t, found, mail.Messages[0].Body)
	token := found[1]

	jo := ines.another()
	var who people.Person
	jo.call("POST", "/api/invitation", people.InvitationAsk{Token: token}, &who)
	assert.Equal(t, people.Person{Email: "jo@s.example", Name: "Jo", Role: "viewer", Sites: []string{"s"}}, who)
	assert.Equal(t, http.StatusGone, jo.call("POST", "/api/invitation", people.InvitationAsk{Token: "guess"}, &p))
	assert.Equal(t, 422, jo.call("POST", "/api/join", people.Join{Token: token, Name: "Jo", Password: "short"}, &p))
	assert.Contains(t, p.Detail, "10 characters")
	assert.Equal(t, 422, jo.call("POST", "/api/join", people.Join{
		Token:    token,
		Name:     " ",
		Password: "long enough words",
	}, &p))
	jo.call("POST", "/api/join", people.Join{Token: token, Name: "Jo", Password: "long enough words"}, &who)
	assert.Equal(t, http.StatusGone, ines.another().call("POST", "/api/join", people.Join{
		Token:    token,
		Name:     "Jo",
		Password: "long enough words",
	}, &p), "an invitation is taken once")

	// A viewer looks, and changes nothing.
	d := ines.begin("Hello")
	assert.Equal(t, http.StatusOK, jo.call("GET", "/api/sites/s/view", nil, nil))
	for _, c := range []string{
		"/api/sites/s/notices", "/api/sites/s/notices/hello/publish", "/api/sites/s/images", "/api/sites/s/display",
		"/api/people/invite",
	} {
		assert.Equal(t, http.StatusForbidden, jo.call("POST", c, "{}", &p), c)
		assert.Contains(t, p.Detail, "signed in as viewer")
	}
	// An editor writes and publishes, and sets nothing up.
	ines.call("POST", "/api/people/change", people.Person{
		Email: "jo@s.example",
		Role:  "editor",
		Sites: []string{"s"},
	}, &list)
	jo.act(d, "publish")
	assert.Equal(t, http.StatusForbidden, jo.call("POST", "/api/sites/s/display", sites.DisplaySwitch{}, &p))
	assert.Equal(t, http.StatusForbidden, jo.call("GET", "/api/mailbox", nil, &p))
	var setup sites.SiteDetail
	jo.call("GET", "/api/sites/s", nil, &setup)
	setup.Site.Wordings = []bundle.SavedWording{{
		Name:     "Sorry",
		Wordings: map[string]bundle.Wording{"en": {Message: "Sorry"}},
	}}
	assert.Equal(t, http.StatusOK, jo.call("PUT", "/api/sites/s", sites.SiteChange{
		Revision: setup.Revision,
		Site:     setup.Site,
	}, nil), "but keeps what notices use")
	setup.Site.Name = "Mine"
	assert.Equal(t, http.StatusForbidden, jo.call("PUT", "/api/sites/s", sites.SiteChange{
		Revision: setup.Revision + 1,
		Site:     setup.Site,
	}, &p))

	// People see the sites that are theirs.
	require.NoError(t, ines.server.Store.AddSite(t.Context(), bundle.Site{
		Key:      "other",
		Name:     "Other",
		TimeZone: "UTC",
		Language: "en",
	}))
	require.NoError(t, ines.server.Hub.ReloadAll(t.Context()))
	var me people.Me
	jo.call("GET", "/api/me", nil, &me)
	assert.Equal(t, []people.SiteName{{Key: "s", Name: "S", Languages: []string{"en"}}}, me.Sites)
	assert.Equal(t, http.StatusNotFound, jo.call("GET", "/api/sites/other/view", nil, &p))
	// An administrator of some sites gives away those alone.
	ines.call("POST", "/api/people/change", people.Person{
		Email: "jo@s.example",
		Role:  "administrator",
		Sites: []string{"s"},
	}, &list)
	assert.Equal(t, 422, jo.call("POST", "/api/people/invite", people.Person{Email: "x@s.example", Role: "editor"}, &p))
	assert.Equal(t, 422, jo.call("POST", "/api/people/invite", people.Person{
		Email: "x@s.example",
		Role:  "editor",
		Sites: []string{"other"},
	}, &p))
	assert.Equal(
		t, http.StatusForbidden, jo.call("POST", "/api/people/remove", base.Address{Email: "ines@s.example"}, &p),
	)

	// Nor do they see, let alone use, what lets others into all sites.
	ines.call("POST", "/api/people/invite", people.Person{Email: "chief@s.example", Role: "administrator"}, &list)
	jo.call("GET", "/api/mailbox", nil, &mail)
	assert.Empty(t, mail.Messages)
	jo.call("GET", "/api/people", nil, &list)
	assert.Len(t, list.People, 1)
	assert.Empty(t, list.Invited)
	assert.Equal(
		t, http.StatusForbidden, jo.call("POST", "/api/people/remove", base.Address{Email: "chief@s.example"}, &p),
	)
	assert.Equal(t, http.StatusForbidden, jo.call("POST", "/api/people/invite", people.Person{
		Email: "chief@s.example",
		Role:  "editor",
		Sites: []string{"s"},
	}, &p))
	require.NoError(t, ines.server.Store.AddPerson(t.Context(), store.Person{
		Email: "both@s.example",
		Name:  "Both",
		Role:  rights.Editor,
		Sites: []string{"s", "other"},

		Password: "a hash",
	}))
	assert.Equal(t, http.StatusForbidden, jo.call("POST", "/api/people/change", people.Person{
		Email: "both@s.example",
		Role:  "viewer",
		Sites: []string{"s"},
	}, &p))
	var seen sites.Activity
	jo.call("GET", "/api/sites/s/activity", nil, &seen)
	for _, d := range seen.Deeds {
		assert.NotContains(t, d.Act, "invited")
	}
	ines.call("POST", "/api/people/remove", base.Address{Email: "chief@s.example"}, &list)

	var made sites.SiteDetail
	jo.call("POST", "/api/sites", sites.NewSite{Name: "Jo's", Address: "jo.example", TimeZone: "UTC"}, &made)
	assert.Equal(
		t, http.StatusOK, jo.call("GET", "/api/sites/"+made.Site.Key+"/view", nil, nil), "who made a site works on it",
	)

	// Somebody has to be there who may let others in.
	assert.Equal(
		t, http.StatusConflict, ines.call("POST", "/api/people/remove", base.Address{Email: "ines@s.example"}, &p),
	)
	assert.Equal(t, http.StatusConflict, ines.call("POST", "/api/people/change", people.Person{
		Email: "ines@s.example",
		Role:  "editor",
	}, &p))
	ines.call("POST", "/api/people/remove", base.Address{Email: "jo@s.example"}, &list)
	assert.Equal(t, http.StatusUnauthorized, jo.call("GET", "/api/me", nil, &p), "whoever is taken off is out at once")

	// What each did is to be read.
	var done sites.Activity
	ines.call("GET", "/api/sites/s/activity?who=jo@s.example", nil, &done)
	require.Len(t, done.Deeds, 3)
	assert.Equal(t, []string{
		"changed the site", "published it", "joined as viewer",
	}, []string{done.Deeds[0].Act, done.Deeds[1].Act, done.Deeds[2].Act})
	assert.Equal(t, "Hello", done.Deeds[1].Title)
	assert.Equal(t, []sites.Doer{{ID: "ines@s.example", Name: "Ines"}, {ID: "jo@s.example", Name: "Jo"}}, done.People,
		"whoever is no longer here keeps their name")

	// An invitation ends after a week, and can be taken back.
	ines.call("POST", "/api/people/invite", people.Person{Email: "late@s.example", Role: "editor"}, &list)
	ines.call("GET", "/api/mailbox", nil, &mail)
	token = joinAddress.FindStringSubmatch(mail.Messages[0].Body)[1]
	assert.False(t, list.Invited[0].Over)
	ines.clock.Set(start.AddDate(0, 0, 7).Add(time.Minute))
	assert.Equal(t, http.StatusGone, jo.call("POST", "/api/join", people.Join{
		Token:    token,
		Name:     "Late",
		Password: "long enough words",
	}, &p))
	ines.call("POST", "/api/people/remove", base.Address{Email: "late@s.example"}, &list)
	assert.Empty(t, list.Invited)
}

// A password is changed by who knows the old one, or chosen anew by who gets
// the message for it.
func TestPasswordsAreChanged(t *testing.T) {
	ines := newBench(t).signIn()
	var p problem.Problem
	assert.Equal(t, 422, ines.call("POST", "/api/me/password", people.PasswordChange{
		Old: "wrong",
		New: "a few good words",
	}, &p))
	assert.Contains(t, p.Detail, "old password is not right")
	assert.Equal(t, 422, ines.call("POST", "/api/me/password", people.PasswordChange{Old: "right", New: "short"}, &p))
	require.Equal(t, 200, ines.call("POST", "/api/me/password", people.PasswordChange{
		Old: "right",
		New: "a few good words",
	}, nil))
	assert.Equal(t, http.StatusUnauthorized, ines.another().call("POST", "/api/sign-in", people.Credentials{
		Email:    "ines@s.example",
		Password: "right",
	}, &p))
	require.Equal(t, 200, ines.another().call("POST", "/api/sign-in", people.Credentials{
		Email:    "ines@s.example",
		Password: "a few good words",
	}, nil))

	var list people.PeopleList
	ines.call("POST", "/api/people/invite", people.Person{Email: "INES@s.example", Role: "viewer"}, &list)
	assert.Empty(t, list.Invited, "who works here is not invited")
	assert.Equal(t, "administrator", list.People[0].Role, "role and sites stay as they are")
	var mail people.Mailbox
	ines.call("GET", "/api/mailbox", nil, &mail)
	require.True(t, mail.Messages[0].Private)
	token := joinAddress.FindStringSubmatch(mail.Messages[0].Body)[1]
	var who people.Person
	ines.another().call("POST", "/api/join", people.Join{Token: token, Name: "Ines", Password: "words chosen anew"}, &who)
	assert.Equal(t, "administrator", who.Role)
	assert.Equal(
		t, http.StatusUnauthorized, ines.call("GET", "/api/me", nil, &p), "who was signed in with the old one is no longer",
	)
	require.Equal(t, 200, ines.call("POST", "/api/sign-in", people.Credentials{
		Email:    "ines@s.example",
		Password: "words chosen anew",
	}, nil))
	for range 7 {
		ines.call("POST", "/api/me/password", people.PasswordChange{Old: "guess", New: "a few good words"}, &p)
	}
	assert.Equal(t, http.StatusTooManyRequests, p.Status)
}

func TestTheSnippetIsSent(t *testing.T) {
	b := newBench(t).signIn()
	var p problem.Problem
	assert.Equal(t, 422, b.call("POST", "/api/sites/s/send", base.Address{Email: "nobody"}, &p))
	require.Equal(t, http.StatusOK, b.call("POST", "/api/sites/s/send", base.Address{Email: "dev@s.example"}, nil))
	var mail people.Mailbox
	b.call("GET", "/api/mailbox", nil, &mail)
	assert.Contains(t, mail.Messages[0].Body, `{let u="http://notices.example/s/s.js";fetch(u)`)
}

// Every route that changes something needs more than a viewer, and what is
// open is open on purpose.
func TestRoutesSayWhoMay(t *testing.T) {
	open := []string{}
	for _, r := range (&admin.Admin{}).Routes() {
		if r.Open {
			open = append(open, r.Path)
			continue
		}
		assert.Contains(t, rights.Roles, r.Needs, r.Path)
		if r.Method != "GET" && r.Path != "/api/sign-out" && !strings.HasPrefix(r.Path, "/api/me/") {
			assert.NotEqual(t, rights.Viewer, r.Needs, r.Path)
		}
	}
	assert.ElementsMatch(t, []string{"/api/sign-in", "/api/invitation", "/api/join"}, open)
}

func drawing(width, height int) image.Image {
	i := image.NewRGBA(image.Rect(0, 0, width, height))
	for x := range width {
		i.Set(x, x%height, color.RGBA{uint8(x), 9, 9, 255})
	}
	return i
}

// webp is a picture of one pixel, VP8L, from memory of the container's layout.
const webp = "RIFF\x1a\x00\x00\x00WEBPVP8L\x0d\x00\x00\x00\x2f\x00\x00\x00\x10\x07\x10\x11\x11\x88\x88\xfe\x07\x00"

// What is an image is kept, by its content and not by its name; what is none
// is refused with the reason.
func TestImages(t *testing.T) {
	b := newBench(t).signIn()
	var asPNG, asJPEG, asGIF bytes.Buffer
	require.NoError(t, png.Encode(&asPNG, drawing(40, 20)))
	require.NoError(t, jpeg.Encode(&asJPEG, drawing(30, 10), nil))
	require.NoError(t, gif.Encode(&asGIF, drawing(8, 8), nil))
	var list library.ImageList
	for _, c := range []struct {
		name, end     string
		data          []byte
		width, height int
	}{
		{"seal.txt", ".png", asPNG.Bytes(), 40, 20}, {"b.jpeg", ".jpg", asJPEG.Bytes(), 30, 10},
		{"c", ".gif", asGIF.Bytes(), 8, 8}, {"d.webp", ".webp", []byte(webp), 1, 1},
	} {
		b.call("POST", "/api/sites/s/images", library.NewImage{Name: c.name, Data: c.data}, &list)
		got := list.Images[0]
		assert.Equal(t, []any{c.name, c.width, c.height, len(c.data)}, []any{got.Name, got.Width, got.Height, got.Size})
		assert.True(t, strings.HasSuffix(got.File, c.end), got.File)
		res, err := http.Get(b.url + got.Address)
		require.NoError(t, err)
		res.Body.Close()
		assert.Equal(t, http.StatusOK, res.StatusCode)
		assert.Equal(t, "image/"+map[string]string{
			".png":  "png",
			".jpg":  "jpeg",
			".gif":  "gif",
			".webp": "webp",
		}[c.end], res.Header.Get("Content-Type"))
		assert.Contains(t, res.Header.Get("Cache-Control"), "immutable")
		assert.Contains(t, res.Header.Get("Content-Security-Policy"), "sandbox")
	}
	assert.Len(t, list.Images, 4)
	b.call("POST", "/api/sites/s/images", library.NewImage{Name: "again", Data: asPNG.Bytes()}, &list)
	assert.Len(t, list.Images, 4, "the same image is kept once")
	assert.Equal(t, "seal.txt", list.Images[0].Name)

	var p problem.Problem
	huge := slices.Clone(asPNG.Bytes())
	copy(huge[16:24], []byte{0, 0, 0x75, 0x30, 0, 0, 0x75, 0x30}) // 30,000 by 30,000 px, says its head
	for _, c := range []struct {
		name string
		data []byte
		says string
	}{
		{"nothing.png", nil, "empty"},
		{"page.png", []byte("<!doctype html><script>alert(1)</script>"), "looks like text/html"},
		{
			"drawing.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg"><script>x()</script></svg>`),
			"Give a jpeg, png, webp or gif",
		},
		{"paper.jpg", []byte("%PDF-1.7"), "looks like application/pdf"},
		{"cut.png", asPNG.Bytes()[:20], "not an image"},
		{"large.png", append(asPNG.Bytes(), make([]byte, 1<<20)...), "1 MB"},
		{"huge.png", huge, "not an image"},
	} {
		assert.Equal(t, 422, b.call("POST", "/api/sites/s/images", library.NewImage{Name: c.name, Data: c.data}, &p), c.name)
		assert.Contains(t, p.Detail, c.says, c.name)
	}
	assert.Equal(t, http.StatusRequestEntityTooLarge, b.call("POST", "/api/sites/s/images", library.NewImage{
		Name: "flood",
		Data: make([]byte, 10<<20),
	}, &p))

	// A notice shows what the site has, and what is shown is not removed.
	d := b.begin("With a picture")
	show := func(i bundle.Image) int {
		n := d.Notice
		n.Content = &bundle.Content{Wordings: n.Content.Wordings, Picture: &bundle.Picture{Image: i}}
		return b.call("PUT", "/api/sites/s/notices/with-a-picture", notices.NoticeChange{
			Revision: d.Card.Revision,
			Notice:   n,
		}, nil)
	}
	assert.Equal(t, 422, show(bundle.Image{File: "0123456789abcdef.png", Width: 1, Height: 1}), "not there")
	assert.Equal(t, 422, show(bundle.Image{File: list.Images[0].File, Width: 1, Height: 1}), "of another size")
	require.Equal(t, 200, show(list.Images[0].Image))
	b.call("GET", "/api/sites/s/notices/with-a-picture", nil, &d)
	b.act(d, "publish")
	_, answer, _ := b.visit(origin, `{"url":"`+origin+`/"}`)
	assert.Contains(t, answer, `src=\"http://notices.example/i/s/`+list.Images[0].File)
	// So is one in a part of a block; and a block takes none that is gone.
	var block notices.NoticeDetail
	b.call("POST", "/api/sites/s/notices", notices.NewNotice{Title: "Block", Kind: "block"}, &block)
	rows := func(i bundle.Image) *bundle.Content {
		return &bundle.Content{Rows: []bundle.Row{{Columns: []bundle.Column{{Parts: []bundle.Part{
			{ID: "photo", Kind: bundle.PartPictured, Picture: &bundle.PartPicture{Picture: bundle.Picture{Image: i}}},
		}}}}}}
	}
	block = b.change(block, func(n *bundle.Notice) { n.Content = rows(list.Images[1].Image) })
	assert.Equal(
		t,
		http.StatusConflict,
		b.call("POST", "/api/sites/s/images/remove", library.ImageName{File: list.Images[1].File}, &p),
	)
	assert.Contains(t, p.Detail, "“Block” shows this image.")
	gone := block.Notice
	gone.Content = rows(bundle.Image{File: "0123456789abcdef.jpg", Width: 8, Height: 6})
	assert.Equal(t, 422, b.call("PUT", "/api/sites/s/notices/block", notices.NoticeChange{
		Revision: block.Card.Revision,
		Notice:   gone,
	}, &p))
	assert.Equal(t, "/content/rows/0/columns/0/parts/0/picture", p.Faults[0].Pointer)
	block = b.change(block, func(n *bundle.Notice) { n.Content = nil })
	assert.Equal(
		t,
		http.StatusConflict,
		b.call("POST", "/api/sites/s/images/remove", library.ImageName{File: list.Images[0].File}, &p),
	)
	assert.Contains(t, p.Detail, "With a picture")
	// One in a longer message is there too, and is not removed; one at an address is kept elsewhere.
	longer := func(file string) *bundle.Content {
		return &bundle.Content{Wordings: map[string]bundle.Wording{
			"en": {Message: "x", Details: `<p>y</p><img src="image:` + file + `" alt="z">`},
		}}
	}
	gone.Content, gone.Kind, gone.Slot = longer("0123456789abcdef.jpg"), bundle.KindBar, bundle.Top
	assert.Equal(t, 422, b.call("PUT", "/api/sites/s/notices/block", notices.NoticeChange{
		Revision: block.Card.Revision,
		Notice:   gone,
	}, &p))
	assert.Equal(t, "/content/wordings/en/details", p.Faults[0].Pointer)
	block = b.change(block, func(n *bundle.Notice) {
		n.Content, n.Kind, n.Slot = longer(list.Images[2].File), bundle.KindBar, bundle.Top
	})
	assert.Contains(t, block.Notice.Content.Wordings["en"].Details, "image:"+list.Images[2].File)
	block = b.change(block, func(n *bundle.Notice) { // now in the words of a variant alone
		n.Experiment = &bundle.Experiment{Goal: bundle.Goal{Event: "order"}, Variants: []bundle.Variant{
			{ID: "a"}, {ID: "b", Wordings: n.Content.Wordings},
		}}
		n.Content = &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "x"}}}
	})
	assert.Equal(
		t,
		http.StatusConflict,
		b.call("POST", "/api/sites/s/images/remove", library.ImageName{File: list.Images[2].File}, &p),
	)
	b.change(block, func(n *bundle.Notice) {
		n.Content.Picture = &bundle.Picture{Image: bundle.Image{Address: "https://pictures.example/quay.jpg"}}
	})
	b.call("POST", "/api/sites/s/images/remove", library.ImageName{File: list.Images[1].File}, &list)
	assert.Len(t, list.Images, 3)
	res, err := http.Get(b.url + "/i/s/0123456789abcdef.png")
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, http.StatusNotFound, res.StatusCode)
}

// german makes the bench's site one of two languages.
func (b *bench) german() *bench {
	b.t.Helper()
	var d sites.SiteDetail
	b.call("GET", "/api/sites/s", nil, &d)
	d.Site.Languages = []string{"en", "de"}
	b.call("PUT", "/api/sites/s", sites.SiteChange{Revision: d.Revision, Site: d.Site}, &d)
	require.NoError(b.t, b.server.Store.PutPages(b.t.Context(), "s", []store.Page{
		{Page: bundle.Page{Path: "/"}}, {Page: bundle.Page{Path: "/de", Language: "de"}},
	}, time.Time{}))
	require.NoError(b.t, b.server.Hub.ReloadAll(b.t.Context()))
	return b
}

// A machine's draft is not delivered before someone has read it; a translator's
// document comes back as texts; what has changed since is old.
func TestLanguages(t *testing.T) {
	b := newBench(t).signIn().german()
	d := b.begin("Hello")
	state := func() wording.Status { return d.Languages[1].State }
	assert.Equal(t, wording.Missing, state())
	var p problem.Problem
	for _, tag := range []string{"en", "pl", ""} {
		assert.Equal(t, 422, b.call("POST", "/api/sites/s/notices/hello/translate", languages.TranslateAsk{
			Revision: d.Card.Revision,
			Language: tag,
		}, &p), tag)
	}
	b.call("POST", "/api/sites/s/notices/hello/translate", languages.TranslateAsk{
		Revision: d.Card.Revision,
		Language: "de",
	}, &d)
	assert.Equal(t, wording.Unread, state())
	assert.Equal(t, "[de: Hello]", d.Notice.Content.Wordings["de"].Message)
	d = b.act(d, "publish")
	says := func() string {
		_, answer, _ := b.visit(origin, `{"url":"`+origin+`/de"}`)
		return answer
	}
	assert.Contains(t, says(), "Hello<")
	assert.NotContains(t, says(), "[de: Hello]", "nobody has read it")
	var view now.View
	b.call("GET", "/api/sites/s/view", nil, &view)
	assert.Equal(t, wording.Unread, view.Notices[0].Languages[1].State)

	// On the stage it is to be seen, and read.
	b.call("GET", "/api/sites/s/notices/hello?language=de", nil, &d)
	_, answer, _ := b.visit(origin, `{"url":"`+origin+`/","preview":"`+d.Preview+`"}`)
	assert.Contains(t, answer, "[de: Hello]", "in the language of the viewpoint, whatever the page's")

	// A translator gets a document and gives it back.
	var file languages.XLIFFFile
	b.call("GET", "/api/sites/s/xliff?language=de&notice=hello", nil, &file)
	assert.Equal(t, "hello.en-de.xlf", file.Name)
	file.Text = strings.Replace(file.Text, "[de: Hello]", "Guten Tag", 1)
	var taken languages.Translated
	b.call("POST", "/api/sites/s/xliff", file, &taken)
	assert.Equal(t, languages.Translated{Language: "de", Changed: []string{"Hello"}, Left: []string{}}, taken)
	b.call("POST", "/api/sites/s/xliff", file, &taken)
	assert.Empty(t, taken.Changed, "nothing new the second time")
	was := d.Card.Revision
	b.call("GET", "/api/sites/s/notices/hello", nil, &d)
	assert.Equal(t, was+1, d.Card.Revision, "and nothing written")
	assert.Equal(t, wording.Current, state())
	d = b.act(d, "publish")
	assert.Contains(t, says(), "Guten Tag")

	// The original changes: the translation is old, and so is a document made before.
	n := d.Notice
	n.Content.Wordings["en"] = bundle.Wording{Message: "Good day"}
	b.call("PUT", "/api/sites/s/notices/hello", notices.NoticeChange{Revision: d.Card.Revision, Notice: n}, &d)
	assert.Equal(t, wording.Old, state())
	file.Text = strings.Replace(file.Text, "Guten Tag", "Tag", 1)
	b.call("POST", "/api/sites/s/xliff", file, &taken)
	b.call("GET", "/api/sites/s/notices/hello", nil, &d)
	assert.Equal(t, "Tag", d.Notice.Content.Wordings["de"].Message)
	assert.Equal(t, wording.Old, state(), "it was made from another text")

	// What a variant says otherwise is a text of its own.
	n = d.Notice
	n.Experiment = &bundle.Experiment{Goal: bundle.Goal{Event: "order"}, Variants: []bundle.Variant{
		{ID: "a"}, {ID: "b", Name: "Friendly", Wordings: map[string]bundle.Wording{"en": {Headline: "Ahoy"}}},
	}}
	b.call("PUT", "/api/sites/s/notices/hello", notices.NoticeChange{Revision: d.Card.Revision, Notice: n}, &d)
	var both languages.XLIFFFile
	b.call("GET", "/api/sites/s/xliff?language=de&notice=hello", nil, &both)
	assert.Contains(t, both.Text, `<file id="hello.b">`)
	assert.NotContains(t, both.Text, `<file id="hello.a">`, "it says nothing else")
	both.Text = strings.Replace(both.Text, "<source>Ahoy</source>", "<source>Ahoy</source><target>Moin</target>", 1)
	b.call("POST", "/api/sites/s/xliff", both, &taken)
	assert.Equal(t, []string{"Hello"}, taken.Changed)
	b.call("GET", "/api/sites/s/notices/hello", nil, &d)
	seen := d.Notice.InVariant("b").Wordings()["de"]
	assert.Equal(t, []string{"Moin", "Tag"}, []string{seen.Headline, seen.Message})
	assert.Equal(t, wording.Current, state(), "the notice’s own words came with it")
	b.call("POST", "/api/sites/s/xliff", both, &taken)
	assert.Empty(t, taken.Changed, "nothing new the second time")
	b.call("POST", "/api/sites/s/xliff", languages.XLIFFFile{
		Text: strings.Replace(both.Text, `id="hello.b"`, `id="hello.gone"`, 1),
	}, &taken)
	assert.Equal(t, []string{"hello.gone: there is no such text"}, taken.Left)

	// What cannot be taken in is said, and changes nothing.
	for _, c := range []struct{ text, says string }{
		{"no XML", "not XML"},
		{strings.Replace(file.Text, `trgLang="de"`, `trgLang="fr"`, 1), "not a language of this site"},
	} {
		assert.Equal(t, 422, b.call("POST", "/api/sites/s/xliff", languages.XLIFFFile{Text: c.text}, &p))
		assert.Contains(t, p.Detail, c.says)
	}
	b.call("POST", "/api/sites/s/xliff", languages.XLIFFFile{
		Text: strings.Replace(file.Text, `id="hello"`, `id="gone"`, 1),
	}, &taken)
	assert.Equal(t, []string{"gone: there is no such text"}, taken.Left)
	b.call("POST", "/api/sites/s/xliff", languages.XLIFFFile{Text: strings.Replace(file.Text, "Tag", "", 1)}, &taken)
	assert.Equal(t, []string{"hello: it has no translation yet"}, taken.Left)
	assert.Equal(t, 422, b.call("GET", "/api/sites/s/xliff?language=en", nil, &p))
}

// A notice begun from a starting point needs nothing but to be published.
func TestStartingPoints(t *testing.T) {
	b := newBench(t).signIn().german()
	var list library.StartingList
	b.call("GET", "/api/sites/s/starting", nil, &list)
	require.Len(t, list.Points, 51)
	for _, p := range list.Points {
		assert.NotEmpty(t, p.HTML, p.Key)
		var d notices.NoticeDetail
		b.call("POST", "/api/sites/s/notices", notices.NewNotice{Starting: p.Key}, &d)
		if p.Key == "pop-up-subscribe" { // which links the privacy notice, and the site has none
			require.Len(t, d.Findings, 1)
			assert.Equal(t, findings.NoPrivacy, d.Findings[0].Code)
		} else {
			assert.Empty(t, d.Findings, p.Key)
		}
		d = b.act(d, "publish")
		assert.Contains(t, []viewpoint.Flag{viewpoint.FlagLive, viewpoint.FlagScheduled}, d.Card.Flag, p.Key)
		b.act(d, "unpublish") // so that it is no rival of the next
	}
	var p problem.Problem
	assert.Equal(t, http.StatusNotFound, b.call("POST", "/api/sites/s/notices", notices.NewNotice{Starting: "none"}, &p))

	// The site keeps its own.
	var d sites.SiteDetail
	b.call("GET", "/api/sites/s", nil, &d)
	d.Site.StartingPoints = []bundle.StartingPoint{{
		Name: "Ours",
		Notice: bundle.Notice{
			ID:      "ours",
			Kind:    bundle.KindBar,
			Content: &bundle.Content{Wordings: map[string]bundle.Wording{"en": {Message: "Ours"}}},
		},
	}}
	b.call("PUT", "/api/sites/s", sites.SiteChange{Revision: d.Revision, Site: d.Site}, &d)
	var made notices.NoticeDetail
	b.call("POST", "/api/sites/s/notices", notices.NewNotice{Starting: "Ours"}, &made)
	assert.Equal(t, "Ours", made.Notice.Content.Wordings["en"].Message)
	assert.Equal(t, "Ours", made.Notice.Title)
}

// From Now & next: an end, all paused and resumed.
func TestActionsInPlace(t *testing.T) {
	b := newBench(t).signIn()
	one, two := b.act(b.begin("One"), "publish"), b.act(b.begin("Two"), "publish")
	var p problem.Problem
	for until, says := range map[string]string{
		"":                 "not a local date",
		"soon":             "not a local date",
		"2026-12-04T12:00": "past",
		"2026-12-01T12:00": "past",
	} {
		assert.Equal(t, 422, b.call("POST", "/api/sites/s/notices/one/end", notices.EndAt{
			Revision: one.Card.Revision,
			Until:    until,
		}, &p), until)
		assert.Contains(t, p.Detail, says)
	}
	b.call("POST", "/api/sites/s/notices/one/end", notices.EndAt{
		Revision: one.Card.Revision,
		Until:    "2026-12-05T09:00",
	}, &one)
	assert.False(t, one.Card.HasDraft, "it is out at once")
	assert.Equal(t, "2026-12-05T09:00:00Z", one.Card.Until.Format(time.RFC3339))
	b.clock.Set(time.Date(2026, 12, 5, 9, 0, 0, 0, time.UTC))
	_, answer, _ := b.visit(origin, `{"url":"`+origin+`/"}`)
	assert.NotContains(t, answer, `"id":"one"`)
	assert.Contains(t, answer, `"id":"two"`)
	b.clock.Set(start.Add(time.Hour))
	assert.Equal(t, http.StatusConflict, b.call("POST", "/api/sites/s/notices/two/end", notices.EndAt{
		Revision: 1,
		Until:    "2026-12-05T09:00",
	}, &p), "from an older revision")

	var paused notices.Paused
	b.call("POST", "/api/sites/s/pause", notices.PauseAll{Pause: true}, &paused)
	assert.Equal(t, []string{"one", "two"}, paused.Notices)
	_, answer, _ = b.visit(origin, `{"url":"`+origin+`/"}`)
	assert.Contains(t, answer, `"show":[]`)
	b.call("POST", "/api/sites/s/pause", notices.PauseAll{Notices: []string{"two"}}, &paused)
	_, answer, _ = b.visit(origin, `{"url":"`+origin+`/"}`)
	assert.NotContains(t, answer, `"id":"one"`)
	assert.Contains(t, answer, `"id":"two"`)
	b.call("GET", "/api/sites/s/notices/two", nil, &two)
	two.Notice.Schedule = nil
	assert.Equal(t, bundle.Published, two.Notice.State)
}

// Pages by notices: what shows, waits, is held back, or comes within 30 days.
func TestPagesAndNotices(t *testing.T) {
	b := newBench(t).signIn()
	begin := func(title string, alter func(*bundle.Notice)) {
		d := b.begin(title)
		alter(&d.Notice)
		b.call("PUT", "/api/sites/s/notices/"+d.Notice.ID, notices.NoticeChange{
			Revision: d.Card.Revision,
			Notice:   d.Notice,
		}, &d)
		b.act(d, "publish")
	}
	bottom := func(n *bundle.Notice) { n.Slot = bundle.Bottom }
	begin("=Later", func(n *bundle.Notice) { bottom(n); n.Level = bundle.Warning })
	begin("Held", bottom)
	begin("Book only", func(n *bundle.Notice) {
		n.Pages = &pages.Conditions{Include: []pages.Entry{{Match: pages.Page, Path: "/book"}}}
	})
	var table now.Table
	b.call("GET", "/api/sites/s/table", nil, &table)
	assert.Equal(t, []string{"later", "book-only", "held"}, table.Notices)
	require.Len(t, table.Rows, 2)
	assert.Equal(t, []string{"shows", "", "held"}, table.Sets[table.Rows[0].Set])
	assert.Equal(t, []string{"shows", "shows", "held"}, table.Sets[table.Rows[1].Set])
	_, text := b.file("/api/sites/s/table.csv")
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"Path", "Title", "Language", "'=Later", "Book only", "Held"}, rows[0], "no cell is a formula")
	assert.Equal(t, []string{"/", "", "en", "shows", "", "held"}, rows[1])
	assert.Contains(t, text, "\r\n", "RFC 4180 §2")

	var carried now.Carried
	b.call("GET", "/api/sites/s/carried", nil, &carried)
	first := carried.Sets[carried.Pages[0].Set]
	assert.True(t, first.TooMuch)
	assert.Equal(t, []string{"later", "held"}, first.Soon)
}

// The viewpoint's width is the visitor's window, and says what kind of device
// it is likely to be, unless the visitor's facts say otherwise.
func TestViewpointsWidthAndLanguage(t *testing.T) {
	b := newBench(t).signIn().german()
	d := b.begin("On phones")
	raw := `{"revision":` + "REV" + `,"notice":{"id":"on-phones","kind":"bar","pages":{"include":[{"match":"all"}]},` +
		`"audience":{"fact":"device.kind","is":"eq","value":"phone"},"content":{"wordings":{"en":{"message":"x"}}}}}`
	b.call("PUT", "/api/sites/s/notices/on-phones", strings.Replace(raw, "REV", "2", 1), &d)
	b.act(d, "publish")
	shows := func(query string) []string {
		var v now.View
		b.call("GET", "/api/sites/s/view?"+query, nil, &v)
		return v.Shows
	}
	assert.Equal(t, []string{"on-phones"}, shows("width=390"))
	assert.Empty(t, shows("width=1280"))
	assert.Empty(t, shows(""))
	assert.Empty(t, shows("width=390&visitor="+url.QueryEscape(`{"device.kind":"desktop"}`)))
	var p problem.Problem
	for _, w := range []string{"0", "-3", "wide", "999999"} {
		assert.Equal(t, http.StatusBadRequest, b.call("GET", "/api/sites/s/view?width="+w, nil, &p), w)
	}
	var v now.View
	b.call("GET", "/api/sites/s/view?language=de", nil, &v)
	assert.Equal(t, "de", v.Page.Language)
}
