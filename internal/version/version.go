// Package version says which version of the program this is.
package version

import "runtime/debug"

// Number is the version, by Semantic Versioning 2.0.0.
const Number = "0.5.0"

// Build returns the number with the commit that it was built from, where that is
// known, such as "0.5.0 (1a2b3c4, changed)".
func Build() string {
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return Number
	}
	commit, changed := "", ""
	for _, s := range info.Settings {
		switch {
		case s.Key == "vcs.revision" && len(s.Value) >= 7:
			commit = s.Value[:7]
		case s.Key == "vcs.modified" && s.Value == "true":
			changed = ", changed"
		}
	}
	if commit == "" {
		return Number
	}
	return Number + " (" + commit + changed + ")"
}
