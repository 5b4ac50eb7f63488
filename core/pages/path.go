package pages

import (
	"fmt"
	"net/netip"
	"net/url"
	"strings"

	"golang.org/x/net/idna"
)

// NormalPath returns a path in the form in which paths are compared (rule
// P3): RFC 3986 §6.2.2 (escapes in upper-case hex, unreserved characters
// decoded, dot segments removed), query and fragment dropped, a trailing
// slash ignored except for "/". A fragment that is a route, #/ports or
// #!/ports, is part of the path, in the same form; the root route is none.
// Paths are case-sensitive. NormalPath of a normal path is the path itself. A
// path that does not begin with "/" or holds a broken escape is an error.
func NormalPath(s string) (string, error) {
	path, _, _ := strings.Cut(s, "#")
	path, err := normalPath(withoutQuery(path))
	route := RouteOf(s)
	if err != nil || route == "" {
		return path, err
	}
	at := strings.IndexByte(route, '/')
	below, err := normalPath(withoutQuery(route[at:]))
	if err != nil || below == "/" {
		return path, err
	}
	return path + route[:at] + below, nil
}

// RouteOf returns the route of an address, which a fragment that begins with / or !/ names, from its # on and with its
// query; "" if it has none. What follows a second # names a place within it.
func RouteOf(address string) string {
	i := strings.IndexByte(address, '#')
	if i < 0 || !strings.HasPrefix(strings.TrimPrefix(address[i+1:], "!"), "/") {
		return ""
	}
	if end := strings.IndexByte(address[i+1:], '#'); end >= 0 {
		return address[i : i+1+end]
	}
	return address[i:]
}

// QueryOf returns the query of an address, without the question mark; that of its route follows after an &.
func QueryOf(address string) string {
	path, _, _ := strings.Cut(address, "#")
	_, query, _ := strings.Cut(path, "?")
	_, more, _ := strings.Cut(RouteOf(address), "?")
	if query != "" && more != "" {
		return query + "&" + more
	}
	return query + more
}

func withoutQuery(s string) string {
	s, _, _ = strings.Cut(s, "?")
	return s
}

// normalPath is NormalPath of what has neither query nor fragment.
func normalPath(s string) (string, error) {
	if s == "" || s[0] != '/' {
		return "", fmt.Errorf("%q is not a path: it does not begin with /", s)
	}
	if plain(s) {
		return s, nil
	}
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case c == '%':
			if i+2 >= len(s) || !isHex(s[i+1]) || !isHex(s[i+2]) {
				return "", fmt.Errorf("%q holds a %% that is not followed by two hex digits", s)
			}
			d := unhex(s[i+1])<<4 | unhex(s[i+2])
			if unreserved(d) {
				b.WriteByte(d)
			} else {
				fmt.Fprintf(&b, "%%%02X", d)
			}
			i += 2
		case unreserved(c) || strings.IndexByte("!$&'()*+,;=:@/", c) >= 0:
			b.WriteByte(c)
		default: // what a URL's path may not hold as it stands, such as a space or ü
			fmt.Fprintf(&b, "%%%02X", c)
		}
	}
	p := removeDotSegments(b.String())
	if p = strings.TrimRight(p, "/"); p == "" {
		p = "/"
	}
	return p, nil
}

// PagePath is NormalPath of what people and sites name as a page of a site.
// What begins with two slashes is an error: put into an address it names
// another host (RFC 3986 §4.2).
func PagePath(s string) (string, error) {
	n, err := NormalPath(s)
	if err == nil && strings.HasPrefix(n, "//") {
		err = fmt.Errorf("%q names another host, not a page of the site", s)
	}
	return n, err
}

// plain reports whether a path is in normal form beyond doubt, the common case.
func plain(s string) bool {
	for i := 0; i < len(s); i++ {
		c := s[i]
		if c == '/' && i+1 < len(s) && s[i+1] == '.' {
			return false
		}
		if c != '/' && !unreserved(c) {
			return false
		}
	}
	return len(s) == 1 || s[len(s)-1] != '/'
}

func unreserved(c byte) bool {
	return 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || '0' <= c && c <= '9' || c == '-' || c == '.' || c == '_' ||
		c == '~'
}

func isHex(c byte) bool {
	return '0' <= c && c <= '9' || 'a' <= c && c <= 'f' || 'A' <= c && c <= 'F'
}

func unhex(c byte) byte {
	switch {
	case c <= '9':
		return c - '0'
	case c <= 'F':
		return c - 'A' + 10
	}
	return c - 'a' + 10
}

// removeDotSegments is RFC 3986 §5.2.4 for a path that begins with "/".
func removeDotSegments(p string) string {
	var out []string
	segments := strings.Split(p[1:], "/")
	for i, s := range segments {
		last := i == len(segments)-1
		switch s {
		case ".":
			if last {
				out = append(out, "")
			}
		case "..":
			if len(out) > 0 {
				out = out[:len(out)-1]
			}
			if last {
				out = append(out, "")
			}
		default:
			out = append(out, s)
		}
	}
	return "/" + strings.Join(out, "/")
}

// Origin returns the origin of a URL in the form in which origins are
// compared (rule P3): scheme and host in lower case, the host's IDNA labels
// in ASCII, the scheme's default port dropped. Anything but an http or https
// URL with a host is an error.
func Origin(s string) (string, error) {
	u, err := url.Parse(s)
	if err != nil {
		return "", fmt.Errorf("%q is not a URL", s)
	}
	scheme := strings.ToLower(u.Scheme)
	if (scheme != "http" && scheme != "https") || u.Hostname() == "" {
		return "", fmt.Errorf("%q is not an http or https address", s)
	}
	host := u.Hostname()
	if ip, err := netip.ParseAddr(host); err == nil {
		host = ip.String()
		if ip.Is6() {
			host = "[" + host + "]"
		}
	} else if host, err = idna.Lookup.ToASCII(host); err != nil {
		return "", fmt.Errorf("%q has a host name that does not exist in DNS form", s)
	}
	port := u.Port()
	if port == "" || scheme == "http" && port == "80" || scheme == "https" && port == "443" {
		return scheme + "://" + host, nil
	}
	return scheme + "://" + host + ":" + port, nil
}

// SameSite reports whether two origins are the same, counting a host and the
// same host under "www." as one.
func SameSite(a, b string) bool { return withoutTrailingSlash(a) == withoutTrailingSlash(b) }

func withoutTrailingSlash(origin string) string {
	scheme, host, _ := strings.Cut(origin, "://")
	return scheme + "://" + strings.TrimPrefix(host, "www.")
}
