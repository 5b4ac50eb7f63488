package survey

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/lucasb-eyer/go-colorful"
	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
	"golang.org/x/net/html"

	"mastflag/core/pages"
)

// Limits of looking at a site's styles.
const (
	maxSheets  = 12
	maxColours = 16
	maxFonts   = 6
)

// A Found colour stands in a site's styles.
type Found struct {
	Value string `json:"value"` // six hex digits
	Times int    `json:"times"`
	// The custom property it stands in, such as brand-blue, or "".
	Name string `json:"name"`
}

// Styles returns the colours and font families that the home page's own style
// sheets use, the commonest first. Sheets of other origins are left alone.
func (s *Surveyor) Styles(ctx context.Context, origin, path string) ([]Found, []string, error) {
	origin, err := pages.Origin(origin)
	if err != nil {
		return nil, nil, err
	}
	got, err := s.get(ctx, origin+path, maxPage)
	body, status := got.body, got.status
	if err == nil && status != http.StatusOK {
		err = fmt.Errorf("it answered with status %d", status)
	}
	if err != nil {
		return nil, nil, fmt.Errorf("%s%s could not be read: %w", origin, path, err)
	}
	sheets, links := sheetsOf(body)
	base, err := url.Parse(origin + path)
	if err != nil {
		return nil, nil, err
	}
	for _, l := range links[:min(len(links), maxSheets)] {
		to, err := base.Parse(l)
		if err != nil {
			continue
		}
		if o, err := pages.Origin(to.String()); err != nil || !pages.SameSite(o, origin) {
			continue
		}
		if sheet, err := s.get(ctx, to.String(), maxPage); err == nil && sheet.status == http.StatusOK {
			sheets = append(sheets, sheet.body)
		}
	}
	colours, fonts := []Found{}, map[string]int{}
	for _, sheet := range sheets {
		readSheet(sheet, &colours, fonts)
	}
	slices.SortStableFunc(colours, func(a, b Found) int { return cmp.Compare(b.Times, a.Times) })
	families := make([]string, 0, len(fonts))
	for f := range fonts {
		families = append(families, f)
	}
	slices.SortFunc(families, func(a, b string) int { return cmp.Or(cmp.Compare(fonts[b], fonts[a]), cmp.Compare(a, b)) })
	return colours[:min(len(colours), maxColours)], families[:min(len(families), maxFonts)], nil
}

// sheetsOf returns the style sheets in a page and the addresses of those it links to.
func sheetsOf(body []byte) (inside [][]byte, links []string) {
	z := html.NewTokenizer(bytes.NewReader(body))
	style := false
	for {
		switch z.Next() {
		case html.ErrorToken:
			return inside, links
		case html.TextToken:
			if style {
				inside = append(inside, bytes.Clone(z.Text()))
			}
		case html.EndTagToken:
			style = false
		case html.StartTagToken, html.SelfClosingTagToken:
			t := z.Token()
			style = t.Data == "style"
			var rel, href string
			for _, a := range t.Attr {
				switch a.Key {
				case "rel":
					rel = a.Val
				case "href":
					href = a.Val
				}
			}
			if t.Data == "link" && slices.Contains(strings.Fields(strings.ToLower(rel)), "stylesheet") && href != "" {
				links = append(links, href)
			}
		}
	}
}

// readSheet counts the colours and fonts of a style sheet.
func readSheet(sheet []byte, colours *[]Found, fonts map[string]int) {
	count := func(value, property string) {
		name, custom := strings.CutPrefix(property, "--")
		if !custom {
			name = ""
		}
		for i := range *colours {
			if (*colours)[i].Value == value {
				(*colours)[i].Times++
				(*colours)[i].Name = cmp.Or((*colours)[i].Name, name)
				return
			}
		}
		*colours = append(*colours, Found{value, 1, name})
	}
	p := css.NewParser(parse.NewInputBytes(sheet), false)
	for {
		gt, _, data := p.Next()
		if gt == css.ErrorGrammar {
			if p.Err() != nil && !p.HasParseError() {
				return
			}
			continue
		}
		if gt != css.DeclarationGrammar && gt != css.CustomPropertyGrammar {
			continue
		}
		property := strings.ToLower(string(data))
		values := p.Values()
		if gt == css.CustomPropertyGrammar && len(values) == 1 {
			// The parser leaves a custom property's value whole.
			if v, ok := hex(strings.TrimSpace(string(values[0].Data))); ok {
				count(v, string(data))
			}
			continue
		}
		for i, v := range values {
			switch {
			case v.TokenType == css.HashToken:
				if v, ok := hex(string(v.Data)); ok {
					count(v, property)
				}
			case v.TokenType == css.FunctionToken && (strings.EqualFold(string(v.Data), "rgb(") ||
				strings.EqualFold(string(v.Data), "rgba(")):
				if v, ok := rgb(values[i+1:]); ok {
					count(v, property)
				}
			}
		}
		if property == "font-family" || property == "font" {
			if property == "font" { // the families stand after the size and the height of a line
				last := -1
				for i, v := range values {
					if v.TokenType == css.DimensionToken || v.TokenType == css.NumberToken || v.TokenType == css.PercentageToken {
						last = i
					}
				}
				values = values[last+1:]
			}
			var b strings.Builder
			for _, v := range values {
				b.Write(v.Data)
			}
			if f := strings.TrimSpace(strings.ReplaceAll(b.String(), ",", ", ")); f != "" && !strings.Contains(f, "(") &&
				!slices.Contains([]string{"inherit", "initial", "unset"}, f) {
				fonts[strings.Join(strings.Fields(f), " ")]++
			}
		}
	}
}

// hex returns a colour of three, four, six or eight hex digits as six; what is
// see-through is none.
func hex(s string) (string, bool) {
	switch len(s) {
	case 5, 9: // with opacity
		full := strings.HasSuffix(strings.ToLower(s), "f")
		s = s[:1+(len(s)-1)*3/4]
		if !full {
			return "", false
		}
	}
	c, err := colorful.Hex(s)
	if err != nil || s == "" || s[0] != '#' {
		return "", false
	}
	return c.Hex(), true
}

// rgb reads the arguments of rgb() in numbers from 0 to 255; what is
// see-through is none.
func rgb(args []css.Token) (string, bool) {
	var n []float64
	for _, t := range args {
		if t.TokenType == css.RightParenthesisToken {
			break
		}
		var f float64
		if t.TokenType == css.NumberToken {
			if _, err := fmt.Sscan(string(t.Data), &f); err == nil {
				n = append(n, f)
			}
		} else if t.TokenType == css.PercentageToken || t.TokenType == css.FunctionToken {
			return "", false
		}
	}
	if len(n) < 3 || len(n) > 3 && n[3] < 1 {
		return "", false
	}
	return colorful.Color{R: n[0] / 255, G: n[1] / 255, B: n[2] / 255}.Clamped().Hex(), true
}
