package pages

import "slices"

// Off returns conditions that do not take a page and take every other page as
// these do: without the include entries that name that page, where no other takes
// it, else with one exclude entry more (rule B4). Conditions that do not take it
// are returned as they are.
func (c Conditions) Off(p Subject, names Names) Conditions {
	set, _ := Compile(c, names)
	if !set.Test(p).Shows {
		return c
	}
	less := c
	less.Include = without(c.Include, p.Path, names)
	if set, _ := Compile(less, names); !set.Test(p).Shows {
		return less
	}
	c.Exclude = append(slices.Clone(c.Exclude), Entry{Match: Page, Path: p.Path})
	return c
}

// On returns conditions that take a page and every other page as these do: without
// the exclude entries that name that page, and with one include entry more if that
// is not enough. by is the exclude entry that takes more than that page and keeps
// it out all the same; nil if there is none.
func (c Conditions) On(p Subject, names Names) (out Conditions, by *Entry) {
	set, _ := Compile(c, names)
	if set.Test(p).Shows {
		return c, nil
	}
	out = c
	out.Exclude = without(c.Exclude, p.Path, names)
	set, _ = Compile(out, names)
	o := set.Test(p)
	if o.Exclude >= 0 {
		return c, &out.Exclude[o.Exclude]
	}
	if o.Include < 0 {
		out.Include = append(slices.Clone(out.Include), Entry{Match: Page, Path: p.Path})
	}
	return out, nil
}

// without returns entries but those that name one page, in normal form.
func without(entries []Entry, path string, names Names) (out []Entry) {
	for _, e := range entries {
		if at, err := PagePath(e.Path); e.Match == Page && err == nil && names.Listed.Find(at) == path {
			continue
		}
		out = append(out, e)
	}
	return out
}
