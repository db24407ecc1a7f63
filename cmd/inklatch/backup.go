package main

import (
	"archive/zip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/spf13/cobra"

	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/store/pgserver"
)

// backupFormat names what a backup file holds: a zip of the parts below.
const backupFormat = "ink-latch-backup/1"

const dumpPart, manifestPart = "database.dump", "manifest.json"

// manifest says what is in a backup file, with the SHA-256 of each part.
type manifest struct {
	Format string            `json:"format"`
	At     time.Time         `json:"at"`
	Parts  map[string]string `json:"parts"`
}

func backupCommand() *cobra.Command {
	return &cobra.Command{
		Use: "backup FILE", Short: "Write everything into one file, while the server runs or not", Args: cobra.ExactArgs(1),
		Long: "Write the database as it stands at one moment, the key that signs the record and its anchors into one file with checksums.\nThe file can sign in the house's name: keep it where nobody else reads.",
		RunE: func(cmd *cobra.Command, args []string) error {
			set, err := read()
			if err != nil {
				return err
			}
			return with(cmd.Context(), func(ctx context.Context, p *place, _ *desk.Desk) error {
				n, err := backup(ctx, set, p, args[0])
				if err != nil {
					return err
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%s: %d bytes\n", args[0], n)
				return nil
			})
		},
	}
}

// backup writes beside the file first and moves it there when it is whole.
func backup(ctx context.Context, set settings, p *place, file string) (n int64, err error) {
	if err := free(file); err != nil {
		return 0, err
	}
	// The files first: an anchor is written down once what it vouches for is committed, so
	// that the database, read later, has all that these speak of.
	beside := map[string][]byte{}
	for _, name := range []string{keyFile, publicFile, anchorsFile} {
		b, err := os.ReadFile(filepath.Join(set.Data, name))
		if errors.Is(err, os.ErrNotExist) {
			continue
		}
		if err != nil {
			return 0, fmt.Errorf("writing the backup: %w", err)
		}
		beside[name] = b
	}
	tmp, err := os.CreateTemp(filepath.Dir(file), ".inklatch-backup-*")
	if err != nil {
		return 0, fmt.Errorf("writing the backup: %w", err)
	}
	defer func() {
		tmp.Close()
		if err != nil {
			os.Remove(tmp.Name())
		}
	}()
	z := zip.NewWriter(tmp)
	m := manifest{Format: backupFormat, At: time.Now().UTC().Truncate(time.Second), Parts: map[string]string{}}
	owner := p.conf.OwnerURL
	if owner == "" {
		owner = p.conf.URL
	}
	if err := part(z, &m, dumpPart, func(w io.Writer) error { return pgserver.Dump(ctx, owner, w) }); err != nil {
		return 0, fmt.Errorf("writing the database: %w", err)
	}
	for _, name := range slices.Sorted(maps.Keys(beside)) {
		if err := part(z, &m, name, func(w io.Writer) error { _, err := w.Write(beside[name]); return err }); err != nil {
			return 0, err
		}
	}
	w, err := z.Create(manifestPart)
	if err != nil {
		return 0, err
	}
	if err := json.NewEncoder(w).Encode(m); err != nil {
		return 0, err
	}
	if err := errors.Join(z.Close(), tmp.Sync()); err != nil {
		return 0, fmt.Errorf("writing the backup: %w", err)
	}
	if n, err = tmp.Seek(0, io.SeekEnd); err != nil {
		return 0, err
	}
	if err := errors.Join(free(file), os.Rename(tmp.Name(), file)); err != nil {
		return 0, fmt.Errorf("writing the backup: %w", err)
	}
	return n, syncFolder(filepath.Dir(file))
}

// free says why a file cannot be written new: something is there already, of whatever kind.
func free(file string) error {
	switch info, err := os.Lstat(file); {
	case errors.Is(err, os.ErrNotExist):
		return nil
	case err != nil:
		return err
	case info.Mode().IsRegular():
		return fmt.Errorf("there is a file %s already. Name another, or move it away; nothing was written", file)
	default:
		return fmt.Errorf("%s is no file that can be written: a folder, a link or a device. Nothing was written", file)
	}
}

// syncFolder makes a name that was given last.
func syncFolder(dir string) error {
	f, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}

// part writes one part and its checksum.
func part(z *zip.Writer, m *manifest, name string, write func(io.Writer) error) error {
	w, err := z.Create(name)
	if err != nil {
		return err
	}
	h := sha256.New()
	if err := write(io.MultiWriter(w, h)); err != nil {
		return err
	}
	m.Parts[name] = hex.EncodeToString(h.Sum(nil))
	return nil
}

func restoreCommand() *cobra.Command {
	return &cobra.Command{
		Use: "restore FILE", Short: "Read a backup into an empty data folder or database", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx := cmd.Context()
			if ctx == nil {
				ctx = context.Background()
			}
			set, err := read()
			if err != nil {
				return err
			}
			z, m, err := openBackup(args[0])
			if err != nil {
				return fmt.Errorf("%s: %w. Nothing was changed", args[0], err)
			}
			defer z.Close()
			r, err := restore(ctx, set, z, m)
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "restored as of %s: %d entries of the record, %d released revisions, %d people\n", m.At.Local().Format("2 January 2006 15:04"), r.Entries, r.Latched, r.People)
			for _, t := range r.Troubles {
				fmt.Fprintln(cmd.OutOrStdout(), t)
			}
			if len(r.Troubles) > 0 {
				return exit(1)
			}
			return nil
		},
	}
}

// openBackup opens a backup and holds every part against its checksum before
// anything is done with one.
func openBackup(file string) (*zip.ReadCloser, *manifest, error) {
	z, err := zip.OpenReader(file)
	if err != nil {
		return nil, nil, fmt.Errorf("this is not a whole backup: %w", err)
	}
	m, err := checked(z)
	if err != nil {
		return nil, nil, errors.Join(err, z.Close())
	}
	return z, m, nil
}

func checked(z *zip.ReadCloser) (*manifest, error) {
	f, err := z.Open(manifestPart)
	if err != nil {
		return nil, errors.New("this is not a backup of Ink Latch: it has no manifest")
	}
	defer f.Close()
	var m manifest
	if err := json.NewDecoder(f).Decode(&m); err != nil {
		return nil, fmt.Errorf("its manifest cannot be read: %w", err)
	}
	if m.Format != backupFormat {
		return nil, fmt.Errorf("it says %q; this program reads %q", m.Format, backupFormat)
	}
	if m.Parts[dumpPart] == "" {
		return nil, errors.New("it has no database in it")
	}
	for name, want := range m.Parts {
		p, err := z.Open(name)
		if err != nil {
			return nil, fmt.Errorf("its part %s is missing", name)
		}
		h := sha256.New()
		_, err = io.Copy(h, p)
		p.Close()
		if err != nil || hex.EncodeToString(h.Sum(nil)) != want {
			return nil, fmt.Errorf("its part %s is damaged: the checksum does not fit", name)
		}
	}
	return &m, nil
}

// unfinished is the folder, in the data folder, in which a house is put together again. One
// that was cut off is left there, and no server makes a house beside it.
const unfinished = ".restoring"

// restore puts every part back where nothing is yet, and then holds the record against
// everything. It is put together apart and moved into its place when it is whole, the
// database first: without its key it is no house that anybody opens.
func restore(ctx context.Context, set settings, z *zip.ReadCloser, m *manifest) (report *store.Report, err error) {
	place, err := empty(set)
	if err != nil {
		return nil, err
	}
	apart := filepath.Join(place, unfinished)
	if err := os.RemoveAll(apart); err != nil { // of one that was cut off
		return nil, err
	}
	if err := os.MkdirAll(apart, 0o755); err != nil {
		return nil, fmt.Errorf("making a folder to restore into: %w", err)
	}
	defer func() { err = errors.Join(err, os.RemoveAll(apart)) }()
	for name := range m.Parts {
		if name != dumpPart {
			if err := unpack(z, name, filepath.Join(apart, filepath.Base(name))); err != nil {
				return nil, err
			}
		}
	}
	owner := set.OwnerURL
	if owner == "" {
		owner = set.DatabaseURL
	}
	stop := func() error { return nil }
	if owner == "" {
		c, err := pgserver.Start(ctx, filepath.Join(apart, "pg"))
		if err != nil {
			return nil, err
		}
		owner, stop = c.OwnerURL, c.Stop
	}
	dump, err := z.Open(dumpPart)
	if err == nil {
		err = pgserver.Load(ctx, owner, dump)
		dump.Close()
	}
	if err := errors.Join(err, stop()); err != nil {
		return nil, fmt.Errorf("reading the database in: %w", err)
	}
	if set.DatabaseURL == "" {
		if err := pgserver.Settle(filepath.Join(apart, "pg"), filepath.Join(place, "pg")); err != nil {
			return nil, fmt.Errorf("putting the restored database in its place: %w", err)
		}
	}
	for _, name := range []string{"pg", publicFile, anchorsFile, keyFile} {
		err := os.Rename(filepath.Join(apart, name), filepath.Join(place, name))
		if err != nil && !errors.Is(err, os.ErrNotExist) {
			return nil, fmt.Errorf("putting what was restored in its place: %w", err)
		}
	}
	if err := os.Remove(apart); err != nil {
		return nil, err
	}
	if err := syncFolder(place); err != nil {
		return nil, err
	}
	p, err := set.open(ctx, slog.New(slog.DiscardHandler), making)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, p.Close()) }()
	kept, err := anchors(filepath.Join(set.Data, anchorsFile))
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return nil, err
	}
	return p.store.Verify(ctx, kept)
}

// empty is the data folder as a path, where there is nothing in it yet.
func empty(set settings) (string, error) {
	place, err := filepath.Abs(set.Data)
	if err != nil {
		return "", err
	}
	there, err := os.ReadDir(place)
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return "", err
	}
	there = slices.DeleteFunc(there, func(e os.DirEntry) bool { return e.Name() == unfinished })
	if len(there) > 0 {
		return "", fmt.Errorf("there is a %s in %s already. Move the folder away, or name another in INKLATCH_DATA. Nothing was changed", there[0].Name(), set.Data)
	}
	if at, err := pgserver.Exists(filepath.Join(place, "pg")); err == nil && set.DatabaseURL == "" {
		return "", fmt.Errorf("there is a database of this folder in %s already. Move it away, or name another folder in INKLATCH_DATA. Nothing was changed", at)
	}
	return place, nil
}

func unpack(z *zip.ReadCloser, name, to string) error {
	in, err := z.Open(name)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return fmt.Errorf("putting %s back: %w", name, err)
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Close())
}
