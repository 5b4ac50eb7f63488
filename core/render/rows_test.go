package render_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/render"
)

const rowsOfBlock = `{"id":"office","kind":"block","look":{"shape":"round"},"content":{
	"countdown":{"kind":"to","at":"2026-12-24T18:00"},
	"rows":[
		{"columns":[{"parts":[{"id":"title","kind":"heading","level":3},{"id":"empty","kind":"text"}]}]},
		{"columns":[
			{"share":2,"parts":[{"id":"says","kind":"text"},{"id":"more","kind":"links"},{"id":"left","kind":"countdown"}]},
			{"parts":[{"id":"photo","kind":"picture","picture":{"file":"0123456789abcdef.jpg","width":800,"height":600,` +
	`"crop":"wide","focus":{"x":20,"y":80}}}]},
			{"stacked":1,"parts":[
				{"id":"reach","kind":"contact","contact":[{"by":"telephone","value":"+44 (0)1632 960-143"},{"by":"message",` +
	`"value":"+44 7700 900 143"},{"by":"mail","value":"a&b?bcc=c@d.example"},{"by":"address","value":"Quay ` +
	`1\nSundrey"},{"by":"map","value":"https://maps.example/q?a=1&b=2"}]},
				{"id":"open","kind":"hours","hours":[{"days":[5,1,2,3,4],"from":"07:30","until":"18:00"},{"days":[6,7],` +
	`"from":"09:00","until":"13:00"}]},
				{"id":"nobody","kind":"contact"}]}]},
		{"columns":[{"parts":[{"id":"useful","kind":"question","events":["useful-yes","useful-no"]}]}]}],
	"wordings":{
		"en":{"parts":{"title":{"heading":"A <b> & B"},"says":{"text":"<p>Come <em>in</em>.</p>"},"photo":{"alt":"A ` +
	`\"pier\""},
			"more":{"links":[{"href":"/book","label":"Book"},{"href":"javascript:x()","label":"Bad"},{"href":"/no-words",` +
	`"label":""},{"href":"https://a.example/","label":"Out","as":"link","opens":"new"}]},
			"useful":{"heading":"Useful?","answers":["Yes","No"],"thanks":"Thank \"you\""}}},
		"ar":{"parts":{"title":{"heading":"مرحبا"}}}}}}`

// Each part of a block as it is shown: by the script, and without one.
func TestRows(t *testing.T) {
	var n bundle.Notice
	require.NoError(t, json.Unmarshal([]byte(rowsOfBlock), &n))
	bar, err := render.Notice(n, "en", "/i/", time.UTC)
	require.NoError(t, err)
	plain, err := render.Plain(n, "en", "/i/")
	require.NoError(t, err)
	for name, where := range map[string]string{"by the script": bar.HTML, "without": plain} {
		for _, want := range []string{
			`<div class="part part-title" data-part="title"><h3>A &lt;b&gt; &amp; B</h3></div>`,
			`<p>Come <em>in</em>.</p>`,
			`<a class="button" href="/book" data-act="clicked">Book</a><a class="link" href="https://a.example/" ` +
				`target="_blank" rel="noopener" data-act="clicked">Out</a></div>`,
			`<div class="part part-photo photo wide" data-part="photo"><picture><img src="/i/0123456789abcdef.jpg" ` +
				`width="800" height="600" alt="A &#34;pier&#34;"></picture>`,
			`<a href="tel:+441632960143" data-act="clicked">+44 (0)1632 960-143</a>`,
			`<a href="sms:+447700900143" data-act="clicked">+44 7700 900 143</a>`,
			`<a href="mailto:a&amp;b%3Fbcc=c@d.example" data-act="clicked">a&amp;b?bcc=c@d.example</a>`,
			`<span>Quay 1<br>Sundrey</span>`,
			`<a href="https://maps.example/q?a=1&amp;b=2" data-act="clicked">maps.example/q?a=1&amp;b=2</a>`,
			`<dt>Mon–Fri</dt><dd>07:30–18:00</dd><dt>Sat, Sun</dt><dd>09:00–13:00</dd>`,
		} {
			assert.Contains(t, where, want, name)
		}
		for _, none := range []string{"part-empty", "part-nobody", "javascript", "/no-words"} {
			assert.NotContains(t, where, none, name)
		}
		assert.Equal(t, 1, strings.Count(where, "part-left"), name)
	}
	assert.NotContains(t, bar.HTML, `class="words"`, "there is no message")
	assert.Equal(t, 1, strings.Count(bar.HTML, `class="count `), "the countdown stands in its part alone")
	assert.Contains(t, plain, `<time datetime="2026-12-24T18:00">`)
	assert.Contains(
		t, bar.HTML,
		`<strong>Useful?</strong><button type="button" class="button" data-act="answered" data-event="useful-yes">Yes`+
			`</button><button type="button" class="button" data-act="answered" data-event="useful-no">No</button><span `+
			`class="thanks" role="status" `+
			`data-thanks="Thank &#34;you&#34;"></span>`,
	)
	assert.NotContains(t, plain, "useful-yes", "nothing takes the answers")
	assert.Contains(t, bar.HTML, `aria-label="Announcement: A &lt;b&gt; &amp; B"`)

	for _, want := range []string{
		".bar .row-1{grid-template-columns:minmax(0,2fr) minmax(0,1fr) minmax(0,1fr) }",
		".bar .part-photo img{object-position:20% 80%}",
		"@container (max-width:559px){.bar .row-1>:nth-child(3){order:0}.bar .row-1>:nth-child(1){order:1}.bar " +
			".row-1>:nth-child(2){order:2}.bar .row-1{grid-template-columns:minmax(0,1fr)}}",
	} {
		assert.Contains(t, bar.CSS, want)
	}
	// Of what is put into the page itself each rule is for the block alone.
	style, _, _ := strings.Cut(strings.TrimPrefix(plain, "<style>"), "</style>")
	for _, rule := range strings.Split(style, "}") {
		selector := strings.TrimSpace(rule[:max(0, strings.IndexByte(rule, '{'))])
		for _, one := range strings.Split(
			strings.TrimPrefix(selector[max(0, strings.LastIndexByte(selector, '{')):], "{"), ",",
		) {
			if one = strings.TrimSpace(one); one != "" && !strings.HasPrefix(one, "@") {
				assert.True(t, strings.HasPrefix(one, ".notice-office"), one)
			}
		}
	}

	right, err := render.Notice(n, "ar", "/i/", time.UTC)
	require.NoError(t, err)
	assert.Contains(t, right.HTML, `dir="rtl"`)
	assert.Contains(t, right.HTML, "<dt>الاثنين–الجمعة</dt>")
}

// Code comes as it is, and nothing of it is shown.
func TestCodeOf(t *testing.T) {
	n := bundle.Notice{
		ID:      "c",
		Kind:    bundle.KindCode,
		Content: &bundle.Content{Code: &bundle.PageCode{Head: "<meta>", End: "<script>a()</script>"}},
	}
	assert.Equal(t, render.Bar{
		ID:       "c",
		Slot:     bundle.InCode,
		Position: bundle.Scrolling,
		Code:     &render.Code{Head: "<meta>", End: "<script>a()</script>"},
	}, render.CodeOf(n))
}
