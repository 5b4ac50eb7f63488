package orderline_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/countdown"
	"mastflag/core/orderline"
)

func TestCountdownsInWords(t *testing.T) {
	now := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	for _, row := range []struct{ in, want string }{
		{
			`{"kind":"to","at":"2027-01-01T00:00","clock":"visitor","then":"say"}`,
			"counts down to Fri 1 Jan 2027 00:00 on each visitor’s own clock and then says something else",
		},
		{
			`{"kind":"visitor","for":"P1DT2H","then":"hand-over","handTo":"late-offer"}`,
			"counts down a day and 2 hours from when each visitor first meets it and then hands over to “late-offer”",
		},
		{
			`{"kind":"repeating","at":"2026-11-27T12:00","rule":"FREQ=WEEKLY;BYDAY=FR","clock":"Europe/Warsaw"}`,
			"counts down to every Friday 12:00, from 27 Nov (Europe/Warsaw time)",
		},
		{
			`{"kind":"repeating","at":"2026-11-27T12:00","rule":"FREQ=WEEKLY;COUNT=8","go":"/offers"}`,
			"counts down to every Friday 12:00, from 27 Nov, 8 times; after the last of them " +
				"it disappears; a page on which it runs out goes to /offers",
		},
		{
			`{"kind":"since","at":"2026-11-01T00:00"}`,
			"counts up from Sun 1 Nov 00:00",
		},
		{
			`{"kind":"visitor","for":"PT20M","from":23,"to":3}`,
			"counts from 23 to 3 within 20 minutes from when each visitor first meets it and then stays there",
		},
		{
			`{"kind":"number","at":"2026-11-25T00:00","to":100,"until":"2026-11-30T00:00"}`,
			"counts from 0 to 100 between Wed 25 Nov 00:00 and Mon 30 Nov 00:00 and then stays there",
		},
		{
			`{"kind":"number","at":"2026-11-25T00:00","from":40,"step":-1,"every":"PT1H","to":0,"then":"again"}`,
			"counts from 40 to 0 in steps of 1, one every hour from Wed 25 Nov 00:00, and then begins again",
		},
		{
			`{"kind":"number","at":"2026-11-25T00:00","from":7000,"step":3,"every":"PT30M"}`,
			"counts from 7000 in steps of 3, one every 30 minutes from Wed 25 Nov 00:00",
		},
	} {
		var c countdown.Countdown
		require.NoError(t, json.Unmarshal([]byte(row.in), &c))
		assert.Equal(t, row.want, orderline.Counts(c, now, "Europe/London"))
	}
}
