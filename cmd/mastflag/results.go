package main

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/spf13/cobra"

	"mastflag/core/results"
	"mastflag/internal/counting"
	"mastflag/internal/store"
)

func resultsCommand() *cobra.Command {
	var dir, key, counts string
	var f store.ResultFilter
	cmd := &cobra.Command{
		Use:   "results (--data DIR --site KEY [--notice ID] | --counts FILE)",
		Short: "Report how many visitors reached each notice's goal, variant by variant, one JSON object per line",
		Long: `Report how many visitors met each notice and how many reached its goal, one variant
a line, and the difference from the notice's first variant. Shares are left out where
fewer than 30 visitors have met one. "always" holds whenever one looks, and decides.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			var groups []results.Group
			var err error
			if counts != "" {
				groups, err = readCounts(cmd, counts)
			} else {
				groups, err = countedGroups(cmd, dir, key, f)
			}
			if err != nil {
				return err
			}
			out := json.NewEncoder(cmd.OutOrStdout())
			out.SetEscapeHTML(false)
			for _, r := range results.Compare(groups) {
				if err := out.Encode(r); err != nil {
					return err
				}
			}
			return nil
		},
	}
	dataFlag(cmd, &dir)
	flags := cmd.Flags()
	flags.StringVar(&key, "site", "", "key of the site")
	flags.StringVar(&f.Notice, "notice", "", "id of one notice; all that were counted if absent")
	flags.StringVar(&f.From, "from", "", "first day on the site's calendar, such as 2026-12-04")
	flags.StringVar(&f.Until, "until", "", "last day")
	flags.StringVar(&counts, "counts", "", "file of counts, one JSON object a line; - is standard input")
	cmd.MarkFlagsMutuallyExclusive("counts", "site")
	cmd.MarkFlagsMutuallyExclusive("counts", "notice")
	cmd.MarkFlagsOneRequired("counts", "site")
	return cmd
}

func readCounts(cmd *cobra.Command, path string) ([]results.Group, error) {
	f, err := open(cmd, path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return results.Read(f)
}

// countedGroups returns the groups of a site's notices that were counted in the days that are meant.
func countedGroups(cmd *cobra.Command, dir, key string, f store.ResultFilter) ([]results.Group, error) {
	for _, d := range []string{f.From, f.Until} {
		if _, err := time.Parse(time.DateOnly, cmp.Or(d, "2026-12-04")); err != nil {
			return nil, fmt.Errorf("%q is no day: write it like 2026-12-04", d)
		}
	}
	st, err := openExisting(cmd, dir)
	if err != nil {
		return nil, err
	}
	defer st.Close()
	if _, err := st.Site(cmd.Context(), key); err != nil {
		return nil, fmt.Errorf("site %q: %w", key, err)
	}
	notices, err := chosen(cmd.Context(), st, key, f.Notice)
	if err != nil {
		return nil, err
	}
	var all []results.Group
	for _, n := range notices {
		_, groups, err := counting.Groups(cmd.Context(), st, key, n, f)
		if err != nil {
			return nil, err
		}
		met := 0
		for _, g := range groups {
			met += g.Visitors
		}
		if met > 0 || f.Notice != "" {
			all = append(all, groups...)
		}
	}
	return all, nil
}

// chosen returns one notice, or all that are out if id is "".
func chosen(ctx context.Context, st *store.Store, key, id string) ([]store.Notice, error) {
	if id == "" {
		return st.Notices(ctx, key)
	}
	n, err := st.Notice(ctx, key, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, fmt.Errorf("site %q has no notice %q", key, id)
	}
	return []store.Notice{n}, err
}
