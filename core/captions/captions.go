// Package captions reads the words of a video with their times (W3C WebVTT §4).
package captions

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// A Cue is words that stand from one moment of a video to another.
type Cue struct {
	From, Until time.Duration
	Text        string
}

var (
	timing = regexp.MustCompile(`^(\S+)[ \t]+-->[ \t]+(\S+)(?:[ \t].*)?$`)
	moment = regexp.MustCompile(`^(?:([0-9]{2,}):)?([0-5][0-9]):([0-5][0-9])\.([0-9]{3})$`)
	tag    = regexp.MustCompile(`</?[a-zA-Z0-9:.][^<>]*>`)
)

// Parse reads a WebVTT file. An error says in which line something is not as it is to be.
func Parse(text string) ([]Cue, error) {
	text = strings.TrimPrefix(strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text), "\ufeff")
	lines := strings.Split(text, "\n")
	if first := lines[0]; first != "WEBVTT" && !strings.HasPrefix(first, "WEBVTT ") &&
		!strings.HasPrefix(first, "WEBVTT\t") {
		return nil, fmt.Errorf("line 1: captions begin with WEBVTT")
	}
	var cues []Cue
	for i := 1; i < len(lines); {
		if lines[i] == "" {
			i++
			continue
		}
		start := i
		for i < len(lines) && lines[i] != "" {
			i++
		}
		block := lines[start:i]
		if start == 1 || strings.HasPrefix(block[0], "NOTE") || block[0] == "STYLE" || block[0] == "REGION" {
			continue
		}
		at := 0
		if !strings.Contains(block[0], "-->") { // a name of the cue
			at = 1
		}
		if at >= len(block) {
			return nil, fmt.Errorf("line %d: there are no times such as 00:01.000 --> 00:04.000", start+1)
		}
		m := timing.FindStringSubmatch(strings.TrimSpace(block[at]))
		if m == nil {
			return nil, fmt.Errorf(
				"line %d: %q is not two times such as 00:01.000 --> 00:04.000",
				start+at+1,
				block[at],
			)
		}
		from, ok := parseMoment(m[1])
		until, ok2 := parseMoment(m[2])
		if !ok || !ok2 || until <= from {
			return nil, fmt.Errorf("line %d: %q is not a time, and a later one", start+at+1, block[at])
		}
		said := tag.ReplaceAllString(strings.Join(block[at+1:], "\n"), "")
		cues = append(cues, Cue{from, until, unescape.Replace(said)})
	}
	return cues, nil
}

var unescape = strings.NewReplacer("&lt;", "<", "&gt;", ">", "&amp;", "&", "&nbsp;", "\u00a0", "&lrm;", "", "&rlm;", "")

func parseMoment(s string) (time.Duration, bool) {
	m := moment.FindStringSubmatch(s)
	if m == nil {
		return 0, false
	}
	n := func(i int) time.Duration { v, _ := strconv.Atoi(m[i]); return time.Duration(v) }
	return n(1)*time.Hour + n(2)*time.Minute + n(3)*time.Second + n(4)*time.Millisecond, true
}
