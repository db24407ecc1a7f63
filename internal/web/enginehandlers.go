package web

import (
	"bytes"
	"context"
	"io"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/layout"
	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/web/api"
)

// ListEngines lists engine codes.
func (s *Site) ListEngines(ctx context.Context, _ api.ListEnginesRequestObject) (api.ListEnginesResponseObject, error) {
	rows, err := s.desk.Engines.List(ctx, user(ctx))
	if err != nil {
		return nil, err
	}
	return api.ListEngines200JSONResponse(rows), nil
}

// ListCodes lists one page of the engine codes.
func (s *Site) ListCodes(ctx context.Context, r api.ListCodesRequestObject) (api.ListCodesResponseObject, error) {
	p := r.Params
	q := desk.EngineQuery{Filter: or(p.Filter), Down: or(p.Down), Offset: or(p.Offset), Limit: 100, InUse: or(p.InUse), Drafts: or(p.Drafts)}
	if p.Limit != nil {
		q.Limit = *p.Limit
	}
	if p.Sort != nil {
		q.Sort = store.ShelfSort(*p.Sort)
	}
	page, err := s.desk.Engines.Page(ctx, user(ctx), q)
	if err != nil {
		return nil, err
	}
	return api.ListCodes200JSONResponse(*page), nil
}

// ListArchetypes is what a sheet may start from.
func (s *Site) ListArchetypes(context.Context, api.ListArchetypesRequestObject) (api.ListArchetypesResponseObject, error) {
	return api.ListArchetypes200JSONResponse(desk.Archetypes()), nil
}

// NewEngine starts a code.
func (s *Site) NewEngine(ctx context.Context, r api.NewEngineRequestObject) (api.NewEngineResponseObject, error) {
	code, err := s.desk.Engines.NewEngine(ctx, user(ctx), r.Body.Code, or(r.Body.From), or(r.Body.Archetype))
	if err != nil {
		return nil, err
	}
	return api.NewEngine201JSONResponse{Code: code}, nil
}

// ImportEngine reads a sheet from a file.
func (s *Site) ImportEngine(ctx context.Context, r api.ImportEngineRequestObject) (api.ImportEngineResponseObject, error) {
	if err := desk.MayWrite(user(ctx)); err != nil {
		return nil, err
	}
	b, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, err
	}
	code, err := s.desk.Engines.ImportEngine(ctx, user(ctx), b)
	if err != nil {
		return nil, err
	}
	return api.ImportEngine201JSONResponse{Code: code}, nil
}

// GetEngine is one engine sheet.
func (s *Site) GetEngine(ctx context.Context, r api.GetEngineRequestObject) (api.GetEngineResponseObject, error) {
	v, err := s.desk.Engines.View(ctx, user(ctx), r.Code, or(r.Params.Number))
	if err != nil {
		return nil, err
	}
	return api.GetEngine200JSONResponse(*v), nil
}

// NewSheetDraft starts the next version of a sheet.
func (s *Site) NewSheetDraft(ctx context.Context, r api.NewSheetDraftRequestObject) (api.NewSheetDraftResponseObject, error) {
	if err := s.desk.Engines.NewSheetDraft(ctx, user(ctx), r.Code, r.Body.Reason); err != nil {
		return nil, err
	}
	v, err := s.desk.Engines.View(ctx, user(ctx), r.Code, 0)
	if err != nil {
		return nil, err
	}
	return api.NewSheetDraft201JSONResponse(*v), nil
}

// mostEdits is how many edits one request may carry.
const mostEdits = 500

func countEdits(edits []engine.Edit, least int) error {
	if len(edits) < least || len(edits) > mostEdits {
		return &desk.Problem{Status: 422, Title: "A batch has between 1 and 500 edits."}
	}
	return nil
}

// LookSheet is the draft with edits not saved.
func (s *Site) LookSheet(ctx context.Context, r api.LookSheetRequestObject) (api.LookSheetResponseObject, error) {
	if err := countEdits(r.Body.Edits, 0); err != nil {
		return nil, err
	}
	v, err := s.desk.Engines.LookSheet(ctx, user(ctx), r.Code, r.Body.Edits)
	if err != nil {
		return nil, err
	}
	return api.LookSheet200JSONResponse(*v), nil
}

// ListSheetFields is how each value of a sheet is typed.
func (s *Site) ListSheetFields(context.Context, api.ListSheetFieldsRequestObject) (api.ListSheetFieldsResponseObject, error) {
	return api.ListSheetFields200JSONResponse(engine.Fields()), nil
}

// LeadLoop leads a loop over wheels of the draft.
func (s *Site) LeadLoop(ctx context.Context, r api.LeadLoopRequestObject) (api.LeadLoopResponseObject, error) {
	if len(r.Body.Wheels) > 100 {
		return nil, &desk.Problem{Status: 422, Title: "A loop runs over at most 100 wheels.", Field: "wheels"}
	}
	if k := engine.LoopKind(r.Body.Kind); k != engine.Belt && k != engine.Chain {
		return nil, &desk.Problem{Status: 422, Title: "A loop is a belt or a chain.", Field: "kind"}
	}
	var wheels []engine.WheelID
	for _, w := range r.Body.Wheels {
		wheels = append(wheels, engine.WheelID(w))
	}
	l, err := s.desk.Engines.Lead(ctx, user(ctx), r.Code, engine.LoopKind(r.Body.Kind), engine.LoopID(or(r.Body.Loop)), wheels)
	if err != nil {
		return nil, err
	}
	return api.LeadLoop200JSONResponse(*l), nil
}

// ReshapeSheet gives the edits that reshape the drive of the draft.
func (s *Site) ReshapeSheet(ctx context.Context, r api.ReshapeSheetRequestObject) (api.ReshapeSheetResponseObject, error) {
	edits, err := s.desk.Engines.Reshape(ctx, user(ctx), r.Code, layout.Reshape(r.Body.How))
	if err != nil {
		return nil, err
	}
	return api.ReshapeSheet200JSONResponse(edits), nil
}

// EditSheet saves edits.
func (s *Site) EditSheet(ctx context.Context, r api.EditSheetRequestObject) (api.EditSheetResponseObject, error) {
	if err := desk.MayWrite(user(ctx)); err != nil {
		return nil, err
	}
	if err := countEdits(r.Body.Edits, 1); err != nil {
		return nil, err
	}
	v, err := s.desk.Engines.SaveSheet(ctx, user(ctx), r.Code, desk.SheetBatch{Name: r.Body.Batch, Client: r.Body.Client, Base: r.Body.Base, Edits: r.Body.Edits})
	if err != nil {
		return nil, err
	}
	return api.EditSheet200JSONResponse(*v), nil
}

// UndoSheet takes back the last edit.
func (s *Site) UndoSheet(ctx context.Context, r api.UndoSheetRequestObject) (api.UndoSheetResponseObject, error) {
	v, err := s.desk.Engines.UndoSheet(ctx, user(ctx), r.Code, r.Body.Client, r.Body.Redo)
	if err != nil {
		return nil, err
	}
	return api.UndoSheet200JSONResponse(*v), nil
}

// ReleaseSheet puts the draft into use.
func (s *Site) ReleaseSheet(ctx context.Context, r api.ReleaseSheetRequestObject) (api.ReleaseSheetResponseObject, error) {
	v, err := s.desk.Engines.ReleaseSheet(ctx, user(ctx), r.Code, r.Body.Version)
	if err != nil {
		return nil, err
	}
	return api.ReleaseSheet200JSONResponse(*v), nil
}

// GetTouches lists what the draft touches.
func (s *Site) GetTouches(ctx context.Context, r api.GetTouchesRequestObject) (api.GetTouchesResponseObject, error) {
	changes, touches, err := s.desk.Engines.Touches(ctx, user(ctx), r.Code)
	if err != nil {
		return nil, err
	}
	return api.GetTouches200JSONResponse{Changes: changes, Procedures: touches}, nil
}

// GetReproof is how far the proof has come.
func (s *Site) GetReproof(ctx context.Context, r api.GetReproofRequestObject) (api.GetReproofResponseObject, error) {
	v, err := s.desk.Engines.Reproof(ctx, user(ctx), r.Code)
	if err != nil {
		return nil, err
	}
	return api.GetReproof200JSONResponse{Reproof: v}, nil
}

// CancelReproof stops it.
func (s *Site) CancelReproof(ctx context.Context, r api.CancelReproofRequestObject) (api.CancelReproofResponseObject, error) {
	if err := s.desk.Engines.CancelReproof(ctx, user(ctx), r.Code); err != nil {
		return nil, err
	}
	return api.CancelReproof204Response{}, nil
}

// ResolveCar settles a sheet's cases for one engine.
func (s *Site) ResolveCar(ctx context.Context, r api.ResolveCarRequestObject) (api.ResolveCarResponseObject, error) {
	out, err := s.desk.Drafts.Car(ctx, user(ctx), r.Code, or(r.Params.Number), *r.Body)
	if err != nil {
		return nil, err
	}
	return api.ResolveCar200JSONResponse(out), nil
}

// DrawEngine is the drive of a sheet as SVG.
func (s *Site) DrawEngine(ctx context.Context, r api.DrawEngineRequestObject) (api.DrawEngineResponseObject, error) {
	b, err := s.desk.Drafts.DrawEngine(ctx, user(ctx), r.Code, or(r.Params.Number), r.Params.Labels == nil || *r.Params.Labels)
	if err != nil {
		return nil, err
	}
	return api.DrawEngine200ImagesvgXmlResponse{Body: bytes.NewReader(b), ContentLength: int64(len(b))}, nil
}

// GetTurns is the turn plan of a revision.
func (s *Site) GetTurns(ctx context.Context, r api.GetTurnsRequestObject) (api.GetTurnsResponseObject, error) {
	rev, plan, err := s.desk.Drafts.Turns(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.GetTurns200JSONResponse{Meta: *rev.Meta, Drawing: *rev.Drawing, Plan: *plan}, nil
}

// GetDrill is a revision with the mistakes of the trade made on it.
func (s *Site) GetDrill(ctx context.Context, r api.GetDrillRequestObject) (api.GetDrillResponseObject, error) {
	meta, d, err := s.desk.Drills.Of(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.GetDrill200JSONResponse{Meta: *meta, Drill: *d}, nil
}

// CountDrill is what comes of the mistakes made on a revision.
func (s *Site) CountDrill(ctx context.Context, r api.CountDrillRequestObject) (api.CountDrillResponseObject, error) {
	v, err := s.desk.Drills.Count(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.CountDrill200JSONResponse(*v), nil
}

// ChangeDrill is which mistakes a revision catches no more, and which it catches now.
func (s *Site) ChangeDrill(ctx context.Context, r api.ChangeDrillRequestObject) (api.ChangeDrillResponseObject, error) {
	v, err := s.desk.Drills.Change(ctx, user(ctx), r.Revision, or(r.Params.Against))
	if err != nil {
		return nil, err
	}
	return api.ChangeDrill200JSONResponse(*v), nil
}

// PairDrill is pairs of mistakes that get through together.
func (s *Site) PairDrill(ctx context.Context, r api.PairDrillRequestObject) (api.PairDrillResponseObject, error) {
	v, err := s.desk.Drills.Pairs(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.PairDrill200JSONResponse(*v), nil
}

// FilmDrill is a mistake step by step.
func (s *Site) FilmDrill(ctx context.Context, r api.FilmDrillRequestObject) (api.FilmDrillResponseObject, error) {
	v, err := s.desk.Drills.Film(ctx, user(ctx), r.Revision, r.Params.Mistake)
	if err != nil {
		return nil, err
	}
	return api.FilmDrill200JSONResponse(*v), nil
}

// GetDrillMends is edits with which a revision catches a mistake.
func (s *Site) GetDrillMends(ctx context.Context, r api.GetDrillMendsRequestObject) (api.GetDrillMendsResponseObject, error) {
	ms, err := s.desk.Drills.Mends(ctx, user(ctx), r.Revision, r.Params.Mistake)
	if err != nil {
		return nil, err
	}
	return api.GetDrillMends200JSONResponse(ms), nil
}

// SettleDrill is edits with which a revision catches all that a page needs to catch.
func (s *Site) SettleDrill(ctx context.Context, r api.SettleDrillRequestObject) (api.SettleDrillResponseObject, error) {
	v, err := s.desk.Drills.Settle(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.SettleDrill200JSONResponse(*v), nil
}

// DrawRevision is the drive after a step as SVG.
func (s *Site) DrawRevision(ctx context.Context, r api.DrawRevisionRequestObject) (api.DrawRevisionResponseObject, error) {
	at := -1
	if r.Params.Step != nil {
		at = *r.Params.Step
	}
	b, err := s.desk.Drafts.Draw(ctx, user(ctx), r.Revision, at, r.Params.Labels == nil || *r.Params.Labels)
	if err != nil {
		return nil, err
	}
	return api.DrawRevision200ImagesvgXmlResponse{Body: bytes.NewReader(b), ContentLength: int64(len(b))}, nil
}

// WorkRim works degrees and millimetres on a rim out.
func (s *Site) WorkRim(_ context.Context, r api.WorkRimRequestObject) (api.WorkRimResponseObject, error) {
	a, err := desk.RimOf(*r.Body)
	if err != nil {
		return nil, err
	}
	return api.WorkRim200JSONResponse(*a), nil
}

// WorkClamp works out what a torque does to a bolt.
func (s *Site) WorkClamp(_ context.Context, r api.WorkClampRequestObject) (api.WorkClampResponseObject, error) {
	a, err := desk.ClampOf(*r.Body)
	if err != nil {
		return nil, err
	}
	return api.WorkClamp200JSONResponse(*a), nil
}

// WorkCourse works out what the stages of a fastener do to it.
func (s *Site) WorkCourse(_ context.Context, r api.WorkCourseRequestObject) (api.WorkCourseResponseObject, error) {
	a, err := desk.CourseOf(*r.Body)
	if err != nil {
		return nil, err
	}
	return api.WorkCourse200JSONResponse(*a), nil
}

// WorkConvert says what a value is in other units.
func (s *Site) WorkConvert(_ context.Context, r api.WorkConvertRequestObject) (api.WorkConvertResponseObject, error) {
	a, err := desk.ConvertOf(*r.Body)
	if err != nil {
		return nil, err
	}
	return api.WorkConvert200JSONResponse(*a), nil
}

// WorkPattern puts places of bolts in the order of a pattern.
func (s *Site) WorkPattern(_ context.Context, r api.WorkPatternRequestObject) (api.WorkPatternResponseObject, error) {
	return api.WorkPattern200JSONResponse(engine.Numbered(r.Body.Places, bolt.Pattern(r.Body.Pattern))), nil
}

// WorkWrench works out what a wrench is set to.
func (s *Site) WorkWrench(_ context.Context, r api.WorkWrenchRequestObject) (api.WorkWrenchResponseObject, error) {
	a, err := desk.WrenchOf(*r.Body)
	if err != nil {
		return nil, err
	}
	return api.WorkWrench200JSONResponse(*a), nil
}

// WorkTooth works a tooth error out.
func (s *Site) WorkTooth(_ context.Context, r api.WorkToothRequestObject) (api.WorkToothResponseObject, error) {
	a, err := desk.ToothOf(*r.Body)
	if err != nil {
		return nil, err
	}
	return api.WorkTooth200JSONResponse(*a), nil
}

// WorkDrops finds top dead centre from two equal drops.
func (s *Site) WorkDrops(_ context.Context, r api.WorkDropsRequestObject) (api.WorkDropsResponseObject, error) {
	a, err := desk.DropsOf(*r.Body)
	if err != nil {
		return nil, err
	}
	return api.WorkDrops200JSONResponse(*a), nil
}

// WorkNote judges the note of a run.
func (s *Site) WorkNote(_ context.Context, r api.WorkNoteRequestObject) (api.WorkNoteResponseObject, error) {
	a, err := desk.NoteOf(*r.Body)
	if err != nil {
		return nil, err
	}
	return api.WorkNote200JSONResponse(*a), nil
}
