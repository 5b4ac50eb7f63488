package main

import (
	"encoding/json"
	"fmt"

	"github.com/spf13/cobra"

	"mastflag/core/consent"
)

func verifyRecordsCommand() *cobra.Command {
	var dir, key, head string
	cmd := &cobra.Command{
		Use: "verify-records",
		Short: "Verify that no record of consent or acknowledgement was altered, dropped, inserted or moved; exits 1 if " +
			"one was",
		Long: `Prove that no record of consent or acknowledgement was altered, dropped, put in or moved, one site
a line. A hash that was noted earlier (the last line of an earlier proof, or of
a receipt) is looked for with --head: a chain that was made anew from its
beginning does not hold it.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			st, err := openExisting(cmd, dir)
			if err != nil {
				return err
			}
			defer st.Close()
			sites, err := st.Sites(cmd.Context())
			if err != nil {
				return err
			}
			var noted consent.Digest
			if head != "" {
				if noted, err = consent.ReadDigest(head); err != nil {
					return fmt.Errorf("--head: %w", err)
				}
			}
			out := json.NewEncoder(cmd.OutOrStdout())
			found, known, broken := head == "", key == "", false
			for _, s := range sites {
				if key != "" && s.Key != key {
					continue
				}
				known = true
				line := struct {
					Site string `json:"site"`
					consent.Proof
					Whole bool   `json:"whole"`
					Why   string `json:"why,omitempty"`
				}{Site: s.Key}
				end, err := st.ConsentHead(cmd.Context(), s.Key)
				if err != nil {
					return err
				}
				links := st.ConsentLinks(cmd.Context(), s.Key)
				line.Proof, err = consent.Verify(func(yield func(consent.Link, error) bool) {
					for l, err := range links {
						found = found || l.Hash == noted
						if !yield(l, err) {
							return
						}
					}
				}, end)
				if line.Whole = err == nil; err != nil {
					line.Why, broken = err.Error(), true
				}
				if err := out.Encode(line); err != nil {
					return err
				}
			}
			switch {
			case !known:
				return fmt.Errorf("there is no site %q", key)
			case !found:
				fmt.Fprintf(
					cmd.ErrOrStderr(), "mastflag: no record has the hash %s: the chain was made anew since it was noted\n", head,
				)
				return errFindings
			case broken:
				return errFindings
			}
			return nil
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&key, "site", "", "the site's key; all sites if not given")
	cmd.Flags().StringVar(&head, "head", "", "a hash that was noted earlier, which has to be in a chain")
	return cmd
}
