package web

import (
	"context"
	"io"

	"inklatch/internal/desk"
	"inklatch/internal/web/api"
)

// BringOldPage reads a page that was written elsewhere for a draft, without saving anything.
func (s *Site) BringOldPage(ctx context.Context, r api.BringOldPageRequestObject) (api.BringOldPageResponseObject, error) {
	if err := desk.MayWrite(user(ctx)); err != nil {
		return nil, err
	}
	b, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, err
	}
	p, err := s.desk.Drafts.OldPage(ctx, user(ctx), r.Revision, r.Params.Name, b)
	if err != nil {
		return nil, err
	}
	return api.BringOldPage200JSONResponse(*p), nil
}
