// Package oldpage reads pages that were written elsewhere, with a word processor, a wiki or an
// editor for structured documents, into lines: headings, steps, cautions, notes, rows of tables
// and places of pictures, in the order in which they stood. Nothing of a page is lost: what has
// no line of its own kind is a line of text.
package oldpage

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"path"
	"strings"
	"unicode/utf8"

	"inklatch/internal/core/page/bring"
)

// Kind is what a line is, Line one of a page.
type (
	Kind = bring.Kind
	Line = bring.Line
)

// The kinds, by the names they have here.
const (
	Heading   = bring.Heading
	Item      = bring.Item
	Paragraph = bring.Paragraph
	Caution   = bring.Caution
	Note      = bring.Note
	Row       = bring.Cells
	Picture   = bring.Picture
	Furniture = bring.Furniture
)

// Page is an old page.
type Page struct {
	// Name is the file it was read from, SHA256 of its bytes, hexadecimal.
	Name   string
	SHA256 string
	Lines  []Line
}

// The most that is read of one page.
const (
	// MostBytes bounds the file, mostUnpacked what a packed one is read of.
	MostBytes    = 16 << 20
	mostUnpacked = 64 << 20
	mostLines    = 20_000
	mostText     = 4000
	mostDeep     = 200
	mostNodes    = 1_500_000
)

// Error is a sentence about a file that cannot be read.
type Error struct{ Says string }

func (e *Error) Error() string { return e.Says }

func wrong(format string, args ...any) error { return &Error{fmt.Sprintf(format, args...)} }

// Formats are the endings of the files that are read.
var Formats = []string{".docx", ".odt", ".html", ".htm", ".md", ".txt", ".csv", ".xlsx", ".dita", ".xml"}

// Read reads a page. The ending of the name says what it is; where the bytes say otherwise they
// are believed. Every error is an *Error: a sentence that says what to do.
func Read(name string, b []byte) (*Page, error) {
	if len(b) > MostBytes {
		return nil, wrong("The file has %d MB; at most %d MB are read. Pictures make a page large: save it without them.", len(b)>>20, MostBytes>>20)
	}
	sum := sha256.Sum256(b)
	p := &Page{Name: path.Base(strings.ReplaceAll(name, `\`, "/")), SHA256: hex.EncodeToString(sum[:])}
	r := &reader{}
	if err := r.read(strings.ToLower(path.Ext(name)), b); err != nil {
		var e *Error
		if errors.As(err, &e) {
			return nil, e
		}
		return nil, wrong("The file is damaged: %v.", err)
	}
	p.Lines = r.lines
	if len(p.Lines) == 0 {
		return nil, wrong("There is no text in this file. A scanned page has to go through text recognition first.")
	}
	return p, nil
}

func (r *reader) read(ext string, b []byte) error {
	switch {
	case len(bytes.TrimSpace(b)) == 0:
		return wrong("The file is empty.")
	case bytes.HasPrefix(b, []byte("\xd0\xcf\x11\xe0")):
		return wrong("This is an old binary document, or one with a password. Open it, take the password off and save it as .docx or .odt.")
	case bytes.HasPrefix(b, []byte("%PDF")):
		return wrong("A PDF has no steps and headings left in it, only letters in places. Bring the document that it was printed from, or copy its text.")
	case bytes.HasPrefix(b, []byte("{\\rtf")):
		return wrong("This is an RTF document. Open it and save it as .docx or .odt.")
	case bytes.HasPrefix(b, []byte("PK\x03\x04")):
		return r.packed(b)
	}
	switch ext {
	case ".docx", ".odt", ".xlsx":
		return wrong("This is no %s file: it may have been renamed, or was not fetched to its end.", ext)
	case ".html", ".htm":
		return r.html(b)
	case ".md", ".markdown":
		return r.markdown(b)
	case ".dita", ".xml":
		return r.dita(b)
	case ".csv", ".tsv":
		return r.table(b)
	case ".txt", "":
		return r.plain(b)
	}
	return wrong("Files that end in %q are not read. These are: %s.", ext, strings.Join(Formats, ", "))
}

// reader gathers lines.
type reader struct{ lines []Line }

// add adds a line, its blanks made single; an empty one is none.
func (r *reader) add(l Line) error {
	l.Text = squeeze(l.Text)
	if l.Text == "" && len(l.Cells) == 0 {
		return nil
	}
	if len(r.lines) >= mostLines {
		return wrong("The page has more than %d lines. Bring its chapters one by one.", mostLines)
	}
	if len(l.Text) > mostText {
		cut := l.Text[:mostText]
		for !utf8.ValidString(cut) {
			cut = cut[:len(cut)-1]
		}
		if err := r.add(Line{Kind: l.Kind, Level: l.Level, Text: cut}); err != nil {
			return err
		}
		l.Text = l.Text[len(cut):]
		return r.add(l)
	}
	if l.Kind == Paragraph || l.Kind == Item {
		l.Kind, l.Text = aside(l.Kind, l.Text)
	}
	r.lines = append(r.lines, l)
	return nil
}

// boxed are the words that a caution or a note begins with.
var boxed = []struct {
	word string
	kind Kind
}{{"warning", Caution}, {"caution", Caution}, {"danger", Caution}, {"attention", Caution}, {"important", Note}, {"note", Note}, {"notice", Note}, {"nb", Note}, {"remark", Note}, {"tip", Note}, {"hint", Note}}

// aside is a line that begins with the word of a box and a colon, a dash or an exclamation mark.
func aside(kind Kind, text string) (Kind, string) {
	for _, b := range boxed {
		if len(text) <= len(b.word) || !strings.EqualFold(text[:len(b.word)], b.word) {
			continue
		}
		rest := strings.TrimLeft(text[len(b.word):], " \u00a0")
		for _, sep := range []string{":", "!", "–", "—", "- "} {
			if after, ok := strings.CutPrefix(rest, sep); ok {
				if after = strings.TrimLeft(after, "!:–— \u00a0"); after != "" {
					return b.kind, after
				}
			}
		}
	}
	return kind, text
}

// boxWord is the kind of box that a title is of, empty where it is no title of a box.
func boxWord(text string) Kind {
	text = strings.Trim(squeeze(text), "!:. ⚠")
	for _, b := range boxed {
		if strings.EqualFold(text, b.word) {
			return b.kind
		}
	}
	return ""
}

// squeeze makes blanks single, and takes what is no letter out.
func squeeze(s string) string {
	s = strings.Map(func(r rune) rune {
		switch {
		case r == '\u00ad' || r == '\ufeff' || r == '\u200b': // a soft hyphen, marks without width
			return -1
		case r == '\u00a0' || r == '\u202f' || r < ' ':
			return ' '
		}
		return r
	}, strings.ToValidUTF8(s, "\ufffd"))
	return strings.Join(strings.Fields(s), " ")
}
