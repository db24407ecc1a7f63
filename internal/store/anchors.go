package store

import (
	"cmp"
	"context"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"
)

// Anchor is the head of the record at a moment, signed with Ed25519 (RFC 8032)
// by a key that is kept outside the database. Whoever holds one can tell later
// whether the record up to there is still the same.
type Anchor struct {
	Seq  int64     `gorm:"primaryKey" json:"seq"`
	Hash string    `json:"hash"`
	At   time.Time `json:"at"`
	// Key is the public key and Signature the signature, in hexadecimal and
	// base64.
	Key       string `json:"key"`
	Signature string `json:"signature"`
}

// Mark is the short form that is printed: entry, first half of its hash, and who
// signed it. It can be typed back in.
func (a Anchor) Mark() string {
	return fmt.Sprintf("%d:%s", a.Seq, a.Hash[:min(32, len(a.Hash))])
}

// Signer is the fingerprint of the key: the first eight letters of its SHA-256.
func (a Anchor) Signer() string {
	raw, err := hex.DecodeString(a.Key)
	if err != nil {
		return ""
	}
	h := sha256.Sum256(raw)
	return hex.EncodeToString(h[:4])
}

// Line is the whole anchor on one line: entry, hash, time, key, signature.
func (a Anchor) Line() string {
	return fmt.Sprintf("%d %s %s %s %s", a.Seq, a.Hash, a.At.UTC().Format(time.RFC3339Nano), a.Key, a.Signature)
}

func (a Anchor) message() []byte {
	return fmt.Appendf(nil, "ink latch anchor\n%d\n%s\n%s\n", a.Seq, a.Hash, a.At.UTC().Format(time.RFC3339Nano))
}

// Valid reports whether the signature is the key's.
func (a Anchor) Valid() bool {
	key, err := hex.DecodeString(a.Key)
	if err != nil || len(key) != ed25519.PublicKeySize {
		return false
	}
	sig, err := base64.RawStdEncoding.DecodeString(a.Signature)
	return err == nil && ed25519.Verify(key, a.message(), sig)
}

// ParseAnchor reads a whole line or the printed short form, which has neither
// time, key nor signature. Spaces inside the printed hash are let pass.
func ParseAnchor(s string) (Anchor, error) {
	bad := fmt.Errorf("%q is not an anchor: it is a number, a colon and at least 16 figures of a hash, as printed on a sheet, or a whole line of anchors.log", s)
	if seq, hash, ok := strings.Cut(s, ":"); ok && !strings.Contains(seq, " ") {
		hash = strings.ToLower(strings.Join(strings.Fields(hash), ""))
		n, err := strconv.ParseInt(strings.TrimSpace(seq), 10, 64)
		if _, odd := hex.DecodeString(hash[:len(hash)/2*2]); err != nil || odd != nil || len(hash) < 16 || len(hash) > 64 {
			return Anchor{}, bad
		}
		return Anchor{Seq: n, Hash: hash}, nil
	}
	f := strings.Fields(s)
	if len(f) != 5 {
		return Anchor{}, bad
	}
	n, err := strconv.ParseInt(f[0], 10, 64)
	at, err2 := time.Parse(time.RFC3339Nano, f[2])
	if err != nil || err2 != nil || len(f[1]) != 64 {
		return Anchor{}, bad
	}
	a := Anchor{Seq: n, Hash: f[1], At: at, Key: f[3], Signature: f[4]}
	if !a.Valid() {
		return Anchor{}, errors.New("the anchor's signature is not the one of its key: it was not made by this program")
	}
	return a, nil
}

func publicKey(k ed25519.PrivateKey) ed25519.PublicKey { return k.Public().(ed25519.PublicKey) }

// sign makes an anchor of an entry and keeps it with what it vouches for.
func (t *tx) sign(e *Entry) error {
	a := Anchor{Seq: e.Seq, Hash: e.Hash, At: Now().UTC().Truncate(time.Microsecond), Key: hex.EncodeToString(publicKey(t.s.conf.Key))}
	a.Signature = base64.RawStdEncoding.EncodeToString(ed25519.Sign(t.s.conf.Key, a.message()))
	if err := t.db.Create(&a).Error; err != nil {
		return err
	}
	t.anchors = append(t.anchors, a)
	return nil
}

// Sign anchors the head of the record as it stands, if it has moved since the
// last anchor.
func (s *Store) Sign(ctx context.Context) error {
	if s.conf.Key == nil {
		return nil
	}
	return s.in(ctx, func(t *tx) error {
		_, err := t.SignHead()
		return err
	})
}

// SignHead anchors the head of the record as this write has brought it on; nil
// where there is no key or no record.
func (t *tx) SignHead() (*Anchor, error) {
	if t.s.conf.Key == nil {
		return nil, nil
	}
	if err := t.lockRecord(); err != nil {
		return nil, err
	}
	var last Entry
	if err := t.db.Order("seq DESC").Limit(1).Find(&last).Error; err != nil || last.Seq == 0 {
		return nil, err
	}
	if a, err := t.AnchorAt(last.Seq); err != nil || a != nil {
		return a, err
	}
	if err := t.sign(&last); err != nil {
		return nil, err
	}
	return &t.anchors[len(t.anchors)-1], nil
}

// LastKey is the public key, in hexadecimal, that the newest anchor of a database was signed
// with; empty where there is no house in it, or nothing signed. It makes nothing.
func LastKey(ctx context.Context, conf Config) (string, error) {
	db, err := connect(cmp.Or(conf.OwnerURL, conf.URL), 1)
	if err != nil {
		return "", err
	}
	defer db.Close()
	var there bool
	if err := db.QueryRowContext(ctx, "SELECT to_regclass('anchors') IS NOT NULL").Scan(&there); err != nil || !there {
		return "", err
	}
	var key string
	err = db.QueryRowContext(ctx, "SELECT coalesce((SELECT key FROM anchors ORDER BY seq DESC LIMIT 1), '')").Scan(&key)
	return key, err
}

// RenewKey says in the record that it is signed with another key from now on, seals anew
// what is sealed, and ends every session. It gives the entry.
func (s *Store) RenewKey(ctx context.Context) (int64, error) {
	var entry int64
	err := s.in(ctx, func(t *tx) error {
		if err := t.sealAll(); err != nil {
			return err
		}
		if err := t.db.Exec("DELETE FROM sessions").Error; err != nil {
			return err
		}
		l := line{what: renewedKey, payload: map[string]any{"key": hex.EncodeToString(publicKey(s.conf.Key)), "former": s.conf.Former}, anchor: true}
		if err := t.append(l); err != nil {
			return err
		}
		entry = t.anchors[len(t.anchors)-1].Seq
		return nil
	})
	return entry, err
}

// renewedKey is the entry of a record that is signed with another key from there on.
const renewedKey = "renew key"

// AnchorAt is the anchor of an entry, nil for none.
func (r Reads) AnchorAt(seq int64) (*Anchor, error) {
	return optional(one[Anchor](r.db, "seq = ?", seq))
}

// AnchorOf is the anchor a revision was latched with, nil for none.
func (r Reads) AnchorOf(revision int64) (*Anchor, error) {
	return optional(one[Anchor](r.db, "seq = (SELECT max(seq) FROM record WHERE revision_id = ? AND what = 'latch')", revision))
}

// NewestAnchor is the last one made, nil for none.
func (r Reads) NewestAnchor() (*Anchor, error) {
	return optional(one[Anchor](r.db.Order("seq DESC"), "true"))
}
