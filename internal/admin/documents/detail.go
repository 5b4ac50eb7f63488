package documents

import (
	"cmp"
	"maps"
	"slices"

	"mastflag/core/bundle"
	"mastflag/core/document"
	"mastflag/core/markup"
	"mastflag/internal/admin/base"
	"mastflag/internal/store"
)

func (a *Area) documentDetail(c *base.Call, in DocumentAsk) (DocumentDetail, error) {
	ctx := c.Request.Context()
	f, err := Open(a.Base, c, a.Store)
	if err != nil {
		return DocumentDetail{}, err
	}
	s := f.site.Site
	d, ok := document.Get(s.Documents, c.Document)
	if !ok {
		return DocumentDetail{}, store.ErrNotFound
	}
	mark := d.Mark()
	if d.Evidence, err = a.Store.Evidence(ctx, c.Site); err != nil {
		return DocumentDetail{}, err
	}
	tag := cmp.Or(in.Language, s.Language)
	languages := languagesOf(s, d)
	out := DocumentDetail{
		ID:        d.ID,
		Kind:      d.Kind,
		KindName:  kindNames[d.Kind],
		Mark:      mark,
		Title:     d.Title(tag, s.Language),
		Titles:    d.Titles,
		Answers:   d.Answers,
		Own:       d.Own,
		Language:  tag,
		Ready:     document.ReadyIn(tag) != "",
		Languages: []DocumentLanguage{},
		Version:   d.Version,
		Material:  d.Material,
		Since:     d.Since,
		Versions:  []VersionCard{},
		Uses:      f.uses(d.ID),
		Offers:    []DocumentUse{},
		Address:   a.Address + document.Path(s.Key, d.ID, "", 0),
		Behind:    d.Behind(f.Making),
		Proposal:  d.Propose(f.Making, languages),
		Evidence:  d.Evidence,
	}
	out.Sections, out.Points = d.Sections(f.Making, tag)
	out.Changed = []document.Piece{}
	if now, ok := d.Text(f.Making, tag); ok && d.Version > 0 && !out.Proposal.Nothing {
		before, _ := d.In(tag, s.Language)
		out.Changed = document.Compare(before, now)
	}
	answered := d.Answered(f.Making)
	out.Questions = []QuestionCard{}
	for _, q := range document.Questions(d.Kind, answered) {
		card := QuestionCard{Question: q, Answer: answered[q.ID]}
		if d.Answers[q.ID] == "" && card.Answer != "" {
			for _, o := range s.Documents {
				if o.ID != d.ID && o.Answers[q.ID] == card.Answer {
					card.From = o.Title(s.Language, s.Language)
					break
				}
			}
		}
		out.Questions = append(out.Questions, card)
	}
	for _, l := range languages {
		_, complete := d.Text(f.Making, l)
		state := DocumentLanguage{
			Tag:      l,
			Complete: complete,
			Ready:    document.ReadyIn(l) != "",
			Out:      d.Published[l].Text != "",
		}
		if !d.Titled(l) {
			state.Missing++
		}
		sections, _ := d.Sections(f.Making, l)
		for _, sec := range sections {
			switch sec.From {
			case document.Missing:
				state.Missing++
			case document.Again:
				state.Again++
			}
		}
		out.Languages = append(out.Languages, state)
	}
	versions, err := a.Store.DocumentVersions(ctx, c.Site, d.ID)
	if err != nil {
		return DocumentDetail{}, err
	}
	for _, v := range slices.Backward(versions) {
		out.Versions = append(
			out.Versions,
			VersionCard{Number: v.Number, Change: v.Change, Proposed: v.Proposed, Why: v.Why, At: v.At, By: v.By,
				Address: a.Address + document.Path(s.Key, d.ID, s.Language, v.Number)},
		)
	}
	// Where it could be linked: consent notices that lead nowhere yet.
	for _, n := range f.notices {
		leads := func(w bundle.Wording) bool {
			return w.Link != nil || len(markup.Links(w.Message)) > 0 || w.Details != ""
		}
		some := slices.Collect(maps.Values(n.Wordings()))
		if d.Kind == document.Privacy && n.Kind == bundle.KindConsent && len(some) > 0 &&
			!slices.ContainsFunc(some, leads) {
			out.Offers = append(out.Offers, DocumentUse{Notice: n.ID, Title: n.GetTitle(), Kind: string(n.Kind)})
		}
	}
	return out, nil
}
