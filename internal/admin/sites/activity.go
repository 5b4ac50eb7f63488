package sites

import (
	"cmp"
	"slices"

	"mastflag/core/rights"
	"mastflag/internal/admin/base"
)

func (a *Area) activity(c *base.Call, in ActivityAsk) (Activity, error) {
	ctx := c.Request.Context()
	out := Activity{Deeds: []Deed{}, People: []Doer{}}
	rows, err := a.Store.Notices(ctx, c.Site)
	if err != nil {
		return out, err
	}
	titles := map[string]string{}
	for _, r := range rows {
		titles[r.ID] = r.Working().GetTitle()
	}
	people := rights.May(c.Person.Role, rights.Administrator) && len(c.Person.Sites) == 0
	names, err := a.PeopleNames(ctx)
	if err != nil {
		return out, err
	}
	deeds, err := a.Store.Activity(ctx, c.Site, in.Who, people)
	if err != nil {
		return out, err
	}
	for _, d := range deeds {
		out.Deeds = append(out.Deeds, Deed{
			d.ID, d.At, names.Of(d.By), d.Deed.String(), d.Notice, titles[d.Notice], d.Line,
		})
	}
	all := deeds
	if in.Who != "" {
		if all, err = a.Store.Activity(ctx, c.Site, "", people); err != nil {
			return out, err
		}
	}
	for _, d := range all {
		doer := Doer{d.By.ID(), names.Of(d.By)}
		if !slices.Contains(out.People, doer) {
			out.People = append(out.People, doer)
		}
	}
	slices.SortFunc(
		out.People, func(a, b Doer) int { return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.ID, b.ID)) },
	)
	return out, nil
}
