package pgserver

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
)

// Attach finds the server that another program runs in dir.
func Attach(dir string) (*Cluster, error) {
	c := &Cluster{dir: dir}
	if err := c.find(); err != nil {
		return nil, err
	}
	b, err := os.ReadFile(filepath.Join(c.dir, "data", "postmaster.pid"))
	lines := strings.Split(string(b), "\n")
	if err != nil || len(lines) < 4 || !running(filepath.Join(c.dir, "data")) {
		return nil, fmt.Errorf("%w in %s, and its PostgreSQL does not run yet. Try again in a moment", ErrInUse, c.dir)
	}
	if c.port, err = strconv.Atoi(strings.TrimSpace(lines[3])); err != nil {
		return nil, fmt.Errorf("reading the port of the running PostgreSQL: %w", err)
	}
	owner, err := c.known("password")
	if err != nil {
		return nil, err
	}
	app, err := c.known("app-password")
	if err != nil {
		return nil, err
	}
	c.OwnerURL, c.URL = c.address("inklatch", owner, "inklatch"), c.address(appRole, app, "inklatch")
	return c, nil
}

// known is a password that is there; none is made.
func (c *Cluster) known(name string) (string, error) {
	b, err := os.ReadFile(filepath.Join(c.dir, name))
	if err != nil {
		return "", fmt.Errorf("reading the password of the running PostgreSQL: %w", err)
	}
	return strings.TrimSpace(string(b)), nil
}

// Dump writes a whole database, as it stands at one moment, in PostgreSQL's
// archive format. Its server may go on being written to.
func Dump(ctx context.Context, at string, w io.Writer) error {
	return tool(ctx, "pg_dump", at, nil, w, "--format=custom", "--no-owner", "--no-privileges")
}

// Load reads what Dump wrote into an empty database, whole or not at all.
func Load(ctx context.Context, at string, r io.Reader) error {
	u, err := url.Parse(at)
	if err != nil {
		return fmt.Errorf("reading the database URL: %w", err)
	}
	return tool(ctx, "pg_restore", at, r, nil, "--no-owner", "--no-privileges", "--single-transaction", "--exit-on-error", "--dbname="+strings.TrimPrefix(u.Path, "/"))
}

// tool runs one of PostgreSQL's own programs on a database. The password goes by
// the environment, which other users cannot see.
func tool(ctx context.Context, name, at string, in io.Reader, out io.Writer, args ...string) error {
	bin, err := binaries()
	if err != nil {
		return err
	}
	u, err := url.Parse(at)
	if err != nil {
		return fmt.Errorf("reading the database URL: %w", err)
	}
	password, _ := u.User.Password()
	env := append(os.Environ(), "PGUSER="+u.User.Username(), "PGPASSWORD="+password, "PGHOST="+u.Hostname(), "PGDATABASE="+strings.TrimPrefix(u.Path, "/"))
	if p := u.Port(); p != "" {
		env = append(env, "PGPORT="+p)
	}
	if mode := u.Query().Get("sslmode"); mode != "" {
		env = append(env, "PGSSLMODE="+mode)
	}
	cmd := exec.CommandContext(ctx, filepath.Join(bin, name), args...)
	var errs bytes.Buffer
	cmd.Env, cmd.Stdin, cmd.Stdout, cmd.Stderr = env, in, out, &errs
	if err := cmd.Run(); err != nil {
		return errors.Join(fmt.Errorf("%s: %w", name, err), errors.New(strings.TrimSpace(errs.String())))
	}
	return nil
}
