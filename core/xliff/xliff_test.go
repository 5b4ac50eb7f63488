package xliff_test

import (
	"bytes"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/markup"
	"mastflag/core/phrase"
	"mastflag/core/xliff"
)

func written(t *testing.T, d xliff.Document) string {
	var b bytes.Buffer
	require.NoError(t, xliff.Write(&b, d))
	return b.String()
}

// Names, nesting and values are those of XLIFF 2.1 §4.2 (structure), §4.3
// (srcLang, trgLang, state) and §4.7 (inline codes and originalData).
func TestWrite(t *testing.T) {
	out := written(t, xliff.Document{Source: "en", Target: "de", Texts: []xliff.Text{
		{
			Notice: "storm",
			Title:  "Storm & rain",
			From: bundle.Wording{
				Message: `<p>No <strong>boats</strong>, see <a href="/status">status</a><br>today.</p>`,
				Link:    &bundle.Link{Href: "/only-an-address", Label: "More"},
			},
			To: bundle.Wording{Message: `<p>Keine <strong>Boote</strong></p>`},
		},
		{Notice: "empty"},
	}})
	for _, has := range []string{
		`<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.1" srcLang="en" trgLang="de">`, `<file id="storm">`,
		`Storm &amp; rain`, `<unit id="message">`,
		`<originalData><data id="d1">&lt;p&gt;</data><data id="d2">&lt;/p&gt;</data>`, `<segment state="translated">`,
		`<source><pc id="c1" type="fmt" dataRefStart="d1" dataRefEnd="d2" dispStart="p" dispEnd="/p">` +
			`No <pc id="c2" type="fmt"`,
		`type="link"`,
		`<ph id="c4" type="fmt"`,
		`<target><pc id="c1" type="fmt" dataRefStart="d1" dataRefEnd="d2" dispStart="p" dispEnd="/p">` +
			`Keine <pc id="c2"`,
		`<unit id="label">`, `<segment state="initial">`,
	} {
		assert.Contains(t, out, has)
	}
	assert.NotContains(t, out, "empty")
	assert.NotContains(t, out, "only-an-address", "addresses are not translated")
	assert.ErrorContains(
		t, xliff.Write(&bytes.Buffer{}, xliff.Document{Source: "en", Target: "de"}), "nothing to translate",
	)
}

// Whatever HTML a message may hold comes back as it went.
func TestRoundTrip(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	var make func(depth int) string
	make = func(depth int) string {
		words := []string{"sea", " & ", "<", "“gale”", "ä ł 🌊", " ", "a > b", "'"}
		var b strings.Builder
		for range 1 + r.IntN(4) {
			tag := []string{"strong", "em", "a", "span", "ul", "p", "br", "img"}[r.IntN(8)]
			switch {
			case depth == 0 || r.IntN(2) == 0:
				b.WriteString(strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;").Replace(words[r.IntN(len(words))]))
			case tag == "img":
				b.WriteString(`<img src="image:0123456789abcdef.png" alt="a &lt; b">`)
			case tag == "br":
				b.WriteString("<br>")
			case tag == "a":
				b.WriteString(`<a href="/x?a=1&amp;b=2">` + make(depth-1) + "</a>")
			case tag == "ul":
				b.WriteString("<ul><li>" + make(depth-1) + "</li></ul>")
			default:
				b.WriteString("<" + tag + ">" + make(depth-1) + "</" + tag + ">")
			}
		}
		return b.String()
	}
	for range 2000 {
		from := bundle.Wording{
			Message: "m" + markup.Sanitise(make(3)), // a text that is none has no translation
			Details: markup.SanitiseDetails(make(2)),
			Alt:     "a & b <c>",
			Link:    &bundle.Link{Label: "x & y"},
			Second:  &bundle.Link{Label: "v & w"},
			Words:   phrase.Own{phrase.Accept: "Yes & more", phrase.Missing: "{host} {purposes}"},
			Parts: map[string]bundle.PartWords{
				"a":   {Heading: "a < b", Text: markup.Sanitise(make(2)), Alt: "c", Thanks: "d"},
				"b-2": {Answers: []string{"Yes", "No & never"}, Links: []bundle.Link{{Label: "one"}, {Label: "two"}}},
			},
		}
		to := bundle.Wording{
			Message: markup.Sanitise(make(3)),
			Alt:     "ü",
			Link:    &bundle.Link{Label: "z"},
			Second:  &bundle.Link{Label: "u"},
			Words:   phrase.Own{phrase.Accept: "Ja"},
			Parts: map[string]bundle.PartWords{
				"a": {Heading: "ä"}, "b-2": {Answers: []string{"Ja", ""}, Links: []bundle.Link{{Label: "eins"}, {Label: "zwei"}}},
			},
		}
		back, err := xliff.Read(strings.NewReader(written(t, xliff.Document{
			Source: "en",
			Target: "de-AT",
			Texts:  []xliff.Text{{Notice: "n", From: from, To: to}},
		})))
		require.NoError(t, err)
		require.Equal(t, "de-AT", back.Target)
		got := back.Texts[0]
		require.Equal(t, "n", got.Notice)
		for _, c := range [][2]string{
			{from.Message, got.From.Message}, {from.Details, got.From.Details}, {to.Message, got.To.Message},
			{from.Parts["a"].Text, got.From.Parts["a"].Text},
		} {
			if strings.TrimSpace(c[0]) != "" { // what says nothing comes back as nothing
				require.Equal(t, c[0], markup.SanitiseDetails(c[1]))
			}
		}
		require.Equal(t, from.Words, got.From.Words)
		require.Equal(t, to.Words, got.To.Words)
		require.Equal(t, to.Second.Label, got.To.Second.Label)
		require.Equal(t, from.Alt, got.From.Alt)
		require.Equal(t, to.Link.Label, got.To.Link.Label)
		require.Equal(t, to.Parts["b-2"].Links, got.To.Parts["b-2"].Links)
		require.Equal(t, "Ja", got.To.Parts["b-2"].Answers[0])
		require.Equal(t, "ä", got.To.Parts["a"].Heading)
		require.Equal(t, from.Parts["b-2"], got.From.Parts["b-2"])
		if from.Message != "" && markup.Sanitise(got.From.Message) == got.From.Message &&
			markup.SanitiseDetails(got.From.Details) == got.From.Details &&
			markup.Sanitise(got.From.Parts["a"].Text) == got.From.Parts["a"].Text {
			require.Equal(t, from.Mark(), got.From.Mark(), "what it was translated from is known again")
		}
	}
}

// What tools of translators add is passed over: groups, notes, other units,
// several segments, marks.
func TestReadsWhatOthersWrite(t *testing.T) {
	d, err := xliff.Read(strings.NewReader(`<?xml version="1.0"?><!-- a tool's --><xliff ` +
		`xmlns="urn:oasis:names:tc:xliff:document:2.0" xmlns:x="urn:x" version="2.0" srcLang="en" trgLang="pl">
	<file id="a"><x:own/><group id="g"><unit id="message"><notes><note>n</note></notes><originalData><data id="d1">&lt;` +
		`b&gt;</data><data id="d2">&lt;/b&gt;</data></originalData>
	<segment id="1"><source>One. </source><target>Jeden. </target></segment><segment id="2"><source><mrk id="m" ` +
		`type="term">Two</mrk></source><target><pc id="1" dataRefStart="d1" dataRefEnd="d2"><mrk id="m" type="term">` +
		`Dwa</mrk></pc></target></segment></unit></group>
	<unit id="strange"><segment><source>s</source></segment></unit></file></xliff>`))
	require.NoError(t, err)
	assert.Equal(t, "Jeden. <b>Dwa</b>", d.Texts[0].To.Message)
	assert.Equal(t, "One. Two", d.Texts[0].From.Message)
}

// The sample as npm's xliff writes it anew: without the originals of codes, and with indents in the words. The
// interface's tests see that it still writes so.
func TestReadsWhatNpmWrites(t *testing.T) {
	read := func(name string) xliff.Document {
		raw, err := os.ReadFile("testdata/" + name)
		require.NoError(t, err)
		d, err := xliff.Read(bytes.NewReader(raw))
		require.NoError(t, err)
		for i := range d.Texts {
			d.Texts[i].Title = ""
		}
		return d
	}
	assert.Equal(t, read("sample.xlf"), read("rewritten.xlf"))
}

// A file that was written before units had the ids of today is read as it was meant.
func TestEarlierIDs(t *testing.T) {
	now := written(t, xliff.Document{Source: "en", Target: "de", Texts: []xliff.Text{{
		Notice: "a", From: bundle.Wording{Message: "x", Details: "y", ExpiredMessage: "z"},
		To: bundle.Wording{Message: "p", Details: "q", ExpiredMessage: "r"},
	}}})
	before := strings.NewReplacer(
		`unit id="details"`, `unit id="longer"`, `unit id="afterEnd"`, `unit id="after"`,
	).Replace(now)
	require.NotEqual(t, now, before)
	d, err := xliff.Read(strings.NewReader(before))
	require.NoError(t, err)
	want, err := xliff.Read(strings.NewReader(now))
	require.NoError(t, err)
	assert.Equal(t, want, d)
}

func TestBadXLIFF(t *testing.T) {
	whole := written(t, xliff.Document{
		Source: "en",
		Target: "de",
		Texts:  []xliff.Text{{Notice: "n", From: bundle.Wording{Message: "<p>a</p>"}}},
	})
	for name, c := range map[string]struct{ in, says string }{
		"nothing":          {"", "not XML"},
		"a picture":        {"\x89PNG\r\n", "not XML"},
		"another document": {`<html/>`, "begins with <html>"},
		"an older version": {
			`<xliff version="1.2" xmlns="urn:oasis:names:tc:xliff:document:1.2"/>`, "this is XLIFF 1.2; 2.0 and 2.1 can be read",
		},
		"a newer version":    {strings.Replace(whole, `"2.1"`, `"3.0"`, 1), "XLIFF 3.0"},
		"no target language": {strings.Replace(whole, `trgLang="de"`, "", 1), "from which language"},
		"no texts": {
			`<xliff version="2.1" xmlns="urn:oasis:names:tc:xliff:document:2.0" srcLang="en" trgLang="de"></xliff>`, "no texts",
		},
		"cut off": {whole[:len(whole)-40], "not XML"},
		"a lost original": {
			strings.Replace(strings.Replace(whole, `<data id="d1">`, `<data id="d9">`, 1), ` dispStart="p"`, "", 1),
			`refers to "d1"`,
		},
		"an entity of its own": {
			strings.Replace(strings.Replace(whole, "<xliff", `<!DOCTYPE x [<!ENTITY e "eeee">]><xliff`, 1), ">a<", ">&e;<", 1),
			"not XML",
		},
		"too large": {whole + strings.Repeat(" ", xliff.MaxSize), "larger than"},
	} {
		_, err := xliff.Read(strings.NewReader(c.in))
		assert.ErrorContains(t, err, c.says, name)
	}
}

// The sample is what Write makes; the interface's tests read it with a general
// XLIFF library.
func TestSampleIsCurrent(t *testing.T) {
	out := written(t, xliff.Document{Source: "en", Target: "de", Texts: []xliff.Text{
		{
			Notice: "storm",
			Title:  "Storm & rain",
			From: bundle.Wording{
				Message: `<p>No <strong>boats</strong> today,<br>see <a href="/status?a=1&amp;b=2">status</a>.</p>`,
				Link:    &bundle.Link{Label: "More"},
				Alt:     "A gale",
			},
			To: bundle.Wording{Message: `<p>Heute keine <strong>Boote</strong></p>`},
		},
		{Notice: "fair", Title: "Fair", From: bundle.Wording{Message: "<p>Fair</p>", Details: "<ul><li>one</li></ul>"}},
	}})
	const path = "testdata/sample.xlf"
	if os.Getenv("UPDATE") != "" {
		require.NoError(t, os.WriteFile(path, []byte(out), 0o644))
	}
	have, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, string(have), out, "run with UPDATE=1")
}
