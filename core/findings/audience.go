package findings

import (
	"fmt"
	"strings"

	"mastflag/core/audience"
	"mastflag/core/bundle"
	"mastflag/core/fault"
)

func (c *checker) audience(i int, n bundle.Notice, title string) {
	notice := fault.Pointer("notices", i)
	c.countedNotices(n.GetAudience(), notice+"/audience", func(at, id string) {
		at = strings.TrimPrefix(at, notice)
		c.add(
			UnknownNotice, Warning, i, at, fmt.Sprintf(
				"A condition of %s counts what visitors did with the notice “%s”. There is no such notice, so for new visitors "+
					"the count stays 0.",
				title, id,
			),
			"Name a notice of this site, or set the condition aside.", setAside("Set it aside", at),
		)
	})
	// As it is written: what follows a form is for fewer, and nobody has to mend that.
	a, faults := audience.Compile(n.GetAudience(), c.saved)
	possible := faults != nil || a.Possible(c.effort, nil)
	if possible && !c.met[n.ID] {
		c.add(
			NobodyNew, Warning, i, "/audience",
			title+" reaches nobody new: nobody can do what it waits for without having met it before.",
			"Remove the condition that waits for it, or let another notice come first.",
		)
		return
	}
	switch {
	case faults != nil || a.Everyone():
		return
	case !possible:
		f := Finding{
			Code:     Nobody,
			Severity: Error,
			Notices:  []string{n.ID},
			Pointers: []string{fault.Pointer("notices", i) + "/audience"},
			What: fmt.Sprintf(
				"No one can ever see %s: it is for %s, and there can be no such visitor.", title, a.Phrase(),
			),
			Fix: "Change or remove one of the conditions that exclude each other.",
		}
		// Whichever part stands in the way of all others can be set aside.
		for _, p := range a.ConflictingParts(c.effort) {
			f.Fixes = append(f.Fixes, setAside("Set aside: "+p.Phrase, "/audience"+p.Pointer))
			f.Pointers = append(f.Pointers, fault.Pointer("notices", i)+"/audience"+p.Pointer)
		}
		f.Fixes = append(f.Fixes, remove("Show it to everyone", "/audience"))
		c.found = append(c.found, f)
		return
	case a.Always(c.effort):
		c.add(
			Everybody, Info, i, "/audience", title+" has conditions that every visitor fulfils.",
			"Remove them; nothing changes.", remove("Remove the conditions", "/audience"),
		)
		return
	}
	for _, p := range a.RedundantParts(c.effort) {
		at := "/audience" + p.Pointer
		if p.Never {
			c.add(
				IdlePart, Warning, i, at, fmt.Sprintf("A condition of %s can never hold: visitors %s.", title, p.Phrase),
				"Correct it, or set it aside.", setAside("Set it aside", at),
			)
			continue
		}
		c.add(
			IdlePart, Info, i, at,
			fmt.Sprintf("A condition of %s makes no difference: visitors %s. The others say as much.", title, p.Phrase),
			"Set it aside; nothing changes.", setAside("Set it aside", at),
		)
	}
}

func setAside(label, at string) Fix { return add(label, at+"/off", true) }

// noticeFact returns the notice of which a fact counts what visitors did with it; ok is false of other facts.
func noticeFact(fact string) (id string, ok bool) {
	rest, ok := strings.CutPrefix(fact, "notice.")
	if !ok {
		return "", false
	}
	id, _, ok = strings.Cut(rest, ".")
	return id, ok
}

// countedNotices tells of each condition in a tree, which lies at a pointer, that counts a notice which is not there.
func (c *checker) countedNotices(n audience.Node, at string, tell func(at, id string)) {
	if n.Off {
		return
	}
	if id, ok := noticeFact(n.Fact); ok {
		if _, there := c.place[id]; !there {
			tell(at, id)
		}
	}
	for k, p := range n.Parts {
		c.countedNotices(p, at+fault.Pointer(string(n.Group), k), tell)
	}
}

// savedAudiences reports what saved audiences count of notices that are not there.
func (c *checker) savedAudiences() {
	for k, s := range c.b.Site.Audiences {
		c.countedNotices(s.Audience, fault.Pointer("site", "audiences", k, "audience"), func(at, id string) {
			c.found = append(c.found, Finding{
				Code: UnknownNotice, Severity: Warning, Notices: []string{}, Pointers: []string{at},
				What: fmt.Sprintf(
					"The audience “%s” counts what visitors did with the notice “%s”. There is no such notice, so for new visitors "+
						"the count stays 0.",
					s.Name, id,
				),
				Fix: "Name a notice of this site, or set the condition aside.",
			})
		})
	}
}

// meet finds the notices that somebody who has met none yet can come to meet, sooner or later. An audience that
// counts what was done with other notices, as that of what follows a form does (rule F5), waits for these. A notice
// that is not there counts as met: that is a finding of its own.
func (c *checker) meet() {
	c.met = map[string]bool{}
	waiting := map[string][]string{} // for a notice, by its id
	var todo []string
	for _, n := range c.b.Notices {
		waits := false
		for _, f := range c.site.Audience(n.ID).Facts() {
			if id, ok := noticeFact(f); ok {
				waits = true
				waiting[id] = append(waiting[id], n.ID)
			}
		}
		if !waits {
			c.met[n.ID] = true
		}
		todo = append(todo, n.ID)
	}
	unmet := func(k audience.Key) (audience.Value, bool) {
		id, ok := noticeFact(k.Name)
		if _, there := c.place[id]; !ok || !there || c.met[id] {
			return audience.Value{}, false
		}
		return audience.NumberValue(0), true
	}
	for ; len(todo) > 0 && c.ctx.Err() == nil; todo = todo[1:] {
		id := todo[0]
		if !c.met[id] && c.site.Audience(id).Possible(c.effort, unmet) {
			c.met[id] = true
			todo = append(todo, waiting[id]...)
		}
	}
}
