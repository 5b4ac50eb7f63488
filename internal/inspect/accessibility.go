package inspect

import (
	"cmp"
	"context"
	"embed"
	"fmt"
	"slices"
	"time"

	"github.com/chromedp/chromedp"

	"mastflag/core/document"
)

// built holds axe-core, which the build puts here; without Node it is empty.
//
//go:embed all:dist
var built embed.FS

// axe is the check for accessibility, "" where the build has not put it here.
var axe = func() string {
	code, err := built.ReadFile("dist/axe.js")
	if err != nil {
		return ""
	}
	return string(code)
}()

// checkPage runs the rules that a machine can judge of WCAG 2.1, levels A and AA,
// on the page without its frames.
const checkPage = `axe.run(document, { resultTypes: ['violations'], iframes: false, runOnly: { type: 'tag', values: ` +
	`['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'] } })
	.then(r => ({ version: axe.version, failed: r.violations.map(v => ({ id: v.id, help: v.help })) }))`

// A checklist gathers what the check found, page by page.
type checklist struct {
	tool   string
	pages  int
	failed map[string]document.Failure
}

// page checks the page that a tab stands on. One that cannot be checked is not
// counted.
func (l *checklist) page(tab context.Context) error {
	ctx, cancel := context.WithTimeout(tab, pageTimeout)
	defer cancel()
	got, err := chromedp.Run(ctx, chromedp.Evaluate[struct {
		Version string
		Failed  []struct{ ID, Help string }
	}](axe+";"+checkPage, chromedp.EvalAwaitPromise))
	if err != nil {
		return fmt.Errorf("it could not be checked for accessibility: %w", err)
	}
	l.tool = "axe-core " + got.Version
	l.pages++
	for _, f := range got.Failed {
		known := l.failed[f.ID]
		l.failed[f.ID] = document.Failure{Rule: f.ID, Help: f.Help, Pages: known.Pages + 1}
	}
	return nil
}

// result is what was found, what most pages fail first; nil if no page was checked.
func (l *checklist) result(now time.Time) *document.Checked {
	if l.pages == 0 {
		return nil
	}
	out := &document.Checked{Day: now.Format(time.DateOnly), Tool: l.tool, Pages: l.pages}
	for _, f := range l.failed {
		out.Failed = append(out.Failed, f)
	}
	slices.SortFunc(
		out.Failed,
		func(a, b document.Failure) int { return cmp.Or(b.Pages-a.Pages, cmp.Compare(a.Rule, b.Rule)) },
	)
	return out
}
