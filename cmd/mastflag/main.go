// Command mastflag tells every visitor of a site something, on the right
// pages, at the right time, and takes it away again.
package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	_ "time/tzdata" // zones ship with the program

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"mastflag/core/fault"
)

// Exit codes of every verb.
const (
	exitFindings = 1
	exitBadInput = 2
)

// errFindings ends a verb that worked and has something to report.
var errFindings = errors.New("there are findings")

func main() { os.Exit(run(os.Args[1:], os.Stdin, os.Stdout, os.Stderr)) }

// run carries out one command line and returns its exit code.
func run(args []string, in io.Reader, out, errs io.Writer) int {
	root := &cobra.Command{
		Use:           "mastflag",
		Short:         "Announcement bars for websites: on the right pages, at the right time, and gone again afterwards",
		SilenceErrors: true, SilenceUsage: true,
		PersistentPreRunE: func(cmd *cobra.Command, _ []string) error { return fromEnvironment(cmd.Flags()) },
	}
	root.SetArgs(args)
	root.SetIn(in)
	root.SetOut(out)
	root.SetErr(errs)
	root.CompletionOptions.DisableDefaultCmd = true
	root.AddCommand(
		decideCommand(),
		timelineCommand(),
		checkCommand(),
		exportCommand(),
		importCommand(),
		backupCommand(),
		restoreCommand(),
		verifyRecordsCommand(),
		resultsCommand(),
		doctorCommand(),
		letInCommand(),
		versionCommand(),
		demoCommand(),
		serveCommand(),
	)
	err := root.Execute()
	switch {
	case err == nil:
		return 0
	case errors.Is(err, errFindings):
		return exitFindings
	}
	var faults fault.Faults
	if errors.As(err, &faults) {
		for _, f := range faults {
			fmt.Fprintln(errs, "mastflag:", f.Error())
		}
	} else {
		for line := range strings.SplitSeq(err.Error(), "\n") {
			fmt.Fprintln(errs, "mastflag:", line)
		}
	}
	return exitBadInput
}

// fromEnvironment gives every flag that was not set the value of its
// variable: --listen is MASTFLAG_LISTEN.
func fromEnvironment(flags *pflag.FlagSet) error {
	var err error
	flags.VisitAll(func(f *pflag.Flag) {
		name := "MASTFLAG_" + strings.ToUpper(strings.ReplaceAll(f.Name, "-", "_"))
		if v, ok := os.LookupEnv(name); ok && !f.Changed && err == nil {
			if e := flags.Set(f.Name, v); e != nil {
				err = fmt.Errorf("%s: %w", name, e)
			}
		}
	})
	return err
}

// open opens a file to read; "-" is standard input.
func open(cmd *cobra.Command, path string) (io.ReadCloser, error) {
	if path == "-" {
		return io.NopCloser(cmd.InOrStdin()), nil
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	return f, nil
}
