package admin

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"mastflag/core/alert"
	"mastflag/core/bundle"
	"mastflag/internal/feeds"
	"mastflag/internal/problem"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

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

func (a *Admin) alerts(c *call, _ Nothing) (Alerts, error) {
	ctx := c.Request.Context()
	site, err := a.Store.Site(ctx, c.site)
	if err != nil {
		return Alerts{}, err
	}
	token, err := CalendarToken(ctx, a.Store, c.site)
	if err != nil {
		return Alerts{}, err
	}
	out := Alerts{
		Feeds:         []FeedDetail{},
		Received:      []ReceivedCard{},
		DefaultLevels: bundle.DefaultLevels,
		Atom:          a.Base + alert.FeedPath(c.site),
		Calendar:      a.Base + CalendarPath(c.site, token+".ics"),
	}
	if a.Weather != nil {
		out.Weather, out.WeatherAddress = standin.WeatherSends, a.Base+standin.WeatherPath
	}
	for _, f := range site.Feeds {
		st, err := a.Store.FeedState(ctx, c.site, f.Name)
		if err != nil {
			return out, err
		}
		out.Feeds = append(out.Feeds, FeedDetail{
			Feed:     f,
			Asked:    moment(st.Asked),
			Answered: moment(st.Answered),
			Why:      st.Why,
		})
	}
	all, err := a.Store.Received(ctx, c.site)
	for _, r := range all {
		if r.Message.Sender != "entry" {
			out.Received = append(out.Received, received(r, site.Site, a.Clock.Now()))
		}
	}
	return out, err
}

// needing returns what of a site's feeds needs someone: messages that wait, and
// feeds that fail.
func (a *Admin) needing(ctx context.Context, site bundle.Site) ([]ReceivedCard, []FeedDetail, error) {
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
			ailing = append(ailing, FeedDetail{f, moment(st.Asked), moment(st.Answered), st.Why})
		}
	}
	return waiting, ailing, nil
}

// moment is an instant, nil if it never was.
func moment(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
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
			out.Level, out.Until = f.Level(m.Severity, m.Urgency, m.Certainty), moment(alert.Until(m, f))
			if r.Status == alert.Waiting && alert.Over(m, f, now) {
				out.Status, out.Why = alert.Expired, "Its time went by while it waited."
			}
		}
	}
	if m.Severity != "" {
		out.Judged = strings.Join([]string{m.Severity, m.Urgency, m.Certainty}, ", ")
	}
	for _, tag := range slices.Sorted(maps.Keys(m.Texts)) {
		if t := m.Texts[tag]; out.Text == "" || tag == site.Language {
			out.Text = strings.TrimSpace(t.Description + " " + t.Instruction)
		}
	}
	return out
}

func (a *Admin) giveAlert(c *call, in GivenAlert) (Alerts, error) {
	site, err := a.Store.Site(c.Request.Context(), c.site)
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
	if _, err := a.Feeds.Give(c.Request.Context(), site.Site, site.Feeds[i], []byte(in.Text), c.by()); err != nil {
		return Alerts{}, err
	}
	return a.alerts(c, Nothing{})
}

func (a *Admin) approveAlert(c *call, in WhichAlert) (Alerts, error) {
	site, err := a.Store.Site(c.Request.Context(), c.site)
	if err == nil {
		_, err = a.Feeds.Approve(c.Request.Context(), site.Site, in.ID, c.by())
	}
	return a.finish(c, err)
}

func (a *Admin) refuseAlert(c *call, in WhichAlert) (Alerts, error) {
	_, err := a.Feeds.Refuse(c.Request.Context(), c.site, in.ID, c.by())
	return a.finish(c, err)
}

// finish answers how things stand, or why something was not done.
func (a *Admin) finish(c *call, err error) (Alerts, error) {
	if errors.Is(err, feeds.ErrDone) {
		return Alerts{}, refuse("This message no longer waits: someone else, or a message after it, has settled it.")
	}
	if err != nil {
		return Alerts{}, err
	}
	return a.alerts(c, Nothing{})
}

func (a *Admin) askFeed(c *call, in WhichFeed) (Alerts, error) {
	site, err := a.Store.Site(c.Request.Context(), c.site)
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
func (a *Admin) newCalendar(c *call, _ Nothing) (Alerts, error) {
	return a.finish(c, a.Store.DropSecret(c.Request.Context(), "calendar "+c.site))
}

func (a *Admin) sendWeather(c *call, in WeatherSend) (Nothing, error) {
	if a.Weather == nil {
		return Nothing{}, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No stand-in",
			Detail: "The stand-in weather office is there in the demo alone.",
		}
	}
	if err := a.Weather.Send(in.What); err != nil {
		return Nothing{}, refuse(err.Error())
	}
	return Nothing{}, nil
}
