package inspect

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"sync"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/document"
	"mastflag/core/pages"
	"mastflag/core/schedule"
	"mastflag/internal/background"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/store"
)

// ErrRunning says that the site is being inspected already.
var ErrRunning = errors.New("the site is being inspected already")

// A Keeper inspects sites, one at a time, and keeps what was found.
type Keeper struct {
	Store     *store.Store
	Hub       *compiled.Hub
	Clock     clock.Clock
	Inspector *Inspector
	Base      string // the program's own address

	inspections work
	measures    work       // of speed
	browserLock sync.Mutex // a browser at a time
}

// A work goes on for some sites, and knows why it last failed for each.
type work struct {
	background.Jobs[Progress]
	mu     sync.Mutex
	failed map[string]string
}

// end notes why the work for a site failed; nil where it did not.
func (w *work) end(key string, err error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if err == nil {
		delete(w.failed, key)
		return
	}
	if w.failed == nil {
		w.failed = map[string]string{}
	}
	w.failed[key] = err.Error()
	slog.Warn("inspection failed", "site", key, "error", err)
}

// state returns how far the work for a site is; going is false if there is none, and failed then
// says why the last failed.
func (w *work) state(key string) (p Progress, going bool, failed string) {
	if p, going = w.Progress(key); going {
		return p, true, ""
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	return p, false, w.failed[key]
}

// Start begins to inspect a site, its pages for accessibility too where that is
// wanted; ErrRunning if that is going on.
func (k *Keeper) Start(ctx context.Context, key string, accessibility bool) error {
	job, err := k.job(ctx, key)
	if err != nil {
		return err
	}
	job.Accessibility = accessibility
	begun := Progress{Of: len(consent.Phases) * len(job.Pages)}
	_, fresh := k.inspections.Start(ctx, key, begun, func(ctx context.Context, tell func(Progress)) {
		k.inspections.end(key, nil)
		k.browserLock.Lock()
		run, checked, err := k.Inspector.Run(ctx, job, k.Clock.Now(), tell)
		k.browserLock.Unlock()
		if err == nil {
			err = k.Store.AddRun(context.WithoutCancel(ctx), key, run, checked)
		}
		k.inspections.end(key, err)
	})
	if !fresh {
		return ErrRunning
	}
	return nil
}

// StartMeasure begins to measure what the program costs a site's pages; ErrRunning if that is going on.
func (k *Keeper) StartMeasure(ctx context.Context, key string) error {
	job, err := k.job(ctx, key)
	if err != nil {
		return err
	}
	if k.Inspector.Chromium == "" {
		return ErrNoChromium
	}
	_, fresh := k.measures.Start(ctx, key, Progress{Of: 1}, func(ctx context.Context, tell func(Progress)) {
		k.measures.end(key, nil)
		k.browserLock.Lock()
		m, err := k.Inspector.Measure(ctx, job, k.Clock.Now(), tell)
		k.browserLock.Unlock()
		if err == nil && len(m.Pages) > 0 {
			err = k.Store.AddMeasure(context.WithoutCancel(ctx), key, m)
		}
		k.measures.end(key, err)
	})
	if !fresh {
		return ErrRunning
	}
	return nil
}

// Measuring returns how far a measure of a site is, as Progress does of an inspection.
func (k *Keeper) Measuring(key string) (p Progress, going bool, failed string) {
	return k.measures.state(key)
}

// Stop ends the inspection of a site; what it found until then is kept. It
// returns once that is so.
func (k *Keeper) Stop(key string) { k.inspections.Stop(key) }

// Progress returns how far the inspection of a site is; going is false if none
// is, and failed then says why the last one failed.
func (k *Keeper) Progress(key string) (p Progress, going bool, failed string) {
	return k.inspections.state(key)
}

// job is what to inspect of a site.
func (k *Keeper) job(ctx context.Context, key string) (Job, error) {
	site := k.Hub.Site(key)
	if site == nil {
		return Job{}, store.ErrNotFound
	}
	s := site.Bundle().Site
	if len(s.Origins) == 0 {
		return Job{}, errors.New("the site has no address yet: give it one in the Site room")
	}
	origin, err := pages.Origin(s.Origins[0])
	if err != nil {
		return Job{}, err
	}
	list, err := k.Store.Pages(ctx, key)
	if err != nil {
		return Job{}, err
	}
	known := make([]bundle.Page, len(list))
	for i, p := range list {
		known[i] = p.Page
	}
	return Job{
		Origin:  origin,
		Pages:   Choose(known, s.Homes(), s.Setup().GetInspectPages()),
		Own:     site.Own,
		Base:    k.Base,
		Answers: fmt.Sprintf("%s/r/%s*", k.Base, key),
	}, nil
}

// Run inspects the sites that plan it, at their times, until ctx ends; then it
// stops what is going on.
func (k *Keeper) Run(ctx context.Context) {
	clock.Every(ctx, time.Minute, func() { k.Due(ctx) })
	k.inspections.StopAll()
	k.measures.StopAll()
}

// Due begins the inspections that are planned for now, and measures of speed with them: of each
// stretch of time one, however often it is asked.
func (k *Keeper) Due(ctx context.Context) {
	sites, err := k.Store.Sites(ctx)
	if err != nil {
		slog.Error("planned inspections", "error", err)
		return
	}
	now := k.Clock.Now()
	for _, s := range sites {
		plan := s.Setup().Inspect
		zone, err := schedule.Zone(s.TimeZone)
		if plan == nil || err != nil {
			continue
		}
		when, faults := schedule.Compile(schedule.Plan{Windows: []schedule.Window{*plan}}, zone, time.Time{})
		if faults != nil {
			continue // Check of the site has refused it
		}
		runs, err := k.Store.Runs(ctx, s.Key, 1)
		if err != nil {
			slog.Error("planned inspection", "site", s.Key, "error", err)
			continue
		}
		measures, err := k.Store.Measures(ctx, s.Key)
		if err != nil {
			slog.Error("planned measure of speed", "site", s.Key, "error", err)
			continue
		}
		for _, in := range when.Range(now.AddDate(0, 0, -7), now.Add(time.Second)) {
			if live := !in.From.After(now) && (in.Until.IsZero() || in.Until.After(now)); !live {
				continue
			}
			if len(runs) == 0 || runs[0].Began.Before(in.From) {
				if err := k.Start(ctx, s.Key, states(s.Documents)); err != nil && !errors.Is(err, ErrRunning) {
					slog.Error("planned inspection", "site", s.Key, "error", err)
				}
			}
			if len(measures) == 0 || measures[0].At.Before(in.From) {
				err := k.StartMeasure(ctx, s.Key)
				if err != nil && !errors.Is(err, ErrRunning) && !errors.Is(err, ErrNoChromium) {
					slog.Error("planned measure of speed", "site", s.Key, "error", err)
				}
			}
		}
	}
}

// states reports whether a site has an accessibility statement, which a check is
// of use to.
func states(list []document.Document) bool {
	return slices.ContainsFunc(list, func(d document.Document) bool { return d.Kind == document.Accessibility })
}
