package csp_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/core/csp"
)

var needs = csp.Needs{
	Origin: "https://notices.test", Hashes: []string{"'sha256-one='", "'sha256-two='"}, TrustedTypes: "mastflag",
}

// Each row: a policy, whether the lines carry the nonce, and what is missing. What is to be
// comes from CSP Level 3 as csp.go names it; a browser is asked in
// e2e (TestPoliciesAsTheyAreCompleted).
func TestAdvise(t *testing.T) {
	const hashes, origin = "'sha256-one=' 'sha256-two='", "https://notices.test"
	all := []string{"script-src " + hashes + " " + origin, "connect-src " + origin, "img-src " + origin}
	for _, c := range []struct {
		policy string
		nonce  bool
		add    []string
	}{
		{"", false, nil},
		{"frame-ancestors 'none'; style-src 'self'", false, nil},
		{"default-src 'self'", false, all},
		{"default-src 'none'", false, all},
		{"default-src *", false, []string{"script-src " + hashes}},
		{"DEFAULT-SRC https: 'unsafe-inline'", false, nil},
		{"default-src http: 'unsafe-inline'", false, nil},
		{"default-src wss: 'unsafe-inline'", false, []string{
			"script-src " + origin, "connect-src " + origin, "img-src " + origin,
		}},
		{"script-src 'self'", false, all[:1]},
		{"script-src 'self' 'unsafe-inline'", false, []string{"script-src " + origin}},
		{"script-src 'unsafe-inline' 'sha256-x=' https://notices.test", false, []string{"script-src " + hashes}},
		{"script-src " + hashes + " https://notices.test", false, nil},
		{"script-src 'sha256-one=' https://notices.test", false, []string{"script-src 'sha256-two='"}},
		{"script-src 'nonce-abc' 'unsafe-inline'", true, nil},
		{"script-src 'NONCE-a+/b=' 'strict-dynamic' https:", true, nil},
		{"script-src 'strict-dynamic' 'sha256-x='", true, []string{"script-src 'nonce-…'"}},
		{"script-src-elem 'self'; script-src *", false, []string{"script-src-elem " + hashes + " " + origin}},
		{"script-src 'nonce-abc'; default-src 'self'", true, all[1:]},
		{"connect-src *.test; img-src *.notices.test", false, []string{"img-src " + origin}},
		{"connect-src notices.test:443; img-src notices.test:8443", false, []string{"img-src " + origin}},
		{"connect-src notices.test:*; img-src https://notices.test:80", false, nil},
		{"connect-src http://notices.test; img-src https://notices.test/a/", false, []string{"img-src " + origin}},
		{"connect-src https://notices.test/; connect-src 'none'", false, nil},
		{"trusted-types default; require-trusted-types-for 'script'", false, []string{"trusted-types mastflag"}},
		{"trusted-types *", false, nil},
		{"trusted-types 'none'", false, []string{"trusted-types mastflag"}},
		{"require-trusted-types-for 'script'", false, nil},
	} {
		a := csp.Advise(c.policy, "https://www.ferries.test", needs)
		var add []string
		for _, d := range a.Add {
			add = append(add, d.Directive+" "+strings.Join(d.Sources, " "))
		}
		assert.Equal(t, c.add, add, c.policy)
		assert.Equal(t, c.nonce, a.Nonce, c.policy)
		// With what was missing nothing is, and what was allowed still is.
		again := csp.Advise(a.Policy, "https://www.ferries.test", needs)
		assert.Empty(t, again.Add, "%s became %s", c.policy, a.Policy)
	}
	assert.Equal(
		t, "default-src 'self'; script-src 'self' 'sha256-one=' 'sha256-two=' https://notices.test; "+
			"connect-src 'self' https://notices.test; img-src 'self' https://notices.test",
		csp.Advise("default-src 'self'", "https://www.ferries.test", needs).Policy,
		"what had come from default-src stays allowed",
	)
	assert.Empty(t, csp.Advise("default-src 'self' 'unsafe-inline'", needs.Origin, needs).Add, "the program's own pages")
}

func TestNormal(t *testing.T) {
	assert.Equal(
		t, "script-src 'nonce-…' 'self'; img-src *",
		csp.Normal("  Script-Src  'nonce-4AEemGb0xJptoIGFP3Nd' 'self';; img-src *; script-src 'none';"),
	)
	assert.Equal(t, csp.Normal("script-src 'nonce-a'"), csp.Normal("script-src 'nonce-b'"))
	assert.Equal(t, "", csp.Normal(" ; "))
	assert.True(t, csp.Advise(csp.Normal("script-src 'nonce-a'"), "https://www.ferries.test", needs).Nonce)
}
