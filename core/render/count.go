package render

import (
	"fmt"
	"html/template"
	"slices"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/countdown"
	"mastflag/core/markup"
	"mastflag/core/schedule"
)

// A Count is what the site script needs to run a countdown, in one language.
// The moment it is about comes with each decision.
type Count struct {
	Kind countdown.Kind `json:"kind"`
	Then countdown.Then `json:"then"`
	Go   string         `json:"go,omitempty"`
	Lang string         `json:"lang"`
	// Of time: how long each unit shown is, s, the largest first; what it is called with its number.
	Units []int64           `json:"units,omitempty"`
	Full  []countdown.Forms `json:"full,omitempty"`
	// Where other words stand beside the figures than in the sentence.
	Labels []countdown.Forms `json:"labels,omitempty"`
	// Nothing stands beside the figures.
	Bare bool `json:"bare,omitempty"`
	// Of a visitor's own, and of a number with an end: how long it runs, ms.
	Period int64 `json:"period,omitempty"`
	// Of a number: size is added times times in each per (ms) from begins (ms since 1970) on, until to.
	Number *CountedNumber `json:"number,omitempty"`
}

// A CountedNumber is how a number changes; see Count.
type CountedNumber struct {
	Begins int64 `json:"begins"`
	From   int   `json:"from"`
	To     *int  `json:"to,omitempty"`
	Size   int   `json:"size"`
	Times  int64 `json:"times"`
	Per    int64 `json:"per"`
}

// count returns what runs the countdown of a notice in the language tag; nil
// if it has none.
func count(n bundle.Notice, tag string, zone *time.Location) (*Count, error) {
	d := n.Countdown()
	if d == nil {
		return nil, nil
	}
	k, faults := countdown.Compile(*d, zone)
	if faults != nil {
		return nil, faults.Under("/content/countdown")
	}
	w := d.WordsIn(tag, n.Wordings()[tag].Labels)
	out := &Count{Kind: d.Kind, Then: d.GetThen(), Go: d.Go, Lang: w.Tag}
	if d.IsNumber() {
		r := k.Run(zone, time.UnixMilli(0)) // a visitor's own begins when they meet it
		out.Lang = tag
		out.Number = &CountedNumber{
			Begins: r.Begins.UnixMilli(),
			From:   r.From,
			To:     r.To,
			Size:   r.Size,
			Times:  r.Times,
			Per:    r.Per.Milliseconds(),
		}
		out.Period = r.Lasts.Milliseconds()
		return out, nil
	}
	for _, u := range d.GetUnits() {
		out.Units = append(out.Units, int64(u.Length()/time.Second))
	}
	out.Full = w.Full
	switch d.GetLabels() {
	case countdown.None:
		out.Bare = true
	case countdown.Short:
		out.Labels = w.Labels
	}
	if d.Kind == countdown.Visitor {
		out.Period = k.Period().Milliseconds()
	}
	return out, nil
}

// Still returns a notice's HTML with its countdown as it reads in the language
// tag at an instant, for a picture of it that does not move.
func Still(bar Bar, n bundle.Notice, tag string, at time.Time, zone *time.Location) string {
	d := n.Countdown()
	if d == nil {
		return bar.HTML
	}
	k, faults := countdown.Compile(*d, zone)
	if faults != nil {
		return bar.HTML
	}
	html, w := bar.HTML, d.WordsIn(tag, n.Wordings()[tag].Labels)
	for i, figure := range k.Read(at, zone, time.Time{}).Figures {
		html = strings.Replace(
			html, "<b></b> <i></i>", fmt.Sprintf("<b>%d</b> <i>%s</i>", figure, template.HTMLEscapeString(w.Label(i, figure))),
			1,
		)
	}
	return html
}

// Mark is what stands in a message where its countdown is to be.
const Mark = "{countdown}"

// counted puts the countdown's place into a message: where it is marked, or at
// the end. The site script fills it in.
func counted(message string, d *countdown.Countdown) string {
	if d == nil {
		return message
	}
	var b strings.Builder
	fmt.Fprintf(
		&b, `<span class="count %s %s" role="timer"><span class="unseen"></span><span class="figures" aria-hidden="true">`,
		d.GetFrame(), d.GetSize(),
	)
	for range max(1, len(d.GetUnits())) {
		b.WriteString(`<span class="unit"><b></b> <i></i></span> `)
	}
	return placed(message, strings.TrimSuffix(b.String(), " ")+"</span></span>")
}

// placed puts HTML where a message has the mark; where it has none, at its end.
func placed(message, html string) string {
	if strings.Contains(message, Mark) {
		return strings.Replace(message, Mark, html, 1)
	}
	if rest, ok := strings.CutSuffix(message, "</p>"); ok {
		return rest + " " + html + "</p>"
	}
	return strings.TrimSpace(message + " " + html)
}

// countsInPart reports whether a notice's countdown stands in a part of its own.
func countsInPart(n bundle.Notice) bool {
	return slices.ContainsFunc(n.Parts(), func(p bundle.Part) bool { return p.Kind == bundle.PartCountdown })
}

// dated puts the moment itself in the place of a countdown, for what runs no
// script. One without a moment for all leaves nothing.
func dated(message string, d *countdown.Countdown) string {
	if d == nil {
		return message
	}
	html := ""
	if l, err := schedule.ParseLocal(d.At); err == nil && (d.Kind == countdown.To || d.Kind == countdown.Since) {
		html = fmt.Sprintf(`<time datetime="%s">%s</time>`, l, strings.Replace(l.String(), "T", " ", 1))
	}
	return placed(message, html)
}

// after is what a message becomes once its countdown has run out, "" if it
// stays.
func after(w bundle.Wording, d *countdown.Countdown) template.HTML {
	if d == nil || d.GetThen() != countdown.Say {
		return ""
	}
	return template.HTML(markup.Sanitise(w.ExpiredMessage))
}

// countStyle is the style of a countdown, of those notices that have one, and of what has
// been chosen beside its frame and size.
func countStyle(d *countdown.Countdown, look *bundle.CountLook) string {
	if d == nil {
		return ""
	}
	return frameStyle(d) + countLookStyle(look)
}

// countLookStyle is the style of figures, labels, frames and what is said at the end.
func countLookStyle(look *bundle.CountLook) string {
	if look == nil {
		return ""
	}
	s := textStyle(".count b", look.Figures) + textStyle(".count i", look.Labels) + textStyle(".after", look.AfterEnd)
	if look.Frame != "" {
		s += ".unit{border-color:" + look.Frame + "}"
	}
	return s
}

// frameStyle is the style of a countdown by its frame and size.
func frameStyle(d *countdown.Countdown) string {
	s := ".unseen{position:absolute;width:1px;height:1px;overflow:hidden;clip-path:inset(50%)}.count{position:relative}." +
		"count b{font-variant-numeric:tabular-nums}.count i{font-style:normal}.unit{white-space:nowrap}.count " +
		"i:empty{display:none}"
	if d.GetLabels() == countdown.None {
		s += ".unit+.unit::before{content:':';padding-inline:.1em}"
	}
	switch d.GetSize() {
	case countdown.Small:
		s += ".count{font-size:.875em}"
	case countdown.Large:
		s += ".count{font-size:1.5em;line-height:1.2}"
	}
	if d.GetFrame() == countdown.Line {
		return s
	}
	s += ".figures{display:inline-flex;flex-wrap:wrap;gap:6px;margin:4px " +
		"6px;vertical-align:middle}.unit{display:grid;align-content:center;justify-items:center;box-sizing:border-box;min-w" +
		"idth:3.4em;padding:3px 6px}.unit b{font-size:1.4em;line-height:1.1}.unit " +
		"i{font-size:.75em;line-height:1.2}.unit+.unit::before{content:none}"
	switch d.GetFrame() {
	case countdown.Square:
		s += ".unit{border:2px solid currentColor;border-radius:var(--button,3px)}"
	case countdown.Round:
		s += ".unit{width:4.6em;height:4.6em;border:2px solid currentColor;border-radius:50%}"
	}
	return s
}
