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
