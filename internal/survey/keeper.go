package survey

import (
	"cmp"
	"context"
	"errors"
	"log/slog"
	"slices"
	"strings"
	"time"

	"mastflag/core/bundle"
	"mastflag/core/pages"
	"mastflag/internal/background"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/delivery"
	"mastflag/internal/store"
)

// batch is how many readings are kept in one write.
const batch = 200

// fewer: with less than a half of the pages that were known before it is asked
// whether the others are gone.
const fewer = 2

// ErrNoAddress says that a site cannot be read because nobody has said where it is.
var ErrNoAddress = errors.New("the site has no address yet: give it one in the Site room")

// A Keeper reads the pages of sites beside all else, and keeps what it finds as it goes:
// so a reading can be stopped and resumed, by people or because the program ended.
type Keeper struct {
	*Surveyor
	Store *store.Store
	Hub   *compiled.Hub
	Clock clock.Clock

	jobs background.Jobs[store.Survey]
}

// Start begins to read the pages of a site anew, or resumes a reading that was
// stopped. allFewer: it is known that there are far fewer than before. The channel is
// closed when it ends; where one is going on it is that one's.
func (k *Keeper) Start(ctx context.Context, key string, resume, allFewer bool) (<-chan struct{}, error) {
	job, err := k.job(ctx, key)
	if err != nil {
		return nil, err
	}
	job.fewer = allFewer
	last, err := k.Store.Survey(ctx, key)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	begun := store.Survey{State: store.SurveyReading, Began: k.Clock.Now().Truncate(time.Second)}
	if resume = resume && (last.State == store.SurveyStopped || last.State == store.SurveyReading); resume {
		begun = last
		begun.State, begun.Why, begun.Ended = store.SurveyReading, "", time.Time{}
	}
	done, _ := k.jobs.Start(ctx, key, begun, func(ctx context.Context, tell func(store.Survey)) {
		v, err := k.run(ctx, job, begun, resume, tell)
		if err == nil {
			err = k.Store.PutSurvey(context.WithoutCancel(ctx), key, v)
		}
		if err != nil {
			slog.Error("reading a site's pages", "site", key, "error", err)
		}
	})
	return done, nil
}

// Stop ends the reading of a site; it can be resumed. It returns once that is so.
func (k *Keeper) Stop(key string) { k.jobs.Stop(key) }

// Run ends all readings when ctx ends; they can be resumed.
func (k *Keeper) Run(ctx context.Context) {
	<-ctx.Done()
	k.jobs.StopAll()
}

// Progress returns how far the reading of a site is, or what became of the last one;
// store.ErrNotFound if there was none.
func (k *Keeper) Progress(ctx context.Context, key string) (store.Survey, error) {
	if v, going := k.jobs.Progress(key); going {
		return v, nil
	}
	v, err := k.Store.Survey(ctx, key)
	if v.State == store.SurveyReading { // the program ended meanwhile
		v.State = store.SurveyStopped
	}
	return v, err
}

// Accept takes a reading that waits for someone to say that there are far fewer pages.
func (k *Keeper) Accept(ctx context.Context, key string) error {
	job, err := k.job(ctx, key)
	if err != nil {
		return err
	}
	v, err := k.Progress(ctx, key)
	if err != nil || v.State != store.SurveyFewer {
		return err
	}
	job.fewer = true
	if v, err = k.finish(ctx, job, v); err != nil {
		return err
	}
	return k.Store.PutSurvey(ctx, key, v)
}

// A job is what to read.
type job struct {
	key, origin string
	look        Sought
	fewer       bool
}

func (k *Keeper) job(ctx context.Context, key string) (job, error) {
	s, err := k.Store.Site(ctx, key)
	if err != nil {
		return job{}, err
	}
	if len(s.Origins) == 0 {
		return job{}, ErrNoAddress
	}
	origin, err := pages.Origin(s.Origins[0])
	if err != nil {
		return job{}, err
	}
	rows, err := k.Store.Notices(ctx, key)
	if err != nil {
		return job{}, err
	}
	var notices []bundle.Notice
	for _, r := range rows {
		notices = append(notices, r.Working(), r.Out())
	}
	look := Sought{
		Marker: delivery.ScriptPath(key), Selectors: bundle.Selectors(notices), Languages: s.AllLanguages(),
	}
	if s.Setup().Guard != "" {
		look.Guard = delivery.GuardMark
	}
	return job{key: key, origin: origin, look: look}, nil
}

// run reads what there is to read, and returns what became of it. An error is one of
// keeping it.
func (k *Keeper) run(
	ctx context.Context,
	j job,
	v store.Survey,
	resume bool,
	tell func(store.Survey),
) (store.Survey, error) {
	keeping := context.WithoutCancel(ctx)
	ended := func(state, why string) (store.Survey, error) {
		v.State, v.Why, v.Ended = state, why, k.Clock.Now().Truncate(time.Second)
		return v, nil
	}
	if !resume {
		listing, err := k.List(ctx, j.origin)
		switch {
		case ctx.Err() != nil:
			return ended(store.SurveyFailed, "it was stopped before its pages were known")
		case err != nil:
			if err := k.Store.EndSurvey(keeping, j.key); err != nil {
				return v, err
			}
			return ended(store.SurveyFailed, err.Error())
		}
		v.Listed, v.LeftOut = len(listing.Pages), listing.LeftOut
		if err := k.Store.BeginSurvey(keeping, j.key, v, listing.Pages); err != nil {
			return v, err
		}
	}
	tell(v)
	unread, err := k.unread(keeping, j.key)
	if err != nil {
		return v, err
	}
	var ready []store.Reading
	var lost error
	flush := func() {
		if len(ready) > 0 && lost == nil {
			lost = k.Store.KeepReadings(keeping, j.key, v, ready)
		}
		ready = nil
	}
	reading, stop := context.WithCancel(ctx)
	defer stop()
	err = k.Read(reading, j.origin, unread, j.look, func(r store.Reading) {
		v.Read++
		if strings.HasPrefix(r.Page.Snippet, "could not") || strings.HasPrefix(r.Page.Snippet, "answered") {
			v.Failing++
		}
		v.Policies = countPolicies(v.Policies, r)
		for _, path := range r.Routes {
			v.Routes = withRoute(v.Routes, path)
		}
		tell(v)
		if ready = append(ready, r); len(ready) >= batch {
			if flush(); lost != nil {
				stop()
			}
		}
	})
	if flush(); lost != nil {
		return v, lost
	}
	if err != nil {
		if err := k.partly(keeping, j.key); err != nil {
			return v, err
		}
		if ctx.Err() != nil {
			return ended(store.SurveyStopped, "")
		}
		return ended(store.SurveyStopped, err.Error())
	}
	return k.finish(keeping, j, v)
}

// unread returns the pages of a survey that were not read yet.
func (k *Keeper) unread(ctx context.Context, key string) ([]store.Listed, error) {
	listed, err := k.Store.Listed(ctx, key)
	if err != nil {
		return nil, err
	}
	read, err := k.Store.Readings(ctx, key)
	is := map[string]bool{}
	for _, r := range read {
		is[r.Page.Path] = true
	}
	return slices.DeleteFunc(listed, func(l store.Listed) bool { return is[l.Path] }), err
}

// partly takes what was read so far into a site of which no reading was ever done:
// so that people can begin with it.
func (k *Keeper) partly(ctx context.Context, key string) error {
	s, err := k.Store.Site(ctx, key)
	if err != nil || !s.SurveyedAt.IsZero() {
		return err
	}
	list, err := k.Store.Readings(ctx, key)
	if err != nil {
		return err
	}
	known, err := k.Store.Pages(ctx, key)
	if err != nil {
		return err
	}
	found := pagesOf(list, known, nil)
	at := map[string]bool{}
	for _, p := range found {
		at[p.Path] = true
	}
	for _, p := range known {
		if !at[p.Path] {
			found = append(found, p)
		}
	}
	if err := k.Store.PutPages(ctx, key, found, time.Time{}); err != nil {
		return err
	}
	k.Hub.Changed(ctx, key)
	return nil
}

// pagesOf returns the pages among readings as they are kept: what people or imports
// have said of one outlives reading it. leave is told of what is no page.
func pagesOf(list []store.Reading, known []store.Page, leave func(store.Reading)) []store.Page {
	found := Pages(list, leave)
	byPath := map[string]store.Page{}
	for _, p := range known {
		byPath[p.Path] = p
	}
	for i, p := range found {
		if was, ok := byPath[p.Path]; ok {
			found[i].Type, found[i].Tags = was.Type, was.Tags
			found[i].Title, found[i].Language = cmp.Or(p.Title, was.Title), cmp.Or(p.Language, was.Language)
		}
	}
	return found
}

// finish takes what a reading has found in place of the pages that were known, and
// notes what differs; or asks first, where that is far less.
func (k *Keeper) finish(ctx context.Context, j job, v store.Survey) (store.Survey, error) {
	v.Ended = k.Clock.Now().Truncate(time.Second)
	list, err := k.Store.Readings(ctx, j.key)
	if err != nil {
		return v, err
	}
	known, err := k.Store.Pages(ctx, j.key)
	if err != nil {
		return v, err
	}
	other, leads, same := store.LeftOut{Code: store.LeftKind}, store.LeftOut{Code: store.LeftLeads},
		store.LeftOut{Code: store.LeftSame}
	found := pagesOf(list, known, func(r store.Reading) {
		switch {
		case r.Moved == "":
			other.Add(r.Page.Path, r.Kind)
		case r.Same:
			same.Add(r.Page.Path, r.Moved)
		default:
			leads.Add(r.Page.Path, r.Moved)
		}
	})
	compare(&v, known, found)
	if !j.fewer && len(found) < len(known)/fewer {
		v.State = store.SurveyFewer
		return v, nil
	}
	for _, left := range []store.LeftOut{other, leads, same} {
		if left.Count > 0 {
			v.LeftOut = append(v.LeftOut, left)
		}
	}
	s, err := k.Store.Site(ctx, j.key)
	if err != nil {
		return v, err
	}
	v.State = store.SurveyDone
	first := s.SurveyedAt.IsZero()
	if first {
		v.New, v.Gone, v.Changed = store.Sample{}, store.Sample{}, store.Sample{}
	}
	err = k.Store.Together(ctx, func(st *store.Store) error {
		if first { // what was taken in part is not known from before
			if err := st.PutPages(ctx, j.key, nil, time.Time{}); err != nil {
				return err
			}
		}
		if err := st.PutPages(ctx, j.key, found, k.Clock.Now()); err != nil {
			return err
		}
		return st.EndSurvey(ctx, j.key)
	})
	if err == nil {
		k.Hub.Changed(ctx, j.key)
	}
	return v, err
}

// maxSeenPolicies is how many of a site's policies are told apart: a page can have any.
const maxSeenPolicies = 10

// countPolicies returns the policies that were seen with those of one page more, those of most pages first. What
// was seen is left as it is: it is told while reading goes on.
func countPolicies(seen []store.SeenPolicy, r store.Reading) []store.SeenPolicy {
	if len(r.Policies) == 0 {
		return seen
	}
	out := slices.Clone(seen)
	for _, p := range r.Policies {
		i := slices.IndexFunc(out, func(s store.SeenPolicy) bool { return s.Policy == p })
		if i < 0 {
			if len(out) >= maxSeenPolicies {
				continue
			}
			i = len(out)
			out = append(out, store.SeenPolicy{Policy: p, Page: r.Page.Path})
		}
		out[i].Pages++
	}
	slices.SortStableFunc(out, func(a, b store.SeenPolicy) int { return b.Pages - a.Pages })
	return out
}

// compare notes which pages are new, gone, or say something else than before.
func compare(v *store.Survey, known, found []store.Page) {
	v.New, v.Gone, v.Changed = store.Sample{}, store.Sample{}, store.Sample{}
	was := map[string]store.Page{}
	for _, p := range known {
		was[p.Path] = p
	}
	for _, p := range found {
		before, ok := was[p.Path]
		delete(was, p.Path)
		if !ok {
			v.New.Add(p.Path, p.Title)
			continue
		}
		var what []string
		if p.Title != before.Title {
			what = append(what, "title")
		}
		if p.Language != before.Language {
			what = append(what, "language")
		}
		if p.Snippet != before.Snippet {
			what = append(what, "snippet")
		}
		if len(what) > 0 {
			v.Changed.Add(p.Path, strings.Join(what, " "))
		}
	}
	for _, p := range known {
		if _, gone := was[p.Path]; gone {
			v.Gone.Add(p.Path, p.Title)
		}
	}
}
