package main

import (
	"context"
	"crypto/ed25519"
	"crypto/rand"
	"crypto/x509"
	"encoding/hex"
	"encoding/pem"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"inklatch/internal/store"
)

const keyFile, publicFile, anchorsFile = "record.key", "record.pub", "anchors.log"

// keyed reads the private key that signs the record's head, made at the first start of a
// house and never again: it is kept beside the database and not in it. A house whose record
// was last signed with another key than the one there is is refused before anything is
// made: a key that was lost is not replaced in silence.
func (s settings) keyed(ctx context.Context, p *place, how opening) error {
	file := filepath.Join(s.Data, keyFile)
	key, err := readKey(file)
	missing := errors.Is(err, os.ErrNotExist)
	if err != nil && !missing {
		return err
	}
	last, err := store.LastKey(ctx, p.conf)
	if err != nil {
		return err
	}
	if last == "" && missing {
		if known := s.formerly(); len(known) > 0 {
			last = known[0]
		}
	}
	former := s.former()
	switch {
	case last != "" && (missing || last != publicOf(key) && !slices.Contains(former, last)):
		return &keyLost{s.Data, last}
	case missing && how == making:
		if key, err = s.makeKey(file, nil); err != nil {
			return err
		}
	}
	p.conf.Key, p.conf.Keep, p.conf.Former = key, s.keeper(), former
	return nil
}

// publicOf is the public key of a private one, in hexadecimal.
func publicOf(key ed25519.PrivateKey) string {
	return hex.EncodeToString(key.Public().(ed25519.PublicKey))
}

func readKey(file string) (ed25519.PrivateKey, error) {
	b, err := os.ReadFile(file)
	if err != nil {
		return nil, fmt.Errorf("reading the key of the record: %w", err)
	}
	block, _ := pem.Decode(b)
	if block == nil {
		return nil, fmt.Errorf("%s is not a key. Bring the file back from a backup; anchors that were printed cannot be made again without it", file)
	}
	k, err := x509.ParsePKCS8PrivateKey(block.Bytes)
	if err != nil {
		return nil, fmt.Errorf("reading the key of the record: %w", err)
	}
	key, ok := k.(ed25519.PrivateKey)
	if !ok {
		return nil, fmt.Errorf("%s is not an Ed25519 key", file)
	}
	return key, nil
}

// makeKey makes a key; former are the public keys before it, which stand below it in
// record.pub.
func (s settings) makeKey(file string, former []string) (ed25519.PrivateKey, error) {
	pub, key, err := ed25519.GenerateKey(rand.Reader)
	if err != nil {
		return nil, err
	}
	der, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return nil, err
	}
	f, err := os.OpenFile(file, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if errors.Is(err, os.ErrExist) {
		return readKey(file) // another copy was quicker
	}
	if err != nil {
		return nil, fmt.Errorf("keeping the key of the record: %w", err)
	}
	defer f.Close()
	if err := errors.Join(pem.Encode(f, &pem.Block{Type: "PRIVATE KEY", Bytes: der}), f.Sync()); err != nil {
		return nil, fmt.Errorf("keeping the key of the record: %w", err)
	}
	likeFolder(file)
	public := filepath.Join(s.Data, publicFile)
	lines := append([]string{hex.EncodeToString(pub)}, former...)
	defer likeFolder(public)
	return key, os.WriteFile(public, []byte(strings.Join(lines, "\n")+"\n"), 0o644)
}

// publicKeys are the lines of record.pub: the key there is, and those before it.
func (s settings) publicKeys() []string {
	b, err := os.ReadFile(filepath.Join(s.Data, publicFile))
	if err != nil {
		return nil
	}
	return strings.Fields(string(b))
}

// former are the public keys that were the house's before the one there is.
func (s settings) former() []string {
	if all := s.publicKeys(); len(all) > 1 {
		return all[1:]
	}
	return nil
}

// formerly are the keys that something in the data folder was signed with.
func (s settings) formerly() []string {
	out := s.publicKeys()
	kept, _ := anchors(filepath.Join(s.Data, anchorsFile))
	for _, a := range slices.Backward(kept) {
		if a.Key != "" && !slices.Contains(out, a.Key) {
			out = append(out, a.Key)
		}
	}
	return out
}

// keyLost is the error of a house whose key is not there.
type keyLost struct{ data, key string }

// Error says what to do.
func (e *keyLost) Error() string {
	return fmt.Sprintf(`the record of this house was signed with the key %s, and that key is not in %s.
Nothing was changed. Bring %s back from a backup, or from the other server of the house.
If it is lost for good: inklatch key renew makes another. The record then says from which entry on it is
signed with it, what was signed before is held against the old public key still, and everybody signs in
once more. What the old key alone vouched for, who has read what, is vouched for anew as it stands`, signer(e.key), e.data, keyFile)
}

func signer(key string) string { return store.Anchor{Key: key}.Signer() }

func keyCommand() *cobra.Command {
	c := &cobra.Command{Use: "key", Short: "The key that signs the record of a house"}
	c.AddCommand(&cobra.Command{
		Use: "renew", Short: "Sign the record with a new key from now on, while nothing serves the house", Args: cobra.NoArgs,
		Long: "Sign the record with a new key from now on. The old public key stays in record.pub, so that what was signed with it can be held against it.\nEverybody signs in once more. Stop every server of the house first, and give the new record.key to each of them.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			set, err := read()
			if err != nil {
				return err
			}
			return renewKey(cmd, set)
		},
	})
	return c
}

func renewKey(cmd *cobra.Command, set settings) (err error) {
	ctx := cmd.Context()
	if ctx == nil {
		ctx = context.Background()
	}
	p := &place{stop: func() error { return nil }}
	p.conf = store.Config{URL: set.DatabaseURL, OwnerURL: set.OwnerURL, Log: slog.New(slog.DiscardHandler), Existing: true}
	if set.DatabaseURL == "" {
		if err := p.own(ctx, set, beside); err != nil {
			return err
		}
		if p.cluster == nil {
			return errors.New("a server serves this house. Stop it first; nothing was changed")
		}
	}
	last, err := store.LastKey(ctx, p.conf)
	if err != nil {
		return errors.Join(err, p.stop())
	}
	former := set.formerly()
	if last != "" && !slices.Contains(former, last) {
		former = append(former, last)
	}
	file := filepath.Join(set.Data, keyFile)
	if old, err := readKey(file); err == nil {
		own := publicOf(old)
		former = append([]string{own}, slices.DeleteFunc(former, func(k string) bool { return k == own })...)
		if err := os.Rename(file, file+"."+signer(own)+".old"); err != nil {
			return errors.Join(err, p.stop())
		}
	}
	if p.conf.Key, err = set.makeKey(file, former); err != nil {
		return errors.Join(err, p.stop())
	}
	p.conf.Keep, p.conf.Former = set.keeper(), former
	if p.store, err = store.Open(ctx, p.conf); err != nil {
		return errors.Join(err, p.stop())
	}
	defer func() { err = errors.Join(err, p.Close()) }()
	entry, err := p.store.RenewKey(ctx)
	if err != nil {
		return err
	}
	fmt.Fprintf(cmd.OutOrStdout(), "the record is signed with the key %s from entry %d on\n", signer(publicOf(p.conf.Key)), entry)
	return nil
}
