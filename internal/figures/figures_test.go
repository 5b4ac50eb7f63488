package main

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const root = "../.."

// there asserts that a package has tests of these names.
func (ts Tests) there(t *testing.T) {
	files, err := filepath.Glob(filepath.Join(root, ts.Package, "*_test.go"))
	require.NoError(t, err)
	code := ""
	for _, f := range files {
		raw, err := os.ReadFile(f)
		require.NoError(t, err)
		code += string(raw)
	}
	for _, n := range ts.Names {
		assert.True(t, regexp.MustCompile(`func Test\w*`+n).MatchString(code), "there is no %s in %s", n, ts.Package)
	}
}

// Each promise of docs/security.md names tests that there are.
func TestPromisesHaveTheirTests(t *testing.T) {
	raw, err := os.ReadFile(root + "/docs/security.md")
	require.NoError(t, err)
	promises := 0
	for line := range strings.Lines(string(raw)) {
		if !strings.HasPrefix(line, "| ") || strings.HasPrefix(line, "| promise") {
			continue
		}
		promises++
		cells := strings.Split(line, "|")
		tests, rest := TestsIn(cells[len(cells)-2])
		assert.Empty(t, rest, "no package is named for them: %s", line)
		for _, named := range tests {
			named.there(t)
		}
	}
	assert.Greater(t, promises, 35)
}

// number finds figures: what is written in figures, and numerals with what they count.
var number = regexp.MustCompile(`\b[0-9][0-9.,]*\b|\b(?:two|three|four|five|six|seven|eight|nine|ten|` +
	`twenty|half an?|an?|one) (?:second|minute|hour|day|week|month|year|tenth)s?\b`)

// standing are names and places of texts, which have figures that are not ours.
var standing = regexp.MustCompile("```(?s:.*?)```|(?:RFC|rfc) [0-9]+\\w*|§[0-9.]+|\\bArt\\. [0-9]+" +
	`(?:\([0-9a-z]+\))*(?:(?:, | and )[0-9(][0-9()a-z]*)*|C-[0-9]+/[0-9]+|[0-9]{4}/[0-9]+|` +
	`Guidelines [0-9/]+|WCAG [0-9.]+|\b[A-Z][0-9]\b(?: to [A-Z][0-9])?|CAP 1\.2|` +
	`ISO[ /\w]*[0-9]+|Level 1|SHA-256|IEC TS [0-9]+|Recital [0-9]+|no\. [0-9]|IPv6|/64\b|UTF-8|E\.164`)

// docs/figures.md is whole, and so: each figure of the docs is in it, in the words of the docs, with
// code that is there and tests that are. That these fail with another figure is shown by make figures.
func TestFiguresAreListed(t *testing.T) {
	rows, others, err := Read(root + "/docs/figures.md")
	require.NoError(t, err)
	text := ""
	for _, name := range []string{"rules.md", "security.md"} {
		raw, err := os.ReadFile(root + "/docs/" + name)
		require.NoError(t, err)
		text += string(raw)
	}
	blank := func(s string) string { return strings.Repeat(" ", len(s)) }
	text = spaces.ReplaceAllString(text, " ")
	left := standing.ReplaceAllStringFunc(text, blank)
	cover := func(words string) {
		at := strings.Index(text, words)
		if assert.GreaterOrEqual(t, at, 0, "the docs do not say “%s”", words) {
			for ; at >= 0; at = strings.Index(text, words) {
				text = text[:at] + blank(words) + text[at+len(words):]
				left = left[:at] + blank(words) + left[at+len(words):]
			}
		}
	}
	for _, words := range others {
		cover(words)
	}
	code := map[string]string{}
	whole := text
	for _, r := range rows {
		text = whole // several rows may be about words that overlap
		cover(r.Words)
		if code[r.File] == "" {
			raw, err := os.ReadFile(filepath.Join(root, r.File))
			require.NoError(t, err)
			code[r.File] = string(raw)
		}
		_, err := r.change(code[r.File])
		assert.NoError(t, err, r.Words)
		r.Tests.there(t)
	}
	for _, at := range number.FindAllStringIndex(left, -1) {
		t.Errorf("not in docs/figures.md: …%s", whole[max(0, at[0]-60):min(len(whole), at[1]+40)])
	}
}
