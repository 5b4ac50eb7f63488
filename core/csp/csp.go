// Package csp works out what a site's Content-Security-Policy (CSP Level 3, W3C) still has to allow so that the lines
// of the snippet work under it, and in which form they are pasted. Comments name the algorithms of that document.
package csp

import (
	"net/url"
	"regexp"
	"slices"
	"strings"
)

// Needs is what the lines need of a policy.
type Needs struct {
	// The program's origin, from which scripts, decisions and pictures come.
	Origin string
	// The hash-sources of the lines, such as 'sha256-…'.
	Hashes []string
	// The name of the Trusted Types policy that HTML goes in by.
	TrustedTypes string
}

// Advice is what to do about a policy.
type Advice struct {
	// Both lines carry the policy's nonce.
	Nonce bool `json:"nonce"`
	// What is missing, by directive in the order of the policy; none where nothing is.
	Add []Addition `json:"add"`
	// The policy with all of it.
	Policy string `json:"policy"`
}

// An Addition is what a directive has to list besides.
type Addition struct {
	Directive string   `json:"directive"`
	Sources   []string `json:"sources"`
}

// directive is one of a policy: its name in lower case, and its values.
type directive struct {
	name   string
	values []string
}

// parse reads a policy; of directives of one name the first counts (“parse a serialized CSP”).
func parse(policy string) (out []directive) {
	for part := range strings.SplitSeq(policy, ";") {
		fields := strings.Fields(part)
		if len(fields) == 0 {
			continue
		}
		d := directive{strings.ToLower(fields[0]), fields[1:]}
		if !slices.ContainsFunc(out, func(o directive) bool { return o.name == d.name }) {
			out = append(out, d)
		}
	}
	return out
}

var (
	nonce = regexp.MustCompile(`^(?i:'nonce-)([A-Za-z0-9+/_=-]+|…)'$`)
	hash  = regexp.MustCompile(`^(?i:'sha(256|384|512)-)[A-Za-z0-9+/_=-]+'$`)
)

// AnyNonce stands for a nonce, which is another one for each page.
const AnyNonce = "'nonce-…'"

// Normal returns a policy in the form in which policies are compared: AnyNonce for each nonce, and single blanks.
func Normal(policy string) string {
	var parts []string
	for _, d := range parse(policy) {
		for i, v := range d.values {
			if nonce.MatchString(v) {
				d.values[i] = AnyNonce
			}
		}
		parts = append(parts, strings.Join(append([]string{d.name}, d.values...), " "))
	}
	return strings.Join(parts, "; ")
}

// Advise works out what a page at an origin with this policy needs.
func Advise(policy, page string, needs Needs) Advice {
	all := parse(policy)
	a := Advice{Add: []Addition{}}
	// governing is the directive that decides about something: the first of these names that the policy has
	// (“get fetch directive fallback list”).
	governing := func(names ...string) (directive, bool) {
		for _, name := range names {
			if i := slices.IndexFunc(all, func(d directive) bool { return d.name == name }); i >= 0 {
				return all[i], true
			}
		}
		return directive{}, false
	}
	// add has a directive list more; one that the policy lacks begins with what default-src has.
	add := func(name string, from directive, sources ...string) {
		sources = slices.DeleteFunc(slices.Clone(sources), func(s string) bool { return slices.Contains(from.values, s) })
		if len(sources) == 0 {
			return
		}
		a.Add = append(a.Add, Addition{name, sources})
		values := slices.DeleteFunc(slices.Clone(from.values), func(s string) bool { return strings.EqualFold(s, "'none'") })
		d := directive{name, append(values, sources...)}
		if i := slices.IndexFunc(all, func(d directive) bool { return d.name == name }); i >= 0 {
			all[i] = d
		} else {
			all = append(all, d)
		}
	}

	if d, ok := governing("script-src-elem", "script-src", "default-src"); ok {
		has := func(keyword string) bool {
			return slices.ContainsFunc(d.values, func(v string) bool { return strings.EqualFold(v, keyword) })
		}
		name := d.name
		if name == "default-src" {
			name = "script-src"
		}
		a.Nonce = slices.ContainsFunc(d.values, nonce.MatchString)
		strict := has("'strict-dynamic'")
		inline := has("'unsafe-inline'") && !slices.ContainsFunc(d.values, hash.MatchString)
		var sources []string
		switch {
		case a.Nonce: // what a script with a nonce imports carries it, too
		case strict: // what a script with a hash imports is trusted by nothing
			a.Nonce = true
			sources = []string{AnyNonce}
		default:
			if !inline {
				sources = append(sources, needs.Hashes...)
			}
			if !allows(d.values, needs.Origin, page) {
				sources = append(sources, needs.Origin)
			}
		}
		add(name, d, sources...)
	}
	for _, name := range []string{"connect-src", "img-src"} {
		if d, ok := governing(name, "default-src"); ok && !allows(d.values, needs.Origin, page) {
			add(name, d, needs.Origin)
		}
	}
	if d, ok := governing("trusted-types"); ok && !slices.Contains(d.values, needs.TrustedTypes) &&
		!slices.Contains(d.values, "*") {
		add("trusted-types", d, needs.TrustedTypes)
	}

	parts := make([]string, len(all))
	for i, d := range all {
		parts[i] = strings.Join(append([]string{d.name}, d.values...), " ")
	}
	a.Policy = strings.Join(parts, "; ")
	return a
}

// allows reports whether a list of sources lets everything of an origin through (“does url match source list”), for a
// page at another.
func allows(sources []string, origin, page string) bool {
	to, err := url.Parse(origin)
	if err != nil {
		return false
	}
	return slices.ContainsFunc(sources, func(source string) bool {
		switch source := strings.ToLower(source); {
		case source == "*":
			return to.Scheme == "http" || to.Scheme == "https"
		case source == "'self'":
			return origin == page
		case strings.HasSuffix(source, ":"):
			return upgrades(strings.TrimSuffix(source, ":"), to.Scheme)
		default:
			return hostAllows(source, to, page)
		}
	})
}

// upgrades reports whether a scheme that is listed lets another through: itself, and http also https (“scheme-part
// matches”).
func upgrades(listed, scheme string) bool {
	return listed == scheme || listed == "http" && scheme == "https"
}

// hostAllows reports whether a host-source lets all of an origin through; one with a path does not.
func hostAllows(source string, to *url.URL, page string) bool {
	scheme, rest, has := strings.Cut(source, "://")
	if !has {
		rest = source
		scheme, _, _ = strings.Cut(page, ":")
	}
	if !upgrades(scheme, to.Scheme) {
		return false
	}
	host, path, _ := strings.Cut(rest, "/")
	if path != "" || strings.HasPrefix(host, "'") {
		return false
	}
	host, port, _ := strings.Cut(host, ":")
	if below, wild := strings.CutPrefix(host, "*."); wild {
		if !strings.HasSuffix(to.Hostname(), "."+below) {
			return false
		}
	} else if host != to.Hostname() {
		return false
	}
	usual := map[string]string{"http": "80", "https": "443"}
	have := to.Port()
	if have == "" {
		have = usual[to.Scheme]
	}
	return port == "*" || port == have || port == "" && have == usual[to.Scheme] ||
		port == "80" && have == "443" && to.Scheme == "https"
}
