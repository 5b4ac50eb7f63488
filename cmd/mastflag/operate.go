package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"mastflag/core/pages"
	"mastflag/internal/access"
	"mastflag/internal/doctor"
	"mastflag/internal/history"
	"mastflag/internal/inspect"
	"mastflag/internal/store"
	"mastflag/internal/version"
)

func versionCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "version",
		Short: "Print the version",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			_, err := fmt.Fprintln(cmd.OutOrStdout(), version.Build())
			return err
		},
	}
}

func restoreCommand() *cobra.Command {
	var dir, from string
	cmd := &cobra.Command{
		Use:   "restore --from FILE",
		Short: "Replace the data with a backup; what was there is kept beside it",
		Long: `Put a backup in place of the data. The backup is looked at first: whether it is
whole, of a version that this program knows, and its chains of consent records
sound. Where it is not, nothing is changed. What was there is moved into a folder
of its own. The program must not be running on the data meanwhile.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			kept, err := store.Restore(cmd.Context(), from, dir, time.Now())
			if errors.Is(err, store.ErrInUse) {
				return fmt.Errorf("%w: stop the program first", err)
			}
			if err != nil {
				return err
			}
			return json.NewEncoder(cmd.OutOrStdout()).Encode(map[string]string{"restored": from, "kept": kept})
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&from, "from", "", "the backup")
	cmd.MarkFlagRequired("from")
	return cmd
}

func letInCommand() *cobra.Command {
	var dir, email, address string
	cmd := &cobra.Command{
		Use:   "let-in --email ADDRESS",
		Short: "Print a link with which someone who works here sets a new password",
		Long: `Print an address at which someone who works here chooses a new password, within
a day. It is shown this once and is kept as a hash. The old password holds until
then; after it, all their sessions have ended.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			base, err := pages.Origin(address)
			if err != nil {
				return fmt.Errorf("--address: %w", err)
			}
			st, err := openExisting(cmd, dir)
			if err != nil {
				return err
			}
			defer st.Close()
			link, err := letIn(cmd.Context(), st, strings.ToLower(strings.TrimSpace(email)), base, time.Now().UTC())
			if err != nil {
				return err
			}
			_, err = fmt.Fprintln(cmd.OutOrStdout(), link)
			return err
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&email, "email", "", "whose")
	cmd.Flags().StringVar(&address, "address", "http://127.0.0.1:8080", "address that people reach the program by")
	cmd.MarkFlagRequired("email")
	return cmd
}

func letIn(ctx context.Context, st *store.Store, email, base string, now time.Time) (link string, err error) {
	p, err := st.Person(ctx, email)
	if errors.Is(err, store.ErrNotFound) {
		return "", fmt.Errorf("nobody with the address %q works here", email)
	}
	if err != nil {
		return "", err
	}
	token, hash := access.NewToken()
	return base + "/join#" + token, st.Together(ctx, func(st *store.Store) error {
		i := store.Invitation{Person: p, Token: hash, Purpose: store.Password, Ends: now.Add(24 * time.Hour)}
		if p.Password == "" {
			i.Purpose = store.ToJoin
		}
		m := store.Message{
			At:      now,
			From:    "let-in",
			To:      email,
			Subject: "A new password for Mast Flag",
			Body:    "The way to it was printed by the command let-in.\n",
			Private: true,
		}
		if err := st.PutInvitation(ctx, i, m); err != nil {
			return err
		}
		return st.AddHistory(ctx, "", "", store.Entry{
			At:   now,
			By:   store.By{Name: "let-in"},
			Deed: history.LetIn.With(email),
		})
	})
}

func doctorCommand() *cobra.Command {
	var dir, address string
	var proxies []string
	var withoutSandbox bool
	cmd := &cobra.Command{
		Use:   "doctor",
		Short: "Check settings, disk, clock, certificate, data and snippets; exits 1 if something is wrong",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if address != "" {
				var err error
				if address, err = pages.Origin(address); err != nil {
					return fmt.Errorf("--address: %w", err)
				}
			}
			wrong := false
			doctor.Examine(cmd.Context(), doctor.Options{
				Data:           dir,
				Address:        address,
				Proxies:        proxies,
				Chromium:       inspect.Chromium(),
				WithoutSandbox: withoutSandbox,
				Now:            time.Now(),
			}, func(l doctor.Line) {
				wrong = wrong || l.State == doctor.Wrong
				fmt.Fprintln(cmd.OutOrStdout(), l)
			})
			if wrong {
				return errFindings
			}
			return nil
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&address, "address", "", "address that people reach the program by, to look at it from outside")
	cmd.Flags().StringSliceVar(&proxies, "trusted-proxies", nil, "as serve has them")
	cmd.Flags().BoolVar(&withoutSandbox, "inspect-without-sandbox", false, "as serve has it")
	return cmd
}
