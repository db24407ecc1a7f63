package desk

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/layout"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// Archetype is a layout that a sheet may start from, with its drawing.
type Archetype struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	Says    string        `json:"says"`
	Drawing *view.Drawing `json:"drawing"`
}

// Archetypes are the layouts that a sheet may start from; whoever is signed in may
// look at them. They are drawn once: they never change.
var Archetypes = sync.OnceValue(func() []Archetype {
	out := []Archetype{}
	for _, a := range layout.All() {
		out = append(out, Archetype{a.ID, a.Name, a.Says, view.DrawingOf(engine.NewIndex(a.Sheet(a.ID)))})
	}
	return out
})

// NewEngine starts a new code: from a blank page, as a copy of another code, or
// from an archetype.
func (d *Engines) NewEngine(ctx context.Context, u *User, code, from, like string) (string, error) {
	if err := MayWrite(u); err != nil {
		return "", err
	}
	code = strings.ToUpper(strings.TrimSpace(code))
	if err := held(latchjson.CheckCode(code), ""); err != nil {
		return "", err
	}
	s := blank(code)
	reason := "First sheet."
	switch {
	case from != "" && like != "":
		return "", &Problem{Status: 422, Title: "A sheet starts from another code or from an archetype, not from both.", Field: "archetype"}
	case like != "":
		a, ok := layout.Named(like)
		if !ok {
			return "", notFound("archetype")
		}
		s = a.Sheet(code)
		reason = fmt.Sprintf("First sheet, started from “%s”.", a.Name)
	case from != "":
		_, _, k, err := d.numbered(d.store.Reads(ctx), u, from, 0)
		if err != nil {
			return "", err
		}
		other := *k.sheet
		s = &other
		// Where a value came from was said of the other code.
		s.Code, s.Evidence, reason = code, nil, "Copied from "+from+"."
	}
	if from == "" {
		s.Years.From = store.Now().Year()
		maker, err := d.onlyMaker(ctx)
		if err != nil {
			return "", err
		}
		s.Maker = maker
	}
	return code, d.addSheet(ctx, u, s, reason, true)
}

// onlyMaker is the maker of every code there is, where they have but one.
func (d *Engines) onlyMaker(ctx context.Context) (string, error) {
	all, err := d.store.Reads(ctx).Makers(d.sheetEdition(), 2)
	if err != nil || len(all) != 1 {
		return "", err
	}
	return all[0], nil
}

// blank is a sheet with nothing but its crank.
func blank(code string) *engine.Sheet {
	return &engine.Sheet{
		Code: code, Cylinders: 4, Cycle: engine.FourStroke,
		Interference: engine.Unknown, Running: engine.Clockwise, View: "front, looking at the timing drive",
		Shafts: []engine.Shaft{{ID: engine.CrankID, Name: "crank", Kind: engine.Crankshaft}}, Wheels: []engine.Wheel{}, Loops: []engine.Loop{},
	}
}

// ImportEngine reads a sheet, or the sheet of a latch file, as a draft.
func (d *Engines) ImportEngine(ctx context.Context, u *User, b []byte) (string, error) {
	if err := MayWrite(u); err != nil {
		return "", err
	}
	s, err := latchjson.DecodeAnySheet(b)
	if err != nil {
		return "", unreadable(err, latchjson.Foreign(b))
	}
	return s.Code, d.addSheet(ctx, u, s, "Read from a file.", false)
}

// unreadable is the problem of a file that is none of ours, with what it seems to be.
func unreadable(err error, kind string) *Problem {
	if kind != "" {
		return problem(422, "%s Nothing was changed.", kind)
	}
	var bad *latchjson.Error
	if !errors.As(err, &bad) {
		bad = &latchjson.Error{Why: err.Error()}
	}
	return &Problem{Status: 422, Title: "The file cannot be read and nothing was changed. " + bad.Error() + ".", Field: bad.Place}
}

func (d *Engines) addSheet(ctx context.Context, u *User, s *engine.Sheet, reason string, fresh bool) error {
	return d.startSheet(ctx, u, s.Code, reason, fresh, func(store.Reads) (*engine.Sheet, error) { return s, nil })
}

// startSheet starts a draft of what from gives inside the transaction.
func (d *Engines) startSheet(ctx context.Context, u *User, code, reason string, fresh bool, from func(store.Reads) (*engine.Sheet, error)) error {
	if err := holdText(reason, "reason", 1000); err != nil {
		return err
	}
	sheet, err := d.store.AddSheet(ctx, code, reason, u.ID, fresh, func(r store.Reads) (string, error) {
		s, err := from(r)
		if err != nil {
			return "", err
		}
		if err := held(latchjson.CheckSheet(s), ""); err != nil {
			return "", err
		}
		b, err := latchjson.Canonical(s)
		return string(b), err
	})
	if errors.Is(err, store.ErrOpenSheet) {
		if fresh {
			return &Problem{Status: 409, Title: fmt.Sprintf("There is a sheet for %s already.", code), Field: "code"}
		}
		return problem(409, "The sheet of %s has an open draft already. Go on with that one.", code)
	}
	if err != nil {
		return err
	}
	// Lists find it by what its card says, from now on.
	_, err = d.cardOf(ctx, d.store.Reads(ctx), &store.SheetShelf{SheetID: sheet.ID, Code: code, Number: sheet.Number, Version: sheet.Version})
	d.tell("proving a new engine sheet for lists", err)
	return nil
}

// NewSheetDraft starts the next version of a code's sheet from the one in use.
func (d *Engines) NewSheetDraft(ctx context.Context, u *User, code, reason string) error {
	if err := MayWrite(u); err != nil {
		return err
	}
	if _, err := d.engine(d.store.Reads(ctx), code); err != nil {
		return err
	}
	if strings.TrimSpace(reason) == "" {
		return &Problem{Status: 422, Title: "Say why the sheet changes: everybody who opens it reads that.", Field: "reason"}
	}
	return d.startSheet(ctx, u, code, reason, false, func(r store.Reads) (*engine.Sheet, error) {
		k, err := d.engine(r, code)
		if err != nil {
			return nil, err
		}
		return k.sheet, nil
	})
}
