package pages

import (
	"regexp"
	"strings"
)

// A simple pattern has only letters that stand for themselves, names that stand for a
// whole segment, and stars: nearly all that people write. It takes what the URL Pattern
// Standard says, at a hundredth of the cost of asking the library.
type simple []patternPiece

// A piece of a simple pattern: letters, or where there are none a name or a star.
type patternPiece struct {
	letters string
	star    bool
}

var (
	isSimple = regexp.MustCompile(`^\*?(?:/(?::[A-Za-z_][A-Za-z0-9_]*|[A-Za-z0-9_*-]*))*$`)
	pieces   = regexp.MustCompile(`\*|:[A-Za-z_][A-Za-z0-9_]*|[^*:]+`)
)

// MaxUnanchored is how many patterns of a site may have nothing in them that stands for
// itself and is longer than one letter: these are tried on every page.
const MaxUnanchored = 20

// Unanchored returns the patterns of conditions that are tried on every page.
func (s Set) Unanchored() (out []string) {
	for _, list := range [][]rule{s.include, s.exclude} {
		for _, r := range list {
			switch {
			case r.entry.Match == Pattern && r.simple == nil && len(r.within) < 2:
				out = append(out, r.entry.Pattern)
			case r.set != nil:
				out = append(out, r.set.Unanchored()...)
			}
		}
	}
	return out
}

// prefix is what every path that the pattern takes begins with.
func (s simple) prefix() string {
	if len(s) == 0 {
		return ""
	}
	return s[0].letters
}

// last is the last segment of every path that the pattern takes; "" if that can be one or another. A
// path in normal form has no slash at its end.
func (s simple) last() string {
	if len(s) < 2 {
		return ""
	}
	letters := s[len(s)-1].letters
	slash := strings.LastIndexByte(letters, '/')
	if slash < 0 {
		return ""
	}
	return letters[slash+1:]
}

// literal returns the longest run of letters that stand for themselves in every path
// that a pattern takes: outside of groups, and without what an address writes otherwise; and
// the one that it begins with, if it does.
func literal(pattern string) (longest, first string) {
	if strings.Contains(pattern, "/.") {
		return "", "" // taken out of an address, with what stands before
	}
	from := 0
	end := func(at int) {
		if at-from > len(longest) {
			longest = pattern[from:at]
		}
		if from == 0 {
			first = pattern[:max(at, 0)]
		}
	}
	depth, inName := 0, false
	for i := 0; i < len(pattern); i++ {
		c := pattern[i]
		letter := 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || '0' <= c && c <= '9' || c == '_'
		switch {
		case depth > 0:
			switch c {
			case '\\':
				i++
			case '(', '{':
				depth++
			case ')', '}':
				depth--
			}
			from = i + 1
		case inName && letter:
			from = i + 1
		case letter || c == '/' || c == '-':
			inName = false
		default:
			at := i
			// The slash before a name, a group or a star can be missing with it.
			if i > from && pattern[i-1] == '/' {
				at--
			}
			end(at)
			inName = c == ':'
			switch c {
			case '(', '{':
				depth++
			case '\\':
				i++
			case '%': // an address may write it otherwise
				i += 2
			}
			from = i + 1
		}
	}
	if depth == 0 && from < len(pattern) {
		end(len(pattern))
	}
	return longest, first
}

// simplified returns a pattern as a simple one; ok is false if it is none.
func simplified(pattern string) (s simple, ok bool) {
	// Of two stars the second says how often the first may come.
	if !isSimple.MatchString(pattern) || strings.Contains(pattern, "**") {
		return nil, false
	}
	for _, p := range pieces.FindAllString(pattern, -1) {
		switch p[0] {
		case '*':
			s = append(s, patternPiece{star: true})
		case ':':
			s = append(s, patternPiece{})
		default:
			s = append(s, patternPiece{letters: p})
		}
	}
	return s, true
}

// matches reports whether the pattern takes a path in normal form.
func (s simple) matches(path string) bool {
	i, at := 0, 0       // the piece that is tried, and where
	star, from := -1, 0 // the last star, and where what follows it was tried last
	for {
		ok := true
		switch {
		case i == len(s):
			if at == len(path) {
				return true
			}
			ok = false
		case s[i].star:
			star, from = i, at
		case s[i].letters != "":
			if ok = strings.HasPrefix(path[at:], s[i].letters); ok {
				at += len(s[i].letters)
			}
		default:
			end := strings.IndexByte(path[at:], '/')
			if end < 0 {
				end = len(path) - at
			}
			ok = end > 0
			at += end
		}
		if ok {
			i++
			continue
		}
		if star < 0 || from == len(path) {
			return false
		}
		from++
		i, at = star+1, from
	}
}
