package web

import (
	"context"
	"io"

	"inklatch/internal/desk"
	"inklatch/internal/web/api"
)

// ListRecord lists entries of the record.
func (s *Site) ListRecord(ctx context.Context, r api.ListRecordRequestObject) (api.ListRecordResponseObject, error) {
	p := r.Params
	a := desk.RecordAsk{Person: or(p.Person), Procedure: or(p.Procedure), Engine: or(p.Engine), Kind: or(p.Kind), From: or(p.From), Until: or(p.Until), Before: or(p.Before), Limit: 100}
	if p.Limit != nil {
		a.Limit = *p.Limit
	}
	v, err := s.desk.Review.RecordOf(ctx, user(ctx), a)
	if err != nil {
		return nil, err
	}
	return api.ListRecord200JSONResponse(v), nil
}

// ExportRecord is the whole record as JSON lines, written as it is read.
func (s *Site) ExportRecord(ctx context.Context, _ api.ExportRecordRequestObject) (api.ExportRecordResponseObject, error) {
	u := user(ctx)
	if err := desk.MayExportRecord(u); err != nil {
		return nil, err
	}
	in, out := io.Pipe()
	go func() { out.CloseWithError(s.desk.Review.ExportRecord(ctx, u, out)) }()
	return api.ExportRecord200ApplicationoctetStreamResponse{Body: in}, nil
}

// FindUses finds where something is used.
func (s *Site) FindUses(ctx context.Context, r api.FindUsesRequestObject) (api.FindUsesResponseObject, error) {
	v, err := s.desk.Engines.Where(ctx, user(ctx), r.Params.Q, or(r.Params.Kind), or(r.Params.Engine))
	if err != nil {
		return nil, err
	}
	return api.FindUses200JSONResponse(*v), nil
}
