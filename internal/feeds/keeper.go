package feeds

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net/url"
	"sync"
	"time"

	"mastflag/core/alert"
	"mastflag/core/bundle"
	"mastflag/core/cap"
	"mastflag/core/orderline"
	"mastflag/core/schedule"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/history"
	"mastflag/internal/store"
)

// A Keeper takes in what comes by the feeds of all sites.
type Keeper struct {
	Store *store.Store
	Hub   *compiled.Hub
	Clock clock.Clock
	Fetch *Fetcher

	forgot time.Time // when what is old was last removed
}

// retention is how long messages that are settled are kept, in days.
const retention = 400

// maxFollowed is how many messages an Atom feed's entries may lead to at once.
const maxFollowed = 50

// byFeed is who did what no person did.
var byFeed = store.By{Name: "a feed"}

// concurrency is how many feeds are asked at the same time, and inAll how long one may
// take with all that it leads to.
const (
	concurrency = 4
	feedTimeout = time.Minute
)

// Run asks each feed when it is due, until ctx ends.
func (k *Keeper) Run(ctx context.Context) {
	clock.Every(ctx, 2*time.Second, func() {
		if err := k.Poll(ctx); err != nil && ctx.Err() == nil {
			slog.Error("asking feeds", "error", err)
		}
	})
}

// Poll asks the feeds that are due. One that fails is asked again later and
// later, an hour apart at most; the others are asked all the same.
func (k *Keeper) Poll(ctx context.Context) error {
	sites, err := k.Store.Sites(ctx)
	if err != nil {
		return err
	}
	if now := k.Clock.Now(); now.Sub(k.forgot).Abs() > 24*time.Hour {
		k.forgot = now
		if err := k.Store.ForgetReceived(ctx, now.AddDate(0, 0, -retention)); err != nil {
			return err
		}
	}
	var wg sync.WaitGroup
	var failed sync.Map
	places := make(chan struct{}, concurrency) // so that one that does not answer holds up few
	defer wg.Wait()
	for _, s := range sites {
		for _, f := range s.Feeds {
			if f.Address == "" || f.Off {
				continue
			}
			st, err := k.Store.FeedState(ctx, s.Key, f.Name)
			if err != nil {
				return err
			}
			wait := f.GetEvery() << min(st.Failures, 6)
			if now := k.Clock.Now(); now.Before(st.Asked.Add(min(wait, max(time.Hour, f.GetEvery())))) && !now.Before(st.Asked) {
				continue
			}
			places <- struct{}{}
			wg.Go(func() {
				defer func() { <-places }()
				if err := k.Ask(ctx, s.Site, f); err != nil {
					failed.Store(s.Key+" "+f.Name, err)
				}
			})
		}
	}
	wg.Wait()
	failed.Range(func(_, wrong any) bool {
		err = errors.Join(err, wrong.(error))
		return true
	})
	return err
}

// Ask asks a feed now. What is wrong with the feed is kept, not returned.
func (k *Keeper) Ask(ctx context.Context, site bundle.Site, f bundle.Feed) error {
	st, err := k.Store.FeedState(ctx, site.Key, f.Name)
	if err != nil {
		return err
	}
	st.Asked = k.Clock.Now()
	asking, cancel := context.WithTimeout(ctx, feedTimeout)
	defer cancel()
	got, wrong := k.Fetch.get(asking, f.Address, st.ETag, st.Modified)
	if wrong == nil && !got.same {
		wrong, err = k.read(asking, site, f, got.body)
		if err != nil && asking.Err() == nil {
			return err
		}
		if err != nil {
			wrong = fmt.Errorf("it took longer than %s with all that it leads to", feedTimeout)
		}
	}
	if wrong != nil {
		st.Failures, st.Why = st.Failures+1, wrong.Error()
	} else {
		st.ETag, st.Modified, st.Answered, st.Failures, st.Why = got.etag, got.modified, st.Asked, 0, ""
	}
	return k.Store.PutFeedState(ctx, site.Key, f.Name, st)
}

// read takes in what a feed answered, and the messages that it leads to.
// wrong is what is wrong with the feed, err what failed here.
func (k *Keeper) read(ctx context.Context, site bundle.Site, f bundle.Feed, body []byte) (wrong, err error) {
	all, wrong := read(body)
	if wrong != nil {
		// Of a feed with a wrong entry the others are taken all the same.
		if err := k.broken(ctx, site.Key, f.Name, body, wrong); err != nil {
			return wrong, err
		}
	}
	for i, m := range all {
		if m.Whole == "" {
			if _, err := k.take(ctx, site, f, m, part(all, body), byFeed); err != nil {
				return nil, err
			}
			continue
		}
		if i >= maxFollowed {
			return fmt.Errorf("it leads to more than %d messages; the others are not read", maxFollowed), nil
		}
		if have, err := k.Store.ReceivedAs(
			ctx, site.Key, f.Name, "entry", m.ID+" "+m.Sent.Format(time.RFC3339),
		); err != nil || len(have) > 0 {
			if err != nil {
				return nil, err
			}
			continue
		}
		whole, at, problem := k.follow(ctx, f.Address, m.Whole)
		if problem != nil {
			wrong = problem
			continue
		}
		for _, n := range whole {
			if _, err := k.take(ctx, site, f, n, at, byFeed); err != nil {
				return nil, err
			}
		}
		// The entry itself is remembered, so that it is read once.
		entry := store.Received{
			Feed:     f.Name,
			At:       k.Clock.Now(),
			Kind:     string(alert.Other),
			Status:   alert.Ignored,
			Headline: alert.Headline(m, site),
			Why:      "It leads to a message of its own.",
			Raw:      []byte{},
			Message:  alert.Message{Kind: alert.Other, Sender: "entry", ID: m.ID + " " + m.Sent.Format(time.RFC3339)},
		}
		if _, _, err := k.Store.AddReceived(ctx, site.Key, entry); err != nil {
			return nil, err
		}
	}
	return wrong, nil
}

// read is alert.Read, that what strangers send cannot stop the program.
func read(raw []byte) (all []alert.Message, err error) {
	defer func() {
		if what := recover(); what != nil {
			slog.Error("reading a feed", "what", what)
			all, err = nil, errors.New("it could not be read")
		}
	}()
	return alert.Read(raw)
}

// part is what is kept of what came: the whole of a message that came alone.
func part(all []alert.Message, raw []byte) []byte {
	if len(all) > 1 {
		return []byte{}
	}
	return raw[:min(len(raw), 256<<10)]
}

// follow reads the message that an entry leads to, on the feed's own host.
func (k *Keeper) follow(ctx context.Context, feed, href string) (whole []alert.Message, raw []byte, err error) {
	base, err := url.Parse(feed)
	if err != nil {
		return nil, nil, err
	}
	to, err := base.Parse(href)
	if err != nil || to.Host != base.Host {
		return nil, nil, fmt.Errorf("an entry leads elsewhere, to %s", href)
	}
	got, err := k.Fetch.get(ctx, to.String(), "", "")
	if err != nil {
		return nil, nil, fmt.Errorf("the message at %s: %w", to, err)
	}
	whole, err = read(got.body)
	return whole, got.body, err
}

// Give takes in what a person has given, all of it or nothing, as if it came by
// the feed.
func (k *Keeper) Give(
	ctx context.Context,
	site bundle.Site,
	f bundle.Feed,
	raw []byte,
	who store.By,
) ([]store.Received, error) {
	all, err := alert.Read(raw)
	if err != nil {
		return nil, err
	}
	var out []store.Received
	_, err = k.together(ctx, func(k *Keeper) (none store.Received, err error) {
		for _, m := range all {
			r, err := k.takeIn(ctx, site, f, m, part(all, raw), who)
			if err != nil {
				return none, err
			}
			out = append(out, r)
		}
		return none, nil
	})
	if err != nil {
		return nil, err
	}
	k.Hub.Changed(ctx, site.Key)
	return out, nil
}

// broken keeps what cannot be read, once.
func (k *Keeper) broken(ctx context.Context, site, feed string, raw []byte, wrong error) error {
	sum := sha256.Sum256(raw)
	_, _, err := k.Store.AddReceived(ctx, site, store.Received{
		Feed:     feed,
		At:       k.Clock.Now(),
		Kind:     string(alert.Broken),
		Status:   alert.Broken,
		Headline: "What came cannot be read",
		Why:      wrong.Error(),
		Raw:      raw[:min(len(raw), 64<<10)],
		Message:  alert.Message{ID: hex.EncodeToString(sum[:])},
	})
	return err
}

// take takes in a message: makes, changes or ends a notice, or has it wait for
// a person. One that came before changes nothing.
func (k *Keeper) take(
	ctx context.Context,
	site bundle.Site,
	f bundle.Feed,
	m alert.Message,
	raw []byte,
	who store.By,
) (store.Received, error) {
	r, err := k.together(ctx, func(k *Keeper) (store.Received, error) { return k.takeIn(ctx, site, f, m, raw, who) })
	if err == nil && r.ID != 0 {
		k.Hub.Changed(ctx, site.Key)
	}
	return r, err
}

func (k *Keeper) takeIn(
	ctx context.Context,
	site bundle.Site,
	f bundle.Feed,
	m alert.Message,
	raw []byte,
	who store.By,
) (store.Received, error) {
	r := store.Received{
		Feed:     f.Name,
		At:       k.Clock.Now(),
		Message:  m,
		Kind:     string(m.Kind),
		Headline: alert.Headline(m, site),
		Raw:      raw,
	}
	before, err := k.before(ctx, site.Key, f.Name, m)
	if err != nil {
		return r, err
	}
	if before != nil && m.Kind == alert.New {
		m.Kind = alert.Update // an entry of an Atom feed that was updated
		r.Message.Kind, r.Kind = m.Kind, string(m.Kind)
	}
	r.Status, r.Why = alert.Assess(m, f, before != nil, r.At)
	var standing alert.Status
	if before != nil {
		r.Notice, standing = before.Notice, before.Status
	} else if m.Kind != alert.Other {
		r.Notice = alert.NoticeID(f.Name, m.Sender, m.ID)
	}
	id, fresh, err := k.Store.AddReceived(ctx, site.Key, r)
	if err != nil || !fresh {
		return r, err
	}
	r.ID = id
	if r.Status != alert.Waiting {
		return r, nil
	}
	if alert.NeedsNoApproval(m, f, standing) {
		return k.approve(ctx, site, r.ID, who)
	}
	return r, nil
}

// before returns the newest message before m that is out or waits, of those that
// it updates, cancels or, in Atom, replaces; nil if there is none. What refers to
// a message refers to all that belong to it: those it was an update of, though
// it was refused itself, and its own updates.
func (k *Keeper) before(ctx context.Context, site, feed string, m alert.Message) (*store.Received, error) {
	names := []cap.Reference{{Sender: m.Sender, Identifier: m.ID}}
	names = append(names, m.Refers...)
	var best *store.Received
	for _, n := range names {
		all, err := k.Store.ReceivedAs(ctx, site, feed, n.Sender, n.Identifier)
		if err != nil {
			return nil, err
		}
		for _, known := range all {
			family, err := k.Store.ReceivedFor(ctx, site, known.Notice)
			if err != nil {
				return nil, err
			}
			for _, r := range family {
				if r.Message.Sent.Before(m.Sent) && (r.Status == alert.Out || r.Status == alert.Waiting) &&
					(best == nil || r.Message.Sent.After(best.Message.Sent)) {
					best = &r
				}
			}
		}
	}
	return best, nil
}

// feedOf returns the feed of a site by its name; one that is gone is as if it
// were new.
func feedOf(site bundle.Site, name string) bundle.Feed {
	for _, f := range site.Feeds {
		if f.Name == name {
			return f
		}
	}
	return bundle.Feed{Name: name}
}

// Approve lets a message through: its notice is published, changed or ended.
// All of it is kept together, then visitors get it.
func (k *Keeper) Approve(ctx context.Context, site bundle.Site, id int64, who store.By) (store.Received, error) {
	r, err := k.together(ctx, func(k *Keeper) (store.Received, error) { return k.approve(ctx, site, id, who) })
	if err == nil {
		k.Hub.Changed(ctx, site.Key)
	}
	return r, err
}

// together carries out f with a keeper whose writes are kept all together, or
// not at all where f fails.
func (k *Keeper) together(ctx context.Context, f func(*Keeper) (store.Received, error)) (r store.Received, err error) {
	err = k.Store.Together(ctx, func(st *store.Store) error {
		r, err = f(&Keeper{Store: st, Hub: k.Hub, Clock: k.Clock, Fetch: k.Fetch})
		return err
	})
	return r, err
}

func (k *Keeper) approve(ctx context.Context, site bundle.Site, id int64, who store.By) (store.Received, error) {
	r, err := k.Store.ReceivedMessage(ctx, site.Key, id)
	if err != nil {
		return r, err
	}
	if r.Status != alert.Waiting {
		return r, ErrDone
	}
	m, f := r.Message, feedOf(site, r.Feed)
	before, err := k.before(ctx, site.Key, r.Feed, m)
	if err != nil {
		return r, err
	}
	if m.Kind == alert.Cancel {
		return k.cancel(ctx, site, r, before, who)
	}
	if alert.Over(m, f, k.Clock.Now()) {
		r.Status, r.Why = alert.Expired, "Its time was over when it was approved."
		return r, k.settle(ctx, site.Key, r)
	}
	n, err := alert.Notice(m, f, site, r.Notice)
	if err == nil {
		err = n.Check(site).Err()
	}
	if err != nil {
		r.Status, r.Why = alert.Broken, "No notice can be made of it: "+err.Error()
		return r, k.settle(ctx, site.Key, r)
	}
	now := k.Clock.Now()
	deed := history.FromMessage.With(m.Sender)
	if before != nil && before.Status == alert.Out {
		deed = history.ByMessage.With(m.Sender)
	}
	entry := store.Entry{At: now, By: who, Deed: deed, Line: orderline.Of(n, site, now).String()}
	if err := k.publish(ctx, site.Key, n, entry); err != nil {
		return r, err
	}
	if before != nil {
		if err := k.Store.SetReceived(
			ctx, site.Key, before.ID, alert.Replaced, before.Notice, "An update of it came.",
		); err != nil {
			return r, err
		}
	}
	r.Status, r.Why = alert.Out, ""
	return r, k.settle(ctx, site.Key, r)
}

// ErrDone says that a message no longer waits.
var ErrDone = errors.New("it no longer waits")

// publish makes the notice what is out, as its next version.
func (k *Keeper) publish(ctx context.Context, site string, n bundle.Notice, e store.Entry) error {
	err := k.Store.AddNotice(ctx, site, n, store.Entry{At: e.At, By: e.By, Deed: history.TakenIn.With(), Line: e.Line})
	if err != nil && !errors.Is(err, store.ErrExists) {
		return err
	}
	return k.change(ctx, site, n.ID, e, func(row *store.Notice, next int) {
		row.Published, row.Number, row.Draft, row.Deleted = &n, next, nil, false
		row.State, row.PublishedAt = bundle.Published, e.At.Truncate(time.Second)
	})
}

// change alters a notice whatever revision it is at.
func (k *Keeper) change(
	ctx context.Context,
	site, id string,
	e store.Entry,
	alter func(row *store.Notice, next int),
) error {
	for range 5 {
		row, err := k.Store.Notice(ctx, site, id)
		if err != nil {
			return err
		}
		_, err = k.Store.Change(ctx, site, id, row.Revision, func(row *store.Notice, next int) (store.Entry, error) {
			if row.Published != nil {
				e.Doc = row.Draft // what someone was writing is in the history
			}
			alter(row, next)
			if row.Number == next {
				e.Number = next
			}
			return e, nil
		})
		var stale store.Stale
		if !errors.As(err, &stale) {
			return err
		}
	}
	return fmt.Errorf("notice %s changes too often", id)
}

// cancel ends what a message cancels: what is out ends now, what waits waits
// no longer.
func (k *Keeper) cancel(
	ctx context.Context,
	site bundle.Site,
	r store.Received,
	before *store.Received,
	who store.By,
) (store.Received, error) {
	r.Status = alert.Ended
	if before == nil {
		r.Why = "What it cancels is no longer here."
		return r, k.settle(ctx, site.Key, r)
	}
	if before.Status == alert.Out {
		zone, err := schedule.Zone(site.TimeZone)
		if err != nil {
			return r, err
		}
		now := k.Clock.Now().Truncate(time.Second)
		entry := store.Entry{At: now, By: who, Deed: history.EndedMessage.With(r.Message.Sender)}
		err = k.change(ctx, site.Key, before.Notice, entry, func(row *store.Notice, next int) {
			if row.Published == nil {
				return
			}
			n := *row.Published
			plan := schedule.Plan{Windows: []schedule.Window{{Until: schedule.LocalAt(now, zone).String()}}}
			if !schedule.LocalAt(now, zone).In(zone).Equal(now) {
				plan = schedule.Plan{Clock: "UTC", Windows: []schedule.Window{{Until: schedule.LocalAt(now, time.UTC).String()}}}
			}
			n.Schedule = &plan
			row.Published, row.Number, row.Draft = &n, next, nil
		})
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return r, err
		}
	}
	if err := k.Store.SetReceived(
		ctx, site.Key, before.ID, alert.Ended, before.Notice, "Its sender cancelled it.",
	); err != nil {
		return r, err
	}
	return r, k.settle(ctx, site.Key, r)
}

// Refuse keeps a message from the site for good.
func (k *Keeper) Refuse(ctx context.Context, site string, id int64, who store.By) (store.Received, error) {
	return k.together(ctx, func(k *Keeper) (store.Received, error) {
		r, err := k.Store.ReceivedMessage(ctx, site, id)
		if err != nil {
			return r, err
		}
		if r.Status != alert.Waiting {
			return r, ErrDone
		}
		r.Status, r.Why = alert.Refused, who.Name+" refused it."
		return r, k.settle(ctx, site, r)
	})
}

// settle keeps what became of a message.
func (k *Keeper) settle(ctx context.Context, site string, r store.Received) error {
	return k.Store.SetReceived(ctx, site, r.ID, r.Status, r.Notice, r.Why)
}
