package demo

import (
	"time"

	"mastflag/core/bundle"
	"mastflag/core/pages"
)

// statusBlock is the demo's block on every port’s page but one, those of ports still
// to come among them: Little Skarn is served on request alone.
func statusBlock(since *time.Time) bundle.Notice {
	var where pages.Conditions
	for _, under := range []string{"", "/de", "/pl"} {
		ports := under + "/ports"
		where.Include = append(where.Include, pages.Entry{Match: pages.Section, Path: ports})
		where.Exclude = append(where.Exclude,
			pages.Entry{Match: pages.Page, Path: ports}, pages.Entry{Match: pages.Page, Path: ports + "/little-skarn"})
	}
	return bundle.Notice{
		ID:          "port-status",
		Kind:        bundle.KindBlock,
		Title:       "Status line of the ports",
		State:       bundle.Published,
		PublishedAt: since,
		Slot:        bundle.Inline,
		Spot:        &bundle.Spot{Selector: "main h1", Where: bundle.After},
		Pages:       &where,
		Memory:      &bundle.Memory{Closable: new(bool)},
		Look:        &bundle.Look{Background: "#eef4f6", Icon: "anchor"},
		Content: &bundle.Content{Wordings: map[string]bundle.Wording{
			"en": {Message: `<p>Ferries call here as in the timetable. <a href="/status">Service status</a></p>`},
			"de": {Message: `<p>Die Fähren legen hier nach Fahrplan an. <a href="/de/status">Betriebslage</a></p>`},
			"pl": {Message: `<p>Promy zawijają tu zgodnie z rozkładem. <a href="/pl/status">Stan połączeń</a></p>`},
		}},
	}
}
