package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"inklatch/internal/store"
	"inklatch/internal/store/pgserver"
)

func upgradeCommand() *cobra.Command {
	var again bool
	c := &cobra.Command{
		Use: "upgrade", Short: "Bring the database folder to the newest PostgreSQL that is installed, through a backup", Args: cobra.NoArgs,
		Long: "Bring the database folder to the newest PostgreSQL that is installed, while nothing serves the house. Both the one it was made with and the newest have to be installed.\nEverything is read out of the old database into a new one beside it, the record is held against it, and only then do they change places. The old one stays beside it.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			set, err := read()
			if err != nil {
				return err
			}
			ctx := cmd.Context()
			if ctx == nil {
				ctx = context.Background()
			}
			old, err := upgrade(ctx, set, again)
			if err != nil {
				return err
			}
			if old == "" {
				fmt.Fprintln(cmd.OutOrStdout(), "the database is of the newest PostgreSQL that is installed")
				return nil
			}
			fmt.Fprintf(cmd.OutOrStdout(), "the database is of PostgreSQL %d now; the old one is kept in %s until you take it away\n", pgserver.Newest(), old)
			return nil
		},
	}
	c.Flags().BoolVar(&again, "again", false, "also where the database is of the newest one already: it is written anew, without what deleted rows have left")
	return c
}

// upgrade gives where the old database is kept, empty where nothing was to be done.
func upgrade(ctx context.Context, set settings, again bool) (old string, err error) {
	if set.DatabaseURL != "" {
		return "", errors.New("the database in DATABASE_URL is not this program's to upgrade")
	}
	dir := filepath.Join(set.Data, "pg")
	at, err := pgserver.Exists(dir)
	if errors.Is(err, pgserver.ErrNone) {
		return "", fmt.Errorf("there is no house in %s, and none was made", set.Data)
	}
	if err != nil {
		return "", err
	}
	made, err := pgserver.Major(at)
	if err != nil || made == pgserver.Newest() && !again {
		return "", err
	}
	fresh, old := at+".new", fmt.Sprintf("%s.%d", at, made)
	for n := 2; ; n++ {
		if _, err := os.Stat(old); errors.Is(err, os.ErrNotExist) {
			break
		}
		old = fmt.Sprintf("%s.%d-%d", at, made, n)
	}
	if err := os.RemoveAll(fresh); err != nil { // one that was cut off
		return "", err
	}
	if err := set.copyOver(ctx, dir, fresh); err != nil {
		return "", errors.Join(err, os.RemoveAll(fresh))
	}
	if err := os.Rename(at, old); err != nil {
		return "", err
	}
	if err := os.Rename(fresh, at); err != nil {
		return "", errors.Join(err, os.Rename(old, at))
	}
	return old, syncFolder(filepath.Dir(at))
}

// copyOver reads everything out of one database into a new one, gives the application its
// rights there, and holds the record against it.
func (s settings) copyOver(ctx context.Context, from, to string) (err error) {
	a, err := pgserver.Start(ctx, from)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, a.Stop()) }()
	b, err := pgserver.Start(ctx, to)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, b.Stop()) }()
	dump, err := os.CreateTemp("", "inklatch-upgrade-*")
	if err != nil {
		return err
	}
	defer os.Remove(dump.Name())
	defer dump.Close()
	if err := pgserver.Dump(ctx, a.OwnerURL, dump); err != nil {
		return fmt.Errorf("reading the old database: %w", err)
	}
	if _, err := dump.Seek(0, 0); err != nil {
		return err
	}
	if err := pgserver.Load(ctx, b.OwnerURL, dump); err != nil {
		return fmt.Errorf("writing the new database: %w", err)
	}
	return s.holds(ctx, b)
}

// holds opens a database that has just been written and says what does not fit in it.
func (s settings) holds(ctx context.Context, c *pgserver.Cluster) (err error) {
	key, err := readKey(filepath.Join(s.Data, keyFile))
	if err != nil {
		return err
	}
	st, err := store.Open(ctx, store.Config{URL: c.URL, OwnerURL: c.OwnerURL, Key: key, Former: s.former(), Keep: s.keeper()})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, st.Close()) }()
	kept, err := anchors(filepath.Join(s.Data, anchorsFile))
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	r, err := st.Verify(ctx, kept)
	if err == nil && len(r.Troubles) > 0 {
		return fmt.Errorf("the old database stays in its place, for the new one does not fit the record: %s", r.Troubles[0])
	}
	return err
}
