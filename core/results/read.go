package results

import (
	"bufio"
	"bytes"
	"fmt"
	"io"

	"mastflag/core/bundle"
	"mastflag/core/fault"
)

// maxLine is how long a line of counts may be, in bytes.
const maxLine = 1 << 20

// Read reads groups, one JSON object a line, as Group has it. All lines that are wrong are in
// the error, fault.Faults.
func Read(r io.Reader) ([]Group, error) {
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, maxLine)
	type key struct{ notice, variant string }
	known := map[key]int{}
	var out []Group
	var wrong fault.Faults
	n := 1
	for ; lines.Scan(); n++ {
		line := bytes.TrimSpace(lines.Bytes())
		if len(line) == 0 {
			continue
		}
		var g Group
		err := bundle.Unmarshal(line, &g)
		if err == nil {
			err = g.check()
		}
		if k := (key{g.Notice, g.Variant}); err == nil && known[k] > 0 {
			err = fmt.Errorf(
				"variant %q of notice %q is on line %d already: add the two up",
				g.Variant,
				g.Notice,
				known[k],
			)
		} else {
			known[k] = n
		}
		if err != nil {
			wrong = append(wrong, fault.Fault{Pointer: fmt.Sprintf("line %d", n), What: err.Error()})
			continue
		}
		out = append(out, g)
	}
	if err := lines.Err(); err != nil {
		return nil, fmt.Errorf("line %d of the counts: %w", n, err)
	}
	return out, wrong.Err()
}

// maxCount is beyond what is ever counted; sums of it are exact.
const maxCount = 1 << 50

// check returns an error that says what is wrong with a group; nil if nothing is.
func (g Group) check() error {
	switch {
	case g.Notice == "":
		return fmt.Errorf(`"notice" is missing: give the notice's id`)
	case g.Visitors < 0 || g.Visitors > maxCount:
		return fmt.Errorf(`"visitors" is %d: give a number of visitors`, g.Visitors)
	case g.Reached < 0:
		return fmt.Errorf(`"reached" is %d: give a number of visitors`, g.Reached)
	case g.Reached > g.Visitors:
		return fmt.Errorf(`"reached" is %d of %d "visitors": each visitor counts once`, g.Reached, g.Visitors)
	}
	return nil
}
