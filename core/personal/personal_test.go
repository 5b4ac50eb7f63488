package personal_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/core/personal"
)

func TestPlaces(t *testing.T) {
	for _, c := range []struct{ in, words, html string }{
		{"<p>Hello {person.name|there}!</p>", "<p>Hello there!</p>",
			`<p>Hello <bdi data-personal="person.name">there</bdi>!</p>`},
		{"{event.order.product | our fares &amp; offers }", "our fares &amp; offers",
			`<bdi data-personal="event.order.product">our fares &amp; offers</bdi>`},
		{"{person.name}", "", `<bdi data-personal="person.name"></bdi>`},
		{"{person.name|}", "", `<bdi data-personal="person.name"></bdi>`},
		{"{person.a|x} {person.b|y}", "x y", `<bdi data-personal="person.a">x</bdi> <bdi data-personal="person.b">y</bdi>`},
		{"{countdown} {name} {person} {event.order} {event.a.b.c|x} {person.constructor|x}",
			"{countdown} {name} {person} {event.order} {event.a.b.c|x} {person.constructor|x}",
			"{countdown} {name} {person} {event.order} {event.a.b.c|x} {person.constructor|x}"},
		{`{person.x"onclick=|y}`, `{person.x"onclick=|y}`, `{person.x"onclick=|y}`},
		{"{person.name|<b>x</b>}", "{person.name|<b>x</b>}", "{person.name|<b>x</b>}"},
		{"{person.{person.name|x}}", "{person.x}", `{person.<bdi data-personal="person.name">x</bdi>}`},
	} {
		assert.Equal(t, c.words, personal.Words(c.in), c.in)
		assert.Equal(t, c.html, personal.HTML(c.in), c.in)
	}
	assert.Equal(t, []string{"order.price", "order.product"}, personal.Events([]string{
		"{event.order.product|x} {person.name|x}", "{event.order.price|x}{event.order.product|y}",
	}))
}
