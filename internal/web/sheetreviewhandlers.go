package web

import (
	"context"

	"inklatch/internal/web/api"
)

// ReviewSheet lays out what the draft of a sheet changes.
func (s *Site) ReviewSheet(ctx context.Context, r api.ReviewSheetRequestObject) (api.ReviewSheetResponseObject, error) {
	v, err := s.desk.Engines.ReviewSheet(ctx, user(ctx), r.Code)
	if err != nil {
		return nil, err
	}
	return api.ReviewSheet200JSONResponse(*v), nil
}

// MarkSheet marks things of a draft of a sheet as read.
func (s *Site) MarkSheet(ctx context.Context, r api.MarkSheetRequestObject) (api.MarkSheetResponseObject, error) {
	v, err := s.desk.Engines.MarkSheet(ctx, user(ctx), r.Code, *r.Body)
	if err != nil {
		return nil, err
	}
	return api.MarkSheet200JSONResponse(*v), nil
}

// SaySheet says something of a draft of a sheet.
func (s *Site) SaySheet(ctx context.Context, r api.SaySheetRequestObject) (api.SaySheetResponseObject, error) {
	if err := s.desk.Engines.SaySheet(ctx, user(ctx), r.Code, *r.Body); err != nil {
		return nil, err
	}
	return api.SaySheet204Response{}, nil
}

// AskSheet asks for a draft of a sheet to be looked at.
func (s *Site) AskSheet(ctx context.Context, r api.AskSheetRequestObject) (api.AskSheetResponseObject, error) {
	if err := s.desk.Engines.AskSheet(ctx, user(ctx), r.Code); err != nil {
		return nil, err
	}
	return api.AskSheet204Response{}, nil
}

// ReturnSheet sends a draft of a sheet back.
func (s *Site) ReturnSheet(ctx context.Context, r api.ReturnSheetRequestObject) (api.ReturnSheetResponseObject, error) {
	if err := s.desk.Engines.ReturnSheet(ctx, user(ctx), r.Code, r.Body.Points); err != nil {
		return nil, err
	}
	return api.ReturnSheet204Response{}, nil
}
