// Package plural says which form of a word a number takes.
package plural

import (
	xplural "golang.org/x/text/feature/plural"
	"golang.org/x/text/language"
)

// A Form is a plural category of Unicode CLDR.
type Form string

// The forms; a language has some of them.
const (
	Zero  Form = "zero"
	One   Form = "one"
	Two   Form = "two"
	Few   Form = "few"
	Many  Form = "many"
	Other Form = "other"
)

var forms = map[xplural.Form]Form{
	xplural.Zero:  Zero,
	xplural.One:   One,
	xplural.Two:   Two,
	xplural.Few:   Few,
	xplural.Many:  Many,
	xplural.Other: Other,
}

// Of returns the form that a whole number of things takes in a language,
// by the cardinal rules of Unicode CLDR; Other for a language that is none.
func Of(tag string, n int) Form {
	t, err := language.Parse(tag)
	if err != nil {
		return Other
	}
	if n < 0 {
		n = -n
	}
	return forms[xplural.Cardinal.MatchPlural(t, n, 0, 0, 0, 0)]
}
