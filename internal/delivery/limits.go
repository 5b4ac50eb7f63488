package delivery

import (
	"maps"
	"math"
	"net/http"
	"strconv"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"golang.org/x/time/rate"

	"mastflag/internal/access"
	"mastflag/internal/problem"
)

// An allowance is how often pages may write, a second and at once.
type allowance struct {
	rate  rate.Limit
	burst int
}

// How often pages may write: those that come from one network, where a whole
// school may be behind one address, and all of one site together. Answers to
// questions come with every visit, forms seldom (rule F6).
func answerLimits() *limits { return &limits{network: allowance{2, 300}, site: allowance{1000, 3000}} }
func formLimits() *limits   { return &limits{network: allowance{0.2, 30}, site: allowance{50, 1000}} }

// What is counted comes in batches, at most a few with each page view.
func countLimits() *limits {
	return &limits{network: allowance{20, 2000}, site: allowance{5000, 20_000}}
}

// maxNetworks is how many networks are counted each by itself; those beyond
// share one count.
const maxNetworks = 100_000

// limits counts what pages write. What has been quiet long enough to be as if
// new is forgotten.
type limits struct {
	network, site allowance

	mu    sync.Mutex
	by    map[string]*rate.Limiter
	swept time.Time
}

// wait counts a write to a site from a network, or returns how long it has to
// wait and counts nothing.
func (l *limits) wait(site, network string, now time.Time) time.Duration {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.by == nil {
		l.by = map[string]*rate.Limiter{}
	}
	if now.Sub(l.swept).Abs() > time.Minute {
		l.swept = now
		maps.DeleteFunc(l.by, func(_ string, r *rate.Limiter) bool { return r.TokensAt(now) >= float64(r.Burst()) })
	}
	limiter := func(name string, p allowance) *rate.Limiter {
		if have := l.by[name]; have != nil {
			return have
		}
		l.by[name] = rate.NewLimiter(p.rate, p.burst)
		return l.by[name]
	}
	ofNetwork := site + " " + network
	if l.by[ofNetwork] == nil && len(l.by) >= maxNetworks {
		ofNetwork = site + " others"
	}
	for _, r := range []*rate.Limiter{limiter(ofNetwork, l.network), limiter(site, l.site)} {
		if lacks := 1 - r.TokensAt(now); lacks > 0 {
			return time.Duration(lacks / float64(r.Limit()) * float64(time.Second))
		}
	}
	l.by[ofNetwork].AllowN(now, 1)
	l.by[site].AllowN(now, 1)
	return 0
}

// mayWrite reports whether a page may write now, or answers when it may.
func (d *Delivery) mayWrite(c *gin.Context, l *limits) bool {
	network := access.Network(d.source.Address(c.Request)).String()
	wait := l.wait(c.Param("key"), network, d.clock.Now())
	if wait <= 0 {
		return true
	}
	c.Header("Retry-After", strconv.Itoa(int(math.Ceil(wait.Seconds()))))
	problem.Write(c, problem.Problem{
		Status: http.StatusTooManyRequests,
		Title:  "Too much at once",
		Detail: "More is sent from this network, or about this site, than is accepted. Nothing was kept; send it again a " +
			"little later.",
	})
	return false
}
