package personal_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"mastflag/core/markup"
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
		{"{event.b.count|x}", "{event.b.count|x}", "{event.b.count|x}"},
		{"{event.b.daysSince}", "{event.b.daysSince}", "{event.b.daysSince}"},
		{"{person.name|in {countdown}}", "{person.name|in {countdown}}", "{person.name|in {countdown}}"},
		{"{person.name|to {name} or {hours}}", "to {name} or {hours}",
			`<bdi data-personal="person.name">to {name} or {hours}</bdi>`},
		{"{person.{person.name|x}}", "{person.x}", `{person.<bdi data-personal="person.name">x</bdi>}`},
	} {
		assert.Equal(t, c.words, personal.Words(c.in), c.in)
		assert.Equal(t, c.html, personal.HTML(c.in), c.in)
	}
	assert.Empty(t, personal.Mistaken("{person.name|x} {name} {person} {countdown}"))
	assert.Equal(t, []string{"{person.name|<", "{event.b.count|x}", "{person.constructor}", "{event.order|x}", "{person."},
		personal.Mistaken("{person.name|<b>x</b>}{event.b.count|x}{person.constructor}{event.order|x}{person.{name}}"))
	assert.Equal(t, []string{"order.price", "order.product"}, personal.Events([]string{
		"{event.order.product|x} {person.name|x}", "{event.order.price|x}{event.order.product|y}",
	}))
}

// Within a tag no element can stand: the words do, and the markup stays what it was.
func TestPlacesWithinTags(t *testing.T) {
	for in, want := range map[string]string{
		`<img alt="{person.name|z}">`:                    `<img alt="z">`,
		`<p lang="{person.name}">{person.name|you}</p>`:  `<p lang=""><bdi data-personal="person.name">you</bdi></p>`,
		`<a href="/a?x={person.name|z}">{person.name|q}`: `<a href="/a?x=z"><bdi data-personal="person.name">q</bdi>`,
		`a < b {person.name|q}`:                          `a < b <bdi data-personal="person.name">q</bdi>`,
	} {
		assert.Equal(t, want, personal.HTML(in))
	}
	for _, address := range []string{"/a?x={person.name|z}", "/a?x=%7Bperson.name%7d", "https://x.example/{event.a.b}"} {
		assert.True(t, personal.In(address), address)
		assert.Contains(t, markup.HrefFault(address), "no address does")
	}
	assert.False(t, personal.In("/person.name/{name}"))
}
