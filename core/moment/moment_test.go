package moment_test

import (
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/moment"
)

func TestSay(t *testing.T) {
	berlin, err := time.LoadLocation("Europe/Berlin")
	require.NoError(t, err)
	now := time.Date(2026, 12, 31, 23, 30, 0, 0, time.UTC) // in Berlin it is 2027 already
	at := time.Date(2026, 12, 31, 23, 45, 5, 0, time.UTC)
	assert.Equal(t, "Thu 31 Dec 23:45:05", moment.Say(at, now, time.UTC))
	assert.Equal(t, "Fri 1 Jan 00:45:05", moment.Say(at, now, berlin))
	assert.Equal(
		t, "Thu 31 Dec 2026 23:00", moment.Say(at.Add(-45*time.Minute-5*time.Second), now.AddDate(1, 0, 0), time.UTC),
	)
}

func TestPeriod(t *testing.T) {
	for p, want := range map[bundle.Period]string{
		"": "until the next page", "page": "until the next page", "session": "for the rest of the visit", "ever": "for good",
		"P1D": "for a day", "P3D": "for 3 days", "P7D": "for a week", "P2W": "for 2 weeks", "P1M": "for a month",
		"P1Y":  "for a year",
		"PT1H": "for an hour", "PT12H": "for 12 hours", "PT90M": "for an hour and 30 minutes",
		"P1DT1S": "for a day and a second",
	} {
		assert.Equal(t, want, moment.Period(p), p)
	}
}
