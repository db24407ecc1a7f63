package web

import (
	"bytes"
	"context"
	"io"

	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/web/api"
)

// MarkRead marks steps as read.
func (s *Site) MarkRead(ctx context.Context, r api.MarkReadRequestObject) (api.MarkReadResponseObject, error) {
	v, err := s.desk.Review.MarkRead(ctx, user(ctx), r.Revision, *r.Body)
	if err != nil {
		return nil, err
	}
	return api.MarkRead200JSONResponse(*v), nil
}

// Say says something of a revision.
func (s *Site) Say(ctx context.Context, r api.SayRequestObject) (api.SayResponseObject, error) {
	v, err := s.desk.Review.Say(ctx, user(ctx), r.Revision, *r.Body)
	if err != nil {
		return nil, err
	}
	return api.Say200JSONResponse(*v), nil
}

// AnswerRemark answers a remark or does something with it.
func (s *Site) AnswerRemark(ctx context.Context, r api.AnswerRemarkRequestObject) (api.AnswerRemarkResponseObject, error) {
	if err := s.desk.Review.AnswerRemark(ctx, user(ctx), r.Remark, *r.Body); err != nil {
		return nil, err
	}
	return api.AnswerRemark204Response{}, nil
}

// ReturnRevision sends a revision back to its author.
func (s *Site) ReturnRevision(ctx context.Context, r api.ReturnRevisionRequestObject) (api.ReturnRevisionResponseObject, error) {
	if err := s.desk.Review.Return(ctx, user(ctx), r.Revision, r.Body.Points); err != nil {
		return nil, err
	}
	return api.ReturnRevision204Response{}, nil
}

// Withdraw takes a release back.
func (s *Site) Withdraw(ctx context.Context, r api.WithdrawRequestObject) (api.WithdrawResponseObject, error) {
	if err := s.desk.Review.Withdraw(ctx, user(ctx), r.Revision, r.Body.Reason); err != nil {
		return nil, err
	}
	return api.Withdraw204Response{}, nil
}

// Arrange sets by when a latch is to close and who closes it.
func (s *Site) Arrange(ctx context.Context, r api.ArrangeRequestObject) (api.ArrangeResponseObject, error) {
	if err := s.desk.Review.Arrange(ctx, user(ctx), r.Revision, latch.Latch(r.Latch), *r.Body); err != nil {
		return nil, err
	}
	return api.Arrange204Response{}, nil
}

// ListColleagues lists those who work on pages.
func (s *Site) ListColleagues(ctx context.Context, _ api.ListColleaguesRequestObject) (api.ListColleaguesResponseObject, error) {
	v, err := s.desk.Review.Colleagues(ctx, user(ctx))
	if err != nil {
		return nil, err
	}
	return api.ListColleagues200JSONResponse(v), nil
}

// ListFieldNotes lists the field notes of a procedure.
func (s *Site) ListFieldNotes(ctx context.Context, r api.ListFieldNotesRequestObject) (api.ListFieldNotesResponseObject, error) {
	v, err := s.desk.Review.FieldNotes(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.ListFieldNotes200JSONResponse(v), nil
}

// AddFieldNote keeps what a reader says was wrong.
func (s *Site) AddFieldNote(ctx context.Context, r api.AddFieldNoteRequestObject) (api.AddFieldNoteResponseObject, error) {
	v, err := s.desk.Review.AddFieldNote(ctx, user(ctx), r.Revision, *r.Body)
	if err != nil {
		return nil, err
	}
	return api.AddFieldNote200JSONResponse(*v), nil
}

// AddPhoto puts a photo to a field note.
func (s *Site) AddPhoto(ctx context.Context, r api.AddPhotoRequestObject) (api.AddPhotoResponseObject, error) {
	b, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, err
	}
	if err := s.desk.Review.AddPhoto(ctx, user(ctx), r.Note, b); err != nil {
		return nil, err
	}
	return api.AddPhoto204Response{}, nil
}

// GetPhoto is the photo of a field note.
func (s *Site) GetPhoto(ctx context.Context, r api.GetPhotoRequestObject) (api.GetPhotoResponseObject, error) {
	b, kind, err := s.desk.Review.Photo(ctx, user(ctx), r.Note)
	if err != nil {
		return nil, err
	}
	return api.GetPhoto200ImageResponse{Body: bytes.NewReader(b), ContentType: kind, ContentLength: int64(len(b))}, nil
}

// AnswerFieldNote answers a field note.
func (s *Site) AnswerFieldNote(ctx context.Context, r api.AnswerFieldNoteRequestObject) (api.AnswerFieldNoteResponseObject, error) {
	if err := s.desk.Review.AnswerFieldNote(ctx, user(ctx), r.Note, *r.Body); err != nil {
		return nil, err
	}
	return api.AnswerFieldNote204Response{}, nil
}

// GetEngines draws the engine after a step, now and in the earlier state.
func (s *Site) GetEngines(ctx context.Context, r api.GetEnginesRequestObject) (api.GetEnginesResponseObject, error) {
	v, err := s.desk.Engines.EnginesBeside(ctx, user(ctx), r.Revision, or(r.Params.Against), step.ID(or(r.Params.Step)))
	if err != nil {
		return nil, err
	}
	return api.GetEngines200JSONResponse(*v), nil
}

// CopyPage copies a page to another engine code, or tries to.
func (s *Site) CopyPage(ctx context.Context, r api.CopyPageRequestObject) (api.CopyPageResponseObject, error) {
	v, err := s.desk.Drafts.Copy(ctx, user(ctx), r.Revision, *r.Body)
	if err != nil {
		return nil, err
	}
	return api.CopyPage200JSONResponse(*v), nil
}

// PlanChange finds where a term or value stands and what changing it would do.
func (s *Site) PlanChange(ctx context.Context, r api.PlanChangeRequestObject) (api.PlanChangeResponseObject, error) {
	v, err := s.desk.Engines.PlanChange(ctx, user(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return api.PlanChange200JSONResponse(*v), nil
}

// ChangeOn changes a term or value on one page or sheet.
func (s *Site) ChangeOn(ctx context.Context, r api.ChangeOnRequestObject) (api.ChangeOnResponseObject, error) {
	v, err := s.desk.Engines.ChangeOn(ctx, user(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return api.ChangeOn200JSONResponse(*v), nil
}

// PlanRelease is what the release of a revision would do.
func (s *Site) PlanRelease(ctx context.Context, r api.PlanReleaseRequestObject) (api.PlanReleaseResponseObject, error) {
	v, err := s.desk.Review.PlanRelease(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.PlanRelease200JSONResponse(*v), nil
}

// ReleaseRevision releases a revision.
func (s *Site) ReleaseRevision(ctx context.Context, r api.ReleaseRevisionRequestObject) (api.ReleaseRevisionResponseObject, error) {
	v, err := s.desk.Review.Release(ctx, user(ctx), r.Revision, r.Body.Version)
	if err != nil {
		return nil, err
	}
	return api.ReleaseRevision200JSONResponse(*v), nil
}
