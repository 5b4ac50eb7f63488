package admin

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/colour"
	"mastflag/core/consent"
	"mastflag/core/document"
	"mastflag/core/markup"
	"mastflag/core/orderline"
	"mastflag/core/pages"
	"mastflag/core/wording"
	"mastflag/internal/access"
	"mastflag/internal/delivery"
	"mastflag/internal/history"
	"mastflag/internal/problem"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

func (a *Admin) contrast(_ *call, in ContrastAsk) (Contrast, error) {
	if in.Text == "" { // the best to read
		if best, err := colour.On(in.Background); err == nil {
			in.Text = best
		}
	}
	if _, err := colour.Contrast(in.Text, in.Background); err != nil {
		return Contrast{}, problem.Problem{Status: http.StatusUnprocessableEntity, Title: "Not a colour", Detail: err.Error()}
	}
	return contrastOf(in.Background, in.Text), nil
}

// slug makes a short name for addresses of a title.
func slug(title, fallback string) string {
	var b strings.Builder
	for _, r := range norm.NFD.String(strings.ToLower(title)) {
		switch {
		case r < unicode.MaxASCII && (unicode.IsLetter(r) || unicode.IsDigit(r)):
			b.WriteRune(r)
		case unicode.Is(unicode.Mn, r):
		default:
			if s := b.String(); s != "" && !strings.HasSuffix(s, "-") {
				b.WriteByte('-')
			}
		}
		if b.Len() >= 40 {
			break
		}
	}
	return cmp.Or(strings.Trim(b.String(), "-"), fallback)
}

func (a *Admin) newSite(c *call, in NewSite) (SiteDetail, error) {
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
	site.Key = slug(site.Name, "site")
	if faults := site.Check(); faults != nil {
		return SiteDetail{}, faults
	}
	ctx := c.Request.Context()
	base := site.Key
	err = a.Store.Together(ctx, func(st *store.Store) error {
		for n := 2; ; n++ {
			err := st.AddSite(ctx, site)
			if err == nil {
				break
			}
			if err != store.ErrExists || n > 50 {
				return err
			}
			site.Key = fmt.Sprintf("%s-%d", base, n)
		}
		if len(c.person.Sites) == 0 {
			return nil
		}
		// Whoever works on some sites works on the one they made.
		c.person.Sites = append(c.person.Sites, site.Key)
		return st.PutPerson(ctx, c.person)
	})
	if err != nil {
		return SiteDetail{}, err
	}
	a.Hub.Changed(ctx, site.Key)
	return done(a.detail(c, site.Key))
}

func (a *Admin) siteDetail(c *call, _ Nothing) (SiteDetail, error) { return a.detail(c, c.site) }

func (a *Admin) detail(c *call, key string) (SiteDetail, error) {
	ctx := c.Request.Context()
	s, err := a.Store.Site(ctx, key)
	if err != nil {
		return SiteDetail{}, err
	}
	list, err := a.Store.Pages(ctx, key)
	if err != nil {
		return SiteDetail{}, err
	}
	snippet := delivery.NewSnippet(a.Base, key)
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
	return d, nil
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
		} else if p.Snippet == store.SnippetFound || p.Snippet == store.SnippetMissing {
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

// users returns a function that lists the titles of a site's notices that use
// something, by what makes a notice do so.
func (a *Admin) users(ctx context.Context, site string) (func(uses func(bundle.Notice) bool) []string, error) {
	rows, err := a.Store.Notices(ctx, site)
	return func(uses func(bundle.Notice) bool) []string {
		titles := []string{}
		for _, row := range rows {
			if row.Draft != nil && uses(*row.Draft) || row.Published != nil && uses(*row.Published) {
				titles = append(titles, row.Working().GetTitle())
			}
		}
		return titles
	}, err
}

// saved lists what a site keeps for use in many notices, and where it is used.
func (a *Admin) saved(ctx context.Context, site bundle.Site) ([]Saved, error) {
	users, err := a.users(ctx, site.Key)
	if err != nil {
		return nil, err
	}
	out := []Saved{}
	names, _ := audience.NewNames(site.Audiences)
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
	return out, nil
}

func (a *Admin) changeSite(c *call, in SiteChange) (SiteDetail, error) {
	in.Site.Key = c.site
	have, err := a.Store.Site(c.Request.Context(), c.site)
	if err != nil {
		return SiteDetail{}, err
	}
	if have.Revision != in.Revision {
		return SiteDetail{}, store.Stale{From: in.Revision, Is: have.Revision}
	}
	if !slices.EqualFunc(
		have.Documents, in.Site.Documents, func(a, b document.Document) bool { return a.Mark() == b.Mark() },
	) {
		return SiteDetail{}, refuse("Documents are changed and published in their own rooms, in the Library. Nothing was " +
			"changed.")
	}
	if !access.May(c.person.Role, access.Administrator) {
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

func (a *Admin) display(c *call, in DisplaySwitch) (SiteDetail, error) {
	s, err := a.Store.Site(c.Request.Context(), c.site)
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

func (a *Admin) putSite(c *call, site bundle.Site, revision int, deed history.Deed) (SiteDetail, error) {
	ctx := c.Request.Context()
	if faults := checkShape("Site", site); faults != nil {
		return SiteDetail{}, faults
	}
	if faults := site.Check(); faults != nil {
		return SiteDetail{}, faults
	}
	rows, err := a.Store.Notices(ctx, c.site)
	if err != nil {
		return SiteDetail{}, err
	}
	for _, row := range rows { // what a notice relies on cannot be taken from under it
		for _, n := range []*bundle.Notice{row.Published, row.Draft} {
			if n == nil {
				continue
			}
			if faults := n.Check(site); faults != nil {
				faults[0].What = fmt.Sprintf("“%s” could not be read any more: %s", n.GetTitle(), faults[0].What)
				faults[0].Remedy = "change that notice first"
				return SiteDetail{}, faults
			}
		}
	}
	if err := a.Store.PutSite(ctx, site, revision, store.Entry{
		At:   a.Clock.Now(),
		By:   c.by(),
		Deed: deed,
		Line: site.Name,
	}); err != nil {
		return SiteDetail{}, err
	}
	a.Hub.Changed(ctx, c.site)
	return done(a.detail(c, c.site))
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

// siteTimeout is how long whoever has a site read is kept waiting for the end of it.
const siteTimeout = 3 * time.Second

// survey has the pages of a site read. What ends soon is answered at once; the rest is
// asked after.
func (a *Admin) survey(c *call, in SurveyAsk) (SiteDetail, error) {
	ctx := c.Request.Context()
	last, err := a.Survey.Progress(ctx, c.site)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return SiteDetail{}, err
	}
	if in.Fewer && last.State == store.SurveyFewer {
		if err := a.Survey.Accept(ctx, c.site); err != nil {
			return SiteDetail{}, err
		}
		return done(a.detail(c, c.site))
	}
	ended, err := a.Survey.Start(ctx, c.site, in.Resume, in.Fewer)
	if errors.Is(err, survey.ErrNoAddress) {
		return SiteDetail{}, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "No address",
			Detail: "Give the site its address first.",
		}
	}
	if err != nil {
		return SiteDetail{}, err
	}
	select {
	case <-ended:
	case <-time.After(siteTimeout):
	case <-ctx.Done():
	}
	v, err := a.Survey.Progress(ctx, c.site)
	if err != nil {
		return SiteDetail{}, err
	}
	switch v.State {
	case store.SurveyFailed:
		return SiteDetail{}, problem.Problem{
			Status: http.StatusBadGateway,
			Title:  "The site could not be read",
			Detail: v.Why + ". The pages known before are kept.",
		}
	case store.SurveyFewer:
		return SiteDetail{}, problem.Problem{Status: http.StatusConflict, Title: "Far fewer pages", Detail: fewerPages(v)}
	}
	return done(a.detail(c, c.site))
}

// fewerPages says what a reading waits for.
func fewerPages(v store.Survey) string {
	return fmt.Sprintf(
		"The site now lists %s; of those known before %d are no longer there. They are kept until you say that they are "+
			"gone.",
		pageCount(v.Listed), v.Gone.Count,
	)
}

func (a *Admin) surveyState(c *call, _ Nothing) (SurveyState, error) {
	return a.progress(c.Request.Context(), c.site)
}

func (a *Admin) progress(ctx context.Context, site string) (SurveyState, error) {
	v, err := a.Survey.Progress(ctx, site)
	if errors.Is(err, store.ErrNotFound) {
		return SurveyState{}, nil
	}
	return SurveyState{Survey: &v}, err
}

func (a *Admin) stopSurvey(c *call, _ Nothing) (SiteDetail, error) {
	a.Survey.Stop(c.site)
	return done(a.detail(c, c.site))
}
