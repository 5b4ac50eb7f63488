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
	return "<!doctype html>\n<html lang=\"" + html.EscapeString(
		tag,
	) + "\">\n<meta charset=\"utf-8\">\n<title>" + html.EscapeString(
		t.Title,
	) + "</title>\n<h1>" +
		html.EscapeString(
			t.Title,
		) + "</h1>\n" + markup.SanitiseDocument(
		t.Text,
	) + "\n</html>\n"
}

// Markdown returns a text as CommonMark, with tables.
func (t Text) Markdown() (string, error) {
	c := converter.NewConverter(
		converter.WithPlugins(base.NewBasePlugin(), commonmark.NewCommonmarkPlugin(), table.NewTablePlugin()),
	)
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

// maxCells bounds how long a comparison takes: so many pairs of entries are looked
// at, at most. What is longer is said as taken out and put in.
const maxCells = 4_000_000

// Compare returns what changed from one text to another: block by block, and
// within blocks as words in and out, with an empty line between blocks.
func Compare(before, now Text) []Piece {
	out := []Piece{}
	add := func(op, text string) {
		switch last := len(out) - 1; {
		case text == "":
		case last >= 0 && out[last].Op == op:
			out[last].Text += text
		default:
			out = append(out, Piece{op, text})
		}
	}
	const end = "\n\n"
	blocks := func(t Text) []string { return append([]string{t.Title}, markup.Blocks(t.Text)...) }
	a, b := blocks(before), blocks(now)
	each(a, b, func(op byte, left, right []string) {
		if op == 'e' {
			add("same", strings.Join(left, end)+end)
			return
		}
		// Words, and the ends of blocks, are compared apart from each other.
		words := func(list []string) (out []string) {
			for _, block := range list {
				out = append(append(out, strings.Fields(block)...), end)
			}
			return out
		}
		text := func(list []string) string {
			var b strings.Builder
			for _, w := range list {
				b.WriteString(w)
				if w != end {
					b.WriteByte(' ')
				}
			}
			return strings.ReplaceAll(b.String(), " "+end, end)
		}
		each(words(left), words(right), func(op byte, left, right []string) {
			if op == 'e' {
				add("same", text(left))
				return
			}
			add("out", text(left))
			add("in", text(right))
		})
	})
	return out
}

// each calls f with each stretch that two lists have in common ('e'), or that
// differs, in order.
func each(a, b []string, f func(op byte, left, right []string)) {
	if len(a)*len(b) > maxCells {
		f('r', a, b)
		return
	}
	for _, o := range difflib.NewMatcherWithJunk(a, b, false, nil).GetOpCodes() {
		f(o.Tag, a[o.I1:o.I2], b[o.J1:o.J2])
	}
}
