package code

import (
	"cmp"
	"crypto/sha256"
	"encoding/base64"
	"net/url"
	"slices"
	"strings"
)

// A PolicySource is something that a page's Content-Security-Policy has to allow.
type PolicySource struct {
	// Such as script-src.
	Directive string `json:"directive"`
	// A source expression (CSP Level 3 §2.3.1), such as https://cdn.example or 'sha256-…'.
	Source string `json:"source"`
}

// Sources returns what a page's Content-Security-Policy has to allow for code,
// each once, sorted. What scripts load by themselves cannot be known.
func Sources(parts ...string) (out []PolicySource) {
	add := func(directive, source string) {
		if s := (PolicySource{directive, source}); directive != "" && source != "" && !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	for _, part := range parts {
		for _, t := range Tags(part) {
			switch t.Name {
			case "script":
				switch _, outside := t.Attr["src"]; {
				case outside:
					add("script-src", origin(t.Attr["src"]))
				case slices.Contains(scripts, scriptKind(t.Attr)) || scriptKind(t.Attr) == "importmap":
					add("script-src", hash(t.Text))
				}
			case "style":
				add("style-src", hash(t.Text))
			case "link":
				for _, relation := range strings.Fields(strings.ToLower(t.Attr["rel"])) {
					add(linked[relation], origin(t.Attr["href"]))
				}
			case "iframe":
				add("frame-src", origin(t.Attr["src"]))
			case "img":
				add("img-src", origin(t.Attr["src"]))
			case "video", "audio", "source":
				add("media-src", origin(t.Attr["src"]))
			case "form":
				add("form-action", origin(t.Attr["action"]))
			}
			for name, value := range t.Attr {
				directive := ""
				switch {
				case strings.HasPrefix(name, "on"):
					directive = "script-src"
				case name == "style":
					directive = "style-src"
				}
				add(directive, unsafeHashes)
				add(directive, hash(value))
			}
		}
	}
	slices.SortFunc(out, func(a, b PolicySource) int {
		return cmp.Or(cmp.Compare(a.Directive, b.Directive), cmp.Compare(a.Source, b.Source))
	})
	return out
}

// unsafeHashes lets hashes allow attributes that are scripts or styles too (CSP Level
// 3 §2.3.1). Where a hash is given, browsers pass 'unsafe-inline' over.
const unsafeHashes = "'unsafe-hashes'"

// linked is the directive for what a link of a relation loads.
var linked = map[string]string{
	"stylesheet": "style-src", "icon": "img-src", "manifest": "manifest-src", "modulepreload": "script-src",
}

func hash(text string) string {
	sum := sha256.Sum256([]byte(text))
	return "'sha256-" + base64.StdEncoding.EncodeToString(sum[:]) + "'"
}

// origin is the source expression for an address: 'self' for one of the page's own
// site, "" for none.
func origin(address string) string {
	u, err := url.Parse(strings.TrimSpace(address))
	switch {
	case err != nil || address == "" || u.Scheme == "about":
		return ""
	case u.Host != "":
		return cmp.Or(u.Scheme, "https") + "://" + u.Host
	case u.Scheme != "":
		return u.Scheme + ":"
	}
	return "'self'"
}
