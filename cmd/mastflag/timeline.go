package main

import (
	"encoding/json"
	"fmt"
	"time"

	"github.com/spf13/cobra"

	"mastflag/core/bundle"
	"mastflag/core/schedule"
)

// timeline is one notice's line of the output.
type timeline struct {
	ID        string     `json:"id"`
	Intervals []interval `json:"intervals"`
	Floating  bool       `json:"floating,omitempty"`
	// When its countdown runs out: from the first place on Earth to the last, where each visitor's own clock decides.
	Ends []interval `json:"ends,omitempty"`
}

type interval struct {
	From  time.Time `json:"from"`
	Until time.Time `json:"until"`
}

func timelineCommand() *cobra.Command {
	var bundlePath, from, until, notice string
	cmd := &cobra.Command{
		Use:   "timeline --bundle site.json --from INSTANT --until INSTANT",
		Short: "List when each notice is live, one JSON object per line",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			start, err := parseInstant("from", from)
			if err != nil {
				return err
			}
			end, err := parseInstant("until", until)
			if err != nil {
				return err
			}
			if !end.After(start) {
				return fmt.Errorf("--until %s is not after --from %s: give a later end", until, from)
			}
			site, err := compile(cmd, bundlePath)
			if err != nil {
				return err
			}
			out := json.NewEncoder(cmd.OutOrStdout())
			found := false
			for _, n := range site.Bundle().Notices {
				if notice != "" && n.ID != notice {
					continue
				}
				found = true
				s := site.Schedule(n.ID)
				t := timeline{ID: n.ID, Intervals: []interval{}, Floating: s.Floating()}
				if n.GetState() == bundle.Published {
					if s.Cut(end) {
						return fmt.Errorf(
							"notice %s repeats more than %d times before --until %s: give an earlier end", n.ID, schedule.MaxOccurrences,
							until,
						)
					}
					for _, i := range s.Range(start, end) {
						t.Intervals = append(t.Intervals, interval{i.From.UTC(), i.Until.UTC()})
					}
					if c := site.Countdown(n.ID); c != nil {
						for _, i := range c.Stretches(start, end) {
							t.Ends = append(t.Ends, interval{i.From.UTC(), i.Until.UTC()})
						}
					}
				}
				if err := out.Encode(t); err != nil {
					return err
				}
			}
			if notice != "" && !found {
				return fmt.Errorf("--notice %s: the bundle has no notice of that id", notice)
			}
			return nil
		},
	}
	bundleFlag(cmd, &bundlePath)
	cmd.Flags().StringVar(&from, "from", "", "start of the range, an RFC 3339 instant")
	cmd.Flags().StringVar(&until, "until", "", "end of the range, an RFC 3339 instant")
	cmd.Flags().StringVar(&notice, "notice", "", "only the notice of this id")
	cmd.MarkFlagRequired("from")
	cmd.MarkFlagRequired("until")
	return cmd
}

func parseInstant(flag, s string) (time.Time, error) {
	t, err := time.Parse(time.RFC3339, s)
	if err != nil {
		return t, fmt.Errorf("--%s %q is not an instant: write it like 2026-12-01T00:00:00Z", flag, s)
	}
	return t.UTC(), nil
}
