// Package sites is sites: their set-up, their pages as they were read, and who did what.
package sites

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/colour"
	"mastflag/core/consent"
	"mastflag/core/csp"
	"mastflag/core/document"
	"mastflag/core/markup"
	"mastflag/core/orderline"
	"mastflag/core/pages"
	"mastflag/core/rights"
	"mastflag/core/wording"
	"mastflag/internal/access"
	"mastflag/internal/admin/base"
	"mastflag/internal/admin/viewpoint"
	"mastflag/internal/delivery"
	"mastflag/internal/history"
	"mastflag/internal/inspect"
	"mastflag/internal/mail"
	"mastflag/internal/post"
	"mastflag/internal/problem"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

// Area is that part of the API.
type Area struct {
	*base.Base
	Survey  *survey.Keeper
	Inspect *inspect.Keeper
	Carrier *post.Carrier
}

// Routes are its calls.
func (a *Area) Routes() []base.Route {
	return []base.Route{
		base.Get("/api/contrast", "How well words read on a field.", a.contrast),
		base.Post("/api/sites", "Begin with a site.", a.newSite).For(rights.Administrator),
		base.Get("/api/sites/:site", "A site, its snippet and its known pages.", a.siteDetail),
		base.Put("/api/sites/:site", "Change a site.", a.changeSite),
		base.Post("/api/sites/:site/send", "Send the snippet to a colleague.", a.sendSnippet).For(rights.Administrator),
		base.Get("/api/sites/:site/speed", "What notices cost the site's pages, as it was measured.", a.speed),
		base.Post("/api/sites/:site/speed", "Begin to measure what notices cost the site's pages.", a.measureSpeed),
		base.Get("/api/sites/:site/activity", "Who did what on a site.", a.activity),
		base.Post("/api/sites/:site/display", "Set the master switch.", a.display).For(rights.Administrator),
		base.Post(
			"/api/sites/:site/survey",
			"Read the site's pages, as its sitemaps list them, and look for the snippet; or resume that.",
			a.survey,
		),
		base.Get(
			"/api/sites/:site/survey",
			"How far the reading of the site's pages is, or what became of the last.",
			a.surveyState,
		),
		base.Post(
			"/api/sites/:site/survey/stop",
			"Stop reading the site's pages; what was read is kept, and it can be resumed.",
			a.stopSurvey,
		),
	}
}

func (a *Area) sendSnippet(c *base.Call, in base.Address) (base.Nothing, error) {
	email, err := base.MailAddress(in.Email)
	if err != nil {
		return base.Nothing{}, err
	}
	site, err := a.Store.Site(c.Request.Context(), c.Site)
	if err != nil {
		return base.Nothing{}, err
	}
	s := delivery.SnippetOf(a.Address, site.Site)
	body := fmt.Sprintf(
		"Hello,\n\n%s asks you to paste these two lines into the head of every page of %s,\nor into the template that all "+
			"pages share:\n\n%s\n\nA Content-Security-Policy lists %s in script-src, connect-src and img-src, and %s in "+
			"script-src.\n",
		c.Person.Name, site.Name, s.HTML(), a.Address, s.Source(),
	)
	_, hash := access.NewToken()
	ctx, now, letter, subject := c.Request.Context(), a.Clock.Now(), hash[:16]+".eml", "Two lines for "+site.Name
	if err := a.Carrier.Office.Send(letter, mail.Letter{
		At: now, From: c.Person.Email, To: email, Subject: subject, Body: body,
	}); err != nil {
		return base.Nothing{}, err
	}
	err = a.Together(c, func(st *store.Store) error {
		if err := st.AddMessage(ctx, store.Message{
			At: now, From: c.Person.Email, To: email, Subject: subject, Body: body, Letter: letter,
		}); err != nil {
			return err
		}
		return a.Carrier.Queue(ctx, st, letter, email, now)
	})
	if err == nil {
		a.Carrier.Wake()
	}
	return base.Nothing{}, err
}

func (a *Area) contrast(_ *base.Call, in ContrastAsk) (viewpoint.Contrast, error) {
	if in.Text == "" { // the best to read
		if best, err := colour.On(in.Background); err == nil {
			in.Text = best
		}
	}
	if _, err := colour.Contrast(in.Text, in.Background); err != nil {
		return viewpoint.Contrast{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Not a colour",
			Detail: err.Error(),
		}
	}
	return viewpoint.ContrastOf(in.Background, in.Text), nil
}

func (a *Area) newSite(c *base.Call, in NewSite) (SiteDetail, error) {
	in.Address = strings.TrimSpace(in.Address)
	if in.Address != "" && !strings.Contains(in.Address, ":") {
		in.Address = "https://" + in.Address // as people say it
	}
	origin, err := pages.Origin(in.Address)
	if err != nil {
		return SiteDetail{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Not an address",
			Detail: err.Error() + ". Give one such as https://www.example.org.",
		}
	}
	site := bundle.Site{
		Name:     strings.TrimSpace(in.Name),
		Origins:  []string{origin},
		TimeZone: in.TimeZone,
		Language: cmp.Or(in.Language, "en"),
	}
	if site.Name == "" {
		return SiteDetail{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "No name",
			Detail: "Give the site a name.",
		}
	}
	site.Languages = []string{site.Language}
	site.Key = base.Slug(site.Name, "site")
	if faults := site.Check(); faults != nil {
		return SiteDetail{}, faults
	}
	ctx := c.Request.Context()
	key := site.Key
	err = a.Together(c, func(st *store.Store) error {
		for n := 2; ; n++ {
			err := st.AddSite(ctx, site)
			if err == nil {
				break
			}
			if err != store.ErrExists || n > 50 {
				return err
			}
			site.Key = fmt.Sprintf("%s-%d", key, n)
		}
		// Whoever works on some sites works on the one they made.
		return st.GiveSite(ctx, c.Person.Email, site.Key)
	})
	if err != nil {
		return SiteDetail{}, err
	}
	a.Hub.Changed(ctx, site.Key)
	return base.Done(a.detail(c, site.Key))
}

func (a *Area) siteDetail(c *base.Call, _ base.Nothing) (SiteDetail, error) {
	return a.detail(c, c.Site)
}

func (a *Area) detail(c *base.Call, key string) (SiteDetail, error) {
	ctx := c.Request.Context()
	s, err := a.Store.Site(ctx, key)
	if err != nil {
		return SiteDetail{}, err
	}
	list, err := a.Store.Pages(ctx, key)
	if err != nil {
		return SiteDetail{}, err
	}
	snippet := delivery.SnippetOf(a.Address, s.Site)
	d := SiteDetail{
		Site:         s.Site,
		Revision:     s.Revision,
		Snippet:      snippet.HTML(),
		ScriptSource: snippet.Source(),
		Pages:        []SitePage{},
	}
	if !s.SurveyedAt.IsZero() {
		d.SurveyedAt = &s.SurveyedAt
	}
	if d.Saved, err = a.saved(ctx, s.Site); err != nil {
		return d, err
	}
	for _, p := range list {
		d.Pages = append(d.Pages, SitePage{p.Path, p.Title, p.Language, p.Type, append([]string{}, p.Tags...), p.Snippet})
	}
	d.Domains = append([]string{}, s.Domains()...)
	d.OtherLanguages, d.Silent = pageLanguages(s.Site, list)
	d.SurveyState, err = a.progress(ctx, key)
	if err != nil {
		return d, err
	}
	d.Policies = a.policies(s.Site, snippet, d.Survey)
	return d, nil
}

// policies says what to do about the policies that pages had when they were last read.
func (a *Area) policies(s bundle.Site, snippet delivery.Snippet, v *store.Survey) []PolicyAdvice {
	out := []PolicyAdvice{}
	if v == nil || len(s.Origins) == 0 {
		return out
	}
	needs := csp.Needs{Origin: a.Address, Hashes: snippet.Hashes(), TrustedTypes: delivery.TrustedTypes}
	for _, seen := range v.Policies {
		if advice := csp.Advise(seen.Policy, s.Origins[0], needs); advice.Nonce || len(advice.Add) > 0 {
			out = append(out, PolicyAdvice{seen.Pages, seen.Page, advice})
		}
	}
	return out
}

// maxSilent sections are listed.
const maxSilent = 20

// pageLanguages says which languages known pages are in that the site is not, and which
// sections have pages that do not say theirs.
func pageLanguages(s bundle.Site, list []store.Page) (others []PageLanguage, silent []SilentSection) {
	in, mute := map[string]int{}, map[string]int{}
	for _, p := range list {
		if p.Language != "" {
			if !slices.ContainsFunc(s.AllLanguages(), func(l string) bool { return pages.Filter(l, p.Language) }) {
				in[p.Language]++
			}
		} else if slices.Contains([]string{store.SnippetFound, store.SnippetUnguarded, store.SnippetMissing}, p.Snippet) {
			if pages.NamedLanguage(p.Path, s.AllLanguages()) != "" {
				continue
			}
			segment, _, deeper := strings.Cut(strings.TrimPrefix(p.Path, "/"), "/")
			if !deeper {
				segment = ""
			}
			mute["/"+segment]++
		}
	}
	others, silent = []PageLanguage{}, []SilentSection{}
	for l, n := range in {
		others = append(others, PageLanguage{l, n})
	}
	for path, n := range mute {
		silent = append(silent, SilentSection{path, n})
	}
	slices.SortFunc(others, func(a, b PageLanguage) int {
		return cmp.Or(cmp.Compare(b.Pages, a.Pages), cmp.Compare(a.Language, b.Language))
	})
	slices.SortFunc(silent, func(a, b SilentSection) int {
		return cmp.Or(cmp.Compare(b.Pages, a.Pages), cmp.Compare(a.Path, b.Path))
	})
	return others, silent[:min(len(silent), maxSilent)]
}

// saved lists what a site keeps for use in many notices, and where it is used.
func (a *Area) saved(ctx context.Context, site bundle.Site) ([]Saved, error) {
	users, err := a.Using(ctx, site.Key)
	if err != nil {
		return nil, err
	}
	out := []Saved{}
	names := audience.Named(site.Audiences)
	for _, s := range site.Audiences {
		who, _ := audience.Compile(s.Audience, names)
		out = append(out, Saved{
			"audience", s.Name, who.Phrase(), users(func(n bundle.Notice) bool { return n.GetAudience().Uses(s.Name) }),
		})
	}
	for _, s := range site.PageSets {
		out = append(out, Saved{
			"page set", s.Name, orderline.PagesOf(s.Conditions), users(func(n bundle.Notice) bool { return n.UsesSet(s.Name) }),
		})
	}
	for _, s := range site.Wordings {
		tag := wording.Choose(s.Wordings, site.Language, site.Language)
		out = append(out, Saved{"wording", s.Name, markup.Text(s.Wordings[tag].Message), []string{}})
	}
	for _, r := range site.Rules {
		out = append(out, Saved{"rules", r.Name, orderline.Of(r.Notice(), site, a.Clock.Now()).String(), []string{}})
	}
	return out, nil
}

func (a *Area) changeSite(c *base.Call, in SiteChange) (SiteDetail, error) {
	in.Site.Key = c.Site
	have, err := a.Store.Site(c.Request.Context(), c.Site)
	if err != nil {
		return SiteDetail{}, err
	}
	if have.Revision != in.Revision {
		return SiteDetail{}, store.Stale{From: in.Revision, Is: have.Revision}
	}
	if !slices.EqualFunc(
		have.Documents, in.Site.Documents, func(a, b document.Document) bool { return a.Mark() == b.Mark() },
	) {
		return SiteDetail{}, base.Refuse(
			"Documents are changed and published in their own rooms, in the Library. Nothing was " +
				"changed.",
		)
	}
	if !rights.May(c.Person.Role, rights.Administrator) {
		if !sameSetup(have.Site, in.Site) {
			return SiteDetail{}, problem.Problem{
				Status: http.StatusForbidden,
				Title:  "You do not have permission",
				Detail: "Editors keep page sets, audiences, wordings and starting points; the rest of a site needs an " +
					"administrator. Nothing was changed.",
			}
		}
	}
	if !have.SharedMemory && in.Site.HidesOwnCookie() {
		setup := in.Site.Setup()
		setup.Inventory = append(slices.Clone(setup.Inventory), consent.OwnCookie())
		in.Site.Consent = &setup
	}
	if setup := in.Site.Consent; setup != nil && setup.TableRead == "" {
		// From here on a later version's rows show as a difference.
		begun := *setup
		begun.TableRead = consent.TableDate()
		in.Site.Consent = &begun
	}
	return a.putSite(c, in.Site, in.Revision, history.ChangedSite.With())
}

// sameSetup reports whether two sites differ at most in what editors keep for
// use in many notices.
func sameSetup(x, y bundle.Site) bool {
	for _, s := range []*bundle.Site{&x, &y} {
		s.PageSets, s.Audiences, s.Wordings, s.StartingPoints = nil, nil, nil, nil
	}
	a, errA := json.Marshal(x)
	b, errB := json.Marshal(y)
	return errA == nil && errB == nil && bytes.Equal(a, b)
}

func (a *Area) display(c *base.Call, in DisplaySwitch) (SiteDetail, error) {
	s, err := a.Store.Site(c.Request.Context(), c.Site)
	if err != nil {
		return SiteDetail{}, err
	}
	s.Display = &in.On
	deed := history.SwitchedOff
	if in.On {
		deed = history.SwitchedOn
	}
	return a.putSite(c, s.Site, in.Revision, deed.With())
}

func (a *Area) putSite(c *base.Call, site bundle.Site, revision int, deed history.Deed) (SiteDetail, error) {
	ctx := c.Request.Context()
	if faults := base.CheckShape("Site", site); faults != nil {
		return SiteDetail{}, faults
	}
	if faults := site.Check(); faults != nil {
		return SiteDetail{}, faults
	}
	if err := a.Together(c, func(st *store.Store) error {
		have, err := st.Site(ctx, c.Site)
		if err != nil {
			return err
		}
		rows, err := st.Notices(ctx, c.Site)
		if err != nil {
			return err
		}
		notices := make([]rights.Notice, len(rows))
		for i, row := range rows {
			notices[i] = row.Rights()
			if err := checkNotice(site, notices[i]); err != nil {
				return err
			}
		}
		if err := rights.MayChangeSite(c.Person.Rights(), have.Site, site, notices); err != nil {
			return err
		}
		return st.PutSite(ctx, site, revision, store.Entry{At: a.Clock.Now(), By: c.By(), Deed: deed, Line: site.Name})
	}); err != nil {
		return SiteDetail{}, err
	}
	a.Hub.Changed(ctx, c.Site)
	return base.Done(a.detail(c, c.Site))
}

// checkNotice refuses a site on which a notice could not be read any more: what it relies on cannot be
// taken from under it.
func checkNotice(site bundle.Site, n rights.Notice) error {
	for _, text := range n.Texts() {
		if faults := text.Check(site); faults != nil {
			faults[0].What = fmt.Sprintf("“%s” could not be read any more: %s", text.GetTitle(), faults[0].What)
			faults[0].Remedy = "change that notice first"
			return faults
		}
	}
	return nil
}

func pageCount(n int) string {
	switch n {
	case 0:
		return "no page"
	case 1:
		return "one page"
	}
	return fmt.Sprintf("%d pages", n)
}
