// Package latchjson reads and writes *.latch.json, the open format of an engine
// sheet with a procedure. What it writes is canonical JSON (RFC 8785), so that
// the same document is always the same bytes and has one SHA-256.
package latchjson

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
)

// Format is the version this package reads and writes.
const Format = "ink-latch/1"

// MaxBytes is the largest file that is read; the largest real page is a
// hundredth of it.
const MaxBytes = 8 << 20

// maxDepth is how deep a file may be nested; a real one needs seven levels.
const maxDepth = 32

// Document is one file.
type Document struct {
	Format    string              `json:"format"`
	Engine    engine.Sheet        `json:"engine"`
	Procedure procedure.Procedure `json:"procedure"`
	// Anchor is a signed head of the record that the file was written beside, as
	// one line; empty in a file nothing vouches for.
	Anchor string `json:"anchor,omitzero"`
	// Standing says of a released file that it holds no more; nil while it does.
	Standing *Standing `json:"standing,omitempty"`
}

// Standing is what became of a release since it was frozen. SHA256 is the hash of the
// file as it was released, which is this one without its standing.
type Standing struct {
	// State is "superseded" or "withdrawn".
	State  string `json:"state"`
	Since  string `json:"since"`
	By     string `json:"by,omitzero"`
	Reason string `json:"reason,omitzero"`
	// Revision is the one that took its place, 0 for none.
	Revision int    `json:"revision,omitzero"`
	SHA256   string `json:"sha256"`
}

// Says is a standing in a sentence; empty for a file that holds as far as it knows.
func (s *Standing) Says() string {
	switch {
	case s == nil:
		return ""
	case s.State == "withdrawn":
		return strings.TrimSpace("This file was withdrawn on " + s.Since + ". " + s.Reason)
	case s.Revision != 0:
		return fmt.Sprintf("This file was superseded on %s by revision %d.", s.Since, s.Revision)
	}
	return "This file is " + s.State + " since " + s.Since + "."
}

// Error is a file that cannot be read: the place in it, and why.
type Error struct {
	// Place is written as "procedure.steps[12].stages[0].torque", empty for the
	// file as a whole.
	Place string
	Why   string
}

// Error is a sentence with the place.
func (e *Error) Error() string {
	if e.Place == "" {
		return e.Why
	}
	return e.Place + ": " + e.Why
}

// Decode reads a document. Every error is an *Error.
func Decode(b []byte) (*Document, error) {
	var d Document
	if err := decode(b, &d); err != nil {
		return nil, err
	}
	if d.Format != Format {
		return nil, &Error{"format", fmt.Sprintf("this file says %q; this program reads %q", d.Format, Format)}
	}
	return &d, check(&d)
}

// DecodeSheet reads an engine sheet on its own.
func DecodeSheet(b []byte) (*engine.Sheet, error) {
	var s engine.Sheet
	if err := decode(b, &s); err != nil {
		return nil, err
	}
	if err := checkSheet(&s, ""); err != nil {
		return nil, err
	}
	return &s, nil
}

// DecodeAnySheet reads an engine sheet on its own or out of a latch file.
func DecodeAnySheet(b []byte) (*engine.Sheet, error) {
	var probe struct {
		Format string `json:"format"`
	}
	if err := scan(b); err != nil {
		return nil, err
	}
	if err := json.Unmarshal(b, &probe); err != nil {
		return nil, explain(err, b)
	}
	if probe.Format == "" {
		return DecodeSheet(b)
	}
	d, err := Decode(b)
	if err != nil {
		return nil, err
	}
	return &d.Engine, nil
}

func decode(b []byte, into any) error {
	if len(b) > MaxBytes {
		return &Error{"", fmt.Sprintf("the file is %d MB; at most %d MB are read", len(b)>>20, MaxBytes>>20)}
	}
	if err := scan(b); err != nil {
		return err
	}
	if err := json.Unmarshal(b, into, json.RejectUnknownMembers(true)); err != nil {
		return explain(err, b)
	}
	return nil
}

// Read reads a document from a stream, at most MaxBytes of it.
func Read(r io.Reader) (*Document, error) {
	b, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("reading the file: %w", err)
	}
	return Decode(b)
}

// scan walks the tokens once for depth and syntax, before anything is built.
func scan(b []byte) error {
	if len(bytes.TrimSpace(b)) == 0 {
		return &Error{"", "the file is empty"}
	}
	dec := jsontext.NewDecoder(bytes.NewReader(b))
	for {
		if _, err := dec.ReadToken(); err != nil {
			if errors.Is(err, io.EOF) && dec.StackDepth() == 0 {
				return nil
			}
			return explain(err, b)
		}
		if dec.StackDepth() > maxDepth {
			return &Error{place(dec.StackPointer()), fmt.Sprintf("nested more than %d levels deep", maxDepth)}
		}
	}
}

// explain turns an error of the JSON library into one with a place.
func explain(err error, b []byte) error {
	var mis *step.Misplaced
	if errors.As(err, &mis) {
		return &Error{place(mis.Pointer), plain(mis.Err)}
	}
	var syn *jsontext.SyntacticError
	if errors.As(err, &syn) {
		if errors.Is(syn, io.ErrUnexpectedEOF) || int(syn.ByteOffset) >= len(b) {
			return &Error{place(syn.JSONPointer), "the file ends too early; it may have been cut off"}
		}
		line := 1 + bytes.Count(b[:syn.ByteOffset], []byte("\n"))
		return &Error{place(syn.JSONPointer), fmt.Sprintf("line %d is not JSON: %s", line, plain(syn.Err))}
	}
	var sem *json.SemanticError
	if errors.As(err, &sem) {
		why := plain(sem.Err)
		if sem.Err == nil {
			why = fmt.Sprintf("a %s cannot stand here", kindName(sem.JSONKind))
		}
		return &Error{place(sem.JSONPointer), why}
	}
	if errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) {
		return &Error{"", "the file ends too early; it may have been cut off"}
	}
	return &Error{"", plain(err)}
}

func kindName(k jsontext.Kind) string {
	switch k {
	case 'n':
		return "null"
	case 't', 'f':
		return "true or false"
	case '"':
		return "text"
	case '0':
		return "number"
	case '{':
		return "group of fields"
	case '[':
		return "list"
	}
	return "value of this kind"
}

// plain drops what a library says about itself.
func plain(err error) string {
	if err == nil {
		return "this cannot stand here"
	}
	s := err.Error()
	if i := strings.LastIndex(s, "jsontext: "); i >= 0 {
		s = s[i+len("jsontext: "):]
	}
	if errors.Is(err, json.ErrUnknownName) {
		return "there is no such field"
	}
	return s
}

// place writes a JSON pointer the way people read one.
func place(p jsontext.Pointer) string {
	var b strings.Builder
	for tok := range p.Tokens() {
		if _, err := strconv.Atoi(tok); err == nil {
			b.WriteString("[" + tok + "]")
			continue
		}
		if b.Len() > 0 {
			b.WriteByte('.')
		}
		b.WriteString(tok)
	}
	return b.String()
}

// Encode writes a document in canonical form, with a newline at the end.
func Encode(d *Document) ([]byte, error) {
	d.Format = Format
	return Canonical(d)
}

// Canonical writes any core document as canonical JSON (RFC 8785) and a newline.
func Canonical(v any) ([]byte, error) {
	b, err := json.Marshal(v)
	if err != nil {
		return nil, fmt.Errorf("writing canonical JSON: %w", err)
	}
	val := jsontext.Value(b)
	if err := val.Canonicalize(); err != nil {
		return nil, fmt.Errorf("writing canonical JSON: %w", err)
	}
	return append(val, '\n'), nil
}

// Sum is the SHA-256 of bytes in hexadecimal.
func Sum(b []byte) string {
	h := sha256.Sum256(b)
	return hex.EncodeToString(h[:])
}
