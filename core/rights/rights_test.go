package rights_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/form"
	"mastflag/core/pages"
	"mastflag/core/rights"
)

var (
	administrator = rights.Person{Role: rights.Administrator}
	editor        = rights.Person{Role: rights.Editor}
	confidant     = rights.Person{Role: rights.Editor, Contacts: true}
)

func TestRoles(t *testing.T) {
	for i, role := range rights.Roles {
		for k, needs := range rights.Roles {
			assert.Equal(t, i >= k, rights.May(role, needs), "%s, %s", role, needs)
		}
		assert.False(t, rights.May("", role))
	}
	assert.True(t, administrator.MaySeeContacts())
	assert.True(t, confidant.MaySeeContacts())
	assert.False(t, editor.MaySeeContacts())
	assert.False(t, rights.Person{Role: rights.Viewer, Contacts: true}.MaySeeContacts())
}

// text is code that says something, on some pages and not on others.
func text(words string, include, exclude []string) *bundle.Notice {
	entries := func(paths []string) (out []pages.Entry) {
		for _, p := range paths {
			out = append(out, pages.Entry{Match: pages.Page, Path: p})
		}
		return out
	}
	return &bundle.Notice{
		Kind: bundle.KindCode, Title: words,
		Pages: &pages.Conditions{Include: entries(include), Exclude: entries(exclude)},
	}
}

// Every change of code from one notice to another, held against what rule B7 is for, written a second
// time: visitors see nothing on a page where they did not see the same before, no words are kept that
// were not there, nothing is published, and what was deleted stays so. What an editor may do in any
// case is listed after it.
func TestCodeIsOnlyMadeLess(t *testing.T) {
	texts := []*bundle.Notice{
		nil, text("one", []string{"/a"}, nil), text("one", []string{"/a", "/b"}, nil),
		text("one", []string{"/a", "/b"}, []string{"/b"}), text("two", []string{"/a"}, nil),
	}
	var all []rights.Notice
	for _, state := range []bundle.State{bundle.Draft, bundle.Paused, bundle.Published} {
		for _, published := range texts {
			for _, draft := range texts {
				for _, deleted := range []bool{false, true} {
					if published == nil && draft == nil || (state == bundle.Draft) != (published == nil) {
						continue
					}
					all = append(all, rights.Notice{State: state, Published: published, Draft: draft, Deleted: deleted})
				}
			}
		}
	}
	on := func(n *bundle.Notice) (out []string) {
		names, faults := pages.NewNames(nil, nil, nil)
		require.Empty(t, faults)
		set, faults := pages.Compile(n.GetPages(), names)
		require.Empty(t, faults)
		for _, path := range []string{"/a", "/b", "/c"} {
			if set.Test(pages.Subject{Path: path}).Shows {
				out = append(out, n.Title+path)
			}
		}
		return out
	}
	out := func(n rights.Notice) (shown []string) {
		if n.State == bundle.Published && !n.Deleted {
			shown = on(n.Published)
		}
		return shown
	}
	within := func(less, more []string) bool {
		return !slices.ContainsFunc(less, func(l string) bool { return !slices.Contains(more, l) })
	}
	allowed := 0
	for _, before := range all {
		for _, after := range all {
			says := fmt.Sprintf("%+v to %+v", before, after)
			assert.NoError(t, rights.MayChange(administrator, before, after), says)
			err := rights.MayChange(editor, before, after)
			if err != nil {
				continue
			}
			allowed++
			assert.True(t, within(out(after), out(before)), "more is out: %s", says)
			assert.False(t, before.Deleted && !after.Deleted, says)
			var had []string
			for _, text := range before.Texts() {
				had = append(had, on(&text)...)
			}
			for _, text := range after.Texts() {
				assert.True(t, within(on(&text), had), "other words, or more pages, are kept: %s", says)
			}
			if after.Published != nil {
				require.NotNil(t, before.Published, "published: %s", says)
				assert.True(t, within(on(after.Published), on(before.Published)), "published: %s", says)
			}
		}
	}
	t.Logf("%d of %d changes are an editor’s", allowed, len(all)*len(all))

	wide, narrow := texts[2], texts[1]
	live := rights.Notice{State: bundle.Published, Published: wide, Draft: texts[4]}
	for says, after := range map[string]rights.Notice{
		"paused":                 {State: bundle.Paused, Published: wide, Draft: texts[4]},
		"unpublished":            {State: bundle.Draft, Draft: texts[4]},
		"unpublished, as it was": {State: bundle.Draft, Draft: wide},
		"deleted":                {State: bundle.Published, Published: wide, Draft: texts[4], Deleted: true},
		"draft dropped":          {State: bundle.Published, Published: wide},
		"off a page":             {State: bundle.Published, Published: narrow, Draft: texts[4]},
		"a page left out":        {State: bundle.Published, Published: texts[3], Draft: texts[4]},
	} {
		assert.NoError(t, rights.MayChange(editor, live, after), says)
		assert.NotEmpty(t, rights.MayChange(editor, after, rights.Notice{
			State: bundle.Published, Published: text("three", []string{"/a"}, nil),
		}), says)
	}
	bar := bundle.Notice{Kind: bundle.KindBar}
	assert.NoError(t, rights.MayChange(editor, rights.Notice{}, rights.Notice{State: bundle.Published, Published: &bar}))
	assert.NoError(t, rights.MayAdd(editor, nil, bar))
	assert.Error(t, rights.MayAdd(editor, wide, *wide), "a copy is code, too")
	assert.NoError(t, rights.MayAdd(administrator, nil, *wide))
	assert.Error(t, rights.MayChange(
		editor, rights.Notice{State: bundle.Draft, Draft: &bar}, rights.Notice{State: bundle.Draft, Draft: wide},
	), "a bar that becomes code")
}

// Of where contacts go an editor without the right may take away all, and change nothing else.
func TestWhereContactsGo(t *testing.T) {
	asks := func(confirm string, to ...string) *bundle.Notice {
		n := bundle.Notice{Kind: bundle.KindPopUp, Content: &bundle.Content{
			Form: &form.Form{Confirm: confirm},
			Rows: []bundle.Row{{Columns: []bundle.Column{{Parts: []bundle.Part{
				{ID: "mail", Kind: bundle.PartField, Field: &form.Field{Kind: form.Email}}, {ID: "send", Kind: bundle.PartSend},
			}}}}},
		}}
		for _, address := range to {
			n.Content.Form.PassOn = append(n.Content.Form.PassOn, form.Receiver{Mail: address})
		}
		return &n
	}
	for _, c := range []struct {
		says          string
		before, after *bundle.Notice
		may           bool
	}{
		{"a form that goes nowhere", &bundle.Notice{Kind: bundle.KindPopUp}, asks(""), true},
		{"one that goes somewhere", &bundle.Notice{Kind: bundle.KindPopUp}, asks("", "x@a.example"), false},
		{"as it was", asks("mail", "x@a.example"), asks("mail", "x@a.example"), true},
		{"to nobody", asks("mail", "x@a.example"), asks("mail"), true},
		{"to somebody else", asks("mail", "x@a.example"), asks("mail", "y@a.example"), false},
		{"to one more", asks("", "x@a.example"), asks("", "x@a.example", "y@a.example"), false},
		{"without confirming", asks("mail", "x@a.example"), asks("", "x@a.example"), false},
		{"another field confirmed", asks("mail"), asks("other"), false},
		{"confirming from now on", asks("", "x@a.example"), asks("mail", "x@a.example"), true},
	} {
		before := rights.Notice{State: bundle.Draft, Draft: c.before}
		after := rights.Notice{State: bundle.Draft, Draft: c.after}
		err := rights.MayChange(editor, before, after)
		assert.Equal(t, c.may, err == nil, c.says)
		assert.Equal(t, c.may, rights.MayAdd(editor, c.before, *c.after) == nil, "a copy: %s", c.says)
		if err != nil {
			assert.NotEmpty(t, err.(rights.Refusal).Remedy)
		}
		assert.NoError(t, rights.MayChange(confidant, before, after), c.says)
		assert.NoError(t, rights.MayChange(administrator, before, after), c.says)
		// A starting point is the same.
		point := func(n *bundle.Notice) bundle.Site {
			return bundle.Site{StartingPoints: []bundle.StartingPoint{{Name: "P", Notice: *n}}}
		}
		err = rights.MayChangeSite(editor, point(c.before), point(c.after), nil)
		assert.Equal(t, c.may, err == nil, "a starting point: %s", c.says)
	}
}

// A page set or an audience that code uses says where it runs: an editor neither changes nor removes
// it, and does so with all others.
func TestWhatSaysWhereCodeRuns(t *testing.T) {
	site := func(set string, entry pages.Match, audienceName, fact string) bundle.Site {
		return bundle.Site{
			PageSets:  []pages.SavedSet{{Name: set, Conditions: pages.Conditions{Include: []pages.Entry{{Match: entry}}}}},
			Audiences: []audience.SavedAudience{{Name: audienceName, Audience: audience.Node{Fact: fact}}},
		}
	}
	before := site("Where", pages.Home, "Whom", "device")
	uses := func(kind bundle.Kind) []rights.Notice {
		return []rights.Notice{{State: bundle.Draft, Draft: &bundle.Notice{
			Kind: kind, Pages: &pages.Conditions{Include: []pages.Entry{{Match: pages.InSet, Name: "Where"}}},
			Audience: &audience.Node{Saved: "Whom"},
		}}}
	}
	for says, after := range map[string]bundle.Site{
		"another set":      site("Where", pages.All, "Whom", "device"),
		"another audience": site("Where", pages.Home, "Whom", "os"),
		"no set":           {Audiences: before.Audiences}, "no audience": {PageSets: before.PageSets},
	} {
		assert.Error(t, rights.MayChangeSite(editor, before, after, uses(bundle.KindCode)), says)
		assert.NoError(t, rights.MayChangeSite(editor, before, after, uses(bundle.KindBar)), says)
		assert.NoError(t, rights.MayChangeSite(administrator, before, after, uses(bundle.KindCode)), says)
	}
	more := before
	more.PageSets = append([]pages.SavedSet{{Name: "Elsewhere"}}, before.PageSets...)
	assert.NoError(t, rights.MayChangeSite(editor, before, more, uses(bundle.KindCode)), "one more")
	assert.NoError(t, rights.MayChangeSite(editor, before, before, uses(bundle.KindCode)), "as it was")
}
