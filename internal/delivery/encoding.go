package delivery

import (
	"slices"
	"strconv"
	"strings"
)

// encodingOf returns which of the encodings that are there, the best first, an
// Accept-Encoding header wants most; "" for the body as it is (RFC 9110 §12.5.3). What is
// refused by q=0 is not given, and a weight that cannot be read counts as refused.
func encodingOf(accepts string, there ...string) string {
	best, most := "", 0.0
	weights := map[string]float64{}
	for part := range strings.SplitSeq(accepts, ",") {
		name, params, _ := strings.Cut(part, ";")
		weights[strings.ToLower(strings.TrimSpace(name))] = weight(params)
	}
	for _, encoding := range there {
		w, named := weights[encoding]
		if !named {
			w = weights["*"]
		}
		if w > most {
			best, most = encoding, w
		}
	}
	if w, named := weights["identity"]; named && w > most {
		return ""
	}
	return best
}

// weight reads the parameters of one member: 1 if there is no q.
func weight(params string) float64 {
	all := strings.Split(params, ";")
	i := slices.IndexFunc(all, func(p string) bool {
		return strings.HasPrefix(strings.ToLower(strings.TrimSpace(p)), "q=")
	})
	if i < 0 {
		return 1
	}
	q, err := strconv.ParseFloat(strings.TrimSpace(all[i])[2:], 64)
	if err != nil || q < 0 || q > 1 {
		return 0
	}
	return q
}
