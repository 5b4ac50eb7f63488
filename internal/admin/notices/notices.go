// Package notices is notices, from the first draft to the last undo, with the blocks and the code that pages carry.
package notices

import (
	"cmp"
	"errors"
	"fmt"
	"html"
	"net/http"
	"slices"
	"strings"
	"time"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/countdown"
	"mastflag/core/document"
	"mastflag/core/fault"
	"mastflag/core/pages"
	"mastflag/core/phrase"
	"mastflag/core/rights"
	"mastflag/core/schedule"
	"mastflag/core/starting"
	"mastflag/internal/admin/base"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// Area is that part of the API.
type Area struct {
	*base.Base
	Secret []byte // signs preview links
}

// Routes are its calls.
func (a *Area) Routes() []base.Route {
	return []base.Route{
		base.Get("/api/facts", "What audiences can ask about, and visitors to try them on.", a.facts),
		base.Post("/api/sites/:site/pause", "Pause everything that is out, or resume what that paused.", a.pauseAll),
		base.Post("/api/code", "Read code for pages as it is written.", a.checkCode).For(rights.Administrator),
		base.Get("/api/sites/:site/blocks", "The site's blocks and code, with where they are.", a.blocks),
		base.Post("/api/sites/:site/notices", "Begin a notice.", a.newNotice),
		base.Get("/api/sites/:site/notices/:notice", "A notice.", a.noticeDetail),
		base.Put("/api/sites/:site/notices/:notice", "Change a notice's draft.", a.changeNotice),
		base.Get("/api/sites/:site/notices/:notice/history", "A notice's life.", a.history),
		base.Get("/api/sites/:site/notices/:notice/html", "A notice as HTML and CSS to paste, without script.", a.plain),
		base.Post("/api/sites/:site/notices/:notice/end", "Give what is out an end.", a.endAt),
		base.Post("/api/sites/:site/notices/:notice/publish", "Publish the draft.", a.publish),
		base.Post("/api/sites/:site/notices/:notice/pause", "Take it off for a while.", a.pause),
		base.Post("/api/sites/:site/notices/:notice/resume", "Show it again.", a.resume),
		base.Post("/api/sites/:site/notices/:notice/unpublish", "Take it off and make it a draft.", a.unpublish),
		base.Post("/api/sites/:site/notices/:notice/republish", "Undo unpublishing.", a.republish),
		base.Post("/api/sites/:site/notices/:notice/place", "Take it off a page, or put it on one.", a.place),
		base.Post("/api/sites/:site/notices/:notice/discard", "Drop the draft; what is out stays.", a.discard),
		base.Post("/api/sites/:site/notices/:notice/settle", "Make a draft in which all get one variant.", a.settle),
		base.Post("/api/sites/:site/notices/:notice/restore", "Make a draft of an earlier text.", a.restore),
		base.Post("/api/sites/:site/notices/:notice/delete", "Delete it.", a.delete),
		base.Post("/api/sites/:site/notices/:notice/undelete", "Bring it back.", a.undelete),
		base.Post(
			"/api/sites/:site/notices/:notice/preview",
			"A link that shows the draft on the real site for a while.",
			a.previewLink,
		),
	}
}

// What a preview address lasts: on the stage, and sent to a colleague.
const (
	stageLasts   = 8 * time.Hour
	previewLasts = 24 * time.Hour
)

func (a *Area) newNotice(c *base.Call, in NewNotice) (NoticeDetail, error) {
	ctx := c.Request.Context()
	site, err := a.Store.Site(ctx, c.Site)
	if err != nil {
		return NoticeDetail{}, err
	}
	// The first version looks right already: on every page, closable, in the
	// site's first colour.
	doc := bundle.Notice{Kind: bundle.KindBar, Title: "New bar",
		Pages:  &pages.Conditions{Include: []pages.Entry{{Match: pages.All}}},
		Memory: &bundle.Memory{HideAfterClose: "P1D"}}
	if len(site.Palette) > 0 {
		doc.Look = &bundle.Look{Background: site.Palette[0].Value}
	}
	switch in.Kind {
	case bundle.KindAlert:
		doc.Kind, doc.Title, doc.Level, doc.Look = bundle.KindAlert, "New alert", bundle.Warning, nil
	case bundle.KindCountdown:
		zone, err := schedule.Zone(site.TimeZone)
		if err != nil {
			return NoticeDetail{}, err
		}
		const day, noonOf = 86_400, 43_200
		noon := schedule.LocalAt(a.Clock.Now(), zone)/day*day + day + noonOf
		doc.Kind, doc.Title = bundle.KindCountdown, "New countdown"
		doc.Content = &bundle.Content{Countdown: &countdown.Countdown{Kind: countdown.To, At: noon.String()}}
	case bundle.KindConsent:
		// Words in the site's languages that stand as they are. They lead to the
		// privacy notice where one is out; elsewhere it is for people to say.
		i := slices.IndexFunc(
			site.Documents, func(d document.Document) bool { return d.Kind == document.Privacy && d.Version > 0 },
		)
		doc.Kind, doc.Title, doc.Slot, doc.Look = bundle.KindConsent, "New consent notice", bundle.Bottom, nil
		doc.Memory = &bundle.Memory{Closable: new(bool)}
		doc.Content = &bundle.Content{Consent: &consent.Question{}, Wordings: map[string]bundle.Wording{}}
		for _, tag := range site.AllLanguages() {
			wording := bundle.Wording{Message: "<p>" + phrase.In(tag)[phrase.May] + "</p>"}
			draft := phrase.DraftedMay(tag)
			if draft != "" { // its buttons come with it, to be read with it
				wording.Message, wording.Unread = "<p>"+draft+"</p>", true
				wording.Words = phrase.DraftFor(tag, phrase.Asking)
			}
			if phrase.Speaks(tag) || draft != "" {
				if i >= 0 {
					wording.Link = LinkTo(site.Documents[i], tag, site.Language)
				}
				doc.Content.Wordings[tag] = wording
			}
		}
	case bundle.KindDisclaimer:
		// It leads who does not acknowledge it to the home page, which it leaves out.
		doc.Kind, doc.Title, doc.Slot, doc.Look, doc.Memory = bundle.KindDisclaimer, "New disclaimer", bundle.Centre, nil, nil
		doc.Pages.Exclude = []pages.Entry{{Match: pages.Home}}
		doc.Content = &bundle.Content{Disclaimer: &bundle.Disclaimer{Ask: bundle.AskAcknowledge, OnDecline: site.Homes()[0]}}
	case bundle.KindBlock:
		doc.Kind, doc.Title, doc.Slot = bundle.KindBlock, "New block", bundle.Inline
		doc.Memory = &bundle.Memory{Closable: new(bool)}
	case bundle.KindCode:
		doc.Kind, doc.Title, doc.Look, doc.Memory = bundle.KindCode, "New code", nil, nil
		doc.Content = &bundle.Content{Code: &bundle.PageCode{}}
	case bundle.KindPopUp:
		doc.Kind, doc.Title = bundle.KindPopUp, "New pop-up"
	case bundle.KindTabTitle:
		doc.Kind, doc.Title, doc.Look = bundle.KindTabTitle, "New tab title", nil
	}
	if err := about(&doc, site.Site, in.Document); err != nil {
		return NoticeDetail{}, err
	}
	deed := history.Began.With()
	var from *bundle.Notice
	switch {
	case in.CopyOf != "":
		row, err := a.Store.Notice(ctx, c.Site, in.CopyOf)
		if err != nil {
			return NoticeDetail{}, err
		}
		doc = row.Working()
		original := doc
		from = &original
		doc.Title = "Copy of " + doc.GetTitle()
		if doc.CopyOf = nil; doc.Kind == bundle.KindBlock {
			doc.CopyOf = &bundle.Copy{ID: row.ID, Mark: row.Out().TextMark()}
		}
		deed = history.BeganCopy.With(row.Working().GetTitle())
	case in.Starting != "":
		all, err := a.StartingPoints(ctx, site)
		if err != nil {
			return NoticeDetail{}, err
		}
		i := slices.IndexFunc(all, func(p starting.Point) bool { return p.Key == in.Starting })
		if i < 0 {
			return NoticeDetail{}, problem.Problem{
				Status: http.StatusNotFound,
				Title:  "Not found",
				Detail: fmt.Sprintf("There is no starting point %q; it may have been deleted.", in.Starting),
			}
		}
		doc = all[i].Notice
		from = &all[i].Notice
		doc.Title = cmp.Or(doc.Title, all[i].Name)
		deed = history.BeganFrom.With(all[i].Name)
	}
	doc.Title = cmp.Or(strings.TrimSpace(in.Title), doc.Title)
	if len([]rune(doc.Title)) > 200 {
		return NoticeDetail{}, fault.Faults{{
			Pointer: "/title",
			What:    "the title is too long",
			Remedy:  "give at most 200 characters",
		}}
	}
	slug := base.Slug(doc.Title, "notice")
	for n := 1; ; n++ {
		doc.ID = slug
		if n > 1 || audience.Reserved(slug) {
			doc.ID = fmt.Sprintf("%s-%d", slug, n)
		}
		err = a.AddNotice(c, from, doc, a.Entry(c, site.Site, doc, deed))
		if !errors.Is(err, store.ErrExists) || n > 500 {
			break
		}
	}
	if err != nil {
		return NoticeDetail{}, err
	}
	a.Hub.Changed(ctx, c.Site)
	c.Notice = doc.ID
	return base.Done(a.noticeDetail(c, c.Moment()))
}

// about has a new block show a document or list them all, and a new disclaimer be
// about one, with words in each language of the site.
func about(n *bundle.Notice, site bundle.Site, id string) error {
	if id == "" {
		return nil
	}
	if n.Content == nil {
		n.Content = &bundle.Content{}
	}
	n.Content.Wordings = map[string]bundle.Wording{}
	if id == bundle.AllDocuments {
		n.Title, n.Content.Documents = "Documents in the footer", []string{bundle.AllDocuments}
		n.Spot = &bundle.Spot{Selector: "footer", Where: bundle.First}
		for _, tag := range site.AllLanguages() {
			n.Content.Wordings[tag] = bundle.Wording{
				Message: "<p><strong>" + document.PageWord(tag, "all", nil) + "</strong></p>",
			}
		}
		return nil
	}
	d, ok := document.Get(site.Documents, id)
	if !ok {
		return problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such document",
			Detail: fmt.Sprintf("There is no document %q; it may have been deleted.", id),
		}
	}
	n.Title = d.Title(site.Language, site.Language)
	if n.Kind == bundle.KindBlock {
		n.Content.Document = id
	} else if n.Content.Disclaimer != nil {
		n.Content.Disclaimer.Document = id
	}
	for _, tag := range site.AllLanguages() {
		n.Content.Wordings[tag] = bundle.Wording{
			Message: "<p><strong>" + html.EscapeString(d.Title(tag, site.Language)) + "</strong></p>",
		}
	}
	return nil
}

// LinkTo is a link to a document, by its name.
func LinkTo(d document.Document, tag, site string) *bundle.Link {
	return &bundle.Link{Href: document.Scheme + d.ID, Label: d.Title(tag, site), Opens: "new", As: "link"}
}
