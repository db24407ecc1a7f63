package main

import (
	"context"
	"fmt"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"inklatch/internal/core/review/latch"
	"inklatch/internal/desk"
)

func personCommand() *cobra.Command {
	c := &cobra.Command{Use: "person", Short: "Look after people from the shell, beside a server that runs or without one"}
	c.AddCommand(personAdd(), personRole(), personReset(), personLock(true), personLock(false), personList())
	return c
}

func rolesOf(text string) []latch.Role {
	var out []latch.Role
	for r := range strings.SplitSeq(text, ",") {
		out = append(out, latch.Role(strings.TrimSpace(r)))
	}
	return out
}

// sayLink prints a link for whoever sits at the shell to hand over.
func sayLink(cmd *cobra.Command, p *desk.Passage) error {
	set, err := read()
	if err != nil {
		return err
	}
	base := strings.TrimRight(set.reached(), "/")
	fmt.Fprintf(cmd.OutOrStdout(), "%s chooses a password with this link; it works once, until %s:\n  %s/enter#%s\n", p.Name, p.Expires.Local().Format("2 January 15:04"), base, p.Secret)
	if base == "" {
		fmt.Fprintln(cmd.OutOrStdout(), "No server runs here, so that nobody knows its address: put it in front, or name it in INKLATCH_URL.")
	}
	return nil
}

func personAdd() *cobra.Command {
	var name, roles string
	c := &cobra.Command{
		Use: "add EMAIL", Short: "Add somebody and print the link with which they choose a password", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return with(cmd.Context(), func(ctx context.Context, _ *place, d *desk.Desk) error {
				p, err := d.Access.Invite(ctx, nil, name, args[0], rolesOf(roles), "")
				if err != nil {
					return err
				}
				return sayLink(cmd, p)
			})
		},
	}
	c.Flags().StringVar(&name, "name", "", "the person's name")
	c.Flags().StringVar(&roles, "roles", string(latch.Reader), "roles, separated by commas")
	_ = c.MarkFlagRequired("name")
	return c
}

// onPerson runs f for somebody named by address.
func onPerson(cmd *cobra.Command, email string, f func(context.Context, *desk.Desk, *desk.User) error) error {
	return with(cmd.Context(), func(ctx context.Context, _ *place, d *desk.Desk) error {
		u, err := d.Access.PersonByEmail(ctx, email)
		if err != nil {
			return fmt.Errorf("nobody has the address %q", email)
		}
		return f(ctx, d, u)
	})
}

func personRole() *cobra.Command {
	return &cobra.Command{
		Use: "role EMAIL ROLE[,ROLE…]", Short: "Give somebody these roles and no others", Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			return onPerson(cmd, args[0], func(ctx context.Context, d *desk.Desk, u *desk.User) error {
				roles := rolesOf(args[1])
				return d.Access.ChangePerson(ctx, nil, u.ID, desk.Change{Roles: &roles})
			})
		},
	}
}

func personReset() *cobra.Command {
	return &cobra.Command{
		Use: "reset EMAIL", Short: "Print a link with which somebody chooses a new password", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return onPerson(cmd, args[0], func(ctx context.Context, d *desk.Desk, u *desk.User) error {
				p, err := d.Access.Reset(ctx, nil, u.ID, "")
				if err != nil {
					return err
				}
				return sayLink(cmd, p)
			})
		},
	}
}

func personLock(lock bool) *cobra.Command {
	use, short := "lock EMAIL", "Lock somebody out at once, everywhere"
	if !lock {
		use, short = "unlock EMAIL", "Let somebody in again"
	}
	return &cobra.Command{
		Use: use, Short: short, Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return onPerson(cmd, args[0], func(ctx context.Context, d *desk.Desk, u *desk.User) error {
				return d.Access.ChangePerson(ctx, nil, u.ID, desk.Change{Locked: &lock})
			})
		},
	}
}

func personList() *cobra.Command {
	return &cobra.Command{
		Use: "list", Short: "List people, their roles and when they were last seen", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return with(cmd.Context(), func(ctx context.Context, _ *place, d *desk.Desk) error {
				all, err := d.Access.People(ctx, &desk.User{Roles: []latch.Role{latch.Administrator}})
				if err != nil {
					return err
				}
				w := tabwriter.NewWriter(cmd.OutOrStdout(), 0, 0, 2, ' ', 0)
				for _, p := range all {
					state := "never seen"
					switch {
					case p.Locked:
						state = "locked"
					case p.Invited:
						state = "invited"
					case p.LastSeen != nil:
						state = "seen " + p.LastSeen.Local().Format("2006-01-02 15:04")
					}
					roles := make([]string, len(p.Roles))
					for i, r := range p.Roles {
						roles[i] = string(r)
					}
					fmt.Fprintf(w, "%s\t%s\t%s\t%s\n", p.Email, p.Name, strings.Join(roles, ", "), state)
				}
				return w.Flush()
			})
		},
	}
}
