package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"glossator/archive"
	"glossator/store"
)

// databaseFlag is the flag that names a database; the one that serve uses where it is absent.
func databaseFlag(c *cobra.Command, db *string) {
	c.Flags().StringVar(db, "db", "", "database file (default: the one in your configuration folder)")
}

// ownDatabase gives the database that serve uses where none is named.
func ownDatabase(db string) (string, error) {
	if db != "" {
		return db, nil
	}
	dir, err := os.UserConfigDir()
	if err != nil {
		return "", fmt.Errorf("there is no folder for your data: name a file with --db: %w", err)
	}
	return filepath.Join(dir, "glossator", "glossator.db"), nil
}

func backupCommand() *cobra.Command {
	var db, out string
	c := &cobra.Command{
		Use:     "backup --out FILE",
		Short:   "Writes a whole database into a file, also while the program runs",
		Example: "  glossator backup --db my-patches.db --out my-patches-sunday.db",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if out == "" {
				return usageError{errors.New("backup needs --out FILE")}
			}
			db, err := ownDatabase(db)
			if err != nil {
				return err
			}
			if err := store.BackupTo(db, out); err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s holds what %s does\n", out, db)
			return nil
		},
	}
	databaseFlag(c, &db)
	c.Flags().StringVar(&out, "out", "", "file to write; it may not be there yet")
	return c
}

func restoreCommand() *cobra.Command {
	var db, from string
	c := &cobra.Command{
		Use:   "restore --from FILE",
		Short: "Puts a backup in the place of all that a database holds, after a backup of it",
		Long: `Puts a backup in the place of all that a database holds. What stood there before is kept as a backup beside it.
While the program runs with that database, restore in the page, under Keep.`,
		Example: "  glossator restore --db my-patches.db --from my-patches-sunday.db",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if from == "" {
				return usageError{errors.New("restore needs --from FILE")}
			}
			db, err := ownDatabase(db)
			if err != nil {
				return err
			}
			f, err := os.Open(from)
			if err != nil {
				return err
			}
			defer f.Close()
			st, err := store.Open(db)
			if err != nil {
				return err
			}
			defer func() { _ = st.Close() }()
			before, err := st.Restore(f)
			if err != nil {
				return fmt.Errorf("%s: %w", from, err)
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s holds what %s does; what stood there before is %s\n", db, from, filepath.Join(st.BackupFolder(), before.Name))
			return nil
		},
	}
	databaseFlag(c, &db)
	c.Flags().StringVar(&from, "from", "", "backup to restore")
	return c
}

func archiveCommand() *cobra.Command {
	var db, out, patches string
	var force bool
	c := &cobra.Command{
		Use:     "archive --out FILE.zip",
		Short:   "Writes patches with their sheets, panels, log and photographs into one file",
		Example: "  glossator archive --db my-patches.db --patches keel,gulls --out job.zip",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if out == "" {
				return usageError{errors.New("archive needs --out FILE.zip")}
			}
			if err := notThere(out, force); err != nil {
				return err
			}
			db, err := ownDatabase(db)
			if err != nil {
				return err
			}
			st, err := existing(db)
			if err != nil {
				return err
			}
			defer func() { _ = st.Close() }()
			opt := archive.Options{Program: Version}
			for _, id := range strings.Split(patches, ",") {
				if id = strings.TrimSpace(id); id != "" {
					opt.Patches = append(opt.Patches, id)
				}
			}
			f, err := os.CreateTemp(filepath.Dir(out), ".making-*")
			if err != nil {
				return err
			}
			defer func() { _ = os.Remove(f.Name()) }()
			err = archive.Write(f, st, opt)
			if err = errors.Join(err, f.Close()); errors.Is(err, store.ErrNotFound) {
				return fmt.Errorf("--patches: not all of %q are in %s", patches, db)
			}
			if err != nil {
				return err
			}
			return os.Rename(f.Name(), out)
		},
	}
	databaseFlag(c, &db)
	c.Flags().StringVar(&out, "out", "", "file to write")
	c.Flags().StringVar(&patches, "patches", "", "ids of patches, with commas between; all that is there where absent")
	c.Flags().BoolVar(&force, "force", false, "write over a file that is there")
	return c
}

// existing opens a database that is there.
func existing(db string) (*store.Store, error) {
	if _, err := os.Stat(db); err != nil {
		return nil, err
	}
	return store.Open(db)
}

func importCommand() *cobra.Command {
	var db string
	c := &cobra.Command{
		Use:     "import ARCHIVE.zip",
		Short:   "Puts an archive beside what a database holds; nothing is written over",
		Example: "  glossator import job.zip --db my-patches.db",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			db, err := ownDatabase(db)
			if err != nil {
				return err
			}
			f, err := os.Open(args[0])
			if err != nil {
				return err
			}
			defer f.Close()
			info, err := f.Stat()
			if err != nil {
				return err
			}
			a, err := archive.Open(f, info.Size())
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			st, err := store.Open(db)
			if err != nil {
				return err
			}
			defer func() { _ = st.Close() }()
			t, err := a.Take(st, filepath.Base(args[0]))
			if err != nil {
				return err
			}
			w := cmd.OutOrStdout()
			fmt.Fprintf(w, "new: %d panels, %d patches, %d sheets; here already: %d\n", t.Panels, t.Patches, t.Sheets, t.Same)
			for _, x := range t.Renamed {
				fmt.Fprintf(w, "under another id, since theirs is taken here: %s\n", x)
			}
			for _, x := range t.Aside {
				fmt.Fprintf(w, "left aside: %s\n", x)
			}
			return nil
		},
	}
	databaseFlag(c, &db)
	return c
}
