package desk

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/layout"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// View is one version of an engine sheet: drawn, derived and proved.
type EngineView struct {
	Meta     *SheetMeta           `json:"meta"`
	Sheet    *engine.Sheet        `json:"sheet"`
	Drawing  *view.Drawing        `json:"drawing"`
	Derived  *view.Derived        `json:"derived"`
	Findings []sheetproof.Finding `json:"findings"`
}

// SheetMeta is the title block of an engine sheet.
type SheetMeta struct {
	Code    string `json:"code"`
	Number  int    `json:"number"`
	State   string `json:"state"`
	Version int64  `json:"version"`
	Reason  string `json:"reason"`
	// Draft and InUse are the numbers of the two, 0 for none.
	Draft      int    `json:"draft"`
	InUse      int    `json:"inUse"`
	Editable   bool   `json:"editable"`
	Writes     bool   `json:"writes"`
	MayUndo    bool   `json:"mayUndo"`
	MayRedo    bool   `json:"mayRedo"`
	MayRelease bool   `json:"mayRelease"`
	WhyNot     string `json:"whyNot"`
	Blocking   int    `json:"blocking"`
	// Asked is how many questions and points are open of the draft.
	Asked      int            `json:"asked,omitzero"`
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

// numbered is one version of a code's sheet, with all of them and what is built
// from it; number 0 is the draft or the one in use.
func (d *library) numbered(r store.Reads, u *User, code string, number int) (*store.Sheet, []store.Sheet, *known, error) {
	all, err := r.SheetsOf(code)
	if err != nil {
		return nil, nil, nil, err
	}
	v, err := sheetAt(all, u, number)
	if err != nil {
		return nil, nil, nil, err
	}
	k, err := d.knowSheet(r, v)
	return v, all, k, err
}

// View opens an engine sheet; number 0 is the draft or the one in use.
func (d *Engines) View(ctx context.Context, u *User, code string, number int) (*EngineView, error) {
	r := d.store.Reads(ctx)
	v, all, k, err := d.numbered(r, u, code, number)
	if err != nil {
		return nil, err
	}
	return d.viewSheet(r, u, v, all, k)
}

func (d *Engines) viewSheet(r store.Reads, u *User, v *store.Sheet, all []store.Sheet, k *known) (*EngineView, error) {
	out, err := d.laidSheet(k)
	if err != nil {
		return nil, err
	}
	m, err := d.sheetMeta(r, u, v, all, sheetproof.Blocking(out.Findings))
	out.Meta = m
	return out, err
}

// laidSheet proves a sheet and lays it out, within the time that one sheet may take.
func (d *library) laidSheet(k *known) (*EngineView, error) {
	return worked(func() (*EngineView, error) {
		return &EngineView{Sheet: k.sheet, Drawing: view.DrawingOf(k.index), Derived: view.DerivedOf(k.index), Findings: sheetproof.Prove(k.index, d.house())}, nil
	})
}

func (d *Engines) sheetMeta(r store.Reads, u *User, v *store.Sheet, all []store.Sheet, blocking int) (*SheetMeta, error) {
	var who []int64
	for i := range all {
		for _, id := range []*int64{all[i].ChangedBy, all[i].ReleasedBy} {
			if id != nil {
				who = append(who, *id)
			}
		}
	}
	names, err := r.Names(who...)
	if err != nil {
		return nil, err
	}
	m := &SheetMeta{Code: v.Code, Number: v.Number, State: v.State, Version: v.Version, Reason: v.Reason, Writes: u.Writes(), Blocking: blocking, ChangedAt: v.ChangedAt, Versions: []SheetVersion{}}
	m.ChangedBy = nameOf(names, v.ChangedBy)
	if m.Procedures, err = r.CountProcedures(v.Code); err != nil {
		return nil, err
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
	if m.Editable = u.Writes(); m.Editable {
		turns, err := r.SheetTurns(v.ID, u.ID)
		if err != nil {
			return nil, err
		}
		m.MayUndo, m.MayRedo = store.Undoable(turns, false) != 0, store.Undoable(turns, true) != 0
	}
	worked, err := r.WorkedOnSheet(v.ID, u.ID)
	if err != nil {
		return nil, err
	}
	k, err := d.knowSheet(r, v)
	if err != nil {
		return nil, err
	}
	change, err := d.sheetChange(r, v, k)
	if err != nil {
		return nil, err
	}
	c := latch.SheetCase{WorkedOn: worked, Blocking: blocking}
	if c.Unread, c.Asked, err = change.left(r, u); err != nil {
		return nil, err
	}
	m.Asked = c.Asked
	if why := latch.MayPutIntoUse(u.Roles, c); why == nil {
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

// draftOf is the draft of a code with what is built from it.
func (d *Engines) draftOf(r store.Reads, code string) (*store.Sheet, []store.Sheet, *known, error) {
	all, err := r.SheetsOf(code)
	if err != nil {
		return nil, nil, nil, err
	}
	if len(all) == 0 {
		return nil, nil, nil, notFound("engine code")
	}
	for i := range all {
		if all[i].State == "draft" {
			k, err := d.knowSheet(r, &all[i])
			return &all[i], all, k, err
		}
	}
	return nil, nil, nil, problem(409, "The sheet of %s has no draft. Start one first.", code)
}

// LookSheet is the draft with edits that are not saved.
func (d *Engines) LookSheet(ctx context.Context, u *User, code string, edits []engine.Edit) (*EngineView, error) {
	if isReader(u) {
		return nil, forbidden("Drafts are for those who work on them.")
	}
	r := d.store.Reads(ctx)
	v, all, k, err := d.draftOf(r, code)
	if err != nil {
		return nil, err
	}
	s, err := applySheet(k.sheet, edits)
	if err != nil {
		return nil, err
	}
	return d.viewSheet(r, u, v, all, know(sheetKey{}, s))
}

// Leading is a loop being led over wheels: its route so far, and the edits that
// put it on the sheet, none before it is a loop.
type Leading struct {
	Stops []engine.Stop `json:"stops"`
	Edits []engine.Edit `json:"edits"`
	// Thing is what the edits make or change: "loops/timing-belt".
	Thing string `json:"thing"`
}

// Lead leads a loop of the draft over wheels in the order they were taken; with
// loop, the loop there is gets the new route.
func (d *Engines) Lead(ctx context.Context, u *User, code string, kind engine.LoopKind, loop engine.LoopID, wheels []engine.WheelID) (*Leading, error) {
	if isReader(u) {
		return nil, forbidden("Drafts are for those who work on them.")
	}
	_, _, k, err := d.draftOf(d.store.Reads(ctx), code)
	if err != nil {
		return nil, err
	}
	out := &Leading{Stops: route.Lead(k.index, wheels), Edits: []engine.Edit{}}
	if len(out.Stops) < 2 {
		return out, nil
	}
	if loop != "" {
		if k.index.Loop(loop) == nil {
			return nil, notFound("loop")
		}
		out.Thing = "loops/" + string(loop)
		out.Edits = append(out.Edits, engine.Edit{Path: out.Thing + "/route", Value: json.RawMessage(text(out.Stops))})
		return out, nil
	}
	l := route.Begin(k.index, kind, out.Stops)
	out.Thing = "loops/" + string(l.ID)
	out.Edits = append(out.Edits, engine.Edit{Path: out.Thing, Value: json.RawMessage(text(l))})
	return out, nil
}

// Reshape gives the edits that reshape the drive of a draft; nothing is saved.
func (d *Engines) Reshape(ctx context.Context, u *User, code string, how layout.Reshape) ([]engine.Edit, error) {
	if isReader(u) {
		return nil, forbidden("Drafts are for those who work on them.")
	}
	_, _, k, err := d.draftOf(d.store.Reads(ctx), code)
	if err != nil {
		return nil, err
	}
	edits, err := how.Edits(k.sheet)
	if errors.Is(err, layout.ErrNoOtherEnd) {
		return nil, &Problem{Status: 422, Title: "Name the other end first, on the tab Engine.", Field: "otherView"}
	}
	if err != nil {
		return nil, &Problem{Status: 422, Title: message.Capital(err.Error()) + ".", Field: "how"}
	}
	return edits, nil
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
	if err := held(latchjson.CheckSheet(out), ""); err != nil {
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

// ReleaseSheet puts a draft into use at the version the person saw, opens the
// latches of what it touches again, and queues the proof of the code's
// procedures against it. It is the one way a sheet comes into use.
func (d *Engines) ReleaseSheet(ctx context.Context, u *User, code string, seen int64) (*EngineView, error) {
	if err := latch.MayEverPutIntoUse(u.Roles); err != nil {
		return nil, forbidden(fullStop(err.Error()))
	}
	err := d.store.ReleaseSheet(ctx, code, func(w *store.SheetDraft) error {
		k, err := d.knowSheet(w.Reads, w.Sheet)
		if err != nil {
			return err
		}
		if seen != w.Sheet.Version {
			return d.sheetMovedOn(w, k, seen)
		}
		worked, err := w.WorkedOnSheet(w.Sheet.ID, u.ID)
		if err != nil {
			return err
		}
		c := latch.SheetCase{WorkedOn: worked, Blocking: sheetproof.Blocking(sheetproof.Prove(k.index, d.house()))}
		change, err := d.sheetChange(w.Reads, w.Sheet, k)
		if err != nil {
			return err
		}
		if c.Unread, c.Asked, err = change.left(w.Reads, u); err != nil {
			return err
		}
		if why := latch.MayPutIntoUse(u.Roles, c); why != nil {
			return problem(409, "Not yet: %s.", why)
		}
		if err := d.reopenTouched(w, u, k); err != nil {
			return err
		}
		_, err = w.Release(u.ID, change.lines(), func(tx *sql.Tx, id int64) error { return d.queueReproof(ctx, tx, id) })
		return err
	})
	if errors.Is(err, store.ErrNotFound) {
		if all, err := d.store.Reads(ctx).SheetsOf(code); err != nil || len(all) == 0 {
			return nil, cmp.Or(err, error(notFound("engine code")))
		}
		return nil, problem(409, "The sheet of %s has no draft to put into use.", code)
	}
	if err != nil {
		return nil, err
	}
	return d.View(ctx, u, code, 0)
}

// reopenTouched opens the latches of every revision that speaks of what the
// sheet changes against the one they were closed over; the others keep that one.
func (d *Engines) reopenTouched(w *store.SheetDraft, u *User, now *known) error {
	open, err := w.OpenDrafts()
	if err != nil {
		return err
	}
	for _, r := range open {
		o, err := d.drafted(r)
		if err != nil {
			return err
		}
		edits := engine.Diff(o.k.sheet, now.sheet)
		why := touchedBy(now.sheet, o.p, edits, func(i int) string { return changeName(o.k.sheet, now.sheet, edits[i].Path) })
		if len(why) == 0 {
			continue
		}
		if err := reopenAll(r, u, "open latches", map[string]any{"sheet": w.Sheet.Number, "changes": why}); err != nil {
			return err
		}
	}
	return nil
}

// sheetMovedOn is the problem of putting another version of a draft into use
// than the one the person saw.
func (d *Engines) sheetMovedOn(w *store.SheetDraft, now *known, seen int64) error {
	p := &Problem{Status: 409, Title: "The sheet has moved on since you looked. Look at what has changed, then put it into use.", Version: w.Sheet.Version, Changes: []string{}}
	batches, err := w.Batches()
	if err != nil {
		return err
	}
	before := now.sheet
	for i := range batches {
		if batches[i].Version <= seen {
			break
		}
		var back []engine.Edit
		if err := json.Unmarshal([]byte(batches[i].Inverse), &back); err != nil {
			return err
		}
		if was, err := engine.Apply(before, back); err == nil {
			before = was
		}
	}
	for _, e := range engine.Diff(before, now.sheet) {
		if name := changeName(before, now.sheet, e.Path); !slices.Contains(p.Changes, name) {
			p.Changes = append(p.Changes, name)
		}
	}
	return p
}
