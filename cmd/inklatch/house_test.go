package main

import (
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Each setting is held against what it may be, by its name; all that is wrong is said at
// once, and no password along with it.
func TestSettingsAreChecked(t *testing.T) {
	clean := func(t *testing.T) {
		for _, v := range os.Environ() {
			if name, _, _ := strings.Cut(v, "="); strings.HasPrefix(name, "INKLATCH_") || strings.HasPrefix(name, "DATABASE_") {
				t.Setenv(name, "")
				require.NoError(t, os.Unsetenv(name))
			}
		}
	}
	for name, env := range map[string][]string{
		"nothing":           {},
		"a whole house":     {"INKLATCH_URL=https://latch.example.org", "INKLATCH_SECURE=true", "INKLATCH_SMTP=smtps://u:p@mail.example.org", "INKLATCH_MAIL_FROM=Ink Latch <latch@example.org>", "INKLATCH_METRICS=127.0.0.1:9180", "INKLATCH_LISTEN=:8080"},
		"letters by itself": {"INKLATCH_SMTP=smtp+plain://127.0.0.1:2525", "INKLATCH_METRICS=off"},
		"a database":        {"DATABASE_URL=postgres://a:b@db.example.org/latch?sslmode=require", "DATABASE_OWNER_URL=postgresql://o:b@db.example.org:5432/latch", "DATABASE_LISTEN_URL=postgres://a:b@direct.example.org/latch"},
	} {
		t.Run(name, func(t *testing.T) {
			clean(t)
			for _, e := range env {
				k, v, _ := strings.Cut(e, "=")
				t.Setenv(k, v)
			}
			_, err := read()
			assert.NoError(t, err)
		})
	}
	for _, c := range []struct{ set, says string }{
		{"INKLATCH_URL=latch.example.org", "INKLATCH_URL is where people reach the site"}, {"INKLATCH_URL=ftp://latch.example.org", "INKLATCH_URL"}, {"INKLATCH_URL=https://latch.example.org/sub", "INKLATCH_URL"},
		{"INKLATCH_URL=http://latch.example.org INKLATCH_SECURE=true", "begins with https://"},
		{"INKLATCH_SMTP=smtp+plain://mail.example.org", "to this machine only"}, {"INKLATCH_SMTP=mail.example.org", "INKLATCH_SMTP is a mail server"},
		{"INKLATCH_MAIL_FROM=nobody", "INKLATCH_MAIL_FROM is an e-mail address"},
		{"INKLATCH_LISTEN=8080", "INKLATCH_LISTEN is an address and a port"}, {"INKLATCH_LISTEN=127.0.0.1:99999", "INKLATCH_LISTEN"}, {"INKLATCH_METRICS=yes", "INKLATCH_METRICS"},
		{"DATABASE_URL=mysql://u:geheim@h/d", "DATABASE_URL is an address such as"}, {"DATABASE_OWNER_URL=postgres://o:p@h/d", "go with DATABASE_URL"},
		{"INKLATCH_READING_PACE=9", "INKLATCH_READING_PACE"}, {"INKLATCH_LOG=xml", "INKLATCH_LOG"}, {"INKLATCH_TLS_CERT=x", "go together"}, {"INKLATCH_TRUSTED_PROXIES=ten", "INKLATCH_TRUSTED_PROXIES"},
		{"INKLATCH_SECURE=perhaps", "Secure"}, {"INKLATCH_LISTEN=x INKLATCH_METRICS=y", "INKLATCH_METRICS"},
	} {
		t.Run(c.set, func(t *testing.T) {
			clean(t)
			for _, e := range strings.Fields(c.set) {
				k, v, _ := strings.Cut(e, "=")
				t.Setenv(k, v)
			}
			_, err := read()
			require.Error(t, err)
			assert.Contains(t, err.Error(), c.says)
			assert.NotContains(t, err.Error(), "geheim")
		})
	}
	clean(t)
	t.Setenv("INKLATCH_LISTN", "x")
	assert.Equal(t, []string{"INKLATCH_LISTN"}, unknownSettings())
}

// A line however long is read as far as a line goes, a byte order mark is none of it, and
// the last one needs no end.
func TestReadLongLinesAndMarks(t *testing.T) {
	s, err := readSheet(folder + "renew-timing-belt-r3.latch.json")
	require.NoError(t, err)
	var out bytes.Buffer
	require.NoError(t, readPage(s, strings.NewReader("\ufeffWait 5 min\r\n"+strings.Repeat("x", 3<<20)+"\nWait 6 min"), &out, false))
	assert.True(t, strings.HasPrefix(out.String(), "  Wait 5 min.\n"), "%.40s", out.String())
	assert.True(t, strings.HasSuffix(out.String(), "  Wait 6 min.\n"))
}

// All files are changed or none, a link is followed, and what cannot be told is an error.
func TestAllFilesOrNone(t *testing.T) {
	dir := t.TempDir()
	at := func(name string) string { return filepath.Join(dir, name) }
	for _, n := range []string{"a", "b"} {
		require.NoError(t, os.WriteFile(at(n), []byte("old "+n), 0o640))
	}
	require.NoError(t, os.Symlink(at("b"), at("link")))
	assert.Error(t, writeAll([]changedFile{{at("a"), []byte("new")}, {at("missing"), []byte("new")}}))
	raw, err := os.ReadFile(at("a"))
	require.NoError(t, err)
	assert.Equal(t, "old a", string(raw))
	assert.Error(t, writeAll([]changedFile{{"-", []byte("new")}}))
	require.NoError(t, writeAll([]changedFile{{at("a"), []byte("new a")}, {at("link"), []byte("new b")}}))
	raw, err = os.ReadFile(at("b"))
	require.NoError(t, err)
	assert.Equal(t, "new b", string(raw))
	info, err := os.Lstat(at("link"))
	require.NoError(t, err)
	assert.NotZero(t, info.Mode()&os.ModeSymlink)
	info, err = os.Stat(at("a"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o640), info.Mode().Perm())
	left, err := filepath.Glob(at(".inklatch-*"))
	require.NoError(t, err)
	assert.Empty(t, left)

	full := &told{w: writerFunc(func([]byte) (int, error) { return 0, errors.New("no space left on device") })}
	_, _ = full.Write([]byte("x"))
	assert.ErrorContains(t, full.err, "no space")
}

type writerFunc func([]byte) (int, error)

func (f writerFunc) Write(b []byte) (int, error) { return f(b) }

// A backup is written new: over nothing, through no link and into no device.
func TestABackupIsWrittenNew(t *testing.T) {
	dir := t.TempDir()
	file := filepath.Join(dir, "there")
	require.NoError(t, os.WriteFile(file, []byte("kept"), 0o600))
	require.NoError(t, os.Symlink(filepath.Join(dir, "away"), filepath.Join(dir, "link")))
	for _, name := range []string{file, filepath.Join(dir, "link"), dir, "/dev/null"} {
		assert.Error(t, free(name), name)
	}
	assert.NoError(t, free(filepath.Join(dir, "new")))
}
