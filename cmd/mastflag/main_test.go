package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/internal/store"
)

const sample = `{"format":"mastflag.bundle/2",
 "site":{"key":"sundrey","name":"Sundrey Isles Ferries","timeZone":"Europe/London","language":"en"},
 "pages":[{"path":"/"},{"path":"/book"}],
 "notices":[
  {"id":"storm","kind":"bar","state":"published","publishedAt":"2026-11-20T10:00:00Z","level":"warning",` +
	`"schedule":{"windows":[{"from":"2026-12-01T09:00","until":"2026-12-05T18:00"}]},
   "pages":{"include":[{"match":"all"}],"exclude":[{"match":"page","path":"/book"}]},"memory":{"closed":"P1D"},` +
	`"content":{"wordings":{"en":{"message":"No sailings."}}}},
  {"id":"dawn","kind":"bar","state":"published","publishedAt":"2026-11-20T10:00:00Z","schedule":{"clock":"visitor",` +
	`"windows":[{"from":"2026-12-03T06:00","until":"2026-12-03T09:00"}]},
   "pages":{"include":[{"match":"all"}]},"content":{"wordings":{"en":{"message":"Good morning."}}}},
  {"id":"later","kind":"bar","content":{"wordings":{"en":{"message":"A draft."}}},` +
	`"pages":{"include":[{"match":"home"}]}}]}`

// command runs a command line on files that stand in a folder of its own; in
// is its standard input.
func command(t *testing.T, in string, args ...string) (code int, out, errs string) {
	t.Helper()
	var o, e bytes.Buffer
	code = run(args, strings.NewReader(in), &o, &e)
	return code, o.String(), e.String()
}

func file(t *testing.T, name, content string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(content), 0o600))
	return path
}

func TestDecideVerb(t *testing.T) {
	b := file(t, "site.json", sample)
	code, out, errs := command(
		t,
		`{"at":"2026-12-04T10:00:00Z","url":"https://www.sundrey.example/?utm_source=poster","facts":{"device.kind":"phone"}}

{"at":"2026-12-04T10:00:00Z","url":"/book"}
{"at":"2026-12-04T10:00:00Z","url":"/","memory":{"notices":{"storm":{"closed":"2026-12-04T09:00:00Z"}}}}
`,
		"decide", "--bundle", b, "--visits", "-",
	)
	require.Equal(t, 0, code, errs)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	require.Len(t, lines, 3)
	assert.JSONEq(
		t,
		`{"at":"2026-12-04T10:00:00Z","validUntil":"2026-12-05T18:00:00Z","show":[{"id":"storm","slot":"top"}],"waiting":[],
	 "held":[{"id":"dawn","gate":"schedule","rule":"S2","why":"It ended Thu 3 Dec 09:00; now it is Fri 4 Dec 10:00."},`+
			`{"id":"later","gate":"state","rule":"G2","why":"It is a draft. Visitors see it once you publish it."}]}`,
		lines[0],
	)
	assert.Contains(t, lines[1], `{"id":"storm","gate":"pages","rule":"P1"`)
	assert.Contains(t, lines[1], `"validUntil":null`)
	assert.Contains(t, lines[2], `{"id":"storm","gate":"memory","rule":"M1"`)
	assert.NotContains(t, out, "explain")

	_, out, _ = command(t, `{"at":"2026-12-04T10:00:00Z","url":"/"}`, "decide", "--bundle", b, "--explain")
	var r struct {
		Explain []struct {
			ID    string
			Steps []struct{ Gate string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &r))
	require.Len(t, r.Explain, 3)
	var gates []string
	for _, st := range r.Explain[0].Steps {
		gates = append(gates, st.Gate)
	}
	assert.Equal(t, []string{"display", "state", "schedule", "pages", "audience", "memory", "holdout", "slot"}, gates)
}

// rich has everything a notice can ask of time, place and visitor.
const rich = `{"format":"mastflag.bundle/2","site":{"key":"sundrey","name":"Sundrey Isles Ferries",` +
	`"origins":["https://www.sundrey.example"],"timeZone":"Europe/London","language":"en","capacity":{"top":2},
  "pageSets":[{"name":"ports","include":[{"match":"section","path":"/ports"}]}],"audiences":[{"name":"regulars",` +
	`"audience":{"all":[{"fact":"visits.number","is":"gte","value":5}]}}]},
 "pages":[{"path":"/"},{"path":"/book"},{"path":"/ports/aldwick","type":"port","tags":["winter"]}],"notices":[
 {"id":"sale","kind":"bar","state":"published","publishedAt":"2026-11-20T10:00:00Z","rank":60,
  "schedule":{"windows":[{"from":"2026-12-04T12:00","until":"2026-12-04T18:00","rule":"FREQ=WEEKLY;BYDAY=FR",` +
	`"except":["2026-12-25T12:00"],"also":["2026-12-24T12:00"]}]},
  "pages":{"include":[{"match":"set","name":"ports"},{"match":"home"}]},
  "audience":{"all":[{"fact":"referrer.class","is":"eq","value":"search"},{"any":[{"fact":"view.scroll","is":"gte",` +
	`"value":30},{"saved":"regulars"}]}]},
  "memory":{"closed":"P1D","limits":[{"times":3,"per":"P7D"}]},"content":{"wordings":{"en":{"message":"Half fare."}}}},
 {"id":"never","kind":"bar","state":"published","publishedAt":"2026-11-20T10:00:00Z",` +
	`"pages":{"include":[{"match":"all"}]},
  "audience":{"all":[{"fact":"visits.number","is":"gte","value":5},{"fact":"visits.number","is":"lt","value":3}]},` +
	`"content":{"wordings":{"en":{"message":"For no one."}}}}]}`

func TestVerbsOnEverything(t *testing.T) {
	b := file(t, "site.json", rich)
	code, out, errs := command(
		t, `{"at":"2026-12-04T13:00:00Z","url":"/ports/aldwick","facts":{"referrer.class":"search","visits.number":1}}
{"at":"2026-12-04T13:00:00Z","url":"/ports/aldwick","facts":{"referrer.class":"search","visits.number":5}}
{"at":"2026-12-04T13:00:00Z","url":"/ports/aldwick","facts":{"referrer.class":"search","view.scroll":12}}
{"at":"2026-12-04T13:00:00Z","url":"/","facts":{"referrer.class":"search","visits.number":9},`+
			`"memory":{"notices":{"sale":{"shown":["2026-12-01T10:00:00Z","2026-12-02T10:00:00Z","2026-12-03T10:00:00Z"]}}}}
{"at":"2026-12-04T13:00:00Z","url":"/book","facts":{"referrer.class":"search"}}
`,
		"decide", "--bundle", b, "--visits", "-",
	)
	require.Equal(t, 0, code, errs)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	require.Len(t, lines, 5)
	assert.Contains(
		t, lines[0],
		`"validUntil":"2026-12-04T18:00:00Z","show":[],"waiting":[{"id":"sale","slot":"top",`+
			`"remainder":{"fact":"view.scroll","is":"gte","value":30}}]`,
	)
	assert.Contains(
		t, lines[0],
		`{"id":"never","gate":"audience","rule":"A1","why":"The visit number is 1; it needs to be at least 5."}`,
	)
	assert.Contains(t, lines[1], `"show":[{"id":"sale","slot":"top"}],"waiting":[]`)
	assert.Contains(
		t, lines[2],
		`{"id":"sale","gate":"audience","rule":"A1","why":"This visitor has read 12 % of the page; it waits for 30 %."}`,
	)
	assert.Contains(
		t, lines[3],
		`{"id":"sale","gate":"memory","rule":"M2","why":"This visitor has seen it 3 times; the limit is 3 times in a week. `+
			`It can come again Tue 8 Dec 10:00."}`,
	)
	assert.Contains(t, lines[4], `{"id":"sale","gate":"pages","rule":"P1"`)

	code, out, errs = command(
		t, "", "timeline", "--bundle", b, "--from", "2026-12-18T00:00:00Z", "--until", "2027-01-02T00:00:00Z", "--notice",
		"sale",
	)
	require.Equal(t, 0, code, errs)
	assert.Equal(
		t,
		`{"id":"sale","intervals":[{"from":"2026-12-18T12:00:00Z","until":"2026-12-18T18:00:00Z"},`+
			`{"from":"2026-12-24T12:00:00Z","until":"2026-12-24T18:00:00Z"},{"from":"2027-01-01T12:00:00Z",`+
			`"until":"2027-01-01T18:00:00Z"}]}`+"\n",
		out,
	)

	code, out, _ = command(t, "", "check", "--bundle", b, "--at", "2026-12-01T00:00:00Z")
	assert.Equal(t, 1, code)
	assert.Contains(
		t, out,
		`{"code":"nobody","severity":"error","notices":["never"],"pointers":["/notices/1/audience",`+
			`"/notices/1/audience/all/0","/notices/1/audience/all/1"]`,
	)
	assert.NotContains(t, out, `"rival"`, "who can never be seen has no rivals")

	hourly := strings.Replace(rich, "FREQ=WEEKLY;BYDAY=FR", "FREQ=HOURLY", 1)
	code, _, errs = command(
		t, hourly, "timeline", "--bundle", "-", "--from", "2050-01-01T00:00:00Z", "--until", "2051-01-01T00:00:00Z",
	)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "repeats more than 100000 times")
	for _, c := range []struct{ old, new, says string }{
		{
			"FREQ=WEEKLY;BYDAY=FR", "FREQ=SECONDLY",
			"/notices/0/schedule/windows/0/rule: rule \"FREQ=SECONDLY\": it repeats more often than hourly",
		},
		{
			`"fact":"referrer.class","is":"eq"`, `"fact":"referrer.kind","is":"eq"`,
			"/notices/0/audience/all/0/fact: unknown fact",
		},
		{`"value":30`, `"value":"30"`, "/notices/0/audience/all/1/any/0/value: \"30\" is no value for view.scroll"},
	} {
		code, _, errs = command(t, strings.Replace(rich, c.old, c.new, 1), "check", "--bundle", "-")
		assert.Equal(t, 2, code)
		assert.Contains(t, errs, c.says)
	}
}

func TestTimelineVerb(t *testing.T) {
	args := []string{"timeline", "--bundle", "-", "--from", "2026-12-03T00:00:00Z", "--until", "2026-12-04T00:00:00Z"}
	code, out, errs := command(t, sample, args...)
	require.Equal(t, 0, code, errs)
	assert.Equal(t, `{"id":"storm","intervals":[{"from":"2026-12-03T00:00:00Z","until":"2026-12-04T00:00:00Z"}]}
{"id":"dawn","intervals":[{"from":"2026-12-03T00:00:00Z","until":"2026-12-03T21:00:00Z"}],"floating":true}
{"id":"later","intervals":[]}
`, out)
	_, out, _ = command(t, sample, append(args, "--notice", "later")...)
	assert.Equal(t, "{\"id\":\"later\",\"intervals\":[]}\n", out)
}

func TestCheckVerb(t *testing.T) {
	b := file(t, "site.json", sample)
	code, out, _ := command(t, "", "check", "--bundle", b, "--at", "2026-12-01T00:00:00Z")
	assert.Equal(t, 0, code, out)
	assert.Empty(t, out)
	code, out, _ = command(t, "", "check", "--bundle", b, "--at", "2026-12-06T00:00:00Z")
	assert.Equal(t, 1, code, "1 for findings")
	for line := range strings.SplitSeq(strings.TrimSpace(out), "\n") {
		var f map[string]any
		require.NoError(t, json.Unmarshal([]byte(line), &f))
		assert.Equal(t, "over", f["code"])
	}
}

func TestDataVerbs(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "data")
	code, out, errs := command(t, sample, "import", "--data", dir, "--bundle", "-")
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, "added site sundrey")
	code, out, errs = command(t, "", "export", "--data", dir, "--site", "sundrey")
	require.Equal(t, 0, code, errs)
	var want, got map[string]any
	require.NoError(t, json.Unmarshal([]byte(sample), &want))
	require.NoError(t, json.Unmarshal([]byte(out), &got))
	byID := func(doc map[string]any) map[string]any {
		m := map[string]any{}
		for _, n := range doc["notices"].([]any) {
			n := n.(map[string]any)
			if n["state"] == nil {
				n["state"] = "draft"
			}
			m[n["id"].(string)] = n
		}
		return m
	}
	assert.Equal(t, byID(want), byID(got), "what was imported is exported")
	assert.Equal(t, want["site"], got["site"])

	code, again, errs := command(t, out, "import", "--data", dir, "--bundle", "-")
	require.Equal(t, 0, code, errs)
	assert.Contains(t, again, "changed site sundrey")
	_, out2, _ := command(t, "", "export", "--data", dir)
	assert.Equal(t, out, out2, "importing what was exported changes nothing")

	to := filepath.Join(t.TempDir(), "copy.db")
	code, _, errs = command(t, "", "backup", "--data", dir, "--to", to)
	require.Equal(t, 0, code, errs)
	assert.FileExists(t, to)
}

// Counts of a file are compared with each notice's first; what is wrong is said by its line.
func TestResultsVerb(t *testing.T) {
	code, out, errs := command(t, `{"notice":"sale","variant":"a","visitors":80,"reached":48}
{"notice":"sale","variant":"b","visitors":70,"reached":56}
{"notice":"sale","variant":"held-out","visitors":29,"reached":9}`, "results", "--counts", "-")
	require.Equal(t, 0, code, errs)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	require.Len(t, lines, 3)
	assert.Contains(t, lines[0], `"share":0.6,"low":0.49`)
	assert.NotContains(t, lines[0], "difference")
	assert.Contains(t, lines[1], `"difference":{"share":0.2`)
	assert.Contains(t, lines[1], `"always":{"low":-0.`)
	assert.Equal(t, `{"notice":"sale","variant":"held-out","visitors":29,"reached":9}`, lines[2])
	for _, c := range []struct {
		in, says string
		args     []string
	}{
		{`{"notice":"x","visitors":1,"reached":2}`, `line 1: "reached" is 2 of 1`, []string{"--counts", "-"}},
		{"", "at least one of the flags", nil},
		{"", "no data", []string{"--data", filepath.Join(t.TempDir(), "none"), "--site", "s"}},
		{"", `"soon" is no day`, []string{"--data", t.TempDir(), "--site", "s", "--from", "soon"}},
	} {
		code, _, errs := command(t, c.in, append([]string{"results"}, c.args...)...)
		assert.Equal(t, 2, code)
		assert.Contains(t, errs, c.says)
	}
	dir := filepath.Join(t.TempDir(), "data")
	code, _, errs = command(t, sample, "import", "--data", dir, "--bundle", "-")
	require.Equal(t, 0, code, errs)
	code, out, errs = command(t, "", "results", "--data", dir, "--site", "sundrey")
	assert.Equal(t, []any{0, ""}, []any{code, out}, errs)
	code, out, errs = command(t, "", "results", "--data", dir, "--site", "sundrey", "--notice", "none")
	assert.Equal(t, []any{2, ""}, []any{code, out})
	assert.Contains(t, errs, `has no notice "none"`)
}

// decide and check know consent: what a place wants, what an answer is worth,
// and what would not stand up.
func TestConsentVerbs(t *testing.T) {
	b := file(
		t, "site.json",
		`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"Europe/London","language":"en",
	 "consent":{"purposes":[{"id":"marketing"}],"inventory":[{"kind":"cookie","name":"gnt","by":"Gannet",`+
			`"purpose":"marketing","lasts":"P90D"}]}},"pages":[{"path":"/"}],
	 "notices":[{"id":"ask","kind":"consent","state":"published","publishedAt":"2026-11-20T10:00:00Z",`+
			`"pages":{"include":[{"match":"all"}]},
	  "content":{"consent":{"refuse":"behind"},"wordings":{"en":{"message":"May we?","link":{"href":"/",`+
			`"label":"Privacy","as":"link"}}}}}]}`,
	)
	code, out, errs := command(t, `{"at":"2026-12-04T13:00:00Z","url":"/","facts":{"place.country":"DE"}}
{"at":"2026-12-04T13:00:00Z","url":"/","facts":{"place.country":"US","place.region":"US-CA","consent.signal":"gpc"}}
{"at":"2026-12-04T13:00:00Z","url":"/","facts":{"place.country":"DE"},`+
		`"memory":{"consent":{"at":"2026-12-01T00:00:00Z","refused":["marketing"]}}}
`, "decide", "--bundle", b, "--visits", "-")
	require.Equal(t, 0, code, errs)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	require.Len(t, lines, 3)
	assert.Contains(
		t, lines[0],
		`"consent":{"place":"DE","rule":"opt-in","granted":["necessary"],"answered":false,"shows":true,"open":true,`+
			`"by":"K4","why":"In DE nothing is set before the visitor agrees."}`,
	)
	assert.Contains(
		t, lines[1],
		`"consent":{"place":"US-CA","rule":"opt-out","granted":["necessary"],"signal":true,"answered":false,"shows":true,`+
			`"by":"K4"`,
	)
	assert.Contains(
		t, lines[2],
		`"validUntil":"2027-05-29T23:00:00Z","show":[],"waiting":[],"held":[{"id":"ask","gate":"memory","rule":"K2"`,
	)
	code, out, _ = command(t, "", "check", "--bundle", b)
	assert.Equal(t, 1, code)
	assert.Contains(t, out, `"code":"refuse-harder"`)
	assert.Contains(
		t, out,
		`"source":"GDPR Art. 4(11) and 7(3); EDPB Guidelines 05/2020, 112 ff.","fixes":[{"label":"Put it beside accepting"`,
	)
	code, _, errs = command(
		t,
		`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"Europe/London","language":"en",`+
			`"consent":{"inventory":[{"kind":"cookie","name":"x","purpose":"fun"}]}},"notices":[{"id":"a","kind":"bar",`+
			`"content":{"consent":{}}}]}`,
		"check", "--bundle", "-",
	)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, `/site/consent/inventory/0/purpose: there is no purpose "fun"`)
	assert.Contains(t, errs, `/notices/0/content/consent: a notice of kind "bar" asks for no consent`)
}

// Documents and disclaimers through decide, check, import and export.
func TestDocumentVerbs(t *testing.T) {
	const site = `{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"Europe/London",` +
		`"language":"en","documents":[
	 {"id":"tours","kind":"own","titles":{"en":"Tour safety"},"own":{"text":{"en":"<p>Wear it.</p>"}},"version":3,` +
		`"material":2,"since":"2026-11-01T00:00:00Z","published":{"en":{"title":"Tour safety","text":"<p>Wear it.</p>"}}},
	 {"id":"privacy","kind":"privacy"}]},"pages":[{"path":"/"},{"path":"/book"}],
	 "notices":[{"id":"safety","kind":"disclaimer","state":"published","publishedAt":"2026-11-20T10:00:00Z",` +
		`"slot":"centre","pages":{"include":[{"match":"page","path":"/book"}]},
	  "content":{"disclaimer":{"document":"tours","ask":"acknowledge","else":"/"},"wordings":{"en":{"message":"Read ` +
		`this"}}}}]}`
	b := file(t, "site.json", site)
	code, out, errs := command(t, `{"at":"2026-12-04T13:00:00Z","url":"/book"}
{"at":"2026-12-04T13:00:00Z","url":"/book","memory":{"acknowledged":{"tours":{"version":2,`+
		`"at":"2026-12-01T00:00:00Z"}}}}
{"at":"2026-12-04T13:00:00Z","url":"/book","memory":{"acknowledged":{"tours":{"version":1,`+
		`"at":"2026-12-01T00:00:00Z"}}}}
`, "decide", "--bundle", b, "--visits", "-")
	require.Equal(t, 0, code, errs)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	require.Len(t, lines, 3)
	assert.Contains(t, lines[0], `"show":[{"id":"safety","slot":"centre"}]`)
	assert.Contains(
		t, lines[1],
		`"held":[{"id":"safety","gate":"memory","rule":"T7","why":"This visitor acknowledged version 2 of “Tour safety” `+
			`Tue 1 Dec 00:00, and that holds."}]`,
	)
	assert.Contains(t, lines[2], `"show":[{"id":"safety","slot":"centre"}]`)
	code, out, _ = command(t, "", "check", "--bundle", b)
	assert.Equal(t, 1, code)
	assert.Contains(
		t, out, `"code":"open-item","severity":"warning","notices":[],"pointers":["/site/documents/1/answers/operator"]`,
	)
	assert.Contains(t, out, `"document":"privacy"`)
	dir := filepath.Join(t.TempDir(), "data")
	code, _, errs = command(t, site, "import", "--data", dir, "--bundle", "-")
	require.Equal(t, 0, code, errs)
	code, out, _ = command(t, "", "export", "--data", dir)
	require.Equal(t, 0, code)
	exported, err := bundle.Parse([]byte(out))
	require.NoError(t, err)
	assert.Len(t, exported.Site.Documents, 2)
	assert.Equal(t, 2, exported.Site.Documents[0].Material)
	// What is exported goes in again; another text under a version does not.
	code, _, errs = command(t, out, "import", "--data", dir, "--bundle", "-")
	require.Equal(t, 0, code, errs)
	code, _, errs = command(
		t, strings.Replace(out, "\"text\": \"<p>Wear it.</p>\"\n", "\"text\": \"<p>Do not.</p>\"\n", 1), "import", "--data",
		dir, "--bundle", "-",
	)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "version 3 of “tours” is kept here and says something else")
}

// A whole chain is proved; one that was altered, or made anew, is told from it.
func TestVerifyRecords(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "data")
	code, _, errs := command(t, sample, "import", "--data", dir, "--bundle", "-")
	require.Equal(t, 0, code, errs)
	st, err := store.Open(t.Context(), dir)
	require.NoError(t, err)
	defer st.Close()
	for n := range 3 {
		r := consent.Record{
			RecordID:  strings.Repeat(fmt.Sprint(n), 32),
			EventType: consent.Refused,
			EventTime: time.Unix(int64(n), 0),
		}
		_, err := st.AddRecords(t.Context(), []store.NewRecord{{Site: "sundrey", Record: &r}})
		require.NoError(t, err)
	}
	type line struct {
		Site    string
		Records int
		Hash    string
		Whole   bool
		Why     string
	}
	verify := func(want int, args ...string) (l line) {
		t.Helper()
		code, out, errs := command(t, "", append([]string{"verify-records", "--data", dir}, args...)...)
		require.Equal(t, want, code, errs)
		if out != "" {
			require.NoError(t, json.Unmarshal([]byte(out), &l))
		}
		return l
	}
	noted := verify(0)
	assert.Equal(t, line{"sundrey", 3, noted.Hash, true, ""}, noted)
	verify(0, "--site", "sundrey", "--head", noted.Hash)
	verify(2, "--site", "elsewhere")
	verify(2, "--head", "abc")
	_, err = st.DB().Exec("UPDATE consent_record SET body = replace(body, 'refused', 'accepted') WHERE seq = 2")
	require.NoError(t, err)
	assert.Contains(t, verify(1).Why, "record 2 was altered")
	_, err = st.DB().Exec("DELETE FROM consent_record; DELETE FROM consent_head")
	require.NoError(t, err)
	assert.True(t, verify(1, "--head", noted.Hash).Whole, "an empty chain is whole, but not the one that was noted")
}

func TestBadCommandLines(t *testing.T) {
	b := file(t, "site.json", sample)
	for _, c := range []struct {
		name, in string
		args     []string
		errs     []string // lines, by what they hold
	}{
		{"no such verb", "", []string{"sail"}, []string{"unknown command"}},
		{"no bundle named", "", []string{"check"}, []string{`required flag(s) "bundle" not set`}},
		{"no such file", "", []string{"check", "--bundle", "nowhere.json"}, []string{"nowhere.json: no such file"}},
		{"not JSON", "{", []string{"check", "--bundle", "-"}, []string{"document: this is not JSON: line 1, column 1"}},
		{
			"each wrong value on a line of its own",
			strings.NewReplacer(
				`"warning"`, `"grave"`, `"slot"`, `"x"`, `"kind":"bar","content"`, `"kind":"sign","content"`,
			).Replace(sample),
			[]string{"check", "--bundle", "-"}, []string{"/notices/0/level: ", "/notices/2/kind: "},
		},
		{
			"wrong visits, each by its line",
			"{\"url\":\"/\"}\n{\"at\":\"2026-12-04T10:00:00Z\",\"url\":\"/\"}\nvisit\n{\"at\":\"2026-12-04T10:00:00Z\",\"url\"" +
				":\"/\",\"shoe\":44}",
			[]string{"decide", "--bundle", b},
			[]string{`visit 1: "at" is missing`, "visit 3: ", `visit 4: /shoe: unknown field "shoe"`},
		},
		{
			"a wrong instant", "", []string{"timeline", "--bundle", b, "--from", "monday", "--until", "2026-12-04T00:00:00Z"},
			[]string{`--from "monday" is not an instant`},
		},
		{
			"a range of nothing", "",
			[]string{"timeline", "--bundle", b, "--from", "2026-12-04T00:00:00Z", "--until", "2026-12-04T00:00:00Z"},
			[]string{"is not after"},
		},
		{
			"no such notice", "",
			[]string{
				"timeline", "--bundle", b, "--from", "2026-12-04T00:00:00Z", "--until", "2026-12-05T00:00:00Z", "--notice", "x",
			},
			[]string{"no notice of that id"},
		},
		{"no data there", "", []string{"export", "--data", t.TempDir()}, []string{"holds no data"}},
		{
			"a listener that is none", "", []string{"serve", "--data", t.TempDir(), "--listen", "nowhere"},
			[]string{"--listen nowhere"},
		},
		{
			"an address that is none", "",
			[]string{"serve", "--data", t.TempDir(), "--listen", "127.0.0.1:0", "--address", "notices"}, []string{"--address"},
		},
		{
			"no mail server", "",
			[]string{"serve", "--data", t.TempDir(), "--listen", "127.0.0.1:0", "--smtp", "mail.example.org"},
			[]string{"write it like smtp://user@mail.example.org:587"},
		},
		{
			"letters from nobody", "",
			[]string{"serve", "--data", t.TempDir(), "--listen", "127.0.0.1:0", "--smtp", "smtp://mail.example.org"},
			[]string{`--smtp-from "": give an e-mail address`},
		},
		{
			"a log level that is none", "", []string{"serve", "--data", t.TempDir(), "--log-level", "loud"},
			[]string{"--log-level"},
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			code, _, errs := command(t, c.in, c.args...)
			assert.Equal(t, 2, code)
			lines := strings.Split(strings.TrimSpace(errs), "\n")
			require.Len(t, lines, len(c.errs), errs)
			for i, want := range c.errs {
				assert.True(t, strings.HasPrefix(lines[i], "mastflag: "))
				assert.Contains(t, lines[i], want)
			}
		})
	}
	t.Setenv("MASTFLAG_AT", "2026-12-06T00:00:00Z")
	code, _, _ := command(t, "", "check", "--bundle", b)
	assert.Equal(t, 1, code, "every flag has its variable")
}

// Countdowns and alerts on the command line: what ends what, and when.
func TestCountdownsAndAlerts(t *testing.T) {
	b := file(
		t, "site.json",
		`{"format":"mastflag.bundle/2","site":{"key":"s","name":"S","timeZone":"Europe/London","language":"en"},`+
			`"pages":[{"path":"/"}],"notices":[
  {"id":"sale","kind":"countdown","state":"published","publishedAt":"2026-12-01T00:00:00Z",`+
			`"pages":{"include":[{"match":"all"}]},"content":{"wordings":{"en":{"message":"Ends in {countdown}"}},`+
			`"countdown":{"kind":"to","at":"2026-12-04T18:00","then":"hand-over","handTo":"after"}}},
  {"id":"after","kind":"bar","state":"published","publishedAt":"2026-12-01T00:00:00Z",`+
			`"pages":{"include":[{"match":"all"}]},"content":{"wordings":{"en":{"message":"It is over."}}}},
  {"id":"boat","kind":"bar","slot":"bottom","state":"published","publishedAt":"2026-12-01T00:00:00Z",`+
			`"pages":{"include":[{"match":"all"}]},"content":{"wordings":{"en":{"message":"Next boat in {countdown}"}},`+
			`"countdown":{"kind":"repeating","at":"2026-12-01T08:00","rule":"FREQ=DAILY","clock":"visitor"}}},
  {"id":"gale","kind":"alert","level":"emergency","state":"published","publishedAt":"2026-12-01T00:00:00Z",`+
			`"source":{"feed":"weather","sender":"a@b","id":"1","sent":"2026-12-01T00:00:00Z"},`+
			`"pages":{"include":[{"match":"all"}]},"schedule":{"windows":[{"until":"2026-12-05T00:00"}]},`+
			`"memory":{"closed":"P1D"},"content":{"wordings":{"en":{"message":"Gale."}}}}]}`,
	)
	code, out, errs := command(
		t,
		`{"at":"2026-12-04T17:00:00Z","url":"/","memory":{"view":"2026-12-04T16:59:00Z",`+
			`"notices":{"gale":{"closed":"2026-12-04T16:00:00Z"}}}}
{"at":"2026-12-04T18:00:00Z","url":"/","facts":{"locale.zone":"America/New_York"}}
`,
		"decide", "--bundle", b, "--visits", "-",
	)
	require.Equal(t, 0, code, errs)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	assert.Contains(
		t, lines[0],
		`"show":[{"id":"gale","slot":"top"},{"id":"boat","slot":"bottom","ends":"2026-12-05T08:00:00Z"},{"id":"sale",`+
			`"slot":"top","ends":"2026-12-04T18:00:00Z"}]`,
	)
	assert.Contains(t, lines[0], `"validUntil":"2026-12-04T18:00:00Z"`)
	assert.Contains(
		t, lines[0],
		`{"id":"after","gate":"schedule","rule":"C4","why":"It takes the place of “sale”, whose countdown runs out Fri 4 `+
			`Dec 18:00."}`,
	)
	assert.Contains(
		t, lines[1],
		`"show":[{"id":"gale","slot":"top"},{"id":"after","slot":"top"},{"id":"boat","slot":"bottom",`+
			`"ends":"2026-12-05T13:00:00Z"}]`,
	)
	assert.Contains(
		t, lines[1],
		`{"id":"sale","gate":"schedule","rule":"C4","why":"Its countdown ran out Fri 4 Dec 18:00, so it gave way to the `+
			`next."}`,
	)

	code, out, errs = command(
		t, "", "timeline", "--bundle", b, "--from", "2026-12-04T00:00:00Z", "--until", "2026-12-06T00:00:00Z",
	)
	require.Equal(t, 0, code, errs)
	assert.Equal(
		t,
		`{"id":"sale","intervals":[{"from":"2026-12-04T00:00:00Z","until":"2026-12-04T18:00:00Z"}],`+
			`"ends":[{"from":"2026-12-04T18:00:00Z","until":"2026-12-04T18:00:00Z"}]}
{"id":"after","intervals":[{"from":"2026-12-04T18:00:00Z","until":"2026-12-06T00:00:00Z"}]}
{"id":"boat","intervals":[{"from":"2026-12-04T00:00:00Z","until":"2026-12-06T00:00:00Z"}],`+
			`"ends":[{"from":"2026-12-03T18:00:00Z","until":"2026-12-04T20:00:00Z"},{"from":"2026-12-04T18:00:00Z",`+
			`"until":"2026-12-05T20:00:00Z"},{"from":"2026-12-05T18:00:00Z","until":"2026-12-06T20:00:00Z"}]}
{"id":"gale","intervals":[{"from":"2026-12-04T00:00:00Z","until":"2026-12-05T00:00:00Z"}]}
`,
		out,
	)
	_, out, _ = command(t, "", "check", "--bundle", b, "--at", "2026-12-04T00:00:00Z")
	assert.NotContains(t, out, `"heir"`)
}
