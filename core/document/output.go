package document

import (
	"errors"
	"fmt"
	"html"
	"strings"

	"github.com/JohannesKaufmann/html-to-markdown/v2/converter"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/base"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/commonmark"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/table"
	"github.com/aymanbagabas/go-udiff/lcs"

	"mastflag/core/markup"
)

// A File is a text to take away.
type File struct {
	Extension string // with its dot
	Type      string // media type
	Text      string
}

// ErrForm says in which forms a text can be taken away.
var ErrForm = errors.New("a document can be saved as html, markdown or text")

// As returns a text in a language as a file: html, an HTML document that stands
// alone; markdown, CommonMark with tables; or text, without any markup. The error is
// ErrForm for others.
func (t Text) As(form, tag string) (File, error) {
	switch form {
	case "html":
		title, body := html.EscapeString(t.Title), markup.SanitiseDocument(t.Text)
		return File{".html", "text/html", fmt.Sprintf(
			"<!doctype html>\n<html lang=\"%s\">\n<meta charset=\"utf-8\">\n<title>%s</title>\n<h1>%s</h1>\n%s\n</html>\n",
			html.EscapeString(tag), title, title, body)}, nil
	case "markdown":
		c := converter.NewConverter(
			converter.WithPlugins(base.NewBasePlugin(), commonmark.NewCommonmarkPlugin(), table.NewTablePlugin()),
		)
		out, err := c.ConvertString("<h1>" + html.EscapeString(t.Title) + "</h1>" + markup.SanitiseDocument(t.Text))
		return File{".md", "text/markdown", out + "\n"}, err
	case "text":
		return File{".txt", "text/plain", t.Title + "\n\n" + strings.Join(markup.Blocks(t.Text), "\n\n") + "\n"}, nil
	}
	return File{}, ErrForm
}

// A Piece is a stretch of words that two texts have in common, or that one of
// them has.
type Piece struct {
	Op   string `json:"op" jsonschema:"enum=same,enum=in,enum=out"`
	Text string `json:"text"`
}

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

// each calls f with each stretch that two lists have in common ('e'), or that differs ('r'), in
// order. What is done grows with the lists and not with their product: beyond some hundred
// differences the stretches are no longer the longest there are.
func each(a, b []string, f func(op byte, left, right []string)) {
	numbers := map[string]rune{}
	number := func(list []string) []rune {
		out := make([]rune, len(list))
		for i, s := range list {
			n, known := numbers[s]
			if !known {
				n = rune(len(numbers))
				numbers[s] = n
			}
			out[i] = n
		}
		return out
	}
	left, right := 0, 0
	same := func(upTo, to int) {
		if left < upTo {
			f('e', a[left:upTo], b[right:to])
		}
	}
	for _, d := range lcs.DiffRunes(number(a), number(b)) {
		same(d.Start, d.ReplStart)
		f('r', a[d.Start:d.End], b[d.ReplStart:d.ReplEnd])
		left, right = d.End, d.ReplEnd
	}
	same(len(a), len(b))
}
