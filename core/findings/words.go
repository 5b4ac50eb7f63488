package findings

import (
	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"mastflag/core/moment"
)

// languages lists languages by their English names (Unicode CLDR): "German and Polish".
// A tag without a name stands for itself.
func languages(tags ...string) string {
	names := make([]string, len(tags))
	for i, tag := range tags {
		names[i] = tag
		if t, err := language.Parse(tag); err == nil {
			if name := display.English.Tags().Name(t); name != "" {
				names[i] = name
			}
		}
	}
	return moment.And(names)
}
