package code_test

import (
	"crypto/sha256"
	"encoding/base64"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"mastflag/core/code"
)

// What is read as it was meant, and where what is not goes wrong.
func TestCheck(t *testing.T) {
	for source, want := range map[string]string{
		"": "",
		`<meta name="a" content="b"><link rel=icon href=/i.png>`:                "",
		"<div><p>a<p>b<ul><li>c<li>d</ul></div>":                                "",
		"<table><tr><td>a<td>b<tr><td>c</table>":                                "",
		"<svg viewBox='0 0 1 1'><path d='M0 0'/></svg>":                         "",
		"<textarea><b></textarea>":                                              "",
		"<script>if (a < b && c) { d('</'+'b>') }</script>":                     "",
		"<script type=module>import x from './x.js'; await x()</script>":        "",
		`<script type="application/ld+json">{"@type": "Organization"}</script>`: "",
		`<script type="text/x-template"><b></script>`:                           "",
		"<style>a{color:red}@media print{a{color:#000}}</style>":                "",
		"<!-- a > b -->":              "",
		"fish &amp; chips":            "",
		"<div":                        "1:1 a tag is not closed",
		"<p>\n <b>x</p>":              "2:6 </p> stands before <b> is closed",
		"ü <i>":                       "1:3 <i> is never closed",
		"</b>":                        "1:1 </b> closes nothing",
		"<br></br>":                   "1:5 <br> has no end tag",
		"<div/>":                      "1:1 <div/> is not closed by its slash",
		"<p><b>x<div>y</div></b></p>": "1:8 <div> ends the paragraph before <b> is closed",
		"<p>x<div>y</div></p>":        "1:17 </p> closes nothing",
		"a < b":                       "1:3 a < begins no tag",
		`<a href="x" href="y">z</a>`:  "1:1 a tag has href twice",
		`<a href="x>z</a>`:            "1:1 a tag is not closed",
		`<a href=x" class="y">z</a>`:  "",
		`<a "x">z</a>`:                `1:1 the tag <a> has a quote or a < out of place`,
		"<!-- x":                      "1:1 a comment is never closed",
		"<?php x ?>":                  "1:1 this is neither a tag nor a comment",
		"<!doctype html>":             "1:1 a document type cannot stand within a page",
		"<body>x</body>":              "1:1 <body> stands in each page already",
		"<script>x(":                  "1:11 this is not JavaScript",
		"<script>\nlet a = 1;\nlet a b;\n</script>":            "3:5 this is not JavaScript",
		"<script>document.write('x')</script>":                 "1:9 document.write would empty the page",
		"<script>\n  document .writeln('x')</script>":          "2:3 document.write would empty the page",
		"<script type='application/json'>{\"a\": 1,}</script>": "1:41 this is not JSON",
		"<script>a()</script":                                  "1:20 this is not JavaScript",
		"<script>a()":                                          "1:1 <script> is never closed",
	} {
		f := code.Check(source, code.End)
		if want == "" {
			assert.Nil(t, f, source)
		} else if assert.NotNil(t, f, source) {
			said := fmt.Sprintf("%d:%d %s", f.Line, f.Column, f.What)
			assert.True(t, strings.HasPrefix(said, strings.TrimSuffix(want, " ")), "%s: %s", source, said)
			assert.NotEmpty(t, f.Remedy, source)
		}
	}
	for source, want := range map[string]string{
		"<meta name=a>\n<script>a()</script>": "", "<noscript><img src=x></noscript>": "",
		"\n<div>x</div>": "2:1 <div> cannot stand in the head", " hello": "1:2 text cannot stand in the head",
		"<base href=/x>": "1:1 <base> cannot stand in the head", "<title>x</title>": "1:1 <title> cannot stand in the head",
	} {
		f := code.Check(source, code.Head)
		if want == "" {
			assert.Nil(t, f, source)
		} else if assert.NotNil(t, f, source) {
			assert.Equal(t, want, fmt.Sprintf("%d:%d %s", f.Line, f.Column, f.What), source)
		}
	}
}

// What is let through is read by the parser of the HTML Standard as it is written:
// written out from what was read, it is the same again. It never fails on what it
// cannot read.
func TestWhatPassesIsReadAsWritten(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	r := rand.New(rand.NewPCG(seed, 0))
	pieces := []string{
		"<div>", "</div>", "<p>", "</p>", "<b>", "</b>", "<ul>", "<li>", "</ul>", "<br>", "a", " & ", "&lt;", "<!-- c -->",
		`<a href="x">`, "</a>",
		"<script>a()</script>", "<script>b(", "<style>a{}</style>", "<span class=x>", "</span>", "<", ">", `"`, "<em/>",
		"<h2>", "</h2>", "<section>", "</section>",
	}
	passed := 0
	for range 20_000 {
		var b strings.Builder
		for range 1 + r.IntN(8) {
			b.WriteString(pieces[r.IntN(len(pieces))])
		}
		source := b.String()
		if f := code.Check(source, code.Start); f != nil {
			require.Positive(t, f.Line*f.Column, source)
			continue
		}
		passed++
		// Each element that was opened is one element, in the order and depth in which it is written.
		var want []string
		z := html.NewTokenizer(strings.NewReader(source))
		for kind := z.Next(); kind != html.ErrorToken; kind = z.Next() {
			if kind == html.StartTagToken {
				want = append(want, z.Token().Data)
			}
		}
		nodes, err := html.ParseFragment(strings.NewReader(source), &html.Node{
			Type:     html.ElementNode,
			Data:     "body",
			DataAtom: atom.Body,
		})
		require.NoError(t, err)
		var got []string
		var walk func(n *html.Node)
		walk = func(n *html.Node) {
			if n.Type == html.ElementNode {
				got = append(got, n.Data)
			}
			for c := n.FirstChild; c != nil; c = c.NextSibling {
				walk(c)
			}
		}
		for _, n := range nodes {
			walk(n)
		}
		require.Equal(t, want, got, source)
	}
	assert.Greater(t, passed, 300)
}

func TestSources(t *testing.T) {
	sum := sha256.Sum256([]byte("a()"))
	hash := "'sha256-" + base64.StdEncoding.EncodeToString(sum[:]) + "'"
	style := sha256.Sum256([]byte("a()&"))
	hashOfStyle := "'sha256-" + base64.StdEncoding.EncodeToString(style[:]) + "'"
	assert.Equal(t, []code.PolicySource{
		{Directive: "frame-src", Source: "https://films.example"},
		{Directive: "img-src", Source: "'self'"},
		{Directive: "img-src", Source: "data:"},
		{Directive: "script-src", Source: "'self'"},
		{Directive: "script-src", Source: hash},
		{Directive: "script-src", Source: "https://cdn.example:8443"},
		{Directive: "style-src", Source: "https://cdn.example"},
	}, code.Sources(
		`<script>a()</script><script src="https://cdn.example:8443/x.js"></script><script type="application/json">`+
			`{}</script>`,
		`<link rel="stylesheet" href="//cdn.example/x.css"><link rel="preconnect" href="https://other.example"><iframe `+
			`src="https://films.example/1"></iframe>`,
		`<img src="/i.png"><img src="data:,"><script>a()</script><script src="/own.js"></script>`,
	))
	assert.Equal(t, []code.PolicySource{
		{Directive: "script-src", Source: hash}, {Directive: "script-src", Source: "'unsafe-hashes'"},
		{Directive: "style-src", Source: hashOfStyle}, {Directive: "style-src", Source: "'unsafe-hashes'"},
	}, code.Sources(`<p onclick="a()" style="a()&amp;">x</p><script type=" Text/JavaScript ">a()</script>`),
		"CSP Level 3 §2.3.1: with a hash beside it, 'unsafe-inline' is passed over")
	assert.Equal(t, []code.PolicySource{{
		Directive: "img-src",
		Source:    "'self'",
	}}, code.Sources(`<link rel="Shortcut icon" href="/i.png">`))
	assert.Empty(t, code.Sources("", "<p>x</p>"))
}

func FuzzCheck(f *testing.F) {
	f.Add("<p><script>a()</script><style>a{}</style><!-- x -->")
	f.Fuzz(func(t *testing.T, source string) {
		for _, place := range code.Places {
			if fault := code.Check(source, place); fault != nil && (fault.Line < 1 || fault.Column < 1) {
				t.Fatalf("%+v", fault)
			}
		}
		code.Sources(source)
	})
}
