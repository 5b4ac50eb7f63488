package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"

	"github.com/spf13/cobra"

	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/fault"
)

// maxVisit is how long a line of visits may be, in bytes.
const maxVisit = 4 << 20

func decideCommand() *cobra.Command {
	var bundlePath, visits string
	var explain bool
	cmd := &cobra.Command{
		Use:   "decide --bundle site.json --visits visits.ndjson",
		Short: "Report what shows on each visit, one JSON object per line",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			site, err := compile(cmd, bundlePath)
			if err != nil {
				return err
			}
			f, err := open(cmd, visits)
			if err != nil {
				return err
			}
			defer f.Close()
			lines := bufio.NewScanner(f)
			lines.Buffer(nil, maxVisit)
			out := json.NewEncoder(cmd.OutOrStdout())
			out.SetEscapeHTML(false)
			var wrong fault.Faults
			for n := 1; lines.Scan(); n++ {
				line := bytes.TrimSpace(lines.Bytes())
				if len(line) == 0 {
					continue
				}
				var v decide.Visit
				err := bundle.Unmarshal(line, &v)
				if err == nil {
					err = v.Check()
				}
				if err != nil {
					wrong = append(wrong, fault.Fault{Pointer: fmt.Sprintf("visit %d", n), What: err.Error()})
					continue
				}
				result := site.Explain(v)
				if !explain {
					result.Explain = nil
				}
				if err := out.Encode(result); err != nil {
					return err
				}
			}
			if err := lines.Err(); err != nil {
				return fmt.Errorf("reading the visits: %w", err)
			}
			return wrong.Err()
		},
	}
	bundleFlag(cmd, &bundlePath)
	cmd.Flags().StringVar(&visits, "visits", "-", "file of visits, one JSON object a line; - is standard input")
	cmd.Flags().BoolVar(&explain, "explain", false, "say for each notice how every gate answered")
	return cmd
}

func bundleFlag(cmd *cobra.Command, path *string) {
	cmd.Flags().StringVar(path, "bundle", "", "the site's bundle; - is standard input")
	cmd.MarkFlagRequired("bundle")
}

// compile reads and compiles the bundle at path.
func compile(cmd *cobra.Command, path string) (*decide.Site, error) {
	f, err := open(cmd, path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := bundle.Read(f)
	if err != nil {
		return nil, err
	}
	return decide.Compile(b)
}
