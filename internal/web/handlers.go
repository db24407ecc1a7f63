package web

import (
	"bytes"
	"context"
	"errors"
	"io"
	"mime"

	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/desk"
	"inklatch/internal/desk/view"
	"inklatch/internal/store"
	"inklatch/internal/web/api"
)

// The contract, operation by operation. Problems travel as errors and become
// problem details in one place.

// MyDesk is what waits for the person.
func (s *Site) MyDesk(ctx context.Context, _ api.MyDeskRequestObject) (api.MyDeskResponseObject, error) {
	v, err := s.desk.Drafts.MyDesk(ctx, user(ctx))
	if err != nil {
		return nil, err
	}
	return api.MyDesk200JSONResponse{Tasks: v}, nil
}

// ListProcedures lists the procedures.
func (s *Site) ListProcedures(ctx context.Context, r api.ListProceduresRequestObject) (api.ListProceduresResponseObject, error) {
	p := r.Params
	q := desk.ListQuery{Filter: or(p.Filter), Down: or(p.Down), Offset: or(p.Offset), Limit: 100, Deleted: or(p.Deleted)}
	if p.Limit != nil {
		q.Limit = *p.Limit
	}
	if p.Sort != nil {
		q.Sort = store.ShelfSort(*p.Sort)
	}
	rows, total, err := s.desk.Drafts.Procedures(ctx, user(ctx), q)
	if err != nil {
		return nil, err
	}
	return api.ListProcedures200JSONResponse{Rows: rows, Total: total}, nil
}

// NewProcedure starts a procedure.
func (s *Site) NewProcedure(ctx context.Context, r api.NewProcedureRequestObject) (api.NewProcedureResponseObject, error) {
	id, err := s.desk.Drafts.NewProcedure(ctx, user(ctx), r.Body.Engine, r.Body.Title)
	if err != nil {
		return nil, err
	}
	return api.NewProcedure201JSONResponse{Revision: id}, nil
}

// NewDraft starts the next revision.
func (s *Site) NewDraft(ctx context.Context, r api.NewDraftRequestObject) (api.NewDraftResponseObject, error) {
	id, err := s.desk.Drafts.NewDraft(ctx, user(ctx), r.Procedure, r.Body.Reason, or(r.Body.From))
	if err != nil {
		return nil, err
	}
	return api.NewDraft201JSONResponse{Revision: id}, nil
}

// ImportFile reads a latch file.
func (s *Site) ImportFile(ctx context.Context, r api.ImportFileRequestObject) (api.ImportFileResponseObject, error) {
	if err := desk.MayWrite(user(ctx)); err != nil { // before a large file is taken in
		return nil, err
	}
	b, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, err
	}
	id, err := s.desk.Drafts.Import(ctx, user(ctx), b, desk.Bringing{Ours: or(r.Params.Sheet) == api.Ours, Anew: or(r.Params.Anew)})
	if err != nil {
		return nil, err
	}
	return api.ImportFile201JSONResponse{Revision: id}, nil
}

// GetRevision opens a revision.
func (s *Site) GetRevision(ctx context.Context, r api.GetRevisionRequestObject) (api.GetRevisionResponseObject, error) {
	// When somebody saves, all who have the page open read it again at once: they take
	// turns, so that the next save does not stand in their line.
	select {
	case s.turns <- struct{}{}:
		defer func() { <-s.turns }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	rev, err := s.desk.Drafts.Revision(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return revisionAnswer{rev}, nil
}

// Look runs a revision with edits not saved yet.
func (s *Site) Look(ctx context.Context, r api.LookRequestObject) (api.LookResponseObject, error) {
	line := ""
	if r.Body.Line != nil {
		line = *r.Body.Line
	}
	var edits []api.Edit
	if r.Body.Edits != nil {
		edits = *r.Body.Edits
	}
	v, reading, completions, err := s.desk.Drafts.Look(ctx, user(ctx), r.Revision, edits, line, (*step.ID)(r.Body.After), view.Place{Turns: or(r.Body.From), Car: or(r.Body.Car)})
	if err != nil {
		return nil, err
	}
	if completions == nil {
		completions = []quickline.Completion{}
	}
	return api.Look200JSONResponse{View: v, Reading: reading, Completions: completions}, nil
}

// ReadLines turns lines into steps.
func (s *Site) ReadLines(ctx context.Context, r api.ReadLinesRequestObject) (api.ReadLinesResponseObject, error) {
	var here step.Phase
	if r.Body.Phase != nil {
		here = step.Phase(*r.Body.Phase)
	}
	out, err := s.desk.Drafts.Read(ctx, user(ctx), r.Revision, r.Body.Text, here)
	if err != nil {
		return nil, err
	}
	return api.ReadLines200JSONResponse(out), nil
}

// StepBolts says what a step does to the fasteners it tightens.
func (s *Site) StepBolts(ctx context.Context, r api.StepBoltsRequestObject) (api.StepBoltsResponseObject, error) {
	out, err := s.desk.Drafts.Bolts(ctx, user(ctx), r.Revision, &r.Body.Step)
	if err != nil {
		return nil, err
	}
	return api.StepBolts200JSONResponse(out), nil
}

// Edit saves edits.
func (s *Site) Edit(ctx context.Context, r api.EditRequestObject) (api.EditResponseObject, error) {
	if err := desk.MayWrite(user(ctx)); err != nil {
		return nil, err
	}
	if n := len(r.Body.Edits); n == 0 || n > mostEdits {
		return nil, &desk.Problem{Status: 422, Title: "A batch has between 1 and 500 edits."}
	}
	saved, err := s.desk.Drafts.Save(ctx, user(ctx), r.Revision, desk.Batch{Name: r.Body.Batch, Client: r.Body.Client, Base: r.Body.Base, Edits: r.Body.Edits})
	var clash *desk.Clash
	if errors.As(err, &clash) {
		return api.Edit409JSONResponse{Title: clash.Error(), Version: clash.Version, Steps: clash.Steps}, nil
	}
	if err != nil {
		return nil, err
	}
	return savedAnswer{saved}, nil
}

// Undo takes back the last edit.
func (s *Site) Undo(ctx context.Context, r api.UndoRequestObject) (api.UndoResponseObject, error) {
	saved, err := s.desk.Drafts.Undo(ctx, user(ctx), r.Revision, r.Body.Client, r.Body.Redo)
	if err != nil {
		return nil, err
	}
	return savedAnswer{saved}, nil
}

// CloseLatch closes a latch.
func (s *Site) CloseLatch(ctx context.Context, r api.CloseLatchRequestObject) (api.CloseLatchResponseObject, error) {
	m, err := s.desk.Review.CloseLatch(ctx, user(ctx), r.Revision, latch.Latch(r.Latch), r.Body.Version)
	if err != nil {
		return nil, err
	}
	return api.CloseLatch200JSONResponse(*m), nil
}

// GetRecord lists what was done.
func (s *Site) GetRecord(ctx context.Context, r api.GetRecordRequestObject) (api.GetRecordResponseObject, error) {
	out, err := s.desk.Review.Record(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.GetRecord200JSONResponse(out), nil
}

// GetSheet is the printed sheet.
func (s *Site) GetSheet(ctx context.Context, r api.GetSheetRequestObject) (api.GetSheetResponseObject, error) {
	sheet, err := s.desk.Drafts.Sheet(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.GetSheet200JSONResponse(*sheet), nil
}

// GetVersions is the timeline of a procedure.
func (s *Site) GetVersions(ctx context.Context, r api.GetVersionsRequestObject) (api.GetVersionsResponseObject, error) {
	v, err := s.desk.Drafts.Versions(ctx, user(ctx), r.Revision, or(r.Params.On))
	if err != nil {
		return nil, err
	}
	return api.GetVersions200JSONResponse(*v), nil
}

// GetRedline is what lies between an earlier revision and one.
func (s *Site) GetRedline(ctx context.Context, r api.GetRedlineRequestObject) (api.GetRedlineResponseObject, error) {
	v, err := s.desk.Review.Redline(ctx, user(ctx), r.Revision, or(r.Params.Against))
	if err != nil {
		return nil, err
	}
	return api.GetRedline200JSONResponse(*v), nil
}

// ExportFile is the revision as a file.
func (s *Site) ExportFile(ctx context.Context, r api.ExportFileRequestObject) (api.ExportFileResponseObject, error) {
	b, name, err := s.desk.Drafts.Export(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	disposition := mime.FormatMediaType("attachment", map[string]string{"filename": name})
	return api.ExportFile200ApplicationoctetStreamResponse{
		Body: bytes.NewReader(b), ContentLength: int64(len(b)),
		Headers: api.ExportFile200ResponseHeaders{ContentDisposition: &disposition},
	}, nil
}

// ReadField reads what was typed into a field of a step.
func (s *Site) ReadField(_ context.Context, r api.ReadFieldRequestObject) (api.ReadFieldResponseObject, error) {
	if len(r.Body.Text) > 4000 {
		return nil, &desk.Problem{Status: 422, Title: "That is too long for a field.", Field: "text"}
	}
	f, err := step.ReadField(step.Verb(r.Verb), r.Field, r.Body.Text)
	if err != nil {
		return nil, &desk.Problem{Status: 404, Title: "No verb has such a field to type into."}
	}
	return api.ReadField200JSONResponse(f), nil
}

// ListVerbs is the catalogue of verbs and phases.
func (s *Site) ListVerbs(context.Context, api.ListVerbsRequestObject) (api.ListVerbsResponseObject, error) {
	out := api.ListVerbs200JSONResponse{}
	for _, v := range step.Specs {
		out.Verbs = append(out.Verbs, *v)
	}
	for _, p := range step.Phases {
		out.Phases = append(out.Phases, struct {
			Id   string `json:"id"`
			Name string `json:"name"`
		}{string(p.Phase), p.Name})
	}
	return out, nil
}

// DeleteDraft deletes a draft.
func (s *Site) DeleteDraft(ctx context.Context, r api.DeleteDraftRequestObject) (api.DeleteDraftResponseObject, error) {
	if err := s.desk.Drafts.Delete(ctx, user(ctx), r.Revision); err != nil {
		return nil, err
	}
	return api.DeleteDraft204Response{}, nil
}

// BringBack brings a deleted draft back.
func (s *Site) BringBack(ctx context.Context, r api.BringBackRequestObject) (api.BringBackResponseObject, error) {
	id, err := s.desk.Drafts.BringBack(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.BringBack200JSONResponse{Revision: id}, nil
}
