package captions_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/captions"
)

// W3C WebVTT §1.1, a simple caption file, and what the section names besides (from memory).
func TestParse(t *testing.T) {
	cues, err := captions.Parse(
		"\ufeffWEBVTT - seals\r\n\r\nNOTE nobody\r\nreads this --> \r\n\r\n00:01.000 --> 00:04.000 " +
			"align:start\r\nNever drink <i>liquid</i> nitrogen.\r\n\r\nsecond\r\n01:00:05.000 --> 01:00:09.250\r\n" +
			"- It will perforate your stomach.\r\n- You &amp; I.\r\n",
	)
	require.NoError(t, err)
	assert.Equal(t, []captions.Cue{
		{time.Second, 4 * time.Second, "Never drink liquid nitrogen."},
		{time.Hour + 5*time.Second, time.Hour + 9250*time.Millisecond, "- It will perforate your stomach.\n- You & I."},
	}, cues)
	for text, says := range map[string]string{
		"":                                        "line 1: captions begin with WEBVTT",
		"WEBVTTX":                                 "line 1",
		"WEBVTT\n\nwords alone":                   "line 3: there are no times",
		"WEBVTT\n\n1\n00:01 --> 00:02.000\nx":     "line 4",
		"WEBVTT\n\n00:02.000 --> 00:01.000\nx":    "line 3",
		"WEBVTT\n\n00:61.000 --> 02:00.000\nx":    "line 3",
		"WEBVTT\n\n00:01.000->00:02.000\nx":       "line 4",
		"WEBVTT\n\n00:01.000 -->00:02.000\nx\n\n": "line 3",
	} {
		_, err := captions.Parse(text)
		assert.ErrorContains(t, err, says, text)
	}
}

func FuzzParse(f *testing.F) {
	f.Add("WEBVTT\n\n00:01.000 --> 00:04.000\nwords")
	f.Fuzz(func(t *testing.T, text string) {
		cues, err := captions.Parse(text)
		for _, c := range cues {
			assert.Less(t, c.From, c.Until)
		}
		if err != nil {
			assert.Nil(t, cues)
		}
	})
}
