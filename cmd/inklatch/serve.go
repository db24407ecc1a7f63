package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"syscall"
	"time"

	"github.com/caarlos0/env/v11"
	"github.com/spf13/cobra"

	"inklatch/demo"
	"inklatch/internal/desk"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
	"inklatch/internal/store/cluster"
	"inklatch/internal/web"
)

// settings come from the environment.
type settings struct {
	// DatabaseURL uses an existing server instead of one of our own.
	DatabaseURL string `env:"DATABASE_URL"`
	// Data is the folder of our own server.
	Data string `env:"INKLATCH_DATA" envDefault:".inklatch"`
	// Listen is the address; port 0 takes a free one.
	Listen string `env:"INKLATCH_LISTEN" envDefault:"127.0.0.1:0"`
	// Secure marks cookies for HTTPS only.
	Secure bool `env:"INKLATCH_SECURE"`
}

func read() (settings, error) { return env.ParseAs[settings]() }

// open connects to the database, starting our own server where none is named.
func (s settings) open(ctx context.Context) (*store.Store, func() error, error) {
	stop := func() error { return nil }
	url := s.DatabaseURL
	if url == "" {
		c, err := cluster.Start(ctx, filepath.Join(s.Data, "pg"))
		if err != nil {
			return nil, nil, err
		}
		url, stop = c.URL, c.Stop
	}
	st, err := store.Open(ctx, url)
	if err != nil {
		return nil, nil, errors.Join(err, stop())
	}
	return st, func() error { return errors.Join(st.Close(), stop()) }, nil
}

func serveCommand() *cobra.Command {
	return &cobra.Command{
		Use: "serve", Short: "Serve the application", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd.Context(), cmd.OutOrStdout(), false)
		},
	}
}

func demoCommand() *cobra.Command {
	return &cobra.Command{
		Use: "demo", Short: "Serve the application with the made-up demo loaded", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd.Context(), cmd.OutOrStdout(), true)
		},
	}
}

func serve(ctx context.Context, out io.Writer, withDemo bool) (err error) {
	if ctx == nil {
		ctx = context.Background()
	}
	ctx, cancel := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer cancel()
	set, err := read()
	if err != nil {
		return err
	}
	st, stop, err := set.open(ctx)
	for n := 2; withDemo && n < 10 && errors.Is(err, cluster.ErrInUse) && os.Getenv("INKLATCH_DATA") == ""; n++ {
		set.Data = fmt.Sprintf(".inklatch-%d", n) // a demo beside another one
		st, stop, err = set.open(ctx)
	}
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, stop()) }()
	if withDemo {
		if err := demo.Load(ctx, st); err != nil {
			return fmt.Errorf("loading the demo: %w", err)
		}
	}
	log := slog.New(slog.NewTextHandler(os.Stderr, nil))
	d := desk.New(st)
	idle, err := d.Work(context.WithoutCancel(ctx))
	if err != nil {
		return err
	}
	defer func() {
		last, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		err = errors.Join(err, idle(last))
	}()
	handler, done := web.New(d, st, log, set.Secure)
	defer done()
	l, err := net.Listen("tcp", set.Listen)
	if err != nil {
		return fmt.Errorf("listening: %w", err)
	}
	fmt.Fprintf(out, "\nInk Latch is at http://%s\n", l.Addr())
	if withDemo {
		fmt.Fprintf(out, "\nDemo sign-ins, all with the password “%s”:\n", demo.Password)
		for _, p := range demo.People {
			fmt.Fprintf(out, "  %-24s %s\n", p.Email, p.Roles)
		}
		fmt.Fprintln(out)
	}
	return run(ctx, l, handler)
}

// run serves until the context ends, then lets requests finish. Event streams
// end with the context.
func run(ctx context.Context, l net.Listener, h http.Handler) error {
	srv := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, BaseContext: func(net.Listener) context.Context { return ctx }}
	failed := make(chan error, 1)
	go func() { failed <- srv.Serve(l) }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	last, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	return srv.Shutdown(last)
}

func verifyCommand() *cobra.Command {
	return &cobra.Command{
		Use: "verify", Short: "Check the record's chain of hashes and every latched revision", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return withStore(cmd.Context(), func(ctx context.Context, st *store.Store) error {
				n, err := st.VerifyRecord(ctx)
				if err != nil {
					return err
				}
				m, err := st.VerifyLatched(ctx, latchjson.Sum)
				if err != nil {
					return err
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%d entries of the record and %d latched revisions are as they were written\n", n, m)
				return nil
			})
		},
	}
}

func withStore(ctx context.Context, f func(context.Context, *store.Store) error) (err error) {
	if ctx == nil {
		ctx = context.Background()
	}
	set, err := read()
	if err != nil {
		return err
	}
	st, stop, err := set.open(ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, stop()) }()
	return f(ctx, st)
}

// asPerson finds somebody by e-mail to act for on the command line.
func asPerson(ctx context.Context, st *store.Store, d *desk.Desk, email string) (*desk.User, error) {
	p, err := st.PersonByEmail(ctx, email)
	if err != nil {
		return nil, fmt.Errorf("nobody has the address %q", email)
	}
	return d.UserByID(ctx, p.ID)
}

func exportCommand() *cobra.Command {
	var as, out string
	c := &cobra.Command{
		Use: "export REVISION", Short: "Write a revision as a latch file", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			var id int64
			if _, err := fmt.Sscan(args[0], &id); err != nil {
				return fmt.Errorf("%q is not a revision's number", args[0])
			}
			return withStore(cmd.Context(), func(ctx context.Context, st *store.Store) error {
				d := desk.New(st)
				u, err := asPerson(ctx, st, d, as)
				if err != nil {
					return err
				}
				b, _, err := d.Export(ctx, u, id)
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
	c := &cobra.Command{
		Use: "import FILE", Short: "Read a latch file as a new draft", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if _, err := readFile(args[0]); err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			b, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			return withStore(cmd.Context(), func(ctx context.Context, st *store.Store) error {
				d := desk.New(st)
				u, err := asPerson(ctx, st, d, as)
				if err != nil {
					return err
				}
				id, err := d.Import(ctx, u, b)
				if err != nil {
					return err
				}
				fmt.Fprintf(cmd.OutOrStdout(), "revision %d\n", id)
				return nil
			})
		},
	}
	c.Flags().StringVar(&as, "as", "", "e-mail address of the author")
	_ = c.MarkFlagRequired("as")
	return c
}
