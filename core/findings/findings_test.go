package findings_test

import (
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/findings"
)

var at = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

// check returns the findings of a site with four pages and these notices, each
// a JSON object that is put into a sound published bar.
func check(t *testing.T, notices ...string) []findings.Finding {
	t.Helper()
	in := `{"format":"mastflag.bundle/1","site":{"key":"s","name":"S","timeZone":"Europe/London","language":"en","languages":["en"],"origins":["https://www.s.example"]},
	"pages":[{"path":"/"},{"path":"/book"},{"path":"/ports"},{"path":"/ports/a"}],"notices":[` + strings.Join(notices, ",") + `]}`
	b, err := bundle.Parse([]byte(in))
	require.NoError(t, err)
	s, err := decide.Compile(b)
	require.NoError(t, err)
	return findings.Check(s, at)
}

// sound is a bar without findings; parts replaces or adds fields.
func sound(id, parts string) string {
	fields := map[string]string{"pages": `{"include":[{"match":"all"}]}`, "content": `{"wordings":{"en":{"message":"Hello"}}}`, "state": `"published"`, "publishedAt": `"2026-12-01T00:00:00Z"`}
	out := `{"id":"` + id + `","kind":"bar"`
	for name, value := range fields {
		if !strings.Contains(parts, `"`+name+`"`) {
			out += `,"` + name + `":` + value
		}
	}
	if parts != "" {
		out += "," + parts
	}
	return out + "}"
}

// Each row has the finding in the first notice and has not got it in the second.
func TestFindings(t *testing.T) {
	for _, c := range []struct {
		code      findings.Code
		pointer   string
		has, hast string
	}{
		{findings.Over, "/notices/0/schedule", `"schedule":{"windows":[{"until":"2026-12-04T12:00"}]}`, `"schedule":{"windows":[{"until":"2026-12-04T12:01"}]}`},
		{findings.Over, "/notices/0/schedule", `"schedule":{"windows":[{"until":"2026-11-30T12:00"}]}`, `"schedule":{"windows":[{"until":"2026-11-30T12:00"},{"from":"2027-01-01T00:00"}]}`},
		{findings.NoPages, "/notices/0/pages", `"pages":{}`, ``},
		{findings.MatchesNone, "/notices/0/pages", `"pages":{"include":[{"match":"section","path":"/port"}]}`, `"pages":{"include":[{"match":"section","path":"/ports"}]}`},
		{findings.AllExcluded, "/notices/0/pages/include/0", `"pages":{"include":[{"match":"page","path":"/ports/a"},{"match":"page","path":"/book"}],"exclude":[{"match":"section","path":"/ports"}]}`,
			`"pages":{"include":[{"match":"section","path":"/ports"}],"exclude":[{"match":"page","path":"/ports/a"}]}`},
		{findings.Redundant, "/notices/0/pages/include/1", `"pages":{"include":[{"match":"all"},{"match":"page","path":"/book"}]}`, `"pages":{"include":[{"match":"page","path":"/"},{"match":"page","path":"/book"}]}`},
		{findings.DeadLink, "/notices/0/content/wordings/en/link/href", `"content":{"wordings":{"en":{"message":"x","link":{"href":"/boat"}}}}`, `"content":{"wordings":{"en":{"message":"x","link":{"href":"/book/?from=bar#top"}}}}`},
		{findings.DeadLink, "/notices/0/content/wordings/en/message", `"content":{"wordings":{"en":{"message":"<a href='https://s.example/boat'>x</a>"}}}`, `"content":{"wordings":{"en":{"message":"<a href='https://elsewhere.example/boat'>x</a> <a href='mailto:a@s.example'>y</a>"}}}`},
		{findings.NotClosable, "/notices/0/memory/closable", `"memory":{"closable":false}`, `"memory":{"closed":"P1D"}`},
		{findings.LowContrast, "/notices/0/look", `"look":{"background":"#ffffff","text":"#777777"}`, `"look":{"background":"#ffffff","text":"#767676"}`},
		{findings.NoWording, "/notices/0/content", `"content":{"wordings":{"en":{"message":"<p><br></p>"}}}`, ``},
	} {
		find := func(parts string) *findings.Finding {
			for _, f := range check(t, sound("n", parts)) {
				if f.Code == c.code {
					return &f
				}
			}
			return nil
		}
		f := find(c.has)
		if assert.NotNil(t, f, "%s in %s", c.code, c.has) {
			assert.Equal(t, []string{"n"}, f.Notices)
			assert.Equal(t, []string{c.pointer}, f.Pointers)
			assert.NotEmpty(t, f.What)
			assert.NotEmpty(t, f.Mend)
		}
		assert.Nil(t, find(c.hast), "%s in %s", c.code, c.hast)
	}
	assert.Empty(t, check(t, sound("n", "")), "a sound bar has none")
}

func TestUntranslated(t *testing.T) {
	b, err := bundle.Parse([]byte(`{"format":"mastflag.bundle/1","site":{"key":"s","name":"S","timeZone":"UTC","language":"en","languages":["en","de","pl"]},"notices":[` + sound("n", "") + `]}`))
	require.NoError(t, err)
	s, err := decide.Compile(b)
	require.NoError(t, err)
	found := findings.Check(s, at)
	require.Len(t, found, 1)
	assert.Equal(t, findings.Untranslated, found[0].Code)
	assert.Equal(t, "“n” has no words in de and pl.", found[0].What)
	assert.Equal(t, []string{"/notices/0/content/wordings/de", "/notices/0/content/wordings/pl"}, found[0].Pointers)
}

func TestRivals(t *testing.T) {
	only := func(path string) string { return `"pages":{"include":[{"match":"page","path":"` + path + `"}]}` }
	from := func(f, u string) string { return `"schedule":{"windows":[{"from":"` + f + `","until":"` + u + `"}]}` }
	rivals := func(notices ...string) []findings.Finding {
		var out []findings.Finding
		for _, f := range check(t, notices...) {
			if f.Code == findings.Rival {
				out = append(out, f)
			}
		}
		return out
	}
	a, b := sound("a", `"rank":90`), sound("b", `"rank":80`)
	assert.Empty(t, rivals(a, b), "the top holds two")

	got := rivals(a, b, sound("c", only("/ports/a")+","+from("2026-12-10T09:00", "2026-12-11T09:00")))
	require.Len(t, got, 1)
	assert.Equal(t, []string{"c", "a", "b"}, got[0].Notices, "who loses, who wins")
	assert.Equal(t, "“c” is held back on /ports/a from Thu 10 Dec 09:00: “a” and “b” take the top.", got[0].What)

	assert.Empty(t, rivals(a, b, sound("c", `"slot":"bottom"`)), "another slot")
	assert.Empty(t, rivals(a, b, sound("c", `"state":"draft"`)), "a draft competes with no one")
	assert.Empty(t, rivals(sound("a", only("/")), sound("b", only("/")), sound("c", only("/book"))), "other pages")
	assert.Empty(t, rivals(sound("a", from("2026-12-05T00:00", "2026-12-06T00:00")), sound("b", from("2026-12-06T00:00", "2026-12-07T00:00")), sound("c", "")), "they never meet all three")
	assert.Empty(t, rivals(sound("a", from("2026-12-02T00:00", "2026-12-04T12:00")), b, sound("c", "")), "it is over")
}
