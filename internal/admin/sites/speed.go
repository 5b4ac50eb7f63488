package sites

import (
	"errors"

	"mastflag/core/speed"
	"mastflag/internal/admin/base"
	"mastflag/internal/inspect"
	"mastflag/internal/store"
)

// SpeedDetail is what notices cost a site's pages.
type SpeedDetail struct {
	// How far the measure is that goes on.
	Progress *inspect.Progress `json:"progress,omitempty"`
	// Why the last one failed.
	Failed string `json:"failed,omitempty"`
	// There is a browser to measure with.
	Browser bool `json:"browser"`
	// From when on a task is seen at all, ms.
	LongTask int `json:"longTask"`
	// The latest first.
	Measures []MeasureDetail `json:"measures"`
}

// A MeasureDetail is one measure, and what it says.
type MeasureDetail struct {
	speed.Measure
	Says string `json:"says"`
	// Of the page on which notices take the most.
	Worst speed.PageCost `json:"worst"`
}

func (a *Area) speed(c *base.Call, _ base.Nothing) (SpeedDetail, error) {
	ctx := c.Request.Context()
	out := SpeedDetail{
		Browser: a.Inspect.Inspector.Chromium != "", LongTask: speed.LongTask, Measures: []MeasureDetail{},
	}
	if _, err := a.Store.Site(ctx, c.Site); err != nil {
		return out, err
	}
	progress, going, failed := a.Inspect.Measuring(c.Site)
	if out.Failed = failed; going {
		out.Progress = &progress
	}
	measures, err := a.Store.Measures(ctx, c.Site)
	if err != nil {
		return out, err
	}
	for _, m := range measures {
		worst, _ := m.Worst()
		out.Measures = append(out.Measures, MeasureDetail{m, m.Sentence(), worst})
	}
	return out, nil
}

func (a *Area) measureSpeed(c *base.Call, in base.Nothing) (SpeedDetail, error) {
	switch err := a.Inspect.StartMeasure(c.Request.Context(), c.Site); {
	case errors.Is(err, inspect.ErrRunning):
	case errors.Is(err, store.ErrNotFound):
		return SpeedDetail{}, err
	case err != nil:
		return SpeedDetail{}, base.Refuse("The speed cannot be measured: " + err.Error() + ".")
	}
	return a.speed(c, in)
}
