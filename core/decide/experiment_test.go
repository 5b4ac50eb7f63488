package decide_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/decide"
	"mastflag/core/draw"
	"mastflag/core/pages"
)

// How a draw decides is said, and why where it does not.
func TestExperimentsExplained(t *testing.T) {
	compared := &bundle.Experiment{Goal: bundle.Goal{Link: true}, Holdout: 40, Variants: []bundle.Variant{
		{ID: "a", Name: "Plain"}, {ID: "b", Name: "Warm"},
	}}
	s := compile(t, site(
		bar("sale", func(n *bundle.Notice) { n.Experiment = compared }),
		bar("goal", func(n *bundle.Notice) {
			n.Experiment = &bundle.Experiment{Goal: bundle.Goal{Pages: &pages.Conditions{
				Include: []pages.Entry{{Match: pages.Section, Path: "/book"}},
			}}}
		}),
	))
	of := func(group func(draw.Draw) bool) draw.Draw {
		for i := range 1000 {
			if d := draw.Draw(fmt.Sprintf("%032x", i)); group(d) {
				return d
			}
		}
		t.Fatal("no draw is in that group")
		return ""
	}
	key := s.Bundle().Site.Key
	held := of(func(d draw.Draw) bool { return d.HeldOut(key, "sale", 40) })
	warm := of(func(d draw.Draw) bool {
		return !d.HeldOut(key, "sale", 40) && d.Variant(key, "sale", []int{1, 1}) == 1
	})
	for _, c := range []struct {
		draw                    draw.Draw
		country, rule, why, got string
	}{
		{
			held, "US", "G3",
			"This visitor is among the 40 % who never see it, so that what it brings about can be compared.", "",
		},
		{
			warm, "US", "E4",
			"Visitors are held out of it by chance, 40 %, and this one is not among them; by their draw they get " +
				"variant “Warm”.", "b",
		},
		{"", "US", "E8", "Visitors are held out of it by chance, 40 %", "a"},
		{
			warm, "DE", "E8",
			"The visitor is in no experiment: “measurement” is not agreed to, so their draw does not count; they get " +
				"the first variant, “Plain”.", "a",
		},
	} {
		v := decide.Visit{
			At: noon, URL: "/", Facts: map[string]any{"place.country": c.country}, Memory: decide.Memory{Draw: c.draw},
		}
		require.NoError(t, v.Check())
		r := s.Explain(v)
		for _, a := range r.Explain {
			for _, step := range a.Steps {
				if step.Gate != decide.GateHoldout {
					continue
				}
				if a.ID == "goal" {
					assert.Equal(t, "No visitors are held out of it.", step.Why)
					continue
				}
				assert.Equal(t, c.rule, step.Rule)
				if c.draw != "" {
					assert.Equal(t, c.why, step.Why)
				}
				assert.Equal(t, c.got != "", step.Passed)
			}
		}
		got := ""
		for _, n := range r.Show {
			if n.ID == "sale" {
				got = n.Variant
			}
		}
		assert.Equal(t, c.got, got)
		assert.Equal(t, c.rule != "E8", r.Drawn)
	}
	// Where the site asks nothing and the place is not known, a draw that exists counts; none is made there.
	free := s.Bundle()
	free.Site.Consent = nil
	d := compile(t, free).Decide(decide.Visit{At: noon, URL: "/", Memory: decide.Memory{Draw: held}})
	assert.True(t, d.Drawn)
	assert.False(t, d.MayMeasure)
	require.Len(t, d.HeldOut, 1)
	assert.Equal(t, []string{"goal"}, s.GoalsOn("/book/thanks?x=1"))
	assert.Empty(t, s.GoalsOn("/"))
	_, known := s.KnownPath("/nowhere/at-all")
	assert.False(t, known)
	assert.ErrorContains(t, decide.Visit{At: noon, URL: "/", Memory: decide.Memory{Draw: "F"}}.Check(), "hex digits")
	// Where nobody is asked about anything, and the place is not known, a draw that is there counts (rule E8).
	for _, c := range []struct {
		setup *consent.Setup
		got   string
	}{
		{nil, "b"},
		{&consent.Setup{}, "b"},
		{&consent.Setup{Inventory: []consent.Item{{Kind: consent.Cookie, Name: "basket", Purpose: consent.Necessary}}}, "b"},
		{&consent.Setup{Purposes: []consent.Purpose{{ID: "marketing"}}}, "a"},
	} {
		b := s.Bundle()
		b.Site.Consent = c.setup
		d := compile(t, b).Decide(decide.Visit{At: noon, URL: "/", Memory: decide.Memory{Draw: warm}})
		sale := d.Show[slices.IndexFunc(d.Show, func(n decide.Shown) bool { return n.ID == "sale" })]
		assert.Equal(t, c.got, sale.Variant, "%+v", c.setup)
	}
}
