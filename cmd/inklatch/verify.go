package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"inklatch/internal/desk"
	"inklatch/internal/store"
)

func verifyCommand() *cobra.Command {
	var given, keys []string
	var export string
	var alone bool
	c := &cobra.Command{
		Use: "verify", Short: "Hold the record against everything it speaks of, and against its anchors: exit 1 when something does not fit", Args: cobra.NoArgs,
		Long: "Hold the record's chain of hashes, revisions, latches, engine sheets and people against each other, and all of it against the anchors in anchors.log.\n" +
			"With --anchor, also against one that was printed on a sheet (1204:9f3a…), the anchor of an exported file, or a file of anchors.\n" +
			"With --record, also against an export of the record.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			set, err := read()
			if err != nil {
				return err
			}
			all, err := anchors(filepath.Join(set.Data, anchorsFile))
			missing := errors.Is(err, os.ErrNotExist)
			if err != nil && !missing {
				return err
			}
			for _, g := range given {
				more, err := givenAnchors(g)
				if err != nil {
					return err
				}
				all = append(all, more...)
			}
			if export != "" {
				known := append(set.publicKeys(), keys...)
				head, err := heldExport(cmd.OutOrStdout(), export, all, known, alone)
				if err != nil || alone {
					return err
				}
				all = append(all, head)
			}
			return with(cmd.Context(), func(ctx context.Context, p *place, _ *desk.Desk) error {
				r, err := p.store.Verify(ctx, all)
				if err != nil {
					return err
				}
				out := cmd.OutOrStdout()
				if missing && len(given) == 0 && export == "" {
					fmt.Fprintf(out, "Note: there is no %s in %s. The record is held against nothing outside the database; name an anchor that was printed or exported with --anchor.\n", anchorsFile, set.Data)
				}
				for _, t := range r.Troubles {
					fmt.Fprintln(out, t)
				}
				if len(r.Troubles) > 0 {
					return exit(1)
				}
				fmt.Fprintf(out, "%d entries of the record, %d released revisions, %d engine sheets and %d people are as they were written; %d anchors hold\n", r.Entries, r.Latched, r.Sheets, r.People, r.Anchors)
				return nil
			})
		},
	}
	c.Flags().StringArrayVar(&given, "anchor", nil, "an anchor, or a file of anchors or an exported file that has one; may be repeated")
	c.Flags().StringArrayVar(&keys, "key", nil, "with --record, a public key of the house in hexadecimal, as in its record.pub; may be repeated")
	c.Flags().StringVar(&export, "record", "", "an export of the record as JSON lines: it is held together by itself, and the record of the database must still begin with it")
	c.Flags().BoolVar(&alone, "alone", false, "with --record, look at the export alone, without a database")
	return c
}

// heldExport holds an export of the record together and gives its head.
// With alone, it has to be signed, and every signer has to be known: a stranger's record
// follows from itself just as well.
func heldExport(out io.Writer, name string, all []store.Anchor, known []string, alone bool) (store.Anchor, error) {
	f, err := os.Open(name)
	if err != nil {
		return store.Anchor{}, err
	}
	defer f.Close()
	r, head, err := store.HoldExport(f, all)
	if err != nil {
		return head, fmt.Errorf("%s: %w", name, err)
	}
	for _, t := range r.Troubles {
		fmt.Fprintln(out, t)
	}
	if len(r.Troubles) > 0 {
		return head, exit(1)
	}
	strange := false
	for _, k := range r.Signers {
		if slices.Contains(known, k) {
			fmt.Fprintf(out, "signed by %s, a key of this house\n", signer(k))
			continue
		}
		strange = true
		fmt.Fprintf(out, "signed by %s (%s), a key that is not known here: compare it with the record.pub of the house and name it with --key\n", signer(k), k)
	}
	if len(r.Signers) == 0 {
		fmt.Fprintln(out, "nothing in it is signed: it may be anybody's")
	}
	if alone && (strange || len(r.Signers) == 0) {
		return head, exit(1)
	}
	fmt.Fprintf(out, "%d entries of the export follow one another as they were written; %d anchors hold\n", r.Entries, r.Anchors)
	return head, nil
}

// givenAnchors reads an anchor from the command line, or a file of them.
func givenAnchors(s string) ([]store.Anchor, error) {
	if _, err := os.Stat(s); err == nil {
		if doc, err := readFile(s); err == nil {
			if doc.Anchor == "" {
				return nil, fmt.Errorf("%s has no anchor", s)
			}
			a, err := store.ParseAnchor(doc.Anchor)
			return []store.Anchor{a}, err
		}
		return anchors(s)
	}
	a, err := store.ParseAnchor(strings.TrimSpace(s))
	return []store.Anchor{a}, err
}
