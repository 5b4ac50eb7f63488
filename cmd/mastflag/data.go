package main

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"mastflag/core/bundle"
	"mastflag/internal/compiled"
	"mastflag/internal/importing"
	"mastflag/internal/store"
)

func dataFlag(cmd *cobra.Command, dir *string) {
	cmd.Flags().StringVar(dir, "data", "data", "folder that holds all data")
}

// openExisting opens the data folder of a program that has run before.
func openExisting(cmd *cobra.Command, dir string) (*store.Store, error) {
	if _, err := os.Stat(filepath.Join(dir, store.FileName)); err != nil {
		return nil, fmt.Errorf("--data %s holds no data of this program: name the folder that serve or demo uses", dir)
	}
	if err := store.Current(cmd.Context(), dir); err != nil {
		return nil, err
	}
	return store.Open(cmd.Context(), dir)
}

func exportCommand() *cobra.Command {
	var dir, key string
	cmd := &cobra.Command{
		Use:   "export --site KEY",
		Short: "Write a site's bundle",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			st, err := openExisting(cmd, dir)
			if err != nil {
				return err
			}
			defer st.Close()
			if key == "" {
				sites, err := st.Sites(cmd.Context())
				if err != nil {
					return err
				}
				if len(sites) != 1 {
					return fmt.Errorf("there are %d sites: name one with --site", len(sites))
				}
				key = sites[0].Key
			}
			b, err := compiled.Load(cmd.Context(), st, key)
			if err != nil {
				return fmt.Errorf("site %q: %w", key, err)
			}
			return bundle.Write(cmd.OutOrStdout(), b)
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&key, "site", "", "the site's key; the only site if not given")
	return cmd
}

func importCommand() *cobra.Command {
	var dir, path string
	cmd := &cobra.Command{
		Use:   "import --bundle site.json",
		Short: "Import a bundle: its site, pages and notices; notices that it does not name are kept",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			f, err := open(cmd, path)
			if err != nil {
				return err
			}
			defer f.Close()
			b, err := bundle.Read(f)
			if err != nil {
				return err
			}
			st, err := store.Open(cmd.Context(), dir)
			if err != nil {
				return err
			}
			defer st.Close()
			done, err := importing.Bundle(cmd.Context(), st, b, store.By{Name: "import"}, time.Now().UTC())
			if err != nil {
				return err
			}
			return json.NewEncoder(cmd.OutOrStdout()).Encode(map[string]any{"site": b.Site.Key, "done": done})
		},
	}
	dataFlag(cmd, &dir)
	bundleFlag(cmd, &path)
	return cmd
}

func backupCommand() *cobra.Command {
	var dir, to string
	cmd := &cobra.Command{
		Use:   "backup --to FILE",
		Short: "Write a consistent copy of all data, also while the program runs",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			st, err := openExisting(cmd, dir)
			if err != nil {
				return err
			}
			defer st.Close()
			if err := st.Backup(cmd.Context(), to); err != nil {
				return err
			}
			return json.NewEncoder(cmd.OutOrStdout()).Encode(map[string]string{"backup": to})
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&to, "to", "", "the file to write; it must not exist yet")
	cmd.MarkFlagRequired("to")
	return cmd
}
