package viewpoint

import (
	"context"
	"maps"
	"slices"

	"mastflag/core/bundle"
	"mastflag/internal/compiled"
	"mastflag/internal/store"
)

// Rehearse returns the site's bundle with a notice's draft in place of what
// is out, published and free of schedule, audience and memory, so that it
// shows on its pages now.
func Rehearse(ctx context.Context, st *store.Store, site, notice string) (bundle.Bundle, error) {
	return Staged(ctx, st, site, notice, func(n *bundle.Notice) {
		n.Schedule, n.PublishedAt, n.Audience = nil, nil, nil
		n.Memory = &bundle.Memory{Closable: n.GetMemory().Closable}
		for tag, w := range n.Wordings() { // what nobody has read is read on the stage
			if w.Unread {
				w.Unread = false
				*n = WithWording(*n, tag, w)
			}
		}
		if n.Experiment != nil {
			experiment := *n.Experiment
			experiment.Variants = slices.Clone(experiment.Variants)
			for i, v := range experiment.Variants {
				experiment.Variants[i].Wordings = maps.Clone(v.Wordings)
				for tag, w := range v.Wordings {
					w.Unread = false
					experiment.Variants[i].Wordings[tag] = w
				}
			}
			n.Experiment = &experiment
		}
	})
}

// Staged returns the site's bundle with a notice's draft as if it were
// published, altered by a function.
func Staged(
	ctx context.Context,
	st *store.Store,
	site, notice string,
	alter func(*bundle.Notice),
) (bundle.Bundle, error) {
	b, err := compiled.Load(ctx, st, site)
	if err != nil {
		return b, err
	}
	row, err := st.Notice(ctx, site, notice)
	if err != nil {
		return b, err
	}
	for i := range b.Notices {
		if b.Notices[i].ID == notice {
			n := row.Working()
			n.State = bundle.Published
			alter(&n)
			b.Notices[i] = n
			return b, nil
		}
	}
	return b, store.ErrNotFound
}
