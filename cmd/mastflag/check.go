package main

import (
	"encoding/json"
	"time"

	"github.com/spf13/cobra"

	"mastflag/core/findings"
)

func checkCommand() *cobra.Command {
	var bundlePath, at string
	cmd := &cobra.Command{
		Use:   "check --bundle site.json",
		Short: "Report problems that can be found before anyone visits, one per line; exits 1 if there are any",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			now := time.Now().UTC()
			if at != "" {
				var err error
				if now, err = parseInstant("at", at); err != nil {
					return err
				}
			}
			site, err := compile(cmd, bundlePath)
			if err != nil {
				return err
			}
			found, err := findings.Check(cmd.Context(), site, now)
			if err != nil {
				return err
			}
			out := json.NewEncoder(cmd.OutOrStdout())
			out.SetEscapeHTML(false)
			for _, f := range found {
				if err := out.Encode(f); err != nil {
					return err
				}
			}
			if len(found) > 0 {
				return errFindings
			}
			return nil
		},
	}
	bundleFlag(cmd, &bundlePath)
	cmd.Flags().StringVar(&at, "at", "", "the instant to check at; now if not given")
	return cmd
}
