package lookup

import "golang.org/x/text/language"

// Direction returns how the tag's script, given or likely, is written: ltr, or rtl
// from right to left.
func Direction(tag string) string {
	t, err := language.Parse(tag)
	if err != nil {
		return "ltr"
	}
	script, _ := t.Script()
	switch script.String() {
	case "Arab", "Hebr", "Thaa", "Syrc", "Nkoo", "Adlm", "Rohg":
		return "rtl"
	}
	return "ltr"
}
