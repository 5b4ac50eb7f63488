package delivery

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

var noon = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

// How often pages may write, exactly as the rules say it (Records, F6, E1): at once, and from then
// on; of one network, and of one site, whatever networks its pages are asked from. A refusal says
// when the next is taken, and counts nothing.
func TestLimitsAreThoseOfTheRules(t *testing.T) {
	for name, c := range map[string]struct {
		limits             func() *limits
		atOnce, siteAtOnce int
		each, siteEach     time.Duration
	}{
		"answers": {answerLimits, 300, 3000, time.Second / 2, time.Second / 1000},
		"forms":   {formLimits, 30, 1000, 5 * time.Second, time.Second / 50},
		"counts":  {countLimits, 2000, 20_000, time.Second / 20, time.Second / 5000},
	} {
		t.Run(name, func(t *testing.T) {
			l, now := c.limits(), noon
			take := func(network string) time.Duration { return l.wait("s", network, now) }
			for i := range c.atOnce {
				assert.Zero(t, take("a"), i)
			}
			assert.InDelta(t, c.each, take("a"), 10, "one more has to wait")
			assert.InDelta(t, c.each, take("a"), 10, "and is not put off by having asked")
			assert.Zero(t, take("b"), "another network")
			assert.Zero(t, l.wait("other", "a", now), "another site")
			now = now.Add(c.each - time.Millisecond)
			assert.Positive(t, take("a"))
			now = now.Add(time.Millisecond)
			assert.Zero(t, take("a"))
			assert.Positive(t, take("a"))

			l, now = c.limits(), noon
			for i := range c.siteAtOnce {
				assert.Zero(t, take(fmt.Sprintf("n%d", i%(c.siteAtOnce/10))), i)
			}
			assert.InDelta(t, c.siteEach, take("new"), 10, "the site has no more, whoever asks")
			assert.Zero(t, l.wait("other", "new", now))
			now = now.Add(c.siteEach)
			assert.Zero(t, take("new"))
			assert.Positive(t, take("newer"))
		})
	}
}

// How long marks can be used, to the minute: two hours for answers and forms, and no longer; and
// by a clock that was set back five minutes at most.
func TestMarksRunOut(t *testing.T) {
	m := &marks{secret: []byte("secret")}
	answer, form := m.of("s", noon), m.ofForm("s", noon)
	for after, holds := range map[time.Duration]bool{
		0: true, 2*time.Hour - time.Minute: true, 2*time.Hour - time.Millisecond: true, 2 * time.Hour: false,
		24 * time.Hour: false, -5*time.Minute + time.Second: true, -5 * time.Minute: false, -time.Hour: false,
	} {
		now := noon.Add(after)
		assert.Equal(t, holds, m.holds("s", answer, now), "an answer after %s", after)
		age, ok := m.formAge("s", form, now)
		assert.Equal(t, holds, ok, "a form after %s", after)
		if ok {
			assert.Equal(t, after, age)
		}
		assert.False(t, m.holds("other", answer, now), "another site's")
		_, ok = m.formAge("other", form, now)
		assert.False(t, ok)
		assert.False(t, m.holds("s", form, now), "one of a form is none of an answer")
		assert.False(t, m.holds("s", answer+"A", now))
	}
	other := &marks{secret: []byte("another")}
	assert.False(t, other.holds("s", answer, noon), "nobody makes one without the secret")
}

// One network among many is set aside once it has had more than 200 acts of a day and more than a
// tenth of all, and not before; never where at most 20 networks took part.
func TestCrowds(t *testing.T) {
	key := crowdKey{"s", "n", "2026-12-04"}
	c := newCrowds()
	for i := range 20 {
		assert.False(t, c.take(key, fmt.Sprintf("n%d", i), 1))
	}
	assert.False(t, c.take(key, "many", 200))
	assert.True(t, c.take(key, "many", 1), "the 201st, with 20 others")
	assert.False(t, c.take(key, "n0", 1), "others go on")
	assert.False(t, c.take(crowdKey{"s", "n", "2026-12-05"}, "many", 1), "another day")
	assert.False(t, c.take(crowdKey{"s", "m", "2026-12-04"}, "many", 1), "another notice")

	c = newCrowds()
	for i := range 19 {
		c.take(key, fmt.Sprintf("n%d", i), 1)
	}
	assert.False(t, c.take(key, "many", 5000), "an office behind one address, with 19 others")

	c = newCrowds()
	for i := range 30 {
		c.take(key, fmt.Sprintf("n%d", i), 150)
	}
	assert.False(t, c.take(key, "many", 500), "500 of 5,000 are a tenth")
	assert.True(t, c.take(key, "many", 1))
}
