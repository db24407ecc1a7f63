package main

import (
	"context"
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"inklatch/internal/desk"
)

func exportCommand() *cobra.Command {
	var as, out string
	c := &cobra.Command{
		Use: "export REVISION", Short: "Write a revision as a latch file", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			var id int64
			if _, err := fmt.Sscan(args[0], &id); err != nil {
				return fmt.Errorf("%q is not a revision's number", args[0])
			}
			return with(cmd.Context(), func(ctx context.Context, _ *place, d *desk.Desk) error {
				u, err := d.Access.PersonByEmail(ctx, as)
				if err != nil {
					return fmt.Errorf("nobody has the address %q", as)
				}
				b, _, err := d.Drafts.Export(ctx, u, id)
				if err != nil {
					return err
				}
				if out == "-" {
					_, err = cmd.OutOrStdout().Write(b)
					return err
				}
				return os.WriteFile(out, b, 0o644)
			})
		},
	}
	c.Flags().StringVar(&as, "as", "", "e-mail address of the person who reads it")
	c.Flags().StringVarP(&out, "output", "o", "-", "file to write")
	_ = c.MarkFlagRequired("as")
	return c
}

func importCommand() *cobra.Command {
	var as string
	var say desk.Bringing
	c := &cobra.Command{
		Use: "import FILE", Short: "Read a latch file as the next draft of its procedure, or of a new one", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if _, err := readFile(args[0]); err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			b, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			return with(cmd.Context(), func(ctx context.Context, _ *place, d *desk.Desk) error {
				u, err := d.Access.PersonByEmail(ctx, as)
				if err != nil {
					return fmt.Errorf("nobody has the address %q", as)
				}
				id, err := d.Drafts.Import(ctx, u, b, say)
				var asked *desk.Problem
				if errors.As(err, &asked) && asked.Field == "sheet" {
					for _, line := range asked.Changes {
						fmt.Fprintln(cmd.ErrOrStderr(), "  "+line)
					}
					return fmt.Errorf("%w Say --ours to read it in with the sheet in use", err)
				}
				if asked != nil && asked.Field == "file" {
					return fmt.Errorf("%w Say --anew to make a procedure of its own of it", err)
				}
				if err != nil {
					return err
				}
				fmt.Fprintf(cmd.OutOrStdout(), "revision %d\n", id)
				return nil
			})
		},
	}
	c.Flags().StringVar(&as, "as", "", "e-mail address of the author")
	c.Flags().BoolVar(&say.Ours, "ours", false, "also where the engine sheet in the file is not the one in use")
	c.Flags().BoolVar(&say.Anew, "anew", false, "as a procedure of its own, also where there is one of that title")
	_ = c.MarkFlagRequired("as")
	return c
}
