// Package alerts is what comes by feeds and goes out as alerts.
package alerts

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"mastflag/core/alert"
	"mastflag/core/bundle"
	"mastflag/core/rights"
	"mastflag/internal/admin/base"
	"mastflag/internal/feeds"
	"mastflag/internal/problem"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// Area is that part of the API.
type Area struct {
	*base.Base
	Feeds   *feeds.Keeper
	Weather *standin.WeatherOffice // nil in production
}

// Routes are its calls.
func (a *Area) Routes() []base.Route {
	return []base.Route{
		base.Get("/api/sites/:site/alerts", "What comes by feeds, and where the site's own alerts go out.", a.alerts),
		base.Post("/api/sites/:site/alerts/give", "Take in a CAP message or an Atom feed by hand.", a.giveAlert),
		base.Post("/api/sites/:site/alerts/approve", "Let a message through.", a.approveAlert),
		base.Post("/api/sites/:site/alerts/refuse", "Keep a message from the site.", a.refuseAlert),
		base.Post("/api/sites/:site/alerts/ask", "Ask a feed now.", a.askFeed),
		base.Post("/api/sites/:site/alerts/calendar", "Give the calendar a new address.", a.newCalendar).
			For(rights.Administrator),
		base.Post("/api/standin/weather", "Have the stand-in weather office publish something.", a.sendWeather),
	}
}

// CalendarPath is where a site's schedule is read as iCalendar by those who
// know the token.
func CalendarPath(site, token string) string { return "/c/" + site + "/" + token }

// CalendarToken returns the part of a calendar's address that keeps it private.
func CalendarToken(ctx context.Context, st *store.Store, site string) (string, error) {
	secret, err := st.Secret(ctx, "calendar "+site)
	if err != nil {
		return "", err
	}
	sum := sha256.Sum256(append([]byte("calendar"), secret...))
	return hex.EncodeToString(sum[:16]), nil
}

func (a *Area) alerts(c *base.Call, _ base.Nothing) (Alerts, error) {
	ctx := c.Request.Context()
	site, err := a.Store.Site(ctx, c.Site)
	if err != nil {
		return Alerts{}, err
	}
	token, err := CalendarToken(ctx, a.Store, c.Site)
	if err != nil {
		return Alerts{}, err
	}
	out := Alerts{
		Feeds:         []FeedDetail{},
		Received:      []ReceivedCard{},
		DefaultLevels: bundle.DefaultLevels,
		Atom:          a.Address + alert.FeedPath(c.Site),
		Calendar:      a.Address + CalendarPath(c.Site, token+".ics"),
	}
	if a.Weather != nil {
		out.Weather, out.WeatherAddress = standin.WeatherSends, a.Address+standin.WeatherPath
	}
	for _, f := range site.Feeds {
		st, err := a.Store.FeedState(ctx, c.Site, f.Name)
		if err != nil {
			return out, err
		}
		out.Feeds = append(out.Feeds, FeedDetail{
			Feed:     f,
			Asked:    base.TimeIfAny(st.Asked),
			Answered: base.TimeIfAny(st.Answered),
			Why:      st.Why,
		})
	}
	all, err := a.Store.Received(ctx, c.Site)
	for _, r := range all {
		if r.Message.Sender != "entry" {
			out.Received = append(out.Received, received(r, site.Site, a.Clock.Now()))
		}
	}
	return out, err
}

// Needing returns what of a site's feeds needs someone: messages that wait, and
// feeds that fail.
func Needing(ctx context.Context, a *base.Base, site bundle.Site) ([]ReceivedCard, []FeedDetail, error) {
	waiting, ailing := []ReceivedCard{}, []FeedDetail{}
	if len(site.Feeds) == 0 {
		return waiting, ailing, nil
	}
	all, err := a.Store.ReceivedWaiting(ctx, site.Key)
	if err != nil {
		return nil, nil, err
	}
	for _, r := range all {
		if card := received(r, site, a.Clock.Now()); card.Status == alert.Waiting {
			waiting = append(waiting, card)
		}
	}
	for _, f := range site.Feeds {
		st, err := a.Store.FeedState(ctx, site.Key, f.Name)
		if err != nil {
			return nil, nil, err
		}
		if st.Why != "" && !f.Off {
			ailing = append(ailing, FeedDetail{f, base.TimeIfAny(st.Asked), base.TimeIfAny(st.Answered), st.Why})
		}
	}
	return waiting, ailing, nil
}

// received is a message as it is shown; one that waited too long no longer waits.
func received(r store.Received, site bundle.Site, now time.Time) ReceivedCard {
	m := r.Message
	out := ReceivedCard{
		ID:        r.ID,
		Feed:      r.Feed,
		FeedTitle: r.Feed,
		At:        r.At,
		Kind:      r.Kind,
		Status:    r.Status,
		Headline:  r.Headline,
		Notice:    r.Notice,
		Why:       r.Why,
		Sender:    m.Sender,
		Areas:     append([]string{}, m.Areas...),
		Raw:       strings.ToValidUTF8(string(r.Raw), "�"),
	}
	for _, f := range site.Feeds {
		if f.Name != r.Feed {
			continue
		}
		out.FeedTitle = f.GetTitle()
		if r.Kind != string(alert.Broken) && m.Kind != alert.Cancel {
			out.Level, out.Until = f.Level(m.Severity, m.Urgency, m.Certainty), base.TimeIfAny(alert.Until(m, f))
			if r.Status == alert.Waiting && alert.Over(m, f, now) {
				out.Status, out.Why = alert.Expired, "Its time went by while it waited."
			}
		}
	}
	if m.Severity != "" {
		out.Judged = strings.Join([]string{m.Severity, m.Urgency, m.Certainty}, ", ")
	}
	text := alert.TextIn(m, site)
	out.Text = strings.TrimSpace(text.Description + " " + text.Instruction)
	return out
}

func (a *Area) giveAlert(c *base.Call, in GivenAlert) (Alerts, error) {
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	if err != nil {
		return Alerts{}, err
	}
	i := slices.IndexFunc(site.Feeds, func(f bundle.Feed) bool { return f.Name == in.Feed })
	if i < 0 {
		return Alerts{}, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such feed",
			Detail: fmt.Sprintf("There is no feed %q. Add it first; it needs no address.", in.Feed),
		}
	}
	if _, err := a.Feeds.Give(c.Request.Context(), site.Site, site.Feeds[i], []byte(in.Text), c.By()); err != nil {
		return Alerts{}, err
	}
	return a.alerts(c, base.Nothing{})
}

func (a *Area) approveAlert(c *base.Call, in WhichAlert) (Alerts, error) {
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	if err == nil {
		_, err = a.Feeds.Approve(c.Request.Context(), site.Site, in.ID, c.By())
	}
	return a.finish(c, err)
}

func (a *Area) refuseAlert(c *base.Call, in WhichAlert) (Alerts, error) {
	_, err := a.Feeds.Refuse(c.Request.Context(), c.Site, in.ID, c.By())
	return a.finish(c, err)
}

// finish answers how things stand, or why something was not done.
func (a *Area) finish(c *base.Call, err error) (Alerts, error) {
	if errors.Is(err, feeds.ErrDone) {
		return Alerts{}, base.Refuse("This message no longer waits: someone else, or a message after it, has settled it.")
	}
	if err != nil {
		return Alerts{}, err
	}
	return a.alerts(c, base.Nothing{})
}

func (a *Area) askFeed(c *base.Call, in WhichFeed) (Alerts, error) {
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	if err != nil {
		return Alerts{}, err
	}
	for _, f := range site.Feeds {
		if f.Name == in.Feed && f.Address != "" {
			return a.finish(c, a.Feeds.Ask(c.Request.Context(), site.Site, f))
		}
	}
	return Alerts{}, problem.Problem{
		Status: http.StatusNotFound,
		Title:  "No such feed",
		Detail: fmt.Sprintf("There is no feed %q with an address.", in.Feed),
	}
}

// newCalendar gives the calendar a new address; the old one no longer works.
func (a *Area) newCalendar(c *base.Call, _ base.Nothing) (Alerts, error) {
	return a.finish(c, a.Store.DropSecret(c.Request.Context(), "calendar "+c.Site))
}

func (a *Area) sendWeather(c *base.Call, in WeatherSend) (base.Nothing, error) {
	if a.Weather == nil {
		return base.Nothing{}, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No stand-in",
			Detail: "The stand-in weather office is there in the demo alone.",
		}
	}
	if err := a.Weather.Send(in.What); err != nil {
		return base.Nothing{}, base.Refuse(err.Error())
	}
	return base.Nothing{}, nil
}
