package delivery

import (
	"compress/gzip"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"
)

// packFrom is how large an answer has to be, bytes, until packing it saves a packet.
const packFrom = 1400

var packers = sync.Pool{New: func() any {
	w, err := gzip.NewWriterLevel(nil, gzip.BestSpeed)
	if err != nil {
		panic(err)
	}
	return w
}}

// sendPacked answers with a body that nobody may keep, packed where that is wanted and worth it.
func sendPacked(c *gin.Context, kind string, body []byte) {
	if len(body) < packFrom || encodingOf(c.GetHeader("Accept-Encoding"), "gzip") == "" {
		c.Data(http.StatusOK, kind, body)
		return
	}
	c.Header("Content-Encoding", "gzip")
	c.Header("Content-Type", kind)
	c.Status(http.StatusOK)
	w := packers.Get().(*gzip.Writer)
	defer packers.Put(w)
	w.Reset(c.Writer)
	// Who has gone hears nothing.
	_, _ = w.Write(body)
	_ = w.Close()
}

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
