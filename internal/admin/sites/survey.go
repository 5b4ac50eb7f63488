package sites

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"mastflag/internal/admin/base"
	"mastflag/internal/problem"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

// siteTimeout is how long whoever has a site read is kept waiting for the end of it.
const siteTimeout = 3 * time.Second

// survey has the pages of a site read. What ends soon is answered at once; the rest is
// asked after.
func (a *Area) survey(c *base.Call, in SurveyAsk) (SiteDetail, error) {
	ctx := c.Request.Context()
	last, err := a.Survey.Progress(ctx, c.Site)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return SiteDetail{}, err
	}
	if in.Fewer && last.State == store.SurveyFewer {
		if err := a.Survey.Accept(ctx, c.Site); err != nil {
			return SiteDetail{}, err
		}
		return base.Done(a.detail(c, c.Site))
	}
	ended, err := a.Survey.Start(ctx, c.Site, in.Resume, in.Fewer)
	if errors.Is(err, survey.ErrNoAddress) {
		return SiteDetail{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "No address",
			Detail: "Give the site its address first.",
		}
	}
	if err != nil {
		return SiteDetail{}, err
	}
	select {
	case <-ended:
	case <-time.After(siteTimeout):
	case <-ctx.Done():
	}
	v, err := a.Survey.Progress(ctx, c.Site)
	if err != nil {
		return SiteDetail{}, err
	}
	switch v.State {
	case store.SurveyFailed:
		return SiteDetail{}, problem.Problem{
			Status: http.StatusBadGateway,
			Title:  "The site could not be read",
			Detail: v.Why + ". The pages known before are kept.",
		}
	case store.SurveyFewer:
		return SiteDetail{}, problem.Problem{Status: http.StatusConflict, Title: "Far fewer pages", Detail: fewerPages(v)}
	}
	return base.Done(a.detail(c, c.Site))
}

// fewerPages says what a reading waits for.
func fewerPages(v store.Survey) string {
	return fmt.Sprintf(
		"The site now lists %s; of those known before %d are no longer there. They are kept until you say that they are "+
			"gone.",
		pageCount(v.Listed), v.Gone.Count,
	)
}

func (a *Area) surveyState(c *base.Call, _ base.Nothing) (SurveyState, error) {
	return a.progress(c.Request.Context(), c.Site)
}

func (a *Area) progress(ctx context.Context, site string) (SurveyState, error) {
	v, err := a.Survey.Progress(ctx, site)
	if errors.Is(err, store.ErrNotFound) {
		return SurveyState{}, nil
	}
	return SurveyState{Survey: &v}, err
}

func (a *Area) stopSurvey(c *base.Call, _ base.Nothing) (SiteDetail, error) {
	a.Survey.Stop(c.Site)
	return base.Done(a.detail(c, c.Site))
}
