package standin

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"time"

	"mastflag/core/cap"
	"mastflag/internal/clock"
)

// WeatherPath is where the stand-in weather office publishes.
const WeatherPath = "/standin/weather.xml"

// WeatherSends are what the stand-in weather office can be told to publish.
var WeatherSends = []string{"alert", "update", "cancel", "rubbish", "nothing"}

// A WeatherOffice publishes one CAP 1.2 message at a time, as an invented
// authority would: a warning, an update of it, its end; or rubbish, or nothing.
type WeatherOffice struct {
	clock clock.Clock
	mu    sync.Mutex
	body  []byte
	n     int
	last  *cap.Reference // what an update or a cancel refers to
}

// NewWeatherOffice returns an office that has published nothing yet.
func NewWeatherOffice(c clock.Clock) *WeatherOffice { return &WeatherOffice{clock: c} }

const weatherSender = "duty@weather.sundrey.example"

// Send has the office publish; an error names what it can.
func (w *WeatherOffice) Send(what string) error {
	w.mu.Lock()
	defer w.mu.Unlock()
	now := w.clock.Now().Truncate(time.Second)
	a := cap.Alert{Sender: weatherSender, Sent: cap.Format(now), Status: "Actual", Scope: "Public"}
	info := func(language, event, headline, instruction, description string) cap.Info {
		return cap.Info{
			Language:     language,
			Category:     []string{"Met"},
			Event:        event,
			ResponseType: []string{"Avoid"},
			Urgency:      "Immediate",
			Severity:     "Severe",
			Certainty:    "Observed",
			Effective:    cap.Format(now),
			Expires:      cap.Format(now.Add(6 * time.Hour)),
			SenderName:   "Sundrey Weather Office",
			Headline:     headline,
			Description:  description,
			Instruction:  instruction,
			Area:         []cap.Area{{Desc: "Western sound", Geocode: []cap.Value{{Name: "SWO-ZONE", Value: "W2"}}}},
		}
	}
	switch what {
	case "alert":
		a.MsgType = "Alert"
		a.Infos = []cap.Info{
			info(
				"en", "Severe gale", "Severe gale in the western sound until tonight.", "Stay off piers and open decks.",
				"Wind from the west at 45 knots, waves of 5 metres.",
			),
			info(
				"de", "Schwerer Sturm", "Schwerer Sturm im westlichen Sund bis heute Abend.", "Piers und offene Decks meiden.",
				"Wind aus West mit 45 Knoten, Wellen von 5 Metern.",
			)}
	case "update", "cancel":
		if w.last == nil {
			return fmt.Errorf("there is no warning to %s: send one first", what)
		}
		a.References = w.last.String()
		a.MsgType = map[string]string{"update": "Update", "cancel": "Cancel"}[what]
		if what == "update" {
			a.Infos = []cap.Info{
				info(
					"en", "Severe gale", "The gale grows: western sound closed to all boats.", "Do not go near the piers.",
					"Wind from the west at 55 knots, waves of 7 metres.",
				),
				info(
					"de", "Schwerer Sturm", "Der Sturm nimmt zu: westlicher Sund für alle Schiffe gesperrt.",
					"Nicht in die Nähe der Piers gehen.", "Wind aus West mit 55 Knoten, Wellen von 7 Metern.",
				)}
		}
	case "rubbish":
		w.body = []byte("<alert xmlns=\"" + cap.Namespace + "\"><identifier>half a mess")
		return nil
	case "nothing":
		w.body, w.last = nil, nil
		return nil
	default:
		return fmt.Errorf("the weather office cannot send %q: use one of %s", what, strings.Join(WeatherSends, ", "))
	}
	w.n++
	a.Identifier = fmt.Sprintf("SWO-%s-%d", now.Format("20060102T150405"), w.n)
	body, err := a.Write()
	if err != nil {
		return err
	}
	w.body = body
	w.last = &cap.Reference{Sender: a.Sender, Identifier: a.Identifier, Sent: now}
	if what == "cancel" {
		w.last = nil
	}
	return nil
}

func (w *WeatherOffice) ServeHTTP(rw http.ResponseWriter, r *http.Request) {
	w.mu.Lock()
	body := w.body
	w.mu.Unlock()
	if body == nil {
		// A feed without alerts.
		body = []byte(`<?xml version="1.0" encoding="UTF-8"?>
<feed xmlns="http://www.w3.org/2005/Atom"><id>tag:weather.sundrey.example,2026:warnings</id><title>Sundrey Weather ` +
			`Office</title><updated>2026-01-01T00:00:00Z</updated></feed>
`)
	}
	sum := sha256.Sum256(body)
	etag := `"` + hex.EncodeToString(sum[:8]) + `"`
	rw.Header().Set("ETag", etag)
	if r.Header.Get("If-None-Match") == etag {
		rw.WriteHeader(http.StatusNotModified)
		return
	}
	rw.Header().Set("Content-Type", "application/cap+xml")
	rw.Write(body)
}
