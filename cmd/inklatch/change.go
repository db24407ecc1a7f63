package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/review/replace"
	"inklatch/internal/format/latchjson"
)

// changeReport is where something stands in one file.
type changeReport struct {
	File  string          `json:"file"`
	Page  []replace.Place `json:"page"`
	Sheet []replace.Place `json:"sheet"`
	// Near are values that come near and are left alone.
	Near []string `json:"near"`
}

func changeCommand() *cobra.Command {
	var write, asJSON bool
	var only []string
	c := &cobra.Command{
		Use: "change FROM TO FILE...", Short: "Where a term or value stands in latch files, and what it becomes; exit 1 when it stands nowhere", Args: cobra.MinimumNArgs(3),
		RunE: func(cmd *cobra.Command, args []string) error {
			ch, err := replace.Of(args[0], args[1])
			if err != nil {
				return err
			}
			var wanted func(string) bool
			if len(only) > 0 {
				wanted = func(key string) bool { return slices.Contains(only, key) }
			}
			found := 0
			var changed []changedFile
			for _, f := range args[2:] {
				d, err := readFile(f)
				if err != nil {
					return fmt.Errorf("%s: %w", f, err)
				}
				r, after, err := changeIn(ch, d, wanted)
				if err != nil {
					return fmt.Errorf("%s: %w", f, err)
				}
				r.File = f
				found += len(r.Page) + len(r.Sheet)
				if asJSON {
					if err := json.MarshalWrite(cmd.OutOrStdout(), r, jsontext.WithIndent("  ")); err != nil {
						return err
					}
					fmt.Fprintln(cmd.OutOrStdout())
				} else {
					writeChange(cmd.OutOrStdout(), r)
				}
				if write && len(r.Page)+len(r.Sheet) > 0 {
					changed = append(changed, changedFile{f, after})
				}
			}
			if err := writeAll(changed); err != nil {
				return err
			}
			if found == 0 {
				return exit(1)
			}
			return nil
		},
	}
	c.Flags().BoolVar(&write, "write", false, "write the files; nothing vouches for them any more")
	c.Flags().StringArrayVar(&only, "only", nil, "a place that is changed: a step's id, or a thing as fasteners/idler-bolt")
	c.Flags().BoolVar(&asJSON, "json", false, "write JSON, an object for each file")
	return c
}

// changedFile is a file as it is to be.
type changedFile struct {
	name string
	text []byte
}

// writeAll writes all files or none: beside them first, and moved over them when all of
// them are there. A file that is a link is followed, and keeps who may read it.
func writeAll(files []changedFile) (err error) {
	var fresh []string
	defer func() {
		for _, f := range fresh {
			os.Remove(f) // moved away where all went well
		}
	}()
	for i := range files {
		f := &files[i]
		if f.name == "-" {
			return errors.New("the standard input cannot be written; nothing was changed")
		}
		if f.name, err = filepath.EvalSymlinks(f.name); err != nil {
			return err
		}
		info, err := os.Stat(f.name)
		if err != nil {
			return err
		}
		tmp, err := os.CreateTemp(filepath.Dir(f.name), ".inklatch-change-*")
		if err != nil {
			return fmt.Errorf("nothing was changed: %w", err)
		}
		fresh = append(fresh, tmp.Name())
		_, err = tmp.Write(f.text)
		if err := errors.Join(err, tmp.Chmod(info.Mode().Perm()), tmp.Sync(), tmp.Close()); err != nil {
			return fmt.Errorf("nothing was changed: %w", err)
		}
	}
	for i := range files {
		if err := os.Rename(fresh[i], files[i].name); err != nil {
			return fmt.Errorf("%d of %d files were changed, this one was not: %w", i, len(files), err)
		}
	}
	return nil
}

// changeIn finds the places of one file, and the file with them changed.
func changeIn(ch *replace.Change, d *latchjson.Document, wanted func(string) bool) (*changeReport, []byte, error) {
	r := &changeReport{Near: append([]string{}, ch.Near(&d.Procedure)...)}
	places, edits := ch.OnPage(engine.NewIndex(&d.Engine), &d.Procedure, wanted)
	page, _, err := procedure.Apply(&d.Procedure, edits)
	if err != nil {
		return nil, nil, err
	}
	onSheet, sheet, err := ch.OnSheet(&d.Engine, wanted)
	if err != nil {
		return nil, nil, err
	}
	r.Page, r.Sheet = append([]replace.Place{}, places...), append([]replace.Place{}, onSheet...)
	b, err := latchjson.Encode(&latchjson.Document{Engine: *sheet, Procedure: *page})
	return r, b, err
}

// writeChange writes the places as a person reads them.
func writeChange(w io.Writer, r *changeReport) {
	fmt.Fprintln(w, r.File)
	list := func(places []replace.Place) {
		for _, p := range places {
			at := p.Name
			if p.Number > 0 {
				at = fmt.Sprintf("step %d", p.Number)
			} else if at == "" {
				at = "above the steps"
			}
			for _, t := range p.Texts {
				fmt.Fprintf(w, "  %s, %s: %s → %s\n", at, t.What, t.Before, t.After)
			}
		}
	}
	list(r.Sheet)
	list(r.Page)
	if len(r.Page)+len(r.Sheet) == 0 {
		fmt.Fprintln(w, "  it stands nowhere")
	}
	for _, n := range r.Near {
		fmt.Fprintf(w, "  left alone: %s\n", n)
	}
}
