package document

import (
	"html"
	"strings"

	"github.com/JohannesKaufmann/html-to-markdown/v2/converter"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/base"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/commonmark"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/table"
	"github.com/pmezard/go-difflib/difflib"

	"mastflag/core/markup"
)

// HTML returns a text as an HTML document that stands alone.
func (t Text) HTML(tag string) string {
	return "<!doctype html>\n<html lang=\"" + html.EscapeString(tag) + "\">\n<meta charset=\"utf-8\">\n<title>" + html.EscapeString(t.Title) + "</title>\n<h1>" +
		html.EscapeString(t.Title) + "</h1>\n" + markup.SanitiseDocument(t.Text) + "\n</html>\n"
}

// Markdown returns a text as CommonMark, with tables.
func (t Text) Markdown() (string, error) {
	c := converter.NewConverter(converter.WithPlugins(base.NewBasePlugin(), commonmark.NewCommonmarkPlugin(), table.NewTablePlugin()))
	out, err := c.ConvertString("<h1>" + html.EscapeString(t.Title) + "</h1>" + markup.SanitiseDocument(t.Text))
	return out + "\n", err
}

// Plain returns a text without any markup: blocks with an empty line between.
func (t Text) Plain() string {
	return t.Title + "\n\n" + strings.Join(markup.Blocks(t.Text), "\n\n") + "\n"
}

// A Piece is a stretch of words that two texts have in common, or that one of
// them has.
type Piece struct {
	Op   string `json:"op" jsonschema:"enum=same,enum=in,enum=out"`
	Text string `json:"text"`
}

// break ends a block among the words of a text.
const blockEnd = "\n\n"

// maxWords is how many words are compared; texts with more are compared by blocks.
const maxWords = 20_000

// Compare returns what changed from one text to another, as words in and out.
func Compare(before, now Text) []Piece {
	split := func(t Text) (out []string) {
		for _, block := range append([]string{t.Title}, markup.Blocks(t.Text)...) {
			out = append(append(out, strings.Fields(block)...), blockEnd)
		}
		return out
	}
	a, b := split(before), split(now)
	if len(a) > maxWords || len(b) > maxWords {
		a, b = append([]string{before.Title}, markup.Blocks(before.Text)...), append([]string{now.Title}, markup.Blocks(now.Text)...)
	}
	out := []Piece{}
	add := func(op string, words []string) {
		if len(words) == 0 {
			return
		}
		text := strings.ReplaceAll(strings.ReplaceAll(strings.Join(words, " "), " "+blockEnd, blockEnd), blockEnd+" ", blockEnd)
		out = append(out, Piece{op, text})
	}
	m := difflib.NewMatcherWithJunk(a, b, false, nil)
	for _, o := range m.GetOpCodes() {
		if o.Tag == 'e' {
			add("same", a[o.I1:o.I2])
			continue
		}
		add("out", a[o.I1:o.I2])
		add("in", b[o.J1:o.J2])
	}
	return out
}
