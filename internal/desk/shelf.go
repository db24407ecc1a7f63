package desk

import (
	"bytes"
	"context"
	"fmt"
	"path"
	"strings"
	"time"

	"inklatch/internal/format/photo"
	"inklatch/internal/store"
)

// ShelfKey names what the house keeps something of: a tool or a source, by its number.
type ShelfKey struct{ Kind, Number string }

// KeptFile is the picture of a tool or the file of a document.
type KeptFile struct {
	// ID changes with every file.
	ID   int64     `json:"id"`
	Name string    `json:"name"`
	Type string    `json:"type"`
	By   string    `json:"by"`
	At   time.Time `json:"at"`
}

// Calibration is when a tool was calibrated, and by when it is again; days are as 2026-05-31.
type Calibration struct {
	Done   string `json:"done"`
	Months int    `json:"months"`
	Due    string `json:"due"`
	Over   bool   `json:"over"`
	By     string `json:"by"`
}

// mostFile is the largest file of a document, bytes.
const mostFile = 10 << 20

// pdf is how such a file begins.
var pdf = []byte("%PDF-")

// onShelf says why nothing is kept of a number, nil where it is.
func (d *Shelves) onShelf(ctx context.Context, k ShelfKey) error {
	if err := holdText(k.Number, "number", 200); err != nil {
		return err
	}
	is, err := d.store.Reads(ctx).OnShelf(k.Kind, k.Number)
	if err == nil && !is {
		return notFound(map[string]string{"tool": "tool on any engine sheet", "source": "document on any engine sheet"}[k.Kind])
	}
	return err
}

// KeepFile keeps a picture of a tool, or a picture or PDF file of a document, in place of the
// one before. What is kept of a picture is the picture alone.
func (d *Shelves) KeepFile(ctx context.Context, u *User, k ShelfKey, name string, sent []byte) error {
	if err := MayWrite(u); err != nil {
		return err
	}
	if err := d.onShelf(ctx, k); err != nil {
		return err
	}
	if name = path.Base(strings.ReplaceAll(strings.TrimSpace(name), `\`, "/")); name == "." || name == "/" {
		name = "file"
	}
	if err := holdText(name, "name", 200); err != nil {
		return err
	}
	f := &store.ShelfFile{Kind: k.Kind, Number: k.Number, Name: name, Type: "application/pdf", Body: sent, PersonID: u.ID}
	switch {
	case len(sent) > mostFile:
		return problem(413, "A file has at most 10 MB. Make it smaller and try again.")
	case bytes.HasPrefix(sent, pdf) && k.Kind == "source":
	case bytes.HasPrefix(sent, pdf):
		return problem(422, "The picture of a tool is a JPEG, PNG or WebP file. A PDF file is put to a document, under Sources.")
	default:
		body, err := clean(ctx, sent)
		if err != nil {
			kinds := "a JPEG, PNG or WebP picture"
			if k.Kind == "source" {
				kinds = "a PDF file, or " + kinds
			}
			return problem(422, "%s is not %s that can be read. Nothing was changed.", name, kinds)
		}
		f.Type, f.Body = photo.Kind, body
	}
	return d.store.KeepShelfFile(ctx, f)
}

// TakeFileOff lets a tool or a document be without its file.
func (d *Shelves) TakeFileOff(ctx context.Context, u *User, k ShelfKey) error {
	if err := MayWrite(u); err != nil {
		return err
	}
	f, err := d.store.Reads(ctx).ShelfFileOf(k.Kind, k.Number)
	if err != nil || f.Type == "" {
		return missing(or404(err), "file of it")
	}
	return d.store.KeepShelfFile(ctx, &store.ShelfFile{Kind: k.Kind, Number: k.Number, Name: f.Name, PersonID: u.ID})
}

// or404 is an error, or that nothing is there.
func or404(err error) error {
	if err == nil {
		return store.ErrNotFound
	}
	return err
}

// File is the file of a tool or a document.
func (d *Shelves) File(ctx context.Context, _ *User, k ShelfKey) (*store.ShelfFile, error) {
	f, err := d.store.Reads(ctx).ShelfFileOf(k.Kind, k.Number)
	if err != nil || f.Type == "" {
		return nil, missing(or404(err), "file of it")
	}
	return f, nil
}

// mostMonths is the longest that a calibration holds.
const mostMonths = 600

// Calibrate notes when a tool was calibrated and for how many months that holds; an empty day
// takes what was noted off.
func (d *Shelves) Calibrate(ctx context.Context, u *User, number string, c Calibration) error {
	if err := MayWrite(u); err != nil {
		return err
	}
	if err := d.onShelf(ctx, ShelfKey{"tool", number}); err != nil {
		return err
	}
	if c.Months < 0 || c.Months > mostMonths {
		return bad("months", fmt.Sprintf("A calibration holds for between 0 and %d months; 0 is until further notice.", mostMonths))
	}
	if c.Done != "" {
		day, err := dayOf(c.Done, "done")
		if err != nil {
			return err
		}
		if day.After(store.Now()) {
			return bad("done", "That day is still to come: note a calibration once it is done.")
		}
	}
	return d.store.KeepToolCheck(ctx, &store.ToolCheck{Number: number, Done: c.Done, Months: c.Months, PersonID: u.ID})
}

// keptOf are the files that hold for some numbers, by number in lower case.
func (d *Shelves) keptOf(ctx context.Context, kind string, numbers []string) (map[string]*KeptFile, error) {
	out := map[string]*KeptFile{}
	if len(numbers) == 0 {
		return out, nil
	}
	r := d.store.Reads(ctx)
	all, err := r.ShelfFiles(kind, numbers)
	if err != nil {
		return nil, err
	}
	var who []int64
	for i := range all {
		who = append(who, all[i].PersonID)
	}
	names, err := r.Names(who...)
	for i := range all {
		f := &all[i]
		out[f.Number] = &KeptFile{f.ID, f.Name, f.Type, names[f.PersonID], f.At}
	}
	return out, err
}

// calibrations are those that hold for some numbers, by number in lower case.
func (d *Shelves) calibrations(ctx context.Context, numbers []string) (map[string]*Calibration, error) {
	out := map[string]*Calibration{}
	if len(numbers) == 0 {
		return out, nil
	}
	r := d.store.Reads(ctx)
	all, err := r.ToolChecks(numbers)
	if err != nil {
		return nil, err
	}
	var who []int64
	for i := range all {
		who = append(who, all[i].PersonID)
	}
	names, err := r.Names(who...)
	today := store.Now().UTC().Format(time.DateOnly)
	for i := range all {
		c := &all[i]
		due := c.Due()
		out[c.Number] = &Calibration{c.Done, c.Months, due, due != "" && due < today, names[c.PersonID]}
	}
	return out, err
}
