package main

import (
	"encoding/json"

	"github.com/spf13/cobra"

	"mastflag/core/results"
)

func resultsCommand() *cobra.Command {
	var counts string
	cmd := &cobra.Command{
		Use:   "results --counts counts.ndjson",
		Short: "Report how many visitors reached a notice's goal, variant by variant, one JSON object per line",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			f, err := open(cmd, counts)
			if err != nil {
				return err
			}
			defer f.Close()
			groups, err := results.Read(f)
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
	cmd.Flags().StringVar(&counts, "counts", "", "file of counts, one JSON object a line; - is standard input")
	return cmd
}
