package delivery

import (
	"math"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"mastflag/internal/access"
	"mastflag/internal/allowance"
	"mastflag/internal/problem"
)

// limits are how often pages may write: those that come from one network, where a whole school may
// be behind one address, and all of one site together.
type limits struct {
	network, site allowance.Allowance
	counted       allowance.Limits
}

// Answers to questions come with every visit, forms seldom (rule F6); what is counted comes in
// batches, at most a few with each page view.
func answerLimits() *limits {
	return &limits{network: allowance.Allowance{Rate: 2, Burst: 300}, site: allowance.Allowance{Rate: 1000, Burst: 3000}}
}

func formLimits() *limits {
	return &limits{network: allowance.Allowance{Rate: 0.2, Burst: 30}, site: allowance.Allowance{Rate: 50, Burst: 1000}}
}

func countLimits() *limits {
	return &limits{
		network: allowance.Allowance{Rate: 20, Burst: 2000},
		site:    allowance.Allowance{Rate: 5000, Burst: 20_000},
	}
}

// wait counts a write to a site from a network, or returns how long it has to wait and counts
// nothing. Networks beyond allowance.MaxKeys share one count.
func (l *limits) wait(site, network string, now time.Time) time.Duration {
	return l.counted.Wait(
		now, allowance.Key{Name: site + " " + network, Allowance: l.network, Shared: site + " others"},
		allowance.Key{Name: site, Allowance: l.site},
	)
}

// mayWrite reports whether a page may write now, or answers when it may.
func (d *Delivery) mayWrite(c *gin.Context, l *limits) bool {
	network := access.Network(d.source.Address(c.Request)).String()
	if wait := l.wait(c.Param("key"), network, d.clock.Now()); wait > 0 {
		tooMuch(c, wait)
		return false
	}
	return true
}

// tooMuch answers that something is taken again after a while.
func tooMuch(c *gin.Context, wait time.Duration) {
	c.Header("Retry-After", strconv.Itoa(int(math.Ceil(wait.Seconds()))))
	problem.Write(c, problem.Problem{
		Status: http.StatusTooManyRequests,
		Title:  "Too much at once",
		Detail: "More is sent from this network, or about this site, than is accepted. Nothing was kept; send it again a " +
			"little later.",
	})
}
