package desk

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/latch"
	"inklatch/internal/core/tally"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// EngineView is one version of an engine sheet: drawn, derived and proved.
type EngineView struct {
	Meta     *SheetMeta      `json:"meta"`
	Sheet    *engine.Sheet   `json:"sheet"`
	Drawing  *view.Drawing   `json:"drawing"`
	Derived  *view.Derived   `json:"derived"`
	Findings []tally.Finding `json:"findings"`
}

// SheetMeta is the title block of an engine sheet.
type SheetMeta struct {
	Code    string `json:"code"`
	Number  int    `json:"number"`
	State   string `json:"state"`
	Version int64  `json:"version"`
	Reason  string `json:"reason"`
	// Draft and InUse are the numbers of the two, 0 for none.
	Draft      int            `json:"draft"`
	InUse      int            `json:"inUse"`
	Editable   bool           `json:"editable"`
	Writes     bool           `json:"writes"`
	MayUndo    bool           `json:"mayUndo"`
	MayRedo    bool           `json:"mayRedo"`
	MayRelease bool           `json:"mayRelease"`
	WhyNot     string         `json:"whyNot"`
	Blocking   int            `json:"blocking"`
	ChangedBy  string         `json:"changedBy"`
	ChangedAt  time.Time      `json:"changedAt"`
	Versions   []SheetVersion `json:"versions"`
	Procedures int            `json:"procedures"`
}

// SheetVersion is one version in the list of a code's.
type SheetVersion struct {
	Number int        `json:"number"`
	State  string     `json:"state"`
	Reason string     `json:"reason"`
	By     string     `json:"by"`
	At     *time.Time `json:"at,omitzero"`
}

// isReader reports whether somebody reads latched pages only.
func isReader(u *User) bool {
	return !slices.ContainsFunc(u.Roles, func(r latch.Role) bool { return r != latch.Reader })
}

// sheetAt picks a version: number, or with 0 the draft for those who work on
// drafts, otherwise the one in use.
func sheetAt(all []store.Sheet, u *User, number int) (*store.Sheet, error) {
	var inUse *store.Sheet
	for i := range all {
		v := &all[i]
		if v.State == "draft" && isReader(u) {
			continue
		}
		if v.Number == number || number == 0 && v.State == "draft" {
			return v, nil
		}
		if v.State == "in use" {
			inUse = v
		}
	}
	if number == 0 && inUse != nil {
		return inUse, nil
	}
	return nil, notFound("engine sheet")
}

func (d *Desk) knowSheet(v *store.Sheet) (*known, error) {
	key := fmt.Sprintf("sheet/%d/%d", v.ID, v.Version)
	if k, ok := d.sheet.Load(key); ok {
		return k.(*known), nil
	}
	s, err := latchjson.DecodeSheet([]byte(v.Sheet))
	if err != nil {
		return nil, fmt.Errorf("reading sheet %d of %s: %w", v.Number, v.Code, err)
	}
	k := know(s)
	d.sheet.Store(key, k)
	d.sheet.Delete(fmt.Sprintf("sheet/%d/%d", v.ID, v.Version-1))
	return k, nil
}

// numbered is one version of a code's sheet, with all of them and what is built
// from it; number 0 is the draft or the one in use.
func (d *Desk) numbered(ctx context.Context, u *User, code string, number int) (*store.Sheet, []store.Sheet, *known, error) {
	all, err := d.store.SheetsOf(ctx, code)
	if err != nil {
		return nil, nil, nil, err
	}
	v, err := sheetAt(all, u, number)
	if err != nil {
		return nil, nil, nil, err
	}
	k, err := d.knowSheet(v)
	return v, all, k, err
}

// EngineView opens an engine sheet; number 0 is the draft or the one in use.
func (d *Desk) EngineView(ctx context.Context, u *User, code string, number int) (*EngineView, error) {
	v, all, k, err := d.numbered(ctx, u, code, number)
	if err != nil {
		return nil, err
	}
	return d.viewSheet(ctx, u, v, all, k)
}

func (d *Desk) viewSheet(ctx context.Context, u *User, v *store.Sheet, all []store.Sheet, k *known) (*EngineView, error) {
	out := &EngineView{Sheet: k.sheet, Drawing: view.DrawingOf(k.index), Derived: view.DerivedOf(k.index), Findings: tally.Prove(k.index, d.house)}
	m, err := d.sheetMeta(ctx, u, v, all, tally.Blocking(out.Findings))
	out.Meta = m
	return out, err
}

func (d *Desk) sheetMeta(ctx context.Context, u *User, v *store.Sheet, all []store.Sheet, blocking int) (*SheetMeta, error) {
	names, err := d.names(ctx)
	if err != nil {
		return nil, err
	}
	ps, err := d.store.Procedures(ctx)
	if err != nil {
		return nil, err
	}
	m := &SheetMeta{Code: v.Code, Number: v.Number, State: v.State, Version: v.Version, Reason: v.Reason, Writes: u.Writes(), Blocking: blocking, ChangedAt: v.ChangedAt, Versions: []SheetVersion{}}
	m.ChangedBy = nameOf(names, v.ChangedBy)
	for _, p := range ps {
		if p.Engine == v.Code {
			m.Procedures++
		}
	}
	for i := range all {
		s := &all[i]
		switch {
		case s.State == "draft" && isReader(u):
			continue
		case s.State == "draft":
			m.Draft = s.Number
		case s.State == "in use":
			m.InUse = s.Number
		}
		at := s.ReleasedAt
		by := nameOf(names, s.ReleasedBy)
		if at == nil {
			at, by = &s.ChangedAt, nameOf(names, s.ChangedBy)
		}
		m.Versions = append(m.Versions, SheetVersion{s.Number, s.State, s.Reason, by, at})
	}
	if v.State != "draft" {
		return m, nil
	}
	batches, err := d.store.SheetBatches(ctx, v.ID)
	if err != nil {
		return nil, err
	}
	if m.Editable = u.Writes(); m.Editable {
		m.MayUndo, m.MayRedo = store.UndoableSheet(batches, u.ID, false) != nil, store.UndoableSheet(batches, u.ID, true) != nil
	}
	if why := mayRelease(u, v, batches, blocking); why == nil {
		m.MayRelease = true
	} else {
		m.WhyNot = why.Error()
	}
	return m, nil
}

func nameOf(names map[int64]string, id *int64) string {
	if id == nil {
		return ""
	}
	return names[*id]
}

// mayRelease says why somebody may not put a draft into use, nil when they may.
func mayRelease(u *User, v *store.Sheet, batches []store.SheetBatch, blocking int) error {
	workedOn := slices.ContainsFunc(batches, func(b store.SheetBatch) bool { return b.PersonID == u.ID })
	return latch.MayPutIntoUse(u.Roles, workedOn || v.CreatedBy != nil && *v.CreatedBy == u.ID, blocking)
}

var codeShape = regexp.MustCompile(`^[A-Z0-9][A-Z0-9-]{1,19}$`)

// NewEngine starts a new code: from a blank page, or as a copy of another.
func (d *Desk) NewEngine(ctx context.Context, u *User, code, from string) (string, error) {
	if err := MayWrite(u); err != nil {
		return "", err
	}
	code = strings.ToUpper(strings.TrimSpace(code))
	if !codeShape.MatchString(code) {
		return "", &Problem{Status: 422, Title: "A code has 2 to 20 capital letters, figures and hyphens, such as TQ4-18P.", Field: "code"}
	}
	s := blank(code, store.Now().Year())
	reason := "First sheet."
	if from != "" {
		_, _, k, err := d.numbered(ctx, u, from, 0)
		if err != nil {
			return "", err
		}
		other := *k.sheet
		s = &other
		// Where a value came from was said of the other code.
		s.Code, s.Evidence, reason = code, nil, "Copied from "+from+"."
	}
	return code, d.addSheet(ctx, u, s, reason, true)
}

// blank is a sheet with nothing but its crank.
func blank(code string, year int) *engine.Sheet {
	return &engine.Sheet{
		Code: code, Maker: "Tarn", Years: engine.Years{From: year}, Cylinders: 4, Cycle: engine.FourStroke, FiringOrder: []int{1, 3, 4, 2},
		Interference: engine.Unknown, Running: engine.Clockwise, View: "front, looking at the timing drive",
		Shafts: []engine.Shaft{{ID: engine.CrankID, Name: "crank", Kind: engine.Crankshaft}}, Wheels: []engine.Wheel{}, Loops: []engine.Loop{},
	}
}

// ImportEngine reads a sheet, or the sheet of a latch file, as a draft.
func (d *Desk) ImportEngine(ctx context.Context, u *User, b []byte) (string, error) {
	if err := MayWrite(u); err != nil {
		return "", err
	}
	s, err := latchjson.DecodeAnySheet(b)
	if err != nil {
		return "", unreadable(err)
	}
	return s.Code, d.addSheet(ctx, u, s, "Read from a file.", false)
}

func unreadable(err error) *Problem {
	var bad *latchjson.Error
	if !errors.As(err, &bad) {
		bad = &latchjson.Error{Why: err.Error()}
	}
	return &Problem{Status: 422, Title: "The file cannot be read and nothing was changed. " + bad.Error() + ".", Field: bad.Place}
}

func (d *Desk) addSheet(ctx context.Context, u *User, s *engine.Sheet, reason string, fresh bool) error {
	b, err := latchjson.Canonical(s)
	if err != nil {
		return err
	}
	_, err = d.store.AddSheet(ctx, s.Code, string(b), reason, u.ID, fresh)
	if errors.Is(err, store.ErrOpenSheet) {
		if fresh {
			return &Problem{Status: 409, Title: fmt.Sprintf("There is a sheet for %s already.", s.Code), Field: "code"}
		}
		return problem(409, "The sheet of %s has an open draft already. Go on with that one.", s.Code)
	}
	return err
}

// NewSheetDraft starts the next version of a code's sheet from the one in use.
func (d *Desk) NewSheetDraft(ctx context.Context, u *User, code, reason string) error {
	if err := MayWrite(u); err != nil {
		return err
	}
	if strings.TrimSpace(reason) == "" {
		return &Problem{Status: 422, Title: "Say why the sheet changes: everybody who opens it reads that.", Field: "reason"}
	}
	k, err := d.engine(ctx, code)
	if err != nil {
		return err
	}
	return d.addSheet(ctx, u, k.sheet, reason, false)
}

// draftOf is the draft of a code with what is built from it.
func (d *Desk) draftOf(ctx context.Context, code string) (*store.Sheet, []store.Sheet, *known, error) {
	all, err := d.store.SheetsOf(ctx, code)
	if err != nil {
		return nil, nil, nil, err
	}
	for i := range all {
		if all[i].State == "draft" {
			k, err := d.knowSheet(&all[i])
			return &all[i], all, k, err
		}
	}
	return nil, nil, nil, problem(409, "The sheet of %s has no draft. Start one first.", code)
}

// LookSheet is the draft with edits that are not saved.
func (d *Desk) LookSheet(ctx context.Context, u *User, code string, edits []engine.Edit) (*EngineView, error) {
	if isReader(u) {
		return nil, forbidden("Drafts are for those who work on them.")
	}
	v, all, k, err := d.draftOf(ctx, code)
	if err != nil {
		return nil, err
	}
	s, err := applySheet(k.sheet, edits)
	if err != nil {
		return nil, err
	}
	return d.viewSheet(ctx, u, v, all, know(s))
}

// applySheet makes edits and holds the result against what the core relies on.
func applySheet(s *engine.Sheet, edits []engine.Edit) (*engine.Sheet, error) {
	out, err := engine.Apply(s, edits)
	var bad *engine.EditError
	if errors.As(err, &bad) {
		return nil, &Problem{Status: 422, Title: fullStop(bad.Why), Field: bad.Path}
	}
	if err != nil {
		return nil, err
	}
	if out.Code != s.Code {
		return nil, &Problem{Status: 422, Title: "A sheet keeps its code. Copy it to start another.", Field: "code"}
	}
	if err := latchjson.CheckSheet(out); err != nil {
		var bad *latchjson.Error
		if errors.As(err, &bad) {
			return nil, &Problem{Status: 422, Title: fullStop(bad.Why), Field: bad.Place}
		}
		return nil, err
	}
	return out, nil
}

// fullStop makes a sentence of an error.
func fullStop(s string) string {
	if s == "" {
		return s
	}
	r := []rune(s)
	return strings.ToUpper(string(r[:1])) + string(r[1:]) + "."
}

// ReleaseSheet puts a draft into use and queues the proof of the code's
// procedures against it.
func (d *Desk) ReleaseSheet(ctx context.Context, u *User, code string) (*EngineView, error) {
	revs, err := d.touched(ctx, code)
	if err != nil {
		return nil, err
	}
	err = d.store.WriteSheet(ctx, code, func(w *store.SheetDraft) error {
		batches, err := w.Batches()
		if err != nil {
			return err
		}
		k, err := d.knowSheet(w.Sheet)
		if err != nil {
			return err
		}
		if why := mayRelease(u, w.Sheet, batches, tally.Blocking(tally.Prove(k.index, d.house))); why != nil {
			return problem(409, "Not yet: %s.", why)
		}
		_, err = w.Release(u.ID, latchjson.Sum([]byte(w.Sheet.Sheet)), len(revs), func(tx *sql.Tx, id int64) error {
			return d.queueReproof(ctx, tx, id)
		})
		return err
	})
	if errors.Is(err, store.ErrNotFound) {
		return nil, problem(409, "The sheet of %s has no draft to put into use.", code)
	}
	if err != nil {
		return nil, err
	}
	return d.EngineView(ctx, u, code, 0)
}
