package bundle_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/core/bundle"
)

// What is said of a copy once it or its original has changed (rule B3).
func TestOriginal(t *testing.T) {
	says := func(id, en, de string) bundle.Notice {
		w := map[string]bundle.Wording{"en": {Message: en}}
		if de != "" {
			w["de"] = bundle.Wording{Message: de}
		}
		return bundle.Notice{ID: id, Kind: bundle.KindBlock, Content: &bundle.Content{Wordings: w}}
	}
	was := says("a", "Hello", "Hallo")
	for _, c := range []struct {
		name         string
		copy, is     bundle.Notice
		changed, has bool
	}{
		{"nothing changed", says("b", "Hello", "Hallo"), was, false, true},
		{"the copy went its own way", says("b", "Hi", "Hallo"), was, false, true},
		{"the original did", says("b", "Hello", "Hallo"), says("a", "Good day", "Hallo"), true, true},
		{"in one language alone", says("b", "Hello", "Hallo"), says("a", "Hello", "Guten Tag"), true, true},
		{"and lost one", says("b", "Hello", "Hallo"), says("a", "Hello", ""), true, true},
		{"both changed alike", says("b", "Good day", ""), says("a", "Good day", ""), false, true},
		{"the original is gone", says("b", "Hello", "Hallo"), says("c", "Hello", ""), false, false},
	} {
		c.copy.CopyOf = &bundle.Copy{ID: "a", Mark: was.TextMark()}
		o, changed, has := c.copy.Original([]bundle.Notice{c.copy, c.is})
		assert.Equal(t, c.changed, changed, c.name)
		assert.Equal(t, c.has, has, c.name)
		if has {
			assert.Equal(t, c.is, o, c.name)
		}
	}
	self := was
	self.CopyOf = &bundle.Copy{ID: "a"}
	_, _, has := self.Original([]bundle.Notice{self})
	assert.False(t, has, "a notice is no copy of itself")
	_, _, has = was.Original([]bundle.Notice{was})
	assert.False(t, has, "nor is one that names none")
}
