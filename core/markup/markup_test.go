package markup_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/core/markup"
)

func TestSanitise(t *testing.T) {
	for _, c := range []struct{ name, in, want string }{
		{
			"the subset stays",
			`<p>No <strong>sailings</strong> <em>today</em>.<br/>See <a href="/status">status</a></p><ul><li>a</li></ul>`,
			`<p>No <strong>sailings</strong> <em>today</em>.<br/>See <a href="/status">status</a></p><ul><li>a</li></ul>`,
		},
		{"script goes, with what it says", `a<script>alert(1)</script>b`, `ab`},
		{"handlers go", `<b onclick="x()">a</b>`, `<b>a</b>`},
		{"styles go", `<p style="position:fixed">a</p>`, `<p>a</p>`},
		{"code in links goes", `<a href="javascript:alert(1)">a</a>`, `<a>a</a>`},
		{"disguised code in links goes", "<a href=\"jav\tascript:alert(1)\">a</a>", `<a>a</a>`},
		{
			"our classes stay, others go", `<span class="mf-big">a</span><span class="mf-big x">b</span>`,
			`<span class="mf-big">a</span><span>b</span>`,
		},
		{"images and frames go", `<img src=x onerror=alert(1)><iframe src=x></iframe>a`, `a`},
		{"text that looks like markup is text", `1 &lt; 2 &amp; 3`, `1 &lt; 2 &amp; 3`},
		{"a script in pieces", `<scr<script>ipt>alert(1)</scr</script>ipt>`, `ipt&gt;alert(1)ipt&gt;`},
		{"emoji and right-to-left", `<p dir="rtl" lang="ar">مرحبا ⛴️</p>`, `<p dir="rtl" lang="ar">مرحبا ⛴️</p>`},
	} {
		got := markup.Sanitise(c.in)
		assert.Equal(t, c.want, got, c.name)
		assert.Equal(t, got, markup.Sanitise(got), "%s: twice is once", c.name)
		assert.Empty(t, markup.Check(got), "%s: what is left is allowed", c.name)
	}
}

// A longer message has headings and pictures of the site besides, and nothing of other hosts.
func TestSanitiseDetails(t *testing.T) {
	const image = "image:0123456789abcdef.png"
	for in, want := range map[string]string{
		`<h2>A</h2><h3 onclick="x">B</h3><img src="` + image + `" alt="a" width="20" style="x">`: `<h2>A</h2><h3>B</h3>` +
			`<img src="` + image + `" alt="a" width="20">`,
		`<img src="https://a.example/b.png" alt="x">`:                   `<img alt="x">`,
		`<img src="` + image + `" onerror="alert(1)">`:                  `<img src="` + image + `">`,
		`<img src="image:../x.png">a<h1>b</h1>`:                         `ab`,
		`<a href="image:0123456789abcdef.png">a</a><img src=" ` + image: `<a>a</a>`,
	} {
		got := markup.SanitiseDetails(in)
		assert.Equal(t, want, got, in)
		assert.Equal(t, got, markup.SanitiseDetails(got))
		assert.Empty(t, markup.CheckDetails(got), in)
		assert.NotContains(t, markup.Sanitise(got), "<img", "a message has none")
	}
	text := `<p>a</p><img src="` + image + `" alt="&quot;&gt;"/><img src="https://x/y"/>`
	assert.Equal(t, []string{"0123456789abcdef.png"}, markup.Images(text))
	assert.Equal(t, `<p>a</p><img src="https://n/i/0123456789abcdef.png" alt="&#34;&gt;"/>`,
		markup.WithImages(text, "https://n/i/"))
}

func FuzzSanitise(f *testing.F) {
	f.Add(`<a href="x"><script>`)
	f.Add(`<p><b>`)
	f.Fuzz(func(t *testing.T, s string) {
		got := markup.Sanitise(s)
		if again := markup.Sanitise(got); again != got {
			t.Fatalf("%q -> %q -> %q", s, got, again)
		}
		if bad := markup.Check(got); bad != nil {
			t.Fatalf("%q -> %q holds %v", s, got, bad)
		}
	})
}

func TestTextAndLinks(t *testing.T) {
	in := `<p>No  sailings &amp; no</p><ul><li>boats <a href="/a">here</a></li></ul><a href="https://x.example">x</a>`
	assert.Equal(t, "No sailings & no boats here x", markup.Text(in))
	assert.Equal(t, []string{"/a", "https://x.example"}, markup.Links(in))
	assert.Equal(t, "", markup.Text("<p><br></p>"))
}
