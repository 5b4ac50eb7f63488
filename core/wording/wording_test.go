package wording_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/core/bundle"
	"mastflag/core/wording"
)

// The order of the truncations is the worked example of RFC 4647 §3.4: lookup
// of zh-Hant-CN-x-private1-private2.
func TestChooseLooksUp(t *testing.T) {
	have := func(tags ...string) map[string]bundle.Wording {
		out := map[string]bundle.Wording{}
		for _, tag := range tags {
			out[tag] = bundle.Wording{Message: tag}
		}
		return out
	}
	const page = "zh-Hant-CN-x-private1-private2"
	chain := []string{"zh-Hant-CN-x-private1-private2", "zh-Hant-CN-x-private1", "zh-Hant-CN", "zh-Hant", "zh"}
	for i := range chain {
		assert.Equal(t, chain[i], wording.Choose(have(append(chain[i:], "en", "zh-Hant-CN-x")...), page, "en"))
	}
	assert.Equal(t, "en", wording.Choose(have("en", "de"), page, "en"), "the site's language")
	assert.Equal(t, "en", wording.Choose(have("en", "de"), page, "en-GB"), "the site's language, shortened")
	assert.Equal(t, "DE", wording.Choose(have("DE"), "de-CH", "en"), "case does not count")
	assert.Equal(t, "de", wording.Choose(have("pl", "de"), "fr", "en"), "the first of what there is")
	empty := have("pl")
	empty["en"] = bundle.Wording{}
	assert.Equal(t, "pl", wording.Choose(empty, "en", "en"), "a wording that says nothing is none")
	assert.Equal(t, "", wording.Choose(nil, "en", "en"))
}
