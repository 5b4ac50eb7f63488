package consents

import (
	"cmp"
	"fmt"
	"net/http"
	"time"

	"mastflag/core/consent"
	"mastflag/internal/admin/base"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// acknowledgements sums up what became of the site's disclaimers over 30 days.
func (a *Area) acknowledgements(c *base.Call, in TrendAsk) (DisclaimerCounts, error) {
	site := a.Hub.Site(c.Site)
	if site == nil {
		return DisclaimerCounts{}, store.ErrNotFound
	}
	today := a.Clock.Now().In(site.Zone())
	from := cmp.Or(in.From, today.AddDate(0, 0, -29).Format(time.DateOnly))
	to := cmp.Or(in.To, today.Format(time.DateOnly))
	for _, day := range []string{from, to} {
		if _, err := time.Parse(time.DateOnly, day); err != nil {
			return DisclaimerCounts{}, problem.Problem{
				Status: http.StatusBadRequest,
				Title:  "Not a day",
				Detail: fmt.Sprintf("%q is not a day: write it like 2026-12-04.", day),
			}
		}
	}
	counts, err := a.Store.DisclaimerCounts(c.Request.Context(), c.Site, from, to)
	if err != nil {
		return DisclaimerCounts{}, err
	}
	out := DisclaimerCounts{From: from, To: to, Rows: []DisclaimerCount{}}
	for _, t := range consent.DisclaimerTrends(counts) {
		title := t.Notice
		for _, n := range site.Bundle().Notices {
			if n.ID == t.Notice {
				title = n.GetTitle()
			}
		}
		out.Rows = append(out.Rows, DisclaimerCount{t, title})
	}
	return out, nil
}
