package e2e

import (
	"os"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

func shot(p *tab, name string) {
	ctx := p.ctx
	b, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
	require.NoError(p.t, err)
	require.NoError(p.t, os.WriteFile("/tmp/shots/"+name+".png", b, 0o644))
}

func TestZZ(t *testing.T) {
	os.MkdirAll("/tmp/shots", 0o755)
	p := person(t)
	p.open("http://127.0.0.1:8080/")
	p.until("document.querySelector('input[name=email]')")
	p.do(chromedp.SendKeys(chromedp.CSS("input[name=email]"), "ines@sundrey.example"), chromedp.SendKeys(chromedp.CSS("input[name=password]"), "five-islands"))
	p.press("Sign in")
	p.has("Now & next")
	if os.Getenv("PHONE") != "" {
		p.size(390, 844)
	}
	for _, line := range strings.Split(os.Getenv("SHOTS"), " ") {
		name, addr, _ := strings.Cut(line, "=")
		p.open(addr)
		p.until("document.readyState === 'complete'")
		ask[bool](p, "new Promise(r => setTimeout(() => r(true), 1500))")
		if js := os.Getenv("JS_" + name); js != "" {
			ask[bool](p, "("+js+", true)")
			ask[bool](p, "new Promise(r => setTimeout(() => r(true), 1200))")
		}
		shot(p, name)
	}
}

func TestZY(t *testing.T) {
	v := person(t)
	v.open("http://127.0.0.1:8090/tours/book")
	v.until("document.querySelector('mastflag-notice')")
	ask[bool](v, "new Promise(r => setTimeout(() => r(true), 1000))")
	v.inBar2("reject")
	ask[bool](v, "new Promise(r => setTimeout(() => r(true), 1200))")
	shot(v, "d1")
	v.inBar2("more")
	ask[bool](v, "new Promise(r => setTimeout(() => r(true), 400))")
	shot(v, "d2")
	v.inBar2("confirm")
	ask[bool](v, "new Promise(r => setTimeout(() => r(true), 1200))")
	shot(v, "d3")
	v.size(390, 844)
	v.open("http://127.0.0.1:8080/t/sundrey/cookies/de")
	shot(v, "d4")
	v.open("http://127.0.0.1:8080/t/sundrey/tour-safety/en/3?from=2")
	shot(v, "d5")
}

func (p *tab) inBar2(act string) {
	ask[bool](p, "([...document.querySelectorAll('mastflag-notice')].map(h => h.shadowRoot.querySelector('[data-act="+act+"]')).find(Boolean).click(), true)")
}

func TestZX(t *testing.T) {
	p := person(t)
	p.open("http://127.0.0.1:8080/")
	p.until("document.querySelector('input[name=email]')")
	p.do(chromedp.SendKeys(chromedp.CSS("input[name=email]"), "ines@sundrey.example"), chromedp.SendKeys(chromedp.CSS("input[name=password]"), "five-islands"))
	p.press("Sign in")
	p.has("Now & next")
	wait := func() { ask[bool](p, "new Promise(r => setTimeout(() => r(true), 1800))") }
	p.open("http://127.0.0.1:8080/sundrey/notices/tour-safety?page=/tours/book")
	wait()
	shot(p, "s0")
	for _, slot := range []string{"bottom", "corner-end"} {
		ask[bool](p, "(async () => { const d = await (await fetch('/api/sites/sundrey/notices/tour-safety')).json(); d.notice.slot = '"+slot+"'; d.notice.stay='sticking'; delete d.notice.state; delete d.notice.publishedAt; const r = await fetch('/api/sites/sundrey/notices/tour-safety', { method: 'PUT', headers: {'Content-Type':'application/json'}, body: JSON.stringify({ revision: d.card.revision, notice: d.notice }) }); return r.ok })()")
		p.open("http://127.0.0.1:8080/sundrey/notices/tour-safety?page=/tours/book")
		wait()
		shot(p, "s-"+slot)
	}
	// French
	ask[bool](p, "(async () => { const d = await (await fetch('/api/sites/sundrey')).json(); d.site.languages.push('fr'); const r = await fetch('/api/sites/sundrey', { method: 'PUT', headers: {'Content-Type':'application/json'}, body: JSON.stringify({ revision: d.revision, site: d.site }) }); return r.ok })()")
	p.open("http://127.0.0.1:8080/sundrey/documents/terms")
	wait()
	ask[bool](p, "([...document.querySelectorAll('.tabs button')].find(b => b.textContent.includes('French')).click(), true)")
	wait()
	shot(p, "fr")
	p.open("http://127.0.0.1:8080/sundrey/documents/tour-safety")
	wait()
	p.press("Write by hand: Text")
	p.until("document.querySelector('.tiptap')")
	p.do(chromedp.Click(chromedp.CSS(".tiptap p")))
	p.key(" And hold on.")
	wait()
	shot(p, "edit")
	ask[bool](p, "(document.querySelector('#version').scrollIntoView(), true)")
	wait()
	shot(p, "pub")
	p.size(390, 844)
	p.open("http://127.0.0.1:8080/sundrey/documents/privacy")
	wait()
	shot(p, "phone")
}
